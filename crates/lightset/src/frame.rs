//! What stands where the picture shows it.

use crate::light_meter::LightMeter;
use crate::set::LightSet;
use optics::geometry::Vec3;

/// Whether a sphere lies in the cone of the frame.
pub fn in_frame(set: &LightSet, at: &[f64; 3], radius: f64) -> bool {
    let eye = Vec3::from(set.camera.position_m);
    let forward = (Vec3::from(set.camera.aim_m) - eye).normalize();
    let right = forward.cross(&Vec3::new(0.0, 1.0, 0.0)).normalize();
    let up = right.cross(&forward);
    let d = Vec3::from(*at) - eye;
    let depth = d.dot(&forward);
    if depth < 0.05 {
        return false;
    }
    let half_v = (set.camera.vfov_deg() / 2.0).to_radians().tan();
    let half_h = half_v * f64::from(set.picture.width) / f64::from(set.picture.height);
    d.dot(&right).abs() - radius < depth * half_h && d.dot(&up).abs() - radius < depth * half_v
}

/// Whether any of a flat thing lies in the frame before the background: `size_m` across and up, its face turned to `aim`.
pub fn flat_in_frame(set: &LightSet, at: &[f64; 3], aim: &[f64; 3], size_m: [f64; 2]) -> bool {
    let place = Vec3::from(*at);
    let Some(n) = (place - Vec3::from(*aim)).try_normalize(1e-9) else { return false };
    let (u, v) = optics::geometry::upright(&n);
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
