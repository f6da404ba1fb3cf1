//! The slantcast binary: the web application and the command-line verbs.

mod demo_pictures;
mod find;
mod match_verb;
mod mix_verb;
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
    /// Write the light of the whole room, as a mirror ball in the picture shows it: a panorama, .exr or .hdr.
    LightMap {
        /// The picture.
        image: PathBuf,
        /// Marks file (slant-marks/1): a mirror ball, and best a matte one beside it.
        #[arg(long)]
        marks: PathBuf,
        /// File to write: .exr or .hdr.
        #[arg(long)]
        out: PathBuf,
    },
    /// Propose marks for a picture; marks as JSON (slant-marks/1).
    Find {
        /// The picture.
        image: PathBuf,
        /// What it is of (portrait, ball, product), if only marks that go with it are wanted.
        #[arg(long)]
        subject: Option<finding::Sought>,
    },
    /// Compare a take with its reference: differences and the next change, as JSON.
    Match(match_verb::Options),
    /// What each plate (a picture with one light) is worth in a target: weights in linear light, as JSON.
    Mix(mix_verb::Options),
    /// Run the web application.
    Serve(serve::Options),
    /// Decode a picture from standard input for the server, within bounds of memory and time.
    #[command(hide = true)]
    Decode,
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
        Verb::LightMap { image, marks, out } => read::light_map(&image, &marks, &out),
        Verb::Find { image, subject } => find::run(&image, subject),
        Verb::Match(options) => match_verb::run(&options),
        Verb::Mix(options) => mix_verb::run(&options),
        Verb::Serve(options) => serve::run(options),
        Verb::Decode => serve::decode(),
        Verb::Openapi => schema::openapi().map(|text| print!("{text}")),
        Verb::Schema { folder } => schema::write(&folder),
        Verb::Studio { set, out, plates, marks } => studio_verb::run(&set, &out, plates.as_deref(), marks.as_deref()),
        Verb::Draw { set, out, feet } => studio_verb::draw(&set, &out, feet),
        Verb::DemoPictures { sets, folder, only } => demo_pictures::run(&sets, &folder, &only),
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
