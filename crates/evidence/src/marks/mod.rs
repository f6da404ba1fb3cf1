//! What a person or the finder marked on one picture: the format `slant-marks/1`.
//!
//! Unknown fields are kept on reading and written back; [`Marks::unknown_fields`] names them.

mod carry;
mod check;
mod desk;
mod kinds;

pub use crate::patch_role::PatchRole;
pub use crate::wedge::WedgePatch;
pub use carry::Carry;
pub use check::{MOST_CATCHLIGHTS, MOST_COSTLY, MOST_LANDMARKS, MOST_MARKS, MOST_POINTS, MOST_SIZES, MOST_STEPS};
pub use direction::shapes::{Ellipse, Outline, Point};

pub(crate) use desk::{Curves, Gathered, Shading, degrees, round, sighting, stops};
pub use desk::{Desk, Heads};
pub use kinds::*;
use optics::exposure::Settings;
use optics::geometry::Camera;
use optics::tone::Encoding;
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};
use utoipa::ToSchema;

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
    /// Where and when it was taken, for where the sun stood: typed by a person, never read from the file.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sun: Option<SunFacts>,
    /// Whose light is read, where several people are lit differently: the mark of the face; the largest if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub whose: Option<String>,
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

/// Place and time of a picture, and where its lens looked.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SunFacts {
    /// Degrees north.
    pub latitude_deg: f64,
    /// Degrees east.
    pub longitude_deg: f64,
    /// Date and time with its distance from Greenwich (RFC 3339).
    pub at: String,
    /// Where the lens looked: degrees on the compass, from true north over east.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lens_heading_deg: Option<f64>,
    /// How sure that is, degrees; [`SunFacts::HEADING_SD`] if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lens_heading_sd_deg: Option<f64>,
    /// Fields this version does not know; kept.
    #[serde(flatten)]
    #[schema(ignore)]
    pub other: Map<String, Value>,
}

impl SunFacts {
    /// Degrees by which the compass of a telephone is off, one standard deviation (common practice: five to fifteen).
    pub const HEADING_SD: f64 = 8.0;
}

/// One mark: an id and what it points at.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Mark {
    /// Unique within the picture.
    pub id: String,
    /// Switched off by a person: kept, not read.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub off: bool,
    /// What is marked.
    #[serde(flatten)]
    pub kind: MarkKind,
    /// Fields this version does not know, by their paths; kept.
    #[serde(flatten)]
    #[schema(ignore)]
    pub other: Map<String, Value>,
}

impl Mark {
    /// Reads a mark from the fields of its object.
    ///
    /// # Errors
    /// One sentence that names the field and what was expected.
    fn from_fields(mut fields: Map<String, Value>) -> Result<Mark, String> {
        let text = |v: Option<Value>, name: &str| match v {
            Some(Value::String(text)) => Ok(text),
            Some(v) => Err(format!("{name}: expected text, found {v}")),
            None => Err(format!("missing field `{name}`")),
        };
        let id = text(fields.remove("id"), "id")?;
        let off = match fields.remove("off") {
            None | Some(Value::Null) => false,
            Some(Value::Bool(off)) => off,
            Some(v) => return Err(format!("off: expected true or false, found {v}")),
        };
        let name = text(fields.remove("kind"), "kind")?;
        let (kind, other) = MarkKind::parse(&name, fields)?;
        Ok(Mark { id, off, kind, other })
    }
}

impl<'de> Deserialize<'de> for Mark {
    fn deserialize<D: serde::Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        Mark::from_fields(Map::deserialize(from)?).map_err(serde::de::Error::custom)
    }
}

impl Default for Marks {
    fn default() -> Self {
        Marks {
            format: FORMAT.into(),
            camera: None,
            encoding: None,
            exposure: None,
            sun: None,
            whose: None,
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
            let Value::Object(fields) = item else { return Err(format!("marks[{i}]: expected an object")) };
            let name = fields.get("id").and_then(Value::as_str).map_or(format!("{i}"), str::to_owned);
            marks.marks.push(Mark::from_fields(fields).map_err(|e| format!("marks[{name}].{e}"))?);
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
        if let Some(s) = &self.sun {
            out.extend(s.other.keys().map(|k| format!("sun.{k}")));
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
