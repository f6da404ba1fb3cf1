//! A take against its reference: painted balls with one known change.

use evidence::marks::{Ball, CameraFacts, Finish, Mark, MarkKind, Marks};
use evidence::read::read;
use judging::compare::{Comparison, LedgerLine, Pictured, align, compare};
use judging::terms::{Aspect, MoveKind, Term, Unit};
use optics::falloff::disc_lobe;
use optics::geometry::{AzEl, Vec3};
use optics::photo::Photo;
use trial::paint;

/// A matte ball of reflectance one half under two lights and even light, painted by the cosine law.
fn ball(lights: &[(f64, f64, f64, f64)], ambient: f64) -> Photo {
    let (c, r) = (100.0, 80.0);
    paint(200, 200, |x, y| {
        let (dx, dy) = ((x - c) / r, (c - y) / r);
        let z2 = 1.0 - dx * dx - dy * dy;
        if z2 <= 0.0 {
            return 0.02;
        }
        let n = Vec3::new(dx, dy, z2.sqrt());
        let sum: f64 = lights
            .iter()
            .map(|(az, el, size, stops)| {
                let d = AzEl { azimuth_deg: *az, elevation_deg: *el }.vector();
                stops.exp2() * disc_lobe(n.dot(&d), (size / 2.0).to_radians())
            })
            .sum();
        0.5 * (sum + ambient)
    })
}

fn marks() -> Marks {
    let ball = MarkKind::Ball(Ball { finish: Finish::Matte, centre: [100.0, 100.0], radius_px: 80.0 });
    Marks {
        camera: Some(CameraFacts { vfov_deg: Some(2.0), ..CameraFacts::default() }),
        marks: vec![Mark { id: "b".into(), off: false, kind: ball, other: Default::default() }],
        ..Marks::default()
    }
}

fn first_move(a: &Photo, b: &Photo) -> Option<(MoveKind, Option<String>, f64)> {
    let m = marks();
    let (p, q) = (read(a, &m, None, &|| &[]), read(b, &m, None, &|| &[]));
    let c = compare(
        Pictured { photo: a, marks: &m, readings: &p },
        Pictured { photo: b, marks: &m, readings: &q },
        &|| align(a, b),
        &|| &[],
    );
    c.next_moves.first().map(|n| (n.kind, n.light.clone(), n.amount))
}

const KEY: (f64, f64, f64, f64) = (40.0, 35.0, 25.0, -0.6);
const FILL: (f64, f64, f64, f64) = (-55.0, 10.0, 20.0, -2.4);

#[test]
fn a_picture_with_itself_wants_nothing() {
    let a = ball(&[KEY, FILL], 0.05);
    assert_eq!(first_move(&a, &a), None);
}

/// Halving all light is one stop (definition), and is named as exposure.
#[test]
fn exposure_is_named_as_such() {
    let a = ball(&[KEY, FILL], 0.05);
    let b = ball(&[(KEY.0, KEY.1, KEY.2, KEY.3 - 1.0), (FILL.0, FILL.1, FILL.2, FILL.3 - 1.0)], 0.025);
    let (kind, _, amount) = first_move(&a, &b).expect("a move");
    assert_eq!(kind, MoveKind::Exposure);
    assert!((amount - 1.0).abs() < 0.1, "{amount}");
}

#[test]
fn a_key_that_moved_is_named_with_its_angle() {
    let a = ball(&[KEY, FILL], 0.05);
    let b = ball(&[(KEY.0 + 14.0, KEY.1, KEY.2, KEY.3), FILL], 0.05);
    let (kind, light, amount) = first_move(&a, &b).expect("a move");
    // 14 degrees round at 35 up are 11.5 between the directions (spherical cosine rule)
    assert_eq!((kind, light.as_deref()), (MoveKind::Direction, Some("key")));
    assert!((amount - 11.5).abs() < 1.5, "{amount}");
}

/// The only light of both pictures is their key, however far it was moved.
#[test]
fn a_key_on_the_other_side_is_moved_not_exchanged() {
    let a = ball(&[(45.0, 30.0, 20.0, -0.5)], 0.06);
    let b = ball(&[(-45.0, 30.0, 20.0, -0.5)], 0.06);
    let (kind, light, amount) = first_move(&a, &b).expect("a move");
    // cos of the angle: sin² 30 + cos² 30 cos 90 = 0.25
    assert_eq!((kind, light.as_deref()), (MoveKind::Direction, Some("key")));
    assert!((amount - 75.5).abs() < 2.0, "{amount}");
}

#[test]
fn a_fill_turned_up_is_named_with_its_stops() {
    let a = ball(&[KEY, FILL], 0.05);
    let b = ball(&[KEY, (FILL.0, FILL.1, FILL.2, FILL.3 + 0.8)], 0.05);
    let (kind, light, amount) = first_move(&a, &b).expect("a move");
    assert_eq!((kind, light.as_deref()), (MoveKind::Level, Some("fill")));
    assert!((amount + 0.8).abs() < 0.15, "{amount}");
}

#[test]
fn marks_scale_with_the_picture() {
    let m = marks().scaled(2.0);
    let MarkKind::Ball(Ball { centre, radius_px, .. }) = &m.marks[0].kind else { panic!("a ball") };
    assert_eq!((*centre, *radius_px), ([200.0, 200.0], 160.0));
}

/// Of two lights the weaker one that was left alone says that the key was turned, not the exposure.
#[test]
fn a_key_turned_down_is_not_taken_for_exposure() {
    let a = ball(&[KEY, FILL], 0.05);
    let b = ball(&[(KEY.0, KEY.1, KEY.2, KEY.3 - 0.9), FILL], 0.05);
    let (kind, light, amount) = first_move(&a, &b).expect("a move");
    assert_eq!((kind, light.as_deref()), (MoveKind::Level, Some("key")));
    assert!((amount - 0.9).abs() < 0.15, "{amount}");
}

/// A size alone changes neither level nor exposure.
#[test]
fn a_larger_source_is_named_by_its_ratio() {
    let a = ball(&[(50.0, 30.0, 18.0, -0.6)], 0.05);
    let b = ball(&[(50.0, 30.0, 36.0, -0.6)], 0.05);
    let (kind, light, amount) = first_move(&a, &b).expect("a move");
    assert_eq!((kind, light.as_deref()), (MoveKind::Size, Some("key")));
    assert!((amount / 0.5 - 1.0).abs() < 0.12, "{amount}");
}

/// Said in words of our own; what is sure is over two standard deviations (95 % of a normal spread, textbook).
#[test]
fn without_a_move_it_is_said_what_differs_and_what_to_do() {
    let says = |ledger: Vec<LedgerLine>| Comparison { ledger, ..Comparison::default() }.says_no_move();
    let stops = |what: Term, d: f64| LedgerLine::new(what, 0.0, d, d, Unit::Stops, 0.1);
    let fill = Term::of("fill", Aspect::Level);
    assert!(says(vec![stops(fill.clone(), 0.19)]).starts_with("Nothing:"));
    assert!(
        says(vec![stops(Term::Exposure, 0.6), stops(fill.clone(), 0.19)]).starts_with("The lights themselves: nothing")
    );
    let both = says(vec![stops(Term::Exposure, 0.6), stops(fill, 0.21), stops(Term::Room, -1.0)]);
    assert!(
        both.contains("differ: fill: level, light from all around.") && both.contains("each light alone"),
        "{both}"
    );
}

/// A size that may be twenty times as large or as small is none (from memory: e³ is 20).
#[test]
fn a_spread_wider_than_anything_it_could_be_is_not_told() {
    let told = |unit: Unit, sd: f64| LedgerLine::new(Term::of("key", Aspect::Size), 1.0, 1.0, 1.0, unit, sd).told;
    assert!(told(Unit::Times, 20f64.ln()) && !told(Unit::Times, 21f64.ln()));
    assert!(told(Unit::Degrees, 45.0) && !told(Unit::Degrees, 90.0));
    assert!(told(Unit::Stops, 1.0) && !told(Unit::Stops, 4.0) && told(Unit::Mired, 30.0) && !told(Unit::Mired, 80.0));
    // what was kept before the word was there was told
    let old = r#"{"what":"key: up","reference":1.0,"take":2.0,"difference":1.0,"unit":"°","sd":0.5,"sure":false}"#;
    assert!(serde_json::from_str::<LedgerLine>(old).expect("a line").told);
}
