//! Lighting sets against textbooks, standards and common practice: what a camera sees, what cutters leave, what lamps give, how sets and
//! kits are written.

mod camera;
mod cutters;
mod kits;
mod lamps;
mod papers;
mod sets;
mod windows;

use lightset::light_meter::LightMeter;
use lightset::set::LightSet;
use optics::geometry::Vec3;
use serde_json::{Value, json};

/// A set of a camera two metres away and whatever else is given.
fn set(more: Value) -> LightSet {
    let mut whole = json!({"format": "slant-set/1",
        "camera": {"position_m": [0, 0, 2], "vfov_deg": 20, "exposure": {"f_number": 8, "shutter_s": 0.01, "iso": 100}},
        "picture": {"width": 600, "height": 400, "samples": 1}});
    if let (Value::Object(w), Value::Object(m)) = (&mut whole, more) {
        w.extend(m);
    }
    LightSet::from_value(whole).expect("a set").set
}

/// A meter's words for a square face `side` metres wide that stands at `at` and looks at the reference point.
fn metered(at: [f64; 3], side: f64) -> LightMeter {
    let place = Vec3::from(at);
    let n = -place.normalize();
    let (u, v) = optics::geometry::upright(&n);
    let corners = [(-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0)];
    let outline: Vec<[f64; 3]> =
        corners.iter().map(|(a, b)| (place + u * (a * side / 2.0) + v * (b * side / 2.0)).into()).collect();
    let a = optics::geometry::AzEl::of(&place);
    serde_json::from_value(json!({"name": "key", "role": "key", "off": false, "azimuth_deg": a.azimuth_deg,
        "elevation_deg": a.elevation_deg, "distance_m": place.norm(), "angular_size_deg": 20.0, "level_stops": 0.0, "lux_seconds": 1.0,
        "f_number": 8.0, "nominal": 8.0, "notations": {"stops": 0.0, "lux": 1.0, "guide_number_m": 1.0, "joules": 1.0},
        "feather_deg": 0.0, "position_m": at, "face_m": at, "outline_m": outline}))
    .expect("a meter")
}
