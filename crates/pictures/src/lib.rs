//! Picture files: what may come in, what is read from them, what is kept.
//!
//! The only crate that knows file formats. Decoding is bounded before it starts: dimensions and
//! memory are checked on the header, and everything a person may have sent by mistake is refused
//! with one sentence ([`Refusal`]).

mod decode;
mod directories;
mod ends;
mod facts;
mod limits;
mod paper;
mod pipe;
mod preview;
mod raw;
mod stops_map;
mod strip;

pub use decode::decode;
pub use facts::Facts;
pub use limits::{Decoded, Limits};
pub use paper::{pdf_of_pages, pdf_of_svg, png_of_svg, text_width};
pub use pipe::{is_plain, megabytes_to_open, photo_of_bytes, samples_to_bytes};
pub use preview::{Preview, encode_exr, encode_hdr, encode_jpeg, encode_png, previews};
pub use stops_map::{
    DIFFERENCE_STEP, DIFFERENCE_STOPS, MAP_STEP, MAP_STOPS, difference_colour, difference_map, map_colour, stops_map,
};
pub use strip::{storable, without_location};

/// Why a file was not taken. The text is one sentence for the person who sent it.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Refusal {
    /// No bytes.
    #[error("The file is empty (zero bytes): choose it again, or export it again from where it came.")]
    Empty,
    /// More bytes than allowed.
    #[error("The file is {found} MB; at most {most} MB are taken. Export it smaller.")]
    TooHeavy {
        /// Megabytes found.
        found: u64,
        /// Megabytes allowed.
        most: u64,
    },
    /// Not a picture this build reads.
    #[error(
        "This is not a picture that can be read here{hint}. JPEG, PNG, WebP, TIFF, BMP, OpenEXR, Radiance HDR and camera raw are."
    )]
    NotAPicture {
        /// What it looks like, if known, with a leading space or comma.
        hint: String,
    },
    /// Header claims more pixels than allowed.
    #[error("The picture says it is {width} x {height} pixels; at most {most} megapixels and 32000 a side are taken.")]
    TooLarge {
        /// Width claimed.
        width: u32,
        /// Height claimed.
        height: u32,
        /// Megapixels allowed.
        most: u64,
    },
    /// Too many bytes for each of its pixels.
    #[error(
        "The picture would need {needed} MB to be opened; at most {most} MB are given. Export it smaller, or with 8 bits a channel."
    )]
    TooDeep {
        /// Megabytes needed.
        needed: u64,
        /// Megabytes given.
        most: u64,
    },
    /// Damaged or cut off.
    #[error("The picture is damaged or cut off and cannot be decoded ({0}). Copy or export it again.")]
    Damaged(String),
}
