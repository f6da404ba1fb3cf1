//! A gradient on a background: where it is brightest and how far it falls.
//!
//! A quadratic in the picture is fitted to the logarithm of brightness over the marked part. Where it has
//! a top, that is where a light of its own is centred; where it only slopes, light spills in from that side.

use crate::blobs::pixels_inside;
use nalgebra::{Matrix2, SMatrix, SVector, Vector2};
use optics::photo::Photo;

/// What a background says.
#[derive(Debug, Clone, Copy)]
pub struct GradientReading {
    /// Brightest point in pixels, if it lies on or near the marked part.
    pub top: Option<[f64; 2]>,
    /// Unit vector in the picture towards the brighter side: right and up.
    pub towards: [f64; 2],
    /// Stops between the brightest and the darkest part as fitted.
    pub stops: f64,
    /// Standard deviation about the fit in stops.
    pub spread_stops: f64,
    /// Pixels used.
    pub samples: usize,
}

/// Why a background says nothing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum GradientProblem {
    /// Too small.
    #[error("the marked part of the background is too small: at least 20 pixels each way")]
    Small,
    /// Clipped or black.
    #[error("the marked part is clipped or black nearly everywhere")]
    Lost,
}

/// Stops over which a background is called graded, not even (common practice).
pub const EVEN_STOPS: f64 = 0.3;

/// Reads the background inside `polygon`.
///
/// # Errors
/// A [`GradientProblem`] that says why.
pub fn read(photo: &Photo, polygon: &[[f64; 2]]) -> Result<GradientReading, GradientProblem> {
    let pixels = pixels_inside(photo, polygon);
    if pixels.len() < 400 {
        return Err(GradientProblem::Small);
    }
    let every = (pixels.len() / 4000).max(1);
    let range = |k: usize| polygon.iter().map(|p| p[k]).fold((f64::MAX, f64::MIN), |(l, h), v| (l.min(v), h.max(v)));
    let ((x0, x1), (y0, y1)) = (range(0), range(1));
    let half = 0.5 * (x1 - x0).max(y1 - y0);
    let (cx, cy) = (f64::midpoint(x0, x1), f64::midpoint(y0, y1));
    let row = |x: f64, y: f64| SVector::<f64, 6>::from([1.0, x, y, x * x, x * y, y * y]);
    let samples: Vec<(SVector<f64, 6>, f64)> = pixels
        .iter()
        .step_by(every)
        .filter_map(|(x, y)| {
            let s = photo.get(*x, *y)?;
            let l = s.luminance();
            let (u, v) = ((*x as f64 + 0.5 - cx) / half, (cy - *y as f64 - 0.5) / half);
            (!s.clipped && l > 1e-4).then(|| (row(u, v), l.log2()))
        })
        .collect();
    if samples.len() < 100 || samples.len() * 3 < pixels.len() / every {
        return Err(GradientProblem::Lost);
    }
    let mut p = SVector::<f64, 6>::zeros();
    let mut scale = f64::MAX;
    for _ in 0..10 {
        let mut a = SMatrix::<f64, 6, 6>::identity() * 1e-6;
        let mut b = SVector::<f64, 6>::zeros();
        for (r, v) in &samples {
            let w = 1.0 / (1.0 + ((v - r.dot(&p)) / scale).powi(2));
            a += r * r.transpose() * w;
            b += r * (w * v);
        }
        let Some(next) = a.cholesky().map(|c| c.solve(&b)) else { return Err(GradientProblem::Lost) };
        p = next;
        let mut sizes: Vec<f64> = samples.iter().map(|(r, v)| (v - r.dot(&p)).abs()).collect();
        scale = 3.0 * 1.48 * optics::solve::median(&mut sizes) + 0.01;
    }
    let fitted = samples.iter().map(|(r, _)| r.dot(&p));
    let (low, high) = fitted.fold((f64::MAX, f64::MIN), |(l, h), v| (l.min(v), h.max(v)));
    let spread = (samples.iter().map(|(r, v)| (v - r.dot(&p)).powi(2).min(scale * scale)).sum::<f64>()
        / samples.len() as f64)
        .sqrt();
    // the top, where the quadratic falls to every side
    let bend = Matrix2::new(2.0 * p[3], p[4], p[4], 2.0 * p[5]);
    let slope = Vector2::new(p[1], p[2]);
    let top = (bend.trace() < 0.0 && bend.determinant() > 0.0)
        .then(|| bend.try_inverse().map(|i| -(i * slope)))
        .flatten()
        .filter(|t| t.x.abs() < 1.3 && t.y.abs() < 1.3)
        .map(|t| [cx + half * t.x, cy - half * t.y]);
    let l = slope.norm().max(1e-9);
    Ok(GradientReading {
        top,
        towards: [slope.x / l, slope.y / l],
        stops: high - low,
        spread_stops: spread,
        samples: samples.len(),
    })
}
