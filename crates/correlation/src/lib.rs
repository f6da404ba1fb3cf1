//! Where one field lies on another: cross-correlation of square fields of complex numbers by their Fourier transforms
//! (convolution theorem; Kuglin & Hines 1975 for pictures).
//!
//! The transforms are compiled here once; who lays pictures over each other uses this.

pub use rustfft::num_complex::Complex32;
use rustfft::{Fft, FftPlanner};
use std::sync::Arc;

/// Transforms of square fields of one side, row by row.
pub struct Square {
    side: usize,
    forward: Arc<dyn Fft<f32>>,
    inverse: Arc<dyn Fft<f32>>,
}

impl Square {
    /// Of `side` by `side` values; sides of small prime factors are quick.
    pub fn of(side: usize) -> Square {
        let mut planner = FftPlanner::<f32>::new();
        Square { side, forward: planner.plan_fft_forward(side), inverse: planner.plan_fft_inverse(side) }
    }

    /// Values along a side.
    pub fn side(&self) -> usize {
        self.side
    }

    /// An empty field.
    pub fn empty(&self) -> Vec<Complex32> {
        vec![Complex32::default(); self.side * self.side]
    }

    fn both_ways(&self, field: &mut [Complex32], plan: &Arc<dyn Fft<f32>>) {
        let n = self.side;
        for _ in 0..2 {
            field.chunks_mut(n).for_each(|row| plan.process(row));
            for i in 0..n {
                for j in 0..i {
                    field.swap(i * n + j, j * n + i);
                }
            }
        }
    }

    /// The spectrum of a field in its place: `sum f(x, y) exp(-2 pi i (u x + v y) / n)`, not divided by anything.
    pub fn spectrum(&self, field: &mut [Complex32]) {
        self.both_ways(field, &self.forward);
    }

    /// From two spectra the cross-correlation, in the place of the first: at `(x, y)` the sum over all places of the first field's
    /// conjugate times the second field `x` to the right and `y` down, times the number of values. It wraps round.
    pub fn correlate(&self, first: &mut [Complex32], second: &[Complex32]) {
        first.iter_mut().zip(second).for_each(|(p, q)| *p = p.conj() * q);
        self.both_ways(first, &self.inverse);
    }

    /// A place along a side as a shift: the upper half stands for shifts to the left and up.
    pub fn shift(&self, at: usize) -> f64 {
        if at > self.side / 2 { at as f64 - self.side as f64 } else { at as f64 }
    }

    /// The value at a place and a step from it, wrapped round.
    pub fn value(&self, field: &[Complex32], at: usize, [dx, dy]: [i64; 2]) -> f32 {
        let wrap = |v: usize, d: i64| (v as i64 + d).rem_euclid(self.side as i64) as usize;
        field[wrap(at / self.side, dy) * self.side + wrap(at % self.side, dx)].re
    }

    /// Where a peak lies between its pixels, as a shift: a parabola through the logarithms of three values each way, which a
    /// bell-shaped peak is (common practice).
    pub fn peak(&self, field: &[Complex32], at: usize) -> [f64; 2] {
        let top = self.value(field, at, [0, 0]);
        let between = |before: [i64; 2], after: [i64; 2]| {
            let ln = |v: f32| f64::from(v.max(1e-6 * top)).ln();
            let (l, c, r) = (ln(self.value(field, at, before)), ln(top), ln(self.value(field, at, after)));
            let bend = l - 2.0 * c + r;
            if bend < -1e-9 { (0.5 * (l - r) / bend).clamp(-0.6, 0.6) } else { 0.0 }
        };
        [self.shift(at % self.side) + between([-1, 0], [1, 0]), self.shift(at / self.side) + between([0, -1], [0, 1])]
    }
}
