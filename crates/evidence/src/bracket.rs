//! The camera's tone curve from a bracketed series: one scene, several known exposures.
//!
//! Debevec & Malik 1997: find `g` with `g(Z_ij) = ln E_i + ln x_j` for pixel `i` in frame `j` of relative
//! exposure `x_j`, smooth, least squares, values near black and white weighing less. One curve serves
//! the three channels. It is then made to rise (pool adjacent violators) and pinned at middle grey as encoded.

use nalgebra::{DMatrix, DVector};
use optics::photo::Photo;
use optics::tone::{Encoding, MIDDLE_GREY, linear_to_srgb};

/// A curve with what it was made from.
#[derive(Debug, Clone, PartialEq)]
pub struct BracketCurve {
    /// Scene light for encoded values in steps of 1/255, rising, 0.18 where sRGB has it.
    pub scene: Vec<f64>,
    /// Standard deviation of a sample about the curve in stops.
    pub spread_stops: f64,
    /// Encoded values (of 255) between which the frames say something.
    pub from_to: [usize; 2],
    /// Samples used: pixels times channels.
    pub samples: usize,
}

/// Why a series gives no curve.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum BracketProblem {
    /// Fewer than two exposures.
    #[error("a bracketed series needs at least two frames whose exposures differ by half a stop or more")]
    TooFew,
    /// Not the same scene.
    #[error("the frames of a bracketed series must have one size; found {0}")]
    Sizes(String),
    /// Linear frames.
    #[error("the frames are linear already: they need no curve")]
    Linear,
    /// The pictures contradict the exposures.
    #[error(
        "the pictures do not get brighter with their stated exposures: something moved, the light changed, or the settings are wrong"
    )]
    Contradiction,
}

/// Pixels looked at, on a grid.
const GRID: usize = 22;
/// Weight of smoothness against the samples.
const SMOOTHNESS: f64 = 40.0;
const LEVELS: usize = 256;

/// Trusts the middle of the range most.
fn weight(z: usize) -> f64 {
    let z = z as f64;
    (z.min(255.0 - z) / 127.5).max(0.0)
}

/// Recovers the curve from frames with their relative exposures (time times speed over f-number squared; only ratios count).
/// The photos must be decoded as sRGB.
///
/// # Errors
/// A [`BracketProblem`].
pub fn recover(frames: &[(&Photo, f64)]) -> Result<BracketCurve, BracketProblem> {
    let x: Vec<f64> = frames.iter().map(|f| f.1.ln()).collect();
    let (low, high) = x.iter().fold((f64::MAX, f64::MIN), |(l, h), v| (l.min(*v), h.max(*v)));
    let apart = high - low;
    if frames.len() < 2 || apart.is_nan() || apart < 0.5 * std::f64::consts::LN_2 - 1e-9 {
        return Err(BracketProblem::TooFew);
    }
    let size = |p: &Photo| (p.width(), p.height());
    let first = size(frames[0].0);
    if let Some((p, _)) = frames.iter().find(|f| size(f.0) != first) {
        let text = |s: (u32, u32)| format!("{} x {}", s.0, s.1);
        return Err(BracketProblem::Sizes(format!("{} and {}", text(first), text(size(p)))));
    }
    if frames.iter().all(|f| f.0.is_linear()) {
        return Err(BracketProblem::Linear);
    }
    // Rows of values, one per pixel and channel; steady places only: edges move by a hair.
    let mut rows: Vec<Vec<usize>> = Vec::new();
    for gy in 0..GRID {
        for gx in 0..GRID {
            let at = |g: usize, n: u32| ((g as f64 + 0.5) / GRID as f64 * f64::from(n)) as i64;
            let (px, py) = (at(gx, first.0), at(gy, first.1));
            for channel in 0..3 {
                let read = |p: &Photo| {
                    let mut sum = 0.0;
                    let (mut lo, mut hi) = (f64::MAX, f64::MIN);
                    for dy in -1..=1 {
                        for dx in -1..=1 {
                            let (x, y) = (
                                (px + dx).clamp(0, i64::from(first.0) - 1),
                                (py + dy).clamp(0, i64::from(first.1) - 1),
                            );
                            let v =
                                255.0 * linear_to_srgb(f64::from(p.rgb(x as u32, y as u32)[channel]).clamp(0.0, 1.0));
                            sum += v;
                            (lo, hi) = (lo.min(v), hi.max(v));
                        }
                    }
                    (hi - lo < 14.0).then(|| (sum / 9.0).round() as usize)
                };
                let row: Option<Vec<usize>> = frames.iter().map(|f| read(f.0)).collect();
                rows.extend(row.filter(|r| r.iter().filter(|z| weight(**z) > 0.02).count() >= 2));
            }
        }
    }
    // Spread over the range of brightness, so that one flat wall does not speak for all.
    rows.sort_by_key(|r| r.iter().sum::<usize>());
    let step = rows.len().div_ceil(260).max(1);
    let rows: Vec<Vec<usize>> = rows.into_iter().step_by(step).collect();
    if rows.len() < 12 {
        return Err(BracketProblem::Contradiction);
    }
    let mut trust = vec![1.0; rows.len()];
    let mut g = vec![0.0; LEVELS];
    let mut spread = 0.0;
    for _ in 0..4 {
        g = solve(&rows, &x, &trust).ok_or(BracketProblem::Contradiction)?;
        let errors: Vec<f64> = rows.iter().map(|r| error_of(r, &x, &g)).collect();
        let mut sorted = errors.clone();
        let mid = optics::solve::median(&mut sorted).max(1e-4);
        trust = errors.iter().map(|e| 1.0 / (1.0 + (e / (3.0 * mid)).powi(2))).collect();
        spread = mid;
    }
    let seen = rows.iter().flatten().filter(|z| weight(**z) > 0.02);
    let from_to = seen.fold([255, 0], |[a, b], z| [a.min(*z), b.max(*z)]);
    let rising = g[from_to[1]] - g[from_to[0]];
    if rising < 0.3 || spread > 0.35 {
        return Err(BracketProblem::Contradiction);
    }
    rise(&mut g);
    let grey = 255.0 * linear_to_srgb(MIDDLE_GREY);
    let (i, f) = (grey.floor() as usize, grey.fract());
    let pin = MIDDLE_GREY.ln() - (g[i] + f * (g[i + 1] - g[i]));
    Ok(BracketCurve {
        scene: g.iter().map(|v| (v + pin).exp()).collect(),
        spread_stops: spread / std::f64::consts::LN_2,
        from_to,
        samples: rows.len(),
    })
}

/// Typical distance of a pixel's values from the curve, natural log.
fn error_of(row: &[usize], x: &[f64], g: &[f64]) -> f64 {
    let (mut sum, mut w) = (0.0, 0.0);
    for (z, x) in row.iter().zip(x) {
        sum += weight(*z) * (g[*z] - x);
        w += weight(*z);
    }
    let mean = sum / w.max(1e-9);
    let square: f64 = row.iter().zip(x).map(|(z, x)| weight(*z) * (g[*z] - x - mean).powi(2)).sum();
    (square / w.max(1e-9)).sqrt()
}

/// The linear system of the paper; light of each pixel is eliminated as the weighted mean of its row, which leaves the curve.
fn solve(rows: &[Vec<usize>], x: &[f64], trust: &[f64]) -> Option<Vec<f64>> {
    let mut a = DMatrix::<f64>::zeros(LEVELS, LEVELS);
    let mut b = DVector::<f64>::zeros(LEVELS);
    for (row, t) in rows.iter().zip(trust) {
        let w: Vec<f64> = row.iter().map(|z| weight(*z).powi(2) * t).collect();
        let total: f64 = w.iter().sum();
        if total <= 1e-9 {
            continue;
        }
        let mean_x = w.iter().zip(x).map(|(w, x)| w * x).sum::<f64>() / total;
        for j in 0..row.len() {
            b[row[j]] += w[j] * (x[j] - mean_x);
            a[(row[j], row[j])] += w[j];
            for k in 0..row.len() {
                a[(row[j], row[k])] -= w[j] * w[k] / total;
            }
        }
    }
    for z in 1..LEVELS - 1 {
        let s = SMOOTHNESS * (weight(z) + 0.05).powi(2);
        let row = [(z - 1, 1.0), (z, -2.0), (z + 1, 1.0)];
        for (i, p) in row {
            for (j, q) in row {
                a[(i, j)] += s * p * q;
            }
        }
    }
    a[(128, 128)] += 1.0;
    for z in 0..LEVELS {
        a[(z, z)] += 1e-9;
    }
    a.cholesky().map(|c| c.solve(&b).iter().copied().collect())
}

/// The nearest rising curve (pool adjacent violators).
fn rise(g: &mut [f64]) {
    let mut blocks: Vec<(f64, usize)> = Vec::new();
    for v in g.iter() {
        blocks.push((*v, 1));
        while blocks.len() > 1 && blocks[blocks.len() - 2].0 > blocks[blocks.len() - 1].0 {
            let (v2, n2) = blocks.pop().unwrap_or_default();
            if let Some((v1, n1)) = blocks.last_mut() {
                *v1 = (*v1 * *n1 as f64 + v2 * n2 as f64) / (*n1 + n2) as f64;
                *n1 += n2;
            }
        }
    }
    let mut i = 0;
    for (v, n) in blocks {
        for _ in 0..n {
            g[i] = v + 1e-7 * i as f64;
            i += 1;
        }
    }
}

impl BracketCurve {
    /// The curve as an encoding of a picture's values; black stays black.
    pub fn encoding(&self) -> Encoding {
        let n = (LEVELS - 1) as f64;
        let points = self.scene.iter().enumerate().map(|(i, v)| [i as f64 / n, if i == 0 { 0.0 } else { *v }]);
        Encoding::Curve(points.collect())
    }
}
