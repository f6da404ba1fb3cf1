//! Marks that no other bears out are named, and their lights are not taken: pictures painted with Lambert's law.

use evidence::marks::Marks;
use evidence::read::read;
use evidence::readings::Readings;
use optics::geometry::{AzEl, Camera, SeenSphere};
use optics::photo::Photo;
use proptest::prelude::*;

const R: f64 = 60.0;

/// A row of matte balls, each under one far light of its own.
fn row(lights: &[AzEl]) -> (Photo, Marks) {
    let n = lights.len() as u32;
    let (w, h) = (160 * n, 160);
    let camera = Camera::far(w, h);
    let centre = |i: usize| [80.0 + 160.0 * i as f64, 80.0];
    let balls: Vec<SeenSphere> = (0..lights.len()).map(|i| SeenSphere::from_silhouette(camera, centre(i), R)).collect();
    let photo = trial::paint(w, h, |x, y| {
        let i = ((x / 160.0) as usize).min(lights.len() - 1);
        balls[i].normal_and_view(x, y).map_or(0.03, |(n, _)| 0.02 + 0.6 * n.dot(&lights[i].vector()).max(0.0))
    });
    let marks: Vec<String> = (0..lights.len())
        .map(|i| {
            let [x, y] = centre(i);
            format!(r#"{{"id":"b{i}","kind":"ball","finish":"matte","centre":[{x},{y}],"radius_px":{R}}}"#)
        })
        .collect();
    let marks = Marks::parse(&format!(r#"{{"format":"slant-marks/1","marks":[{}]}}"#, marks.join(","))).unwrap();
    (photo, marks)
}

fn named(r: &Readings) -> Vec<&str> {
    r.warnings.iter().filter(|w| w.code == "contradicts").filter_map(|w| w.mark.as_deref()).collect()
}

const LEFT: AzEl = AzEl { azimuth_deg: -50.0, elevation_deg: 30.0 };
const RIGHT: AzEl = AzEl { azimuth_deg: 60.0, elevation_deg: 10.0 };

#[test]
fn one_that_contradicts_two_is_named_and_not_taken() {
    let (photo, marks) = row(&[LEFT, RIGHT, LEFT]);
    let r = read(&photo, &marks, None, &|| &[]);
    assert_eq!(named(&r), ["b1"]);
    assert_eq!(r.lights.len(), 1, "{}", r.slant);
    let mut by = r.lights[0].evidence.clone();
    by.sort();
    assert!(r.lights[0].azimuth_deg < 0.0 && by == ["b0", "b2"], "{} {by:?}", r.slant);
    // what it says by itself is still told
    assert!((r.by_mark["b1"].lights[0].azimuth_deg - 60.0).abs() < 1.0);
}

#[test]
fn of_two_that_contradict_both_are_named_and_both_are_taken() {
    let (photo, marks) = row(&[LEFT, RIGHT]);
    let r = read(&photo, &marks, None, &|| &[]);
    assert_eq!(named(&r), ["b0", "b1"]);
    assert_eq!(r.lights.len(), 2, "{}", r.slant);
}

#[test]
fn marks_that_agree_and_a_mark_by_itself_are_not_named() {
    for lights in [&[LEFT, LEFT, LEFT][..], &[LEFT, LEFT], &[RIGHT]] {
        let (photo, marks) = row(lights);
        let r = read(&photo, &marks, None, &|| &[]);
        assert!(named(&r).is_empty(), "{:?}", r.warnings);
        assert_eq!(r.lights.len(), 1, "{}", r.slant);
    }
}

#[test]
fn where_two_pairs_stand_against_each_other_nobody_is_set_aside() {
    let (photo, marks) = row(&[LEFT, RIGHT, LEFT, RIGHT]);
    let r = read(&photo, &marks, None, &|| &[]);
    assert!(named(&r).is_empty(), "{:?}", r.warnings);
    assert_eq!(r.lights.len(), 2, "{}", r.slant);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]

    /// Whichever of three is the odd one out, and from wherever its light comes, it is the one that is named.
    #[test]
    fn the_odd_one_of_three_is_named(odd in 0usize..3, az in 20f64..70.0, el in -10f64..40.0) {
        let other = AzEl { azimuth_deg: az, elevation_deg: el };
        let mut lights = [LEFT; 3];
        lights[odd] = other;
        let (photo, marks) = row(&lights);
        let r = read(&photo, &marks, None, &|| &[]);
        let odd = format!("b{odd}");
        prop_assert_eq!(named(&r), [odd.as_str()]);
        prop_assert!(r.lights.iter().all(|l| !l.evidence.contains(&odd)));
    }
}
