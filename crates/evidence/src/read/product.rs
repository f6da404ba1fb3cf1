//! Upright things on a table: the bright line of a cylinder, or else its shading, says from which side the light comes, the shadow
//! on the table how high it stands. Together they are a light, though nothing is known of the camera.

use super::Reader;
use crate::marks::{Cast, MarkKind, ShadowOn};
use crate::readings::Warning;
use direction::Seen;
use direction::cast::{CastPoints, SideReading, from_side};
use direction::fusion::Evidence;
use optics::geometry::{angle_between, clock_of};

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
