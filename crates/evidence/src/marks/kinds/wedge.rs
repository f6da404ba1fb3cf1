//! A step wedge or target of known reflectances: the picture is read through the curve it tells.

use super::{Carry, Desk, Kind, check, plot};
use crate::marks::check::MOST_STEPS;
use crate::marks::desk::round;
use crate::readings::*;
use direction::shapes::Point;
use crate::wedge::WedgePatch;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A step wedge or target of known reflectances.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = WedgeMark)]
pub struct Wedge {
    /// Its patches.
    pub patches: Vec<WedgePatch>,
}

impl Kind for Wedge {
    fn check(&self) -> Result<(), String> {
        check::at_most("patches", "patches", self.patches.len(), MOST_STEPS)?;
        self.patches.iter().try_for_each(|p| check::corners("patches.polygon", &p.polygon))
    }

    fn carry(&mut self, c: &Carry) {
        self.patches.iter_mut().for_each(|p| p.polygon = c.points(&p.polygon));
    }

    fn anchor(&self) -> Option<Point> {
        self.patches.first().and_then(|p| p.polygon.first().copied())
    }

    fn read(&self, desk: &mut Desk) -> MarkReading {
        let found = desk.curves.iter().position(|c| c.0 == desk.id());
        let Some(c) = found.map(|i| desk.curves[i].1.clone()) else {
            let says = "The encoding is declared: the wedge is not needed.".to_owned();
            return MarkReading { says, ..Default::default() };
        };
        let c = match c {
            Ok(c) => c,
            Err(problem) => return desk.unread("wedge_unread", &problem),
        };
        if found != desk.curves.iter().position(|c| c.1.is_ok()) {
            desk.warn("second_wedge", "Another wedge is used for the whole picture.");
        }
        let [lo, hi] = c.range_stops();
        let says = format!(
            "{} patches tell the camera's curve from {lo:+.1} to {hi:+.1} stops, within {:.2} stop; contrast at middle grey {:.2} of plain sRGB.",
            c.used,
            c.spread_stops.max(0.01),
            c.contrast()
        );
        let points: Vec<[f64; 3]> = c.points_stops().iter().map(|p| [p[0], p[1], p[0]]).collect();
        let names = ["stops from middle grey in the picture", "stops in the scene", "plain sRGB"];
        MarkReading {
            plot: Some(plot(names, &points, |v| v)),
            curve: Some(CurveView {
                points_stops: c.points_stops().iter().map(|p| p.map(|v| round(v, 3))).collect(),
                spread_stops: round(c.spread_stops, 4),
                contrast: round(c.contrast(), 3),
                left_out: c.left_out,
            }),
            says,
            ..Default::default()
        }
    }
}
