//! What a meter in a set shows. The stand-in studio fills these in; plans and build sheets use them.

use crate::cables::Cable;
use crate::cutter::FlagMeter;
use crate::drawing::Drawing;
pub use crate::light_meter::{LightMeter, Notations};
use crate::set::SetCamera;
use optics::depth::sharp_limits;
use optics::geometry::Vec3;
use optics::ratio::{LevelSpread, LightingRatio};
use optics::role::Role;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Depth that is sharp, metres from the lens.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SharpDepth {
    /// Near limit.
    pub near_m: f64,
    /// Far limit; absent if it is infinite.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub far_m: Option<f64>,
    /// Focal length it was worked out with.
    pub focal_mm: f64,
    /// Circle of confusion: the diagonal of the sensor over 1500 (common practice).
    pub coc_mm: f64,
    /// The set gives no focal length: a sensor 24 mm high is assumed.
    pub assumed: bool,
}

impl SharpDepth {
    /// For a camera focused on the subject, with its picture's width over height.
    pub fn of(camera: &SetCamera, aspect: f64) -> SharpDepth {
        let high = camera.sensor_height_mm.unwrap_or(24.0);
        let focal = high / 2.0 / (camera.vfov_deg() / 2.0).to_radians().tan();
        let coc = high * 1.0f64.hypot(aspect) / 1500.0;
        let s = Vec3::from(camera.position_m).norm();
        let (near, far) = sharp_limits(focal / 1000.0, camera.exposure.f_number, coc / 1000.0, s);
        SharpDepth {
            near_m: near,
            far_m: far.is_finite().then_some(far),
            focal_mm: focal,
            coc_mm: coc,
            assumed: camera.focal_mm.is_none(),
        }
    }
}

/// A set's levels are as exact as its drawing: a meter's own step is what is left, stops.
pub const SET_SD_STOPS: f64 = 0.05;

/// The lighting ratio of a set: its key against its fills and the room, each metered facing it, in one unit. `None` without a key
/// or without anything that lifts its shadows. `room` is all that comes from no lamp: ambient, boards, walls.
pub fn lighting_ratio(lamps: &[(Role, f64)], room: f64) -> Option<LightingRatio> {
    let of = |role: Role| lamps.iter().filter(move |l| l.0 == role).map(|l| l.1);
    let key: f64 = of(Role::Key).sum();
    let levels: Vec<LevelSpread> = of(Role::Fill)
        .chain([room])
        .filter(|h| *h > 0.0 && key > 0.0)
        .map(|h| LevelSpread { stops: (h / key).log2(), sd_stops: SET_SD_STOPS })
        .collect();
    LightingRatio::of(&levels)
}

/// One light on a flat meter at a place.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PointLight {
    /// Name of the light.
    pub name: String,
    /// What it gives there with all that boards, walls and the subject hand on of it, stops over the exposure set; -30 is none.
    pub stops: f64,
}

/// What a meter shows at a place of the set, all light counted: lamps, boards, walls, what the subject shades and hands on.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PointMeter {
    /// Where it is held.
    pub name: String,
    /// The same in the set frame, metres.
    #[schema(value_type = optics::geometry::Triple)]
    pub at_m: [f64; 3],
    /// Where it looks, unit vector.
    #[schema(value_type = optics::geometry::Triple)]
    pub facing: [f64; 3],
    /// All light on a flat meter, stops over the exposure set; -30 is none.
    pub flat_stops: f64,
    /// The same on a dome.
    pub dome_stops: f64,
    /// Aperture the flat meter asks for at the set's shutter and ISO.
    pub f_number: f64,
    /// The nearest third stop.
    pub nominal: f64,
    /// Each light that is on, alone, on the flat meter.
    pub lights: Vec<PointLight>,
    /// The light from all around, alone; absent without it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ambient_stops: Option<f64>,
}

/// A meter at one place of a walk, at the height of the reference point.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct WalkPoint {
    /// Number of its mark, from nought; absent between marks.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mark: Option<usize>,
    /// Where, x and z on the floor, metres.
    #[schema(value_type = optics::geometry::Pair)]
    pub at_m: [f64; 2],
    /// Way walked since the first mark, metres.
    pub along_m: f64,
    /// All light on a dome turned to the lens, stops over the exposure set.
    pub dome_stops: f64,
    /// All light on a flat meter turned to the lens.
    pub flat_stops: f64,
    /// Each light that is on, alone, on the dome.
    pub lights: Vec<PointLight>,
}

/// A meter carried along a walk, nobody shading it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct WalkMeter {
    /// From the first mark to the last.
    pub points: Vec<WalkPoint>,
    /// Stops between the brightest and the darkest place.
    pub differs_stops: f64,
    /// Longest stretch that stays within half a stop: from and to, metres along the walk.
    #[schema(value_type = optics::geometry::Pair)]
    pub even_m: [f64; 2],
    /// The same in sentences.
    pub says: Vec<String>,
}

/// What a board does.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct BoardMeter {
    /// Its place in the list of the set's boards.
    pub board: usize,
    /// Where it is metered: the darker side of the first subject.
    pub place: String,
    /// Stops by which it lifts that place; less than nought where it shades it.
    pub lift_stops: f64,
    /// The same in a sentence.
    pub says: String,
}

/// The background against the subject.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct BackgroundMeter {
    /// Stops by which it lies under the subject; less than nought where it is brighter.
    pub under_stops: f64,
    /// Stops between its brightest and its darkest place across the frame.
    pub uneven_stops: f64,
    /// The same in a sentence.
    pub says: String,
}

/// What a meter shows for a set.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SetMeter {
    /// Each light alone, in the order of the set; one that is off is told of as if it were on.
    pub lights: Vec<LightMeter>,
    /// Dome at the reference point turned to the lens, all lights and the ambient.
    pub together_f_number: f64,
    /// The nearest third stop.
    pub together_nominal: f64,
    /// Stops between that and the aperture set: positive is overexposed.
    pub over_stops: f64,
    /// What of that dome is the ambient's, against the aperture set, in stops; absent without ambient.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ambient_stops: Option<f64>,
    /// What boards, walls, floor and ceiling hand on to a dome at the reference point turned to the lens, stops over the exposure
    /// set; absent where it is nothing worth metering.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub bounced_stops: Option<f64>,
    /// A meter held at places of the subject and on the background.
    #[serde(default)]
    pub points: Vec<PointMeter>,
    /// The background against the subject; absent where the frame shows none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub background: Option<BackgroundMeter>,
    /// One standard deviation of what is metered at places, stops.
    #[serde(default)]
    pub points_sd_stops: f64,
    /// What the first boards do.
    #[serde(default)]
    pub boards: Vec<BoardMeter>,
    /// What slits and blinds leave where they are aimed.
    #[serde(default)]
    pub flags: Vec<FlagMeter>,
    /// A meter along the walk; absent without marks on the floor.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub walk: Option<WalkMeter>,
    /// The set as a slant line.
    pub slant: String,
    /// Key against fill and room; absent without either.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ratio: Option<LightingRatio>,
    /// What is sharp at the aperture set.
    pub sharp: SharpDepth,
    /// Cables to the outlet.
    pub cables: Vec<Cable>,
    /// The set from above, to be drawn.
    pub plan: Drawing,
    /// The set from the side.
    pub side: Drawing,
    /// What cannot work as it stands, in sentences.
    pub warnings: Vec<String>,
    /// Cautions that apply to it as it stands.
    pub cautions: Vec<String>,
}
