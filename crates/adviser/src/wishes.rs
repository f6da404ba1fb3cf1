//! Sets from a wish: ways to make each light a look asks for, judged as those of a reading are, settled by the meter until ratio,
//! background and exposure are what was wished, in the room and with the kit there is.

use crate::boards::placed;
use crate::foretell::{foretell, relative};
use lightset::cutter::{Band, cutter_beside};
use lightset::frame::in_frame;
use lightset::kit::{Kit, Shape, Throw};
use lightset::meter::SetMeter;
use lightset::set::{Board, BoardFinish, Level, LightSet, SetLight};
use optics::engraved;
use optics::exposure::{Settings, shutter_text};
use optics::geometry::Vec3;
use optics::role::Role;
use optics::units::Stops;
use optics::words::capital;
use planning::build::{BuildLog, LampPlan, build};
use planning::rebuild::{BEHIND_FACE_M, Candidate, Construction, Walls, drafts_of, judge};
use planning::wish::{FARTHEST_BEHIND_M, LaidOut, Wish, background_light};
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// A set one could build.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = SetProposal)]
pub struct Proposal {
    /// Its lights in a line.
    pub title: String,
    /// Each light in a phrase.
    pub lights: Vec<String>,
    /// What was settled by the meter, in sentences.
    pub says: Vec<String>,
    /// What does not work out.
    pub problems: Vec<String>,
    /// What the kit does not hold.
    pub missing: Vec<String>,
    /// The lamp of each light with its power.
    pub lamps: Vec<LampPlan>,
    /// Key to fill that was wished, each metered facing it.
    pub wanted_key_to_fill: f64,
    /// Stops of light on the background under the subject that were wished.
    pub wanted_under_stops: f64,
    /// The set.
    pub set: LightSet,
    /// What meters show in it.
    pub meter: SetMeter,
    /// Cautions that apply.
    pub cautions: Vec<String>,
}

/// Sets shown, and settled to choose from.
const SHOWN: usize = 3;
const SETTLED: usize = 6;
/// Rounds of setting levels; each comes nearer.
const ROUNDS: usize = 8;
/// Stops within which a wish is met.
const MET_STOPS: f64 = 0.1;
/// Stops by which a background may be off before something is done about it (common practice: a third).
const BACKGROUND_STOPS: f64 = 0.35;
/// Steps in which the background goes away, metres.
const FARTHER_M: f64 = 0.5;
/// Papers and cloths for a background, the palest first, with the share of light they scatter (from memory, within a third).
const PAPERS: [(f64, &str); 4] =
    [(0.2, "grey paper"), (0.1, "charcoal paper"), (0.04, "black paper"), (0.015, "black velvet")];
/// A lamp that is weaker than this against what it stands for is not worth a stand.
const LEAST: f64 = 0.03;
/// A black board takes light away from this near, metres, and is this large.
const BLACK_M: f64 = 0.55;
const BLACK_SIZE_M: [f64; 2] = [1.0, 1.5];
/// Steps in which a board goes out of the picture, and how far, metres.
const OUT_M: f64 = 0.1;
const FARTHEST_BOARD_M: f64 = 3.0;
/// Where the ladder of exposures ends before it asks for more lamps: ISO, then aperture.
const FAST: f64 = 1600.0;
const WIDE: f64 = 2.8;
/// What is worse than the best by more is not shown; one alternative may be twice as far off.
const FAR_WORSE: f64 = 12.0;
/// What a stop off the ratio, a stop off the background, a problem and a missing thing cost, as minus twice a log of odds.
const OFF_RATIO: f64 = 8.0;
const OFF_BACKGROUND: f64 = 1.0;
const PROBLEM: f64 = 3.0;
const MISSING: f64 = 3.0;

/// Two or three sets that give a wish, the best first.
///
/// # Errors
/// One sentence if the wish is out of bounds, the room too small, or the kit holds nothing for one of its lights.
pub fn proposals(wish: &Wish, kit: &Kit) -> Result<Vec<Proposal>, String> {
    let laid = wish.laid_out(None)?;
    let drafts = drafts_of(&laid.seen, &laid.base, kit, &laid.room);
    if drafts.is_empty() {
        return Err("The kit holds nothing that could make one of these lights: add lamps, modifiers or boards in Kit, or plan with everything there is.".into());
    }
    let traced = drafts.into_par_iter().map(|d| {
        let f = foretell(&d.set);
        (d, f)
    });
    let found = judge(&laid.seen, traced.collect(), &BTreeMap::new());
    let tried = varied(found.list, SETTLED, |c| &c.constructions);
    let settled = tried.into_par_iter().map(|c| settled(wish, &laid, c, kit)).collect::<Result<Vec<_>, String>>()?;
    let mut settled: Vec<(f64, Proposal, Vec<Construction>)> = settled;
    settled.sort_by(|a, b| a.0.total_cmp(&b.0));
    let best = settled.first().map_or(0.0, |s| s.0);
    let within = |by: f64| settled.iter().filter(|s| s.0 - best <= by).count();
    let near = within(FAR_WORSE).max(within(2.0 * FAR_WORSE).min(2));
    settled.truncate(near);
    Ok(varied(settled, SHOWN, |s| &s.2).into_iter().map(|s| s.1).collect())
}

/// The first, and of the rest those that make the key or the fill another way; then the others.
fn varied<T>(list: Vec<T>, most: usize, made_by: impl Fn(&T) -> &[Construction]) -> Vec<T> {
    let board_fills = |c: &[Construction]| c.iter().skip(1).any(|k| *k == Construction::Board);
    let mut out: Vec<T> = Vec::new();
    let mut rest = Vec::new();
    for c in list {
        let this = made_by(&c);
        let new_key = out.iter().all(|o| made_by(o)[0] != this[0]);
        let new_fill = out.iter().all(|o| board_fills(made_by(o)) != board_fills(this));
        if out.len() < most && (new_key || new_fill) { out.push(c) } else { rest.push(c) }
    }
    out.extend(rest);
    out.truncate(most);
    out
}

fn light<'a>(set: &'a mut LightSet, name: &str) -> Option<&'a mut SetLight> {
    set.lights.iter_mut().find(|l| l.name == name)
}

/// Lights aimed at one of two people stand from there.
fn aim(set: &mut LightSet, laid: &LaidOut) {
    for seen in &laid.seen {
        let to = seen.aims_at;
        let Some(l) = light(set, &seen.name).filter(|_| to.norm() > 1e-6) else { continue };
        let p = l.position() + to;
        l.position_m = Some(p.into());
        (l.azimuth_deg, l.elevation_deg, l.distance_m) = (None, None, None);
        l.aim_m = (Vec3::from(l.aim_m) + to).into();
        if let Some(b) = &mut l.bounce {
            b.position_m = (Vec3::from(b.position_m) + to).into();
        }
    }
}

/// The beam of a dish or grid the kit has for the background; none if it has no lamp for one.
fn beam_for_background(kit: &Kit, used: usize) -> Option<f64> {
    let lamps: u32 = kit.lamps.iter().filter(|l| l.takes_modifiers).map(|l| l.count).sum();
    let dishes = kit.modifiers.iter().filter(|m| m.count > 0 && m.throws == Throw::Dish && m.shape == Shape::Disc);
    (lamps as usize > used).then(|| dishes.filter_map(|m| m.beam_deg).fold(65.0, f64::max))
}

/// The name of the background's lamp.
const BACKGROUND: &str = "background";

/// A set whose levels are set as its meter asks, with what came of it.
struct Settling<'a> {
    laid: &'a LaidOut,
    wish: &'a Wish,
    kit: &'a Kit,
    set: LightSet,
    /// Walls of the room as it stands: the background may have gone back.
    walls: Option<Walls>,
    /// Share of light the background scatters, and the stops of light under the subject at which it looks as wished.
    paper: f64,
    under: f64,
    says: Vec<String>,
    problems: Vec<String>,
}

/// What levels came to.
#[derive(Debug, Clone, Copy)]
struct Levelled {
    key_to_fill: f64,
    /// Light on the subject's front, over the exposure set.
    front: f64,
    /// Stops of light on the background under the subject.
    under: Option<f64>,
}

impl Settling<'_> {
    fn follows(&self, name: &str) -> bool {
        self.laid.seen.iter().zip(&self.laid.follows).any(|(s, f)| *f && s.name == name)
    }

    /// Levels of the lamps for ratio, background and exposure. Light is a sum: the set is metered once.
    fn levels(&mut self) -> Levelled {
        let r = studio::responses(&self.set);
        let roles: Vec<Role> = self.set.lights.iter().map(|l| Role::of_name(&l.name)).collect();
        let mut x: Vec<f64> = self.set.lights.iter().map(relative).collect();
        let follows: Vec<bool> = self.set.lights.iter().map(|l| self.follows(&l.name)).collect();
        let own = self.set.lights.iter().position(|l| l.name == BACKGROUND);
        let of = |what: &[f64], x: &[f64]| what.iter().zip(x).map(|(w, x)| w * x).sum::<f64>();
        let sum = |x: &[f64], is: &dyn Fn(usize) -> bool| (0..x.len()).filter(|i| is(*i)).map(|i| x[i]).sum::<f64>();
        for _ in 0..ROUNDS {
            let key = sum(&x, &|i| roles[i] == Role::Key);
            let filling = sum(&x, &|i| follows[i]);
            if filling > 0.0 {
                let rest = of(&r.handed, &x) + sum(&x, &|i| roles[i] == Role::Fill && !follows[i]);
                let by = ((key / self.laid.key_to_fill - rest) / filling).clamp(1e-3, 1e3);
                (0..x.len()).filter(|i| follows[*i]).for_each(|i| x[i] *= by);
            }
            if let (Some(i), false, false) = (own, r.background.is_empty(), r.front.is_empty()) {
                let wanted = of(&r.front, &x) * (-self.under).exp2();
                let more = (wanted - of(&r.background, &x)) / r.background[i].max(1e-9);
                x[i] = (x[i] + more).max(1e-4 * key);
            }
            let dome = of(&r.dome, &x).max(1e-12);
            x.iter_mut().for_each(|x| *x /= dome);
        }
        for (l, x) in self.set.lights.iter_mut().zip(&x) {
            l.level = Level::Stops { stops: (x.log2() * 1000.0).round() / 1000.0 };
        }
        let fill = of(&r.handed, &x) + sum(&x, &|i| roles[i] == Role::Fill);
        let (front, behind) = (of(&r.front, &x), of(&r.background, &x));
        Levelled {
            key_to_fill: sum(&x, &|i| roles[i] == Role::Key) / fill.max(1e-9),
            front,
            under: (front > 0.0 && behind > 0.0).then(|| (front / behind).log2()),
        }
    }

    fn linear(&self, name: &str) -> f64 {
        self.set.lights.iter().find(|l| l.name == name).map_or(0.0, relative)
    }

    /// The board that fills goes where it gives the ratio, beside the picture and before the wall; a larger one, if this one gives
    /// too little there. Says what stands there then.
    fn boards(&mut self) -> Result<Option<String>, String> {
        if self.set.boards.is_empty() || self.set.lights.iter().any(|l| self.follows(&l.name)) {
            return Ok(None);
        }
        let i = self.set.boards.len() - 1;
        let own = self.set.boards[i];
        let toward = Vec3::from(own.position_m).normalize();
        let largest = |finish: BoardFinish| {
            let all = self.kit.boards.iter().filter(|b| b.count > 0 && b.finish == finish);
            all.max_by(|a, b| (a.size_m[0] * a.size_m[1]).total_cmp(&(b.size_m[0] * b.size_m[1])))
        };
        let larger = [BoardFinish::White, BoardFinish::Silver].into_iter().filter_map(largest);
        let larger = larger.map(|b| Board { width_m: b.size_m[0], height_m: b.size_m[1], finish: b.finish, ..own });
        let wall = |d: f64| self.laid.room.walls.as_ref().is_some_and(|w| w.beyond(&(toward * (d + 0.05))) > 0.0);
        let mut best: Option<(f64, Board, f64, f64)> = None;
        for board in [own].into_iter().chain(larger) {
            self.set.boards[i] = board;
            let Some(way) = placed(&self.set, i, self.laid.key_to_fill)? else { continue };
            // beside the picture, and before the wall
            let half = board.width_m.min(board.height_m) / 2.0;
            let mut d = way.distance_m;
            while d > OUT_M && wall(d) {
                d -= OUT_M;
            }
            while d < FARTHEST_BOARD_M && in_frame(&self.set, &(toward * d).into(), half) && !wall(d + OUT_M) {
                d += OUT_M;
            }
            let there = Board { position_m: (toward * d).into(), ..way.board };
            let gives = if (d - way.distance_m).abs() < 1e-9 {
                way.key_to_fill
            } else {
                self.set.boards[i] = there;
                studio::key_to_fill(&self.set)?.unwrap_or(f64::INFINITY)
            };
            let shown = in_frame(&self.set, &there.position_m, half);
            let cost = (gives / self.laid.key_to_fill).log2().abs() + 2.0 * f64::from(u8::from(shown));
            if best.as_ref().is_none_or(|b| cost < b.0) {
                best = Some((cost, there, d, gives));
            }
            if cost < MET_STOPS {
                break;
            }
        }
        let Some((_, board, d, gives)) = best else { return Ok(None) };
        self.set.boards[i] = board;
        let phrase = format!(
            "{} board, {:.0} × {:.0} cm, at {d:.2} m, lit by the key",
            board.finish.name(),
            100.0 * board.width_m,
            100.0 * board.height_m
        );
        if (gives / self.laid.key_to_fill).log2().abs() > MET_STOPS {
            self.says.push(format!(
                "The {} board beside the picture gives {gives:.1} : 1, not the {:.1} : 1 wished: a larger one, or a lamp, gives more.",
                board.finish.name(),
                self.laid.key_to_fill
            ));
        }
        Ok(Some(phrase))
    }

    /// Where walls fill more than is wanted, a fill lamp has no place, and black takes light away.
    fn too_full(&mut self, now: Levelled) {
        let key: f64 =
            self.set.lights.iter().filter(|l| Role::of_name(&l.name) == Role::Key).map(|l| self.linear(&l.name)).sum();
        let weak = |l: &SetLight| self.follows(&l.name) && self.linear(&l.name) < LEAST * key / self.laid.key_to_fill;
        let gone: Vec<String> = self.set.lights.iter().filter(|l| weak(l)).map(|l| l.name.clone()).collect();
        let gone_any = !gone.is_empty();
        for n in gone {
            self.set.lights.retain(|l| l.name != n);
            self.says.push(format!("No {n} lamp: the walls fill as much as is wished already."));
        }
        let wanted = self.laid.key_to_fill;
        let without = if gone_any { self.levels().key_to_fill } else { now.key_to_fill };
        if (without / wanted).log2() > -MET_STOPS {
            return;
        }
        let Some(side) = self.laid.seen.iter().find(|s| s.role == Role::Fill).map(|s| s.at.vector()) else { return };
        let flat = Vec3::new(side.x, 0.0, side.z).try_normalize(0.05).unwrap_or_else(Vec3::x);
        let black = self.kit.boards.iter().find(|b| b.finish == BoardFinish::Black && b.count > 0);
        let [width_m, height_m] = black.map_or(BLACK_SIZE_M, |b| b.size_m);
        let place = (1..12).map(|k| flat * (BLACK_M + 0.1 * f64::from(k - 1)));
        let mut place = place.skip_while(|p| in_frame(&self.set, &(*p).into(), width_m.max(height_m) / 2.0));
        let position_m = place.next().unwrap_or(flat * BLACK_M).into();
        self.set.boards.push(Board { position_m, aim_m: [0.0; 3], width_m, height_m, finish: BoardFinish::Black });
        let with = self.levels();
        if (with.key_to_fill / without).log2() < MET_STOPS {
            self.set.boards.pop();
            self.says.push(format!("The walls fill to {without:.1} : 1 already, more than the {wanted:.1} : 1 wished; hang black round the set, or take a darker room."));
            return;
        }
        let own = if black.is_some() { "" } else { " (black cloth or card: the kit has none)" };
        self.says.push(format!(
            "The walls alone fill to {without:.1} : 1. A black board{own} {:.2} m beside the subject takes light away: {:.1} : 1.",
            Vec3::from(position_m).norm(),
            with.key_to_fill
        ));
    }

    /// The background goes back until spill leaves it dark enough, as far as the room does.
    fn step_back(&mut self, first: Levelled) -> Levelled {
        let Some(was) = first.under else { return first };
        let start = self.laid.behind_m;
        let (mut behind, mut now) = (start, first);
        while now.under.is_some_and(|u| self.under - u > BACKGROUND_STOPS) && behind + FARTHER_M <= FARTHEST_BEHIND_M {
            let Ok(farther) = self.wish.laid_out(Some(behind + FARTHER_M)) else { break };
            let before = std::mem::replace(&mut self.set.walls, farther.base.walls);
            let room = std::mem::replace(&mut self.walls, farther.room.walls);
            let tried = self.levels();
            if tried.under <= now.under.map(|u| u + 0.02) {
                (self.set.walls, self.walls) = (before, room);
                now = self.levels();
                break;
            }
            (behind, now) = (behind + FARTHER_M, tried);
        }
        if behind > start {
            self.says.push(format!(
                "The background stands {behind:.1} m behind: at {start:.1} m spill leaves it only {was:.1} stops under."
            ));
        }
        now
    }

    /// A background that spill leaves too bright gets the darker paper that is nearest. What was asked for by its colour stays.
    fn darker(&mut self, first: Levelled) -> Levelled {
        let Some(was) = first.under.filter(|u| self.under - u > BACKGROUND_STOPS) else { return first };
        if self.wish.background.is_some() {
            return first;
        }
        let needed = self.paper * (was - self.under).exp2();
        let off = |share: f64| (share / needed).log2().abs();
        let nearest = PAPERS.iter().min_by(|a, b| off(a.0).total_cmp(&off(b.0)));
        let Some((share, name)) = nearest.filter(|p| p.0 < self.paper && off(p.0) < off(self.paper)) else {
            return first;
        };
        self.set.walls.iter_mut().filter(|w| w.is_background()).for_each(|w| w.colour = [*share; 3]);
        self.under -= (self.paper / share).log2();
        self.says.push(format!(
            "Spill leaves the background only {was:.1} stops under: {name} ({:.0} %) there in place of {:.0} % makes it dark.",
            100.0 * share,
            100.0 * self.paper
        ));
        self.paper = *share;
        self.levels()
    }

    fn background_told(&mut self, meter: &SetMeter) {
        let Some(b) = &meter.background else { return };
        let paper = self.paper;
        self.says.push(format!("{} Paper of {:.0} % makes it look so.", b.says, 100.0 * paper));
        let off = b.under_stops - self.under;
        let wished = match self.under {
            u if u < 0.0 => format!("{:.1} stops over", -u),
            u => format!("{u:.1} stops under"),
        };
        if off < -BACKGROUND_STOPS {
            self.says.push(format!("{wished} were wished: flag the lights from it, use a grid, or a darker paper."));
        } else if off > BACKGROUND_STOPS {
            self.says.push(format!("{wished} were wished: a lamp on the background, or a paler paper, gives it."));
        }
    }

    /// What stands beyond a wall, the floor or the ceiling, by how much.
    fn outside(&mut self) {
        let Some(walls) = &self.walls else { return };
        let (floor, ceiling) = (self.laid.room.floor_m, self.laid.room.ceiling_m);
        for l in self.set.lights.iter().filter(|l| !l.source.is_window() && l.bounce.is_none()) {
            let p = l.position();
            let back = (p - Vec3::from(l.aim_m)).try_normalize(1e-9).unwrap_or_else(Vec3::z) * BEHIND_FACE_M;
            let by = walls.beyond(&(p + back));
            if by > 0.05 {
                self.problems.push(format!("The room is {by:.1} m too small for the {} and its stand.", l.name));
            }
            let top = p.y + floor + l.source.face_m()[1] / 2.0;
            if top > ceiling + 0.02 {
                self.problems.push(format!("The ceiling is {:.1} m too low for the {}.", top - ceiling, l.name));
            }
        }
        for b in &self.set.boards {
            let by = walls.beyond(&Vec3::from(b.position_m));
            if by > 0.02 {
                self.problems.push(format!("The room is {by:.1} m too small for the {} board.", b.finish.name()));
            }
        }
    }

    /// The slit or blinds that leave the look's band across the eyes.
    fn cut(&mut self, meter: &SetMeter) {
        let Some([height_m, edge_m]) = self.laid.band else { return };
        let Some(key) = meter.lights.iter().find(|l| l.role == Role::Key) else { return };
        match cutter_beside(&self.set, key, &Band { at_m: [0.0; 3], height_m, edge_m, apart_m: None }) {
            Ok(c) => {
                self.says.push(format!(
                    "A band {:.0} cm high across the eyes with edges of {:.0} mm: a slit, {}",
                    100.0 * height_m,
                    1000.0 * c.band.edge_m,
                    c.says[0]
                ));
                self.says.extend(c.says.into_iter().skip(2));
                self.set.flags.push(c.flag);
            }
            Err(e) => self.problems.push(e),
        }
    }
}

/// An exposure that the weakest lamp reaches: a faster film first, then a wider aperture, as engraved.
fn reached(s: &Settings, weak: f64) -> Settings {
    let mut out = *s;
    if let Some(iso) = engraved::faster(s.iso, Stops(weak), f64::MAX) {
        out.iso = iso.min(FAST.max(s.iso));
    }
    let left = weak - (out.iso / s.iso).log2();
    if left > 0.05 {
        out.f_number = engraved::wider(s.f_number, Stops(left), WIDE).unwrap_or(WIDE.min(s.f_number));
    }
    out
}

/// A candidate settled: what it costs to be off, the set, and how it is made.
fn settled(wish: &Wish, laid: &LaidOut, c: Candidate, kit: &Kit) -> Result<(f64, Proposal, Vec<Construction>), String> {
    let mut set = c.set.clone();
    aim(&mut set, laid);
    let lamps = set.lights.iter().filter(|l| !l.source.is_window()).count();
    let beam = beam_for_background(kit, lamps).filter(|_| laid.background_lamp);
    if let Some(beam) = beam {
        set.lights.push(background_light(laid, wish.from_right, beam));
    }
    let is_board = |name: &str| !c.set.lights.iter().any(|l| l.name == name);
    let walls = laid.room.walls.clone();
    let (paper, under) = (laid.paper, laid.under);
    let mut s = Settling { laid, wish, kit, set, walls, paper, under, says: Vec::new(), problems: Vec::new() };
    let board = s.boards()?;
    let first = s.levels();
    s.too_full(first);
    s.cut(&studio::meter(&s.set)?);
    // a background that is lit enough by spill needs no lamp
    let mut now = s.levels();
    let lamps = s.set.lights.len();
    let lit_enough = s.linear(BACKGROUND) < LEAST * now.front;
    s.set.lights.retain(|l| l.name != BACKGROUND || !lit_enough);
    if s.set.lights.len() < lamps {
        now = s.levels();
    }
    // what a slit leaves dark is no measure of a background
    let now = if laid.band.is_none() { s.step_back(now) } else { now };
    let now = if laid.band.is_none() { s.darker(now) } else { now };
    let mut missing = c.missing.clone();
    if laid.background_lamp && beam.is_none() && now.under.is_some_and(|u| u > s.under + BACKGROUND_STOPS) {
        missing.push("a lamp for the background".into());
    }
    // each light that stands: what was left out is not told of, and what was moved or added is
    let mut lights = Vec::new();
    for (seen, phrase) in laid.seen.iter().zip(&c.lights) {
        match &board {
            Some(b) if is_board(&seen.name) => lights.push(format!("{}: {b}", seen.name)),
            _ if is_board(&seen.name) || s.set.lights.iter().any(|l| l.name == seen.name) => {
                lights.push(phrase.clone())
            }
            _ => {}
        }
    }
    if let Some(b) = s.set.lights.iter().find(|l| l.name == BACKGROUND) {
        lights.push(format!("{BACKGROUND}: {} beside it", b.source.word()));
    }
    let title = lights.iter().map(|l| l.split_once(": ").map_or(l.as_str(), |x| x.1)).collect::<Vec<_>>().join("; ");
    let mut meter = studio::metered(&s.set)?;
    let off_ratio = meter.ratio.as_ref().map_or(3.0, |r| (r.key_to_fill / laid.key_to_fill).log2().abs());
    if let Some(r) = &meter.ratio {
        let wished = if off_ratio <= 2.0 * MET_STOPS {
            String::new()
        } else {
            format!(", {:.1} : 1 was wished", laid.key_to_fill)
        };
        s.says.insert(0, format!("Key to fill {:.1} : 1 (± {:.1} stops){wished}.", r.key_to_fill, r.sd_stops));
    }
    cheeks(&meter, &mut s.says);
    if laid.band.is_none() {
        s.background_told(&meter);
    }
    s.outside();
    let mut plan = build(&s.set, &meter, kit, &BuildLog::default());
    let weakest = plan.lamps.iter().filter_map(|l| l.power_stops).fold(f64::MIN, f64::max);
    if wish.exposure.is_none() && weakest > 0.0 {
        s.set.camera.exposure = reached(&s.set.camera.exposure, weakest);
        meter = studio::metered(&s.set)?;
        plan = build(&s.set, &meter, kit, &BuildLog::default());
    }
    let e = s.set.camera.exposure;
    s.says.push(format!("f/{}, {}, ISO {:.0}.", e.f_number, shutter_text(e.shutter_s), e.iso));
    if wish.room.window.is_some() && !s.set.lights.iter().any(|l| l.source.is_window()) {
        s.says.push("The window is covered.".into());
    }
    let under = s.under;
    let mut problems = s.problems;
    problems.extend(plan.problems);
    for l in plan.lamps.iter().filter(|l| l.lamp.is_none() || l.setting.is_none()) {
        if !s.set.lights.iter().any(|x| x.name == l.light && x.source.is_window()) {
            problems.push(format!("{}: {}", capital(&l.light), l.says));
        }
    }
    problems.dedup();
    missing.sort();
    missing.dedup();
    let off_background = meter.background.as_ref().map_or(0.0, |b| (b.under_stops - under).abs());
    let cost = c.score
        + OFF_RATIO * (off_ratio - MET_STOPS).max(0.0)
        + OFF_BACKGROUND * (off_background - BACKGROUND_STOPS).max(0.0)
        + PROBLEM * problems.len() as f64
        + MISSING * missing.len() as f64;
    let made = Proposal {
        title: capital(&title),
        lights,
        says: s.says,
        problems,
        missing,
        lamps: plan.lamps,
        wanted_key_to_fill: laid.key_to_fill,
        wanted_under_stops: under,
        cautions: plan.cautions,
        meter,
        set: s.set,
    };
    Ok((cost, made, c.constructions))
}

/// How far the cheeks of each of two people differ.
fn cheeks(meter: &SetMeter, says: &mut Vec<String>) {
    for (who, word) in [("1", "left"), ("2", "right")] {
        let at =
            |side: &str| meter.points.iter().find(|p| p.name == format!("{who}: {side} cheek")).map(|p| p.flat_stops);
        if let (Some(l), Some(r)) = (at("left"), at("right")) {
            says.push(format!(
                "The {word} person's cheeks differ by {:.1} ± {:.1} stops, the {} one brighter.",
                (l - r).abs(),
                meter.points_sd_stops * std::f64::consts::SQRT_2,
                if l > r { "left" } else { "right" }
            ));
        }
    }
}
