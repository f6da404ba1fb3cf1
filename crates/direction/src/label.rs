//! The shading of an upright cylinder, printed or plain: from which side its light comes.
//!
//! A print changes from row to row and from place to place, the shading is the same in all rows: each row over its own median,
//! and of all rows the median, leaves the shading (bands cancel, letters are outvoted). A matte cylinder under a disc of light
//! round the azimuth `a` is `A max(0, cos(phi - a))` blurred by what the light subtends, and `B` from all around; of these `A`
//! and `B` by non-negative least squares, `a` and the blur from a grid. The camera's curve makes shadows darker and a crescent of
//! light narrower: curves of several contrasts are tried, and none is believed over another beforehand.

use crate::cylinder::normal_azimuth;
use optics::geometry::Camera;
use optics::photo::Photo;
use optics::solve::median;

/// From which side a cylinder is lit.
#[derive(Debug, Clone, Copy)]
pub struct Side {
    /// Azimuth about the axis in radians, 0 along the lens axis, positive to the image side right of the axis walked upwards.
    pub azimuth: f64,
    /// Standard deviation, radians.
    pub sd: f64,
    /// Root mean square of what the shading leaves over, of its brightest part.
    pub residual: f64,
}

/// Columns across, the outermost relative offset looked at, and rows along.
const COLUMNS: usize = 61;
const OUTERMOST: f64 = 0.94;
const MOST_ROWS: usize = 120;
/// Least radius and length, pixels.
const LEAST_RADIUS: f64 = 10.0;
const LEAST_LENGTH: f64 = 24.0;
/// Azimuths tried, and half of what a light subtends, radians.
const STEP: f64 = 0.035;
const HALVES: [f64; 4] = [0.0, 0.3, 0.6, 1.0];
/// Contrasts of the camera's curve (cameras' own pictures lie between: mean 1.17).
const CONTRASTS: [f64; 3] = [1.0, 1.17, 1.4];
/// What lies farther behind lights nothing that is seen, radians.
const FARTHEST: f64 = 2.6;
/// Columns that err alike: print and grain are wider than one.
const ALIKE: f64 = 6.0;
/// Least noise of the shading, of its brightest part: curves, paper, other lights.
const NOISE: f64 = 0.02;
/// Cauchy scale in units of the noise.
const CAUCHY: f64 = 2.5;
/// Least spread: lights beside the key and the camera's curve move it so far (drawn and traced cans: `evaluation cans`).
const LEAST_SD: f64 = 0.17;
/// A profile that varies by less than this part of its brightest tells no side.
const FLAT: f64 = 0.06;
/// More left over than this is no shading.
const UNEXPLAINED: f64 = 0.12;

/// Reads the side from a cylinder marked by its axis and radius, pixels. `None` where it is too small, cut by the frame, evenly
/// lit, or not shaded as one light shades it.
pub fn side(photo: &Photo, camera: Camera, axis: [[f64; 2]; 2], radius: f64) -> Option<Side> {
    let [p, q] = if axis[0][1] >= axis[1][1] { axis } else { [axis[1], axis[0]] };
    let length = (q[0] - p[0]).hypot(q[1] - p[1]);
    if radius < LEAST_RADIUS || length < LEAST_LENGTH {
        return None;
    }
    let u = [(q[0] - p[0]) / length, (q[1] - p[1]) / length];
    let across = [-u[1], u[0]];
    let rows = (0.76 * length).min(MOST_ROWS as f64) as usize;
    let offset = |i: usize| OUTERMOST * (2.0 * i as f64 / (COLUMNS - 1) as f64 - 1.0);
    let mut columns = vec![Vec::new(); COLUMNS];
    for k in 0..rows {
        let t = length * (0.12 + 0.76 * (k as f64 + 0.5) / rows as f64);
        let at = |i: usize| {
            let s = offset(i) * radius;
            photo.luminance_between(p[0] + u[0] * t + across[0] * s, p[1] + u[1] * t + across[1] * s)
        };
        let row: Option<Vec<f64>> = (0..COLUMNS).map(at).collect();
        let Some(row) = row else { continue };
        let middle = median(&mut row.clone()).max(1e-4);
        columns.iter_mut().zip(row).for_each(|(c, v)| c.push((v.max(1e-4) / middle).ln()));
    }
    if columns[0].len() * 2 < rows {
        return None;
    }
    let mut profile: Vec<f64> = columns.iter_mut().map(|c| median(c).exp()).collect();
    let top = profile.iter().copied().fold(0.0, f64::max);
    profile.iter_mut().for_each(|v| *v /= top);
    let mid = [f64::midpoint(p[0], q[0]), f64::midpoint(p[1], q[1])];
    let normals: Vec<f64> = (0..COLUMNS).map(|i| normal_azimuth(camera, mid, across, offset(i), radius)).collect();
    fit(&profile, &normals)
}

/// The azimuth that explains a profile over normals, with what is left open of it.
fn fit(profile: &[f64], normals: &[f64]) -> Option<Side> {
    let least = profile.iter().copied().fold(f64::MAX, f64::min);
    if 1.0 - least < FLAT {
        return None;
    }
    let steps = (2.0 * FARTHEST / STEP) as usize;
    let shapes: Vec<(f64, Vec<f64>)> = (0..=steps)
        .flat_map(|k| HALVES.map(|half| (STEP * k as f64 - FARTHEST, half)))
        .map(|(a, half)| (a, normals.iter().map(|n| blurred(n - a, half)).collect()))
        .collect();
    let all: Vec<(f64, f64, [f64; 2], f64)> = CONTRASTS
        .iter()
        .flat_map(|contrast| {
            let linear: Vec<f64> = profile.iter().map(|v| v.powf(1.0 / contrast)).collect();
            let one = |(a, lit): &(f64, Vec<f64>)| {
                let (level, cost, rms) = levels(&linear, lit);
                (*a, cost, level, rms)
            };
            shapes.iter().map(one).collect::<Vec<_>>()
        })
        .collect();
    let best = all.iter().min_by(|a, b| a.1.total_cmp(&b.1))?;
    if best.3 > UNEXPLAINED || best.2[0] <= 0.0 {
        return None;
    }
    // as unsure as the noise that is left over makes it
    let scale = ALIKE * (best.3 / NOISE).powi(2).max(1.0);
    let weight = |c: f64| (-0.5 * (c - best.1) / scale).exp();
    let sum: f64 = all.iter().map(|t| weight(t.1)).sum();
    let mean = all.iter().map(|t| t.0 * weight(t.1)).sum::<f64>() / sum;
    let var = all.iter().map(|t| (t.0 - mean).powi(2) * weight(t.1)).sum::<f64>() / sum;
    Some(Side { azimuth: mean, sd: var.sqrt().hypot(LEAST_SD), residual: best.3 })
}

/// `max(0, cos x)` averaged over a light that fills `half` to each side.
fn blurred(x: f64, half: f64) -> f64 {
    const PARTS: usize = 5;
    let at = |k: usize| x + half * (2.0 * (k as f64 + 0.5) / PARTS as f64 - 1.0);
    (0..PARTS).map(|k| at(k).cos().max(0.0)).sum::<f64>() / PARTS as f64
}

/// Levels of the light and of all around that explain a profile best, none below zero; the cost, and what is left over.
fn levels(profile: &[f64], lit: &[f64]) -> ([f64; 2], f64, f64) {
    let mut weight = vec![1.0; profile.len()];
    let mut level = [0.0, 0.0];
    for _ in 0..3 {
        let sum = |f: &dyn Fn(usize) -> f64| (0..profile.len()).map(|i| weight[i] * f(i)).sum::<f64>();
        let (ll, l1, n) = (sum(&|i| lit[i] * lit[i]), sum(&|i| lit[i]), sum(&|_| 1.0));
        let (ly, y) = (sum(&|i| lit[i] * profile[i]), sum(&|i| profile[i]));
        let det = ll * n - l1 * l1;
        let both = if det > 1e-9 { [(ly * n - l1 * y) / det, (ll * y - l1 * ly) / det] } else { [0.0, y / n] };
        level = match both {
            [a, _] if a < 0.0 => [0.0, y / n],
            [_, b] if b < 0.0 => [ly / ll.max(1e-9), 0.0],
            both => both,
        };
        for i in 0..profile.len() {
            let e = (profile[i] - level[0] * lit[i] - level[1]) / NOISE;
            weight[i] = 1.0 / (1.0 + (e / CAUCHY).powi(2));
        }
    }
    let off = |i: usize| profile[i] - level[0] * lit[i] - level[1];
    let cost = (0..profile.len()).map(|i| CAUCHY * CAUCHY * (1.0 + (off(i) / NOISE / CAUCHY).powi(2)).ln()).sum();
    // a line that shines is not of the shading: the middle of what is left over
    let mut squares: Vec<f64> = (0..profile.len()).map(|i| off(i).powi(2)).collect();
    (level, cost, 1.48 * median(&mut squares).sqrt())
}

#[cfg(test)]
mod tests {
    use super::*;
    use optics::photo::Samples;
    use optics::tone::Encoding;

    fn photo(value: impl Fn(u32, u32) -> f64) -> Photo {
        let samples = (0..260).flat_map(|y| (0..160).map(move |x| (x, y))).flat_map(|(x, y)| [value(x, y) as f32; 3]);
        Photo::new(160, 260, Samples::Linear(samples.collect()), &Encoding::Srgb).unwrap()
    }

    /// A cylinder 200 px long and 50 px in radius on grey: bands and a block printed on it, lit from an azimuth by a small light
    /// and from all around (Lambert 1760), seen from far.
    fn drawn(azimuth: f64, around: f64, print: bool) -> Photo {
        photo(|x, y| {
            let s = (f64::from(x) + 0.5 - 80.0) / 50.0;
            if s.abs() >= 1.0 || !(30..230).contains(&y) {
                return 0.2;
            }
            let ink = match y {
                60..90 if print => 0.3,
                120..150 if print && (70..85).contains(&x) => 0.15,
                _ => 0.6,
            };
            ink * ((s.asin() - azimuth).cos().max(0.0) + around)
        })
    }

    #[test]
    fn the_side_is_read_through_print() {
        let axis = [[80.0, 230.0], [80.0, 30.0]];
        for azimuth in [-120.0f64, -60.0, -20.0, 0.0, 35.0, 80.0, 110.0] {
            for (around, print) in [(0.1, false), (0.25, true)] {
                let photo = drawn(azimuth.to_radians(), around, print);
                let r = side(&photo, Camera::far(160, 260), axis, 50.0).unwrap();
                let off = (r.azimuth.to_degrees() - azimuth).abs();
                assert!(off < 8.0 && off < 2.0 * r.sd.to_degrees(), "{:.1} for {azimuth}", r.azimuth.to_degrees());
            }
        }
    }

    #[test]
    fn what_is_evenly_lit_or_small_tells_no_side() {
        let flat = photo(|_, _| 0.3);
        let axis = [[80.0, 230.0], [80.0, 30.0]];
        assert!(side(&flat, Camera::far(160, 260), axis, 50.0).is_none());
        let lit = drawn(0.5, 0.1, false);
        assert!(side(&lit, Camera::far(160, 260), axis, 6.0).is_none());
        assert!(side(&lit, Camera::far(160, 260), [[5.0, 230.0], [5.0, 30.0]], 50.0).is_none());
    }
}
