//! Which pictures stand out, on series whose differences are planted in numbers.

use crate::members;
use optics::geometry::AzEl;
use proptest::prelude::*;
use series::{as_table, report, shot_list};

const BOTTLE: [&str; 3] = ["front", "turned", "back"];
const SHOE: [&str; 6] = ["outer", "inner", "outer-angle", "inner-angle", "front", "back"];

fn apart(list: &str, views: &[&str], change: impl Fn(usize, &mut series::Shown)) -> Vec<(String, String, f64)> {
    let r = report(shot_list(list).expect("a list"), &members(views, change), &[]);
    r.apart.into_iter().map(|a| (a.frame, a.quantity, a.by)).collect()
}

#[test]
fn pictures_alike_agree() {
    let list = shot_list("bottle").expect("a list");
    let r = report(list, &members(&BOTTLE, |_, _| {}), &[]);
    assert!(r.apart.is_empty(), "{:?}", r.apart);
    assert!(r.says.iter().any(|s| s.contains("agree")), "{:?}", r.says);
    assert_eq!(r.missing, ["Shoulder and cap", "With its glass"]);
    assert!(r.compared.iter().all(|c| c.agrees));
}

/// Each quantity, by twice what is allowed, in the picture it was planted in and no other.
#[test]
fn what_was_changed_is_named_with_its_size() {
    type Change = fn(&mut series::Shown);
    let cases: [(&str, f64, Change); 7] = [
        ("scale", 8.0, |s| s.subject.as_mut().unwrap().length_px *= 1.08),
        ("base", -3.0, |s| s.subject.as_mut().unwrap().base_px += 30.0),
        ("upright", 2.0, |s| s.subject.as_mut().unwrap().lean_deg = Some(2.0)),
        ("background", 0.5, |s| s.ground.as_mut().unwrap().level_stops += 0.5),
        ("evenness", -0.7, |s| s.ground.as_mut().unwrap().across_stops -= 0.7),
        ("light", -1.2, |s| s.halves_stops = Some(-0.8)),
        ("aperture", -2.0, |s| s.settings.as_mut().unwrap().f_number = 5.5),
    ];
    for (what, by, change) in cases {
        let found = apart("bottle", &BOTTLE, |k, s| {
            if k == 1 {
                change(s)
            }
        });
        let hit = found.iter().find(|a| a.1 == what).unwrap_or_else(|| panic!("{what} in {found:?}"));
        assert!(hit.0 == "f1" && (hit.2 - by).abs() < 0.05, "{what}: {found:?}");
        assert!(found.iter().all(|a| a.0 == "f1"), "{found:?}");
    }
}

/// A stop more set and everything a stop brighter is one cause, not three.
#[test]
fn exposure_is_one_cause() {
    let list = shot_list("bottle").expect("a list");
    let r = report(
        list,
        &members(&BOTTLE, |k, s| {
            if k == 2 {
                s.settings.as_mut().unwrap().shutter_s *= 2.0;
                s.ground.as_mut().unwrap().level_stops += 1.0;
                s.subject_stops = s.subject_stops.map(|v| v + 1.0);
            }
        }),
        &[],
    );
    assert_eq!(r.apart.len(), 1, "{:?}", r.apart);
    assert!(r.apart[0].quantity == "exposure" && r.apart[0].says.contains("exposure that was set"), "{:?}", r.apart);
}

/// A thing seen from its end reaches nearer to the lens and stands lower in the frame: no fault. Two views alike that differ are named
/// together.
#[test]
fn views_are_compared_with_their_like() {
    let reach = |k: usize, s: &mut series::Shown| {
        let s = s.subject.as_mut().unwrap();
        let by = [0.0, 0.0, 18.0, 18.0, 34.0, 34.0][k];
        s.base_px += by;
        s.length_px *= 1.0 + by / 500.0;
    };
    assert!(apart("footwear", &SHOE, reach).is_empty());
    let list = shot_list("footwear").expect("a list");
    let r = report(
        list,
        &members(&SHOE, |k, s| {
            reach(k, s);
            if k == 1 {
                s.subject.as_mut().unwrap().length_px *= 1.1;
            }
        }),
        &[],
    );
    assert_eq!(r.apart.len(), 1, "{:?}", r.apart);
    assert!(r.apart[0].pair.is_some() && r.apart[0].says.contains("cannot tell"), "{:?}", r.apart);
}

/// Keys that were read say more than the halves of the subject.
#[test]
fn a_moved_key_is_named() {
    let found = apart("bottle", &BOTTLE, |k, s| {
        let azimuth_deg = if k == 0 { 70.0 } else { 40.0 + k as f64 };
        s.key = Some((AzEl { azimuth_deg, elevation_deg: 30.0 }, 2.0));
    });
    assert!(found.iter().any(|a| a.0 == "f0" && a.1 == "key" && a.2 > 20.0), "{found:?}");
}

#[test]
fn checks_are_answered_by_pictures_or_by_hand() {
    let list = shot_list("bottle").expect("a list");
    let m = members(&BOTTLE, |k, s| {
        if k == 0 {
            s.subject.as_mut().unwrap().lean_deg = Some(3.0);
        }
    });
    let r = report(list, &m, &["fingerprints".into()]);
    let of = |id: &str| r.checks.iter().find(|c| c.id == id).expect("a check");
    assert_eq!((of("upright").holds, of("upright").measured), (Some(false), true));
    assert_eq!((of("base-line").holds, of("same-scale").holds), (Some(true), Some(true)));
    assert_eq!((of("fingerprints").holds, of("fill").holds), (Some(true), None));
}

/// An aperture outside the list's is named though all agree.
#[test]
fn an_open_aperture_does_not_suit_a_catalogue() {
    let found = apart("bottle", &BOTTLE, |_, s| s.settings.as_mut().unwrap().f_number = 4.0);
    assert_eq!(found.len(), 3);
    assert!(found.iter().all(|a| a.1 == "aperture" && (a.2 + 2.0).abs() < 1e-9));
}

#[test]
fn what_cannot_be_told_is_said() {
    let list = shot_list("portrait-series").expect("a list");
    let m = members(&["sitter", "sitter", "sitter"], |k, s| {
        s.settings = None;
        if k == 0 {
            s.subject = None;
        }
    });
    let r = report(list, &m, &[]);
    assert!(r.untold.iter().any(|u| u.contains("no face is marked")), "{:?}", r.untold);
    assert!(r.untold.iter().any(|u| u.contains("exposure")), "{:?}", r.untold);
}

#[test]
fn the_table_has_a_row_for_each_picture() {
    let list = shot_list("bottle").expect("a list");
    let mut m = members(&BOTTLE, |_, _| {});
    m[0].name = "=cmd".into();
    let t = as_table(&m, &report(list, &m, &[])).expect("a table");
    assert_eq!(t.lines().count(), 4);
    assert!(t.contains("'=cmd"), "a name is no formula: {t}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]
    /// A series moved or brightened as a whole agrees as before: only differences count.
    #[test]
    fn only_differences_count(down in -40.0f64..40.0, stops in -2.0f64..2.0, by in 4.0f64..12.0) {
        let moved = |all: f64, more: f64| apart("bottle", &BOTTLE, move |k, s| {
            let q = s.subject.as_mut().unwrap();
            q.base_px += all;
            if k == 1 { q.length_px *= 1.0 + by / 100.0 }
            s.ground.as_mut().unwrap().level_stops += more;
            s.subject_stops = s.subject_stops.map(|v| v + more);
        });
        let (here, there) = (moved(0.0, 0.0), moved(down, stops));
        prop_assert_eq!(here.len(), there.len());
        for (a, b) in here.iter().zip(&there) {
            prop_assert_eq!((&a.0, &a.1), (&b.0, &b.1));
            prop_assert!((a.2 - b.2).abs() < 1e-6);
        }
    }
}
