//! Phrases for remarks, with figures of the picture in braces.

use super::measures::{MEASURES, Seen};
use crate::compare::Comparison;
use evidence::marks::Marks;
use evidence::readings::Readings;
use serde::Deserialize;
use std::sync::LazyLock;

#[derive(Deserialize)]
struct PhraseTable {
    phrases: Vec<String>,
}

static PHRASES: LazyLock<Vec<String>> = LazyLock::new(|| {
    toml::from_str::<PhraseTable>(include_str!("../../data/phrases.toml")).expect("phrases.toml").phrases
});

/// The phrase book that everyone begins with.
pub fn phrase_book() -> &'static [String] {
    &PHRASES
}

/// Degrees and stops under which nothing is said to differ.
const ALIKE: f64 = 0.5;

/// A difference in words: "12 degrees higher", or "alike".
fn than(v: f64, unit: &str, more: &str, less: &str) -> String {
    if v.abs() < ALIKE {
        return "alike".into();
    }
    format!("{:.0} {unit} {}", v.abs(), if v > 0.0 { more } else { less })
}

/// How a picture differs from the reference, as phrases name it; each `None` where it was not told.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Differences {
    /// Degrees by which the key is higher.
    pub key_up_deg: Option<f64>,
    /// Degrees by which it is farther to camera right.
    pub key_round_deg: Option<f64>,
    /// How many times as wide it looks.
    pub key_size: Option<f64>,
    /// Stops brighter.
    pub exposure_stops: Option<f64>,
}

impl Differences {
    /// Of a comparison.
    pub fn of(c: &Comparison) -> Self {
        let key = c.lights.iter().find(|l| l.role == "key");
        Differences {
            key_up_deg: key.and_then(|k| k.d_elevation_deg),
            key_round_deg: key.and_then(|k| k.d_azimuth_deg),
            key_size: key.and_then(|k| k.d_angular_size_ratio),
            exposure_stops: c.d_exposure_stops,
        }
    }

    fn said(&self, name: &str) -> Option<String> {
        let stops = |s: f64| format!("{:.1} stops {}", s.abs(), if s > 0.0 { "brighter" } else { "darker" });
        match name {
            "key_up" => self.key_up_deg.map(|v| than(v, "degrees", "higher", "lower")),
            "key_round" => {
                self.key_round_deg.map(|v| than(v, "degrees", "farther to camera right", "farther to camera left"))
            }
            "key_size" => self.key_size.map(|r| format!("{r:.1} times as wide")),
            "exposure" => self.exposure_stops.map(stops),
            _ => None,
        }
    }
}

/// A phrase with its figures filled in; those that were not measured stay in their braces.
pub fn filled(phrase: &str, r: &Readings, marks: &Marks, against: &Differences) -> String {
    let seen = Seen { readings: r, marks, looks: &[], series: None };
    let mut out = String::new();
    let mut rest = phrase;
    while let Some((before, after)) = rest.split_once('{') {
        out.push_str(before);
        let Some((name, behind)) = after.split_once('}') else {
            out.push('{');
            rest = after;
            continue;
        };
        let measured = || {
            let m = (MEASURES.iter().find(|m| m.id == name)?.find)(&seen)?;
            Some(super::figure(m.value, 1))
        };
        match against.said(name).or_else(measured) {
            Some(text) => out.push_str(&text),
            None => {
                out.push('{');
                out.push_str(name);
                out.push('}');
            }
        }
        rest = behind;
    }
    out + rest
}
