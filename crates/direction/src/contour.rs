//! An occluding contour: where a surface turns away from the camera its normal lies in the picture plane.
//!
//! Along the outline `I = max(0, a . n) + b` (Nillius & Eklundh 2001; Johnson & Farid 2005): `a` points to
//! where the light lies round the picture. How far it is from the lens cannot be told from this.

use nalgebra::{Matrix3, Vector3};
use optics::photo::Photo;

/// What an outline says.
#[derive(Debug, Clone)]
pub struct ContourReading {
    /// Unit vector in the picture towards the light: right and up.
    pub towards: [f64; 2],
    /// Standard deviation of its angle, radians.
    pub sd: f64,
    /// Stops between the outline's brightest and darkest turn, as fitted.
    pub contrast_stops: f64,
    /// Root mean square misfit over the brightest fitted value.
    pub residual: f64,
    /// Samples used.
    pub samples: usize,
    /// Degrees of a sample's normal from the brightest turn, its light, and the fit; brightest turn = 1.
    pub points: Vec<[f64; 3]>,
}

/// Why an outline says nothing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum ContourProblem {
    /// Too short.
    #[error("the outline is too short: draw at least 30 pixels of it")]
    Short,
    /// Outside or clipped.
    #[error("most of the outline lies outside the picture or beside clipped parts")]
    Outside,
    /// Too straight.
    #[error("the outline turns by less than 50 degrees: a straight edge cannot say where light comes from")]
    Straight,
    /// No difference along it.
    #[error("the outline is about as bright all along: the light comes from near the lens, or from all around")]
    Even,
}

/// Distances inside the outline at which brightness is taken, in pixels: past its own mixed pixels.
const DEPTHS: [f64; 3] = [2.0, 3.0, 4.0];
/// Samples shown at most.
const PLOTTED: usize = 120;
/// Step along the outline in pixels.
const STEP: f64 = 2.0;
/// Error of the model: surfaces are not quite matte, outlines not quite smooth.
const FLOOR_SD: f64 = 0.05;

/// Reads an outline drawn through `points`; `outward_left` if the background lies on the left hand of one who walks
/// along them, as seen on the screen.
///
/// # Errors
/// A [`ContourProblem`] that says why.
pub fn read(photo: &Photo, points: &[[f64; 2]], outward_left: bool) -> Result<ContourReading, ContourProblem> {
    let line = resample(points, STEP);
    if line.len() < 15 {
        return Err(ContourProblem::Short);
    }
    let span = 4usize;
    let mut rows: Vec<(Vector3<f64>, f64)> = Vec::new();
    for i in 0..line.len() {
        let (p, q) = (line[i.saturating_sub(span)], line[(i + span).min(line.len() - 1)]);
        let (tx, ty) = (q[0] - p[0], q[1] - p[1]);
        let l = tx.hypot(ty);
        if l < STEP {
            continue;
        }
        // left of the walk on the screen, whose y runs down
        let (mut nx, mut ny) = (ty / l, -tx / l);
        if !outward_left {
            (nx, ny) = (-nx, -ny);
        }
        let inside = DEPTHS.map(|d| {
            let (x, y) = (line[i][0] - d * nx, line[i][1] - d * ny);
            let s = photo.get(x.floor() as i64, y.floor() as i64)?;
            if s.clipped { None } else { photo.luminance_between(x, y) }
        });
        let values: Vec<f64> = inside.into_iter().flatten().collect();
        if values.len() == DEPTHS.len() {
            rows.push((Vector3::new(nx, -ny, 1.0), values.iter().sum::<f64>() / values.len() as f64));
        }
    }
    if rows.len() * 2 < line.len() {
        return Err(ContourProblem::Outside);
    }
    let angles: Vec<f64> = rows.iter().map(|r| r.0.y.atan2(r.0.x)).collect();
    if turn(&angles) < 50f64.to_radians() {
        return Err(ContourProblem::Straight);
    }
    let (mut a, mut weights) = (Vector3::zeros(), vec![1.0; rows.len()]);
    let mut normal = Matrix3::zeros();
    for round in 0..25 {
        let lit = |n: &Vector3<f64>| round == 0 || a.x * n.x + a.y * n.y > 0.0;
        normal = Matrix3::identity() * 1e-9;
        let mut rhs = Vector3::zeros();
        for ((n, v), w) in rows.iter().zip(&weights) {
            // on the dark side only the level counts
            let row = if lit(n) { *n } else { Vector3::new(0.0, 0.0, 1.0) };
            normal += row * row.transpose() * *w;
            rhs += row * (*w * *v);
        }
        let Some(next) = normal.cholesky().map(|c| c.solve(&rhs)) else { return Err(ContourProblem::Even) };
        a = next;
        let residuals: Vec<f64> = rows.iter().map(|(n, v)| v - model(&a, n)).collect();
        let mut sizes: Vec<f64> = residuals.iter().map(|r| r.abs()).collect();
        let scale = 2.0 * 1.48 * optics::solve::median(&mut sizes) + 1e-6;
        weights = residuals.iter().map(|r| 1.0 / (1.0 + (r / scale).powi(2))).collect();
    }
    let strength = a.x.hypot(a.y);
    let top = strength + a.z.max(0.0);
    let square = rows.iter().map(|(n, v)| (v - model(&a, n)).powi(2)).sum::<f64>() / rows.len() as f64;
    if strength < 0.08 * top || strength < 2.0 * square.sqrt() {
        return Err(ContourProblem::Even);
    }
    let covariance = normal.try_inverse().ok_or(ContourProblem::Even)? * square;
    let across = Vector3::new(-a.y, a.x, 0.0) / strength;
    // neighbouring samples share pixels: count every fourth
    let variance = 4.0 * across.dot(&(covariance * across)) / (strength * strength);
    let every = rows.len().div_ceil(PLOTTED).max(1);
    let toward = a.y.atan2(a.x);
    let point = |(n, v): &(Vector3<f64>, f64)| {
        let off = (n.y.atan2(n.x) - toward).sin().atan2((n.y.atan2(n.x) - toward).cos()).to_degrees();
        [off, v / top, model(&a, n) / top].map(|v| (1000.0 * v).round() / 1000.0)
    };
    let points = rows.iter().step_by(every).map(point).collect();
    Ok(ContourReading {
        points,
        towards: [a.x / strength, a.y / strength],
        sd: variance.max(0.0).sqrt().hypot(FLOOR_SD),
        contrast_stops: (top / a.z.max(0.02 * top)).log2(),
        residual: square.sqrt() / top,
        samples: rows.len(),
    })
}

fn model(a: &Vector3<f64>, n: &Vector3<f64>) -> f64 {
    (a.x * n.x + a.y * n.y).max(0.0) + a.z
}

/// Width of the smallest arc that holds all angles.
fn turn(angles: &[f64]) -> f64 {
    let mut sorted = angles.to_vec();
    sorted.sort_by(f64::total_cmp);
    let tau = std::f64::consts::TAU;
    let wrap = sorted.first().zip(sorted.last()).map_or(tau, |(f, l)| f + tau - l);
    tau - sorted.windows(2).map(|w| w[1] - w[0]).fold(wrap, f64::max)
}

/// Points at even steps along a line through points.
fn resample(points: &[[f64; 2]], step: f64) -> Vec<[f64; 2]> {
    let mut out = Vec::new();
    let mut left = 0.0;
    for w in points.windows(2) {
        let (dx, dy) = (w[1][0] - w[0][0], w[1][1] - w[0][1]);
        let l = dx.hypot(dy);
        let mut t = left;
        while t < l && out.len() < 20_000 {
            out.push([w[0][0] + dx * t / l, w[0][1] + dy * t / l]);
            t += step;
        }
        left = t - l;
    }
    out
}
