//! A planned set put on the stand-in studio's stage: subject, camera, lights, room.

use crate::exposure::Settings;
use crate::geometry::Vec3;
use crate::kit::{Kit, Modifier, Shape, Throw};
use crate::marks::{Finish, MarkKind, Marks};
use crate::rebuild::{PlacedLight, SetPlan, cautions_where};
use crate::set::{
    AmbientLight, FORMAT, Level, LightSet, PictureSpec, SetCamera, SetLight, Source, Subject, SubjectKind, Wall,
};

/// Exposure that stands in where a picture's is not known.
pub const COMMON_EXPOSURE: Settings = Settings { f_number: 5.6, shutter_s: 1.0 / 125.0, iso: 100.0 };
/// Stops under the key of the room's light, where it could not be read.
const ROOM_STOPS: f64 = -4.5;
/// Distance between the pupils of the stand-in heads in metres.
const PUPILS_M: f64 = 0.068;
/// Radius of the stand-in ball probes in metres.
const BALL_M: f64 = 0.075;
/// Longest side of the preview in pixels.
const PREVIEW: f64 = 560.0;

/// The source of a modifier's face.
pub fn source_of(m: &Modifier) -> Source {
    let [w, h] = m.size_m;
    match (m.throws, m.shape) {
        (Throw::Even, Shape::Disc) => Source::Disc { diameter_m: w },
        (Throw::Even, Shape::Rectangle) if w > 8.0 * h => Source::Tube { length_m: w, diameter_m: h },
        (Throw::Even, Shape::Rectangle) => Source::Rectangle { width_m: w, height_m: h },
        (Throw::Octagon, _) => Source::Octagon { width_m: w },
        (Throw::Umbrella, _) => Source::UmbrellaThrough { diameter_m: w },
        (Throw::Dish, _) => match m.beam_deg.unwrap_or(75.0) {
            // a grid or snoot ends sharply
            beam_deg if beam_deg < 45.0 => Source::Spot { diameter_m: w, beam_deg, field_deg: 1.6 * beam_deg },
            beam_deg => Source::Dish { diameter_m: w, beam_deg },
        },
        (Throw::Bare, _) => Source::Bare { diameter_m: w },
    }
}

/// Puts a plan on the stage. `ambient_stops` is the room's light under the key, if it was read.
pub fn stage(plan: &SetPlan, marks: &Marks, width: u32, height: u32, ambient_stops: Option<f64>) -> LightSet {
    let exposure = plan.exposure.settings.unwrap_or(COMMON_EXPOSURE);
    let vfov = 2.0 * plan.camera.half_vfov_deg;
    let distance = plan.camera.distance_m;
    let focal = f64::from(height) / 2.0 / plan.camera.half_vfov_deg.to_radians().tan();
    let (subjects, reference) = subjects(marks, focal, distance, [f64::from(width) / 2.0, f64::from(height) / 2.0]);
    // Aim so that the reference point lands where it is in the picture.
    let per_px = distance / focal;
    let aim =
        [(f64::from(width) / 2.0 - reference[0]) * per_px, (reference[1] - f64::from(height) / 2.0) * per_px, 0.0];
    let rise = plan.camera.height_m - plan.eye_height_m;
    let lens = Vec3::new(0.0, rise, (distance * distance - rise * rise).max(0.01).sqrt());
    // All lights together make the exposure that the settings are right for.
    let levels: Vec<f64> = plan.lights.iter().map(|l| l.level_stops.unwrap_or(0.0)).collect();
    let room = ambient_stops.unwrap_or(ROOM_STOPS);
    let front: f64 = plan.lights.iter().zip(&levels).filter(|(l, _)| l.role != "rim").map(|(_, s)| s.exp2()).sum();
    let key = -(front + room.exp2()).max(0.05).log2();
    let mut names = Vec::new();
    let lights = plan
        .lights
        .iter()
        .zip(&levels)
        .map(|(l, stops)| {
            let n = names.iter().filter(|n| **n == l.role).count();
            names.push(l.role.clone());
            light(l, if n == 0 { l.role.clone() } else { format!("{} {}", l.role, n + 1) }, key + stops)
        })
        .collect();
    let k = PREVIEW / f64::from(width.max(height));
    LightSet {
        format: FORMAT.into(),
        subjects,
        camera: SetCamera {
            position_m: lens.into(),
            aim_m: aim,
            vfov_deg: Some(vfov),
            focal_mm: None,
            sensor_height_mm: None,
            exposure,
            white_k: None,
        },
        lights,
        boards: Vec::new(),
        flags: Vec::new(),
        walls: vec![
            Wall {
                position_m: [0.0, 0.0, -1.5],
                normal: [0.0, 0.0, 1.0],
                width_m: 6.0,
                height_m: 5.0,
                colour: [0.22; 3],
            },
            Wall {
                position_m: [0.0, -plan.eye_height_m, 0.0],
                normal: [0.0, 1.0, 0.0],
                width_m: 8.0,
                height_m: 8.0,
                colour: [0.2; 3],
            },
        ],
        ambient: Some(AmbientLight { level: Level::Stops { stops: key + room }, cct_k: None }),
        outlet_m: None,
        picture: PictureSpec {
            width: (f64::from(width) * k).round().max(16.0) as u32,
            height: (f64::from(height) * k).round().max(16.0) as u32,
            samples: 16,
            ..PictureSpec::default()
        },
    }
}

fn light(l: &PlacedLight, name: String, stops: f64) -> SetLight {
    SetLight {
        name,
        azimuth_deg: Some(l.azimuth_deg),
        elevation_deg: Some(l.elevation_deg),
        distance_m: Some(l.distance_m),
        position_m: None,
        aim_m: [0.0; 3],
        source: source_of(&l.modifier),
        roll_deg: 0.0,
        bounce: None,
        scrims: Vec::new(),
        level: Level::Stops { stops },
        cct_k: None,
        gel_mired: 0.0,
        gel_rgb: None,
        path_m: Vec::new(),
        off: false,
    }
}

/// Shortest side in metres from which an even rectangle is taken for a hung sheet.
const SHEET_M: f64 = 1.4;

/// The cautions that apply to a set as it stands, switched-off lights included.
pub fn cautions(set: &LightSet) -> Vec<String> {
    let floor = set.floor_m();
    cautions_where(|when, limit| {
        if when == "cable_crosses" {
            return crate::cables::cables(set).iter().any(|c| c.crosses);
        }
        set.lights.iter().any(|l| match when {
            "light_above_m" => l.position().y + floor > limit,
            "modifier_area_m2" => l.source.area_m2() > limit || l.scrims.iter().any(|s| s.width_m * s.height_m > limit),
            "cloth" => {
                let sheet =
                    matches!(l.source, Source::Rectangle { width_m, height_m } if width_m.min(height_m) > SHEET_M);
                sheet || !l.scrims.is_empty()
            }
            _ => false,
        })
    })
}

/// Cautions that depend on the lamps chosen: a hot lamp behind cloth, a flash, a boom.
pub fn kit_cautions(set: &LightSet, lamps: &[crate::build::LampPlan], kit: &Kit) -> Vec<String> {
    let lamp = |l: &SetLight| {
        let id = lamps.iter().find(|p| p.light == l.name)?.lamp.as_ref()?;
        kit.lamps.iter().find(|k| &k.id == id)
    };
    cautions_where(|when, _| match when {
        "hot_lamp" => set.lights.iter().any(|l| lamp(l).is_some_and(|k| k.hot)),
        "flash" => set.lights.iter().any(|l| lamp(l).is_some_and(crate::kit::Lamp::is_flash)),
        "overhead" => set.lights.iter().any(|l| {
            let p = l.position();
            p.y > 0.4 && p.x.hypot(p.z) < 0.6 && !matches!(l.source, Source::Window { .. })
        }),
        "mains_cables" => !set.lights.is_empty(),
        _ => false,
    })
}

/// Stand-ins for what is marked, and where the reference point lies in the picture, in pixels.
fn subjects(marks: &Marks, focal: f64, distance: f64, middle: [f64; 2]) -> (Vec<Subject>, [f64; 2]) {
    let plain = |kind: SubjectKind| Subject {
        kind,
        position_m: [0.0; 3],
        yaw_deg: 0.0,
        pitch_deg: 0.0,
        roll_deg: 0.0,
        scale: 1.0,
        colour: None,
        gaze_deg: None,
    };
    let mut eyes: Vec<[f64; 2]> = Vec::new();
    let mut balls: Vec<([f64; 2], f64, Finish)> = Vec::new();
    for m in marks.marks.iter().filter(|m| !m.off) {
        match &m.kind {
            MarkKind::Eye { limbus, .. } => eyes.push(limbus.centre),
            MarkKind::Ball { centre, radius_px, finish } => balls.push((*centre, *radius_px, *finish)),
            _ => {}
        }
    }
    let mean = |p: &[[f64; 2]]| {
        let n = p.len() as f64;
        [p.iter().map(|c| c[0]).sum::<f64>() / n, p.iter().map(|c| c[1]).sum::<f64>() / n]
    };
    if eyes.len() > 1 {
        let apart = (eyes[1][0] - eyes[0][0]).hypot(eyes[1][1] - eyes[0][1]);
        let scale = (apart / focal * distance / PUPILS_M).clamp(0.3, 3.0);
        return (vec![Subject { scale, ..plain(SubjectKind::HeadLong) }], mean(&eyes[..2]));
    }
    if !balls.is_empty() {
        let centres: Vec<[f64; 2]> = balls.iter().map(|b| b.0).collect();
        let centre = mean(&centres);
        let per_px = distance / focal;
        let list = balls
            .iter()
            .take(12)
            .map(|(c, r, finish)| Subject {
                position_m: [(c[0] - centre[0]) * per_px, (centre[1] - c[1]) * per_px, 0.0],
                scale: (r * per_px / BALL_M).clamp(0.05, 20.0),
                ..plain(match finish {
                    Finish::Matte => SubjectKind::BallMatte,
                    Finish::Mirror => SubjectKind::BallMirror,
                })
            })
            .collect();
        return (list, centre);
    }
    (vec![plain(SubjectKind::HeadLong)], middle)
}

/// Whether a sphere lies in the cone of the frame.
pub(crate) fn in_frame(set: &LightSet, at: &[f64; 3], radius: f64) -> bool {
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
pub fn frame_warnings(set: &LightSet, lights: &[crate::meter::LightMeter]) -> Vec<String> {
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
