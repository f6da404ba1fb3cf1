//! What goes into the bags, what the circuit carries, and lamps by the meter.

use crate::kit_and_build::meter as studio_less_meter;
use lightset::kit::{Circuit, Kit, LampReading, Output, catalogue, metered};
use lightset::set::LightSet;
use optics::power::Control;
use planning::build::{LampPlan, one_lamp, packing};
use proptest::prelude::*;

fn set(lights: &str, more: &str) -> LightSet {
    LightSet::parse(&format!(
        r#"{{"format":"slant-set/1","subjects":[{{"kind":"head_long"}}],
        "camera":{{"position_m":[0,0,2],"vfov_deg":16,"exposure":{{"f_number":5.6,"shutter_s":0.008,"iso":100}}}},
        "lights":[{lights}]{more}}}"#
    ))
    .expect("a set")
    .set
}

const KEY: &str = r#"{"name":"key","azimuth_deg":45,"elevation_deg":38,"distance_m":1.4,"source":{"kind":"octagon","width_m":1.0},"level":{"stops":0}}"#;
const FILL: &str = r#"{"name":"fill","azimuth_deg":-40,"elevation_deg":5,"distance_m":1.6,"source":{"kind":"rectangle","width_m":0.6,"height_m":0.6},"level":{"stops":-2}}"#;
const TOP: &str = r#"{"name":"top","azimuth_deg":0,"elevation_deg":85,"distance_m":1.2,"source":{"kind":"rectangle","width_m":0.6,"height_m":0.6},"level":{"stops":-2}}"#;

fn plan(light: &str, lamp: Option<&str>) -> LampPlan {
    LampPlan {
        light: light.into(),
        lamp: lamp.map(str::to_owned),
        name: String::new(),
        power_stops: None,
        power_sd_stops: 0.0,
        setting: None,
        says: String::new(),
        pulse: None,
        ways_out: Vec::new(),
        others: Vec::new(),
    }
}

#[test]
fn one_lamp_is_one_lamp() {
    let s = set(&format!("{KEY},{FILL}"), "");
    let mut kit = catalogue().clone();
    let lamps = [plan("key", Some("monolight-400")), plan("fill", Some("monolight-400"))];
    let p = packing(&s, &lamps, &kit);
    let heads = p.lines.iter().find(|l| l.bag == "lamps").expect("lamps");
    assert_eq!((heads.count, heads.have), (2, 1));
    assert_eq!(heads.stands_for, ["key", "fill"]);
    assert!(p.missing.iter().any(|m| m.contains("2 needed, 1 in the kit")), "{:?}", p.missing);
    // the octagon and the softbox of the set are the kit's
    let faces: Vec<&str> = p.lines.iter().filter(|l| l.bag == "modifiers").map(|l| l.what.as_str()).collect();
    assert_eq!(faces.len(), 2, "{faces:?}");
    kit.lamps.iter_mut().for_each(|l| l.count = 2);
    assert!(!packing(&s, &lamps, &kit).missing.iter().any(|m| m.contains("Studio flash")));
}

#[test]
fn what_the_kit_has_not_is_named_with_its_size() {
    let s = set(KEY, r#","boards":[{"position_m":[-0.8,0,0],"width_m":3.0,"height_m":2.0,"finish":"silver"}]"#);
    let p = packing(&s, &[plan("key", None)], &Kit::starter());
    assert!(p.missing.iter().any(|m| m.starts_with("key: the kit has no lamp")), "{:?}", p.missing);
    assert!(p.missing.iter().any(|m| m.contains("silver board of 3.00 × 2.00 m")), "{:?}", p.missing);
}

#[test]
fn what_hangs_overhead_takes_a_boom() {
    let s = set(TOP, "");
    let with = packing(&s, &[plan("top", Some("led-60"))], catalogue());
    let stand = with.lines.iter().find(|l| l.bag == "stands").expect("a boom");
    assert!(catalogue().stands.iter().any(|k| k.name == stand.what && k.boom));
    assert!(with.also.iter().any(|a| a.contains("safety line")));
    let mut kit = catalogue().clone();
    kit.stands.retain(|k| !k.boom);
    let without = packing(&s, &[plan("top", Some("led-60"))], &kit);
    assert!(without.missing.iter().any(|m| m.starts_with("top: no boom")), "{:?}", without.missing);
}

/// P = U I: 10 A at 230 V is 2300 W, of which four fifths may be drawn for hours (common practice).
#[test]
fn lamps_are_summed_against_one_circuit() {
    let s = set(&format!("{KEY},{FILL}"), "");
    let load = |ids: [&str; 2], circuit: Circuit| {
        let kit = Kit { circuit, ..catalogue().clone() };
        packing(&s, &[plan("key", Some(ids[0])), plan("fill", Some(ids[1]))], &kit).mains
    };
    let two = load(["monolight-400", "fresnel-650"], Circuit::default()).expect("on the mains");
    assert!((two.watts - 1550.0).abs() < 1e-9 && (two.amperes - 1550.0 / 230.0).abs() < 1e-9);
    assert!(!two.over && two.says.contains("electrician") && two.says.contains("recharge"), "{}", two.says);
    let small = Circuit { volts: 120.0, amperes: 15.0 };
    assert!(load(["monolight-400", "fresnel-650"], small).is_some_and(|m| m.over), "1550 of 1800 W is over 80 %");
    let smaller = Circuit { volts: 100.0, amperes: 15.0 };
    let m = load(["monolight-400", "fresnel-650"], smaller).expect("on the mains");
    assert!(m.says.contains("too much for one circuit"), "{}", m.says);
    assert_eq!(load(["speedlight", "torch"], Circuit::default()), None, "batteries draw nothing");
}

/// One lamp carried round: what one place gets over another is what the set says, by times alone (reciprocity: exposure is light times
/// time, Bunsen & Roscoe 1862).
#[test]
fn one_lamp_makes_the_set_by_its_times() {
    let s = set(&format!("{KEY},{FILL}"), "");
    let meter = studio_less_meter(&s);
    let plan = one_lamp(&s, &meter, catalogue(), Some("led-60")).expect("a plan");
    let burns: Vec<f64> = plan.steps.iter().map(|x| x.burns_s.map(|b| b[1] - b[0]).expect("steady")).collect();
    assert!(burns.iter().all(|t| *t >= 1.98), "{burns:?}");
    // covered while it is carried
    let [first, second] = [plan.steps[0].burns_s.expect("steady"), plan.steps[1].burns_s.expect("steady")];
    assert!(second[0] - first[1] > 5.0 && plan.total_s >= second[1] - 1e-9);
    // twice the light wanted of the second is twice its time, the first's as it was
    let mut brighter = s.clone();
    brighter.lights[1].level = lightset::set::Level::Stops { stops: -1.0 };
    let again = one_lamp(&brighter, &studio_less_meter(&brighter), catalogue(), Some("led-60")).expect("a plan");
    let more: Vec<f64> = again.steps.iter().map(|x| x.burns_s.map(|b| b[1] - b[0]).expect("steady")).collect();
    assert!((more[1] / burns[1] / (more[0] / burns[0]) - 2.0).abs() < 1e-6, "{burns:?} {more:?}");
    let flash = one_lamp(&s, &meter, catalogue(), Some("monolight-400")).expect("a plan");
    assert!(flash.steps.iter().all(|x| x.pops.is_some_and(|p| p >= 1) && x.burns_s.is_none()));
    assert!(one_lamp(&s, &meter, catalogue(), Some("nothing")).is_err());
    let dark = LightSet { lights: Vec::new(), ..s };
    assert!(one_lamp(&dark, &meter, catalogue(), None).unwrap_err().contains("no light"));
}

fn reading(power: &str, distance_m: f64, f_number: f64, iso: f64, shutter_s: f64) -> LampReading {
    LampReading { power: power.into(), distance_m, f_number, iso, shutter_s }
}

/// A guide number is aperture times distance at ISO 100 (common practice).
#[test]
fn a_flash_is_metered_to_its_guide_number() {
    let lamp = catalogue().lamps.iter().find(|l| l.id == "monolight-400").expect("a flash");
    let m = metered(lamp, &[reading("1/1", 2.0, 11.0, 100.0, 0.008), reading("1/4", 2.0, 5.5, 100.0, 0.008)]).unwrap();
    let Output::Guide { guide_number_m, .. } = m.lamp.output else { panic!("{:?}", m.lamp.output) };
    assert!((guide_number_m - 22.0).abs() < 0.01, "{guide_number_m}");
    assert!(m.says.iter().any(|s| s.contains("agree within 0.00")), "{:?}", m.says);
    assert!(m.lamp.spread_stops < lamp.spread_stops);
}

/// f/2, 1/50 s, ISO 400 needs 125 lux (C = 250, ISO 2720:1974).
#[test]
fn a_steady_lamp_is_metered_in_lux() {
    let lamp = catalogue().lamps.iter().find(|l| l.control == Control::Percent).expect("a dimmer");
    let both = [reading("100 %", 1.0, 2.0, 400.0, 0.02), reading("25 %", 1.0, 1.0, 400.0, 0.02)];
    let m = metered(lamp, &both).unwrap();
    let Output::Lux { lux, at_m, .. } = m.lamp.output else { panic!("{:?}", m.lamp.output) };
    assert!((lux - 125.0).abs() < 0.01 && at_m == 1.0, "{lux}");
}

/// Metered, a flash on the mains is still one: what is printed as joules may be known by a guide number.
#[test]
fn a_mains_flash_that_was_metered_stays_on_the_mains() {
    let lamp = catalogue().lamps.iter().find(|l| l.id == "monolight-400").expect("a flash");
    let m = metered(lamp, &[reading("1/1", 2.0, 11.0, 100.0, 0.008), reading("1/4", 2.0, 5.5, 100.0, 0.008)]).unwrap();
    assert!(!lamp.on_batteries() && !m.lamp.on_batteries());
    let small = catalogue().lamps.iter().find(|l| l.id == "speedlight").expect("a flash");
    assert!(small.on_batteries());
}

#[test]
fn readings_that_do_not_agree_say_why() {
    let lamp = catalogue().lamps.iter().find(|l| l.id == "led-60").expect("a lamp");
    // the dial says two stops, the light goes down by one
    let dial =
        metered(lamp, &[reading("100 %", 1.0, 8.0, 100.0, 0.1), reading("25 %", 1.0, 5.66, 100.0, 0.1)]).unwrap();
    assert!(
        dial.says.iter().any(|s| s.contains("turned down 2.0 stops and the light went down 1.0 stops")),
        "{:?}",
        dial.says
    );
    // it shines from 0.4 m behind where the tape began
    let f = |d: f64| 8.0 / (d + 0.4) * 1.4;
    let far =
        metered(lamp, &[reading("100 %", 1.0, f(1.0), 100.0, 0.1), reading("100 %", 3.0, f(3.0), 100.0, 0.1)]).unwrap();
    assert!(far.says.iter().any(|s| s.contains("from 0.40 m behind")), "{:?}", far.says);
    assert!(metered(lamp, &[reading("100 %", 1.0, 8.0, 100.0, 0.1)]).unwrap_err().contains("two"));
    let bad = metered(lamp, &[reading("300 %", 1.0, 8.0, 100.0, 0.1), reading("100 %", 1.0, 8.0, 100.0, 0.1)]);
    assert!(bad.unwrap_err().starts_with("reading 1: power"));
}

proptest! {
    /// Whatever was read, the answer is a lamp the kit takes, or a sentence.
    #[test]
    fn any_readings_make_a_lamp_or_a_sentence(d in 0.01..50.0f64, f in 0.1..200.0f64, iso in 0.5..1e6f64, t in 1e-6..1e4f64, k in 0usize..13) {
        let lamp = &catalogue().lamps[k % catalogue().lamps.len()];
        match metered(lamp, &[reading("full", d, f, iso, t), reading("full", d * 1.5, f / 1.5, iso, t)]) {
            Ok(m) => prop_assert!(m.lamp.axial().is_finite() && m.lamp.axial() > 0.0 && m.sd_stops > 0.0),
            Err(e) => prop_assert!(e.starts_with("reading ")),
        }
    }
}
