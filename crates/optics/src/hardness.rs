//! Words for how hard a light is, by the angle it fills: a table.

use serde::Deserialize;
use std::sync::LazyLock;

#[derive(Deserialize)]
struct HardnessTable {
    word: Vec<HardnessRow>,
}

#[derive(Deserialize)]
struct HardnessRow {
    name: String,
    below_deg: f64,
}

static HARDNESS: LazyLock<Vec<HardnessRow>> = LazyLock::new(|| {
    toml::from_str::<HardnessTable>(include_str!("../data/hardness.toml")).expect("hardness.toml").word
});

/// Word for an angular size in degrees.
pub fn hardness(angular_size_deg: f64) -> &'static str {
    HARDNESS.iter().find(|w| angular_size_deg < w.below_deg).or(HARDNESS.last()).map_or("", |w| w.name.as_str())
}
