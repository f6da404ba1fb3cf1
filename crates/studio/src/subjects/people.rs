//! People: heads of the family with skin, brows, lips, hair and clothes.
//!
//! A person is a number: shape, skin, hair, eyes and clothes follow from it by chance, always the same. What is painted where
//! is said on the mean head (metres, head frame), so that it goes with the features of every head. Hair and clothes are
//! drawn, not measured: they shade and cast shadows as such things do.

use super::heads::EYEBALL_MM;
use super::shapes::{below, carve, ellipsoid, join, limb, p3};
use crate::math::{Rgb, V, hash, turn_of};
use crate::mesh::{Mesh, Paint, from_distance};
use ::heads::{NAMED, Region, family};
use lightset::set::{Hair, Person, Subject};
use nalgebra::Matrix3;
use optics::geometry::Vec3;
use std::collections::BTreeMap;

/// Eyes of the family are a little larger than the usual ones: radius of the ball 13 mm.
pub(crate) const EYE_SCALE: f32 = 1.083e-3;
/// From the family's centre of an eye to where its ball fills the lids (its lids stand 8 mm apart, their middle 1.8 mm under
/// that centre and 15 to 17 mm before it), metres.
const TO_LIDS: [f64; 3] = [0.0, -0.0014, 0.0046];
/// How far the shape of a number strays, and its ends, standard deviations: the family is drawn wider than people are.
const LIKELY: f64 = 0.55;
const MOST: f64 = 1.2;
/// Midpoints are set between vertices so often: four times as many triangles each time.
const ROUNDS: usize = 2;
/// Where the head turns on the neck, metres.
const PIVOT: [f32; 3] = [0.0, -0.135, -0.105];
/// Between these heights of the mean head the neck goes from the chest's turn to the head's, metres.
const NECK: (f32, f32) = (-0.205, -0.105);
/// How deep the lower end of the head's mesh lies inside the chest, metres.
const SUNK: f32 = 0.014;
/// Share of the head's turn that the chest goes along with.
const CHEST_TURN: f64 = 0.4;
/// GGX roughness of skin (from memory: 0.3 to 0.5).
const SKIN_ROUGH: f32 = 0.38;

/// All that is to be known of a person to draw them.
#[derive(Debug, Clone, PartialEq)]
struct Look {
    shape: Vec<f64>,
    skin: Rgb,
    hair: Hair,
    hair_colour: Rgb,
    /// Hair over the scalp, metres.
    depth: f32,
    /// How far the line of the hair is back, metres.
    line: f32,
    iris: Rgb,
    cloth: Rgb,
    /// Open in front to a point, or closed round the neck.
    pointed: bool,
    grain: u32,
}

/// Chance that is always the same: even in 0..1.
fn chance(number: u32, what: u32) -> f32 {
    (hash(number.wrapping_mul(0x9e37_79b9) ^ hash(what.wrapping_add(0x51ed))) >> 8) as f32 / 16_777_216.0
}

/// Normal by Box and Muller.
fn normal(number: u32, what: u32) -> f64 {
    let (a, b) = (f64::from(chance(number, 2 * what + 1000)), f64::from(chance(number, 2 * what + 1001)));
    (-2.0 * a.max(1e-7).ln()).sqrt() * (std::f64::consts::TAU * b).cos()
}

/// Three kinds of skin that others are mixed of; linear RGB, from memory of measured reflectances.
const SKINS: [Rgb; 3] = [[0.53, 0.35, 0.27], [0.46, 0.30, 0.21], [0.15, 0.08, 0.052]];
const HAIRS: [Rgb; 4] = [[0.012, 0.010, 0.009], [0.030, 0.018, 0.012], [0.075, 0.043, 0.024], [0.17, 0.115, 0.065]];
const GREY: Rgb = [0.20, 0.193, 0.188];
const IRISES: [Rgb; 4] = [[0.075, 0.036, 0.018], [0.10, 0.08, 0.035], [0.12, 0.16, 0.20], [0.10, 0.11, 0.06]];
const CLOTHS: [Rgb; 6] = [
    [0.42, 0.41, 0.39],
    [0.035, 0.037, 0.045],
    [0.07, 0.11, 0.18],
    [0.17, 0.045, 0.045],
    [0.10, 0.13, 0.085],
    [0.24, 0.21, 0.17],
];

fn pick<T: Copy>(list: &[T], by: f32) -> T {
    list[((by * list.len() as f32) as usize).min(list.len() - 1)]
}

/// Weights of the family's components, in standard deviations.
fn shape_of(person: &Person) -> Vec<f64> {
    if person.shape.is_empty() {
        let all = 0..family().components() as u32;
        all.map(|k| (LIKELY * normal(person.number, k)).clamp(-MOST, MOST)).collect()
    } else {
        person.shape.clone()
    }
}

impl Look {
    fn of(person: &Person, skin: Option<Rgb>) -> Look {
        let n = person.number;
        let mixed = || {
            let w: [f32; 3] = std::array::from_fn(|k| chance(n, 10 + k as u32).powi(2) + 0.02);
            let all: f32 = w.iter().sum();
            let light = (0.2 * normal(n, 300)).exp2() as f32;
            std::array::from_fn(|c| (0..3).map(|k| w[k] / all * SKINS[k][c].ln()).sum::<f32>().exp() * light)
        };
        let styles = [Hair::Short, Hair::Long, Hair::Cropped, Hair::Long, Hair::Short, Hair::Bald];
        let hair = person.hair.unwrap_or_else(|| pick(&styles, chance(n, 20)));
        let skin = skin.unwrap_or_else(mixed);
        // fair hair goes with fair skin; grey with any
        let fair = if skin[1] < 0.2 { 2 } else { HAIRS.len() };
        let hair_colour = if chance(n, 27) < 0.15 { GREY } else { pick(&HAIRS[..fair], chance(n, 21)) };
        let eyes = if skin[1] < 0.2 { 1 } else { IRISES.len() };
        Look {
            shape: shape_of(person),
            skin,
            hair,
            hair_colour,
            depth: match hair {
                Hair::Bald => 0.0,
                Hair::Cropped => 0.004,
                Hair::Short => 0.014 + 0.012 * chance(n, 22),
                Hair::Long => 0.012,
            },
            line: 0.012 * chance(n, 23) - 0.003,
            iris: pick(&IRISES[..eyes], chance(n, 24)),
            cloth: pick(&CLOTHS, chance(n, 25)),
            pointed: chance(n, 26) < 0.5,
            grain: hash(n ^ 0x77),
        }
    }
}

/// Smooth noise on a lattice of cells of `cell` metres, about -1..1.
fn noise(p: &V, cell: f32, seed: u32) -> f32 {
    let q = p / cell;
    let base = q.map(f32::floor);
    let f = (q - base).map(|t| t * t * (3.0 - 2.0 * t));
    let at = |i: i32, j: i32, k: i32| {
        let h = hash(
            (base.x as i32 + i) as u32 ^ hash((base.y as i32 + j) as u32 ^ hash((base.z as i32 + k) as u32 ^ seed)),
        );
        (h >> 8) as f32 / 8_388_608.0 - 1.0
    };
    let mix = |a: f32, b: f32, t: f32| a + (b - a) * t;
    let row = |j: i32, k: i32| mix(at(0, j, k), at(1, j, k), f.x);
    1.6 * mix(mix(row(0, 0), row(1, 0), f.y), mix(row(0, 1), row(1, 1), f.y), f.z)
}

fn ease(a: f32, b: f32, x: f32) -> f32 {
    let t = ((x - a) / (b - a)).clamp(0.0, 1.0);
    t * t * (3.0 - 2.0 * t)
}

/// Straight pieces between points that rise in their first number.
fn along(points: &[(f32, f32)], x: f32) -> f32 {
    let after = points.iter().position(|p| p.0 >= x).unwrap_or(points.len() - 1).max(1);
    let (a, b) = (points[after - 1], points[after]);
    a.1 + (b.1 - a.1) * ((x - a.0) / (b.0 - a.0)).clamp(0.0, 1.0)
}

/// Height of the line of the hair on the mean head against how far back, metres.
const LINE: [(f32, f32); 13] = [
    (-0.255, -0.109),
    (-0.180, -0.103),
    (-0.148, -0.092),
    (-0.115, -0.060),
    (-0.096, -0.016),
    (-0.083, 0.001),
    (-0.064, -0.030),
    (-0.051, -0.030),
    (-0.0425, 0.006),
    (-0.034, 0.040),
    (-0.021, 0.062),
    (-0.008, 0.075),
    (0.045, 0.079),
];

/// Middle line of a brow on the mean head: how far aside and how high, metres.
const BROW: [(f32, f32); 5] =
    [(0.0122, 0.0175), (0.0233, 0.0228), (0.0381, 0.0255), (0.0498, 0.0232), (0.0577, 0.0180)];

/// How far the upper lids are drawn up, metres: those of the family's mean hang 2 mm over the iris, open eyes' one (common practice).
const LIDS_UP: f32 = 0.0016;
/// Middle of a lid's margin on the mean head, aside, and half its length, metres.
const LID: (f32, f32) = (0.0322, 0.0150);

/// By how much a place of the mean head goes up and back as the upper lids open.
fn opened(mean: &V) -> V {
    let across = 1.0 - ((mean.x.abs() - LID.0) / LID.1).powi(2);
    let up = ease(-0.0020, 0.0014, mean.y) * (1.0 - ease(0.0040, 0.0115, mean.y));
    // the margin slides back over the ball
    p3(0.0, 1.0, -0.3) * (LIDS_UP * across.max(0.0) * up * ease(-0.006, -0.001, mean.z))
}

/// A vertex with all that midpoints are made of.
#[derive(Clone, Copy)]
struct Point {
    at: V,
    n: V,
    /// Place on the mean head.
    mean: V,
    lips: f32,
    ears: f32,
    inner: f32,
}

/// Midpoints between all neighbours, bent out to where the normals say the surface is (Boubekeur & Alexa 2008).
fn finer(points: &mut Vec<Point>, faces: &[[u32; 3]]) -> Vec<[u32; 3]> {
    let mut between: BTreeMap<(u32, u32), u32> = BTreeMap::new();
    let mut out = Vec::with_capacity(4 * faces.len());
    for f in faces {
        let mut mid = [0u32; 3];
        for k in 0..3 {
            let (i, j) = (f[k].min(f[(k + 1) % 3]), f[k].max(f[(k + 1) % 3]));
            mid[k] = *between.entry((i, j)).or_insert_with(|| {
                let (a, b) = (points[i as usize], points[j as usize]);
                let at = (a.at + b.at) * 0.5;
                let onto = |p: &Point| at - p.n * (at - p.at).dot(&p.n);
                let n = (a.n + b.n).try_normalize(1e-6).unwrap_or(a.n);
                let half = |x: f32, y: f32| 0.5 * (x + y);
                points.push(Point {
                    at: at * 0.3 + (onto(&a) + onto(&b)) * 0.35,
                    n,
                    mean: (a.mean + b.mean) * 0.5,
                    lips: half(a.lips, b.lips),
                    ears: half(a.ears, b.ears),
                    inner: half(a.inner, b.inner),
                });
                points.len() as u32 - 1
            });
        }
        let [a, b, c] = *f;
        let [ab, bc, ca] = mid;
        out.extend([[a, ab, ca], [ab, b, bc], [ca, bc, c], [ab, bc, ca]]);
    }
    out
}

/// Unit normals from the triangles about each vertex.
fn normals(at: &[V], faces: &[[u32; 3]]) -> Vec<V> {
    let mut n = vec![V::zeros(); at.len()];
    for f in faces {
        let [a, b, c] = f.map(|i| at[i as usize]);
        let across = (b - a).cross(&(c - a));
        f.iter().for_each(|i| n[*i as usize] += across);
    }
    n.into_iter().map(|n| n.try_normalize(1e-14).unwrap_or_else(V::z)).collect()
}

/// What a place of the head is: paint, and how far hair stands out there, metres.
fn painted(p: &Point, look: &Look) -> (Paint, f32) {
    let (m, seed) = (p.mean, look.grain);
    let (aside, y, z) = (m.x.abs(), m.y, m.z);
    let blotch = 0.5 * noise(&m, 0.037, seed) + 0.4 * noise(&m, 0.013, seed ^ 1) + 0.3 * noise(&m, 0.005, seed ^ 2);
    let pores = noise(&m, 0.0018, seed ^ 3).clamp(0.0, 1.0);
    let mut rgb = look.skin.map(|c| c * (1.0 + 0.055 * blotch) * (1.0 - 0.05 * pores));
    let bell = |dx: f32, dy: f32, w: f32| (-(dx * dx + dy * dy) / (w * w)).exp();
    let front = ease(-0.07, -0.05, z);
    let blush = 0.8 * bell(aside - 0.044, y + 0.041, 0.024) * front
        + 0.8 * bell(m.x, y + 0.041, 0.012) * ease(-0.01, 0.0, z)
        + 0.6 * p.ears
        + 0.3 * bell(m.x, y + 0.114, 0.015);
    let red = (blush * (1.0 + 0.3 * blotch)).clamp(0.0, 1.2);
    let lid = bell((aside - 0.0326) / 2.0, y + 0.001, 0.011) * ease(-0.045, -0.03, z);
    for (c, k) in rgb.iter_mut().zip([0.02, 0.17, 0.17]) {
        *c *= (1.0 - k * red) * (1.0 - 0.15 * lid);
    }
    let mut rough = SKIN_ROUGH * (1.0 + 0.12 * blotch);
    let lips = ease(0.25, 0.75, p.lips);
    for (c, (s, k)) in rgb.iter_mut().zip(look.skin.iter().zip([0.80, 0.52, 0.52])) {
        *c += 0.85 * lips * (s * k * (1.0 + 0.08 * blotch) - *c);
        *c *= 1.0 - 0.6 * p.inner * (1.0 - lips);
    }
    rough *= 1.0 - 0.2 * lips;
    // brows: a band that thins out aside
    let t = ((aside - BROW[0].0) / (BROW[4].0 - BROW[0].0)).clamp(0.0, 1.0);
    let off = (y - along(&BROW, aside)).hypot((aside - aside.clamp(BROW[0].0, BROW[4].0)) * 1.5);
    let half = 0.0042 * along(&[(0.0, 0.75), (0.15, 1.0), (0.6, 0.9), (1.0, 0.3)], t);
    let hairs = 0.78 + 0.2 * noise(&V::new(m.x * 1.5, m.y * 0.8, m.z), 0.003, seed ^ 4);
    let brow = ease(0.0018, -0.0018, off - half) * ease(-0.06, -0.05, z) * hairs;
    for (c, (h, s)) in rgb.iter_mut().zip(look.hair_colour.iter().zip(look.skin)) {
        *c += brow.clamp(0.0, 1.0) * ((h * 0.9).min(0.16) + 0.02 * s - *c);
    }
    // hair of the scalp
    let rise =
        y - along(&LINE, z) - look.line + 0.0035 * noise(&m, 0.009, seed ^ 5) + 0.003 * noise(&m, 0.03, seed ^ 6);
    let scalp = rise * (1.0 - ease(0.1, 0.35, p.ears)) - 0.04 * ease(0.1, 0.35, p.ears);
    let cover = if look.hair == Hair::Bald { 0.0 } else { ease(-0.001, 0.005, scalp) };
    let strand = noise(&V::new(m.x, m.y * 0.15, m.z * 0.15), 0.0022, seed ^ 7);
    for (c, h) in rgb.iter_mut().zip(look.hair_colour) {
        *c += cover * (h * (1.0 + 0.25 * strand) - *c);
    }
    rough += cover.max(brow) * (0.42 - rough);
    let tight = 1.0 - 0.6 * ease(0.035, 0.075, aside) * (1.0 - ease(0.02, 0.07, y));
    let wave = 1.0 + 0.2 * noise(&V::new(m.x, m.y * 0.5, m.z * 0.5), 0.035, seed ^ 8);
    let lift = ease(0.0, 0.028, scalp) * look.depth * wave * if look.hair == Hair::Short { tight } else { 1.0 };
    (Paint::gloss(rgb, rough), lift.max(0.0))
}

/// Turn of the chest as the head's own frame sees it.
fn chest_turn(s: &Subject) -> Matrix3<f32> {
    let head = turn_of(s.yaw_deg, s.pitch_deg, s.roll_deg);
    head.transpose() * turn_of(CHEST_TURN * s.yaw_deg, 0.0, 0.0)
}

/// Moves a place of the head's frame as far as its height on the mean head goes along with the chest.
fn follow(at: V, height: f32, chest: &Matrix3<f32>) -> V {
    let pivot = V::from(PIVOT);
    let own = ease(NECK.0, NECK.1, height);
    (at - pivot) * own + chest * (at - pivot) * (1.0 - own) + pivot
}

/// Head and scalp, in the head's frame.
fn head_mesh(look: &Look, chest: &Matrix3<f32>) -> Mesh {
    let f = family();
    let head = f.head(&look.shape);
    let is = |i: usize, r: Region| f32::from(u8::from(f.regions()[i] == r));
    let mut points: Vec<Point> = (0..f.vertices())
        .map(|i| Point {
            at: head.vertices()[i].cast() + opened(&f.mean(i).cast()),
            n: head.normals()[i].cast(),
            mean: f.mean(i).cast(),
            lips: is(i, Region::Lips),
            ears: is(i, Region::Ears),
            inner: is(i, Region::Mouth),
        })
        .collect();
    let mut faces: Vec<[u32; 3]> = head.triangles().iter().map(|t| t.map(u32::from)).collect();
    for _ in 0..ROUNDS {
        faces = finer(&mut points, &faces);
    }
    let (paint, lift): (Vec<Paint>, Vec<f32>) = points.iter().map(|p| painted(p, look)).unzip();
    // the shoulders of the head's mesh end under the garment
    let sunk = |p: &Point| SUNK * ease(-0.140, -0.170, p.mean.y);
    let place = |(p, lift): (&Point, &f32)| follow(p.at + p.n * (*lift - sunk(p)), p.mean.y, chest);
    let at: Vec<V> = points.iter().zip(&lift).map(place).collect();
    let mut n = normals(&at, &faces);
    // strands turn the light of the hair
    for ((n, p), lift) in n.iter_mut().zip(&points).zip(&lift) {
        if *lift > 0.002 {
            let strand = noise(&V::new(p.mean.x, p.mean.y * 0.15, p.mean.z * 0.15), 0.0024, look.grain ^ 9);
            *n = (*n + V::x() * (0.18 * strand)).normalize();
        }
    }
    Mesh::new(at, n, paint, faces)
}

/// Neck, shoulders and chest of somebody whose head looks straight ahead.
fn body(p: &V) -> f32 {
    let q = p3(p.x.abs(), p.y, p.z);
    let shoulder = limb(&q, p3(0.05, -0.195, -0.118), p3(0.172, -0.250, -0.118), 0.050, 0.053);
    let chest = ellipsoid(p, p3(0.0, -0.36, -0.105), p3(0.178, 0.175, 0.105));
    let neck = limb(p, p3(0.0, -0.13, -0.105), p3(0.0, -0.24, -0.112), 0.046, 0.062);
    join(join(shoulder, chest, 0.07), neck, 0.05)
}

/// How far a place lies outside the opening of the garment, metres: round the neck, deeper in front.
fn beside_opening(p: &V, look: &Look) -> f32 {
    let around = p3(p.x, 0.0, p.z + 0.098);
    let collar = 0.06 * ((around.x / 0.074).hypot(around.z / 0.080) - 1.0);
    let open = collar.max(-p.y - 0.235);
    if look.pointed {
        let vee = below(&p3(p.x.abs(), p.y, 0.0), p3(0.80, -0.60, 0.0), 0.148).max(-p.z - 0.09);
        join(open, vee, 0.02)
    } else {
        open
    }
}

/// How thick the garment lies on the body, metres: it swells from its edge, with a hem.
fn cloth(p: &V, look: &Look) -> f32 {
    let off = beside_opening(p, look);
    let fold = 0.0022 * noise(&p3(p.x, p.y * 0.45, p.z), 0.055, look.grain) + 0.0010 * noise(p, 0.02, look.grain ^ 1);
    let hem = if look.pointed { 0.0015 } else { 0.0045 };
    ease(0.0, 0.006, off) * (0.006 + fold) + hem * (-((off - 0.008) / 0.005).powi(2)).exp()
}

/// Hair that falls to the shoulders.
fn mane(p: &V, look: &Look) -> f32 {
    let grooves =
        0.0008 * (p.x.atan2(0.06 - p.z) * 70.0 + 0.7 * (p.y * 30.0).sin()).sin() + 0.003 * noise(p, 0.05, look.grain);
    let crown = ellipsoid(p, p3(0.0, 0.015, -0.105), p3(0.092, 0.122, 0.108));
    let fall = limb(p, p3(0.0, -0.02, -0.125), p3(0.0, -0.20, -0.135), 0.093, 0.100).max(p.z + 0.055);
    let open = ellipsoid(p, p3(0.0, -0.045, 0.015), p3(0.070, 0.112, 0.095));
    let throat = limb(p, p3(0.0, -0.09, 0.0), p3(0.0, -0.24, 0.0), 0.066, 0.075);
    carve(carve(join(crown, fall, 0.03), open, 0.014), throat, 0.012) + grooves
}

/// Everything of the chest in one mesh, in the head's frame.
fn chest_mesh(look: &Look, chest: &Matrix3<f32>) -> Mesh {
    let distance = |p: &V| 0.9 * (body(p) - cloth(p, look));
    let paint = |p: &V| {
        if beside_opening(p, look) > 0.002 {
            Paint::matte(look.cloth.map(|c| c * (1.0 + 0.06 * noise(p, 0.002, look.grain))))
        } else {
            Paint::gloss(look.skin.map(|c| c * (1.0 + 0.05 * noise(p, 0.02, look.grain))), SKIN_ROUGH)
        }
    };
    let mesh = from_distance([-0.26, -0.55, -0.245], [0.26, -0.10, 0.02], 0.0032, distance, paint);
    turned(mesh, chest)
}

fn turned(mesh: Mesh, chest: &Matrix3<f32>) -> Mesh {
    let at: Vec<V> = mesh.positions.iter().map(|p| follow(*p, -1.0, chest)).collect();
    let n = mesh.normals.iter().map(|n| chest * n).collect();
    Mesh::new(at, n, mesh.paint, mesh.faces)
}

fn mane_mesh(look: &Look) -> Mesh {
    let paint = |p: &V| {
        let strand = noise(&V::new(p.x, p.y * 0.15, p.z), 0.0024, look.grain ^ 7);
        Paint::gloss(look.hair_colour.map(|c| c * (1.0 + 0.25 * strand)), 0.42)
    };
    from_distance([-0.13, -0.33, -0.26], [0.13, 0.15, 0.06], 0.0035, |p: &V| 0.7 * mane(p, look), paint)
}

/// A mesh of a person.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Piece {
    Head,
    Chest,
    /// Hair that falls to the shoulders.
    Mane,
}

/// A person ready to be made.
pub(crate) struct Made {
    /// Tells one from another, pose and all.
    pub name: String,
    look: Look,
    chest: Matrix3<f32>,
}

impl Made {
    pub(crate) fn of(s: &Subject, skin: Option<Rgb>) -> Made {
        let person = s.person.clone().unwrap_or_default();
        let look = Look::of(&person, skin);
        let pose = [s.yaw_deg, s.pitch_deg, s.roll_deg].map(|d| d.to_bits());
        Made { name: format!("{person:?}{pose:?}"), look, chest: chest_turn(s) }
    }

    pub(crate) fn pieces(&self) -> &'static [Piece] {
        if self.look.hair == Hair::Long {
            &[Piece::Head, Piece::Chest, Piece::Mane]
        } else {
            &[Piece::Head, Piece::Chest]
        }
    }

    pub(crate) fn mesh(&self, piece: Piece) -> Mesh {
        match piece {
            Piece::Head => head_mesh(&self.look, &self.chest),
            Piece::Chest => chest_mesh(&self.look, &self.chest),
            Piece::Mane => mane_mesh(&self.look),
        }
    }

    pub(crate) fn iris(&self) -> Rgb {
        self.look.iris
    }
}

/// Where the ball of an eye is drawn: it fills the lids, which lie before and below the family's own centre.
fn drawn(centre: Vec3) -> V {
    (centre + Vec3::from(TO_LIDS)).cast()
}

/// Centres of a person's eyes in the head's frame, image left first.
pub(crate) fn eyes(person: &Person) -> [V; 2] {
    family().head(&shape_of(person)).eyes().map(drawn)
}

/// The points of a face mesh on somebody, its own frame, metres, in the order of the mesh.
pub(crate) fn mesh_points(person: &Person) -> Vec<V> {
    let f = family();
    let on_mean = f.landmarks().iter().map(|l| f.mean(l.vertex).cast());
    f.head(&shape_of(person)).landmarks().into_iter().zip(on_mean).map(|(p, m)| p.cast() + opened(&m)).collect()
}

/// Landmarks in the head's own frame: corneas and named points of a face mesh.
pub(crate) fn landmarks(person: &Person) -> Vec<(&'static str, V)> {
    let head = family().head(&shape_of(person));
    let points = head.landmarks();
    let cornea = |e: Vec3| drawn(e) + p3(0.0, 0.0, EYE_SCALE * EYEBALL_MM);
    let [left, right] = head.eyes().map(cornea);
    let eyes = [("eye_image_left", left), ("eye_image_right", right)];
    eyes.into_iter().chain(NAMED.map(|(name, i)| (name, points[i].cast()))).collect()
}
