//! What stands where the picture shows it.

use crate::meter::LightMeter;
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

/// Boards and lamps that stand where the picture shows them.
pub fn frame_warnings(set: &LightSet, lights: &[LightMeter]) -> Vec<String> {
    let mut out = Vec::new();
    for (n, b) in set.boards.iter().enumerate() {
        if in_frame(set, &b.position_m, b.width_m.max(b.height_m) / 2.0) {
            out.push(format!("Board {} stands in the frame: move it out, or come nearer with the camera.", n + 1));
        }
    }
    for (l, m) in set.lights.iter().zip(lights) {
        if !l.off && in_frame(set, &m.face_m, l.source.area_m2().sqrt() / 2.0) {
            out.push(format!("{}: it stands in the frame.", l.name));
        }
    }
    out
}
