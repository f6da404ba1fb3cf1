//! `evaluation find`: looks for marks in pictures that were marked with care, and prints how many are found.

use crate::{Failure, marks};
use evidence::marks::{Ball, Cylinder, Eye, Finish, Mark, MarkKind, Marks, Penumbra};
use finding::find;
use std::collections::BTreeMap;
use std::path::PathBuf;
use std::time::Instant;

/// Irises under this radius are left to the finder of faces in the browser.
const SMALL_EYE_PX: f64 = 14.0;

/// Where to look.
#[derive(clap::Args)]
pub struct Options {
    /// Folders of PNG pictures, each with a JSON file of marks.
    #[arg(default_values = ["tests/fixtures/rendered", "tests/fixtures/evidence", "tests/fixtures/portrait"])]
    folders: Vec<PathBuf>,
    /// Print every picture.
    #[arg(long)]
    verbose: bool,
}

#[derive(Default)]
struct Tally {
    marked: usize,
    found: usize,
    extra: usize,
    off_px: Vec<f64>,
}

/// Kind for the table, centre, and how near a proposal must lie.
fn place(m: &Mark) -> Option<(&'static str, [f64; 2], f64)> {
    match &m.kind {
        MarkKind::Ball(Ball { finish: Finish::Matte, centre, radius_px }) => {
            Some(("matte ball", *centre, 0.06 * radius_px + 1.0))
        }
        MarkKind::Ball(Ball { finish: Finish::Mirror, centre, radius_px }) => {
            Some(("mirror ball", *centre, 0.06 * radius_px + 1.0))
        }
        MarkKind::Eye(Eye { limbus, .. }) if limbus.rx.max(limbus.ry) < SMALL_EYE_PX => None,
        MarkKind::Eye(Eye { limbus, .. }) => Some(("eye", limbus.centre, 0.1 * limbus.rx + 1.0)),
        MarkKind::Cylinder(Cylinder { axis, radius_px }) => {
            Some(("cylinder", [0, 1].map(|k| f64::midpoint(axis[0][k], axis[1][k])), 0.3 * radius_px + 2.0))
        }
        MarkKind::Penumbra(Penumbra { a, b, .. }) => {
            Some(("shadow edge", [0, 1].map(|k| f64::midpoint(a[k], b[k])), f64::MAX))
        }
        _ => None,
    }
}

/// Runs over the folders and prints a table.
pub fn run(o: &Options) -> Result<(), Failure> {
    let mut table: BTreeMap<&'static str, Tally> = BTreeMap::new();
    let mut times = Vec::new();
    for folder in &o.folders {
        for picture in marks::pictures_in(folder)? {
            let name = picture.file_stem().map_or_else(String::new, |n| n.to_string_lossy().into_owned());
            let value: serde_json::Value = marks::beside(&picture)?;
            let marks =
                Marks::from_value(value["marks"].clone()).map_err(|e| Failure::Input(format!("{name}: {e}")))?;
            let photo = crate::files::load_picture(&picture)?.photo;
            let start = Instant::now();
            let found = find(&photo, None);
            times.push(start.elapsed().as_secs_f64() * 1000.0);
            let mut open: Vec<_> = found.iter().filter_map(|p| place(&p.mark)).collect();
            let mut line = Vec::new();
            for (kind, at, reach) in marks.marks.iter().filter_map(place) {
                let t = table.entry(kind).or_default();
                t.marked += 1;
                let off = |p: &(&str, [f64; 2], f64)| (p.1[0] - at[0]).hypot(p.1[1] - at[1]);
                let best = (0..open.len())
                    .filter(|i| open[*i].0 == kind)
                    .min_by(|a, b| off(&open[*a]).total_cmp(&off(&open[*b])));
                match best.filter(|i| off(&open[*i]) < reach) {
                    Some(i) => {
                        t.found += 1;
                        t.off_px.push(off(&open[i]));
                        open.remove(i);
                    }
                    None => line.push(format!("missed {kind}")),
                }
            }
            // the edge of one shadow may be proposed in several places
            let shadow = marks.marks.iter().any(|m| matches!(m.kind, MarkKind::Penumbra(_) | MarkKind::Cast(_)));
            for p in open.into_iter().filter(|p| !(shadow && p.0 == "shadow edge")) {
                table.entry(p.0).or_default().extra += 1;
                line.push(format!("also proposed {} at {:.0}, {:.0}", p.0, p.1[0], p.1[1]));
            }
            if o.verbose && !line.is_empty() {
                println!("{name}: {}", line.join("; "));
            }
        }
    }
    println!("| kind | marked | found | off, median px | proposed beside |\n|---|---|---|---|---|");
    for (kind, t) in &mut table {
        t.off_px.sort_by(f64::total_cmp);
        let off = t.off_px.get(t.off_px.len() / 2).map_or("-".into(), |v| format!("{v:.1}"));
        println!("| {kind} | {} | {} | {off} | {} |", t.marked, t.found, t.extra);
    }
    times.sort_by(f64::total_cmp);
    if let Some(last) = times.last() {
        println!("{} pictures, median {:.0} ms, longest {last:.0} ms.", times.len(), times[times.len() / 2]);
    }
    Ok(())
}
