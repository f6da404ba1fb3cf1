//! What each light would do to a posed head: samples of the picture and plates from the light bank.
//!
//! `B_j(p) = V(p, w_j) max(0, n.w_j)` for every direction of the bank; a source of an angular size is
//! the bank under the lobe of that size, with cast shadows and all. Samples are not blurred: the edges
//! of cast shadows carry most of what a face says.

use super::pose::Pose;
use super::stand_in::{BANK, StandIn, ZONES, bank};
use crate::geometry::{Vec3, tangent_frame};
use crate::photo::{Photo, luminance};
use nalgebra::{DMatrix, Matrix2, Vector2};

/// Features of the surface colour: log red over green, log blue over green, and the zones.
pub(super) const FEATURES: usize = 2 + ZONES;
/// Half width of the bank's own kernel in radians: its directions lie 3.7 degrees apart.
const KERNEL: f64 = 0.055;
/// One over the usual distance of a light in metres (common practice: one to two and a half metres).
const NEAR: f64 = 0.6;
/// Most samples used.
const MOST: usize = 900;

/// Samples of skin with what a plate needs to know of each.
pub(super) struct Samples {
    /// Linear luminance over the 90th percentile.
    pub value: Vec<f64>,
    /// What `value` was divided by.
    pub unit: f64,
    /// Square root of the weight.
    pub weight: Vec<f64>,
    /// Surface features, zero mean.
    pub features: DMatrix<f64>,
    /// Pixels.
    pub at: Vec<[f64; 2]>,
    /// Share of clipped samples.
    pub clipped: f64,
    normal: Vec<Vec3>,
    place: Vec<Vec3>,
    /// index of the stand-in's point
    point: Vec<usize>,
    /// bank in the camera frame, and the weight of each direction
    direction: Vec<Vec3>,
    share: Vec<f64>,
}

impl Samples {
    /// Takes the samples of a posed head. `None` if fewer than sixty can be used.
    pub fn take(photo: &Photo, head: &StandIn, pose: &Pose) -> Option<Samples> {
        let (direction, share): (Vec<Vec3>, Vec<f64>) = bank().iter().map(|w| pose.direction(w)).unzip();
        let view = pose.own(&Vec3::z());
        // the nearest directions of the bank say whether the camera sees a point
        let mut order: Vec<usize> = (0..BANK).collect();
        order.select_nth_unstable_by(5, |a, b| bank()[*b].dot(&view).total_cmp(&bank()[*a].dot(&view)));
        let towards = &order[..5];
        let mut list = Vec::new();
        for (i, p) in head.points.iter().enumerate() {
            let normal = pose.normal(&p.normal);
            if normal.z < 0.22 || towards.iter().filter(|j| head.sees(i, **j)).count() < 3 {
                continue;
            }
            list.push((i, normal));
        }
        let every = (list.len() as f64 / MOST as f64).max(1.0);
        // a sample is the mean over about a third of the way to its neighbours
        let spacing = pose.scale * (0.026 / list.len().max(1) as f64).sqrt();
        let reach = ((spacing * 0.2).floor() as i64).clamp(0, 8);
        let (mut rgb, mut seen) = (Vec::new(), Vec::new());
        let mut next = 0.0;
        let (mut clipped, mut asked) = (0usize, 0usize);
        for (k, (i, normal)) in list.iter().enumerate() {
            if (k as f64) < next {
                continue;
            }
            next += every;
            let p = &head.points[*i];
            let at = pose.pixel(&p.at);
            let Some((mean, cut)) = mean_rgb(photo, at, reach) else { continue };
            asked += 1;
            if cut {
                clipped += 1;
            }
            let l = luminance(mean.map(|c| c as f32));
            if l < 1e-4 {
                continue;
            }
            rgb.push((mean, l, cut));
            seen.push((*i, *normal, at));
        }
        if seen.len() < 60 {
            return None;
        }
        let mut sorted: Vec<f64> = rgb.iter().map(|r| r.1).collect();
        sorted.sort_by(f64::total_cmp);
        let unit = sorted[sorted.len() * 9 / 10].max(1e-6);
        let value: Vec<f64> = rgb.iter().map(|r| r.1 / unit).collect();
        let weight = (0..seen.len())
            .map(|k| {
                let grazing = ((seen[k].1.z - 0.15) / 0.35).clamp(0.1, 1.0);
                let clip = if rgb[k].2 { 0.2 } else { 1.0 };
                (grazing * clip / (value[k] + 0.05)).sqrt()
            })
            .collect();
        let mut features = DMatrix::from_fn(seen.len(), FEATURES, |r, c| {
            let [red, green, blue] = rgb[r].0.map(|v| v.max(1e-4));
            match c {
                0 => (red / green).ln(),
                1 => (blue / green).ln(),
                z => head.points[seen[r].0].zone[z - 2],
            }
        });
        for mut c in features.column_iter_mut() {
            let mean = c.mean();
            c.add_scalar_mut(-mean);
        }
        Some(Samples {
            value,
            unit,
            weight,
            features,
            clipped: clipped as f64 / asked.max(1) as f64,
            normal: seen.iter().map(|s| s.1).collect(),
            place: seen.iter().map(|s| pose.place(&head.points[s.0].at)).collect(),
            at: seen.iter().map(|s| s.2).collect(),
            point: seen.iter().map(|s| s.0).collect(),
            direction,
            share,
        })
    }

    /// Number of samples.
    pub fn len(&self) -> usize {
        self.value.len()
    }

    /// Irradiance on each sample from a disc of half angle `half` radians about `w`, relative to that
    /// on an open surface facing it at the reference point.
    pub fn plate(&self, head: &StandIn, w: &Vec3, half: f64) -> Vec<f64> {
        let inner = (half - KERNEL).max(0.0);
        let outer = half + KERNEL;
        let reach = outer.min(1.6).cos();
        let (tu, tv) = tangent_frame(w);
        let mut lobe: Vec<(usize, f64, f64, f64)> = Vec::new();
        for (j, d) in self.direction.iter().enumerate() {
            let c = d.dot(w);
            if c <= reach {
                continue;
            }
            let t = ((outer - c.acos()) / (outer - inner)).clamp(0.0, 1.0);
            let k = t * t * (3.0 - 2.0 * t) * self.share[j];
            if k > 0.0 {
                lobe.push((j, k, d.dot(&tu), d.dot(&tv)));
            }
        }
        // The lobe's centre of gravity is brought to `w`: few directions lie unevenly about it.
        let mut m = Matrix2::zeros();
        let mut g = Vector2::zeros();
        for (_, k, a, b) in &lobe {
            m += Matrix2::new(a * a, a * b, a * b, b * b) * *k;
            g += Vector2::new(*a, *b) * *k;
        }
        if let Some(inv) = m.try_inverse() {
            let c = -(inv * g);
            for (_, k, a, b) in &mut lobe {
                *k *= (1.0 + c.x * *a + c.y * *b).clamp(0.2, 3.0);
            }
        }
        let facing: f64 = lobe.iter().map(|(j, k, ..)| k * self.direction[*j].dot(w)).sum::<f64>().max(1e-9);
        (0..self.len())
            .map(|r| {
                let n = &self.normal[r];
                let bits = &head.open[self.point[r]];
                let mut sum = 0.0;
                for (j, k, ..) in &lobe {
                    if bits[j / 64] >> (j % 64) & 1 == 1 {
                        let c = n.dot(&self.direction[*j]);
                        if c > 0.0 {
                            sum += k * c;
                        }
                    }
                }
                let p = self.place[r] * NEAR;
                sum / facing / (w - p).norm_squared().max(0.2)
            })
            .collect()
    }

    /// Irradiance from all around, 1 on an open surface.
    pub fn ambient(&self, head: &StandIn) -> Vec<f64> {
        let total: f64 = self.direction.iter().zip(&self.share).map(|(d, s)| d.z.max(0.0) * s).sum();
        (0..self.len())
            .map(|r| {
                let bits = &head.open[self.point[r]];
                let n = &self.normal[r];
                let sum: f64 = (0..BANK)
                    .filter(|j| bits[j / 64] >> (j % 64) & 1 == 1)
                    .map(|j| n.dot(&self.direction[j]).max(0.0) * self.share[j])
                    .sum();
                sum / total
            })
            .collect()
    }
}

/// Mean linear colour about a pixel, and whether any of it is clipped.
fn mean_rgb(photo: &Photo, at: [f64; 2], reach: i64) -> Option<([f64; 3], bool)> {
    let (x, y) = (at[0].floor() as i64, at[1].floor() as i64);
    let mut sum = [0.0; 3];
    let (mut n, mut cut) = (0.0, false);
    for v in y - reach..=y + reach {
        for u in x - reach..=x + reach {
            let s = photo.get(u, v)?;
            cut |= s.clipped;
            (0..3).for_each(|k| sum[k] += f64::from(s.rgb[k]));
            n += 1.0;
        }
    }
    Some((sum.map(|s| s / n), cut))
}
