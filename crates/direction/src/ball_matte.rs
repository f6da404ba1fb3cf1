//! A matte ball: direction, angular size and level of one to three lights, and the ambient.
//!
//! Model: `I(n) = sum_k E_k lobe(n, L_k, a_k, q_k) + A`. `lobe` is the exact irradiance of a disc
//! source that sinks below the horizon ([`optics::falloff::disc_lobe`]); `q` is the ball's radius
//! over the light's distance, so that a near light is brighter on the near side of the ball.
//! Amplitudes are solved inside by non-negative least squares (variable projection, Golub &
//! Pereyra 1973); directions, sizes and nearness by Levenberg-Marquardt. The width of the turn from
//! light to dark is what tells the size: a frontal light, whose turn lies on the outline, leaves it
//! open, and the spread says so.

use super::Seen;
use super::outline::{Refined, refine_circle};
use nalgebra::{DMatrix, DVector};
use optics::falloff::disc_lobe;
use optics::geometry::{Camera, SeenSphere, Vec3, angle_between, fibonacci_sphere, tangent_frame};
use optics::photo::Photo;
use optics::solve::{median, nnls};

/// What a matte ball says.
#[derive(Debug, Clone)]
pub struct MatteReading {
    /// Lights, strongest first.
    pub lights: Vec<Seen>,
    /// Natural log of ambient irradiance in the same unit as the levels, with its spread; `None`
    /// if nothing above the noise.
    pub log_ambient: Option<(f64, f64)>,
    /// Where it is too weak to be told: what it is at most, in 19 of 20 cases.
    pub log_ambient_most: Option<f64>,
    /// The outline used.
    pub outline: Refined,
    /// Root mean square residual over the brightest fitted value.
    pub residual: f64,
    /// Samples used.
    pub samples: usize,
    /// Light of a sample by the fit and as measured; brightest fitted = 1.
    pub points: Vec<[f64; 2]>,
    /// Share of the ball's pixels that were clipped and left out.
    pub clipped: f64,
    /// Where the next reading of the same ball may start.
    pub start: Start,
}

/// The lights of a ball as they were fitted, to start from when its mark has moved a little.
#[derive(Debug, Clone)]
pub struct Start {
    lobes: Vec<Lobe>,
    cost: f64,
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
    /// Stretch of the source: half angle squared towards the tangent at phi is
    /// `half^2 (cosh k + sinh k cos 2 (phi - phi0))` with `(c, s) = k (cos 2 phi0, sin 2 phi0)`, an
    /// ellipse of the disc's solid angle. A strip is told from a square by it.
    stretch: [f64; 2],
    /// tangents of the direction, kept
    tangents: (Vec3, Vec3),
}

const MIN_HALF: f64 = 0.004;
const MAX_HALF: f64 = 1.0;
/// Prior of the nearness `q`, ball radius over light distance: mean and spread (common practice: a
/// 5 to 10 cm ball, lights at one to four metres).
const NEAR_PRIOR: (f64, f64) = (0.03, 0.04);
/// Weak prior of the log half angle, around 8 degrees; matters only where the picture is silent.
const SIZE_PRIOR: (f64, f64) = (-2.0, 1.2);
/// Prior of the stretch: most sources are nearly round (a 1:2 softbox is 0.69).
const STRETCH_PRIOR: f64 = 0.4;
/// Samples shown at most.
const PLOTTED: usize = 150;
/// Mean squared weighted residual under which nothing is left to explain.
const ENOUGH: f64 = 1.2;
/// Parameters of a lobe: two tangent shifts, log half angle, nearness, two of stretch.
const PER_LOBE: usize = 6;

impl Lobe {
    fn new(direction: Vec3, half: f64) -> Self {
        let tangents = tangent_frame(&direction);
        Lobe { direction, log_half: half.ln(), near: NEAR_PRIOR.0, stretch: [0.0; 2], tangents }
    }

    /// The lobe after a step in its parameters, kept inside their bounds.
    fn stepped(&self, p: &[f64]) -> Self {
        let (u, v) = self.tangents;
        let direction = (self.direction + u * p[0].clamp(-0.4, 0.4) + v * p[1].clamp(-0.4, 0.4)).normalize();
        // The tangents follow the direction without turning about it, so that the stretch stays.
        let u = (u - direction * u.dot(&direction)).normalize();
        let v = direction.cross(&u);
        Lobe {
            direction,
            log_half: (self.log_half + p[2].clamp(-0.7, 0.7)).clamp(MIN_HALF.ln(), MAX_HALF.ln()),
            near: (self.near + p[3]).clamp(0.0, 0.35),
            stretch: [0, 1].map(|i| (self.stretch[i] + p[4 + i].clamp(-0.5, 0.5)).clamp(-1.2, 1.2)),
            tangents: (u, v),
        }
    }

    /// Residuals of the priors and their slopes: parameter, value, slope.
    fn priors(&self) -> [(usize, f64, f64); 4] {
        [
            (2, (self.log_half - SIZE_PRIOR.0) / SIZE_PRIOR.1, 1.0 / SIZE_PRIOR.1),
            (3, (self.near - NEAR_PRIOR.0) / NEAR_PRIOR.1, 1.0 / NEAR_PRIOR.1),
            (4, self.stretch[0] / STRETCH_PRIOR, 1.0 / STRETCH_PRIOR),
            (5, self.stretch[1] / STRETCH_PRIOR, 1.0 / STRETCH_PRIOR),
        ]
    }

    fn stretched(&self) -> f64 {
        self.stretch[0].hypot(self.stretch[1])
    }

    /// A function of the normal: irradiance relative to facing the light from the ball's centre.
    fn irradiance(&self) -> impl Fn(&Vec3) -> f64 + use<> {
        let me = *self;
        let half = me.log_half.exp();
        let k = me.stretched();
        let (cosh, shape) = (k.cosh(), if k > 1e-6 { k.sinh() / k } else { 1.0 });
        let top = ((half * (0.5 * k).exp() * 1.15).min(1.5)).sin();
        move |n: &Vec3| {
            let w = me.direction - n * me.near;
            let d2 = w.norm_squared();
            let d = d2.sqrt();
            let c = n.dot(&w) / d;
            // Only near the turn from light to dark does the size show.
            if c.abs() > top {
                return c.max(0.0) / d2;
            }
            let (a, b) = (n.dot(&me.tangents.0), n.dot(&me.tangents.1));
            let r2 = (a * a + b * b).max(1e-9);
            let turn = (me.stretch[0] * (a * a - b * b) + me.stretch[1] * 2.0 * a * b) / r2;
            let h = half * (cosh + shape * turn).max(0.01).sqrt();
            let h = (h.min(1.5).sin() / d).min(0.97).asin();
            disc_lobe(c, h) / d2
        }
    }
}

/// A source that a mirror shows: its direction and half the angle it fills, radians. Seen from the matte ball it lies
/// a little elsewhere.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Shown {
    /// Unit vector.
    pub direction: Vec3,
    /// Radians.
    pub half: f64,
}

/// A light may lie this far from where a mirror beside the ball shows it, radians: half a metre between the two, a lamp a
/// metre and a half away (common practice).
const BESIDE_MIRROR: f64 = 0.45;

/// The lights a mirror shows, fitted to the ball, if they explain it no worse than what was found without them.
fn as_shown(s: &Samples, shown: &[Shown], found: usize, cost: f64) -> Option<(Vec<Lobe>, f64)> {
    // what a mirror shows weakest may be a lit thing: then as many as are left
    (2..=shown.len().min(3)).rev().filter(|k| *k > found).find_map(|k| {
        let start: Vec<Lobe> = shown[..k].iter().map(|m| Lobe::new(m.direction, m.half.clamp(0.02, 0.9))).collect();
        let fit = Fitted::new(s, &start, 14);
        let most = fit.x.rows(0, k).max();
        let held = fit
            .lobes
            .iter()
            .zip(shown)
            .enumerate()
            .all(|(i, (l, m))| angle_between(&l.direction, &m.direction) < BESIDE_MIRROR && fit.x[i] > 0.03 * most);
        (held && fit.cost < (1.1 * cost).max(ENOUGH)).then_some((fit.lobes, fit.cost))
    })
}

/// Reads a matte ball marked by its outline. `start` is what was read of it a moment ago, `shown` what a mirror in the
/// same picture shows of the sources, the brightest first: two wide ones are hard to tell from one by shading alone.
///
/// # Errors
/// A [`MatteProblem`] that says why nothing can be told.
pub fn read(
    photo: &Photo,
    camera: Camera,
    centre: [f64; 2],
    radius: f64,
    start: Option<&Start>,
    shown: &[Shown],
) -> Result<MatteReading, MatteProblem> {
    let (w, h) = (f64::from(photo.width()), f64::from(photo.height()));
    if radius < SMALLEST_PX {
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
    let (coarse, clipped) = collect(photo, &sphere(0.0, 0.0, 0.0), e.centre, e.rx, 460)?;
    let (fine, _) = collect(photo, &sphere(0.0, 0.0, 0.0), e.centre, e.rx, 2000)?;

    let (lobes, cost) = start
        .map(|st| Fitted::new(&coarse, &st.lobes, 6))
        // As good as it was: the same lights, moved a little.
        .filter(|fit| start.is_some_and(|st| fit.cost < (1.25 * st.cost).max(ENOUGH)))
        .map_or_else(|| choose_lights(&coarse), |fit| (fit.lobes, fit.cost));
    let (lobes, cost) = as_shown(&coarse, shown, lobes.len(), cost).unwrap_or((lobes, cost));
    if lobes.is_empty() {
        return Err(MatteProblem::Even);
    }
    let start = Start { lobes, cost };
    let fit = Fitted::new(&fine, &start.lobes, 16);
    Ok(fit.report(&fine, &outline, clipped, start, |dx, dy, dr, samples| {
        // The same pixels seen as points of a slightly different ball.
        let s = sphere(dx, dy, dr);
        let base = sphere(0.0, 0.0, 0.0);
        remap(&base, &s, camera, samples)
    }))
}

/// Radius of the smallest ball that is read, pixels.
const SMALLEST_PX: f64 = 6.0;
/// Pixels looked at for the shading of a ball, and cells across it that they are gathered in.
const SHADED: usize = 20_000;
const SHADES_ACROSS: f64 = 20.0;

/// How a matte ball is shaded: normals, luminance and its standard deviation, sample by sample.
#[derive(Debug, Clone)]
pub struct Shades {
    /// Unit normals, camera frame.
    pub normal: Vec<Vec3>,
    /// Linear luminance.
    pub value: Vec<f64>,
    /// Standard deviation of each.
    pub sd: Vec<f64>,
    /// Centre of the outline, pixels, and its radius.
    pub centre: [f64; 2],
    /// Pixels.
    pub radius: f64,
}

/// The shading of a ball marked by its outline: means over a grid across it, so that the picture's grain counts for little.
///
/// # Errors
/// A [`MatteProblem`].
pub fn shades(photo: &Photo, camera: Camera, centre: [f64; 2], radius: f64) -> Result<Shades, MatteProblem> {
    if radius < SMALLEST_PX {
        return Err(MatteProblem::TooSmall);
    }
    let e = refine_circle(photo, centre, radius).ellipse;
    let (s, _) = collect(photo, &SeenSphere::from_silhouette(camera, e.centre, e.rx), e.centre, e.rx, SHADED)?;
    let mut cells = std::collections::BTreeMap::<[i64; 2], (Vec3, f64, f64, f64)>::new();
    for ((n, v), w) in s.normal.iter().zip(s.value.iter()).zip(s.weight.iter()) {
        let at = [n.x, n.y].map(|c| (c * SHADES_ACROSS / 2.0).floor() as i64);
        let cell = cells.entry(at).or_insert((Vec3::zeros(), 0.0, 0.0, 0.0));
        *cell = (cell.0 + n, cell.1 + v, cell.2 + 1.0 / (w * w), cell.3 + 1.0);
    }
    Ok(Shades {
        normal: cells.values().map(|c| c.0.normalize()).collect(),
        value: cells.values().map(|c| c.1 / c.3).collect(),
        sd: cells.values().map(|c| c.2.sqrt() / c.3).collect(),
        centre: e.centre,
        radius: e.rx,
    })
}

fn collect(
    photo: &Photo,
    sphere: &SeenSphere,
    centre: [f64; 2],
    radius: f64,
    wanted: usize,
) -> Result<(Samples, f64), MatteProblem> {
    let inner = radius - (0.025 * radius).max(1.5);
    let step = ((std::f64::consts::PI * inner * inner / wanted as f64).sqrt().round() as i64).max(1);
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

/// The weighted columns of a set of lobes and the ambient.
fn columns(s: &Samples, lobes: &[Lobe]) -> DMatrix<f64> {
    let n = s.value.len();
    let mut a = DMatrix::zeros(n, lobes.len() + 1);
    for (k, lobe) in lobes.iter().enumerate() {
        let f = lobe.irradiance();
        let mut column = a.column_mut(k);
        for ((out, normal), w) in column.iter_mut().zip(&s.normal).zip(s.weight.as_slice()) {
            *out = f(normal) * w;
        }
    }
    a.set_column(lobes.len(), &s.weight);
    a
}

/// The amplitudes that fit best, none negative, with a weight per sample.
fn amplitudes(a: &DMatrix<f64>, y: &DVector<f64>, robust: Option<&DVector<f64>>) -> DVector<f64> {
    match robust {
        None => nnls(&a.tr_mul(a), &a.tr_mul(y)),
        Some(w) => {
            let mut aw = a.clone();
            aw.column_iter_mut().for_each(|mut c| c.component_mul_assign(w));
            nnls(&aw.tr_mul(a), &aw.tr_mul(y))
        }
    }
}

fn misfit(s: &Samples, lobes: &[Lobe]) -> f64 {
    let a = columns(s, lobes);
    let y = s.value.component_mul(&s.weight);
    let x = amplitudes(&a, &y, None);
    (a * x - y).norm_squared() / s.value.len() as f64
}

/// A state of the fit: lobes, amplitudes and what they leave over.
struct Fitted {
    lobes: Vec<Lobe>,
    x: DVector<f64>,
    columns: DMatrix<f64>,
    residual: DVector<f64>,
    /// robust weights of the samples
    trust: DVector<f64>,
    /// sum of robust squares and priors
    total: f64,
    /// mean squared weighted residual
    cost: f64,
}

impl Fitted {
    fn at(s: &Samples, y: &DVector<f64>, lobes: Vec<Lobe>, trust: Option<&DVector<f64>>) -> Fitted {
        let a = columns(s, &lobes);
        let x = amplitudes(&a, y, trust);
        let r = &a * &x - y;
        // Geman and McClure 1987: a label or a speck must not pull
        let knee = 25.0f64;
        let rho: f64 = r.iter().map(|v| v * v / (1.0 + (v / knee).powi(2))).sum();
        let trust = r.map(|v| 1.0 / (1.0 + (v / knee).powi(2)).powi(2));
        let priors: f64 = lobes.iter().flat_map(Lobe::priors).map(|p| p.1 * p.1).sum();
        let n = r.len() as f64;
        Fitted { lobes, x, columns: a, residual: r, trust, total: rho + priors, cost: rho / n }
    }

    /// Jacobian of the residuals: the lobes' parameters with amplitudes held, then the amplitudes.
    fn jacobian(&self, s: &Samples) -> DMatrix<f64> {
        let n = s.value.len();
        let k_lights = self.lobes.len();
        let np = k_lights * PER_LOBE;
        let mut j = DMatrix::zeros(n, np + k_lights + 1);
        for (k, lobe) in self.lobes.iter().enumerate() {
            for q in 0..PER_LOBE {
                let mut p = [0.0; PER_LOBE];
                p[q] = if q == 2 { 2e-3 } else { 1e-3 };
                // stay inside the bounds
                if (q == 2 && lobe.log_half + p[q] > MAX_HALF.ln()) || (q > 3 && lobe.stretch[q - 4] > 1.1) {
                    p[q] = -p[q];
                }
                let f = lobe.stepped(&p).irradiance();
                let k_per = self.x[k] / p[q];
                let held = self.columns.column(k);
                let mut column = j.column_mut(k * PER_LOBE + q);
                for (((out, normal), w), held) in
                    column.iter_mut().zip(&s.normal).zip(s.weight.as_slice()).zip(held.iter())
                {
                    *out = (f(normal) * w - held) * k_per;
                }
            }
        }
        for k in 0..=k_lights {
            // an amplitude held at zero is not free
            if self.x[k] > 0.0 {
                j.set_column(np + k, &self.columns.column(k));
            }
        }
        j
    }

    /// Information matrix with priors.
    fn information(&self, j: &DMatrix<f64>) -> DMatrix<f64> {
        let mut jw = j.clone();
        jw.column_iter_mut().for_each(|mut c| c.component_mul_assign(&self.trust));
        let mut h = jw.tr_mul(j);
        for (k, lobe) in self.lobes.iter().enumerate() {
            for (q, _, slope) in lobe.priors() {
                h[(k * PER_LOBE + q, k * PER_LOBE + q)] += slope * slope;
            }
        }
        for i in 0..h.nrows() {
            h[(i, i)] += 1e-9;
        }
        h
    }

    /// Gauss-Newton on all parameters together, damped after Marquardt 1963; after each step the
    /// amplitudes are solved anew (variable projection).
    fn new(s: &Samples, start: &[Lobe], iterations: usize) -> Fitted {
        let y = s.value.component_mul(&s.weight);
        let mut now = Fitted::at(s, &y, start.to_vec(), None);
        let mut mu = 1e-2;
        let mut fresh = true;
        let mut h = DMatrix::zeros(0, 0);
        let mut g = DVector::zeros(0);
        for _ in 0..iterations {
            if fresh {
                let j = now.jacobian(s);
                h = now.information(&j);
                g = j.tr_mul(&now.residual.component_mul(&now.trust));
                for (k, lobe) in now.lobes.iter().enumerate() {
                    for (q, value, slope) in lobe.priors() {
                        g[k * PER_LOBE + q] += value * slope;
                    }
                }
            }
            let mut damped = h.clone();
            for i in 0..damped.nrows() {
                damped[(i, i)] *= 1.0 + mu;
            }
            let Some(step) = damped.cholesky().map(|c| c.solve(&(-&g))) else {
                mu *= 10.0;
                fresh = false;
                continue;
            };
            let lobes = now
                .lobes
                .iter()
                .enumerate()
                .map(|(k, l)| l.stepped(&step.as_slice()[k * PER_LOBE..(k + 1) * PER_LOBE]))
                .collect();
            let trial = Fitted::at(s, &y, lobes, Some(&now.trust));
            fresh = trial.total < now.total;
            if fresh {
                let gain = now.total - trial.total;
                now = trial;
                mu = (mu / 5.0).max(1e-7);
                if gain < 2e-6 * now.total {
                    break;
                }
            } else {
                mu *= 6.0;
                if mu > 1e6 {
                    break;
                }
            }
        }
        now
    }

    fn report(
        self,
        s: &Samples,
        outline: &Refined,
        clipped: f64,
        start: Start,
        shifted: impl Fn(f64, f64, f64, &Samples) -> Vec<Vec3>,
    ) -> MatteReading {
        let n = s.value.len();
        let k_lights = self.lobes.len();
        let np = k_lights * PER_LOBE;
        let scale = (self.residual.norm_squared() / n as f64).max(0.25);
        let j = self.jacobian(s);
        let info = self.information(&j);
        let inv = info.clone().try_inverse().unwrap_or_else(|| DMatrix::identity(info.nrows(), info.nrows()));
        // Neighbouring samples share the model's error: count one in two as independent.
        let mut cov = &inv * (scale * 2.0);
        // Error of the outline: one Gauss-Newton step per unit of shift.
        for (dx, dy, dr) in [(1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)] {
            let d = 0.25;
            let moved = Samples {
                normal: shifted(dx * d, dy * d, dr * d, s),
                value: s.value.clone(),
                rgb: Vec::new(),
                weight: s.weight.clone(),
            };
            let change = (columns(&moved, &self.lobes) - &self.columns) * &self.x / d;
            let step = &inv * j.tr_mul(&change.component_mul(&self.trust));
            cov += &step * step.transpose() * outline.sd_px.powi(2);
        }
        let base = &self.columns * &self.x;
        let top = base.component_div(&s.weight).amax().max(1e-9);
        let rms = self.residual.component_div(&s.weight).norm() / (n as f64).sqrt() / top;
        let mut order: Vec<usize> = (0..k_lights).collect();
        order.sort_by(|&a, &b| self.x[b].total_cmp(&self.x[a]));
        let colours = light_colours(s, &self.columns);
        let lights = order
            .into_iter()
            .map(|k| {
                let q = k * PER_LOBE;
                let lobe = &self.lobes[k];
                let dir_var = cov[(q, q)] + cov[(q + 1, q + 1)];
                let floor = 0.0012f64;
                let half = lobe.log_half.exp();
                let size_var = cov[(q + 2, q + 2)].max(0.0) + 0.015f64.powi(2) + (0.025 * lobe.stretched()).powi(2);
                // Under two degrees the turn is as narrow as the sampling: an upper bound.
                let mut size_sd = size_var.sqrt().hypot((0.012 / half).powi(2)).min(1.5);
                // The size shows only where the light turns to dark: without samples there it is open.
                let reach = half.sin().max(0.05);
                let turn = s.normal.iter().filter(|n| n.dot(&lobe.direction).abs() < reach).count();
                if turn * 80 < n {
                    size_sd = size_sd.max(0.9);
                }
                let e = self.x[k].max(1e-12);
                let lvl = (cov[(np + k, np + k)].max(0.0).sqrt() / e).hypot(0.006);
                Seen {
                    direction: lobe.direction,
                    direction_sd: (dir_var.max(0.0) + floor * floor).sqrt().min(1.0),
                    log_size: Some(((2.0 * half).ln(), size_sd)),
                    log_level: Some((e.ln(), lvl)),
                    rgb: Some(colours[k]),
                }
            })
            .collect();
        let ambient = self.x[k_lights];
        let ambient_sd = cov[(np + k_lights, np + k_lights)].max(0.0).sqrt().max(0.0002 * top);
        let log_ambient = (ambient > 2.0 * ambient_sd).then(|| (ambient.ln(), (ambient_sd / ambient).hypot(0.004)));
        let point = |i: usize| [s.value[i] + self.residual[i] / s.weight[i], s.value[i]].map(|v| v / top);
        let points = (0..n).step_by(n.div_ceil(PLOTTED).max(1)).map(point).collect();
        let log_ambient_most = log_ambient.is_none().then(|| (ambient.max(0.0) + 2.0 * ambient_sd).max(1e-9).ln());
        MatteReading {
            lights,
            log_ambient,
            log_ambient_most,
            outline: *outline,
            residual: rms,
            samples: n,
            points,
            clipped,
            start,
        }
    }
}

/// Linear RGB of each light, geometry held: one small solve per channel.
fn light_colours(s: &Samples, a: &DMatrix<f64>) -> Vec<[f64; 3]> {
    let mut out = vec![[0.0; 3]; a.ncols() - 1];
    let gram = a.tr_mul(a);
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
fn choose_lights(s: &Samples) -> (Vec<Lobe>, f64) {
    let even = misfit(s, &[]);
    let peaks = bank_peaks(s);
    let mut best: Vec<Lobe> = Vec::new();
    let mut best_cost = even;
    for k in 1..=3usize {
        if k > 1 && best_cost <= ENOUGH {
            break;
        }
        let mut starts: Vec<Vec<Lobe>> = Vec::new();
        if peaks.len() >= k {
            starts.push(peaks[..k].to_vec());
        }
        if best.len() + 1 == k {
            for extra in scan_for_one_more(s, &best, if k == 3 { 4 } else { 2 }) {
                let mut l = best.clone();
                l.push(extra);
                starts.push(l);
            }
            // A wide source may be two that were taken for one.
            for (i, wide) in best.iter().enumerate().filter(|(_, l)| l.log_half.exp() > 0.25) {
                let half = wide.log_half.exp();
                for along in [wide.tangents.0, wide.tangents.1] {
                    let mut l = best.clone();
                    l[i] = Lobe::new((wide.direction + along * half).normalize(), 0.4 * half);
                    l.push(Lobe::new((wide.direction - along * half).normalize(), 0.4 * half));
                    starts.push(l);
                }
            }
        }
        // A few steps from each start, then on with the best.
        let fits = starts.iter().map(|st| Fitted::new(s, st, 5));
        let Some(fit) = fits.min_by(|a, b| a.total.total_cmp(&b.total)) else { break };
        let fit = Fitted::new(s, &fit.lobes, 12);
        if k == 1 {
            // One light must explain clearly more than an even ball.
            if fit.cost * 1.5 < even && fit.x[0] > 0.02 * s.value.amax() {
                best_cost = fit.cost;
                best = fit.lobes;
                continue;
            }
            return (Vec::new(), even);
        }
        if accept(s, &best, best_cost, &fit) {
            best_cost = fit.cost;
            best = fit.lobes;
        } else if k == 3 || best.len() + 1 < k {
            break;
        }
    }
    (best, best_cost)
}

fn accept(s: &Samples, before: &[Lobe], before_cost: f64, fit: &Fitted) -> bool {
    let k = fit.lobes.len();
    let strongest = fit.x.rows(0, k).max();
    let top = s.value.amax();
    let mut weight_ok = true;
    for (i, l) in fit.lobes.iter().enumerate() {
        // what it adds to the picture where it adds most
        let f = l.irradiance();
        let adds = s.normal.iter().map(f).fold(0.0, f64::max) * fit.x[i];
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
    // Two discs inside what one disc nearly explained are the shape of one source, not two sources.
    let gain = before_cost / fit.cost.max(1e-12);
    if before.len() == 1 && before_cost < 8.0 && gain < 2.2 {
        let one = &before[0];
        let reach = 1.1 * one.log_half.exp().max(0.1);
        apart &= !fit.lobes.iter().all(|l| angle_between(&l.direction, &one.direction) < reach);
    }
    weight_ok && apart && gain > 1.6 && before_cost > ENOUGH
}

/// Peaks of a non-negative sparse combination of many directions, ranked by what they add.
fn bank_peaks(s: &Samples) -> Vec<Lobe> {
    let half = 0.12;
    let dirs: Vec<Vec3> = fibonacci_sphere(110).into_iter().filter(|d| d.z > -0.92).collect();
    let lobes: Vec<Lobe> = dirs.iter().map(|d| Lobe::new(*d, half)).collect();
    let a = columns(s, &lobes);
    let x = amplitudes(&a, &s.value.component_mul(&s.weight), None);
    let contribution: Vec<f64> = (0..lobes.len()).map(|k| x[k] * a.column(k).sum()).collect();
    let mut order: Vec<usize> = (0..lobes.len()).filter(|&k| contribution[k] > 0.0).collect();
    order.sort_by(|&i, &j| contribution[j].total_cmp(&contribution[i]));
    // Merge neighbours into the strongest.
    let mut peaks: Vec<(Vec3, f64)> = Vec::new();
    for k in order {
        match peaks.iter_mut().find(|(p, _)| angle_between(p, &dirs[k]) < 0.45) {
            Some((p, w)) => {
                *p = (*p * *w + dirs[k] * contribution[k]).normalize();
                *w += contribution[k];
            }
            None => peaks.push((dirs[k], contribution[k])),
        }
    }
    peaks.sort_by(|a, b| b.1.total_cmp(&a.1));
    peaks.into_iter().map(|(d, _)| Lobe::new(d, half)).collect()
}

/// The places for one more light that lower the misfit most, at least 25 degrees apart, over a grid
/// of directions and two sizes.
fn scan_for_one_more(s: &Samples, have: &[Lobe], most: usize) -> Vec<Lobe> {
    let a = columns(s, have);
    let y = s.value.component_mul(&s.weight);
    let g = a.tr_mul(&a);
    let b = a.tr_mul(&y);
    let m = g.nrows();
    let mut found: Vec<(f64, Lobe)> = Vec::new();
    for d in fibonacci_sphere(130) {
        for half in [0.05, 0.3] {
            let lobe = Lobe::new(d, half);
            let f = lobe.irradiance();
            let col = DVector::from_fn(s.value.len(), |i, _| f(&s.normal[i]) * s.weight[i]);
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
            if x[m] > 0.0 {
                found.push((gain, lobe));
            }
        }
    }
    found.sort_by(|a, b| b.0.total_cmp(&a.0));
    let mut out: Vec<Lobe> = Vec::new();
    for (_, l) in found {
        if out.len() == most {
            break;
        }
        if out.iter().all(|o| angle_between(&o.direction, &l.direction) > 0.44) {
            out.push(l);
        }
    }
    out
}
