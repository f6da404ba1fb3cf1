//! Colour of lights: chromaticity and correlated colour temperature.

use crate::units::Kelvin;

/// CIE 1931 chromaticity of linear sRGB (IEC 61966-2-1 primaries, D65 white).
/// `None` for black.
pub fn chromaticity(rgb: [f64; 3]) -> Option<(f64, f64)> {
    let [r, g, b] = rgb;
    let x = 0.412_456_4 * r + 0.357_576_1 * g + 0.180_437_5 * b;
    let y = 0.212_672_9 * r + 0.715_152_2 * g + 0.072_175_0 * b;
    let z = 0.019_333_9 * r + 0.119_192_0 * g + 0.950_304_1 * b;
    let sum = x + y + z;
    (sum > 1e-9).then(|| (x / sum, y / sum))
}

/// Correlated colour temperature by McCamy's cubic (McCamy 1992, Color Res. Appl. 17, 142):
/// good to a few kelvin from 2856 to 6500 K and useful from 2000 to 12500 K near the locus.
/// `None` outside that or far from the locus of neutral lights.
pub fn cct_mccamy(x: f64, y: f64) -> Option<Kelvin> {
    let n = (x - 0.3320) / (0.1858 - y);
    let t = 449.0 * n.powi(3) + 3525.0 * n.powi(2) + 6823.3 * n + 5520.33;
    // distance from the daylight locus (CIE 015) as a coarse guard against coloured light
    let locus = -3.0 * x * x + 2.870 * x - 0.275;
    ((2000.0..=12500.0).contains(&t) && (y - locus).abs() < 0.03).then_some(Kelvin(t))
}

/// CCT of a neutral surface's linear sRGB, as the file's white balance has it, rounded to 10 K.
pub fn cct_of_rgb(rgb: [f64; 3]) -> Option<f64> {
    let (x, y) = chromaticity(rgb)?;
    cct_mccamy(x, y).map(|k| (k.0 / 10.0).round() * 10.0)
}
