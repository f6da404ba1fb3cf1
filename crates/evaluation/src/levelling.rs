//! `evaluation level`: pictures of other renderers, whose camera was level, turned by known angles; what the level line says.

use crate::Failure;
use crate::files::{files_in, load_picture};
use optics::photo::{Photo, Samples};
use optics::tone::Encoding;
use series::{Crop, cut};
use std::path::PathBuf;

#[derive(clap::Args)]
pub(crate) struct Options {
    /// Folders with pictures of a level camera.
    #[arg(default_values = ["tests/fixtures/bottles", "tests/fixtures/cans", "tests/fixtures/series"])]
    folders: Vec<PathBuf>,
    /// Every picture.
    #[arg(long)]
    verbose: bool,
}

/// Angles by which pictures are turned, clockwise positive, degrees.
const TURNS: [f64; 7] = [-5.0, -2.5, -1.2, 0.0, 0.8, 2.0, 4.0];

/// Turned clockwise about its middle and cut to what is whole.
fn turned(p: &Photo, deg: f64) -> Result<Photo, String> {
    let (w, h) = (f64::from(p.width()), f64::from(p.height()));
    // what is cut away on either side is what the corners swing through
    let s = deg.to_radians().sin().abs();
    let [width, height] = [w - 2.0 * (h / 2.0 * s + 2.0).ceil(), h - 2.0 * (w / 2.0 * s + 2.0).ceil()];
    let crop = Crop { middle: [w / 2.0, h / 2.0], width, height, turn_deg: -deg, beyond: 0.0 };
    let [width, height] = [width, height].map(|v| v as u32);
    Photo::new(width, height, Samples::U8(cut(p, &crop, width, height)), &Encoding::Srgb)
}

/// How turned pictures came out.
#[derive(Default)]
struct Tally {
    pictures: usize,
    told: usize,
    sure: usize,
    errors: Vec<f64>,
    within: usize,
}

pub(crate) fn run(o: &Options) -> Result<(), Failure> {
    let mut t = Tally::default();
    for folder in &o.folders {
        let files = [files_in(folder, "jpg")?, files_in(folder, "png")?].concat();
        for file in files {
            let whole = load_picture(&file)?.photo;
            for deg in TURNS {
                let photo = turned(&whole, deg).map_err(Failure::Input)?;
                let r = evidence::read::read(&photo, &evidence::marks::Marks::default(), None, &|| &[]);
                t.pictures += 1;
                let Some(l) = r.straight.and_then(|s| s.level) else { continue };
                t.told += 1;
                if l.tilt_sd_deg > SURE_DEG {
                    continue;
                }
                let off = (l.tilt_deg - deg).abs();
                t.sure += 1;
                t.within += usize::from(off <= 2.0 * l.tilt_sd_deg + 0.1);
                t.errors.push(off);
                if o.verbose {
                    println!("{} turned {deg}: {} ± {}", file.display(), l.tilt_deg, l.tilt_sd_deg);
                }
            }
        }
    }
    t.errors.sort_by(f64::total_cmp);
    let at = |share: f64| {
        t.errors.get(((t.errors.len() as f64 - 1.0) * share).round() as usize).copied().unwrap_or(f64::NAN)
    };
    println!("{} pictures, a level line in {}, told to {SURE_DEG} degree in {}", t.pictures, t.told, t.sure);
    println!("of these: off by {:.2} degrees in the median, {:.2} at 90 %, {:.2} at most", at(0.5), at(0.9), at(1.0));
    println!("within two spreads {:.0} %", 100.0 * t.within as f64 / t.sure.max(1) as f64);
    Ok(())
}

/// A level line with a wider spread decides nothing.
const SURE_DEG: f64 = 0.5;
