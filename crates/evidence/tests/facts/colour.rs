//! Colour temperatures and differences, against colour-science 0.4.7 (PyPI) by
//! `tests/fixtures/make_colour_fixtures.py`.

use optics::colour::{ColourShift, Temperature, planckian_uv, uv_of, xy_of};
use optics::tone::{Encoding, acescct_to_linear, hlg_to_linear};
use optics::units::Kelvin;
use proptest::prelude::*;

fn rows(text: &str) -> Vec<Vec<f64>> {
    text.lines().filter_map(|l| l.split(',').map(|v| v.parse().ok()).collect()).collect()
}

#[test]
fn temperatures_and_duv_are_those_of_the_reference_library() {
    // colour.temperature.uv_to_CCT_Ohno2013, CIE 1931 2 degree observer.
    let rows = rows(include_str!("../../../../tests/fixtures/colour/temperatures.csv"));
    assert_eq!(rows.len(), 66);
    for r in rows {
        let [x, y, kelvin, duv] = r[..] else { panic!() };
        let t = Temperature::of_xy(x, y).unwrap();
        assert!((t.cct.0 - kelvin).abs() < 0.002 * kelvin, "{kelvin} K, Duv {duv}: {t:?}");
        assert!((t.duv - duv).abs() < 2e-4, "{kelvin} K, Duv {duv}: {t:?}");
    }
}

#[test]
fn a_difference_in_mired_survives_the_white_balance() {
    // Two lights on grey through a camera balanced for four whites (Bradford), all by colour-science.
    let rows = rows(include_str!("../../../../tests/fixtures/colour/two_lights.csv"));
    assert_eq!(rows.len(), 36);
    let mut inside = 0;
    for r in &rows {
        let (key, other, duv) = (r[1], r[2], r[3]);
        let Some(s) = ColourShift::between([r[7], r[8], r[9]], [r[4], r[5], r[6]], 0.01) else { continue };
        let want = 1e6 / other - 1e6 / key;
        let off = (s.mired - want).abs();
        // a balance that is not diagonal in these primaries costs some of it
        assert!(off < 12.0 + 0.2 * want.abs(), "white {} key {key} other {other}: {s:?}, want {want:.0}", r[0]);
        inside += usize::from(off <= 2.0 * s.mired_sd);
        if duv == 0.0 {
            assert!(!s.is_coloured() || want.abs() > 100.0, "{s:?}");
        } else if duv.abs() > 0.015 {
            assert!(s.is_coloured() && s.duv * duv > 0.0, "{duv}: {s:?}");
        }
    }
    assert!(inside * 10 >= rows.len() * 8, "{inside} of {}", rows.len());
}

#[test]
fn one_light_against_itself_has_no_difference() {
    let s = ColourShift::between([0.4, 0.5, 0.3], [0.4, 0.5, 0.3], 0.01).unwrap();
    assert!(s.mired.abs() < 1.0 && s.duv.abs() < 0.001, "{s:?}");
    assert!(ColourShift::between([0.0, 0.5, 0.3], [0.4, 0.5, 0.3], 0.01).is_none());
}

#[test]
fn illuminant_a_lies_on_the_locus() {
    // CIE 015: illuminant A is a black body of 2855.5 K, x 0.44757, y 0.40745.
    let (u, v) = planckian_uv(Kelvin(2855.5));
    let (x, y) = xy_of(u, v);
    assert!((x - 0.447_57).abs() < 1e-4 && (y - 0.407_45).abs() < 1e-4, "{x} {y}");
}

/// A card of 18 % under a lamp the balance was not set for: black bodies of 4493 and 5600 K against one another in linear
/// sRGB (Kang et al. 2002), +44 mired.
#[test]
fn a_grey_card_tells_the_white_balance() {
    use evidence::marks::{Mark, MarkKind, Marks, Patch, PatchRole};
    let polygon = vec![[10.0, 10.0], [50.0, 10.0], [50.0, 50.0], [10.0, 50.0]];
    let card = Mark {
        id: "card".into(),
        off: false,
        kind: MarkKind::Patch(Patch { role: PatchRole::Grey18, polygon }),
        other: Default::default(),
    };
    let marks = Marks { marks: vec![card], ..Marks::default() };
    let read = |rgb: [f64; 3]| {
        let row = rgb.map(|v| (255.0 * optics::tone::linear_to_srgb(0.18 * v)).round() as u8);
        let data = row.iter().copied().cycle().take(60 * 60 * 3).collect();
        let photo =
            optics::photo::Photo::new(60, 60, optics::photo::Samples::U8(data), &optics::tone::Encoding::Srgb).unwrap();
        evidence::read::read(&photo, &marks, None, &|| &[]).colours.remove(0)
    };
    let warm = read([1.184, 1.0, 0.761]);
    assert!((warm.mired - 44.0).abs() < 6.0 && warm.says.contains("shift it by -"), "{}", warm.says);
    let neutral = read([1.0; 3]);
    assert!(neutral.filter_mired.is_none() && neutral.says.contains("is right"), "{}", neutral.says);
    let green = read([0.9, 1.15, 0.9]);
    assert!(green.filter_mired.is_none() && green.says.contains("too green"), "{}", green.says);
}

#[test]
fn log_frames_decode_as_their_standards_say() {
    // ITU-R BT.2100-2: 0.5 is 1/12, full signal 1. Academy S-2016-001: 18 % grey is coded 0.4135884.
    assert!((hlg_to_linear(0.5) - 1.0 / 12.0).abs() < 1e-9);
    assert!((hlg_to_linear(1.0) - 1.0).abs() < 1e-6);
    // colour-science 0.4.7: oetf_inverse_BT2100_HLG(0.9), log_decoding_ACEScct(0.6 and 0.2)
    assert!((hlg_to_linear(0.9) - 0.581_837_59).abs() < 1e-6);
    assert!((acescct_to_linear(0.413_588_4) - 0.18).abs() < 1e-6);
    assert!((acescct_to_linear(0.6) - 1.731_473_13).abs() < 1e-6);
    assert!((acescct_to_linear(0.2) - 0.013_452_33).abs() < 1e-6);
    // reference white of hybrid log-gamma is 75 % signal (ITU-R BT.2408)
    assert!((Encoding::Hlg.to_linear(0.75) - 1.0).abs() < 1e-9);
}

proptest! {
    #[test]
    fn chromaticities_go_there_and_back(x in 0.2f64..0.6, y in 0.2f64..0.5) {
        let (u, v) = uv_of(x, y);
        let (a, b) = xy_of(u, v);
        prop_assert!((a - x).abs() < 1e-12 && (b - y).abs() < 1e-12);
    }

    #[test]
    fn a_black_body_has_its_own_temperature(k in 1500f64..15000.0) {
        let (u, v) = planckian_uv(Kelvin(k));
        let (x, y) = xy_of(u, v);
        let t = Temperature::of_xy(x, y).unwrap();
        prop_assert!((t.cct.0 - k).abs() < 0.001 * k && t.duv.abs() < 1e-4, "{t:?}");
    }
}
