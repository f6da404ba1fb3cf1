//! Looks, verdict rules, the rebuilt set.

use evidence::levels::{Contrast, Filled, ratios};
use evidence::looks::{name_look, table};
use evidence::marks::Marks;
use evidence::readings::*;
use judging::critique::{Outcome, brief, briefs, judge};
use lightset::kit::catalogue;
use optics::geometry::AzEl;
use optics::hardness::hardness;
use optics::ratio::LevelSpread;
use optics::role::Role;
use optics::units::Metres;
use planning::rebuild::{Choices, plan};
use proptest::prelude::*;

fn look(az: f64, el: f64) -> Look {
    name_look(&AzEl { azimuth_deg: az, elevation_deg: el }.vector(), 0.03, false)
}

#[test]
fn looks_are_named_as_the_trade_does() {
    // Common practice, the middle of each row.
    for (az, el, name) in [
        (0.0, 5.0, "flat"),
        (2.0, 38.0, "butterfly"),
        (-28.0, 28.0, "loop"),
        (48.0, 42.0, "triangle"),
        (-90.0, 10.0, "split"),
        (125.0, 20.0, "reverse key"),
        (175.0, 30.0, "backlit"),
        (10.0, 85.0, "overhead"),
        (0.0, -50.0, "from below"),
    ] {
        let l = look(az, el);
        assert_eq!(l.name, name, "{az}/{el}: {l:?}");
        assert!(l.probability > 0.6, "{az}/{el}: {l:?}");
    }
    let clam = name_look(&AzEl { azimuth_deg: 0.0, elevation_deg: 40.0 }.vector(), 0.03, true);
    assert_eq!(clam.name, "clamshell");
    assert!(table().iter().all(|l| !l.tell.is_empty()));
}

#[test]
fn near_a_border_both_looks_get_a_chance() {
    let l = look(40.0, 30.0);
    assert!(l.probability < 0.7 && l.others[0].probability > 0.3, "{l:?}");
}

#[test]
fn words_for_size_follow_the_table() {
    for (deg, word) in [(1.0, "hard"), (5.0, "crisp"), (20.0, "medium"), (45.0, "soft"), (80.0, "wrap")] {
        assert_eq!(hardness(deg), word);
    }
}

pub fn light(role: &str, az: f64, el: f64, size: f64, level: f64) -> Light {
    Light {
        role: Role::of_name(role),
        azimuth_deg: az,
        elevation_deg: el,
        direction_sd_deg: 1.0,
        frame: "camera".into(),
        angular_size_deg: Some(size),
        angular_size_range_deg: Some([0.9 * size, 1.1 * size]),
        hardness: Some(hardness(size).into()),
        level_stops: Some(level),
        level_sd_stops: Some(0.1),
        cct_k: None,
        evidence: vec!["e".into()],
        disagreement: vec![],
    }
}

pub fn readings(lights: Vec<Light>, contrast: Option<f64>, catchlights: usize) -> Readings {
    let contrast = contrast.map(|d| Contrast { stops: d, range_stops: [d - 0.3, d + 0.3], evidence: vec!["p".into()] });
    let fill = lights.iter().find(|l| l.role == Role::Fill).and_then(|l| l.level_stops).map(|stops| Filled {
        level: LevelSpread { stops, sd_stops: 0.1 },
        bound: false,
        evidence: vec!["e".into()],
    });
    let ratios = ratios(contrast.as_ref(), fill.as_ref(), None);
    let mut by_mark = std::collections::BTreeMap::new();
    let spot = Sighting {
        corners: None,
        feather: None,
        clock: 10.0,
        azimuth_deg: 0.0,
        elevation_deg: 0.0,
        direction_sd_deg: 1.0,
        angular_size_deg: None,
        angular_size_range_deg: None,
        level_stops: None,
        level_sd_stops: None,
        outline: vec![],
        at: None,
        aspect: None,
        cct_k: None,
        otherwise: None,
    };
    by_mark.insert("e".into(), MarkReading { catchlights: Some(vec![spot; catchlights]), ..Default::default() });
    Readings {
        format: "slant-readings/1".into(),
        lights,
        ambient: None,
        by_mark,
        colours: vec![],
        questions: vec![],
        ratios,
        room: None,
        sun: None,
        people: Vec::new(),
        look: None,
        exposure: ExposureReading::default(),
        texture: None,
        straight: None,
        slant: String::new(),
        summary: vec![],
        warnings: vec![],
    }
}

fn marks() -> Marks {
    Marks::parse(
        r#"{"format":"slant-marks/1","exposure":{"f_number":8,"shutter_s":0.008,"iso":100},"marks":[
        {"id":"e","kind":"eye","limbus":{"centre":[40,30],"rx":9,"ry":9}},
        {"id":"p","kind":"patch","role":"lit","polygon":[[10,10],[20,10],[20,20],[10,20]]}]}"#,
    )
    .unwrap()
}

fn outcome(r: &Readings, brief_id: &str, rule: &str) -> Option<Outcome> {
    judge(r, &marks(), brief(brief_id).unwrap()).findings.iter().find(|f| f.rule == rule).map(|f| f.outcome)
}

#[test]
fn equal_lights_are_flat_and_a_stop_apart_they_are_not() {
    let two = |level: f64| {
        readings(vec![light("key", 30.0, 20.0, 20.0, 0.0), light("fill", -30.0, 20.0, 20.0, level)], Some(2.0), 1)
    };
    assert_eq!(outcome(&two(-0.1), "everyday", "flat"), Some(Outcome::Fault));
    assert_eq!(outcome(&two(-0.55), "everyday", "flat"), Some(Outcome::Unsure));
    assert_eq!(outcome(&two(-1.5), "everyday", "flat"), Some(Outcome::Holds));
    // two patches alone tell a bound, and a bound is no fault
    assert_eq!(outcome(&readings(vec![], Some(0.3), 1), "everyday", "flat"), Some(Outcome::CannotTell));
    // The gentle brief does not ask for shape.
    assert_eq!(outcome(&two(-0.1), "gentle", "flat"), None);
}

#[test]
fn an_eye_without_a_catchlight_is_named_with_its_place() {
    let r = readings(vec![], None, 0);
    let v = judge(&r, &marks(), brief("everyday").unwrap());
    let f = v.findings.iter().find(|f| f.rule == "no_catchlight").unwrap();
    assert_eq!(f.outcome, Outcome::Fault);
    assert_eq!(f.pin, Some([40.0, 30.0]));
    assert!(f.change.is_some());
    assert_eq!(outcome(&r, "prop", "no_catchlight"), None);
}

#[test]
fn the_brief_decides_how_dark_the_shadow_may_be() {
    let r = readings(vec![light("key", 45.0, 30.0, 20.0, 0.0)], Some(3.2), 1);
    assert_eq!(outcome(&r, "gentle", "shadow_dark"), Some(Outcome::Fault));
    assert_eq!(outcome(&r, "dramatic", "shadow_dark"), Some(Outcome::Holds));
    assert_eq!(outcome(&readings(vec![], None, 1), "gentle", "shadow_dark"), Some(Outcome::CannotTell));
}

#[test]
fn a_hard_key_fails_a_gentle_brief() {
    let hard = readings(vec![light("key", 45.0, 30.0, 3.0, 0.0)], None, 1);
    assert_eq!(outcome(&hard, "gentle", "hard_source"), Some(Outcome::Fault));
    assert_eq!(outcome(&hard, "dramatic", "hard_source"), None);
    let soft = readings(vec![light("key", 45.0, 30.0, 35.0, 0.0)], None, 1);
    assert_eq!(outcome(&soft, "gentle", "hard_source"), Some(Outcome::Holds));
}

#[test]
fn clipping_on_the_lit_side_is_a_fault() {
    let mut r = readings(vec![], None, 1);
    let patch = |c: f64| PatchReading {
        luminance: 0.9,
        stops_from_grey: 2.0,
        spread_stops: 0.1,
        clipped_fraction: c,
        pixels: 100,
        rgb: [0.18; 3],
    };
    r.by_mark.insert("p".into(), MarkReading { patch: Some(patch(0.2)), ..Default::default() });
    assert_eq!(outcome(&r, "gentle", "clipping_lit"), Some(Outcome::Fault));
    r.by_mark.insert("p".into(), MarkReading { patch: Some(patch(0.0)), ..Default::default() });
    assert_eq!(outcome(&r, "gentle", "clipping_lit"), Some(Outcome::Holds));
}

#[test]
fn every_finding_has_evidence_or_says_what_to_mark() {
    for b in briefs() {
        for f in judge(&readings(vec![light("key", 45.0, 30.0, 3.0, 0.0)], Some(3.2), 1), &marks(), b).findings {
            match f.outcome {
                Outcome::CannotTell => assert!(f.says.contains("Mark"), "{}", f.says),
                _ => assert!(!f.evidence.is_empty() && f.value.is_some() && f.spread.is_some(), "{f:?}"),
            }
            assert!(!f.source.is_empty());
        }
    }
}

#[test]
fn a_set_puts_each_light_where_its_angle_says() {
    let r = readings(vec![light("key", 45.0, 30.0, 36.87, 0.0), light("fill", -60.0, 0.0, 20.0, -2.0)], None, 1);
    let choices =
        Choices { modifiers: vec![Some("octagon-100".into()), None], eye_height_m: Some(1.2), ..Choices::default() };
    let p = plan(&r, &marks(), 800, 600, &choices);
    let key = &p.lights[0];
    // 1 m across filling 36.87 degrees stands at 0.5 / tan(18.43) = 1.5 m
    assert!((key.distance_m - 1.5).abs() < 0.01, "{}", key.distance_m);
    assert!((key.stand_height_m - (1.2 + 1.5 * 0.5)).abs() < 0.01);
    assert!((key.floor_distance_m - 1.5 * 30f64.to_radians().cos()).abs() < 0.01);
    assert!(key.chosen && !p.lights[1].chosen);
    // Two stops under the key is a quarter of its light, and half its f-number.
    let lux = |i: usize| p.lights[i].illuminance_lux.unwrap();
    assert!((lux(0) / lux(1) - 4.0).abs() < 1e-6);
    assert!((p.lights[0].meter_f_number.unwrap() / p.lights[1].meter_f_number.unwrap() - 2.0).abs() < 1e-6);
    // Key and fill together make the metered exposure: f/8 at 1/125, ISO 100, C = 330: 26 400 lux.
    assert!((lux(0) + lux(1) - 26_400.0).abs() < 1.0);
    assert!(p.slant.contains("@1.5m via octagon-100"), "{}", p.slant);
    assert!(!p.lights[1].alternatives.is_empty());
}

#[test]
fn choices_out_of_range_are_refused() {
    let bad = |c: Choices| c.check().unwrap_err();
    assert!(bad(Choices { eye_height_m: Some(-1.0), ..Choices::default() }).contains("eye_height_m"));
    assert!(bad(Choices { modifiers: vec![Some("moon".into())], ..Choices::default() }).contains("moon"));
    assert!(Choices::default().check().is_ok());
}

#[test]
fn a_tall_light_brings_its_caution_once() {
    let r = readings(vec![light("key", 20.0, 60.0, 20.0, 0.0), light("fill", -20.0, 60.0, 20.0, -1.0)], None, 1);
    let p = plan(&r, &marks(), 800, 600, &Choices::default());
    assert_eq!(p.cautions.iter().filter(|c| c.contains("sandbag")).count(), 1);
}

proptest! {
    #[test]
    fn every_modifier_fills_the_angle_at_its_distance(a in 0.02f64..1.8) {
        for m in &catalogue().modifiers {
            let d = m.distance_for(a);
            prop_assert!((m.angle_at(d) - a).abs() < 1e-6, "{}", m.id);
            prop_assert!(m.angle_at(Metres(2.0 * d.0)) < a);
        }
    }

    #[test]
    fn probabilities_of_looks_sum_to_one_at_most(az in -180.0f64..180.0, el in -90.0f64..90.0) {
        let l = look(az, el);
        let sum: f64 = l.probability + l.others.iter().map(|o| o.probability).sum::<f64>();
        prop_assert!(sum <= 1.06 && l.probability > 0.2);
    }
}
