//! Crops that bring pictures to one scale on one line.

use crate::{drawn, members, usual};
use evidence::marks::Marks;
use optics::photo::{Photo, Samples};
use optics::tone::Encoding;
use series::{common, cut, report, shot_list, shown};

/// An upright picture of two to three widened to four to five at the same height is 1.2 times as wide (0.8 over 0.667; common practice).
#[test]
fn a_list_of_four_to_five_is_wider_than_two_to_three() {
    let [w, h] = shot_list("footwear").expect("a list").aspect;
    assert!(((w / h) / (2.0 / 3.0) - 1.2).abs() < 1e-9);
}

#[test]
fn crops_share_scale_line_and_middle() {
    let list = shot_list("bottle").expect("a list");
    let m = members(&["front", "turned", "back"], |k, s| {
        let s = s.subject.as_mut().unwrap();
        s.length_px *= [1.0, 1.1, 0.92][k];
        s.base_px -= [0.0, 15.0, -20.0][k];
        s.middle_px += [0.0, 9.0, -14.0][k];
    });
    let r = report(list, &m, &[]);
    let told: Vec<[f64; 3]> = m
        .iter()
        .zip(&r.crops)
        .map(|(m, c)| {
            let (s, c) = (m.shown.subject.expect("a subject"), c.expect("a crop"));
            assert!((c.width / c.height - 0.8).abs() < 1e-9);
            // height, base over the lower edge and middle, of the crop
            let base = 0.5 - (s.base_px - c.middle[1]) / c.height;
            [s.length_px / c.height, base, (s.middle_px - c.middle[0]) / c.width]
        })
        .collect();
    for t in &told {
        assert!(
            (t[0] - told[0][0]).abs() < 1e-9 && (t[1] - list.base_percent / 100.0).abs() < 1e-9 && t[2].abs() < 1e-9,
            "{told:?}"
        );
    }
}

/// Cropped and measured again, a thing that leaned and stood low stands upright on the line (its own pixels, by the same eye).
#[test]
fn a_cropped_picture_is_upright_on_its_line() {
    let list = shot_list("bottle").expect("a list");
    let before = drawn([800, 1000], [330.0, 330.0], [470.0, 800.0], 3.0, [0.05, 0.04, 0.03]);
    let crop = common(list, &[(&before, true, true)])[0].expect("a crop");
    assert!((crop.turn_deg - 3.0).abs() < 0.6, "{crop:?}");
    // the same picture as a photo
    let (w, h) = (800, 1000);
    let lean = 3f64.to_radians();
    let mut samples = Vec::new();
    for y in 0..h {
        for x in 0..w {
            let (dx, dy) = (f64::from(x) + 0.5 - 400.0, f64::from(y) + 0.5 - 800.0);
            let (u, v) = (lean.cos() * dx + lean.sin() * dy, -lean.sin() * dx + lean.cos() * dy);
            samples.extend([if u.abs() < 70.0 && v < 0.0 && v > -470.0 { 0.04f32 } else { 0.4 }; 3]);
        }
    }
    let photo = Photo::new(w, h, Samples::Linear(samples), &Encoding::Linear).expect("a picture");
    let bytes = cut(&photo, &crop, 400, 500);
    let photo = Photo::new(400, 500, Samples::U8(bytes), &Encoding::Srgb).expect("a picture");
    let s = shown(&photo, &Marks::default(), &[]).subject.expect("a thing");
    assert!(s.lean_deg.is_some_and(|l| l.abs() < 0.5), "{s:?}");
    assert!((1.0 - s.base_px / 500.0 - list.base_percent / 100.0).abs() < 0.02, "{s:?}");
}

/// Where there is no room about a subject, the subjects are made larger in all; what still lies beyond is said.
#[test]
fn crops_that_reach_beyond_are_said_to() {
    let list = shot_list("bottle").expect("a list");
    let mut s = usual();
    let q = s.subject.as_mut().expect("a subject");
    (q.base_px, q.length_px) = (985.0, 700.0);
    let crop = common(list, &[(&s, true, true)])[0].expect("a crop");
    assert!(crop.beyond > 0.0, "{crop:?}");
    let m = members(&["front", "back", "turned"], |k, t| {
        if k == 0 {
            *t = s.clone();
        }
    });
    let r = report(list, &m, &[]);
    assert!(r.says.iter().any(|s| s.contains("beyond")), "{:?}", r.says);
}
