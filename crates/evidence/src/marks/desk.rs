//! The desk at which one mark is read: the picture, what is known of it, what other marks have shown; and what the mark
//! gives.

use super::{Mark, Marks, PatchRole};
use crate::readings::*;
use crate::wedge;
use direction::face::{self, Hint, StandIn};
use direction::fusion::Evidence;
use direction::{Seen, ball_matte, room};
use optics::colour::cct_of_rgb;
use optics::geometry::{AzEl, Camera, Vec3, clock_of};
use optics::photo::Photo;
use optics::words::capital;
use std::sync::Arc;

/// Brings stand-in heads: making them takes a while, and many pictures have no face.
pub type Heads<'a> = &'a (dyn Fn() -> &'static [StandIn] + Sync);

/// Tone curves of the wedges of a picture, by their marks.
pub(crate) type Curves = Vec<(String, Result<wedge::Curve, wedge::WedgeProblem>)>;

/// Directions of a face's lights, and what each gives at places of the face.
pub(crate) struct Shading {
    pub(crate) lights: Vec<Vec3>,
    pub(crate) places: Vec<face::Shaded>,
}

/// What one mark gave.
#[derive(Clone, Default)]
pub(crate) struct Gathered {
    pub(crate) reading: MarkReading,
    pub(crate) evidence: Vec<Evidence>,
    pub(crate) ambient: Option<(f64, f64)>,
    /// What it is at most, where it is too weak to be told.
    pub(crate) ambient_most: Option<f64>,
    pub(crate) patch: Option<(PatchRole, PatchReading)>,
    pub(crate) warnings: Vec<Warning>,
    /// Natural log of an angular size without a direction, with its standard deviation.
    pub(crate) size: Option<(f64, f64)>,
    /// Angle round the picture from image right, anticlockwise, with its standard deviation, radians.
    pub(crate) clock: Option<(f64, f64)>,
    pub(crate) balls: Option<ball_matte::Start>,
    /// A mirror ball, in which a whole room may be seen.
    pub(crate) mirror: Option<room::Outline>,
    /// The last reading of a face, from which the next goes on.
    pub(crate) face: Option<Box<face::FaceReading>>,
    /// The light of the whole room, as a face tells it.
    pub(crate) around: Option<Arc<face::Around>>,
    /// What the lights of a face, by their directions, give at places of it.
    pub(crate) shading: Option<Arc<Shading>>,
    /// What other marks had seen when it was read.
    pub(crate) hints: Vec<face::Hint>,
}

pub(crate) fn round(v: f64, digits: i32) -> f64 {
    let k = 10f64.powi(digits);
    let r = (v * k).round() / k;
    if r == 0.0 { 0.0 } else { r }
}

pub(crate) fn degrees(rad: f64) -> f64 {
    round(rad.to_degrees(), 2)
}

/// Stops of a natural logarithm.
pub(crate) fn stops(ln: f64) -> f64 {
    ln / std::f64::consts::LN_2
}

/// Where one mark is read.
pub struct Desk<'a> {
    /// The picture, under the encoding it is read through.
    pub photo: &'a Photo,
    /// All marks of the picture.
    pub marks: &'a Marks,
    /// The camera it is read with.
    pub camera: Camera,
    /// Whether the camera's angle is known.
    pub camera_known: bool,
    pub(crate) mark: &'a Mark,
    pub(crate) heads: Heads<'a>,
    pub(crate) curves: &'a Curves,
    /// What the mark gave when it was read last, if it is being dragged.
    pub(crate) before: &'a Gathered,
    /// What marks before it have shown.
    pub(crate) hints: &'a [Hint],
    /// What it gives.
    pub(crate) now: Gathered,
}

impl Desk<'_> {
    /// Id of the mark.
    pub fn id(&self) -> &str {
        &self.mark.id
    }

    /// Notes a warning on the mark.
    pub fn warn(&mut self, code: &str, text: impl Into<String>) {
        self.now.warnings.push(Warning::on(&self.mark.id, code, text));
    }

    /// Says why the mark could not be read.
    pub fn unread(&mut self, code: &str, problem: &dyn std::fmt::Display) -> MarkReading {
        let says = format!("{}.", capital(&problem.to_string()));
        self.warn(code, says.clone());
        MarkReading { says, ..Default::default() }
    }

    /// Where light comes from round the picture; takes it down as evidence.
    pub fn round_the_clock(&mut self, towards: [f64; 2], sd: f64, contrast_stops: Option<f64>) -> RoundView {
        self.now.clock = Some((towards[1].atan2(towards[0]), sd));
        RoundView {
            clock: round(clock_of(towards[0], towards[1]), 2),
            clock_sd_deg: degrees(sd),
            contrast_stops: contrast_stops.map(|c| round(c, 2)),
        }
    }

    /// A light in the words and units of the readings.
    pub fn sighting(&self, seen: &Seen, clock: f64, level_zero: Option<f64>) -> Sighting {
        sighting(seen, clock, level_zero)
    }

    /// Takes a light down as evidence; `zero` is the level of the mark's strongest, `counts` whether the mark shows all.
    pub fn witness(&mut self, seen: Seen, zero: Option<f64>, otherwise: Option<Vec3>, counts: bool) {
        let relative_level = seen.log_level.zip(zero).map(|((l, sd), z)| (l - z, sd));
        self.now.evidence.push(Evidence {
            mark: self.mark.id.clone(),
            seen,
            otherwise,
            relative_level,
            counts_lights: counts,
            shows: self.mark.kind.shows_sources(),
            place_m: self.place_m(),
        });
    }

    /// Where a mark is before the lens, metres across and up, if the camera's distance and angle are known.
    fn place_m(&self) -> Option<[f64; 2]> {
        let facts = self.marks.camera.as_ref()?;
        facts.vfov_deg?;
        let per_px = facts.distance_m? / self.camera.focal_px;
        let centre = self.mark.kind.place()?;
        let (w, h) = (f64::from(self.photo.width()), f64::from(self.photo.height()));
        Some([(centre[0] - w / 2.0) * per_px, (h / 2.0 - centre[1]) * per_px])
    }

    /// Whether a point lies off the picture.
    pub fn outside(&self, centre: [f64; 2]) -> bool {
        let (w, h) = (f64::from(self.photo.width()), f64::from(self.photo.height()));
        centre[0] < 0.0 || centre[1] < 0.0 || centre[0] > w || centre[1] > h
    }
}

/// A light in the words and units of the readings.
pub(crate) fn sighting(seen: &Seen, clock: f64, level_zero: Option<f64>) -> Sighting {
    let a = AzEl::of(&seen.direction);
    let size = seen.size_deg();
    let level = seen.log_level.zip(level_zero);
    Sighting {
        clock: round(clock, 2),
        azimuth_deg: round(a.azimuth_deg, 2),
        elevation_deg: round(a.elevation_deg, 2),
        direction_sd_deg: degrees(seen.direction_sd).max(0.05),
        angular_size_deg: size.map(|s| round(s.0, 2)),
        angular_size_range_deg: size.map(|s| s.1.map(|v| round(v, 2))),
        level_stops: level.map(|((l, _), zero)| round(stops(l - zero), 3)),
        level_sd_stops: level.map(|((_, sd), _)| round(stops(sd), 3)),
        outline: Vec::new(),
        at: None,
        aspect: None,
        corners: None,
        feather: None,
        cct_k: seen.rgb.and_then(cct_of_rgb),
        otherwise: None,
    }
}
