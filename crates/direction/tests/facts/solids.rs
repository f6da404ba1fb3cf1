//! Balls, cylinders and shadows painted by the laws they are read by: the law of reflection, Lambert's law, straight rays.

use crate::picture;
use direction::cast::{CastPoints, PointsSd};
use direction::{ball_matte, ball_mirror, cast, cylinder, label};
use optics::geometry::{AzEl, Camera, Vec3, angle_between};
use optics::photo::Photo;
use proptest::prelude::*;
use trial::paint;

/// Middle and radius of the ball in its picture.
const MIDDLE: [f64; 2] = [120.0, 100.0];
const RADIUS: f64 = 70.0;

/// Normal of a ball seen from afar.
fn normal(x: f64, y: f64) -> Option<Vec3> {
    let (u, v) = ((x - MIDDLE[0]) / RADIUS, (MIDDLE[1] - y) / RADIUS);
    let z2 = 1.0 - u * u - v * v;
    (z2 > 0.0).then(|| Vec3::new(u, v, z2.sqrt()))
}

fn far() -> Camera {
    Camera::far(240, 200)
}

/// A mirror ball under one disc of light: a pixel is bright where its mirrored ray ends in the disc. Sixteen rays to a pixel.
fn mirror_ball(light: Vec3, full_deg: f64) -> Photo {
    picture(|x, y| {
        let rays = (0..16).map(|k| {
            let (dx, dy) = (f64::from(k % 4) / 4.0 - 0.375, f64::from(k / 4) / 4.0 - 0.375);
            let Some(n) = normal(x + dx, y + dy) else { return 0.3 };
            let r = 2.0 * n.z * n - Vec3::z();
            if angle_between(&r, &light).to_degrees() < full_deg / 2.0 { 0.9 } else { 0.02 }
        });
        rays.sum::<f64>() / 16.0
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// Where a light shines in a mirror ball tells its direction, and how much of the ball it covers its size (law of reflection).
    #[test]
    fn a_mirror_ball_shows_where_a_light_stands(az in -100.0f64..100.0, el in -45.0f64..60.0, full in 8.0f64..40.0) {
        let light = AzEl { azimuth_deg: az, elevation_deg: el }.vector();
        prop_assume!(angle_between(&light, &Vec3::z()).to_degrees() + full / 2.0 < 125.0);
        let read = ball_mirror::read(&mirror_ball(light, full), far(), MIDDLE, RADIUS);
        prop_assert_eq!(read.lights.len(), 1);
        let seen = &read.lights[0].0;
        // up to what a light at a usual distance lies nearer than one far away: 0.8 degrees
        let off = angle_between(&seen.direction, &light).to_degrees();
        prop_assert!(off < 2.0, "{off} degrees off");
        let size = seen.size_deg().expect("a size").0;
        prop_assert!((size / full - 1.0).abs() < 0.12, "{size} for {full}");
    }

    /// A matte ball under a small light is `max(0, n.l)` (Lambert 1760), with light from all around on it.
    #[test]
    fn a_matte_ball_is_lit_by_its_cosine(az in -80.0f64..80.0, el in -30.0f64..60.0, around in 0.02f64..0.15) {
        let light = AzEl { azimuth_deg: az, elevation_deg: el }.vector();
        prop_assume!(angle_between(&light, &Vec3::z()).to_degrees() < 85.0);
        let photo = picture(|x, y| normal(x, y).map_or(0.01, |n| 0.7 * n.dot(&light).max(0.0) + around));
        let read = ball_matte::read(&photo, far(), MIDDLE, RADIUS, None, &[]).expect("a reading");
        let off = angle_between(&read.lights[0].direction, &light).to_degrees();
        prop_assert!(off < 2.0, "{off} degrees off");
    }

    /// A line on a glossy cylinder seen from afar lies at half the azimuth of what it mirrors (law of reflection): edges of a strip
    /// come back where they were put.
    #[test]
    fn a_line_on_a_cylinder_lies_at_half_its_azimuth(middle in -110.0f64..110.0, wide in 10.0f64..40.0, tilt in -12.0f64..12.0) {
        let ends = [middle - wide / 2.0, middle + wide / 2.0];
        prop_assume!(ends[0] > -125.0 && ends[1] < 125.0);
        let axis_dir = tilt.to_radians();
        let photo = paint(260, 300, |x, y| {
            let (dx, dy) = (x - 130.0, y - 150.0);
            // across, to the image side right of the axis walked upwards
            let s = (dx * axis_dir.cos() + dy * axis_dir.sin()) / 60.0;
            if s.abs() >= 1.0 {
                return 0.15;
            }
            let azimuth = 2.0 * s.asin().to_degrees();
            0.02 + if (ends[0]..ends[1]).contains(&azimuth) { 0.7 } else { 0.0 }
        });
        let (sin, cos) = axis_dir.sin_cos();
        let axis = [[130.0 - 120.0 * sin, 150.0 + 120.0 * cos], [130.0 + 120.0 * sin, 150.0 - 120.0 * cos]];
        let read = cylinder::read(&photo, Camera::far(260, 300), axis, 60.0).expect("a reading");
        prop_assert_eq!(read.strips.len(), 1, "{:?}", read.strips);
        let s = &read.strips[0];
        let off = [(s.from.to_degrees() - ends[0]).abs(), (s.to.to_degrees() - ends[1]).abs()];
        prop_assert!(off.iter().all(|o| *o < 3.0), "{off:?}");
        // what is dark beside it is told as a gap
        let holds = |at: f64| read.gaps.iter().any(|g| (g[0].to_degrees()..g[1].to_degrees()).contains(&at));
        prop_assert!(!holds(middle) && (holds(ends[0] - 15.0) || holds(ends[1] + 15.0)), "{:?}", read.gaps);
    }

    /// What is marked by hand lies off by a pixel or two: where a line on a cylinder is said to lie holds the truth within three of
    /// the spreads that are stated, and its width is told closer than its place.
    #[test]
    fn a_cylinder_marked_by_hand_states_how_far_off_that_leaves_it(middle in -90.0f64..90.0, aside in -1.5f64..1.5, wider in -1.0f64..1.0) {
        let ends = [middle - 10.0, middle + 10.0];
        let photo = paint(640, 400, |x, y| {
            let s = (x - 320.0) / 60.0;
            if s.abs() >= 1.0 || !(40.0..360.0).contains(&y) {
                return 0.15;
            }
            0.02 + if (ends[0]..ends[1]).contains(&(2.0 * s.asin().to_degrees())) { 0.7 } else { 0.0 }
        });
        let axis = [[320.0 + aside, 350.0], [320.0 + aside, 50.0]];
        let read = cylinder::read(&photo, Camera::far(640, 400), axis, 60.0 + wider).expect("a reading");
        prop_assert_eq!(read.strips.len(), 1, "{:?}", read.strips);
        let s = &read.strips[0];
        let off = (s.middle_deg() - middle).abs();
        prop_assert!(off < 3.0 * s.sd.to_degrees(), "{off} of {}", s.sd.to_degrees());
        prop_assert!(s.own_sd() < s.sd && s.together < s.sd);
        prop_assert!((s.own_sd().hypot(s.together) - s.sd).abs() < 1e-9);
        prop_assert!((s.wide_sd() - std::f64::consts::SQRT_2 * s.own_sd()).abs() < 1e-9);
        let wide = s.wide().to_degrees();
        prop_assert!((wide - 20.0).abs() < 3.0 * s.wide_sd().to_degrees() + 1.0, "{wide} of {}", s.wide_sd().to_degrees());
    }

    /// A printed can under one light: bands of print cancel, the cosine stays (Lambert 1760).
    #[test]
    fn a_label_is_shaded_from_its_lights_side(az in -75.0f64..75.0, around in 0.03f64..0.12) {
        let photo = paint(200, 260, |x, y| {
            let s = (x - 100.0) / 60.0;
            if s.abs() >= 1.0 {
                return 0.3;
            }
            let print = [0.8, 0.35, 0.6][(y / 17.0) as usize % 3];
            print * ((s.asin() - az.to_radians()).cos().max(0.0) + around) * 0.8
        });
        let side = label::side(&photo, Camera::far(200, 260), [[100.0, 240.0], [100.0, 20.0]], 60.0).expect("a side");
        let off = (side.azimuth.to_degrees() - az).abs();
        prop_assert!(off < 2.0 * side.sd.to_degrees() && off < 14.0, "{off} for {az}");
    }

    /// A stick and its shadow on level ground, projected by a camera that looks down: the ray from tip to top is the sun's.
    #[test]
    fn a_stick_and_its_shadow_tell_the_sun(az in -170.0f64..170.0, el in 22.0f64..65.0, pitch in 15.0f64..40.0) {
        let camera = Camera::from_vfov(800, 600, 45.0, pitch);
        let sun = AzEl { azimuth_deg: az, elevation_deg: el }.vector();
        // a stick 0.4 m high, the camera 1.6 m over the ground before it; the subject's frame is level
        let foot = Vec3::new(0.1, 0.0, 0.0);
        let top = foot + Vec3::y() * 0.4;
        let tip = top - sun * (0.4 / sun.y);
        let lens = Vec3::new(0.0, 1.6, 1.6 / pitch.to_radians().tan());
        let shown = |p: &Vec3| {
            let d = camera.from_set(&(p - lens));
            (d.z < -0.1).then(|| [400.0 + camera.focal_px * d.x / -d.z, 300.0 - camera.focal_px * d.y / -d.z])
        };
        let (Some(base), Some(top), Some(tip)) = (shown(&foot), shown(&top), shown(&tip)) else { return Ok(()) };
        let length = (tip[0] - base[0]).hypot(tip[1] - base[1]);
        prop_assume!(length > 25.0 && (top[0] - tip[0]).hypot(top[1] - tip[1]) > 25.0);
        let sd = PointsSd { mark: 1.0, soft: 0.0 };
        let read = cast::read(camera, true, CastPoints { base, top, tip }, sd).expect("a reading");
        let off = angle_between(&camera.to_set(&read.direction), &sun).to_degrees().min(angle_between(&read.direction, &sun).to_degrees());
        prop_assert!(off < 0.5, "{off} degrees off");
        // 0.4 m of 1.6 m
        prop_assert!(read.direction_sd > 0.0 && (read.relative_height - 0.25).abs() < 0.01, "{}", read.relative_height);
    }
}

#[test]
fn two_lights_in_a_mirror_ball_are_two_the_stronger_first() {
    let [a, b] =
        [[-50.0, 30.0], [60.0, 10.0]].map(|[azimuth_deg, elevation_deg]| AzEl { azimuth_deg, elevation_deg }.vector());
    let photo = picture(|x, y| {
        let Some(n) = normal(x, y) else { return 0.2 };
        let r = 2.0 * n.z * n - Vec3::z();
        let within = |l: &Vec3, deg: f64| angle_between(&r, l).to_degrees() < deg;
        if within(&a, 12.0) {
            0.2
        } else if within(&b, 10.0) {
            0.9
        } else {
            0.01
        }
    });
    let read = ball_mirror::read(&photo, far(), MIDDLE, RADIUS);
    assert_eq!(read.lights.len(), 2);
    assert!(angle_between(&read.lights[0].0.direction, &b).to_degrees() < 2.0, "the brighter first");
    assert!(angle_between(&read.lights[1].0.direction, &a).to_degrees() < 2.0);
}

/// Pixels that the outline cuts have their part of a bright wall behind the ball: no lights. A lamp behind is brighter than the wall.
#[test]
fn a_bright_wall_behind_a_mirror_ball_is_no_light() {
    for full in [4.0, 8.0, 20.0] {
        let light = AzEl { azimuth_deg: 30.0, elevation_deg: 20.0 }.vector();
        let read = ball_mirror::read(&mirror_ball(light, full), far(), MIDDLE, RADIUS);
        assert_eq!(read.lights.len(), 1, "{full}");
    }
    // a lamp 150 degrees round, five times as bright as the wall: at the sine of 75 degrees of the radius
    let behind = AzEl { azimuth_deg: 150.0, elevation_deg: 0.0 }.vector();
    let photo = picture(|x, y| {
        let Some(n) = normal(x, y) else { return 0.15 };
        let r = 2.0 * n.z * n - Vec3::z();
        if angle_between(&r, &behind).to_degrees() < 15.0 { 0.9 } else { 0.02 }
    });
    let read = ball_mirror::read(&photo, far(), MIDDLE, RADIUS);
    assert!(angle_between(&read.lights[0].0.direction, &behind).to_degrees() < 6.0);
}

/// Before a wall as bright as the room it mirrors, the outline of a ball lies where a hand put it: a mark that is pixels off turns its
/// light by degrees (twice the angle of the surface), and the spread says so.
#[test]
fn a_mirror_ball_without_an_outline_states_what_a_hand_leaves_open() {
    let light = AzEl { azimuth_deg: 40.0, elevation_deg: 20.0 }.vector();
    let lit = |wall: f64| {
        picture(|x, y| {
            let Some(n) = normal(x, y) else { return wall };
            if angle_between(&(2.0 * n.z * n - Vec3::z()), &light).to_degrees() < 8.0 { 0.95 } else { 0.3 }
        })
    };
    let sd = |wall: f64| ball_mirror::read(&lit(wall), far(), MIDDLE, RADIUS).lights[0].0.direction_sd.to_degrees();
    // 1.4 pixels of a picture 640 wide are half a pixel here, and 0.4 degrees on the surface
    assert!(
        sd(0.3) > 0.4 && sd(0.3) > 2.0 * sd(0.05),
        "{} before an equal wall, {} before a dark one",
        sd(0.3),
        sd(0.05)
    );
}

#[test]
fn solids_that_say_nothing_say_why() {
    let dark = picture(|_, _| 0.02);
    assert!(ball_mirror::read(&dark, far(), MIDDLE, RADIUS).lights.is_empty());
    assert!(ball_matte::read(&dark, far(), MIDDLE, 2.0, None, &[]).is_err(), "too small");
    assert!(ball_matte::read(&dark, far(), [900.0, 100.0], 40.0, None, &[]).is_err(), "outside");
    let thin = cylinder::read(&dark, far(), [[100.0, 180.0], [100.0, 20.0]], 3.0);
    assert!(thin.is_err_and(|e| e.to_string().contains("16 pixels")));
    let outside = cylinder::read(&dark, far(), [[-80.0, 180.0], [-80.0, 20.0]], 40.0);
    assert!(outside.is_err_and(|e| e.to_string().contains("outside the picture")));
    // evenly lit paper has no side
    assert!(label::side(&picture(|_, _| 0.4), far(), [[120.0, 190.0], [120.0, 10.0]], 40.0).is_none());
    // without a camera nothing is level
    let p = CastPoints { base: [100.0, 150.0], top: [100.0, 60.0], tip: [180.0, 140.0] };
    assert!(cast::read(far(), false, p, PointsSd { mark: 1.0, soft: 0.0 }).is_err());
}
