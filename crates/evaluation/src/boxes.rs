//! `evaluation boxes`: reads boxes on a table whose lights are known, and prints how far the readings are off.

use crate::Failure;
use crate::marks::{Case, Row, TrueLight, beside, jitter, pictures_in};
use clap::Args;
use evidence::marks::Marks;
use optics::geometry::{AzEl, Vec3, angle_between};
use serde::Deserialize;
use std::path::PathBuf;

/// What to read.
#[derive(Debug, Args)]
pub(crate) struct Options {
    /// Folder of PNG pictures, each with a JSON file of the truth (tests/fixtures/make_boxes.py).
    #[arg(default_value = "tests/fixtures/boxes")]
    folder: PathBuf,
    /// Print every reading, not only the table.
    #[arg(long)]
    verbose: bool,
    /// Move every mark by this many pixels of a picture 640 wide.
    #[arg(long, default_value_t = 0.0)]
    jitter: f64,
    /// Say the camera's angle of view.
    #[arg(long)]
    lens: bool,
}

#[derive(Deserialize)]
struct Truth {
    lights: Vec<TrueLight>,
    vfov_deg: f64,
    printed: bool,
    /// outward normals of the sides opposite the edges, camera frame
    normals: [[f64; 3]; 3],
}

impl Truth {
    /// Where all lights together come from.
    fn sum(&self) -> Vec3 {
        let one = |l: &TrueLight| {
            AzEl { azimuth_deg: l.azimuth_deg, elevation_deg: l.elevation_deg }.vector() * l.level_stops.exp2()
        };
        self.lights.iter().map(one).sum::<Vec3>().normalize()
    }
}

pub(crate) fn run(o: &Options) -> Result<(), Failure> {
    let files = pictures_in(&o.folder)?;
    let (mut together, mut plain, mut key) = (Row::default(), Row::default(), Row::default());
    let mut turn: Vec<f64> = Vec::new();
    let mut told = 0;
    for file in &files {
        let case: Case<Truth> = beside(file)?;
        let t = &case.truth;
        let picture = crate::files::load_picture(file)?;
        let mut marks = Marks::from_value(case.marks).map_err(Failure::Input)?;
        if o.lens {
            marks.camera.get_or_insert_default().vfov_deg = Some(t.vfov_deg);
        }
        jitter(&mut marks, o.jitter, file, picture.photo.width());
        let r = session::PictureRead::of(&picture.photo, Some(&picture.meter), marks).readings;
        let sides = r.by_mark.get("box-1").map(|m| m.sides.as_slice()).unwrap_or_default();
        let mut line = String::new();
        for (s, n) in sides.iter().zip(t.normals) {
            let faces = AzEl { azimuth_deg: s.azimuth_deg, elevation_deg: s.elevation_deg }.vector();
            turn.push(angle_between(&faces, &Vec3::from(n)).to_degrees());
        }
        if let (Some(first), Some(want)) = (r.lights.first(), t.lights.first()) {
            told += 1;
            let off = angle_between(&first.at().vector(), &t.sum()).to_degrees();
            together.add(off, first.direction_sd_deg);
            if !t.printed {
                plain.add(off, first.direction_sd_deg);
            }
            key.add(want.off(first), first.direction_sd_deg);
            line += &format!(
                "all light {off:.1} deg (±{:.1}), the key {:.1}{}",
                first.direction_sd_deg,
                want.off(first),
                if t.printed { ", printed" } else { "" }
            );
        } else {
            line += "not told";
        }
        if o.verbose {
            println!("{}: {line}", file.file_stem().unwrap_or_default().to_string_lossy());
        }
    }
    println!("{} pictures, a light told in {told}", files.len());
    turn.sort_by(f64::total_cmp);
    if let (Some(mid), Some(worst)) = (turn.get(turn.len() / 2), turn.last()) {
        println!("where a side faces: off by {mid:.1} degrees in the median, {worst:.1} at most");
    }
    println!();
    println!("| reading | n | median error | 90 % | worst | unit | median stated sd | within 2 sd |");
    println!("|---|---|---|---|---|---|---|---|");
    together.print("all light together", "deg");
    plain.print("the same, boxes without print", "deg");
    key.print("the key", "deg");
    Ok(())
}
