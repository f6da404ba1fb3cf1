//! Smaller copies to look at, and PNG for what the studio draws.

use crate::Refusal;
use image::{DynamicImage, ImageBuffer, RgbImage};
use optics::photo::Photo;
use optics::tone::SrgbBytes;

/// A smaller copy.
#[derive(Debug, Clone)]
pub struct Preview {
    /// Longest side asked for.
    pub side: u32,
    /// JPEG bytes, sRGB.
    pub jpeg: Vec<u8>,
}

/// JPEG copies no larger than each of `sides` (largest first). A picture smaller than the largest
/// side is copied at its own size.
///
/// # Errors
/// [`Refusal::Damaged`] if encoding fails.
pub fn previews(photo: &Photo, sides: &[u32]) -> Result<Vec<Preview>, Refusal> {
    let mut source = rgb8(photo, *sides.iter().max().unwrap_or(&1600));
    let mut out = Vec::new();
    for &side in sides {
        if source.width().max(source.height()) > side {
            let k = f64::from(side) / f64::from(source.width().max(source.height()));
            let w = ((f64::from(source.width()) * k).round() as u32).max(1);
            let h = ((f64::from(source.height()) * k).round() as u32).max(1);
            source = image::imageops::thumbnail(&source, w, h);
        }
        let jpeg = encode_jpeg(source.width(), source.height(), &source, 88)?;
        out.push(Preview { side, jpeg });
    }
    Ok(out)
}

/// 8-bit sRGB of a photo, reduced by whole blocks while that leaves at least `side`.
fn rgb8(photo: &Photo, side: u32) -> RgbImage {
    let f = (photo.width().max(photo.height()) / side).max(1);
    let (w, h) = ((photo.width() / f).max(1), (photo.height() / f).max(1));
    let bytes = SrgbBytes::default();
    ImageBuffer::from_fn(w, h, |x, y| {
        let mut sum = [0.0f32; 3];
        // a side shorter than a block ends it
        let (right, bottom) = (((x + 1) * f).min(photo.width()), ((y + 1) * f).min(photo.height()));
        for py in y * f..bottom {
            for px in x * f..right {
                let rgb = photo.rgb(px, py);
                sum.iter_mut().zip(rgb).for_each(|(o, v)| *o += v);
            }
        }
        let n = ((right - x * f) * (bottom - y * f)).max(1) as f32;
        image::Rgb(sum.map(|v| bytes.of(v / n)))
    })
}

/// JPEG of 8-bit sRGB pixels.
///
/// # Errors
/// A sentence if the buffer does not fit the dimensions.
pub fn encode_jpeg(width: u32, height: u32, rgb: &[u8], quality: u8) -> Result<Vec<u8>, Refusal> {
    let size = |v: u32| u16::try_from(v).map_err(|_| Refusal::Damaged("a JPEG has at most 65535 pixels a side".into()));
    let mut out = Vec::new();
    jpeg_encoder::Encoder::new(&mut out, quality)
        .encode(rgb, size(width)?, size(height)?, jpeg_encoder::ColorType::Rgb)
        .map_err(|e| Refusal::Damaged(e.to_string()))?;
    Ok(out)
}

/// PNG of 8-bit sRGB pixels.
///
/// # Errors
/// A sentence if the buffer does not fit the dimensions.
pub fn encode_png(width: u32, height: u32, rgb: Vec<u8>) -> Result<Vec<u8>, Refusal> {
    let img =
        RgbImage::from_raw(width, height, rgb).ok_or_else(|| Refusal::Damaged("wrong number of pixels".into()))?;
    let mut out = std::io::Cursor::new(Vec::new());
    DynamicImage::ImageRgb8(img)
        .write_to(&mut out, image::ImageFormat::Png)
        .map_err(|e| Refusal::Damaged(e.to_string()))?;
    Ok(out.into_inner())
}

/// Radiance HDR (shared exponent, linear RGB) of `3 * width * height` values.
///
/// # Errors
/// A sentence if the buffer does not fit the dimensions.
pub fn encode_hdr(width: u32, height: u32, rgb: Vec<f32>) -> Result<Vec<u8>, Refusal> {
    encode_linear(width, height, rgb, image::ImageFormat::Hdr)
}

/// OpenEXR (32-bit float, linear RGB) of `3 * width * height` values.
///
/// # Errors
/// A sentence if the buffer does not fit the dimensions.
pub fn encode_exr(width: u32, height: u32, rgb: Vec<f32>) -> Result<Vec<u8>, Refusal> {
    encode_linear(width, height, rgb, image::ImageFormat::OpenExr)
}

fn encode_linear(width: u32, height: u32, rgb: Vec<f32>, format: image::ImageFormat) -> Result<Vec<u8>, Refusal> {
    let img = image::Rgb32FImage::from_raw(width, height, rgb)
        .ok_or_else(|| Refusal::Damaged("wrong number of pixels".into()))?;
    let mut out = std::io::Cursor::new(Vec::new());
    DynamicImage::ImageRgb32F(img).write_to(&mut out, format).map_err(|e| Refusal::Damaged(e.to_string()))?;
    Ok(out.into_inner())
}
