//! Where a thing stands in a picture: what cannot be reached from the sides of the frame without crossing an edge.
//!
//! Geodesic distance from the background with small steps taken for nothing (Wei, Wen, Zhu and Sun 2012, "Geodesic saliency using
//! background priors"): soft shadows, gradients and glows cost nothing, the edge of a thing does.

use optics::photo::Photo;
use optics::solve::median;
use std::cmp::Ordering;
use std::collections::BinaryHeap;

/// Longest side that is looked at, in cells.
const SIDE: u32 = 400;
/// Steps of square roots of light from cell to cell: what is taken for nothing, at least and of the usual one; what sum of the rest
/// makes a thing.
const LEAST_STEP: f64 = 0.006;
const USUAL: f64 = 3.0;
const THING: f64 = 0.012;
/// They are of the picture blurred by this many cells: grain falls with its square, an edge stays.
const BLUR: f64 = 1.4;
/// Left and right of a row are both background where they are alike to this; so many rows of all must be, or all are taken.
const ALIKE: f64 = 0.12;
const ROWS_ALIKE: f64 = 0.4;
/// One over the part of the height that is thin.
const THIN: usize = 12;
/// Of the largest part, another part belongs to the thing.
const PART: f64 = 0.12;
/// A shadow has the background's colour to this (of a unit sum) and at most this of its light.
const SAME_COLOUR: f64 = 0.02;
const SHADOW_LIGHT: f64 = 0.86;
/// Of the distance of most of the thing: what is not of it, and what a shadow under it and beside it may have.
const FAINT: f64 = 0.09;
const SHADOW_UNDER: f64 = 0.3;
const SHADOW_BESIDE: f64 = 0.6;
/// What is lower than this part of a thing and lies beside its upper part is no part of it.
const WISP: f64 = 0.08;
/// What is left without hard shadows must be this of the thing, or all of it is grey like its background.
const LEFT: f64 = 0.3;
/// Least share of the frame that is a thing, and most.
const LEAST_AREA: f64 = 0.003;
const MOST_AREA: f64 = 0.9;

/// A small copy in linear light.
pub(crate) struct Small {
    pub width: usize,
    pub height: usize,
    /// Pixels to a cell.
    pub cell: f64,
    pub light: Vec<[f64; 3]>,
    pub clipped: Vec<bool>,
}

impl Small {
    pub(crate) fn of(photo: &Photo) -> Small {
        let cell = photo.width().max(photo.height()).div_ceil(SIDE).max(1) as usize;
        let (width, height) = ((photo.width() as usize / cell).max(1), (photo.height() as usize / cell).max(1));
        let mut light = Vec::with_capacity(width * height);
        let mut clipped = Vec::with_capacity(width * height);
        for y in 0..height {
            let mut sums = vec![([0.0f32; 3], false); width];
            let rows = cell.min(photo.height() as usize - y * cell);
            for row in 0..rows {
                photo.add_row((y * cell + row) as u32, cell, &mut sums);
            }
            let n = (rows * cell.min(photo.width() as usize)) as f64;
            light.extend(sums.iter().map(|s| s.0.map(|v| f64::from(v).max(0.0) / n)));
            clipped.extend(sums.iter().map(|s| s.1));
        }
        Small { width, height, cell: cell as f64, light, clipped }
    }

    fn roots(&self) -> Vec<[f64; 3]> {
        self.light.iter().map(|c| c.map(|v| v.min(4.0).sqrt())).collect()
    }

    fn near(&self, i: usize) -> impl Iterator<Item = usize> + use<> {
        let (w, h, x, y) = (self.width as i64, self.height as i64, (i % self.width) as i64, (i / self.width) as i64);
        const AROUND: [(i64, i64); 4] = [(-1, 0), (1, 0), (0, -1), (0, 1)];
        AROUND
            .into_iter()
            .map(move |(dx, dy)| (x + dx, y + dy))
            .filter_map(move |(x, y)| (x >= 0 && y >= 0 && x < w && y < h).then_some((y * w + x) as usize))
    }
}

fn apart(a: &[f64; 3], b: &[f64; 3]) -> f64 {
    (0..3).map(|k| (a[k] - b[k]).powi(2)).sum::<f64>().sqrt()
}

/// Blurred by a Gaussian, so that grain is no step and an edge is (Canny 1986).
fn blurred(f: &[[f64; 3]], w: usize, h: usize) -> Vec<[f64; 3]> {
    let reach = (3.0 * BLUR) as i64;
    let kernel: Vec<f64> = (-reach..=reach).map(|d| (-0.5 * (d as f64 / BLUR).powi(2)).exp()).collect();
    let sum: f64 = kernel.iter().sum();
    let along = |from: &[[f64; 3]], across: bool| -> Vec<[f64; 3]> {
        (0..w * h)
            .map(|i| {
                let (x, y) = ((i % w) as i64, (i / w) as i64);
                let mut out = [0.0; 3];
                for (d, k) in (-reach..=reach).zip(&kernel) {
                    let (x, y) =
                        if across { ((x + d).clamp(0, w as i64 - 1), y) } else { (x, (y + d).clamp(0, h as i64 - 1)) };
                    let c = &from[y as usize * w + x as usize];
                    (0..3).for_each(|q| out[q] += k * c[q] / sum);
                }
                out
            })
            .collect()
    };
    along(&along(f, true), false)
}

struct Reached(f64, usize);
impl PartialEq for Reached {
    fn eq(&self, o: &Self) -> bool {
        self.cmp(o) == Ordering::Equal
    }
}
impl Eq for Reached {}
impl PartialOrd for Reached {
    fn partial_cmp(&self, o: &Self) -> Option<Ordering> {
        Some(self.cmp(o))
    }
}
impl Ord for Reached {
    // the nearest first
    fn cmp(&self, o: &Self) -> Ordering {
        o.0.total_cmp(&self.0).then(o.1.cmp(&self.1))
    }
}

/// A thing and what is around it.
pub(crate) struct Thing {
    /// Cells of the thing.
    pub mask: Vec<bool>,
    /// Cells that are neither it nor its shadow nor near it.
    pub ground: Vec<bool>,
    /// It reaches a side or the top of the frame, or lies along its foot.
    pub cut: bool,
}

/// The thing in a picture; `None` where nothing stands out, or nearly all does.
pub(crate) fn thing(s: &Small) -> Option<Thing> {
    let (w, h) = (s.width, s.height);
    if w < 24 || h < 24 {
        return None;
    }
    let f = s.roots();
    let strip = (w / 25).max(2);
    let side = |y: usize, from: usize| -> [f64; 3] {
        [0, 1, 2].map(|k| median(&mut (from..from + strip).map(|x| f[y * w + x][k]).collect::<Vec<_>>()))
    };
    let sides: Vec<[[f64; 3]; 2]> = (0..h).map(|y| [side(y, 0), side(y, w - strip)]).collect();
    let soft = blurred(&f, w, h);
    let step = {
        let mut all: Vec<f64> = (0..w * h - 1).step_by(3).map(|i| apart(&soft[i], &soft[i + 1])).collect();
        (USUAL * median(&mut all)).max(LEAST_STEP)
    };
    // distance from the sides where they are background
    let mut alike: Vec<bool> = sides.iter().map(|[a, b]| apart(a, b) < ALIKE).collect();
    // a thin line from side to side, as where table and wall meet, is no thing that is cut
    let mut y = 0;
    while y < h {
        let run = (y..h).take_while(|y| !alike[*y]).count();
        if run <= h / THIN {
            (y..y + run).for_each(|y| alike[y] = true);
        }
        y += run + 1;
    }
    let all = (alike.iter().filter(|a| **a).count() as f64) < ROWS_ALIKE * h as f64;
    let mut far = vec![f64::INFINITY; w * h];
    let mut queue = BinaryHeap::new();
    for y in (0..h).filter(|y| all || alike[*y]) {
        for i in [y * w, y * w + w - 1] {
            far[i] = 0.0;
            queue.push(Reached(0.0, i));
        }
    }
    while let Some(Reached(d, i)) = queue.pop() {
        if d > far[i] {
            continue;
        }
        for k in s.near(i) {
            // along an edge costs nothing, across it all
            let to = d + (apart(&soft[i], &soft[k]) - step).max(0.0);
            if to < far[k] {
                far[k] = to;
                queue.push(Reached(to, k));
            }
        }
    }
    let least = THING.max(0.5 * step);
    let mut mask: Vec<bool> = far.iter().map(|d| *d > least).collect();
    tidy(s, &mut mask);
    // hard shadows are enclosed by edges too: they have the background's colour and less light
    let shadow: Vec<bool> = (0..w * h)
        .map(|i| {
            let x = (i % w) as f64 / (w - 1) as f64;
            let [a, b] = &sides[i / w];
            let ground: [f64; 3] = [0, 1, 2].map(|k| (a[k] * (1.0 - x) + b[k] * x).powi(2));
            like_shadow(&s.light[i], &ground)
        })
        .collect();
    // what little sets apart and reaches the frame is the line where table and wall meet, or where a light ends
    let usual = |mask: &[bool]| {
        let mut all: Vec<f64> = (0..w * h).filter(|i| mask[*i]).map(|i| far[i]).collect();
        all.sort_by(f64::total_cmp);
        all.get(9 * all.len() / 10).copied().unwrap_or_default()
    };
    let some = FAINT * usual(&mask);
    let faint: Vec<bool> = mask.iter().zip(&far).map(|(m, d)| *m && *d <= some).collect();
    for part in parts(s, &faint) {
        let at_edge = |i: &usize| i.is_multiple_of(w) || i % w == w - 1 || *i < w || *i >= (h - 1) * w;
        if part.iter().any(at_edge) {
            part.iter().for_each(|i| mask[*i] = false);
        }
    }
    tidy(s, &mut mask);
    // and a shadow lies beside the foot of the thing, or is far less set apart than it is
    let usual = usual(&mask);
    let columns = core(s, &mask, &shadow);
    let mut plain: Vec<bool> = (0..w * h)
        .map(|i| {
            let beside = columns.is_some_and(|[a, b]| i % w < a || i % w > b);
            mask[i] && !(shadow[i] && far[i] < usual * if beside { SHADOW_BESIDE } else { SHADOW_UNDER })
        })
        .collect();
    tidy(s, &mut plain);
    for m in [&mut mask, &mut plain] {
        without_wisps(s, m, columns);
    }
    let count = |m: &[bool]| m.iter().filter(|v| **v).count() as f64;
    if count(&plain) >= LEFT * count(&mask) {
        mask = plain;
    }
    let area = count(&mask) / (w * h) as f64;
    if !(LEAST_AREA..=MOST_AREA).contains(&area) {
        return None;
    }
    let near = grown(s, &mask, 5);
    let ground = (0..w * h).map(|i| !near[i] && far[i] <= least && !s.clipped[i]).collect::<Vec<_>>();
    // what is clipped is background all the same, if there is no other
    let ground = if count(&ground) > 0.02 * (w * h) as f64 {
        ground
    } else {
        (0..w * h).map(|i| !near[i] && far[i] <= least).collect()
    };
    // what is like a shadow does not make it cut
    let on = |i: &usize| mask[*i] && !shadow[*i];
    let many = |n: usize, of: usize| n > (of / 50).max(2);
    let cut = many((0..h).filter(|y| on(&(y * w))).count(), h)
        || many((0..h).filter(|y| on(&(y * w + w - 1))).count(), h)
        || many((0..w).filter(on).count(), w)
        || many((0..w).map(|x| (h - 1) * w + x).filter(on).count(), w);
    Some(Thing { mask, ground, cut })
}

/// First and last column of what is no shadow in the upper part of a thing.
fn core(s: &Small, mask: &[bool], shadow: &[bool]) -> Option<[usize; 2]> {
    let w = s.width;
    let rows = [mask.iter().position(|m| *m)? / w, mask.iter().rposition(|m| *m)? / w];
    let upper = rows[0]..rows[0] + 6 * (rows[1] - rows[0]) / 10;
    let on = |x: &usize| upper.clone().filter(|y| mask[y * w + x] && !shadow[y * w + x]).count() > 2;
    Some([(0..w).find(on)?, (0..w).rev().find(on)?])
}

/// Takes away what lies thin on the floor beside a thing.
fn without_wisps(s: &Small, mask: &mut Vec<bool>, columns: Option<[usize; 2]>) {
    let (w, h) = (s.width, s.height);
    let (Some(first), Some(last), Some([a, b])) =
        (mask.iter().position(|m| *m), mask.iter().rposition(|m| *m), columns)
    else {
        return;
    };
    let least = ((last / w - first / w) as f64 * WISP).max(3.0);
    for x in (0..w).filter(|x| *x < a || *x > b) {
        let mut y = 0;
        while y < h {
            let run = (y..h).take_while(|y| mask[y * w + x]).count();
            if run > 0 && (run as f64) < least {
                (y..y + run).for_each(|y| mask[y * w + x] = false);
            }
            y += run + 1;
        }
    }
    tidy(s, mask);
}

fn like_shadow(c: &[f64; 3], ground: &[f64; 3]) -> bool {
    let (a, b): (f64, f64) = (c.iter().sum(), ground.iter().sum());
    if b < 0.03 || a < 0.004 || a > SHADOW_LIGHT * b {
        return false;
    }
    // in the dark a colour is not known
    (0..3).all(|k| (c[k] / a - ground[k] / b).abs() < SAME_COLOUR + 0.002 / a)
}

fn grown(s: &Small, mask: &[bool], by: usize) -> Vec<bool> {
    let mut now = mask.to_vec();
    for _ in 0..by {
        now = (0..now.len()).map(|i| now[i] || s.near(i).any(|k| now[k])).collect();
    }
    now
}

fn shrunk(s: &Small, mask: &[bool], by: usize) -> Vec<bool> {
    let mut now = mask.to_vec();
    for _ in 0..by {
        // the frame's edge does not eat it
        now = (0..now.len()).map(|i| now[i] && s.near(i).all(|k| now[k])).collect();
    }
    now
}

/// Closes gaps, fills holes, takes specks away, and keeps the largest part with those that are not small beside it.
fn tidy(s: &Small, mask: &mut Vec<bool>) {
    let closed = shrunk(s, &grown(s, mask, 2), 2);
    let opened = grown(s, &shrunk(s, &closed, 2), 2);
    *mask = opened.iter().zip(&closed).map(|(o, c)| *o && *c).collect();
    fill_holes(s, mask);
    let all = parts(s, mask);
    let most = all.iter().map(Vec::len).max().unwrap_or(0) as f64;
    mask.fill(false);
    all.iter().filter(|p| p.len() as f64 >= PART * most).flatten().for_each(|i| mask[*i] = true);
}

/// The connected parts of a mask.
fn parts(s: &Small, mask: &[bool]) -> Vec<Vec<usize>> {
    let mut seen = vec![false; mask.len()];
    let mut out = Vec::new();
    for start in 0..mask.len() {
        if !mask[start] || seen[start] {
            continue;
        }
        seen[start] = true;
        let mut part = vec![start];
        let mut next = 0;
        while let Some(&i) = part.get(next) {
            next += 1;
            for k in s.near(i) {
                if mask[k] && !seen[k] {
                    seen[k] = true;
                    part.push(k);
                }
            }
        }
        out.push(part);
    }
    out
}

fn fill_holes(s: &Small, mask: &mut [bool]) {
    let (w, h) = (s.width, s.height);
    let mut outside = vec![false; mask.len()];
    let rim = (0..w).flat_map(|x| [x, (h - 1) * w + x]).chain((0..h).flat_map(|y| [y * w, y * w + w - 1]));
    let mut queue: Vec<usize> = rim.filter(|i| !mask[*i]).collect();
    queue.iter().for_each(|i| outside[*i] = true);
    while let Some(i) = queue.pop() {
        for k in s.near(i) {
            if !mask[k] && !outside[k] {
                outside[k] = true;
                queue.push(k);
            }
        }
    }
    mask.iter_mut().zip(outside).for_each(|(m, o)| *m = !o);
}
