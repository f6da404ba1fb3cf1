//! Forms: outlines, rims, backgrounds and boxes of matte paint, shaded by Lambert's law.

use crate::picture;
use direction::{contour, cuboid, gradient, rim};
use optics::geometry::{Camera, Vec3};
use proptest::prelude::*;

/// A matte ball of radius 70 in the middle, lit from a direction, before black.
fn ball(light: Vec3, around: f64) -> impl Fn(f64, f64) -> f64 {
    move |x, y| {
        let (nx, ny) = ((x - 120.0) / 70.0, (100.0 - y) / 70.0);
        let nz2 = 1.0 - nx * nx - ny * ny;
        if nz2 <= 0.0 { 0.01 } else { around + 0.7 * Vec3::new(nx, ny, nz2.sqrt()).dot(&light).max(0.0) }
    }
}

fn circle(from_deg: f64, to_deg: f64) -> Vec<[f64; 2]> {
    (0..=60)
        .map(|k| (from_deg + (to_deg - from_deg) * f64::from(k) / 60.0).to_radians())
        .map(|a| [120.0 + 70.0 * a.cos(), 100.0 - 70.0 * a.sin()])
        .collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

    /// The outline of a matte ball is brightest where its normal leads towards the light (Johnson & Farid 2005).
    #[test]
    fn an_outline_points_to_the_light(clock in 0.0f64..360.0, off in 35.0f64..85.0) {
        let (s, c) = clock.to_radians().sin_cos();
        let light = Vec3::new(off.to_radians().sin() * c, off.to_radians().sin() * s, off.to_radians().cos());
        let photo = picture(ball(light, 0.02));
        // walked anticlockwise as seen, the background lies on the right hand
        let r = contour::read(&photo, &circle(0.0, 355.0), false).map_err(|e| TestCaseError::fail(e.to_string()))?;
        let told = r.towards[1].atan2(r.towards[0]).to_degrees();
        let wrong = (told - clock + 540.0).rem_euclid(360.0) - 180.0;
        prop_assert!(wrong.abs() < 4.0 && wrong.abs() < 3.0 * r.sd.to_degrees(), "{told} for {clock} ± {}", r.sd.to_degrees());
        prop_assert!(r.contrast_stops > 1.0 && r.samples > 50);
    }

    /// A light behind draws a crescent: the moon's, `R (1 + cos t)` wide at the outline (any almanac). It is wider the less far behind.
    #[test]
    fn a_rim_tells_how_far_behind(t in 100.0f64..140.0, clock in 0.0f64..360.0) {
        let (s, c) = clock.to_radians().sin_cos();
        let (st, ct) = t.to_radians().sin_cos();
        let photo = picture(ball(Vec3::new(st * c, st * s, ct), 0.015));
        let at = |r: f64| [120.0 + r * c, 100.0 - r * s];
        let r = rim::read(&photo, at(20.0), at(85.0), Some(70.0)).map_err(|e| TestCaseError::fail(e.to_string()))?;
        prop_assert!((r.outward[0] - c).abs() < 1e-9 && (r.outward[1] - s).abs() < 1e-9);
        // half of its height falls within the crescent
        prop_assert!(r.width_px < 70.0 * (1.0 + ct) + 2.0, "{} of {}", r.width_px, 70.0 * (1.0 + ct));
        let (angle, sd) = r.off_axis.expect("a radius");
        prop_assert!((angle.to_degrees() - t).abs() < (2.0 * sd.to_degrees()).max(8.0), "{} for {t}", angle.to_degrees());
        prop_assert!(rim::read(&photo, at(20.0), at(85.0), None).expect("the same").off_axis.is_none());
    }

    /// A background lit by a lamp of its own is brightest before it: the top of a smooth hill in the logarithm of brightness.
    #[test]
    fn a_background_has_its_centre(x0 in 70.0f64..170.0, y0 in 60.0f64..140.0, wide in 60.0f64..140.0) {
        let photo = picture(|x, y| 0.6 * (-((x - x0).powi(2) + (y - y0).powi(2)) / (2.0 * wide * wide)).exp());
        let r = gradient::read(&photo, &[[15.0, 15.0], [225.0, 15.0], [225.0, 185.0], [15.0, 185.0]])
            .map_err(|e| TestCaseError::fail(e.to_string()))?;
        let top = r.top.expect("a centre");
        prop_assert!((top[0] - x0).hypot(top[1] - y0) < 4.0, "{top:?} for {x0} {y0}");
        prop_assert!(r.spread_stops < 0.05);
        let far = [[15.0, 15.0], [225.0, 15.0], [225.0, 185.0], [15.0, 185.0]].map(|p: [f64; 2]| (p[0] - x0).hypot(p[1] - y0));
        let most = far.into_iter().fold(0.0, f64::max);
        let fall = most * most / (2.0 * wide * wide) / std::f64::consts::LN_2;
        prop_assert!((r.stops / fall).ln().abs() < 0.25, "{} for {fall}", r.stops);
    }

    /// Light that spills in from a side: only a slope, towards it.
    #[test]
    fn spill_has_a_side(clock in 0.0f64..360.0, stops in 0.6f64..3.0) {
        let (s, c) = clock.to_radians().sin_cos();
        let photo = picture(|x, y| 0.3 * (stops * ((x - 120.0) * c + (100.0 - y) * s) / 170.0).exp2());
        let r = gradient::read(&photo, &[[35.0, 15.0], [205.0, 15.0], [205.0, 185.0], [35.0, 185.0]])
            .map_err(|e| TestCaseError::fail(e.to_string()))?;
        let wrong = (r.towards[1].atan2(r.towards[0]).to_degrees() - clock + 540.0).rem_euclid(360.0) - 180.0;
        prop_assert!(wrong.abs() < 3.0, "{:?} for {clock}", r.towards);
    }

    /// A box's turn comes back from four of its corners, drawn through a pinhole; its sides' normals stand at right angles.
    #[test]
    fn a_box_stands_as_it_was_drawn(yaw in 15.0f64..75.0, pitch in 12.0f64..45.0, w in 0.6f64..1.6, h in 0.6f64..1.6, far in 4.0f64..9.0) {
        let camera = Camera::from_vfov(240, 200, 25.0, pitch);
        // edges from the nearest corner: down, and away to either side, seen from `pitch` above
        let (sy, cy) = yaw.to_radians().sin_cos();
        let (sp, cp) = pitch.to_radians().sin_cos();
        let tilt = |v: Vec3| Vec3::new(v.x, v.y * cp - v.z * sp, v.y * sp + v.z * cp);
        let edges = [tilt(Vec3::new(sy, 0.0, -cy)) * w, tilt(Vec3::new(0.0, -1.0, 0.0)) * h, tilt(Vec3::new(-cy, 0.0, -sy))];
        let corner = Vec3::new(0.05, 0.1, -far);
        let px = |p: Vec3| [camera.centre[0] + camera.focal_px * p.x / -p.z, camera.centre[1] - camera.focal_px * p.y / -p.z];
        let ends = edges.map(|e| px(corner + e));
        let posed = cuboid::pose(camera, px(corner), ends).map_err(|e| TestCaseError::fail(e.to_string()))?;
        for (k, e) in edges.iter().enumerate() {
            prop_assert!(posed.edges[k].angle(&e.normalize()).to_degrees() < 1.5, "edge {k}: {:?} for {e:?}", posed.edges[k]);
            for j in 0..k {
                prop_assert!(posed.edges[k].dot(&posed.edges[j]).abs() < 1e-3);
            }
        }
        prop_assert!((posed.lengths[0] / posed.lengths[1] / (w / h)).ln().abs() < 0.05, "{:?}", posed.lengths);
        // it stands upright: its top says how far the lens looks down
        let (up, down) = cuboid::looks_down(&[0, 1, 2].map(|k| posed.normal(k)));
        prop_assert_eq!(up, 1);
        prop_assert!((down.expect("it stands").to_degrees() - pitch).abs() < 1.5, "{:?} for {}", down, pitch);
    }
}

#[test]
fn forms_that_say_nothing_say_why() {
    let even = picture(|_, _| 0.3);
    assert_eq!(contour::read(&even, &[[10.0, 10.0], [20.0, 10.0]], true).unwrap_err(), contour::ContourProblem::Short);
    assert_eq!(
        contour::read(&even, &[[10.0, 100.0], [230.0, 100.0]], true).unwrap_err(),
        contour::ContourProblem::Straight
    );
    assert_eq!(contour::read(&even, &circle(0.0, 300.0), false).unwrap_err(), contour::ContourProblem::Even);
    assert_eq!(rim::read(&even, [50.0, 50.0], [52.0, 50.0], None).unwrap_err(), rim::RimProblem::Short);
    assert_eq!(rim::read(&even, [50.0, 50.0], [150.0, 50.0], None).unwrap_err(), rim::RimProblem::NoRim);
    let small = [[10.0, 10.0], [20.0, 10.0], [20.0, 20.0], [10.0, 20.0]];
    assert_eq!(gradient::read(&even, &small).unwrap_err(), gradient::GradientProblem::Small);
    let white = picture(|_, _| 1.0);
    let all = [[10.0, 10.0], [200.0, 10.0], [200.0, 180.0], [10.0, 180.0]];
    assert_eq!(gradient::read(&white, &all).unwrap_err(), gradient::GradientProblem::Lost);
    let camera = Camera::from_vfov(240, 200, 25.0, 20.0);
    let short = [[103.0, 100.0], [100.0, 104.0], [97.0, 98.0]];
    assert_eq!(cuboid::pose(camera, [100.0, 100.0], short).unwrap_err(), cuboid::CuboidProblem::Short);
    let no_corner = [[150.0, 100.0], [150.0, 90.0], [150.0, 110.0]];
    assert_eq!(cuboid::pose(camera, [100.0, 100.0], no_corner).unwrap_err(), cuboid::CuboidProblem::NoCorner);
}

#[test]
fn a_box_of_one_paint_tells_where_all_light_together_comes_from() {
    // three sides at right angles: their brightnesses are the parts of the light's direction along their normals (Lambert; Woodham 1980)
    let camera = Camera::from_vfov(240, 200, 25.0, 30.0);
    let light = Vec3::new(-0.45, 0.75, 0.5).normalize();
    let (sy, cy) = 40f64.to_radians().sin_cos();
    let (sp, cp) = 30f64.to_radians().sin_cos();
    let tilt = |v: Vec3| Vec3::new(v.x, v.y * cp - v.z * sp, v.y * sp + v.z * cp);
    let edges = [tilt(Vec3::new(sy, 0.0, -cy)), tilt(Vec3::new(0.0, -1.0, 0.0)), tilt(Vec3::new(-cy, 0.0, -sy))];
    let corner = Vec3::new(0.0, 0.25, -5.0);
    let px =
        |p: Vec3| [camera.centre[0] + camera.focal_px * p.x / -p.z, camera.centre[1] - camera.focal_px * p.y / -p.z];
    let posed = cuboid::pose(camera, px(corner), edges.map(|e| px(corner + e))).expect("a box");
    // each pixel: which side it lies on, by the side's own corners
    let quad = |k: usize| {
        let [a, b] = [edges[(k + 1) % 3], edges[(k + 2) % 3]];
        [px(corner), px(corner + a), px(corner + a + b), px(corner + b)]
    };
    let inside = |q: &[[f64; 2]; 4], x: f64, y: f64| {
        let turns = (0..4).map(|i| {
            let (p, r) = (q[i], q[(i + 1) % 4]);
            (r[0] - p[0]) * (y - p[1]) - (r[1] - p[1]) * (x - p[0])
        });
        let all: Vec<f64> = turns.collect();
        all.iter().all(|v| *v >= 0.0) || all.iter().all(|v| *v <= 0.0)
    };
    let quads = [0, 1, 2].map(quad);
    let shade = [0, 1, 2].map(|k| 0.6 * posed.normal(k).dot(&light).max(0.0));
    let photo = picture(|x, y| quads.iter().position(|q| inside(q, x, y)).map_or(0.02, |k| shade[k]));
    let r = posed.read(&photo, true).expect("sides");
    for (k, s) in r.sides.iter().enumerate() {
        assert!((s.luminance - shade[k]).abs() < 0.02, "side {k}: {} for {}", s.luminance, shade[k]);
        assert!(s.gradient < 0.05 && s.clipped == 0.0);
    }
    let (told, sd) = r.light.expect("a light");
    assert!(
        told.angle(&light) < 2.0 * sd && told.angle(&light).to_degrees() < 12.0,
        "{}",
        told.angle(&light).to_degrees()
    );
    assert!(posed.read(&photo, false).expect("sides").light.is_none(), "sides of different paint say nothing");
}
