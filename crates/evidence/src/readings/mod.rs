//! What was read from one picture: the format `slant-readings/1`.

mod by_mark;
mod exposure;

pub use by_mark::*;
pub use exposure::*;

use crate::patch_role::PatchRole;
use optics::geometry::AzEl;
use optics::photo::ClippedArea;
use optics::role::Role;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// Name and version of the readings format.
pub const FORMAT: &str = "slant-readings/1";

/// Code of the warning on a patch that is clipped as a whole.
pub const PATCH_CLIPPED: &str = "patch_clipped";

/// Everything read from one picture.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Readings {
    /// Always `slant-readings/1`.
    pub format: String,
    /// The lights, strongest first.
    pub lights: Vec<Light>,
    /// Light from everywhere, if it could be told.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ambient: Option<Ambient>,
    /// The light of the whole room, if a mirror ball shows one, or a face on which no light leads tells it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub room: Option<RoomView>,
    /// The people in the picture from left to right, if there are several.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub people: Vec<PersonView>,
    /// Where the sun stood, if place and time are known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sun: Option<SunView>,
    /// What each mark says on its own.
    #[serde(default)]
    pub by_mark: BTreeMap<String, MarkReading>,
    /// Differences between lit and shadow side.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ratios: Option<Ratios>,
    /// Differences of colour between lights, or between two sides of one material.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub colours: Vec<ColourDifference>,
    /// What the evidence leaves open, with what would settle it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub questions: Vec<Question>,
    /// The named look, if a key was found.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub look: Option<Look>,
    /// Exposure of the picture as a whole.
    pub exposure: ExposureReading,
    /// Noise, compression, sharpness, smear.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub texture: Option<TextureReading>,
    /// How a horizon, a table's edge, or corners of a room lie; absent where there is no such line.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub straight: Option<StraightReading>,
    /// The lights as one line of text.
    pub slant: String,
    /// The reading as sentences for a person.
    #[serde(default)]
    pub summary: Vec<String>,
    /// What to keep in mind.
    #[serde(default)]
    pub warnings: Vec<Warning>,
}

/// One light.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Light {
    /// key, fill, rim or background.
    pub role: Role,
    /// Degrees from the lens axis, positive to camera right.
    pub azimuth_deg: f64,
    /// Degrees above the lens axis.
    pub elevation_deg: f64,
    /// Root mean square angle between the stated and the true direction.
    pub direction_sd_deg: f64,
    /// Frame of the two angles: `camera` or `set`.
    pub frame: String,
    /// Full angle of the disc with the same solid angle.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub angular_size_deg: Option<f64>,
    /// One standard deviation below and above.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<optics::geometry::Pair>)]
    pub angular_size_range_deg: Option<[f64; 2]>,
    /// Word for the size: hard, crisp, medium, soft, wrap.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hardness: Option<String>,
    /// Stops relative to the key.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub level_stops: Option<f64>,
    /// One standard deviation of the level.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub level_sd_stops: Option<f64>,
    /// Correlated colour temperature as the file's white balance has it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cct_k: Option<f64>,
    /// Marks that say so.
    pub evidence: Vec<String>,
    /// Marks that were set aside or disagree, with the reason.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub disagreement: Vec<String>,
}

impl Light {
    /// Where it comes from.
    pub fn at(&self) -> AzEl {
        AzEl { azimuth_deg: self.azimuth_deg, elevation_deg: self.elevation_deg }
    }
}

/// How one light or side differs in colour from another. The file's white balance cancels.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ColourDifference {
    /// What differs: `fill`, `rim`, `shadow side`.
    pub of: String,
    /// From what: `key`, `lit side`.
    pub against: String,
    /// Reciprocal megakelvin: positive is warmer.
    pub mired: f64,
    /// One standard deviation.
    pub mired_sd: f64,
    /// Greener (positive) or pinker than a warmer or cooler lamp, CIE 1960 units.
    pub duv: f64,
    /// Filter that would make `of` look like `against`, in mired, if the difference can be told and a filter does it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub filter_mired: Option<f64>,
    /// One sentence.
    pub says: String,
    /// Marks that say so.
    #[serde(default)]
    pub evidence: Vec<String>,
}

/// Something the evidence leaves open.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Question {
    /// What it is about.
    pub about: String,
    /// The explanations, the likelier first.
    pub options: Vec<Explanation>,
    /// What would tell them apart.
    pub test: String,
}

/// One explanation.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Explanation {
    /// One sentence.
    pub says: String,
    /// Probability among the options, by the evidence and common practice.
    pub probability: f64,
}

/// Light from everywhere.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Ambient {
    /// Stops relative to the key.
    pub level_stops: f64,
    /// One standard deviation.
    pub level_sd_stops: f64,
    /// Marks that say so.
    #[serde(default)]
    pub evidence: Vec<String>,
}

/// What shows the light of a whole room.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "lowercase")]
pub enum RoomShown {
    /// A mirror ball: as a picture.
    #[default]
    Mirror,
    /// A face: where it comes from in the mean, and no lamps.
    Face,
}

/// Readings of before were of mirror balls, which tell a side.
fn has_side() -> bool {
    true
}

/// The light of a whole room at the subject.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct RoomView {
    /// Where the mean light comes from: degrees from the lens axis, positive to camera right.
    pub azimuth_deg: f64,
    /// Degrees above the lens axis.
    pub elevation_deg: f64,
    /// Root mean square angle between the stated and the true direction of the mean light.
    pub direction_sd_deg: f64,
    /// How directional the light is as a whole: 0 from all around, 1 from one point.
    pub directional: f64,
    /// One standard deviation.
    pub directional_sd: f64,
    /// Whether one light leads.
    pub leads: bool,
    /// Part of the light on a surface facing the strongest that is its own.
    pub key_share: f64,
    /// One standard deviation.
    pub key_share_sd: f64,
    /// Whether it is directional enough to have a side to speak of.
    #[serde(default = "has_side")]
    pub has_side: bool,
    /// What shows it.
    #[serde(default)]
    pub shown_by: RoomShown,
    /// Part of the light that was inferred: clipped in the mirror ball, or hidden behind it.
    pub inferred: f64,
    /// What the map leaves over of a matte ball's shading, per cent of its bright side.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub misfit_percent: Option<f64>,
    /// Rows of the map; twice as many columns.
    pub rows: usize,
    /// Stops of each cell against the mean of the room: rows from straight up to straight down, columns from behind the
    /// subject over the camera's right, the lens in the middle, over its left.
    pub map_stops: Vec<f64>,
    /// Marks that say so.
    pub evidence: Vec<String>,
}

/// One of several people: what lights that face.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PersonView {
    /// The face.
    pub face: String,
    /// Where in the picture: left, middle, right, or counted from the left.
    pub place: String,
    /// Where the key on that face stands, degrees from the lens axis, positive to camera right; absent where none leads.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub key_azimuth_deg: Option<f64>,
    /// Degrees above the lens axis.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub key_elevation_deg: Option<f64>,
    /// Root mean square angle between the stated and the true direction.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub key_sd_deg: Option<f64>,
    /// Whether the lights that are named are this one's.
    pub named: bool,
    /// Where its key comes from, in words.
    pub says: String,
}

/// Where the sun stood, and what that says of the lights that were read.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SunView {
    /// Degrees from north over east.
    pub compass_deg: f64,
    /// Degrees above the level horizon, as seen through the air; below zero it is down.
    pub height_deg: f64,
    /// Degrees from the lens axis, positive to camera right, as those of the lights; absent where it was down, or where the
    /// lens looked is not known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub azimuth_deg: Option<f64>,
    /// Degrees above the lens axis.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub elevation_deg: Option<f64>,
    /// Root mean square angle between that and where it stood, by what is known of where the lens looked.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub direction_sd_deg: Option<f64>,
    /// The light that may be the sun, and how far it lies from it, degrees.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub light: Option<SunLight>,
    /// What it means, in a sentence.
    pub says: String,
    /// When on that day the sun stands as high as the key was read, and where the lens then must look.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub as_high: Vec<SunTime>,
    /// How high it stands over that day, degrees, from midnight to midnight by the clock of the picture's time, a figure for
    /// each quarter of an hour.
    pub day_height_deg: Vec<f64>,
    /// Height of the key in the level frame, degrees, if one was read.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub key_height_deg: Option<f64>,
}

/// A light held against the sun.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SunLight {
    /// Place in the list of lights.
    pub index: usize,
    /// Degrees between the two.
    pub apart_deg: f64,
    /// Degrees they may lie apart and still be one, one standard deviation.
    pub sd_deg: f64,
    /// Whether they agree.
    pub agrees: bool,
}

/// A time at which the sun stands as high as a light that was read.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SunTime {
    /// Hours and minutes by the clock of the picture's time.
    pub clock: String,
    /// Minutes by which that moves with one standard deviation of the light's elevation.
    pub sd_minutes: f64,
    /// Degrees from north over east where the sun then stands.
    pub compass_deg: f64,
    /// Where the lens must look so that it comes from the key's side, degrees on the compass.
    pub lens_heading_deg: f64,
}

/// Two quantities of one picture: the contrast on the subject, and the lighting ratio.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Ratios {
    /// Contrast on the subject: stops between the lit and the shadow side, as the patches show them; without both patches
    /// what the lights that were read give between a side that faces the key and one it does not reach.
    pub lit_to_shadow_stops: f64,
    /// Range of that over the plausible tone curves and the spread.
    #[schema(value_type = optics::geometry::Pair)]
    pub range_stops: [f64; 2],
    /// What the contrast comes from.
    #[serde(default)]
    pub contrast_from: RatioFrom,
    /// Lighting ratio, one school: key alone to fill alone, each metered facing it.
    pub key_to_fill: f64,
    /// Range that holds it in 19 of 20 cases.
    #[serde(default)]
    #[schema(value_type = optics::geometry::Pair)]
    pub key_to_fill_range: [f64; 2],
    /// The other school: key and fill together to fill.
    pub key_plus_fill_to_fill: f64,
    /// Range that holds it in 19 of 20 cases.
    #[serde(default)]
    #[schema(value_type = optics::geometry::Pair)]
    pub key_plus_fill_to_fill_range: [f64; 2],
    /// What the lighting ratio comes from.
    #[serde(default)]
    pub ratio_from: RatioFrom,
    /// The lighting ratio is this or more: only a lower bound is told.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub at_least: bool,
    /// The lighting ratio in a sentence, with what says so.
    #[serde(default)]
    pub says: String,
    /// Marks that say so.
    #[serde(default)]
    pub evidence: Vec<String>,
}

impl Ratios {
    /// How far the contrast may be off, stops: half of its range.
    pub fn contrast_spread(&self) -> f64 {
        ((self.range_stops[1] - self.range_stops[0]) / 2.0).max(0.05)
    }
}

/// What a ratio or a contrast comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "lowercase")]
pub enum RatioFrom {
    /// A lit and a shadow patch.
    #[default]
    Patches,
    /// The levels of the lights that were read and of the light from all around.
    Lights,
    /// The lights, with patches whose place on the face tells what the key gives there.
    Both,
}

/// The named look.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Look {
    /// Name as in the table of looks.
    pub name: String,
    /// Probability over the direction's spread and the soft borders.
    pub probability: f64,
    /// Other names with their probabilities.
    #[serde(default)]
    pub others: Vec<LookChance>,
    /// `broad` or `short`, when the head's turn is known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub side: Option<String>,
}

/// A look and its probability.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LookChance {
    /// Name as in the table of looks.
    pub name: String,
    /// Probability.
    pub probability: f64,
}

/// Something to keep in mind about a reading.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Warning {
    /// Stable name.
    pub code: String,
    /// Sentence.
    pub text: String,
    /// Mark it is about, if one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mark: Option<String>,
}

impl Warning {
    /// A warning about the whole picture.
    pub fn new(code: &str, text: impl Into<String>) -> Self {
        Warning { code: code.into(), text: text.into(), mark: None }
    }

    /// A warning about one mark.
    pub fn on(mark: &str, code: &str, text: impl Into<String>) -> Self {
        Warning { code: code.into(), text: text.into(), mark: Some(mark.into()) }
    }
}
