//! Colour of lights: chromaticity, correlated colour temperature, differences in mired.

mod shift;
mod temperature;

pub use shift::{COLOURED_DUV, ColourShift};
pub use temperature::{Temperature, planckian_uv, uv_of, xy_of};

use crate::units::Kelvin;

/// CIE 1931 chromaticity of linear sRGB (IEC 61966-2-1 primaries, D65 white).
/// `None` for black.
pub fn chromaticity(rgb: [f64; 3]) -> Option<(f64, f64)> {
    let [x, y, z] = xyz_of_linear(rgb);
    let sum = x + y + z;
    (sum > 1e-9).then(|| (x / sum, y / sum))
}

/// CIE XYZ of linear sRGB (IEC 61966-2-1).
fn xyz_of_linear([r, g, b]: [f64; 3]) -> [f64; 3] {
    [
        0.412_456_4 * r + 0.357_576_1 * g + 0.180_437_5 * b,
        0.212_672_9 * r + 0.715_152_2 * g + 0.072_175_0 * b,
        0.019_333_9 * r + 0.119_192_0 * g + 0.950_304_1 * b,
    ]
}

/// CCT of a neutral surface's linear sRGB, as the file's white balance has it, rounded to 10 K; `None` where the colour is
/// further from a black body's than a lamp's.
pub fn cct_of_rgb(rgb: [f64; 3]) -> Option<f64> {
    let (x, y) = chromaticity(rgb)?;
    let t = Temperature::of_xy(x, y).filter(|t| t.duv.abs() < 0.03)?;
    Some((t.cct.0 / 10.0).round() * 10.0)
}

/// Linear sRGB of CIE XYZ (IEC 61966-2-1, inverse matrix).
fn linear_of_xyz([x, y, z]: [f64; 3]) -> [f64; 3] {
    [
        3.240_454_2 * x - 1.537_138_5 * y - 0.498_531_4 * z,
        -0.969_266_0 * x + 1.876_010_8 * y + 0.041_556_0 * z,
        0.055_643_4 * x - 0.204_025_9 * y + 1.057_225_2 * z,
    ]
}

/// Linear sRGB of unit luminance of a black body as a camera balanced for `white_k` records it
/// (gains per channel). Channels are kept above 0.001.
pub fn rgb_of_cct(k: f64, white_k: f64) -> [f64; 3] {
    let rgb = |k: f64| {
        let (u, v) = planckian_uv(Kelvin(k));
        let (x, y) = xy_of(u, v);
        linear_of_xyz([x / y, 1.0, (1.0 - x - y) / y]).map(|v| v.max(0.001))
    };
    let (lamp, white) = (rgb(k), rgb(white_k));
    let out = [0, 1, 2].map(|i| lamp[i] / white[i]);
    let y = 0.2126 * out[0] + 0.7152 * out[1] + 0.0722 * out[2];
    out.map(|v| v / y)
}
