//! The crown of the head: a light from behind is seen in hair and on the skull long before the face shows it.
//!
//! A skull is an ellipsoid wherever it is; hair shines along its curve. The light on it is a sum of what the
//! lights read from the face give it, matte and shining, of what comes from all around, and of what a light
//! from behind on either side would add: levels by non-negative least squares (Lawson & Hanson 1974), shine as
//! a lobe about the half vector (Blinn 1977). How much of the misfit a light from behind takes away says
//! whether there is one.

use super::fit::Lit;
use super::pose::Pose;
use nalgebra::{DMatrix, DVector};
use optics::geometry::{AzEl, Vec3, angle_between, fibonacci_sphere};
use optics::photo::{Photo, luminance};
use optics::solve::nnls;

/// Middle and half axes of a skull, metres from between the eyes (from memory of living proportions).
const MIDDLE: [f64; 3] = [0.0, 0.037, -0.097];
const HALF: [f64; 3] = [0.076, 0.090, 0.096];
/// Points over the whole skull.
const POINTS: usize = 3000;
/// Normals nearer to the outline than this are left out.
const EDGE: f64 = 0.25;
/// Exponents of the shine.
const SHINE: [f64; 2] = [8.0, 40.0];
/// Where a light from behind may stand.
const AZIMUTHS: [f64; 4] = [110.0, 125.0, 140.0, 155.0];
const ELEVATIONS: [f64; 3] = [5.0, 25.0, 45.0];
/// How much larger than the skull a head with hair usually is, and how much a departure must gain.
const USUAL: f64 = 1.03;
const UNUSUAL: f64 = 1.5;
/// How well a crown tells a direction, radians.
const TELLS: f64 = 0.35;
/// Spread of a sample about the model over the square root of its value, and over what it counts less.
const CAUCHY: f64 = 0.3;

/// A light from behind as the crown shows it.
#[derive(Debug, Clone, Copy)]
pub struct Glow {
    /// Unit vector, camera frame.
    pub direction: Vec3,
    /// Share of the misfit it takes away.
    pub saves: f64,
    /// Light it adds at its brightest over the crown's mean.
    pub peak: f64,
}

impl Glow {
    /// How far, in spreads, a light from behind on this side stands from where the crown shows it; nothing if it hardly
    /// does. A crown tells it to twenty degrees.
    pub(super) fn pull(&self, d: &Vec3) -> f64 {
        let same = d.z < 0.0 && (d.x < 0.0) == (self.direction.x < 0.0);
        let sure = (4.0 * self.saves * self.peak.min(1.0)).min(1.0);
        if same { sure * angle_between(d, &self.direction) / TELLS } else { 0.0 }
    }
}

struct Point {
    value: f64,
    normal: Vec3,
}

/// Light from behind on the left and on the right of the picture, if the crown shows it.
pub(super) fn glows(photo: &Photo, pose: &Pose, lit: &Lit) -> Vec<Glow> {
    let points = points(photo, pose);
    if points.len() < 80 {
        return Vec::new();
    }
    let view = Vec3::z();
    let column = |d: &Vec3, power: Option<f64>| -> Vec<f64> {
        let half = (d + view).normalize();
        points
            .iter()
            .map(|p| {
                let facing = p.normal.dot(d).max(0.0);
                match power {
                    None => facing,
                    Some(n) if facing > 0.0 => p.normal.dot(&half).max(0.0).powf(n) * (6.0 * facing).min(1.0),
                    Some(_) => 0.0,
                }
            })
            .collect()
    };
    let mut base: Vec<Vec<f64>> = vec![vec![1.0; points.len()]];
    base.push(points.iter().map(|p| 0.5 + 0.5 * p.normal.y).collect());
    for power in [None, Some(SHINE[0]), Some(SHINE[1])] {
        let mut sum = vec![0.0; points.len()];
        for (l, e) in lit.lobes.iter().zip(&lit.level).filter(|l| l.0.direction.z > -0.3) {
            sum.iter_mut().zip(column(&l.direction, power)).for_each(|(s, c)| *s += e * c);
        }
        base.push(sum);
    }
    let before = cost(&points, &base);
    let mut out = Vec::new();
    for side in [-1.0, 1.0] {
        let best = AZIMUTHS
            .iter()
            .flat_map(|a| ELEVATIONS.map(|e| AzEl { azimuth_deg: side * a, elevation_deg: e }.vector()))
            .map(|d| {
                let mut columns = base.clone();
                columns.extend([None, Some(SHINE[0]), Some(SHINE[1])].map(|p| column(&d, p)));
                let (c, x) = cost(&points, &columns);
                let mut added: Vec<f64> = (0..points.len())
                    .map(|i| (base.len()..columns.len()).map(|k| x[k] * columns[k][i]).sum::<f64>())
                    .collect();
                added.sort_by(f64::total_cmp);
                Glow { direction: d, saves: 1.0 - c / before.0, peak: added[added.len() * 49 / 50] }
            })
            .max_by(|a, b| a.saves.total_cmp(&b.saves));
        out.extend(best);
    }
    out
}

/// Robust cost and levels.
fn cost(points: &[Point], columns: &[Vec<f64>]) -> (f64, DVector<f64>) {
    let (n, k) = (points.len(), columns.len());
    let mut weight = vec![1.0; n];
    let mut x = DVector::zeros(k);
    let mut residual = vec![0.0; n];
    for _ in 0..4 {
        let mut gram = DMatrix::zeros(k, k);
        let mut rhs = DVector::zeros(k);
        for (i, p) in points.iter().enumerate() {
            let w = weight[i] / (p.value + 0.3);
            for a in 0..k {
                rhs[a] += w * columns[a][i] * p.value;
                for b in 0..k {
                    gram[(a, b)] += w * columns[a][i] * columns[b][i];
                }
            }
        }
        x = nnls(&gram, &rhs);
        for (i, p) in points.iter().enumerate() {
            let model: f64 = (0..k).map(|a| x[a] * columns[a][i]).sum();
            residual[i] = (p.value - model) / (p.value + 0.3).sqrt();
            weight[i] = 1.0 / (1.0 + (residual[i] / CAUCHY).powi(2)).sqrt();
        }
    }
    (residual.iter().map(|r| (1.0 + (r / CAUCHY).powi(2)).ln()).sum::<f64>().max(1e-9), x)
}

/// Samples of the crown over their mean.
fn points(photo: &Photo, pose: &Pose) -> Vec<Point> {
    let middle = Vec3::from(MIDDLE);
    let centre = pose.pixel(&middle);
    let skull: Vec<(Vec3, Vec3, [f64; 2])> = fibonacci_sphere(POINTS)
        .into_iter()
        .filter_map(|u| {
            let at = middle + u.component_mul(&Vec3::from(HALF));
            let normal = pose.normal(&u.component_div(&Vec3::from(HALF)).normalize());
            let p = pose.pixel(&at);
            (normal.z > -0.1).then_some((at, normal, [p[0] - centre[0], p[1] - centre[1]]))
        })
        .collect();
    let reach = |at: &Vec3| if at.z > -0.058 { at.y > 0.085 - 18.0 * at.x * at.x } else { at.y > 0.07 };
    // how much hair adds to the skull, across and upwards: where the picture changes most along the outline
    let (s, c) = pose.turn[2].sin_cos();
    let stretched = |o: &[f64; 2], k: &[f64; 2]| {
        let (u, v) = (c * o[0] + s * o[1], -s * o[0] + c * o[1]);
        let (u, v) = (u * k[0], v * k[1]);
        [centre[0] + c * u - s * v, centre[1] + s * u + c * v]
    };
    let rim: Vec<&(Vec3, Vec3, [f64; 2])> = skull.iter().filter(|p| p.1.z.abs() < 0.06 && p.0.y > 0.035).collect();
    let step = (0.05 * pose.scale * HALF[0]).max(1.0);
    let change = |k: [f64; 2]| {
        let mut sum = (0.0, 0.0);
        for p in &rim {
            let length = p.2[0].hypot(p.2[1]).max(1.0);
            let at = stretched(&p.2, &k);
            let out = [(at[0] - centre[0]) / length, (at[1] - centre[1]) / length];
            let look = |t: f64| photo.luminance_between(at[0] + t * out[0], at[1] + t * out[1]);
            if let (Some(a), Some(b)) = (look(-step), look(step)) {
                sum.0 += ((a + 0.004) / (b + 0.004)).ln().abs().min(1.5);
                sum.1 += 1.0;
            }
        }
        if sum.1 > 10.0 { sum.0 / sum.1 } else { 0.0 }
    };
    let tries: Vec<f64> = (0..13).map(|i| 0.93 + 0.03 * f64::from(i)).collect();
    let unusual = |k: &[f64; 2]| UNUSUAL * ((k[0] - USUAL).powi(2) + (k[1] - USUAL).powi(2));
    let best = tries
        .iter()
        .flat_map(|a| tries.iter().map(|b| [*a, *b]))
        .map(|k| (change(k) - unusual(&k), k))
        .max_by(|a, b| a.0.total_cmp(&b.0))
        .map_or([1.0; 2], |b| b.1);
    let mut values: Vec<Point> = skull
        .iter()
        .filter(|p| p.1.z > EDGE && reach(&p.0))
        .filter_map(|(_, normal, o)| {
            let at = stretched(o, &best);
            let s = photo.get(at[0].floor() as i64, at[1].floor() as i64)?;
            Some(Point { value: luminance(s.rgb), normal: *normal })
        })
        .collect();
    let mean = values.iter().map(|p| p.value).sum::<f64>() / values.len().max(1) as f64;
    values.iter_mut().for_each(|p| p.value /= mean.max(1e-6));
    values
}
