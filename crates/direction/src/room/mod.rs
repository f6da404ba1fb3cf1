//! Light as it comes from a whole room: a mirror ball shows where, a matte ball how much.
//!
//! A mirror ball is a picture of all around it. Unwrapped it is a light map, but what is white in it may be many times
//! brighter, and a cone behind the ball is hidden; the shading of a matte ball in the same light tells both (`gains.rs`).
//! Lights are then regions of the map by the irradiance they give (`sources.rs`), and where none of them leads the mean
//! light is the answer: where it comes from, and how directional it is.

mod gains;
mod sources;

use super::Seen;
use super::ball_matte::Shades;
use gains::{Matte, Whole};
use optics::geometry::{Camera, Vec3, angle_between};
use optics::light_map::LightMap;
use optics::photo::Photo;
use optics::solve::median;
use optics::unwrap::unwrap;

/// A mirror ball's outline.
#[derive(Debug, Clone, Copy)]
pub struct Outline {
    /// Centre, pixels.
    pub centre: [f64; 2],
    /// Radius, pixels.
    pub radius: f64,
    /// Standard deviation of its points, pixels.
    pub sd_px: f64,
    /// As it was marked: centre and radius, pixels.
    pub marked: ([f64; 2], f64),
}

/// A room's light.
#[derive(Debug, Clone)]
pub struct Room {
    /// Its lights, that which gives most first; `log_level` is of the irradiance facing it.
    pub lights: Vec<Seen>,
    /// Whether the first leads.
    pub leads: bool,
    /// Part of the irradiance on a surface facing the first that is its own, with its standard deviation.
    pub share: (f64, f64),
    /// Natural log of the irradiance from the rest, mean of all around.
    pub log_rest: f64,
    /// The mean light: its direction times how directional it is.
    pub mean: Vec3,
    /// Standard deviation of its direction, radians.
    pub mean_sd: f64,
    /// Standard deviation of how directional it is.
    pub directional_sd: f64,
    /// Part of the light that was inferred: clipped or hidden.
    pub inferred: f64,
    /// Misfit of the matte ball's shading, of its brightest part.
    pub left_over: Option<f64>,
    /// The map, made whole.
    pub map: LightMap,
}

/// Rows of a map: cells of a degree; and of one made to settle the outline, with one in so many shades.
const ROWS: usize = 180;
const FEW_ROWS: usize = 90;
const FEW_SHADES: usize = 3;
/// How far off a ball is marked, pixels of a picture 640 wide; and steps in which its outline is settled.
const MARKED: f64 = 0.8;
const STEPS: [f64; 4] = [0.8, 0.5, 0.3, 0.2];
/// A key leads that gives at least this part of the light on a surface facing it, and is not equalled by another.
pub(crate) const LEADING: f64 = 0.33;
const EQUALLED: f64 = 0.8;
/// Least spread of a direction, radians, and part of a light's size that it may lie off by.
const LEAST_SD: f64 = 0.0175;
const OF_SIZE: f64 = 1.0 / 6.0;
/// The same of the direction of the mean light, radians.
const MEAN_SD: f64 = 0.05;
/// Least spread of how directional the light is.
const DIRECTIONAL_SD: f64 = 0.02;
/// Matte balls looked at; and how far two balls must stand apart, of their radii: nearer, one of them is none.
const MOST_MATTE: usize = 4;
const OVERLAP: f64 = 0.9;
/// A matte ball that a map leaves more of, of its bright side, is lit by something else, or one of the two is no ball.
const UNEXPLAINED: f64 = 0.05;
/// The most that a level is unsure by, natural log.
const MOST_LEVEL_SD: f64 = 1.5;
/// Part of the light from which what is neither lights nor even ground is a room.
const A_ROOM: f64 = 0.012;
/// The same, and the part that the lights give of what falls on a surface facing the first, from which dark walls are meant all
/// the same.
const A_LIT_ROOM: f64 = 0.028;
const NEARLY_ALL: f64 = 0.97;
/// Half of what a lamp fills at most, radians: what is wider is a wall or the sky.
const A_LAMP: f64 = 0.7;
/// A ball beside the mirror hides a little more than its own width: the mirror is not a point.
const HIDES: f64 = 1.15;
/// Beside a light, radians: its own edge and glare.
const BESIDE: f64 = 0.14;
/// What an error of the albedo comes to: the light that is inferred may be more or less by this much.
const LEVEL_SD: f64 = 0.25;

/// Reads a room from a mirror ball, with matte balls in the same light if there are any. `lights` are what bright spots
/// alone say: direction and half of what each fills, radians. `None` if they and an even ground are all that is mirrored (a
/// studio of dark walls), or if a matte ball is shaded by something else. `quick` is for a ball that is being dragged: its
/// outline is taken as it is, and cells are coarser.
pub fn read(
    photo: &Photo,
    camera: &Camera,
    ball: Outline,
    matte: &[Shades],
    lights: &[(Vec3, f64)],
    quick: bool,
) -> Option<Room> {
    // balls stand side by side, as far from the lens
    let apart = |m: &Shades| Vec3::new(m.centre[0] - ball.centre[0], ball.centre[1] - m.centre[1], 0.0);
    let mut matte: Vec<&Shades> =
        matte.iter().filter(|m| apart(m).norm() > OVERLAP * (m.radius + ball.radius)).collect();
    matte.sort_by(|a, b| b.radius.total_cmp(&a.radius));
    matte.truncate(MOST_MATTE);
    let hides = |m: &Shades| (apart(m).normalize(), (HIDES * m.radius / apart(m).norm()).min(1.0).asin());
    let beside: Vec<(Vec3, f64)> = matte.iter().map(|m| hides(m)).collect();
    let mattes: Vec<Matte> =
        matte.iter().map(|m| Matte { shades: m, mirror: (-apart(m) / m.radius, ball.radius / m.radius) }).collect();
    let made = |o: &[f64; 3], rows: usize, every: usize| {
        gains::whole(&unwrap(photo, camera, ([o[0], o[1]], o[2]), &beside, rows), &mattes, every)
    };
    let refined = [ball.centre[0], ball.centre[1], ball.radius];
    if is_dark(&made(&refined, FEW_ROWS, FEW_SHADES), lights) {
        return None;
    }
    let marked = [ball.marked.0[0], ball.marked.0[1], ball.marked.1];
    let outline = if mattes.is_empty() || quick {
        refined
    } else {
        // before a bright room the outline cannot be seen, and the shading knows it better
        let size = f64::from(photo.width().max(photo.height()));
        let careful = MARKED * (size / 640.0).max(0.5);
        settled(marked, refined, |o| {
            let off: f64 = (0..3).map(|k| ((o[k] - marked[k]) / careful).powi(2)).sum();
            made(o, FEW_ROWS, FEW_SHADES).cost + off
        })
    };
    let rows = if quick { FEW_ROWS } else { ROWS };
    let at = |dx: f64, dy: f64, dr: f64| made(&[outline[0] + dx, outline[1] + dy, outline[2] + dr], rows, 1);
    let whole = at(0.0, 0.0, 0.0);
    if whole.left_over.is_some_and(|l| l > UNEXPLAINED) {
        return None;
    }
    // without shading the outline is not settled: what another would have said
    let d = if mattes.is_empty() { ball.sd_px.max(0.35) } else { 0.0 };
    let others: Vec<Whole> = [(d, 0.0, 0.0), (0.0, d, 0.0), (0.0, 0.0, d)]
        .iter()
        .filter(|_| d > 0.0)
        .map(|(x, y, r)| at(*x, *y, *r))
        .collect();
    Some(told(whole, &others))
}

/// Whether lamps and an even ground are all there is, or lamps give nearly all of it before walls that give a little: the
/// balls' own methods are finer.
fn is_dark(whole: &Whole, lights: &[(Vec3, f64)]) -> bool {
    let besides = besides(&whole.map, lights);
    if besides > A_LIT_ROOM {
        return false;
    }
    let found = sources::sources(whole).0;
    let lamps = found.first().map_or(1.0, |key| {
        let all: f64 = found.iter().map(|s| s.light * s.direction.dot(&key.direction).max(0.0)).sum();
        all / whole.map.irradiance(&key.direction).max(1e-12)
    });
    besides < A_ROOM || lamps > NEARLY_ALL
}

/// What a map says; `others` are those of other outlines.
fn told(whole: Whole, others: &[Whole]) -> Room {
    let (found, rest) = sources::sources(&whole);
    let (mean, all) = whole.map.mean();
    let elsewhere: Vec<_> = others.iter().map(|o| sources::sources(o).0).collect();
    let seen = |s: &sources::Source| {
        let nearest = |o: &Vec<sources::Source>| {
            o.iter().map(|t| angle_between(&t.direction, &s.direction)).fold(0.35, f64::min).powi(2)
        };
        let moved: f64 = elsewhere.iter().map(nearest).sum();
        // a clipped part may be as small as its core
        let least = (2.0 * s.gain.max(1.0).sqrt()).min(12.0);
        let (high, low) = (1.4f64.ln(), least.ln());
        Seen {
            direction: s.direction,
            direction_sd: (moved + s.direction_sd.powi(2) + LEAST_SD.powi(2) + (OF_SIZE * s.size).powi(2)).sqrt(),
            log_size: Some((s.size.ln() - 0.5 * (low - high), 0.5 * (low + high))),
            log_level: Some((s.facing.ln(), level_sd(s))),
            rgb: (s.gain < 1.3).then_some(s.rgb),
        }
    };
    let lights: Vec<Seen> = found.iter().map(seen).collect();
    let share = found.first().map_or(0.0, |f| f.facing / whole.map.irradiance(&f.direction).max(1e-12));
    // the next may be as strong, by what is not known of it
    let unsure = |s: &sources::Source| s.facing * (1.0 + 0.5 * s.light_sd / s.light);
    let second = found.get(1).map_or(0.0, unsure) / found.first().map_or(1.0, |f| f.facing);
    let turned: f64 = others.iter().map(|o| angle_between(&o.map.mean().0, &mean).powi(2)).sum();
    let longer: f64 = others.iter().map(|o| (o.map.mean().0.norm() - mean.norm()).powi(2)).sum();
    let open = sources::left_open(&whole, 0..whole.map.len());
    Room {
        lights,
        leads: share > LEADING && second < EQUALLED,
        share: (share, found.first().map_or(0.0, |f| share * (1.0 - share) * level_sd(f))),
        log_rest: (rest / 4.0).max(1e-12).ln(),
        mean,
        mean_sd: (turned + open.direction + MEAN_SD.powi(2)).sqrt(),
        directional_sd: (longer + open.directional + DIRECTIONAL_SD.powi(2)).sqrt(),
        inferred: 1.0 - whole.shown / all.max(1e-12),
        left_over: whole.left_over,
        map: whole.map,
    }
}

/// Standard deviation of the natural log of a light's level.
fn level_sd(s: &sources::Source) -> f64 {
    LEVEL_SD.hypot(s.light_sd / s.light).min(MOST_LEVEL_SD)
}

/// The outline that costs least, from the better of two, pixels.
fn settled(marked: [f64; 3], refined: [f64; 3], cost: impl Fn(&[f64; 3]) -> f64) -> [f64; 3] {
    let mut best = (marked, cost(&marked));
    if refined != marked {
        let c = cost(&refined);
        if c < best.1 {
            best = (refined, c);
        }
    }
    for step in STEPS {
        for k in 0..3 {
            for side in [step, -step] {
                let mut o = best.0;
                o[k] += side;
                let c = cost(&o);
                if c < best.1 {
                    best = (o, c);
                    break;
                }
            }
        }
    }
    best.0
}

/// Part of the light that is neither one of the given lights nor evenly around: what a studio of dark walls does not have.
fn besides(map: &LightMap, lights: &[(Vec3, f64)]) -> f64 {
    let lights: Vec<(Vec3, f64)> =
        lights.iter().filter(|l| l.1 < A_LAMP).map(|(l, half)| (*l, (1.5 * half + BESIDE).cos())).collect();
    let near = |d: &Vec3| lights.iter().any(|(l, cos)| d.dot(l) > *cos);
    let mut rest: Vec<(f64, f64)> = Vec::new();
    let mut all = 0.0;
    for (i, (d, l)) in map.light().enumerate() {
        all += l;
        if !near(&d) {
            rest.push((map.luminance(i), l));
        }
    }
    let even = median(&mut rest.iter().map(|r| r.0).collect::<Vec<_>>());
    let over = rest.iter().filter(|r| r.0 > even).map(|(v, l)| l * (1.0 - even / v)).sum::<f64>();
    over / all.max(1e-12)
}
