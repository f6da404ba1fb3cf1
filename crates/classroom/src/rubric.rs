//! Rubrics: criteria with weights; what the program measures is proposed, and a person can overrule it.

use crate::distance::{Distance, PartKind};
use judging::critique::{Outcome, Verdict};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// Who gives the points of a criterion.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum By {
    /// The program measures, a person may overrule.
    Measured,
    /// A person judges.
    Judged,
}

/// What is measured for a criterion.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Measure {
    /// Nearness to the reference as a whole.
    Whole,
    /// Direction of the key.
    Direction,
    /// Size of the key.
    Size,
    /// Contrast on the subject.
    Contrast,
    /// Levels of the other lights.
    Levels,
    /// Colour.
    Colour,
    /// Exposure.
    Exposure,
    /// How much of what the brief asks holds.
    Brief,
}

/// A criterion.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Criterion {
    /// Stable name.
    pub id: String,
    /// Name for people.
    pub name: String,
    /// Points at most; their share of all points is its weight.
    pub points: f64,
    /// Who gives them.
    pub by: By,
    /// What is measured.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub measure: Option<Measure>,
}

/// Points that the program proposes, with what says so.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ProposedPoints {
    /// Criterion.
    pub criterion: String,
    /// Points; absent where it cannot be told.
    pub points: Option<f64>,
    /// What says so.
    pub evidence: String,
}

/// Points that were given, by criterion.
pub type Awarded = BTreeMap<String, f64>;

/// All points within so many steps that one sees, none beyond so many.
const FULL_STEPS: f64 = 0.75;
const NONE_STEPS: f64 = 5.0;
/// Points are given in halves.
const GRAIN: f64 = 0.5;

fn nearness(steps: f64) -> f64 {
    (1.0 - (steps - FULL_STEPS) / (NONE_STEPS - FULL_STEPS)).clamp(0.0, 1.0)
}

impl Measure {
    fn part(self) -> Option<PartKind> {
        match self {
            Measure::Direction => Some(PartKind::Direction),
            Measure::Size => Some(PartKind::Size),
            Measure::Contrast => Some(PartKind::Contrast),
            Measure::Levels => Some(PartKind::Levels),
            Measure::Colour => Some(PartKind::Colour),
            Measure::Exposure => Some(PartKind::Exposure),
            Measure::Whole | Measure::Brief => None,
        }
    }

    /// Share of the points, 0 to 1, and what says so; no share where it cannot be told.
    fn share(self, distance: Option<&Distance>, verdict: Option<&Verdict>) -> (Option<f64>, String) {
        let untold = || (None, "It could not be compared: nothing was read that both pictures have.".to_owned());
        match self {
            Measure::Brief => {
                let Some(v) = verdict else { return (None, "It was not judged by a brief.".into()) };
                let of = |o: Outcome| v.findings.iter().filter(|f| f.outcome == o && f.by_brief).count();
                let (held, broken, open) = (of(Outcome::Holds), of(Outcome::Fault), of(Outcome::Unsure));
                let told = held + broken + open;
                if told == 0 {
                    return (None, "Nothing of what the brief asks could be measured.".into());
                }
                // what cannot be decided counts half
                let share = (held as f64 + 0.5 * open as f64) / told as f64;
                (Some(share), format!("{held} of {told} asks of the brief hold, {open} cannot be decided."))
            }
            Measure::Whole => match distance.and_then(|d| d.steps.map(|s| (s, d))) {
                Some((steps, d)) => {
                    let all: Vec<&str> = d.parts.iter().map(|p| p.says.as_str()).collect();
                    (Some(nearness(steps)), format!("{steps:.1} steps from the reference: {}.", all.join("; ")))
                }
                None => untold(),
            },
            other => match other.part().and_then(|k| distance?.part(k)) {
                Some(p) => (Some(nearness(p.steps)), format!("{} (\u{b1} {:.1} {}).", p.says, p.sd, p.unit)),
                None => untold(),
            },
        }
    }
}

/// What the program proposes for the criteria it measures.
pub fn proposals(rubric: &[Criterion], distance: Option<&Distance>, verdict: Option<&Verdict>) -> Vec<ProposedPoints> {
    let propose = |c: &Criterion| {
        let (share, evidence) = c.measure.filter(|_| c.by == By::Measured)?.share(distance, verdict);
        let points = share.map(|s| ((s * c.points / GRAIN).round() * GRAIN).min(c.points));
        Some(ProposedPoints { criterion: c.id.clone(), points, evidence })
    };
    rubric.iter().filter_map(propose).collect()
}

/// Share of all points that were given, 0 to 1; `None` until every criterion has its points.
pub fn share_of(rubric: &[Criterion], given: &Awarded) -> Option<f64> {
    let all: f64 = rubric.iter().map(|c| c.points).sum();
    let sum = rubric.iter().map(|c| given.get(&c.id).map(|p| p.clamp(0.0, c.points))).sum::<Option<f64>>()?;
    (all > 0.0).then(|| sum / all)
}

/// Points that one grader gave, with the rubric they were given by.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Given {
    /// By criterion.
    pub points: Awarded,
    /// As it was then.
    pub rubric: Vec<Criterion>,
}

/// What the graders gave together.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Counted {
    /// Points by criterion, in the mean.
    pub points: Awarded,
    /// Share of all points in the mean of those who gave them all, 0 to 1, lateness not counted.
    pub share: Option<f64>,
    /// They differ by more than a tenth of all points.
    pub disputed: bool,
}

/// Graders who differ by more than this share are to talk about it.
const DISPUTED: f64 = 0.1;

/// What the graders gave together, the newest of each.
pub fn counted(grades: &[Given]) -> Counted {
    let shares: Vec<f64> = grades.iter().filter_map(|g| share_of(&g.rubric, &g.points)).collect();
    let mut by: BTreeMap<&String, Vec<f64>> = BTreeMap::new();
    for (name, points) in grades.iter().flat_map(|g| &g.points) {
        by.entry(name).or_default().push(*points);
    }
    let mean = |v: &[f64]| v.iter().sum::<f64>() / v.len() as f64;
    let apart = shares.iter().copied().fold(f64::MIN, f64::max) - shares.iter().copied().fold(f64::MAX, f64::min);
    Counted {
        points: by.into_iter().map(|(name, all)| (name.clone(), mean(&all))).collect(),
        share: (!shares.is_empty()).then(|| mean(&shares)),
        disputed: shares.len() > 1 && apart > DISPUTED,
    }
}
