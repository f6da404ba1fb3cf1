//! How long the light of a flash lasts, how soon it is ready again, how often it fires.
//!
//! A flash tube empties its capacitor about exponentially. Where the power is set by cutting the discharge short (camera flashes, newer
//! heads), what was sent out after a time `t` is `E (1 - exp(-t / tau))`, so a share `p` of the energy takes `-tau ln(1 - p)`; at full
//! power what counts is the time down to a tenth, `t0.1 = tau ln 10`. Where it is set by the voltage, the time stays. What is drawn is
//! what was sent out: readiness and charge go with the share. (Capacitor discharge; the trade's t0.1, ISO 2827.)

use optics::units::Stops;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How the power of a flash is set.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Dimming {
    /// The discharge is cut short: less power is faster.
    Cut,
    /// The capacitor is charged to less: the time stays.
    Voltage,
}

/// The pulse of a flash at full power.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Pulse {
    /// Seconds from its start down to a tenth of its peak, at full power.
    pub t01_s: f64,
    /// How its power is set.
    pub dimming: Dimming,
    /// Seconds until it is ready again after a flash at full power.
    pub ready_s: f64,
    /// Flashes at full power on one charge; absent on the mains.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub flashes: Option<f64>,
}

impl Pulse {
    /// Share of the full energy.
    fn share(power: Stops) -> f64 {
        power.0.min(0.0).exp2()
    }

    /// Seconds that what moves is lit for.
    pub fn lasts_s(&self, power: Stops) -> f64 {
        match self.dimming {
            Dimming::Voltage => self.t01_s,
            Dimming::Cut => {
                // down to a tenth nine tenths are out: more is never waited for
                let out = Self::share(power).min(0.9);
                -self.t01_s / std::f64::consts::LN_10 * (-out).ln_1p()
            }
        }
    }

    /// Seconds until it is ready again.
    pub fn ready_again_s(&self, power: Stops) -> f64 {
        self.ready_s * Self::share(power)
    }

    /// Flashes on one charge, if it has one.
    pub fn on_a_charge(&self, power: Stops) -> Option<f64> {
        Some(self.flashes? / Self::share(power))
    }

    /// Power at which it lasts no longer than so many seconds; `None` if none does.
    pub fn power_for(&self, lasts_s: f64) -> Option<Stops> {
        match self.dimming {
            _ if self.t01_s <= lasts_s => Some(Stops(0.0)),
            Dimming::Voltage => None,
            Dimming::Cut => Some(Stops((-(-lasts_s * std::f64::consts::LN_10 / self.t01_s).exp_m1()).log2())),
        }
    }

    /// Whether all figures are such as flashes have.
    pub(super) fn check(&self) -> Result<(), String> {
        let within = |name: &str, v: f64, lo: f64, hi: f64| {
            (v >= lo && v <= hi).then_some(()).ok_or_else(|| format!("{name}: expected {lo} to {hi}, found {v}"))
        };
        within("pulse.t01_s", self.t01_s, 1e-6, 0.1)?;
        within("pulse.ready_s", self.ready_s, 0.0, 600.0)?;
        self.flashes.map_or(Ok(()), |f| within("pulse.flashes", f, 1.0, 1e6))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const SPEEDLIGHT: Pulse = Pulse { t01_s: 1.0 / 300.0, dimming: Dimming::Cut, ready_s: 3.0, flashes: Some(180.0) };

    /// Camera flashes at 1/128 last 1/20 000 to 1/40 000 s, at 1/16 about 1/5 000 (handbook figures, common practice).
    #[test]
    fn a_cut_flash_is_faster_at_less_power() {
        assert!((SPEEDLIGHT.lasts_s(Stops(0.0)) - 1.0 / 300.0).abs() < 1e-9);
        let low = 1.0 / SPEEDLIGHT.lasts_s(Stops(-7.0));
        assert!((20_000.0..100_000.0).contains(&low), "1/{low}");
        let sixteenth = 1.0 / SPEEDLIGHT.lasts_s(Stops(-4.0));
        assert!((4_000.0..12_000.0).contains(&sixteenth), "1/{sixteenth}");
        for p in 0..40 {
            let (a, b) = (Stops(-f64::from(p) * 0.2), Stops(-f64::from(p + 1) * 0.2));
            assert!(SPEEDLIGHT.lasts_s(a) >= SPEEDLIGHT.lasts_s(b));
        }
        // for little power the time goes with it: half of it in half the time
        let half = SPEEDLIGHT.lasts_s(Stops(-6.0)) / SPEEDLIGHT.lasts_s(Stops(-5.0));
        assert!((half - 0.5).abs() < 0.01, "{half}");
    }

    #[test]
    fn the_power_that_freezes_is_found_again() {
        for t in [0.001, 0.0003, 0.00005] {
            let p = SPEEDLIGHT.power_for(t).unwrap();
            assert!((SPEEDLIGHT.lasts_s(p) / t - 1.0).abs() < 1e-9, "{t}: {p:?}");
        }
        assert_eq!(SPEEDLIGHT.power_for(0.01), Some(Stops(0.0)));
        let head = Pulse { dimming: Dimming::Voltage, ..SPEEDLIGHT };
        assert_eq!(head.power_for(0.001), None);
        assert!((head.lasts_s(Stops(-5.0)) - head.t01_s).abs() < 1e-12);
    }

    #[test]
    fn charge_and_readiness_go_with_the_energy() {
        assert!((SPEEDLIGHT.ready_again_s(Stops(-2.0)) - 0.75).abs() < 1e-12);
        assert!((SPEEDLIGHT.on_a_charge(Stops(-3.0)).unwrap() - 1440.0).abs() < 1e-9);
        assert!(Pulse { t01_s: f64::NAN, ..SPEEDLIGHT }.check().is_err() && SPEEDLIGHT.check().is_ok());
    }
}
