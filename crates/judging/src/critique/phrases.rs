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

fn than(v: f64, unit: &str, more: &str, less: &str) -> String {
    if v.abs() < ALIKE {
        return "alike".into();
    }
    format!("{:.0} {unit} {}", v.abs(), if v > 0.0 { more } else { less })
}

fn difference(name: &str, c: &Comparison) -> Option<String> {
    let key = c.lights.iter().find(|l| l.role == "key");
    match name {
        "key_up" => Some(than(key?.d_elevation_deg?, "degrees", "higher", "lower")),
        "key_round" => Some(than(key?.d_azimuth_deg?, "degrees", "farther to camera right", "farther to camera left")),
        "key_size" => key?.d_angular_size_ratio.map(|r| format!("{r:.1} times as wide")),
        "exposure" => {
            c.d_exposure_stops.map(|s| format!("{:.1} stops {}", s.abs(), if s > 0.0 { "brighter" } else { "darker" }))
        }
        _ => None,
    }
}

/// A phrase with its figures filled in; those that were not measured stay in their braces.
pub fn filled(phrase: &str, r: &Readings, marks: &Marks, against: Option<&Comparison>) -> String {
    let seen = Seen { readings: r, marks, looks: &[] };
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
        match against.and_then(|c| difference(name, c)).or_else(measured) {
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
