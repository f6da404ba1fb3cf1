//! An occluding contour: the side round the picture its light comes from.

use super::{Carry, Desk, Kind, check};
use direction::contour;
use crate::marks::check::MOST_POINTS;
use crate::readings::*;
use direction::shapes::Point;
use optics::words;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// An occluding contour.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = ContourMark)]
pub struct Contour {
    /// Points along the outline, pixels.
    #[schema(value_type = Vec<optics::geometry::Pair>)]
    pub points: Vec<[f64; 2]>,
    /// Side of the outline that is background, as seen walking along the points.
    pub outward: String,
}

impl Kind for Contour {
    fn check(&self) -> Result<(), String> {
        check::at_most("points", "points", self.points.len(), MOST_POINTS)?;
        self.points.iter().try_for_each(|p| check::finite("points", p))
    }

    fn carry(&mut self, c: &Carry) {
        self.points = c.points(&self.points);
    }

    fn anchor(&self) -> Option<Point> {
        self.points.first().copied()
    }

    fn read(&self, desk: &mut Desk) -> MarkReading {
        let left = match self.outward.as_str() {
            "left" => true,
            "right" => false,
            _ => {
                return desk.unread("contour_unread",
                    &"outward: expected left or right, seen walking along the points",
                );
            }
        };
        let r = match contour::read(desk.photo, &self.points, left) {
            Ok(r) => r,
            Err(problem) => return desk.unread("contour_unread", &problem),
        };
        let round = desk.round_the_clock(r.towards, r.sd, Some(r.contrast_stops));
        let says = format!(
            "Light comes from {} ± {:.0}° round the picture; how far from the lens this cannot tell.",
            words::clock_words(round.clock),
            round.clock_sd_deg
        );
        MarkReading {
            round: Some(round),
            fit: Some(Fit { residual_percent: crate::marks::desk::round(100.0 * r.residual, 2), samples: r.samples }),
            plot: Some(Plot {
                across: "outline's normal, degrees from its brightest turn".into(),
                up: "light, brightest turn = 1".into(),
                line: "the fit".into(),
                points: r.points,
            }),
            says,
            ..Default::default()
        }
    }
}
