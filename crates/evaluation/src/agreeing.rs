//! `evaluation series`: series of pictures with planted faults, and how many of them are named.

use crate::Failure;
use crate::files::{files_in, load_picture};
use clap::Args;
use evidence::marks::Marks;
use serde::Deserialize;
use series::{Member, report, shot_list, shown};
use std::collections::BTreeMap;
use std::path::PathBuf;

/// What to compare.
#[derive(Debug, Args)]
pub(crate) struct Options {
    /// Folder of series (tests/fixtures/make_series.py).
    #[arg(default_value = "tests/fixtures/series")]
    folder: PathBuf,
    /// Print every finding, not only the table.
    #[arg(long)]
    verbose: bool,
}

#[derive(Deserialize)]
struct Truth {
    list: String,
    says_exposure: bool,
    frames: Vec<TrueFrame>,
}

#[derive(Deserialize)]
struct TrueFrame {
    file: String,
    view: String,
    planted: BTreeMap<String, f64>,
}

/// What a planted fault may be called: exposure that is not written shows as level of background and subject.
fn names(fault: &str, says: bool) -> &'static [&'static str] {
    match fault {
        "scale" => &["scale"],
        "base" => &["base"],
        "upright" => &["upright"],
        "exposure" if says => &["exposure"],
        "exposure" => &["exposure", "background", "subject"],
        "balance" => &["balance"],
        "background" => &["background"],
        _ => &["light", "evenness"],
    }
}

pub(crate) fn run(options: &Options) -> Result<(), Failure> {
    let mut planted: BTreeMap<String, [usize; 2]> = BTreeMap::new();
    let (mut pictures, mut invented, mut all) = (0, 0, 0);
    let mut off: BTreeMap<String, Vec<f64>> = BTreeMap::new();
    for file in files_in(&options.folder, "json")? {
        let text = std::fs::read_to_string(&file).map_err(|e| Failure::Input(e.to_string()))?;
        let truth: Truth =
            serde_json::from_str(&text).map_err(|e| Failure::Input(format!("{}: {e}", file.display())))?;
        let list = shot_list(&truth.list).ok_or_else(|| Failure::Input(format!("no list {}", truth.list)))?;
        let mut members = Vec::new();
        for f in &truth.frames {
            let opened = load_picture(&options.folder.join(&f.file))?;
            let mut marks = Marks::default();
            opened.fill_in(&mut marks);
            let told = shown(&opened.photo, &marks, &[]);
            members.push(Member { frame: f.file.clone(), name: f.file.clone(), view: f.view.clone(), shown: told });
        }
        let r = report(list, &members, &[]);
        pictures += members.len();
        all += 1;
        // of two that differ either may be the one at fault
        let key = |a: &series::Apart| (a.frame.clone(), a.quantity.clone());
        let mut told: Vec<(String, String)> = Vec::new();
        for f in &truth.frames {
            for fault in f.planted.keys() {
                let wanted = names(fault, truth.says_exposure);
                let other =
                    |a: &&series::Apart| a.pair.as_ref() == Some(&f.file) && wanted.contains(&a.quantity.as_str());
                told.extend(r.apart.iter().filter(other).map(key));
            }
        }
        for f in &truth.frames {
            let mut named: Vec<&series::Apart> =
                r.apart.iter().filter(|a| a.frame == f.file && !told.contains(&key(a))).collect();
            for (fault, by) in &f.planted {
                let row = planted.entry(fault.clone()).or_default();
                row[1] += 1;
                let wanted = names(fault, truth.says_exposure);
                let hit = named.iter().position(|a| wanted.contains(&a.quantity.as_str()));
                let pair =
                    |a: &series::Apart| a.pair.as_ref() == Some(&f.file) && wanted.contains(&a.quantity.as_str());
                let by_other = hit.is_none() && r.apart.iter().any(pair);
                row[0] += usize::from(hit.is_some() || by_other);
                if let Some(k) = hit.filter(|_| fault != "light") {
                    off.entry(fault.clone()).or_default().push((named[k].by - by).abs());
                }
                named.retain(|a| !wanted.contains(&a.quantity.as_str()));
                if options.verbose && hit.is_none() && !by_other {
                    println!("{}: {fault} {by:.1} not named", f.file);
                }
            }
            // the key on the other side changes levels as well
            if f.planted.contains_key("light") {
                named.retain(|a| !matches!(a.quantity.as_str(), "background" | "exposure" | "subject"));
            }
            // nearer or further moves the base line as well
            if f.planted.contains_key("scale") {
                named.retain(|a| a.quantity != "base");
            }
            invented += named.len();
            if options.verbose {
                named.iter().for_each(|a| println!("{}: invented {} {:+.2}", f.file, a.quantity, a.by));
            }
        }
        if options.verbose {
            for c in &r.compared {
                let all: Vec<String> = c.values.iter().map(|v| format!("{:+.2}±{:.2}", v.value, v.sd)).collect();
                println!("   {:10} {}", c.id, all.join("  "));
            }
            r.untold.iter().for_each(|u| println!("   {u}"));
        }
    }
    println!("{all} series, {pictures} pictures");
    println!("{:12} {:>10} {:>14}", "planted", "named", "median error");
    let mut sum = [0, 0];
    for (fault, [hit, n]) in &planted {
        sum = [sum[0] + hit, sum[1] + n];
        let median = off.get_mut(fault).map(|v| optics::solve::median(v));
        println!("{fault:12} {:>10} {:>14}", format!("{hit} of {n}"), median.map_or("-".into(), |m| format!("{m:.2}")));
    }
    println!("{:12} {:>10}", "all", format!("{} of {}", sum[0], sum[1]));
    println!("named where nothing was planted: {invented} in {pictures} pictures");
    Ok(())
}
