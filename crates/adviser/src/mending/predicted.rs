//! What a picture would be read as after a change of its set: its own reading, moved by what the studio says the change does.

use super::handle::{Handle, Retake, STRIP_M};
use crate::moves::{Gives, gives};
use evidence::looks::{has_low_fill, name_look};
use evidence::marks::{MarkKind, Marks, Patch, PatchRole};
use evidence::placement::by_brief;
use evidence::readings::{Light, PATCH_CLIPPED, PatchReading, RatioFrom, Readings, StripView, Warning};
use lightset::set::LightSet;
use optics::geometry::{AzEl, Vec3, wrapped_deg};
use optics::hardness::hardness;
use optics::role::Role;
use std::collections::BTreeMap;
use studio::FlatMeters;

/// Where diffuse white lies over middle grey: nothing that does not shine is brighter, stops.
const TOP_STOPS: f64 = 2.47;
/// Of what is clipped half is left after so many stops less (from memory: highlights thin out with brightness).
const HALVES_STOPS: f64 = 0.5;
/// How far over the top a part lies that is clipped all over, and how uneven it is, stops.
const BURNT_STOPS: f64 = 0.8;
const PART_SD_STOPS: f64 = 0.35;
/// How uneven paper or skin is without what is printed or painted on it, stops (common practice).
const PAPER_SD_STOPS: f64 = 0.3;
/// Less light that begins to show, stops.
const LESS_STOPS: f64 = 0.25;
/// Noise of a camera at its lowest speed, % of the range (common practice).
const CLEAN_NOISE: f64 = 0.5;
/// Width of an edge in focus, pixels (common practice: somewhat under two in a picture made smaller for showing).
const SHARP_PIXELS: f64 = 1.8;
/// Stops of a step of the histogram.
const STEP_STOPS: f64 = 0.5;
/// One standard deviation of where a light that was put up stands, degrees.
const PUT_SD_DEG: f64 = 2.0;
/// One standard deviation of how strong one is that was metered, stops.
const PUT_SD_STOPS: f64 = 0.15;
/// A light that moves by less stands where it stood, degrees.
const STAYS_DEG: f64 = 1.0;
/// A catchlight belongs to the light within so many degrees.
const SAME_LIGHT_DEG: f64 = 25.0;

/// Where light is metered to predict by: a usual place of a meter, or a part that was marked, by its mark's name.
pub(crate) struct Place {
    name: String,
    at: Vec3,
    facing: Vec3,
}

/// Name of the place of a mark.
fn of_mark(id: &str) -> String {
    format!("mark {id}")
}

/// What a part that was marked must show in the set to be predicted by what is there; nothing of one that light shines through or
/// that lies anywhere.
fn must_show(role: PatchRole) -> Option<bool> {
    match role {
        PatchRole::Lit | PatchRole::Shadow | PatchRole::Forehead | PatchRole::Chest | PatchRole::Label => Some(true),
        PatchRole::Background | PatchRole::BackgroundFar => Some(false),
        _ => None,
    }
}

/// The usual places of a set's meter, and where its picture shows what was marked in a picture of `size_px`.
///
/// # Errors
/// If a power setting cannot be understood.
pub(crate) fn places(set: &LightSet, marks: &Marks, size_px: Option<[u32; 2]>) -> Result<Vec<Place>, String> {
    let usual = studio::metered(set)?.points.into_iter();
    let mut out: Vec<Place> =
        usual.map(|p| Place { name: p.name, at: p.at_m.into(), facing: p.facing.into() }).collect();
    let Some([w, h]) = size_px else { return Ok(out) };
    let scale = [f64::from(set.picture.width) / f64::from(w), f64::from(set.picture.height) / f64::from(h)];
    let parts: Vec<(String, [f64; 2], bool)> = marks
        .marks
        .iter()
        .filter(|m| !m.off)
        .filter_map(|m| match &m.kind {
            MarkKind::Patch(p) => {
                let [x, y] = m.kind.place()?;
                Some((of_mark(&m.id), [x * scale[0], y * scale[1]], must_show(p.role)?))
            }
            _ => None,
        })
        .collect();
    let at: Vec<[f64; 2]> = parts.iter().map(|p| p.1).collect();
    let seen = studio::seen_at(set, &at).into_iter().zip(parts);
    out.extend(seen.filter_map(|(seen, (name, _, subject))| {
        let s = seen.filter(|s| s.subject == subject)?;
        Some(Place { name, at: s.at_m, facing: s.facing })
    }));
    Ok(out)
}

/// What a set gives, as predictions are made of it.
pub(crate) struct Given {
    lights: Vec<Option<Gives>>,
    /// All light at the places of a meter, stops over the exposure that is right.
    points: BTreeMap<String, f64>,
    /// Key to fill, stops.
    ratio: Option<f64>,
    /// The camera's exposure, stops.
    exposure: f64,
    /// The tone of the background, stops.
    ground: f64,
    meters: FlatMeters,
}

impl Given {
    /// What `set` gives at the places metered in the set that was read.
    pub fn of(set: &LightSet, places: &[Place]) -> Result<Given, String> {
        let at: Vec<(Vec3, Vec3)> = places.iter().map(|p| (p.at, p.facing)).collect();
        Given::by(set, places, FlatMeters::at(set, &at))
    }

    /// The same of a set that is this one but for its levels and its exposure.
    pub fn relevelled(&self, set: &LightSet, places: &[Place]) -> Result<Given, String> {
        Given::by(set, places, self.meters.clone())
    }

    fn by(set: &LightSet, places: &[Place], meters: FlatMeters) -> Result<Given, String> {
        let stops = meters.under(set)?.into_iter().map(|e| e.max(1e-6).log2());
        let e = &set.camera.exposure;
        let wall = set.walls.iter().find(|w| w.is_background());
        Ok(Given {
            lights: set.lights.iter().map(|l| (!l.off).then(|| gives(l, set))).collect(),
            points: places.iter().map(|p| p.name.clone()).zip(stops).collect::<BTreeMap<_, _>>(),
            ratio: studio::key_to_fill(set)?.map(|r| r.max(1e-3).log2()),
            exposure: (e.shutter_s * e.iso / e.f_number.powi(2)).log2(),
            ground: wall.map_or(0.0, |w| w.colour[1].max(1e-3).log2()),
            meters,
        })
    }
}

/// What became of a light.
enum Moved<'a> {
    /// What it gave and what it gives.
    By(&'a Gives, &'a Gives),
    /// It was switched off.
    Off,
    /// It is none of the set's.
    Unknown,
}

/// From what a set gave to what it gives, on one reading.
pub(crate) struct Shift<'a> {
    /// What is done.
    pub handle: &'a Handle,
    pub before: &'a Given,
    pub after: &'a Given,
    /// The set after it, for lights that were put up.
    pub set: &'a LightSet,
    pub marks: &'a Marks,
    /// The light that was brought to the colour of the key.
    pub balanced: Option<&'a str>,
    pub brief: &'a str,
}

impl Shift<'_> {
    fn at(&self, place: &str) -> Option<f64> {
        Some(self.after.points.get(place)? - self.before.points.get(place)?)
    }

    /// Of two sides that were marked, or else of two places of the set that was read, the brighter and the darker.
    fn sides(&self) -> [Option<String>; 2] {
        let marked = |role: PatchRole| {
            let of = |k: &MarkKind| matches!(k, MarkKind::Patch(Patch { role: r, .. }) if *r == role);
            let m = self.marks.marks.iter().find(|m| !m.off && of(&m.kind))?;
            Some(of_mark(&m.id)).filter(|n| self.before.points.contains_key(n))
        };
        if let (Some(lit), Some(shadow), false) =
            (marked(PatchRole::Lit), marked(PatchRole::Shadow), matches!(self.handle, Handle::Head { .. }))
        {
            return [Some(lit), Some(shadow)];
        }
        let value = |n: &&str| self.before.points.get(*n).copied();
        for pair in [["left cheek", "right cheek"], ["left side", "right side"]] {
            if let (Some(a), Some(b)) = (value(&pair[0]), value(&pair[1])) {
                let pair = if a >= b { pair } else { [pair[1], pair[0]] };
                return pair.map(|n| Some(n.to_owned()));
            }
        }
        [None, None]
    }

    /// Stops by which a marked part gets brighter.
    fn of_part(&self, id: &str, role: PatchRole) -> f64 {
        let ground = self.after.ground - self.before.ground;
        // a head that is turned takes its parts along: what was metered on them hangs in the air
        let stays = !matches!(self.handle, Handle::Head { .. });
        if let Some(by) = self.at(&of_mark(id)).filter(|_| stays) {
            return by + if must_show(role) == Some(false) { ground } else { 0.0 };
        }
        let [bright, dark] = self.sides();
        let front = || self.at("forehead").or_else(|| self.at("front"));
        let far = || self.at("background left").or_else(|| self.at("background right"));
        let by = match role {
            PatchRole::Lit => bright.and_then(|n| self.at(&n)).or_else(front),
            PatchRole::Shadow => dark.and_then(|n| self.at(&n)).or_else(front),
            PatchRole::Chest => self.at("chest").or_else(front),
            PatchRole::Background => self.at("background").map(|s| s + ground),
            PatchRole::BackgroundFar => far().or_else(|| self.at("background")).map(|s| s + ground),
            // lit from behind: only the camera is sure to change it
            PatchRole::Liquid | PatchRole::Rim => None,
            _ => front(),
        };
        by.unwrap_or(self.after.exposure - self.before.exposure)
    }

    /// The reading after the change.
    pub fn apply(&self, r: &Readings) -> Readings {
        let mut out = r.clone();
        self.lights(&mut out);
        self.patches(&mut out);
        self.ratios(&mut out);
        self.eyes(r, &mut out);
        self.lines(r, &mut out);
        self.line_put_up(&mut out);
        self.whole(&mut out);
        match *self.handle {
            Handle::Head { tilt_deg, nod_deg } => {
                for f in out.by_mark.values_mut().filter_map(|m| m.face.as_mut()) {
                    f.tilted_deg += tilt_deg;
                    f.nodded_deg -= nod_deg;
                }
            }
            Handle::Retake { how } => {
                let clean = |v: &mut f64, most: f64| *v = v.min(most);
                if let Some(t) = out.texture.as_mut() {
                    match how {
                        Retake::Still => t.smear_permille.iter_mut().for_each(|v| clean(v, 0.0)),
                        Retake::Focused => {}
                        Retake::Slower => clean(&mut t.noise_percent, CLEAN_NOISE),
                        Retake::Whole => clean(&mut t.blocks_percent, 0.0),
                    }
                    if matches!(how, Retake::Still | Retake::Focused) {
                        t.edge_permille.iter_mut().for_each(|v| clean(v, SHARP_PIXELS * t.pixel_permille));
                        t.subject_edge_permille.iter_mut().for_each(|v| clean(v, SHARP_PIXELS * t.pixel_permille));
                    }
                }
            }
            _ => {}
        }
        by_brief(&mut out.exposure, self.brief, self.marks.exposure.as_ref());
        out
    }

    fn lights(&self, r: &mut Readings) {
        let pairs = |k: usize| Some((self.before.lights.get(k)?.as_ref()?, self.after.lights.get(k)?.as_ref()));
        let key = pairs(0).and_then(|(b, a)| Some(a?.stops - b.stops)).unwrap_or(0.0);
        let (key_before, low_before) = (r.lights.first().map(Light::at), has_low_fill(&r.lights));
        let mut kept: Vec<Light> = Vec::new();
        for (k, l) in r.lights.iter().enumerate() {
            let Some((b, a)) = pairs(k) else {
                kept.push(l.clone());
                continue;
            };
            let Some(a) = a else { continue };
            let mut l = l.clone();
            l.azimuth_deg = wrapped_deg(l.azimuth_deg + wrapped_deg(a.at.azimuth_deg - b.at.azimuth_deg));
            l.elevation_deg += a.at.elevation_deg - b.at.elevation_deg;
            let times = (a.ln_size - b.ln_size).exp();
            l.angular_size_deg = l.angular_size_deg.map(|v| v * times);
            l.angular_size_range_deg = l.angular_size_range_deg.map(|v| v.map(|v| v * times));
            l.hardness = l.angular_size_deg.map(|v| hardness(v).to_owned());
            if k > 0 {
                l.level_stops = l.level_stops.map(|v| v + a.stops - b.stops - key);
            }
            kept.push(l);
        }
        let evidence = r.lights.first().map(|l| l.evidence.clone()).unwrap_or_default();
        for (k, l) in self.set.lights.iter().enumerate().skip(self.before.lights.len()) {
            let (Some(Some(g)), Some(Some(first))) = (self.after.lights.get(k), self.after.lights.first()) else {
                continue;
            };
            kept.push(Light {
                role: Role::of_name(&l.name),
                azimuth_deg: g.at.azimuth_deg,
                elevation_deg: g.at.elevation_deg,
                direction_sd_deg: PUT_SD_DEG,
                frame: "camera".into(),
                angular_size_deg: Some(g.ln_size.exp().to_degrees()),
                angular_size_range_deg: None,
                hardness: None,
                level_stops: Some(g.stops - first.stops),
                level_sd_stops: Some(0.1),
                cct_k: None,
                evidence: evidence.clone(),
                disagreement: Vec::new(),
            });
        }
        r.lights = kept;
        let low = has_low_fill(&r.lights);
        let turned = r.lights.first().zip(key_before).is_none_or(|(k, b)| {
            optics::geometry::angle_between(&k.at().vector(), &b.vector()).to_degrees() > STAYS_DEG
        });
        // a look is named anew where its lights have moved; else it stays as sure as it was
        if let (Some(k), Some(look), true) = (r.lights.first(), r.look.as_mut(), turned || low != low_before) {
            let side = look.side.take();
            *look = name_look(&self.set.from_lens(k.at()).vector(), k.direction_sd_deg.to_radians(), low);
            look.side = side;
        }
        // a light of the key's colour differs in nothing from it, one that is off in nothing at all
        let off = |name: &str| self.set.lights.iter().any(|l| l.off && l.name == name);
        r.colours.retain(|c| !off(&c.of));
        for c in r.colours.iter_mut().filter(|c| self.balanced.is_some_and(|b| is_of(b, &c.of))) {
            (c.mired, c.duv) = (0.0, 0.0);
        }
    }

    /// Stops by which a side of the background changes that is lit as the darker one is.
    fn evened(&self, r: &Readings, role: PatchRole) -> f64 {
        let level = |role: PatchRole| {
            let of = |k: &MarkKind| matches!(k, MarkKind::Patch(Patch { role: r, .. }) if *r == role);
            let m = self.marks.marks.iter().find(|m| !m.off && of(&m.kind))?;
            Some(r.by_mark.get(&m.id)?.patch.as_ref()?.stops_from_grey)
        };
        let [a, b] = [PatchRole::Background, PatchRole::BackgroundFar].map(level);
        let own = if role == PatchRole::Background { a } else { b };
        own.zip(a.zip(b)).map_or(0.0, |(own, (a, b))| a.min(b) - own)
    }

    fn patches(&self, r: &mut Readings) {
        let roles = self.marks.marks.iter().filter_map(|m| match &m.kind {
            MarkKind::Patch(Patch { role, .. }) => Some((&m.id, *role)),
            _ => None,
        });
        for (id, role) in roles {
            let by = match (self.handle, role) {
                (Handle::Even, PatchRole::Background | PatchRole::BackgroundFar) => self.evened(r, role),
                _ => self.of_part(id, role),
            };
            let unread = |w: &Warning| w.code == PATCH_CLIPPED && w.mark.as_ref() == Some(id);
            if by < -LESS_STOPS && r.warnings.iter().any(unread) {
                // burnt all over, so not read: it has a tone again with less light
                r.warnings.retain(|w| !unread(w));
                let burnt = r.by_mark.entry(id.clone()).or_default();
                burnt.patch.get_or_insert(PatchReading {
                    luminance: 1.0,
                    stops_from_grey: TOP_STOPS + BURNT_STOPS,
                    spread_stops: PART_SD_STOPS,
                    clipped_fraction: 1.0,
                    pixels: 0,
                    rgb: [1.0; 3],
                });
            }
            if let Some(p) = r.by_mark.get_mut(id).and_then(|m| m.patch.as_mut()) {
                brighter(p, by);
            }
            for p in r.exposure.placements.iter_mut().filter(|p| p.mark == *id) {
                p.stops_from_grey += by;
            }
        }
    }

    fn ratios(&self, r: &mut Readings) {
        let Some(q) = r.ratios.as_mut() else { return };
        let [bright, dark] = self.sides();
        let side = |n: Option<String>| n.and_then(|n| self.at(&n)).unwrap_or(0.0);
        let contrast = side(bright) - side(dark);
        let by = match (self.before.ratio, self.after.ratio) {
            (Some(b), Some(a)) => a - b,
            _ => 0.0,
        };
        if q.contrast_from == RatioFrom::Patches {
            q.lit_to_shadow_stops += contrast;
            q.range_stops = q.range_stops.map(|v| v + contrast);
        } else {
            q.lit_to_shadow_stops += by;
            q.range_stops = q.range_stops.map(|v| v + by);
        }
        // what was only known to be weak is lost beside a fill that is put up
        if let (Handle::Fill { .. }, Some(a)) = (self.handle, self.after.ratio) {
            (q.key_to_fill, q.at_least) = (a.exp2(), false);
            q.key_to_fill_range = [-2.0, 2.0].map(|k| (a + k * PUT_SD_STOPS).exp2());
        } else {
            let times = by.exp2();
            q.key_to_fill *= times;
            q.key_to_fill_range = q.key_to_fill_range.map(|v| v * times);
        }
        q.key_plus_fill_to_fill = 1.0 + q.key_to_fill;
        q.key_plus_fill_to_fill_range = q.key_to_fill_range.map(|v| v + 1.0);
        if let Some(a) = r.ambient.as_mut() {
            a.level_stops -= by;
        }
    }

    /// What became of the light that lies nearest to something it makes, by its angle from that in degrees.
    fn light_of(&self, before: &Readings, apart: impl Fn(&Light) -> f64) -> Moved<'_> {
        let near = before.lights.iter().enumerate().map(|(k, l)| (apart(l), k));
        let Some((_, k)) = near.filter(|n| n.0 <= SAME_LIGHT_DEG).min_by(|a, b| a.0.total_cmp(&b.0)) else {
            return Moved::Unknown;
        };
        match (self.before.lights.get(k), self.after.lights.get(k)) {
            (Some(Some(b)), Some(Some(a))) => Moved::By(b, a),
            (Some(Some(_)), Some(None)) => Moved::Off,
            _ => Moved::Unknown,
        }
    }

    fn eyes(&self, before: &Readings, r: &mut Readings) {
        let angle = |a: AzEl, b: AzEl| optics::geometry::angle_between(&a.vector(), &b.vector()).to_degrees();
        for m in r.by_mark.values_mut() {
            let Some(all) = m.catchlights.as_mut() else { continue };
            all.retain_mut(|c| {
                let (b, a) = match self.light_of(before, |l| angle(l.at(), c.at())) {
                    Moved::By(b, a) => (b, a),
                    Moved::Off => return false,
                    Moved::Unknown => return true,
                };
                c.azimuth_deg = wrapped_deg(c.azimuth_deg + wrapped_deg(a.at.azimuth_deg - b.at.azimuth_deg));
                c.elevation_deg += a.at.elevation_deg - b.at.elevation_deg;
                c.clock = c.at().clock();
                true
            });
        }
    }

    /// Bright lines of bodies: a line lies where its source stands, as wide and as long as that is.
    fn lines(&self, before: &Readings, r: &mut Readings) {
        for m in r.by_mark.values_mut() {
            let Some(all) = m.strips.as_mut() else { continue };
            all.retain_mut(|s| {
                let middle = f64::midpoint(s.azimuth_from_deg, s.azimuth_to_deg);
                let (b, a) = match self.light_of(before, |l| wrapped_deg(l.azimuth_deg - middle).abs()) {
                    Moved::By(b, a) => (b, a),
                    Moved::Off => return false,
                    Moved::Unknown => return true,
                };
                let times = match *self.handle {
                    Handle::Lines { wide, high } => [wide, high],
                    _ => [(a.ln_size - b.ln_size).exp(); 2],
                };
                // a line is as bright as its source's face: the same light from a larger one is a dimmer face
                let brighter = a.stops - b.stops - (times[0] * times[1]).log2();
                let at = middle + wrapped_deg(a.at.azimuth_deg - b.at.azimuth_deg);
                let half = (s.azimuth_to_deg - s.azimuth_from_deg) / 2.0 * times[0];
                (s.azimuth_from_deg, s.azimuth_to_deg) = (at - half, at + half);
                let (mid, long) = (f64::midpoint(s.along[0], s.along[1]), (s.along[1] - s.along[0]) / 2.0 * times[1]);
                s.along = [(mid - long).max(0.0), (mid + long).min(1.0)];
                s.light *= brighter.exp2();
                s.over_ground_stops += brighter;
                s.clipped &= brighter > -HALVES_STOPS;
                true
            });
        }
    }

    /// The line of a strip that was put up: where it stands, as wide as it is from there, as bright as the one there was.
    fn line_put_up(&self, r: &mut Readings) {
        let Handle::Strip { .. } = self.handle else { return };
        let Some(l) = self.set.lights.last() else { return };
        let at = AzEl::of(&l.position()).azimuth_deg;
        let half = (STRIP_M[0] / 2.0 / l.position().norm().max(0.1)).atan().to_degrees();
        for all in r.by_mark.values_mut().filter_map(|m| m.strips.as_mut()) {
            let like = all.iter().filter(|s| !s.lit_side).max_by(|a, b| a.light.total_cmp(&b.light)).cloned();
            let put =
                StripView { azimuth_from_deg: at - half, azimuth_to_deg: at + half, ..like.unwrap_or_else(usual_line) };
            all.push(StripView { clipped: false, along: WHOLE, ..put });
        }
    }

    fn whole(&self, r: &mut Readings) {
        let exposure = self.after.exposure - self.before.exposure;
        let e = &mut r.exposure;
        // the frame follows its subject and its background, half and half
        let subject = self.at("forehead").or_else(|| self.at("front")).unwrap_or(exposure);
        let ground = self.at("background").map_or(exposure, |s| s + self.after.ground - self.before.ground);
        let by = f64::midpoint(subject, ground);
        e.median_stops_from_grey += by;
        e.clipped_fraction = clipped(e.clipped_fraction, by, near_top(&e.histogram, by));
        e.histogram = moved(&e.histogram, by);
    }
}

/// Share of the upright part that a strip as high as the product and more lights.
const WHOLE: [f64; 2] = [0.02, 0.98];

/// A line of a strip as it usually comes out, where there was none to go by.
fn usual_line() -> StripView {
    StripView {
        azimuth_from_deg: 0.0,
        azimuth_to_deg: 0.0,
        azimuth_sd_deg: 2.0,
        width_sd_deg: 2.8,
        edge: "crisp".into(),
        edge_deg: 2.0,
        edges_deg: [2.0; 2],
        over_ground_stops: 2.5,
        light: 0.6,
        clipped: false,
        along: WHOLE,
        reaches: None,
        lit_side: false,
    }
}

/// A histogram of half stops with all of it so many stops brighter; what leaves it stays in its last step.
fn moved(histogram: &[f64], by: f64) -> Vec<f64> {
    let last = histogram.len().saturating_sub(1) as i64;
    let steps = by / STEP_STOPS;
    let (whole, part) = (steps.floor() as i64, steps - steps.floor());
    let mut out = vec![0.0; histogram.len()];
    for (i, v) in histogram.iter().enumerate() {
        let to = |k: i64| (i as i64 + whole + k).clamp(0, last) as usize;
        out[to(0)] += (1.0 - part) * v;
        out[to(1)] += part * v;
    }
    out
}

/// Whether a difference of colour is that of a light: what lifts the shadows colours their side.
fn is_of(light: &str, of: &str) -> bool {
    light == of || (of == "shadow side" && Role::of_name(light) == Role::Fill)
}

/// Share of a histogram (half stops from six under middle grey) that comes over the top with so many stops more.
fn near_top(histogram: &[f64], by: f64) -> f64 {
    let over = |i: usize| 0.5 + STEP_STOPS * i as f64 - 6.0 + by > TOP_STOPS && STEP_STOPS * i as f64 - 6.0 < TOP_STOPS;
    histogram.iter().enumerate().filter(|(i, _)| by > 0.0 && over(*i)).map(|(_, v)| v).sum()
}

/// Share that is clipped after so many stops more.
fn clipped(share: f64, by: f64, joins: f64) -> f64 {
    if by < 0.0 { share * (by / HALVES_STOPS).exp2() } else { (share + joins).min(1.0) }
}

fn brighter(p: &mut PatchReading, by: f64) {
    let before = over_top(p.stops_from_grey, p.spread_stops);
    p.stops_from_grey += by;
    p.luminance *= by.exp2();
    p.rgb = p.rgb.map(|v| v * by.exp2());
    p.clipped_fraction = if by > 0.0 {
        (p.clipped_fraction + (over_top(p.stops_from_grey, p.spread_stops) - before)).min(1.0)
    } else {
        unclipped(p.clipped_fraction, by)
    };
}

/// Share of a part over the top whose brightness is spread evenly about its mean, stops. Print only darkens: what a part is more
/// uneven than [`PAPER_SD_STOPS`] lies below.
fn over_top(mean: f64, sd: f64) -> f64 {
    let half = 3f64.sqrt() * sd.clamp(0.05, PAPER_SD_STOPS);
    ((mean + half - TOP_STOPS) / (2.0 * half)).clamp(0.0, 1.0)
}

/// Share of an even part that is clipped after so many stops less: what is clipped all over lies [`BURNT_STOPS`] over the top.
fn unclipped(share: f64, by: f64) -> f64 {
    if share <= 0.0 {
        return 0.0;
    }
    let odds = (share / (1.0 - share).max(1e-9)).ln().min(1.7 * BURNT_STOPS / PART_SD_STOPS);
    1.0 / (1.0 + (-(odds + 1.7 * by / PART_SD_STOPS)).exp())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_clipped_grows_with_exposure_and_shrinks_without() {
        assert!((clipped(0.2, -1.0, 0.0) - 0.05).abs() < 1e-9);
        assert!((clipped(0.2, 0.7, 0.1) - 0.3).abs() < 1e-9);
        assert_eq!(moved(&[0.0, 1.0, 0.0, 0.0], 0.75), [0.0, 0.0, 0.5, 0.5]);
        assert_eq!(moved(&[0.2, 0.0, 0.8], -0.5), [0.2, 0.8, 0.0]);
        // all of a histogram in its last step under the top
        let mut h = vec![0.0; 20];
        h[16] = 1.0;
        assert!((near_top(&h, 1.0) - 1.0).abs() < 1e-9);
        assert!(near_top(&h, 0.0).abs() < 1e-9);
        // a part that is burnt all over has its tone again two stops down, one of which half is burnt half a stop down
        assert!(unclipped(1.0, -2.0) < 0.01 && unclipped(1.0, -0.5) > 0.5, "{}", unclipped(1.0, -2.0));
        assert!((unclipped(0.5, 0.0) - 0.5).abs() < 1e-9 && unclipped(0.5, -0.5) < 0.1);
    }
}
