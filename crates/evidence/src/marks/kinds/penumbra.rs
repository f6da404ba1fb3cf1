//! A line across a shadow's edge: how large the light is.

use super::{Carry, Desk, Face, Kind, MarkKind, Turn, check, plot};
use direction::{face, penumbra};
use crate::marks::desk::round;
use crate::readings::*;
use direction::shapes::Point;
use optics::words;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A line drawn across a shadow's edge.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = PenumbraMark)]
pub struct Penumbra {
    /// Start, pixels.
    #[schema(value_type = optics::geometry::Pair)]
    pub a: [f64; 2],
    /// End, pixels.
    #[schema(value_type = optics::geometry::Pair)]
    pub b: [f64; 2],
    /// Distance from the casting edge to the receiver in metres.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gap_m: Option<f64>,
    /// Scale at the receiver, pixels for a metre.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub px_per_m: Option<f64>,
}

impl Kind for Penumbra {
    fn check(&self) -> Result<(), String> {
        check::finite("a", &self.a)?;
        check::finite("b", &self.b)
    }

    fn carry(&mut self, c: &Carry) {
        [&mut self.a, &mut self.b].into_iter().for_each(|p| *p = c.point(p));
        // the scale beside a shadow's edge is pixels for a metre
        self.px_per_m = self.px_per_m.map(|s| s * c.k);
    }

    fn anchor(&self) -> Option<Point> {
        Some(self.a)
    }

    /// On a face it comes last: the face knows how far the nose stands off.
    fn turn(&self, faces: bool) -> Turn {
        if faces && self.gap_m.is_none() { Turn::WithKey } else { Turn::First }
    }

    /// Without a gap, on a face, what the stand-ins have between it and the key serves.
    fn read(&self, desk: &mut Desk) -> MarkReading {
        let (a, b, gap_m, px_per_m) = (self.a, self.b, self.gap_m, self.px_per_m);
        let key = desk.hints.first();
        let on_face = key.filter(|_| gap_m.is_none()).and_then(|key| {
            let points = desk.marks.marks.iter().find_map(|m| match &m.kind {
                MarkKind::Face(Face { points, .. }) if !m.off => Some(points),
                _ => None,
            })?;
            face::gap((desk.heads)(), points, &desk.camera, (a, b), &key.direction)
        });
        let (gap, scale) = on_face.map_or((gap_m, px_per_m), |g| (Some(g.gap_m / g.across), Some(g.px_per_m)));
        let mut r = match penumbra::read(desk.photo, a, b, gap, scale) {
            Ok(r) => r,
            Err(problem) => return desk.unread("edge_unread", &problem),
        };
        if let Some(g) = on_face {
            r.angle = r.angle.map(|(a, sd)| (a, sd.hypot(g.log_sd)));
            desk.warn("edge_on_face",
                format!(
                    "What casts this edge stands {:.1} cm off by the stand-in heads; noses differ, so the size is told to a third.",
                    100.0 * g.gap_m
                ),
            );
        }
        if r.angle.is_none() {
            desk.warn("edge_scale",
                "With the gap to what casts the edge and the scale there, its width gives the light's size.",
            );
        }
        let size = r.angle.map(|(a, sd)| {
            let deg = a.to_degrees();
            (round(deg, 2), [deg * (-sd).exp(), deg * sd.exp()].map(|v| round(v, 2)))
        });
        if let Some((a, sd)) = r.angle.filter(|_| !r.unresolved) {
            desk.now.size = Some((a.ln(), sd));
        }
        let says = match size {
            Some((d, _)) if r.unresolved => {
                format!("An edge as narrow as the picture resolves: the light fills at most {d:.1}°.")
            }
            Some((d, [lo, hi])) => {
                format!("The edge is {:.1} px wide: the light fills {}.", r.width_px, words::size_range(d, lo, hi))
            }
            None => format!("The edge is {:.1} px wide and {:.1} stops deep.", r.width_px, r.step_stops),
        };
        MarkReading {
            plot: Some(plot(["pixels across the edge", "linear light", "the fit"], &r.points, |v| v)),
            edge: Some(EdgeView {
                width_px: round(r.width_px, 2),
                step_stops: round(r.step_stops, 2),
                angular_size_deg: size.map(|s| s.0),
                angular_size_range_deg: size.map(|s| s.1),
                unresolved: r.unresolved,
            }),
            says,
            ..Default::default()
        }
    }
}
