//! How good the readings, sets and advice are: tables over pictures whose truth is known. Not part of the product.

mod agreeing;
mod bottles;
mod boxes;
mod cans;
mod criticising;
mod files;
mod finding;
mod glowing;
mod levelling;
mod lining;
mod marks;
mod metering;
mod pairs;
mod planting;
mod plating;
mod portraits;
mod rebuilding;
mod relighting;
mod rooms;
mod spoiling;
mod studio_pictures;
mod takes;
mod wishing;

use clap::{Parser, Subcommand};
use std::path::PathBuf;
use std::process::ExitCode;

/// Prints the tables of accuracy (docs/accuracy.md).
#[derive(Parser)]
#[command(name = "evaluation", version, about)]
struct Cli {
    #[command(subcommand)]
    table: Table,
}

#[derive(Subcommand)]
enum Table {
    /// Read pictures with known lights and print how far the readings are off.
    Marks {
        /// Folder of PNG pictures, each with a JSON file of marks and truth.
        #[arg(default_value = "tests/fixtures/rendered")]
        folder: PathBuf,
        /// Print every reading, not only the tables.
        #[arg(long)]
        verbose: bool,
        /// Move every mark by this many pixels in a random direction.
        #[arg(long, default_value_t = 0.0)]
        jitter: f64,
        /// Leave out which way turned eyes look.
        #[arg(long)]
        forget_gaze: bool,
    },
    /// Read faces under known lights and print how far the readings are off.
    Portraits(portraits::Options),
    /// What cards behind bottles and strips behind black things give.
    Glow(glowing::Options),
    /// Read cylinders on a table by their shading, lines and shadows, and print how far the readings are off.
    Cans(cans::Options),
    /// Read the three sides of boxes.
    Boxes(boxes::Options),
    /// Read bright lines on bottles and jars with their shoulders.
    Bottles(bottles::Options),
    /// Judge pictures with planted faults and sound ones, and carry out the change that is named first.
    Verdicts(criticising::Options),
    /// Hold series of pictures with planted faults against themselves.
    Series(agreeing::Options),
    /// Meter sets with boards, walls and cutters.
    Meter(metering::Options),
    /// Show people under other lights, against another renderer's picture of them.
    Relit(relighting::Options),
    /// Ask for bright lines on products, and write what gives them for another renderer to draw.
    Lines(lining::Options),
    /// Turn pictures of a level camera, and print how far the level line that is read is off.
    Level(levelling::Options),
    /// Solve mixes of plates whose factors are known, and find plates that were moved.
    Plates(plating::Options),
    /// Plan every look without a picture.
    Wishes(wishing::Options),
    /// Read balls lit by whole rooms and print how far the readings are off.
    Rooms(rooms::Options),
    /// Look for marks in pictures marked with care, and print how many are found.
    Find(finding::Options),
    /// Rebuild sets whose construction is known, and print where it stands among the candidates.
    Rebuild(rebuilding::Options),
    /// Compare the stand-in studio with another renderer's pictures of the same sets.
    Studio {
        /// Folder of sets (slant-set/1), each with an EXR picture.
        #[arg(default_value = "tests/fixtures/studio")]
        folder: PathBuf,
    },
    /// Compare pairs of pictures with one known change, and print whether it is named first.
    Match {
        /// Folder of pairs.
        folder: PathBuf,
    },
    /// Lay references over their takes by the picture, and print how far their marks then are off.
    Align {
        /// Folder of pairs with marks, or of any PNG pictures with `--warps`.
        folder: PathBuf,
        /// Warp each picture in a known way and find that again.
        #[arg(long)]
        warps: bool,
    },
    /// Go from deliberately wrong sets to a reference with the simulated camera, and print how many moves it takes.
    Sessions {
        /// Print every move.
        #[arg(long)]
        verbose: bool,
    },
}

/// A failure with the exit code it ends in: 2 for bad input, 1 for everything else.
pub(crate) enum Failure {
    /// The person can mend it: bad file, bad field.
    Input(String),
    /// Something else.
    Other(anyhow::Error),
}

impl From<anyhow::Error> for Failure {
    fn from(e: anyhow::Error) -> Self {
        Failure::Other(e)
    }
}

fn main() -> ExitCode {
    let result = match Cli::parse().table {
        Table::Marks { folder, verbose, jitter, forget_gaze } => marks::run(&folder, verbose, jitter, forget_gaze),
        Table::Portraits(options) => portraits::run(&options),
        Table::Boxes(options) => boxes::run(&options),
        Table::Cans(options) => cans::run(&options),
        Table::Bottles(options) => bottles::run(&options),
        Table::Verdicts(o) => criticising::run(&o),
        Table::Series(options) => agreeing::run(&options),
        Table::Meter(options) => metering::run(&options),
        Table::Relit(options) => relighting::run(&options),
        Table::Lines(options) => lining::run(&options),
        Table::Level(options) => levelling::run(&options),
        Table::Glow(options) => glowing::run(&options),
        Table::Plates(options) => plating::run(&options),
        Table::Wishes(options) => wishing::run(&options),
        Table::Rooms(options) => rooms::run(&options),
        Table::Find(options) => finding::run(&options),
        Table::Rebuild(options) => rebuilding::run(&options),
        Table::Studio { folder } => studio_pictures::run(&folder),
        Table::Match { folder } => pairs::run(&folder),
        Table::Align { folder, warps } => takes::run_align(&folder, warps),
        Table::Sessions { verbose } => takes::run_session(verbose),
    };
    match result {
        Ok(()) => ExitCode::SUCCESS,
        Err(Failure::Input(text)) => {
            eprintln!("evaluation: {text}");
            ExitCode::from(2)
        }
        Err(Failure::Other(e)) => {
            eprintln!("evaluation: {e:#}");
            ExitCode::FAILURE
        }
    }
}
