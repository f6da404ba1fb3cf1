//! The gradebook of a class: totals over assignments, what goes wrong most, as a table.

use crate::distance::{Distance, PartKind};
use crate::progress::practised;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What one student got for one assignment.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
pub struct BookCell {
    /// Share of the points, lateness counted, 0 to 1; absent until it is graded.
    pub share: Option<f64>,
    /// Handed in.
    pub handed_in: bool,
    /// After the date.
    pub late: bool,
    /// Steps from the reference.
    pub steps: Option<f64>,
    /// The share was entered by hand.
    #[serde(default)]
    pub entered: bool,
}

/// The row of a student.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct BookRow {
    /// Account.
    pub student: String,
    /// Name.
    pub name: String,
    /// By assignment, in their order.
    pub cells: Vec<BookCell>,
    /// Share of everything that was graded, by weight, 0 to 1.
    pub total: Option<f64>,
}

/// Weighted mean of what was graded, without the lowest so many.
pub fn final_share(cells: &[(Option<f64>, f64)], drop_lowest: usize) -> Option<f64> {
    let mut graded: Vec<(f64, f64)> =
        cells.iter().filter_map(|(s, w)| Some(((*s)?, *w))).filter(|c| c.1 > 0.0).collect();
    graded.sort_by(|a, b| a.0.total_cmp(&b.0));
    // something is left, however many are dropped
    let dropped = drop_lowest.min(graded.len().saturating_sub(1));
    let left = &graded[dropped..];
    let weight: f64 = left.iter().map(|c| c.1).sum();
    (weight > 0.0).then(|| left.iter().map(|c| c.0 * c.1).sum::<f64>() / weight)
}

/// What many of a class have in common.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Trend {
    /// In a sentence: "21 of 28 keys are lower than the reference; in the median 14 degrees."
    pub says: String,
    /// How many.
    pub many: usize,
    /// Of how many.
    pub of: usize,
    /// Median of the difference among them.
    pub median: f64,
    /// Unit.
    pub unit: String,
    /// What to practise.
    pub practise: String,
}

/// A difference under this says nothing about a class: degrees, stops, doublings.
const LEAST_DEG: f64 = 5.0;
const LEAST_STOPS: f64 = 0.3;
const LEAST_DOUBLINGS: f64 = 0.3;
/// Part of a class that must share it.
const MOST_SHARE: f64 = 0.5;

pub(crate) fn median(v: &mut [f64]) -> f64 {
    v.sort_by(f64::total_cmp);
    let n = v.len();
    if n == 0 {
        0.0
    } else if n % 2 == 1 {
        v[n / 2]
    } else {
        f64::midpoint(v[n / 2 - 1], v[n / 2])
    }
}

/// Differences of one sign that more than half share.
pub(crate) struct Group {
    /// They are positive.
    pub up: bool,
    pub many: usize,
    pub of: usize,
    /// Median among those, without its sign.
    pub median: f64,
}

/// What more than half of some differences have in common, if they are over `least`.
pub(crate) fn grouped(told: &[f64], least: f64) -> Option<Group> {
    [1.0, -1.0].into_iter().find_map(|sign| {
        let mut those: Vec<f64> = told.iter().map(|v| v * sign).filter(|v| *v > least).collect();
        let many = those.len();
        (many >= 2 && many as f64 > MOST_SHARE * told.len() as f64).then(|| Group {
            up: sign > 0.0,
            many,
            of: told.len(),
            median: median(&mut those),
        })
    })
}

/// What goes wrong most over the pictures of an assignment, the commonest first.
pub fn trends(all: &[Distance]) -> Vec<Trend> {
    use crate::distance::PartKind::{Contrast, Exposure, Size};
    let part = |k| move |d: &Distance| d.part(k).map(|p| p.value);
    let key = |i: usize| move |d: &Distance| d.key_off_deg.map(|k| k[i]);
    type Of = Box<dyn Fn(&Distance) -> Option<f64>>;
    let rows: [(Of, f64, &str, &str, &str, &str, &str); 5] = [
        (
            Box::new(key(0)),
            LEAST_DEG,
            "degrees",
            "keys",
            "higher than the reference",
            "lower than the reference",
            practised(PartKind::Direction),
        ),
        (
            Box::new(key(1)),
            LEAST_DEG,
            "degrees",
            "keys",
            "farther to camera right",
            "farther to camera left",
            practised(PartKind::Direction),
        ),
        (
            Box::new(part(Size)),
            LEAST_DOUBLINGS,
            "doublings",
            "keys",
            "larger than the reference",
            "smaller than the reference",
            practised(Size),
        ),
        (
            Box::new(part(Contrast)),
            LEAST_STOPS,
            "stops",
            "pictures",
            "of more contrast",
            "of less contrast",
            practised(Contrast),
        ),
        (Box::new(part(Exposure)), LEAST_STOPS, "stops", "pictures", "brighter", "darker", practised(Exposure)),
    ];
    let mut out = Vec::new();
    for (of, least, unit, what, more, less, practise) in rows {
        let told: Vec<f64> = all.iter().filter_map(&of).collect();
        if let Some(g) = grouped(&told, least) {
            let word = if g.up { more } else { less };
            let figure = if g.median >= 9.95 { format!("{:.0}", g.median) } else { format!("{:.1}", g.median) };
            out.push(Trend {
                says: format!("{} of {} {what} are {word}; in the median by {figure} {unit}.", g.many, g.of),
                many: g.many,
                of: g.of,
                median: g.median,
                unit: unit.into(),
                practise: practise.into(),
            });
        }
    }
    out.sort_by(|a, b| (b.many * a.of).cmp(&(a.many * b.of)));
    out
}

/// What a spreadsheet would take for a formula is told to be text.
fn plain(t: &str) -> String {
    if t.starts_with(['=', '+', '-', '@', '\t', '\r']) { format!("'{t}") } else { t.to_owned() }
}

/// Any table of texts (CSV, RFC 4180) in which nothing is a formula.
///
/// # Errors
/// If it cannot be written.
pub fn plain_table<const N: usize>(head: [&str; N], rows: &[[String; N]]) -> Result<Vec<u8>, String> {
    let mut out = csv::Writer::from_writer(Vec::new());
    out.write_record(head).map_err(|e| e.to_string())?;
    for r in rows {
        out.write_record(r.iter().map(|t| plain(t))).map_err(|e| e.to_string())?;
    }
    out.into_inner().map_err(|e| e.to_string())
}

/// The book as a table (CSV, RFC 4180): a row for each student, shares in per cent.
///
/// # Errors
/// If it cannot be written.
pub fn as_table(assignments: &[String], rows: &[BookRow]) -> Result<Vec<u8>, String> {
    let mut out = csv::Writer::from_writer(Vec::new());
    let head = ["Student".to_owned()]
        .into_iter()
        .chain(assignments.iter().map(|a| format!("{} [%]", plain(a))))
        .chain(["Total [%]".to_owned(), "Id".to_owned()]);
    out.write_record(head).map_err(|e| e.to_string())?;
    let percent = |s: Option<f64>| s.map_or(String::new(), |v| format!("{:.1}", 100.0 * v));
    for r in rows {
        let cells = r.cells.iter().map(|c| percent(c.share));
        out.write_record([plain(&r.name)].into_iter().chain(cells).chain([percent(r.total), r.student.clone()]))
            .map_err(|e| e.to_string())?;
    }
    out.into_inner().map_err(|e| e.to_string())
}
