//! The light of the whole room as a face tells it: lights and the light from all around, in cells too coarse to see a lamp in.
//!
//! A face integrates light over half a sphere at each point: it knows the low frequencies only (Ramamoorthi & Hanrahan 2001),
//! enough to say where light comes from in the mean, how directional it is, and whether one light leads.

use super::fit::{Face, Lit};
use crate::room::LEADING;
use optics::geometry::{Vec3, angle_between, fibonacci_sphere};
use optics::light_map::LightMap;
use std::f64::consts::PI;

/// Rows of the map: cells of ten degrees.
const ROWS: usize = 18;
/// A light is laid out at least so wide, radians, half; and parts of the sphere as far apart as that.
const COARSE: f64 = 0.35;
const PARTS: usize = 80;
/// Natural log of the level of a light against the light from all around, standard deviation.
const LEVEL_SD: f64 = 0.5;
/// Least spread of the direction of the mean light, radians, and of how directional it is.
const MEAN_SD: f64 = 0.45;
const DIRECTIONAL_SD: f64 = 0.3;

/// The light of a room at a face.
#[derive(Debug, Clone)]
pub struct Around {
    /// The mean light: its direction times how directional it is, 0 from all around, 1 from one point.
    pub mean: Vec3,
    /// Standard deviation of its direction, radians.
    pub mean_sd: f64,
    /// Standard deviation of how directional it is.
    pub directional_sd: f64,
    /// Part of the irradiance on a surface facing the key that is the key's own, with its standard deviation.
    pub share: (f64, f64),
    /// Whether the key leads.
    pub leads: bool,
    /// Radiance over the sphere, in the unit of the levels; grey.
    pub map: LightMap,
}

/// What lights and the light from all around come to, the key being the one numbered so. Where the key does not lead, the light
/// is laid out anew over the sphere.
pub(super) fn around(face: &Face, lit: &Lit, key: usize) -> Around {
    let mut map = LightMap::black(ROWS);
    let mut light = vec![lit.ambient / PI; map.len()];
    // what chest and table throw back, brightest straight below
    for (i, l) in light.iter_mut().enumerate() {
        *l += lit.below / PI * (-map.direction(i).y - 0.1).clamp(0.0, 0.5) * 2.0;
    }
    for (lobe, level) in lit.lobes.iter().zip(&lit.level) {
        lay_out(&map, &mut light, &lobe.direction, lobe.half.max(COARSE), *level);
    }
    grey(&mut map, &light);
    let own = lit.level[key];
    let share = own / map.irradiance(&lit.lobes[key].direction).max(1e-12);
    let leads = share > LEADING;
    if !leads {
        let parts = fibonacci_sphere(PARTS);
        light.fill(0.0);
        for (d, level) in parts.iter().zip(face.spread_out(&parts, COARSE, &lit.skin)) {
            lay_out(&map, &mut light, d, COARSE, level);
        }
        grey(&mut map, &light);
    }
    let (mean, _) = map.mean();
    let [across, up] = [0, 1].map(|k| lit.spread[key][k]);
    let long = mean.norm();
    Around {
        mean,
        // the key's own error as far as it makes up the mean
        mean_sd: MEAN_SD.hypot(across.hypot(up).min(0.5)),
        directional_sd: DIRECTIONAL_SD.hypot(LEVEL_SD * long * (1.0 - long)),
        share: (share, share * (1.0 - share) * LEVEL_SD),
        leads,
        map,
    }
}

/// Adds a light of so much facing irradiance to cells.
fn lay_out(map: &LightMap, light: &mut [f64], at: &Vec3, half: f64, level: f64) {
    let weight = |d: &Vec3| 1.0 / (1.0 + ((angle_between(d, at) - half) / (0.25 * half)).exp());
    let facing = |i: usize| {
        let d = map.direction(i);
        weight(&d) * map.solid_angle(i / map.columns()) * d.dot(at).max(0.0)
    };
    let one = level / (0..map.len()).map(facing).sum::<f64>().max(1e-12);
    light.iter_mut().enumerate().for_each(|(i, l)| *l += one * weight(&map.direction(i)));
}

fn grey(map: &mut LightMap, light: &[f64]) {
    map.cells_mut().iter_mut().zip(light).for_each(|(c, l)| *c = [*l as f32; 3]);
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_light_laid_out_gives_its_level_facing_and_its_direction_in_the_mean() {
        for (d, half) in [(Vec3::new(0.3, 0.5, 0.8), 0.35), (Vec3::new(-0.9, 0.1, -0.2), 0.8), (Vec3::y(), 0.5)] {
            let d = d.normalize();
            let mut map = LightMap::black(ROWS);
            let mut light = vec![0.0; map.len()];
            lay_out(&map, &mut light, &d, half, 2.0);
            grey(&mut map, &light);
            assert!((map.irradiance(&d) - 2.0).abs() < 1e-3, "{}", map.irradiance(&d));
            let (mean, _) = map.mean();
            assert!(angle_between(&mean, &d) < 0.05, "{:.3}", angle_between(&mean, &d));
            // a cap of half angle h: its mean cosine is (1 + cos h) / 2, a little less with a soft edge
            assert!((mean.norm() - 0.5 * (1.0 + half.cos())).abs() < 0.12, "{} for {half}", mean.norm());
        }
    }

    #[test]
    fn parts_of_the_sphere_that_are_all_alike_have_no_direction() {
        let mut map = LightMap::black(ROWS);
        let mut light = vec![0.0; map.len()];
        for d in fibonacci_sphere(PARTS) {
            lay_out(&map, &mut light, &d, COARSE, 1.0);
        }
        grey(&mut map, &light);
        assert!(map.mean().0.norm() < 0.02, "{}", map.mean().0.norm());
        // even light of radiance L gives pi L on any surface
        let (_, all) = map.mean();
        for n in [Vec3::x(), Vec3::y(), Vec3::z()] {
            assert!((map.irradiance(&n) / (all / 4.0) - 1.0).abs() < 0.05);
        }
    }
}
