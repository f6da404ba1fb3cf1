//! What this crate computes, held against sources outside the project. The source stands beside each
//! number; "common practice" and "from memory" are said where there is none.

mod bench;
mod kit_and_build;
mod lines;
mod packing;
mod product_sums;
