//! Takes: test pictures in a chain, each made after a change to the set, measured against the reference.
//!
//! | file | holds |
//! |---|---|
//! | `mod.rs` | a link of the chain: what was changed, expected, measured, kept |
//! | `learn.rs` | what the takes so far tell of where lamps really stand and what they really give |
//! | `table.rs` | the chain as a table (CSV) |
//! | `recipe.rs` | accepted sets, and how like another light they are |

mod learn;
mod recipe;
mod table;

pub use learn::{Belief, Seen, differences_of, learned, seen_of};
pub use recipe::{Recipe, RecipeQuery, lacks, likeness, matches};
pub use table::{Row as TableRow, to_csv};

use crate::compare::{Comparison, LedgerLine};
use crate::terms::{Term, Unit};
use lightset::set::LightSet;
use optics::exposure::Settings;
use optics::words::stops_words;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What kind of change.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ChangeKind {
    /// Put somewhere else.
    Moved,
    /// Pointed elsewhere from the same place.
    Aimed,
    /// Power.
    Power,
    /// Another or larger face.
    Face,
    /// Sheets of diffusion.
    Sheet,
    /// Gel or colour temperature.
    Colour,
    /// Switched on or off.
    Switched,
    /// Not there before.
    Added,
    /// No longer there.
    Removed,
    /// Another finish or size of a board.
    Finish,
    /// Aperture, shutter or ISO.
    Exposure,
    /// White balance.
    Balance,
    /// Room light.
    Room,
    /// Told by the person.
    Other,
}

/// One change between two takes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Change {
    /// Which device: a light's name, `board 1`, `camera`, `room`.
    pub device: String,
    /// What.
    pub kind: ChangeKind,
    /// As it was.
    pub from: String,
    /// As it is.
    pub to: String,
    /// How much: metres moved, stops of power, ratio of sizes, degrees, mired.
    pub amount: f64,
    /// Unit of that.
    pub unit: String,
    /// The way it was moved, metres in the set frame.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<optics::geometry::Triple>)]
    pub by_m: Option<[f64; 3]>,
}

impl Change {
    /// In one phrase, lengths in inches or in metres.
    pub fn says(&self, feet: bool) -> String {
        match self.kind {
            ChangeKind::Other => self.to.clone(),
            ChangeKind::Added => format!("{}: {} added", self.device, self.to),
            ChangeKind::Removed => format!("{}: taken away", self.device),
            ChangeKind::Moved => format!("{}: {}", self.device, moved_words(self.by_m.unwrap_or_default(), feet)),
            ChangeKind::Power => format!("{}: power {}", self.device, stops_words(self.amount)),
            ChangeKind::Exposure => format!("camera: {} ({} to {})", stops_words(self.amount), self.from, self.to),
            ChangeKind::Switched => format!("{}: switched {}", self.device, self.to),
            _ => format!("{}: {} to {}", self.device, self.from, self.to),
        }
    }
}

/// A way in words: `22 cm to camera left, 10 cm up`. Under a centimetre is left out.
pub fn moved_words(by: [f64; 3], feet: bool) -> String {
    let long = |m: f64| {
        if feet {
            format!("{:.0} in", m.abs() / 0.0254)
        } else if m.abs() >= 1.0 {
            format!("{:.2} m", m.abs())
        } else {
            format!("{:.0} cm", 100.0 * m.abs())
        }
    };
    let parts: Vec<String> = [
        (by[0], ["to camera left", "to camera right"]),
        (by[1], ["down", "up"]),
        (by[2], ["away from the camera", "towards the camera"]),
    ]
    .into_iter()
    .filter(|(v, _)| v.abs() >= 0.01)
    .map(|(v, words)| format!("{} {}", long(v), words[usize::from(v > 0.0)]))
    .collect();
    if parts.is_empty() { "not moved".into() } else { parts.join(", ") }
}

/// What became of a take.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Kept {
    /// Not decided.
    #[default]
    Open,
    /// Its change stays.
    Kept,
    /// Its change was taken back.
    Undone,
    /// The reference is met, or what is left is accepted.
    Accepted,
}

/// A reading that was foretold for a take.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Expected {
    /// Line of the ledger: `key: round`.
    #[schema(value_type = String)]
    pub what: Term,
    /// Difference from the reference that was foretold.
    pub value: f64,
    /// Unit.
    pub unit: Unit,
}

impl Expected {
    /// Whether it came true: within twice what was measured is told to, or what nobody sees (3 degrees, 15 % of a size,
    /// 0.15 stop, 6 mired; common practice).
    pub fn came_true(&self, measured: &LedgerLine) -> bool {
        let unseen: f64 = match self.unit {
            Unit::Degrees => 3.0,
            Unit::Mired => 6.0,
            Unit::Times | Unit::Stops => 0.15,
        };
        let off = self.unit.scale(measured.difference) - self.unit.scale(self.value);
        off.abs() <= unseen.max(2.0 * measured.sd)
    }
}

/// A reading that was foretold, beside what was measured.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Foretelling {
    /// Line of the ledger.
    #[schema(value_type = String)]
    pub what: Term,
    /// Foretold difference from the reference.
    pub expected: f64,
    /// Measured difference.
    pub measured: f64,
    /// One standard deviation of what was measured.
    pub sd: f64,
    /// Unit.
    pub unit: Unit,
    /// Whether it came true, within what can be told or seen.
    pub came_true: bool,
}

/// What was foretold beside what was measured. A picture that is brighter may be exposed so or lit so, and which of the
/// two a reading says may change from take to take: levels are held against each other with the exposure in them.
pub fn foretellings(expected: &[Expected], c: &Comparison) -> Vec<Foretelling> {
    let is_level = |e: &Expected| e.unit == Unit::Stops && e.what != Term::Exposure;
    let exposure = expected.iter().find(|e| e.what == Term::Exposure).map(|e| e.value).zip(c.d_exposure_stops);
    let levels = expected.iter().any(|e| is_level(e) && c.ledger.iter().any(|l| l.what == e.what));
    let one = |e: &Expected| {
        let (mut e, mut l) = (e.clone(), c.ledger.iter().find(|l| l.what == e.what)?.clone());
        if let Some((told, seen)) = exposure.filter(|_| is_level(&e)) {
            e.value += told;
            l.difference += seen;
        }
        let came_true = e.came_true(&l);
        Some(Foretelling { what: e.what, expected: e.value, measured: l.difference, sd: l.sd, unit: e.unit, came_true })
    };
    expected.iter().filter(|e| e.what != Term::Exposure || !levels).filter_map(one).collect()
}

/// A difference that is left, with the reason it stays.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Left {
    /// Line of the ledger.
    #[schema(value_type = String)]
    pub what: Term,
    /// How much.
    pub difference: f64,
    /// Unit.
    pub unit: Unit,
    /// Why it stays.
    pub reason: String,
}

/// A link of the chain: everything told of a take besides its picture, marks and reading.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
pub struct TakeLink {
    /// The take it follows, by its frame; none for the first.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub parent: Option<String>,
    /// The set as it was believed to stand.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub set: Option<LightSet>,
    /// What was changed since the take it follows.
    #[serde(default)]
    pub changes: Vec<Change>,
    /// Camera settings.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub settings: Option<Settings>,
    /// What was foretold.
    #[serde(default)]
    pub expected: Vec<Expected>,
    /// What became of it.
    #[serde(default)]
    pub kept: Kept,
    /// Notes.
    #[serde(default)]
    pub note: String,
    /// Tags.
    #[serde(default)]
    pub tags: Vec<String>,
    /// Differences that are left, once it is accepted.
    #[serde(default)]
    pub left: Vec<Left>,
}

impl TakeLink {
    /// Says which field is out of range, if any.
    pub fn check(&self) -> Result<(), String> {
        if self.note.chars().count() > 4000 {
            return Err("note: a note has room for 4000 characters".into());
        }
        if self.tags.len() > 20 || self.tags.iter().any(|t| t.trim().is_empty() || t.chars().count() > 40) {
            return Err("tags: expected at most 20 of 1 to 40 characters".into());
        }
        if self.left.iter().any(|l| l.reason.chars().count() > 400) {
            return Err("left: a reason has room for 400 characters".into());
        }
        if self.changes.len() > 40 {
            return Err("changes: expected at most 40".into());
        }
        self.set.as_ref().map_or(Ok(()), LightSet::check)
    }

    /// Warns if more than one device or setting was changed: then nobody knows which did what. A lamp that was moved and
    /// turned down or up is one thing: where it shines from and how strongly are seen apart.
    pub fn several(&self, feet: bool) -> Option<String> {
        let one = |c: &Change| matches!(c.kind, ChangeKind::Moved | ChangeKind::Power | ChangeKind::Aimed);
        let same = self.changes.iter().all(|c| c.device == self.changes[0].device && one(c));
        (self.changes.len() > 1 && !same).then(|| {
            format!(
                "{} changes at once: what each of them did cannot be told apart ({}).",
                self.changes.len(),
                self.changes.iter().map(|c| c.says(feet)).collect::<Vec<_>>().join("; ")
            )
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::terms::Aspect;

    #[test]
    fn a_way_is_told_by_its_parts() {
        assert_eq!(moved_words([-0.22, 0.1, 0.004], false), "22 cm to camera left, 10 cm up");
        assert_eq!(moved_words([0.0, 0.0, 1.2], false), "1.20 m towards the camera");
        assert_eq!(moved_words([0.254, 0.0, 0.0], true), "10 in to camera right");
        assert_eq!(moved_words([0.0; 3], false), "not moved");
    }

    #[test]
    fn what_was_foretold_came_true_within_what_can_be_told() {
        let line = |difference: f64, unit: Unit, sd: f64| {
            LedgerLine::new(Term::of("key", Aspect::Up), 0.0, 0.0, difference, unit, sd)
        };
        let told = |value: f64, unit: Unit| Expected { what: Term::of("key", Aspect::Up), value, unit };
        assert!(told(-1.0, Unit::Degrees).came_true(&line(1.5, Unit::Degrees, 0.5)));
        assert!(!told(-1.0, Unit::Degrees).came_true(&line(4.0, Unit::Degrees, 0.5)));
        assert!(
            told(-1.0, Unit::Degrees).came_true(&line(4.0, Unit::Degrees, 3.0)),
            "what is hardly told cannot contradict"
        );
        assert!(!told(1.0, Unit::Times).came_true(&line(1.3, Unit::Times, 0.05)));
        assert!(told(0.5, Unit::Stops).came_true(&line(0.62, Unit::Stops, 0.02)));
    }

    /// The same brightness split otherwise between exposure and level is no miss.
    #[test]
    fn levels_are_held_against_each_other_with_the_exposure_in_them() {
        let told = |what: &Term, value: f64| Expected { what: what.clone(), value, unit: Unit::Stops };
        let level = Term::of("key", Aspect::Level);
        let line = |what: &Term, difference: f64| {
            LedgerLine::new(what.clone(), 0.0, difference, difference, Unit::Stops, 0.06)
        };
        let c = Comparison {
            d_exposure_stops: Some(0.0),
            ledger: vec![line(&Term::Exposure, 0.0), line(&level, 0.02)],
            ..Comparison::default()
        };
        let found = foretellings(&[told(&Term::Exposure, -0.6), told(&level, 0.6)], &c);
        assert_eq!(found.iter().map(|f| (&f.what, f.came_true)).collect::<Vec<_>>(), [(&level, true)]);
        // a real miss is one
        assert!(!foretellings(&[told(&Term::Exposure, 0.0), told(&level, 0.6)], &c)[0].came_true);
    }

    #[test]
    fn several_changes_are_told_of() {
        let power = |device: &str| Change {
            device: device.into(),
            kind: ChangeKind::Power,
            from: "0.0".into(),
            to: "-1.0".into(),
            amount: -1.0,
            unit: "stops".into(),
            by_m: None,
        };
        let one = TakeLink { changes: vec![power("key")], ..TakeLink::default() };
        assert_eq!(one.several(false), None);
        // carried and turned down: direction and level are seen apart
        let carried = Change { kind: ChangeKind::Moved, by_m: Some([0.2, 0.0, 0.0]), ..power("key") };
        let same = TakeLink { changes: vec![carried, power("key")], ..TakeLink::default() };
        assert_eq!(same.several(false), None);
        let two = TakeLink { changes: vec![power("key"), power("fill")], ..TakeLink::default() };
        assert!(
            two.several(false).is_some_and(|s| s.contains("key: power down 1.0 stops; fill: power down 1.0 stops"))
        );
    }
}
