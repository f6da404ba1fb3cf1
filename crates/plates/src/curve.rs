//! The tone curve of a camera from the sum of its plates: light adds up, codes do not.
//!
//! For the right curve the picture with all lights on is the sum of the plates over the dark frame, tone by tone (radiometric
//! calibration by superposition; the idea is Debevec and Malik's of 1997 with lamps in the place of exposures). A power above one makes
//! every sum too small and one below it too large (Minkowski), so that one fits. The curve is sought as a power and a contrast at middle
//! grey on top of the taken one; then it is bent tone by tone, smoothly, by linear least squares: sums are linear in a curve's values.

use crate::light::{Light, plain_sum};
use nalgebra::{DMatrix, DVector};
use optics::tone::{Encoding, MIDDLE_GREY, ToneFamily, linear_to_srgb, srgb_to_linear};
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A curve under which the sum comes out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SumCurve {
    /// Contrast of the camera at middle grey: stops of its picture, read as it was taken, over stops of the scene.
    pub contrast: f64,
    /// One standard deviation of that, from every fourth place of the picture, and what the kinds of curve leave open.
    pub contrast_sd: f64,
    /// Root mean square of all-on less the sum over that of all-on, under it.
    pub left_over: f64,
    /// Pairs of codes and light, both 0 to 1, white at 1.
    #[schema(value_type = Encoding)]
    pub encoding: Encoding,
}

/// Powers and contrasts that are tried first, and how far the grid is made finer.
const POWERS: [f64; 2] = [0.55, 1.75];
const CONTRASTS: [f64; 2] = [0.65, 1.75];
const STEPS: usize = 12;
const FINER: usize = 4;
/// Blocks along a side on which the curve is fitted.
const FIT_SIDE: usize = 100;
/// Places looked at, at most.
const PLACES: usize = 6000;
/// Darkest light that tells, and what is added to a place's light before its difference is taken as a share of it.
const DARKEST: f32 = 0.003;
const FLOOR: f64 = 0.03;
/// Steps of the table of a curve, over square roots of light.
const TABLE: usize = 1024;
/// Part of a contrast that the kinds of curve leave open.
const OWN: f64 = 0.02;
/// Points of the curve that is handed over.
const POINTS: usize = 129;

/// Places along the codes at which the curve is bent, and how much it costs to bend it sharply, against what it brings.
const KNOTS: usize = 13;
const STIFF: f64 = 3e-4;

/// What a curve is bent from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Base {
    Srgb,
    Power,
}

/// A candidate: light from taken light.
#[derive(Clone)]
struct Candidate(Vec<f32>);

/// Power of the codes that runs through middle grey as sRGB does, for cameras whose curve has no straight part in the dark.
const PLAIN_POWER: f64 = 2.28;

/// Light of a taken light `v` under a power and a contrast at middle grey, on top of sRGB's curve or of a plain power of the codes.
fn bent(base: Base, power: f64, contrast: f64, v: f64) -> f64 {
    let stops = match base {
        Base::Srgb => (v.max(1e-6) / MIDDLE_GREY).log2(),
        Base::Power => PLAIN_POWER * (linear_to_srgb(v.max(1e-6)) / linear_to_srgb(MIDDLE_GREY)).log2(),
    };
    MIDDLE_GREY * ToneFamily::SCurve(contrast).scene_stops(power * stops).exp2()
}

impl Candidate {
    fn new(base: Base, power: f64, contrast: f64) -> Candidate {
        let at = |k: usize| if k == 0 { 0.0 } else { bent(base, power, contrast, (k as f64 / TABLE as f64).powi(2)) };
        Candidate((0..=TABLE).map(|k| at(k) as f32).collect())
    }

    /// The same, times one and a bend at each of its codes.
    fn times(&self, bend: &DVector<f64>) -> Candidate {
        let at = |(k, l): (usize, &f32)| {
            let [(i, a), (j, b)] = knots((k as f64 / TABLE as f64).powi(2));
            *l * (1.0 + a * bend[i] + b * bend[j]) as f32
        };
        Candidate(self.0.iter().enumerate().map(at).collect())
    }

    /// A picture under it, in blocks as sums are formed of.
    fn under(&self, light: &Light) -> Light {
        let of = |v: f32| self.of(v / light.gain) as f32 * light.gain;
        Light { rgb: light.rgb.iter().map(|c| c.map(of)).collect(), ..light.clone() }.for_sums()
    }

    fn rises(&self) -> bool {
        self.0.windows(2).all(|w| w[1] >= w[0])
    }

    /// Taken stops over its own at middle grey.
    fn contrast(&self) -> f64 {
        let step = 2f64.powf(1.0 / 3.0);
        let at = |v: f64| self.of(v as f32).log2();
        (2.0 / 3.0) / (at(MIDDLE_GREY * step) - at(MIDDLE_GREY / step))
    }

    fn of(&self, v: f32) -> f64 {
        let t = v.clamp(0.0, 1.0).sqrt() * TABLE as f32;
        let k = (t as usize).min(TABLE - 1);
        f64::from(self.0[k] + (self.0[k + 1] - self.0[k]) * (t - k as f32))
    }
}

/// What is compared: the picture with all lights on, the plates and the dark frame at one place and channel, as they were taken, each
/// with the factor that brings it to one exposure.
#[derive(Clone)]
struct Place {
    all: Taken,
    dark: Taken,
    plates: Vec<Taken>,
}

/// Light as it was taken, and a factor on it.
#[derive(Clone, Copy)]
struct Taken {
    light: f32,
    gain: f32,
}

impl Taken {
    fn of(l: &Light, block: usize, channel: usize) -> Taken {
        Taken { light: l.rgb[block][channel] / l.gain, gain: l.gain }
    }

    fn under(&self, c: &Candidate) -> f64 {
        c.of(self.light) * f64::from(self.gain)
    }
}

/// Difference from the sum over all places, as a share of each place's light: root mean square.
fn misses(places: &[Place], c: &Candidate) -> f64 {
    let sum: f64 = places
        .iter()
        .map(|p| {
            let floor = p.dark.under(c);
            let all = p.all.under(c) - floor;
            let sum: f64 = p.plates.iter().map(|v| v.under(c) - floor).sum();
            ((all - sum) / (all.max(0.0) + FLOOR)).powi(2)
        })
        .sum();
    (sum / places.len() as f64).sqrt()
}

/// Power and contrast that miss least.
fn best(places: &[Place], base: Base) -> (Candidate, f64) {
    let mut middle = [POWERS, CONTRASTS].map(|r| f64::midpoint(r[0], r[1]));
    let mut reach = [POWERS, CONTRASTS].map(|r| (r[1] - r[0]) / 2.0);
    for round in 0..=FINER {
        let steps = if round == 0 { STEPS } else { 4 };
        let at = |k: usize, i: usize| middle[k] + reach[k] * (2.0 * i as f64 / steps as f64 - 1.0);
        let tried = (0..(steps + 1) * (steps + 1)).into_par_iter().map(|i| {
            let [p, c] = [at(0, i % (steps + 1)), at(1, i / (steps + 1))];
            ([p, c], misses(places, &Candidate::new(base, p, c)))
        });
        let Some((found, _)) = tried.min_by(|a, b| a.1.total_cmp(&b.1)) else { break };
        middle = found;
        reach = reach.map(|r| r * if round == 0 { 2.0 / STEPS as f64 } else { 0.5 });
    }
    let c = Candidate::new(base, middle[0], middle[1]);
    let off = misses(places, &c);
    (c, off)
}

/// The two knots about a taken light's code, with their shares.
fn knots(v: f64) -> [(usize, f64); 2] {
    let t = linear_to_srgb(v.clamp(0.0, 1.0)).clamp(0.0, 1.0) * (KNOTS as f64 - 1.0);
    let k = (t as usize).min(KNOTS - 2);
    [(k, 1.0 - (t - k as f64)), (k + 1, t - k as f64)]
}

/// How a candidate is bent so that sums come out: factors less one at the knots. Middle grey stays where it is.
fn bend(places: &[Place], c: &Candidate, stiff: f64) -> Option<DVector<f64>> {
    let mut normal = DMatrix::<f64>::zeros(KNOTS, KNOTS);
    let mut right = DVector::<f64>::zeros(KNOTS);
    let mut row = [0.0f64; KNOTS];
    for p in places {
        row.fill(0.0);
        let mut miss = 0.0;
        let mut add = |v: Taken, times: f64| {
            let light = times * v.under(c);
            miss += light;
            knots(f64::from(v.light)).iter().for_each(|(k, share)| row[*k] += light * share);
        };
        add(p.all, 1.0);
        p.plates.iter().for_each(|v| add(*v, -1.0));
        add(p.dark, p.plates.len() as f64 - 1.0);
        let weight = 1.0 / ((p.all.under(c) - p.dark.under(c)).max(0.0) + FLOOR).powi(2);
        for i in 0..KNOTS {
            right[i] -= weight * row[i] * miss;
            (0..KNOTS).for_each(|j| normal[(i, j)] += weight * row[i] * row[j]);
        }
    }
    let scale = places.len() as f64;
    for k in 1..KNOTS - 1 {
        for (a, x) in [(k - 1, 1.0), (k, -2.0), (k + 1, 1.0)] {
            for (b, y) in [(k - 1, 1.0), (k, -2.0), (k + 1, 1.0)] {
                normal[(a, b)] += stiff * scale * x * y;
            }
        }
    }
    // a factor on all of it is none
    for (k, share) in knots(MIDDLE_GREY) {
        normal[(k, k)] += scale * share;
    }
    normal.cholesky().map(|c| c.solve(&right))
}

/// The curve under which places add up best, bent from one kind.
fn fitted(places: &[Place], base: Base) -> Candidate {
    let plain = best(places, base).0;
    let bent = [1.0, 10.0, 100.0].iter().find_map(|k| {
        let c = plain.times(&bend(places, &plain, k * STIFF)?);
        (c.rises() && misses(places, &c) < misses(places, &plain)).then_some(c)
    });
    bent.unwrap_or(plain)
}

/// The curve under which plates add up best; `None` where too little of the picture is lit by two of them.
pub fn curve_of_sum(all: &Light, plates: &[&Light], dark: Option<&Light>) -> Option<SumCurve> {
    if plates.len() < 2 {
        return None;
    }
    // blocks: the noise of single pixels bends curves (errors in variables: Fuller 1987), large blocks hide what is bent in them
    let coarse = |l: &Light| l.coarser(l.width.max(l.height).div_ceil(FIT_SIDE));
    let coarser: Vec<Light> = plates.iter().map(|p| coarse(p)).collect();
    let (fine, all) = (all, &coarse(all));
    let (whole, dark) = (dark, dark.map(coarse));
    let (fine_plates, plates) = (plates, &coarser.iter().collect::<Vec<_>>()[..]);
    let dark = dark.as_ref();
    let tells = |i: usize| !all.clipped[i] && !plates.iter().any(|p| p.clipped[i]) && all.luminance(i) > DARKEST;
    let lit: Vec<usize> = (0..all.len()).filter(|i| tells(*i)).collect();
    let stride = lit.len().div_ceil(PLACES).max(1);
    let places: Vec<Place> = lit
        .iter()
        .step_by(stride)
        .flat_map(|&i| {
            (0..3).map(move |c| Place {
                all: Taken::of(all, i, c),
                dark: dark.map_or(Taken { light: 0.0, gain: 1.0 }, |d| Taken::of(d, i, c)),
                plates: plates.iter().map(|p| Taken::of(p, i, c)).collect(),
            })
        })
        .collect();
    // where one lamp does it all every curve adds up
    let shared = |p: &&Place| {
        let over = |v: &Taken| v.light * v.gain - p.dark.light * p.dark.gain;
        p.plates.iter().map(over).fold(0.0f32, f32::max) < 0.9 * over(&p.all)
    };
    if places.iter().filter(shared).count() < 300 {
        return None;
    }
    let off = |base: Base| best(&places, base).1;
    let base = if off(Base::Power) < off(Base::Srgb) { Base::Power } else { Base::Srgb };
    let c = fitted(&places, base);
    let quarters: Vec<f64> = (0..4)
        .map(|q| {
            let part: Vec<Place> =
                places.iter().enumerate().filter(|(k, _)| k / 3 % 4 == q).map(|(_, p)| p.clone()).collect();
            fitted(&part, base).contrast()
        })
        .collect();
    let mean = quarters.iter().sum::<f64>() / 4.0;
    let sd = (quarters.iter().map(|s| (s - mean).powi(2)).sum::<f64>() / 3.0 / 4.0).sqrt();
    let white = c.of(1.0);
    let bent: Vec<Light> = fine_plates.iter().map(|p| c.under(p)).collect();
    let curve = (0..POINTS).map(|k| k as f64 / (POINTS as f64 - 1.0)).map(|code| {
        let light = if code == 0.0 { 0.0 } else { c.of(srgb_to_linear(code) as f32) / white };
        [code, light]
    });
    Some(SumCurve {
        contrast: c.contrast(),
        contrast_sd: sd.hypot(OWN * c.contrast()),
        left_over: plain_sum(&c.under(fine), &bent.iter().collect::<Vec<_>>(), whole.map(|d| c.under(d)).as_ref()).0,
        encoding: Encoding::Curve(curve.collect()),
    })
}
