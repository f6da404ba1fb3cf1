//! Kits as tables, substitutes by their light, and the order of building.

use lightset::kit::{Kit, Output, catalogue, from_csv, to_csv};
use lightset::meter::{LightMeter, SetMeter};
use lightset::set::LightSet;
use optics::power::{Control, read_power, write_power};
use optics::role::Role;
use optics::units::{Metres, Stops};
use planning::build::{BuildLog, FirstLight, Moving, build, explain, lamp_plan};
use planning::substitutes::substitutes;
use proptest::prelude::*;

fn set() -> LightSet {
    LightSet::parse(
        r#"{"format":"slant-set/1","subjects":[{"kind":"head_long"}],
        "camera":{"position_m":[0,0,2],"vfov_deg":16,"exposure":{"f_number":5.6,"shutter_s":0.008,"iso":100}},
        "lights":[
          {"name":"background","position_m":[0.9,0.2,-0.9],"aim_m":[0.4,0,-1.5],"source":{"kind":"dish","diameter_m":0.18,"beam_deg":75},"level":{"stops":-1}},
          {"name":"rim","azimuth_deg":140,"elevation_deg":30,"distance_m":1.6,"source":{"kind":"dish","diameter_m":0.18,"beam_deg":75},"level":{"stops":-0.5}},
          {"name":"fill","azimuth_deg":-40,"elevation_deg":5,"distance_m":1.6,"source":{"kind":"rectangle","width_m":0.6,"height_m":0.6},"level":{"stops":-2}},
          {"name":"key","azimuth_deg":45,"elevation_deg":38,"distance_m":1.4,"source":{"kind":"octagon","width_m":1.0},"level":{"stops":-0.3}}],
        "walls":[{"position_m":[0,-1.25,0],"normal":[0,1,0],"width_m":8,"height_m":8,"colour":[0.2,0.2,0.2]}]}"#,
    )
    .expect("a set")
    .set
}

/// A meter as the studio would fill it in, by the levels of the set.
pub fn meter(set: &LightSet) -> SetMeter {
    let s = set.camera.exposure;
    let lights = set
        .lights
        .iter()
        .map(|l| {
            let lightset::set::Level::Stops { stops } = l.level else { panic!("stops") };
            let a = optics::geometry::AzEl::of(&l.position());
            let relative = stops.exp2();
            LightMeter {
                name: l.name.clone(),
                role: optics::role::Role::of_name(&l.name),
                off: l.off,
                azimuth_deg: a.azimuth_deg,
                elevation_deg: a.elevation_deg,
                distance_m: l.position().norm(),
                angular_size_deg: 30.0,
                level_stops: stops,
                lux_seconds: relative * 250.0 * s.f_number * s.f_number / s.iso,
                f_number: s.f_number * relative.sqrt(),
                nominal: 5.6,
                notations: lightset::meter::Notations { stops, lux: 0.0, guide_number_m: 0.0, joules: 0.0 },
                gel: None,
                feather_deg: 0.0,
                position_m: l.position().into(),
                face_m: l.position().into(),
                outline_m: Vec::new(),
            }
        })
        .collect::<Vec<_>>();
    let drawn = |view| lightset::drawing::draw(set, &lights, &[], view);
    SetMeter {
        plan: drawn(lightset::drawing::View::Plan),
        side: drawn(lightset::drawing::View::Side),
        lights,
        together_f_number: 5.6,
        together_nominal: 5.6,
        over_stops: 0.0,
        ambient_stops: None,
        walk: None,
        bounced_stops: None,
        points: Vec::new(),
        points_sd_stops: 0.0,
        background: None,
        boards: Vec::new(),
        flags: Vec::new(),
        slant: String::new(),
        ratio: None,
        sharp: lightset::meter::SharpDepth::of(&set.camera, 1.5),
        cables: Vec::new(),
        warnings: Vec::new(),
        cautions: Vec::new(),
    }
}

#[test]
fn the_two_schools_order_the_work() {
    let s = set();
    let order = |first| {
        let log = BuildLog { first, ..BuildLog::default() };
        build(&s, &meter(&s), catalogue(), &log).steps.into_iter().filter_map(|s| s.role).collect::<Vec<_>>()
    };
    assert_eq!(order(FirstLight::Key), [Role::Key, Role::Fill, Role::Rim, Role::Background]);
    assert_eq!(order(FirstLight::Background), [Role::Background, Role::Key, Role::Fill, Role::Rim]);
}

/// A light that meters a stop over what was expected stands at 1/√2 of its distance, or gives twice its power (inverse-square law).
#[test]
fn a_stop_over_is_explained() {
    let lines = explain(5.6, 0.1, 5.6 * 2f64.sqrt(), 2.0);
    let all = lines.join(" ");
    assert!(
        all.contains("1.0 stops more") && all.contains("1.41 m instead of 2.00 m") && all.contains("200 %"),
        "{all}"
    );
    assert_eq!(explain(5.6, 0.1, 5.7, 2.0).len(), 1, "a hair off is within what can be told");
}

#[test]
fn a_weak_lamp_gets_three_ways_out() {
    let s = set();
    let ways_of = |lamp: &str, sitter: bool| {
        let mut kit = Kit::starter();
        kit.lamps.extend(catalogue().lamps.iter().filter(|l| l.id == lamp).cloned());
        kit.lamps.retain(|l| l.id == lamp);
        let m = meter(&s);
        lamp_plan(&kit, &s.lights[3], &m.lights[3], &s.camera.exposure, None, &[], Moving { sitter, frame_m: 0.8 })
    };
    assert!(ways_of("led-150", true).pulse.is_none(), "steady light has no pulse");
    let p = ways_of("led-150", true);
    let needed = p.power_stops.expect("a power");
    assert!(p.setting.is_none() && needed > 0.3, "{p:?}");
    let ways: Vec<&str> = p.ways_out.iter().map(|w| w.change.as_str()).collect();
    assert!(ways[0].starts_with("Bring it") && ways[1].starts_with("ISO") && ways[2].starts_with("f/"), "{ways:?}");
    // nearer by 2^(-stops/2): inverse-square law
    let near = 1.4 * (-needed / 2.0).exp2();
    assert!(ways[0].contains(&format!("{near:.2} m")), "{}", ways[0]);
    // as engraved, and enough
    let iso: f64 = ways[1].split(' ').nth(1).and_then(|w| w.parse().ok()).expect("a speed");
    assert_eq!(optics::engraved::speed(iso), iso);
    assert!((iso / s.camera.exposure.iso).log2() > needed - 0.1, "ISO {iso} for {needed:.2} stops");
    // a bulb is far too weak for a sitter: no f/0.9, no ISO 30 000, no half second
    let p = ways_of("bulb-9w", true);
    let ways: Vec<&str> = p.ways_out.iter().map(|w| w.change.as_str()).collect();
    assert!(p.power_stops.expect("a power") > 5.0, "{p:?}");
    assert!(ways.iter().any(|w| w.starts_with("No longer time")), "{ways:?}");
    assert!(!ways.iter().any(|w| w.contains("f/0") || w.contains(" s instead")), "{ways:?}");
    // a thing on a table waits
    let p = ways_of("bulb-9w", false);
    assert!(
        p.ways_out.iter().any(|w| w.change.contains("instead of 1/") && w.also.contains("stand for the camera")),
        "{p:?}"
    );
}

#[test]
fn what_the_room_and_the_kit_cannot_do_is_said() {
    let mut s = set();
    s.lights[3].elevation_deg = Some(80.0);
    s.lights[3].distance_m = Some(2.4);
    let plan = build(&s, &meter(&s), &Kit::starter(), &BuildLog::default());
    assert!(plan.problems.iter().any(|p| p.contains("ceiling")), "{:?}", plan.problems);
    assert!(plan.problems.iter().any(|p| p.contains("tallest stand")), "{:?}", plan.problems);
    let none = build(&set(), &meter(&set()), &Kit::default(), &BuildLog::default());
    assert!(none.lamps.iter().all(|l| l.lamp.is_none() && l.says.contains("kit")));
}

/// Common practice: a flash of 400 J with a 1 m box at a metre and a half meters about f/11 to f/16 at ISO 100.
#[test]
fn a_studio_flash_meters_as_they_do() {
    let s = set();
    let lamp = catalogue().lamps.iter().find(|l| l.id == "monolight-400").expect("a lamp");
    let mut v = planning::build::values_of(lamp, &s.lights[3], 1.5);
    v.insert("iso".into(), 100.0);
    let a = planning::bench::answer(&planning::bench::BenchQuestion {
        sum: "path".into(),
        values: v,
        powers: Default::default(),
        solve: None,
    })
    .expect("an answer");
    let f = a.results.iter().find(|r| r.unit == planning::bench::Unit::F).expect("an aperture").value;
    assert!((9.0..18.0).contains(&f), "{f}");
}

#[test]
fn substitutes_fill_the_same_angle() {
    let c = catalogue();
    let of = c.modifiers.iter().find(|m| m.id == "octagon-100").expect("a modifier");
    let list = substitutes(c, &c.lamps[0], of, Metres(1.4));
    let wanted = of.angle_at(Metres(1.4)).to_degrees();
    assert!(list.iter().all(|s| (s.angle_deg - wanted).abs() < 1e-6));
    let umbrella = list.iter().position(|s| s.id == "umbrella-100").expect("the umbrella");
    let grid = list.iter().position(|s| s.id == "grid-18").expect("the grid");
    assert!(umbrella < grid, "an umbrella of the size does before a grid");
}

#[test]
fn tables_go_out_and_in() {
    let kit = catalogue();
    let back = from_csv(&to_csv(kit)).expect("a kit");
    assert_eq!(&back, kit);
    assert!(kit.check().is_ok());
}

#[test]
fn a_bad_row_is_named() {
    let bad = |csv: &str| from_csv(csv).expect_err("refused");
    assert!(bad("kind,name\nlamp,Torch\n").contains("line 2 (Torch)"));
    assert!(bad("kind,name,output,measured,width_m\nlamp,Torch,5,candles,0.1\n").contains("candles"));
    assert!(bad("name\nx\n").contains("kind"));
    assert!(bad("kind,name,width_m,height_m,transmission\nsheet,Net,1,1,1.5\n").contains("transmission"));
    assert!(bad("kind,name,width_m\nboard,Card,1\nboard,Card,1\n").contains("twice"));
}

#[test]
fn power_as_lamps_write_it() {
    let w = |c, s| write_power(c, Stops(s), 400.0, 10.0);
    assert_eq!(w(Control::Fraction, -2.0), "1/4");
    assert_eq!(w(Control::Fraction, -1.7), "1/4 + 0.3");
    assert_eq!(w(Control::Fraction, 0.0), "1/1");
    assert_eq!(w(Control::Percent, -1.0), "50 %");
    assert_eq!(w(Control::Joules, -1.0), "200 J");
    assert_eq!(w(Control::Panel, -2.7), "7.3");
    assert!(read_power(Control::Fraction, "2/1", 400.0, 10.0).is_err());
    assert!(read_power(Control::Panel, "banana", 400.0, 10.0).is_err());
}

/// A lamp given by lumens and the same given by the lux they make in its beam are one lamp (flux = intensity times solid angle).
#[test]
fn lumens_and_lux_agree() {
    let lamp = catalogue().lamps.iter().find(|l| l.id == "bulb-9w").expect("a lamp");
    let lux = lamp.axial();
    let same =
        lightset::kit::Lamp { output: Output::Lux { lux, at_m: 1.0, beam_deg: lamp.beam_deg() }, ..lamp.clone() };
    assert!((same.axial() - lamp.axial()).abs() < 1e-9);
}

proptest! {
    #[test]
    fn power_text_round_trips(s in -6.9f64..0.0) {
        // tenths of a stop, rounded; whole per cents from ten on: log2(10.5 / 10) is 0.0704
        for (c, within) in [(Control::Fraction, 0.051), (Control::Percent, 0.0705), (Control::Stops, 0.051), (Control::Panel, 0.051)] {
            let text = write_power(c, Stops(s), 400.0, 10.0);
            let back = read_power(c, &text, 400.0, 10.0).expect("its own text").0;
            prop_assert!((back - s).abs() < within, "{text}: {back} for {s}");
        }
    }

    #[test]
    fn any_text_is_refused_or_understood(text in "[ -~]{0,20}") {
        let _ = read_power(Control::Fraction, &text, 400.0, 10.0);
        let _ = from_csv(&text);
    }
}

#[test]
fn a_drawing_is_well_formed_and_to_scale() {
    let s = set();
    let svg = lightset::paper::svg(&meter(&s), "A <study> & more", optics::words::Lengths::Metres);
    assert!(svg.contains("A &lt;study&gt; &amp; more") && svg.ends_with("</svg>\n"));
    assert!(svg.contains("key") && svg.contains("2.00 m away"), "{svg}");
    assert_eq!(svg.matches("<svg").count(), 1);
    let feet = lightset::paper::svg(&meter(&s), "x", optics::words::Lengths::Feet);
    assert!(feet.contains("6 ft 7 in away"), "2 m are 6 ft 7 in");
}

/// glTF 2.0: a camera looks along its own -z; lights refer to the list of KHR_lights_punctual; intensity is candela, E d² (Khronos).
#[test]
fn a_set_as_gltf() {
    let s = set();
    let m = meter(&s);
    let g = lightset::gltf::gltf(&s, &m, "study");
    assert_eq!(g["asset"]["version"], "2.0");
    let lights = g["extensions"]["KHR_lights_punctual"]["lights"].as_array().expect("lights");
    assert_eq!(lights.len(), 4);
    let key = m.lights.iter().find(|l| l.name == "key").expect("a key");
    let want = key.lux_seconds / 0.008 * key.distance_m.powi(2);
    let got = lights[3]["intensity"].as_f64().expect("candela");
    assert!((got / want - 1.0).abs() < 1e-9);
    let camera = g["nodes"][0]["matrix"].as_array().expect("a matrix");
    // third column: its z axis, away from the subject
    assert!(
        (camera[10].as_f64().unwrap_or(0.0) - 1.0).abs() < 1e-9
            && (camera[14].as_f64().unwrap_or(0.0) - 2.0).abs() < 1e-9
    );
    assert_eq!(g["buffers"][0]["byteLength"], 60);
}

/// Streak = speed × time (geometry); a cut flash freezes what one that keeps its time does not (common practice).
#[test]
fn a_flash_says_what_it_freezes() {
    let s = set();
    let m = meter(&s);
    let of = |lamp: &str, sitter: bool, frame_m: f64| {
        let mut kit = catalogue().clone();
        kit.lamps.retain(|l| l.id == lamp);
        lamp_plan(&kit, &s.lights[0], &m.lights[0], &s.camera.exposure, None, &[], Moving { sitter, frame_m })
    };
    // 2.2 ms at any power: 2.2 mm at 1 m/s; of a frame 2.2 m high and 4000 pixels that is four
    let slow = of("monolight-400", true, 2.2).pulse.expect("a pulse");
    assert!(slow.contains("1 m/s, draws 2.2 mm, 4 pixels") && slow.contains("as long at any power"), "{slow}");
    let drop = of("speedlight", false, 0.2);
    let says = drop.pulse.expect("a pulse");
    assert!(says.contains("drop") && says.contains("flashes on a charge"), "{says}");
    assert!(says.contains("less power") || says.contains("frozen"), "{says}");
    // a lamp whose pulse nobody put in says nothing of it; one that cannot go low enough says so
    let mut own = catalogue().clone();
    own.lamps.retain(|l| l.id == "speedlight");
    let of_own = |own: &Kit| {
        lamp_plan(
            own,
            &s.lights[0],
            &m.lights[0],
            &s.camera.exposure,
            None,
            &[],
            Moving { sitter: false, frame_m: 0.01 },
        )
        .pulse
    };
    own.lamps[0].lowest_stops = -1.0;
    assert!(of_own(&own).expect("a pulse").contains("at its lowest"), "{:?}", of_own(&own));
    own.lamps[0].pulse = None;
    assert!(of_own(&own).is_none());
}

/// Two stands need about half a metre (common practice): lights one above the other are named, those side by side are not.
#[test]
fn two_lights_on_one_spot_are_named() {
    let said = |distance_m: f64| {
        let mut s = set();
        let key = s.lights.iter().position(|l| l.name == "key").expect("a key");
        let fill = s.lights.iter_mut().find(|l| l.name == "fill").expect("a fill");
        // under the key, a little nearer
        (fill.azimuth_deg, fill.elevation_deg, fill.distance_m) = (Some(45.0), Some(5.0), Some(distance_m));
        assert_eq!(s.lights[key].name, "key");
        let m = meter(&s);
        build(&s, &m, catalogue(), &BuildLog::default()).problems.join(" ")
    };
    // on the floor the key stands 1.4 cos 38° = 1.10 m from the subject (geometry)
    let both = said(1.15);
    assert!(both.contains("Key and fill stand on one spot (4 cm apart on the floor)"), "{both}");
    assert!(!said(1.9).contains("Key and fill stand on one spot"));
}
