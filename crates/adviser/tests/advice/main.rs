//! Advice, held against what the set then gives.

mod mending;
mod power;
mod rebuilding;
mod takes;
mod wishes;
