//! The one change to a set that brings a take nearest its reference, in the person's own kit.
//!
//! A comparison says how far each reading of the take is from the reference's, in units of what can be told. For
//! each thing that can be turned or moved the studio says what it does to all of them (its Jacobian, by finite
//! steps through the lamps' faces); the change that takes most away comes first.

use crate::changes::changes;
use crate::foretell::foretell;
use crate::handling::{elsewhere, exposed, powered, room_by};
use judging::compare::{Comparison, LightDifference, SEEN_DEG, SEEN_MIRED, SEEN_STOPS};
use judging::takes::{Change, Expected, differences_of, moved_words};
use judging::terms::{Aspect, MoveKind, Term, Unit};
use lightset::kit::Kit;
use lightset::set::{Board, BoardFinish, Level, LightSet, SetLight, Source};
use optics::geometry::{AzEl, Vec3, angle_between, angular_size_of_solid_angle, wrapped_deg};
use optics::words::place_words;
use optics::words::{Lengths, length, stops_words};
use serde::Serialize;
use studio::lamp;
use utoipa::ToSchema;

/// Differences under this and what the comparison has (`SEEN_...`) are not seen (common practice): they blunt what is
/// counted. A size matters sooner than in the comparison: half a tenth of it is a hand on the stand.
const SEEN_LN_SIZE: f64 = 0.06;
/// What remains is smaller than what can be measured if nothing is over this many standard deviations.
const SURE: f64 = 2.0;
/// A change that takes away less than this share is not worth making.
const WORTH: f64 = 0.08;
/// Nor one that takes away less than this where there is no better one.
const LEAST: f64 = 0.005;
/// A move of two things at once is a little worse than one that does as much.
const TWO: f64 = 0.03;
/// So is carrying a stand: share a metre.
const CARRY: f64 = 0.05;
/// A lamp is not turned farther than this in one go, stops.
const TURN_STOPS: f64 = 3.0;
/// A lamp within this of a light that only the reference shows is that light, radians.
const UNSEEN: f64 = 1.0;
/// How near a board is brought: shares of its distance, or metres for one that is put there.
const BOARD_NEARER: [f64; 4] = [0.85, 0.7, 0.6, 0.5];
const BOARD_AT_M: [f64; 4] = [1.4, 1.1, 0.8, 0.55];
/// Nearest and farthest a lamp is put, metres.
const REACH_M: [f64; 2] = [0.3, 6.0];
/// Nor nearer or farther than this in one go, log of the ratio.
const FARTHER: f64 = 0.65;

/// A change to make to the set.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct SetMove {
    /// What it is, the same for the same changes of the same set: to make it is to name it.
    pub id: String,
    /// In one sentence.
    pub says: String,
    /// The changes it is made of.
    pub changes: Vec<Change>,
    /// Share of all that surely differs which it takes away.
    pub gain: f64,
    /// The set after it.
    pub set: LightSet,
    /// Differences from the reference to expect then.
    pub expected: Vec<Expected>,
}

/// One thing that differs: a line of the ledger with its weight.
#[derive(Debug, Clone)]
struct Off {
    what: Term,
    unit: Unit,
    /// Difference take minus reference; sizes as logarithms.
    value: f64,
    sd: f64,
}

impl Off {
    fn units(&self) -> f64 {
        self.value / self.sd
    }
}

/// What a set gives of one light, as the ledger counts it.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Gives {
    pub at: AzEl,
    /// Logarithm of its angle in radians.
    pub ln_size: f64,
    pub stops: f64,
    pub mired: f64,
}

pub(crate) fn gives(l: &SetLight, set: &LightSet) -> Gives {
    let ready = lamp(l);
    let (flux, omega) = ready.irradiance_at(&Vec3::zeros());
    let toward = flux.cast::<f64>();
    let at = AzEl::of(&if toward.norm() > 1e-9 { toward } else { l.position() });
    let relative = studio::relative_exposure(l, &set.camera.exposure).unwrap_or(1e-9);
    Gives {
        at,
        ln_size: angular_size_of_solid_angle(omega).max(1e-4).ln(),
        stops: if l.off { -12.0 } else { relative.max(1e-9).log2() },
        mired: l.gel_mired,
    }
}

/// Round a step of the hand: tenths of a stop.
fn tenth(v: f64) -> f64 {
    (v * 10.0).round() / 10.0
}

/// The state that moves are judged on: what differs, and which light of the set each difference belongs to.
#[derive(Debug, Clone, Default)]
struct State {
    off: Vec<Off>,
    /// Per light of the set: its rows of round, up, size, level, colour in `off`.
    rows: Vec<[Option<usize>; 5]>,
    room: Option<usize>,
    /// Rows of light per light of the reading, as exposure moves them all.
    levels: Vec<usize>,
}

fn state(set: &LightSet, c: &Comparison) -> State {
    let mut s = State { rows: vec![[None; 5]; set.lights.len()], ..State::default() };
    let Ok(meter) = studio::meter(set) else { return s };
    let exposure = c.d_exposure_stops.unwrap_or(0.0);
    for (k, j) in differences_of(set, &meter, c).into_iter().enumerate() {
        if let Some(j) = j {
            s.light(k, &c.lights[j], exposure);
            let what = Term::of(&c.lights[j].role, Aspect::Colour);
            if let Some(l) = c.ledger.iter().find(|l| l.what == what) {
                s.rows[k][4] = Some(s.push(what, Unit::Mired, l.difference, l.sd.hypot(SEEN_MIRED)));
            }
        }
    }
    if let Some(l) = c.ledger.iter().find(|l| l.what == Term::Room) {
        let row = s.push(Term::Room, Unit::Stops, l.difference + exposure, l.sd.hypot(0.2));
        s.room = Some(row);
        s.levels.push(row);
    }
    s
}

impl State {
    fn push(&mut self, what: Term, unit: Unit, value: f64, sd: f64) -> usize {
        self.off.push(Off { what, unit, value, sd });
        self.off.len() - 1
    }

    /// What differs of the light `k` of the set.
    fn light(&mut self, k: usize, d: &LightDifference, exposure: f64) {
        let (Some(az), Some(el), Some(at)) = (d.d_azimuth_deg, d.d_elevation_deg, d.take_at()) else { return };
        let sd = d.direction_sd_deg.hypot(SEEN_DEG);
        let cos = at.elevation_deg.to_radians().cos().max(0.2);
        let name = |aspect: Aspect| Term::of(&d.role, aspect);
        self.rows[k][0] = Some(self.push(name(Aspect::Round), Unit::Degrees, az, sd / cos));
        self.rows[k][1] = Some(self.push(name(Aspect::Up), Unit::Degrees, el, sd));
        if let (Some(ratio), Some(s)) = (d.d_angular_size_ratio, d.size_sd) {
            self.rows[k][2] = Some(self.push(name(Aspect::Size), Unit::Times, ratio.ln(), s.hypot(SEEN_LN_SIZE)));
        }
        if let (Some(l), Some(s)) = (d.d_level_stops, d.level_sd_stops) {
            let row = self.push(name(Aspect::Level), Unit::Stops, l + exposure, s.hypot(SEEN_STOPS));
            self.rows[k][3] = Some(row);
            self.levels.push(row);
        }
    }

    /// What differs after a change of one light.
    fn with_light(&self, k: usize, before: &Gives, after: &Gives) -> Vec<Off> {
        let mut out = self.off.clone();
        let [round, up, size, level, colour] = self.rows[k];
        let mut add = |row: Option<usize>, d: f64| {
            if let Some(i) = row {
                out[i].value += d;
            }
        };
        add(round, wrapped_deg(after.at.azimuth_deg - before.at.azimuth_deg));
        add(up, after.at.elevation_deg - before.at.elevation_deg);
        add(size, after.ln_size - before.ln_size);
        add(level, after.stops - before.stops);
        add(colour, after.mired - before.mired);
        out
    }

    fn with_exposure(&self, stops: f64) -> Vec<Off> {
        let mut out = self.off.clone();
        for i in &self.levels {
            out[*i].value += stops;
        }
        out
    }
}

fn square(off: &[Off]) -> f64 {
    off.iter().map(|o| o.units().powi(2)).sum()
}

/// Levels in the ledger have the exposure taken out; what is expected says both.
fn expectations(c: &Comparison, before: &State, after: &[Off]) -> Vec<Expected> {
    let mut out = Vec::new();
    let exposure = c.d_exposure_stops.unwrap_or(0.0);
    // what all levels have in common after the change
    let shifts: Vec<f64> = before.levels.iter().map(|i| after[*i].value - before.off[*i].value).collect();
    let common = if shifts.len() > 1 && shifts.iter().all(|s| (s - shifts[0]).abs() < 0.02) { shifts[0] } else { 0.0 };
    if c.d_exposure_stops.is_some() {
        out.push(Expected { what: Term::Exposure, value: exposure + common, unit: Unit::Stops });
    }
    for o in after {
        let value = match o.unit {
            Unit::Times => o.value.exp(),
            Unit::Stops => o.value - exposure - common,
            Unit::Degrees | Unit::Mired => o.value,
        };
        out.push(Expected { what: o.what.clone(), value, unit: o.unit });
    }
    out
}

/// Minimum of a function on an interval: a coarse look, then golden section (Kiefer 1953).
fn least(lo: f64, hi: f64, f: impl Fn(f64) -> f64) -> f64 {
    const COARSE: usize = 24;
    let at = |k: usize| lo + (hi - lo) * k as f64 / COARSE as f64;
    let best = (0..=COARSE).min_by(|a, b| f(at(*a)).total_cmp(&f(at(*b)))).unwrap_or(0);
    let (mut a, mut b) = (at(best.saturating_sub(1)), at((best + 1).min(COARSE)));
    let g = (5f64.sqrt() - 1.0) / 2.0;
    for _ in 0..24 {
        let (x, y) = (b - g * (b - a), a + g * (b - a));
        if f(x) < f(y) { b = y } else { a = x }
    }
    (a + b) / 2.0
}

/// A change with what is left after it.
struct Choice {
    says: String,
    set: LightSet,
    off: Vec<Off>,
    price: f64,
    /// It brings or takes away a light that only one of the two pictures has.
    settles: bool,
}

fn with(set: &LightSet, k: usize, l: SetLight) -> LightSet {
    let mut out = set.clone();
    out.lights[k] = l;
    out
}

/// What could be done with one light.
fn light_options(set: &LightSet, s: &State, k: usize, kit: &Kit, unit: Lengths, out: &mut Vec<Choice>) {
    let l = &set.lights[k];
    let [round, up, size, level, colour] = s.rows[k];
    let (Some(round), Some(up)) = (round, up) else { return };
    let now = gives(l, set);
    let floor = set.floor_m();
    let fixed = l.bounce.is_some() || l.source.is_window();
    let mut push = |says: String, l: SetLight, price: f64| {
        let off = s.with_light(k, &now, &gives(&l, set));
        out.push(Choice { says, set: with(set, k, l), off, price, settles: false });
    };
    if let Some(level) = level {
        let stops = tenth(-s.off[level].value.clamp(-2.0 * TURN_STOPS, 2.0 * TURN_STOPS));
        if stops != 0.0 && !l.source.is_window() {
            let after = powered(l, stops);
            let told = match (&l.level, &after.level) {
                (Level::Guide { power: Some(a), .. }, Level::Guide { power: Some(b), .. })
                | (Level::Joules { power: Some(a), .. }, Level::Joules { power: Some(b), .. }) => {
                    format!(" ({a} to {b})")
                }
                _ => String::new(),
            };
            push(format!("Power of the {} {}{told}.", l.name, stops_words(stops)), after, 0.0);
        }
    }
    // filters come in steps of about five mired
    if let Some(mired) = colour.map(|i| (-s.off[i].value / 5.0).round() * 5.0).filter(|m| *m != 0.0) {
        let says = format!("Put a filter of {mired:+.0} mired on the {}.", l.name).replace('-', "\u{2212}");
        push(says, SetLight { gel_mired: l.gel_mired + mired, ..l.clone() }, 0.0);
    }
    if fixed {
        return;
    }
    let here = l.position();
    let d = here.norm();
    let wanted = AzEl {
        azimuth_deg: now.at.azimuth_deg - s.off[round].value,
        elevation_deg: (now.at.elevation_deg - s.off[up].value).clamp(-85.0, 88.0),
    };
    let wrong = (s.off[round].units()).hypot(s.off[up].units());
    let mut moved = |to: Vec3, price: f64, also: Option<f64>| {
        let mut after = elsewhere(l, to);
        let by = to - here;
        let mut says = format!(
            "Move the {} {}, to {}",
            l.name,
            moved_words(by.into(), unit == Lengths::Feet),
            place_words(&to, floor, unit)
        );
        if let Some(stops) = also {
            after = powered(&after, stops);
            says = format!("{says}, and its power {}", stops_words(stops));
        }
        push(format!("{says}."), after, price + CARRY * (by.norm() - 0.5).max(0.0));
    };
    // at the same distance, where the reference's light is
    if wrong > 1.0 {
        moved(wanted.vector() * d, 0.0, None);
    }
    // nearer or farther
    let bearing = here / d;
    let cost_at = |dir: Vec3, x: f64| {
        let after = elsewhere(l, dir * x.exp());
        square(&s.with_light(k, &now, &gives(&after, set)))
    };
    let (lo, hi) = ((REACH_M[0] / d).ln().max(-FARTHER), (REACH_M[1] / d).ln().min(FARTHER));
    let size_off = size.map_or(0.0, |i| s.off[i].units());
    if size_off.abs() > SURE || level.is_some_and(|i| s.off[i].units().abs() > SURE) {
        let x = least(lo, hi, |x| cost_at(bearing, x + d.ln()));
        moved(bearing * d * x.exp(), 0.0, None);
        if wrong > 1.0 {
            let x = least(lo, hi, |x| cost_at(wanted.vector(), x + d.ln()));
            moved(wanted.vector() * d * x.exp(), 0.0, None);
        }
    }
    if let Some(i) = size.filter(|_| size_off.abs() > SURE) {
        // so near that it fills the angle, its power turned so that the level is right
        let want = s.off[i].value;
        let angle =
            |x: f64, dir: Vec3| (gives(&elsewhere(l, dir * d * x.exp()), set).ln_size - now.ln_size + want).abs();
        for (dir, price) in [(bearing, TWO), (wanted.vector(), TWO + 0.01)] {
            let x = least(lo, hi, |x| angle(x, dir));
            let near = elsewhere(l, dir * d * x.exp());
            let level_off = level.map_or(0.0, |j| s.off[j].value) + gives(&near, set).stops - now.stops;
            let stops = tenth((-level_off).clamp(-TURN_STOPS, TURN_STOPS));
            moved(dir * d * x.exp(), price, (stops != 0.0).then_some(stops));
        }
        // or another face out of the kit
        let target = (now.ln_size - want).exp();
        let fits = kit
            .modifiers
            .iter()
            .filter(|m| m.count > 0 && !m.alone)
            .map(|m| ((m.angle_at(optics::units::Metres(d)) / target).ln().abs(), m))
            .filter(|m| m.0 < 0.15)
            .min_by(|a, b| a.0.total_cmp(&b.0));
        if let Some((_, m)) = fits {
            let mut after = l.clone();
            after.source = lightset::kit::source_of(m);
            after.scrims.clear();
            let off = level.map_or(0.0, |j| s.off[j].value);
            // another face swallows another share: the level is set by the meter afterwards
            after = powered(&after, -off);
            push(format!("Put the {} into {}, and meter it to its level again.", l.name, m.name), after, TWO + 0.02);
        }
    }
}

/// Log of what lifts the shadows, room and boards, over the key: what a set gives there.
fn lift(set: &LightSet) -> f64 {
    let e = &set.camera.exposure;
    let key = set.lights.first().map_or(1.0, |l| studio::relative_exposure(l, e).unwrap_or(1.0)).max(1e-9);
    let room = set.ambient.as_ref().map_or(0.0, |a| studio::relative_ambient(a, e).unwrap_or(0.0)) / key;
    let boards: f64 = foretell(set).boards.iter().map(|b| b.0.exp2()).sum();
    (room + boards).max(1e-4).log2()
}

/// What could be done about the room's light: less of it, or a white board nearer on the shadow side. What a board gives
/// is worked out, not supposed.
fn room_options(set: &LightSet, s: &State, i: usize, kit: &Kit, unit: Lengths, out: &mut Vec<Choice>) {
    let stops = tenth(-s.off[i].value);
    let mut push = |says: String, set: LightSet, by: f64, price: f64| {
        let mut off = s.off.clone();
        off[i].value += by;
        out.push(Choice { says, set, off, price, settles: false });
    };
    if stops < 0.0 && set.ambient.is_some() {
        let mut after = set.clone();
        room_by(&mut after, stops);
        let says = format!(
            "Take {:.1} stops of the room's light away: close curtains, switch room lamps off, move white things back.",
            -stops
        );
        push(says, after, stops, 0.0);
    }
    if stops <= 0.0 {
        return;
    }
    let here = lift(set);
    let gives = |after: &LightSet| lift(after) - here;
    let nearest = |list: Vec<(LightSet, f64)>| {
        list.into_iter()
            .map(|(after, d)| (gives(&after), after, d))
            .min_by(|a, b| (a.0 - stops).abs().total_cmp(&(b.0 - stops).abs()))
    };
    if let Some(n) = set.boards.iter().position(|b| b.finish == BoardFinish::White) {
        let at = Vec3::from(set.boards[n].position_m);
        let list = BOARD_NEARER.map(|k| {
            let mut after = set.clone();
            after.boards[n].position_m = (at * k).into();
            (after, at.norm() * (1.0 - k))
        });
        if let Some((by, after, d)) = nearest(list.into()) {
            push(format!("Bring board {} {} nearer to the subject.", n + 1, length(d, unit)), after, by, 0.0);
        }
        return;
    }
    let key = set.lights.iter().find(|l| !l.off).map_or(Vec3::x(), SetLight::position);
    let side = if key.x > 0.0 { -1.0 } else { 1.0 };
    let own = kit.boards.iter().find(|b| b.count > 0 && b.finish == BoardFinish::White);
    let [width_m, height_m] = own.map_or([0.7, 1.0], |b| b.size_m);
    let list = BOARD_AT_M.map(|d| {
        let mut after = set.clone();
        let position_m = [0.9 * d * side, 0.0, 0.44 * d];
        after.boards.push(Board { position_m, aim_m: [0.0; 3], width_m, height_m, finish: BoardFinish::White });
        (after, d)
    });
    if let Some((by, after, d)) = nearest(list.into()) {
        let says = format!(
            "Put {} to camera {}, {} from the subject: the shadow side needs {stops:.1} stops.",
            own.map_or("a white board".to_owned(), |b| b.name.clone()),
            if side > 0.0 { "right" } else { "left" },
            length(d, unit)
        );
        push(says, after, by, 0.02);
    }
}

/// What could be done about lights that only one picture has, the room, and the camera.
fn other_options(set: &LightSet, c: &Comparison, s: &State, kit: &Kit, unit: Lengths, out: &mut Vec<Choice>) {
    // exposure: thirds of a stop
    let total: f64 = s.levels.iter().map(|i| 1.0 / s.off[*i].sd.powi(2)).sum();
    if total > 0.0 {
        let mean: f64 = s.levels.iter().map(|i| s.off[*i].value / s.off[*i].sd.powi(2)).sum::<f64>() / total;
        let stops = (-mean * 3.0).round() / 3.0;
        if stops != 0.0 && s.levels.len() > 1 {
            let mut after = set.clone();
            let e = &mut after.camera.exposure;
            let fixed = set.lights.iter().any(|l| matches!(l.level, Level::Guide { .. } | Level::Joules { .. }));
            let was = *e;
            // a flash is too short for the shutter to matter
            if fixed {
                e.iso *= stops.exp2()
            } else {
                e.shutter_s *= stops.exp2()
            }
            let told = if fixed {
                format!("ISO {:.0} to {:.0}", was.iso, e.iso)
            } else {
                format!(
                    "{} to {}",
                    optics::exposure::shutter_text(was.shutter_s),
                    optics::exposure::shutter_text(e.shutter_s)
                )
            };
            exposed(&mut after, stops);
            let says =
                format!("Expose {:.1} stops {}: {told}.", stops.abs(), if stops > 0.0 { "more" } else { "less" });
            out.push(Choice { says, set: after, off: s.with_exposure(stops), price: 0.0, settles: false });
        }
    }
    if let Some(i) = s.room {
        room_options(set, s, i, kit, unit, out);
    }
    // a light the reference does not have: the lamp of the set that makes it
    for d in c.lights.iter().filter(|d| d.only_in.as_deref() == Some("take")) {
        let Some(at) = d.take_at().map(|a| set.from_lens(a)) else { continue };
        let near = set.lights.iter().enumerate().filter(|(_, l)| !l.off).min_by(|a, b| {
            let deg = |l: &SetLight| angle_between(&l.position(), &at.vector());
            deg(a.1).total_cmp(&deg(b.1))
        });
        let Some((k, l)) = near.filter(|(_, l)| angle_between(&l.position(), &at.vector()) < 0.5) else {
            continue;
        };
        if s.rows[k][0].is_none() {
            let after = SetLight { off: true, ..l.clone() };
            let says = format!("Switch the {} off: the reference has no such light.", l.name);
            out.push(Choice { says, set: with(set, k, after), off: s.off.clone(), price: 0.0, settles: true });
        }
    }
    // and one only the reference has: a lamp that stands there but is off
    for d in c.lights.iter().filter(|d| d.only_in.as_deref() == Some("reference")) {
        let Some([azimuth_deg, elevation_deg]) = d.reference_deg else { continue };
        let at = set.from_lens(AzEl { azimuth_deg, elevation_deg });
        let dark = set.lights.iter().position(|l| l.off && angle_between(&l.position(), &at.vector()) < 0.6);
        // a lamp that stands about there and that the take does not show: too weak to be seen
        let faint =
            set.lights.iter().enumerate().position(|(k, l)| {
                !l.off && s.rows[k][0].is_none() && angle_between(&l.position(), &at.vector()) < UNSEEN
            });
        let says;
        let mut after = set.clone();
        if let Some(k) = faint {
            after.lights[k] = powered(&set.lights[k], 1.0);
            says = format!(
                "Power of the {} up 1.0 stops: the reference shows it, the take does not.",
                after.lights[k].name
            );
        } else if let Some(k) = dark {
            after.lights[k].off = false;
            says = format!("Switch the {} on.", after.lights[k].name);
        } else if set.lights.len() < lightset::set::MOST_LIGHTS {
            let n = set.lights.iter().filter(|l| l.name.starts_with(&d.role)).count();
            let name = if n == 0 { d.role.clone() } else { format!("{} {}", d.role, n + 1) };
            let key = set.lights.first().map_or(0.0, |l| gives(l, set).stops);
            let p = at.vector() * 1.5;
            says = format!("Add a {name}: the reference has one there ({}).", place_words(&p, set.floor_m(), unit));
            after.lights.push(SetLight {
                name,
                azimuth_deg: Some(at.azimuth_deg),
                elevation_deg: Some(at.elevation_deg),
                distance_m: Some(1.5),
                position_m: None,
                aim_m: [0.0; 3],
                source: Source::Rectangle { width_m: 0.6, height_m: 0.6 },
                roll_deg: 0.0,
                bounce: None,
                scrims: Vec::new(),
                level: Level::Stops { stops: key - 2.0 },
                cct_k: None,
                gel_mired: 0.0,
                gel_rgb: None,
                path_m: Vec::new(),
                off: false,
            });
        } else {
            continue;
        }
        out.push(Choice { says, set: after, off: s.off.clone(), price: 0.0, settles: true });
    }
}

/// A name for changes of a set: sixteen hexadecimal digits of both as text (FNV-1a, Fowler, Noll and Vo 1991).
fn id_of(set: &LightSet, changes: &[Change]) -> String {
    let text = serde_json::to_string(&(set, changes)).unwrap_or_default();
    let hash = text.bytes().fold(0xcbf2_9ce4_8422_2325u64, |h, b| (h ^ u64::from(b)).wrapping_mul(0x0100_0000_01b3));
    format!("{hash:016x}")
}

/// The changes worth making to a set whose picture was compared, the best first, at most three: the second and third
/// are what comes after the first. Empty if what remains is smaller than what can be measured.
pub fn next_moves(set: &LightSet, c: &Comparison, kit: &Kit, unit: Lengths) -> Vec<SetMove> {
    let mut out: Vec<SetMove> = Vec::new();
    let first = state(set, c);
    let mut now = first.clone();
    let mut here = set.clone();
    // a light only one of the two has is as much as a light that is three steps off
    let alone: f64 = c
        .next_moves
        .iter()
        .filter(|m| matches!(m.kind, MoveKind::Add | MoveKind::Remove))
        .map(|m| m.off_sd.powi(2))
        .sum();
    let sure: f64 = first.off.iter().map(Off::units).filter(|u| u.abs() > SURE).map(|u| u * u).sum::<f64>() + alone;
    let rows: Vec<usize> = (0..first.off.len()).filter(|i| first.off[*i].units().abs() > SURE).collect();
    let of_sure = |off: &[Off]| rows.iter().map(|i| off[*i].units().powi(2)).sum::<f64>();
    let mut left_alone = alone;
    for step in 0..3 {
        let worst = now.off.iter().map(|o| o.units().abs()).fold(0.0, f64::max);
        if worst <= SURE && left_alone <= 0.0 {
            break;
        }
        let mut options = Vec::new();
        for k in (0..here.lights.len()).filter(|k| !here.lights[*k].off) {
            light_options(&here, &now, k, kit, unit, &mut options);
        }
        other_options(&here, c, &now, kit, unit, &mut options);
        // where only a light more or less is left, nothing else is to be done
        if worst <= SURE {
            options.retain(|o| o.settles);
        }
        let total = square(&now.off);
        let worth = |o: &Choice| {
            let gained = total - square(&o.off) + if o.settles { left_alone } else { 0.0 };
            gained / sure.max(1e-9) - o.price
        };
        let Some(best) = options.into_iter().max_by(|a, b| worth(a).total_cmp(&worth(b))) else { break };
        let gained = worth(&best) + best.price;
        let taken = of_sure(&now.off) - of_sure(&best.off) + if best.settles { left_alone } else { 0.0 };
        // what surely differs always has a first thing to do: the best there is, however little it takes away
        if gained < if step == 0 { LEAST } else { WORTH } {
            break;
        }
        if best.settles {
            left_alone = 0.0;
        }
        let changes = changes(&here, &best.set);
        out.push(SetMove {
            id: id_of(&here, &changes),
            says: best.says,
            changes,
            gain: (taken / sure.max(1e-9)).clamp(0.0, 1.0),
            expected: if step == 0 { expectations(c, &first, &best.off) } else { Vec::new() },
            set: best.set.clone(),
        });
        now.off = best.off;
        // a light that was added has no rows
        now.rows.resize(best.set.lights.len(), [None; 5]);
        here = best.set;
    }
    out
}

/// What the readings would be after any change of the set, by the comparison made before it: for takes made after a
/// change by hand.
pub fn suppose(before: &LightSet, after: &LightSet, c: &Comparison) -> Vec<Expected> {
    let s = state(before, c);
    let mut off = s.off.clone();
    for (k, a) in before.lights.iter().enumerate() {
        let Some(b) = after.lights.iter().find(|b| b.name == a.name) else { continue };
        let moved = s.with_light(k, &gives(a, before), &gives(b, after));
        for (o, (m, was)) in off.iter_mut().zip(moved.iter().zip(&s.off)) {
            o.value += m.value - was.value;
        }
    }
    if let (Some(i), Some(a), Some(b)) = (s.room, &before.ambient, &after.ambient) {
        let stops = |x: &lightset::set::AmbientLight, s: &LightSet| {
            studio::relative_ambient(x, &s.camera.exposure).unwrap_or(1e-9).max(1e-9).log2()
        };
        off[i].value += stops(b, after) - stops(a, before);
    }
    expectations(c, &s, &off)
}

#[cfg(test)]
mod tests {
    use super::*;
    use judging::compare::LightDifference;

    fn set() -> LightSet {
        LightSet::parse(
            r#"{"format":"slant-set/1","camera":{"position_m":[0,0,2],"exposure":{"f_number":8,"shutter_s":0.01,"iso":100}},
            "lights":[{"name":"key","azimuth_deg":45,"elevation_deg":30,"distance_m":1.5,"source":{"kind":"rectangle","width_m":0.6,"height_m":0.6},"level":{"stops":0}},
                      {"name":"fill","azimuth_deg":-40,"elevation_deg":0,"distance_m":2,"source":{"kind":"rectangle","width_m":1,"height_m":1},"level":{"stops":-2}}]}"#,
        )
        .expect("a set")
        .set
    }

    fn light(role: &str, at: [f64; 2], off: [f64; 2], size: f64, level: f64) -> LightDifference {
        LightDifference {
            role: role.into(),
            d_azimuth_deg: Some(off[0]),
            d_elevation_deg: Some(off[1]),
            direction_deg: Some(off[0].hypot(off[1])),
            direction_sd_deg: 0.8,
            d_angular_size_ratio: Some(size),
            size_sd: Some(0.06),
            d_level_stops: Some(level),
            level_sd_stops: Some(0.06),
            reference_deg: Some([at[0] - off[0], at[1] - off[1]]),
            take_deg: Some(at),
            take_size_deg: Some(25.0),
            only_in: None,
        }
    }

    fn compared(key: LightDifference, fill: LightDifference, exposure: f64) -> Comparison {
        Comparison {
            lights: vec![key, fill],
            d_exposure_stops: Some(exposure),
            d_exposure_sd_stops: 0.04,
            ..Comparison::default()
        }
    }

    fn same(role: &str, at: [f64; 2]) -> LightDifference {
        light(role, at, [0.0, 0.0], 1.0, 0.0)
    }

    #[test]
    fn a_light_that_stands_wrong_is_moved_to_where_the_reference_has_it() {
        let c = compared(light("key", [45.0, 30.0], [15.0, 0.0], 1.0, 0.0), same("fill", [-40.0, 0.0]), 0.0);
        let m = &next_moves(&set(), &c, &Kit::default(), Lengths::Metres)[0];
        assert!(m.says.starts_with("Move the key"), "{}", m.says);
        let at = AzEl::of(&m.set.lights[0].position());
        assert!((at.azimuth_deg - 30.0).abs() < 1.0 && (at.elevation_deg - 30.0).abs() < 1.0, "{at:?}");
        assert!(m.gain > 0.9);
        assert_eq!(m.changes.len(), 1, "{:?}", m.changes);
        let round = m.expected.iter().find(|e| e.what == Term::of("key", Aspect::Round)).expect("foretold");
        assert!(round.value.abs() < 1.0);
    }

    #[test]
    fn power_size_and_exposure_are_told_apart() {
        let first =
            |c: &Comparison| next_moves(&set(), c, &Kit::default(), Lengths::Metres).first().map(|m| m.says.clone());
        let (key, fill) = (same("key", [45.0, 30.0]), same("fill", [-40.0, 0.0]));
        let fill_up = compared(key.clone(), light("fill", [-40.0, 0.0], [0.0; 2], 1.0, 0.8), 0.0);
        assert_eq!(first(&fill_up).as_deref(), Some("Power of the fill down 0.8 stops."));
        let all = compared(key.clone(), fill.clone(), 0.67);
        assert!(first(&all).is_some_and(|s| s.starts_with("Expose 0.7 stops less")), "{:?}", first(&all));
        assert_eq!(first(&compared(key, fill.clone(), 0.02)), None);
        // 1.4 times too large with the right level: nearer is wrong, farther with more power is right
        let large = compared(light("key", [45.0, 30.0], [0.0; 2], 1.4, 0.0), fill, 0.0);
        let m = &next_moves(&set(), &large, &Kit::default(), Lengths::Metres)[0];
        let d = m.set.lights[0].position().norm();
        assert!((d - 1.5 * 1.4).abs() < 0.12, "{} {d}", m.says);
        assert!(m.says.contains("power up 0.9") || m.says.contains("power up 1.0"), "{}", m.says);
    }

    #[test]
    fn a_lamp_of_known_distance_follows_the_inverse_square_law() {
        let s = set();
        let small = SetLight { source: Source::Disc { diameter_m: 0.02 }, ..s.lights[0].clone() };
        let after = elsewhere(&small, small.position() * 2.0);
        assert!((gives(&after, &s).stops + 2.0).abs() < 0.02, "{}", gives(&after, &s).stops);
        // and the changes of the set name a move, not a turn of the dial
        let moved = with(&s, 0, after);
        let told = changes(&with(&s, 0, small), &moved);
        assert_eq!(told.len(), 1, "{told:?}");
    }
}
