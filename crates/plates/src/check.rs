//! Whether plates add up to the picture with all lights on, and what it likely is where they do not.

use crate::curve::{SumCurve, curve_of_sum};
use crate::light::{Light, plain_sum};
use crate::mix::{Mix, MixWarning, solve, twins};
use crate::register::Lies;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A plate as it was checked.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PlateFound {
    /// How it lies against the first; absent if that cannot be told.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub lies: Option<Lies>,
    /// It was moved.
    pub moved: bool,
    /// Share of it that is clipped.
    pub clipped: f64,
    /// Mean of its linear light over the dark frame, stops from middle grey.
    pub mean_stops: f64,
    /// The same in sentences.
    pub says: Vec<String>,
}

/// Reason why a sum does not come out.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Reason {
    /// It comes out.
    None,
    /// A plate was moved.
    Moved,
    /// Too much is clipped.
    Clipped,
    /// The camera set each exposure itself, or a lamp's power was changed.
    Exposure,
    /// The picture with all lights on has light that no plate has.
    AnotherLight,
    /// A plate has light that the picture with all lights on has not.
    LeftOn,
    /// The tone curve is another than the one taken.
    Curve,
}

/// The sum of plates against the picture with all lights on.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SumCheck {
    /// Each plate.
    pub plates: Vec<PlateFound>,
    /// Pairs that show the same light: one picture twice.
    pub twins: Vec<(usize, usize)>,
    /// What each plate is worth in the picture with all lights on: nought stops if the sum comes out; absent without that picture.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub mix: Option<Mix>,
    /// Root mean square of all-on less the plain sum, over that of all-on.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub left_over: Option<f64>,
    /// A tone curve under which it comes out, where the taken one is likely not the camera's.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub curve: Option<SumCurve>,
    /// The likely reason.
    pub reason: Reason,
    /// In sentences, the most telling first.
    pub says: Vec<String>,
    /// Remarks.
    pub warnings: Vec<MixWarning>,
}

/// A sum that comes out is within this share: noise, coding and tape.
pub const COMES_OUT: f64 = 0.03;
/// A plate's weight differs from one by more than this, stops, if its exposure or power was changed.
const TURNED_STOPS: f64 = 0.08;
/// A plate of which this share is clipped is overexposed.
const CLIPPED: f64 = 0.01;
/// Of what is left over under the taken curve, what another must leave at most to be the reason.
const CURVE_PART: f64 = 0.35;
/// Of what is left over with lamps turned: a camera that chose its exposure turns all lamps alike, and then nothing is left to a curve.
const OF_TURNED: f64 = 0.8;
/// A plate this dark in the mean is underexposed, stops from middle grey.
const DARK_STOPS: f64 = -7.0;

fn share(c: &[bool]) -> f64 {
    c.iter().filter(|c| **c).count() as f64 / c.len().max(1) as f64
}

/// One plate by itself.
pub fn plate(light: &Light, dark: Option<&Light>, lies: Option<Lies>, name: &str) -> PlateFound {
    let clipped = share(&light.clipped);
    let mean = light.mean() - dark.map_or(0.0, Light::mean);
    let mean_stops = (mean.max(1e-6) / 0.18).log2();
    let moved = lies.is_some_and(|l| l.moved());
    let mut says = Vec::new();
    if let Some(l) = lies.filter(Lies::moved) {
        let part = |v: f64, words: [&str; 2]| {
            (v.abs() >= 0.1).then(|| format!("{:.1} px {}", v.abs(), words[usize::from(v > 0.0)]))
        };
        let parts: Vec<String> =
            [part(l.right_px, ["left", "right"]), part(l.down_px, ["up", "down"])].into_iter().flatten().collect();
        says.push(format!(
            "{name} lies {} (± {:.2} px) beside where it should: camera or product was touched.",
            parts.join(", "),
            l.sd_px
        ));
    }
    if clipped > CLIPPED {
        says.push(format!("{:.1} % of {name} is clipped: expose it less.", 100.0 * clipped));
    }
    if mean_stops < DARK_STOPS {
        says.push(format!(
            "{name} is nearly black ({mean_stops:.1} stops from middle grey in the mean): was its lamp on?"
        ));
    }
    PlateFound { lies, moved, clipped, mean_stops, says }
}

/// Checks plates against each other and against the picture with all lights on.
///
/// # Errors
/// A sentence if sizes differ or nothing can be solved for.
pub fn check(
    all: Option<&Light>,
    plates: &[&Light],
    dark: Option<&Light>,
    found: Vec<PlateFound>,
    names: &[String],
) -> Result<SumCheck, String> {
    let name = |k: usize| names.get(k).cloned().unwrap_or_else(|| format!("plate {}", k + 1));
    let mut says: Vec<String> = found.iter().flat_map(|f| f.says.clone()).collect();
    let twins = twins(plates, dark);
    says.extend(twins.iter().map(|(a, b)| {
        format!("{} and {} are the same picture, or of the same lamp in the same place.", name(*a), name(*b))
    }));
    let Some(all) = all else {
        says.push("Without a picture with all lights on the sum cannot be checked: take one.".into());
        return Ok(SumCheck {
            plates: found,
            twins,
            mix: None,
            left_over: None,
            curve: None,
            reason: Reason::None,
            says,
            warnings: Vec::new(),
        });
    };
    let fine = (all, plates, dark);
    let coarse: Vec<Light> = plates.iter().map(|p| p.for_sums()).collect();
    let (all, plates) = (&all.for_sums(), &coarse.iter().collect::<Vec<_>>()[..]);
    let dark = dark.map(Light::for_sums);
    let dark = dark.as_ref();
    let mix = solve(all, plates, dark)?;
    let (left, plus) = plain_sum(all, plates, dark);
    let turned: Vec<(usize, f64)> = mix
        .stops
        .iter()
        .zip(&mix.sd_stops)
        .enumerate()
        .filter_map(|(k, (s, sd))| {
            let s = (*s)?;
            (s.abs() > TURNED_STOPS.max(3.0 * sd.unwrap_or(0.0))).then_some((k, s))
        })
        .collect();
    let clipped = share(&all.clipped).max(found.iter().map(|f| f.clipped).fold(0.0, f64::max));
    let curve = if left <= COMES_OUT || found.iter().any(|f| f.moved) {
        None
    } else {
        let better = |c: &SumCurve| {
            c.left_over <= COMES_OUT.min(CURVE_PART * left) && c.left_over < OF_TURNED * mix.residual_share
        };
        curve_of_sum(fine.0, fine.1, fine.2).filter(better)
    };
    let absent: Vec<usize> = (0..plates.len()).filter(|k| mix.stops[*k].is_none()).collect();
    let (reason, text) = if let Some(k) = found.iter().position(|f| f.moved) {
        let share = 100.0 * left;
        (Reason::Moved, format!("{} was moved: {share:.1} % of the picture with all lights on is left over.", name(k)))
    } else if left <= COMES_OUT {
        let share = 100.0 * left;
        let text =
            format!("Dark frame and plates add up to the picture with all lights on: {share:.1} % is left over.");
        (Reason::None, text)
    } else if let Some(c) = &curve {
        (
            Reason::Curve,
            format!(
                "The sum is off by {:.1} %, and by {:.1} % with a tone curve whose contrast at middle grey is {:.2} ± {:.2} of plain sRGB: the \
                 camera's curve is likely another.",
                100.0 * left,
                100.0 * c.left_over,
                c.contrast,
                c.contrast_sd
            ),
        )
    } else if mix.residual_share <= COMES_OUT.max(0.25 * left) && absent.is_empty() {
        let list: Vec<String> = turned.iter().map(|(k, s)| format!("{} {s:+.2} stops", name(*k))).collect();
        (
            Reason::Exposure,
            format!(
                "The plain sum is off by {:.1} %, and comes out with {}: a lamp was turned, or the camera chose its exposure itself.",
                100.0 * left,
                if list.is_empty() { "small changes of all".into() } else { list.join(", ") }
            ),
        )
    } else if let Some(k) = absent.first() {
        (Reason::LeftOn, format!("{} has light that the picture with all lights on does not show.", name(*k)))
    } else if clipped > CLIPPED {
        (Reason::Clipped, format!("The sum is off by {:.1} %, and {:.1} % is clipped.", 100.0 * left, 100.0 * clipped))
    } else if plus > 0.9 {
        (
            Reason::AnotherLight,
            format!(
                "The picture with all lights on has {:.1} % more than the sum, all over: a lamp without a plate, or room light that the dark frame has not.",
                100.0 * left
            ),
        )
    } else if plus < 0.1 {
        (
            Reason::LeftOn,
            format!(
                "The plates have {:.1} % more than the picture with all lights on: another light was left on in some.",
                100.0 * left
            ),
        )
    } else {
        (
            Reason::Curve,
            format!(
                "The sum is off by {:.1} %, here too much and there too little: the tone curve is likely another than the one taken. Calibrate the camera, or use raw files.",
                100.0 * left
            ),
        )
    };
    says.insert(0, text);
    let warnings = mix.warnings.clone();
    Ok(SumCheck { plates: found, twins, mix: Some(mix), left_over: Some(left), curve, reason, says, warnings })
}
