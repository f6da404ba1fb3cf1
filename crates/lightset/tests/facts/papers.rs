//! Sets on paper and as files of others: SVG that any reader parses, glTF 2.0 by its own words (Khronos), cautions where they apply.

use crate::{metered, set};
use lightset::cables::cables;
use lightset::cautions::{caution_named, cautions};
use lightset::drawing::{View, draw};
use lightset::gltf::gltf;
use lightset::meter::{SetMeter, SharpDepth, lighting_ratio};
use lightset::paper::svg;
use lightset::set::LightSet;
use optics::role::Role;
use optics::words::Lengths;
use serde_json::{Value, json};

fn studio() -> LightSet {
    set(json!({
        "lights": [{"name": "key", "position_m": [1.0, 0.8, 1.2], "source": {"kind": "rectangle", "width_m": 0.6, "height_m": 0.6}, "level": {"stops": 0}, "cct_k": 3200},
            {"name": "lamp that is off", "position_m": [-1.0, 0.8, 1.2], "source": {"kind": "disc", "diameter_m": 0.2}, "level": {"stops": 0}, "off": true}],
        "boards": [{"position_m": [-0.6, 0, 0], "width_m": 0.8, "height_m": 1.2, "finish": "silver"}],
        "flags": [{"position_m": [0.4, 0.4, 0.6], "width_m": 0.4, "height_m": 0.5}],
        "walls": [{"position_m": [0, 0, -2], "normal": [0, 0, 1], "width_m": 4, "height_m": 3, "colour": [0.5, 0.5, 0.5]},
            {"position_m": [0, -1.2, 0], "normal": [0, 1, 0], "width_m": 6, "height_m": 6, "colour": [0.2, 0.2, 0.2]}]}))
}

fn meter(s: &LightSet) -> SetMeter {
    let mut off = metered([-1.0, 0.8, 1.2], 0.2);
    off.off = true;
    let lights = vec![metered([1.0, 0.8, 1.2], 0.6), off];
    let cables = cables(s);
    let [plan, side] = [View::Plan, View::Side].map(|v| draw(s, &lights, &cables, v));
    let sharp = SharpDepth::of(&s.camera, 1.5);
    serde_json::from_value(json!({"lights": lights, "together_f_number": 8.0, "together_nominal": 8.0, "over_stops": 0.0,
        "slant": "key R39.8/27.1 <o20> \"+0.0\"", "sharp": sharp, "cables": cables, "plan": plan, "side": side, "warnings": [], "cautions": []}))
    .expect("a meter")
}

/// Tags of a well-formed document, in order; every one that opens closes.
fn tags(xml: &str) -> Vec<String> {
    let (mut open, mut all) = (Vec::new(), Vec::new());
    let mut rest = xml;
    while let Some(at) = rest.find('<') {
        let end = rest[at..].find('>').expect("a tag that ends") + at;
        let tag = &rest[at + 1..end];
        let name: String = tag.trim_start_matches('/').chars().take_while(|c| c.is_alphanumeric()).collect();
        if tag.starts_with('/') {
            assert_eq!(open.pop(), Some(name), "what was opened last closes first");
        } else {
            assert_eq!(tag.matches('"').count() % 2, 0, "{tag}");
            if !tag.ends_with('/') {
                open.push(name.clone());
            }
            all.push(name);
        }
        rest = &rest[end + 1..];
    }
    assert!(open.is_empty(), "{open:?}");
    all
}

#[test]
fn a_drawing_on_paper_is_well_formed_and_to_scale() {
    let s = studio();
    let m = meter(&s);
    for unit in [Lengths::Metres, Lengths::Feet] {
        let text = svg(&m, "Puppets & <lamps> \"one\"", unit);
        let all = tags(&text);
        assert!(all[0] == "svg" && all.iter().filter(|t| *t == "clipPath").count() == 2);
        assert!(text.contains("Puppets &amp; &lt;lamps&gt; &quot;one&quot;") && !text.contains("<lamps>"));
        assert!(text.contains(if unit == Lengths::Feet { " ft" } else { " m" }));
        assert!(!text.contains("lamp that is off"), "what is off is not set up");
        assert!(!text.contains("NaN") && !text.contains("inf"));
    }
}

#[test]
fn a_set_as_gltf_is_what_the_standard_asks_for() {
    let s = studio();
    let g = gltf(&s, &meter(&s), "set");
    assert_eq!(g["asset"]["version"], "2.0");
    let nodes = g["nodes"].as_array().expect("nodes");
    // every matrix has 16 numbers, unit axes for cameras and lights, and the last column is a place
    for n in nodes {
        if let Some(m) = n["matrix"].as_array() {
            assert_eq!(m.len(), 16);
            assert!(m.iter().all(|v| v.as_f64().is_some_and(f64::is_finite)));
            assert_eq!((m[3].as_f64(), m[15].as_f64()), (Some(0.0), Some(1.0)));
        }
    }
    let camera = nodes.iter().find(|n| n.get("camera").is_some()).expect("a camera");
    // a camera looks along its own -z: its third column leads from what it is aimed at to the lens
    let z: Vec<f64> = (8..11).map(|k| camera["matrix"][k].as_f64().expect("a number")).collect();
    assert!(z[2] > 0.999 && z[0].abs() < 1e-9);
    let yfov = g["cameras"][0]["perspective"]["yfov"].as_f64().expect("radians");
    assert!((yfov.to_degrees() - 20.0).abs() < 1e-6);
    // lights that are on, in candela: E d^2
    let lights = g["extensions"]["KHR_lights_punctual"]["lights"].as_array().expect("lights");
    assert_eq!(lights.len(), 1);
    let d2 = 1.0f64 + 0.64 + 1.44;
    assert!((lights[0]["intensity"].as_f64().expect("candela") - 100.0 * d2).abs() < 1e-6);
    let warm: Vec<f64> = lights[0]["color"].as_array().expect("rgb").iter().filter_map(Value::as_f64).collect();
    assert!(warm[0] > warm[2] && warm.iter().all(|c| (0.0..=1.0).contains(c)));
    assert!(g["extensionsUsed"].as_array().expect("named").iter().any(|e| e == "KHR_lights_punctual"));
    // everything else is there by name: board, flag, two walls, subject
    let named = |what: &str| nodes.iter().filter(|n| n["name"].as_str().is_some_and(|t| t.contains(what))).count();
    assert_eq!((named("board"), named("flag"), named("wall"), named("subject")), (1, 1, 2, 1));
    // every accessor points into the buffer
    let bytes = g["buffers"][0]["byteLength"].as_u64().expect("bytes");
    for v in g["bufferViews"].as_array().expect("views") {
        assert!(v["byteOffset"].as_u64().unwrap_or(0) + v["byteLength"].as_u64().expect("bytes") <= bytes);
    }
}

#[test]
fn a_ratio_counts_fills_and_the_room() {
    // key and fill equal: 2 : 1 on the lit side; key four times the fill: 5 : 1 (common practice: key + fill over fill)
    let of = |fill: f64, room: f64| lighting_ratio(&[(Role::Key, 4.0), (Role::Fill, fill), (Role::Rim, 9.0)], room);
    let one = of(1.0, 0.0).expect("a ratio");
    let told = serde_json::to_value(one).expect("written");
    let numbers: Vec<f64> = told.as_object().expect("fields").values().filter_map(Value::as_f64).collect();
    assert!(numbers.iter().any(|v| (v - 5.0).abs() < 1e-6) && numbers.iter().any(|v| (v - 4.0).abs() < 1e-6), "{told}");
    // a room as strong as the fill halves what the key has over both
    assert_ne!(serde_json::to_value(of(1.0, 1.0)).expect("written"), told);
    assert!(of(0.0, 0.0).is_none(), "nothing lifts its shadows");
    assert!(lighting_ratio(&[(Role::Fill, 1.0)], 1.0).is_none(), "no key");
}

#[test]
fn cautions_come_with_what_they_are_for() {
    let calm = set(
        json!({"lights": [{"name": "key", "position_m": [1, 0, 1], "source": {"kind": "disc", "diameter_m": 0.2}, "level": {"lux": 500}}]}),
    );
    let high = set(
        json!({"lights": [{"name": "key", "position_m": [0.3, 2.5, 0.5], "source": {"kind": "rectangle", "width_m": 1.5, "height_m": 1.5}, "level": {"lux": 500}}]}),
    );
    let (a, b) = (cautions(&calm), cautions(&high));
    assert!(b.len() > a.len(), "a large source overhead asks for more care: {b:?}");
    assert!(b.iter().all(|c| c.len() > 20));
    assert!(caution_named("no such thing").is_none());
}
