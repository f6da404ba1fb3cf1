//! A set as a drawing to scale, in plan and from the side: lines, notes and grips in drawing metres. It is worked out
//! once, here; the front end draws it and lets it be pulled about, [`crate::paper`] puts it on paper.
//!
//! Light is drawn, not gear: each source as the outline of its bright face, its cone to the subject, boards as lines,
//! flags as thick ones, the frame as two thin lines, distances along the floor and heights.

use crate::cables::{Cable, outlet, walkway};
use crate::light_meter::LightMeter;
use crate::set::{LightSet, SubjectKind};
use optics::geometry::{Vec3, upright};
use optics::words::{Lengths, length};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A lamp turned away from the subject by less than this is aimed at it.
pub(crate) const FEATHERED_DEG: f64 = 3.0;
/// How far beyond the subject the edges of the frame are drawn, metres.
const BEYOND_M: f64 = 1.4;
/// Room about all that is drawn, metres.
const MARGIN_M: f64 = 0.25;

/// Which way the set is looked at.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum View {
    /// From above: right is camera right, down is towards the camera.
    Plan,
    /// From camera left: left is towards the camera.
    Side,
}

impl View {
    pub(crate) fn flat(self, p: &Vec3) -> [f64; 2] {
        match self {
            View::Plan => [p.x, p.z],
            View::Side => [-p.z, -p.y],
        }
    }
}

/// A set seen one way. Metres of the set; x right, y down.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Drawing {
    /// Left and top of all that is in it, and a little room.
    #[schema(value_type = optics::geometry::Pair)]
    pub from: [f64; 2],
    /// Right and bottom.
    #[schema(value_type = optics::geometry::Pair)]
    pub to: [f64; 2],
    /// Lines, what lies beneath first.
    pub lines: Vec<Line>,
    /// What is written beside them.
    pub notes: Vec<Note>,
    /// What can be pulled about.
    pub grips: Vec<Grip>,
}

/// A line or an outline.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Line {
    /// What it shows.
    pub part: Part,
    /// What it belongs to, of the things that can be pulled about.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub of: Option<Thing>,
    /// Its corners.
    #[schema(value_type = Vec<optics::geometry::Pair>)]
    pub points: Vec<[f64; 2]>,
    /// An outline.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub closed: bool,
}

/// What a line of a drawing shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Part {
    /// A wall or the floor, cut.
    Wall,
    /// An edge of what the camera sees.
    Frame,
    /// The strip that is kept free to walk in.
    Walkway,
    /// The subject.
    Subject,
    /// From the subject to the background.
    Background,
    /// A board.
    Board,
    /// A flag.
    Flag,
    /// From the subject to the edges of a bright face.
    Cone,
    /// From a lamp that is bounced to the face its light leaves from.
    Throw,
    /// From a lamp down to the floor.
    Drop,
    /// Where a lamp points.
    Aim,
    /// The bright face that light leaves from.
    Face,
    /// From mark to mark of a walk.
    Walk,
    /// A cable that keeps out of the walkway.
    Cable,
    /// A cable that crosses it.
    CableAcross,
    /// What a source must fill for a bright line.
    Reach,
}

/// Something written in a drawing: a name, a length, words after it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Note {
    /// Where.
    #[schema(value_type = optics::geometry::Pair)]
    pub at: [f64; 2],
    /// What it belongs to, of the things that can be pulled about.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub of: Option<Thing>,
    /// What it names.
    pub name: String,
    /// Lengths with the words after each, in the reader's unit.
    pub lengths: Vec<NotedLength>,
}

impl Note {
    /// What it says, in a unit.
    pub fn text(&self, unit: Lengths) -> String {
        let mut out = self.name.clone();
        for l in &self.lengths {
            let space = if l.then.is_empty() || l.then.starts_with(',') { "" } else { " " };
            out += &format!(" {}{space}{}", length(l.length_m, unit), l.then);
        }
        out
    }
}

/// A length in a note.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct NotedLength {
    /// Metres.
    pub length_m: f64,
    /// Words after it.
    pub then: String,
}

/// A place where something can be taken hold of.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Grip {
    /// What is pulled.
    pub thing: Thing,
    /// Where it is held.
    #[schema(value_type = optics::geometry::Pair)]
    pub at: [f64; 2],
    /// Its place in the set, of which a pull in this view changes two of three.
    #[schema(value_type = optics::geometry::Triple)]
    pub place_m: [f64; 3],
    /// What it is, for those who do not see it.
    pub name: String,
}

/// A thing that can be pulled about: its kind and its place in the set's list of them.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Thing {
    /// Which list.
    pub what: ThingKind,
    /// Its place in it.
    pub i: usize,
}

/// Kinds of things that can be pulled about.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ThingKind {
    /// A light.
    Light,
    /// Where a light points.
    Aim,
    /// A board.
    Board,
    /// A flag.
    Flag,
    /// The outlet.
    Outlet,
    /// The lens.
    Lens,
    /// A mark on the floor.
    Mark,
}

impl ThingKind {
    fn nth(self, i: usize) -> Thing {
        Thing { what: self, i }
    }
}

/// Corners of an upright sheet at `at` that faces `aim`, metres.
pub fn sheet(at: [f64; 3], aim: [f64; 3], w: f64, h: f64) -> [Vec3; 4] {
    let c = Vec3::from(at);
    let n = (Vec3::from(aim) - c).try_normalize(1e-9).unwrap_or_else(Vec3::z);
    let (u, v) = upright(&n);
    [(-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0)].map(|(a, b)| c + u * (a * w / 2.0) + v * (b * h / 2.0))
}

/// Half axes of a subject, metres right, up and deep, and how far back its middle lies: a head, or a thing as large as a
/// bottle.
fn size_of(kind: SubjectKind) -> ([f64; 3], f64) {
    if kind.is_head() { ([0.085, 0.13, 0.1], 0.08) } else { ([0.04, 0.07, 0.04], 0.0) }
}

/// Draws a set as it is looked at from above or from the side; what its meter says of its lights and cables is known.
pub fn draw(set: &LightSet, lights: &[LightMeter], cables: &[Cable], view: View) -> Drawing {
    let mut d = Sheet { view, out: Drawing::default() };
    d.walls(set);
    d.frame(set);
    if view == View::Plan {
        d.on_the_floor(set, cables);
    }
    d.subject(set);
    for (i, b) in set.boards.iter().enumerate() {
        let thing = ThingKind::Board.nth(i);
        let name = format!("{} board", b.finish.name());
        d.edge(Part::Board, thing, b.position_m, b.aim_m, [b.width_m, b.height_m]);
        d.grip(thing, b.position_m, &name);
        let lengths = [(b.width_m, "×"), (b.height_m, "")];
        d.note(&Vec3::from(b.position_m), Some(thing), &name, &lengths);
    }
    for (i, f) in set.flags.iter().enumerate() {
        let thing = ThingKind::Flag.nth(i);
        d.edge(Part::Flag, thing, f.position_m, f.aim_m, [f.width_m, f.height_m]);
        d.grip(thing, f.position_m, "flag");
    }
    for (i, l) in lights.iter().enumerate() {
        d.light(set, i, l);
    }
    d.note(&Vec3::from(set.camera.position_m), None, "lens", &[(Vec3::from(set.camera.position_m).norm(), "away")]);
    d.fit(set);
    d.out
}

/// A drawing at work.
struct Sheet {
    view: View,
    out: Drawing,
}

impl Sheet {
    fn line(&mut self, part: Part, of: Option<Thing>, points: &[Vec3], closed: bool) {
        let points = points.iter().map(|p| self.view.flat(p)).collect();
        self.out.lines.push(Line { part, of, points, closed });
    }

    fn note(&mut self, at: &Vec3, of: Option<Thing>, name: &str, lengths: &[(f64, &str)]) {
        let lengths = lengths.iter().map(|(m, then)| NotedLength { length_m: *m, then: (*then).into() }).collect();
        self.out.notes.push(Note { at: self.view.flat(at), of, name: name.into(), lengths });
    }

    fn grip(&mut self, thing: Thing, place_m: [f64; 3], name: &str) {
        self.out.grips.push(Grip { thing, at: self.view.flat(&Vec3::from(place_m)), place_m, name: name.into() });
    }

    /// The edge of an upright sheet, with its breadth as an outline.
    fn edge(&mut self, part: Part, thing: Thing, at: [f64; 3], aim: [f64; 3], [w, h]: [f64; 2]) {
        self.line(part, Some(thing), &sheet(at, aim, w, h), true);
    }

    fn walls(&mut self, set: &LightSet) {
        for wall in &set.walls {
            let n = Vec3::from(wall.normal).normalize();
            let level = n.y.abs() > 0.5;
            if (self.view == View::Plan && level) || (self.view == View::Side && n.x.abs() > 0.5) {
                continue;
            }
            let at = Vec3::from(wall.position_m);
            let c = sheet(wall.position_m, (at + n).into(), wall.width_m, wall.height_m);
            let ends = match self.view {
                View::Plan => [c[0], c[1]],
                // the floor is drawn as far as anything goes
                View::Side if level => [Vec3::new(0.0, at.y, -50.0), Vec3::new(0.0, at.y, 50.0)],
                View::Side => [c[1], c[2]],
            };
            match wall.opening.filter(|_| self.view == View::Plan) {
                // drawn to both sides of a window
                Some(o) => {
                    let along = (ends[1] - ends[0]).normalize();
                    let at = (Vec3::from(o.centre_m) - ends[0]).dot(&along);
                    let [a, b] = [at - o.width_m / 2.0, at + o.width_m / 2.0].map(|t| ends[0] + along * t);
                    self.line(Part::Wall, None, &[ends[0], a], false);
                    self.line(Part::Wall, None, &[b, ends[1]], false);
                }
                None => self.line(Part::Wall, None, &ends, false),
            }
        }
        let behind = set.walls.iter().filter(|w| w.is_background()).map(|w| w.position_m[2]).reduce(f64::max);
        if let Some(z) = behind {
            let (a, b) = (Vec3::zeros(), Vec3::new(0.0, 0.0, z));
            self.line(Part::Background, None, &[a, b], false);
            self.note(&((a + b) / 2.0), None, "background", &[(-z, "behind")]);
        }
    }

    fn frame(&mut self, set: &LightSet) {
        let camera = Vec3::from(set.camera.position_m);
        let aim = Vec3::from(set.camera.aim_m);
        let half_v = (set.camera.vfov_deg() / 2.0).to_radians();
        let half = match self.view {
            View::Plan => (half_v.tan() * f64::from(set.picture.width) / f64::from(set.picture.height)).atan(),
            View::Side => half_v,
        };
        let (c, a) = (self.view.flat(&camera), self.view.flat(&aim));
        let [x, y] = [a[0] - c[0], a[1] - c[1]];
        let reach = x.hypot(y) + BEYOND_M;
        let turn = y.atan2(x);
        for s in [-half, half] {
            let (sin, cos) = (turn + s).sin_cos();
            let end = [c[0] + reach * cos, c[1] + reach * sin];
            self.out.lines.push(Line { part: Part::Frame, of: None, points: vec![c, end], closed: false });
        }
        self.grip(ThingKind::Lens.nth(0), set.camera.position_m, "lens");
    }

    /// The walkway that is kept free and the cables round it.
    fn on_the_floor(&mut self, set: &LightSet, cables: &[Cable]) {
        let floor = |p: &[f64; 2]| Vec3::new(p[0], 0.0, p[1]);
        let corners: Vec<Vec3> = walkway(set).iter().map(floor).collect();
        self.line(Part::Walkway, None, &corners, true);
        let marks: Vec<Vec3> = set.walk_m.iter().map(floor).collect();
        if marks.len() > 1 {
            self.line(Part::Walk, None, &marks, false);
        }
        for (i, at) in marks.iter().enumerate() {
            let thing = ThingKind::Mark.nth(i);
            let name = format!("mark {}", i + 1);
            self.grip(thing, (*at).into(), &name);
            self.note(at, Some(thing), &name, &[]);
        }
        let thing = ThingKind::Outlet.nth(0);
        for c in cables {
            let part = if c.crosses { Part::CableAcross } else { Part::Cable };
            let path: Vec<Vec3> = c.path_m.iter().map(floor).collect();
            self.line(part, Some(thing), &path, false);
        }
        if cables.is_empty() {
            return;
        }
        let at = floor(&outlet(set));
        self.grip(thing, at.into(), "outlet");
        // "outlet; key 4.10 m, fill 3.20 m": each length follows the name before it
        let mut lengths = Vec::new();
        for (k, c) in cables.iter().enumerate() {
            let next = cables.get(k + 1).map_or(String::new(), |n| format!(", {}", n.light));
            lengths.push((c.length_m, next));
        }
        let named: Vec<(f64, &str)> = lengths.iter().map(|(m, t)| (*m, t.as_str())).collect();
        let first = cables.first().map_or("", |c| c.light.as_str());
        self.note(&at, Some(thing), &format!("outlet; {first}"), &named);
    }

    fn subject(&mut self, set: &LightSet) {
        let kind = set.subjects.first().map_or(SubjectKind::HeadLong, |s| s.kind);
        let (half, back) = size_of(kind);
        let round = (0..24).map(|k| (f64::from(k) * 15.0).to_radians().sin_cos());
        let outline: Vec<Vec3> = round
            .map(|(s, c)| match self.view {
                View::Plan => Vec3::new(half[0] * c, 0.0, half[2] * s - back),
                View::Side => Vec3::new(0.0, half[1] * s, half[2] * c - back),
            })
            .collect();
        self.line(Part::Subject, None, &outline, true);
        self.note(&Vec3::zeros(), None, "subject", &[]);
    }

    fn light(&mut self, set: &LightSet, i: usize, l: &LightMeter) {
        let thing = ThingKind::Light.nth(i);
        let (lamp, face) = (Vec3::from(l.position_m), Vec3::from(l.face_m));
        let corners: Vec<Vec3> = l.outline_m.iter().map(|p| Vec3::from(*p)).collect();
        let along = self.view.flat(&face);
        let view = self.view;
        let side = |p: &Vec3| {
            let q = view.flat(p);
            (along[0] * q[1] - along[1] * q[0]).atan2(along[0] * q[0] + along[1] * q[1])
        };
        let first = corners.iter().min_by(|a, b| side(a).total_cmp(&side(b)));
        let last = corners.iter().max_by(|a, b| side(a).total_cmp(&side(b)));
        if let (Some(a), Some(b)) = (first, last) {
            self.line(Part::Cone, Some(thing), &[Vec3::zeros(), *a, *b], true);
        }
        if self.view == View::Side {
            self.line(Part::Drop, Some(thing), &[lamp, Vec3::new(lamp.x, -set.floor_m(), lamp.z)], false);
        }
        self.line(Part::Face, Some(thing), &corners, true);
        if (lamp - face).norm() > 0.05 {
            self.line(Part::Throw, Some(thing), &[lamp, face], false);
        }
        let mut lengths = match self.view {
            View::Plan => vec![(face.x.hypot(face.z), "on the floor".to_owned())],
            View::Side => {
                vec![(face.y + set.floor_m(), "up, face".to_owned()), (l.distance_m, "away".to_owned())]
            }
        };
        if self.view == View::Plan && l.feather_deg > FEATHERED_DEG {
            lengths[0].1 += &format!(", feathered {:.0}°", l.feather_deg);
        }
        let lengths: Vec<(f64, &str)> = lengths.iter().map(|(m, t)| (*m, t.as_str())).collect();
        self.note(&face, Some(thing), &l.name, &lengths);
        self.grip(thing, l.position_m, &l.name);
        // a window does not aim, and a lamp that is bounced aims at what it is bounced from
        let source = set.lights.get(i).filter(|s| !s.source.is_window() && s.bounce.is_none());
        if let Some(s) = source {
            let aim = ThingKind::Aim.nth(i);
            self.line(Part::Aim, Some(aim), &[face, Vec3::from(s.aim_m)], false);
            let off = format!("where the {} points, {:.0}° off the subject", l.name, l.feather_deg);
            self.grip(aim, s.aim_m, &off);
        }
    }

    /// Takes in all but walls and the edges of the frame, which go on for ever.
    fn fit(&mut self, set: &LightSet) {
        let mut all: Vec<[f64; 2]> = vec![[-0.6, -0.6], [0.6, 0.6]];
        all.push(self.view.flat(&Vec3::from(set.camera.position_m)));
        if self.view == View::Side {
            all.push([0.0, set.floor_m()]);
        }
        for l in &self.out.lines {
            if !matches!(l.part, Part::Wall | Part::Frame | Part::Background | Part::Walkway | Part::Aim) {
                all.extend(&l.points);
            }
        }
        let edge = |k: usize, pick: fn(f64, f64) -> f64| all.iter().map(|p| p[k]).reduce(pick).unwrap_or_default();
        self.out.from = [0, 1].map(|k| edge(k, f64::min) - MARGIN_M);
        self.out.to = [0, 1].map(|k| edge(k, f64::max) + MARGIN_M);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::cables::cables;

    fn set() -> LightSet {
        LightSet::from_value(serde_json::json!({"format": "slant-set/1", "outlet_m": [-2.0, 3.0],
            "camera": {"position_m": [0, 0, 2], "exposure": {"f_number": 8, "shutter_s": 0.01, "iso": 100}},
            "walls": [{"position_m": [0, 0, -2.5], "normal": [0, 0, 1], "width_m": 6, "height_m": 4, "colour": [0.5, 0.5, 0.5]},
                      {"position_m": [0, -1.25, 0], "normal": [0, 1, 0], "width_m": 6, "height_m": 6, "colour": [0.5, 0.5, 0.5]}],
            "boards": [{"position_m": [-0.6, 0, 0], "width_m": 0.8, "height_m": 1.2, "finish": "white"}],
            "lights": [{"name": "key", "azimuth_deg": 45, "elevation_deg": 30, "distance_m": 1.6,
                "source": {"kind": "rectangle", "width_m": 0.6, "height_m": 0.6}, "level": {"stops": 0}}]}))
        .expect("a set")
        .set
    }

    fn key(set: &LightSet) -> LightMeter {
        let at = set.lights[0].position();
        let outline = sheet(at.into(), [0.0; 3], 0.6, 0.6).map(|p| [p.x, p.y, p.z]).to_vec();
        serde_json::from_value(serde_json::json!({"name": "key", "role": "key", "off": false, "azimuth_deg": 45.0, "elevation_deg": 30.0,
            "distance_m": 1.6, "angular_size_deg": 20.0, "level_stops": 0.0, "lux_seconds": 1.0, "f_number": 8.0, "nominal": 8.0,
            "notations": {"stops": 0.0, "lux": 1.0, "guide_number_m": 1.0, "joules": 1.0}, "feather_deg": 0.0,
            "position_m": [at.x, at.y, at.z], "face_m": [at.x, at.y, at.z], "outline_m": outline}))
        .expect("a meter")
    }

    fn drawn(view: View) -> Drawing {
        let s = set();
        draw(&s, &[key(&s)], &cables(&s), view)
    }

    fn part(d: &Drawing, part: Part) -> &Line {
        d.lines.iter().find(|l| l.part == part).unwrap_or_else(|| panic!("{part:?}"))
    }

    #[test]
    fn a_sheet_has_its_size_and_looks_at_its_aim() {
        let (at, aim) = ([1.0, 0.5, 2.0], [0.0; 3]);
        let c = sheet(at, aim, 1.2, 0.8);
        assert!(((c[1] - c[0]).norm() - 1.2).abs() < 1e-12 && ((c[2] - c[1]).norm() - 0.8).abs() < 1e-12);
        // its edges lie across the line to the aim
        assert!((c[1] - c[0]).dot(&Vec3::from(at)).abs() < 1e-12 && (c[2] - c[1]).dot(&Vec3::from(at)).abs() < 1e-12);
    }

    #[test]
    fn camera_right_is_right_in_plan_and_the_camera_is_below_and_left_from_the_side() {
        let (plan, side) = (drawn(View::Plan), drawn(View::Side));
        let lens = |d: &Drawing| d.grips.iter().find(|g| g.thing.what == ThingKind::Lens).expect("the lens").at;
        assert_eq!(lens(&plan), [0.0, 2.0]);
        assert_eq!(lens(&side), [-2.0, 0.0]);
        let lamp = |d: &Drawing| d.grips.iter().find(|g| g.thing.what == ThingKind::Light).expect("a lamp").at;
        // 45 degrees right, 30 up, 1.6 m: x = z = 1.6 cos 30 sin 45, y = 1.6 sin 30
        let [x, y] = lamp(&plan);
        assert!((x - 0.9798).abs() < 1e-4 && (y - 0.9798).abs() < 1e-4);
        let [x, y] = lamp(&side);
        assert!((x + 0.9798).abs() < 1e-4 && (y + 0.8).abs() < 1e-9);
    }

    #[test]
    fn the_cone_holds_the_whole_face_as_seen_from_the_subject() {
        for view in [View::Plan, View::Side] {
            let d = drawn(view);
            let cone = &part(&d, Part::Cone).points;
            let cross = |a: &[f64; 2], b: &[f64; 2]| a[0] * b[1] - a[1] * b[0];
            for p in &part(&d, Part::Face).points {
                assert!(cross(&cone[1], p) >= -1e-9 && cross(p, &cone[2]) >= -1e-9, "{view:?} {p:?} {cone:?}");
            }
        }
    }

    #[test]
    fn all_that_can_be_pulled_lies_within_and_lamps_stand_on_the_floor() {
        for view in [View::Plan, View::Side] {
            let d = drawn(view);
            for g in &d.grips {
                assert!((0..2).all(|k| g.at[k] > d.from[k] && g.at[k] < d.to[k]), "{view:?} {g:?}");
                assert_eq!(view.flat(&Vec3::from(g.place_m)), g.at);
            }
        }
        let drop = part(&drawn(View::Side), Part::Drop).points.clone();
        assert!((drop[1][1] - 1.25).abs() < 1e-9, "the floor is 1.25 m under the subject");
    }

    #[test]
    fn the_edges_of_the_frame_open_by_the_lens() {
        let s = set();
        let d = drawn(View::Side);
        let edges: Vec<&Line> = d.lines.iter().filter(|l| l.part == Part::Frame).collect();
        let turn = |l: &Line| (l.points[1][1] - l.points[0][1]).atan2(l.points[1][0] - l.points[0][0]);
        let open = (turn(edges[1]) - turn(edges[0])).to_degrees();
        assert!((open - s.camera.vfov_deg()).abs() < 1e-6, "{open}");
    }

    #[test]
    fn notes_tell_lengths_in_both_units() {
        let d = drawn(View::Plan);
        let of = |what: ThingKind| d.notes.iter().find(|n| n.of.is_some_and(|t| t.what == what)).expect("a note");
        assert_eq!(of(ThingKind::Light).text(Lengths::Metres), "key 1.39 m on the floor");
        assert_eq!(of(ThingKind::Board).text(Lengths::Metres), "white board 0.80 m × 1.20 m");
        // 0.3048 m a foot: 1.386 m are 4 ft 6.6 in
        assert_eq!(of(ThingKind::Light).text(Lengths::Feet), "key 4 ft 7 in on the floor");
        assert!(of(ThingKind::Outlet).text(Lengths::Metres).starts_with("outlet; key "));
    }
}
