//! A matte ball: direction, angular size and level of one to three lights, and the ambient.
//!
//! Model: `I(n) = sum_k E_k lobe(n, L_k, a_k, q_k) + A`. `lobe` is the exact irradiance of a disc
//! source that sinks below the horizon ([`crate::falloff::disc_lobe`]); `q` is the ball's radius
//! over the light's distance, so that a near light is brighter on the near side of the ball.
//! Amplitudes are solved inside by non-negative least squares (variable projection, Golub &
//! Pereyra 1973); directions, sizes and nearness by Levenberg-Marquardt. The width of the turn from
//! light to dark is what tells the size: a frontal light, whose turn lies on the outline, leaves it
//! open, and the spread says so.

use super::Seen;
use super::outline::{Refined, refine_circle};
use crate::falloff::disc_lobe;
use crate::geometry::{Camera, SeenSphere, Vec3, angle_between, fibonacci_sphere, tangent_frame};
use crate::photo::Photo;
use crate::solve::{levenberg_marquardt, median, nnls};
use nalgebra::{DMatrix, DVector};

/// What a matte ball says.
#[derive(Debug, Clone)]
pub struct MatteReading {
    /// Lights, strongest first.
    pub lights: Vec<Seen>,
    /// Natural log of ambient irradiance in the same unit as the levels, with its spread; `None`
    /// if nothing above the noise.
    pub log_ambient: Option<(f64, f64)>,
    /// The outline used.
    pub outline: Refined,
    /// Root mean square residual over the brightest fitted value.
    pub residual: f64,
    /// Samples used.
    pub samples: usize,
    /// Share of the ball's pixels that were clipped and left out.
    pub clipped: f64,
}

/// Why a ball could not be read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum MatteProblem {
    /// The circle leaves the picture.
    #[error("most of the ball lies outside the picture")]
    Outside,
    /// Fewer than a hundred pixels.
    #[error("the ball is too small to read: mark one at least 12 pixels across")]
    TooSmall,
    /// Nothing but black.
    #[error("the ball is black: no light reaches it, or the picture is too dark to read")]
    Black,
    /// Nothing but white.
    #[error("the ball is clipped nearly everywhere: expose it darker")]
    Clipped,
    /// Even all over.
    #[error("the ball is evenly lit: light from everywhere, or not a ball; no direction can be told")]
    Even,
}

struct Samples {
    normal: Vec<Vec3>,
    value: DVector<f64>,
    rgb: Vec<[f32; 3]>,
    /// one over the standard deviation of each value
    weight: DVector<f64>,
}

#[derive(Debug, Clone, Copy)]
struct Lobe {
    direction: Vec3,
    log_half: f64,
    near: f64,
}

const MIN_HALF: f64 = 0.004;
const MAX_HALF: f64 = 1.3;
/// Prior of the nearness `q`, ball radius over light distance: mean and spread (common practice: a
/// 5 to 10 cm ball, lights at one to four metres).
const NEAR_PRIOR: (f64, f64) = (0.03, 0.04);
/// Weak prior of the log half angle, around 8 degrees; matters only where the picture is silent.
const SIZE_PRIOR: (f64, f64) = (-2.0, 1.2);

impl Lobe {
    fn at(&self, n: &Vec3) -> f64 {
        let w = self.direction - n * self.near;
        let d2 = w.norm_squared();
        let half = self.log_half.exp();
        let half = if self.near > 1e-6 { (half.sin() / d2.sqrt()).min(0.97).asin() } else { half };
        disc_lobe(n.dot(&w) / d2.sqrt(), half) / d2
    }
}

/// Reads a matte ball marked by its outline.
///
/// # Errors
/// A [`MatteProblem`] that says why nothing can be told.
pub fn read(photo: &Photo, camera: Camera, centre: [f64; 2], radius: f64) -> Result<MatteReading, MatteProblem> {
    let (w, h) = (f64::from(photo.width()), f64::from(photo.height()));
    if radius < 6.0 {
        return Err(MatteProblem::TooSmall);
    }
    if centre[0] < 0.0 || centre[1] < 0.0 || centre[0] > w || centre[1] > h {
        return Err(MatteProblem::Outside);
    }
    let outline = refine_circle(photo, centre, radius);
    let e = outline.ellipse;
    let sphere = |dx: f64, dy: f64, dr: f64| {
        SeenSphere::from_silhouette(camera, [e.centre[0] + dx, e.centre[1] + dy], e.rx + dr)
    };
    let (coarse, clipped) = collect(photo, &sphere(0.0, 0.0, 0.0), e.centre, e.rx, 900)?;
    let (fine, _) = collect(photo, &sphere(0.0, 0.0, 0.0), e.centre, e.rx, 2600)?;

    let lobes = choose_lights(&coarse);
    let lobes = if lobes.is_empty() { return Err(MatteProblem::Even) } else { lobes };
    let fit = Fitted::new(&fine, &lobes, 14);
    Ok(fit.report(&fine, &outline, clipped, |dx, dy, dr, samples| {
        // The same pixels seen as points of a slightly different ball.
        let s = sphere(dx, dy, dr);
        let base = sphere(0.0, 0.0, 0.0);
        remap(&base, &s, camera, samples)
    }))
}

fn collect(
    photo: &Photo,
    sphere: &SeenSphere,
    centre: [f64; 2],
    radius: f64,
    wanted: usize,
) -> Result<(Samples, f64), MatteProblem> {
    let inner = radius - (0.025 * radius).max(1.5);
    let step = ((std::f64::consts::PI * inner * inner / wanted as f64).sqrt().floor() as i64).max(1);
    let (mut normal, mut value, mut rgb, mut sd) = (Vec::new(), Vec::new(), Vec::new(), Vec::new());
    let (mut n_clipped, mut total, mut outside) = (0usize, 0usize, 0usize);
    let reach = inner.ceil() as i64;
    let (cx, cy) = (centre[0].floor() as i64, centre[1].floor() as i64);
    let mut roughness = Vec::new();
    let mut row = -reach;
    while row <= reach {
        let mut col = -reach;
        while col <= reach {
            let (px, py) = (cx + col, cy + row);
            let (x, y) = (px as f64 + 0.5, py as f64 + 0.5);
            col += step;
            if (x - centre[0]).hypot(y - centre[1]) > inner {
                continue;
            }
            total += 1;
            let Some(s) = photo.get(px, py) else {
                outside += 1;
                continue;
            };
            if s.clipped {
                n_clipped += 1;
                continue;
            }
            if let Some((n, _)) = sphere.normal_and_view(x, y) {
                let l = s.luminance();
                // second difference along the row: noise without the shading
                if let (Some(a), Some(b)) = (photo.get(px - 1, py), photo.get(px + 1, py)) {
                    roughness.push(((a.luminance() + b.luminance()) / 2.0 - l).abs() / l.max(0.004).sqrt());
                }
                normal.push(n);
                value.push(l);
                rgb.push(s.rgb);
                sd.push(f64::from(s.coding_sd));
            }
        }
        row += step;
    }
    if total == 0 || outside * 2 > total {
        return Err(MatteProblem::Outside);
    }
    if n_clipped * 10 > total * 9 {
        return Err(MatteProblem::Clipped);
    }
    if value.len() < 60 {
        return Err(MatteProblem::TooSmall);
    }
    let top = value.iter().copied().fold(0.0, f64::max);
    if top < 0.002 {
        return Err(MatteProblem::Black);
    }
    let grain = 1.48 * 0.816 * median(&mut roughness);
    let weight = value.iter().zip(&sd).map(|(v, sd)| {
        let shot = grain * v.max(0.004).sqrt();
        1.0 / (sd * sd + shot * shot + (0.004 * v).powi(2) + (0.0008 * top).powi(2)).sqrt()
    });
    let weight = DVector::from_iterator(value.len(), weight);
    let samples = Samples { normal, value: DVector::from_vec(value), rgb, weight };
    Ok((samples, n_clipped as f64 / total as f64))
}

/// The weighted columns of a set of lobes and the ambient, and the amplitudes that fit best.
fn amplitudes(s: &Samples, lobes: &[Lobe]) -> (DMatrix<f64>, DVector<f64>) {
    let n = s.value.len();
    let mut a = DMatrix::zeros(n, lobes.len() + 1);
    for (k, lobe) in lobes.iter().enumerate() {
        for i in 0..n {
            a[(i, k)] = lobe.at(&s.normal[i]) * s.weight[i];
        }
    }
    a.set_column(lobes.len(), &s.weight);
    let y = s.value.component_mul(&s.weight);
    let x = nnls(&a.tr_mul(&a), &a.tr_mul(&y));
    (a, x)
}

fn misfit(s: &Samples, lobes: &[Lobe]) -> f64 {
    let (a, x) = amplitudes(s, lobes);
    let r = a * x - s.value.component_mul(&s.weight);
    r.norm_squared() / s.value.len() as f64
}

const PER_LOBE: usize = 4;

struct Fitted {
    lobes: Vec<Lobe>,
    x: DVector<f64>,
    /// mean squared weighted residual
    cost: f64,
}

fn unpack(base: &[Lobe], frames: &[(Vec3, Vec3)], p: &DVector<f64>) -> Vec<Lobe> {
    base.iter()
        .zip(frames)
        .enumerate()
        .map(|(k, (lobe, (u, v)))| {
            let q = k * PER_LOBE;
            Lobe {
                direction: (lobe.direction + u * p[q] + v * p[q + 1]).normalize(),
                log_half: p[q + 2],
                near: p[q + 3],
            }
        })
        .collect()
}

impl Fitted {
    fn new(s: &Samples, start: &[Lobe], iterations: usize) -> Fitted {
        let mut lobes = start.to_vec();
        let mut cost = f64::MAX;
        // Twice: the tangent frames follow the directions.
        for _ in 0..2 {
            let frames: Vec<_> = lobes.iter().map(|l| tangent_frame(&l.direction)).collect();
            let mut p = DVector::zeros(lobes.len() * PER_LOBE);
            let mut steps = vec![1e-4; p.len()];
            for (k, lobe) in lobes.iter().enumerate() {
                p[k * PER_LOBE + 2] = lobe.log_half;
                p[k * PER_LOBE + 3] = lobe.near;
                steps[k * PER_LOBE + 2] = 1e-3;
            }
            let m = levenberg_marquardt(
                p,
                &steps,
                iterations,
                |p| {
                    let l = unpack(&lobes, &frames, p);
                    let (a, x) = amplitudes(s, &l);
                    let r = a * x - s.value.component_mul(&s.weight);
                    let n = r.len();
                    // robust: a label or a speck must not pull (Geman-McClure-like, as a root)
                    let mut out = r.map(|v| v / (1.0 + (v / 25.0).powi(2)).sqrt()).resize_vertically(n + 2 * l.len(), 0.0);
                    for (k, l) in l.iter().enumerate() {
                        out[n + 2 * k] = (l.log_half - SIZE_PRIOR.0) / SIZE_PRIOR.1;
                        out[n + 2 * k + 1] = 3.0 * (l.near - NEAR_PRIOR.0) / NEAR_PRIOR.1;
                    }
                    out
                },
                |p| {
                    for k in 0..p.len() / PER_LOBE {
                        p[k * PER_LOBE] = p[k * PER_LOBE].clamp(-0.6, 0.6);
                        p[k * PER_LOBE + 1] = p[k * PER_LOBE + 1].clamp(-0.6, 0.6);
                        p[k * PER_LOBE + 2] = p[k * PER_LOBE + 2].clamp(MIN_HALF.ln(), MAX_HALF.ln());
                        p[k * PER_LOBE + 3] = p[k * PER_LOBE + 3].clamp(0.0, 0.35);
                    }
                },
            );
            lobes = unpack(&lobes, &frames, &m.x);
            cost = m.cost / s.value.len() as f64;
        }
        let (_, x) = amplitudes(s, &lobes);
        Fitted { lobes, x, cost }
    }

    fn report(
        self,
        s: &Samples,
        outline: &Refined,
        clipped: f64,
        shifted: impl Fn(f64, f64, f64, &Samples) -> Vec<Vec3>,
    ) -> MatteReading {
        let n = s.value.len();
        let k_lights = self.lobes.len();
        let (a, _) = amplitudes(s, &self.lobes);
        let r = &a * &self.x - s.value.component_mul(&s.weight);
        let scale = (r.norm_squared() / n as f64).max(0.25);
        // All parameters, amplitudes included: model columns with the amplitudes held, the
        // amplitudes' own columns, and the priors as rows.
        let np = k_lights * PER_LOBE;
        let frames: Vec<_> = self.lobes.iter().map(|l| tangent_frame(&l.direction)).collect();
        let at = DVector::from_fn(np, |i, _| match i % PER_LOBE {
            2 => self.lobes[i / PER_LOBE].log_half,
            3 => self.lobes[i / PER_LOBE].near,
            _ => 0.0,
        });
        let mut full = DMatrix::zeros(n + 2 * k_lights, np + k_lights + 1);
        for j in 0..np {
            let mut p = at.clone();
            let d = if p[j] > 0.1 { -1e-4 } else { 1e-4 };
            p[j] += d;
            let k = j / PER_LOBE;
            let lobe = unpack(&self.lobes, &frames, &p)[k];
            for i in 0..n {
                full[(i, j)] = (lobe.at(&s.normal[i]) * s.weight[i] - a[(i, k)]) * self.x[k] / d;
            }
            match j % PER_LOBE {
                2 => full[(n + 2 * k, j)] = 1.0 / SIZE_PRIOR.1,
                3 => full[(n + 2 * k + 1, j)] = 3.0 / NEAR_PRIOR.1,
                _ => {}
            }
        }
        full.view_mut((0, np), (n, k_lights + 1)).copy_from(&a);
        let mut info = full.tr_mul(&full);
        for i in 0..info.nrows() {
            info[(i, i)] *= 1.0 + 1e-9;
            info[(i, i)] += 1e-9;
        }
        let inv = info.clone().try_inverse().unwrap_or_else(|| DMatrix::identity(info.nrows(), info.nrows()));
        // Neighbouring samples share the model's error: count one in ten as independent.
        let mut cov = &inv * (scale * 10.0);
        // Error of the outline: one Gauss-Newton step per unit of shift.
        let base: DVector<f64> = (&a * &self.x).into_owned();
        for (dx, dy, dr) in [(1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)] {
            let d = 0.25;
            let moved = Samples {
                normal: shifted(dx * d, dy * d, dr * d, s),
                value: s.value.clone(),
                rgb: Vec::new(),
                weight: s.weight.clone(),
            };
            let mut m = DMatrix::zeros(n, k_lights + 1);
            for (k, lobe) in self.lobes.iter().enumerate() {
                for i in 0..n {
                    m[(i, k)] = lobe.at(&moved.normal[i]) * s.weight[i];
                }
            }
            m.set_column(k_lights, &s.weight);
            let dr = ((m * &self.x - &base) / d).resize_vertically(n + 2 * k_lights, 0.0);
            let step = &inv * full.tr_mul(&dr);
            cov += &step * step.transpose() * outline.sd_px.powi(2);
        }
        let top = base.component_div(&s.weight).amax().max(1e-9);
        let rms = r.component_div(&s.weight).norm() / (n as f64).sqrt() / top;
        let mut order: Vec<usize> = (0..k_lights).collect();
        order.sort_by(|&i, &j| self.x[j].total_cmp(&self.x[i]));
        let colours = light_colours(s, &self.lobes);
        let lights = order
            .into_iter()
            .map(|k| {
                let q = k * PER_LOBE;
                let dir_var = cov[(q, q)] + cov[(q + 1, q + 1)];
                let floor = 0.0012f64;
                let size_sd = (cov[(q + 2, q + 2)].max(0.0) + 0.015f64.powi(2)).sqrt();
                // Under two degrees the turn is as narrow as the sampling: an upper bound.
                let half = self.lobes[k].log_half.exp();
                let size_sd = size_sd.hypot((0.012 / half).powi(2)).min(1.5);
                let e = self.x[k].max(1e-12);
                let lvl = (cov[(np + k, np + k)].max(0.0).sqrt() / e).hypot(0.01);
                Seen {
                    direction: self.lobes[k].direction,
                    direction_sd: (dir_var.max(0.0) + floor * floor).sqrt().min(1.0),
                    log_size: Some(((2.0 * half).ln(), size_sd)),
                    log_level: Some((e.ln(), lvl)),
                    rgb: Some(colours[k]),
                }
            })
            .collect();
        let ambient = self.x[k_lights];
        let ambient_sd = cov[(np + k_lights, np + k_lights)].max(0.0).sqrt().max(0.0005 * top);
        let log_ambient =
            (ambient > 2.0 * ambient_sd).then(|| (ambient.ln(), (ambient_sd / ambient).hypot(0.01)));
        MatteReading { lights, log_ambient, outline: *outline, residual: rms, samples: n, clipped }
    }
}

/// Linear RGB of each light, geometry held: one small solve per channel.
fn light_colours(s: &Samples, lobes: &[Lobe]) -> Vec<[f64; 3]> {
    let mut out = vec![[0.0; 3]; lobes.len()];
    let (a, _) = amplitudes(s, lobes);
    let gram = a.tr_mul(&a);
    for c in 0..3 {
        let y = DVector::from_fn(s.value.len(), |i, _| f64::from(s.rgb[i][c]) * s.weight[i]);
        let x = nnls(&gram, &a.tr_mul(&y));
        for (k, o) in out.iter_mut().enumerate() {
            o[c] = x[k];
        }
    }
    out
}

fn remap(from: &SeenSphere, to: &SeenSphere, camera: Camera, s: &Samples) -> Vec<Vec3> {
    s.normal
        .iter()
        .map(|n| {
            let (x, y) = from.pixel_of_normal(n, &camera);
            to.normal_and_view(x, y).map_or(*n, |(m, _)| m)
        })
        .collect()
}

/// Finds how many lights the samples ask for, and roughly where: a light is added only if the
/// misfit falls clearly, it stands apart from the others and it is strong enough to matter.
fn choose_lights(s: &Samples) -> Vec<Lobe> {
    let even = misfit(s, &[]);
    let peaks = bank_peaks(s);
    let mut best: Vec<Lobe> = Vec::new();
    let mut best_cost = even;
    for k in 1..=3usize {
        let mut starts: Vec<Vec<Lobe>> = Vec::new();
        if peaks.len() >= k {
            starts.push(peaks[..k].to_vec());
        }
        if best.len() + 1 == k
            && let Some(extra) = scan_for_one_more(s, &best)
        {
            let mut l = best.clone();
            l.push(extra);
            starts.push(l);
        }
        let fits = starts.iter().map(|st| Fitted::new(s, st, 8));
        let Some(fit) = fits.min_by(|a, b| a.cost.total_cmp(&b.cost)) else { break };
        if k == 1 {
            // One light must explain clearly more than an even ball.
            if fit.cost * 1.5 < even && fit.x[0] > 0.02 * s.value.amax() {
                best_cost = fit.cost;
                best = fit.lobes;
                continue;
            }
            return Vec::new();
        }
        if accept(s, &best, best_cost, &fit) {
            best_cost = fit.cost;
            best = fit.lobes;
        } else if k == 3 || best.len() + 1 < k {
            break;
        }
    }
    best
}

fn accept(s: &Samples, before: &[Lobe], before_cost: f64, fit: &Fitted) -> bool {
    let k = fit.lobes.len();
    let strongest = fit.x.rows(0, k).max();
    let top = s.value.amax();
    let mut weight_ok = true;
    for (i, l) in fit.lobes.iter().enumerate() {
        // what it adds to the picture where it adds most
        let adds = s.normal.iter().map(|n| l.at(n)).fold(0.0, f64::max) * fit.x[i];
        weight_ok &= fit.x[i] > 0.055 * strongest && adds > 0.02 * top && fit.x[i] < 30.0 * top;
    }
    let mut apart = true;
    for i in 0..k {
        for j in 0..i {
            let angle = angle_between(&fit.lobes[i].direction, &fit.lobes[j].direction);
            let halves = fit.lobes[i].log_half.exp() + fit.lobes[j].log_half.exp();
            apart &= angle > 0.25f64.max(0.9 * halves);
        }
    }
    // Two discs inside what one disc explained are the shape of one source, not two sources.
    if before.len() == 1 {
        let one = &before[0];
        let inside = fit
            .lobes
            .iter()
            .all(|l| angle_between(&l.direction, &one.direction) < 1.1 * one.log_half.exp().max(0.1));
        apart &= !inside;
    }
    let gain = before_cost / fit.cost.max(1e-12);
    let noise = 1.0;
    weight_ok && apart && gain > 1.6 && before_cost > 1.2 * noise
}

/// Peaks of a non-negative sparse combination of many directions, ranked by what they add.
fn bank_peaks(s: &Samples) -> Vec<Lobe> {
    let half: f64 = 0.12;
    let dirs: Vec<Vec3> = fibonacci_sphere(260).into_iter().filter(|d| d.z > -0.92).collect();
    let lobes: Vec<Lobe> =
        dirs.iter().map(|d| Lobe { direction: *d, log_half: half.ln(), near: NEAR_PRIOR.0 }).collect();
    let (a, x) = amplitudes(s, &lobes);
    let contribution: Vec<f64> = (0..lobes.len()).map(|k| x[k] * a.column(k).sum()).collect();
    let mut order: Vec<usize> = (0..lobes.len()).filter(|&k| contribution[k] > 0.0).collect();
    order.sort_by(|&i, &j| contribution[j].total_cmp(&contribution[i]));
    // Merge neighbours into the strongest.
    let mut peaks: Vec<(Vec3, f64)> = Vec::new();
    for k in order {
        let near = peaks.iter_mut().find(|(p, _)| angle_between(p, &dirs[k]) < 0.45);
        match near {
            Some((p, w)) => {
                *p = (*p * *w + dirs[k] * contribution[k]).normalize();
                *w += contribution[k];
            }
            None => peaks.push((dirs[k], contribution[k])),
        }
    }
    peaks.sort_by(|a, b| b.1.total_cmp(&a.1));
    peaks
        .into_iter()
        .map(|(d, _)| Lobe { direction: d, log_half: half.ln(), near: NEAR_PRIOR.0 })
        .collect()
}

/// The one more light that lowers the misfit most, over a grid of directions and three sizes.
fn scan_for_one_more(s: &Samples, have: &[Lobe]) -> Option<Lobe> {
    let (a, _) = amplitudes(s, have);
    let y = s.value.component_mul(&s.weight);
    let g = a.tr_mul(&a);
    let b = a.tr_mul(&y);
    let m = g.nrows();
    let mut best: Option<(f64, Lobe)> = None;
    for d in fibonacci_sphere(220) {
        for half in [0.05, 0.3] {
            let lobe = Lobe { direction: d, log_half: f64::ln(half), near: NEAR_PRIOR.0 };
            let col = DVector::from_fn(s.value.len(), |i, _| lobe.at(&s.normal[i]) * s.weight[i]);
            let cc = col.norm_squared();
            if cc < 1e-6 * g[(m - 1, m - 1)] {
                continue;
            }
            let ac = a.tr_mul(&col);
            let gram = DMatrix::from_fn(m + 1, m + 1, |i, j| match (i == m, j == m) {
                (false, false) => g[(i, j)],
                (true, true) => cc,
                (true, false) => ac[j],
                (false, true) => ac[i],
            });
            let rhs = DVector::from_fn(m + 1, |i, _| if i < m { b[i] } else { col.dot(&y) });
            let x = nnls(&gram, &rhs);
            let gain = 2.0 * rhs.dot(&x) - x.dot(&(&gram * &x));
            if x[m] > 0.0 && best.as_ref().is_none_or(|(g, _)| gain > *g) {
                best = Some((gain, lobe));
            }
        }
    }
    best.map(|(_, l)| l)
}
