//! `slantcast find`: proposed marks for a picture.

use crate::Failure;
use finding::{Sought, as_marks, find};
use std::path::Path;

/// Prints marks; what was seen goes to standard error.
pub fn run(image: &Path, subject: Option<Sought>) -> Result<(), Failure> {
    let photo = crate::read::load_picture(image)?.photo;
    let found = find(&photo, subject);
    for p in &found {
        eprintln!("{}: {} ({:.2})", p.mark.id, p.why, p.probability);
    }
    if found.is_empty() {
        eprintln!("Nothing found. Faces are found in the browser; everything can be marked by hand.");
    }
    let text = serde_json::to_string_pretty(&as_marks(&found)).map_err(anyhow::Error::from)?;
    println!("{text}");
    Ok(())
}
