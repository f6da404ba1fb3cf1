//! Upright things on a table: the bright line of a cylinder, or else its shading, says from which side the light comes, the shadow
//! on the table how high it stands. Together they are a light, though nothing is known of the camera.

use super::Reader;
use crate::marks::{Cast, MarkKind, ShadowOn};
use crate::readings::{StripView, Warning};
use direction::cast::{CastPoints, SideReading, from_side};
use direction::fusion::Evidence;
use direction::{Seen, cylinder};
use optics::geometry::{AzEl, Vec3, angle_between, clock_of};

/// Spread of the azimuth of a line's middle as the middle of its light, besides its own and a quarter of its width, radians:
/// a near light is seen 2 to 4 degrees elsewhere from the axis.
const MIDDLE_SD: f64 = 0.05;
/// Stops under the brightest line within which another may be the light that casts the shadow.
const AS_BRIGHT: f64 = 1.0;
/// Standard deviations within which two lines are of one light.
const ONE: f64 = 2.0;
/// Spread of a side over which it is none, degrees.
const NO_SIDE_DEG: f64 = 25.0;

/// A bright line, or the shading, that may be of the light of a shadow.
struct Match {
    cylinder: String,
    /// stops over the ground beside it; none for shading
    line: Option<f64>,
    seen: SideReading,
}

impl Match {
    fn bright(&self) -> f64 {
        self.line.unwrap_or(0.0)
    }
}

impl Reader<'_> {
    /// Makes lights of shadows on the table and lines on cylinders; returns which cylinder bears each shadow out.
    pub(super) fn products(&mut self) -> Vec<(String, String)> {
        if self.camera_known {
            return Vec::new();
        }
        let mut out = Vec::new();
        let on = self.marks.marks.iter().filter(|m| !m.off);
        let shadows: Vec<(String, CastPoints)> = on
            .filter_map(|m| match &m.kind {
                MarkKind::Cast(Cast { base, top, tip, on: ShadowOn::Floor, .. }) => {
                    Some((m.id.clone(), CastPoints { base: *base, top: *top, tip: *tip }))
                }
                _ => None,
            })
            .collect();
        for (id, points) in shadows {
            let mut found = self.matches(points);
            found.sort_by(|a, b| b.bright().total_cmp(&a.bright()));
            let Some(first) = found.first() else { continue };
            let other = found[1..].iter().find(|m| {
                let as_bright = first.bright() - m.bright() < AS_BRIGHT;
                let sd = first.seen.direction_sd.hypot(m.seen.direction_sd);
                as_bright && angle_between(&first.seen.direction, &m.seen.direction) > ONE * sd
            });
            self.take_product(&id, first, other);
            out.push((id, first.cylinder.clone()));
        }
        out
    }

    fn matches(&self, points: CastPoints) -> Vec<Match> {
        let upright = |id: &String| {
            let mark = self.marks.marks.iter().find(|m| &m.id == id).map(|m| &m.kind);
            matches!(mark, Some(MarkKind::Cylinder(c)) if c.stands())
        };
        let cylinders: Vec<_> = self.by_mark.iter().filter(|(id, _)| upright(id)).collect();
        let lines = cylinders
            .iter()
            .flat_map(|(id, m)| m.strips.iter().flatten().filter(|s| !s.lit_side).map(move |s| (*id, s)));
        let lines: Vec<Match> = lines
            .filter_map(|(id, s)| {
                let [from, to] = [s.azimuth_from_deg, s.azimuth_to_deg].map(f64::to_radians);
                let sd = s.azimuth_sd_deg.to_radians().hypot(0.25 * (to - from)).hypot(MIDDLE_SD);
                let seen = from_side(points, f64::midpoint(from, to), sd)?;
                Some(Match { cylinder: id.clone(), line: Some(s.over_ground_stops), seen })
            })
            .collect();
        if !lines.is_empty() {
            return lines;
        }
        let shaded = cylinders.iter().filter_map(|(id, m)| Some((*id, m.shaded.as_ref()?)));
        shaded
            .filter(|(_, s)| s.azimuth_sd_deg < NO_SIDE_DEG)
            .filter_map(|(id, s)| {
                let seen = from_side(points, s.azimuth_deg.to_radians(), s.azimuth_sd_deg.to_radians())?;
                Some(Match { cylinder: id.clone(), line: None, seen })
            })
            .collect()
    }

    fn take_product(&mut self, id: &str, m: &Match, other: Option<&Match>) {
        let d = m.seen.direction;
        let seen = Seen { direction: d, direction_sd: m.seen.direction_sd, log_size: None, log_level: None, rgb: None };
        // it said the side round the picture until the line said more
        self.clocks.retain(|c| c.0 != id);
        self.warnings.retain(|w| !(w.code == "shadow_camera" && w.mark.as_deref() == Some(id)));
        if let Some(reading) = self.by_mark.get_mut(id) {
            reading.round = None;
            reading.lights = vec![crate::marks::sighting(&seen, clock_of(d.x, d.y), None)];
            reading.says = format!(
                "{} The {} {} says from which side; by both the lens looks down by {:.0} ± {:.0}°.",
                crate::sentence::of_mark(reading),
                if m.line.is_some() { "bright line on" } else { "shading of" },
                m.cylinder,
                m.seen.tilt.to_degrees(),
                m.seen.tilt_sd.to_degrees().max(1.0)
            );
        }
        if let Some(other) = other {
            self.warnings.push(Warning::on(
                id,
                "line_open",
                format!(
                    "Another line on {} is nearly as bright and fits the shadow as well: both solutions are kept. Cover one light, or \
                     mark a second shadow.",
                    other.cylinder
                ),
            ));
        }
        self.evidence.push(Evidence {
            mark: id.to_owned(),
            seen,
            otherwise: other.map(|o| o.seen.direction),
            relative_level: None,
            counts_lights: false,
            shows: false,
            place_m: None,
        });
    }
}

/// Where a line on an upright body shows its source to be, besides its side: it reaches through the horizon of the table, and up as
/// far as the shoulder says. Degrees: how far under the horizon sources are taken to begin, how high they reach where no shoulder
/// says it, and the spread of that.
const BELOW_DEG: f64 = 8.0;
const USUAL_TOP_DEG: f64 = 35.0;
const USUAL_TOP_SD_DEG: f64 = 18.0;
/// Stops over the ground under which a line may be of satin, and what that leaves open of its source's upper end, degrees.
const SATIN_STOPS: f64 = 1.5;
const SATIN_SD_DEG: f64 = 45.0;
/// Spread of the level of a line's source, natural log, and of its height's logarithm.
const LINE_LEVEL_SD: f64 = 0.8;
const LINE_HEIGHT_SD: f64 = 0.5;
/// Azimuth within which a line is that of a shadow's light, radians.
const SAME_SIDE: f64 = 0.25;

impl Reader<'_> {
    /// Makes lights of lines on upright bodies that no shadow stands beside: each is a picture of its source. `borne_out`: shadows
    /// with the cylinder that told their side.
    pub(super) fn lines(&mut self, borne_out: &[(String, String)]) {
        let marks = self.marks;
        for mark in marks.marks.iter().filter(|m| !m.off) {
            let MarkKind::Cylinder(c) = &mark.kind else { continue };
            let Some(strips) = self.by_mark.get(&mark.id).and_then(|r| r.strips.clone()).filter(|_| c.stands()) else {
                continue;
            };
            let side = |d: &Vec3| d.x.atan2(d.z);
            let all: Vec<(Seen, f64)> = strips.iter().filter(|s| !s.lit_side).map(source_of).collect();
            let zero = all.iter().filter_map(|(s, _)| s.log_level).map(|l| l.0).fold(f64::MIN, f64::max);
            // a line of a light that casts a shadow says how strong that is; where it stands the shadow says better
            let mut taken = vec![false; all.len()];
            for (shadow, _) in borne_out.iter().filter(|b| b.1 == mark.id) {
                let Some(e) = self.evidence.iter_mut().find(|e| &e.mark == shadow) else { continue };
                for (k, (seen, _)) in all.iter().enumerate() {
                    if (side(&seen.direction) - side(&e.seen.direction)).abs() < SAME_SIDE {
                        taken[k] = true;
                        e.relative_level = seen.log_level.map(|(l, sd)| (l - zero, sd));
                    }
                }
            }
            let all = all.into_iter().zip(taken).filter(|(_, taken)| !taken).map(|(line, _)| line);
            let mut sightings = Vec::new();
            for (seen, aspect) in all {
                let mut s = crate::marks::sighting(&seen, clock_of(seen.direction.x, seen.direction.y), Some(zero));
                s.aspect = Some(aspect);
                s.outline = c.line_outline(s.azimuth_deg, &strips);
                sightings.push(s);
                let relative_level = seen.log_level.map(|(l, sd)| (l - zero, sd));
                self.evidence.push(Evidence {
                    mark: mark.id.clone(),
                    seen,
                    otherwise: None,
                    relative_level,
                    counts_lights: false,
                    shows: true,
                    place_m: None,
                });
            }
            if let Some(r) = self.by_mark.get_mut(&mark.id) {
                r.lights = sightings;
            }
        }
    }
}

/// The source of a line: direction, extent and level, and its width over its height.
fn source_of(s: &StripView) -> (Seen, f64) {
    let [from, to] = [s.azimuth_from_deg, s.azimuth_to_deg].map(f64::to_radians);
    let (azimuth, wide) = (f64::midpoint(from, to), (to - from).max(0.01));
    let (top, top_sd) = match &s.reaches {
        Some(r) if r.open => ((r.elevation_deg + 8.0).max(USUAL_TOP_DEG), USUAL_TOP_SD_DEG),
        Some(r) => (r.elevation_deg.max(2.0), r.elevation_sd_deg),
        None => (USUAL_TOP_DEG, USUAL_TOP_SD_DEG),
    };
    // satin smears a source along the height: a lamp far up shows as well
    let top_sd = if s.over_ground_stops < SATIN_STOPS { top_sd.hypot(SATIN_SD_DEG) } else { top_sd };
    let elevation = f64::midpoint(top, -BELOW_DEG).to_radians();
    let tall = (top + BELOW_DEG).to_radians().max(wide.min(0.2));
    let sd = s.azimuth_sd_deg.to_radians().hypot(0.1 * wide).hypot(MIDDLE_SD).hypot((top_sd / 2.0).to_radians());
    let direction = AzEl { azimuth_deg: azimuth.to_degrees(), elevation_deg: elevation.to_degrees() }.vector();
    let level = (s.light.max(1e-4) / cylinder::reflectance(azimuth) * wide * tall).ln();
    let size = 2.0 * (wide * tall / std::f64::consts::PI).sqrt();
    let height_sd = if s.reaches.as_ref().is_some_and(|r| !r.open) { 0.3 } else { LINE_HEIGHT_SD };
    let seen = Seen {
        direction,
        direction_sd: sd,
        log_size: Some((size.ln(), 0.5 * height_sd)),
        log_level: Some((level, if s.clipped { 1.4 * LINE_LEVEL_SD } else { LINE_LEVEL_SD })),
        rgb: None,
    };
    (seen, wide / tall)
}
