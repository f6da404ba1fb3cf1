//! A mirror ball, unwrapped: what of the room is seen where, what is clipped, what is hidden behind the ball.

use crate::geometry::{Camera, SeenSphere, Vec3};
use crate::light_map::LightMap;
use crate::photo::Photo;

/// Places looked up in each cell, along each side, where a pixel of the ball mirrors less than a cell, and elsewhere.
const WITHIN: usize = 2;
const FINE_PX: f64 = 115.0;
/// The outermost part of the ball, of its radius and pixels, mirrors all that is behind it on a line: not looked at.
const RIM: f64 = 0.015;
const RIM_PX: f64 = 1.2;
/// Steps to the point of the ball that mirrors a direction: its view ray depends on it a little.
const STEPS: usize = 3;

/// What is known of a cell.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Cell {
    /// As bright as the picture has it.
    Seen,
    /// White, or one of its colours at the top: at least so bright.
    Clipped,
    /// Behind the ball, or behind one of the others beside it: which.
    Hidden(u8),
}

/// A ball beside the mirror, seen from it: direction and half of what it fills, radians.
pub type Beside = (Vec3, f64);

/// A map as one ball shows it.
pub struct Unwrapped {
    /// Radiance, in the picture's unit.
    pub map: LightMap,
    /// What is known of each cell.
    pub cells: Vec<Cell>,
}

/// Unwraps a ball; others beside it hide what is behind them.
pub fn unwrap(
    photo: &Photo,
    camera: &Camera,
    (centre, radius): ([f64; 2], f64),
    beside: &[Beside],
    rows: usize,
) -> Unwrapped {
    let sphere = SeenSphere::from_silhouette(*camera, centre, radius);
    let inside = radius - RIM_PX.max(RIM * radius);
    let mut map = LightMap::black(rows);
    let mut cells = vec![Cell::Hidden(0); map.len()];
    let within = if radius > FINE_PX { WITHIN } else { 1 };
    let towards = camera.view(centre[0], centre[1]);
    for (i, state) in cells.iter_mut().enumerate() {
        let middle = map.direction(i);
        if let Some(k) = beside.iter().position(|(d, half)| d.dot(&middle) > half.cos()) {
            *state = Cell::Hidden(1 + k as u8);
            continue;
        }
        let (row, column) = (i / map.columns(), i % map.columns());
        let (mut rgb, mut seen, mut clipped) = ([0f32; 3], 0u8, 0u8);
        for k in 0..within * within {
            let part = |n: usize| (n as f64 + 0.5) / within as f64;
            let d = if within == 1 {
                middle
            } else {
                map.at(row as f64 + part(k / within), column as f64 + part(k % within))
            };
            let Some([x, y]) = pixel(&sphere, camera, &towards, &d) else { continue };
            if (x - centre[0]).hypot(y - centre[1]) > inside {
                continue;
            }
            let Some((c, top)) = between(photo, x, y) else { continue };
            (0..3).for_each(|j| rgb[j] += c[j]);
            seen += 1;
            clipped += u8::from(top);
        }
        if seen > 0 {
            *state = if 2 * clipped > seen { Cell::Clipped } else { Cell::Seen };
            map.cells_mut()[i] = rgb.map(|v| v / f32::from(seen));
        }
    }
    Unwrapped { map, cells }
}

/// Where on the picture the ball mirrors a direction.
fn pixel(sphere: &SeenSphere, camera: &Camera, towards: &Vec3, d: &Vec3) -> Option<[f64; 2]> {
    let mut view = *towards;
    let mut at = [0.0; 2];
    for _ in 0..STEPS {
        let n = (d + view).try_normalize(1e-6)?;
        let (x, y) = sphere.pixel_of_normal(&n, camera);
        at = [x, y];
        view = camera.view(x, y);
        if n.dot(&view) < 0.0 {
            return None;
        }
    }
    Some(at)
}

/// Linear light between pixels, and whether what it is made of is clipped.
fn between(photo: &Photo, x: f64, y: f64) -> Option<([f32; 3], bool)> {
    let (fx, fy) = (x - 0.5, y - 0.5);
    let (x0, y0) = (fx.floor(), fy.floor());
    let (tx, ty) = (fx - x0, fy - y0);
    let (mut rgb, mut clipped) = ([0f32; 3], 0.0);
    for (dx, dy, w) in
        [(0, 0, (1.0 - tx) * (1.0 - ty)), (1, 0, tx * (1.0 - ty)), (0, 1, (1.0 - tx) * ty), (1, 1, tx * ty)]
    {
        let s = photo.get(x0 as i64 + dx, y0 as i64 + dy)?;
        (0..3).for_each(|c| rgb[c] += w as f32 * s.rgb[c]);
        clipped += if s.clipped { w } else { 0.0 };
    }
    Some((rgb, clipped > 0.5))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geometry::angle_between;

    #[test]
    fn the_pixel_of_a_direction_mirrors_it() {
        let camera = Camera::from_vfov(640, 480, 20.0, 0.0);
        let sphere = SeenSphere::from_silhouette(camera, [400.0, 200.0], 60.0);
        let towards = camera.view(400.0, 200.0);
        let map = LightMap::black(30);
        let mut seen = 0;
        for i in 0..map.len() {
            let d = map.direction(i);
            if let Some([x, y]) = pixel(&sphere, &camera, &towards, &d)
                && (x - 400.0).hypot(y - 200.0) < 58.0
                && let Some(back) = sphere.mirrored(x, y)
            {
                assert!(angle_between(&back, &d) < 0.01, "{d} {back}");
                seen += 1;
            }
        }
        assert!(seen > map.len() * 9 / 10, "{seen}");
    }
}
