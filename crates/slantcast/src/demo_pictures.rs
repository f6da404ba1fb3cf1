//! `slantcast demo-pictures`: takes the demo's pictures of its sets in the stand-in studio and writes
//! their marks. Run when the studio or the sets change; the small files are committed.

use crate::Failure;
use crate::studio_verb::load_set;
use evidence::marks::{Cast, Mark, MarkKind, Patch, PatchRole, ShadowOn};
use lightset::set::{Level, LightSet, Subject, SubjectKind};
use std::path::Path;

/// Patches on the cheeks of the first head: the side the first light comes from is lit.
fn cheeks(set: &LightSet) -> Vec<Mark> {
    let head = set.subjects.iter().find(|s| s.kind.is_head());
    let (Some(head), Some(key)) = (head, set.lights.first()) else { return Vec::new() };
    let toward = if key.position().x >= 0.0 { 1.0 } else { -1.0 };
    [("cheek-lit", PatchRole::Lit, toward), ("cheek-shadow", PatchRole::Shadow, -toward)]
        .into_iter()
        .filter_map(|(id, role, side)| {
            let ([x, y], k) = studio::project(set, studio::in_set(head, [side * 0.046, -0.048, -0.004]))?;
            let h = 0.007 * k;
            let polygon =
                [[x - h, y - h], [x + h, y - h], [x + h, y + h], [x - h, y + h]].map(|p| p.map(f64::round)).to_vec();
            Some(Mark {
                id: id.into(),
                off: false,
                kind: MarkKind::Patch(Patch { role, polygon }),
                other: Default::default(),
            })
        })
        .collect()
}

/// A point of a thing whose shadow is marked, in the thing's own frame, metres: the tin's upper corner away from its light, the top of the
/// shoe's heel.
fn casts(kind: SubjectKind) -> Option<[f64; 3]> {
    match kind {
        SubjectKind::Tin => Some([0.076, 0.047, -0.026]),
        SubjectKind::Shoe => Some([0.118, 0.085, 0.0]),
        _ => None,
    }
}

/// Where the first light throws such a point's shadow on the table, as a careful person would mark it.
fn shadows(set: &LightSet) -> Vec<Mark> {
    let floor = -set.floor_m();
    let Some(key) = set.lights.first() else { return Vec::new() };
    let cast = |s: &Subject| {
        let top = optics::geometry::Vec3::from(studio::in_set(s, casts(s.kind)?));
        let from = key.position();
        let tip = top + (top - from) * ((top.y - floor) / (from.y - top.y));
        let at = |p: [f64; 3]| Some(studio::project(set, p)?.0.map(f64::round));
        let (base, top, tip) = (at([top.x, floor, top.z])?, at(top.into())?, at(tip.into())?);
        let kind = MarkKind::Cast(Cast { base, top, tip, height_m: None, on: ShadowOn::Floor });
        Some(Mark { id: "shadow-1".into(), off: false, kind, other: Default::default() })
    };
    set.subjects.iter().filter_map(cast).collect()
}

/// Sets of which plates are taken: a picture for each lamp, one with none, one with all; and the lamp whose picture is taken with the
/// camera nudged aside, if any.
const PLATES: [(&str, Option<usize>); 2] = [("elixir", None), ("seven-mile-shoe", Some(1))];
/// How far it is nudged, metres: a few pixels.
const NUDGED_M: f64 = 0.0016;

/// Takes the plates of a set.
fn plates(set: &LightSet, name: &str, nudged: Option<usize>, folder: &Path) -> Result<(), Failure> {
    let write = |set: &LightSet, what: &str| {
        let rgb = studio::encode(&studio::picture(set).map_err(Failure::Input)?, &set.picture);
        let jpeg = ::pictures::encode_jpeg(set.picture.width, set.picture.height, &rgb, 92)
            .map_err(|e| Failure::Input(e.to_string()))?;
        std::fs::write(folder.join(format!("{name}-{what}.jpg")), jpeg).map_err(|e| Failure::Other(e.into()))
    };
    let with = |lit: &dyn Fn(usize) -> bool, seed: u32| {
        let mut s = set.clone();
        s.lights.iter_mut().enumerate().for_each(|(i, l)| l.off = !lit(i));
        s.picture.seed = seed;
        s
    };
    for (i, l) in set.lights.iter().enumerate() {
        let mut s = with(&|k| k == i, i as u32 + 1);
        if nudged == Some(i) {
            s.camera.position_m[0] += NUDGED_M;
            s.camera.aim_m[0] += NUDGED_M;
        }
        write(&s, &l.name.replace(' ', "-"))?;
    }
    write(&with(&|_| false, 90), "dark")?;
    write(&with(&|_| true, 91), "all")
}

/// The set of which a series is taken: each view's name, how the thing is turned, how much further the camera stands, and how many
/// stops more are let in.
const SERIES: (&str, [(&str, f64, f64, f64); 6]) = (
    "seven-mile-shoe",
    [
        ("outer", 0.0, 1.0, 0.0),
        ("inner", 180.0, 1.0, 0.0),
        ("outer-angle", 45.0, 1.0, 0.0),
        ("inner-angle", 135.0, 1.12, 0.0),
        ("front", 90.0, 1.0, 0.6),
        ("back", -90.0, 1.0, 0.0),
    ],
);
/// Height of the lens over the thing, metres, as for a catalogue; and the pictures' longer side.
const SERIES_HEIGHT_M: f64 = 0.06;
const SERIES_SIDE: u32 = 900;

/// Takes the series of a set.
fn series(set: &LightSet, name: &str, folder: &Path) -> Result<(), Failure> {
    for (seed, (view, yaw, further, stops)) in SERIES.1.into_iter().enumerate() {
        let mut s = set.clone();
        s.subjects[0].yaw_deg = yaw;
        s.camera.position_m[1] = SERIES_HEIGHT_M;
        s.camera.position_m[2] *= 1.15 * further;
        s.camera.aim_m[1] = 0.012;
        let more = |l: &mut Level| {
            if let Level::Stops { stops: s } = l {
                *s += stops;
            }
        };
        s.lights.iter_mut().for_each(|l| more(&mut l.level));
        if let Some(a) = &mut s.ambient {
            more(&mut a.level);
        }
        (s.picture.width, s.picture.height) = (SERIES_SIDE * 4 / 5, SERIES_SIDE);
        s.picture.seed = 200 + seed as u32;
        let rgb = studio::encode(&studio::picture(&s).map_err(Failure::Input)?, &s.picture);
        let jpeg = ::pictures::encode_jpeg(s.picture.width, s.picture.height, &rgb, 90)
            .map_err(|e| Failure::Input(e.to_string()))?;
        std::fs::write(folder.join(format!("{name}-{view}.jpg")), jpeg).map_err(|e| Failure::Other(e.into()))?;
    }
    Ok(())
}

pub(crate) fn run(sets: &Path, folder: &Path, only: &str) -> Result<(), Failure> {
    std::fs::create_dir_all(folder).map_err(anyhow::Error::from)?;
    let mut files: Vec<_> = std::fs::read_dir(sets)
        .map_err(|e| Failure::Input(format!("{}: {e}", sets.display())))?
        .filter_map(|f| f.ok().map(|f| f.path()))
        .filter(|p| p.extension().is_some_and(|e| e == "json"))
        .collect();
    files.sort();
    for file in files {
        let name = file.file_stem().and_then(|n| n.to_str()).unwrap_or_default().to_owned();
        if !only.is_empty() && !only.split(',').any(|o| o == name) {
            continue;
        }
        let set = load_set(&file)?;
        let start = std::time::Instant::now();
        let rgb = studio::encode(&studio::picture(&set).map_err(Failure::Input)?, &set.picture);
        let jpeg = ::pictures::encode_jpeg(set.picture.width, set.picture.height, &rgb, 90)
            .map_err(|e| Failure::Input(e.to_string()))?;
        let mut marks = studio::marks(&set);
        marks.marks.extend(cheeks(&set));
        marks.marks.extend(shadows(&set));
        let write = |ext: &str, bytes: &[u8]| std::fs::write(folder.join(format!("{name}.{ext}")), bytes);
        write("jpg", &jpeg).map_err(anyhow::Error::from)?;
        let json = serde_json::to_string_pretty(&marks).map_err(anyhow::Error::from)? + "\n";
        write("json", json.as_bytes()).map_err(anyhow::Error::from)?;
        if let Some((_, nudged)) = PLATES.iter().find(|p| p.0 == name) {
            let folder = folder.join("plates");
            std::fs::create_dir_all(&folder).map_err(anyhow::Error::from)?;
            plates(&set, &name, *nudged, &folder)?;
        }
        if SERIES.0 == name {
            let folder = folder.join("series");
            std::fs::create_dir_all(&folder).map_err(anyhow::Error::from)?;
            series(&set, &name, &folder)?;
        }
        println!("{name} in {:.1} s", start.elapsed().as_secs_f64());
    }
    Ok(())
}
