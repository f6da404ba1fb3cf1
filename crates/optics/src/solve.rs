//! Small dense solvers: non-negative least squares and Levenberg-Marquardt.

use nalgebra::{DMatrix, DVector};

/// Non-negative least squares from the normal equations: minimises `x' G x - 2 b' x`, `x >= 0`,
/// with `G = A' A` and `b = A' y` (Lawson & Hanson 1974, algorithm NNLS; the Gram form is
/// Bro & De Jong 1997).
pub fn nnls(gram: &DMatrix<f64>, rhs: &DVector<f64>) -> DVector<f64> {
    let n = rhs.len();
    let mut x = DVector::zeros(n);
    let mut passive = vec![false; n];
    let scale = (0..n).map(|i| gram[(i, i)]).fold(0.0, f64::max).max(1e-300);
    let tol = 1e-10 * rhs.amax().max(scale * 1e-12);
    for _ in 0..(3 * n + 10) {
        let w = rhs - gram * &x;
        let Some(best) = (0..n).filter(|&i| !passive[i] && w[i] > tol).max_by(|&a, &b| w[a].total_cmp(&w[b])) else {
            break;
        };
        passive[best] = true;
        loop {
            let set: Vec<usize> = (0..n).filter(|&i| passive[i]).collect();
            let sub = DMatrix::from_fn(set.len(), set.len(), |r, c| {
                gram[(set[r], set[c])] + if r == c { scale * 1e-12 } else { 0.0 }
            });
            let b = DVector::from_iterator(set.len(), set.iter().map(|&i| rhs[i]));
            let Some(s) = sub.cholesky().map(|c| c.solve(&b)) else {
                passive[best] = false;
                return x;
            };
            if s.iter().all(|v| *v > 0.0) {
                x.fill(0.0);
                set.iter().zip(s.iter()).for_each(|(&i, v)| x[i] = *v);
                break;
            }
            // Step back to the boundary and drop what became zero.
            let mut alpha = 1.0f64;
            for (&i, v) in set.iter().zip(s.iter()) {
                if *v <= 0.0 {
                    alpha = alpha.min(x[i] / (x[i] - v));
                }
            }
            for (&i, v) in set.iter().zip(s.iter()) {
                x[i] += alpha * (v - x[i]);
                if x[i] <= 1e-14 || (*v <= 0.0 && x[i] <= 1e-12 * x.amax()) {
                    x[i] = 0.0;
                    passive[i] = false;
                }
            }
            if set.iter().all(|&i| passive[i]) {
                break;
            }
        }
    }
    x
}

/// As [`nnls`] from a start near the minimum, by solving for one unknown after another (Franc, Hlavac & Navara 2005,
/// sequential coordinate-wise algorithm), until none moves by a millionth of the largest or for `sweeps` rounds.
pub fn nnls_near(gram: &DMatrix<f64>, rhs: &DVector<f64>, start: &DVector<f64>, sweeps: usize) -> DVector<f64> {
    let mut x = start.map(|v| v.max(0.0));
    let mut slope = gram * &x - rhs;
    for _ in 0..sweeps {
        let mut most = 0.0f64;
        for i in 0..x.len() {
            let g = gram[(i, i)];
            if g <= 0.0 {
                continue;
            }
            let step = (x[i] - slope[i] / g).max(0.0) - x[i];
            if step != 0.0 {
                x[i] += step;
                slope.axpy(step, &gram.column(i), 1.0);
                most = most.max(step.abs());
            }
        }
        if most <= 1e-6 * x.amax() {
            break;
        }
    }
    x
}

/// Outcome of [`levenberg_marquardt`].
#[derive(Debug, Clone)]
pub struct Minimum {
    /// Parameters at the minimum.
    pub x: DVector<f64>,
    /// Sum of squared residuals there.
    pub cost: f64,
    /// Jacobian of the residuals there.
    pub jacobian: DMatrix<f64>,
}

/// Minimises the sum of squares of `residuals(x)` with a forward-difference Jacobian
/// (Levenberg 1944, Marquardt 1963; damping after Nielsen 1999). `steps` are the difference steps.
/// `clamp` keeps parameters inside their bounds.
pub fn levenberg_marquardt(
    start: DVector<f64>,
    steps: &[f64],
    iterations: usize,
    residuals: impl Fn(&DVector<f64>) -> DVector<f64>,
    clamp: impl Fn(&mut DVector<f64>),
) -> Minimum {
    let mut x = start;
    clamp(&mut x);
    let mut r = residuals(&x);
    let mut cost = r.norm_squared();
    let (mut mu, mut nu) = (1e-3, 2.0);
    let mut jac = jacobian(&x, &r, steps, &residuals);
    for _ in 0..iterations {
        let jtj = jac.tr_mul(&jac);
        let g = jac.tr_mul(&r);
        let mut damped = jtj.clone();
        for i in 0..x.len() {
            damped[(i, i)] += mu * jtj[(i, i)].max(1e-9);
        }
        let Some(step) = damped.cholesky().map(|c| c.solve(&(-&g))) else {
            mu *= 10.0;
            continue;
        };
        let mut trial = &x + &step;
        clamp(&mut trial);
        let rt = residuals(&trial);
        let ct = rt.norm_squared();
        if ct < cost {
            let gain = cost - ct;
            x = trial;
            r = rt;
            cost = ct;
            mu = (mu / 4.0).max(1e-12);
            nu = 2.0;
            jac = jacobian(&x, &r, steps, &residuals);
            if gain < 1e-6 * cost.max(1e-12) {
                break;
            }
        } else {
            mu *= nu;
            nu *= 2.0;
            if mu > 1e8 {
                break;
            }
        }
    }
    Minimum { x, cost, jacobian: jac }
}

fn jacobian(
    x: &DVector<f64>,
    r: &DVector<f64>,
    steps: &[f64],
    residuals: &impl Fn(&DVector<f64>) -> DVector<f64>,
) -> DMatrix<f64> {
    let mut jac = DMatrix::zeros(r.len(), x.len());
    for i in 0..x.len() {
        let mut xi = x.clone();
        xi[i] += steps[i];
        let ri = residuals(&xi);
        jac.set_column(i, &((ri - r) / steps[i]));
    }
    jac
}

/// Median of a list; NaN if empty. Reorders the list.
pub fn median(values: &mut [f64]) -> f64 {
    if values.is_empty() {
        return f64::NAN;
    }
    let mid = values.len() / 2;
    let (_, m, _) = values.select_nth_unstable_by(mid, f64::total_cmp);
    *m
}
