//! A decoded picture between two processes: its samples as bytes, and back.

use crate::{Facts, Limits, decode::JPEG_HEAD};
use image::{ImageDecoder, ImageReader};
use optics::photo::{Photo, Samples};
use optics::tone::Encoding;
use std::io::Cursor;

/// Whether a file is a JPEG or a PNG: decoders that hold to what the header says.
pub fn is_plain(bytes: &[u8]) -> bool {
    bytes.starts_with(JPEG_HEAD) || bytes.starts_with(b"\x89PNG")
}

/// Megabytes that opening a file takes by its header; `None` if that does not tell.
pub fn megabytes_to_open(bytes: &[u8]) -> Option<u64> {
    if !is_plain(bytes) {
        return None;
    }
    let decoder = ImageReader::new(Cursor::new(bytes)).with_guessed_format().ok()?.into_decoder().ok()?;
    let (w, h) = decoder.dimensions();
    let each = u64::from(decoder.color_type().bytes_per_pixel());
    // a picture turned upright, or without its alpha, is there twice for a moment
    let twice = if each == 3 { 1 } else { 2 };
    Some(Limits::megabytes(u64::from(w) * u64::from(h), twice * each) + (bytes.len() as u64).div_ceil(1_000_000))
}

/// The samples of a photo as bytes: one, two or four each by their kind, little-endian.
pub fn samples_to_bytes(photo: &Photo) -> Vec<u8> {
    match photo.samples() {
        Samples::U8(v) => v.clone(),
        Samples::U16(v) => v.iter().flat_map(|s| s.to_le_bytes()).collect(),
        Samples::Linear(v) => v.iter().flat_map(|s| s.to_le_bytes()).collect(),
    }
}

/// The photo of [`samples_to_bytes`], by what its facts say of its size and depth.
///
/// # Errors
/// If the bytes do not fit the facts.
pub fn photo_of_bytes(facts: &Facts, bytes: Vec<u8>) -> Result<Photo, String> {
    let many = 3 * facts.width as usize * facts.height as usize;
    let each = bytes.len().checked_div(many).unwrap_or(0);
    if many == 0 || each * many != bytes.len() {
        return Err(format!("{} bytes do not make {} x {} pixels", bytes.len(), facts.width, facts.height));
    }
    let samples = match each {
        1 => Samples::U8(bytes),
        2 => Samples::U16(bytes.chunks_exact(2).map(|b| u16::from_le_bytes([b[0], b[1]])).collect()),
        4 => Samples::Linear(bytes.chunks_exact(4).map(|b| f32::from_le_bytes([b[0], b[1], b[2], b[3]])).collect()),
        _ => return Err(format!("{each} bytes a sample are none of 1, 2 and 4")),
    };
    let encoding = if facts.linear { Encoding::Linear } else { Encoding::Srgb };
    Photo::new(facts.width, facts.height, samples, &encoding)
}
