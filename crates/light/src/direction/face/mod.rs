//! A face: landmarks give its pose, the light bank of several stand-in heads its lights.
//!
//! | file | holds |
//! |---|---|
//! | `stand_in.rs` | heads to read with, brought by the caller |
//! | `pose.rs` | turn, stretch and place of a head from landmarks |
//! | `plates.rs` | samples of skin, and what each light would do to them |
//! | `fit.rs` | lights and surface colour solved together |
//! | `change.rs` | what changed between two pictures of one face |
//!
//! No stand-in is the face in the picture: all are laid over it and blended.

mod change;
mod fit;
mod plates;
mod pose;
mod stand_in;

pub use change::{Change, FaceChange, Given, Told, change};
pub use fit::Hint;
pub use pose::{Pose, PoseProblem};
pub use stand_in::{BANK, LANDMARKS, SkinPoint, StandIn, WORDS, bank};

use super::Seen;
use crate::geometry::{AzEl, Camera, Vec3, angle_between};
use crate::marks::Point;
use crate::photo::Photo;
use fit::{ALIKE, Face, Lit, Lobe};
use plates::{Layer, SAMPLES, Samples};
use std::collections::BTreeMap;

/// What a face says.
#[derive(Debug, Clone)]
pub struct FaceReading {
    /// Lights, strongest first.
    pub lights: Vec<Seen>,
    /// Natural log of the ambient irradiance in the unit of the levels, with its spread.
    pub log_ambient: Option<(f64, f64)>,
    /// Degrees turned to image right, nodded up, tilted clockwise.
    pub pose_deg: [f64; 3],
    /// Spread of the turn, degrees.
    pub turn_sd_deg: f64,
    /// Root mean square residual over the light that nine tenths of the samples stay under.
    pub residual: f64,
    /// Samples used.
    pub samples: usize,
    /// Share of clipped samples.
    pub clipped: f64,
    /// Stand-ins and how much of each, the most first.
    pub heads: Vec<(&'static str, f64)>,
    /// Pixels with the light there, and stops by which it exceeds the model's.
    pub map: Vec<([f64; 2], f64)>,
    /// A second light would explain a little more, but not enough to believe in it.
    pub maybe_second: bool,
}

/// Why a face could not be read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum FaceProblem {
    /// No pose.
    #[error(transparent)]
    Pose(#[from] PoseProblem),
    /// Too little skin.
    #[error("too little of the face lies in the picture, or it is too dark to read")]
    Hidden,
    /// The caller brought no heads.
    #[error("no stand-in heads are at hand to read a face with")]
    NoHeads,
}

/// Turns tried about the one the landmarks give, radians.
const LEANS: [f64; 2] = [-0.12, 0.12];
/// Weight of the landmarks against the light.
const LANDMARKS_WEIGH: f64 = 2.0;
/// Samples and steps of the fit while a landmark is dragged.
const FOLLOWING: f64 = 220.0;
const FOLLOWED: usize = 3;
/// How far a light then goes from where it was, radians.
const FOLLOWED_RAD: f64 = 0.12;
/// Share of the cost a second light must save.
const SECOND_SAVES: f64 = 0.10;
/// The same if a catchlight speaks for it, and if there are catchlights and none does.
const SECOND_HINTED: f64 = 0.02;
const SECOND_AGAINST: f64 = 0.12;
/// The same for a light from behind: it grazes a face, and a nose a little too long looks like one.
const SECOND_REAR: f64 = 0.20;
/// Least spread of a turn: it is told to about half the step it is tried in, degrees.
const TURN_SD_DEG: f64 = 3.5;
/// Share that makes one worth a word.
const SECOND_MAYBE: f64 = 0.04;
/// A second light stands apart by this angle, radians, and is not weaker than this, natural log.
const SECOND_APART: f64 = 0.42;
const SECOND_FAINTEST: f64 = -2.4;
/// Share of the cost a light from behind must save to be the key.
const REAR_KEY_SAVES: f64 = 0.35;
/// Least part of what the key adds to the picture.
const SECOND_ADDS: f64 = 0.02;

/// Reads the lights of a face. `hints` are directions that other evidence (catchlights) speaks for: they
/// are tried, and leaned on unless the face speaks clearly against them.
///
/// # Errors
/// A [`FaceProblem`] that says why not.
pub fn read(
    photo: &Photo,
    camera: Camera,
    points: &BTreeMap<String, Point>,
    heads: &[StandIn],
    hints: &[Hint],
) -> Result<FaceReading, FaceProblem> {
    if heads.is_empty() {
        return Err(FaceProblem::NoHeads);
    }
    let all: Vec<&StandIn> = heads.iter().collect();
    let mut face = lay(photo, camera, points, &all, hints, 0.0, SAMPLES)?;
    let (peaks, surface) = face.peaks();
    let from_peaks = peaks.iter().take(3).map(|p| Lobe { direction: p.0, half: 0.15 });
    let starts = from_peaks.chain(hints.iter().take(3).map(hinted)).map(|l| vec![l]).collect();
    let mut one = face.best_of(starts, &surface).ok_or(FaceProblem::Hidden)?;
    // The nose's length and the head's turn are hard to tell apart by landmarks: the light decides.
    let merit = |face: &Face, lit: &Lit| lit.cost / ALIKE + face.landmark_cost() * LANDMARKS_WEIGH;
    let mut best = merit(&face, &one);
    let leant: Vec<(Face, Lit)> = std::thread::scope(|scope| {
        let (one, all) = (&one, &all);
        let work: Vec<_> = LEANS
            .iter()
            .map(|lean| {
                scope.spawn(move || {
                    let other = lay(photo, camera, points, all, hints, *lean, SAMPLES).ok()?;
                    let lit = other.refine(&one.lobes, &one.surface, 8);
                    Some((other, lit))
                })
            })
            .collect();
        work.into_iter().filter_map(|w| w.join().ok().flatten()).collect()
    });
    for (other, lit) in leant {
        // a little better is no reason to doubt the landmarks
        let m = 1.02 * merit(&other, &lit) * face.samples.len() as f64 / other.samples.len() as f64;
        if m < best {
            (face, one, best) = (other, lit, m);
        }
    }
    let two = second(&face, &one, &peaks);
    let saves = two.as_ref().map_or(0.0, |t| 1.0 - t.cost / one.cost);
    // What the eyes show too needs less of the face's word; what they should show and do not, more.
    let needed = two.as_ref().map_or(1.0, |t| {
        let new = second_of(&one, t);
        if hints.iter().any(|h| h.distance(&new) < 2.5) {
            SECOND_HINTED
        } else if hints.iter().any(|h| h.complete) && new.z > 0.3 {
            SECOND_AGAINST
        } else if new.z < 0.0 {
            SECOND_REAR
        } else {
            SECOND_SAVES
        }
    });
    let lit = two.filter(|_| saves > needed).map_or(one, |t| Lit { saves, ..t });
    Ok(describe(&face, &lit, saves > SECOND_MAYBE && saves <= needed))
}

/// Reads a face again whose landmarks moved a little, while one is dragged: the lights it had are followed, with the
/// stand-in that fitted best and fewer samples. Quick, and good to a few degrees: [`read`] is to have the last word.
///
/// # Errors
/// A [`FaceProblem`] that says why not.
pub fn follow(
    photo: &Photo,
    camera: Camera,
    points: &BTreeMap<String, Point>,
    heads: &[StandIn],
    before: &FaceReading,
) -> Result<FaceReading, FaceProblem> {
    let order = |h: &&StandIn| before.heads.iter().position(|b| b.0 == h.name).unwrap_or(usize::MAX);
    let head = heads.iter().min_by_key(order).ok_or(FaceProblem::NoHeads)?;
    let lobe = |s: &Seen| {
        let half = s.log_size.map_or(0.15, |l| 0.5 * l.0.exp()).clamp(0.02, 0.85);
        Lobe { direction: s.direction, half }
    };
    let lobes: Vec<Lobe> = before.lights.iter().map(lobe).collect();
    // a landmark's way turns a light a little; which of two is the key, it does not
    let held: Vec<Hint> =
        lobes.iter().map(|l| Hint { direction: l.direction, sd: FOLLOWED_RAD, size: None, complete: true }).collect();
    let face = lay(photo, camera, points, &[head], &held, 0.0, FOLLOWING)?;
    let lit = face.refine(&lobes, &Default::default(), FOLLOWED);
    let mut now = describe(&face, &lit, before.maybe_second);
    if let Some(was) = before.lights.first().map(|l| l.direction) {
        now.lights.sort_by(|a, b| b.direction.dot(&was).total_cmp(&a.direction.dot(&was)));
        if let Some((key, others)) = now.lights.split_first_mut() {
            let most = key.log_level.map_or(f64::MAX, |l| l.0);
            others.iter_mut().filter_map(|l| l.log_level.as_mut()).for_each(|l| l.0 = l.0.min(most));
        }
    }
    Ok(now)
}

/// Lays stand-ins over the picture, turned by `lean` radians from where the landmarks have them, with so many samples.
fn lay<'a>(
    photo: &Photo,
    camera: Camera,
    points: &BTreeMap<String, Point>,
    heads: &[&'a StandIn],
    hints: &'a [Hint],
    lean: f64,
    many: f64,
) -> Result<Face<'a>, FaceProblem> {
    let mut layers: Vec<Layer> = std::thread::scope(|scope| {
        let work: Vec<_> = heads
            .iter()
            .map(|&h| scope.spawn(move || Pose::fit(h, points, &camera, lean).map(|pose| Layer::new(h, pose))))
            .collect();
        work.into_iter().map(|w| w.join().unwrap_or(Err(PoseProblem::NoFace))).collect::<Result<_, _>>()
    })?;
    let samples = Samples::take(photo, &mut layers, many).ok_or(FaceProblem::Hidden)?;
    Ok(Face::new(layers, samples, hints))
}

fn hinted(h: &Hint) -> Lobe {
    Lobe { direction: h.direction, half: h.size.map_or(0.15, |s| (0.5 * s).clamp(0.03, 0.8)) }
}

/// The light of a pair that is not the key.
fn second_of(one: &Lit, two: &Lit) -> Vec3 {
    let key = one.lobes[0].direction;
    let far = |l: &&Lobe| angle_between(&l.direction, &key);
    two.lobes.iter().max_by(|a, b| far(a).total_cmp(&far(b))).map_or(key, |l| l.direction)
}

/// The best pair of lights that could be one.
fn second(face: &Face, one: &Lit, peaks: &[(Vec3, f64)]) -> Option<Lit> {
    let key = one.lobes[0];
    let d = key.direction;
    let side = if d.x >= 0.0 { -1.0 } else { 1.0 };
    let at = |az: f64, el: f64| AzEl { azimuth_deg: az, elevation_deg: el }.vector();
    let mut starts: Vec<Vec3> = face.hints.iter().map(|h| h.direction).collect();
    starts.extend(peaks.iter().take(4).map(|p| p.0));
    starts.extend([
        Vec3::new(-d.x, d.y, d.z),
        at(0.0, -35.0),
        at(side * 135.0, 30.0),
        at(-side * 135.0, 30.0),
        at(side * 50.0, 5.0),
    ]);
    let mut tried: Vec<Vec3> = Vec::new();
    for s in starts {
        if angle_between(&s, &d) >= 0.35 && !tried.iter().any(|t| angle_between(t, &s) < 0.3) {
            tried.push(s);
        }
    }
    let pairs = tried.into_iter().map(|s| vec![key, Lobe { direction: s, half: 0.2 }]).collect();
    let best = face.best_of(pairs, &one.surface);
    best.filter(|lit| {
        let apart = angle_between(&lit.lobes[0].direction, &lit.lobes[1].direction);
        let (a, b) = (lit.level[0], lit.level[1]);
        let (more, less) = (lit.share[0].max(lit.share[1]), lit.share[0].min(lit.share[1]));
        apart > SECOND_APART && (a.min(b) / a.max(b).max(1e-12)).ln() > SECOND_FAINTEST && less > SECOND_ADDS * more
    })
}

fn describe(face: &Face, lit: &Lit, maybe_second: bool) -> FaceReading {
    let mut order: Vec<usize> = (0..lit.lobes.len()).collect();
    order.sort_by(|a, b| lit.share[*b].total_cmp(&lit.share[*a]));
    let floor = if lit.lobes.len() > 1 { 0.12f64 } else { 0.09 };
    let most = lit.level[order[0]];
    let sure = lit.saves > REAR_KEY_SAVES;
    let lights: Vec<Seen> = order
        .iter()
        .map(|&k| {
            let l = lit.lobes[k];
            let own = lit.spread[k];
            // A light from behind grazes the face: its level is hardly bound, and the key is the key.
            let (level, level_sd) = if lit.level[k] > most && !sure {
                (0.9 * most, 0.9f64)
            } else {
                (lit.level[k], if l.direction.z < 0.0 { 0.6 } else { 0.4 })
            };
            let frontal = if l.direction.z > 0.963 { 0.8f64 } else { 0.45 };
            Seen {
                direction: l.direction,
                direction_sd: (own[0].powi(2) + own[1].powi(2)).min(0.3).sqrt().hypot(floor),
                log_size: Some(((2.0 * l.half).ln(), own[2].min(1.0).hypot(frontal))),
                log_level: Some((level.max(1e-9).ln(), level_sd)),
                rgb: None,
            }
        })
        .collect();
    let strongest = lights.iter().filter_map(|l| l.log_level.map(|v| v.0)).fold(f64::MIN, f64::max);
    let ambient = lit.ambient.max(1e-9).ln();
    let total: f64 = lit.blend.iter().sum::<f64>().max(1e-12);
    let mut heads: Vec<(&'static str, f64)> =
        face.layers.iter().zip(&lit.blend).map(|(l, b)| (l.head.name, b / total)).collect();
    heads.sort_by(|a, b| b.1.total_cmp(&a.1));
    let mean = |f: &dyn Fn([f64; 3]) -> f64| {
        face.layers.iter().zip(&lit.blend).map(|(l, b)| f(l.pose.degrees()) * b).sum::<f64>() / total
    };
    let pose_deg = [0, 1, 2].map(|k| mean(&|d| d[k]));
    let apart = mean(&|d| (d[0] - pose_deg[0]).powi(2)).sqrt();
    let s = &face.samples;
    FaceReading {
        lights,
        log_ambient: (ambient > strongest - 4.2).then_some((ambient, 0.6)),
        pose_deg,
        turn_sd_deg: apart.hypot(TURN_SD_DEG),
        residual: (s.value.iter().zip(&lit.model).map(|(v, m)| (v - m).powi(2)).sum::<f64>() / s.len() as f64).sqrt(),
        samples: s.len(),
        clipped: s.clipped,
        heads,
        map: s
            .at
            .iter()
            .zip(s.value.iter().zip(&lit.model))
            .map(|(at, (v, m))| (*at, (v.max(1e-4) / m.max(1e-4)).log2()))
            .collect(),
        maybe_second,
    }
}
