//! The angular size of a light from the edges of the shadows the face casts on itself.
//!
//! Where the stand-in has something before skin on the way to the light (the nose before lip and cheek), a steep turn
//! from dark to light that keeps its colour is the edge of a shadow: its width against the gap tells the light's angle
//! (`penumbra.rs`). Edges of the form itself have no gap and are not used.
//! The evidence is one-sided: narrow edges speak for a hard light, none say nothing.

use super::gap::{across, before, places};
use super::plates::Layer;
use crate::penumbra;
use optics::geometry::Vec3;
use optics::photo::Photo;
use optics::solve::median;

/// Gaps that are used, metres: nearer the picture resolves nothing, farther is no nose.
const GAPS: [f64; 2] = [0.012, 0.07];
/// Edges read at most, and needed at least.
const MOST: usize = 14;
const NEEDED: usize = 5;
/// Skin is lit and seen by this cosine at least.
const FACING: f64 = 0.15;
/// How far from a point of the stand-in an edge is looked for, half of the line read across it (a wide edge asks for a
/// longer one), and the least way between two, in metres on the face.
const ABOUT: f64 = 0.004;
const HALF: [f64; 2] = [0.0055, 0.011];
const APART: f64 = 0.006;
/// Least change of the natural log of light per pixel.
const STEEP: f64 = 0.06;
/// Most change of the natural log of red over green across an edge.
const TINT: f64 = 0.16;
/// The darker side lies at least so many stops down.
const STEP: f64 = 0.7;
/// Most median spread of the edges' natural logs, and the natural log of the widest light they may tell, 12 degrees.
const AGREE: f64 = 0.36;
const WIDEST: f64 = -1.56;
/// Least spread of the natural log: noses differ from the stand-ins.
const NOSES: f64 = 0.30;

/// Natural log of the light's full angle in radians, its standard deviation, and the edges used; `None` if too few edges
/// are found where the stand-in may cast them.
pub(super) fn size(photo: &Photo, layer: &Layer, direction: &Vec3) -> Option<(f64, f64, usize)> {
    let pose = &layer.pose;
    let skin = places(pose, layer.head);
    let about = (ABOUT * pose.scale).max(3.0) as i32;
    let mut edges: Vec<Edge> = Vec::new();
    for (_, pixel, normal, place) in layer.seen() {
        if normal.dot(direction) < FACING || normal.z < FACING {
            continue;
        }
        let Some(gap) = before(&skin, place, direction).filter(|g| *g > GAPS[0] && *g < GAPS[1]) else { continue };
        let near = (-about..=about).step_by(2).flat_map(|y| (-about..=about).step_by(2).map(move |x| (x, y)));
        let steepest = near
            .filter_map(|(x, y)| {
                let at = [pixel[0] + f64::from(x), pixel[1] + f64::from(y)];
                slope(photo, at).map(|g| (g[0].hypot(g[1]), at, g))
            })
            .max_by(|a, b| a.0.total_cmp(&b.0));
        let Some((steep, at, g)) = steepest.filter(|s| s.0 > STEEP) else { continue };
        let along = g.map(|v| v / steep);
        edges.push(Edge { steep, gap, at, along, across: across(normal, along, direction) });
    }
    edges.sort_by(|a, b| b.steep.total_cmp(&a.steep));
    let mut chosen: Vec<Edge> = Vec::new();
    for e in edges {
        let near = |o: &Edge| (o.at[0] - e.at[0]).hypot(o.at[1] - e.at[1]) < APART * pose.scale;
        if chosen.len() < MOST && !chosen.iter().any(near) {
            chosen.push(e);
        }
    }
    let mut found: Vec<f64> = chosen.iter().filter_map(|e| angle(photo, pose.scale, e)).collect();
    let n = found.len();
    if n < NEEDED {
        return None;
    }
    let middle = median(&mut found);
    let off = median(&mut found.iter().map(|v| (v - middle).abs()).collect::<Vec<_>>());
    // edges that disagree are creases; wide ones may be the form's own: only narrow edges that agree say something
    (off < AGREE && middle < WIDEST).then(|| (middle, NOSES.hypot(1.48 * off * 1.25 / (n as f64).sqrt()), n))
}

/// An edge in the picture that something of the face may cast.
struct Edge {
    steep: f64,
    gap: f64,
    at: [f64; 2],
    /// from dark to light
    along: [f64; 2],
    /// metres across the light per metre of the way
    across: f64,
}

/// Change of the natural log of light per pixel, right and down.
fn slope(photo: &Photo, at: [f64; 2]) -> Option<[f64; 2]> {
    let log = |x: f64, y: f64| photo.luminance_between(at[0] + x, at[1] + y).map(|l| (l + 2e-3).ln());
    Some([(log(1.5, 0.0)? - log(-1.5, 0.0)?) / 3.0, (log(0.0, 1.5)? - log(0.0, -1.5)?) / 3.0])
}

/// Natural log of the angle that one edge tells.
fn angle(photo: &Photo, scale: f64, e: &Edge) -> Option<f64> {
    let place = |t: f64| [e.at[0] + t * e.along[0], e.at[1] + t * e.along[1]];
    HALF.iter().find_map(|half| {
        let long = (half * scale).max(6.0);
        let (dark, bright) = (place(-long), place(long));
        // a shadow keeps the colour of the skin: lips and brows do not
        let tint = |p: [f64; 2]| {
            let [r, g, _] = photo.get(p[0].floor() as i64, p[1].floor() as i64)?.rgb.map(|v| f64::from(v).max(1e-3));
            Some((r / g).ln())
        };
        if (tint(dark)? - tint(bright)?).abs() > TINT {
            return None;
        }
        let r = penumbra::read(photo, dark, bright, Some(e.gap / e.across), Some(scale)).ok()?;
        let sharp = r.step_stops > STEP && r.log_width_sd < 0.5 && r.width_px < 1.1 * long;
        sharp.then(|| r.angle.map(|a| a.0.ln())).flatten()
    })
}
