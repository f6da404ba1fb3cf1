//! Advice, held against what the set then gives.

mod rebuilding;
mod takes;
