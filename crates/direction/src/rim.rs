//! A rim: the bright edge a light from behind draws along an outline.
//!
//! On a round matte form of radius `R` a light at the angle `t` from the lens axis (over 90 degrees) reaches
//! normals within 90 degrees of it: the lit band at the outline is `R (1 + cos t)` wide (the crescent of the
//! moon), and at the offset `s R` from the axis it is `s sin t + sqrt(1 - s^2) cos t` bright. Where it has the
//! share `f` of its brightness at the outline, `tan t = -sqrt(1 - s^2) / (s - f)`.

use optics::photo::Photo;
use optics::solve::median;

/// What a rim says.
#[derive(Debug, Clone, Copy)]
pub struct RimReading {
    /// Width of the bright band in pixels, at half its height.
    pub width_px: f64,
    /// Stops over the surface inside it; at least, if clipped.
    pub over_stops: f64,
    /// The band is clipped.
    pub clipped: bool,
    /// Unit vector out of the form: right and up.
    pub outward: [f64; 2],
    /// Angle of the light from the lens axis with its standard deviation, radians, if the form's radius is known.
    pub off_axis: Option<(f64, f64)>,
}

/// Why a rim could not be read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum RimProblem {
    /// Too short.
    #[error("the line is too short: draw it from inside the form across the bright edge into the background")]
    Short,
    /// Outside.
    #[error("the line leaves the picture")]
    Outside,
    /// No band.
    #[error("no bright edge is found on the line: it gets no brighter towards the background")]
    NoRim,
}

/// Parallel lines, pixels apart, to each side of the drawn one.
const LINES: i32 = 3;

/// Share of a rim's brightness at which its foot is taken: low enough to reach in, high enough over noise.
const FOOT: f64 = 0.25;

/// Reads a rim crossed by the line from `inside` to `outside`.
///
/// # Errors
/// A [`RimProblem`] that says why.
pub fn read(
    photo: &Photo,
    inside: [f64; 2],
    outside: [f64; 2],
    radius_px: Option<f64>,
) -> Result<RimReading, RimProblem> {
    let (dx, dy) = (outside[0] - inside[0], outside[1] - inside[1]);
    let length = dx.hypot(dy);
    if length < 6.0 {
        return Err(RimProblem::Short);
    }
    let (ux, uy) = (dx / length, dy / length);
    const STEP: f64 = 0.5;
    let n = (length / STEP) as usize + 1;
    let mut clipped_any = false;
    let mut widths = Vec::new();
    let mut feet = Vec::new();
    let mut overs = Vec::new();
    let mut whole = 0;
    for k in -LINES..=LINES {
        let o = f64::from(k);
        let row: Option<Vec<f64>> = (0..n)
            .map(|i| {
                let t = i as f64 * STEP;
                photo.luminance_between(inside[0] + ux * t - uy * o, inside[1] + uy * t + ux * o)
            })
            .collect();
        let Some(row) = row else { continue };
        whole += 1;
        let mut ground: Vec<f64> = row[..n / 5 + 2].to_vec();
        let base = median(&mut ground);
        let Some(top) = (0..n).max_by(|&a, &b| row[a].total_cmp(&row[b])) else { continue };
        let after = row[top..].iter().copied().fold(f64::MAX, f64::min);
        // brighter than the form inside it and than the background behind
        if row[top] < 1.25 * base + 0.003 || row[top] < 1.1 * after || top + 2 >= n || top < 3 {
            continue;
        }
        let cross = |level: f64, from: usize, forward: bool| -> f64 {
            let mut i = from;
            loop {
                let next = if forward { i + 1 } else { i.wrapping_sub(1) };
                let Some(v) = row.get(next) else { return i as f64 * STEP };
                if *v < level {
                    let f = (row[i] - level) / (row[i] - v).max(1e-9);
                    return (i as f64 + if forward { f } else { -f }) * STEP;
                }
                i = next;
            }
        };
        let inner = cross(f64::midpoint(base, row[top]), top, false);
        let outer = cross(f64::midpoint(after, row[top]), top, true);
        widths.push(outer - inner);
        feet.push(outer - cross(base + FOOT * (row[top] - base), top, false));
        overs.push((row[top] / base.max(1e-4)).log2());
        let at = top as f64 * STEP;
        let (x, y) = (inside[0] + ux * at - uy * o, inside[1] + uy * at + ux * o);
        clipped_any |= photo.get(x.floor() as i64, y.floor() as i64).is_some_and(|s| s.clipped);
    }
    if whole == 0 {
        return Err(RimProblem::Outside);
    }
    if widths.len() < 3 {
        return Err(RimProblem::NoRim);
    }
    let mut copy = widths.clone();
    let width = median(&mut copy);
    let mut copy = feet.clone();
    let foot = median(&mut copy);
    let mut apart: Vec<f64> = feet.iter().map(|w| (w - foot).abs()).collect();
    let spread = 1.48 * median(&mut apart) + 0.5;
    let off_axis = radius_px.filter(|r| *r > 2.0).map(|r| {
        let angle = |w: f64| {
            let s = (1.0 - w / r).clamp(FOOT + 0.01, 1.0);
            std::f64::consts::PI - ((1.0 - s * s).sqrt()).atan2(s - FOOT)
        };
        // no form is quite a sphere
        let error = 0.5 * (angle((foot - spread).max(0.0)) - angle(foot + spread));
        (angle(foot), error.abs().hypot(0.2))
    });
    Ok(RimReading {
        width_px: width,
        over_stops: median(&mut overs),
        clipped: clipped_any,
        outward: [ux, -uy],
        off_axis,
    })
}
