//! `slantcast openapi` and `slantcast schema`: descriptions made from the Rust types.

use crate::Failure;
use serde_json::{Value, json};
use std::path::Path;

/// The OpenAPI document.
pub(crate) fn openapi() -> Result<String, Failure> {
    Ok(serde_json::to_string_pretty(&server::openapi()).map_err(anyhow::Error::from)? + "\n")
}

/// JSON Schemas (2020-12) of the open formats: file name and text.
pub(crate) fn schemas() -> Result<Vec<(&'static str, String)>, Failure> {
    let doc = serde_json::to_value(server::openapi()).map_err(anyhow::Error::from)?;
    let all = doc["components"]["schemas"].clone();
    let formats = [
        ("slant-marks-1.schema.json", "Marks", "slant-marks/1", "Marks on one picture"),
        ("slant-set-1.schema.json", "LightSet", "slant-set/1", "A lighting set"),
        ("slant-readings-1.schema.json", "Readings", "slant-readings/1", "What was read from one picture"),
    ];
    formats
        .into_iter()
        .map(|(file, root, format, title)| {
            let mut used = serde_json::Map::new();
            gather(root, &all, &mut used);
            let mut schema = json!({
                "$schema": "https://json-schema.org/draft/2020-12/schema",
                "$id": format!("urn:slantcast:{format}"),
                "title": title,
                "$ref": format!("#/$defs/{root}"),
                "$defs": Value::Object(used),
            });
            schema["$defs"][root]["properties"]["format"]["const"] = json!(format);
            let text = serde_json::to_string_pretty(&schema).map_err(anyhow::Error::from)? + "\n";
            Ok((file, text.replace("#/components/schemas/", "#/$defs/")))
        })
        .collect()
}

/// Copies a schema and all it refers to.
fn gather(name: &str, all: &Value, used: &mut serde_json::Map<String, Value>) {
    if used.contains_key(name) {
        return;
    }
    let schema = all[name].clone();
    used.insert(name.to_owned(), schema.clone());
    let text = schema.to_string();
    for part in text.split("#/components/schemas/").skip(1) {
        if let Some(end) = part.find('"') {
            gather(&part[..end], all, used);
        }
    }
}

/// Writes the schemas into a folder.
pub(crate) fn write(folder: &Path) -> Result<(), Failure> {
    std::fs::create_dir_all(folder).map_err(anyhow::Error::from)?;
    for (file, text) in schemas()? {
        std::fs::write(folder.join(file), text).map_err(anyhow::Error::from)?;
    }
    Ok(())
}
