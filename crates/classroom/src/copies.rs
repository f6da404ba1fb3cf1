//! The same picture handed in twice: exactly, or scaled, recompressed, made a little brighter.

use optics::photo::Photo;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What is kept of a picture to know it again: for each of 16 by 16 cells whether it is brighter than the one to its right, then
/// than the one below (a difference hash, from memory), as hexadecimal figures.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Finger(pub String);

/// Cells along a side.
const SIDE: usize = 16;
/// Bits of 512 that may differ between near copies: other pictures of one set differ in far more.
const NEAR_BITS: u32 = 36;
/// Cells that differ by less than this share of the range tell nothing: noise decides.
const FLAT: f64 = 0.004;

/// The finger of a picture.
pub fn finger(photo: &Photo) -> Finger {
    let (w, h) = (photo.width() as usize, photo.height() as usize);
    let side = SIDE + 1;
    let mut cells = vec![0.0f64; side * side];
    for (i, c) in cells.iter_mut().enumerate() {
        let (x, y) = (i % side, i / side);
        let (x0, x1) = (x * w / side, ((x + 1) * w / side).max(x * w / side + 1));
        let (y0, y1) = (y * h / side, ((y + 1) * h / side).max(y * h / side + 1));
        let (mut sum, mut n) = (0.0, 0.0);
        // at most sixteen samples a side: a cell of a large picture is smooth enough
        let step = |a: usize, b: usize| ((b - a) / 16).max(1);
        for yy in (y0..y1).step_by(step(y0, y1)) {
            for xx in (x0..x1).step_by(step(x0, x1)) {
                if let Some(p) = photo.get(xx as i64, yy as i64) {
                    // coded values: as the eye has them
                    sum += p.rgb.iter().map(|v| f64::from(*v).max(0.0).powf(1.0 / 2.2)).sum::<f64>();
                    n += 1.0;
                }
            }
        }
        *c = sum / f64::max(n, 1.0);
    }
    let range = cells.iter().copied().fold(f64::MIN, f64::max) - cells.iter().copied().fold(f64::MAX, f64::min);
    let brighter = |a: f64, b: f64| a - b > FLAT * range;
    let mut bits = Vec::with_capacity(2 * SIDE * SIDE);
    for (dx, dy) in [(1, 0), (0, 1)] {
        for y in 0..SIDE {
            for x in 0..SIDE {
                bits.push(brighter(cells[y * side + x], cells[(y + dy) * side + x + dx]));
            }
        }
    }
    let nibble = |b: &[bool]| b.iter().fold(0u32, |n, v| 2 * n + u32::from(*v));
    Finger(bits.chunks(4).filter_map(|b| char::from_digit(nibble(b), 16)).collect())
}

/// Bits in a word of a finger's figures.
const WORD: usize = 16;

/// A finger made ready to be held against many others.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Print([u64; 2 * SIDE * SIDE / 64]);

impl Finger {
    /// Ready to be held against others; `None` if it is none of ours.
    pub fn print(&self) -> Option<Print> {
        let mut words = [0; 2 * SIDE * SIDE / 64];
        if self.0.len() != WORD * words.len() || !self.0.is_ascii() {
            return None;
        }
        for (i, w) in words.iter_mut().enumerate() {
            *w = u64::from_str_radix(&self.0[WORD * i..WORD * (i + 1)], 16).ok()?;
        }
        Some(Print(words))
    }
}

impl Print {
    /// Whether two are of one picture.
    pub fn is_near(&self, other: &Print) -> bool {
        self.0.iter().zip(other.0).map(|(a, b)| (a ^ b).count_ones()).sum::<u32>() <= NEAR_BITS
    }
}
