//! A line across a bright edge that a light from behind draws.

use super::{Carry, Desk, Kind, check};
use direction::{Seen, rim};
use crate::marks::desk::{degrees, round};
use crate::readings::*;
use direction::shapes::Point;
use optics::geometry::{Vec3, clock_of};
use optics::words;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Standard deviation of a rim's side: outlines turn, and so does the form behind them.
const RIM_SIDE_SD: f64 = 0.26;

/// A line across a bright edge that a light from behind draws.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = RimMark)]
pub struct Rim {
    /// Start, inside the form, pixels.
    #[schema(value_type = optics::geometry::Pair)]
    pub inside: [f64; 2],
    /// End, in the background.
    #[schema(value_type = optics::geometry::Pair)]
    pub outside: [f64; 2],
    /// Radius of the form there (a head, a shoulder, a bottle), if known, pixels.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub radius_px: Option<f64>,
}

impl Kind for Rim {
    fn check(&self) -> Result<(), String> {
        check::finite("inside", &self.inside)?;
        check::finite("outside", &self.outside)?;
        self.radius_px.map_or(Ok(()), |r| check::positive("radius_px", r))
    }

    fn carry(&mut self, c: &Carry) {
        [&mut self.inside, &mut self.outside].into_iter().for_each(|p| *p = c.point(p));
        self.radius_px = self.radius_px.map(|r| r * c.k);
    }

    fn anchor(&self) -> Option<Point> {
        Some(self.inside)
    }

    fn size_px(&self) -> f64 {
        self.radius_px.unwrap_or(0.0)
    }

    fn read(&self, desk: &mut Desk) -> MarkReading {
        let r = match rim::read(desk.photo, self.inside, self.outside, self.radius_px) {
            Ok(r) => r,
            Err(problem) => return desk.unread("rim_unread", &problem),
        };
        let clock = clock_of(r.outward[0], r.outward[1]);
        let mut says = format!(
            "A rim {:.1} px wide at {}, {}{:.1} stops over the surface inside it",
            r.width_px,
            words::clock_words(clock),
            if r.clipped { "at least " } else { "" },
            r.over_stops
        );
        match r.off_axis {
            Some((angle, sd)) => {
                let (s, c) = angle.sin_cos();
                let direction = Vec3::new(s * r.outward[0], s * r.outward[1], c);
                let seen = Seen {
                    direction,
                    direction_sd: sd.hypot(RIM_SIDE_SD * s),
                    log_size: None,
                    log_level: None,
                    rgb: None,
                };
                desk.witness(seen, None, None, false);
                says +=
                    &format!(": its light stands {:.0}° ± {:.0}° from the lens.", angle.to_degrees(), sd.to_degrees());
            }
            None => says += ". With the radius of the form there, the light's angle from the lens can be told.",
        }
        MarkReading {
            rim: Some(RimView {
                clock: round(clock, 2),
                width_px: round(r.width_px, 2),
                over_stops: round(r.over_stops, 2),
                clipped: r.clipped,
                off_axis_deg: r.off_axis.map(|a| degrees(a.0)),
                off_axis_sd_deg: r.off_axis.map(|a| degrees(a.1)),
            }),
            says,
            ..Default::default()
        }
    }
}
