//! What light does: units, geometry, fall-off, exposure, tone, colour, lamps, photographs.
//!
//! Pure: it opens no file, waits for nothing and knows no interface. What it judges by are tables under `data/`.
//!
//! # Conventions (all crates)
//! * **Camera frame**: +x to image right, +y up, +z from the subject towards the camera.
//! * **Direction to a light**: azimuth from +z, positive to camera right, (-180, 180]; elevation
//!   positive up. Unit vector `(cos el sin az, sin el, cos el cos az)`.
//! * **Angular size**: full angle of the disc with the same solid angle.
//! * **Pixels**: x right, y down, origin at the corner of the top-left pixel, centres at +0.5.
//! * **Level**: stops of unoccluded irradiance on a surface facing the light, relative to the key.
//! * Degrees at the edges (types that are serialised), radians inside.

pub mod beam;
pub mod cell;
pub mod colour;
pub mod depth;
pub mod engraved;
pub mod exposure;
pub mod falloff;
pub mod geometry;
pub mod hardness;
pub mod light_map;
pub mod luminaire;
pub mod mirror;
pub mod photo;
pub mod power;
pub mod ratio;
pub mod role;
pub mod solve;
pub mod straight;
pub mod sun;
pub mod texture;
pub mod tone;
pub mod units;
pub mod unwrap;
pub mod words;
