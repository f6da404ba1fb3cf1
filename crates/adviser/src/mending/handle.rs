//! What a hand can change in a set: one thing at a time, by an amount, on any set with the same lights.

use crate::handling::{elsewhere, exposed, powered, room_by};
use lightset::set::{Level, LightSet, SetLight, Source};
use optics::geometry::{AzEl, Vec3, wrapped_deg};
use optics::role::Role;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// One change of one thing.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Handle {
    /// The camera lets in more or less.
    Expose {
        /// Stops.
        stops: f64,
    },
    /// A light is carried round the subject.
    Round {
        /// Its place in the list of lights.
        light: usize,
        /// Degrees, positive away from the lens on the side where it stands.
        deg: f64,
    },
    /// A light is put higher or lower.
    Height {
        /// Its place in the list of lights.
        light: usize,
        /// Degrees.
        deg: f64,
    },
    /// A light gets a larger or smaller face, its level at the subject kept.
    Face {
        /// Its place in the list of lights.
        light: usize,
        /// By how much wider.
        times: f64,
    },
    /// A light is turned up or down.
    Power {
        /// Its place in the list of lights.
        light: usize,
        /// Stops.
        stops: f64,
    },
    /// What lifts the shadows from all around: the room, white boards.
    Room {
        /// Stops.
        stops: f64,
    },
    /// The light on the background alone.
    Ground {
        /// Stops.
        stops: f64,
    },
    /// A light is brought to the colour of the key.
    Balance {
        /// Its place in the list of lights.
        light: usize,
    },
    /// A light is switched off.
    Off {
        /// Its place in the list of lights.
        light: usize,
    },
    /// The head of the first person is turned.
    Head {
        /// Tilt to a shoulder, degrees, as the set counts it.
        tilt_deg: f64,
        /// Nod, degrees, positive down.
        nod_deg: f64,
    },
    /// Nothing of the set: the picture is taken or kept anew.
    Retake {
        /// What is done otherwise.
        how: Retake,
    },
    /// A strip is put up beside a bottle or a can, level with it, for a bright line along that side.
    Strip {
        /// On the right of the picture; on the left otherwise.
        right: bool,
        /// Stops against the one on the other side, or the key.
        stops: f64,
    },
    /// The sources beside a bottle or a can get wider or higher faces, all of them, their levels at the subject kept.
    Lines {
        /// By how much wider.
        wide: f64,
        /// By how much higher.
        high: f64,
    },
    /// A broad fill is put up on the other side of the lens, where there is none.
    Fill {
        /// Stops against the key.
        stops: f64,
    },
    /// The background is lit evenly: what lights one side of it goes.
    Even,
    /// A rim light is put up behind the subject, on the side away from the key.
    Rim {
        /// Stops against the key.
        stops: f64,
    },
}

/// How a picture is taken or kept anew.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Retake {
    /// Camera and subject still.
    Still,
    /// In focus.
    Focused,
    /// At a lower speed of the sensor.
    Slower,
    /// From the original file, pressed less.
    Whole,
}

/// All ways to take a picture anew, with the rules that ask for it.
pub(crate) const RETAKES: [(Retake, &[&str]); 4] = [
    (Retake::Still, &["smeared"]),
    (Retake::Focused, &["unsharp", "subject_soft"]),
    (Retake::Slower, &["noise"]),
    (Retake::Whole, &["blocks"]),
];

/// Rules that ask for an even background.
pub(crate) const UNEVEN: [&str; 2] = ["ground_uneven", "hot_spot"];

/// Where a strip that is put up stands, degrees round from the lens and metres, and its face (common practice).
const STRIP_AT_DEG: f64 = 60.0;
const STRIP_AWAY_M: f64 = 0.9;
pub(crate) const STRIP_M: [f64; 2] = [0.2, 0.9];

/// The side on which a light stands beside the subject, right or not; `None` of one near the lens or behind.
fn beside(l: &SetLight) -> Option<bool> {
    let az = AzEl::of(&l.position()).azimuth_deg;
    (20.0..130.0).contains(&az.abs()).then_some(az > 0.0)
}

/// How far behind the subject a rim light that is put up stands, degrees.
const RIM_AT: [f64; 2] = [145.0, 25.0];
/// How far before the wall behind the subject it stands, metres.
const RIM_FACE_M: f64 = 0.3;
/// No light is carried higher or lower than this, degrees.
const STEEPEST_DEG: f64 = 80.0;

/// Where a fill that is put up stands, degrees aside on the side away from the key and up, metres, and how wide it is (common practice).
const FILL_AT: [f64; 2] = [28.0, 6.0];
const FILL_AWAY_M: f64 = 1.8;
const FILL_M: f64 = 1.0;
/// A light that looks past the subject by more than this is not for it, metres.
const PAST_M: f64 = 0.5;

/// Whether a light is for the background alone.
fn for_background(l: &SetLight, set: &LightSet) -> bool {
    let past = |at: [f64; 3]| (Vec3::from(l.aim_m) - Vec3::from(at)).norm() > PAST_M;
    past([0.0; 3]) && set.subjects.iter().all(|s| past(s.position_m))
}

/// Level of the key in stops, and the side away from it, 1 on the right of the picture; `None` where it is told otherwise.
fn against_key(set: &LightSet) -> Option<(f64, f64)> {
    let key = set.lights.iter().find(|l| !l.off)?;
    let Level::Stops { stops } = key.level else { return None };
    Some((stops, if key.position().x > 0.0 { -1.0 } else { 1.0 }))
}

/// The brightest a wall can be.
const MOST_TONE: f64 = 0.98;

/// A face so many times as wide and high.
pub(crate) fn wider(s: &Source, k: f64) -> Source {
    let mut out = s.clone();
    match &mut out {
        Source::Disc { diameter_m }
        | Source::UmbrellaThrough { diameter_m }
        | Source::UmbrellaBounce { diameter_m }
        | Source::Dish { diameter_m, .. }
        | Source::Spot { diameter_m, .. }
        | Source::Bare { diameter_m }
        | Source::Ies { diameter_m, .. } => *diameter_m *= k,
        Source::Octagon { width_m } => *width_m *= k,
        Source::Rectangle { width_m, height_m } | Source::Window { width_m, height_m, .. } => {
            *width_m *= k;
            *height_m *= k;
        }
        Source::Tube { length_m, diameter_m } => {
            *length_m *= k;
            *diameter_m *= k;
        }
    }
    out
}

/// A face so many times as wide and so many times as high; a round one grows by the larger.
fn stretched(s: &Source, wide: f64, high: f64) -> Source {
    match s {
        Source::Rectangle { width_m, height_m } => {
            Source::Rectangle { width_m: width_m * wide, height_m: height_m * high }
        }
        other => wider(other, wide.max(high)),
    }
}

/// A light with another face, metered to its level again.
fn with_face(l: &SetLight, source: Source, set: &LightSet) -> SetLight {
    let after = SetLight { source, ..l.clone() };
    let level = |l: &SetLight| studio::relative_exposure(l, &set.camera.exposure).unwrap_or(1.0).max(1e-9);
    let gain = (level(&after) / level(l)).log2();
    if gain.abs() < 0.01 { after } else { powered(&after, -gain) }
}

/// A light carried to another direction at its distance.
fn turned(l: &SetLight, round: f64, up: f64) -> SetLight {
    let p = l.position();
    let a = AzEl::of(&p);
    let at = AzEl {
        azimuth_deg: wrapped_deg(a.azimuth_deg + round),
        elevation_deg: (a.elevation_deg + up).clamp(-STEEPEST_DEG, STEEPEST_DEG),
    };
    // of the same level at the subject: it looks there from the same distance
    let level = l.level.clone();
    SetLight { level, ..elsewhere(l, at.vector() * p.norm()) }
}

impl Handle {
    /// The light it is about.
    pub fn light(&self) -> Option<usize> {
        match self {
            Handle::Round { light, .. }
            | Handle::Height { light, .. }
            | Handle::Face { light, .. }
            | Handle::Power { light, .. }
            | Handle::Balance { light }
            | Handle::Off { light } => Some(*light),
            _ => None,
        }
    }

    /// Whether it only changes levels, colours or the camera: everything stands where it stood.
    pub(crate) fn only_levels(&self) -> bool {
        !matches!(
            self,
            Handle::Round { .. }
                | Handle::Height { .. }
                | Handle::Face { .. }
                | Handle::Rim { .. }
                | Handle::Strip { .. }
                | Handle::Lines { .. }
                | Handle::Fill { .. }
                | Handle::Even
                | Handle::Head { .. }
        )
    }

    /// The set after it; `None` where the set has no such light. The background gets its light by its own tone, so that nothing else
    /// changes with it.
    pub fn on(&self, set: &LightSet) -> Option<LightSet> {
        let mut out = set.clone();
        if let Some(k) = self.light() {
            let l = set.lights.get(k).filter(|l| !l.off)?;
            out.lights[k] = match *self {
                Handle::Round { deg, .. } => {
                    let away = if AzEl::of(&l.position()).azimuth_deg < 0.0 { -deg } else { deg };
                    turned(l, away, 0.0)
                }
                Handle::Height { deg, .. } => turned(l, 0.0, deg),
                Handle::Face { times, .. } => with_face(l, wider(&l.source, times), set),
                Handle::Power { stops, .. } => powered(l, stops),
                Handle::Balance { .. } => {
                    SetLight { cct_k: set.lights[0].cct_k, gel_mired: 0.0, gel_rgb: None, ..l.clone() }
                }
                _ => SetLight { off: true, ..l.clone() },
            };
            return Some(out);
        }
        match *self {
            Handle::Expose { stops } => {
                out.camera.exposure.iso *= stops.exp2();
                exposed(&mut out, stops);
            }
            Handle::Room { stops } => {
                out.ambient.as_ref()?;
                room_by(&mut out, stops);
            }
            Handle::Ground { stops } => {
                for w in out.walls.iter_mut().filter(|w| w.is_background()) {
                    w.colour = w.colour.map(|c| (c * stops.exp2()).clamp(0.0, MOST_TONE));
                }
            }
            Handle::Head { tilt_deg, nod_deg } => {
                let head = out.subjects.first_mut()?;
                head.roll_deg += tilt_deg;
                head.pitch_deg += nod_deg;
            }
            Handle::Rim { stops } => {
                let (level, side) = against_key(set)?;
                let at = AzEl { azimuth_deg: side * RIM_AT[0], elevation_deg: RIM_AT[1] };
                // before the wall that the subject stands against
                let wall =
                    set.walls.iter().map(|w| Vec3::from(w.position_m).z).filter(|z| *z < 0.0).fold(-3.0, f64::max);
                let distance = (wall + RIM_FACE_M).abs() / at.vector().z.abs();
                out.lights.push(SetLight {
                    azimuth_deg: Some(at.azimuth_deg),
                    elevation_deg: Some(at.elevation_deg),
                    distance_m: Some(distance.clamp(0.6, 2.0)),
                    ..SetLight::of(
                        Role::Rim.to_string(),
                        Source::Rectangle { width_m: 0.25, height_m: 0.9 },
                        level + stops,
                    )
                });
            }
            Handle::Fill { stops } => {
                let (level, side) = against_key(set)?;
                out.lights.push(SetLight {
                    azimuth_deg: Some(side * FILL_AT[0]),
                    elevation_deg: Some(FILL_AT[1]),
                    distance_m: Some(FILL_AWAY_M),
                    ..SetLight::of(Role::Fill.to_string(), Source::Disc { diameter_m: FILL_M }, level + stops)
                });
            }
            Handle::Lines { wide, high } => {
                for l in out.lights.iter_mut().filter(|l| !l.off && beside(l).is_some()) {
                    *l = with_face(l, stretched(&l.source, wide, high), set);
                }
            }
            Handle::Even => {
                for l in out.lights.iter_mut().filter(|l| for_background(l, set)) {
                    l.off = true;
                }
            }
            Handle::Strip { right, stops: against } => {
                let front = set.lights.iter().filter(|l| !l.off);
                let level = |l: &SetLight| if let Level::Stops { stops } = l.level { Some(stops) } else { None };
                // as the strongest stands on its side, so this on the other
                let other = front.filter(|l| beside(l).is_some_and(|r| r != right));
                let other = other.max_by(|a, b| level(a).unwrap_or(-9.0).total_cmp(&level(b).unwrap_or(-9.0)));
                let stands = other.map_or(STRIP_AT_DEG, |l| AzEl::of(&l.position()).azimuth_deg.abs());
                let (away, stops) = match other {
                    Some(l) => (l.position().norm(), level(l)?),
                    None => (STRIP_AWAY_M, set.lights.iter().filter(|l| !l.off).find_map(level).unwrap_or(0.0)),
                };
                out.lights.push(SetLight {
                    azimuth_deg: Some(if right { stands } else { -stands }),
                    elevation_deg: Some(0.0),
                    distance_m: Some(away),
                    ..SetLight::of(
                        format!("strip {}", if right { "right" } else { "left" }),
                        Source::Rectangle { width_m: STRIP_M[0], height_m: STRIP_M[1] },
                        stops + against,
                    )
                });
            }
            _ => {}
        }
        Some(out)
    }

    /// In one sentence, as said to who makes it.
    pub fn says(&self, set: &LightSet) -> String {
        let name = |k: usize| set.lights.get(k).map_or("light", |l| l.name.as_str());
        let stops_of = |s: f64| {
            let a = (10.0 * s.abs()).round() / 10.0;
            format!("{a} {}", if (a - 1.0).abs() < 1e-9 { "stop" } else { "stops" })
        };
        match *self {
            Handle::Expose { stops } => {
                format!("Expose {} {}.", stops_of(stops), if stops > 0.0 { "more" } else { "less" })
            }
            Handle::Round { light, deg } => format!(
                "Carry the {} {:.0}\u{b0} {} the lens, round the subject.",
                name(light),
                deg.abs(),
                if deg > 0.0 { "away from" } else { "towards" }
            ),
            Handle::Height { light, deg } => {
                format!("{} the {} by {:.0}\u{b0}.", if deg > 0.0 { "Raise" } else { "Lower" }, name(light), deg.abs())
            }
            Handle::Face { light, times } if times > 1.0 => format!(
                "Make the {} {times:.1} times as wide, or bring it as much nearer; meter it to its level again.",
                name(light)
            ),
            Handle::Face { light, times } => format!(
                "Make the {} {:.1} times smaller, or take it as much farther; meter it to its level again.",
                name(light),
                1.0 / times
            ),
            Handle::Power { light, stops } => {
                format!("Turn the {} {} {}.", name(light), if stops > 0.0 { "up" } else { "down" }, stops_of(stops))
            }
            Handle::Room { stops } if stops > 0.0 => {
                format!(
                    "Lift the shadows by {}: a white board on the shadow side, or more of the room's light.",
                    stops_of(stops)
                )
            }
            Handle::Room { stops } => {
                format!(
                    "Take {} of what lifts the shadows: a black board on the shadow side, curtains closed, white things away.",
                    stops_of(stops)
                )
            }
            Handle::Ground { stops } if stops > 0.0 => {
                format!(
                    "Give the background {} more: a light of its own, or bring the subject's lights nearer to it.",
                    stops_of(stops)
                )
            }
            Handle::Ground { stops } => {
                format!(
                    "Give the background {} less: flag the lights off it, or take the subject farther from it.",
                    stops_of(stops)
                )
            }
            Handle::Balance { light } => {
                format!("Gel the {} to the colour of the key, or change its lamp.", name(light))
            }
            Handle::Head { nod_deg, .. } if nod_deg.abs() > 0.5 => {
                format!("{} the chin by {:.0}\u{b0}.", if nod_deg < 0.0 { "Lift" } else { "Lower" }, nod_deg.abs())
            }
            Handle::Head { tilt_deg, .. } => format!("Have the head upright: {:.0}\u{b0} back.", tilt_deg.abs()),
            Handle::Retake { how: Retake::Still } => {
                "Take it again with camera and subject still: a tripod, a shorter shutter, or flash that does its work."
                    .into()
            }
            Handle::Retake { how: Retake::Focused } => {
                "Take it again in focus, on the near eye or the label, the aperture a stop or two smaller.".into()
            }
            Handle::Retake { how: Retake::Slower } => {
                "Take it again at a lower ISO, with more light or a longer shutter in its place.".into()
            }
            Handle::Retake { how: Retake::Whole } => {
                "Save it again from the original at a higher quality, and send that file itself.".into()
            }
            Handle::Off { light } => format!("Switch the {} off.", name(light)),
            Handle::Strip { right, stops } => format!(
                "Put a strip, {:.0} × {:.0} cm, upright on the {}, level with the product{}{}: its line then runs along that side.",
                100.0 * STRIP_M[0],
                100.0 * STRIP_M[1],
                if right { "right" } else { "left" },
                if set.lights.iter().any(|l| !l.off && beside(l) == Some(!right)) {
                    ", as far round as the one on the other side"
                } else {
                    ", sixty degrees round from the lens"
                },
                if stops < -0.05 { format!(", {} weaker", stops_of(stops)) } else { String::new() }
            ),
            Handle::Lines { wide, high } if high > wide => format!(
                "Make the sources beside the product {high:.1} times as high: longer strips or boards, or two above each other; meter them to their levels again."
            ),
            Handle::Lines { wide, .. } => format!(
                "Make the sources beside the product {wide:.1} times as wide, on both sides; meter them to their levels again."
            ),
            Handle::Fill { stops } => format!(
                "Put up a fill on the side away from the key, {} the key: a broad lamp beside the lens, or a white board close in.",
                if stops.abs() < 0.05 { "level with".to_owned() } else { format!("{} under", stops_of(stops)) }
            ),
            Handle::Even => {
                "Light the background evenly: take what lights one side of it farther off, put as much on the other, or flag it.".into()
            }
            Handle::Rim { stops } => format!(
                "Put a light behind the subject on the side away from the key, {} the key.",
                if stops.abs() < 0.05 {
                    "level with".to_owned()
                } else {
                    format!("{} {}", stops_of(stops), if stops > 0.0 { "over" } else { "under" })
                }
            ),
        }
    }
}

/// All single changes that are tried on a set: steps that one sees, up to what is still the same picture.
pub(crate) fn handles(set: &LightSet) -> Vec<Handle> {
    let mut out = Vec::new();
    let both = |steps: &[f64]| steps.iter().flat_map(|s| [*s, -*s]).collect::<Vec<f64>>();
    out.extend(both(&[0.3, 0.7, 1.0, 1.5, 2.0, 3.0]).into_iter().map(|stops| Handle::Expose { stops }));
    for (light, l) in set.lights.iter().enumerate().filter(|(_, l)| !l.off).take(3) {
        let a = AzEl::of(&l.position());
        for deg in both(&[10.0, 20.0, 30.0, 45.0, 60.0, 75.0, 90.0]) {
            if deg <= 60.0 && (0.0..=150.0).contains(&(a.azimuth_deg.abs() + deg)) {
                out.push(Handle::Round { light, deg });
            }
            if deg.abs() <= 60.0 && (a.elevation_deg + deg).abs() <= 75.0 {
                out.push(Handle::Height { light, deg });
            }
        }
        out.extend([0.25, 0.4, 0.55, 0.75, 1.4, 2.0, 2.8, 4.0].map(|times| Handle::Face { light, times }));
        out.extend(both(&[0.5, 1.0, 1.5, 2.0, 3.0]).into_iter().map(|stops| Handle::Power { light, stops }));
        if light > 0 {
            out.push(Handle::Off { light });
            out.push(Handle::Balance { light });
        }
    }
    // where no light was read, what comes from all around is all there is: that is exposed, not lifted
    if set.lights.iter().any(|l| !l.off) {
        out.extend(both(&[0.5, 1.0, 1.5, 2.0, 3.0]).into_iter().map(|stops| Handle::Room { stops }));
    }
    out.extend(both(&[0.5, 1.0, 1.5, 2.0, 3.0]).into_iter().map(|stops| Handle::Ground { stops }));
    if let Some(s) = set.subjects.first().filter(|s| s.kind.is_head()) {
        // back to upright and level, where it is far from it
        if s.roll_deg.abs() > 4.0 {
            out.push(Handle::Head { tilt_deg: -s.roll_deg, nod_deg: 0.0 });
        }
        if s.pitch_deg.abs() > 4.0 {
            out.push(Handle::Head { tilt_deg: 0.0, nod_deg: -s.pitch_deg });
        }
    }
    if set.subjects.iter().any(|s| lightset::line::body(s).is_some()) {
        let has = |right: bool| set.lights.iter().any(|l| !l.off && beside(l) == Some(right));
        out.extend(
            [false, true]
                .into_iter()
                .filter(|r| !has(*r))
                .flat_map(|right| [0.0, -0.7].map(|stops| Handle::Strip { right, stops })),
        );
        if has(false) || has(true) {
            out.extend([1.5, 2.0, 3.0].map(|high| Handle::Lines { wide: 1.0, high }));
            out.extend([0.5, 2.0, 4.0, 8.0].map(|wide| Handle::Lines { wide, high: 1.0 }));
        }
    }
    let lit: Vec<&SetLight> = set.lights.iter().filter(|l| !l.off).collect();
    if let [key] = lit[..]
        && AzEl::of(&key.position()).off_axis_deg() < 120.0
        && set.subjects.first().is_some_and(|s| s.kind.is_head())
    {
        out.extend([-1.0, -1.5, -2.0].map(|stops| Handle::Fill { stops }));
    }
    if !set.lights.iter().any(|l| Role::of_name(&l.name) == Role::Rim && !l.off) {
        out.extend([-1.0, 0.0].map(|stops| Handle::Rim { stops }));
    }
    out
}
