//! Slits, blinds and leaves: shadows of opaque edges by similar triangles (any textbook of optics), traced point by point.

use crate::{metered, set};
use lightset::cutter::{Band, bands, cutter, cutter_beside};
use lightset::doors::doors;
use lightset::set::FlagPattern;
use optics::geometry::{Vec3, upright};
use proptest::prelude::*;
use serde_json::json;

const UP: f64 = 1.0;

/// Share of a lamp's height that a place `y` over the aim sees through an opening, traced ray by ray in the plane of lamp, opening and aim.
fn seen(y: f64, lamp_m: f64, high: f64, from_subject_m: f64, opening: f64) -> f64 {
    let parts = 2000;
    let through = (0..parts).filter(|k| {
        let l = high * ((f64::from(*k) + 0.5) / f64::from(parts) - 0.5);
        let at = y + (l - y) * from_subject_m / lamp_m;
        at.abs() < opening / 2.0
    });
    through.count() as f64 / f64::from(parts)
}

#[test]
fn a_slit_halfway_gives_a_band_twice_as_high() {
    // a lamp far from a slit halfway: o (a + b) / a = 2 o, edges as wide as the face is high (b = a)
    let light = metered([0.0, 0.0, 2.0], 0.1);
    let c = cutter(&light, &Band { at_m: [0.0; 3], height_m: 0.04, edge_m: 0.1, apart_m: None }).expect("a slit");
    assert!((c.from_light_m - 1.0).abs() < 1e-9 && (c.from_subject_m - 1.0).abs() < 1e-9);
    assert!((c.opening_m - 0.02).abs() < 1e-9);
    // its edges meet: of the face the middle sees 4 parts in 10
    assert!((c.loses_stops - (10.0f64 / 4.0).log2()).abs() < 1e-9);
    assert!(c.says.iter().any(|s| s.contains("edges meet")));
}

#[test]
fn what_has_no_room_says_why() {
    let near = metered([0.0, 0.0, 0.3], 0.1);
    let band = |height_m: f64, edge_m: f64| Band { at_m: [0.0; 3], height_m, edge_m, apart_m: None };
    assert!(cutter(&near, &band(0.04, 0.05)).unwrap_err().contains("no room"));
    let large = metered([0.0, 0.0, 2.0], 1.0);
    assert!(cutter(&large, &band(0.04, 0.01)).unwrap_err().contains("a smaller face"));
    let small = metered([0.0, 0.0, 2.0], 0.02);
    assert!(cutter(&small, &band(0.04, 0.9)).unwrap_err().contains("a larger face"));
    assert!(cutter(&small, &band(-1.0, 0.1)).unwrap_err().starts_with("height_m"));
    assert!(cutter(&small, &band(0.1, f64::NAN)).unwrap_err().starts_with("edge_m"));
}

#[test]
fn a_slit_that_would_show_goes_towards_the_lamp() {
    let s = set(json!({}));
    // beside the lens, a little to the right: near the subject the slit stands in the picture
    let light = metered([0.35, 0.0, 1.9], 0.2);
    let band = Band { at_m: [0.0; 3], height_m: 0.05, edge_m: 0.02, apart_m: None };
    let shown = |c: &lightset::cutter::Cutter| {
        lightset::frame::flat_in_frame(&s, &c.flag.position_m, &c.flag.aim_m, [c.flag.width_m, c.flag.height_m])
    };
    let asked = cutter(&light, &band).expect("a slit");
    let beside = cutter_beside(&s, &light, &band).expect("a slit");
    assert!(shown(&asked), "as asked it shows");
    if !shown(&beside) {
        assert!(beside.from_light_m < asked.from_light_m && beside.band.edge_m > band.edge_m);
        assert!(beside.says.iter().any(|t| t.contains("in the picture")));
    }
}

proptest! {
    /// The band a cutter is placed for is what its meter says it leaves, and what rays through it find: half the light at its edges.
    #[test]
    fn a_band_is_left_as_it_is_asked_for(x in -2.0f64..2.0, y in -0.5f64..1.5, z in 0.8f64..2.5, side in 0.05f64..0.6, height in 0.01f64..0.3, edge in 0.01f64..0.5) {
        let light = metered([x, y, z], side);
        let band = Band { at_m: [0.0; 3], height_m: height, edge_m: edge, apart_m: None };
        if let Ok(c) = cutter(&light, &band) {
            let d = Vec3::new(x, y, z).norm();
            prop_assert!((c.from_light_m + c.from_subject_m - d).abs() < 1e-9);
            // similar triangles both ways
            prop_assert!((c.opening_m * d / c.from_light_m - height).abs() < 1e-9);
            prop_assert!((side * c.from_subject_m / c.from_light_m - edge).abs() < 1e-9);
            let told = bands(std::slice::from_ref(&c.flag), std::slice::from_ref(&light));
            prop_assert_eq!(told.len(), 1);
            // places are kept to the millimetre
            prop_assert!((told[0].band.height_m / height - 1.0).abs() < 0.02, "{:?}", told[0].band);
            prop_assert!((told[0].band.edge_m - edge).abs() < 0.02 * edge + 0.003);
            // half of what the middle could see at the edge, all of it gone half an edge further out
            let at = |y: f64| seen(y, d, side, c.from_subject_m, c.opening_m);
            if height > edge {
                prop_assert!((at(height / 2.0) - 0.5).abs() < 0.02);
                prop_assert!(at(0.0) > 0.98);
            }
            prop_assert!(at(height / 2.0 + 0.52 * edge) < 0.02);
            prop_assert!((at(0.0) - (-c.loses_stops).exp2()).abs() < 0.02);
        }
    }

    /// Blinds leave bands of the height and the gap that are asked for, one of them across the aim.
    #[test]
    fn blinds_have_their_bands(side in 0.05f64..0.3, height in 0.02f64..0.1, apart in 0.02f64..0.1, edge in 0.02f64..0.2) {
        let light = metered([0.8, 0.6, 1.4], side);
        let band = Band { at_m: [0.0; 3], height_m: height, edge_m: edge, apart_m: Some(apart) };
        if let Ok(c) = cutter(&light, &band) {
            let FlagPattern::Blinds { slats, open } = c.flag.pattern else { panic!("blinds") };
            prop_assert!(slats % 2 == 1, "a band in the middle");
            prop_assert!((open - height / (height + apart)).abs() < 1e-9);
            let told = &bands(std::slice::from_ref(&c.flag), std::slice::from_ref(&light))[0].band;
            prop_assert!((told.height_m / height - 1.0).abs() < 0.03 && (told.apart_m.expect("apart") / apart - 1.0).abs() < 0.03);
            // the middle of an opening lies on the line from the lamp to the aim
            let dir = Vec3::new(0.8, 0.6, 1.4).normalize();
            let up = upright(&dir).1 * UP;
            let pitch = c.flag.height_m / f64::from(slats);
            let place = Vec3::from(c.flag.position_m);
            let off = (place - dir * place.dot(&dir)).dot(&up);
            prop_assert!((off - pitch * (1.0 - open) / 2.0).abs() < 0.0015);
        }
    }

    /// Leaves that stand straight out cut where the line from the middle of the face past their tips goes; opened more, later.
    #[test]
    fn leaves_open(z in 1.0f64..3.0, side in 0.1f64..0.6, open in 60.0f64..150.0) {
        let light = metered([0.0, 0.0, z], side);
        if let (Ok(a), Ok(b)) = (doors(&light, open), doors(&light, open + 10.0)) {
            prop_assert!(b.half_m[0] > a.half_m[0] && b.loses_stops <= a.loses_stops + 1e-12);
            prop_assert_eq!(a.flags.len(), 4);
            let length = 0.8 * side;
            let (s, c) = open.to_radians().sin_cos();
            let own = (side / 2.0 - c * length) / (s * length + 0.01) * z;
            prop_assert!((a.half_m[0] - own).abs() < 1e-6, "{} for {own}", a.half_m[0]);
        }
        prop_assert!(doors(&light, 20.0).is_err() && doors(&light, f64::NAN).is_err());
    }
}

#[test]
fn no_leaves_on_what_has_no_edges_or_is_too_large() {
    let mut ball = metered([0.0, 0.0, 2.0], 0.3);
    ball.outline_m.truncate(3);
    assert!(doors(&ball, 90.0).unwrap_err().contains("no edges"));
    assert!(doors(&metered([0.0, 0.0, 6.0], 2.6), 90.0).unwrap_err().contains("hang a flag"));
    assert!(doors(&metered([0.0, 0.0, 0.45], 0.5), 90.0).unwrap_err().contains("so near"));
}
