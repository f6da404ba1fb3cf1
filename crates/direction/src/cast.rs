//! A cast shadow on a level plane: from the tip of the shadow to the top of what casts it.
//!
//! Camera geometry puts foot and tip of the shadow on the plane; the top stands plumb over the foot,
//! as high as its image says. The direction needs no scale. A camera that looks level from afar sees
//! the plane edge on: then nothing can be told, and the problem says what is missing.

use crate::{by_hand_px, penumbra};
use optics::geometry::{Camera, Vec3, angle_between};
use optics::photo::Photo;

/// What a cast shadow says.
#[derive(Debug, Clone, Copy)]
pub struct CastReading {
    /// Unit vector to the light in the camera frame.
    pub direction: Vec3,
    /// Root mean square angle in radians between this and the true direction.
    pub direction_sd: f64,
    /// Height of the object over the camera's height above the plane.
    pub relative_height: f64,
}

/// Why a shadow could not be read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum CastProblem {
    /// Tip and top coincide.
    #[error("the shadow's tip lies on what casts it: there is nothing to measure")]
    Short,
    /// The camera is not known.
    #[error("a shadow on the floor needs the camera's field of view and tilt; enter them, or mark a ball or an eye")]
    NoCamera,
    /// A point lies at or over the horizon.
    #[error("the foot or the tip of the shadow lies at or above the horizon: check the marks and the camera's tilt")]
    Horizon,
    /// Foot, top and tip do not make a shadow.
    #[error("foot and top are the same point: mark an object that stands on the plane")]
    Flat,
}

/// Where a soft shadow ends is judged to this share of its edge, from full light to full shadow.
const SOFT_SD: f64 = 0.2;
/// A shadow's end is looked for so far on either side of its tip, shares of its length: less where the picture ends.
const END_REACH: [f64; 3] = [0.5, 0.3, 0.15];
/// Camera tilt is known to this many radians.
const TILT_SD: f64 = 0.006;

/// What a shadow and a side say together.
#[derive(Debug, Clone, Copy)]
pub struct SideReading {
    /// How far the lens looks down, radians.
    pub tilt: f64,
    /// Its standard deviation, radians.
    pub tilt_sd: f64,
    /// Unit vector to the light in the camera frame.
    pub direction: Vec3,
    /// Root mean square angle in radians between this and the true direction.
    pub direction_sd: f64,
}

/// How far lenses look down on a table, and its spread, radians (common practice: from 5 degrees to 35, seldom from above), and
/// steps in which it is tried.
const USUAL_TILT: (f64, f64) = (0.3, 0.35);
const TILT_STEPS: usize = 240;
/// Where no tilt is more probable than this of the best there could be, side and shadow are not of one light.
const UNLIKELY: f64 = 0.002;
/// Tilts of a lens that looks down on a table, and heights of a light that casts a shadow to be marked, radians.
const TILTS: std::ops::Range<f64> = 0.05..1.4;
const HEIGHTS: std::ops::Range<f64> = 0.05..1.48;
/// Marks of a foot, a top and a soft tip lie within this many pixels where nothing else is known.
const SIDE_MARK_SD_PX: f64 = 1.5;
/// Least spread of a direction made so, radians.
const LEAST_SD: f64 = 0.03;

/// Foot, top and tip in pixels.
#[derive(Debug, Clone, Copy)]
pub struct CastPoints {
    /// Foot of the object on the plane.
    pub base: [f64; 2],
    /// Its top, plumb over the foot.
    pub top: [f64; 2],
    /// Where the shadow of the top falls.
    pub tip: [f64; 2],
}

/// How well foot, top and tip are known, pixels (one standard deviation).
#[derive(Debug, Clone, Copy)]
pub struct PointsSd {
    /// Each coordinate of them.
    pub mark: f64,
    /// Besides, how far along the shadow its tip may lie: a soft one ends nowhere in particular.
    pub soft: f64,
}

impl PointsSd {
    /// Marks by hand in a picture, and how soft the shadow ends there.
    pub fn of(photo: &Photo, p: &CastPoints) -> PointsSd {
        let mark = by_hand_px(photo);
        let along = [p.tip[0] - p.base[0], p.tip[1] - p.base[1]];
        let at = |s: f64| [p.tip[0] + s * along[0], p.tip[1] + s * along[1]];
        let mut ends = END_REACH.iter().map(|r| penumbra::read(photo, at(-r), at(*r), None, None));
        let soft = ends.find_map(Result::ok).map_or(0.0, |e| SOFT_SD * e.width_px);
        PointsSd { mark, soft }
    }
}

/// Reads a shadow; `known` says whether the camera is more than assumed.
///
/// # Errors
/// A [`CastProblem`] that says why nothing can be told.
pub fn read(camera: Camera, known: bool, p: CastPoints, sd: PointsSd) -> Result<CastReading, CastProblem> {
    if !known {
        return Err(CastProblem::NoCamera);
    }
    let (set_direction, relative_height) = solve(camera, p)?;
    let back = Camera { pitch: -camera.pitch, ..camera };
    let direction = back.to_set(&set_direction);
    // Numeric sensitivities to each coordinate and to the tilt.
    let moved =
        |camera: Camera, p: CastPoints| solve(camera, p).map_or(0.2, |(d, _)| angle_between(&d, &set_direction));
    let mut var = moved(Camera { pitch: camera.pitch + TILT_SD, ..camera }, p).powi(2);
    for i in 0..2 {
        for which in 0..3 {
            let mut q = p;
            [&mut q.base, &mut q.top, &mut q.tip][which][i] += sd.mark;
            var += moved(camera, q).powi(2);
        }
    }
    let [x, y] = [p.tip[0] - p.base[0], p.tip[1] - p.base[1]];
    let per_px = sd.soft / x.hypot(y).max(1.0);
    // a soft tip is as likely nearer as farther; nearer turns the light up more
    let ends = [-per_px, per_px].map(|s| moved(camera, CastPoints { tip: [p.tip[0] + s * x, p.tip[1] + s * y], ..p }));
    var += ends.iter().map(|e| e * e).sum::<f64>() / 2.0;
    Ok(CastReading { direction, direction_sd: var.sqrt().hypot(0.002), relative_height })
}

/// Where round the picture the light lies, on whatever the shadow falls: seen from afar, the line from the shadow's tip
/// to what casts it is the picture of the ray. Unit vector right and up, with the standard deviation of its angle.
///
/// # Errors
/// [`CastProblem::Short`] if tip and top are too close.
pub fn round_picture(p: CastPoints, sd: PointsSd) -> Result<([f64; 2], f64), CastProblem> {
    let (dx, dy) = (p.top[0] - p.tip[0], p.tip[1] - p.top[1]);
    let l = dx.hypot(dy);
    if l < 4.0 {
        return Err(CastProblem::Short);
    }
    // which point casts the tip is itself a judgement
    Ok(([dx / l, dy / l], ((2.0f64.sqrt() * sd.mark) / l).hypot(0.06)))
}

/// Direction in the set frame and relative height.
fn solve(camera: Camera, p: CastPoints) -> Result<(Vec3, f64), CastProblem> {
    let ray = |q: [f64; 2]| camera.to_set(&-camera.view(q[0], q[1]));
    // the camera stands one unit over the plane
    let ground = |q: [f64; 2]| {
        let d = ray(q);
        (d.y < -1e-3).then(|| d / -d.y)
    };
    let (Some(base), Some(tip)) = (ground(p.base), ground(p.tip)) else { return Err(CastProblem::Horizon) };
    // the point of the plumb line over the foot nearest to the ray of the top
    let d = ray(p.top);
    let across = d.x * d.x + d.z * d.z;
    if across < 1e-12 {
        return Err(CastProblem::Flat);
    }
    let t = (d.x * base.x + d.z * base.z) / across;
    let height = t * d.y - base.y;
    if height < 1e-3 {
        return Err(CastProblem::Flat);
    }
    let top = base + Vec3::y() * height;
    Ok(((top - tip).normalize(), height))
}

/// A shadow on a level plane whose light comes from a known side about the plumb line, as a bright line on an upright glossy
/// thing beside it or its shading tells: how far the lens looks down, and the light's direction, of a far camera of which nothing
/// is known.
///
/// Image right is `X` and image up `h cos t - Z sin t` for a point at `X` to the right, `Z` towards the camera and `h` over the
/// plane, the lens looking down by `t` (orthographic projection); the shadow lies along `-(sin a, cos a)` in `(X, Z)`. So each
/// tilt makes a side and a height of the marks; how probable it is says the side that is known, `azimuth` in radians from the
/// lens axis, positive to image right, with its spread, and how far lenses look down on tables. The direction is the mean over
/// the tilts. `None` if no tilt fits.
pub fn from_side(p: CastPoints, azimuth: f64, azimuth_sd: f64) -> Option<SideReading> {
    let mean = |p: CastPoints| -> Option<([f64; 2], Vec3, f64)> {
        let (u, v) = (p.tip[0] - p.base[0], p.base[1] - p.tip[1]);
        let tall = (p.top[0] - p.base[0]).hypot(p.top[1] - p.base[1]);
        if tall < 1.0 {
            return None;
        }
        let (mut sum, mut all, mut tilts) = (0.0, Vec3::zeros(), 0.0);
        let mut each = Vec::new();
        for k in 0..=TILT_STEPS {
            let t = TILTS.start + (TILTS.end - TILTS.start) * k as f64 / TILT_STEPS as f64;
            let (x, z) = (-u, v / t.sin());
            let a = x.atan2(z);
            let height = (tall / t.cos()).atan2(x.hypot(z));
            if !HEIGHTS.contains(&height) {
                continue;
            }
            let off = (a - azimuth).sin().atan2((a - azimuth).cos()) / azimuth_sd;
            let usual = (t - USUAL_TILT.0) / USUAL_TILT.1;
            let w = (-0.5 * (off * off + usual * usual)).exp();
            let level = Vec3::new(height.cos() * a.sin(), height.sin(), height.cos() * a.cos());
            let d = Camera { pitch: t, ..Camera::far(100, 100) }.from_set(&level);
            sum += w;
            all += d * w;
            tilts += t * w;
            each.push((d, w, t));
        }
        if each.iter().all(|e| e.1 < UNLIKELY) {
            return None;
        }
        let middle = all.try_normalize(1e-12)?;
        let var = each.iter().map(|(d, w, _)| w * angle_between(d, &middle).powi(2)).sum::<f64>() / sum;
        let tilt = tilts / sum;
        let tilt_sd = (each.iter().map(|(_, w, t)| w * (t - tilt).powi(2)).sum::<f64>() / sum).sqrt();
        Some(([tilt, tilt_sd], middle, var))
    };
    let ([tilt, tilt_sd], direction, mut var) = mean(p)?;
    let off = |p: CastPoints| mean(p).map_or(0.3, |(_, d, _)| angle_between(&d, &direction));
    for k in 0..2 {
        let moved = |mut q: [f64; 2]| {
            q[k] += SIDE_MARK_SD_PX;
            q
        };
        var += off(CastPoints { tip: moved(p.tip), ..p }).powi(2);
        var += off(CastPoints { base: moved(p.base), ..p }).powi(2);
        var += off(CastPoints { top: moved(p.top), ..p }).powi(2);
    }
    Some(SideReading { tilt, tilt_sd, direction, direction_sd: var.sqrt().max(LEAST_SD) })
}

#[cfg(test)]
mod tests {
    use super::*;
    use optics::geometry::AzEl;

    /// Where a camera far away that looks down by `tilt` sees the shadow of a post, in perspective: 40 times as far as it is high.
    fn seen(tilt: f64, az: f64, el: f64) -> CastPoints {
        let (h, far) = (1.0, 40.0);
        let long = h / el.tan();
        let (s, c) = tilt.sin_cos();
        let px = |x: f64, y: f64, z: f64| {
            // the lens stands at `far` along its axis from the post's foot
            let (up, depth) = (y * c - z * s, far - (z * c + y * s));
            [300.0 + 6000.0 * x / depth, 300.0 - 6000.0 * up / depth]
        };
        CastPoints { base: px(0.0, 0.0, 0.0), top: px(0.0, h, 0.0), tip: px(-long * az.sin(), 0.0, -long * az.cos()) }
    }

    #[test]
    fn a_side_and_a_shadow_tell_tilt_and_height() {
        for (tilt, az, el) in [(20.0, 40.0, 35.0), (12.0, -60.0, 50.0), (35.0, 120.0, 40.0), (50.0, -140.0, 25.0)] {
            let [t, a, e] = [tilt, az, el].map(f64::to_radians);
            let r = from_side(seen(t, a, e), a, 0.05).unwrap();
            assert!((r.tilt - t).abs() < 2.0 * r.tilt_sd.max(0.01), "{} for {t} ± {}", r.tilt, r.tilt_sd);
            assert!((r.tilt - t).abs() < 0.04, "tilt {:.1} for {tilt}", r.tilt.to_degrees());
            let level = Camera { pitch: t, ..Camera::far(10, 10) }.to_set(&r.direction);
            let at = AzEl::of(&level);
            assert!((at.elevation_deg - el).abs() < 3.0 && (at.azimuth_deg - az).abs() < 3.0, "{at:?} for {az}/{el}");
            assert!(r.direction_sd >= LEAST_SD && r.direction_sd < 0.5, "{}", r.direction_sd);
            // a side that is wrong by its spread moves it within the stated one
            if let Some(off) = from_side(seen(t, a, e), a + 0.05, 0.05) {
                assert!(angle_between(&off.direction, &r.direction) < 1.6 * r.direction_sd);
            }
        }
    }

    #[test]
    fn a_light_along_the_lens_is_told_by_how_lenses_look_down() {
        // no tilt follows from such a side: the usual ones are held against it, and the spread says so
        let (t, a, e) = (0.35, 0.05, 0.7);
        let r = from_side(seen(t, a, e), a, 0.1).unwrap();
        let truth = Camera { pitch: t, ..Camera::far(10, 10) }.from_set(&Vec3::new(
            f64::cos(e) * a.sin(),
            e.sin(),
            f64::cos(e) * a.cos(),
        ));
        assert!(angle_between(&r.direction, &truth) < 2.0 * r.direction_sd, "{r:?}");
        assert!(r.tilt_sd > 0.1 && r.direction_sd > 0.08, "{r:?}");
    }

    #[test]
    fn a_side_that_cannot_cast_the_shadow_is_none() {
        let p = seen(0.35, 0.7, 0.6);
        assert!(from_side(p, -0.7, 0.05).is_none(), "light and shadow on one side");
        assert!(from_side(p, 2.4, 0.05).is_none(), "from behind a shadow that falls away");
        assert!(from_side(CastPoints { tip: p.base, ..p }, 0.7, 0.05).is_none(), "no shadow");
    }
}
