//! `slantcast read`: one picture and its marks to readings.

use crate::Failure;
use evidence::marks::Marks;
use session::{Opened, PictureRead, open, told};
use std::path::Path;

/// Reads and decodes a picture, with one sentence if that fails.
pub(crate) fn load_picture(path: &Path) -> Result<Opened, Failure> {
    let bytes = std::fs::read(path).map_err(|e| Failure::Input(format!("{}: {e}", path.display())))?;
    open(&bytes).map_err(|e| Failure::Input(format!("{}: {e}", path.display())))
}

/// Reads a marks file, with one sentence if that fails.
pub(crate) fn load_marks(path: &Path) -> Result<Marks, Failure> {
    let text = std::fs::read_to_string(path).map_err(|e| Failure::Input(format!("{}: {e}", path.display())))?;
    Marks::parse(&text).map_err(|e| Failure::Input(format!("{}: {e}", path.display())))
}

/// Writes JSON to a file or to standard output.
pub(crate) fn print(what: &impl serde::Serialize, out: Option<&Path>) -> Result<(), Failure> {
    let mut json = serde_json::to_string_pretty(what).map_err(anyhow::Error::from)?;
    json.push('\n');
    match out {
        Some(path) => std::fs::write(path, json).map_err(|e| anyhow::anyhow!("{}: {e}", path.display()))?,
        None => print!("{json}"),
    }
    Ok(())
}

pub(crate) fn run(image: &Path, marks: &Path, out: Option<&Path>) -> Result<(), Failure> {
    let mut marks = load_marks(marks)?;
    let opened = load_picture(image)?;
    opened.fill_in(&mut marks);
    let told = told(&marks, &opened.facts, None);
    print(&PictureRead::of(&opened.photo, Some(&opened.meter), told).readings, out)
}
