//! `evaluation rooms`: reads balls lit by whole rooms, and prints how far the readings are off.

use crate::Failure;
use crate::marks::{Case, Row, TrueLight, beside, jitter, pictures_in};
use clap::Args;
use evidence::marks::{Finish, MarkKind, Marks};
use optics::geometry::{AzEl, angle_between};
use serde::Deserialize;
use std::path::PathBuf;

/// What to read.
#[derive(Debug, Args)]
pub(crate) struct Options {
    /// Folder of PNG pictures, each with a JSON file of marks and truth.
    #[arg(default_value = "tests/fixtures/rooms")]
    folder: PathBuf,
    /// Print every reading, not only the table.
    #[arg(long)]
    verbose: bool,
    /// Move every mark by this many pixels of a picture 640 wide.
    #[arg(long, default_value_t = 0.0)]
    jitter: f64,
    /// Read this ball only.
    #[arg(long, value_enum)]
    only: Option<Only>,
}

/// One ball of the two.
#[derive(Debug, Clone, Copy, PartialEq, Eq, clap::ValueEnum)]
enum Only {
    Matte,
    Mirror,
}

#[derive(Deserialize)]
struct Truth {
    lights: Vec<TrueLight>,
    /// whether the first gives a third of the light and is not equalled
    leads: bool,
    /// azimuth and elevation of the mean light, degrees
    mean: [f64; 2],
    directional: f64,
}

/// Two lights within this angle are one and the same.
const SAME_DEG: f64 = 25.0;

pub(crate) fn run(o: &Options) -> Result<(), Failure> {
    let files = pictures_in(&o.folder)?;
    let (mut key, mut size, mut level, mut mean, mut directional) =
        (Row::default(), Row::default(), Row::default(), Row::default(), Row::default());
    let mut sizes_held = 0;
    let (mut leading, mut named, mut led_wrongly) = (0, 0, 0);
    let (mut others, mut found, mut invented) = (0, 0, 0);
    let mut times = Vec::new();
    for file in &files {
        let case: Case<Truth> = beside(file)?;
        let picture = crate::files::load_picture(file)?;
        let mut marks = Marks::from_value(case.marks).map_err(Failure::Input)?;
        if let Some(only) = o.only {
            let kept = if only == Only::Matte { Finish::Matte } else { Finish::Mirror };
            marks.marks.retain(|m| matches!(&m.kind, MarkKind::Ball(b) if b.finish == kept));
        }
        jitter(&mut marks, o.jitter, file, picture.photo.width());
        picture.fill_in(&mut marks);
        let told = session::told(&marks, &picture.facts, None);
        let begun = std::time::Instant::now();
        let r = session::PictureRead::of(&picture.photo, Some(&picture.meter), told).readings;
        times.push(begun.elapsed().as_secs_f64() * 1000.0);
        let t = &case.truth;
        let mut line = String::new();
        if let Some(room) = &r.room {
            let at = AzEl { azimuth_deg: t.mean[0], elevation_deg: t.mean[1] }.vector();
            let says = AzEl { azimuth_deg: room.azimuth_deg, elevation_deg: room.elevation_deg }.vector();
            let off = angle_between(&at, &says).to_degrees();
            // of light from nearly all around the mean has no direction to speak of
            if t.directional > 0.1 {
                mean.add(off, room.direction_sd_deg);
            }
            directional.add((room.directional - t.directional).abs(), room.directional_sd);
            line +=
                &format!("  mean {off:.1}° d {:.2}/{:.2} share {:.2}", room.directional, t.directional, room.key_share);
            line += &room.misfit_percent.map_or(String::new(), |m| format!(" misfit {m:.1} %"));
        }
        let mut free: Vec<bool> = vec![true; r.lights.len()];
        if t.leads {
            leading += 1;
            if let (Some(first), Some(want)) = (r.lights.first(), t.lights.first()) {
                named += 1;
                let off = want.off(first);
                key.add(off, first.direction_sd_deg);
                line += &format!(
                    "  key {off:.1}° (±{:.1}) {:.0}/{:.0} for {:.0}/{:.0}",
                    first.direction_sd_deg,
                    first.azimuth_deg,
                    first.elevation_deg,
                    want.azimuth_deg,
                    want.elevation_deg
                );
                if let (Some(a), Some([low, high])) = (first.angular_size_deg, first.angular_size_range_deg)
                    && off < SAME_DEG
                {
                    let held = (low..=high).contains(&want.angular_size_deg);
                    size.add((a / want.angular_size_deg).log2().abs(), 0.5 * (high / low).log2());
                    sizes_held += usize::from(held);
                    line += &format!(
                        " o{a:.0} ({low:.0}-{high:.0})/{:.0} {}",
                        want.angular_size_deg,
                        if held { "" } else { "NOT HELD" }
                    );
                }
            } else {
                line += "  NO KEY";
            }
        } else {
            led_wrongly += usize::from(!r.lights.is_empty());
            line += if r.lights.is_empty() { "  none leads" } else { "  LED WRONGLY" };
        }
        for (k, want) in t.lights.iter().enumerate() {
            if k > 0 {
                others += 1;
            }
            let near = (0..free.len())
                .filter(|i| free[*i])
                .min_by(|a, b| want.off(&r.lights[*a]).total_cmp(&want.off(&r.lights[*b])));
            if let Some(i) = near.filter(|i| want.off(&r.lights[*i]) < SAME_DEG) {
                free[i] = false;
                if k > 0 {
                    found += 1;
                    if let (Some(v), Some(sd)) = (r.lights[i].level_stops, r.lights[i].level_sd_stops) {
                        level.add((v - want.level_stops).abs(), sd);
                    }
                }
            }
        }
        let more = free.iter().filter(|f| **f).count();
        invented += more;
        if more > 0 {
            line += &format!("  INVENTED {more}: {}", r.slant);
        }
        if o.verbose {
            println!("{}{line}", file.file_stem().unwrap_or_default().to_string_lossy());
        }
    }
    times.sort_by(f64::total_cmp);
    println!(
        "{} pictures; marks moved by {} px; reading takes {:.0} ms, 95 % under {:.0} ms",
        files.len(),
        o.jitter,
        times.get(times.len() / 2).copied().unwrap_or(0.0),
        times.get((times.len().max(1) - 1) * 95 / 100).copied().unwrap_or(0.0)
    );
    println!();
    println!("| reading | n | median error | 90 % | worst | unit | median stated sd | within 2 sd |");
    println!("|---|---|---|---|---|---|---|---|");
    key.print("key direction, where one leads", "deg");
    size.print("key size", "doublings");
    level.print("level of other lights", "stop");
    mean.print("direction of the mean light", "deg");
    directional.print("how directional", "of 1");
    println!();
    println!(
        "| a light leads | a key named | its range of sizes holds | where none leads | a key named all the same | other lights | found | invented |"
    );
    println!("|---|---|---|---|---|---|---|---|");
    println!(
        "| {leading} | {named} | {sizes_held} | {} | {led_wrongly} | {others} | {found} | {invented} |",
        files.len() - leading
    );
    Ok(())
}
