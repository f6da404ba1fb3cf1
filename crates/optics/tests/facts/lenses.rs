//! Lenses, exposures and notations of power.

use optics::depth::{hyperfocal_m, sharp_limits};
use optics::engraved;
use optics::exposure::{Settings, nominal_f_number, stops_between_apertures};
use optics::luminaire::Luminaire;
use optics::power::{Control, read_power, write_power};
use optics::units::{FNumber, Kelvin, Metres, Stops};
use proptest::prelude::*;

fn settings(f_number: f64, shutter_s: f64, iso: f64) -> Settings {
    Settings { f_number, shutter_s, iso }
}

#[test]
fn depth_of_field_follows_the_handbook() {
    // 50 mm at f/8, circle of confusion 0.03 mm: hyperfocal 10.47 m (f^2 / N c + f, Ray, Applied Photographic Optics)
    let h = hyperfocal_m(0.05, 8.0, 0.03e-3);
    assert!((h - 10.467).abs() < 1e-3, "{h}");
    // focused there all is sharp from half of it on (textbook)
    let (near, far) = sharp_limits(0.05, 8.0, 0.03e-3, h);
    assert!((near / (h / 2.0) - 1.0).abs() < 0.01 && far.is_infinite(), "{near} to {far}");
    // nearer than that both limits are finite, the far one the farther away
    let (near, far) = sharp_limits(0.05, 8.0, 0.03e-3, 2.0);
    assert!(near < 2.0 && far > 2.0 && far - 2.0 > 2.0 - near, "{near} to {far}");
}

#[test]
fn exposures_have_their_published_values() {
    // f/16 and 1/125 at ISO 100 is EV 15 (ISO 2720 tables: bright sun)
    assert!((settings(16.0, 1.0 / 125.0, 100.0).ev100() - 15.0).abs() < 0.05);
    // f/1 for a second is EV 0 (definition)
    assert!(settings(1.0, 1.0, 100.0).ev().abs() < 1e-12);
    // f/2, 1/50, ISO 400: 50 times 250 over 100 lux by C = 250; f/11, 4 s, ISO 100: 76 lux (worked examples)
    assert!((settings(2.0, 0.02, 400.0).incident_lux(250.0) - 125.0).abs() < 1e-9);
    assert!((settings(11.0, 4.0, 100.0).incident_lux(250.0) - 75.6).abs() < 0.1);
    // engraved apertures are third stops of powers of the root of two (ISO 517)
    for (exact, engraved) in [(5.657, 5.6), (11.314, 11.0), (2.828, 2.8), (22.63, 22.0), (6.35, 6.3), (1.414, 1.4)] {
        assert!((nominal_f_number(FNumber(exact)) - engraved).abs() < 1e-9, "{exact}");
    }
    assert!((stops_between_apertures(FNumber(2.0), FNumber(8.0)).0 - 4.0).abs() < 1e-12);
    // 5600 to 3300 kelvin: 124 mired (worked example)
    assert!((Kelvin(3300.0).mired().0 - Kelvin(5600.0).mired().0 - 124.5).abs() < 0.1);
    // a foot is 0.3048 m (1959 agreement)
    assert!((Metres::from_feet(10.0).0 - 3.048).abs() < 1e-12);
}

#[test]
fn settings_that_cannot_be_are_refused_by_name() {
    for (s, field) in [
        (settings(0.0, 0.01, 100.0), "f_number"),
        (settings(8.0, f64::NAN, 100.0), "shutter_s"),
        (settings(8.0, 0.01, -3.0), "iso"),
        (settings(f64::INFINITY, 0.01, 100.0), "f_number"),
    ] {
        assert!(s.check().expect_err("refused").contains(field), "{field}");
    }
    assert!(settings(8.0, 0.01, 100.0).check().is_ok());
}

proptest! {
    /// A setting written in a lamp's notation is read back within its last digit.
    #[test]
    fn power_is_read_as_it_is_written(stops in -8.0f64..0.0) {
        for (control, within) in [
            (Control::Fraction, 0.051),
            (Control::Stops, 0.051),
            (Control::Panel, 0.051),
            (Control::Percent, 0.08),
        ] {
            let text = write_power(control, Stops(stops), 400.0, 10.0);
            let back = read_power(control, &text, 400.0, 10.0);
            prop_assert!(back.is_ok(), "{control:?}: {text}");
            prop_assert!((back.unwrap().0 - stops).abs() < within, "{control:?}: {text} for {stops}");
        }
    }

    /// What no lamp's notation is gives a sentence, never a number and never a panic.
    #[test]
    fn nonsense_is_no_power(text in "[a-z%/+ ]{0,12}") {
        let read = read_power(Control::Fraction, &text, 400.0, 10.0);
        if let Ok(s) = read {
            prop_assert!(s.0 <= 0.0 && s.0.is_finite(), "{text}");
            prop_assert!(text.contains("full"), "{text}");
        }
    }

    /// Engraved values lie within a sixth of a stop of what is asked, and what rounding adds: f/1.2 stands for 1.26,
    /// a seventh of a stop off.
    #[test]
    fn what_is_engraved_is_near(n in 1.0f64..32.0, t in 0.0002f64..20.0) {
        // the exact third-stop nearest to it, and what the engraved number differs from that by
        let near = |thirds: f64| thirds.round() / 3.0;
        let exact = (near(6.0 * n.log2()) / 2.0).exp2();
        let a = engraved::aperture(FNumber(n));
        prop_assert!(2.0 * (exact / n).log2().abs() < 1.0 / 6.0 + 1e-9 && 2.0 * (a / exact).log2().abs() < 0.16, "f/{a} for {n}");
        let exact = near(3.0 * t.log2()).exp2();
        let s = engraved::time(t);
        prop_assert!((exact / t).log2().abs() < 1.0 / 6.0 + 1e-9 && (s / exact).log2().abs() < 0.16, "{s} s for {t}");
    }
}

#[test]
fn powers_are_worked_as_on_the_lamps() {
    let stops = |t: &str| read_power(Control::Fraction, t, 400.0, 10.0).expect("a power").0;
    // 1/128, 1/32, 1/8 are steps of two stops; 1 % is -6.64 stops; a third more is a third of a stop (definitions)
    assert!((stops("1/32") - stops("1/128") - 2.0).abs() < 1e-12 && (stops("1/8") - stops("1/32") - 2.0).abs() < 1e-12);
    assert!((stops("1 %") + 6.64).abs() < 0.005);
    assert!((stops("1/8 + 1/3") + 3.0 - 1.0 / 3.0).abs() < 1e-12);
    assert!((stops("100 J") + 2.0).abs() < 1e-12 && stops("full").abs() < 1e-12);
    // a panel's own scale from 2.4 to 4.2 is 1.8 stops up (worked example, common practice)
    let panel = |t: &str| read_power(Control::Panel, t, 400.0, 10.0).expect("a power").0;
    assert!((panel("4.2") - panel("2.4") - 1.8).abs() < 1e-12);
    for bad in ["", "1/0", "0 %", "2/1", "NaN", "1/4 + x", "-inf", "500 J"] {
        assert!(read_power(Control::Fraction, bad, 400.0, 10.0).is_err(), "{bad}");
    }
}

#[test]
fn a_luminaire_file_is_read_between_its_angles() {
    // layout of LM-63 (from memory): ten numbers after TILT=NONE, three more, angles, candela
    let text = "IESNA:LM-63-2002\nTILT=NONE\n1 1000 2 3 1 1 1 0 0 0\n1 1 100\n0 30 60\n0\n100 50 10\n";
    let l = Luminaire::parse(text).expect("a luminaire");
    // the candela multiplier doubles them
    assert!((l.at(0.0) - 200.0).abs() < 1e-9 && (l.at(15.0) - 150.0).abs() < 1e-9 && (l.at(60.0) - 20.0).abs() < 1e-9);
    assert!(l.at(61.0).abs() < 1e-12 && l.at(-1.0).abs() < 1e-12);
    for (bad, says) in [
        ("", "TILT"),
        ("TILT=INCLUDE\n1", "NONE"),
        ("TILT=NONE\n1 1000 1 3 1", "ends before"),
        ("TILT=NONE\n1 1 1 2 1 1 1 0 0 0 1 1 1 30 30 0 5 5", "rise"),
        ("TILT=NONE\n1 1 1 2 1 1 1 0 0 0 1 1 1 0 30 0 0 0", "positive"),
        ("TILT=NONE\n1 1 1 99999 1 1 1 0 0 0 1 1 1 0 30 0 0 0", "1 to 2000"),
        ("TILT=NONE\none", "expected a number"),
    ] {
        assert!(Luminaire::parse(bad).expect_err("refused").contains(says), "{bad}");
    }
}
