//! Power settings as lamps write them, to and from stops below full.

use crate::units::Stops;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How a lamp's power is set.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Control {
    /// 1/1, 1/2, 1/4 with tenths between.
    Fraction,
    /// Per cent of full.
    Percent,
    /// Stops below full.
    Stops,
    /// A number that rises by one for each stop, in tenths.
    Panel,
    /// Energy.
    Joules,
    /// On or off.
    #[default]
    Fixed,
}

/// A setting in a lamp's own notation. `full_j` is the energy and `full_panel` the panel's number at
/// full power.
pub fn write_power(control: Control, stops: Stops, full_j: f64, full_panel: f64) -> String {
    let s = stops.0;
    match control {
        Control::Fraction => {
            let whole = (s - 0.05).floor().min(0.0);
            let tenths = ((s - whole) * 10.0).round() / 10.0;
            let (whole, tenths) = if tenths >= 1.0 { (whole + 1.0, 0.0) } else { (whole, tenths) };
            let base = format!("1/{:.0}", (-whole).exp2());
            if tenths > 0.0 { format!("{base} + {tenths:.1}") } else { base }
        }
        Control::Percent => {
            let p = 100.0 * s.exp2();
            match p {
                p if p < 2.0 => format!("{p:.2} %"),
                p if p < 10.0 => format!("{p:.1} %"),
                p => format!("{p:.0} %"),
            }
        }
        Control::Stops if s.abs() < 0.05 => "full".into(),
        Control::Stops => format!("{s:.1} stops").replace('-', "\u{2212}"),
        Control::Panel => format!("{:.1}", full_panel + s),
        Control::Joules => format!("{:.0} J", full_j * s.exp2()),
        Control::Fixed => "on".into(),
    }
}

/// Stops below full power of a setting as a person writes it: `1/4`, `1/4 + 0.3`, `1/8 + 1/3`, `25 %`, `200 J` of
/// `full_j`, `7.3` on a panel that shows `full_panel` at full, `-2`, `full`.
///
/// # Errors
/// One sentence if it is none of these, not above zero, or above full.
pub fn read_power(control: Control, text: &str, full_j: f64, full_panel: f64) -> Result<Stops, String> {
    let t = text.trim().replace('\u{2212}', "-").replace(',', ".");
    let t = t.trim_end_matches("stops").trim();
    let bad = || {
        format!(
            "power: expected at most full power, such as 1/4, 1/4 + 0.3, 25 %, 200 J, or stops such as -2; found \"{text}\""
        )
    };
    let number = |s: &str| s.trim().parse::<f64>().ok().filter(|v| v.is_finite()).ok_or_else(bad);
    let stops = if t.eq_ignore_ascii_case("full") {
        0.0
    } else if let Some((part, whole)) = t.split_once('/') {
        // tenths or thirds: 1/8 + 0.3, 1/8 + 1/3
        let more = |m: &str| match m.split_once('/') {
            Some((a, b)) => Ok(number(a)? / number(b)?),
            None => number(m),
        };
        let (whole, tenths) = whole.split_once('+').map_or((whole, Ok(0.0)), |(w, m)| (w, more(m)));
        (number(part)? / number(whole)?).log2() + tenths?
    } else if let Some(p) = t.strip_suffix('%') {
        (number(p)? / 100.0).log2()
    } else if let Some(j) = t.strip_suffix(['J', 'j']) {
        (number(j)? / full_j).log2()
    } else if control == Control::Panel && !t.starts_with('-') {
        number(t)? - full_panel
    } else {
        number(t)?
    };
    if stops.is_finite() && stops <= 1e-9 { Ok(Stops(stops.min(0.0))) } else { Err(bad()) }
}
