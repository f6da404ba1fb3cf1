//! House rules of a class: what it switches off, asks of its own, and says in its own words.

use judging::critique::{AskedRange, Brief, BriefKind, askable, rule_views};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// How a class states ratios first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum RatioSchool {
    /// Key alone against fill alone.
    Each,
    /// Key and fill together against the fill alone.
    Together,
}

/// House rules of a class. They count for every assignment that is set or changed while nothing of it is graded.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(default, deny_unknown_fields)]
pub struct HouseRules {
    /// Rules that are switched off, by their names in the rule book.
    pub off: Vec<String>,
    /// Ranges of the class, by measure, in the measure's unit: for every brief that can ask it, in place of its own.
    pub ranges: BTreeMap<String, AskedRange>,
    /// How ratios are stated first; absent to leave that to each.
    pub ratio: Option<RatioSchool>,
    /// Words of the class, before each teacher's own; names in braces are filled with figures of the picture.
    pub phrases: Vec<String>,
}

/// Phrases at most, and characters of one.
const MOST_PHRASES: usize = 60;
const LONGEST_PHRASE: usize = 400;

/// Which ends of a measure a kind of brief can ask: least, most.
fn ends(measure: &str, kind: BriefKind) -> [bool; 2] {
    askable(kind).iter().find(|a| a.measure == measure).map_or([false; 2], |a| [a.least, a.most])
}

impl HouseRules {
    /// Checks what came from outside.
    ///
    /// # Errors
    /// One sentence that names the field and what was expected.
    pub fn check(&self) -> Result<(), String> {
        let known = rule_views();
        for (i, r) in self.off.iter().enumerate() {
            if !known.iter().any(|k| k.id == *r) || self.off[..i].contains(r) {
                return Err(format!("off[{i}]: expected each rule once, by its name in the rule book"));
            }
        }
        for (measure, asked) in &self.ranges {
            let can = [BriefKind::Person, BriefKind::Thing].map(|k| ends(measure, k));
            let can: [bool; 2] = std::array::from_fn(|end| can.iter().any(|c| c[end]));
            for (end, value, held) in [("least", asked.least, can[0]), ("most", asked.most, can[1])] {
                match value {
                    Some(v) if !v.is_finite() || v.abs() > 1000.0 => {
                        return Err(format!("ranges.{measure}.{end}: expected a number between -1000 and 1000"));
                    }
                    Some(_) if !held => return Err(format!("ranges.{measure}.{end}: no rule holds that end")),
                    _ => {}
                }
            }
            match (asked.least, asked.most) {
                (None, None) => return Err(format!("ranges.{measure}: expected a least or a most")),
                (Some(a), Some(b)) if a > b => {
                    return Err(format!("ranges.{measure}: the least ({a}) is more than the most ({b})"));
                }
                _ => {}
            }
        }
        let fits = |p: &String| (1..=LONGEST_PHRASE).contains(&p.trim().chars().count());
        if self.phrases.len() > MOST_PHRASES || !self.phrases.iter().all(fits) {
            return Err(format!("phrases: expected at most {MOST_PHRASES} of 1 to {LONGEST_PHRASE} characters"));
        }
        Ok(())
    }

    /// A brief as this class holds it.
    pub fn applied(&self, mut brief: Brief) -> Brief {
        for r in &self.off {
            if !brief.off.contains(r) {
                brief.off.push(r.clone());
            }
        }
        for (measure, asked) in &self.ranges {
            let [least, most] = ends(measure, brief.kind);
            let was = brief.ranges.get(measure).copied();
            let end = |can: bool, own: Option<f64>, was: Option<f64>| if can { own.or(was) } else { was };
            let now = AskedRange {
                least: end(least, asked.least, was.and_then(|w| w.least)),
                most: end(most, asked.most, was.and_then(|w| w.most)),
            };
            // where the brief's other end would leave no room, the class's word goes before it
            let now = match (now.least, now.most) {
                (Some(a), Some(b)) if a > b => {
                    AskedRange { least: asked.least.filter(|_| least), most: asked.most.filter(|_| most) }
                }
                _ => now,
            };
            if now.least.or(now.most).is_some() {
                brief.ranges.insert(measure.clone(), now);
            }
        }
        brief
    }
}
