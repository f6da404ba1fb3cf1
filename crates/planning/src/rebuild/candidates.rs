//! Competing sets: ways of single lights put together, judged by what the studio says they give, and the
//! readings that would tell them apart.
//!
//! The core proposes and judges; what a set gives ([`Foretold`]) comes from the studio.

use super::separate::{SeparatingTest, separate, tests};
use super::ways::{Construction, Room, SeenLight, Way, ways};
use evidence::readings::{Light, Readings, Sighting};
use lightset::frame::in_frame;
use lightset::kit::Kit;
use lightset::set::LightSet;
use optics::geometry::{AzEl, Vec3, angle_between};
use optics::words::capital;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// Candidates traced at most.
const TRACED: usize = 40;
/// Candidates kept.
const KEPT: usize = 5;
/// Natural logarithm of width over height beyond which thin is thin.
const THIN: f64 = 1.7;
/// Stops of a sheet's middle over its edge from which people would move the lamp back (common practice).
const HOT: f64 = 3.0;
/// Price of a thing the kit does not hold enough of, as minus twice a log of odds.
const MISSING: f64 = 4.0;

/// One light as the studio foretells it.
#[derive(Debug, Clone, PartialEq)]
pub struct ForetoldLight {
    /// Direction to it.
    pub direction: Vec3,
    /// Full angle in radians of the even disc with the same solid angle.
    pub size: f64,
    /// Natural logarithm of width over height.
    pub aspect: f64,
    /// 0 round, 1 rectangular.
    pub corners: f64,
    /// Natural logarithm of its radius at a quarter of white over that at four fifths, at its level.
    pub feather: f64,
    /// Middle of its face over its edge, stops.
    pub hot: f64,
    /// Stops it rises 30 cm nearer to its face.
    pub nearer: f64,
    /// Stops lost 60 cm lower, turned to it.
    pub lower: f64,
    /// Stops of its light on a wall 1.5 m behind the subject against the subject's.
    pub behind: f64,
    /// Stops at the subject against the bare lamp in its own reflector at 1 m; NaN where there is no lamp.
    pub cost: f64,
    /// 9 if it goes out with the lamps, 0 if it stays.
    pub dark: f64,
    /// Stops lost under a card one metre square held level half a metre over the subject.
    pub card: f64,
}

/// What the studio says of a set, in the order of its lights; boards that take the key's light count as
/// lights after them.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Foretold {
    /// Lamps.
    pub lights: Vec<ForetoldLight>,
    /// Stops under the key of what each board hands on, and its direction.
    pub boards: Vec<(f64, Vec3)>,
}

/// One reading against what a candidate gives.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct FitLine {
    /// What: `key: angle it fills`.
    pub what: String,
    /// As read.
    pub read: f64,
    /// As the candidate gives it.
    pub gives: f64,
    /// Unit.
    pub unit: String,
    /// Difference over its standard deviation.
    pub off_sd: f64,
}

/// A set that could have made the picture.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Candidate {
    /// Stable name: its constructions.
    pub id: String,
    /// In one line.
    pub title: String,
    /// Construction of each light of the reading.
    pub constructions: Vec<Construction>,
    /// Each light in a phrase.
    pub lights: Vec<String>,
    /// Probability among all that were tried.
    pub probability: f64,
    /// Minus twice the log of its odds.
    pub score: f64,
    /// Readings against it.
    pub fits: Vec<FitLine>,
    /// What speaks against it, in sentences.
    pub against: Vec<String>,
    /// What the kit does not hold.
    pub missing: Vec<String>,
    /// The set.
    pub set: LightSet,
    /// What the tests would read: value by test.
    pub foretells: BTreeMap<String, f64>,
    /// Standard deviation of each: of the reading, and of what it leaves free there.
    pub foretell_sd: BTreeMap<String, f64>,
}

/// A candidate that lost.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Loser {
    /// In one line.
    pub title: String,
    /// Why.
    pub why: String,
}

/// What a reading leaves open.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
pub struct Candidates {
    /// The best, best first.
    pub list: Vec<Candidate>,
    /// For each pair of them, the test that separates best.
    pub tests: Vec<SeparatingTest>,
    /// What was tried and why it lost.
    pub losers: Vec<Loser>,
    /// What stands in the way.
    pub problems: Vec<String>,
}

/// A draft to be judged.
#[derive(Debug, Clone)]
pub struct Draft {
    ways: Vec<Way>,
    cost: f64,
    missing: Vec<String>,
    /// The set to trace.
    pub set: LightSet,
}

/// What was read of the lights, in the order of the reading, with the directions of the staged set.
pub fn seen_lights(r: &Readings, base: &LightSet) -> Vec<SeenLight> {
    r.lights
        .iter()
        .zip(&base.lights)
        .map(|(l, b)| {
            let at = AzEl {
                azimuth_deg: b.azimuth_deg.unwrap_or(l.azimuth_deg),
                elevation_deg: b.elevation_deg.unwrap_or(l.elevation_deg),
            };
            let size = l.angular_size_deg.zip(l.angular_size_range_deg).map(|(s, [lo, hi])| {
                let sd = ((hi / lo.max(0.01)).ln() / 2.0).clamp(0.12, 1.2);
                (s.to_radians(), sd)
            });
            // a range that could be anything says nothing
            let size = size.filter(|s| s.1 < 0.9);
            SeenLight {
                level_stops: l.level_stops.zip(l.level_sd_stops),
                role: l.role,
                name: b.name.clone(),
                at,
                direction_sd: l.direction_sd_deg.to_radians().max(0.02),
                size,
                aspect: shown(r, l, |s| Some((s.aspect?.ln(), 0.06 + 1.2 / across(s)))),
                corners: shown(r, l, |s| Some((s.corners?, 0.25 + 3.0 / across(s)))),
                feather: shown(r, l, |s| Some((s.feather?, 0.05))),
                aims_at: Vec3::zeros(),
                via: Vec::new(),
                with: Vec::new(),
            }
        })
        .collect()
}

/// Pixels across the narrower side of a spot.
fn across(s: &Sighting) -> f64 {
    let span = |k: usize| {
        let v = s.outline.iter().map(|p| p[k]);
        v.clone().fold(f64::MIN, f64::max) - v.fold(f64::MAX, f64::min)
    };
    span(0).min(span(1)).max(1.0)
}

/// What catchlights and mirror balls show of a light: mean and standard deviation, by inverse variance.
fn shown(r: &Readings, l: &Light, what: impl Fn(&Sighting) -> Option<(f64, f64)>) -> Option<(f64, f64)> {
    let dir = l.at().vector();
    let near = |s: &&Sighting| {
        let d = s.at().vector();
        angle_between(&d, &dir) < 0.35
    };
    let marks = l.evidence.iter().filter_map(|id| r.by_mark.get(id));
    let all = marks.flat_map(|m| m.catchlights.iter().flatten().chain(&m.lights)).filter(near);
    direction::fusion::inverse_variance(all.filter_map(what))
}

/// Drafts that fit a reading, the cheapest first, to be traced.
pub fn drafts(r: &Readings, base: &LightSet, kit: &Kit) -> (Vec<SeenLight>, Vec<Draft>) {
    let seen = seen_lights(r, base);
    let living = base.subjects.iter().any(|s| s.kind.is_head());
    let room = Room { floor_m: base.floor_m(), ceiling_m: kit.ceiling_m.unwrap_or(2.6), living, walls: None };
    let list = drafts_of(&seen, base, kit, &room);
    (seen, list)
}

/// Drafts that give lights with a kit in a room, the cheapest first. `base` is the set without them: its lights carry names, levels
/// and colours in the order of `seen`.
pub fn drafts_of(seen: &[SeenLight], base: &LightSet, kit: &Kit, room: &Room) -> Vec<Draft> {
    // per light: the best of each construction
    let options: Vec<Vec<Way>> = seen
        .iter()
        .zip(&base.lights)
        .enumerate()
        .map(|(i, (s, b))| {
            let mut kept: Vec<Way> = Vec::new();
            let mut all = ways(s, b, kit, room);
            if room.walls.is_some() {
                all.iter_mut().for_each(|w| out_of_frame(w, s, base));
                all.sort_by(|a, b| a.cost.total_cmp(&b.cost));
            }
            for w in all {
                let alike = |k: &&Way| k.construction == w.construction && (i > 0 || k.variant == w.variant);
                if kept.iter().filter(alike).count() < 1 {
                    kept.push(w);
                }
            }
            kept.truncate(if i == 0 { 26 } else { 2 });
            kept
        })
        .collect();
    if options.iter().any(Vec::is_empty) || options.is_empty() {
        return Vec::new();
    }
    let mut out: Vec<Draft> = vec![Draft { ways: Vec::new(), cost: 0.0, missing: Vec::new(), set: base.clone() }];
    for list in &options {
        out = out
            .iter()
            .flat_map(|d| {
                list.iter().map(|w| {
                    let mut d = d.clone();
                    d.cost += w.cost;
                    d.ways.push(w.clone());
                    d
                })
            })
            .collect();
        out.sort_by(|a, b| a.cost.total_cmp(&b.cost));
        out.truncate(120);
    }
    for d in &mut out {
        d.missing = missing(&d.ways, kit);
        d.cost += MISSING * d.missing.len() as f64;
        d.set.lights = d.ways.iter().filter_map(|w| w.light.clone()).collect();
        d.set.boards.extend(d.ways.iter().filter_map(|w| w.board));
    }
    out.sort_by(|a, b| a.cost.total_cmp(&b.cost));
    // every construction of the key is heard
    let mut heard: BTreeMap<Construction, usize> = BTreeMap::new();
    out.retain(|d| {
        let n = heard.entry(d.ways[0].construction).or_default();
        *n += 1;
        *n <= 5
    });
    out.truncate(TRACED);
    out
}

/// Price of a light that the picture would show, as minus twice a log of odds.
const IN_FRAME: f64 = 12.0;

/// What would stand in the picture costs.
fn out_of_frame(w: &mut Way, seen: &SeenLight, base: &LightSet) {
    let light = w.light.as_ref().map(|l| (l.position(), l.source.area_m2().sqrt() / 2.0));
    let board = w.board.as_ref().map(|b| (Vec3::from(b.position_m), b.width_m.max(b.height_m) / 2.0));
    let shown = light.into_iter().chain(board).any(|(p, r)| in_frame(base, &(p + seen.aims_at).into(), r));
    if shown {
        w.cost += IN_FRAME;
        w.against.push("it would stand in the picture".into());
    }
}

fn missing(ways: &[Way], kit: &Kit) -> Vec<String> {
    let mut used: BTreeMap<&str, u32> = BTreeMap::new();
    for id in ways.iter().flat_map(|w| &w.uses) {
        *used.entry(id).or_default() += 1;
    }
    let mut out = Vec::new();
    for (id, n) in used {
        let has = if id == "lamp" {
            kit.lamps.iter().filter(|l| l.takes_modifiers).map(|l| l.count).sum()
        } else {
            let counts = kit.modifiers.iter().map(|m| (&m.id, m.count));
            let counts = counts
                .chain(kit.sheets.iter().map(|s| (&s.id, s.count)))
                .chain(kit.boards.iter().map(|b| (&b.id, b.count)));
            counts
                .chain(kit.lamps.iter().map(|l| (&l.id, l.count)))
                .filter(|c| c.0 == id)
                .map(|c| c.1)
                .max()
                .unwrap_or(0)
        };
        for _ in has..n {
            out.push(if id == "lamp" { "one more lamp that takes modifiers".into() } else { format!("one more {id}") });
        }
    }
    out
}

/// Judges drafts by what they give and by the outcomes of tests made so far (`role:test`, value).
pub fn judge(seen: &[SeenLight], drafts: Vec<(Draft, Foretold)>, outcomes: &BTreeMap<String, f64>) -> Candidates {
    let mut list: Vec<Candidate> = drafts.into_iter().map(|(d, f)| weigh(seen, d, &f, outcomes)).collect();
    list.sort_by(|a, b| a.score.total_cmp(&b.score));
    let best = list.first().map_or(0.0, |c| c.score);
    let sum: f64 = list.iter().map(|c| (-(c.score - best) / 2.0).exp()).sum();
    for c in &mut list {
        c.probability = (-(c.score - best) / 2.0).exp() / sum;
    }
    // the best of each set of constructions, and of those no more than two that make the key alike
    let mut kept: Vec<Candidate> = Vec::new();
    let mut losers = Vec::new();
    for c in list {
        let same = kept.iter_mut().find(|k| k.constructions == c.constructions);
        if let Some(k) = same {
            k.probability += c.probability;
            continue;
        }
        let alike = kept.iter().filter(|k| k.constructions[0] == c.constructions[0]).count();
        if kept.len() >= KEPT || alike >= 2 || c.score - best > 16.0 {
            losers.push(loser(&c, kept.first()));
            continue;
        }
        kept.push(c);
    }
    kept.sort_by(|a, b| b.probability.total_cmp(&a.probability));
    let tests = separate(seen, &kept, outcomes);
    losers.truncate(8);
    Candidates { list: kept, tests, losers, problems: Vec::new() }
}

fn loser(c: &Candidate, winner: Option<&Candidate>) -> Loser {
    let worst = c.fits.iter().max_by(|a, b| a.off_sd.abs().total_cmp(&b.off_sd.abs())).filter(|f| f.off_sd.abs() > 1.5);
    let why = match (worst, c.against.first(), c.missing.first()) {
        (Some(f), _, _) => format!(
            "{}: it gives {:.1} {} where {:.1} was read, {:.1} standard deviations off.",
            f.what,
            f.gives,
            f.unit,
            f.read,
            f.off_sd.abs()
        ),
        (None, Some(a), _) => format!("{a}."),
        (None, None, Some(m)) => format!("The kit lacks {m}."),
        _ => winner.map_or(String::new(), |w| {
            format!("It fits as well, but {} is the commoner or simpler way.", w.constructions[0].name())
        }),
    };
    Loser { title: c.title.clone(), why }
}

fn weigh(seen: &[SeenLight], d: Draft, f: &Foretold, outcomes: &BTreeMap<String, f64>) -> Candidate {
    let mut score = d.cost;
    let mut fits = Vec::new();
    let mut foretells = BTreeMap::new();
    let mut foretell_sd = BTreeMap::new();
    let mut against: Vec<String> = Vec::new();
    let (mut lamp, mut board) = (0, 0);
    for (s, w) in seen.iter().zip(&d.ways) {
        against.extend(w.against.iter().map(|a| format!("{}: {a}", s.name)));
        if w.light.is_none() {
            // a fill is seldom more than four stops under the key, or it is not seen
            if let Some((stops, _)) = f.boards.get(board) {
                let wanted = s.level_stops.map_or(-2.0, |l| l.0).max(-4.0);
                let sd = s.level_stops.map_or(1.5, |l| l.1.hypot(0.8));
                let off = ((stops - wanted).min(0.0) / sd).max(-3.5);
                score += off * off;
                if off < -1.5 {
                    against.push(format!(
                        "{}: the board would be {:.1} stops under the key, {wanted:.1} are wanted",
                        s.name,
                        -stops.max(-9.0)
                    ));
                }
            }
            board += 1;
            continue;
        }
        let Some(l) = f.lights.get(lamp) else { continue };
        lamp += 1;
        if w.construction == Construction::Sheet && l.hot > HOT {
            score += ((l.hot - HOT) / 1.2).powi(2);
            against.push(format!(
                "{}: the sheet's middle would be {:.1} stops over its edge, nearly a bare lamp",
                s.name, l.hot
            ));
        }
        let mut line = |what: &str, read: f64, gives: f64, unit: &str, off: f64| {
            score += off * off;
            fits.push(FitLine {
                what: format!("{}: {what}", s.name),
                read: round(read),
                gives: round(gives),
                unit: unit.into(),
                off_sd: round(off),
            });
        };
        let dir = s.at.vector();
        let off = angle_between(&dir, &l.direction) / (s.direction_sd.hypot(0.06));
        let deg = angle_between(&dir, &l.direction).to_degrees();
        line("direction", 0.0, deg, "° away", off / 1.4);
        if let Some((size, sd)) = s.size {
            line("angle it fills", size.to_degrees(), l.size.to_degrees(), "°", (l.size / size).ln() / sd.hypot(0.1));
        }
        if let Some((aspect, sd)) = s.aspect {
            // how thin a thin thing is drowns in a pixel's blur
            let thin = |a: f64| a.clamp(-THIN, THIN);
            line(
                "width over height",
                aspect.exp(),
                l.aspect.exp(),
                "×",
                (thin(l.aspect) - thin(aspect)) / sd.hypot(0.12),
            );
        }
        if let Some((c, sd)) = s.corners {
            // where the middle is hot, what shows is rounder than the sheet
            line("corners", c, l.corners, "of 1", (l.corners - c) / sd.hypot(0.12 * l.hot.abs()));
        }
        if let Some((fade, sd)) = s.feather {
            line(
                "edge fades by",
                100.0 * fade,
                100.0 * l.feather,
                "%",
                (l.feather - fade) / sd.hypot(0.6 * l.feather).hypot(0.04 * l.hot),
            );
        }
        for t in tests() {
            let id = t.of(&s.name);
            let v = t.inner_of(l);
            if !v.is_finite() {
                continue;
            }
            let sd = t.sd_of(l);
            if let Some(o) = outcomes.get(&id) {
                line(&format!("test \"{}\"", t.id), *o, t.shown(v), &t.unit, (v - t.inner(*o)) / sd);
            }
            foretell_sd.insert(id.clone(), sd);
            foretells.insert(id, round(t.shown(v)));
        }
    }
    let constructions: Vec<Construction> = d.ways.iter().map(|w| w.construction).collect();
    let lights: Vec<String> = seen.iter().zip(&d.ways).map(|(s, w)| format!("{}: {}", s.name, w.says)).collect();
    Candidate {
        id: constructions.iter().map(|c| format!("{c:?}").to_lowercase()).collect::<Vec<_>>().join("-"),
        title: capital(&d.ways.iter().map(|w| w.says.clone()).collect::<Vec<_>>().join("; ")),
        constructions,
        lights,
        probability: 0.0,
        score,
        fits,
        against,
        missing: d.missing,
        set: d.set,
        foretells,
        foretell_sd,
    }
}

pub(super) fn round(v: f64) -> f64 {
    (v * 100.0).round() / 100.0
}
