//! `slantcast find`: proposed marks for a picture.

use crate::Failure;
use light::find::{Sought, as_marks, find};
use std::path::Path;

/// Sought as typed.
#[derive(Debug, Clone, Copy, clap::ValueEnum)]
pub enum On {
    /// People: eyes.
    Portrait,
    /// Ball probes.
    Ball,
    /// Things: cylinders, shadow edges.
    Product,
}

/// Prints marks; what was seen goes to standard error.
pub fn run(image: &Path, subject: Option<On>) -> Result<(), Failure> {
    let photo = crate::read::load_picture(image)?.photo;
    let subject = subject.map(|s| match s {
        On::Portrait => Sought::Portrait,
        On::Ball => Sought::Ball,
        On::Product => Sought::Product,
    });
    let found = find(&photo, subject);
    for p in &found {
        eprintln!("{}: {} ({:.2})", p.mark.id, p.why, p.strength);
    }
    if found.is_empty() {
        eprintln!("Nothing found. Faces are found in the browser; everything can be marked by hand.");
    }
    let text = serde_json::to_string_pretty(&as_marks(&found)).map_err(anyhow::Error::from)?;
    println!("{text}");
    Ok(())
}
