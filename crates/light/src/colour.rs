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

/// Chromaticity of a black body, by the cubic splines of Kim et al. 2002 (US patent 7 024 034,
/// from memory), 1667 to 25000 K; good to 0.0005 in x.
pub fn planckian_xy(k: Kelvin) -> (f64, f64) {
    let t = k.0.clamp(1667.0, 25000.0);
    let (a, b, c) = (1e9 / (t * t * t), 1e6 / (t * t), 1e3 / t);
    let x = if t <= 4000.0 {
        -0.266_123_9 * a - 0.234_358_9 * b + 0.877_695_6 * c + 0.179_910
    } else {
        -3.025_846_9 * a + 2.107_037_9 * b + 0.222_634_7 * c + 0.240_390
    };
    let (x2, x3) = (x * x, x * x * x);
    let y = if t <= 2222.0 {
        -1.106_381_4 * x3 - 1.348_110_20 * x2 + 2.185_558_32 * x - 0.202_196_83
    } else if t <= 4000.0 {
        -0.954_947_6 * x3 - 1.374_185_93 * x2 + 2.091_370_15 * x - 0.167_488_67
    } else {
        3.081_758_0 * x3 - 5.873_386_70 * x2 + 3.751_129_97 * x - 0.370_014_83
    };
    (x, y)
}

/// Linear sRGB of unit luminance of a black body as a camera balanced for `white_k` records it
/// (gains per channel). Channels are kept above 0.001.
pub fn rgb_of_cct(k: f64, white_k: f64) -> [f64; 3] {
    let rgb = |k: f64| {
        let (x, y) = planckian_xy(Kelvin(k));
        let (cx, cy, cz) = (x / y, 1.0, (1.0 - x - y) / y);
        [
            3.240_454_2 * cx - 1.537_138_5 * cy - 0.498_531_4 * cz,
            -0.969_266_0 * cx + 1.876_010_8 * cy + 0.041_556_0 * cz,
            0.055_643_4 * cx - 0.204_025_9 * cy + 1.057_225_2 * cz,
        ]
        .map(|v: f64| v.max(0.001))
    };
    let (lamp, white) = (rgb(k), rgb(white_k));
    let out = [0, 1, 2].map(|i| lamp[i] / white[i]);
    let y = 0.2126 * out[0] + 0.7152 * out[1] + 0.0722 * out[2];
    out.map(|v| v / y)
}
