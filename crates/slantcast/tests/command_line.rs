//! The command-line verbs.

use serde_json::{Value, json};
use std::path::{Path, PathBuf};
use std::process::{Command, Output};

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

fn slantcast(args: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_slantcast")).args(args).current_dir(root()).output().unwrap()
}

fn text(bytes: &[u8]) -> String {
    String::from_utf8_lossy(bytes).into_owned()
}

fn fixture(name: &str) -> (PathBuf, tempdir::Dir) {
    let dir = tempdir::Dir::new(name);
    let case: Value = serde_json::from_str(
        &std::fs::read_to_string(root().join(format!("tests/fixtures/rendered/{name}.json"))).unwrap(),
    )
    .unwrap();
    let marks = dir.0.join("marks.json");
    std::fs::write(&marks, case["marks"].to_string()).unwrap();
    (marks, dir)
}

/// A folder that goes away.
mod tempdir {
    pub struct Dir(pub std::path::PathBuf);
    impl Dir {
        pub fn new(name: &str) -> Self {
            let p = std::env::temp_dir().join(format!("slantcast-cli-{name}-{}", std::process::id()));
            std::fs::create_dir_all(&p).unwrap();
            Dir(p)
        }
    }
    impl Drop for Dir {
        fn drop(&mut self) {
            let _ = std::fs::remove_dir_all(&self.0);
        }
    }
}

#[test]
fn read_prints_readings_that_follow_the_published_schema() {
    let (marks, dir) = fixture("eye-12");
    let out = dir.0.join("out.json");
    let picture = "tests/fixtures/rendered/eye-12.png";
    let run = slantcast(&["read", picture, "--marks", marks.to_str().unwrap(), "--out", out.to_str().unwrap()]);
    assert!(run.status.success(), "{}", text(&run.stderr));
    let readings: Value = serde_json::from_str(&std::fs::read_to_string(&out).unwrap()).unwrap();
    assert_eq!(readings["format"], "slant-readings/1");
    let schema = |file: &str| -> Value {
        serde_json::from_str(&std::fs::read_to_string(root().join("docs/formats").join(file)).unwrap()).unwrap()
    };
    let check = |file: &str, v: &Value| {
        let s = schema(file);
        let validator = jsonschema::validator_for(&s).unwrap();
        let errors: Vec<String> = validator.iter_errors(v).map(|e| e.to_string()).collect();
        assert!(errors.is_empty(), "{file}: {errors:?}");
        validator.is_valid(v)
    };
    assert!(check("slant-readings-1.schema.json", &readings));
    let m: Value = serde_json::from_str(&std::fs::read_to_string(&marks).unwrap()).unwrap();
    assert!(check("slant-marks-1.schema.json", &m));
    let s = schema("slant-marks-1.schema.json");
    let wrong = json!({"format": "slant-marks/1", "marks": [{"id": "b", "kind": "ball", "finish": "matte"}]});
    assert!(!jsonschema::validator_for(&s).unwrap().is_valid(&wrong));
    // without --out the same goes to standard output
    let run = slantcast(&["read", picture, "--marks", marks.to_str().unwrap()]);
    assert_eq!(serde_json::from_slice::<Value>(&run.stdout).unwrap(), readings);
}

#[test]
fn the_published_schemas_are_those_of_the_types() {
    let dir = tempdir::Dir::new("schema");
    assert!(slantcast(&["schema", dir.0.to_str().unwrap()]).status.success());
    for f in ["slant-marks-1.schema.json", "slant-readings-1.schema.json", "slant-set-1.schema.json"] {
        // The order of keys depends on the crates built together: compare what they say.
        let parsed = |p: PathBuf| serde_json::from_str::<Value>(&std::fs::read_to_string(p).unwrap()).unwrap();
        let (made, kept) = (parsed(dir.0.join(f)), parsed(root().join("docs/formats").join(f)));
        assert!(made == kept, "{f} is old: run scripts/api.sh");
    }
}

#[test]
fn bad_input_ends_in_one_sentence_and_exit_code_two() {
    let (marks, dir) = fixture("matte-00");
    let marks = marks.to_str().unwrap();
    let bad = |name: &str, content: &[u8]| {
        let p = dir.0.join(name);
        std::fs::write(&p, content).unwrap();
        p.to_str().unwrap().to_owned()
    };
    let picture = "tests/fixtures/rendered/matte-00.png";
    let whole = std::fs::read(root().join(picture)).unwrap();
    for (image, marks, part) in [
        ("no-such.png".to_owned(), marks.to_owned(), "no-such.png"),
        (bad("empty.png", b""), marks.into(), "zero bytes"),
        (bad("cut.png", &whole[..whole.len() / 3]), marks.into(), "damaged"),
        (bad("words.jpg", b"hello"), marks.into(), "not a picture"),
        (picture.into(), bad("m1.json", b"{"), "not JSON"),
        (picture.into(), bad("m2.json", b"{\"format\":\"slant-marks/2\"}"), "slant-marks/2"),
        (
            picture.into(),
            bad("m3.json", br#"{"format":"slant-marks/1","marks":[{"id":"q","kind":"ball","finish":"matte","centre":[1,1],"radius_px":0}]}"#),
            "marks[q].radius_px",
        ),
    ] {
        let out = slantcast(&["read", &image, "--marks", &marks]);
        assert_eq!(out.status.code(), Some(2), "{part}");
        let said = text(&out.stderr);
        assert!(said.contains(part) && said.trim().lines().count() == 1, "{part}: {said}");
        assert!(out.stdout.is_empty());
    }
}

#[test]
fn the_demo_s_pictures_read_as_they_were_lit() {
    // Truth is the set each picture was taken of (crates/server/demo/sets).
    for (name, seen) in [("ferryman", 1), ("queen", 2), ("miller", 1), ("moon", 2), ("probes", 2), ("sister", 0)] {
        let set = std::fs::read_to_string(root().join(format!("crates/server/demo/sets/{name}.json"))).unwrap();
        let set: Value = serde_json::from_str(&set).unwrap();
        let expect = &set["lights"].as_array().unwrap()[..seen];
        let base = format!("crates/server/demo/{name}");
        let out = slantcast(&["read", &format!("{base}.jpg"), "--marks", &format!("{base}.json")]);
        let r: Value = serde_json::from_slice(&out.stdout).unwrap();
        let lights = r["lights"].as_array().unwrap();
        assert_eq!(lights.len(), expect.len(), "{name}: {}", r["slant"]);
        for (l, want) in lights.iter().zip(expect) {
            let of = |v: &Value| (v["azimuth_deg"].as_f64().unwrap(), v["elevation_deg"].as_f64().unwrap());
            let ((a, e), (az, el)) = (of(l), of(want));
            assert!((a - az).abs() < 7.0 && (e - el).abs() < 7.0, "{name}: {}", r["slant"]);
        }
    }
}

/// A set goes in; picture, plates and marks come out, and the marks read back the set.
#[test]
fn a_studio_picture_reads_back_as_the_set_it_was_taken_of() {
    let dir = tempdir::Dir::new("studio");
    let file = |name: &str| dir.0.join(name).to_str().unwrap().to_owned();
    let set = json!({
        "format": "slant-set/1",
        "subjects": [{"kind": "ball_matte"}],
        "camera": {"position_m": [0, 0, 2.6], "vfov_deg": 7, "exposure": {"f_number": 8, "shutter_s": 0.008, "iso": 100}},
        "lights": [
            {"name": "key", "azimuth_deg": -40, "elevation_deg": 35, "distance_m": 1.8, "source": {"kind": "disc", "diameter_m": 0.5}, "level": {"stops": -0.5}},
            {"name": "fill", "azimuth_deg": 60, "elevation_deg": 5, "distance_m": 2.2, "source": {"kind": "rectangle", "width_m": 0.8, "height_m": 0.8}, "level": {"stops": -2.0}}
        ],
        "ambient": {"level": {"stops": -4.5}},
        "picture": {"width": 480, "height": 320, "samples": 64}, "left_over": 1
    });
    std::fs::write(file("set.json"), set.to_string()).unwrap();
    let run = slantcast(&[
        "studio",
        &file("set.json"),
        "--out",
        &file("p.png"),
        "--plates",
        &file("plates"),
        "--marks",
        &file("marks.json"),
    ]);
    assert!(run.status.success(), "{}", text(&run.stderr));
    assert!(text(&run.stdout).starts_with("key L40/35 o15.8 +0.0 @1.8m | fill R60/5"), "{}", text(&run.stdout));
    assert!(text(&run.stderr).contains("left_over"), "{}", text(&run.stderr));
    assert!(dir.0.join("plates/1-key.exr").exists() && dir.0.join("plates/ambient.exr").exists());
    let read = slantcast(&["read", &file("p.png"), "--marks", &file("marks.json")]);
    let r: Value = serde_json::from_slice(&read.stdout).unwrap();
    let near = |v: &Value, want: f64, by: f64| assert!((v.as_f64().unwrap() - want).abs() < by, "{v} {want}: {r}");
    assert_eq!(r["lights"].as_array().unwrap().len(), 2, "{r}");
    near(&r["lights"][0]["azimuth_deg"], -40.0, 1.0);
    near(&r["lights"][0]["elevation_deg"], 35.0, 1.0);
    near(&r["lights"][1]["azimuth_deg"], 60.0, 2.0);
    near(&r["lights"][1]["level_stops"], -1.5, 0.15);
    near(&r["lights"][0]["angular_size_deg"], 15.8, 2.0);
    near(&r["ambient"]["level_stops"], -4.0, 0.25);
    // a linear picture of the same set
    assert!(slantcast(&["studio", &file("set.json"), "--out", &file("p.exr")]).status.success());
    for (out, set, part) in [("p.gif", "set.json", ".png or .exr"), ("p.png", "none.json", "none.json")] {
        let run = slantcast(&["studio", &file(set), "--out", &file(out)]);
        assert_eq!(run.status.code(), Some(2));
        assert!(text(&run.stderr).contains(part), "{}", text(&run.stderr));
    }
}

/// A light map is written as OpenEXR and Radiance HDR, and both hold the same light.
#[test]
fn a_room_is_written_as_a_light_map() {
    let dir = tempdir::Dir::new("light-map");
    let picture = "tests/fixtures/rooms/room-05.png";
    let case: serde_json::Value =
        serde_json::from_str(&std::fs::read_to_string(root().join("tests/fixtures/rooms/room-05.json")).unwrap())
            .unwrap();
    let marks = dir.0.join("marks.json");
    std::fs::write(&marks, case["marks"].to_string()).unwrap();
    let mean = |name: &str| {
        let out = dir.0.join(name);
        let args = ["light-map", picture, "--marks", marks.to_str().unwrap(), "--out", out.to_str().unwrap()];
        let ran = slantcast(&args);
        assert!(ran.status.success(), "{}", text(&ran.stderr));
        let map = session::open(&std::fs::read(&out).unwrap()).unwrap().photo;
        assert_eq!((map.width(), map.height()), (360, 180));
        (0..180).flat_map(|y| (0..360).map(move |x| (x, y))).map(|(x, y)| f64::from(map.rgb(x, y)[1])).sum::<f64>()
    };
    let (exr, hdr) = (mean("map.exr"), mean("map.hdr"));
    assert!(exr > 0.0 && (exr / hdr - 1.0).abs() < 0.02, "{exr} {hdr}");
    let refused = slantcast(&["light-map", picture, "--marks", marks.to_str().unwrap(), "--out", "map.png"]);
    assert_eq!(refused.status.code(), Some(2));
    assert!(text(&refused.stderr).contains(".exr or .hdr"));
}

#[test]
fn the_edge_of_a_nose_s_shadow_tells_how_hard_the_light_is() {
    // Pictures of another renderer and of heads that are no stand-ins; the line crosses the shadow's edge where a person would
    // draw it. A third is what the unknown nose leaves open; no gap is given.
    let cases = [
        ("C-11-triangle", [214.3, 323.1], [225.8, 335.8]),
        ("B-06-loop", [223.8, 338.4], [212.3, 349.1]),
        ("B-31-loop", [205.3, 335.1], [218.0, 347.8]),
        ("C-30-loop", [222.2, 317.7], [222.2, 329.2]),
    ];
    let dir = tempdir::Dir::new("nose");
    for (name, a, b) in cases {
        let file = root().join(format!("tests/fixtures/portrait/{name}.json"));
        let case: Value = serde_json::from_str(&std::fs::read_to_string(file).unwrap()).unwrap();
        let truth = case["truth"]["lights"][0]["angular_size_deg"].as_f64().unwrap();
        let mut marks = case["marks"].clone();
        let list = marks["marks"].as_array_mut().unwrap();
        list.retain(|m| m["kind"] == "face");
        list.push(json!({"id": "s1", "kind": "penumbra", "a": a, "b": b}));
        let file = dir.0.join("marks.json");
        std::fs::write(&file, marks.to_string()).unwrap();
        let run =
            slantcast(&["read", &format!("tests/fixtures/portrait/{name}.png"), "--marks", file.to_str().unwrap()]);
        let r: Value = serde_json::from_slice(&run.stdout).unwrap();
        let edge = &r["by_mark"]["s1"]["edge"];
        let told = edge["angular_size_deg"].as_f64().unwrap_or_else(|| panic!("{name}: {edge}"));
        assert!((told / truth).ln().abs() < 0.4, "{name}: {told} for {truth}");
        let says = r["warnings"].as_array().unwrap().iter().any(|w| w["code"] == "edge_on_face" && w["mark"] == "s1");
        assert!(says, "{name}");
    }
}

/// Weights of plates another renderer took, known to it (tests/fixtures/make_people.py --plates), as JSON of the published fields.
#[test]
fn mix_prints_the_weights_of_plates() {
    let folder = "tests/fixtures/plates/P400";
    let truth: Value =
        serde_json::from_str(&std::fs::read_to_string(root().join(folder).join("truth.json")).unwrap()).unwrap();
    let wanted: Vec<f64> = serde_json::from_value(truth["weights"].clone()).unwrap();
    let picture = |name: &str| format!("{folder}/{name}.png");
    let mut args = vec!["mix".to_owned(), "--target".into(), picture("target"), "--dark".into(), picture("dark")];
    for k in 0..wanted.len() {
        args.extend(["--plate".to_owned(), picture(&format!("plate{k}"))]);
    }
    let run = slantcast(&args.iter().map(String::as_str).collect::<Vec<_>>());
    assert!(run.status.success(), "{}", text(&run.stderr));
    let mix: Value = serde_json::from_slice(&run.stdout).unwrap();
    for (k, want) in wanted.iter().enumerate() {
        let got = mix["weights"][k].as_f64().unwrap();
        if *want == 0.0 {
            assert_eq!(got, 0.0, "plate {k} is off");
            assert!(mix["stops"][k].is_null());
        } else {
            assert!((got / want).log2().abs() < 0.03, "plate {k}: {got} {want}");
            assert!((mix["stops"][k].as_f64().unwrap() - got.log2()).abs() < 1e-9);
        }
    }
    assert!(mix["residual_rms"].as_f64().unwrap() < 0.01 && mix["warnings"].is_array());
    // a plate of another size is refused by name
    let eye = "tests/fixtures/rendered/eye-12.png";
    let odd = slantcast(&["mix", "--target", &picture("target"), "--plate", eye]);
    assert_eq!(odd.status.code(), Some(2));
    assert!(
        text(&odd.stderr).contains("eye-12.png is") && text(&odd.stderr).contains("one size"),
        "{}",
        text(&odd.stderr)
    );
}
