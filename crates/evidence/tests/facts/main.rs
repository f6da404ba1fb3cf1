//! What this crate computes, held against sources outside the project. The source stands beside each
//! number; "common practice" and "from memory" are said where there is none.

mod alone;
mod balls_and_eyes;
mod boxes;
mod bracket;
mod colour;
mod direction_and_size;
mod evidence;
mod exposure_and_levels;
mod formats;
mod outlines;
mod placement;
mod products;
mod ratio;
mod room;
mod sun;
mod turned;
mod wedge;
