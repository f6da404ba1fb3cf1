//! A lighting set as it stands in the room: the format `slant-set/1`.
//!
//! Set frame: origin at the subject's reference point (between the eyes, or the centre of a
//! product), +x to image right, +y up, +z from the subject towards the camera. Metres and degrees.
//! The studio traces it, the plan draws it, the slant line summarises it.

use optics::exposure::{C_FLAT, Settings};
use optics::geometry::{AzEl, Vec3};
use optics::power::{Control, read_power};
use optics::units::Stops;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use utoipa::ToSchema;

/// Name and version of the format.
pub const FORMAT: &str = "slant-set/1";

/// Most lights one set may hold.
pub const MOST_LIGHTS: usize = 32;
/// Most subjects, boards, flags, gobos and walls each.
pub const MOST_THINGS: usize = 48;

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
    /// Even light from everywhere.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ambient: Option<AmbientLight>,
    /// Where the outlet is on the floor, x and z; behind the lens to its left if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub outlet_m: Option<[f64; 2]>,
    /// Size and finish of the picture.
    #[serde(default)]
    pub picture: PictureSpec,
}

/// Something to light.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Subject {
    /// What it is.
    pub kind: SubjectKind,
    /// Where its reference point is.
    #[serde(default)]
    pub position_m: [f64; 3],
    /// Turn about the vertical, degrees, positive to camera right.
    #[serde(default)]
    pub yaw_deg: f64,
    /// Nod, degrees, positive looks down.
    #[serde(default)]
    pub pitch_deg: f64,
    /// Tilt in the picture, degrees, positive clockwise.
    #[serde(default)]
    pub roll_deg: f64,
    /// Size relative to its usual one.
    #[serde(default = "one", skip_serializing_if = "is_one")]
    pub scale: f64,
    /// Linear RGB of its main surface, in place of its own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub colour: Option<[f64; 3]>,
    /// Where a head's eyes look in the set frame, azimuth and elevation in degrees.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gaze_deg: Option<[f64; 2]>,
}

fn one() -> f64 {
    1.0
}
fn is_one(v: &f64) -> bool {
    *v == 1.0
}

/// Subjects of the studio.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SubjectKind {
    /// Carved head with a long face and nose, shoulders, cap. 1.15 of life size; reference between
    /// the eyes.
    HeadLong,
    /// Carved head, broad and round with a small nose, shoulders, hair.
    HeadRound,
    /// Glass bottle with liquid and a paper label, 30 cm; reference at its centre.
    Bottle,
    /// Drinks can, 12 cm, printed metal.
    Can,
    /// Tin box with rounded edges, 16 by 10 by 6 cm.
    Tin,
    /// Shoe-like form, 29 cm long.
    Shoe,
    /// Fork, 19 cm, lying.
    Fork,
    /// Cloth hanging in folds, 1.2 m wide.
    Drape,
    /// Matte ball, 15 cm, reflectance one half.
    BallMatte,
    /// Mirror ball, 15 cm.
    BallMirror,
    /// Step wedge: eight patches from 0.90 down by half stops, 32 by 6 cm.
    Wedge,
}

impl SubjectKind {
    /// Radius in metres of a sphere around the reference point that a light should stay out of.
    pub fn clearance_m(self) -> f64 {
        match self {
            SubjectKind::HeadLong | SubjectKind::HeadRound => 0.15,
            SubjectKind::Bottle | SubjectKind::Can => 0.045,
            SubjectKind::Tin | SubjectKind::Fork => 0.03,
            SubjectKind::Shoe => 0.05,
            SubjectKind::Drape | SubjectKind::Wedge => 0.02,
            SubjectKind::BallMatte | SubjectKind::BallMirror => 0.075,
        }
    }
}

/// The camera of a set.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SetCamera {
    /// Where the lens is.
    pub position_m: [f64; 3],
    /// What it points at; the subject's reference point if absent.
    #[serde(default)]
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
    pub position_m: Option<[f64; 3]>,
    /// What it is aimed at.
    #[serde(default)]
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
    pub gel_rgb: Option<[f64; 3]>,
    /// Further places the lamp is moved through in a long exposure, with equal time at each.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub path_m: Vec<[f64; 3]>,
    /// Switched off.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub off: bool,
}

fn is_zero(v: &f64) -> bool {
    *v == 0.0
}

/// What the light comes out of. Sizes in metres.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Source {
    /// Even disc.
    Disc {
        /// Diameter.
        diameter_m: f64,
    },
    /// Even octagon.
    Octagon {
        /// Width over flats.
        width_m: f64,
    },
    /// Even rectangle: softbox, strip, panel.
    Rectangle {
        /// Width.
        width_m: f64,
        /// Height.
        height_m: f64,
    },
    /// Window: a rectangle that stays upright and does not aim.
    Window {
        /// Width.
        width_m: f64,
        /// Height.
        height_m: f64,
        /// Degrees its outward normal is turned from +z, positive to camera right.
        facing_deg: f64,
    },
    /// Umbrella one shoots through: brighter in the middle.
    UmbrellaThrough {
        /// Diameter.
        diameter_m: f64,
    },
    /// Umbrella that bounces: wide, a little brighter in the middle.
    UmbrellaBounce {
        /// Diameter.
        diameter_m: f64,
    },
    /// Reflector dish: throws within a beam.
    Dish {
        /// Diameter of its mouth.
        diameter_m: f64,
        /// Full angle at half intensity, degrees.
        beam_deg: f64,
    },
    /// Spot or grid: sharp beam.
    Spot {
        /// Diameter of its mouth.
        diameter_m: f64,
        /// Full angle at half intensity, degrees.
        beam_deg: f64,
        /// Full angle beyond which nothing comes, degrees.
        field_deg: f64,
    },
    /// Tube.
    Tube {
        /// Length.
        length_m: f64,
        /// Diameter.
        diameter_m: f64,
    },
    /// Bare lamp: a glowing ball.
    Bare {
        /// Diameter.
        diameter_m: f64,
    },
    /// Measured intensities (IES LM-63), axially symmetric part.
    Ies {
        /// Diameter of its mouth.
        diameter_m: f64,
        /// Text of the LM-63 file.
        file: String,
    },
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
}

/// A matte surface that a lamp is turned to and whose lit part is the source.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct BouncePatch {
    /// Middle of the part that counts.
    pub position_m: [f64; 3],
    /// Direction its face looks, need not be unit.
    pub normal: [f64; 3],
    /// Width.
    pub width_m: f64,
    /// Height.
    pub height_m: f64,
    /// Share of the light it scatters.
    pub reflectance: f64,
}

/// How strong a light is.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(untagged)]
pub enum Level {
    /// Stops over the incident exposure that the camera's settings are right for, measured at the
    /// reference point facing the light with nothing in the way.
    Stops {
        /// Stops.
        stops: f64,
    },
    /// Continuous light: illuminance at the reference point.
    Lux {
        /// Lux.
        lux: f64,
    },
    /// Flash by guide number.
    Guide {
        /// Guide number in metres at ISO 100, full power, as it stands with its modifier.
        guide_number_m: f64,
        /// Power: `1/4`, `25 %`, `-2` (stops below full).
        #[serde(default, skip_serializing_if = "Option::is_none")]
        power: Option<String>,
    },
    /// Flash by energy.
    Joules {
        /// Energy at full power.
        joules: f64,
        /// Power: `1/4`, `25 %`, `-2` (stops below full).
        #[serde(default, skip_serializing_if = "Option::is_none")]
        power: Option<String>,
    },
}

/// Light a studio flash gives per joule of stored energy, lumen seconds (30 to 45 for xenon tubes,
/// from memory; what a modifier swallows is not in it: [`crate::throw`]).
pub const LUMEN_SECONDS_PER_JOULE: f64 = 35.0;

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

/// A board.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Board {
    /// Centre.
    pub position_m: [f64; 3],
    /// What its face looks at.
    #[serde(default)]
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
    pub position_m: [f64; 3],
    /// What its face looks at.
    #[serde(default)]
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
    pub position_m: [f64; 3],
    /// Direction its face looks, need not be unit.
    pub normal: [f64; 3],
    /// Width.
    pub width_m: f64,
    /// Height.
    pub height_m: f64,
    /// Linear RGB reflectance.
    pub colour: [f64; 3],
}

/// Even light from everywhere.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct AmbientLight {
    /// How strong, on an open surface.
    pub level: Level,
    /// Colour temperature in kelvin.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cct_k: Option<f64>,
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

impl Source {
    /// Width and height of the bright face, metres.
    pub fn face_m(&self) -> [f64; 2] {
        match self {
            Source::Rectangle { width_m, height_m } | Source::Window { width_m, height_m, .. } => [*width_m, *height_m],
            Source::Octagon { width_m: d }
            | Source::Disc { diameter_m: d }
            | Source::UmbrellaThrough { diameter_m: d }
            | Source::UmbrellaBounce { diameter_m: d }
            | Source::Dish { diameter_m: d, .. }
            | Source::Spot { diameter_m: d, .. }
            | Source::Bare { diameter_m: d }
            | Source::Ies { diameter_m: d, .. } => [*d, *d],
            Source::Tube { length_m, diameter_m } => [*length_m, *diameter_m],
        }
    }

    /// Whether it stays where the building has it.
    pub fn is_window(&self) -> bool {
        matches!(self, Source::Window { .. })
    }

    /// Width times height of the bright face in square metres; a window stands for itself and counts 0.
    pub fn area_m2(&self) -> f64 {
        let [w, h] = self.face_m();
        if self.is_window() { 0.0 } else { w * h }
    }

    /// What it is, in a word or two.
    pub fn word(&self) -> &'static str {
        match self {
            Source::Disc { .. } => "round softbox",
            Source::Octagon { .. } => "octagon",
            Source::Rectangle { .. } => "softbox",
            Source::Window { .. } => "window",
            Source::UmbrellaThrough { .. } => "shoot-through umbrella",
            Source::UmbrellaBounce { .. } => "bounce umbrella",
            Source::Dish { .. } => "reflector dish",
            Source::Spot { .. } => "spot or grid",
            Source::Tube { .. } => "tube",
            Source::Bare { .. } => "bare lamp",
            Source::Ies { .. } => "measured lamp",
        }
    }
}

impl SetLight {
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

impl Level {
    /// Luminous exposure in lux seconds that a light of this level gives during the settings'
    /// exposure at `distance` metres, facing it; `lux_per_lumen` is what arrives there of each lumen of its lamp
    /// ([`crate::throw`]).
    ///
    /// # Errors
    /// If the power setting cannot be understood.
    pub fn lux_seconds(&self, settings: &Settings, distance: f64, lux_per_lumen: f64) -> Result<f64, String> {
        let power = |p: &Option<String>, full_j: f64| {
            p.as_deref().map_or(Ok(1.0), |p| power_below_full(p, full_j).map(|s| s.0.exp2()))
        };
        Ok(match self {
            Level::Stops { stops } => settings.incident_lux(C_FLAT) * settings.shutter_s * stops.exp2(),
            Level::Lux { lux } => lux * settings.shutter_s,
            // N = GN / d at ISO 100 is right exposure: H = C N^2 / 100.
            Level::Guide { guide_number_m, power: p } => {
                C_FLAT / 100.0 * (guide_number_m / distance).powi(2) * power(p, f64::NAN)?
            }
            Level::Joules { joules, power: p } => joules * LUMEN_SECONDS_PER_JOULE * power(p, *joules)? * lux_per_lumen,
        })
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

    /// Checks every number.
    ///
    /// # Errors
    /// One sentence that names the field and what was expected.
    pub fn check(&self) -> Result<(), String> {
        if self.lights.len() > MOST_LIGHTS {
            return Err(format!("lights: a set holds at most {MOST_LIGHTS} lights; found {}", self.lights.len()));
        }
        for (name, n) in [
            ("subjects", self.subjects.len()),
            ("boards", self.boards.len()),
            ("flags", self.flags.len()),
            ("walls", self.walls.len()),
        ] {
            if n > MOST_THINGS {
                return Err(format!("{name}: a set holds at most {MOST_THINGS}; found {n}"));
            }
        }
        for (i, s) in self.subjects.iter().enumerate() {
            let at = |f: &str| format!("subjects[{i}].{f}");
            place(&at("position_m"), &s.position_m)?;
            for (f, v) in [("yaw_deg", s.yaw_deg), ("pitch_deg", s.pitch_deg), ("roll_deg", s.roll_deg)] {
                range(&at(f), v, -360.0, 360.0, "degrees")?;
            }
            range(&at("scale"), s.scale, 0.05, 20.0, "")?;
            if let Some(c) = &s.colour {
                reflectance(&at("colour"), c)?;
            }
            for v in s.gaze_deg.iter().flatten() {
                range(&at("gaze_deg"), *v, -180.0, 180.0, "degrees")?;
            }
        }
        let c = &self.camera;
        place("camera.position_m", &c.position_m)?;
        place("camera.aim_m", &c.aim_m)?;
        if (Vec3::from(c.position_m) - Vec3::from(c.aim_m)).norm() < 0.02 {
            return Err("camera.aim_m: expected a point at least 2 cm from the lens".into());
        }
        if let Some(v) = c.vfov_deg {
            range("camera.vfov_deg", v, 0.2, 150.0, "degrees")?;
        }
        if let Some(v) = c.focal_mm {
            range("camera.focal_mm", v, 1.0, 5000.0, "millimetres")?;
        }
        if let Some(v) = c.sensor_height_mm {
            range("camera.sensor_height_mm", v, 0.5, 500.0, "millimetres")?;
        }
        if let Some(v) = c.white_k {
            range("camera.white_k", v, 1500.0, 20000.0, "kelvin")?;
        }
        c.exposure.check()?;
        for (i, l) in self.lights.iter().enumerate() {
            l.check().map_err(|e| format!("lights[{i}] ({}): {e}", l.name))?;
        }
        for (i, b) in self.boards.iter().enumerate() {
            sheet(&format!("boards[{i}]"), &b.position_m, &b.aim_m, b.width_m, b.height_m)?;
        }
        for (i, f) in self.flags.iter().enumerate() {
            sheet(&format!("flags[{i}]"), &f.position_m, &f.aim_m, f.width_m, f.height_m)?;
            let at = |what: &str| format!("flags[{i}].pattern.{what}");
            match f.pattern {
                FlagPattern::Solid => {}
                FlagPattern::Blinds { slats, open } => {
                    range(&at("slats"), f64::from(slats), 1.0, 200.0, "")?;
                    range(&at("open"), open, 0.0, 1.0, "")?;
                }
                FlagPattern::Slit { opening_m } => range(&at("opening_m"), opening_m, 0.0, 50.0, "metres")?,
                FlagPattern::Lace { pitch_m, open } => {
                    range(&at("pitch_m"), pitch_m, 0.001, 10.0, "metres")?;
                    range(&at("open"), open, 0.0, 0.78, "")?;
                }
            }
        }
        for (i, w) in self.walls.iter().enumerate() {
            place(&format!("walls[{i}].position_m"), &w.position_m)?;
            place(&format!("walls[{i}].normal"), &w.normal)?;
            if Vec3::from(w.normal).norm() < 1e-6 {
                return Err(format!("walls[{i}].normal: expected a direction, found zero"));
            }
            range(&format!("walls[{i}].width_m"), w.width_m, 0.005, 200.0, "metres")?;
            range(&format!("walls[{i}].height_m"), w.height_m, 0.005, 200.0, "metres")?;
            reflectance(&format!("walls[{i}].colour"), &w.colour)?;
        }
        if let Some(a) = &self.ambient {
            a.level.check().map_err(|e| format!("ambient.{e}"))?;
        }
        if let Some([x, z]) = self.outlet_m {
            place("outlet_m", &[x, 0.0, z])?;
        }
        let p = &self.picture;
        range("picture.width", f64::from(p.width), 8.0, 4000.0, "pixels")?;
        range("picture.height", f64::from(p.height), 8.0, 4000.0, "pixels")?;
        range("picture.samples", f64::from(p.samples), 1.0, 1024.0, "")?;
        range("picture.contrast", p.contrast, -1.0, 2.0, "")?;
        if let Some(v) = p.full_well {
            range("picture.full_well", v, 50.0, 1e7, "electrons")?;
        }
        Ok(())
    }
}

impl SetLight {
    fn check(&self) -> Result<(), String> {
        if self.name.trim().is_empty() || self.name.len() > 40 {
            return Err("name: expected 1 to 40 characters".into());
        }
        if let Some(p) = &self.position_m {
            place("position_m", p)?;
        }
        for (n, v, lo, hi) in [
            ("azimuth_deg", self.azimuth_deg, -360.0, 360.0),
            ("elevation_deg", self.elevation_deg, -90.0, 90.0),
            ("distance_m", self.distance_m, 0.01, 200.0),
            ("cct_k", self.cct_k, 1000.0, 40000.0),
        ] {
            if let Some(v) = v {
                range(n, v, lo, hi, "")?;
            }
        }
        place("aim_m", &self.aim_m)?;
        range("gel_mired", self.gel_mired, -500.0, 500.0, "mired")?;
        if !matches!(self.source, Source::Window { .. }) && (self.position() - Vec3::from(self.aim_m)).norm() < 0.005 {
            return Err("aim_m: expected a point away from the light; it stands on what it is aimed at".into());
        }
        if let Some(g) = &self.gel_rgb {
            reflectance("gel_rgb", g)?;
        }
        let size = |n: &str, v: f64| range(n, v, 0.002, 50.0, "metres");
        match &self.source {
            Source::Disc { diameter_m }
            | Source::UmbrellaThrough { diameter_m }
            | Source::UmbrellaBounce { diameter_m }
            | Source::Bare { diameter_m } => size("source.diameter_m", *diameter_m)?,
            Source::Octagon { width_m } => size("source.width_m", *width_m)?,
            Source::Rectangle { width_m, height_m } | Source::Window { width_m, height_m, .. } => {
                size("source.width_m", *width_m)?;
                size("source.height_m", *height_m)?;
            }
            Source::Tube { length_m, diameter_m } => {
                size("source.length_m", *length_m)?;
                size("source.diameter_m", *diameter_m)?;
            }
            Source::Dish { diameter_m, beam_deg } => {
                size("source.diameter_m", *diameter_m)?;
                range("source.beam_deg", *beam_deg, 2.0, 170.0, "degrees")?;
            }
            Source::Spot { diameter_m, beam_deg, field_deg } => {
                size("source.diameter_m", *diameter_m)?;
                range("source.beam_deg", *beam_deg, 1.0, 170.0, "degrees")?;
                range("source.field_deg", *field_deg, *beam_deg, 178.0, "degrees, not under the beam")?;
            }
            Source::Ies { diameter_m, file } => {
                size("source.diameter_m", *diameter_m)?;
                optics::luminaire::Luminaire::parse(file).map_err(|e| format!("source.file: {e}"))?;
            }
        }
        if let Some(b) = &self.bounce {
            place("bounce.position_m", &b.position_m)?;
            place("bounce.normal", &b.normal)?;
            if Vec3::from(b.normal).norm() < 1e-6 {
                return Err("bounce.normal: expected a direction, found zero".into());
            }
            size("bounce.width_m", b.width_m)?;
            size("bounce.height_m", b.height_m)?;
            range("bounce.reflectance", b.reflectance, 0.01, 1.0, "(share)")?;
            if (self.position() - Vec3::from(b.position_m)).norm() < 0.01 {
                return Err("bounce.position_m: expected a place at least 1 cm from the lamp".into());
            }
        }
        if self.scrims.len() > 2 {
            return Err(format!("scrims: expected at most two sheets, found {}", self.scrims.len()));
        }
        for s in &self.scrims {
            range("scrims.gap_m", s.gap_m, 0.01, 20.0, "metres")?;
            size("scrims.width_m", s.width_m)?;
            size("scrims.height_m", s.height_m)?;
            range("scrims.transmission", s.transmission, 0.001, 1.0, "")?;
        }
        if self.path_m.len() > 64 {
            return Err(format!("path_m: expected at most 64 places, found {}", self.path_m.len()));
        }
        for p in &self.path_m {
            place("path_m", p)?;
        }
        self.level.check()
    }
}

impl Level {
    fn check(&self) -> Result<(), String> {
        match self {
            Level::Stops { stops } => range("level.stops", *stops, -30.0, 30.0, "stops"),
            Level::Lux { lux } => range("level.lux", *lux, 0.0, 1e9, "lux"),
            Level::Guide { guide_number_m, power } => {
                range("level.guide_number_m", *guide_number_m, 0.1, 1000.0, "metres")?;
                power_told(power, f64::NAN)
            }
            Level::Joules { joules, power } => {
                range("level.joules", *joules, 0.1, 1e5, "joules")?;
                power_told(power, *joules)
            }
        }
    }
}

/// A power setting of a lamp whose notation is not told; joules only of a lamp that has an energy.
fn power_below_full(text: &str, full_j: f64) -> Result<Stops, String> {
    read_power(Control::Stops, text, full_j, f64::NAN)
}

fn power_told(power: &Option<String>, full_j: f64) -> Result<(), String> {
    power.as_deref().map_or(Ok(()), |p| power_below_full(p, full_j).map(|_| ()).map_err(|e| format!("level.{e}")))
}

fn range(name: &str, v: f64, lo: f64, hi: f64, unit: &str) -> Result<(), String> {
    if v.is_finite() && (lo..=hi).contains(&v) {
        return Ok(());
    }
    let unit = if unit.is_empty() { String::new() } else { format!(" {unit}") };
    Err(format!("{name}: expected {lo} to {hi}{unit}, found {v}"))
}

fn place(name: &str, p: &[f64; 3]) -> Result<(), String> {
    p.iter().try_for_each(|v| range(name, *v, -200.0, 200.0, "metres"))
}

fn reflectance(name: &str, c: &[f64; 3]) -> Result<(), String> {
    c.iter().try_for_each(|v| range(name, *v, 0.0, 1.0, "(linear share)"))
}

fn sheet(name: &str, position: &[f64; 3], aim: &[f64; 3], width: f64, height: f64) -> Result<(), String> {
    place(&format!("{name}.position_m"), position)?;
    place(&format!("{name}.aim_m"), aim)?;
    range(&format!("{name}.width_m"), width, 0.005, 50.0, "metres")?;
    range(&format!("{name}.height_m"), height, 0.005, 50.0, "metres")?;
    if (Vec3::from(*position) - Vec3::from(*aim)).norm() < 0.005 {
        return Err(format!("{name}.aim_m: expected a point away from its centre"));
    }
    Ok(())
}

/// Fields that are left out on writing if they have their usual value.
const OMITTED: [&str; 7] = ["scale", "roll_deg", "scrims", "gel_mired", "path_m", "off", "contrast"];

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
