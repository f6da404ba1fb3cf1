//! Where a picture's points lie in another picture of the same thing, whatever the light.
//!
//! Light changes the brightness and even the sign of an edge, but not the line along which it runs. Each pixel is
//! therefore described by the square of its gradient as a complex number, of length up to one (the doubled angle
//! is the same for both signs; as in Bigün & Granlund 1987). Two such fields are correlated by the fast Fourier
//! transform over scales and turns (Kuglin & Hines 1975 for the shift), and the best is refined to a homography by
//! least squares over a pyramid (Lucas & Kanade 1981).

use correlation::{Complex32, Square};
use evidence::marks::Marks;
use nalgebra::{DVector, Matrix3, Vector3};
use optics::photo::Photo;
use optics::solve::levenberg_marquardt;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Side of the square fields that are correlated; a picture fills half of it, so that shifts do not wrap.
const FIELD: usize = 256;
/// Longest side of the picture in it.
const COARSE: f64 = 120.0;
/// Longest side the homography is refined on.
const FINE: f64 = 320.0;
/// Scales and turns tried; degrees.
const SCALES: [f64; 11] = [0.5, 0.57, 0.66, 0.76, 0.87, 1.0, 1.15, 1.32, 1.52, 1.74, 2.0];
const TURNS: [f64; 7] = [-18.0, -12.0, -6.0, 0.0, 6.0, 12.0, 18.0];
/// Agreement of the edges from which two pictures surely show the same thing. Two different heads framed alike reach 0.42,
/// one head under quite other light 0.78 and more (`slantcast eval-align`).
pub const SAME: f64 = 0.5;
/// Agreement from which one can be laid over the other: with what mirrors show changed, little else may be left.
const ALIKE: f64 = 0.3;
/// Agreement from which a mirrored picture need not be thought of.
const CLEAR: f64 = 0.8;
/// Smallest share of the reference that must be seen in the take.
const OVERLAP: f64 = 0.22;

/// How the reference lies in the take.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Alignment {
    /// Homography from reference pixels to take pixels, row by row.
    pub matrix: [f64; 9],
    /// Agreement of the edges, 0 to 1.
    pub agreement: f64,
    /// Share of the reference that the take shows.
    pub overlap: f64,
    /// Size of a thing in the take over its size in the reference, in parts of the picture's longer side.
    pub scale: f64,
    /// Turn in degrees, clockwise.
    pub turn_deg: f64,
    /// What is off by, one standard deviation, in pixels of the take.
    pub sd_px: f64,
}

impl Alignment {
    /// The same picture, another size.
    pub fn of_sizes(reference: (u32, u32), take: (u32, u32)) -> Alignment {
        let k = f64::from(take.0) / f64::from(reference.0);
        Alignment {
            matrix: [k, 0.0, 0.0, 0.0, k, 0.0, 0.0, 0.0, 1.0],
            agreement: 0.0,
            overlap: 1.0,
            scale: 1.0,
            turn_deg: 0.0,
            sd_px: f64::INFINITY,
        }
    }

    fn h(&self) -> Matrix3<f64> {
        Matrix3::from_row_slice(&self.matrix)
    }

    /// Homography from take pixels to reference pixels, row by row.
    pub fn back(&self) -> Option<[f64; 9]> {
        let b = self.h().try_inverse()?;
        Some([0, 1, 2, 3, 4, 5, 6, 7, 8].map(|k| b[(k / 3, k % 3)]))
    }

    /// Where a point of the reference lies in the take.
    pub fn point(&self, p: [f64; 2]) -> [f64; 2] {
        let q = self.h() * Vector3::new(p[0], p[1], 1.0);
        [q.x / q.z, q.y / q.z]
    }

    /// Take pixels per reference pixel at a point, and the turn there in degrees clockwise.
    pub fn local(&self, p: [f64; 2]) -> (f64, f64) {
        let (a, b, c) = (self.point(p), self.point([p[0] + 1.0, p[1]]), self.point([p[0], p[1] + 1.0]));
        let (u, v) = ([b[0] - a[0], b[1] - a[1]], [c[0] - a[0], c[1] - a[1]]);
        let k = (u[0] * v[1] - u[1] * v[0]).abs().sqrt();
        (k, (u[1] - v[0]).atan2(u[0] + v[1]).to_degrees())
    }

    /// Marks of the reference laid over the take: points go where the picture says, lengths by the scale there.
    pub fn carry(&self, marks: &Marks) -> Marks {
        marks.mapped(&|p| self.point(p), &|p| self.local(p))
    }

    /// Whether the two surely show the same thing.
    pub fn sure(&self) -> bool {
        self.agreement >= SAME && self.overlap >= OVERLAP
    }

    /// How it went, in a sentence.
    pub fn says(&self) -> String {
        let turn =
            if self.turn_deg.abs() < 0.5 { String::new() } else { format!(", turned by {:.0}°", self.turn_deg) };
        let doubt = if self.sure() {
            ""
        } else {
            " That is little: check that it is the same subject, and where its marks lie."
        };
        format!(
            "A thing is {:.2} times as large in the take as in the reference{turn}; edges agree to {:.0} %.{doubt}",
            self.scale,
            100.0 * self.agreement
        )
    }
}

/// Grey picture of block means, in stops, smoothed once.
struct Grey {
    w: usize,
    h: usize,
    /// Photo pixels per pixel here.
    k: f64,
    v: Vec<f32>,
}

impl Grey {
    fn of(photo: &Photo, side: f64) -> Grey {
        let k = (f64::from(photo.width().max(photo.height())) / side).max(1.0);
        let (w, h) = ((f64::from(photo.width()) / k).floor(), (f64::from(photo.height()) / k).floor());
        let (w, h) = ((w as usize).max(8), (h as usize).max(8));
        // a few samples per block will do for a large picture
        let n = (k.ceil() as usize).min(4);
        let mut v = vec![0f32; w * h];
        for (i, out) in v.iter_mut().enumerate() {
            let (x, y) = ((i % w) as f64, (i / w) as f64);
            let (mut sum, mut count) = (0.0, 0.0);
            for a in 0..n {
                for b in 0..n {
                    let px = ((x + (a as f64 + 0.5) / n as f64) * k) as i64;
                    let py = ((y + (b as f64 + 0.5) / n as f64) * k) as i64;
                    if let Some(s) = photo.get(px, py) {
                        sum += s.luminance();
                        count += 1.0;
                    }
                }
            }
            // a floor of a thousandth of white: what is black has no edges
            *out = ((sum / f64::max(count, 1.0)).max(0.0) + 1e-3).log2() as f32;
        }
        let mut g = Grey { w, h, k, v };
        g.smooth();
        g
    }

    fn smooth(&mut self) {
        let (w, h) = (self.w, self.h);
        let src = self.v.clone();
        let get = |x: i64, y: i64| src[(y.clamp(0, h as i64 - 1) as usize) * w + x.clamp(0, w as i64 - 1) as usize];
        for y in 0..h as i64 {
            for x in 0..w as i64 {
                let mut sum = 0.0;
                for (dy, b) in [(-1, 1.0f32), (0, 2.0), (1, 1.0)] {
                    for (dx, a) in [(-1, 1.0f32), (0, 2.0), (1, 1.0)] {
                        sum += a * b * get(x + dx, y + dy);
                    }
                }
                self.v[y as usize * w + x as usize] = sum / 16.0;
            }
        }
    }

    /// Squared gradients, their length held under one by what is usual around them.
    fn field(&self) -> Field {
        let (w, h) = (self.w, self.h);
        let mut g = vec![Complex32::default(); w * h];
        let mut power = vec![0f32; w * h];
        for y in 1..h - 1 {
            for x in 1..w - 1 {
                let i = y * w + x;
                let (dx, dy) = ((self.v[i + 1] - self.v[i - 1]) / 2.0, (self.v[i + w] - self.v[i - w]) / 2.0);
                let z = Complex32::new(dx, dy);
                power[i] = z.norm_sqr();
                g[i] = z * z;
            }
        }
        // noise and the faint texture of flat parts count little: half weight at the upper quarter's gradient
        let mut sorted: Vec<f32> = power.iter().copied().filter(|p| *p > 0.0).collect();
        sorted.sort_unstable_by(f32::total_cmp);
        let usual = sorted.get(sorted.len() * 3 / 4).copied().unwrap_or(1e-6).max(1e-4);
        for (z, p) in g.iter_mut().zip(&power) {
            *z /= p + usual;
        }
        Field { w, h, v: g }
    }
}

/// Complex orientation of each pixel.
struct Field {
    w: usize,
    h: usize,
    v: Vec<Complex32>,
}

impl Field {
    fn at(&self, x: f64, y: f64) -> Option<Complex32> {
        let (x, y) = (x - 0.5, y - 0.5);
        if x < 0.0 || y < 0.0 || x >= (self.w - 1) as f64 || y >= (self.h - 1) as f64 {
            return None;
        }
        let (i, j) = (x as usize, y as usize);
        let (fx, fy) = ((x - i as f64) as f32, (y - j as f64) as f32);
        let get = |i: usize, j: usize| self.v[j * self.w + i];
        Some(
            (get(i, j) * (1.0 - fx) + get(i + 1, j) * fx) * (1.0 - fy)
                + (get(i, j + 1) * (1.0 - fx) + get(i + 1, j + 1) * fx) * fy,
        )
    }
}

/// A homography between the two grey pictures with its agreement.
#[derive(Clone, Copy)]
struct Candidate {
    h: Matrix3<f64>,
    agreement: f64,
    overlap: f64,
}

/// Agreement of edges over what both show: correlation of the fields, edges turned with the picture.
fn agreement(a: &Field, b: &Field, h: &Matrix3<f64>) -> (f64, f64) {
    let turn = h[(1, 0)].atan2(h[(0, 0)]);
    let back = Complex32::from_polar(1.0, -2.0 * turn as f32);
    let (mut ab, mut aa, mut bb, mut seen) = (0.0f64, 0.0f64, 0.0f64, 0usize);
    for y in 0..a.h {
        for x in 0..a.w {
            let q = h * Vector3::new(x as f64 + 0.5, y as f64 + 0.5, 1.0);
            if q.z <= 0.0 {
                continue;
            }
            let Some(z) = b.at(q.x / q.z, q.y / q.z) else { continue };
            let p = a.v[y * a.w + x];
            let z = z * back;
            ab += f64::from(p.re * z.re + p.im * z.im);
            aa += f64::from(p.norm_sqr());
            bb += f64::from(z.norm_sqr());
            seen += 1;
        }
    }
    let overlap = seen as f64 / (a.w * a.h) as f64;
    (if aa > 0.0 && bb > 0.0 { ab / (aa * bb).sqrt() } else { 0.0 }, overlap)
}

/// The best shifts for each scale and turn.
fn coarse(a: &Field, b: &Field) -> Vec<Candidate> {
    let square = Square::of(FIELD);
    let mut take = square.empty();
    for y in 0..b.h {
        for x in 0..b.w {
            take[y * FIELD + x] = b.v[y * b.w + x];
        }
    }
    square.spectrum(&mut take);
    let mut out = Vec::new();
    let mut m = square.empty();
    for scale in SCALES {
        for turn in TURNS {
            let (s, c) = f64::to_radians(turn).sin_cos();
            // the reference scaled and turned about its middle, on the same grid
            let half = [a.w as f64 / 2.0, a.h as f64 / 2.0];
            let reach = FIELD as f64 / 4.0;
            let spin = Complex32::from_polar(1.0, 2.0 * turn.to_radians() as f32);
            m.fill(Complex32::default());
            let mut energy = 0.0f32;
            for y in 0..FIELD / 2 {
                for x in 0..FIELD / 2 {
                    let (dx, dy) = ((x as f64 + 0.5 - reach) / scale, (y as f64 + 0.5 - reach) / scale);
                    if let Some(z) = a.at(half[0] + c * dx + s * dy, half[1] - s * dx + c * dy) {
                        m[y * FIELD + x] = z * spin;
                        energy += z.norm_sqr();
                    }
                }
            }
            square.spectrum(&mut m);
            square.correlate(&mut m, &take);
            let best = (0..FIELD * FIELD).max_by(|i, j| m[*i].re.total_cmp(&m[*j].re)).unwrap_or(0);
            let (tx, ty) = (square.shift(best % FIELD), square.shift(best / FIELD));
            let h = Matrix3::new(
                scale * c,
                -scale * s,
                tx + reach - scale * (c * half[0] - s * half[1]),
                scale * s,
                scale * c,
                ty + reach - scale * (s * half[0] + c * half[1]),
                0.0,
                0.0,
                1.0,
            );
            out.push(Candidate { h, agreement: f64::from(m[best].re / energy.max(1e-6).sqrt()), overlap: 1.0 });
        }
    }
    out.sort_by(|p, q| q.agreement.total_cmp(&p.agreement));
    out.truncate(10);
    for c in &mut out {
        (c.agreement, c.overlap) = agreement(a, b, &c.h);
    }
    out.retain(|c| c.overlap >= OVERLAP);
    out.sort_by(|p, q| q.agreement.total_cmp(&p.agreement));
    out
}

/// Refines a homography: `free` of its parameters (4 for a similarity, 8 for all).
fn refine(a: &Field, b: &Field, start: &Matrix3<f64>, free: usize) -> Matrix3<f64> {
    let (cx, cy) = (a.w as f64 / 2.0, a.h as f64 / 2.0);
    let r = cx.max(cy);
    // parameters: shifts, then what scales and turns, shears, tilts, about the middle, in pixels at the edge
    let at = |x: &DVector<f64>| {
        let mut d = Matrix3::<f64>::identity();
        (d[(0, 2)], d[(1, 2)]) = (x[0], x[1]);
        d[(0, 0)] += x[2] / r;
        d[(1, 1)] += x[2] / r;
        d[(0, 1)] -= x[3] / r;
        d[(1, 0)] += x[3] / r;
        if free == 8 {
            d[(0, 0)] += x[4] / r;
            d[(1, 1)] -= x[4] / r;
            d[(0, 1)] += x[5] / r;
            d[(1, 0)] += x[5] / r;
            d[(2, 0)] += x[6] / (r * r);
            d[(2, 1)] += x[7] / (r * r);
        }
        let to = Matrix3::new(1.0, 0.0, -cx, 0.0, 1.0, -cy, 0.0, 0.0, 1.0);
        let from = Matrix3::new(1.0, 0.0, cx, 0.0, 1.0, cy, 0.0, 0.0, 1.0);
        start * from * d * to
    };
    // the strongest edges of the reference carry the fit
    let mut spots: Vec<(f32, usize)> =
        a.v.iter().enumerate().map(|(i, z)| (z.norm_sqr(), i)).filter(|s| s.0 > 0.04).collect();
    spots.sort_by(|p, q| q.0.total_cmp(&p.0));
    spots.truncate(5000);
    let residuals = |x: &DVector<f64>| {
        let h = at(x);
        let turn = h[(1, 0)].atan2(h[(0, 0)]);
        let back = Complex32::from_polar(1.0, -2.0 * turn as f32);
        let mut out = DVector::zeros(2 * spots.len());
        for (k, (_, i)) in spots.iter().enumerate() {
            let p = a.v[*i];
            let q = h * Vector3::new((i % a.w) as f64 + 0.5, (i / a.w) as f64 + 0.5, 1.0);
            let d = b.at(q.x / q.z, q.y / q.z).map_or(p, |z| p - z * back);
            // edges that only one light makes are not to pull
            let weight = 1.0 / (0.35 + d.norm_sqr()).sqrt();
            (out[2 * k], out[2 * k + 1]) = (f64::from(d.re * weight), f64::from(d.im * weight));
        }
        out
    };
    let fit = levenberg_marquardt(DVector::zeros(free), &vec![0.05; free], 25, residuals, |_| {});
    at(&fit.x)
}

/// From grey pixels to photo pixels.
fn at_full(h: &Matrix3<f64>, a: f64, b: f64) -> Matrix3<f64> {
    let scale = |k: f64| Matrix3::new(k, 0.0, 0.0, 0.0, k, 0.0, 0.0, 0.0, 1.0);
    scale(b) * h * scale(1.0 / a)
}

/// Finds the reference in the take.
///
/// # Errors
/// A sentence if they do not show the same thing, or the take is mirrored.
pub fn align(reference: &Photo, take: &Photo) -> Result<Alignment, String> {
    let (ga, gb) = (Grey::of(reference, COARSE), Grey::of(take, COARSE));
    let (fa, fb) = (ga.field(), gb.field());
    let best_of = |fa: &Field| {
        let list = coarse(fa, &fb);
        list.into_iter()
            .take(4)
            .map(|c| {
                let h = refine(fa, &fb, &c.h, 4);
                let (agreement, overlap) = agreement(fa, &fb, &h);
                Candidate { h, agreement, overlap }
            })
            .filter(|c| c.overlap >= OVERLAP)
            .max_by(|p, q| p.agreement.total_cmp(&q.agreement))
    };
    let best = best_of(&fa);
    // edges of a mirrored picture run the other way round
    if best.is_none_or(|b| b.agreement < CLEAR) {
        let mut mirrored = Field { w: fa.w, h: fa.h, v: fa.v.clone() };
        for row in mirrored.v.chunks_mut(fa.w) {
            row.reverse();
            row.iter_mut().for_each(|z| *z = z.conj());
        }
        let other = best_of(&mirrored);
        if other.is_some_and(|o| o.agreement > SAME && o.agreement > best.map_or(0.0, |b| b.agreement) + 0.08) {
            return Err("The take is mirrored against the reference: flip it back before it is compared.".into());
        }
    }
    let none = "The take does not show what the reference shows, or too little of it: marks cannot be carried over by \
                the picture.";
    let best = best.ok_or(none)?;
    let (ga2, gb2) = (Grey::of(reference, FINE), Grey::of(take, FINE));
    let (fa2, fb2) = (ga2.field(), gb2.field());
    let up = {
        let k = |g: &Grey, f: &Grey| g.k / f.k;
        at_full(&best.h, k(&ga, &ga2), k(&gb, &gb2))
    };
    let mut h = refine(&fa2, &fb2, &up, 4);
    let (plain, _) = agreement(&fa2, &fb2, &h);
    let all = refine(&fa2, &fb2, &refine(&fa2, &fb2, &h, 8), 8);
    let (tilted, overlap) = agreement(&fa2, &fb2, &all);
    // eight numbers are taken only where they explain more than four
    if tilted > plain + 0.002 && overlap >= OVERLAP {
        h = all;
    }
    let (agreement, overlap) = agreement(&fa2, &fb2, &h);
    let full = at_full(&h, ga2.k, gb2.k);
    let full = full / full[(2, 2)];
    if agreement < ALIKE || overlap < OVERLAP {
        return Err(none.into());
    }
    let mut out = Alignment {
        matrix: [0, 1, 2, 3, 4, 5, 6, 7, 8].map(|k| full[(k / 3, k % 3)]),
        agreement,
        overlap,
        scale: 1.0,
        turn_deg: 0.0,
        // half a pixel of the fine pictures where edges agree well, more where they do not
        sd_px: gb2.k * (0.35 / agreement).min(1.5),
    };
    let middle = [f64::from(reference.width()) / 2.0, f64::from(reference.height()) / 2.0];
    let (k, turn) = out.local(middle);
    let side = |p: &Photo| f64::from(p.width().max(p.height()));
    out.scale = k * side(reference) / side(take);
    out.turn_deg = turn;
    Ok(out)
}
