//! The mix of plates that meets a target: non-negative least squares in linear light (Lawson & Hanson 1974, chapter 23).

use crate::light::Light;
use nalgebra::{DMatrix, DVector};
use optics::solve::nnls;
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A remark on a mix.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct MixWarning {
    /// Stable name.
    pub code: String,
    /// In a sentence.
    pub text: String,
}

/// What each plate is worth in a target.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Mix {
    /// Factor on the linear light of each plate, in their order; 0 is off.
    pub weights: Vec<f64>,
    /// The same in stops; absent where it is off.
    pub stops: Vec<Option<f64>>,
    /// One standard deviation of each weight, stops; absent where it is off.
    pub sd_stops: Vec<Option<f64>>,
    /// Root mean square of what is left over, linear light of which 1 is diffuse white.
    pub residual_rms: f64,
    /// The same over the root mean square of the target.
    pub residual_share: f64,
    /// What to know of it.
    pub warnings: Vec<MixWarning>,
}

/// A block's light is not known better than this share of it, nor than this in linear light: noise, and curves that are nearly right.
const SHARE_SD: f64 = 0.01;
const LEAST_SD: f64 = 2e-4;
/// Residuals beyond this many standard deviations count as at that (Huber 1964).
const HUBER: f64 = 2.0;
/// Rounds of weighing anew.
const ROUNDS: usize = 6;
/// Part of what is left over that may be a plate's own light, and least spread of a factor, stops.
const LEFT_PART: f64 = 0.02;
const LEAST_STOPS: f64 = 0.0005;
/// A weight under this share of the largest contribution is off.
const OFF: f64 = 2e-3;
/// Correlation from which two plates cannot be told apart.
const TWINS: f64 = 0.9995;
/// Share of the target left over from which the plates do not explain it.
const UNEXPLAINED: f64 = 0.03;
/// Light in the darkest corner of all plates from which a dark frame is missed, linear.
const FLOOR: f64 = 0.003;

fn warning(code: &str, text: String) -> MixWarning {
    MixWarning { code: code.into(), text }
}

/// Sums of products over blocks and channels.
struct Normal {
    gram: DMatrix<f64>,
    rhs: DVector<f64>,
}

/// Values of every plate less the dark, block by block and channel by channel, and the target's; blocks that are clipped anywhere left
/// out.
struct Table {
    /// Plates' values of a row one after another.
    rows: Vec<f32>,
    target: Vec<f32>,
    /// Coding noise of the target and of the plates, squared.
    noise: Vec<f32>,
    plate_noise: Vec<f32>,
    n: usize,
}

fn table(target: &Light, plates: &[&Light], dark: Option<&Light>) -> Table {
    let n = plates.len();
    let mut out = Table { rows: Vec::new(), target: Vec::new(), noise: Vec::new(), plate_noise: Vec::new(), n };
    for i in 0..target.len() {
        if target.clipped[i] || plates.iter().any(|p| p.clipped[i]) {
            continue;
        }
        let floor = dark.map_or([0.0; 3], |d| d.rgb[i]);
        for (k, floor) in floor.into_iter().enumerate() {
            out.rows.extend(plates.iter().map(|p| p.rgb[i][k] - floor));
            out.target.push(target.rgb[i][k] - floor);
            out.noise.push(target.coding_sd[i].powi(2));
            out.plate_noise.push(plates.iter().map(|p| p.coding_sd[i].powi(2)).fold(0.0, f32::max));
        }
    }
    out
}

impl Table {
    fn len(&self) -> usize {
        self.target.len()
    }

    fn row(&self, i: usize) -> &[f32] {
        &self.rows[i * self.n..(i + 1) * self.n]
    }

    fn predicted(&self, i: usize, x: &DVector<f64>) -> f64 {
        self.row(i).iter().zip(x.iter()).map(|(p, w)| f64::from(*p) * w).sum()
    }

    /// Weighted normal equations; `weight` of each row.
    fn normal(&self, weight: impl Fn(usize) -> f64 + Sync) -> Normal {
        const ROWS: usize = 8192;
        let n = self.n;
        let chunks: Vec<usize> = (0..self.len()).step_by(ROWS).collect();
        let add = |start: &usize| {
            let mut g = vec![0.0f64; n * n];
            let mut b = vec![0.0f64; n];
            for i in *start..(*start + ROWS).min(self.len()) {
                let (row, w) = (self.row(i), weight(i));
                let y = f64::from(self.target[i]) * w;
                for a in 0..n {
                    let pa = f64::from(row[a]);
                    b[a] += pa * y;
                    let pw = pa * w;
                    for c in a..n {
                        g[a * n + c] += pw * f64::from(row[c]);
                    }
                }
            }
            (g, b)
        };
        let sum = |(mut g, mut b): (Vec<f64>, Vec<f64>), (h, d): (Vec<f64>, Vec<f64>)| {
            g.iter_mut().zip(h).for_each(|(x, y)| *x += y);
            b.iter_mut().zip(d).for_each(|(x, y)| *x += y);
            (g, b)
        };
        let (g, b) = chunks.par_iter().map(add).reduce(|| (vec![0.0; n * n], vec![0.0; n]), sum);
        let gram = DMatrix::from_fn(n, n, |r, c| if c >= r { g[r * n + c] } else { g[c * n + r] });
        Normal { gram, rhs: DVector::from_vec(b) }
    }
}

fn sizes(target: &Light, plates: &[&Light], dark: Option<&Light>) -> Result<(), String> {
    if plates.is_empty() {
        return Err("no plate is given".into());
    }
    let size = (target.width, target.height, target.cell);
    let other = plates.iter().copied().chain(dark).position(|p| (p.width, p.height, p.cell) != size);
    other.map_or(Ok(()), |k| Err(format!("picture {} is not as large as the target", k + 1)))
}

/// Pairs of plates that cannot be told apart.
pub fn twins(plates: &[&Light], dark: Option<&Light>) -> Vec<(usize, usize)> {
    let mut out = Vec::new();
    let value = |p: &Light, i: usize| f64::from(p.luminance(i)) - dark.map_or(0.0, |d| f64::from(d.luminance(i)));
    for a in 0..plates.len() {
        for b in a + 1..plates.len() {
            let (mut ab, mut aa, mut bb) = (0.0, 0.0, 0.0);
            for i in (0..plates[a].len()).step_by(7) {
                let (x, y) = (value(plates[a], i), value(plates[b], i));
                ab += x * y;
                aa += x * x;
                bb += y * y;
            }
            if aa > 0.0 && bb > 0.0 && ab / (aa * bb).sqrt() > TWINS {
                out.push((a, b));
            }
        }
    }
    out
}

/// A place whose light is wanted at a level.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PatchWanted {
    /// Its middle, shares of the picture's width and height.
    #[schema(value_type = optics::geometry::Pair)]
    pub at: [f64; 2],
    /// Its radius, share of the picture's longer side.
    pub radius: f64,
    /// Stops from middle grey that it is wanted at.
    pub stops: f64,
}

/// What a mix for places gives at each.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PatchesMet {
    /// Factor on each plate.
    pub weights: Vec<f64>,
    /// The same in stops; absent where it is off.
    pub stops: Vec<Option<f64>>,
    /// Stops from middle grey that each place then has.
    pub reached: Vec<f64>,
    /// What cannot be met, in sentences.
    pub says: Vec<String>,
}

/// A place that is met within this is met, stops; and pull of each factor towards what it was, against a place's.
const MET_STOPS: f64 = 0.1;
const PULL: f64 = 0.02;
const MIDDLE_GREY: f64 = 0.18;

/// Solves for factors that bring places to levels and otherwise stay near `now` (a ridge towards it: Tikhonov).
///
/// # Errors
/// A sentence that names what is wrong with a place.
pub fn solve_patches(
    plates: &[&Light],
    dark: Option<&Light>,
    wanted: &[PatchWanted],
    now: &[f64],
) -> Result<PatchesMet, String> {
    let first = plates.first().ok_or("no plate is there")?;
    if wanted.is_empty() || wanted.len() > 24 {
        return Err(format!("patches: expected 1 to 24 places, found {}", wanted.len()));
    }
    let (w, h) = (first.width as f64, first.height as f64);
    let mean = |l: &Light, p: &PatchWanted| {
        let r = (p.radius * w.max(h)).max(0.7);
        let (cx, cy) = (p.at[0] * w - 0.5, p.at[1] * h - 0.5);
        let (mut sum, mut n) = (0.0, 0.0);
        for y in ((cy - r).floor().max(0.0) as usize)..((cy + r).ceil().max(0.0) as usize + 1).min(l.height) {
            for x in ((cx - r).floor().max(0.0) as usize)..((cx + r).ceil().max(0.0) as usize + 1).min(l.width) {
                if (x as f64 - cx).hypot(y as f64 - cy) <= r {
                    sum += f64::from(l.luminance(y * l.width + x));
                    n += 1.0;
                }
            }
        }
        (n > 0.0).then(|| sum / n)
    };
    let n = plates.len();
    let (mut gram, mut rhs) = (DMatrix::<f64>::zeros(n, n), DVector::<f64>::zeros(n));
    let mut rows = Vec::new();
    for (k, p) in wanted.iter().enumerate() {
        let inside = |v: f64| v.is_finite() && (0.0..=1.0).contains(&v);
        if !(inside(p.at[0]) && inside(p.at[1]) && p.radius > 0.0 && p.radius < 0.5 && p.stops.abs() <= 12.0) {
            return Err(format!(
                "patches[{k}]: expected a place within the picture, a radius under half of it and at most 12 stops"
            ));
        }
        let outside = || format!("patches[{k}]: it lies outside the picture");
        let floor = dark.map_or(Some(0.0), |d| mean(d, p)).ok_or_else(outside)?;
        let row: Vec<f64> = plates
            .iter()
            .map(|l| mean(l, p).map(|v| (v - floor).max(0.0)).ok_or_else(outside))
            .collect::<Result<_, _>>()?;
        let level = MIDDLE_GREY * p.stops.exp2();
        let want = (level - floor).max(0.0);
        // in parts of what is wanted: a dark place counts as much as a bright one
        for a in 0..n {
            rhs[a] += row[a] * want / level.powi(2);
            for b in 0..n {
                gram[(a, b)] += row[a] * row[b] / level.powi(2);
            }
        }
        rows.push((row, floor));
    }
    for k in 0..n {
        let pull = PULL * gram[(k, k)].max(1e-9);
        gram[(k, k)] += pull;
        rhs[k] += pull * now.get(k).copied().unwrap_or(1.0);
    }
    let x = nnls(&gram, &rhs);
    let reached: Vec<f64> = rows
        .iter()
        .map(|(row, floor)| {
            let v = floor + row.iter().zip(x.iter()).map(|(r, w)| r * w).sum::<f64>();
            (v.max(1e-6) / MIDDLE_GREY).log2()
        })
        .collect();
    let mut says = Vec::new();
    for (k, (p, got)) in wanted.iter().zip(&reached).enumerate() {
        if (got - p.stops).abs() > MET_STOPS {
            let side = if *got > p.stops { "too bright" } else { "too dark" };
            says.push(format!(
                "Place {} comes to {got:+.1} stops from middle grey, {:.1} stops {side}: no mix of these plates gives all that is wanted.",
                k + 1,
                (got - p.stops).abs()
            ));
        }
    }
    Ok(PatchesMet {
        weights: x.iter().copied().collect(),
        stops: x.iter().map(|w| (*w > 1e-4).then(|| w.log2())).collect(),
        reached,
        says,
    })
}

/// Linear light of a mix, block by block; 1 is diffuse white.
pub fn mixed(plates: &[&Light], dark: Option<&Light>, factors: &[[f64; 3]]) -> Vec<[f32; 3]> {
    let n = plates.first().map_or(0, |p| p.len());
    (0..n)
        .into_par_iter()
        .map(|i| {
            let floor = dark.map_or([0.0; 3], |d| d.rgb[i]);
            let mut sum = floor;
            for (p, f) in plates.iter().zip(factors) {
                (0..3).for_each(|k| sum[k] += (p.rgb[i][k] - floor[k]).max(0.0) * f[k] as f32);
            }
            sum
        })
        .collect()
}

/// Solves for the factors with which plates add up to a target.
///
/// # Errors
/// A sentence if there is no plate, sizes differ, or nothing is left that is not clipped.
pub fn solve(target: &Light, plates: &[&Light], dark: Option<&Light>) -> Result<Mix, String> {
    sizes(target, plates, dark)?;
    let coarse: Vec<Light> = plates.iter().map(|p| p.for_sums()).collect();
    let (target, plates) = (&target.for_sums(), &coarse.iter().collect::<Vec<_>>()[..]);
    let dark = dark.map(Light::for_sums);
    let dark = dark.as_ref();
    let t = table(target, plates, dark);
    if t.len() < 3 * plates.len().max(8) {
        return Err("hardly anything in the pictures is free of clipping: nothing can be solved for".into());
    }
    let n = plates.len();
    let mut x = {
        let plain = t.normal(|_| 1.0);
        nnls(&plain.gram, &plain.rhs)
    };
    let mut normal = None;
    for _ in 0..ROUNDS {
        let most: f64 = x.iter().map(|w| w * w).sum();
        let weight = |i: usize| {
            let y = t.predicted(i, &x);
            let var = f64::from(t.noise[i])
                + most * f64::from(t.plate_noise[i])
                + (SHARE_SD * y).powi(2)
                + LEAST_SD * LEAST_SD;
            let off = (f64::from(t.target[i]) - y).abs() / var.sqrt();
            (if off > HUBER { HUBER / off } else { 1.0 }) / var
        };
        let next = t.normal(weight);
        let new = nnls(&next.gram, &next.rhs);
        let moved = (&new - &x).amax() / new.amax().max(1e-12);
        x = new;
        normal = Some(next);
        if moved < 1e-5 {
            break;
        }
    }
    let gram = normal.map_or_else(|| DMatrix::identity(n, n), |m| m.gram);
    // what a plate adds to the target, against the most
    let size: Vec<f64> = (0..n).map(|k| plates[k].mean().max(1e-9)).collect();
    let most = (0..n).map(|k| x[k] * size[k]).fold(0.0, f64::max);
    let on: Vec<bool> = (0..n).map(|k| x[k] * size[k] > OFF * most && x[k] > 0.0).collect();
    x.iter_mut().zip(&on).for_each(|(v, on)| *v = if *on { *v } else { 0.0 });
    let (mut left, mut all) = (0.0, 0.0);
    for i in 0..t.len() {
        left += (f64::from(t.target[i]) - t.predicted(i, &x)).powi(2);
        all += f64::from(t.target[i]).powi(2);
    }
    let residual_rms = (left / t.len() as f64).sqrt();
    let residual_share = (left / all.max(1e-30)).sqrt();
    let mut sd = spread(&gram, &x, &on, &t);
    // what is left over is not all noise: a part of it may be a plate's
    let together: f64 = (0..n).map(|k| x[k] * size[k]).sum();
    for (k, sd) in sd.iter_mut().enumerate() {
        let share = (x[k] * size[k] / together.max(1e-12)).max(1e-3);
        *sd = sd.map(|v| v.hypot(LEFT_PART * residual_share / share).hypot(LEAST_STOPS));
    }
    let mut mix = Mix {
        weights: x.iter().copied().collect(),
        stops: x.iter().map(|w| (*w > 0.0).then(|| w.log2())).collect(),
        sd_stops: sd,
        residual_rms,
        residual_share,
        warnings: Vec::new(),
    };
    mix.warnings = warnings(&mix, target, plates, dark, &t, &x);
    Ok(mix)
}

/// Standard deviation of each weight that is on, in stops: the covariance of weighted least squares, its noise as large as what is left
/// over says. Neighbouring blocks err together: every fourth counts.
fn spread(gram: &DMatrix<f64>, x: &DVector<f64>, on: &[bool], t: &Table) -> Vec<Option<f64>> {
    let set: Vec<usize> = (0..on.len()).filter(|k| on[*k]).collect();
    let sub = DMatrix::from_fn(set.len(), set.len(), |r, c| gram[(set[r], set[c])]);
    let most: f64 = x.iter().map(|w| w * w).sum();
    let mut chi = 0.0;
    for i in 0..t.len() {
        let y = t.predicted(i, x);
        let var =
            f64::from(t.noise[i]) + most * f64::from(t.plate_noise[i]) + (SHARE_SD * y).powi(2) + LEAST_SD * LEAST_SD;
        chi += ((f64::from(t.target[i]) - y).powi(2) / var).min(9.0);
    }
    let scale = 4.0 * (chi / t.len() as f64).max(1e-4);
    let inverse = sub.try_inverse();
    let mut out = vec![None; on.len()];
    for (r, k) in set.iter().enumerate() {
        let var = inverse.as_ref().map_or(f64::INFINITY, |m| m[(r, r)] * scale);
        out[*k] = Some((var.max(0.0).sqrt() / x[*k] / std::f64::consts::LN_2).clamp(1e-4, 9.0));
    }
    out
}

fn warnings(
    mix: &Mix,
    target: &Light,
    plates: &[&Light],
    dark: Option<&Light>,
    t: &Table,
    x: &DVector<f64>,
) -> Vec<MixWarning> {
    let mut out = Vec::new();
    for (a, b) in twins(plates, dark) {
        out.push(warning(
            "plates_alike",
            format!(
                "Plates {} and {} show the same light: only their sum can be told, not how it is shared.",
                a + 1,
                b + 1
            ),
        ));
    }
    let share = |clipped: &[bool]| clipped.iter().filter(|c| **c).count() as f64 / clipped.len().max(1) as f64;
    for (name, light) in std::iter::once(("the target".to_owned(), target))
        .chain(plates.iter().enumerate().map(|(k, p)| (format!("plate {}", k + 1), *p)))
    {
        let clipped = share(&light.clipped);
        if clipped > 0.001 {
            out.push(warning("clipped", format!("{:.1} % of {name} is clipped and left out.", 100.0 * clipped)));
        }
    }
    if dark.is_none() && plates.len() > 1 {
        let mut least: Vec<f32> = (0..target.len())
            .step_by(5)
            .map(|i| plates.iter().map(|p| p.luminance(i)).fold(f32::MAX, f32::min))
            .collect();
        let middle = least.len() / 2;
        let floor = f64::from(*least.select_nth_unstable_by(middle, f32::total_cmp).1);
        if floor > FLOOR {
            out.push(warning(
                "dark_missing",
                format!(
                    "No dark frame, and half of the picture is never under {:.1} % of white in any plate: light of the room would be \
                     counted once for each plate. Take one with all lamps off.",
                    100.0 * floor
                ),
            ));
        }
    }
    if mix.residual_share > UNEXPLAINED {
        // the same sign all over is light that no plate has; both signs side by side is something that moved
        let (mut plus, mut minus) = (0.0, 0.0);
        for i in 0..t.len() {
            let d = f64::from(t.target[i]) - t.predicted(i, x);
            if d > 0.0 { plus += d } else { minus -= d }
        }
        let text = if plus > 4.0 * minus {
            "the target has light that no plate has: another lamp, or the room"
        } else {
            "something moved between the pictures, the camera chose its exposure itself, or the tone curve is not the one taken"
        };
        out.push(warning(
            "unexplained",
            format!("{:.1} % of the target is left over: {text}.", 100.0 * mix.residual_share),
        ));
    }
    out
}
