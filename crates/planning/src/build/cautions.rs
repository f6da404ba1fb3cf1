//! Cautions that depend on the lamps chosen.

use super::LampPlan;
use lightset::cables::is_wired;
use lightset::cautions::cautions_where;
use lightset::kit::{Kit, Lamp};
use lightset::set::{LightSet, SetLight};

/// A light this far over the reference point and this near its plumb line hangs over the subject, metres.
const OVER_M: f64 = 0.4;
const BESIDE_M: f64 = 0.6;

/// Whether a light hangs over the subject.
pub(super) fn overhead(l: &SetLight) -> bool {
    let p = l.position();
    p.y > OVER_M && p.x.hypot(p.z) < BESIDE_M && !l.source.is_window()
}

/// Cautions that depend on the lamps chosen: a hot lamp behind cloth, a flash, a boom.
pub fn kit_cautions(set: &LightSet, lamps: &[LampPlan], kit: &Kit) -> Vec<String> {
    let lamp = |l: &SetLight| {
        let id = lamps.iter().find(|p| p.light == l.name)?.lamp.as_ref()?;
        kit.lamps.iter().find(|k| &k.id == id)
    };
    cautions_where(|when, _| match when {
        "hot_lamp" => set.lights.iter().any(|l| lamp(l).is_some_and(|k| k.hot)),
        "flash" => set.lights.iter().any(|l| lamp(l).is_some_and(Lamp::is_flash)),
        "overhead" => set.lights.iter().any(overhead),
        "battery_flash" => set.lights.iter().any(|l| lamp(l).is_some_and(|k| k.is_flash() && k.on_batteries())),
        "mains_cables" => set.lights.iter().any(|l| lamp(l).map_or_else(|| is_wired(l), |k| !k.on_batteries())),
        _ => false,
    })
}
