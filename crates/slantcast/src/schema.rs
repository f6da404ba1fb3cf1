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
        ("slant-mix-1.schema.json", "MixRecipe", "slant-mix/1", "How plates were mixed"),
        ("slant-report-1.schema.json", "Report", "slant-report/1", "A verdict as it is handed over"),
        ("slant-series-1.schema.json", "SeriesRecipe", "slant-series/1", "How a series was cropped"),
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

/// Every field of every format as a table: type, whether it must be there, what it means.
pub(crate) fn fields() -> Result<String, Failure> {
    let mut out = String::from(
        "# Fields of the open formats\n\nMade by `slantcast schema` from the same types as the schemas. What needs more than a line (units, signs, examples) is in [README.md](README.md).\n",
    );
    let mut told = std::collections::BTreeSet::new();
    for (_, text) in schemas()? {
        let schema: Value = serde_json::from_str(&text).map_err(anyhow::Error::from)?;
        out += &format!("\n## {}\n", schema["title"].as_str().unwrap_or_default());
        for (name, def) in schema["$defs"].as_object().into_iter().flatten() {
            if told.insert(name.clone()) {
                tell(name, def, &mut out);
            }
        }
    }
    Ok(out)
}

/// One definition: its description, then its fields or its words.
fn tell(name: &str, def: &Value, out: &mut String) {
    let rows = rows(def);
    let words: Vec<String> = def["enum"].as_array().into_iter().flatten().map(|w| format!("`{}`", word(w))).collect();
    if rows.is_empty() && words.is_empty() {
        return;
    }
    *out += &format!("\n### {name}\n\n{}\n", line(&def["description"]));
    if !words.is_empty() {
        *out += &format!("\nOne of {}.\n", words.join(", "));
        return;
    }
    *out += "\n| field | type | must | what |\n|---|---|---|---|\n";
    for [field, kind, must, what] in rows {
        *out += &format!("| `{field}` | {kind} | {must} | {what} |\n");
    }
}

/// Fields of a definition, those of its parts and of its kinds among them.
fn rows(def: &Value) -> Vec<[String; 4]> {
    let mut out = Vec::new();
    for key in ["allOf", "oneOf"] {
        for part in def[key].as_array().into_iter().flatten() {
            out.extend(rows(part));
        }
    }
    let must = |field: &str| def["required"].as_array().is_some_and(|r| r.iter().any(|v| v == field));
    for (field, s) in def["properties"].as_object().into_iter().flatten() {
        let yes = if must(field) { "yes" } else { "" };
        out.push([field.clone(), kind_of(s), yes.into(), line(&s["description"])]);
    }
    out
}

/// The type of a field in a few words.
fn kind_of(s: &Value) -> String {
    if let Some(name) = s["$ref"].as_str().and_then(|r| r.rsplit('/').next()) {
        return name.to_owned();
    }
    if let Some(words) = s["enum"].as_array() {
        return words.iter().map(|w| format!("`{}`", word(w))).collect::<Vec<_>>().join(" or ");
    }
    for key in ["oneOf", "anyOf", "allOf"] {
        if let Some(parts) = s[key].as_array() {
            let kinds: Vec<String> = parts.iter().map(kind_of).filter(|k| k != "null").collect();
            return kinds.join(" or ");
        }
    }
    let one = |t: &str| match t {
        "array" => format!("list of {}", kind_of(&s["items"])),
        "object" if s["additionalProperties"].is_object() => format!("{} by name", kind_of(&s["additionalProperties"])),
        other => other.to_owned(),
    };
    match &s["type"] {
        Value::String(t) => one(t),
        Value::Array(list) => {
            list.iter().filter_map(Value::as_str).filter(|t| *t != "null").map(one).collect::<Vec<_>>().join(" or ")
        }
        _ => "anything".into(),
    }
}

fn word(w: &Value) -> String {
    w.as_str().map_or_else(|| w.to_string(), str::to_owned)
}

/// Text for a cell of a table.
fn line(v: &Value) -> String {
    v.as_str().unwrap_or_default().replace('\n', " ").replace('|', "\\|")
}

/// Writes the schemas and the table of fields into a folder.
pub(crate) fn write(folder: &Path) -> Result<(), Failure> {
    std::fs::create_dir_all(folder).map_err(anyhow::Error::from)?;
    for (file, text) in schemas()? {
        std::fs::write(folder.join(file), text).map_err(anyhow::Error::from)?;
    }
    std::fs::write(folder.join("fields.md"), fields()?).map_err(anyhow::Error::from)?;
    Ok(())
}
