//! Patches: how bright parts of a picture are; the contrast on the subject, and the lighting ratio.

use crate::patch_role::PatchRole;
use crate::readings::{PatchReading, RatioFrom, Ratios};
use direction::blobs::pixels_inside;
use direction::shapes::Point;
use optics::photo::Photo;
use optics::ratio::{LevelSpread, LightingRatio};
use optics::tone::{MIDDLE_GREY, stops_between};

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

/// The contrast on the subject: what a lit and a shadow patch differ by.
#[derive(Debug, Clone, PartialEq)]
pub struct Contrast {
    /// Stops.
    pub stops: f64,
    /// Range over the plausible tone curves and the patches' own unevenness.
    pub range_stops: [f64; 2],
    /// Patches it was read from.
    pub evidence: Vec<String>,
}

impl Contrast {
    /// One standard deviation, if the range is taken for four of them.
    fn sd(&self) -> f64 {
        ((self.range_stops[1] - self.range_stops[0]) / 4.0).max(0.05)
    }
}

/// The contrast on the subject from the patches marked lit and shadow; `None` without both.
pub fn contrast(patches: &[(String, PatchRole, PatchReading)], calibrated: bool) -> Option<Contrast> {
    let of = |role: PatchRole| {
        let list: Vec<_> = patches.iter().filter(|p| p.1 == role).collect();
        let weight: f64 = list.iter().map(|p| p.2.pixels as f64).sum();
        let mean = list.iter().map(|p| p.2.luminance * p.2.pixels as f64).sum::<f64>() / weight;
        (!list.is_empty()).then_some((mean, list))
    };
    let (lit, lit_marks) = of(PatchRole::Lit)?;
    let (shadow, shadow_marks) = of(PatchRole::Shadow)?;
    let (stops, lo, hi) = stops_between(lit, shadow, calibrated);
    // The patches' own unevenness, as the error of their means, at least a twentieth of a stop.
    let noise = lit_marks
        .iter()
        .chain(&shadow_marks)
        .map(|p| p.2.spread_stops / (p.2.pixels as f64).sqrt().min(6.0))
        .fold(0.05, f64::hypot);
    let evidence = lit_marks.iter().chain(&shadow_marks).map(|p| p.0.clone()).collect();
    Some(Contrast { stops, range_stops: [lo - noise, hi + noise], evidence })
}

/// What the lights give on one patch, in units of what each gives on a surface that faces it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Reached {
    /// By the key: its cosine where it is seen, 0 where it is not.
    pub key: f64,
    /// By all that fills, together.
    pub fill: f64,
}

/// All that lifts the key's shadows, as it was read.
#[derive(Debug, Clone, PartialEq)]
pub struct Filled {
    /// Its level relative to the key.
    pub level: LevelSpread,
    /// It is at most that: nothing that fills was found.
    pub bound: bool,
    /// Marks that say so.
    pub evidence: Vec<String>,
}

/// Steps in which a fill is sought between its spreads, and how many of those to either side.
const FILL_STEPS: usize = 161;
const FILL_REACH: f64 = 4.0;
/// Stops of contrast, in standard deviations, by which patches contradict the lights.
const CONTRADICTED: f64 = 3.0;
/// Fill farther under the key than this is not told from none by two patches: the upper end of a bound.
const LEAST_FILL_STOPS: f64 = 6.0;

/// Contrast between two patches for a fill of `stops`: `log2((k_l + F f_l) / (k_s + F f_s))`.
fn foretold(stops: f64, lit: Reached, shadow: Reached) -> f64 {
    let f = stops.exp2();
    ((lit.key + f * lit.fill).max(1e-4) / (shadow.key + f * shadow.fill).max(1e-4)).log2()
}

/// A fill as the lights have it, held against what two patches on a face of known shape differ by. `None` if they
/// contradict each other.
pub fn fill_by_patches(by_lights: LevelSpread, c: &Contrast, lit: Reached, shadow: Reached) -> Option<LevelSpread> {
    let sd = c.sd();
    let off = |stops: f64| foretold(stops, lit, shadow) - c.stops;
    let step = 0.1;
    let slope = (off(by_lights.stops + step) - off(by_lights.stops - step)) / (2.0 * step);
    if off(by_lights.stops).abs() > CONTRADICTED * sd.hypot(slope * by_lights.sd_stops) {
        return None;
    }
    let (mut total, mut mean, mut square) = (0.0, 0.0, 0.0);
    for i in 0..FILL_STEPS {
        let z = FILL_REACH * (2.0 * i as f64 / (FILL_STEPS - 1) as f64 - 1.0);
        let stops = by_lights.stops + z * by_lights.sd_stops;
        let w = (-0.5 * (z * z + (off(stops) / sd).powi(2))).exp();
        total += w;
        mean += w * stops;
        square += w * stops * stops;
    }
    let mean = mean / total;
    (total > 1e-12)
        .then(|| LevelSpread { stops: mean, sd_stops: (square / total - mean * mean).max(0.0).sqrt().max(0.05) })
}

/// A ratio of which a range of key to fill is known: key and fill together are one more.
fn ranging(r: LightingRatio, key_to_fill_range: [f64; 2]) -> LightingRatio {
    LightingRatio { key_to_fill_range, key_plus_fill_to_fill_range: key_to_fill_range.map(|v| 1.0 + v), ..r }
}

/// The two quantities of one picture. `filled` is what was read of all that lifts the shadows, if lights were read;
/// `reached` what they give on the lit and on the shadow patch, if that is known.
pub fn ratios(c: Option<&Contrast>, filled: Option<&Filled>, reached: Option<[Reached; 2]>) -> Option<Ratios> {
    let mut ratio_from = RatioFrom::Lights;
    let (ratio, at_least, says) = match (filled, c) {
        (Some(f), _) if f.bound => {
            let least = -f.level.stops;
            let r = LightingRatio::over(f.level);
            let most = LEAST_FILL_STOPS.max(least + 2.0).exp2();
            let r = ranging(r, [least.exp2(), most]);
            let says = format!(
                "Key to fill {:.0} : 1 or more: nothing that fills was found, and what fills more than that would have been seen.",
                r.key_to_fill_range[0]
            );
            (r, true, says)
        }
        (Some(f), c) => {
            let by_patches = c.zip(reached).map(|(c, [lit, shadow])| (fill_by_patches(f.level, c, lit, shadow), c));
            let level = match &by_patches {
                Some((Some(level), _)) => *level,
                // one of them is wrong, and which cannot be told
                Some((None, _)) => LevelSpread { sd_stops: 1.5 * f.level.sd_stops, ..f.level },
                None => f.level,
            };
            let r = LightingRatio::over(level);
            let mut says = format!(
                "Key to fill {}, by the levels of the lights that were read",
                of_one(r.key_to_fill_range, r.key_to_fill)
            );
            match by_patches {
                Some((Some(_), c)) => {
                    ratio_from = RatioFrom::Both;
                    says +=
                        &format!(" and by what the key gives on the two patches, {:.1} stops apart.", c.stops.abs());
                }
                Some((None, c)) => {
                    says += &format!(
                        "; the patches, {:.1} stops apart, do not fit that: one lies where another thing shades or shines.",
                        c.stops.abs()
                    );
                }
                None => says += ".",
            }
            (r, false, says)
        }
        (None, Some(c)) => {
            ratio_from = RatioFrom::Patches;
            // the shadow patch holds all of the fill and what the key gives there: the fill is that or less
            let over = |stops: f64| (stops.exp2() - 1.0).max(1.0).log2();
            let (least, low) = (over(c.stops), over(c.range_stops[0]));
            let r = LightingRatio::over(LevelSpread { stops: -least, sd_stops: 0.0 });
            let most = LEAST_FILL_STOPS.max(least + 1.0).exp2();
            let r = ranging(r, [low.exp2(), most]);
            let says = format!(
                "Key to fill {:.1} : 1 or more: the fill is at most what the shadow patch shows, and less if the key reaches it too. \
                 The lights themselves tell it, where a face, an eye or a ball lets them be read.",
                r.key_to_fill_range[0]
            );
            (r, true, says)
        }
        (None, None) => return None,
    };
    let mut evidence: Vec<String> = filled.map(|f| f.evidence.clone()).unwrap_or_default();
    evidence.extend(c.map(|c| c.evidence.clone()).unwrap_or_default());
    evidence.sort();
    evidence.dedup();
    // without patches: a side that faces the key against one it does not reach
    let (stops, range_stops, contrast_from) = match c {
        Some(c) => (c.stops, c.range_stops, RatioFrom::Patches),
        None => {
            let all = |r: f64| r.log2();
            let range = ratio.key_plus_fill_to_fill_range;
            (all(ratio.key_plus_fill_to_fill), range.map(all), RatioFrom::Lights)
        }
    };
    Some(Ratios {
        lit_to_shadow_stops: stops,
        range_stops,
        contrast_from,
        key_to_fill: ratio.key_to_fill,
        key_to_fill_range: ratio.key_to_fill_range,
        key_plus_fill_to_fill: ratio.key_plus_fill_to_fill,
        key_plus_fill_to_fill_range: ratio.key_plus_fill_to_fill_range,
        ratio_from,
        at_least,
        says,
        evidence,
    })
}

/// "4.1 : 1 (2.9 to 5.8)"; whole from ten on.
fn of_one([low, high]: [f64; 2], value: f64) -> String {
    let few = |v: f64| if v < 10.0 { format!("{v:.1}") } else { format!("{v:.0}") };
    format!("{} : 1 ({} to {})", few(value), few(low), few(high))
}
