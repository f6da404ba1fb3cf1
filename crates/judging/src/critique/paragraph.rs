//! The verdict as a paragraph in plain words: what holds, what to change first, what is open.

use super::{Brief, Finding, Outcome, Verdict};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What is promised of a change that was worked out.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Promise {
    /// The change in a sentence.
    pub says: String,
    /// Rules that hold before it.
    pub held: usize,
    /// Rules that would hold after it.
    pub holds: usize,
    /// Rules that can be told.
    pub of: usize,
}

impl Promise {
    /// What it gains, in words.
    pub fn gain(&self) -> String {
        if self.holds > self.held {
            format!("{} of {} rules would then hold instead of {}", self.holds, self.of, self.held)
        } else {
            "less of what is wrong would be left".to_owned()
        }
    }
}

/// Most findings of a kind that the paragraph tells in full.
const MOST_TOLD: usize = 3;

fn lower(title: &str) -> String {
    let mut c = title.chars();
    let first: String = c.next().map(|c| c.to_lowercase().collect()).unwrap_or_default();
    first + c.as_str()
}

fn list(titles: &[String]) -> String {
    match titles {
        [] => String::new(),
        [one] => one.clone(),
        [all @ .., last] => format!("{} and {last}", all.join(", ")),
    }
}

/// Composes the paragraph.
pub fn paragraph(v: &Verdict, brief: &Brief, first: Option<&Promise>) -> String {
    let of = |o: Outcome| v.findings.iter().filter(move |f| f.outcome == o).collect::<Vec<&Finding>>();
    let (faults, unsure, holds, untold) =
        (of(Outcome::Fault), of(Outcome::Unsure), of(Outcome::Holds), of(Outcome::CannotTell));
    let mut out = vec![format!("Judged as \u{201c}{}\u{201d}.", brief.name)];
    out.extend(v.unsuited.clone());
    let mut good: Vec<&&Finding> = holds.iter().filter(|f| f.by_brief).collect();
    if good.is_empty() {
        good = holds.iter().collect();
    }
    if !good.is_empty() {
        let told: Vec<&str> = good.iter().take(MOST_TOLD).map(|f| f.says.as_str()).collect();
        out.push(format!("What holds: {}", told.join(" ")));
        if holds.len() > told.len() {
            out.push(format!("{} more rules hold.", holds.len() - told.len()));
        }
    }
    match faults.first() {
        Some(f) => {
            out.push(format!("What spoils it most: {}. {}", lower(&f.title), f.says));
            match first {
                Some(p) => {
                    out.push(format!("Change this first: {} By the studio's reckoning {}.", p.says, p.gain()));
                }
                None => out.extend(f.change.as_ref().map(|c| format!("Change this first: {c}"))),
            }
            let rest: Vec<String> = faults.iter().skip(1).take(MOST_TOLD).map(|f| lower(&f.title)).collect();
            if !rest.is_empty() {
                let more = faults.len() - 1 - rest.len();
                let more = if more > 0 { format!(", and {more} more") } else { String::new() };
                out.push(format!("Then look at this: {}{more}.", list(&rest)));
            }
        }
        None if !holds.is_empty() => out.push("Nothing that was measured has to change.".to_owned()),
        None => out.push("Nothing could be measured yet.".to_owned()),
    }
    if !unsure.is_empty() {
        let titles: Vec<String> = unsure.iter().take(MOST_TOLD).map(|f| lower(&f.title)).collect();
        out.push(format!("It cannot be decided whether {}.", list(&titles)));
        out.extend(unsure[0].settles.clone());
    }
    if !untold.is_empty() {
        out.push(format!("{} rules wait for something to be marked.", untold.len()));
    }
    out.join(" ")
}
