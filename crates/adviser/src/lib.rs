//! What to do next: the change to a set that brings a take nearest its reference, what it will then show, and a
//! simulated camera to try advice on.
//!
//! It asks the stand-in studio what sets would give; nothing here renders or reads pictures.

mod boards;
mod camera;
mod changes;
mod foretell;
mod handling;
mod mending;
mod moves;
mod myths;
mod wishes;

pub use boards::{BoardWay, boards_for};
pub use camera::SimulatedCamera;
pub use changes::changes;
pub use foretell::{candidates, foretell};
pub use mending::{Foreseen, Handle, Mend, mends};
pub use moves::{SetMove, next_moves, suppose};
pub use myths::{Myth, myths};
pub use wishes::{Proposal, proposals};
