//! What was changed between two sets, in the words of the person who changed it.

use judging::takes::{Change, ChangeKind};
use lightset::set::{Board, Glow, Level, LightSet, Outline, SetLight, Source};
use optics::geometry::{Vec3, angle_between};
use optics::words::Lengths;
use optics::words::place_words;
use studio::lamp;

/// Changes smaller than these are none: metres, stops, share, mired, degrees.
const MOVED_M: f64 = 0.015;
const STOPS: f64 = 0.05;
const SHARE: f64 = 0.02;

fn place(p: &Vec3, floor: f64) -> String {
    place_words(p, floor, Lengths::Metres)
}

fn face_words(s: &Source) -> String {
    let [w, h] = s.face_m();
    let about = s.about();
    let size = match (about.outline, about.glow) {
        (Outline::Rectangle(..), _) => format!("{w:.2} × {h:.2} m"),
        (_, Glow::Beam(beam_deg) | Glow::Spot(beam_deg, _)) => format!("{w:.2} m, {beam_deg:.0}°"),
        _ => format!("{w:.2} m"),
    };
    format!("{} {size}", s.word())
}

fn level_words(l: &Level) -> String {
    let power = |p: &Option<String>| p.as_ref().map_or(String::new(), |p| format!(" at {p}"));
    match l {
        Level::Stops { stops } => format!("{stops:+.1} stops").replace('-', "\u{2212}"),
        Level::Lux { lux } => format!("{lux:.0} lux"),
        Level::Guide { guide_number_m, power: p } => format!("guide number {guide_number_m:.0} m{}", power(p)),
        Level::Joules { joules, power: p } => format!("{joules:.0} J{}", power(p)),
    }
}

/// Stops at the subject that a lamp gives, by its level and what its face does from where it stands: for levels that
/// are told at the subject the dial follows from how the face throws.
pub(crate) fn dial(before: &SetLight, after: &SetLight, camera: (&LightSet, &LightSet)) -> f64 {
    let at =
        |l: &SetLight, s: &LightSet| studio::relative_exposure(l, &s.camera.exposure).unwrap_or(1e-9).max(1e-9).log2();
    let stops = at(after, camera.1) - at(before, camera.0);
    // what the camera's settings do is told of the camera
    let settings = exposure_stops(camera.0, camera.1);
    match (&before.level, &after.level) {
        (Level::Guide { .. }, Level::Guide { .. }) | (Level::Joules { .. }, Level::Joules { .. }) => {
            let d = |l: &SetLight| l.position().norm().max(0.01);
            stops - settings + 2.0 * (d(after) / d(before)).log2()
        }
        _ => {
            let (f0, f1) = (lamp(before).facing(), lamp(after).facing());
            stops - settings - (f1.max(1e-9) / f0.max(1e-9)).log2()
        }
    }
}

/// Stops the picture gets brighter by the camera's settings alone.
pub(crate) fn exposure_stops(a: &LightSet, b: &LightSet) -> f64 {
    let (p, q) = (&a.camera.exposure, &b.camera.exposure);
    (q.shutter_s / p.shutter_s).log2() + (q.iso / p.iso).log2() - 2.0 * (q.f_number / p.f_number).log2()
}

fn light_changes(a: &SetLight, b: &SetLight, sets: (&LightSet, &LightSet), out: &mut Vec<Change>) {
    let floor = sets.1.floor_m();
    let push =
        |out: &mut Vec<Change>, kind, from: String, to: String, amount: f64, unit: &str, by: Option<[f64; 3]>| {
            out.push(Change { device: b.name.clone(), kind, from, to, amount, unit: unit.into(), by_m: by });
        };
    if a.off != b.off {
        let word = |off: bool| if off { "off" } else { "on" }.to_owned();
        push(out, ChangeKind::Switched, word(a.off), word(b.off), 0.0, "", None);
        if a.off || b.off {
            return;
        }
    }
    let (p, q) = (a.position(), b.position());
    let by = q - p;
    let moved = by.norm() > MOVED_M;
    if moved {
        push(out, ChangeKind::Moved, place(&p, floor), place(&q, floor), by.norm(), "m", Some(by.into()));
    }
    let axis = |l: &SetLight, p: &Vec3| (Vec3::from(l.aim_m) - p).try_normalize(1e-9).unwrap_or_else(Vec3::z);
    let turned = angle_between(&axis(a, &p), &axis(b, &q)).to_degrees();
    let aim = (Vec3::from(a.aim_m) - Vec3::from(b.aim_m)).norm();
    if aim > MOVED_M && turned > 1.0 && !b.source.is_window() {
        let words = |l: &SetLight| {
            let at = Vec3::from(l.aim_m);
            if at.norm() < MOVED_M { "at the subject".to_owned() } else { place(&at, floor) }
        };
        push(out, ChangeKind::Aimed, words(a), words(b), turned, "°", None);
    }
    if a.source != b.source || a.bounce != b.bounce {
        let ratio = (b.source.area_m2().max(1e-9) / a.source.area_m2().max(1e-9)).sqrt();
        let bounced = |l: &SetLight| if l.bounce.is_some() { ", bounced" } else { "" };
        push(
            out,
            ChangeKind::Face,
            format!("{}{}", face_words(&a.source), bounced(a)),
            format!("{}{}", face_words(&b.source), bounced(b)),
            ratio,
            "×",
            None,
        );
    }
    if a.scrims != b.scrims {
        let words = |l: &SetLight| match l.scrims.as_slice() {
            [] => "no sheet".to_owned(),
            list => list
                .iter()
                .map(|s| format!("a sheet {:.2} × {:.2} m at {:.2} m", s.width_m, s.height_m, s.gap_m))
                .collect::<Vec<_>>()
                .join(", "),
        };
        push(out, ChangeKind::Sheet, words(a), words(b), 0.0, "", None);
    }
    let colour = |l: &SetLight| 1e6 / l.cct_k.unwrap_or(5600.0) + l.gel_mired;
    let mired = colour(b) - colour(a);
    if mired.abs() > 1.0 || a.gel_rgb != b.gel_rgb {
        let words = |l: &SetLight| format!("{:.0} K", 1e6 / colour(l));
        push(out, ChangeKind::Colour, words(a), words(b), mired, "mired", None);
    }
    let stops = dial(a, b, sets);
    // another face or sheet has its own light: then the level is the lamp's at the subject
    let other = a.source != b.source || a.scrims != b.scrims || a.bounce != b.bounce;
    if stops.abs() > STOPS && !other {
        push(out, ChangeKind::Power, level_words(&a.level), level_words(&b.level), stops, "stops", None);
    }
}

fn board_changes(n: usize, a: &Board, b: &Board, floor: f64, out: &mut Vec<Change>) {
    let device = format!("board {}", n + 1);
    let (p, q) = (Vec3::from(a.position_m), Vec3::from(b.position_m));
    if (q - p).norm() > MOVED_M {
        out.push(Change {
            device: device.clone(),
            kind: ChangeKind::Moved,
            from: place(&p, floor),
            to: place(&q, floor),
            amount: (q - p).norm(),
            unit: "m".into(),
            by_m: Some((q - p).into()),
        });
    }
    let words = |b: &Board| format!("{:?} {:.2} × {:.2} m", b.finish, b.width_m, b.height_m).to_lowercase();
    let size = (b.width_m * b.height_m / (a.width_m * a.height_m)).sqrt();
    if a.finish != b.finish || (size - 1.0).abs() > SHARE {
        out.push(Change {
            device,
            kind: ChangeKind::Finish,
            from: words(a),
            to: words(b),
            amount: size,
            unit: "×".into(),
            by_m: None,
        });
    }
}

/// What was changed from one set to the next. Lights are told by their names, boards by their order.
pub fn changes(before: &LightSet, after: &LightSet) -> Vec<Change> {
    let mut out = Vec::new();
    let floor = after.floor_m();
    let simple = |device: &str, kind, from: String, to: String, amount: f64, unit: &str| Change {
        device: device.into(),
        kind,
        from,
        to,
        amount,
        unit: unit.into(),
        by_m: None,
    };
    for b in &after.lights {
        match before.lights.iter().find(|a| a.name == b.name) {
            Some(a) => light_changes(a, b, (before, after), &mut out),
            None => {
                out.push(simple(&b.name, ChangeKind::Added, String::new(), face_words(&b.source), 0.0, ""));
            }
        }
    }
    for a in before.lights.iter().filter(|a| !after.lights.iter().any(|b| b.name == a.name)) {
        out.push(simple(&a.name, ChangeKind::Removed, face_words(&a.source), String::new(), 0.0, ""));
    }
    for n in 0..before.boards.len().max(after.boards.len()) {
        match (before.boards.get(n), after.boards.get(n)) {
            (Some(a), Some(b)) => board_changes(n, a, b, floor, &mut out),
            (None, Some(b)) => {
                let what = format!("{:?} board {:.2} × {:.2} m", b.finish, b.width_m, b.height_m).to_lowercase();
                out.push(simple(&format!("board {}", n + 1), ChangeKind::Added, String::new(), what, 0.0, ""));
            }
            _ => out.push(simple(
                &format!("board {}", n + 1),
                ChangeKind::Removed,
                "board".into(),
                String::new(),
                0.0,
                "",
            )),
        }
    }
    let exposure = exposure_stops(before, after);
    if exposure.abs() > STOPS {
        let words = |s: &LightSet| {
            let e = &s.camera.exposure;
            format!("f/{} {} ISO {:.0}", e.f_number, optics::exposure::shutter_text(e.shutter_s), e.iso)
        };
        out.push(simple("camera", ChangeKind::Exposure, words(before), words(after), exposure, "stops"));
    }
    let white = |s: &LightSet| s.camera.white_k.unwrap_or(5600.0);
    let mired = 1e6 / white(before) - 1e6 / white(after);
    if mired.abs() > 1.0 {
        let words = |s: &LightSet| format!("{:.0} K", white(s));
        out.push(simple("camera", ChangeKind::Balance, words(before), words(after), mired, "mired"));
    }
    let room = |s: &LightSet| {
        s.ambient
            .as_ref()
            .and_then(|a| studio::relative_ambient(a, &s.camera.exposure).ok())
            .map_or(-30.0, |v| v.max(1e-9).log2())
    };
    let stops = room(after) - room(before) - exposure;
    if stops.abs() > STOPS {
        let words = |s: &LightSet| s.ambient.as_ref().map_or("none".into(), |a| level_words(&a.level));
        out.push(simple("room", ChangeKind::Room, words(before), words(after), stops, "stops"));
    }
    out
}
