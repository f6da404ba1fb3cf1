//! Bright lines on bottles and cans: the law of reflection, traced anew for what is told to stand there.

use lightset::kit::{Kit, catalogue};
use lightset::line::{BoxSide, Fade, FadeSide, LineWanted, line};
use lightset::set::LightSet;
use optics::geometry::Vec3;
use proptest::prelude::*;

fn set(kind: &str, lens: [f64; 3]) -> LightSet {
    turned(kind, 0.0, lens)
}

fn turned(kind: &str, yaw_deg: f64, lens: [f64; 3]) -> LightSet {
    let whole = serde_json::json!({"format": "slant-set/1", "subjects": [{"kind": kind, "yaw_deg": yaw_deg}],
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
        &LineWanted { from: -0.6, to: -0.5, bottom: -0.5, top: 0.8, ..LineWanted::default() },
        catalogue(),
    );
    assert!(can.expect("a plan").says.is_empty());
}

/// A plane mirror shows, at each of its places, what stands as far behind it as the lens stands before (law of reflection by the mirrored
/// lens): the direction from the lens's image to the place goes on to the source.
#[test]
fn a_side_of_a_box_shows_what_the_mirrored_lens_would_see() {
    for (side, yaw, lens) in [
        (BoxSide::Front, 0.0, [0.2, 0.3, 1.5]),
        (BoxSide::Front, 35.0, [0.0, 0.4, 1.2]),
        (BoxSide::Top, 20.0, [0.1, 0.8, 1.4]),
        (BoxSide::Right, -50.0, [0.0, 0.2, 1.6]),
        (BoxSide::Left, 50.0, [0.0, 0.2, 1.6]),
    ] {
        let s = turned("tin", yaw, lens);
        let w = LineWanted { from: -0.02, to: 0.02, bottom: -0.05, top: 0.05, side, ..LineWanted::default() };
        let told = line(&s, &w, catalogue()).expect("a plan").directions;
        let (sin, cos) = f64::to_radians(yaw).sin_cos();
        let turn = |v: [f64; 3]| Vec3::new(cos * v[0] + sin * v[2], v[1], cos * v[2] - sin * v[0]);
        let (normal, middle) = match side {
            BoxSide::Front => ([0.0, 0.0, 1.0], [0.0, -0.01375, 0.03]),
            BoxSide::Top => ([0.0, 1.0, 0.0], [0.0, 0.0515, 0.0]),
            BoxSide::Right => ([1.0, 0.0, 0.0], [0.08, -0.01375, 0.0]),
            BoxSide::Left => ([-1.0, 0.0, 0.0], [-0.08, -0.01375, 0.0]),
        };
        let (n, p, l) = (turn(normal), turn(middle), Vec3::from(lens));
        let image = l - n * (2.0 * (l - p).dot(&n));
        let own = optics::geometry::AzEl::of(&(p - image));
        let azimuth = (told.azimuth_from_deg + told.azimuth_to_deg) / 2.0;
        let elevation = (told.elevation_bottom_deg + told.elevation_top_deg) / 2.0;
        assert!((azimuth - own.azimuth_deg).abs() < 0.2, "{side:?}: {azimuth} for {}", own.azimuth_deg);
        assert!((elevation - own.elevation_deg).abs() < 0.2, "{side:?}: {elevation} for {}", own.elevation_deg);
    }
    let behind =
        LineWanted { from: -0.5, to: 0.5, bottom: -0.5, top: 0.5, side: BoxSide::Left, ..LineWanted::default() };
    assert!(
        line(&turned("tin", -50.0, [0.0, 0.2, 1.6]), &behind, catalogue())
            .unwrap_err()
            .contains("does not see the left")
    );
}

/// A mirror ball seen from afar at `sin a` of its radius from the middle shows what stands at `2 a` from the lens (law of reflection on a
/// sphere; the mirror-ball formula of light probes, Debevec 1998).
#[test]
fn a_mirror_ball_shows_twice_the_angle_all_round() {
    let s = set("ball_mirror", [0.0, 0.0, 60.0]);
    for (across, up) in [(0.0, 0.5), (0.5, 0.0), (-0.4, 0.3), (0.6, -0.5), (-0.2, -0.8)] {
        let e = 0.012;
        let w = LineWanted { from: across - e, to: across + e, bottom: up - e, top: up + e, ..LineWanted::default() };
        let told = line(&s, &w, catalogue()).expect("a plan").directions;
        let out = f64::hypot(across, up);
        let a = 2.0 * out.asin();
        let own = Vec3::new(a.sin() * across / out, a.sin() * up / out, a.cos());
        let azimuth_deg = (told.azimuth_from_deg + told.azimuth_to_deg) / 2.0;
        let elevation_deg = (told.elevation_bottom_deg + told.elevation_top_deg) / 2.0;
        let off = optics::geometry::AzEl { azimuth_deg, elevation_deg }.vector().angle(&own).to_degrees();
        // the corners' mean bends a little from the middle far out
        assert!(off < 2.0, "{told:?}: {off} degrees off at {across} {up}");
    }
    let corner = LineWanted { from: 0.7, to: 0.8, bottom: 0.6, top: 0.7, ..LineWanted::default() };
    assert!(line(&s, &corner, catalogue()).unwrap_err().contains("beyond the product's outline"));
}

/// A fade's sheet, lit by its lamp point by point (cosine at both ends over the square of the distance, summed over the lamp's face):
/// nine tenths and one tenth of the brightest where they are wanted, seen through the mirror as the textbook has it.
#[test]
fn a_line_fades_where_it_is_wanted_to() {
    let lens = [0.1, 0.1, 1.6];
    let s = set("can", lens);
    for (side, share) in [(FadeSide::Right, 0.7), (FadeSide::Left, 0.5), (FadeSide::Right, 0.95)] {
        let (from, to) = (0.55, 0.72);
        let w = LineWanted { fade: Some(Fade { side, share }), ..wanted("can", from, to) };
        let plan = line(&s, &w, catalogue()).expect("a plan");
        let way = plan.ways.iter().find(|w| w.gives_it).expect("a way");
        let l = way.light.as_ref().expect("a lamp");
        let sheet = l.scrims.first().expect("a sheet");
        let at = Vec3::from(l.position_m.expect("placed"));
        let n = (Vec3::from(l.aim_m) - at).normalize();
        let (u0, v0) = (Vec3::new(n.z, 0.0, -n.x).normalize(), n.cross(&Vec3::new(n.z, 0.0, -n.x).normalize()));
        let (sin, cos) = l.roll_deg.to_radians().sin_cos();
        let (u, v) = (u0 * cos + v0 * sin, v0 * cos - u0 * sin);
        let middle = at + n * sheet.gap_m + u * sheet.aside_m;
        let face = l.source.face_m();
        let glow = |p: &Vec3| {
            let mut sum = 0.0;
            for (i, j) in (0..60).flat_map(|i| (0..60).map(move |j| (i, j))) {
                let part = |k: i32, size: f64| ((f64::from(k) + 0.5) / 60.0 - 0.5) * size;
                let d = p - (at + u * part(i, face[0]) + v * part(j, face[1]));
                sum += (d.dot(&n) / d.norm()).max(0.0).powi(2) / d.norm_squared();
            }
            sum
        };
        let seen = |across: f64| {
            let (p, d) = mirrored(lens.into(), 0.033, across, 0.0).expect("met");
            let t = (middle - p).dot(&n) / d.dot(&n);
            let q = p + d * t;
            let inside = (q - middle).dot(&u).abs() <= sheet.width_m / 2.0 + 1e-6;
            if inside { glow(&q) } else { 0.0 }
        };
        let top = (0..=200).map(|k| seen(from + (to - from) * f64::from(k) / 200.0)).fold(0.0, f64::max);
        let (end, begin) = match side {
            FadeSide::Right => (to, to - share * (to - from)),
            _ => (from, from + share * (to - from)),
        };
        let inwards = if side == FadeSide::Right { -0.001 } else { 0.001 };
        let [full, gone] = [seen(begin) / top, seen(end + inwards) / top];
        assert!((full - 0.9).abs() < 0.06, "{side:?} {share}: {full} where it begins to fade");
        assert!((gone - 0.1).abs() < 0.05, "{side:?} {share}: {gone} where it ends");
        // where the lamp would be seen past the crisp edge black card hangs before it
        let crisp = if side == FadeSide::Right { from - 0.01 } else { to + 0.01 };
        let (p, d) = mirrored(lens.into(), 0.033, crisp, 0.0).expect("met");
        let sees_lamp = meets(&p, &d, at.into(), l.aim_m, face);
        let hidden = way.flag.as_ref().is_some_and(|f| meets(&p, &d, f.position_m, f.aim_m, [f.width_m, f.height_m]));
        assert!(!sees_lamp || hidden, "{side:?} {share}: the lamp shows past the sheet");
    }
}

/// What shows of a line is where the set's camera sees it: the outline of a ball is a circle about its middle, as large as a sphere of that
/// radius looks (`asin(r / d)`, geometry).
#[test]
fn a_line_is_shown_on_the_product() {
    let s = set("ball_mirror", [0.0, 0.0, 2.0]);
    let w = LineWanted { from: -0.1, to: 0.1, bottom: -0.1, top: 0.1, ..LineWanted::default() };
    let shown = line(&s, &w, catalogue()).expect("a plan").shown;
    let half = f64::from(s.picture.height) / 2.0 / f64::to_radians(7.5).tan();
    let radius = half * (0.075f64 / 2.0).asin().tan();
    let [width, height] = [f64::from(s.picture.width), f64::from(s.picture.height)];
    for row in &shown.rows {
        for end in [row.left, row.right] {
            let out = f64::hypot((end[0] - 0.5) * width, (end[1] - 0.5) * height);
            assert!((out - radius).abs() < 0.03 * radius, "{out} for {radius} at {}", row.up);
        }
    }
    assert!(shown.rows.windows(2).all(|p| p[1].left[1] < p[0].left[1]), "from the foot up");
    // the line lies in the middle, and what it asks for begins at the product
    let mean = |k: usize| shown.outline.iter().map(|p| p[k]).sum::<f64>() / shown.outline.len() as f64;
    assert!((mean(0) - 0.5).abs() < 0.01 && (mean(1) - 0.5).abs() < 0.01);
    for l in shown.plan.iter().chain(&shown.side) {
        assert!(l.closed && l.points.len() == 4 && l.points[0][0].hypot(l.points[0][1]) < 0.09, "{l:?}");
    }
}

proptest! {
    /// On whatever glossy thing, the answer is finite or a sentence, and what gives the line fills what is needed.
    #[test]
    fn any_surface_is_answered(kind in 0usize..4, side in 0usize..4, yaw in -180.0..180.0f64, from in -1.0..1.0f64, wide in 0.0..1.0f64, bottom in -1.0..1.0f64, tall in 0.0..1.0f64, fade in 0.0..1.2f64, to in 0usize..4, x in -1.0..1.0f64, y in -0.5..1.5f64) {
        let s = turned(["can", "bottle", "tin", "ball_mirror"][kind], yaw, [x, y, 1.4]);
        let side = [BoxSide::Front, BoxSide::Left, BoxSide::Right, BoxSide::Top][side];
        let fade = [None, Some(FadeSide::Left), Some(FadeSide::Right), Some(FadeSide::Both)][to].map(|side| Fade { side, share: fade });
        let w = LineWanted { subject: 0, from, to: from + wide, bottom, top: bottom + tall, side, fade };
        match line(&s, &w, catalogue()) {
            Ok(plan) => {
                prop_assert!(plan.shown.outline.iter().flatten().all(|v| v.is_finite()));
                for way in plan.ways {
                    prop_assert!(way.distance_m.is_finite() && way.needs_m.iter().all(|v| v.is_finite() && *v >= 0.0));
                    if let (true, Some(l)) = (way.gives_it, &way.light) {
                        let face = l.scrims.first().map_or(l.source.face_m(), |s| [s.width_m, s.height_m]);
                        let across = face[0].max(face[1]);
                        prop_assert!(way.needs_m[1] <= across + 2e-3, "{way:?}");
                    }
                }
            }
            Err(e) => prop_assert!(e.contains(':'), "{e}"),
        }
    }
}

/// Beside the outline that is turned from the lens's side a mirror shows what stands straight behind: 2 asin(share) from a distant lens that
/// itself stands aside. Azimuths go on past 180 there, so that the two edges of one line stay beside each other.
#[test]
fn azimuths_go_on_past_straight_behind() {
    let lens = [12.0, 0.0, 36.0];
    let told = line(&set("can", lens), &wanted("can", 0.9, 0.99), catalogue()).expect("a plan").directions;
    let aside = f64::atan2(12.0, 36.0).to_degrees();
    let own = [0.9f64, 0.99].map(|s| aside + 2.0 * s.asin().to_degrees());
    assert!(own[1] > 180.0);
    assert!(
        (told.azimuth_from_deg - own[0]).abs() < 0.5 && (told.azimuth_to_deg - own[1]).abs() < 0.5,
        "{told:?} for {own:?}"
    );
}
