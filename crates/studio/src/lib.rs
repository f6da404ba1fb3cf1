//! The stand-in studio: a lighting set goes in, the picture a camera would take of it comes out.
//!
//! | file | holds |
//! |---|---|
//! | `subjects/` | people, carved heads, products and props as meshes |
//! | `scene.rs` | a set made ready: parts placed, flat things, lamps with their sheets |
//! | `emitter.rs` | bright faces |
//! | `around.rs` | light from all around, even or as a map of a room |
//! | `exchange.rs` | what walls and boards hand on to each other |
//! | `gloss.rs` | how glossy surfaces send light on |
//! | `trace.rs` | light transport |
//! | `plates.rs` | one picture per lamp at unit level, kept by content |
//! | `develop.rs` | levels, exposure, clipping, noise, tone curve |
//! | `level.rs` | how bright each light is against the camera's settings |
//! | `points.rs` | where a meter is held, and what it shows there |
//! | `probe.rs` | a flat meter anywhere in a set |
//! | `meter.rs` | what a meter at the subject shows, the slant line |
//! | `relight.rs` | a photograph under other lights |
//! | `stand_in.rs` | heads to read faces with |
//! | `marks.rs` | marks on a studio picture |
//!
//! Real light, not paint: area sources are sampled point by point with shadows, glossy things show
//! the sources themselves. Deterministic for a seed. `docs/studio.md` tells what is left out.

mod around;
mod boards;
mod bvh;
mod develop;
mod emitter;
mod exchange;
mod gloss;
mod lamp;
mod level;
mod marks;
mod math;
mod mesh;
mod meter;
mod plates;
mod points;
mod probe;
mod relight;
mod scene;
mod stand_in;
mod subjects;
mod trace;
mod walk;

pub use boards::{BoardLight, light_of_boards};
pub use develop::{SATURATION, encode, mix};
pub use lamp::{Glimpse, Lamp, lamp};
pub use level::{relative_ambient, relative_exposure};
pub use lightset::meter::{LightMeter, SetMeter};
pub use marks::{in_set, marks, project};
pub use meter::{FlatMeters, Responses, flat_at, key_to_fill, meter, metered, responses};
pub use plates::{Plate, PlateCache, Plates, Progress, trace};
pub use points::{Seen, seen_at};
pub use relight::{Matte, Relit, hatched, light, quartered, quartered_mask, quotient, relit, shows_subject};
pub use stand_in::stand_ins;

use lightset::set::LightSet;
use std::sync::atomic::AtomicBool;

/// Makes the meshes of the heads, so that the first picture does not wait for them.
pub fn warm() {
    for kind in [lightset::set::SubjectKind::HeadLong, lightset::set::SubjectKind::HeadRound] {
        subjects::parts(&lightset::set::Subject::of(kind), math::V::z());
    }
}

/// Traces a set and returns its linear picture, three values per pixel.
///
/// # Errors
/// If a power setting cannot be understood.
pub fn picture(set: &LightSet) -> Result<Vec<f32>, String> {
    let plates = trace(set, &mut PlateCache::default(), &AtomicBool::new(false), |_| {});
    plates.map_or_else(|| Err("the trace was cancelled".into()), |p| mix(set, &p))
}
