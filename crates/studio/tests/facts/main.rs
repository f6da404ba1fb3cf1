//! What the studio draws, held against published figures, and read back.

mod cutters;
mod faces;
mod people;
mod physics;
