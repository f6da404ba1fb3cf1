//! `evaluation wishes`: plans every look without a picture and prints what meters show in the sets against what was wished.

use crate::Failure;
use clap::Args;
use lightset::kit::{Kit, catalogue};
use planning::wish::{Wish, WishRoom, looks};
use std::path::PathBuf;
use std::time::Instant;

/// What to plan.
#[derive(Debug, Args)]
pub(crate) struct Options {
    /// With the kit a newcomer starts with, not everything there is.
    #[arg(long)]
    starter: bool,
    /// Only this look.
    #[arg(long)]
    look: Option<String>,
    /// Print what is said of every set.
    #[arg(long)]
    verbose: bool,
    /// Write each set (slant-set/1) into this folder.
    #[arg(long)]
    out: Option<PathBuf>,
}

/// Stops within which a ratio counts as given.
const NEAR: f64 = 0.2;

pub(crate) fn run(o: &Options) -> Result<(), Failure> {
    let kit = if o.starter { Kit::starter() } else { catalogue().clone() };
    println!(
        "| look | sets | key made by | key : fill wished | given, first set | exposure off | background under, wished | given | problems | seconds |"
    );
    println!("|---|---|---|---|---|---|---|---|---|---|");
    let (mut ratios, mut given, mut sets, mut clean) = (0, 0, 0, 0);
    for look in looks().iter().filter(|l| o.look.as_ref().is_none_or(|n| n == &l.id)) {
        let wish = Wish {
            look: look.id.clone(),
            mood: None,
            key_to_fill: None,
            from_right: false,
            subject: None,
            turn_deg: 0.0,
            standing: false,
            background: None,
            room: WishRoom { width_m: 6.0, depth_m: 8.0, height_m: 3.0, ..WishRoom::default() },
            exposure: None,
        };
        let start = Instant::now();
        let found = adviser::proposals(&wish, &kit).map_err(Failure::Input)?;
        let took = start.elapsed().as_secs_f64();
        for (i, p) in found.iter().enumerate() {
            sets += 1;
            clean += usize::from(p.problems.is_empty());
            let ratio = p.meter.ratio.as_ref().map(|r| r.key_to_fill);
            ratios += 1;
            given += usize::from(ratio.is_some_and(|r| (r / p.wanted_key_to_fill).log2().abs() < NEAR));
            if i == 0 {
                let text = |v: Option<f64>| v.map_or("-".into(), |v| format!("{v:.1}"));
                println!(
                    "| {} | {} | {} | {:.1} | {} | {:+.2} | {:.1} | {} | {} | {took:.1} |",
                    look.id,
                    found.len(),
                    p.lights[0].trim_start_matches("key: "),
                    p.wanted_key_to_fill,
                    text(ratio),
                    p.meter.over_stops,
                    p.wanted_under_stops,
                    text(p.meter.background.as_ref().map(|b| b.under_stops)),
                    p.problems.len(),
                );
            }
            if o.verbose {
                println!("    {}", p.title);
                p.says.iter().chain(&p.missing).for_each(|s| println!("      {s}"));
                p.problems.iter().for_each(|s| println!("      ! {s}"));
            }
            if let Some(folder) = &o.out {
                std::fs::create_dir_all(folder).map_err(|e| Failure::Input(e.to_string()))?;
                let file = folder.join(format!("{}-{}.json", look.id, i + 1));
                let text = serde_json::to_string_pretty(&p.set).map_err(|e| Failure::Input(e.to_string()))?;
                std::fs::write(&file, text).map_err(|e| Failure::Input(e.to_string()))?;
            }
        }
    }
    println!(
        "\n{sets} sets: the ratio is within {NEAR} stop of the wish in {given} of {ratios}; {clean} stand without a problem."
    );
    Ok(())
}
