//! `evaluation bottles`: reads bright lines on bodies of revolution with shoulder and neck, and prints how far they are off.

use crate::Failure;
use crate::marks::{Case, Row, beside, jitter, pictures_in};
use clap::Args;
use direction::turned::Turned;
use evidence::marks::{Cylinder, MarkKind, Marks};
use serde::Deserialize;
use std::path::PathBuf;

/// What to read.
#[derive(Debug, Args)]
pub(crate) struct Options {
    /// Folder of PNG pictures, each with a JSON file of the truth (tests/fixtures/make_bottles.py).
    #[arg(default_value = "tests/fixtures/bottles")]
    folder: PathBuf,
    /// Print every reading, not only the table.
    #[arg(long)]
    verbose: bool,
    /// Move every mark by this many pixels of a picture 640 wide.
    #[arg(long, default_value_t = 0.0)]
    jitter: f64,
    /// Trace the outline from the axis alone.
    #[arg(long)]
    traced: bool,
    /// Find the bottle without any mark.
    #[arg(long, conflicts_with = "traced")]
    found: bool,
}

#[derive(Deserialize)]
struct Truth {
    lines: Vec<TrueLine>,
}

#[derive(Deserialize)]
struct TrueLine {
    what: String,
    from_deg: f64,
    to_deg: f64,
    top_deg: f64,
    /// so far round that the rim hides its edge
    at_rim: bool,
}

impl TrueLine {
    fn middle(&self) -> f64 {
        f64::midpoint(self.from_deg, self.to_deg)
    }
}

/// A line within this of a true one is that line, degrees.
const SAME_DEG: f64 = 12.0;

fn cylinders(marks: &Marks) -> Vec<Cylinder> {
    marks
        .marks
        .iter()
        .filter_map(|m| if let MarkKind::Cylinder(c) = &m.kind { Some(c.clone()) } else { None })
        .collect()
}

/// How far a traced outline is off the true one: half widths at forty heights, and both ends.
fn outline(truth: &Cylinder, traced: &Cylinder, half: &mut Row, ends: &mut Row) -> f64 {
    let (Some(a), Some(b)) = (Turned::new(truth.axis, &truth.profile), Turned::new(traced.axis, &traced.profile))
    else {
        return f64::NAN;
    };
    let long = (truth.axis[1][1] - truth.axis[0][1]).abs();
    for k in 0..2 {
        ends.add(100.0 * (truth.axis[k][1] - traced.axis[k][1]).abs() / long, 1.0);
    }
    let mut all = Vec::new();
    for k in 1..40 {
        let y = truth.axis[0][1] + (truth.axis[1][1] - truth.axis[0][1]) * f64::from(k) / 40.0;
        let at = |c: &Cylinder| (y - c.axis[0][1]) / (c.axis[1][1] - c.axis[0][1]);
        all.push(100.0 * (a.radius(at(truth)) - b.radius(at(traced))).abs() / truth.radius_px);
    }
    all.iter().for_each(|v| half.add(*v, 1.0));
    all.sort_by(f64::total_cmp);
    all[all.len() * 9 / 10]
}

pub(crate) fn run(o: &Options) -> Result<(), Failure> {
    let files = pictures_in(&o.folder)?;
    let (mut middle, mut width, mut top) = (Row::default(), Row::default(), Row::default());
    let (mut seen, mut lines, mut invented, mut unread) = (0, 0, 0, 0);
    let (mut half, mut ends) = (Row::default(), Row::default());
    for file in &files {
        let case: Case<Truth> = beside(file)?;
        let picture = crate::files::load_picture(file)?;
        let mut marks = Marks::from_value(case.marks).map_err(Failure::Input)?;
        let truth = cylinders(&marks);
        if o.found {
            let found = finding::find(&picture.photo, None).into_iter().map(|p| p.mark);
            marks.marks = found.filter(|m| matches!(m.kind, MarkKind::Cylinder(_))).take(1).collect();
        }
        jitter(&mut marks, o.jitter, file, picture.photo.width());
        if o.traced {
            for m in &mut marks.marks {
                if let MarkKind::Cylinder(c) = &mut m.kind {
                    c.profile.clear();
                    match evidence::marks::traced(&picture.photo, c.axis) {
                        Ok(t) => *c = t,
                        Err(e) => println!("{}: {e}", file.display()),
                    }
                }
            }
        }
        if let (true, Some(t), Some(m)) = (o.traced || o.found, truth.first(), cylinders(&marks).first()) {
            let off = outline(t, m, &mut half, &mut ends);
            if o.verbose {
                println!("{}: outline off by {off:.1} % of its half width in the worst tenth", file.display());
            }
        }
        let r = session::PictureRead::of(&picture.photo, Some(&picture.meter), marks).readings;
        let read = r.by_mark.values().find_map(|m| m.strips.clone()).unwrap_or_default();
        unread += usize::from(r.by_mark.values().all(|m| m.strips.is_none()));
        let read: Vec<_> = read.iter().filter(|s| !s.lit_side).collect();
        let mut used = vec![false; read.len()];
        let name = file.file_stem().unwrap_or_default().to_string_lossy().into_owned();
        for t in case.truth.lines.iter().filter(|t| !t.at_rim) {
            lines += 1;
            let mid = |k: usize| f64::midpoint(read[k].azimuth_from_deg, read[k].azimuth_to_deg);
            let near = (0..read.len()).filter(|k| !used[*k] && (mid(*k) - t.middle()).abs() < SAME_DEG);
            let Some(k) = near.min_by(|a, b| (mid(*a) - t.middle()).abs().total_cmp(&(mid(*b) - t.middle()).abs()))
            else {
                if o.verbose {
                    println!("{name}: {} {:.0} to {:.0} MISSED", t.what, t.from_deg, t.to_deg);
                }
                continue;
            };
            used[k] = true;
            seen += 1;
            let s = read[k];
            let wide = s.azimuth_to_deg - s.azimuth_from_deg;
            let off = (mid(k) - t.middle(), wide - (t.to_deg - t.from_deg));
            middle.add(off.0.abs(), s.azimuth_sd_deg);
            width.add(off.1.abs(), s.width_sd_deg);
            let mut line = format!(
                "{name}: {} {:.0} to {:.0}: middle {:+.1} width {:+.1} (± {:.1})",
                t.what, t.from_deg, t.to_deg, off.0, off.1, s.azimuth_sd_deg
            );
            if let Some(reach) = &s.reaches {
                line += &format!(
                    "  top {:.0}{} for {:.0}",
                    reach.elevation_deg,
                    if reach.open { "+" } else { "" },
                    t.top_deg
                );
                // one that goes on reaches at least so far
                let off = reach.elevation_deg - t.top_deg;
                top.add(if reach.open { off.max(0.0) } else { off.abs() }, reach.elevation_sd_deg);
            }
            if o.verbose {
                println!("{line}");
            }
        }
        // a line on the rim may be read or not
        for (s, _) in read.iter().zip(&used).filter(|(_, used)| !**used) {
            let mid = f64::midpoint(s.azimuth_from_deg, s.azimuth_to_deg);
            let rim = case.truth.lines.iter().any(|t| t.at_rim && (t.middle() - mid).abs() < 25.0);
            if !rim {
                invented += 1;
                if o.verbose {
                    println!(
                        "{name}: INVENTED {:.0} to {:.0}, {:.1} stops",
                        s.azimuth_from_deg, s.azimuth_to_deg, s.over_ground_stops
                    );
                }
            }
        }
    }
    println!(
        "{} pictures ({unread} without a body that could be read), {lines} lines: {seen} read, {} missed, {invented} invented",
        files.len(),
        lines - seen
    );
    println!();
    println!("| reading | n | median error | 90 % | worst | unit | median stated sd | within 2 sd |");
    println!("|---|---|---|---|---|---|---|---|");
    half.print("half width of the outline, of its largest", "%");
    ends.print("foot and head, of the height", "%");
    middle.print("azimuth of a line's middle", "deg");
    width.print("width of a line", "deg");
    top.print("upper end of a source, by the shoulder", "deg");
    Ok(())
}
