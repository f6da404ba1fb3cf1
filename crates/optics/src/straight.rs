//! Long straight lines that lie nearly level or stand nearly upright: a horizon, a table's edge, corners of a room.
//!
//! Edge points with a direction vote for lines (Duda and Hart, "Use of the Hough transformation to detect lines and curves in
//! pictures", Communications of the ACM 15, 1972); a line is then fitted to its points by least squares, what lies off it set
//! aside. Only lines over half of the picture whose two halves agree count: a curve or a row of things is none.

use crate::texture::{Luma, reduced};

/// Longest side at which lines are looked for, pixels: a soft edge is then narrow, and places are told to a tenth of a pixel.
const SIDE: usize = 320;
/// Steepest tilt, degrees: more is perspective or a thing's own.
pub const MOST_TILT_DEG: f64 = 8.0;
const STEP_DEG: f64 = 0.5;
/// Least slope of an edge in encoded luma for a pixel, and how far its direction may lie off.
const SLOPE: f32 = 0.018;
const ASLANT: f32 = 0.35;
/// Least share of the picture's columns on which a line is seen, and from its first to its last.
const SEEN: f64 = 0.34;
const SPAN: f64 = 0.55;
/// Of its points, root mean square distance from it at most, pixels, and how far its halves may turn against each other, degrees.
const OFF: f64 = 0.45;
const BENT_DEG: f64 = 0.9;
/// Share of the picture along its border where nothing counts: frames of prints and scans.
const BORDER: f64 = 0.02;
/// Lines at most, of either kind.
const MOST: usize = 6;

/// A straight line in a picture.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Line {
    /// From level, or from upright, degrees; clockwise positive.
    pub tilt_deg: f64,
    /// One standard deviation, degrees.
    pub sd_deg: f64,
    /// Its ends, pixels: left and right, or upper and lower.
    pub ends: [[f64; 2]; 2],
    /// Share of the picture's width, or height, on which it was seen.
    pub share: f64,
}

/// Long lines of a picture.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Straight {
    /// Nearly level ones, the longest first.
    pub level: Vec<Line>,
    /// Nearly upright ones.
    pub upright: Vec<Line>,
}

/// An edge point: along the line to be found, across it, whether it brightens downwards (or to the right).
#[derive(Clone, Copy)]
struct Point {
    along: f64,
    across: f64,
    up: bool,
}

/// Finds the lines of a picture of `w` by `h` pixels from the encoded red, green and blue of each, 0 to 1.
pub fn straight_of(w: usize, h: usize, code: impl Fn(usize, usize) -> [f32; 3]) -> Straight {
    if w.min(h) < 64 {
        return Straight::default();
    }
    let cell = w.max(h).div_ceil(SIDE);
    let l = reduced(w, h, cell, code);
    let back = cell as f64;
    let level = lines(&points(&l, false), l.w, l.h, |x, y| [x * back, y * back], 1.0);
    // a line that leans to the right at its head turns clockwise: columns then fall as rows rise
    let upright = lines(&points(&l, true), l.h, l.w, |y, x| [x * back, y * back], -1.0);
    Straight { level, upright }
}

/// Edge points across rows, or across columns.
fn points(l: &Luma, upright: bool) -> Vec<Point> {
    let (n, m) = if upright { (l.h, l.w) } else { (l.w, l.h) };
    let at = |along: usize, across: usize| if upright { l.v[along * l.w + across] } else { l.v[across * l.w + along] };
    let rim = |side: usize| ((BORDER * side as f64).ceil() as usize).max(3);
    let mut out = Vec::new();
    for a in rim(n)..n - rim(n) {
        let slope = |c: usize| (at(a, c + 1) - at(a, c - 1)) / 2.0;
        for c in rim(m)..m - rim(m) {
            let g = slope(c);
            if g.abs() < SLOPE || (at(a + 1, c) - at(a - 1, c)).abs() / 2.0 > ASLANT * g.abs() {
                continue;
            }
            let (before, after) = (slope(c - 1) * g.signum(), slope(c + 1) * g.signum());
            if before > g.abs() || after >= g.abs() {
                continue;
            }
            // the parabola through three slopes
            let bend = before + after - 2.0 * g.abs();
            let off = if bend < -1e-6 { 0.5 * (before - after) / bend } else { 0.0 };
            out.push(Point {
                along: a as f64 + 0.5,
                across: c as f64 + 0.5 + f64::from(off.clamp(-0.5, 0.5)),
                up: g > 0.0,
            });
        }
    }
    out
}

/// The lines through points of a picture of `n` columns and `m` rows; `place` gives pixels of the picture, `sense` the sign of a tilt.
fn lines(points: &[Point], n: usize, m: usize, place: impl Fn(f64, f64) -> [f64; 2], sense: f64) -> Vec<Line> {
    let steps = (2.0 * MOST_TILT_DEG / STEP_DEG) as usize + 1;
    let slopes: Vec<f64> = (0..steps).map(|i| (STEP_DEG * i as f64 - MOST_TILT_DEG).to_radians().tan()).collect();
    let middle = n as f64 / 2.0;
    let mut votes = vec![0i32; 2 * steps * m];
    let cells = |p: &Point| {
        let (p, up) = (*p, usize::from(p.up));
        slopes.iter().enumerate().filter_map(move |(i, s)| {
            let at = (p.across - s * (p.along - middle)).round();
            (at >= 0.0 && at < m as f64).then(|| (up * steps + i) * m + at as usize)
        })
    };
    for p in points {
        cells(p).for_each(|c| votes[c] += 1);
    }
    let mut left: Vec<Point> = points.to_vec();
    let mut found: Vec<Line> = Vec::new();
    for _ in 0..3 * MOST {
        let Some((best, most)) = votes.iter().enumerate().max_by_key(|v| v.1) else { break };
        if f64::from(*most) < 0.5 * SEEN * n as f64 || found.len() == MOST {
            break;
        }
        let up = best / (steps * m) == 1;
        let (slope, from) = (slopes[best / m % steps], (best % m) as f64);
        let own = |p: &Point| p.up == up && (p.across - from - slope * (p.along - middle)).abs() < 2.5;
        let those: Vec<Point> = left.iter().copied().filter(own).collect();
        if let Some(l) = fitted(&those, n, &place, sense) {
            found.push(l);
        }
        for p in &those {
            cells(p).for_each(|c| votes[c] -= 1);
        }
        left.retain(|p| !own(p));
    }
    found.sort_by(|a, b| b.share.total_cmp(&a.share));
    found
}

/// Offset and slope by least squares, about `middle`.
fn line_of(points: &[Point], middle: f64) -> Option<[f64; 2]> {
    let n = points.len() as f64;
    let mean = |of: &dyn Fn(&Point) -> f64| points.iter().map(of).sum::<f64>() / n;
    let (x, y) = (mean(&|p| p.along - middle), mean(&|p| p.across));
    let xx = points.iter().map(|p| (p.along - middle - x).powi(2)).sum::<f64>();
    let xy = points.iter().map(|p| (p.along - middle - x) * (p.across - y)).sum::<f64>();
    (points.len() > 3 && xx > 0.0).then(|| [y - xy / xx * x, xy / xx])
}

fn fitted(points: &[Point], n: usize, place: &impl Fn(f64, f64) -> [f64; 2], sense: f64) -> Option<Line> {
    let middle = n as f64 / 2.0;
    let mut those = points.to_vec();
    let mut line = line_of(&those, middle)?;
    let off = |l: &[f64; 2], p: &Point| (p.across - l[0] - l[1] * (p.along - middle)).abs();
    for within in [1.5, 1.0] {
        those = points.iter().copied().filter(|p| off(&line, p) < within).collect();
        line = line_of(&those, middle)?;
    }
    let mut columns: Vec<i64> = those.iter().map(|p| p.along as i64).collect();
    columns.dedup();
    let (first, last) = (those.first()?.along, those.last()?.along);
    let (seen, span) = (columns.len() as f64, last - first);
    let rms = (those.iter().map(|p| off(&line, p).powi(2)).sum::<f64>() / those.len() as f64).sqrt();
    if seen < SEEN * n as f64 || span < SPAN * n as f64 || rms > OFF {
        return None;
    }
    let (a, b): (Vec<Point>, Vec<Point>) = those.iter().partition(|p| p.along < f64::midpoint(first, last));
    let (a, b) = (line_of(&a, middle)?, line_of(&b, middle)?);
    let bent = (a[1].atan() - b[1].atan()).to_degrees().abs();
    if bent > BENT_DEG {
        return None;
    }
    let at = |along: f64| place(along, line[0] + line[1] * (along - middle));
    let sd = (rms.max(0.1) * 12f64.sqrt() / (span * seen.sqrt())).atan().to_degrees();
    Some(Line {
        tilt_deg: sense * line[1].atan().to_degrees(),
        sd_deg: sd.hypot(bent / 4.0).max(0.05),
        ends: [at(first), at(last)],
        share: seen / n as f64,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A picture of two greys parted by a line through `at` that falls by `tilt` degrees to the right, its edge `soft` pixels wide.
    fn parted(w: usize, at: f64, tilt: f64, soft: f64) -> impl Fn(usize, usize) -> [f32; 3] {
        move |x, y| {
            let line = at + (x as f64 + 0.5 - w as f64 / 2.0) * tilt.to_radians().tan();
            let t = ((y as f64 + 0.5 - line) / soft + 0.5).clamp(0.0, 1.0);
            [(0.3 + 0.3 * t) as f32; 3]
        }
    }

    #[test]
    fn a_horizon_is_read_to_a_tenth_of_a_degree() {
        // geometry: a line drawn at a known angle
        for (w, h, soft) in [(640, 800, 1.0), (1600, 900, 12.0), (400, 300, 3.0)] {
            for tilt in [-6.5, -2.0, -0.4, 0.0, 1.3, 5.0] {
                let s = straight_of(w, h, parted(w, 0.6 * h as f64, tilt, soft));
                assert_eq!(s.level.len(), 1, "{tilt} {soft}: {s:?}");
                let l = s.level[0];
                assert!((l.tilt_deg - tilt).abs() < 0.12, "{tilt}: {l:?}");
                assert!(l.share > 0.9 && l.sd_deg < 0.2 && s.upright.is_empty(), "{s:?}");
            }
        }
    }

    #[test]
    fn an_upright_leans_to_the_right_when_its_head_does() {
        for lean in [-4.0f64, 0.7, 3.0] {
            let (w, h) = (500usize, 700usize);
            // its head further right by the lean
            let s = straight_of(w, h, |x, y| {
                let line = 180.0 - (y as f64 + 0.5 - h as f64 / 2.0) * lean.to_radians().tan();
                [if (x as f64 + 0.5) < line { 0.25f32 } else { 0.55 }; 3]
            });
            assert!(s.level.is_empty() && s.upright.len() == 1, "{lean}: {s:?}");
            assert!((s.upright[0].tilt_deg - lean).abs() < 0.15, "{lean}: {s:?}");
        }
    }

    #[test]
    fn what_stands_before_a_line_does_not_hide_it_and_what_is_no_line_is_none() {
        let (w, h) = (640usize, 640usize);
        let horizon = parted(w, 400.0, 2.0, 2.0);
        // a thing over the middle third
        let s = straight_of(w, h, |x, y| if (220..420).contains(&x) && y > 100 { [0.9; 3] } else { horizon(x, y) });
        assert!(s.level.iter().any(|l| (l.tilt_deg - 2.0).abs() < 0.2), "{s:?}");
        // an arc, a short line, a slope that rises too steeply, noise
        let arc = straight_of(w, h, |x, y| {
            let r = (x as f64 - 320.0).hypot(y as f64 - 900.0);
            [if r < 500.0 { 0.6 } else { 0.3 }; 3]
        });
        assert!(arc.level.is_empty(), "{arc:?}");
        let short = straight_of(w, h, |x, y| if (250..400).contains(&x) && y > 300 { [0.6; 3] } else { [0.3; 3] });
        assert!(short.level.is_empty(), "{short:?}");
        let steep = straight_of(w, h, parted(w, 320.0, 15.0, 2.0));
        assert!(steep.level.is_empty(), "{steep:?}");
    }

    /// A number from 0 to 1 for each pixel.
    fn grain(count: usize, mut seed: u64) -> Vec<f32> {
        let mut next = || {
            seed = seed.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            (seed >> 40) as f32 / (1u64 << 24) as f32
        };
        (0..count).map(|_| next()).collect()
    }

    #[test]
    fn grain_draws_no_line_and_hides_none_that_stands_out_of_it() {
        let pictures = [(640usize, 640usize), (320, 213), (1280, 960)];
        for (seed, (w, h)) in (1..9).flat_map(|seed| pictures.map(|p| (seed, p))) {
            let noise = grain(w * h, seed);
            let even = |x: usize, y: usize| 2.0 * noise[y * w + x] - 1.0;
            for strength in [0.05f32, 0.1, 0.2, 0.5] {
                let s = straight_of(w, h, |x, y| [0.5 + strength * even(x, y); 3]);
                assert!(s.level.is_empty() && s.upright.is_empty(), "{seed} {w}x{h} {strength}: {s:?}");
            }
            // a step of 0.3 under grain of a root mean square of 0.046, as film of ISO 1600 shows it (common practice)
            let horizon = parted(w, 0.6 * h as f64, 2.0, 2.0);
            let s = straight_of(w, h, |x, y| horizon(x, y).map(|c| c + 0.08 * even(x, y)));
            assert!(s.level.len() == 1 && s.upright.is_empty(), "{seed} {w}x{h}: {s:?}");
            assert!((s.level[0].tilt_deg - 2.0).abs() < 0.2, "{seed} {w}x{h}: {s:?}");
        }
    }

    #[test]
    fn lines_side_by_side_are_no_chance() {
        // shelves, weather boards: five boards in a picture
        let s = straight_of(640, 640, |x, y| {
            let tilted = y as f64 - (x as f64 - 320.0) * 1.5f64.to_radians().tan();
            [if (tilted / 60.0).rem_euclid(2.0) < 1.0 { 0.35f32 } else { 0.55 }; 3]
        });
        assert!(s.level.len() >= 4 && s.level.iter().all(|l| (l.tilt_deg - 1.5).abs() < 0.12), "{s:?}");
    }

    #[test]
    fn pictures_of_any_size_are_taken() {
        for (w, h) in [(1, 1), (64, 64), (3, 900), (65, 3000), (5000, 70)] {
            straight_of(w, h, |x, y| [((x + y) % 7) as f32 / 7.0; 3]);
        }
    }
}
