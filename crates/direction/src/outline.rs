//! Refines a marked circle or ellipse on the picture.
//!
//! Marks are a pixel or two off, and a limbus drawn 2 % too flat already turns the eye by 11
//! degrees. Along many rays the steepest edge near the mark is found to a fraction of a pixel, and
//! a robust fit draws the outline through them. Where the picture agrees with the mark within the
//! error of the fit, the mark is kept as it is.

use crate::shapes::Ellipse;
use nalgebra::{SMatrix, SVector};
use optics::photo::Photo;
use optics::solve::median;
use std::f64::consts::PI;

/// Which edges count.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum EdgeKind {
    /// Any step.
    Any,
    /// Dark inside, bright outside (iris to white).
    DarkInside,
}

/// A refined outline.
#[derive(Debug, Clone, Copy)]
pub struct Refined {
    /// The outline.
    pub ellipse: Ellipse,
    /// Standard deviation of its points in pixels.
    pub sd_px: f64,
    /// Whether the picture moved it away from the mark.
    pub moved: bool,
    /// Share of the rays on which an edge was found.
    pub support: f64,
}

/// Refines a circle.
pub fn refine_circle(photo: &Photo, centre: [f64; 2], radius: f64) -> Refined {
    let start = Ellipse { centre, rx: radius, ry: radius, angle_deg: 0.0 };
    refine::<3>(photo, start, EdgeKind::Any)
}

/// Refines an ellipse (five parameters).
pub fn refine_ellipse(photo: &Photo, start: Ellipse, kind: EdgeKind) -> Refined {
    refine::<5>(photo, start, kind)
}

/// An edge found along one ray: angle, offset from the start outline in pixels, strength.
struct Edge {
    angle: f64,
    offset: f64,
    strength: f64,
}

/// `P` = 3: radial offset `dx cos + dy sin + dr`; `P` = 5: with the two flattening terms
/// `c2 cos 2t + s2 sin 2t` (an ellipse near a circle to first order).
fn refine<const P: usize>(photo: &Photo, start: Ellipse, kind: EdgeKind) -> Refined {
    let r = (start.rx * start.ry).sqrt();
    // A careful mark, set with the loupe and nudged by pixels, lies within a third of a pixel (0.2 px
    // as a standard deviation); on a large picture seen reduced it is coarser.
    let kept = Refined { ellipse: start, sd_px: (0.002 * r).max(0.2), moved: false, support: 0.0 };
    if r < 5.0 {
        return Refined { sd_px: 0.7, ..kept };
    }
    let reach = (0.05 * r).clamp(3.0, 12.0);
    let mut current = start;
    let mut result = kept;
    for _ in 0..3 {
        let edges = find_edges(photo, &current, reach, kind);
        let Some((p, sd, support)) = fit_offsets::<P>(&edges) else {
            return kept;
        };
        current = apply(&current, p.as_slice());
        let shift = (0..72).map(|i| offset_between(&start, &current, f64::from(i) * PI / 36.0)).fold(0.0, f64::max);
        if shift > 1.5 * reach || !(current.rx > 2.0 && current.ry > 2.0) {
            return kept;
        }
        result = Refined { ellipse: current, sd_px: sd, moved: true, support };
    }
    // Keep the mark where the picture does not contradict it.
    let rms = ((0..72).map(|i| offset_between(&start, &result.ellipse, f64::from(i) * PI / 36.0).powi(2)).sum::<f64>()
        / 72.0)
        .sqrt();
    if rms < 0.35_f64.max(1.5 * result.sd_px) {
        return Refined { ellipse: start, moved: false, sd_px: result.sd_px.max(0.1), ..result };
    }
    result
}

fn radius_at(e: &Ellipse, angle: f64) -> f64 {
    let t = angle - e.angle_deg.to_radians();
    let (s, c) = t.sin_cos();
    1.0 / ((c / e.rx).powi(2) + (s / e.ry).powi(2)).sqrt()
}

fn offset_between(a: &Ellipse, b: &Ellipse, angle: f64) -> f64 {
    let (s, c) = angle.sin_cos();
    let shift = (b.centre[0] - a.centre[0]) * c + (b.centre[1] - a.centre[1]) * s;
    (radius_at(b, angle) + shift - radius_at(a, angle)).abs()
}

fn find_edges(photo: &Photo, e: &Ellipse, reach: f64, kind: EdgeKind) -> Vec<Edge> {
    const RAYS: usize = 144;
    let step = 0.25;
    let n = (2.0 * reach / step) as usize + 1;
    let mut edges = Vec::with_capacity(RAYS);
    let mut profile = vec![0.0; n];
    for i in 0..RAYS {
        let angle = 2.0 * PI * i as f64 / RAYS as f64;
        let (s, c) = angle.sin_cos();
        let base = radius_at(e, angle) - reach;
        let mut inside = true;
        for (k, p) in profile.iter_mut().enumerate() {
            let rad = base + k as f64 * step;
            match photo.luminance_between(e.centre[0] + rad * c, e.centre[1] + rad * s) {
                Some(l) => *p = l.max(0.0),
                None => inside = false,
            }
        }
        if !inside {
            continue;
        }
        // Slope over two pixels, in linear light: a half-covered pixel then lies on the edge.
        let half = 4;
        let slope = |k: usize| profile[k + half] - profile[k - half];
        let signed = |k: usize| if kind == EdgeKind::DarkInside { slope(k) } else { slope(k).abs() };
        let Some(best) = (half..n - half).max_by(|&a, &b| signed(a).total_cmp(&signed(b))) else {
            continue;
        };
        // A step in the dark counts as much as one in the light.
        let strength = signed(best) / (profile[best + half] + profile[best - half] + 0.01);
        if strength < 0.06 || best <= half || best >= n - half - 1 {
            continue;
        }
        // An outline is sharp; shading turns slowly. Over a wider span a sharp edge gains little.
        let wide = 10.min(best).min(n - 1 - best);
        if wide > 6 && (profile[best + wide] - profile[best - wide]).abs() > 1.6 * signed(best) {
            continue;
        }
        // centroid of the slope around its peak
        let (mut sw, mut sx) = (0.0, 0.0);
        for k in best.saturating_sub(6).max(half)..(best + 7).min(n - half) {
            let w = signed(k).max(0.0) - 0.3 * signed(best);
            if w > 0.0 {
                sw += w;
                sx += w * k as f64;
            }
        }
        edges.push(Edge { angle, offset: sx / sw * step - reach, strength });
    }
    edges
}

fn fit_offsets<const P: usize>(edges: &[Edge]) -> Option<(SVector<f64, P>, f64, f64)> {
    let needed = if P == 3 { 30 } else { 40 };
    if edges.len() < needed {
        return None;
    }
    let row = |t: f64| {
        let all = [t.cos(), t.sin(), 1.0, (2.0 * t).cos(), (2.0 * t).sin()];
        SVector::<f64, P>::from_fn(|i, _| all[i])
    };
    let top = edges.iter().map(|e| e.strength).fold(0.0, f64::max);
    let mut p = SVector::<f64, P>::zeros();
    let mut scale = 3.0;
    let mut good = 0;
    let mut sd = 0.0;
    for _ in 0..12 {
        let mut a = SMatrix::<f64, P, P>::identity() * 0.02;
        let mut b = SVector::<f64, P>::zeros();
        let mut residuals = Vec::with_capacity(edges.len());
        good = 0;
        for e in edges {
            let f = row(e.angle);
            let res = e.offset - f.dot(&p);
            residuals.push(res.abs());
            let w = (e.strength / top).sqrt() / (1.0 + (res / scale).powi(2)).powi(2);
            good += usize::from(res.abs() < 3.0 * scale);
            a += f * f.transpose() * w;
            b += f * (w * e.offset);
        }
        p = a.cholesky()?.solve(&b);
        let mad = 1.48 * median(&mut residuals);
        scale = (1.5 * mad).clamp(0.2, 3.0);
        sd = mad;
    }
    // Arc covered: the inliers must surround the outline, or the fit slides.
    let mut sectors = [0usize; 12];
    for e in edges {
        if (e.offset - row(e.angle).dot(&p)).abs() < 3.0 * scale {
            sectors[((e.angle / (2.0 * PI) * 12.0) as usize).min(11)] += 1;
        }
    }
    let covered = sectors.iter().filter(|n| **n >= 4).count();
    if good < needed || covered < if P == 3 { 4 } else { 6 } || sd > 2.0 {
        return None;
    }
    let point_sd = (sd / (good as f64 / P as f64).sqrt() * 1.5).max(0.1);
    Some((p, point_sd, good as f64 / 144.0))
}

fn apply(e: &Ellipse, p: &[f64]) -> Ellipse {
    let mut out = *e;
    out.centre[0] += p[0];
    out.centre[1] += p[1];
    if p.len() == 3 {
        out.rx += p[2];
        out.ry += p[2];
        return out;
    }
    // radius(t) = m + C cos 2t + S sin 2t, existing flattening included to first order
    let m = f64::midpoint(e.rx, e.ry) + p[2];
    let k = (e.rx - e.ry) / 2.0;
    let (s2, c2) = (2.0 * e.angle_deg.to_radians()).sin_cos();
    let (cc, ss) = (k * c2 + p[3], k * s2 + p[4]);
    let k = cc.hypot(ss);
    out.rx = m + k;
    out.ry = m - k;
    out.angle_deg = ss.atan2(cc).to_degrees() / 2.0;
    out
}
