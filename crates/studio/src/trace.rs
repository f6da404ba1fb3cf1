//! Light transport: direct light from area sources with soft shadows, gloss by multiple importance
//! sampling (Veach & Guibas 1995), coats, mirrors and clear solids along their own rays, and one
//! matte bounce from walls and boards.
//!
//! Everything is added up per light, so that levels and colours are sums afterwards. The samples of
//! a pixel depend on its place, the pass and the seed only.

use crate::emitter::Grid;
use crate::gloss::{ggx, lambda, schlick, spread, visible_normal};
use crate::lamp::Lamp;
use crate::math::{PI, Rgb, V, add, cosine_direction, fresnel, hash, mirrored, mul, point, scaled, tangents};
use crate::mesh::Paint;
use crate::scene::{Flat, Hit, Quad, Scene};
use crate::subjects::Stuff;

/// Irradiance on the fronts of walls and boards from one lamp, for the bounce.
pub(crate) type Bounce = Vec<Option<Grid>>;

/// Cells per side of the bounce grid of a board and of a wall: light that falls on one side of a
/// third thing only must not leak to its other side.
const BOARD_CELLS: usize = 16;
const WALL_CELLS: usize = 36;
/// Roughness under which gloss follows its own ray.
const SHARP: f32 = 0.3;
const DEEPEST: u32 = 4;

/// What is being traced.
#[derive(Clone, Copy)]
pub(crate) struct Job<'a> {
    pub scene: &'a Scene,
    /// One per lamp, the ambient last.
    pub bounce: &'a [Bounce],
    /// Lamps to trace; the last is the ambient.
    pub wanted: &'a [bool],
    /// The bounce is kept apart, to be smoothed.
    pub smooth: bool,
    /// Then in one of so many passes.
    pub bounce_every: u32,
    pub seed: u32,
}

/// What one camera ray gathers: light per lamp (the ambient last), and what it tells of the noise.
#[derive(Debug, Clone)]
pub(crate) struct Gathered {
    pub light: Vec<Rgb>,
    /// Bounced and ambient light on what the camera sees, before its colour: smooth over a surface.
    pub soft: Vec<Rgb>,
    /// That colour.
    pub matte: Rgb,
    /// Normal and distance of what the camera sees.
    pub normal: V,
    pub depth: f32,
    /// The lamp was seen from where the camera ray ended.
    pub seen: Vec<bool>,
    /// It went on along a mirrored or clear way.
    pub glossy: bool,
}

impl Gathered {
    pub(crate) fn new(channels: usize) -> Gathered {
        Gathered {
            light: vec![[0.0; 3]; channels],
            soft: vec![[0.0; 3]; channels],
            matte: [0.0; 3],
            normal: V::zeros(),
            depth: 0.0,
            seen: vec![false; channels],
            glossy: false,
        }
    }

    pub(crate) fn clear(&mut self) {
        self.light.iter_mut().for_each(|c| *c = [0.0; 3]);
        self.soft.iter_mut().for_each(|c| *c = [0.0; 3]);
        (self.matte, self.normal, self.depth) = ([0.0; 3], V::zeros(), 0.0);
        self.seen.iter_mut().for_each(|s| *s = false);
        self.glossy = false;
    }
}

/// A place in the sampling sequence.
#[derive(Clone, Copy)]
struct Dice {
    index: u32,
    seed: u32,
}

impl Dice {
    fn two(self, dimension: u32) -> (f32, f32) {
        point(self.index, self.seed ^ hash(dimension))
    }
    fn deeper(self) -> Dice {
        Dice { seed: hash(self.seed ^ 0xa511_e9b3), ..self }
    }
}

struct Ray {
    o: V,
    d: V,
    depth: u32,
    weight: Rgb,
    /// density with which a glossy surface chose this ray
    chosen: Option<f32>,
}

/// Irradiance of a lamp, or with `None` of the ambient, on the fronts of all flat things, shadows
/// included.
pub(crate) fn bounce_of(scene: &Scene, lamp: Option<&Lamp>) -> Bounce {
    bounce_in(scene, lamp, WALL_CELLS)
}

/// The same in at most so many cells along a side of each.
pub(crate) fn bounce_in(scene: &Scene, lamp: Option<&Lamp>, most: usize) -> Bounce {
    scene
        .quads
        .iter()
        .map(|q| {
            if matches!(q.what, Flat::Flag(_)) {
                return None;
            }
            let cells = if matches!(q.what, Flat::Wall(_)) { WALL_CELLS } else { BOARD_CELLS }.min(most);
            let mut values = Vec::with_capacity(cells * cells);
            let per: u32 = if lamp.is_some() { 8 } else { 32 };
            for j in 0..cells {
                for i in 0..cells {
                    let cell = (j * cells + i) as u32;
                    let mut e = 0.0;
                    for k in 0..per {
                        let (a, b) = point(k, hash(cell) ^ 3);
                        let (x, y) = point(k, hash(cell) ^ 4);
                        let at = |i: usize, f: f32| 2.0 * (i as f32 + f) / cells as f32 - 1.0;
                        let p = q.at(at(i, x), at(j, y)) + q.n * 2e-4;
                        let Some(lamp) = lamp else {
                            let d = cosine_direction(&q.n, a, b);
                            if !scene.blocked(&p, &d, f32::MAX) {
                                let cosine = d.dot(&q.n) / PI;
                                e += scene.around.from(&d)[1] * cosine / (cosine + scene.around.density(&d));
                            }
                            if let Some(drawn) = scene.around.draw(x, y) {
                                let cosine = drawn.d.dot(&q.n) / PI;
                                if cosine > 0.0 && !scene.blocked(&p, &drawn.d, f32::MAX) {
                                    e += drawn.rgb[1] * cosine / (cosine + drawn.density);
                                }
                            }
                            continue;
                        };
                        let n_faces = lamp.faces.len() as f32;
                        let pick = ((k as f32 + 0.5) / per as f32 * n_faces) as usize;
                        let Some(s) = lamp.faces[pick.min(lamp.faces.len() - 1)].draw(&p, a, b) else { continue };
                        let c = s.d.dot(&q.n);
                        if c > 0.0 && !scene.blocked(&p, &s.d, s.distance) {
                            e += s.radiance * s.omega * c / PI * n_faces;
                        }
                    }
                    values.push(e / per as f32);
                }
            }
            Some(Grid::new(cells, values))
        })
        .collect()
}

impl Job<'_> {
    /// Light of one camera ray through `(x, y)` pixels, added to `out` per lamp and ambient.
    pub(crate) fn pixel(&self, col: u32, row: u32, spread: f32, pass: u32, out: &mut Gathered) {
        let seed = hash(self.seed ^ hash(col.wrapping_mul(0x1f12_3bb5) ^ hash(row)));
        let dice = Dice { index: pass, seed };
        let (jx, jy) = dice.two(0);
        let d = self.scene.ray(col as f32 + spread * jx, row as f32 + spread * jy);
        let ray = Ray { o: self.scene.eye, d, depth: 0, weight: [1.0; 3], chosen: None };
        self.follow(&ray, dice, out);
    }

    /// Light on a white matte surface, once of each kind: what a flat meter there shows in the mean of many passes.
    pub(crate) fn on_white(&self, p: &V, hit: &Hit, pass: u32, out: &mut Gathered) {
        let dice = Dice { index: pass, seed: self.seed };
        self.direct(p, hit, &-hit.n, 0, [1.0; 3], [1.0; 3], None, dice, out);
    }

    fn ambient(&self) -> usize {
        self.wanted.len() - 1
    }

    fn wants_ambient(&self) -> bool {
        self.wanted[self.ambient()]
    }

    fn follow(&self, ray: &Ray, dice: Dice, out: &mut Gathered) {
        out.glossy |= ray.depth > 0;
        let hit = self.scene.nearest(&ray.o, &ray.d, 1e-5);
        let reach = hit.map_or(f32::MAX, |h| h.t);
        if ray.depth == 0 {
            out.depth = reach.min(1e4);
        }
        if self.sees_lamp(ray, reach, out) {
            return;
        }
        let Some(hit) = hit else {
            if self.wants_ambient() {
                add(&mut out.light[self.ambient()], mul(ray.weight, self.scene.around.seen(&ray.d)), 1.0);
            }
            return;
        };
        let p = ray.o + ray.d * hit.t + hit.flat * 1e-4;
        if hit.quad != usize::MAX {
            return self.flat(ray, &hit, &p, dice, out);
        }
        match hit.stuff {
            Stuff::Painted | Stuff::Wood => self.painted(ray, &hit, &p, dice, out),
            Stuff::Mirror(k) => self.reflect(ray, &p, &hit.n, [k; 3], dice, out),
            Stuff::Coated(index) => {
                let f = fresnel(ray.d.dot(&hit.n), index);
                self.reflect(ray, &p, &hit.n, [f; 3], dice, out);
                self.direct(&p, &hit, &ray.d, ray.depth, scaled(ray.weight, 1.0 - f), hit.paint.rgb, None, dice, out);
            }
            Stuff::Cornea(iris, gaze, pupil) => {
                let rgb = self.iris(&hit, &p, iris, gaze, pupil);
                let f = fresnel(ray.d.dot(&hit.n), direction::eye::CORNEA_INDEX as f32);
                self.reflect(ray, &p, &hit.n, [f; 3], dice, out);
                self.direct(&p, &hit, &ray.d, ray.depth, scaled(ray.weight, 1.0 - f), rgb, None, dice, out);
            }
            Stuff::Glass(index, absorb) => self.clear(ray, &hit, &p, index, absorb, dice, out),
        }
    }

    /// Adds the lamp a ray ends on, if that is the nearest. The camera sees lamps behind the subject
    /// only: those before it stand beside the lens' view in any set that can be used.
    fn sees_lamp(&self, ray: &Ray, reach: f32, out: &mut Gathered) -> bool {
        let s = self.scene;
        let mut best: Option<(f32, f32, usize, f32)> = None;
        for (i, lamp) in s.lamps.iter().enumerate() {
            for f in &lamp.faces {
                if ray.depth == 0 && (f.centre - s.eye).dot(&s.forward) < -s.eye.dot(&s.forward) {
                    continue;
                }
                let to = best.map_or(reach, |b| b.0);
                if let Some((t, l)) = f.meet(&ray.o, &ray.d, to) {
                    let density =
                        if ray.chosen.is_some() { f.density(&ray.d, t, l) / lamp.faces.len() as f32 } else { 0.0 };
                    best = Some((t, l, i, density));
                }
            }
        }
        let Some((_, l, i, density)) = best else { return false };
        if self.wanted[i] {
            let share = ray.chosen.map_or(1.0, |c| c / (c + density));
            add(&mut out.light[i], ray.weight, l * share);
        }
        true
    }

    fn reflect(&self, ray: &Ray, p: &V, n: &V, k: Rgb, dice: Dice, out: &mut Gathered) {
        if ray.depth < DEEPEST {
            let next =
                Ray { o: *p, d: mirrored(&ray.d, n), depth: ray.depth + 1, weight: mul(ray.weight, k), chosen: None };
            self.follow(&next, dice.deeper(), out);
        }
    }

    /// Walls and boards: lit as surfaces when looked at, from their grids when mirrored.
    fn flat(&self, ray: &Ray, hit: &Hit, p: &V, dice: Dice, out: &mut Gathered) {
        let q = &self.scene.quads[hit.quad];
        let gloss = if hit.inside { None } else { q.gloss() };
        // a mirror shows a wall as finely as the eye sees it
        if ray.depth == 0 || (ray.depth == 1 && ray.chosen.is_none()) {
            self.direct(p, hit, &ray.d, ray.depth, ray.weight, hit.paint.rgb, gloss, dice, out);
        } else if !hit.inside {
            let rgb = mul(ray.weight, q.matte());
            for (i, o) in out.light.iter_mut().enumerate().filter(|(i, _)| self.wanted[*i]) {
                add(o, rgb, self.on_flat(i, hit.quad, hit.local));
            }
            if gloss.is_some_and(|g| g.1 > 0.0) {
                self.lamps(p, hit, &ray.d, ray.depth, ray.weight, [0.0; 3], gloss, dice, out);
            }
        }
        if let Some((rgb, 0.0)) = gloss {
            self.reflect(ray, p, &hit.n, rgb, dice, out);
        }
    }

    /// Irradiance on a flat thing from lamp `i`, or the ambient.
    fn on_flat(&self, i: usize, quad: usize, local: (f32, f32)) -> f32 {
        self.bounce[i][quad].as_ref().map_or(0.0, |g| g.at(local.0, local.1))
    }

    fn painted(&self, ray: &Ray, hit: &Hit, p: &V, dice: Dice, out: &mut Gathered) {
        let Paint { rgb, rough, metal } = hit.paint;
        let matte = scaled(rgb, 1.0 - metal);
        if rough > 0.95 {
            return self.direct(p, hit, &ray.d, ray.depth, ray.weight, matte, None, dice, out);
        }
        let f0: Rgb = std::array::from_fn(|k| 0.04 * (1.0 - metal) + rgb[k] * metal);
        self.direct(p, hit, &ray.d, ray.depth, ray.weight, matte, Some((f0, rough)), dice, out);
        if rough >= SHARP || ray.depth >= 2 {
            return;
        }
        // gloss along its own ray: visible normals (Heitz 2018)
        let view = -ray.d;
        let (a, b) = dice.two(7);
        let h = visible_normal(&view, &hit.n, rough, a, b);
        let d = mirrored(&ray.d, &h);
        let (nv, nl, vh) = (hit.n.dot(&view).max(1e-4), hit.n.dot(&d), view.dot(&h).max(1e-4));
        if nl <= 0.0 || hit.flat.dot(&d) <= 0.0 {
            return;
        }
        let a2 = rough * rough;
        let (lv, ll) = (lambda(nv, a2), lambda(nl, a2));
        let f = schlick(f0, vh);
        let w = scaled(f, (1.0 + lv) / (1.0 + lv + ll));
        let density = spread(hit.n.dot(&h), a2) / ((1.0 + lv) * 4.0 * nv);
        let next = Ray { o: *p, d, depth: ray.depth + 1, weight: mul(ray.weight, w), chosen: Some(density) };
        self.follow(&next, dice.deeper(), out);
    }

    /// A clear solid: the coat's reflection, and the way through with absorption.
    fn clear(&self, ray: &Ray, hit: &Hit, p: &V, index: f32, absorb: Rgb, dice: Dice, out: &mut Gathered) {
        let cos = -ray.d.dot(&hit.n);
        let f = fresnel(cos, index);
        self.reflect(ray, p, &hit.n, [f; 3], dice, out);
        if ray.depth >= DEEPEST {
            return;
        }
        let Some(mut d) = refract(&ray.d, &hit.n, 1.0 / index) else { return };
        let mut o = ray.o + ray.d * hit.t - hit.flat * 1e-4;
        let mut weight = scaled(ray.weight, 1.0 - f);
        for _ in 0..4 {
            // the next wall of the same solid
            let Some(next) = self.scene.objects[hit.object].nearest_own(&o, &d) else { return };
            for (w, s) in weight.iter_mut().zip(absorb) {
                *w *= (-s * next.t).exp();
            }
            let at = o + d * next.t;
            let inside_f = fresnel(-d.dot(&next.n), 1.0 / index);
            match refract(&d, &next.n, index) {
                Some(away) if inside_f < 0.999 => {
                    let on = Ray {
                        o: at - next.flat * 1e-4,
                        d: away,
                        depth: ray.depth + 1,
                        weight: scaled(weight, 1.0 - inside_f),
                        chosen: None,
                    };
                    return self.follow(&on, dice.deeper(), out);
                }
                _ => {
                    d = mirrored(&d, &next.n);
                    o = at + next.flat * 1e-4;
                }
            }
        }
    }

    fn iris(&self, hit: &Hit, p: &V, iris: Rgb, gaze: V, pupil: f32) -> Rgb {
        let obj = &self.scene.objects[hit.object];
        let Some(c) = obj.sphere_centre() else { return iris };
        let q = (obj.own(p) - c).normalize();
        let off = q.dot(&gaze).clamp(-1.0, 1.0).acos();
        if off < pupil {
            return [0.004; 3];
        }
        let side = q - gaze * q.dot(&gaze);
        let (u, w) = tangents(&gaze);
        let phi = side.dot(&w).atan2(side.dot(&u));
        let fibre = 1.0 + 0.25 * (phi * 47.0).sin() * (phi * 13.0 + 1.0).cos() + 0.12 * (phi * 91.0 + off * 40.0).sin();
        let rim = 1.0 - 0.55 * ((off - 0.66) / 0.10).clamp(0.0, 1.0);
        scaled(iris, fibre * rim)
    }

    /// Direct light and the bounce.
    fn direct(
        &self,
        p: &V,
        hit: &Hit,
        d: &V,
        depth: u32,
        weight: Rgb,
        matte: Rgb,
        gloss: Option<(Rgb, f32)>,
        dice: Dice,
        out: &mut Gathered,
    ) {
        self.lamps(p, hit, d, depth, weight, matte, gloss, dice, out);
        self.room(p, hit, d, depth, weight, matte, gloss, dice, out);
        let matte = mul(weight, matte);
        if matte.iter().all(|c| *c <= 0.0) {
            return;
        }
        if depth > 0 || !self.smooth {
            return self.bounce(p, hit, depth, matte, dice, out);
        }
        // Kept apart from its colour, to be smoothed over the surface later. It is faint and even: one
        // pass in a few does for all of them.
        (out.matte, out.normal) = (matte, hit.n);
        if dice.index.is_multiple_of(self.bounce_every) {
            std::mem::swap(&mut out.light, &mut out.soft);
            self.bounce(p, hit, depth, [self.bounce_every as f32; 3], dice, out);
            std::mem::swap(&mut out.light, &mut out.soft);
        }
    }

    /// One direction towards the light of a room that is mapped. A cosine-weighted ray of [`Job::bounce`] has the rest; gloss
    /// that follows its own ray has all of its own.
    fn room(
        &self,
        p: &V,
        hit: &Hit,
        d: &V,
        depth: u32,
        weight: Rgb,
        matte: Rgb,
        gloss: Option<(Rgb, f32)>,
        dice: Dice,
        out: &mut Gathered,
    ) {
        if !(self.wants_ambient() && self.scene.around.is_mapped()) {
            return;
        }
        let (a, b) = dice.two(9);
        let Some(x) = self.scene.around.draw(a, b) else { return };
        let cos = x.d.dot(&hit.n);
        if cos <= 0.0 || x.d.dot(&hit.flat) <= 0.0 {
            return;
        }
        let cosine = cos / PI;
        let mut f = scaled(matte, 1.0 / PI * x.density / (x.density + cosine));
        if let Some((f0, rough)) = gloss.filter(|g| g.1 >= SHARP || (g.1 > 0.0 && depth >= 2)) {
            add(&mut f, ggx(&hit.n, &-d, &x.d, rough, f0).0, 1.0);
        }
        if f[0] + f[1] + f[2] > 0.0 && !self.scene.blocked(p, &x.d, f32::MAX) {
            let i = self.ambient();
            out.seen[i] |= depth == 0;
            add(&mut out.light[i], mul(mul(weight, f), x.rgb), cos / x.density);
        }
    }

    /// Light that boards, walls and other parts of the subject scatter, and the ambient.
    fn bounce(&self, p: &V, hit: &Hit, depth: u32, matte: Rgb, dice: Dice, out: &mut Gathered) {
        self.boards(p, hit, matte, dice, out);
        // walls and ambient along one cosine-weighted ray
        let lamps_wanted = self.wanted[..self.ambient()].iter().any(|w| *w);
        if !(self.wants_ambient() || lamps_wanted) {
            return;
        }
        let (a, b) = dice.two(5);
        let ray = cosine_direction(&hit.n, a, b);
        if ray.dot(&hit.flat) <= 0.0 {
            return;
        }
        if let Some(near) = self.scene.nearest_subject(p, &ray) {
            if let Stuff::Mirror(k) = near.stuff {
                // the room's even light by way of a mirror ball
                let (q, d) = (p + ray * near.t + near.flat * 1e-4, mirrored(&ray, &near.n));
                if self.wants_ambient() && !self.scene.blocked(&q, &d, f32::MAX) {
                    add(&mut out.light[self.ambient()], mul(matte, self.scene.around.seen(&d)), k);
                }
                return;
            }
            // light that other parts of the subject scatter
            let rgb = scaled(near.paint.rgb, 1.0 - near.paint.metal);
            if depth == 0 && !matches!(near.stuff, Stuff::Glass(..)) {
                let (q, dice) = (p + ray * near.t + near.flat * 1e-4, dice.deeper());
                self.lamps(&q, &near, &ray, 1, matte, rgb, None, dice, out);
                let (a, b) = dice.two(5);
                let d = cosine_direction(&near.n, a, b);
                if d.dot(&near.flat) > 0.0 && self.scene.nearest_subject(&q, &d).is_none() {
                    self.beyond(&q, &d, mul(matte, rgb), 1.0, out);
                }
            }
            return;
        }
        let cosine = hit.n.dot(&ray) / PI;
        self.beyond(p, &ray, matte, cosine / (cosine + self.scene.around.density(&ray)), out);
    }

    /// What walls, and where there is none the room, send along a ray that no part of a subject meets; `share` is how much of the
    /// room this ray stands for.
    fn beyond(&self, p: &V, ray: &V, matte: Rgb, share: f32, out: &mut Gathered) {
        let mut reach = f32::MAX;
        let mut first: Option<(usize, (f32, f32))> = None;
        for (i, q) in self.scene.quads.iter().enumerate() {
            if let Some((t, x, y)) = q.meet_from(p, ray, reach) {
                reach = t;
                first = Some((i, (x, y)));
            }
        }
        match first {
            None if self.wants_ambient() => {
                add(&mut out.light[self.ambient()], mul(matte, self.scene.around.from(ray)), share);
            }
            None => {}
            Some((i, local)) => {
                let q = &self.scene.quads[i];
                if matches!(q.what, Flat::Wall(_)) && ray.dot(&q.n) < 0.0 {
                    let rgb = mul(matte, q.matte());
                    for (k, o) in out.light.iter_mut().enumerate().filter(|(k, _)| self.wanted[*k]) {
                        add(o, rgb, self.on_flat(k, i, local));
                    }
                }
            }
        }
    }

    /// One point on one board, for the light of all lamps that it scatters.
    fn boards(&self, p: &V, hit: &Hit, matte: Rgb, dice: Dice, out: &mut Gathered) {
        let is_board = |q: &&Quad| matches!(q.what, Flat::Board(_));
        let count = self.scene.quads.iter().filter(is_board).count();
        if count == 0 {
            return;
        }
        let (a, b) = dice.two(6);
        let k = (a * count as f32) as usize;
        let a = a * count as f32 - k as f32;
        let Some((i, q)) = self.scene.quads.iter().enumerate().filter(|(_, q)| is_board(q)).nth(k) else { return };
        if hit.quad == i {
            return;
        }
        let local = (2.0 * a - 1.0, 2.0 * b - 1.0);
        let to = q.at(local.0, local.1) - p;
        let d2 = to.norm_squared();
        let d = to / d2.sqrt();
        let (c, cb) = (d.dot(&hit.n), -d.dot(&q.n));
        if c <= 0.0 || cb <= 0.0 || d.dot(&hit.flat) <= 0.0 || self.scene.blocked(p, &d, d2.sqrt() - 2e-4) {
            return;
        }
        let omega = q.area() * cb / d2 * count as f32;
        let rgb = mul(matte, q.matte());
        for (k, o) in out.light.iter_mut().enumerate().filter(|(k, _)| self.wanted[*k]) {
            add(o, rgb, self.on_flat(k, i, local) * omega * c / PI);
        }
    }

    /// One point on each lamp, straight and by way of mirrors and foils.
    fn lamps(
        &self,
        p: &V,
        hit: &Hit,
        d: &V,
        depth: u32,
        weight: Rgb,
        matte: Rgb,
        gloss: Option<(Rgb, f32)>,
        dice: Dice,
        out: &mut Gathered,
    ) {
        let s = self.scene;
        let view = -d;
        for (i, lamp) in s.lamps.iter().enumerate() {
            if !self.wanted[i] {
                continue;
            }
            let (a, b) = dice.two(16 + i as u32);
            let count = lamp.faces.len() as f32;
            let k = ((a * count) as usize).min(lamp.faces.len() - 1);
            let a = (a * count - k as f32).clamp(0.0, 0.999_999);
            let face = &lamp.faces[k];
            if let Some(x) = face.draw(p, a, b)
                && x.radiance > 0.0
            {
                let cos = x.d.dot(&hit.n);
                if cos > 0.0 && x.d.dot(&hit.flat) > 0.0 {
                    let mut f = scaled(matte, 1.0 / PI);
                    if let Some((f0, rough)) = gloss.filter(|g| g.1 > 0.0) {
                        let (mut spec, chosen) = ggx(&hit.n, &view, &x.d, rough, f0);
                        if rough < SHARP {
                            let density = 1.0 / (x.omega * count);
                            spec = scaled(spec, density / (density + chosen));
                        }
                        add(&mut f, spec, 1.0);
                    }
                    let k = x.radiance * x.omega * cos * count;
                    if k * (f[0] + f[1] + f[2]) > 0.0 && !s.blocked(p, &x.d, x.distance) {
                        out.seen[i] |= depth == 0;
                        add(&mut out.light[i], mul(weight, f), k);
                    }
                }
            }
            for (qi, q) in s.quads.iter().enumerate() {
                let Some((rgb, rough)) = q.gloss() else { continue };
                if qi == hit.quad {
                    continue;
                }
                let m = mul(scaled(matte, 1.0 / PI), rgb);
                let (e, n) = if rough == 0.0 {
                    self.by_mirror(p, q, face, a, b)
                } else {
                    self.by_foil(p, q, face, rough, (a, b), dice.two(200 + qi as u32))
                };
                let cos = n.dot(&hit.n);
                if e > 0.0 && cos > 0.0 && n.dot(&hit.flat) > 0.0 {
                    add(&mut out.light[i], mul(weight, m), e * cos * count);
                }
            }
        }
    }

    /// Radiance times solid angle of a point of a face seen in a mirror, with its direction.
    fn by_mirror(&self, p: &V, q: &Quad, face: &crate::emitter::Emitter, a: f32, b: f32) -> (f32, V) {
        // The point seen from the mirror image of `p`.
        let side = (p - q.centre).dot(&q.n);
        if side <= 0.0 {
            return (0.0, V::z());
        }
        let image = p - q.n * (2.0 * side);
        let Some(x) = face.draw(&image, a, b) else { return (0.0, V::z()) };
        let Some((t, _, _)) = q.meet_from(&image, &x.d, x.distance) else { return (0.0, V::z()) };
        let at = image + x.d * t + q.n * 2e-4;
        let to = at - p;
        let l = to.norm();
        let d = to / l;
        if self.scene.blocked(p, &d, l - 4e-4) || self.scene.blocked(&at, &x.d, x.distance - t) {
            return (0.0, V::z());
        }
        (x.radiance * x.omega, d)
    }

    /// The same by way of a foil: one point on it, one on the face.
    fn by_foil(
        &self,
        p: &V,
        q: &Quad,
        face: &crate::emitter::Emitter,
        rough: f32,
        (a, b): (f32, f32),
        (x, y): (f32, f32),
    ) -> (f32, V) {
        let none = (0.0, V::z());
        let on = q.at(2.0 * x - 1.0, 2.0 * y - 1.0) + q.n * 2e-4;
        let to = on - p;
        let d2 = to.norm_squared();
        let d = to / d2.sqrt();
        let away = -d.dot(&q.n);
        if away <= 0.0 {
            return none;
        }
        let Some(s) = face.draw(&on, a, b) else { return none };
        let cos = s.d.dot(&q.n);
        if cos <= 0.0 {
            return none;
        }
        let (f, _) = ggx(&q.n, &-d, &s.d, rough, [1.0; 3]);
        let k = f[1] * s.radiance * s.omega * cos * q.area() * away / d2;
        if k <= 0.0 || self.scene.blocked(p, &d, d2.sqrt() - 4e-4) || self.scene.blocked(&on, &s.d, s.distance) {
            return none;
        }
        (k, d)
    }
}

/// Snell's law for a ray direction and a normal against it; `eta` is the index before over behind.
fn refract(d: &V, n: &V, eta: f32) -> Option<V> {
    let c = -d.dot(n);
    let k = 1.0 - eta * eta * (1.0 - c * c);
    (k >= 0.0).then(|| (d * eta + n * (eta * c - k.sqrt())).normalize())
}
