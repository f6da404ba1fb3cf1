//! What a set gives, as far as candidates are judged by it: from the lamps' faces alone, without a picture.

use evidence::readings::Readings;
use lightset::kit::Kit;
use lightset::set::{Glow, Level, LightSet, Outline, SetLight};
use lightset::throw::{OWN_BEAM_DEG, share_of};
use optics::geometry::Vec3;
use planning::rebuild::{Candidates, Draft, Foretold, ForetoldLight, drafts, judge};
use rayon::prelude::*;
use std::collections::BTreeMap;
use studio::{Lamp, lamp, light_of_boards};

/// Light on a surface that faces the source most, at a point.
fn facing(l: &Lamp, p: &Vec3) -> f64 {
    l.irradiance_at(p).0.norm()
}

fn stops(a: f64, b: f64) -> f64 {
    (a.max(1e-9) / b.max(1e-9)).log2()
}

/// Log of the angular radius of what is over a quarter of white over that of what is over four fifths,
/// mirrored in a ball, at a level.
fn feather(l: &Lamp, relative: f64) -> f64 {
    let mut sums = [0.0f64; 2];
    for s in l.glimpses(2048, 11) {
        // a mirror ball hands on nine tenths
        let value = 0.9 * relative * s.radiance;
        for (sum, cut) in sums.iter_mut().zip(direction::spot::CUTS) {
            *sum += if value > cut { s.omega } else { 0.0 };
        }
    }
    if sums[1] > 0.0 { 0.5 * (sums[0] / sums[1]).ln() } else { 1.5 }
}

/// What a level in stops is in linear light; 1 for one that is told otherwise.
pub(crate) fn relative(l: &SetLight) -> f64 {
    match l.level {
        Level::Stops { stops } => stops.exp2(),
        _ => 1.0,
    }
}

/// Stops at the subject against the bare lamp in its own reflector at 1 m, by the flux that leaves it.
fn cost(l: &SetLight, facing: f64) -> f64 {
    // flux over axial intensity of a lamp in a common reflector of 65 degrees
    let own = optics::beam::beam_sr(OWN_BEAM_DEG);
    // irradiance for a face of radiance 1
    let e = std::f64::consts::PI * facing;
    let area = std::f64::consts::PI / 4.0;
    if l.source.is_window() {
        return f64::NAN;
    }
    let about = l.source.about();
    let [w, h] = about.outline.size_m();
    let face = w * h * if about.outline.is_straight() { 1.0 } else { area };
    let leaves = match (about.outline, about.glow) {
        (Outline::Ball(_), _) => own / (4.0 * std::f64::consts::PI),
        (Outline::Tube(..), _) | (_, Glow::Beam(_)) => 1.0,
        // what lies outside its beam stays in the grid
        (_, Glow::Spot(beam_deg, _)) => (optics::beam::beam_sr(beam_deg) / own).min(1.0).sqrt(),
        _ => share_of(&l.source, OWN_BEAM_DEG) * own / std::f64::consts::PI,
    };
    (e / face * leaves).log2()
}

fn foretell_light(l: &Lamp, source: &SetLight) -> ForetoldLight {
    let level = relative(source);
    let (flux, omega) = l.irradiance_at(&Vec3::zeros());
    let here = flux.norm();
    let direction = if here > 1e-9 { flux / here } else { Vec3::z() };
    let behind = l.irradiance_at(&Vec3::new(0.0, 0.0, -1.5)).0.z.max(0.0);
    // light that comes past a level card one metre square half a metre up
    let mut shaded = 0.0f64;
    let mut open = 0.0f64;
    for s in l.glimpses(1024, 9) {
        let w = s.radiance * s.omega;
        open += w;
        let t = 0.5 / s.direction.y;
        let beside = |v: f64| (v * t).abs() < 0.5;
        let under = s.direction.y > 0.0 && beside(s.direction.x) && beside(s.direction.z) && t < s.distance;
        if !under {
            shaded += w;
        }
    }
    let shape = optics::geometry::shape_of_directions(&l.bright_directions());
    ForetoldLight {
        direction,
        size: optics::geometry::angular_size_of_solid_angle(omega),
        aspect: shape.map_or(0.0, |s| s.0.ln()),
        corners: shape.map_or(0.0, |s| s.1),
        feather: feather(l, level),
        hot: l.middle_over_edge(),
        // outside a narrow beam nothing is left to meter
        nearer: stops(facing(l, &(direction * 0.3)), here).clamp(-4.0, 4.0),
        lower: stops(here, facing(l, &Vec3::new(0.0, -0.6, 0.0))).clamp(-4.0, 4.0),
        behind: stops(behind, here).max(-6.0),
        cost: cost(source, l.facing()),
        dark: if source.source.is_window() { 0.0 } else { 9.0 },
        card: stops(open, shaded).min(6.0),
    }
}

/// What a set gives.
pub fn foretell(set: &LightSet) -> Foretold {
    let lamps: Vec<Lamp> = set.lights.iter().map(lamp).collect();
    let lights = lamps.iter().zip(&set.lights).map(|(l, s)| foretell_light(l, s)).collect();
    let key = set.lights.first().map_or(1.0, relative);
    let level: Vec<f64> = set.lights.iter().map(|l| relative(l) / key).collect();
    let boards = light_of_boards(set, &level);
    let boards = boards.into_iter().map(|b| (stops(b.irradiance, 1.0), b.direction)).collect();
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
