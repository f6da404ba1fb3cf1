//! How many lights a face shows: further ones are tried in front and behind on either side, and believed by what they
//! explain, where they stand, and what eyes and crown say.

use super::fit::{Face, Lit, Lobe};
use optics::geometry::{AzEl, Vec3, angle_between};
use serde::Deserialize;
use std::collections::BTreeMap;
use std::sync::LazyLock;

/// Most lights.
const MOST: usize = 4;
/// A further light stands apart by this angle, radians, and is not weaker than this, natural log.
const APART: f64 = 0.42;
const FAINTEST: f64 = -2.6;
/// The same behind.
const FAINTEST_BEHIND: f64 = -1.8;
/// Natural log of the odds from which one more is believed.
const BELIEVED: f64 = 0.1;
/// Natural log of the odds from which one more is worth a word.
const MAYBE: f64 = -1.0;
/// A light whose cosine to the lens axis is less is a light from behind.
const BEHIND: f64 = -0.05;

/// Whether a light stands behind the face.
pub(super) fn is_behind(d: &Vec3) -> bool {
    d.z < BEHIND
}

/// Where a further light is looked for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Part {
    Front,
    BehindLeft,
    BehindRight,
}

impl Part {
    fn of(d: &Vec3) -> Part {
        match (is_behind(d), d.x < 0.0) {
            (false, _) => Part::Front,
            (true, true) => Part::BehindLeft,
            (true, false) => Part::BehindRight,
        }
    }
}

/// The lights with one more.
struct More {
    lit: Lit,
    /// the new one among them
    new: usize,
    part: Part,
    saves: f64,
}

/// `data/further_lights.toml`: what odds are made of, for lights in front and behind.
#[derive(Debug, Deserialize)]
struct Table {
    front: BTreeMap<Measure, f64>,
    behind: BTreeMap<Measure, f64>,
}

/// What speaks for or against a light; the data file says what each is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Deserialize)]
#[serde(rename_all = "snake_case")]
enum Measure {
    Base,
    Saves,
    Share,
    Apart,
    Moved,
    High,
    Hinted,
    Against,
    Lights,
    Crown,
    Peak,
    Glow,
    Width,
    Key,
}

static TABLE: LazyLock<Table> =
    LazyLock::new(|| toml::from_str(include_str!("../../data/further_lights.toml")).expect("further_lights.toml"));

/// A light that was not believed, and how probable it is.
pub type Refused = (Vec3, f64);

/// Adds lights to the key as long as more speaks for them than against; and the most probable of those left out, if it is
/// worth a word.
pub(super) fn count(face: &Face, one: Lit, peaks: &[(Vec3, f64)]) -> (Lit, Option<Refused>) {
    let mut lit = one;
    while lit.lobes.len() < MOST {
        let tried = further(face, &lit, peaks).into_iter().map(|m| (log_odds(face, &m, &lit), m));
        let best = tried.max_by(|a, b| a.0.total_cmp(&b.0));
        match best {
            Some((odds, more)) if odds > BELIEVED => lit = more.lit,
            best => {
                let refused = best.filter(|b| b.0 > MAYBE);
                let probable = |odds: f64| 1.0 / (1.0 + (-odds).exp());
                return (lit, refused.map(|(odds, m)| (m.lit.lobes[m.new].direction, probable(odds))));
            }
        }
    }
    (lit, None)
}

/// Natural log of the odds that a light is there.
fn log_odds(face: &Face, m: &More, before: &Lit) -> f64 {
    let new = m.lit.lobes[m.new];
    let others = || (0..m.new).map(|k| m.lit.lobes[k].direction);
    let key = (0..m.new).max_by(|a, b| m.lit.share[*a].total_cmp(&m.lit.share[*b])).unwrap_or(0);
    let nearest = |all: &mut dyn Iterator<Item = Vec3>, d: &Vec3| all.map(|o| angle_between(&o, d)).fold(9.0, f64::min);
    let was = |d: &Vec3| nearest(&mut before.lobes.iter().map(|b| b.direction), d);
    let hint = face.hints.iter().map(|h| h.distance(&new.direction)).fold(9.0, f64::min);
    let hinted = (1.0 - hint / 4.0).max(0.0);
    let looked = face.hints.iter().any(|h| h.complete) && new.direction.z > 0.3;
    let glow = face.glows.iter().find(|g| (g.direction.x < 0.0) == (new.direction.x < 0.0));
    let (crown, peak) = glow.map_or((0.0, 0.0), |g| (g.saves, g.peak));
    let measure = |of: Measure| match of {
        Measure::Base => 1.0,
        Measure::Saves => m.saves.max(1e-3).ln(),
        Measure::Share => (m.lit.share[m.new] / m.lit.share[key].max(1e-12)).max(1e-6).ln(),
        Measure::Apart => nearest(&mut others(), &new.direction).min(1.2),
        Measure::Moved => others().map(|d| was(&d)).fold(0.0, f64::max).min(0.6),
        Measure::High => new.direction.y,
        Measure::Hinted => hinted,
        Measure::Against => f64::from(u8::from(looked)) * (1.0 - hinted),
        Measure::Lights => (m.new - 1) as f64,
        Measure::Crown => crown,
        Measure::Peak => peak.min(3.0),
        Measure::Glow => crown * peak.min(2.0),
        Measure::Width => new.half.ln(),
        Measure::Key => angle_between(&m.lit.lobes[key].direction, &Vec3::z()),
    };
    let table = if m.part == Part::Front { &TABLE.front } else { &TABLE.behind };
    table.iter().map(|(of, weight)| weight * measure(*of)).sum()
}

/// For each part the best that one more light there does.
fn further(face: &Face, lit: &Lit, peaks: &[(Vec3, f64)]) -> Vec<More> {
    let key = lit.lobes[0].direction;
    let side = if key.x >= 0.0 { -1.0 } else { 1.0 };
    let at = |az: f64, el: f64| AzEl { azimuth_deg: az, elevation_deg: el }.vector();
    let mut starts: Vec<Vec3> = face.hints.iter().map(|h| h.direction).collect();
    starts.extend(peaks.iter().take(4).map(|p| p.0));
    starts.extend([Vec3::new(-key.x, key.y, key.z), at(0.0, -35.0), at(side * 50.0, 5.0), at(side * 25.0, 10.0)]);
    starts.extend([-1.0, 1.0].iter().flat_map(|s| [at(s * 135.0, 30.0), at(s * 115.0, 10.0)]));
    starts.extend(face.glows.iter().filter(|g| g.saves > 0.1).map(|g| g.direction));
    let mut tried: Vec<Vec3> = Vec::new();
    for s in starts {
        let near_another = lit.lobes.iter().any(|l| angle_between(&l.direction, &s) < 0.35);
        if !near_another && !tried.iter().any(|t| angle_between(t, &s) < 0.3) {
            tried.push(s);
        }
    }
    let with = |s: Vec3| {
        let mut all = lit.lobes.clone();
        all.push(Lobe { direction: s, half: 0.2 });
        all
    };
    let first = face.refine_all(tried.into_iter().map(with).collect(), &lit.skin, 3);
    let new = lit.lobes.len();
    let stands = |l: &Lit| {
        let d = l.lobes[new].direction;
        let apart = l.lobes[..new].iter().map(|o| angle_between(&o.direction, &d)).fold(f64::MAX, f64::min);
        let most = l.level[..new].iter().copied().fold(0.0, f64::max);
        let part = Part::of(&d);
        let faintest = if part == Part::Front { FAINTEST } else { FAINTEST_BEHIND };
        // one light from behind a side
        let taken = part != Part::Front && l.lobes[..new].iter().any(|o| Part::of(&o.direction) == part);
        apart > APART && !taken && (l.level[new] / most.max(1e-12)).ln() > faintest && l.share[new] > 0.0
    };
    let mut best: Vec<Lit> = Vec::new();
    for part in [Part::Front, Part::BehindLeft, Part::BehindRight] {
        let of = first.iter().filter(|l| Part::of(&l.lobes[new].direction) == part && stands(l));
        best.extend(of.min_by(|a, b| a.cost.total_cmp(&b.cost)).cloned());
    }
    let last = face.refine_all(best.into_iter().map(|l| l.lobes).collect(), &lit.skin, 8);
    last.into_iter()
        .filter(stands)
        .map(|l| More { part: Part::of(&l.lobes[new].direction), saves: 1.0 - l.cost / lit.cost, new, lit: l })
        .collect()
}
