//! Where the outline of a ball truly lies, told by its shading.
//!
//! On the dark side a ball may have no edge against what is behind it: the steepest slope is then that of the shading, half a
//! pixel inside, and what the wrong outline leaves over looks like faint lights from behind. So before several lights are
//! believed, fewer are tried with the outline free, each unknown held by what its edges allow (joint Gauss-Newton, the lobes
//! fitted anew after each step).

use super::fit::{Fitted, columns};
use super::lobe::Lobe;
use super::{ENOUGH, Samples};
use nalgebra::DMatrix;
use optics::geometry::Vec3;

/// Shift of the outline to the right, down and outward, pixels.
pub(super) type Shift = [f64; 3];

/// Lights of a ball and where its outline lies.
#[derive(Debug, Clone)]
pub(super) struct Settled {
    pub lobes: Vec<Lobe>,
    pub cost: f64,
    pub shift: Shift,
}

/// Further than so many standard deviations no outline is moved.
const MOST_SD: f64 = 3.0;
/// How much better a moved outline must explain the same lights.
const CLEARLY: f64 = 1.6;
/// Step of the differences, pixels.
const STEP: f64 = 0.25;

/// The fewest lights that explain the ball as well, if the outline may move by `sd` pixels (standard deviation).
/// `moved` gives the normals of the samples for a shift.
pub(super) fn settle(s: &Samples, found: Settled, sd: f64, moved: &impl Fn(Shift) -> Vec<Vec3>) -> Settled {
    let k = found.lobes.len();
    if k == 0 || found.cost <= ENOUGH && k == 1 {
        return found;
    }
    let all = Fitted::new(s, &found.lobes, 0);
    let mut order: Vec<usize> = (0..k).collect();
    order.sort_by(|&a, &b| all.x[b].total_cmp(&all.x[a]));
    (1..=k)
        .map(|m| order[..m].iter().map(|&i| found.lobes[i]).collect::<Vec<_>>())
        .filter_map(|fewer| {
            let m = fewer.len();
            let free = with_outline(s, &fewer, found.shift, sd, moved)?;
            let as_good = if m < k { ENOUGH.max(1.1 * found.cost) } else { found.cost / CLEARLY };
            (free.cost < as_good).then_some(free)
        })
        .next()
        .unwrap_or(found)
}

/// Lights and outline fitted together; the cost counts how far the outline had to move.
fn with_outline(
    s: &Samples,
    start: &[Lobe],
    from: Shift,
    sd: f64,
    moved: &impl Fn(Shift) -> Vec<Vec3>,
) -> Option<Settled> {
    let at = |shift: Shift| Samples { normal: moved(shift), ..s.clone() };
    let mut shift = from;
    let mut lobes = start.to_vec();
    let mut best: Option<Settled> = None;
    for _ in 0..5 {
        let here = at(shift);
        let fit = Fitted::new(&here, &lobes, 6);
        let cost = fit.cost + shift.iter().map(|d| (d / sd).powi(2)).sum::<f64>() / s.value.len() as f64;
        let gained = best.as_ref().is_none_or(|b| cost < 0.98 * b.cost);
        if best.as_ref().is_none_or(|b| cost < b.cost) {
            best = Some(Settled { lobes: fit.lobes.clone(), cost, shift });
        }
        if !gained {
            break;
        }
        let j = fit.jacobian(&here);
        let lights = j.ncols();
        let mut joint = DMatrix::zeros(j.nrows(), lights + 3);
        joint.columns_mut(0, lights).copy_from(&j);
        for i in 0..3 {
            let mut nudged = shift;
            nudged[i] += STEP;
            let change = (columns(&at(nudged), &fit.lobes) - &fit.columns) * &fit.x / STEP;
            joint.set_column(lights + i, &change);
        }
        let mut trusted = joint.clone();
        trusted.column_iter_mut().for_each(|mut c| c.component_mul_assign(&fit.trust));
        let mut h = trusted.tr_mul(&joint);
        // the lights' columns stand first, so that their parameters keep their places
        let mut g = fit.gradient(&joint);
        h.view_mut((0, 0), (lights, lights)).copy_from(&fit.information(&j));
        for i in 0..3 {
            h[(lights + i, lights + i)] += 1.0 / (sd * sd);
            g[lights + i] += shift[i] / (sd * sd);
        }
        let step = h.cholesky()?.solve(&(-g));
        for i in 0..3 {
            shift[i] = (shift[i] + step[lights + i].clamp(-sd, sd)).clamp(-MOST_SD * sd, MOST_SD * sd);
        }
        lobes = fit.lobes;
    }
    best
}
