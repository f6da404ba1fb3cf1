//! A line across bands of light and shade.

use super::{Carry, Desk, Kind, check};
use direction::pattern;
use crate::marks::desk::round;
use crate::readings::*;
use direction::shapes::Point;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Edge over spacing under which a pattern is called sharp (common practice, ours).
const SHARP_EDGE: f64 = 0.15;

/// A line across bands of light and shade.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = PatternMark)]
pub struct Pattern {
    /// Start, pixels.
    #[schema(value_type = optics::geometry::Pair)]
    pub a: [f64; 2],
    /// End, pixels.
    #[schema(value_type = optics::geometry::Pair)]
    pub b: [f64; 2],
}

impl Kind for Pattern {
    fn check(&self) -> Result<(), String> {
        check::finite("a", &self.a)?;
        check::finite("b", &self.b)
    }

    fn carry(&mut self, c: &Carry) {
        [&mut self.a, &mut self.b].into_iter().for_each(|p| *p = c.point(p));
    }

    fn anchor(&self) -> Option<Point> {
        Some(self.a)
    }

    fn read(&self, desk: &mut Desk) -> MarkReading {
        let r = match pattern::read(desk.photo, self.a, self.b) {
            Ok(r) => r,
            Err(problem) => return desk.unread("pattern_unread", &problem),
        };
        let bands = if r.bands == 1 { "One band".to_owned() } else { format!("{} bands", r.bands) };
        let kind = match r.spacing_px {
            Some(_) if r.bands < 3 => "",
            Some(_) if r.unevenness < 0.12 => " at even distances, as of blinds",
            Some(_) if r.unevenness > 0.3 => " at uneven distances, as of leaves or lace",
            _ => "",
        };
        let against = r.spacing_px.unwrap_or(6.0 * r.edge_px);
        let edge = if !r.edge_px.is_finite() {
            "its edges are too close together to measure".to_owned()
        } else if r.edge_px < SHARP_EDGE * against {
            format!("edges {:.1} px wide: sharp, from a small light or a cutter near the subject", r.edge_px)
        } else {
            format!("edges {:.1} px wide: soft, from a wider light or a cutter near the light", r.edge_px)
        };
        let says =
            format!("{bands}{kind}, {:.1} stops deep, running {:.0}° from level; {edge}.", r.contrast_stops, r.run_deg);
        MarkReading {
            pattern: Some(PatternView {
                bands: r.bands,
                spacing_px: r.spacing_px.map(|v| round(v, 2)),
                unevenness: round(r.unevenness, 3),
                edge_px: if r.edge_px.is_finite() { round(r.edge_px, 2) } else { 0.0 },
                contrast_stops: round(r.contrast_stops, 2),
                run_deg: round(r.run_deg, 1),
            }),
            says,
            ..Default::default()
        }
    }
}
