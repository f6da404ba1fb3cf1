//! All marks together: outliers set aside, lights named, ratios, look, exposure.

use super::{FACING_DEG, LENS_SIDE, MIRRORED_THING_STOPS, MIRRORING_PX, NEAR_LENS, Reader, degrees, round, stops};
use crate::colour::cct_of_rgb;
use crate::direction::fusion::{Fused, fuse};
use crate::geometry::{AzEl, Vec3};
use crate::levels;
use crate::looks::{hardness, name_look};
use crate::marks::{Mark, MarkKind};
use crate::notation::{SlantLight, SlantLine};
use crate::photo::Meter;
use crate::placement;
use crate::readings::*;
use crate::sentence;
use crate::tone::{Encoding, MIDDLE_GREY, stops_between};

/// A level with a spread over this is a guess, stops.
const GUESSED_STOPS: f64 = 1.5;
/// What a ball gives a light it could not tell from that one, stops.
const SHARED_STOPS: f64 = 0.7;

impl Reader<'_> {
    pub(super) fn finish(mut self, meter: Option<&Meter>) -> Readings {
        let counting: std::collections::BTreeSet<String> =
            self.evidence.iter().filter(|e| e.counts_lights).map(|e| e.mark.clone()).collect();
        self.contradicted();
        let mut fused = fuse(std::mem::take(&mut self.evidence));
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
        self.set_aside(&mut fused);
        // The width of an edge speaks for the light that casts shadows: the key.
        if let Some(key) = fused.first_mut() {
            let sizes = self.sizes.iter().map(|(_, l, sd)| (*l, *sd)).chain(key.seen.log_size);
            key.seen.log_size = crate::direction::fusion::inverse_variance(sizes);
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
        let ambient = self.fused_ambient();
        let ratios = levels::lit_to_shadow(&self.patches, calibrated).or_else(|| {
            // A matte ball's own fit shows a bent tone curve; a face's does not.
            let trusted = calibrated || !counting.is_empty();
            ratios_from_lights(&lights, ambient.as_ref(), trusted)
        });
        if let Some(r) = ratios.as_ref().filter(|r| r.lit_to_shadow_stops < 0.0) {
            self.warnings.push(Warning {
                code: "sides_swapped".into(),
                text: "The patch marked shadow is brighter than the one marked lit: are they swapped?".into(),
                mark: r.evidence.first().cloned(),
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
        let low_fill = lights.iter().any(|l| l.role == "fill" && l.elevation_deg < -12.0);
        let look =
            fused.first().map(|k| name_look(&self.camera.to_set(&k.seen.direction), k.seen.direction_sd, low_fill));
        let look = look.map(|l| Look { side: self.side(&lights), ..l });
        let colours = self.colours(&fused, &lights);
        let questions = self.questions(&fused, &lights, ambient.as_ref());
        let exposure = self.exposure(meter);
        let slant = SlantLine(lights.iter().map(slant_of).collect()).to_string();
        let mut out = Readings {
            format: FORMAT.into(),
            lights,
            ambient,
            by_mark: self.by_mark,
            ratios,
            colours,
            questions,
            look,
            exposure,
            slant,
            summary: Vec::new(),
            warnings: self.warnings,
        };
        out.summary = sentence::summary(&out);
        out
    }

    /// A light near the lens is mirrored in open eyes. Where neither of two that are large enough shows any, a face that speaks for
    /// one is lit by something else (from above, from behind, by the room) and its word is not taken.
    fn contradicted(&mut self) {
        let large = |m: &&Mark| match &m.kind {
            MarkKind::Eye { limbus, .. } => limbus.rx.max(limbus.ry) >= MIRRORING_PX,
            _ => false,
        };
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
        fused.sort_by_key(eyes_only);
        for (mark, at) in aside {
            let text = format!(
                "A spot in one eye would be a light at {}: neither the other eye nor the face sees one there; it is set aside.",
                sentence::direction_words(at.azimuth_deg, at.elevation_deg)
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
                let says = crate::geometry::clock_of(angle.cos(), angle.sin());
                self.warnings.push(Warning::on(
                    &mark,
                    "clock_disagrees",
                    format!(
                        "This says light from {}, {:.0}° round the picture from the key: another light, or one of the marks is off.",
                        sentence::clock_words(says),
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

    fn lights(&self, fused: &[Fused]) -> Vec<Light> {
        fused.iter().enumerate().map(|(i, f)| light_of(f, i == 0)).collect()
    }

    fn fused_ambient(&self) -> Option<Ambient> {
        let (level, sd) = crate::direction::fusion::inverse_variance(self.ambient.iter().map(|(_, l, sd)| (*l, *sd)))?;
        Some(Ambient {
            level_stops: round(level, 3),
            level_sd_stops: round(sd, 3),
            evidence: self.ambient.iter().map(|a| a.0.clone()).collect(),
        })
    }

    fn exposure(&mut self, meter: Option<&Meter>) -> ExposureReading {
        let own;
        let m = match meter {
            Some(m) => m,
            None => {
                own = self.photo.meter();
                &own
            }
        };
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
            incident_lux: s.map(|s| round(s.incident_lux(crate::exposure::C_DOME), 1)),
            grey_luminance: s.map(|s| round(s.reflected_luminance(crate::exposure::K_REFLECTED), 2)),
            zones: placement::zones(m),
            clipped_areas: m.clipped_areas.clone(),
            correction: placement::correction(&placements, s.as_ref()),
            placements,
            histogram: histogram.iter().map(|n| round(*n as f64 / total as f64, 5)).collect(),
        }
    }
}

/// A fused light in the words and units of the readings; the first is the key.
pub(super) fn light_of(f: &Fused, first: bool) -> Light {
    let a = AzEl::of(&f.seen.direction);
    let size = f.seen.size_deg();
    let role = if first {
        "key"
    } else if a.off_axis_deg() > 105.0 {
        "rim"
    } else {
        "fill"
    };
    Light {
        role: role.into(),
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
        name: l.role.clone(),
        azimuth_deg: l.azimuth_deg,
        elevation_deg: l.elevation_deg,
        angular_size_deg: l.angular_size_deg.map(f64::round),
        level_stops: l.level_stops,
        distance_m: None,
        cct_k: None,
        via: None,
    }
}

/// Without patches, the fill side's light is all that is not the key: other front lights and the
/// ambient, each facing.
fn ratios_from_lights(lights: &[Light], ambient: Option<&Ambient>, trusted: bool) -> Option<Ratios> {
    let key = lights.first()?;
    let fills: Vec<(&[String], f64, f64)> = lights[1..]
        .iter()
        .filter(|l| l.role == "fill")
        .filter_map(|l| Some((&l.evidence[..], l.level_stops?, l.level_sd_stops?)))
        .chain(ambient.map(|a| (&a.evidence[..], a.level_stops, a.level_sd_stops)))
        .collect();
    if fills.is_empty() {
        return None;
    }
    let fill: f64 = fills.iter().map(|f| f.1.exp2()).sum();
    // relative error of the sum
    let sd = fills.iter().map(|f| f.1.exp2() * f.2 * std::f64::consts::LN_2).fold(0.0, f64::hypot) / fill;
    let sd_stops = (sd / std::f64::consts::LN_2).max(0.05);
    let d = (1.0 + 1.0 / fill).log2();
    let mut evidence: Vec<String> = key.evidence.clone();
    fills.iter().for_each(|f| evidence.extend(f.0.iter().cloned()));
    evidence.sort();
    evidence.dedup();
    // the lit side of a face about half a stop over grey (common practice)
    let lit = MIDDLE_GREY * std::f64::consts::SQRT_2;
    let (_, low, high) = stops_between(lit, lit / d.exp2(), trusted);
    Some(levels::ratios(round(d, 3), [round((low - sd_stops).max(0.0), 3), round(high + sd_stops, 3)], evidence))
}
