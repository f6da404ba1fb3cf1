//! What spoils a picture after it was taken well: noise, compression, movement, focus.

/// What spoils a picture after it was taken well.
#[derive(Debug, Clone, Copy)]
pub(crate) enum Spoil {
    /// Normal noise, standard deviation as a share of the range.
    Noise(f64),
    /// Pressed as JPEG at a quality and opened again.
    Pressed(u8),
    /// Moved by so many thousandths of the longer side in a direction, degrees.
    Moved(f64, f64),
    /// Out of focus by a disc of so many thousandths of the longer side across.
    Soft(f64),
}

/// Spoils that any brief minds, from just visible up.
pub(crate) const SPOILS: [(&str, Spoil, &[&str]); 5] = [
    ("noise of 5 %", Spoil::Noise(0.05), &["noise"]),
    ("pressed at quality 9", Spoil::Pressed(9), &["blocks"]),
    ("moved by 13 thousandths level", Spoil::Moved(13.0, 0.0), &["smeared", "unsharp"]),
    ("moved by 20 thousandths upright", Spoil::Moved(20.0, 90.0), &["smeared", "unsharp"]),
    ("out of focus by 15 thousandths", Spoil::Soft(15.0), &["unsharp", "subject_soft"]),
];

/// A mean over places about each pixel, in encoded values.
fn blurred(rgb: &[u8], w: usize, h: usize, places: &[(f64, f64)]) -> Vec<u8> {
    let at = |x: f64, y: f64, c: usize| {
        let (x, y) = (x.clamp(0.0, (w - 1) as f64), y.clamp(0.0, (h - 1) as f64));
        let (x0, y0) = (x.floor() as usize, y.floor() as usize);
        let (x1, y1) = ((x0 + 1).min(w - 1), (y0 + 1).min(h - 1));
        let (u, v) = (x - x0 as f64, y - y0 as f64);
        let p = |x: usize, y: usize| f64::from(rgb[3 * (y * w + x) + c]);
        (p(x0, y0) * (1.0 - u) + p(x1, y0) * u) * (1.0 - v) + (p(x0, y1) * (1.0 - u) + p(x1, y1) * u) * v
    };
    let n = places.len() as f64;
    let mut out = Vec::with_capacity(rgb.len());
    for y in 0..h {
        for x in 0..w {
            for c in 0..3 {
                let sum: f64 = places.iter().map(|(dx, dy)| at(x as f64 + dx, y as f64 + dy, c)).sum();
                out.push((sum / n).round() as u8);
            }
        }
    }
    out
}

impl Spoil {
    /// On 8-bit red, green, blue.
    pub(crate) fn on(self, rgb: Vec<u8>, w: u32, h: u32) -> Result<Vec<u8>, String> {
        let (wide, high) = (w as usize, h as usize);
        let pixels = |thousandths: f64| thousandths / 1000.0 * f64::from(w.max(h));
        Ok(match self {
            Spoil::Noise(sd) => {
                let mut state = 11u64;
                // about normal: the sum of twelve even ones less six, of a fixed sequence
                let mut even = || {
                    state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
                    (state >> 33) as f64 / (1u64 << 31) as f64
                };
                let mut normal = || (0..12).map(|_| even()).sum::<f64>() - 6.0;
                rgb.iter().map(|v| (f64::from(*v) + 255.0 * sd * normal()).round().clamp(0.0, 255.0) as u8).collect()
            }
            Spoil::Pressed(quality) => {
                let file = pictures::encode_jpeg(w, h, &rgb, quality).map_err(|e| e.to_string())?;
                image::load_from_memory(&file).map_err(|e| e.to_string())?.into_rgb8().into_raw()
            }
            Spoil::Moved(long, deg) => {
                let (s, c) = deg.to_radians().sin_cos();
                let places: Vec<(f64, f64)> =
                    (0..15).map(|i| (f64::from(i) / 14.0 - 0.5) * pixels(long)).map(|k| (k * c, k * s)).collect();
                blurred(&rgb, wide, high, &places)
            }
            Spoil::Soft(across) => {
                let r = pixels(across) / 2.0;
                let grid = || (-6..=6).map(move |i| f64::from(i) / 6.0 * r);
                let places: Vec<(f64, f64)> =
                    grid().flat_map(|y| grid().map(move |x| (x, y))).filter(|(x, y)| x.hypot(*y) <= r).collect();
                blurred(&rgb, wide, high, &places)
            }
        })
    }
}
