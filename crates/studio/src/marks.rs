//! Marks on a studio picture, from what is known of its set: what a careful person would draw.

use crate::math::{V, turn_of, v};
use crate::subjects::{self, heads, people};
use direction::eye::LIMBUS_RADIUS_MM;
use evidence::marks::{Ball, CameraFacts, Cuboid, Ellipse, Eye, Face, Finish, Mark, MarkKind, Marks};
use lightset::set::{BALL_RADIUS_M, LID_HALF_M, LID_UP_M, LightSet, Person, Subject, SubjectKind, TIN_HALF_M};
use optics::geometry::{AzEl, clock_of};

/// Pixel of a point of the set, and pixels per metre there. `None` behind the lens.
pub fn project(set: &LightSet, p: [f64; 3]) -> Option<([f64; 2], f64)> {
    lightset::frame::Sight::of(set).pixel(&p.into())
}

/// A point given in a subject's own frame, in the set frame.
pub fn in_set(s: &Subject, own: [f64; 3]) -> [f64; 3] {
    let p = turn_of(s.yaw_deg, s.pitch_deg, s.roll_deg) * (v(own) * s.scale as f32) + v(s.position_m);
    p.cast::<f64>().into()
}

fn mark(id: String, kind: MarkKind) -> Mark {
    Mark { id, off: false, kind, other: Default::default() }
}

/// Eyes of heads and outlines of ball probes, with the camera and the settings.
pub fn marks(set: &LightSet) -> Marks {
    let mut list = Vec::new();
    let mut many = 0;
    for s in &set.subjects {
        let suffix = if many == 0 { String::new() } else { format!("-{}", many + 1) };
        match s.kind {
            kind if kind.is_head() => {
                many += 1;
                list.extend(face(set, s).map(|kind| mark(format!("face{suffix}"), kind)));
                for (name, side) in [("left", 0), ("right", 1)] {
                    if let Some(kind) = eye(set, s, side) {
                        list.push(mark(format!("eye-{name}{suffix}"), kind));
                    }
                }
            }
            SubjectKind::BallMatte | SubjectKind::BallMirror => {
                if let Some((centre, k)) = project(set, s.position_m) {
                    let finish = if s.kind == SubjectKind::BallMatte { Finish::Matte } else { Finish::Mirror };
                    let name = if s.kind == SubjectKind::BallMatte { "matte" } else { "mirror" };
                    // the silhouette of a near ball is a little larger than its disc
                    let r = BALL_RADIUS_M * s.scale;
                    let d = (v(set.camera.position_m) - v(s.position_m)).norm();
                    let grow = 1.0 / (1.0 - (r / f64::from(d)).powi(2)).sqrt();
                    list.push(mark(
                        format!("ball-{name}{suffix}"),
                        MarkKind::Ball(Ball { finish, centre, radius_px: r * k * grow }),
                    ));
                }
            }
            SubjectKind::Tin => list.extend(tin(set, s).map(|kind| mark(format!("box{suffix}"), kind))),
            SubjectKind::Carton => list.extend(carton(set, s).map(|kind| mark(format!("box{suffix}"), kind))),
            _ => {}
        }
    }
    let eye = v(set.camera.position_m);
    let down = (v(set.camera.aim_m) - eye).normalize().y;
    Marks {
        camera: Some(CameraFacts {
            vfov_deg: Some(set.camera.vfov_deg()),
            pitch_deg: Some(-f64::from(down.asin().to_degrees())),
            distance_m: Some(f64::from(eye.norm())),
            ..CameraFacts::default()
        }),
        exposure: Some(set.camera.exposure),
        marks: list,
        ..Marks::default()
    }
}

/// The corner of a tin's lid that is nearest to the lens, with the three edges from it. Lid and body differ.
fn tin(set: &LightSet, s: &Subject) -> Option<MarkKind> {
    let lens = v(set.camera.position_m) - v(s.position_m);
    let own = turn_of(s.yaw_deg, s.pitch_deg, s.roll_deg).transpose() * lens;
    let ([x, _, z], y) = (LID_HALF_M, LID_UP_M + LID_HALF_M[1]);
    let (x, z) = (x * f64::from(own.x.signum()), z * f64::from(own.z.signum()));
    let at = |p: [f64; 3]| Some(project(set, in_set(s, p))?.0);
    let corner = at([x, y, z])?;
    let ends = [at([-x, y, z])?, at([x, -TIN_HALF_M[1], z])?, at([x, y, -z])?];
    Some(MarkKind::Cuboid(Cuboid { corner, ends, unlike: true }))
}

/// The upper corner of a carton that is nearest to the lens, with the three edges from it. All its sides are of one board.
fn carton(set: &LightSet, s: &Subject) -> Option<MarkKind> {
    let lens = v(set.camera.position_m) - v(s.position_m);
    let own = turn_of(s.yaw_deg, s.pitch_deg, s.roll_deg).transpose() * lens;
    let half = s.carton_half_m();
    let [x, y, z] = [0, 1, 2].map(|k| half[k] * f64::from(own[k].signum()));
    let at = |p: [f64; 3]| Some(project(set, in_set(s, p))?.0);
    let (corner, ends) = (at([x, y, z])?, [at([-x, y, z])?, at([x, -y, z])?, at([x, y, -z])?]);
    Some(MarkKind::Cuboid(Cuboid { corner, ends, unlike: false }))
}

/// The limbus ellipse of one eye of a head.
fn eye(set: &LightSet, s: &Subject, side: usize) -> Option<MarkKind> {
    let turn = turn_of(s.yaw_deg, s.pitch_deg, s.roll_deg);
    let gaze =
        s.gaze_deg.map_or(turn * V::z(), |[az, el]| v(AzEl { azimuth_deg: az, elevation_deg: el }.vector().into()));
    let (centres, life) = subjects::eyes(s.kind, s.person.as_ref());
    let own = centres[side] + turn.transpose() * gaze * heads::eye_depths(life).0;
    let limbus = in_set(s, own.cast::<f64>().into());
    let (centre, k) = project(set, limbus)?;
    let view = (v(set.camera.position_m) - v(limbus)).normalize();
    let cos = f64::from(gaze.dot(&view)).clamp(-1.0, 1.0);
    if cos < 0.3 {
        return None;
    }
    let r = LIMBUS_RADIUS_MM * f64::from(life) * s.scale * k;
    let scene = crate::scene::Scene::new(&LightSet { subjects: Vec::new(), lights: Vec::new(), ..set.clone() });
    let aside = gaze - view * gaze.dot(&view);
    let (dx, dy) = (f64::from(aside.dot(&scene.right)), f64::from(aside.dot(&scene.up)));
    let turned = cos < 0.9985;
    let angle_deg = if turned { (-dy).atan2(dx).to_degrees() + 90.0 } else { 0.0 };
    Some(MarkKind::Eye(Eye {
        limbus: Ellipse { centre, rx: r, ry: r * cos, angle_deg },
        looks_to_clock: turned.then(|| clock_of(dx, dy)),
        catchlights: None,
    }))
}

/// The landmarks of a head, unless it is turned into profile.
fn face(set: &LightSet, s: &Subject) -> Option<MarkKind> {
    let out = turn_of(s.yaw_deg, s.pitch_deg, s.roll_deg) * V::z();
    let view = (v(set.camera.position_m) - v(s.position_m)).normalize();
    if out.dot(&view) < 0.5 {
        return None;
    }
    let landmarks = match s.kind {
        SubjectKind::HeadLong => heads::landmarks(&heads::LONG),
        SubjectKind::Person => people::landmarks(s.person.as_ref().unwrap_or(&Person::default())),
        _ => heads::landmarks(&heads::ROUND),
    };
    let points = landmarks
        .into_iter()
        .filter_map(|(n, p)| Some((n.to_owned(), project(set, in_set(s, p.cast::<f64>().into()))?.0)))
        .collect();
    // a head of the family shows where each point of a face mesh lies
    let mesh = match s.kind {
        SubjectKind::Person => people::mesh_points(s.person.as_ref().unwrap_or(&Person::default())),
        _ => Vec::new(),
    };
    let at = |p: V| project(set, in_set(s, p.cast::<f64>().into())).map(|(at, _)| at);
    let dense = mesh.into_iter().map(|p| at(p).map(|[x, y]| [x, y, 0.0])).collect::<Option<Vec<_>>>();
    Some(MarkKind::Face(Face { points, dense: dense.unwrap_or_default() }))
}
