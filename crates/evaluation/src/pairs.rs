//! `evaluation match`: pairs of pictures with one known change.

use crate::Failure;
use crate::files::load_picture;
use evidence::marks::Marks;
use judging::compare::Comparison;
use judging::terms::MoveKind;
use lightset::set::LightSet;
use optics::photo::Photo;
use serde::Deserialize;
use session::{PictureRead, laid_over};
use std::path::{Path, PathBuf};

/// A picture of a check set, read.
pub(crate) fn loaded(photo: &Photo, marks: Marks) -> PictureRead {
    PictureRead::of(photo, None, marks)
}

/// Compares a take with its reference.
pub(crate) fn compared(a: &PictureRead, b: &PictureRead) -> Comparison {
    session::compared(a, b, &|| laid_over(&a.photo, &b.photo))
}

#[derive(Deserialize)]
struct Change {
    kind: MoveKind,
    light: Option<String>,
    amount: f64,
}

/// Whether an amount is told well enough: 20 per cent, 4 degrees or 0.15 stop.
fn near(c: &Change, told: f64) -> bool {
    match c.kind {
        // 20 per cent, or six mired: what a filter's maker allows himself (common practice)
        MoveKind::WhiteBalance => (told + c.amount).abs() <= (0.2 * c.amount.abs()).max(6.0),
        MoveKind::Direction => (told - c.amount.abs()).abs() <= (0.2 * c.amount.abs()).max(4.0),
        MoveKind::Size => (told * c.amount).ln().abs() <= 0.2f64.ln_1p(),
        _ => (told + c.amount).abs() <= (0.2 * c.amount.abs()).max(0.15),
    }
}

/// Reads pairs `NAME.ref.json` and `NAME.take.json`, each with its PNG, and prints whether the change is named first.
pub(crate) fn run(folder: &Path) -> Result<(), Failure> {
    let mut files: Vec<_> = std::fs::read_dir(folder)
        .map_err(|e| Failure::Input(format!("{}: {e}", folder.display())))?
        .filter_map(|f| f.ok().map(|f| f.path()))
        .filter(|p| p.to_string_lossy().ends_with(".take.json") && p.with_extension("png").exists())
        .collect();
    files.sort();
    let probes = |path: &Path| -> Result<(PictureRead, serde_json::Value), Failure> {
        let text = std::fs::read_to_string(path).map_err(|e| Failure::Input(format!("{}: {e}", path.display())))?;
        let v: serde_json::Value =
            serde_json::from_str(&text).map_err(|e| Failure::Input(format!("{}: {e}", path.display())))?;
        let wrong = |e: String| Failure::Input(format!("{}: {e}", path.display()));
        // portraits bring their marks, sets are marked by the studio
        let marks = match v.get("marks") {
            Some(m) => Marks::from_value(m.clone()).map_err(wrong)?,
            None => studio::marks(&LightSet::from_value(v.clone()).map_err(wrong)?.set),
        };
        Ok((loaded(&load_picture(&path.with_extension("png"))?.photo, marks), v))
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
            "| {name} | {:?} {:+.2} | {} | {} | {} |",
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
