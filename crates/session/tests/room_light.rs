//! A room that a mirror ball shows, used as the light of a set: what the studio then gives is held against what the same room gave
//! in pictures of another renderer (tests/fixtures/rooms: balls in captured rooms and rooms of our own, by tests/fixtures/make_rooms.py).

use evidence::marks::{Ball, Finish, MarkKind, Marks};
use lightset::set::{AmbientLight, Level, LightSet, RoomMap};
use optics::light_map::LightMap;
use optics::photo::{Photo, Samples};
use optics::tone::Encoding;
use session::open;
use std::path::Path;

fn ball(marks: &Marks, wanted: Finish) -> Option<([f64; 2], f64)> {
    marks.marks.iter().find_map(|m| match &m.kind {
        MarkKind::Ball(Ball { finish, centre, radius_px }) if *finish == wanted => Some((*centre, *radius_px)),
        _ => None,
    })
}

/// A ball in a room, from far away.
fn set(kind: &str, room: RoomMap, side: u32) -> LightSet {
    let value = serde_json::json!({
        "format": "slant-set/1", "subjects": [{ "kind": kind }],
        "camera": { "position_m": [0, 0, 5], "vfov_deg": 1.9, "exposure": { "f_number": 5.6, "shutter_s": 0.008, "iso": 100 } },
        "picture": { "width": side, "height": side, "samples": 64 }
    });
    let mut set = LightSet::from_value(value).unwrap().set;
    set.ambient = Some(AmbientLight { level: Level::Stops { stops: 0.0 }, cct_k: None, map: Some(room) });
    set
}

/// Luminance over a ball at steps of its radius.
fn over(photo: &Photo, centre: [f64; 2], radius: f64) -> Vec<f64> {
    let steps = -8..=8;
    let mut out = Vec::new();
    for j in steps.clone() {
        for i in steps.clone() {
            let (x, y) = (f64::from(i) / 9.5, f64::from(j) / 9.5);
            if x.hypot(y) < 0.88 {
                out.push(photo.luminance_between(centre[0] + radius * x, centre[1] + radius * y).unwrap_or(0.0));
            }
        }
    }
    out
}

/// The room of a mirror ball lights a matte ball as the room itself does: within a third of a stop over the ball, in the root
/// mean square, for most; levels of both are set equal. What a ball in an 8-bit picture clips is what is missing.
#[test]
fn a_room_from_a_mirror_ball_lights_a_matte_ball_as_the_room_did() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../tests/fixtures/rooms");
    let mut files: Vec<_> = std::fs::read_dir(folder).unwrap().map(|f| f.unwrap().path()).collect();
    files.retain(|p| p.extension().is_some_and(|e| e == "png"));
    files.sort();
    let mut all = Vec::new();
    for file in files {
        let text = std::fs::read_to_string(file.with_extension("json")).unwrap();
        let value: serde_json::Value = serde_json::from_str(&text).unwrap();
        let mut marks = Marks::parse(&value["marks"].to_string()).unwrap();
        let opened = open(&std::fs::read(&file).unwrap()).unwrap();
        let Some((centre, radius)) = ball(&marks, Finish::Matte) else { continue };
        // the mirror alone must tell: the matte ball is what it is held against
        marks.marks.retain(|m| matches!(m.kind, MarkKind::Ball(Ball { finish: Finish::Mirror, .. })));
        let Some(map) = evidence::read::light_map(&opened.photo, &marks) else { continue };
        let drawn = studio::picture(&set("ball_matte", RoomMap::of(&map), 160)).unwrap();
        let drawn = Photo::new(160, 160, Samples::Linear(drawn), &Encoding::Linear).unwrap();
        // the ball of 7.5 cm at 5 m in 1.9 degrees
        let seen = 80.0 * (0.075f64 / 5.0).asin().tan() / 0.95f64.to_radians().tan();
        let (given, real) = (over(&drawn, [80.0, 80.0], seen), over(&opened.photo, centre, radius));
        let pairs: Vec<f64> = given
            .iter()
            .zip(&real)
            .filter(|(_, r)| (0.01..0.9).contains(*r))
            .map(|(g, r)| (g.max(1e-5) / r).log2())
            .collect();
        if pairs.len() < 60 {
            continue;
        }
        let mean = pairs.iter().sum::<f64>() / pairs.len() as f64;
        let rms = (pairs.iter().map(|p| (p - mean).powi(2)).sum::<f64>() / pairs.len() as f64).sqrt();
        println!("{}: {rms:.2} stops", file.file_stem().unwrap().to_string_lossy());
        all.push(rms);
    }
    assert!(all.len() >= 8, "{} rooms", all.len());
    all.sort_by(f64::total_cmp);
    let median = all[all.len() / 2];
    println!("median {median:.2}, worst {:.2} of {}", all[all.len() - 1], all.len());
    assert!(median < 0.33, "median {median:.2} stops");
}

/// A mirror ball drawn in a room and read again shows that room (unwrapping and tracing share no code): the mean light within
/// three degrees, and what it gives to surfaces that look to the lens, the sides and up within an eighth of a stop.
#[test]
fn a_mirror_ball_in_a_room_shows_that_room() {
    let mut room = LightMap::black(48);
    for i in 0..room.len() {
        let d = room.direction(i);
        // a window left, a ceiling, a dim floor
        let window = d.x < -0.6 && d.y.abs() < 0.4 && d.z > -0.4;
        let v = if window {
            4.0
        } else if d.y > 0.5 {
            0.8
        } else {
            0.25 - 0.1 * d.y as f32
        };
        room.cells_mut()[i] = [v, v, 0.9 * v];
    }
    let mut set = set("ball_mirror", RoomMap::of(&room), 480);
    // exposed so that the window is under white, as a careful person would
    set.ambient.as_mut().unwrap().level = Level::Stops { stops: -3.2 };
    let drawn = studio::picture(&set).unwrap();
    let photo = Photo::new(480, 480, Samples::Linear(drawn), &Encoding::Linear).unwrap();
    let mut marks = studio::marks(&set);
    marks.encoding = Some(Encoding::Linear);
    let read = evidence::read::light_map(&photo, &marks).expect("a room");
    let ((was, was_all), (is, is_all)) = (room.mean(), read.mean());
    let off = was.angle(&is).to_degrees();
    assert!(off < 3.0, "mean light {off:.1} degrees off");
    for n in [[0.0, 0.0, 1.0], [-1.0, 0.0, 0.0], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0]] {
        let n = optics::geometry::Vec3::from(n);
        let (a, b) = (room.irradiance(&n) / was_all, read.irradiance(&n) / is_all);
        assert!((a / b).log2().abs() < 0.125, "{n:?}: {:.2} stops", (a / b).log2());
    }
}
