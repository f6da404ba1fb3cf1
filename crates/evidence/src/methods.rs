//! How each kind of mark is read, in words: for those who want to check.

use serde::{Deserialize, Serialize};
use std::sync::LazyLock;
use utoipa::ToSchema;

/// A row of `data/methods.toml`.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct Method {
    /// Kind of mark; balls with their finish.
    pub kind: String,
    /// The formula.
    pub formula: String,
    /// What it means, without mathematics.
    pub says: String,
    /// Where it is from.
    pub source: String,
    /// What puts it off.
    pub errors: String,
}

#[derive(Deserialize)]
struct Table {
    method: Vec<Method>,
}

static METHODS: LazyLock<Vec<Method>> =
    LazyLock::new(|| toml::from_str::<Table>(include_str!("../data/methods.toml")).expect("methods.toml").method);

/// All methods.
pub fn methods() -> &'static [Method] {
    &METHODS
}
