//! Daylight through a window: where the sun stands (astronomy), what the sky gives (IES RP-21), what an even face gives (Lambert).

use crate::set;
use lightset::daylight::{SunStands, SunWanted, sun_light};
use lightset::set::{Level, LightSet};
use lightset::window::{WallSide, WindowWanted, sheers, through_window};
use proptest::prelude::*;
use serde_json::json;

/// On the equator at the March equinox the sun rises in the east and stands about 43 degrees up at nine; a lens to the north has it
/// at its right.
fn nine() -> SunWanted {
    SunWanted { latitude_deg: 0.0, longitude_deg: 0.0, at: "2026-03-20T09:00:00Z".into(), heading_deg: 0.0 }
}

fn window(wall: WallSide, sheer: &str) -> WindowWanted {
    WindowWanted {
        wall,
        away_m: 2.0,
        along_m: 0.0,
        up_m: 0.2,
        width_m: 1.2,
        height_m: 1.4,
        sheer: sheer.into(),
        overcast: false,
    }
}

fn lux(s: &SunStands, name: &str) -> Option<f64> {
    s.lights.iter().find(|l| l.name == name).map(|l| match l.level {
        Level::Lux { lux } => lux,
        _ => panic!("lux"),
    })
}

fn said(s: &SunStands) -> String {
    s.says.join(" ")
}

#[test]
fn a_high_sun_passes_under_the_eyes_until_the_window_is_as_high_as_its_way() {
    let bare = set(json!({}));
    let mut w = window(WallSide::Right, "none");
    let low = through_window(&bare, &nine(), &w).unwrap();
    // two metres off it comes in 2 tan 43 = 1.9 m over the eyes; the window ends 0.9 m over them
    assert!(said(&low).contains("m under them") && said(&low).contains("from "), "{:?}", low.says);
    w.up_m = 1.85;
    let high = through_window(&bare, &nine(), &w).unwrap();
    assert!(said(&high).contains("falls on the eyes, 2."), "{:?}", high.says);
    // 2 m along the ground are 2 / cos 43 = 2.7 m of its way
    assert!(said(&high).contains("2.7 m behind the glass"), "{:?}", high.says);
    // about four minutes a degree: through 1.4 m at 2 m it is seen for about an hour and a half, nine in the middle
    assert!(said(&high).contains("from 08:") && said(&high).contains(" to 09:"), "{:?}", high.says);
    let wall = high.walls.as_ref().unwrap().last().unwrap();
    assert_eq!(wall.normal.map(f64::round), [-1.0, 0.0, 0.0]);
    assert!((wall.opening.unwrap().centre_m[1] - 1.85).abs() < 1e-9);
}

#[test]
fn a_window_on_the_other_side_shows_sky_only() {
    let s = through_window(&set(json!({})), &nine(), &window(WallSide::Left, "none")).unwrap();
    assert!(said(&s).contains("other side of the house") && lux(&s, "sun").is_none());
    let with = through_window(&set(json!({})), &nine(), &window(WallSide::Right, "none")).unwrap();
    assert!(
        (lux(&s, "window").unwrap() / lux(&with, "window").unwrap() - 1.0).abs() < 1e-6,
        "clear glass scatters none"
    );
}

/// A covered sky over the equator at noon: 0.3 + 21 sin h thousand lux on the ground (IES RP-21); an upright pane gets half of it and
/// of what the ground sends back (a fifth), two panes let 80 % of that through: 10.2 thousand lux behind a wall of glass.
#[test]
fn a_wall_of_glass_under_a_covered_sky() {
    let mut w = window(WallSide::Front, "none");
    (w.away_m, w.width_m, w.height_m, w.up_m, w.overcast) = (0.3, 18.0, 9.0, 0.1, true);
    let noon = SunWanted { at: "2026-03-20T12:07:00Z".into(), ..nine() };
    let s = through_window(&set(json!({})), &noon, &w).unwrap();
    let got = lux(&s, "window").unwrap();
    assert!((got / 10_224.0 - 1.0).abs() < 0.03, "{got}");
    assert!(lux(&s, "sun").is_none() && said(&s).contains("covered"));
}

/// What hangs in the window: the beam is weakened by the open part of the weave; a bed sheet in the sun glows brighter than the sky.
#[test]
fn a_curtain_takes_from_the_beam_and_glows() {
    let of = |sheer: &str| {
        let s = through_window(&set(json!({})), &nine(), &window(WallSide::Right, sheer)).unwrap();
        (lux(&s, "sun").unwrap_or(0.0), lux(&s, "window").unwrap(), s)
    };
    let (clear, sky, s) = of("none");
    let outside = match sun_light(&nine()).unwrap().lights[0].level {
        Level::Lux { lux } => lux,
        _ => panic!("lux"),
    };
    assert!((clear / outside - 0.8).abs() < 1e-9, "two panes");
    for sheer in sheers() {
        let (beam, glow, with) = of(&sheer.id);
        assert!((beam - clear * sheer.straight).abs() < 1e-6 * clear, "{}", sheer.id);
        assert!(sheer.straight >= 0.0 && sheer.scattered >= 0.0 && sheer.straight + sheer.scattered <= 1.0);
        if sheer.scattered > 0.1 {
            assert!(glow > 1.5 * sky, "{} glows in the sun", sheer.id);
            let kelvin = |s: &SunStands| s.lights.last().unwrap().cct_k.unwrap();
            assert!(kelvin(&with) < kelvin(&s), "and is warmer than the sky");
        }
    }
    assert!(said(&of("paper").2).contains("no beam is left"));
}

#[test]
fn the_window_goes_into_the_sets_own_wall() {
    let room = set(json!({"walls": [
        {"position_m": [0, -1.2, 0], "normal": [0, 1, 0], "width_m": 6, "height_m": 6, "colour": [0.3, 0.3, 0.3]},
        {"position_m": [3.1, 0.1, 0.5], "normal": [-1, 0, 0], "width_m": 5, "height_m": 2.6, "colour": [0.7, 0.6, 0.5]}]}));
    let s = through_window(&room, &nine(), &window(WallSide::Right, "voile")).unwrap();
    let walls = s.walls.clone().unwrap();
    assert_eq!(walls.len(), 2);
    assert_eq!(walls[1].colour, [0.7, 0.6, 0.5]);
    assert!(walls[0].opening.is_none() && (walls[1].opening.unwrap().centre_m[0] - 3.1).abs() < 1e-9);
    assert!(said(&s).contains("3.10 m away"));
    // asked for once more, elsewhere: the one hole moves
    let again = LightSet { walls, ..room };
    let mut w = window(WallSide::Right, "voile");
    w.along_m = 1.0;
    let moved = through_window(&again, &nine(), &w).unwrap().walls.unwrap();
    assert_eq!((moved.len(), moved[1].opening.unwrap().centre_m[2]), (2, 1.0));
    // written and read again it is the same
    let back = LightSet::from_value(serde_json::to_value(LightSet { walls: moved.clone(), ..again }).unwrap()).unwrap();
    assert_eq!(back.set.walls, moved);
}

#[test]
fn what_cannot_be_says_why() {
    let bare = set(json!({}));
    let ask = |w: WindowWanted, sun: SunWanted| through_window(&bare, &sun, &w).unwrap_err();
    let good = || window(WallSide::Right, "none");
    assert!(ask(WindowWanted { sheer: "wool".into(), ..good() }, nine()).contains("\"wool\" is not known"));
    assert!(ask(WindowWanted { away_m: 0.0, ..good() }, nine()).starts_with("window.away_m"));
    assert!(ask(WindowWanted { width_m: f64::NAN, ..good() }, nine()).starts_with("window.width_m"));
    assert!(ask(good(), SunWanted { at: "2026-03-20T22:00:00Z".into(), ..nine() }).contains("below the horizon"));
    let low = set(
        json!({"walls": [{"position_m": [2, 0, 0], "normal": [-1, 0, 0], "width_m": 2, "height_m": 1, "colour": [0.5, 0.5, 0.5]}]}),
    );
    assert!(through_window(&low, &nine(), &good()).unwrap_err().contains("beyond the wall of 2.0 × 1.0 m"));
}

proptest! {
    /// Nearer or larger a window never gives less, and no curtain lets more through than came.
    #[test]
    fn more_glass_is_more_light(away in 0.6f64..6.0, width in 0.3f64..3.0, height in 0.3f64..2.0, side in 0usize..4, which in 0usize..5) {
        let wall = [WallSide::Left, WallSide::Right, WallSide::Back, WallSide::Front][side];
        let w = WindowWanted { away_m: away, width_m: width, height_m: height, up_m: 0.1, ..window(wall, &sheers()[which].id) };
        let bare = set(json!({}));
        let of = |w: &WindowWanted| lux(&through_window(&bare, &nine(), w).unwrap(), "window").unwrap();
        let here = of(&w);
        let (wider, farther) = (WindowWanted { width_m: width * 1.3, ..w.clone() }, WindowWanted { away_m: away + 0.5, ..w });
        prop_assert!(of(&wider) >= here && of(&farther) <= here * (1.0 + 1e-9));
        // an even face fills at most the half space: no more at the eyes than falls on its pane
        let most = 0.8 * (sun_lux_on_ground() + 16_000.0) * 1.2;
        prop_assert!(here > 0.0 && here < most, "{here}");
    }
}

fn sun_lux_on_ground() -> f64 {
    lightset::daylight::sun_lux(43.0)
}
