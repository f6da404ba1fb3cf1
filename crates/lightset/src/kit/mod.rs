//! What there is to light with: lamps, modifiers, sheets, boards, stands, each with how its figures were
//! come by and their spread.

mod csv;
mod metered;
mod pulse;

pub use self::csv::{from_csv, to_csv};
pub use self::metered::{LampReading, Metered, metered};
pub use self::pulse::{Dimming, Pulse};

use crate::set::{BoardFinish, LUMEN_SECONDS_PER_JOULE, Source};
use optics::beam::beam_sr;
use optics::exposure::C_FLAT;
use optics::falloff::solid_angle_of_rectangle;
use optics::geometry::angular_size_of_solid_angle;
use optics::power::Control;
use optics::units::{Metres, Stops};
use serde::{Deserialize, Serialize};
use std::sync::LazyLock;
use utoipa::ToSchema;

/// What one owns, or the whole catalogue.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Kit {
    /// Lamps.
    #[serde(default, rename = "lamp")]
    pub lamps: Vec<Lamp>,
    /// What is put before lamps, and faces that shine themselves.
    #[serde(default, rename = "modifier")]
    pub modifiers: Vec<Modifier>,
    /// Sheets of diffusion.
    #[serde(default, rename = "sheet")]
    pub sheets: Vec<Sheet>,
    /// Boards and flags.
    #[serde(default, rename = "board")]
    pub boards: Vec<KitBoard>,
    /// Stands.
    #[serde(default, rename = "stand")]
    pub stands: Vec<Stand>,
    /// Height of the room.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ceiling_m: Option<f64>,
    /// The circuit the lamps hang on; a common household one if absent.
    #[serde(default)]
    #[schema(required = true)]
    pub circuit: Circuit,
}

/// One mains circuit.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Circuit {
    /// Volts.
    pub volts: f64,
    /// Amperes its fuse or breaker carries.
    pub amperes: f64,
}

impl Default for Circuit {
    /// 230 V and 10 A (common practice: a small household circuit; many carry more).
    fn default() -> Self {
        Circuit { volts: 230.0, amperes: 10.0 }
    }
}

impl Circuit {
    /// Watts it carries.
    pub fn watts(&self) -> f64 {
        self.volts * self.amperes
    }
}

/// How a lamp's output was measured.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "measured", rename_all = "snake_case")]
pub enum Output {
    /// Lux at a distance, in its own reflector.
    Lux {
        /// Lux.
        lux: f64,
        /// Metres.
        at_m: f64,
        /// Full angle at half intensity, degrees.
        beam_deg: f64,
    },
    /// Lumens in a beam.
    Lumens {
        /// Lumens.
        lumens: f64,
        /// Full angle at half intensity, degrees.
        beam_deg: f64,
    },
    /// Flash by guide number.
    Guide {
        /// Metres at ISO 100, full power, in its own reflector.
        guide_number_m: f64,
        /// Full angle at half intensity, degrees.
        beam_deg: f64,
    },
    /// Flash by energy.
    Joules {
        /// Energy at full power.
        joules: f64,
        /// Full angle at half intensity, degrees.
        beam_deg: f64,
    },
}

fn one() -> u32 {
    1
}
fn ten() -> f64 {
    10.0
}
fn even_share() -> f64 {
    0.45
}
fn half_stop() -> f64 {
    0.3
}

/// A lamp.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Lamp {
    /// Stable name.
    pub id: String,
    /// Name for people.
    pub name: String,
    /// How many.
    #[serde(default = "one")]
    pub count: u32,
    /// Output.
    pub output: Output,
    /// How its power is set.
    #[serde(default)]
    pub control: Control,
    /// Lowest power, stops from full.
    #[serde(default)]
    pub lowest_stops: f64,
    /// Its number at full power, for panels.
    #[serde(default = "ten")]
    pub full_panel: f64,
    /// Width of its own bright face.
    pub face_m: f64,
    /// Colour temperature.
    pub cct_k: f64,
    /// One standard deviation of its output.
    #[serde(default = "half_stop")]
    pub spread_stops: f64,
    /// Takes modifiers.
    #[serde(default)]
    pub takes_modifiers: bool,
    /// Watts it draws from the mains at full power, a flash while it recharges; 0 on batteries, absent if not known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub draw_w: Option<f64>,
    /// Its pulse, for flashes of which it is known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pulse: Option<Pulse>,
    /// Too hot for cloth and paper near it.
    #[serde(default)]
    pub hot: bool,
    /// Found at home.
    #[serde(default)]
    pub household: bool,
}

impl Lamp {
    /// Axial intensity at full power in its own reflector: candela, or lumen seconds per steradian of a
    /// flash (`H = C N^2 / S`, so `C GN^2 / 100`).
    pub fn axial(&self) -> f64 {
        match self.output {
            Output::Lux { lux, at_m, .. } => lux * at_m * at_m,
            Output::Lumens { lumens, beam_deg } => lumens / beam_sr(beam_deg),
            Output::Guide { guide_number_m, .. } => C_FLAT * guide_number_m.powi(2) / 100.0,
            Output::Joules { joules, beam_deg } => joules * LUMEN_SECONDS_PER_JOULE / beam_sr(beam_deg),
        }
    }

    /// Full angle at half intensity of its own reflector, degrees.
    pub fn beam_deg(&self) -> f64 {
        match self.output {
            Output::Lux { beam_deg, .. }
            | Output::Lumens { beam_deg, .. }
            | Output::Guide { beam_deg, .. }
            | Output::Joules { beam_deg, .. } => beam_deg,
        }
    }

    /// Whether it is a flash.
    pub fn is_flash(&self) -> bool {
        matches!(self.output, Output::Guide { .. } | Output::Joules { .. })
    }

    /// Energy at full power; 400 for lamps that have none.
    pub fn full_joules(&self) -> f64 {
        match self.output {
            Output::Joules { joules, .. } => joules,
            _ => 400.0,
        }
    }

    /// Whether it hangs on no mains: as the kit says; if it does not, a flash that is given by its guide number is taken to.
    pub fn on_batteries(&self) -> bool {
        self.draw_w.map_or(matches!(self.output, Output::Guide { .. }), |w| w == 0.0)
    }

    /// A power setting in its own notation.
    pub fn write(&self, stops: Stops) -> String {
        optics::power::write_power(self.control, stops, self.full_joules(), self.full_panel)
    }
}

/// Outline of a modifier's bright face.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Shape {
    /// Round.
    Disc,
    /// Rectangular.
    Rectangle,
}

/// How a modifier's face throws its light.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Throw {
    /// Evenly, as softboxes, boards and sheets do.
    #[default]
    Even,
    /// Evenly, from eight corners.
    Octagon,
    /// Brighter in the middle.
    Umbrella,
    /// In a beam.
    Dish,
    /// To all sides.
    Bare,
}

/// Something light comes out of.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Modifier {
    /// Stable name.
    pub id: String,
    /// Name for people.
    pub name: String,
    /// How many.
    #[serde(default = "one")]
    pub count: u32,
    /// Outline.
    pub shape: Shape,
    /// Width and height of the bright face in metres.
    #[schema(value_type = optics::geometry::Pair)]
    pub size_m: [f64; 2],
    /// Nearest distance it is used at.
    pub near_m: f64,
    /// Farthest distance it is used at.
    pub far_m: f64,
    /// How its face throws light.
    #[serde(default)]
    pub throws: Throw,
    /// Share of the lamp's light it lets out.
    #[serde(default = "even_share")]
    pub share: f64,
    /// Full angle at half intensity, for dishes and grids.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub beam_deg: Option<f64>,
    /// Found at home.
    #[serde(default)]
    pub household: bool,
    /// Shines by itself (a screen, a torch) or needs no lamp of its own behind it (a board).
    #[serde(default)]
    pub alone: bool,
}

impl Modifier {
    /// Full angle in radians it fills on its axis at a distance: of the disc with the same solid
    /// angle.
    pub fn angle_at(&self, d: Metres) -> f64 {
        match self.shape {
            Shape::Disc => 2.0 * (self.size_m[0] / 2.0 / d.0).atan(),
            Shape::Rectangle => {
                angular_size_of_solid_angle(solid_angle_of_rectangle(Metres(self.size_m[0]), Metres(self.size_m[1]), d))
            }
        }
    }

    /// Distance at which it fills the full angle `a` radians (bisection; `angle_at` falls with
    /// distance).
    pub fn distance_for(&self, a: f64) -> Metres {
        let (mut lo, mut hi) = (1e-3f64, 1e4f64);
        for _ in 0..80 {
            let mid = (lo * hi).sqrt();
            if self.angle_at(Metres(mid)) > a {
                lo = mid;
            } else {
                hi = mid;
            }
        }
        Metres((lo * hi).sqrt())
    }
}

/// A sheet of diffusion.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Sheet {
    /// Stable name.
    pub id: String,
    /// Name for people.
    pub name: String,
    /// How many.
    #[serde(default = "one")]
    pub count: u32,
    /// Metres.
    #[schema(value_type = optics::geometry::Pair)]
    pub size_m: [f64; 2],
    /// Share of the light that comes through.
    pub transmission: f64,
    /// One standard deviation of that, in stops.
    #[serde(default = "half_stop")]
    pub spread_stops: f64,
    /// Found at home.
    #[serde(default)]
    pub household: bool,
}

/// A board.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct KitBoard {
    /// Stable name.
    pub id: String,
    /// Name for people.
    pub name: String,
    /// How many.
    #[serde(default = "one")]
    pub count: u32,
    /// Metres.
    #[schema(value_type = optics::geometry::Pair)]
    pub size_m: [f64; 2],
    /// Material.
    pub finish: BoardFinish,
    /// Found at home.
    #[serde(default)]
    pub household: bool,
}

/// A stand.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Stand {
    /// Stable name.
    pub id: String,
    /// Name for people.
    pub name: String,
    /// How many.
    #[serde(default = "one")]
    pub count: u32,
    /// Lowest height of what it carries.
    pub lowest_m: f64,
    /// Greatest height of what it carries.
    pub highest_m: f64,
    /// Reaches over the subject.
    #[serde(default)]
    pub boom: bool,
    /// Found at home.
    #[serde(default)]
    pub household: bool,
}

static CATALOGUE: LazyLock<Kit> =
    LazyLock::new(|| toml::from_str(include_str!("../../data/kit.toml")).expect("kit.toml"));

/// Everything the program knows of.
pub fn catalogue() -> &'static Kit {
    &CATALOGUE
}

/// Ids of a first kit: what a student is likely to have.
const STARTER: [&str; 16] = [
    "panel-60",
    "speedlight",
    "octagon-100",
    "umbrella-100",
    "softbox-60",
    "dish-18",
    "torch",
    "tablet",
    "desk-lamp",
    "bulb-9w",
    "bed-sheet",
    "baking-parchment",
    "white-foam",
    "silver-fold",
    "stand-240",
    "black-card",
];

impl Kit {
    /// What a student is likely to have.
    pub fn starter() -> Kit {
        let c = catalogue().clone();
        let has = |id: &str| STARTER.contains(&id);
        Kit {
            lamps: c.lamps.into_iter().filter(|x| has(&x.id)).collect(),
            modifiers: c.modifiers.into_iter().filter(|x| has(&x.id)).collect(),
            sheets: c.sheets.into_iter().filter(|x| has(&x.id)).collect(),
            boards: c.boards.into_iter().filter(|x| has(&x.id)).collect(),
            stands: c.stands.into_iter().filter(|x| has(&x.id)).map(|s| Stand { count: 2, ..s }).collect(),
            ceiling_m: Some(2.6),
            circuit: Circuit::default(),
        }
    }

    /// What is found at home, a bare lamp among it.
    pub fn household() -> Kit {
        let c = catalogue().clone();
        Kit {
            lamps: c.lamps.into_iter().filter(|x| x.household).collect(),
            modifiers: c.modifiers.into_iter().filter(|x| x.household || x.id == "bare-lamp").collect(),
            sheets: c.sheets.into_iter().filter(|x| x.household).collect(),
            boards: c.boards.into_iter().filter(|x| x.household).collect(),
            stands: c.stands.into_iter().filter(|x| x.household).collect(),
            ceiling_m: None,
            circuit: Circuit::default(),
        }
    }

    /// Says which figure is out of range, if any.
    ///
    /// # Errors
    /// One sentence that names the row and the field.
    pub fn check(&self) -> Result<(), String> {
        let mut ids = std::collections::BTreeSet::new();
        let mut row = |kind: &'static str, id: &str, name: &str, count: u32, figures: &[(&str, f64, f64, f64)]| {
            if id.trim().is_empty() || id.len() > 60 || name.trim().is_empty() || name.len() > 120 {
                return Err(format!("{name}: expected a name of 1 to 120 characters and an id"));
            }
            if !ids.insert((kind, id.to_owned())) {
                return Err(format!("{name}: the id \"{id}\" is there twice"));
            }
            if count > 99 {
                return Err(format!("{name}: count: expected 0 to 99, found {count}"));
            }
            figures.iter().try_for_each(|(f, v, lo, hi)| {
                if v.is_finite() && v >= lo && v <= hi {
                    Ok(())
                } else {
                    Err(format!("{name}: {f}: expected {lo} to {hi}, found {v}"))
                }
            })
        };
        for l in &self.lamps {
            let out = match l.output {
                Output::Lux { lux, at_m, .. } => [("lux", lux, 0.01, 1e7), ("at_m", at_m, 0.05, 50.0)],
                Output::Lumens { lumens, .. } => [("lumens", lumens, 0.1, 1e7), ("at_m", 1.0, 0.0, 2.0)],
                Output::Guide { guide_number_m, .. } => {
                    [("guide_number_m", guide_number_m, 0.5, 500.0), ("at_m", 1.0, 0.0, 2.0)]
                }
                Output::Joules { joules, .. } => [("joules", joules, 0.5, 1e5), ("at_m", 1.0, 0.0, 2.0)],
            };
            row(
                "lamp",
                &l.id,
                &l.name,
                l.count,
                &[
                    out[0],
                    out[1],
                    ("beam_deg", l.beam_deg(), 1.0, 360.0),
                    ("lowest_stops", l.lowest_stops, -14.0, 0.0),
                    ("face_m", l.face_m, 0.001, 10.0),
                    ("cct_k", l.cct_k, 1000.0, 20000.0),
                    ("spread_stops", l.spread_stops, 0.0, 3.0),
                    ("full_panel", l.full_panel, 0.1, 100.0),
                    ("draw_w", l.draw_w.unwrap_or(0.0), 0.0, 30_000.0),
                ],
            )?;
            l.pulse.map_or(Ok(()), |p| p.check()).map_err(|e| format!("{}: {e}", l.name))?;
        }
        for m in &self.modifiers {
            row(
                "modifier",
                &m.id,
                &m.name,
                m.count,
                &[
                    ("width_m", m.size_m[0], 0.005, 20.0),
                    ("height_m", m.size_m[1], 0.005, 20.0),
                    ("near_m", m.near_m, 0.05, 50.0),
                    ("far_m", m.far_m, m.near_m, 100.0),
                    ("share", m.share, 0.001, 1.0),
                    ("beam_deg", m.beam_deg.unwrap_or(60.0), 1.0, 360.0),
                ],
            )?;
        }
        for s in &self.sheets {
            row(
                "sheet",
                &s.id,
                &s.name,
                s.count,
                &[
                    ("width_m", s.size_m[0], 0.02, 20.0),
                    ("height_m", s.size_m[1], 0.02, 20.0),
                    ("transmission", s.transmission, 0.001, 1.0),
                ],
            )?;
        }
        for b in &self.boards {
            let figures = [("width_m", b.size_m[0], 0.02, 20.0), ("height_m", b.size_m[1], 0.02, 20.0)];
            row("board", &b.id, &b.name, b.count, &figures)?;
        }
        for s in &self.stands {
            let figures = [("lowest_m", s.lowest_m, 0.0, 10.0), ("highest_m", s.highest_m, s.lowest_m, 20.0)];
            row("stand", &s.id, &s.name, s.count, &figures)?;
        }
        if let Some(c) = self.ceiling_m
            && !(1.5..=30.0).contains(&c)
        {
            return Err(format!("ceiling_m: expected 1.5 to 30 metres, found {c}"));
        }
        let Circuit { volts, amperes } = self.circuit;
        crate::set::range("circuit.volts", volts, 12.0, 480.0, "")?;
        crate::set::range("circuit.amperes", amperes, 1.0, 400.0, "")?;
        Ok(())
    }
}

/// The source of a modifier's face.
pub fn source_of(m: &Modifier) -> Source {
    let [w, h] = m.size_m;
    match (m.throws, m.shape) {
        (Throw::Even, Shape::Disc) => Source::Disc { diameter_m: w },
        (Throw::Even, Shape::Rectangle) if w > 8.0 * h => Source::Tube { length_m: w, diameter_m: h },
        (Throw::Even, Shape::Rectangle) => Source::Rectangle { width_m: w, height_m: h },
        (Throw::Octagon, _) => Source::Octagon { width_m: w },
        (Throw::Umbrella, _) => Source::UmbrellaThrough { diameter_m: w },
        (Throw::Dish, _) => match m.beam_deg.unwrap_or(75.0) {
            // a grid or snoot ends sharply
            beam_deg if beam_deg < 45.0 => Source::Spot { diameter_m: w, beam_deg, field_deg: 1.6 * beam_deg },
            beam_deg => Source::Dish { diameter_m: w, beam_deg },
        },
        (Throw::Bare, _) => Source::Bare { diameter_m: w },
    }
}
