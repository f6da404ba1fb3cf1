//! What lamps give: standards of photometry and exposure, ladders of power, and a kit's own tables.

use lightset::kit::{Kit, Lamp, LampReading, Modifier, Output, Shape, catalogue, from_csv, metered, to_csv};
use lightset::set::Level;
use optics::exposure::{C_FLAT, Settings};
use optics::power::Control;
use optics::units::{Metres, Stops};
use proptest::prelude::*;
use serde_json::json;

fn lamp(output: Output) -> Lamp {
    serde_json::from_value(
        json!({"id": "l", "name": "lamp", "output": output, "control": "fraction", "lowest_stops": -7.0, "face_m": 0.05, "cct_k": 5600.0}),
    )
    .expect("a lamp")
}

fn settings(f_number: f64, shutter_s: f64, iso: f64) -> Settings {
    serde_json::from_value(json!({"f_number": f_number, "shutter_s": shutter_s, "iso": iso})).expect("settings")
}

#[test]
fn a_guide_number_is_aperture_times_distance() {
    // GN 40 at ISO 100: right at 5 m and f/8 (definition of the guide number)
    let level = Level::Guide { guide_number_m: 40.0, power: None };
    let s = settings(8.0, 1.0 / 125.0, 100.0);
    let given = level.lux_seconds(&s, 5.0, f64::NAN).expect("light");
    let right = s.incident_lux(C_FLAT) * s.shutter_s;
    assert!((given / right).log2().abs() < 1e-9, "{given} for {right}");
    // a quarter of the power is two stops, at half the distance it is right again
    let quarter = Level::Guide { guide_number_m: 40.0, power: Some("1/4".into()) };
    assert!((quarter.lux_seconds(&s, 2.5, f64::NAN).expect("light") / right - 1.0).abs() < 1e-9);
}

#[test]
fn continuous_light_counts_by_time_and_flash_does_not() {
    let lux = Level::Lux { lux: 1000.0 };
    let flash = Level::Joules { joules: 200.0, power: None };
    let (short, long) = (settings(8.0, 0.01, 100.0), settings(8.0, 0.04, 100.0));
    let of = |l: &Level, s: &Settings| l.lux_seconds(s, 2.0, 0.1).expect("light");
    assert!((of(&lux, &long) / of(&lux, &short) - 4.0).abs() < 1e-12);
    assert!((of(&flash, &long) - of(&flash, &short)).abs() < 1e-12);
    // twice the energy is a stop
    let mut more = flash.clone();
    more.by(1.0);
    assert!((of(&more, &short) / of(&flash, &short) - 2.0).abs() < 1e-12);
    // a stop more needs a guide number 1.4 times as large (square law)
    let mut g = Level::Guide { guide_number_m: 10.0, power: None };
    g.by(1.0);
    assert!(matches!(g, Level::Guide { guide_number_m, .. } if (guide_number_m - 14.142).abs() < 1e-3));
}

#[test]
fn an_output_is_the_same_however_it_is_told() {
    // 1000 lux at 2 m are 4000 candela (inverse square law); into a beam of 60 degrees that is 4000 times its solid angle in lumens
    let by_lux = lamp(Output::Lux { lux: 1000.0, at_m: 2.0, beam_deg: 60.0 });
    assert!((by_lux.axial() - 4000.0).abs() < 1e-9);
    let by_lumens = lamp(Output::Lumens { lumens: 4000.0 * optics::beam::beam_sr(60.0), beam_deg: 60.0 });
    assert!((by_lumens.axial() - 4000.0).abs() < 1e-6);
    // a guide number of 100 m gives C x 100 lux seconds at 1 m (ISO 2720: H = C N^2 / S)
    let flash = lamp(Output::Guide { guide_number_m: 100.0, beam_deg: 60.0 });
    assert!((flash.axial() - 100.0 * C_FLAT).abs() < 1e-9);
    assert!(flash.is_flash() && !by_lux.is_flash() && flash.on_batteries());
}

#[test]
fn two_readings_at_one_distance_make_a_lamp() {
    // a continuous lamp: f/5.6 at 1 m, 1/60 s, ISO 400 is E = C N^2 / (S t) (ISO 2720)
    let l = lamp(Output::Lux { lux: 1.0, at_m: 1.0, beam_deg: 60.0 });
    let read = |power: &str, d: f64, n: f64| LampReading {
        power: power.into(),
        distance_m: d,
        f_number: n,
        iso: 400.0,
        shutter_s: 1.0 / 60.0,
    };
    let m = metered(&l, &[read("full", 1.0, 5.6), read("1/4", 1.0, 2.8)]).expect("metered");
    let lux = C_FLAT * 5.6 * 5.6 * 60.0 / 400.0;
    assert!((m.lamp.axial() / lux - 1.0).abs() < 1e-6, "{}", m.lamp.axial());
    assert!(m.says.iter().any(|s| s.contains("agree")));
    // a dial that lies: a quarter gives only one stop less
    let lies = metered(&l, &[read("full", 1.0, 5.6), read("1/4", 1.0, 4.0)]).expect("metered");
    assert!(lies.says.iter().any(|s| s.contains("its scale is off")), "{:?}", lies.says);
    // measured from the wrong place: the light shines from 40 cm behind
    let at = |d: f64| read("full", d, 5.6 * 1.4 / (d + 0.4));
    let behind = metered(&l, &[at(1.0), at(3.0)]).expect("metered");
    assert!(behind.says.iter().any(|s| s.contains("0.40 m behind")), "{:?}", behind.says);
    for bad in [
        vec![],
        vec![read("full", 1.0, 5.6)],
        vec![read("full", -1.0, 5.6), read("full", 1.0, 5.6)],
        vec![read("what", 1.0, 5.6); 2],
    ] {
        assert!(metered(&l, &bad).is_err());
    }
}

#[test]
fn the_catalogue_is_sound_and_survives_its_table() {
    let all = catalogue();
    all.check().expect("every figure within its bounds");
    assert!(all.lamps.len() > 10 && all.modifiers.len() > 15 && all.boards.len() > 3);
    let back = from_csv(&to_csv(all)).expect("its own table");
    assert_eq!(back.lamps.len(), all.lamps.len());
    for (a, b) in all.modifiers.iter().zip(&back.modifiers) {
        assert_eq!((&a.id, &a.name, a.size_m, a.count), (&b.id, &b.name, b.size_m, b.count));
    }
    for (a, b) in all.lamps.iter().zip(&back.lamps) {
        assert!((a.axial() - b.axial()).abs() < 1e-9 * a.axial() && a.control == b.control, "{}", a.name);
    }
    for kit in [Kit::starter(), Kit::household()] {
        kit.check().expect("sound");
        assert!(!kit.lamps.is_empty());
    }
}

#[test]
fn tables_of_strangers_are_read_or_named() {
    let err = |t: &str| from_csv(t).unwrap_err();
    assert!(err("a,b\n1,2\n").contains("no column"));
    assert!(err("kind,name,measured,output\nlamp,x,furlongs,3\n").contains("line 2"));
    assert!(err("kind,name\nlamp,x\n").contains("output is missing"));
    assert!(err("kind,name,width_m\nmodifier,x,wide\n").contains("line 2"));
    // a spreadsheet's formula is text, not a formula (CSV injection, OWASP)
    let kit = from_csv("kind,name,width_m,transmission\nsheet,=1+1,1,0.5\n").expect("a sheet");
    let again = to_csv(&kit);
    assert!(!again.lines().any(|l| l.split(',').any(|c| c.starts_with('=') || c.starts_with("\"="))), "{again}");
    assert_eq!(from_csv(&again).expect("again").sheets[0].name, kit.sheets[0].name);
}

fn modifier(shape: Shape, w: f64, h: f64) -> Modifier {
    serde_json::from_value(json!({"id": "m", "name": "m", "shape": shape, "throws": "even", "size_m": [w, h], "near_m": 0.3, "far_m": 3.0, "share": 0.5}))
        .expect("a modifier")
}

proptest! {
    /// A modifier's distance for an angle gives that angle; twice the size goes twice as far (similar triangles).
    #[test]
    fn an_angle_has_its_distance(w in 0.1f64..2.0, h in 0.1f64..2.0, a in 0.05f64..1.2) {
        for shape in [Shape::Disc, Shape::Rectangle] {
            let d = modifier(shape, w, h).distance_for(a);
            prop_assert!((modifier(shape, w, h).angle_at(d) - a).abs() < 1e-6);
            prop_assert!((modifier(shape, 2.0 * w, 2.0 * h).distance_for(a).0 / d.0 - 2.0).abs() < 1e-6);
        }
    }

    /// Lamps are written in their own notation and read back.
    #[test]
    fn a_lamp_s_own_notation(stops in -6.9f64..0.0) {
        for control in [Control::Fraction, Control::Percent, Control::Stops] {
            let l = Lamp { control, ..lamp(Output::Joules { joules: 500.0, beam_deg: 60.0 }) };
            let back = optics::power::read_power(control, &l.write(Stops(stops)), l.full_joules(), l.full_panel);
            prop_assert!((back.expect("read back").0 - stops).abs() < 0.09, "{control:?} {}", l.write(Stops(stops)));
        }
    }

    /// Whatever is in a table, it is a kit or a sentence.
    #[test]
    fn any_table_is_answered(text in "(kind|name|output|lamp|sheet|,|\n|1|\"|x){0,40}") {
        match from_csv(&text) {
            Ok(kit) => prop_assert!(kit.lamps.len() < 50),
            Err(e) => prop_assert!(!e.is_empty()),
        }
    }

    /// Light at a distance goes by the square of it, for every way a level is told.
    #[test]
    fn levels_and_distance(gn in 2.0f64..80.0, d in 0.5f64..5.0) {
        let s = settings(8.0, 0.01, 100.0);
        let l = Level::Guide { guide_number_m: gn, power: None };
        let of = |d: f64| l.lux_seconds(&s, Metres(d).0, f64::NAN).expect("light");
        prop_assert!((of(d) / of(2.0 * d) - 4.0).abs() < 1e-9);
    }
}
