//! A cast shadow on a level plane: from the tip of the shadow to the top of what casts it.
//!
//! Camera geometry puts foot and tip of the shadow on the plane; the top stands plumb over the foot,
//! as high as its image says. The direction needs no scale. A camera that looks level from afar sees
//! the plane edge on: then nothing can be told, and the problem says what is missing.

use optics::geometry::{Camera, Vec3, angle_between};

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

/// Careful marks lie within this many pixels (one standard deviation per coordinate).
const MARK_SD_PX: f64 = 0.5;
/// Camera tilt is known to this many radians.
const TILT_SD: f64 = 0.006;

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

/// Reads a shadow; `known` says whether the camera is more than assumed.
///
/// # Errors
/// A [`CastProblem`] that says why nothing can be told.
pub fn read(camera: Camera, known: bool, p: CastPoints) -> Result<CastReading, CastProblem> {
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
            [&mut q.base, &mut q.top, &mut q.tip][which][i] += MARK_SD_PX;
            var += moved(camera, q).powi(2);
        }
    }
    Ok(CastReading { direction, direction_sd: var.sqrt().hypot(0.002), relative_height })
}

/// Where round the picture the light lies, on whatever the shadow falls: seen from afar, the line from the shadow's tip
/// to what casts it is the picture of the ray. Unit vector right and up, with the standard deviation of its angle.
///
/// # Errors
/// [`CastProblem::Short`] if tip and top are too close.
pub fn round_picture(p: CastPoints) -> Result<([f64; 2], f64), CastProblem> {
    let (dx, dy) = (p.top[0] - p.tip[0], p.tip[1] - p.top[1]);
    let l = dx.hypot(dy);
    if l < 4.0 {
        return Err(CastProblem::Short);
    }
    // which point casts the tip is itself a judgement
    Ok(([dx / l, dy / l], (2.0 * MARK_SD_PX / l).hypot(0.06)))
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
