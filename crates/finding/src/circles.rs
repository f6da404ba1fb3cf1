//! Circles in a picture: edge points vote for centres along their gradients (Kimme, Ballard & Sklansky
//! 1975), one octave of radii at a time, and each candidate is fitted to the points that agree.

use super::small::{EdgePoint, Small};

/// A circle on the reduced picture.
#[derive(Debug, Clone, Copy)]
pub(super) struct Circle {
    pub x: f64,
    pub y: f64,
    pub r: f64,
    /// Share of its round on which an edge lies.
    pub coverage: f64,
}

/// Smallest radius looked for, in pixels of the reduced picture.
const SMALLEST: f64 = 6.0;
/// Candidates kept of an octave of radii.
const PER_OCTAVE: usize = 14;
/// Sectors in which a circle is covered or not.
const SECTORS: usize = 48;
/// Coverage under which a circle is none: half a ball may melt into a dark ground.
const COVERED: f64 = 0.34;

/// Circles, the best covered first.
pub(super) fn find(small: &Small) -> Vec<Circle> {
    let largest = 0.55 * small.width.min(small.height) as f64;
    let mut all: Vec<Circle> = Vec::new();
    let mut low = SMALLEST;
    while low < largest {
        let high = (2.0 * low).min(largest);
        all.extend(octave(small, low, high).into_iter().filter_map(|c| settle(&small.edges, c)));
        low = high;
    }
    all.retain(|c| {
        let inside = |v: f64, top: usize| v > -0.2 * c.r && v < top as f64 + 0.2 * c.r;
        c.coverage >= COVERED && c.r <= largest && inside(c.x, small.width) && inside(c.y, small.height)
    });
    all.sort_by(|a, b| b.coverage.total_cmp(&a.coverage));
    let mut out: Vec<Circle> = Vec::new();
    for c in all {
        let same = |o: &Circle| (c.x - o.x).hypot(c.y - o.y) < 0.35 * o.r && (0.75..1.33).contains(&(c.r / o.r));
        if !out.iter().any(same) {
            out.push(c);
        }
    }
    out
}

/// Centres with many votes for radii from `low` to `high`, each with the radius range it was found in.
fn octave(small: &Small, low: f64, high: f64) -> Vec<(f64, f64, f64, f64)> {
    // A direction is a degree or two off: cells grow with the radius.
    let cell = (0.05 * low).max(1.0);
    let (w, h) = ((small.width as f64 / cell) as usize + 1, (small.height as f64 / cell) as usize + 1);
    let mut votes = vec![0f32; w * h];
    let step = (0.5 * cell).max(0.7);
    let n = ((high - low) / step).ceil() as usize;
    for e in &small.edges {
        for sign in [-1.0, 1.0] {
            let mut last = usize::MAX;
            for k in 0..=n {
                let r = sign * (low + k as f64 * step);
                let (x, y) =
                    ((f64::from(e.x) + r * f64::from(e.dx)) / cell, (f64::from(e.y) + r * f64::from(e.dy)) / cell);
                if x < 0.0 || y < 0.0 || x >= w as f64 || y >= h as f64 {
                    continue;
                }
                let i = y as usize * w + x as usize;
                if i != last {
                    votes[i] += 1.0;
                    last = i;
                }
            }
        }
    }
    let sum = |x: usize, y: usize| -> f32 {
        let range = |c: usize, top: usize| c.saturating_sub(1)..(c + 2).min(top);
        range(y, h).flat_map(|yy| range(x, w).map(move |xx| (xx, yy))).map(|(xx, yy)| votes[yy * w + xx]).sum()
    };
    let mut peaks: Vec<(f32, usize, usize)> = Vec::new();
    let blurred: Vec<f32> = (0..w * h).map(|i| sum(i % w, i / w)).collect();
    for y in 0..h {
        for x in 0..w {
            let v = blurred[y * w + x];
            let range = |c: usize, top: usize| c.saturating_sub(2)..(c + 3).min(top);
            let top = range(y, h).all(|yy| range(x, w).all(|xx| blurred[yy * w + xx] <= v));
            if top && f64::from(v) > 0.2 * std::f64::consts::TAU * low {
                peaks.push((v, x, y));
            }
        }
    }
    peaks.sort_by(|a, b| b.0.total_cmp(&a.0));
    peaks.truncate(PER_OCTAVE);
    peaks.into_iter().map(|(_, x, y)| ((x as f64 + 0.5) * cell, (y as f64 + 0.5) * cell, low, high)).collect()
}

/// Finds the radius with most agreeing points round a centre and fits the circle to them.
fn settle(edges: &[EdgePoint], (x, y, low, high): (f64, f64, f64, f64)) -> Option<Circle> {
    let mut circle = Circle { x, y, r: 0.0, coverage: 0.0 };
    let near: Vec<&EdgePoint> = edges
        .iter()
        .filter(|e| {
            let d = (f64::from(e.x) - x).hypot(f64::from(e.y) - y);
            d > 0.8 * low && d < 1.25 * high
        })
        .collect();
    let mut best = 0.0;
    let mut r = low;
    while r <= high {
        let tolerance = (0.05 * r).max(1.5);
        let c = Circle { r, ..circle };
        let covered = coverage(&c, &near, tolerance);
        if covered > best {
            (best, circle) = (covered, c);
        }
        r += 0.5 * tolerance;
    }
    if best < 0.25 {
        return None;
    }
    for round in 0..6 {
        let tolerance = (0.05 * circle.r).max(1.5) * if round < 3 { 1.0 } else { 0.6 };
        circle = fit(&circle, &near, tolerance)?;
    }
    circle.coverage = coverage(&circle, &near, (0.015 * circle.r).max(1.0));
    (circle.r > 0.8 * low && circle.r < 1.25 * high).then_some(circle)
}

/// Offset from the circle and angle, for points whose gradient points to or from the centre.
fn agree(c: &Circle, e: &EdgePoint) -> Option<(f64, f64)> {
    let (dx, dy) = (f64::from(e.x) - c.x, f64::from(e.y) - c.y);
    let d = dx.hypot(dy);
    let radial = (dx * f64::from(e.dx) + dy * f64::from(e.dy)).abs() / d.max(1e-9);
    (radial > 0.94).then(|| (d - c.r, dy.atan2(dx)))
}

fn coverage(c: &Circle, near: &[&EdgePoint], tolerance: f64) -> f64 {
    let mut sectors = [false; SECTORS];
    for (off, angle) in near.iter().filter_map(|e| agree(c, e)) {
        if off.abs() < tolerance {
            let k = ((angle / std::f64::consts::TAU + 0.5) * SECTORS as f64) as usize;
            sectors[k.min(SECTORS - 1)] = true;
        }
    }
    sectors.iter().filter(|s| **s).count() as f64 / SECTORS as f64
}

/// One step of a least-squares circle (linear in the shifts of centre and radius), sectors weighted alike.
fn fit(c: &Circle, near: &[&EdgePoint], tolerance: f64) -> Option<Circle> {
    let mut a = nalgebra::Matrix3::<f64>::identity() * 1e-3;
    let mut b = nalgebra::Vector3::<f64>::zeros();
    let mut n = 0;
    for (off, angle) in near.iter().filter_map(|e| agree(c, e)).filter(|p| p.0.abs() < tolerance) {
        let row = nalgebra::Vector3::new(angle.cos(), angle.sin(), 1.0);
        a += row * row.transpose();
        b += row * off;
        n += 1;
    }
    if n < 8 {
        return None;
    }
    let p = a.cholesky()?.solve(&b);
    Some(Circle { x: c.x + p[0], y: c.y + p[1], r: c.r + p[2], ..*c })
}
