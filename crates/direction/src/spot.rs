//! Shape of a mirrored source: width over height, round or with corners, crisp or feathered edge.

use super::blobs::Blob;
use optics::geometry::{SeenSphere, Vec3, shape_of_directions};
use optics::photo::Photo;

/// Linear values, of white, between which an edge is looked at: high in its rise and low in it.
pub const CUTS: [f64; 2] = [0.25, 0.8];
/// Pixels a spot must be across for its shape to be its own and not the lens's.
const LEAST_PX: f64 = 5.0;
/// Pixels across for the edge to be looked at.
const LEAST_EDGE_PX: f64 = 14.0;

fn span(b: &Blob) -> [f64; 2] {
    [0, 1].map(|k| {
        let v = b.outline.iter().map(|p| p[k]);
        v.clone().fold(f64::MIN, f64::max) - v.fold(f64::MAX, f64::min)
    })
}

/// Width over height and corners of a spot's source as seen from the subject; `mirrored` maps pixels to
/// directions. `None` for spots under five pixels.
pub fn shape(b: &Blob, mirrored: impl Fn(f64, f64) -> Option<Vec3>) -> Option<(f64, f64)> {
    let [w, h] = span(b);
    if w.max(h) < LEAST_PX || w.min(h) < 2.0 {
        return None;
    }
    let directions: Vec<Vec3> = b.outline.iter().filter_map(|p| mirrored(p[0], p[1])).collect();
    (directions.len() > 3).then(|| shape_of_directions(&directions)).flatten()
}

/// Corners are told only of spots about as wide as high: a slanting strip fills no upright frame.
pub fn corners(shape: (f64, f64)) -> Option<f64> {
    ((0.55..1.8).contains(&shape.0) && shape.1 > -0.3).then_some(shape.1)
}

/// How far a mirrored source's edge fades: natural logarithm of its angular radius at a quarter of white
/// over that at four fifths. Near 0 for an even face; a wall, a ceiling or a sheet lit from near fades.
/// `None` if the spot is small, not bright enough, or stands on a bright ground.
pub fn feather(photo: &Photo, b: &Blob, sphere: &SeenSphere) -> Option<f64> {
    let [w, h] = span(b);
    if w.min(h) < LEAST_EDGE_PX {
        return None;
    }
    let reach = |k: usize, by: f64| (b.centre[k] + by * (0.8 * span(b)[k] + 3.0)).floor() as i64;
    let mut sums = [0.0; 2];
    let (mut ground, mut rim) = (0.0f64, 0u32);
    let (x0, x1, y0, y1) = (reach(0, -1.0), reach(0, 1.0), reach(1, -1.0), reach(1, 1.0));
    for y in y0..=y1 {
        for x in x0..=x1 {
            let (px, py) = (x as f64 + 0.5, y as f64 + 0.5);
            let omega = sphere.mirrored_solid_angle(px, py);
            let Some(s) = photo.get(x, y).filter(|_| omega > 0.0 && omega.is_finite()) else { continue };
            let l = if s.clipped { 1.0 } else { s.luminance() };
            if x == x0 || x == x1 || y == y0 || y == y1 {
                ground += l;
                rim += 1;
            }
            for (sum, cut) in sums.iter_mut().zip(CUTS) {
                *sum += if l > cut { omega } else { 0.0 };
            }
        }
    }
    let dark = rim > 0 && ground / f64::from(rim) < 0.5 * CUTS[0];
    (dark && sums[1] > 0.0).then(|| 0.5 * (sums[0] / sums[1]).ln())
}
