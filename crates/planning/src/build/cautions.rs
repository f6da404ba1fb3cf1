//! Cautions that depend on the lamps chosen.

use super::LampPlan;
use lightset::cables::is_wired;
use lightset::cautions::cautions_where;
use lightset::kit::{Kit, Lamp, Output};
use lightset::set::{LightSet, SetLight};

/// Cautions that depend on the lamps chosen: a hot lamp behind cloth, a flash, a boom.
pub fn kit_cautions(set: &LightSet, lamps: &[LampPlan], kit: &Kit) -> Vec<String> {
    let lamp = |l: &SetLight| {
        let id = lamps.iter().find(|p| p.light == l.name)?.lamp.as_ref()?;
        kit.lamps.iter().find(|k| &k.id == id)
    };
    cautions_where(|when, _| match when {
        "hot_lamp" => set.lights.iter().any(|l| lamp(l).is_some_and(|k| k.hot)),
        "flash" => set.lights.iter().any(|l| lamp(l).is_some_and(Lamp::is_flash)),
        "overhead" => set.lights.iter().any(|l| {
            let p = l.position();
            p.y > 0.4 && p.x.hypot(p.z) < 0.6 && !l.source.is_window()
        }),
        "battery_flash" => set.lights.iter().any(|l| lamp(l).is_some_and(|k| matches!(k.output, Output::Guide { .. }))),
        // a flash that is given by its guide number runs on batteries
        "mains_cables" => set.lights.iter().any(|l| {
            let battery = |k: &Lamp| matches!(k.output, Output::Guide { .. });
            lamp(l).map_or_else(|| is_wired(l), |k| !battery(k))
        }),
        _ => false,
    })
}
