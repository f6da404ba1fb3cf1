//! What a meter in a set shows. The stand-in studio fills these in; plans and build sheets use them.

use crate::geometry::{AzEl, Vec3};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What a meter shows for one light alone, at the reference point, turned to the light.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LightMeter {
    /// Name of the light.
    pub name: String,
    /// Switched off: left out of what is told of all together.
    pub off: bool,
    /// Where its light comes from, degrees.
    pub azimuth_deg: f64,
    /// Degrees.
    pub elevation_deg: f64,
    /// Metres from the reference point to the last bright face.
    pub distance_m: f64,
    /// Full angle of the even disc of the same solid angle, degrees.
    pub angular_size_deg: f64,
    /// Stops relative to the strongest light.
    pub level_stops: f64,
    /// Luminous exposure during the shutter time, lux seconds.
    pub lux_seconds: f64,
    /// Aperture it asks for at the set's shutter and ISO.
    pub f_number: f64,
    /// The nearest third stop.
    pub nominal: f64,
    /// Where the lamp is.
    pub position_m: [f64; 3],
    /// Centre of the bright face that the light leaves from.
    pub face_m: [f64; 3],
    /// Its corners or outline in the set frame, for drawings.
    pub outline_m: Vec<[f64; 3]>,
}

impl LightMeter {
    /// Share of this light that a dome at the reference point turned to `lens` takes in:
    /// `(1 + cos) / 2` (common practice).
    pub fn dome_share(&self, lens: &Vec3) -> f64 {
        let a = AzEl { azimuth_deg: self.azimuth_deg, elevation_deg: self.elevation_deg };
        (1.0 + a.vector().dot(lens)) / 2.0
    }
}

/// What a meter shows for a set.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SetMeter {
    /// Each light alone, in the order of the set; one that is off is told of as if it were on.
    pub lights: Vec<LightMeter>,
    /// Dome at the reference point turned to the lens, all lights and the ambient.
    pub together_f_number: f64,
    /// The nearest third stop.
    pub together_nominal: f64,
    /// Stops between that and the aperture set: positive is overexposed.
    pub over_stops: f64,
    /// What of that dome is the ambient's, against the aperture set, in stops; absent without ambient.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ambient_stops: Option<f64>,
    /// The set as a slant line.
    pub slant: String,
    /// What cannot work as it stands, in sentences.
    pub warnings: Vec<String>,
    /// Cautions that apply to it as it stands.
    pub cautions: Vec<String>,
}
