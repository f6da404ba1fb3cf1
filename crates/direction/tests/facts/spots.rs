//! Bright spots: where they are, how large and how strong, and what they are not.

use crate::picture;
use direction::blobs::{Search, Signal, find, from_outline, pixels_inside};
use direction::shapes::Ellipse;
use optics::photo::Photo;
use proptest::prelude::*;

/// The round part of the picture that is searched.
fn region() -> Ellipse {
    Ellipse { centre: [120.0, 100.0], rx: 80.0, ry: 80.0, angle_deg: 0.0 }
}

const SEARCH: Search =
    Search { signal: Signal::Luminance, smooth: 0, lowest_stops: -6.0, most: 6, contrast: 0.5, max_border: 0.9 };

fn spots(photo: &Photo) -> Vec<direction::blobs::Blob> {
    let e = region();
    find(photo, e.centre, 80.0, |x, y| e.level(x, y), SEARCH)
}

/// How much of a pixel a disc covers, by its distance (a soft step over one pixel).
fn disc(x: f64, y: f64, c: [f64; 2], r: f64) -> f64 {
    (r - (x - c[0]).hypot(y - c[1]) + 0.5).clamp(0.0, 1.0)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

    /// A round spot: its centre to a fraction of a pixel, its area as of a circle, its height over the ground.
    #[test]
    fn a_spot_has_its_place_and_area(x in 80.0f64..160.0, y in 60.0f64..140.0, r in 3.0f64..14.0, height in 0.3f64..0.7) {
        let photo = picture(|px, py| 0.05 + height * disc(px, py, [x, y], r));
        let all = spots(&photo);
        prop_assert_eq!(all.len(), 1);
        let b = &all[0];
        prop_assert!((b.centre[0] - x).hypot(b.centre[1] - y) < 0.15 + 3.0 * b.centre_sd, "{:?} for {x} {y}", b.centre);
        let area = std::f64::consts::PI * r * r;
        prop_assert!((b.area / area).ln().abs() < 0.12f64.max(4.0 * b.log_radius_sd), "{} for {area}", b.area);
        prop_assert!((b.height / height).ln().abs() < 0.1, "{} for {height}", b.height);
        prop_assert!(!b.clipped && b.at_border == 0.0);
    }

    /// Two spots that do not touch are two, the stronger first; one far under it is left out.
    #[test]
    fn two_spots_are_two(d in 30.0f64..60.0, under in 0.5f64..3.0) {
        let (a, b) = ([120.0 - d / 2.0, 100.0], [120.0 + d / 2.0, 95.0]);
        let weak = 0.7 * (-under).exp2();
        let photo = picture(|x, y| 0.03 + 0.7 * disc(x, y, a, 7.0) + weak * disc(x, y, b, 7.0));
        let all = spots(&photo);
        prop_assert_eq!(all.len(), 2);
        prop_assert!((all[0].centre[0] - a[0]).abs() < 1.0 && (all[1].centre[0] - b[0]).abs() < 1.0);
        prop_assert!(((all[0].height / all[1].height).log2() - under).abs() < 0.15);
    }

    /// Pixels inside a polygon are as many as its area (Gauss's shoelace), give or take its outline.
    #[test]
    fn a_polygon_holds_its_area(x in 40.0f64..100.0, y in 40.0f64..80.0, w in 10.0f64..100.0, h in 10.0f64..80.0, lean in -20.0f64..20.0) {
        let photo = picture(|_, _| 0.2);
        let polygon = [[x, y], [x + w, y], [x + w + lean, y + h], [x + lean, y + h]];
        let n = pixels_inside(&photo, &polygon).len() as f64;
        prop_assert!((n - w * h).abs() < w + h + 8.0, "{n} for {}", w * h);
    }
}

#[test]
fn an_even_region_has_no_spot_and_a_burnt_one_says_so() {
    assert!(spots(&picture(|_, _| 0.3)).is_empty());
    let burnt = picture(|x, y| 0.05 + 3.0 * disc(x, y, [120.0, 100.0], 9.0));
    let all = spots(&burnt);
    assert_eq!(all.len(), 1);
    assert!(all[0].clipped && all[0].log_over.1 > 0.0, "its height is a lower bound");
    // what lies outside the region does not count
    let beside = picture(|x, y| 0.05 + 0.6 * disc(x, y, [225.0, 100.0], 8.0));
    assert!(spots(&beside).is_empty());
}

#[test]
fn a_spot_drawn_by_hand_is_what_lies_inside() {
    let photo = picture(|x, y| 0.05 + 0.5 * disc(x, y, [120.0, 100.0], 10.0));
    let round: Vec<[f64; 2]> = (0..40)
        .map(|k| (f64::from(k) * 9.0).to_radians())
        .map(|a| [120.0 + 10.0 * a.cos(), 100.0 + 10.0 * a.sin()])
        .collect();
    let b = from_outline(&photo, &round).expect("a spot");
    assert!((b.centre[0] - 120.0).abs() < 0.3 && (b.centre[1] - 100.0).abs() < 0.3);
    assert!((b.area / (std::f64::consts::PI * 100.0)).ln().abs() < 0.06);
    assert!(from_outline(&photo, &[[500.0, 500.0], [510.0, 500.0], [505.0, 510.0]]).is_none());
}
