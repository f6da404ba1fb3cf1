//! `evaluation meter`: meters sets with boards, walls and cutters, and prints how far that is from what another renderer metered.

use crate::Failure;
use clap::Args;
use lightset::set::{BoardFinish, LightSet};
use optics::geometry::Vec3;
use serde::Deserialize;
use std::path::PathBuf;
use std::time::Instant;

/// What to meter.
#[derive(Debug, Args)]
pub(crate) struct Options {
    /// File of sets with places, one per line (tests/fixtures/make_meter_sets.py).
    #[arg(default_value = "tests/fixtures/meter/sets.jsonl")]
    file: PathBuf,
    /// Print every place, not only the table.
    #[arg(long)]
    verbose: bool,
    /// Solve the first white board of each set for a ratio instead, and write the sets for the other renderer to meter
    /// (make_meter_sets.py --ratios FILE).
    #[arg(long)]
    solve: Option<PathBuf>,
}

#[derive(Deserialize)]
struct Metered {
    set: serde_json::Value,
    places: Vec<Place>,
    /// what is left of the light along a line up through a band
    #[serde(default)]
    profile: Option<Profile>,
}

#[derive(Deserialize)]
struct Profile {
    up_m: Vec<f64>,
    share: Vec<f64>,
}

/// How far a band may be off, as a share.
const BAND_WANTED: f64 = 0.1;
/// Part of its whole edge from a quarter to three quarters of the light, for a rectangle (it is linear) and for a disc (by its chords).
const QUARTERS: [f64; 2] = [0.5, 0.404];

impl Profile {
    /// Where the share crosses a value, from the middle outwards.
    fn crosses(&self, share: f64, up: bool) -> Option<f64> {
        let mut side: Vec<(f64, f64)> = self.up_m.iter().copied().zip(self.share.iter().copied()).collect();
        side.retain(|(y, _)| if up { *y >= 0.0 } else { *y <= 0.0 });
        if !up {
            side.reverse();
        }
        let pair = side.windows(2).find(|w| w[0].1 >= share && w[1].1 < share)?;
        let t = (pair[0].1 - share) / (pair[0].1 - pair[1].1);
        Some(pair[0].0 + t * (pair[1].0 - pair[0].0))
    }

    /// Height of the band where the light is half, and the whole width of its edges, metres.
    fn band(&self, is_disc: bool) -> Option<[f64; 2]> {
        let at = |share: f64, up: bool| self.crosses(share, up);
        let height = at(0.5, true)? - at(0.5, false)?;
        let edge = |up: bool| Some((at(0.25, up)? - at(0.75, up)?).abs());
        Some([height, (edge(true)? + edge(false)?) / 2.0 / QUARTERS[usize::from(is_disc)]])
    }
}

#[derive(Deserialize)]
struct Place {
    name: String,
    at_m: [f64; 3],
    facing: [f64; 3],
    /// exposure over the one the settings are right for
    light: f64,
}

/// Stops that are wanted.
const WANTED: f64 = 0.15;

/// Sets whose board is solved, and how far apart the ratios are that a board is put at to choose what is wanted.
const SOLVED: usize = 20;
const BETWEEN_M: [f64; 2] = [0.5, 1.3];

/// Puts the first white board of a set where it gives a ratio between what it gives near and far; the set and the ratio.
fn solved(set: &LightSet) -> Result<Option<(LightSet, f64)>, Failure> {
    let Some(i) = set.boards.iter().position(|b| b.finish == BoardFinish::White) else { return Ok(None) };
    let at = |d: f64| {
        let mut s = set.clone();
        s.boards[i].position_m = (Vec3::from(s.boards[i].position_m).normalize() * d).into();
        studio::key_to_fill(&s).map_err(Failure::Input)
    };
    let (Some(near), Some(far)) = (at(BETWEEN_M[0])?, at(BETWEEN_M[1])?) else { return Ok(None) };
    let wanted = (near * far).sqrt();
    let ways = adviser::boards_for(set, i, wanted, &[]).map_err(Failure::Input)?;
    let Some(way) = ways.into_iter().find(|w| w.gives_it && w.board.finish == BoardFinish::White) else {
        return Ok(None);
    };
    let mut s = set.clone();
    s.boards[i] = way.board;
    Ok(Some((s, wanted)))
}

pub(crate) fn run(o: &Options) -> Result<(), Failure> {
    let text = std::fs::read_to_string(&o.file).map_err(|e| Failure::Input(format!("{}: {e}", o.file.display())))?;
    let mut all: Vec<f64> = Vec::new();
    let mut bands: [Vec<f64>; 2] = [Vec::new(), Vec::new()];
    let (mut plain, mut whole, mut times, mut dragged) = (Vec::new(), 0, Vec::new(), Vec::new());
    let lines: Vec<&str> = text.lines().filter(|l| !l.trim().is_empty()).collect();
    if let Some(out) = &o.solve {
        let mut written = String::new();
        for line in &lines {
            let m: Metered = serde_json::from_str(line).map_err(|e| Failure::Input(e.to_string()))?;
            let set = LightSet::from_value(m.set).map_err(Failure::Input)?.set;
            if let Some((set, wanted)) = solved(&set)?
                && written.lines().count() < SOLVED
            {
                written += &serde_json::json!({ "set": set, "key_to_fill": wanted }).to_string();
                written.push('\n');
            }
        }
        println!("{} sets with a solved board", written.lines().count());
        return std::fs::write(out, written).map_err(|e| Failure::Input(format!("{}: {e}", out.display())));
    }
    for (i, line) in lines.iter().enumerate() {
        let m: Metered = serde_json::from_str(line).map_err(|e| Failure::Input(format!("line {}: {e}", i + 1)))?;
        let set = LightSet::from_value(m.set).map_err(Failure::Input)?.set;
        let places: Vec<(Vec3, Vec3)> = m.places.iter().map(|p| (p.at_m.into(), p.facing.into())).collect();
        let start = Instant::now();
        let got = studio::flat_at(&set, &places).map_err(Failure::Input)?;
        times.push(1000.0 * start.elapsed().as_secs_f64());
        let start = Instant::now();
        studio::metered(&set).map_err(Failure::Input)?;
        dragged.push(1000.0 * start.elapsed().as_secs_f64());
        // what a meter that counts lamps only would show
        let bare = LightSet { boards: Vec::new(), walls: Vec::new(), flags: Vec::new(), ..set.clone() };
        let lamps = studio::flat_at(&bare, &places).map_err(Failure::Input)?;
        let mut worst = 0.0f64;
        for ((p, g), l) in m.places.iter().zip(&got).zip(&lamps) {
            let off = (g.max(1e-6) / p.light.max(1e-6)).log2();
            plain.push((l.max(1e-6) / p.light.max(1e-6)).log2().abs());
            worst = worst.max(off.abs());
            all.push(off.abs());
            if o.verbose {
                println!("set {i}: {}: {:.2} stops, {off:+.2} off", p.name, p.light.log2());
            }
        }
        whole += usize::from(worst <= WANTED);
        let is_disc = set.lights.first().is_some_and(|l| matches!(l.source, lightset::set::Source::Disc { .. }));
        if let Some(found) = m.profile.as_ref().and_then(|p| p.band(is_disc)) {
            let meter = studio::meter(&set).map_err(Failure::Input)?;
            let told = meter.flags.first().ok_or_else(|| Failure::Input(format!("line {}: no band is told", i + 1)))?;
            for ((told, found), off) in [told.band.height_m, told.band.edge_m].into_iter().zip(found).zip(&mut bands) {
                off.push((told / found - 1.0).abs());
            }
            if o.verbose {
                println!(
                    "set {i}: band {:.1} mm told, {:.1} found; edges {:.1}, {:.1}",
                    1e3 * told.band.height_m,
                    1e3 * found[0],
                    1e3 * told.band.edge_m,
                    1e3 * found[1]
                );
            }
        }
    }
    let part = |list: &mut Vec<f64>, q: f64| {
        list.sort_by(f64::total_cmp);
        list.get(((list.len() as f64 * q) as usize).min(list.len().saturating_sub(1))).copied().unwrap_or(f64::NAN)
    };
    let within = all.iter().filter(|o| **o <= WANTED).count();
    println!("| meter in {} sets, {} places | median | 90 % | worst | within {WANTED} stop |", lines.len(), all.len());
    println!("|---|---|---|---|---|");
    println!(
        "| all light | {:.2} stop | {:.2} | {:.2} | {within} of {}, all places of {whole} sets |",
        part(&mut all, 0.5),
        part(&mut all, 0.9),
        part(&mut all, 1.0),
        all.len()
    );
    println!(
        "| lamps alone, for comparison | {:.2} stop | {:.2} | {:.2} | |",
        part(&mut plain, 0.5),
        part(&mut plain, 0.9),
        part(&mut plain, 1.0)
    );
    if !bands[0].is_empty() {
        println!("\n| bands of slits and blinds | sets | median | worst | within {:.0} % |", 100.0 * BAND_WANTED);
        println!("|---|---|---|---|---|");
        for (what, off) in ["height", "edges"].into_iter().zip(&mut bands) {
            let within = off.iter().filter(|o| **o <= BAND_WANTED).count();
            let (median, worst, n) = (100.0 * part(off, 0.5), 100.0 * part(off, 1.0), off.len());
            println!("| {what} | {n} | {median:.1} % | {worst:.1} % | {within} |");
        }
    }
    println!(
        "\nTen places of a set in {:.0} ms (median), {:.0} ms (90 %); all that Rebuild shows of a set while a light is dragged in \
         {:.0} ms, {:.0} ms.",
        part(&mut times, 0.5),
        part(&mut times, 0.9),
        part(&mut dragged, 0.5),
        part(&mut dragged, 0.9)
    );
    Ok(())
}
