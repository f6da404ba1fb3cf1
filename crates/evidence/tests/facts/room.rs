//! Whole rooms, painted on a mirror and a matte ball from the laws of mirrors and of diffuse surfaces.

use evidence::marks::Marks;
use evidence::read::{Memory, light_map, read, read_again};
use evidence::readings::Readings;
use optics::geometry::*;
use optics::light_map::LightMap;
use optics::photo::{Photo, Samples};
use optics::tone::{Encoding, linear_to_srgb};

const W: u32 = 360;
const H: u32 = 180;
const MATTE: ([f64; 2], f64) = ([85.0, 90.0], 60.0);
const MIRROR: ([f64; 2], f64) = ([275.0, 90.0], 60.0);

/// A room of grey walls, darker below, with a window of `level` that fills `size` degrees.
fn room(az: f64, el: f64, size: f64, level: f32) -> LightMap {
    let mut map = LightMap::black(180);
    let towards = AzEl { azimuth_deg: az, elevation_deg: el }.vector();
    for i in 0..map.len() {
        let d = map.direction(i);
        // walls lighter towards the window, a darker floor
        let wall = if d.y < -0.4 { 0.10 } else { 0.22 + 0.12 * d.dot(&towards) as f32 };
        let v = if angle_between(&d, &towards).to_degrees() < size / 2.0 { level } else { wall };
        map.cells_mut()[i] = [v; 3];
    }
    map
}

/// The two balls in it: what the mirror shows, and a matte surface of reflectance one half (`L = rho E / pi`, Lambert).
fn picture(room: &LightMap) -> Photo {
    let camera = Camera::far(W, H);
    let [matte, mirror] = [MATTE, MIRROR].map(|(c, r)| SeenSphere::from_silhouette(camera, c, r));
    let small = room.coarser(45);
    let mut rgb = Vec::new();
    for y in 0..H {
        for x in 0..W {
            let (px, py) = (f64::from(x) + 0.5, f64::from(y) + 0.5);
            let l = if let Some((n, _)) = matte.normal_and_view(px, py) {
                0.5 / std::f64::consts::PI * small.irradiance(&n)
            } else if let Some(d) = mirror.mirrored(px, py) {
                0.9 * room.luminance(room.cell_of(&d))
            } else {
                0.2
            };
            rgb.extend([(255.0 * linear_to_srgb(l.min(1.0))).round() as u8; 3]);
        }
    }
    Photo::new(W, H, Samples::U8(rgb), &Encoding::Srgb).unwrap()
}

fn marks(matte: bool) -> Marks {
    let ball = |id: &str, finish: &str, (c, r): ([f64; 2], f64)| {
        format!(r#"{{"id":"{id}","kind":"ball","finish":"{finish}","centre":[{},{}],"radius_px":{r}}}"#, c[0], c[1])
    };
    let mut balls = vec![ball("mirror", "mirror", MIRROR)];
    if matte {
        balls.push(ball("matte", "matte", MATTE));
    }
    Marks::parse(&format!(r#"{{"format":"slant-marks/1","marks":[{}]}}"#, balls.join(","))).unwrap()
}

fn of(room: &LightMap, matte: bool) -> Readings {
    read(&picture(room), &marks(matte), None, &|| &[])
}

#[test]
fn a_window_that_is_clipped_is_found_with_its_share_of_the_light() {
    let room = room(-50.0, 20.0, 30.0, 8.0);
    let r = of(&room, true);
    let view = r.room.as_ref().expect("a room");
    assert_eq!(r.lights.len(), 1, "{}", r.slant);
    let window = AzEl { azimuth_deg: -50.0, elevation_deg: 20.0 }.vector();
    assert!(angle_between(&r.lights[0].at().vector(), &window).to_degrees() < 2.5, "{}", r.slant);
    let [low, high] = r.lights[0].angular_size_range_deg.unwrap();
    assert!(low < 30.0 && 30.0 < high, "{low} to {high}");
    // E of a disc of half angle 15 degrees: pi L sin^2 a (Howell B-13), of all that falls on a surface facing it
    let own = 8.0 * std::f64::consts::PI * 15f64.to_radians().sin().powi(2);
    let share = own / room.irradiance(&window);
    assert!((view.key_share - share).abs() < 0.08, "{} for {share:.2}", view.key_share);
    assert!(view.leads && view.inferred > 0.3, "{view:?}");
    assert_eq!(r.lights[0].evidence, ["mirror", "matte"]);
    let (mean, _) = room.mean();
    assert!((view.directional - mean.norm()).abs() < 0.04, "{} for {:.2}", view.directional, mean.norm());
    let says = AzEl { azimuth_deg: view.azimuth_deg, elevation_deg: view.elevation_deg }.vector();
    assert!(angle_between(&says, &mean).to_degrees() < 4.0);
    assert!(r.summary.iter().any(|s| s.contains("The room as a whole")), "{:?}", r.summary);
}

/// A matte ball is what tells how bright a clipped window is: twice the light is read as twice.
#[test]
fn how_bright_what_is_clipped_is_comes_from_the_matte_ball() {
    let gain = |level: f32| {
        let map = light_map(&picture(&room(40.0, 30.0, 24.0, level)), &marks(true)).unwrap();
        map.irradiance(&AzEl { azimuth_deg: 40.0, elevation_deg: 30.0 }.vector())
    };
    let truth = |level: f32| {
        room(40.0, 30.0, 24.0, level).irradiance(&AzEl { azimuth_deg: 40.0, elevation_deg: 30.0 }.vector())
    };
    let (read, true_) = (gain(12.0) / gain(6.0), truth(12.0) / truth(6.0));
    assert!((read / true_ - 1.0).abs() < 0.15, "{read:.2} for {true_:.2}");
}

#[test]
fn without_a_matte_ball_it_is_said_what_is_guessed() {
    let r = of(&room(-50.0, 20.0, 30.0, 8.0), false);
    assert!(r.warnings.iter().any(|w| w.code == "inferred"), "{:?}", r.warnings);
    assert!(r.room.unwrap().misfit_percent.is_none());
}

#[test]
fn where_no_light_leads_none_is_named() {
    // a ceiling that fades evenly into darker walls and floor
    let mut map = LightMap::black(180);
    for i in 0..map.len() {
        let v = (0.30 + 0.22 * map.direction(i).y) as f32;
        map.cells_mut()[i] = [v; 3];
    }
    let r = of(&map, true);
    assert!(r.lights.is_empty() && r.look.is_none(), "{}", r.slant);
    assert!(r.summary[0].starts_with("No single light leads"), "{:?}", r.summary);
    let view = r.room.unwrap();
    assert!(!view.leads && view.elevation_deg > 75.0, "{view:?}");
    // mean of (a + b y) y over the sphere is b / 3
    assert!((view.directional - 0.22 / 3.0 / 0.30).abs() < 0.03, "{}", view.directional);
}

/// A lamp before dark walls is no room: the balls' own methods are finer.
#[test]
fn a_lamp_before_dark_walls_is_read_as_before() {
    let mut map = LightMap::black(360);
    let lamp = AzEl { azimuth_deg: -50.0, elevation_deg: 20.0 }.vector();
    for i in 0..map.len() {
        let v = if angle_between(&map.direction(i), &lamp) < 0.1 { 0.9 } else { 0.004 };
        map.cells_mut()[i] = [v; 3];
    }
    let r = of(&map, true);
    assert!(r.room.is_none() && light_map(&picture(&map), &marks(true)).is_none());
    assert!(angle_between(&r.lights[0].at().vector(), &lamp).to_degrees() < 1.0, "{}", r.slant);
}

/// Two balls that are not in the same light: what the mirror shows does not explain the shading.
#[test]
fn a_matte_ball_in_another_light_is_not_explained_by_the_mirror() {
    let (mirrored, shaded) = (room(-60.0, 20.0, 30.0, 0.9), room(120.0, -20.0, 30.0, 8.0));
    let [one, other] = [&mirrored, &shaded].map(picture);
    let mut rgb = Vec::new();
    for (x, y) in (0..H).flat_map(|y| (0..W).map(move |x| (x, y))) {
        let v = if x > W / 2 { one.rgb(x, y) } else { other.rgb(x, y) };
        rgb.extend(v.map(|v| (255.0 * linear_to_srgb(f64::from(v))).round() as u8));
    }
    let both = Photo::new(W, H, Samples::U8(rgb), &Encoding::Srgb).unwrap();
    assert!(light_map(&both, &marks(true)).is_none());
}

#[test]
fn a_share_is_a_part_of_the_whole_and_has_a_spread() {
    // a window that fills a third of all there is
    let r = of(&room(10.0, 30.0, 80.0, 3.0), true);
    let view = r.room.unwrap();
    assert!(view.key_share > 0.5 && view.key_share <= 1.0 && view.key_share_sd > 0.0, "{view:?}");
    assert!((0.0..=1.0).contains(&view.inferred) && view.directional_sd > 0.0, "{view:?}");
}

/// Fifty balls on one place: the largest few are looked at, and none that lies over the mirror.
#[test]
fn many_balls_take_no_longer_than_a_few() {
    let photo = picture(&room(-50.0, 20.0, 30.0, 8.0));
    let few = light_map(&photo, &marks(true)).unwrap();
    let mut many = marks(true);
    let matte = many.marks.iter().find(|m| m.id == "matte").unwrap().clone();
    let mut over = many.marks.iter().find(|m| m.id == "mirror").unwrap().clone();
    if let evidence::marks::MarkKind::Ball(b) = &mut over.kind {
        b.finish = evidence::marks::Finish::Matte;
    }
    many.marks.extend((0..10).map(|k| evidence::marks::Mark { id: format!("more-{k}"), ..matte.clone() }));
    many.marks.push(evidence::marks::Mark { id: "over".into(), ..over });
    let all = light_map(&photo, &many).unwrap();
    let (few, all) = (few.mean().0, all.mean().0);
    assert!(angle_between(&few, &all).to_degrees() < 3.0);
}

/// While another mark is dragged the room is not read anew; while a ball is, it is read fast; let go, it is read in full.
#[test]
fn a_room_is_kept_while_other_marks_are_dragged() {
    let photo = picture(&room(-50.0, 20.0, 30.0, 8.0));
    let mut memory = Memory::default();
    let mut read = |m: &Marks| {
        let begun = std::time::Instant::now();
        (read_again(&photo, m, None, &|| &[], &mut memory).room.unwrap(), begun.elapsed())
    };
    let now = marks(true);
    let (first, full) = read(&now);
    let patch = r#"{"id":"p","kind":"patch","role":"lit","polygon":[[5,5],[15,5],[15,15]]}"#;
    let with = |x: f64| {
        let mut m: serde_json::Value = serde_json::to_value(&now).unwrap();
        let mut p: serde_json::Value = serde_json::from_str(patch).unwrap();
        p["polygon"][0][0] = x.into();
        m["marks"].as_array_mut().unwrap().push(p);
        Marks::from_value(m).unwrap()
    };
    let (kept, again) = read(&with(6.0));
    assert_eq!(kept, first);
    assert!(10 * again < full, "{again:?} of {full:?}");
    let mut moved = now.clone();
    if let evidence::marks::MarkKind::Ball(b) = &mut moved.marks[0].kind {
        b.centre[0] += 0.5;
    }
    let (dragged, fast) = read(&moved);
    assert!(3 * fast < full, "{fast:?} of {full:?}");
    assert!((dragged.directional - first.directional).abs() < 0.1, "{dragged:?}");
}
