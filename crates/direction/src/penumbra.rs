//! The edge of a shadow: how wide it is against the gap that casts it tells the light's angle.
//!
//! A straight edge before a disc of full angle `a` at the gap `g` gives a turn from light to dark over
//! `2 g tan(a / 2)`; its shape is the share of a disc cut off by a chord. The profile across the drawn
//! line is fitted with that shape, blurred by a pixel, along several parallel lines, so that a slanted
//! or curved edge does not look wider. The 10 to 90 % width of the shape is 0.687 of the whole (common
//! in texts as `w = 1.374 g tan(a / 2)`); a strip's is 0.8 of it.

use nalgebra::{DVector, Matrix3};
use optics::geometry::Vec3;
use optics::photo::Photo;
use optics::solve::levenberg_marquardt;

/// What an edge says.
#[derive(Debug, Clone)]
pub struct EdgeReading {
    /// Width from 10 to 90 % in pixels, across the edge.
    pub width_px: f64,
    /// Standard deviation of its natural log.
    pub log_width_sd: f64,
    /// Stops between the light and the dark side.
    pub step_stops: f64,
    /// Full angle of the light in radians, with the standard deviation of its natural log; `None` without
    /// gap and scale.
    pub angle: Option<(f64, f64)>,
    /// Narrower than the picture can resolve: the angle is an upper bound.
    pub unresolved: bool,
    /// Pixels across the edge, light, and the fit: a sample of the points.
    pub points: Vec<[f64; 3]>,
}

/// Why an edge could not be read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum EdgeProblem {
    /// Too short a line.
    #[error("the line is too short: draw it across the whole edge, from full light to full shadow")]
    Short,
    /// Part of it outside or clipped.
    #[error("the line leaves the picture or crosses clipped parts")]
    Outside,
    /// No edge on it.
    #[error("no edge between light and shadow is found on the line")]
    NoEdge,
}

/// Parallel lines, pixels apart, to each side of the drawn one.
const LINES: i32 = 5;

/// Samples shown at most.
const PLOTTED: usize = 140;

/// Share of a unit disc on one side of a chord at `u`.
fn cut(u: f64) -> f64 {
    let u = u.clamp(-1.0, 1.0);
    0.5 + (u * (1.0 - u * u).sqrt() + u.asin()) / std::f64::consts::PI
}

/// Reads the edge that the line from `a` to `b` crosses.
///
/// # Errors
/// An [`EdgeProblem`] that says why.
pub fn read(
    photo: &Photo,
    a: [f64; 2],
    b: [f64; 2],
    gap_m: Option<f64>,
    px_per_m: Option<f64>,
) -> Result<EdgeReading, EdgeProblem> {
    let length = (b[0] - a[0]).hypot(b[1] - a[1]);
    if length < 5.0 {
        return Err(EdgeProblem::Short);
    }
    let (ux, uy) = ((b[0] - a[0]) / length, (b[1] - a[1]) / length);
    let step = 0.5;
    let n = (length / step) as usize + 1;
    let mut rows: Vec<(f64, Vec<f64>)> = Vec::new();
    for k in -LINES..=LINES {
        let o = f64::from(k);
        let row: Option<Vec<f64>> = (0..n)
            .map(|i| {
                let t = i as f64 * step;
                let (x, y) = (a[0] + ux * t - uy * o, a[1] + uy * t + ux * o);
                let clipped = photo.get(x.floor() as i64, y.floor() as i64)?.clipped;
                if clipped { None } else { photo.luminance_between(x, y) }
            })
            .collect();
        rows.extend(row.map(|r| (o, r)));
    }
    if rows.len() < 3 {
        return Err(EdgeProblem::Outside);
    }
    // Where each line crosses the half level, and how that moves from line to line.
    let crossings: Vec<(f64, f64)> = rows.iter().filter_map(|(o, r)| Some((*o, half_level(r)? * step))).collect();
    if crossings.len() < 3 {
        return Err(EdgeProblem::NoEdge);
    }
    let (c0, c1, c2) = parabola(&crossings);
    let cos = 1.0 / (1.0 + c1 * c1).sqrt();
    // All samples as distances across the edge.
    let mut points: Vec<(f64, f64)> = Vec::new();
    for (o, r) in &rows {
        let at = c0 + c1 * o + c2 * o * o;
        points.extend(r.iter().enumerate().map(|(i, v)| ((i as f64 * step - at) * cos, *v)));
    }
    points.sort_by(|p, q| p.0.total_cmp(&q.0));
    let ends = points.len() / 10 + 1;
    let mean = |p: &[(f64, f64)]| p.iter().map(|q| q.1).sum::<f64>() / p.len() as f64;
    let (lo, hi) = (mean(&points[..ends]), mean(&points[points.len() - ends..]));
    let (bright, dark) = (lo.max(hi), lo.min(hi));
    if bright < 1.06 * dark + 0.002 {
        return Err(EdgeProblem::NoEdge);
    }
    // A pixel gathers light over its square, reading between pixels over another: six points of a tent.
    const BLUR: [(f64, f64); 5] = [(-0.8, 0.06), (-0.4, 0.24), (0.0, 0.40), (0.4, 0.24), (0.8, 0.06)];
    let model = |p: &DVector<f64>, t: f64| {
        let r = p[1].exp();
        let s: f64 = BLUR.iter().map(|(d, w)| w * cut((t - p[0] + d) / r)).sum();
        p[2] + (p[3] - p[2]) * s
    };
    let scale = 0.01 * bright;
    let fit = [0.12, 0.35]
        .into_iter()
        .map(|share| {
            let start = DVector::from_vec(vec![0.0, (share * length).max(0.6).ln(), lo, hi]);
            levenberg_marquardt(
                start,
                &[0.01, 0.01, 1e-4, 1e-4],
                25,
                |p| DVector::from_iterator(points.len(), points.iter().map(|(t, v)| (model(p, *t) - v) / scale)),
                |p| {
                    p[0] = p[0].clamp(-0.4 * length, 0.4 * length);
                    p[1] = p[1].clamp(f64::ln(0.2), (2.0 * length).ln());
                },
            )
        })
        .min_by(|p, q| p.cost.total_cmp(&q.cost))
        .ok_or(EdgeProblem::NoEdge)?;
    let radius = fit.x[1].exp();
    let info = fit.jacobian.tr_mul(&fit.jacobian) + nalgebra::DMatrix::identity(4, 4) * 1e-9;
    // neighbouring lines share the picture's pixels: one sample in three counts
    let noise = (fit.cost / points.len() as f64).max(0.02) * 3.0;
    let fit_sd = info.try_inverse().map_or(0.5, |c| (c[(1, 1)].max(0.0) * noise).sqrt());
    let unresolved = radius < 0.9;
    // how the lens blurs is not known: a fifth of a pixel in the radius, and the source may be square
    let log_width_sd = fit_sd.hypot(0.22 / radius).hypot(0.02).min(1.5);
    let angle = gap_m.zip(px_per_m).filter(|(g, k)| *g > 0.0 && *k > 0.0).map(|(g, k)| {
        let a = 2.0 * (radius / k / g).atan();
        (a, log_width_sd.hypot(0.04))
    });
    let every = points.len().div_ceil(PLOTTED).max(1);
    let shown = points.iter().step_by(every).map(|(t, v)| [*t, *v, model(&fit.x, *t)]).collect();
    Ok(EdgeReading {
        points: shown,
        width_px: 1.374 * radius,
        log_width_sd,
        step_stops: (bright / dark.max(1e-5)).log2(),
        angle,
        unresolved,
    })
}

/// Index at which a profile crosses the middle between its ends.
fn half_level(r: &[f64]) -> Option<f64> {
    let k = r.len() / 10 + 1;
    let mean = |s: &[f64]| s.iter().sum::<f64>() / s.len() as f64;
    let (a, b) = (mean(&r[..k]), mean(&r[r.len() - k..]));
    if (a - b).abs() < 0.04 * a.max(b) {
        return None;
    }
    let middle = f64::midpoint(a, b);
    // from both ends inwards: noise near the middle then cancels
    let first = (1..r.len()).find(|i| (r[*i] - middle).signum() != (a - middle).signum())?;
    let last = (0..r.len() - 1).rev().find(|i| (r[*i] - middle).signum() != (b - middle).signum())?;
    Some((first as f64 + last as f64) / 2.0)
}

/// Least-squares parabola through points; straight if there are few.
fn parabola(p: &[(f64, f64)]) -> (f64, f64, f64) {
    let mut m = Matrix3::zeros();
    let mut v = Vec3::zeros();
    for (x, y) in p {
        let f = Vec3::new(1.0, *x, x * x);
        m += f * f.transpose();
        v += f * *y;
    }
    m[(2, 2)] += 50.0;
    m[(1, 1)] += 1e-6;
    m.try_inverse().map_or((p[p.len() / 2].1, 0.0, 0.0), |i| {
        let c = i * v;
        (c.x, c.y, c.z)
    })
}
