//! Exposure: EV, metering constants, nominal and exact series, flash.

use crate::units::{FNumber, Metres, Stops};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Incident calibration constant for a flat receptor, lux second (ISO 2720:1974, C = 240..400
/// for a cosine receptor; 250 is common practice).
pub const C_FLAT: f64 = 250.0;
/// Incident calibration constant for a dome receptor, lux second (ISO 2720:1974, 320..540; makers
/// use 320 to 340).
pub const C_DOME: f64 = 330.0;
/// Reflected calibration constant, cd s / m^2 (ISO 2720:1974, 10.6..13.4; 12.5 is common practice).
pub const K_REFLECTED: f64 = 12.5;

/// Camera settings of one exposure.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Settings {
    /// f-number (exact or nominal as written by the camera).
    pub f_number: f64,
    /// Exposure time in seconds.
    pub shutter_s: f64,
    /// ISO speed.
    pub iso: f64,
}

impl Settings {
    /// Says which field is out of range, if any.
    pub fn check(&self) -> Result<(), String> {
        let ok = |v: f64, lo: f64, hi: f64| v.is_finite() && v >= lo && v <= hi;
        if !ok(self.f_number, 0.3, 512.0) {
            return Err(format!("exposure.f_number: expected 0.3 to 512, found {}", self.f_number));
        }
        if !ok(self.shutter_s, 1e-6, 1e5) {
            return Err(format!("exposure.shutter_s: expected seconds above 0, found {}", self.shutter_s));
        }
        if !ok(self.iso, 0.1, 1e8) {
            return Err(format!("exposure.iso: expected an ISO speed above 0, found {}", self.iso));
        }
        Ok(())
    }

    /// Exposure value of aperture and shutter alone: `log2(N^2 / t)`.
    pub fn ev(&self) -> f64 {
        (self.f_number * self.f_number / self.shutter_s).log2()
    }

    /// The same scene brightness at ISO 100: `EV - log2(S / 100)`.
    pub fn ev100(&self) -> f64 {
        self.ev() - (self.iso / 100.0).log2()
    }

    /// Illuminance in lux that this exposure is right for: `E = C N^2 / (t S)`.
    pub fn incident_lux(&self, c: f64) -> f64 {
        c * self.f_number * self.f_number / (self.shutter_s * self.iso)
    }

    /// Luminance in cd/m^2 that renders as middle grey: `L = K N^2 / (t S)`.
    pub fn reflected_luminance(&self, k: f64) -> f64 {
        k * self.f_number * self.f_number / (self.shutter_s * self.iso)
    }

    /// The aperture a meter shows for a light of `relative` times this exposure, same shutter and
    /// ISO: f-numbers go with the square root of light.
    pub fn f_number_for(&self, relative: Stops) -> FNumber {
        FNumber(self.f_number * (relative.0 / 2.0).exp2())
    }
}

/// The nominal f-number (third stops) nearest to an exact one, as engraved on lenses.
pub fn nominal_f_number(exact: FNumber) -> f64 {
    crate::engraved::aperture(exact)
}

/// Stops between two apertures, exact powers: positive when `b` lets in less light.
pub fn stops_between_apertures(a: FNumber, b: FNumber) -> Stops {
    Stops(2.0 * (b.0 / a.0).log2())
}

/// Distance to a small source from a walk towards or away from it: the meter lost `drop` stops
/// over `walked`. From the inverse-square law, `(d + w) / d = 2^(drop / 2)`.
pub fn distance_from_walk(walked: Metres, drop: Stops) -> Metres {
    Metres(walked.0 / ((drop.0 / 2.0).exp2() - 1.0))
}

/// Stops lost when a small source moves from `from` to `to`.
pub fn inverse_square_loss(from: Metres, to: Metres) -> Stops {
    Stops(2.0 * (to.0 / from.0).log2())
}

/// Flash aperture: guide number over distance, scaled by `sqrt(S / 100)` and `sqrt(energy)`.
pub fn flash_aperture(guide_number_m: f64, distance: Metres, iso: f64, energy_fraction: f64) -> FNumber {
    FNumber(guide_number_m * (iso / 100.0 * energy_fraction).sqrt() / distance.0)
}

/// A shutter time as a person writes it: 1/200, 0.5 s, 2 s.
pub fn shutter_text(seconds: f64) -> String {
    if seconds < 0.3 { format!("1/{:.0}", 1.0 / seconds) } else { format!("{} s", (seconds * 10.0).round() / 10.0) }
}
