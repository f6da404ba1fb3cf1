//! Pictures and sets from files.

use crate::Failure;
use lightset::set::LightSet;
use session::{Opened, open};
use std::path::{Path, PathBuf};

/// The files of a folder with an ending, in order.
pub(crate) fn files_in(folder: &Path, ending: &str) -> Result<Vec<PathBuf>, Failure> {
    let mut files: Vec<_> = std::fs::read_dir(folder)
        .map_err(|e| Failure::Input(format!("{}: {e}", folder.display())))?
        .filter_map(|f| f.ok().map(|f| f.path()))
        .filter(|p| p.extension().is_some_and(|e| e == ending))
        .collect();
    files.sort();
    Ok(files)
}

/// Reads and decodes a picture, with one sentence if that fails.
pub(crate) fn load_picture(path: &Path) -> Result<Opened, Failure> {
    let bytes = std::fs::read(path).map_err(|e| Failure::Input(format!("{}: {e}", path.display())))?;
    open(&bytes).map_err(|e| Failure::Input(format!("{}: {e}", path.display())))
}

/// Reads a set; warns of fields this version does not know.
pub(crate) fn load_set(path: &Path) -> Result<LightSet, Failure> {
    let text = std::fs::read_to_string(path).map_err(|e| Failure::Input(format!("{}: {e}", path.display())))?;
    let parsed = LightSet::parse(&text).map_err(|e| Failure::Input(format!("{}: {e}", path.display())))?;
    for name in parsed.unknown {
        eprintln!("evaluation: {}: {name} is not known to this version and is left out", path.display());
    }
    Ok(parsed.set)
}
