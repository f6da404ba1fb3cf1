//! How strong a light is: in stops over the exposure, in lux, by guide number or by energy.

use super::check::range;
use optics::exposure::{C_FLAT, Settings};
use optics::power::{Control, read_power};
use optics::units::Stops;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How strong a light is.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(untagged)]
pub enum Level {
    /// Stops over the incident exposure that the camera's settings are right for, measured at the
    /// reference point facing the light with nothing in the way; of a light for the background where it is aimed.
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

impl Level {
    /// So many stops more light of it at the subject, its power setting as it was; told stops to a hundredth.
    pub fn by(&mut self, stops: f64) {
        match self {
            Level::Stops { stops: s } => *s = ((*s + stops) * 100.0).round() / 100.0,
            Level::Lux { lux } => *lux *= stops.exp2(),
            // what reaches the subject goes with the square of the guide number
            Level::Guide { guide_number_m, .. } => *guide_number_m *= (stops / 2.0).exp2(),
            Level::Joules { joules, .. } => *joules *= stops.exp2(),
        }
    }

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

impl Level {
    pub(super) fn check(&self) -> Result<(), String> {
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
