//! People of the studio: their measures against published ones, their eyes and skin against what light does on them.

use evidence::marks::{Mark, MarkKind};
use lightset::set::{LightSet, Person, Subject, SubjectKind};
use optics::geometry::{AzEl, Vec3, angle_between};
use optics::photo::{Photo, Samples};
use optics::tone::Encoding;

fn set(subject: serde_json::Value, lights: serde_json::Value, ambient: f64, size: (u32, u32), vfov: f64) -> LightSet {
    let value = serde_json::json!({
        "format": "slant-set/1", "subjects": [subject], "lights": lights,
        "camera": { "position_m": [0, 0, 2], "aim_m": [0, -0.02, 0], "vfov_deg": vfov,
            "exposure": { "f_number": 5.6, "shutter_s": 0.008, "iso": 100 } },
        "ambient": { "level": { "stops": ambient } },
        "picture": { "width": size.0, "height": size.1, "samples": 16 }
    });
    LightSet::from_value(value).unwrap().set
}

fn numbered(number: u32) -> Subject {
    Subject { person: Some(Person { number, ..Person::default() }), ..Subject::of(SubjectKind::Person) }
}

/// Named points of a face in metres, as a lens far away would see them straight on.
fn measured(number: u32) -> impl Fn(&str) -> Vec3 {
    let far = LightSet {
        subjects: vec![numbered(number)],
        ..set(serde_json::json!({ "kind": "fork" }), serde_json::json!([]), 0.0, (1000, 1000), 12.0)
    };
    let marks = studio::marks(&far).marks;
    let (_, per_m) = studio::project(&far, [0.0; 3]).unwrap();
    let points = marks
        .into_iter()
        .find_map(|m| match m.kind {
            MarkKind::Face(f) => Some(f.points),
            _ => None,
        })
        .unwrap();
    move |name: &str| Vec3::new(points[name][0] / per_m, -points[name][1] / per_m, 0.0)
}

/// Distance between the pupils of adults: mean 63.4 mm, nearly all within 52 to 78 (Dodgson 2004); from the line of the eyes to
/// the chin about 11 to 13 cm, mouths 4 to 6.5 cm wide (from memory of anthropometric tables: sellion to menton 120 mm).
#[test]
fn people_have_the_measures_of_adults() {
    let mut apart = Vec::new();
    for number in 0..24 {
        let at = measured(number);
        let eyes = (at("eye_image_right") - at("eye_image_left")).norm();
        assert!((0.055..0.073).contains(&eyes), "person {number}: pupils {eyes:.4} m apart");
        let middle = (at("eye_image_right") + at("eye_image_left")) / 2.0;
        let chin = (middle - at("chin")).norm();
        assert!((0.090..0.140).contains(&chin), "person {number}: chin {chin:.4} m under the eyes");
        let mouth = (at("mouth_image_right") - at("mouth_image_left")).norm();
        assert!((0.038..0.068).contains(&mouth), "person {number}: mouth {mouth:.4} m wide");
        apart.push(eyes);
    }
    let mean = apart.iter().sum::<f64>() / apart.len() as f64;
    assert!((mean - 0.0634).abs() < 0.0015, "mean {mean:.4}");
    let spread = apart.iter().map(|a| (a - mean).powi(2)).sum::<f64>().sqrt() / (apart.len() as f64).sqrt();
    assert!(spread > 0.0004, "people differ; spread {spread:.5}");
}

/// The same number is the same person, another number somebody else, whoever was drawn between.
#[test]
fn a_number_is_always_the_same_person() {
    let lights = serde_json::json!([{ "name": "key", "azimuth_deg": 30, "elevation_deg": 30, "distance_m": 1.5,
        "source": { "kind": "disc", "diameter_m": 0.4 }, "level": { "stops": 0 } }]);
    let draw = |number: u32| {
        let subject = serde_json::json!({ "kind": "person", "person": { "number": number } });
        studio::picture(&set(subject, lights.clone(), -4.0, (60, 80), 14.0)).unwrap()
    };
    let (first, other, again) = (draw(3), draw(4), draw(3));
    assert_eq!(first, again);
    let differs = first.iter().zip(&other).filter(|(a, b)| (*a - *b).abs() > 0.02).count();
    assert!(differs > first.len() / 20, "{differs} of {} values differ", first.len());
}

/// Skin of a given colour, lit from the lens side by light that is right for the settings, is drawn in that colour: a surface
/// of reflectance one is drawn as one. Forehead and cheeks look at the lens within about 25 degrees.
#[test]
fn skin_has_the_colour_it_is_given() {
    let lights = serde_json::json!([{ "name": "key", "azimuth_deg": 0, "elevation_deg": 2, "distance_m": 6,
        "source": { "kind": "disc", "diameter_m": 0.3 }, "level": { "stops": 0 } }]);
    let subject = serde_json::json!({ "kind": "person", "colour": [0.40, 0.26, 0.18],
        "person": { "number": 5, "hair": "bald" } });
    let set = set(subject, lights, -12.0, (300, 375), 11.0);
    let pixels = studio::picture(&set).unwrap();
    let patch = |own: [f64; 3]| {
        let ([x, y], _) = studio::project(&set, own).unwrap();
        let at = |dx: i64, dy: i64| 3 * ((y as i64 + dy) as usize * 300 + (x as i64 + dx) as usize);
        let near = (-4..5).flat_map(|dy| (-4..5).map(move |dx| (dx, dy)));
        let sum = near.fold([0.0f64; 3], |s, (dx, dy)| [0, 1, 2].map(|k| s[k] + f64::from(pixels[at(dx, dy) + k])));
        sum.map(|v| v / 81.0)
    };
    let forehead = patch([0.0, 0.045, 0.0]);
    for (drawn, given) in forehead.into_iter().zip([0.40, 0.26, 0.18]) {
        assert!((0.75..1.3).contains(&(drawn / given)), "{drawn:.3} of {given}");
    }
    // cheeks are redder than foreheads
    let cheek = patch([0.044, -0.041, 0.0]);
    assert!(cheek[0] / cheek[1] > forehead[0] / forehead[1], "{cheek:?} {forehead:?}");
}

/// The eyes of people mirror lights as corneas do: read as eyes are read (Nishino & Nayar 2006), they tell the key, straight and
/// with a turned head whose eyes stay on the lens. The key stands low: from 20 degrees up the lid cuts its catchlight.
#[test]
fn eyes_of_people_show_where_the_key_is() {
    for (number, turn) in [(1, 0.0), (6, 20.0)] {
        let lights = serde_json::json!([{ "name": "key", "azimuth_deg": -35, "elevation_deg": 8, "distance_m": 2.0,
            "source": { "kind": "disc", "diameter_m": 0.5 }, "level": { "stops": 0 } }]);
        let subject = serde_json::json!({ "kind": "person", "yaw_deg": turn, "gaze_deg": [0, 0],
            "person": { "number": number, "hair": "cropped" } });
        let set = set(subject, lights, -4.0, (1400, 700), 3.2);
        let pixels: Vec<f32> = studio::picture(&set).unwrap().iter().map(|v| v.min(1.0)).collect();
        let photo = Photo::new(1400, 700, Samples::Linear(pixels), &Encoding::Linear).unwrap();
        let mut marks = studio::marks(&set);
        marks.marks.retain(|m: &Mark| matches!(m.kind, MarkKind::Eye(_)));
        assert!(!marks.marks.is_empty());
        let read = evidence::read::read(&photo, &marks, None, &|| &[]);
        let key = read.lights.first().unwrap_or_else(|| panic!("person {number}: no light by the eyes"));
        let told = AzEl { azimuth_deg: key.azimuth_deg, elevation_deg: key.elevation_deg }.vector();
        let off = angle_between(&told, &AzEl { azimuth_deg: -35.0, elevation_deg: 8.0 }.vector()).to_degrees();
        assert!(off < 6.0, "person {number}: {off:.1} degrees off");
    }
}

/// A head turns on its neck: what the chest shows does not follow it all the way.
#[test]
fn a_turned_head_leaves_the_chest_behind() {
    let lights = serde_json::json!([{ "name": "key", "azimuth_deg": 0, "elevation_deg": 5, "distance_m": 6,
        "source": { "kind": "disc", "diameter_m": 0.3 }, "level": { "stops": 0 } }]);
    let width_of_chest = |turn: f64| {
        let subject =
            serde_json::json!({ "kind": "person", "yaw_deg": turn, "person": { "number": 2, "hair": "cropped" } });
        let set = set(subject, lights.clone(), -12.0, (400, 400), 18.0);
        let pixels = studio::picture(&set).unwrap();
        let row = ((studio::project(&set, [0.0, -0.27, 0.0]).unwrap().0)[1] as usize).min(399);
        (0..400).filter(|x| pixels[3 * (row * 400 + x) + 1] > 0.01).count() as f64
    };
    let (straight, turned) = (width_of_chest(0.0), width_of_chest(60.0));
    // all of 60 degrees would leave it half as wide and as deep as it is thick; two in five leave nine tenths
    assert!((0.84..1.02).contains(&(turned / straight)), "{turned} of {straight} pixels");
}

/// Bad shapes get a sentence, not a crash.
#[test]
fn shapes_beyond_bounds_are_refused() {
    let with = |person: serde_json::Value| {
        let value = serde_json::json!({ "format": "slant-set/1", "subjects": [{ "kind": "person", "person": person }],
            "camera": { "position_m": [0, 0, 2], "exposure": { "f_number": 5.6, "shutter_s": 0.008, "iso": 100 } } });
        LightSet::from_value(value)
    };
    assert!(with(serde_json::json!({ "number": 4_294_967_295_u32 })).is_ok());
    assert!(with(serde_json::json!({ "shape": [0.5, -1.0] })).is_ok());
    let too_far = with(serde_json::json!({ "shape": [0.5, 9.0] })).unwrap_err();
    assert!(too_far.contains("person.shape") && too_far.contains("standard deviations"), "{too_far}");
    let too_many = with(serde_json::json!({ "shape": vec![0.0; 60] })).unwrap_err();
    assert!(too_many.contains("at most 45"), "{too_many}");
}

/// A set holds six people, not a crowd: each is a mesh of its own.
#[test]
fn a_crowd_is_refused() {
    let of = |people: usize| {
        let one = serde_json::json!({ "kind": "person", "person": { "number": 3 } });
        LightSet::from_value(serde_json::json!({ "format": "slant-set/1", "subjects": vec![one; people],
            "camera": { "position_m": [0, 0, 2], "exposure": { "f_number": 5.6, "shutter_s": 0.008, "iso": 100 } } }))
    };
    assert!(of(6).is_ok());
    let refused = of(7).unwrap_err();
    assert!(refused.contains("at most 6 people; found 7"), "{refused}");
}
