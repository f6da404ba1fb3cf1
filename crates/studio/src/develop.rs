//! From plates to a picture: levels and colours, exposure, the sensor's clipping, noise, tone curve.
//!
//! A surface of reflectance 1 under the incident exposure the settings ask for (`E t = C N^2 / S`
//! with C = 250) is drawn as 1, so that one of 18 % is drawn as 0.18. With C = 250 that is
//! 0.65 * 250 / pi = 51.7 lux seconds over S on the sensor; it saturates at 78 / S (ISO 12232), 1.51
//! times as much.

use crate::math::hash;
use crate::plates::Plates;
use lightset::set::{LightSet, PictureSpec};
use optics::exposure::C_FLAT;
use optics::tone::linear_to_srgb;
use rayon::prelude::*;
use std::f64::consts::PI;

/// Picture value at which the sensor saturates: `78 / (0.65 * 250 / pi)`.
pub const SATURATION: f64 = 78.0 / (0.65 * C_FLAT / PI);

/// Linear RGB of a set from its plates, clipped where the sensor saturates.
///
/// # Errors
/// If a power setting cannot be understood.
pub fn mix(set: &LightSet, plates: &Plates) -> Result<Vec<f32>, String> {
    let mut out = sum(set, plates)?;
    let top = SATURATION as f32;
    out.par_iter_mut().for_each(|v| *v = v.min(top));
    if let Some(well) = set.picture.full_well {
        add_noise(&mut out, well, set.picture.seed);
    }
    Ok(out)
}

/// Linear RGB of a set from its plates, nothing clipped.
pub(crate) fn sum(set: &LightSet, plates: &Plates) -> Result<Vec<f32>, String> {
    let white = set.camera.white_k.unwrap_or(5600.0);
    let mut parts: Vec<(&[f32], [f32; 3])> = Vec::new();
    for (l, p) in set.lights.iter().zip(&plates.lamps) {
        if l.off || p.is_empty() {
            continue;
        }
        let k = crate::level::relative_exposure(l, &set.camera.exposure)?;
        parts.push((p, l.colour(white).map(|c| (c * k) as f32)));
    }
    if let Some(a) = &set.ambient
        && !plates.ambient.is_empty()
    {
        let k = crate::level::relative_ambient(a, &set.camera.exposure)?;
        let c = optics::colour::rgb_of_cct(a.cct_k.unwrap_or(white), white);
        parts.push((&plates.ambient, c.map(|c| (c * k) as f32)));
    }
    let mut out = vec![0.0f32; 3 * plates.width as usize * plates.height as usize];
    out.par_chunks_mut(3 * 4096).enumerate().for_each(|(i, chunk)| {
        let from = i * 3 * 4096;
        for (plate, k) in &parts {
            for (o, p) in chunk.chunks_exact_mut(3).zip(plate[from..].chunks_exact(3)) {
                o[0] += p[0] * k[0];
                o[1] += p[1] * k[1];
                o[2] += p[2] * k[2];
            }
        }
    });
    Ok(out)
}

/// Photon noise and three electrons of read noise for a full well in electrons.
fn add_noise(out: &mut [f32], full_well: f64, seed: u32) {
    out.par_iter_mut().enumerate().for_each(|(i, v)| {
        let unit = |k: u32| (f64::from(hash(hash(i as u32 ^ seed.rotate_left(16)) ^ k)) + 0.5) / 4_294_967_296.0;
        // Box and Muller 1958
        let normal = (-2.0 * unit(1).ln()).sqrt() * (2.0 * PI * unit(2)).cos();
        let electrons = f64::from(*v) / SATURATION * full_well;
        let noisy = electrons + normal * (electrons.max(0.0) + 9.0).sqrt();
        *v = (noisy.clamp(0.0, full_well) / full_well * SATURATION) as f32;
    });
}

/// 8-bit sRGB: values over 1 are white; with a tone curve about middle grey if asked for.
pub fn encode(linear: &[f32], spec: &PictureSpec) -> Vec<u8> {
    let steps = |most: f32| -> Vec<u8> {
        let at = |i: u32| f64::from(most) * f64::from(i) / f64::from(STEPS);
        (0..=STEPS).map(|i| coded(at(i), spec.contrast)).collect()
    };
    // fine steps in the dark, where the code changes fast
    let (dark, curve) = (steps(DARK), steps(1.0));
    let of = |table: &[u8], x: f32| table[(x * STEPS as f32 + 0.5) as usize];
    linear
        .par_iter()
        .map(|v| {
            let x = v.clamp(0.0, 1.0);
            if x < DARK { of(&dark, x / DARK) } else { of(&curve, x) }
        })
        .collect()
}

/// Steps of the tables of codes, and up to where the finer one goes.
const STEPS: u32 = 4096;
const DARK: f32 = 0.02;

/// Code of a linear value: sRGB (IEC 61966-2-1), then `x + c x (1 - x) (x - g)` about the code of 18 %.
fn coded(v: f64, contrast: f64) -> u8 {
    let x = linear_to_srgb(v);
    let grey = linear_to_srgb(0.18);
    let y = x + contrast * 2.0 * x * (1.0 - x) * (x - grey);
    (255.0 * y.clamp(0.0, 1.0)).round() as u8
}
