//! A glossy can on a table of which nothing is known but its bright line and its shadow.

use evidence::marks::Marks;
use evidence::read::read;
use evidence::readings::Readings;
use optics::geometry::{AzEl, Camera};
use serde_json::json;

/// A can with bright lines at azimuths (degrees, light): at `r sin(a / 2)` from its axis, as a mirror turns by twice its own
/// angle (law of reflection), and marks of it and of its shadow under a lens that looks down by `tilt`.
fn can(lines: &[(f64, f64)], tilt: f64, az: f64, el: f64, camera: Option<f64>) -> Readings {
    let (cx, r) = (150.0, 60.0);
    let photo = trial::paint(400, 400, |x, y| {
        if (x - cx).abs() > r || !(60.0..260.0).contains(&y) {
            return 0.25;
        }
        let own = 2.0 * ((x - cx) / r).asin().to_degrees();
        let line = lines.iter().find(|(a, _)| (own - a).abs() < 4.0).map_or(0.0, |l| l.1);
        0.06 + line
    });
    let [t, a, e] = [tilt, az, el].map(f64::to_radians);
    let tall = 200.0 / t.cos();
    let long = tall / e.tan();
    let foot = [cx, 260.0];
    let tip = [foot[0] - long * a.sin(), foot[1] - long * a.cos() * t.sin()];
    let mut marks = json!({"format": "slant-marks/1", "marks": [
        {"id": "can", "kind": "cylinder", "axis": [[cx, 250.0], [cx, 70.0]], "radius_px": r},
        {"id": "shadow", "kind": "cast", "base": foot, "top": [cx, 60.0], "tip": tip}]});
    if let Some(pitch) = camera {
        marks["camera"] = json!({"vfov_deg": 2.0, "pitch_deg": pitch});
    }
    read(&photo, &Marks::from_value(marks).unwrap(), None, &|| &[])
}

/// A printed can that does not shine, lit from a side and from all around (Lambert 1760), with its shadow if there is one.
fn printed(tilt: f64, az: f64, el: f64, shadow: bool) -> Readings {
    let (cx, r) = (200.0, 50.0);
    let photo = trial::paint(400, 400, |x, y| {
        if (x - cx).abs() > r || !(80.0..260.0).contains(&y) {
            return 0.3;
        }
        let ink = if (120.0..160.0).contains(&y) { 0.2 } else { 0.5 };
        let normal = ((x - cx) / r).asin() - f64::to_radians(az);
        ink * (0.2 + normal.cos().max(0.0))
    });
    let [t, a, e] = [tilt, az, el].map(f64::to_radians);
    let long = 180.0 / t.cos() / e.tan();
    let foot = [cx, 260.0];
    let tip = [foot[0] - long * a.sin(), foot[1] - long * a.cos() * t.sin()];
    let mut marks = json!({"format": "slant-marks/1", "marks": [
        {"id": "can", "kind": "cylinder", "axis": [[cx, 255.0], [cx, 85.0]], "radius_px": r}]});
    if shadow {
        let cast = json!({"id": "shadow", "kind": "cast", "base": foot, "top": [cx, 80.0], "tip": tip});
        marks["marks"].as_array_mut().unwrap().push(cast);
    }
    read(&photo, &Marks::from_value(marks).unwrap(), None, &|| &[])
}

#[test]
fn the_shading_of_a_print_and_a_shadow_are_a_light() {
    for (tilt, az, el) in [(20.0, 45.0, 40.0), (15.0, -65.0, 35.0), (25.0, 20.0, 50.0)] {
        let r = printed(tilt, az, el, true);
        let side = r.by_mark["can"].shaded.unwrap();
        assert!((side.azimuth_deg - az).abs() < 4.0, "{side:?} for {az}");
        let at = level(&r, tilt);
        let l = &r.lights[0];
        assert!((at.azimuth_deg - az).abs() < 12.0 && (at.elevation_deg - el).abs() < 10.0, "{at:?} for {az}/{el}");
        assert!(l.direction_sd_deg > 2.0 && l.evidence.contains(&"can".to_owned()), "{l:?}");
        assert!(r.by_mark["shadow"].says.contains("The shading of can"), "{}", r.by_mark["shadow"].says);
    }
}

#[test]
fn the_shading_alone_tells_a_side_and_what_would_tell_more() {
    for az in [-80.0, 30.0] {
        let r = printed(20.0, az, 40.0, false);
        let side = if az < 0.0 { "left" } else { "right" };
        let first = &r.summary[0];
        assert!(r.lights.is_empty() && first.contains(side) && first.contains("shadow"), "{first}");
        assert!(r.by_mark["can"].says.contains("Its shading says"), "{}", r.by_mark["can"].says);
    }
}

fn level(r: &Readings, tilt: f64) -> AzEl {
    let camera = Camera { pitch: f64::to_radians(tilt), ..Camera::far(400, 400) };
    AzEl::of(&camera.to_set(&r.lights[0].at().vector()))
}

#[test]
fn a_line_and_a_shadow_are_a_light() {
    for (tilt, az, el) in [(20.0, 50.0, 40.0), (30.0, -70.0, 30.0), (15.0, -40.0, 55.0)] {
        let r = can(&[(az, 0.5)], tilt, az, el, None);
        assert_eq!(r.lights.len(), 1, "{:?}", r.summary);
        let (at, l) = (level(&r, tilt), &r.lights[0]);
        assert!((at.azimuth_deg - az).abs() < 4.0 && (at.elevation_deg - el).abs() < 4.0, "{at:?} for {az}/{el}");
        assert!(l.direction_sd_deg > 1.5 && l.direction_sd_deg < 25.0, "{}", l.direction_sd_deg);
        assert!(
            l.evidence.contains(&"can".to_owned()) && l.evidence.contains(&"shadow".to_owned()),
            "{:?}",
            l.evidence
        );
        let says = &r.by_mark["shadow"].says;
        let near = |d: i32| says.contains(&format!("looks down by {:.0} ±", tilt + f64::from(d)));
        assert!((-2..=2).any(near), "{says}");
    }
}

#[test]
fn the_line_of_another_light_is_passed_over() {
    // the brighter line stands where the shadow falls: it cannot cast it
    let r = can(&[(-60.0, 0.7), (50.0, 0.4)], 20.0, 50.0, 40.0, None);
    assert!((level(&r, 20.0).azimuth_deg - 50.0).abs() < 4.0, "{:?}", r.summary);
}

#[test]
fn two_lines_that_fit_are_both_kept() {
    let r = can(&[(35.0, 0.5), (62.0, 0.5)], 20.0, 50.0, 40.0, None);
    assert!(r.warnings.iter().any(|w| w.code == "line_open"), "{:?}", r.warnings);
}

#[test]
fn two_lines_of_one_light_are_no_doubt() {
    // a light whose line the label cuts in two
    let r = can(&[(46.0, 0.5), (55.0, 0.45)], 20.0, 50.0, 40.0, None);
    assert!(r.warnings.iter().all(|w| w.code != "line_open"), "{:?}", r.warnings);
    assert_eq!(r.lights.len(), 1);
}

#[test]
fn without_a_line_only_the_side_round_the_picture_is_told() {
    let r = can(&[], 20.0, 50.0, 40.0, None);
    assert!(r.lights.is_empty() && r.by_mark["shadow"].round.is_some());
    assert!(r.warnings.iter().any(|w| w.code == "shadow_camera"));
}

#[test]
fn where_the_camera_is_known_the_shadow_speaks_for_itself() {
    let r = can(&[(50.0, 0.5)], 20.0, 50.0, 40.0, Some(20.0));
    let at = level(&r, 20.0);
    assert!((at.azimuth_deg - 50.0).abs() < 3.0 && (at.elevation_deg - 40.0).abs() < 3.0, "{at:?}");
    assert!(!r.by_mark["shadow"].says.contains("bright line"));
}
