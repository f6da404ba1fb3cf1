//! Decoding with limits: orientation applied, colours brought to sRGB primaries.

use crate::Refusal;
use crate::facts::{exif_facts, vfov};
use crate::limits::{Decoded, Limits};
use image::{DynamicImage, ImageDecoder, ImageFormat, ImageReader};
use moxcms::{ColorProfile, Layout, TransformOptions};
use optics::photo::{Photo, Samples};
use optics::tone::Encoding;
use std::io::Cursor;

/// How a JPEG begins.
pub(crate) const JPEG_HEAD: &[u8] = &[0xff, 0xd8];

/// Decodes a picture.
///
/// # Errors
/// A [`Refusal`] with one sentence; never panics on damaged input.
pub fn decode(bytes: &[u8], limits: Limits) -> Result<Decoded, Refusal> {
    if bytes.is_empty() {
        return Err(Refusal::Empty);
    }
    if bytes.len() as u64 > limits.bytes {
        let mb = |b: u64| b.div_ceil(1_000_000);
        return Err(Refusal::TooHeavy { found: mb(bytes.len() as u64), most: mb(limits.bytes) });
    }
    crate::directories::check(bytes)?;
    if bytes.starts_with(JPEG_HEAD) && crate::ends::jpeg(bytes).is_none() {
        return Err(Refusal::Damaged("it breaks off before its end".into()));
    }
    if let Some(raw) = crate::raw::decode(bytes, limits) {
        return raw;
    }
    let mut reader =
        ImageReader::new(Cursor::new(bytes)).with_guessed_format().map_err(|e| Refusal::Damaged(e.to_string()))?;
    let format = reader.format().filter(|f| known(*f)).ok_or_else(|| Refusal::NotAPicture { hint: hint(bytes) })?;
    let mut l = image::Limits::default();
    l.max_alloc = Some(limits.memory);
    reader.limits(l);
    let mut decoder = reader.into_decoder().map_err(damaged)?;
    let (width, height) = decoder.dimensions();
    if u64::from(width) * u64::from(height) > limits.pixels || width.max(height) > limits.side {
        return Err(Refusal::TooLarge { width, height, most: limits.pixels / 1_000_000 });
    }
    if width == 0 || height == 0 {
        return Err(Refusal::Damaged("it has no pixels".into()));
    }
    // the decoder's own pixels, and the copy without what is not used
    let color = decoder.color_type();
    let kept = if color.bytes_per_pixel() / color.channel_count() > 2 {
        12
    } else {
        3 * color.bytes_per_pixel() / color.channel_count()
    };
    let copied = if color.channel_count() == 3 { 0 } else { u64::from(kept) };
    let needed = u64::from(width) * u64::from(height) * (u64::from(color.bytes_per_pixel()) + copied);
    if needed > limits.memory {
        let (needed, most) = (needed.div_ceil(1_000_000), limits.memory / 1_000_000);
        return Err(Refusal::TooDeep { needed, most });
    }
    let icc = decoder.icc_profile().ok().flatten();
    let exif = decoder.exif_metadata().ok().flatten();
    let orientation = decoder.orientation().unwrap_or(image::metadata::Orientation::NoTransforms);
    let mut img = DynamicImage::from_decoder(decoder).map_err(damaged)?;
    img.apply_orientation(orientation);

    let linear = matches!(img, DynamicImage::ImageRgb32F(_) | DynamicImage::ImageRgba32F(_));
    let sixteen = matches!(
        img,
        DynamicImage::ImageLuma16(_)
            | DynamicImage::ImageLumaA16(_)
            | DynamicImage::ImageRgb16(_)
            | DynamicImage::ImageRgba16(_)
    );
    let (w, h) = (img.width(), img.height());
    let mut profile = None;
    let samples = if linear {
        Samples::Linear(img.into_rgb32f().into_raw())
    } else if sixteen {
        let mut raw = img.into_rgb16().into_raw();
        profile = icc.as_deref().and_then(|p| to_srgb_16(p, &mut raw));
        Samples::U16(raw)
    } else {
        let mut raw = img.into_rgb8().into_raw();
        profile = icc.as_deref().and_then(|p| to_srgb_8(p, &mut raw));
        Samples::U8(raw)
    };
    let encoding = if linear { Encoding::Linear } else { Encoding::Srgb };
    let mut facts = exif.as_deref().map(exif_facts).unwrap_or_default();
    facts.format = name(format).into();
    facts.width = w;
    facts.height = h;
    facts.bits = if linear {
        32
    } else if sixteen {
        16
    } else {
        8
    };
    facts.profile = profile;
    facts.linear = linear;
    facts.vfov_deg = facts.focal_35mm.and_then(|f| vfov(f, w, h));
    let photo = Photo::new(w, h, samples, &encoding).map_err(Refusal::Damaged)?;
    Ok(Decoded { photo, facts })
}

fn damaged(e: image::ImageError) -> Refusal {
    let text = e.to_string();
    Refusal::Damaged(text.chars().take(120).collect())
}

fn known(f: ImageFormat) -> bool {
    use ImageFormat::{Bmp, Hdr, Jpeg, OpenExr, Png, Tiff, WebP};
    matches!(f, Jpeg | Png | WebP | Tiff | Bmp | OpenExr | Hdr)
}

fn name(f: ImageFormat) -> &'static str {
    match f {
        ImageFormat::Jpeg => "JPEG",
        ImageFormat::Png => "PNG",
        ImageFormat::WebP => "WebP",
        ImageFormat::Tiff => "TIFF",
        ImageFormat::Bmp => "BMP",
        ImageFormat::OpenExr => "OpenEXR",
        ImageFormat::Hdr => "Radiance HDR",
        _ => "picture",
    }
}

/// What a refused file looks like, to help its sender.
fn hint(bytes: &[u8]) -> String {
    let head = &bytes[..bytes.len().min(512)];
    let text = String::from_utf8_lossy(head).to_ascii_lowercase();
    let has = |m: &str| text.trim_start().starts_with(m);
    let kind = if head.get(4..8) == Some(b"ftyp".as_slice()) {
        "a video or a HEIC/AVIF picture"
    } else if has("%pdf") {
        "a PDF"
    } else if has("gif8") {
        "a GIF"
    } else if text.contains("<svg") {
        "an SVG drawing"
    } else if has("<!doctype") || has("<html") || text.contains("<script") {
        "a web page"
    } else if has("pk\u{3}\u{4}") {
        "a zip archive"
    } else {
        return String::new();
    };
    format!(": it looks like {kind}")
}

fn profile_of(icc: &[u8]) -> Option<(ColorProfile, String)> {
    let p = ColorProfile::new_from_slice(icc).ok()?;
    let text = match &p.description {
        Some(moxcms::ProfileText::PlainString(s)) => s.clone(),
        Some(moxcms::ProfileText::Localizable(l)) => l.first().map(|s| s.value.clone()).unwrap_or_default(),
        Some(moxcms::ProfileText::Description(d)) => d.ascii_string.clone(),
        None => String::new(),
    };
    let text: String = text.chars().filter(|c| !c.is_control()).take(60).collect();
    Some((p, if text.is_empty() { "embedded profile".into() } else { text }))
}

/// Converts in place unless the profile is sRGB to within a step; returns the profile's name.
fn to_srgb_8(icc: &[u8], raw: &mut [u8]) -> Option<String> {
    let (p, name) = profile_of(icc)?;
    let srgb = ColorProfile::new_srgb();
    let t = p.create_transform_8bit(Layout::Rgb, &srgb, Layout::Rgb, TransformOptions::default()).ok()?;
    let probe: Vec<u8> =
        [0u8, 40, 128, 200, 255].iter().flat_map(|&a| [a, 128, 30, 30, a, 200, 255, 60, a, a, a, a]).collect();
    let mut out = probe.clone();
    t.transform(&probe, &mut out).ok()?;
    if probe.iter().zip(&out).all(|(a, b)| a.abs_diff(*b) <= 1) {
        return Some(name);
    }
    let source = raw.to_vec();
    let row = 3 * 4096;
    for (s, d) in source.chunks(row).zip(raw.chunks_mut(row)) {
        t.transform(s, d).ok()?;
    }
    Some(name)
}

fn to_srgb_16(icc: &[u8], raw: &mut [u16]) -> Option<String> {
    let (p, name) = profile_of(icc)?;
    let srgb = ColorProfile::new_srgb();
    let t = p.create_transform_16bit(Layout::Rgb, &srgb, Layout::Rgb, TransformOptions::default()).ok()?;
    let source = raw.to_vec();
    let row = 3 * 4096;
    for (s, d) in source.chunks(row).zip(raw.chunks_mut(row)) {
        t.transform(s, d).ok()?;
    }
    Some(name)
}
