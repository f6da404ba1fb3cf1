//! How light thins out with distance, and how large sources are as seen from the subject.

use crate::geometry::Vec3;
use crate::units::Metres;
use std::f64::consts::PI;

/// Irradiance from a uniform disc of radiance `radiance` (W/sr/m^2) on a facing element on its
/// axis: `E = pi L r^2 / (r^2 + d^2)` (differential element to coaxial parallel disc, configuration
/// factor B-13 of Howell's catalogue; from memory).
pub fn irradiance_from_disc(radiance: f64, radius: Metres, distance: Metres) -> f64 {
    PI * radiance * radius.0.powi(2) / (radius.0.powi(2) + distance.0.powi(2))
}

/// Irradiance at `point` with unit normal `normal` from a uniform polygon given by its corners,
/// by Lambert's edge sum `E = (L / 2) sum Theta_i (Gamma_i . n)` (Lambert 1760; Arvo 1995).
/// The polygon is clipped at the receiver's horizon. Either winding is accepted.
pub fn irradiance_from_polygon(radiance: f64, corners: &[Vec3], point: &Vec3, normal: &Vec3) -> f64 {
    let rel: Vec<Vec3> = corners.iter().map(|c| c - point).collect();
    let clipped = clip_at_horizon(&rel, normal);
    if clipped.len() < 3 {
        return 0.0;
    }
    let mut sum = 0.0;
    for i in 0..clipped.len() {
        let a = clipped[i].normalize();
        let b = clipped[(i + 1) % clipped.len()].normalize();
        let cross = a.cross(&b);
        let len = cross.norm();
        if len > 1e-15 {
            let theta = len.atan2(a.dot(&b));
            sum += theta * cross.dot(normal) / len;
        }
    }
    (radiance / 2.0 * sum).abs()
}

/// Irradiance of a sheet `aside` of the middle of an even lamp of `size` (across and along) that lies parallel to it, `gap` behind,
/// against that in the middle; by [`irradiance_from_polygon`].
pub fn lamp_on_sheet(aside: Metres, gap: Metres, size: [f64; 2]) -> f64 {
    let [x, y] = [size[0] / 2.0, size[1] / 2.0];
    let corners = [[-x, -y], [x, -y], [x, y], [-x, y]].map(|[a, b]| Vec3::new(a, b, gap.0));
    let at = |x: f64| irradiance_from_polygon(1.0, &corners, &Vec3::new(x, 0.0, 0.0), &Vec3::z());
    at(aside.0) / at(0.0)
}

/// How far from a lamp's middle the sheet before it has fallen to `share` of its middle, metres.
pub fn lamp_falls_to(share: f64, gap: Metres, size: [f64; 2]) -> Metres {
    let (mut lo, mut hi) = (0.0, size[0] + 20.0 * gap.0);
    // to a ten thousandth
    for _ in 0..20 {
        let mid = (lo + hi) / 2.0;
        if lamp_on_sheet(Metres(mid), gap, size) > share { lo = mid } else { hi = mid }
    }
    Metres((lo + hi) / 2.0)
}

fn clip_at_horizon(corners: &[Vec3], normal: &Vec3) -> Vec<Vec3> {
    let mut out = Vec::with_capacity(corners.len() + 1);
    for i in 0..corners.len() {
        let (a, b) = (corners[i], corners[(i + 1) % corners.len()]);
        let (ha, hb) = (a.dot(normal), b.dot(normal));
        if ha >= 0.0 {
            out.push(a);
        }
        if (ha > 0.0 && hb < 0.0) || (ha < 0.0 && hb > 0.0) {
            out.push(a + (b - a) * (ha / (ha - hb)));
        }
    }
    out
}

/// Solid angle in steradian of an `a` by `b` rectangle on its axis at distance `d`:
/// `4 asin(a b / sqrt((a^2 + 4 d^2)(b^2 + 4 d^2)))`.
pub fn solid_angle_of_rectangle(a: Metres, b: Metres, d: Metres) -> f64 {
    let (a, b, d) = (a.0, b.0, d.0);
    4.0 * (a * b / ((a * a + 4.0 * d * d) * (b * b + 4.0 * d * d)).sqrt()).asin()
}

/// Full angle in radians of a disc of the given diameter on its axis.
pub fn angle_of_disc(diameter: Metres, distance: Metres) -> f64 {
    2.0 * (diameter.0 / 2.0 / distance.0).atan()
}

/// Distance at which a disc of the given diameter fills the full angle `a` radians.
pub fn distance_for_angle(diameter: Metres, a: f64) -> Metres {
    Metres(diameter.0 / 2.0 / (a / 2.0).tan())
}

/// Irradiance on a surface from a uniform disc source of half angle `half` radians whose centre
/// stands at `cos_theta` to the normal, relative to the same source facing the surface. Exact also
/// when the disc sinks below the horizon.
///
/// Closed form for a spherical cap partly under the horizon (Lagarde & de Rousiers 2014, listing
/// 7, after Martinez-Verde; from memory; checked against numerical integration in the tests).
pub fn disc_lobe(cos_theta: f64, half: f64) -> f64 {
    let half = half.min(0.499 * PI);
    let s2 = half.sin().powi(2);
    if s2 < 1e-10 {
        return cos_theta.max(0.0);
    }
    let c = cos_theta.clamp(-1.0, 1.0);
    if c * c > s2 {
        return c.max(0.0);
    }
    let sin = (1.0 - c * c).max(1e-12).sqrt();
    let x = (1.0 / s2 - 1.0).sqrt();
    let y = (-x * c / sin).clamp(-1.0, 1.0);
    let sy = sin * (1.0 - y * y).sqrt();
    let e = (c * y.acos() - x * sy) * s2 + (sy / x).atan();
    (e / (PI * s2)).max(0.0)
}
