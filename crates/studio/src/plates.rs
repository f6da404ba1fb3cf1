//! Plates: the light of each lamp alone at unit level, kept by content, and their sums.

use crate::exchange::Exchange;
use crate::math::hash;
use crate::scene::Scene;
use crate::trace::{Bounce, Gathered, Job, bounce_of};
use lightset::set::{LightSet, SetLight};
use rayon::prelude::*;
use serde::Serialize;
use std::collections::HashMap;
use std::hash::{DefaultHasher, Hash, Hasher};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

/// Light of one lamp at unit level: linear RGB, three per pixel, row by row. A white surface that
/// faces the lamp at the reference point shows 1. Empty for a lamp that is off.
pub type Plate = Arc<Vec<f32>>;

/// One plate per lamp, and the ambient's.
#[derive(Debug, Clone)]
pub struct Plates {
    /// Pixels.
    pub width: u32,
    /// Pixels.
    pub height: u32,
    /// In the order of the set.
    pub lamps: Vec<Plate>,
    /// Even light from everywhere.
    pub ambient: Plate,
}

/// Plates of earlier traces. Holds at most `most_bytes`; the least recently used go first.
#[derive(Debug)]
pub struct PlateCache {
    kept: HashMap<u64, (Plate, u64)>,
    clock: u64,
    most_bytes: usize,
}

/// How far a trace has come.
pub struct Progress<'a> {
    /// Plates so far; coarse ones at first.
    pub plates: &'a Plates,
    /// Samples per pixel so far; 0 for the coarse first look.
    pub samples: u32,
    /// Samples per pixel at the end.
    pub of: u32,
}

impl Default for PlateCache {
    fn default() -> Self {
        PlateCache::new(160 << 20)
    }
}

impl PlateCache {
    /// An empty cache of a size in bytes.
    pub fn new(most_bytes: usize) -> Self {
        PlateCache { kept: HashMap::new(), clock: 0, most_bytes }
    }

    fn get(&mut self, key: u64) -> Option<Plate> {
        self.clock += 1;
        let clock = self.clock;
        self.kept.get_mut(&key).map(|(p, used)| {
            *used = clock;
            p.clone()
        })
    }

    fn put(&mut self, key: u64, plate: Plate) {
        self.clock += 1;
        self.kept.insert(key, (plate, self.clock));
        while self.bytes() > self.most_bytes && self.kept.len() > 1 {
            let Some(oldest) = self.kept.iter().min_by_key(|(_, (_, used))| *used).map(|(k, _)| *k) else { return };
            self.kept.remove(&oldest);
        }
    }

    /// Bytes held.
    pub fn bytes(&self) -> usize {
        self.kept.values().map(|(p, _)| p.len() * 4).sum()
    }

    /// Plates of a set if all of them are here: no tracing needed.
    pub fn whole(&mut self, set: &LightSet) -> Option<Plates> {
        let (lamps, ambient) = keys(set);
        // what is off needs no plate
        let none = || Some(Plate::default());
        let ambient = if set.ambient.is_some() { self.get(ambient) } else { none() }?;
        let lamps = lamps.into_iter().zip(&set.lights);
        let lamps = lamps.map(|(k, l)| if l.off { none() } else { self.get(k) }).collect::<Option<Vec<_>>>()?;
        Some(Plates { width: set.picture.width, height: set.picture.height, lamps, ambient })
    }
}

fn hashed(parts: &impl Serialize) -> u64 {
    let mut h = DefaultHasher::new();
    serde_json::to_string(parts).unwrap_or_default().hash(&mut h);
    h.finish()
}

/// Keys of the plates of a set: everything that a lamp's picture depends on but level and colour.
fn keys(set: &LightSet) -> (Vec<u64>, u64) {
    let c = &set.camera;
    let p = &set.picture;
    let base = hashed(&(
        (&set.subjects, &set.boards, &set.flags, &set.walls),
        (c.position_m, c.aim_m, c.vfov_deg()),
        (p.width, p.height, p.samples.next_power_of_two(), p.seed),
        // A lamp in the picture hides what is behind it from all plates.
        set.lights.iter().filter(|l| in_view(set, l)).map(place_of).collect::<Vec<_>>(),
    ));
    let lamps = set.lights.iter().map(|l| hashed(&(base, place_of(l)))).collect();
    (lamps, hashed(&(base, "ambient", set.ambient.as_ref().and_then(|a| a.map.as_ref()))))
}

fn place_of(l: &SetLight) -> impl Serialize + use<'_> {
    let p: [f64; 3] = l.position().into();
    (p, l.aim_m, &l.source, l.roll_deg, &l.bounce, &l.scrims, &l.path_m)
}

/// Whether the camera may see a lamp: from the subject's distance on. What a lamp hides in mirrors and
/// glass is not told apart: moving it does not trace the others' plates again.
fn in_view(set: &LightSet, l: &SetLight) -> bool {
    let eye = optics::geometry::Vec3::from(set.camera.position_m);
    let forward = optics::geometry::Vec3::from(set.camera.aim_m) - eye;
    (l.position() - eye).dot(&forward) > -eye.dot(&forward)
}

/// Traces what is not in the cache. `progress` is called with a coarse picture first, then with finer
/// ones; a set `cancel` ends the trace with `None`, and the finished part is dropped.
pub fn trace(
    set: &LightSet,
    cache: &mut PlateCache,
    cancel: &AtomicBool,
    mut progress: impl FnMut(&Progress),
) -> Option<Plates> {
    if let Some(all) = cache.whole(set) {
        return Some(all);
    }
    let (lamp_keys, ambient_key) = keys(set);
    let mut kept: Vec<Option<Plate>> = lamp_keys.iter().map(|k| cache.get(*k)).collect();
    kept.push(cache.get(ambient_key));
    // A lamp switched off keeps its plate but is not traced for it.
    let wanted: Vec<bool> = kept
        .iter()
        .enumerate()
        .map(|(i, k)| {
            k.is_none() && set.lights.get(i).is_none_or(|l| !l.off) && (i < set.lights.len() || set.ambient.is_some())
        })
        .collect();
    let scene = Scene::new(set);
    let of = set.picture.samples.next_power_of_two();
    // The first look goes without the bounce: its grids would keep it waiting.
    let dark: Vec<Bounce> = vec![vec![None; scene.quads.len()]; wanted.len()];
    let job = Job {
        scene: &scene,
        bounce: &dark,
        wanted: &wanted,
        smooth: of <= ADAPTED,
        bounce_every: of.min(if of <= ADAPTED { EVEN_PASSES } else { 4 }),
        seed: hash(set.picture.seed ^ 0x5eed),
    };
    let (w, h) = (set.picture.width as usize, set.picture.height as usize);
    let channels = wanted.len();
    let want: Vec<usize> = (0..channels).filter(|i| wanted[*i]).collect();
    let blank = Plate::default();
    let assemble = |mut fresh: Vec<(usize, Plate)>| {
        let mut all: Vec<Plate> = kept.iter().map(|k| k.clone().unwrap_or_else(|| blank.clone())).collect();
        fresh.drain(..).for_each(|(i, p)| all[i] = p);
        let ambient = all.pop().unwrap_or_else(|| blank.clone());
        Plates { width: set.picture.width, height: set.picture.height, lamps: all, ambient }
    };
    let exposure: Vec<f32> = want
        .iter()
        .map(|i| match set.lights.get(*i) {
            Some(l) => crate::level::relative_exposure(l, &set.camera.exposure),
            None => set.ambient.as_ref().map_or(Ok(0.0), |a| crate::level::relative_ambient(a, &set.camera.exposure)),
        })
        .map(|e| e.unwrap_or(1.0).max(0.03) as f32)
        .collect();
    let stopped = || cancel.load(Ordering::Relaxed);
    if w * h > 40_000 {
        let (cw, ch) = (w.div_ceil(COARSE), h.div_ceil(COARSE));
        let mut coarse = Sums::new(cw, ch, want.len());
        coarse.pass(&Job { smooth: false, ..job }, &want, COARSE, 0, &stopped);
        if stopped() {
            return None;
        }
        let mut all: Vec<Plate> =
            kept.iter().map(|k| k.as_ref().map_or_else(Plate::default, |p| thinned(p, w))).collect();
        want.iter().zip(coarse.means()).for_each(|(i, p)| all[*i] = p);
        let ambient = all.pop().unwrap_or_default();
        let plates = Plates { width: cw as u32, height: ch as u32, lamps: all, ambient };
        progress(&Progress { plates: &plates, samples: 0, of });
    }
    let exchange = Exchange::of(&scene);
    let bounce: Vec<Bounce> =
        wanted
            .par_iter()
            .enumerate()
            .map(|(i, on)| {
                if *on {
                    exchange.settled(bounce_of(&scene, scene.lamps.get(i)))
                } else {
                    vec![None; scene.quads.len()]
                }
            })
            .collect();
    let job = Job { bounce: &bounce, ..job };
    let mut sums = Sums::new(w, h, want.len());
    for pass in 0..of {
        sums.pass(&job, &want, 1, pass, &stopped);
        if stopped() {
            return None;
        }
        let n = pass + 1;
        if n < of && n.is_power_of_two() && n >= EVEN_PASSES {
            if n >= SHOWN_PASSES {
                let plates = assemble(want.iter().copied().zip(sums.means()).collect());
                progress(&Progress { plates: &plates, samples: n, of });
            }
            if of <= ADAPTED {
                sums.choose_noisy(&exposure);
            }
        }
    }
    let mut fresh = Vec::new();
    for (i, plate) in want.iter().copied().zip(sums.means()) {
        cache.put(lamp_keys.get(i).copied().unwrap_or(ambient_key), plate.clone());
        fresh.push((i, plate));
    }
    Some(assemble(fresh))
}

/// Pixels of the picture to one of the coarse first look, each way.
const COARSE: usize = 4;
/// Passes over all pixels, before only the noisy ones are sampled on.
const EVEN_PASSES: u32 = 2;
/// Passes from which the picture is shown: fewer samples look no better than the coarse first look.
const SHOWN_PASSES: u32 = 4;
/// Who asks for more samples than this gets them in every pixel.
const ADAPTED: u32 = 32;

/// Every so many pixels of a plate, for the first look.
fn thinned(plate: &[f32], w: usize) -> Plate {
    let rows = plate.chunks_exact(3 * w).step_by(COARSE);
    Arc::new(rows.flat_map(|r| r.chunks_exact(3).step_by(COARSE).flatten().copied()).collect())
}

/// Sums of samples per pixel, row by row. A pixel holds per lamp: linear RGB, the square of the green,
/// how many samples saw the lamp, and the soft light's RGB; then the colour the soft light falls on,
/// normal, distance, whether it is glossy, and its samples.
struct Sums {
    w: usize,
    h: usize,
    lamps: usize,
    cells: Vec<f32>,
    live: Vec<bool>,
}

/// Values per lamp in a pixel.
const PER_LAMP: usize = 8;
const SOFT: usize = 5;
/// Values of a pixel after its lamps.
const REST: usize = 9;
const NORMAL: usize = 3;
const DEPTH: usize = 6;
const GLOSSY: usize = 7;
const COUNT: usize = 8;
/// Offsets in pixels and weights the soft light is smoothed over, to both sides (a Gaussian of 3.5).
const TAPS: [(isize, f32); 7] = [(-6, 0.230), (-4, 0.520), (-2, 0.849), (0, 1.0), (2, 0.849), (4, 0.520), (6, 0.230)];

impl Sums {
    fn new(w: usize, h: usize, lamps: usize) -> Sums {
        Sums { w, h, lamps, cells: vec![0.0; (lamps * PER_LAMP + REST) * w * h], live: vec![true; w * h] }
    }

    fn stride(&self) -> usize {
        self.lamps * PER_LAMP + REST
    }

    /// The rest of a pixel's values.
    fn rest<'a>(&self, cell: &'a [f32]) -> &'a [f32] {
        &cell[self.lamps * PER_LAMP..]
    }

    /// The plates so far. The soft light is smoothed over the surface it falls on (a cross-bilateral
    /// filter by normal and distance, Eisemann & Durand 2004, one direction after the other).
    fn means(&self) -> Vec<Plate> {
        let (w, s) = (self.w, self.stride());
        let n = 3 * self.lamps;
        let mut soft: Vec<f32> = vec![0.0; n * w * self.h];
        soft.par_chunks_mut(n).zip(self.cells.par_chunks(s)).for_each(|(o, c)| {
            // the soft light is traced in some passes only, with as much more weight
            let k = 1.0 / self.rest(c)[COUNT].max(1.0);
            for lamp in 0..self.lamps {
                for j in 0..3 {
                    o[3 * lamp + j] = c[lamp * PER_LAMP + SOFT + j] * k;
                }
            }
        });
        if soft.par_iter().any(|v| *v > 0.0) {
            // normal and distance in a place of their own: the filter walks over them
            let guide: Vec<[f32; 4]> = self
                .cells
                .par_chunks(s)
                .map(|c| {
                    let r = self.rest(c);
                    let k = 1.0 / r[COUNT].max(1.0);
                    [r[NORMAL] * k, r[NORMAL + 1] * k, r[NORMAL + 2] * k, r[DEPTH] * k]
                })
                .collect();
            for across in [true, false] {
                soft = self.smoothed(&soft, &guide, n, across);
            }
        }
        (0..self.lamps)
            .map(|lamp| {
                let mut out = vec![0.0f32; 3 * w * self.h];
                out.par_chunks_mut(3).zip(self.cells.par_chunks(s)).zip(soft.par_chunks(n)).for_each(|((o, c), e)| {
                    let rest = self.rest(c);
                    let k = 1.0 / rest[COUNT].max(1.0);
                    for j in 0..3 {
                        o[j] = c[lamp * PER_LAMP + j] * k + e[3 * lamp + j] * rest[j] * k;
                    }
                });
                Arc::new(out)
            })
            .collect()
    }

    fn smoothed(&self, from: &[f32], guide: &[[f32; 4]], n: usize, across: bool) -> Vec<f32> {
        let (w, h) = (self.w as isize, self.h as isize);
        let mut out = vec![0.0f32; from.len()];
        out.par_chunks_mut(n * self.w).enumerate().for_each(|(y, row)| {
            for (x, o) in row.chunks_exact_mut(n).enumerate() {
                let me = guide[y * self.w + x];
                let mut total = 0.0;
                for (d, spread) in TAPS {
                    let (u, v) = if across { (x as isize + d, y as isize) } else { (x as isize, y as isize + d) };
                    if u < 0 || v < 0 || u >= w || v >= h {
                        continue;
                    }
                    let at = (v * w + u) as usize;
                    let other = guide[at];
                    let dot = (me[0] * other[0] + me[1] * other[1] + me[2] * other[2]).max(0.0);
                    let gap = (me[3] - other[3]) / (0.012 * me[3] + 1e-4);
                    let (d2, near) = (dot * dot, 1.0 / (1.0 + gap * gap));
                    let d8 = d2 * d2 * d2 * d2;
                    let k = spread * d8 * d8 * d8 * near * near + if d == 0 { 1e-4 } else { 0.0 };
                    if k < 1e-3 && d != 0 {
                        continue;
                    }
                    total += k;
                    for (o, f) in o.iter_mut().zip(&from[at * n..(at + 1) * n]) {
                        *o += k * f;
                    }
                }
                let k = 1.0 / total;
                o.iter_mut().for_each(|o| *o *= k);
            }
        });
        out
    }

    /// One sample in each live cell; a cell covers `scale` pixels each way.
    fn pass(&mut self, job: &Job, want: &[usize], scale: usize, pass: u32, stopped: &(impl Fn() -> bool + Sync)) {
        let (w, s, lamps) = (self.w, self.stride(), self.lamps);
        let live = &self.live;
        self.cells.par_chunks_mut(s * w).enumerate().for_each(|(y, row)| {
            let mut out = Gathered::new(job.wanted.len());
            for (x, cell) in row.chunks_exact_mut(s).enumerate() {
                if stopped() {
                    return;
                }
                if !live[y * w + x] {
                    continue;
                }
                out.clear();
                job.pixel((x * scale) as u32, (y * scale) as u32, scale as f32, pass, &mut out);
                for (lamp, i) in cell.chunks_exact_mut(PER_LAMP).zip(want) {
                    let (rgb, soft) = (out.light[*i], out.soft[*i]);
                    lamp[0] += rgb[0];
                    lamp[1] += rgb[1];
                    lamp[2] += rgb[2];
                    lamp[3] += rgb[1] * rgb[1];
                    lamp[4] += f32::from(u8::from(out.seen[*i]));
                    for j in 0..3 {
                        lamp[SOFT + j] += soft[j];
                    }
                }
                let rest = &mut cell[lamps * PER_LAMP..];
                for j in 0..3 {
                    rest[j] += out.matte[j];
                    rest[NORMAL + j] += out.normal[j];
                }
                rest[DEPTH] += out.depth;
                rest[GLOSSY] = rest[GLOSSY].max(f32::from(u8::from(out.glossy)));
                rest[COUNT] += 1.0;
            }
        });
    }

    /// Keeps sampling where the picture is not yet sure, there or in a neighbour: in penumbras (a lamp
    /// seen by some samples only), on edges, and where gloss is rough. `exposure` is
    /// how bright each lamp is in the picture now.
    fn choose_noisy(&mut self, exposure: &[f32]) {
        let (w, h) = (self.w, self.h);
        let s = self.stride();
        let cell = |i: usize| &self.cells[i * s..(i + 1) * s];
        let noisy: Vec<bool> = (0..w * h)
            .into_par_iter()
            .map(|i| {
                if !self.live[i] {
                    return false;
                }
                let me = cell(i);
                let (glossy, n) = (self.rest(me)[GLOSSY] > 0.0, self.rest(me)[COUNT]);
                let right = cell(if i % w + 1 < w { i + 1 } else { i });
                let below = cell(if i + w < w * h { i + w } else { i });
                (0..self.lamps).any(|k| {
                    let green = |c: &[f32]| c[k * PER_LAMP + 1] / self.rest(c)[COUNT].max(1.0) * exposure[k];
                    let mean = green(me);
                    if glossy || n < SHOWN_PASSES as f32 {
                        let m = me[k * PER_LAMP + 1] / n;
                        let var = (me[k * PER_LAMP + 3] / n - m * m).max(0.0) / (n - 1.0);
                        return var.sqrt() * exposure[k] > 0.02 * mean + 0.008;
                    }
                    let seen = me[k * PER_LAMP + 4];
                    let edge = [right, below].into_iter().any(|c| {
                        let other = green(c);
                        (other - mean).abs() > 0.10 * mean.max(other) + 0.03
                    });
                    edge || (seen > 0.0 && seen < n && mean > 0.004)
                })
            })
            .collect();
        let near = |i: usize| {
            let (x, y) = (i % w, i / w);
            (y.saturating_sub(1)..(y + 2).min(h))
                .any(|v| (x.saturating_sub(1)..(x + 2).min(w)).any(|u| noisy[v * w + u]))
        };
        let live: Vec<bool> = (0..w * h).into_par_iter().map(|i| self.live[i] && near(i)).collect();
        self.live = live;
    }
}
