//! Exposure of the whole picture, where its parts lie, and what it is made of up close.

use super::*;

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
    /// The same where the picture is sharpest, measured in the same way.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sharpest_part_permille: Option<f64>,
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

/// How long straight lines of the picture lie: a horizon or a table's edge, and what stands upright behind the subject.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct StraightReading {
    /// The longest nearly level lines together.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub level: Option<Tilt>,
    /// What stands upright, the mean of both halves of the picture.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub upright: Option<Tilt>,
    /// By how much uprights of the left half lean in towards those of the right half, degrees: positive if they meet above (the
    /// camera looks up), negative if they meet below.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub converging_deg: Option<f64>,
    /// One standard deviation of it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub converging_sd_deg: Option<f64>,
}

/// How far lines are turned from level or from upright.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Tilt {
    /// Degrees, clockwise positive: the right end lower, the head further right.
    pub tilt_deg: f64,
    /// One standard deviation; more where lines disagree.
    pub tilt_sd_deg: f64,
    /// The lower end of the longest of them, or the head of what stands, pixels.
    #[schema(value_type = optics::geometry::Pair)]
    pub at: [f64; 2],
    /// How many lines say so.
    pub lines: usize,
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
