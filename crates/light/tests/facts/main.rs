//! What the core computes, held against sources outside the project. The source stands beside each
//! number; "common practice" and "from memory" are said where there is none.

mod balls_and_eyes;
mod direction_and_size;
mod evidence;
mod exposure_and_levels;
mod formats;
mod verdict_and_set;
mod wedge;
