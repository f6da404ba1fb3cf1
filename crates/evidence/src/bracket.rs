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

/// Size of the frames of a series, if they are one.
fn size_of_all(frames: &[(&Photo, f64)]) -> Result<(u32, u32), BracketProblem> {
    let logs = frames.iter().map(|f| f.1.ln());
    let (low, high) = logs.fold((f64::MAX, f64::MIN), |(l, h), v| (l.min(v), h.max(v)));
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
    Ok(first)
}

/// One linear picture out of a series.
#[derive(Debug, Clone, PartialEq)]
pub struct Merged {
    /// Pixels.
    pub width: u32,
    /// Pixels.
    pub height: u32,
    /// Linear red, green, blue, row by row; 1 is white in the frame of the middle exposure.
    pub rgb: Vec<f32>,
    /// Which of the frames that is.
    pub middle: usize,
    /// Share of the pixels that are clipped in every frame: there it is brighter than it says.
    pub clipped: f64,
}

/// Most pixels of a merged picture; a larger series is made smaller by a whole number.
const MOST_MERGED: u64 = 4_000_000;
/// Noise besides the coding: light itself (electrons at white), and what is dark.
const WHITE_ELECTRONS: f64 = 4000.0;
const DARK: f64 = 3e-4;
/// Two frames may differ by so many stops where both are exposed well.
const MOST_APART: f64 = 0.35;

/// Merges frames of one scene from one place, read through their curve, with their relative exposures: each pixel is the mean of
/// what the frames say of it, weighed by their noise (Debevec & Malik 1997; weights after Granados et al. 2010).
///
/// # Errors
/// A [`BracketProblem`].
pub fn merge(frames: &[(&Photo, f64)]) -> Result<Merged, BracketProblem> {
    let (w, h) = size_of_all(frames)?;
    let mut order: Vec<usize> = (0..frames.len()).collect();
    order.sort_by(|a, b| frames[*a].1.total_cmp(&frames[*b].1));
    let middle = order[order.len() / 2];
    let unit = frames[middle].1;
    let shortest = order[0];
    let k = ((f64::from(w) * f64::from(h) / MOST_MERGED as f64).sqrt().ceil() as u32).max(1);
    let (width, height) = ((w / k).max(1), (h / k).max(1));
    let mut rgb = Vec::with_capacity(3 * (width as usize) * (height as usize));
    let mut clipped = 0usize;
    let mut apart: Vec<f64> = Vec::new();
    for y in 0..height {
        for x in 0..width {
            let mut sum = [0.0f64; 3];
            for (i, j) in (0..k * k).map(|n| (n % k, n / k)) {
                let (px, py) = (i64::from(k * x + i), i64::from(k * y + j));
                let mut total = 0.0;
                let mut light = [0.0f64; 3];
                let mut well: Option<f64> = None;
                for (photo, exposure) in frames {
                    let Some(s) = photo.get(px, py).filter(|s| !s.clipped) else { continue };
                    let (e, v) = (exposure / unit, s.luminance().max(0.0));
                    let noise = f64::from(s.coding_sd).powi(2) + v / WHITE_ELECTRONS + DARK * DARK;
                    let weight = e * e / noise;
                    (0..3).for_each(|c| light[c] += weight * f64::from(s.rgb[c]) / e);
                    total += weight;
                    if i + j == 0 && (x + y * width).is_multiple_of(37) && (0.05..0.6).contains(&v) {
                        let stops = (v / e).log2();
                        apart.extend(well.map(|w| (w - stops).abs()));
                        well = Some(stops);
                    }
                }
                if total > 0.0 {
                    (0..3).for_each(|c| sum[c] += light[c] / total);
                } else {
                    clipped += 1;
                    let least = frames[shortest].0.rgb(px as u32, py as u32);
                    let e = frames[shortest].1 / unit;
                    (0..3).for_each(|c| sum[c] += f64::from(least[c]) / e);
                }
            }
            rgb.extend(sum.map(|v| (v / f64::from(k * k)) as f32));
        }
    }
    if apart.len() >= 20 && optics::solve::median(&mut apart) > MOST_APART {
        return Err(BracketProblem::Contradiction);
    }
    let all = f64::from(k * k) * f64::from(width) * f64::from(height);
    Ok(Merged { width, height, rgb, middle, clipped: clipped as f64 / all })
}

/// Recovers the curve from frames with their relative exposures (time times speed over f-number squared; only ratios count).
/// The photos must be decoded as sRGB.
///
/// # Errors
/// A [`BracketProblem`].
pub fn recover(frames: &[(&Photo, f64)]) -> Result<BracketCurve, BracketProblem> {
    let x: Vec<f64> = frames.iter().map(|f| f.1.ln()).collect();
    let first = size_of_all(frames)?;
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
