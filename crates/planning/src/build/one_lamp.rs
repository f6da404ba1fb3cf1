//! A set made with one lamp that is carried from place to place: a plate at each, or one long exposure in the dark.

use super::lamps::{fits, power_needed};
use lightset::kit::{Kit, Lamp};
use lightset::meter::SetMeter;
use lightset::set::LightSet;
use optics::engraved;
use optics::exposure::shutter_text;
use optics::geometry::Vec3;
use optics::units::Stops;
use optics::words::{Lengths, place_words};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// One place of the lamp.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct OneLampStep {
    /// Light of the set it stands for.
    pub light: String,
    /// Where it stands.
    pub place: String,
    /// For a plate of its own: how the lamp is set, and how long, in a sentence.
    pub plate: String,
    /// Seconds of the plate; absent for a flash.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub plate_s: Option<f64>,
    /// Pops of a flash at that setting; absent for steady light.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pops: Option<u32>,
    /// In the long exposure: when it is uncovered and covered again, seconds from the start; absent for a flash.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<optics::geometry::Pair>)]
    pub burns_s: Option<[f64; 2]>,
}

/// A set with one lamp.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct OneLampPlan {
    /// Id of the lamp.
    pub lamp: String,
    /// Its name.
    pub name: String,
    /// Lamps that could do it: id and name.
    pub others: Vec<[String; 2]>,
    /// Places in order.
    pub steps: Vec<OneLampStep>,
    /// How the lamp is set for the long exposure.
    pub setting: String,
    /// Seconds from opening the shutter to closing it; nought for a flash.
    pub total_s: f64,
    /// Spread of each level, stops: the lamp's, and a second of the hand in the shortest time.
    pub sd_stops: f64,
    /// What to know of it.
    pub says: Vec<String>,
}

/// Seconds to cover the lamp, carry it and stand it anew (common practice).
const CARRY_S: f64 = 10.0;
/// The shortest time a hand uncovers and covers a lamp by a clock, and how far it is off (common practice).
const SHORTEST_S: f64 = 2.0;
const HAND_S: f64 = 0.25;
/// Longer than this a camera makes noise of its own and stands are bumped (common practice).
const LONGEST_S: f64 = 600.0;
/// Light of the room over the whole long exposure from which it shows, stops under what the camera is set for.
const ROOM_STOPS: f64 = -5.0;
/// Pops in one frame that somebody waits for.
const MOST_POPS: f64 = 32.0;

/// Works a set out for one lamp of the kit: the one asked for, or the strongest that fits every light.
///
/// # Errors
/// A sentence if there is no such lamp, no light, or a window in it.
pub fn one_lamp(set: &LightSet, meter: &SetMeter, kit: &Kit, asked: Option<&str>) -> Result<OneLampPlan, String> {
    let lights: Vec<usize> = (0..set.lights.len()).filter(|i| !set.lights[*i].off).collect();
    if lights.is_empty() {
        return Err("no light of the set is on".into());
    }
    if let Some(i) = lights.iter().find(|i| set.lights[**i].source.is_window()) {
        return Err(format!("{}: a window cannot be carried about", set.lights[*i].name));
    }
    let s = &set.camera.exposure;
    let does = |l: &&Lamp| l.count > 0 && lights.iter().all(|i| fits(l, &set.lights[*i]));
    let can: Vec<&Lamp> = kit.lamps.iter().filter(does).collect();
    let most = |a: &&&Lamp, b: &&&Lamp| a.axial().total_cmp(&b.axial());
    let lamp = match asked {
        Some(id) => {
            *can.iter().find(|l| l.id == id).ok_or("this lamp does not shine as every light of the set does")?
        }
        // steady light first: its time can be as long as it needs
        None => *can
            .iter()
            .filter(|l| !l.is_flash())
            .max_by(most)
            .or(can.iter().max_by(most))
            .ok_or("no lamp of the kit can stand for every light of the set")?,
    };
    let needs = lights
        .iter()
        .map(|i| power_needed(lamp, &set.lights[*i], &meter.lights[*i], s).map(|p| p.0))
        .collect::<Option<Vec<f64>>>()
        .ok_or("what the lamp gives cannot be worked out for every light")?;
    let floor = set.floor_m();
    let least = needs.iter().copied().fold(f64::INFINITY, f64::min);
    // dimmed so far that the shortest time is one for a hand
    let dim = ((s.shutter_s * least.exp2() / SHORTEST_S).log2()).clamp(lamp.lowest_stops.min(0.0), 0.0);
    let flash = lamp.is_flash();
    let mut at = 0.0;
    let mut steps = Vec::new();
    let mut says = Vec::new();
    for (i, p) in lights.iter().zip(&needs) {
        let l = &set.lights[*i];
        let place = place_words(&Vec3::from(meter.lights[*i].position_m), floor, Lengths::Metres);
        let set_to = lamp.write(Stops(p.clamp(lamp.lowest_stops.min(0.0), 0.0)));
        if flash {
            let pops = p.exp2().ceil().max(1.0);
            if pops > MOST_POPS {
                says.push(format!(
                    "{}: {pops:.0} pops are too many to wait for: open the aperture or come nearer.",
                    l.name
                ));
            }
            let each = p - pops.log2();
            let set_to = lamp.write(Stops(each.clamp(lamp.lowest_stops.min(0.0), 0.0)));
            let plate = if pops > 1.0 {
                format!("{pops:.0} pops at {set_to} in one frame, the room dark.")
            } else {
                format!("One pop at {set_to}.")
            };
            steps.push(OneLampStep {
                light: l.name.clone(),
                place,
                plate,
                plate_s: None,
                pops: Some(pops as u32),
                burns_s: None,
            });
            continue;
        }
        // a plate at its own time: dimmed where full is too much, longer where it is too little
        let plate_s = if *p > 0.0 { engraved::time(s.shutter_s * p.exp2()) } else { s.shutter_s };
        let plate = format!("{} at {set_to}.", shutter_text(plate_s));
        let burns = s.shutter_s * (p - dim).exp2();
        if burns < SHORTEST_S * 0.99 {
            says.push(format!(
                "{}: {burns:.1} s is shorter than a hand can time; put a net or a filter before the lamp there, or step back.",
                l.name
            ));
        }
        steps.push(OneLampStep {
            light: l.name.clone(),
            place,
            plate,
            plate_s: Some(plate_s),
            pops: None,
            burns_s: Some([at, at + burns]),
        });
        at += burns + CARRY_S;
    }
    let total_s = if flash { 0.0 } else { at - CARRY_S };
    if total_s > LONGEST_S {
        says.push(format!("{:.0} minutes are long for one exposure: take plates and merge them.", total_s / 60.0));
    }
    if let Some(room) = meter.ambient_stops.filter(|_| !flash) {
        let over = room + (total_s / s.shutter_s).log2();
        if over > ROOM_STOPS {
            says.push(format!(
                "The room's light, shut in for {total_s:.0} s, would lie {:.1} stops {} what the camera is set for: darken it by {:.0} stops or take plates.",
                over.abs(),
                if over > 0.0 { "over" } else { "under" },
                (over - ROOM_STOPS).ceil()
            ));
        }
    }
    says.push("Camera on a stand with a remote release; product and stand untouched; wear black and keep out of the lamp's way.".into());
    let shortest = steps.iter().filter_map(|s| s.burns_s).map(|b| b[1] - b[0]).fold(f64::INFINITY, f64::min);
    let hand = if shortest.is_finite() { (1.0 + HAND_S / shortest).log2() } else { 0.0 };
    Ok(OneLampPlan {
        lamp: lamp.id.clone(),
        name: lamp.name.clone(),
        others: can.iter().map(|l| [l.id.clone(), l.name.clone()]).collect(),
        steps,
        setting: lamp.write(Stops(dim)),
        total_s,
        sd_stops: lamp.spread_stops.hypot(hand),
        says,
    })
}
