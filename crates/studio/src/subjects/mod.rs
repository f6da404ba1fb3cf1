//! What stands before the lens: meshes made once and kept, and glass eyes.

pub(crate) mod heads;
pub(crate) mod plain;
pub(crate) mod products;
pub(crate) mod shapes;

use crate::math::{Rgb, V};
use crate::mesh::Mesh;
use lightset::set::SubjectKind;
use std::collections::HashMap;
use std::sync::{Arc, LazyLock, Mutex};

type Key = (&'static str, Option<[u32; 3]>);

static KEPT: LazyLock<Mutex<HashMap<Key, Arc<Mesh>>>> = LazyLock::new(Mutex::default);

/// The mesh of that name and colour, made if it is not there yet.
fn kept(name: &'static str, colour: Option<Rgb>, make: impl FnOnce() -> Mesh) -> Arc<Mesh> {
    let key = (name, colour.map(|c| c.map(f32::to_bits)));
    if let Some(m) = KEPT.lock().ok().and_then(|k| k.get(&key).cloned()) {
        return m;
    }
    let mesh = Arc::new(make());
    if let Ok(mut k) = KEPT.lock() {
        // colours are free to choose: do not keep every one that was ever tried
        if k.len() > 24 {
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

/// The parts of a subject. `gaze` is in the subject's own frame.
pub(crate) fn parts(kind: SubjectKind, colour: Option<Rgb>, gaze: V) -> Vec<Part> {
    let mesh = |m: Arc<Mesh>, stuff: Stuff| Part { form: Form::Mesh(m), stuff };
    let head = |[name, coat]: [&'static str; 2], carving: &heads::Carving, iris: Rgb| {
        let mut out = vec![
            mesh(kept(name, colour, || heads::mesh(carving, colour, 0.0023)), Stuff::Wood),
            mesh(kept(coat, None, || heads::coat_mesh(carving)), Stuff::Painted),
        ];
        let (_, to_cornea) = heads::eye_depths();
        for side in [-1.0, 1.0] {
            let c = heads::eyeball(side);
            out.push(Part {
                form: Form::Sphere(c, heads::EYEBALL_MM * heads::EYE_SCALE, [0.66, 0.64, 0.60]),
                stuff: Stuff::Coated(1.376),
            });
            let r = direction::eye::CORNEA_RADIUS_MM as f32 * heads::EYE_SCALE;
            out.push(Part {
                form: Form::Sphere(c + gaze * to_cornea, r, iris),
                stuff: Stuff::Cornea(iris, gaze, 0.27),
            });
        }
        out
    };
    match kind {
        SubjectKind::HeadLong => head(["head-long", "coat-long"], &heads::LONG, [0.05, 0.10, 0.14]),
        SubjectKind::HeadRound => head(["head-round", "coat-round"], &heads::ROUND, [0.10, 0.055, 0.02]),
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
        SubjectKind::Shoe => vec![mesh(kept("shoe", None, products::shoe), Stuff::Painted)],
        SubjectKind::Fork => vec![mesh(kept("fork", None, products::fork), Stuff::Painted)],
        SubjectKind::Drape => {
            let rgb = colour.unwrap_or([0.20, 0.05, 0.06]);
            vec![mesh(kept("drape", Some(rgb), || products::drape(rgb)), Stuff::Painted)]
        }
        SubjectKind::Wedge => vec![mesh(kept("wedge", None, products::wedge), Stuff::Painted)],
        SubjectKind::BallMatte => {
            let rgb = colour.unwrap_or([0.5; 3]);
            vec![Part { form: Form::Sphere(V::zeros(), 0.075, rgb), stuff: Stuff::Painted }]
        }
        SubjectKind::BallMirror => {
            vec![Part { form: Form::Sphere(V::zeros(), 0.075, [0.9; 3]), stuff: Stuff::Mirror(0.9) }]
        }
    }
}
