//! `evaluation verdicts`: pictures with one planted fault and sound ones, judged; and the change that is named first, carried out.

use crate::Failure;
use crate::planting::{Job, Take, jobs};
use crate::spoiling::Spoil;
use adviser::{Handle, Mend, mends};
use clap::Args;
use evidence::marks::Marks;
use evidence::readings::Readings;
use judging::critique::{Brief, Outcome, Verdict, judge};
use lightset::set::LightSet;
use planning::rebuild::{Choices, plan};
use planning::stage::stage;
use rayon::prelude::*;
use session::PictureRead;
use std::time::Instant;

/// What to judge.
#[derive(Debug, Args)]
pub(crate) struct Options {
    /// Print every picture.
    #[arg(long)]
    verbose: bool,
    /// Only bases whose name holds this.
    #[arg(long, default_value = "")]
    only: String,
    /// Print what each rule that should have found a fault says.
    #[arg(long)]
    why: bool,
    /// Only faults whose name holds this; "sound" for none.
    #[arg(long, default_value = "")]
    fault: String,
    /// Leave the change that is named first alone.
    #[arg(long)]
    no_change: bool,
}

/// One picture judged.
struct Judged {
    readings: Readings,
    marks: Marks,
    verdict: Verdict,
}

fn judged(set: &LightSet, brief: &Brief, take: Take, spoil: Option<Spoil>) -> Result<Judged, String> {
    let (photo, marks) = take(set, spoil)?;
    let mut readings = PictureRead::reading(&photo, None, &marks, std::sync::Arc::new(|| false));
    evidence::placement::by_brief(&mut readings.exposure, brief.root(), marks.exposure.as_ref());
    let verdict = judge(&readings, &marks, brief);
    Ok(Judged { readings, marks, verdict })
}

fn faults_in(v: &Verdict) -> Vec<&str> {
    v.findings.iter().filter(|f| f.outcome == Outcome::Fault).map(|f| f.rule.as_str()).collect()
}

fn held(v: &Verdict) -> Vec<&str> {
    v.findings.iter().filter(|f| f.outcome == Outcome::Holds).map(|f| f.rule.as_str()).collect()
}

fn holds(v: &Verdict) -> usize {
    held(v).len()
}

/// The change named first; none where there is none.
fn first(j: &Judged, set: &LightSet, brief: &Brief) -> Option<(Mend, f64)> {
    let (w, h) = (set.picture.width, set.picture.height);
    let p = plan(&j.readings, &j.marks, w, h, &Choices::default());
    let staged = stage(&p, &j.marks, &j.readings, w, h);
    let start = Instant::now();
    let mut best = None;
    mends(&j.readings, &j.marks, brief, &staged, Some([w, h]), None, &mut |m| {
        best = Some(m.clone());
        false
    })
    .ok()?;
    best.map(|m| (m, start.elapsed().as_secs_f64()))
}

#[derive(Default)]
struct Tally {
    planted: usize,
    found: usize,
    unsure: usize,
    in_two: usize,
    sound: usize,
    false_faults: usize,
    changed: usize,
    better: usize,
    none_named: usize,
    times: Vec<f64>,
}

impl Tally {
    fn add(&mut self, o: &Tally) {
        self.planted += o.planted;
        self.found += o.found;
        self.unsure += o.unsure;
        self.in_two += o.in_two;
        self.sound += o.sound;
        self.false_faults += o.false_faults;
        self.changed += o.changed;
        self.better += o.better;
        self.none_named += o.none_named;
        self.times.extend(&o.times);
    }
}

fn one(j: &Job, o: &Options) -> Result<(Tally, String), String> {
    let mut t = Tally::default();
    let seen = judged(&j.set, j.brief, j.take, j.spoil)?;
    let named = faults_in(&seen.verdict);
    let unsure = seen
        .verdict
        .findings
        .iter()
        .filter(|f| f.outcome == Outcome::Unsure)
        .map(|f| f.rule.as_str())
        .collect::<Vec<_>>();
    let mut why = String::new();
    let mut line = format!("{:16} {:32}", j.base, j.fault.map_or("sound", |f| f.0));
    match j.fault {
        None => {
            t.sound = 1;
            t.false_faults = named.len();
            if o.why {
                for f in seen.verdict.findings.iter().filter(|f| f.outcome == Outcome::Fault) {
                    why += &format!("\n    {} (limit {}): {}", f.rule, f.limit, f.says);
                }
            }
        }
        Some((_, rules)) => {
            t.planted = 1;
            let at = named.iter().position(|r| rules.contains(r));
            t.found = usize::from(at.is_some());
            t.in_two = usize::from(at.is_some_and(|k| k < 2));
            t.unsure = usize::from(at.is_none() && unsure.iter().any(|r| rules.contains(r)));
            if o.why && at.is_none() {
                for f in seen.verdict.findings.iter().filter(|f| rules.contains(&f.rule.as_str())) {
                    why += &format!("\n    {} {:?} (limit {}): {}", f.rule, f.outcome, f.limit, f.says);
                }
            }
        }
    }
    if o.why {
        let of = |l: &evidence::readings::Light| {
            format!(
                "{:.0}/{:.0}±{:.0} {:.2}±{:.2} by {}",
                l.azimuth_deg,
                l.elevation_deg,
                l.direction_sd_deg,
                l.level_stops.unwrap_or(0.0),
                l.level_sd_stops.unwrap_or(0.0),
                l.evidence.join(" ")
            )
        };
        let all: Vec<String> = seen.readings.lights.iter().map(of).collect();
        why += &format!("\n    lights read (azimuth/elevation, stops): {}", all.join("; "));
        if let Some(f) = seen.verdict.findings.iter().find(|f| f.rule == "flat" && f.value.is_some()) {
            why += &format!("; key over fill {:.2}±{:.2}", f.value.unwrap_or(0.0), f.spread.unwrap_or(0.0));
        }
    }
    line += &format!(" to change: {}", if named.is_empty() { "nothing".into() } else { named.join(", ") });
    if !o.no_change && !named.is_empty() {
        match first(&seen, &j.set, j.brief) {
            None => t.none_named = 1,
            Some((m, seconds)) => {
                t.times.push(seconds);
                if let Some(after) = m.handle.on(&j.set) {
                    // taken anew without what spoilt it
                    let spoil = j.spoil.filter(|_| !matches!(m.handle, Handle::Retake { .. }));
                    let then = judged(&after, j.brief, j.take, spoil)?;
                    t.changed = 1;
                    t.better = usize::from(holds(&then.verdict) > holds(&seen.verdict));
                    line += &format!(
                        " | {} {} to {} hold ({} foretold, {:.0} % likely)",
                        m.says,
                        holds(&seen.verdict),
                        holds(&then.verdict),
                        m.holds,
                        100.0 * m.likely
                    );
                    if o.why {
                        line += &format!(", then to change: {}", faults_in(&then.verdict).join(", "));
                        let kept = held(&then.verdict);
                        let lost: Vec<&str> = held(&seen.verdict).into_iter().filter(|r| !kept.contains(r)).collect();
                        line += &format!(", no longer held: {}", lost.join(", "));
                    }
                }
            }
        }
    }
    Ok((t, line + &why))
}

/// Judges the bench.
pub(crate) fn run(o: &Options) -> Result<(), Failure> {
    let mut all = jobs(&o.only);
    all.retain(|j| j.fault.map_or("sound", |f| f.0).contains(&o.fault));
    let done: Vec<_> = all.par_iter().map(|j| (j.base.clone(), one(j, o))).collect();
    let mut by: std::collections::BTreeMap<String, Tally> = std::collections::BTreeMap::new();
    let mut total = Tally::default();
    for (base, result) in done {
        let (t, line) = result.map_err(|e| Failure::Input(format!("{base}: {e}")))?;
        if o.verbose {
            println!("{line}");
        }
        by.entry(base).or_default().add(&t);
        total.add(&t);
    }
    println!(
        "{:18} {:>8} {:>8} {:>8} {:>8} {:>7} {:>9} {:>9} {:>9}",
        "", "planted", "found", "open", "in two", "sound", "invented", "changed", "better"
    );
    let row = |name: &str, t: &Tally| {
        println!(
            "{name:18} {:8} {:8} {:8} {:8} {:7} {:9} {:9} {:9}",
            t.planted, t.found, t.unsure, t.in_two, t.sound, t.false_faults, t.changed, t.better
        );
    };
    by.iter().for_each(|(name, t)| row(name, t));
    row("all", &total);
    let share = |a: usize, b: usize| 100.0 * a as f64 / b.max(1) as f64;
    println!(
        "found {:.0} %, first or second {:.0} %, invented {:.1} per ten sound pictures, better after the first change {:.0} % (none named in {})",
        share(total.found, total.planted),
        share(total.in_two, total.planted),
        10.0 * total.false_faults as f64 / total.sound.max(1) as f64,
        share(total.better, total.changed),
        total.none_named
    );
    total.times.sort_by(f64::total_cmp);
    if let Some(t) = total.times.get(total.times.len() / 2) {
        println!(
            "the first change is worked out in {:.2} s in the median, {:.2} s at most",
            t,
            total.times.last().copied().unwrap_or(0.0)
        );
    }
    Ok(())
}
