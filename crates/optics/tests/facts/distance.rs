//! How light thins out: closed forms against each other and against sums over small parts.

use optics::exposure::{distance_from_walk, flash_aperture, inverse_square_loss};
use optics::falloff::*;
use optics::geometry::{Vec3, angular_size_of_solid_angle, solid_angle_of_angular_size};
use optics::ratio::{LevelSpread, LightingRatio, together};
use optics::units::{Metres, Stops};
use proptest::prelude::*;
use std::f64::consts::PI;

fn rectangle(a: f64, b: f64, d: f64) -> [Vec3; 4] {
    [[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]].map(|[x, y]| Vec3::new(x * a / 2.0, y * b / 2.0, d))
}

#[test]
fn a_large_source_close_by_gives_pi_times_its_radiance() {
    // a plane without end: E = pi L (Lambert's law, textbook)
    assert!((irradiance_from_disc(1.0, Metres(1e4), Metres(1.0)) - PI).abs() < 1e-6);
    let e = irradiance_from_polygon(1.0, &rectangle(1e4, 1e4, 1.0), &Vec3::zeros(), &Vec3::z());
    assert!((e - PI).abs() < 1e-3, "{e}");
}

#[test]
fn six_sides_of_a_cube_are_all_around() {
    // seen from the middle each side of a cube fills a sixth of the sphere (geometry)
    let side = solid_angle_of_rectangle(Metres(2.0), Metres(2.0), Metres(1.0));
    assert!((side - 4.0 * PI / 6.0).abs() < 1e-12);
    // the configuration factor of a square of twice its distance: 0.5541 (Howell's catalogue, B-3 and B-4 by four quarters:
    // 4 / (2 pi) * 2 * (1 / sqrt 2) * atan(1 / sqrt 2))
    let e = irradiance_from_polygon(1.0, &rectangle(2.0, 2.0, 1.0), &Vec3::zeros(), &Vec3::z()) / PI;
    let closed = 4.0 / (2.0 * PI) * 2.0 * (0.5f64.sqrt() * 0.5f64.sqrt().atan());
    assert!((e - closed).abs() < 1e-9, "{e} for {closed}");
}

proptest! {
    /// Lambert's edge sum against the sum over small parts: cosine at both ends over the square of the distance.
    #[test]
    fn a_rectangle_is_the_sum_of_its_parts(a in 0.2f64..2.0, b in 0.2f64..2.0, d in 0.6f64..4.0, tip in -60.0f64..60.0, turn in -180.0f64..180.0) {
        let (t, u) = (tip.to_radians(), turn.to_radians());
        let n = Vec3::new(t.sin() * u.cos(), t.sin() * u.sin(), t.cos());
        let got = irradiance_from_polygon(1.0, &rectangle(a, b, d), &Vec3::zeros(), &n);
        let parts = 160;
        let mut sum = 0.0;
        for (i, j) in (0..parts).flat_map(|i| (0..parts).map(move |j| (i, j))) {
            let at = |k: usize, side: f64| ((k as f64 + 0.5) / f64::from(parts as u32) - 0.5) * side;
            let p = Vec3::new(at(i, a), at(j, b), d);
            let l = p.normalize();
            sum += l.dot(&n).max(0.0) * l.z / p.norm_squared();
        }
        let summed = sum * a * b / f64::from((parts * parts) as u32);
        prop_assert!((got - summed).abs() < 2e-3 * summed.max(0.05), "{got} for {summed}");
    }

    /// From afar a source is a point: its light goes by the square of the distance (inverse-square law), within one per cent from
    /// five times its width on (common practice: the five times rule).
    #[test]
    fn five_times_its_width_away_a_source_is_a_point(width in 0.1f64..2.0, times in 5.0f64..30.0) {
        let at = |d: f64| irradiance_from_disc(1.0, Metres(width / 2.0), Metres(d));
        let d = times * width;
        let lost = (at(d) / at(2.0 * d)).log2();
        prop_assert!((lost - 2.0).abs() < 0.0145 * 1.0, "{lost}");
        prop_assert!((inverse_square_loss(Metres(d), Metres(2.0 * d)).0 - 2.0).abs() < 1e-12);
    }

    /// A walk and the stops it costs give the distance back.
    #[test]
    fn a_walk_tells_how_far_the_lamp_is(d in 0.3f64..6.0, walked in 0.1f64..3.0) {
        let drop = inverse_square_loss(Metres(d), Metres(d + walked));
        prop_assert!((distance_from_walk(Metres(walked), drop).0 / d - 1.0).abs() < 1e-9);
    }

    /// Angle and solid angle of a disc are each other's inverse, and what it fills is found again by distance.
    #[test]
    fn sizes_come_back(deg in 0.1f64..170.0, d in 0.2f64..8.0) {
        let a = deg.to_radians();
        prop_assert!((angular_size_of_solid_angle(solid_angle_of_angular_size(a)) / a - 1.0).abs() < 1e-6);
        let diameter = Metres(2.0 * d * (a / 2.0).tan());
        prop_assert!((angle_of_disc(diameter, Metres(d)) / a - 1.0).abs() < 1e-9);
        prop_assert!((distance_for_angle(diameter, a).0 / d - 1.0).abs() < 1e-9);
    }

    /// Two schools of one ratio: key and fill together to fill is one more than key to fill (definition), and fills add as light.
    #[test]
    fn ratios_of_both_schools_agree(fill in -5.0f64..0.0, second in -6.0f64..0.0) {
        let of = |stops: f64| LevelSpread { stops, sd_stops: 0.1 };
        let r = LightingRatio::over(of(fill));
        prop_assert!((r.key_plus_fill_to_fill - r.key_to_fill - 1.0).abs() < 1e-9);
        prop_assert!((r.key_to_fill.log2() + fill).abs() < 1e-9);
        let sum = together(&[of(fill), of(second)]).expect("a sum");
        prop_assert!((sum.stops.exp2() - fill.exp2() - second.exp2()).abs() < 1e-9);
        prop_assert!(sum.sd_stops <= 0.1 + 1e-9, "independent levels are known better together: {}", sum.sd_stops);
    }
}

#[test]
fn guide_numbers_are_worked_as_in_handbooks() {
    // guide number 36 at 4.5 m: f/8; four times the speed is twice the f-number; a quarter of the energy half of it (definition of
    // the guide number)
    assert!((flash_aperture(36.0, Metres(4.5), 100.0, 1.0).0 - 8.0).abs() < 1e-12);
    assert!((flash_aperture(36.0, Metres(4.5), 400.0, 1.0).0 - 16.0).abs() < 1e-12);
    assert!((flash_aperture(36.0, Metres(4.5), 100.0, 0.25).0 - 4.0).abs() < 1e-12);
    // from five feet, 0.8 stop nearer is 3.8 feet (worked example, common practice)
    let nearer = 5.0 / (Stops(0.8).0 / 2.0).exp2();
    assert!((nearer - 3.8).abs() < 0.02, "{nearer}");
}
