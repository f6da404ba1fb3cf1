//! `evaluation rebuild`: sets whose construction is known are taken by the studio, read, and rebuilt.
//!
//! Prints where the true construction stands among the candidates, whether the separating test finds it,
//! and how long candidates take.

use crate::Failure;
use evidence::marks::Marks;
use lightset::kit::catalogue;
use lightset::notation::{SlantLight, SlantLine};
use lightset::set::LightSet;
use optics::geometry::angle_between;
use optics::photo::Photo;
use planning::rebuild::{Candidates, Choices, Construction, plan, test_readings};
use planning::stage::stage;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::time::Instant;

#[derive(clap::Args)]
pub(crate) struct Options {
    /// Folder of sets (slant-set/1), each with `truth`: the key's construction.
    #[arg(default_value = "tests/fixtures/rebuild")]
    folder: PathBuf,
    /// A face seen close in place of the ball probes.
    #[arg(long)]
    face: bool,
    /// Print the candidates of each set.
    #[arg(long)]
    verbose: bool,
    /// Write the best candidate's set of each here, for another renderer.
    #[arg(long)]
    write: Option<PathBuf>,
    /// Read another renderer's pictures of the sets in this folder, and compare with what they were made after.
    #[arg(long)]
    read_back: Option<PathBuf>,
}

fn constructions(c: &Candidates) -> Vec<Construction> {
    let mut out: Vec<Construction> = Vec::new();
    for x in &c.list {
        if !out.contains(&x.constructions[0]) {
            out.push(x.constructions[0]);
        }
    }
    out
}

/// Readings a person takes.
const ASKED: usize = 3;

/// Noise of a hand-held reading, the same in every run: a share of a standard deviation.
fn noise(name: &str, test: &str) -> f64 {
    let h = name.bytes().chain(test.bytes()).fold(2166136261u32, |h, b| (h ^ u32::from(b)).wrapping_mul(16777619));
    (f64::from(h % 2001) / 1000.0 - 1.0) * 1.2
}

pub(crate) fn run(o: &Options) -> Result<(), Failure> {
    if let Some(folder) = &o.read_back {
        return read_back(folder);
    }
    let mut files: Vec<_> = std::fs::read_dir(&o.folder)
        .map_err(|e| Failure::Input(format!("{}: {e}", o.folder.display())))?
        .filter_map(|f| f.ok().map(|f| f.path()))
        .filter(|p| p.extension().is_some_and(|e| e == "json"))
        .collect();
    files.sort();
    let (mut first, mut two, mut test_right, mut with_test, mut asked_right, mut n) = (0, 0, 0, 0, 0, 0);
    let mut times = Vec::new();
    println!(
        "| set | built as | candidates for the key, best first | separating test | finds it | first after {ASKED} readings |"
    );
    println!("|---|---|---|---|---|---|");
    for file in files {
        let (truth, mut set) = load(&file)?;
        if o.face {
            let head = serde_json::json!([{ "kind": "head_long" }]);
            set.subjects = serde_json::from_value(head).map_err(anyhow::Error::from)?;
            (set.picture.width, set.picture.height) = (1000, 1200);
            (set.camera.vfov_deg, set.camera.aim_m) = (Some(8.5), [0.0, -0.04, 0.0]);
        }
        let name = file.file_stem().unwrap_or_default().to_string_lossy().into_owned();
        let (marks, photo) = taken(&set)?;
        let now = evidence::read::read(&photo, &marks, None, &studio::stand_ins);
        let size = (set.picture.width, set.picture.height);
        let base = stage(&plan(&now, &marks, size.0, size.1, &Choices::default()), &marks, &now, size.0, size.1);
        let start = Instant::now();
        let found = adviser::candidates(&now, &base, catalogue(), &BTreeMap::new());
        times.push(start.elapsed().as_secs_f64());
        let order = constructions(&found);
        let place = order.iter().position(|c| *c == truth);
        n += 1;
        first += usize::from(place == Some(0));
        two += usize::from(place.is_some_and(|p| p < 2));
        // a person who takes the readings that are asked for, one after another
        let mut outcomes = BTreeMap::new();
        let mut asked = found.clone();
        let mut readings = 0;
        let real = adviser::foretell(&set);
        let reading = |t: &planning::rebuild::SeparatingTest| {
            let role = t.id.split(':').next().unwrap_or("key");
            let i = set.lights.iter().position(|l| l.name.starts_with(role)).unwrap_or(0);
            test_readings(&real.lights[i], role)[&t.id] + noise(&name, &t.id) * t.sd[0].min(0.5)
        };
        while readings < ASKED {
            let Some(t) = asked.tests.iter().filter(|t| t.between[0] == 0).min_by_key(|t| t.between[1]).cloned() else {
                break;
            };
            outcomes.insert(t.id.clone(), reading(&t));
            asked = adviser::candidates(&now, &base, catalogue(), &outcomes);
            readings += 1;
        }
        let at_last = constructions(&asked).first() == Some(&truth);
        asked_right += usize::from(at_last);
        let mut test_text = "-".to_owned();
        let mut finds = "-".to_owned();
        // the test between the true construction's best candidate and the best of another
        let right = found.list.iter().position(|c| c.constructions[0] == truth);
        let wrong = found.list.iter().position(|c| c.constructions[0] != truth);
        if let (Some(a), Some(b)) = (right, wrong) {
            let pair = [a.min(b), a.max(b)];
            if let Some(t) = found.tests.iter().find(|t| t.between == pair) {
                with_test += 1;
                let v = reading(t);
                let outcome = BTreeMap::from([(t.id.clone(), v)]);
                let after = adviser::candidates(&now, &base, catalogue(), &outcome);
                let at = |c: Construction| constructions(&after).iter().position(|x| *x == c).unwrap_or(99);
                let ok = at(truth) < at(found.list[wrong.unwrap_or(0)].constructions[0]);
                test_right += usize::from(ok);
                test_text = format!("{}: {:.1} or {:.1}, read {v:.1} {}", t.id, t.foretold[0], t.foretold[1], t.unit);
                finds = if ok { "yes".into() } else { "no".into() };
            } else {
                test_text = "none tells them apart".into();
            }
        }
        let shown: Vec<String> = order.iter().map(|c| format!("{c:?}").to_lowercase()).collect();
        println!(
            "| {name} | {} | {} | {test_text} | {finds} | {} |",
            format!("{truth:?}").to_lowercase(),
            shown.join(", "),
            if at_last { "yes" } else { "no" }
        );
        if o.verbose {
            println!("  read: {}", now.slant);
            for c in &found.list {
                println!("  {:.2} {:.1} {} {:?}", c.probability, c.score, c.lights.join("; "), c.against);
                for f in &c.fits {
                    println!("      {} read {} gives {} {} ({} sd)", f.what, f.read, f.gives, f.unit, f.off_sd);
                }
            }
            for l in &found.losers {
                println!("  lost: {} - {}", l.title, l.why);
            }
        }
        if let (Some(folder), Some(best)) = (&o.write, found.list.first()) {
            write_suggestion(folder, &name, &set, &best.set, &now.slant)?;
        }
    }
    times.sort_by(f64::total_cmp);
    println!();
    println!(
        "{n} sets: the true construction is first in {first}, among the first two in {two}; the separating test finds it in {test_right} of {with_test}; after at most {ASKED} of the readings that are asked for it is first in {asked_right}."
    );
    if let (Some(mid), Some(last)) = (times.get(times.len() / 2), times.last()) {
        println!("Candidates take {mid:.2} s, at most {last:.2} s.");
    }
    Ok(())
}

fn load(file: &Path) -> Result<(Construction, LightSet), Failure> {
    let text = std::fs::read_to_string(file).map_err(|e| Failure::Input(format!("{}: {e}", file.display())))?;
    let v: serde_json::Value =
        serde_json::from_str(&text).map_err(|e| Failure::Input(format!("{}: {e}", file.display())))?;
    let truth = serde_json::from_value(v["truth"].clone())
        .map_err(|e| Failure::Input(format!("{}: truth: {e}", file.display())))?;
    let set = LightSet::from_value(v).map_err(|e| Failure::Input(format!("{}: {e}", file.display())))?.set;
    Ok((truth, set))
}

/// The studio's picture of a set as a camera delivers it, with the marks a careful person draws.
fn taken(set: &LightSet) -> Result<(Marks, Photo), Failure> {
    let linear = studio::picture(set).map_err(Failure::Input)?;
    let rgb = studio::encode(&linear, &set.picture);
    let png =
        pictures::encode_png(set.picture.width, set.picture.height, rgb).map_err(|e| Failure::Input(e.to_string()))?;
    let decoded = pictures::decode(&png, pictures::Limits::default()).map_err(|e| Failure::Input(e.to_string()))?;
    let marks = studio::marks(set);
    Ok((marks, decoded.photo))
}

/// Writes a suggested set before the probes of the reference, with the reading it was made after.
fn write_suggestion(folder: &Path, name: &str, set: &LightSet, best: &LightSet, slant: &str) -> Result<(), Failure> {
    let mut s = best.clone();
    s.subjects = set.subjects.clone();
    s.camera = set.camera.clone();
    (s.picture.width, s.picture.height) = (640, 480);
    let mut v = serde_json::to_value(&s).map_err(anyhow::Error::from)?;
    v["reference"] = slant.into();
    let text = serde_json::to_string_pretty(&v).map_err(anyhow::Error::from)?;
    std::fs::create_dir_all(folder).map_err(anyhow::Error::from)?;
    std::fs::write(folder.join(format!("{name}.json")), text).map_err(anyhow::Error::from)?;
    Ok(())
}

/// How far suggested sets, taken by another renderer, read from the reading they were made after.
fn read_back(folder: &Path) -> Result<(), Failure> {
    let mut files: Vec<_> = std::fs::read_dir(folder)
        .map_err(|e| Failure::Input(format!("{}: {e}", folder.display())))?
        .filter_map(|f| f.ok().map(|f| f.path()))
        .filter(|p| p.extension().is_some_and(|e| e == "json") && p.with_extension("png").exists())
        .collect();
    files.sort();
    println!("| set | light | direction off | size off | level off |");
    println!("|---|---|---|---|---|");
    let (mut all, mut within) = (0, 0);
    for file in files {
        let text = std::fs::read_to_string(&file).map_err(|e| Failure::Input(format!("{}: {e}", file.display())))?;
        let v: serde_json::Value =
            serde_json::from_str(&text).map_err(|e| Failure::Input(format!("{}: {e}", file.display())))?;
        let wanted: SlantLine = v["reference"].as_str().unwrap_or_default().parse().map_err(Failure::Input)?;
        let set = LightSet::from_value(v).map_err(|e| Failure::Input(format!("{}: {e}", file.display())))?.set;
        let photo = crate::files::load_picture(&file.with_extension("png"))?.photo;
        let now = evidence::read::read(&photo, &studio::marks(&set), None, &studio::stand_ins);
        let got: SlantLine = now.slant.parse().map_err(Failure::Input)?;
        let name = file.file_stem().unwrap_or_default().to_string_lossy().into_owned();
        let dir = |l: &SlantLight| l.at().vector();
        for w in &wanted.0 {
            let near =
                got.0.iter().min_by(|a, b| angle_between(&dir(a), &dir(w)).total_cmp(&angle_between(&dir(b), &dir(w))));
            let Some(g) = near else { continue };
            let off = angle_between(&dir(g), &dir(w)).to_degrees();
            let size = g.angular_size_deg.zip(w.angular_size_deg).map(|(g, w)| 100.0 * (g / w - 1.0));
            let level = g.level_stops.zip(w.level_stops).map(|(g, w)| g - w);
            let ok = off <= 8.0 && size.is_none_or(|s| s.abs() <= 30.0) && level.is_none_or(|l| l.abs() <= 0.4);
            all += 1;
            within += usize::from(ok);
            let show = |v: Option<f64>, unit: &str| v.map_or("-".into(), |v| format!("{v:+.1} {unit}"));
            println!(
                "| {name} | {} | {off:.1}° | {} | {} |{}",
                w.name,
                show(size, "%"),
                show(level, "stop"),
                if ok { "" } else { " outside" }
            );
        }
    }
    println!();
    println!("{within} of {all} lights read back within 8°, 30 % and 0.4 stop.");
    Ok(())
}
