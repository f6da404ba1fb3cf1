//! Patches: how bright parts of a picture are, and what their difference says of key and fill.

use crate::direction::blobs::pixels_inside;
use crate::marks::{PatchRole, Point};
use crate::photo::Photo;
use crate::readings::{PatchReading, Ratios};
use crate::tone::{MIDDLE_GREY, stops_between};

/// Why a patch could not be read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum PatchProblem {
    /// No pixel centre inside.
    #[error("the patch holds no pixel of the picture")]
    Empty,
    /// All pixels clipped.
    #[error("the patch is clipped: its light is brighter than the picture can tell")]
    Clipped,
    /// All pixels near black.
    #[error("the patch is black: its light is weaker than the picture can tell")]
    Black,
}

/// Encoded values under this (of 255) say too little to form a ratio.
const NEAR_BLACK: f64 = 0.0006;

/// Mean linear light of a patch without its clipped and near-black pixels.
///
/// # Errors
/// A [`PatchProblem`] that says why nothing can be told.
pub fn measure(photo: &Photo, polygon: &[Point]) -> Result<PatchReading, PatchProblem> {
    let pixels = pixels_inside(photo, polygon);
    let (mut sum, mut sum_log, mut sum_log2, mut n) = (0.0, 0.0, 0.0, 0u64);
    let (mut clipped, mut black) = (0u64, 0u64);
    let mut rgb = [0.0; 3];
    for (x, y) in &pixels {
        let Some(s) = photo.get(*x, *y) else { continue };
        let l = s.luminance();
        if s.clipped {
            clipped += 1;
        } else if l < NEAR_BLACK {
            black += 1;
        } else {
            sum += l;
            (0..3).for_each(|k| rgb[k] += f64::from(s.rgb[k]));
            sum_log += l.log2();
            sum_log2 += l.log2().powi(2);
            n += 1;
        }
    }
    if pixels.is_empty() {
        return Err(PatchProblem::Empty);
    }
    if n * 4 < pixels.len() as u64 {
        return Err(if clipped >= black { PatchProblem::Clipped } else { PatchProblem::Black });
    }
    let mean = sum / n as f64;
    let var = (sum_log2 / n as f64 - (sum_log / n as f64).powi(2)).max(0.0);
    Ok(PatchReading {
        luminance: mean,
        stops_from_grey: (mean / MIDDLE_GREY).log2(),
        spread_stops: var.sqrt(),
        clipped_fraction: clipped as f64 / pixels.len() as f64,
        pixels: n,
        rgb: rgb.map(|v| v / n as f64),
    })
}

/// The lit side over the shadow side, in stops and in the two schools of ratio.
///
/// With `d` stops between the sides: (key + fill) : fill = 2^d, and key : fill = 2^d - 1, if the
/// key does not reach the shadow side and both sides have the same surface (common practice).
pub fn lit_to_shadow(patches: &[(String, PatchRole, PatchReading)], calibrated: bool) -> Option<Ratios> {
    let of = |role: PatchRole| {
        let list: Vec<_> = patches.iter().filter(|p| p.1 == role).collect();
        let weight: f64 = list.iter().map(|p| p.2.pixels as f64).sum();
        let mean = list.iter().map(|p| p.2.luminance * p.2.pixels as f64).sum::<f64>() / weight;
        (!list.is_empty()).then_some((mean, list))
    };
    let (lit, lit_marks) = of(PatchRole::Lit)?;
    let (shadow, shadow_marks) = of(PatchRole::Shadow)?;
    let (d, lo, hi) = stops_between(lit, shadow, calibrated);
    // The patches' own unevenness, as the error of their means, at least a twentieth of a stop.
    let noise = lit_marks
        .iter()
        .chain(&shadow_marks)
        .map(|p| p.2.spread_stops / (p.2.pixels as f64).sqrt().min(6.0))
        .fold(0.05, f64::hypot);
    let evidence = lit_marks.iter().chain(&shadow_marks).map(|p| p.0.clone()).collect();
    Some(ratios(d, [lo - noise, hi + noise], evidence))
}

/// Both schools' ratios from a difference in stops and its range.
pub fn ratios(stops: f64, range_stops: [f64; 2], evidence: Vec<String>) -> Ratios {
    Ratios {
        lit_to_shadow_stops: stops,
        range_stops,
        key_to_fill: (stops.exp2() - 1.0).max(0.0),
        key_plus_fill_to_fill: stops.exp2(),
        evidence,
    }
}
