//! Bright faces: where points on them lie, what they send towards a point, and what a ray meets.
//!
//! Light is counted in units of the picture: a source of radiance `L` here gives a white surface
//! `E = integral of L cos / pi`, and a matte surface of reflectance `rho` then shows `rho E`.

use crate::math::{PI, V, point, tangents, upright, v};
use lightset::set::{self, SetLight};
use optics::geometry::Vec3;
use optics::luminaire::Luminaire;
use std::sync::Arc;

/// Outline of a bright face; half sizes in metres.
#[derive(Debug, Clone, Copy)]
pub(crate) enum Outline {
    Disc(f32),
    Rectangle(f32, f32),
    /// Half the width over flats.
    Octagon(f32),
    /// Half length and radius; the axis is `u`.
    Tube(f32, f32),
    Ball(f32),
}

/// Radiance over the face and over the angle.
#[derive(Debug, Clone)]
pub(crate) enum Glow {
    /// Even, the same in all directions.
    Even,
    /// Brighter in the middle by this factor.
    Hot(f32),
    /// Gaussian beam: half the full angle at half intensity, radians.
    Beam(f32),
    /// Flat to the beam's edge, nothing past the field's: half angles, radians.
    Spot(f32, f32),
    /// Measured.
    Measured(Arc<Luminaire>),
    /// Relative radiance over a rectangle, row by row from the lower left.
    Grid(Arc<Grid>),
}

/// Values on a rectangle with what is needed to draw points in their proportion.
#[derive(Debug, Clone)]
pub(crate) struct Grid {
    pub side: usize,
    pub values: Vec<f32>,
    rows: Vec<f32>,
    cells: Vec<f32>,
    mean: f32,
}

impl Grid {
    pub(crate) fn new(side: usize, values: Vec<f32>) -> Grid {
        let sum_to = |list: &[f32]| {
            let mut acc = 0.0;
            list.iter()
                .map(|x| {
                    acc += x;
                    acc
                })
                .collect::<Vec<f32>>()
        };
        let row_sums: Vec<f32> = values.chunks(side).map(|r| r.iter().sum()).collect();
        let rows = sum_to(&row_sums);
        let cells = values.chunks(side).flat_map(sum_to).collect();
        let mean = values.iter().sum::<f32>() / values.len() as f32;
        Grid { side, values, rows, cells, mean }
    }

    /// Value at `x`, `y` in -1..1, by straight lines between cell centres.
    pub(crate) fn at(&self, x: f32, y: f32) -> f32 {
        let n = self.side;
        let place = |t: f32| {
            let t = ((t * 0.5 + 0.5) * n as f32 - 0.5).clamp(0.0, n as f32 - 1.0);
            let i = (t as usize).min(n.saturating_sub(2));
            (i, t - i as f32)
        };
        if n == 1 {
            return self.values[0];
        }
        let ((i, fx), (j, fy)) = (place(x), place(y));
        let get = |i: usize, j: usize| self.values[j * n + i];
        (get(i, j) * (1.0 - fx) + get(i + 1, j) * fx) * (1.0 - fy)
            + (get(i, j + 1) * (1.0 - fx) + get(i + 1, j + 1) * fx) * fy
    }

    /// A point in -1..1 drawn in proportion to the cells, with its density over the even one.
    fn draw(&self, a: f32, b: f32) -> (f32, f32, f32) {
        let n = self.side;
        let pick = |cum: &[f32], t: f32| {
            let total = cum[cum.len() - 1];
            if total <= 0.0 {
                let x = t * cum.len() as f32;
                let i = (x as usize).min(cum.len() - 1);
                return (i, x - i as f32);
            }
            let want = t * total;
            let i = cum.partition_point(|c| *c <= want).min(cum.len() - 1);
            let before = if i == 0 { 0.0 } else { cum[i - 1] };
            (i, ((want - before) / (cum[i] - before).max(1e-20)).clamp(0.0, 1.0))
        };
        let (j, fy) = pick(&self.rows, b);
        let (i, fx) = pick(&self.cells[j * n..(j + 1) * n], a);
        let to = |k: usize, f: f32| 2.0 * (k as f32 + f) / n as f32 - 1.0;
        let density = if self.mean > 0.0 { self.values[j * n + i] / self.mean } else { 1.0 };
        (to(i, fx), to(j, fy), density.max(1e-9))
    }
}

/// A bright face in the set.
#[derive(Debug, Clone)]
pub(crate) struct Emitter {
    pub centre: V,
    pub u: V,
    pub v: V,
    pub n: V,
    pub outline: Outline,
    pub glow: Glow,
    pub radiance: f32,
}

/// A point of a face as seen from somewhere.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Drawn {
    /// Unit vector to it.
    pub d: V,
    /// Metres.
    pub distance: f32,
    /// Radiance from it.
    pub radiance: f32,
    /// Solid angle it stands for: one over the density of directions.
    pub omega: f32,
}

impl Emitter {
    /// The bare face of a light at `position`, with radiance 1.
    pub(crate) fn of(light: &SetLight, position: Vec3) -> Emitter {
        let aim = v(light.aim_m);
        let at = v(position.into());
        let mut n = (aim - at).normalize();
        let about = light.source.about();
        if let Some(facing) = about.facing_deg {
            let (s, c) = facing.to_radians().sin_cos();
            n = V::new(s as f32, 0.0, c as f32);
        }
        let half = |v: f64| v as f32 / 2.0;
        let outline = match about.outline {
            set::Outline::Disc(d) => Outline::Disc(half(d)),
            set::Outline::Octagon(w) => Outline::Octagon(half(w)),
            set::Outline::Rectangle(w, h) => Outline::Rectangle(half(w), half(h)),
            set::Outline::Tube(l, d) => Outline::Tube(half(l), half(d)),
            set::Outline::Ball(d) => Outline::Ball(half(d)),
        };
        let glow = match about.glow {
            set::Glow::Even => Glow::Even,
            set::Glow::Hot(k) => Glow::Hot(k as f32),
            set::Glow::Beam(beam) => Glow::Beam(half(beam.to_radians())),
            set::Glow::Spot(beam, field) => Glow::Spot(half(beam.to_radians()), half(field.to_radians())),
            set::Glow::Measured(file) => Luminaire::parse(file).map_or(Glow::Even, |l| Glow::Measured(Arc::new(l))),
        };
        let (u, w) = upright(&n);
        let (s, c) = (light.roll_deg as f32).to_radians().sin_cos();
        Emitter { centre: at, u: u * c + w * s, v: w * c - u * s, n, outline, glow, radiance: 1.0 }
    }

    /// Relative radiance at a place on the face towards a direction `to` (unit, away from it).
    fn profile(&self, x: f32, y: f32, to: &V) -> f32 {
        let cos = || to.dot(&self.n).clamp(-1.0, 1.0);
        match &self.glow {
            Glow::Even => 1.0,
            Glow::Hot(k) => 1.0 + k * (-(x * x + y * y) / 0.09).exp(),
            // intensity falls to one half at the beam's edge; radiance is intensity over cosine
            Glow::Beam(half) => {
                let a = cos().acos();
                (-(a / half).powi(2) * std::f32::consts::LN_2).exp() / cos().max(0.05)
            }
            Glow::Spot(half, field) => {
                let a = cos().acos();
                let inner = (2.0 * half - field).max(0.0);
                let t = ((field - a) / (field - inner).max(1e-4)).clamp(0.0, 1.0);
                t * t * (3.0 - 2.0 * t)
            }
            Glow::Measured(l) => l.at(f64::from(cos().acos().to_degrees())) as f32 / cos().max(0.05),
            Glow::Grid(g) => g.at(x, y),
        }
    }

    /// Draws a point of the face as seen from `p`, for two numbers in 0..1. `None` from behind.
    pub(crate) fn draw(&self, p: &V, a: f32, b: f32) -> Option<Drawn> {
        let (x, area, n, local, density) = match self.outline {
            Outline::Disc(r) => {
                let (x, y) = concentric(a, b);
                (self.centre + self.u * (x * r) + self.v * (y * r), PI * r * r, self.n, (x, y), 1.0)
            }
            Outline::Rectangle(w, h) => {
                let (x, y, density) = match &self.glow {
                    Glow::Grid(g) => g.draw(a, b),
                    _ => (2.0 * a - 1.0, 2.0 * b - 1.0, 1.0),
                };
                (self.centre + self.u * (x * w) + self.v * (y * h), 4.0 * w * h, self.n, (x, y), density)
            }
            Outline::Octagon(r) => {
                // eight triangles from the middle
                let k = (a * 8.0).min(7.999);
                let (i, t) = (k.floor(), k.fract());
                let corner = |i: f32| {
                    let (s, c) = ((i + 0.5) * PI / 4.0).sin_cos();
                    (c / (PI / 8.0).cos(), s / (PI / 8.0).cos())
                };
                let (c0, c1) = (corner(i), corner(i + 1.0));
                let s = b.sqrt();
                let (x, y) = (s * (c0.0 * (1.0 - t) + c1.0 * t), s * (c0.1 * (1.0 - t) + c1.1 * t));
                let area = 8.0 * r * r * (PI / 8.0).tan();
                (self.centre + self.u * (x * r) + self.v * (y * r), area, self.n, (x, y), 1.0)
            }
            Outline::Tube(half, r) => {
                let axis = self.u;
                let along = axis * (half * (2.0 * a - 1.0));
                let to = p - self.centre;
                let w = to - axis * to.dot(&axis);
                let w = if w.norm() > 1e-6 { w.normalize() } else { self.n };
                let (s, c) = (PI * (b - 0.5)).sin_cos();
                let n = w * c + axis.cross(&w) * s;
                (self.centre + along + n * r, 2.0 * half * PI * r, n, (2.0 * a - 1.0, 0.0), 1.0)
            }
            Outline::Ball(r) => {
                let to = self.centre - p;
                let d2 = to.norm_squared();
                if d2 <= r * r * 1.0001 {
                    return None;
                }
                let cos_max = (1.0 - r * r / d2).sqrt();
                let axis = to / d2.sqrt();
                let cos = 1.0 - a * (1.0 - cos_max);
                let sin = (1.0 - cos * cos).max(0.0).sqrt();
                let (t, s) = tangents(&axis);
                let (sb, cb) = (2.0 * PI * b).sin_cos();
                let d = t * (sin * cb) + s * (sin * sb) + axis * cos;
                let along = d2.sqrt() * cos;
                let distance = along - (r * r - d2 * sin * sin).max(0.0).sqrt();
                return Some(Drawn { d, distance, radiance: self.radiance, omega: 2.0 * PI * (1.0 - cos_max) });
            }
        };
        let to = x - p;
        let d2 = to.norm_squared();
        let distance = d2.sqrt();
        let d = to / distance;
        let cos = -d.dot(&n);
        if cos <= 0.0 || distance < 1e-6 {
            return None;
        }
        Some(Drawn {
            d,
            distance,
            radiance: self.radiance * self.profile(local.0, local.1, &-d),
            omega: area * cos / d2 / density,
        })
    }

    /// Where a ray meets the bright side, with the radiance it sees.
    pub(crate) fn meet(&self, o: &V, d: &V, to: f32) -> Option<(f32, f32)> {
        match self.outline {
            Outline::Ball(r) => {
                let oc = o - self.centre;
                let b = oc.dot(d);
                let disc = b * b - (oc.norm_squared() - r * r);
                let t = -b - disc.max(0.0).sqrt();
                (disc > 0.0 && t > 1e-5 && t < to).then_some((t, self.radiance))
            }
            Outline::Tube(half, r) => {
                let axis = self.u;
                let oc = o - self.centre;
                let (dp, op) = (d - axis * d.dot(&axis), oc - axis * oc.dot(&axis));
                let (a, b, c) = (dp.norm_squared(), op.dot(&dp), op.norm_squared() - r * r);
                let disc = b * b - a * c;
                if disc <= 0.0 || a < 1e-12 {
                    return None;
                }
                let t = (-b - disc.sqrt()) / a;
                ((oc + d * t).dot(&axis).abs() < half && t > 1e-5 && t < to).then_some((t, self.radiance))
            }
            _ => {
                let k = d.dot(&self.n);
                if k >= 0.0 {
                    return None;
                }
                let t = (self.centre - o).dot(&self.n) / k;
                if !(t > 1e-5 && t < to) {
                    return None;
                }
                let q = o + d * t - self.centre;
                let (x, y) = (q.dot(&self.u), q.dot(&self.v));
                let (sx, sy) = self.half_sizes();
                let inside = match self.outline {
                    Outline::Disc(r) => x * x + y * y < r * r,
                    Outline::Octagon(r) => {
                        x.abs() < r && y.abs() < r && (x.abs() + y.abs()) < r * std::f32::consts::SQRT_2
                    }
                    _ => x.abs() < sx && y.abs() < sy,
                };
                inside.then(|| (t, self.radiance * self.profile(x / sx, y / sy, &-d)))
            }
        }
    }

    /// Solid angle density with which [`Emitter::draw`] finds the direction `d` from `o`, meeting at
    /// `t` where the radiance is `seen`.
    pub(crate) fn density(&self, d: &V, t: f32, seen: f32) -> f32 {
        let area = match self.outline {
            Outline::Disc(r) => PI * r * r,
            Outline::Rectangle(w, h) => 4.0 * w * h,
            Outline::Octagon(r) => 8.0 * r * r * (PI / 8.0).tan(),
            Outline::Tube(half, r) => return t * t / (2.0 * half * PI * r),
            Outline::Ball(r) => {
                let d2 = (t + r * 0.5).powi(2);
                return 1.0 / (2.0 * PI * (1.0 - (1.0 - r * r / d2.max(r * r * 1.01)).sqrt()));
            }
        };
        let cos = -d.dot(&self.n);
        let relative = match &self.glow {
            Glow::Grid(g) if g.mean > 0.0 => seen / self.radiance / g.mean,
            _ => 1.0,
        };
        relative * t * t / (area * cos.max(1e-4))
    }

    /// Middle of the face over its edge, stops: how hot its centre is.
    pub(crate) fn middle_over_edge(&self) -> f64 {
        match &self.glow {
            Glow::Hot(k) => (1.0 + f64::from(*k)).log2(),
            Glow::Grid(g) => {
                let n = g.side;
                let middle = g.values[(n / 2) * n + n / 2].max(1e-12);
                let edge = (0..n).map(|i| g.values[(n / 2) * n + i].max(g.values[i * n + n / 2]));
                let edge = edge.enumerate().filter(|(i, _)| *i == n / 16 || *i == n - 1 - n / 16).map(|e| e.1);
                let edges: Vec<f32> = edge.collect();
                let mean = edges.iter().sum::<f32>() / edges.len().max(1) as f32;
                f64::from(middle / mean.max(1e-9 * middle)).log2().clamp(-1.0, 8.0)
            }
            _ => 0.0,
        }
    }

    pub(crate) fn half_sizes(&self) -> (f32, f32) {
        match self.outline {
            Outline::Disc(r) | Outline::Octagon(r) | Outline::Ball(r) => (r, r),
            Outline::Rectangle(w, h) => (w, h),
            Outline::Tube(half, r) => (half, r),
        }
    }

    /// Irradiance at `p` on a surface with normal `n`, nothing in the way, by `count` points.
    pub(crate) fn irradiance(&self, p: &V, n: &V, count: u32) -> f32 {
        let mut sum = 0.0f64;
        for i in 0..count {
            let (a, b) = point(i, 77);
            if let Some(s) = self.draw(p, a, b) {
                sum += f64::from(s.radiance * s.omega * s.d.dot(n).max(0.0));
            }
        }
        (sum / f64::from(count)) as f32 / PI
    }
}

/// Square to disc, areas kept (Shirley & Chiu 1997).
fn concentric(a: f32, b: f32) -> (f32, f32) {
    let (x, y) = (2.0 * a - 1.0, 2.0 * b - 1.0);
    if x == 0.0 && y == 0.0 {
        return (0.0, 0.0);
    }
    let (r, phi) = if x.abs() > y.abs() { (x, PI / 4.0 * (y / x)) } else { (y, PI / 2.0 - PI / 4.0 * (x / y)) };
    let (s, c) = phi.sin_cos();
    (r * c, r * s)
}
