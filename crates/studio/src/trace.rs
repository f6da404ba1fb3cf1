//! Tracing: area lamps by jittered samples with shadows, mirrored lamps in glossy surfaces, even
//! ambient with occlusion, exposure and sRGB coding.

use crate::body::{Body, Hit, Surface};
use light::geometry::{Vec3, reflect, tangent_frame};
use light::tone::linear_to_srgb;
use rayon::prelude::*;
use std::f64::consts::PI;

/// Outline of a lamp's bright face.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum LampShape {
    /// Disc of a radius in metres.
    Disc(f64),
    /// Half width and half height in metres.
    Rectangle(f64, f64),
}

/// An area lamp that faces the origin of the set.
#[derive(Debug, Clone, Copy)]
pub struct Lamp {
    /// Direction from the origin, unit.
    pub direction: Vec3,
    /// Metres from the origin.
    pub distance: f64,
    /// Outline.
    pub shape: LampShape,
    /// Irradiance at the origin on a surface facing it, linear RGB; a white surface then shows this.
    pub facing: [f64; 3],
}

/// A set to trace.
#[derive(Debug, Clone)]
pub struct Scene {
    /// Solids.
    pub bodies: Vec<Body>,
    /// Lamps.
    pub lamps: Vec<Lamp>,
    /// Even light from everywhere: irradiance on an open surface, linear RGB.
    pub ambient: [f64; 3],
    /// Backdrop wall at `z`, matte RGB; `None` for black.
    pub backdrop: Option<(f64, [f64; 3])>,
}

/// A level camera on the z axis.
#[derive(Debug, Clone, Copy)]
pub struct View {
    /// Width in pixels.
    pub width: u32,
    /// Height in pixels.
    pub height: u32,
    /// Vertical field of view in degrees.
    pub vfov_deg: f64,
    /// Metres from the origin along +z.
    pub distance: f64,
    /// Height of the lens above the origin, metres; the camera looks level.
    pub rise: f64,
    /// Samples per pixel side.
    pub grid: u32,
}

struct Face {
    centre: Vec3,
    u: Vec3,
    v: Vec3,
    normal: Vec3,
    radiance: [f64; 3],
    shape: LampShape,
    area: f64,
}

impl Face {
    fn of(l: &Lamp) -> Face {
        let (u, v) = upright(&l.direction);
        let (area, share) = match l.shape {
            LampShape::Disc(r) => (PI * r * r, PI * r * r / (r * r + l.distance * l.distance)),
            LampShape::Rectangle(w, h) => {
                let c = l.direction * l.distance;
                let corners = [c + u * w + v * h, c - u * w + v * h, c - u * w - v * h, c + u * w - v * h];
                let e = light::falloff::irradiance_from_polygon(1.0, &corners, &Vec3::zeros(), &l.direction);
                (4.0 * w * h, e)
            }
        };
        Face {
            centre: l.direction * l.distance,
            u,
            v,
            normal: -l.direction,
            radiance: l.facing.map(|f| f / share),
            shape: l.shape,
            area,
        }
    }

    /// Point on the face for two numbers in 0..1.
    fn point(&self, a: f64, b: f64) -> Vec3 {
        match self.shape {
            LampShape::Disc(r) => {
                let (s, c) = (2.0 * PI * b).sin_cos();
                let k = r * a.sqrt();
                self.centre + self.u * (k * c) + self.v * (k * s)
            }
            LampShape::Rectangle(w, h) => self.centre + self.u * (w * (2.0 * a - 1.0)) + self.v * (h * (2.0 * b - 1.0)),
        }
    }

    /// Distance at which a ray meets the bright side of the face.
    fn meet(&self, o: &Vec3, d: &Vec3) -> Option<f64> {
        let k = d.dot(&self.normal);
        if k >= 0.0 {
            return None;
        }
        let t = (self.centre - o).dot(&self.normal) / k;
        let p = o + d * t - self.centre;
        let inside = match self.shape {
            LampShape::Disc(r) => p.norm() < r,
            LampShape::Rectangle(w, h) => p.dot(&self.u).abs() < w && p.dot(&self.v).abs() < h,
        };
        (t > 1e-6 && inside).then_some(t)
    }
}

/// Tangents with the first level, so that boxes stand upright.
fn upright(d: &Vec3) -> (Vec3, Vec3) {
    if d.y.abs() > 0.999 {
        return tangent_frame(d);
    }
    let u = Vec3::y().cross(d).normalize();
    (u, d.cross(&u))
}

/// Counter-based generator (SplitMix64, Steele et al. 2014): the samples of a pixel depend on its
/// place only.
struct Dice(u64);

impl Dice {
    fn roll(&mut self) -> f64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        ((z ^ (z >> 31)) >> 11) as f64 / (1u64 << 53) as f64
    }
}

/// Linear RGB, three per pixel, row by row; 1 is clipping.
pub fn render(scene: &Scene, view: &View) -> Vec<f32> {
    let faces: Vec<Face> = scene.lamps.iter().map(Face::of).collect();
    let f = f64::from(view.height) / 2.0 / (view.vfov_deg.to_radians() / 2.0).tan();
    let origin = Vec3::new(0.0, view.rise, view.distance);
    let width = view.width as usize;
    let mut out = vec![0f32; 3 * width * view.height as usize];
    out.par_chunks_mut(3 * width).enumerate().for_each(|(row, line)| {
        for col in 0..width {
            let mut dice = Dice(((row as u64) << 40) ^ ((col as u64) << 16));
            let mut sum = [0.0; 3];
            for sy in 0..view.grid {
                for sx in 0..view.grid {
                    let x = col as f64 + (f64::from(sx) + dice.roll()) / f64::from(view.grid);
                    let y = row as f64 + (f64::from(sy) + dice.roll()) / f64::from(view.grid);
                    let d = Vec3::new((x - width as f64 / 2.0) / f, -(y - f64::from(view.height) / 2.0) / f, -1.0)
                        .normalize();
                    let c = shade(scene, &faces, &origin, &d, &mut dice, 0);
                    sum.iter_mut().zip(c).for_each(|(s, v)| *s += v);
                }
            }
            let n = f64::from(view.grid * view.grid);
            for k in 0..3 {
                line[3 * col + k] = (sum[k] / n) as f32;
            }
        }
    });
    out
}

/// 8-bit sRGB of a linear picture, clipped at 1.
pub fn encode(linear: &[f32]) -> Vec<u8> {
    linear.iter().map(|v| (255.0 * linear_to_srgb(f64::from(v.clamp(0.0, 1.0)))).round() as u8).collect()
}

fn nearest(scene: &Scene, o: &Vec3, d: &Vec3) -> Option<Hit> {
    let mut best: Option<Hit> = None;
    for (i, b) in scene.bodies.iter().enumerate() {
        let to = best.map_or(f64::MAX, |h| h.t);
        if let Some((t, n)) = b.meet(o, d, 1e-6, to) {
            best = Some(Hit { t, body: i, normal: n });
        }
    }
    best
}

fn blocked(scene: &Scene, o: &Vec3, d: &Vec3, to: f64) -> bool {
    scene.bodies.iter().any(|b| b.meet(o, d, 1e-5, to).is_some())
}

fn add(a: &mut [f64; 3], b: [f64; 3], k: f64) {
    a.iter_mut().zip(b).for_each(|(x, y)| *x += k * y);
}

/// Irradiance at a point from all lamps and the ambient, by one sample per lamp per call times two.
fn irradiance(scene: &Scene, faces: &[Face], p: &Vec3, n: &Vec3, dice: &mut Dice) -> [f64; 3] {
    let mut e = [0.0; 3];
    const PER_LAMP: usize = 3;
    for f in faces {
        for k in 0..PER_LAMP {
            let to = f.point((k as f64 + dice.roll()) / PER_LAMP as f64, dice.roll()) - p;
            let d2 = to.norm_squared();
            let d = to / d2.sqrt();
            let (c, cl) = (n.dot(&d), -f.normal.dot(&d));
            if c > 0.0 && cl > 0.0 && !blocked(scene, p, &d, d2.sqrt()) {
                add(&mut e, f.radiance, c * cl * f.area / d2 / PER_LAMP as f64);
            }
        }
    }
    if scene.ambient.iter().any(|a| *a > 0.0) {
        // cosine-weighted direction (Malley's method)
        let (u, v) = tangent_frame(n);
        let (a, b) = (dice.roll(), dice.roll());
        let (s, c) = (2.0 * PI * b).sin_cos();
        let d = u * (a.sqrt() * c) + v * (a.sqrt() * s) + n * (1.0 - a).sqrt();
        if !blocked(scene, p, &d, 2.0) {
            add(&mut e, scene.ambient, 1.0);
        }
    }
    e
}

fn shade(scene: &Scene, faces: &[Face], o: &Vec3, d: &Vec3, dice: &mut Dice, depth: u32) -> [f64; 3] {
    let hit = nearest(scene, o, d);
    let reach = hit.map_or(f64::MAX, |h| h.t);
    // A mirrored ray sees the lamps themselves; the camera does not have them in frame.
    if depth > 0
        && let Some(f) = faces.iter().find(|f| f.meet(o, d).is_some_and(|t| t < reach))
    {
        return f.radiance;
    }
    let Some(hit) = hit else {
        if let Some((z, rgb)) = scene.backdrop
            && d.z < -1e-9
        {
            let p = o + d * ((z - o.z) / d.z);
            let e = irradiance(scene, faces, &p, &Vec3::z(), dice);
            return [0, 1, 2].map(|k| rgb[k] * e[k]);
        }
        return if depth > 0 { scene.ambient } else { [0.0; 3] };
    };
    let n = hit.normal;
    let p = o + d * hit.t + n * 1e-6;
    let body = &scene.bodies[hit.body];
    let diffuse = |rgb: [f64; 3], dice: &mut Dice| {
        let e = irradiance(scene, faces, &p, &n, dice);
        [0, 1, 2].map(|k| rgb[k] * e[k])
    };
    let mirrored = |dice: &mut Dice| {
        if depth > 0 { [0.0; 3] } else { shade(scene, faces, &p, &reflect(&-d, &n), dice, depth + 1) }
    };
    match body.surface {
        Surface::Matte(rgb) => diffuse(rgb, dice),
        Surface::Wood(rgb, strength, rings) => {
            let q = p - body.centre;
            let ring = (q.x.hypot(q.z) * rings + 2.0 * (q.y * 14.0).sin()).sin();
            let fine = (q.y * 900.0 + 5.0 * (q.x * 120.0).sin()).sin();
            let k = 1.0 + strength * (0.7 * ring + 0.3 * fine);
            diffuse(rgb.map(|c| c * k), dice)
        }
        Surface::Lacquer(rgb) => {
            let fresnel = schlick(1.5, -d.dot(&n));
            let mut out = diffuse(rgb, dice).map(|v| v * (1.0 - fresnel));
            add(&mut out, mirrored(dice), fresnel);
            out
        }
        Surface::Mirror(k) => mirrored(dice).map(|v| v * k),
        Surface::Cornea { iris, gaze, pupil } => {
            let q = (p - body.centre).normalize();
            let off = q.dot(&gaze).clamp(-1.0, 1.0).acos();
            let side = (q - gaze * q.dot(&gaze)).normalize();
            let (u, v) = tangent_frame(&gaze);
            let phi = side.dot(&v).atan2(side.dot(&u));
            let fibre = 1.0 + 0.25 * (phi * 47.0).sin() * (phi * 13.0 + 1.0).cos();
            let rgb = if off < pupil { [0.004; 3] } else { iris.map(|c| c * fibre) };
            let fresnel = light::direction::eye::cornea_reflectance(-d.dot(&n));
            let mut out = diffuse(rgb, dice).map(|v| v * (1.0 - fresnel));
            add(&mut out, mirrored(dice), fresnel);
            out
        }
    }
}

/// Reflectance of a smooth dielectric (Schlick 1994).
fn schlick(index: f64, cos: f64) -> f64 {
    let f0 = ((index - 1.0) / (index + 1.0)).powi(2);
    f0 + (1.0 - f0) * (1.0 - cos.clamp(0.0, 1.0)).powi(5)
}
