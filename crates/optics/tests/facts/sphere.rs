//! Directions, frames and balls seen by a camera.

use optics::geometry::*;
use optics::hardness::hardness;
use proptest::prelude::*;
use std::f64::consts::PI;

proptest! {
    #[test]
    fn directions_come_back(az in -179.0f64..179.0, el in -89.0f64..89.0) {
        let a = AzEl { azimuth_deg: az, elevation_deg: el };
        let v = a.vector();
        prop_assert!((v.norm() - 1.0).abs() < 1e-12);
        let b = AzEl::of(&v);
        prop_assert!(wrapped_deg(b.azimuth_deg - az).abs() < 1e-6 && (b.elevation_deg - el).abs() < 1e-6);
        // off the lens axis by the arc between (spherical law of cosines)
        let arc = (el.to_radians().cos() * az.to_radians().cos()).acos().to_degrees();
        prop_assert!((a.off_axis_deg() - arc).abs() < 1e-4, "{} for {arc}", a.off_axis_deg());
    }

    #[test]
    fn frames_are_right_angled_and_right_handed(az in -180.0f64..180.0, el in -85.0f64..85.0) {
        let n = AzEl { azimuth_deg: az, elevation_deg: el }.vector();
        for (u, w) in [tangent_frame(&n), upright(&n)] {
            prop_assert!(u.dot(&w).abs() < 1e-9 && u.dot(&n).abs() < 1e-9 && w.dot(&n).abs() < 1e-9);
            prop_assert!((u.cross(&w) - n).norm() < 1e-9, "{u} {w}");
        }
    }

    /// Angle of incidence is angle of reflection, in one plane with the normal; twice is nothing.
    #[test]
    fn mirrors_mirror(a in -80.0f64..80.0, b in -80.0f64..80.0) {
        let n = AzEl { azimuth_deg: a, elevation_deg: b }.vector();
        let v = AzEl { azimuth_deg: 10.0, elevation_deg: 20.0 }.vector();
        let r = reflect(&v, &n);
        prop_assert!((r.dot(&n) - v.dot(&n)).abs() < 1e-12 && (r.norm() - 1.0).abs() < 1e-12);
        prop_assert!(r.cross(&v).dot(&n).abs() < 1e-12);
        prop_assert!((reflect(&r, &n) - v).norm() < 1e-12);
    }

    /// A far mirror ball shows at r of its radius what stands 2 asin r off the lens's axis (textbook).
    #[test]
    fn a_far_mirror_ball_shows_twice_its_slope(r in 0.02f64..0.98, turn in 0.0f64..360.0) {
        let camera = Camera::far(400, 400);
        let ball = SeenSphere::from_silhouette(camera, [200.0, 200.0], 150.0);
        let (s, c) = turn.to_radians().sin_cos();
        let d = ball.mirrored(200.0 + 150.0 * r * c, 200.0 - 150.0 * r * s).expect("on the ball");
        let off = AzEl::of(&d).off_axis_deg().to_radians();
        prop_assert!((off - 2.0 * r.asin()).abs() < 2e-3, "{off}");
        prop_assert!(ball.mirrored(200.0 + 152.0 * c, 200.0 - 152.0 * s).is_none());
    }

    /// A camera that looks down sees the level world tipped by as much, and back.
    #[test]
    fn pitch_is_undone(pitch in -60.0f64..60.0, az in -170.0f64..170.0, el in -80.0f64..80.0) {
        let camera = Camera::from_vfov(600, 400, 30.0, pitch);
        let v = AzEl { azimuth_deg: az, elevation_deg: el }.vector();
        prop_assert!((camera.to_set(&camera.from_set(&v)) - v).norm() < 1e-12);
        // the lens's axis points from the subject up to a lens that looks down
        let axis = camera.to_set(&Vec3::z());
        prop_assert!((AzEl::of(&axis).elevation_deg - pitch).abs() < 1e-9, "{axis}");
    }
}

#[test]
fn all_that_a_ball_mirrors_is_nearly_all_around() {
    // a far mirror ball shows every direction once: the solid angles of its pixels sum to the sphere (textbook)
    let camera = Camera::far(240, 240);
    let ball = SeenSphere::from_silhouette(camera, [120.0, 120.0], 100.0);
    let all = (0..240).flat_map(|y| (0..240).map(move |x| (f64::from(x), f64::from(y))));
    let sum: f64 = all.map(|(x, y)| ball.mirrored_solid_angle(x, y)).sum();
    assert!((sum / (4.0 * PI) - 1.0).abs() < 0.06, "{}", sum / (4.0 * PI));
}

#[test]
fn points_on_a_sphere_lie_evenly() {
    let all = fibonacci_sphere(2000);
    let mean: Vec3 = all.iter().sum::<Vec3>() / 2000.0;
    assert!(mean.norm() < 2e-3, "{mean}");
    // each eighth holds its share
    let eighth = all.iter().filter(|p| p.x > 0.0 && p.y > 0.0 && p.z > 0.0).count();
    assert!((230..=270).contains(&eighth), "{eighth}");
}

#[test]
fn sources_have_their_shapes() {
    let within = |inside: &dyn Fn(f64, f64) -> bool| {
        let grid = (-40..=40).flat_map(|i| (-40..=40).map(move |j| (f64::from(i) / 40.0, f64::from(j) / 40.0)));
        let list: Vec<Vec3> = grid
            .filter(|(x, y)| inside(*x, *y))
            .map(|(x, y)| AzEl { azimuth_deg: 8.0 * x, elevation_deg: 8.0 * y }.vector())
            .collect();
        shape_of_directions(&list).expect("a shape")
    };
    let (aspect, corners) = within(&|x, y| x.hypot(y) <= 1.0);
    assert!((aspect - 1.0).abs() < 0.03 && corners.abs() < 0.1, "a disc: {aspect} {corners}");
    let (aspect, corners) = within(&|_, y| y.abs() <= 0.5);
    assert!((aspect - 2.0).abs() < 0.05 && corners > 0.9, "a box twice as wide as high: {aspect} {corners}");
    assert!(shape_of_directions(&[Vec3::z()]).is_none());
}

#[test]
fn larger_is_never_called_harder() {
    // words in order of size, the sun's half a degree hard and half a sky soft (common practice)
    let words: Vec<&str> = (1..160).map(|d| hardness(f64::from(d))).collect();
    let mut seen: Vec<&str> = Vec::new();
    for w in words {
        if seen.last() != Some(&w) {
            assert!(!seen.contains(&w), "{w} comes twice");
            seen.push(w);
        }
    }
    let place = |w: &str| seen.iter().position(|s| *s == w);
    assert!(hardness(0.53) == "hard" && place("soft") > place("hard") && hardness(120.0) == "wrap", "{seen:?}");
}

#[test]
fn clocks_go_round_as_clocks_do() {
    // up is twelve, image right three, down six, image left nine
    for (dx, dy, hour) in [(0.0, 1.0, 12.0), (1.0, 0.0, 3.0), (0.0, -1.0, 6.0), (-1.0, 0.0, 9.0), (1.0, 1.0, 1.5)] {
        let c = clock_of(dx, dy);
        assert!((c - hour).abs() < 1e-9 || (c + 12.0 - hour).abs() < 1e-9, "{c} for {hour}");
    }
    assert!((wrapped_deg(190.0) + 170.0).abs() < 1e-9 && (wrapped_deg(-190.0) - 170.0).abs() < 1e-9);
}
