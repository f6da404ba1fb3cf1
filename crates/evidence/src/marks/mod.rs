//! What a person or the finder marked on one picture: the format `slant-marks/1`.
//!
//! Unknown fields are kept on reading and written back; [`Marks::unknown_fields`] names them.

mod carry;
mod check;

pub use check::{MOST_CATCHLIGHTS, MOST_COSTLY, MOST_LANDMARKS, MOST_MARKS, MOST_POINTS, MOST_SIZES, MOST_STEPS};

use optics::exposure::Settings;
use optics::geometry::Camera;
use optics::tone::Encoding;
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};
use utoipa::ToSchema;

/// A point in pixels: x right, y down, origin at the top-left corner.
pub type Point = [f64; 2];

/// Name and version of the marks format.
pub const FORMAT: &str = "slant-marks/1";

/// All marks on one picture, with what is known of the camera.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Marks {
    /// Always `slant-marks/1`.
    pub format: String,
    /// Camera geometry, if known; else a level far camera is assumed and said so.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub camera: Option<CameraFacts>,
    /// How the picture is encoded; sRGB if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub encoding: Option<Encoding>,
    /// Camera settings, if known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub exposure: Option<Settings>,
    /// The marks.
    #[serde(default)]
    pub marks: Vec<Mark>,
    /// Fields this version does not know; kept.
    #[serde(flatten)]
    #[schema(ignore)]
    pub other: Map<String, Value>,
}

/// What is known of the camera that took the picture.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
pub struct CameraFacts {
    /// Vertical field of view in degrees.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub vfov_deg: Option<f64>,
    /// Downward tilt in degrees.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pitch_deg: Option<f64>,
    /// Height of the lens above the floor in metres.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub height_m: Option<f64>,
    /// Distance from lens to subject in metres.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub distance_m: Option<f64>,
    /// Fields this version does not know; kept.
    #[serde(flatten)]
    #[schema(ignore)]
    pub other: Map<String, Value>,
}

/// One mark: an id and what it points at.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Mark {
    /// Unique within the picture.
    pub id: String,
    /// Switched off by a person: kept, not read.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub off: bool,
    /// What is marked.
    #[serde(flatten)]
    pub kind: MarkKind,
    /// Fields this version does not know; kept.
    #[serde(flatten)]
    #[schema(ignore)]
    pub other: Map<String, Value>,
}

/// What a mark points at.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "lowercase")]
pub enum MarkKind {
    /// A ball probe.
    Ball {
        /// Matte or mirror.
        finish: Finish,
        /// Centre of its outline.
        centre: [f64; 2],
        /// Radius of its outline.
        radius_px: f64,
    },
    /// An eye.
    Eye {
        /// Outline of the iris against the white.
        limbus: Ellipse,
        /// Clock position towards which a turned eye looks (12 up, 3 image right).
        #[serde(default, skip_serializing_if = "Option::is_none")]
        looks_to_clock: Option<f64>,
        /// Catchlights as a person outlined them; found by the program if absent.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        catchlights: Option<Vec<Outline>>,
    },
    /// A patch of one material.
    Patch {
        /// What the patch shows.
        role: PatchRole,
        /// Corners.
        polygon: Vec<[f64; 2]>,
    },
    /// A cast shadow on a plane.
    Cast {
        /// Foot of the object.
        base: [f64; 2],
        /// Top of the object.
        top: [f64; 2],
        /// Where the shadow of the top falls.
        tip: [f64; 2],
        /// Height of the object in metres.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        height_m: Option<f64>,
        /// What the shadow falls on: the level floor, or something else (a face, a wall), where only the side it comes
        /// from round the picture can be told.
        #[serde(default, skip_serializing_if = "ShadowOn::is_floor")]
        on: ShadowOn,
    },
    /// A line drawn across a shadow's edge.
    Penumbra {
        /// Start.
        a: [f64; 2],
        /// End.
        b: [f64; 2],
        /// Distance from the casting edge to the receiver in metres.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        gap_m: Option<f64>,
        /// Scale at the receiver.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        px_per_m: Option<f64>,
    },
    /// An occluding contour.
    Contour {
        /// Points along the outline.
        points: Vec<[f64; 2]>,
        /// Side of the outline that is background, as seen walking along the points.
        outward: String,
    },
    /// A line across a bright edge that a light from behind draws.
    Rim {
        /// Start, inside the form.
        inside: [f64; 2],
        /// End, in the background.
        outside: [f64; 2],
        /// Radius of the form there (a head, a shoulder, a bottle), if known.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        radius_px: Option<f64>,
    },
    /// A part of the background.
    Gradient {
        /// Corners.
        polygon: Vec<[f64; 2]>,
    },
    /// A line across bands of light and shade.
    Pattern {
        /// Start.
        a: [f64; 2],
        /// End.
        b: [f64; 2],
    },
    /// A glossy cylinder.
    Cylinder {
        /// Ends of its axis.
        axis: [[f64; 2]; 2],
        /// Radius.
        radius_px: f64,
    },
    /// A face by its landmarks.
    Face {
        /// Named points.
        #[schema(value_type = std::collections::BTreeMap<String, [f64; 2]>)]
        points: std::collections::BTreeMap<String, [f64; 2]>,
    },
    /// A step wedge or target of known reflectances.
    Wedge {
        /// Its patches.
        patches: Vec<WedgePatch>,
    },
}

/// What a shadow falls on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "lowercase")]
pub enum ShadowOn {
    /// The level floor.
    #[default]
    Floor,
    /// Anything else.
    Other,
}

impl ShadowOn {
    fn is_floor(&self) -> bool {
        *self == ShadowOn::Floor
    }
}

/// Surface of a ball probe.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "lowercase")]
pub enum Finish {
    /// Even, without gloss.
    Matte,
    /// A mirror.
    Mirror,
}

/// An ellipse; `angle_deg` turns the `rx` axis from image right towards image down.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Ellipse {
    /// Centre.
    pub centre: [f64; 2],
    /// Half axis along `angle_deg`.
    pub rx: f64,
    /// Half axis across it.
    pub ry: f64,
    /// Turn in degrees, clockwise on screen.
    #[serde(default)]
    pub angle_deg: f64,
}

impl Ellipse {
    /// Distance from the centre in units of the outline: 1 on it.
    pub fn level(&self, x: f64, y: f64) -> f64 {
        let (s, c) = self.angle_deg.to_radians().sin_cos();
        let (dx, dy) = (x - self.centre[0], y - self.centre[1]);
        ((dx * c + dy * s) / self.rx).hypot((-dx * s + dy * c) / self.ry)
    }
}

/// A closed outline.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Outline {
    /// Corners in order.
    pub outline: Vec<[f64; 2]>,
}

/// A patch of known reflectance.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct WedgePatch {
    /// Corners.
    pub polygon: Vec<[f64; 2]>,
    /// Diffuse reflectance in 0..1.
    pub reflectance: f64,
}

/// What a patch shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)]
pub enum PatchRole {
    Lit,
    Shadow,
    Forehead,
    Chest,
    Background,
    BackgroundFar,
    Rim,
    Label,
    Liquid,
    Grey18,
    White,
    Black,
    Other,
}

impl MarkKind {
    /// Where the mark is: the point its size and turn are taken at.
    pub fn anchor(&self) -> Option<Point> {
        match self {
            MarkKind::Ball { centre, .. } => Some(*centre),
            MarkKind::Eye { limbus, .. } => Some(limbus.centre),
            MarkKind::Patch { polygon, .. } | MarkKind::Gradient { polygon } => polygon.first().copied(),
            MarkKind::Cast { base, .. } => Some(*base),
            MarkKind::Penumbra { a, .. } | MarkKind::Pattern { a, .. } => Some(*a),
            MarkKind::Contour { points, .. } => points.first().copied(),
            MarkKind::Rim { inside, .. } => Some(*inside),
            MarkKind::Cylinder { axis, .. } => Some(axis[0]),
            MarkKind::Face { points } => points.values().next().copied(),
            MarkKind::Wedge { patches } => patches.first().and_then(|p| p.polygon.first().copied()),
        }
    }

    /// Largest extent of the mark itself in pixels, beside where its points lie.
    pub fn size_px(&self) -> f64 {
        match self {
            MarkKind::Ball { radius_px, .. } | MarkKind::Cylinder { radius_px, .. } => *radius_px,
            MarkKind::Eye { limbus, .. } => limbus.rx.max(limbus.ry),
            MarkKind::Rim { radius_px, .. } => radius_px.unwrap_or(0.0),
            MarkKind::Patch { .. }
            | MarkKind::Cast { .. }
            | MarkKind::Penumbra { .. }
            | MarkKind::Contour { .. }
            | MarkKind::Gradient { .. }
            | MarkKind::Pattern { .. }
            | MarkKind::Face { .. }
            | MarkKind::Wedge { .. } => 0.0,
        }
    }

    /// Whether reading it takes a noticeable part of a second.
    fn is_costly(&self) -> bool {
        matches!(self, MarkKind::Ball { .. } | MarkKind::Eye { .. } | MarkKind::Face { .. })
    }
}

impl Default for Marks {
    fn default() -> Self {
        Marks {
            format: FORMAT.into(),
            camera: None,
            encoding: None,
            exposure: None,
            marks: Vec::new(),
            other: Map::new(),
        }
    }
}

impl Marks {
    /// Reads marks from JSON text.
    ///
    /// # Errors
    /// One sentence that names the field and what was expected.
    pub fn parse(text: &str) -> Result<Marks, String> {
        let value: Value = serde_json::from_str(text).map_err(|e| format!("marks are not JSON: {e}"))?;
        Self::from_value(value)
    }

    /// Reads marks from a JSON value. Each mark is read on its own, so that the sentence can name it.
    ///
    /// # Errors
    /// One sentence that names the field and what was expected.
    pub fn from_value(mut value: Value) -> Result<Marks, String> {
        match value.get("format").and_then(Value::as_str) {
            Some(FORMAT) => {}
            Some(f) => return Err(format!("format: expected \"{FORMAT}\", found \"{f}\"")),
            None => return Err(format!("format: expected \"{FORMAT}\", found nothing")),
        }
        let list = match value.get_mut("marks").map(Value::take) {
            None => Vec::new(),
            Some(Value::Array(list)) => list,
            Some(_) => return Err("marks: expected a list".into()),
        };
        value["marks"] = Value::Array(Vec::new());
        let mut marks: Marks = serde_json::from_value(value).map_err(|e| e.to_string())?;
        for (i, item) in list.into_iter().enumerate() {
            let name = item.get("id").and_then(Value::as_str).map_or(format!("{i}"), str::to_owned);
            let mark: Mark = serde_json::from_value(item).map_err(|e| format!("marks[{name}]: {e}"))?;
            marks.marks.push(mark);
        }
        // A flattened map also catches what the tagged part consumed: keep only the unknown.
        for mark in &mut marks.marks {
            let known = known_fields(&mark.kind);
            mark.other.retain(|k, _| !known.contains(&k.as_str()));
        }
        marks.check()?;
        Ok(marks)
    }

    /// Names of fields this version does not know, for a warning.
    pub fn unknown_fields(&self) -> Vec<String> {
        let mut out: Vec<String> = self.other.keys().cloned().collect();
        if let Some(c) = &self.camera {
            out.extend(c.other.keys().map(|k| format!("camera.{k}")));
        }
        for m in &self.marks {
            out.extend(m.other.keys().map(|k| format!("marks[{}].{k}", m.id)));
        }
        out
    }

    /// The camera to read with, and whether it was assumed.
    pub fn camera_for(&self, width: u32, height: u32) -> (Camera, bool) {
        match self.camera.as_ref().and_then(|c| c.vfov_deg.map(|v| (v, c.pitch_deg.unwrap_or(0.0)))) {
            Some((vfov, pitch)) => (Camera::from_vfov(width, height, vfov, pitch), false),
            None => {
                let mut camera = Camera::far(width, height);
                camera.pitch = self.camera.as_ref().and_then(|c| c.pitch_deg).unwrap_or(0.0).to_radians();
                (camera, true)
            }
        }
    }
}

fn known_fields(kind: &MarkKind) -> &'static [&'static str] {
    match kind {
        MarkKind::Ball { .. } => &["kind", "finish", "centre", "radius_px"],
        MarkKind::Eye { .. } => &["kind", "limbus", "looks_to_clock", "catchlights"],
        MarkKind::Patch { .. } => &["kind", "role", "polygon"],
        MarkKind::Cast { .. } => &["kind", "base", "top", "tip", "height_m", "on"],
        MarkKind::Rim { .. } => &["kind", "inside", "outside", "radius_px"],
        MarkKind::Gradient { .. } => &["kind", "polygon"],
        MarkKind::Pattern { .. } => &["kind", "a", "b"],
        MarkKind::Penumbra { .. } => &["kind", "a", "b", "gap_m", "px_per_m"],
        MarkKind::Contour { .. } => &["kind", "points", "outward"],
        MarkKind::Cylinder { .. } => &["kind", "axis", "radius_px"],
        MarkKind::Face { .. } => &["kind", "points"],
        MarkKind::Wedge { .. } => &["kind", "patches"],
    }
}
