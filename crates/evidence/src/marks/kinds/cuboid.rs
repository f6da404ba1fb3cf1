//! A box seen at a corner: its three sides.

use super::{Carry, Desk, Kind, check};
use direction::Seen;
use direction::cuboid::{self, CuboidReading, Side};
use crate::marks::desk::{degrees, round, stops};
use crate::readings::*;
use direction::shapes::Point;
use optics::geometry::AzEl;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Middle grey, linear (standard: 18 %).
const GREY: f64 = 0.18;
/// Sides that differ by less look alike, stops (common practice: a third of a stop is seen).
const ALIKE_STOPS: f64 = 0.3;
/// Three corners a pixel or two off turn a box by this much, degrees (common practice).
const LEVEL_DEG: f64 = 5.0;
/// A plane whose fall is less is even, stops.
const EVEN_STOPS: f64 = 0.3;

/// A box seen at a corner.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = CuboidMark)]
pub struct Cuboid {
    /// The corner nearest to the lens, pixels.
    #[schema(value_type = optics::geometry::Pair)]
    pub corner: [f64; 2],
    /// Far ends of the three edges from it, pixels.
    #[schema(value_type = [optics::geometry::Pair; 3])]
    pub ends: [[f64; 2]; 3],
    /// Its sides differ in print or paint: their brightness says nothing of the light.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub unlike: bool,
}

impl Kind for Cuboid {
    fn check(&self) -> Result<(), String> {
        check::finite("corner", &self.corner)?;
        self.ends.iter().try_for_each(|e| check::finite("ends", e))
    }

    fn carry(&mut self, c: &Carry) {
        self.corner = c.point(&self.corner);
        self.ends.iter_mut().for_each(|e| *e = c.point(e));
    }

    fn anchor(&self) -> Option<Point> {
        Some(self.corner)
    }

    fn place(&self) -> Option<Point> {
        Some(self.corner)
    }

    fn size_px(&self) -> f64 {
        let long = |e: &[f64; 2]| (e[0] - self.corner[0]).hypot(e[1] - self.corner[1]);
        self.ends.iter().map(long).fold(0.0, f64::max)
    }

    fn needs_camera(&self) -> bool {
        true
    }

    fn read(&self, desk: &mut Desk) -> MarkReading {
        let read = cuboid::pose(desk.camera, self.corner, self.ends).and_then(|p| p.read(desk.photo, !self.unlike));
        let r = match read {
            Ok(r) => r,
            Err(problem) => return desk.unread("cuboid_unread", &problem),
        };
        let sides = views(&r, desk);
        if r.sides.iter().any(|s| s.clipped > 0.02) {
            desk.warn("side_clipped", "A side of the box is clipped: how bright it is cannot be told.");
        }
        let mut says = told(&sides);
        let taken = desk.camera.pitch.to_degrees();
        if let Some(down) = r.looks_down().map(f64::to_degrees)
            && (down - taken).abs() > LEVEL_DEG
        {
            says += &format!(
                " If it stands upright the lens looks down by about {down:.0}°, not by {taken:.0}°: say so under the camera."
            );
        }
        match r.light {
            Some((direction, sd)) => {
                let seen =
                    Seen { direction, direction_sd: sd, log_size: None, log_level: None, rgb: None };
                let a = AzEl::of(&direction);
                says += &format!(
                    " If its sides are of one paint, all light together comes from {:.0}° {}, {:.0}° {} ± {:.0}°.",
                    a.azimuth_deg.abs(),
                    if a.azimuth_deg < 0.0 { "left" } else { "right" },
                    a.elevation_deg.abs(),
                    if a.elevation_deg < 0.0 { "below" } else { "up" },
                    sd.to_degrees()
                );
                desk.witness(seen, None, None, false);
            }
            None if self.unlike => {}
            None => says += " Where light comes from cannot be told: its sides are as bright as each other, or clipped.",
        }
        MarkReading { sides, says, ..Default::default() }
    }
}

/// Names of the three sides by where their normals point: the one that looks most up or down, then left and right of the others.
fn names(sides: &[Side; 3], desk: &Desk) -> [&'static str; 3] {
    let n = [0, 1, 2].map(|k| desk.camera.to_set(&sides[k].normal));
    let level = (0..3).max_by(|i, j| n[*i].y.abs().total_cmp(&n[*j].y.abs())).unwrap_or(0);
    let [i, j] = [(level + 1) % 3, (level + 2) % 3];
    let left = if n[i].x < n[j].x { i } else { j };
    [0, 1, 2].map(|k| match k {
        k if k == level => if n[k].y > 0.0 { "top" } else { "bottom" },
        k if k == left => "left",
        _ => "right",
    })
}

fn views(r: &CuboidReading, desk: &Desk) -> Vec<SideView> {
    let most = r.sides.iter().map(|s| s.luminance).fold(1e-6, f64::max);
    let names = names(&r.sides, desk);
    let view = |(s, name): (&Side, &str)| {
        let (faces, mirrors) = (AzEl::of(&s.normal), AzEl::of(&s.mirrors));
        SideView {
            name: name.into(),
            azimuth_deg: round(faces.azimuth_deg, 1),
            elevation_deg: round(faces.elevation_deg, 1),
            mirrors_azimuth_deg: round(mirrors.azimuth_deg, 1),
            mirrors_elevation_deg: round(mirrors.elevation_deg, 1),
            family_deg: desk.camera_known.then(|| degrees(s.family)),
            stops_from_grey: round((s.luminance / GREY).log2(), 2),
            under_stops: round((most / s.luminance).log2(), 2),
            under_sd_stops: round(stops(cuboid::tone_sd(s.luminance, most)), 2),
            gradient_stops: round(stops(s.gradient), 2),
            clipped_fraction: round(s.clipped, 3),
            corners: s.corners.iter().map(|c| c.map(|v| round(v, 1))).collect(),
        }
    };
    r.sides.iter().zip(names).map(view).collect()
}

/// What the three sides show, in words.
fn told(sides: &[SideView]) -> String {
    let mut by: Vec<&SideView> = sides.iter().collect();
    by.sort_by(|a, b| a.under_stops.total_cmp(&b.under_stops));
    let [first, second, third] = by[..] else { return String::new() };
    let mut out = format!(
        "The {} side is brightest, the {} {:.1} ± {:.1} and the {} {:.1} ± {:.1} stops under it.",
        first.name, second.name, second.under_stops, second.under_sd_stops, third.name, third.under_stops, third.under_sd_stops
    );
    for (a, b) in [(first, second), (second, third)] {
        if b.under_stops - a.under_stops < ALIKE_STOPS {
            out += &format!(" The edge between {} and {} hardly shows: they are as bright as each other.", a.name, b.name);
        }
    }
    for s in sides.iter().filter(|s| s.gradient_stops > EVEN_STOPS) {
        out += &format!(" The {} side falls off by {:.1} stops.", s.name, s.gradient_stops);
    }
    out
}
