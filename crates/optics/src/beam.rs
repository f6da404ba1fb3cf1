//! Beams: how much flux an axial intensity stands for.

use std::f64::consts::{LN_2, PI};

/// Solid angle in steradian in which the axial intensity of a beam holds its whole flux, for a beam of
/// full angle `beam_deg` at half intensity: `2 pi (1 - cos(b/2)) / ln 2` (a bell-shaped beam;
/// for narrow beams the integral of `2^-(theta/half)^2` over the sphere).
pub fn beam_sr(beam_deg: f64) -> f64 {
    2.0 * PI * (1.0 - (beam_deg.min(359.0) / 2.0).to_radians().cos()) / LN_2
}
