//! What does in place of what: by the angle it fills, the light it gives and what it spills, not by name.

use crate::bench::{Values, path_of};
use lightset::kit::{Kit, Lamp, Modifier, Throw};
use optics::beam::beam_sr;
use optics::units::{Metres, Stops};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Something that does in place of a modifier.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Substitute {
    /// Id of the modifier.
    pub id: String,
    /// Name.
    pub name: String,
    /// Metres at which it fills the same angle.
    pub distance_m: f64,
    /// Angle it fills there, degrees.
    pub angle_deg: f64,
    /// Stops at the subject against what it replaces, same lamp.
    pub light_stops: f64,
    /// Spread of that in stops: two shares that are known to about a quarter stop each.
    pub light_sd_stops: f64,
    /// Stops at 60 degrees from its axis against the axis: what it spills.
    pub spill_stops: f64,
    /// Distance is one it is used at.
    pub usable: bool,
    /// In one sentence.
    pub says: String,
}

/// Light 60 degrees off the axis in stops against the axis.
fn spill(m: &Modifier) -> f64 {
    match (m.throws, m.beam_deg) {
        (Throw::Bare, _) => 0.0,
        // a bell-shaped beam: a half at half its angle
        (Throw::Dish, beam) => -(60.0 / (beam.unwrap_or(75.0) / 2.0)).powi(2),
        // a face by Lambert's law
        _ => -1.0,
    }
}

/// Light at a distance in stops, up to a constant of the lamp.
fn light(lamp: &Lamp, m: &Modifier, d: f64) -> f64 {
    let v: Values = path_of(lamp, Some(m), Metres(d), Stops(0.0));
    let flux = lamp.axial() * beam_sr(lamp.beam_deg()) * m.share;
    let dish = v.get("modifier").is_some_and(|k| *k > 1.5);
    let spread = if dish { beam_sr(v["dish_beam_deg"]) } else { std::f64::consts::PI };
    let area = m.size_m[0] * m.size_m[1] / std::f64::consts::PI;
    (flux / spread / if dish { d * d } else { d * d + area }).log2()
}

/// What of a kit does in place of a modifier at a distance, the nearest in light and spill first.
pub fn substitutes(kit: &Kit, lamp: &Lamp, of: &Modifier, distance: Metres) -> Vec<Substitute> {
    let angle = of.angle_at(distance);
    let now = light(lamp, of, distance.0);
    let mut out: Vec<Substitute> = kit
        .modifiers
        .iter()
        .filter(|m| m.id != of.id && m.count > 0)
        .map(|m| {
            let d = m.distance_for(angle).0;
            let usable = (m.near_m..=m.far_m).contains(&d);
            let stops = if m.alone { f64::NAN } else { light(lamp, m, d) - now };
            let spill_stops = spill(m);
            let word = if stops.is_nan() {
                "by its own light".to_owned()
            } else if stops.abs() < 0.25 {
                "as much light".into()
            } else {
                format!("{:.1} stops {}", stops.abs(), if stops > 0.0 { "more" } else { "less" })
            };
            let spills = match spill_stops - spill(of) {
                x if x > 0.7 => ", spills more",
                x if x < -0.7 => ", spills less",
                _ => "",
            };
            Substitute {
                says: format!("{} at {d:.2} m: the same {:.0}°, {word}{spills}.", m.name, angle.to_degrees()),
                id: m.id.clone(),
                name: m.name.clone(),
                distance_m: d,
                angle_deg: angle.to_degrees(),
                light_stops: if stops.is_nan() { 0.0 } else { stops },
                light_sd_stops: 0.35,
                spill_stops,
                usable,
            }
        })
        .collect();
    let cost = |s: &Substitute| {
        s.light_stops.abs() + 0.4 * (s.spill_stops - spill(of)).abs() + if s.usable { 0.0 } else { 20.0 }
    };
    out.sort_by(|a, b| cost(a).total_cmp(&cost(b)));
    out
}
