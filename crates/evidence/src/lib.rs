//! What a picture says of the light: marks, what each says on its own, all of them together.
//!
//! Pure: it opens no file, waits for nothing and knows no interface. What it judges by are tables under `data/`.

pub mod bracket;
pub mod levels;
pub mod looks;
pub mod marks;
pub mod methods;
pub mod patch_role;
pub mod placement;
pub mod read;
pub mod readings;
pub mod sentence;
pub mod wedge;

/// Version of the computation. Stored with every derived reading, so that a reading made by an
/// older core can be told apart and computed again.
pub const CORE_VERSION: &str = env!("CARGO_PKG_VERSION");
