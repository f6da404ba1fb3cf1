//! What the studio draws, held against published figures, and read back.

mod cutters;
mod faces;
mod floor_and_leaves;
mod people;
mod physics;
