//! What rules measure: one row for each quantity, taken from readings and marks.

use super::InSeries;
use evidence::marks::{MarkKind, Marks, Patch, PatchRole};
use evidence::readings::{Light, MarkReading, PATCH_CLIPPED, PatchReading, RatioFrom, Readings, RimView, StripView};

/// A quantity of a picture.
pub(super) struct Measured {
    pub value: f64,
    pub spread: f64,
    pub pin: Option<[f64; 2]>,
    pub evidence: Vec<String>,
    /// It lies there or higher: no more is known.
    pub at_least: bool,
    /// What the rule's text takes in for `{note}`.
    pub note: String,
}

/// What a quantity is called, its unit, a step of it that one sees, what to mark where it is missing, and how it is found.
pub(super) struct Measure {
    pub id: &'static str,
    pub unit: &'static str,
    /// How much more of it counts as much worse.
    pub step: f64,
    pub missing: &'static str,
    pub find: fn(&Seen) -> Option<Measured>,
}

/// A reading with its marks.
pub(super) struct Seen<'a> {
    pub readings: &'a Readings,
    pub marks: &'a Marks,
    /// Looks that suit the brief.
    pub looks: &'a [String],
    /// How it lies in its series, if it is in one.
    pub series: Option<&'a InSeries>,
}

/// What evidence of the picture as a whole is called.
const PICTURE: &str = "the picture";
/// Levels as encoded: a curve that nobody declared may be so far off.
const ENCODED_SD: f64 = 0.15;
/// Degrees off the lens axis from which a light is behind.
const BEHIND_DEG: f64 = 100.0;
/// A light this small draws an edge of its own, degrees.
const HARD_DEG: f64 = 14.0;
/// Lights weaker than this against the key are not read.
const UNREAD_STOPS: f64 = -4.0;
/// One standard deviation of a level where none is told, stops.
const LEVEL_SD: f64 = 0.3;
/// So many stops under the key a light still draws a shadow that is seen.
const LEADS_STOPS: f64 = -1.0;
/// A shadow side no farther under the lit one asks for no fill, stops (common practice: flat lighting).
const OPEN_STOPS: f64 = 0.7;

/// Lines over print differ by so much without their sources doing so, stops.
const PRINTED_STOPS: f64 = 0.7;

const UNCOUNTED: &str = "Read the picture anew to judge this: its tones were not counted. Marks are not needed.";
const EDGES: &str = "There are too few clear edges in the picture to judge this. Marks do not help.";
const LEVEL: &str = "No long level line, a horizon or a table's edge, is seen in the picture. Marks do not help.";
const UPRIGHT: &str = "Nothing long stands upright in the picture. Marks do not help.";
const SERIES: &str =
    "The picture is in no series of three or more: place it in one under Series to judge this. Marks do not help.";
const LIGHTS: &str = "Mark a face, an eye or a ball, so that the lights themselves are read, to judge this.";
const SIZE: &str = "Mark a ball or an eye, so that the key's size can be told, to judge this.";
const BODY: &str = "Mark the bottle or can (Y), so that its bright lines are read, to judge this.";
const EYE: &str = "Mark an eye (E) to judge this.";

impl Seen<'_> {
    fn pin(&self, ids: &[String]) -> Option<[f64; 2]> {
        ids.iter().find_map(|id| self.marks.marks.iter().find(|m| m.id == *id)?.kind.place())
    }

    fn of(&self, value: f64, spread: f64, evidence: Vec<String>) -> Option<Measured> {
        value.is_finite().then(|| Measured {
            value,
            spread,
            pin: self.pin(&evidence),
            evidence,
            at_least: false,
            note: String::new(),
        })
    }

    fn whole(&self, value: f64, spread: f64, pin: Option<[f64; 2]>) -> Option<Measured> {
        value.is_finite().then(|| Measured {
            value,
            spread,
            pin,
            evidence: vec![PICTURE.into()],
            at_least: false,
            note: String::new(),
        })
    }

    /// Marked patches of a role that are on.
    fn ids(&self, role: PatchRole) -> Vec<String> {
        self.marked(|k| matches!(k, MarkKind::Patch(Patch { role: r, .. }) if *r == role))
    }

    /// Marks of a kind that are on.
    fn marked(&self, is: impl Fn(&MarkKind) -> bool) -> Vec<String> {
        self.marks.marks.iter().filter(|m| !m.off && is(&m.kind)).map(|m| m.id.clone()).collect()
    }

    /// The first patch of a role that was read.
    fn patch(&self, role: PatchRole) -> Option<(String, &PatchReading)> {
        self.ids(role).into_iter().find_map(|id| {
            let read = self.readings.by_mark.get(&id)?.patch.as_ref()?;
            Some((id, read))
        })
    }

    fn level(&self, role: PatchRole) -> Option<Measured> {
        let (id, p) = self.patch(role)?;
        // what is clipped lies higher than it reads
        self.of(p.stops_from_grey, ENCODED_SD, vec![id])
    }

    /// Stops of one patch over another; in one picture the curve's error is shared in part.
    fn over(&self, bright: PatchRole, dark: PatchRole) -> Option<Measured> {
        let ((a, p), (b, q)) = (self.patch(bright)?, self.patch(dark)?);
        let apart = p.stops_from_grey - q.stops_from_grey;
        self.of(apart, 0.05 + 0.08 * apart.abs(), vec![a, b])
    }

    fn clipped(&self, role: PatchRole) -> Option<Measured> {
        let ids = self.ids(role);
        if ids.is_empty() {
            return None;
        }
        let share = |id: &String| match self.readings.by_mark.get(id).and_then(|m| m.patch.as_ref()) {
            Some(p) => p.clipped_fraction,
            // unread as wholly clipped
            None if self.readings.warnings.iter().any(|w| w.code == PATCH_CLIPPED && w.mark.as_ref() == Some(id)) => {
                1.0
            }
            None => 0.0,
        };
        self.of(100.0 * ids.iter().map(share).fold(0.0, f64::max), 0.1, ids)
    }

    fn key(&self) -> Option<&Light> {
        self.readings.lights.first()
    }

    /// The strongest of the other lights; one whose level is not known is the weakest.
    fn strongest_beside_key(&self, which: impl Fn(&Light) -> bool) -> Option<&Light> {
        let level = |l: &Light| l.level_stops.unwrap_or(UNREAD_STOPS);
        self.readings.lights.iter().skip(1).filter(|l| which(l)).max_by(|a, b| level(a).total_cmp(&level(b)))
    }

    fn lights(&self, which: impl Fn(&Light) -> bool) -> (f64, Vec<String>) {
        let those: Vec<&Light> = self.readings.lights.iter().filter(|l| which(l)).collect();
        let mut ids: Vec<String> = those.iter().flat_map(|l| l.evidence.clone()).collect();
        ids.dedup();
        (those.len() as f64, ids)
    }

    fn strips(&self) -> Vec<(&String, &StripView)> {
        let all = self.readings.by_mark.iter().filter_map(|(id, m)| Some((id, m.strips.as_ref()?)));
        all.flat_map(|(id, s)| s.iter().filter(|s| !s.lit_side).map(move |s| (id, s))).collect()
    }

    /// Marks of bodies whose lines were looked for.
    fn bodies(&self) -> Vec<String> {
        self.readings.by_mark.iter().filter(|(_, m)| m.strips.is_some()).map(|(id, _)| id.clone()).collect()
    }

    fn brightest(&self) -> Option<(&String, &StripView)> {
        self.strips().into_iter().max_by(|a, b| a.1.light.total_cmp(&b.1.light))
    }

    /// Marked eyes with how many catchlights each has.
    fn eyes(&self) -> Vec<(String, usize)> {
        let of = |m: &MarkReading| m.catchlights.as_ref().map(Vec::len);
        self.readings.by_mark.iter().filter_map(|(id, m)| Some((id.clone(), of(m)?))).collect()
    }

    fn rims(&self) -> Vec<(&String, &RimView)> {
        self.readings.by_mark.iter().filter_map(|(id, m)| Some((id, m.rim.as_ref()?))).collect()
    }
}

fn middle(s: &StripView) -> f64 {
    f64::midpoint(s.azimuth_from_deg, s.azimuth_to_deg)
}

/// Share of a picture that its brightest parts are.
const BRIGHT_SHARE: f64 = 0.005;

/// Where the brightest half per cent of a picture begins, stops from middle grey: of a histogram of half stops from six under it.
fn brightest_of(histogram: &[f64]) -> Option<f64> {
    let mut left = BRIGHT_SHARE * histogram.iter().sum::<f64>();
    for (i, share) in histogram.iter().enumerate().rev() {
        if *share > left {
            return Some(-6.0 + 0.5 * (i as f64 + 1.0 - left / share));
        }
        left -= share;
    }
    None
}

macro_rules! measures {
    ($($id:literal, $unit:literal, $step:literal, $missing:expr, $find:expr;)*) => {
        &[$(Measure { id: $id, unit: $unit, step: $step, missing: $missing, find: $find }),*]
    };
}

/// All measures.
pub(super) const MEASURES: &[Measure] = measures! {
    // the picture as a whole
    "clipped_percent", "%", 1.0, UNCOUNTED, |s| {
        let e = &s.readings.exposure;
        let at = e.clipped_areas.first().map(|a| [f64::midpoint(a.from[0], a.to[0]), f64::midpoint(a.from[1], a.to[1])]);
        s.whole(100.0 * e.clipped_fraction, 0.05, at)
    };
    "picture_median_stops", "stops", 1.0, UNCOUNTED, |s| s.whole(s.readings.exposure.median_stops_from_grey, ENCODED_SD, None);
    "deep_percent", "%", 15.0, UNCOUNTED, |s| {
        // half stops from six under middle grey: the first two
        let h = &s.readings.exposure.histogram;
        if h.is_empty() { None } else { s.whole(100.0 * h.iter().take(2).sum::<f64>(), 2.0, None) }
    };
    "bright_stops", "stops", 0.7, UNCOUNTED, |s| s.whole(brightest_of(&s.readings.exposure.histogram)?, ENCODED_SD + 0.05, None);
    "noise_percent", "%", 1.5, UNCOUNTED, |s| {
        let t = s.readings.texture.as_ref()?;
        s.whole(t.noise_percent, 0.1 * t.noise_percent + 0.1, None)
    };
    "blocks_percent", "%", 0.15, UNCOUNTED, |s| {
        let t = s.readings.texture.as_ref()?;
        s.whole(t.blocks_percent, 0.1 * t.blocks_percent + 0.02, None)
    };
    "edge_permille", "thousandths of the picture's longer side", 2.0, EDGES, |s| {
        let t = s.readings.texture.as_ref()?;
        s.whole(t.edge_permille?, t.pixel_permille, None)
    };
    "smear_permille", "thousandths of the picture's longer side", 3.0, EDGES, |s| {
        let t = s.readings.texture.as_ref()?;
        s.whole(t.smear_permille?, t.pixel_permille + 0.1 * t.smear_permille?, None)
    };
    "subject_soft_permille", "thousandths of the picture's longer side", 2.0, "Mark an eye, a face, a bottle or the label to judge this.", |s| {
        let t = s.readings.texture.as_ref()?;
        let (own, sharpest) = (t.subject_edge_permille?, t.sharpest_part_permille?);
        s.of((own - sharpest).max(0.0), 1.5 * t.pixel_permille, t.subject.clone().into_iter().collect())
    };
    // how it is framed
    "level_deg", "degrees", 1.0, LEVEL, |s| {
        let t = s.readings.straight.as_ref()?.level.as_ref()?;
        s.whole(t.tilt_deg.abs(), t.tilt_sd_deg + 0.1, Some(t.at))
    };
    "upright_deg", "degrees", 1.0, UPRIGHT, |s| {
        let t = s.readings.straight.as_ref()?.upright.as_ref()?;
        s.whole(t.tilt_deg.abs(), t.tilt_sd_deg + 0.1, Some(t.at))
    };
    "converging_deg", "degrees", 2.0, UPRIGHT, |s| {
        let t = s.readings.straight.as_ref()?;
        s.whole(t.converging_deg?.abs(), t.converging_sd_deg? + 0.2, t.upright.as_ref().map(|u| u.at))
    };
    "thing_leans_deg", "degrees", 1.0, BODY, |s| {
        let (id, c) = s.marks.marks.iter().filter(|m| !m.off).find_map(|m| match &m.kind {
            MarkKind::Cylinder(c) if c.stands() => Some((m.id.clone(), c)),
            _ => None,
        })?;
        // an outline that was traced gives its axis; two ends set by hand are a pixel or two off
        let ([foot, head], _) = c.upright();
        let long = (foot[1] - head[1]).hypot(foot[0] - head[0]);
        let sd = if c.profile.is_empty() { (3.0 / long).atan().to_degrees() } else { 0.3 };
        s.of((head[0] - foot[0]).atan2(foot[1] - head[1]).to_degrees().abs(), sd, vec![id])
    };
    "series_times", "", 1.0, SERIES, |s| {
        let own = s.series?;
        Some(Measured { note: own.says.clone(), ..s.whole(own.times, 0.0, None)? })
    };
    // patches
    "lit_clipped_percent", "%", 5.0, "Mark a patch on the lit side (P) to judge this.", |s| s.clipped(PatchRole::Lit);
    "forehead_clipped_percent", "%", 5.0, "Mark a patch on the forehead to judge this.", |s| s.clipped(PatchRole::Forehead);
    "label_clipped_percent", "%", 3.0, "Mark a patch on the label to judge this.", |s| s.clipped(PatchRole::Label);
    "liquid_clipped_percent", "%", 10.0, "Mark a patch on the liquid to judge this.", |s| s.clipped(PatchRole::Liquid);
    "contrast_stops", "stops", 0.7, "Mark a lit and a shadow patch of one material to judge this.", |s| {
        let q = s.readings.ratios.as_ref().filter(|q| q.contrast_from == RatioFrom::Patches)?;
        s.of(q.lit_to_shadow_stops, q.contrast_spread(), q.evidence.clone())
    };
    "skin_off_stops", "stops", 0.5, "Mark a patch on the lit side or the forehead to judge this.", |s| {
        let p = s.readings.exposure.placements.iter().find(|p| matches!(p.role, PatchRole::Forehead | PatchRole::Lit))?;
        s.of(p.off_stops, ENCODED_SD, vec![p.mark.clone()])
    };
    "shadow_stops", "stops", 1.0, "Mark a patch on the shadow side to judge this.", |s| s.level(PatchRole::Shadow);
    "grey_off_stops", "stops", 0.3, "Mark the grey card in the picture to judge this.", |s| s.level(PatchRole::Grey18);
    "white_stops", "stops", 0.4, "Mark a patch on something white to judge this.", |s| s.level(PatchRole::White);
    "black_stops", "stops", 1.0, "Mark a patch on something black to judge this.", |s| s.level(PatchRole::Black);
    "chest_over_forehead_stops", "stops", 0.5, "Mark patches on the chest and the forehead to judge this.", |s| s.over(PatchRole::Chest, PatchRole::Forehead);
    "background_stops", "stops", 0.7, "Mark a patch on the background to judge this.", |s| s.level(PatchRole::Background);
    "background_under_stops", "stops", 0.7, "Mark a patch on the background and one on the lit side or the forehead to judge this.", |s| {
        s.over(PatchRole::Lit, PatchRole::Background).or_else(|| s.over(PatchRole::Forehead, PatchRole::Background))
    };
    "background_from_shadow_stops", "stops", 0.3, "Mark patches on the shadow side and on the background to judge this.", |s| {
        let m = s.over(PatchRole::Shadow, PatchRole::Background)?;
        Some(Measured { value: m.value.abs(), ..m })
    };
    "background_across_stops", "stops", 0.4, "Mark the background's gradient (G), or two patches on it near and far, to judge this.", |s| {
        let gradient = s.readings.by_mark.iter().find_map(|(id, m)| Some((id.clone(), m.gradient?)));
        match gradient {
            Some((id, g)) => s.of(g.stops, g.spread_stops.max(0.05), vec![id]),
            None => {
                let m = s.over(PatchRole::Background, PatchRole::BackgroundFar)?;
                Some(Measured { value: m.value.abs(), ..m })
            }
        }
    };
    "label_stops", "stops", 0.5, "Mark a patch on the label to judge this.", |s| s.level(PatchRole::Label);
    "liquid_stops", "stops", 0.5, "Mark a patch on the liquid to judge this.", |s| s.level(PatchRole::Liquid);
    "liquid_over_background_stops", "stops", 0.5, "Mark patches on the liquid and the background to judge this.", |s| s.over(PatchRole::Liquid, PatchRole::Background);
    "label_over_background_stops", "stops", 0.5, "Mark patches on the label and the background to judge this.", |s| s.over(PatchRole::Label, PatchRole::Background);
    // the lights
    "key_over_fill_stops", "stops", 0.7, "Mark a face, an eye or a ball, so that the lights themselves are read, to judge this: two patches alone tell only a bound.", |s| {
        let q = s.readings.ratios.as_ref()?;
        let [low, high] = q.key_to_fill_range.map(|v| v.max(1e-3).log2());
        if q.at_least {
            // only a bound, and the shadow side is open all the same: a key by the lens fills it itself
            let open = q.contrast_from == RatioFrom::Patches && q.lit_to_shadow_stops + q.contrast_spread() < OPEN_STOPS;
            if open {
                return None;
            }
            return Some(Measured { at_least: true, ..s.of(low, 0.1, q.evidence.clone())? });
        }
        s.of(q.key_to_fill.max(1e-3).log2(), ((high - low) / 4.0).max(0.05), q.evidence.clone())
    };
    "key_size_deg", "degrees", 10.0, SIZE, |s| {
        let k = s.key()?;
        let (a, [low, high]) = (k.angular_size_deg?, k.angular_size_range_deg?);
        // a wide range can still lie wholly on one side of a limit
        s.of(a, (high - a).max(a - low), k.evidence.clone())
    };
    "key_aside_deg", "degrees", 15.0, LIGHTS, |s| s.key().and_then(|k| s.of(k.azimuth_deg.abs(), k.direction_sd_deg, k.evidence.clone()));
    "key_elevation_deg", "degrees", 12.0, LIGHTS, |s| s.key().and_then(|k| s.of(k.elevation_deg, k.direction_sd_deg, k.evidence.clone()));
    "key_lights", "", 1.0, LIGHTS, |s| {
        s.key()?;
        let front = |l: &Light| l.at().off_axis_deg() < BEHIND_DEG;
        let (n, ids) = s.lights(|l| front(l) && l.level_stops.unwrap_or(0.0) > LEADS_STOPS);
        // one that lies within two spreads of the limit may count or not
        let near = |l: &Light| front(l) && l.level_stops.is_some_and(|v| (v - LEADS_STOPS).abs() < 1.9 * l.level_sd_stops.unwrap_or(LEVEL_SD));
        let open = s.readings.lights.iter().skip(1).any(near);
        s.of(n, if open { 0.6 } else { 0.0 }, ids)
    };
    "crossing_stops", "stops", 0.7, "Mark a ball or both eyes, so that two lights and their sizes are read, to judge this.", |s| {
        let k = s.key()?;
        let hard = |l: &Light| l.angular_size_deg.is_some_and(|a| a < HARD_DEG);
        let across = |l: &Light| hard(l) && l.azimuth_deg * k.azimuth_deg < 0.0 && l.at().off_axis_deg() < BEHIND_DEG;
        match s.strongest_beside_key(across) {
            Some(o) if hard(k) => s.of(o.level_stops?, o.level_sd_stops.unwrap_or(0.2), [k.evidence.clone(), o.evidence.clone()].concat()),
            // weaker than is read at all, if there is one
            _ => s.of(UNREAD_STOPS, 0.0, k.evidence.clone()),
        }
    };
    "back_lights", "", 1.0, "Mark a bright edge (R) or a ball, which show lights from behind, to judge this.", |s| {
        let (n, ids) = s.lights(|l| l.at().off_axis_deg() > BEHIND_DEG);
        if n > 0.0 {
            return s.of(n, 0.0, ids);
        }
        let rims: Vec<String> = s.rims().into_iter().map(|(id, _)| id.clone()).collect();
        if !rims.is_empty() {
            return s.of(rims.len() as f64, 0.0, rims);
        }
        let balls = s.marked(|k| matches!(k, MarkKind::Ball(_)));
        if balls.is_empty() { None } else { s.of(0.0, 0.0, balls) }
    };
    "fill_below_deg", "degrees", 15.0, LIGHTS, |s| {
        // the strongest light beside the key: how far under the lens's height; the key where it is the only one
        let low = s.strongest_beside_key(|l| l.at().off_axis_deg() < BEHIND_DEG);
        low.or(s.key()).and_then(|l| s.of(-l.elevation_deg, l.direction_sd_deg, l.evidence.clone()))
    };
    "look_percent", "%", 25.0, LIGHTS, |s| {
        let look = s.readings.look.as_ref().filter(|_| !s.looks.is_empty())?;
        let of = |name: &str| s.looks.iter().any(|l| l == name);
        let all = std::iter::once((look.name.as_str(), look.probability)).chain(look.others.iter().map(|o| (o.name.as_str(), o.probability)));
        let p: f64 = all.filter(|l| of(l.0)).map(|l| l.1).sum();
        s.of(100.0 * p, 10.0, s.key().map(|k| k.evidence.clone()).unwrap_or_default())
    };
    "colour_apart_mired", "mired", 30.0, "Mark a lit and a shadow patch of one material, or a ball, so that colours are compared, to judge this.", |s| {
        let c = s.readings.colours.iter().max_by(|a, b| a.mired.abs().total_cmp(&b.mired.abs()))?;
        s.of(c.mired.abs(), c.mired_sd, c.evidence.clone())
    };
    "tint_duv", "", 0.01, "Mark a lit and a shadow patch of one material, or a ball, so that colours are compared, to judge this.", |s| {
        let c = s.readings.colours.iter().max_by(|a, b| a.duv.abs().total_cmp(&b.duv.abs()))?;
        s.of(c.duv.abs(), 0.004, c.evidence.clone())
    };
    "directional", "", 0.2, "Mark a mirror ball or a face in a room to judge this.", |s| {
        let r = s.readings.room.as_ref()?;
        s.of(r.directional, r.directional_sd, r.evidence.clone())
    };
    // people
    "people", "", 1.0, "Mark each face (F, or N to find them) to judge this.", |s| {
        let faces = s.marked(|k| matches!(k, MarkKind::Face(_)));
        if faces.is_empty() { None } else { s.of(faces.len() as f64, 0.0, faces) }
    };
    "catchlights", "", 1.0, EYE, |s| {
        let eyes = s.eyes();
        let most = eyes.iter().map(|e| e.1).max()?;
        s.of(most as f64, 0.0, eyes.into_iter().map(|e| e.0).collect())
    };
    "catchlight_from_top_hours", "hours", 1.0, EYE, |s| {
        let all = s.readings.by_mark.iter().filter_map(|(id, m)| Some((id, m.catchlights.as_ref()?)));
        let (id, c) = all.filter_map(|(id, c)| Some((id, c.iter().max_by(|a, b| a.level_stops.unwrap_or(0.0).total_cmp(&b.level_stops.unwrap_or(0.0)))?))).next()?;
        let off = c.clock.rem_euclid(12.0);
        s.of(off.min(12.0 - off), 0.25, vec![id.clone()])
    };
    "eyes_unlike", "", 1.0, "Mark both eyes (E) to judge this.", |s| {
        let eyes = s.eyes();
        let [a, b] = &eyes[..] else { return None };
        // a weak spark may be seen in one eye and missed in the other
        s.of((a.1 as f64 - b.1 as f64).abs(), if a.1 == b.1 { 0.0 } else { 0.6 }, vec![a.0.clone(), b.0.clone()])
    };
    "head_tilted_deg", "degrees", 6.0, "Mark the face (F) to judge this.", |s| {
        let (id, f) = s.readings.by_mark.iter().find_map(|(id, m)| Some((id.clone(), m.face.as_ref()?)))?;
        s.of(f.tilted_deg.abs(), 2.0, vec![id])
    };
    "head_nodded_deg", "degrees", 6.0, "Mark the face (F) to judge this.", |s| {
        let (id, f) = s.readings.by_mark.iter().find_map(|(id, m)| Some((id.clone(), m.face.as_ref()?)))?;
        s.of(f.nodded_deg, f.nodded_sd_deg.max(2.0), vec![id])
    };
    "sides_apart_stops", "stops", 0.15, "Mark the box (Q), whose three sides are of one paint, to judge this.", |s| {
        let (id, sides) = s.readings.by_mark.iter().find_map(|(id, m)| (m.sides.len() == 3).then_some((id.clone(), &m.sides)))?;
        if s.marks.marks.iter().any(|m| m.id == id && matches!(&m.kind, MarkKind::Cuboid(c) if c.unlike)) {
            return None;
        }
        let mut under: Vec<(f64, f64)> = sides.iter().map(|v| (v.under_stops, v.under_sd_stops)).collect();
        under.sort_by(|a, b| a.0.total_cmp(&b.0));
        let gaps = under.windows(2).map(|w| (w[1].0 - w[0].0, w[1].1));
        let (apart, sd) = gaps.min_by(|a, b| a.0.total_cmp(&b.0))?;
        s.of(apart, sd, vec![id])
    };
    "rim_over_stops", "stops", 0.7, "Mark the bright edge (R) to judge this.", |s| {
        let (id, r) = s.rims().into_iter().max_by(|a, b| a.1.over_stops.total_cmp(&b.1.over_stops))?;
        s.of(r.over_stops, 0.2, vec![id.clone()])
    };
    "rims_clipped", "", 1.0, "Mark the bright edge (R) to judge this.", |s| {
        let rims = s.rims();
        let all: Vec<String> = rims.iter().map(|r| r.0.clone()).collect();
        if all.is_empty() { None } else { s.of(rims.iter().filter(|r| r.1.clipped).count() as f64, 0.0, all) }
    };
    "pattern_contrast_stops", "stops", 0.7, "Mark the bands of light and shade to judge this.", |s| {
        let (id, p) = s.readings.by_mark.iter().find_map(|(id, m)| Some((id.clone(), m.pattern?)))?;
        s.of(p.contrast_stops, 0.15, vec![id])
    };
    "pattern_uneven", "", 0.15, "Mark the bands of light and shade to judge this.", |s| {
        let (id, p) = s.readings.by_mark.iter().find_map(|(id, m)| Some((id.clone(), m.pattern?)))?;
        s.of(p.unevenness, 0.03, vec![id])
    };
    "shadow_edge_stops", "stops", 0.7, "Mark the edge of a shadow to judge this.", |s| {
        let (id, e) = s.readings.by_mark.iter().find_map(|(id, m)| Some((id.clone(), m.edge?)))?;
        s.of(e.step_stops, 0.1, vec![id])
    };
    // products
    "lines", "", 1.0, BODY, |s| {
        let bodies = s.bodies();
        if bodies.is_empty() { None } else { s.of(s.strips().len() as f64, 0.0, bodies) }
    };
    "line_sides", "", 1.0, BODY, |s| {
        let strips = s.strips();
        let side = |right: bool| usize::from(strips.iter().any(|(_, l)| if right { middle(l) > 12.0 } else { middle(l) < -12.0 }));
        let bodies = s.bodies();
        if bodies.is_empty() { None } else { s.of((side(true) + side(false)) as f64, 0.0, bodies) }
    };
    "line_length_percent", "%", 15.0, BODY, |s| {
        let (id, l) = s.brightest()?;
        s.of(100.0 * (l.along[1] - l.along[0]), 4.0, vec![id.clone()])
    };
    "line_width_deg", "degrees", 8.0, BODY, |s| {
        let (id, l) = s.brightest()?;
        s.of((l.azimuth_to_deg - l.azimuth_from_deg).abs(), l.width_sd_deg, vec![id.clone()])
    };
    "line_edge_deg", "degrees", 6.0, BODY, |s| {
        let (id, l) = s.brightest()?;
        s.of(l.edge_deg, (l.width_sd_deg / std::f64::consts::SQRT_2).max(0.5), vec![id.clone()])
    };
    "line_over_stops", "stops", 0.7, BODY, |s| {
        let (id, l) = s.brightest()?;
        s.of(l.over_ground_stops, 0.15, vec![id.clone()])
    };
    "lines_clipped", "", 1.0, BODY, |s| {
        let strips = s.strips();
        if strips.is_empty() { None } else { s.of(strips.iter().filter(|l| l.1.clipped).count() as f64, 0.0, s.bodies()) }
    };
    "lines_unlike_stops", "stops", 0.7, BODY, |s| {
        // the brightest line of either side
        let strips = s.strips();
        let best = |right: bool| strips.iter().filter(|l| (middle(l.1) > 0.0) == right).map(|l| l.1.light).fold(0.0, f64::max);
        let (l, r) = (best(false), best(true));
        // over print a line is as bright as what it lies on: the two sides seldom show the same
        let printed = s.readings.by_mark.values().any(|m| m.strips.is_some() && m.bands.len() > 1);
        let spread = if printed { PRINTED_STOPS } else { 0.15 };
        if l <= 0.0 || r <= 0.0 { None } else { s.of((l / r).log2().abs(), spread, s.bodies()) }
    };
    "key_and_label_stops", "stops", 0.7, "Mark a patch on the label and the bottle or can (Y) to judge this.", |s| {
        // the line over the label: in linear light, white at one
        let ((id, l), (label, p)) = (s.brightest()?, s.patch(PatchRole::Label)?);
        s.of((l.light.max(1e-4) / p.luminance.max(1e-4)).log2(), 0.2, vec![id.clone(), label])
    };
};

/// The measure with this name.
pub(super) fn measure(id: &str) -> Option<&'static Measure> {
    MEASURES.iter().find(|m| m.id == id)
}
