//! Which lamp stands behind a light, at what power, and what to do if it is too weak.

use crate::bench::{BenchQuestion, Values, answer, path_of};
use lightset::kit::{Kit, Lamp, Pulse};
use lightset::meter::LightMeter;
use lightset::set::{Glow, Outline, SetLight, Source};
use lightset::throw::{Leaves, through};
use optics::engraved;
use optics::exposure::{C_FLAT, Settings, shutter_text};
use optics::geometry::Vec3;
use optics::units::{FNumber, Metres, Stops};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// The lamp of one light.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LampPlan {
    /// Name of the light.
    pub light: String,
    /// Id of the lamp; absent if the kit has none for it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub lamp: Option<String>,
    /// Its name.
    pub name: String,
    /// Power it needs, stops from full.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub power_stops: Option<f64>,
    /// One standard deviation of that.
    pub power_sd_stops: f64,
    /// Power in the lamp's own notation.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub setting: Option<String>,
    /// In one sentence.
    pub says: String,
    /// How long its flash lasts, what that freezes, when it is ready again; absent for steady light.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pulse: Option<String>,
    /// What else would do, if it is too weak or too strong.
    pub ways_out: Vec<WayOut>,
    /// Lamps that could stand there: id and name.
    pub others: Vec<[String; 2]>,
}

/// A way out, with what else it changes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct WayOut {
    /// What to change.
    pub change: String,
    /// What that also does.
    pub also: String,
}

/// Figures of the light path from a lamp through a light of a set, at full power.
pub fn values_of(lamp: &Lamp, light: &SetLight, distance_m: f64) -> Values {
    let own = lamp.beam_deg();
    let mut v = path_of(lamp, None, Metres(distance_m), Stops(0.0));
    let mut put = |k: &str, x: f64| {
        v.insert(k.into(), x);
    };
    put("magnification", 0.0);
    let t = through(light, own);
    // what has a face of its own takes nothing in front of it
    let takes = lamp.takes_modifiers && !has_own_face(&light.source);
    if takes {
        put("face_w_m", t.face_m[0]);
        put("face_h_m", t.face_m[1]);
        put("share", t.share);
        match t.leaves {
            Leaves::OwnReflector => put("modifier", 0.0),
            Leaves::Face => put("modifier", 1.0),
            Leaves::Beam(deg) => {
                put("modifier", 2.0);
                put("dish_beam_deg", deg);
            }
        }
    }
    if let Some(s) = t.sheet {
        put("sheet", 1.0);
        put("gap_m", s.gap_m);
        put("sheet_w_m", s.size_m[0]);
        put("sheet_h_m", s.size_m[1]);
    }
    put("transmission", t.sheet.map_or(1.0, |s| s.share));
    v
}

/// Metres from a light's face to where it is metered.
fn metered_from(light: &SetLight, meter: &LightMeter) -> f64 {
    (Vec3::from(meter.face_m) - light.metered_at()).norm()
}

/// Stops of power from full that a lamp needs, with the spread.
pub(super) fn power_needed(lamp: &Lamp, light: &SetLight, meter: &LightMeter, s: &Settings) -> Option<(f64, f64)> {
    let mut v = values_of(lamp, light, metered_from(light, meter).max(0.06));
    v.insert("f_number".into(), s.f_number);
    v.insert("shutter_s".into(), s.shutter_s);
    v.insert("iso".into(), s.iso);
    v.insert("sync_s".into(), s.shutter_s.clamp(0.0005, 1.0));
    let a = answer(&BenchQuestion { sum: "path".into(), values: v, powers: Default::default(), solve: None }).ok()?;
    let over = a.results.iter().find(|r| r.name.starts_with("Over what"))?;
    let wanted = (meter.lux_seconds * s.iso / (C_FLAT * s.f_number.powi(2))).log2();
    (wanted.is_finite() && over.value.is_finite()).then(|| (wanted - over.value, over.sd.hypot(lamp.spread_stops)))
}

/// Whether a source is a lamp with a face of its own.
fn has_own_face(source: &Source) -> bool {
    let about = source.about();
    matches!(about.outline, Outline::Tube(..)) || matches!(about.glow, Glow::Measured(_))
}

/// Whether a lamp can stand behind a source.
pub(super) fn fits(lamp: &Lamp, light: &SetLight) -> bool {
    match light.source.about().outline {
        _ if light.source.is_window() => false,
        Outline::Tube(length_m, _) => (lamp.face_m / length_m).ln().abs() < 0.5 && !lamp.takes_modifiers,
        _ if lamp.takes_modifiers => true,
        // a lamp that is its own face: about that size
        _ => (lamp.face_m.powi(2) / light.source.area_m2().max(1e-6)).ln().abs() < 0.9,
    }
}

/// The filter that takes at least so many stops, by its density: whole stops of 0.3 (density is the tenfold logarithm, common
/// practice).
fn filter_text(stops: f64) -> String {
    let whole = (stops - 0.1).ceil().max(1.0);
    format!(" (density {:.1}: {whole:.0})", 0.3 * whole)
}

/// The most an aperture opens, the fastest film, the longest time somebody holds still (common practice).
const WIDEST: f64 = 1.4;
const FASTEST: f64 = 6400.0;
const STILL_S: f64 = 1.0 / 50.0;
/// The longest time of a thing on a table.
const LONGEST_S: f64 = 8.0;

/// Camera settings that give so many stops more light, as engraved, with what each costs. A flash does not grow with the time.
fn more_light(s: &Settings, more: Stops, flash: bool, sitter: bool) -> Vec<WayOut> {
    let mut ways = Vec::new();
    if let Some(iso) = engraved::faster(s.iso, more, FASTEST) {
        ways.push(WayOut {
            change: format!("ISO {iso:.0} instead of {:.0}.", engraved::speed(s.iso)),
            also: format!(
                "Everything else grows by {:.1} stops as well: turn the other lights and the room down by that; more noise.",
                (iso / s.iso).log2()
            ),
        });
    }
    if let Some(f) = engraved::wider(s.f_number, more, WIDEST) {
        ways.push(WayOut {
            change: format!("f/{f} instead of f/{}.", engraved::aperture(FNumber(s.f_number))),
            also: "Everything else grows as well, and less of the subject is sharp.".into(),
        });
    }
    if ways.is_empty() {
        // half by the one, half by the other
        let half = Stops(more.0 / 2.0);
        if let (Some(iso), Some(f)) =
            (engraved::faster(s.iso, half, FASTEST), engraved::wider(s.f_number, half, WIDEST))
        {
            ways.push(WayOut {
                change: format!("ISO {iso:.0} and f/{f} together: neither alone reaches so far."),
                also: "Everything else grows as well; more noise, and less of the subject is sharp.".into(),
            });
        }
    }
    let longest = if sitter { STILL_S } else { LONGEST_S };
    if flash {
        let pops = more.0.exp2().ceil();
        if !sitter && pops <= 16.0 {
            ways.push(WayOut {
                change: format!("{pops:.0} pops in one long exposure, room dark."),
                also: "Nothing may move between them; wait for the lamp to recycle before each.".into(),
            });
        }
    } else if let Some(t) = engraved::longer(s.shutter_s, more, longest) {
        ways.push(WayOut {
            change: format!("{} instead of {}.", shutter_text(t), shutter_text(engraved::time(s.shutter_s))),
            also: if sitter {
                "All steady light grows as well; a sitter's movement blurs more.".into()
            } else {
                "All steady light grows as well: a stand for the camera, and a remote release.".into()
            },
        });
    } else if sitter {
        ways.push(WayOut {
            change: "No longer time: it would have to be over 1/50.".into(),
            also: "A sitter does not hold still for it (common practice).".into(),
        });
    }
    ways
}

/// How what is taken may move, and how large it is in the frame.
#[derive(Debug, Clone, Copy)]
pub struct Moving {
    /// Somebody sits there.
    pub sitter: bool,
    /// Height of the frame at the subject, metres.
    pub frame_m: f64,
}

/// Pixels of a frame from above that a streak is counted in, and how fast what is frozen moves: a gesture, a drop that fell 20 cm
/// (common practice).
const FRAME_PX: f64 = 4000.0;
const GESTURE_MS: f64 = 1.0;
const DROP_MS: f64 = 2.0;

/// A time whose reciprocal has two figures: no flash is known better.
fn two_figures(s: f64) -> f64 {
    let k = 10f64.powf((1.0 / s).log10().floor() - 1.0);
    1.0 / ((1.0 / s / k).round() * k)
}

/// What a flash freezes at a power, and when it is ready again.
fn pulse_says(p: &Pulse, needed: f64, lowest: f64, subject: Moving) -> String {
    let power = Stops(needed.clamp(lowest.min(0.0), 0.0));
    let lasts = p.lasts_s(power);
    let (who, speed) = if subject.sitter { ("a gesture", GESTURE_MS) } else { ("a drop that fell 20 cm", DROP_MS) };
    let px = |t: f64| speed * t / subject.frame_m.max(0.01) * FRAME_PX;
    let mut text = format!(
        "The flash lasts about {} (t0.1, ± a third where it was not measured): {who}, {speed:.0} m/s, draws {:.1} mm, {} of a picture {FRAME_PX:.0} high",
        shutter_text(two_figures(lasts)),
        1000.0 * speed * lasts,
        if px(lasts) < 1.5 { "a pixel".to_owned() } else { format!("{:.0} pixels", px(lasts)) }
    );
    // three pixels pass for frozen (common practice)
    let frozen = lasts * 3.0 / px(lasts).max(1e-9);
    text += &match p.power_for(frozen) {
        _ if px(lasts) <= 3.0 => "; frozen.".into(),
        Some(w) if w.0 < lowest => {
            "; at its lowest it still draws more than three: a faster head, or a wider frame.".into()
        }
        Some(w) if w.0 < power.0 => format!("; three pixels take {:.1} stops less power.", power.0 - w.0),
        _ => "; it lasts as long at any power: a faster head, or a wider frame.".to_owned(),
    };
    text += &format!(" Ready again after {:.1} s", p.ready_again_s(power));
    if let Some(n) = p.on_a_charge(power) {
        text += &format!(", some {:.0} flashes on a charge", (n / 10.0).round() * 10.0);
    }
    text + ". Steady light four stops or more under it adds no streak of its own."
}

/// Chooses the lamp of a light, or takes the one asked for, and works out its power.
pub fn lamp_plan(
    kit: &Kit,
    light: &SetLight,
    meter: &LightMeter,
    s: &Settings,
    asked: Option<&str>,
    taken: &[String],
    subject: Moving,
) -> LampPlan {
    let sitter = subject.sitter;
    let none = |says: String| LampPlan {
        light: light.name.clone(),
        lamp: None,
        name: String::new(),
        power_stops: None,
        power_sd_stops: 0.0,
        setting: None,
        says,
        pulse: None,
        ways_out: Vec::new(),
        others: Vec::new(),
    };
    if light.source.is_window() {
        return none("Daylight: its level is what the window gives; wait, hang a net, or turn the sitter.".into());
    }
    let free = |l: &&Lamp| (taken.iter().filter(|t| **t == l.id).count() as u32) < l.count;
    let can: Vec<(&Lamp, f64, f64)> = kit
        .lamps
        .iter()
        .filter(|l| l.count > 0 && fits(l, light))
        .filter_map(|l| power_needed(l, light, meter, s).map(|(p, sd)| (l, p, sd)))
        .collect();
    // the one asked for; else one that is free and strong enough with the least power to spare
    let cost = |(l, p, _): &(&Lamp, f64, f64)| {
        let weak = (p - 0.0).max(0.0) * 10.0 + (l.lowest_stops - p).max(0.0) * 6.0;
        // flash and steady light together are metered and exposed apart
        let taken_kind = taken.iter().find_map(|id| kit.lamps.iter().find(|l| &l.id == id)).map(Lamp::is_flash);
        let mixed = if taken_kind.is_some_and(|f| f != l.is_flash()) { 4.0 } else { 0.0 };
        let colour = light.cct_k.map_or(0.0, |k| (1e6 / k - 1e6 / l.cct_k).abs() / 60.0);
        weak + mixed + colour + if free(l) { 0.0 } else { 100.0 } + if l.household { 0.7 } else { 0.0 }
            - p.min(0.0) * 0.2
    };
    let picked = asked
        .and_then(|id| can.iter().find(|c| c.0.id == id))
        .or_else(|| can.iter().min_by(|a, b| cost(a).total_cmp(&cost(b))));
    let Some(&(lamp, power, sd)) = picked else {
        return none(format!(
            "Nothing in the kit shines as this source ({}) does: add a lamp, or take another source in Rebuild.",
            light.source.word()
        ));
    };
    let in_use = !free(&lamp);
    if in_use && asked.is_none() {
        return LampPlan {
            others: can.iter().map(|c| [c.0.id.clone(), c.0.name.clone()]).collect(),
            ..none(
                "Every lamp of the kit that could be this light is in use for another: add one to the kit, or leave this light \
                 to a board or the room in Rebuild."
                    .into(),
            )
        };
    }
    let others = can.iter().map(|c| [c.0.id.clone(), c.0.name.clone()]).collect();
    let lux = lamp.is_flash();
    let mut ways = Vec::new();
    let says;
    let mut setting = Some(lamp.write(Stops(power.clamp(lamp.lowest_stops.min(0.0), 0.0))));
    if power > 0.05 {
        setting = None;
        says = format!("{} at full power is {power:.1} stops too weak here.", lamp.name);
        let d = metered_from(light, meter);
        let near = d * (-power / 2.0).exp2();
        let angle = |x: f64| 2.0 * ((meter.angular_size_deg.to_radians() / 2.0).tan() * d / x).atan().to_degrees();
        ways.push(WayOut {
            change: format!("Bring it from {d:.2} to {near:.2} m."),
            also: format!(
                "It then fills {:.0}° instead of {:.0}° and the first 30 cm behind the subject lose {:.1} instead of {:.1} stops.",
                angle(near),
                meter.angular_size_deg,
                2.0 * ((near + 0.3) / near).log2(),
                2.0 * ((d + 0.3) / d).log2()
            ),
        });
        ways.extend(more_light(s, Stops(power), lux, sitter));
    } else if power < lamp.lowest_stops - 0.05 {
        says = format!("{} at its lowest is still {:.1} stops too strong.", lamp.name, lamp.lowest_stops - power);
        ways.push(WayOut {
            change: format!(
                "A grey filter or a net of {:.1} stops{}, or {:.2} m instead of {:.2} m.",
                lamp.lowest_stops - power,
                filter_text(lamp.lowest_stops - power),
                metered_from(light, meter) * ((lamp.lowest_stops - power) / 2.0).exp2(),
                metered_from(light, meter)
            ),
            also: "Farther away it is smaller and harder.".into(),
        });
    } else {
        says = format!("{}: {} (± {sd:.1} stops), {:.1} stops in hand.", lamp.name, lamp.write(Stops(power)), -power);
    }
    let says = if in_use {
        format!("{says} The kit has {} of it, and another light has it already.", lamp.count)
    } else {
        says
    };
    LampPlan {
        light: light.name.clone(),
        lamp: Some(lamp.id.clone()),
        name: lamp.name.clone(),
        power_stops: Some(power),
        power_sd_stops: sd,
        setting,
        says,
        pulse: lamp.pulse.filter(|_| lamp.is_flash()).map(|p| pulse_says(&p, power, lamp.lowest_stops, subject)),
        ways_out: ways,
        others,
    }
}
