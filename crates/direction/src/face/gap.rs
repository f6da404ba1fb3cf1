//! How far what shadows a spot of a face stands off it: the nose over the lip, the brow over the lid.
//!
//! From the spot towards the light the nearest skin of the stand-in on that line casts the edge; how far off it is
//! and how the spot slants turn the width of the edge in pixels into the light's angle. Stand-ins differ, and so do
//! noses: the spread between them is told.

use super::pose::Pose;
use super::stand_in::StandIn;
use crate::shapes::Point;
use optics::geometry::{Camera, Vec3};
use optics::solve::median;
use std::collections::BTreeMap;

/// Skin nearer to the spot than this is the spot's own, metres.
const OWN: f64 = 0.007;
/// Farthest a skin point may lie from the ray as a share of its distance, and in metres at least: points lie 5 mm apart.
const BESIDE: f64 = 0.22;
const LEAST: f64 = 0.004;
/// A spot must lie this near to a skin point, in pixels over the pixels between the eyes.
const ON_FACE: f64 = 0.15;
/// Noses differ by this much about the stand-ins, natural log.
const NOSES: f64 = 0.25;

/// What stands before a spot.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Gap {
    /// Metres to it along the light.
    pub gap_m: f64,
    /// Metres across the light per metre across the picture at the spot.
    pub across: f64,
    /// Pixels per metre of the picture there.
    pub px_per_m: f64,
    /// Standard deviation of the natural log of `across` over `gap_m`.
    pub log_sd: f64,
}

/// Finds what shadows the middle of the line from `a` to `b` from the light in `direction` (unit vector, camera frame).
/// `None` if the line does not lie on the face, or nothing of the stand-ins lies that way.
pub fn gap(
    heads: &[StandIn],
    points: &BTreeMap<String, Point>,
    camera: &Camera,
    (a, b): (Point, Point),
    direction: &Vec3,
) -> Option<Gap> {
    let spot = [0.5 * (a[0] + b[0]), 0.5 * (a[1] + b[1])];
    let length = (b[0] - a[0]).hypot(b[1] - a[1]).max(1e-9);
    let along = [(b[0] - a[0]) / length, (b[1] - a[1]) / length];
    let mut found: Vec<(f64, f64, f64)> = Vec::new();
    for head in heads {
        let Ok(pose) = Pose::fit(head, points, camera, 0.0) else { continue };
        let off = |p: &Vec3| {
            let at = pose.pixel(p);
            (at[0] - spot[0]).hypot(at[1] - spot[1])
        };
        let seen = head.points.iter().filter(|p| pose.normal(&p.normal).z > 0.2);
        let Some((far, own)) = seen.map(|p| (off(&p.at), p)).min_by(|a, b| a.0.total_cmp(&b.0)) else { continue };
        if far > ON_FACE * pose.scale * 0.063 {
            continue;
        }
        let (from, normal) = (pose.place(&own.at), pose.normal(&own.normal));
        let Some(t) = before(&places(&pose, head), &from, direction) else { continue };
        let across = across(&normal, along, direction);
        found.push((t, across, pose.scale));
    }
    if found.is_empty() {
        return None;
    }
    let mid = |f: &dyn Fn(&(f64, f64, f64)) -> f64| median(&mut found.iter().map(f).collect::<Vec<_>>());
    let ratio = |f: &(f64, f64, f64)| (f.1 / f.0).ln();
    let middle = mid(&ratio);
    let spread = found.iter().map(|f| (ratio(f) - middle).powi(2)).sum::<f64>() / found.len() as f64;
    let gap_m = mid(&|f| f.0);
    Some(Gap { gap_m, across: middle.exp() * gap_m, px_per_m: mid(&|f| f.2), log_sd: spread.sqrt().hypot(NOSES) })
}

/// The skin of a posed head.
pub(super) fn places(pose: &Pose, head: &StandIn) -> Vec<Vec3> {
    head.points.iter().map(|p| pose.place(&p.at)).collect()
}

/// Metres from a place on a posed head to the `skin` that stands before it towards a light.
pub(super) fn before(skin: &[Vec3], from: &Vec3, direction: &Vec3) -> Option<f64> {
    let nearest = skin
        .iter()
        .filter_map(|place| {
            let to = place - from;
            let t = to.dot(direction);
            let beside = (to - direction * t).norm();
            (t > OWN && beside < (BESIDE * t).max(LEAST)).then_some((beside / t, t))
        })
        .min_by(|a, b| a.0.total_cmp(&b.0))?;
    Some(nearest.1)
}

/// Metres across the light per metre across the picture, for a step `along` the picture (right, down) on skin with a
/// normal.
pub(super) fn across(normal: &Vec3, along: [f64; 2], direction: &Vec3) -> f64 {
    let step = Vec3::new(along[0], -along[1], 0.0);
    let step = step - Vec3::z() * (normal.dot(&step) / normal.z);
    (step - direction * step.dot(direction)).norm()
}
