//! `slantcast match`: a take against its reference, and the table of pairs with one known change.

use crate::Failure;
use crate::read::{load_picture, prepare};
use light::compare::{Comparison, Pictured, align, compare};
use light::marks::Marks;
use light::photo::Photo;
use light::readings::Readings;
use light::set::LightSet;
use serde::Deserialize;
use std::path::{Path, PathBuf};

#[derive(clap::Args)]
pub(crate) struct Options {
    /// The reference.
    reference: PathBuf,
    /// The take.
    take: PathBuf,
    /// Marks of the reference (slant-marks/1).
    #[arg(long)]
    marks: PathBuf,
    /// Marks of the take; without them the reference's are laid over it by what both pictures show.
    #[arg(long)]
    marks_take: Option<PathBuf>,
    /// Write here instead of standard output.
    #[arg(long)]
    out: Option<PathBuf>,
}

pub(crate) struct Loaded {
    photo: Photo,
    marks: Marks,
    readings: Readings,
}

impl Loaded {
    pub(crate) fn of(photo: Photo, marks: Marks) -> Loaded {
        let readings = light::read::read(&photo, &marks, None, &studio::stand_ins);
        Loaded { photo, marks, readings }
    }

    fn pictured(&self) -> Pictured<'_> {
        Pictured { photo: &self.photo, marks: &self.marks, readings: &self.readings }
    }
}

/// Compares a take with its reference.
pub(crate) fn compared(a: &Loaded, b: &Loaded) -> Comparison {
    compare(a.pictured(), b.pictured(), &|| align(&a.photo, &b.photo), &studio::stand_ins)
}

fn load(image: &Path, marks: &Path) -> Result<Loaded, Failure> {
    let text = std::fs::read_to_string(marks).map_err(|e| Failure::Input(format!("{}: {e}", marks.display())))?;
    let mut parsed = Marks::parse(&text).map_err(|e| Failure::Input(format!("{}: {e}", marks.display())))?;
    let decoded = load_picture(image)?;
    prepare(&decoded.facts, &mut parsed);
    Ok(Loaded::of(decoded.photo, parsed))
}

pub(crate) fn run(o: &Options) -> Result<(), Failure> {
    let a = load(&o.reference, &o.marks)?;
    let b = match &o.marks_take {
        Some(marks) => load(&o.take, marks)?,
        None => {
            let decoded = load_picture(&o.take)?;
            let lies = align(&a.photo, &decoded.photo)
                .map_err(|e| Failure::Input(format!("{}: {e} Give its marks with --marks-take.", o.take.display())))?;
            let mut marks = lies.carry(&a.marks);
            prepare(&decoded.facts, &mut marks);
            Loaded::of(decoded.photo, marks)
        }
    };
    let mut json = serde_json::to_string_pretty(&compared(&a, &b)).map_err(anyhow::Error::from)?;
    json.push('\n');
    match &o.out {
        Some(path) => std::fs::write(path, json).map_err(|e| anyhow::anyhow!("{}: {e}", path.display()))?,
        None => print!("{json}"),
    }
    Ok(())
}

#[derive(Deserialize)]
struct Change {
    kind: String,
    light: Option<String>,
    amount: f64,
}

/// Whether an amount is told well enough: 20 per cent, 4 degrees or 0.15 stop.
fn near(c: &Change, told: f64) -> bool {
    match c.kind.as_str() {
        // 20 per cent, or six mired: what a filter's maker allows himself (common practice)
        "white_balance" => (told + c.amount).abs() <= (0.2 * c.amount.abs()).max(6.0),
        "direction" => (told - c.amount.abs()).abs() <= (0.2 * c.amount.abs()).max(4.0),
        "size" => (told * c.amount).ln().abs() <= 0.2f64.ln_1p(),
        _ => (told + c.amount).abs() <= (0.2 * c.amount.abs()).max(0.15),
    }
}

/// Reads pairs `NAME.ref.json` and `NAME.take.json`, each with its PNG, and prints whether the change is named first.
pub(crate) fn eval(folder: &Path) -> Result<(), Failure> {
    let mut files: Vec<_> = std::fs::read_dir(folder)
        .map_err(|e| Failure::Input(format!("{}: {e}", folder.display())))?
        .filter_map(|f| f.ok().map(|f| f.path()))
        .filter(|p| p.to_string_lossy().ends_with(".take.json") && p.with_extension("png").exists())
        .collect();
    files.sort();
    let probes = |path: &Path| -> Result<(Loaded, serde_json::Value), Failure> {
        let text = std::fs::read_to_string(path).map_err(|e| Failure::Input(format!("{}: {e}", path.display())))?;
        let v: serde_json::Value =
            serde_json::from_str(&text).map_err(|e| Failure::Input(format!("{}: {e}", path.display())))?;
        let wrong = |e: String| Failure::Input(format!("{}: {e}", path.display()));
        // portraits bring their marks, sets are marked by the studio
        let marks = match v.get("marks") {
            Some(m) => Marks::from_value(m.clone()).map_err(wrong)?,
            None => studio::marks(&LightSet::from_value(v.clone()).map_err(wrong)?.set),
        };
        Ok((Loaded::of(load_picture(&path.with_extension("png"))?.photo, marks), v))
    };
    println!("| pair | changed | named first | amount told | right |");
    println!("|---|---|---|---|---|");
    let (mut n, mut named, mut told) = (0, 0, 0);
    for take in files {
        let reference = PathBuf::from(take.to_string_lossy().replace(".take.json", ".ref.json"));
        let ((a, _), (b, v)) = (probes(&reference)?, probes(&take)?);
        let c: Change = serde_json::from_value(v["change"].clone())
            .map_err(|e| Failure::Input(format!("{}: change: {e}", take.display())))?;
        let found: Comparison = compared(&a, &b);
        let first = found.next_moves.first();
        let right = first.is_some_and(|m| m.kind == c.kind && (c.light.is_none() || m.light == c.light));
        let amount = first.filter(|_| right).is_some_and(|m| near(&c, m.amount));
        n += 1;
        named += usize::from(right);
        told += usize::from(amount);
        let name = take.file_name().unwrap_or_default().to_string_lossy().replace(".take.json", "");
        println!(
            "| {name} | {} {:+.2} | {} | {} | {} |",
            c.kind,
            c.amount,
            first.map_or("nothing".into(), |m| m.says.clone()),
            first.map_or("-".into(), |m| format!("{:+.2} {}", m.amount, m.unit)),
            if amount {
                "yes"
            } else if right {
                "named"
            } else {
                "no"
            }
        );
    }
    println!();
    println!("{named} of {n} changes are named first, {told} with their amount.");
    Ok(())
}
