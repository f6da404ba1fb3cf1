//! What is said of one picture in one place must not contradict what is said of it in another: every demo case is read,
//! staged, metered, planned and judged, and the answers are held against each other.

use evidence::marks::{MarkKind, Marks};
use evidence::readings::{RatioFrom, Readings};
use judging::critique::{Outcome, briefs, judge};
use lightset::meter::SetMeter;
use lightset::notation::SlantLine;
use optics::role::Role;
use planning::rebuild::{Choices, plan};
use planning::stage::stage;
use session::{PictureRead, open, told};
use std::path::{Path, PathBuf};
use std::sync::OnceLock;

fn demo() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../server/demo")
}

struct Case {
    name: String,
    marks: Marks,
    readings: Readings,
    size: (u32, u32),
    meter: SetMeter,
}

/// All demo pictures, read once.
fn cases() -> &'static [Case] {
    static CASES: OnceLock<Vec<Case>> = OnceLock::new();
    CASES.get_or_init(|| {
        let mut files: Vec<PathBuf> = std::fs::read_dir(demo())
            .unwrap()
            .filter_map(|f| f.ok().map(|f| f.path()))
            .filter(|p| p.extension().is_some_and(|e| e == "jpg"))
            .collect();
        files.sort();
        assert!(files.len() >= 12, "the demo has a dozen cases");
        files
            .into_iter()
            .map(|file| {
                let opened = open(&std::fs::read(&file).unwrap()).unwrap();
                let mut marks = Marks::parse(&std::fs::read_to_string(file.with_extension("json")).unwrap()).unwrap();
                opened.fill_in(&mut marks);
                let size = (opened.photo.width(), opened.photo.height());
                let marks = told(&marks, &opened.facts, None);
                let readings = PictureRead::of(&opened.photo, Some(&opened.meter), marks.clone()).readings;
                let planned = plan(&readings, &marks, size.0, size.1, &Choices::default());
                let meter = studio::meter(&stage(&planned, &marks, &readings, size.0, size.1)).unwrap();
                let name = file.file_stem().unwrap().to_string_lossy().into_owned();
                Case { name, marks, readings, size, meter }
            })
            .collect()
    })
}

#[test]
fn the_key_is_the_strongest_light_in_front() {
    for c in cases() {
        let lights = &c.readings.lights;
        for (i, l) in lights.iter().enumerate() {
            assert_eq!(l.role == Role::Key, i == 0, "{}: {}", c.name, c.readings.slant);
            if let (Some(level), Role::Key | Role::Fill) = (l.level_stops, l.role) {
                assert!(level <= 0.0, "{}: {} at {level} stops over the key", c.name, l.role);
            }
        }
        // and the line of text says the same
        let line: SlantLine = match c.readings.slant.as_str() {
            "" => continue,
            s => s.parse().unwrap(),
        };
        for (a, b) in line.0.iter().zip(lights) {
            let level = b.level_stops.unwrap_or(0.0);
            assert!((a.level_stops.unwrap_or(0.0) - level).abs() < 0.06, "{}: {}", c.name, c.readings.slant);
        }
    }
}

#[test]
fn no_spread_is_wider_than_what_it_is_a_spread_of() {
    for c in cases() {
        for l in &c.readings.lights {
            assert!(l.direction_sd_deg < 60.0, "{}: {} ± {}°", c.name, l.role, l.direction_sd_deg);
            // a level that is not told within a third of what light spans (nine stops from glare to black) is no level
            assert!(
                l.level_sd_stops.is_none_or(|sd| sd < 3.0),
                "{}: {} ± {:?} stops",
                c.name,
                l.role,
                l.level_sd_stops
            );
        }
        for s in &c.readings.summary {
            let spreads = s.split('±').skip(1).filter_map(|t| {
                let t = t.trim_start();
                let digits: String = t.chars().take_while(|c| c.is_ascii_digit() || *c == '.').collect();
                let unit = t[digits.len()..].trim_start();
                Some((digits.trim_end_matches('.').parse::<f64>().ok()?, unit.starts_with("stop")))
            });
            for (v, stops) in spreads {
                assert!(v < if stops { 3.0 } else { 60.0 }, "{}: {s}", c.name);
            }
        }
    }
}

#[test]
fn read_and_rebuild_tell_one_lighting_ratio() {
    for c in cases() {
        let (Some(read), Some(set)) = (&c.readings.ratios, &c.meter.ratio) else { continue };
        let [low, high] = read.key_to_fill_range;
        assert!(low <= read.key_to_fill + 1e-6 && read.key_to_fill <= high + 1e-6, "{}: {read:?}", c.name);
        assert!(read.at_least == (read.ratio_from == RatioFrom::Patches), "{}: {read:?}", c.name);
        // a meter in the set that was staged from the reading: within the stated range, and a meter's step
        let step = 0.35f64.exp2();
        assert!(
            set.key_to_fill > low / step && set.key_to_fill < high * step,
            "{}: {:.1} : 1 in the set, {:.1} to {:.1} : 1 in the reading ({})",
            c.name,
            set.key_to_fill,
            low,
            high,
            read.says
        );
    }
}

#[test]
fn the_verdict_speaks_of_the_lights_that_were_read() {
    for c in cases() {
        for b in briefs() {
            for f in judge(&c.readings, &c.marks, b).findings {
                let about_key = f.rule == "flat" || f.rule == "hard_source";
                if about_key && f.outcome != Outcome::CannotTell {
                    assert!(!c.readings.lights.is_empty(), "{}: no light was read, yet: {}", c.name, f.says);
                }
                if f.rule == "flat"
                    && let (Some(v), Some(r)) = (f.value, &c.readings.ratios)
                {
                    let [low, high] = r.key_to_fill_range.map(f64::log2);
                    assert!(v >= low - 1e-6 && v <= high + 1e-6, "{}: {} against {}", c.name, f.says, r.says);
                }
                assert!(!f.says.contains("only -"), "{}: {}", c.name, f.says);
            }
        }
    }
}

#[test]
fn the_plan_stands_where_the_reading_points() {
    for c in cases() {
        let p = plan(&c.readings, &c.marks, c.size.0, c.size.1, &Choices::default());
        assert_eq!(p.lights.len(), c.readings.lights.len(), "{}", c.name);
        for (m, l) in c.meter.lights.iter().zip(&p.lights) {
            let apart = optics::geometry::angle_between(
                &m.at().vector(),
                &optics::geometry::Vec3::from(l.position_m).normalize(),
            );
            assert!(apart.to_degrees() < 2.0, "{}: {} {:.1}° apart", c.name, l.role, apart.to_degrees());
        }
        assert_eq!(p.exposure.ratios, c.readings.ratios, "{}", c.name);
    }
}

/// Two people side by side, each in a light of their own (tests/fixtures/people, found by the face mesh), as one picture.
fn side_by_side(left: &str, right: &str) -> (Vec<u8>, Marks) {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../tests/fixtures/people");
    let photos = [left, right].map(|n| open(&std::fs::read(folder.join(format!("{n}.png"))).unwrap()).unwrap().photo);
    let (w, h) = (photos[0].width(), photos[0].height());
    let code = |v: f32| (255.0 * optics::tone::linear_to_srgb(f64::from(v))).round() as u8;
    let at = |x: u32, y: u32| photos[usize::from(x >= w)].rgb(x % w, y).map(code);
    let rgb: Vec<u8> = (0..h).flat_map(|y| (0..2 * w).map(move |x| (x, y))).flat_map(|(x, y)| at(x, y)).collect();
    let mut marks = Marks::default();
    for (name, off) in [(left, 0.0), (right, f64::from(w))] {
        let found = Marks::parse(&std::fs::read_to_string(folder.join(format!("{name}.found.json"))).unwrap()).unwrap();
        for mut m in found.marks {
            m.id = format!("{}-{}", m.id, if off > 0.0 { "right" } else { "left" });
            match &mut m.kind {
                MarkKind::Face(f) => {
                    f.points.values_mut().for_each(|p| p[0] += off);
                    f.dense.iter_mut().for_each(|p| p[0] += off);
                }
                MarkKind::Eye(e) => e.limbus.centre[0] += off,
                _ => {}
            }
            marks.marks.push(m);
        }
    }
    (pictures::encode_png(2 * w, h, rgb).unwrap(), marks)
}

#[test]
fn two_people_lit_from_two_sides_each_keep_their_key() {
    let (png, mut marks) = side_by_side("P003-triangle-1", "P000-triangle-2");
    let picture = open(&png).unwrap();
    let read = |marks: &Marks| PictureRead::of(&picture.photo, Some(&picture.meter), marks.clone()).readings;
    // the true keys, by those who rendered them: 47 degrees left and 46 right
    let truth = [-47.3, 45.9];
    for (k, whose) in ["face-1-left", "face-1-right"].into_iter().enumerate() {
        marks.whose = Some(whose.into());
        let r = read(&marks);
        assert_eq!(r.people.len(), 2, "{:?}", r.people);
        for p in &r.people {
            let want = truth[usize::from(p.place == "right")];
            let (says, sd) = (p.key_azimuth_deg.unwrap(), p.key_sd_deg.unwrap());
            assert!((says - want).abs() < 2.5 * sd, "{} key {says} ± {sd} for {want}", p.place);
            assert_eq!(p.named, p.face == whose);
        }
        assert!((r.lights[0].azimuth_deg - truth[k]).abs() < 25.0, "{} for {}", r.lights[0].azimuth_deg, truth[k]);
        assert!(r.lights.iter().flat_map(|l| &l.evidence).all(|m| m.ends_with(&whose[7..])), "{:?}", r.lights);
        assert!(r.summary[0].starts_with("Two people, lit differently"), "{:?}", r.summary);
        assert!(!r.warnings.iter().any(|w| w.code == "contradicts"), "{:?}", r.warnings);
    }
    // a face that is not there any more is nobody's
    marks.whose = Some("face-9".into());
    assert_eq!(read(&marks).people.iter().filter(|p| p.named).count(), 1);
    // with one face switched off there is one person, and nothing to choose
    marks.marks.iter_mut().filter(|m| m.id.ends_with("right")).for_each(|m| m.off = true);
    assert!(read(&marks).people.is_empty());
}

#[test]
fn two_people_in_one_light_agree_on_it() {
    let (png, marks) = side_by_side("P003-triangle-1", "P003-triangle-1");
    let picture = open(&png).unwrap();
    let r = PictureRead::of(&picture.photo, Some(&picture.meter), marks).readings;
    assert!(r.people.len() == 2 && r.people.iter().all(|p| p.named), "{:?}", r.people);
    let key = &r.lights[0].evidence;
    assert!(key.iter().any(|m| m == "face-1-left") && key.iter().any(|m| m == "face-1-right"), "{key:?}");
    assert!(!r.summary[0].contains("people"), "{:?}", r.summary);
}

/// A person of another renderer whose face was found is drawn again in the set: the head that was fitted to them, turned as they
/// are, with the eyes where they are in the picture and in about their own colour.
#[test]
fn a_found_person_stands_in_the_set_as_they_do_in_the_picture() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../tests/fixtures/people");
    for name in ["P000-triangle-2", "P003-triangle-1"] {
        let opened = open(&std::fs::read(folder.join(format!("{name}.png"))).unwrap()).unwrap();
        let marks = std::fs::read_to_string(folder.join(format!("{name}.found.json"))).unwrap();
        let mut marks = Marks::parse(&marks).unwrap();
        opened.fill_in(&mut marks);
        let marks = told(&marks, &opened.facts, None);
        let readings = PictureRead::of(&opened.photo, Some(&opened.meter), marks.clone()).readings;
        let (w, h) = (opened.photo.width(), opened.photo.height());
        let set = stage(&plan(&readings, &marks, w, h, &Choices::default()), &marks, &readings, w, h);
        let [person] = &set.subjects[..] else { panic!("{name}: one person is expected") };
        assert_eq!(person.kind, lightset::set::SubjectKind::Person, "{name}");
        let truth = std::fs::read_to_string(folder.join(format!("{name}.json"))).unwrap();
        let truth: serde_json::Value = serde_json::from_str(&truth).unwrap();
        let turned = truth["truth"]["pose_deg"][0].as_f64().unwrap();
        assert!((person.yaw_deg - turned).abs() < 6.0, "{name}: turned {} of {turned}", person.yaw_deg);
        // eyes: where they are marked, scaled to the preview
        let k = f64::from(set.picture.width) / f64::from(w);
        let drawn = studio::marks(&set);
        let face = |m: &Marks| {
            m.marks.iter().find_map(|m| match &m.kind {
                MarkKind::Face(f) => Some(f.points.clone()),
                _ => None,
            })
        };
        let (drawn, seen) = (face(&drawn).unwrap(), face(&marks).unwrap());
        for point in ["eye_image_left", "eye_image_right", "nose_tip", "mouth_image_left", "chin"] {
            let off = (drawn[point][0] - k * seen[point][0]).hypot(drawn[point][1] - k * seen[point][1]);
            assert!(off < 0.025 * f64::from(set.picture.height), "{name}: {point} is {off:.1} pixels off");
        }
        let colour = person.colour.unwrap();
        assert!(colour[0] > colour[2] && colour[0] <= 0.9, "{name}: {colour:?}");
    }
}
