//! All marks together: outliers set aside, lights named, ratios, look, exposure.

use super::room::Mirrored;
use super::{
    FACING_DEG, LENS_SIDE, MIRRORED_THING_STOPS, MIRRORING_MESHED_PX, MIRRORING_PX, NEAR_LENS, Reader, degrees, round,
    stops,
};
use crate::levels::{self, Filled, Reached};
use crate::looks::{has_low_fill, name_look};
use crate::marks::{Eye, Mark, MarkKind, Patch, PatchRole};
use crate::placement;
use crate::readings::*;
use crate::sentence;
use direction::face::Shaded;
use direction::fusion::{Fused, fuse};
use lightset::notation::{SlantLight, SlantLine};
use optics::colour::cct_of_rgb;
use optics::geometry::{AzEl, Vec3, angle_between};
use optics::hardness::hardness;
use optics::photo::Meter;
use optics::ratio::{LevelSpread, together};
use optics::role::Role;
use optics::tone::{Encoding, MIDDLE_GREY, stops_between};
use optics::words;

/// A level with a spread over this is a guess, stops.
const GUESSED_STOPS: f64 = 1.5;
/// A light of a face within this of a fused one is that light, radians.
const SAME_LIGHT: f64 = 0.45;
/// Degrees from the lens axis from which a light is behind the head.
const BEHIND_DEG: f64 = 125.0;
/// Places of a face that tell what reaches a patch.
const NEAR_PLACES: usize = 4;
/// What a ball gives a light it could not tell from that one, stops.
const SHARED_STOPS: f64 = 0.7;

/// Whether a mark is a face with the points of its mesh.
fn is_meshed(m: &Mark) -> bool {
    matches!(&m.kind, MarkKind::Face(f) if !f.dense.is_empty())
}

impl Reader<'_> {
    pub(super) fn finish(mut self, meter: Option<&Meter>, mirrored: Option<&Mirrored>) -> Readings {
        let counting: std::collections::BTreeSet<String> =
            self.evidence.iter().filter(|e| e.counts_lights).map(|e| e.mark.clone()).collect();
        let people = self.people();
        self.contradicted();
        let borne_out = self.products();
        self.lines(&borne_out);
        let room = mirrored.map(|m| self.room(m)).or_else(|| self.without_lead());
        let mut fused = fuse(self.evidence.clone());
        let alone = self.alone(&fused);
        if !alone.is_empty() {
            self.evidence.retain(|e| !alone.contains(&e.mark));
            fused = fuse(self.evidence.clone());
        }
        // A matte ball shows every light: what only a mirror sees faintly is a lit thing beside it.
        if !counting.is_empty() {
            fused.retain(|f| {
                let faint = f.seen.log_level.is_some_and(|(l, _)| stops(l) < MIRRORED_THING_STOPS);
                let keep = !faint || f.marks.iter().any(|m| counting.contains(m));
                if !keep {
                    let mark = f.marks.first().cloned().unwrap_or_default();
                    self.warnings.push(Warning::on(
                        &mark,
                        "mirrored_thing",
                        "A faint bright spot is mirrored that the matte ball knows nothing of: a lit thing in the room, not a light.",
                    ));
                }
                keep
            });
        }
        // a matte ball said how bright each of the room's lights is
        if let Some([first, rest @ ..]) = room.as_ref().map(|r| &r.evidence[..]) {
            fused.iter_mut().filter(|f| f.marks.contains(first)).for_each(|f| f.marks.extend_from_slice(rest));
        }
        // the light that casts the shadow is the key, whatever else is mirrored
        fused.sort_by_key(|f| !borne_out.is_empty() && !borne_out.iter().any(|(shadow, _)| f.marks.contains(shadow)));
        for (shadow, cylinder) in borne_out {
            fused.iter_mut().filter(|f| f.marks.contains(&shadow)).for_each(|f| f.marks.push(cylinder.clone()));
        }
        self.set_aside(&mut fused);
        // The width of an edge speaks for the light that casts shadows: the key.
        if let Some(key) = fused.first_mut() {
            let sizes = self.sizes.iter().map(|(_, l, sd)| (*l, *sd)).chain(key.seen.log_size);
            key.seen.log_size = direction::fusion::inverse_variance(sizes);
            key.marks.extend(self.sizes.iter().map(|s| s.0.clone()));
        }
        self.turn_by_clocks(&mut fused);
        let mut lights = self.lights(&fused);
        // a light that a mirror shows and no matte ball could tell apart: its light was counted to another
        let guessed = |l: &Light| l.level_sd_stops.is_some_and(|sd| sd > GUESSED_STOPS);
        if !counting.is_empty() && lights.iter().any(guessed) {
            for l in lights.iter_mut().filter(|l| l.evidence.iter().any(|m| counting.contains(m))) {
                l.level_sd_stops = l.level_sd_stops.map(|sd| round(sd.hypot(SHARED_STOPS), 3));
            }
        }
        let calibrated = self.marks.encoding.as_ref().is_some_and(Encoding::is_calibrated);
        let zero = lead(&mut lights);
        // it is told against the key: without one there is nothing to tell it against
        let ambient = self
            .fused_ambient()
            .filter(|_| !lights.is_empty())
            .map(|a| Ambient { level_stops: round(a.level_stops - zero, 3), ..a });
        // A matte ball's own fit shows a bent tone curve; a face's does not.
        let trusted = calibrated || !counting.is_empty();
        let contrast = levels::contrast(&self.patches, calibrated);
        let filled = filled(&lights, ambient.as_ref(), trusted).or_else(|| self.unfilled(&lights, zero));
        let reached = self.reached(&fused, &lights, ambient.as_ref());
        let ratios = levels::ratios(contrast.as_ref(), filled.as_ref(), reached);
        // by less than they are known, no side is the brighter
        if let Some(c) = contrast.filter(|c| c.range_stops[1] < 0.0) {
            self.warnings.push(Warning {
                code: "sides_swapped".into(),
                text: "The patch marked shadow is brighter than the one marked lit: are they swapped?".into(),
                mark: c.evidence.first().cloned(),
            });
        }
        if !calibrated && !self.patches.is_empty() {
            self.warnings.push(Warning::new(
                "tone_curve_unknown",
                "The camera's tone curve is not known: differences in stops carry the range over plausible curves.",
            ));
        }
        let compared = lights.len() > 1 || self.patches.len() > 1;
        if compared && self.is_grey() {
            self.warnings.push(Warning::new(
                "monochrome",
                "The picture has no colour: differences of colour between lights cannot be told. Directions and levels can.",
            ));
        }
        let low_fill = has_low_fill(&lights);
        // where no light leads no look is named
        let named = room.as_ref().is_none_or(|r| r.leads);
        let look = fused
            .first()
            .filter(|_| named)
            .map(|k| name_look(&self.camera.to_set(&k.seen.direction), k.seen.direction_sd, low_fill));
        let look = look.map(|l| Look { side: self.side(&lights), ..l });
        let sun = self.sun(&fused, &lights);
        let colours = self.colours(&fused, &lights);
        let questions = self.questions(&fused, &lights, ambient.as_ref());
        let own;
        let meter = match meter {
            Some(m) => m,
            None => {
                own = self.photo.meter();
                &own
            }
        };
        let exposure = self.exposure(meter);
        let texture = Some(self.texture());
        let straight = self.straight();
        let slant = SlantLine(lights.iter().map(slant_of).collect()).to_string();
        let mut out = Readings {
            format: FORMAT.into(),
            lights,
            ambient,
            room,
            people,
            sun,
            by_mark: self.by_mark,
            ratios,
            colours,
            questions,
            look,
            exposure,
            texture,
            straight,
            slant,
            summary: Vec::new(),
            warnings: self.warnings,
        };
        out.summary = sentence::summary(&out);
        out
    }

    /// Whether a mark is an eye large enough to be held against a face. A face mesh reads a face well enough to stand against
    /// eyes that are small.
    fn speaks_against_faces(&self, m: &Mark) -> bool {
        let least = if self.marks.marks.iter().any(is_meshed) { MIRRORING_MESHED_PX } else { MIRRORING_PX };
        matches!(&m.kind, MarkKind::Eye(Eye { limbus, .. }) if limbus.rx.max(limbus.ry) >= least)
    }

    /// Whether a mark is a face with its mesh that only eyes are held against, all of them small: it stands.
    pub(super) fn stands_against(&self, mark: &str, others: &[String]) -> bool {
        let find = |id: &str| self.marks.marks.iter().find(|m| m.id == id);
        let small_eye = |m: &Mark| matches!(m.kind, MarkKind::Eye(_)) && !self.speaks_against_faces(m);
        find(mark).is_some_and(is_meshed) && others.iter().filter_map(|o| find(o)).all(small_eye)
    }

    /// A light near the lens is mirrored in open eyes. Where neither of two that are large enough shows any, a face that speaks for
    /// one is lit by something else (from above, from behind, by the room) and its word is not taken.
    fn contradicted(&mut self) {
        let large = |m: &&Mark| self.speaks_against_faces(m);
        let read = self.marks.marks.iter().filter(large).filter_map(|m| self.by_mark.get(&m.id));
        let eyes: Vec<bool> = read.filter_map(|m| m.catchlights.as_ref()).map(Vec::is_empty).collect();
        if eyes.len() < 2 || !eyes.iter().all(|none| *none) {
            return;
        }
        let by_mark = &self.by_mark;
        let mut against = Vec::new();
        self.evidence.retain(|e| {
            let frontal = e.seen.direction.z > NEAR_LENS;
            let face = by_mark.get(&e.mark).is_some_and(|m| m.face.is_some());
            if frontal && face {
                against.push(e.mark.clone());
            }
            !(frontal && face)
        });
        for mark in against {
            self.warnings.push(Warning::on(
                &mark,
                "eyes_contradict",
                "The face looks lit from near the lens, but neither eye mirrors a light there: it is set aside. \
                 Light from above, from behind or from the room can look like that.",
            ));
        }
    }

    /// One eye alone may take a bright lid or a tear for a light: what neither the other eye nor the
    /// face sees is set aside and named.
    fn set_aside(&mut self, fused: &mut Vec<Fused>) {
        let faces: Vec<String> =
            self.by_mark.iter().filter(|(_, m)| m.face.is_some()).map(|(id, _)| id.clone()).collect();
        let seen_by_face: Vec<Vec3> =
            fused.iter().filter(|f| f.marks.iter().any(|m| faces.contains(m))).map(|f| f.seen.direction).collect();
        if seen_by_face.is_empty() {
            return;
        }
        let eye = |m: &String| self.by_mark.get(m).is_some_and(|r| r.catchlights.is_some());
        let mut aside = Vec::new();
        fused.retain(|f| {
            let lonely = f.marks.len() == 1 && eye(&f.marks[0]);
            if lonely {
                aside.push((f.marks[0].clone(), AzEl::of(&f.seen.direction)));
            }
            !lonely
        });
        // The key lights the face: what only eyes show is not taken for it.
        let eyes_only = |f: &Fused| !f.marks.iter().any(|m| faces.contains(m)) && f.marks.iter().all(eye);
        // and what stands behind the head is the key only if the face itself says so
        let is_behind = |at: AzEl| at.off_axis_deg() > BEHIND_DEG;
        let rear_key = faces.iter().filter_map(|id| self.by_mark.get(id)?.lights.first()).any(|l| is_behind(l.at()));
        let behind = |f: &Fused| !rear_key && is_behind(AzEl::of(&f.seen.direction));
        fused.sort_by_key(|f| eyes_only(f) || behind(f));
        for (mark, at) in aside {
            let text = format!(
                "A spot in one eye would be a light at {}: neither the other eye nor the face sees one there; it is set aside.",
                words::direction_words(at.azimuth_deg, at.elevation_deg)
            );
            self.warnings.push(Warning::on(&mark, "set_aside", text));
        }
    }

    /// Outlines and shadows on no known plane tell only the side round the picture: they turn the key about the lens
    /// axis, or disagree with it and are named.
    fn turn_by_clocks(&mut self, fused: &mut [Fused]) {
        let Some(key) = fused.first_mut() else { return };
        for (mark, angle, sd) in std::mem::take(&mut self.clocks) {
            let d = key.seen.direction;
            let out = d.x.hypot(d.y);
            // one axis of two
            let own = key.seen.direction_sd / std::f64::consts::SQRT_2;
            let round = own / out.max(1e-3);
            let mut off = angle - d.y.atan2(d.x);
            off = off.sin().atan2(off.cos());
            if out < LENS_SIDE {
                continue;
            }
            let both = round.hypot(sd);
            if off.abs() > 3.0 * both {
                let says = optics::geometry::clock_of(angle.cos(), angle.sin());
                self.warnings.push(Warning::on(
                    &mark,
                    "clock_disagrees",
                    format!(
                        "This says light from {}, {:.0}° round the picture from the key: another light, or one of the marks is off.",
                        words::clock_words(says),
                        off.abs().to_degrees()
                    ),
                ));
                continue;
            }
            let turn = off * round.powi(2) / both.powi(2);
            let (s, c) = turn.sin_cos();
            key.seen.direction = Vec3::new(d.x * c - d.y * s, d.x * s + d.y * c, d.z);
            let round = round * sd / both * out;
            key.seen.direction_sd = own.hypot(round);
            key.marks.push(mark);
        }
    }

    /// Whether what the lights were read from has no colour at all, to a step of coding.
    fn is_grey(&self) -> bool {
        let step = (self.photo.width().max(self.photo.height()) / 60).max(1) as usize;
        let rows = (0..self.photo.height()).step_by(step);
        let mut all = rows.flat_map(|y| (0..self.photo.width()).step_by(step).map(move |x| (x, y)));
        all.all(|(x, y)| {
            let [r, g, b] = self.photo.rgb(x, y);
            (r - g).abs().max((b - g).abs()) <= 0.012 * g.max(0.02)
        })
    }

    /// Whether the key lights the side of a turned head that faces the camera, or the other.
    fn side(&self, lights: &[Light]) -> Option<String> {
        let turned = self.by_mark.values().find_map(|m| m.face.as_ref())?.turned_deg;
        let key = lights.first()?.azimuth_deg;
        (turned.abs() > FACING_DEG).then(|| if (key < turned) == (turned > 0.0) { "broad" } else { "short" }.into())
    }

    /// What the key, and all that fills, give on the lit and on the shadow patches, where these lie on a face that was read.
    fn reached(&self, fused: &[Fused], lights: &[Light], ambient: Option<&Ambient>) -> Option<[Reached; 2]> {
        let shading = &self.shadings.first()?.1;
        let nearest = |f: &Fused| {
            let off = |d: &Vec3| angle_between(d, &f.seen.direction);
            let found = shading.lights.iter().enumerate().min_by(|a, b| off(a.1).total_cmp(&off(b.1)))?;
            (off(found.1) < SAME_LIGHT).then_some(found.0)
        };
        let key = nearest(fused.first()?)?;
        let fills: Vec<(usize, f64)> = fused
            .iter()
            .zip(lights)
            .skip(1)
            .filter(|(_, l)| l.role == Role::Fill)
            .map(|(f, l)| Some((nearest(f)?, l.level_stops?.exp2())))
            .collect::<Option<_>>()?;
        let around = ambient.map_or(0.0, |a| a.level_stops.exp2());
        let all = around + fills.iter().map(|f| f.1).sum::<f64>();
        if all <= 0.0 {
            return None;
        }
        let on = |role: PatchRole| {
            let polygons = self.marks.marks.iter().filter(|m| !m.off).filter_map(|m| match &m.kind {
                MarkKind::Patch(Patch { role: r, polygon }) if *r == role => Some(polygon),
                _ => None,
            });
            let places: Vec<&Shaded> = polygons.flat_map(|p| places_in(&shading.places, p)).collect();
            let n = places.len() as f64;
            let fill = |s: &Shaded| {
                (around * s.around + fills.iter().map(|(k, level)| level * s.lights[*k]).sum::<f64>()) / all
            };
            (!places.is_empty()).then(|| Reached {
                key: places.iter().map(|s| s.lights[key]).sum::<f64>() / n,
                fill: places.iter().map(|s| fill(s)).sum::<f64>() / n,
            })
        };
        Some([on(PatchRole::Lit)?, on(PatchRole::Shadow)?])
    }

    fn lights(&self, fused: &[Fused]) -> Vec<Light> {
        fused.iter().enumerate().map(|(i, f)| light_of(f, i == 0)).collect()
    }

    /// Where one light was read and nothing that fills: what it is at most, by the mark that tells that closest.
    fn unfilled(&self, lights: &[Light], zero: f64) -> Option<Filled> {
        let key = lights.first()?;
        // one whose level was not told fills as well
        if lights[1..].iter().any(|l| l.role == Role::Fill) {
            return None;
        }
        let closest = self.ambient_most.iter().filter(|(id, _)| key.evidence.contains(id));
        let (id, most) = closest.min_by(|a, b| a.1.total_cmp(&b.1))?;
        let level = LevelSpread { stops: most - zero, sd_stops: 0.0 };
        Some(Filled { level, bound: true, evidence: vec![id.clone()] })
    }

    fn fused_ambient(&self) -> Option<Ambient> {
        let (level, sd) = direction::fusion::inverse_variance(self.ambient.iter().map(|(_, l, sd)| (*l, *sd)))?;
        Some(Ambient {
            level_stops: round(level, 3),
            level_sd_stops: round(sd, 3),
            evidence: self.ambient.iter().map(|a| a.0.clone()).collect(),
        })
    }

    fn exposure(&mut self, m: &Meter) -> ExposureReading {
        if m.black_fraction > 0.999 {
            self.warnings.push(Warning::new("all_black", "The picture is black: nothing can be read from it."));
        }
        if m.clipped_fraction > 0.95 {
            self.warnings.push(Warning::new(
                "all_white",
                "The picture is clipped nearly everywhere: nothing can be read from it.",
            ));
        }
        let total: u64 = m.histogram.iter().sum::<u64>().max(1);
        let mut histogram = [0u64; 20];
        for (i, n) in m.histogram.iter().enumerate() {
            let stop = Meter::LOWEST_STOP + (i as f64 + 0.5) / Meter::PER_STOP;
            let bin = ((stop + 6.0) * 2.0).clamp(0.0, 19.0) as usize;
            histogram[bin] += n;
        }
        let s = self.marks.exposure;
        let placements = placement::placements(&self.patches);
        ExposureReading {
            clipped_fraction: round(m.clipped_fraction, 5),
            median_stops_from_grey: round(m.median_stops(), 2),
            ev100: s.map(|s| round(s.ev100(), 2)),
            incident_lux: s.map(|s| round(s.incident_lux(optics::exposure::C_DOME), 1)),
            grey_luminance: s.map(|s| round(s.reflected_luminance(optics::exposure::K_REFLECTED), 2)),
            zones: placement::zones(m),
            clipped_areas: m.clipped_areas.clone(),
            correction: placement::correction(&placements, s.as_ref()),
            placements,
            histogram: histogram.iter().map(|n| round(*n as f64 / total as f64, 5)).collect(),
        }
    }
}

/// Places of a face within a patch, or the nearest ones if it lies between them; none if it lies off the face.
fn places_in<'s>(places: &'s [Shaded], polygon: &[[f64; 2]]) -> Vec<&'s Shaded> {
    let n = polygon.len() as f64;
    let middle = [0, 1].map(|k| polygon.iter().map(|p| p[k]).sum::<f64>() / n);
    let far = |p: &[f64; 2]| (p[0] - middle[0]).hypot(p[1] - middle[1]);
    let reach = polygon.iter().map(far).fold(0.0, f64::max);
    let inside: Vec<&Shaded> = places.iter().filter(|s| far(&s.at) < reach).collect();
    if inside.len() >= NEAR_PLACES {
        return inside;
    }
    let mut near: Vec<&Shaded> = places.iter().filter(|s| far(&s.at) < 3.0 * reach).collect();
    near.sort_by(|a, b| far(&a.at).total_cmp(&far(&b.at)));
    near.truncate(NEAR_PLACES);
    near
}

/// A fused light in the words and units of the readings; the first is the key.
pub(super) fn light_of(f: &Fused, first: bool) -> Light {
    let a = AzEl::of(&f.seen.direction);
    let size = f.seen.size_deg();
    let role = if first {
        Role::Key
    } else if a.off_axis_deg() > 105.0 {
        Role::Rim
    } else {
        Role::Fill
    };
    Light {
        role,
        azimuth_deg: round(a.azimuth_deg, 2),
        elevation_deg: round(a.elevation_deg, 2),
        direction_sd_deg: degrees(f.seen.direction_sd).max(0.05),
        frame: "camera".into(),
        angular_size_deg: size.map(|s| round(s.0, 2)),
        angular_size_range_deg: size.map(|s| s.1.map(|v| round(v, 2))),
        hardness: size.map(|s| hardness(s.0).into()),
        level_stops: f.seen.log_level.map(|(l, _)| round(stops(l), 3)),
        level_sd_stops: f.seen.log_level.map(|(_, sd)| round(stops(sd), 3)),
        cct_k: f.seen.rgb.and_then(cct_of_rgb),
        evidence: f.marks.clone(),
        disagreement: f.disagreement.clone(),
    }
}

fn slant_of(l: &Light) -> SlantLight {
    SlantLight {
        name: l.role.to_string(),
        azimuth_deg: l.azimuth_deg,
        elevation_deg: l.elevation_deg,
        angular_size_deg: l.angular_size_deg.map(f64::round),
        level_stops: l.level_stops,
        distance_m: None,
        cct_k: None,
        via: None,
    }
}

/// Levels are told against the key, which is the first of the lights and the strongest in front: what another in front
/// seems to have over it is within the spread. Returns what was taken off all levels.
fn lead(lights: &mut [Light]) -> f64 {
    let zero = lights.first().and_then(|l| l.level_stops).unwrap_or(0.0);
    for l in lights.iter_mut() {
        let Some(level) = l.level_stops else { continue };
        let over = (level - zero).max(0.0);
        l.level_stops = Some(round(level - zero, 3));
        if over > 0.0 && l.role == Role::Fill {
            l.level_stops = Some(0.0);
            l.level_sd_stops = l.level_sd_stops.map(|sd| round(sd.hypot(over), 3));
        }
    }
    zero
}

/// All that lifts the key's shadows: other front lights and the ambient, each facing. What the unknown tone curve leaves
/// open of the difference is added unless the levels are `trusted`.
fn filled(lights: &[Light], ambient: Option<&Ambient>, trusted: bool) -> Option<Filled> {
    let key = lights.first()?;
    let fills: Vec<(&[String], LevelSpread)> = lights[1..]
        .iter()
        .filter(|l| l.role == Role::Fill)
        .filter_map(|l| Some((&l.evidence[..], LevelSpread { stops: l.level_stops?, sd_stops: l.level_sd_stops? })))
        .chain(ambient.map(|a| (&a.evidence[..], LevelSpread { stops: a.level_stops, sd_stops: a.level_sd_stops })))
        .collect();
    let level = together(&fills.iter().map(|f| f.1).collect::<Vec<_>>())?;
    // the lit side of a face about half a stop over grey (common practice)
    let lit = MIDDLE_GREY * std::f64::consts::SQRT_2;
    let (_, low, high) = stops_between(lit, lit / (1.0 + (-level.stops).exp2()), trusted);
    let mut evidence: Vec<String> = key.evidence.clone();
    fills.iter().for_each(|f| evidence.extend(f.0.iter().cloned()));
    Some(Filled {
        level: LevelSpread { sd_stops: level.sd_stops.hypot((high - low) / 4.0), ..level },
        bound: false,
        evidence,
    })
}
