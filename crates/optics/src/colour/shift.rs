//! How much warmer or cooler one light is than another, from one material lit by both.

use super::{Temperature, planckian_uv, xy_of, xyz_of_linear};
use crate::units::Kelvin;

/// A difference of colour between two lights.
///
/// The file's white balance hides what colour a light is; between two samples of one material it cancels.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ColourShift {
    /// Reciprocal megakelvin by which the light is warmer (positive) or cooler (negative): `1e6/T - 1e6/T0`.
    pub mired: f64,
    /// One standard deviation.
    pub mired_sd: f64,
    /// Greener (positive) or pinker (negative) than the other light made warmer or cooler, CIE 1960 units.
    pub duv: f64,
}

/// Temperatures the other light may have: what one balances for.
const KEYS_K: [f64; 4] = [3200.0, 4300.0, 5600.0, 6500.0];
/// Duv beyond which no black body and no daylight explains a light (ours; ANSI C78.377 allows lamps 0.006).
pub const COLOURED_DUV: f64 = 0.012;

impl ColourShift {
    /// The shift from light `against` to light `of`, each seen on the same material as linear sRGB, with the relative error of a
    /// channel's mean. A von Kries model in the sharpened cones of the Bradford transform (Lam 1985), where a white balance
    /// is a gain per cone: ratios of cones are ratios of light, whatever the balance was.
    /// It is worked for the temperatures a key may have; their spread goes into the error.
    /// `None` if a channel is black or the ratio is far from any lamp's.
    pub fn between(of: [f64; 3], against: [f64; 3], error: f64) -> Option<ColourShift> {
        if of.iter().chain(&against).any(|v| v.is_nan() || *v <= 1e-6) {
            return None;
        }
        let (of, against) = (cones(xyz_of_linear(of)), cones(xyz_of_linear(against)));
        if of.iter().chain(&against).any(|v| *v <= 0.0) {
            return None;
        }
        let mut found: Vec<(f64, f64)> = Vec::new();
        for k in KEYS_K {
            let (u, v) = planckian_uv(Kelvin(k));
            let (x, y) = xy_of(u, v);
            let key = cones([x / y, 1.0, (1.0 - x - y) / y]);
            let [cx, cy, cz] = xyz_of_cones([0, 1, 2].map(|i| key[i] * of[i] / against[i]));
            let sum = cx + cy + cz;
            if let Some(t) = Temperature::of_xy(cx / sum, cy / sum) {
                found.push((1e6 / t.cct.0 - 1e6 / k, t.duv));
            }
        }
        let n = found.len() as f64;
        if n < 2.0 {
            return None;
        }
        let mean = |f: fn(&(f64, f64)) -> f64| found.iter().map(f).sum::<f64>() / n;
        let mired = mean(|v| v.0);
        let spread = (found.iter().map(|v| (v.0 - mired).powi(2)).sum::<f64>() / n).sqrt();
        // From 3200 to 5600 K the long cones over the short change by about a factor 2.6 for 134 mired.
        let noise = 134.0 / 2.6f64.ln() * std::f64::consts::SQRT_2 * error;
        Some(ColourShift { mired, mired_sd: spread.hypot(noise).max(2.0), duv: mean(|v| v.1) })
    }

    /// Whether warmer and cooler do not explain the difference: a coloured surface or gel does.
    pub fn is_coloured(&self) -> bool {
        self.duv.abs() > COLOURED_DUV
    }
}

/// Sharpened cone responses (the Bradford matrix, as in CIECAM97s).
fn cones([x, y, z]: [f64; 3]) -> [f64; 3] {
    [0.8951 * x + 0.2664 * y - 0.1614 * z, -0.7502 * x + 1.7135 * y + 0.0367 * z, 0.0389 * x - 0.0685 * y + 1.0296 * z]
}

/// The inverse of [`cones`].
fn xyz_of_cones([l, m, s]: [f64; 3]) -> [f64; 3] {
    [
        0.986_992_9 * l - 0.147_054_3 * m + 0.159_962_7 * s,
        0.432_305_3 * l + 0.518_360_3 * m + 0.049_291_2 * s,
        -0.008_528_7 * l + 0.040_042_8 * m + 0.968_486_7 * s,
    ]
}
