//! Geometry: directions, solid angles, configuration factors.

use direction::eye::{CORNEA_RADIUS_MM, LIMBUS_RADIUS_MM, cornea_reflectance};
use optics::falloff::*;
use optics::geometry::*;
use optics::units::Metres;
use proptest::prelude::*;
use std::f64::consts::PI;

fn close(a: f64, b: f64, tolerance: f64) {
    assert!((a - b).abs() <= tolerance, "{a} against {b}");
}

#[test]
fn azimuth_is_positive_to_camera_right_and_elevation_up() {
    let v = AzEl { azimuth_deg: 90.0, elevation_deg: 0.0 }.vector();
    close(v.x, 1.0, 1e-12);
    let v = AzEl { azimuth_deg: 0.0, elevation_deg: 90.0 }.vector();
    close(v.y, 1.0, 1e-12);
    close(AzEl { azimuth_deg: 0.0, elevation_deg: 0.0 }.vector().z, 1.0, 1e-12);
}

#[test]
fn three_o_clock_is_image_right() {
    close(clock_of(1.0, 0.0), 3.0, 1e-12);
    close(clock_of(0.0, 1.0), 12.0, 1e-12);
    close(clock_of(0.0, -1.0), 6.0, 1e-12);
    close(clock_of(-1.0, 0.0), 9.0, 1e-12);
}

#[test]
fn the_whole_sphere_is_four_pi() {
    close(solid_angle_of_angular_size(2.0 * PI), 4.0 * PI, 1e-12);
    // The sun: 0.533 degrees across is 6.8e-5 sr (Astronomical Almanac, mean diameter).
    close(solid_angle_of_angular_size(0.533f64.to_radians()), 6.8e-5, 0.05e-5);
}

#[test]
fn a_cube_seen_from_its_middle_shows_six_equal_faces() {
    // Identity: each face of a cube fills a sixth of the sphere.
    close(solid_angle_of_rectangle(Metres(2.0), Metres(2.0), Metres(1.0)), 4.0 * PI / 6.0, 1e-12);
}

#[test]
fn disc_factor_agrees_with_the_catalogue() {
    // Differential element to coaxial parallel disc: F = r^2 / (r^2 + d^2). Howell, Catalog of
    // Radiation Heat Transfer Configuration Factors, B-12: at r = d it is one half.
    close(irradiance_from_disc(1.0, Metres(1.0), Metres(1.0)) / PI, 0.5, 1e-12);
    close(irradiance_from_disc(1.0, Metres(0.5), Metres(1.5)) / PI, 0.1, 1e-12);
}

#[test]
fn rectangle_factor_agrees_with_the_catalogue() {
    // Differential element to parallel rectangle with a corner on its normal, a = b = c: Howell B-3,
    // X = Y = 1: F = (1 / 2 pi) * 2 * (1 / sqrt 2) * atan(1 / sqrt 2) = 0.13853.
    let corners =
        [Vec3::new(0.0, 0.0, 1.0), Vec3::new(1.0, 0.0, 1.0), Vec3::new(1.0, 1.0, 1.0), Vec3::new(0.0, 1.0, 1.0)];
    let e = irradiance_from_polygon(1.0, &corners, &Vec3::zeros(), &Vec3::z());
    close(e / PI, 0.138_53, 1e-5);
}

#[test]
fn a_polygon_of_many_sides_is_a_disc() {
    let ring = |r: f64| -> Vec<Vec3> {
        (0..720).map(|i| f64::from(i) * PI / 360.0).map(|t| Vec3::new(r * t.cos(), r * t.sin(), 1.2)).collect()
    };
    let e = irradiance_from_polygon(1.0, &ring(0.7), &Vec3::zeros(), &Vec3::z());
    close(e, irradiance_from_disc(1.0, Metres(0.7), Metres(1.2)), 5e-5);
}

#[test]
fn a_half_sunk_polygon_counts_only_above_the_horizon() {
    // A wall that reaches from far below to far above the horizon lights a level surface as its upper half.
    let wall =
        [Vec3::new(-1.0, -1.0, 2.0), Vec3::new(1.0, -1.0, 2.0), Vec3::new(1.0, 1.0, 2.0), Vec3::new(-1.0, 1.0, 2.0)];
    let upper =
        [Vec3::new(-1.0, 0.0, 2.0), Vec3::new(1.0, 0.0, 2.0), Vec3::new(1.0, 1.0, 2.0), Vec3::new(-1.0, 1.0, 2.0)];
    let n = Vec3::y();
    close(
        irradiance_from_polygon(1.0, &wall, &Vec3::zeros(), &n),
        irradiance_from_polygon(1.0, &upper, &Vec3::zeros(), &n),
        1e-12,
    );
}

#[test]
fn beyond_five_times_its_size_a_source_follows_the_point_law() {
    // The five-times rule (IES Lighting Handbook): within about 1 %.
    let (r, d) = (Metres(0.5), Metres(5.0));
    let exact = irradiance_from_disc(1.0, r, d);
    let point = PI * r.0 * r.0 / (d.0 * d.0);
    close(point / exact, 1.0, 0.0101);
    // and at twice its size it is off by much more
    let near = irradiance_from_disc(1.0, r, Metres(2.0));
    assert!(PI * 0.25 / 4.0 / near > 1.05);
}

#[test]
fn sinking_disc_agrees_with_numerical_integration() {
    // Outside reference: brute-force integration of the clamped cosine over the cap.
    for half_deg in [1.0f64, 10.0, 25.0, 40.0] {
        for centre_deg in [30.0f64, 75.0, 85.0, 90.0, 95.0, 110.0] {
            let (half, theta) = (half_deg.to_radians(), centre_deg.to_radians());
            let axis = Vec3::new(theta.sin(), 0.0, theta.cos());
            let (u, v) = tangent_frame(&axis);
            let (mut sum, n) = (0.0, 400);
            for i in 0..n {
                // equal-area rings of the cap
                let c = 1.0 - (1.0 - half.cos()) * (f64::from(i) + 0.5) / f64::from(n);
                let s = (1.0 - c * c).sqrt();
                for j in 0..n {
                    let p = 2.0 * PI * (f64::from(j) + 0.5) / f64::from(n);
                    sum += (axis * c + u * (s * p.cos()) + v * (s * p.sin())).z.max(0.0);
                }
            }
            let omega = 2.0 * PI * (1.0 - half.cos());
            let numeric = sum / f64::from(n * n) * omega / (PI * half.sin().powi(2));
            close(disc_lobe(theta.cos(), half), numeric, 3e-4);
        }
    }
}

#[test]
fn a_one_metre_octagon_at_a_metre_and_a_half_fills_about_37_degrees() {
    // Common practice; a 41-inch umbrella at 5 ft about the same.
    close(angle_of_disc(Metres(1.0), Metres(1.5)).to_degrees(), 37.0, 0.5);
    close(angle_of_disc(Metres(41.0 * 0.0254), Metres::from_feet(5.0)).to_degrees(), 37.0, 1.5);
}

#[test]
fn a_mirror_turns_the_ray_by_twice_its_tilt() {
    for tilt in [0.0f64, 10.0, 30.0, 44.0] {
        let n = Vec3::new(tilt.to_radians().sin(), 0.0, tilt.to_radians().cos());
        let l = reflect(&Vec3::z(), &n);
        close(angle_between(&l, &Vec3::z()).to_degrees(), 2.0 * tilt, 1e-9);
    }
}

#[test]
fn the_cornea_mirrors_two_and_a_half_per_cent() {
    // Fresnel at normal incidence for n = 1.376 (Gullstrand): ((n - 1) / (n + 1))^2 = 0.02504.
    close(cornea_reflectance(1.0), 0.025_04, 5e-5);
    assert!((0.99..=1.0).contains(&cornea_reflectance(0.0)));
}

#[test]
fn the_cornea_lies_five_and_a_quarter_millimetres_behind_the_limbus() {
    // Nishino & Nayar 2006: 7.8 mm and 5.5 mm give 5.53 mm; ours lies between the published limbus radii.
    close((7.8f64 * 7.8 - 5.5 * 5.5).sqrt(), 5.53, 0.005);
    assert!((5.5..=6.0).contains(&LIMBUS_RADIUS_MM) && (7.6..=7.8).contains(&CORNEA_RADIUS_MM));
}

#[test]
fn a_far_mirror_ball_shows_equal_solid_angles_in_equal_areas() {
    // dOmega = 4 dA / R^2 for a far ball (from memory; follows from L = 2 (N.V) N - V).
    let camera = Camera::far(800, 800);
    let ball = SeenSphere::from_silhouette(camera, [400.0, 400.0], 200.0);
    for (x, y) in [(400.0, 400.0), (480.0, 420.0), (330.0, 520.0)] {
        close(ball.mirrored_solid_angle(x, y) * 200.0 * 200.0 / 4.0, 1.0, 0.01);
    }
}

proptest! {
    #[test]
    fn directions_survive_the_round_trip(az in -179.9f64..180.0, el in -89.9f64..89.9) {
        let back = AzEl::of(&AzEl { azimuth_deg: az, elevation_deg: el }.vector());
        prop_assert!((back.azimuth_deg - az).abs() < 1e-6 && (back.elevation_deg - el).abs() < 1e-6);
    }

    #[test]
    fn angular_size_survives_the_round_trip(a in 0.01f64..6.0) {
        let back = angular_size_of_solid_angle(solid_angle_of_angular_size(a));
        prop_assert!((back - a).abs() < 1e-5);
    }

    #[test]
    fn tangents_complete_a_right_handed_frame(az in -180.0f64..180.0, el in -90.0f64..90.0) {
        let n = AzEl { azimuth_deg: az, elevation_deg: el }.vector();
        let (u, v) = tangent_frame(&n);
        prop_assert!((u.cross(&v) - n).norm() < 1e-9);
    }

    #[test]
    fn a_lobe_never_exceeds_facing_and_never_goes_negative(c in -1.0f64..1.0, half in 0.001f64..1.4) {
        let e = disc_lobe(c, half);
        prop_assert!((0.0..=1.0 + 1e-9).contains(&e));
    }

    #[test]
    fn a_normal_found_at_a_pixel_is_seen_at_that_pixel(dx in -80.0f64..80.0, dy in -80.0f64..80.0) {
        let camera = Camera::from_vfov(640, 480, 20.0, 0.0);
        let ball = SeenSphere::from_silhouette(camera, [300.0, 250.0], 120.0);
        let (x, y) = (300.0 + dx, 250.0 + dy);
        if let Some((n, _)) = ball.normal_and_view(x, y) {
            let (px, py) = ball.pixel_of_normal(&n, &camera);
            prop_assert!((px - x).abs() < 1e-6 && (py - y).abs() < 1e-6);
        }
    }
}
