//! `evaluation marks`: reads pictures whose lights are known, and prints the tables of accuracy.
//!
//! A picture `name.png` stands beside `name.json`: `{ "marks": slant-marks/1, "truth": { kind,
//! lights: [{azimuth_deg, elevation_deg, angular_size_deg, level_stops}], ambient_stops } }`.

use crate::Failure;
use crate::files::files_in;
use evidence::marks::{Ball, Cast, Cuboid, Cylinder, Eye, Face, MarkKind, Marks, Penumbra};
use evidence::readings::Light;
use optics::geometry::{AzEl, angle_between};
use serde::Deserialize;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

/// What stands beside a picture: its marks (slant-marks/1), and what is true of it.
#[derive(Deserialize)]
pub(crate) struct Case<T> {
    pub marks: serde_json::Value,
    pub truth: T,
}

#[derive(Deserialize)]
struct Truth {
    kind: String,
    lights: Vec<TrueLight>,
    ambient_stops: Option<f64>,
    turned_deg: Option<f64>,
    /// Full angle of the light that casts an edge.
    edge_deg: Option<f64>,
    /// Azimuths of the edges of each bright line, as seen from it.
    #[serde(default)]
    strips: Vec<[f64; 2]>,
}

#[derive(Deserialize)]
pub(crate) struct TrueLight {
    pub azimuth_deg: f64,
    pub elevation_deg: f64,
    pub angular_size_deg: f64,
    pub level_stops: f64,
}

impl TrueLight {
    pub(crate) fn at(&self) -> AzEl {
        AzEl { azimuth_deg: self.azimuth_deg, elevation_deg: self.elevation_deg }
    }

    /// Degrees between this and a light that was read.
    pub(crate) fn off(&self, l: &Light) -> f64 {
        let at = AzEl { azimuth_deg: l.azimuth_deg, elevation_deg: l.elevation_deg };
        angle_between(&at.vector(), &self.at().vector()).to_degrees()
    }
}

/// Errors of one reading with the spread it stated.
#[derive(Default)]
pub(crate) struct Row {
    error: Vec<f64>,
    spread: Vec<f64>,
}

impl Row {
    pub(crate) fn add(&mut self, error: f64, spread: f64) {
        self.error.push(error);
        self.spread.push(spread);
    }

    pub(crate) fn print(&self, name: &str, unit: &str) {
        if self.error.is_empty() {
            return;
        }
        let q = |v: &[f64], p: f64| {
            let mut v = v.to_vec();
            v.sort_by(f64::total_cmp);
            v[((v.len() - 1) as f64 * p).round() as usize]
        };
        let inside = self.error.iter().zip(&self.spread).filter(|(e, s)| **e <= 2.0 * **s).count();
        let digits = if unit == "stop" { 3 } else { 2 };
        println!(
            "| {name} | {} | {:.digits$} | {:.digits$} | {:.digits$} | {unit} | {:.digits$} | {:.0} % |",
            self.error.len(),
            q(&self.error, 0.5),
            q(&self.error, 0.9),
            q(&self.error, 1.0),
            q(&self.spread, 0.5),
            100.0 * inside as f64 / self.error.len() as f64
        );
    }
}

/// Moves marks about, deterministically.
fn shake(marks: &mut Marks, px: f64, seed: u64) {
    let mut state = seed | 1;
    let mut next = || {
        state ^= state << 13;
        state ^= state >> 7;
        state ^= state << 17;
        (state >> 11) as f64 / (1u64 << 53) as f64 * std::f64::consts::TAU
    };
    for m in &mut marks.marks {
        let (s, c) = next().sin_cos();
        let grow = px * next().cos();
        match &mut m.kind {
            MarkKind::Ball(Ball { centre, radius_px, .. }) => {
                centre[0] += px * c;
                centre[1] += px * s;
                *radius_px += grow;
            }
            MarkKind::Eye(Eye { limbus, .. }) => {
                limbus.centre[0] += px * c;
                limbus.centre[1] += px * s;
                limbus.rx += grow;
                limbus.ry += px * next().cos();
            }
            MarkKind::Cast(Cast { base, top, tip, .. }) => {
                for p in [base, top, tip] {
                    let (s, c) = next().sin_cos();
                    p[0] += px * c;
                    p[1] += px * s;
                }
            }
            MarkKind::Cuboid(Cuboid { corner, ends, .. }) => {
                for p in std::iter::once(corner).chain(ends) {
                    let (s, c) = next().sin_cos();
                    p[0] += px * c;
                    p[1] += px * s;
                }
            }
            MarkKind::Penumbra(Penumbra { a, b, .. }) => {
                for p in [a, b] {
                    p[0] += px * c;
                    p[1] += px * s;
                }
            }
            MarkKind::Face(Face { points, .. }) => {
                for p in points.values_mut() {
                    let (s, c) = next().sin_cos();
                    p[0] += px * c;
                    p[1] += px * s;
                }
            }
            MarkKind::Cylinder(Cylinder { axis, radius_px, .. }) => {
                for p in axis {
                    p[0] += px * c;
                    p[1] += px * s;
                }
                *radius_px += grow;
            }
            _ => {}
        }
    }
}

/// The PNG pictures of a folder, in order.
pub(crate) fn pictures_in(folder: &Path) -> Result<Vec<PathBuf>, Failure> {
    files_in(folder, "png")
}

/// What stands beside a picture.
pub(crate) fn beside<T: serde::de::DeserializeOwned>(picture: &Path) -> Result<T, Failure> {
    let say = |e: &dyn std::fmt::Display| Failure::Input(format!("{}: {e}", picture.display()));
    let text = std::fs::read_to_string(picture.with_extension("json")).map_err(|e| say(&e))?;
    serde_json::from_str(&text).map_err(|e| say(&e))
}

/// Moves the marks of a picture by pixels of one 640 wide: a mark is set by eye on the picture as it is
/// shown.
pub(crate) fn jitter(marks: &mut Marks, px: f64, file: &Path, width: u32) {
    if px > 0.0 {
        let seed = file.to_string_lossy().bytes().fold(7u64, |h, b| h.wrapping_mul(31).wrapping_add(u64::from(b)));
        shake(marks, px * f64::from(width) / 640.0, seed);
    }
}

pub(crate) fn run(folder: &Path, verbose: bool, jitter_px: f64, forget_gaze: bool) -> Result<(), Failure> {
    let files = pictures_in(folder)?;
    let mut rows: BTreeMap<(String, u8), Row> = BTreeMap::new();
    let mut counts: BTreeMap<String, [usize; 4]> = BTreeMap::new();
    let mut times: BTreeMap<String, Vec<f64>> = BTreeMap::new();
    for file in &files {
        let case: Case<Truth> = beside(file)?;
        let mut marks = Marks::from_value(case.marks).map_err(Failure::Input)?;
        let picture = crate::files::load_picture(file)?;
        jitter(&mut marks, jitter_px, file, picture.photo.width());
        if forget_gaze {
            for m in &mut marks.marks {
                if let MarkKind::Eye(Eye { looks_to_clock, .. }) = &mut m.kind {
                    *looks_to_clock = None;
                }
            }
        }
        picture.fill_in(&mut marks);
        let told = session::told(&marks, &picture.facts, None);
        let start = std::time::Instant::now();
        let r = session::PictureRead::of(&picture.photo, Some(&picture.meter), told).readings;
        times.entry(case.truth.kind.clone()).or_default().push(start.elapsed().as_secs_f64() * 1000.0);
        let kind = case.truth.kind.clone();
        let name = file.file_stem().unwrap_or_default().to_string_lossy();
        let mut line = String::new();
        // Match each true light to the nearest reading within 25 degrees.
        let mut free: Vec<bool> = vec![true; r.lights.len()];
        let count = counts.entry(kind.clone()).or_default();
        for t in &case.truth.lights {
            let want = t.at().vector();
            let best = (0..r.lights.len())
                .filter(|&i| free[i])
                .map(|i| (i, t.off(&r.lights[i])))
                .min_by(|a, b| a.1.total_cmp(&b.1))
                .filter(|(_, d)| *d < 25.0);
            count[0] += 1;
            let Some((i, d)) = best else {
                line += &format!(
                    "  MISSED {:.0}/{:.0} o{:.0} {:+.1}",
                    t.azimuth_deg, t.elevation_deg, t.angular_size_deg, t.level_stops
                );
                continue;
            };
            count[1] += 1;
            free[i] = false;
            let l = &r.lights[i];
            rows.entry((kind.clone(), 0)).or_default().add(d, l.direction_sd_deg);
            line += &format!("  {d:.2}° (±{:.2})", l.direction_sd_deg);
            if let (Some(a), Some([lo, hi])) = (l.angular_size_deg, l.angular_size_range_deg) {
                let off = 100.0 * (a / t.angular_size_deg - 1.0);
                let sd = 100.0 * (hi / lo).sqrt().ln();
                line += &format!(" o{a:.1}/{:.1} {off:+.0}% (±{sd:.0})", t.angular_size_deg);
                let off_axis = t.at().off_axis_deg();
                // A frontal light leaves its size open on a matte ball; elsewhere it does not.
                if kind != "matte" || (off_axis > 25.0 && t.angular_size_deg > 4.0) {
                    rows.entry((kind.clone(), 1)).or_default().add(off.abs(), sd);
                }
            }
            // An eye that looks at the lens shows a light at the clock it stands at.
            if case.truth.turned_deg == Some(0.0)
                && t.at().off_axis_deg() > 10.0
                && let Some(seen) = r.by_mark.values().flat_map(|m| m.catchlights.iter().flatten()).min_by(|a, b| {
                    let off = |s: &evidence::readings::Sighting| {
                        let at = AzEl { azimuth_deg: s.azimuth_deg, elevation_deg: s.elevation_deg };
                        angle_between(&at.vector(), &want)
                    };
                    off(a).total_cmp(&off(b))
                })
            {
                let d = (seen.clock - t.at().clock()).rem_euclid(12.0);
                rows.entry((kind.clone(), 4)).or_default().add(d.min(12.0 - d), 0.25);
            }
            if let (Some(v), Some(sd)) = (l.level_stops, l.level_sd_stops)
                && case.truth.lights.len() > 1
                && t.level_stops < 0.0
            {
                line += &format!(" {v:+.2}/{:+.2} (±{sd:.2})", t.level_stops);
                if sd < 0.8 {
                    rows.entry((kind.clone(), 2)).or_default().add((v - t.level_stops).abs(), sd);
                }
            }
        }
        if let Some(t) = case.truth.edge_deg
            && let Some(e) = r.by_mark.values().find_map(|m| m.edge)
            && let (Some(a), Some([lo, hi])) = (e.angular_size_deg, e.angular_size_range_deg)
        {
            count[0] += 1;
            count[1] += 1;
            let (off, sd) = (100.0 * (a / t - 1.0), 100.0 * (hi / lo).sqrt().ln());
            rows.entry((kind.clone(), 1)).or_default().add(off.abs(), sd);
            line += &format!("  o{a:.2}/{t:.2} {off:+.0}% (±{sd:.0}) {}", if e.unresolved { "unresolved" } else { "" });
        }
        if !case.truth.strips.is_empty() {
            let seen: Vec<_> = r.by_mark.values().flat_map(|m| m.strips.iter().flatten()).collect();
            count[0] += case.truth.strips.len();
            count[2] += seen.len().saturating_sub(case.truth.strips.len());
            for t in &case.truth.strips {
                let middle = |a: f64, b: f64| f64::midpoint(a, b);
                let near = seen.iter().min_by(|a, b| {
                    let off = |s: &evidence::readings::StripView| {
                        (middle(s.azimuth_from_deg, s.azimuth_to_deg) - middle(t[0], t[1])).abs()
                    };
                    off(a).total_cmp(&off(b))
                });
                let Some(s) =
                    near.filter(|s| (middle(s.azimuth_from_deg, s.azimuth_to_deg) - middle(t[0], t[1])).abs() < 20.0)
                else {
                    line += &format!("  MISSED {:.0} to {:.0}", t[0], t[1]);
                    continue;
                };
                count[1] += 1;
                let place = middle(s.azimuth_from_deg, s.azimuth_to_deg) - middle(t[0], t[1]);
                let width = (s.azimuth_to_deg - s.azimuth_from_deg) - (t[1] - t[0]);
                rows.entry((kind.clone(), 5)).or_default().add(place.abs(), s.azimuth_sd_deg);
                rows.entry((kind.clone(), 6)).or_default().add(width.abs(), s.width_sd_deg);
                line += &format!("  {place:+.2}° width {width:+.2}° of {:.1} (±{:.2})", t[1] - t[0], s.azimuth_sd_deg);
            }
        }
        // a light that a line tells is counted with the lines
        let told = case.truth.strips.len();
        let invented = free.iter().filter(|f| **f).count().saturating_sub(told);
        count[2] += invented;
        count[3] += usize::from(r.lights.len() == case.truth.lights.len().max(told));
        if invented > 0 {
            line += &format!("  INVENTED {invented}: {}", r.slant);
        }
        if let (Some(t), Some(a)) = (case.truth.ambient_stops, &r.ambient)
            && t > -4.5
        {
            rows.entry((kind.clone(), 3)).or_default().add((a.level_stops - t).abs(), a.level_sd_stops);
            line += &format!("  amb {:+.2}/{t:+.2} (±{:.2})", a.level_stops, a.level_sd_stops);
        }
        if verbose {
            println!("{name}{line}");
        }
    }
    println!("{} pictures; marks moved by {jitter_px} px", files.len());
    for (kind, t) in &mut times {
        t.sort_by(f64::total_cmp);
        println!("{kind}: reading takes {:.0} ms, 95 % under {:.0} ms", t[t.len() / 2], t[(t.len() - 1) * 95 / 100]);
    }
    println!();
    println!("| reading | n | median error | 90 % | worst | unit | median stated sd | within 2 sd |");
    println!("|---|---|---|---|---|---|---|---|");
    for ((kind, what), row) in &rows {
        let (text, unit) = [
            ("direction", "deg"),
            ("size", "%"),
            ("level of weaker lights", "stop"),
            ("ambient", "stop"),
            ("clock, straight eyes, against a quarter", "hour"),
            ("azimuth of a bright line's middle", "deg"),
            ("width of a bright line", "deg"),
        ][*what as usize];
        row.print(&format!("{kind}: {text}"), unit);
    }
    println!();
    println!("| kind | lights | found | invented | count right |");
    println!("|---|---|---|---|---|");
    for (kind, c) in &counts {
        println!("| {kind} | {} | {} | {} | {} |", c[0], c[1], c[2], c[3]);
    }
    Ok(())
}
