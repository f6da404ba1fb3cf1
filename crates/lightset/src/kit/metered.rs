//! A lamp's output from readings of a meter, in place of what is printed on it.

use super::{Lamp, Output};
use crate::set::range;
use optics::exposure::C_FLAT;
use optics::power::read_power;
use optics::words::stops_words;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// One reading of a meter held before the lamp, flat, turned to it, everything else off.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LampReading {
    /// Setting of the lamp in its own notation: 1/4, 50 %, 7.2, full.
    pub power: String,
    /// Metres from its bright face to the meter.
    pub distance_m: f64,
    /// Aperture shown.
    pub f_number: f64,
    /// Speed the meter was set to.
    pub iso: f64,
    /// Time it was set to; does not count for a flash.
    pub shutter_s: f64,
}

/// A lamp as it was metered.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Metered {
    /// The lamp with its output and spread by the readings.
    pub lamp: Lamp,
    /// What the readings say of full power, stops against what the kit had.
    pub stops: f64,
    /// One standard deviation of that.
    pub sd_stops: f64,
    /// What was found, in sentences.
    pub says: Vec<String>,
}

/// What one reading is good for: a meter and a tape, stops (common practice).
const READING_SD: f64 = 0.12;
/// Readings farther apart than this do not agree, stops.
const APART: f64 = 0.35;
/// Farther from what the kit had than this, something else than a worn lamp is likely, stops.
const FAR: f64 = 2.0;
const MOST: usize = 6;

/// Stops by which a reading lies over full power as the kit has it, and the power it was taken at.
fn over(lamp: &Lamp, r: &LampReading) -> Result<(f64, f64), String> {
    range("distance_m", r.distance_m, 0.1, 30.0, "metres")?;
    range("f_number", r.f_number, 0.5, 128.0, "")?;
    range("iso", r.iso, 1.0, 409_600.0, "")?;
    let flash = lamp.is_flash();
    if !flash {
        range("shutter_s", r.shutter_s, 1e-5, 3600.0, "seconds")?;
    }
    let power = read_power(lamp.control, &r.power, lamp.full_joules(), lamp.full_panel)?.0;
    // incident meter, flat: E t = C N^2 / S (ISO 2720:1974); the inverse square law from the face
    let lux_seconds = C_FLAT * r.f_number.powi(2) / r.iso;
    let light = if flash { lux_seconds } else { lux_seconds / r.shutter_s };
    Ok(((light * r.distance_m.powi(2) / lamp.axial()).log2() - power, power))
}

/// Works out a lamp's output from two to six readings in its own reflector.
///
/// # Errors
/// A sentence that names what is wrong with a reading.
pub fn metered(lamp: &Lamp, readings: &[LampReading]) -> Result<Metered, String> {
    if !(2..=MOST).contains(&readings.len()) {
        return Err(format!("expected two to {MOST} readings, found {}", readings.len()));
    }
    let all = readings
        .iter()
        .enumerate()
        .map(|(k, r)| over(lamp, r).map_err(|e| format!("reading {}: {e}", k + 1)))
        .collect::<Result<Vec<_>, _>>()?;
    let n = all.len() as f64;
    let stops = all.iter().map(|a| a.0).sum::<f64>() / n;
    let scatter = (all.iter().map(|a| (a.0 - stops).powi(2)).sum::<f64>() / (n - 1.0)).sqrt();
    let sd_stops = (READING_SD.max(scatter) / n.sqrt()).max(0.05);
    let mut says = Vec::new();
    let axial = lamp.axial() * stops.exp2();
    let beam_deg = lamp.beam_deg();
    let output = if lamp.is_flash() {
        let guide_number_m = (axial * 100.0 / C_FLAT).sqrt();
        says.push(format!(
            "At full power its guide number is {guide_number_m:.1} m at ISO 100 (± {sd_stops:.2} stops)."
        ));
        Output::Guide { guide_number_m, beam_deg }
    } else {
        says.push(format!("At full power it gives {axial:.0} lux at 1 m (± {sd_stops:.2} stops)."));
        Output::Lux { lux: axial, at_m: 1.0, beam_deg }
    };
    says.push(format!(
        "That is {:.1} stops {} than the kit had.",
        stops.abs(),
        if stops < 0.0 { "less" } else { "more" }
    ));
    let spread = all.iter().map(|a| a.0).fold(f64::MIN, f64::max) - all.iter().map(|a| a.0).fold(f64::MAX, f64::min);
    if spread <= APART {
        says.push(format!("The readings agree within {spread:.2} stops."));
    } else {
        says.push(format!("The readings lie {spread:.1} stops apart. {}", why(readings, &all)));
    }
    if stops.abs() > FAR {
        says.push(
            "So far from what was printed: see that the meter stood on the lamp's axis in its own reflector, that no filter \
             was on, and that the lamp of the kit is this one."
                .into(),
        );
    }
    let lamp = Lamp { output, spread_stops: sd_stops.max(scatter), ..lamp.clone() };
    Ok(Metered { lamp, stops, sd_stops, says })
}

/// What readings that do not agree have in common.
fn why(readings: &[LampReading], all: &[(f64, f64)]) -> String {
    let (a, b) = (0, readings.len() - 1);
    let d_power = all[b].1 - all[a].1;
    let d_far = (readings[b].distance_m / readings[a].distance_m).log2();
    if d_power.abs() > 0.3 && d_far.abs() < 0.05 {
        let real = d_power + all[b].0 - all[a].0;
        format!(
            "At one distance the dial was turned {} and the light went {}: its scale is off by that; meter it near the power you use.",
            stops_words(d_power),
            stops_words(real)
        )
    } else if d_power.abs() < 0.05 && d_far.abs() > 0.1 {
        // E1 (d1+x)^2 = E2 (d2+x)^2
        let k = ((all[b].0 - all[a].0) / 2.0).exp2() * readings[a].distance_m / readings[b].distance_m;
        let x = (readings[a].distance_m - k * readings[b].distance_m) / (k - 1.0);
        if x.is_finite() && x.abs() < 2.0 && x > -0.9 * readings[a].distance_m.min(readings[b].distance_m) {
            format!(
                "At one power they fit a light that shines from {:.2} m {} where you measured: measure from the bright face.",
                x.abs(),
                if x > 0.0 { "behind" } else { "before" }
            )
        } else {
            "At one power the light does not fall off with the distance: something else shone, or a wall gave light back.".into()
        }
    } else {
        "Change only the distance or only the power between two of them: then it can be told which is off.".into()
    }
}
