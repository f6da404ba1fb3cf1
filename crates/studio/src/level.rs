//! How bright each light of a set is against the exposure its camera is set for.

use crate::lamp::{Lamp, lamp};
use crate::probe::Flat;
use lightset::set::{AmbientLight, LightSet, SetLight};
use lightset::throw::{OWN_BEAM_DEG, distance_m, through};
use optics::exposure::{C_FLAT, Settings};
use optics::role::Role;
use std::f64::consts::PI;

/// Exposure of a light at the reference point over the one the settings are right for.
///
/// # Errors
/// If a power setting cannot be understood.
pub fn relative_exposure(l: &SetLight, s: &Settings) -> Result<f64, String> {
    let d = distance_m(l);
    let h = l.level.lux_seconds(s, d, lux_per_lumen(l, d))?;
    Ok(h / (C_FLAT * s.f_number * s.f_number / s.iso))
}

/// Exposure of the light from all around on an open surface over the one the settings are right for.
///
/// # Errors
/// If a power setting cannot be understood.
pub fn relative_ambient(a: &AmbientLight, s: &Settings) -> Result<f64, String> {
    Ok(a.level.lux_seconds(s, 1.0, 1.0 / PI)? / (C_FLAT * s.f_number * s.f_number / s.iso))
}

/// What arrives at the reference point of each lumen of a light's lamp.
pub(crate) fn lux_per_lumen(l: &SetLight, d: f64) -> f64 {
    through(l, OWN_BEAM_DEG).lux_per_lumen(OWN_BEAM_DEG, d)
}

/// The same of a lamp that is ready: nothing where none of its light goes towards the reference point.
///
/// # Errors
/// If a power setting cannot be understood.
pub(crate) fn given(ready: &Lamp, l: &SetLight, s: &Settings) -> Result<f64, String> {
    if ready.facing > 1e-12 { relative_exposure(l, s) } else { Ok(0.0) }
}

/// Exposure of each lamp and of the ambient over the one the settings are right for.
pub(crate) struct Levels {
    pub lamps: Vec<f64>,
    pub ambient: f64,
}

impl Levels {
    /// # Errors
    /// If a power setting cannot be understood.
    pub(crate) fn of(set: &LightSet) -> Result<Levels, String> {
        let s = &set.camera.exposure;
        let level = |l: &SetLight| if l.off { Ok(0.0) } else { given(&lamp(l), l, s) };
        Ok(Levels {
            lamps: set.lights.iter().map(level).collect::<Result<_, _>>()?,
            ambient: set.ambient.as_ref().map_or(Ok(0.0), |a| relative_ambient(a, s))?,
        })
    }

    /// The same of the lamps with what each is for.
    pub(crate) fn by_role(&self, set: &LightSet) -> Vec<(Role, f64)> {
        set.lights.iter().zip(&self.lamps).map(|(l, e)| (Role::of_name(&l.name), *e)).collect()
    }

    /// All light together.
    pub(crate) fn together(&self, f: &Flat) -> f64 {
        f.lamps.iter().zip(&self.lamps).map(|(e, l)| e * l).sum::<f64>() + f.ambient * self.ambient
    }
}
