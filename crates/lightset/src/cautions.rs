//! Cautions: which apply to a set as it stands, from a table. They defer to local codes and licensed practice.

use crate::set::{LightSet, Outline};
use serde::Deserialize;
use std::sync::LazyLock;

#[derive(Deserialize)]
struct CautionTable {
    caution: Vec<CautionRow>,
}

#[derive(Deserialize)]
struct CautionRow {
    when: String,
    limit: f64,
    text: String,
}

static CAUTIONS: LazyLock<Vec<CautionRow>> = LazyLock::new(|| {
    toml::from_str::<CautionTable>(include_str!("../data/cautions.toml")).expect("cautions.toml").caution
});

/// Shortest side in metres from which an even rectangle is taken for a hung sheet.
const SHEET_M: f64 = 1.4;

/// The cautions that apply to a set as it stands, switched-off lights included.
pub fn cautions(set: &LightSet) -> Vec<String> {
    let floor = set.floor_m();
    cautions_where(|when, limit| {
        if when == "cable_crosses" {
            return crate::cables::cables(set).iter().any(|c| c.crosses);
        }
        set.lights.iter().any(|l| match when {
            "light_above_m" => l.position().y + floor > limit,
            "modifier_area_m2" => l.source.area_m2() > limit || l.scrims.iter().any(|s| s.width_m * s.height_m > limit),
            "cloth" => {
                let sheet = !l.source.is_window()
                    && matches!(l.source.about().outline, Outline::Rectangle(w, h) if w.min(h) > SHEET_M);
                sheet || !l.scrims.is_empty()
            }
            _ => false,
        })
    })
}

/// Texts of the cautions whose condition (its name and limit) holds, once each.
pub fn cautions_where(holds: impl Fn(&str, f64) -> bool) -> Vec<String> {
    CAUTIONS.iter().filter(|row| holds(&row.when, row.limit)).map(|row| row.text.clone()).collect()
}
