//! Small solvers against problems whose answers are known.

use nalgebra::{DMatrix, DVector};
use optics::solve::{levenberg_marquardt, median, nnls, nnls_near};
use proptest::prelude::*;

/// The best of all choices of which unknowns are free: what non-negative least squares must find.
fn by_trying_all(a: &DMatrix<f64>, y: &DVector<f64>) -> f64 {
    let n = a.ncols();
    let mut best = y.norm_squared();
    for free in 1u32..(1 << n) {
        let columns: Vec<usize> = (0..n).filter(|k| free & (1 << k) != 0).collect();
        let part = a.select_columns(&columns);
        let Some(x) = (part.tr_mul(&part)).cholesky().map(|c| c.solve(&part.tr_mul(y))) else { continue };
        if x.iter().all(|v| *v >= 0.0) {
            best = best.min((part * x - y).norm_squared());
        }
    }
    best
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(80))]
    #[test]
    fn non_negative_least_squares_finds_the_best_of_all(v in prop::collection::vec(-1.0f64..1.0, 24), y in prop::collection::vec(-1.0f64..1.0, 6)) {
        let a = DMatrix::from_row_slice(6, 4, &v);
        let y = DVector::from_vec(y);
        prop_assume!(a.tr_mul(&a).symmetric_eigen().eigenvalues.min() > 1e-2);
        let (gram, rhs) = (a.tr_mul(&a), a.tr_mul(&y));
        let best = by_trying_all(&a, &y);
        for x in [nnls(&gram, &rhs), nnls_near(&gram, &rhs, &DVector::from_element(4, 0.3), 4000)] {
            prop_assert!(x.iter().all(|v| *v >= 0.0), "{x}");
            let cost = (&a * &x - &y).norm_squared();
            prop_assert!(cost < best + 1e-5, "{cost} for {best}");
        }
    }

    #[test]
    fn the_median_is_the_middle(mut v in prop::collection::vec(-10.0f64..10.0, 1..30)) {
        let m = median(&mut v);
        let (below, above) = (v.iter().filter(|x| **x < m).count(), v.iter().filter(|x| **x > m).count());
        prop_assert!(below <= v.len() / 2 && above <= v.len() / 2, "{below} below, {above} above of {}", v.len());
    }
}

#[test]
fn the_banana_valley_is_walked_to_its_end() {
    // Rosenbrock's function (1960): least at (1, 1), from its usual start
    let r = |x: &DVector<f64>| DVector::from_vec(vec![1.0 - x[0], 10.0 * (x[1] - x[0] * x[0])]);
    let m = levenberg_marquardt(DVector::from_vec(vec![-1.2, 1.0]), &[1e-7; 2], 200, r, |_| {});
    assert!((m.x[0] - 1.0).abs() < 1e-3 && (m.x[1] - 1.0).abs() < 2e-3, "{}", m.x);
    // bounds are kept
    let m = levenberg_marquardt(DVector::from_vec(vec![-1.2, 1.0]), &[1e-7; 2], 200, r, |x| x[0] = x[0].min(0.5));
    assert!(m.x[0] <= 0.5 && (m.x[1] - m.x[0] * m.x[0]).abs() < 0.01, "{}", m.x);
    assert!(median(&mut []).is_nan());
}
