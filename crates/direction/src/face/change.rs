//! What changed between two pictures of one face: the ratio of the two, point by point.
//!
//! The surface colour divides out. Under a change of one light the ratio is
//! `log (sum_k E'_k P'_k + E_a A) / (sum_k E_k P_k + E_a A)`, where the plates come from the stand-ins laid over the
//! reference. Each single change (exposure, a level, the room, a light moved, a light's size) is fitted to the measured
//! ratio by itself; the one that leaves least is named, and what it leaves is fitted again.

use super::fit::{ALIKE, Face, Lobe, NOISE, Skin, loss};
use super::plates::mean_rgb;
use super::{Care, FaceProblem, StandIn, lay};
use crate::shapes::Point;
use nalgebra::DVector;
use optics::geometry::{AzEl, Camera, Vec3, angle_between, tangent_frame};
use optics::photo::{Photo, luminance};
use optics::solve::levenberg_marquardt;
use std::collections::BTreeMap;

/// A change counts if it takes away this much of the cost for each of its numbers (Akaike 1974 takes 2).
const PRICE: f64 = 4.0;
/// Changes named at most.
const MOST: usize = 3;

/// A light of the reference as it was read, camera frame.
#[derive(Debug, Clone, Copy)]
pub struct Given {
    /// Unit vector.
    pub direction: Vec3,
    /// Half the angle it fills, radians.
    pub half: f64,
    /// Natural log of its level relative to the first.
    pub log_level: f64,
    /// How far its catchlight was seen to move: the way in the tangent plane, and its spread, radians.
    pub glint: Option<(Vec3, f64)>,
}

impl Given {
    /// Where it comes from.
    pub fn at(&self) -> AzEl {
        AzEl::of(&self.direction)
    }

    fn lobe(&self) -> Lobe {
        Lobe { direction: self.direction, half: self.half }
    }
}

/// What may change.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Change {
    /// Stops of all.
    Exposure,
    /// Stops of one light.
    Level(usize),
    /// Stops of the room.
    Room,
    /// One light goes elsewhere.
    Direction(usize),
    /// One light gets larger.
    Size(usize),
}

/// A change that was found.
#[derive(Debug, Clone, Copy)]
pub struct Told {
    /// What.
    pub change: Change,
    /// Take minus reference: stops; the log of the ratio of sizes; for a direction the angle in radians.
    pub amount: f64,
    /// One standard deviation.
    pub sd: f64,
    /// Where the light is in the take, for a direction.
    pub direction: Option<Vec3>,
    /// What it takes away, in units of one standard deviation.
    pub units: f64,
}

/// The outcome.
#[derive(Debug, Clone)]
pub struct FaceChange {
    /// Changes, the most telling first; empty if nothing is surely different.
    pub told: Vec<Told>,
    /// Changes that were not found, with the standard deviation to which each is known not to be there (for a direction
    /// in radians).
    pub held: Vec<(Change, f64)>,
}

struct Pair<'a> {
    face: Face<'a>,
    lights: Vec<Given>,
    /// per light and stand-in
    level: Vec<Vec<f64>>,
    room: Vec<f64>,
    /// light of each light on each sample, in the reference
    light: Vec<Vec<f64>>,
    before: Vec<f64>,
    ratio: Vec<f64>,
    weight: Vec<f64>,
    frames: Vec<(Vec3, Vec3)>,
}

impl Change {
    fn numbers(self) -> usize {
        1 + usize::from(matches!(self, Change::Direction(_)))
    }
}

impl Pair<'_> {
    /// Light on each sample after changes with their numbers.
    fn after(&self, list: &[Change], x: &[f64]) -> Vec<f64> {
        let ln2 = std::f64::consts::LN_2;
        let n = self.before.len();
        let mut lobes: Vec<Lobe> = self.lights.iter().map(Given::lobe).collect();
        let mut gain = vec![0.0; lobes.len()];
        let mut moved = vec![false; lobes.len()];
        let (mut all, mut room) = (0.0, 0.0);
        let mut at = 0;
        for c in list {
            match *c {
                Change::Exposure => all += x[at],
                Change::Level(k) => gain[k] += x[at],
                Change::Room => room += x[at],
                Change::Direction(k) => {
                    lobes[k].direction = self.turned(k, x[at], x[at + 1]);
                    moved[k] = true;
                }
                Change::Size(k) => {
                    lobes[k].half = (lobes[k].half * x[at].exp()).clamp(0.01, 1.2);
                    moved[k] = true;
                }
            }
            at += c.numbers();
        }
        let mut out: Vec<f64> = self.room.iter().map(|v| v * ((room + all) * ln2).exp()).collect();
        for k in 0..lobes.len() {
            let g = ((gain[k] + all) * ln2).exp();
            let own;
            let column = if moved[k] {
                own = self.column(k, &lobes[k]);
                &own
            } else {
                &self.light[k]
            };
            (0..n).for_each(|i| out[i] += g * column[i]);
        }
        out
    }

    fn column(&self, k: usize, l: &Lobe) -> Vec<f64> {
        let plates = self.face.plates(l);
        let mut out = vec![0.0; self.before.len()];
        for (e, p) in self.level[k].iter().zip(plates.iter()).filter(|(e, _)| **e > 0.0) {
            out.iter_mut().zip(p.with(Skin::default().gloss)).for_each(|(o, v)| *o += e * v);
        }
        out
    }

    fn turned(&self, k: usize, a: f64, b: f64) -> Vec3 {
        let (u, v) = self.frames[k];
        (self.lights[k].direction + u * a + v * b).normalize()
    }

    /// Residuals in standard deviations: the samples', then the catchlights'.
    fn residuals(&self, list: &[Change], x: &[f64]) -> Vec<f64> {
        let after = self.after(list, x);
        let floor = 0.004;
        let mut out: Vec<f64> = (0..after.len())
            .map(|i| {
                let model = ((after[i] + floor) / (self.before[i] + floor)).ln();
                (self.ratio[i] - model) * self.weight[i]
            })
            .collect();
        // one catchlight weighs as much as all samples that are alike
        for (k, l) in self.lights.iter().enumerate() {
            let Some((way, sd)) = l.glint else { continue };
            let mut at = 0;
            let mut went = Vec3::zeros();
            for c in list {
                if *c == Change::Direction(k) {
                    went = self.turned(k, x[at], x[at + 1]) - l.direction;
                }
                at += c.numbers();
            }
            let off = (went - way).norm() / sd;
            out.push((ALIKE * loss(off)).sqrt());
        }
        out
    }

    fn cost(&self, r: &[f64]) -> f64 {
        r.iter().map(|r| loss(*r)).sum::<f64>() / ALIKE
    }

    /// Each change that is not had yet, fitted together with those that are.
    fn one_more(&self, have: &[Change], x: &[f64], all: &[Change]) -> Vec<(Change, Fit)> {
        std::thread::scope(|scope| {
            let work: Vec<_> = all
                .iter()
                .filter(|c| !have.contains(c))
                .map(|c| {
                    scope.spawn(move || {
                        let mut list = have.to_vec();
                        list.push(*c);
                        let mut start = x.to_vec();
                        start.extend(std::iter::repeat_n(0.0, c.numbers()));
                        let mut best = self.fit(&list, &start);
                        // a light that moved may be far from where it was: its catchlight says where to look
                        if let Change::Direction(k) = c
                            && let Some((way, _)) = self.lights[*k].glint
                        {
                            let (u, v) = self.frames[*k];
                            let n = start.len();
                            (start[n - 2], start[n - 1]) = (way.dot(&u), way.dot(&v));
                            let other = self.fit(&list, &start);
                            if other.cost < best.cost {
                                best = other;
                            }
                        }
                        (*c, best)
                    })
                })
                .collect();
            work.into_iter().filter_map(|w| w.join().ok()).collect()
        })
    }

    /// Fits changes from a start.
    fn fit(&self, list: &[Change], start: &[f64]) -> Fit {
        let residuals = |x: &DVector<f64>| {
            let r = self.residuals(list, x.as_slice());
            DVector::from_iterator(r.len(), r.into_iter().map(|r| loss(r).sqrt().copysign(r)))
        };
        let clamp = |x: &mut DVector<f64>| {
            let mut at = 0;
            for c in list {
                match c {
                    Change::Direction(_) => (0..2).for_each(|k| x[at + k] = x[at + k].clamp(-1.2, 1.2)),
                    Change::Size(_) => x[at] = x[at].clamp(-2.3, 2.3),
                    _ => x[at] = x[at].clamp(-5.0, 5.0),
                }
                at += c.numbers();
            }
        };
        let steps = vec![0.03; start.len()];
        let fit = levenberg_marquardt(DVector::from_column_slice(start), &steps, 10, residuals, clamp);
        let cost = self.cost(&self.residuals(list, fit.x.as_slice()));
        let info = fit.jacobian.tr_mul(&fit.jacobian) / ALIKE;
        let cov = info.try_inverse();
        let sd = (0..start.len()).map(|k| cov.as_ref().map_or(1.0, |c| c[(k, k)].abs().sqrt())).collect();
        Fit { x: fit.x.as_slice().to_vec(), cost, sd }
    }
}

/// Changes fitted together.
struct Fit {
    x: Vec<f64>,
    cost: f64,
    sd: Vec<f64>,
}

impl Fit {
    /// Standard deviation of a change whose numbers begin at `at`.
    fn spread(&self, c: Change, at: usize) -> f64 {
        self.sd[at..at + c.numbers()].iter().fold(0.0, |a, b| a.hypot(*b))
    }
}

/// Mean linear luminance of the take about a place.
fn at_take(take: &Photo, p: Point, reach: i64) -> Option<(f64, bool)> {
    let (rgb, cut) = mean_rgb(take, p, reach)?;
    Some((luminance(rgb.map(|v| v as f32)), cut))
}

/// Compares a face in two pictures. `to_take` tells where a pixel of the reference lies in the take; `lights` are those of
/// the reference and `room` is the log of the light from all around, relative to the first.
///
/// # Errors
/// As the reading of a face.
pub fn change(
    reference: &Photo,
    camera: Camera,
    points: &BTreeMap<String, Point>,
    take: &Photo,
    to_take: &dyn Fn(Point) -> Point,
    lights: &[Given],
    room: Option<f64>,
    heads: &[StandIn],
) -> Result<FaceChange, FaceProblem> {
    if heads.is_empty() || lights.is_empty() {
        return Err(FaceProblem::NoHeads);
    }
    let mut face = lay(reference, camera, points, &heads.iter().collect::<Vec<_>>(), &[], 0.0, Care::Full)?;
    // what the take does not show, or clips, says nothing
    let unit = face.samples.unit;
    let seen: Vec<Option<(f64, bool)>> =
        face.samples.at.iter().map(|p| at_take(take, to_take(*p), face.samples.reach)).collect();
    let value = face.samples.value.clone();
    let ratio: Vec<f64> = seen
        .iter()
        .zip(&value)
        .map(|(s, v)| s.map_or(0.0, |(l, _)| ((l / unit).max(0.004) / v.max(0.004)).ln()))
        .collect();
    let weight: Vec<f64> = seen
        .iter()
        .zip(&value)
        .zip(&face.samples.weight)
        .map(|((s, v), w)| match s {
            None | Some((_, true)) => 0.0,
            // the darker of the two decides how well the ratio is known
            Some((l, false)) => w * v.min(l / unit) / NOISE,
        })
        .collect();
    if weight.iter().filter(|w| **w > 0.0).count() < 60 {
        return Err(FaceProblem::Hidden);
    }
    face.samples.weight.iter_mut().zip(&weight).for_each(|(w, own)| {
        if *own == 0.0 {
            *w = 0.0;
        }
    });
    let (level, room_column) = face.levels_for(
        &lights.iter().map(Given::lobe).collect::<Vec<_>>(),
        &lights.iter().map(|l| l.log_level).collect::<Vec<_>>(),
        room,
    );
    let mut pair = Pair {
        frames: lights.iter().map(|l| tangent_frame(&l.direction)).collect(),
        lights: lights.to_vec(),
        level,
        room: room_column,
        light: Vec::new(),
        before: vec![0.0; value.len()],
        ratio,
        weight,
        face,
    };
    pair.light = lights.iter().enumerate().map(|(k, l)| pair.column(k, &l.lobe())).collect();
    pair.before = pair.after(&[], &[]);
    let mut all = vec![Change::Exposure, Change::Room];
    for k in 0..lights.len() {
        all.extend([Change::Level(k), Change::Direction(k), Change::Size(k)]);
    }
    let mut have: Vec<Change> = Vec::new();
    let mut now = Fit { x: Vec::new(), cost: pair.cost(&pair.residuals(&[], &[])), sd: Vec::new() };
    let mut told: Vec<Told> = Vec::new();
    let held = loop {
        let tried = pair.one_more(&have, &now.x, &all);
        let held: Vec<(Change, f64)> = tried.iter().map(|(c, f)| (*c, f.spread(*c, now.x.len()))).collect();
        let worth = |t: &(Change, Fit)| now.cost - t.1.cost - PRICE * t.0.numbers() as f64;
        let best = tried.into_iter().max_by(|a, b| worth(a).total_cmp(&worth(b)));
        let Some((c, fit)) = best.filter(|b| worth(b) > 0.0 && told.len() < MOST) else { break held };
        let units = (now.cost - fit.cost).max(0.0).sqrt();
        have.push(c);
        now = fit;
        told.push(Told { change: c, amount: 0.0, sd: 0.0, direction: None, units });
    };
    // the numbers of all that was found, fitted together
    let mut at = 0;
    for t in &mut told {
        t.sd = now.spread(t.change, at);
        match t.change {
            Change::Direction(k) => {
                let d = pair.turned(k, now.x[at], now.x[at + 1]);
                t.amount = angle_between(&d, &pair.lights[k].direction);
                t.sd = t.sd.max(0.02);
                t.direction = Some(d);
            }
            _ => {
                t.amount = now.x[at];
                t.sd = t.sd.max(0.03);
            }
        }
        at += t.change.numbers();
    }
    Ok(FaceChange { told, held })
}
