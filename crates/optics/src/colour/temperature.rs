//! Correlated colour temperature and distance from the black body's locus.

use crate::units::Kelvin;
use std::sync::LazyLock;

/// A light's colour: how warm it is, and how far to the green or the pink of a black body.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Temperature {
    /// Correlated colour temperature.
    pub cct: Kelvin,
    /// Distance from the locus in CIE 1960 (u, v); positive is greener, negative pinker.
    pub duv: f64,
}

/// The locus: kelvin, u and v at steps of one per cent (made by `tests/fixtures/make_colour_fixtures.py`
/// from Planck's law and the CIE 1931 2 degree observer).
static LOCUS: LazyLock<Vec<[f64; 3]>> = LazyLock::new(|| {
    let rows = include_str!("../../data/planckian.csv").lines();
    let numbers = |l: &str| l.split(',').map(|v| v.parse().ok()).collect::<Option<Vec<f64>>>();
    rows.filter_map(numbers).map(|v| [v[0], v[1], v[2]]).collect()
});

/// CIE 1960 (u, v) of CIE 1931 (x, y).
pub fn uv_of(x: f64, y: f64) -> (f64, f64) {
    let d = -2.0 * x + 12.0 * y + 3.0;
    (4.0 * x / d, 6.0 * y / d)
}

/// CIE 1931 (x, y) of CIE 1960 (u, v).
pub fn xy_of(u: f64, v: f64) -> (f64, f64) {
    let d = 2.0 * u - 8.0 * v + 4.0;
    (3.0 * u / d, 2.0 * v / d)
}

/// CIE 1960 (u, v) of a black body, 1000 to 25000 K, between the rows of the table by reciprocal temperature.
pub fn planckian_uv(k: Kelvin) -> (f64, f64) {
    let t = k.0.clamp(LOCUS[0][0], LOCUS[LOCUS.len() - 1][0]);
    let i = LOCUS.partition_point(|r| r[0] <= t).clamp(1, LOCUS.len() - 1);
    let (a, b) = (LOCUS[i - 1], LOCUS[i]);
    let f = (1.0 / t - 1.0 / a[0]) / (1.0 / b[0] - 1.0 / a[0]);
    (a[1] + f * (b[1] - a[1]), a[2] + f * (b[2] - a[2]))
}

impl Temperature {
    /// Duv beyond which a temperature says nothing of a colour (CIE 015:2018: 0.05).
    pub const FAR: f64 = 0.05;

    /// By the method of Ohno (2014, Leukos 10, 47): the nearest rows of a table of the locus, a triangle close to it and
    /// a parabola further off. Within a few kelvin of the exact solution from 1000 to 20000 K.
    /// `None` outside the table or further than [`Temperature::FAR`] from the locus.
    pub fn of_xy(x: f64, y: f64) -> Option<Temperature> {
        let (u, v) = uv_of(x, y);
        let d = |r: &[f64; 3]| (u - r[1]).hypot(v - r[2]);
        let m = (0..LOCUS.len()).min_by(|&a, &b| d(&LOCUS[a]).total_cmp(&d(&LOCUS[b])))?;
        if m == 0 || m + 1 == LOCUS.len() {
            return None;
        }
        let (p, q, r) = (&LOCUS[m - 1], &LOCUS[m], &LOCUS[m + 1]);
        let (dp, dq, dr) = (d(p), d(q), d(r));
        let l = (r[1] - p[1]).hypot(r[2] - p[2]);
        let along = (dp * dp - dr * dr + l * l) / (2.0 * l);
        let sign = (v - (p[2] + (r[2] - p[2]) * along / l)).signum();
        let triangle = Temperature {
            cct: Kelvin(p[0] + (r[0] - p[0]) * along / l),
            duv: sign * (dp * dp - along * along).max(0.0).sqrt(),
        };
        let found = if triangle.duv.abs() < 0.002 {
            triangle
        } else {
            let x = (r[0] - q[0]) * (p[0] - r[0]) * (q[0] - p[0]);
            let a = (p[0] * (dr - dq) + q[0] * (dp - dr) + r[0] * (dq - dp)) / x;
            let b = -(p[0] * p[0] * (dr - dq) + q[0] * q[0] * (dp - dr) + r[0] * r[0] * (dq - dp)) / x;
            let c = -(dp * (r[0] - q[0]) * q[0] * r[0]
                + dq * (p[0] - r[0]) * p[0] * r[0]
                + dr * (q[0] - p[0]) * p[0] * q[0])
                / x;
            let t = -b / (2.0 * a);
            Temperature { cct: Kelvin(t), duv: sign * (a * t * t + b * t + c) }
        };
        (found.duv.abs() <= Self::FAR).then_some(found)
    }
}
