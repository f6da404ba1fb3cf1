//! Takes against their reference, chains of takes, verdicts by a brief.
//!
//! Pure: it opens no file, waits for nothing and knows no interface. What it judges by are tables under `data/`.

pub mod compare;
pub mod critique;
pub mod takes;
pub mod terms;
