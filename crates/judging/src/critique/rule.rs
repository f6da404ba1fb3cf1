//! Rules of the verdict as rows of `data/rules.toml`.

use super::brief::{Brief, BriefKind};
use serde::Deserialize;
use std::sync::LazyLock;

#[derive(Deserialize)]
struct RuleTable {
    rule: Vec<Rule>,
}

/// Which end of what the brief asks.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
pub(super) enum End {
    /// More than its most.
    Above,
    /// Less than its least.
    Below,
}

/// A row of `data/rules.toml`.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct Rule {
    pub id: String,
    pub measure: String,
    above: Option<f64>,
    below: Option<f64>,
    /// The limit is that of the brief.
    brief: Option<End>,
    /// How much it spoils a picture, 1 to 3.
    pub weight: f64,
    kind: Option<BriefKind>,
    /// Not by these briefs.
    #[serde(default)]
    unless: Vec<String>,
    pub title: String,
    pub says: String,
    /// Instead of `says` for a value under zero, which it states without its sign.
    pub says_negative: Option<String>,
    pub holds: String,
    pub change: String,
    #[serde(default)]
    pub school: String,
    pub source: String,
}

static RULES: LazyLock<Vec<Rule>> =
    LazyLock::new(|| toml::from_str::<RuleTable>(include_str!("../../data/rules.toml")).expect("rules.toml").rule);

/// All rules.
pub(super) fn rules() -> &'static [Rule] {
    &RULES
}

impl Rule {
    /// The limit by a brief and whether more than it is the fault; `None` where the rule does not apply.
    pub fn limit(&self, brief: &Brief) -> Option<(f64, End)> {
        if self.kind.is_some_and(|k| k != brief.kind)
            || self.unless.iter().any(|u| u == brief.root())
            || brief.off.contains(&self.id)
        {
            return None;
        }
        if let Some(end) = self.brief {
            let asked = brief.ranges.get(&self.measure)?;
            let limit = if end == End::Above { asked.most } else { asked.least };
            return limit.map(|l| (l, end));
        }
        self.above.map(|v| (v, End::Above)).or(self.below.map(|v| (v, End::Below)))
    }

    /// What it is for; `None` for people and things.
    pub fn kind(&self) -> Option<BriefKind> {
        self.kind
    }

    /// The end it holds against briefs of a kind, if its limit is that of the brief.
    pub fn holds_end(&self, kind: BriefKind) -> Option<End> {
        self.brief.filter(|_| self.kind.is_none_or(|k| k == kind))
    }

    /// Whether its limit is that of the brief.
    pub fn by_brief(&self) -> bool {
        self.brief.is_some()
    }
}
