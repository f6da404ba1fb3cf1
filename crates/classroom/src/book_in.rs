//! A gradebook that comes back as a table: what it would change, row by row.

use crate::book::BookRow;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A share that a table gives.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct EnteredShare {
    /// Account.
    pub student: String,
    /// Name.
    pub name: String,
    /// Column, from 0.
    pub assignment: usize,
    /// Share that the book has now.
    pub was: Option<f64>,
    /// Share that the table gives, 0 to 1; absent to take an entered one back.
    pub share: Option<f64>,
}

/// What a table would change.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
pub struct TableIn {
    /// Shares that differ from the book's.
    pub changes: Vec<EnteredShare>,
    /// What cannot be taken, by row.
    pub problems: Vec<String>,
}

/// Rows and bytes of a table at most.
const MOST_ROWS: usize = 1000;
/// Bytes of a table at most.
pub const MOST_TABLE_BYTES: usize = 1_000_000;
/// Per cent within which a share is the same: the table has one digit.
const SAME_PERCENT: f64 = 0.051;

/// A table in the form of the book's own, against the book: students by their id or their name, assignments by their title with or
/// without `[%]`; columns that are not known are told. A cell that is empty changes nothing; `-` takes an entered share back.
/// Comma, semicolon and tab are told apart by the first line.
///
/// # Errors
/// One sentence, if it is no table or has no column of students.
pub fn table_in(text: &str, titles: &[String], rows: &[BookRow]) -> Result<TableIn, String> {
    let text = text.trim_start_matches('\u{feff}');
    if text.len() > MOST_TABLE_BYTES {
        return Err(format!("The table is too large: at most {MOST_TABLE_BYTES} bytes."));
    }
    let first = text.lines().next().unwrap_or_default();
    let mark = [b',', b';', b'\t'].into_iter().max_by_key(|m| first.bytes().filter(|b| b == m).count()).unwrap_or(b',');
    let mut table = csv::ReaderBuilder::new().delimiter(mark).flexible(true).from_reader(text.as_bytes());
    let head = table.headers().map_err(|e| format!("This is no table: {e}."))?.clone();
    let plain = |t: &str| t.trim().trim_start_matches('\'').trim_end_matches("[%]").trim().to_lowercase();
    let place = |word: &str| head.iter().position(|h| plain(h) == word);
    let (name_at, id_at) = (place("student"), place("id"));
    if name_at.is_none() && id_at.is_none() {
        return Err("The first line needs a column named Student or Id.".into());
    }
    let mut out = TableIn::default();
    let mut columns = Vec::new();
    for (at, h) in head.iter().enumerate() {
        if Some(at) == name_at || Some(at) == id_at || plain(h) == "total" || plain(h).is_empty() {
            continue;
        }
        let those: Vec<usize> = titles.iter().enumerate().filter(|(_, t)| plain(t) == plain(h)).map(|t| t.0).collect();
        match those[..] {
            [one] => columns.push((at, one)),
            [] => out.problems.push(format!("Column \"{}\": no assignment has this title.", h.trim())),
            _ => out.problems.push(format!("Column \"{}\": more than one assignment has this title.", h.trim())),
        }
    }
    for (i, record) in table.records().enumerate() {
        let line = i + 2;
        if i >= MOST_ROWS {
            out.problems.push(format!("Line {line}: the rest was not read, {MOST_ROWS} rows is the most."));
            break;
        }
        let record = match record {
            Ok(r) => r,
            Err(e) => {
                out.problems.push(format!("Line {line}: {e}."));
                continue;
            }
        };
        let cell = |at: Option<usize>| at.and_then(|a| record.get(a)).map(str::trim).filter(|t| !t.is_empty());
        let (id, name) = (cell(id_at), cell(name_at).map(&plain));
        if id.is_none() && name.is_none() {
            continue;
        }
        let those: Vec<&BookRow> = match id {
            Some(id) => rows.iter().filter(|r| r.student == id).collect(),
            None => rows.iter().filter(|r| Some(plain(&r.name)) == name).collect(),
        };
        let row = match those[..] {
            [one] => one,
            [] => {
                out.problems.push(format!("Line {line}: nobody of this class is called that."));
                continue;
            }
            _ => {
                out.problems.push(format!("Line {line}: two of this class are called that; give their Id."));
                continue;
            }
        };
        for (at, assignment) in &columns {
            let Some(given) = cell(Some(*at)) else { continue };
            let was = row.cells.get(*assignment).and_then(|c| c.share);
            let share = if given == "-" {
                None
            } else {
                match given.trim_end_matches('%').trim().replace(',', ".").parse::<f64>() {
                    Ok(p) if (0.0..=100.0).contains(&p) => Some(p / 100.0),
                    _ => {
                        out.problems.push(format!(
                            "Line {line}, {}: \"{given}\" is no share of 0 to 100 %.",
                            titles[*assignment]
                        ));
                        continue;
                    }
                }
            };
            let same = match (was, share) {
                (Some(a), Some(b)) => 100.0 * (a - b).abs() <= SAME_PERCENT,
                (None, None) => true,
                _ => false,
            };
            if !same {
                let (student, name) = (row.student.clone(), row.name.clone());
                out.changes.push(EnteredShare { student, name, assignment: *assignment, was, share });
            }
        }
    }
    Ok(out)
}
