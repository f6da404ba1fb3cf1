//! A planned set put on the stand-in studio's stage: subject, camera, lights, room.

use crate::rebuild::{PlacedLight, SetPlan};
use direction::cuboid;
use evidence::marks::{Ball, Eye, Finish, Mark, MarkKind, Marks};
use evidence::readings::{FaceView, Readings};
use lightset::kit::source_of;
use lightset::line::body;
use lightset::set::{
    AmbientLight, FORMAT, Hair, Level, LightSet, Person, PictureSpec, SIZES_M, SetCamera, SetLight, Subject,
    SubjectKind, Wall,
};
use optics::exposure::Settings;
use optics::geometry::{AzEl, Camera, Vec3};
use optics::role::Role;

/// Exposure that stands in where a picture's is not known.
pub const COMMON_EXPOSURE: Settings = Settings { f_number: 5.6, shutter_s: 1.0 / 125.0, iso: 100.0 };
/// Stops under the key of the room's light, where it could not be read.
const ROOM_STOPS: f64 = -4.5;
/// Distance between the pupils of the stand-in heads in metres.
const PUPILS_M: f64 = 0.068;
/// The same of the family of heads, in the mean.
const EYES_APART_M: f64 = 0.0634;
/// The most that a channel of skin sends back.
const MOST_REFLECTANCE: f64 = 0.9;
/// Turn of a head up to which its eyes are taken to look at the lens.
const MOST_GAZE_DEG: f64 = 30.0;
/// Radius of the stand-in ball probes in metres.
const BALL_M: f64 = 0.075;
/// A table's top, and how much over it a light at least shines from, metres.
const TABLE_M: [f64; 2] = [1.4, 1.0];
const UNDER_M: f64 = 0.05;
/// Longest side of the preview in pixels.
const PREVIEW: f64 = 560.0;

/// What stands on the stage.
struct Standing {
    subjects: Vec<Subject>,
    /// where its reference point lies in the picture, pixels
    at: [f64; 2],
    /// how far the lens looks down on it, radians, where that is known of it
    down: Option<f64>,
}

impl Standing {
    fn of(subjects: Vec<Subject>, at: [f64; 2]) -> Standing {
        Standing { subjects, at, down: None }
    }
}

/// Puts a plan on the stage, with what was marked and read in a picture of `width` by `height` pixels.
pub fn stage(plan: &SetPlan, marks: &Marks, readings: &Readings, width: u32, height: u32) -> LightSet {
    let exposure = plan.exposure.settings.unwrap_or(COMMON_EXPOSURE);
    let vfov = 2.0 * plan.camera.half_vfov_deg;
    let distance = plan.camera.distance_m;
    let focal = f64::from(height) / 2.0 / plan.camera.half_vfov_deg.to_radians().tan();
    let camera = Camera { focal_px: focal, ..marks.camera_for(width, height).0 };
    let Standing { subjects, at: reference, down } =
        person(marks, readings, focal, distance).unwrap_or_else(|| subjects(marks, readings, &camera, distance));
    // where nobody said how far the lens looks down, directions were read in its own frame
    let tip = down.map_or(0.0, |d| d - camera.pitch);
    // Aim so that the reference point lands where it is in the picture.
    let per_px = distance / focal;
    let aim =
        [(f64::from(width) / 2.0 - reference[0]) * per_px, (reference[1] - f64::from(height) / 2.0) * per_px, 0.0];
    let rise = plan.camera.height_m - plan.eye_height_m;
    let lens = Vec3::new(0.0, rise, (distance * distance - rise * rise).max(0.01).sqrt());
    let (lens, aim) = match down {
        Some(down) => {
            let lens = level(&camera.view(reference[0], reference[1]), down) * distance;
            (lens, (lens - level(&Vec3::z(), down) * distance).into())
        }
        None => (lens, aim),
    };
    // All lights together make the exposure that the settings are right for.
    let levels: Vec<f64> = plan.lights.iter().map(|l| l.level_stops.unwrap_or(0.0)).collect();
    let room = readings.ambient.as_ref().map_or(ROOM_STOPS, |a| a.level_stops);
    let front: f64 = plan.lights.iter().zip(&levels).filter(|(l, _)| l.role != Role::Rim).map(|(_, s)| s.exp2()).sum();
    let key = -(front + room.exp2()).max(0.05).log2();
    let mut names = Vec::new();
    let lights = plan
        .lights
        .iter()
        .zip(&levels)
        .map(|(l, stops)| {
            let n = names.iter().filter(|n| **n == l.role).count();
            names.push(l.role);
            light(l, if n == 0 { l.role.to_string() } else { format!("{} {}", l.role, n + 1) }, key + stops, tip)
        })
        .collect();
    let lights: Vec<SetLight> = lights;
    let table = table(&subjects, &lights);
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
                opening: None,
            },
            Wall {
                position_m: [0.0, -plan.eye_height_m, 0.0],
                normal: [0.0, 1.0, 0.0],
                width_m: 8.0,
                height_m: 8.0,
                colour: [0.2; 3],
                opening: None,
            },
        ]
        .into_iter()
        .chain(table)
        .collect(),
        ambient: Some(AmbientLight { level: Level::Stops { stops: key + room }, cct_k: None, map: None }),
        outlet_m: None,
        walk_m: Vec::new(),
        picture: PictureSpec {
            width: (f64::from(width) * k).round().max(16.0) as u32,
            height: (f64::from(height) * k).round().max(16.0) as u32,
            samples: 16,
            ..PictureSpec::default()
        },
    }
}

/// The table that a bottle, a can or a box stands on, unless a light shines from under it.
fn table(subjects: &[Subject], lights: &[SetLight]) -> Option<Wall> {
    let s = subjects.first().filter(|s| body(s).is_some() || s.kind == SubjectKind::Carton)?;
    let top = -s.rests_m()?;
    lights.iter().all(|l| l.position().y > top + UNDER_M).then(|| Wall {
        position_m: [0.0, top, 0.0],
        normal: [0.0, 1.0, 0.0],
        width_m: TABLE_M[0],
        height_m: TABLE_M[1],
        colour: [0.2; 3],
        opening: None,
    })
}

/// A light of a plan; `tip` is how far the lens looks down that nobody said, radians: its directions are then the lens's own.
fn light(l: &PlacedLight, name: String, stops: f64, tip: f64) -> SetLight {
    let from_lens = AzEl { azimuth_deg: l.azimuth_deg, elevation_deg: l.elevation_deg };
    let at = if tip == 0.0 { from_lens } else { AzEl::of(&level(&from_lens.vector(), tip)) };
    SetLight {
        azimuth_deg: Some(at.azimuth_deg),
        elevation_deg: Some(at.elevation_deg),
        distance_m: Some(l.distance_m),
        ..SetLight::of(name, source_of(&l.modifier), stops)
    }
}

/// The colour of a surface that is no brighter than surfaces are: a picture that is exposed well over would ask for more.
fn reflectance(rgb: [f64; 3]) -> [f64; 3] {
    let over = rgb.into_iter().fold(0.0, f64::max) / MOST_REFLECTANCE;
    rgb.map(|v| (v / over.max(1.0)).max(0.01))
}

/// The person a face mesh was laid on: the head that was fitted, turned and toned as it was read, eyes at the lens. And where it
/// lies in the picture, in pixels.
fn person(marks: &Marks, readings: &Readings, focal: f64, distance: f64) -> Option<Standing> {
    let mut faces: Vec<&Mark> = marks.marks.iter().filter(|m| !m.off).collect();
    // the one whose light is read, of several
    faces.sort_by_key(|m| marks.whose.as_ref() != Some(&m.id));
    let (a, b, view) = faces.into_iter().find_map(|m| {
        let MarkKind::Face(f) = &m.kind else { return None };
        let view = readings.by_mark.get(&m.id)?.face.as_ref().filter(|v| !v.shape.is_empty())?;
        Some((f.points.get("eye_image_left")?, f.points.get("eye_image_right")?, view))
    })?;
    let apart = (b[0] - a[0]).hypot(b[1] - a[1]) / view.turned_deg.to_radians().cos().max(0.5);
    let person = Subject {
        scale: (apart / focal * distance / EYES_APART_M).clamp(0.3, 3.0),
        colour: view.skin.map(reflectance),
        // how somebody wears their hair is not read
        person: Some(Person { shape: view.shape.clone(), hair: Some(Hair::Cropped), ..Person::default() }),
        ..posed(Subject::of(SubjectKind::Person), view)
    };
    Some(Standing::of(vec![person], [(a[0] + b[0]) / 2.0, (a[1] + b[1]) / 2.0]))
}

/// A head turned, nodded and tilted as a face was read, eyes at the lens.
fn posed(head: Subject, view: &FaceView) -> Subject {
    Subject {
        yaw_deg: view.turned_deg,
        pitch_deg: -view.nodded_deg,
        roll_deg: view.tilted_deg,
        gaze_deg: (view.turned_deg.abs() < MOST_GAZE_DEG).then_some([0.0, 0.0]),
        ..head
    }
}

/// Stand-ins for what is marked, and where the reference point lies in the picture, in pixels.
fn subjects(marks: &Marks, readings: &Readings, camera: &Camera, distance: f64) -> Standing {
    let focal = camera.focal_px;
    let mut eyes: Vec<[f64; 2]> = Vec::new();
    let mut balls: Vec<([f64; 2], f64, Finish)> = Vec::new();
    for m in marks.marks.iter().filter(|m| !m.off) {
        match &m.kind {
            MarkKind::Eye(Eye { limbus, .. }) => eyes.push(limbus.centre),
            MarkKind::Ball(Ball { centre, radius_px, finish }) => balls.push((*centre, *radius_px, *finish)),
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
        let head = Subject { scale, ..Subject::of(SubjectKind::HeadLong) };
        let read = |m: &Mark| readings.by_mark.get(&m.id)?.face.as_ref();
        let view = marks.marks.iter().filter(|m| !m.off).find_map(read);
        let head = view.map_or(head.clone(), |v| posed(head, v));
        return Standing::of(vec![head], mean(&eyes[..2]));
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
                ..Subject::of(match finish {
                    Finish::Matte => SubjectKind::BallMatte,
                    Finish::Mirror => SubjectKind::BallMirror,
                })
            })
            .collect();
        return Standing::of(list, centre);
    }
    body_of_revolution(marks, distance / focal)
        .or_else(|| standing_box(marks, camera, distance))
        .unwrap_or_else(|| Standing::of(vec![Subject::of(SubjectKind::HeadLong)], camera.centre))
}

/// A direction of the lens frame of a lens that looks down by `tip`, in a level frame.
fn level(v: &Vec3, tip: f64) -> Vec3 {
    Camera { pitch: tip, ..Camera::far(1, 1) }.to_set(v)
}

/// The first box that is marked, as it stands: its proportions and its turn are as the corner shows them, its size as the distance
/// makes it. Where nobody said how far the lens looks down, the box says it: it stands upright (common practice).
fn standing_box(marks: &Marks, camera: &Camera, distance: f64) -> Option<Standing> {
    let c = marks.marks.iter().filter(|m| !m.off).find_map(|m| match &m.kind {
        MarkKind::Cuboid(c) => Some(c),
        _ => None,
    })?;
    let posed = cuboid::pose(*camera, c.corner, c.ends).ok()?;
    let normals = [0, 1, 2].map(|k| posed.normal(k));
    let said = marks.camera.as_ref().is_some_and(|c| c.pitch_deg.is_some());
    // one that shows its underside, or lies askew, is put upright all the same
    let (up, told) = cuboid::looks_down(&normals);
    let down = told.filter(|_| !said).unwrap_or(camera.pitch);
    let flat = normals.map(|n| level(&n, down));
    let others = [(up + 1) % 3, (up + 2) % 3];
    let [front, aside] = if flat[others[0]].z > flat[others[1]].z { others } else { [others[1], others[0]] };
    let l = posed.lengths;
    let middle = posed.middle();
    let per = distance / middle.norm();
    let carton = Subject {
        yaw_deg: AzEl::of(&flat[front]).azimuth_deg,
        size_m: Some([l[aside], l[up], l[front]].map(|v| (v * per).clamp(SIZES_M[0], SIZES_M[1]))),
        ..Subject::of(SubjectKind::Carton)
    };
    Some(Standing { subjects: vec![carton], at: posed.seen_at(&middle), down: Some(down) })
}

/// Half width of a neck against that of its body at most, and length of a bottle against its radius at least.
const NECK: f64 = 0.72;
const SLENDER: f64 = 5.2;

/// A bottle or a can for the first one that is marked, with the middle of it in the picture.
fn body_of_revolution(marks: &Marks, per_px: f64) -> Option<Standing> {
    let c = marks.marks.iter().filter(|m| !m.off).find_map(|m| match &m.kind {
        MarkKind::Cylinder(c) => Some(c),
        _ => None,
    })?;
    let [a, b] = c.axis;
    let long = (a[0] - b[0]).hypot(a[1] - b[1]);
    let widest = c.profile.iter().map(|p| p[1]).fold(0.0, f64::max);
    let narrowest = c.profile.iter().map(|p| p[1]).fold(f64::INFINITY, f64::min);
    let bottle = if c.profile.is_empty() { long > SLENDER * c.radius_px } else { narrowest < NECK * widest };
    let kind = if bottle { SubjectKind::Bottle } else { SubjectKind::Can };
    let (radius, _) = body(&Subject::of(kind))?;
    let scale = (c.radius_px.max(widest) * per_px / radius).clamp(0.3, 6.0);
    let middle = [f64::midpoint(a[0], b[0]), f64::midpoint(a[1], b[1])];
    Some(Standing::of(vec![Subject { scale, ..Subject::of(kind) }], middle))
}
