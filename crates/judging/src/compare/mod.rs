//! A take against its reference: what differs, in stops, degrees and mired, each against its spread, and the
//! one change that takes away most of what is surely different.
//!
//! All differences are take minus reference. Exposure and white balance are named first and apart: they are
//! what all lights have in common.

mod align;
mod brightness;
mod by_marks;
mod cylinders;
mod difference;
mod faces;
mod levels;

pub use align::{Alignment, align};
pub use difference::{DifferenceMap, difference};

use crate::terms::{Aspect, MoveKind, Term, Unit};
use by_marks::{ByMarks, by_marks};
use cylinders::{SingleStrip, StripChange, strip_changes};
use evidence::marks::Marks;
use evidence::read::Heads;
use evidence::readings::{Light, Readings};
use levels::levels;
use optics::colour::ColourShift;
use optics::geometry::{AzEl, angle_between, wrapped_deg};
use optics::photo::Photo;
use optics::role::Role;
use optics::words::{direction_figures, signed};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A take against its reference.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
pub struct Comparison {
    /// Lights that both have, in the order of the reference, then those only one has.
    pub lights: Vec<LightDifference>,
    /// Exposure of the whole picture, stops.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub d_exposure_stops: Option<f64>,
    /// One standard deviation.
    pub d_exposure_sd_stops: f64,
    /// Colour of the whole picture, mired; positive is warmer.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub d_mired: Option<f64>,
    /// One standard deviation.
    pub d_mired_sd: f64,
    /// Every reading side by side.
    pub ledger: Vec<LedgerLine>,
    /// What to change, the most telling first; empty if what remains is smaller than what can be measured.
    pub next_moves: Vec<NextMove>,
    /// What to keep in mind.
    pub warnings: Vec<String>,
}

/// One light in both pictures.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LightDifference {
    /// Role in the reference, or in the take if only that has it.
    pub role: String,
    /// Degrees round.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub d_azimuth_deg: Option<f64>,
    /// Degrees up.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub d_elevation_deg: Option<f64>,
    /// Angle between the two directions.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub direction_deg: Option<f64>,
    /// One standard deviation of that.
    pub direction_sd_deg: f64,
    /// Size in the take over size in the reference.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub d_angular_size_ratio: Option<f64>,
    /// One standard deviation of its log.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub size_sd: Option<f64>,
    /// Level, stops, exposure taken out.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub d_level_stops: Option<f64>,
    /// One standard deviation of that.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub level_sd_stops: Option<f64>,
    /// Azimuth and elevation in the reference, lens frame, degrees.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<optics::geometry::Pair>)]
    pub reference_deg: Option<[f64; 2]>,
    /// Azimuth and elevation in the take.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<optics::geometry::Pair>)]
    pub take_deg: Option<[f64; 2]>,
    /// Full angle it fills in the take, degrees.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub take_size_deg: Option<f64>,
    /// Which picture alone has it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub only_in: Option<String>,
}

impl Comparison {
    /// What to say where no change of the lights is told: that they are alike, or what differs and how to find out more.
    pub fn says_no_move(&self) -> String {
        let sure = |l: &&LedgerLine| l.sure;
        let whole = |l: &LedgerLine| matches!(l.what, Term::Exposure | Term::Colour);
        let lights: Vec<String> =
            self.ledger.iter().filter(sure).filter(|l| !whole(l)).map(|l| l.what.to_string()).collect();
        if !lights.is_empty() {
            return format!(
                "No single change is told by this take alone. These readings surely differ: {}. Set the exposure as in the \
                 reference and take one picture with each light alone.",
                lights.join(", ")
            );
        }
        if self.ledger.iter().filter(sure).any(whole) {
            return "The lights themselves: nothing that can be measured.".into();
        }
        "Nothing: what remains is smaller than what can be measured or seen.".into()
    }
}

impl LightDifference {
    /// Where it is in the take, lens frame.
    pub fn take_at(&self) -> Option<AzEl> {
        self.take_deg.map(|[azimuth_deg, elevation_deg]| AzEl { azimuth_deg, elevation_deg })
    }
}

/// One reading in both pictures.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LedgerLine {
    /// What: `key: round`, `light from all around`.
    #[schema(value_type = String)]
    pub what: Term,
    /// In the reference.
    pub reference: f64,
    /// In the take.
    pub take: f64,
    /// Take minus reference; for sizes the ratio.
    pub difference: f64,
    /// Unit.
    pub unit: Unit,
    /// One standard deviation of the difference.
    pub sd: f64,
    /// Surely different: over twice the standard deviation.
    pub sure: bool,
    /// Whether the pictures tell it at all; else the spread is wider than anything it could be.
    #[serde(default = "yes")]
    pub told: bool,
}

fn yes() -> bool {
    true
}

/// A change to make.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct NextMove {
    /// What kind of change it is.
    pub kind: MoveKind,
    /// Which light.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub light: Option<String>,
    /// In one sentence.
    pub says: String,
    /// How much, in its unit: what the take must change by.
    pub amount: f64,
    /// Its unit.
    pub unit: Unit,
    /// The difference over what can be told.
    pub off_sd: f64,
    /// Share of all that surely differs which it takes away.
    pub gain: f64,
}

/// A picture with what was marked and read.
#[derive(Debug, Clone, Copy)]
pub struct Pictured<'a> {
    /// The picture.
    pub photo: &'a Photo,
    /// Its marks.
    pub marks: &'a Marks,
    /// What was read.
    pub readings: &'a Readings,
}

/// Under these differences nobody sees them (common practice): added to each spread when moves are ranked.
pub const SEEN_STOPS: f64 = 0.08;
/// The same of directions.
pub const SEEN_DEG: f64 = 2.0;
const SEEN_LN_SIZE: f64 = 0.12;
/// The same of colour.
pub const SEEN_MIRED: f64 = 6.0;
/// What a bright line that only one picture shows counts: it is not there by chance.
const SINGLE_STRIP: f64 = 6.0;
/// Lights farther apart than this, in degrees, are not one that was moved.
const MOVED_DEG: f64 = 55.0;

/// Pairs out of (cost, first, second), the cheapest first, each used once.
fn cheapest(mut all: Vec<(f64, usize, usize)>) -> Vec<(usize, usize)> {
    all.sort_by(|p, q| p.0.total_cmp(&q.0));
    let mut out: Vec<(usize, usize)> = Vec::new();
    for (_, i, j) in all {
        if !out.iter().any(|(p, q)| *p == i || *q == j) {
            out.push((i, j));
        }
    }
    out
}

/// Pairs of lights, nearest first: indices into the reference and the take.
fn pairs(a: &[Light], b: &[Light]) -> Vec<(usize, usize)> {
    let mut all: Vec<(f64, usize, usize)> = Vec::new();
    for (i, x) in a.iter().enumerate() {
        for (j, y) in b.iter().enumerate() {
            let deg = angle_between(&x.at().vector(), &y.at().vector()).to_degrees();
            let level = x.level_stops.zip(y.level_stops).map_or(0.0, |(p, q)| (p - q).abs());
            if deg < MOVED_DEG {
                all.push((deg + 6.0 * level + if x.role == y.role { 0.0 } else { 10.0 }, i, j));
            }
        }
    }
    let mut out = cheapest(all);
    // each picture has one key: if both are left over, it was moved far
    let left =
        |l: &[Light], taken: &dyn Fn(usize) -> bool| (0..l.len()).find(|k| l[*k].role == Role::Key && !taken(*k));
    if let (Some(i), Some(j)) = (left(a, &|k| out.iter().any(|p| p.0 == k)), left(b, &|k| out.iter().any(|p| p.1 == k)))
    {
        out.push((i, j));
    }
    out.sort_unstable();
    out
}

/// A spread in stops as it is written: never nothing.
fn told(sd: f64) -> f64 {
    sd.max(0.051)
}

/// Compares a take with its reference. `lies` tells where the reference lies in the take and is asked only if a face is
/// marked in both; `heads` brings the stand-ins faces are read with.
pub fn compare(
    reference: Pictured,
    take: Pictured,
    lies: &dyn Fn() -> Result<Alignment, String>,
    heads: Heads,
) -> Comparison {
    let (a, b) = (&reference.readings.lights, &take.readings.lights);
    let mut out = Comparison::default();
    let matched = pairs(a, b);
    let strips = strip_changes(&reference, &take, &matched);
    let (strips, single) = (strips.both, strips.single);
    let seen = brightness::change(&reference, &take);
    if seen.is_none() && strips.is_empty() {
        out.warnings.push(
            "No part is marked in both pictures (a ball, a patch, a face, a cylinder with a bright line): exposure and \
             colour cannot be compared."
                .into(),
        );
    }
    out.warnings.extend(lost(reference.readings, take.readings));
    // each light's own change in stops: brightness of the lit side, and its level against the key's
    let lit = seen.as_ref().map_or((0.0, 9.0), |s| s.stops);
    let mut changes: Vec<Option<(f64, f64)>> = matched
        .iter()
        .enumerate()
        .map(|(k, &(i, j))| {
            if let Some(level) = strips.iter().find(|s| s.of == Some(k)).and_then(|s| s.level) {
                return Some(level);
            }
            let (p, q) = (a[i].level_stops?, b[j].level_stops?);
            let sd = a[i].level_sd_stops.unwrap_or(0.3).hypot(b[j].level_sd_stops.unwrap_or(0.3));
            Some((lit.0 + q - p, if i == 0 && j == 0 { lit.1 } else { sd.hypot(lit.1) }))
        })
        .collect();
    let others: Vec<&StripChange> = strips.iter().filter(|s| s.of.is_none()).collect();
    changes.extend(others.iter().map(|s| s.level));
    // with no light of its own to tell from, what is lit tells the exposure
    if changes.iter().all(Option::is_none) && seen.is_some() {
        changes.push(Some(lit));
    }
    let ambient = reference.readings.ambient.as_ref().zip(take.readings.ambient.as_ref());
    let room = ambient.map(|(p, q)| {
        (lit.0 + q.level_stops - p.level_stops, p.level_sd_stops.hypot(q.level_sd_stops).hypot(lit.1).max(0.1))
    });
    let set_alike = reference.marks.exposure.zip(take.marks.exposure).is_some_and(|(p, q)| p == q);
    let apart = levels(&changes, room, lit.1, set_alike, SEEN_STOPS);
    let compared = seen.is_some() || strips.iter().any(|s| s.level.is_some());
    if let (Some((e, sd)), true) = (apart.common, compared) {
        out.d_exposure_stops = Some(e);
        out.d_exposure_sd_stops = sd;
        exposure(&mut out, e, sd);
    }
    colours(&mut out, reference.readings, take.readings, &matched, &strips, seen.and_then(|s| s.colour));
    for (k, &(i, j)) in matched.iter().enumerate() {
        let mut alike = by_marks(reference.readings, take.readings, &a[i], &b[j]);
        if let Some(s) = strips.iter().find(|s| s.of == Some(k)) {
            s.sharpen(&mut alike);
        }
        one(&mut out, &a[i], &b[j], apart.own[k], alike);
    }
    for (s, level) in others.iter().zip(&apart.own[matched.len()..]) {
        strip(&mut out, s, *level);
    }
    alone(&mut out, a, b, &matched);
    single.iter().for_each(|s| single_strip(&mut out, s));
    if let (Some((p, q)), Some((d, sd))) = (ambient, apart.room.filter(|_| compared)) {
        line(&mut out, Term::Room, p.level_stops, q.level_stops, d, Unit::Stops, sd);
        push_room(&mut out, d, sd);
    }
    // the same face in both says more by the ratio of the two than by two readings
    faces::refine(&mut out, &reference, &take, lies, heads);
    let sure: f64 = out.next_moves.iter().map(|m| m.off_sd * m.off_sd).sum();
    // where nothing is surely off by itself and yet something is, the likeliest is said to be that
    let likeliest = out.next_moves.iter().max_by(|a, b| a.off_sd.abs().total_cmp(&b.off_sd.abs())).cloned();
    out.next_moves.retain(|m| m.off_sd.abs() > 2.0);
    if let Some(m) = likeliest.filter(|m| out.next_moves.is_empty() && m.off_sd.abs() > LIKELY) {
        let says = format!("Probably this, though it may be several things at once: {}", m.says);
        out.next_moves.push(NextMove { says, ..m });
    }
    for m in &mut out.next_moves {
        m.gain = m.off_sd * m.off_sd / sure.max(1e-9);
        m.off_sd = m.off_sd.abs();
    }
    out.next_moves.sort_by(|x, y| y.off_sd.total_cmp(&x.off_sd));
    out
}

/// What is off by more than this of what can be told, where nothing is off by twice that, is worth a word.
const LIKELY: f64 = 1.0;

/// Marks that were read in the reference and cannot be in the take, so that they are not compared.
fn lost(reference: &Readings, take: &Readings) -> Vec<String> {
    let unread = |r: &Readings, id: &str| {
        let found = r.warnings.iter().find(|w| w.mark.as_deref() == Some(id) && w.code.ends_with("_unread"));
        found.map(|w| w.text.clone())
    };
    let ids = reference.by_mark.keys().filter(|id| unread(reference, id).is_none());
    ids.filter_map(|id| unread(take, id).map(|why| format!("Mark {id} is not compared. In the take: {why}"))).collect()
}

/// Colour of the whole picture, and of single lights besides: by the fewest changes, as with levels.
fn colours(
    out: &mut Comparison,
    reference: &Readings,
    take: &Readings,
    matched: &[(usize, usize)],
    strips: &[StripChange],
    seen: Option<ColourShift>,
) {
    let whole = seen.map(|s| (s.mired, s.mired_sd));
    let beside = |r: &Readings, role: &str| {
        r.colours.iter().find(|c| c.of == role && c.against == "key").map(|c| (c.mired, c.mired_sd))
    };
    let mut of: Vec<(&str, Option<(f64, f64)>)> = Vec::new();
    for (k, &(i, j)) in matched.iter().enumerate() {
        let role = reference.lights[i].role.word();
        let by_strip = strips.iter().find(|s| s.of == Some(k)).and_then(|s| s.colour);
        let own = match (by_strip, whole) {
            (Some(c), _) => Some((c.mired, c.mired_sd)),
            (None, Some(w)) if role == "key" => Some(w),
            (None, Some(w)) => beside(reference, role)
                .zip(beside(take, take.lights[j].role.word()))
                .map(|(p, q)| (w.0 + q.0 - p.0, w.1.hypot(p.1).hypot(q.1))),
            _ => None,
        };
        of.push((role, own));
    }
    of.extend(
        strips.iter().filter(|s| s.of.is_none()).map(|s| (s.role.as_str(), s.colour.map(|c| (c.mired, c.mired_sd)))),
    );
    let mut changes: Vec<Option<(f64, f64)>> = of.iter().map(|c| c.1).collect();
    if changes.iter().all(Option::is_none) {
        changes.push(whole);
    }
    let apart = levels(&changes, None, whole.map_or(SEEN_MIRED, |w| w.1), false, SEEN_MIRED);
    let Some((all, sd)) = apart.common.filter(|_| changes.iter().any(Option::is_some)) else { return };
    out.d_mired = Some(all);
    out.d_mired_sd = sd;
    line(out, Term::Colour, 0.0, all, all, Unit::Mired, sd);
    let warmer = |v: f64| if v > 0.0 { "warmer" } else { "cooler" };
    push(
        out,
        MoveKind::WhiteBalance,
        None,
        -all,
        Unit::Mired,
        all / sd.hypot(SEEN_MIRED),
        format!(
            "The take is {:.0} ± {sd:.0} mired {}: balance it, or filter the light by {} mired.",
            all.abs(),
            warmer(all),
            signed(-all, 0)
        ),
    );
    // one light alone is the whole picture's
    if of.iter().filter(|c| c.1.is_some()).count() < 2 {
        return;
    }
    for ((role, _), own) in of.iter().zip(&apart.own) {
        let Some((d, sd)) = *own else { continue };
        line(out, Term::of(role, Aspect::Colour), 0.0, d, d, Unit::Mired, sd);
        push(
            out,
            MoveKind::Colour,
            Some(role),
            -d,
            Unit::Mired,
            d / sd.hypot(SEEN_MIRED),
            format!(
                "The {role} alone is {:.0} ± {sd:.0} mired {} than in the reference: filter it by {} mired.",
                d.abs(),
                warmer(d),
                signed(-d, 0)
            ),
        );
    }
}

/// A light that only a cylinder shows: how far round it stands, how wide it looks, what it gives.
fn strip(out: &mut Comparison, s: &StripChange, level: Option<(f64, f64)>) {
    let role = s.role.as_str();
    let ((az, sd), (wide, wide_sd)) = (s.way, s.size);
    line(out, Term::of(role, Aspect::Round), s.at_deg[0], s.at_deg[1], az, Unit::Degrees, sd);
    push_direction(out, role, (az, 0.0), 0.0, az.abs(), sd);
    let ratio = wide.exp();
    line(out, Term::of(role, Aspect::Size), s.wide_deg, s.wide_deg * ratio, ratio, Unit::Times, wide_sd);
    push_size(out, role, ratio, wide_sd);
    if let Some((d, sd)) = level {
        line(out, Term::of(role, Aspect::Level), 0.0, d, d, Unit::Stops, sd);
        push_level(out, role, d, sd);
    }
    out.lights.push(LightDifference {
        role: role.into(),
        d_azimuth_deg: Some(az),
        d_elevation_deg: None,
        direction_deg: Some(az.abs()),
        direction_sd_deg: sd,
        d_angular_size_ratio: Some(ratio),
        size_sd: Some(wide_sd),
        d_level_stops: level.map(|l| l.0),
        level_sd_stops: level.map(|l| l.1),
        reference_deg: None,
        take_deg: None,
        take_size_deg: None,
        only_in: None,
    });
}

/// A bright line that only one picture shows.
fn single_strip(out: &mut Comparison, s: &SingleStrip) {
    let side = if s.at_deg > 0.0 { "right" } else { "left" };
    let line = format!(
        "a bright line from {:.0} ± {:.0}° to camera {side}, {:.0}° wide,",
        s.at_deg.abs(),
        s.sd_deg,
        s.wide_deg
    );
    let (kind, says) = if s.in_take {
        (MoveKind::Remove, format!("The take shows {line} that the reference lacks: take that light away or flag it."))
    } else {
        (MoveKind::Add, format!("The reference shows {line} that the take lacks: add that light."))
    };
    push(out, kind, None, s.stops, Unit::Stops, SINGLE_STRIP, says);
}

/// The exposure of the whole picture, with its move.
fn exposure(out: &mut Comparison, e: f64, sd: f64) {
    line(out, Term::Exposure, 0.0, e, e, Unit::Stops, sd);
    push(
        out,
        MoveKind::Exposure,
        None,
        -e,
        Unit::Stops,
        e / sd.hypot(SEEN_STOPS),
        format!(
            "Expose the take {:.1} ± {:.1} stops {}: aperture, shutter, ISO or all lights alike.",
            e.abs(),
            told(sd),
            if e > 0.0 { "less" } else { "more" }
        ),
    );
}

impl LedgerLine {
    /// A line; sizes (×) differ by their ratio.
    pub fn new(what: Term, reference: f64, take: f64, difference: f64, unit: Unit, sd: f64) -> LedgerLine {
        let sure = unit.scale(difference).abs() > 2.0 * sd;
        LedgerLine { what, reference, take, difference, unit, sd, sure, told: sd <= unit.widest_sd() }
    }
}

fn line(out: &mut Comparison, what: Term, reference: f64, take: f64, difference: f64, unit: Unit, sd: f64) {
    out.ledger.push(LedgerLine::new(what, reference, take, difference, unit, sd));
}

fn push(out: &mut Comparison, kind: MoveKind, light: Option<&str>, amount: f64, unit: Unit, off_sd: f64, says: String) {
    out.next_moves.push(NextMove { kind, light: light.map(str::to_owned), says, amount, unit, off_sd, gain: 0.0 });
}

/// A light is off by `az`, `el` degrees.
fn push_direction(out: &mut Comparison, role: &str, (az, el): (f64, f64), up_deg: f64, deg: f64, sd: f64) {
    let parts = [
        (az.abs() * up_deg.to_radians().cos() > 1.0)
            .then(|| format!("{:.0}° to camera {}", az.abs(), if az > 0.0 { "left" } else { "right" })),
        (el.abs() > 1.0).then(|| format!("{:.0}° {}", el.abs(), if el > 0.0 { "down" } else { "up" })),
    ];
    let way = parts.into_iter().flatten().collect::<Vec<_>>().join(" and ");
    push(
        out,
        MoveKind::Direction,
        Some(role),
        deg,
        Unit::Degrees,
        deg / sd.hypot(SEEN_DEG),
        format!("Move the {role} {way} (± {sd:.0}°)."),
    );
}

/// A light is `ratio` times as large.
fn push_size(out: &mut Comparison, role: &str, ratio: f64, sd: f64) {
    push(
        out,
        MoveKind::Size,
        Some(role),
        1.0 / ratio,
        Unit::Times,
        ratio.ln() / sd.hypot(SEEN_LN_SIZE),
        format!(
            "Make the {role} {:.2} times (± {:.0} %) as large seen from the subject: {} or a {} face.",
            1.0 / ratio,
            100.0 * sd,
            if ratio > 1.0 { "farther away" } else { "nearer" },
            if ratio > 1.0 { "smaller" } else { "larger" }
        ),
    );
}

/// A light is `d` stops too strong.
fn push_level(out: &mut Comparison, role: &str, d: f64, sd: f64) {
    push(
        out,
        MoveKind::Level,
        Some(role),
        -d,
        Unit::Stops,
        d / sd.hypot(SEEN_STOPS),
        format!(
            "Power of the {role} {} by {:.1} ± {:.1} stops.",
            if d > 0.0 { "down" } else { "up" },
            d.abs(),
            told(sd)
        ),
    );
}

/// The room's light is `d` stops too strong.
fn push_room(out: &mut Comparison, d: f64, sd: f64) {
    push(
        out,
        MoveKind::Level,
        Some("ambient"),
        -d,
        Unit::Stops,
        d / sd.hypot(0.2),
        format!(
            "The room's light is {:.1} ± {:.1} stops {} than in the reference: {}.",
            d.abs(),
            told(sd),
            if d > 0.0 { "stronger" } else { "weaker" },
            if d > 0.0 { "close curtains, take white things away" } else { "let some in, or bring a board nearer" }
        ),
    );
}

/// One light that both have.
fn one(out: &mut Comparison, p: &Light, q: &Light, level: Option<(f64, f64)>, marks: Option<ByMarks>) {
    let role = p.role.word();
    // what is wrong with a reading is mostly wrong in both: a third of the spread is left
    let all_sd = p.direction_sd_deg.hypot(q.direction_sd_deg) / 3.0 + 0.3;
    let whole = (wrapped_deg(q.azimuth_deg - p.azimuth_deg), q.elevation_deg - p.elevation_deg, all_sd);
    let (az, el, sd) = marks.as_ref().map(|m| m.way).filter(|w| w.2 < all_sd).unwrap_or(whole);
    let went = AzEl { azimuth_deg: p.azimuth_deg + az, elevation_deg: (p.elevation_deg + el).clamp(-90.0, 90.0) };
    let deg = angle_between(&p.at().vector(), &went.vector()).to_degrees();
    let range = |l: &Light| l.angular_size_range_deg.map_or(0.5, |[lo, hi]| ((hi / lo.max(0.01)).ln() / 2.0).min(2.0));
    let all_size = p.angular_size_deg.zip(q.angular_size_deg).map(|(x, y)| y / x);
    let all_size_sd = (range(p).hypot(range(q)) / 2.0).max(0.05);
    let by_mark = marks.and_then(|m| m.size).filter(|s| s.1 <= all_size_sd && all_size.is_some());
    let (size, size_sd) = by_mark.map_or((all_size, all_size_sd), |(ln, sd)| (Some(ln.exp()), sd));
    line(
        out,
        Term::of(role, Aspect::Round),
        p.azimuth_deg,
        q.azimuth_deg,
        az,
        Unit::Degrees,
        sd / p.at().elevation_deg.to_radians().cos().max(0.2),
    );
    line(out, Term::of(role, Aspect::Up), p.elevation_deg, q.elevation_deg, el, Unit::Degrees, sd);
    push_direction(out, role, (az, el), p.at().elevation_deg, deg, sd);
    if let Some(ratio) = size {
        line(
            out,
            Term::of(role, Aspect::Size),
            p.angular_size_deg.unwrap_or(0.0),
            q.angular_size_deg.unwrap_or(0.0),
            ratio,
            Unit::Times,
            size_sd,
        );
        push_size(out, role, ratio, size_sd);
    }
    if let Some((d, sd)) = level {
        line(
            out,
            Term::of(role, Aspect::Level),
            p.level_stops.unwrap_or(0.0),
            q.level_stops.unwrap_or(0.0),
            d,
            Unit::Stops,
            sd,
        );
        push_level(out, role, d, sd);
    }
    out.lights.push(LightDifference {
        role: role.into(),
        d_azimuth_deg: Some(az),
        d_elevation_deg: Some(el),
        direction_deg: Some(deg),
        direction_sd_deg: sd,
        d_angular_size_ratio: size,
        size_sd: size.map(|_| size_sd),
        d_level_stops: level.map(|l| l.0),
        level_sd_stops: level.map(|l| l.1),
        reference_deg: Some([p.azimuth_deg, p.elevation_deg]),
        take_deg: Some([q.azimuth_deg, q.elevation_deg]),
        take_size_deg: q.angular_size_deg,
        only_in: None,
    });
}

/// Lights that only one picture has.
fn alone(out: &mut Comparison, a: &[Light], b: &[Light], matched: &[(usize, usize)]) {
    let missing = (0..a.len()).filter(|i| !matched.iter().any(|m| m.0 == *i)).map(|i| (&a[i], "reference"));
    let added = (0..b.len()).filter(|j| !matched.iter().any(|m| m.1 == *j)).map(|j| (&b[j], "take"));
    for (l, only) in missing.chain(added) {
        let level = l.level_stops.unwrap_or(-3.0);
        // a faint light is easily missed in one of the two
        let off = (level + 5.0).max(0.0) * if l.evidence.len() > 1 { 2.0 } else { 1.0 };
        let from = direction_figures(l.azimuth_deg, l.elevation_deg, l.direction_sd_deg);
        let stops = format!("{} ± {:.1} stops", signed(level, 1), told(l.level_sd_stops.unwrap_or(0.5)));
        let (kind, says) = match only {
            "reference" => (
                MoveKind::Add,
                format!("The reference has a {} from {from}, at {stops}, that the take lacks: add it.", l.role),
            ),
            _ => (
                MoveKind::Remove,
                format!(
                    "The take has a {} from {from}, at {stops}, that the reference lacks: take it away or flag it.",
                    l.role
                ),
            ),
        };
        push(out, kind, Some(l.role.word()), level, Unit::Stops, off, says);
        out.lights.push(LightDifference {
            role: l.role.to_string(),
            d_azimuth_deg: None,
            d_elevation_deg: None,
            direction_deg: None,
            direction_sd_deg: l.direction_sd_deg,
            d_angular_size_ratio: None,
            size_sd: None,
            d_level_stops: None,
            level_sd_stops: None,
            reference_deg: (only == "reference").then_some([l.azimuth_deg, l.elevation_deg]),
            take_deg: (only == "take").then_some([l.azimuth_deg, l.elevation_deg]),
            take_size_deg: l.angular_size_deg.filter(|_| only == "take"),
            only_in: Some(only.into()),
        });
    }
}
