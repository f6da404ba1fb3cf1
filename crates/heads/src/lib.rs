//! A family of heads.
//!
//! | file | holds |
//! |---|---|
//! | `family.rs` | mean, components and landmarks, read from `data/heads.bin` |
//! | `head.rs` | one head of the family: its points and normals |
//! | `sight.rs` | from where each point of a head can be lit |
//!
//! The family is statistics over drawings of a body mesh that is in the public domain (CC0); `tools/heads` makes it. Metres,
//! head frame: origin midway between the corneas, x to image right, y up, z out of the face.

mod family;
mod head;
mod sight;

pub use family::{EYES, Family, Landmark, NAMED, Region, family};
pub use head::{Head, Point};
pub use sight::sight;
