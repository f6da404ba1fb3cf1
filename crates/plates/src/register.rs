//! How far a plate lies beside another: a shift, a turn and a change of size, in parts of a pixel.
//!
//! Light turns edges round and makes them brighter or weaker, but leaves the line along which they run. Each pixel is therefore
//! described by its gradient squared as a complex number (Bigün & Granlund 1987), held under one, and the fields of two pictures are
//! correlated over windows (Kuglin & Hines 1975); the peak is placed between pixels by a parabola through its neighbours.

use crate::light::Light;
use correlation::{Complex32, Square};
use nalgebra::{DMatrix, DVector};
use optics::photo::Photo;
use optics::solve::median;
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How a picture lies against the first.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Lies {
    /// Pixels its middle lies to the right of where it was.
    pub right_px: f64,
    /// Pixels down.
    pub down_px: f64,
    /// Degrees turned clockwise.
    pub turn_deg: f64,
    /// Times as large.
    pub scale: f64,
    /// One standard deviation of the shift, pixels.
    pub sd_px: f64,
    /// Windows that agreed on it; nought where it was laid by the sum.
    pub windows: usize,
}

impl Lies {
    /// Farthest that a corner of a picture is away from where it was, pixels.
    pub fn farthest_px(&self, width: u32, height: u32) -> f64 {
        let r = 0.5 * f64::from(width).hypot(f64::from(height));
        self.right_px.hypot(self.down_px) + r * (self.turn_deg.to_radians().abs() + (self.scale - 1.0).abs())
    }

    /// Blocks of a picture that lies so, put back under the first (straight lines between pixels).
    pub fn back(&self, photo: &Photo, cell: u32) -> Light {
        let mut out = Light::of(photo, cell);
        let (w, h) = (f64::from(photo.width()), f64::from(photo.height()));
        let (sin, cos) = self.turn_deg.to_radians().sin_cos();
        let (sin, cos) = (sin * self.scale, cos * self.scale);
        // where a place of the first picture lies in this one
        let at = |x: f64, y: f64| {
            let (u, v) = (x - w / 2.0, y - h / 2.0);
            [cos * u - sin * v + w / 2.0 + self.right_px, sin * u + cos * v + h / 2.0 + self.down_px]
        };
        let n = cell.min(photo.width()).min(photo.height());
        let width = out.width;
        out.rgb.par_iter_mut().zip(&mut out.clipped).enumerate().for_each(|(i, (rgb, clipped))| {
            let (bx, by) = ((i % width) as u32 * cell, (i / width) as u32 * cell);
            let (mut sum, mut seen) = ([0.0f64; 3], 0.0);
            *clipped = false;
            for dy in 0..n {
                for dx in 0..n {
                    let [x, y] = at(f64::from(bx + dx) + 0.5, f64::from(by + dy) + 0.5);
                    let (fx, fy) = (x - 0.5, y - 0.5);
                    let (x0, y0) = (fx.floor(), fy.floor());
                    for (ox, oy) in [(0.0, 0.0), (1.0, 0.0), (0.0, 1.0), (1.0, 1.0)] {
                        let part = (1.0 - (fx - x0 - ox).abs()) * (1.0 - (fy - y0 - oy).abs());
                        let Some(s) = photo.get((x0 + ox) as i64, (y0 + oy) as i64) else { continue };
                        sum.iter_mut().zip(s.rgb).for_each(|(a, v)| *a += part * f64::from(v));
                        *clipped |= s.clipped;
                        seen += part;
                    }
                }
            }
            // what left the frame is not known
            if seen < 0.99 * f64::from(n * n) {
                *clipped = true;
            }
            *rgb = sum.map(|v| (v / f64::max(seen, 1e-9)) as f32);
        });
        out
    }

    /// Whether it surely was moved: over three standard deviations, and over what shows as an edge beside an edge.
    pub fn moved(&self) -> bool {
        self.right_px.hypot(self.down_px) > (3.0 * self.sd_px).max(GHOST_PX)
    }
}

/// A shift that shows as a ghost, pixels (common practice: a third).
pub const GHOST_PX: f64 = 0.33;

/// Side of a window, and how far beyond it one is looked for, pixels.
const WINDOW: usize = 128;
const FIELD: usize = 256;
/// Windows tried, fewest that must agree, and how far one may lie beside the rest, pixels.
const TRIED: usize = 24;
const FEWEST: usize = 3;
const BESIDE_PX: f64 = 0.8;
/// Side at which the whole picture is laid over the other first.
const COARSE: u32 = 200;
/// Peak over the root mean square of a window's correlation from which it counts.
const CLEAR: f32 = 6.0;

/// Squared gradients of part of a picture.
struct Field {
    w: usize,
    h: usize,
    v: Vec<Complex32>,
}

fn stops(photo: &Photo, x: i64, y: i64, cell: u32) -> f32 {
    let c = i64::from(cell);
    let (mut sum, mut n) = (0.0, 0.0);
    let step = (c / 3).max(1);
    for dy in (0..c).step_by(step as usize) {
        for dx in (0..c).step_by(step as usize) {
            let (px, py) = (
                (x * c + dx).clamp(0, i64::from(photo.width()) - 1),
                (y * c + dy).clamp(0, i64::from(photo.height()) - 1),
            );
            sum += photo.luminance_at(px, py);
            n += 1.0;
        }
    }
    // a floor of a two-hundredth of white: what is black has no edges
    ((sum / f64::max(n, 1.0)).max(0.0) + 5e-3).log2() as f32
}

/// The field of a window whose corner is `from`, in blocks of `cell` pixels.
fn field(photo: &Photo, from: [i64; 2], w: usize, h: usize, cell: u32) -> Field {
    let (gw, gh) = (w + 2, h + 2);
    let mut grey = vec![0f32; gw * gh];
    for (k, g) in grey.iter_mut().enumerate() {
        let (x, y) = ((k % gw) as i64 - 1, (k / gw) as i64 - 1);
        *g = stops(photo, from[0] + x, from[1] + y, cell);
    }
    // noise out: a binomial smoothing both ways
    let smooth = |src: &[f32]| {
        let mut out = src.to_vec();
        for y in 1..gh - 1 {
            for x in 1..gw - 1 {
                let i = y * gw + x;
                let row = |i: usize| (src[i - 1] + 2.0 * src[i] + src[i + 1]) / 4.0;
                out[i] = (row(i - gw) + 2.0 * row(i) + row(i + gw)) / 4.0;
            }
        }
        out
    };
    let grey = smooth(&smooth(&grey));
    let mut v = vec![Complex32::default(); w * h];
    let mut power = vec![0f32; w * h];
    for y in 0..h {
        for x in 0..w {
            let i = (y + 1) * gw + x + 1;
            let z = Complex32::new((grey[i + 1] - grey[i - 1]) / 2.0, (grey[i + gw] - grey[i - gw]) / 2.0);
            power[y * w + x] = z.norm_sqr();
            v[y * w + x] = z * z;
        }
    }
    let mut sorted = power.clone();
    let upper = sorted.len() * 9 / 10;
    let usual = (*sorted.select_nth_unstable_by(upper, f32::total_cmp).1).max(4e-4);
    for (z, p) in v.iter_mut().zip(&power) {
        *z /= p + usual;
    }
    Field { w, h, v }
}

/// Shift of `b` against `a` where their fields agree best, between `least` and `most` both ways, and how clear the peak is. The mean
/// of `a` counts nothing: one edge beside another of its kind, or the window's own border, is no agreement.
fn shift(square: &Square, a: &Field, b: &Field, least: f64, most: f64) -> Option<([f64; 2], f32)> {
    let n = square.side();
    let put = |f: &Field| {
        let mean = f.v.iter().sum::<Complex32>() / (f.v.len().max(1) as f32);
        let mut m = square.empty();
        for y in 0..f.h {
            let row = f.v[y * f.w..(y + 1) * f.w].iter().map(|z| z - mean);
            m[y * n..y * n + f.w].iter_mut().zip(row).for_each(|(m, z)| *m = z);
        }
        square.spectrum(&mut m);
        m
    };
    let mut field = put(a);
    square.correlate(&mut field, &put(b));
    let mut best = (f32::MIN, 0usize);
    let mut power = 0.0f32;
    for (i, z) in field.iter().enumerate() {
        power += z.re * z.re;
        let within = |at: usize| (least..=most).contains(&square.shift(at));
        if within(i % n) && within(i / n) && z.re > best.0 {
            best = (z.re, i);
        }
    }
    let rms = (power / (n * n) as f32).sqrt().max(1e-12);
    if best.0.is_nan() || best.0 <= 0.0 {
        return None;
    }
    Some((square.peak(&field, best.1), best.0 / rms))
}

/// Where a picture lies against the first.
///
/// # Errors
/// A sentence if they are not of one size, or too little in them has edges that agree.
pub fn lies(first: &Photo, other: &Photo) -> Result<Lies, String> {
    let (w, h) = (first.width(), first.height());
    if (w, h) != (other.width(), other.height()) {
        return Err(format!(
            "pictures of {w} × {h} and {} × {} pixels cannot be laid over each other",
            other.width(),
            other.height()
        ));
    }
    let cell = w.max(h).div_ceil(COARSE).max(1);
    let (cw, ch) = ((w / cell) as usize, (h / cell) as usize);
    let square = Square::of(FIELD);
    let whole = |p: &Photo| field(p, [0, 0], cw, ch, cell);
    let (start, _) = {
        let reach = f64::from(COARSE) / 4.0;
        shift(&square, &whole(first), &whole(other), -reach, reach).unwrap_or(([0.0; 2], 0.0))
    };
    let start = start.map(|v| (v * f64::from(cell)).round() as i64);
    // windows all over the picture, in reach of where the whole lies
    let (nx, ny) = ((w as usize / WINDOW).clamp(1, 6), (h as usize / WINDOW).clamp(1, TRIED / 4));
    let side = |extent: u32| WINDOW.min(extent as usize);
    let (ww, wh) = (side(w), side(h));
    let corners: Vec<[i64; 2]> = (0..nx * ny)
        .map(|k| {
            let part = |i: usize, n: usize, extent: u32, side: usize| {
                ((i as f64 + 0.5) / n as f64 * f64::from(extent) - side as f64 / 2.0).max(0.0) as i64
            };
            [part(k % nx, nx, w, ww), part(k / nx, ny, h, wh)]
        })
        .collect();
    let one = |from: &[i64; 2]| {
        let a = field(first, *from, ww, wh, 1);
        // the other's window is larger by the reach all round, so that every shift is held against as much of it
        let reach = (f64::from(cell).mul_add(1.5, 4.0) as i64).min((FIELD - WINDOW) as i64 / 2 - 2);
        let more = 2 * reach as usize;
        let corner = [from[0] + start[0] - reach, from[1] + start[1] - reach];
        let b = field(other, corner, ww + more, wh + more, 1);
        let (s, clear) = shift(&square, &a, &b, 0.0, more as f64)?;
        let middle = [from[0] as f64 + ww as f64 / 2.0, from[1] as f64 + wh as f64 / 2.0];
        let back = |k: usize| s[k] - reach as f64 + start[k] as f64;
        (clear > CLEAR).then_some((middle, [back(0), back(1)]))
    };
    let found: Vec<([f64; 2], [f64; 2])> = corners.par_iter().filter_map(one).collect();
    fitted(&found, [f64::from(w) / 2.0, f64::from(h) / 2.0])
        .ok_or_else(|| "too little in the two pictures agrees to lay one over the other".into())
}

/// Shift, turn and size from windows, those that do not agree left out.
fn fitted(found: &[([f64; 2], [f64; 2])], middle: [f64; 2]) -> Option<Lies> {
    if found.len() < FEWEST {
        return None;
    }
    let m = [0, 1].map(|k| median(&mut found.iter().map(|f| f.1[k]).collect::<Vec<_>>()));
    let mut kept: Vec<_> = found.iter().filter(|f| (f.1[0] - m[0]).hypot(f.1[1] - m[1]) < 4.0 * BESIDE_PX).collect();
    let mut x = DVector::from_vec(vec![m[0], m[1], 0.0, 0.0]);
    let mut rms = 0.0;
    for _ in 0..4 {
        if kept.len() < FEWEST {
            return None;
        }
        let turns = kept.len() >= 6;
        let free = if turns { 4 } else { 2 };
        // dx = a + s x - t y, dy = b + s y + t x
        let row = |p: &[f64; 2], k: usize| {
            let (px, py) = (p[0] - middle[0], p[1] - middle[1]);
            if k == 0 { [1.0, 0.0, px, -py] } else { [0.0, 1.0, py, px] }
        };
        let a = DMatrix::from_fn(2 * kept.len(), free, |r, c| row(&kept[r / 2].0, r % 2)[c]);
        let b = DVector::from_fn(2 * kept.len(), |r, _| kept[r / 2].1[r % 2]);
        let solved = (a.transpose() * &a).cholesky()?.solve(&(a.transpose() * &b));
        x = DVector::from_fn(4, |r, _| if r < free { solved[r] } else { 0.0 });
        let off = |f: &([f64; 2], [f64; 2])| {
            let at = |k: usize| row(&f.0, k).iter().zip(x.iter()).map(|(u, v)| u * v).sum::<f64>();
            (f.1[0] - at(0)).hypot(f.1[1] - at(1))
        };
        rms = (kept.iter().map(|f| off(f).powi(2)).sum::<f64>() / (2 * kept.len()) as f64).sqrt();
        let limit = (3.0 * rms).clamp(0.15, BESIDE_PX);
        let next: Vec<_> = found.iter().filter(|f| off(f) < limit).collect();
        if next.len() == kept.len() {
            break;
        }
        kept = next;
    }
    (kept.len() >= FEWEST && 2 * kept.len() >= found.len()).then(|| Lies {
        right_px: x[0],
        down_px: x[1],
        turn_deg: x[3].atan2(1.0 + x[2]).to_degrees(),
        scale: (1.0 + x[2]).hypot(x[3]),
        sd_px: (rms / (kept.len() as f64).sqrt()).max(0.02),
        windows: kept.len(),
    })
}

/// Most places of a level that enter the sums, rounds at each level, and blocks along the longer side of the coarsest.
const PLACES: usize = 24_000;
const ROUNDS: usize = 4;
const SMALLEST: usize = 60;
/// Shifts are held near nought by this, blocks of a level: what has no edges says nothing of them.
const HELD: f64 = 2.0;
/// A plate that adds less than this share of the light cannot be laid by the sum.
const TELLS: f64 = 0.01;
/// Least spread of a shift by the sum, blocks.
const LEAST_SD: f64 = 0.03;

/// One level of luminance less the dark frame.
struct Plane {
    w: usize,
    h: usize,
    v: Vec<f32>,
}

impl Plane {
    fn of(light: &Light, dark: Option<&Light>, k: usize) -> Plane {
        let light = light.coarser(k);
        let dark = dark.map(|d| d.coarser(k));
        let v = (0..light.len()).map(|i| light.luminance(i) - dark.as_ref().map_or(0.0, |d| d.luminance(i))).collect();
        Plane { w: light.width, h: light.height, v }
    }

    /// Value between blocks, and how it changes to the right and down.
    fn at(&self, x: f64, y: f64) -> Option<(f64, f64, f64)> {
        if !(x >= 1.0 && y >= 1.0 && x < (self.w - 2) as f64 && y < (self.h - 2) as f64) {
            return None;
        }
        let (i, j) = (x as usize, y as usize);
        let (fx, fy) = (x - i as f64, y - j as f64);
        let g = |i: usize, j: usize| f64::from(self.v[j * self.w + i]);
        let mix = |of: &dyn Fn(usize, usize) -> f64| {
            (of(i, j) * (1.0 - fx) + of(i + 1, j) * fx) * (1.0 - fy)
                + (of(i, j + 1) * (1.0 - fx) + of(i + 1, j + 1) * fx) * fy
        };
        let right = |i: usize, j: usize| (g(i + 1, j) - g(i - 1, j)) / 2.0;
        let down = |i: usize, j: usize| (g(i, j + 1) - g(i, j - 1)) / 2.0;
        Some((mix(&g), mix(&right), mix(&down)))
    }
}

/// Where plates lie against a picture that holds the light of all of them: factors and shifts are solved for together, coarse blocks
/// first (Lucas & Kanade 1981, its brightness a sum of plates). Far surer than edges, as the picture holds each plate itself. `None` for
/// a plate that adds too little of the light.
pub fn in_sum(all: &Light, plates: &[&Light], dark: Option<&Light>) -> Vec<Option<Lies>> {
    let n = plates.len();
    let side = all.width.max(all.height);
    let mut k = 1;
    while side / (k * 2) >= SMALLEST {
        k *= 2;
    }
    let mut shifts = vec![[0.0f64; 2]; n];
    let (mut told, mut sds) = (vec![false; n], vec![f64::INFINITY; n]);
    while k >= 1 {
        let y = Plane::of(all, dark, k);
        let p: Vec<Plane> = plates.par_iter().map(|l| Plane::of(l, dark, k)).collect();
        let clipped = all.coarser(k).clipped;
        let stride = (y.v.len() / PLACES).max(1);
        for _ in 0..ROUNDS {
            let Some(step) = one_round(&y, &p, &clipped, &shifts, stride) else { break };
            let mut most = 0.0f64;
            for i in 0..n {
                (told[i], sds[i]) = (step[i].1, step[i].2 * k as f64 * f64::from(all.cell));
                if step[i].1 {
                    (0..2).for_each(|a| shifts[i][a] += step[i].0[a].clamp(-1.5, 1.5));
                    most = most.max(step[i].0[0].hypot(step[i].0[1]));
                }
            }
            if most < 0.005 {
                break;
            }
        }
        k /= 2;
        if k > 0 {
            shifts.iter_mut().for_each(|s| *s = s.map(|v| v * 2.0));
        }
    }
    let cell = f64::from(all.cell);
    let lies = |i: usize| {
        told[i].then(|| Lies {
            right_px: shifts[i][0] * cell,
            down_px: shifts[i][1] * cell,
            turn_deg: 0.0,
            scale: 1.0,
            sd_px: sds[i].max(LEAST_SD * cell),
            windows: 0,
        })
    };
    (0..n).map(lies).collect()
}

/// Steps of the shifts of plates: for each its step, whether it can be told, and its spread, in blocks.
fn one_round(
    y: &Plane,
    p: &[Plane],
    clipped: &[bool],
    shifts: &[[f64; 2]],
    stride: usize,
) -> Option<Vec<([f64; 2], bool, f64)>> {
    let n = p.len();
    let m = 3 * n;
    let rows: Vec<usize> = (0..y.v.len()).step_by(stride).collect();
    let fill = |i: usize, row: &mut [f64]| {
        let (bx, by) = ((i % y.w) as f64, (i / y.w) as f64);
        if clipped[i] {
            return None;
        }
        for ((plane, s), out) in p.iter().zip(shifts).zip(row.as_chunks_mut::<3>().0) {
            let (v, dx, dy) = plane.at(bx + s[0], by + s[1])?;
            *out = [v, dx, dy];
        }
        Some(f64::from(y.v[i]))
    };
    let chunk = |part: &[usize]| {
        let (mut flat, mut b) = (vec![0.0f64; m * m], DVector::<f64>::zeros(m));
        let mut row = vec![0.0f64; m];
        let (mut yy, mut count) = (0.0, 0usize);
        for i in part {
            let Some(value) = fill(*i, &mut row) else { continue };
            // noise grows with light: what is bright is known in parts of itself
            let weight = 1.0 / (0.01 * value.max(0.0) + 0.002).powi(2);
            for (r, out) in flat.chunks_exact_mut(m).enumerate() {
                let rw = row[r] * weight;
                b[r] += rw * value;
                out[r..].iter_mut().zip(&row[r..]).for_each(|(g, c)| *g += rw * c);
            }
            yy += weight * value * value;
            count += 1;
        }
        (DMatrix::from_row_slice(m, m, &flat), b, yy, count)
    };
    let parts: Vec<_> = rows.par_chunks(4096).map(chunk).collect();
    let (mut g, mut b, mut yy, mut count) = (DMatrix::<f64>::zeros(m, m), DVector::<f64>::zeros(m), 0.0, 0usize);
    for (pg, pb, py, pc) in parts {
        g += pg;
        b += pb;
        yy += py;
        count += pc;
    }
    if count < 4 * m {
        return None;
    }
    for r in 0..m {
        for c in 0..r {
            g[(r, c)] = g[(c, r)];
        }
    }
    // shifts are held near nought, as strongly as the plate's own light counts; and the factors stand on their own feet
    let free = g.clone();
    let noise = {
        let x = (&g + DMatrix::identity(m, m) * (1e-9 * g.diagonal().max())).cholesky()?.solve(&b);
        ((yy - x.dot(&b)) / count as f64).max(1e-6)
    };
    for k in 0..n {
        let hold = noise * 40.0 / (HELD * HELD);
        g[(3 * k + 1, 3 * k + 1)] += hold;
        g[(3 * k + 2, 3 * k + 2)] += hold;
        g[(3 * k, 3 * k)] *= 1.0 + 1e-9;
    }
    let inverse = g.cholesky()?.inverse();
    let x = &inverse * &b;
    let total: f64 = (0..n).map(|k| x[3 * k].max(0.0) * free[(3 * k, 3 * k)].sqrt()).sum();
    Some(
        (0..n)
            .map(|k| {
                let w = x[3 * k];
                let told = w > 0.0 && w * free[(3 * k, 3 * k)].sqrt() > TELLS * total;
                if !told {
                    return ([0.0; 2], false, f64::INFINITY);
                }
                // neighbouring blocks err together
                let var = 9.0 * noise * (inverse[(3 * k + 1, 3 * k + 1)] + inverse[(3 * k + 2, 3 * k + 2)]) / 2.0;
                ([x[3 * k + 1] / w, x[3 * k + 2] / w], true, var.sqrt() / w)
            })
            .collect(),
    )
}
