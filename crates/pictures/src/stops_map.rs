//! A picture as a map of stops from middle grey.

use crate::{Refusal, encode_png};
use optics::photo::Photo;
use optics::tone::MIDDLE_GREY;

/// Stops from middle grey of the darkest and the brightest colour of the map.
pub const MAP_STOPS: [f64; 2] = [-6.0, 2.5];
/// Step of the map in stops.
pub const MAP_STEP: f64 = 0.5;
/// What is clipped.
const CLIPPED: [[u8; 3]; 2] = [[255, 255, 255], [0, 0, 0]];
/// What is darker than the map.
const BLACK: [u8; 3] = [0, 0, 0];

/// Colour of a level: half-stop steps of the open colour map cividis (Nuñez, Anderton & Renslow 2018), which reads alike
/// for colour-blind people.
pub fn map_colour(stops: f64) -> [u8; 3] {
    if stops < MAP_STOPS[0] {
        return BLACK;
    }
    let steps = (MAP_STOPS[1] - MAP_STOPS[0]) / MAP_STEP;
    let k = ((stops - MAP_STOPS[0]) / MAP_STEP).floor().min(steps - 1.0);
    let c = colorous::CIVIDIS.eval_continuous((k + 0.5) / steps);
    [c.r, c.g, c.b]
}

/// PNG of at most `side` pixels: each pixel's stops from middle grey by [`map_colour`]; what is clipped is hatched.
///
/// # Errors
/// [`Refusal::Damaged`] if encoding fails.
pub fn stops_map(photo: &Photo, side: u32) -> Result<Vec<u8>, Refusal> {
    let f = photo.width().max(photo.height()).div_ceil(side).max(1);
    let (w, h) = ((photo.width() / f).max(1), (photo.height() / f).max(1));
    let mut out = Vec::with_capacity(3 * (w * h) as usize);
    for y in 0..h {
        for x in 0..w {
            let (mut sum, mut n, mut clipped) = (0.0, 0.0, false);
            for dy in 0..f {
                for dx in 0..f {
                    let Some(s) = photo.get(i64::from(x * f + dx), i64::from(y * f + dy)) else { continue };
                    sum += s.luminance();
                    n += 1.0;
                    clipped |= s.clipped;
                }
            }
            let stops = (sum / f64::max(n, 1.0) / MIDDLE_GREY).max(1e-9).log2();
            out.extend(if clipped { CLIPPED[usize::from((x + y) % 6 < 2)] } else { map_colour(stops) });
        }
    }
    encode_png(w, h, out)
}

/// Stops between which the map of differences has colours; beyond, the last colour stands.
pub const DIFFERENCE_STOPS: [f64; 2] = [-2.0, 2.0];
/// Step of that map in stops.
pub const DIFFERENCE_STEP: f64 = 0.25;
/// Where nothing can be told.
const UNTOLD: [[u8; 3]; 2] = [[96, 96, 96], [120, 120, 120]];

/// Colour of a difference: quarter-stop steps of the open diverging map purple to orange (Brewer), which reads alike for
/// colour-blind people; the middle is light and has no tint.
pub fn difference_colour(stops: f64) -> [u8; 3] {
    let [low, high] = DIFFERENCE_STOPS;
    // steps stand about zero: no difference has a step of its own
    let k = (stops / DIFFERENCE_STEP).round() * DIFFERENCE_STEP;
    let c = colorous::PURPLE_ORANGE.eval_continuous(((k - low) / (high - low)).clamp(0.0, 1.0));
    [c.r, c.g, c.b]
}

/// PNG of a map of differences in stops, row by row; what cannot be told (not a number) is hatched grey.
///
/// # Errors
/// [`Refusal::Damaged`] if encoding fails.
pub fn difference_map(width: u32, height: u32, stops: &[f32]) -> Result<Vec<u8>, Refusal> {
    let mut out = Vec::with_capacity(3 * stops.len());
    for (i, s) in stops.iter().enumerate() {
        let (x, y) = (i as u32 % width, i as u32 / width);
        out.extend(if s.is_finite() { difference_colour(f64::from(*s)) } else { UNTOLD[usize::from((x + y) % 6 < 2)] });
    }
    encode_png(width, height, out)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn brighter_is_orange_darker_is_purple_and_alike_has_no_tint() {
        let [r, _, b] = difference_colour(1.5);
        assert!(r > b, "brighter is warm");
        let [r, _, b] = difference_colour(-1.5);
        assert!(b > r, "darker is purple");
        let c = difference_colour(0.05);
        assert!(c.iter().max().zip(c.iter().min()).is_some_and(|(a, b)| a - b < 12), "{c:?}");
        assert_eq!(difference_colour(9.0), difference_colour(2.0));
    }
}
