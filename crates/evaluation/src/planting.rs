//! Pictures of the bench of verdicts: kinds of sound ones, faults planted in them, how they are taken and marked.

use crate::spoiling::{SPOILS, Spoil};
use evidence::marks::{Cylinder, Mark, MarkKind, Marks, Patch, PatchRole, traced};
use judging::critique::{Brief, brief};
use lightset::set::{AmbientLight, Level, LightSet, SetLight, Source, SubjectKind};
use optics::photo::{Photo, Samples};
use optics::tone::Encoding;
use serde_json::json;

/// A kind of picture: who, judged by what, lit how.
struct Base {
    name: &'static str,
    brief: &'static str,
    subject: serde_json::Value,
    key: [f64; 3],
    fill: f64,
    room: f64,
    wall: f64,
    expose: f64,
}

fn bases() -> Vec<Base> {
    let base = |name, brief, subject, key, fill, room, wall, expose| Base {
        name,
        brief,
        subject,
        key,
        fill,
        room,
        wall,
        expose,
    };
    vec![
        base(
            "person business",
            "business",
            json!({"kind": "person", "person": {"number": 3}}),
            [35.0, 26.0, 30.0],
            -1.3,
            -4.5,
            0.16,
            -0.35,
        ),
        base(
            "person everyday",
            "everyday",
            json!({"kind": "person", "person": {"number": 11}}),
            [-38.0, 28.0, 22.0],
            -1.6,
            -4.5,
            0.12,
            -0.35,
        ),
        base("puppet gentle", "gentle", json!({"kind": "head_round"}), [40.0, 30.0, 32.0], -1.9, -4.0, 0.15, -0.6),
        base("puppet dramatic", "dramatic", json!({"kind": "head_long"}), [-48.0, 25.0, 14.0], -3.2, -5.0, 0.05, -0.3),
    ]
}

fn face(size_deg: f64, d: f64) -> Source {
    Source::Disc { diameter_m: 2.0 * d * (size_deg / 2.0).to_radians().tan() }
}

fn light(name: &str, at: [f64; 3], d: f64, stops: f64) -> SetLight {
    SetLight {
        azimuth_deg: Some(at[0]),
        elevation_deg: Some(at[1]),
        distance_m: Some(d),
        ..SetLight::of(name, face(at[2], d), stops)
    }
}

impl Base {
    /// A sound picture; variants turn the key a little and choose other people.
    fn set(&self, variant: usize) -> LightSet {
        let k = variant as f64;
        let mut subject = self.subject.clone();
        if let Some(n) = subject["person"]["number"].as_u64() {
            subject["person"]["number"] = json!(n + 7 * variant as u64);
        }
        let side = self.key[0].signum();
        let key = [
            self.key[0] + side * (2.0 * (k % 3.0) - 2.0),
            self.key[1] + 3.0 * ((k / 2.0).floor() % 2.0),
            self.key[2] * (1.0 + 0.04 * (k % 4.0)),
        ];
        let person = subject["kind"] == "person";
        let mut set = LightSet::from_value(json!({
            "format": "slant-set/1",
            "subjects": [subject],
            "camera": {"position_m": [0.0, 0.0, 2.4], "aim_m": [0.0, -0.06, 0.0], "vfov_deg": if person { 13.0 } else { 15.0 },
                       "exposure": {"f_number": 5.6, "shutter_s": 0.008, "iso": 100}},
            "lights": [],
            "walls": [{"position_m": [0, 0, -1.6], "normal": [0, 0, 1], "width_m": 7, "height_m": 6, "colour": [self.wall, self.wall, self.wall]}],
            "picture": {"width": 640, "height": 800, "samples": 16}
        }))
        .expect("a set")
        .set;
        set.lights = vec![
            light("key", key, 1.5, self.expose),
            light("fill", [-side * 28.0, 6.0, 30.0], 2.0, self.expose + self.fill),
        ];
        set.ambient =
            Some(AmbientLight { level: Level::Stops { stops: self.expose + self.room }, cct_k: None, map: None });
        set
    }
}

/// A planted fault: its name, what it does to a set, the rules of which one must find it.
type Fault = (&'static str, fn(&mut LightSet), &'static [&'static str]);

fn expose(set: &mut LightSet, stops: f64) {
    for l in &mut set.lights {
        l.level.by(stops);
    }
    if let Some(a) = &mut set.ambient {
        a.level.by(stops);
    }
}

fn key_at(set: &mut LightSet, az: f64, el: f64) {
    let l = &mut set.lights[0];
    let side = l.azimuth_deg.unwrap_or(1.0).signum();
    (l.azimuth_deg, l.elevation_deg) = (Some(side * az), Some(el));
}

/// A small lamp near a wall, which it lights on one side.
fn lamp_at_wall(set: &mut LightSet, stops: f64, at: [f64; 3], aim: [f64; 3]) {
    let mut l = SetLight::of("background", Source::Disc { diameter_m: 0.2 }, stops);
    (l.position_m, l.aim_m) = (Some(at), aim);
    set.lights.push(l);
}

fn walls(set: &mut LightSet, times: f64) {
    for w in &mut set.walls {
        w.colour = w.colour.map(|c| (c * times).clamp(0.004, 0.97));
    }
}

const SKIN_UP: &[&str] = &["skin_bright", "clipping_lit", "clipping_forehead", "clipping_picture", "clipping_much"];
const UNDER: &[&str] = &["skin_dark", "tone_low", "deep_share", "nothing_bright"];
const FLATS: &[&str] = &["flat", "contrast_low"];
const DARKS: &[&str] = &["fill_weak", "shadow_dark", "shadow_blocked"];
const COLOURS: &[&str] = &["colours_apart", "colours_far", "tinted"];

/// Faults of pictures of people: from just visible up.
fn faults() -> Vec<Fault> {
    vec![
        ("1.2 stops over", |s| expose(s, 1.2), SKIN_UP),
        ("2 stops over", |s| expose(s, 2.0), SKIN_UP),
        ("1.3 stops under", |s| expose(s, -1.3), UNDER),
        ("2.2 stops under", |s| expose(s, -2.2), UNDER),
        ("key 66 up", |s| key_at(s, 25.0, 66.0), &["key_high", "sockets", "no_catchlight"]),
        ("key from 35 below", |s| key_at(s, 30.0, -35.0), &["key_low", "from_below", "catchlight_low"]),
        // by the face alone it is a flat or dark face: what lights it then is the fill
        (
            "key behind",
            |s| key_at(s, 150.0, 20.0),
            &["aside_much", "look_other", "no_catchlight", "many_keys", "contrast_low", "flat", "skin_dark"],
        ),
        (
            "fill as strong as the key",
            |s| {
                let k = s.lights[0].level.clone();
                s.lights[1].level = k;
            },
            &["flat", "contrast_low", "many_keys"],
        ),
        (
            "fill from below",
            |s| {
                s.lights[1].elevation_deg = Some(-48.0);
                s.lights[1].level.by(0.4);
            },
            &["fill_low", "catchlight_low"],
        ),
        (
            "a second hard key",
            |s| {
                let mut l = s.lights[0].clone();
                l.name = "other".into();
                l.azimuth_deg = l.azimuth_deg.map(|a| -a);
                l.source = face(3.0, 1.5);
                l.level.by(-0.2);
                s.lights.remove(1);
                s.lights.push(l);
            },
            &["shadows_cross", "many_keys", "flat", "contrast_low", "many_catchlights"],
        ),
        ("green fill", |s| s.lights[1].gel_rgb = Some([0.62, 1.0, 0.62]), COLOURS),
        ("head tilted 20", |s| s.subjects[0].roll_deg = 20.0, &["head_tilt"]),
        ("chin down 22", |s| s.subjects[0].pitch_deg = 22.0, &["chin_down", "sockets", "key_high"]),
        (
            "three small lamps for one",
            |s| {
                let key = s.lights[0].clone();
                for (k, d) in [(-24.0, -8.0), (24.0, -14.0), (2.0, 18.0)] {
                    let mut l = key.clone();
                    l.name = "other".into();
                    l.azimuth_deg = key.azimuth_deg.map(|a| a + k);
                    l.elevation_deg = key.elevation_deg.map(|e| e + d);
                    l.source = face(4.0, 1.5);
                    l.level.by(-0.8);
                    s.lights.push(l);
                }
            },
            &["many_catchlights", "many_keys"],
        ),
    ]
}

/// Faults that only some briefs mind.
fn faults_of(brief: &Brief) -> Vec<Fault> {
    let asks = |m: &str| brief.ranges.get(m).copied();
    let mut out = faults();
    if asks("key_over_fill_stops").is_some_and(|r| r.most.is_some_and(|m| m < 4.0)) {
        out.push((
            "no fill, a dark room",
            |s| {
                s.lights.remove(1);
                if let Some(a) = &mut s.ambient {
                    a.level.by(-4.0);
                }
            },
            DARKS,
        ));
    }
    if asks("key_aside_deg").is_some_and(|r| r.most.is_some_and(|m| m < 95.0)) {
        out.push(("key 105 aside", |s| key_at(s, 105.0, 15.0), &["aside_much", "look_other", "no_catchlight"]));
    }
    if asks("key_size_deg").is_some_and(|r| r.least.is_some_and(|l| l > 4.0)) {
        out.push(("a key of 2 degrees", |s| s.lights[0].source = face(2.0, 1.5), &["hard_source"]));
    }
    if asks("key_aside_deg").is_some_and(|r| r.least.is_some()) {
        out.push((
            "key on the lens axis",
            |s| key_at(s, 0.0, 20.0),
            &["aside_little", "contrast_low", "flat", "look_other"],
        ));
    }
    if asks("contrast_stops").is_some_and(|r| r.least.is_some_and(|l| l > 1.0)) {
        out.push((
            "light from all sides",
            |s| {
                if let Some(a) = &mut s.ambient {
                    a.level.by(4.5);
                }
            },
            FLATS,
        ));
    }
    if asks("colour_apart_mired").is_some() {
        out.extend([
            ("fill 140 mired warmer", |s| s.lights[1].gel_mired = 140.0, COLOURS),
            ("fill 130 mired cooler", |s| s.lights[1].gel_mired = -110.0, COLOURS),
        ] as [Fault; 2]);
    }
    if asks("background_across_stops").is_some() {
        out.extend([(
            "lamp on one side of the wall",
            |s| lamp_at_wall(s, 2.4, [1.2, 0.4, -1.0], [0.75, 0.2, -1.6]),
            &["ground_uneven", "hot_spot", "background_bright"],
        )] as [Fault; 1]);
    }
    if asks("background_under_stops").is_some_and(|r| r.least.is_some_and(|l| l > 0.0)) {
        out.extend([("white wall", |s| walls(s, 18.0), &["background_bright", "ground_bright", "no_separation"])]
            as [Fault; 1]);
        out.push(("a grey wall", |s| walls(s, 4.0), &["background_bright", "no_separation"]));
    }
    out
}

/// A picture of a set as a camera hands it over.
fn photographed(set: &LightSet, spoil: Option<Spoil>) -> Result<Photo, String> {
    let coded = studio::encode(&studio::picture(set)?, &set.picture);
    let coded = match spoil {
        Some(s) => s.on(coded, set.picture.width, set.picture.height)?,
        None => coded,
    };
    Photo::new(set.picture.width, set.picture.height, Samples::U8(coded), &Encoding::Srgb)
}

fn mark(id: &str, kind: MarkKind) -> Mark {
    Mark { id: id.into(), off: false, kind, other: Default::default() }
}

/// A square patch about a place, pixels.
fn patch(role: PatchRole, [x, y]: [f64; 2], half: f64) -> Mark {
    let polygon = [[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]].map(|[i, j]| [x + i * half, y + j * half]);
    mark(&format!("{role:?}").to_lowercase(), MarkKind::Patch(Patch { role, polygon: polygon.into() }))
}

/// Somebody's picture, with a patch on the forehead and either cheek, and two on the wall.
fn taken(set: &LightSet, spoil: Option<Spoil>) -> Result<(Photo, Marks), String> {
    let photo = photographed(set, spoil)?;
    let mut marks = studio::marks(set);
    let s = &set.subjects[0];
    let head = if s.kind == SubjectKind::Person { 1.0 } else { 1.15 };
    let key = set.lights.first().and_then(|l| l.azimuth_deg).unwrap_or(1.0);
    // places on the skin, on the head's own axes, metres: the shadow side may lie where no light comes
    let side = if key < 0.0 { -1.0 } else { 1.0 };
    for (role, own) in [
        (PatchRole::Forehead, [0.0, 0.046, 0.0]),
        (PatchRole::Lit, [0.046 * side, -0.040, -0.020]),
        (PatchRole::Shadow, [-0.046 * side, -0.040, -0.020]),
    ] {
        // a cap hides the long head's forehead
        if role == PatchRole::Forehead && s.kind == SubjectKind::HeadLong {
            continue;
        }
        if let Some((at, _)) = studio::project(set, studio::in_set(s, own.map(|v| v * head))) {
            marks.marks.push(patch(role, at, 9.0));
        }
    }
    let (w, h) = (f64::from(set.picture.width), f64::from(set.picture.height));
    marks.marks.push(patch(PatchRole::Background, [0.09 * w, 0.2 * h], 18.0));
    marks.marks.push(patch(PatchRole::BackgroundFar, [0.91 * w, 0.2 * h], 18.0));
    Ok((photo, marks))
}

/// A bottle between two strips; see [`Base`].
fn bottle(variant: usize) -> LightSet {
    let k = variant as f64;
    let strip = |name: &str, az: f64, stops: f64| {
        json!({"name": name, "azimuth_deg": az, "elevation_deg": 0, "distance_m": 0.9,
               "source": {"kind": "rectangle", "width_m": 0.22 + 0.01 * (k % 4.0), "height_m": 1.2}, "level": {"stops": stops}})
    };
    LightSet::from_value(json!({
        "format": "slant-set/1",
        "subjects": [{"kind": "bottle"}],
        "camera": {"position_m": [0, 0.05, 2.2], "vfov_deg": 11, "exposure": {"f_number": 8, "shutter_s": 0.008, "iso": 100}},
        "lights": [strip("key", 62.0 + 2.0 * (k % 3.0), -0.6), strip("fill", -64.0 - 2.0 * (k % 2.0), -1.1)],
        "walls": [{"position_m": [0, 0, -1.6], "normal": [0, 0, 1], "width_m": 6, "height_m": 5, "colour": [0.03, 0.03, 0.03]}],
        "ambient": {"level": {"stops": -6}},
        "picture": {"width": 560, "height": 800, "samples": 16}
    }))
    .expect("a set")
    .set
}

fn strip_of(s: &mut LightSet, k: usize, w: f64, h: f64) {
    s.lights[k].source = Source::Rectangle { width_m: w, height_m: h };
}

fn bottle_faults() -> Vec<Fault> {
    vec![
        (
            "a lamp by the lens for the strips",
            |s| {
                s.lights.truncate(1);
                (s.lights[0].azimuth_deg, s.lights[0].elevation_deg) = (Some(4.0), Some(24.0));
                s.lights[0].source = face(8.0, 0.9);
            },
            &["no_lines", "one_sided", "line_weak"],
        ),
        (
            "one strip gone",
            |s| {
                s.lights.remove(1);
            },
            &["one_sided"],
        ),
        (
            "strips half as high",
            |s| {
                strip_of(s, 0, 0.22, 0.19);
                strip_of(s, 1, 0.22, 0.19);
            },
            &["line_broken"],
        ),
        ("one three stops under", |s| s.lights[1].level.by(-3.0), &["lines_unlike", "one_sided"]),
        (
            "threads for strips",
            |s| {
                strip_of(s, 0, 0.012, 1.2);
                strip_of(s, 1, 0.012, 1.2);
            },
            &["line_thin"],
        ),
        ("lit wall", |s| walls(s, 22.0), &["ground_bright", "background_bright", "label_lost"]),
        ("two stops over", |s| expose(s, 2.2), &["label_bright", "clipping_label", "line_burnt"]),
        ("three stops under", |s| expose(s, -3.0), &["label_dark", "line_weak", "tone_low", "nothing_bright"]),
    ]
}

fn bottle_taken(set: &LightSet, spoil: Option<Spoil>) -> Result<(Photo, Marks), String> {
    let photo = photographed(set, spoil)?;
    let mut marks = studio::marks(set);
    let at = |own: [f64; 3]| studio::project(set, studio::in_set(&set.subjects[0], own)).map(|p| p.0);
    let (Some(foot), Some(head), Some(label)) =
        (at([0.0, -0.149, 0.0]), at([0.0, 0.149, 0.0]), at([0.0, -0.05, 0.036]))
    else {
        return Err("the bottle is out of the frame".into());
    };
    // what cannot be traced against its ground is marked by hand: the upright part, as it is
    let by_hand = || {
        let ([low, high], edge) = ([at([0.0, -0.14, 0.0])?, at([0.0, 0.03, 0.0])?], at([0.036, -0.05, 0.0])?);
        let middle = f64::midpoint(low[0], high[0]);
        Some(Cylinder { axis: [low, high], radius_px: (edge[0] - middle).abs(), profile: Vec::new() })
    };
    let body = traced(&photo, [foot, head]).ok().or_else(by_hand);
    marks.marks.extend(body.map(|body| mark("body", MarkKind::Cylinder(body))));
    marks.marks.push(patch(PatchRole::Label, label, 10.0));
    marks.marks.push(patch(PatchRole::Background, [54.0, 160.0], 18.0));
    Ok((photo, marks))
}

/// A can between two strips; see [`Base`].
fn can(variant: usize) -> LightSet {
    let mut set = bottle(variant);
    set.subjects[0].kind = SubjectKind::Can;
    set.subjects[0].yaw_deg = 20.0 * (variant % 5) as f64;
    set.camera.vfov_deg = Some(5.2);
    let level = set.lights[0].level.clone();
    set.lights[1].level = level;
    walls(&mut set, 4.0);
    set
}

fn can_faults() -> Vec<Fault> {
    vec![
        (
            "both strips gone",
            |s| {
                let e = s.lights[0].level.clone();
                s.lights.clear();
                s.ambient = Some(AmbientLight { level: e, cct_k: None, map: None });
            },
            &["no_lines", "line_weak"],
        ),
        ("three stops over", |s| expose(s, 3.0), &["label_bright", "clipping_label", "line_burnt", "tone_high"]),
        (
            "three stops under",
            |s| expose(s, -3.4),
            &["label_dark", "line_weak", "tone_low", "deep_share", "nothing_bright"],
        ),
    ]
}

fn can_taken(set: &LightSet, spoil: Option<Spoil>) -> Result<(Photo, Marks), String> {
    let photo = photographed(set, spoil)?;
    let mut marks = studio::marks(set);
    let at = |own: [f64; 3]| studio::project(set, studio::in_set(&set.subjects[0], own)).map(|p| p.0);
    let (Some(foot), Some(head)) = (at([0.0, -0.052, 0.0]), at([0.0, 0.048, 0.0])) else {
        return Err("the can is out of the frame".into());
    };
    // the print faces the lens wherever the can is turned
    let label = [f64::midpoint(foot[0], head[0]), 0.4 * head[1] + 0.6 * foot[1]];
    marks.marks.extend(traced(&photo, [foot, head]).ok().map(|body| mark("body", MarkKind::Cylinder(body))));
    marks.marks.push(patch(PatchRole::Label, label, 10.0));
    marks.marks.push(patch(PatchRole::Background, [54.0, 160.0], 18.0));
    Ok((photo, marks))
}

/// A shoe on a bright ground under one broad light; see [`Base`].
fn shoe(variant: usize) -> LightSet {
    let k = variant as f64;
    LightSet::from_value(json!({
        "format": "slant-set/1",
        "subjects": [{"kind": "shoe", "yaw_deg": 20.0 + 4.0 * (k % 4.0)}],
        "camera": {"position_m": [0, 0.35, 1.6], "aim_m": [0, 0.0, 0], "vfov_deg": 15, "exposure": {"f_number": 11, "shutter_s": 0.008, "iso": 100}},
        "lights": [{"name": "key", "azimuth_deg": -40.0 - 3.0 * (k % 3.0), "elevation_deg": 50, "distance_m": 1.0,
                    "source": {"kind": "rectangle", "width_m": 0.9, "height_m": 0.7}, "level": {"stops": -0.4}}],
        "walls": [{"position_m": [0, 0, -1.2], "normal": [0, 0, 1], "width_m": 6, "height_m": 5, "colour": [0.85, 0.85, 0.85]},
                  {"position_m": [0, -0.06, 0], "normal": [0, 1, 0], "width_m": 6, "height_m": 6, "colour": [0.85, 0.85, 0.85]}],
        "ambient": {"level": {"stops": -0.6}},
        "picture": {"width": 600, "height": 480, "samples": 16}
    }))
    .expect("a set")
    .set
}

fn shoe_faults() -> Vec<Fault> {
    vec![
        ("a dark ground", |s| walls(s, 0.2), &["ground_dark", "background_dark"]),
        ("2 stops under", |s| expose(s, -2.0), &["ground_dark", "tone_low", "deep_share", "nothing_bright"]),
        ("2.5 stops over", |s| expose(s, 2.5), &["clipping_picture", "clipping_much", "ground_bright", "tone_high"]),
        (
            "lamp on one side of the wall",
            |s| lamp_at_wall(s, 2.2, [1.0, 0.5, -0.8], [0.6, 0.2, -1.2]),
            &["ground_uneven", "hot_spot", "ground_bright", "clipping_picture"],
        ),
    ]
}

fn shoe_taken(set: &LightSet, spoil: Option<Spoil>) -> Result<(Photo, Marks), String> {
    let photo = photographed(set, spoil)?;
    let mut marks = studio::marks(set);
    let (w, h) = (f64::from(set.picture.width), f64::from(set.picture.height));
    marks.marks.push(patch(PatchRole::Background, [0.09 * w, 0.12 * h], 14.0));
    marks.marks.push(patch(PatchRole::BackgroundFar, [0.91 * w, 0.12 * h], 14.0));
    Ok((photo, marks))
}

/// How a picture of a set is taken and marked.
pub(crate) type Take = fn(&LightSet, Option<Spoil>) -> Result<(Photo, Marks), String>;

/// One picture to judge.
pub(crate) struct Job {
    pub base: String,
    pub brief: &'static Brief,
    pub set: LightSet,
    /// The planted fault, and the rules of which one must find it.
    pub fault: Option<(&'static str, &'static [&'static str])>,
    pub spoil: Option<Spoil>,
    pub take: Take,
}

/// Sound pictures of a kind, those with a planted fault, and sound ones spoilt.
fn jobs_of(
    name: &str,
    brief: &'static Brief,
    set: &dyn Fn(usize) -> LightSet,
    faults: Vec<Fault>,
    take: Take,
) -> Vec<Job> {
    let job = |set: LightSet, fault, spoil| Job { base: name.into(), brief, set, fault, spoil, take };
    // what a brief does not mind is no fault by it
    let asked: Vec<String> = judging::critique::asked(brief).into_iter().map(|a| a.rule).collect();
    let minded = |rules: &[&str]| rules.iter().any(|r| asked.iter().any(|a| a == r));
    let sound = (0..8).map(|k| job(set(k), None, None));
    let planted = faults.into_iter().enumerate().filter(|(_, f)| minded(f.2)).map(|(i, (name, plant, rules))| {
        let mut set = set(i % 8);
        plant(&mut set);
        job(set, Some((name, rules)), None)
    });
    let spoilt = SPOILS
        .iter()
        .enumerate()
        .map(|(i, (name, spoil, rules))| job(set((i + 3) % 8), Some((*name, *rules)), Some(*spoil)));
    sound.chain(planted).chain(spoilt).collect()
}

/// All pictures of kinds whose name holds `only`.
pub(crate) fn jobs(only: &str) -> Vec<Job> {
    let mut out = Vec::new();
    for b in bases().into_iter().filter(|b| b.name.contains(only)) {
        let brief = brief(b.brief).expect("a brief");
        out.extend(jobs_of(b.name, brief, &|k| b.set(k), faults_of(brief), taken));
    }
    type Thing = (&'static str, &'static str, fn(usize) -> LightSet, fn() -> Vec<Fault>, Take);
    let things: [Thing; 3] = [
        ("bottle", "bottle-dark", bottle, bottle_faults, bottle_taken),
        ("can", "can", can, can_faults, can_taken),
        ("shoe", "footwear-catalogue", shoe, shoe_faults, shoe_taken),
    ];
    for (name, by, set, faults, take) in things.into_iter().filter(|t| t.0.contains(only)) {
        out.extend(jobs_of(name, brief(by).expect("a brief"), &set, faults(), take));
    }
    out
}
