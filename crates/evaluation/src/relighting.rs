//! `evaluation relit`: shows people of a picture under other lights, and prints how far that is from another renderer's picture of
//! the same people under those lights.

use crate::Failure;
use crate::files::load_picture;
use crate::marks::{TrueLight, pictures_in};
use clap::Args;
use evidence::marks::Marks;
use lightset::set::{Level, LightSet};
use nalgebra::{Rotation3, Unit};
use optics::geometry::{AzEl, Vec3, angle_between};
use optics::photo::luminance;
use planning::rebuild::{Choices, plan};
use planning::stage::stage;
use serde::Deserialize;
use session::{PictureRead, Relightable};
use std::path::{Path, PathBuf};
use std::sync::atomic::AtomicBool;
use studio::{PlateCache, trace};

/// What to relight.
#[derive(Debug, Args)]
pub(crate) struct Options {
    /// Folder of people with found marks.
    #[arg(default_value = "tests/fixtures/people")]
    folder: PathBuf,
    /// Folder of the same people with the key elsewhere (make_people.py --moved).
    #[arg(long, default_value = "tests/fixtures/people-moved")]
    moved: PathBuf,
    /// Only people whose file name holds this.
    #[arg(long)]
    only: Option<String>,
    /// Print every picture.
    #[arg(long)]
    verbose: bool,
    /// Write each relit picture into this folder.
    #[arg(long)]
    out: Option<PathBuf>,
}

#[derive(Deserialize)]
struct Doc {
    truth: Truth,
}

#[derive(Deserialize)]
struct Truth {
    lights: Vec<TrueLight>,
    #[serde(default)]
    ambient_stops: Option<f64>,
}

#[derive(Deserialize)]
struct Moved {
    azimuth_deg: f64,
    elevation_deg: f64,
    moved_deg: f64,
}

/// Moves up to which the picture is wanted within 0.2 stop, and 0.35 beyond.
const NEAR_DEG: f64 = 45.0;
/// Linear values between which a pixel can be compared.
const SEEN: [f32; 2] = [0.01, 0.9];

/// Lights of the staged set as they are known.
fn known(staged: &LightSet, truth: &Truth) -> LightSet {
    let mut s = staged.clone();
    let Some(first) = s.lights.first().cloned() else { return s };
    let lights = truth.lights.iter().enumerate().map(|(i, t)| {
        let mut l = first.clone();
        l.name = if i == 0 { "key".into() } else { format!("other {i}") };
        (l.azimuth_deg, l.elevation_deg) = (Some(t.azimuth_deg), Some(t.elevation_deg));
        let d = 1.7;
        l.distance_m = Some(d);
        let diameter_m = 2.0 * d * (t.angular_size_deg / 2.0).to_radians().tan();
        l.source = lightset::set::Source::Disc { diameter_m };
        l.level = Level::Stops { stops: t.level_stops };
        l
    });
    s.lights = lights.collect();
    if let (Some(a), Some(level)) = (&mut s.ambient, truth.ambient_stops) {
        a.level = Level::Stops { stops: level };
    }
    s
}

/// The set with its key turned as the true key was.
fn turned(set: &LightSet, from: &Vec3, to: &Vec3) -> LightSet {
    let mut s = set.clone();
    let Some(key) = s.lights.iter_mut().find(|l| l.name.starts_with("key")) else { return s };
    let axis = from.cross(to);
    let turn = Unit::try_new(axis, 1e-9)
        .map_or_else(Rotation3::identity, |a| Rotation3::from_axis_angle(&a, angle_between(from, to)));
    let at = AzEl::of(&(turn * key.position()));
    let d = key.position().norm();
    key.position_m = None;
    (key.azimuth_deg, key.elevation_deg, key.distance_m) = (Some(at.azimuth_deg), Some(at.elevation_deg), Some(d));
    s
}

struct One {
    name: String,
    moved_deg: f64,
    /// median and 90 % of stops off over the face, lights as read and as known; and what leaving the picture as it is gives
    read: [f64; 2],
    known: [f64; 2],
    left: f64,
    hatched: f64,
    first_ms: f64,
}

fn quantile(v: &mut [f64], q: f64) -> f64 {
    v.sort_by(f64::total_cmp);
    v.get(((v.len() as f64 - 1.0) * q).round() as usize).copied().unwrap_or(f64::NAN)
}

fn one(png: &Path, o: &Options) -> Result<Option<One>, Failure> {
    let stem = png.file_stem().map(|s| s.to_string_lossy().into_owned()).unwrap_or_default();
    let input = |e: &dyn std::fmt::Display| Failure::Input(e.to_string());
    let text = |p: PathBuf| std::fs::read_to_string(p).ok();
    let Some(found) = text(png.with_extension("found.json")) else { return Ok(None) };
    let Some(moved) = text(o.moved.join(format!("{stem}.moved.json"))) else { return Ok(None) };
    let doc: Doc =
        serde_json::from_str(&text(png.with_extension("json")).unwrap_or_default()).map_err(|e| input(&e))?;
    let moved: Moved = serde_json::from_str(&moved).map_err(|e| input(&e))?;
    let marks: Marks = serde_json::from_str(&found).map_err(|e| input(&e))?;
    let opened = load_picture(png)?;
    let after = load_picture(&o.moved.join(format!("{stem}.moved.png")))?;
    let read = PictureRead::of(&opened.photo, Some(&opened.meter), marks);
    let (w, h) = (opened.facts.width, opened.facts.height);
    let plan = plan(&read.readings, &read.marks, w, h, &Choices::default());
    let staged = stage(&plan, &read.marks, &read.readings, w, h);
    if !session::can_relight(&staged) {
        return Ok(None);
    }
    let true_key =
        AzEl { azimuth_deg: doc.truth.lights[0].azimuth_deg, elevation_deg: doc.truth.lights[0].elevation_deg }
            .vector();
    let to = AzEl { azimuth_deg: moved.azimuth_deg, elevation_deg: moved.elevation_deg }.vector();
    // the moved picture at the size of the set's, by the same means
    let face = session::face_points(&read.marks);
    let going = AtomicBool::new(false);
    let goal = Relightable::of(&after.photo, &face, &staged, &going).map_err(Failure::Input)?;
    let width = staged.picture.width as usize;
    let mut out = One {
        name: stem.clone(),
        moved_deg: moved.moved_deg,
        read: [f64::NAN; 2],
        known: [f64::NAN; 2],
        left: f64::NAN,
        hatched: 0.0,
        first_ms: 0.0,
    };
    for as_known in [false, true] {
        let before = if as_known { known(&staged, &doc.truth) } else { staged.clone() };
        let ready = Relightable::of(&opened.photo, &face, &before, &going).map_err(Failure::Input)?;
        let set = turned(&before, &true_key, &to);
        // as while a lamp is dragged: the other lights' plates are there
        let mut cache = PlateCache::default();
        trace(&before, &mut cache, &going, |_| {});
        let start = std::time::Instant::now();
        let plates = trace(&set, &mut cache, &going, |p| {
            if p.samples == 0 {
                let _ = ready.under(&set, p.plates, true);
                out.first_ms = start.elapsed().as_secs_f64() * 1000.0;
            }
        });
        let Some(plates) = plates else { return Ok(None) };
        let (rgb, unknown) = ready.under(&set, &plates, false).map_err(Failure::Input)?;
        let lum = |p: &[f32], i: usize| luminance([p[3 * i], p[3 * i + 1], p[3 * i + 2]]) as f32;
        let shown: Vec<usize> = (0..unknown.len()).filter(|i| ready.face()[*i]).collect();
        let fair = |v: f32| (SEEN[0]..SEEN[1]).contains(&v);
        let both: Vec<usize> = shown
            .iter()
            .copied()
            .filter(|i| !unknown[*i] && fair(lum(goal.picture(), *i)) && fair(lum(ready.picture(), *i)))
            .collect();
        let off = |p: &[f32]| {
            both.iter()
                .map(|i| f64::from((lum(p, *i).max(1e-4) / lum(goal.picture(), *i)).log2().abs()))
                .collect::<Vec<f64>>()
        };
        let mut stops = off(&rgb);
        let pair = [quantile(&mut stops, 0.5), quantile(&mut stops, 0.9)];
        if as_known {
            out.known = pair
        } else {
            out.read = pair
        }
        out.left = quantile(&mut off(ready.picture()), 0.5);
        out.hatched = shown.iter().filter(|i| unknown[**i]).count() as f64 / shown.len().max(1) as f64;
        if let Some(folder) = &o.out {
            std::fs::create_dir_all(folder).map_err(|e| input(&e))?;
            let (shown, _) = ready.under(&set, &plates, true).map_err(Failure::Input)?;
            let mut wide = Vec::new();
            for row in 0..plates.height as usize {
                for p in [ready.picture(), &shown, goal.picture()] {
                    wide.extend_from_slice(&p[3 * row * width..3 * (row + 1) * width]);
                }
            }
            let coded = studio::encode(&wide, &lightset::set::PictureSpec::default());
            let jpeg = pictures::encode_jpeg(3 * plates.width, plates.height, &coded, 90).map_err(|e| input(&e))?;
            let kind = if as_known { "known" } else { "read" };
            std::fs::write(folder.join(format!("{stem}-{kind}.jpg")), jpeg).map_err(|e| input(&e))?;
        }
    }
    Ok(Some(out))
}

pub(crate) fn run(o: &Options) -> Result<(), Failure> {
    let all: Vec<PathBuf> = pictures_in(&o.folder)?.into_iter().collect();
    let named = |p: &&PathBuf| o.only.as_ref().is_none_or(|n| p.to_string_lossy().contains(n.as_str()));
    let all: Vec<PathBuf> = all.iter().filter(named).cloned().collect();
    // one after the other: the first look is timed, and takes all processors
    let found: Vec<One> = all.iter().map(|p| one(p, o)).collect::<Result<Vec<_>, _>>()?.into_iter().flatten().collect();
    if o.verbose {
        println!(
            "| person | key moved by | as read, median / 90 % | as known | left as it was | hatched | first look |"
        );
        println!("|---|---|---|---|---|---|---|");
        for p in &found {
            println!(
                "| {} | {:.0} ° | {:.2} / {:.2} | {:.2} / {:.2} | {:.2} | {:.0} % | {:.0} ms |",
                p.name,
                p.moved_deg,
                p.read[0],
                p.read[1],
                p.known[0],
                p.known[1],
                p.left,
                100.0 * p.hatched,
                p.first_ms
            );
        }
        println!();
    }
    println!(
        "| key moved by | pictures | median over the face, lights as read: median picture / worst | lights as known | the picture left as it was |"
    );
    println!("|---|---|---|---|---|");
    for (name, near) in [("up to 45 °", true), ("more", false)] {
        let mine: Vec<&One> = found.iter().filter(|p| (p.moved_deg <= NEAR_DEG) == near).collect();
        let row = |of: &dyn Fn(&One) -> f64| {
            let mut v: Vec<f64> = mine.iter().map(|p| of(p)).collect();
            (quantile(&mut v, 0.5), v.last().copied().unwrap_or(f64::NAN))
        };
        let (r, k, l) = (row(&|p| p.read[0]), row(&|p| p.known[0]), row(&|p| p.left));
        println!(
            "| {name} | {} | {:.2} / {:.2} stops | {:.2} / {:.2} | {:.2} / {:.2} |",
            mine.len(),
            r.0,
            r.1,
            k.0,
            k.1,
            l.0,
            l.1
        );
    }
    let mut first: Vec<f64> = found.iter().map(|p| p.first_ms).collect();
    println!(
        "\nWhile a lamp is dragged the first look is there in {:.0} ms (median), {:.0} ms at worst.",
        quantile(&mut first, 0.5),
        first.last().copied().unwrap_or(f64::NAN)
    );
    Ok(())
}
