//! A face: landmarks give its pose, the light bank of several stand-in heads its lights.
//!
//! | file | holds |
//! |---|---|
//! | `stand_in.rs` | heads to read with, brought by the caller |
//! | `pose.rs` | turn, stretch and place of a head from landmarks |
//! | `plates.rs` | samples of skin, and what each light would do to them |
//! | `fit.rs` | lights and surface colour solved together |
//!
//! No stand-in is the face in the picture: each is tried, weighted by how well it explains the
//! picture, and what they disagree about is the uncertainty.

mod fit;
mod plates;
mod pose;
mod stand_in;

pub use pose::{Pose, PoseProblem};
pub use stand_in::{BANK, LANDMARKS, SkinPoint, StandIn, bank};

use super::Seen;
use crate::geometry::{Camera, Vec3, angle_between};
use crate::marks::Point;
use crate::photo::Photo;
use fit::{Face, Lit, Lobe};
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
    /// Root mean square weighted residual.
    pub residual: f64,
    /// Samples used.
    pub samples: usize,
    /// Share of clipped samples.
    pub clipped: f64,
    /// Stand-ins with their weights, the heaviest first.
    pub heads: Vec<(&'static str, f64)>,
    /// Pixels with the light there, and stops by which it exceeds the best stand-in's.
    pub map: Vec<([f64; 2], f64)>,
    /// A second light was seen by some stand-ins only.
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

/// Relative cost by which a stand-in's weight falls to 1/e.
const COST_SCALE: f64 = 0.06;
/// Share of the cost a second light must save.
const SECOND_SAVES: f64 = 0.07;
/// A second light stands apart by this angle, radians, and is not weaker than this, natural log.
const SECOND_APART: f64 = 0.42;
const SECOND_FAINTEST: f64 = -2.4;

struct Tried<'a> {
    head: &'a StandIn,
    pose: Pose,
    one: Lit,
    two: Option<Lit>,
    at: Vec<[f64; 2]>,
    value: Vec<f64>,
    samples: usize,
    clipped: f64,
}

/// Reads the lights of a face.
///
/// # Errors
/// A [`FaceProblem`] that says why not.
pub fn read(
    photo: &Photo,
    camera: Camera,
    points: &BTreeMap<String, Point>,
    heads: &[StandIn],
) -> Result<FaceReading, FaceProblem> {
    if heads.is_empty() {
        return Err(FaceProblem::NoHeads);
    }
    let tries: Vec<Result<Tried, FaceProblem>> = std::thread::scope(|scope| {
        let work: Vec<_> = heads.iter().map(|h| scope.spawn(move || attempt(photo, &camera, points, h))).collect();
        work.into_iter().map(|w| w.join().unwrap_or(Err(FaceProblem::Hidden))).collect()
    });
    let mut problem = FaceProblem::Hidden;
    let mut good = Vec::new();
    for t in tries {
        match t {
            Ok(t) => good.push(t),
            Err(e) => problem = e,
        }
    }
    if good.is_empty() {
        return Err(problem);
    }
    Ok(combine(&good))
}

fn attempt<'a>(
    photo: &Photo,
    camera: &Camera,
    points: &BTreeMap<String, Point>,
    head: &'a StandIn,
) -> Result<Tried<'a>, FaceProblem> {
    let pose = Pose::fit(head, points, camera)?;
    let samples = plates::Samples::take(photo, head, &pose).ok_or(FaceProblem::Hidden)?;
    let (n, clipped) = (samples.len(), samples.clipped);
    let face = Face::new(head, samples);
    let (peaks, surface) = face.peaks();
    let one = peaks
        .iter()
        .take(3)
        .map(|p| face.refine(&[Lobe { direction: p.0, half: 0.15 }], &surface, 12))
        .min_by(|a, b| a.cost.total_cmp(&b.cost))
        .ok_or(FaceProblem::Hidden)?;
    let two = second(&face, &one, &peaks);
    let plates::Samples { at, value, .. } = face.samples;
    Ok(Tried { head, pose, one, two, at, value, samples: n, clipped })
}

/// The best pair of lights, if it explains clearly more than one.
fn second(face: &Face, one: &Lit, peaks: &[(Vec3, f64)]) -> Option<Lit> {
    let key = one.lobes[0];
    let d = key.direction;
    let side = if d.x >= 0.0 { -1.0 } else { 1.0 };
    let at = |az: f64, el: f64| crate::geometry::AzEl { azimuth_deg: az, elevation_deg: el }.vector();
    let mut starts: Vec<Vec3> = peaks.iter().take(4).map(|p| p.0).collect();
    starts.extend([Vec3::new(-d.x, d.y, d.z), at(0.0, -35.0), at(side * 135.0, 30.0), at(-side * 135.0, 30.0), at(side * 50.0, 5.0)]);
    let mut tried: Vec<Vec3> = Vec::new();
    let mut best: Option<Lit> = None;
    for s in starts {
        if angle_between(&s, &d) < 0.35 || tried.iter().any(|t| angle_between(t, &s) < 0.3) {
            continue;
        }
        tried.push(s);
        let lit = face.refine(&[key, Lobe { direction: s, half: 0.2 }], &one.surface, 8);
        if best.as_ref().is_none_or(|b| lit.cost < b.cost) {
            best = Some(lit);
        }
    }
    let lit = best?;
    let saves = 1.0 - lit.cost / one.cost;
    let apart = angle_between(&lit.lobes[0].direction, &lit.lobes[1].direction);
    let (a, b) = (lit.level[0], lit.level[1]);
    let weaker = (a.min(b) / a.max(b).max(1e-12)).ln();
    (saves > SECOND_SAVES && apart > SECOND_APART && weaker > SECOND_FAINTEST).then_some(lit)
}

fn combine(tried: &[Tried]) -> FaceReading {
    let cost = |t: &Tried| t.one.cost / t.samples as f64;
    let least = tried.iter().map(cost).fold(f64::MAX, f64::min);
    let weight: Vec<f64> = tried.iter().map(|t| (-(cost(t) / least - 1.0) / COST_SCALE).exp()).collect();
    let total: f64 = weight.iter().sum();
    let with_two: f64 = tried.iter().zip(&weight).filter(|(t, _)| t.two.is_some()).map(|(_, w)| w).sum::<f64>() / total;
    let use_two = with_two > 0.6;
    let lits: Vec<(&Lit, f64)> = tried
        .iter()
        .zip(&weight)
        .filter_map(|(t, w)| if use_two { t.two.as_ref().map(|l| (l, *w)) } else { Some((&t.one, *w)) })
        .collect();
    let best = tried.iter().zip(&weight).max_by(|a, b| a.1.total_cmp(b.1)).map(|(t, _)| t).expect("one at least");
    // Lights of the other stand-ins are matched to the heaviest's.
    let lead = lits.iter().max_by(|a, b| a.1.total_cmp(&b.1)).map(|l| l.0).expect("one at least");
    let mut order: Vec<usize> = (0..lead.lobes.len()).collect();
    order.sort_by(|a, b| lead.share[*b].total_cmp(&lead.share[*a]));
    let lights: Vec<Seen> = order.iter().map(|k| gather(&lits, &lead.lobes[*k].direction, lead.lobes.len())).collect();
    let w: f64 = lits.iter().map(|l| l.1).sum();
    let ambient = lits.iter().map(|(l, k)| l.ambient.max(1e-9).ln() * k).sum::<f64>() / w;
    let strongest = lights.iter().filter_map(|l| l.log_level.map(|v| v.0)).fold(f64::MIN, f64::max);
    let mut named: Vec<(&'static str, f64)> = tried.iter().zip(&weight).map(|(t, w)| (t.head.name, w / total)).collect();
    named.sort_by(|a, b| b.1.total_cmp(&a.1));
    let residual = &best.one.residual;
    FaceReading {
        lights,
        log_ambient: (ambient > strongest - 4.2).then_some((ambient, 0.6)),
        pose_deg: best.pose.degrees(),
        residual: (residual.iter().map(|r| r * r).sum::<f64>() / residual.len() as f64).sqrt(),
        samples: best.samples,
        clipped: best.clipped,
        heads: named,
        map: best
            .at
            .iter()
            .zip(best.value.iter().zip(&best.one.model))
            .map(|(at, (v, m))| (*at, (v.max(1e-4) / m.max(1e-4)).log2()))
            .collect(),
        maybe_second: !use_two && with_two > 0.2,
    }
}

/// Mean over the stand-ins of the light nearest to a direction, with its spread.
fn gather(lits: &[(&Lit, f64)], near: &Vec3, many: usize) -> Seen {
    let mut picks = Vec::new();
    for (lit, w) in lits {
        let k = (0..lit.lobes.len())
            .min_by(|a, b| {
                angle_between(&lit.lobes[*a].direction, near).total_cmp(&angle_between(&lit.lobes[*b].direction, near))
            })
            .expect("a light at least");
        picks.push((lit, k, *w));
    }
    let total: f64 = picks.iter().map(|p| p.2).sum();
    let direction = picks.iter().map(|(l, k, w)| l.lobes[*k].direction * *w).sum::<Vec3>().normalize();
    let mean = |f: &dyn Fn(&Lit, usize) -> f64| picks.iter().map(|(l, k, w)| f(l, *k) * w).sum::<f64>() / total;
    let between = mean(&|l, k| angle_between(&l.lobes[k].direction, &direction).powi(2));
    let own = mean(&|l, k| l.spread[k][0].powi(2) + l.spread[k][1].powi(2));
    let floor = if many > 1 { 0.09f64 } else { 0.06 };
    let size = mean(&|l, k| (2.0 * l.lobes[k].half).ln());
    let size_between = mean(&|l, k| ((2.0 * l.lobes[k].half).ln() - size).powi(2));
    let off_axis = direction.z.clamp(-1.0, 1.0).acos();
    let frontal = if off_axis < 0.27 { 0.8 } else { 0.45 };
    let level = mean(&|l, k| l.level[k].max(1e-9).ln());
    let level_between = mean(&|l, k| (l.level[k].max(1e-9).ln() - level).powi(2));
    Seen {
        direction,
        direction_sd: (between + own.min(0.3) + floor * floor).sqrt(),
        log_size: Some((size, (size_between + frontal * frontal).sqrt())),
        log_level: Some((level, (level_between + 0.2).sqrt())),
        rgb: None,
    }
}
