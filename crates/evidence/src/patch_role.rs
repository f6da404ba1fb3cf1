//! What patches show.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What a patch shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)]
pub enum PatchRole {
    Lit,
    Shadow,
    Forehead,
    Chest,
    Background,
    BackgroundFar,
    Rim,
    Label,
    Liquid,
    Grey18,
    White,
    Black,
    Other,
}
