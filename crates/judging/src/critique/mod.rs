//! The verdict: rules as data, each finding with its measurement, its pin and one change.

mod aid;
mod brief;
mod measures;
mod paragraph;
mod phrases;
mod rule;

pub use brief::{AskedRange, Brief, BriefKind, brief, briefs};
pub use paragraph::{Promise, paragraph};
pub use phrases::{Differences, filled, phrase_book};

use evidence::marks::Marks;
use evidence::readings::Readings;
use measures::{Measured, Seen, measure};
use rule::{End, rules};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

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

/// How a rule weighs what is measured.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Weighed {
    /// How much it spoils a picture, 1 to 3.
    pub weight: f64,
    /// A step of the measure that one sees, in its unit.
    pub step: f64,
    /// More than the limit is the fault; less otherwise.
    pub above: bool,
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
    /// The picture to take to decide, where it is open or cannot be told.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub settles: Option<String>,
    /// Bench sum that works it out, by its name there.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub bench: Option<String>,
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
    /// The brief asks for it; a rule of the trade otherwise.
    #[serde(default)]
    pub by_brief: bool,
    /// How much it spoils the picture: its weight, more the further it is beyond its limit; nought where it holds.
    #[serde(default)]
    pub severity: f64,
    /// How its rule weighs, for those who hold changes against each other; not told outside.
    #[serde(skip)]
    pub weighed: Weighed,
}

/// How much the same measure of two pictures of the same differs, as a share of its spread: what is systematic in it comes out alike.
const AGAIN: f64 = 0.25;

/// Probability that what is expected at `at` with one standard deviation `sd` lies below nought, by the logistic curve near the normal one.
pub fn below(at: f64, sd: f64) -> f64 {
    1.0 / (1.0 + (1.7 * at / sd).clamp(-60.0, 60.0).exp())
}

impl Finding {
    /// How far the value lies beyond the limit, negative on its good side; `None` where it was not measured.
    fn over(&self) -> Option<f64> {
        let v = self.value?;
        Some(if self.weighed.above { v - self.limit } else { self.limit - v })
    }

    /// Probability that the rule is broken, where what was measured is uncertain by its spread and by `more` (one standard deviation,
    /// in steps that one sees); by the logistic curve that lies near the normal one. `None` where nothing was measured.
    pub fn broken(&self, more: f64) -> Option<f64> {
        let sd = (self.spread? / 1.5).hypot(more * self.weighed.step).max(1e-6);
        Some(below(-self.over()? + self.counts(), sd))
    }

    /// Of what is counted (lights, sparks), the limit itself still holds: it lies half a count from being broken.
    fn counts(&self) -> f64 {
        let held = self.spread == Some(0.0) && self.over().is_some_and(|o| o <= 0.0);
        if held { 0.5 * self.weighed.step } else { 0.0 }
    }

    /// Probability that another picture of the same is found to hold for certain, its limit beyond the spread, where what was measured
    /// is off by `more` (see [`Finding::broken`]); nought where nothing was measured.
    pub fn holds_again(&self, more: f64) -> f64 {
        let Some((over, spread)) = self.over().zip(self.spread) else { return 0.0 };
        let sd = (AGAIN * spread).hypot(more * self.weighed.step).max(1e-6);
        below(over + spread - self.counts(), sd)
    }

    /// How much it is to be expected to spoil the picture: its gravity by the probability that it is broken.
    pub fn expected(&self, more: f64) -> f64 {
        let gravity = |over: f64| self.weighed.weight * (1.0 + (over.max(0.0) / self.weighed.step).min(MOST_STEPS));
        self.broken(more).zip(self.over()).map_or(0.0, |(p, over)| p * gravity(over))
    }
}

/// A verdict: what holds, what does not, what cannot be told.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct Verdict {
    /// Brief it was judged by.
    pub brief: String,
    /// What does not go together: a brief of people for things, or the other way round.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub unsuited: Option<String>,
    /// Findings: faults first, the gravest before the others, then unsure, holding, untold.
    pub findings: Vec<Finding>,
}

impl Verdict {
    /// What a rule found.
    pub fn finding(&self, rule: &str) -> Option<&Finding> {
        self.findings.iter().find(|f| f.rule == rule)
    }
}

fn figure(v: f64, digits: i32) -> String {
    let k = 10f64.powi(digits);
    let text = if v.abs() >= 9.95 { format!("{v:.0}") } else { format!("{}", (v * k).round() / k) };
    text.replace('-', "\u{2212}")
}

/// What a brief asks of a picture by one rule.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Asked {
    /// Rule.
    pub rule: String,
    /// What it measures.
    pub measure: String,
    /// Unit of the limit.
    pub unit: String,
    /// Limit.
    pub limit: f64,
    /// More is the fault; less otherwise.
    pub above: bool,
}

/// All that a brief asks, rule by rule.
pub fn asked(brief: &Brief) -> Vec<Asked> {
    let of = |r: &rule::Rule| {
        let (limit, end) = r.limit(brief)?;
        let unit = measure(&r.measure)?.unit.into();
        Some(Asked { rule: r.id.clone(), measure: r.measure.clone(), unit, limit, above: end == End::Above })
    };
    rules().iter().filter_map(of).collect()
}

/// A measure as house briefs ask for it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Askable {
    /// Name.
    pub measure: String,
    /// Unit.
    pub unit: String,
    /// Briefs of this kind can ask for it.
    pub kind: BriefKind,
    /// A rule holds a least.
    pub least: bool,
    /// A rule holds a most.
    pub most: bool,
    /// What the rules say of it.
    pub title: String,
}

/// Which ends of a measure rules hold against briefs of a kind: least, most.
fn ends(measure: &str, kind: BriefKind) -> [bool; 2] {
    let holds = |end: End| rules().iter().any(|r| r.measure == measure && r.holds_end(kind) == Some(end));
    [holds(End::Below), holds(End::Above)]
}

/// All that a house brief of a kind can ask for.
pub fn askable(kind: BriefKind) -> Vec<Askable> {
    let of = |m: &measures::Measure| {
        let [least, most] = ends(m.id, kind);
        let title = rules().iter().find(|r| r.measure == m.id && r.holds_end(kind).is_some())?.title.clone();
        Some(Askable { measure: m.id.into(), unit: m.unit.into(), kind, least, most, title })
    };
    measures::MEASURES.iter().filter_map(of).collect()
}

/// A rule as it can be switched.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct RuleView {
    /// Name.
    pub id: String,
    /// Title.
    pub title: String,
    /// What it measures.
    pub measure: String,
    /// What it is for; absent for both.
    pub kind: Option<BriefKind>,
    /// Whether its limit is that of the brief.
    pub by_brief: bool,
    /// School.
    pub school: String,
    /// Source.
    pub source: String,
}

/// All rules.
pub fn rule_views() -> Vec<RuleView> {
    let of = |r: &rule::Rule| RuleView {
        id: r.id.clone(),
        title: r.title.clone(),
        measure: r.measure.clone(),
        kind: r.kind(),
        by_brief: r.by_brief(),
        school: r.school.clone(),
        source: r.source.clone(),
    };
    rules().iter().map(of).collect()
}

/// How much further beyond a limit counts, at most, in steps that one sees.
const MOST_STEPS: f64 = 3.0;

/// How a picture lies in its series.
#[derive(Debug, Clone, PartialEq, Default, Serialize)]
pub struct InSeries {
    /// By how many times what is allowed it lies apart from the others, where it does most; nought where it agrees.
    pub times: f64,
    /// In what, and what to do.
    pub says: String,
}

/// Judges a reading by a brief.
pub fn judge(r: &Readings, marks: &Marks, brief: &Brief) -> Verdict {
    judge_in(r, marks, brief, None)
}

/// Judges a reading by a brief, as one picture of a series.
pub fn judge_in(r: &Readings, marks: &Marks, brief: &Brief, series: Option<&InSeries>) -> Verdict {
    let seen = Seen { readings: r, marks, looks: &brief.looks, series };
    let mut findings: Vec<Finding> = Vec::new();
    for rule in rules() {
        let Some((limit, end)) = rule.limit(brief) else { continue };
        let Some(of) = measure(&rule.measure) else { continue };
        let aid = aid::aid(&rule.measure);
        let mut f = Finding {
            rule: rule.id.clone(),
            outcome: Outcome::CannotTell,
            title: rule.title.clone(),
            says: of.missing.into(),
            change: None,
            settles: None,
            bench: aid.and_then(|a| a.bench.clone()),
            school: rule.school.clone(),
            source: rule.source.clone(),
            value: None,
            spread: None,
            limit,
            unit: of.unit.into(),
            pin: None,
            evidence: Vec::new(),
            by_brief: rule.by_brief(),
            severity: 0.0,
            weighed: Weighed { weight: rule.weight, step: of.step, above: end == End::Above },
        };
        // of a bound no more is known than that it lies there or higher
        let told = |m: &Measured| {
            !m.at_least || if end == End::Above { m.value - limit > m.spread } else { m.value - limit >= m.spread }
        };
        if let Some(m) = (of.find)(&seen).filter(told) {
            let over = if end == End::Above { m.value - limit } else { limit - m.value };
            f.outcome = if over > m.spread {
                Outcome::Fault
            } else if over > -m.spread && m.spread > 0.0 {
                Outcome::Unsure
            } else if over > 0.0 {
                Outcome::Fault
            } else {
                Outcome::Holds
            };
            if matches!(f.outcome, Outcome::Fault | Outcome::Unsure) {
                f.severity = rule.weight * (1.0 + (over.max(0.0) / of.step).min(MOST_STEPS));
            }
            let negative = rule.says_negative.as_ref().filter(|_| m.value < 0.0);
            let text = if f.outcome == Outcome::Holds { &rule.holds } else { negative.unwrap_or(&rule.says) };
            let shown = if negative.is_some() && f.outcome != Outcome::Holds { -m.value } else { m.value };
            let digits = match m.spread {
                s if s <= 0.0 || s >= 0.1 || m.value.abs() >= 1.0 => 1,
                s if s >= 0.01 => 2,
                _ => 3,
            };
            let text =
                if m.at_least { text.replace("{value} \u{b1} {spread}", "at least {value}") } else { text.clone() };
            f.says = text
                .replace("{value}", &figure(shown, digits))
                .replace("{spread}", &figure(m.spread.max(10f64.powi(-digits)), digits))
                .replace("{limit}", &figure(limit, digits))
                .replace("{note}", &m.note);
            if f.outcome == Outcome::Unsure {
                f.says += " The limit lies within the spread: it may or may not be so.";
            }
            f.change = (f.outcome != Outcome::Holds).then(|| rule.change.replace("{value}", &figure(shown.abs(), 1)));
            f.value = Some(m.value);
            f.spread = Some(m.spread);
            f.pin = m.pin;
            f.evidence = m.evidence;
        }
        if matches!(f.outcome, Outcome::Unsure | Outcome::CannotTell) {
            f.settles = aid.map(|a| a.take.clone());
        }
        findings.push(f);
    }
    let rank = |o: Outcome| match o {
        Outcome::Fault => 0,
        Outcome::Unsure => 1,
        Outcome::Holds => 2,
        Outcome::CannotTell => 3,
    };
    findings.sort_by(|a, b| rank(a.outcome).cmp(&rank(b.outcome)).then(b.severity.total_cmp(&a.severity)));
    Verdict { brief: brief.id.clone(), unsuited: unsuited(marks, brief), findings }
}

/// What does not go together: a brief of people where only things are marked, or the other way round.
fn unsuited(marks: &Marks, brief: &Brief) -> Option<String> {
    use evidence::marks::MarkKind;
    let is = |k: &MarkKind| match k {
        MarkKind::Face(_) | MarkKind::Eye(_) => Some(BriefKind::Person),
        MarkKind::Cylinder(_) | MarkKind::Cuboid(_) => Some(BriefKind::Thing),
        _ => None,
    };
    let kinds: Vec<BriefKind> = marks.marks.iter().filter(|m| !m.off).filter_map(|m| is(&m.kind)).collect();
    (!kinds.is_empty() && kinds.iter().all(|k| *k != brief.kind)).then(|| {
        let [of, marked] = match brief.kind {
            BriefKind::Person => ["people", "a thing"],
            BriefKind::Thing => ["things", "a person"],
        };
        format!(
            "The brief \u{201c}{}\u{201d} is for {of}, and {marked} is marked: choose another, or judge knowing that.",
            brief.name
        )
    })
}
