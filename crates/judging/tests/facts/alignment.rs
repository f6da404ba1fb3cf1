//! A reference found in its take: known warps, another exposure, another light; and the map of differences.

use evidence::marks::{Ball, Ellipse, Eye, Finish, Mark, MarkKind, Marks};
use judging::compare::{Alignment, align, difference};
use optics::photo::Photo;
use trial::paint;

const SIDE: f64 = 240.0;

/// A scene of discs and bars on a ground, lit from one side or the other, at a place `q` of the reference.
fn scene(q: [f64; 2], from_left: bool) -> f64 {
    let shade = |x: f64| 0.5 + 0.5 * if from_left { -x } else { x };
    let mut v = 0.18;
    for (k, (cx, cy, r, rho)) in
        [(70.0, 80.0, 34.0, 0.7), (150.0, 60.0, 22.0, 0.08), (165.0, 150.0, 40.0, 0.5), (60.0, 180.0, 26.0, 0.9)]
            .into_iter()
            .enumerate()
    {
        let (dx, dy): (f64, f64) = ((q[0] - cx) / r, (q[1] - cy) / r);
        let inside = if k % 2 == 0 { dx.hypot(dy) < 1.0 } else { dx.abs() < 1.0 && dy.abs() < 0.7 };
        if inside {
            v = rho * (0.25 + 0.75 * shade(dx));
        }
    }
    v
}

/// The scene seen through a similarity: scale, turn in degrees, shift in pixels of the take.
fn seen(scale: f64, turn: f64, shift: [f64; 2], stops: f64, from_left: bool) -> Photo {
    let (s, c) = turn.to_radians().sin_cos();
    paint(SIDE as u32, SIDE as u32, |x, y| {
        let (dx, dy) = ((x - shift[0]) / scale, (y - shift[1]) / scale);
        let q = [c * dx + s * dy, -s * dx + c * dy];
        let inside = q.iter().all(|v| *v >= 0.0 && *v < SIDE);
        (if inside { scene(q, from_left) } else { 0.18 }) * stops.exp2()
    })
}

fn worst(a: &Alignment, scale: f64, turn: f64, shift: [f64; 2]) -> f64 {
    let (s, c) = turn.to_radians().sin_cos();
    let mut worst = 0.0f64;
    for p in [[60.0, 60.0], [180.0, 60.0], [120.0, 120.0], [60.0, 180.0], [180.0, 180.0]] {
        let truth = [shift[0] + scale * (c * p[0] - s * p[1]), shift[1] + scale * (s * p[0] + c * p[1])];
        let q = a.point(p);
        worst = worst.max((q[0] - truth[0]).hypot(q[1] - truth[1]));
    }
    worst
}

#[test]
fn known_warps_are_found_within_a_pixel() {
    let reference = seen(1.0, 0.0, [0.0, 0.0], 0.0, true);
    for (scale, turn, shift, stops) in [
        (1.0, 0.0, [9.0, -6.0], 0.0),
        (1.2, 4.0, [-25.0, -20.0], -0.8),
        (0.8, -7.0, [30.0, 40.0], 0.4),
        (1.0, 11.0, [25.0, -18.0], -1.0),
    ] {
        let a = align(&reference, &seen(scale, turn, shift, stops, true)).expect("aligned");
        let off = worst(&a, scale, turn, shift);
        assert!(off < 1.0, "scale {scale} turn {turn}: off by {off:.2} px, agreement {:.2}", a.agreement);
        assert!((a.scale - scale).abs() < 0.01 && (a.turn_deg - turn).abs() < 0.4, "{a:?}");
    }
}

#[test]
fn the_light_may_come_from_the_other_side() {
    let reference = seen(1.0, 0.0, [0.0, 0.0], 0.0, true);
    let a = align(&reference, &seen(1.1, 3.0, [-8.0, -12.0], 0.0, false)).expect("aligned");
    assert!(worst(&a, 1.1, 3.0, [-8.0, -12.0]) < 1.5, "{a:?}");
}

#[test]
fn a_mirrored_and_a_different_picture_are_refused() {
    let reference = seen(1.0, 0.0, [0.0, 0.0], 0.0, true);
    let mirrored = paint(SIDE as u32, SIDE as u32, |x, y| scene([SIDE - x, y], true));
    let told = align(&reference, &mirrored).expect_err("mirrored");
    assert!(told.contains("mirrored"), "{told}");
    let other = paint(SIDE as u32, SIDE as u32, |x, y| 0.3 + 0.2 * ((x * 0.21).sin() * (y * 0.043 + x * 0.02).cos()));
    assert!(!align(&reference, &other).is_ok_and(|a| a.sure()));
}

#[test]
fn a_picture_differs_from_itself_by_nothing_and_under_exposure_evenly() {
    let a = seen(1.0, 0.0, [0.0, 0.0], -0.6, true);
    let same = align(&a, &a).expect("itself");
    let map = difference(&a, &a, &same);
    assert!(map.told > 0.9, "{}", map.told);
    let most = |m: &judging::compare::DifferenceMap| {
        m.stops.iter().filter(|v| v.is_finite()).fold(0.0f32, |w, v| w.max(v.abs()))
    };
    assert!(most(&map) < 0.02, "{}", most(&map));
    // one stop less light is one stop everywhere (definition)
    let b = seen(1.0, 0.0, [0.0, 0.0], -1.6, true);
    let lies = align(&a, &b).expect("aligned");
    let map = difference(&a, &b, &lies);
    assert!((map.median_stops + 1.0).abs() < 0.03, "{}", map.median_stops);
    let matched = map.without(map.median_stops);
    // 8-bit coding of the darkest parts leaves a twentieth of a stop
    let mut off: Vec<f32> = matched.stops.iter().filter(|v| v.is_finite()).map(|v| v.abs()).collect();
    off.sort_by(f32::total_cmp);
    assert!(off[off.len() * 95 / 100] < 0.06, "{}", off[off.len() * 95 / 100]);
}

#[test]
fn marks_go_where_the_picture_says() {
    let (scale, turn, shift) = (1.2f64, 10.0f64, [-20.0, 5.0]);
    let reference = seen(1.0, 0.0, [0.0, 0.0], 0.0, true);
    let a = align(&reference, &seen(scale, turn, shift, 0.0, true)).expect("aligned");
    let mark = |id: &str, kind| Mark { id: id.into(), off: false, kind, other: Default::default() };
    let limbus = Ellipse { centre: [100.0, 100.0], rx: 20.0, ry: 16.0, angle_deg: 30.0 };
    let m = Marks {
        marks: vec![
            mark("b", MarkKind::Ball(Ball { finish: Finish::Matte, centre: [70.0, 80.0], radius_px: 34.0 })),
            mark("e", MarkKind::Eye(Eye { limbus, looks_to_clock: Some(3.0), catchlights: None })),
        ],
        ..Marks::default()
    };
    let carried = a.carry(&m);
    let MarkKind::Ball(Ball { centre, radius_px, .. }) = &carried.marks[0].kind else { panic!("a ball") };
    let (s, c) = turn.to_radians().sin_cos();
    let want = [shift[0] + scale * (c * 70.0 - s * 80.0), shift[1] + scale * (s * 70.0 + c * 80.0)];
    assert!((centre[0] - want[0]).hypot(centre[1] - want[1]) < 1.0);
    assert!((radius_px - 34.0 * scale).abs() < 0.6);
    let MarkKind::Eye(Eye { limbus, looks_to_clock, .. }) = &carried.marks[1].kind else { panic!("an eye") };
    assert!((limbus.angle_deg - 40.0).abs() < 0.7 && (limbus.rx - 24.0).abs() < 0.4, "{limbus:?}");
    // a third of an hour for ten degrees
    assert!((looks_to_clock.unwrap_or(0.0) - 3.333).abs() < 0.03);
}
