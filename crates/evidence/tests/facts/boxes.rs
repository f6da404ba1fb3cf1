//! Boxes seen at a corner: projected and painted from Lambert's law, read back. Pictures of another renderer are read by
//! `evaluation boxes`.

use direction::cuboid::{CuboidProblem, pose};
use evidence::marks::Marks;
use evidence::read::read;
use evidence::readings::Readings;
use optics::geometry::{AzEl, Camera, Vec3, angle_between};
use optics::photo::{Photo, Samples};
use optics::tone::Encoding;
use proptest::prelude::*;
use serde_json::json;

const W: u32 = 320;
const H: u32 = 300;

/// A box: unit edges from its nearest corner away, camera frame, with lengths, and where the corner lies.
struct Box {
    camera: Camera,
    corner: Vec3,
    edges: [Vec3; 3],
    lengths: [f64; 3],
}

impl Box {
    /// Turned about the upright by `yaw` (18 to 72 shows two sides well), seen from `down` above.
    fn seen(camera: Camera, yaw: f64, down: f64, lengths: [f64; 3], distance: f64) -> Box {
        let (s, c) = yaw.to_radians().sin_cos();
        let tip = nalgebra::Rotation3::from_axis_angle(&Vec3::x_axis(), down.to_radians());
        let edges = [-Vec3::y(), Vec3::new(c, 0.0, -s), Vec3::new(-s, 0.0, -c)].map(|e| tip * e);
        let up = if camera.pitch == 0.0 && camera.focal_px > 1e5 { 0.0 } else { 0.02 };
        Box { camera, corner: Vec3::new(0.0, up, -1.0) * distance, edges, lengths: lengths.map(|l| l * distance) }
    }

    fn px(&self, p: &Vec3) -> [f64; 2] {
        let k = self.camera.focal_px / -p.z;
        [self.camera.centre[0] + p.x * k, self.camera.centre[1] - p.y * k]
    }

    fn ends(&self) -> [[f64; 2]; 3] {
        [0, 1, 2].map(|k| self.px(&(self.corner + self.edges[k] * self.lengths[k])))
    }

    /// Painted with one reflectance under far lights (direction, level) and light from all around.
    fn painted(&self, lights: &[(Vec3, f64)], around: f64, paints: [f64; 3]) -> Photo {
        let colour = |x: f64, y: f64| {
            let ray = -self.camera.view(x, y);
            (0..3)
                .find_map(|k| {
                    let n = -self.edges[k];
                    let t = self.corner.dot(&n) / ray.dot(&n);
                    let at = ray * t - self.corner;
                    let inside = |j: usize| (0.0..=self.lengths[j]).contains(&at.dot(&self.edges[j]));
                    let on = t > 0.0 && inside((k + 1) % 3) && inside((k + 2) % 3);
                    let light: f64 = lights.iter().map(|(d, l)| l * n.dot(d).max(0.0)).sum();
                    on.then_some(paints[k] * (light + around))
                })
                .unwrap_or(0.02)
        };
        let mut rgb = Vec::new();
        for (x, y) in (0..H).flat_map(|y| (0..W).map(move |x| (x, y))) {
            let v = colour(f64::from(x) + 0.5, f64::from(y) + 0.5);
            rgb.extend([v as f32; 3]);
        }
        Photo::new(W, H, Samples::Linear(rgb), &Encoding::Srgb).expect("a photo")
    }

    fn marks(&self, more: &serde_json::Value) -> Marks {
        let mut mark = json!({"id": "x", "kind": "cuboid", "corner": self.px(&self.corner), "ends": self.ends()});
        let fields = more.as_object().cloned().unwrap_or_default();
        mark.as_object_mut().expect("an object").extend(fields);
        let vfov = 2.0 * (f64::from(H) / 2.0 / self.camera.focal_px).atan().to_degrees();
        // of one from very far nothing is said
        let camera = if vfov > 1.0 { json!({"vfov_deg": vfov}) } else { json!({}) };
        Marks::from_value(json!({"format": "slant-marks/1", "camera": camera, "marks": [mark]})).expect("marks")
    }
}

fn near() -> Camera {
    Camera::from_vfov(W, H, 24.0, 0.0)
}

fn at(az: f64, el: f64) -> Vec3 {
    AzEl { azimuth_deg: az, elevation_deg: el }.vector()
}

fn off(r: &Readings, d: &Vec3) -> f64 {
    angle_between(&r.lights[0].at().vector(), d).to_degrees()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]
    /// Four points of a box seen in perspective, with the camera's angle known, give its turn exactly: edges at right angles leave
    /// no freedom (Kanade 1981 from far; least squares in perspective).
    #[test]
    fn four_points_turn_a_box(yaw in 18.0f64..72.0, down in 12.0f64..55.0, a in 0.08f64..0.25, b in 0.08f64..0.25, c in 0.08f64..0.25, order in 0usize..6) {
        let seen = Box::seen(near(), yaw, down, [a, b, c], 1.3);
        // the order in which the edges are marked does not matter
        let of = [[0, 1, 2], [0, 2, 1], [1, 0, 2], [1, 2, 0], [2, 0, 1], [2, 1, 0]][order];
        let ends = of.map(|k| seen.ends()[k]);
        let posed = pose(seen.camera, seen.px(&seen.corner), ends).expect("a box");
        for (k, j) in of.into_iter().enumerate() {
            let degrees = angle_between(&posed.edges[k], &seen.edges[j]).to_degrees();
            prop_assert!(degrees < 0.05, "{degrees} degrees");
        }
        let grow = posed.lengths[0] / seen.lengths[of[0]];
        for (k, j) in of.into_iter().enumerate() {
            prop_assert!((posed.lengths[k] / seen.lengths[j] / grow - 1.0).abs() < 0.002);
        }
    }

    /// One light on sides of one paint: three brightnesses are the three parts of its direction (Lambert's law).
    #[test]
    fn three_sides_tell_where_the_light_is(az in -40.0f64..40.0, el in 5.0f64..60.0, yaw in 30.0f64..60.0, around in 0.0f64..0.12) {
        let seen = Box::seen(near(), yaw, 32.0, [0.2, 0.16, 0.16], 1.3);
        let light = at(az, el);
        // one that reaches all three sides
        let parts = seen.edges.map(|e| -e.dot(&light));
        let [least, most] = [parts.iter().copied().fold(1.0, f64::min), parts.iter().copied().fold(0.0, f64::max)];
        let second = parts.iter().sum::<f64>() - least - most;
        // and two of them well: what is under a quarter may come from all around
        prop_assume!(least > 0.12 && second > 0.4 && most > 1.3 * least);
        let r = read(&seen.painted(&[(light, 1.0)], around, [0.5; 3]), &seen.marks(&json!({})), None, &|| &[]);
        prop_assert!(!r.lights.is_empty(), "{:?} {}", r.warnings, r.by_mark["x"].says);
        prop_assert!(off(&r, &light) < 2.0 * r.lights[0].direction_sd_deg, "{} ± {} for {az} {el}", r.slant, r.lights[0].direction_sd_deg);
        prop_assert!(off(&r, &light) < 14.0 && r.lights[0].direction_sd_deg < 32.0, "{} for {az} {el}", r.slant);
    }
}

#[test]
fn from_far_the_closed_form_holds() {
    // a cube seen along its body diagonal: its edges lie 120 degrees apart, each side faces 54.7 degrees off the lens (geometry)
    let ends = [90.0f64, 210.0, 330.0].map(|d| {
        let (s, c) = d.to_radians().sin_cos();
        [160.0 + 60.0 * c, 150.0 + 60.0 * s]
    });
    let posed = pose(Camera::far(W, H), [160.0, 150.0], ends).expect("a box");
    for k in 0..3 {
        let tilt = posed.normal(k).z.acos().to_degrees();
        assert!((tilt - 54.7356).abs() < 0.01, "{tilt}");
    }
    assert!((posed.lengths[0] / posed.lengths[1] - 1.0).abs() < 1e-6);
}

#[test]
fn a_side_says_what_it_mirrors() {
    // a level top seen from 30 degrees above sends the eye to what stands behind, as high as the lens stands over it: 30 degrees up
    // from the table, 60 from the lens's axis and straight over it (angle of incidence is angle of reflection)
    let seen = Box::seen(Camera::far(W, H), 45.0, 30.0, [2e-5, 1.4e-5, 1.4e-5], 1.0);
    let r = read(&seen.painted(&[(at(0.0, 40.0), 1.0)], 0.0, [0.5; 3]), &seen.marks(&json!({})), None, &|| &[]);
    let top = r.by_mark["x"].sides.iter().find(|s| s.name == "top").expect("a top");
    let to = AzEl { azimuth_deg: top.mirrors_azimuth_deg, elevation_deg: top.mirrors_elevation_deg }.vector();
    // the lens looks along -z and 30 degrees down on it: the mirrored ray is the view turned about the top's normal
    let normal = at(0.0, 60.0);
    let expected = 2.0 * normal.z * normal - Vec3::z();
    assert!(angle_between(&to, &expected).to_degrees() < 0.5, "{top:?}");
    assert!((top.elevation_deg - 60.0).abs() < 0.3, "{top:?}");
}

#[test]
fn what_is_not_known_is_said() {
    let seen = Box::seen(near(), 40.0, 30.0, [0.2, 0.16, 0.16], 1.3);
    let lit = seen.painted(&[(at(-30.0, 40.0), 1.0)], 0.05, [0.5; 3]);
    // sides of other paints: their tones are told, the light is not
    let r = read(&lit, &seen.marks(&json!({"unlike": true})), None, &|| &[]);
    assert!(r.lights.is_empty() && r.by_mark["x"].sides.len() == 3, "{}", r.slant);
    // as bright as each other: no light leads
    let r = read(&seen.painted(&[], 0.5, [0.5; 3]), &seen.marks(&json!({})), None, &|| &[]);
    assert!(r.lights.is_empty() && r.by_mark["x"].says.contains("cannot be told"), "{}", r.by_mark["x"].says);
    assert!(r.by_mark["x"].says.contains("hardly shows"));
    // both upright sides in shade, the top lit from behind: the spread is wide, and holds it
    let behind = at(150.0, 60.0);
    let r = read(&seen.painted(&[(behind, 1.0)], 0.08, [0.5; 3]), &seen.marks(&json!({})), None, &|| &[]);
    assert!(
        r.lights[0].direction_sd_deg > 20.0 && off(&r, &behind) < 2.0 * r.lights[0].direction_sd_deg,
        "{} ± {}",
        r.slant,
        r.lights[0].direction_sd_deg
    );
}

#[test]
fn no_corner_no_box() {
    let c = Camera::far(W, H);
    assert_eq!(pose(c, [100.0, 100.0], [[100.0, 150.0], [140.0, 140.0], [60.0, 90.0]]), Err(CuboidProblem::NoCorner));
    assert_eq!(pose(c, [100.0, 100.0], [[100.0, 105.0], [140.0, 80.0], [60.0, 90.0]]), Err(CuboidProblem::Short));
    let seen = Box::seen(near(), 40.0, 30.0, [0.2, 0.16, 0.16], 1.3);
    let photo = seen.painted(&[(at(-30.0, 40.0), 1.0)], 0.05, [0.5; 3]);
    let mut marks =
        seen.marks(&json!({"ends": [[600.0, 700.0], [690.0, 550.0], [510.0, 550.0]], "corner": [600.0, 600.0]}));
    let r = read(&photo, &marks, None, &|| &[]);
    assert!(r.warnings.iter().any(|w| w.code == "cuboid_unread"), "{:?}", r.warnings);
    // not a number is refused before it is read
    if let evidence::marks::MarkKind::Cuboid(b) = &mut marks.marks[0].kind {
        b.corner[0] = f64::NAN;
    }
    assert!(marks.check().expect_err("refused").contains("corner"));
}
