//! A set made ready for tracing: parts placed in the room, flat things, lights with their sheets.

use crate::around::Around;
use crate::lamp::{Lamp, lamp};
use crate::math::{Rgb, V, hash, turn_of, upright, v};
use crate::mesh::Paint;
use crate::subjects::{Form, Part, Stuff, parts};
use lightset::set::{Board, BoardFinish, Flag, FlagPattern, LightSet, Opening};
use nalgebra::Matrix3;
use optics::geometry::AzEl;

/// A part of a subject in the room.
#[derive(Debug)]
pub(crate) struct Object {
    part: Part,
    /// subject to room
    turn: Matrix3<f32>,
    /// room to subject, with the scale
    back: Matrix3<f32>,
    place: V,
    centre: V,
    reach: f32,
}

/// What a ray meets.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Hit {
    pub t: f32,
    /// smooth normal, towards the ray's origin
    pub n: V,
    /// normal of the flat triangle, towards the ray's origin
    pub flat: V,
    /// the ray came from inside
    pub inside: bool,
    pub paint: Paint,
    pub stuff: Stuff,
    /// object, or `usize::MAX` for a flat thing
    pub object: usize,
    /// flat thing, or `usize::MAX`
    pub quad: usize,
    /// place on a flat thing in -1..1
    pub local: (f32, f32),
}

/// What a flat thing is.
#[derive(Debug, Clone, Copy)]
pub(crate) enum Flat {
    Wall(Rgb),
    Board(BoardFinish),
    Flag(FlagPattern),
}

/// A flat rectangle.
#[derive(Debug, Clone)]
pub(crate) struct Quad {
    pub centre: V,
    pub u: V,
    pub v: V,
    pub n: V,
    pub half: (f32, f32),
    pub what: Flat,
    /// Middle and half sizes of a hole, in -1..1 of its own
    hole: Option<[f32; 4]>,
}

impl Quad {
    fn new(centre: V, n: V, width: f64, height: f64, what: Flat) -> Quad {
        let (u, w) = upright(&n);
        Quad { centre, u, v: w, n, half: (width as f32 / 2.0, height as f32 / 2.0), what, hole: None }
    }

    fn opened(self, by: &Opening) -> Quad {
        let off = v(by.centre_m) - self.centre;
        let (w, h) = (by.width_m as f32 / 2.0, by.height_m as f32 / 2.0);
        let (x, y) = self.half;
        Quad { hole: Some([off.dot(&self.u) / x, off.dot(&self.v) / y, w / x, h / y]), ..self }
    }

    /// Matte reflectance of the front.
    pub(crate) fn matte(&self) -> Rgb {
        match self.what {
            Flat::Wall(c) => c,
            Flat::Board(BoardFinish::White) => [0.85; 3],
            Flat::Board(BoardFinish::Black) | Flat::Flag(_) => [0.04; 3],
            // what a crumpled foil scatters to all sides
            Flat::Board(BoardFinish::Silver) => [0.12; 3],
            Flat::Board(BoardFinish::Gold) => [0.14, 0.10, 0.04],
            Flat::Board(BoardFinish::Mirror) => [0.0; 3],
        }
    }

    /// Colour and roughness of what the front mirrors.
    pub(crate) fn gloss(&self) -> Option<(Rgb, f32)> {
        match self.what {
            Flat::Board(BoardFinish::Silver) => Some(([0.72, 0.73, 0.74], 0.38)),
            Flat::Board(BoardFinish::Gold) => Some(([0.74, 0.56, 0.26], 0.38)),
            Flat::Board(BoardFinish::Mirror) => Some(([0.9; 3], 0.0)),
            _ => None,
        }
    }

    fn meet(&self, o: &V, d: &V, from: f32, to: f32) -> Option<(f32, f32, f32)> {
        let k = d.dot(&self.n);
        if k.abs() < 1e-9 {
            return None;
        }
        let t = (self.centre - o).dot(&self.n) / k;
        if !(t > from && t < to) {
            return None;
        }
        let q = o + d * t - self.centre;
        let (x, y) = (q.dot(&self.u) / self.half.0, q.dot(&self.v) / self.half.1);
        (x.abs() <= 1.0 && y.abs() <= 1.0 && self.solid(x, y)).then_some((t, x, y))
    }

    fn solid(&self, x: f32, y: f32) -> bool {
        if let Some([hx, hy, w, h]) = self.hole {
            return (x - hx).abs() > w || (y - hy).abs() > h;
        }
        let Flat::Flag(pattern) = self.what else { return true };
        match pattern {
            FlagPattern::Solid => true,
            FlagPattern::Blinds { slats, open } => {
                let t = (y * 0.5 + 0.5) * slats as f32;
                t.fract() >= open as f32
            }
            FlagPattern::Slit { opening_m } => y.abs() * self.half.1 > opening_m as f32 / 2.0,
            FlagPattern::Leaves { leaf_m, open } => {
                leaf_over(x * self.half.0, y * self.half.1, leaf_m as f32, open as f32)
            }
            FlagPattern::Lace { pitch_m, open } => {
                let p = pitch_m as f32;
                let row = (y * self.half.1 / p).floor();
                let shift = if row.rem_euclid(2.0) > 0.5 { 0.5 } else { 0.0 };
                let (fx, fy) =
                    ((x * self.half.0 / p + shift).rem_euclid(1.0) - 0.5, (y * self.half.1 / p).rem_euclid(1.0) - 0.5);
                fx * fx + fy * fy > open as f32 / std::f32::consts::PI
            }
        }
    }

    /// Meeting beyond the start of a ray: distance and place.
    pub(crate) fn meet_from(&self, o: &V, d: &V, to: f32) -> Option<(f32, f32, f32)> {
        self.meet(o, d, 1e-4, to)
    }

    pub(crate) fn at(&self, x: f32, y: f32) -> V {
        self.centre + self.u * (x * self.half.0) + self.v * (y * self.half.1)
    }

    pub(crate) fn area(&self) -> f32 {
        4.0 * self.half.0 * self.half.1
    }
}

/// Whether a leaf covers a place of a cutter. Leaves lie anywhere and turned anyhow, one to a cell of a grid in the mean (a Poisson
/// process), the cell so small that the share `open` stays free (Boolean model, Matheron 1975: `exp(-area of a leaf / area of a cell)`).
fn leaf_over(x: f32, y: f32, leaf: f32, open: f32) -> bool {
    /// Width of a leaf over its length (common practice).
    const SLIM: f32 = 0.42;
    /// Chances of at most nought, one, two, three leaves where one is the mean.
    const UP_TO: [f32; 4] = [0.367_88, 0.735_76, 0.919_70, 0.981_01];
    let area = std::f32::consts::PI / 4.0 * leaf * leaf * SLIM;
    let cell = (area / -open.ln()).sqrt();
    let (i, j) = ((x / cell).floor() as i32, (y / cell).floor() as i32);
    let reach = (leaf / 2.0 / cell).ceil() as i32;
    let covers = |ci: i32, cj: i32| {
        let seed = hash((ci as u32).wrapping_mul(0x9e37_79b1) ^ (cj as u32).wrapping_mul(0x85eb_ca6b));
        let chance = |k: u32| f32::from((hash(seed ^ k) >> 16) as u16) / 65_536.0;
        let u = chance(0x77);
        let leaves = UP_TO.iter().filter(|c| u >= **c).count() as u32;
        (0..leaves).any(|n| {
            let (px, py) = ((ci as f32 + chance(16 * n + 1)) * cell, (cj as f32 + chance(16 * n + 2)) * cell);
            let (s, c) = (chance(16 * n + 3) * std::f32::consts::PI).sin_cos();
            let (u, v) = ((x - px) * c + (y - py) * s, (y - py) * c - (x - px) * s);
            (2.0 * u / leaf).powi(2) + (2.0 * v / (leaf * SLIM)).powi(2) < 1.0
        })
    };
    (-reach..=reach).any(|dj| (-reach..=reach).any(|di| covers(i + di, j + dj)))
}

/// Parts of one subject.
#[derive(Debug)]
struct Group {
    centre: V,
    reach: f32,
    parts: std::ops::Range<usize>,
}

impl Group {
    fn missed(&self, o: &V, d: &V) -> bool {
        let oc = o - self.centre;
        let along = oc.dot(d);
        let gap = oc.norm_squared() - self.reach * self.reach;
        // behind the ray, or passed by
        (along > 0.0 && gap > 0.0) || gap > along * along
    }
}

/// A set ready to trace.
#[derive(Debug)]
pub(crate) struct Scene {
    pub objects: Vec<Object>,
    /// Parts of one subject with a sphere around them: most rays miss them all.
    groups: Vec<Group>,
    pub quads: Vec<Quad>,
    pub lamps: Vec<Lamp>,
    pub around: Around,
    pub eye: V,
    pub forward: V,
    pub right: V,
    pub up: V,
    /// pixels per unit tangent
    pub focal: f32,
    pub size: (u32, u32),
}

impl Scene {
    pub(crate) fn new(set: &LightSet) -> Scene {
        let mut objects: Vec<Object> = Vec::new();
        let mut groups = Vec::new();
        for s in &set.subjects {
            let first = objects.len();
            let turn = turn_of(s.yaw_deg, s.pitch_deg, s.roll_deg);
            let gaze = s.gaze_deg.map_or(V::z(), |[az, el]| {
                let g = v(AzEl { azimuth_deg: az, elevation_deg: el }.vector().into());
                turn.transpose() * g
            });
            for part in parts(s, gaze) {
                let (centre, reach) = match &part.form {
                    Form::Mesh(m) => {
                        let (lo, hi) = m.tree.bounds();
                        ((lo + hi) * 0.5, (hi - lo).norm() * 0.5)
                    }
                    Form::Sphere(c, r, _) => (*c, *r),
                };
                let scale = s.scale as f32;
                let place = v(s.position_m);
                let back = turn.transpose() / scale;
                objects.push(Object {
                    turn,
                    back,
                    place,
                    centre: turn * (centre * scale) + place,
                    reach: reach * scale,
                    part,
                });
            }
            let own = &objects[first..];
            let centre = own.iter().map(|o| o.centre).sum::<V>() / own.len() as f32;
            let reach = own.iter().map(|o| (o.centre - centre).norm() + o.reach).fold(0.0, f32::max);
            groups.push(Group { centre, reach, parts: first..objects.len() });
        }
        let mut quads = Vec::new();
        for w in &set.walls {
            let paint = Flat::Wall(w.colour.map(|c| c as f32));
            let wall = Quad::new(v(w.position_m), v(w.normal).normalize(), w.width_m, w.height_m, paint);
            quads.push(match &w.opening {
                Some(o) => wall.opened(o),
                None => wall,
            });
        }
        for Board { position_m, aim_m, width_m, height_m, finish } in &set.boards {
            let c = v(*position_m);
            quads.push(Quad::new(c, (v(*aim_m) - c).normalize(), *width_m, *height_m, Flat::Board(*finish)));
        }
        for Flag { position_m, aim_m, width_m, height_m, pattern } in &set.flags {
            let c = v(*position_m);
            quads.push(Quad::new(c, (v(*aim_m) - c).normalize(), *width_m, *height_m, Flat::Flag(*pattern)));
        }
        let lamps = set.lights.iter().map(lamp).collect();
        let eye = v(set.camera.position_m);
        let forward = (v(set.camera.aim_m) - eye).normalize();
        let (left, up) = upright(&-forward);
        let (w, h) = (set.picture.width, set.picture.height);
        let focal = h as f32 / 2.0 / (set.camera.vfov_deg().to_radians() / 2.0).tan() as f32;
        let around = Around::of(set);
        Scene { objects, groups, quads, lamps, around, eye, forward, right: left, up, focal, size: (w, h) }
    }

    /// Direction of the ray through a pixel position.
    pub(crate) fn ray(&self, x: f32, y: f32) -> V {
        let (w, h) = self.size;
        let dx = (x - w as f32 / 2.0) / self.focal;
        let dy = (h as f32 / 2.0 - y) / self.focal;
        (self.forward + self.right * dx + self.up * dy).normalize()
    }

    /// What the picture shows at a pixel position: a place, its normal, and whether it is a subject's; nothing in the open, or on glass
    /// and mirrors, which show something else.
    pub(crate) fn shown(&self, x: f32, y: f32) -> Option<(V, V, bool)> {
        let d = self.ray(x, y);
        let hit = self.nearest(&self.eye, &d, 0.0)?;
        let subject = hit.quad == usize::MAX;
        let dull = !matches!(hit.stuff, Stuff::Glass(..) | Stuff::Mirror(_));
        dull.then(|| (self.eye + d * hit.t + hit.flat * 1e-3, hit.n, subject))
    }

    /// Nearest thing along a ray. Walls are seen from their front only.
    pub(crate) fn nearest(&self, o: &V, d: &V, from: f32) -> Option<Hit> {
        let mut best: Option<Hit> = None;
        let mut reach = f32::MAX;
        for g in self.groups.iter().filter(|g| !g.missed(o, d)) {
            for i in g.parts.clone() {
                if let Some(h) = self.objects[i].nearest(o, d, from, reach, i) {
                    reach = h.t;
                    best = Some(h);
                }
            }
        }
        for (i, q) in self.quads.iter().enumerate() {
            let front = d.dot(&q.n) < 0.0;
            if !front && matches!(q.what, Flat::Wall(_)) {
                continue;
            }
            if let Some((t, x, y)) = q.meet(o, d, from, reach) {
                reach = t;
                let n = if front { q.n } else { -q.n };
                let paint = Paint::matte(if front { q.matte() } else { [0.04; 3] });
                best = Some(Hit {
                    t,
                    n,
                    flat: n,
                    inside: !front,
                    paint,
                    stuff: Stuff::Painted,
                    object: usize::MAX,
                    quad: i,
                    local: (x, y),
                });
            }
        }
        best
    }

    /// Whether anything solid lies on the way; glass lets light through, dimmed by the caller's leave.
    pub(crate) fn blocked(&self, o: &V, d: &V, to: f32) -> bool {
        for g in self.groups.iter().filter(|g| !g.missed(o, d)) {
            for part in &self.objects[g.parts.clone()] {
                if part.any(o, d, to) {
                    return true;
                }
            }
        }
        self.quads.iter().any(|q| q.meet(o, d, 1e-4, to).is_some())
    }

    /// Nearest part of a subject along a ray, if no flat thing lies before it.
    pub(crate) fn nearest_subject(&self, o: &V, d: &V) -> Option<Hit> {
        let mut best: Option<Hit> = None;
        for g in self.groups.iter().filter(|g| !g.missed(o, d)) {
            for i in g.parts.clone() {
                let reach = best.map_or(f32::MAX, |h| h.t);
                best = self.objects[i].nearest(o, d, 1e-4, reach, i).or(best);
            }
        }
        best.filter(|h| !self.quads.iter().any(|q| q.meet(o, d, 1e-4, h.t).is_some()))
    }
}

impl Object {
    fn local(&self, o: &V, d: &V) -> Option<(V, V)> {
        // a ray that passes outside the sphere around the part misses
        let oc = o - self.centre;
        let along = oc.dot(d);
        if oc.norm_squared() - along * along > self.reach * self.reach {
            return None;
        }
        Some((self.back * (o - self.place), self.back * d))
    }

    fn nearest(&self, o: &V, d: &V, from: f32, to: f32, index: usize) -> Option<Hit> {
        let (lo, ld) = self.local(o, d)?;
        let hit = |t: f32, n: V, flat: V, paint: Paint| {
            let (n, flat) = (self.turn * n, self.turn * flat);
            let inside = flat.dot(d) > 0.0;
            let flat = if inside { -flat } else { flat };
            let n = if n.dot(&flat) < 0.0 { -n } else { n };
            Hit {
                t,
                n,
                flat,
                inside,
                paint,
                stuff: self.part.stuff,
                object: index,
                quad: usize::MAX,
                local: (0.0, 0.0),
            }
        };
        match &self.part.form {
            Form::Mesh(m) => {
                let hit_at = m.tree.nearest(&lo, &ld, from, to)?;
                let (n, flat, mut paint) = m.at(hit_at.index, hit_at.u, hit_at.v);
                let flat = if flat.dot(&n) < 0.0 { -flat } else { flat };
                if self.part.stuff == Stuff::Wood && paint.rough > 0.4 && paint.rough < 0.6 {
                    let k = grain(&(lo + ld * hit_at.t));
                    paint.rgb = paint.rgb.map(|c| c * k);
                }
                Some(hit(hit_at.t, n, flat, paint))
            }
            Form::Sphere(c, r, rgb) => {
                let t = sphere(&lo, &ld, c, *r, from, to)?;
                let n = (lo + ld * t - c).normalize();
                Some(hit(t, n, n, Paint::matte(*rgb)))
            }
        }
    }

    fn any(&self, o: &V, d: &V, to: f32) -> bool {
        if matches!(self.part.stuff, Stuff::Glass(..)) {
            return false;
        }
        let Some((lo, ld)) = self.local(o, d) else { return false };
        match &self.part.form {
            Form::Mesh(m) => m.tree.any(&lo, &ld, 1e-4, to),
            Form::Sphere(c, r, _) => sphere(&lo, &ld, c, *r, 1e-4, to).is_some(),
        }
    }

    /// Next wall of the same part along a ray from inside it.
    pub(crate) fn nearest_own(&self, o: &V, d: &V) -> Option<Hit> {
        self.nearest(o, d, 1e-5, f32::MAX, 0)
    }

    /// Place in the subject's own frame.
    pub(crate) fn own(&self, p: &V) -> V {
        self.back * (p - self.place)
    }

    /// Centre of a sphere part in the subject's own frame.
    pub(crate) fn sphere_centre(&self) -> Option<V> {
        match &self.part.form {
            Form::Sphere(c, ..) => Some(*c),
            Form::Mesh(_) => None,
        }
    }
}

/// Rings and fibres of limewood, as a factor of its colour.
fn grain(p: &V) -> f32 {
    let ring = ((p.x - 0.03).hypot(p.z + 0.21) * 420.0 + 2.2 * (p.y * 16.0).sin()).sin();
    let fine = (p.y * 310.0 + 3.0 * (p.x * 90.0).sin() + 2.0 * (p.z * 70.0).cos()).sin();
    1.0 + 0.028 * ring + 0.014 * fine
}

fn sphere(o: &V, d: &V, c: &V, r: f32, from: f32, to: f32) -> Option<f32> {
    let oc = o - c;
    let a = d.norm_squared();
    let b = oc.dot(d);
    // distance of the ray from the centre, without cancellation for far origins
    let across = oc - d * (b / a);
    let disc = (r * r - across.norm_squared()) * a;
    if disc <= 0.0 {
        return None;
    }
    let root = disc.sqrt();
    [(-b - root) / a, (-b + root) / a].into_iter().find(|t| *t > from && *t < to)
}
