//! What one picture shows, on pictures whose truth is drawn.

use crate::drawn;
use proptest::prelude::*;

/// A dark thing before grey: its box within half a percent of the frame, though it stands in a soft shadow that is darker than the
/// step from the one to the other at places.
#[test]
fn a_thing_is_found_on_its_shadow() {
    let s = drawn([800, 1000], [300.0, 300.0], [480.0, 780.0], 0.0, [0.05, 0.04, 0.04]).subject.expect("a thing");
    assert!((s.base_px - 780.0).abs() < 6.0 && (s.length_px - 480.0).abs() < 9.0, "{s:?}");
    assert!((s.middle_px - 390.0).abs() < 4.0 && !s.cut, "{s:?}");
    assert!(s.lean_deg.is_some_and(|l| l.abs() < 0.3), "{s:?}");
}

#[test]
fn what_reaches_the_frame_is_said_to() {
    let s = drawn([800, 1000], [300.0, -50.0], [480.0, 780.0], 0.0, [0.05, 0.04, 0.04]);
    assert!(s.subject.is_none_or(|s| s.cut), "{s:?}");
}

/// Nothing but a soft shadow is nothing.
#[test]
fn an_empty_table_shows_no_thing() {
    let s = drawn([800, 1000], [400.0, 780.0], [400.0, 780.0], 0.0, [0.4, 0.4, 0.4]);
    assert!(s.subject.is_none(), "{s:?}");
}

#[test]
fn the_background_is_metered() {
    let g = drawn([800, 1000], [300.0, 300.0], [480.0, 780.0], 0.0, [0.05, 0.04, 0.04]).ground.expect("a ground");
    // 0.4 in the middle: 1.15 stops over middle grey; right over left about (0.425 over 0.375)
    assert!((g.level_stops - (0.4f64 / 0.18).log2()).abs() < 0.1, "{g:?}");
    assert!((g.across_stops - (0.425f64 / 0.375).log2()).abs() < 0.08, "{g:?}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]
    /// Wherever it stands and however it leans, both are told.
    #[test]
    fn lean_and_foot_are_told(lean in -4.0f64..4.0, foot in 700.0f64..860.0, x in 260.0f64..420.0) {
        let s = drawn([800, 1000], [x, foot - 480.0], [x + 150.0, foot], lean, [0.06, 0.05, 0.03]).subject.expect("a thing");
        let told = s.lean_deg.expect("a lean");
        prop_assert!((told - lean).abs() < 0.6, "{told} for {lean}");
        // the lower corner of what leans lies lower
        let low = foot + 75.0 * lean.to_radians().sin().abs();
        prop_assert!((s.base_px - low).abs() < 8.0, "{} for {low}", s.base_px);
    }
}
