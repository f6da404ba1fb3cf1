//! The mixing desk of a case: which pictures are its plates, what each is called, how much of it is in the mix.

use crate::light::MOST_PLATES;
use crate::mask::{MOST_PAINTED_TOGETHER, PlateMask};
use optics::colour::rgb_of_cct;
use optics::exposure::Settings;
use optics::words::stops_words;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use utoipa::ToSchema;

/// A plate on the desk.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct DeskPlate {
    /// Id of its frame.
    pub frame: String,
    /// What it is called: left edge, label, ...
    pub name: String,
    /// The lamp that lit it, and where it stood.
    #[serde(default)]
    pub lamp: String,
    /// Stops over how it was taken.
    #[serde(default)]
    pub stops: f64,
    /// Shift of its colour in mired, positive is warmer.
    #[serde(default)]
    pub mired: f64,
    /// Left out.
    #[serde(default)]
    pub mute: bool,
    /// Only this one, and others that are.
    #[serde(default)]
    pub solo: bool,
    /// Where it counts; everywhere without one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mask: Option<PlateMask>,
}

/// The mixing desk of a case.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Desk {
    /// Plates, the lowest layer first.
    #[serde(default)]
    pub plates: Vec<DeskPlate>,
    /// Frame with all lamps off.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub dark: Option<String>,
    /// Frame with all lamps on.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub all_on: Option<String>,
    /// Pictures count as they were taken: what their settings say they were exposed more or less than the others is not undone.
    #[serde(default)]
    pub as_taken: bool,
}

/// A picture that was exposed more or less than the others of a desk.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Exposed {
    /// Id of its frame.
    pub frame: String,
    /// Stops by which more light was let in, by aperture, shutter and ISO.
    pub stops: f64,
}

/// Differences of exposure under this are rounding of what is engraved, stops; cameras step by thirds (ISO 2720; common practice), so
/// that a difference this near to a number of thirds is that.
const SAME_STOPS: f64 = 0.12;
const NEAR_A_THIRD: f64 = 0.1;

/// Which pictures of a desk were exposed otherwise, by their settings: against the one with all lights on, or else what
/// most plates share. A picture that says nothing is taken to be as the others.
pub fn exposed(desk: &Desk, settings: impl Fn(&str) -> Option<Settings>) -> Vec<Exposed> {
    let plates = desk.plates.iter().map(|p| &p.frame);
    // what most share, the first of those that are shared alike
    let shared = |all: &[Settings]| -> Option<Settings> {
        let like = |s: &Settings| all.iter().filter(|o| (o.ev100() - s.ev100()).abs() < SAME_STOPS).count();
        all.iter().rev().max_by_key(|s| like(s)).copied()
    };
    let of_plates: Vec<Settings> = plates.clone().filter_map(|f| settings(f)).collect();
    let all_on = desk.all_on.as_ref().and_then(|f| settings(f));
    let Some(common) = all_on.or_else(|| shared(&of_plates)) else { return Vec::new() };
    let over = |frame: &String| {
        let stops = common.ev100() - settings(frame)?.ev100();
        let thirds = (3.0 * stops).round() / 3.0;
        let stops = if (stops - thirds).abs() < NEAR_A_THIRD { thirds } else { stops };
        (stops.abs() > SAME_STOPS).then(|| Exposed { frame: frame.clone(), stops })
    };
    plates.chain(&desk.dark).chain(&desk.all_on).filter_map(over).collect()
}

/// Farthest a plate is turned, stops, and its colour, mired.
const FARTHEST_STOPS: f64 = 8.0;
const FARTHEST_MIRED: f64 = 250.0;
/// Neutral of the mix, kelvin: what mired are counted from.
const NEUTRAL_K: f64 = 5600.0;

/// Red, green and blue of a shift in mired, of unit luminance.
fn tint(mired: f64) -> [f64; 3] {
    rgb_of_cct(1e6 / (1e6 / NEUTRAL_K + mired), NEUTRAL_K)
}

/// A shift of colour as it is drawn.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Tint {
    /// Mired, positive is warmer.
    pub mired: f64,
    /// Factors on linear red, green and blue.
    #[schema(value_type = optics::geometry::Triple)]
    pub rgb: [f64; 3],
}

/// Shifts that are drawn while a plate's colour is turned: every five mired to 120 either way.
pub fn tints() -> Vec<Tint> {
    (-24..=24).map(|k| f64::from(k) * 5.0).map(|mired| Tint { mired, rgb: tint(mired) }).collect()
}

impl Desk {
    /// Says what is wrong with it, if anything.
    ///
    /// # Errors
    /// One sentence that names the plate and the field.
    pub fn check(&self) -> Result<(), String> {
        if self.plates.len() > MOST_PLATES {
            return Err(format!("plates: expected at most {MOST_PLATES}, found {}", self.plates.len()));
        }
        let mut seen = BTreeSet::new();
        for (k, p) in self.plates.iter().enumerate() {
            if !seen.insert(&p.frame) {
                return Err(format!("plates[{k}] ({}): the same frame is there twice", p.name));
            }
            if p.name.trim().is_empty() || p.name.chars().count() > 80 || p.lamp.chars().count() > 160 {
                return Err(format!("plates[{k}]: expected a name of 1 to 80 characters and a lamp of at most 160"));
            }
            let within = |v: f64, most: f64| v.is_finite() && v.abs() <= most;
            if !within(p.stops, FARTHEST_STOPS) {
                return Err(format!("plates[{k}] ({}): stops: expected at most {FARTHEST_STOPS} either way", p.name));
            }
            if !within(p.mired, FARTHEST_MIRED) {
                return Err(format!("plates[{k}] ({}): mired: expected at most {FARTHEST_MIRED} either way", p.name));
            }
            if let Some(m) = &p.mask {
                m.check().map_err(|e| format!("plates[{k}] ({}): mask: {e}", p.name))?;
            }
        }
        let over: f64 = self.masks().into_iter().flatten().map(PlateMask::over).sum();
        if over > MOST_PAINTED_TOGETHER {
            return Err(format!(
                "plates: their masks go over the picture {over:.0} times together, more than {MOST_PAINTED_TOGETHER}: take strokes back"
            ));
        }
        for (name, id) in [("dark", &self.dark), ("all_on", &self.all_on)] {
            if id.as_ref().is_some_and(|id| seen.contains(id)) {
                return Err(format!("{name}: this frame is a plate as well"));
            }
        }
        if self.dark.is_some() && self.dark == self.all_on {
            return Err("all_on: it is the dark frame as well".into());
        }
        Ok(())
    }

    /// Masks of the plates, where they have one.
    pub fn masks(&self) -> Vec<Option<&PlateMask>> {
        self.plates.iter().map(|p| p.mask.as_ref()).collect()
    }

    /// Factors on the linear red, green and blue of each plate; nought for one that is left out.
    pub fn factors(&self) -> Vec<[f64; 3]> {
        let alone = self.plates.iter().any(|p| p.solo && !p.mute);
        let of = |p: &DeskPlate| {
            if p.mute || (alone && !p.solo) {
                return [0.0; 3];
            }
            tint(p.mired).map(|c| c * p.stops.exp2())
        };
        self.plates.iter().map(of).collect()
    }
}

/// What a plate's place in the mix asks of its lamp, so that one exposure in the camera does without mixing.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct InCamera {
    /// Name of the plate.
    pub name: String,
    /// Stops its lamp is turned by; absent where it is off.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub stops: Option<f64>,
    /// Seconds of this lamp alone where the exposures are laid over each other in one frame; absent where that is not known.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub seconds: Option<f64>,
    /// In a sentence.
    pub says: String,
}

/// A filter is cut to about this, mired; less nobody sees.
const SEEN_MIRED: f64 = 8.0;
/// A lamp that was at half when its plate was taken (common practice) is turned up by this at the most.
const SPARE_STOPS: f64 = 1.0;

/// What a mix asks of lamps and camera: powers for one exposure, times for a multiple one. `shutter_s` is how long the pictures were
/// exposed that count as they were taken.
pub fn in_camera(desk: &Desk, shutter_s: Option<f64>, exposed: &[Exposed]) -> Vec<InCamera> {
    let factors = desk.factors();
    // in one exposure all are exposed alike: a plate that was let more light and is mixed as it is asks its lamp for that
    let over = |p: &DeskPlate| {
        let found = exposed.iter().filter(|_| desk.as_taken).find(|e| e.frame == p.frame);
        found.map_or(0.0, |e| e.stops)
    };
    let of = |(p, f): (&DeskPlate, &[f64; 3])| {
        if f.iter().all(|v| *v == 0.0) {
            return InCamera { name: p.name.clone(), stops: None, seconds: None, says: format!("{}: off.", p.name) };
        }
        let lamp = if p.lamp.trim().is_empty() { "its lamp".to_owned() } else { p.lamp.trim().to_owned() };
        let stops = p.stops + over(p);
        let mut says = match stops {
            s if s.abs() < 0.05 => format!("{}: {lamp} as it was.", p.name),
            s => format!("{}: {lamp} {}.", p.name, stops_words(s)),
        };
        if p.mired.abs() >= SEEN_MIRED {
            let side = if p.mired > 0.0 { "warming" } else { "cooling" };
            says += &format!(" A {side} filter of {:.0} mired on it, and its loss made good.", p.mired.abs());
        }
        if stops > SPARE_STOPS {
            says += " A lamp at half has one stop to spare: come nearer, open the aperture and turn the others down, or expose it more than once.";
        }
        if p.mask.is_some() {
            says += " What its mask leaves out only the mix leaves out: in the camera a flag or a cutter keeps its light off there.";
        }
        let seconds = shutter_s.map(|t| t * stops.exp2());
        InCamera { name: p.name.clone(), stops: Some(stops), seconds, says }
    };
    desk.plates.iter().zip(&factors).map(of).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn plate(frame: &str) -> DeskPlate {
        DeskPlate {
            frame: frame.into(),
            name: frame.into(),
            lamp: String::new(),
            stops: 0.0,
            mired: 0.0,
            mute: false,
            solo: false,
            mask: None,
        }
    }

    #[test]
    fn solo_and_mute_leave_out_and_stops_are_factors() {
        let mut d = Desk { plates: vec![plate("a"), plate("b"), plate("c")], ..Desk::default() };
        d.plates[0].stops = -1.0;
        d.plates[1].mute = true;
        let f = d.factors();
        assert!((f[0][1] - 0.5).abs() < 1e-9 && f[1] == [0.0; 3] && (f[2][0] - 1.0).abs() < 1e-9, "{f:?}");
        d.plates[2].solo = true;
        assert_eq!(d.factors()[0], [0.0; 3]);
        // warmer is redder, its luminance as it was
        d.plates[2].mired = 80.0;
        let [r, g, b] = d.factors()[2];
        assert!(r > g && g > b, "{r} {g} {b}");
        assert!((0.2126 * r + 0.7152 * g + 0.0722 * b - 1.0).abs() < 1e-6);
    }

    /// A stop less is half the time (common practice); a plate that is out asks for nothing.
    #[test]
    fn a_mix_is_told_as_powers_and_times() {
        let mut d = Desk { plates: vec![plate("edge"), plate("label"), plate("top")], ..Desk::default() };
        (d.plates[0].stops, d.plates[0].lamp, d.plates[0].mired) = (-1.0, "strip left".into(), -40.0);
        d.plates[1].mute = true;
        d.plates[2].stops = 1.6;
        let told = in_camera(&d, Some(0.5), &[]);
        assert_eq!((told[0].stops, told[0].seconds), (Some(-1.0), Some(0.25)));
        assert!(
            told[0].says.starts_with("edge: strip left down 1.0 stops. A cooling filter of 40 mired"),
            "{}",
            told[0].says
        );
        assert_eq!((told[1].stops, told[1].seconds), (None, None));
        assert!(told[2].says.contains("one stop to spare"));
    }

    #[test]
    fn what_cannot_be_is_named() {
        let twice = Desk { plates: vec![plate("a"), plate("a")], ..Desk::default() };
        assert!(twice.check().unwrap_err().contains("twice"));
        let far = Desk { plates: vec![DeskPlate { stops: f64::NAN, ..plate("a") }], ..Desk::default() };
        assert!(far.check().unwrap_err().contains("stops"));
        let both = Desk { plates: vec![plate("a")], dark: Some("a".into()), ..Desk::default() };
        assert!(both.check().unwrap_err().contains("dark"));
        let same = Desk { plates: vec![], dark: Some("d".into()), all_on: Some("d".into()), ..Desk::default() };
        assert!(same.check().unwrap_err().contains("all_on"));
    }
}
