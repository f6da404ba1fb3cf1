//! The family of heads against measures of people, geometry and a slower way to see.

use heads::{Family, Point, family, sight};
use optics::geometry::{Vec3, fibonacci_sphere};
use proptest::prelude::*;

/// Points of the face mesh that are named here: tip of the nose, its base, outer corners of the eyes, corners of the mouth,
/// chin, middle of the forehead.
const TIP: usize = 4;
const BASE: usize = 2;
const EYE_LEFT: usize = 33;
const EYE_RIGHT: usize = 263;
const MOUTH_LEFT: usize = 61;
const MOUTH_RIGHT: usize = 291;
const CHIN: usize = 152;
const FOREHEAD: usize = 10;

fn eyes_apart(weights: &[f64]) -> f64 {
    let [l, r] = family().head(weights).eyes();
    (r - l).norm() * 1000.0
}

#[test]
fn the_eyes_of_the_mean_head_are_as_far_apart_as_people_s() {
    // Dodgson 2004, "Variation and extrema of human interpupillary distance": mean 63.4 mm, adults 52 to 78 (from memory)
    let mean = eyes_apart(&[]);
    assert!((58.0..68.0).contains(&mean), "{mean:.1} mm");
    for k in 0..family().components() {
        for w in [-2.0, 2.0] {
            let mut weights = vec![0.0; k + 1];
            weights[k] = w;
            let d = eyes_apart(&weights);
            assert!((50.0..78.0).contains(&d), "component {k} at {w}: {d:.1} mm");
        }
    }
}

#[test]
fn the_mean_face_has_the_measures_of_an_adult() {
    // ANSUR II 2012 (from memory): head breadth 154 mm men, 148 women; ear to ear is not over 170; lips 48 to 55 mm wide;
    // the nose stands 18 to 22 mm off the face (Farkas 1994)
    let head = family().head(&[]);
    let at = head.landmarks();
    // above the ears
    let (mut low, mut high) = (f64::MAX, f64::MIN);
    for v in head.vertices().iter().filter(|v| v.y > 0.045) {
        (low, high) = (low.min(v.x), high.max(v.x));
    }
    let breadth = 1000.0 * (high - low);
    assert!((135.0..170.0).contains(&breadth), "breadth {breadth:.0} mm");
    let mouth = 1000.0 * (at[MOUTH_RIGHT] - at[MOUTH_LEFT]).norm();
    assert!((42.0..60.0).contains(&mouth), "mouth {mouth:.0} mm");
    let nose = 1000.0 * (at[TIP].z - at[BASE].z);
    assert!((8.0..28.0).contains(&nose), "nose {nose:.0} mm");
    let tall = 1000.0 * (at[FOREHEAD].y - at[CHIN].y);
    assert!((140.0..200.0).contains(&tall), "forehead to chin {tall:.0} mm");
}

#[test]
fn landmarks_lie_where_their_names_say() {
    let head = family().head(&[]);
    let at = head.landmarks();
    assert_eq!(at.len(), 468);
    // nothing of a face stands before the tip of the nose, and left is left
    let first = at.iter().map(|p| p.z).fold(f64::MIN, f64::max);
    assert!(at[TIP].z > first - 0.004);
    assert!(at[EYE_LEFT].x < 0.0 && at[EYE_RIGHT].x > 0.0 && at[CHIN].y < at[BASE].y && at[FOREHEAD].y > 0.03);
    // faces are about even
    for (l, r) in [(EYE_LEFT, EYE_RIGHT), (MOUTH_LEFT, MOUTH_RIGHT)] {
        let other = Vec3::new(-at[r].x, at[r].y, at[r].z);
        assert!((at[l] - other).norm() < 0.006, "{l} and {r}: {}", at[l] - other);
    }
    assert!(at[TIP].x.abs() < 0.003);
    // all of them lie on the head
    for (k, p) in at.iter().enumerate() {
        let near = head.vertices().iter().map(|v| (v - p).norm()).fold(f64::MAX, f64::min);
        assert!(near < 0.015, "landmark {k} is {:.1} mm off", 1000.0 * near);
    }
}

#[test]
fn normals_are_unit_and_look_out() {
    let head = family().head(&[1.0, -1.0, 0.5]);
    let skin = head.skin();
    assert!(skin.len() > 600, "{} points", skin.len());
    let middle = Vec3::new(0.0, -0.02, -0.09);
    let out = skin.iter().filter(|p| p.normal.dot(&(p.at - middle)) > 0.0).count();
    assert!(out as f64 > 0.92 * skin.len() as f64, "{out} of {}", skin.len());
    assert!(skin.iter().all(|p| (p.normal.norm() - 1.0).abs() < 1e-9));
    // the forehead looks ahead and up, the cheeks to their sides
    let mean =
        |keep: &dyn Fn(&Point) -> bool| skin.iter().filter(|p| keep(p)).map(|p| p.normal).sum::<Vec3>().normalize();
    let forehead = mean(&|p| p.at.x.abs() < 0.02 && p.at.y > 0.035 && p.at.z > -0.04);
    assert!(forehead.z > 0.7, "{forehead}");
    let cheek = mean(&|p| p.at.x > 0.045 && (-0.06..-0.02).contains(&p.at.y));
    assert!(cheek.x > 0.6, "{cheek}");
}

#[test]
fn points_of_skin_are_evenly_spaced() {
    let skin = family().head(&[]).skin();
    let nearest = |i: usize| {
        let others = skin.iter().enumerate().filter(|(j, _)| *j != i).map(|(_, p)| (p.at - skin[i].at).norm());
        others.fold(f64::MAX, f64::min)
    };
    let all: Vec<f64> = (0..skin.len()).step_by(7).map(nearest).collect();
    assert!(all.iter().all(|d| *d > 0.0041), "nearest {:.4}", all.iter().copied().fold(f64::MAX, f64::min));
    let wide = all.iter().filter(|d| **d > 0.012).count();
    assert!(wide * 20 < all.len(), "{wide} of {} stand alone", all.len());
}

/// Whether a triangle is met on the way from a point (Moeller & Trumbore 1997).
fn meets(o: &Vec3, d: &Vec3, [a, b, c]: [Vec3; 3]) -> bool {
    let (e, f) = (b - a, c - a);
    let p = d.cross(&f);
    let det = e.dot(&p);
    if det.abs() < 1e-14 {
        return false;
    }
    let t = (o - a) / det;
    let u = t.dot(&p);
    let q = t.cross(&e);
    let (v, way) = (d.dot(&q), f.dot(&q));
    u >= 0.0 && v >= 0.0 && u + v <= 1.0 && way > 0.004
}

#[test]
fn what_a_point_sees_agrees_with_casting_rays() {
    let head = family().head(&[0.5, 0.0, -1.0]);
    let points: Vec<Point> = head.skin().into_iter().step_by(29).collect();
    // from above the horizon of the chest, which rays here do not know
    let directions: Vec<Vec3> = fibonacci_sphere(80).into_iter().filter(|d| d.y > 0.25).collect();
    let seen = sight(&head, &points, &directions);
    let (mut same, mut all) = (0, 0);
    for (d, row) in directions.iter().zip(&seen) {
        for (p, open) in points.iter().zip(row) {
            if p.normal.dot(d) < 0.15 {
                continue;
            }
            let from = p.at + p.normal * 0.0012;
            let corner = |i: u16| head.vertices()[usize::from(i)];
            let hidden = head.triangles().iter().any(|t| meets(&from, d, t.map(corner)));
            all += 1;
            same += usize::from(*open != hidden);
        }
    }
    println!("{same} of {all} alike");
    assert!(all > 400 && same as f64 > 0.93 * all as f64, "{same} of {all}");
}

#[test]
fn light_from_below_is_shut_out_by_the_chest_and_from_behind_by_the_head() {
    let head = family().head(&[]);
    let skin = head.skin();
    let forehead: Vec<Point> = skin.iter().filter(|p| p.normal.z > 0.9 && p.at.y > 0.03).copied().collect();
    let seen = sight(&head, &forehead, &[Vec3::z(), -Vec3::z(), Vec3::new(0.0, -0.96, 0.28)]);
    assert!(seen[0].iter().all(|o| *o), "a lamp at the lens lights the forehead");
    assert!(seen[1].iter().all(|o| !*o), "none behind the head does");
    let jaw: Vec<Point> = skin.iter().filter(|p| p.normal.y < -0.5 && p.at.y < -0.085).copied().collect();
    let below = sight(&head, &jaw, &[Vec3::new(0.0, -1.0, 0.02).normalize()]);
    let open = below[0].iter().filter(|o| **o).count();
    assert!(jaw.len() > 5 && open * 2 < jaw.len(), "{open} of {} points of the jaw see the floor", jaw.len());
}

/// The file as it ships.
const FILE: &[u8] = include_bytes!("../data/heads.bin");

#[test]
fn the_file_is_whole_and_small() {
    let f = Family::parse(FILE).expect("it ships whole");
    assert!(f.components() >= 40 && f.modes().len() >= 4 && f.landmarks().len() == 468);
    assert!(FILE.len() < 2_000_000, "{} bytes", FILE.len());
    assert!(Family::parse(b"").is_none() && Family::parse(b"something else").is_none());
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn a_file_that_is_cut_short_is_refused(cut in 0..FILE.len()) {
        prop_assert!(Family::parse(&FILE[..cut]).is_none());
    }

    #[test]
    fn heads_add_up(a in -2.0..2.0f64, b in -2.0..2.0f64, k in 0..8usize) {
        let f = family();
        let one = |w: f64| { let mut x = vec![0.0; k + 1]; x[k] = w; f.head(&x) };
        let (mean, x, y, sum) = (f.head(&[]), one(a), one(b), one(a + b));
        for i in (0..f.vertices()).step_by(401) {
            let m = mean.vertices()[i];
            let off = (x.vertices()[i] - m) + (y.vertices()[i] - m) - (sum.vertices()[i] - m);
            prop_assert!(off.norm() < 1e-6, "vertex {i}: {off}");
        }
    }
}
