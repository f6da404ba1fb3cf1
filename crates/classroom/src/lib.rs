//! The yardstick of a class.
//!
//! | file | holds |
//! |---|---|
//! | `distance.rs` | how far a picture is from the reference, in steps that one sees |
//! | `rubric.rs` | criteria with weights, what the program proposes, what a person gave, totals |
//! | `assignment.rs` | what is asked for, and when it is late |
//! | `book.rs` | the gradebook: totals, what goes wrong most, as a table |
//! | `book_in.rs` | a gradebook that comes back as a table |
//! | `progress.rs` | how a student comes on, and what to practise |
//! | `graders.rs` | graders held against each other |
//! | `peers.rs` | who looks at whose picture |
//! | `round.rs` | a live round: where a class places a light |
//! | `house.rs` | house rules of a class |
//! | `copies.rs` | the same picture handed in twice |

mod assignment;
mod book;
mod book_in;
mod copies;
mod distance;
mod graders;
mod house;
mod peers;
mod progress;
mod round;
mod rubric;

pub use assignment::{Assignment, HandIn, LateRule, Lateness, lateness};
pub use book::{BookCell, BookRow, Trend, as_table, final_share, plain_table, trends};
pub use book_in::{EnteredShare, MOST_TABLE_BYTES, TableIn, table_in};
pub use copies::{Finger, Print, finger};
pub use distance::{Distance, DistancePart, PartKind, distance};
pub use graders::{GraderLine, GraderMost, graders};
pub use house::{HouseRules, RatioSchool};
pub use peers::{MOST_PEERS, dealt};
pub use progress::{Course, PartCourse, course, practised};
pub use round::{Crowd, Off, Truth, WELL_DEG, check_place, crowd, off};
pub use rubric::{Awarded, By, Counted, Criterion, Given, Measure, ProposedPoints, counted, proposals, share_of};
