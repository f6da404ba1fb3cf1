//! The order of work and what each step expects.

use super::{BuildLog, BuildPlan, BuildStep, FirstLight, LampPlan, Moving, lamp_plan};
use lightset::kit::Kit;
use lightset::meter::{LightMeter, SetMeter};
use lightset::set::{BoardFinish, LightSet, SetLight};
use optics::exposure::{nominal_f_number, shutter_text};
use optics::geometry::Vec3;
use optics::role::Role;
use optics::units::FNumber;
use optics::words::Lengths;
use optics::words::{capital, place_words};

/// Two stands closer than this on the floor stand in each other's legs, metres (common practice).
const ONE_SPOT_M: f64 = 0.3;

/// What a meter is good for, in stops (common practice).
const METER_SD: f64 = 0.1;

/// What a role is watched for in the test picture (common practice).
fn watch_for(role: Role, m: &LightMeter) -> Vec<String> {
    let side = if m.azimuth_deg > 4.0 {
        "right"
    } else if m.azimuth_deg < -4.0 {
        "left"
    } else {
        "front"
    };
    let away = match side {
        "right" => "to the left",
        "left" => "to the right",
        _ => "straight down",
    };
    let at = m.at();
    let clock = match at.clock().round() {
        h if h < 0.5 => 12.0,
        h => h,
    };
    match role {
        Role::Key => vec![
            format!(
                "The nose shadow falls {away}{}.",
                if m.elevation_deg > 12.0 && side != "front" { " and down" } else { "" }
            ),
            format!("A catchlight stands at {clock:.0} o'clock in both eyes."),
            format!("Shadow edges are {}.", optics::hardness::hardness(m.angular_size_deg)),
        ],
        Role::Fill => vec![
            "The shadow side opens but no second nose shadow appears.".into(),
            format!("A faint catchlight at {clock:.0} o'clock: wanted or not?"),
        ],
        Role::Rim => vec![
            format!("A bright edge on hair and shoulder on the {side} side; nothing on the nose."),
            "No flare: shade the lens if the lamp looks into it.".into(),
        ],
        Role::Background => vec!["Only the background brightens; the subject stays dark.".into()],
        _ => vec!["Only what it is meant for changes.".into()],
    }
}

fn role_of(l: &SetLight) -> Role {
    Role::of_name(&l.name)
}

fn place_words_m(p: &Vec3, floor: f64) -> String {
    place_words(p, floor, Lengths::Metres)
}

fn ceiling_of(set: &LightSet, kit: &Kit, floor: f64) -> Option<f64> {
    let drawn = set.walls.iter().filter(|w| w.normal[1] < -0.9).map(|w| w.position_m[1] + floor).reduce(f64::min);
    drawn.or(kit.ceiling_m)
}

/// What a reading that differs from the expected one says.
pub fn explain(expected: f64, sd: f64, measured: f64, distance_m: f64) -> Vec<String> {
    let off = 2.0 * (measured / expected).log2();
    if off.abs() <= 2.0 * sd {
        return vec![format!("{off:+.1} stops from what was expected: within what can be told (± {sd:.1}). Go on.")];
    }
    let word = if off > 0.0 { "more" } else { "less" };
    let d = distance_m * (-off / 2.0).exp2();
    vec![
        format!("{:.1} stops {word} than expected (± {sd:.1}).", off.abs()),
        format!(
            "If it is the distance: it stands at {d:.2} m instead of {distance_m:.2} m. Measure from the bright face, not from the stand."
        ),
        format!(
            "If it is the power: the lamp gives {:.0} % of what was counted on; turn it {} by {:.1} stops.",
            100.0 * off.exp2(),
            if off > 0.0 { "down" } else { "up" },
            off.abs()
        ),
        "If it is neither: look for another light that is on, a filter, or a face that aims past the subject.".into(),
    ]
}

/// Works out how to build a set.
pub fn build(set: &LightSet, meter: &SetMeter, kit: &Kit, log: &BuildLog) -> BuildPlan {
    let s = &set.camera.exposure;
    let floor = set.floor_m();
    let ceiling = ceiling_of(set, kit, floor);
    let lens = Vec3::from(set.camera.position_m);
    let mut problems = meter.warnings.clone();
    let mut order: Vec<usize> = (0..set.lights.len()).filter(|i| !set.lights[*i].off).collect();
    let rank = |role: Role| match (log.first, role) {
        (FirstLight::Key, Role::Key) => 0,
        (FirstLight::Key, Role::Fill) => 1,
        (FirstLight::Key, Role::Rim) => 2,
        (FirstLight::Key, Role::Other) => 3,
        (FirstLight::Key, _) => 4,
        (FirstLight::Background, Role::Background) => 0,
        (FirstLight::Background, Role::Key) => 1,
        (FirstLight::Background, Role::Fill) => 2,
        (FirstLight::Background, Role::Rim) => 3,
        (FirstLight::Background, _) => 4,
    };
    order.sort_by_key(|i| rank(role_of(&set.lights[*i])));
    let sitter = set.subjects.iter().any(|x| x.kind.is_head());
    let frame_m = 2.0 * lens.norm() * (set.camera.vfov_deg().to_radians() / 2.0).tan();
    let moving = Moving { sitter, frame_m };
    let mut taken: Vec<String> = Vec::new();
    let mut lamps: Vec<LampPlan> = Vec::new();
    let mut steps = Vec::new();
    steps.push(room(set, meter, floor, lens.norm(), log));
    let mut lit: Vec<String> = Vec::new();
    let mut together = meter.ambient_stops.map_or(0.0, f64::exp2);
    let boards_after = order.iter().position(|i| role_of(&set.lights[*i]) == Role::Key).unwrap_or(0);
    for (k, &i) in order.iter().enumerate() {
        let (l, m) = (&set.lights[i], &meter.lights[i]);
        let plan = lamp_plan(kit, l, m, s, log.lamps.get(&l.name).map(String::as_str), &taken, moving);
        taken.extend(plan.lamp.clone());
        let role = role_of(l);
        let p = Vec3::from(m.position_m);
        let height = p.y + floor;
        if let Some(c) = ceiling
            && height > c - 0.05
        {
            problems.push(format!("{}: {height:.2} m up, but the ceiling is at {c:.2} m: come nearer at the same angle with a smaller face, or bounce it off the ceiling.", l.name));
        }
        let tallest = kit.stands.iter().filter(|x| x.count > 0).map(|x| x.highest_m).fold(0.0, f64::max);
        if tallest > 0.0 && height > tallest + 0.05 && !l.source.is_window() {
            problems
                .push(format!("{}: {height:.2} m up; the tallest stand of the kit reaches {tallest:.2} m.", l.name));
        }
        let near = |o: &usize| (Vec3::from(meter.lights[*o].position_m) - p).xz().norm() < ONE_SPOT_M;
        if let Some(&o) =
            order[..k].iter().find(|o| !l.source.is_window() && !set.lights[**o].source.is_window() && near(o))
        {
            problems.push(format!(
                "{} and {} stand on one spot ({:.0} cm apart on the floor): put one on a boom, or both on one stand that bears them.",
                capital(&set.lights[o].name),
                l.name,
                100.0 * (Vec3::from(meter.lights[o].position_m) - p).xz().norm()
            ));
        }
        let mut does = vec![
            format!("Everything else off. {}: {}.", capital(l.source.word()), place_words_m(&p, floor)),
            format!("Its face {:.2} m from the subject, {}.", m.distance_m, aim_text(l)),
        ];
        if let Some(b) = &l.bounce {
            does.push(format!(
                "Turn it away from the subject, to a surface of {:.1} × {:.1} m {}.",
                b.width_m,
                b.height_m,
                place_words_m(&Vec3::from(b.position_m), floor)
            ));
        }
        for sheet in &l.scrims {
            let beside = match sheet.aside_m {
                a if a.abs() < 0.005 => String::new(),
                a => {
                    let side = if a > 0.0 { "right" } else { "left" };
                    format!(", its middle {:.2} m to the {side} of the lamp as seen from the subject", a.abs())
                }
            };
            does.push(format!(
                "A sheet of {:.1} × {:.1} m, {:.2} m before it{beside}.",
                sheet.width_m, sheet.height_m, sheet.gap_m
            ));
        }
        if !l.path_m.is_empty() {
            does.push(format!(
                "Move it through {} places during the exposure, with equal time at each.",
                l.path_m.len() + 1
            ));
        }
        does.push(match &plan.setting {
            Some(text) => format!("{}: {text}.", plan.name),
            None => plan.says.clone(),
        });
        lit.push(l.name.clone());
        together += (m.f_number / s.f_number).powi(2) * m.dome_share(&lens.normalize());
        let sd = METER_SD.hypot(2.0 * 0.02 / std::f64::consts::LN_2);
        let id = format!("light-{}", l.name);
        let measured = log.measured.get(&id).copied();
        steps.push(BuildStep {
            title: if lit.len() == 1 {
                format!("{} alone", capital(&l.name))
            } else {
                format!("{} alone, then added", capital(&l.name))
            },
            role: Some(role),
            does,
            lit: lit.clone(),
            expect_f: Some(m.f_number),
            expect_nominal: Some(m.nominal),
            expect_sd_stops: sd,
            hold: if l.metered_at().norm() > 0.05 {
                "At the background where it is aimed, flat, turned to this light; all others off.".into()
            } else {
                "At the subject, flat or dome, turned to this light; all others off.".into()
            },
            watch: watch_for(role, m),
            explains: measured.map(|f| explain(m.f_number, sd, f, m.distance_m)).unwrap_or_default(),
            ..blank(&id, log)
        });
        lamps.push(plan);
        if k == boards_after && !(set.boards.is_empty() && set.flags.is_empty()) {
            steps.push(boards(set, floor, &lit, log));
        }
    }
    let all = s.f_number * together.max(1e-9).sqrt();
    steps.push(last(set, meter, s.f_number, all, &order, &lit, log));
    let mut exposure = vec![format!(
        "f/{} at {}, ISO {:.0}: EV {:.1} at ISO 100.",
        s.f_number,
        shutter_text(s.shutter_s),
        s.iso,
        s.ev100()
    )];
    if lamps.iter().any(|p| kit.lamps.iter().any(|l| Some(&l.id) == p.lamp.as_ref() && l.is_flash())) {
        exposure
            .push("Flash: the shutter changes the room's light only. Stay at the camera's sync time or longer.".into());
    }
    for w in lightset::frame::frame_warnings(set, &meter.lights) {
        if !problems.contains(&w) {
            problems.push(w);
        }
    }
    for p in &lamps {
        if p.setting.is_none() && p.power_stops.is_some() {
            problems.push(p.says.clone());
        }
    }
    problems.dedup();
    let packing = super::packing(set, &lamps, kit);
    problems.extend(packing.mains.iter().filter(|m| m.over).map(|m| m.says.clone()));
    let mut cautions = meter.cautions.clone();
    cautions.extend(super::kit_cautions(set, &lamps, kit));
    BuildPlan { steps, lamps, exposure, problems, cautions, slant: meter.slant.clone(), packing }
}

fn blank(id: &str, log: &BuildLog) -> BuildStep {
    BuildStep {
        id: id.to_owned(),
        title: String::new(),
        role: None,
        does: Vec::new(),
        lit: Vec::new(),
        expect_f: None,
        expect_nominal: None,
        expect_sd_stops: 0.0,
        hold: String::new(),
        watch: Vec::new(),
        done: log.done.contains(id),
        measured_f: log.measured.get(id).copied(),
        explains: Vec::new(),
        note: log.notes.get(id).cloned(),
    }
}

/// Stops against what the camera is set for from which the room's light is part of the set, not a nuisance.
const ROOM_COUNTS_STOPS: f64 = -6.0;

fn room(set: &LightSet, meter: &SetMeter, floor: f64, lens: f64, log: &BuildLog) -> BuildStep {
    let s = &set.camera.exposure;
    let mut does = vec![
        format!(
            "The subject's reference point (between the eyes, or a product's middle) {floor:.2} m above the floor."
        ),
        format!(
            "Lens {lens:.2} m away and {:.2} m above the floor; the frame is {:.0}° high.",
            set.camera.position_m[1] + floor,
            set.camera.vfov_deg()
        ),
        format!("f/{}, {}, ISO {:.0}, white balance fixed.", s.f_number, shutter_text(s.shutter_s), s.iso),
    ];
    if let Some(w) = set.walls.iter().filter(|w| w.is_background()).map(|w| -w.position_m[2]).reduce(f64::min) {
        does.push(format!("Background {w:.2} m behind the subject."));
    }
    does.push(match meter.ambient_stops {
        Some(a) if a > ROOM_COUNTS_STOPS => format!(
            "The room's light stays on: by itself it lies {:.1} stops {} what the camera is set for. Shut out what is more.",
            a.abs(),
            if a > 0.0 { "over" } else { "under" }
        ),
        _ => "Curtains closed, room lights off: a test picture now should be nearly black.".into(),
    });
    BuildStep { title: "Room and camera".into(), does, ..blank("room", log) }
}

fn boards(set: &LightSet, floor: f64, lit: &[String], log: &BuildLog) -> BuildStep {
    let mut does = Vec::new();
    for b in &set.boards {
        let what = match b.finish {
            BoardFinish::White => "White board",
            BoardFinish::Silver => "Silver board",
            BoardFinish::Gold => "Gold board",
            BoardFinish::Black => "Black board",
            BoardFinish::Mirror => "Mirror",
        };
        does.push(format!(
            "{what}, {:.2} × {:.2} m: {}. On a stand, so that the sitter can relax.",
            b.width_m,
            b.height_m,
            place_words_m(&Vec3::from(b.position_m), floor)
        ));
    }
    for f in &set.flags {
        does.push(format!(
            "Flag, {:.2} × {:.2} m: {}.",
            f.width_m,
            f.height_m,
            place_words_m(&Vec3::from(f.position_m), floor)
        ));
    }
    BuildStep {
        title: "Boards and flags".into(),
        does,
        lit: lit.to_vec(),
        watch: vec![
            "The shadow side lifts (white, silver) or deepens (black); compare with the picture before.".into(),
        ],
        ..blank("boards", log)
    }
}

fn last(
    set: &LightSet,
    meter: &SetMeter,
    f: f64,
    all: f64,
    order: &[usize],
    lit: &[String],
    log: &BuildLog,
) -> BuildStep {
    let level = |role: Role| {
        order
            .iter()
            .filter(|i| role_of(&set.lights[**i]) == role)
            .map(|i| meter.lights[*i].f_number.powi(2))
            .reduce(f64::max)
    };
    let mut watch = vec!["Nothing that matters is clipped; the background has the level wanted.".into()];
    if let (Some(k), Some(fill)) = (level(Role::Key), level(Role::Fill)) {
        watch.push(format!(
            "Ratio {:.1} : 1 key to fill, which is {:.1} : 1 (key + fill) to fill.",
            k / fill,
            k / fill + 1.0
        ));
    }
    let id = "together";
    let measured = log.measured.get(id).copied();
    let over = 2.0 * (all / f).log2();
    BuildStep {
        title: "All together".into(),
        does: vec![
            "Everything on.".into(),
            if over.abs() < 0.2 {
                "The camera is set right for this.".into()
            } else {
                format!(
                    "The camera is set {:.1} stops {} what the dome shows: as wanted, or change the aperture.",
                    over.abs(),
                    if over > 0.0 { "over" } else { "under" }
                )
            },
        ],
        lit: lit.to_vec(),
        expect_f: Some(all),
        expect_nominal: Some(nominal_f_number(FNumber(all.max(0.01)))),
        expect_sd_stops: 0.15,
        hold: "Dome at the subject, turned to the lens.".into(),
        watch,
        explains: measured
            .map(|m| explain(all, 0.15, m, meter.lights.first().map_or(1.0, |l| l.distance_m)))
            .unwrap_or_default(),
        ..blank(id, log)
    }
}

fn aim_text(l: &SetLight) -> String {
    let aim = Vec3::from(l.aim_m).norm();
    if aim < 0.05 { "aimed at the subject".into() } else { format!("aimed {aim:.2} m past the subject (feathered)") }
}
