//! A picture and its marks to a reading.

use evidence::bracket::{Merged, merge, recover};
use evidence::marks::Marks;
use evidence::read::{Memory, Stop, read, read_again};
use evidence::readings::Readings;
use lightset::set::{AmbientLight, Level, MOST_ROWS, RoomMap};
use optics::light_map::LightMap;
use optics::photo::{Meter, Photo};
use optics::tone::Encoding;
use pictures::Facts;

/// Marks with the encoding their picture is read under: what they declare themselves; else linear for a file whose values
/// are proportional to light; else the tone curve found for the camera, if there is one.
pub fn told(marks: &Marks, facts: &Facts, curve: Option<&Encoding>) -> Marks {
    let mut marks = marks.clone();
    if marks.encoding.is_none() {
        marks.encoding = if facts.linear { Some(Encoding::Linear) } else { curve.cloned() };
    }
    marks
}

/// The picture as it is read: through the curve its grey steps tell, or its marks declare.
pub fn as_read(photo: &Photo, told: &Marks) -> Photo {
    // samples are shared: what is copied is a table
    evidence::read::as_read(photo, told).into_owned()
}

/// A light map as a file: a panorama seen from the subject, the lens in the middle.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum MapFile {
    /// OpenEXR.
    Exr,
    /// Radiance HDR.
    Hdr,
}

impl MapFile {
    /// By the ending of a file's name: `exr` or `hdr`.
    pub fn named(ending: &str) -> Option<MapFile> {
        match ending {
            "exr" => Some(MapFile::Exr),
            "hdr" => Some(MapFile::Hdr),
            _ => None,
        }
    }

    /// Ending of its name, and media type.
    pub fn kind(self) -> (&'static str, &'static str) {
        match self {
            MapFile::Exr => ("exr", "image/x-exr"),
            MapFile::Hdr => ("hdr", "image/vnd.radiance"),
        }
    }
}

/// The light of the whole room, as a mirror ball in the picture shows it, as a file; `None` if none shows one.
///
/// # Errors
/// A sentence if the file cannot be written.
pub fn light_map(photo: &Photo, told: &Marks, file: MapFile) -> Option<Result<Vec<u8>, pictures::Refusal>> {
    let map = evidence::read::light_map(photo, told)?;
    let (w, h) = (map.columns() as u32, map.rows() as u32);
    let rgb = map.cells().iter().flatten().copied().collect();
    Some(match file {
        MapFile::Exr => pictures::encode_exr(w, h, rgb),
        MapFile::Hdr => pictures::encode_hdr(w, h, rgb),
    })
}

/// The room of a picture as light for a set, as strong as the picture shows it: what a mirror ball in it mirrors, or, where the
/// picture is itself a panorama of linear light (twice as wide as high), that.
pub fn room(photo: &Photo, told: &Marks) -> Option<AmbientLight> {
    let panorama = || {
        let size = (photo.width() as usize, photo.height() as usize);
        let pixel = |x: usize, y: usize| photo.rgb(x as u32, y as u32);
        photo.is_linear().then(|| LightMap::of_panorama(size, pixel, MOST_ROWS)).flatten()
    };
    let map = evidence::read::light_map(photo, told).or_else(panorama)?;
    let mean = map.mean().1 / (4.0 * std::f64::consts::PI);
    let stops = if mean > 0.0 { mean.log2().clamp(-20.0, 20.0) } else { return None };
    Some(AmbientLight { level: Level::Stops { stops }, cct_k: None, map: Some(RoomMap::of(&map)) })
}

/// One linear picture out of a bracketed series with relative exposures; frames that are not linear are read through the curve
/// that the series itself gives.
///
/// # Errors
/// A sentence.
pub fn merged(series: &[(&Photo, f64)]) -> Result<Merged, String> {
    let say = |e: evidence::bracket::BracketProblem| format!("Not merged: {e}.");
    if series.iter().all(|(p, _)| p.is_linear()) {
        return merge(series).map_err(say);
    }
    let curve = recover(series).map_err(say)?.encoding();
    let read: Vec<(Photo, f64)> =
        series.iter().map(|(p, x)| (if p.is_linear() { (*p).clone() } else { p.under(&curve) }, *x)).collect();
    merge(&read.iter().map(|(p, x)| (p, *x)).collect::<Vec<_>>()).map_err(say)
}

/// A picture that was read: everything a comparison needs.
#[derive(Debug, Clone)]
pub struct PictureRead {
    /// The picture as it was read.
    pub photo: Photo,
    /// The marks as they were read (see [`told`]).
    pub marks: Marks,
    /// What they say.
    pub readings: Readings,
}

impl PictureRead {
    /// Reads a picture through marks made ready by [`told`].
    pub fn of(photo: &Photo, meter: Option<&Meter>, told: Marks) -> PictureRead {
        let readings = read(photo, &told, meter, &studio::stand_ins);
        PictureRead::kept(photo, told, readings)
    }

    /// As [`PictureRead::of`], but only the reading, and stopped when `stop` says so.
    pub fn reading(photo: &Photo, meter: Option<&Meter>, told: &Marks, stop: Stop) -> Readings {
        let mut memory = Memory::default();
        memory.stop_when(stop);
        PictureRead::again(photo, meter, told, &mut memory, false)
    }

    /// Goes on from the last reading of the same picture while a mark is dragged; `full` reads all anew.
    pub fn again(photo: &Photo, meter: Option<&Meter>, told: &Marks, memory: &mut Memory, full: bool) -> Readings {
        if full {
            memory.settle();
        }
        read_again(photo, told, meter, &studio::stand_ins, memory)
    }

    /// A picture whose reading was kept.
    pub fn kept(photo: &Photo, told: Marks, readings: Readings) -> PictureRead {
        PictureRead { photo: as_read(photo, &told), marks: told, readings }
    }
}
