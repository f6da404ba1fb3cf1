//! Bright lines on bottles and cans: the law of reflection, traced anew for what is told to stand there.

use lightset::kit::{Kit, catalogue};
use lightset::line::{LineWanted, line};
use lightset::set::LightSet;
use optics::geometry::Vec3;
use proptest::prelude::*;

fn set(kind: &str, lens: [f64; 3]) -> LightSet {
    let whole = serde_json::json!({"format": "slant-set/1", "subjects": [{"kind": kind}],
        "camera": {"position_m": lens, "vfov_deg": 15, "exposure": {"f_number": 11, "shutter_s": 0.008, "iso": 100}},
        "walls": [{"position_m": [0, -1.0, 0], "normal": [0, 1, 0], "width_m": 6, "height_m": 6, "colour": [0.2, 0.2, 0.2]}]});
    LightSet::from_value(whole).expect("a set").set
}

/// Ends of the lines, metres.
const END_M: f64 = 0.045;

fn wanted(kind: &str, from: f64, to: f64) -> LineWanted {
    let end = END_M / if kind == "can" { 0.058 } else { 0.15 };
    LineWanted { from, to, bottom: -end, top: end, ..LineWanted::default() }
}

/// Where a line of sight meets an upright cylinder at the origin and where it is mirrored to, from the textbook, by bisection along the
/// sight and not as the product does it. `share` of the half width as a distant lens shows it beside the axis.
fn mirrored(lens: Vec3, radius: f64, share: f64, height: f64) -> Option<(Vec3, Vec3)> {
    let far = lens.x.hypot(lens.z);
    let turn = (-lens.x).atan2(-lens.z) - share * (radius / far).asin();
    // sideways: right of the picture is a turn to the right as seen from above
    let dir = Vec3::new(turn.sin(), 0.0, turn.cos());
    let at = |t: f64| Vec3::new(lens.x, 0.0, lens.z) + dir * t;
    let (mut a, mut b) = (0.0, far);
    let inside = |t: f64| at(t).norm() < radius;
    // the nearest approach is inside
    let near = -(lens.x * dir.x + lens.z * dir.z);
    if !inside(near) {
        return None;
    }
    b = near.min(b);
    for _ in 0..80 {
        let m = (a + b) / 2.0;
        if inside(m) { b = m } else { a = m }
    }
    let flat = at(b);
    let p = Vec3::new(flat.x, height, flat.z);
    let n = Vec3::new(flat.x, 0.0, flat.z).normalize();
    let sight = (p - lens).normalize();
    Some((p, sight - n * (2.0 * sight.dot(&n))))
}

/// Whether a ray meets a sheet that stands upright to its own direction.
fn meets(p: &Vec3, d: &Vec3, at: [f64; 3], aim: [f64; 3], [w, h]: [f64; 2]) -> bool {
    let (c, n) = (Vec3::from(at), (Vec3::from(aim) - Vec3::from(at)).normalize());
    let t = (c - p).dot(&n) / d.dot(&n);
    let q = p + d * t - c;
    let u = Vec3::y().cross(&n).normalize();
    let v = n.cross(&u);
    t > 0.0 && q.dot(&u).abs() <= w / 2.0 && q.dot(&v).abs() <= h / 2.0
}

/// A cylinder's normal at `sin a` of its half width is turned by `a`, so what a distant lens sees there stands at `2 a` (a mirror turns
/// the ray by twice its tilt).
#[test]
fn from_far_away_a_source_stands_at_twice_the_angle() {
    let s = set("can", [0.0, 0.0, 40.0]);
    for share in [-0.9f64, -0.5, 0.0, 0.3, 0.866] {
        let plan = line(&s, &wanted("can", share - 0.004, share + 0.004), catalogue()).expect("a plan");
        let told = (plan.directions.azimuth_from_deg + plan.directions.azimuth_to_deg) / 2.0;
        assert!((told - 2.0 * share.asin().to_degrees()).abs() < 0.4, "{share}: {told}");
    }
}

/// What is told to give a line is seen in it from edge to edge and end to end, and nowhere beyond: traced by another way.
#[test]
fn what_gives_the_line_is_seen_in_all_of_it_and_only_there() {
    let mut given = 0;
    for (kind, radius) in [("can", 0.033), ("bottle", 0.0365)] {
        for lens in [[0.0, 0.06, 1.6], [0.3, 0.2, 2.2], [-0.2, 0.0, 1.2]] {
            for (from, to) in [(-0.85, -0.72), (-0.6, -0.5), (0.55, 0.7), (0.8, 0.9)] {
                let s = set(kind, lens);
                let plan = line(&s, &wanted(kind, from, to), catalogue()).expect("a plan");
                for way in plan.ways.iter().filter(|w| w.gives_it) {
                    let (at, aim, size) = match (&way.light, &way.board) {
                        (Some(l), _) => (l.position_m.expect("placed"), l.aim_m, l.source.face_m()),
                        (_, Some(b)) => (b.position_m, b.aim_m, [b.width_m, b.height_m]),
                        _ => panic!("nothing"),
                    };
                    // a tube is turned upright
                    let size = match way.light.as_ref().map(|l| &l.source) {
                        Some(lightset::set::Source::Tube { .. }) => [size[1], size[0]],
                        _ => size,
                    };
                    given += 1;
                    let sees = |share: f64, h: f64| {
                        mirrored(lens.into(), radius, share, h).is_some_and(|(p, d)| meets(&p, &d, at, aim, size))
                    };
                    let inset = 0.06 * (to - from);
                    for h in [-0.04, 0.0, 0.04] {
                        for share in [from + inset, (from + to) / 2.0, to - inset] {
                            assert!(
                                sees(share, h),
                                "{kind} {lens:?} {from} {to}: {} is not seen at {share} {h}",
                                way.name
                            );
                        }
                        for share in [from - inset - 0.02, to + inset + 0.02] {
                            assert!(
                                !sees(share, h),
                                "{kind} {lens:?} {from} {to}: {} is seen beyond, at {share}",
                                way.name
                            );
                        }
                    }
                }
            }
        }
    }
    assert!(given > 20, "{given}");
}

#[test]
fn what_cannot_be_is_said() {
    let s = set("can", [0.0, 0.05, 1.6]);
    let e = |w: LineWanted| line(&s, &w, catalogue()).unwrap_err();
    assert!(e(wanted("can", 0.4, 0.2)).starts_with("to:"));
    assert!(e(LineWanted { top: 1.4, ..wanted("can", 0.2, 0.4) }).starts_with("top"));
    assert!(
        line(&set("shoe", [0.0, 0.0, 2.0]), &wanted("can", 0.2, 0.4), catalogue())
            .unwrap_err()
            .contains("bottles and cans")
    );
    assert!(
        line(&set("can", [0.0, 1.0, 0.02]), &wanted("can", 0.2, 0.4), catalogue()).unwrap_err().contains("too near")
    );
    // a line in the middle mirrors the lens: what gives it would stand before it
    let plan = line(&s, &wanted("can", -0.05, 0.05), catalogue()).expect("a plan");
    assert!(plan.ways.iter().all(|w| !w.gives_it || w.distance_m > 1.5), "{:?}", plan.ways);
    assert!(plan.ways.iter().any(|w| w.says.iter().any(|t| t.contains("lens's way"))));
    assert!(line(&s, &wanted("can", 0.2, 0.4), &Kit::default()).expect("a plan").ways.is_empty());
}

proptest! {
    /// Whatever line is asked for, the answer is finite or a sentence.
    #[test]
    fn any_line_is_answered(from in -2.0..2.0f64, wide in -0.5..1.5f64, bottom in -2.0..2.0f64, tall in -0.6..2.6f64, x in -2.0..2.0f64, y in -1.0..2.0f64, z in -2.0..3.0f64) {
        let s = set("bottle", [x, y, z + 0.021]);
        let w = LineWanted { from, to: from + wide, bottom, top: bottom + tall, ..LineWanted::default() };
        if let Ok(plan) = line(&s, &w, catalogue()) {
            for way in plan.ways {
                prop_assert!(way.distance_m.is_finite() && way.needs_m.iter().all(|v| v.is_finite() && *v >= 0.0));
            }
        }
    }
}

/// A line that goes on over the shoulder of a bottle: the surface is met along the sight by bisection, its normal taken from the outline by
/// differences in space, and the ray sent on (law of reflection); all another way than the product does it.
#[test]
fn over_the_shoulder_what_is_mirrored_stands_higher() {
    let outline = lightset::set::outline(lightset::set::SubjectKind::Bottle).expect("an outline");
    let radius = |y: f64| {
        let after = outline.iter().position(|p| p.1 > y).unwrap_or(outline.len() - 1).max(1);
        let (a, b) = (outline[after - 1], outline[after]);
        a.0 + (b.0 - a.0) * (y - a.1) / (b.1 - a.1)
    };
    let lens = Vec3::new(0.0, 0.05, 2.0);
    let s = set("bottle", lens.into());
    let at = |top: f64| {
        let w = LineWanted { from: -0.62, to: -0.58, bottom: -0.5, top, ..LineWanted::default() };
        line(&s, &w, catalogue()).expect("a plan")
    };
    let mut before = -10.0;
    for top in [0.1, 0.3, 0.4, 0.45] {
        let told = at(top).directions.elevation_top_deg;
        // the place at that height whose level normal is the sine of the share round
        let y = 0.15 * top;
        let turn = -(0.62f64).asin();
        let inside = |p: &Vec3| p.x.hypot(p.z) < radius(p.y);
        let aim = Vec3::new(radius(y) * turn.sin(), y, radius(y) * turn.cos());
        let (mut a, mut b) = (0.9, 1.02);
        for _ in 0..60 {
            let m = (a + b) / 2.0;
            if inside(&(lens + (aim - lens) * m)) { b = m } else { a = m }
        }
        let p = lens + (aim - lens) * b;
        let field = |p: &Vec3| p.x.hypot(p.z) - radius(p.y);
        let e = 0.0012;
        let slope = |d: Vec3| (field(&(p + d)) - field(&(p - d))) / (2.0 * e);
        let n = Vec3::new(slope(Vec3::x() * e), slope(Vec3::y() * e), slope(Vec3::z() * e)).normalize();
        let sight = (p - lens).normalize();
        let d = sight - n * (2.0 * sight.dot(&n));
        let own = d.y.atan2(d.x.hypot(d.z)).to_degrees();
        assert!((told - own).abs() < 3.0, "{told} for {own} at {top}");
        assert!(told > before, "higher up the shoulder, higher up what is seen");
        before = told;
    }
    assert!(at(0.1).says.is_empty(), "the body asks for nothing more");
    let plan = at(0.4);
    assert!(plan.says[0].contains("looks up"), "{:?}", plan.says);
    // a can has no shoulder here
    let can = line(
        &set("can", [0.0, 0.05, 2.0]),
        &LineWanted { subject: 0, from: -0.6, to: -0.5, bottom: -0.5, top: 0.8 },
        catalogue(),
    );
    assert!(can.expect("a plan").says.is_empty());
}
