//! The settings cameras have: apertures, times and speeds in thirds of a stop as engraved, and the exact values they stand for.
//!
//! Engraved numbers are rounded; exposure goes by the exact ones, a third of a stop apart (ISO 517 and ISO 12232 for the series,
//! common practice for the rounding).

use crate::units::{FNumber, Stops};

/// Apertures from f/0.7 in thirds of a stop.
const APERTURES: [f64; 40] = [
    0.7, 0.8, 0.9, 1.0, 1.1, 1.2, 1.4, 1.6, 1.8, 2.0, 2.2, 2.5, 2.8, 3.2, 3.5, 4.0, 4.5, 5.0, 5.6, 6.3, 7.1, 8.0, 9.0,
    10.0, 11.0, 13.0, 14.0, 16.0, 18.0, 20.0, 22.0, 25.0, 29.0, 32.0, 36.0, 40.0, 45.0, 51.0, 57.0, 64.0,
];
/// One over times from 1/8000 s to 1/4 s in thirds of a stop.
const PARTS: [f64; 34] = [
    8000.0, 6400.0, 5000.0, 4000.0, 3200.0, 2500.0, 2000.0, 1600.0, 1250.0, 1000.0, 800.0, 640.0, 500.0, 400.0, 320.0,
    250.0, 200.0, 160.0, 125.0, 100.0, 80.0, 60.0, 50.0, 40.0, 30.0, 25.0, 20.0, 15.0, 13.0, 10.0, 8.0, 6.0, 5.0, 4.0,
];
/// Times from 0.3 s to 30 s in thirds of a stop.
const SECONDS: [f64; 21] =
    [0.3, 0.4, 0.5, 0.6, 0.8, 1.0, 1.3, 1.6, 2.0, 2.5, 3.2, 4.0, 5.0, 6.0, 8.0, 10.0, 13.0, 15.0, 20.0, 25.0, 30.0];
/// Speeds from ISO 25 in thirds of a stop.
const SPEEDS: [f64; 37] = [
    25.0, 32.0, 40.0, 50.0, 64.0, 80.0, 100.0, 125.0, 160.0, 200.0, 250.0, 320.0, 400.0, 500.0, 640.0, 800.0, 1000.0,
    1250.0, 1600.0, 2000.0, 2500.0, 3200.0, 4000.0, 5000.0, 6400.0, 8000.0, 10000.0, 12800.0, 16000.0, 20000.0,
    25600.0, 32000.0, 40000.0, 51200.0, 64000.0, 80000.0, 102_400.0,
];

/// The engraved value a number of thirds from the first, or none beyond the series.
fn at(series: &[f64], third: f64) -> Option<f64> {
    usize::try_from(third.round() as i64).ok().and_then(|k| series.get(k)).copied()
}

fn thirds_of_aperture(n: f64) -> f64 {
    6.0 * n.log2() + 3.0
}

fn thirds_of_time(seconds: f64) -> f64 {
    3.0 * (seconds * 8192.0).log2()
}

fn thirds_of_speed(iso: f64) -> f64 {
    3.0 * (iso / 25.0).log2()
}

/// The engraved aperture nearest to an exact one; the exact one, to a tenth, beyond f/0.7 and f/64.
pub fn aperture(exact: FNumber) -> f64 {
    at(&APERTURES, thirds_of_aperture(exact.0)).unwrap_or((exact.0 * 10.0).round() / 10.0)
}

/// The engraved time nearest to one in seconds, in seconds; the time itself beyond 1/8000 s and 30 s.
pub fn time(seconds: f64) -> f64 {
    time_at(thirds_of_time(seconds)).unwrap_or(seconds)
}

fn time_at(third: f64) -> Option<f64> {
    let parts = PARTS.len() as f64;
    if third.round() < parts { at(&PARTS, third).map(|p| 1.0 / p) } else { at(&SECONDS, third - parts) }
}

/// The engraved speed nearest to one; the speed itself beyond ISO 25 and 102 400.
pub fn speed(iso: f64) -> f64 {
    at(&SPEEDS, thirds_of_speed(iso)).unwrap_or(iso)
}

/// The engraved aperture that lets in at least `more` stops more light than one; none if no lens opens so far as `widest`.
pub fn wider(n: f64, more: Stops, widest: f64) -> Option<f64> {
    let third = (thirds_of_aperture(n).round() - 3.0 * more.0 + SLACK).floor();
    at(&APERTURES, third).filter(|a| *a >= widest)
}

/// The engraved time that lets in at least `more` stops more light than one, in seconds; none beyond `longest`.
pub fn longer(seconds: f64, more: Stops, longest: f64) -> Option<f64> {
    let third = (thirds_of_time(seconds).round() + 3.0 * more.0 - SLACK).ceil();
    time_at(third).filter(|t| *t <= longest * 1.001)
}

/// The engraved speed at least `more` stops over one; none beyond `fastest`.
pub fn faster(iso: f64, more: Stops, fastest: f64) -> Option<f64> {
    let third = (thirds_of_speed(iso).round() + 3.0 * more.0 - SLACK).ceil();
    at(&SPEEDS, third).filter(|s| *s <= fastest)
}

/// Thirds of a stop by which a step may fall short: nobody sees them.
const SLACK: f64 = 0.2;

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Engraved numbers are their own nearest, all through the series.
    #[test]
    fn engraved_numbers_stay() {
        assert!(APERTURES.iter().all(|n| aperture(FNumber(*n)) == *n));
        assert!(PARTS.iter().all(|p| (time(1.0 / p) * p - 1.0).abs() < 1e-9));
        assert!(SECONDS.iter().all(|s| time(*s) == *s));
        assert!(SPEEDS.iter().all(|s| speed(*s) == *s));
    }

    /// From memory: full stops of lenses, shutters and films.
    #[test]
    fn whole_stops_are_three_steps() {
        assert_eq!(wider(8.0, Stops(1.0), 1.0), Some(5.6));
        assert_eq!(wider(5.6, Stops(2.0), 1.0), Some(2.8));
        assert_eq!(longer(1.0 / 125.0, Stops(1.0), 1.0), Some(1.0 / 60.0));
        assert_eq!(longer(1.0 / 4.0, Stops(2.0), 2.0), Some(1.0));
        assert_eq!(faster(100.0, Stops(1.0), 6400.0), Some(200.0));
        assert_eq!(faster(125.0, Stops(1.0 / 3.0), 6400.0), Some(160.0));
        // odd settings never come out: f/0.9 for a lens that opens to 1.4, ISO 3760, 0.3 s of a sitter
        assert_eq!(wider(2.8, Stops(3.3), 1.4), None);
        assert_eq!(faster(400.0, Stops(3.23), 6400.0), Some(4000.0));
        assert_eq!(longer(1.0 / 60.0, Stops(4.0), 1.0 / 50.0), None);
    }

    proptest! {
        /// What is nearest lies within a sixth of a stop (and what rounding to two digits adds).
        #[test]
        fn nearest_is_near(n in 0.75f64..60.0, t in 0.0002f64..28.0, iso in 26.0f64..100_000.0) {
            prop_assert!(2.0 * (aperture(FNumber(n)) / n).log2().abs() < 0.31);
            prop_assert!((time(t) / t).log2().abs() < 0.34, "{t} to {}", time(t));
            prop_assert!((speed(iso) / iso).log2().abs() < 0.21);
        }

        /// More light is given as asked, or nothing is named.
        #[test]
        fn at_least_what_is_asked(k in 9usize..30, more in 0.0f64..5.0) {
            let n = APERTURES[k];
            if let Some(w) = wider(n, Stops(more), 0.7) {
                prop_assert!(2.0 * (n / w).log2() > more - 0.25);
                prop_assert!(2.0 * (n / w).log2() < more + 0.6);
            }
        }
    }
}
