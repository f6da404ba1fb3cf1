//! The rules of the job: what light does to a picture, and what a picture says of the light.
//!
//! This crate is pure. It opens no file, waits for nothing and knows no interface: pictures come in
//! as [`photo::Photo`], marks as [`marks::Marks`], and the answer leaves as
//! [`readings::Readings`]. Everything it states carries a spread, and the tables it judges by
//! (looks, hardness words, modifiers, briefs, verdict rules) are TOML files under `data/`.
//!
//! # Conventions
//! * **Camera frame**: +x to image right, +y up, +z from the subject towards the camera.
//! * **Direction to a light**: azimuth from +z, positive to camera right, (-180, 180]; elevation
//!   positive up. Unit vector `(cos el sin az, sin el, cos el cos az)`.
//! * **Angular size**: full angle of the disc with the same solid angle.
//! * **Pixels**: x right, y down, origin at the corner of the top-left pixel, centres at +0.5.
//! * **Level**: stops of unoccluded irradiance on a surface facing the light, relative to the key.
//! * Degrees at the edges of the crate (types that are serialised), radians inside.

pub mod bench;
pub mod bracket;
pub mod build;
pub mod cables;
pub mod colour;
pub mod compare;
pub mod critique;
pub mod direction;
pub mod drawing;
pub mod exposure;
pub mod falloff;
pub mod find;
pub mod geometry;
pub mod gltf;
pub mod kit;
pub mod levels;
pub mod looks;
pub mod luminaire;
pub mod marks;
pub mod meter;
pub mod methods;
pub mod notation;
pub mod photo;
pub mod placement;
pub mod power;
pub mod read;
pub mod readings;
pub mod rebuild;
pub mod sentence;
pub mod set;
pub mod solve;
pub mod stage;
pub mod takes;
pub mod tone;
pub mod units;
pub mod wedge;

/// Version of the computation. Stored with every derived reading, so that a reading made by an
/// older core can be told apart and computed again.
pub const CORE_VERSION: &str = env!("CARGO_PKG_VERSION");
