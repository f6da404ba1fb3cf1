//! What each mark says on its own.

use super::*;

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
    /// Sides of a box, in the order of the edges they lie opposite to.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub sides: Vec<SideView>,
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

/// A side of a box.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SideView {
    /// Which it is, as it lies in the picture: top, left, right, bottom.
    pub name: String,
    /// Where it faces, degrees to the right of the lens axis.
    pub azimuth_deg: f64,
    /// Where it faces, degrees up.
    pub elevation_deg: f64,
    /// What stands in this direction is mirrored in its middle: degrees to the right of the lens axis.
    pub mirrors_azimuth_deg: f64,
    /// The same, degrees up.
    pub mirrors_elevation_deg: f64,
    /// Angle across all that it mirrors, degrees: a source that fills it must be seen as large from there. Where the camera's angle is known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub family_deg: Option<f64>,
    /// Stops from middle grey.
    pub stops_from_grey: f64,
    /// Stops under the brightest of the three.
    pub under_stops: f64,
    /// One standard deviation of that, of one paint and a camera's curve that nobody declared.
    pub under_sd_stops: f64,
    /// Steepest fall from edge to edge, stops.
    pub gradient_stops: f64,
    /// Share that is clipped.
    pub clipped_fraction: f64,
    /// Corners, pixels.
    #[schema(value_type = Vec<optics::geometry::Pair>)]
    pub corners: Vec<[f64; 2]>,
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
    /// Standard deviation of its width, degrees: less than that of its place where both edges lie off together.
    pub width_sd_deg: f64,
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
