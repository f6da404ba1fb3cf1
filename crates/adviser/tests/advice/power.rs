//! A lamp's power told in a set and on the bench is one number.

use lightset::kit::{Lamp, Output, catalogue, source_of};
use lightset::set::{LUMEN_SECONDS_PER_JOULE, LightSet, Source};
use lightset::throw::OWN_BEAM_DEG;
use planning::bench::{BenchQuestion, answer};
use planning::build::values_of;
use serde_json::json;

/// A set with one head of 400 J behind a source at 2 m.
fn set(source: &Source, scrims: serde_json::Value) -> LightSet {
    LightSet::from_value(json!({
        "format": "slant-set/1",
        "camera": {"position_m": [0, 0, 2.5], "exposure": {"f_number": 8, "shutter_s": 0.008, "iso": 100}},
        "lights": [{"name": "key", "azimuth_deg": 40, "elevation_deg": 30, "distance_m": 2.0, "source": source,
            "scrims": scrims, "level": {"joules": 400}}]
    }))
    .unwrap()
    .set
}

/// A head of 400 J in a common reflector that takes modifiers.
fn head() -> Lamp {
    let known = catalogue().lamps.iter().find(|l| l.id == "monolight-400").expect("a lamp");
    Lamp { output: Output::Joules { joules: 400.0, beam_deg: OWN_BEAM_DEG }, takes_modifiers: true, ..known.clone() }
}

fn by_bench(set: &LightSet) -> f64 {
    let mut v = values_of(&head(), &set.lights[0], studio::meter(set).unwrap().lights[0].distance_m);
    v.insert("iso".into(), 100.0);
    let a = answer(&BenchQuestion { sum: "path".into(), values: v, powers: Default::default(), solve: None }).unwrap();
    a.results.iter().find(|r| r.name == "Luminous exposure").expect("a result").value
}

#[test]
fn a_head_of_400_joules_meters_alike_in_the_set_and_on_the_bench() {
    // Behind a spot of 20 degrees the two were over four stops apart: one took the grid for a lens that gathers the light.
    let grid = Source::Spot { diameter_m: 0.18, beam_deg: 20.0, field_deg: 32.0 };
    let known = catalogue().modifiers.iter().map(source_of).filter(|s| !matches!(s, Source::Tube { .. }));
    for source in known.chain([grid]) {
        for scrims in [json!([]), json!([{"gap_m": 0.4, "width_m": 1.2, "height_m": 1.2, "transmission": 0.4}])] {
            let s = set(&source, scrims);
            let (set, bench) = (studio::meter(&s).unwrap().lights[0].lux_seconds, by_bench(&s));
            assert!((set / bench).log2().abs() < 0.02, "{source:?}: {set} lux s in the set, {bench} on the bench");
        }
    }
}

#[test]
fn a_grid_takes_light_away_and_gathers_none() {
    // What a grid lets through on its axis is what the bare reflector gives there (common practice; no lens in it):
    // axial intensity = 35 lm s a joule over the reflector's own solid angle, at 2 m a quarter of that.
    let spot = set(&Source::Spot { diameter_m: 0.18, beam_deg: 20.0, field_deg: 32.0 }, json!([]));
    let axial = 400.0 * LUMEN_SECONDS_PER_JOULE / optics::beam::beam_sr(OWN_BEAM_DEG);
    let told = studio::meter(&spot).unwrap().lights[0].lux_seconds;
    assert!((told / (axial / 4.0)).log2().abs() < 0.02, "{told} against {}", axial / 4.0);
}

#[test]
fn a_level_in_joules_and_the_joules_of_a_level_are_inverse() {
    for source in catalogue().modifiers.iter().map(source_of) {
        let m = studio::meter(&set(&source, json!([]))).unwrap();
        assert!((m.lights[0].notations.joules / 400.0 - 1.0).abs() < 1e-6, "{source:?}");
    }
}
