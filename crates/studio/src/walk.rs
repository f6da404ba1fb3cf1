//! A meter carried along the marks of a walk.

use crate::level::Levels;
use crate::points::stops;
use crate::probe::Probe;
use lightset::meter::{PointLight, WalkMeter, WalkPoint};
use lightset::set::LightSet;
use optics::geometry::Vec3;
use rayon::prelude::*;

/// How far apart it is read, metres, and how often at the most.
const STEP_M: f64 = 0.25;
const MOST: usize = 48;
/// What somebody who walks may differ by and still be even: half a stop (common practice).
const EVEN_STOPS: f64 = 0.5;

/// Places along the marks: each mark, and between them about every step.
fn places(marks: &[[f64; 2]]) -> Vec<(Option<usize>, [f64; 2], f64)> {
    let length: f64 = marks.windows(2).map(|w| far(w[0], w[1])).sum();
    let step = STEP_M.max(length / (MOST - marks.len()).max(1) as f64);
    let mut out = vec![(Some(0), marks[0], 0.0)];
    let mut along = 0.0;
    for (k, w) in marks.windows(2).enumerate() {
        let d = far(w[0], w[1]);
        let n = (d / step).round().max(1.0) as usize;
        for i in 1..=n {
            let t = i as f64 / n as f64;
            let at = [0, 1].map(|a| w[0][a] + t * (w[1][a] - w[0][a]));
            out.push(((i == n).then_some(k + 1), at, along + t * d));
        }
        along += d;
    }
    out
}

fn far(a: [f64; 2], b: [f64; 2]) -> f64 {
    (a[0] - b[0]).hypot(a[1] - b[1])
}

/// The longest stretch whose readings differ by no more than [`EVEN_STOPS`].
fn evenest(points: &[WalkPoint]) -> [f64; 2] {
    let mut best = [0.0, 0.0];
    for i in 0..points.len() {
        let (mut lo, mut hi) = (f64::MAX, f64::MIN);
        for p in &points[i..] {
            (lo, hi) = (lo.min(p.dome_stops), hi.max(p.dome_stops));
            if hi - lo > EVEN_STOPS {
                break;
            }
            if p.along_m - points[i].along_m > best[1] - best[0] {
                best = [points[i].along_m, p.along_m];
            }
        }
    }
    best
}

/// Meters the walk of a set; nobody stands in it. `None` with fewer than two marks.
pub(crate) fn walk(set: &LightSet, levels: &Levels) -> Option<WalkMeter> {
    if set.walk_m.len() < 2 {
        return None;
    }
    let room = Probe::of(&LightSet { subjects: Vec::new(), ..set.clone() });
    let lens = Vec3::from(set.camera.position_m);
    let read = |(mark, at, along): (Option<usize>, [f64; 2], f64)| {
        let p = Vec3::new(at[0], 0.0, at[1]);
        let toward = (lens - p).try_normalize(1e-6).unwrap_or_else(Vec3::z);
        let (flat, dome) = (room.flat(&p, &toward), room.dome(&p, &toward));
        let lights = set.lights.iter().zip(dome.lamps.iter().zip(&levels.lamps)).filter(|(l, _)| !l.off);
        WalkPoint {
            mark,
            at_m: at,
            along_m: along,
            dome_stops: stops(levels.together(&dome)),
            flat_stops: stops(levels.together(&flat)),
            lights: lights.map(|(l, (e, k))| PointLight { name: l.name.clone(), stops: stops(e * k) }).collect(),
        }
    };
    let points: Vec<WalkPoint> = places(&set.walk_m).into_par_iter().map(read).collect();
    let by = |a: &&WalkPoint, b: &&WalkPoint| a.dome_stops.total_cmp(&b.dome_stops);
    let (dark, bright) = (points.iter().min_by(by)?, points.iter().max_by(by)?);
    let differs_stops = bright.dome_stops - dark.dome_stops;
    let even_m = evenest(&points);
    let all = points.last()?.along_m;
    let mut says = vec![format!(
        "Along {all:.1} m a dome turned to the lens differs by {differs_stops:.1} stops: brightest at {:.1} m, darkest at {:.1} m.",
        bright.along_m, dark.along_m
    )];
    if differs_stops > EVEN_STOPS {
        says.push(format!(
            "It stays within half a stop from {:.1} to {:.1} m. Elsewhere: a lamp farther away with more power falls off less; \
             or open the aperture on the way.",
            even_m[0], even_m[1]
        ));
    } else {
        says.push("Even enough to walk without touching the aperture.".into());
    }
    Some(WalkMeter { points, differs_stops, even_m, says })
}
