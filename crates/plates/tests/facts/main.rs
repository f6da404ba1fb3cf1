//! What this crate computes, held against sources outside the project. The source stands beside each number.

mod curves;
mod masking;
mod merging;
mod mixing;
mod moved;
