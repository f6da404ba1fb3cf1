//! Sets that are changed between takes: what is told of the change, what it is foretold to do, what to do next.

use adviser::{SimulatedCamera, changes, next_moves, suppose};
use judging::compare::{Comparison, LedgerLine, LightDifference, NextMove};
use judging::takes::{Change, ChangeKind};
use judging::terms::{Aspect, MoveKind, Term, Unit};
use lightset::kit::catalogue;
use lightset::set::{Board, BoardFinish, Level, LightSet, Scrim, Source};
use optics::words::Lengths;

fn set() -> LightSet {
    LightSet::parse(
        r#"{"format":"slant-set/1","camera":{"position_m":[0,0,2],"exposure":{"f_number":8,"shutter_s":0.01,"iso":100}},
        "lights":[{"name":"key","azimuth_deg":45,"elevation_deg":30,"distance_m":1.5,"source":{"kind":"rectangle","width_m":0.6,"height_m":0.6},"level":{"stops":0}},
                  {"name":"fill","azimuth_deg":-40,"elevation_deg":0,"distance_m":2,"source":{"kind":"rectangle","width_m":1,"height_m":1},"level":{"stops":-2}}],
        "walls":[{"position_m":[0,-1.25,0],"normal":[0,1,0],"width_m":6,"height_m":6,"colour":[0.2,0.2,0.2]}],
        "ambient":{"level":{"stops":-4}}}"#,
    )
    .expect("a set")
    .set
}

fn changed(edit: impl Fn(&mut LightSet)) -> Vec<Change> {
    let mut after = set();
    edit(&mut after);
    changes(&set(), &after)
}

fn only(list: &[Change], device: &str, kind: ChangeKind) -> Change {
    assert_eq!(list.len(), 1, "{list:?}");
    assert_eq!((list[0].device.as_str(), list[0].kind), (device, kind), "{list:?}");
    list[0].clone()
}

#[test]
fn a_set_left_alone_has_no_changes() {
    assert_eq!(changed(|_| {}), []);
}

#[test]
fn each_kind_of_change_is_told_by_its_device() {
    let power = only(&changed(|s| s.lights[1].level = Level::Stops { stops: -3.0 }), "fill", ChangeKind::Power);
    assert!((power.amount + 1.0).abs() < 1e-9 && power.says(false).contains("down 1.0 stops"), "{power:?}");
    only(&changed(|s| s.lights[0].off = true), "key", ChangeKind::Switched);
    only(&changed(|s| s.lights[0].aim_m = [0.4, 0.0, 0.0]), "key", ChangeKind::Aimed);
    let face = changed(|s| s.lights[0].source = Source::Octagon { width_m: 1.2 });
    assert!((only(&face, "key", ChangeKind::Face).amount - 2.0).abs() < 1e-9, "twice the width");
    let sheet = Scrim { gap_m: 0.4, width_m: 1.0, height_m: 1.0, transmission: 0.5, aside_m: 0.0 };
    only(&changed(|s| s.lights[0].scrims.push(sheet)), "key", ChangeKind::Sheet);
    let gel = only(&changed(|s| s.lights[0].gel_mired = 60.0), "key", ChangeKind::Colour);
    assert!((gel.amount - 60.0).abs() < 1e-9);
    only(
        &changed(|s| s.ambient.as_mut().expect("a room").level = Level::Stops { stops: -3.0 }),
        "room",
        ChangeKind::Room,
    );
    only(&changed(|s| s.camera.white_k = Some(4500.0)), "camera", ChangeKind::Balance);
    let mut third = set().lights[1].clone();
    third.name = "rim".into();
    only(&changed(|s| s.lights.push(third.clone())), "rim", ChangeKind::Added);
    only(
        &changed(|s| {
            s.lights.pop();
        }),
        "fill",
        ChangeKind::Removed,
    );
}

/// Under a camera opened by a stop, levels told against its settings rise by one: nothing was done to the lamps.
#[test]
fn a_stop_of_shutter_is_the_cameras() {
    let list = changed(|s| {
        s.camera.exposure.shutter_s *= 2.0;
        for l in &mut s.lights {
            if let Level::Stops { stops } = &mut l.level {
                *stops += 1.0;
            }
        }
        s.ambient.as_mut().expect("a room").level = Level::Stops { stops: -3.0 };
    });
    assert!((only(&list, "camera", ChangeKind::Exposure).amount - 1.0).abs() < 1e-9);
}

#[test]
fn a_flash_carried_farther_was_moved_not_turned() {
    let flash = |d: f64| {
        let mut s = set();
        s.lights.truncate(1);
        s.lights[0].distance_m = Some(d);
        s.lights[0].level = Level::Guide { guide_number_m: 24.0, power: Some("1/4".into()) };
        s
    };
    let list = changes(&flash(1.5), &flash(2.4));
    let moved = only(&list, "key", ChangeKind::Moved);
    assert!((moved.amount - 0.9).abs() < 1e-9);
}

#[test]
fn boards_are_told_by_their_number() {
    let board = Board {
        position_m: [-0.7, 0.0, 0.3],
        aim_m: [0.0; 3],
        width_m: 0.7,
        height_m: 1.0,
        finish: BoardFinish::White,
    };
    only(&changed(|s| s.boards.push(board)), "board 1", ChangeKind::Added);
    let with = |b: Board| LightSet { boards: vec![b], ..set() };
    let nearer = Board { position_m: [-0.5, 0.0, 0.3], ..board };
    only(&changes(&with(board), &with(nearer)), "board 1", ChangeKind::Moved);
    let black = Board { finish: BoardFinish::Black, ..board };
    only(&changes(&with(board), &with(black)), "board 1", ChangeKind::Finish);
    only(&changes(&with(board), &set()), "board 1", ChangeKind::Removed);
}

fn seen(role: &str, at: [f64; 2], off: [f64; 2], level: f64) -> LightDifference {
    LightDifference {
        role: role.into(),
        d_azimuth_deg: Some(off[0]),
        d_elevation_deg: Some(off[1]),
        direction_deg: Some(off[0].hypot(off[1])),
        direction_sd_deg: 0.6,
        d_angular_size_ratio: Some(1.0),
        size_sd: Some(0.05),
        d_level_stops: Some(level),
        level_sd_stops: Some(0.06),
        reference_deg: Some([at[0] - off[0], at[1] - off[1]]),
        take_deg: Some(at),
        take_size_deg: Some(25.0),
        only_in: None,
    }
}

fn compared(lights: Vec<LightDifference>) -> Comparison {
    Comparison { lights, d_exposure_stops: Some(0.0), d_exposure_sd_stops: 0.04, ..Comparison::default() }
}

#[test]
fn what_a_change_by_hand_does_is_foretold() {
    let c = compared(vec![seen("key", [45.0, 30.0], [10.0, 0.0], 0.5), seen("fill", [-40.0, 0.0], [0.0; 2], 0.0)]);
    let mut after = set();
    after.lights[0].azimuth_deg = Some(35.0);
    after.lights[1].level = Level::Stops { stops: -3.2 };
    let told = suppose(&set(), &after, &c);
    let value = |what: &str| told.iter().find(|e| e.what.to_string() == what).map(|e| e.value).expect(what);
    assert!(value("key: round").abs() < 0.3 && (value("key: level") - 0.5).abs() < 0.02, "{told:?}");
    assert!((value("fill: level") + 1.2).abs() < 0.02, "{told:?}");
}

#[test]
fn a_light_only_the_take_has_is_switched_off_and_one_it_lacks_is_brought() {
    let alone = |role: &str, at: [f64; 2], only: &str, kind: MoveKind| {
        let d = LightDifference {
            d_azimuth_deg: None,
            d_elevation_deg: None,
            direction_deg: None,
            d_angular_size_ratio: None,
            size_sd: None,
            d_level_stops: None,
            level_sd_stops: None,
            reference_deg: (only == "reference").then_some(at),
            take_deg: None,
            take_size_deg: None,
            only_in: Some(only.into()),
            ..seen(role, at, [0.0; 2], 0.0)
        };
        let m = NextMove {
            kind,
            light: Some(role.into()),
            says: String::new(),
            amount: -1.0,
            unit: Unit::Stops,
            off_sd: 6.0,
            gain: 1.0,
        };
        let key = seen("key", [45.0, 30.0], [0.0; 2], 0.0);
        Comparison { next_moves: vec![m], ..compared(vec![key, d]) }
    };
    // the reference shows the fill, the take does not: it is there and too weak
    let c = alone("fill", [-40.0, 0.0], "reference", MoveKind::Add);
    let says = next_moves(&set(), &c, catalogue(), Lengths::Metres)[0].says.clone();
    assert!(says.starts_with("Power of the fill up 1.0 stops"), "{says}");
    // switched off, it is switched on
    let mut dark = set();
    dark.lights[1].off = true;
    let m = &next_moves(&dark, &c, catalogue(), Lengths::Metres)[0];
    assert!(m.says.starts_with("Switch the fill on") && !m.set.lights[1].off, "{}", m.says);
    // not there at all, one is added where the reference has it
    let m =
        &next_moves(&LightSet { lights: vec![set().lights[0].clone()], ..set() }, &c, catalogue(), Lengths::Feet)[0];
    assert!(m.says.starts_with("Add a fill") && m.says.contains(" ft "), "{}", m.says);
    assert_eq!(m.set.lights.len(), 2);
}

#[test]
fn a_board_is_promised_no_more_than_it_gives() {
    let mut c = compared(vec![seen("key", [45.0, 30.0], [0.0; 2], 0.0), seen("fill", [-40.0, 0.0], [0.0; 2], 0.0)]);
    // the shadows lack four stops, more than any board has
    c.ledger.push(LedgerLine::new(Term::Room, -1.0, -5.0, -4.0, Unit::Stops, 0.1));
    let moves = next_moves(&set(), &c, catalogue(), Lengths::Metres);
    let board = moves.iter().find(|m| m.set.boards.len() == 1).expect("a board");
    let left = board.expected.iter().find(|e| e.what == Term::Room).expect("foretold").value;
    assert!((-3.8..-0.3).contains(&left), "a board gives some of it: {left:.1} left");
}

/// Mired add (handbooks of filters): a lamp 43 mired too warm takes a filter of about as much the other way.
#[test]
fn a_lamp_of_the_wrong_colour_gets_a_filter() {
    let mut c = compared(vec![seen("key", [45.0, 30.0], [0.0; 2], 0.0), seen("fill", [-40.0, 0.0], [0.0; 2], 0.0)]);
    c.ledger.push(LedgerLine::new(Term::of("fill", Aspect::Colour), 0.0, 43.0, 43.0, Unit::Mired, 4.0));
    let m = &next_moves(&set(), &c, catalogue(), Lengths::Metres)[0];
    assert!(m.says.starts_with("Put a filter of \u{2212}45 mired on the fill"), "{}", m.says);
    assert!((m.set.lights[1].gel_mired + 45.0).abs() < 1e-9);
    let left = m.expected.iter().find(|e| e.what == Term::of("fill", Aspect::Colour)).expect("foretold").value;
    assert!((left + 2.0).abs() < 1e-9, "{left}");
    assert_eq!(m.changes.iter().map(|c| c.unit.as_str()).collect::<Vec<_>>(), ["mired"]);
}

/// A simulated camera whose owner knows everything does what is foretold.
#[test]
fn an_exact_set_follows_its_owner() {
    let mut c = SimulatedCamera::exact(&set());
    let mut after = set();
    after.lights[0].level = Level::Stops { stops: -1.0 };
    after.lights[1].off = true;
    c.follow(&set(), &after);
    let Level::Stops { stops } = c.real().lights[0].level else { panic!("stops") };
    // a hand sets a dial within a few hundredths
    assert!((stops + 1.0).abs() < 0.04, "{stops}");
    assert!(c.real().lights[1].off);
    assert!((c.dial("key") - 1.0).abs() < 1e-12);
}
