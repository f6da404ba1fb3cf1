//! A mark that no other bears out: a cup marked as a mirror ball, a button as an eye.
//!
//! Marks that see lights are held against each other, light by light. Where the others agree on their lights and one
//! shares none of them, it is named, and its lights are not taken; where two stand against each other, both are named.

use super::{Reader, stops};
use crate::readings::Warning;
use direction::fusion::{Evidence, Fused, fuse};
use std::collections::BTreeSet;

/// Stops under a mark's strongest from which one of its lights says what it is.
const LEADING_STOPS: f64 = -1.5;
/// A direction with a wider spread bears nothing out, radians.
const VAGUE: f64 = 0.35;

impl Reader<'_> {
    /// Names marks that contradict all others; returns those whose lights are not to be taken.
    pub(super) fn alone(&mut self, fused: &[Fused]) -> BTreeSet<String> {
        let leading = |e: &&Evidence| e.relative_level.is_none_or(|l| stops(l.0) > LEADING_STOPS);
        let speak: BTreeSet<&String> =
            self.evidence.iter().filter(leading).filter(|e| e.seen.direction_sd < VAGUE).map(|e| &e.mark).collect();
        let shares = |mark: &String| fused.iter().any(|f| f.marks.contains(mark) && f.marks.iter().any(|o| o != mark));
        let alone: Vec<String> = speak.iter().filter(|m| !shares(m)).map(|m| (*m).clone()).collect();
        let agreed = speak.len() - alone.len();
        let mut out = BTreeSet::new();
        let others = |mark: &String| speak.iter().filter(|m| **m != mark).map(|m| (*m).clone()).collect::<Vec<_>>();
        let alone: Vec<String> = alone.into_iter().filter(|m| !self.stands_against(m, &others(m))).collect();
        for mark in &alone {
            // among themselves, without this one: do the others still agree?
            let rest: Vec<Evidence> = self.evidence.iter().filter(|e| &e.mark != mark).cloned().collect();
            let borne_out = agreed >= 2 && fuse(rest).iter().any(|f| f.marks.len() >= 2);
            if borne_out {
                out.insert(mark.clone());
                self.warnings.push(Warning::on(
                    mark,
                    "contradicts",
                    "It shows none of the lights that the other marks agree on: its lights are not taken. If it is not what it is \
                     marked as, remove it; if it stands elsewhere in the room, it is lit by something else.",
                ));
            } else if speak.len() == 2 && alone.len() == 2 {
                let other = alone.iter().find(|o| *o != mark).cloned().unwrap_or_default();
                self.warnings.push(Warning::on(
                    mark,
                    "contradicts",
                    format!(
                        "It and {other} show no light in common: one of them is not what it is marked as, or they are lit by \
                         different things. Switch one off, or mark a third."
                    ),
                ));
            }
        }
        out
    }
}
