//! A kit as a table: one row per thing (RFC 4180), empty where a column does not apply.

use super::{Dimming, Kit, KitBoard, Lamp, Modifier, Output, Pulse, Shape, Sheet, Stand, Throw};
use crate::set::BoardFinish;
use optics::cell::{cell, text_of};
use optics::power::Control;
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};

#[derive(Debug, Default, Serialize, Deserialize)]
#[serde(default)]
struct Row {
    kind: String,
    id: String,
    name: String,
    count: Option<u32>,
    width_m: Option<f64>,
    height_m: Option<f64>,
    measured: Option<String>,
    output: Option<f64>,
    at_m: Option<f64>,
    beam_deg: Option<f64>,
    control: Option<String>,
    lowest_stops: Option<f64>,
    full_panel: Option<f64>,
    cct_k: Option<f64>,
    spread_stops: Option<f64>,
    takes_modifiers: Option<bool>,
    draw_w: Option<f64>,
    t01_s: Option<f64>,
    dimming: Option<String>,
    ready_s: Option<f64>,
    flashes: Option<f64>,
    hot: Option<bool>,
    shape: Option<String>,
    throws: Option<String>,
    near_m: Option<f64>,
    far_m: Option<f64>,
    share: Option<f64>,
    alone: Option<bool>,
    transmission: Option<f64>,
    finish: Option<String>,
    lowest_m: Option<f64>,
    highest_m: Option<f64>,
    boom: Option<bool>,
    household: Option<bool>,
}

fn word(v: impl Serialize) -> Option<String> {
    serde_json::to_value(v).ok().and_then(|v| v.as_str().map(str::to_owned))
}

fn named<T: DeserializeOwned>(at: &str, field: &str, v: &Option<String>, or: T) -> Result<T, String> {
    match v.as_deref().map(str::trim).filter(|s| !s.is_empty()) {
        None => Ok(or),
        Some(s) => serde_json::from_value(serde_json::Value::String(s.to_owned()))
            .map_err(|_| format!("{at}: {field}: \"{s}\" is not known")),
    }
}

/// Writes a kit as a table with a head row.
pub fn to_csv(kit: &Kit) -> String {
    let mut rows = Vec::new();
    for l in &kit.lamps {
        let (measured, output, at_m) = match l.output {
            Output::Lux { lux, at_m, .. } => ("lux", lux, Some(at_m)),
            Output::Lumens { lumens, .. } => ("lumens", lumens, None),
            Output::Guide { guide_number_m, .. } => ("guide", guide_number_m, None),
            Output::Joules { joules, .. } => ("joules", joules, None),
        };
        rows.push(Row {
            kind: "lamp".into(),
            id: cell(&l.id),
            name: cell(&l.name),
            count: Some(l.count),
            width_m: Some(l.face_m),
            measured: Some(measured.into()),
            output: Some(output),
            at_m,
            beam_deg: Some(l.beam_deg()),
            control: word(l.control),
            lowest_stops: Some(l.lowest_stops),
            full_panel: Some(l.full_panel),
            cct_k: Some(l.cct_k),
            spread_stops: Some(l.spread_stops),
            takes_modifiers: Some(l.takes_modifiers),
            draw_w: l.draw_w,
            t01_s: l.pulse.map(|p| p.t01_s),
            dimming: l.pulse.and_then(|p| word(p.dimming)),
            ready_s: l.pulse.map(|p| p.ready_s),
            flashes: l.pulse.and_then(|p| p.flashes),
            hot: Some(l.hot),
            household: Some(l.household),
            ..Row::default()
        });
    }
    for m in &kit.modifiers {
        rows.push(Row {
            kind: "modifier".into(),
            id: cell(&m.id),
            name: cell(&m.name),
            count: Some(m.count),
            width_m: Some(m.size_m[0]),
            height_m: Some(m.size_m[1]),
            beam_deg: m.beam_deg,
            shape: word(m.shape),
            throws: word(m.throws),
            near_m: Some(m.near_m),
            far_m: Some(m.far_m),
            share: Some(m.share),
            alone: Some(m.alone),
            household: Some(m.household),
            ..Row::default()
        });
    }
    for s in &kit.sheets {
        rows.push(Row {
            kind: "sheet".into(),
            id: cell(&s.id),
            name: cell(&s.name),
            count: Some(s.count),
            width_m: Some(s.size_m[0]),
            height_m: Some(s.size_m[1]),
            transmission: Some(s.transmission),
            spread_stops: Some(s.spread_stops),
            household: Some(s.household),
            ..Row::default()
        });
    }
    for b in &kit.boards {
        rows.push(Row {
            kind: "board".into(),
            id: cell(&b.id),
            name: cell(&b.name),
            count: Some(b.count),
            width_m: Some(b.size_m[0]),
            height_m: Some(b.size_m[1]),
            finish: word(b.finish),
            household: Some(b.household),
            ..Row::default()
        });
    }
    for s in &kit.stands {
        rows.push(Row {
            kind: "stand".into(),
            id: cell(&s.id),
            name: cell(&s.name),
            count: Some(s.count),
            lowest_m: Some(s.lowest_m),
            highest_m: Some(s.highest_m),
            boom: Some(s.boom),
            household: Some(s.household),
            ..Row::default()
        });
    }
    let mut out = ::csv::Writer::from_writer(Vec::new());
    for r in rows {
        // writing to memory: cannot fail
        let _ = out.serialize(r);
    }
    out.into_inner().map(|b| String::from_utf8_lossy(&b).into_owned()).unwrap_or_default()
}

/// Reads a kit from a table.
///
/// # Errors
/// One sentence that names the row and the column.
pub fn from_csv(text: &str) -> Result<Kit, String> {
    let mut kit = Kit::default();
    let text = text.trim_start_matches('\u{feff}');
    let mut reader = ::csv::ReaderBuilder::new().trim(::csv::Trim::All).flexible(true).from_reader(text.as_bytes());
    let head = reader.headers().map_err(|e| format!("the table cannot be read: {e}"))?.clone();
    for needed in ["kind", "name"] {
        if !head.iter().any(|h| h == needed) {
            return Err(format!("the table has no column \"{needed}\""));
        }
    }
    for (i, row) in reader.deserialize::<Row>().enumerate() {
        let line = i + 2;
        let r = row.map_err(|e| format!("line {line}: {e}"))?;
        let at = format!("line {line} ({})", r.name);
        let need = |field: &str, v: Option<f64>| v.ok_or_else(|| format!("{at}: {field} is missing"));
        let id = if r.id.is_empty() { slug(text_of(&r.name)) } else { text_of(&r.id).to_owned() };
        let name = text_of(&r.name).to_owned();
        let count = r.count.unwrap_or(1);
        let household = r.household.unwrap_or(false);
        let size = || -> Result<[f64; 2], String> {
            let w = need("width_m", r.width_m)?;
            Ok([w, r.height_m.unwrap_or(w)])
        };
        match r.kind.as_str() {
            "lamp" => {
                let beam_deg = r.beam_deg.unwrap_or(90.0);
                let v = need("output", r.output)?;
                let output = match r.measured.as_deref().unwrap_or("") {
                    "lux" => Output::Lux { lux: v, at_m: r.at_m.unwrap_or(1.0), beam_deg },
                    "lumens" => Output::Lumens { lumens: v, beam_deg },
                    "guide" => Output::Guide { guide_number_m: v, beam_deg },
                    "joules" => Output::Joules { joules: v, beam_deg },
                    other => {
                        return Err(format!(
                            "{at}: measured: expected lux, lumens, guide or joules, found \"{other}\""
                        ));
                    }
                };
                kit.lamps.push(Lamp {
                    id,
                    name,
                    count,
                    output,
                    control: named(&at, "control", &r.control, Control::Fixed)?,
                    lowest_stops: r.lowest_stops.unwrap_or(0.0),
                    full_panel: r.full_panel.unwrap_or(10.0),
                    face_m: need("width_m", r.width_m)?,
                    cct_k: r.cct_k.unwrap_or(5600.0),
                    spread_stops: r.spread_stops.unwrap_or(0.3),
                    takes_modifiers: r.takes_modifiers.unwrap_or(false),
                    draw_w: r.draw_w,
                    pulse: match r.t01_s {
                        Some(t01_s) => Some(Pulse {
                            t01_s,
                            dimming: named(&at, "dimming", &r.dimming, Dimming::Cut)?,
                            ready_s: r.ready_s.unwrap_or(2.0),
                            flashes: r.flashes,
                        }),
                        None => None,
                    },
                    hot: r.hot.unwrap_or(false),
                    household,
                });
            }
            "modifier" => kit.modifiers.push(Modifier {
                id,
                name,
                count,
                shape: named(&at, "shape", &r.shape, Shape::Rectangle)?,
                size_m: size()?,
                near_m: r.near_m.unwrap_or(0.4),
                far_m: r.far_m.unwrap_or(5.0),
                throws: named(&at, "throws", &r.throws, Throw::Even)?,
                share: r.share.unwrap_or(0.45),
                beam_deg: r.beam_deg,
                household,
                alone: r.alone.unwrap_or(false),
            }),
            "sheet" => kit.sheets.push(Sheet {
                id,
                name,
                count,
                size_m: size()?,
                transmission: need("transmission", r.transmission)?,
                spread_stops: r.spread_stops.unwrap_or(0.3),
                household,
            }),
            "board" => kit.boards.push(KitBoard {
                id,
                name,
                count,
                size_m: size()?,
                finish: named(&at, "finish", &r.finish, BoardFinish::White)?,
                household,
            }),
            "stand" => kit.stands.push(Stand {
                id,
                name,
                count,
                lowest_m: r.lowest_m.unwrap_or(0.6),
                highest_m: need("highest_m", r.highest_m)?,
                boom: r.boom.unwrap_or(false),
                household,
            }),
            other => {
                return Err(format!("{at}: kind: expected lamp, modifier, sheet, board or stand, found \"{other}\""));
            }
        }
    }
    kit.check()?;
    Ok(kit)
}

fn slug(name: &str) -> String {
    let mut s: String = name.chars().map(|c| if c.is_alphanumeric() { c.to_ascii_lowercase() } else { '-' }).collect();
    while s.contains("--") {
        s = s.replace("--", "-");
    }
    s.trim_matches('-').to_owned()
}
