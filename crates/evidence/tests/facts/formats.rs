//! The slant line, marks and readings.

use evidence::marks::{Eye, MarkKind, Marks, Penumbra, Wedge};
use evidence::read::read;
use evidence::readings::Readings;
use lightset::notation::{SlantLight, SlantLine};
use optics::photo::{Photo, Samples};
use optics::tone::Encoding;
use proptest::prelude::*;

#[test]
fn the_slant_line_of_the_description_is_read_and_written() {
    let text = "key R45/39 o21 +0.0 | fill L30/0 o60 -1.9";
    let line: SlantLine = text.parse().unwrap();
    assert_eq!(line.0[1].azimuth_deg, -30.0);
    assert_eq!(line.0[1].level_stops, Some(-1.9));
    assert_eq!(line.to_string(), text);
}

#[test]
fn all_parts_of_a_slant_line_survive() {
    let text = "key L42.5/-8 o22 +0.0 @1.5m 5600K via octagon-100 | rim B180/30 o14 -0.6 | top C0/80";
    let line: SlantLine = text.parse().unwrap();
    assert_eq!(line.0[0].via.as_deref(), Some("octagon-100"));
    assert_eq!(line.0[1].azimuth_deg, 180.0);
    assert_eq!(line.to_string(), text);
    // spaces before units and an empty azimuth on the axis are forgiven
    let loose: SlantLine = "key C/30 o10 +0.5 @ 1.5 m".replace("@ 1.5", "@1.5").parse().unwrap();
    assert_eq!(loose.to_string(), "key C0/30 o10 +0.5 @1.5m");
}

#[test]
fn a_bad_slant_line_says_what_was_expected() {
    for (text, part) in [
        ("key", "a direction"),
        ("key X45/10", "R, L, C or B"),
        ("key R190/10", "azimuth from 0 to 180"),
        ("key R45/95", "elevation from -90 to 90"),
        ("key R45/10 21", "oSIZE"),
        ("key R45/10 o", "a size in degrees"),
        ("key R45/10 via ", "found \"via\""),
    ] {
        let e = text.parse::<SlantLine>().unwrap_err();
        assert!(e.contains(part), "{text}: {e}");
    }
}

const EXAMPLE: &str = r#"{ "format": "slant-marks/1",
  "camera": { "vfov_deg": 16.0, "pitch_deg": 0.0, "height_m": 1.5, "distance_m": 2.0 },
  "encoding": "srgb",
  "exposure": { "f_number": 8, "shutter_s": 0.005, "iso": 100 },
  "marks": [
    { "id": "b1", "kind": "ball", "finish": "matte", "centre": [400, 300], "radius_px": 120 },
    { "id": "e1", "kind": "eye", "limbus": { "centre": [410, 290], "rx": 88, "ry": 86, "angle_deg": 0 }, "looks_to_clock": 3,
      "catchlights": [ { "outline": [[400,250],[420,250],[420,270],[400,270]] } ] },
    { "id": "s1", "kind": "cast", "base": [300, 400], "top": [300, 200], "tip": [520, 430], "height_m": 0.2 },
    { "id": "n1", "kind": "penumbra", "a": [500, 380], "b": [540, 380], "gap_m": 0.2, "px_per_m": 900 },
    { "id": "c1", "kind": "contour", "points": [[100,200],[105,190]], "outward": "left" },
    { "id": "k1", "kind": "cylinder", "axis": [[400, 80], [400, 520]], "radius_px": 90 },
    { "id": "f1", "kind": "face", "points": { "nose_tip": [400, 300], "chin": [400, 400] } },
    { "id": "p1", "kind": "patch", "role": "lit", "polygon": [[340,290],[360,290],[360,310],[340,310]] },
    { "id": "w1", "kind": "wedge", "patches": [ { "polygon": [[0,0],[20,0],[20,20],[0,20]], "reflectance": 0.18 } ] }
  ] }"#;

#[test]
fn marks_of_every_kind_survive_the_round_trip() {
    let m = Marks::parse(EXAMPLE).unwrap();
    assert_eq!(m.marks.len(), 9);
    let again = Marks::parse(&serde_json::to_string(&m).unwrap()).unwrap();
    assert_eq!(m, again);
    assert!(m.unknown_fields().is_empty(), "{:?}", m.unknown_fields());
}

#[test]
fn encodings_are_read_in_all_their_forms() {
    for (text, expect) in [
        ("\"linear\"", Encoding::Linear),
        ("\"bt709\"", Encoding::Bt709),
        ("{\"gamma\": 2.2}", Encoding::Gamma(2.2)),
        ("{\"curve\": [[0,0],[0.5,0.2],[1,1]]}", Encoding::Curve(vec![[0.0, 0.0], [0.5, 0.2], [1.0, 1.0]])),
    ] {
        let m = Marks::parse(&format!("{{\"format\":\"slant-marks/1\",\"encoding\":{text}}}")).unwrap();
        assert_eq!(m.encoding, Some(expect));
    }
}

#[test]
fn unknown_fields_are_kept_and_named() {
    let text = EXAMPLE
        .replace("\"radius_px\": 120", "\"radius_px\": 120, \"painted\": true")
        .replace("\"encoding\"", "\"mood\": 3, \"encoding\"");
    let m = Marks::parse(&text).unwrap();
    assert_eq!(m.unknown_fields(), ["mood", "marks[b1].painted"]);
    let out = serde_json::to_value(&m).unwrap();
    assert_eq!(out["marks"][0]["painted"], true);
    assert_eq!(out["mood"], 3);
}

#[test]
fn an_unknown_field_inside_a_mark_is_kept_under_its_path() {
    let eye = r#"{"id":"e","kind":"eye","limbus":{"centre":[9,9],"rx":5,"ry":5,"drawn_by":"hand"},"catchlights":[{"outline":[[1,1],[2,1],[2,2]],"sure":0.4}]}"#;
    let m = Marks::parse(&format!(r#"{{"format":"slant-marks/1","marks":[{eye}]}}"#)).unwrap();
    assert_eq!(m.unknown_fields(), ["marks[e].catchlights.0.sure", "marks[e].limbus.drawn_by"]);
    let again = Marks::parse(&serde_json::to_string(&m).unwrap()).unwrap();
    assert_eq!(again, m);
    assert_eq!(again.marks[0].other["limbus.drawn_by"], "hand");
}

#[test]
fn a_bad_marks_file_gets_a_sentence_that_names_the_field() {
    let ball =
        |s: &str| format!("{{\"format\":\"slant-marks/1\",\"marks\":[{{\"id\":\"b1\",\"kind\":\"ball\",{s}}}]}}");
    for (text, part) in [
        ("{".to_owned(), "not JSON"),
        ("{}".into(), "format"),
        ("{\"format\":\"slant-marks/9\"}".into(), "slant-marks/9"),
        (ball("\"finish\":\"matte\",\"centre\":[1,2],\"radius_px\":0"), "marks[b1].radius_px"),
        (ball("\"finish\":\"matte\",\"centre\":[1,2],\"radius_px\":-3"), "marks[b1].radius_px"),
        (ball("\"finish\":\"glossy\",\"centre\":[1,2],\"radius_px\":3"), "glossy"),
        (ball("\"finish\":\"matte\",\"centre\":[1],\"radius_px\":3"), "marks[b1].centre"),
        (ball("\"finish\":\"matte\",\"centre\":[1,\"a\"],\"radius_px\":3"), "marks[b1].centre[1]"),
        ("{\"format\":\"slant-marks/1\",\"marks\":[{\"id\":\"x\",\"kind\":\"blot\"}]}".into(), "expected one of ball"),
        ("{\"format\":\"slant-marks/1\",\"marks\":[{\"id\":\"x\",\"off\":3,\"kind\":\"ball\"}]}".into(), "marks[x].off"),
        ("{\"format\":\"slant-marks/1\",\"marks\":[7]}".into(), "marks[0]"),
        ("{\"format\":\"slant-marks/1\",\"camera\":{\"vfov_deg\":400}}".into(), "camera.vfov_deg"),
        ("{\"format\":\"slant-marks/1\",\"exposure\":{\"f_number\":0,\"shutter_s\":1,\"iso\":100}}".into(), "exposure.f_number"),
        ("{\"format\":\"slant-marks/1\",\"encoding\":{\"gamma\":-1}}".into(), "encoding.gamma"),
        ("{\"format\":\"slant-marks/1\",\"marks\":[{\"id\":\"x\",\"kind\":\"patch\",\"role\":\"lit\",\"polygon\":[[0,0]]}]}".into(), "polygon"),
    ] {
        let e = Marks::parse(&text).unwrap_err();
        assert!(e.contains(part), "{text}: {e}");
    }
    let twice = EXAMPLE.replace("\"e1\"", "\"b1\"");
    assert!(Marks::parse(&twice).unwrap_err().contains("twice"));
}

fn flat(value: u8) -> Photo {
    Photo::new(120, 90, Samples::U8(vec![value; 120 * 90 * 3]), &Encoding::Srgb).unwrap()
}

#[test]
fn black_and_white_pictures_and_marks_outside_are_answered_in_sentences() {
    let marks = Marks::parse(
        r#"{"format":"slant-marks/1","marks":[
        {"id":"b","kind":"ball","finish":"matte","centre":[60,45],"radius_px":30},
        {"id":"far","kind":"ball","finish":"matte","centre":[6000,45],"radius_px":30},
        {"id":"m","kind":"ball","finish":"mirror","centre":[-60,45],"radius_px":30},
        {"id":"tiny","kind":"ball","finish":"matte","centre":[60,45],"radius_px":1},
        {"id":"e","kind":"eye","limbus":{"centre":[60,45],"rx":20,"ry":20}},
        {"id":"p","kind":"patch","role":"lit","polygon":[[10,10],[20,10],[20,20]]}]}"#,
    )
    .unwrap();
    for value in [0u8, 255, 128] {
        let r = read(&flat(value), &marks, None, &|| &[]);
        assert!(r.lights.is_empty(), "{value}: {:?}", r.lights);
        let about = |id: &str| r.warnings.iter().any(|w| w.mark.as_deref() == Some(id) && w.text.len() > 20);
        for id in ["b", "far", "m", "tiny", "e"] {
            assert!(about(id), "{value}: nothing said about {id}");
        }
        let eye = &r.by_mark["e"];
        assert_eq!(eye.catchlights.as_ref().unwrap().len(), 0);
        assert!(eye.says.contains("no light is reflected there, or the eye is closed"));
        assert_eq!(r.slant, "");
    }
    assert!(read(&flat(0), &marks, None, &|| &[]).warnings.iter().any(|w| w.code == "all_black"));
    assert!(read(&flat(255), &marks, None, &|| &[]).warnings.iter().any(|w| w.code == "all_white"));
}

#[test]
fn readings_survive_the_round_trip() {
    let r = read(&flat(90), &Marks::parse(EXAMPLE).unwrap(), None, &|| &[]);
    let again: Readings = serde_json::from_str(&serde_json::to_string(&r).unwrap()).unwrap();
    assert_eq!(r, again);
    assert_eq!(r.format, "slant-readings/1");
    // f/8 at 1/200 and ISO 100: log2(64 * 200) = 13.64 (definition)
    assert_eq!(r.exposure.ev100, Some(13.64));
}

#[test]
fn a_mark_that_is_switched_off_says_nothing() {
    let mut m = Marks::parse(EXAMPLE).unwrap();
    m.marks.iter_mut().for_each(|k| k.off = true);
    assert!(read(&flat(90), &m, None, &|| &[]).by_mark.is_empty());
    assert!(matches!(m.marks[0].kind, MarkKind::Ball(_)));
}

proptest! {
    #[test]
    fn any_slant_line_survives_to_a_tenth(
        az in -1800i32..=1800, el in -900i32..=900, size in proptest::option::of(0i32..3600),
        level in proptest::option::of(-120i32..120), distance in proptest::option::of(1i32..200),
        cct in proptest::option::of(1500u32..12000),
    ) {
        let az = if az == -1800 { 1800 } else { az };
        let tenth = |v: i32| f64::from(v) / 10.0;
        let light = SlantLight {
            name: "key".into(), azimuth_deg: tenth(az), elevation_deg: tenth(el),
            angular_size_deg: size.map(tenth), level_stops: level.map(tenth), distance_m: distance.map(tenth),
            cct_k: cct.map(f64::from), via: None,
        };
        let line = SlantLine(vec![light.clone(), light]);
        let back: SlantLine = line.to_string().parse().unwrap();
        prop_assert_eq!(&back, &line);
    }

    #[test]
    fn no_text_makes_the_parsers_panic(text in ".{0,80}") {
        let _ = text.parse::<SlantLine>();
        let _ = Marks::parse(&text);
    }
}

fn marks_of(list: &str) -> Result<Marks, String> {
    Marks::parse(&format!(r#"{{"format":"slant-marks/1","marks":[{list}]}}"#))
}

#[test]
fn marks_that_would_cost_without_bound_are_refused_by_name() {
    let ball = |i: usize| format!(r#"{{"id":"b{i}","kind":"ball","finish":"matte","centre":[9,9],"radius_px":5}}"#);
    let many = (0..400).map(ball).collect::<Vec<_>>().join(",");
    assert!(marks_of(&many).unwrap_err().contains("at most"));
    let some = (0..30).map(ball).collect::<Vec<_>>().join(",");
    assert!(marks_of(&some).unwrap_err().contains("balls, eyes, faces and bottles"));
    let points = (0..5000).map(|i| format!(r#""p{i}":[1,2]"#)).collect::<Vec<_>>().join(",");
    let face = marks_of(&format!(r#"{{"id":"f","kind":"face","points":{{{points}}}}}"#));
    assert!(face.unwrap_err().contains("marks[f].points"));
    let patch = r#"{"polygon":[[0,0],[1,0],[1,1]],"reflectance":0.5}"#;
    let wedge = format!(r#"{{"id":"w","kind":"wedge","patches":[{}]}}"#, vec![patch; 5000].join(","));
    assert!(marks_of(&wedge).unwrap_err().contains("marks[w].patches"));
}

#[test]
fn an_eye_larger_than_the_picture_is_not_read_and_costs_nothing() {
    let marks = marks_of(r#"{"id":"e","kind":"eye","limbus":{"centre":[50,50],"rx":9e6,"ry":9e6}}"#).unwrap();
    let photo = Photo::new(100, 100, Samples::U8(vec![90; 30_000]), &Encoding::Srgb).unwrap();
    let start = std::time::Instant::now();
    let r = read(&photo, &marks, None, &|| &[]);
    assert!(start.elapsed().as_secs_f64() < 0.5);
    assert!(r.by_mark["e"].says.contains("larger than the picture"), "{}", r.by_mark["e"].says);
}

#[test]
fn a_reading_that_is_stopped_says_which_marks_it_left() {
    let marks = marks_of(
        r#"{"id":"p","kind":"patch","role":"lit","polygon":[[1,1],[9,1],[9,9]]},
           {"id":"q","kind":"patch","role":"shadow","polygon":[[11,1],[19,1],[19,9]]}"#,
    )
    .unwrap();
    let photo = Photo::new(40, 40, Samples::U8(vec![90; 4800]), &Encoding::Srgb).unwrap();
    let mut memory = evidence::read::Memory::default();
    let asked = std::sync::atomic::AtomicUsize::new(0);
    memory.stop_when(std::sync::Arc::new(move || asked.fetch_add(1, std::sync::atomic::Ordering::Relaxed) > 0));
    let r = evidence::read::read_again(&photo, &marks, None, &|| &[], &mut memory);
    assert!(r.by_mark["p"].patch.is_some() && r.by_mark["q"].patch.is_none());
    assert!(r.warnings.iter().any(|w| w.code == evidence::read::STOPPED && w.mark.as_deref() == Some("q")));
}

#[test]
fn marks_that_are_carried_over_keep_all_they_know() {
    // an own field, metres, a clock and an angle under a turn of 90 degrees clockwise and twice the size
    let marks = marks_of(
        r#"{"id":"e","kind":"eye","limbus":{"centre":[10,20],"rx":4,"ry":3,"angle_deg":100},"looks_to_clock":11,"mine":"kept"},
           {"id":"n","kind":"penumbra","a":[1,2],"b":[3,4],"gap_m":0.2,"px_per_m":900},
           {"id":"w","kind":"wedge","patches":[{"polygon":[[0,0],[2,0],[2,2]],"reflectance":0.18}]}"#,
    )
    .unwrap();
    let there = marks.mapped(&|[x, y]| [100.0 - 2.0 * y, 2.0 * x], &|_| (2.0, 90.0));
    let MarkKind::Eye(Eye { limbus, looks_to_clock, .. }) = &there.marks[0].kind else { panic!("an eye") };
    assert_eq!((limbus.centre, limbus.rx, limbus.ry), ([60.0, 20.0], 8.0, 6.0));
    assert_eq!((limbus.angle_deg, *looks_to_clock), (190.0, Some(2.0)));
    let MarkKind::Penumbra(Penumbra { gap_m, px_per_m, .. }) = there.marks[1].kind else { panic!("an edge") };
    assert_eq!((gap_m, px_per_m), (Some(0.2), Some(1800.0)));
    let MarkKind::Wedge(Wedge { patches }) = &there.marks[2].kind else { panic!("a wedge") };
    assert_eq!(patches[0].reflectance, 0.18);
    // its own unknown field is the only one: known ones were once told as unknown after a carry
    assert_eq!(there.unknown_fields(), ["marks[e].mine"]);
    // and back again
    let back = there.mapped(&|[x, y]| [y / 2.0, (100.0 - x) / 2.0], &|_| (0.5, -90.0));
    assert_eq!(back, marks);
}

/// A face with the points of a mesh: 468, or 478 with irises.
fn meshed(points: usize) -> String {
    let dense: Vec<[f64; 3]> = (0..points).map(|i| [100.0 + i as f64 * 0.1, 50.0, -3.0]).collect();
    serde_json::json!({ "format": "slant-marks/1", "marks": [{ "id": "f", "kind": "face",
        "points": { "eye_image_left": [90, 40], "eye_image_right": [110, 40], "nose_tip": [100, 55] }, "dense": dense }] })
    .to_string()
}

#[test]
fn the_points_of_a_face_mesh_are_kept_and_carried() {
    let marks = Marks::parse(&meshed(478)).unwrap();
    let again = serde_json::to_value(&marks).unwrap();
    assert_eq!(again["marks"][0]["dense"].as_array().unwrap().len(), 478);
    assert_eq!(Marks::from_value(again).unwrap(), marks);
    for count in [1, 100, 469, 5000] {
        let error = Marks::parse(&meshed(count)).unwrap_err();
        assert!(error.contains("dense") && error.contains("468"), "{error}");
    }
    // a face marked by hand says nothing of a mesh
    let by_hand = serde_json::to_string(&Marks::parse(&meshed(0)).unwrap()).unwrap();
    assert!(!by_hand.contains("dense"), "{by_hand}");
}
