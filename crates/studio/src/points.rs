//! Where a meter is held in a set, and what it shows there: forehead, cheeks, chest, hair and shoulders of people, sides of
//! things, the background. What boards and walls hand on is in all of it.

use crate::level::Levels;
use crate::marks::in_set;
use crate::math::turn_of;
use crate::probe::Probe;
use crate::scene::Scene;
use lightset::meter::{BackgroundMeter, BoardMeter, PointLight, PointMeter, SET_SD_STOPS};
use lightset::set::{LightSet, Subject, SubjectKind};
use optics::exposure::nominal_f_number;
use optics::geometry::Vec3;
use optics::units::FNumber;
use rayon::prelude::*;

/// A place to hold a meter.
struct Spot {
    name: String,
    at: Vec3,
    facing: Vec3,
}

/// Places on a head of life size, its own frame, metres, and where a meter there looks: three centimetres off the skin.
const HEAD: [(&str, [f64; 3], [f64; 3]); 7] = [
    ("forehead", [0.0, 0.050, 0.030], [0.0, 0.15, 1.0]),
    ("left cheek", [-0.062, -0.042, 0.012], [-0.65, 0.0, 0.75]),
    ("right cheek", [0.062, -0.042, 0.012], [0.65, 0.0, 0.75]),
    ("chest", [0.0, -0.280, 0.040], [0.0, 0.15, 1.0]),
    ("hair", [0.0, 0.165, -0.120], [0.0, 0.8, -0.6]),
    ("left shoulder", [-0.170, -0.140, -0.118], [-0.3, 1.0, 0.0]),
    ("right shoulder", [0.170, -0.140, -0.118], [0.3, 1.0, 0.0]),
];
/// Carved heads are larger than life.
const CARVED: f64 = 1.15;
/// People and things that are metered.
const MOST_SUBJECTS: usize = 3;
/// Boards whose lift is told.
const MOST_BOARDS: usize = 4;
/// How far before a wall a meter is held, metres.
const OFF_WALL: f64 = 0.02;
/// One standard deviation between two places, stops.
const BETWEEN_SD: f64 = SET_SD_STOPS * std::f64::consts::SQRT_2;
/// Stops of no light at all.
const DARK: f64 = -30.0;

fn on_head(s: &Subject, prefix: &str) -> Vec<Spot> {
    let size = if s.kind == SubjectKind::Person { 1.0 } else { CARVED };
    let turn = turn_of(s.yaw_deg, s.pitch_deg, s.roll_deg).cast::<f64>();
    let spot = |(name, own, look): &(&str, [f64; 3], [f64; 3])| Spot {
        name: format!("{prefix}{name}"),
        at: in_set(s, own.map(|v| v * size)).into(),
        facing: (turn * Vec3::from(*look)).normalize(),
    };
    HEAD.iter().map(spot).collect()
}

/// Before, beside and over a thing, as the lens sees it.
fn on_thing(s: &Subject, lens: &Vec3, prefix: &str) -> Vec<Spot> {
    let at = Vec3::from(s.position_m);
    let ahead = (lens - at).try_normalize(1e-9).unwrap_or_else(Vec3::z);
    let aside = Vec3::y().cross(&ahead).try_normalize(1e-9).unwrap_or_else(Vec3::x);
    let off = s.clearance_m() + 0.03;
    let spot = |name: &str, d: Vec3| Spot { name: format!("{prefix}{name}"), at: at + d * off, facing: d };
    vec![spot("front", ahead), spot("left side", -aside), spot("right side", aside), spot("top", Vec3::y())]
}

/// The wall behind the subject where the frame's middle and its sides meet it.
fn on_background(set: &LightSet) -> Vec<Spot> {
    let lens = Vec3::from(set.camera.position_m);
    let ahead = (Vec3::from(set.camera.aim_m) - lens).normalize();
    let aside = ahead.cross(&Vec3::y()).try_normalize(1e-9).unwrap_or_else(Vec3::x);
    let aspect = f64::from(set.picture.width) / f64::from(set.picture.height);
    let half = (set.camera.vfov_deg() / 2.0).to_radians().tan() * aspect;
    let names = [("background", 0.0), ("background left", -0.8), ("background right", 0.8)];
    let ray = |(name, part): (&str, f64)| {
        let d = (ahead + aside * (half * part)).normalize();
        let met = set.walls.iter().filter_map(|w| {
            let n = Vec3::from(w.normal).normalize();
            let toward = d.dot(&n);
            let to = (Vec3::from(w.position_m) - lens).dot(&n) / toward;
            let p = lens + d * to;
            let (u, v) = optics::geometry::upright(&n);
            let q = p - Vec3::from(w.position_m);
            let inside = q.dot(&u).abs() < w.width_m / 2.0 && q.dot(&v).abs() < w.height_m / 2.0;
            (toward < -0.05 && to > lens.norm() && inside).then_some((to, p + n * OFF_WALL, n))
        });
        let (_, at, facing) = met.min_by(|a, b| a.0.total_cmp(&b.0))?;
        Some(Spot { name: name.into(), at, facing })
    };
    names.into_iter().filter_map(ray).collect()
}

fn spots(set: &LightSet) -> Vec<Spot> {
    let lens = Vec3::from(set.camera.position_m);
    let metered = set.subjects.iter().filter(|s| s.kind != SubjectKind::Drape);
    let all: Vec<&Subject> = metered.take(MOST_SUBJECTS).collect();
    let mut out = Vec::new();
    for (i, s) in all.iter().enumerate() {
        let prefix = if all.len() == 1 { String::new() } else { format!("{}: ", i + 1) };
        out.extend(if s.kind.is_head() { on_head(s, &prefix) } else { on_thing(s, &lens, &prefix) });
    }
    out.extend(on_background(set));
    out
}

/// What a set's picture shows somewhere.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Seen {
    /// The place, metres, set frame.
    pub at_m: Vec3,
    /// Where its surface looks.
    pub facing: Vec3,
    /// It is a subject's; a wall's or a board's otherwise.
    pub subject: bool,
}

/// What the picture of a set shows at places of it, pixels; nothing in the open, or on glass and mirrors.
pub fn seen_at(set: &LightSet, at: &[[f64; 2]]) -> Vec<Option<Seen>> {
    let scene = Scene::new(set);
    let one = |p: &[f64; 2]| {
        let (at, n, subject) = scene.shown(p[0] as f32, p[1] as f32)?;
        Some(Seen { at_m: at.cast(), facing: n.cast(), subject })
    };
    at.iter().map(one).collect()
}

/// Where the background is held against the subject: at its front, and at the background's middle; each with where it looks.
pub(crate) fn front_and_background(set: &LightSet) -> (Option<(Vec3, Vec3)>, Option<(Vec3, Vec3)>) {
    let all = spots(set);
    let find = |is: &dyn Fn(&str) -> bool| all.iter().find(|s| is(&s.name)).map(|s| (s.at, s.facing));
    (find(&is_front), find(&|n| n == MIDDLE))
}

/// The place on a subject that the background is held against.
fn is_front(name: &str) -> bool {
    ["forehead", "front"].iter().any(|n| name.ends_with(n))
}

/// The middle of the background.
const MIDDLE: &str = "background";

pub(crate) fn stops(e: f64) -> f64 {
    if e > 1e-9 { (e.log2() * 100.0).round() / 100.0 } else { DARK }
}

/// Meters the places of a set.
pub(crate) fn points(set: &LightSet, room: &Probe, levels: &Levels) -> Vec<PointMeter> {
    let f = set.camera.exposure.f_number;
    let meter = |s: &Spot| {
        if !room.is_free(&s.at, &s.facing) {
            return None;
        }
        let (flat, dome) = (room.flat(&s.at, &s.facing), room.dome(&s.at, &s.facing));
        let (e, all) = (levels.together(&flat), levels.together(&dome));
        let lights = set.lights.iter().zip(flat.lamps.iter().zip(&levels.lamps)).filter(|(l, _)| !l.off);
        Some(PointMeter {
            name: s.name.clone(),
            at_m: s.at.into(),
            facing: s.facing.into(),
            flat_stops: stops(e),
            dome_stops: stops(all),
            f_number: f * e.max(1e-9).sqrt(),
            nominal: nominal_f_number(FNumber((f * e.sqrt()).max(0.01))),
            lights: lights.map(|(l, (e, k))| PointLight { name: l.name.clone(), stops: stops(e * k) }).collect(),
            ambient_stops: set.ambient.as_ref().map(|_| stops(flat.ambient * levels.ambient)),
        })
    };
    spots(set).par_iter().filter_map(meter).collect()
}

/// The background against the forehead, or against the front of a thing: how far under it, and how even across the frame.
pub(crate) fn background(points: &[PointMeter]) -> Option<BackgroundMeter> {
    let lit = |p: &&PointMeter| p.flat_stops > DARK;
    let subject = points.iter().filter(lit).find(|p| is_front(&p.name))?;
    let behind: Vec<&PointMeter> = points.iter().filter(lit).filter(|p| p.name.starts_with("background")).collect();
    let under_stops = subject.flat_stops - behind.iter().find(|p| p.name == MIDDLE)?.flat_stops;
    let all = behind.iter().map(|p| p.flat_stops);
    let uneven_stops = all.clone().fold(f64::MIN, f64::max) - all.fold(f64::MAX, f64::min);
    let side = if under_stops < 0.0 { "over" } else { "under" };
    let even = if uneven_stops < 2.0 * BETWEEN_SD {
        "even across the frame".to_owned()
    } else {
        format!("uneven by {uneven_stops:.1} across the frame")
    };
    let says =
        format!("The background is {:.1} ± {BETWEEN_SD:.1} stops {side} the subject, {even}.", under_stops.abs());
    Some(BackgroundMeter { under_stops, uneven_stops, says })
}

/// What each board lifts: the place on the first subject's darker side.
pub(crate) fn lifts(set: &LightSet, points: &[PointMeter], levels: &Levels) -> Vec<BoardMeter> {
    let sides = ["left cheek", "right cheek", "left side", "right side"];
    let side = |p: &&PointMeter| sides.iter().any(|s| p.name.ends_with(s));
    let Some(dark) = points.iter().filter(side).min_by(|a, b| a.flat_stops.total_cmp(&b.flat_stops)) else {
        return Vec::new();
    };
    let without = |i: usize| {
        let mut bare = set.clone();
        bare.boards.remove(i);
        let room = Probe::of(&bare);
        let e = levels.together(&room.flat(&dark.at_m.into(), &dark.facing.into()));
        let lift_stops = dark.flat_stops - stops(e);
        let says = match lift_stops {
            l if l.abs() < BETWEEN_SD => format!("It changes nothing at the {}.", dark.name),
            l if l > 0.0 => format!("It lifts the {} by {l:.1} ± {BETWEEN_SD:.1} stops.", dark.name),
            l => format!("It darkens the {} by {:.1} ± {BETWEEN_SD:.1} stops.", dark.name, -l),
        };
        BoardMeter { board: i, place: dark.name.clone(), lift_stops, says }
    };
    (0..set.boards.len().min(MOST_BOARDS)).into_par_iter().map(without).collect()
}
