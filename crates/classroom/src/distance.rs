//! How far a picture is from the reference: one figure, and its parts, each in steps that one sees.

use evidence::readings::Readings;
use judging::compare::Comparison;
use judging::critique::Differences;
use optics::words::signed;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A part of the distance.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PartKind {
    /// Where the key stands.
    Direction,
    /// How large it looks.
    Size,
    /// Contrast on the subject.
    Contrast,
    /// Levels of the other lights against the key, and lights that only one picture has.
    Levels,
    /// Colour of the whole picture.
    Colour,
    /// Exposure of the whole picture.
    Exposure,
}

impl PartKind {
    /// All of them.
    pub const ALL: [PartKind; 6] = [
        PartKind::Direction,
        PartKind::Size,
        PartKind::Contrast,
        PartKind::Levels,
        PartKind::Colour,
        PartKind::Exposure,
    ];

    /// A difference of this much is seen at once (common practice); with its unit.
    pub fn step(self) -> (f64, &'static str) {
        match self {
            PartKind::Direction => (10.0, "degrees"),
            PartKind::Size => (0.5, "doublings"),
            PartKind::Contrast => (0.5, "stops"),
            PartKind::Levels => (0.5, "stops"),
            PartKind::Colour => (25.0, "mired"),
            PartKind::Exposure => (0.4, "stops"),
        }
    }

    /// Its word.
    pub fn word(self) -> &'static str {
        match self {
            PartKind::Direction => "direction",
            PartKind::Size => "size",
            PartKind::Contrast => "contrast",
            PartKind::Levels => "levels",
            PartKind::Colour => "colour",
            PartKind::Exposure => "exposure",
        }
    }
}

/// One part.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct DistancePart {
    /// Which.
    pub kind: PartKind,
    /// The difference: picture minus reference; of directions the angle between them.
    pub value: f64,
    /// One standard deviation.
    pub sd: f64,
    /// Unit of the two.
    pub unit: String,
    /// The same in steps that one sees, without its sign.
    pub steps: f64,
    /// In words.
    pub says: String,
}

/// How far a picture is from the reference.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
pub struct Distance {
    /// Root mean square of the parts, in steps that one sees; absent where nothing could be compared.
    pub steps: Option<f64>,
    /// The parts that could be told.
    pub parts: Vec<DistancePart>,
    /// Degrees by which the key is higher than the reference's, and farther to camera right.
    #[schema(value_type = Option<optics::geometry::Pair>)]
    pub key_off_deg: Option<[f64; 2]>,
}

/// A light that only one picture has counts as so many stops.
const MISSING_STOPS: f64 = 1.5;
/// Where no spread is known.
const SOME_SD: f64 = 0.2;

/// The key of a picture against that of the reference.
struct KeyOff {
    /// Higher, and farther to camera right.
    off_deg: [f64; 2],
    angle_deg: f64,
    sd_deg: f64,
    /// Size over size, and one standard deviation in doublings.
    size: Option<(f64, f64)>,
}

fn keys(reference: &Readings, own: &Readings) -> Option<KeyOff> {
    let (a, b) = (reference.lights.first()?, own.lights.first()?);
    let angle = optics::geometry::angle_between(&a.at().vector(), &b.at().vector()).to_degrees();
    let spread = |l: &evidence::readings::Light| {
        l.angular_size_range_deg.map_or(SOME_SD, |[low, high]| (high.max(0.1) / low.max(0.1)).log2() / 2.0)
    };
    Some(KeyOff {
        off_deg: [b.elevation_deg - a.elevation_deg, optics::geometry::wrapped_deg(b.azimuth_deg - a.azimuth_deg)],
        angle_deg: angle,
        sd_deg: a.direction_sd_deg.hypot(b.direction_sd_deg),
        size: a.angular_size_deg.zip(b.angular_size_deg).map(|(p, q)| (q / p.max(0.1), spread(a).hypot(spread(b)))),
    })
}

/// Where readings name no lights, what the comparison matched.
fn matched(c: &Comparison) -> Option<KeyOff> {
    let k = c.lights.iter().find(|l| l.role == "key" && l.only_in.is_none())?;
    Some(KeyOff {
        off_deg: [k.d_elevation_deg?, k.d_azimuth_deg?],
        angle_deg: k.direction_deg?,
        sd_deg: k.direction_sd_deg,
        size: k.d_angular_size_ratio.map(|r| (r, k.size_sd.unwrap_or(SOME_SD) / std::f64::consts::LN_2)),
    })
}

/// Holds a picture against the reference.
pub fn distance(reference: &Readings, own: &Readings, c: &Comparison) -> Distance {
    let mut parts = Vec::new();
    let mut push = |kind: PartKind, value: f64, sd: f64, says: String| {
        let (step, unit) = kind.step();
        if value.is_finite() {
            parts.push(DistancePart { kind, value, sd, unit: unit.into(), steps: value.abs() / step, says });
        }
    };
    // key against key, whatever else stands where the other picture has its key
    let mut key_off_deg = None;
    if let Some(k) = keys(reference, own).or_else(|| matched(c)) {
        let [el, az] = k.off_deg;
        key_off_deg = Some([el, az]);
        let up = if el.abs() < 1.0 {
            "as high".into()
        } else {
            format!("{:.0}\u{b0} {}", el.abs(), if el > 0.0 { "higher" } else { "lower" })
        };
        let aside = if az.abs() < 1.0 {
            String::new()
        } else {
            format!(", {:.0}\u{b0} farther to camera {}", az.abs(), if az > 0.0 { "right" } else { "left" })
        };
        push(PartKind::Direction, k.angle_deg, k.sd_deg, format!("key {up}{aside}"));
        if let Some((r, sd)) = k.size.filter(|s| s.0 > 0.0) {
            let says = if r >= 1.0 {
                format!("key {r:.1} times as large")
            } else {
                format!("key {:.1} times smaller", 1.0 / r)
            };
            push(PartKind::Size, r.log2(), sd, says);
        }
    }
    let contrast = |r: &Readings| r.ratios.as_ref().map(|q| (q.lit_to_shadow_stops, q.contrast_spread()));
    if let (Some((a, sa)), Some((b, sb))) = (contrast(reference), contrast(own)) {
        push(PartKind::Contrast, b - a, sa.hypot(sb), format!("contrast {} stops", signed(b - a, 1)));
    }
    let others: Vec<f64> = c
        .lights
        .iter()
        .filter(|l| l.role != "key")
        .filter_map(|l| if l.only_in.is_some() { Some(MISSING_STOPS) } else { l.d_level_stops })
        .collect();
    if !others.is_empty() {
        let rms = (others.iter().map(|v| v * v).sum::<f64>() / others.len() as f64).sqrt();
        let only = c.lights.iter().filter(|l| l.only_in.is_some()).count();
        let says = if only > 0 {
            format!("{only} light{} only one picture has", if only == 1 { "" } else { "s" })
        } else {
            format!("other lights {rms:.1} stops off")
        };
        push(PartKind::Levels, rms, SOME_SD, says);
    }
    if let Some(m) = c.d_mired {
        push(
            PartKind::Colour,
            m,
            c.d_mired_sd,
            format!("{:.0} mired {}", m.abs(), if m > 0.0 { "warmer" } else { "cooler" }),
        );
    }
    if let Some(e) = c.d_exposure_stops {
        push(PartKind::Exposure, e, c.d_exposure_sd_stops, format!("exposure {} stops", signed(e, 1)));
    }
    let n = parts.len();
    let steps =
        (n > 0).then(|| (parts.iter().map(|p: &DistancePart| p.steps * p.steps).sum::<f64>() / n as f64).sqrt());
    Distance { steps, parts, key_off_deg }
}

impl Distance {
    /// A part, if it could be told.
    pub fn part(&self, kind: PartKind) -> Option<&DistancePart> {
        self.parts.iter().find(|p| p.kind == kind)
    }
}

/// The same as phrases name it.
impl From<&Distance> for Differences {
    fn from(d: &Distance) -> Self {
        Differences {
            key_up_deg: d.key_off_deg.map(|k| k[0]),
            key_round_deg: d.key_off_deg.map(|k| k[1]),
            key_size: d.part(PartKind::Size).map(|p| p.value.exp2()),
            exposure_stops: d.part(PartKind::Exposure).map(|p| p.value),
        }
    }
}
