//! A glossy cylinder: its bright lines are pictures of what stands round it.
//!
//! At the relative offset `s` from the axis the normal is turned by `psi`; a mirrored source lies at
//! `2 psi` less the turn of the view ray. For a far camera `psi = asin s`; near ones use the true
//! view ray. Azimuths are about the cylinder's axis, 0 along the lens axis, positive to the image side
//! right of the axis walked upwards, as seen from the line itself: a near source is seen 2 to 4
//! degrees elsewhere from the axis.

use optics::geometry::Camera;
use optics::photo::Photo;
use optics::solve::median;

/// One bright line.
#[derive(Debug, Clone, Copy)]
pub struct Strip {
    /// Azimuth of its two edges at half height, radians, rising.
    pub from: f64,
    /// Azimuth of the other edge.
    pub to: f64,
    /// Turn from 10 to 90 % at its softer edge, radians.
    pub edge: f64,
    /// Stops over the ground beside it; at least, if clipped.
    pub over_stops: f64,
    /// Light of its plateau over the ground, linear RGB.
    pub rgb: [f64; 3],
    /// Standard deviation of an edge's azimuth, radians.
    pub sd: f64,
    /// It is clipped: its edges lie a little further in.
    pub clipped: bool,
}

impl Strip {
    /// Azimuth of its middle, degrees.
    pub fn middle_deg(&self) -> f64 {
        f64::midpoint(self.from, self.to).to_degrees()
    }

    /// Radians it is wide.
    pub fn wide(&self) -> f64 {
        (self.to - self.from).max(1e-3)
    }

    /// Luminance of its plateau over the ground.
    pub fn light(&self) -> f64 {
        optics::photo::luminance(self.rgb.map(|v| v as f32))
    }
}

/// What a cylinder says.
#[derive(Debug, Clone)]
pub struct CylinderReading {
    /// Bright lines by azimuth.
    pub strips: Vec<Strip>,
    /// Azimuths with nothing bright between and beside them, radians.
    pub gaps: Vec<[f64; 2]>,
    /// Azimuth in radians and light along the round, a sample; and the level over which a line counts.
    pub profile: Vec<[f64; 3]>,
}

/// Why a cylinder could not be read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum CylinderProblem {
    /// Too thin or too short.
    #[error("the cylinder is too small to read: mark one at least 16 pixels wide and long")]
    TooSmall,
    /// Outside.
    #[error("most of the cylinder lies outside the picture")]
    Outside,
}

/// Offsets across, in relative units.
const ACROSS: usize = 480;
/// Share of the way across that must lie in the picture.
const INSIDE: f64 = 0.6;
/// Relative offset beyond which the surface is seen too much edge on.
const RIM: f64 = 0.985;

/// Share of a bright line's height from which what lies beside it is no mere foot.
const LIT_BESIDE: f64 = 0.2;

/// Reads a cylinder marked by its axis and radius.
///
/// # Errors
/// A [`CylinderProblem`] that says why.
pub fn read(
    photo: &Photo,
    camera: Camera,
    axis: [[f64; 2]; 2],
    radius: f64,
) -> Result<CylinderReading, CylinderProblem> {
    // walked upwards in the picture
    let [p, q] = if axis[0][1] >= axis[1][1] { axis } else { [axis[1], axis[0]] };
    let length = (q[0] - p[0]).hypot(q[1] - p[1]);
    if radius < 8.0 || length < 16.0 {
        return Err(CylinderProblem::TooSmall);
    }
    let (ux, uy) = ((q[0] - p[0]) / length, (q[1] - p[1]) / length);
    // to the image side right of the axis walked upwards
    let (sx, sy) = (-uy, ux);
    let along = ((0.8 * length) as usize).clamp(8, 200);
    let mut profile = Vec::with_capacity(ACROSS);
    let mut clipped = Vec::with_capacity(ACROSS);
    let mut colours = Vec::with_capacity(ACROSS);
    let mut missing = Vec::with_capacity(ACROSS);
    for i in 0..ACROSS {
        let s = RIM * (2.0 * (i as f64 + 0.5) / ACROSS as f64 - 1.0);
        let mut values = Vec::with_capacity(along);
        let mut channels: [Vec<f64>; 3] = Default::default();
        let mut burnt = 0;
        for k in 0..along {
            let t = length * (0.1 + 0.8 * (k as f64 + 0.5) / along as f64);
            let (x, y) = (p[0] + ux * t + sx * s * radius, p[1] + uy * t + sy * s * radius);
            if let Some(l) = photo.luminance_between(x, y) {
                values.push(l);
                let rgb = photo.rgb(x.max(0.0) as u32, y.max(0.0) as u32);
                channels.iter_mut().zip(rgb).for_each(|(c, v)| c.push(f64::from(v)));
                burnt += usize::from(photo.get(x.floor() as i64, y.floor() as i64).is_some_and(|c| c.clipped));
            }
        }
        // a picture cut here says nothing of what lies beyond
        let cut = values.len() * 2 < along;
        missing.push(cut);
        if cut {
            clipped.push(false);
            profile.push(0.0);
            colours.push([0.0; 3]);
            continue;
        }
        clipped.push(burnt * 2 > values.len());
        profile.push(median(&mut values));
        colours.push(channels.map(|mut c| median(&mut c)));
    }
    let there: Vec<usize> = (0..ACROSS).filter(|i| !missing[*i]).collect();
    if (there.len() as f64) < INSIDE * ACROSS as f64 {
        return Err(CylinderProblem::Outside);
    }
    let mid = [f64::midpoint(p[0], q[0]), f64::midpoint(p[1], q[1])];
    let azimuth = |i: f64| {
        let s = RIM * (2.0 * (i + 0.5) / ACROSS as f64 - 1.0);
        mirrored_azimuth(camera, mid, [sx, sy], s, radius)
    };
    let mut sorted: Vec<f64> = there.iter().map(|i| profile[*i]).collect();
    sorted.sort_by(f64::total_cmp);
    let ground = sorted[sorted.len() * 35 / 100];
    let top = sorted[sorted.len() - 1];
    let ground_rgb = [0, 1, 2].map(|k| {
        let mut all: Vec<f64> = there.iter().map(|i| colours[*i][k]).collect();
        all.sort_by(f64::total_cmp);
        all[all.len() * 35 / 100]
    });
    let mut strips = Vec::new();
    let threshold = ground + (0.25 * (top - ground)).max(0.35 * ground).max(0.01);
    let mut i = 0;
    while i < ACROSS {
        if profile[i] <= threshold {
            i += 1;
            continue;
        }
        let start = i;
        while i < ACROSS && profile[i] > threshold {
            i += 1;
        }
        // a line that the edge of the picture cuts has no width
        let edge = |k: Option<&bool>| k.copied().unwrap_or(false);
        if edge(start.checked_sub(1).and_then(|k| missing.get(k))) || edge(missing.get(i)) {
            continue;
        }
        if let Some(mut s) = strip(&profile, &clipped, start, i, ground, radius, &azimuth) {
            s.rgb = plateau(&profile[start..i], &colours[start..i], ground, ground_rgb);
            strips.push(s);
        }
    }
    strips.sort_by(|a, b| a.from.total_cmp(&b.from));
    let (first, last) = (azimuth(there[0] as f64), azimuth(there[there.len() - 1] as f64));
    let mut gaps = Vec::new();
    let mut at = first;
    for s in &strips {
        if s.from - at > 0.05 {
            gaps.push([at, s.from]);
        }
        at = at.max(s.to);
    }
    if last - at > 0.05 {
        gaps.push([at, last]);
    }
    let profile = (0..ACROSS).step_by(4).map(|i| [azimuth(i as f64), profile[i], threshold]).collect();
    Ok(CylinderReading { strips, gaps, profile })
}

/// A run of bright samples, cut at half its height over the ground beside it.
fn strip(
    profile: &[f64],
    clipped: &[bool],
    start: usize,
    end: usize,
    ground: f64,
    radius: f64,
    azimuth: &impl Fn(f64) -> f64,
) -> Option<Strip> {
    let peak = profile[start..end].iter().copied().fold(0.0, f64::max);
    let cross = |share: f64, left: bool, ground: f64| {
        let level = ground + share * (peak - ground);
        let inside = |i: usize| profile[i] >= level;
        let (mut i, stop) = if left { (start, 0) } else { (end - 1, profile.len() - 1) };
        // inwards to the first sample over the level
        while !inside(i) {
            i = if left { i + 1 } else { i - 1 };
            if i < start || i >= end {
                return i as f64;
            }
        }
        // outwards while still over it
        while i != stop && inside(if left { i - 1 } else { i + 1 }) {
            i = if left { i - 1 } else { i + 1 };
        }
        if i == stop {
            return i as f64;
        }
        let o = if left { i - 1 } else { i + 1 };
        let t = (level - profile[i]) / (profile[o] - profile[i]);
        if left { i as f64 - t } else { i as f64 + t }
    };
    let ends = [cross(0.5, true, ground), cross(0.5, false, ground)];
    // a printed surface is lit about its bright line as well: what lies beside the line is its ground
    let wide = (ends[1] - ends[0]).max(1.0);
    let beside = |from: f64, to: f64| {
        let clamp = |v: f64| v.clamp(0.0, profile.len() as f64 - 1.0) as usize;
        let own = median(&mut profile[clamp(from.min(to))..=clamp(from.max(to))].to_vec());
        if own < 0.8 * peak { own.max(ground) } else { ground }
    };
    let lit = [(ends[0], -1.0), (ends[1], 1.0)]
        .map(|(e, way)| beside(e + way * (0.6 * wide + 3.0), e + way * (1.2 * wide + 6.0)));
    let grounds = lit.map(|own| if own > ground + LIT_BESIDE * (peak - ground) { own } else { ground });
    let (a, b) = (cross(0.5, true, grounds[0]), cross(0.5, false, grounds[1]));
    // how far the ends go from one ground to the other says how well they are known
    let doubt =
        [0, 1].map(|k| (azimuth(cross(0.5, k == 0, lit[k])) - azimuth(ends[k])).abs()).into_iter().fold(0.0, f64::max);
    if b - a < 0.5 {
        return None;
    }
    let (from, to) = (azimuth(a), azimuth(b));
    let soft = |left: bool| {
        let ground = grounds[usize::from(!left)];
        (azimuth(cross(0.9, left, ground)) - azimuth(cross(0.1, left, ground))).abs()
    };
    let burnt = clipped[start..end].iter().any(|c| *c);
    // half a pixel across as an angle at the steeper edge
    let per_px = |i: f64| (azimuth(i + 0.5) - azimuth(i - 0.5)).abs() * ACROSS as f64 / (2.0 * RIM * radius);
    let px = if burnt { 0.25 } else { 0.1 };
    Some(Strip {
        from: from.min(to),
        to: from.max(to),
        edge: soft(true).max(soft(false)),
        over_stops: (peak / ground.max(1e-4)).log2(),
        rgb: [0.0; 3],
        sd: (px * per_px(a).max(per_px(b))).hypot(0.004).hypot(0.5 * doubt),
        clipped: burnt,
    })
}

/// Mean of what lies in the upper fifth of a run, over the ground.
fn plateau(profile: &[f64], colours: &[[f64; 3]], ground: f64, ground_rgb: [f64; 3]) -> [f64; 3] {
    let peak = profile.iter().copied().fold(0.0, f64::max);
    let level = ground + 0.8 * (peak - ground);
    let high: Vec<&[f64; 3]> = profile.iter().zip(colours).filter(|(v, _)| **v >= level).map(|(_, c)| c).collect();
    [0, 1, 2].map(|k| high.iter().map(|c| c[k]).sum::<f64>() / high.len().max(1) as f64 - ground_rgb[k])
}

/// Azimuth about the axis of what is mirrored at relative offset `s` of a cylinder whose axis passes
/// `mid`, offsets along `side`.
fn mirrored_azimuth(camera: Camera, mid: [f64; 2], side: [f64; 2], s: f64, radius: f64) -> f64 {
    let (turn, phi, axis) = turned(camera, mid, side, s, radius);
    // About the line from the axis to the camera: normal at `turn`, view at -phi. That line itself is
    // turned by -axis from the lens axis.
    2.0 * turn + phi - axis
}

/// Azimuth about the axis of the surface's normal at relative offset `s` of such a cylinder, radians.
pub(crate) fn normal_azimuth(camera: Camera, mid: [f64; 2], side: [f64; 2], s: f64, radius: f64) -> f64 {
    let (turn, _, axis) = turned(camera, mid, side, s, radius);
    turn - axis
}

/// Turn of the normal about the line from the axis to the camera, and angles of the view ray and of the axis from the lens's.
fn turned(camera: Camera, mid: [f64; 2], side: [f64; 2], s: f64, radius: f64) -> (f64, f64, f64) {
    // angles in the plane across the axis
    let f = camera.focal_px;
    let centre = ((mid[0] - camera.centre[0]) * side[0] + (mid[1] - camera.centre[1]) * side[1]) / f;
    let axis = centre.atan();
    // silhouette: radius in pixels is f tan(theta), sin(theta) = R / D
    let theta = (radius / f).atan();
    let ratio = theta.sin();
    let phi = (centre + s * radius / f).atan() - axis;
    // ray at angle phi from the camera to a circle of radius `ratio` at distance one
    let across = phi.sin();
    ((across / ratio).clamp(-1.0, 1.0).asin() - phi, phi, axis)
}
