//! Lights, shape and surface colour, solved together.
//!
//! Model `I(p) = a(p) (sum_k sum_s E_ks P_ks(p) + E_a A(p) + E_b A_below(p))`, `log a = F b`. No stand-in
//! `s` is the face in the picture: each light may take the plates of all of them in parts, so that the
//! shape is a blend. The surface is described by its measured chroma and by smooth zones (a dark jaw
//! mimics a high light), held by a ridge. Levels by non-negative least squares (Lawson & Hanson 1974)
//! and `b` by ridge regression on the log residual, in turn, inside; directions and sizes by
//! Levenberg-Marquardt outside (variable projection, Golub & Pereyra 1973), Cauchy loss. Starts come from the whole bank by non-negative least squares, its peaks
//! ranked by what they contribute to the picture.

use super::crown::Glow;
use super::plates::{FEATURES, Layer, Plate, Samples};
use super::stand_in::StandIn;
use nalgebra::{DMatrix, DVector};
use optics::geometry::{Vec3, angle_between, fibonacci_sphere, tangent_frame};
use optics::solve::{levenberg_marquardt, nnls};
use std::sync::{Arc, Mutex};

/// Spread of a sample about the model, in units of the square root of its value.
pub(super) const NOISE: f64 = 0.08;
/// Cauchy scale in units of `NOISE`.
const CAUCHY: f64 = 2.5;
/// What is believed beforehand of a skin and of the light that comes from no light.
struct Prior {
    /// spreads of the features of its colour: two of chroma, then the zones
    surface_sd: [f64; FEATURES],
    /// spreads of the light from all around and from below, the brightest skin being 1
    room_sd: [f64; 2],
}

/// Where the head is a stranger's the surface makes up for its shape.
const STRANGERS: Prior = Prior { surface_sd: [0.7, 0.5, 0.30, 0.20, 0.15, 0.12, 0.12], room_sd: [1e3, 1e3] };
/// Where the head is the person's, chroma is shine as often as skin, and little light comes from below: a tenth of the key,
/// and a thirtieth (common practice).
const PERSONS: Prior = Prior { surface_sd: [0.05, 0.05, 0.030, 0.020, 0.015, 0.012, 0.012], room_sd: [0.1, 0.03] };
/// Prior of the natural log of the half angle.
const HALF_PRIOR: (f64, f64) = (-1.9, 1.0);
const HALF: (f64, f64) = (0.02, 0.85);
/// How much skin shines over its matte reflectance: one over its reflectance, a third for most; dry skin does not.
const GLOSS_PRIOR: (f64, f64) = (1.8, 1.5);
const GLOSS_MOST: f64 = 6.0;
const GLOSS_LEAST: f64 = 0.05;
/// The same where the head is the person's: its middle, and the spread of its natural log.
const GLOSS_USUAL: (f64, f64) = (2.2, 0.6);
/// Share of a head in the blend under which it is left out.
const LITTLE: f64 = 0.03;
/// Ways that a person's head may differ from the one fitted; how far it may go along one.
pub(super) const WAYS: usize = 6;
const FARTHEST: f64 = 1.8;
/// Neighbouring samples err alike: so many count as one.
pub(super) const ALIKE: f64 = 8.0;
/// How uneven the light of a room is from a part of the sphere to the next, of its mean.
const UNEVEN: f64 = 0.5;
/// Plates of lights tried last that are kept: fits side by side vary one light at a time.
const KEPT: usize = 40;
/// Coarse directions the search starts from, and the half angle of their lobes.
const COARSE: usize = 300;
const COARSE_HALF: f64 = 0.12;

/// The surface of a face.
#[derive(Debug, Clone, Copy)]
pub(super) struct Skin {
    /// Weights of the features of its colour.
    pub colour: [f64; FEATURES],
    /// How much it shines over its matte reflectance.
    pub gloss: f64,
    /// How far the head goes along each way from the fitted one, 1 for the head laid out there.
    pub shape: [f64; WAYS],
}

impl Default for Skin {
    fn default() -> Self {
        Skin { colour: [0.0; FEATURES], gloss: GLOSS_PRIOR.0, shape: [0.0; WAYS] }
    }
}

/// Whose heads are laid over the picture.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) enum Heads {
    /// Strangers': each light takes parts of all.
    Blended,
    /// The person's, and such as it may be: what lies between them is one head, the same for all lights. The later ones
    /// stand off the first by so many standard deviations.
    OnePerson(f64),
}

impl Heads {
    fn prior(self) -> &'static Prior {
        match self {
            Heads::Blended => &STRANGERS,
            Heads::OnePerson(_) => &PERSONS,
        }
    }

    /// The gloss as it is solved for: itself, or its natural log.
    fn unknown(self, gloss: f64) -> f64 {
        match self {
            Heads::Blended => gloss,
            Heads::OnePerson(_) => gloss.max(GLOSS_LEAST).ln(),
        }
    }

    /// The gloss that is solved for.
    fn gloss(self, x: f64) -> f64 {
        match self {
            Heads::Blended => x,
            Heads::OnePerson(_) => x.exp(),
        }
    }

    /// How far that is off what is usual, in spreads.
    fn gloss_off(self, x: f64) -> f64 {
        match self {
            Heads::Blended => (x - GLOSS_PRIOR.0) / GLOSS_PRIOR.1,
            Heads::OnePerson(_) => (x - GLOSS_USUAL.0.ln()) / GLOSS_USUAL.1,
        }
    }
}

/// A disc of light.
#[derive(Debug, Clone, Copy)]
pub(super) struct Lobe {
    pub direction: Vec3,
    pub half: f64,
}

/// A direction other evidence speaks for, with its spread in radians.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Hint {
    /// Unit vector, camera frame.
    pub direction: Vec3,
    /// Root mean square angle.
    pub sd: f64,
    /// Full angle, radians.
    pub size: Option<f64>,
    /// What gave it would show a weaker light in front as well: a large iris, a probe.
    pub complete: bool,
}

impl Hint {
    /// Distance in units of its spread, which is not taken for less than three degrees.
    pub(super) fn distance(&self, d: &Vec3) -> f64 {
        angle_between(&self.direction, d) / self.sd.max(0.05)
    }
}

/// A fit of some lights.
#[derive(Debug, Clone)]
pub(super) struct Lit {
    pub lobes: Vec<Lobe>,
    /// facing irradiance per lobe, in the picture's linear unit
    pub level: Vec<f64>,
    pub ambient: f64,
    /// irradiance from below, as chest and table throw it back
    pub below: f64,
    /// mean light each adds to the samples
    pub share: Vec<f64>,
    /// how much of each stand-in
    pub blend: Vec<f64>,
    pub cost: f64,
    /// standard deviations per lobe: two of direction in radians, one of the log half angle
    pub spread: Vec<[f64; 3]>,
    /// light on each sample and surface together, in units of the samples
    pub model: Vec<f64>,
    pub skin: Skin,
}

/// Levels, surface and residuals for given plates.
struct Inner {
    level: Vec<f64>,
    surface: [f64; FEATURES],
    residual: Vec<f64>,
    model: Vec<f64>,
    factor: Vec<f64>,
    cost: f64,
}

/// Plates of all stand-ins for one light.
type Plates = Arc<Vec<Plate>>;

/// One picture under all stand-ins.
pub(super) struct Face<'a> {
    pub layers: Vec<Layer<'a>>,
    pub samples: Samples,
    /// from all around, and from below
    ambient: [Vec<f64>; 2],
    pub hints: &'a [Hint],
    /// what the crown says of lights from behind
    pub glows: Vec<Glow>,
    heads: Heads,
    kept: Mutex<Vec<([u64; 4], Plates)>>,
}

pub(super) fn loss(r: f64) -> f64 {
    CAUCHY * CAUCHY * (1.0 + (r / CAUCHY).powi(2)).ln()
}

impl<'a> Face<'a> {
    pub(super) fn new(layers: Vec<Layer<'a>>, samples: Samples, hints: &'a [Hint], heads: Heads) -> Self {
        let each: Vec<_> = layers.iter().map(Layer::ambient).collect();
        let ambient = [0, 1].map(|k| mean_of(&each.iter().map(|a| a[k].clone()).collect::<Vec<_>>()));
        Face { layers, samples, ambient, hints, glows: Vec::new(), heads, kept: Mutex::default() }
    }

    /// Whether the heads laid over the picture are one person's.
    pub(super) fn is_one_person(&self) -> bool {
        self.heads != Heads::Blended
    }

    /// Leaves out the heads that add little, and says which are kept, the most first.
    pub(super) fn keep(&mut self, blend: &[f64], most: usize) -> Vec<&'a StandIn> {
        let total: f64 = blend.iter().sum::<f64>().max(1e-12);
        let mut order: Vec<usize> = (0..blend.len()).collect();
        order.sort_by(|a, b| blend[*b].total_cmp(&blend[*a]));
        let many = order.iter().filter(|h| blend[**h] > LITTLE * total).count();
        order.truncate(many.clamp(1, most));
        let mut layers: Vec<Option<Layer>> = std::mem::take(&mut self.layers).into_iter().map(Some).collect();
        self.layers = order.iter().filter_map(|h| layers[*h].take()).collect();
        self.kept = Mutex::default();
        self.layers.iter().map(|l| l.head).collect()
    }

    /// Mean cost of the landmarks over the stand-ins.
    pub(super) fn landmark_cost(&self) -> f64 {
        self.layers.iter().map(|l| l.pose.cost).sum::<f64>() / self.layers.len() as f64
    }

    /// Light from all around on each sample.
    pub(super) fn around(&self) -> &[f64] {
        &self.ambient[0]
    }

    pub(super) fn plates(&self, l: &Lobe) -> Plates {
        let d = l.direction;
        let key = [d.x, d.y, d.z, l.half].map(f64::to_bits);
        let lock = || self.kept.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        if let Some(found) = lock().iter().find(|k| k.0 == key).map(|k| k.1.clone()) {
            return found;
        }
        let plates: Plates = Arc::new(self.layers.iter().map(|h| h.plate(&d, l.half)).collect());
        let mut kept = lock();
        if kept.len() >= KEPT {
            kept.remove(0);
        }
        kept.push((key, plates.clone()));
        plates
    }

    /// Solves levels (the last two are the ambient's) and surface for given columns.
    fn inner(&self, columns: &[&[f64]], start: &[f64; FEATURES], rounds: usize) -> Inner {
        let s = &self.samples;
        let n = s.len();
        let k = columns.len();
        let prior = self.heads.prior();
        let mut surface = *start;
        let mut robust = vec![1.0; n];
        let mut level = vec![0.0; k];
        let mut factor = self.factor(&surface);
        let mut model = vec![0.0; n];
        for round in 0..rounds {
            // column by column, lower half first
            let mut gram = vec![0.0; k * k];
            let mut rhs = DVector::zeros(k);
            let mut row = vec![0.0; k];
            for r in 0..n {
                let w = s.weight[r] * robust[r] * factor[r];
                for (c, column) in columns.iter().enumerate() {
                    row[c] = w * column[r];
                }
                let y = s.weight[r] * robust[r] * s.value[r];
                for a in 0..k {
                    if row[a] == 0.0 {
                        continue;
                    }
                    let at = row[a];
                    rhs[a] += at * y;
                    gram[a * k + a..(a + 1) * k].iter_mut().zip(&row[a..]).for_each(|(g, v)| *g += at * v);
                }
            }
            for a in 0..k {
                for b in 0..a {
                    gram[a * k + b] = gram[b * k + a];
                }
            }
            for (a, sd) in (k - 2..k).zip(prior.room_sd) {
                gram[a * k + a] += ALIKE * (NOISE / sd).powi(2);
            }
            let x = nnls(&DMatrix::from_vec(k, k, gram), &rhs);
            level.copy_from_slice(x.as_slice());
            model.fill(0.0);
            for (c, column) in columns.iter().enumerate().filter(|(c, _)| x[*c] > 0.0) {
                model.iter_mut().zip(column.iter()).for_each(|(m, p)| *m += x[c] * p);
            }
            // the last round solves the levels for the surface as it stands
            if round + 1 < rounds {
                surface = self.surface(&model, &robust);
                factor = self.factor(&surface);
            }
            for r in 0..n {
                let e = (s.value[r] - factor[r] * model[r]) * s.weight[r] / NOISE;
                robust[r] = 1.0 / (1.0 + (e / CAUCHY).powi(2)).sqrt();
            }
        }
        let residual: Vec<f64> = (0..n).map(|r| (s.value[r] - factor[r] * model[r]) * s.weight[r] / NOISE).collect();
        let ridge: f64 = surface.iter().zip(prior.surface_sd).map(|(b, sd)| (b / sd).powi(2)).sum();
        let cost = residual.iter().map(|r| loss(*r)).sum::<f64>() + ridge;
        let model = model.iter().zip(&factor).map(|(m, f)| m * f).collect();
        Inner { level, surface, residual, model, factor, cost }
    }

    /// Levels of given lights on each stand-in, and the light from all around on each sample, by the picture; a light the
    /// picture gives nothing gets its level from what was read elsewhere.
    pub(super) fn levels_for(&self, lobes: &[Lobe], log_level: &[f64], room: Option<f64>) -> (Vec<Vec<f64>>, Vec<f64>) {
        let plates: Vec<Plates> = lobes.iter().map(|l| self.plates(l)).collect();
        let heads = self.layers.len();
        let inner = self.solve(&plates, &Skin::default(), 4);
        let (each, around) = inner.level.split_at(inner.level.len() - 2);
        let mut level: Vec<Vec<f64>> = each.chunks(heads).map(<[f64]>::to_vec).collect();
        let first: f64 = level[0].iter().sum::<f64>().max(1e-6);
        for (own, log) in level.iter_mut().zip(log_level) {
            // within a stop and a half of what was read, or as it was read
            let wanted = first * log.exp();
            let sum: f64 = own.iter().sum();
            let held = sum.clamp(0.35 * wanted, 2.8 * wanted);
            if sum > 0.0 {
                own.iter_mut().for_each(|e| *e *= held / sum);
            } else {
                own.fill(wanted / heads as f64);
            }
        }
        let mut around = [around[0], around[1]];
        if around[0] <= 0.0 {
            // there is always a little
            around[0] = first * room.unwrap_or(-3.5).min(-2.0).exp();
        }
        let n = self.samples.len();
        let room = (0..n).map(|i| around[0] * self.ambient[0][i] + around[1] * self.ambient[1][i]).collect();
        (level, room)
    }

    /// Solves levels and surface for the plates of some lights.
    fn solve(&self, plates: &[Plates], skin: &Skin, rounds: usize) -> Inner {
        let own: Vec<Vec<f64>> = match self.heads {
            Heads::Blended => plates.iter().flat_map(|p| p.iter().map(|c| c.with(skin.gloss))).collect(),
            Heads::OnePerson(_) => {
                let parts = self.parts(skin);
                plates.iter().map(|p| combined(p, &parts, skin.gloss)).collect()
            }
        };
        let mut columns: Vec<&[f64]> = own.iter().map(|c| &c[..]).collect();
        columns.extend(self.ambient.iter().map(|a| &a[..]));
        self.inner(&columns, &skin.colour, rounds)
    }

    /// The light from so many directions, each the middle of a wide part of the sphere, as the samples tell it: facing
    /// irradiance in the picture's unit. What they do not tell is as from all around.
    pub(super) fn spread_out(&self, directions: &[Vec3], half: f64, skin: &Skin) -> Vec<f64> {
        let parts = self.parts(skin);
        let each = directions.iter().map(|d| self.layers.iter().map(|h| h.plate(d, half)).collect::<Vec<_>>());
        let columns: Vec<Vec<f64>> = each
            .map(|plates| match self.heads {
                Heads::Blended => mean_of(&plates.iter().map(|p| p.with(skin.gloss)).collect::<Vec<_>>()),
                Heads::OnePerson(_) => combined(&plates, &parts, skin.gloss),
            })
            .collect();
        let s = &self.samples;
        let factor = self.factor(&skin.colour);
        let (n, k) = (s.len(), columns.len());
        let mut level = vec![0.0; k];
        let mut robust = vec![1.0; n];
        for _ in 0..3 {
            let weight: Vec<f64> = (0..n).map(|r| s.weight[r] * robust[r]).collect();
            let rows = DMatrix::from_fn(n, k, |r, c| weight[r] * factor[r] * columns[c][r]);
            let y = DVector::from_fn(n, |r, _| weight[r] * s.value[r]);
            let even: DVector<f64> = rows.column_sum();
            let all = even.dot(&y) / even.dot(&even).max(1e-12);
            let held = ALIKE * (NOISE / (UNEVEN * all).max(1e-9)).powi(2);
            let gram = rows.tr_mul(&rows) + DMatrix::identity(k, k) * held;
            let found = nnls(&gram, &(rows.tr_mul(&y) + DVector::repeat(k, held * all)));
            level.copy_from_slice(found.as_slice());
            for r in 0..n {
                let model: f64 = factor[r] * columns.iter().zip(&level).map(|(c, e)| c[r] * e).sum::<f64>();
                let e = (s.value[r] - model) * s.weight[r] / NOISE;
                robust[r] = 1.0 / (1.0 + (e / CAUCHY).powi(2)).sqrt();
            }
        }
        level.iter().map(|e| e * s.unit).collect()
    }

    /// How much of each head laid out makes up the person's.
    fn parts(&self, skin: &Skin) -> Vec<f64> {
        let ways = self.layers.len() - 1;
        let off = &skin.shape[..ways.min(WAYS)];
        [1.0 - off.iter().sum::<f64>()].into_iter().chain(off.iter().copied()).collect()
    }

    fn factor(&self, surface: &[f64; FEATURES]) -> Vec<f64> {
        let f = &self.samples.features;
        (0..f.nrows())
            .map(|r| (0..FEATURES).map(|c| f[(r, c)] * surface[c]).sum::<f64>().clamp(-1.5, 1.5).exp())
            .collect()
    }

    /// Ridge regression of the log residual on the features.
    fn surface(&self, model: &[f64], robust: &[f64]) -> [f64; FEATURES] {
        let s = &self.samples;
        let mut a = nalgebra::SMatrix::<f64, FEATURES, FEATURES>::zeros();
        let mut b = nalgebra::SVector::<f64, FEATURES>::zeros();
        for r in 0..s.len() {
            let m = model[r].max(0.02);
            let y = (s.value[r].max(0.005) / m).ln().clamp(-1.5, 1.5);
            let w = (s.weight[r] * robust[r] * s.value[r].min(m) / NOISE).powi(2);
            let f = nalgebra::SVector::<f64, FEATURES>::from_fn(|c, _| s.features[(r, c)]);
            a += f * f.transpose() * w;
            b += f * (w * y);
        }
        for (c, sd) in self.heads.prior().surface_sd.iter().enumerate() {
            a[(c, c)] += 1.0 / (sd * sd);
        }
        a.cholesky().map_or([0.0; FEATURES], |c| c.solve(&b).into())
    }

    /// Peaks of the whole bank, the one that adds most to the picture first, and the surface found.
    pub(super) fn peaks(&self) -> (Vec<(Vec3, f64)>, Skin) {
        let skin = Skin::default();
        let all = fibonacci_sphere(COARSE);
        let mut columns: Vec<(Vec3, Vec<f64>)> = all
            .into_iter()
            .map(|d| {
                (d, mean_of(&self.layers.iter().map(|h| h.plate(&d, COARSE_HALF).with(skin.gloss)).collect::<Vec<_>>()))
            })
            .collect();
        let mean = |c: &[f64]| c.iter().sum::<f64>() / c.len() as f64;
        let most = columns.iter().map(|c| mean(&c.1)).fold(0.0, f64::max);
        columns.retain(|c| mean(&c.1) > 0.06 * most);
        let mut refs: Vec<&[f64]> = columns.iter().map(|c| &c.1[..]).collect();
        refs.extend(self.ambient.iter().map(|a| &a[..]));
        let found = self.inner(&refs, &skin.colour, 4);
        let shares: Vec<(Vec3, f64)> =
            columns.iter().zip(&found.level).map(|((d, c), e)| (*d, e * mean(c))).filter(|p| p.1 > 0.0).collect();
        // Mean shift on the sphere with a bandwidth of 15 degrees.
        let kernel = |a: &Vec3, b: &Vec3| (-(angle_between(a, b) / 0.26).powi(2)).exp();
        let mut peaks: Vec<(Vec3, f64)> = Vec::new();
        for (d, _) in &shares {
            let mut at = *d;
            for _ in 0..30 {
                let next: Vec3 = shares.iter().map(|(o, w)| o * (w * kernel(o, &at))).sum::<Vec3>().normalize();
                let moved = angle_between(&next, &at);
                at = next;
                if moved < 1e-3 {
                    break;
                }
            }
            if !peaks.iter().any(|p| angle_between(&p.0, &at) < 0.15) {
                let share = shares.iter().filter(|(o, _)| angle_between(o, &at) < 0.40).map(|p| p.1).sum();
                peaks.push((at, share));
            }
        }
        peaks.sort_by(|a, b| b.1.total_cmp(&a.1));
        (peaks, Skin { colour: found.surface, ..skin })
    }

    /// Refines several starts side by side.
    pub(super) fn refine_all(&self, starts: Vec<Vec<Lobe>>, skin: &Skin, steps: usize) -> Vec<Lit> {
        std::thread::scope(|scope| {
            let work: Vec<_> = starts.iter().map(|s| scope.spawn(move || self.refine(s, skin, steps))).collect();
            work.into_iter().filter_map(|w| w.join().ok()).collect()
        })
    }

    /// The best of several starts: a few steps each, then the best two to the end.
    pub(super) fn best_of(&self, starts: Vec<Vec<Lobe>>, skin: &Skin) -> Option<Lit> {
        let mut first = self.refine_all(starts, skin, 4);
        first.sort_by(|a, b| a.cost.total_cmp(&b.cost));
        first.truncate(2);
        let best = first.into_iter().map(|l| l.lobes).collect();
        self.refine_all(best, skin, 10).into_iter().min_by(|a, b| a.cost.total_cmp(&b.cost))
    }

    /// Refines lights from a start.
    pub(super) fn refine(&self, start: &[Lobe], skin: &Skin, iterations: usize) -> Lit {
        let frames: Vec<(Vec3, Vec3, Vec3)> = start
            .iter()
            .map(|l| {
                let (u, v) = tangent_frame(&l.direction);
                (l.direction, u, v)
            })
            .collect();
        let lobes = |x: &DVector<f64>| -> Vec<Lobe> {
            frames
                .iter()
                .enumerate()
                .map(|(k, (d, u, v))| Lobe {
                    direction: (d + u * x[3 * k] + v * x[3 * k + 1]).normalize(),
                    half: x[3 * k + 2].exp(),
                })
                .collect()
        };
        let last = 3 * start.len();
        let (ways, far) = match self.heads {
            Heads::Blended => (0, 0.0),
            Heads::OnePerson(far) => ((self.layers.len() - 1).min(WAYS), far),
        };
        let skin_of = |x: &DVector<f64>| {
            let mut own = Skin { gloss: self.heads.gloss(x[last]), ..*skin };
            own.shape[..ways].copy_from_slice(&x.as_slice()[last + 1..]);
            own
        };
        let solve = |x: &DVector<f64>, l: &[Lobe], rounds: usize| {
            let plates: Vec<Plates> = l.iter().map(|l| self.plates(l)).collect();
            self.solve(&plates, &skin_of(x), rounds)
        };
        let residuals = |x: &DVector<f64>| {
            let l = lobes(x);
            let inner = solve(x, &l, 3);
            let mut out: Vec<f64> = inner.residual.iter().map(|r| loss(*r).sqrt().copysign(*r)).collect();
            out.extend(inner.surface.iter().zip(self.heads.prior().surface_sd).map(|(b, sd)| b / sd));
            out.push(self.heads.gloss_off(x[last]));
            // as unsure as the samples are alike
            out.extend((0..ways).map(|k| x[last + 1 + k] * far * ALIKE.sqrt()));
            for (k, l) in l.iter().enumerate() {
                out.push((l.half.ln() - HALF_PRIOR.0) / HALF_PRIOR.1);
                out.push(implausible(&l.direction));
                out.push(self.glows.iter().map(|g| g.pull(&l.direction)).fold(0.0, f64::max) * ALIKE.sqrt());
                let near = self.hints.iter().map(|h| h.distance(&l.direction)).fold(f64::MAX, f64::min);
                // a small iris mirrors the key, and loses what is two stops weaker
                let bound = k == 0 || self.hints.iter().any(|h| h.complete);
                if !self.hints.is_empty() {
                    if !bound {
                        out.push(0.0);
                        continue;
                    }
                    // as sure as the samples are alike, and no surer than an outlier deserves
                    out.push((ALIKE * loss(near)).sqrt());
                }
            }
            DVector::from_vec(out)
        };
        let own = start
            .iter()
            .flat_map(|l| [0.0, 0.0, l.half.ln()])
            .chain([self.heads.unknown(skin.gloss)])
            .chain(skin.shape[..ways].iter().copied());
        let x0 = DVector::from_iterator(last + 1 + ways, own);
        let mut steps: Vec<f64> = (0..last).map(|k| if k % 3 == 2 { 0.08 } else { 0.02 }).collect();
        steps.push(0.3);
        steps.extend(vec![0.1; ways]);
        let clamp = |x: &mut DVector<f64>| {
            x[last] = self.heads.unknown(self.heads.gloss(x[last]).clamp(0.0, GLOSS_MOST));
            (0..ways).for_each(|k| x[last + 1 + k] = x[last + 1 + k].clamp(-FARTHEST, FARTHEST));
            for k in 0..last {
                x[k] = if k % 3 == 2 { x[k].clamp(HALF.0.ln(), HALF.1.ln()) } else { x[k].clamp(-1.2, 1.2) };
            }
        };
        let best = levenberg_marquardt(x0, &steps, iterations, residuals, clamp);
        let l = lobes(&best.x);
        let inner = solve(&best.x, &l, 4);
        let normal = best.jacobian.tr_mul(&best.jacobian) / ALIKE;
        let cov = (normal + DMatrix::identity(best.x.len(), best.x.len()) * 1e-6).try_inverse();
        let scale = (inner.cost / self.samples.len() as f64).max(0.3);
        let spread = (0..l.len())
            .map(|k| [0, 1, 2].map(|i| cov.as_ref().map_or(0.5, |c| (c[(3 * k + i, 3 * k + i)] * scale).abs().sqrt())))
            .collect();
        let (each, ambient) = inner.level.split_at(inner.level.len() - 2);
        let heads = self.layers.len();
        let skin = skin_of(&best.x);
        // of each light, what falls on each head
        let each: Vec<Vec<f64>> = match self.heads {
            Heads::Blended => each.chunks(heads).map(<[f64]>::to_vec).collect(),
            Heads::OnePerson(_) => {
                let parts = self.parts(&skin);
                each.iter().map(|e| parts.iter().map(|p| p * e).collect()).collect()
            }
        };
        let level: Vec<f64> = each.iter().map(|e| e.iter().sum()).collect();
        let n = self.samples.len() as f64;
        let share = l
            .iter()
            .zip(&each)
            .map(|(l, e)| {
                let lit = combined(&self.plates(l), e, skin.gloss);
                lit.iter().zip(&inner.factor).map(|(p, f)| p * f).sum::<f64>() / n
            })
            .collect();
        let blend = (0..heads).map(|h| each.iter().map(|e| e[h]).sum::<f64>()).collect();
        Lit {
            cost: best.cost,
            level: level.iter().map(|e| e * self.samples.unit).collect(),
            ambient: ambient[0] * self.samples.unit,
            below: ambient[1] * self.samples.unit,
            lobes: l,
            share,
            blend,
            spread,
            model: inner.model,
            skin: Skin { colour: inner.surface, ..skin },
        }
    }
}

/// Light on the samples from given parts of what falls on each head.
fn combined(plates: &[Plate], parts: &[f64], gloss: f64) -> Vec<f64> {
    let mut out = vec![0.0; plates.first().map_or(0, |p| p.matte.len())];
    for (p, k) in plates.iter().zip(parts).filter(|(_, k)| **k != 0.0) {
        out.iter_mut().zip(p.matte.iter().zip(&p.shine)).for_each(|(o, (m, s))| *o += k * (m + gloss * s));
    }
    out.iter_mut().for_each(|v| *v = v.max(0.0));
    out
}

fn mean_of(columns: &[Vec<f64>]) -> Vec<f64> {
    let k = 1.0 / columns.len().max(1) as f64;
    let mut out = vec![0.0; columns.first().map_or(0, Vec::len)];
    columns.iter().for_each(|c| out.iter_mut().zip(c).for_each(|(o, v)| *o += v * k));
    out
}

/// Lights from steeply below, straight from behind, or from behind and below are rare and hardly seen
/// by a face: a soft wall against them.
fn implausible(d: &Vec3) -> f64 {
    let below = (-d.y - 0.6).max(0.0) / 0.05;
    let behind = (-d.z - 0.85).max(0.0) / 0.05;
    let low_behind = if d.z < 0.0 { (0.05 - d.y).max(0.0) * (-d.z).min(0.3) / 0.015 } else { 0.0 };
    below.hypot(behind).hypot(low_behind)
}
