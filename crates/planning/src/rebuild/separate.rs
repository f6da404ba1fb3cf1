//! Readings that tell candidates apart (`data/separating.toml`).

use super::candidates::{Candidate, ForetoldLight, round};
use super::ways::SeenLight;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::sync::LazyLock;
use utoipa::ToSchema;

/// Stops from which a meter that was moved has left the beam.
const PAST_THE_BEAM: f64 = 3.0;
/// Differences under this many standard deviations tell nothing apart.
const APART: f64 = 1.0;

/// A reading that tells two candidates apart.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SeparatingTest {
    /// Stable name, for its outcome: `fill 2:hot`.
    pub id: String,
    /// Numbers of the two candidates in the list.
    pub between: [usize; 2],
    /// What to do and read.
    pub instruction: String,
    /// What each foretells.
    #[schema(value_type = optics::geometry::Pair)]
    pub foretold: [f64; 2],
    /// Standard deviation of each, in the unit: of the reading and of what the candidate leaves free.
    #[schema(value_type = optics::geometry::Pair)]
    pub sd: [f64; 2],
    /// Unit.
    pub unit: String,
    /// Difference over the larger standard deviation.
    pub apart_sd: f64,
}

#[derive(Deserialize)]
struct Table {
    test: Vec<Test>,
}

/// How a reading is taken, and how well.
#[derive(Deserialize)]
pub(super) struct Test {
    pub id: String,
    instruction: String,
    pub unit: String,
    sd: f64,
    #[serde(default)]
    free: f64,
    #[serde(default)]
    free_hot: f64,
    #[serde(default)]
    log: bool,
}

static TESTS: LazyLock<Vec<Test>> = LazyLock::new(|| {
    toml::from_str::<Table>(include_str!("../../data/separating.toml")).expect("separating.toml").test
});

pub(super) fn tests() -> &'static [Test] {
    &TESTS
}

impl Test {
    /// Name of this test on a light.
    pub fn of(&self, light: &str) -> String {
        format!("{light}:{}", self.id)
    }

    fn value(&self, l: &ForetoldLight) -> f64 {
        match self.id.as_str() {
            "cost" => l.cost,
            "dark" => l.dark,
            "corners" => l.corners,
            "card" => l.card,
            "hot" => l.hot,
            "shape" => l.aspect.exp(),
            "nearer" => l.nearer,
            "lower" => l.lower,
            "behind" => l.behind,
            "size" => l.size.to_degrees(),
            _ => f64::NAN,
        }
    }

    /// A reading as it counts: figures that count by their ratio as logarithms.
    pub fn inner(&self, v: f64) -> f64 {
        if self.log { v.max(1e-3).ln() } else { v }
    }

    /// And as a person reads it.
    pub fn shown(&self, v: f64) -> f64 {
        if self.log { v.exp() } else { v }
    }

    /// What a light gives, as it counts.
    pub fn inner_of(&self, l: &ForetoldLight) -> f64 {
        self.inner(self.value(l))
    }

    /// Standard deviation of that, as it counts.
    pub fn sd_of(&self, l: &ForetoldLight) -> f64 {
        // past the edge of a beam a reading may be anything
        let past = matches!(self.id.as_str(), "nearer" | "lower") && self.value(l).abs() > PAST_THE_BEAM;
        self.sd.hypot(self.free).hypot(self.free_hot * l.hot).hypot(if past { 2.0 } else { 0.0 })
    }
}

/// What each test reads of a light by the studio: for outcomes of sets whose truth is known.
pub fn test_readings(l: &ForetoldLight, name: &str) -> BTreeMap<String, f64> {
    tests().iter().map(|t| (t.of(name), t.value(l))).collect()
}

/// For each pair the test whose predictions differ most against its error.
pub(super) fn separate(
    seen: &[SeenLight],
    list: &[Candidate],
    outcomes: &BTreeMap<String, f64>,
) -> Vec<SeparatingTest> {
    let mut out = Vec::new();
    for a in 0..list.len() {
        for b in a + 1..list.len() {
            let pair = [&list[a], &list[b]];
            let told = |id: &str, of: fn(&Candidate) -> &BTreeMap<String, f64>| {
                Some([*of(pair[0]).get(id)?, *of(pair[1]).get(id)?])
            };
            let best = seen
                .iter()
                .flat_map(|s| tests().iter().map(move |t| (s, t, t.of(&s.name))))
                .filter(|(_, _, id)| !outcomes.contains_key(id))
                .filter_map(|(s, t, id)| {
                    let (v, sd) = (told(&id, |c| &c.foretells)?, told(&id, |c| &c.foretell_sd)?);
                    Some(((t.inner(v[0]) - t.inner(v[1])).abs() / sd[0].max(sd[1]), s, t, id, v, sd))
                })
                .max_by(|p, q| p.0.total_cmp(&q.0));
            if let Some((apart_sd, s, t, id, foretold, sd)) = best
                && apart_sd > APART
            {
                out.push(SeparatingTest {
                    id,
                    between: [a, b],
                    instruction: t.instruction.replace("{role}", &s.name),
                    foretold,
                    sd: [0, 1].map(|k| round(if t.log { sd[k] * foretold[k].abs() } else { sd[k] })),
                    unit: t.unit.clone(),
                    apart_sd: round(apart_sd),
                });
            }
        }
    }
    out
}
