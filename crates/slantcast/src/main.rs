//! The slantcast binary: the web application and the command-line verbs.

mod demo_pictures;
mod eval;
mod eval_find;
mod eval_portrait;
mod eval_rebuild;
mod eval_studio;
mod eval_takes;
mod find;
mod match_verb;
mod read;
mod schema;
mod serve;
mod studio_verb;

use clap::{Parser, Subcommand};
use std::path::PathBuf;
use std::process::ExitCode;

/// Reads the light in pictures.
#[derive(Parser)]
#[command(name = "slantcast", version, about)]
struct Cli {
    #[command(subcommand)]
    verb: Verb,
}

#[derive(Subcommand)]
enum Verb {
    /// Read the lights of a picture from its marks; readings as JSON (slant-readings/1).
    Read {
        /// The picture.
        image: PathBuf,
        /// Marks file (slant-marks/1).
        #[arg(long)]
        marks: PathBuf,
        /// Write here instead of standard output.
        #[arg(long)]
        out: Option<PathBuf>,
    },
    /// Propose marks for a picture; marks as JSON (slant-marks/1).
    Find {
        /// The picture.
        image: PathBuf,
        /// What it is of (portrait, ball, product), if only marks that go with it are wanted.
        #[arg(long)]
        subject: Option<light::find::Sought>,
    },
    /// Compare a take with its reference: differences and the next change, as JSON.
    Match(match_verb::Options),
    /// Compare pairs of pictures with one known change, and print whether it is named first.
    EvalMatch {
        /// Folder of pairs.
        folder: PathBuf,
    },
    /// Lay references over their takes by the picture, and print how far their marks then are off.
    EvalAlign {
        /// Folder of pairs with marks, or of any PNG pictures with `--warps`.
        folder: PathBuf,
        /// Warp each picture in a known way and find that again.
        #[arg(long)]
        warps: bool,
    },
    /// Go from deliberately wrong sets to a reference with the simulated camera, and print how many moves it takes.
    EvalSession {
        /// Print every move.
        #[arg(long)]
        verbose: bool,
    },
    /// Look for marks in pictures marked with care, and print how many are found.
    EvalFind(eval_find::Options),
    /// Run the web application.
    Serve(serve::Options),
    /// Print the OpenAPI description of the web application.
    Openapi,
    /// Write the JSON Schemas of the open formats.
    Schema {
        /// Folder to write into.
        #[arg(default_value = "docs/formats")]
        folder: PathBuf,
    },
    /// Trace the picture of a set (slant-set/1) in the stand-in studio.
    Studio {
        /// The set.
        set: PathBuf,
        /// Picture to write: .png (as a camera would deliver it) or .exr (linear).
        #[arg(long)]
        out: PathBuf,
        /// Folder for one linear plate per light at unit level.
        #[arg(long)]
        plates: Option<PathBuf>,
        /// Write the marks a careful person would draw on eyes and ball probes.
        #[arg(long)]
        marks: Option<PathBuf>,
    },
    /// Draw a set (slant-set/1) to scale as SVG, PNG or PDF, or write it as glTF.
    Draw {
        /// The set.
        set: PathBuf,
        /// File to write: .svg, .png, .pdf or .gltf.
        #[arg(long)]
        out: PathBuf,
        /// Feet and inches instead of metres.
        #[arg(long)]
        feet: bool,
    },
    /// Compare the stand-in studio with another renderer's pictures of the same sets.
    EvalStudio {
        /// Folder of sets (slant-set/1), each with an EXR picture.
        #[arg(default_value = "tests/fixtures/studio")]
        folder: PathBuf,
    },
    /// Take the demo's pictures of its sets, with their marks.
    DemoPictures {
        /// Folder of sets.
        #[arg(default_value = "crates/server/demo/sets")]
        sets: PathBuf,
        /// Folder to write into.
        #[arg(default_value = "crates/server/demo")]
        folder: PathBuf,
        /// Only these, separated by commas.
        #[arg(long, default_value = "")]
        only: String,
    },
    /// Rebuild sets whose construction is known, and print where it stands among the candidates.
    EvalRebuild(eval_rebuild::Options),
    /// Read faces under known lights and print how far the readings are off.
    EvalPortrait(eval_portrait::Options),
    /// Read pictures with known lights and print how far the readings are off.
    Eval {
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
    let result = match Cli::parse().verb {
        Verb::Read { image, marks, out } => read::run(&image, &marks, out.as_deref()),
        Verb::Find { image, subject } => find::run(&image, subject),
        Verb::Match(options) => match_verb::run(&options),
        Verb::EvalMatch { folder } => match_verb::eval(&folder),
        Verb::EvalAlign { folder, warps } => eval_takes::run_align(&folder, warps),
        Verb::EvalSession { verbose } => eval_takes::run_session(verbose),
        Verb::EvalFind(options) => eval_find::run(&options),
        Verb::Serve(options) => serve::run(options),
        Verb::Openapi => schema::openapi().map(|text| print!("{text}")),
        Verb::Schema { folder } => schema::write(&folder),
        Verb::Studio { set, out, plates, marks } => studio_verb::run(&set, &out, plates.as_deref(), marks.as_deref()),
        Verb::Draw { set, out, feet } => studio_verb::draw(&set, &out, feet),
        Verb::DemoPictures { sets, folder, only } => demo_pictures::run(&sets, &folder, &only),
        Verb::EvalStudio { folder } => eval_studio::run(&folder),
        Verb::EvalRebuild(options) => eval_rebuild::run(&options),
        Verb::EvalPortrait(options) => eval_portrait::run(&options),
        Verb::Eval { folder, verbose, jitter, forget_gaze } => eval::run(&folder, verbose, jitter, forget_gaze),
    };
    match result {
        Ok(()) => ExitCode::SUCCESS,
        Err(Failure::Input(text)) => {
            eprintln!("slantcast: {text}");
            ExitCode::from(2)
        }
        Err(Failure::Other(e)) => {
            eprintln!("slantcast: {e:#}");
            ExitCode::FAILURE
        }
    }
}
