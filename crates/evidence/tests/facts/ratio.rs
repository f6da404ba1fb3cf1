//! The contrast on the subject and the lighting ratio: two quantities, one of which bounds the other.

use evidence::levels::{Contrast, Filled, Reached, fill_by_patches, ratios};
use evidence::readings::RatioFrom;
use optics::ratio::{LevelSpread, LightingRatio, together};
use proptest::prelude::*;

fn level(stops: f64, sd_stops: f64) -> LevelSpread {
    LevelSpread { stops, sd_stops }
}

fn patches(stops: f64) -> Contrast {
    Contrast { stops, range_stops: [stops - 0.3, stops + 0.3], evidence: vec!["lit".into(), "shadow".into()] }
}

fn filled(stops: f64) -> Filled {
    Filled { level: level(stops, 0.4), bound: false, evidence: vec!["face".into()] }
}

#[test]
fn a_fill_two_stops_under_is_four_to_one_and_five_to_one() {
    // Common practice: a meter shows two stops between key alone and fill alone, 4 : 1 in the one school; both together
    // against the fill are 5 : 1 in the other.
    let r = LightingRatio::over(level(-2.0, 0.1));
    assert!((r.key_to_fill - 4.0).abs() < 1e-12 && (r.key_plus_fill_to_fill - 5.0).abs() < 1e-12);
    assert!((r.key_over_fill_stops - 2.0).abs() < 1e-12);
    // 1.96 standard deviations of 0.1 stop to either side
    assert!((r.key_to_fill_range[0] - 4.0 * (-0.196f64).exp2()).abs() < 1e-9);
}

#[test]
fn two_equal_fills_are_one_a_stop_stronger() {
    // Light adds: twice as much is one stop (definition).
    let all = together(&[level(-3.0, 0.2), level(-3.0, 0.2)]).unwrap();
    assert!((all.stops + 2.0).abs() < 1e-12);
    // independent errors of equal parts: 0.2 / sqrt 2
    assert!((all.sd_stops - 0.2 / std::f64::consts::SQRT_2).abs() < 1e-12);
    assert!(together(&[]).is_none());
}

#[test]
fn two_patches_alone_bound_the_ratio_from_below() {
    // A shadow patch that the key does not reach holds the fill alone: 2 stops are (3 + 1) : 1 (common practice). If the
    // key reaches it too, the fill is less and the ratio more.
    let r = ratios(Some(&patches(2.0)), None, None).unwrap();
    assert!(r.at_least && r.ratio_from == RatioFrom::Patches);
    assert!((r.key_to_fill - 3.0).abs() < 1e-9 && (r.key_plus_fill_to_fill - 4.0).abs() < 1e-9);
    assert!(r.key_to_fill_range[0] < 3.0 && r.key_to_fill_range[1] > 26.0);
    assert!(r.says.contains("or more"), "{}", r.says);
    assert!((r.lit_to_shadow_stops - 2.0).abs() < 1e-12);
}

#[test]
fn a_frontal_key_over_both_patches_is_no_ratio_under_one() {
    // Half a stop between two patches that both face a key over the lens: 2^0.5 - 1 = 0.4 was once told as the ratio.
    let r = ratios(Some(&patches(0.5)), None, None).unwrap();
    assert!(r.key_to_fill >= 1.0 && r.key_to_fill_range[0] >= 1.0, "{r:?}");
    // with the lights read, they tell it, and the patches stay what they are: contrast
    let r = ratios(Some(&patches(0.5)), Some(&filled(-4.7)), None).unwrap();
    assert!((r.key_to_fill - 26.0).abs() < 0.1 && r.ratio_from == RatioFrom::Lights && !r.at_least);
    assert!((r.lit_to_shadow_stops - 0.5).abs() < 1e-12 && r.contrast_from == RatioFrom::Patches);
}

#[test]
fn what_would_have_been_seen_bounds_the_ratio_where_nothing_fills() {
    // A fill of four stops under the key or more would have been read: 2^4 : 1 at the least (definition).
    let dark = Filled { level: level(-4.0, 0.0), bound: true, evidence: vec!["face".into()] };
    for c in [None, Some(patches(1.4))] {
        let r = ratios(c.as_ref(), Some(&dark), None).unwrap();
        assert!(r.at_least && r.ratio_from == RatioFrom::Lights, "{r:?}");
        assert!((r.key_to_fill_range[0] - 16.0).abs() < 1e-9 && r.key_to_fill_range[1] >= 64.0, "{r:?}");
        assert!((r.key_plus_fill_to_fill_range[0] - 17.0).abs() < 1e-9);
        assert!(r.says.contains("16 : 1 or more"), "{}", r.says);
    }
}

#[test]
fn without_patches_the_contrast_is_what_the_lights_give() {
    let r = ratios(None, Some(&filled(-2.0)), None).unwrap();
    assert!((r.lit_to_shadow_stops - 5f64.log2()).abs() < 1e-9 && r.contrast_from == RatioFrom::Lights);
    assert!(ratios(None, None, None).is_none());
}

#[test]
fn patches_of_known_shading_sharpen_what_the_lights_say() {
    // The key at cosine 0.9 on the one patch and 0.2 on the other, a fill of 1/4 that reaches both in full:
    // log2((0.9 + 0.25) / (0.2 + 0.25)) = 1.354 stops.
    let (lit, shadow) = (Reached { key: 0.9, fill: 1.0 }, Reached { key: 0.2, fill: 1.0 });
    let c = Contrast { stops: 1.3536, range_stops: [1.2536, 1.4536], evidence: vec![] };
    let told = fill_by_patches(level(-2.5, 0.7), &c, lit, shadow).unwrap();
    assert!((told.stops + 2.0).abs() < 0.1 && told.sd_stops < 0.3, "{told:?}");
    // by 2^d - 1 the same patches would say 1.56 : 1, and the meter shows 4 : 1
    let r = ratios(
        Some(&c),
        Some(&Filled { level: level(-2.5, 0.7), bound: false, evidence: vec![] }),
        Some([lit, shadow]),
    )
    .unwrap();
    assert!(r.ratio_from == RatioFrom::Both && (r.key_to_fill - 4.0).abs() < 0.3, "{r:?}");
    // patches that no fill explains contradict, and the spread grows
    let odd = Contrast { stops: -1.5, range_stops: [-1.6, -1.4], evidence: vec![] };
    assert!(fill_by_patches(level(-2.5, 0.4), &odd, lit, shadow).is_none());
    let r = ratios(Some(&odd), Some(&filled(-2.5)), Some([lit, shadow])).unwrap();
    assert!(r.says.contains("do not fit") && r.key_to_fill_range[1] / r.key_to_fill_range[0] > 4.0, "{r:?}");
}

proptest! {
    #[test]
    fn both_schools_differ_by_one_and_ranges_hold_their_value(stops in -8.0..0.0f64, sd in 0.05..2.0f64) {
        let r = LightingRatio::over(level(stops, sd));
        prop_assert!((r.key_plus_fill_to_fill - r.key_to_fill - 1.0).abs() < 1e-9);
        prop_assert!(r.key_to_fill_range[0] < r.key_to_fill && r.key_to_fill < r.key_to_fill_range[1]);
        prop_assert!((r.fill().stops - stops).abs() < 1e-9);
    }

    #[test]
    fn the_bound_by_patches_holds_whatever_the_key_gives_in_the_shadow(
        fill in -6.0..0.0f64, lit in 0.3..1.0f64, shadow in 0.0..0.29f64
    ) {
        let f = fill.exp2();
        let stops = ((lit + f) / (shadow + f)).log2();
        let r = ratios(Some(&Contrast { stops, range_stops: [stops, stops], evidence: vec![] }), None, None).unwrap();
        prop_assert!(r.key_to_fill_range[0] <= (1.0 / f).max(1.0) + 1e-9, "{} {}", r.key_to_fill_range[0], 1.0 / f);
    }
}
