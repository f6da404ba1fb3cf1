//! Edges of shadows: one material on both sides, lit and not, with a turn that is not as sharp as an outline.

use super::likely::Signs;
use super::small::{EdgePoint, Small};
use direction::penumbra;
use optics::photo::Photo;

/// A shadow's edge on the photo.
pub(super) struct Found {
    pub a: [f64; 2],
    pub b: [f64; 2],
    pub width_px: f64,
    pub step_stops: f64,
    pub strength: f64,
    /// A square on the lit side.
    pub lit: [[f64; 2]; 4],
    /// A square on the dark side.
    pub shadow: [[f64; 2]; 4],
}

impl Found {
    /// What speaks for it.
    pub fn signs(&self) -> Signs {
        Signs { kind: "edge", values: vec![self.strength, self.step_stops.min(4.0), self.width_px.max(1.0).ln()] }
    }
}

/// Tried at most.
const TRIED: usize = 160;
/// Proposed at most.
const MOST: usize = 2;
/// Stops a shadow lies at least under the light.
const STEP: f64 = 0.5;
/// How far red or blue over green may differ between the sides, in natural logs: shadows are often cooler.
const SAME_COLOUR: f64 = 0.22;

pub(super) fn find(photo: &Photo, small: &Small) -> Vec<Found> {
    // Spread over the picture: the strongest point of each tile.
    let tile = (small.width.max(small.height) / 16).max(8);
    let mut best: std::collections::BTreeMap<(usize, usize), EdgePoint> = Default::default();
    for e in &small.edges {
        let key = (e.x as usize / tile, e.y as usize / tile);
        let b = best.entry(key).or_insert(*e);
        if e.strength > b.strength {
            *b = *e;
        }
    }
    let mut points: Vec<EdgePoint> = best.into_values().collect();
    points.sort_by(|a, b| b.strength.total_cmp(&a.strength));
    points.truncate(TRIED);
    let mut all: Vec<Found> = points.iter().filter_map(|e| shadow(photo, small, e)).collect();
    all.sort_by(|a, b| b.strength.total_cmp(&a.strength));
    let mut out: Vec<Found> = Vec::new();
    let apart = 0.15 * f64::from(photo.width().max(photo.height()));
    for f in all {
        if out.len() < MOST && out.iter().all(|o| (f.a[0] - o.a[0]).hypot(f.a[1] - o.a[1]) > apart) {
            out.push(f);
        }
    }
    out
}

fn shadow(photo: &Photo, small: &Small, e: &EdgePoint) -> Option<Found> {
    let (x, y, dx, dy) = (f64::from(e.x), f64::from(e.y), f64::from(e.dx), f64::from(e.dy));
    // The turn may be wide: walk both ways until brightness stays.
    let value = |t: f64| small.luminance(x + t * dx, y + t * dy).map(|l| (l + 1e-4).ln());
    let flat = |sign: f64| {
        let mut t = 2.0;
        while t < 40.0 {
            if (value(sign * (t + 3.0))? - value(sign * t)?).abs() < 0.04 {
                return Some(t);
            }
            t += 1.0;
        }
        None
    };
    let (up, down) = (flat(1.0)?, flat(-1.0)?);
    let reach = up.max(down) + 4.0;
    let (lit, dark) = (small.at(x + reach * dx, y + reach * dy)?, small.at(x - reach * dx, y - reach * dy)?);
    let log = |c: [f32; 3], k: usize| (f64::from(c[k]) + 1e-4).ln() - (f64::from(c[1]) + 1e-4).ln();
    let tint = (log(lit, 0) - log(dark, 0)).abs().max((log(lit, 2) - log(dark, 2)).abs());
    if tint > SAME_COLOUR || dark[1] < 0.002 {
        return None;
    }
    let k = small.scale;
    let at = |t: f64, along: f64| [(x + t * dx - along * dy) * k, (y + t * dy + along * dx) * k];
    let (a, b) = (at(-reach, 0.0), at(reach, 0.0));
    let read = penumbra::read(photo, a, b, None, None).ok()?;
    if read.step_stops < STEP || read.unresolved || read.width_px < 2.2 || read.log_width_sd > 0.25 {
        return None;
    }
    // Both sides even, and the edge runs on to either side: texture is neither.
    let steady = |t: f64| {
        let v: Vec<f64> = [-6.0, -3.0, 0.0, 3.0, 6.0]
            .iter()
            .filter_map(|o| small.luminance(x + t * dx - o * dy, y + t * dy + o * dx).map(|l| (l + 1e-4).log2()))
            .collect();
        let (lo, hi) = v.iter().fold((f64::MAX, f64::MIN), |(l, h), v| (l.min(*v), h.max(*v)));
        (v.len() == 5).then_some(hi - lo)
    };
    let uneven = steady(reach)?.max(steady(-reach)?);
    if uneven > 0.35 * read.step_stops {
        return None;
    }
    let half = 3.0;
    let square = |t: f64| [at(t - half, -half), at(t + half, -half), at(t + half, half), at(t - half, half)];
    let strength =
        (1.0 - uneven / read.step_stops) * (1.0 - tint / SAME_COLOUR / 2.0) * (read.step_stops / 2.0).min(1.0);
    Some(Found {
        a,
        b,
        width_px: read.width_px,
        step_stops: read.step_stops,
        strength,
        lit: square(reach + half),
        shadow: square(-reach - half),
    })
}
