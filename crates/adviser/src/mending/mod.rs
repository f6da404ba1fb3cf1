//! What to change first in a picture that was judged.
//!
//! Each change that a hand can make is tried on the set that the reading makes likely. The studio says what it does to the lights,
//! at the cheeks, the forehead and the background; the reading is moved by that and judged again. What takes away most of what is
//! wrong comes first, then what takes away most of the rest.

mod handle;
mod predicted;

pub use handle::Handle;
pub(crate) use handle::wider;

use crate::changes::changes;
use evidence::marks::Marks;
use evidence::readings::Readings;
use handle::{RETAKES, UNEVEN, handles};
use judging::critique::{Brief, InSeries, Outcome, Promise, Verdict, below, judge_in};
use judging::takes::Change;
use lightset::set::LightSet;
use predicted::{Given, Place, Shift, places};
use rayon::prelude::*;
use serde::Serialize;
use utoipa::ToSchema;

/// Changes that are told, one after the other.
const MOST_STEPS: usize = 4;
/// Gravity that a change must take away to be worth a hand.
const WORTH: f64 = 0.25;
/// What is foretold of a measure that a change moves may be off by so many of its steps (one standard deviation).
const FORETOLD_STEPS: f64 = 0.4;
/// A measure is moved by a change if it moves by more than this, in its steps.
const MOVED_STEPS: f64 = 0.05;
/// Gravity of a rule that does not hold, beside that of what it spoils.
const HELD: f64 = 0.3;
/// More rules that are likely to hold after a change that is named.
const LEAST_HELD: f64 = 0.25;
/// Where something is wrong for certain, what a change counts that leaves all of that and only betters what is likely.
const ONLY_LIKELY: f64 = 0.4;
/// What a change counts that is foretold to help but unlikely to be seen to: nothing for certain would hold that did not.
const UNLIKELY: f64 = 0.2;
/// A change is not named that is less likely than this to be seen to help.
const LEAST_LIKELY: f64 = 0.35;
/// The same of one after which a certain fault is foretold to hold.
const MENDED_LIKELY: f64 = 0.15;
/// What carrying a lamp farther costs, so that of two changes that do as much the smaller comes first; gravity.
const EFFORT: f64 = 0.12;

/// A finding before and after a change.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Foreseen {
    /// Rule.
    pub rule: String,
    /// Its title.
    pub title: String,
    /// How it stood.
    pub before: Outcome,
    /// How it would stand.
    pub after: Outcome,
    /// Measured value before.
    pub value_before: Option<f64>,
    /// Value to expect.
    pub value_after: Option<f64>,
    /// How far that may be off, by the spread of what was measured.
    pub spread: Option<f64>,
    /// Limit of the rule.
    pub limit: f64,
    /// Unit of the four.
    pub unit: String,
    /// In a sentence, as it would be found.
    pub says: String,
}

/// A change with what it is expected to do.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Mend {
    /// What is done.
    pub handle: Handle,
    /// In one sentence.
    pub says: String,
    /// The same in figures of the set.
    pub changes: Vec<Change>,
    /// Rules that hold before it, of those that can be told.
    pub held: usize,
    /// Rules that would hold after it.
    pub holds: usize,
    /// Rules that can be told.
    pub of: usize,
    /// Probability that the next picture is found to keep more rules.
    pub likely: f64,
    /// Share of what is wrong that it takes away, by the weight of the rules.
    pub gain: f64,
    /// What becomes better or worse.
    pub foreseen: Vec<Foreseen>,
    /// The set after it and all before it.
    pub set: LightSet,
}

impl Mend {
    /// What it promises, as it is told in words.
    pub fn promise(&self) -> Promise {
        Promise { says: self.says.clone(), held: self.held, holds: self.holds, of: self.of }
    }
}

/// What is to be expected to be wrong with a picture, and how many rules of it hold.
#[derive(Clone, Copy)]
struct Expected {
    wrong: f64,
    hold: f64,
    /// Rules that another picture is found to keep for certain, and the variance of their count.
    certain: [f64; 2],
}

impl Expected {
    /// Of a verdict; `before` is the one it was foretold from, if it was.
    fn of(v: &Verdict, before: Option<&Verdict>) -> Expected {
        let mut out = Expected { wrong: 0.0, hold: 0.0, certain: [0.0; 2] };
        for f in &v.findings {
            let was = before.and_then(|b| b.finding(&f.rule)?.value);
            let moved =
                before.is_some() && was.zip(f.value).is_none_or(|(b, a)| (a - b).abs() > MOVED_STEPS * f.weighed.step);
            let more = if moved { FORETOLD_STEPS } else { 0.0 };
            if let Some(p) = f.broken(more) {
                out.wrong += f.expected(more) + HELD * p;
                out.hold += 1.0 - p;
            }
            let again = f.holds_again(more);
            out.certain[0] += again;
            out.certain[1] += again * (1.0 - again);
        }
        out
    }

    /// Probability that more than `held` rules hold for certain in another picture; their count is taken as normal.
    fn more_than(&self, held: usize) -> f64 {
        let [mean, variance] = self.certain;
        below(held as f64 + 0.5 - mean, variance.sqrt().max(0.2))
    }
}

fn held(v: &Verdict) -> usize {
    v.findings.iter().filter(|f| f.outcome == Outcome::Holds).count()
}

/// How much of a hand's work a change is, 0 to 1 and a little more.
fn effort(h: &Handle) -> f64 {
    match *h {
        // a dial
        Handle::Expose { stops } => 0.2 + 0.15 * stops.abs(),
        // the key sets the exposure: more of it is seldom what is meant
        Handle::Power { light: 0, stops } if stops > 0.0 => 0.9 + 0.6 * stops,
        Handle::Power { stops, .. } | Handle::Room { stops } | Handle::Ground { stops } => {
            0.4 + 0.6 * stops.abs() / 2.0
        }
        Handle::Round { deg, .. } | Handle::Height { deg, .. } => 0.4 + deg.abs() / 45.0,
        Handle::Face { times, .. } => 0.8 + times.ln().abs(),
        Handle::Balance { .. } => 0.5,
        Handle::Head { tilt_deg, nod_deg } => 0.3 + (tilt_deg.abs() + nod_deg.abs()) / 60.0,
        Handle::Retake { .. } => 0.5,
        // somebody put it there
        Handle::Off { .. } => 10.0,
        Handle::Strip { .. } => 1.2,
        Handle::Lines { wide, high } => 0.9 + wide.ln().abs() + high.ln().abs(),
        Handle::Fill { .. } | Handle::Even => 0.8,
        Handle::Rim { .. } => 1.5,
    }
}

/// A reading with its set and its verdict.
#[derive(Clone)]
struct Step {
    set: LightSet,
    readings: Readings,
    verdict: Verdict,
}

/// One change tried.
struct Tried {
    handle: Handle,
    after: Step,
    worth: f64,
    likely: f64,
    /// How likely it must be to be named.
    least_likely: f64,
}

fn tried(
    from: &Step,
    before: &Given,
    places: &[Place],
    marks: &Marks,
    brief: &Brief,
    series: Option<&InSeries>,
) -> Vec<Tried> {
    let was = Expected::of(&from.verdict, None);
    let faults: Vec<&str> =
        from.verdict.findings.iter().filter(|f| f.outcome == Outcome::Fault).map(|f| f.rule.as_str()).collect();
    let anew = RETAKES.iter().filter(|(_, rules)| rules.iter().any(|r| faults.contains(r)));
    let mut all = handles(&from.set);
    all.extend(anew.map(|(how, _)| Handle::Retake { how: *how }));
    if UNEVEN.iter().any(|r| faults.contains(r)) {
        all.push(Handle::Even);
    }
    all.into_par_iter()
        .filter_map(|handle| {
            let set = handle.on(&from.set)?;
            let only_levels = handle.only_levels() && set.lights.len() == from.set.lights.len();
            let after = if only_levels { before.relevelled(&set, places) } else { Given::of(&set, places) }.ok()?;
            let balanced = match handle {
                Handle::Balance { light } => from.set.lights.get(light).map(|l| l.name.as_str()),
                _ => None,
            };
            let shift = Shift { handle: &handle, balanced, before, after: &after, set: &set, marks, brief: &brief.id };
            let readings = shift.apply(&from.readings);
            let verdict = judge_in(&readings, marks, brief, series);
            let then = Expected::of(&verdict, Some(&from.verdict));
            if then.hold < was.hold + LEAST_HELD || held(&verdict) <= held(&from.verdict) {
                return None;
            }
            // what is certain comes before what is only likely
            let stays = |f: &&str| verdict.finding(f).is_some_and(|f| f.outcome == Outcome::Fault);
            let only_likely = !faults.is_empty() && faults.iter().all(stays);
            let counts = if only_likely { ONLY_LIKELY } else { 1.0 };
            let likely = then.more_than(held(&from.verdict));
            let counts = counts * (UNLIKELY + (1.0 - UNLIKELY) * likely);
            let worth = counts * (was.wrong - then.wrong) - EFFORT * effort(&handle);
            let mended = |f: &&str| verdict.finding(f).is_some_and(|f| f.outcome == Outcome::Holds);
            let least_likely = if faults.iter().any(mended) { MENDED_LIKELY } else { LEAST_LIKELY };
            Some(Tried { handle, after: Step { set, readings, verdict }, worth, likely, least_likely })
        })
        .collect()
}

fn foreseen(before: &Verdict, after: &Verdict) -> Vec<Foreseen> {
    let mut out: Vec<(f64, Foreseen)> = after
        .findings
        .iter()
        .filter_map(|a| {
            let b = before.finding(&a.rule)?;
            (b.outcome != a.outcome).then(|| {
                let told = Foreseen {
                    rule: a.rule.clone(),
                    title: a.title.clone(),
                    before: b.outcome,
                    after: a.outcome,
                    value_before: b.value,
                    value_after: a.value,
                    spread: a.spread,
                    limit: a.limit,
                    unit: a.unit.clone(),
                    says: a.says.clone(),
                };
                (b.severity - a.severity, told)
            })
        })
        .collect();
    out.sort_by(|a, b| b.0.total_cmp(&a.0));
    out.into_iter().map(|o| o.1).collect()
}

/// The changes that mend most of a verdict, the best first, each after the one before it. `set` is the set that follows from the
/// reading, its lights in the order of the reading's, `size_px` how large the picture is that was marked (where it is not known, marked
/// parts change as the usual places of a meter do), `series` how the picture lies among others; empty where nothing that a hand can do helps by what can be measured.
/// `told` hears of each as soon as it is known and says whether to go on.
///
/// # Errors
/// If a power setting of the set cannot be understood.
pub fn mends(
    readings: &Readings,
    marks: &Marks,
    brief: &Brief,
    set: &LightSet,
    size_px: Option<[u32; 2]>,
    series: Option<&InSeries>,
    told: &mut dyn FnMut(&Mend) -> bool,
) -> Result<Vec<Mend>, String> {
    let verdict = judge_in(readings, marks, brief, series);
    let places = places(set, marks, size_px)?;
    let all = Expected::of(&verdict, None).wrong;
    let mut now = Step { set: set.clone(), readings: readings.clone(), verdict };
    let mut out: Vec<Mend> = Vec::new();
    while out.len() < MOST_STEPS {
        let before = Given::of(&now.set, &places)?;
        let all_tried = tried(&now, &before, &places, marks, brief, series);
        // what is smeared, noisy or pressed tells little of its lights: first it is taken anew
        let anew = |t: &Tried| matches!(t.handle, Handle::Retake { .. });
        let first = out.is_empty() && all_tried.iter().any(anew);
        let best = all_tried
            .into_iter()
            .filter(|t| if first { anew(t) } else { t.worth > WORTH && t.likely > t.least_likely })
            .max_by(|a, b| a.worth.total_cmp(&b.worth));
        let Some(best) = best else { break };
        let findings = &best.after.verdict.findings;
        let mend = Mend {
            says: best.handle.says(&now.set),
            handle: best.handle,
            changes: changes(&now.set, &best.after.set),
            held: held(&now.verdict),
            holds: held(&best.after.verdict),
            of: findings.iter().filter(|f| f.outcome != Outcome::CannotTell).count(),
            likely: best.likely,
            gain: (Expected::of(&now.verdict, None).wrong - Expected::of(&best.after.verdict, None).wrong)
                / all.max(1e-9),
            foreseen: foreseen(&now.verdict, &best.after.verdict),
            set: best.after.set.clone(),
        };
        now = best.after;
        let go_on = told(&mend);
        out.push(mend);
        if !go_on {
            break;
        }
    }
    Ok(out)
}
