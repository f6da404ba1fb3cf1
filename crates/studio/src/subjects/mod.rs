//! What stands before the lens: meshes made once and kept, and glass eyes.

pub(crate) mod heads;
pub(crate) mod people;
pub(crate) mod plain;
pub(crate) mod products;
pub(crate) mod shapes;

use crate::math::{Rgb, V};
use crate::mesh::Mesh;
use lightset::set::{BALL_RADIUS_M, Person, Subject, SubjectKind};
use std::borrow::Cow;
use std::collections::HashMap;
use std::sync::{Arc, LazyLock, Mutex};

type Key = (Cow<'static, str>, Option<[u32; 3]>);

/// Most meshes kept: colours and people are free to choose, and every one that was ever tried would fill the memory.
const MOST_KEPT: usize = 24;

static KEPT: LazyLock<Mutex<HashMap<Key, Arc<Mesh>>>> = LazyLock::new(Mutex::default);

/// The mesh of that name and colour, made if it is not there yet.
fn kept(name: impl Into<Cow<'static, str>>, colour: Option<Rgb>, make: impl FnOnce() -> Mesh) -> Arc<Mesh> {
    let key = (name.into(), colour.map(|c| c.map(f32::to_bits)));
    if let Some(m) = KEPT.lock().ok().and_then(|k| k.get(&key).cloned()) {
        return m;
    }
    let mesh = Arc::new(make());
    if let Ok(mut k) = KEPT.lock() {
        if k.len() > MOST_KEPT {
            k.clear();
        }
        k.insert(key, mesh.clone());
    }
    mesh
}

/// How light meets a part.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) enum Stuff {
    /// As painted.
    Painted,
    /// As painted, with turned wood's grain.
    Wood,
    /// Smooth clear coat of this index over the paint.
    Coated(f32),
    /// Solid clear glass or liquid: index, and absorption per metre.
    Glass(f32, Rgb),
    /// A mirror.
    Mirror(f32),
    /// A cornea over an iris: iris colour, gaze, half angle of the pupil from the cornea's centre.
    Cornea(Rgb, V, f32),
}

/// Surface of a part.
#[derive(Debug, Clone)]
pub(crate) enum Form {
    /// Triangles.
    Mesh(Arc<Mesh>),
    /// A sphere about a centre in the subject's frame, with matte paint.
    Sphere(V, f32, Rgb),
}

/// A part of a subject in its own frame.
#[derive(Debug, Clone)]
pub(crate) struct Part {
    pub form: Form,
    pub stuff: Stuff,
}

/// Eyeball and cornea about an eye's centre; `scale` is metres per millimetre of a usual eye.
fn eye(centre: V, scale: f32, white: Rgb, iris: Rgb, gaze: V) -> [Part; 2] {
    let (_, to_cornea) = heads::eye_depths(scale);
    let r = direction::eye::CORNEA_RADIUS_MM as f32 * scale;
    let ball = Form::Sphere(centre, heads::EYEBALL_MM * scale, white);
    let cornea = Form::Sphere(centre + gaze * to_cornea, r, iris);
    [Part { form: ball, stuff: Stuff::Coated(1.376) }, Part { form: cornea, stuff: Stuff::Cornea(iris, gaze, 0.27) }]
}

/// Centres of a head's eyes in its own frame, image left first, and metres per millimetre of a usual eye.
pub(crate) fn eyes(kind: SubjectKind, person: Option<&Person>) -> ([V; 2], f32) {
    match kind {
        SubjectKind::Person => (people::eyes(person.unwrap_or(&Person::default())), people::EYE_SCALE),
        _ => ([-1.0, 1.0].map(heads::eyeball), heads::EYE_SCALE),
    }
}

/// The parts of a subject. `gaze` is in the subject's own frame.
pub(crate) fn parts(subject: &Subject, gaze: V) -> Vec<Part> {
    let kind = subject.kind;
    let colour = subject.colour.map(|c| c.map(|x| x as f32));
    let mesh = |m: Arc<Mesh>, stuff: Stuff| Part { form: Form::Mesh(m), stuff };
    let head = |[name, coat]: [&'static str; 2], carving: &heads::Carving, iris: Rgb| {
        let mut out = vec![
            mesh(kept(name, colour, || heads::mesh(carving, colour, 0.0023)), Stuff::Wood),
            mesh(kept(coat, None, || heads::coat_mesh(carving)), Stuff::Painted),
        ];
        let (eyes, scale) = eyes(kind, None);
        out.extend(eyes.into_iter().flat_map(|c| eye(c, scale, [0.66, 0.64, 0.60], iris, gaze)));
        out
    };
    match kind {
        SubjectKind::HeadLong => head(["head-long", "coat-long"], &heads::LONG, [0.05, 0.10, 0.14]),
        SubjectKind::HeadRound => head(["head-round", "coat-round"], &heads::ROUND, [0.10, 0.055, 0.02]),
        SubjectKind::Person => {
            let made = people::Made::of(subject, colour);
            let piece = |p: &people::Piece| {
                mesh(kept(format!("{p:?} {}", made.name), colour, || made.mesh(*p)), Stuff::Painted)
            };
            let mut out: Vec<Part> = made.pieces().iter().map(piece).collect();
            let (eyes, scale) = eyes(kind, subject.person.as_ref());
            out.extend(eyes.into_iter().flat_map(|c| eye(c, scale, [0.52, 0.49, 0.46], made.iris(), gaze)));
            out
        }
        SubjectKind::Bottle => {
            let tint = colour.unwrap_or([0.80, 0.42, 0.10]);
            // colour is what is left of the light after four centimetres
            let absorb = tint.map(|t| -t.clamp(0.002, 0.999).ln() / 0.04);
            vec![
                mesh(kept("bottle", None, || products::bottle_glass([0.02; 3])), Stuff::Glass(1.40, absorb)),
                mesh(kept("label", None, products::bottle_label), Stuff::Painted),
                mesh(kept("cap", None, products::bottle_cap), Stuff::Painted),
            ]
        }
        SubjectKind::Can => vec![mesh(kept("can", None, products::can), Stuff::Painted)],
        SubjectKind::Tin => vec![mesh(kept("tin", None, products::tin), Stuff::Painted)],
        SubjectKind::Carton => {
            let half = subject.carton_half_m().map(|v| v as f32);
            let rgb = colour.unwrap_or(products::BOARD);
            vec![mesh(kept(format!("carton {half:?}"), Some(rgb), || products::carton(half, rgb)), Stuff::Painted)]
        }
        SubjectKind::Shoe => vec![mesh(kept("shoe", None, products::shoe), Stuff::Painted)],
        SubjectKind::Fork => vec![mesh(kept("fork", None, products::fork), Stuff::Painted)],
        SubjectKind::Drape => {
            let rgb = colour.unwrap_or([0.20, 0.05, 0.06]);
            vec![mesh(kept("drape", Some(rgb), || products::drape(rgb)), Stuff::Painted)]
        }
        SubjectKind::Wedge => vec![mesh(kept("wedge", None, products::wedge), Stuff::Painted)],
        SubjectKind::BallMatte => {
            let rgb = colour.unwrap_or([0.5; 3]);
            vec![Part { form: Form::Sphere(V::zeros(), BALL_RADIUS_M as f32, rgb), stuff: Stuff::Painted }]
        }
        SubjectKind::BallMirror => {
            vec![Part { form: Form::Sphere(V::zeros(), BALL_RADIUS_M as f32, [0.9; 3]), stuff: Stuff::Mirror(0.9) }]
        }
    }
}
