//! What each light would do to a posed head: samples of the picture and plates from the light bank.
//!
//! `B_j(p) = V(p, w_j) max(0, n.w_j)` for every direction of the bank; a source of an angular size is
//! the bank under the lobe of that size, with cast shadows and all. Samples are not blurred: the edges
//! of cast shadows carry most of what a face says. All stand-ins are laid over the same pixels.

use super::pose::Pose;
use super::stand_in::{BANK, StandIn, WORDS, ZONES, bank};
use nalgebra::{DMatrix, Matrix2, Vector2};
use optics::geometry::{Vec3, tangent_frame};
use optics::photo::{Photo, luminance};
use optics::solve::median;

/// Features of the surface colour: log red over green, log blue over green, and the zones.
pub(super) const FEATURES: usize = 2 + ZONES;
/// Half width of the bank's own kernel in radians: its directions lie 4 degrees apart.
const KERNEL: f64 = 0.055;
/// One over the usual distance of a light in metres (common practice: one to two and a half metres).
const NEAR: f64 = 0.6;
/// Samples aimed at.
pub(super) const SAMPLES: f64 = 900.0;
/// Normals nearer to the outline than this are not sampled.
const GRAZING: f64 = 0.22;

/// Skin shines: reflectance facing it (index 1.4) and roughness (Weyrich et al. 2006 measured 0.2 to 0.4; from
/// memory), by the microfacet model (Trowbridge & Reitz 1975, Schlick 1994).
const FACING_SHINE: f64 = 0.028;
const ROUGH: f64 = 0.32;
/// Steps of one in the table of shine.
const SHINE_UNIT: f64 = 100.0;

/// Natural log of a tint's distance from the middle of the face over which it is no skin.
const TINT: f64 = 0.12;

/// A stand-in laid over a picture.
pub(super) struct Layer<'a> {
    pub head: &'a StandIn,
    pub pose: Pose,
    /// points the camera sees: index, pixel, normal, place
    seen: Vec<(usize, [f64; 2], Vec3, Vec3)>,
    /// for each sample the three nearest points with their weights
    map: Vec<[(u32, f32); 3]>,
    /// directions of the bank that light any of them, camera frame, and the weight of each
    direction: Vec<Vec3>,
    share: Vec<f64>,
    /// one over the light of the whole bank on an open surface
    whole: f64,
    /// for each of these the light on each point seen, 255 for facing it
    table: Vec<u8>,
    /// and what a white surface of no reflectance but its shine would send back, [`SHINE_UNIT`] for as
    /// much as a white matte one
    shine: Vec<u8>,
}

/// Light a disc throws on each sample.
#[derive(Debug, Clone)]
pub(super) struct Plate {
    /// Irradiance relative to that on an open surface facing it at the reference point.
    pub matte: Vec<f64>,
    /// What shines back, in the unit of a white matte surface.
    pub shine: Vec<f64>,
}

impl Plate {
    /// Both, for a surface that shines by `gloss` over its matte reflectance.
    pub(super) fn with(&self, gloss: f64) -> Vec<f64> {
        self.matte.iter().zip(&self.shine).map(|(m, s)| m + gloss * s).collect()
    }
}

impl<'a> Layer<'a> {
    /// Lays a head over the picture; without `shines` its skin is taken for matte, in half the time.
    pub(super) fn new(head: &'a StandIn, pose: Pose, shines: bool) -> Layer<'a> {
        let (direction, share): (Vec<Vec3>, Vec<f64>) = bank().iter().map(|w| pose.direction(w)).unzip();
        let view = pose.own(&Vec3::z());
        // the nearest directions of the bank say whether the camera sees a point
        let mut order: Vec<usize> = (0..BANK).collect();
        order.select_nth_unstable_by(5, |a, b| bank()[*b].dot(&view).total_cmp(&bank()[*a].dot(&view)));
        let towards = &order[..5];
        let seen = head
            .points
            .iter()
            .enumerate()
            .filter_map(|(i, p)| {
                let normal = pose.normal(&p.normal);
                let open = normal.z > GRAZING && towards.iter().filter(|j| head.sees(i, **j)).count() >= 3;
                open.then(|| (i, pose.pixel(&p.at), normal, pose.place(&p.at)))
            })
            .collect();
        let whole = 1.0 / direction.iter().zip(&share).map(|(d, s)| d.z.max(0.0) * s).sum::<f64>();
        let mut layer = Layer {
            head,
            pose,
            seen,
            whole,
            map: Vec::new(),
            direction: Vec::new(),
            share: Vec::new(),
            table: Vec::new(),
            shine: Vec::new(),
        };
        // bits and normals of the points seen, side by side
        let open: Vec<[u64; WORDS]> = layer.seen.iter().map(|s| head.open[s.0]).collect();
        let normal: Vec<[f32; 3]> = layer.seen.iter().map(|s| [s.2.x, s.2.y, s.2.z].map(|v| v as f32)).collect();
        let k = 0.5 * ROUGH;
        let masked = |c: f64| 1.0 / (c * (1.0 - k) + k);
        let own: Vec<f32> =
            layer.seen.iter().map(|s| (SHINE_UNIT * std::f64::consts::PI * 0.25 * masked(s.2.z)) as f32).collect();
        // by the cosine between normal and half vector, and by the cosine of the light
        let spread: [f32; 256] = std::array::from_fn(|i| {
            let (c, a) = (i as f64 / 255.0, ROUGH * ROUGH);
            (a / (std::f64::consts::PI * (c * c * (a - 1.0) + 1.0).powi(2))) as f32
        });
        let reached: [f32; 256] = std::array::from_fn(|i| {
            let c = i as f64 / 255.0;
            (c * masked(c)) as f32
        });
        for (j, (d, share)) in direction.into_iter().zip(share).enumerate() {
            let [x, y, z] = [d.x, d.y, d.z].map(|v| 255.0 * v as f32);
            let half = (d + Vec3::z()).try_normalize(1e-6).unwrap_or_else(Vec3::z);
            let mirrored = FACING_SHINE + (1.0 - FACING_SHINE) * (1.0 - half.z.clamp(0.0, 1.0)).powi(5);
            let [hx, hy, hz] = [half.x, half.y, half.z].map(|v| 255.0 * v as f32);
            let before = layer.table.len();
            let row = open.iter().zip(&normal).map(|(bits, n)| {
                let lit = (bits[j / 64] >> (j % 64) & 1) as f32;
                (lit * (n[0] * x + n[1] * y + n[2] * z) + 0.5) as u8
            });
            layer.table.extend(row);
            if shines {
                let lit = &layer.table[before..];
                let row = lit.iter().zip(&normal).zip(&own).map(|((facing, n), own)| {
                    let about = (n[0] * hx + n[1] * hy + n[2] * hz).clamp(0.0, 255.0) as usize;
                    (own * mirrored as f32 * spread[about] * reached[usize::from(*facing)] + 0.5) as u8
                });
                layer.shine.extend(row);
            }
            if layer.table[before..].iter().all(|v| *v == 0) {
                layer.table.truncate(before);
                layer.shine.truncate(before);
            } else {
                layer.direction.push(d);
                layer.share.push(share);
            }
        }
        layer
    }

    /// Points the camera sees: which of the head's, pixel, normal, place.
    pub(super) fn seen(&self) -> &[(usize, [f64; 2], Vec3, Vec3)] {
        &self.seen
    }

    /// Pixels between neighbouring points.
    fn spacing(&self) -> f64 {
        let [lo, hi] = bounds(self.seen.iter().map(|s| s.1));
        ((hi[0] - lo[0]).max(1.0) * (hi[1] - lo[1]).max(1.0) * 0.6 / self.seen.len().max(1) as f64).sqrt()
    }

    /// The three points nearest to a pixel with weights, and the distance to the first.
    fn nearest(&self, cells: &Cells, at: [f64; 2]) -> ([(u32, f32); 3], f64) {
        let mut best = [(f64::MAX, 0u32); 3];
        cells.around(at, |i| {
            let p = self.seen[i as usize].1;
            let d = (p[0] - at[0]).powi(2) + (p[1] - at[1]).powi(2);
            if d < best[2].0 {
                best[2] = (d, i);
                best.sort_by(|a, b| a.0.total_cmp(&b.0));
            }
        });
        let soft = (0.3 * cells.side).powi(2);
        let w = best.map(|(d, _)| if d < f64::MAX { 1.0 / (d + soft) } else { 0.0 });
        let sum: f64 = w.iter().sum::<f64>().max(1e-12);
        let mut out = [(0, 0.0); 3];
        (0..3).for_each(|k| out[k] = (best[k].1, (w[k] / sum) as f32));
        (out, best[0].0.sqrt())
    }

    /// Values at the points seen, brought to the samples.
    fn spread(&self, values: &[f32]) -> Vec<f64> {
        self.map.iter().map(|m| m.iter().map(|(i, w)| f64::from(values[*i as usize] * w)).sum()).collect()
    }

    /// Light on each sample from a disc of half angle `half` radians about `w`.
    pub(super) fn plate(&self, w: &Vec3, half: f64) -> Plate {
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
            let t = ((outer - c.min(1.0).acos()) / (outer - inner)).clamp(0.0, 1.0);
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
        let near: Vec<f32> = self.seen.iter().map(|s| 1.0 / (w - s.3 * NEAR).norm_squared().max(0.2) as f32).collect();
        let sum = |table: &[u8], unit: f64| {
            let mut values = vec![0.0f32; self.seen.len()];
            for (j, k, ..) in &lobe {
                let k = (k / facing / unit) as f32;
                let row = &table[j * values.len()..(j + 1) * values.len()];
                values.iter_mut().zip(row).for_each(|(v, b)| *v += k * f32::from(*b));
            }
            values.iter_mut().zip(&near).for_each(|(v, n)| *v *= n);
            self.spread(&values)
        };
        let matte = sum(&self.table, 255.0);
        let shine = if self.shine.is_empty() { vec![0.0; matte.len()] } else { sum(&self.shine, SHINE_UNIT) };
        Plate { matte, shine }
    }

    /// Irradiance from all around, 1 on an open surface; and that part of it that comes from below,
    /// as light thrown back by chest and shoulders does.
    pub(super) fn ambient(&self) -> [Vec<f64>; 2] {
        let mut around = vec![0.0f32; self.seen.len()];
        let mut below = around.clone();
        for ((row, share), d) in self.table.chunks(around.len()).zip(&self.share).zip(&self.direction) {
            let k = (share * self.whole / 255.0) as f32;
            around.iter_mut().zip(row).for_each(|(v, b)| *v += k * f32::from(*b));
            let k = k * (-d.y as f32 - 0.1).clamp(0.0, 0.5) * 2.0;
            if k > 0.0 {
                below.iter_mut().zip(row).for_each(|(v, b)| *v += k * f32::from(*b));
            }
        }
        [self.spread(&around), self.spread(&below)]
    }
}

/// Lowest and highest coordinates.
fn bounds(points: impl Iterator<Item = [f64; 2]>) -> [[f64; 2]; 2] {
    points.fold([[f64::MAX; 2], [f64::MIN; 2]], |[lo, hi], p| {
        [[lo[0].min(p[0]), lo[1].min(p[1])], [hi[0].max(p[0]), hi[1].max(p[1])]]
    })
}

/// Points sorted into square cells of a picture.
struct Cells {
    side: f64,
    list: std::collections::HashMap<(i64, i64), Vec<u32>>,
}

impl Cells {
    fn new(side: f64, points: impl Iterator<Item = [f64; 2]>) -> Cells {
        let mut list: std::collections::HashMap<(i64, i64), Vec<u32>> = Default::default();
        for (i, p) in points.enumerate() {
            list.entry(Self::cell(side, p)).or_default().push(i as u32);
        }
        Cells { side, list }
    }

    fn cell(side: f64, p: [f64; 2]) -> (i64, i64) {
        ((p[0] / side).floor() as i64, (p[1] / side).floor() as i64)
    }

    /// Visits the points in the cells about a pixel, wider if there are none near.
    fn around(&self, at: [f64; 2], mut visit: impl FnMut(u32)) {
        let (x, y) = Self::cell(self.side, at);
        for reach in [1i64, 3, 8] {
            let mut any = 0;
            for v in y - reach..=y + reach {
                for u in x - reach..=x + reach {
                    for i in self.list.get(&(u, v)).into_iter().flatten() {
                        visit(*i);
                        any += 1;
                    }
                }
            }
            if any >= 3 {
                return;
            }
        }
    }
}

/// Brightness by which pattern in the skin shows least: blood and melanin darken red little (Jensen & others 2001; Weyrich
/// & others 2006).
pub(super) fn red([r, g, _]: [f64; 3]) -> f64 {
    0.75 * r + 0.25 * g
}

/// Brightness to the eye.
pub(super) fn to_the_eye(rgb: [f64; 3]) -> f64 {
    luminance(rgb.map(|c| c as f32))
}

/// Samples of skin, the same for all stand-ins.
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
    /// Pixels about each that it is the mean of.
    pub reach: i64,
}

impl Samples {
    /// Takes samples where most of the layers have skin, and ties each layer to them; `brightness` weighs their colours.
    /// `None` if fewer than sixty can be used.
    pub(super) fn take(
        photo: &Photo,
        layers: &mut [Layer],
        many: f64,
        brightness: impl Fn([f64; 3]) -> f64,
    ) -> Option<Samples> {
        if layers.iter().any(|l| l.seen.len() < 30) {
            return None;
        }
        let cells: Vec<Cells> = layers.iter().map(|l| Cells::new(l.spacing(), l.seen.iter().map(|s| s.1))).collect();
        let [lo, hi] = bounds(layers.iter().flat_map(|l| l.seen.iter().map(|s| s.1)));
        let step = ((hi[0] - lo[0]) * (hi[1] - lo[1]) * 0.6 / many).sqrt().max(1.0);
        // a sample is the mean over a small part of the way to its neighbours
        let reach = ((step * 0.2).floor() as i64).clamp(0, 8);
        let most = layers.len().div_ceil(2);
        let (mut rgb, mut at, mut maps, mut facing, mut zones) = (vec![], vec![], vec![], vec![], vec![]);
        let (mut clipped, mut row) = (0usize, 0usize);
        let mut y = lo[1];
        while y <= hi[1] {
            // rows are set off by half a step, so that no edge runs along the grid
            let mut x = lo[0] + if row % 2 == 0 { 0.0 } else { 0.5 * step };
            while x <= hi[0] {
                let p = [x, y];
                x += step;
                let near: Vec<_> = layers.iter().zip(&cells).map(|(l, c)| l.nearest(c, p)).collect();
                if near.iter().zip(&cells).filter(|((_, d), c)| *d < 1.1 * c.side).count() < most {
                    continue;
                }
                let Some((mean, cut)) = mean_rgb(photo, p, reach) else { continue };
                let l = brightness(mean);
                clipped += usize::from(cut);
                if l < 1e-4 {
                    continue;
                }
                let k = layers.len() as f64;
                let point = |l: &Layer, m: &[(u32, f32); 3]| l.seen[m[0].0 as usize].0;
                facing
                    .push(near.iter().zip(layers.iter()).map(|(n, l)| l.seen[n.0[0].0 as usize].2.z).sum::<f64>() / k);
                let mut zone = [0.0; ZONES];
                for (n, l) in near.iter().zip(layers.iter()) {
                    let z = &l.head.points[point(l, &n.0)].zone;
                    (0..ZONES).for_each(|i| zone[i] += z[i] / k);
                }
                zones.push(zone);
                maps.push(near.into_iter().map(|n| n.0).collect::<Vec<_>>());
                rgb.push((mean, l, cut));
                at.push(p);
            }
            y += step;
            row += 1;
        }
        if at.len() < 60 {
            return None;
        }
        // Hair, a beard's edge or a scarf have another colour than the middle of the face.
        let tint = |c: &[f64; 3]| [(c[0].max(1e-4) / c[1].max(1e-4)).ln(), (c[2].max(1e-4) / c[1].max(1e-4)).ln()];
        let tints: Vec<[f64; 2]> = rgb.iter().map(|r| tint(&r.0)).collect();
        let middle: Vec<usize> = (0..tints.len()).filter(|k| zones[*k][3] + zones[*k][4] > 0.25).collect();
        if middle.len() > 20 {
            let mid = [0, 1].map(|c| median(&mut middle.iter().map(|k| tints[*k][c]).collect::<Vec<_>>()));
            let off = |k: usize| (tints[k][0] - mid[0]).hypot(tints[k][1] - mid[1]);
            let wide = median(&mut middle.iter().map(|k| off(*k)).collect::<Vec<_>>());
            let keep: Vec<usize> = (0..tints.len()).filter(|k| off(*k) < (4.0 * wide).max(TINT)).collect();
            if 2 * keep.len() > tints.len() {
                rgb = keep.iter().map(|k| rgb[*k]).collect();
                at = keep.iter().map(|k| at[*k]).collect();
                maps = keep.iter().map(|k| maps[*k].clone()).collect();
                facing = keep.iter().map(|k| facing[*k]).collect();
                zones = keep.iter().map(|k| zones[*k]).collect();
            }
        }
        for (k, l) in layers.iter_mut().enumerate() {
            l.map = maps.iter().map(|m| m[k]).collect();
        }
        let mut sorted: Vec<f64> = rgb.iter().map(|r| r.1).collect();
        sorted.sort_by(f64::total_cmp);
        let unit = sorted[sorted.len() * 9 / 10].max(1e-6);
        let value: Vec<f64> = rgb.iter().map(|r| r.1 / unit).collect();
        let weight = (0..at.len())
            .map(|k| {
                let grazing = ((facing[k] - 0.15) / 0.35).clamp(0.1, 1.0);
                let clip = if rgb[k].2 { 0.2 } else { 1.0 };
                (grazing * clip / (value[k] + 0.05)).sqrt()
            })
            .collect();
        let mut features = DMatrix::from_fn(at.len(), FEATURES, |r, c| {
            let [red, green, blue] = rgb[r].0.map(|v| v.max(1e-4));
            match c {
                0 => (red / green).ln(),
                1 => (blue / green).ln(),
                z => zones[r][z - 2],
            }
        });
        for mut c in features.column_iter_mut() {
            let mean = c.mean();
            c.add_scalar_mut(-mean);
        }
        let clipped = clipped as f64 / at.len() as f64;
        Some(Samples { value, unit, weight, features, at, clipped, reach })
    }

    /// Number of samples.
    pub(super) fn len(&self) -> usize {
        self.value.len()
    }
}

/// Mean linear colour about a pixel, and whether any of it is clipped.
pub(super) fn mean_rgb(photo: &Photo, at: [f64; 2], reach: i64) -> Option<([f64; 3], bool)> {
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
