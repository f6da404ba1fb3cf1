//! A flat meter anywhere in a set: the tracer's own light on a white surface, with all that boards, walls, foils and the subject
//! hand on. Points of one set share what falls on its flat things.

use crate::exchange::Exchange;
use crate::lamp::Lamp;
use crate::math::{PI, V, point, tangents};
use crate::mesh::Paint;
use crate::scene::{Hit, Scene};
use crate::subjects::Stuff;
use crate::trace::{Bounce, Gathered, Job, bounce_in};
use lightset::set::{Flag, FlagPattern, LightSet};
use optics::geometry::Vec3;
use optics::photo::luminance;
use rayon::prelude::*;

/// Rays of each kind at a point, and fewest, where there are more ways for light to come than usual: lamps, each straight and by
/// every foil.
const PASSES: u32 = 256;
const FEWEST_PASSES: u32 = 16;
const USUAL: usize = 12;
/// So many times as many where light falls through openings: each ray meets one or none.
const FOR_HOLES: u32 = 4;
/// Cells in which light on flat things is metered, over all of them and all lamps, and along a side of one.
const CELLS: f64 = 120_000.0;
const FEWEST_CELLS: usize = 4;
const MOST_CELLS: usize = 20;

/// A set in which light can be metered.
pub(crate) struct Probe {
    scene: Scene,
    bounce: Vec<Bounce>,
    wanted: Vec<bool>,
    passes: u32,
}

/// What falls on a flat meter.
#[derive(Debug, Clone)]
pub(crate) struct Flat {
    /// Of each lamp, in the order of the set, against what it gives at the reference point on a surface facing it.
    pub lamps: Vec<f64>,
    /// Of the ambient, against what it gives on an open surface.
    pub ambient: f64,
}

impl Probe {
    /// The set as it stands; lamps that are off and an ambient that is not there give nothing.
    pub(crate) fn of(set: &LightSet) -> Probe {
        let scene = Scene::new(set);
        let mut wanted: Vec<bool> = set.lights.iter().map(|l| !l.off).collect();
        wanted.push(set.ambient.is_some());
        // all rays together are bounded, however many things there are
        let things = (scene.quads.len() * wanted.len()).max(1);
        let cells = ((CELLS / things as f64).sqrt() as usize).clamp(FEWEST_CELLS, MOST_CELLS);
        let exchange = Exchange::of(&scene);
        let lamps: Vec<Option<&Lamp>> = scene.lamps.iter().map(Some).chain([None]).collect();
        let bounce = lamps
            .par_iter()
            .zip(&wanted)
            .map(
                |(l, on)| {
                    if *on { exchange.settled(bounce_in(&scene, *l, cells)) } else { vec![None; scene.quads.len()] }
                },
            )
            .collect();
        let foils = scene.quads.iter().filter(|q| q.gloss().is_some()).count();
        let each = wanted.len() * (1 + foils);
        let passes = (PASSES / each.div_ceil(USUAL).next_power_of_two() as u32).max(FEWEST_PASSES);
        let holes = |f: &Flag| !matches!(f.pattern, FlagPattern::Solid);
        let passes = if set.flags.iter().any(holes) { FOR_HOLES * passes } else { passes };
        Probe { scene, bounce, wanted, passes }
    }

    /// Irradiance on a surface at `at` (metres) that looks along `normal`, free of gloss.
    pub(crate) fn flat(&self, at: &Vec3, normal: &Vec3) -> Flat {
        let n = normal.cast::<f32>().normalize();
        self.mean(at, |_| (n, 1.0))
    }

    /// What a dome shows whose axis is `normal`: twice the mean of the irradiance on its surface, which is `(1 + cos) / 2` of a
    /// light at an angle from the axis (common practice for incident meters).
    pub(crate) fn dome(&self, at: &Vec3, normal: &Vec3) -> Flat {
        let n = normal.cast::<f32>().normalize();
        let (u, w) = tangents(&n);
        self.mean(at, |pass| {
            let (a, b) = point(pass, 0x0d0e);
            let (sin, cos) = (2.0 * PI * b).sin_cos();
            let out = (1.0 - a * a).max(0.0).sqrt();
            (u * (out * cos) + w * (out * sin) + n * a, 2.0)
        })
    }

    /// Mean over passes of the light on a white surface whose normal, and weight, each pass says.
    fn mean(&self, at: &Vec3, normal: impl Fn(u32) -> (V, f32)) -> Flat {
        let job = Job {
            scene: &self.scene,
            bounce: &self.bounce,
            wanted: &self.wanted,
            smooth: false,
            bounce_every: 1,
            seed: 0x3e7e_51ab,
        };
        let p = at.cast::<f32>();
        let mut sum = vec![0.0f64; self.wanted.len()];
        let mut out = Gathered::new(self.wanted.len());
        for pass in 0..self.passes {
            out.clear();
            let (n, weight) = normal(pass);
            let hit = Hit {
                t: 0.0,
                n,
                flat: n,
                inside: false,
                paint: Paint::matte([1.0; 3]),
                stuff: Stuff::Painted,
                object: usize::MAX,
                quad: usize::MAX,
                local: (0.0, 0.0),
            };
            job.on_white(&p, &hit, pass, &mut out);
            sum.iter_mut().zip(&out.light).for_each(|(s, l)| *s += f64::from(weight) * luminance(*l));
        }
        sum.iter_mut().for_each(|s| *s /= f64::from(self.passes));
        let ambient = sum.pop().unwrap_or(0.0);
        Flat { lamps: sum, ambient }
    }

    /// Whether the subject, a board or a wall stands where a meter would be held.
    pub(crate) fn is_free(&self, at: &Vec3, normal: &Vec3) -> bool {
        let (p, n): (V, V) = (at.cast(), normal.cast());
        !self.scene.blocked(&p, &n.normalize(), 0.02)
    }
}
