//! The chain of takes as a table (RFC 4180).

use super::TakeLink;
use crate::compare::Comparison;
use optics::cell::cell;

/// A take's row.
pub struct Row<'a> {
    /// Number in the case, from 1.
    pub number: usize,
    /// Number of the take it follows.
    pub follows: Option<usize>,
    /// Name of the file.
    pub file: &'a str,
    /// Slant line of its reading.
    pub slant: &'a str,
    /// What was told of it.
    pub link: &'a TakeLink,
    /// Against the reference, once it is known.
    pub comparison: Option<&'a Comparison>,
}

/// The chain as CSV: one row per reading of each take, or one if nothing was compared.
///
/// # Errors
/// None in practice: the table is written to memory.
pub fn to_csv<'a>(rows: impl Iterator<Item = Row<'a>>) -> Result<String, csv::Error> {
    let mut out = csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(Vec::new());
    out.write_record([
        "take",
        "follows",
        "file",
        "kept",
        "changed",
        "f_number",
        "shutter_s",
        "iso",
        "tags",
        "note",
        "slant",
        "reading",
        "reference",
        "measured",
        "difference",
        "unit",
        "sd",
        "surely_different",
        "expected",
    ])?;
    for r in rows {
        let kept =
            serde_json::to_value(r.link.kept).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default();
        let s = r.link.settings;
        let head = [
            r.number.to_string(),
            r.follows.map_or(String::new(), |n| n.to_string()),
            cell(r.file),
            kept,
            cell(&r.link.changes.iter().map(|c| c.says(false)).collect::<Vec<_>>().join("; ")),
            s.map_or(String::new(), |s| s.f_number.to_string()),
            s.map_or(String::new(), |s| s.shutter_s.to_string()),
            s.map_or(String::new(), |s| s.iso.to_string()),
            cell(&r.link.tags.join("; ")),
            cell(&r.link.note),
            r.slant.to_owned(),
        ];
        let lines = r.comparison.map_or(&[][..], |c| &c.ledger);
        if lines.is_empty() {
            out.write_record(head.iter().map(String::as_str).chain([""; 8]))?;
        }
        for l in lines {
            let expected = r.link.expected.iter().find(|e| e.what == l.what);
            let tail = [
                l.what.to_string(),
                format!("{:.3}", l.reference),
                format!("{:.3}", l.take),
                format!("{:.3}", l.difference),
                l.unit.symbol().to_owned(),
                format!("{:.3}", l.sd),
                l.sure.to_string(),
                expected.map_or(String::new(), |e| format!("{:.3}", e.value)),
            ];
            out.write_record(head.iter().chain(&tail))?;
        }
    }
    let bytes = out.into_inner().map_err(|e| e.into_error())?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::compare::LedgerLine;
    use crate::takes::Expected;
    use crate::terms::{Aspect, Term, Unit};

    #[test]
    fn a_table_can_be_read_back_by_a_reader_of_csv() {
        let up = Term::of("key", Aspect::Up);
        let link = TakeLink {
            note: "a \"quoted\" note,\nin two lines".into(),
            expected: vec![Expected { what: up.clone(), value: -1.5, unit: Unit::Degrees }],
            ..TakeLink::default()
        };
        let line = LedgerLine::new(up, 30.0, 28.0, -2.0, Unit::Degrees, 0.7);
        let c = Comparison { ledger: vec![line], ..Comparison::default() };
        let row =
            Row { number: 2, follows: Some(1), file: "a.jpg", slant: "key R30/28", link: &link, comparison: Some(&c) };
        let bare = Row { number: 3, follows: None, file: "b.jpg", slant: "", link: &link, comparison: None };
        let text = to_csv([row, bare].into_iter()).expect("a table");
        let mut reader = csv::Reader::from_reader(text.as_bytes());
        let rows: Vec<csv::StringRecord> = reader.records().map(|r| r.expect("a row")).collect();
        assert_eq!(rows.len(), 2);
        assert_eq!(&rows[0][9], "a \"quoted\" note,\nin two lines");
        assert_eq!((&rows[0][14], &rows[0][18]), ("-2.000", "-1.500"));
        assert_eq!(&rows[1][11], "");
    }
}
