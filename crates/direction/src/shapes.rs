//! Shapes on a picture, in pixels.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A point in pixels: x right, y down, origin at the top-left corner.
pub type Point = [f64; 2];

/// Middle of some points: their mean.
pub fn middle(points: &[Point]) -> Option<Point> {
    let n = points.len() as f64;
    (n > 0.0).then(|| [0, 1].map(|k| points.iter().map(|p| p[k]).sum::<f64>() / n))
}

/// An ellipse; `angle_deg` turns the `rx` axis from image right towards image down.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Ellipse {
    /// Centre.
    #[schema(value_type = optics::geometry::Pair)]
    pub centre: [f64; 2],
    /// Half axis along `angle_deg`.
    pub rx: f64,
    /// Half axis across it.
    pub ry: f64,
    /// Turn in degrees, clockwise on screen.
    #[serde(default)]
    pub angle_deg: f64,
}

impl Ellipse {
    /// Distance from the centre in units of the outline: 1 on it.
    pub fn level(&self, x: f64, y: f64) -> f64 {
        let (s, c) = self.angle_deg.to_radians().sin_cos();
        let (dx, dy) = (x - self.centre[0], y - self.centre[1]);
        ((dx * c + dy * s) / self.rx).hypot((-dx * s + dy * c) / self.ry)
    }
}

/// A closed outline.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Outline {
    /// Corners in order.
    #[schema(value_type = Vec<optics::geometry::Pair>)]
    pub outline: Vec<[f64; 2]>,
}
