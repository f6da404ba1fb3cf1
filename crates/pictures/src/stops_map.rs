//! A picture as a map of stops from middle grey.

use crate::{Refusal, encode_png};
use light::photo::Photo;
use light::tone::MIDDLE_GREY;

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
