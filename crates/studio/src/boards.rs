//! What the boards of a set hand on.

use crate::lamp::Lamp;
use crate::scene::{Quad, Scene};
use crate::trace::{Bounce, bounce_of};
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

/// What the boards of a set hand on of its lamps alone, by one bounce; walls and flags are left out. `level` is the
/// irradiance each lamp gives at the reference point, in the order of the set.
pub fn light_of_boards(set: &LightSet, lamps: &[Lamp], level: &[f64]) -> Vec<BoardLight> {
    if set.boards.is_empty() || lamps.is_empty() {
        return Vec::new();
    }
    let bare = LightSet { subjects: Vec::new(), walls: Vec::new(), flags: Vec::new(), ..set.clone() };
    let scene = Scene::new(&bare);
    let all: Vec<_> = lamps.iter().map(|l| bounce_of(&scene, Some(l))).collect();
    let handed = |(i, q): (usize, &Quad)| {
        let lit = |(b, level): (&Bounce, &f64)| {
            let grid = b[i].as_ref()?;
            Some(f64::from(grid.values.iter().sum::<f32>() / grid.values.len() as f32) * level)
        };
        let mean: f64 = all.iter().zip(level).filter_map(lit).sum();
        let d = q.centre.norm();
        let cos = f64::from((-q.centre.dot(&q.n) / d).max(0.0));
        // silver hands on about five times what a white board of its size does towards one side
        let share = f64::from(q.matte()[1] + q.gloss().map_or(0.0, |(k, _)| 3.0 * k[1]));
        BoardLight {
            irradiance: share * mean * f64::from(q.area()) * cos / (std::f64::consts::PI * f64::from(d * d)),
            direction: q.centre.cast::<f64>() / f64::from(d),
        }
    };
    scene.quads.iter().enumerate().map(handed).collect()
}
