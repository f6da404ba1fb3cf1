//! What helps on with a measure, as rows of `data/aids.toml`: the picture that decides, the bench sum that works it out.

use serde::Deserialize;
use std::sync::LazyLock;

#[derive(Deserialize)]
struct AidTable {
    aid: Vec<Aid>,
}

/// A row of `data/aids.toml`.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct Aid {
    pub measures: Vec<String>,
    pub take: String,
    pub bench: Option<String>,
}

static AIDS: LazyLock<Vec<Aid>> =
    LazyLock::new(|| toml::from_str::<AidTable>(include_str!("../../data/aids.toml")).expect("aids.toml").aid);

/// The row of a measure.
pub(super) fn aid(measure: &str) -> Option<&'static Aid> {
    AIDS.iter().find(|a| a.measures.iter().any(|m| m == measure))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::critique::measures::MEASURES;

    #[test]
    fn every_measure_has_its_picture_once() {
        for m in MEASURES {
            let n = AIDS.iter().flat_map(|a| &a.measures).filter(|n| *n == m.id).count();
            assert_eq!(n, 1, "{}", m.id);
        }
        assert_eq!(AIDS.iter().map(|a| a.measures.len()).sum::<usize>(), MEASURES.len());
    }
}
