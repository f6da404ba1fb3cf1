//! Outlines, rims, backgrounds and patterns: painted from their formulas, read back.

use direction::{cast, contour, gradient, pattern, rim};
use evidence::marks::Marks;
use evidence::read::read;
use optics::geometry::{AzEl, angle_between};
use proptest::prelude::*;
use serde_json::json;
use trial::paint;

/// A matte ball of radius 70 at 100, 100 under one distant light with some ambient, on a dark ground.
fn ball(x: f64, y: f64, az: f64, el: f64) -> f64 {
    let (u, v) = ((x - 100.0) / 70.0, (100.0 - y) / 70.0);
    let z2 = 1.0 - u * u - v * v;
    if z2 < 0.0 {
        return 0.02;
    }
    let l = AzEl { azimuth_deg: az, elevation_deg: el }.vector();
    0.6 * (u * l.x + v * l.y + z2.sqrt() * l.z).max(0.0) + 0.05
}

/// Points along the ball's outline, walked clockwise on the screen from one angle to another.
fn arc(from: f64, to: f64) -> Vec<[f64; 2]> {
    (0..=60)
        .map(|i| {
            let t = (from + (to - from) * f64::from(i) / 60.0).to_radians();
            [100.0 + 70.0 * t.cos(), 100.0 + 70.0 * t.sin()]
        })
        .collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]
    #[test]
    fn an_outline_tells_the_side_the_light_comes_from(az in -80f64..80.0, el in -40f64..60.0) {
        let l = AzEl { azimuth_deg: az, elevation_deg: el }.vector();
        prop_assume!(l.x.hypot(l.y) > 0.4);
        let photo = paint(200, 200, |x, y| ball(x, y, az, el));
        // Nillius & Eklundh 2001: the picture-plane angle is that of (L_x, L_y).
        let r = contour::read(&photo, &arc(0.0, 359.0), true).unwrap();
        let off = (r.towards[0] * l.y - r.towards[1] * l.x).atan2(r.towards[0] * l.x + r.towards[1] * l.y);
        prop_assert!(off.to_degrees().abs() < 3.0, "{:.1} deg", off.to_degrees());
        prop_assert!(off.abs() < 2.0 * r.sd);
    }

    #[test]
    fn a_shadow_s_line_on_any_surface_is_the_ray_seen_from_afar(az in -150f64..150.0, el in 5f64..80.0, nx in -0.6f64..0.6, ny in -0.6f64..0.6) {
        // A plane of any tilt: tip = top - t L, seen along z (orthographic).
        let l = AzEl { azimuth_deg: az, elevation_deg: el }.vector();
        let n = nalgebra::Vector3::new(nx, ny, 1.0).normalize();
        let top = nalgebra::Vector3::new(0.0, 0.0, 0.0) + n * 0.3;
        let down = n.dot(&l);
        prop_assume!(down > 0.2 && l.x.hypot(l.y) > 0.2);
        let tip = top - l * (0.3 / down);
        let px = |p: nalgebra::Vector3<f64>| [300.0 + 400.0 * p.x, 300.0 - 400.0 * p.y];
        let (towards, _) = cast::round_picture(
            cast::CastPoints { base: [0.0, 0.0], top: px(top), tip: px(tip) },
            cast::PointsSd { mark: 0.5, soft: 0.0 },
        )
        .unwrap();
        let k = l.x.hypot(l.y);
        prop_assert!((towards[0] - l.x / k).abs() < 1e-6 && (towards[1] - l.y / k).abs() < 1e-6);
    }
}

#[test]
fn an_outline_that_cannot_tell_says_so() {
    let photo = paint(200, 200, |x, y| ball(x, y, 0.0, 0.0));
    assert_eq!(contour::read(&photo, &arc(0.0, 359.0), true).unwrap_err(), contour::ContourProblem::Even);
    assert_eq!(contour::read(&photo, &arc(0.0, 20.0), true).unwrap_err(), contour::ContourProblem::Short);
    let side = paint(200, 200, |x, y| ball(x, y, 60.0, 20.0));
    assert_eq!(contour::read(&side, &arc(10.0, 50.0), true).unwrap_err(), contour::ContourProblem::Straight);
}

#[test]
fn a_rim_s_width_is_the_crescent_s() {
    // The crescent of a ball lit at the angle t from the viewer is R (1 + cos t) wide (geometry of the moon's phases).
    for off in [120f64, 135.0] {
        let photo = paint(200, 200, |x, y| {
            ball(x, y, off, 0.0) + if (x - 100.0).hypot(y - 100.0) < 70.0 { 0.0 } else { -0.01 }
        });
        let r = rim::read(&photo, [120.0, 100.0], [185.0, 100.0], Some(70.0)).unwrap();
        let (angle, sd) = r.off_axis.unwrap();
        assert!((angle.to_degrees() - off).abs() < 2.0 * sd.to_degrees() && sd.to_degrees() < 20.0, "{off}: {r:?}");
        assert!(r.over_stops > 1.0 && r.outward[0] > 0.99);
    }
    let flat = paint(200, 200, |_, _| 0.2);
    assert_eq!(rim::read(&flat, [120.0, 100.0], [185.0, 100.0], None).unwrap_err(), rim::RimProblem::NoRim);
}

#[test]
fn a_glow_has_its_centre_and_spill_its_side() {
    let corners = [[20.0, 20.0], [180.0, 20.0], [180.0, 140.0], [20.0, 140.0]];
    // a glow that falls by a stop at 60 pixels
    let glow = paint(200, 160, |x, y| 0.4 * (-((x - 120.0).powi(2) + (y - 70.0).powi(2)) / 3600.0).exp2());
    let r = gradient::read(&glow, &corners).unwrap();
    let top = r.top.unwrap();
    assert!((top[0] - 120.0).abs() < 2.0 && (top[1] - 70.0).abs() < 2.0, "{r:?}");
    // spill from the right, a stop for 80 pixels: two stops over the width
    let spill = paint(200, 160, |x, _| 0.05 * (x / 80.0).exp2());
    let r = gradient::read(&spill, &corners).unwrap();
    assert!(r.towards[0] > 0.99 && (r.stops - 2.0).abs() < 0.05, "{r:?}");
    assert!(r.top.is_none_or(|t| t[0] > 180.0), "{r:?}");
}

#[test]
fn blinds_have_their_spacing_slant_and_depth() {
    // Bands 30 pixels apart, turned by 20 degrees from level, 3 stops deep; edges ramp over 6 pixels (10 to 90 %: 4.8).
    let turn = 20f64.to_radians();
    let photo = paint(300, 300, |x, y| {
        let t = (x * turn.sin() + y * turn.cos()).rem_euclid(30.0);
        let lit = if t < 15.0 { (t / 6.0).min(1.0) } else { (1.0 - (t - 15.0) / 6.0).max(0.0) };
        0.05 + 0.35 * lit
    });
    let r = pattern::read(&photo, [150.0, 30.0], [150.0, 270.0]).unwrap();
    assert!((r.spacing_px.unwrap() - 30.0).abs() < 0.8, "{r:?}");
    assert!((r.run_deg - 20.0).abs() < 2.0, "{r:?}");
    assert!((r.contrast_stops - 3.0).abs() < 0.2 && r.unevenness < 0.05, "{r:?}");
    assert!((r.edge_px - 4.8).abs() < 0.8, "{r:?}");
    assert!(pattern::read(&paint(100, 100, |_, _| 0.3), [10.0, 10.0], [90.0, 90.0]).is_err());
}

#[test]
fn an_outline_turns_a_doubtful_key_and_a_wrong_one_is_named() {
    let photo = paint(200, 200, |x, y| ball(x, y, 45.0, 20.0));
    let with = |outward: &str, points: Vec<[f64; 2]>| {
        let marks = Marks::from_value(json!({"format": "slant-marks/1", "marks": [
            {"id": "b", "kind": "ball", "finish": "matte", "centre": [100, 100], "radius_px": 70},
            {"id": "o", "kind": "contour", "points": points, "outward": outward}]}))
        .unwrap();
        read(&photo, &marks, None, &|| &[])
    };
    let good = with("left", arc(0.0, 359.0));
    assert!(good.lights[0].evidence.contains(&"o".to_owned()), "{:?}", good.lights);
    let at = AzEl { azimuth_deg: good.lights[0].azimuth_deg, elevation_deg: good.lights[0].elevation_deg }.vector();
    let want = AzEl { azimuth_deg: 45.0, elevation_deg: 20.0 }.vector();
    assert!(angle_between(&at, &want).to_degrees() < 0.5);
    // the background on the wrong hand turns it round: named, not believed
    let mut half = arc(0.0, 359.0);
    half.reverse();
    let bad = with("right", half.iter().map(|p| [200.0 - p[0], 200.0 - p[1]]).collect());
    assert!(!bad.lights.is_empty());
    let says = with("left", half).warnings;
    assert!(says.iter().any(|w| w.code == "clock_disagrees" || w.code == "contour_unread"), "{says:?}");
}

#[test]
fn what_the_evidence_leaves_open_is_said_with_a_test() {
    // One light and some ambient on a matte ball: the room or a board may lift the shadows (common practice).
    let photo = paint(200, 200, |x, y| ball(x, y, 50.0, 20.0));
    let marks = |more: serde_json::Value| {
        let mut list =
            vec![json!({"id": "b", "kind": "ball", "finish": "matte", "centre": [100, 100], "radius_px": 70})];
        list.extend(more.as_array().cloned().unwrap_or_default());
        Marks::from_value(json!({"format": "slant-marks/1", "marks": list})).unwrap()
    };
    let r = read(&photo, &marks(json!([])), None, &|| &[]);
    let q = r.questions.iter().find(|q| q.about.contains("shadows")).unwrap();
    let sum: f64 = q.options.iter().map(|o| o.probability).sum();
    assert!((sum - 1.0).abs() < 0.02 && q.options.len() >= 2 && q.test.contains("black board"), "{q:?}");
    // the picture is grey: where sides are compared, that is said
    let sides = json!([{"id": "l", "kind": "patch", "role": "lit", "polygon": [[120, 90], [140, 90], [140, 110]]},
        {"id": "s", "kind": "patch", "role": "shadow", "polygon": [[50, 90], [60, 90], [60, 110]]}]);
    let both = read(&photo, &marks(sides), None, &|| &[]);
    assert!(both.warnings.iter().any(|w| w.code == "monochrome"), "{:?}", both.warnings);
    // a background that brightens towards the key's side is more likely its spill
    let spill = paint(200, 200, |x, y| {
        if (x - 100.0).hypot(y - 100.0) < 70.0 { ball(x, y, 50.0, 20.0) } else { 0.05 * (x / 60.0).exp2() }
    });
    let r = read(
        &spill,
        &marks(json!([{"id": "g", "kind": "gradient", "polygon": [[2, 2], [198, 2], [198, 26], [2, 26]]}])),
        None,
        &|| &[],
    );
    let q = r.questions.iter().find(|q| q.about.contains("background")).unwrap();
    assert!(q.options[0].says.contains("Spill of the key"), "{q:?}");
}

#[test]
fn a_shadow_on_a_face_alone_tells_the_side_in_words() {
    // The tip lies down right of the nose: the light is up left, at half past ten (45 degrees).
    let marks = Marks::from_value(json!({"format": "slant-marks/1", "marks": [
        {"id": "n", "kind": "cast", "on": "other", "base": [100, 100], "top": [100, 100], "tip": [130, 130]}]}))
    .unwrap();
    let r = read(&paint(200, 200, |_, _| 0.2), &marks, None, &|| &[]);
    assert!(r.lights.is_empty() && r.summary[0].contains("10:30"), "{:?}", r.summary);
}

#[test]
fn every_kind_of_mark_says_how_it_is_read() {
    let kinds: Vec<&str> = evidence::methods::methods().iter().map(|m| m.kind.as_str()).collect();
    for kind in [
        "ball matte",
        "ball mirror",
        "eye",
        "patch",
        "cast",
        "penumbra",
        "contour",
        "rim",
        "gradient",
        "pattern",
        "cylinder",
        "face",
        "wedge",
    ] {
        assert!(kinds.contains(&kind), "{kind}");
    }
}
