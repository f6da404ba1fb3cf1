//! A set as glTF 2.0: the camera, lights as `KHR_lights_punctual` with the size of their faces in `extras`,
//! boards, flags and walls as rectangles.

use crate::meter::SetMeter;
use crate::set::LightSet;
use base64::Engine;
use optics::geometry::{Vec3, upright};
use serde_json::{Value, json};

/// Row-major axes and a place as the column-major matrix of a node.
fn matrix(u: &Vec3, v: &Vec3, n: &Vec3, at: &Vec3) -> Vec<f64> {
    vec![u.x, u.y, u.z, 0.0, v.x, v.y, v.z, 0.0, n.x, n.y, n.z, 0.0, at.x, at.y, at.z, 1.0]
}

/// Axes of a face that looks along `n`.
fn axes(n: &Vec3) -> (Vec3, Vec3, Vec3) {
    let n = n.try_normalize(1e-9).unwrap_or_else(Vec3::z);
    let (u, v) = upright(&n);
    (u, v, n)
}

/// Writes a set. Intensities are candela that give the metered light at the reference point as a point would:
/// `I = E d^2` (flash: its mean over the shutter time).
pub fn gltf(set: &LightSet, meter: &SetMeter, title: &str) -> Value {
    let mut nodes = Vec::new();
    let mut lights = Vec::new();
    let eye = Vec3::from(set.camera.position_m);
    // a camera and a spot light look along their own -z
    let (u, v, n) = axes(&(eye - Vec3::from(set.camera.aim_m)));
    nodes.push(json!({ "name": "camera", "camera": 0, "matrix": matrix(&u, &v, &n, &eye) }));
    for (l, m) in set.lights.iter().zip(&meter.lights).filter(|(l, _)| !l.off) {
        let face = Vec3::from(m.face_m);
        let (u, v, n) = axes(&face);
        let size: Vec<f64> = {
            let along = |k: &Vec3| {
                let d = m.outline_m.iter().map(|p| (Vec3::from(*p) - face).dot(k));
                d.clone().fold(f64::MIN, f64::max) - d.fold(f64::MAX, f64::min)
            };
            vec![along(&u), along(&v)]
        };
        let lux = m.lux_seconds / set.camera.exposure.shutter_s;
        lights.push(json!({
            "name": l.name,
            "type": "spot",
            "intensity": lux * m.distance_m * m.distance_m,
            "color": l.colour(set.camera.white_k.unwrap_or(5600.0)).map(|c| c.clamp(0.0, 1.0)),
            "spot": { "innerConeAngle": 0.6, "outerConeAngle": 1.2 },
            "extras": { "face_width_m": size[0], "face_height_m": size[1], "source": l.source, "angular_size_deg": m.angular_size_deg }
        }));
        nodes.push(json!({
            "name": l.name,
            "extensions": { "KHR_lights_punctual": { "light": lights.len() - 1 } },
            "matrix": matrix(&u, &v, &n, &face)
        }));
    }
    let mut sheet = |name: String, at: [f64; 3], n: Vec3, w: f64, h: f64| {
        let (u, v, n) = axes(&n);
        nodes.push(json!({ "name": name, "mesh": 0, "matrix": matrix(&(u * w), &(v * h), &n, &Vec3::from(at)) }));
    };
    for b in &set.boards {
        sheet(
            format!("{:?} board", b.finish).to_lowercase(),
            b.position_m,
            Vec3::from(b.aim_m) - Vec3::from(b.position_m),
            b.width_m,
            b.height_m,
        );
    }
    for f in &set.flags {
        sheet("flag".into(), f.position_m, Vec3::from(f.aim_m) - Vec3::from(f.position_m), f.width_m, f.height_m);
    }
    for w in &set.walls {
        sheet("wall".into(), w.position_m, Vec3::from(w.normal), w.width_m, w.height_m);
    }
    nodes.push(json!({ "name": "subject", "extras": { "subjects": set.subjects } }));
    // one square of side 1: four corners, two triangles
    let mut bytes = Vec::new();
    for (x, y) in [(-0.5f32, -0.5f32), (0.5, -0.5), (0.5, 0.5), (-0.5, 0.5)] {
        for c in [x, y, 0.0] {
            bytes.extend(c.to_le_bytes());
        }
    }
    for i in [0u16, 1, 2, 0, 2, 3] {
        bytes.extend(i.to_le_bytes());
    }
    json!({
        "asset": { "version": "2.0", "generator": "Slant Cast" },
        "extensionsUsed": ["KHR_lights_punctual"],
        "extensions": { "KHR_lights_punctual": { "lights": lights } },
        "scene": 0,
        "scenes": [{ "name": title, "nodes": (0..nodes.len()).collect::<Vec<_>>(), "extras": { "slant": meter.slant } }],
        "nodes": nodes,
        "cameras": [{
            "type": "perspective",
            "perspective": {
                "yfov": set.camera.vfov_deg().to_radians(),
                "aspectRatio": f64::from(set.picture.width) / f64::from(set.picture.height),
                "znear": 0.01
            }
        }],
        "meshes": [{ "name": "sheet", "primitives": [{ "attributes": { "POSITION": 0 }, "indices": 1, "material": 0 }] }],
        "materials": [{ "name": "matte", "doubleSided": true, "pbrMetallicRoughness": { "metallicFactor": 0.0, "roughnessFactor": 1.0 } }],
        "accessors": [
            { "bufferView": 0, "componentType": 5126, "count": 4, "type": "VEC3", "min": [-0.5, -0.5, 0.0], "max": [0.5, 0.5, 0.0] },
            { "bufferView": 1, "componentType": 5123, "count": 6, "type": "SCALAR" }
        ],
        "bufferViews": [
            { "buffer": 0, "byteOffset": 0, "byteLength": 48, "target": 34962 },
            { "buffer": 0, "byteOffset": 48, "byteLength": 12, "target": 34963 }
        ],
        "buffers": [{ "byteLength": bytes.len(), "uri": format!("data:application/octet-stream;base64,{}", base64::engine::general_purpose::STANDARD.encode(&bytes)) }]
    })
}
