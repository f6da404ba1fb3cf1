//! The stand-in studio, first form: a small ray caster for balls and carved puppet heads with eyes.
//!
//! Real light, not paint: area sources are sampled point by point with shadows, eyes and mirror balls
//! show the sources themselves, and the picture is exposed, clipped and coded as a camera would.
//! Deterministic: the samples of a pixel depend on its place only.

mod body;
mod puppet;
mod trace;

pub use body::{Body, Clip, Surface};
pub use puppet::{PuppetLook, ball, eye_marks, project, puppet};
pub use trace::{Lamp, LampShape, Scene, View, encode, render};
