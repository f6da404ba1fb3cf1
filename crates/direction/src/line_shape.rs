//! A bright line as a source seen in a surface that is not quite a mirror.
//!
//! Across the line the light is that of a source with two edges, blurred by the roughness of the surface: `A / 2 (erf((x - a) / (s sqrt
//! 2)) - erf((x - b) / (s sqrt 2)))` over a sloping ground, cut off where the picture clips. The edges, the blur, the height and the
//! ground are fitted together; microfacets with normally distributed slopes (Beckmann and Spizzichino 1963) blur the azimuth alike
//! all round. A surface blurs all its lines alike: what the sharpest edge shows is the surface, what another has more is its source.

use nalgebra::{DMatrix, DVector};
use optics::solve::levenberg_marquardt;

/// A sample across: azimuth in radians, light, and whether it is clipped.
pub(crate) type Sample = (f64, f64, bool);

/// What was fitted to a line.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Shape {
    /// Edges, radians.
    pub from: f64,
    pub to: f64,
    /// Blur, one standard deviation, radians.
    pub blur: f64,
    /// Standard deviation of an edge, and of the natural logarithm of the blur.
    pub edge_sd: f64,
    pub blur_sd: f64,
    /// Sum of squares of what is left over, in units of the noise.
    pub cost: f64,
    /// Root mean square of what is left over, of the height.
    pub left: f64,
}

/// Known blur of a surface: natural logarithm and its standard deviation.
pub(crate) type Blur = (f64, f64);

/// What is not known of any surface: lacquer and glass blur by one to eight degrees.
pub(crate) const ANY: Blur = (-2.9, 0.8);

/// Noise of light: a part of it, and least.
const SHARE: f64 = 0.03;
const LEAST: f64 = 0.004;
/// Near white a camera's curve bends what is left: so much more noise at white.
const BENT: f64 = 0.12;
/// Narrowest source, and most that a blurred line's source may be brighter than the line, natural logarithm.
const NARROWEST: f64 = 0.015;
const BRIGHTEST: f64 = 3.5;
/// Spread of how much brighter, where the line is seen whole and where it is clipped.
const BRIGHTER: [f64; 2] = [1.0, 2.0];
/// Widest and least blur, radians.
const WIDEST_BLUR: f64 = 0.45;
const LEAST_BLUR: f64 = 0.006;
/// Of 10 to 90 % of an edge to the blur's standard deviation.
pub(crate) const RISE: f64 = 2.563;

fn model(x: f64, p: &DVector<f64>, middle: f64) -> f64 {
    let s = p[2].exp() * std::f64::consts::SQRT_2;
    let line = 0.5 * (libm::erf((x - p[0]) / s) - libm::erf((x - p[1]) / s));
    p[4] + p[5] * (x - middle) + p[3].exp() * line
}

/// Fits a line that was found from `from` to `to` with its peak over the ground; `apart`: samples that are one pixel.
pub(crate) fn fit(samples: &[Sample], from: f64, to: f64, ground: f64, blur: Blur, apart: f64) -> Option<Shape> {
    let peak = samples.iter().map(|s| s.1).fold(0.0, f64::max);
    let height = peak - ground;
    if samples.len() < 12 || height <= 0.0 || to - from < 1e-3 {
        return None;
    }
    let middle = f64::midpoint(from, to);
    let burnt = samples.iter().filter(|s| s.2).count() > 2;
    let noise = |v: f64| SHARE * v + LEAST + BENT * v * (v / 0.9).clamp(0.0, 1.0).powi(4);
    let thin = apart.max(1.0).sqrt();
    let wide = to - from;
    let start_blur = blur.0.min((0.35 * wide).max(LEAST_BLUR).ln());
    let start = DVector::from_vec(vec![from, to, start_blur, height.ln(), ground, 0.0]);
    let residuals = |p: &DVector<f64>| {
        let mut r: Vec<f64> = samples
            .iter()
            .map(|(x, v, clipped)| {
                let m = model(*x, p, middle);
                // a clipped sample is at least so bright
                let off = if *clipped { (v - m).max(0.0) } else { m - v };
                off / (noise(*v) * thin)
            })
            .collect();
        r.push((p[2] - blur.0) / blur.1);
        // a source far brighter than its line is the exception
        r.push((p[3] - height.ln()) / BRIGHTER[usize::from(burnt)]);
        DVector::from_vec(r)
    };
    let clamp = |p: &mut DVector<f64>| {
        p[2] = p[2].clamp(LEAST_BLUR.ln(), WIDEST_BLUR.ln());
        p[3] = p[3].clamp(height.ln() - 0.4, height.ln() + BRIGHTEST);
        p[4] = p[4].max(0.0);
        if p[1] - p[0] < NARROWEST {
            let m = f64::midpoint(p[0], p[1]);
            p[0] = m - NARROWEST / 2.0;
            p[1] = m + NARROWEST / 2.0;
        }
    };
    let best = levenberg_marquardt(start, &[1e-4, 1e-4, 1e-3, 1e-3, 1e-5, 1e-5], 24, residuals, clamp);
    let n = samples.len() as f64 / apart.max(1.0);
    let jtj: DMatrix<f64> = best.jacobian.tr_mul(&best.jacobian);
    let cov = (jtj + DMatrix::identity(6, 6) * 1e-9).try_inverse()?;
    // as unsure as what is left over says
    let scale = (best.cost / (n - 6.0).max(1.0)).max(1.0);
    let p = &best.x;
    let inside: Vec<f64> = samples
        .iter()
        .filter(|s| !s.2)
        .map(|(x, v, _)| ((model(*x, p, middle) - v) / p[3].exp().min(height * 1.5)).powi(2))
        .collect();
    let left = (inside.iter().sum::<f64>() / inside.len().max(1) as f64).sqrt();
    Some(Shape {
        from: p[0],
        to: p[1],
        blur: p[2].exp(),
        edge_sd: (cov[(0, 0)].max(cov[(1, 1)]).max(0.0) * scale).sqrt(),
        blur_sd: (cov[(2, 2)].max(0.0) * scale).sqrt(),
        cost: best.cost,
        left,
    })
}

/// Blurs tried, radians, and what a line may cost more with a source of its own softness.
const TRIED: [f64; 9] = [0.012, 0.02, 0.03, 0.043, 0.06, 0.08, 0.105, 0.135, 0.17];
const SOFT_SOURCE: f64 = 4.0;
/// Spread of a blur that is held, natural log.
const HELD: f64 = 0.02;
/// What a blur costs that a line cannot be fitted with, and least spread of a blur, natural log.
const UNFITTED: f64 = 1000.0;
const LEAST_BLUR_SD: f64 = 0.12;
/// So much sharper than the surface no line is, natural log.
const SHARPER: f64 = 0.2;

/// The blur that the lines of one surface share, each fitted by `fit` under what is known of the blur: the sharpest sets it, softer ones
/// may be of soft sources. With it comes each line as it is fitted by itself.
pub(crate) fn surface(lines: usize, fit: impl Fn(usize, Blur) -> Option<Shape>) -> (Blur, Vec<Option<Shape>>) {
    let alone: Vec<Option<Shape>> = (0..lines).map(|k| fit(k, ANY)).collect();
    let costs: Vec<(f64, f64)> = TRIED
        .iter()
        .map(|blur| {
            let prior = ((blur.ln() - ANY.0) / ANY.1).powi(2);
            let each = alone.iter().enumerate().filter_map(|(k, alone)| {
                let alone = (*alone)?;
                let held = fit(k, (blur.ln(), HELD)).map_or(alone.cost + UNFITTED, |f| f.cost);
                let softer = alone.blur.ln() > blur.ln() - SHARPER;
                Some(if softer { held.min(alone.cost + SOFT_SOURCE) } else { held })
            });
            (blur.ln(), prior + each.sum::<f64>())
        })
        .collect();
    let least = costs.iter().map(|c| c.1).fold(f64::MAX, f64::min);
    let weight = |c: f64| (-0.5 * (c - least)).exp();
    let sum: f64 = costs.iter().map(|c| weight(c.1)).sum();
    let mean = costs.iter().map(|c| c.0 * weight(c.1)).sum::<f64>() / sum;
    let var = costs.iter().map(|c| (c.0 - mean).powi(2) * weight(c.1)).sum::<f64>() / sum;
    ((mean, var.sqrt().hypot(LEAST_BLUR_SD)), alone)
}

/// Edges at half height of a source whose own edges fade by `fade` (one standard deviation).
pub(crate) fn half_height(from: f64, to: f64, fade: f64) -> [f64; 2] {
    let (middle, half) = (f64::midpoint(from, to), (to - from) / 2.0);
    if fade < 1e-4 || half > 3.0 * fade {
        return [from, to];
    }
    let s = fade * std::f64::consts::SQRT_2;
    let at = |x: f64| 0.5 * (libm::erf((x + half) / s) - libm::erf((x - half) / s));
    let top = at(0.0);
    let (mut lo, mut hi) = (0.0, half + 4.0 * fade);
    for _ in 0..40 {
        let mid = f64::midpoint(lo, hi);
        if at(mid) > 0.5 * top { lo = mid } else { hi = mid }
    }
    [middle - lo, middle + lo]
}

#[cfg(test)]
mod tests {
    use super::*;

    fn drawn(from: f64, to: f64, blur: f64, white: f64) -> Vec<Sample> {
        let p = DVector::from_vec(vec![from, to, blur.ln(), (0.6f64).ln(), 0.05, 0.0]);
        (0..300)
            .map(|k| {
                let x = -1.0 + 0.0067 * f64::from(k);
                let v = model(x, &p, 0.0);
                (x, v.min(white), v >= white)
            })
            .collect()
    }

    #[test]
    fn what_was_blurred_is_found_again() {
        for (from, to, blur) in [(-0.2, 0.1, 0.05), (0.0, 0.12, 0.03), (-0.5, 0.2, 0.1)] {
            let f = fit(&drawn(from, to, blur, 2.0), from - 0.03, to + 0.03, 0.05, ANY, 4.0).unwrap();
            assert!((f.from - from).abs() < 0.012 && (f.to - to).abs() < 0.012, "{f:?} for {from} {to}");
            assert!((f.blur / blur).ln().abs() < 0.12, "{f:?} for {blur}");
        }
    }

    #[test]
    fn a_clipped_line_is_as_wide_as_it_was() {
        let f = fit(&drawn(-0.2, 0.1, 0.06, 0.3), -0.25, 0.15, 0.05, ANY, 4.0).unwrap();
        assert!((f.to - f.from - 0.3).abs() < 0.05, "{f:?}");
    }

    #[test]
    fn a_gaussian_falls_to_half_at_its_own_width() {
        // 2.3548 standard deviations (tables of the normal distribution)
        let [a, b] = half_height(-0.001, 0.001, 0.1);
        assert!((b - a - 0.23548).abs() < 1e-4);
        assert_eq!(half_height(-1.0, 1.0, 0.0), [-1.0, 1.0]);
    }
}
