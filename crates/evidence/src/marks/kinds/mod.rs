//! Kinds of marks: one file each. A new kind is a file here and its name in the list below; in the front end a file of
//! `web/src/read/kinds`.

use super::carry::Carry;
use super::check;
use super::desk::{Desk, round};
use crate::readings::{MarkReading, Plot};
use direction::shapes::Point;
use serde::Serialize;
use serde_json::{Map, Value};
use utoipa::ToSchema;

/// What a kind of mark can do. Defaults are those of a mark that has no size of its own and helps no other.
pub trait Kind {
    /// Checks all that can be said without the picture.
    ///
    /// # Errors
    /// One sentence that names the field and what was expected.
    fn check(&self) -> Result<(), String>;

    /// Takes it to another picture: points go where they lie, lengths in pixels are scaled, an ellipse's angle and the
    /// clock of a gaze are turned; metres, reflectances and words stay.
    fn carry(&mut self, to: &Carry);

    /// The point its size and turn are taken at.
    fn anchor(&self) -> Option<Point>;

    /// Reads it: evidence is left on the desk, what the mark says comes back.
    fn read(&self, desk: &mut Desk) -> MarkReading;

    /// Middle of the thing on the subject that it marks, where a remark on it is pinned.
    fn place(&self) -> Option<Point> {
        None
    }

    /// Largest extent of the mark itself in pixels, beside where its points lie.
    fn size_px(&self) -> f64 {
        0.0
    }

    /// Whether reading it takes a noticeable part of a second.
    fn is_costly(&self) -> bool {
        false
    }

    /// Whether it needs the camera's angle to be read well.
    fn needs_camera(&self) -> bool {
        false
    }

    /// When it is read; `faces`: whether a face is marked.
    fn turn(&self, _faces: bool) -> Turn {
        Turn::First
    }

    /// Whether it shows a picture of the sources, not a sum of their light.
    fn shows_sources(&self) -> bool {
        false
    }

    /// Whether a light that it does not show is not there.
    fn shows_all(&self) -> bool {
        false
    }
}

/// When a mark is read: what the others saw helps.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Turn {
    /// Needs nothing of others.
    First,
    /// Is helped by the sources that mirrors show.
    AfterMirrors,
    /// Is helped by all lights read so far.
    AfterProbes,
    /// Needs the key.
    WithKey,
}

impl Turn {
    /// All of them, in order.
    pub const ALL: [Turn; 4] = [Turn::First, Turn::AfterMirrors, Turn::AfterProbes, Turn::WithKey];
}

macro_rules! kinds {
    ($($module:ident::$kind:ident),+ $(,)?) => {
        $(mod $module; pub use $module::$kind;)+

        /// What a mark points at.
        #[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
        #[serde(tag = "kind", rename_all = "lowercase")]
        #[allow(missing_docs)]
        pub enum MarkKind {
            $($kind($kind)),+
        }

        impl MarkKind {
            /// Reads the fields of a mark of a kind; with them come the fields that this version does not know.
            pub(super) fn parse(name: &str, fields: Map<String, Value>) -> Result<(MarkKind, Map<String, Value>), String> {
                $(if name == stringify!($module) {
                    return known(fields).map(|(kind, unknown)| (MarkKind::$kind(kind), unknown));
                })+
                let all = [$(stringify!($module)),+].join(", ");
                Err(format!("kind: expected one of {all}, found \"{name}\""))
            }
        }

        impl std::ops::Deref for MarkKind {
            type Target = dyn Kind;

            fn deref(&self) -> &Self::Target {
                match self {
                    $(MarkKind::$kind(kind) => kind),+
                }
            }
        }

        impl std::ops::DerefMut for MarkKind {
            fn deref_mut(&mut self) -> &mut Self::Target {
                match self {
                    $(MarkKind::$kind(kind) => kind),+
                }
            }
        }
    };
}

kinds! {
    ball::Ball,
    eye::Eye,
    patch::Patch,
    cast::Cast,
    penumbra::Penumbra,
    contour::Contour,
    rim::Rim,
    gradient::Gradient,
    pattern::Pattern,
    cylinder::Cylinder,
    cuboid::Cuboid,
    face::Face,
    wedge::Wedge,
}

pub use ball::Finish;
pub use cast::ShadowOn;
pub use cylinder::{of_silhouette, traced, traced_about};

/// The known fields as a value, and the others under their paths.
fn known<T: serde::de::DeserializeOwned>(fields: Map<String, Value>) -> Result<(T, Map<String, Value>), String> {
    let fields = Value::Object(fields);
    let mut paths = Vec::new();
    let mut ignored = |path: serde_ignored::Path| paths.push(path.to_string());
    let known = serde_ignored::Deserializer::new(&fields, &mut ignored);
    let value: T = serde_path_to_error::deserialize(known).map_err(|e| match e.path().to_string().as_str() {
        "." => e.inner().to_string(),
        path => format!("{path}: {}", e.inner()),
    })?;
    // an optional thing is a step of its own in a path; what was kept under a path before lies there whole
    let step = |v: Value, part: &str| match (&v, part) {
        (_, "?") => Some(v),
        (Value::Array(list), i) => list.get(i.parse::<usize>().ok()?).cloned(),
        (v, name) => v.get(name).cloned(),
    };
    let at = |path: &str| {
        let whole = fields.get(path).cloned();
        whole.or_else(|| path.split('.').try_fold(fields.clone(), step))
    };
    let unknown = paths.iter().filter_map(|p| Some((p.replace(".?", ""), at(p)?))).collect();
    Ok((value, unknown))
}

/// Samples for a plot, rounded; what is across, what is up, what the line is.
fn plot([across, up, line]: [&str; 3], points: &[[f64; 3]], unit: impl Fn(f64) -> f64) -> Plot {
    let points = points.iter().map(|[x, a, b]| [round(unit(*x), 2), round(*a, 4), round(*b, 4)]).collect();
    Plot { across: across.into(), up: up.into(), line: line.into(), points }
}
