//! Where cables run: from each lamp's stand to the outlet, round the walkway between lens and subject.

use crate::set::{Level, LightSet, SetLight};
use optics::geometry::Vec3;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Half the width people walk in, metres (common practice: a metre is kept free).
const HALF_WALK_M: f64 = 0.5;
/// How far the walkway reaches behind the lens: whoever takes the picture stands there.
const BEHIND_LENS_M: f64 = 0.8;
/// Slack at both ends of a cable.
const SLACK_M: f64 = 0.5;
/// A cable keeps this far from the walkway.
const CLEAR_M: f64 = 0.1;

/// A cable on the floor.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Cable {
    /// Name of the lamp.
    pub light: String,
    /// Its corners on the floor, x and z of the set frame, from the stand to the outlet.
    #[schema(value_type = Vec<optics::geometry::Pair>)]
    pub path_m: Vec<[f64; 2]>,
    /// Length to bring: along the floor, up the stand, slack.
    pub length_m: f64,
    /// It cannot keep out of the walkway: tape it down or cover it there.
    pub crosses: bool,
}

/// The strip that is kept free, in its own axes: `s` along from the subject to behind the lens, `t` across.
struct Walk {
    along: [f64; 2],
    length: f64,
}

impl Walk {
    fn of(set: &LightSet) -> Walk {
        let c = set.camera.position_m;
        let d = c[0].hypot(c[2]).max(0.3);
        Walk { along: [c[0] / d, c[2] / d], length: d + BEHIND_LENS_M }
    }

    fn inner(&self, p: [f64; 2]) -> [f64; 2] {
        let [x, z] = self.along;
        [p[0] * x + p[1] * z, p[0] * z - p[1] * x]
    }

    fn outer(&self, p: [f64; 2]) -> [f64; 2] {
        let [x, z] = self.along;
        [p[0] * x + p[1] * z, p[0] * z - p[1] * x]
    }

    /// Whether a line meets the strip (both ends in its own axes): clipping by the four sides.
    fn meets(&self, a: [f64; 2], b: [f64; 2]) -> bool {
        let (mut from, mut to) = (0.0f64, 1.0f64);
        let lows = [0.0, -HALF_WALK_M];
        let highs = [self.length, HALF_WALK_M];
        for k in 0..2 {
            let d = b[k] - a[k];
            if d.abs() < 1e-12 {
                if a[k] <= lows[k] || a[k] >= highs[k] {
                    return false;
                }
                continue;
            }
            let (p, q) = ((lows[k] - a[k]) / d, (highs[k] - a[k]) / d);
            from = from.max(p.min(q));
            to = to.min(p.max(q));
        }
        from < to - 1e-9
    }

    fn holds(&self, p: [f64; 2]) -> bool {
        p[0] > 0.0 && p[0] < self.length && p[1].abs() < HALF_WALK_M
    }
}

/// The corners of the walkway on the floor, for drawings.
pub fn walkway(set: &LightSet) -> [[f64; 2]; 4] {
    let w = Walk::of(set);
    [(0.0, -1.0), (w.length, -1.0), (w.length, 1.0), (0.0, 1.0)].map(|(s, t)| w.outer([s, t * HALF_WALK_M]))
}

/// Whether a lamp hangs on a cable: daylight does not, and a flash given by its guide number is taken to run on
/// batteries.
pub fn is_wired(l: &SetLight) -> bool {
    !l.off && !l.source.is_window() && !matches!(l.level, Level::Guide { .. })
}

/// Where the outlet is: as the set has it, or a metre behind the lens and a metre and a half to its left.
pub fn outlet(set: &LightSet) -> [f64; 2] {
    set.outlet_m.unwrap_or([set.camera.position_m[0] - 1.5, set.camera.position_m[2] + 1.0])
}

/// The cables of a set: the shortest ways that keep out of the walkway (a visibility graph about its corners).
pub fn cables(set: &LightSet) -> Vec<Cable> {
    let walk = Walk::of(set);
    let (s, t) = (walk.length + CLEAR_M, HALF_WALK_M + CLEAR_M);
    let corners = [[-CLEAR_M, -t], [s, -t], [s, t], [-CLEAR_M, t]];
    let end = walk.inner(outlet(set));
    set.lights
        .iter()
        .filter(|l| is_wired(l))
        .map(|l| {
            let at: Vec3 = l.position();
            let start = walk.inner([at.x, at.z]);
            let mut nodes = vec![start];
            nodes.extend(corners);
            nodes.push(end);
            let stuck = walk.holds(start) || walk.holds(end);
            let free = |i: usize, j: usize| {
                let own = |k: usize| (k == 0 && walk.holds(start)) || (k == nodes.len() - 1 && walk.holds(end));
                own(i) || own(j) || !walk.meets(nodes[i], nodes[j])
            };
            let long = |i: usize, j: usize| (nodes[i][0] - nodes[j][0]).hypot(nodes[i][1] - nodes[j][1]);
            // six nodes: relaxing all edges as often as there are nodes is enough
            let n = nodes.len();
            let mut best = vec![(f64::MAX, 0usize); n];
            best[0].0 = 0.0;
            for _ in 0..n {
                for i in 0..n {
                    for j in 0..n {
                        if best[i].0 < f64::MAX && i != j && free(i, j) && best[i].0 + long(i, j) < best[j].0 {
                            best[j] = (best[i].0 + long(i, j), i);
                        }
                    }
                }
            }
            let mut path = vec![n - 1];
            while path[path.len() - 1] != 0 {
                path.push(best[path[path.len() - 1]].1);
            }
            path.reverse();
            let up = (at.y + set.floor_m()).max(0.0);
            Cable {
                light: l.name.clone(),
                path_m: path.iter().map(|k| walk.outer(nodes[*k])).collect(),
                length_m: best[n - 1].0 + up + SLACK_M,
                crosses: stuck,
            }
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn set(az: f64, outlet: [f64; 2]) -> LightSet {
        LightSet::from_value(serde_json::json!({"format": "slant-set/1", "outlet_m": outlet,
            "camera": {"position_m": [0, 0, 2], "exposure": {"f_number": 8, "shutter_s": 0.01, "iso": 100}},
            "lights": [{"name": "key", "azimuth_deg": az, "elevation_deg": 0, "distance_m": 1.5,
                "source": {"kind": "disc", "diameter_m": 0.5}, "level": {"stops": 0}}]}))
        .expect("a set")
        .set
    }

    #[test]
    fn a_cable_on_the_outlets_side_runs_straight() {
        let c = &cables(&set(-60.0, [-2.0, 3.0]))[0];
        assert_eq!(c.path_m.len(), 2);
        let (x, z) = (1.5 * 60f64.to_radians().sin(), 0.75);
        assert!((c.length_m - ((2.0 - x).hypot(3.0 - z) + 1.25 + 0.5)).abs() < 1e-9);
        assert!(!c.crosses);
    }

    #[test]
    fn a_cable_from_the_other_side_goes_round_behind_whoever_takes_the_picture() {
        let s = set(60.0, [-2.0, 3.0]);
        let c = &cables(&s)[0];
        assert!(c.path_m.len() > 2 && !c.crosses, "{c:?}");
        let walk = Walk::of(&s);
        for pair in c.path_m.windows(2) {
            assert!(!walk.meets(walk.inner(pair[0]), walk.inner(pair[1])), "{c:?}");
        }
        // no shorter way: over the nearer end of the strip
        assert!(c.path_m.iter().any(|p| p[1] > 2.7) || c.path_m.iter().any(|p| p[1] < 0.0));
    }

    #[test]
    fn a_lamp_over_the_walkway_is_told_of() {
        assert!(cables(&set(0.0, [-2.0, 3.0]))[0].crosses);
    }
}
