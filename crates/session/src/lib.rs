//! The use cases that the server, the command line and the evaluation share: each is written once, so that one
//! picture has one reading wherever it is asked for.
//!
//! | file | holds |
//! |---|---|
//! | `open.rs` | a picture file to a picture with its meter and facts |
//! | `read.rs` | a picture and its marks to a reading |
//! | `compare.rs` | a take against its reference; marks carried over |
//! | `relight.rs` | the reference under the lights of a set |
//! | `next.rs` | what to change next, in the person's own units and lamps |

mod compare;
mod next;
mod open;
mod read;
mod relight;

pub use compare::{Carried, carried, compared, laid_over};
pub use next::{next, settings};
pub use open::{Opened, open};
pub use read::{MapFile, PictureRead, as_read, light_map, merged, room, told};
pub use relight::{Relightable, can_relight, face_points};
