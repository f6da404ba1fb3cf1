//! What in a map is a light: by the irradiance it gives, not by its peak.

use super::gains::Whole;
use optics::geometry::{Vec3, angle_between, angular_size_of_solid_angle};
use optics::light_map::LightMap;

/// Blur before regions are cut, radians (standard deviation).
const BLUR: f64 = 0.026;
/// A region goes down to this part of its peak; regions nearer to each other than this, radians, are one.
const OF_PEAK: f64 = 0.25;
const ONE: f64 = 0.436;
/// What gives less than this part of all light is room.
const LEAST: f64 = 1.0 / 12.0;
/// What fills more than this is all around, radians.
const WIDEST: f64 = 1.92;
/// Regions cut at most, and the part of the light that may be left when cutting ends.
const MOST: usize = 30;
const LEFT: f64 = 0.05;

/// A light in a map.
#[derive(Debug, Clone)]
pub(super) struct Source {
    pub direction: Vec3,
    /// full angle of the disc of as much light, evenly bright, radians
    pub size: f64,
    /// `int L dw`
    pub light: f64,
    /// what of it falls on a surface facing it: `int L cos dw`
    pub facing: f64,
    /// linear colour, sum over the region
    pub rgb: [f64; 3],
    /// its standard deviation, from what the gains leave open
    pub light_sd: f64,
    /// standard deviation of its direction from the same, radians
    pub direction_sd: f64,
    /// light over what the map showed of it: how far it is inferred
    pub gain: f64,
}

/// The lights, that which gives most first, and what is left besides them.
pub(super) fn sources(whole: &Whole) -> (Vec<Source>, f64) {
    let map = &whole.map;
    let light: Vec<f64> = map.light().map(|l| l.1).collect();
    let total: f64 = light.iter().sum();
    let soft = map.blurred(BLUR);
    let mut free = vec![true; map.len()];
    let mut order: Vec<usize> = (0..map.len()).collect();
    order.sort_by(|a, b| soft[*b].total_cmp(&soft[*a]));
    let mut order = order.into_iter();
    let mut found: Vec<Vec<usize>> = Vec::new();
    let mut left = total;
    while found.len() < MOST && left > LEFT * total {
        let Some(peak) = order.find(|i| free[*i]) else { break };
        let own = region(map, &soft, &free, peak);
        own.iter().for_each(|i| free[*i] = false);
        left -= own.iter().map(|i| light[*i]).sum::<f64>();
        found.push(own);
    }
    let sum = |own: &[usize]| own.iter().map(|i| light[*i]).sum::<f64>();
    let middle = |own: &[usize]| own.iter().map(|i| map.direction(*i) * light[*i]).sum::<Vec3>();
    found.sort_by(|a, b| sum(b).total_cmp(&sum(a)));
    let mut joined: Vec<Vec<usize>> = Vec::new();
    for own in found {
        let at = middle(&own);
        match joined.iter_mut().find(|o| angle_between(&middle(o), &at) < ONE) {
            Some(o) => o.extend(own),
            None => joined.push(own),
        }
    }
    joined.sort_by(|a, b| sum(b).total_cmp(&sum(a)));
    joined.retain(|own| sum(own) > LEAST * total);
    let mut lights: Vec<Source> = joined.iter().filter_map(|own| source(whole, own, &light)).collect();
    lights.retain(|s| s.size < WIDEST);
    let rest = total - lights.iter().map(|s| s.light).sum::<f64>();
    (lights, rest)
}

/// Variances of the light of some cells: of their sum, of the direction of their middle (radians), and of how directional
/// they are (0 to 1).
pub(super) struct Open {
    pub light: f64,
    pub direction: f64,
    pub directional: f64,
}

/// What the gains leave open of the light of some cells.
pub(super) fn left_open(whole: &Whole, own: impl Iterator<Item = usize>) -> Open {
    let map = &whole.map;
    let n = whole.spread.nrows();
    let (mut each, mut towards) = (vec![0.0; n], vec![Vec3::zeros(); n]);
    let (mut all, mut sum) = (Vec3::zeros(), 0.0);
    for i in own {
        let light = map.luminance(i) * map.solid_angle(i / map.columns());
        all += map.direction(i) * light;
        sum += light;
        if let Some(g) = whole.group[i].checked_sub(1).filter(|g| *g < n) {
            let shown = light / f64::from(whole.gain[i]).max(1e-6);
            each[g] += shown;
            towards[g] += map.direction(i) * shown;
        }
    }
    let long = all.norm().max(1e-12);
    let middle = all / long;
    let across: Vec<Vec3> = towards.iter().map(|t| (t - middle * t.dot(&middle)) / long).collect();
    let touched: Vec<usize> = (0..n).filter(|g| each[*g] > 0.0).collect();
    // the length of the mean light against the light of each gain
    let sum = f64::max(sum, 1e-12);
    let along: Vec<f64> = towards.iter().zip(&each).map(|(t, e)| (t.dot(&middle) - long / sum * e) / sum).collect();
    let mut open = Open { light: 0.0, direction: 0.0, directional: 0.0 };
    for &a in &touched {
        for &b in &touched {
            let c = whole.spread[(a, b)];
            open.light += each[a] * each[b] * c;
            open.direction += across[a].dot(&across[b]) * c;
            open.directional += along[a] * along[b] * c;
        }
    }
    Open { light: open.light.max(0.0), direction: open.direction.max(0.0), directional: open.directional.max(0.0) }
}

fn source(whole: &Whole, own: &[usize], light: &[f64]) -> Option<Source> {
    let map = &whole.map;
    let (mut towards, mut all, mut squares, mut shown, mut rgb) = (Vec3::zeros(), 0.0, 0.0, 0.0, [0.0; 3]);
    for &i in own {
        towards += map.direction(i) * light[i];
        all += light[i];
        squares += light[i] * map.luminance(i);
        shown += light[i] / f64::from(whole.gain[i]).max(1e-6);
        let omega = map.solid_angle(i / map.columns());
        (0..3).for_each(|c| rgb[c] += omega * f64::from(map.cells()[i][c]));
    }
    let open = left_open(whole, own.iter().copied());
    let direction = towards.try_normalize(1e-12)?;
    Some(Source {
        facing: own.iter().map(|&i| light[i] * map.direction(i).dot(&direction).max(0.0)).sum(),
        light_sd: open.light.sqrt(),
        direction_sd: open.direction.sqrt().min(1.5),
        direction,
        size: angular_size_of_solid_angle(all * all / squares.max(1e-12)),
        light: all,
        rgb,
        gain: all / shown.max(1e-12),
    })
}

/// The cells connected with a peak that are brighter than a part of it.
fn region(map: &LightMap, soft: &[f64], free: &[bool], peak: usize) -> Vec<usize> {
    let (rows, columns) = (map.rows(), map.columns());
    let threshold = OF_PEAK * soft[peak];
    let mut seen = vec![false; map.len()];
    let mut stack = vec![peak];
    seen[peak] = true;
    let mut out = Vec::new();
    while let Some(i) = stack.pop() {
        out.push(i);
        let (r, c) = (i / columns, i % columns);
        // over a pole lies the other side of the first row
        let up = if r > 0 { (r - 1) * columns + c } else { (c + rows) % columns };
        let down = if r + 1 < rows { (r + 1) * columns + c } else { r * columns + (c + rows) % columns };
        for j in [up, down, r * columns + (c + 1) % columns, r * columns + (c + columns - 1) % columns] {
            if !seen[j] && free[j] && soft[j] > threshold {
                seen[j] = true;
                stack.push(j);
            }
        }
    }
    out
}
