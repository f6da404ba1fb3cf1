//! Pictures painted for the tests of the other crates. Not shipped.

use optics::photo::{Photo, Samples};
use optics::tone::{Encoding, linear_to_srgb};

/// An 8-bit sRGB picture of a function of pixel position, averaged over the pixel.
pub fn paint(w: u32, h: u32, f: impl Fn(f64, f64) -> f64) -> Photo {
    let mut rgb = Vec::new();
    for y in 0..h {
        for x in 0..w {
            let mut sum = 0.0;
            for i in 0..8 {
                for j in 0..2 {
                    sum +=
                        f(f64::from(x) + (f64::from(i) + 0.5) / 8.0, f64::from(y) + (f64::from(j) + 0.5) / 2.0) / 16.0;
                }
            }
            rgb.extend([(255.0 * linear_to_srgb(sum)).round() as u8; 3]);
        }
    }
    Photo::new(w, h, Samples::U8(rgb), &Encoding::Srgb).unwrap()
}
