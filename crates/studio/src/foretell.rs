//! What a set gives, as far as candidates are judged by it: from the lamps' faces alone, without a picture.

use crate::emitter::Emitter;
use crate::math::{V, point};
use crate::scene::{Lamp, Scene, bright_directions, lamp, vector_irradiance};
use crate::trace::bounce_of;
use light::geometry::Vec3;
use light::kit::Kit;
use light::readings::Readings;
use light::rebuild::{Candidates, Draft, Foretold, ForetoldLight, drafts, judge};
use light::set::{Level, LightSet, SetLight, Source};
use rayon::prelude::*;
use std::collections::BTreeMap;

/// Light on a surface that faces the source most, at a point.
fn facing(l: &Lamp, p: &V) -> f64 {
    f64::from(vector_irradiance(&l.faces, p).0.norm())
}

fn stops(a: f64, b: f64) -> f64 {
    (a.max(1e-9) / b.max(1e-9)).log2()
}

/// Log of the angular radius of what is over a quarter of white over that of what is over four fifths,
/// mirrored in a ball, at a level.
fn feather(l: &Lamp, relative: f32) -> f64 {
    let mut sums = [0.0f64; 2];
    for f in &l.faces {
        for i in 0..2048 {
            let (a, b) = point(i, 11);
            if let Some(s) = f.draw(&V::zeros(), a, b) {
                // a mirror ball hands on nine tenths
                let value = f64::from(0.9 * relative * s.radiance);
                for (sum, cut) in sums.iter_mut().zip(light::direction::spot::CUTS) {
                    *sum += if value > cut { f64::from(s.omega) } else { 0.0 };
                }
            }
        }
    }
    if sums[1] > 0.0 { 0.5 * (sums[0] / sums[1]).ln() } else { 1.5 }
}

fn relative(l: &SetLight) -> f32 {
    match l.level {
        Level::Stops { stops } => stops.exp2() as f32,
        _ => 1.0,
    }
}

/// Stops at the subject against the bare lamp in its own reflector at 1 m, by the flux that leaves it.
fn cost(l: &SetLight, facing: f32) -> f64 {
    // flux over axial intensity of a lamp in a common reflector of 65 degrees
    let own = light::bench::beam_sr(65.0);
    // irradiance for a face of radiance 1
    let e = std::f64::consts::PI * f64::from(facing);
    let area = std::f64::consts::PI / 4.0;
    let (face, leaves) = match &l.source {
        Source::Window { .. } => return f64::NAN,
        Source::Dish { diameter_m, .. } => (area * diameter_m * diameter_m, 1.0),
        // what lies outside its beam stays in the grid
        Source::Spot { diameter_m, beam_deg, .. } => {
            (area * diameter_m * diameter_m, (light::bench::beam_sr(*beam_deg) / own).min(1.0).sqrt())
        }
        Source::Bare { diameter_m } => (area * diameter_m * diameter_m, own / (4.0 * std::f64::consts::PI)),
        Source::Tube { length_m, diameter_m } => (length_m * diameter_m, 1.0),
        other => {
            let share = light::build::share_of(other);
            (
                other.area_m2() * if matches!(other, Source::Rectangle { .. }) { 1.0 } else { area },
                share * own / std::f64::consts::PI,
            )
        }
    };
    (e / face * leaves).log2()
}

fn foretell_light(l: &Lamp, source: &SetLight) -> ForetoldLight {
    let level = relative(source);
    let origin = V::zeros();
    let (flux, omega) = vector_irradiance(&l.faces, &origin);
    let here = f64::from(flux.norm());
    let direction = if here > 1e-9 { (flux / flux.norm()).cast::<f64>() } else { Vec3::new(0.0, 0.0, 1.0) };
    let dir = direction.cast::<f32>();
    let behind = {
        let (there, _) = vector_irradiance(&l.faces, &V::new(0.0, 0.0, -1.5));
        f64::from(there.z.max(0.0))
    };
    // light that comes past a level card one metre square half a metre up
    let mut shaded = 0.0f64;
    let mut open = 0.0f64;
    for f in &l.faces {
        for i in 0..1024 {
            let (a, b) = point(i, 9);
            if let Some(s) = f.draw(&origin, a, b) {
                let w = f64::from(s.radiance * s.omega);
                open += w;
                let t = 0.5 / s.d.y;
                let under = s.d.y > 0.0 && (s.d.x * t).abs() < 0.5 && (s.d.z * t).abs() < 0.5 && t < s.distance;
                if !under {
                    shaded += w;
                }
            }
        }
    }
    let shape = light::geometry::shape_of_directions(&bright_directions(&l.faces));
    ForetoldLight {
        direction,
        size: light::geometry::angular_size_of_solid_angle(f64::from(omega)),
        aspect: shape.map_or(0.0, |s| s.0.ln()),
        corners: shape.map_or(0.0, |s| s.1),
        feather: feather(l, level),
        hot: l.faces.first().map_or(0.0, Emitter::middle_over_edge),
        // outside a narrow beam nothing is left to meter
        nearer: stops(facing(l, &(dir * 0.3)), here).clamp(-4.0, 4.0),
        lower: stops(here, facing(l, &V::new(0.0, -0.6, 0.0))).clamp(-4.0, 4.0),
        behind: stops(behind, here).max(-6.0),
        cost: cost(source, l.facing),
        dark: if matches!(source.source, Source::Window { .. }) { 0.0 } else { 9.0 },
        card: stops(open, shaded).min(6.0),
    }
}

/// What a set gives.
pub fn foretell(set: &LightSet) -> Foretold {
    let lamps: Vec<Lamp> = set.lights.iter().map(lamp).collect();
    let lights = lamps.iter().zip(&set.lights).map(|(l, s)| foretell_light(l, s)).collect();
    let mut boards = Vec::new();
    if !set.boards.is_empty() && !lamps.is_empty() {
        // boards alone: what walls hand on is the room's
        let bare = LightSet { subjects: Vec::new(), walls: Vec::new(), flags: Vec::new(), ..set.clone() };
        let scene = Scene::new(&bare);
        let all: Vec<_> = lamps.iter().map(|l| bounce_of(&scene, Some(l))).collect();
        let key = set.lights.first().map_or(1.0, relative);
        for (i, q) in scene.quads.iter().enumerate() {
            let lit = |(b, l): (&crate::trace::Bounce, &light::set::SetLight)| {
                let grid = b[i].as_ref()?;
                Some(grid.values.iter().sum::<f32>() / grid.values.len() as f32 * relative(l) / key)
            };
            let mean: f32 = all.iter().zip(&set.lights).filter_map(lit).sum();
            let d = q.centre.norm();
            let cos = (-q.centre.dot(&q.n) / d).max(0.0);
            // silver hands on about five times what a white board of its size does towards one side
            let share = q.matte()[1] + q.gloss().map_or(0.0, |(k, _)| 3.0 * k[1]);
            let e = f64::from(share * mean * q.area() * cos / (std::f32::consts::PI * d * d));
            boards.push((stops(e, 1.0), q.centre.cast::<f64>() / f64::from(d)));
        }
    }
    Foretold { lights, boards }
}

/// Sets that could have made the picture, judged by what they give. `base` is the staged set of the
/// reading; `outcomes` are readings of tests made so far.
pub fn candidates(r: &Readings, base: &LightSet, kit: &Kit, outcomes: &BTreeMap<String, f64>) -> Candidates {
    let (seen, list) = drafts(r, base, kit);
    if list.is_empty() {
        let problem = if seen.is_empty() {
            "No light has been read: mark something in Read first."
        } else {
            "The kit holds nothing that could make these lights: add lamps and modifiers in Kit."
        };
        return Candidates { problems: vec![problem.into()], ..Candidates::default() };
    }
    let traced: Vec<(Draft, Foretold)> = list
        .into_par_iter()
        .map(|d| {
            let f = foretell(&d.set);
            (d, f)
        })
        .collect();
    judge(&seen, traced, outcomes)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_far_small_lamp_loses_by_the_inverse_square() {
        let set = LightSet::parse(
            r#"{"format":"slant-set/1","camera":{"position_m":[0,0,2],"exposure":{"f_number":8,"shutter_s":0.01,"iso":100}},
            "lights":[{"name":"key","azimuth_deg":30,"elevation_deg":0,"distance_m":3,"source":{"kind":"disc","diameter_m":0.1},"level":{"stops":0}}]}"#,
        )
        .expect("a set")
        .set;
        let f = foretell(&set);
        let want = 2.0 * (3.0f64 / 2.7).log2();
        assert!((f.lights[0].nearer - want).abs() < 0.02, "{} {want}", f.lights[0].nearer);
        assert!(f.lights[0].card < 0.01);
    }
}
