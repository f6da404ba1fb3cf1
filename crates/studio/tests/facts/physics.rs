//! The stand-in studio against closed forms and published figures.

use lightset::set::{AmbientLight, BoardFinish, Level, LightSet, Scrim, Source};
use optics::falloff::irradiance_from_polygon;
use optics::geometry::{AzEl, Vec3};
use optics::power::{Control, read_power};
use proptest::prelude::*;
use serde_json::{Value, json};
use std::sync::atomic::AtomicBool;
use studio::{PlateCache, encode, meter, picture, trace};

fn set(v: Value) -> LightSet {
    let mut whole = json!({
        "format": "slant-set/1",
        "camera": {"position_m": [0, 0, 2], "vfov_deg": 4, "exposure": {"f_number": 8, "shutter_s": 0.008, "iso": 100}},
        "picture": {"width": 32, "height": 32, "samples": 64}
    });
    for (k, v) in v.as_object().unwrap() {
        whole[k] = v.clone();
    }
    let parsed = LightSet::from_value(whole).unwrap();
    assert!(parsed.unknown.is_empty(), "{:?}", parsed.unknown);
    parsed.set
}

fn wall(colour: f64) -> Value {
    json!([{"position_m": [0, 0, 0], "normal": [0, 0, 1], "width_m": 4, "height_m": 4, "colour": [colour, colour, colour]}])
}

fn light(az: f64, el: f64, d: f64, source: Value, stops: f64) -> Value {
    json!({"name": "key", "azimuth_deg": az, "elevation_deg": el, "distance_m": d, "source": source, "level": {"stops": stops}})
}

/// Mean of the middle of the picture, green.
fn centre(s: &LightSet) -> f64 {
    let p = picture(s).unwrap();
    let (w, h) = (s.picture.width as usize, s.picture.height as usize);
    let mut sum = 0.0;
    for y in h / 2 - 4..h / 2 + 4 {
        for x in w / 2 - 4..w / 2 + 4 {
            sum += f64::from(p[3 * (y * w + x) + 1]) / 64.0;
        }
    }
    sum
}

#[test]
fn a_white_wall_that_faces_a_light_at_right_exposure_shows_one() {
    // Incident metering (ISO 2720): right exposure for any source and distance.
    for source in [
        json!({"kind": "disc", "diameter_m": 0.5}),
        json!({"kind": "octagon", "width_m": 0.8}),
        json!({"kind": "rectangle", "width_m": 0.3, "height_m": 1.2}),
        json!({"kind": "umbrella_through", "diameter_m": 1.0}),
        json!({"kind": "umbrella_bounce", "diameter_m": 1.0}),
        json!({"kind": "dish", "diameter_m": 0.2, "beam_deg": 60}),
        json!({"kind": "spot", "diameter_m": 0.1, "beam_deg": 30, "field_deg": 40}),
        json!({"kind": "bare", "diameter_m": 0.08}),
    ] {
        for d in [0.8, 2.5] {
            let s = set(json!({"walls": wall(0.5), "lights": [light(0.0, 0.0, d, source.clone(), 0.0)]}));
            let v = centre(&s);
            assert!((v / 0.5 - 1.0).abs() < 0.01, "{source} at {d}: {v}");
        }
    }
}

#[test]
fn irradiance_follows_the_published_configuration_factors() {
    // Differential element to a parallel coaxial disc, F = r^2 / (r^2 + d^2), and to a rectangle by
    // Lambert's edge sum (Howell, A Catalog of Radiation Heat Transfer Configuration Factors, B-13 and
    // B-4; from memory). Light held at one radiance while the wall moves back: the level is set at the
    // reference point, so the ratio of two places tests the factor.
    let shapes: [(Value, Box<dyn Fn(f64) -> f64>); 3] = [
        (json!({"kind": "disc", "diameter_m": 0.6}), Box::new(|d: f64| 0.09 / (0.09 + d * d))),
        (
            json!({"kind": "rectangle", "width_m": 0.5, "height_m": 0.9}),
            Box::new(|d: f64| polygon(&[(0.25, 0.45), (-0.25, 0.45), (-0.25, -0.45), (0.25, -0.45)], d)),
        ),
        (
            json!({"kind": "octagon", "width_m": 0.7}),
            Box::new(|d: f64| {
                let r = 0.35 / (std::f64::consts::PI / 8.0).cos();
                let corners: Vec<(f64, f64)> = (0..8)
                    .map(|i| {
                        let a = (f64::from(i) + 0.5) * std::f64::consts::PI / 4.0;
                        (r * a.cos(), r * a.sin())
                    })
                    .collect();
                polygon(&corners, d)
            }),
        ),
    ];
    for (source, factor) in shapes {
        for back in [0.3, 1.0] {
            let mut s = set(json!({"walls": wall(0.5), "lights": [light(0.0, 0.0, 0.7, source.clone(), 0.0)]}));
            s.walls[0].position_m = [0.0, 0.0, -back];
            s.picture.samples = 256;
            let want = 0.5 * factor(0.7 + back) / factor(0.7);
            let v = centre(&s);
            assert!((v / want - 1.0).abs() < 0.005, "{source} {back}: {v} {want}");
        }
    }
}

fn polygon(corners: &[(f64, f64)], d: f64) -> f64 {
    let c: Vec<Vec3> = corners.iter().map(|(x, y)| Vec3::new(*x, *y, d)).collect();
    irradiance_from_polygon(1.0, &c, &Vec3::zeros(), &Vec3::z()) / std::f64::consts::PI
}

#[test]
fn a_small_light_twice_as_far_gives_a_quarter_and_from_five_times_its_size_one_per_cent_is_the_limit() {
    // Inverse-square law; the five-times rule (common practice; Ryer, Light Measurement Handbook 1997,
    // from memory).
    let at = |wall_z: f64, diameter: f64, d: f64| {
        let mut s = set(
            json!({"walls": wall(0.5), "lights": [light(0.0, 0.0, d, json!({"kind": "disc", "diameter_m": diameter}), 0.0)]}),
        );
        s.walls[0].position_m = [0.0, 0.0, wall_z];
        centre(&s)
    };
    let ratio = at(-1.0, 0.02, 1.0) / at(0.0, 0.02, 1.0);
    assert!((ratio / 0.25 - 1.0).abs() < 0.005, "{ratio}");
    // a disc of 0.2 m: from one metre to two, the point law is off by no more than one per cent
    let ratio = at(-1.0, 0.2, 1.0) / at(0.0, 0.2, 1.0);
    assert!((ratio / 0.25 - 1.0).abs() < 0.0125 && (ratio / 0.25 - 1.0).abs() > 0.002, "{ratio}");
}

#[test]
fn light_from_aside_falls_with_the_cosine() {
    // Lambert 1760.
    for (az, want) in [(60.0f64, 0.5), (30.0, 0.8660), (80.0, 0.1736)] {
        let s = set(
            json!({"walls": wall(0.5), "lights": [light(az, 0.0, 3.0, json!({"kind": "disc", "diameter_m": 0.05}), 0.0)]}),
        );
        let v = centre(&s) / 0.5;
        assert!((v / want - 1.0).abs() < 0.01, "{az}: {v}");
    }
}

#[test]
fn a_penumbra_is_as_wide_as_the_gap_times_the_lights_angle() {
    // Knife edge at gap g before a wall, disc of diameter s at distance d from the edge: full width
    // g s / d; for a disc the 10 to 90 % width is 0.687 of it (chord integral).
    let mut s = set(json!({
        "walls": wall(0.6),
        "lights": [light(0.0, 0.0, 2.0, json!({"kind": "disc", "diameter_m": 0.2}), 0.0)],
        "flags": [{"position_m": [0.5, 0, 0.2], "aim_m": [0.5, 0, 2], "width_m": 1.0, "height_m": 2.0}],
    }));
    // look round the flag from the side that stays open
    s.camera.position_m = [-1.0, 0.0, 2.0];
    s.picture.width = 240;
    s.picture.height = 8;
    s.picture.samples = 256;
    s.camera.vfov_deg = Some(0.12);
    let p = picture(&s).unwrap();
    let row: Vec<f64> =
        (0..240).map(|x| (0..8).map(|y| f64::from(p[3 * (y * 240 + x) + 1])).sum::<f64>() / 8.0).collect();
    let (top, low) = (row[0], row[239]);
    let place = |share: f64| row.iter().position(|v| (v - low) / (top - low) < share).unwrap() as f64;
    let px = place(0.1) - place(0.9);
    // metres of the wall per pixel across, the wall seen at an angle
    let eye = Vec3::new(-1.0, 0.0, 2.0);
    let per = eye.norm() * 2.0 * (0.12f64.to_radians() / 2.0).tan() / 8.0 / (2.0 / eye.norm());
    let want = 0.2 * 0.2 / 1.8 * 0.687;
    assert!((px * per / want - 1.0).abs() < 0.05, "{} {want}", px * per);
}

#[test]
fn a_scrim_becomes_the_source_and_costs_what_it_swallows() {
    // A lamp close behind a large sheet lights a patch of it: as seen from the subject the source is
    // that patch. Patch of a Lambertian disc r at gap g: E(x) falls to half near x = 0.77 g for r << g
    // (1 / (1 + (x/g)^2)^2), so its solid angle lies between that of the lamp and of the sheet.
    let with = |scrims: Value| {
        let mut l = light(40.0, 20.0, 2.0, json!({"kind": "disc", "diameter_m": 0.1}), 0.0);
        l["scrims"] = scrims;
        meter(&set(json!({"lights": [l]}))).unwrap().lights[0].clone()
    };
    let bare = with(json!([]));
    let near = with(json!([{"gap_m": 0.1, "width_m": 1.5, "height_m": 1.5, "transmission": 0.5}]));
    let far = with(json!([{"gap_m": 0.6, "width_m": 1.5, "height_m": 1.5, "transmission": 0.5}]));
    let twice = with(
        json!([{"gap_m": 0.3, "width_m": 1.5, "height_m": 1.5, "transmission": 0.5}, {"gap_m": 0.3, "width_m": 1.5, "height_m": 1.5, "transmission": 0.5}]),
    );
    assert!((bare.angular_size_deg - 2.864).abs() < 0.02, "{bare:?}");
    assert!(bare.angular_size_deg < near.angular_size_deg && near.angular_size_deg < far.angular_size_deg);
    // a second sheet widens what the first gives
    let first = with(json!([{"gap_m": 0.3, "width_m": 1.5, "height_m": 1.5, "transmission": 0.5}]));
    assert!(twice.angular_size_deg > 1.3 * first.angular_size_deg, "{twice:?} {first:?}");
    // 1.5 m at 1.4 m fills 2 acos(1 - omega / 2 pi) = 59 degrees at most
    assert!(far.angular_size_deg < 59.5);
    // effective size of 1/(1+u^2)^2, u = x/g: (int f)^2 / int f^2 = 3 pi g^2, so radius sqrt(3) g
    let want = 2.0 * (3f64.sqrt() * 0.1 / 1.9).atan().to_degrees();
    assert!((near.angular_size_deg / want - 1.0).abs() < 0.12, "{near:?} {want}");
}

#[test]
fn a_white_board_gives_back_its_share() {
    // Small board of reflectance 0.85 at b metres, lit facing by E: radiosity rho E, and on a surface
    // facing it E' = rho E A / (pi b^2) (far field).
    let mut s = set(json!({
        "walls": [{"position_m": [0, 0, 0], "normal": [0, 0, 1], "width_m": 0.1, "height_m": 0.1, "colour": [0.9, 0.9, 0.9]}],
        "boards": [{"position_m": [0, 0, 1.0], "aim_m": [0, 0, 0], "width_m": 0.1, "height_m": 0.1, "finish": "white"}],
        // behind the wall patch, shining past it at the board
        "lights": [{"name": "back", "position_m": [0.0, 0.6, -1.0], "aim_m": [0, 0, 1], "source": {"kind": "disc", "diameter_m": 0.05}, "level": {"stops": 3}}],
        "camera": {"position_m": [0.5, 0, 1.5], "vfov_deg": 2, "exposure": {"f_number": 8, "shutter_s": 0.008, "iso": 100}}
    }));
    s.picture.samples = 256;
    let from = Vec3::new(0.0, 0.6, -1.0);
    let aim = (Vec3::new(0.0, 0.0, 1.0) - from).normalize();
    // intensity over the level at the reference point, cosine emitter
    let toward = |p: Vec3| aim.dot(&(p - from).normalize()) / (p - from).norm_squared();
    let board = Vec3::new(0.0, 0.0, 1.0);
    let e = 8.0 * toward(board) / toward(Vec3::zeros()) * (from - board).normalize().dot(&-Vec3::z());
    let want = 0.9 * 0.85 * e * 0.01 / std::f64::consts::PI;
    let v = centre(&s);
    assert!((v / want - 1.0).abs() < 0.03, "{v} {want}");
    s.boards[0].finish = BoardFinish::Black;
    assert!((centre(&s) / v - 0.04 / 0.85).abs() < 0.005);
}

#[test]
fn ambient_alone_shows_the_reflectance_and_a_mirror_ball_shows_the_room() {
    let mut s = set(json!({"walls": wall(0.18), "ambient": {"level": {"stops": 0}}}));
    assert!((centre(&s) - 0.18).abs() < 0.002);
    s.walls.clear();
    s.subjects = serde_json::from_value(json!([{"kind": "ball_mirror"}])).unwrap();
    assert!((centre(&s) - 0.9).abs() < 1e-3);
}

#[test]
fn a_mirror_ball_shows_a_light_where_the_law_of_reflection_says() {
    // L = 2 (N.V) N - V: seen from far, a light at azimuth a mirrors where the normal stands at a / 2.
    let mut s = set(json!({
        "subjects": [{"kind": "ball_mirror"}],
        "camera": {"position_m": [0, 0, 12], "vfov_deg": 0.8, "exposure": {"f_number": 8, "shutter_s": 0.008, "iso": 100}},
        "lights": [light(60.0, 0.0, 10.0, json!({"kind": "disc", "diameter_m": 0.6}), 0.0)],
        "picture": {"width": 200, "height": 200, "samples": 16}
    }));
    s.ambient = None;
    let p = picture(&s).unwrap();
    let (mut sx, mut sum) = (0.0, 0.0);
    for y in 0..200 {
        for x in 0..200 {
            let v = f64::from(p[3 * (y * 200 + x) + 1]);
            sx += v * (x as f64 + 0.5);
            sum += v;
        }
    }
    let per_m = 100.0 / (12.0 * 0.4f64.to_radians().tan());
    let seen = (sx / sum - 100.0) / per_m / 0.075;
    assert!((seen - 0.5).abs() < 0.012, "{seen}");
}

#[test]
fn the_meter_reads_like_a_meter() {
    // f-numbers go with the square root of light; guide number over distance (common practice).
    let s = set(json!({"lights": [
        light(0.0, 0.0, 2.0, json!({"kind": "disc", "diameter_m": 0.3}), 0.0),
        {"name": "fill", "azimuth_deg": 90, "elevation_deg": 0, "distance_m": 2, "source": {"kind": "disc", "diameter_m": 0.3}, "level": {"guide_number_m": 32, "power": "1/4"}},
        {"name": "off", "azimuth_deg": 90, "elevation_deg": 0, "distance_m": 2, "off": true, "source": {"kind": "disc", "diameter_m": 0.3}, "level": {"lux": 1000}},
    ]}));
    let m = meter(&s).unwrap();
    assert!((m.lights[0].f_number - 8.0).abs() < 0.01);
    // GN 32 at quarter power is 16; at two metres f/8
    assert!((m.lights[1].f_number - 8.0).abs() < 0.01, "{m:?}");
    assert!(m.lights[2].off && !m.slant.contains("off"));
    // dome turned to the lens: all of the light in front, half of the one aside
    assert!((m.together_f_number - 8.0 * 1.5f64.sqrt()).abs() < 0.02, "{m:?}");
    // E t = C N^2 / S: 1000 lux for 1/125 s
    assert!((m.lights[2].lux_seconds - 8.0).abs() < 1e-6);
    assert!(m.slant.starts_with("key C0/0 o8.6 +0.0 @2m | fill R90/0"), "{}", m.slant);
}

#[test]
fn cautions_follow_a_light_that_is_moved() {
    // Common practice: a stand above head height is sandbagged; cloth is kept from hot lamps.
    let at = |height: f64| {
        let lamp = json!({"name": "key", "position_m": [0.5, height, 0.5], "source": {"kind": "disc", "diameter_m": 0.3}, "level": {"stops": 0}});
        let floor = json!([{"position_m": [0, -1.2, 0], "normal": [0, 1, 0], "width_m": 4, "height_m": 4, "colour": [0.2, 0.2, 0.2]}]);
        set(json!({"walls": floor, "lights": [lamp]}))
    };
    assert!(meter(&at(0.5)).unwrap().cautions.is_empty());
    assert!(meter(&at(1.5)).unwrap().cautions.iter().any(|c| c.contains("above head height")));
    let mut hung = at(0.5);
    hung.lights[0].scrims.push(Scrim { gap_m: 0.3, width_m: 0.8, height_m: 0.8, transmission: 0.5, aside_m: 0.0 });
    assert!(meter(&hung).unwrap().cautions.iter().any(|c| c.starts_with("Cloth")));
}

#[test]
fn power_is_read_in_any_notation() {
    // Common practice: 1/4 is two stops down; 65 % is 0.62.
    let power_stops = |text: &str| read_power(Control::Stops, text, 400.0, f64::NAN);
    for (text, stops) in [
        ("1/4", -2.0),
        ("1/128", -7.0),
        ("65 %", -0.6215),
        ("-2.3", -2.3),
        ("full", 0.0),
        ("100%", 0.0),
        ("1/4 + 0.3", -1.7),
        ("200 J", -1.0),
    ] {
        assert!((power_stops(text).unwrap().0 - stops).abs() < 1e-3, "{text}");
    }
    for bad in ["2", "-", "1/0", "", "many", "150 %", "0/4", "NaN", "-inf"] {
        assert!(power_stops(bad).is_err(), "{bad}");
    }
}

#[test]
fn plates_add_up_and_levels_need_no_tracing() {
    let mut s = set(json!({
        "subjects": [{"kind": "ball_matte"}], "walls": [{"position_m": [0, 0, -0.3], "normal": [0, 0, 1], "width_m": 2, "height_m": 2, "colour": [0.3, 0.3, 0.3]}],
        "lights": [light(-50.0, 20.0, 1.0, json!({"kind": "disc", "diameter_m": 0.2}), -1.0), light(60.0, 10.0, 1.5, json!({"kind": "rectangle", "width_m": 0.5, "height_m": 0.5}), -2.0)],
        "ambient": {"level": {"stops": -4}}, "picture": {"width": 64, "height": 48, "samples": 16}
    }));
    let flag = AtomicBool::new(false);
    let mut cache = PlateCache::default();
    let plates = trace(&s, &mut cache, &flag, |_| {}).unwrap();
    let both = studio::mix(&s, &plates).unwrap();
    // each light alone, from the same plates
    let mut sum = vec![0.0f32; both.len()];
    for k in 0..3 {
        let mut one = s.clone();
        one.lights.iter_mut().enumerate().for_each(|(i, l)| l.off = i != k);
        if k != 2 {
            one.ambient = None;
        }
        sum.iter_mut().zip(studio::mix(&one, &plates).unwrap()).for_each(|(a, b)| *a += b);
    }
    for (a, b) in both.iter().zip(&sum) {
        assert!((a - b).abs() < 1e-4, "{a} {b}");
    }
    // levels, colours and settings change: nothing is traced
    s.lights[0].level = Level::Stops { stops: 0.5 };
    s.lights[1].cct_k = Some(3200.0);
    s.camera.exposure.iso = 200.0;
    s.lights[1].off = true;
    assert!(cache.whole(&s).is_some());
    // a light moved: its plate is new, the other is the very same
    s.lights[0].azimuth_deg = Some(-20.0);
    assert!(cache.whole(&s).is_none());
    s.lights[1].off = false;
    let moved = trace(&s, &mut cache, &flag, |_| {}).unwrap();
    assert!(std::sync::Arc::ptr_eq(&moved.lamps[1], &plates.lamps[1]));
    assert!(!std::sync::Arc::ptr_eq(&moved.lamps[0], &plates.lamps[0]));
    // and a cache that is too small forgets
    let mut small = PlateCache::new(40_000);
    trace(&s, &mut small, &flag, |_| {});
    assert!(small.bytes() <= 40_000);
}

#[test]
fn the_same_seed_gives_the_same_picture_and_a_cancelled_trace_gives_none() {
    let s = set(json!({
        "subjects": [{"kind": "tin", "yaw_deg": 20}], "lights": [light(-50.0, 20.0, 1.0, json!({"kind": "tube", "length_m": 0.6, "diameter_m": 0.03}), 0.0)],
        "picture": {"width": 48, "height": 48, "samples": 8, "full_well": 20000, "seed": 3}
    }));
    assert_eq!(picture(&s).unwrap(), picture(&s).unwrap());
    assert!(trace(&s, &mut PlateCache::default(), &AtomicBool::new(true), |_| {}).is_none());
    let mut other = s.clone();
    other.picture.seed = 4;
    assert_ne!(picture(&s).unwrap(), picture(&other).unwrap());
}

#[test]
fn all_subjects_and_things_can_be_drawn_together() {
    let kinds = [
        "head_long",
        "head_round",
        "bottle",
        "can",
        "tin",
        "shoe",
        "fork",
        "drape",
        "ball_matte",
        "ball_mirror",
        "wedge",
    ];
    for kind in kinds {
        let s = set(json!({
            "subjects": [{"kind": kind}],
            "camera": {"position_m": [0.2, 0.1, 1.2], "vfov_deg": 20, "exposure": {"f_number": 8, "shutter_s": 0.008, "iso": 100}},
            "lights": [light(-40.0, 30.0, 0.8, json!({"kind": "rectangle", "width_m": 0.4, "height_m": 0.4}), 0.0)],
            "boards": [
                {"position_m": [0.4, 0, 0.2], "width_m": 0.3, "height_m": 0.3, "finish": "silver"},
                {"position_m": [0.0, -0.5, 0.2], "width_m": 0.3, "height_m": 0.3, "finish": "gold"},
                {"position_m": [0.4, 0.3, 0.2], "width_m": 0.1, "height_m": 0.1, "finish": "mirror"}
            ],
            "flags": [{"position_m": [-0.3, 0.3, 0.3], "width_m": 0.3, "height_m": 0.3, "pattern": {"kind": "lace", "pitch_m": 0.02, "open": 0.5}}],
            "picture": {"width": 40, "height": 40, "samples": 4}
        }));
        let p = picture(&s).unwrap();
        assert!(p.iter().all(|v| v.is_finite() && *v >= 0.0), "{kind}");
        let lit = p.iter().filter(|v| **v > 0.03).count();
        assert!(lit > 15, "{kind}: {lit} values are lit");
    }
}

#[test]
fn a_moved_lamp_is_the_union_of_its_places() {
    let mut l = light(-30.0, 0.0, 1.0, json!({"kind": "disc", "diameter_m": 0.05}), 0.0);
    let still = meter(&set(json!({"lights": [l.clone()]}))).unwrap().lights[0].angular_size_deg;
    let right = AzEl { azimuth_deg: 30.0, elevation_deg: 0.0 }.vector();
    l["path_m"] = json!([[0, 0, 1], [right.x, right.y, right.z]]);
    let m = meter(&set(json!({"lights": [l]}))).unwrap().lights[0].clone();
    assert!(m.azimuth_deg.abs() < 0.2, "{m:?}");
    // three times the solid angle is the square root of three times the angle
    assert!((m.angular_size_deg / still - 3f64.sqrt()).abs() < 0.02, "{m:?} {still}");
}

#[test]
fn a_measured_lamp_shines_as_its_file_says() {
    // ANSI/IES LM-63-2002 layout (from memory): half the candela at 30 degrees.
    let file = "IESNA:LM-63-2002\n[TEST] made up\nTILT=NONE\n1 1000 1 3 1 1 2 0 0 0\n1 1 50\n0 30 60\n0\n1000 500 0\n";
    let at = |aim: [f64; 3]| {
        let l = json!({"name": "lamp", "position_m": [0, 0, 2], "aim_m": aim, "source": {"kind": "ies", "diameter_m": 0.02, "file": file}, "level": {"stops": 0}});
        let mut s = set(json!({"walls": wall(0.5), "lights": [l]}));
        // the wall point 30 degrees off the axis against the one on it
        s.camera.aim_m = [2.0 * 30f64.to_radians().tan(), 0.0, 0.0];
        centre(&s)
    };
    let off = at([0.0, 0.0, 0.0]);
    let cos = 30f64.to_radians().cos();
    assert!((off / (0.5 * 0.5 * cos.powi(3)) - 1.0).abs() < 0.02, "{off}");
}

#[test]
fn bad_sets_end_in_one_sentence_that_names_the_field() {
    let base = json!({
        "format": "slant-set/1",
        "camera": {"position_m": [0, 0, 2], "vfov_deg": 4, "exposure": {"f_number": 8, "shutter_s": 0.008, "iso": 100}},
        "lights": [light(0.0, 0.0, 1.0, json!({"kind": "disc", "diameter_m": 0.2}), 0.0)]
    });
    assert!(LightSet::from_value(base.clone()).is_ok());
    for (pointer, value, part) in [
        ("/format", json!("slant-set/9"), "format"),
        ("/lights/0/source/diameter_m", json!(0.0), "diameter_m"),
        ("/lights/0/distance_m", json!(0.0), "distance_m"),
        ("/lights/0/source", json!({"kind": "lantern"}), "lantern"),
        ("/lights/0/level", json!({"stops": 1e9}), "level.stops"),
        ("/lights/0/level", json!({"guide_number_m": 40, "power": "2/1"}), "power"),
        ("/lights/0/aim_m", json!([0, 0, 1]), "aim_m"),
        ("/camera/exposure/iso", json!(0), "iso"),
        ("/camera/aim_m", json!([0, 0, 2]), "camera.aim_m"),
        ("/lights/0/source", json!({"kind": "ies", "diameter_m": 0.1, "file": "hello"}), "TILT"),
        ("/lights/0/position_m", json!([1e9, 0, 0]), "position_m"),
    ] {
        let mut bad = base.clone();
        let (parent, name) = pointer.rsplit_once('/').unwrap();
        bad.pointer_mut(parent).unwrap()[name] = value;
        let e = LightSet::from_value(bad).unwrap_err();
        assert!(e.contains(part) && e.len() < 400, "{pointer}: {e}");
    }
    let many: Vec<Value> = (0..200).map(|_| base["lights"][0].clone()).collect();
    let e =
        LightSet::from_value(json!({"format": "slant-set/1", "camera": base["camera"], "lights": many})).unwrap_err();
    assert!(e.contains("at most 32") && e.contains("200"), "{e}");
    // unknown fields are named
    let mut odd = base.clone();
    odd["lights"][0]["colour_of_the_cable"] = json!("red");
    assert_eq!(LightSet::from_value(odd).unwrap().unknown, ["lights[0].colour_of_the_cable"]);
}

#[test]
fn impossible_sets_are_drawn_and_said_so() {
    let behind = set(json!({
        "walls": [{"position_m": [0, 0, -0.5], "normal": [0, 0, 1], "width_m": 4, "height_m": 4, "colour": [0.5, 0.5, 0.5]}], "lights": [light(180.0, 0.0, 1.0, json!({"kind": "disc", "diameter_m": 0.2}), 0.0)]
    }));
    let m = meter(&behind).unwrap();
    assert!(m.warnings.iter().any(|w| w.contains("wall")), "{:?}", m.warnings);
    assert!(centre(&behind) < 1e-4);
    let inside = set(json!({
        "subjects": [{"kind": "head_long"}], "lights": [light(0.0, 0.0, 0.05, json!({"kind": "disc", "diameter_m": 0.02}), 0.0)]
    }));
    assert!(meter(&inside).unwrap().warnings.iter().any(|w| w.contains("inside the subject")));
    assert!(picture(&inside).unwrap().iter().all(|v| v.is_finite()));
    let away = set(
        json!({"lights": [{"name": "key", "position_m": [0, 0, 1], "aim_m": [0, 0, 2], "source": {"kind": "disc", "diameter_m": 0.2}, "level": {"stops": 0}}]}),
    );
    assert!(meter(&away).unwrap().warnings.iter().any(|w| w.contains("aimed")));
}

#[test]
fn highlights_clip_as_a_sensor_would_and_grey_is_grey() {
    // ISO 12232: saturation at 78 / S lux seconds; ISO 2720: C = 250, so 18 % lies 3.07 stops under it.
    assert!(((studio::SATURATION / 0.18).log2() - 3.07).abs() < 0.01);
    let mut s = set(
        json!({"walls": wall(0.18), "lights": [light(0.0, 0.0, 1.0, json!({"kind": "disc", "diameter_m": 0.2}), 0.0)]}),
    );
    // sRGB of 18 % is 117.6 (IEC 61966-2-1)
    let code = encode(&picture(&s).unwrap(), &s.picture)[3 * (16 * 32 + 16)];
    assert!((i32::from(code) - 118).abs() <= 1, "{code}");
    s.lights[0].level = Level::Stops { stops: 6.0 };
    let p = picture(&s).unwrap();
    assert!(p.iter().all(|v| f64::from(*v) <= studio::SATURATION + 1e-4));
    // a tone curve keeps middle grey where it is
    s.lights[0].level = Level::Stops { stops: 0.0 };
    s.picture.contrast = 0.5;
    let curved = encode(&picture(&s).unwrap(), &s.picture)[3 * (16 * 32 + 16)];
    assert!((i32::from(curved) - i32::from(code)).abs() <= 1);
}

#[test]
fn noise_is_that_of_photons() {
    // Standard deviation of the count is its square root (Poisson), here with three electrons of read noise.
    let mut s = set(
        json!({"walls": wall(0.5), "ambient": {"level": {"stops": 0}}, "picture": {"width": 128, "height": 128, "samples": 4}}),
    );
    s.picture.full_well = Some(10000.0);
    let p = picture(&s).unwrap();
    let v: Vec<f64> = p.iter().map(|x| f64::from(*x)).collect();
    let mean = v.iter().sum::<f64>() / v.len() as f64;
    let sd = (v.iter().map(|x| (x - mean).powi(2)).sum::<f64>() / v.len() as f64).sqrt();
    let electrons = 0.5 / studio::SATURATION * 10000.0;
    assert!((mean / 0.5 - 1.0).abs() < 0.003, "{mean}");
    assert!((sd / mean / ((electrons + 9.0f64).sqrt() / electrons) - 1.0).abs() < 0.03, "{sd}");
}

#[test]
fn warm_light_is_warm() {
    // A 3200 K lamp for a camera balanced to 5600 K: more red than blue; mired shift of a full
    // conversion gel, 1e6/3200 - 1e6/5600 = 134 (common practice).
    let mut l = serde_json::from_value::<lightset::set::SetLight>(light(
        0.0,
        0.0,
        1.0,
        json!({"kind": "disc", "diameter_m": 0.2}),
        0.0,
    ))
    .unwrap();
    l.cct_k = Some(3200.0);
    let bare = l.colour(5600.0);
    assert!(bare[0] > 1.5 * bare[2], "{bare:?}");
    l.cct_k = None;
    l.gel_mired = 134.0;
    let gelled = l.colour(5600.0);
    for k in 0..3 {
        assert!((gelled[k] / bare[k] - 1.0).abs() < 0.01);
    }
    l.gel_mired = 0.0;
    assert!(l.colour(5600.0).iter().all(|c| (c - 1.0).abs() < 1e-6));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn the_meter_finds_every_light_where_it_was_put(az in -170.0..170.0f64, el in -60.0..80.0f64, d in 0.5..4.0f64, w in 0.02..0.8f64, stops in -4.0..2.0f64) {
        let s = set(json!({"lights": [light(az, el, d, json!({"kind": "disc", "diameter_m": w}), stops)]}));
        let m = meter(&s).unwrap();
        let l = &m.lights[0];
        let want = AzEl { azimuth_deg: az, elevation_deg: el }.vector();
        let got = l.at().vector();
        prop_assert!(optics::geometry::angle_between(&want, &got).to_degrees() < 0.1);
        let angle = 2.0 * (w / 2.0 / d).atan().to_degrees();
        prop_assert!((l.angular_size_deg - angle).abs() < 0.01 * angle + 0.01, "{} {}", l.angular_size_deg, angle);
        prop_assert!((l.f_number - 8.0 * (stops / 2.0).exp2()).abs() < 0.02);
    }

    #[test]
    fn sets_survive_writing_and_reading(az in -180.0..180.0f64, w in 0.01..3.0f64, gap in 0.02..2.0f64, stops in -9.0..4.0f64) {
        // as a person writes numbers
        let [az, w, gap, stops] = [az, w, gap, stops].map(|v| (v * 1e4).round() / 1e4);
        let mut s = set(json!({"lights": [light(az, 1.0, 1.0, json!({"kind": "octagon", "width_m": w}), stops)], "walls": wall(0.3)}));
        s.lights[0].scrims.push(Scrim { gap_m: gap, width_m: w, height_m: w, transmission: 0.5, aside_m: 0.0 });
        s.lights[0].source = Source::Tube { length_m: w, diameter_m: 0.03 };
        s.ambient = Some(AmbientLight { level: Level::Lux { lux: 12.0 }, cct_k: Some(3000.0), map: None });
        let text = serde_json::to_string(&s).unwrap();
        let back = LightSet::parse(&text).unwrap();
        prop_assert!(back.unknown.is_empty());
        prop_assert_eq!(back.set, s);
    }
}

/// What a picture shows at a place: a ball's middle is its nearest point and looks back at the lens; its edge looks aside; beside it
/// lies the wall behind (geometry of a sphere).
#[test]
fn a_place_in_the_picture_is_a_place_in_the_set() {
    let set = LightSet::from_value(json!({ "format": "slant-set/1", "subjects": [{"kind": "ball_matte"}],
        "camera": {"position_m": [0, 0, 2], "vfov_deg": 20, "exposure": {"f_number": 8, "shutter_s": 0.01, "iso": 100}},
        "walls": [{"position_m": [0, 0, -1.5], "normal": [0, 0, 1], "width_m": 6, "height_m": 5, "colour": [0.2, 0.2, 0.2]}],
        "picture": {"width": 400, "height": 400} }))
    .expect("a set")
    .set;
    let r = lightset::set::BALL_RADIUS_M;
    // a point at half the radius to the right: where the line of sight meets the sphere
    let focal = 200.0 / 10f64.to_radians().tan();
    let half = 200.0 + focal * (0.5 * r) / (2.0 - r * 0.75f64.sqrt());
    let seen = studio::seen_at(&set, &[[200.0, 200.0], [half, 200.0], [390.0, 200.0]]);
    let [middle, aside, wall] = [0, 1, 2].map(|k| seen[k].expect("something"));
    assert!(middle.subject && (middle.at_m - Vec3::new(0.0, 0.0, r)).norm() < 2e-3 && middle.facing.z > 0.9999);
    assert!(aside.subject && (aside.facing - Vec3::new(0.5, 0.0, 0.75f64.sqrt())).norm() < 0.01, "{:?}", aside.facing);
    assert!(!wall.subject && (wall.at_m.z + 1.5).abs() < 5e-3 && wall.facing.z > 0.9999);
    // a mirror shows something else than itself, and nothing stands in the open
    let mut open = set.clone();
    open.walls.clear();
    open.subjects[0].kind = lightset::set::SubjectKind::BallMirror;
    assert!(studio::seen_at(&open, &[[200.0, 200.0], [390.0, 200.0]]).iter().all(Option::is_none));
}
