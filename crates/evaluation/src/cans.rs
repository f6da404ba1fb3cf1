//! `evaluation cans`: reads cylinders on a table whose lights are known, and prints how far the readings are off.

use crate::Failure;
use crate::marks::{Case, Row, TrueLight, beside, jitter, pictures_in};
use clap::Args;
use evidence::marks::{MarkKind, Marks};
use serde::Deserialize;
use std::path::PathBuf;

/// What to read.
#[derive(Debug, Args)]
pub(crate) struct Options {
    /// Folder of PNG pictures, each with a JSON file of the truth (tests/fixtures/make_cans.py).
    #[arg(default_value = "tests/fixtures/cans")]
    folder: PathBuf,
    /// Print every reading, not only the table.
    #[arg(long)]
    verbose: bool,
    /// Move every mark by this many pixels of a picture 640 wide.
    #[arg(long, default_value_t = 0.0)]
    jitter: f64,
    /// Leave the shadow out: the side alone.
    #[arg(long)]
    no_shadow: bool,
}

#[derive(Deserialize)]
struct Truth {
    lights: Vec<TrueLight>,
    tilt_deg: f64,
    /// azimuth of the key about the axis, degrees
    side_deg: f64,
}

pub(crate) fn run(o: &Options) -> Result<(), Failure> {
    let files = pictures_in(&o.folder)?;
    let (mut side, mut key) = (Row::default(), Row::default());
    let (mut told, mut shadows) = (0, 0);
    for file in &files {
        let case: Case<Truth> = beside(file)?;
        let t = &case.truth;
        let picture = crate::files::load_picture(file)?;
        let mut marks = Marks::from_value(case.marks).map_err(Failure::Input)?;
        marks.marks.retain(|m| !(o.no_shadow && matches!(m.kind, MarkKind::Cast(_))));
        shadows += usize::from(marks.marks.iter().any(|m| matches!(m.kind, MarkKind::Cast(_))));
        jitter(&mut marks, o.jitter, file, picture.photo.width());
        let r = session::PictureRead::of(&picture.photo, Some(&picture.meter), marks).readings;
        let mut line = format!("lens {:.0} down", t.tilt_deg);
        if let Some(s) = r.by_mark.get("cylinder-1").and_then(|m| m.shaded) {
            let off = (s.azimuth_deg - t.side_deg).abs();
            side.add(off, s.azimuth_sd_deg);
            line += &format!("  side {:.0} (±{:.0}) for {:.0}", s.azimuth_deg, s.azimuth_sd_deg, t.side_deg);
        } else {
            line += "  NO SIDE";
        }
        if let (Some(first), Some(want)) = (r.lights.first(), t.lights.first()) {
            told += 1;
            key.add(want.off(first), first.direction_sd_deg);
            line += &format!("  key {:.1} deg (±{:.1})", want.off(first), first.direction_sd_deg);
        }
        if o.verbose {
            println!("{}: {line}", file.file_stem().unwrap_or_default().to_string_lossy());
        }
    }
    println!("{} pictures, {shadows} with a shadow that ends in them: a light told in {told}", files.len());
    println!();
    println!("| reading | n | median error | 90 % | worst | unit | median stated sd | within 2 sd |");
    println!("|---|---|---|---|---|---|---|---|");
    side.print("side by the shading", "deg");
    key.print("key by shading or line and shadow", "deg");
    Ok(())
}
