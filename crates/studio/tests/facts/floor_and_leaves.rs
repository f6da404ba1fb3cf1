//! Walks along marks, leaves before a lamp, barn doors: against the inverse square law, the Boolean model, similar triangles.

use lightset::doors::doors;
use lightset::set::LightSet;
use optics::geometry::Vec3;
use serde_json::{Value, json};
use studio::{flat_at, meter, metered};

fn set(light: Value, more: Value) -> LightSet {
    let mut whole = json!({ "format": "slant-set/1",
        "camera": {"position_m": [0, 0, 8.0], "vfov_deg": 14, "exposure": {"f_number": 5.6, "shutter_s": 0.008, "iso": 100}},
        "lights": [light] });
    for (k, v) in more.as_object().expect("fields") {
        whole[k] = v.clone();
    }
    LightSet::from_value(whole).expect("a set").set
}

/// Metres from a small lamp on the axis of the walk and the stops it loses: from 1.1 m to 1.557 m one stop (f/5.6 to f/4 over 1.5 ft
/// means 3.6 ft, common practice: a worked walk).
#[test]
fn a_walk_loses_light_by_the_square_of_the_distance() {
    let lamp = json!({"name": "key", "position_m": [0, 0, 1.1], "source": {"kind": "bare", "diameter_m": 0.02}, "level": {"stops": 0}});
    let m = metered(&set(lamp, json!({"walk_m": [[0, 0], [0, -0.457]]}))).expect("a meter");
    let walk = m.walk.expect("a walk");
    assert!((walk.points[0].flat_stops - 0.0).abs() < 0.03, "{:?}", walk.points[0]);
    let last = walk.points.last().expect("its end");
    assert!((last.flat_stops + 1.0).abs() < 0.04, "{last:?}");
    assert_eq!((last.mark, walk.points[0].mark), (Some(1), Some(0)));
    assert!((walk.differs_stops - 1.0).abs() < 0.05);
    assert!(walk.says[1].contains("half a stop"), "{:?}", walk.says);
}

#[test]
fn far_from_a_lamp_a_walk_is_even_and_one_mark_is_none() {
    let lamp = json!({"name": "key", "position_m": [0, 0, 6.0], "source": {"kind": "bare", "diameter_m": 0.02}, "level": {"stops": 0}});
    let walked = |marks: Value| metered(&set(lamp.clone(), json!({ "walk_m": marks }))).expect("a meter").walk;
    let even = walked(json!([[0, 0], [0.3, 0], [0.3, -0.4]])).expect("a walk");
    assert!(even.differs_stops < 0.5 && even.says[1].contains("Even enough"), "{:?}", even.says);
    assert!((even.points.last().expect("its end").along_m - 0.7).abs() < 1e-9);
    assert!(walked(json!([[0, 0]])).is_none());
    let many: Vec<[f64; 2]> = (0..13).map(|k| [0.0, f64::from(k)]).collect();
    let refused = LightSet::from_value(json!({"format": "slant-set/1", "walk_m": many,
        "camera": {"position_m": [0, 0, 8.0], "exposure": {"f_number": 5.6, "shutter_s": 0.008, "iso": 100}}}));
    assert!(refused.unwrap_err().starts_with("walk_m"));
}

/// The open share of leaves strewn at random is `exp(-covered area)` (Boolean model, Matheron 1975): what is asked for comes through.
#[test]
fn leaves_let_through_what_they_are_asked_to() {
    let lamp = json!({"name": "key", "position_m": [0, 0, 3.0], "source": {"kind": "disc", "diameter_m": 0.004}, "level": {"stops": 0}});
    for open in [0.2, 0.4, 0.7] {
        let cut = json!({"flags": [{"position_m": [0, 0, 1.5], "width_m": 1.2, "height_m": 1.2, "pattern": {"kind": "leaves", "leaf_m": 0.05, "open": open}}]});
        let (s, free) = (set(lamp.clone(), cut), set(lamp.clone(), json!({})));
        let places: Vec<(Vec3, Vec3)> = (0..900)
            .map(|k| (Vec3::new(f64::from(k % 30) * 0.061 - 0.9, f64::from(k / 30) * 0.061 - 0.9, 0.0), Vec3::z()))
            .collect();
        let [a, b] = [&s, &free].map(|s| flat_at(s, &places).expect("metered").iter().sum::<f64>());
        assert!((a / b - open).abs() < 0.06, "{open}: {}", a / b);
    }
}

/// Leaves end the light where similar triangles say: the middle of the face disappears behind the tip.
#[test]
fn barn_doors_end_the_light_where_they_say() {
    let lamp = json!({"name": "key", "position_m": [0, 0, 2.0], "source": {"kind": "rectangle", "width_m": 0.3, "height_m": 0.2}, "level": {"stops": 0}});
    let mut s = set(lamp, json!({}));
    let free = s.clone();
    let light = meter(&s).expect("a meter").lights.remove(0);
    let d = doors(&light, 105.0).expect("doors");
    s.flags.extend(d.flags.iter().copied());
    assert!(s.check().is_ok());
    for (k, axis) in [Vec3::x(), Vec3::y()].into_iter().enumerate() {
        let ys: Vec<f64> = (0..=120).map(|i| f64::from(i) / 120.0 * 2.0 * d.half_m[k]).collect();
        let places: Vec<(Vec3, Vec3)> = ys.iter().map(|y| (axis * *y, Vec3::z())).collect();
        let [cut, open] = [&s, &free].map(|s| flat_at(s, &places).expect("metered"));
        let share: Vec<f64> = cut.iter().zip(&open).map(|(c, o)| c / o).collect();
        assert!(share[0] > 0.97, "the middle stays lit: {}", share[0]);
        let half = share.iter().position(|v| *v < 0.5).expect("it ends");
        assert!((ys[half] / d.half_m[k] - 1.0).abs() < 0.1, "{} {}", ys[half], d.half_m[k]);
    }
    // closed over the face they take from the middle what they say
    let narrow = doors(&light, 75.0).expect("doors");
    let shut = LightSet { flags: narrow.flags.clone(), ..free.clone() };
    let [cut, open] = [&shut, &free].map(|s| flat_at(s, &[(Vec3::zeros(), Vec3::z())]).expect("metered")[0]);
    assert!(((open / cut).log2() - narrow.loses_stops).abs() < 0.1, "{} {}", (open / cut).log2(), narrow.loses_stops);
    assert!(narrow.half_m[0] < d.half_m[0] && narrow.says.contains("the middle loses"));
    assert!(doors(&light, 10.0).unwrap_err().contains("open_deg"));
}
