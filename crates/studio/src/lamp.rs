//! A light ready to shine: its bright faces through boards and sheets, and what they give at a point.

use crate::emitter::{Emitter, Glow, Grid, Outline};
use crate::math::{V, point, upright, v};
use lightset::set::{BouncePatch, Level, SetLight};
use lru::LruCache;
use optics::geometry::Vec3;
use std::num::NonZeroUsize;
use std::sync::{LazyLock, Mutex};

/// A light ready to shine: the faces its light leaves from, at unit level.
#[derive(Debug, Clone)]
pub struct Lamp {
    pub(crate) faces: Vec<Emitter>,
    /// Irradiance where it is metered, facing it, if the lamp's own face had the radiance 1.
    pub(crate) facing: f32,
}

/// A point of a lamp's bright faces as seen from somewhere.
#[derive(Debug, Clone, Copy)]
pub struct Glimpse {
    /// Unit direction towards it.
    pub direction: Vec3,
    /// Metres to it.
    pub distance: f64,
    /// Radiance towards there, in the unit in which all faces together give the irradiance 1 at the reference point.
    pub radiance: f64,
    /// Solid angle it stands for, steradian, times the number of points looked at.
    pub omega: f64,
}

impl Lamp {
    /// Irradiance where it is metered (the reference point), facing it, if the lamp's own face had the radiance 1.
    pub fn facing(&self) -> f64 {
        f64::from(self.facing)
    }

    /// Vector irradiance at a point in metres (its length is the irradiance on the surface that faces the light; 1 at the
    /// reference point), and the solid angle in steradian of the even source with the same irradiance and mean radiance.
    pub fn irradiance_at(&self, p: &Vec3) -> (Vec3, f64) {
        let (flux, omega) = vector_irradiance(&self.faces, &p.cast::<f32>());
        (flux.cast::<f64>(), f64::from(omega))
    }

    /// `count` points of each of its faces as seen from the reference point, the same ones at every call of one `seed`.
    pub fn glimpses(&self, count: u32, seed: u32) -> impl Iterator<Item = Glimpse> + '_ {
        self.faces.iter().flat_map(move |f| {
            (0..count).filter_map(move |i| {
                let (a, b) = point(i, seed);
                f.draw(&V::zeros(), a, b).map(|s| Glimpse {
                    direction: s.d.cast::<f64>(),
                    distance: f64::from(s.distance),
                    radiance: f64::from(s.radiance),
                    omega: f64::from(s.omega),
                })
            })
        })
    }

    /// Directions from the reference point to its bright part: points that give at least a quarter of the brightest
    /// radiance.
    pub fn bright_directions(&self) -> Vec<Vec3> {
        let count = (4096 / self.faces.len().max(1)).max(128) as u32;
        let seen: Vec<Glimpse> = self.glimpses(count, 5).collect();
        let top = seen.iter().map(|s| s.radiance).fold(0.0, f64::max);
        seen.into_iter().filter(|s| s.radiance > 0.25 * top).map(|s| s.direction).collect()
    }

    /// Middle of its first face over that face's edge, stops: how hot its centre is.
    pub fn middle_over_edge(&self) -> f64 {
        self.faces.first().map_or(0.0, Emitter::middle_over_edge)
    }
}

/// Cells a sheet's glow is kept in, per side.
const SHEET: usize = 32;

/// The faces a light leaves from, scaled so that together they give the irradiance 1 where the light is metered (the reference
/// point) on a surface facing them.
pub fn lamp(l: &SetLight) -> Lamp {
    // while one is dragged, the others are as they were
    let key = serde_json::to_string(&SetLight { level: Level::Stops { stops: 0.0 }, cct_k: None, ..l.clone() }).ok();
    if let Some(kept) = key.as_ref().and_then(|k| KEPT.lock().ok()?.get(k).cloned()) {
        return kept;
    }
    let mut faces = raw_lamp(l);
    let facing = vector_irradiance(&faces, &l.metered_at().cast()).0.norm();
    if facing > 1e-12 {
        faces.iter_mut().for_each(|f| f.radiance /= facing);
    }
    let made = Lamp { faces, facing };
    if let (Some(key), Ok(mut kept)) = (key, KEPT.lock()) {
        kept.put(key, made.clone());
    }
    made
}

/// Lamps of the sets that were looked at last.
static KEPT: LazyLock<Mutex<LruCache<String, Lamp>>> = LazyLock::new(|| Mutex::new(LruCache::new(MOST_KEPT)));
/// Some kilobytes each.
const MOST_KEPT: NonZeroUsize = NonZeroUsize::new(256).unwrap();

/// The faces a light leaves from, for a lamp whose own face has the radiance 1.
fn raw_lamp(l: &SetLight) -> Vec<Emitter> {
    let mut places = vec![l.position()];
    places.extend(l.path_m.iter().map(|p| Vec3::from(*p)));
    let share = 1.0 / places.len() as f32;
    places
        .into_iter()
        .map(|p| {
            let bare = Emitter::of(l, p);
            let bare = l.bounce.as_ref().map_or(bare.clone(), |b| off(&bare, b));
            let mut e = l.scrims.iter().fold(bare, |e, s| {
                let half = (s.width_m as f32 / 2.0, s.height_m as f32 / 2.0);
                let centre = e.centre + e.n * s.gap_m as f32 + e.u * s.aside_m as f32;
                through(&e, centre, half, s.transmission as f32)
            });
            e.radiance *= share;
            e
        })
        .collect()
}

/// Light off a surface the lamp is turned to: its lit part becomes the source.
fn off(e: &Emitter, b: &BouncePatch) -> Emitter {
    let n = v(b.normal).normalize();
    let (u, w) = upright(&n);
    let (centre, half) = (v(b.position_m), (b.width_m as f32 / 2.0, b.height_m as f32 / 2.0));
    let at = |k: usize| 2.0 * (k as f32 + 0.5) / SHEET as f32 - 1.0;
    let mut values = Vec::with_capacity(SHEET * SHEET);
    for j in 0..SHEET {
        for i in 0..SHEET {
            let p = centre + u * (at(i) * half.0) + w * (at(j) * half.1);
            values.push(b.reflectance as f32 * e.irradiance(&p, &n, 64));
        }
    }
    Emitter {
        centre,
        n,
        u,
        v: w,
        outline: Outline::Rectangle(half.0, half.1),
        glow: Glow::Grid(std::sync::Arc::new(Grid::new(SHEET, values))),
        radiance: 1.0,
    }
}

/// Light through a sheet: its lit patch becomes the source. A thin sheet scatters evenly; what it
/// gets is its irradiance from behind.
fn through(e: &Emitter, centre: V, half: (f32, f32), transmission: f32) -> Emitter {
    let back = -e.n;
    let mut values = Vec::with_capacity(SHEET * SHEET);
    for j in 0..SHEET {
        for i in 0..SHEET {
            let at = |k: usize| 2.0 * (k as f32 + 0.5) / SHEET as f32 - 1.0;
            let p = centre + e.u * (at(i) * half.0) + e.v * (at(j) * half.1);
            values.push(transmission * e.irradiance(&p, &back, 64));
        }
    }
    Emitter {
        centre,
        outline: Outline::Rectangle(half.0, half.1),
        glow: Glow::Grid(std::sync::Arc::new(Grid::new(SHEET, values))),
        radiance: 1.0,
        ..e.clone()
    }
}

/// Vector irradiance at a point (its length is the irradiance on the surface that faces it), and the
/// solid angle of the even source with the same irradiance and mean radiance.
pub(crate) fn vector_irradiance(faces: &[Emitter], p: &V) -> (V, f32) {
    let (mut flux, mut l1, mut l2) = (Vec3::zeros(), 0.0f64, 0.0f64);
    for f in faces {
        let count = if faces.len() > 1 { 1024 } else { 8192 };
        for i in 0..count {
            let (a, b) = point(i, 5);
            if let Some(s) = f.draw(p, a, b) {
                let w = f64::from(s.omega) / f64::from(count);
                let l = f64::from(s.radiance);
                flux += s.d.cast::<f64>() * (l * w / std::f64::consts::PI);
                l1 += l * w;
                l2 += l * l * w;
            }
        }
    }
    let omega = if l2 > 0.0 { l1 * l1 / l2 } else { 0.0 };
    (flux.cast::<f32>(), omega as f32)
}
