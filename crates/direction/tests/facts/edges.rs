//! Edges and bands: shadows of a disc and of a strip, blinds, and how softly a cast shadow ends.

use crate::{on, picture, turned};
use direction::{cast, pattern, penumbra};
use proptest::prelude::*;
use std::f64::consts::PI;

/// Share of a unit disc on one side of a chord (circular segment, any table of integrals).
fn segment(u: f64) -> f64 {
    let u = u.clamp(-1.0, 1.0);
    0.5 + (u * (1.0 - u * u).sqrt() + u.asin()) / PI
}

#[test]
fn the_sun_behind_an_edge_a_metre_off_draws_nine_millimetres() {
    // the sun is 0.53 degrees wide: 2 x 1 m x tan(0.265 deg) = 9.25 mm from light to dark (almanacs; geometry). At 4 px per mm 37 px.
    let full = 4000.0 * 2.0 * 0.265f64.to_radians().tan();
    let photo = picture(|x, _| 0.1 + 0.6 * segment((x - 120.0) / (full / 2.0)));
    let r = penumbra::read(&photo, [60.0, 100.0], [180.0, 100.0], Some(1.0), Some(4000.0)).expect("an edge");
    let (angle, sd) = r.angle.expect("an angle");
    assert!((angle.to_degrees() / 0.53).ln().abs() < 0.06f64.max(2.0 * sd), "{}", angle.to_degrees());
    // of the whole width 0.687 lie between a tenth and nine tenths
    assert!((r.width_px / (0.687 * full)).ln().abs() < 0.05, "{} for {}", r.width_px, 0.687 * full);
    assert!((r.step_stops - (0.7f64 / 0.1).log2()).abs() < 0.1);
    assert!(!r.unresolved);
}

#[test]
fn a_sharp_edge_is_an_upper_bound_and_no_edge_is_none() {
    let photo = picture(|x, _| if x < 120.0 { 0.1 } else { 0.6 });
    let r = penumbra::read(&photo, [90.0, 100.0], [150.0, 100.0], Some(1.0), Some(1000.0)).expect("an edge");
    assert!(r.unresolved && r.width_px < 2.0, "{}", r.width_px);
    let even = picture(|_, _| 0.3);
    assert_eq!(
        penumbra::read(&even, [60.0, 100.0], [180.0, 100.0], None, None).unwrap_err(),
        penumbra::EdgeProblem::NoEdge
    );
    assert_eq!(penumbra::read(&even, [0.0, 0.0], [2.0, 0.0], None, None).unwrap_err(), penumbra::EdgeProblem::Short);
    assert_eq!(
        penumbra::read(&photo, [-90.0, 100.0], [150.0, 100.0], None, None).unwrap_err(),
        penumbra::EdgeProblem::Outside
    );
}

#[test]
fn a_cast_shadow_that_ends_softly_is_known_less_well() {
    // a stick's shadow along a row: it ends at x = 150 over so many pixels
    let end = |soft: f64| picture(move |x, _| 0.55 - 0.4 * (1.0 - segment((x - 150.0) / (soft / 2.0))));
    let points = cast::CastPoints { base: [40.0, 100.0], top: [40.0, 30.0], tip: [150.0, 100.0] };
    let [sharp, soft, softer] = [2.0, 30.0, 80.0].map(|s| cast::PointsSd::of(&end(s), &points));
    assert!(sharp.soft < 1.0 && (sharp.mark - soft.mark).abs() < 1e-12);
    // a fifth of what lies between a tenth and nine tenths
    assert!((soft.soft / (0.2 * 0.687 * 30.0)).ln().abs() < 0.15, "{}", soft.soft);
    assert!(softer.soft > 2.0 * soft.soft);
    let camera = optics::geometry::Camera::from_vfov(240, 200, 30.0, 25.0);
    let [a, b] = [sharp, softer].map(|sd| cast::read(camera, true, points, sd).expect("a shadow"));
    assert!(a.direction.angle(&b.direction) < 1e-12, "the same place");
    assert!(b.direction_sd > 1.5 * a.direction_sd, "{} {}", a.direction_sd, b.direction_sd);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// An edge is as wide however it lies, and wherever on the line.
    #[test]
    fn an_edge_is_as_wide_however_it_lies(deg in -80.0f64..80.0, at in -15.0f64..15.0, full in 8.0f64..60.0) {
        let photo = picture(|x, y| 0.08 + 0.5 * segment((turned(x, y, deg)[0] - at) / (full / 2.0)));
        let r = penumbra::read(&photo, on(-70.0, deg), on(70.0, deg), None, None).map_err(|e| TestCaseError::fail(e.to_string()))?;
        prop_assert!((r.width_px / (0.687 * full)).ln().abs() < 0.12, "{} for {}", r.width_px, 0.687 * full);
        prop_assert!(r.angle.is_none());
    }

    /// Blinds: their spacing, contrast and slant, whatever line crosses them.
    #[test]
    fn blinds_are_counted_and_slanted(run in -60.0f64..60.0, pitch in 14.0f64..30.0, cross in -25.0f64..25.0) {
        // bands run at `run` degrees anticlockwise from level: brightness goes across them
        let across = |x: f64, y: f64| turned(x, y, 90.0 - run)[0];
        let soft = |v: f64| 0.5 + 0.5 * (4.0 * v.sin()).clamp(-1.0, 1.0);
        let photo = picture(|x, y| 0.06 + 0.5 * soft(2.0 * PI * across(x, y) / pitch));
        let line = 90.0 - run + cross;
        let r = pattern::read(&photo, on(-75.0, line), on(75.0, line)).map_err(|e| TestCaseError::fail(e.to_string()))?;
        let spacing = r.spacing_px.expect("several bands");
        prop_assert!((spacing / pitch).ln().abs() < 0.08, "{spacing} for {pitch}");
        prop_assert!(r.unevenness < 0.1);
        let off = (r.run_deg - run + 270.0).rem_euclid(180.0) - 90.0;
        prop_assert!(off.abs() < 6.0, "{} for {run}", r.run_deg);
        prop_assert!((r.contrast_stops - (0.56f64 / 0.06).log2()).abs() < 0.4, "{}", r.contrast_stops);
    }
}

#[test]
fn no_bands_are_no_pattern() {
    let even = picture(|_, _| 0.3);
    assert_eq!(pattern::read(&even, [20.0, 100.0], [220.0, 100.0]).unwrap_err(), pattern::PatternProblem::None);
    assert_eq!(pattern::read(&even, [20.0, 100.0], [22.0, 100.0]).unwrap_err(), pattern::PatternProblem::Short);
    assert_eq!(pattern::read(&even, [-20.0, 100.0], [220.0, 100.0]).unwrap_err(), pattern::PatternProblem::Outside);
}
