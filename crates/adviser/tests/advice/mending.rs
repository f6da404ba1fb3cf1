//! What is named to change first, held against what the rules then say.

use adviser::{Handle, Mend, mends, myths};
use evidence::marks::{MarkKind, Marks};
use evidence::readings::Readings;
use judging::critique::{Outcome, brief, judge};
use lightset::set::LightSet;
use optics::geometry::AzEl;
use optics::words::Lengths;
use serde_json::json;

fn set(key: [f64; 2], size: f64, fill: f64) -> LightSet {
    LightSet::from_value(json!({
        "format": "slant-set/1",
        "subjects": [{"kind": "head_long"}],
        "camera": {"position_m": [0, 0, 2], "exposure": {"f_number": 5.6, "shutter_s": 0.008, "iso": 100}},
        "lights": [
            {"name": "key", "azimuth_deg": key[0], "elevation_deg": key[1], "distance_m": 1.4,
             "source": {"kind": "disc", "diameter_m": 2.0 * 1.4 * (size / 2.0).to_radians().tan()}, "level": {"stops": -0.3}},
            {"name": "fill", "azimuth_deg": -30, "elevation_deg": 5, "distance_m": 1.8,
             "source": {"kind": "rectangle", "width_m": 1.0, "height_m": 1.0}, "level": {"stops": -0.3 + fill}}],
        "walls": [{"position_m": [0, 0, -1.5], "normal": [0, 0, 1], "width_m": 6, "height_m": 5, "colour": [0.22, 0.22, 0.22]}],
        "ambient": {"level": {"stops": -5}},
        "picture": {"width": 320, "height": 400}
    }))
    .expect("a set")
    .set
}

/// A reading as it would be of that set.
fn read(key: [f64; 2], size: f64, fill: f64, contrast: f64, ground: f64) -> (Readings, Marks) {
    let square = json!([[10, 10], [20, 10], [20, 20], [10, 20]]);
    let patch = |stops: f64| json!({"patch": {"luminance": 0.18 * stops.exp2(), "stops_from_grey": stops, "spread_stops": 0.1, "clipped_fraction": 0.0, "pixels": 100}});
    let light = |role: &str, at: [f64; 2], size: f64, level: f64| {
        json!({"role": role, "azimuth_deg": at[0], "elevation_deg": at[1], "direction_sd_deg": 2.0, "frame": "camera",
               "angular_size_deg": size, "angular_size_range_deg": [0.9 * size, 1.1 * size], "level_stops": level, "level_sd_stops": 0.1, "evidence": ["e"]})
    };
    let times = (-fill).exp2();
    let r = json!({
        "format": "slant-readings/1",
        "lights": [light("key", key, size, 0.0), light("fill", [-30.0, 5.0], 31.0, fill)],
        "by_mark": {
            "e": {"catchlights": [{"clock": 10.0, "azimuth_deg": key[0], "elevation_deg": key[1], "direction_sd_deg": 2.0}]},
            "lit": patch(0.9), "shadow": patch(0.9 - contrast), "bg": patch(ground)},
        "ratios": {"lit_to_shadow_stops": contrast, "range_stops": [contrast - 0.2, contrast + 0.2], "contrast_from": "patches",
                   "key_to_fill": times, "key_to_fill_range": [0.8 * times, 1.25 * times], "key_plus_fill_to_fill": times + 1.0, "ratio_from": "lights", "evidence": ["e"]},
        "exposure": {"clipped_fraction": 0.0, "median_stops_from_grey": -1.0},
        "slant": ""
    });
    let marks = json!({"format": "slant-marks/1", "marks": [
        {"id": "e", "kind": "eye", "limbus": {"centre": [40, 30], "rx": 9, "ry": 9}},
        {"id": "lit", "kind": "patch", "role": "lit", "polygon": square},
        {"id": "shadow", "kind": "patch", "role": "shadow", "polygon": square},
        {"id": "bg", "kind": "patch", "role": "background", "polygon": square}]});
    (serde_json::from_value(r).expect("readings"), Marks::from_value(marks).expect("marks"))
}

fn first(key: [f64; 2], size: f64, fill: f64, contrast: f64, ground: f64, as_: &str) -> Vec<Mend> {
    let (r, m) = read(key, size, fill, contrast, ground);
    mends(&r, &m, brief(as_).expect("a brief"), &set(key, size, fill), None, None, &mut |_| true).expect("mends")
}

#[test]
fn a_key_that_is_too_high_is_lowered() {
    let all = first([35.0, 72.0], 30.0, -1.5, 1.3, -2.0, "business");
    let lowered =
        all.iter().find(|m| matches!(m.handle, Handle::Height { light: 0, deg } if deg < 0.0)).expect("lowered");
    assert!(
        lowered.foreseen.iter().any(|f| f.before == Outcome::Fault && f.after == Outcome::Holds),
        "{:?}",
        lowered.foreseen
    );
    let at = |s: &LightSet| AzEl::of(&s.lights[0].position()).elevation_deg;
    assert!(at(&lowered.set) < 60.0, "{}", at(&lowered.set));
}

#[test]
fn too_much_contrast_is_mended_by_what_fills_and_too_little_by_taking_it_away() {
    // the ratio follows from levels: key over fill in stops
    let filled = |all: &[Mend], up: bool| {
        all.iter().any(|m| match m.handle {
            Handle::Power { light: 1, stops } | Handle::Room { stops } => (stops > 0.0) == up,
            Handle::Power { light: 0, stops } => (stops < 0.0) == up,
            Handle::Off { light: 1 } => !up,
            _ => false,
        })
    };
    let dark = first([40.0, 25.0], 30.0, -3.5, 3.2, -2.0, "business");
    assert!(filled(&dark, true), "{:?}", dark.iter().map(|m| &m.says).collect::<Vec<_>>());
    let flat = first([40.0, 25.0], 30.0, -0.3, 0.3, -2.0, "dramatic");
    assert!(filled(&flat, false), "{:?}", flat.iter().map(|m| &m.says).collect::<Vec<_>>());
}

#[test]
fn each_change_takes_gravity_away_and_more_hold_at_the_end() {
    for (key, size, fill, contrast, ground, as_) in [
        ([35.0, 72.0], 30.0, -1.5, 1.3, -2.0, "business"),
        ([5.0, 10.0], 5.0, -3.5, 3.4, 1.5, "gentle"),
        ([70.0, 60.0], 3.0, -4.0, 4.0, 0.5, "business"),
    ] {
        let (r, m) = read(key, size, fill, contrast, ground);
        let v = judge(&r, &m, brief(as_).unwrap());
        let faults = v.findings.iter().filter(|f| f.outcome == Outcome::Fault).count();
        let all = first(key, size, fill, contrast, ground, as_);
        assert!(!all.is_empty() && faults > 0, "{as_}: {faults} faults");
        assert!(all.iter().all(|m| m.gain > 0.0));
        let (held, holds) = (all[0].held, all.last().unwrap().holds);
        assert!(holds > held, "{as_}: {held} to {holds}");
        // the chain hangs together: what one ends with the next begins with
        for w in all.windows(2) {
            assert_eq!(w[0].holds, w[1].held);
        }
    }
}

#[test]
fn nothing_is_changed_where_nothing_is_wrong() {
    let (r, m) = read([35.0, 30.0], 30.0, -1.2, 1.2, -1.2);
    let b = brief("business").unwrap();
    let v = judge(&r, &m, b);
    let wrong: Vec<_> = v
        .findings
        .iter()
        .filter(|f| matches!(f.outcome, Outcome::Fault | Outcome::Unsure))
        .map(|f| (&f.rule, f.value, f.limit))
        .collect();
    assert!(wrong.is_empty(), "{wrong:?}");
    assert!(mends(&r, &m, b, &set([35.0, 30.0], 30.0, -1.2), None, None, &mut |_| true).unwrap().is_empty());
}

/// A set and a reading of it with more said by hand: of the face, of what the picture is made of.
fn spoilt(pose: [f64; 2], texture: serde_json::Value) -> (Readings, Marks, LightSet) {
    let (r, mut m) = read([35.0, 30.0], 30.0, -1.2, 1.2, -1.2);
    let mut r = serde_json::to_value(&r).unwrap();
    r["texture"] = texture;
    r["by_mark"]["f"] = json!({"face": {"turned_deg": 0.0, "turned_sd_deg": 2.0, "nodded_deg": pose[1], "nodded_sd_deg": 2.0, "tilted_deg": pose[0], "map": [], "heads": []}});
    let face = json!({"format": "slant-marks/1", "marks": [{"id": "f", "kind": "face", "points": {
        "brow": [40, 20], "nose_root": [40, 28], "nose_tip": [40, 40], "mouth_left": [30, 50], "mouth_right": [50, 50]}}]});
    m.marks.extend(Marks::from_value(face).map(|m| m.marks).unwrap_or_default());
    let mut s = set([35.0, 30.0], 30.0, -1.2);
    (s.subjects[0].roll_deg, s.subjects[0].pitch_deg) = (pose[0], -pose[1]);
    (serde_json::from_value(r).expect("readings"), m, s)
}

fn fine() -> serde_json::Value {
    json!({"noise_percent": 0.4, "blocks_percent": 0.0, "edge_permille": 2.0, "smear_permille": 0.3, "smear_deg": 0.0, "pixel_permille": 0.5})
}

#[test]
fn what_is_no_matter_of_light_is_not_mended_by_light() {
    for (field, bad, words) in [
        ("smear_permille", 12.0, "still"),
        ("edge_permille", 9.0, "in focus"),
        ("noise_percent", 5.0, "lower ISO"),
        ("blocks_percent", 0.5, "original"),
    ] {
        let mut texture = fine();
        texture[field] = json!(bad);
        let (r, m, s) = spoilt([0.0, 0.0], texture);
        let all = mends(&r, &m, brief("business").unwrap(), &s, None, None, &mut |_| true).unwrap();
        assert_eq!(all.len(), 1, "{field}: {:?}", all.iter().map(|m| &m.says).collect::<Vec<_>>());
        assert!(matches!(all[0].handle, Handle::Retake { .. }) && all[0].says.contains(words), "{}", all[0].says);
        assert!(all[0].holds > all[0].held && all[0].changes.is_empty(), "the set stays as it is");
        assert_eq!(all[0].set.lights, s.lights);
    }
    // nothing of it is named where nothing of it is found
    let (r, m, s) = spoilt([0.0, 0.0], fine());
    assert!(mends(&r, &m, brief("business").unwrap(), &s, None, None, &mut |_| true).unwrap().is_empty());
}

#[test]
fn a_head_is_turned_back_before_a_lamp_is_carried() {
    for (pose, words) in [([20.0, 0.0], "upright: 20"), ([0.0, -22.0], "Lift the chin by 22")] {
        let (r, m, s) = spoilt(pose, fine());
        let all = mends(&r, &m, brief("business").unwrap(), &s, None, None, &mut |_| true).unwrap();
        let head = all.first().expect("a change");
        assert!(head.says.contains(words), "{:?}", all.iter().map(|m| &m.says).collect::<Vec<_>>());
        let set = head.handle.on(&s).expect("a set");
        assert!(set.subjects[0].roll_deg.abs() < 1e-9 && set.subjects[0].pitch_deg.abs() < 1e-9);
        assert!(head.foreseen.iter().any(|f| f.before == Outcome::Fault && f.after == Outcome::Holds));
    }
}

#[test]
fn what_has_no_head_is_not_turned_upright() {
    let (r, m, mut s) = spoilt([20.0, 0.0], fine());
    s.subjects[0].kind = lightset::set::SubjectKind::Shoe;
    let all = mends(&r, &m, brief("business").unwrap(), &s, None, None, &mut |_| true).unwrap();
    assert!(all.iter().all(|m| !matches!(m.handle, Handle::Head { .. })), "a shoe may lean as it likes");
}

#[test]
fn telling_can_be_stopped() {
    let (r, m) = read([70.0, 60.0], 3.0, -4.0, 4.0, 0.5);
    let all =
        mends(&r, &m, brief("business").unwrap(), &set([70.0, 60.0], 3.0, -4.0), None, None, &mut |_| false).unwrap();
    assert_eq!(all.len(), 1);
}

#[test]
fn beliefs_are_held_against_the_law() {
    let all = myths(&set([40.0, 30.0], 3.0, -1.5), Lengths::Metres).expect("beliefs");
    let of = |id: &str| all.iter().find(|m| m.id == id).unwrap_or_else(|| panic!("{id}"));
    // a small lamp: two stops for twice the distance (inverse square law)
    assert!((of("twice-as-far").expected_computed[1] - 2.0).abs() < 0.05, "{}", of("twice-as-far").here);
    // 1.5 times as wide from twice as far looks three quarters as large (geometry, small angles)
    assert!((of("bigger-is-softer").expected_computed[1] - 0.75).abs() < 0.02);
    // radiance is kept along a ray: no stops at all
    assert!(of("camera-nearer").expected_computed[1].abs() < 0.02);
    // all a stop down leaves the ratio as it is (definition)
    let ratio = of("dim-for-less-contrast").expected_computed;
    assert!((ratio[1] / (2.0 * ratio[0]) - 1.0).abs() < 0.01, "{ratio:?}");
    // key 1.4 m before the subject, the wall 1.5 m behind it: 2.9 m against 1.4, then 4.3 against 2.8 (inverse square law,
    // with the fill and the cosine left in both)
    let wall = of("farther-darkens-the-wall").expected_computed;
    assert!(wall[1] < wall[0] - 1.0, "it gets brighter against the subject: {wall:?}");
    assert!(all.iter().all(|m| !m.truth.is_empty() && !m.source.is_empty() && !m.here.is_empty()));
}

/// A bottle with a strip on its right, and a reading of it.
fn bottle_with_one_line() -> (Readings, Marks, LightSet) {
    let s = LightSet::from_value(json!({
        "format": "slant-set/1", "subjects": [{"kind": "bottle"}],
        "camera": {"position_m": [0, 0, 2], "exposure": {"f_number": 11, "shutter_s": 0.008, "iso": 100}},
        "lights": [{"name": "key", "azimuth_deg": 70, "elevation_deg": 0, "distance_m": 0.8,
            "source": {"kind": "rectangle", "width_m": 0.2, "height_m": 0.9}, "level": {"stops": 0.0}}],
        "picture": {"width": 300, "height": 400}
    }))
    .expect("a set")
    .set;
    let line = json!({"azimuth_from_deg": 63, "azimuth_to_deg": 77, "azimuth_sd_deg": 1.0, "width_sd_deg": 1.4, "edge": "crisp", "edge_deg": 2.0, "edges_deg": [2, 2],
        "over_ground_stops": 2.5, "light": 0.5, "clipped": false, "along": [0.05, 0.95], "lit_side": false});
    let r: Readings = serde_json::from_value(json!({
        "format": "slant-readings/1",
        "lights": [{"role": "key", "azimuth_deg": 70, "elevation_deg": 0, "direction_sd_deg": 2.0, "frame": "camera",
            "angular_size_deg": 14.0, "angular_size_range_deg": [12.0, 16.0], "evidence": ["b"]}],
        "by_mark": {"b": {"strips": [line]}},
        "exposure": {"clipped_fraction": 0.0, "median_stops_from_grey": -3.0}, "slant": ""
    }))
    .expect("readings");
    let marks = Marks::from_value(json!({"format": "slant-marks/1", "marks": [
        {"id": "b", "kind": "cylinder", "axis": [[150, 350], [150, 60]], "radius_px": 40}]}))
    .expect("marks");
    (r, marks, s)
}

/// A bottle with one line is asked for two: the strip that lacks is put up on the side that has none, as far round as the other
/// (common practice), and its line is foretold there.
#[test]
fn a_bottle_with_one_line_gets_its_second_strip() {
    let (r, marks, s) = bottle_with_one_line();
    let b = brief("bottle-dark").expect("a brief");
    assert!(judge(&r, &marks, b).findings.iter().any(|f| f.rule == "one_sided" && f.outcome == Outcome::Fault));
    let all = mends(&r, &marks, b, &s, None, None, &mut |_| true).expect("mends");
    let put = all.first().expect("a change");
    assert!(matches!(put.handle, Handle::Strip { right: false, .. }), "{}", put.says);
    assert!(put.foreseen.iter().any(|f| f.rule == "one_sided" && f.after == Outcome::Holds));
    let new = put.set.lights.last().expect("a strip");
    assert!(
        (AzEl::of(&new.position()).azimuth_deg + 70.0).abs() < 0.1 && put.says.contains("on the left"),
        "{}",
        put.says
    );
    // both sides have one: none is added
    let mut two = s.clone();
    two.lights.push(new.clone());
    assert!(
        mends(&r, &marks, b, &two, None, None, &mut |_| true)
            .unwrap()
            .iter()
            .all(|m| !matches!(m.handle, Handle::Strip { .. }))
    );
}

/// Strips on both sides that end short of the shoulder: both get higher faces, and their lines are foretold longer by as much; threads
/// get wider ones. A larger face that gives as much light is dimmer by what it is larger (radiance is flux over area and angle).
#[test]
fn short_and_thin_lines_ask_for_larger_sources_on_both_sides() {
    let (r, marks, s) = bottle_with_one_line();
    let mut two = s.clone();
    let mut other = two.lights[0].clone();
    (other.name, other.azimuth_deg) = ("fill".into(), Some(-70.0));
    two.lights.push(other);
    let b = brief("bottle-dark").expect("a brief");
    let read = |along: [f64; 2], half: f64, clipped: bool| {
        let mut r = r.clone();
        let mut left = r.lights[0].clone();
        (left.role, left.azimuth_deg, left.level_stops) = (optics::role::Role::Fill, -70.0, Some(-0.3));
        r.lights.push(left);
        let strips = r.by_mark.get_mut("b").and_then(|m| m.strips.as_mut()).expect("lines");
        strips.push(strips[0].clone());
        for (l, middle) in strips.iter_mut().zip([70.0, -70.0]) {
            (l.azimuth_from_deg, l.azimuth_to_deg) = (middle - half, middle + half);
            (l.along, l.clipped, l.over_ground_stops) = (along, clipped, 4.0);
        }
        r
    };
    let short = read([0.3, 0.7], 7.0, false);
    assert_eq!(judge(&short, &marks, b).finding("line_broken").expect("a finding").outcome, Outcome::Fault);
    let all = mends(&short, &marks, b, &two, None, None, &mut |_| true).unwrap();
    let first = &all[0];
    let Handle::Lines { wide, high } = first.handle else { panic!("{}", first.says) };
    assert!(wide == 1.0 && high >= 2.0 && mended(first).contains(&"line_broken"), "{}", first.says);
    assert!(first.says.contains("times as high") && first.says.contains("meter them"));
    // both faces are higher, as wide as before, and stand where they stood
    for (a, b) in first.set.lights.iter().zip(&two.lights) {
        let ([aw, ah], [bw, bh]) = (a.source.face_m(), b.source.face_m());
        assert!((aw - bw).abs() < 1e-9 && (ah / bh - high).abs() < 1e-9 && a.azimuth_deg == b.azimuth_deg);
    }
    let thin = read([0.05, 0.95], 0.6, true);
    assert_eq!(judge(&thin, &marks, b).finding("line_thin").expect("a finding").outcome, Outcome::Fault);
    let all = mends(&thin, &marks, b, &two, None, None, &mut |_| true).unwrap();
    assert!(matches!(all[0].handle, Handle::Lines { wide, .. } if wide >= 2.0), "{}", all[0].says);
    // at the same light a face so much wider is no longer burnt
    assert!(mended(&all[0]).contains(&"line_burnt"), "{:?}", all[0].foreseen);
}

/// Noise is there for certain; that two lights are alike lies within the spread of their levels. The certain fault is mended first
/// (common practice: what is plain before what is a matter of taste).
#[test]
fn what_is_certain_comes_before_what_is_likely() {
    let mut texture = fine();
    texture["noise_percent"] = json!(5.0);
    let (mut r, m, s) = spoilt([0.0, 0.0], texture);
    r.lights[1].level_stops = Some(-0.9);
    r.lights[1].level_sd_stops = Some(0.6);
    let q = r.ratios.as_mut().expect("ratios");
    (q.key_to_fill, q.key_to_fill_range) = (1.6, [1.0, 2.6]);
    let b = brief("business").unwrap();
    let v = judge(&r, &m, b);
    assert!(v.findings.iter().any(|f| f.outcome == Outcome::Unsure), "{:?}", v.findings);
    let all = mends(&r, &m, b, &s, None, None, &mut |_| true).unwrap();
    assert!(matches!(all[0].handle, Handle::Retake { .. }), "{}", all[0].says);
}

/// What was marked stands on the stage: a bottle for a slender body, a can for a squat one, each as wide as in the picture, on a table.
#[test]
fn a_marked_bottle_stands_on_the_stage() {
    let (r, marks, _) = bottle_with_one_line();
    let staged = |marks: &Marks| {
        let p = planning::rebuild::plan(&r, marks, 300, 400, &planning::rebuild::Choices::default());
        (planning::stage::stage(&p, marks, &r, 300, 400), p)
    };
    let (s, p) = staged(&marks);
    assert_eq!(s.subjects[0].kind, lightset::set::SubjectKind::Bottle);
    let wide = 40.0 * p.camera.distance_m / (200.0 / p.camera.half_vfov_deg.to_radians().tan());
    let (radius, _) = lightset::line::body(&s.subjects[0]).expect("a body");
    assert!((radius / wide - 1.0).abs() < 0.02 || s.subjects[0].scale > 5.9, "{radius} for {wide}");
    assert_eq!(s.walls.iter().filter(|w| w.normal[1] > 0.9).count(), 2, "a table and the floor");
    assert!(s.floor_m() > 0.5, "stands are measured from the floor");
    let mut squat = marks.clone();
    if let MarkKind::Cylinder(c) = &mut squat.marks[0].kind {
        c.axis = [[150.0, 260.0], [150.0, 130.0]];
    }
    assert_eq!(staged(&squat).0.subjects[0].kind, lightset::set::SubjectKind::Can);
}

/// A box that is marked stands on the stage as it stands in the picture, whether or not somebody said how far the lens looks down: put
/// before the lens again, its corners fall on the pixels that were marked (central projection, by the studio's own camera).
#[test]
fn a_marked_box_stands_on_the_stage_as_it_was_seen() {
    use lightset::set::{Subject, SubjectKind};
    let (r, bottle, _) = bottle_with_one_line();
    for (k, (yaw, size, down, aside)) in [
        (25.0, [0.22, 0.12, 0.09], 24.0, [0.0, 0.0]),
        (-38.0, [0.10, 0.30, 0.10], 12.0, [0.10, 0.05]),
        (-12.0, [0.30, 0.05, 0.20], 40.0, [-0.08, -0.04]),
    ]
    .into_iter()
    .enumerate()
    {
        let p = planning::rebuild::plan(&r, &bottle, 640, 480, &planning::rebuild::Choices::default());
        let mut set = planning::stage::stage(&p, &bottle, &r, 640, 480);
        let (sin, cos) = f64::to_radians(down).sin_cos();
        set.subjects = vec![Subject { yaw_deg: yaw, size_m: Some(size), ..Subject::of(SubjectKind::Carton) }];
        set.camera.position_m = [0.0, 1.6 * sin, 1.6 * cos];
        set.camera.aim_m = [aside[0], aside[1] * cos, -aside[1] * sin];
        (set.camera.vfov_deg, set.camera.focal_mm, set.camera.sensor_height_mm) = (Some(22.0), None, None);
        (set.picture.width, set.picture.height) = (640, 480);
        let mut marks = studio::marks(&set);
        let MarkKind::Cuboid(seen) = marks.marks[0].kind.clone() else { panic!("a box is marked") };
        for said in [true, false] {
            if !said && let Some(c) = &mut marks.camera {
                c.pitch_deg = None;
            }
            let p = planning::rebuild::plan(&r, &marks, 640, 480, &planning::rebuild::Choices::default());
            let again = planning::stage::stage(&p, &marks, &r, 640, 480);
            let own = &again.subjects[0];
            assert_eq!(own.kind, SubjectKind::Carton, "{k}");
            let found = own.size_m.expect("a size");
            // a box may be taken to face the lens by either of its sides: it is the same box a quarter turn on
            for (a, b) in [(1, 0), (1, 2)] {
                let want = [size[a] / size[b], size[a] / size[2 - b]];
                let ratio = found[a] / found[b];
                assert!(want.iter().any(|w| (ratio / w - 1.0).abs() < 0.01), "{k} {said}: {found:?} for {size:?}");
            }
            let full = lightset::set::LightSet { picture: set.picture, ..again.clone() };
            let MarkKind::Cuboid(back) = &studio::marks(&full).marks[0].kind else { panic!("a box stands there") };
            let off = |a: [f64; 2], b: [f64; 2]| (a[0] - b[0]).hypot(a[1] - b[1]);
            let mut most = off(back.corner, seen.corner);
            for e in seen.ends {
                most = most.max(back.ends.iter().map(|b| off(*b, e)).fold(f64::MAX, f64::min));
            }
            assert!(most < 1.0, "{k} {said}: {most:.2} px off");
            assert!(
                again.walls.iter().any(|w| w.normal[1] > 0.9 && (w.position_m[1] + 0.5 * found[1]).abs() < 1e-6),
                "it stands on a table"
            );
        }
    }
}

/// The rules that a change is counted by are those of the verdict: in a series its rule is one of them.
#[test]
fn a_change_counts_the_rules_of_the_verdict() {
    let mut texture = fine();
    texture["noise_percent"] = json!(5.0);
    let (r, m, s) = spoilt([0.0, 0.0], texture);
    let b = brief("business").unwrap();
    let agrees = judging::critique::InSeries::default();
    let counted = |series| {
        let v = judging::critique::judge_in(&r, &m, b, series);
        let holds = v.findings.iter().filter(|f| f.outcome == Outcome::Holds).count();
        (holds, mends(&r, &m, b, &s, None, series, &mut |_| true).unwrap()[0].held)
    };
    let (alone, among) = (counted(None), counted(Some(&agrees)));
    assert_eq!((alone.0, among.0), (alone.1, among.1));
    assert_eq!(among.0, alone.0 + 1);
}

/// The rules of a verdict that are foretold to hold after a change and did not before.
fn mended(m: &Mend) -> Vec<&str> {
    let of = m.foreseen.iter().filter(|f| f.before == Outcome::Fault && f.after == Outcome::Holds);
    of.map(|f| f.rule.as_str()).collect()
}

/// A part that is burnt all over gives no tone to read: with less light it has one again, and less light comes first.
#[test]
fn what_is_burnt_all_over_is_exposed_less() {
    let (mut r, m) = read([35.0, 30.0], 30.0, -1.2, 1.2, -1.2);
    r.by_mark.remove("lit");
    r.warnings = serde_json::from_value(json!([
        {"code": "patch_clipped", "text": "burnt", "mark": "lit"}
    ]))
    .expect("warnings");
    let b = brief("business").unwrap();
    let burnt = judge(&r, &m, b);
    assert_eq!(burnt.finding("clipping_lit").expect("a finding").outcome, Outcome::Fault);
    let s = set([35.0, 30.0], 30.0, -1.2);
    let all = mends(&r, &m, b, &s, None, None, &mut |_| true).unwrap();
    let first = &all[0];
    assert!(matches!(first.handle, Handle::Expose { stops } if stops <= -1.0), "{}", first.says);
    assert!(mended(first).contains(&"clipping_lit"), "{:?}", first.foreseen);
    // the camera lets in less by as much (definition: half the speed is a stop)
    let Handle::Expose { stops } = first.handle else { panic!("exposed") };
    let speeds = first.set.camera.exposure.iso / s.camera.exposure.iso;
    assert!((speeds.log2() - stops).abs() < 1e-9, "{speeds}");
}

/// No fill was read, so that only a bound of it is known: one is put up on the side away from the key, beside the lens and broad
/// (common practice), and how strong it is then is known.
#[test]
fn where_nothing_fills_a_fill_is_put_up() {
    let (mut r, m) = read([40.0, 25.0], 30.0, -4.0, 3.4, -2.0);
    r.lights.truncate(1);
    let q = r.ratios.as_mut().expect("ratios");
    q.at_least = true;
    let mut s = set([40.0, 25.0], 30.0, -4.0);
    s.lights.truncate(1);
    let b = brief("business").unwrap();
    let all = mends(&r, &m, b, &s, None, None, &mut |_| true).unwrap();
    let put = all.iter().find(|m| matches!(m.handle, Handle::Fill { .. })).expect("a fill");
    let new = put.set.lights.last().expect("a light");
    let at = AzEl::of(&new.position());
    assert!(at.azimuth_deg < -15.0 && at.azimuth_deg > -45.0 && at.elevation_deg.abs() < 20.0, "{at:?}");
    assert!(put.says.contains("away from the key") && put.says.contains("under the key"), "{}", put.says);
    assert!(mended(put).contains(&"fill_weak"), "{:?}", put.foreseen);
    // where one stands none is added
    let two = set([40.0, 25.0], 30.0, -3.5);
    let (r, m) = read([40.0, 25.0], 30.0, -3.5, 3.2, -2.0);
    let all = mends(&r, &m, b, &two, None, None, &mut |_| true).unwrap();
    assert!(all.iter().all(|m| !matches!(m.handle, Handle::Fill { .. })));
}

/// A background that is brighter on one side is lit evenly: the brighter side comes down to the other.
#[test]
fn an_uneven_background_is_evened() {
    let (mut r, _) = read([35.0, 30.0], 30.0, -1.2, 1.2, -1.2);
    let far = json!({"patch": {"luminance": 0.3, "stops_from_grey": 0.8, "spread_stops": 0.1, "clipped_fraction": 0.0, "pixels": 100}});
    r.by_mark.insert("far".into(), serde_json::from_value(far).expect("a patch"));
    let square = json!([[10, 10], [20, 10], [20, 20], [10, 20]]);
    let mut marks = json!({"format": "slant-marks/1", "marks": [
        {"id": "e", "kind": "eye", "limbus": {"centre": [40, 30], "rx": 9, "ry": 9}},
        {"id": "far", "kind": "patch", "role": "background_far", "polygon": square}]});
    for (id, role) in [("lit", "lit"), ("shadow", "shadow"), ("bg", "background")] {
        marks["marks"]
            .as_array_mut()
            .expect("a list")
            .push(json!({"id": id, "kind": "patch", "role": role, "polygon": square}));
    }
    let marks = Marks::from_value(marks).expect("marks");
    let b = brief("business").unwrap();
    assert_eq!(judge(&r, &marks, b).finding("ground_uneven").expect("a finding").outcome, Outcome::Fault);
    // a lamp for the wall alone, beside the two for the sitter
    let mut s = set([35.0, 30.0], 30.0, -1.2);
    let mut lamp = s.lights[1].clone();
    (lamp.name, lamp.position_m, lamp.aim_m) = ("wall".into(), Some([1.2, 0.4, -1.0]), [0.9, 0.2, -1.5]);
    (lamp.azimuth_deg, lamp.elevation_deg, lamp.distance_m) = (None, None, None);
    s.lights.push(lamp);
    let all = mends(&r, &marks, b, &s, None, None, &mut |_| true).unwrap();
    let even = all.iter().find(|m| matches!(m.handle, Handle::Even)).expect("evened");
    assert!(mended(even).contains(&"ground_uneven"), "{:?}", even.foreseen);
    assert!(even.set.lights[2].off && !even.set.lights[0].off && !even.set.lights[1].off);
}

/// What is smeared says little of its lights for certain: it is taken anew before a lamp is moved, however wrong that stands.
#[test]
fn a_smeared_picture_is_taken_anew_first() {
    let (mut r, m) = read([35.0, 72.0], 30.0, -1.5, 1.3, -2.0);
    let mut texture = fine();
    texture["smear_permille"] = json!(14.0);
    r.texture = Some(serde_json::from_value(texture).expect("a texture"));
    let b = brief("business").unwrap();
    let v = judge(&r, &m, b);
    let faults: Vec<&str> =
        v.findings.iter().filter(|f| f.outcome == Outcome::Fault).map(|f| f.rule.as_str()).collect();
    assert!(faults.contains(&"smeared") && faults.contains(&"key_high"), "{faults:?}");
    let all = mends(&r, &m, b, &set([35.0, 72.0], 30.0, -1.5), None, None, &mut |_| true).unwrap();
    assert!(matches!(all[0].handle, Handle::Retake { .. }), "{}", all[0].says);
    assert!(all[1..].iter().any(|m| matches!(m.handle, Handle::Height { light: 0, deg } if deg < 0.0)));
}

/// How likely a change is to be seen to help is a probability, high where what it mends lies far beyond its limit.
#[test]
fn how_likely_a_change_is_to_be_seen_follows_its_margin() {
    for (key, fill, contrast) in [([35.0, 72.0], -1.5, 1.3), ([70.0, 60.0], -4.0, 4.0), ([40.0, 25.0], -3.5, 3.2)] {
        for m in first(key, 30.0, fill, contrast, -2.0, "business") {
            assert!(m.likely > 0.15 && m.likely <= 1.0, "{}: {}", m.says, m.likely);
        }
    }
    let high = first([35.0, 72.0], 30.0, -1.5, 1.3, -2.0, "business");
    assert!(high[0].likely > 0.8, "{}: {}", high[0].says, high[0].likely);
}
