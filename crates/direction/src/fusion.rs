//! Clusters what the pieces of evidence say into lights.
//!
//! Sightings of different marks belong to one light if they lie within their common error. Each
//! cluster is fused by inverse variance; where its members disagree more than they claim, the
//! spread is widened by the square root of chi-squared per degree of freedom (the Particle Data
//! Group's scale factor). An eye whose turn is open takes the side that agrees best with the rest.

use super::Seen;
use optics::geometry::{Vec3, angle_between};

/// One sighting and where it comes from.
#[derive(Debug, Clone)]
pub struct Evidence {
    /// Id of the mark.
    pub mark: String,
    /// What it saw.
    pub seen: Seen,
    /// The other solution, if open.
    pub otherwise: Option<Vec3>,
    /// Levels of one mark share a unit: their zero is the strongest light of that mark.
    pub relative_level: Option<(f64, f64)>,
    /// How much this kind of evidence can be trusted to count lights: a matte ball shows all.
    pub counts_lights: bool,
    /// It is a picture of the source, not a sum of its light: a mirror ball.
    pub shows: bool,
    /// Where the mark is, metres across and up from the middle of the picture, if the camera's distance is
    /// known: near lights lie in other directions from places apart.
    pub place_m: Option<[f64; 2]>,
}

/// Distance in metres under which lights seldom stand (common practice), for how far directions to one
/// light may differ from place to place.
const NEAR_M: f64 = 1.0;
/// Usual distance of a light, for how much they do.
const USUAL_M: f64 = 1.6;

/// Metres between two places, square to a direction.
fn apart(a: &Evidence, b: &Evidence) -> f64 {
    let (Some(p), Some(q)) = (a.place_m, b.place_m) else { return 0.0 };
    let d = Vec3::new(p[0] - q[0], p[1] - q[1], 0.0);
    let along = a.seen.direction;
    (d - along * d.dot(&along)).norm()
}

/// A light fused from several pieces of evidence.
#[derive(Debug, Clone)]
pub struct Fused {
    /// The fused sighting; `log_level` is relative to the key.
    pub seen: Seen,
    /// Marks that agree.
    pub marks: Vec<String>,
    /// Sentences on members that disagree.
    pub disagreement: Vec<String>,
    /// Linear RGB as each mark has it, in that mark's own unit.
    pub colours: Vec<(String, [f64; 3])>,
}

/// Clusters and fuses. The strongest light comes first.
pub fn fuse(mut evidence: Vec<Evidence>) -> Vec<Fused> {
    settle_open(&mut evidence);
    one_source_if_shown(&mut evidence);
    let mut clusters: Vec<Vec<usize>> = Vec::new();
    // The surest sightings found the clusters.
    let mut order: Vec<usize> = (0..evidence.len()).collect();
    order.sort_by(|&a, &b| evidence[a].seen.direction_sd.total_cmp(&evidence[b].seen.direction_sd));
    for i in order {
        let e = &evidence[i];
        let mut best: Option<(f64, usize)> = None;
        for (c, members) in clusters.iter().enumerate() {
            if members.iter().any(|&j| evidence[j].mark == e.mark) {
                continue;
            }
            let d = members
                .iter()
                .map(|&j| {
                    let angle = angle_between(&evidence[j].seen.direction, &e.seen.direction);
                    let sd = evidence[j].seen.direction_sd.hypot(e.seen.direction_sd);
                    angle / (2.5 * sd + 0.1 + apart(&evidence[j], e) / NEAR_M)
                })
                .fold(0.0, f64::max);
            if d < 1.0 && best.is_none_or(|(b, _)| d < b) {
                best = Some((d, c));
            }
        }
        match best {
            Some((_, c)) => clusters[c].push(i),
            None => clusters.push(vec![i]),
        }
    }
    common_unit(&mut evidence, &clusters);
    let mut lights: Vec<Fused> = clusters.iter().map(|c| fuse_cluster(&evidence, c)).collect();
    let level = |f: &Fused| f.seen.log_level.map_or(-10.0, |l| l.0);
    lights.sort_by(|a, b| level(b).total_cmp(&level(a)).then(b.marks.len().cmp(&a.marks.len())));
    // Levels relative to the key.
    if let Some((key, key_sd)) = lights.first().and_then(|l| l.seen.log_level) {
        for (i, l) in lights.iter_mut().enumerate() {
            if let Some((v, sd)) = &mut l.seen.log_level {
                *v -= key;
                *sd = if i == 0 { key_sd } else { sd.hypot(key_sd) };
            }
        }
    }
    lights
}

/// How far beyond the edge of a source that a mirror shows a light read from shading may lie and still be
/// that source, radians: probes stand apart from each other, and a source is not evenly bright.
const BESIDE: f64 = 0.12;

/// Shading sums light, so a wide or uneven source may be read as two, or off its middle; a mirror shows it.
/// Lights of one shaded mark that lie inside the one source a mirror shows there become one light in
/// their common direction, with the spread that a quarter of the source's half angle leaves.
fn one_source_if_shown(evidence: &mut Vec<Evidence>) {
    let shown: Vec<(Vec3, f64)> = evidence
        .iter()
        .filter(|e| e.shows)
        .filter_map(|e| Some((e.seen.direction, e.seen.log_size.filter(|s| s.1 < 0.5)?.0.exp() / 2.0)))
        .collect();
    let inside = |d: &Vec3, s: &(Vec3, f64)| angle_between(d, &s.0) < 1.15 * s.1 + BESIDE;
    let marks: std::collections::BTreeSet<String> =
        evidence.iter().filter(|e| e.counts_lights).map(|e| e.mark.clone()).collect();
    for (i, s) in shown.iter().enumerate() {
        // a small source is a point to shading as well
        if s.1 < 0.1 {
            continue;
        }
        for mark in &marks {
            let of_it = |e: &Evidence| {
                e.counts_lights
                    && &e.mark == mark
                    && inside(&e.seen.direction, s)
                    && !shown.iter().enumerate().any(|(k, o)| k != i && inside(&e.seen.direction, o))
            };
            let parts: Vec<Evidence> = evidence.iter().filter(|e| of_it(e)).cloned().collect();
            let Some(first) = parts.first() else { continue };
            let level = |e: &Evidence| e.relative_level.map_or(1.0, |l| l.0.exp());
            let sum: Vec3 = parts.iter().map(|e| e.seen.direction * level(e)).sum();
            let Some(direction) = sum.try_normalize(1e-9) else { continue };
            let sd = parts.iter().map(|e| e.seen.direction_sd).fold(0.25 * s.1, f64::max);
            let total = parts.iter().map(level).sum::<f64>().ln();
            let level_sd = parts.iter().filter_map(|e| e.relative_level).map(|l| l.1).fold(0.02, f64::max);
            let log_size = if parts.len() > 1 { None } else { first.seen.log_size };
            let merged = Evidence {
                seen: Seen { direction, direction_sd: sd, log_size, ..first.seen.clone() },
                relative_level: first.relative_level.map(|_| (total, level_sd)),
                ..first.clone()
            };
            evidence.retain(|e| !of_it(e));
            evidence.push(merged);
        }
    }
}

/// Chooses, for each mark with an open turn, the solution nearer to all other evidence.
fn settle_open(evidence: &mut [Evidence]) {
    let open: std::collections::BTreeSet<String> =
        evidence.iter().filter(|e| e.otherwise.is_some()).map(|e| e.mark.clone()).collect();
    for mark in open {
        let distance = |pick_other: bool| {
            let mut sum = 0.0;
            let mut n = 0;
            for e in evidence.iter().filter(|e| e.mark == mark) {
                let d = if pick_other { e.otherwise.unwrap_or(e.seen.direction) } else { e.seen.direction };
                let near = evidence
                    .iter()
                    .filter(|o| o.mark != mark)
                    .map(|o| {
                        let a = angle_between(&o.seen.direction, &d);
                        o.otherwise.map_or(a, |p| a.min(angle_between(&p, &d)))
                    })
                    .fold(f64::MAX, f64::min);
                if near < 1.0 {
                    sum += near;
                    n += 1;
                }
            }
            (n > 0).then(|| sum / f64::from(n))
        };
        let (Some(a), Some(b)) = (distance(false), distance(true)) else { continue };
        let others_sd = evidence
            .iter()
            .filter(|e| e.mark != mark && e.otherwise.is_none())
            .map(|e| e.seen.direction_sd)
            .fold(0.3, f64::min);
        // Clearly nearer on one side: settled.
        if (a - b).abs() > (2.0 * others_sd).max(0.05) {
            for e in evidence.iter_mut().filter(|e| e.mark == mark) {
                if let Some(o) = e.otherwise.take() {
                    let half = 0.5 * angle_between(&o, &e.seen.direction);
                    if b < a {
                        e.seen.direction = o;
                    }
                    let sd = e.seen.direction_sd;
                    e.seen.direction_sd = (sd * sd - half * half).max(1e-4).sqrt();
                }
            }
        }
    }
}

/// Brings levels to one unit: each mark's zero is its own strongest light, which need not be the same
/// light. Offsets between marks come from the lights they share, by alternating weighted means; a mark
/// that shares none with the mark that saw most says nothing about levels.
fn common_unit(evidence: &mut [Evidence], clusters: &[Vec<usize>]) {
    let of = |e: &Evidence| e.relative_level.map(|(l, sd)| (l, 1.0 / sd.max(1e-3).powi(2)));
    let mut marks: std::collections::BTreeMap<String, usize> = Default::default();
    for e in evidence.iter().filter(|e| e.relative_level.is_some()) {
        *marks.entry(e.mark.clone()).or_default() += 1 + 8 * usize::from(e.counts_lights);
    }
    let Some(first) = marks.iter().max_by_key(|m| *m.1).map(|m| m.0.clone()) else { return };
    let mut offset = std::collections::BTreeMap::from([(first.clone(), 0.0)]);
    let mut level: Vec<Option<f64>> = vec![None; clusters.len()];
    for _ in 0..30 {
        for (k, members) in clusters.iter().enumerate() {
            let known = members.iter().filter_map(|&i| Some((of(&evidence[i])?, *offset.get(&evidence[i].mark)?)));
            let (mut sum, mut w) = (0.0, 0.0);
            known.for_each(|((l, weight), o)| {
                sum += weight * (l - o);
                w += weight;
            });
            level[k] = (w > 0.0).then(|| sum / w);
        }
        for mark in marks.keys().filter(|m| **m != first) {
            let (mut sum, mut w) = (0.0, 0.0);
            for (k, members) in clusters.iter().enumerate() {
                let Some(light) = level[k] else { continue };
                for &i in members.iter().filter(|i| &evidence[**i].mark == mark) {
                    if let Some((l, weight)) = of(&evidence[i]) {
                        sum += weight * (l - light);
                        w += weight;
                    }
                }
            }
            if w > 0.0 {
                offset.insert(mark.clone(), sum / w);
            }
        }
    }
    for e in evidence {
        e.relative_level = e.relative_level.and_then(|(l, sd)| Some((l - offset.get(&e.mark)?, sd)));
    }
}

fn fuse_cluster(evidence: &[Evidence], members: &[usize]) -> Fused {
    let all: Vec<&Evidence> = members.iter().map(|&i| &evidence[i]).collect();
    // each sees the light from its own place; what is wanted is from the middle of them
    let sd_of = |e: &Evidence| {
        let from_middle = all.iter().map(|o| apart(e, o)).sum::<f64>() / all.len() as f64;
        e.seen.direction_sd.max(1e-4).hypot(from_middle / USUAL_M)
    };
    let weight = |e: &Evidence| 1.0 / sd_of(e).powi(2);
    let sum_w: f64 = all.iter().map(|e| weight(e)).sum();
    let direction = all.iter().map(|e| e.seen.direction * weight(e)).sum::<Vec3>().normalize();
    let chi2: f64 = all.iter().map(|e| (angle_between(&e.seen.direction, &direction) / sd_of(e)).powi(2)).sum();
    let dof = (all.len() as f64 - 1.0).max(1.0);
    let widen = if all.len() > 1 { (chi2 / dof).sqrt().max(1.0) } else { 1.0 };
    let direction_sd = widen / sum_w.sqrt();
    let disagreement = all
        .iter()
        .filter(|_| all.len() > 1)
        .filter_map(|e| {
            let off = angle_between(&e.seen.direction, &direction);
            (off > 2.0 * sd_of(e) && off > 0.05)
                .then(|| format!("{} points {:.0}° away from the others", e.mark, off.to_degrees()))
        })
        .collect();
    // what points elsewhere than the others by more than it claims may show another source: its size counts no more than that
    let size = inverse_variance(all.iter().filter_map(|e| e.seen.log_size)).map(|(size, sd)| (size, widen * sd));
    let level = inverse_variance(all.iter().filter_map(|e| e.relative_level));
    let rgb = all.iter().find_map(|e| e.seen.rgb.filter(|_| e.counts_lights)).or(all.iter().find_map(|e| e.seen.rgb));
    Fused {
        seen: Seen { direction, direction_sd, log_size: size, log_level: level, rgb },
        marks: all.iter().map(|e| e.mark.clone()).collect(),
        disagreement,
        colours: all.iter().filter_map(|e| Some((e.mark.clone(), e.seen.rgb?))).collect(),
    }
}

/// Weighted mean of values with standard deviations, widened where they disagree.
pub fn inverse_variance(values: impl Iterator<Item = (f64, f64)>) -> Option<(f64, f64)> {
    let list: Vec<(f64, f64)> = values.map(|(v, sd)| (v, sd.max(1e-4))).collect();
    let w: f64 = list.iter().map(|(_, sd)| 1.0 / (sd * sd)).sum();
    if list.is_empty() {
        return None;
    }
    let mean = list.iter().map(|(v, sd)| v / (sd * sd)).sum::<f64>() / w;
    let chi2: f64 = list.iter().map(|(v, sd)| ((v - mean) / sd).powi(2)).sum();
    let widen = if list.len() > 1 { (chi2 / (list.len() as f64 - 1.0)).sqrt().max(1.0) } else { 1.0 };
    Some((mean, widen / w.sqrt()))
}
