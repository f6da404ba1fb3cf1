//! A plate that was moved is named with its shift, whatever its lamp.

use crate::mixing::{LAMPS, lit, taken};
use optics::photo::{Photo, Samples};
use optics::tone::{Encoding, linear_to_srgb};
use plates::light::Light;
use plates::register::{in_sum, lies};

const W: u32 = 900;
const H: u32 = 680;

/// A larger picture of a thing with many edges, seen from a little aside: shifted right and down, turned and scaled about its middle.
fn seen(lamp: usize, [right, down]: [f64; 2], turn_deg: f64, scale: f64) -> Photo {
    let (s, c) = turn_deg.to_radians().sin_cos();
    let mut bytes = Vec::new();
    for i in 0..W * H {
        let (px, py) =
            (f64::from(i % W) + 0.5 - f64::from(W) / 2.0 - right, f64::from(i / W) + 0.5 - f64::from(H) / 2.0 - down);
        // where this pixel was before the camera was touched
        let (x, y) = ((c * px + s * py) / scale + f64::from(W) / 2.0, (c * py - s * px) / scale + f64::from(H) / 2.0);
        let v = lit(LAMPS[lamp], x * 240.0 / 900.0, y * 180.0 / 680.0) * 0.8 + 0.02;
        // boxes of other paint, their edges a pixel wide
        let stripe = |v: f64, k: f64| 0.5 + 0.5 * ((v / k).sin() * 9.0).clamp(-1.0, 1.0);
        let paint = 0.4 + 0.6 * stripe(x + 0.3 * y, 23.0) * stripe(y - 0.2 * x, 31.0);
        let b = (255.0 * linear_to_srgb((v * paint).clamp(0.0, 1.0))).round() as u8;
        bytes.extend([b; 3]);
    }
    Photo::new(W, H, Samples::U8(bytes), &Encoding::default()).expect("a picture")
}

#[test]
fn a_shift_is_found_in_parts_of_a_pixel_under_another_light() {
    for (lamp, shift) in [(1, [0.6, -0.4]), (2, [3.3, 1.8]), (3, [-12.5, 7.25]), (1, [41.0, -20.0])] {
        let found = lies(&seen(0, [0.0; 2], 0.0, 1.0), &seen(lamp, shift, 0.0, 1.0)).expect("laid over");
        let off = (found.right_px - shift[0]).hypot(found.down_px - shift[1]);
        assert!(off < 0.15, "lamp {lamp}, {shift:?}: {found:?}");
        assert!(found.moved());
    }
}

#[test]
fn a_turn_and_a_breathing_lens_are_found_too() {
    let found = lies(&seen(0, [0.0; 2], 0.0, 1.0), &seen(2, [1.0, -2.0], 0.3, 1.004)).expect("laid over");
    assert!((found.turn_deg - 0.3).abs() < 0.03, "{found:?}");
    assert!((found.scale - 1.004).abs() < 8e-4, "{found:?}");
    assert!((found.right_px - 1.0).hypot(found.down_px + 2.0) < 0.2, "{found:?}");
}

/// A picture that holds the sum of four lamps tells where each plate lies, smooth as it may be (light adds).
#[test]
fn a_sum_tells_where_each_of_its_plates_lies() {
    let shifts = [[0.0, 0.0], [1.3, -0.7], [0.0, 0.0], [-5.25, 3.5]];
    let pictures: Vec<Photo> = (0..4).map(|k| seen(k, [0.0; 2], 0.0, 1.0)).collect();
    let sum: Vec<f32> = (0..W * H)
        .flat_map(|i| {
            (0..3).map(|c| 0.3 * pictures.iter().map(|p| p.rgb(i % W, i / W)[c]).sum::<f32>()).collect::<Vec<_>>()
        })
        .collect();
    let all = Light::of(&Photo::new(W, H, Samples::Linear(sum), &Encoding::default()).expect("a picture"), 1);
    let plates: Vec<Light> = shifts.iter().enumerate().map(|(k, s)| Light::of(&seen(k, *s, 0.0, 1.0), 1)).collect();
    let lie = in_sum(&all, &plates.iter().collect::<Vec<_>>(), None);
    for (k, (found, s)) in lie.iter().zip(shifts).enumerate() {
        let l = found.unwrap_or_else(|| panic!("plate {k} cannot be told"));
        assert!((l.right_px - s[0]).hypot(l.down_px - s[1]) < 0.15, "{k}: {l:?} {s:?}");
        assert_eq!(l.moved(), s != [0.0; 2], "{k}: {l:?}");
        // put back, it is the plate that was not moved
        let back = l.back(&seen(k, s, 0.0, 1.0), 1);
        let plain = Light::of(&pictures[k], 1);
        let off = (0..plain.len()).step_by(13).filter(|i| !back.clipped[*i]);
        let off: Vec<f64> = off.map(|i| f64::from((back.luminance(i) - plain.luminance(i)).abs())).collect();
        assert!(off.iter().sum::<f64>() / (off.len() as f64) < 0.01, "{k}");
    }
}

#[test]
fn what_was_not_moved_is_not_said_to_be() {
    for lamp in 1..4 {
        let found = lies(&seen(0, [0.0; 2], 0.0, 1.0), &seen(lamp, [0.0; 2], 0.0, 1.0)).expect("laid over");
        assert!(!found.moved(), "{lamp}: {found:?}");
    }
}

#[test]
fn nothing_to_lay_over_is_said() {
    let grey = taken(|_, _| 0.2, 1e9, 1);
    let other = taken(|x, y| lit(LAMPS[0], x, y), 1e9, 2);
    assert!(lies(&grey, &grey).unwrap_err().contains("too little"));
    assert!(lies(&seen(0, [0.0; 2], 0.0, 1.0), &other).unwrap_err().contains("cannot be laid over"));
}
