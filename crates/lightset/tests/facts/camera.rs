//! What a set's camera sees: the pinhole of any textbook on projective geometry (x = f X / Z), and depth of field by ISO-like formulas.

use crate::set;
use lightset::frame::{Sight, flat_in_frame, in_frame};
use lightset::meter::SharpDepth;
use optics::geometry::{AzEl, Vec3};
use proptest::prelude::*;
use serde_json::json;

#[test]
fn what_it_is_aimed_at_is_in_the_middle_and_the_angle_of_view_ends_at_the_edges() {
    let s = set(json!({}));
    let sight = Sight::of(&s);
    let ([x, y], k) = sight.pixel(&Vec3::zeros()).expect("before the lens");
    assert!((x - 300.0).abs() < 1e-9 && (y - 200.0).abs() < 1e-9);
    // half of 20 degrees over half of 400 pixels, two metres away
    let focal = 200.0 / 10f64.to_radians().tan();
    assert!((k - focal / 2.0).abs() < 1e-9);
    let top = Vec3::new(0.0, 2.0 * 10f64.to_radians().tan(), 0.0);
    assert!(sight.pixel(&top).expect("seen").0[1].abs() < 1e-9, "the upper edge");
    assert!(sight.pixel(&Vec3::new(0.1, 0.0, 0.0)).expect("seen").0[0] > x, "camera right is right");
    assert!(sight.pixel(&Vec3::new(0.0, 0.0, 3.0)).is_none(), "nothing is seen behind the lens");
    let share = sight.share(&top).expect("seen");
    assert!((share[0] - 0.5).abs() < 1e-12 && share[1].abs() < 1e-12);
}

#[test]
fn lenses_are_told_by_their_focal_length_or_their_angle() {
    // a 50 mm lens before a sensor 24 mm high: 2 atan(12 / 50) = 27.0 degrees (any lens table)
    let s = set(json!({"camera": {"position_m": [0, 0, 2], "focal_mm": 50,
        "exposure": {"f_number": 8, "shutter_s": 0.01, "iso": 100}}}));
    assert!((s.camera.vfov_deg() - 26.99).abs() < 0.01);
    // 85 mm at f/1.8 focused at 2 m on 24 x 36 mm: a few centimetres are sharp (depth-of-field tables give 6 to 7 cm at a circle of
    // confusion of 0.029 mm)
    let s = set(json!({"camera": {"position_m": [0, 0, 2], "focal_mm": 85,
        "exposure": {"f_number": 1.8, "shutter_s": 0.01, "iso": 100}}}));
    let d = SharpDepth::of(&s.camera, 1.5);
    let far = d.far_m.expect("finite");
    assert!((d.coc_mm - 0.0288).abs() < 0.0002, "{}", d.coc_mm);
    assert!((0.05..0.065).contains(&(far - d.near_m)), "{}", far - d.near_m);
    assert!(!d.assumed && (d.focal_mm - 85.0).abs() < 1e-9);
    // at f/22 a wide lens is sharp to infinity from its hyperfocal distance on
    let wide = set(json!({"camera": {"position_m": [0, 0, 2], "focal_mm": 24,
        "exposure": {"f_number": 22, "shutter_s": 0.01, "iso": 100}}}));
    assert!(SharpDepth::of(&wide.camera, 1.5).far_m.is_none());
}

proptest! {
    /// A place keeps its pixel along its own line of sight, and what is twice as far is half as large.
    #[test]
    fn perspective(x in -0.3f64..0.3, y in -0.3f64..0.3, z in -1.0f64..0.5, cx in -2.0f64..2.0, cy in -0.5f64..1.5, cz in 1.5f64..3.0, k in 1.1f64..3.0) {
        let s = set(json!({"camera": {"position_m": [cx, cy, cz], "vfov_deg": 40, "exposure": {"f_number": 8, "shutter_s": 0.01, "iso": 100}}}));
        let sight = Sight::of(&s);
        let (lens, p) = (Vec3::new(cx, cy, cz), Vec3::new(x, y, z));
        let (a, near) = sight.pixel(&p).expect("before the lens");
        let (b, far) = sight.pixel(&(lens + (p - lens) * k)).expect("before the lens");
        prop_assert!((a[0] - b[0]).abs() < 1e-6 && (a[1] - b[1]).abs() < 1e-6);
        prop_assert!((near / far - k).abs() < 1e-9);
    }

    /// A point is in the frame if its pixel is in the picture; a sphere is in it before its middle is.
    #[test]
    fn the_frame_is_the_picture(x in -1.5f64..1.5, y in -1.5f64..1.5, z in -1.0f64..1.5, r in 0.0f64..0.3) {
        let s = set(json!({}));
        let [px, py] = Sight::of(&s).pixel(&Vec3::new(x, y, z)).expect("before the lens").0;
        let inside = px > 0.0 && px < 600.0 && py > 0.0 && py < 400.0;
        prop_assert_eq!(in_frame(&s, &[x, y, z], 0.0), inside);
        prop_assert!(!inside || in_frame(&s, &[x, y, z], r));
    }

    /// A sheet that stands in the picture by any of its corners is in the frame.
    #[test]
    fn a_sheet_shows_by_its_corners(x in -0.8f64..0.8, y in -0.8f64..0.8, w in 0.05f64..1.0, h in 0.05f64..1.0) {
        let s = set(json!({}));
        let (at, aim) = ([x, y, 0.3], [x, y, 2.0]);
        let corner = |a: f64, b: f64| in_frame(&s, &[x + a * w / 2.0, y + b * h / 2.0, 0.3], 0.0);
        let any = [(-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0)].iter().any(|(a, b)| corner(*a, *b));
        prop_assert!(!any || flat_in_frame(&s, &at, &aim, [w, h]));
    }

    /// A direction of the lens frame goes by the camera's turn and tilt: straight ahead of the sitter is the lens itself.
    #[test]
    fn readings_turn_with_the_camera(cx in -2.0f64..2.0, cy in -1.0f64..1.5, cz in 1.0f64..3.0, az in -170.0f64..170.0, el in -60.0f64..60.0) {
        let s = set(json!({"camera": {"position_m": [cx, cy, cz], "exposure": {"f_number": 8, "shutter_s": 0.01, "iso": 100}}}));
        let ahead = s.from_lens(AzEl { azimuth_deg: 0.0, elevation_deg: 0.0 }).vector();
        let lens = Vec3::new(cx, cy, cz).normalize();
        prop_assert!(ahead.angle(&lens) < 1e-6);
        // angles between directions stay
        let a = AzEl { azimuth_deg: az, elevation_deg: el };
        prop_assert!((s.from_lens(a).vector().angle(&lens) - a.vector().angle(&Vec3::z())).abs() < 1e-6);
    }
}
