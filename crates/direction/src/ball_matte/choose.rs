//! How many lights a ball asks for, and roughly where.

use super::fit::{Fitted, amplitudes, columns, misfit};
use super::lobe::Lobe;
use super::{ENOUGH, Samples};
use nalgebra::{DMatrix, DVector};
use optics::geometry::{Vec3, angle_between, fibonacci_sphere};
use optics::solve::nnls;

/// Finds how many lights the samples ask for, and roughly where: a light is added only if the
/// misfit falls clearly, it stands apart from the others and it is strong enough to matter.
pub(super) fn choose_lights(s: &Samples) -> (Vec<Lobe>, f64) {
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

pub(super) fn accept(s: &Samples, before: &[Lobe], before_cost: f64, fit: &Fitted) -> bool {
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
pub(super) fn bank_peaks(s: &Samples) -> Vec<Lobe> {
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
pub(super) fn scan_for_one_more(s: &Samples, have: &[Lobe], most: usize) -> Vec<Lobe> {
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
