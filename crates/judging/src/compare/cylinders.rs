//! How the bright lines of a glossy cylinder differ: each is the picture of a light that may have no other mark.

use super::by_marks::ByMarks;
use super::{Pictured, cheapest};
use direction::cylinder::{self, Strip};
use evidence::marks::{MarkKind, Marks, Point};
use evidence::readings::Light;
use optics::colour::ColourShift;
use optics::geometry::Camera;
use optics::words::signed;

/// A line of the reference that the take has too.
pub(super) struct StripChange {
    /// Role of the light it shows.
    pub role: String,
    /// Which of the lights that both readings have it is, if any.
    pub of: Option<usize>,
    /// Middle of the line in the reference and in the take, degrees round the axis.
    pub at_deg: [f64; 2],
    /// Angle it fills in the reference, degrees.
    pub wide_deg: f64,
    /// Degrees round, with one standard deviation.
    pub way: (f64, f64),
    /// Log of the ratio of angles, with one standard deviation.
    pub size: (f64, f64),
    /// What the light gives at the subject, stops, with one standard deviation; not if it is clipped.
    pub level: Option<(f64, f64)>,
    /// Its colour.
    pub colour: Option<ColourShift>,
    /// What it gives in the reference, beside the other lines.
    weight: f64,
}

/// What lies behind the cylinder is mirrored at its rims: lines farther round than this are not lamps in front, degrees.
const BEHIND_DEG: f64 = 150.0;
/// From here round a light is a rim.
const RIM_DEG: f64 = 100.0;
/// A line shows a light that another mark has if it lies this near, degrees: a near lamp is seen elsewhere from the
/// cylinder than from the other mark.
const SAME_DEG: f64 = 18.0;
/// Lines farther apart than this are not one that was moved, degrees.
const MOVED_DEG: f64 = 55.0;
/// Light of a line is told to this, stops.
const LEVEL_SD: f64 = 0.06;
/// Relative error of a channel within a line.
const COLOUR_ERROR: f64 = 0.03;
/// What a line is off by at least, linear light of full scale: steps of the coding, and the ground under it. A line as
/// faint as that is mostly a lit thing, not a lamp.
const GROUND_ERROR: f64 = 0.004;

impl StripChange {
    /// A light that another mark has too: round and width go by the line where it tells them better.
    pub(super) fn sharpen(&self, by: &mut Option<ByMarks>) {
        let Some(m) = by else { return };
        if self.way.1 < m.way.2 {
            m.way.0 = self.way.0;
        }
        if m.size.is_none_or(|s| s.1 > self.size.1) {
            m.size = Some(self.size);
        }
    }
}

/// Cylinders that stand upright in the picture.
fn upright(m: &Marks) -> Vec<(&str, [Point; 2], f64)> {
    let mut out = Vec::new();
    for mark in m.marks.iter().filter(|m| !m.off) {
        if let MarkKind::Cylinder(c) = &mark.kind {
            let (axis, radius) = c.upright();
            let (dx, dy) = (axis[1][0] - axis[0][0], axis[1][1] - axis[0][1]);
            if dx.abs() < 0.35 * dy.abs() {
                out.push((mark.id.as_str(), axis, radius));
            }
        }
    }
    out
}

fn strips(p: &Pictured, camera: Camera, axis: [Point; 2], radius: f64) -> Vec<Strip> {
    let read = cylinder::read(p.photo, camera, axis, radius).map(|r| r.strips).unwrap_or_default();
    read.into_iter().filter(|s| s.middle_deg().abs() < BEHIND_DEG).collect()
}

/// Pairs of lines, nearest first.
fn pairs(a: &[Strip], b: &[Strip]) -> Vec<(usize, usize)> {
    let mut all: Vec<(f64, usize, usize)> = Vec::new();
    for (i, s) in a.iter().enumerate() {
        for (j, t) in b.iter().enumerate() {
            let deg = (s.middle_deg() - t.middle_deg()).abs();
            if deg < MOVED_DEG {
                all.push((deg + 6.0 * (s.light() / t.light()).log2().abs(), i, j));
            }
        }
    }
    cheapest(all)
}

fn change(s: &Strip, t: &Strip) -> StripChange {
    // the mark is carried over: where a hand put it is off in both alike
    let sd = (s.own_sd().hypot(t.own_sd()) / std::f64::consts::SQRT_2).to_degrees();
    let wide = (t.wide() / s.wide()).ln();
    let wide_sd = (s.wide_sd() / s.wide()).hypot(t.wide_sd() / t.wide());
    // a line as large again gives up to four times as much: only its width is seen
    let grown = wide / std::f64::consts::LN_2;
    let gloss = (cylinder::reflectance(t.middle_deg().to_radians())
        / cylinder::reflectance(s.middle_deg().to_radians()))
    .log2();
    let bright = (t.light() / s.light()).log2() - gloss;
    let faint = GROUND_ERROR / s.light().min(t.light()).max(1e-4);
    let told = !s.clipped && !t.clipped && s.light() > 1e-4 && t.light() > 1e-4;
    StripChange {
        role: String::new(),
        of: None,
        at_deg: [s.middle_deg(), t.middle_deg()],
        wide_deg: s.wide().to_degrees(),
        way: (t.middle_deg() - s.middle_deg(), sd.max(0.3)),
        size: (wide, wide_sd.max(0.04)),
        level: told.then(|| {
            (
                bright + 1.5 * grown,
                LEVEL_SD.hypot(std::f64::consts::LOG2_E * faint).hypot(0.5 * grown).hypot(0.5 * gloss),
            )
        }),
        colour: ColourShift::between(t.rgb, s.rgb, COLOUR_ERROR.hypot(faint)).filter(|_| told),
        weight: s.light() * s.wide(),
    }
}

/// Lines of one cylinder in two pictures.
#[derive(Default)]
pub(super) struct Strips {
    /// Lines that both show.
    pub both: Vec<StripChange>,
    /// Lines that only one shows.
    pub single: Vec<SingleStrip>,
}

/// A line that only one picture shows.
pub(super) struct SingleStrip {
    /// The take shows it.
    pub in_take: bool,
    /// Degrees round, with one standard deviation.
    pub at_deg: f64,
    pub sd_deg: f64,
    /// Angle it fills, degrees.
    pub wide_deg: f64,
    /// Stops against the brightest line of its picture.
    pub stops: f64,
}

/// A line that only one picture shows is told of from this share of the brightest of both: beside a brighter one it
/// would not count as a line (a quarter does), and fainter ones are mostly lit things.
const CLEAR: f64 = 0.3;

/// Lines of a picture that have no partner, `used` being those that have; `others` are the other picture's.
fn single(lines: &[Strip], used: &[usize], others: &[Strip], in_take: bool) -> Vec<SingleStrip> {
    let brightest = |l: &[Strip]| l.iter().map(Strip::light).fold(0.0, f64::max);
    let most = brightest(lines);
    let clear = |s: &Strip| s.light() > (CLEAR * most.max(brightest(others))).max(8.0 * GROUND_ERROR);
    let free = lines.iter().enumerate().filter(|(k, s)| !used.contains(k) && clear(s));
    free.map(|(_, s)| SingleStrip {
        in_take,
        at_deg: s.middle_deg(),
        sd_deg: s.sd.to_degrees().max(0.3),
        wide_deg: s.wide().to_degrees(),
        stops: (s.light() / most).log2(),
    })
    .collect()
}

/// Lines that both pictures show, with the roles of the lights they are of; `matched` are the lights both readings have.
/// Only the mark with the most lines counts: two bottles see the same lamps.
pub(super) fn strip_changes(reference: &Pictured, take: &Pictured, matched: &[(usize, usize)]) -> Strips {
    let camera = |p: &Pictured| p.marks.camera_for(p.photo.width(), p.photo.height()).0;
    let theirs = upright(take.marks);
    let mut best = Strips::default();
    let mut seen = 0;
    for (id, axis, radius) in upright(reference.marks) {
        let Some((_, other, other_radius)) = theirs.iter().find(|t| t.0 == id) else { continue };
        let a = strips(reference, camera(reference), axis, radius);
        let b = strips(take, camera(take), *other, *other_radius);
        if a.len() + b.len() <= seen {
            continue;
        }
        seen = a.len() + b.len();
        let pairs = pairs(&a, &b);
        let (of_a, of_b): (Vec<usize>, Vec<usize>) = pairs.iter().copied().unzip();
        let mut alone = single(&a, &of_a, &b, false);
        alone.extend(single(&b, &of_b, &a, true));
        best = Strips { both: pairs.iter().map(|&(i, j)| change(&a[i], &b[j])).collect(), single: alone };
    }
    name(&mut best.both, &reference.readings.lights, &take.readings.lights, matched);
    best
}

fn name(found: &mut [StripChange], a: &[Light], b: &[Light], matched: &[(usize, usize)]) {
    // lights that another mark has
    for (k, &(i, j)) in matched.iter().enumerate() {
        let off = |s: &StripChange| {
            let one =
                |l: &Light, at: f64| if l.elevation_deg.abs() > 70.0 { 999.0 } else { (l.azimuth_deg - at).abs() };
            one(&a[i], s.at_deg[0]).max(one(&b[j], s.at_deg[1]))
        };
        let near = found.iter_mut().filter(|s| s.of.is_none()).min_by(|s, t| off(s).total_cmp(&off(t)));
        if let Some(s) = near.filter(|s| off(s) < SAME_DEG) {
            s.of = Some(k);
            s.role = a[i].role.to_string();
        }
    }
    // the others: the one that gives most is the key, if no other mark has one
    let mut taken: Vec<String> = a.iter().map(|l| l.role.to_string()).collect();
    let mut order: Vec<usize> = (0..found.len()).filter(|k| found[*k].of.is_none()).collect();
    order.sort_by(|x, y| found[*y].weight.total_cmp(&found[*x].weight));
    for k in order {
        let at = found[k].at_deg[0];
        let first = match at {
            _ if !taken.iter().any(|t| t == "key") => "key",
            at if at.abs() > RIM_DEG => "rim",
            _ => "fill",
        };
        let role =
            if taken.iter().any(|t| t == first) { format!("{first} at {}°", signed(at, 0)) } else { first.into() };
        taken.push(role.clone());
        found[k].role = role;
    }
}
