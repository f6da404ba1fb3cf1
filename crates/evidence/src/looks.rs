//! Names of looks, from a table.

use crate::readings::{Light, Look, LookChance};
use optics::geometry::{AzEl, Vec3, tangent_frame};
use optics::role::Role;
use serde::Deserialize;
use std::sync::LazyLock;

#[derive(Deserialize)]
struct LookTable {
    look: Vec<LookRow>,
}

/// A row of `data/looks.toml`.
#[derive(Debug, Clone, Deserialize)]
pub struct LookRow {
    /// Name.
    pub name: String,
    /// Range of the absolute azimuth in degrees.
    pub azimuth: [f64; 2],
    /// Range of the elevation in degrees.
    pub elevation: [f64; 2],
    /// Half width of the soft border in degrees.
    pub soft_deg: f64,
    /// What gives it away in a picture.
    pub tell: String,
}

static LOOKS: LazyLock<Vec<LookRow>> =
    LazyLock::new(|| toml::from_str::<LookTable>(include_str!("../data/looks.toml")).expect("looks.toml").look);
/// The table of looks.
pub fn table() -> &'static [LookRow] {
    &LOOKS
}

/// How much a value belongs to a range: 1 inside, falling over the soft border (logistic).
fn belongs(v: f64, range: [f64; 2], soft: f64, lowest: f64, highest: f64) -> f64 {
    let rise = |x: f64| 1.0 / (1.0 + (-x / (soft / 2.0)).exp());
    let low = if range[0] <= lowest { 1.0 } else { rise(v - range[0]) };
    let high = if range[1] >= highest { 1.0 } else { rise(range[1] - v) };
    low * high
}

/// A fill this far under the lens makes a clamshell of a butterfly, degrees.
const LOW_FILL_DEG: f64 = -12.0;

/// Whether one of the lights fills from below.
pub fn has_low_fill(lights: &[Light]) -> bool {
    lights.iter().any(|l| l.role == Role::Fill && l.elevation_deg < LOW_FILL_DEG)
}

/// Names the look of a key with direction spread `sd` radians (RMS): probabilities averaged over
/// the spread, so that a reading near a border or a wide one gives an honest chance to both.
/// With `low_fill`, a butterfly becomes a clamshell.
pub fn name_look(direction: &Vec3, sd: f64, low_fill: bool) -> Look {
    let (u, v) = tangent_frame(direction);
    let per_axis = sd / std::f64::consts::SQRT_2;
    let mut chance = vec![0.0; LOOKS.len()];
    // five-by-five grid over +-2 sd with normal weights
    for i in -2..=2 {
        for j in -2..=2 {
            let w = (-0.5 * f64::from(i * i + j * j)).exp();
            let d = (direction + u * (f64::from(i) * per_axis) + v * (f64::from(j) * per_axis)).normalize();
            let a = AzEl::of(&d);
            let each: Vec<f64> = LOOKS
                .iter()
                .map(|l| {
                    belongs(a.azimuth_deg.abs(), l.azimuth, l.soft_deg, 0.0, 180.0)
                        * belongs(a.elevation_deg, l.elevation, l.soft_deg, -90.0, 90.0)
                })
                .collect();
            let sum: f64 = each.iter().sum::<f64>().max(1e-12);
            chance.iter_mut().zip(each).for_each(|(c, e)| *c += w * e / sum);
        }
    }
    let total: f64 = chance.iter().sum();
    let mut named: Vec<LookChance> = LOOKS
        .iter()
        .zip(&chance)
        .map(|(l, c)| LookChance {
            name: if low_fill && l.name == "butterfly" { "clamshell".into() } else { l.name.clone() },
            probability: (c / total * 100.0).round() / 100.0,
        })
        .collect();
    named.sort_by(|a, b| b.probability.total_cmp(&a.probability));
    let first = named.remove(0);
    named.retain(|c| c.probability >= 0.05);
    Look { name: first.name, probability: first.probability, others: named, side: None }
}
