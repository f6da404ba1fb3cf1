//! `evaluation portraits`: reads faces under known lights, from landmarks alone and with the eyes,
//! and prints how far the readings are off. Pictures may be spoiled as real ones are.

use crate::Failure;
use crate::marks::{Case, Row, TrueLight, beside, jitter, pictures_in};
use clap::Args;
use evidence::marks::{Eye, Face, Mark, MarkKind, Marks, PatchRole};
use evidence::readings::{Light, RatioFrom, Readings};
use image::imageops::FilterType;
use optics::geometry::{AzEl, angle_between};
use optics::tone::{MIDDLE_GREY, linear_to_srgb, srgb_to_linear};
use serde::Deserialize;
use session::PictureRead;
use std::io::Cursor;
use std::path::PathBuf;

/// What to read and how to spoil it first.
#[derive(Debug, Args)]
pub(crate) struct Options {
    /// Folder of PNG pictures, each with a JSON file of marks and truth.
    #[arg(default_value = "tests/fixtures/portrait")]
    folder: PathBuf,
    /// Print every reading, not only the tables.
    #[arg(long)]
    verbose: bool,
    /// Move every mark by this many pixels of a picture 640 wide.
    #[arg(long, default_value_t = 0.0)]
    jitter: f64,
    /// Save as JPEG of this quality first.
    #[arg(long)]
    jpeg: Option<u8>,
    /// Scale the picture by this first.
    #[arg(long, default_value_t = 1.0)]
    shrink: f64,
    /// Apply a tone curve of this contrast about middle grey first.
    #[arg(long, default_value_t = 1.0)]
    contrast: f64,
    /// Read as while a landmark is dragged: once in full, then with the marks moved (by --jitter), followed.
    #[arg(long)]
    follow: bool,
    /// Which marks: as in the file, with the true points of a face mesh beside them, or as found (NAME.found.json).
    #[arg(long, value_enum, default_value_t)]
    marks: From,
}

/// Where marks come from.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, clap::ValueEnum)]
enum From {
    #[default]
    Given,
    Mesh,
    Found,
}

#[derive(Deserialize)]
struct Truth {
    lights: Vec<TrueLight>,
    /// of a studio; light in rooms has no one level
    #[serde(default)]
    ambient_stops: Option<f64>,
    /// whether the first light leads; in a studio it does
    #[serde(default = "leads")]
    leads: bool,
    /// azimuth and elevation of the mean light of a room, degrees, and how directional it is
    #[serde(default)]
    mean: Option<[f64; 2]>,
    #[serde(default)]
    directional: f64,
    look: String,
    pose_deg: [f64; 3],
    /// contrast of the camera's curve on coded values: `s^c / (s^c + (1 - s)^c)`
    #[serde(default)]
    curve: Option<f64>,
    /// true places of a face mesh's points, pixels
    #[serde(default)]
    dense: Vec<[f64; 2]>,
}

/// Points of the face mesh on the middle of the cheeks, and half the side of a patch there, parts of the face's height, as the
/// front end has them (web/src/read/finder.ts).
const CHEEKS: [usize; 2] = [50, 280];
const OF_FACE: f64 = 0.035;

fn leads() -> bool {
    true
}

/// Two lights within this angle are one and the same.
const SAME_DEG: f64 = 30.0;
/// Names of looks in the truth that lie between the named ones are not judged.
const BETWEEN: &str = "between";

#[derive(Default)]
struct Tally {
    key: Row,
    key_single: Row,
    /// where no light leads: the mean light
    mean: Row,
    directional: Row,
    size: Row,
    level: Row,
    ambient: Row,
    ratio: Row,
    contrast: Row,
    turn: Row,
    nod: Row,
    /// spots in eyes, from the light that is nearest, where one is near
    catchlight: Row,
    strays: usize,
    others: usize,
    found: usize,
    invented: usize,
    count_right: usize,
    class_right: usize,
    classes: usize,
    look_right: usize,
    looks: usize,
    pictures: usize,
    /// no light leads, and one is named all the same
    led_wrongly: usize,
    none_leads: usize,
    unread: usize,
    times: Vec<f64>,
}

fn spoil(bytes: Vec<u8>, o: &Options) -> anyhow::Result<Vec<u8>> {
    if o.jpeg.is_none() && o.shrink == 1.0 && o.contrast == 1.0 {
        return Ok(bytes);
    }
    let mut img = image::load_from_memory(&bytes)?.to_rgb8();
    if o.shrink != 1.0 {
        let side = |n: u32| (f64::from(n) * o.shrink).round() as u32;
        img = image::imageops::resize(&img, side(img.width()), side(img.height()), FilterType::CatmullRom);
    }
    if o.contrast != 1.0 {
        // steeper about middle grey, flattening towards white and black
        for v in img.iter_mut() {
            let stops = (srgb_to_linear(f64::from(*v) / 255.0).max(1e-5) / MIDDLE_GREY).log2();
            let steep = o.contrast * stops / (1.0 + (stops / 4.5).powi(2) * (o.contrast - 1.0)).max(1.0);
            *v = (255.0 * linear_to_srgb(MIDDLE_GREY * steep.exp2()).clamp(0.0, 1.0)).round() as u8;
        }
    }
    let mut out = Vec::new();
    match o.jpeg {
        Some(q) => image::codecs::jpeg::JpegEncoder::new_with_quality(&mut out, q).encode_image(&img)?,
        None => img.write_to(&mut Cursor::new(&mut out), image::ImageFormat::Png)?,
    }
    Ok(out)
}

/// Patches on the cheeks of a found face, as the program puts them there, and by how many stops these differ in the light that
/// came to the camera: its curve undone. `None` if the curve is not known or the cheeks are alike.
fn contrast_of_cheeks(
    file: &std::path::Path,
    marks: &Marks,
    curve: Option<f64>,
) -> Result<Option<(Vec<Mark>, f64)>, Failure> {
    let face = marks.marks.iter().find_map(|m| match &m.kind {
        MarkKind::Face(f) if !f.dense.is_empty() => Some(f),
        _ => None,
    });
    let (Some(c), Some(face)) = (curve, face) else { return Ok(None) };
    let at = |k: usize| face.dense.get(k).map(|p| [p[0], p[1]]);
    let (Some(left), Some(right)) = (at(CHEEKS[0]), at(CHEEKS[1])) else { return Ok(None) };
    let (low, high) = face.dense.iter().fold((f64::MAX, f64::MIN), |(l, h), p| (l.min(p[1]), h.max(p[1])));
    let photo = crate::files::load_picture(file)?.photo;
    let patches: Vec<Mark> =
        finding::cheeks(&photo, [left, right], OF_FACE * (high - low)).into_iter().map(|p| p.mark).collect();
    let undone = |v: f32| {
        let s = linear_to_srgb(f64::from(v)).clamp(0.0, 1.0);
        let (a, b) = (s.powf(1.0 / c), (1.0 - s).powf(1.0 / c));
        srgb_to_linear(a / (a + b))
    };
    let light = |role: PatchRole| {
        let polygon = patches.iter().find_map(|m| match &m.kind {
            MarkKind::Patch(p) if p.role == role => Some(&p.polygon),
            _ => None,
        })?;
        let ([x0, y0], [x1, y1]) = (polygon[0], polygon[2]);
        let pixels = (y0 as u32..y1 as u32).flat_map(|y| (x0 as u32..x1 as u32).map(move |x| (x, y)));
        let (n, sum) = pixels.fold((0.0, 0.0), |(n, sum), (x, y)| {
            (n + 1.0, sum + optics::photo::luminance(photo.rgb(x, y).map(|v| undone(v) as f32)))
        });
        (n > 0.0).then(|| sum / n)
    };
    let both = light(PatchRole::Lit).zip(light(PatchRole::Shadow));
    Ok(both.map(|(lit, shadow)| (patches.clone(), (lit / shadow.max(1e-6)).log2())))
}

fn scale_marks(marks: &mut Marks, k: f64) {
    for m in &mut marks.marks {
        match &mut m.kind {
            MarkKind::Face(Face { points, dense }) => {
                points.values_mut().for_each(|p| *p = p.map(|v| v * k));
                dense.iter_mut().for_each(|p| *p = p.map(|v| v * k));
            }
            MarkKind::Patch(p) => p.polygon.iter_mut().for_each(|p| *p = p.map(|v| v * k)),
            MarkKind::Eye(Eye { limbus, .. }) => {
                limbus.centre = limbus.centre.map(|v| v * k);
                limbus.rx *= k;
                limbus.ry *= k;
            }
            _ => {}
        }
    }
}

pub(crate) fn run(o: &Options) -> Result<(), Failure> {
    let input = |p: &std::path::Path, e: &dyn std::fmt::Display| Failure::Input(format!("{}: {e}", p.display()));
    let files = pictures_in(&o.folder)?;
    let begun = std::time::Instant::now();
    let heads = studio::stand_ins().len();
    let made = begun.elapsed().as_secs_f64();
    let mut tallies = [Tally::default(), Tally::default()];
    for file in &files {
        let case: Case<Truth> = beside(file)?;
        let bytes = spoil(std::fs::read(file).map_err(|e| input(file, &e))?, o)?;
        let picture = session::open(&bytes).map_err(|e| input(file, &e))?;
        let mut marks = Marks::from_value(match o.marks {
            From::Found => beside::<serde_json::Value>(&file.with_extension("found.png"))?,
            _ => case.marks,
        })
        .map_err(Failure::Input)?;
        if o.marks == From::Mesh {
            for m in &mut marks.marks {
                if let MarkKind::Face(Face { dense, .. }) = &mut m.kind {
                    *dense = case.truth.dense.iter().map(|p| [p[0], p[1], 0.0]).collect();
                }
            }
        }
        let cheeks = contrast_of_cheeks(file, &marks, case.truth.curve)?;
        if let Some((patches, _)) = &cheeks {
            marks.marks.extend(patches.iter().cloned());
        }
        scale_marks(&mut marks, o.shrink);
        picture.fill_in(&mut marks);
        let mut marks = session::told(&marks, &picture.facts, None);
        let before = marks.clone();
        jitter(&mut marks, o.jitter, file, picture.photo.width());
        for (with_eyes, tally) in tallies.iter_mut().enumerate() {
            let of = |m: &Marks| {
                let mut m = m.clone();
                if with_eyes == 0 {
                    m.marks.retain(|m| matches!(m.kind, MarkKind::Face(_) | MarkKind::Patch(_)));
                }
                m
            };
            let mut memory = evidence::read::Memory::default();
            let mut read =
                |m: &Marks| PictureRead::again(&picture.photo, Some(&picture.meter), &of(m), &mut memory, false);
            if o.follow {
                read(&before);
            }
            let start = std::time::Instant::now();
            let r = read(&marks);
            tally.times.push(start.elapsed().as_secs_f64() * 1000.0);
            let line = tally.add(&r, &case.truth);
            if let (Some(q), Some((_, want))) = (&r.ratios, &cheeks)
                && q.contrast_from != RatioFrom::Lights
            {
                let [low, high] = q.range_stops;
                // "within two spreads" is "inside the stated range"
                tally.contrast.add((f64::midpoint(low, high) - want).abs(), 0.25 * (high - low));
            }
            if o.verbose {
                let name = file.file_stem().unwrap_or_default().to_string_lossy();
                println!("{name}{} {line}", if with_eyes == 1 { " with eyes" } else { "" });
            }
        }
    }
    println!(
        "{} pictures; marks moved by {} px, JPEG {}, scaled by {}, contrast {}{}; {heads} stand-in heads made in {made:.1} s",
        files.len(),
        o.jitter,
        o.jpeg.map_or("none".into(), |q| q.to_string()),
        o.shrink,
        o.contrast,
        if o.follow { ", followed" } else { "" }
    );
    for (name, t) in ["landmarks alone", "with the eyes"].iter().zip(&mut tallies) {
        t.print(name);
    }
    Ok(())
}

impl Tally {
    fn add(&mut self, r: &Readings, truth: &Truth) -> String {
        self.pictures += 1;
        if let (Some(room), Some(mean)) = (&r.room, truth.mean) {
            let [at, says] = [mean, [room.azimuth_deg, room.elevation_deg]]
                .map(|[azimuth_deg, elevation_deg]| AzEl { azimuth_deg, elevation_deg }.vector());
            self.mean.add(angle_between(&at, &says).to_degrees(), room.direction_sd_deg);
            self.directional.add((room.directional - truth.directional).abs(), room.directional_sd);
        }
        if !truth.leads {
            self.none_leads += 1;
            self.led_wrongly += usize::from(!r.lights.is_empty());
            return format!("none leads; says {}", r.slant);
        }
        let key = &truth.lights[0];
        let Some(first) = r.lights.first() else {
            self.unread += 1;
            if let Some(room) = &r.room {
                let (key, share) = (&truth.lights[0], room.key_share);
                return format!("NO LEAD (share {share:.2}) for {:.0}/{:.0}", key.azimuth_deg, key.elevation_deg);
            }
            return format!("UNREAD {:?}", r.by_mark.values().map(|m| &m.says).collect::<Vec<_>>());
        };
        let d = key.off(first);
        let mut line = format!(
            "key {d:.1}° (±{:.1}) {:.0}/{:.0} for {:.0}/{:.0}",
            first.direction_sd_deg, first.azimuth_deg, first.elevation_deg, key.azimuth_deg, key.elevation_deg
        );
        self.key.add(d, first.direction_sd_deg);
        if truth.lights.len() == 1 {
            self.key_single.add(d, first.direction_sd_deg);
        }
        let off_axis = key.at().off_axis_deg();
        if let (Some(a), Some([lo, hi])) = (first.angular_size_deg, first.angular_size_range_deg)
            && off_axis > 15.0
            && d < 25.0
        {
            // a factor, as stops of size
            let off = (a / key.angular_size_deg).log2().abs();
            self.size.add(off, (hi / lo).sqrt().log2());
            self.classes += 1;
            self.class_right +=
                usize::from(first.hardness.as_deref() == Some(optics::hardness::hardness(key.angular_size_deg)));
            line += &format!(" o{a:.0}({lo:.0}-{hi:.0})/{:.0}", key.angular_size_deg);
        }
        let mut free: Vec<&Light> = r.lights.iter().skip(1).collect();
        for t in &truth.lights[1..] {
            self.others += 1;
            let near = (0..free.len()).min_by(|a, b| t.off(free[*a]).total_cmp(&t.off(free[*b])));
            match near.filter(|i| t.off(free[*i]) < SAME_DEG) {
                Some(i) => {
                    let l = free.swap_remove(i);
                    self.found += 1;
                    if let (Some(v), Some(sd)) = (l.level_stops, l.level_sd_stops) {
                        self.level.add((v - t.level_stops).abs(), sd);
                        line += &format!(" second {:+.1}/{:+.1}", v, t.level_stops);
                    }
                }
                None => line += &format!(" MISSED {:.0}/{:.0} {:+.1}", t.azimuth_deg, t.elevation_deg, t.level_stops),
            }
        }
        self.invented += free.len();
        if !free.is_empty() {
            line += &format!(" INVENTED {}", r.slant);
        }
        self.count_right += usize::from(r.lights.len() == truth.lights.len());
        if let Some(w) = r.warnings.iter().find(|w| w.code == "maybe_another") {
            line += &format!(" refused: {}", w.text.split(" by this face").next().unwrap_or_default());
        }
        if let (Some(a), None) = (&r.ambient, truth.ambient_stops) {
            line += &format!(" amb {:+.1}", a.level_stops);
        }
        if let (Some(a), Some(want)) = (&r.ambient, truth.ambient_stops) {
            self.ambient.add((a.level_stops - want).abs(), a.level_sd_stops);
            line += &format!(" amb {:+.1}/{want:+.1}", a.level_stops);
        }
        if let (Some(q), Some(ambient)) = (&r.ratios, truth.ambient_stops) {
            let fill: f64 = truth.lights[1..]
                .iter()
                .filter(|l| l.azimuth_deg.abs() < 105.0)
                .map(|l| l.level_stops.exp2())
                .sum::<f64>()
                + ambient.exp2();
            let want = (1.0 + 1.0 / fill).log2();
            let [low, high] = q.key_plus_fill_to_fill_range.map(f64::log2);
            let (half, middle) = (0.5 * (high - low), 0.5 * (high + low));
            // "within two spreads" is "inside the stated range"
            self.ratio.add((middle - want).abs(), 0.5 * half);
            let out = if (middle - want).abs() > half { " OUTSIDE" } else { "" };
            line += &format!(" ratio {low:.1}..{high:.1}/{want:.1}{out}");
        }
        if let Some(f) = r.by_mark.values().find_map(|m| m.face.as_ref()) {
            self.turn.add((f.turned_deg - truth.pose_deg[0]).abs(), f.turned_sd_deg);
            self.nod.add((f.nodded_deg - truth.pose_deg[1]).abs(), f.nodded_sd_deg);
            line += &format!(" nod {:.0}/{:.0}", f.nodded_deg, truth.pose_deg[1]);
            line += &format!(" turn {:.0}/{:.0} {}", f.turned_deg, truth.pose_deg[0], f.heads[0].name);
        }
        for c in r.by_mark.values().flat_map(|m| m.catchlights.iter().flatten()) {
            let at = AzEl { azimuth_deg: c.azimuth_deg, elevation_deg: c.elevation_deg }.vector();
            let off =
                truth.lights.iter().map(|l| angle_between(&l.at().vector(), &at).to_degrees()).fold(f64::MAX, f64::min);
            if off < SAME_DEG {
                self.catchlight.add(off, c.direction_sd_deg);
            } else {
                self.strays += 1;
            }
        }
        if truth.look != BETWEEN
            && let Some(l) = &r.look
        {
            self.looks += 1;
            let plain = |n: &str| n.replace("clamshell", "butterfly").replace(" key", "");
            let right = plain(&l.name) == plain(&truth.look)
                || l.others.first().is_some_and(|o| plain(&o.name) == plain(&truth.look) && o.probability > 0.2);
            self.look_right += usize::from(right);
            if !right {
                line += &format!(" look {} for {}", l.name, truth.look);
            }
        }
        line
    }

    fn print(&mut self, name: &str) {
        self.times.sort_by(f64::total_cmp);
        println!();
        println!(
            "{name}: reading takes {:.0} ms, 95 % under {:.0} ms; {} unread; a key named in {} of {} where none leads",
            self.times[self.times.len() / 2],
            self.times[(self.times.len() - 1) * 95 / 100],
            self.unread,
            self.led_wrongly,
            self.none_leads
        );
        println!();
        println!("| reading | n | median error | 90 % | worst | unit | median stated sd | within 2 sd |");
        println!("|---|---|---|---|---|---|---|---|");
        self.key.print("key direction", "deg");
        self.key_single.print("key direction, one light", "deg");
        self.mean.print("mean light, where none leads", "deg");
        self.directional.print("how directional, of 1", "");
        self.size.print("key size, over 15 deg off the axis", "doublings");
        self.level.print("level of weaker lights", "stop");
        self.ambient.print("ambient", "stop");
        self.ratio.print("lighting ratio, middle of its range", "stop");
        self.contrast.print("contrast of the cheeks, middle of its range", "stop");
        self.turn.print("turn of the head", "deg");
        self.nod.print("nod of the head", "deg");
        self.catchlight.print(&format!("catchlight near a light ({} near none)", self.strays), "deg");
        let percent = |a: usize, b: usize| 100.0 * a as f64 / b.max(1) as f64;
        println!();
        println!(
            "| other lights | found | invented | precision | recall | count right | size class right | look right |"
        );
        println!("|---|---|---|---|---|---|---|---|");
        println!(
            "| {} | {} | {} | {:.0} % | {:.0} % | {:.0} % | {:.0} % of {} | {:.0} % of {} |",
            self.others,
            self.found,
            self.invented,
            percent(self.found, self.found + self.invented),
            percent(self.found, self.others),
            percent(self.count_right, self.pictures),
            percent(self.class_right, self.classes),
            self.classes,
            percent(self.look_right, self.looks),
            self.looks
        );
    }
}
