//! The same face in both pictures: what changed, by the ratio of the two.

use super::{
    Alignment, Comparison, LedgerLine, LightDifference, Pictured, exposure, push_direction, push_level, push_room,
    push_size,
};
use crate::terms::{Aspect, MoveKind, Term, Unit};
use direction::face::{Change, FaceChange, Given, Told, change};
use evidence::marks::{Face, MarkKind, Marks, Point};
use evidence::read::Heads;
use evidence::readings::Light;
use optics::geometry::{AzEl, Vec3, angle_between, wrapped_deg};
use optics::role::Role;
use std::collections::BTreeMap;

/// Landmarks may lie this far from where the pictures say, as a share of the face's height.
const SAME_POSE: f64 = 0.06;
/// A catchlight's way from one picture to the other is told to this, radians: what is wrong is wrong in both.
const GLINT_SD: f64 = 0.045;
/// A level of a light that the reference's reading does not have, natural log.
const FAINT: f64 = -2.5;

fn face_of(m: &Marks) -> Option<&BTreeMap<String, Point>> {
    m.marks.iter().filter(|m| !m.off).find_map(|m| match &m.kind {
        MarkKind::Face(Face { points, .. }) => Some(points),
        _ => None,
    })
}

/// A ball tells more than a face.
fn has_ball(m: &Marks) -> bool {
    m.marks.iter().any(|m| !m.off && matches!(m.kind, MarkKind::Ball(_)))
}

/// How far the strongest catchlights of the eyes went, in the direction of light.
fn glint(reference: &Pictured, take: &Pictured, key: &Vec3) -> Option<(Vec3, f64)> {
    let strongest = |p: &Pictured, id: &str, near: Option<&Vec3>| -> Option<Vec3> {
        let list = p.readings.by_mark.get(id)?.catchlights.as_ref()?;
        let best = list
            .iter()
            .filter(|s| near.is_none_or(|n| angle_between(&s.at().vector(), n) < 0.35))
            .max_by(|a, b| a.level_stops.unwrap_or(0.0).total_cmp(&b.level_stops.unwrap_or(0.0)))?;
        Some(best.at().vector())
    };
    let mut ways: Vec<Vec3> = Vec::new();
    for m in reference.marks.marks.iter().filter(|m| !m.off && matches!(m.kind, MarkKind::Eye(_))) {
        let (Some(p), Some(q)) = (strongest(reference, &m.id, Some(key)), strongest(take, &m.id, None)) else {
            continue;
        };
        ways.push(q - p);
    }
    if ways.is_empty() {
        return None;
    }
    let mean = ways.iter().sum::<Vec3>() / ways.len() as f64;
    // two eyes that disagree took two lights for one
    let apart = ways.iter().map(|w| (w - mean).norm()).fold(0.0, f64::max);
    (apart < 0.15).then(|| (mean, GLINT_SD.hypot(apart) / (ways.len() as f64).sqrt()))
}

/// What the face says takes the place of what two readings say, unless balls say more.
pub(super) fn refine(
    out: &mut Comparison,
    reference: &Pictured,
    take: &Pictured,
    lies: &dyn Fn() -> Result<Alignment, String>,
    heads: Heads,
) {
    if has_ball(reference.marks) || has_ball(take.marks) {
        return;
    }
    let (Some(points), Some(theirs)) = (face_of(reference.marks), face_of(take.marks)) else { return };
    let Some(lies) = lies().ok().filter(Alignment::sure) else { return };
    let high = {
        let y = |p: &BTreeMap<String, Point>| {
            let v = p.values().map(|q| q[1]);
            v.clone().fold(f64::MIN, f64::max) - v.fold(f64::MAX, f64::min)
        };
        y(theirs).max(1.0)
    };
    let off: Vec<f64> = points
        .iter()
        .filter_map(|(n, p)| theirs.get(n).map(|q| (lies.point(*p), *q)))
        .map(|(p, q)| (p[0] - q[0]).hypot(p[1] - q[1]) / high)
        .collect();
    if off.is_empty() || off.iter().sum::<f64>() / off.len() as f64 > SAME_POSE {
        out.warnings.push(
            "The head is turned or placed otherwise than in the reference: its light is compared by two readings, which \
             tells less than the same head in the same place."
                .into(),
        );
        return;
    }
    let (lights, roles) = given(reference, take);
    if lights.is_empty() {
        return;
    }
    let (camera, _) = reference.marks.camera_for(reference.photo.width(), reference.photo.height());
    let room = reference.readings.ambient.as_ref().map(|a| a.level_stops * std::f64::consts::LN_2);
    let point = |p: Point| lies.point(p);
    let Ok(found) = change(reference.photo, camera, points, take.photo, &point, &lights, room, heads()) else { return };
    write(out, &found, &lights, &roles);
}

/// Lights of the reference, with one more if only the take shows it.
fn given(reference: &Pictured, take: &Pictured) -> (Vec<Given>, Vec<String>) {
    let one = |l: &Light, level: f64| Given {
        direction: l.at().vector(),
        half: (l.angular_size_deg.unwrap_or(20.0) / 2.0).to_radians().clamp(0.02, 0.9),
        log_level: level,
        glint: None,
    };
    let ln2 = std::f64::consts::LN_2;
    let mut lights: Vec<Given> = Vec::new();
    let mut roles: Vec<String> = Vec::new();
    for l in &reference.readings.lights {
        // two that lie together are one
        if lights.iter().any(|g| angle_between(&g.direction, &l.at().vector()) < 0.6) || lights.len() > 2 {
            continue;
        }
        lights.push(one(l, l.level_stops.map_or(FAINT, |s| s * ln2)));
        roles.push(l.role.to_string());
    }
    for l in &take.readings.lights {
        let near = lights.iter().any(|g| angle_between(&g.direction, &l.at().vector()) < 0.9);
        if lights.len() < 3 && !near && l.role != Role::Key && !lights.is_empty() {
            lights.push(one(l, l.level_stops.map_or(FAINT, |s| s * ln2)));
            roles.push(l.role.to_string());
        }
    }
    if let Some(key) = lights.first_mut() {
        key.glint = glint(reference, take, &key.direction);
    }
    (lights, roles)
}

/// Puts a difference in the place of what two readings say.
fn replace(out: &mut Comparison, what: Term, difference: f64, unit: Unit, sd: f64) {
    let at = out.ledger.iter().position(|l| l.what == what);
    let reference = at.map_or(0.0, |i| out.ledger[i].reference);
    let take = if unit == Unit::Times { reference * difference } else { reference + difference };
    let new = LedgerLine::new(what, reference, take, difference, unit, sd);
    match at {
        Some(i) => out.ledger[i] = new,
        None => out.ledger.push(new),
    }
}

/// The move that was told last counts by what the face says it takes away.
fn by_units(out: &mut Comparison, t: &Told) {
    if let Some(m) = out.next_moves.last_mut() {
        m.off_sd = t.units;
    }
}

/// Writes what was found over what two readings say: levels, directions, sizes and the exposure.
fn write(out: &mut Comparison, found: &FaceChange, lights: &[Given], roles: &[String]) {
    out.next_moves.retain(|m| m.kind == MoveKind::WhiteBalance || m.kind == MoveKind::Colour);
    let of = |want: Change| found.told.iter().find(|t| t.change == want);
    // what was not found to change is known as well as a change of it would have been
    let held = |want: Change, least: f64| found.held.iter().find(|h| h.0 == want).map_or(least, |h| h.1.max(least));
    let e = of(Change::Exposure);
    let (stops, sd) = e.map_or((0.0, held(Change::Exposure, 0.05)), |t| (t.amount, t.sd));
    out.d_exposure_stops = Some(stops);
    out.d_exposure_sd_stops = sd;
    out.ledger.retain(|l| l.what != Term::Exposure);
    exposure(out, stops, sd);
    if let Some(t) = e {
        by_units(out, t);
    }
    // it comes first
    out.ledger.rotate_right(1);
    let mut lines: Vec<LightDifference> = Vec::new();
    for (k, role) in roles.iter().enumerate() {
        let from = lights[k].at();
        let size_deg = (2.0 * lights[k].half).to_degrees();
        let (mut az, mut el, mut deg) = (0.0, 0.0, 0.0);
        let mut direction_sd = held(Change::Direction(k), 0.02).to_degrees();
        let mut at = from;
        if let Some((t, to)) = of(Change::Direction(k)).and_then(|t| Some((t, t.direction?))) {
            at = AzEl::of(&to);
            (az, el) = (wrapped_deg(at.azimuth_deg - from.azimuth_deg), at.elevation_deg - from.elevation_deg);
            (deg, direction_sd) = (t.amount.to_degrees(), t.sd.to_degrees());
            push_direction(out, role, (az, el), from.elevation_deg, deg, direction_sd);
            by_units(out, t);
        }
        let (mut ratio, mut size_sd) = (1.0, held(Change::Size(k), 0.05));
        if let Some(t) = of(Change::Size(k)) {
            (ratio, size_sd) = (t.amount.exp(), t.sd);
            push_size(out, role, ratio, size_sd);
            by_units(out, t);
        }
        let (mut level, mut level_sd) = (0.0, held(Change::Level(k), 0.05));
        if let Some(t) = of(Change::Level(k)) {
            (level, level_sd) = (t.amount, t.sd);
            push_level(out, role, level, level_sd);
            by_units(out, t);
        }
        let cos = from.elevation_deg.to_radians().cos().max(0.2);
        replace(out, Term::of(role, Aspect::Round), az, Unit::Degrees, direction_sd / cos);
        replace(out, Term::of(role, Aspect::Up), el, Unit::Degrees, direction_sd);
        replace(out, Term::of(role, Aspect::Size), ratio, Unit::Times, size_sd);
        replace(out, Term::of(role, Aspect::Level), level, Unit::Stops, level_sd);
        lines.push(LightDifference {
            role: role.clone(),
            d_azimuth_deg: Some(az),
            d_elevation_deg: Some(el),
            direction_deg: Some(deg),
            direction_sd_deg: direction_sd,
            d_angular_size_ratio: Some(ratio),
            size_sd: Some(size_sd),
            d_level_stops: Some(level),
            level_sd_stops: Some(level_sd),
            reference_deg: Some([from.azimuth_deg, from.elevation_deg]),
            take_deg: Some([at.azimuth_deg, at.elevation_deg]),
            take_size_deg: Some(size_deg * ratio),
            only_in: None,
        });
    }
    out.lights = lines;
    if let Some(t) = of(Change::Room) {
        replace(out, Term::Room, t.amount, Unit::Stops, t.sd);
        push_room(out, t.amount, t.sd);
        by_units(out, t);
    }
    // lines of lights that only one reading had are settled by the face
    let known = |l: &LedgerLine| l.what.light().is_none_or(|role| roles.iter().any(|r| r == role));
    out.ledger.retain(known);
}
