//! What flat things hand on to each other: light that fell on walls and boards goes on between them (radiosity: Goral et al. 1984,
//! by Jacobi's iteration over cells that look around along fixed rays). The subject stands in the way, and hands nothing on.

use crate::emitter::Grid;
use crate::math::{cosine_direction, hash, point};
use crate::scene::{Flat, Scene};
use crate::trace::Bounce;
use rayon::prelude::*;

/// Cells along a side, and rays of each.
const CELLS: usize = 8;
const RAYS: u32 = 48;
/// Times light goes on after it fell first: at a reflectance of 0.8 all round, what is left out then is a tenth of a stop.
const ROUNDS: usize = 4;

/// A place of a flat thing that a cell sees: which, where, and what it sends back of what falls there.
type Seen = (usize, (f32, f32), f32);

/// Who sees whom among the flat things of a scene.
pub(crate) struct Exchange(Vec<Option<Vec<Vec<Seen>>>>);

impl Exchange {
    pub(crate) fn of(scene: &Scene) -> Exchange {
        let quads = scene.quads.par_iter().map(|q| {
            if matches!(q.what, Flat::Flag(_)) {
                return None;
            }
            let cell = |k: usize| {
                let at = |i: usize| 2.0 * (i as f32 + 0.5) / CELLS as f32 - 1.0;
                let p = q.at(at(k % CELLS), at(k / CELLS)) + q.n * 2e-4;
                let look = |i: u32| {
                    let (a, b) = point(i, hash(k as u32) ^ 0x91);
                    let hit = scene.nearest(&p, &cosine_direction(&q.n, a, b), 1e-4)?;
                    let from = scene.quads.get(hit.quad).filter(|_| !hit.inside)?;
                    let back = from.matte()[1] + from.gloss().map_or(0.0, |(k, _)| k[1]);
                    Some((hit.quad, hit.local, back))
                };
                (0..RAYS).filter_map(look).collect()
            };
            Some((0..CELLS * CELLS).map(cell).collect())
        });
        Exchange(quads.collect())
    }

    /// Adds to what fell on each flat thing first what the others hand on to it.
    pub(crate) fn settled(&self, first: Bounce) -> Bounce {
        let mut now = first.clone();
        for _ in 0..ROUNDS {
            now = self
                .0
                .iter()
                .zip(&first)
                .map(|(cells, first)| Some(with(first.as_ref()?, cells.as_ref()?, &now)))
                .collect();
        }
        now
    }
}

/// What fell first on a thing, and what its cells see of the others now.
fn with(first: &Grid, cells: &[Vec<Seen>], now: &Bounce) -> Grid {
    let light = |seen: &Vec<Seen>| {
        let each = seen.iter().filter_map(|(quad, (x, y), back)| Some(back * now[*quad].as_ref()?.at(*x, *y)));
        each.sum::<f32>() / RAYS as f32
    };
    let handed = Grid::new(CELLS, cells.iter().map(light).collect());
    let n = first.side;
    let at = |k: usize| 2.0 * (k as f32 + 0.5) / n as f32 - 1.0;
    let values = first.values.iter().enumerate().map(|(k, v)| v + handed.at(at(k % n), at(k / n)));
    Grid::new(n, values.collect())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::lamp::lamp;
    use crate::trace::bounce_of;
    use lightset::set::LightSet;

    /// A closed box of one reflectance: light that goes round it adds up to `1 / (1 - rho)` of what fell first, in the mean
    /// over all walls weighed by area (an integrating sphere: CIE 84), here what four rounds leave of it.
    #[test]
    fn a_closed_box_multiplies_its_light() {
        let wall = |p: [f64; 3], n: [f64; 3]| serde_json::json!({ "position_m": p, "normal": n, "width_m": 2.0, "height_m": 2.0, "colour": [0.5, 0.5, 0.5] });
        let walls = [
            wall([0.0, 0.0, -1.0], [0.0, 0.0, 1.0]),
            wall([0.0, 0.0, 1.0], [0.0, 0.0, -1.0]),
            wall([-1.0, 0.0, 0.0], [1.0, 0.0, 0.0]),
            wall([1.0, 0.0, 0.0], [-1.0, 0.0, 0.0]),
            wall([0.0, -1.0, 0.0], [0.0, 1.0, 0.0]),
            wall([0.0, 1.0, 0.0], [0.0, -1.0, 0.0]),
        ];
        let set = LightSet::from_value(serde_json::json!({
            "format": "slant-set/1", "walls": walls,
            "camera": { "position_m": [0, 0, 0.9], "exposure": { "f_number": 5.6, "shutter_s": 0.008, "iso": 100 } },
            "lights": [{ "name": "key", "position_m": [0.3, 0.2, 0.5], "source": { "kind": "disc", "diameter_m": 0.2 },
                "level": { "stops": 0 } }]
        }))
        .unwrap()
        .set;
        let scene = Scene::new(&set);
        let first = bounce_of(&scene, Some(&lamp(&set.lights[0])));
        let all =
            |b: &Bounce| b.iter().flatten().map(|g| g.values.iter().sum::<f32>() / g.values.len() as f32).sum::<f32>();
        let before = all(&first);
        let after = all(&Exchange::of(&scene).settled(first));
        let rho: f32 = 0.5;
        let wanted = (1.0 - rho.powi(ROUNDS as i32 + 1)) / (1.0 - rho);
        assert!((after / before / wanted - 1.0).abs() < 0.04, "{} for {wanted}", after / before);
    }
}
