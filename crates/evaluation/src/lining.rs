//! `evaluation lines`: bright lines on cans and bottles, what is told to give them written out for another renderer to draw.

use crate::Failure;
use lightset::kit::catalogue;
use lightset::line::{LineWanted, body, line};
use lightset::set::{LightSet, Source};
use serde_json::json;
use std::path::PathBuf;

#[derive(clap::Args)]
pub(crate) struct Options {
    /// Write the sets here, for tests/fixtures/draw_lines.py to draw and measure.
    #[arg(long)]
    out: Option<PathBuf>,
    /// How many lines.
    #[arg(long, default_value_t = 20)]
    count: u32,
}

/// A number between two, the same each time.
fn between(seed: &mut u32, lo: f64, hi: f64) -> f64 {
    // Numerical Recipes' linear congruential generator (Press et al. 1992)
    *seed = seed.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
    lo + (hi - lo) * f64::from(*seed >> 8) / f64::from(1u32 << 24)
}

pub(crate) fn run(o: &Options) -> Result<(), Failure> {
    let mut seed = 20_261_129;
    let mut cases = Vec::new();
    let (mut asked, mut whole) = (0, 0);
    while asked < o.count {
        let mut n = |lo: f64, hi: f64| between(&mut seed, lo, hi);
        let kind = if n(0.0, 1.0) < 0.5 { "can" } else { "bottle" };
        let side = if n(0.0, 1.0) < 0.5 { -1.0 } else { 1.0 };
        let (middle, wide) = (side * n(0.45, 0.85), n(0.05, 0.2));
        let lens = [n(-0.3, 0.3), n(0.0, 0.25), n(1.2, 2.4)];
        // on the body: a bottle narrows over a fifth of its half height
        let (bottom, top) = (n(-0.85, -0.3), n(0.02, if kind == "can" { 0.75 } else { 0.18 }));
        let whole_set = json!({"format": "slant-set/1", "subjects": [{"kind": kind}],
            "camera": {"position_m": lens, "vfov_deg": 8, "exposure": {"f_number": 11, "shutter_s": 0.008, "iso": 100}}});
        let set = LightSet::from_value(whole_set).map_err(Failure::Input)?.set;
        let wanted = LineWanted { subject: 0, from: middle - wide / 2.0, to: middle + wide / 2.0, bottom, top };
        let plan = line(&set, &wanted, catalogue()).map_err(Failure::Input)?;
        asked += 1;
        let give = |w: &&lightset::line::LineWay| {
            w.gives_it && w.light.as_ref().is_none_or(|l| matches!(l.source, Source::Rectangle { .. }))
        };
        let ways: Vec<_> = plan.ways.iter().filter(give).collect();
        println!(
            "{kind} {:+.2} to {:+.2}: {} of {} ways give it; best {}",
            wanted.from,
            wanted.to,
            plan.ways.iter().filter(|w| w.gives_it).count(),
            plan.ways.len(),
            plan.ways.first().map_or("none", |w| w.name.as_str())
        );
        let Some(way) = ways.first() else { continue };
        whole += 1;
        let (at, aim, size) = match (&way.light, &way.board) {
            (Some(l), _) => (l.position_m.unwrap_or_default(), l.aim_m, l.source.face_m()),
            (_, Some(b)) => (b.position_m, b.aim_m, [b.width_m, b.height_m]),
            _ => continue,
        };
        let Some((radius, half)) = body(&set.subjects[0]) else { continue };
        cases.push(json!({"kind": kind, "radius_m": radius, "bottom_m": bottom * half, "top_m": top * half, "lens_m": lens, "wanted": wanted, "name": way.name,
            "at_m": at, "aim_m": aim, "size_m": size}));
    }
    println!("{whole} of {asked} lines have something upright in the catalogue that gives them whole");
    if let Some(path) = &o.out {
        let text = serde_json::to_string_pretty(&cases).map_err(anyhow::Error::from)?;
        std::fs::write(path, text + "\n").map_err(anyhow::Error::from)?;
    }
    Ok(())
}
