//! Lighting sets: lights, boards, walls, kit; what a meter in them shows; how they are written and drawn.
//!
//! Pure: it opens no file, waits for nothing and knows no interface. What it judges by are tables under `data/`.

pub mod cables;
pub mod cautions;
pub mod cutter;
pub mod daylight;
pub mod doors;
pub mod drawing;
pub mod frame;
pub mod gel;
pub mod gltf;
pub mod kit;
pub mod light_meter;
pub mod line;
pub mod meter;
pub mod notation;
pub mod paper;
pub mod set;
pub mod throw;
pub mod window;
