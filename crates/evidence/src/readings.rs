//! What was read from one picture: the format `slant-readings/1`.

use crate::patch_role::PatchRole;
use optics::geometry::AzEl;
use optics::photo::ClippedArea;
use optics::role::Role;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// Name and version of the readings format.
pub const FORMAT: &str = "slant-readings/1";

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

/// What one mark says on its own.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
pub struct MarkReading {
    /// Lights read from a ball.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub lights: Vec<Sighting>,
    /// Catchlights of an eye.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub catchlights: Option<Vec<Sighting>>,
    /// Gaze of an eye.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gaze: Option<Gaze>,
    /// Light of a patch.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub patch: Option<PatchReading>,
    /// Edge of a shadow.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub edge: Option<EdgeView>,
    /// Bright lines on a cylinder.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub strips: Option<Vec<StripView>>,
    /// Sides that the light of a standing cylinder came from, how high is open: its bright lines, or what its shading says.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub arcs: Vec<ArcView>,
    /// From which side the shading of a standing cylinder says it is lit.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub shaded: Option<ShadedSide>,
    /// Azimuths about a cylinder with nothing bright.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gaps: Option<Vec<GapView>>,
    /// Surfaces of an upright body with an outline, from below.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub bands: Vec<BandView>,
    /// How a face is turned and what read it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub face: Option<FaceView>,
    /// The camera's tone curve from a wedge.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub curve: Option<CurveView>,
    /// Where along an outline the light lies.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub round: Option<RoundView>,
    /// A bright edge from behind.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rim: Option<RimView>,
    /// A gradient on a background.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gradient: Option<GradientView>,
    /// Bands of light and shade.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pattern: Option<PatternView>,
    /// Samples behind the figures with what the model makes of them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub plot: Option<Plot>,
    /// Outline as refined on the picture: centre x, y and radius in pixels.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<optics::geometry::Triple>)]
    pub circle: Option<[f64; 3]>,
    /// How well the model explains the samples: root mean square residual in per cent of the lit
    /// side, over the number of samples.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub fit: Option<Fit>,
    /// One sentence for a person.
    #[serde(default)]
    pub says: String,
}

/// One light as one mark sees it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Sighting {
    /// Clock position on the mark, 12 up, 3 image right.
    pub clock: f64,
    /// Degrees from the lens axis, positive to camera right.
    pub azimuth_deg: f64,
    /// Degrees above the lens axis.
    pub elevation_deg: f64,
    /// Root mean square angle between the stated and the true direction.
    pub direction_sd_deg: f64,
    /// Full angle of the disc with the same solid angle.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub angular_size_deg: Option<f64>,
    /// One standard deviation below and above.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<optics::geometry::Pair>)]
    pub angular_size_range_deg: Option<[f64; 2]>,
    /// Stops relative to the strongest light in the same mark.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub level_stops: Option<f64>,
    /// One standard deviation of the level.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub level_sd_stops: Option<f64>,
    /// Outline of a catchlight in pixels.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(value_type = Vec<optics::geometry::Pair>)]
    pub outline: Vec<[f64; 2]>,
    /// Centre of a catchlight in pixels.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<optics::geometry::Pair>)]
    pub at: Option<[f64; 2]>,
    /// Width over height of a catchlight as seen from the subject, 1 for round.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub aspect: Option<f64>,
    /// How far its outline goes into the corners: 0 round, 1 rectangular.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub corners: Option<f64>,
    /// How far its edge fades: natural logarithm of its radius at a quarter of white over that at four fifths.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub feather: Option<f64>,
    /// Correlated colour temperature as the file's white balance has it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cct_k: Option<f64>,
    /// The same catchlight if the eye is turned the other way, when that could not be settled.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub otherwise: Option<OtherDirection>,
}

impl Sighting {
    /// Where the light comes from.
    pub fn at(&self) -> AzEl {
        AzEl { azimuth_deg: self.azimuth_deg, elevation_deg: self.elevation_deg }
    }
}

/// Azimuths that light came from, degrees from the lens axis, positive to image right; how high is open.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ArcView {
    /// One end.
    pub from_deg: f64,
    /// The other.
    pub to_deg: f64,
}

/// From which side an upright cylinder is lit, by its shading.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ShadedSide {
    /// Degrees about its axis from the lens axis, positive to image right.
    pub azimuth_deg: f64,
    /// Standard deviation, degrees.
    pub azimuth_sd_deg: f64,
}

/// Where round the picture a light lies, if its angle from the lens cannot be told.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct RoundView {
    /// Clock, 12 up, 3 image right.
    pub clock: f64,
    /// One standard deviation in degrees round the clock.
    pub clock_sd_deg: f64,
    /// Stops between the bright and the dark side, for an outline.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub contrast_stops: Option<f64>,
}

/// A bright edge a light from behind draws.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct RimView {
    /// Clock of the side it is on, 12 up.
    pub clock: f64,
    /// Width in pixels at half its height.
    pub width_px: f64,
    /// Stops over the surface inside it; at least, if clipped.
    pub over_stops: f64,
    /// It is clipped.
    pub clipped: bool,
    /// Degrees of its light from the lens axis, if the form's radius is known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub off_axis_deg: Option<f64>,
    /// One standard deviation.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub off_axis_sd_deg: Option<f64>,
}

/// A gradient on a background.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct GradientView {
    /// Brightest point in pixels, if it lies on or near the marked part.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<optics::geometry::Pair>)]
    pub top: Option<[f64; 2]>,
    /// Clock towards the brighter side, 12 up.
    pub clock: f64,
    /// Stops between its brightest and darkest part.
    pub stops: f64,
    /// Standard deviation about the fit in stops.
    pub spread_stops: f64,
}

/// Bands of light and shade.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PatternView {
    /// Bright bands crossed.
    pub bands: usize,
    /// Pixels from band to band, across them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub spacing_px: Option<f64>,
    /// Standard deviation of the spacings over their mean.
    pub unevenness: f64,
    /// Pixels from 10 to 90 % of an edge.
    pub edge_px: f64,
    /// Stops between band and shade.
    pub contrast_stops: f64,
    /// How the bands run: degrees from level, anticlockwise.
    pub run_deg: f64,
}

/// Samples with what the model makes of them.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Plot {
    /// Across, with its unit.
    pub across: String,
    /// Up, with its unit.
    pub up: String,
    /// What the line is: the fit, or what the samples are held against.
    pub line: String,
    /// Across, measured, on the line.
    #[schema(value_type = Vec<optics::geometry::Triple>)]
    pub points: Vec<[f64; 3]>,
}

/// A tone curve read from a wedge.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct CurveView {
    /// Patches: stops from middle grey as encoded, and in the scene.
    #[schema(value_type = Vec<optics::geometry::Pair>)]
    pub points_stops: Vec<[f64; 2]>,
    /// Standard deviation of a patch about the curve in stops.
    pub spread_stops: f64,
    /// Contrast at middle grey, 1 for plain sRGB.
    pub contrast: f64,
    /// Patches left out as clipped or black.
    pub left_out: usize,
}

/// How a face is turned.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct FaceView {
    /// Degrees turned to image right.
    pub turned_deg: f64,
    /// One standard deviation of the turn.
    #[serde(default)]
    pub turned_sd_deg: f64,
    /// Degrees nodded up.
    pub nodded_deg: f64,
    /// One standard deviation of the nod.
    #[serde(default)]
    pub nodded_sd_deg: f64,
    /// Degrees tilted clockwise in the picture.
    pub tilted_deg: f64,
    /// Edges of shadows on the face that told the key's size; 0 if shading alone did.
    #[serde(default)]
    pub shadow_edges: usize,
    /// The stand-in heads it was read with, the best first.
    pub heads: Vec<HeadShare>,
    /// Shape of the head that was fitted to it: weights of the components of the family of heads, in standard deviations;
    /// absent where the face was marked by hand.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub shape: Vec<f64>,
    /// Linear RGB of the skin in this picture where it faces all the light before it at once.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<optics::geometry::Triple>)]
    pub skin: Option<[f64; 3]>,
    /// Samples of skin: pixel x and y, and stops by which the picture exceeds what the lights found
    /// explain.
    #[serde(default)]
    #[schema(value_type = Vec<optics::geometry::Triple>)]
    pub map: Vec<[f64; 3]>,
}

/// A stand-in head and its weight.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct HeadShare {
    /// Name.
    pub name: String,
    /// Share of the weight, 0..1.
    pub share: f64,
}

/// The edge of a shadow.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct EdgeView {
    /// Width from 10 to 90 % of the step, pixels across the edge.
    pub width_px: f64,
    /// Stops between the light and the dark side.
    pub step_stops: f64,
    /// Full angle of the light that casts it, if gap and scale are known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub angular_size_deg: Option<f64>,
    /// One standard deviation below and above.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<optics::geometry::Pair>)]
    pub angular_size_range_deg: Option<[f64; 2]>,
    /// As narrow as the picture resolves: the angle is an upper bound.
    pub unresolved: bool,
}

/// A bright line on a glossy cylinder: where its source lies as seen from the line.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct StripView {
    /// Azimuth about the cylinder's axis of one edge at half height; 0 along the lens axis, positive to
    /// the image side right of the axis walked upwards.
    pub azimuth_from_deg: f64,
    /// The other edge.
    pub azimuth_to_deg: f64,
    /// One standard deviation of an edge.
    pub azimuth_sd_deg: f64,
    /// `crisp` or `feathered`.
    pub edge: String,
    /// Turn from 10 to 90 % at the softer edge.
    pub edge_deg: f64,
    /// The same at either edge.
    #[schema(value_type = optics::geometry::Pair)]
    pub edges_deg: [f64; 2],
    /// Stops over the ground beside it; at least, if clipped.
    pub over_ground_stops: f64,
    /// Linear light of its middle over the ground.
    pub light: f64,
    /// It is clipped.
    pub clipped: bool,
    /// Shares of the upright part, from its foot, between which it is seen.
    #[schema(value_type = optics::geometry::Pair)]
    pub along: [f64; 2],
    /// How high its source reaches, by where it ends on the shoulder; absent without an outline or a shoulder.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reaches: Option<ReachView>,
    /// So wide, or so near to the rim, that it may be the lit side of what does not shine, whose shading tells more.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub lit_side: bool,
}

/// How high the source of a line reaches.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ReachView {
    /// Degrees over the horizon of the table.
    pub elevation_deg: f64,
    /// One standard deviation.
    pub elevation_sd_deg: f64,
    /// It reaches at least so far: the line does not end.
    pub open: bool,
}

/// A part of an upright body with one surface.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct BandView {
    /// Share of the axis of its lower end.
    pub from: f64,
    /// Of its upper end.
    pub to: f64,
    /// `glossy`, `satin` or `matte` by how strongly the brightest line shows on it; absent without a line.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub finish: Option<String>,
}

/// Azimuths with nothing bright.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct GapView {
    /// Degrees.
    pub azimuth_from_deg: f64,
    /// Degrees.
    pub azimuth_to_deg: f64,
}

/// The second solution of an ambiguous gaze.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct OtherDirection {
    /// Degrees from the lens axis.
    pub azimuth_deg: f64,
    /// Degrees above the lens axis.
    pub elevation_deg: f64,
}

/// Where an eye looks.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Gaze {
    /// Degrees between gaze and view ray.
    pub turned_deg: f64,
    /// Clock towards which it looks.
    pub clock: f64,
    /// What settled the sign: `mark`, `white`, `straight` or `open`.
    pub settled_by: String,
}

/// Light of a patch.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PatchReading {
    /// Mean linear luminance, 1 = diffuse white at the picture's own exposure.
    pub luminance: f64,
    /// Stops from middle grey as encoded.
    pub stops_from_grey: f64,
    /// Standard deviation within the patch in stops.
    pub spread_stops: f64,
    /// Share of its pixels left out as clipped.
    pub clipped_fraction: f64,
    /// Pixels used.
    pub pixels: u64,
    /// Mean linear red, green, blue.
    #[serde(default)]
    #[schema(value_type = optics::geometry::Triple)]
    pub rgb: [f64; 3],
}

/// Quality of a model fit.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Fit {
    /// Root mean square residual in per cent of the brightest fitted value.
    pub residual_percent: f64,
    /// Samples used.
    pub samples: usize,
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

/// Exposure of the picture as a whole.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
pub struct ExposureReading {
    /// Share of pixels with a channel at the top of its range.
    pub clipped_fraction: f64,
    /// Median luminance in stops from middle grey.
    pub median_stops_from_grey: f64,
    /// EV at ISO 100, if the settings are known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ev100: Option<f64>,
    /// Illuminance in lux the settings are right for (dome receptor).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub incident_lux: Option<f64>,
    /// Luminance in cd/m2 that lands on middle grey.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub grey_luminance: Option<f64>,
    /// Share of the picture per half stop, from six stops under middle grey to four over.
    #[serde(default)]
    pub histogram: Vec<f64>,
    /// Shares of the picture by zone, dark to light.
    #[serde(default)]
    pub zones: Vec<Zone>,
    /// Connected clipped areas, the largest first.
    #[serde(default)]
    pub clipped_areas: Vec<ClippedArea>,
    /// Where marked parts lie against where such parts usually lie.
    #[serde(default)]
    pub placements: Vec<Placement>,
    /// What would bring the marked parts where they usually lie.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub correction: Option<Correction>,
}

/// What the picture is made of at the scale of its pixels. Shares are of the longer side.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct TextureReading {
    /// Standard deviation of noise, per cent of the range from black to white.
    pub noise_percent: f64,
    /// By how much steps across borders of eight pixels stand out from those beside them, in the mean, per cent of the range: what
    /// compression leaves.
    pub blocks_percent: f64,
    /// Width of the sharpest edges, thousandths of the longer side.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub edge_permille: Option<f64>,
    /// The same where the subject is marked.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub subject_edge_permille: Option<f64>,
    /// Mark that says where the subject is.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub subject: Option<String>,
    /// Length of a smear one way, thousandths of the longer side.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub smear_permille: Option<f64>,
    /// Along which way: degrees from image right towards image down, 0 to 180.
    pub smear_deg: f64,
    /// One pixel of the scale this was measured at: nothing finer is told.
    pub pixel_permille: f64,
}

/// A zone of brightness.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Zone {
    /// Name.
    pub name: String,
    /// Upper end in stops from middle grey.
    pub to_stops: f64,
    /// Share of the picture.
    pub share: f64,
}

/// Where a marked part lies.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Placement {
    /// Mark.
    pub mark: String,
    /// What it shows.
    pub role: PatchRole,
    /// Stops from middle grey.
    pub stops_from_grey: f64,
    /// Standard deviation within the patch in stops.
    pub spread_stops: f64,
    /// Where such parts usually lie.
    #[schema(value_type = optics::geometry::Pair)]
    pub usual_stops: [f64; 2],
    /// Stops outside of that: positive too bright, 0 inside.
    pub off_stops: f64,
    /// What is usual, for a person.
    pub says: String,
}

/// A change of exposure.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Correction {
    /// Stops: positive is brighter.
    pub stops: f64,
    /// It suits every marked part; if not, it is the middle between them, and the light's contrast is the matter.
    pub agreed: bool,
    /// Ways to do it, if the settings are known.
    #[serde(default)]
    pub ways: Vec<Way>,
}

/// One way to change exposure.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Way {
    /// aperture, shutter, ISO or power.
    pub by: String,
    /// New setting.
    pub to: String,
    /// What it also changes.
    pub also: String,
}

/// Code of the warning on a patch that is clipped as a whole.
pub const PATCH_CLIPPED: &str = "patch_clipped";

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
