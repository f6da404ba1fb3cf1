//! Cutters against what a meter finds behind them: similar triangles say how high the band is and how wide its edges are.

use lightset::cutter::{Band, cutter, cutter_beside};
use lightset::daylight::SunWanted;
use lightset::set::LightSet;
use lightset::window::{WallSide, WindowWanted, through_window};
use optics::geometry::{Vec3, upright};
use serde_json::{Value, json};
use studio::{flat_at, meter};

fn set(source: Value, azimuth: f64, elevation: f64, distance: f64) -> LightSet {
    let whole = json!({ "format": "slant-set/1",
        "camera": {"position_m": [0, 0, 2.2], "vfov_deg": 14, "exposure": {"f_number": 5.6, "shutter_s": 0.008, "iso": 100}},
        "lights": [{"name": "key", "azimuth_deg": azimuth, "elevation_deg": elevation, "distance_m": distance, "source": source, "level": {"stops": 0}}] });
    LightSet::from_value(whole).expect("a set").set
}

/// Share of the light that is left along a line up through the band, with the metres from its middle.
fn profile(s: &LightSet, at: Vec3, reach: f64) -> Vec<(f64, f64)> {
    let m = meter(s).expect("a meter");
    let dir = (Vec3::from(m.lights[0].face_m) - at).normalize();
    let (_, up) = upright(&dir);
    let ys: Vec<f64> = (0..=160).map(|k| reach * (f64::from(k) / 80.0 - 1.0)).collect();
    let places: Vec<(Vec3, Vec3)> = ys.iter().map(|y| (at + up * *y, dir)).collect();
    let open = LightSet { flags: Vec::new(), ..s.clone() };
    let [cut, free] = [s, &open].map(|s| flat_at(s, &places).expect("metered"));
    ys.into_iter().zip(cut.iter().zip(&free)).map(|(y, (c, f))| (y, c / f)).collect()
}

/// Where a profile crosses a share, from the middle outwards to one side.
fn crosses(p: &[(f64, f64)], share: f64, up: bool) -> f64 {
    let mut side: Vec<(f64, f64)> = p.iter().copied().filter(|(y, _)| if up { *y >= 0.0 } else { *y <= 0.0 }).collect();
    if !up {
        side.reverse();
    }
    let pair = side.windows(2).find(|w| w[0].1 >= share && w[1].1 < share).expect("it crosses");
    let t = (pair[0].1 - share) / (pair[0].1 - pair[1].1);
    pair[0].0 + t * (pair[1].0 - pair[0].0)
}

/// A slit gives the band that was asked for within a tenth: its height where the light is half, and its edge, from a quarter to
/// three quarters of the light (half of a rectangle's whole edge, which is linear; of a disc's 0.40 of it, by its chord lengths).
#[test]
fn a_slit_leaves_the_band_that_was_asked_for() {
    let cases = [
        (json!({"kind": "rectangle", "width_m": 0.1, "height_m": 0.1}), 0.5, -34.0, 8.0, 2.0, [0.05, 0.012]),
        (json!({"kind": "rectangle", "width_m": 0.3, "height_m": 0.2}), 0.5, 40.0, 25.0, 2.5, [0.12, 0.05]),
        (json!({"kind": "disc", "diameter_m": 0.12}), 0.404, -20.0, 0.0, 1.8, [0.06, 0.02]),
        (json!({"kind": "disc", "diameter_m": 0.18}), 0.404, 60.0, -10.0, 3.0, [0.2, 0.15]),
    ];
    for (source, part, az, el, d, [height, edge]) in cases {
        let mut s = set(source, az, el, d);
        let light = meter(&s).expect("a meter").lights.remove(0);
        let at = [0.01, 0.02, 0.0];
        let band = Band { at_m: at, height_m: height, edge_m: edge, apart_m: None };
        let c = cutter(&light, &band).expect("a cutter");
        s.flags.push(c.flag);
        // the meter of the set says the same of the flag as it stands
        let told = &meter(&s).expect("a meter").flags[0];
        assert!(
            (told.band.height_m / height - 1.0).abs() < 0.02 && (told.band.edge_m / edge - 1.0).abs() < 0.02,
            "{told:?}"
        );
        let p = profile(&s, at.into(), height / 2.0 + edge);
        let found = crosses(&p, 0.5, true) - crosses(&p, 0.5, false);
        assert!((found / height - 1.0).abs() < 0.1, "band {found:.4} m for {height}");
        for up in [true, false] {
            let e = (crosses(&p, 0.25, up) - crosses(&p, 0.75, up)).abs() / part;
            assert!((e / edge - 1.0).abs() < 0.1, "edge {e:.4} m for {edge}");
        }
        // and the middle has all of the light
        assert!((p[80].1 - 1.0).abs() < 0.02, "{}", p[80].1);
    }
}

/// Blinds: bands as high and as far apart as asked, one of them across the eyes.
#[test]
fn blinds_leave_bands_in_step() {
    let mut s = set(json!({"kind": "rectangle", "width_m": 0.08, "height_m": 0.08}), -45.0, 15.0, 2.4);
    let light = meter(&s).expect("a meter").lights.remove(0);
    let band = Band { at_m: [0.0; 3], height_m: 0.04, edge_m: 0.01, apart_m: Some(0.03) };
    s.flags.push(cutter(&light, &band).expect("a cutter").flag);
    let p = profile(&s, Vec3::zeros(), 0.1);
    let found = crosses(&p, 0.5, true) - crosses(&p, 0.5, false);
    assert!((found / 0.04 - 1.0).abs() < 0.1, "band {found:.4}");
    assert!((crosses(&p, 0.5, true) + crosses(&p, 0.5, false)).abs() < 0.004, "the eyes lie in the middle of it");
    let lit = p.iter().filter(|(_, v)| *v > 0.5).count() as f64 / p.len() as f64;
    assert!((lit - 4.0 / 7.0).abs() < 0.08, "{lit} of the way is lit");
}

/// A cutter does not stand in the picture: it goes towards the lamp, and says that its edges grow.
#[test]
fn a_cutter_keeps_out_of_the_picture() {
    let s = set(json!({"kind": "disc", "diameter_m": 0.07}), -50.0, 10.0, 3.0);
    let light = meter(&s).expect("a meter").lights.remove(0);
    let band = Band { at_m: [0.0; 3], height_m: 0.05, edge_m: 0.005, apart_m: None };
    let inside = cutter(&light, &band).expect("a cutter").flag;
    let shown = |f: lightset::set::Flag| meter(&LightSet { flags: vec![f], ..s.clone() }).expect("a meter").warnings;
    assert!(shown(inside).iter().any(|w| w.contains("Cutter 1 stands in the frame")));
    let beside = cutter_beside(&s, &light, &band).expect("a cutter");
    assert!(beside.band.edge_m > band.edge_m && beside.says.iter().any(|x| x.contains("in the picture")), "{beside:?}");
    assert!(!shown(beside.flag).iter().any(|w| w.contains("Cutter")));
}

/// What cannot stand is said, with what could.
#[test]
fn a_cutter_in_the_lamp_or_in_the_face_is_refused() {
    let s = set(json!({"kind": "disc", "diameter_m": 0.6}), -40.0, 20.0, 1.5);
    let light = meter(&s).expect("a meter").lights.remove(0);
    let of = |height_m, edge_m| cutter(&light, &Band { at_m: [0.0; 3], height_m, edge_m, apart_m: None });
    let crisp = of(0.05, 0.005).unwrap_err();
    assert!(crisp.contains("from the subject") && crisp.contains("smaller face"), "{crisp}");
    // from 12 cm: 0.6 m x 0.12 / 1.38
    assert!(crisp.contains("gives 52 mm"), "{crisp}");
    let soft = of(2.9, 2.95).map(|c| c.from_light_m);
    assert!(soft.is_ok_and(|a| a > 0.12));
    let lamp = set(json!({"kind": "disc", "diameter_m": 0.05}), -40.0, 20.0, 1.5);
    let small = meter(&lamp).expect("a meter").lights.remove(0);
    let behind = cutter(&small, &Band { at_m: [0.0; 3], height_m: 0.5, edge_m: 0.9, apart_m: None }).unwrap_err();
    assert!(behind.contains("behind the lamp"), "{behind}");
    assert!(of(f64::NAN, 0.1).unwrap_err().contains("height_m"));
    // an edge wider than the band: the middle never has all of the light
    let dim = of(0.1, 0.4).expect("a cutter");
    assert!((dim.loses_stops - 2.0).abs() < 1e-9, "{}", dim.loses_stops);
}

/// The sun through a window of a room: in its patch a meter shows what the sun gives there, beside it only the window's own light;
/// the wall without its window keeps all of it out.
#[test]
fn the_sun_falls_where_the_window_lets_it() {
    let bare = LightSet::from_value(json!({ "format": "slant-set/1",
        "camera": {"position_m": [0, 0, 2.2], "vfov_deg": 14, "exposure": {"f_number": 8, "shutter_s": 0.004, "iso": 100}} }))
    .expect("a set")
    .set;
    let sun = SunWanted { latitude_deg: 0.0, longitude_deg: 0.0, at: "2026-03-20T09:00:00Z".into(), heading_deg: 0.0 };
    let window = WindowWanted {
        wall: WallSide::Right,
        away_m: 2.0,
        along_m: 0.0,
        up_m: 1.85,
        width_m: 0.8,
        height_m: 0.8,
        sheer: "none".into(),
        overcast: false,
    };
    let stands = through_window(&bare, &sun, &window).expect("a window");
    let s = LightSet { lights: stands.lights, walls: stands.walls.expect("walls"), ..bare };
    let to = s.lights[0].position().normalize();
    // beside the beam: a metre towards the lens
    let places = [(Vec3::zeros(), to), (Vec3::new(0.0, 0.0, 1.0), to)];
    let metered = |s: &LightSet| flat_at(s, &places).expect("metered");
    let all = metered(&s);
    let only =
        |name: &str| LightSet { lights: s.lights.iter().filter(|l| l.name == name).cloned().collect(), ..s.clone() };
    let (by_sun, by_window) = (metered(&only("sun")), metered(&only("window")));
    // f/8, 1/250, ISO 100: 250 N^2 / (t S) lux are one
    let lightset::set::Level::Lux { lux } = s.lights[0].level else { panic!("lux") };
    assert!((by_sun[0] / (lux / (250.0 * 64.0 / (0.004 * 100.0))) - 1.0).abs() < 0.02, "{} for {lux} lux", by_sun[0]);
    // what is left of the sun there is what the wall sends back
    assert!(by_sun[1] < 0.02 * by_sun[0], "{by_sun:?}");
    assert!(
        (all[0] / (by_sun[0] + by_window[0]) - 1.0).abs() < 0.02
            && (all[1] / (by_sun[1] + by_window[1]) - 1.0).abs() < 0.02
    );
    let mut shut = only("sun");
    shut.walls.iter_mut().for_each(|w| w.opening = None);
    assert!(metered(&shut)[0] < 1e-6);
}
