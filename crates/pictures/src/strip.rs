//! Removes where a picture was taken, and everything else that is not needed, before it is stored.
//!
//! Only a short list of Exif fields survives (orientation, aperture, shutter, ISO, focal lengths,
//! time, camera model). XMP, IPTC, comments and maker notes go. Pixels are not touched.

use crate::decode::JPEG_HEAD;
use crate::{Refusal, ends};
use bytes::Bytes;
use exif::experimental::Writer;
use exif::{Exif, In, Reader, Tag};
use image::{DynamicImage, ImageBuffer, ImageFormat};
use img_parts::jpeg::{Jpeg, markers};
use img_parts::png::Png;
use img_parts::webp::WebP;
use img_parts::{ImageEXIF, ImageICC};
use optics::photo::{Photo, Samples};
use std::io::Cursor;

const KEPT: [Tag; 10] = [
    Tag::Orientation,
    Tag::FNumber,
    Tag::ExposureTime,
    Tag::PhotographicSensitivity,
    Tag::FocalLength,
    Tag::FocalLengthIn35mmFilm,
    Tag::DateTimeOriginal,
    Tag::Make,
    Tag::Model,
    Tag::Flash,
];

/// The same picture without location and other personal data. `None` for formats that cannot be
/// rewritten here; [`storable`] makes a copy of those.
pub fn without_location(bytes: &[u8]) -> Option<Vec<u8>> {
    // what follows the picture's own end goes as well
    let end = if bytes.starts_with(JPEG_HEAD) {
        ends::jpeg(bytes)
    } else if bytes.starts_with(b"\x89PNG") {
        ends::png(bytes)
    } else if bytes.starts_with(b"RIFF") {
        ends::webp(bytes)
    } else {
        None
    };
    let bytes = &bytes[..end?];
    let data = Bytes::copy_from_slice(bytes);
    let mut out = Vec::with_capacity(bytes.len());
    if bytes.starts_with(JPEG_HEAD) {
        let mut jpeg = Jpeg::from_bytes(data).ok()?;
        let exif = jpeg.exif().and_then(|e| kept_exif(&e));
        let icc = jpeg.icc_profile();
        for m in markers::APP0..=markers::APP15 {
            // JFIF (APP0) and the Adobe colour transform flag (APP14) belong to the pixels.
            if m != markers::APP0 && m != markers::APP14 {
                jpeg.remove_segments_by_marker(m);
            }
        }
        jpeg.remove_segments_by_marker(markers::COM);
        jpeg.set_icc_profile(icc);
        jpeg.set_exif(exif);
        jpeg.encoder().write_to(&mut out).ok()?;
    } else if bytes.starts_with(b"\x89PNG") {
        let mut png = Png::from_bytes(data).ok()?;
        let exif = png.exif().and_then(|e| kept_exif(&e));
        for kind in [b"tEXt", b"iTXt", b"zTXt", b"eXIf", b"tIME"] {
            png.remove_chunks_by_type(*kind);
        }
        png.set_exif(exif);
        png.encoder().write_to(&mut out).ok()?;
    } else if bytes.starts_with(b"RIFF") {
        let mut webp = WebP::from_bytes(data).ok()?;
        let exif = webp.exif().and_then(|e| kept_exif(&e));
        webp.remove_chunks_by_id(*b"XMP ");
        webp.set_exif(exif);
        webp.encoder().write_to(&mut out).ok()?;
    } else {
        return None;
    }
    Some(out)
}

/// What is stored of a picture, with its media type: the file without location where that leaves the pixels untouched
/// (JPEG, PNG, WebP); else a copy without loss and without anything beside the pixels, PNG for TIFF and BMP, OpenEXR for
/// linear ones.
///
/// # Errors
/// [`Refusal::Damaged`] if the copy cannot be written.
pub fn storable(bytes: &[u8], photo: &Photo) -> Result<(Vec<u8>, &'static str), Refusal> {
    if let Some(out) = without_location(bytes) {
        let kind = if bytes.starts_with(JPEG_HEAD) {
            "image/jpeg"
        } else if bytes.starts_with(b"RIFF") {
            "image/webp"
        } else {
            "image/png"
        };
        return Ok((out, kind));
    }
    let (w, h) = (photo.width(), photo.height());
    let img = match photo.samples() {
        Samples::Linear(v) => return Ok((crate::encode_exr(w, h, v.clone())?, "image/x-exr")),
        Samples::U8(v) => ImageBuffer::from_raw(w, h, v.clone()).map(DynamicImage::ImageRgb8),
        Samples::U16(v) => ImageBuffer::from_raw(w, h, v.clone()).map(DynamicImage::ImageRgb16),
    };
    let img = img.ok_or_else(|| Refusal::Damaged("wrong number of pixels".into()))?;
    let mut out = Cursor::new(Vec::new());
    img.write_to(&mut out, ImageFormat::Png).map_err(|e| Refusal::Damaged(e.to_string()))?;
    Ok((out.into_inner(), "image/png"))
}

fn kept_exif(raw: &[u8]) -> Option<Bytes> {
    let raw = raw.strip_prefix(b"Exif\0\0".as_slice()).unwrap_or(raw);
    let exif: Exif = Reader::new()
        .continue_on_error(true)
        .read_raw(raw.to_vec())
        .or_else(|e| e.distill_partial_result(|_| ()))
        .ok()?;
    let fields: Vec<_> = KEPT.iter().filter_map(|t| exif.get_field(*t, In::PRIMARY)).collect();
    if fields.is_empty() {
        return None;
    }
    let mut writer = Writer::new();
    fields.into_iter().for_each(|f| writer.push_field(f));
    let mut out = Cursor::new(Vec::new());
    writer.write(&mut out, false).ok()?;
    Some(Bytes::from(out.into_inner()))
}
