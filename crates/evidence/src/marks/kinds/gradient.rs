//! A part of the background: how it falls off.

use super::{Carry, Desk, Kind, check};
use direction::gradient::{self, EVEN_STOPS};
use crate::marks::desk::round;
use crate::readings::*;
use direction::shapes::Point;
use optics::geometry::clock_of;
use optics::words;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A part of the background.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = GradientMark)]
pub struct Gradient {
    /// Corners, pixels.
    #[schema(value_type = Vec<optics::geometry::Pair>)]
    pub polygon: Vec<[f64; 2]>,
}

impl Kind for Gradient {
    fn check(&self) -> Result<(), String> {
        check::corners("polygon", &self.polygon)
    }

    fn carry(&mut self, c: &Carry) {
        self.polygon = c.points(&self.polygon);
    }

    fn anchor(&self) -> Option<Point> {
        self.polygon.first().copied()
    }

    fn read(&self, desk: &mut Desk) -> MarkReading {
        let r = match gradient::read(desk.photo, &self.polygon) {
            Ok(r) => r,
            Err(problem) => return desk.unread("gradient_unread", &problem),
        };
        let clock = clock_of(r.towards[0], r.towards[1]);
        let says = if r.stops < EVEN_STOPS {
            format!("Even: {:.1} stops from its darkest to its brightest part.", r.stops)
        } else if r.top.is_some() {
            format!(
                "A glow {:.1} stops over its darkest part, centred on the marked part: a light of its own, or spill that is cut.",
                r.stops
            )
        } else {
            format!("It falls by {:.1} stops away from {}.", r.stops, words::clock_words(clock))
        };
        MarkReading {
            gradient: Some(GradientView {
                top: r.top.map(|t| t.map(|v| round(v, 1))),
                clock: round(clock, 2),
                stops: round(r.stops, 2),
                spread_stops: round(r.spread_stops, 3),
            }),
            says,
            ..Default::default()
        }
    }
}
