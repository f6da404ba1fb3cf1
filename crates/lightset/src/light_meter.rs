//! What a meter shows for one light of a set.

use optics::geometry::{AzEl, Vec3};
use optics::role::Role;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What a meter shows for one light alone, at the reference point, turned to the light.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LightMeter {
    /// Name of the light.
    pub name: String,
    /// What it is for, by its name.
    pub role: Role,
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
    /// The same level in every notation.
    pub notations: Notations,
    /// Id of the filter on it, if it is one of the table.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gel: Option<String>,
    /// Angle between where the lamp is aimed and where the subject is, seen from its bright face, degrees.
    pub feather_deg: f64,
    /// Where the lamp is.
    #[schema(value_type = optics::geometry::Triple)]
    pub position_m: [f64; 3],
    /// Centre of the bright face that the light leaves from.
    #[schema(value_type = optics::geometry::Triple)]
    pub face_m: [f64; 3],
    /// Its corners or outline in the set frame, for drawings.
    #[schema(value_type = Vec<optics::geometry::Triple>)]
    pub outline_m: Vec<[f64; 3]>,
}

impl LightMeter {
    /// Where its light comes from.
    pub fn at(&self) -> AzEl {
        AzEl { azimuth_deg: self.azimuth_deg, elevation_deg: self.elevation_deg }
    }

    /// Share of this light that a dome at the reference point turned to `lens` takes in:
    /// `(1 + cos) / 2` (common practice).
    pub fn dome_share(&self, lens: &Vec3) -> f64 {
        (1.0 + self.at().vector().dot(lens)) / 2.0
    }
}

/// A level in every notation a set may have it in.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Notations {
    /// Stops over the exposure the settings are right for.
    pub stops: f64,
    /// Illuminance of a continuous light at the subject.
    pub lux: f64,
    /// Guide number of a flash at full power, metres at ISO 100.
    pub guide_number_m: f64,
    /// Energy of a studio flash at full power.
    pub joules: f64,
}
