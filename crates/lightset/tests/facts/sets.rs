//! Sets as they are written: every bound is told by the field's own name, what is not known is named, what is not said is left out.

use crate::set;
use lightset::notation::SlantLine;
use lightset::set::{LightSet, SetLight, Source};
use proptest::prelude::*;
use serde_json::{Value, json};

/// A set with one of everything.
fn whole() -> Value {
    json!({"format": "slant-set/1",
        "subjects": [{"kind": "can", "yaw_deg": 10, "scale": 1.5}],
        "camera": {"position_m": [0, 0.2, 2], "vfov_deg": 20, "white_k": 5000, "exposure": {"f_number": 8, "shutter_s": 0.01, "iso": 100}},
        "lights": [{"name": "key", "azimuth_deg": 45, "elevation_deg": 30, "distance_m": 1.5,
            "source": {"kind": "rectangle", "width_m": 0.6, "height_m": 0.9}, "level": {"stops": 0},
            "scrims": [{"gap_m": 0.3, "width_m": 1, "height_m": 1, "transmission": 0.5, "aside_m": 0.2}]}],
        "boards": [{"position_m": [-0.6, 0, 0.3], "width_m": 0.5, "height_m": 0.7, "finish": "white"}],
        "flags": [{"position_m": [0.3, 0.3, 0.3], "width_m": 0.5, "height_m": 0.5, "pattern": {"kind": "slit", "opening_m": 0.04}}],
        "walls": [{"position_m": [0, -1, 0], "normal": [0, 1, 0], "width_m": 5, "height_m": 5, "colour": [0.2, 0.2, 0.2]}],
        "ambient": {"level": {"stops": -4}},
        "picture": {"width": 60, "height": 40, "samples": 1}})
}

#[test]
fn a_set_comes_back_as_it_was_written() {
    let a = LightSet::from_value(whole()).expect("a set");
    assert!(a.unknown.is_empty(), "{:?}", a.unknown);
    let written = serde_json::to_value(&a.set).expect("written");
    let b = LightSet::from_value(written.clone()).expect("again");
    assert_eq!(a.set, b.set);
    assert_eq!(LightSet::parse(&written.to_string()).expect("as text").set, a.set);
    // what has its usual value is left out
    assert!(written["lights"][0].get("gel_mired").is_none());
}

#[test]
fn every_bound_is_told_by_its_field() {
    let bad: [(&str, Value, &str); 22] = [
        ("/subjects/0/scale", json!(0), "subjects[0].scale"),
        ("/subjects/0/yaw_deg", json!(1e9), "subjects[0].yaw_deg"),
        ("/camera/position_m/1", json!(1e5), "camera.position_m"),
        ("/camera/vfov_deg", json!(179), "camera.vfov_deg"),
        ("/camera/white_k", json!(10), "camera.white_k"),
        ("/camera/exposure/iso", json!(-1), "iso"),
        ("/lights/0/name", json!("  "), "name"),
        ("/lights/0/elevation_deg", json!(91), "elevation_deg"),
        ("/lights/0/distance_m", json!(0), "distance_m"),
        ("/lights/0/source/width_m", json!(-1), "width_m"),
        ("/lights/0/level/stops", json!(99), "level.stops"),
        ("/lights/0/scrims/0/gap_m", json!(0), "scrims.gap_m"),
        ("/lights/0/scrims/0/transmission", json!(2), "scrims.transmission"),
        ("/lights/0/scrims/0/aside_m", json!(50), "scrims.aside_m"),
        ("/boards/0/width_m", json!(0), "boards[0].width_m"),
        ("/boards/0/position_m", json!([0, 0, 0]), "boards[0].aim_m"),
        ("/flags/0/height_m", json!(1e6), "flags[0].height_m"),
        ("/flags/0/pattern/opening_m", json!(-1), "flags[0].pattern.opening_m"),
        ("/walls/0/normal", json!([0, 0, 0]), "walls[0].normal"),
        ("/walls/0/colour/2", json!(1.5), "walls[0].colour"),
        ("/ambient/level/stops", json!(1e9), "ambient.level.stops"),
        ("/picture/width", json!(100_000), "picture.width"),
    ];
    for (at, value, named) in bad {
        let mut v = whole();
        *v.pointer_mut(at).unwrap_or_else(|| panic!("{at} is not in the set")) = value;
        let e = LightSet::from_value(v).expect_err(at);
        assert!(e.contains(named), "{at}: {e}");
    }
}

#[test]
fn counts_are_bounded() {
    let many = |list: &str, one: Value, n: usize| {
        let mut v = whole();
        v[list] = Value::Array(vec![one; n]);
        LightSet::from_value(v)
    };
    let (light, board) = (whole()["lights"][0].clone(), whole()["boards"][0].clone());
    assert!(many("lights", light, 10_000).unwrap_err().contains("at most"));
    assert!(many("boards", board, 10_000).unwrap_err().contains("at most"));
    assert!(many("subjects", json!({"kind": "person"}), 7).unwrap_err().contains("at most 6 people"));
    let mut moved = whole();
    moved["lights"][0]["path_m"] = Value::Array(vec![json!([0, 0, 1]); 65]);
    assert!(LightSet::from_value(moved).unwrap_err().contains("path_m"));
}

#[test]
fn what_is_not_known_is_named_and_other_formats_are_refused() {
    let mut v = whole();
    v["lights"][0]["colour_of_lamp"] = json!("red");
    v["fog"] = json!(true);
    let unknown = LightSet::from_value(v).expect("a set").unknown;
    assert!(unknown.iter().any(|u| u.contains("colour_of_lamp")) && unknown.iter().any(|u| u == "fog"), "{unknown:?}");
    let other = json!({"format": "slant-set/9"});
    assert!(LightSet::from_value(other).unwrap_err().contains("slant-set/1"));
    assert!(LightSet::parse("{").unwrap_err().starts_with("not JSON"));
}

#[test]
fn a_light_stands_by_its_angles() {
    // 45 degrees right, 30 up, 1.5 m: x = z = d cos e sin a, y = d sin e (spherical coordinates)
    let s = LightSet::from_value(whole()).expect("a set").set;
    let p = s.lights[0].position();
    assert!((p.y - 0.75).abs() < 1e-9 && (p.x - p.z).abs() < 1e-9 && (p.norm() - 1.5).abs() < 1e-9);
    assert!((s.floor_m() - 1.0).abs() < 1e-12);
    // a warm lamp before a cool white balance is warm: more red than blue
    let mut l = SetLight::of("lamp", Source::Bare { diameter_m: 0.05 }, 0.0);
    l.cct_k = Some(3200.0);
    let [r, _, b] = l.colour(5600.0);
    assert!(r > 1.5 * b, "{r} {b}");
    // a filter that is as blue as the lamp is warm takes that away: 1e6 / 3200 - 1e6 / 5600 = 134 mired (definition)
    l.gel_mired = -(1e6 / 3200.0 - 1e6 / 5600.0);
    let [r, g, b] = l.colour(5600.0);
    assert!((r / g - 1.0).abs() < 0.03 && (b / g - 1.0).abs() < 0.03, "{r} {g} {b}");
}

#[test]
fn every_source_has_a_face() {
    for (source, face) in [
        (json!({"kind": "disc", "diameter_m": 0.5}), [0.5, 0.5]),
        (json!({"kind": "rectangle", "width_m": 0.3, "height_m": 1.2}), [0.3, 1.2]),
        (json!({"kind": "octagon", "width_m": 1.0}), [1.0, 1.0]),
        (json!({"kind": "tube", "length_m": 0.6, "diameter_m": 0.03}), [0.6, 0.03]),
        (json!({"kind": "bare", "diameter_m": 0.06}), [0.06, 0.06]),
        (json!({"kind": "dish", "diameter_m": 0.18, "beam_deg": 60}), [0.18, 0.18]),
        (json!({"kind": "window", "width_m": 1.0, "height_m": 1.4, "facing_deg": 90}), [1.0, 1.4]),
    ] {
        let s: Source = serde_json::from_value(source.clone()).expect("a source");
        assert_eq!(s.face_m(), face, "{source}");
        // a window stands for itself: it is no modifier that wind or stands have to bear
        assert_eq!(s.area_m2(), if s.is_window() { 0.0 } else { face[0] * face[1] }, "{source}");
        assert!(!s.word().is_empty());
        assert_eq!(serde_json::to_value(&s).expect("written")["kind"], source["kind"]);
    }
}

proptest! {
    /// One light set as one line: what is written is read back, to the digits that are written.
    #[test]
    fn a_slant_line_is_read_as_written(az in -179.9f64..180.0, el in -90.0f64..90.0, size in 0.1f64..180.0, level in -9.0f64..9.0, d in 0.1f64..9.0, k in 2000.0f64..9000.0, n in 1usize..4) {
        let light = |i: usize| lightset::notation::SlantLight {
            name: format!("light{i}"),
            azimuth_deg: az,
            elevation_deg: el,
            angular_size_deg: Some(size),
            level_stops: Some(level),
            distance_m: Some(d),
            cct_k: Some(k),
            via: (i == 0).then(|| "a sheet, folded".to_owned()),
        };
        let line = SlantLine((0..n).map(light).collect());
        let text = line.to_string();
        let back: SlantLine = text.parse().map_err(TestCaseError::fail)?;
        prop_assert_eq!(back.0.len(), n);
        for (a, b) in line.0.iter().zip(&back.0) {
            prop_assert!(a.at().vector().angle(&b.at().vector()).to_degrees() < 0.12, "{text}");
            prop_assert!((b.angular_size_deg.expect("size") - size).abs() < 0.051 && (b.level_stops.expect("level") - level).abs() < 0.051);
            prop_assert!((b.distance_m.expect("metres") - d).abs() < 0.051 && (b.cct_k.expect("kelvin") - k).abs() < 0.51);
            prop_assert_eq!(&a.via, &b.via);
        }
        prop_assert_eq!(back.to_string(), text);
    }

    /// Any text is a line or a sentence that quotes it.
    #[test]
    fn any_text_is_a_line_or_a_sentence(text in "[a-zRLCB0-9/+o@|K. -]{0,30}") {
        match text.parse::<SlantLine>() {
            Ok(line) => prop_assert!(line.0.iter().all(|l| l.elevation_deg.abs() <= 90.0 && l.azimuth_deg.abs() <= 180.0)),
            Err(e) => prop_assert!(e.starts_with("slant line")),
        }
    }

    /// Nothing a stranger puts into a set's numbers panics or comes out as what is not a number.
    #[test]
    fn any_number_is_kept_or_refused(at in 0usize..10, v in prop_oneof![Just(-1e300), Just(1e300), Just(0.0), -1e3f64..1e3]) {
        let places = ["/subjects/0/scale", "/camera/position_m/0", "/camera/aim_m", "/lights/0/azimuth_deg", "/lights/0/distance_m",
            "/lights/0/source/height_m", "/lights/0/level/stops", "/boards/0/height_m", "/walls/0/width_m", "/ambient/level/stops"];
        let mut s = whole();
        match s.pointer_mut(places[at]) {
            Some(p) => *p = json!(v),
            None => s["camera"]["aim_m"] = json!([v, 0, 0]),
        }
        if let Ok(parsed) = LightSet::from_value(s) {
            prop_assert!(parsed.set.lights.iter().all(|l| l.position().iter().all(|c| c.is_finite())));
            prop_assert!(parsed.set.camera.vfov_deg().is_finite());
        }
    }

    /// A light keeps its distance from the reference point whichever way its place is told.
    #[test]
    fn angles_and_places_agree(az in -170.0f64..170.0, el in -80.0f64..80.0, d in 0.2f64..5.0) {
        let s = set(json!({"lights": [{"name": "a", "azimuth_deg": az, "elevation_deg": el, "distance_m": d,
            "source": {"kind": "disc", "diameter_m": 0.1}, "level": {"stops": 0}}]}));
        let p = s.lights[0].position();
        let told = optics::geometry::AzEl::of(&p);
        prop_assert!((p.norm() - d).abs() < 1e-9 && (told.elevation_deg - el).abs() < 1e-6 && (told.azimuth_deg - az).abs() < 1e-6);
        prop_assert!((lightset::throw::distance_m(&s.lights[0]) - d).abs() < 1e-9);
    }
}
