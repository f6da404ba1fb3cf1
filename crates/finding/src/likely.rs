//! How probable it is that a thing is what it looks like: a logistic model for each kind, fitted to pictures whose marks
//! are known and to photographs without any (`evaluation find --fit`; `data/likely.toml`).

use serde::Deserialize;
use std::sync::LazyLock;

/// What speaks for or against a thing being of a kind, in the order of the model's weights.
#[derive(Debug, Clone, PartialEq)]
pub struct Signs {
    /// Name of the model.
    pub kind: &'static str,
    /// The signs, each about as wide as one.
    pub values: Vec<f64>,
}

/// A row of `data/likely.toml`.
#[derive(Debug, Clone, Deserialize)]
pub struct Model {
    /// Name.
    pub kind: String,
    /// What the signs are.
    pub signs: Vec<String>,
    /// Log odds where every sign is 0.
    pub bias: f64,
    /// Log odds for each unit of a sign.
    pub weights: Vec<f64>,
}

#[derive(Deserialize)]
struct Table {
    model: Vec<Model>,
}

static MODELS: LazyLock<Vec<Model>> =
    LazyLock::new(|| toml::from_str::<Table>(include_str!("../data/likely.toml")).expect("likely.toml").model);

/// All models.
pub fn models() -> &'static [Model] {
    &MODELS
}

/// Probability by the model of the kind, 0..1.
///
/// # Panics
/// If no model has that name: the names are in the program and the table, and a test holds them together.
pub fn probability(signs: &Signs) -> f64 {
    let m = MODELS.iter().find(|m| m.kind == signs.kind).expect("a model for every kind");
    let odds = m.bias + m.weights.iter().zip(&signs.values).map(|(w, v)| w * v).sum::<f64>();
    1.0 / (1.0 + (-odds).exp())
}
