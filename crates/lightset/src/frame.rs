//! What stands where the picture shows it.

use crate::light_meter::LightMeter;
use crate::set::LightSet;
use optics::geometry::{Vec3, upright};

/// Nearer than this before the lens nothing is seen, metres.
const NEAREST_M: f64 = 1e-3;

/// How a set's camera sees: through a pinhole, level from side to side.
#[derive(Debug, Clone, Copy)]
pub struct Sight {
    eye: Vec3,
    forward: Vec3,
    right: Vec3,
    up: Vec3,
    /// focal length in pixels
    focal: f64,
    size: [f64; 2],
}

impl Sight {
    /// That of a set.
    pub fn of(set: &LightSet) -> Sight {
        let eye = Vec3::from(set.camera.position_m);
        let forward = (Vec3::from(set.camera.aim_m) - eye).normalize();
        let (right, up) = upright(&-forward);
        let size = [f64::from(set.picture.width), f64::from(set.picture.height)];
        let focal = size[1] / 2.0 / (set.camera.vfov_deg() / 2.0).to_radians().tan();
        Sight { eye, forward, right, up, focal, size }
    }

    /// Pixel of a place, and pixels per metre there; nothing behind the lens.
    pub fn pixel(&self, place: &Vec3) -> Option<([f64; 2], f64)> {
        let d = place - self.eye;
        let depth = d.dot(&self.forward);
        if depth <= NEAREST_M {
            return None;
        }
        let k = self.focal / depth;
        Some(([self.size[0] / 2.0 + d.dot(&self.right) * k, self.size[1] / 2.0 - d.dot(&self.up) * k], k))
    }

    /// Place in the picture as shares of its width and height, from its upper left corner.
    pub fn share(&self, place: &Vec3) -> Option<[f64; 2]> {
        self.pixel(place).map(|([x, y], _)| [x / self.size[0], y / self.size[1]])
    }
}

/// Whether a sphere lies in the cone of the frame.
pub fn in_frame(set: &LightSet, at: &[f64; 3], radius: f64) -> bool {
    let sight = Sight::of(set);
    let place = Vec3::from(*at);
    if (place - sight.eye).dot(&sight.forward) < 0.05 {
        return false;
    }
    let Some(([x, y], k)) = sight.pixel(&place) else { return false };
    let [w, h] = sight.size;
    (x - w / 2.0).abs() - radius * k < w / 2.0 && (y - h / 2.0).abs() - radius * k < h / 2.0
}

/// Whether any of a flat thing lies in the frame before the background: `size_m` across and up, its face turned to `aim`.
pub fn flat_in_frame(set: &LightSet, at: &[f64; 3], aim: &[f64; 3], size_m: [f64; 2]) -> bool {
    let place = Vec3::from(*at);
    let Some(n) = (place - Vec3::from(*aim)).try_normalize(1e-9) else { return false };
    let (u, v) = upright(&n);
    let steps = |k: i32| (f64::from(k) / 4.0 - 1.0) / 2.0;
    let all = (0..=8).flat_map(|i| (0..=8).map(move |j| (i, j)));
    let points = all.map(|(i, j)| place + u * (size_m[0] * steps(i)) + v * (size_m[1] * steps(j)));
    points.into_iter().any(|p| in_frame(set, &p.into(), 0.0))
}

/// Boards, cutters and lamps that stand where the picture shows them.
pub fn frame_warnings(set: &LightSet, lights: &[LightMeter]) -> Vec<String> {
    let mut out = Vec::new();
    for (n, b) in set.boards.iter().enumerate() {
        if in_frame(set, &b.position_m, b.width_m.max(b.height_m) / 2.0) {
            out.push(format!("Board {} stands in the frame: move it out, or come nearer with the camera.", n + 1));
        }
    }
    for (n, f) in set.flags.iter().enumerate() {
        if flat_in_frame(set, &f.position_m, &f.aim_m, [f.width_m, f.height_m]) {
            out.push(format!(
                "Cutter {} stands in the frame: nearer to the lamp its edges are softer, a smaller face makes them crisper again.",
                n + 1
            ));
        }
    }
    for (l, m) in set.lights.iter().zip(lights) {
        if !l.off && in_frame(set, &m.face_m, l.source.area_m2().sqrt() / 2.0) {
            out.push(format!("{}: it stands in the frame.", l.name));
        }
    }
    out
}
