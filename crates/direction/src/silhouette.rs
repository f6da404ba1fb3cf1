//! Traces the outline of an upright body of revolution from its axis.
//!
//! Both sides are looked for at once, as they lie alike about the axis: for each row the half width at which the picture steps on both
//! sides and beyond which it looks like the background, joined from row to row by dynamic programming (Amini, Weymouth and Jain 1990);
//! a row may also hold nothing, which ends the body. Sides are then moved singly to where they step most, the axis is laid anew
//! through the middles, and all is done once more.

use optics::photo::Photo;
use optics::solve::median;

/// An outline.
#[derive(Debug, Clone)]
pub struct Silhouette {
    /// Foot and head.
    pub axis: [[f64; 2]; 2],
    /// Largest half width, pixels.
    pub radius: f64,
    /// Share of the axis from the foot and half the width there, pixels.
    pub profile: Vec<[f64; 2]>,
    /// Part of its rows on which the picture steps clearly at both sides.
    pub clear: f64,
}

/// Why no outline was found.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum SilhouetteProblem {
    /// Too short.
    #[error("the axis is too short: draw it from the foot to the head of the bottle, at least 40 pixels long")]
    TooShort,
    /// Nothing there.
    #[error(
        "no outline that is alike on both sides of this axis stands out from the background: draw the axis through its middle, or pull the outline by hand"
    )]
    Nothing,
    /// It goes on beyond the picture.
    #[error("the picture cuts it: its outline is not closed; mark the upright part that is seen as a cylinder")]
    Cut,
}

/// How far beyond the drawn ends it may go, of the drawn length: below and above.
pub const DRAWN: [f64; 2] = [0.08, 0.08];
/// The same where only the upright part was found.
pub const FOUND: [f64; 2] = [0.25, 0.9];

/// Rows and half widths looked at, at most.
const MOST_ROWS: f64 = 420.0;
const MOST_WIDTHS: f64 = 180.0;
/// Half width looked at, of the length.
const WIDEST: f64 = 0.62;
/// Step of square roots of light that is a clear edge, and difference from the background that is none.
const EDGE: f64 = 0.07;
/// Of the usual step an edge begins at so many; least usual step.
const NOISES: f64 = 2.6;
const LEAST_NOISE: f64 = 0.006;
const UNLIKE: f64 = 0.14;
/// What it costs to look unlike the background outside, a change of width by a pixel, at most, and to begin or end.
const OUTSIDE: f64 = 0.7;
const PER_PIXEL: f64 = 0.03;
const MOST_CHANGE: f64 = 1.1;
const ENDS: f64 = 0.9;
/// What an edge is worth that has none opposite.
const ALONE: f64 = 0.65;
/// What an empty row is worth, and what it costs to go on beyond the rows that are looked at.
const EMPTY: f64 = -0.4;
const BEYOND: f64 = 4.0;
/// Part of the drawn length that an outline must have.
const LEAST_PART: f64 = 0.3;
/// Rows narrower than this part of the length, between wider ones, are closed: a label's edge or a glow that was taken for the side.
const DENT: f64 = 0.035;
/// Rows at either end that may be something else, and by how much wider they are.
const STRAY: usize = 6;
const JUMP: f64 = 1.3;
/// Pixels a side may be moved singly.
const MOVE: i32 = 2;
/// How far a node of the outline may be off the traced line, pixels.
const OFF_PX: f64 = 0.4;
/// Least rows that step clearly, and least length, pixels.
const LEAST_CLEAR: f64 = 0.5;
const LEAST_PX: f64 = 40.0;

type Colour = [f64; 3];

struct Frame<'a> {
    photo: &'a Photo,
    foot: [f64; 2],
    up: [f64; 2],
    across: [f64; 2],
    /// pixels a row and a step across
    step: f64,
    rows: usize,
    widths: usize,
}

impl Frame<'_> {
    fn colour(&self, row: f64, off: f64) -> Option<Colour> {
        let (a, o) = (row * self.step, off * self.step);
        let [x, y] = [0, 1].map(|k| self.foot[k] + self.up[k] * a + self.across[k] * o);
        if x < 0.5 || y < 0.5 || x + 0.5 >= f64::from(self.photo.width()) || y + 0.5 >= f64::from(self.photo.height()) {
            return None;
        }
        // between pixels, square roots of light
        let (fx, fy) = (x - 0.5, y - 0.5);
        let (ix, iy) = (fx.floor(), fy.floor());
        let (wx, wy) = (fx - ix, fy - iy);
        let at = |dx: u32, dy: u32| {
            let cx = (ix as u32 + dx).min(self.photo.width() - 1);
            let cy = (iy as u32 + dy).min(self.photo.height() - 1);
            self.photo.rgb(cx, cy).map(|v| f64::from(v.max(0.0)).sqrt())
        };
        let (p, q, r, s) = (at(0, 0), at(1, 0), at(0, 1), at(1, 1));
        Some([0, 1, 2].map(|k| (p[k] * (1.0 - wx) + q[k] * wx) * (1.0 - wy) + (r[k] * (1.0 - wx) + s[k] * wx) * wy))
    }
}

fn apart(a: &Colour, b: &Colour) -> f64 {
    (0..3).map(|k| (a[k] - b[k]).powi(2)).sum::<f64>().sqrt()
}

/// One side of one row: how clear an edge is at each half width, and how unlike the background it is from there outwards.
struct Side {
    edge: Vec<f64>,
    outside: Vec<f64>,
}

fn side(f: &Frame, row: usize, sign: f64) -> Option<Side> {
    let colours: Vec<Colour> = (0..f.widths + 4).map_while(|r| f.colour(row as f64, sign * r as f64)).collect();
    // cut by the picture's edge: what there is
    let n = colours.len();
    if n < 8 {
        return None;
    }
    let far = &colours[n - (n / 7).max(3)..];
    let ground: Colour = [0, 1, 2].map(|k| median(&mut far.iter().map(|c| c[k]).collect::<Vec<_>>()));
    let mean = |a: usize, b: usize| [0, 1, 2].map(|k| colours[a..b].iter().map(|c| c[k]).sum::<f64>() / (b - a) as f64);
    let steps: Vec<f64> = (0..f.widths)
        .map(|r| if r < 2 || r + 3 > n { 0.0 } else { apart(&mean(r - 2, r), &mean(r, (r + 2).min(n))) })
        .collect();
    // most places are no edge: what is usual is noise and grain
    let least = NOISES * median(&mut steps[2..].to_vec()).max(LEAST_NOISE);
    let edge = steps.iter().map(|s| ((s - least) / EDGE).clamp(0.0, 1.0)).collect();
    let unlike: Vec<f64> = colours.iter().map(|c| (apart(c, &ground) / UNLIKE).min(1.0)).collect();
    let outside = (0..f.widths)
        .map(|r| {
            let (a, b) = (r + 1, (r + 11).min(n));
            if a + 5 > b { 1.0 } else { unlike[a..b].iter().sum::<f64>() / (b - a) as f64 }
        })
        .collect();
    Some(Side { edge, outside })
}

/// Half width of each row, 0 where there is nothing, and how clear its edges are.
fn widths(f: &Frame) -> Vec<(usize, f64)> {
    let sides: Vec<[Option<Side>; 2]> = (0..f.rows).map(|k| [side(f, k, -1.0), side(f, k, 1.0)]).collect();
    let n = f.widths;
    let cost = |k: usize, r: usize| -> f64 {
        if r == 0 {
            return EMPTY;
        }
        // an edge on one side alone may be anything
        let both: Vec<&Side> = sides[k].iter().flatten().collect();
        let least = if both.is_empty() { 0.0 } else { both.iter().map(|s| s.edge[r]).fold(1.0, f64::min) };
        let sum: f64 = both.iter().map(|s| OUTSIDE * s.outside[r] - ALONE * s.edge[r]).sum();
        sum - 2.0 * (1.0 - ALONE) * least
    };
    let change = |a: usize, b: usize| match (a, b) {
        (0, 0) => 0.0,
        (0, _) | (_, 0) => ENDS,
        (a, b) => (PER_PIXEL * f.step * a.abs_diff(b) as f64).min(MOST_CHANGE),
    };
    // it begins and ends within
    let beyond = |r: usize| if r == 0 { 0.0 } else { BEYOND };
    let mut best: Vec<f64> = (0..n).map(|r| cost(0, r) + beyond(r)).collect();
    let mut from: Vec<Vec<u16>> = Vec::with_capacity(f.rows);
    for k in 1..f.rows {
        let least = (1..n).min_by(|a, b| best[*a].total_cmp(&best[*b])).unwrap_or(0);
        let mut next = vec![0.0; n];
        let mut back = vec![0u16; n];
        // beyond so many steps a change costs the most: the least of all will do
        let near = (MOST_CHANGE / (PER_PIXEL * f.step)).ceil() as usize;
        for r in 0..n {
            let candidates = (r.saturating_sub(near)..(r + near + 1).min(n)).chain([0, least]);
            let (b, c) =
                candidates.map(|q| (q, best[q] + change(q, r))).min_by(|a, b| a.1.total_cmp(&b.1)).unwrap_or((0, 0.0));
            next[r] = c + cost(k, r);
            back[r] = b as u16;
        }
        best = next;
        from.push(back);
    }
    let end = |r: usize| best[r] + beyond(r);
    let mut r = (0..n).min_by(|a, b| end(*a).total_cmp(&end(*b))).unwrap_or(0);
    let mut out = vec![r];
    for back in from.iter().rev() {
        r = usize::from(back[r]);
        out.push(r);
    }
    out.reverse();
    out.into_iter()
        .enumerate()
        .map(|(k, r)| {
            let clear = sides[k].iter().map(|s| s.as_ref().map_or(0.0, |s| s.edge[r])).fold(1.0, f64::min);
            (r, clear)
        })
        .collect()
}

/// Where a side steps most near a half width, in steps across.
fn settled(f: &Frame, row: usize, sign: f64, r: usize) -> Option<f64> {
    let at = |o: f64| -> Option<f64> {
        let inner = f.colour(row as f64, sign * (o - 1.0))?;
        let outer = f.colour(row as f64, sign * (o + 1.0))?;
        Some(apart(&inner, &outer))
    };
    let steps: Vec<f64> = (-2 * MOVE..=2 * MOVE).map(|k| at(r as f64 + 0.5 * f64::from(k)).unwrap_or(0.0)).collect();
    let k = (0..steps.len()).max_by(|a, b| steps[*a].total_cmp(&steps[*b]))?;
    if steps[k] < 0.5 * EDGE {
        return None;
    }
    // the top of a parabola through the three
    let top = if k > 0 && k + 1 < steps.len() {
        let (a, b, c) = (steps[k - 1], steps[k], steps[k + 1]);
        let bend = a - 2.0 * b + c;
        if bend.abs() < 1e-9 { 0.0 } else { (0.5 * (a - c) / bend).clamp(-0.5, 0.5) }
    } else {
        0.0
    };
    Some(r as f64 + 0.5 * (k as f64 + top - 2.0 * f64::from(MOVE)))
}

/// Traces the outline about an axis that a hand drew from foot to head, leaning and aside by what a hand leaves open.
///
/// # Errors
/// A [`SilhouetteProblem`] that says what to do.
pub fn trace_by_hand(photo: &Photo, axis: [[f64; 2]; 2]) -> Result<Silhouette, SilhouetteProblem> {
    let [dx, dy] = [axis[1][0] - axis[0][0], axis[1][1] - axis[0][1]];
    // sides are looked for together, at one half width: where an axis leans too much for that, others beside it are tried
    let tried = HAND.iter().map(|[aside, lean]| {
        let moved = |p: [f64; 2], end: f64| [p[0] - dy * (aside + end * lean), p[1] + dx * (aside + end * lean)];
        trace(photo, [moved(axis[0], -0.5), moved(axis[1], 0.5)], DRAWN, None)
    });
    let mut told = tried.filter(|t| !matches!(t, Err(SilhouetteProblem::Nothing)));
    told.next().unwrap_or(Err(SilhouetteProblem::Nothing))
}

/// How an axis by hand may lie beside the true one: shifts aside of its length, and leans in radians, the least first.
const HAND: [[f64; 2]; 11] = [
    [0.0, 0.0],
    [0.0, 0.02],
    [0.0, -0.02],
    [0.012, 0.0],
    [-0.012, 0.0],
    [0.012, 0.02],
    [0.012, -0.02],
    [-0.012, 0.02],
    [-0.012, -0.02],
    [0.0, 0.04],
    [0.0, -0.04],
];

/// Traces the outline about an axis from foot to head that lies nearly right; `reach`: how far beyond its ends it may go, of its length;
/// `radius`: half the width of the upright part, pixels, where it is known.
///
/// # Errors
/// A [`SilhouetteProblem`] that says what to do.
pub fn trace(
    photo: &Photo,
    axis: [[f64; 2]; 2],
    reach: [f64; 2],
    radius: Option<f64>,
) -> Result<Silhouette, SilhouetteProblem> {
    let [mut foot, mut head] = if axis[0][1] >= axis[1][1] { axis } else { [axis[1], axis[0]] };
    let drawn = (head[0] - foot[0]).hypot(head[1] - foot[1]);
    if drawn.is_nan() || drawn < LEAST_PX {
        return Err(SilhouetteProblem::TooShort);
    }
    let mut out = None;
    for pass in 0..2 {
        let length = (head[0] - foot[0]).hypot(head[1] - foot[1]);
        let up = [(head[0] - foot[0]) / length, (head[1] - foot[1]) / length];
        let across = [-up[1], up[0]];
        let reach = if pass == 0 { reach } else { [0.03, 0.03] };
        let start = [0, 1].map(|k| foot[k] - up[k] * reach[0] * length);
        let long = length * (1.0 + reach[0] + reach[1]);
        let wide = radius.map_or(WIDEST * drawn, |r| 1.8 * r);
        let step = (long / MOST_ROWS).max(wide / MOST_WIDTHS).max(1.0);
        let f = Frame {
            photo,
            foot: start,
            up,
            across,
            step,
            rows: (long / step) as usize,
            widths: (wide / step) as usize,
        };
        if f.rows < 20 || f.widths < 8 {
            return Err(SilhouetteProblem::TooShort);
        }
        let all = widths(&f);
        // the longest stretch that is not empty
        let mut best = 0..0;
        let mut k = 0;
        while k < all.len() {
            let from = k;
            while k < all.len() && all[k].0 > 0 {
                k += 1;
            }
            if k - from > best.len() {
                best = from..k;
            }
            k += 1;
        }
        // a row or two at an end that jump are something behind it
        for _ in 0..STRAY {
            let jumps = |k: usize, next: &[(usize, f64)]| {
                let usual = median(&mut next.iter().map(|a| a.0 as f64).collect::<Vec<_>>());
                all[k].0 as f64 > JUMP * usual
            };
            if best.len() > 24 && jumps(best.start, &all[best.start + STRAY..best.start + 2 * STRAY]) {
                best.start += 1;
            }
            if best.len() > 24 && jumps(best.end - 1, &all[best.end - 2 * STRAY..best.end - STRAY]) {
                best.end -= 1;
            }
        }
        if (best.len() as f64) * step < LEAST_PART * drawn {
            return Err(SilhouetteProblem::Nothing);
        }
        let clear = all[best.clone()].iter().map(|a| a.1.min(1.0)).sum::<f64>() / best.len() as f64;
        if clear < LEAST_CLEAR {
            return Err(SilhouetteProblem::Nothing);
        }
        let sides: Vec<[Option<f64>; 2]> =
            best.clone().map(|k| [settled(&f, k, -1.0, all[k].0), settled(&f, k, 1.0, all[k].0)]).collect();
        // the axis through the middles
        let middles: Vec<(f64, f64)> =
            best.clone().zip(&sides).filter_map(|(k, s)| Some((k as f64, (s[1]? - s[0]?) / 2.0))).collect();
        let (a, b) = line(&middles).unwrap_or((0.0, 0.0));
        let place = |row: f64| {
            let o = (a + b * row) * step;
            [0, 1].map(|k| start[k] + up[k] * row * step + across[k] * o)
        };
        let (first, last) = (best.start as f64 - 0.5, best.end as f64 - 0.5);
        (foot, head) = (place(first), place(last));
        let edge = |p: &[f64; 2]| {
            p[0] < 2.0 || p[1] < 2.0 || p[0] > f64::from(photo.width()) - 2.0 || p[1] > f64::from(photo.height()) - 2.0
        };
        if edge(&foot) || edge(&head) {
            return Err(SilhouetteProblem::Cut);
        }
        let half: Vec<f64> = best
            .clone()
            .zip(&sides)
            .map(|(k, s)| {
                let o = a + b * k as f64;
                let own = [s[0].map(|l| l + o), s[1].map(|r| r - o)];
                match own {
                    [Some(l), Some(r)] if (l - r).abs() < 2.0 => f64::midpoint(l, r),
                    [Some(v), None] | [None, Some(v)] => v,
                    _ => all[k].0 as f64,
                }
            })
            .map(|r| r * step)
            .collect();
        let half = closed(&half, (DENT * half.len() as f64) as usize);
        let near = |all: &[f64], k: usize| all[k.saturating_sub(2)..(k + 3).min(all.len())].to_vec();
        let kept: Vec<f64> = (0..half.len()).map(|k| median(&mut near(&half, k))).collect();
        let smooth: Vec<f64> = (0..kept.len())
            .map(|k| {
                let all = near(&kept, k);
                all.iter().sum::<f64>() / all.len() as f64
            })
            .collect();
        let n = smooth.len() as f64;
        let length = (head[0] - foot[0]).hypot(head[1] - foot[1]);
        let mut nodes: Vec<[f64; 2]> =
            smooth.iter().enumerate().map(|(k, r)| [(k as f64 + 0.5) / n * length, *r]).collect();
        nodes.insert(0, [0.0, smooth[0]]);
        nodes.push([length, smooth[smooth.len() - 1]]);
        let profile = thinned(&nodes).into_iter().map(|[t, r]| [t / length, r]).collect();
        let radius = smooth.iter().copied().fold(0.0, f64::max);
        out = Some(Silhouette { axis: [foot, head], radius, profile, clear });
    }
    out.ok_or(SilhouetteProblem::Nothing)
}

/// Dents of less than twice so many rows filled: the largest of each neighbourhood, then the least (Serra 1982).
fn closed(values: &[f64], reach: usize) -> Vec<f64> {
    let of = |all: &[f64], pick: fn(f64, f64) -> f64| -> Vec<f64> {
        (0..all.len())
            .map(|k| {
                let near = &all[k.saturating_sub(reach)..(k + reach + 1).min(all.len())];
                near.iter().copied().reduce(pick).unwrap_or(all[k])
            })
            .collect()
    };
    of(&of(values, f64::max), f64::min)
}

/// Offset and slope of the line through most of the points (iterated least squares).
fn line(points: &[(f64, f64)]) -> Option<(f64, f64)> {
    if points.len() < 8 {
        return None;
    }
    let (mut a, mut b) = (median(&mut points.iter().map(|p| p.1).collect::<Vec<_>>()), 0.0);
    for _ in 0..8 {
        let (mut sw, mut sx, mut sy, mut sxx, mut sxy) = (0.0, 0.0, 0.0, 0.0, 0.0);
        for (x, y) in points {
            let off = y - a - b * x;
            let w = 1.0 / (1.0 + off * off);
            sw += w;
            sx += w * x;
            sy += w * y;
            sxx += w * x * x;
            sxy += w * x * y;
        }
        let d = sw * sxx - sx * sx;
        if d.abs() < 1e-9 {
            return None;
        }
        b = (sw * sxy - sx * sy) / d;
        a = (sy - b * sx) / sw;
    }
    Some((a, b))
}

/// The same line with fewer nodes (Douglas and Peucker 1973).
fn thinned(nodes: &[[f64; 2]]) -> Vec<[f64; 2]> {
    let mut keep = vec![false; nodes.len()];
    let last = nodes.len() - 1;
    (keep[0], keep[last]) = (true, true);
    let mut open = vec![(0, last)];
    while let Some((a, b)) = open.pop() {
        let (p, q) = (nodes[a], nodes[b]);
        let (dx, dy) = (q[0] - p[0], q[1] - p[1]);
        let off = |k: usize| ((nodes[k][0] - p[0]) * dy - (nodes[k][1] - p[1]) * dx).abs() / dx.hypot(dy).max(1e-9);
        let Some(k) = (a + 1..b).max_by(|i, j| off(*i).total_cmp(&off(*j))) else { continue };
        if off(k) > OFF_PX {
            keep[k] = true;
            open.extend([(a, k), (k, b)]);
        }
    }
    nodes.iter().zip(keep).filter(|(_, k)| *k).map(|(n, _)| *n).collect()
}
