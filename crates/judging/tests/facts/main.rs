//! What this crate computes, held against sources outside the project. The source stands beside each
//! number; "common practice" and "from memory" are said where there is none.

mod alignment;
mod cylinders;
mod house_briefs;
mod rules;
mod takes;
mod verdict_and_set;
