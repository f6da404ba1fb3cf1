//! `slantcast read`: one picture and its marks to readings.

use crate::Failure;
use evidence::marks::Marks;
use session::{MapFile, Opened, PictureRead, open, told};
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

pub(crate) fn light_map(image: &Path, marks: &Path, out: &Path) -> Result<(), Failure> {
    let ending = out.extension().and_then(|e| e.to_str());
    let file = ending
        .and_then(MapFile::named)
        .ok_or_else(|| Failure::Input(format!("{}: expected a name ending in .exr or .hdr", out.display())))?;
    let mut marks = load_marks(marks)?;
    let opened = load_picture(image)?;
    opened.fill_in(&mut marks);
    let bytes = session::light_map(&opened.photo, &told(&marks, &opened.facts, None), file)
        .ok_or_else(|| Failure::Input("no mirror ball in the picture shows a whole room".into()))?
        .map_err(|e| Failure::Input(e.to_string()))?;
    std::fs::write(out, bytes).map_err(|e| anyhow::anyhow!("{}: {e}", out.display()))?;
    Ok(())
}
