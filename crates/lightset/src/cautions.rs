//! Cautions: which apply to a set as it stands, from a table. They defer to local codes and licensed practice.

use crate::set::{BoardFinish, LightSet, Outline, SubjectKind};
use serde::Deserialize;
use std::sync::LazyLock;

#[derive(Deserialize)]
struct CautionTable {
    caution: Vec<CautionRow>,
}

#[derive(Deserialize)]
struct CautionRow {
    id: String,
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
        let glass = set.subjects.iter().any(|s| s.kind == SubjectKind::Bottle);
        match when {
            "mirror_and_window" => {
                let mirror = set.boards.iter().any(|b| b.finish == BoardFinish::Mirror);
                return mirror && set.lights.iter().any(|l| l.source.is_window());
            }
            "glass" => return glass,
            "glass_and_mains" => return glass && set.lights.iter().any(crate::cables::is_wired),
            _ => {}
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

/// The text of a caution that is asked for by its name; `None` if there is none of it.
pub fn caution_named(id: &str) -> Option<&'static str> {
    CAUTIONS.iter().find(|row| row.id == id).map(|row| row.text.as_str())
}

#[cfg(test)]
mod tests {
    use super::*;

    fn told(extra: serde_json::Value) -> String {
        let mut v = serde_json::json!({ "format": "slant-set/1",
            "camera": { "position_m": [0, 0, 2], "exposure": { "f_number": 8, "shutter_s": 0.01, "iso": 100 } },
            "lights": [{ "name": "key", "azimuth_deg": -90, "elevation_deg": 10, "distance_m": 2,
                "source": { "kind": "window", "width_m": 1, "height_m": 1.4, "facing_deg": 90 }, "level": { "stops": 0 } }] });
        for (k, x) in extra.as_object().expect("fields") {
            v[k] = x.clone();
        }
        cautions(&LightSet::from_value(v).expect("a set").set).join(" ")
    }

    /// Cautions stand where the set has what they are about, and nowhere else (common practice).
    #[test]
    fn cautions_follow_what_is_there() {
        let mirror =
            serde_json::json!([{ "position_m": [1, 0, 0.3], "width_m": 0.4, "height_m": 0.4, "finish": "mirror" }]);
        assert!(told(serde_json::json!({ "boards": mirror })).contains("sets fire"));
        let white =
            serde_json::json!([{ "position_m": [1, 0, 0.3], "width_m": 0.4, "height_m": 0.4, "finish": "white" }]);
        assert!(!told(serde_json::json!({ "boards": white })).contains("sets fire"));
        let bottle = told(serde_json::json!({ "subjects": [{ "kind": "bottle" }] }));
        assert!(bottle.contains("burst") && !bottle.contains("residual-current"), "a window has no lead: {bottle}");
        assert!(told(serde_json::json!({})).is_empty());
    }
}
