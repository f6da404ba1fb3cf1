//! What flat things hand on to each other: light that fell on walls and boards goes on between them (radiosity: Goral et al. 1984,
//! round by round over cells that look around along fixed rays). The subject stands in the way, and hands nothing on.

use crate::emitter::Grid;
use crate::math::{cosine_direction, hash, point};
use crate::scene::{Flat, Scene};
use crate::trace::Bounce;
use rayon::prelude::*;

/// Cells along a side; rays of each, over all flat things, at most and at least.
const CELLS: usize = 12;
const RAYS: usize = 192;
const MOST_RAYS: u32 = 16;
const FEWEST_RAYS: u32 = 4;
/// Light goes on until a round adds less than this part of all, at most so many times.
const LITTLE: f32 = 0.003;
const MOST_ROUNDS: usize = 24;

/// A place of a flat thing that a cell sees.
struct Seen {
    quad: usize,
    local: (f32, f32),
    cell: usize,
    /// what it sends back of what falls there
    back: f32,
}

/// Who sees whom among the flat things of a scene: by thing and cell; nothing of what only shades.
pub(crate) struct Exchange {
    seen: Vec<Vec<Vec<Seen>>>,
    rays: u32,
}

impl Exchange {
    pub(crate) fn of(scene: &Scene) -> Exchange {
        let rays = ((RAYS / scene.quads.len().max(1)) as u32).clamp(FEWEST_RAYS, MOST_RAYS);
        let quads = scene.quads.par_iter().map(|q| {
            if matches!(q.what, Flat::Flag(_)) {
                return Vec::new();
            }
            let cell = |k: usize| {
                let at = |i: usize| 2.0 * (i as f32 + 0.5) / CELLS as f32 - 1.0;
                let p = q.at(at(k % CELLS), at(k / CELLS)) + q.n * 2e-4;
                let look = |i: u32| {
                    let (a, b) = point(i, hash(k as u32) ^ 0x91);
                    let hit = scene.nearest(&p, &cosine_direction(&q.n, a, b), 1e-4)?;
                    let from = scene.quads.get(hit.quad).filter(|_| !hit.inside)?;
                    let back = from.matte()[1] + from.gloss().map_or(0.0, |(k, _)| k[1]);
                    let part = |t: f32| (((t * 0.5 + 0.5) * CELLS as f32) as usize).min(CELLS - 1);
                    let cell = part(hit.local.1) * CELLS + part(hit.local.0);
                    Some(Seen { quad: hit.quad, local: hit.local, cell, back })
                };
                (0..rays).filter_map(look).collect()
            };
            (0..CELLS * CELLS).map(cell).collect()
        });
        Exchange { seen: quads.collect(), rays }
    }

    /// Adds to what fell on each flat thing first what the others hand on to it.
    pub(crate) fn settled(&self, first: Bounce) -> Bounce {
        let gathered = |of: &dyn Fn(&Seen) -> f32| -> Vec<Vec<f32>> {
            let cell = |c: &Vec<Seen>| c.iter().map(|s| s.back * of(s)).sum::<f32>() / self.rays as f32;
            self.seen.iter().map(|q| q.iter().map(cell).collect()).collect()
        };
        let once = gathered(&|s| first[s.quad].as_ref().map_or(0.0, |g| g.at(s.local.0, s.local.1)));
        let (mut handed, mut last) = (once.clone(), once);
        for _ in 0..MOST_ROUNDS {
            last = gathered(&|s| last[s.quad].get(s.cell).copied().unwrap_or(0.0));
            handed.iter_mut().flatten().zip(last.iter().flatten()).for_each(|(h, l)| *h += l);
            let sum = |v: &[Vec<f32>]| v.iter().flatten().sum::<f32>();
            if sum(&last) <= LITTLE * sum(&handed) {
                break;
            }
        }
        let both = |(first, handed): (Option<Grid>, Vec<f32>)| {
            let first = first?;
            if handed.is_empty() {
                return Some(first);
            }
            let handed = Grid::new(CELLS, handed);
            let n = first.side;
            let at = |k: usize| 2.0 * (k as f32 + 0.5) / n as f32 - 1.0;
            let values = first.values.iter().enumerate().map(|(k, v)| v + handed.at(at(k % n), at(k / n)));
            Some(Grid::new(n, values.collect()))
        };
        first.into_iter().zip(handed).map(both).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::lamp::lamp;
    use crate::trace::bounce_of;
    use lightset::set::LightSet;

    /// A closed box of one reflectance: light that goes round it adds up to `1 / (1 - rho)` of what fell first, in the mean
    /// over all walls weighed by area (an integrating sphere: CIE 84).
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
        let wanted = 1.0 / (1.0 - rho);
        assert!((after / before / wanted - 1.0).abs() < 0.04, "{} for {wanted}", after / before);
    }
}
