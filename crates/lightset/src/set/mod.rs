//! A lighting set as it stands in the room: the format `slant-set/1`.
//!
//! Set frame: origin at the subject's reference point (between the eyes, or the centre of a
//! product), +x to image right, +y up, +z from the subject towards the camera. Metres and degrees.
//! The studio traces it, the plan draws it, the slant line summarises it.

mod check;
mod level;
mod profile;
mod room;
mod source;
mod subject;

pub use check::range;
pub use level::{LUMEN_SECONDS_PER_JOULE, Level};
pub use profile::{outline, smooth};
pub use room::{AmbientLight, MOST_ROWS, RoomMap};
pub use source::{About, Glow, Outline, Source};
pub use subject::{
    BALL_RADIUS_M, BOTTLE_RADIUS_M, CAN_RADIUS_M, CARTON_M, Hair, LID_EDGE_M, LID_HALF_M, LID_UP_M, MOST_PEOPLE,
    MOST_SHAPE, Person, SIZES_M, Subject, SubjectKind, TIN_EDGE_M, TIN_HALF_M,
};

use optics::exposure::Settings;
use optics::geometry::{AzEl, Vec3};
use optics::role::Role;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use utoipa::ToSchema;

/// Name and version of the format.
pub const FORMAT: &str = "slant-set/1";

/// Most lights one set may hold.
pub const MOST_LIGHTS: usize = 32;
/// Most subjects, boards, flags, gobos and walls each.
pub const MOST_THINGS: usize = 48;

/// Most marks of a walk.
pub const MOST_MARKS: usize = 12;

/// A lighting set.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LightSet {
    /// Always `slant-set/1`.
    pub format: String,
    /// What stands before the lens.
    #[serde(default)]
    pub subjects: Vec<Subject>,
    /// Camera.
    pub camera: SetCamera,
    /// Lights.
    #[serde(default)]
    pub lights: Vec<SetLight>,
    /// Boards that reflect.
    #[serde(default)]
    pub boards: Vec<Board>,
    /// Things that cut light: plain flags and patterned ones.
    #[serde(default)]
    pub flags: Vec<Flag>,
    /// Walls, floor, ceiling, table tops: large flat matte surfaces.
    #[serde(default)]
    pub walls: Vec<Wall>,
    /// Light from all around.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ambient: Option<AmbientLight>,
    /// Where the outlet is on the floor, x and z; behind the lens to its left if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<optics::geometry::Pair>)]
    pub outlet_m: Option<[f64; 2]>,
    /// Marks on the floor of somebody who walks, x and z, in the order in which they are walked.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(value_type = Vec<optics::geometry::Pair>)]
    pub walk_m: Vec<[f64; 2]>,
    /// Size and finish of the picture.
    #[serde(default)]
    pub picture: PictureSpec,
}

/// The camera of a set.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SetCamera {
    /// Where the lens is.
    #[schema(value_type = optics::geometry::Triple)]
    pub position_m: [f64; 3],
    /// What it points at; the subject's reference point if absent.
    #[serde(default)]
    #[schema(value_type = optics::geometry::Triple)]
    pub aim_m: [f64; 3],
    /// Vertical field of view in degrees; or give focal length and sensor height.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub vfov_deg: Option<f64>,
    /// Focal length in millimetres.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub focal_mm: Option<f64>,
    /// Sensor height in millimetres; 24 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sensor_height_mm: Option<f64>,
    /// Aperture, shutter and ISO.
    pub exposure: Settings,
    /// Colour temperature the file is balanced for; 5600 K if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub white_k: Option<f64>,
}

impl SetCamera {
    /// Vertical field of view in degrees: as given, or `2 atan(h / 2f)`.
    pub fn vfov_deg(&self) -> f64 {
        match (self.vfov_deg, self.focal_mm) {
            (Some(v), _) => v,
            (None, Some(f)) => 2.0 * (self.sensor_height_mm.unwrap_or(24.0) / 2.0 / f).atan().to_degrees(),
            (None, None) => 16.0,
        }
    }
}

/// One light.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SetLight {
    /// Name: key, fill, rim, ...
    pub name: String,
    /// Degrees from the lens side, positive to camera right; with elevation and distance in place of
    /// a position.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub azimuth_deg: Option<f64>,
    /// Degrees above the reference point.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub elevation_deg: Option<f64>,
    /// Metres from the reference point.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub distance_m: Option<f64>,
    /// Centre of the bright face, in place of azimuth, elevation and distance.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<optics::geometry::Triple>)]
    pub position_m: Option<[f64; 3]>,
    /// What it is aimed at.
    #[serde(default)]
    #[schema(value_type = optics::geometry::Triple)]
    pub aim_m: [f64; 3],
    /// What the light comes out of.
    pub source: Source,
    /// Turn of a rectangle or tube about its aim, degrees.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub roll_deg: f64,
    /// Surface it is turned to, which then is the source: a ceiling, a wall, a board. What goes straight
    /// to the subject is taken to be kept away.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub bounce: Option<BouncePatch>,
    /// Sheets of diffusion in front of it (of the lit surface, if it is bounced), nearest first.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub scrims: Vec<Scrim>,
    /// How strong.
    pub level: Level,
    /// Colour temperature in kelvin; that of the white balance if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cct_k: Option<f64>,
    /// Gel: mired shift, positive is warmer.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub gel_mired: f64,
    /// Linear RGB of a coloured gel, relative; transmission counts in the level.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<optics::geometry::Triple>)]
    pub gel_rgb: Option<[f64; 3]>,
    /// Further places the lamp is moved through in a long exposure, with equal time at each.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(value_type = Vec<optics::geometry::Triple>)]
    pub path_m: Vec<[f64; 3]>,
    /// Switched off.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub off: bool,
}

fn is_zero(v: &f64) -> bool {
    *v == 0.0
}

/// A sheet of diffusion. It faces the way the lamp does.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Scrim {
    /// Metres in front of the lamp, or of the sheet before it.
    pub gap_m: f64,
    /// Width.
    pub width_m: f64,
    /// Height.
    pub height_m: f64,
    /// Share of the light that comes through, scattered.
    pub transmission: f64,
    /// How far its middle lies beside the lamp's axis, metres, positive to the right as seen from the subject: a lamp behind one edge
    /// makes it fade to the other.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub aside_m: f64,
}

/// A matte surface that a lamp is turned to and whose lit part is the source.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct BouncePatch {
    /// Middle of the part that counts.
    #[schema(value_type = optics::geometry::Triple)]
    pub position_m: [f64; 3],
    /// Direction its face looks, need not be unit.
    #[schema(value_type = optics::geometry::Triple)]
    pub normal: [f64; 3],
    /// Width.
    pub width_m: f64,
    /// Height.
    pub height_m: f64,
    /// Share of the light it scatters.
    pub reflectance: f64,
}

/// What a board is made of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum BoardFinish {
    /// White card or foam: matte, reflectance 0.85.
    White,
    /// Crumpled silver: a wide lobe about the mirror direction.
    Silver,
    /// The same in gold.
    Gold,
    /// Black: reflectance 0.04.
    Black,
    /// Mirror: reflectance 0.9.
    Mirror,
}

impl BoardFinish {
    /// Its word.
    pub fn name(self) -> &'static str {
        match self {
            BoardFinish::White => "white",
            BoardFinish::Silver => "silver",
            BoardFinish::Gold => "gold",
            BoardFinish::Black => "black",
            BoardFinish::Mirror => "mirror",
        }
    }
}

/// A board.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Board {
    /// Centre.
    #[schema(value_type = optics::geometry::Triple)]
    pub position_m: [f64; 3],
    /// What its face looks at.
    #[serde(default)]
    #[schema(value_type = optics::geometry::Triple)]
    pub aim_m: [f64; 3],
    /// Width.
    pub width_m: f64,
    /// Height.
    pub height_m: f64,
    /// Material.
    pub finish: BoardFinish,
}

/// What part of a flag is solid.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum FlagPattern {
    /// All of it.
    Solid,
    /// Level slats.
    Blinds {
        /// Number of slats.
        slats: u32,
        /// Share of the height that is open.
        open: f64,
    },
    /// A level slit across the middle.
    Slit {
        /// Height of the slit in metres.
        opening_m: f64,
    },
    /// Leaves and twigs: ovals strewn about, some over others.
    Leaves {
        /// Length of a leaf in metres.
        leaf_m: f64,
        /// Share of the area that is open.
        open: f64,
    },
    /// Lace: round holes in rows.
    Lace {
        /// Distance between holes in metres.
        pitch_m: f64,
        /// Share of the area that is open.
        open: f64,
    },
}

/// A flag or gobo.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Flag {
    /// Centre.
    #[schema(value_type = optics::geometry::Triple)]
    pub position_m: [f64; 3],
    /// What its face looks at.
    #[serde(default)]
    #[schema(value_type = optics::geometry::Triple)]
    pub aim_m: [f64; 3],
    /// Width.
    pub width_m: f64,
    /// Height.
    pub height_m: f64,
    /// What part is solid.
    #[serde(default = "solid")]
    pub pattern: FlagPattern,
}

fn solid() -> FlagPattern {
    FlagPattern::Solid
}

/// A large flat matte surface.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Wall {
    /// Centre.
    #[schema(value_type = optics::geometry::Triple)]
    pub position_m: [f64; 3],
    /// Direction its face looks, need not be unit.
    #[schema(value_type = optics::geometry::Triple)]
    pub normal: [f64; 3],
    /// Width.
    pub width_m: f64,
    /// Height.
    pub height_m: f64,
    /// Linear RGB reflectance.
    #[schema(value_type = optics::geometry::Triple)]
    pub colour: [f64; 3],
    /// A hole in it, as of a window: light goes through.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub opening: Option<Opening>,
}

/// A level rectangle cut out of a wall.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Opening {
    /// Its middle, metres, set frame.
    #[schema(value_type = optics::geometry::Triple)]
    pub centre_m: [f64; 3],
    /// Width.
    pub width_m: f64,
    /// Height.
    pub height_m: f64,
}

impl Wall {
    /// Whether it looks at the lens: what is seen behind the subject.
    pub fn is_background(&self) -> bool {
        self.normal[2] > 0.9
    }
}

/// Size and finish of the picture.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PictureSpec {
    /// Pixels.
    #[serde(default = "default_width")]
    pub width: u32,
    /// Pixels.
    #[serde(default = "default_height")]
    pub height: u32,
    /// Samples per pixel and light.
    #[serde(default = "default_samples")]
    pub samples: u32,
    /// Contrast of an S-shaped tone curve about middle grey; 0 for plain sRGB.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub contrast: f64,
    /// Electrons at clipping; noise follows. Without it the picture has none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub full_well: Option<f64>,
    /// Seed of the noise and the samples.
    #[serde(default)]
    pub seed: u32,
}

fn default_width() -> u32 {
    640
}
fn default_height() -> u32 {
    480
}
fn default_samples() -> u32 {
    16
}

impl Default for PictureSpec {
    fn default() -> Self {
        PictureSpec { width: 640, height: 480, samples: 16, contrast: 0.0, full_well: None, seed: 0 }
    }
}

impl SetLight {
    /// A light of a name at a level in stops, aimed at the reference point, not placed yet.
    pub fn of(name: impl Into<String>, source: Source, stops: f64) -> SetLight {
        SetLight {
            name: name.into(),
            azimuth_deg: None,
            elevation_deg: None,
            distance_m: None,
            position_m: None,
            aim_m: [0.0; 3],
            source,
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

    /// Centre of the bright face.
    pub fn position(&self) -> Vec3 {
        match self.position_m {
            Some(p) => Vec3::from(p),
            None => {
                let a = AzEl {
                    azimuth_deg: self.azimuth_deg.unwrap_or(0.0),
                    elevation_deg: self.elevation_deg.unwrap_or(0.0),
                };
                a.vector() * self.distance_m.unwrap_or(2.0)
            }
        }
    }

    /// Where its level is metered: at the reference point; a background's light where it is aimed, as one meters it.
    pub fn metered_at(&self) -> Vec3 {
        match Role::of_name(&self.name) {
            Role::Background => Vec3::from(self.aim_m),
            _ => Vec3::zeros(),
        }
    }

    /// Linear RGB of unit luminance, seen by a camera balanced for `white_k`.
    pub fn colour(&self, white_k: f64) -> [f64; 3] {
        let k = self.cct_k.unwrap_or(white_k);
        let shifted = 1e6 / (1e6 / k + self.gel_mired).clamp(25.0, 1000.0);
        let mut rgb = optics::colour::rgb_of_cct(shifted, white_k);
        if let Some(gel) = self.gel_rgb {
            for (c, g) in rgb.iter_mut().zip(gel) {
                *c *= g;
            }
        }
        rgb
    }
}

/// A set as read from a file, with the names of fields this version does not know.
#[derive(Debug, Clone)]
pub struct Parsed {
    /// The set.
    pub set: LightSet,
    /// Paths of unknown fields.
    pub unknown: Vec<String>,
}

/// Height of the reference point over the floor where a set draws no floor: a seated sitter's eyes.
const COMMON_HEIGHT_M: f64 = 1.25;

impl LightSet {
    /// Floor below the reference point, metres: the highest wall that looks up.
    pub fn floor_m(&self) -> f64 {
        let floors = self.walls.iter().filter(|w| w.normal[1] > 0.9).map(|w| -w.position_m[1]);
        floors.reduce(f64::max).unwrap_or(COMMON_HEIGHT_M)
    }

    /// A direction of the lens frame, as readings have it, in the set frame.
    pub fn from_lens(&self, a: AzEl) -> AzEl {
        let back = Vec3::from(self.camera.position_m) - Vec3::from(self.camera.aim_m);
        let z = back.try_normalize(1e-9).unwrap_or_else(Vec3::z);
        let (x, y) = optics::geometry::upright(&z);
        let v = a.vector();
        AzEl::of(&(x * v.x + y * v.y + z * v.z))
    }

    /// Parses and checks a set.
    ///
    /// # Errors
    /// One sentence that names the field and what was expected.
    pub fn from_value(v: Value) -> Result<Parsed, String> {
        match v.get("format").and_then(Value::as_str) {
            Some(FORMAT) => {}
            Some(other) => return Err(format!("format: expected \"{FORMAT}\", found \"{other}\"")),
            None => return Err(format!("format: expected \"{FORMAT}\"; it is missing")),
        }
        let set: LightSet = serde_json::from_value(v.clone()).map_err(|e| format!("set: {e}"))?;
        set.check()?;
        let kept = serde_json::to_value(&set).map_err(|e| e.to_string())?;
        let mut unknown = Vec::new();
        unknown_fields("", &v, &kept, &mut unknown);
        Ok(Parsed { set, unknown })
    }

    /// Parses the text of a file.
    ///
    /// # Errors
    /// As [`LightSet::from_value`].
    pub fn parse(text: &str) -> Result<Parsed, String> {
        LightSet::from_value(serde_json::from_str(text).map_err(|e| format!("not JSON: {e}"))?)
    }
}

/// Fields that are left out on writing if they have their usual value.
const OMITTED: [&str; 8] = ["scale", "roll_deg", "scrims", "aside_m", "gel_mired", "path_m", "off", "contrast"];

/// Collects paths that are in `given` but not in `kept`; null counts as absent.
fn unknown_fields(path: &str, given: &Value, kept: &Value, out: &mut Vec<String>) {
    match (given, kept) {
        (Value::Object(g), Value::Object(k)) => {
            for (name, v) in g {
                let here = if path.is_empty() { name.clone() } else { format!("{path}.{name}") };
                match k.get(name) {
                    Some(w) => unknown_fields(&here, v, w, out),
                    // left out on writing where it says nothing
                    None if v.is_null() || OMITTED.contains(&name.as_str()) => {}
                    None => out.push(here),
                }
            }
        }
        (Value::Array(g), Value::Array(k)) => {
            for (i, (v, w)) in g.iter().zip(k).enumerate() {
                unknown_fields(&format!("{path}[{i}]"), v, w, out);
            }
        }
        _ => {}
    }
}
