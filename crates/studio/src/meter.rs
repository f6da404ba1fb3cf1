//! What a meter at the subject shows, and the set as a slant line.

use crate::lamp::{lamp, vector_irradiance};
use crate::level::{Levels, given, lux_per_lumen, relative_ambient};
use crate::math::V;
use crate::points::{background, front_and_background, lifts, points};
use crate::probe::{Flat, Probe};
use crate::scene::Scene;
use crate::walk::walk;
use lightset::drawing::{View, draw};
use lightset::gel::gel_on;
use lightset::meter::{LightMeter, Notations, SET_SD_STOPS, SetMeter, SharpDepth, lighting_ratio};
use lightset::notation::{SlantLight, SlantLine};
use lightset::set::{LUMEN_SECONDS_PER_JOULE, LightSet, SetLight};
use lightset::throw::distance_m;
use optics::exposure::{C_FLAT, Settings, nominal_f_number};
use optics::geometry::{AzEl, Vec3, angle_between, angular_size_of_solid_angle};
use optics::role::Role;
use optics::units::FNumber;

/// A light's level in every notation: what would give the same luminous exposure from where it stands.
fn notations(l: &SetLight, s: &Settings, relative: f64) -> Notations {
    let d = distance_m(l);
    let h = relative * C_FLAT * s.f_number * s.f_number / s.iso;
    Notations {
        stops: relative.max(1e-9).log2(),
        lux: h / s.shutter_s,
        guide_number_m: d * (h * 100.0 / C_FLAT).sqrt(),
        joules: h / lux_per_lumen(l, d).max(1e-12) / LUMEN_SECONDS_PER_JOULE,
    }
}

/// Bounced light, over the exposure the settings are right for, that is worth a word.
const LEAST_BOUNCED: f64 = 0.002;

/// What boards and walls hand on of the lamps to a dome at the reference point turned to `lens`, and what that dome shows of all
/// light as the flat things leave it; the subject is left out. Nought and nothing in an empty room.
fn bounced(set: &LightSet, levels: &Levels, lens: &Vec3) -> (f64, Option<f64>) {
    if set.boards.is_empty() && set.walls.is_empty() && set.flags.is_empty() {
        return (0.0, None);
    }
    let whole = LightSet { subjects: Vec::new(), ..set.clone() };
    let bare = LightSet { boards: Vec::new(), walls: Vec::new(), ..whole.clone() };
    let [whole, bare] = [whole, bare].map(|s| Probe::of(&s).dome(&Vec3::zeros(), lens));
    let each = whole.lamps.iter().zip(&bare.lamps).zip(&levels.lamps);
    (each.map(|((w, b), l)| (w - b).max(0.0) * l).sum(), Some(levels.together(&whole)))
}

/// All light of a set on flat meters: for each a place in metres and where it looks. Exposure over the one the settings are right
/// for.
///
/// # Errors
/// If a power setting cannot be understood.
pub fn flat_at(set: &LightSet, places: &[(Vec3, Vec3)]) -> Result<Vec<f64>, String> {
    FlatMeters::at(set, places).under(set)
}

/// What each lamp of a set gives on flat meters at unit level: light is a sum, so levels can be set without metering again.
#[derive(Debug, Clone)]
pub struct FlatMeters(Vec<Flat>);

impl FlatMeters {
    /// For each place of a set, in metres, and where the meter looks.
    pub fn at(set: &LightSet, places: &[(Vec3, Vec3)]) -> FlatMeters {
        let room = Probe::of(set);
        FlatMeters(places.iter().map(|(at, normal)| room.flat(at, normal)).collect())
    }

    /// All light there with the levels of `set`, which is the one that was metered but for its levels, colours and exposure.
    /// Exposure over the one the settings are right for.
    ///
    /// # Errors
    /// If a power setting cannot be understood.
    pub fn under(&self, set: &LightSet) -> Result<Vec<f64>, String> {
        let levels = Levels::of(set)?;
        Ok(self.0.iter().map(|f| levels.together(f)).collect())
    }
}

/// Meters a set, and places of it with what its boards do there.
///
/// # Errors
/// If a power setting cannot be understood.
pub fn metered(set: &LightSet) -> Result<SetMeter, String> {
    let mut m = meter(set)?;
    let levels = Levels::of(set)?;
    m.points = points(set, &Probe::of(set), &levels);
    m.background = background(&m.points);
    m.boards = lifts(set, &m.points, &levels);
    m.walk = walk(set, &levels);
    Ok(m)
}

/// What each lamp of a set gives at unit level (the exposure the settings are right for, where the lamp is metered), in the order of
/// the set: light is a sum, so levels can be set without metering again.
#[derive(Debug, Clone, PartialEq)]
pub struct Responses {
    /// On a dome at the reference point turned to the lens, subjects left out.
    pub dome: Vec<f64>,
    /// What boards and walls hand on of that.
    pub handed: Vec<f64>,
    /// On a flat meter at the subject's front.
    pub front: Vec<f64>,
    /// On a flat meter at the middle of the background; empty if the frame shows none.
    pub background: Vec<f64>,
}

/// What each lamp of a set gives at unit level.
pub fn responses(set: &LightSet) -> Responses {
    let lens = Vec3::from(set.camera.position_m).normalize();
    let whole = LightSet { subjects: Vec::new(), ..set.clone() };
    let bare = LightSet { boards: Vec::new(), walls: Vec::new(), ..whole.clone() };
    let [whole, bare] = [whole, bare].map(|s| Probe::of(&s).dome(&Vec3::zeros(), &lens));
    let handed = whole.lamps.iter().zip(&bare.lamps).map(|(w, b)| (w - b).max(0.0)).collect();
    let room = Probe::of(set);
    let (front, background) = front_and_background(set);
    let flat = |p: Option<(Vec3, Vec3)>| p.map_or(Vec::new(), |(at, n)| room.flat(&at, &n).lamps);
    Responses { dome: whole.lamps, handed, front: flat(front), background: flat(background) }
}

/// Key over all that fills, each as a meter facing it shows it, boards and walls counted; `None` without either.
///
/// # Errors
/// If a power setting cannot be understood.
pub fn key_to_fill(set: &LightSet) -> Result<Option<f64>, String> {
    let levels = Levels::of(set)?;
    let (handed, _) = bounced(set, &levels, &Vec3::from(set.camera.position_m).normalize());
    Ok(lighting_ratio(&levels.by_role(set), levels.ambient + handed).map(|r| r.key_to_fill))
}

/// Meters a set at its reference point.
///
/// # Errors
/// If a power setting cannot be understood.
pub fn meter(set: &LightSet) -> Result<SetMeter, String> {
    let s = &set.camera.exposure;
    let mut rows = Vec::new();
    let mut warnings = Vec::new();
    let scene = Scene::new(&LightSet { lights: Vec::new(), subjects: Vec::new(), ..set.clone() });
    let lens = Vec3::from(set.camera.position_m).normalize();
    let mut dome = 0.0;
    for l in &set.lights {
        let ready = lamp(l);
        let (flux, omega) = vector_irradiance(&ready.faces, &V::zeros());
        let toward = flux.cast::<f64>();
        let relative = given(&ready, l, s)?;
        let a = AzEl::of(&if toward.norm() > 1e-9 { toward } else { l.position() });
        let face = &ready.faces[0];
        let f = s.f_number * relative.sqrt();
        let outline = outline_of(face);
        rows.push(LightMeter {
            name: l.name.clone(),
            role: Role::of_name(&l.name),
            off: l.off,
            azimuth_deg: round(a.azimuth_deg, 2),
            elevation_deg: round(a.elevation_deg, 2),
            distance_m: round(f64::from(face.centre.norm()), 3),
            angular_size_deg: round(angular_size_of_solid_angle(f64::from(omega)).to_degrees(), 2),
            level_stops: if relative > 0.0 { relative.log2() } else { -30.0 },
            lux_seconds: relative * C_FLAT * s.f_number * s.f_number / s.iso,
            f_number: round(f, 2),
            nominal: nominal_f_number(FNumber(f.max(0.01))),
            notations: notations(l, s, relative),
            gel: gel_on(l).map(|g| g.id.clone()),
            feather_deg: {
                let (n, to) = (face.n.cast::<f64>(), -face.centre.cast::<f64>());
                round(angle_between(&n, &to).to_degrees(), 1)
            },
            position_m: l.position().into(),
            face_m: face.centre.cast::<f64>().into(),
            outline_m: outline,
        });
        if !l.off {
            dome += relative * f64::from(flux.norm()) * rows[rows.len() - 1].dome_share(&lens);
        }
        if l.off {
            continue;
        }
        let apart = l.metered_at().norm() > 0.05;
        if ready.facing <= 1e-12 || (flux.norm() <= 1e-9 && !apart) {
            warnings.push(format!("{}: none of its light goes towards the subject; check where it is aimed.", l.name));
        } else if !apart
            && ready.faces.iter().all(|f| {
                let d = f.centre.norm();
                scene.blocked(&(f.centre * (0.02 / d)), &(f.centre / d), d - 0.03)
            })
        {
            warnings.push(format!(
                "{}: a wall, board or flag stands between its centre and the subject; what is left of its light is drawn.",
                l.name
            ));
        }
        for sub in &set.subjects {
            let gap = (l.position() - Vec3::from(sub.position_m)).norm();
            if gap < sub.clearance_m() {
                warnings.push(format!("{}: it stands inside the subject; move it out.", l.name));
            }
        }
    }
    let strongest = rows.iter().filter(|r| !r.off).map(|r| r.level_stops).fold(-30.0, f64::max);
    for r in &mut rows {
        r.level_stops = round(r.level_stops - strongest, 2);
    }
    let ambient = set.ambient.as_ref().map(|a| relative_ambient(a, s)).transpose()?;
    dome += ambient.unwrap_or(0.0) * set.ambient.as_ref().map_or(1.0, |a| a.dome(&lens));
    let slant = SlantLine(
        rows.iter()
            .zip(&set.lights)
            .filter(|(r, _)| !r.off)
            .map(|(r, l)| SlantLight {
                name: l.name.split_whitespace().next().unwrap_or("light").to_owned(),
                azimuth_deg: r.azimuth_deg,
                elevation_deg: r.elevation_deg,
                angular_size_deg: Some(r.angular_size_deg),
                level_stops: Some(r.level_stops),
                distance_m: Some(r.distance_m),
                cct_k: l.cct_k,
                via: None,
            })
            .collect(),
    );
    warnings.extend(lightset::frame::frame_warnings(set, &rows));
    let levels = Levels::of(set)?;
    let (handed, seen) = bounced(set, &levels, &lens);
    dome = seen.unwrap_or(dome);
    let together = s.f_number * dome.max(1e-9).sqrt();
    let cables = lightset::cables::cables(set);
    let drawn = |view| draw(set, &rows, &cables, view);
    Ok(SetMeter {
        plan: drawn(View::Plan),
        side: drawn(View::Side),
        ratio: lighting_ratio(&levels.by_role(set), levels.ambient + handed),
        bounced_stops: (handed > LEAST_BOUNCED).then(|| round(handed.log2(), 2)),
        points: Vec::new(),
        background: None,
        points_sd_stops: SET_SD_STOPS,
        boards: Vec::new(),
        flags: lightset::cutter::bands(&set.flags, &rows),
        walk: None,
        sharp: SharpDepth::of(&set.camera, f64::from(set.picture.width) / f64::from(set.picture.height)),
        lights: rows,
        together_f_number: round(together, 2),
        together_nominal: nominal_f_number(FNumber(together.max(0.01))),
        over_stops: round(dome.max(1e-9).log2(), 2),
        ambient_stops: ambient.filter(|a| *a > 0.0).map(f64::log2),
        slant: slant.to_string(),
        warnings,
        cautions: lightset::cautions::cautions(set),
        cables,
    })
}

fn round(v: f64, digits: i32) -> f64 {
    let k = 10f64.powi(digits);
    (v * k).round() / k
}

fn outline_of(e: &crate::emitter::Emitter) -> Vec<[f64; 3]> {
    use crate::emitter::Outline;
    let at = |x: f32, y: f32| -> [f64; 3] { (e.centre + e.u * x + e.v * y).cast::<f64>().into() };
    match e.outline {
        Outline::Rectangle(w, h) => vec![at(-w, -h), at(w, -h), at(w, h), at(-w, h)],
        Outline::Tube(half, r) => vec![at(-half, -r), at(half, -r), at(half, r), at(-half, r)],
        Outline::Disc(r) | Outline::Ball(r) | Outline::Octagon(r) => {
            let (n, r, turn) = match e.outline {
                Outline::Octagon(_) => (8, r / (std::f32::consts::PI / 8.0).cos(), 0.5),
                _ => (28, r, 0.0),
            };
            (0..n)
                .map(|i| {
                    let (s, c) = ((i as f32 + turn) / n as f32 * 2.0 * std::f32::consts::PI).sin_cos();
                    at(c * r, s * r)
                })
                .collect()
        }
    }
}
