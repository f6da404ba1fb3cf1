//! The plan of the house: crates are floors, nothing imports upwards, no room is most of the house, and the modules of a
//! crate do not import one another in a circle.

use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

/// Floors from the ground up; nothing imports what stands beside it.
const FLOORS: [&[&str]; 10] = [
    &["optics", "correlation"],
    &["lightset", "pictures", "heads"],
    &["direction"],
    &["evidence"],
    &["finding", "planning", "judging", "studio", "plates", "series"],
    &["adviser", "report", "classroom"],
    &["session"],
    &["server"],
    &["slantcast", "evaluation"],
    &["interface-tests"],
];

fn crates() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("..")
}

fn floor_of(name: &str) -> Option<usize> {
    FLOORS.iter().position(|f| f.contains(&name))
}

/// Names under `[dependencies]` of a crate that are crates of ours.
fn imports(name: &str) -> Vec<String> {
    let text = std::fs::read_to_string(crates().join(name).join("Cargo.toml")).unwrap();
    let own = text.split("[dependencies]").nth(1).unwrap_or_default();
    let own = own.split("\n[").next().unwrap_or_default();
    let names = own.lines().filter_map(|l| l.split(['.', ' ', '=']).next()).map(str::to_owned);
    names.filter(|n| crates().join(n).join("Cargo.toml").exists()).collect()
}

fn sources(folder: &Path) -> Vec<PathBuf> {
    let mut out = Vec::new();
    for entry in std::fs::read_dir(folder).into_iter().flatten().flatten() {
        let path = entry.path();
        if path.is_dir() {
            out.extend(sources(&path));
        } else if path.extension().is_some_and(|e| e == "rs") {
            out.push(path);
        }
    }
    out
}

#[test]
fn no_crate_imports_one_above_or_beside_it() {
    for entry in std::fs::read_dir(crates()).unwrap().flatten() {
        let name = entry.file_name().to_string_lossy().into_owned();
        if name == "trial" || !entry.path().join("Cargo.toml").exists() {
            continue;
        }
        let floor = floor_of(&name).unwrap_or_else(|| panic!("{name} stands on no floor: name it in FLOORS"));
        for import in imports(&name) {
            let below =
                floor_of(&import).unwrap_or_else(|| panic!("{name} imports {import}, which stands on no floor"));
            assert!(below < floor, "{name} (floor {floor}) imports {import} (floor {below})");
        }
    }
}

/// Modules of one crate: a folder or a file directly under `src`, and what each imports by `crate::`.
fn modules(name: &str) -> BTreeMap<String, BTreeSet<String>> {
    let src = crates().join(name).join("src");
    let mut all: BTreeMap<String, BTreeSet<String>> = BTreeMap::new();
    for file in sources(&src) {
        let inside = file.strip_prefix(&src).unwrap();
        let first = inside.components().next().unwrap().as_os_str().to_string_lossy();
        let module = first.trim_end_matches(".rs").to_owned();
        let text = std::fs::read_to_string(&file).unwrap();
        // comments may name what code must not import
        let code = text.lines().filter(|l| !l.trim_start().starts_with("//"));
        let found = code.flat_map(|l| l.split("crate::").skip(1).map(str::to_owned).collect::<Vec<_>>());
        let names = found.map(|rest| rest.chars().take_while(|c| c.is_alphanumeric() || *c == '_').collect::<String>());
        all.entry(module).or_default().extend(names);
    }
    let known: BTreeSet<String> = all.keys().cloned().collect();
    for (module, imports) in &mut all {
        imports.retain(|i| known.contains(i) && i != module && i != "lib");
    }
    all
}

/// A circle of imports, if there is one.
fn circle(all: &BTreeMap<String, BTreeSet<String>>) -> Option<Vec<String>> {
    fn visit(
        at: &str,
        all: &BTreeMap<String, BTreeSet<String>>,
        path: &mut Vec<String>,
        done: &mut BTreeSet<String>,
    ) -> Option<Vec<String>> {
        if let Some(i) = path.iter().position(|p| p == at) {
            return Some(path[i..].to_vec());
        }
        if done.contains(at) {
            return None;
        }
        path.push(at.to_owned());
        for next in &all[at] {
            if let Some(found) = visit(next, all, path, done) {
                return Some(found);
            }
        }
        path.pop();
        done.insert(at.to_owned());
        None
    }
    let mut done = BTreeSet::new();
    all.keys().find_map(|k| visit(k, all, &mut Vec::new(), &mut done))
}

#[test]
fn modules_of_a_crate_do_not_import_one_another_in_a_circle() {
    for name in FLOORS.iter().flat_map(|f| f.iter()).filter(|n| !["slantcast", "evaluation"].contains(*n)) {
        let found = circle(&modules(name));
        assert!(found.is_none(), "{name}: {}", found.unwrap_or_default().join(" > "));
    }
}

#[test]
fn the_largest_room_is_under_three_tenths_of_the_house() {
    let lines = |name: &str| -> usize {
        sources(&crates().join(name).join("src"))
            .iter()
            .map(|f| std::fs::read_to_string(f).unwrap().lines().count())
            .sum()
    };
    let all: Vec<(&str, usize)> =
        FLOORS.iter().flat_map(|f| f.iter()).filter(|n| **n != "interface-tests").map(|n| (*n, lines(n))).collect();
    let total: usize = all.iter().map(|r| r.1).sum();
    for (name, n) in &all {
        println!("{name:12} {n:6} lines {:5.1} %", 100.0 * *n as f64 / total as f64);
        assert!(10 * n < 3 * total, "{name} holds {n} of {total} lines");
    }
}

/// Types that answers are made of are known to those who read the API by their names alone: no two share one.
#[test]
fn no_two_types_of_an_answer_share_a_name() {
    let mut seen: BTreeMap<String, String> = BTreeMap::new();
    for file in FLOORS.iter().flat_map(|f| f.iter()).flat_map(|n| sources(&crates().join(n).join("src"))) {
        let text = std::fs::read_to_string(&file).unwrap();
        let mut described = false;
        let mut named: Option<String> = None;
        for line in text.lines().map(str::trim_start) {
            if line.starts_with("#[derive(") {
                described = line.contains("ToSchema");
            } else if let Some(rest) = line.strip_prefix("#[schema(as = ") {
                named = rest.split(')').next().map(str::to_owned);
            } else if let Some(rest) =
                ["pub struct ", "pub enum ", "struct ", "enum "].iter().find_map(|p| line.strip_prefix(p))
            {
                let own = rest.split(|c: char| !c.is_alphanumeric()).next().unwrap_or_default().to_owned();
                let name = named.take().unwrap_or(own);
                if std::mem::take(&mut described)
                    && let Some(other) = seen.insert(name.clone(), file.display().to_string())
                {
                    panic!("{name} is a type of an answer in {other} and in {}", file.display());
                }
            }
        }
    }
    assert!(seen.len() > 100, "{} types", seen.len());
}

#[test]
fn a_circle_is_seen() {
    let of = |list: &[(&str, &[&str])]| -> BTreeMap<String, BTreeSet<String>> {
        list.iter().map(|(k, v)| ((*k).to_owned(), v.iter().map(|s| (*s).to_owned()).collect())).collect()
    };
    assert_eq!(circle(&of(&[("a", &["b"]), ("b", &["c"]), ("c", &[])])), None);
    assert!(circle(&of(&[("a", &["b"]), ("b", &["c"]), ("c", &["a"])])).is_some_and(|c| c.len() == 3));
}

/// Files of the program (neither tests nor what is generated) that hold one of some words.
fn files_with(words: &[&str]) -> Vec<String> {
    fn walk(folder: &Path, out: &mut Vec<PathBuf>) {
        for entry in std::fs::read_dir(folder).into_iter().flatten().flatten() {
            let path = entry.path();
            let name = entry.file_name().to_string_lossy().into_owned();
            if path.is_dir() {
                if !["tests", "node_modules", "dist", "api", "evaluation", "interface-tests", "demo"]
                    .contains(&name.as_str())
                {
                    walk(&path, out);
                }
            } else if ["rs", "ts", "vue", "toml"].iter().any(|e| path.extension().is_some_and(|x| x == *e)) {
                out.push(path);
            }
        }
    }
    let mut all = Vec::new();
    walk(&crates(), &mut all);
    walk(&crates().join("../web/src"), &mut all);
    let whole = |text: &str, word: &str| {
        text.match_indices(word).any(|(i, w)| {
            let apart = |c: Option<char>| c.is_none_or(|c| !c.is_alphanumeric() && c != '_');
            apart(text[..i].chars().next_back()) && apart(text[i + w.len()..].chars().next())
        })
    };
    let mut found: Vec<String> = all
        .into_iter()
        .filter(|p| {
            let text = std::fs::read_to_string(p).unwrap_or_default();
            // what is said of it in comments is no matter
            let code: String =
                text.lines().filter(|l| !l.trim_start().starts_with("//")).collect::<Vec<_>>().join("\n");
            let code = code.split("#[cfg(test)]").next().unwrap_or_default().to_owned();
            words.iter().any(|w| whole(&code, w))
        })
        .map(|p| p.to_string_lossy().rsplit("../").next().unwrap_or_default().to_owned())
        .collect();
    found.sort();
    found
}

/// What one must touch to add a kind of mark, a kind of source, a modifier, a sum: the files that name one that nothing
/// else needs to know of. Each is at most three: its own, the list it stands in, its row.
#[test]
fn an_addition_touches_three_files_at_most() {
    for (what, words) in [
        ("a kind of mark", &["Pattern", "'pattern'"][..]),
        ("another kind of mark", &["Gradient", "'gradient'"]),
        ("a kind of source", &["UmbrellaBounce"]),
        ("a modifier", &["\"octagon-100\""]),
        ("a kind of board", &["\"silver\"", "Silver"]),
    ] {
        let files = files_with(words);
        println!("{what}: {}", files.join(", "));
        assert!(!files.is_empty() && (what == "a kind of board" || files.len() <= 3), "{what}: {files:?}");
    }
    // a sum is called by a common word: its file, its name in the list, its row, and the front end does not know of it
    let bench = crates().join("planning");
    let read = |p: &str| std::fs::read_to_string(bench.join(p)).unwrap();
    assert!(
        read("src/bench/mod.rs").contains(" mirrored, mixed, motion,")
            && read("data/bench.toml").contains("id = \"mixed\"")
    );
    assert!(bench.join("src/bench/mixed.rs").exists());
    assert!(!files_with(&["'mixed'"]).iter().any(|f| f.starts_with("web")));
    println!("a sum of the bench: planning/src/bench/mixed.rs, planning/src/bench/mod.rs, planning/data/bench.toml");
}
