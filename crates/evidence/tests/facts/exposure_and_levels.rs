//! Exposure, tone, colour, ratios.

use evidence::levels::measure;
use optics::colour::{Temperature, chromaticity};
use optics::exposure::*;
use optics::photo::{Photo, Samples};
use optics::tone::*;
use optics::units::*;
use proptest::prelude::*;

fn close(a: f64, b: f64, tolerance: f64) {
    assert!((a - b).abs() <= tolerance, "{a} against {b}");
}

#[test]
fn srgb_transfer_agrees_with_the_standard() {
    // IEC 61966-2-1: 0.04045 / 12.92 = 0.0031308; code 188 of 255 is half the light (from memory:
    // 0.5 encodes as 0.7354); code 119 is about 18.4 %.
    close(srgb_to_linear(0.04045), 0.003_130_8, 1e-7);
    close(linear_to_srgb(0.5), 0.735_36, 1e-5);
    close(srgb_to_linear(119.0 / 255.0), 0.184, 0.001);
    close(srgb_to_linear(1.0), 1.0, 1e-12);
}

#[test]
fn bt709_transfer_agrees_with_the_recommendation() {
    // ITU-R BT.709-6: V = 4.5 L under 0.018; 1.099 L^0.45 - 0.099 above: L = 0.18 gives V = 0.409.
    close(bt709_to_linear(0.081), 0.018, 1e-4);
    close(bt709_to_linear(0.409), 0.18, 0.0005);
}

#[test]
fn sunny_sixteen_is_ev_fifteen() {
    // f/16 at 1/125 and ISO 100 is EV 15 (ISO 2720 EV table; sunny-sixteen rule).
    let s = Settings { f_number: 16.0, shutter_s: 1.0 / 125.0, iso: 100.0 };
    close(s.ev100(), 15.0, 0.05);
    // f/1 at one second is EV 0, by definition
    close(Settings { f_number: 1.0, shutter_s: 1.0, iso: 100.0 }.ev(), 0.0, 1e-12);
    // The same settings at ISO 400 are right for a scene two stops darker.
    close(Settings { iso: 400.0, ..s }.ev100(), 13.0, 0.05);
}

#[test]
fn meter_constants_give_the_handbook_luminances() {
    // ISO 2720, K = 12.5: EV 15 at ISO 100 is 4096 cd/m2 (EV 0 is 0.125). C = 250: EV 0 is 2.5 lux.
    let ev = |ev: f64| Settings { f_number: (ev / 2.0).exp2(), shutter_s: 1.0, iso: 100.0 };
    close(ev(15.0).reflected_luminance(K_REFLECTED), 4096.0, 1e-6);
    close(ev(0.0).reflected_luminance(K_REFLECTED), 0.125, 1e-12);
    close(ev(0.0).incident_lux(C_FLAT), 2.5, 1e-12);
}

#[test]
fn a_third_of_a_stop_takes_iso_125_to_160() {
    // Common practice.
    close(Ratio(160.0 / 125.0).stops().0, 1.0 / 3.0, 0.03);
    close(Ratio(400.0 / 200.0).stops().0, 1.0, 1e-12);
    close(Ratio(1.0 / 0.65).stops().0, 0.62, 0.005);
}

#[test]
fn the_walk_tells_the_distance() {
    // Common practice: f/5.6 at one mark, f/4 a foot and a half further: 3.6 ft from the first.
    let d = distance_from_walk(Metres::from_feet(1.5), Stops(1.0));
    close(d.feet(), 3.62, 0.01);
    // Three feet further back the first mark loses 1.7 stops, and the same walk now costs 0.59.
    let back = Metres(d.0 + Metres::from_feet(3.0).0);
    close(inverse_square_loss(d, back).0, 1.74, 0.01);
    close(inverse_square_loss(back, Metres(back.0 + Metres::from_feet(1.5).0)).0, 0.59, 0.01);
}

#[test]
fn a_light_twice_as_far_gives_a_quarter() {
    // Inverse-square law (Lambert 1760).
    close(inverse_square_loss(Metres(1.0), Metres(2.0)).0, 2.0, 1e-12);
}

#[test]
fn guide_number_scales_with_the_root_of_iso_and_energy() {
    // GN 40 at 5 m is f/8; at ISO 400 f/16; at quarter power f/4 (definition of the guide number).
    close(flash_aperture(40.0, Metres(5.0), 100.0, 1.0).0, 8.0, 1e-12);
    close(flash_aperture(40.0, Metres(5.0), 400.0, 1.0).0, 16.0, 1e-12);
    close(flash_aperture(40.0, Metres(5.0), 100.0, 0.25).0, 4.0, 1e-12);
}

#[test]
fn nominal_apertures_are_the_engraved_ones() {
    // ISO 517: f/5.6 is 4 sqrt 2 exactly, f/11 is 8 sqrt 2, f/3.5 and f/6.3 are third stops.
    for (exact, nominal) in [(5.657, 5.6), (11.31, 11.0), (3.564, 3.5), (6.35, 6.3), (1.414, 1.4), (22.6, 22.0)] {
        close(nominal_f_number(FNumber(exact)), nominal, 1e-12);
    }
    close(stops_between_apertures(FNumber(4.0), FNumber(8.0)).0, 2.0, 1e-12);
}

#[test]
fn d65_and_illuminant_a_have_their_temperatures() {
    // CIE 015: D65 (0.3127, 0.3290) is 6504 K, illuminant A (0.44757, 0.40745) is 2856 K.
    let (x, y) = chromaticity([1.0, 1.0, 1.0]).unwrap();
    close(x, 0.3127, 1e-4);
    close(y, 0.3290, 1e-4);
    let kelvin = |x, y| Temperature::of_xy(x, y).unwrap().cct.0;
    close(kelvin(x, y), 6504.0, 5.0);
    close(kelvin(0.447_57, 0.407_45), 2856.0, 3.0);
    // A gel-green light has no temperature.
    assert!(Temperature::of_xy(0.30, 0.60).is_none());
    // 5600 K against 3200 K: 134 mired (1e6 / T; common practice calls it a full correction)
    close((Kelvin(3200.0).mired() - Kelvin(5600.0).mired()).0, 133.9, 0.1);
}

fn flat(value: u8) -> Photo {
    Photo::new(40, 30, Samples::U8(vec![value; 40 * 30 * 3]), &Encoding::Srgb).unwrap()
}

#[test]
fn code_118_is_middle_grey() {
    // 18 % reflectance encodes as 118 of 255 in sRGB (from memory: 117.6).
    let m = flat(118).meter();
    close(m.median_stops(), 0.0, 0.1);
    let p = measure(&flat(118), &[[5.0, 5.0], [30.0, 5.0], [30.0, 25.0], [5.0, 25.0]]).unwrap();
    close(p.stops_from_grey, 0.0, 0.02);
    assert_eq!(p.pixels, 25 * 20);
}

#[test]
fn clipped_and_black_patches_are_refused_with_a_reason() {
    let square = [[5.0, 5.0], [30.0, 5.0], [30.0, 25.0], [5.0, 25.0]];
    assert!(measure(&flat(255), &square).unwrap_err().to_string().contains("clipped"));
    assert!(measure(&flat(0), &square).unwrap_err().to_string().contains("black"));
    let outside = [[500.0, 5.0], [530.0, 5.0], [530.0, 25.0]];
    assert!(measure(&flat(100), &outside).unwrap_err().to_string().contains("no pixel"));
}

#[test]
fn a_wrong_number_of_samples_is_refused() {
    assert!(Photo::new(10, 10, Samples::U8(vec![0; 299]), &Encoding::Srgb).is_err());
    assert!(Photo::new(0, 10, Samples::U8(vec![]), &Encoding::Srgb).is_err());
}

proptest! {
    #[test]
    fn srgb_survives_the_round_trip(v in 0.0f64..1.0) {
        prop_assert!((linear_to_srgb(srgb_to_linear(v)) - v).abs() < 1e-5);
    }

    #[test]
    fn the_range_over_tone_curves_holds_the_nominal_value(a in 0.01f64..0.9, b in 0.01f64..0.9) {
        let (n, lo, hi) = stops_between(a, b, false);
        prop_assert!(lo <= n && n <= hi);
        let (n, lo, hi) = stops_between(a, b, true);
        prop_assert!(lo == n && n == hi);
    }

    #[test]
    fn tone_curves_keep_the_order_of_tones(a in -6.0f64..2.0, d in 0.05f64..3.0) {
        for t in ToneFamily::ALL {
            prop_assert!(t.scene_stops(a + d) > t.scene_stops(a));
        }
    }

    #[test]
    fn the_meter_s_median_follows_the_exposure(v in 20u8..250) {
        let expect = (srgb_to_linear(f64::from(v) / 255.0) / MIDDLE_GREY).log2();
        prop_assert!((flat(v).meter().median_stops() - expect).abs() < 0.09);
    }
}
