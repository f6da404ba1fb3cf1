//! What to change next, in the person's own units and lamps.

use adviser::{SetMove, next_moves};
use judging::compare::Comparison;
use judging::takes::ChangeKind;
use lightset::kit::Kit;
use lightset::set::LightSet;
use optics::words::Lengths;
use planning::build::{BuildLog, build};
use std::collections::BTreeMap;

/// Lamps with their power as they write it, for a set: by light, the lamp's name and its setting.
pub fn settings(set: &LightSet, kit: &Kit, log: &BuildLog) -> BTreeMap<String, (String, String)> {
    let Ok(meter) = studio::meter(set) else { return BTreeMap::new() };
    let lamps = build(set, &meter, kit, log).lamps;
    lamps.into_iter().filter_map(|l| Some((l.light, (l.name, l.setting?)))).collect()
}

/// The moves after a comparison, the best first; what is turned on a lamp's dial is said in its own notation.
pub fn next(set: &LightSet, c: &Comparison, kit: &Kit, log: &BuildLog, unit: Lengths) -> Vec<SetMove> {
    let mut moves = next_moves(set, c, kit, unit);
    let mut before = settings(set, kit, log);
    for m in &mut moves {
        let after = settings(&m.set, kit, log);
        for change in m.changes.iter().filter(|c| c.kind == ChangeKind::Power) {
            if let (Some((lamp, a)), Some((_, b))) = (before.get(&change.device), after.get(&change.device))
                && a != b
            {
                m.says = format!("{} {lamp}: {a} to {b}.", m.says);
            }
        }
        before = after;
    }
    moves
}
