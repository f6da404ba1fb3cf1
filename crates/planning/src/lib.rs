//! From a reading to a set that can be built: the bench, ways to make it, the order of work.
//!
//! Pure: it opens no file, waits for nothing and knows no interface. What it judges by are tables under `data/`.

pub mod bench;
pub mod build;
pub mod rebuild;
pub mod stage;
pub mod substitutes;
pub mod wish;
