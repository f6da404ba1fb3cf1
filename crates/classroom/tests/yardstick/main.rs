//! The yardstick of a class, held against what the trade and the arithmetic say.

mod house;
mod together;

use classroom::*;
use evidence::readings::Readings;
use judging::compare::Comparison;
use judging::critique::Verdict;
use optics::photo::{Photo, Samples};
use optics::tone::Encoding;
use proptest::prelude::*;
use serde_json::json;
use time::{Duration, OffsetDateTime};

fn readings(contrast: f64) -> Readings {
    serde_json::from_value(json!({
        "format": "slant-readings/1", "lights": [], "slant": "", "exposure": {"clipped_fraction": 0.0, "median_stops_from_grey": 0.0},
        "ratios": {"lit_to_shadow_stops": contrast, "range_stops": [contrast - 0.2, contrast + 0.2], "key_to_fill": 2.0, "key_plus_fill_to_fill": 3.0}
    }))
    .expect("readings")
}

fn compared(az: f64, el: f64, size: f64, exposure: f64) -> Comparison {
    let angle = az.hypot(el);
    serde_json::from_value(json!({
        "lights": [{"role": "key", "d_azimuth_deg": az, "d_elevation_deg": el, "direction_deg": angle, "direction_sd_deg": 3.0, "d_angular_size_ratio": size}],
        "d_exposure_stops": exposure, "d_exposure_sd_stops": 0.1, "d_mired_sd": 0.0, "ledger": [], "next_moves": [], "warnings": []
    }))
    .expect("a comparison")
}

fn assignment() -> Assignment {
    serde_json::from_value(json!({
        "title": "Triangle", "brief": "dramatic", "late": {"kind": "costs", "percent_a_day": 10.0}, "due": "2026-10-25T22:00:00Z", "zone": "Europe/Berlin",
        "rubric": [
            {"id": "place", "name": "Place of the key", "points": 10.0, "by": "measured", "measure": "direction"},
            {"id": "size", "name": "Size of the key", "points": 5.0, "by": "measured", "measure": "size"},
            {"id": "brief", "name": "What the brief asks", "points": 10.0, "by": "measured", "measure": "brief"},
            {"id": "idea", "name": "Idea", "points": 5.0, "by": "judged"}]
    }))
    .expect("an assignment")
}

#[test]
fn the_distance_is_told_by_its_parts() {
    let d = distance(&readings(2.0), &readings(1.0), &compared(6.0, -8.0, 0.5, 0.4));
    let of = |k| d.part(k).expect("a part");
    // 6 and 8 degrees make 10 (right angle), half as large is one halving (definition)
    assert!((of(PartKind::Direction).value - 10.0).abs() < 1e-9);
    assert!((of(PartKind::Size).value + 1.0).abs() < 1e-9);
    assert!((of(PartKind::Contrast).value + 1.0).abs() < 1e-9);
    assert_eq!(d.key_off_deg, Some([-8.0, 6.0]));
    assert!(of(PartKind::Direction).says.contains("8\u{b0} lower") && of(PartKind::Direction).says.contains("right"));
    assert!(of(PartKind::Size).says.contains("2.0 times smaller"));
    // one, two, two and one step: the root of 10 / 4
    assert!((d.steps.expect("steps") - 2.5f64.sqrt()).abs() < 1e-9, "{:?}", d.steps);
    // nothing in common: nothing is claimed
    let nothing = distance(&serde_json::from_value(json!({"format": "slant-readings/1", "lights": [], "slant": "", "exposure": {"clipped_fraction": 0.0, "median_stops_from_grey": 0.0}})).unwrap(), &readings(1.0), &Comparison::default());
    assert_eq!(nothing.steps, None);
}

/// A key on the other side is far off, whatever light stands where the reference has its key.
#[test]
fn a_key_on_the_wrong_side_is_far() {
    let with = |az: f64| -> Readings {
        let mut r = readings(1.0);
        let key = json!([{"role": "key", "azimuth_deg": az, "elevation_deg": 0.0, "direction_sd_deg": 3.0, "frame": "camera",
                          "angular_size_deg": 20.0, "level_stops": 0.0, "evidence": []}]);
        r.lights = serde_json::from_value(key).unwrap();
        r
    };
    let d = distance(&with(40.0), &with(-40.0), &compared(1.0, 1.0, 1.0, 0.0));
    let p = d.part(PartKind::Direction).expect("a part");
    // level directions: eighty degrees apart (geometry)
    assert!((p.value - 80.0).abs() < 1e-9 && p.steps > 7.0, "{p:?}");
    assert_eq!(d.key_off_deg, Some([0.0, -80.0]));
}

#[test]
fn a_light_that_only_one_has_counts() {
    let c: Comparison = serde_json::from_value(json!({
        "lights": [{"role": "fill", "direction_sd_deg": 3.0, "only_in": "take"}], "d_exposure_sd_stops": 0.1, "d_mired_sd": 0.0, "ledger": [], "next_moves": [], "warnings": []
    })).unwrap();
    let d = distance(&readings(1.0), &readings(1.0), &c);
    assert!(d.part(PartKind::Levels).is_some_and(|p| p.steps > 2.0 && p.says.contains("only one picture has")));
}

#[test]
fn what_is_measured_is_proposed_with_its_evidence_and_what_cannot_be_told_is_not() {
    let a = assignment();
    let d = distance(&readings(2.0), &readings(2.0), &compared(1.0, -2.0, 4.0, 0.0));
    let finding = |outcome: &str| json!({"rule": "r", "outcome": outcome, "title": "", "says": "", "change": null, "school": "", "source": "", "value": null, "spread": null, "limit": 0.0, "unit": "", "pin": null, "evidence": [], "by_brief": true});
    let v: Verdict = serde_json::from_value(json!({"brief": "dramatic", "findings": [finding("holds"), finding("holds"), finding("fault"), finding("unsure"), finding("cannot_tell")]})).unwrap();
    let p = proposals(&a.rubric, Some(&d), Some(&v));
    assert_eq!(
        p.iter().map(|p| p.criterion.as_str()).collect::<Vec<_>>(),
        ["place", "size", "brief"],
        "what a person judges is not proposed"
    );
    assert_eq!(p[0].points, Some(10.0), "within a step: all points");
    assert!(p[0].evidence.contains("2\u{b0} lower"));
    // two doublings are four steps of half a doubling: (5 - 4) / 4.25 of five points, in halves
    assert_eq!(p[1].points, Some(1.0));
    // two hold, one is open, of four: 2.5 / 4 of ten points
    assert_eq!(p[2].points, Some(6.5));
    let none = proposals(&a.rubric, None, None);
    assert!(none.iter().all(|p| p.points.is_none() && !p.evidence.is_empty()));
}

#[test]
fn points_add_up_once_all_are_there() {
    let a = assignment();
    let mut given: Awarded = [("place", 10.0), ("size", 2.5), ("brief", 5.0)].map(|(k, v)| (k.to_owned(), v)).into();
    assert_eq!(share_of(&a.rubric, &given), None);
    given.insert("idea".into(), 99.0);
    // no more than a criterion has: 10 + 2.5 + 5 + 5 of 30
    assert!((share_of(&a.rubric, &given).unwrap() - 0.75).abs() < 1e-9);
    // what the rubric no longer has counts nothing
    given.insert("gone".into(), 50.0);
    assert!((share_of(&a.rubric, &given).unwrap() - 0.75).abs() < 1e-9);
}

#[test]
fn graders_count_in_their_mean_and_those_far_apart_are_told() {
    let rubric = assignment().rubric;
    let given = |points: [f64; 4]| Given {
        points: ["place", "size", "brief", "idea"].map(str::to_owned).into_iter().zip(points).collect(),
        rubric: rubric.clone(),
    };
    // 30 and 24 of 30 points: 0.9 in the mean, a fifth apart
    let two = counted(&[given([10.0, 5.0, 10.0, 5.0]), given([8.0, 4.0, 8.0, 4.0])]);
    assert!((two.share.unwrap() - 0.9).abs() < 1e-9 && two.disputed);
    assert_eq!(two.points["place"], 9.0);
    let near = counted(&[given([10.0, 5.0, 10.0, 5.0]), given([8.0, 5.0, 10.0, 5.0])]);
    assert!(!near.disputed);
    // who has not given all yet counts in what they gave, not in the share
    let mut half = given([2.0, 1.0, 1.0, 1.0]);
    half.points.remove("idea");
    let c = counted(&[given([10.0, 5.0, 10.0, 5.0]), half]);
    assert!(c.share == Some(1.0) && c.points["place"] == 6.0 && !c.disputed, "{c:?}");
    assert_eq!(counted(&[]), Counted::default());
    // a day late at ten per cent: nine tenths of what was given
    assert!((Lateness { late: true, days: 1, keeps: 0.9 }.counts(0.8) - 0.72).abs() < 1e-9);
}

/// The hour that comes twice when clocks go back (Europe, 25 October 2026, 01:00 UTC) changes nothing: dates are instants.
#[test]
fn late_is_told_by_instants_whatever_the_clock_on_the_wall_says() {
    let a = assignment();
    let due = a.due.unwrap();
    let at = |h: i64| lateness(&a, due + Duration::hours(h)).unwrap();
    assert!(!at(0).late && !at(-48).late);
    assert_eq!((at(1).late, at(1).days, at(1).keeps), (true, 1, 0.9));
    assert_eq!((at(24).days, at(23).days, at(49).days), (2, 1, 3));
    assert_eq!(at(24 * 30).keeps, 0.0);
    assert!(lateness(&Assignment { late: LateRule::Closed, ..assignment() }, due + Duration::seconds(1)).is_err());
    assert!(lateness(&Assignment { late: LateRule::Closed, ..assignment() }, due).is_ok());
    assert_eq!(
        lateness(&Assignment { late: LateRule::Told, ..assignment() }, due + Duration::days(9)).unwrap().keeps,
        1.0
    );
    assert!(
        !lateness(&Assignment { due: None, ..assignment() }, OffsetDateTime::UNIX_EPOCH + Duration::days(40000))
            .unwrap()
            .late
    );
}

#[test]
fn a_bad_assignment_is_refused_by_its_field() {
    let with = |change: &dyn Fn(&mut Assignment)| {
        let mut a = assignment();
        change(&mut a);
        a.check().expect_err("refused")
    };
    assert_eq!(assignment().check(), Ok(()));
    assert!(with(&|a| a.title = " ".into()).starts_with("title:"));
    assert!(with(&|a| a.text = "x".repeat(9000)).starts_with("text:"));
    assert!(with(&|a| a.rubric.clear()).starts_with("rubric:"));
    assert!(with(&|a| a.rubric[1].id = "place".into()).starts_with("rubric[1].id:"));
    assert!(with(&|a| a.rubric[0].points = f64::NAN).starts_with("rubric[0].points:"));
    assert!(with(&|a| a.rubric[0].measure = None).starts_with("rubric[0].measure:"));
    assert!(with(&|a| a.rubric[3].measure = Some(Measure::Size)).starts_with("rubric[3].measure:"));
    assert!(with(&|a| a.late = LateRule::Costs { percent_a_day: 300.0 }).starts_with("late."));
    assert!(with(&|a| a.weight = -1.0).starts_with("weight:"));
}

#[test]
fn the_lowest_are_dropped_and_something_is_left() {
    let cells = [(Some(0.5), 1.0), (Some(0.9), 2.0), (None, 1.0), (Some(0.1), 1.0)];
    // (0.1 + 0.5 + 2 * 0.9) / 4
    assert!((final_share(&cells, 0).unwrap() - 0.6).abs() < 1e-9);
    assert!((final_share(&cells, 1).unwrap() - 2.3 / 3.0).abs() < 1e-9);
    assert!((final_share(&cells, 9).unwrap() - 0.9).abs() < 1e-9);
    assert_eq!(final_share(&[(None, 1.0), (Some(1.0), 0.0)], 0), None);
}

#[test]
fn what_most_of_a_class_do_is_said() {
    let of = |el: f64| distance(&readings(2.0), &readings(2.0), &compared(0.0, el, 1.0, 0.0));
    // 21 of 28 keys 14 degrees lower
    let all: Vec<Distance> = (0..28).map(|i| of(if i < 21 { -14.0 } else { 1.0 })).collect();
    let t = trends(&all);
    assert_eq!(t[0].says, "21 of 28 keys are lower than the reference; in the median by 14 degrees.");
    assert_eq!(t.len(), 1);
    assert!(trends(&[]).is_empty());
    assert!(trends(&[of(-20.0), of(20.0)]).is_empty(), "a half each way is no trend");
}

#[test]
fn the_table_is_read_back_and_no_name_is_a_formula() {
    let row = |name: &str| BookRow {
        student: "1".into(),
        name: name.into(),
        cells: vec![BookCell { share: Some(0.755), ..BookCell::default() }, BookCell::default()],
        total: Some(0.755),
    };
    let text = as_table(&["Triangle, \"first\"".into(), "Split".into()], &[row("=cmd()"), row("Ana; Ode")]).unwrap();
    let mut back = csv::Reader::from_reader(&text[..]);
    assert_eq!(
        back.headers().unwrap().iter().collect::<Vec<_>>(),
        ["Student", "Triangle, \"first\" [%]", "Split [%]", "Total [%]", "Id"]
    );
    let rows: Vec<_> = back.records().map(Result::unwrap).collect();
    assert_eq!(&rows[0][0], "'=cmd()");
    assert_eq!((&rows[1][0], &rows[1][1], &rows[1][2], &rows[1][3]), ("Ana; Ode", "75.5", "", "75.5"));
}

fn picture(w: u32, h: u32, of: impl Fn(f64, f64) -> f64) -> Photo {
    let mut data = Vec::new();
    for y in 0..h {
        for x in 0..w {
            let v = (255.0 * of(f64::from(x) / f64::from(w), f64::from(y) / f64::from(h)).clamp(0.0, 1.0)) as u8;
            data.extend([v, v, v]);
        }
    }
    Photo::new(w, h, Samples::U8(data), &Encoding::Srgb).expect("a picture")
}

#[test]
fn a_copy_is_known_when_scaled_brightened_and_coarsened_and_another_take_is_not() {
    let scene =
        |x: f64, y: f64| 0.5 + 0.3 * (7.0 * x + 2.0 * y).sin() * (5.0 * y - x).cos() + 0.1 * (31.0 * x * y).sin();
    let print = |w: u32, h: u32, of: &dyn Fn(f64, f64) -> f64| finger(&picture(w, h, of)).print().expect("a print");
    let a = print(400, 300, &scene);
    assert_eq!(a, print(400, 300, &scene));
    assert!(a.is_near(&print(230, 172, &scene)), "scaled");
    assert!(a.is_near(&print(400, 300, &|x, y| 1.15 * scene(x, y) + 0.02)), "brighter");
    assert!(a.is_near(&print(400, 300, &|x, y| (scene(x, y) * 20.0).round() / 20.0)), "coarse");
    // the light moved: another picture
    assert!(!a.is_near(&print(400, 300, &|x, y| scene(x + 0.12, y))));
    for none in ["", "12", &"g".repeat(128), &"\u{e9}".repeat(64)] {
        assert_eq!(Finger(none.into()).print(), None);
    }
}

proptest! {
    /// No more than all points, never less than none, and nearer is never worse.
    #[test]
    fn nearer_is_never_worse(a in 0.0..90.0f64, b in 0.0..90.0f64) {
        let rubric = assignment().rubric;
        let points = |deg: f64| {
            let d = distance(&readings(1.0), &readings(1.0), &compared(0.0, deg, 1.0, 0.0));
            proposals(&rubric, Some(&d), None)[0].points.unwrap()
        };
        let (near, far) = (points(a.min(b)), points(a.max(b)));
        prop_assert!((0.0..=10.0).contains(&near) && near >= far);
    }
}
