//! Bounced light against radiometry, and candidates that are judged by what the studio says they give.

use adviser::{candidates, foretell};
use lightset::kit::catalogue;
use lightset::set::LightSet;
use planning::rebuild::{Choices, plan, test_readings};
use std::collections::BTreeMap;

fn set(lights: &str) -> LightSet {
    LightSet::parse(&format!(
        r#"{{"format":"slant-set/1","subjects":[{{"kind":"ball_matte","position_m":[-0.13,0,0],"scale":0.5}},{{"kind":"ball_mirror","position_m":[0.13,0,0],"scale":0.5}}],
        "camera":{{"position_m":[0,0,2.2],"vfov_deg":7,"exposure":{{"f_number":5.6,"shutter_s":0.008,"iso":100}}}},
        "lights":[{lights}],"ambient":{{"level":{{"stops":-4.5}}}},
        "walls":[{{"position_m":[0,-1.25,0],"normal":[0,1,0],"width_m":8,"height_m":8,"colour":[0.2,0.2,0.2]}}],
        "picture":{{"width":640,"height":480,"samples":8}}}}"#
    ))
    .expect("a set")
    .set
}

const DISH: &str = r#""source":{"kind":"dish","diameter_m":0.1,"beam_deg":65},"level":{"stops":-0.3}"#;

/// A bare lamp at d metres gives 1/d² of its axial intensity (inverse-square law): two stops less at 2 m than at 1 m.
#[test]
fn what_a_lamp_costs_follows_the_inverse_square() {
    let cost = |d: f64| {
        let s = set(&format!(r#"{{"name":"key","azimuth_deg":20,"elevation_deg":0,"distance_m":{d},{DISH}}}"#));
        foretell(&s).lights[0].cost
    };
    assert!(cost(1.0).abs() < 0.02, "{}", cost(1.0));
    assert!((cost(2.0) + 2.0).abs() < 0.02, "{}", cost(2.0));
}

/// Light off a small matte patch: irradiance I/g² on it, radiosity rho E, and at the subject rho E A / (pi r²)
/// (Lambert's law; small against its distances).
#[test]
fn light_off_a_small_patch() {
    let (rho, side, gap, r) = (0.8, 0.1, 1.0, 2.0);
    let s = set(&format!(
        r#"{{"name":"key","position_m":[0,0,{}],"aim_m":[0,0,{r}],"bounce":{{"position_m":[0,0,{r}],"normal":[0,0,-1],"width_m":{side},"height_m":{side},"reflectance":{rho}}},{DISH}}}"#,
        r - gap
    ));
    let want = (rho * side * side / (std::f64::consts::PI * gap * gap * r * r)).log2();
    let f = foretell(&s);
    assert!((f.lights[0].cost - want).abs() < 0.04, "{} {want}", f.lights[0].cost);
    assert!((f.lights[0].direction.z - 1.0).abs() < 1e-4, "it comes from the patch, not from the lamp");
    assert!(f.lights[0].hot.abs() < 0.1, "so small a patch is lit evenly: {}", f.lights[0].hot);
}

/// A sheet near its lamp is brighter in the middle; from farther away it is even (cos⁴ and the beam).
#[test]
fn the_gap_evens_a_sheet() {
    let hot = |gap: f64| {
        let s = set(&format!(
            r#"{{"name":"key","azimuth_deg":30,"elevation_deg":10,"distance_m":{},"scrims":[{{"gap_m":{gap},"width_m":1,"height_m":1,"transmission":0.5}}],{DISH}}}"#,
            1.2 + gap
        ));
        foretell(&s).lights[0].hot
    };
    assert!(hot(0.4) > hot(0.8) + 1.0 && hot(0.8) > hot(1.6), "{} {} {}", hot(0.4), hot(0.8), hot(1.6));
    assert!(hot(1.6) < 1.0);
}

fn found(truth: &LightSet, outcomes: &BTreeMap<String, f64>) -> planning::rebuild::Candidates {
    let linear = studio::picture(truth).expect("a picture");
    let p = &truth.picture;
    let rgb = studio::encode(&linear, p);
    let photo =
        optics::photo::Photo::new(p.width, p.height, optics::photo::Samples::U8(rgb), &optics::tone::Encoding::Srgb)
            .expect("a photo");
    let marks = studio::marks(truth);
    let now = evidence::read::read(&photo, &marks, None, &|| &[]);
    let chosen = plan(&now, &marks, p.width, p.height, &Choices::default());
    let base = planning::stage::stage(&chosen, &marks, &now, p.width, p.height);
    candidates(&now, &base, catalogue(), outcomes)
}

#[test]
fn an_outcome_moves_the_candidate_that_foretold_it_up() {
    let truth = set(
        r#"{"name":"key","azimuth_deg":40,"elevation_deg":30,"distance_m":1.4,"source":{"kind":"octagon","width_m":1.0},"level":{"stops":-0.3}}"#,
    );
    let before = found(&truth, &BTreeMap::new());
    assert!(before.list.len() > 1 && !before.tests.is_empty(), "{before:?}");
    let sum: f64 = before.list.iter().map(|c| c.probability).sum();
    assert!(sum > 0.5 && sum < 1.001, "{sum}");
    let t = before.tests.iter().find(|t| t.between[0] == 0).expect("a test of the first");
    assert!(t.sd.iter().all(|s| *s > 0.0) && t.apart_sd > 1.0 && !t.instruction.contains("{role}"));
    // what the other foretold is read
    let other = &before.list[t.between[1]];
    let after = found(&truth, &BTreeMap::from([(t.id.clone(), t.foretold[1])]));
    let share =
        |c: &planning::rebuild::Candidates, id: &str| c.list.iter().find(|x| x.id == id).map_or(0.0, |x| x.probability);
    assert!(share(&after, &other.id) > other.probability, "{} gains by {}", other.id, t.id);
}

/// Two lights of one role are two lights to test.
#[test]
fn tests_go_by_the_light_s_own_name() {
    let s = set(&format!(r#"{{"name":"fill 2","azimuth_deg":20,"elevation_deg":0,"distance_m":1,{DISH}}}"#));
    let told = test_readings(&foretell(&s).lights[0], "fill 2");
    assert!(told.contains_key("fill 2:hot") && told.len() == 10);
    // a lamp goes out with the lamps
    assert_eq!(told["fill 2:dark"], 9.0);
}

#[test]
fn an_empty_kit_says_what_is_missing() {
    let truth = set(&format!(r#"{{"name":"key","azimuth_deg":20,"elevation_deg":20,"distance_m":1.5,{DISH}}}"#));
    let marks = studio::marks(&truth);
    let photo = {
        let p = &truth.picture;
        let rgb = studio::encode(&studio::picture(&truth).expect("a picture"), p);
        optics::photo::Photo::new(p.width, p.height, optics::photo::Samples::U8(rgb), &optics::tone::Encoding::Srgb)
            .expect("a photo")
    };
    let now = evidence::read::read(&photo, &marks, None, &|| &[]);
    let base = planning::stage::stage(&plan(&now, &marks, 640, 480, &Choices::default()), &marks, &now, 640, 480);
    let none = candidates(&now, &base, &lightset::kit::Kit::default(), &BTreeMap::new());
    // windows need no kit; everything else does
    assert!(none.list.iter().all(|c| c.constructions[0] == planning::rebuild::Construction::Window));
}
