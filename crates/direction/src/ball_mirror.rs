//! A mirror ball: each highlight is the picture of a light; its place gives the direction, its
//! solid angle the size. `L = 2 (N.V) N - V` with the true view ray.

use super::blobs::{Blob, Search, Signal, find};
use super::outline::{Refined, refine_circle};
use super::shapes::Ellipse;
use super::{Seen, by_hand_px, strongest, too_faint};
use optics::geometry::{Camera, SeenSphere, Vec3, angle_between, angular_size_of_solid_angle, reflect};
use optics::photo::Photo;
use std::f64::consts::PI;

/// Ball radius over light distance, mean and spread: a probe of 5 to 10 cm across, lights at one to
/// four metres (common practice).
const NEAR: (f64, f64) = (0.014, 0.008);

/// What a mirror ball says.
#[derive(Debug, Clone)]
pub struct MirrorReading {
    /// Lights with the highlight each was read from, strongest first.
    pub lights: Vec<(Seen, Blob)>,
    /// The outline used.
    pub outline: Refined,
}

/// Reads a mirror ball marked by its outline. An empty list means that no highlight stands out.
pub fn read(photo: &Photo, camera: Camera, centre: [f64; 2], radius: f64) -> MirrorReading {
    let outline = refine_circle(photo, centre, radius);
    let e = outline.ellipse;
    let sphere = SeenSphere::from_silhouette(camera, e.centre, e.rx);
    let search =
        Search { signal: Signal::Luminance, smooth: 0, lowest_stops: -9.0, most: 6, contrast: 0.5, max_border: 0.9 };
    let blobs = find(photo, e.centre, e.rx, |x, y| e.level(x, y), search);
    let shifted = |dx: f64, dr: f64| SeenSphere::from_silhouette(camera, [e.centre[0] + dx, e.centre[1]], e.rx + dr);
    // before an equally bright room the outline cannot be seen: it lies where a hand put it
    let sd_px = if outline.support > 0.0 { outline.sd_px } else { outline.sd_px.max(by_hand_px(photo)) };
    let d = 0.5;
    let variants = [shifted(d, 0.0), shifted(0.0, d)];
    let mut lights: Vec<(Seen, Blob)> = blobs
        .into_iter()
        .filter(|b| !is_outline(photo, &e, b))
        .filter_map(|b| {
            let seen = mapped_back(&b, &sphere, |_| 1.0)?;
            let var: f64 = variants
                .iter()
                .enumerate()
                .filter_map(|(i, s)| s.mirrored(b.centre[0], b.centre[1]).zip(Some(i)))
                .filter_map(|(m, i)| {
                    let base = sphere.mirrored(b.centre[0], b.centre[1])?;
                    // a shift can go two ways, a radius one
                    let ways = if i == 0 { 2.0 } else { 1.0 };
                    Some(ways * (angle_between(&m, &base) / d * sd_px).powi(2))
                })
                .sum();
            let centroid = centroid_error(&b, e.rx);
            // The light is at a finite distance and seen from the highlight, not the centre.
            let (n, _) = sphere.normal_and_view(b.centre[0], b.centre[1])?;
            let parallax = NEAR.1 * angle_between(&n, &seen.direction).sin();
            let direction = (seen.direction + n * NEAR.0).normalize();
            let sd = (var + 2.0 * centroid * centroid + parallax * parallax + 0.001f64.powi(2)).sqrt();
            Some((Seen { direction, direction_sd: sd, ..seen }, b))
        })
        .collect();
    if let Some(top) = strongest(lights.iter().map(|l| &l.0)) {
        lights.retain(|l| !too_faint(&l.0, top));
    }
    MirrorReading { lights, outline }
}

/// How near the outline a spot is that a pixel across it can be, and how far outside it what lies behind is looked at, pixels.
const ON_OUTLINE: f64 = 1.0;
const OUTSIDE: f64 = 2.5;

/// Whether a spot is no picture of a light but a pixel that the outline cuts, which has its part of what lies behind the ball: no
/// brighter than that.
fn is_outline(photo: &Photo, e: &Ellipse, b: &Blob) -> bool {
    let level = e.level(b.centre[0], b.centre[1]);
    if (1.0 - level) * e.rx.min(e.ry) > ON_OUTLINE || level < 1e-6 {
        return false;
    }
    let out = (1.0 + OUTSIDE / e.rx.min(e.ry)) / level;
    let at = [0, 1].map(|k| e.centre[k] + (b.centre[k] - e.centre[k]) * out);
    photo.luminance_between(at[0], at[1]).is_none_or(|behind| b.height <= behind)
}

/// Error of a spot's centre as an angle of the mirrored direction: two over the radius turns pixels
/// into mirrored angle.
pub(super) fn centroid_error(b: &Blob, radius_px: f64) -> f64 {
    b.centre_sd * 2.0 / radius_px
}

/// Direction, size and level of the source of a highlight, by mapping its pixels back.
/// `reflectance` gives the share mirrored at a normal's angle to the view.
pub(super) fn mapped_back(b: &Blob, sphere: &SeenSphere, reflectance: impl Fn(f64) -> f64) -> Option<Seen> {
    let mut sum = Vec3::zeros();
    let mut omega = 0.0;
    for &(x, y, c) in &b.pixels {
        if let Some(l) = sphere.mirrored(x as f64 + 0.5, y as f64 + 0.5) {
            let w = c * sphere.mirrored_solid_angle(x as f64, y as f64);
            sum += l * w;
            omega += w;
        }
    }
    if omega <= 0.0 {
        return None;
    }
    let (n, v) = sphere.normal_and_view(b.centre[0], b.centre[1])?;
    // A small spot's direction is best read at its centre, a large one's as the mean of its parts.
    let direction = if b.area < 30.0 { reflect(&v, &n) } else { sum.normalize() };
    let omega = (omega * b.area_factor).min(2.0 * PI);
    let size = angular_size_of_solid_angle(omega);
    let size_sd = b.log_radius_sd.hypot(0.015).min(1.2);
    let radiance = b.height / reflectance(n.dot(&v));
    let facing = PI * radiance * (size / 2.0).sin().powi(2);
    let (over, over_sd) = b.log_over;
    let level_sd = (2.0 * size_sd).hypot(0.08).hypot(over_sd);
    Some(Seen {
        direction,
        direction_sd: 0.0,
        log_size: Some((size.ln(), size_sd)),
        log_level: Some((facing.max(1e-12).ln() + over, level_sd)),
        rgb: (!b.clipped).then_some(b.rgb),
    })
}
