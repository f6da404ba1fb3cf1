//! The bench against worked examples of the trade, handbook tables and formulas.

use optics::beam::beam_sr;
use planning::bench::{BenchAnswer, BenchQuestion, Values, answer, bench, walk_stops};
use proptest::prelude::*;

fn ask(sum: &str, values: &[(&str, f64)], solve: Option<&str>) -> BenchAnswer {
    let values: Values = values.iter().map(|(k, v)| ((*k).to_owned(), *v)).collect();
    answer(&BenchQuestion { sum: sum.into(), values, powers: Default::default(), solve: solve.map(str::to_owned) })
        .expect("an answer")
}

fn result(a: &BenchAnswer, name: &str) -> f64 {
    a.results.iter().find(|r| r.name.starts_with(name)).unwrap_or_else(|| panic!("{name} in {a:?}")).value
}

const FT: f64 = 0.3048;

/// Common practice: a meter shows f/5.6 at one mark and f/4 a foot and a half further away: the light is
/// about 3.6 ft from the first. Moved 3 ft back, the first mark loses 1.7 stops and the walk costs 0.59.
#[test]
fn the_walk_of_a_foot_and_a_half() {
    let point = [("face_w_m", 0.005), ("face_h_m", 0.005)];
    let marks = [("first_f", 32f64.sqrt()), ("second_f", 4.0), ("apart_m", 1.5 * FT), ("back_m", 3.0 * FT)];
    let a = ask("walk", &[&point[..], &marks[..]].concat(), Some("distance_m"));
    assert!((a.values["distance_m"] / FT - 3.62).abs() < 0.01, "{}", a.values["distance_m"] / FT);
    assert!((result(&a, "The light moved back costs") - 1.74).abs() < 0.02);
    assert!((result(&a, "The walk then costs") - 0.59).abs() < 0.01);
    assert!(
        a.solved_sd.is_some_and(|sd| sd > 0.05 && sd < 1.0),
        "a tenth of a stop on the meter shows: {:?}",
        a.solved_sd
    );
}

/// Common practice: 65 % to 100 % is 0.62 stop; 400 J to 200 J is one; 125 to 160 ISO a third (0.36 exact).
#[test]
fn power_in_stops() {
    let a = ask("power", &[("from_stops", 0.65f64.log2()), ("to_stops", 0.0)], None);
    assert!((result(&a, "Change") - 0.62).abs() < 0.005);
    let a = ask("power", &[("from_stops", -1.0), ("to_stops", 0.0), ("full_j", 400.0)], None);
    assert!((result(&a, "Energy, before") - 200.0).abs() < 1e-9);
    assert!(((160.0f64 / 125.0).log2() - 1.0 / 3.0).abs() < 0.03);
}

/// Powers are typed as lamps write them: a quarter is two stops down, 200 J of 400 one.
#[test]
fn powers_are_typed_in_any_notation() {
    let ask = |from: &str, to: &str| {
        let powers = [("from_stops", from), ("to_stops", to)].map(|(k, v)| (k.to_owned(), v.to_owned())).into();
        answer(&BenchQuestion {
            sum: "power".into(),
            values: [("full_j".to_owned(), 400.0)].into(),
            powers,
            solve: None,
        })
    };
    let a = ask("1/4", "200 J").expect("an answer");
    assert!((result(&a, "Change") - 1.0).abs() < 1e-9);
    assert!(ask("1/4", "2/1").is_err_and(|e| e.contains("To, stops below full") && e.contains("2/1")));
}

/// Common practice: a 1 m octagon at 1.5 m fills about 37 degrees, and so does a 41-inch umbrella at 5 ft. The
/// bench takes faces as rectangles of the same area.
#[test]
fn the_octagon_and_the_umbrella() {
    let octagon = (2.0f64 * (2f64.sqrt() - 1.0)).sqrt();
    let a = ask("size", &[("face_w_m", octagon), ("face_h_m", octagon), ("distance_m", 1.5)], None);
    assert!((result(&a, "Angle it fills") - 37.0).abs() < 1.0, "{}", result(&a, "Angle it fills"));
    let side = 41.0 * 0.0254 * (std::f64::consts::PI / 4.0).sqrt();
    let a = ask("size", &[("face_w_m", side), ("face_h_m", side), ("distance_m", 5.0 * FT)], None);
    assert!((result(&a, "Angle it fills") - 37.0).abs() < 1.2);
}

/// Five times its size away the inverse-square law is right within about one per cent (handbook rule; a
/// per cent is 0.0144 stop).
#[test]
fn the_five_times_rule() {
    let a = ask("size", &[("face_w_m", 1.0), ("face_h_m", 1.0), ("distance_m", 5.0)], None);
    let stops = result(&a, "The inverse-square law is wrong");
    assert!(stops > 0.005 && stops < 0.0150, "{stops}");
}

/// Hyperfocal distance of a 50 mm lens at f/8, circle 0.03 mm: 10.47 m (f²/(N c) + f by hand: 2500/0.24 + 50 mm); focused
/// there it is sharp from half of it. Unit magnification costs two stops (bellows factor 4; handbooks).
#[test]
fn close_up_and_hyperfocal() {
    let m = 1.0 / (10.4667 / 0.05 - 1.0);
    let a = ask("close", &[("focal_mm", 50.0), ("f_number", 8.0), ("coc_mm", 0.03), ("magnification", m)], None);
    assert!((result(&a, "Hyperfocal") - 10.467).abs() < 0.01);
    assert!((result(&a, "Sharp from") - 10.467 / 2.0).abs() < 0.1, "{}", result(&a, "Sharp from"));
    let a = ask("close", &[("magnification", 1.0), ("f_number", 8.0)], None);
    assert!((result(&a, "Bellows cost") - 2.0).abs() < 1e-9);
    assert!((result(&a, "Effective aperture") - 16.0).abs() < 1e-9);
    // depth at unit magnification 2 N c (1 + m) / m² = 4 N c = 0.96 mm, less a small term
    assert!((result(&a, "Sharp depth") - 0.96).abs() < 0.02, "{}", result(&a, "Sharp depth"));
}

/// Guide number: GN = N d at ISO 100; at 200 an aperture a stop smaller, at half power a stop larger (handbooks).
#[test]
fn guide_numbers_scale() {
    let flash = [("flash", 1.0), ("guide_m", 40.0), ("modifier", 0.0), ("sheet", 0.0), ("magnification", 0.0)];
    let at = |more: &[(&str, f64)]| {
        let a = ask("path", &[&flash[..], &[("distance_m", 5.0), ("shutter_s", 0.008)], more].concat(), None);
        result(&a, "A meter turned to the light shows")
    };
    assert!((at(&[("iso", 100.0)]) - 8.0).abs() < 1e-6);
    assert!((at(&[("iso", 200.0)]) - 8.0 * 2f64.sqrt()).abs() < 1e-6);
    assert!((at(&[("iso", 100.0), ("power_stops", -1.0)]) - 8.0 / 2f64.sqrt()).abs() < 1e-6);
}

/// Sunny sixteen as a lux figure: E = C N²/(t S) with C = 250: f/16, 1/100 s, ISO 100: 64 000 lux (ISO 2720; bright sun is
/// given as 50 000 to 100 000 lux).
#[test]
fn the_meter_equation_holds_on_the_path() {
    let a = ask(
        "path",
        &[
            ("flash", 0.0),
            ("lux_1m", 64_000.0),
            ("modifier", 0.0),
            ("distance_m", 1.0),
            ("f_number", 16.0),
            ("shutter_s", 0.01),
            ("iso", 100.0),
            ("magnification", 0.0),
        ],
        None,
    );
    assert!(result(&a, "Over what the camera is set for").abs() < 1e-9);
}

/// Ratios: three stops between the sides are 8 : 1 as (key + fill) : fill and 7 : 1 as key : fill (common practice).
#[test]
fn ratios_in_both_schools() {
    let a = ask("sums", &[("key_f", 8.0), ("sides_stops", 3.0)], Some("fill_f"));
    assert!((result(&a, "key : fill") - 7.0).abs() < 1e-3);
    assert!((result(&a, "(key + fill) : fill") - 8.0).abs() < 1e-3);
    assert!((a.values["fill_f"] - 8.0 / 7f64.sqrt()).abs() < 1e-3);
}

/// Shutter scales ambient light only; faster than the sync time the flash is cut off (common practice).
#[test]
fn the_shutter_leaves_flash_alone() {
    let at = |s: f64| ask("mixed", &[("shutter_s", s), ("sync_s", 0.005)], None);
    let (slow, fast) = (at(1.0 / 30.0), at(1.0 / 60.0));
    assert!((result(&slow, "Flash against") - result(&fast, "Flash against")).abs() < 1e-12);
    assert!((result(&slow, "Ambient against") - result(&fast, "Ambient against") - 1.0).abs() < 1e-9);
    assert!(fast.problems.is_empty() && !at(1.0 / 500.0).problems.is_empty());
}

/// A uniform path of length l square to the view, middle at d: with l small it is the lamp itself; with l = 2d the mean of
/// d/(d²+x²)^1.5 is 1/(d² √2) (integral tables).
#[test]
fn a_moved_lamp_is_a_line() {
    let lux = |l: f64| {
        let a = ask("moved", &[("path_m", l), ("distance_m", 1.0), ("lux_1m", 100.0), ("lit_s", 1.0)], None);
        result(&a, "Over what the camera is set for")
    };
    assert!((lux(0.0) - lux(2.0) - 0.5).abs() < 1e-9);
}

/// What has no answer says so, and names the figure; what is out of range too.
#[test]
fn no_answer_is_said() {
    let a =
        ask("path", &[("lux_1m", 10.0), ("distance_m", 40.0), ("iso", 100.0), ("f_number", 22.0)], Some("power_stops"));
    assert!(a.problems.iter().any(|p| p.contains("Power") && p.contains("nearest")), "{:?}", a.problems);
    let bad = answer(&BenchQuestion {
        sum: "path".into(),
        values: [("distance_m".to_owned(), 0.0)].into(),
        powers: Default::default(),
        solve: None,
    });
    assert!(bad.is_err_and(|e| e.contains("Distance") && e.contains("0.05")));
    assert!(
        answer(&BenchQuestion {
            sum: "nothing".into(),
            values: Values::new(),
            powers: Default::default(),
            solve: None
        })
        .is_err()
    );
}

/// The beam's flux over its axial intensity against numerical integration of 2^-(theta/half)² (a bell-shaped beam).
#[test]
fn flux_of_a_beam() {
    let half = 15f64.to_radians();
    let n = 200_000;
    let sum: f64 = (0..n)
        .map(|i| {
            let t = (f64::from(i) + 0.5) / f64::from(n) * std::f64::consts::FRAC_PI_2;
            2.0 * std::f64::consts::PI * t.sin() * 0.5f64.powf((t / half).powi(2)) * std::f64::consts::FRAC_PI_2
                / f64::from(n)
        })
        .sum();
    assert!((beam_sr(30.0) / sum - 1.0).abs() < 0.03, "{} {sum}", beam_sr(30.0));
}

proptest! {
    /// Whatever is solved for, asking again with the answer gives the relation back: both directions agree.
    #[test]
    fn solving_both_ways_agrees(d in 0.5f64..6.0, n in 1.0f64..22.0, iso in 50.0f64..6400.0) {
        let values = [("distance_m", d), ("f_number", n), ("iso", iso), ("modifier", 1.0), ("shutter_s", 0.01), ("lux_1m", 20_000.0)];
        let a = ask("path", &values, Some("shutter_s"));
        if a.problems.is_empty() {
            let t = a.values["shutter_s"];
            let back = ask("path", &[&values[..4], &[("shutter_s", t), ("lux_1m", 20_000.0)]].concat(), Some("distance_m"));
            prop_assert!(back.problems.is_empty());
            prop_assert!((back.values["distance_m"] - d).abs() < 0.01 * d, "{} {d}", back.values["distance_m"]);
        }
    }

    /// A walk never costs more than the inverse-square law says, and less the nearer a large face is.
    #[test]
    fn faces_fall_off_more_slowly(size in 0.0f64..2.0, d in 0.3f64..5.0, apart in 0.05f64..3.0) {
        let stops = walk_stops(size, d, apart);
        prop_assert!(stops <= 2.0 * ((d + apart) / d).log2() + 1e-12);
        prop_assert!(stops >= walk_stops(size + 0.2, d, apart) - 1e-12);
    }

    /// Every sum answers at its usual figures, and every figure it may be solved for gives an answer or says why not.
    #[test]
    fn every_sum_answers(k in 0usize..10, pick in 0usize..8) {
        let s = &bench()[k];
        let solvable: Vec<&str> = s.field.iter().filter(|f| f.solve).map(|f| f.id.as_str()).collect();
        let a = ask(&s.id, &[], Some(solvable[pick % solvable.len()]));
        prop_assert!(!a.results.is_empty() && a.results.iter().all(|r| r.value.is_finite() && r.sd.is_finite()));
    }
}
