//! Faces read with the stand-in heads. Truth is the set the studio drew; the other renderer's heads are
//! read by `slantcast eval-portrait`.

use direction::face::{FaceProblem, Hint, LANDMARKS, Marked, Pose, PoseProblem, bank, follow, gap, read};
use evidence::marks::{Face, MarkKind, Point};
use lightset::set::LightSet;
use optics::geometry::{AzEl, Camera, angle_between};
use optics::photo::{Photo, Samples};
use optics::tone::Encoding;
use std::collections::BTreeMap;

type Points = BTreeMap<String, Point>;

fn set(yaw: f64, lights: &[(f64, f64, f64, f64)]) -> LightSet {
    let lights: Vec<serde_json::Value> = lights
        .iter()
        .map(|(az, el, diameter, stops)| {
            serde_json::json!({ "name": "lamp", "azimuth_deg": az, "elevation_deg": el, "distance_m": 1.7,
                "source": { "kind": "disc", "diameter_m": diameter }, "level": { "stops": stops } })
        })
        .collect();
    let value = serde_json::json!({
        "format": "slant-set/1",
        "subjects": [{ "kind": "head_long", "yaw_deg": yaw }],
        "camera": { "position_m": [0, -0.03, 1.9], "aim_m": [0, -0.03, 0], "vfov_deg": 12,
            "exposure": { "f_number": 8, "shutter_s": 0.008, "iso": 100 } },
        "lights": lights,
        "ambient": { "level": { "stops": -3.5 } },
        "picture": { "width": 240, "height": 320 }
    });
    LightSet::from_value(value).unwrap().set
}

fn photo(set: &LightSet) -> (Photo, Camera, Points) {
    let pixels = studio::picture(set).unwrap().iter().map(|v| v.min(1.0)).collect();
    let photo = Photo::new(240, 320, Samples::Linear(pixels), &Encoding::Linear).unwrap();
    let marks = studio::marks(set);
    let (camera, _) = marks.camera_for(240, 320);
    let points = marks
        .marks
        .iter()
        .find_map(|m| match &m.kind {
            MarkKind::Face(Face { points, .. }) => Some(points.clone()),
            _ => None,
        })
        .unwrap_or_default();
    (photo, camera, points)
}

/// Named points alone, as a person marks them.
fn by_hand(named: &Points) -> Marked<'_> {
    Marked { named, mesh: &[] }
}

fn off(r: &direction::face::FaceReading, az: f64, el: f64) -> f64 {
    let want = AzEl { azimuth_deg: az, elevation_deg: el }.vector();
    r.lights.iter().map(|l| angle_between(&l.direction, &want).to_degrees()).fold(f64::MAX, f64::min)
}

#[test]
fn a_key_is_read_from_a_face_and_its_turn() {
    let (p, camera, points) = photo(&set(18.0, &[(-45.0, 32.0, 0.35, 0.0)]));
    let r = read(&p, camera, by_hand(&points), studio::stand_ins(), &[]).unwrap();
    assert_eq!(r.lights.len(), 1, "{:?}", r.lights);
    // eight degrees: what a reading from landmarks alone should reach at the least
    assert!(off(&r, -45.0, 32.0) < 8.0, "{:?}", AzEl::of(&r.lights[0].direction));
    // the turn may be off by one of the steps of seven degrees it is tried in
    assert!((r.pose_deg[0] - 18.0).abs() < 8.0, "{:?}", r.pose_deg);
    // the ambient of the set, against the key, in stops
    let (a, _) = r.log_ambient.unwrap();
    let stops = (a - r.lights[0].log_level.unwrap().0) / std::f64::consts::LN_2;
    assert!((stops + 3.5).abs() < 0.7, "{stops}");
    assert_eq!(r.heads[0].0, "long puppet");
    assert_eq!(r.map.len(), r.samples);
}

#[test]
fn a_fill_on_the_other_side_is_a_second_light() {
    let (p, camera, points) = photo(&set(0.0, &[(45.0, 30.0, 0.3, 0.0), (-55.0, 5.0, 0.6, -1.5)]));
    let r = read(&p, camera, by_hand(&points), studio::stand_ins(), &[]).unwrap();
    assert_eq!(r.lights.len(), 2);
    assert!(off(&r, 45.0, 30.0) < 8.0 && off(&r, -55.0, 5.0) < 16.0);
    let level = |k: usize| r.lights[k].log_level.unwrap().0;
    assert!(((level(1) - level(0)) / std::f64::consts::LN_2 + 1.5).abs() < 0.5);
}

#[test]
fn no_light_from_behind_is_invented_and_a_rim_is_no_key() {
    // Lights from behind are told on the other renderer's heads by `slantcast eval-portrait`; puppets have no hair that shines.
    let lamp = (30.0, 28.0, 0.3, 0.0);
    let heads = studio::stand_ins();
    let (p, camera, points) = photo(&set(0.0, &[lamp]));
    let alone = read(&p, camera, by_hand(&points), heads, &[]).unwrap();
    assert!(alone.lights.iter().all(|l| l.direction.z > 0.0), "{:?}", alone.lights);
    for side in [-1.0, 1.0] {
        let (p, camera, points) = photo(&set(0.0, &[lamp, (side * 138.0, 28.0, 0.3, 0.0)]));
        let r = read(&p, camera, by_hand(&points), heads, &[]).unwrap();
        let level = |l: &direction::Seen| l.log_level.unwrap().0;
        let key = r.lights.iter().max_by(|a, b| level(a).total_cmp(&level(b))).unwrap();
        assert!(key.direction.z > 0.5, "{key:?}");
        // believed or not, it is not on the wrong side
        let behind = r.lights.iter().map(|l| l.direction).chain(r.refused.map(|r| r.0)).filter(|d| d.z < -0.2);
        assert!(behind.clone().all(|d| d.x * side > 0.0), "side {side}: {:?}", behind.collect::<Vec<_>>());
    }
}

#[test]
fn a_spot_in_the_shadow_of_the_nose_has_the_nose_before_it() {
    // Geometry: a nose of two centimetres and a light 30 degrees to the side and up reach the skin beside the mouth after one to
    // six centimetres; the forehead has nothing before it, and a line beside the head no skin.
    let (_, camera, points) = photo(&set(0.0, &[(-30.0, 30.0, 0.1, 0.0)]));
    let heads = studio::stand_ins();
    let key = AzEl { azimuth_deg: -30.0, elevation_deg: 30.0 }.vector();
    let (base, right) = (points["nose_base"], points["mouth_image_right"]);
    let spot = [0.55 * base[0] + 0.45 * right[0], 0.6 * base[1] + 0.4 * right[1]];
    let line = |p: Point| ([p[0] - 4.0, p[1] + 3.0], [p[0] + 4.0, p[1] - 3.0]);
    let g = gap(heads, &points, &camera, line(spot), &key).unwrap();
    assert!((0.01..0.06).contains(&g.gap_m), "{g:?}");
    assert!(g.across > 0.3 && g.across < 2.5 && g.log_sd >= 0.25, "{g:?}");
    assert!(gap(heads, &points, &camera, line([5.0, 5.0]), &key).is_none());
}

#[test]
fn catchlights_sharpen_and_cannot_overrule() {
    let (p, camera, points) = photo(&set(0.0, &[(30.0, 30.0, 0.2, 0.0)]));
    let hint = |az: f64| Hint {
        direction: AzEl { azimuth_deg: az, elevation_deg: 30.0 }.vector(),
        sd: 0.05,
        size: None,
        complete: true,
    };
    let right = read(&p, camera, by_hand(&points), studio::stand_ins(), &[hint(30.0)]).unwrap();
    assert!(off(&right, 30.0, 30.0) < 3.0);
    // a tear on the wrong side does not move the key
    let wrong = read(&p, camera, by_hand(&points), studio::stand_ins(), &[hint(-60.0)]).unwrap();
    assert!(off(&wrong, 30.0, 30.0) < 8.0);
}

#[test]
fn a_dragged_landmark_is_followed_and_the_key_stays_the_key() {
    let (p, camera, mut points) = photo(&set(0.0, &[(-45.0, 32.0, 0.35, 0.0), (55.0, 5.0, 0.9, -1.3)]));
    let heads = studio::stand_ins();
    let full = read(&p, camera, by_hand(&points), heads, &[]).unwrap();
    for (name, by) in [("nose_tip", [2.0, 0.0]), ("chin", [0.0, -2.0]), ("eye_image_left", [1.0, 1.0])] {
        let point = points.get_mut(name).unwrap();
        *point = [point[0] + by[0], point[1] + by[1]];
        let now = follow(&p, camera, by_hand(&points), heads, &full).unwrap();
        assert_eq!(now.lights.len(), full.lights.len());
        let way = angle_between(&now.lights[0].direction, &full.lights[0].direction).to_degrees();
        assert!(way < 8.0, "{name}: the key went {way:.1} degrees");
        let level = |l: &direction::Seen| l.log_level.unwrap().0;
        assert!(now.lights.iter().all(|l| level(l) <= level(&now.lights[0]) + 1e-9));
    }
}

#[test]
fn what_is_no_face_is_said() {
    let (p, camera, points) = photo(&set(0.0, &[(30.0, 30.0, 0.2, 0.0)]));
    let heads = studio::stand_ins();
    let why = |points: &Points| read(&p, camera, by_hand(points), heads, &[]).unwrap_err();
    assert_eq!(read(&p, camera, by_hand(&points), &[], &[]).unwrap_err(), FaceProblem::NoHeads);
    assert_eq!(why(&Points::new()), FaceProblem::Pose(PoseProblem::TooFew));
    let few: Points = points.iter().filter(|(n, _)| n.starts_with("eye")).map(|(n, p)| (n.clone(), *p)).collect();
    assert_eq!(why(&few), FaceProblem::Pose(PoseProblem::TooFew));
    let tiny: Points = points.iter().map(|(n, p)| (n.clone(), p.map(|v| v * 0.02))).collect();
    assert_eq!(why(&tiny), FaceProblem::Pose(PoseProblem::TooSmall));
    let away: Points = points.iter().map(|(n, p)| (n.clone(), p.map(|v| v + 5000.0))).collect();
    assert_eq!(why(&away), FaceProblem::Hidden);
    let heap: Points =
        points.keys().enumerate().map(|(i, n)| (n.clone(), [(i * 97 % 240) as f64, (i * 61 % 320) as f64])).collect();
    assert!(matches!(why(&heap), FaceProblem::Pose(_)));
}

#[test]
fn landmarks_give_the_pose_they_were_made_with() {
    // a stand-in's own landmarks, turned and projected by the rules of the frame (an identity)
    let camera = Camera::far(640, 640);
    for head in studio::stand_ins() {
        assert!(LANDMARKS.iter().all(|n| head.landmarks.contains_key(n)), "{}", head.name);
        for (yaw, pitch) in [(0.0f64, 0.0f64), (25.0, 0.0), (-20.0, 6.0)] {
            let ((sy, cy), (sp, cp)) = (yaw.to_radians().sin_cos(), pitch.to_radians().sin_cos());
            let points: Points = head
                .landmarks
                .iter()
                .map(|(n, p)| {
                    let (y, z) = (p.y * cp + p.z * sp, -p.y * sp + p.z * cp);
                    let x = p.x * cy + z * sy;
                    ((*n).to_owned(), [320.0 + 1500.0 * x, 300.0 - 1500.0 * y])
                })
                .collect();
            let pose = Pose::fit(head, &points, &camera, 0.0).unwrap();
            let [turned, nodded, _] = pose.degrees();
            assert!((turned - yaw).abs() < 3.5, "{}: {turned} for {yaw}", head.name);
            assert!((nodded - pitch).abs() < 3.0, "{}: {nodded} for {pitch}", head.name);
        }
    }
}

#[test]
fn the_bank_is_even_and_the_nose_casts_a_shadow() {
    // evenly spread directions sum to nothing, and pairs are mirror images
    let sum = bank().iter().sum::<optics::geometry::Vec3>() / bank().len() as f64;
    assert!(sum.norm() < 0.01);
    assert!(bank().chunks(2).all(|p| (p[0].x + p[1].x).abs() < 1e-12 && p[0].y == p[1].y));
    for head in studio::stand_ins() {
        // beside the nose on image left, light from image right is shut out and from the lens is not
        let spot = optics::geometry::Vec3::new(-0.020, head.landmarks["nose_tip"].y, 0.0);
        let near = |p: &direction::face::SkinPoint| (p.at.x - spot.x).hypot(p.at.y - spot.y);
        let i =
            (0..head.points.len()).min_by(|a, b| near(&head.points[*a]).total_cmp(&near(&head.points[*b]))).unwrap();
        let sees = |az: f64| {
            let d = AzEl { azimuth_deg: az, elevation_deg: 5.0 }.vector();
            let j = (0..bank().len()).max_by(|a, b| bank()[*a].dot(&d).total_cmp(&bank()[*b].dot(&d))).unwrap();
            head.sees(i, j)
        };
        assert!(sees(0.0), "{}", head.name);
        assert!(!sees(80.0), "{}", head.name);
    }
}
