//! `evaluation find`: looks for marks in pictures that were marked with care, and prints how many are found.

use crate::{Failure, marks};
use evidence::marks::{Ball, Cylinder, Eye, Finish, Mark, MarkKind, Marks, Penumbra};
use finding::{LIKELY, Proposal, Signs, candidates, find};
use nalgebra::{DMatrix, DVector};
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
    /// Fit the probabilities to these pictures and print the table for `crates/finding/data/likely.toml`.
    #[arg(long)]
    fit: bool,
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
        MarkKind::Cylinder(Cylinder { axis, radius_px, .. }) => {
            Some(("cylinder", [0, 1].map(|k| f64::midpoint(axis[0][k], axis[1][k])), 0.3 * radius_px + 2.0))
        }
        MarkKind::Penumbra(Penumbra { a, b, .. }) => {
            Some(("shadow edge", [0, 1].map(|k| f64::midpoint(a[k], b[k])), f64::MAX))
        }
        _ => None,
    }
}

/// A picture with its marks, and the kinds of which it cannot be told whether they are there.
struct Known {
    name: String,
    photo: optics::photo::Photo,
    marks: Marks,
    unsure: Vec<String>,
}

fn known_in(folders: &[PathBuf]) -> Result<Vec<Known>, Failure> {
    let mut out = Vec::new();
    for folder in folders {
        for picture in marks::pictures_in(folder)? {
            let name = picture.file_stem().map_or_else(String::new, |n| n.to_string_lossy().into_owned());
            let value: serde_json::Value = marks::beside(&picture)?;
            let marks =
                Marks::from_value(value["marks"].clone()).map_err(|e| Failure::Input(format!("{name}: {e}")))?;
            let unsure = value["unsure"].as_array().into_iter().flatten();
            let unsure = unsure.filter_map(|v| v.as_str()).map(str::to_owned).collect();
            let photo = crate::files::load_picture(&picture)?.photo;
            out.push(Known { name, photo, marks, unsure });
        }
    }
    Ok(out)
}

impl Known {
    /// Whether a shadow is marked in it: its edge may then be proposed in several places, and each is right.
    fn has_shadow(&self) -> bool {
        self.marks.marks.iter().any(|m| matches!(m.kind, MarkKind::Penumbra(_) | MarkKind::Cast(_)))
    }

    fn is_unsure_of(&self, kind: &str) -> bool {
        self.unsure.iter().any(|u| u == kind)
    }
}

/// Whether a proposal is one of the marks of its picture; `None` if that cannot be told.
fn is_true(k: &Known, p: &Proposal) -> Option<bool> {
    let (kind, at, _) = place(&p.mark)?;
    if k.is_unsure_of(kind) {
        return None;
    }
    // where none is marked there may be shadows all the same: nobody looked for them
    if kind == "shadow edge" {
        return k.has_shadow().then_some(true);
    }
    let of_kind = |(other, place, reach): (&str, [f64; 2], f64)| {
        other == kind && (place[0] - at[0]).hypot(place[1] - at[1]) < reach
    };
    Some(k.marks.marks.iter().filter_map(place).any(of_kind))
}

/// Logistic regression by Newton's method with a weak prior at zero (Hastie, Tibshirani & Friedman, The Elements of
/// Statistical Learning, 4.4.1). Returns the bias and the weights.
fn logistic(rows: &[(Vec<f64>, bool)]) -> Option<Vec<f64>> {
    let n = rows.first()?.0.len() + 1;
    let x = DMatrix::from_fn(rows.len(), n, |i, j| if j == 0 { 1.0 } else { rows[i].0[j - 1] });
    let y = DVector::from_fn(rows.len(), |i, _| f64::from(u8::from(rows[i].1)));
    let prior = DMatrix::from_fn(n, n, |i, j| if i == j { if i == 0 { 1e-3 } else { 0.1 } } else { 0.0 });
    let mut b = DVector::zeros(n);
    for _ in 0..40 {
        let p = (&x * &b).map(|v: f64| 1.0 / (1.0 + (-v).exp()));
        let w = p.map(|p| (p * (1.0 - p)).max(1e-6));
        let gradient = x.transpose() * (&y - &p) - &prior * &b;
        let hessian = x.transpose() * DMatrix::from_diagonal(&w) * &x + &prior;
        b += hessian.cholesky()?.solve(&gradient);
    }
    Some(b.iter().copied().collect())
}

/// Fits each kind's model to what is looked at in the pictures, and prints the table.
fn fit(pictures: &[Known]) {
    let mut rows: BTreeMap<&'static str, Vec<(Vec<f64>, bool)>> = BTreeMap::new();
    for k in pictures {
        for p in candidates(&k.photo) {
            if let (Some(Signs { kind, values }), Some(told)) = (p.signs.clone(), is_true(k, &p)) {
                rows.entry(kind).or_default().push((values, told));
            }
        }
    }
    for m in finding::models() {
        let rows = rows.get(m.kind.as_str()).map_or(&[][..], Vec::as_slice);
        let yes = rows.iter().filter(|r| r.1).count();
        println!("# {yes} of {} that were looked at", rows.len());
        println!("[[model]]\nkind = {:?}\nsigns = {:?}", m.kind, m.signs);
        match logistic(rows).filter(|_| yes > 4 && rows.len() > yes + 4) {
            Some(b) => {
                let weights: Vec<String> = b[1..].iter().map(|v| format!("{v:.3}")).collect();
                println!("bias = {:.3}\nweights = [{}]\n", b[0], weights.join(", "));
            }
            None => println!("bias = {}\nweights = {:?}\n", m.bias, m.weights),
        }
    }
}

/// Runs over the folders and prints a table.
pub fn run(o: &Options) -> Result<(), Failure> {
    let pictures = known_in(&o.folders)?;
    if o.fit {
        fit(&pictures);
        return Ok(());
    }
    let mut table: BTreeMap<&'static str, Tally> = BTreeMap::new();
    let mut times = Vec::new();
    // what was proposed with which probability, and whether it was so
    let mut told: Vec<(f64, bool)> = Vec::new();
    for k in &pictures {
        let start = Instant::now();
        let found = find(&k.photo, None);
        times.push(start.elapsed().as_secs_f64() * 1000.0);
        told.extend(found.iter().filter_map(|p| Some((p.probability, is_true(k, p)?))));
        let mut open: Vec<_> = found.iter().filter_map(|p| place(&p.mark)).collect();
        let mut line = Vec::new();
        for (kind, at, reach) in k.marks.marks.iter().filter_map(place) {
            let t = table.entry(kind).or_default();
            t.marked += 1;
            let off = |p: &(&str, [f64; 2], f64)| (p.1[0] - at[0]).hypot(p.1[1] - at[1]);
            let best =
                (0..open.len()).filter(|i| open[*i].0 == kind).min_by(|a, b| off(&open[*a]).total_cmp(&off(&open[*b])));
            match best.filter(|i| off(&open[*i]) < reach) {
                Some(i) => {
                    t.found += 1;
                    t.off_px.push(off(&open[i]));
                    open.remove(i);
                }
                None => line.push(format!("missed {kind}")),
            }
        }
        // the table is the stricter: an edge where no shadow is marked counts as beside
        let right = |kind: &str| k.is_unsure_of(kind) || (kind == "shadow edge" && k.has_shadow());
        for p in open.into_iter().filter(|p| !right(p.0)) {
            table.entry(p.0).or_default().extra += 1;
            line.push(format!("also proposed {} at {:.0}, {:.0}", p.0, p.1[0], p.1[1]));
        }
        if o.verbose && !line.is_empty() {
            println!("{}: {}", k.name, line.join("; "));
        }
    }
    println!("| kind | marked | found | off, median px | proposed beside |\n|---|---|---|---|---|");
    for (kind, t) in &mut table {
        t.off_px.sort_by(f64::total_cmp);
        let off = t.off_px.get(t.off_px.len() / 2).map_or("-".into(), |v| format!("{v:.1}"));
        println!("| {kind} | {} | {} | {off} | {} |", t.marked, t.found, t.extra);
    }
    println!("\n| proposed with | of them true | mean probability |\n|---|---|---|");
    for (low, high) in [(LIKELY, 0.7), (0.7, 0.9), (0.9, 1.01)] {
        let of: Vec<_> = told.iter().filter(|t| (low..high).contains(&t.0)).collect();
        let n = of.len().max(1) as f64;
        let so = of.iter().filter(|t| t.1).count();
        let mean = of.iter().map(|t| t.0).sum::<f64>() / n;
        println!(
            "| {:.0} to {:.0} % | {so} of {} | {:.0} % |",
            100.0 * low,
            100.0 * high.min(1.0),
            of.len(),
            100.0 * mean
        );
    }
    times.sort_by(f64::total_cmp);
    if let Some(last) = times.last() {
        println!("{} pictures, median {:.0} ms, longest {last:.0} ms.", times.len(), times[times.len() / 2]);
    }
    Ok(())
}
