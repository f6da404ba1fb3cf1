//! A ball probe: shading of a matte one, highlights in a mirror one.

use super::{Carry, Desk, Kind, Turn, check, plot};
use direction::face::Hint;
use direction::{Seen, ball_matte, ball_mirror, room, spot, strongest};
use crate::marks::desk::{round, stops};
use crate::readings::*;
use direction::shapes::Point;
use optics::geometry::{SeenSphere, clock_of};
use optics::words::capital;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A ball probe.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = BallMark)]
pub struct Ball {
    /// Matte or mirror.
    pub finish: Finish,
    /// Centre of its outline, pixels.
    #[schema(value_type = optics::geometry::Pair)]
    pub centre: [f64; 2],
    /// Radius of its outline, pixels.
    pub radius_px: f64,
}

/// Surface of a ball probe.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "lowercase")]
pub enum Finish {
    /// Even, without gloss.
    Matte,
    /// A mirror.
    Mirror,
}

/// Angle from which a light that shading alone tells of may be several, radians, and the part of it its direction is unsure by.
const WIDE: f64 = 0.96;
const OF_WIDE: f64 = 0.15;
/// Light from around over the key's from which it may not be even, and what the direction is unsure by, radians of it.
const MUCH_AROUND: f64 = 0.18;
const OF_AROUND: f64 = 0.35;
/// What the size of such a light, and its level, are unsure by: natural logs (rooms traced by another renderer: sizes are off
/// by one doubling in the median, 2.4 at the 90th percentile).
const SUMMED_SIZE: f64 = 0.9;
const SUMMED_LEVEL: f64 = 0.5;

/// A light as shading alone tells of it: it sums light, so that one that is wide, or beside much of it from `around` (over the
/// key), may be several or a room.
fn summed(s: &Seen, around: f64) -> Seen {
    let wide = s.log_size.map_or(0.0, |l| l.0.exp());
    let wide = if wide > WIDE { OF_WIDE * wide } else { 0.0 };
    let around = if around > MUCH_AROUND { OF_AROUND * around } else { 0.0 };
    let unsure = wide.hypot(around);
    if unsure == 0.0 {
        return s.clone();
    }
    Seen {
        direction_sd: s.direction_sd.hypot(unsure),
        log_size: s.log_size.map(|(l, sd)| (l, sd.hypot(SUMMED_SIZE))),
        log_level: s.log_level.map(|(l, sd)| (l, sd.hypot(SUMMED_LEVEL))),
        ..s.clone()
    }
}

impl Kind for Ball {
    fn check(&self) -> Result<(), String> {
        check::finite("centre", &self.centre)?;
        check::positive("radius_px", self.radius_px)
    }

    fn carry(&mut self, c: &Carry) {
        self.centre = c.point(&self.centre);
        self.radius_px *= c.k;
    }

    fn anchor(&self) -> Option<Point> {
        Some(self.centre)
    }

    fn place(&self) -> Option<Point> {
        Some(self.centre)
    }

    fn size_px(&self) -> f64 {
        self.radius_px
    }

    fn is_costly(&self) -> bool {
        true
    }

    fn needs_camera(&self) -> bool {
        true
    }

    fn turn(&self, _: bool) -> Turn {
        match self.finish {
            Finish::Mirror => Turn::First,
            Finish::Matte => Turn::AfterMirrors,
        }
    }

    fn shows_sources(&self) -> bool {
        self.finish == Finish::Mirror
    }

    fn shows_all(&self) -> bool {
        true
    }

    fn read(&self, desk: &mut Desk) -> MarkReading {
        match self.finish {
            Finish::Matte => self.matte(desk),
            Finish::Mirror => self.mirror(desk),
        }
    }
}

impl Ball {
    fn matte(&self, desk: &mut Desk) -> MarkReading {
        let shown: Vec<ball_matte::Shown> = desk
            .hints
            .iter()
            .filter_map(|h: &Hint| Some(ball_matte::Shown { direction: h.direction, half: h.size? / 2.0 }))
            .collect();
        let r = match ball_matte::read(desk.photo, desk.camera, self.centre, self.radius_px, desk.before.balls.as_ref(), &shown) {
            Ok(r) => r,
            Err(problem) => {
                desk.warn("ball_unread", format!("{}.", capital(&problem.to_string())));
                return MarkReading { says: format!("{}.", capital(&problem.to_string())), ..Default::default() };
            }
        };
        desk.now.balls = Some(r.start);
        // several lights have no one angle: fitted against measured shows what is left over
        let points: Vec<[f64; 3]> = r.points.iter().map(|[fitted, measured]| [*fitted, *measured, *fitted]).collect();
        let names = ["light by the fit, brightest = 1", "light measured", "where both agree"];
        let plot = plot(names, &points, |v| v);
        let zero = r.lights.first().and_then(|l| l.log_level).map(|l| l.0);
        let around = r.log_ambient.zip(zero).map_or(0.0, |((a, _), z)| (a - z).exp());
        let seen: Vec<Seen> = if shown.is_empty() { r.lights.iter().map(|s| summed(s, around)).collect() } else { r.lights.clone() };
        if seen.iter().zip(&r.lights).any(|(s, l)| s.direction_sd > l.direction_sd) {
            desk.warn("summed", "A matte ball sums light: what it says of a wide light, or beside much light from around, is the middle \
                 of all that comes from that side. A mirror ball beside it would show the sources.");
        }
        let lights = seen.iter().map(|s| desk.sighting(s, clock_of(s.direction.x, s.direction.y), zero)).collect();
        for s in seen {
            desk.witness(s, zero, None, true);
        }
        if let (Some((a, sd)), Some(z)) = (r.log_ambient, zero) {
            desk.now.ambient = Some((stops(a - z), stops(sd)));
        }
        desk.now.ambient_most = r.log_ambient_most.zip(zero).map(|(a, z)| stops(a - z));
        if r.residual > 0.03 {
            desk.warn("poor_fit",
                format!(
                    "The ball's shading fits its best model only to {:.0} % of the bright side: a tone curve, gloss, \
                     a reflection from the table or a shadow on it may be the reason. The spread is widened.",
                    100.0 * r.residual
                ),
            );
        }
        if r.clipped > 0.03 {
            desk.warn("clipped", format!("{:.0} % of the ball is clipped and was left out.", 100.0 * r.clipped));
        }
        let e = r.outline.ellipse;
        MarkReading {
            lights,
            circle: Some([round(e.centre[0], 2), round(e.centre[1], 2), round(e.rx, 2)]),
            fit: Some(Fit { residual_percent: round(100.0 * r.residual, 2), samples: r.samples }),
            plot: Some(plot),
            ..Default::default()
        }
    }

    fn mirror(&self, desk: &mut Desk) -> MarkReading {
        let (centre, radius) = (self.centre, self.radius_px);
        if radius < 4.0 || desk.outside(centre) {
            let text = if radius < 4.0 {
                "The ball is too small to read: mark one at least 8 pixels across."
            } else {
                "Most of the ball lies outside the picture."
            };
            desk.warn("ball_unread", text);
            return MarkReading { says: text.into(), ..Default::default() };
        }
        let r = ball_mirror::read(desk.photo, desk.camera, centre, radius);
        let e = r.outline.ellipse;
        desk.now.mirror = Some(room::Outline { centre: e.centre, radius: e.rx, sd_px: r.outline.sd_px, marked: (centre, radius) });
        if r.lights.is_empty() {
            let text =
                "No highlight stands out in the mirror ball: no light is reflected there, or all is evenly bright.";
            desk.warn("no_highlight", text);
            return MarkReading { says: text.into(), ..Default::default() };
        }
        let zero = strongest(r.lights.iter().map(|l| &l.0));
        let sphere = SeenSphere::from_silhouette(desk.camera, e.centre, e.rx);
        let lights = r
            .lights
            .iter()
            .map(|(s, b)| {
                let clock = clock_of(b.centre[0] - e.centre[0], e.centre[1] - b.centre[1]);
                let shape = spot::shape(b, |x, y| sphere.mirrored(x, y));
                Sighting {
                    outline: b.outline.clone(),
                    at: Some(b.centre.map(|v| round(v, 2))),
                    aspect: shape.map(|a| round(a.0, 2)),
                    corners: shape.and_then(spot::corners).map(|c| round(c, 2)),
                    feather: spot::feather(desk.photo, b, &sphere).map(|f| round(f, 3)),
                    ..desk.sighting(s, clock, zero)
                }
            })
            .collect();
        if r.lights.iter().any(|l| l.1.clipped) {
            desk.warn("highlight_clipped", "A highlight is clipped: the strength of that light is a guess.");
        }
        for (s, _) in r.lights {
            desk.witness(s, zero, None, false);
        }
        MarkReading {
            lights,
            circle: Some([round(e.centre[0], 2), round(e.centre[1], 2), round(e.rx, 2)]),
            ..Default::default()
        }
    }
}
