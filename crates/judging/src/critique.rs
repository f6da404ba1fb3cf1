//! The verdict: rules as data, each finding with its measurement, its pin and one change.

use evidence::marks::{MarkKind, Marks, Patch, PatchRole};
use evidence::readings::{PATCH_CLIPPED, RatioFrom, Readings};
use serde::{Deserialize, Serialize};
use std::sync::LazyLock;
use utoipa::ToSchema;

#[derive(Deserialize)]
struct BriefTable {
    brief: Vec<Brief>,
}

/// A row of `data/briefs.toml`: what a picture is judged by.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct Brief {
    /// Stable name.
    pub id: String,
    /// Name for people.
    pub name: String,
    /// What it asks for.
    pub says: String,
    /// How far the shadow side may lie under the lit side, in stops.
    pub darkest_shadow_stops: f64,
    /// Smallest angular size of the key that still suits, in degrees.
    pub smallest_source_deg: f64,
    /// Whether one side must lead.
    pub wants_shape: bool,
    /// Whether the eye must have a spark.
    pub wants_catchlight: bool,
}

impl Brief {
    fn number(&self, field: &str) -> f64 {
        match field {
            "darkest_shadow_stops" => self.darkest_shadow_stops,
            "smallest_source_deg" => self.smallest_source_deg,
            _ => f64::NAN,
        }
    }

    fn flag(&self, field: &str) -> bool {
        match field {
            "wants_shape" => self.wants_shape,
            "wants_catchlight" => self.wants_catchlight,
            _ => false,
        }
    }
}

#[derive(Deserialize)]
struct RuleTable {
    rule: Vec<Rule>,
}

/// A row of `data/rules.toml`.
#[derive(Debug, Clone, Deserialize)]
pub struct Rule {
    id: String,
    measure: String,
    above: Option<f64>,
    below: Option<f64>,
    above_brief: Option<String>,
    below_brief: Option<String>,
    needs: Option<String>,
    title: String,
    says: String,
    /// Instead of `says` for a value under zero, which it states without its sign.
    says_negative: Option<String>,
    holds: String,
    change: String,
    school: String,
    source: String,
}

static BRIEFS: LazyLock<Vec<Brief>> =
    LazyLock::new(|| toml::from_str::<BriefTable>(include_str!("../data/briefs.toml")).expect("briefs.toml").brief);
static RULES: LazyLock<Vec<Rule>> =
    LazyLock::new(|| toml::from_str::<RuleTable>(include_str!("../data/rules.toml")).expect("rules.toml").rule);

/// All briefs.
pub fn briefs() -> &'static [Brief] {
    &BRIEFS
}

/// The brief with this id.
pub fn brief(id: &str) -> Option<&'static Brief> {
    BRIEFS.iter().find(|b| b.id == id)
}

/// Outcome of one rule.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Outcome {
    /// The measurement passes the limit by more than its spread.
    Fault,
    /// The limit lies within the spread: it may or may not.
    Unsure,
    /// The rule is kept.
    Holds,
    /// Nothing was marked that could tell.
    CannotTell,
}

/// One finding.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct Finding {
    /// Rule that made it.
    pub rule: String,
    /// Outcome.
    pub outcome: Outcome,
    /// Short title.
    pub title: String,
    /// The finding with its measurement.
    pub says: String,
    /// One change that would help, for faults.
    pub change: Option<String>,
    /// Which school the rule follows, and who differs.
    pub school: String,
    /// Where the rule comes from.
    pub source: String,
    /// Measured value.
    pub value: Option<f64>,
    /// One standard deviation.
    pub spread: Option<f64>,
    /// Limit it was held against.
    pub limit: f64,
    /// Unit of value, spread and limit.
    pub unit: String,
    /// Where in the picture, in pixels.
    #[schema(value_type = Option<optics::geometry::Pair>)]
    pub pin: Option<[f64; 2]>,
    /// Marks that say so.
    pub evidence: Vec<String>,
}

/// A verdict: what holds, what does not, what cannot be told.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct Verdict {
    /// Brief it was judged by.
    pub brief: String,
    /// Findings: faults first in the order of the rules, then unsure, holding, untold.
    pub findings: Vec<Finding>,
}

struct Measured {
    value: f64,
    spread: f64,
    pin: Option<[f64; 2]>,
    evidence: Vec<String>,
    unit: &'static str,
}

/// What to mark for a measure that is missing.
fn missing(measure: &str) -> &'static str {
    match measure {
        "lit_clipped_percent" => "Mark a patch on the lit side (P) to judge this.",
        "key_over_fill_stops" => {
            "Mark a face, an eye or a ball, so that the lights themselves are read, to judge this: two patches alone tell only a bound."
        }
        "catchlights" => "Mark an eye (E) to judge this.",
        "lit_to_shadow_stops" => "Mark a lit and a shadow patch of one material to judge this.",
        "key_size_deg" => "Mark a ball or an eye, so that the key's size can be told, to judge this.",
        _ => "Nothing marked tells.",
    }
}

fn centre_of(marks: &Marks, id: &str) -> Option<[f64; 2]> {
    marks.marks.iter().find(|m| m.id == id)?.kind.place()
}

fn measured(measure: &str, r: &Readings, marks: &Marks) -> Option<Measured> {
    let role_of = |id: &str| match &marks.marks.iter().find(|m| m.id == id)?.kind {
        MarkKind::Patch(Patch { role, .. }) => Some(*role),
        _ => None,
    };
    let pin = |ids: &[String]| ids.iter().find_map(|id| centre_of(marks, id));
    match measure {
        "lit_clipped_percent" => {
            let lit: Vec<_> = marks
                .marks
                .iter()
                .filter(|m| !m.off && role_of(&m.id) == Some(PatchRole::Lit))
                .map(|m| m.id.clone())
                .collect();
            if lit.is_empty() {
                return None;
            }
            let worst = lit
                .iter()
                .map(|id| match r.by_mark.get(id) {
                    Some(m) => match &m.patch {
                        Some(p) => p.clipped_fraction,
                        // unread as wholly clipped
                        None if r.warnings.iter().any(|w| w.code == PATCH_CLIPPED && w.mark.as_ref() == Some(id)) => {
                            1.0
                        }
                        None => 0.0,
                    },
                    None => 0.0,
                })
                .fold(0.0, f64::max);
            Some(Measured { value: 100.0 * worst, spread: 0.1, pin: pin(&lit), evidence: lit, unit: "%" })
        }
        "key_over_fill_stops" => {
            // a lower bound alone does not tell how flat a picture is
            let q = r.ratios.as_ref().filter(|q| !q.at_least)?;
            let [low, high] = q.key_to_fill_range.map(|v| v.max(1e-3).log2());
            Some(Measured {
                value: q.key_to_fill.max(1e-3).log2(),
                spread: ((high - low) / 4.0).max(0.05),
                pin: pin(&q.evidence),
                evidence: q.evidence.clone(),
                unit: "stops",
            })
        }
        "catchlights" => {
            let eyes: Vec<(String, usize)> =
                r.by_mark.iter().filter_map(|(id, m)| Some((id.clone(), m.catchlights.as_ref()?.len()))).collect();
            let most = eyes.iter().map(|e| e.1).max()?;
            let evidence: Vec<String> = eyes.into_iter().map(|e| e.0).collect();
            Some(Measured { value: most as f64, spread: 0.0, pin: pin(&evidence), evidence, unit: "" })
        }
        "lit_to_shadow_stops" => {
            let q = r.ratios.as_ref().filter(|q| q.contrast_from == RatioFrom::Patches)?;
            Some(Measured {
                value: q.lit_to_shadow_stops,
                spread: ((q.range_stops[1] - q.range_stops[0]) / 2.0).max(0.05),
                pin: pin(&q.evidence),
                evidence: q.evidence.clone(),
                unit: "stops",
            })
        }
        "key_size_deg" => {
            let k = r.lights.first()?;
            let (a, [lo, hi]) = (k.angular_size_deg?, k.angular_size_range_deg?);
            Some(Measured {
                value: a,
                // a wide range can still lie wholly on one side of a limit
                spread: (hi - a).max(a - lo),
                pin: pin(&k.evidence),
                evidence: k.evidence.clone(),
                unit: "degrees",
            })
        }
        _ => None,
    }
}

fn figure(v: f64) -> String {
    if v.abs() >= 9.95 { format!("{v:.0}") } else { format!("{}", (v * 10.0).round() / 10.0) }
}

/// Judges a reading by a brief.
pub fn judge(r: &Readings, marks: &Marks, brief: &Brief) -> Verdict {
    let mut findings: Vec<Finding> = Vec::new();
    for rule in RULES.iter() {
        if rule.needs.as_ref().is_some_and(|n| !brief.flag(n)) {
            continue;
        }
        let above = rule.above.or(rule.above_brief.as_deref().map(|f| brief.number(f)));
        let below = rule.below.or(rule.below_brief.as_deref().map(|f| brief.number(f)));
        let limit = above.or(below).unwrap_or(f64::NAN);
        // A limit of zero asks for nothing.
        if rule.below_brief.is_some() && limit <= 0.0 {
            continue;
        }
        let mut f = Finding {
            rule: rule.id.clone(),
            outcome: Outcome::CannotTell,
            title: rule.title.clone(),
            says: missing(&rule.measure).into(),
            change: None,
            school: rule.school.clone(),
            source: rule.source.clone(),
            value: None,
            spread: None,
            limit,
            unit: String::new(),
            pin: None,
            evidence: Vec::new(),
        };
        if let Some(m) = measured(&rule.measure, r, marks) {
            let over = if above.is_some() { m.value - limit } else { limit - m.value };
            f.outcome = if over > m.spread {
                Outcome::Fault
            } else if over > -m.spread && m.spread > 0.0 {
                Outcome::Unsure
            } else if over > 0.0 {
                Outcome::Fault
            } else {
                Outcome::Holds
            };
            let negative = rule.says_negative.as_ref().filter(|_| m.value < 0.0);
            let text = if f.outcome == Outcome::Holds { &rule.holds } else { negative.unwrap_or(&rule.says) };
            f.says = text
                .replace("{value}", &figure(if negative.is_some() { -m.value } else { m.value }))
                .replace("{spread}", &figure(m.spread.max(0.1)))
                .replace("{limit}", &figure(limit));
            if f.outcome == Outcome::Unsure {
                f.says += " The limit lies within the spread: it may or may not be so.";
            }
            f.change = (f.outcome != Outcome::Holds).then(|| rule.change.clone());
            f.value = Some(m.value);
            f.spread = Some(m.spread);
            f.unit = m.unit.into();
            f.pin = m.pin;
            f.evidence = m.evidence;
        }
        findings.push(f);
    }
    let rank = |o: Outcome| match o {
        Outcome::Fault => 0,
        Outcome::Unsure => 1,
        Outcome::Holds => 2,
        Outcome::CannotTell => 3,
    };
    findings.sort_by_key(|f| rank(f.outcome));
    Verdict { brief: brief.id.clone(), findings }
}
