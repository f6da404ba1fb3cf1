//! Proposed marks, on painted pictures with known things in them.

use evidence::marks::{Ball, Cylinder, Finish, MarkKind, Patch, PatchRole};
use finding::{Sought, cheeks, find};
use optics::geometry::AzEl;
use trial::paint;

fn lit_ball(x: f64, y: f64, c: [f64; 2], r: f64, az: f64) -> Option<f64> {
    let (u, v) = ((x - c[0]) / r, (c[1] - y) / r);
    let z2 = 1.0 - u * u - v * v;
    let l = AzEl { azimuth_deg: az, elevation_deg: 30.0 }.vector();
    (z2 >= 0.0).then(|| 0.5 * (u * l.x + v * l.y + z2.sqrt() * l.z).max(0.0) + 0.03)
}

#[test]
fn a_ball_on_a_wall_is_found_where_it_is() {
    let photo = paint(420, 300, |x, y| lit_ball(x, y, [250.0, 140.0], 48.0, -40.0).unwrap_or(0.12 + 0.0002 * x));
    let found = find(&photo, None);
    let MarkKind::Ball(Ball { finish, centre, radius_px }) = &found[0].mark.kind else { panic!("{found:?}") };
    assert_eq!(*finish, Finish::Matte);
    assert!((centre[0] - 250.0).abs() < 1.0 && (centre[1] - 140.0).abs() < 1.0 && (radius_px - 48.0).abs() < 1.0);
    assert_eq!(found.len(), 1);
    // nobody asked for a product
    assert!(find(&photo, Some(Sought::Product)).iter().all(|p| !matches!(p.mark.kind, MarkKind::Ball(_))));
}

#[test]
fn a_glossy_can_is_found_by_its_edges_and_its_line() {
    let photo = paint(400, 320, |x, y| {
        let s = (x - 180.0) / 42.0;
        if s.abs() > 1.0 || !(60.0..260.0).contains(&y) {
            return 0.2;
        }
        0.04 + if (0.3..0.5).contains(&s) { 0.6 } else { 0.0 }
    });
    let found = find(&photo, Some(Sought::Product));
    let MarkKind::Cylinder(Cylinder { axis, radius_px, .. }) = &found[0].mark.kind else { panic!("{found:?}") };
    assert!((axis[0][0] - 180.0).abs() < 2.0 && (radius_px - 42.0).abs() < 2.0, "{found:?}");
}

#[test]
fn nothing_is_made_up_where_there_is_nothing() {
    let even = paint(320, 240, |x, y| 0.2 + 0.0004 * (x + y));
    assert!(find(&even, None).is_empty());
    // a flat disc is no ball
    let disc = paint(320, 240, |x, y| if (x - 160.0).hypot(y - 120.0) < 50.0 { 0.5 } else { 0.1 });
    assert!(find(&disc, Some(Sought::Ball)).is_empty());
    // tiny pictures are no harm
    assert!(find(&paint(3, 2, |_, _| 0.5), None).is_empty());
}

#[test]
fn a_shadow_on_one_wall_is_proposed_with_its_two_sides() {
    let photo = paint(320, 240, |x, _| 0.05 + 0.4 / (1.0 + ((160.0 - x) / 3.0).exp()));
    let found = find(&photo, Some(Sought::Product));
    let kinds: Vec<_> = found.iter().map(|p| p.mark.id.as_str()).collect();
    assert!(kinds.contains(&"edge-1") && kinds.contains(&"patch-1") && kinds.contains(&"patch-2"), "{kinds:?}");
}

#[test]
fn the_brighter_cheek_is_the_lit_one() {
    let photo = paint(200, 100, |x, _| if x < 100.0 { 0.08 } else { 0.32 });
    let found = cheeks(&photo, [[50.0, 50.0], [150.0, 50.0]], 8.0);
    let side = |role: PatchRole| {
        found.iter().find_map(|p| match &p.mark.kind {
            MarkKind::Patch(Patch { role: r, polygon }) if *r == role => Some(polygon[0][0]),
            _ => None,
        })
    };
    assert_eq!((side(PatchRole::Lit), side(PatchRole::Shadow)), (Some(142.0), Some(42.0)));
    // 0.32 over 0.08 is two stops (log2 4)
    assert!(found[0].why.contains("2.0 stops"), "{}", found[0].why);
    // alike, or outside the picture: no sides
    assert!(cheeks(&photo, [[30.0, 50.0], [60.0, 50.0]], 8.0).is_empty());
    assert!(cheeks(&photo, [[-300.0, 50.0], [60.0, 50.0]], 8.0).is_empty());
}

/// Rings within rings with a bright spot: a cup on its saucer seen from above.
#[test]
fn a_cup_on_its_saucer_is_no_ball() {
    for spots in [0, 1, 3, 5] {
        let cup = paint(420, 320, |x, y| {
            let r = (x - 210.0).hypot(y - 160.0);
            let spot = (0..spots).any(|k| {
                let t = f64::from(k) * 1.3;
                (x - 210.0 - 20.0 * t.cos()).hypot(y - 160.0 - 20.0 * t.sin()) < 4.0
            });
            match r {
                _ if spot => 0.9,
                r if r < 48.0 => 0.03 + 0.0005 * y,
                r if r < 56.0 => 0.7,
                r if r < 100.0 => 0.5 + 0.001 * x,
                _ => 0.15 + 0.0003 * (x + y),
            }
        });
        let found = find(&cup, Some(Sought::Ball));
        assert!(
            found.is_empty(),
            "{spots} spots: {:?}",
            found.iter().map(|p| (&p.mark.kind, p.probability)).collect::<Vec<_>>()
        );
    }
}

#[test]
fn what_is_proposed_is_at_least_as_likely_as_not() {
    let all = [
        paint(320, 240, |x, _| 0.05 + 0.4 / (1.0 + ((160.0 - x) / 3.0).exp())),
        paint(320, 240, |x, y| 0.2 + 0.1 * (0.1 * x).sin() * (0.13 * y).sin()),
    ];
    for photo in &all {
        for p in find(photo, None) {
            assert!((finding::LIKELY..=1.0).contains(&p.probability), "{p:?}");
        }
        // what was only looked at may be anything, and says from what it was worked out
        for p in finding::candidates(photo) {
            let signs = p.signs.expect("signs");
            let model = finding::models().iter().find(|m| m.kind == signs.kind).expect("a model");
            assert_eq!(model.signs.len(), signs.values.len());
            assert!(signs.values.iter().all(|v| v.is_finite()), "{signs:?}");
        }
    }
}

#[test]
fn every_model_has_a_weight_for_every_sign() {
    for m in finding::models() {
        assert_eq!(m.signs.len(), m.weights.len(), "{}", m.kind);
        assert!(m.bias.is_finite() && m.weights.iter().all(|w| w.is_finite()));
    }
}

/// Numbers between two ends, the same ones in every run: place `k` of a van der Corput sequence in a base.
fn spread(k: u32, base: u32, [from, to]: [f64; 2]) -> f64 {
    let (mut n, mut at, mut step) = (k + 1, 0.0, 1.0);
    while n > 0 {
        step /= f64::from(base);
        at += step * f64::from(n % base);
        n /= base;
    }
    from + (to - from) * at
}

/// Wherever it lies and however large it is, a matte ball is found with its outline (Lambert's law painted pixel by pixel).
#[test]
fn balls_are_found_wherever_they_lie() {
    let mut there = 0;
    for k in 0..16 {
        let [x, y] = [spread(k, 2, [90.0, 330.0]), spread(k, 3, [80.0, 220.0])];
        let (r, az) = (spread(k, 5, [28.0, 60.0]), spread(k, 7, [-60.0, 60.0]));
        let photo = paint(420, 300, |px, py| lit_ball(px, py, [x, y], r, az).unwrap_or(0.12 + 0.0002 * px));
        for p in find(&photo, None) {
            let MarkKind::Ball(b) = &p.mark.kind else { continue };
            there += 1;
            assert!((b.centre[0] - x).abs() < 1.5 && (b.centre[1] - y).abs() < 1.5, "{:?} for {x}, {y}", b.centre);
            assert!((b.radius_px - r).abs() < 1.5, "{} for {r}", b.radius_px);
        }
    }
    // one whose dark side is lost against the wall may be left for a hand
    assert!((15..=16).contains(&there), "{there} of 16");
}

/// A glossy can is found at its place and width, leaning or not.
#[test]
fn cans_are_found_where_they_stand() {
    for k in 0..16 {
        let (x, r) = (spread(k, 2, [120.0, 280.0]), spread(k, 3, [25.0, 55.0]));
        let (lean, line) = (spread(k, 5, [-7.0, 7.0]), spread(k, 7, [-0.7, 0.4]));
        let (sin, cos) = lean.to_radians().sin_cos();
        let photo = paint(400, 320, |px, py| {
            let (dx, dy) = (px - x, py - 160.0);
            let (s, t) = ((dx * cos + dy * sin) / r, dy * cos - dx * sin);
            if s.abs() > 1.0 || t.abs() > 110.0 {
                return 0.2;
            }
            0.04 + if (line..line + 0.25).contains(&s) { 0.6 } else { 0.0 }
        });
        let found = find(&photo, Some(Sought::Product));
        let body = found.iter().find_map(|p| match &p.mark.kind {
            MarkKind::Cylinder(c) => Some(c),
            _ => None,
        });
        let c = body.unwrap_or_else(|| panic!("{k}: no cylinder"));
        let middle = [0, 1].map(|i| f64::midpoint(c.axis[0][i], c.axis[1][i]));
        // the middle of its axis lies on its axis
        let aside = (middle[0] - x) * cos + (middle[1] - 160.0) * sin;
        assert!(aside.abs() < 3.0 && (c.radius_px / r - 1.0).abs() < 0.08, "{aside} aside, {} for {r}", c.radius_px);
    }
}

/// A dark bar with a bright line that runs out of the picture above and below may be a strip of the wall or the gap beside a card.
#[test]
fn a_bar_that_runs_through_the_picture_is_no_can() {
    let can = |y: std::ops::Range<f64>| {
        paint(400, 320, move |px, py| {
            let s = (px - 200.0) / 40.0;
            if s.abs() > 1.0 || !y.contains(&py) {
                return 0.2;
            }
            0.04 + if (-0.3..0.1).contains(&s) { 0.6 } else { 0.0 }
        })
    };
    let cylinders = |y| {
        let found = find(&can(y), Some(Sought::Product));
        found.iter().filter(|p| matches!(p.mark.kind, MarkKind::Cylinder(_))).count()
    };
    assert_eq!(cylinders(0.0..320.0), 0);
    // one that ends in the picture, above or below, stands there
    assert_eq!(cylinders(60.0..260.0), 1);
    assert_eq!(cylinders(60.0..320.0), 1);
    assert_eq!(cylinders(0.0..250.0), 1);
}

/// A head on its neck is alike on both sides as a bottle is: without a straight side only what stands in the picture is taken for one.
#[test]
fn an_outline_cut_by_the_lower_border_is_no_bottle() {
    // narrow below, wide above, shaded from one side; `foot` is where it ends
    let form = |foot: f64| {
        paint(300, 420, move |px, py| {
            let up = (foot - py) / 300.0;
            let half = match up {
                u if !(0.0..1.0).contains(&u) => 0.0,
                u if u < 0.2 => 45.0,
                u => 45.0 + 35.0 * ((u - 0.2) / 0.8 * std::f64::consts::PI).sin(),
            };
            if (px - 150.0).abs() < half { 0.35 + 0.15 * (px - 150.0) / half } else { 0.08 }
        })
    };
    let outlines = |foot: f64| {
        let found = find(&form(foot), Some(Sought::Product));
        found.iter().filter(|p| p.why.contains("alike on both sides")).count()
    };
    assert_eq!(outlines(380.0), 1);
    assert_eq!(outlines(430.0), 0);
}
