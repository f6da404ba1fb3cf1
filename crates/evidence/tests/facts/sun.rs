//! The sun of a place and a time beside the lights of a picture. Its place is the algorithm's (`optics::sun` holds it against
//! the published example); here: what is said of the lights.

use super::balls_and_eyes::matte;
use evidence::marks::Marks;
use evidence::read::read;
use evidence::readings::{Readings, SunView};
use optics::photo::Photo;
use serde_json::{Value, json};

/// Golden, 17 October 2003, 12:30:30 at -7 h: the sun at 194.3 on the compass, 39.9 high (NREL/TP-560-34302, appendix A.5).
fn golden(heading: Option<f64>) -> Value {
    json!({"latitude_deg": 39.742476, "longitude_deg": -105.1786, "at": "2003-10-17T12:30:30-07:00", "lens_heading_deg": heading})
}

fn readings(photo: &Photo, sun: Value, ball: bool) -> Readings {
    let marks = if ball {
        json!([{"id": "b", "kind": "ball", "finish": "matte", "centre": [130.0, 130.0], "radius_px": 100.0}])
    } else {
        json!([])
    };
    let marks = Marks::from_value(json!({"format": "slant-marks/1", "sun": sun, "marks": marks})).unwrap();
    read(photo, &marks, None, &|| &[])
}

fn sun(photo: &Photo, facts: Value, ball: bool) -> SunView {
    readings(photo, facts, ball).sun.unwrap()
}

#[test]
fn a_key_where_the_sun_stood_is_borne_out() {
    // a lens that looks towards 340 has that sun 34.3 degrees to the left of the one behind it: 194.3 - 340 - 180 turned about
    let photo = matte(&[(-34.3, 39.9, 0.6, 0.0)], 0.02);
    let s = sun(&photo, golden(Some(340.0 - 360.0 + 0.04)), true);
    let (az, el) = (s.azimuth_deg.unwrap(), s.elevation_deg.unwrap());
    assert!((az + 34.3).abs() < 0.2 && (el - 39.9).abs() < 0.2, "{az} {el}");
    let light = s.light.clone().unwrap();
    assert!(light.agrees && light.index == 0 && light.apart_deg < 2.0, "{light:?}");
    assert!(s.says.contains("from the key") && s.says.contains("direct sun fits"), "{}", s.says);
    // it stands so high twice that day, and at the one of them that is the picture's own the lens looks as it did
    assert_eq!(s.as_high.len(), 2, "{:?}", s.as_high);
    let minutes =
        |c: &str| c.split_once(':').map(|(h, m)| 60 * h.parse::<i32>().unwrap() + m.parse::<i32>().unwrap()).unwrap();
    let own = s.as_high.iter().min_by_key(|t| (minutes(&t.clock) - 750).abs()).unwrap();
    assert!(f64::from((minutes(&own.clock) - 750).abs()) < 3.0 * own.sd_minutes + 5.0, "{own:?}");
    assert!((own.lens_heading_deg - 340.0).abs() < 12.0, "{own:?}");
}

#[test]
fn a_key_elsewhere_is_not_the_sun() {
    let photo = matte(&[(60.0, 20.0, 10.0, 0.0)], 0.02);
    let s = sun(&photo, golden(Some(340.0)), true);
    let light = s.light.unwrap();
    assert!(!light.agrees && light.apart_deg > 60.0, "{light:?}");
    assert!(s.says.contains("Not the sun"), "{}", s.says);
}

#[test]
fn a_wide_light_there_is_no_bare_sun() {
    let photo = matte(&[(-34.3, 39.9, 40.0, 0.0)], 0.02);
    let s = sun(&photo, golden(Some(340.0)), true);
    assert!(s.light.unwrap().agrees && s.says.contains("through cloud"), "{}", s.says);
}

#[test]
fn without_a_compass_only_its_height_is_held_against_the_key() {
    let photo = matte(&[(50.0, 40.0, 0.6, 0.0)], 0.02);
    let s = sun(&photo, golden(None), true);
    assert!(s.azimuth_deg.is_none() && s.light.is_none());
    assert!(s.says.contains("as high as the key") && s.says.contains("side is open"), "{}", s.says);
    // a compass that may be off by a quarter turn tells no side either: nothing is borne out by it
    let mut vague = golden(Some(340.0));
    vague["lens_heading_sd_deg"] = json!(90.0);
    let open = sun(&photo, vague, true);
    assert!(open.azimuth_deg.is_none() && open.light.is_none() && open.says.contains("side is open"), "{}", open.says);
    let low = sun(&matte(&[(50.0, 5.0, 0.6, 0.0)], 0.02), golden(None), true);
    assert!(low.says.contains("not as high as the key (-35°)"), "{}", low.says);
}

#[test]
fn at_night_there_is_none_and_without_marks_it_is_told_all_the_same() {
    let photo = matte(&[(0.0, 30.0, 5.0, 0.0)], 0.02);
    let mut night = golden(Some(0.0));
    night["at"] = json!("2003-10-17T23:30:00-07:00");
    let s = sun(&photo, night, true);
    assert!(s.height_deg < -40.0 && s.light.is_none() && s.says.contains("down"), "{}", s.says);
    assert!(s.azimuth_deg.is_none(), "nothing to draw");
    let s = sun(&photo, golden(Some(0.0)), false);
    assert!(s.light.is_none() && s.key_height_deg.is_none() && s.as_high.is_empty());
    assert!(s.says.contains("No light was read"), "{}", s.says);
    assert!(s.day_height_deg.len() == 97 && s.day_height_deg.iter().any(|h| (h - s.height_deg).abs() < 1.0));
}

#[test]
fn what_is_no_place_or_time_is_refused_by_name() {
    let refused = |field: &str, value: Value| {
        let mut facts = golden(Some(0.0));
        facts[field] = value;
        Marks::from_value(json!({"format": "slant-marks/1", "sun": facts, "marks": []})).unwrap_err()
    };
    for (field, value) in [
        ("latitude_deg", json!(91)),
        ("longitude_deg", json!(-181)),
        ("at", json!("noon")),
        ("at", json!("0003-01-01T00:00:00Z")),
        ("lens_heading_deg", json!(400)),
        ("lens_heading_sd_deg", json!(-1)),
    ] {
        let why = refused(field, value);
        assert!(why.starts_with(&format!("sun.{field}: expected")), "{field}: {why}");
    }
}
