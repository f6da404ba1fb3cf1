//! The yardstick of a class.
//!
//! | file | holds |
//! |---|---|
//! | `distance.rs` | how far a picture is from the reference, in steps that one sees |
//! | `rubric.rs` | criteria with weights, what the program proposes, what a person gave, totals |
//! | `assignment.rs` | what is asked for, and when it is late |
//! | `book.rs` | the gradebook: totals, what goes wrong most, as a table |
//! | `copies.rs` | the same picture handed in twice |

mod assignment;
mod book;
mod copies;
mod distance;
mod rubric;

pub use assignment::{Assignment, HandIn, LateRule, Lateness, lateness};
pub use book::{BookCell, BookRow, Trend, as_table, final_share, trends};
pub use copies::{Finger, Print, finger};
pub use distance::{Distance, DistancePart, PartKind, distance};
pub use rubric::{Awarded, By, Counted, Criterion, Given, Measure, ProposedPoints, counted, proposals, share_of};
