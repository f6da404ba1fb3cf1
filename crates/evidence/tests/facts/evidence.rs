//! Cast shadows, shadow edges, lines on cylinders: against geometry worked out by hand.

use direction::{cast, cylinder, penumbra};
use evidence::marks::Marks;
use optics::geometry::{AzEl, Camera, Vec3, angle_between};
use proptest::prelude::*;
use serde_json::json;
use trial::paint;

/// Pixel of a point for a camera at `height` over the floor, tilted down, the floor at y = 0.
fn pixel(c: &Camera, height: f64, p: Vec3) -> [f64; 2] {
    let down = Camera { pitch: -c.pitch, ..*c };
    let d = down.to_set(&(p - Vec3::new(0.0, height, 0.0)));
    [c.centre[0] + c.focal_px * d.x / -d.z, c.centre[1] - c.focal_px * d.y / -d.z]
}

/// Points that are known to half a pixel.
const SHARP: cast::PointsSd = cast::PointsSd { mark: 0.5, soft: 0.0 };

fn shadow(c: &Camera, az: f64, el: f64, h: f64) -> cast::CastPoints {
    let light = AzEl { azimuth_deg: az, elevation_deg: el }.vector();
    let base = Vec3::new(0.1, 0.0, -3.0);
    let top = base + Vec3::y() * h;
    let tip = top - light * (h / light.y);
    cast::CastPoints { base: pixel(c, 1.5, base), top: pixel(c, 1.5, top), tip: pixel(c, 1.5, tip) }
}

#[test]
fn a_stick_s_shadow_points_away_from_the_sun() {
    // A stick as long as its shadow: the sun stands at 45 degrees (atan 1).
    let c = Camera::from_vfov(640, 480, 40.0, 25.0);
    let r = cast::read(c, true, shadow(&c, 90.0, 45.0, 0.3), SHARP).unwrap();
    let want = Camera { pitch: -c.pitch, ..c }.to_set(&AzEl { azimuth_deg: 90.0, elevation_deg: 45.0 }.vector());
    assert!(angle_between(&r.direction, &want).to_degrees() < 0.01);
    assert!((r.relative_height - 0.2).abs() < 1e-6);
}

#[test]
fn a_shadow_without_a_camera_says_what_is_missing() {
    let c = Camera::from_vfov(640, 480, 40.0, 25.0);
    let p = shadow(&c, 30.0, 40.0, 0.3);
    assert_eq!(cast::read(c, false, p, SHARP).unwrap_err(), cast::CastProblem::NoCamera);
    let sky = cast::CastPoints { tip: [300.0, 2.0], ..p };
    assert_eq!(cast::read(Camera { pitch: 0.0, ..c }, true, sky, SHARP).unwrap_err(), cast::CastProblem::Horizon);
    assert_eq!(cast::read(c, true, cast::CastPoints { top: p.base, ..p }, SHARP).unwrap_err(), cast::CastProblem::Flat);
}

/// Share of a unit disc beyond a chord (circular segment).
fn disc(u: f64) -> f64 {
    let u = u.clamp(-1.0, 1.0);
    0.5 + (u * (1.0 - u * u).sqrt() + u.asin()) / std::f64::consts::PI
}

#[test]
fn an_edge_s_width_over_its_gap_is_the_light_s_angle() {
    // w(10-90) = 1.374 g tan(a / 2) for a disc (chord integral). 1000 px per metre, gap 0.2 m.
    for (deg, slope) in [(2.0f64, 0.0), (8.0, 0.3), (25.0, -0.4)] {
        let radius = 200.0 * (deg / 2.0).to_radians().tan();
        let cos = 1.0 / f64::hypot(1.0, slope);
        let photo = paint(260, 60, |x, y| 0.05 + 0.5 * disc((x - 130.0 - slope * (y - 30.0)) * cos / radius));
        let r = penumbra::read(&photo, [40.0, 30.0], [220.0, 30.0], Some(0.2), Some(1000.0)).unwrap();
        let (a, sd) = r.angle.unwrap();
        let off = (a.to_degrees() / deg).ln();
        assert!(off.abs() < 0.05, "{deg}: {:.2}", a.to_degrees());
        assert!(off.abs() < 2.0 * sd && sd < 0.4, "{deg}: {sd}");
        assert!((r.width_px / (1.374 * radius) - 1.0).abs() < 0.05 && !r.unresolved);
        // 0.55 against 0.05: 3.46 stops
        assert!((r.step_stops - 3.46).abs() < 0.1, "{}", r.step_stops);
    }
}

#[test]
fn a_sharp_edge_gives_an_upper_bound_and_no_edge_says_so() {
    let sharp = paint(120, 40, |x, _| if x < 60.0 { 0.05 } else { 0.5 });
    let r = penumbra::read(&sharp, [20.0, 20.0], [100.0, 20.0], Some(0.2), Some(1000.0)).unwrap();
    assert!(r.unresolved && r.angle.unwrap().0.to_degrees() < 0.7, "{r:?}");
    let even = paint(120, 40, |_, _| 0.3);
    assert_eq!(
        penumbra::read(&even, [20.0, 20.0], [100.0, 20.0], None, None).unwrap_err(),
        penumbra::EdgeProblem::NoEdge
    );
    assert_eq!(
        penumbra::read(&even, [20.0, 20.0], [21.0, 20.0], None, None).unwrap_err(),
        penumbra::EdgeProblem::Short
    );
    assert_eq!(
        penumbra::read(&even, [-90.0, 20.0], [300.0, 20.0], None, None).unwrap_err(),
        penumbra::EdgeProblem::Outside
    );
}

#[test]
fn a_line_on_a_cylinder_lies_where_twice_the_normal_s_turn_points() {
    // psi = asin s, azimuth 2 psi for a far camera: s from 0.5 to 0.6 is 60 to 73.7 degrees.
    let photo = paint(300, 200, |x, _| {
        let s = (x - 150.0) / 100.0;
        if (0.5..0.6).contains(&s) { 0.6 } else { 0.04 }
    });
    let far = Camera::far(300, 200);
    let r = cylinder::read(&photo, far, [[150.0, 190.0], [150.0, 10.0]], 100.0).unwrap();
    assert_eq!(r.strips.len(), 1);
    let s = &r.strips[0];
    assert!((s.from.to_degrees() - 60.0).abs() < 0.7 && (s.to.to_degrees() - 73.74).abs() < 0.7, "{s:?}");
    // 0.6 over 0.04: log2 of 15
    assert!((s.over_stops - 3.91).abs() < 0.1, "{s:?}");
    assert_eq!(r.gaps.len(), 2);
    assert!((r.gaps[0][1] - s.from).abs() < 1e-9);
    // marked upside down it is the same cylinder
    let again = cylinder::read(&photo, far, [[150.0, 10.0], [150.0, 190.0]], 100.0).unwrap();
    assert!((again.strips[0].from - s.from).abs() < 1e-9);
    assert_eq!(
        cylinder::read(&photo, far, [[150.0, 10.0], [150.0, 12.0]], 100.0).unwrap_err(),
        cylinder::CylinderProblem::TooSmall
    );
    assert_eq!(
        cylinder::read(&photo, far, [[900.0, 10.0], [900.0, 190.0]], 100.0).unwrap_err(),
        cylinder::CylinderProblem::Outside
    );
    let dull = paint(300, 200, |_, _| 0.2);
    assert!(cylinder::read(&dull, far, [[150.0, 190.0], [150.0, 10.0]], 100.0).unwrap().strips.is_empty());
}

#[test]
fn the_marks_are_read_together() {
    // A shadow tells the direction, an edge the size: one light with both.
    let c = Camera::from_vfov(260, 200, 40.0, 25.0);
    let p = shadow(&c, -40.0, 50.0, 0.3);
    let radius = 200.0 * 5f64.to_radians().tan();
    let photo = paint(260, 200, |x, _| 0.05 + 0.5 * disc((x - 130.0) / radius));
    let marks =
        Marks::from_value(json!({"format": "slant-marks/1", "camera": {"vfov_deg": 40, "pitch_deg": 25}, "marks": [
            {"id": "s1", "kind": "cast", "base": p.base, "top": p.top, "tip": p.tip},
            {"id": "n1", "kind": "penumbra", "a": [60, 100], "b": [200, 100], "gap_m": 0.2, "px_per_m": 1000},
            {"id": "n2", "kind": "penumbra", "a": [60, 120], "b": [200, 120]},
        ]}))
        .unwrap();
    let r = evidence::read::read(&photo, &marks, None, &|| &[]);
    assert_eq!(r.lights.len(), 1, "{r:?}");
    assert_eq!(r.lights[0].evidence, ["s1", "n1"]);
    assert!((r.lights[0].angular_size_deg.unwrap() - 10.0).abs() < 0.6, "{:?}", r.lights[0]);
    assert!(r.warnings.iter().any(|w| w.code == "edge_scale"));
    assert!(r.by_mark["n2"].says.contains("stops deep"), "{}", r.by_mark["n2"].says);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn any_shadow_on_the_floor_reads_back(az in -170.0..170.0f64, el in 20.0..80.0f64, h in 0.1..0.6f64, pitch in 15.0..45.0f64) {
        let c = Camera::from_vfov(640, 480, 50.0, pitch);
        let r = cast::read(c, true, shadow(&c, az, el, h), SHARP).unwrap();
        let want = Camera { pitch: -c.pitch, ..c }.to_set(&AzEl { azimuth_deg: az, elevation_deg: el }.vector());
        prop_assert!(angle_between(&r.direction, &want).to_degrees() < 0.05);
        prop_assert!(r.direction_sd > 0.0 && r.direction_sd < 1.0);
    }
}

/// A mark's level is relative to its own strongest light (an identity): an eye that mirrors only the fill
/// must not make it as strong as the key.
#[test]
fn levels_of_marks_that_see_different_lights_share_one_unit() {
    use direction::Seen;
    use direction::fusion::{Evidence, fuse};
    let sighting = |mark: &str, az: f64, level: f64| {
        let direction = AzEl { azimuth_deg: az, elevation_deg: 20.0 }.vector();
        let seen = Seen { direction, direction_sd: 0.05, log_size: None, log_level: Some((level, 0.1)), rgb: None };
        let relative_level = Some((level, 0.1));
        Evidence {
            mark: mark.into(),
            seen,
            otherwise: None,
            relative_level,
            counts_lights: false,
            shows: false,
            place_m: None,
        }
    };
    let quarter = 0.25f64.ln();
    let face = [sighting("face", 40.0, 0.0), sighting("face", -50.0, quarter)];
    let lights = fuse([&face[..], &[sighting("eye", -49.0, 0.0)]].concat());
    assert_eq!(lights.len(), 2);
    let level = |k: usize| lights[k].seen.log_level.unwrap().0;
    assert!(AzEl::of(&lights[0].seen.direction).azimuth_deg > 0.0, "the key is the face's");
    assert!((level(1) - quarter).abs() < 1e-9, "{}", level(1));
    // an eye that sees both confirms the difference; one that sees a light of its own says nothing of it
    let both = [sighting("eye", 41.0, 0.0), sighting("eye", -51.0, quarter)];
    let lights = fuse([&face[..], &both[..], &[sighting("other", 0.0, 0.0)]].concat());
    assert_eq!(lights.len(), 3);
    assert!((lights[1].seen.log_level.unwrap().0 - quarter).abs() < 1e-9);
    assert!(lights[2].seen.log_level.is_none());
}
