//! The least squares of a ball: amplitudes by non-negative solves inside a Levenberg-Marquardt fit of the lobes.

use super::lobe::{Lobe, MAX_HALF, PER_LOBE};
use super::{MatteReading, Samples, Start};
use crate::Seen;
use crate::outline::Refined;
use nalgebra::{DMatrix, DVector};
use optics::geometry::Vec3;
use optics::solve::nnls;

/// Samples shown at most.
pub(super) const PLOTTED: usize = 150;

/// The weighted columns of a set of lobes and the ambient.
pub(super) fn columns(s: &Samples, lobes: &[Lobe]) -> DMatrix<f64> {
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
pub(super) fn amplitudes(a: &DMatrix<f64>, y: &DVector<f64>, robust: Option<&DVector<f64>>) -> DVector<f64> {
    match robust {
        None => nnls(&a.tr_mul(a), &a.tr_mul(y)),
        Some(w) => {
            let mut aw = a.clone();
            aw.column_iter_mut().for_each(|mut c| c.component_mul_assign(w));
            nnls(&aw.tr_mul(a), &aw.tr_mul(y))
        }
    }
}

pub(super) fn misfit(s: &Samples, lobes: &[Lobe]) -> f64 {
    let a = columns(s, lobes);
    let y = s.value.component_mul(&s.weight);
    let x = amplitudes(&a, &y, None);
    (a * x - y).norm_squared() / s.value.len() as f64
}

/// A state of the fit: lobes, amplitudes and what they leave over.
pub(super) struct Fitted {
    pub(super) lobes: Vec<Lobe>,
    pub(super) x: DVector<f64>,
    pub(super) columns: DMatrix<f64>,
    pub(super) residual: DVector<f64>,
    /// robust weights of the samples
    pub(super) trust: DVector<f64>,
    /// sum of robust squares and priors
    pub(super) total: f64,
    /// mean squared weighted residual
    pub(super) cost: f64,
}

impl Fitted {
    pub(super) fn at(s: &Samples, y: &DVector<f64>, lobes: Vec<Lobe>, trust: Option<&DVector<f64>>) -> Fitted {
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
    pub(super) fn jacobian(&self, s: &Samples) -> DMatrix<f64> {
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
    pub(super) fn information(&self, j: &DMatrix<f64>) -> DMatrix<f64> {
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

    /// Half the gradient of what is minimised, with priors, in the parameters of `j`.
    pub(super) fn gradient(&self, j: &DMatrix<f64>) -> DVector<f64> {
        let mut g = j.tr_mul(&self.residual.component_mul(&self.trust));
        for (k, lobe) in self.lobes.iter().enumerate() {
            for (q, value, slope) in lobe.priors() {
                g[k * PER_LOBE + q] += value * slope;
            }
        }
        g
    }

    /// Gauss-Newton on all parameters together, damped after Marquardt 1963; after each step the
    /// amplitudes are solved anew (variable projection).
    pub(super) fn new(s: &Samples, start: &[Lobe], iterations: usize) -> Fitted {
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
                g = now.gradient(&j);
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

    pub(super) fn report(
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
pub(super) fn light_colours(s: &Samples, a: &DMatrix<f64>) -> Vec<[f64; 3]> {
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
