//! The bench: a light path from the lamp to the sensor, and the sums that go with it.
//!
//! Every sum is a row of figures with one relation between them. All are editable, and any one that
//! takes part in the relation can be solved for: the others stay, the relation is met by bisection.
//! Figures of the same name are the same figure on every sum of the bench. `data/bench.toml` holds the
//! rows (names, units, bounds, usual values and spreads); one file here holds one sum.

mod unit;

pub use path::path_of;
pub use unit::Unit;
pub use walk::{light_on_axis, walk_stops};

use optics::power::{Control, read_power};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::sync::LazyLock;
use utoipa::ToSchema;

/// Figures by name, in the unit of their row.
pub type Values = BTreeMap<String, f64>;

/// One sum of the bench.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct Sum {
    /// Stable name.
    pub id: String,
    /// Name for people.
    pub name: String,
    /// What it answers.
    pub about: String,
    /// Its formula with the source.
    pub formula: String,
    /// Its figures.
    pub field: Vec<Field>,
}

/// One figure of a sum.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct Field {
    /// Stable name, the same on every sum.
    pub id: String,
    /// Name for people.
    pub name: String,
    /// Unit of it.
    pub unit: Unit,
    /// Smallest value.
    pub min: f64,
    /// Largest value.
    pub max: f64,
    /// Value it starts with.
    pub usual: f64,
    /// Standard deviation in its unit; for metres, f-numbers and lux a share of the value.
    #[serde(default)]
    pub spread: f64,
    /// Takes part in the relation and can be solved for.
    #[serde(default)]
    pub solve: bool,
    /// Names of the choices, from 0.
    #[serde(default)]
    pub choices: Vec<String>,
}

/// What is asked of the bench.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct BenchQuestion {
    /// Id of the sum.
    pub sum: String,
    /// Figures; the usual ones where absent.
    #[serde(default)]
    pub values: Values,
    /// Power settings as they are typed, in any notation (`1/4 + 0.3`, `65 %`, `200 J`), in place of their figures.
    #[serde(default)]
    pub powers: BTreeMap<String, String>,
    /// Figure to solve for.
    #[serde(default)]
    pub solve: Option<String>,
}

/// What the bench answers.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct BenchAnswer {
    /// Every figure of the sum, the solved one included.
    pub values: Values,
    /// Other values of the solved figure that fit as well, in its unit.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub others: Vec<f64>,
    /// Standard deviation of the solved figure, in its unit.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub solved_sd: Option<f64>,
    /// What follows.
    pub results: Vec<BenchFigure>,
    /// In sentences.
    pub says: Vec<String>,
    /// Line by line.
    pub working: Vec<String>,
    /// Where a curve says more.
    pub curves: Vec<Curve>,
    /// What does not work out.
    pub problems: Vec<String>,
}

/// A figure that follows.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct BenchFigure {
    /// Name for people.
    pub name: String,
    /// Value in its unit.
    pub value: f64,
    /// Unit of it.
    pub unit: Unit,
    /// One standard deviation, from the spreads of the figures it follows from.
    pub sd: f64,
}

/// A curve of the bench.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Curve {
    /// Across, with its unit.
    pub across: String,
    /// Up, with its unit.
    pub up: String,
    /// Lines: a name, and points.
    pub lines: Vec<CurveLine>,
    /// Where the figures stand on it.
    #[schema(value_type = Vec<optics::geometry::Pair>)]
    pub here: Vec<[f64; 2]>,
}

/// One line of a [`Curve`].
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct CurveLine {
    /// Name.
    pub name: String,
    /// Points across and up.
    #[schema(value_type = Vec<optics::geometry::Pair>)]
    pub points: Vec<[f64; 2]>,
}

/// What a sum tells, before spreads are known.
#[derive(Default)]
pub(crate) struct Told {
    results: Vec<(String, f64, Unit)>,
    says: Vec<String>,
    working: Vec<String>,
    curves: Vec<Curve>,
    problems: Vec<String>,
}

impl Told {
    fn result(&mut self, name: &str, value: f64, unit: Unit) {
        self.results.push((name.to_owned(), value, unit));
    }
}

/// Figures with every name present.
pub(crate) struct Figures<'a>(&'a Values);

impl Figures<'_> {
    fn at(&self, id: &str) -> f64 {
        self.0.get(id).copied().unwrap_or(f64::NAN)
    }
}

type Relation = fn(&Figures) -> f64;
type Tell = fn(&Figures, &mut Told);

/// The sums, each in a file of its own under the name it has in `data/bench.toml`. A new sum is a file, its name here and
/// its row there; a row without a file stops the program at its first use, and a test before that.
macro_rules! sums {
    ($($name:ident),+ $(,)?) => {
        $(mod $name;)+

        fn rules(id: &str) -> Option<(Relation, Tell)> {
            match id {
                $(stringify!($name) => Some(($name::relation, $name::tell)),)+
                _ => None,
            }
        }

        /// Names of the sums there are files of.
        #[cfg(test)]
        const FILES: &[&str] = &[$(stringify!($name)),+];
    };
}

sums! {
    brushed, close, colour, drops, fall, frames, glow, mirrored, mixed, motion, moved, path, power, raking, rim, sheet, size, sums, tabletop,
    walk,
}

#[derive(Deserialize)]
struct Table {
    sum: Vec<Sum>,
}

static SUMS: LazyLock<Vec<Sum>> =
    LazyLock::new(|| toml::from_str::<Table>(include_str!("../../data/bench.toml")).expect("bench.toml").sum);

/// The sums of the bench.
pub fn bench() -> &'static [Sum] {
    &SUMS
}

/// Answers a question.
///
/// # Errors
/// One sentence that names the figure and what was expected.
pub fn answer(q: &BenchQuestion) -> Result<BenchAnswer, String> {
    let sum = SUMS.iter().find(|s| s.id == q.sum).ok_or_else(|| format!("sum: \"{}\" is not on the bench", q.sum))?;
    let mut values = Values::new();
    for f in &sum.field {
        let v = match q.powers.get(&f.id) {
            Some(text) => {
                let full_j = q.values.get("full_j").copied().unwrap_or(f64::NAN);
                read_power(Control::Stops, text, full_j, f64::NAN).map_err(|e| format!("{}: {e}", f.name))?.0
            }
            None => q.values.get(&f.id).copied().unwrap_or(f.usual),
        };
        if q.solve.as_deref() != Some(&f.id) && !(v.is_finite() && v >= f.min && v <= f.max) {
            return Err(format!("{}: expected {} to {} {}, found {v}", f.name, f.min, f.max, f.unit.word()));
        }
        values.insert(f.id.clone(), v);
    }
    if let Some(id) = &q.solve
        && !sum.field.iter().any(|f| &f.id == id && f.solve)
    {
        return Err(format!("solve: \"{id}\" is not a figure that {} can be solved for", sum.name));
    }
    let (relation, tell) = rules(&sum.id).ok_or_else(|| format!("sum: {} has no formula", sum.name))?;
    let unknown = q.solve.as_ref().and_then(|id| sum.field.iter().find(|f| &f.id == id));
    let solve = |values: &mut Values| unknown.map_or(Ok(Vec::new()), |f| solve_for(f, values, relation));
    let mut problems = Vec::new();
    let others = solve(&mut values).unwrap_or_else(|sentence| {
        problems.push(sentence);
        Vec::new()
    });
    let told = |values: &Values| {
        let mut t = Told::default();
        tell(&Figures(values), &mut t);
        t
    };
    let here = told(&values);
    // Spreads: each figure moved by its standard deviation, the differences added in squares.
    let mut variance = vec![0.0; here.results.len()];
    let mut solved = 0.0;
    for f in sum.field.iter().filter(|f| f.spread > 0.0 && q.solve.as_deref() != Some(&f.id)) {
        let mut moved = values.clone();
        let v = values[&f.id];
        moved.insert(f.id.clone(), v + if f.unit.is_relative() { v * f.spread } else { f.spread });
        if solve(&mut moved).is_err() {
            continue;
        }
        if let Some(u) = unknown {
            solved += (moved[&u.id] - values[&u.id]).powi(2);
        }
        for (s, (a, b)) in variance.iter_mut().zip(told(&moved).results.iter().zip(&here.results)) {
            let d = a.1 - b.1;
            *s += if d.is_finite() { d * d } else { 0.0 };
        }
    }
    problems.extend(here.problems);
    let results = here.results.into_iter().zip(variance).map(|((name, value, unit), var)| BenchFigure {
        name,
        value,
        unit,
        sd: var.sqrt(),
    });
    let mut says = here.says;
    if let (Some(f), Some(other)) = (unknown, others.first()) {
        says.insert(
            0,
            format!(
                "{}: {other:.2} {} fits as well; {:.2} is where somebody could stand.",
                f.name,
                f.unit.word(),
                values[&f.id]
            ),
        );
    }
    Ok(BenchAnswer {
        others,
        results: results.filter(|r| r.value.is_finite()).collect(),
        solved_sd: unknown.map(|_| solved.sqrt()),
        says,
        working: here.working,
        curves: here.curves,
        problems,
        values,
    })
}

/// Other values that are told.
const MOST_ROOTS: usize = 3;
/// Steps in which the range of a figure is searched for a change of sign.
const SCAN: usize = 160;

/// Puts the figure where the relation is zero, or where it comes nearest, with a sentence.
/// Of several such values the largest is taken (a light farther away is where one could stand), and the others are told.
fn solve_for(f: &Field, values: &mut Values, relation: Relation) -> Result<Vec<f64>, String> {
    let log = f.min > 0.0 && f.max / f.min > 20.0;
    let at = |t: f64| if log { f.min * (f.max / f.min).powf(t) } else { f.min + (f.max - f.min) * t };
    let mut off = |t: f64| {
        values.insert(f.id.clone(), at(t));
        relation(&Figures(values))
    };
    let mut best = (0.0, f64::INFINITY);
    let mut before = (0.0, f64::NAN);
    let mut roots: Vec<f64> = Vec::new();
    for i in 0..=SCAN {
        let t = i as f64 / SCAN as f64;
        let r = off(t);
        if r.abs() < best.1.abs() {
            best = (t, r);
        }
        if r == 0.0 {
            roots.push(at(t));
        }
        if before.1 * r < 0.0 {
            let (mut lo, mut hi, sign) = (before.0, t, before.1.signum());
            for _ in 0..60 {
                let mid = (lo + hi) / 2.0;
                if off(mid) * sign > 0.0 { lo = mid } else { hi = mid }
            }
            // a jump is not a crossing
            if off((lo + hi) / 2.0).abs() < 1e-3 {
                roots.push(at((lo + hi) / 2.0));
            }
        }
        before = (t, r);
    }
    if let Some(taken) = roots.pop() {
        values.insert(f.id.clone(), taken);
        roots.truncate(MOST_ROOTS);
        return Ok(roots);
    }
    let r = off(best.0);
    if r.abs() < 1e-9 {
        return Ok(Vec::new());
    }
    Err(format!(
        "{}: nothing from {} to {} {} does it; the nearest leaves {:.2} stops. Change another figure.",
        f.name,
        f.min,
        f.max,
        f.unit.word(),
        r.abs()
    ))
}

/// Points of a curve between two ends.
pub(crate) fn curve_points(from: f64, to: f64, y: impl Fn(f64) -> f64) -> Vec<[f64; 2]> {
    (0..=60).map(|i| from + (to - from) * f64::from(i) / 60.0).map(|x| [x, y(x)]).filter(|p| p[1].is_finite()).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_row_has_its_formula_and_every_formula_its_row() {
        let rows: Vec<&str> = bench().iter().map(|s| s.id.as_str()).collect();
        for id in &rows {
            assert!(rules(id).is_some(), "{id} has no formula");
        }
        for name in FILES {
            assert!(rows.contains(name), "{name} has no row");
        }
        assert!(rules("nothing of that name").is_none());
    }
}
