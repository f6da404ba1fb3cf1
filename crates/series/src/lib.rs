//! Shot lists, and series of pictures that must agree.
//!
//! A shot list says which views are wanted; what each picture shows is measured (where the subject lies, its background, its light),
//! held against the others, and cropped so that scale and base line agree.

mod agree;
mod crop;
mod files;
mod list;
mod outline;
mod sheet;
mod shown;

pub use agree::{Apart, Compared, ComparedValue, ListAnswer, Member, SeriesReport, as_table, report};
pub use crop::{Crop, common, cut};
pub use files::{CroppedPicture, SeriesRecipe, archive};
pub use list::{Guide, ListCheck, Preparation, ShotList, WantedView, shot_list, shot_lists};
pub use sheet::{MOST_FRAMES, Placed, Series};
pub use shown::{Ground, Shown, SubjectBox, shown};
