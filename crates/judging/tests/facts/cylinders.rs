//! A bottle in two pictures: its bright lines tell which light was changed, and by how much.

use evidence::marks::{CameraFacts, Cylinder, Mark, MarkKind, Marks, Patch, PatchRole};
use judging::compare::{Comparison, NextMove, Pictured, compare};
use judging::terms::MoveKind;
use optics::photo::{Photo, Samples};
use optics::tone::{Encoding, linear_to_srgb};

/// A light that a cylinder mirrors: azimuth of its middle and width in degrees, radiance, its colour.
#[derive(Clone, Copy)]
struct Lamp {
    at: f64,
    wide: f64,
    radiance: f64,
    rgb: [f64; 3],
}

const KEY: Lamp = Lamp { at: -55.0, wide: 24.0, radiance: 7.0, rgb: [1.0; 3] };
const FILL: Lamp = Lamp { at: 62.0, wide: 30.0, radiance: 2.5, rgb: [1.0; 3] };
const RADIUS: f64 = 90.0;

/// Reflectance of a surface with n = 1.5 for unpolarised light (Fresnel).
fn fresnel(angle: f64) -> f64 {
    let (c, n) = (angle.cos(), 1.5f64);
    let t = (1.0 - (angle.sin() / n).powi(2)).sqrt();
    let (s, p) = ((c - n * t) / (c + n * t), (t - n * c) / (t + n * c));
    f64::midpoint(s * s, p * p)
}

/// An upright glossy cylinder from afar over a grey ground: at the offset s its normal is turned by asin s, and what is
/// mirrored stands twice as far round.
fn picture(lamps: &[Lamp], gain: f64) -> Photo {
    let (w, h) = (240u32, 160u32);
    let mut data = Vec::new();
    for y in 0..h {
        for x in 0..w {
            let mut c = [0.0f64; 3];
            for i in 0..8 {
                let s = (f64::from(x) + (f64::from(i) + 0.5) / 8.0 - 120.0) / RADIUS;
                let inside = s.abs() < 1.0 && y < 110;
                for (k, c) in c.iter_mut().enumerate() {
                    // the table is lit by both, the body is dark
                    let table: f64 = lamps.iter().map(|l| 0.03 * l.radiance * l.wide / 24.0 * l.rgb[k]).sum();
                    *c += if inside { 0.015 } else { table } / 8.0;
                    let psi = s.clamp(-1.0, 1.0).asin();
                    let seen = |l: &&Lamp| ((2.0 * psi).to_degrees() - l.at).abs() < l.wide / 2.0;
                    if inside {
                        *c +=
                            lamps.iter().filter(seen).map(|l| fresnel(psi) * l.radiance * l.rgb[k]).sum::<f64>() / 8.0;
                    }
                }
            }
            data.extend(c.map(|v| (255.0 * linear_to_srgb((v * gain).min(1.0))).round() as u8));
        }
    }
    Photo::new(w, h, Samples::U8(data), &Encoding::Srgb).expect("a picture")
}

fn mark(id: &str, kind: MarkKind) -> Mark {
    Mark { id: id.into(), kind, off: false, other: Default::default() }
}

fn marks() -> Marks {
    let polygon = vec![[60.0, 120.0], [180.0, 120.0], [180.0, 150.0], [60.0, 150.0]];
    let list = vec![
        mark(
            "k1",
            MarkKind::Cylinder(Cylinder {
                axis: [[120.0, 105.0], [120.0, 5.0]],
                radius_px: RADIUS,
                profile: Vec::new(),
            }),
        ),
        mark("p1", MarkKind::Patch(Patch { role: PatchRole::Lit, polygon })),
    ];
    Marks {
        marks: list,
        camera: Some(CameraFacts { vfov_deg: Some(0.5), ..CameraFacts::default() }),
        ..Marks::default()
    }
}

fn changed(lamps: &[Lamp], gain: f64) -> Comparison {
    let one = |p: &Photo, m: &Marks| evidence::read::read(p, m, None, &|| &[]);
    let (a, b, m) = (picture(&[KEY, FILL], 1.0), picture(lamps, gain), marks());
    let (ra, rb) = (one(&a, &m), one(&b, &m));
    let pictured = |photo, readings| Pictured { photo, marks: &m, readings };
    compare(pictured(&a, &ra), pictured(&b, &rb), &|| Err("not asked for".into()), &|| &[])
}

fn first(c: &Comparison) -> &NextMove {
    c.next_moves.first().expect("a move")
}

#[test]
fn nothing_changed_is_nothing_to_do() {
    let c = changed(&[KEY, FILL], 1.0);
    assert!(c.next_moves.is_empty(), "{:?}", c.next_moves);
    assert_eq!(c.lights.iter().map(|l| l.role.as_str()).collect::<Vec<_>>(), ["key", "fill"]);
}

#[test]
fn a_light_moved_round_is_named_with_its_degrees() {
    let c = changed(&[Lamp { at: -40.0, ..KEY }, FILL], 1.0);
    let m = first(&c);
    assert_eq!((m.kind, m.light.as_deref()), (MoveKind::Direction, Some("key")), "{:?}", c.next_moves);
    assert!((m.amount - 15.0).abs() < 1.0, "{m:?}");
}

#[test]
fn exposure_and_one_light_are_told_apart() {
    let c = changed(&[KEY, FILL], (-0.8f64).exp2());
    let m = first(&c);
    assert!(
        m.kind == MoveKind::Exposure && (m.amount - 0.8).abs() < 0.1 && c.next_moves.len() == 1,
        "{:?}",
        c.next_moves
    );
    let c = changed(&[KEY, Lamp { radiance: 2.5 * 2.0, ..FILL }], 1.0);
    let m = first(&c);
    assert_eq!((m.kind, m.light.as_deref()), (MoveKind::Level, Some("fill")), "{:?}", c.next_moves);
    assert!((m.amount + 1.0).abs() < 0.12, "{m:?}");
}

#[test]
fn a_lamp_that_is_off_is_missed_and_one_too_many_is_seen() {
    let c = changed(&[KEY], 1.0);
    let m = first(&c);
    assert!(
        m.kind == MoveKind::Add && m.says.contains("62 ± ") && m.says.contains("to camera right"),
        "{:?}",
        c.next_moves
    );
    let c = changed(&[KEY, FILL, Lamp { at: -110.0, radiance: 3.0, ..FILL }], 1.0);
    let m = first(&c);
    assert!(m.kind == MoveKind::Remove && m.says.contains("to camera left"), "{:?}", c.next_moves);
}

#[test]
fn a_narrower_source_is_named_with_its_ratio() {
    // as much light as before comes out of less face
    let c = changed(&[KEY, Lamp { wide: 18.0, radiance: 2.5 * 30.0 / 18.0, ..FILL }], 1.0);
    let m = first(&c);
    assert_eq!((m.kind, m.light.as_deref()), (MoveKind::Size, Some("fill")), "{:?}", c.next_moves);
    assert!((m.amount - 30.0 / 18.0).abs() < 0.15, "{m:?}");
}

#[test]
fn a_gel_on_one_light_is_not_the_white_balance() {
    // black bodies of 4493 and 5600 K against one another in linear sRGB (Kang et al. 2002): +44 mired
    let warm = [1.184, 1.0, 0.761];
    let all = changed(&[Lamp { rgb: warm, ..KEY }, Lamp { rgb: warm, ..FILL }], 1.0);
    assert_eq!((first(&all).kind, all.next_moves.len()), (MoveKind::WhiteBalance, 1), "{:?}", all.next_moves);
    let one = changed(&[KEY, Lamp { rgb: warm, ..FILL }], 1.0);
    let m = first(&one);
    assert_eq!((m.kind, m.light.as_deref()), (MoveKind::Colour, Some("fill")), "{:?}", one.next_moves);
    assert!((m.amount + 44.0).abs() < 12.0, "{m:?}");
}

#[test]
fn without_a_light_the_lit_part_tells_the_exposure() {
    // evenly lit paper: no direction, no line, but a stop is a stop
    let even = |v: f64| trial::paint(120, 120, |_, _| v);
    let polygon = vec![[20.0, 20.0], [100.0, 20.0], [100.0, 100.0], [20.0, 100.0]];
    let m =
        Marks { marks: vec![mark("p", MarkKind::Patch(Patch { role: PatchRole::Lit, polygon }))], ..Marks::default() };
    let (a, b) = (even(0.3), even(0.15));
    let read = |p: &Photo| evidence::read::read(p, &m, None, &|| &[]);
    let (ra, rb) = (read(&a), read(&b));
    let c = compare(
        Pictured { photo: &a, marks: &m, readings: &ra },
        Pictured { photo: &b, marks: &m, readings: &rb },
        &|| Err("not asked for".into()),
        &|| &[],
    );
    assert!(first(&c).kind == MoveKind::Exposure && (first(&c).amount - 1.0).abs() < 0.05, "{:?}", c.next_moves);
}
