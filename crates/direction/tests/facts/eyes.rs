//! Eyes painted by the law of reflection: a corneal sphere of 7.8 mm behind a limbus of 5.75 mm radius (Nishino and Nayar 2006).

use crate::picture;
use direction::eye::{CORNEA_RADIUS_MM, EyeReading, LIMBUS_RADIUS_MM, SettledBy, cornea_reflectance, read};
use direction::limbus;
use direction::shapes::Ellipse;
use optics::geometry::{AzEl, Camera, Vec3, angle_between};
use optics::photo::Photo;
use proptest::prelude::*;

const MIDDLE: [f64; 2] = [120.0, 100.0];

/// An eye on the picture: where it looks, and how large its limbus is, pixels.
#[derive(Clone, Copy)]
struct Eye {
    gaze: Vec3,
    limbus_px: f64,
}

impl Eye {
    fn straight(limbus_px: f64) -> Eye {
        Eye { gaze: Vec3::z(), limbus_px }
    }
    /// Turned towards a clock position (3 is the picture's right) by an angle.
    fn turned(limbus_px: f64, clock: f64, deg: f64) -> Eye {
        let (s, c) = (clock / 12.0 * std::f64::consts::TAU).sin_cos();
        Eye {
            gaze: Vec3::new(s * deg.to_radians().sin(), c * deg.to_radians().sin(), deg.to_radians().cos()),
            limbus_px,
        }
    }
    /// Its limbus as it is seen from afar: a circle seen aslant.
    fn ellipse(&self) -> Ellipse {
        let flat = self.gaze.z;
        let short = (-self.gaze.y).atan2(self.gaze.x).to_degrees();
        Ellipse {
            centre: MIDDLE,
            rx: self.limbus_px * flat,
            ry: self.limbus_px,
            angle_deg: if flat < 1.0 { short } else { 0.0 },
        }
    }
    /// The cornea's normal at a pixel.
    fn normal(&self, x: f64, y: f64) -> Option<Vec3> {
        let r = self.limbus_px * CORNEA_RADIUS_MM / LIMBUS_RADIUS_MM;
        let behind = (r * r - self.limbus_px * self.limbus_px).sqrt();
        let centre = [MIDDLE[0] - behind * self.gaze.x, MIDDLE[1] + behind * self.gaze.y];
        let (u, v) = ((x - centre[0]) / r, (centre[1] - y) / r);
        let z2 = 1.0 - u * u - v * v;
        (z2 > 0.0).then(|| Vec3::new(u, v, z2.sqrt()))
    }
    /// Under round lights: direction, full angle in degrees, radiance as it shows.
    fn photo(&self, lights: &[(Vec3, f64, f64)]) -> Photo {
        let e = self.ellipse();
        picture(|x, y| {
            let level = e.level(x, y);
            // a soft limbus of about a pixel
            let white = ((level - 1.0) * self.limbus_px + 0.5).clamp(0.0, 1.0);
            let iris = 0.06 * (1.0 - white) + 0.5 * white;
            let Some(n) = self.normal(x, y).filter(|_| level < 1.0) else { return iris };
            let r = 2.0 * n.z * n - Vec3::z();
            iris + lights
                .iter()
                .filter(|(l, full, _)| angle_between(&r, l).to_degrees() < full / 2.0)
                .map(|l| l.2)
                .sum::<f64>()
        })
    }
    fn read(&self, lights: &[(Vec3, f64, f64)], looks_to: Option<f64>) -> EyeReading {
        read(&self.photo(lights), Camera::far(240, 200), self.ellipse(), looks_to, None, false)
    }
}

fn at(az: f64, el: f64) -> Vec3 {
    AzEl { azimuth_deg: az, elevation_deg: el }.vector()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// A catchlight in an eye that looks at the lens stands at half the light's angle: the direction comes back.
    #[test]
    fn a_catchlight_tells_where_the_light_stands(az in -45.0f64..45.0, el in -25.0f64..45.0, full in 8.0f64..22.0, limbus_px in 45.0f64..70.0) {
        let light = at(az, el);
        prop_assume!(angle_between(&light, &Vec3::z()).to_degrees() < 60.0);
        let seen = Eye::straight(limbus_px).read(&[(light, full, 0.5)], None);
        prop_assert_eq!(seen.catchlights.len(), 1);
        prop_assert_eq!(seen.settled, SettledBy::Straight);
        let c = &seen.catchlights[0];
        let off = angle_between(&c.seen.direction, &light).to_degrees();
        prop_assert!(off < 2.5, "{off} degrees off");
        prop_assert!(off < 3.0 * c.seen.direction_sd.to_degrees(), "{off} of {}", c.seen.direction_sd.to_degrees());
        let (size, range) = c.seen.size_deg().expect("a size");
        prop_assert!((size / full).ln().abs() < 0.25, "{size} for {full}");
        prop_assert!(range[0] < size && size < range[1]);
    }

    /// The clock a cameraman would say: up is twelve, the picture's right is three (common practice).
    #[test]
    fn a_catchlight_stands_at_its_clock(clock in 0.0f64..12.0) {
        let (s, c) = (clock / 12.0 * std::f64::consts::TAU).sin_cos();
        let a = 35f64.to_radians();
        let light = Vec3::new(a.sin() * s, a.sin() * c, a.cos());
        let seen = Eye::straight(60.0).read(&[(light, 14.0, 0.5)], None);
        prop_assert_eq!(seen.catchlights.len(), 1);
        let apart = (seen.catchlights[0].clock - clock).rem_euclid(12.0);
        prop_assert!(apart.min(12.0 - apart) < 0.25, "{} for {clock}", seen.catchlights[0].clock);
    }

    /// An eye turned aside mirrors from elsewhere: with the side it looks to, the direction comes back all the same.
    #[test]
    fn a_turned_eye_is_allowed_for(clock in 0.0f64..12.0, deg in 15.0f64..30.0) {
        let eye = Eye::turned(64.0, clock, deg);
        let light = at(10.0, 15.0);
        let seen = eye.read(&[(light, 14.0, 0.5)], Some(clock));
        prop_assert_eq!(seen.settled, SettledBy::Mark);
        prop_assert!((seen.turned.to_degrees() - deg).abs() < 3.0, "turned {}", seen.turned.to_degrees());
        prop_assert!(!seen.contradiction);
        prop_assume!(!seen.catchlights.is_empty());
        let off = angle_between(&seen.catchlights[0].seen.direction, &light).to_degrees();
        prop_assert!(off < 5.0, "{off} degrees off");
    }

    /// The outline of a small iris that was marked a little off is found again.
    #[test]
    fn the_outline_of_a_small_iris_is_found(dx in -1.0f64..1.0, dy in -1.0f64..1.0, grow in 0.9f64..1.12, px in 6.0f64..9.0) {
        let eye = Eye::straight(px);
        let photo = eye.photo(&[]);
        let start = Ellipse { centre: [MIDDLE[0] + dx, MIDDLE[1] + dy], rx: px * grow, ry: px * grow, angle_deg: 0.0 };
        let found = limbus::settle(&photo, start).expect("an outline");
        let e = found.ellipse;
        let off = (e.centre[0] - MIDDLE[0]).hypot(e.centre[1] - MIDDLE[1]);
        prop_assert!(off < 0.6 + 2.0 * found.sd_px, "{off} pixels off, ± {}", found.sd_px);
        prop_assert!((e.rx - px).abs() < 0.9, "{} for {px}", e.rx);
    }
}

/// Two lights are two catchlights, the stronger first, and their levels differ as they do.
#[test]
fn two_lights_are_two_catchlights() {
    let (key, fill) = (at(-35.0, 30.0), at(40.0, 0.0));
    let seen = Eye::straight(64.0).read(&[(key, 16.0, 0.6), (fill, 16.0, 0.15)], None);
    assert_eq!(seen.catchlights.len(), 2);
    let near = |k: usize, d: &Vec3| angle_between(&seen.catchlights[k].seen.direction, d).to_degrees() < 3.0;
    assert!(near(0, &key) && near(1, &fill));
    let level = |k: usize| seen.catchlights[k].seen.log_level.expect("a level").0 / std::f64::consts::LN_2;
    let under = level(0) - level(1);
    // two stops, but for what the cornea mirrors more of aslant
    assert!((under - 2.0).abs() < 0.4, "{under}");
}

/// A turned eye of which nobody says where it looks, with white alike on both sides, keeps both answers; the true one is among them.
#[test]
fn an_open_turn_keeps_both_answers() {
    let eye = Eye::turned(64.0, 3.0, 25.0);
    let light = at(15.0, 20.0);
    let seen = eye.read(&[(light, 14.0, 0.5)], None);
    let c = seen.catchlights.first().expect("a catchlight");
    let (a, b) = (c.seen.direction, c.otherwise);
    let nearest = angle_between(&a, &light).min(b.map_or(f64::MAX, |b| angle_between(&b, &light))).to_degrees();
    assert!(nearest < 5.0, "{nearest}");
    if seen.settled == SettledBy::Open {
        assert!(b.is_some() && c.seen.direction_sd.to_degrees() > 10.0);
    }
    // and a side that the flattening cannot mean is named
    assert!(eye.read(&[(light, 14.0, 0.5)], Some(12.0)).contradiction);
}

/// A dark eye has no catchlight: none is invented.
#[test]
fn a_dark_eye_has_no_catchlight() {
    for px in [20.0, 45.0, 70.0] {
        assert!(Eye::straight(px).read(&[], None).catchlights.is_empty(), "{px}");
    }
}

/// What a cornea mirrors of light that falls on it square: ((n - 1) / (n + 1))² for n of 1.376 is 2.5 % (Fresnel; Gullstrand), and all
/// of it where it grazes.
#[test]
fn a_cornea_mirrors_a_fortieth() {
    let n: f64 = 1.376;
    assert!((cornea_reflectance(1.0) - ((n - 1.0) / (n + 1.0)).powi(2)).abs() < 1e-9);
    assert!((cornea_reflectance(1.0) - 0.025).abs() < 0.001);
    assert!((cornea_reflectance(0.0) - 1.0).abs() < 1e-9);
    let mut last = 0.0;
    for k in (0..=20).rev() {
        let now = cornea_reflectance(f64::from(k) / 20.0);
        assert!(now >= last, "less where it grazes more");
        last = now;
    }
}
