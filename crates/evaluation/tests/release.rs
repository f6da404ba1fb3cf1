//! Bounds on every table that `evaluation` prints, for a release: `./check --release`. They take ten minutes together and
//! are not part of every check. The bounds are rows of `data/bounds.toml`.

use serde::Deserialize;
use std::collections::BTreeMap;
use std::path::Path;
use std::process::Command;

#[derive(Deserialize)]
struct Bounds {
    bound: Vec<Bound>,
}

/// A cell of a table and what it may be.
#[derive(Deserialize)]
struct Bound {
    /// What `evaluation` is asked for.
    of: Vec<String>,
    /// First cell of the row, or words of a line outside any table.
    row: String,
    /// Head of the column; of a line outside any table, the place of the number in it, from 0.
    column: toml::Value,
    /// Largest value.
    most: Option<f64>,
    /// Smallest value.
    least: Option<f64>,
}

/// The first number of a cell: `0.31`, `92 %`, `11 of 14`.
fn number(cell: &str) -> Option<f64> {
    let start = cell.find(|c: char| c.is_ascii_digit() || c == '-')?;
    let rest = &cell[start..];
    let end = rest.find(|c: char| !(c.is_ascii_digit() || c == '.' || c == '-')).unwrap_or(rest.len());
    rest[..end].parse().ok()
}

fn cells(line: &str) -> Vec<&str> {
    line.trim().trim_matches('|').split('|').map(str::trim).collect()
}

/// The number that a bound is about, in what was printed.
fn found(text: &str, b: &Bound) -> Option<f64> {
    let mut head: Vec<&str> = Vec::new();
    for line in text.lines() {
        if let Some(place) = b.column.as_integer() {
            if !line.starts_with('|') && line.contains(&b.row) {
                let numbers: Vec<f64> = line.split_whitespace().filter_map(number).collect();
                return numbers.get(usize::try_from(place).ok()?).copied();
            }
            continue;
        }
        if !line.starts_with('|') {
            head.clear();
            continue;
        }
        let row = cells(line);
        if head.is_empty() {
            head = row;
        } else if row.first() == Some(&b.row.as_str()) {
            let i = head.iter().position(|h| Some(*h) == b.column.as_str())?;
            return number(row.get(i)?);
        }
    }
    None
}

fn bounds() -> Vec<Bound> {
    toml::from_str::<Bounds>(include_str!("../data/bounds.toml")).expect("bounds.toml").bound
}

#[test]
fn numbers_are_found_in_tables_and_lines() {
    let text = "| what | n | median |\n|---|---|---|\n| key | 3 | 1.5 deg |\n\n17 of 20 are first, 2 lost\n";
    let of =
        |row: &str, column: toml::Value| Bound { of: Vec::new(), row: row.into(), column, most: None, least: None };
    assert_eq!(found(text, &of("key", "median".into())), Some(1.5));
    assert_eq!(found(text, &of("are first", 0.into())), Some(17.0));
    assert_eq!(found(text, &of("are first", 2.into())), Some(2.0));
    assert_eq!(found(text, &of("rim", "median".into())), None);
    assert_eq!(found(text, &of("key", "worst".into())), None);
}

#[test]
#[ignore = "ten minutes: ./check --release"]
fn every_table_keeps_its_bounds() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let mut printed: BTreeMap<Vec<String>, String> = BTreeMap::new();
    let mut wrong = Vec::new();
    for b in bounds() {
        let text = printed.entry(b.of.clone()).or_insert_with(|| {
            let out = Command::new(env!("CARGO_BIN_EXE_evaluation")).args(&b.of).current_dir(&root).output().unwrap();
            let text = String::from_utf8_lossy(&out.stdout).into_owned();
            println!("== evaluation {}\n{text}", b.of.join(" "));
            text
        });
        let name = format!("{}: {}, {}", b.of.join(" "), b.row, b.column);
        match found(text, &b) {
            None => wrong.push(format!("{name}: not printed")),
            Some(v) if b.most.is_some_and(|m| v > m) => wrong.push(format!("{name}: {v}, at most {:?}", b.most)),
            Some(v) if b.least.is_some_and(|l| v < l) => wrong.push(format!("{name}: {v}, at least {:?}", b.least)),
            Some(_) => {}
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}
