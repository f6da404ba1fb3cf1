//! What the boards of a set hand on.

use crate::probe::Probe;
use lightset::set::LightSet;
use optics::geometry::Vec3;

/// What a board gives at the reference point.
#[derive(Debug, Clone, Copy)]
pub struct BoardLight {
    /// Irradiance facing it, if the lamps have the levels given.
    pub irradiance: f64,
    /// Unit direction to its middle.
    pub direction: Vec3,
}

/// What each board of a set alone hands on of its lamps: a flat meter that faces it, with it and without; walls, flags and subjects
/// are left out. `level` is the irradiance each lamp gives at the reference point, in the order of the set.
pub fn light_of_boards(set: &LightSet, level: &[f64]) -> Vec<BoardLight> {
    let bare = LightSet {
        subjects: Vec::new(),
        walls: Vec::new(),
        flags: Vec::new(),
        boards: Vec::new(),
        ambient: None,
        ..set.clone()
    };
    let handed = |b: &lightset::set::Board| {
        let direction = Vec3::from(b.position_m).normalize();
        let with = LightSet { boards: vec![*b], ..bare.clone() };
        let [with, without] = [&with, &bare].map(|s| Probe::of(s).flat(&Vec3::zeros(), &direction));
        let each = with.lamps.iter().zip(&without.lamps).zip(level);
        BoardLight { irradiance: each.map(|((w, b), l)| (w - b).max(0.0) * l).sum(), direction }
    };
    set.boards.iter().map(handed).collect()
}
