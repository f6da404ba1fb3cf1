//! What a file may ask for, and what decoding gives.

use crate::facts::Facts;
use optics::photo::Photo;

/// What a file may ask for. Strict: checked on the header before anything is allocated.
#[derive(Debug, Clone, Copy)]
pub struct Limits {
    /// Bytes of the file.
    pub bytes: u64,
    /// Pixels of the picture.
    pub pixels: u64,
    /// Pixels on one side.
    pub side: u32,
    /// Bytes the decoder may allocate (best effort of the decoder library).
    pub memory: u64,
}

impl Limits {
    /// Megabytes that decoding a picture of so many pixels takes at most, with `bytes` for each as the file has it: the
    /// decoder's own copy, what is kept, and the file.
    pub fn megabytes(pixels: u64, bytes: u64) -> u64 {
        (pixels * bytes).div_ceil(1_000_000)
    }
}

impl Default for Limits {
    /// 80 MB of file, 120 megapixels, 32 000 a side, 0.75 GB of decoder memory: 120 megapixels of three bytes and what a
    /// decoder needs beside them, 60 of eight, 30 of twelve.
    fn default() -> Self {
        Limits { bytes: 80_000_000, pixels: 120_000_000, side: 32_000, memory: 750_000_000 }
    }
}

/// A decoded picture with its facts.
#[derive(Debug)]
pub struct Decoded {
    /// Upright, sRGB primaries, encoded as the file says (sRGB or linear).
    pub photo: Photo,
    /// What was read beside the pixels.
    pub facts: Facts,
}
