//! Camera raw, by rawler: light as the sensor counted it, in sRGB primaries, balanced as the camera was set.

use crate::Refusal;
use crate::facts::{Facts, exif_facts, vfov};
use crate::limits::{Decoded, Limits};
use image::{DynamicImage, Rgb32FImage, metadata::Orientation};
use optics::exposure::Settings;
use optics::photo::{Photo, Samples};
use optics::tone::Encoding;
use rawler::decoders::{RawDecodeParams, RawMetadata, WellKnownIFD};
use rawler::formats::tiff::Rational;
use rawler::imgop::develop::{Intermediate, ProcessingStep, RawDevelop};
use rawler::rawsource::RawSource;
use rawler::tags::TiffCommonTag;
use std::panic::{AssertUnwindSafe, catch_unwind};

/// Everything but a tone curve: black and white level, colours between the sensor's, balance, the camera's matrix.
const STEPS: [ProcessingStep; 7] = [
    ProcessingStep::Rescale,
    ProcessingStep::Demosaic,
    ProcessingStep::FujiRotate,
    ProcessingStep::CropActiveArea,
    ProcessingStep::WhiteBalance,
    ProcessingStep::Calibrate,
    ProcessingStep::CropDefault,
];

/// Files that begin like this may be raw: TIFF in both byte orders with the marks some makers put in its place, and
/// containers of their own.
fn may_be_raw(bytes: &[u8]) -> bool {
    const HEADS: [&[u8]; 9] = [b"II*\0", b"MM\0*", b"IIRO", b"IIRS", b"MMOR", b"IIU\0", b"FUJIFILM", b"\0MRM", b"FOVb"];
    HEADS.iter().any(|h| bytes.starts_with(h)) || bytes.get(4..12) == Some(b"ftypcrx ".as_slice())
}

/// Decodes a raw file; `None` if it is none, or of a camera that is not known: then it may still be a TIFF.
pub(crate) fn decode(bytes: &[u8], limits: Limits) -> Option<Result<Decoded, Refusal>> {
    if !may_be_raw(bytes) {
        return None;
    }
    // the library gives up on some damaged files by a panic
    match catch_unwind(AssertUnwindSafe(|| developed(bytes, limits))) {
        Ok(found) => found,
        Err(_) => Some(Err(Refusal::Damaged("the raw data break off or contradict one another".into()))),
    }
}

fn developed(bytes: &[u8], limits: Limits) -> Option<Result<Decoded, Refusal>> {
    let source = RawSource::new_from_slice(bytes);
    let decoder = rawler::get_decoder(&source).ok()?;
    let params = RawDecodeParams::default();
    let too_large = |width: usize, height: usize| {
        let (width, height) = (u32::try_from(width).unwrap_or(u32::MAX), u32::try_from(height).unwrap_or(u32::MAX));
        (u64::from(width) * u64::from(height) > limits.pixels || width.max(height) > limits.side)
            .then_some(Err(Refusal::TooLarge { width, height, most: limits.pixels / 1_000_000 }))
    };
    // before anything of that size is taken from memory: by the header, or by a picture without its data
    let by_header = decoder.ifd(WellKnownIFD::Raw).ok().flatten().map(|ifd| {
        let side = |tag| ifd.get_entry(tag).map_or(0, |e| e.force_usize(0));
        (side(TiffCommonTag::ImageWidth), side(TiffCommonTag::ImageLength))
    });
    let size = by_header.or_else(|| decoder.raw_image(&source, &params, true).ok().map(|r| (r.width, r.height)));
    if let Some(refused) = size.and_then(|(w, h)| too_large(w, h)) {
        return Some(refused);
    }
    let raw = match decoder.raw_image(&source, &params, false) {
        Ok(raw) => raw,
        Err(rawler::RawlerError::Unsupported { .. }) => return None,
        Err(e) => return Some(Err(Refusal::Damaged(e.to_string().chars().take(120).collect()))),
    };
    if let Some(refused) = too_large(raw.width, raw.height) {
        return Some(refused);
    }
    let meta = decoder.raw_metadata(&source, &params).ok();
    let orientation = raw.orientation.to_u16();
    let bits = raw.bps;
    let found = match RawDevelop::new_with(&STEPS).develop_intermediate(&raw) {
        Ok(found) => found,
        Err(e) => return Some(Err(Refusal::Damaged(e.to_string().chars().take(120).collect()))),
    };
    // what is a TIFF has its Exif where others have it
    let facts = Some(exif_facts(bytes)).filter(|f| f.settings.is_some() || f.focal_mm.is_some());
    let facts = facts.or_else(|| meta.as_ref().map(facts_of)).unwrap_or_default();
    Some(finished(found, orientation, bits as u32, facts))
}

fn finished(found: Intermediate, orientation: u16, bits: u32, mut facts: Facts) -> Result<Decoded, Refusal> {
    let (w, h) = (found.dim().w as u32, found.dim().h as u32);
    let data: Vec<f32> = match found {
        Intermediate::Monochrome(p) => p.data.iter().flat_map(|v| [*v; 3]).collect(),
        Intermediate::ThreeColor(p) => p.flatten(),
        Intermediate::FourColor(_) => {
            return Err(Refusal::Damaged("its four colours cannot be brought to three".into()));
        }
    };
    let data: Vec<f32> = data.into_iter().map(|v| if v.is_finite() { v.max(0.0) } else { 0.0 }).collect();
    let broken = || Refusal::Damaged("it has no pixels".into());
    let mut img = DynamicImage::ImageRgb32F(Rgb32FImage::from_raw(w, h, data).ok_or_else(broken)?);
    img.apply_orientation(
        Orientation::from_exif(u8::try_from(orientation).unwrap_or(1)).unwrap_or(Orientation::NoTransforms),
    );
    let (w, h) = (img.width(), img.height());
    facts.format = "camera raw".into();
    (facts.width, facts.height, facts.bits, facts.linear) = (w, h, bits, true);
    facts.vfov_deg = facts.focal_35mm.and_then(|f| vfov(f, w, h));
    let photo =
        Photo::new(w, h, Samples::Linear(img.into_rgb32f().into_raw()), &Encoding::Linear).map_err(Refusal::Damaged)?;
    Ok(Decoded { photo, facts })
}

fn facts_of(meta: &RawMetadata) -> Facts {
    let e = &meta.exif;
    let number = |r: &Rational| (r.d > 0 && r.n > 0).then(|| f64::from(r.n) / f64::from(r.d));
    let settings = (|| {
        let iso = e.iso_speed_ratings.map(u32::from).filter(|v| *v > 0).or(e.iso_speed)?;
        let s = Settings {
            f_number: number(e.fnumber.as_ref()?)?,
            shutter_s: number(e.exposure_time.as_ref()?)?,
            iso: f64::from(iso),
        };
        s.check().ok().map(|()| s)
    })();
    Facts {
        settings,
        focal_mm: e.focal_length.as_ref().and_then(number),
        taken_at: e.date_time_original.as_ref().map(|t| t.chars().take(40).collect()),
        ..Facts::default()
    }
}
