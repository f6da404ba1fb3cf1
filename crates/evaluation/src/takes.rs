//! `evaluation align` and `evaluation sessions`: marks carried over by the picture, and sessions with the
//! simulated camera from a deliberately wrong set to the reference.

use crate::Failure;
use crate::files::load_picture;
use crate::pairs::{compared, loaded};
use adviser::{SimulatedCamera, changes, next_moves, suppose};
use evidence::marks::{Ball, Eye, Face, MarkKind, Marks};
use judging::compare::{Alignment, Comparison, align, difference};
use judging::takes::{Belief, ChangeKind, Expected, learned, seen_of};
use judging::terms::Unit;
use lightset::kit::catalogue;
use lightset::set::LightSet;
use optics::geometry::angle_between;
use optics::photo::{Photo, Samples};
use optics::tone::Encoding;
use session::PictureRead;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

/// Points of marks that both pictures have, by mark and order.
fn points(m: &Marks) -> Vec<(String, [f64; 2])> {
    let mut out = Vec::new();
    for mark in &m.marks {
        match &mark.kind {
            MarkKind::Face(Face { points, .. }) => {
                out.extend(points.iter().map(|(n, p)| (format!("{}:{n}", mark.id), *p)))
            }
            MarkKind::Ball(Ball { centre, .. }) => out.push((mark.id.clone(), *centre)),
            MarkKind::Eye(Eye { limbus, .. }) => out.push((mark.id.clone(), limbus.centre)),
            _ => {}
        }
    }
    out
}

fn read_json(path: &Path) -> Result<serde_json::Value, Failure> {
    let text = std::fs::read_to_string(path).map_err(|e| Failure::Input(format!("{}: {e}", path.display())))?;
    serde_json::from_str(&text).map_err(|e| Failure::Input(format!("{}: {e}", path.display())))
}

/// A picture seen through a homography (take pixel from reference pixel), exposed otherwise.
fn warped(p: &Photo, to: &nalgebra::Matrix3<f64>, stops: f64) -> Result<Photo, Failure> {
    let back = to.try_inverse().ok_or_else(|| Failure::Input("a warp without inverse".into()))?;
    let (w, h) = (p.width(), p.height());
    let mut out = Vec::with_capacity((3 * w * h) as usize);
    for y in 0..h {
        for x in 0..w {
            let q = back * nalgebra::Vector3::new(f64::from(x) + 0.5, f64::from(y) + 0.5, 1.0);
            let (u, v) = (q.x / q.z - 0.5, q.y / q.z - 0.5);
            for c in 0..3 {
                let at = |i: f64, j: f64| {
                    let inside = i >= 0.0 && j >= 0.0 && i < f64::from(w) && j < f64::from(h);
                    if inside { f64::from(p.rgb(i as u32, j as u32)[c]) } else { 0.05 }
                };
                let (i, j) = (u.floor(), v.floor());
                let (fx, fy) = (u - i, v - j);
                let linear = (at(i, j) * (1.0 - fx) + at(i + 1.0, j) * fx) * (1.0 - fy)
                    + (at(i, j + 1.0) * (1.0 - fx) + at(i + 1.0, j + 1.0) * fx) * fy;
                let l = (linear * f64::exp2(stops)).clamp(0.0, 1.0);
                let e = if l <= 0.003_130_8 { 12.92 * l } else { 1.055 * l.powf(1.0 / 2.4) - 0.055 };
                out.push((255.0 * e + 0.5) as u8);
            }
        }
    }
    Photo::new(w, h, Samples::U8(out), &Encoding::Srgb).map_err(Failure::Input)
}

/// Known warps: scale, turn in degrees, shift in shares of the width, tilt, stops.
const WARPS: [(f64, f64, f64, f64, f64, f64); 8] = [
    (1.0, 0.0, 0.04, -0.03, 0.0, 0.0),
    (1.25, 0.0, -0.12, -0.1, 0.0, -0.7),
    (0.78, 0.0, 0.1, 0.12, 0.0, 0.6),
    (1.0, 9.0, 0.05, -0.02, 0.0, 0.3),
    (1.4, -5.0, -0.2, -0.2, 0.0, -0.4),
    (0.9, 4.0, 0.03, 0.06, 0.06, 0.0),
    (1.1, -7.0, 0.0, 0.05, -0.08, 0.5),
    (1.6, 2.0, -0.3, -0.32, 0.0, 0.2),
];

pub(crate) fn run_align(folder: &Path, warps: bool) -> Result<(), Failure> {
    let mut files: Vec<PathBuf> = std::fs::read_dir(folder)
        .map_err(|e| Failure::Input(format!("{}: {e}", folder.display())))?
        .filter_map(|f| f.ok().map(|f| f.path()))
        .filter(|p| p.extension().is_some_and(|e| e == "json") && p.with_extension("png").exists())
        .collect();
    files.sort();
    println!("| picture | warp or take | agreement | off, px of 640 |");
    println!("|---|---|---|---|");
    let mut all: Vec<f64> = Vec::new();
    let mut lost = 0;
    if warps {
        for (n, file) in files.iter().enumerate() {
            let p = load_picture(&file.with_extension("png"))?.photo;
            let (w, h) = (f64::from(p.width()), f64::from(p.height()));
            let (k, turn, tx, ty, tilt, stops) = WARPS[n % WARPS.len()];
            let (s, c) = f64::to_radians(turn).sin_cos();
            let to = nalgebra::Matrix3::new(k * c, -k * s, tx * w, k * s, k * c, ty * h, tilt / w, 0.0, 1.0);
            let take = warped(&p, &to, stops)?;
            let name = file.file_stem().unwrap_or_default().to_string_lossy();
            match align(&p, &take) {
                Ok(a) => {
                    // over the middle of the picture, where things are
                    let mut worst = 0.0f64;
                    for i in 1..8 {
                        for j in 1..8 {
                            let q = [w * f64::from(i) / 8.0, h * f64::from(j) / 8.0];
                            let t = to * nalgebra::Vector3::new(q[0], q[1], 1.0);
                            let (x, y) = (t.x / t.z, t.y / t.z);
                            if x < 0.0 || y < 0.0 || x > w || y > h {
                                continue;
                            }
                            let g = a.point(q);
                            worst = worst.max((g[0] - x).hypot(g[1] - y));
                        }
                    }
                    let off = worst * 640.0 / w.max(h);
                    all.push(off);
                    println!("| {name} | scale {k} turn {turn} tilt {tilt} | {:.2} | {off:.2} |", a.agreement);
                }
                Err(e) => {
                    lost += 1;
                    println!("| {name} | scale {k} turn {turn} tilt {tilt} | {e} | - |");
                }
            }
        }
    } else {
        let pairs: Vec<(PathBuf, PathBuf)> = files
            .iter()
            .filter(|p| p.to_string_lossy().ends_with(".take.json"))
            .map(|t| (PathBuf::from(t.to_string_lossy().replace(".take.json", ".ref.json")), t.clone()))
            .collect();
        let loaded = |p: &Path| -> Result<(Photo, Marks), Failure> {
            let marks = Marks::from_value(read_json(p)?["marks"].clone()).map_err(Failure::Input)?;
            Ok((load_picture(&p.with_extension("png"))?.photo, marks))
        };
        for (r, t) in &pairs {
            let ((pa, ma), (pb, mb)) = (loaded(r)?, loaded(t)?);
            let name = t.file_name().unwrap_or_default().to_string_lossy().replace(".take.json", "");
            match align(&pa, &pb) {
                Ok(a) => {
                    let carried = points(&a.carry(&ma));
                    let truth = points(&mb);
                    let offs: Vec<f64> = carried
                        .iter()
                        .filter_map(|(n, p)| {
                            let (_, q) = truth.iter().find(|t| &t.0 == n)?;
                            Some((p[0] - q[0]).hypot(p[1] - q[1]))
                        })
                        .collect();
                    let mean = offs.iter().sum::<f64>() / offs.len().max(1) as f64;
                    let off = mean * 640.0 / f64::from(pb.width().max(pb.height()));
                    let map = difference(&pa, &pb, &a);
                    all.push(off);
                    println!(
                        "| {name} | scale {:.2} | {:.2} | {off:.2} (map told {:.0} %) |",
                        a.scale,
                        a.agreement,
                        100.0 * map.told
                    );
                }
                Err(e) => {
                    lost += 1;
                    println!("| {name} | | {e} | - |");
                }
            }
        }
        // pictures of different things must not be laid over one another
        let mut taken = 0;
        let mut tried = 0;
        for (i, (r, _)) in pairs.iter().enumerate() {
            let (_, t) = &pairs[(i + 1) % pairs.len()];
            let (pa, pb) =
                (load_picture(&r.with_extension("png"))?.photo, load_picture(&t.with_extension("png"))?.photo);
            tried += 1;
            if let Some(a) = align(&pa, &pb).ok().filter(Alignment::sure) {
                taken += 1;
                println!("| {} and another | | {:.2} | taken for the same |", r.display(), a.agreement);
            }
        }
        println!();
        println!("Of {tried} pairs of different heads {taken} are taken for the same.");
    }
    all.sort_by(f64::total_cmp);
    println!();
    if !all.is_empty() {
        println!(
            "{} aligned, {lost} not; off by {:.2} px of 640 (median), {:.2} (90 %), {:.2} (most).",
            all.len(),
            all[all.len() / 2],
            all[(all.len() * 9 / 10).min(all.len() - 1)],
            all[all.len() - 1]
        );
    }
    Ok(())
}

/// The reference of a session: a carved head with two ball probes.
const SET: &str = r#"{"format":"slant-set/1",
 "subjects":[{"kind":"head_long"},{"kind":"ball_matte","position_m":[-0.22,-0.02,0.05],"scale":0.8},{"kind":"ball_mirror","position_m":[0.22,-0.02,0.05],"scale":0.8}],
 "camera":{"position_m":[0,0,2.2],"vfov_deg":14,"exposure":{"f_number":8,"shutter_s":0.008,"iso":100}},
 "lights":[],
 "walls":[{"position_m":[0,0,-1.5],"normal":[0,0,1],"width_m":6,"height_m":5,"colour":[0.2,0.2,0.2]}],
 "ambient":{"level":{"stops":-4.5}},
 "picture":{"width":480,"height":360,"samples":16,"full_well":40000}}"#;

/// Sets to reach: key (azimuth, elevation, distance, side), fill, and how the start is wrong.
fn session(n: usize) -> Result<(LightSet, LightSet), Failure> {
    let wrong: [[f64; 8]; 10] = [
        // key round, key up, key distance ratio, key stops, fill round, fill stops, fill distance ratio, exposure
        [24.0, -10.0, 1.0, 0.8, 0.0, 0.0, 1.0, 0.0],
        [-20.0, 0.0, 1.4, 0.0, 0.0, 1.0, 1.0, 0.0],
        [0.0, 18.0, 1.0, -1.0, 0.0, -0.8, 1.0, 0.0],
        [15.0, 12.0, 0.7, 0.0, 0.0, 0.0, 1.0, 0.7],
        [0.0, 0.0, 1.5, 0.7, 20.0, 0.0, 1.0, 0.0],
        [-28.0, 8.0, 1.0, 0.0, 0.0, 0.9, 1.0, 0.0],
        [10.0, -15.0, 1.2, 0.5, 0.0, 0.0, 1.0, -0.6],
        [30.0, 0.0, 1.0, 0.0, -20.0, 1.2, 1.0, 0.0],
        [-12.0, 14.0, 0.75, -0.6, 0.0, 0.7, 1.0, 0.0],
        [18.0, 0.0, 1.35, 0.9, 0.0, -1.0, 1.0, 0.0],
    ];
    let keys: [(f64, f64, f64, f64); 5] = [
        (-40.0, 32.0, 1.4, 0.6),
        (45.0, 28.0, 1.6, 0.9),
        (-30.0, 40.0, 1.3, 0.4),
        (35.0, 25.0, 1.8, 0.7),
        (-52.0, 35.0, 1.5, 0.5),
    ];
    let (az, el, d, w) = keys[n % keys.len()];
    let light = |name: &str, az: f64, el: f64, d: f64, w: f64, stops: f64| {
        serde_json::json!({"name": name, "azimuth_deg": az, "elevation_deg": el, "distance_m": d,
            "source": {"kind": "rectangle", "width_m": w, "height_m": w}, "level": {"stops": stops}})
    };
    let make = |k: [f64; 8]| -> Result<LightSet, Failure> {
        let mut v: serde_json::Value = serde_json::from_str(SET).map_err(anyhow::Error::from)?;
        let side = -az.signum();
        v["lights"] = serde_json::json!([
            light("key", az + k[0], el + k[1], d * k[2], w, -0.5 + k[3] + k[7]),
            light("fill", side * 45.0 + k[4], 5.0, 1.9 * k[6], 1.0, -2.3 + k[5] + k[7]),
        ]);
        v["ambient"]["level"]["stops"] = serde_json::json!(-4.5 + k[7]);
        Ok(LightSet::from_value(v).map_err(Failure::Input)?.set)
    };
    let none = [0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0, 0.0];
    Ok((make(none)?, make(wrong[n % wrong.len()])?))
}

fn shoot(set: &LightSet, seed: u32) -> Result<PictureRead, Failure> {
    let mut set = set.clone();
    set.picture.seed = seed;
    let rgb = studio::encode(&studio::picture(&set).map_err(Failure::Input)?, &set.picture);
    let photo =
        Photo::new(set.picture.width, set.picture.height, Samples::U8(rgb), &Encoding::Srgb).map_err(Failure::Input)?;
    let mut marks = studio::marks(&set);
    // the head's landmarks cost a second each time and the probes say more
    marks.marks.retain(|m| !matches!(m.kind, MarkKind::Face(_) | MarkKind::Eye(_)));
    Ok(loaded(&photo, marks))
}

/// How far two sets are apart: degrees, share of the angle, stops, for each light by name.
fn apart(a: &LightSet, b: &LightSet) -> Result<[f64; 3], Failure> {
    let (p, q) = (studio::meter(a).map_err(Failure::Input)?, studio::meter(b).map_err(Failure::Input)?);
    let mut worst = [0.0f64; 3];
    for x in &p.lights {
        let Some(y) = q.lights.iter().find(|y| y.name == x.name) else { continue };
        let weight = if x.name == "key" { 1.0 } else { 0.5 };
        worst[0] = worst[0].max(weight * angle_between(&x.at().vector(), &y.at().vector()).to_degrees());
        worst[1] = worst[1].max(weight * (y.angular_size_deg / x.angular_size_deg).ln().abs());
        worst[2] = worst[2].max((y.notations.stops - x.notations.stops).abs());
    }
    Ok(worst)
}

/// Within what a person would call the same light: 5 degrees, a fifth of the angle, a quarter stop (key; a fill's
/// direction and size count half).
fn reached(d: &[f64; 3]) -> bool {
    d[0] <= 5.0 && d[1] <= 0.2 && d[2] <= 0.25
}

/// By how much what was foretold missed, in tolerances, for the readings that the move was to change.
fn misses(expected: &[Expected], before: &Comparison, c: &Comparison) -> Vec<f64> {
    expected
        .iter()
        .filter_map(|e| {
            let l = c.ledger.iter().find(|l| l.what == e.what)?;
            let was = before.ledger.iter().find(|l| l.what == e.what)?.difference;
            // a tolerance: 5 degrees, a fifth of a size, a quarter of a stop
            let tolerance = match e.unit {
                Unit::Degrees => 5.0,
                Unit::Times => 0.2,
                Unit::Stops | Unit::Mired => 0.25,
            };
            let apart = |a: f64, b: f64| (e.unit.scale(a) - e.unit.scale(b)).abs() / tolerance;
            (apart(e.value, was) >= 0.7).then(|| apart(l.difference, e.value))
        })
        .collect()
}

fn mean(v: &[f64]) -> f64 {
    v.iter().sum::<f64>() / v.len().max(1) as f64
}

pub(crate) fn run_session(verbose: bool) -> Result<(), Failure> {
    const MOST: usize = 5;
    println!("| start | moves | off at the start: °, size, stops | off at the end | reached |");
    println!("|---|---|---|---|---|");
    let (mut done, starts) = (0, 10);
    // misses of what was foretold, in tolerances, with and without what was learnt, by number of the move
    let mut told = vec![(Vec::new(), Vec::new()); MOST];
    let mut distances: Vec<(f64, f64)> = Vec::new();
    let mut dials: Vec<(f64, f64)> = Vec::new();
    for n in 0..starts {
        let (goal, start) = session(n)?;
        let reference = shoot(&goal, 1)?;
        let mut rig = SimulatedCamera::new(&start, 100 + n as u64);
        let first = apart(&goal, rig.real())?;
        let stands = rig.real().lights.clone();
        let mut set = start.clone();
        let mut beliefs: Vec<Belief> = Vec::new();
        let mut foretold: Option<(Vec<Expected>, Vec<Expected>, Comparison)> = None;
        let mut plain = start.clone();
        let mut turned: BTreeMap<String, f64> = BTreeMap::new();
        let mut made = 0;
        let mut steps = Vec::new();
        for k in 0..=MOST {
            let take = shoot(rig.real(), 10 + k as u32)?;
            let c = compared(&reference, &take);
            let meter = studio::meter(&set).map_err(Failure::Input)?;
            if beliefs.is_empty() {
                beliefs = Belief::of(&set, &meter);
            }
            if let (Some((with, without, before)), true) = (&foretold, k > 0) {
                told[k - 1].0.extend(misses(with, before, &c));
                told[k - 1].1.extend(misses(without, before, &c));
            }
            for (b, s) in beliefs.iter_mut().zip(seen_of(&set, &meter, &c)) {
                if let Some(s) = s {
                    b.see(&s);
                }
            }
            set = learned(&set, &beliefs);
            if k == MOST {
                break;
            }
            let moves = next_moves(&set, &c, catalogue(), optics::words::Lengths::Metres);
            if verbose {
                for l in &c.ledger {
                    println!(
                        "    {n}.{k} {}: {:+.2} {} ± {:.2}{}",
                        l.what,
                        l.difference,
                        l.unit,
                        l.sd,
                        if l.sure { " *" } else { "" }
                    );
                }
            }
            let Some(m) = moves.first() else { break };
            made += 1;
            steps.push(format!("{} ({:.0} %)", m.says, 100.0 * m.gain));
            // without learning: the same hand movements on the set as it was written down at the start
            let mut other = SimulatedCamera::exact(&plain);
            other.follow(&set, &m.set);
            let without = suppose(&plain, other.real(), &c);
            plain = other.real().clone();
            foretold = Some((m.expected.clone(), without, c.clone()));
            let made_now = changes(&set, &m.set);
            for c in made_now.iter().filter(|c| c.kind == ChangeKind::Power) {
                *turned.entry(c.device.clone()).or_insert(0.0) += c.amount.abs();
            }
            for b in &mut beliefs {
                made_now.iter().for_each(|c| b.change(c));
            }
            rig.follow(&set, &m.set);
            set = m.set.clone();
        }
        // what was believed of the lamps at first and at last, against how they stand
        for b in &beliefs {
            let Some(real) = rig.real().lights.iter().find(|l| l.name == b.name) else { continue };
            let Some(first) = start.lights.iter().find(|l| l.name == b.name) else { continue };
            let Some(stood) = stands.iter().find(|l| l.name == b.name) else { continue };
            let off = |a: f64, b: f64| 100.0 * (a / b).ln().abs();
            let moved = (real.position() - stood.position()).norm() > 0.05;
            if turned.get(&b.name).is_some_and(|t: &f64| *t > 0.5) {
                let real = rig.dial(&b.name);
                dials.push((2.0 * (1.0 - real).abs(), 2.0 * (b.dial().0 - real).abs()));
            }
            if moved {
                distances.push((
                    off(first.position().norm(), stood.position().norm()),
                    off(b.distance_m().0, real.position().norm()),
                ));
            }
        }
        let end = apart(&goal, rig.real())?;
        let good = reached(&end);
        done += usize::from(good);
        println!(
            "| {n} | {made} | {:.0}, {:.0} %, {:.2} | {:.1}, {:.0} %, {:.2} | {} |",
            first[0],
            100.0 * first[1].exp_m1(),
            first[2],
            end[0],
            100.0 * end[1].exp_m1(),
            end[2],
            if good { "yes" } else { "no" }
        );
        if verbose {
            for s in steps {
                println!("  - {s}");
            }
        }
    }
    println!();
    println!(
        "{done} of {starts} starts reach the reference within 5°, a fifth of the angle and a quarter stop in at most {MOST} moves."
    );
    println!();
    let (before, after): (Vec<f64>, Vec<f64>) = dials.into_iter().unzip();
    println!(
        "Two stops on the dial of a lamp that was turned: foretold {:.2} stop off at the start, {:.2} at the end ({} lamps).",
        mean(&before),
        mean(&after),
        before.len()
    );
    let (before, after): (Vec<f64>, Vec<f64>) = distances.into_iter().unzip();
    println!(
        "Distance of lamps that were moved: believed {:.1} % off at the start, {:.1} % at the end ({} lamps).",
        mean(&before),
        mean(&after),
        before.len()
    );
    println!();
    println!("| move | what was foretold missed by, in tolerances | the same without learning |");
    println!("|---|---|---|");
    for (k, (with, without)) in told.iter().enumerate().filter(|t| !t.1.0.is_empty()) {
        println!("| {} | {:.2} | {:.2} |", k + 1, mean(with), mean(without));
    }
    let all =
        |side: fn(&(Vec<f64>, Vec<f64>)) -> &Vec<f64>| mean(&told.iter().flat_map(side).copied().collect::<Vec<_>>());
    println!("| all | {:.2} | {:.2} |", all(|t| &t.0), all(|t| &t.1));
    Ok(())
}
