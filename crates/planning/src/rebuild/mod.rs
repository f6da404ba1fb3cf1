//! From a reading to a set that can be built: each light at the distance its angular size and a
//! modifier give, its stand height and floor place, and the exposure it asks for.
//!
//! A picture tells the angle a light fills, not its distance: size over distance is a family, and
//! the modifier picks its member.

mod candidates;
mod separate;
mod ways;

pub use candidates::{
    Candidate, Candidates, Draft, FitLine, Foretold, ForetoldLight, Loser, drafts, drafts_of, judge, seen_lights,
};
pub use separate::{SeparatingTest, test_readings};
pub use ways::{BEHIND_FACE_M, Construction, Room, RoomWindow, SeenLight, Walls, Way, ways};

use evidence::marks::Marks;
use evidence::readings::{Light, Ratios, Readings};
use lightset::cautions::cautions_where;
use lightset::kit::{Modifier, catalogue};
use optics::exposure::{C_DOME, Settings, nominal_f_number};
use optics::geometry::AzEl;
use optics::role::Role;
use optics::units::{FNumber, Metres, Stops};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What a person chose for a set; everything else is computed.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Choices {
    /// Modifier per light, in the order of the reading; `null` lets the program choose.
    #[serde(default)]
    pub modifiers: Vec<Option<String>>,
    /// Height of the subject's eyes (or centre) above the floor in metres.
    #[serde(default)]
    pub eye_height_m: Option<f64>,
    /// Distance from the lens to the subject in metres.
    #[serde(default)]
    pub camera_distance_m: Option<f64>,
    /// Exposure to plan for; the picture's own if absent.
    #[serde(default)]
    pub exposure: Option<Settings>,
}

impl Choices {
    /// Says which field is out of range, if any.
    pub fn check(&self) -> Result<(), String> {
        let range = |name: &str, v: Option<f64>, lo: f64, hi: f64| match v {
            Some(v) if !(v.is_finite() && v >= lo && v <= hi) => {
                Err(format!("{name}: expected {lo} to {hi} metres, found {v}"))
            }
            _ => Ok(()),
        };
        range("eye_height_m", self.eye_height_m, 0.05, 10.0)?;
        range("camera_distance_m", self.camera_distance_m, 0.1, 100.0)?;
        for id in self.modifiers.iter().flatten() {
            if !catalogue().modifiers.iter().any(|m| &m.id == id) {
                return Err(format!("modifiers: \"{id}\" is not in the kit"));
            }
        }
        self.exposure.as_ref().map_or(Ok(()), Settings::check)
    }
}

/// A set that can be built.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct SetPlan {
    /// Height of the subject's eyes above the floor in metres.
    pub eye_height_m: f64,
    /// Camera: floor distance from the subject, height, and half the horizontal frame in degrees.
    pub camera: CameraPlace,
    /// Lights in the order of the reading.
    pub lights: Vec<PlacedLight>,
    /// Exposure it is planned for.
    pub exposure: ExposurePlan,
    /// Set as a slant line with distances and modifiers.
    pub slant: String,
    /// Cautions that apply, once each.
    pub cautions: Vec<String>,
    /// What was assumed.
    pub assumptions: Vec<String>,
}

/// Where the camera stands.
#[derive(Debug, Clone, Copy, Serialize, Deserialize, ToSchema)]
pub struct CameraPlace {
    /// Metres from the subject.
    pub distance_m: f64,
    /// Metres above the floor.
    pub height_m: f64,
    /// Half the vertical field of view in degrees.
    pub half_vfov_deg: f64,
    /// Half the horizontal field of view in degrees.
    pub half_hfov_deg: f64,
}

/// One light of a set.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct PlacedLight {
    /// Role.
    pub role: Role,
    /// Modifier chosen.
    pub modifier: Modifier,
    /// Whether a person chose it.
    pub chosen: bool,
    /// Metres from the subject's reference point.
    pub distance_m: f64,
    /// The range of distances that the size's spread allows, in metres.
    #[schema(value_type = optics::geometry::Pair)]
    pub distance_range_m: [f64; 2],
    /// Set frame, metres: x camera right, y up from the eyes, z towards the camera.
    #[schema(value_type = optics::geometry::Triple)]
    pub position_m: [f64; 3],
    /// Metres above the floor.
    pub stand_height_m: f64,
    /// Metres along the floor from below the subject's eyes.
    pub floor_distance_m: f64,
    /// Degrees from the camera axis, positive to camera right, set frame.
    pub azimuth_deg: f64,
    /// Degrees above the eyes, set frame.
    pub elevation_deg: f64,
    /// Angle it fills as seen from the subject, degrees.
    pub fills_deg: f64,
    /// Angle that was read, degrees; absent if it could not be told.
    pub read_deg: Option<f64>,
    /// Stops relative to the key.
    pub level_stops: Option<f64>,
    /// One standard deviation of the level.
    pub level_sd_stops: Option<f64>,
    /// Illuminance at the subject in lux that this light alone must give.
    pub illuminance_lux: Option<f64>,
    /// Aperture a meter at the subject shows for this light alone.
    pub meter_f_number: Option<f64>,
    /// The nearest third stop to it.
    pub meter_nominal: Option<f64>,
    /// Stops it loses if moved back by a quarter of its distance.
    pub stops_lost_a_quarter_back: f64,
    /// Whether it stands inside the frame.
    pub in_frame: bool,
    /// Other modifiers that fill the angle at a usable distance, with that distance.
    pub alternatives: Vec<Alternative>,
    /// What does not work out, as sentences.
    pub problems: Vec<String>,
}

/// A modifier that would fill the same angle.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct Alternative {
    /// Id of the modifier.
    pub id: String,
    /// Name of the modifier.
    pub name: String,
    /// Distance in metres.
    pub distance_m: f64,
    /// Whether that distance is one it is used at.
    pub usable: bool,
    /// Its face, for a set.
    pub source: lightset::set::Source,
}

/// The exposure arithmetic of a set.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct ExposurePlan {
    /// Settings planned for.
    pub settings: Option<Settings>,
    /// EV at ISO 100.
    pub ev100: Option<f64>,
    /// Illuminance in lux at the subject that the settings are right for (dome receptor).
    pub incident_lux: Option<f64>,
    /// The two quantities of the reading it follows: contrast on the subject and lighting ratio, if they are known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ratios: Option<Ratios>,
    /// The working, line by line.
    pub working: Vec<String>,
}

const DEFAULT_EYE_HEIGHT: f64 = 1.25;
const DEFAULT_CAMERA_DISTANCE: f64 = 2.0;

/// Plans a set from a reading.
pub fn plan(r: &Readings, marks: &Marks, width: u32, height: u32, choices: &Choices) -> SetPlan {
    let (camera, assumed) = marks.camera_for(width, height);
    let facts = marks.camera.as_ref();
    let distance = choices.camera_distance_m.or(facts.and_then(|c| c.distance_m)).unwrap_or(DEFAULT_CAMERA_DISTANCE);
    let eye_height = choices.eye_height_m.unwrap_or(DEFAULT_EYE_HEIGHT);
    let mut assumptions = Vec::new();
    if choices.eye_height_m.is_none() {
        assumptions.push(format!("Eyes {DEFAULT_EYE_HEIGHT} m above the floor (a seated sitter)."));
    }
    if choices.camera_distance_m.is_none() && facts.and_then(|c| c.distance_m).is_none() {
        assumptions.push(format!("Camera {DEFAULT_CAMERA_DISTANCE} m from the subject."));
    }
    // A far camera has no field of view to draw: assume a short portrait lens.
    let half_v = if assumed { 8.0f64.to_radians() } else { (f64::from(height) / 2.0 / camera.focal_px).atan() };
    if assumed {
        assumptions.push("A frame 16 degrees high (a short portrait lens).".into());
    }
    let half_h = (half_v.tan() * f64::from(width) / f64::from(height)).atan();
    let camera_place = CameraPlace {
        distance_m: distance,
        height_m: facts.and_then(|c| c.height_m).unwrap_or(eye_height + distance * camera.pitch.sin()),
        half_vfov_deg: half_v.to_degrees(),
        half_hfov_deg: half_h.to_degrees(),
    };
    let settings = choices.exposure.or(marks.exposure);
    let key_share = key_share(r);
    let lights: Vec<PlacedLight> = r
        .lights
        .iter()
        .enumerate()
        .map(|(i, l)| {
            let choice = choices.modifiers.get(i).and_then(Option::as_deref);
            let set_dir = camera.to_set(&l.at().vector());
            place(l, AzEl::of(&set_dir), choice, eye_height, &camera_place, settings.as_ref(), key_share)
        })
        .collect();
    let exposure = exposure_plan(r, settings, &lights);
    let cautions = cautions(&lights);
    let slant = lightset::notation::SlantLine(
        lights
            .iter()
            .map(|l| lightset::notation::SlantLight {
                name: l.role.to_string(),
                azimuth_deg: l.azimuth_deg,
                elevation_deg: l.elevation_deg,
                angular_size_deg: Some(l.fills_deg.round()),
                level_stops: l.level_stops,
                distance_m: Some(l.distance_m),
                cct_k: None,
                via: Some(l.modifier.id.clone()),
            })
            .collect(),
    )
    .to_string();
    SetPlan { eye_height_m: eye_height, camera: camera_place, lights, exposure, slant, cautions, assumptions }
}

/// Share of the light at the subject that is the key's, all facing their light: what part of the
/// metered exposure the key alone must give.
fn key_share(r: &Readings) -> f64 {
    let others: f64 = r
        .lights
        .iter()
        .skip(1)
        .filter(|l| l.role != Role::Rim)
        .filter_map(|l| l.level_stops)
        .chain(r.ambient.as_ref().map(|a| a.level_stops))
        .map(f64::exp2)
        .sum();
    1.0 / (1.0 + others)
}

fn place(
    l: &Light,
    a: AzEl,
    choice: Option<&str>,
    eye_height: f64,
    camera: &CameraPlace,
    settings: Option<&Settings>,
    key_share: f64,
) -> PlacedLight {
    let told = l.angular_size_range_deg.is_some_and(|[lo, hi]| hi < 6.0 * lo);
    let read = l.angular_size_deg.filter(|_| told);
    let angle = read.unwrap_or(20.0).to_radians();
    let mut alternatives: Vec<(f64, Alternative, &Modifier)> = catalogue()
        .modifiers
        .iter()
        .map(|m| {
            let d = m.distance_for(angle).0;
            let usable = (m.near_m..=m.far_m).contains(&d) && clear_of_floor(m, d, a, eye_height);
            // Prefer one to two metres, things made for the job over household ones, and shapes near
            // round: only a picture of the source itself would tell a strip.
            let long = (m.size_m[0] / m.size_m[1]).ln().abs();
            let cost = (d / 1.4).ln().abs()
                + 0.4 * long
                + if usable { 0.0 } else { 10.0 }
                + if m.household { 0.6 } else { 0.0 };
            let alt = Alternative {
                id: m.id.clone(),
                name: m.name.clone(),
                distance_m: d,
                usable,
                source: lightset::kit::source_of(m),
            };
            (cost, alt, m)
        })
        .collect();
    alternatives.sort_by(|x, y| x.0.total_cmp(&y.0));
    let picked = choice.and_then(|id| alternatives.iter().find(|x| x.1.id == id)).unwrap_or(&alternatives[0]);
    let modifier = picked.2.clone();
    let d = modifier.distance_for(angle).0;
    let chosen = choice.is_some_and(|id| id == modifier.id);
    let range = match (read, l.angular_size_range_deg) {
        (Some(_), Some([lo, hi])) => {
            [modifier.distance_for(hi.to_radians()).0, modifier.distance_for(lo.max(0.05).to_radians()).0]
        }
        _ => [modifier.near_m, modifier.far_m],
    };
    let v = a.vector() * d;
    let stand = eye_height + v.y;
    let lux = settings.map(|s| s.incident_lux(C_DOME) * key_share);
    let lux = lux.zip(l.level_stops).map(|(k, s)| k * s.exp2());
    let meter = settings.zip(l.level_stops).map(|(s, level)| s.f_number_for(Stops(key_share.log2() + level)).0);
    let mut problems = Vec::new();
    if read.is_none() {
        problems.push("Its size could not be told; 20 degrees is taken.".into());
    }
    if !(modifier.near_m..=modifier.far_m).contains(&d) {
        problems.push(format!(
            "{} would have to stand {d:.1} m away; it is used from {} to {} m.",
            modifier.name, modifier.near_m, modifier.far_m
        ));
    }
    let half = modifier.size_m[1] / 2.0;
    if stand - half * a.elevation_deg.to_radians().cos() < 0.0 {
        problems.push(format!("It would reach below the floor by {:.1} m.", half - stand));
    }
    let in_frame = in_frame(&v, half.max(modifier.size_m[0] / 2.0), camera);
    if in_frame {
        problems.push("It stands in the frame: move the camera in, or use a smaller one nearer.".into());
    }
    PlacedLight {
        role: l.role,
        chosen,
        distance_m: d,
        distance_range_m: range,
        position_m: [v.x, v.y, v.z],
        stand_height_m: stand,
        floor_distance_m: v.x.hypot(v.z),
        azimuth_deg: a.azimuth_deg,
        elevation_deg: a.elevation_deg,
        fills_deg: modifier.angle_at(Metres(d)).to_degrees(),
        read_deg: read,
        level_stops: l.level_stops,
        level_sd_stops: l.level_sd_stops,
        illuminance_lux: lux,
        meter_f_number: meter,
        meter_nominal: meter.map(|n| nominal_f_number(FNumber(n))),
        stops_lost_a_quarter_back: 2.0 * 1.25f64.log2(),
        in_frame,
        alternatives: alternatives.into_iter().map(|x| x.1).collect(),
        problems,
        modifier,
    }
}

fn clear_of_floor(m: &Modifier, d: f64, a: AzEl, eye_height: f64) -> bool {
    let el = a.elevation_deg.to_radians();
    eye_height + d * el.sin() - m.size_m[1] / 2.0 * el.cos() > 0.0
}

/// Whether a sphere around the light comes into the cone of the frame, behind or before the subject.
fn in_frame(v: &optics::geometry::Vec3, radius: f64, camera: &CameraPlace) -> bool {
    let depth = camera.distance_m - v.z;
    if depth <= 0.05 {
        return false;
    }
    let x = v.x.abs() - radius;
    let y = v.y.abs() - radius;
    x < depth * camera.half_hfov_deg.to_radians().tan() && y < depth * camera.half_vfov_deg.to_radians().tan()
}

fn exposure_plan(r: &Readings, settings: Option<Settings>, lights: &[PlacedLight]) -> ExposurePlan {
    let mut working = Vec::new();
    if let Some(s) = &settings {
        let lux = s.incident_lux(C_DOME);
        working.push(format!(
            "EV at ISO 100 = log2(N²/t) - log2(ISO/100) = log2({}²/{:.5}) - log2({:.0}/100) = {:.1}",
            s.f_number,
            s.shutter_s,
            s.iso,
            s.ev100()
        ));
        working.push(format!(
            "Illuminance for that, dome receptor: E = C N²/(t S) = {C_DOME:.0} x {}²/({:.5} x {:.0}) = {} lux, all lights together",
            s.f_number,
            s.shutter_s,
            s.iso,
            three_digits(lux)
        ));
        for l in lights {
            if let (Some(e), Some(n), Some(nominal)) = (l.illuminance_lux, l.meter_f_number, l.meter_nominal) {
                working.push(format!(
                    "{} alone: {} lux; a meter at the subject, turned to it, shows f/{n:.1} (f/{nominal}) at ISO {:.0}, {}",
                    l.role,
                    three_digits(e),
                    s.iso,
                    optics::exposure::shutter_text(s.shutter_s)
                ));
            }
        }
    } else {
        working.push(
            "The settings of the picture are not known: enter aperture, shutter and ISO to get meter readings.".into(),
        );
    }
    for l in lights {
        working.push(format!(
            "{}: a quarter farther ({:.1} to {:.1} m) costs 2 log2(1.25) = {:.2} stops if small against its distance",
            l.role,
            l.distance_m,
            1.25 * l.distance_m,
            l.stops_lost_a_quarter_back
        ));
    }
    ExposurePlan {
        settings,
        ev100: settings.map(|s| s.ev100()),
        incident_lux: settings.map(|s| s.incident_lux(C_DOME)),
        ratios: r.ratios.clone(),
        working,
    }
}

/// A figure with three digits that count.
fn three_digits(v: f64) -> String {
    if !v.is_finite() || v <= 0.0 {
        return "0".into();
    }
    let k = 10f64.powi(2 - v.log10().floor() as i32);
    format!("{}", (v * k).round() / k)
}

fn cautions(lights: &[PlacedLight]) -> Vec<String> {
    cautions_where(|when, limit| {
        lights.iter().any(|l| match when {
            "light_above_m" => l.stand_height_m > limit,
            "modifier_area_m2" => l.modifier.size_m[0] * l.modifier.size_m[1] > limit,
            "cloth" => l.modifier.id.contains("sheet"),
            _ => false,
        })
    })
}
