//! `slantcast read`: one picture and its marks to readings.

use crate::Failure;
use light::marks::Marks;
use std::path::Path;

/// Reads and decodes a picture, with one sentence if that fails.
pub(crate) fn load_picture(path: &Path) -> Result<pictures::Decoded, Failure> {
    let bytes = std::fs::read(path).map_err(|e| Failure::Input(format!("{}: {e}", path.display())))?;
    pictures::decode(&bytes, pictures::Limits::default())
        .map_err(|e| Failure::Input(format!("{}: {e}", path.display())))
}

/// Fills in what the file says of the camera and of the encoding.
pub(crate) fn prepare(facts: &pictures::Facts, marks: &mut Marks) {
    marks.exposure = marks.exposure.or(facts.settings);
    if facts.linear {
        marks.encoding.get_or_insert(light::tone::Encoding::Linear);
    }
    if let Some(vfov) = facts.vfov_deg {
        marks.camera.get_or_insert_with(Default::default).vfov_deg.get_or_insert(vfov);
    }
}

pub(crate) fn run(image: &Path, marks: &Path, out: Option<&Path>) -> Result<(), Failure> {
    let text = std::fs::read_to_string(marks).map_err(|e| Failure::Input(format!("{}: {e}", marks.display())))?;
    let mut parsed = Marks::parse(&text).map_err(|e| Failure::Input(format!("{}: {e}", marks.display())))?;
    let decoded = load_picture(image)?;
    prepare(&decoded.facts, &mut parsed);
    let readings = light::read::read(&decoded.photo, &parsed, None, &studio::stand_ins);
    let mut json = serde_json::to_string_pretty(&readings).map_err(anyhow::Error::from)?;
    json.push('\n');
    match out {
        Some(path) => std::fs::write(path, json).map_err(|e| anyhow::anyhow!("{}: {e}", path.display()))?,
        None => print!("{json}"),
    }
    Ok(())
}
