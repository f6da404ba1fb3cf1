//! Rules and briefs: each rule has a reading that triggers it and one just inside, by every brief it applies to.

use crate::verdict_and_set::{light, readings};
use evidence::looks::table;
use evidence::marks::{Marks, PatchRole};
use evidence::readings::*;
use judging::critique::{Asked, Brief, BriefKind, InSeries, Outcome, asked, brief, briefs, judge, judge_in};
use std::collections::BTreeSet;

/// All that can be marked, once.
fn everything() -> Marks {
    let square = "[[10,10],[20,10],[20,20],[10,20]]";
    let patches: Vec<String> = [
        "lit",
        "shadow",
        "forehead",
        "chest",
        "background",
        "background_far",
        "label",
        "liquid",
        "grey18",
        "white",
        "black",
    ]
    .iter()
    .map(|r| format!(r#"{{"id":"{r}","kind":"patch","role":"{r}","polygon":{square}}}"#))
    .collect();
    let text = format!(
        r#"{{"format":"slant-marks/1","marks":[
        {{"id":"e","kind":"eye","limbus":{{"centre":[40,30],"rx":9,"ry":9}}}},
        {{"id":"e2","kind":"eye","limbus":{{"centre":[80,30],"rx":9,"ry":9}}}},
        {{"id":"b","kind":"ball","finish":"matte","centre":[40,30],"radius_px":9}},
        {{"id":"k","kind":"cylinder","axis":[[40,90],[40,30]],"radius_px":9}},
        {{"id":"r","kind":"rim","inside":[10,10],"outside":[20,10]}},
        {{"id":"g","kind":"gradient","polygon":{square}}},
        {{"id":"t","kind":"pattern","a":[10,10],"b":[20,60]}},
        {{"id":"n","kind":"penumbra","a":[10,10],"b":[20,10]}},
        {}]}}"#,
        patches.join(",")
    );
    Marks::parse(&text).expect("marks")
}

fn patch(stops: f64, clipped: f64) -> MarkReading {
    let luminance = 0.18 * stops.exp2();
    let p = PatchReading {
        luminance,
        stops_from_grey: stops,
        spread_stops: 0.1,
        clipped_fraction: clipped,
        pixels: 100,
        rgb: [luminance; 3],
    };
    MarkReading { patch: Some(p), ..Default::default() }
}

fn strip(from: f64, to: f64) -> StripView {
    StripView {
        azimuth_from_deg: from,
        azimuth_to_deg: to,
        azimuth_sd_deg: 0.5,
        width_sd_deg: 0.7,
        edge: "crisp".into(),
        edge_deg: 3.0,
        edges_deg: [3.0, 3.0],
        over_ground_stops: 2.0,
        light: 0.5,
        clipped: false,
        along: [0.0, 1.0],
        reaches: None,
        lit_side: false,
    }
}

fn catchlight(clock: f64) -> Sighting {
    serde_json::from_value(
        serde_json::json!({ "clock": clock, "azimuth_deg": 0, "elevation_deg": 0, "direction_sd_deg": 1 }),
    )
    .expect("a sighting")
}

/// A traced bottle whose axis leans by so many degrees.
fn leaning(deg: f64) -> Marks {
    let head = 300.0 + 400.0 * deg.to_radians().tan();
    Marks::parse(&format!(
        r#"{{"format":"slant-marks/1","marks":[{{"id":"b","kind":"cylinder","axis":[[300,600],[{head},200]],"radius_px":60,"profile":[[0,60],[1,60]]}}]}}"#
    ))
    .expect("marks")
}

/// A reading in which a measure has a value, for a brief; `None` for values that cannot be had.
fn with_for(brief: &Brief, measure: &str, v: f64) -> Option<(Readings, Marks)> {
    let mut r = readings(vec![light("key", 40.0, 30.0, 30.0, 0.0)], None, 1);
    let mut marks = everything();
    let only = |marks: &mut Marks, ids: &[&str]| marks.marks.retain(|m| ids.contains(&m.id.as_str()));
    let count = |v: f64| (v >= 0.0).then(|| v.round() as usize);
    let put = |r: &mut Readings, id: &str, m: MarkReading| {
        r.by_mark.insert(id.into(), m);
    };
    let lights = |n: usize, at: f64| {
        (0..n).map(|i| light(if i == 0 { "key" } else { "fill" }, at, 30.0, 30.0, -0.1 * i as f64)).collect::<Vec<_>>()
    };
    let strips = |all: Vec<StripView>| MarkReading { strips: Some(all), ..Default::default() };
    match measure {
        "clipped_percent" => r.exposure.clipped_fraction = v / 100.0,
        "picture_median_stops" => r.exposure.median_stops_from_grey = v,
        "deep_percent" => r.exposure.histogram = vec![v / 200.0, v / 200.0, 1.0 - v / 100.0],
        // half a per cent and a little more in the step that begins there
        "bright_stops" => {
            let step = ((v + 6.0) / 0.5).floor();
            let inside = 1.0 - (v + 6.0 - 0.5 * step) / 0.5;
            if !(0.0..20.0).contains(&step) {
                return None;
            }
            r.exposure.histogram = vec![0.0; 20];
            r.exposure.histogram[step as usize] = 0.005_000_001 / inside.max(1e-6);
            r.exposure.histogram[0] += 1.0 - 0.005_000_001 / inside.max(1e-6);
        }
        "lit_clipped_percent" => put(&mut r, "lit", patch(2.0, v / 100.0)),
        "forehead_clipped_percent" => put(&mut r, "forehead", patch(2.0, v / 100.0)),
        "label_clipped_percent" => put(&mut r, "label", patch(2.0, v / 100.0)),
        "liquid_clipped_percent" => put(&mut r, "liquid", patch(2.0, v / 100.0)),
        "contrast_stops" => r = readings(vec![], Some(v), 1),
        "skin_off_stops" => {
            r.exposure.placements = vec![Placement {
                mark: "lit".into(),
                role: PatchRole::Lit,
                stops_from_grey: v,
                spread_stops: 0.1,
                usual_stops: [0.0, 0.0],
                off_stops: v,
                says: String::new(),
            }];
        }
        "noise_percent" | "blocks_percent" | "edge_permille" | "smear_permille" | "subject_soft_permille" => {
            let of = |name: &str, else_: f64| if measure == name { v } else { else_ };
            r.texture = Some(TextureReading {
                noise_percent: of("noise_percent", 0.5),
                blocks_percent: of("blocks_percent", 0.0),
                edge_permille: Some(of("edge_permille", 2.0)),
                subject_edge_permille: Some(2.0 + of("subject_soft_permille", 0.0)),
                sharpest_part_permille: Some(2.0),
                subject: Some("e".into()),
                smear_permille: Some(of("smear_permille", 0.0)),
                smear_deg: 0.0,
                pixel_permille: 0.0,
            });
        }
        "sides_apart_stops" if v < 0.0 => return None,
        "sides_apart_stops" => {
            let side = |under: f64| {
                serde_json::json!({"name": "top", "azimuth_deg": 0, "elevation_deg": 0, "mirrors_azimuth_deg": 0, "mirrors_elevation_deg": 0,
                    "stops_from_grey": -under, "under_stops": under, "under_sd_stops": 0.1, "gradient_stops": 0, "clipped_fraction": 0, "corners": []})
            };
            let sides =
                serde_json::from_value(serde_json::json!([side(0.0), side(v), side(2.0 * v + 1.0)])).expect("sides");
            put(&mut r, "x", MarkReading { sides, ..Default::default() });
        }
        "level_deg" | "upright_deg" | "converging_deg" => {
            let tilt = Tilt { tilt_deg: v, tilt_sd_deg: 0.0, at: [100.0, 300.0], lines: 2 };
            r.straight = Some(StraightReading {
                level: Some(tilt.clone()),
                upright: Some(tilt),
                converging_deg: Some(-v),
                converging_sd_deg: Some(0.0),
            });
        }
        "thing_leans_deg" => marks = leaning(v),
        "series_times" => {}
        "shadow_stops" => put(&mut r, "shadow", patch(v, 0.0)),
        "grey_off_stops" => put(&mut r, "grey18", patch(v, 0.0)),
        "white_stops" => put(&mut r, "white", patch(v, 0.0)),
        "black_stops" => put(&mut r, "black", patch(v, 0.0)),
        "label_stops" => put(&mut r, "label", patch(v, 0.0)),
        "liquid_stops" => put(&mut r, "liquid", patch(v, 0.0)),
        "background_stops" => put(&mut r, "background", patch(v, 0.0)),
        "chest_over_forehead_stops"
        | "background_under_stops"
        | "background_from_shadow_stops"
        | "liquid_over_background_stops"
        | "label_over_background_stops" => {
            let [a, b] = match measure {
                "chest_over_forehead_stops" => ["chest", "forehead"],
                "background_under_stops" => ["lit", "background"],
                "background_from_shadow_stops" => ["shadow", "background"],
                "liquid_over_background_stops" => ["liquid", "background"],
                _ => ["label", "background"],
            };
            put(&mut r, a, patch(v, 0.0));
            put(&mut r, b, patch(0.0, 0.0));
        }
        "background_across_stops" => {
            let g = GradientView { top: None, clock: 12.0, stops: v, spread_stops: 0.05 };
            put(&mut r, "g", MarkReading { gradient: Some(g), ..Default::default() });
        }
        "key_over_fill_stops" => {
            let k = v.exp2();
            r.ratios = Some(Ratios {
                lit_to_shadow_stops: 1.0,
                range_stops: [0.8, 1.2],
                contrast_from: RatioFrom::Lights,
                key_to_fill: k,
                key_to_fill_range: [0.93 * k, 1.07 * k],
                key_plus_fill_to_fill: k + 1.0,
                key_plus_fill_to_fill_range: [k + 0.9, k + 1.1],
                ratio_from: RatioFrom::Lights,
                at_least: false,
                says: String::new(),
                evidence: vec!["e".into()],
            });
        }
        "key_size_deg" => {
            if v <= 0.0 {
                return None;
            }
            r.lights = vec![light("key", 40.0, 30.0, v, 0.0)];
        }
        "key_aside_deg" => {
            if v < 0.0 {
                return None;
            }
            r.lights = vec![light("key", -v, 30.0, 30.0, 0.0)];
        }
        "key_elevation_deg" => r.lights = vec![light("key", 40.0, v, 30.0, 0.0)],
        "key_lights" => r.lights = lights(count(v).filter(|n| *n > 0)?, 40.0),
        "crossing_stops" => r.lights = vec![light("key", 40.0, 30.0, 5.0, 0.0), light("fill", -40.0, 30.0, 5.0, v)],
        "back_lights" => {
            r.lights = lights(count(v)?, 150.0);
            only(&mut marks, &["b", "e"]);
        }
        "fill_below_deg" => r.lights = vec![light("key", 40.0, 30.0, 30.0, 0.0), light("fill", 0.0, -v, 30.0, -1.0)],
        "look_percent" => {
            let suits = brief.looks.first().filter(|_| (0.0..=100.0).contains(&v))?;
            r.look = Some(Look { name: suits.clone(), probability: v / 100.0, others: vec![], side: None });
        }
        "colour_apart_mired" | "tint_duv" => {
            let (mired, duv) = if measure == "tint_duv" { (0.0, v) } else { (v, 0.0) };
            r.colours = vec![ColourDifference {
                of: "fill".into(),
                against: "key".into(),
                mired,
                mired_sd: 3.0,
                duv,
                filter_mired: None,
                says: String::new(),
                evidence: vec!["e".into()],
            }];
        }
        "directional" => {
            r.room = Some(
                serde_json::from_value(serde_json::json!({ "azimuth_deg": 0, "elevation_deg": 0, "direction_sd_deg": 5, "directional": v,
                    "directional_sd": 0.02, "leads": false, "key_share": 0.2, "key_share_sd": 0.1, "inferred": 0, "rows": 0, "map_stops": [], "evidence": ["b"] }))
                .expect("a room"),
            );
        }
        "people" => {
            let n = count(v)?;
            let points = "\"eye_image_left\":[10,10],\"eye_image_right\":[20,10],\"chin\":[15,30]";
            let faces: Vec<String> =
                (0..n).map(|i| format!(r#"{{"id":"f{i}","kind":"face","points":{{{points}}}}}"#)).collect();
            marks =
                Marks::parse(&format!(r#"{{"format":"slant-marks/1","marks":[{}]}}"#, faces.join(","))).expect("marks");
        }
        "catchlights" => r = readings(vec![], None, count(v)?),
        "catchlight_from_top_hours" => {
            if !(0.0..=6.0).contains(&v) {
                return None;
            }
            put(&mut r, "e", MarkReading { catchlights: Some(vec![catchlight(12.0 - v)]), ..Default::default() });
        }
        "eyes_unlike" => {
            put(&mut r, "e", MarkReading { catchlights: Some(vec![catchlight(11.0); 3]), ..Default::default() });
            put(
                &mut r,
                "e2",
                MarkReading { catchlights: Some(vec![catchlight(11.0); 3 - count(v)?.min(3)]), ..Default::default() },
            );
        }
        "head_tilted_deg" | "head_nodded_deg" => {
            let (tilted, nodded) = if measure == "head_tilted_deg" { (v, 0.0) } else { (0.0, v) };
            let f = serde_json::json!({ "turned_deg": 0, "nodded_deg": nodded, "nodded_sd_deg": 2, "tilted_deg": tilted, "heads": [] });
            put(
                &mut r,
                "f",
                MarkReading { face: Some(serde_json::from_value(f).expect("a face")), ..Default::default() },
            );
        }
        "rim_over_stops" | "rims_clipped" => {
            let (over, clipped) = if measure == "rims_clipped" { (1.0, v > 0.5) } else { (v, false) };
            let rim = RimView {
                clock: 3.0,
                width_px: 3.0,
                over_stops: over,
                clipped,
                off_axis_deg: None,
                off_axis_sd_deg: None,
            };
            put(&mut r, "r", MarkReading { rim: Some(rim), ..Default::default() });
        }
        "pattern_contrast_stops" | "pattern_uneven" => {
            let (contrast, unevenness) = if measure == "pattern_uneven" { (2.0, v) } else { (v, 0.1) };
            let p = PatternView {
                bands: 4,
                spacing_px: None,
                unevenness,
                edge_px: 2.0,
                contrast_stops: contrast,
                run_deg: 0.0,
            };
            put(&mut r, "t", MarkReading { pattern: Some(p), ..Default::default() });
        }
        "shadow_edge_stops" => {
            let e = EdgeView {
                width_px: 3.0,
                step_stops: v,
                angular_size_deg: None,
                angular_size_range_deg: None,
                unresolved: false,
            };
            put(&mut r, "n", MarkReading { edge: Some(e), ..Default::default() });
        }
        "lines" => put(
            &mut r,
            "k",
            strips((0..count(v)?).map(|i| strip(20.0 + 9.0 * i as f64, 26.0 + 9.0 * i as f64)).collect()),
        ),
        "line_sides" => {
            let both = [strip(30.0, 40.0), strip(-40.0, -30.0)];
            put(&mut r, "k", strips(both.into_iter().take(count(v)?).collect()));
        }
        "line_length_percent" => {
            if !(0.0..=110.0).contains(&v) {
                return None;
            }
            put(&mut r, "k", strips(vec![StripView { along: [0.0, v / 100.0], ..strip(30.0, 40.0) }]));
        }
        "line_width_deg" => put(&mut r, "k", strips(vec![strip(30.0, 30.0 + v.max(0.0))])),
        "line_edge_deg" => put(&mut r, "k", strips(vec![StripView { edge_deg: v, ..strip(30.0, 40.0) }])),
        "line_over_stops" => put(&mut r, "k", strips(vec![StripView { over_ground_stops: v, ..strip(30.0, 40.0) }])),
        "lines_clipped" => put(&mut r, "k", strips(vec![StripView { clipped: v > 0.5, ..strip(30.0, 40.0) }])),
        "lines_unlike_stops" => {
            let weak = StripView { light: 0.5 / v.exp2(), ..strip(-40.0, -30.0) };
            put(&mut r, "k", strips(vec![strip(30.0, 40.0), weak]));
        }
        "key_and_label_stops" => {
            put(&mut r, "k", strips(vec![StripView { light: 0.18 * v.exp2(), ..strip(30.0, 40.0) }]));
            put(&mut r, "label", patch(0.0, 0.0));
        }
        other => panic!("nothing is drawn for {other}"),
    }
    Some((r, marks))
}

fn with(measure: &str, v: f64) -> Option<(Readings, Marks)> {
    with_for(brief("everyday").expect("a brief"), measure, v)
}

fn outcome(a: &Asked, brief_id: &str, v: f64) -> Option<(Outcome, f64, String)> {
    let brief = brief(brief_id).expect("a brief");
    let (r, marks) = with_for(brief, &a.measure, v)?;
    let series = (a.measure == "series_times")
        .then(|| InSeries { times: v, says: "It is larger than the others by 9 %.".into() });
    let f = judge_in(&r, &marks, brief, series.as_ref()).findings.into_iter().find(|f| f.rule == a.rule)?;
    Some((f.outcome, f.severity, f.says))
}

/// Every rule by every brief: well beyond its limit a fault, well inside it holds, and nothing between is a fault without passing it.
#[test]
fn each_rule_has_a_reading_that_triggers_it_and_one_inside() {
    let mut triggered = BTreeSet::new();
    let mut all = BTreeSet::new();
    for b in briefs() {
        for a in asked(b) {
            all.insert(a.rule.clone());
            let side = if a.above { 1.0 } else { -1.0 };
            // by steps that are large for counts, shares and angles, small for stops
            let far = match a.unit.as_str() {
                "stops" if a.measure == "background_from_shadow_stops" => 0.25,
                "stops" if a.measure == "sides_apart_stops" => 0.25,
                "stops" => 1.5,
                "%" => 12.0f64.min(a.limit.abs().max(6.0)),
                "degrees" if a.measure == "key_size_deg" => 0.5 * a.limit,
                "degrees" if a.limit < 5.0 && a.limit > 0.0 => 0.8 * a.limit,
                "degrees" | "mired" => 14.0,
                "hours" => 1.5,
                _ if a.limit.abs() < 0.5 => 0.9 * a.limit.abs(),
                _ => 1.0,
            };
            let out = outcome(&a, &b.id, a.limit + side * far);
            let inside = outcome(&a, &b.id, a.limit - side * far);
            if let Some((o, severity, says)) = &out {
                assert_eq!(*o, Outcome::Fault, "{} by {}: {says}", a.rule, b.id);
                assert!(*severity > 0.0 && !says.contains('{'), "{}: {says}", a.rule);
                triggered.insert(a.rule.clone());
            }
            if let Some((o, severity, says)) = &inside {
                assert_eq!(*o, Outcome::Holds, "{} by {}: {says}", a.rule, b.id);
                assert!(*severity == 0.0 && !says.contains('{'), "{}: {says}", a.rule);
            }
        }
    }
    let never: Vec<&String> = all.difference(&triggered).collect();
    assert!(never.is_empty(), "never triggered: {never:?}");
    assert!(all.len() >= 75, "{} rules apply to a brief", all.len());
}

/// The further beyond its limit, the graver; and the gravest stands first.
#[test]
fn the_gravest_is_first() {
    let b = brief("gentle").expect("a brief");
    let a = asked(b).into_iter().find(|a| a.rule == "shadow_dark").expect("a rule");
    let severity = |v: f64| outcome(&a, "gentle", v).expect("told").1;
    assert!(severity(3.0) > severity(2.2));
    let mut r = readings(vec![light("key", 45.0, 30.0, 12.0, 0.0)], Some(4.5), 1);
    r.by_mark.insert("lit".into(), patch(2.0, 0.02));
    let v = judge(&r, &everything(), b);
    let faults: Vec<&str> =
        v.findings.iter().filter(|f| f.outcome == Outcome::Fault).map(|f| f.rule.as_str()).collect();
    assert_eq!(faults[0], "shadow_dark", "{faults:?}");
    assert!(faults.contains(&"clipping_lit"));
}

/// A split is a fault for a glamour brief and what a dramatic one asks for; equal lights wash out a talking head and suit an even
/// headshot (common practice).
#[test]
fn briefs_disagree_as_schools_do() {
    let fault = |r: &Readings, id: &str, rule: &str| {
        judge(r, &everything(), brief(id).expect("a brief"))
            .findings
            .iter()
            .any(|f| f.rule == rule && f.outcome == Outcome::Fault)
    };
    let (split, marks) = with("key_aside_deg", 90.0).expect("a reading");
    drop(marks);
    assert!(fault(&split, "glamour", "aside_much") && !fault(&split, "dramatic", "aside_much"));
    let (even, _) = with("key_over_fill_stops", 0.1).expect("a reading");
    assert!(fault(&even, "talking-one", "flat") && !fault(&even, "even-headshot", "flat"));
    let (dark, _) = with("background_stops", -4.0).expect("a reading");
    assert!(fault(&dark, "footwear-catalogue", "ground_dark") && !fault(&dark, "bottle-dark", "ground_dark"));
}

#[test]
fn a_brief_for_another_kind_of_subject_is_said() {
    let r = readings(vec![], None, 1);
    let eyes = Marks::parse(
        r#"{"format":"slant-marks/1","marks":[{"id":"e","kind":"eye","limbus":{"centre":[40,30],"rx":9,"ry":9}}]}"#,
    )
    .expect("marks");
    assert!(judge(&r, &eyes, brief("can").expect("a brief")).unsuited.is_some_and(|s| s.contains("things")));
    assert!(judge(&r, &eyes, brief("gentle").expect("a brief")).unsuited.is_none());
    assert!(judge(&r, &Marks::default(), brief("can").expect("a brief")).unsuited.is_none());
}

/// At least sixteen briefs of people and things; what they ask of can be measured, and each asks something (the project's own aim).
#[test]
fn briefs_ask_what_can_be_measured() {
    let ids: BTreeSet<&str> = briefs().iter().map(|b| b.id.as_str()).collect();
    assert!(ids.len() == briefs().len() && ids.len() >= 16);
    for kind in [BriefKind::Person, BriefKind::Thing] {
        assert!(briefs().iter().filter(|b| b.kind == kind).count() >= 8);
    }
    for b in briefs() {
        for (measure, range) in &b.ranges {
            let ends = [(range.least, false), (range.most, true)];
            assert!(range.least.zip(range.most).is_none_or(|(l, m)| l <= m), "{}: {measure}", b.id);
            // each end that is asked has its rule
            for (limit, above) in ends.into_iter().filter_map(|(l, above)| Some((l?, above))) {
                let held = |a: &Asked| a.measure == *measure && a.limit == limit && a.above == above;
                assert!(asked(b).iter().any(held), "{}: no rule holds {measure} against {limit}", b.id);
            }
            assert!(range.least.or(range.most).is_some(), "{}: {measure} asks for nothing", b.id);
        }
        let known = table().iter().map(|l| l.name.as_str()).chain(["clamshell"]).collect::<BTreeSet<_>>();
        assert!(b.looks.iter().all(|l| known.contains(l.as_str())), "{}: {:?}", b.id, b.looks);
        assert!(b.reasons.keys().all(|k| b.ranges.contains_key(k)), "{}", b.id);
        assert!(!b.must.is_empty() && !b.never.is_empty() && !b.school.is_empty(), "{}", b.id);
    }
}

/// A reading in which the key lies over the fill by a bound alone.
fn bounded(stops: f64) -> Readings {
    let times = stops.exp2();
    let mut r = readings(vec![light("key", 40.0, 30.0, 30.0, 0.0)], Some(1.0), 1);
    let q = serde_json::json!({"lit_to_shadow_stops": 1.0, "range_stops": [0.8, 1.2], "contrast_from": "patches", "key_to_fill": times,
        "key_to_fill_range": [times, 16.0 * times], "key_plus_fill_to_fill": times + 1.0, "ratio_from": "lights", "at_least": true, "evidence": ["e"]});
    r.ratios = Some(serde_json::from_value(q).expect("ratios"));
    r
}

/// A key by the lens fills its own shadows: however weak a fill may be that was not seen, nothing is dark for want of it.
#[test]
fn an_open_shadow_side_asks_for_no_fill() {
    let b = brief("business").expect("a brief");
    for (contrast, outcome) in [(0.1, Outcome::CannotTell), (1.6, Outcome::Fault)] {
        let mut r = bounded(3.5);
        let q = r.ratios.as_mut().expect("ratios");
        (q.lit_to_shadow_stops, q.range_stops) = (contrast, [contrast - 0.2, contrast + 0.2]);
        let v = judge(&r, &everything(), b);
        assert_eq!(v.finding("fill_weak").expect("a finding").outcome, outcome, "{contrast}");
    }
}

#[test]
fn a_bound_decides_what_it_can_and_nothing_else() {
    // business asks 0.5 to 2 stops of key over fill
    let b = brief("business").expect("a brief");
    let told = |stops: f64, rule: &str| {
        let v = judge(&bounded(stops), &everything(), b);
        v.findings.into_iter().find(|f| f.rule == rule).expect("a finding")
    };
    // three stops or more is too much whatever it is; one or more may be anything above
    let dark = told(3.0, "fill_weak");
    assert_eq!(dark.outcome, Outcome::Fault);
    assert!(dark.says.contains("at least 3") && !dark.says.contains('\u{b1}'), "{}", dark.says);
    assert_eq!(told(1.0, "fill_weak").outcome, Outcome::CannotTell);
    // that one side leads is sure of either
    let flat = |stops: f64| judge(&bounded(stops), &everything(), b).findings.into_iter().find(|f| f.rule == "flat");
    assert!(flat(3.0).is_none_or(|f| f.outcome == Outcome::Holds));
    assert!(flat(0.3).is_none_or(|f| f.outcome == Outcome::CannotTell));
}

#[test]
fn how_likely_a_rule_is_broken_follows_its_spread() {
    let b = brief("gentle").expect("a brief");
    for a in asked(b) {
        let mut last = None;
        for k in -6..=6 {
            let v = a.limit + 0.7 * f64::from(k);
            let Some((r, m)) = with_for(b, &a.measure, v) else { continue };
            let findings = judge(&r, &m, b).findings;
            let Some(f) = findings.iter().find(|f| f.rule == a.rule) else { continue };
            let Some(p) = f.broken(0.0) else { continue };
            assert!((0.0..=1.0).contains(&p) && f.expected(0.0) >= 0.0, "{}: {p}", a.rule);
            match f.outcome {
                Outcome::Fault => assert!(p > 0.5, "{} is a fault and {p} likely", a.rule),
                Outcome::Holds => assert!(p <= 0.5 + 1e-9, "{} holds and is {p} likely broken", a.rule),
                _ => {}
            }
            // what is foretold is known less well: nearer to even odds
            let far = f.broken(3.0).expect("as before");
            assert!((far - 0.5).abs() <= (p - 0.5).abs() + 1e-9, "{}: {p} and {far}", a.rule);
            // farther out it is never less likely
            let worse = if a.above { p } else { -p };
            let now = f.value.expect("measured");
            if let Some((before, was)) = last
                && now > before
            {
                assert!(worse >= was - 1e-9, "{} at {now}: {worse} after {was}", a.rule);
            }
            last = Some((now, worse));
        }
    }
}

/// What lies on its side does not lean (common practice: a bottle laid down is meant so), nor does what has no axis.
#[test]
fn what_lies_down_does_not_lean() {
    let b = brief("can").expect("a brief");
    let found =
        |marks: &Marks| judge(&readings(vec![], None, 0), marks, b).finding("thing_leans").expect("a rule").outcome;
    assert_eq!(found(&leaning(4.0)), Outcome::Fault);
    assert_eq!(found(&leaning(0.3)), Outcome::Holds);
    assert_eq!(found(&leaning(70.0)), Outcome::CannotTell);
    assert_eq!(found(&Marks::default()), Outcome::CannotTell);
}
