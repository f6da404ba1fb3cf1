//! Plates: pictures of one thing with one light at a time, the camera and the thing untouched.
//!
//! Linear light adds: the picture with all lights on is the dark frame plus the sum of what each plate has over it. From that follow
//! the mix that meets a target, the check that nothing moved or changed, the merge by the lighter, and what no plate lights.
//! Pure: it opens no file and knows no interface.

pub mod check;
pub mod curve;
pub mod desk;
pub mod layers;
pub mod light;
pub mod mask;
pub mod merge;
pub mod mix;
pub mod register;
