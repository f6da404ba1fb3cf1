//! Transforms and correlations against their definitions, worked out term by term.

use correlation::{Complex32, Square};
use proptest::prelude::*;
use std::f64::consts::TAU;

fn field(n: usize, seed: u32) -> Vec<Complex32> {
    let mut s = seed;
    let mut next = || {
        s = s.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
        (s >> 8) as f32 / (1 << 24) as f32 - 0.5
    };
    (0..n * n).map(|_| Complex32::new(next(), next())).collect()
}

fn near(a: Complex32, b: [f64; 2], within: f64) -> bool {
    (f64::from(a.re) - b[0]).hypot(f64::from(a.im) - b[1]) < within
}

/// The definition of the discrete Fourier transform in two dimensions.
fn by_definition(f: &[Complex32], n: usize, u: usize, v: usize) -> [f64; 2] {
    let mut sum = [0.0; 2];
    for y in 0..n {
        for x in 0..n {
            let (sin, cos) = (-TAU * (u * x + v * y) as f64 / n as f64).sin_cos();
            let z = f[y * n + x];
            let (re, im) = (f64::from(z.re), f64::from(z.im));
            sum[0] += re * cos - im * sin;
            sum[1] += re * sin + im * cos;
        }
    }
    sum
}

#[test]
fn a_spectrum_is_the_sum_it_is_defined_as() {
    for n in [4, 6, 9, 16] {
        let square = Square::of(n);
        let f = field(n, n as u32);
        let mut s = f.clone();
        square.spectrum(&mut s);
        for (u, v) in [(0, 0), (1, 0), (0, 1), (2, 3), (n - 1, n / 2)] {
            assert!(near(s[v * n + u], by_definition(&f, n, u, v), 1e-3), "{n}: {u}, {v}");
        }
    }
}

#[test]
fn a_correlation_is_the_sum_it_is_defined_as() {
    let n = 8;
    let square = Square::of(n);
    let (a, b) = (field(n, 5), field(n, 6));
    let (mut c, mut s) = (a.clone(), b.clone());
    square.spectrum(&mut c);
    square.spectrum(&mut s);
    square.correlate(&mut c, &s);
    for (dx, dy) in [(0usize, 0usize), (3, 1), (7, 6)] {
        let mut sum = Complex32::default();
        for y in 0..n {
            for x in 0..n {
                sum += a[y * n + x].conj() * b[((y + dy) % n) * n + (x + dx) % n];
            }
        }
        let sum = sum * (n * n) as f32;
        assert!(near(c[dy * n + dx], [f64::from(sum.re), f64::from(sum.im)], 2e-3), "{dx}, {dy}");
    }
}

/// A bell is moved by parts of a pixel: a parabola through logarithms finds it exactly (the logarithm of a Gaussian is one).
#[test]
fn a_bell_lies_between_pixels_where_it_was_put() {
    let n = 16;
    let square = Square::of(n);
    for at in [[3.0, 4.0], [3.3, 4.4], [8.49, 2.6]] {
        let bell: Vec<Complex32> = (0..n * n)
            .map(|i| {
                let d2 = ((i % n) as f64 - at[0]).powi(2) + ((i / n) as f64 - at[1]).powi(2);
                Complex32::new((-d2 / 3.0).exp() as f32, 0.0)
            })
            .collect();
        let top = (0..n * n).max_by(|i, j| bell[*i].re.total_cmp(&bell[*j].re)).unwrap();
        let found = square.peak(&bell, top);
        assert!((0..2).all(|k| (found[k] - at[k]).abs() < 1e-3), "{at:?}: {found:?}");
    }
}

#[test]
fn what_is_level_has_its_peak_on_the_pixel() {
    let square = Square::of(8);
    let level = vec![Complex32::new(1.0, 0.0); 64];
    assert_eq!(square.peak(&level, 9), [1.0, 1.0]);
    assert_eq!([0, 3, 4, 5, 7].map(|k| square.shift(k)), [0.0, 3.0, 4.0, -3.0, -1.0]);
    assert_eq!((square.side(), square.empty().len()), (8, 64));
}

proptest! {
    /// A field and itself moved, wrapped round: the highest correlation lies at the move.
    #[test]
    fn a_move_is_found(seed in 1u32..10_000, dx in 0usize..32, dy in 0usize..32) {
        let n = 32;
        let square = Square::of(n);
        let a = field(n, seed);
        let mut moved = square.empty();
        for i in 0..n * n {
            moved[((i / n + dy) % n) * n + (i % n + dx) % n] = a[i];
        }
        let mut c = a;
        square.spectrum(&mut c);
        square.spectrum(&mut moved);
        square.correlate(&mut c, &moved);
        let top = (0..n * n).max_by(|i, j| c[*i].re.total_cmp(&c[*j].re)).unwrap();
        prop_assert_eq!((top % n, top / n), (dx, dy));
        let at = square.peak(&c, top);
        prop_assert!((at[0] - square.shift(dx)).abs() < 0.6 && (at[1] - square.shift(dy)).abs() < 0.6);
    }

    /// Parseval's theorem: what a field holds, its spectrum holds as many times as there are values.
    #[test]
    fn energy_is_kept(seed in 1u32..10_000) {
        let n = 16;
        let f = field(n, seed);
        let mut s = f.clone();
        Square::of(n).spectrum(&mut s);
        let energy = |f: &[Complex32]| f.iter().map(|z| f64::from(z.norm_sqr())).sum::<f64>();
        prop_assert!((energy(&s) / energy(&f) / (n * n) as f64 - 1.0).abs() < 1e-4);
    }
}
