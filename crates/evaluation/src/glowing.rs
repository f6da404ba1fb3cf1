//! `evaluation glow`: cards behind bottles and strips behind black things, what the bench says of them written out for another renderer to
//! draw.

use crate::Failure;
use planning::bench::{BenchQuestion, Values, answer};
use serde_json::json;
use std::path::PathBuf;

#[derive(clap::Args)]
pub(crate) struct Options {
    /// Write the cases here, for tests/fixtures/draw_glow.py to draw and measure.
    #[arg(long)]
    out: Option<PathBuf>,
}

fn told(sum: &str, values: &[(&str, f64)], name: &str) -> Result<f64, Failure> {
    let values: Values = values.iter().map(|(k, v)| ((*k).to_owned(), *v)).collect();
    let q = BenchQuestion { sum: sum.into(), values, powers: Default::default(), solve: None };
    let a = answer(&q).map_err(Failure::Input)?;
    let found = a.results.iter().find(|r| r.name.starts_with(name));
    found.map(|r| r.value).ok_or_else(|| Failure::Input(format!("{sum} tells no {name}")))
}

pub(crate) fn run(o: &Options) -> Result<(), Failure> {
    let mut cases = Vec::new();
    for (index, bottle, behind, card) in [
        (1.333, 0.07, 0.05, 0.03),
        (1.333, 0.07, 0.10, 0.08),
        (1.333, 0.10, 0.08, 0.05),
        (1.36, 0.06, 0.15, 0.12),
        (1.36, 0.08, 0.06, 0.06),
        (1.47, 0.07, 0.07, 0.10),
        (1.47, 0.05, 0.05, 0.05),
        (1.333, 0.08, 0.30, 0.16),
    ] {
        let values = [("bottle_m", bottle), ("index", index), ("behind_m", behind), ("card_m", card), ("lens_m", 3.0)];
        let share = told("glow", &values, "Glows")?;
        println!(
            "index {index}, bottle {bottle} m, card {card} m wide {behind} m behind: glows on {share:.2} of the width"
        );
        cases.push(json!({"sum": "glow", "index": index, "bottle_m": bottle, "behind_m": behind, "card_m": card, "told": share}));
    }
    for (wide, from) in [
        (0.07, 100.0),
        (0.07, 120.0),
        (0.09, 130.0),
        (0.05, 140.0),
        (0.08, 110.0),
        (0.06, 150.0),
        (0.08, 90.0),
        (0.1, 135.0),
    ] {
        let share = told("rim", &[("wide_m", wide), ("from_deg", from)], "Line, part")?;
        println!("{wide} m wide, strip from {from} degrees on: a rim of {share:.3} of the width");
        cases.push(json!({"sum": "rim", "wide_m": wide, "from_deg": from, "told": share}));
    }
    if let Some(path) = &o.out {
        let text = serde_json::to_string_pretty(&cases).map_err(anyhow::Error::from)?;
        std::fs::write(path, text + "\n").map_err(anyhow::Error::from)?;
    }
    Ok(())
}
