//! Assignments: what is asked for, by when, and what being late costs.

use crate::peers::MOST_PEERS;
use crate::rubric::{By, Criterion};
use serde::{Deserialize, Serialize};
use time::OffsetDateTime;
use utoipa::ToSchema;

/// What has to be handed in.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(default, deny_unknown_fields)]
pub struct HandIn {
    /// Takes that led to it, at least.
    pub takes: u32,
    /// The set it was made with.
    pub set: bool,
    /// A paragraph in the student's own words.
    pub paragraph: bool,
    /// Plates, at least.
    pub plates: u32,
}

/// What being late costs.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum LateRule {
    /// Nothing is taken after the date.
    Closed,
    /// It is taken and marked as late.
    Told,
    /// Each day begun takes so many per cent of the points, down to nought.
    Costs {
        /// Per cent for each day begun.
        percent_a_day: f64,
    },
}

/// An assignment.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Assignment {
    /// Title.
    pub title: String,
    /// What to do.
    #[serde(default)]
    pub text: String,
    /// Brief it is judged by.
    pub brief: String,
    /// Criteria.
    pub rubric: Vec<Criterion>,
    /// By when; absent for no date.
    #[serde(default, with = "time::serde::rfc3339::option")]
    #[schema(value_type = Option<String>)]
    pub due: Option<OffsetDateTime>,
    /// Time zone the date was meant in, by its name in the IANA table.
    #[serde(default)]
    pub zone: String,
    /// What being late costs.
    pub late: LateRule,
    /// It can be handed in again until it is returned.
    #[serde(default)]
    pub again: bool,
    /// What has to be handed in.
    #[serde(default)]
    pub hand_in: HandIn,
    /// The reference and its readings are shown only once a student has handed in.
    #[serde(default)]
    pub hidden: bool,
    /// Graders see no names.
    #[serde(default)]
    pub anonymous: bool,
    /// Students of a group hand in together: what one hands in counts for all.
    #[serde(default)]
    pub groups: bool,
    /// Pictures of others that each student looks at and says something about; nought for none.
    #[serde(default)]
    pub peers: u32,
    /// Weight in the gradebook.
    #[serde(default = "one")]
    pub weight: f64,
}

fn one() -> f64 {
    1.0
}

/// Criteria and characters at most.
const MOST_CRITERIA: usize = 20;
const LONGEST: usize = 4000;

impl Assignment {
    /// Checks what came from outside.
    ///
    /// # Errors
    /// One sentence that names the field and what was expected.
    pub fn check(&self) -> Result<(), String> {
        let n = self.title.trim().chars().count();
        if !(1..=120).contains(&n) {
            return Err("title: expected 1 to 120 characters".into());
        }
        if self.text.chars().count() > LONGEST {
            return Err(format!("text: expected at most {LONGEST} characters"));
        }
        if self.zone.len() > 60 {
            return Err("zone: expected the name of a time zone".into());
        }
        if self.rubric.is_empty() || self.rubric.len() > MOST_CRITERIA {
            return Err(format!("rubric: expected 1 to {MOST_CRITERIA} criteria"));
        }
        for (i, c) in self.rubric.iter().enumerate() {
            if c.id.is_empty() || c.id.len() > 40 || self.rubric[..i].iter().any(|o| o.id == c.id) {
                return Err(format!("rubric[{i}].id: expected a name of its own"));
            }
            if c.name.trim().is_empty() || c.name.chars().count() > 120 {
                return Err(format!("rubric[{i}].name: expected 1 to 120 characters"));
            }
            if !(c.points > 0.0 && c.points <= 1000.0) {
                return Err(format!("rubric[{i}].points: expected more than 0 and at most 1000"));
            }
            if (c.by == By::Measured) != c.measure.is_some() {
                return Err(format!("rubric[{i}].measure: expected for what is measured, and only there"));
            }
        }
        if let LateRule::Costs { percent_a_day } = self.late
            && !(0.0..=100.0).contains(&percent_a_day)
        {
            return Err("late.percent_a_day: expected 0 to 100".into());
        }
        if self.peers > MOST_PEERS {
            return Err(format!("peers: expected 0 to {MOST_PEERS}"));
        }
        if self.hand_in.plates > 40 {
            return Err("hand_in.plates: expected at most 40".into());
        }
        if self.hand_in.takes > 200 {
            return Err("hand_in.takes: expected at most 200".into());
        }
        if !(0.0..=100.0).contains(&self.weight) {
            return Err("weight: expected 0 to 100".into());
        }
        Ok(())
    }
}

/// How late something was handed in.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Lateness {
    /// After the date.
    pub late: bool,
    /// Days begun since then.
    pub days: i64,
    /// Share of the points that is left, 0 to 1.
    pub keeps: f64,
}

impl Lateness {
    /// The share that counts of one that was given.
    pub fn counts(&self, share: f64) -> f64 {
        share * self.keeps
    }
}

/// How late it is at an instant; `Err` if nothing is taken any more.
///
/// # Errors
/// One sentence for the student.
pub fn lateness(a: &Assignment, at: OffsetDateTime) -> Result<Lateness, String> {
    let Some(due) = a.due.filter(|d| at > *d) else { return Ok(Lateness { late: false, days: 0, keeps: 1.0 }) };
    let days = (at - due).whole_seconds().max(0) / 86_400 + 1;
    match a.late {
        LateRule::Closed => Err("The date has passed, and nothing is taken after it. Ask your instructor.".into()),
        LateRule::Told => Ok(Lateness { late: true, days, keeps: 1.0 }),
        LateRule::Costs { percent_a_day } => {
            Ok(Lateness { late: true, days, keeps: (1.0 - percent_a_day / 100.0 * days as f64).max(0.0) })
        }
    }
}
