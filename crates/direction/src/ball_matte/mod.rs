//! A matte ball: direction, angular size and level of one to three lights, and the ambient.
//!
//! Model: `I(n) = sum_k E_k lobe(n, L_k, a_k, q_k) + A`. `lobe` is the exact irradiance of a disc
//! source that sinks below the horizon ([`optics::falloff::disc_lobe`]); `q` is the ball's radius
//! over the light's distance, so that a near light is brighter on the near side of the ball.
//! Amplitudes are solved inside by non-negative least squares (variable projection, Golub &
//! Pereyra 1973); directions, sizes and nearness by Levenberg-Marquardt. The width of the turn from
//! light to dark is what tells the size: a frontal light, whose turn lies on the outline, leaves it
//! open, and the spread says so.

mod choose;
mod fit;
mod lobe;
mod settle;

use super::Seen;
use super::outline::{Refined, refine_circle};
use crate::shapes::Ellipse;
use choose::choose_lights;
use fit::Fitted;
use lobe::Lobe;
use nalgebra::DVector;
use optics::geometry::{Camera, SeenSphere, Vec3, angle_between};
use optics::photo::Photo;
use optics::solve::median;
use settle::{Settled, Shift, settle};

/// What a matte ball says.
#[derive(Debug, Clone)]
pub struct MatteReading {
    /// Lights, strongest first.
    pub lights: Vec<Seen>,
    /// Natural log of ambient irradiance in the same unit as the levels, with its spread; `None`
    /// if nothing above the noise.
    pub log_ambient: Option<(f64, f64)>,
    /// Where it is too weak to be told: what it is at most, in 19 of 20 cases.
    pub log_ambient_most: Option<f64>,
    /// The outline used.
    pub outline: Refined,
    /// Root mean square residual over the brightest fitted value.
    pub residual: f64,
    /// Samples used.
    pub samples: usize,
    /// Light of a sample by the fit and as measured; brightest fitted = 1.
    pub points: Vec<[f64; 2]>,
    /// Share of the ball's pixels that were clipped and left out.
    pub clipped: f64,
    /// Where the next reading of the same ball may start.
    pub start: Start,
}

/// The lights of a ball as they were fitted, to start from when its mark has moved a little.
#[derive(Debug, Clone)]
pub struct Start(Settled);

/// Why a ball could not be read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum MatteProblem {
    /// The circle leaves the picture.
    #[error("most of the ball lies outside the picture")]
    Outside,
    /// Fewer than a hundred pixels.
    #[error("the ball is too small to read: mark one at least 12 pixels across")]
    TooSmall,
    /// Nothing but black.
    #[error("the ball is black: no light reaches it, or the picture is too dark to read")]
    Black,
    /// Nothing but white.
    #[error("the ball is clipped nearly everywhere: expose it darker")]
    Clipped,
    /// Even all over.
    #[error("the ball is evenly lit: light from everywhere, or not a ball; no direction can be told")]
    Even,
}

#[derive(Clone)]
struct Samples {
    normal: Vec<Vec3>,
    value: DVector<f64>,
    rgb: Vec<[f32; 3]>,
    /// one over the standard deviation of each value
    weight: DVector<f64>,
}

/// Mean squared weighted residual under which nothing is left to explain.
const ENOUGH: f64 = 1.2;

/// A source that a mirror shows: its direction and half the angle it fills, radians. Seen from the matte ball it lies
/// a little elsewhere.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Shown {
    /// Unit vector.
    pub direction: Vec3,
    /// Radians.
    pub half: f64,
}

/// A light may lie this far from where a mirror beside the ball shows it, radians: half a metre between the two, a lamp a
/// metre and a half away (common practice).
const BESIDE_MIRROR: f64 = 0.45;

/// The lights a mirror shows, fitted to the ball, if they explain it no worse than what was found without them.
fn as_shown(s: &Samples, shown: &[Shown], found: usize, cost: f64) -> Option<(Vec<Lobe>, f64)> {
    // what a mirror shows weakest may be a lit thing: then as many as are left
    (2..=shown.len().min(3)).rev().filter(|k| *k > found).find_map(|k| {
        let start: Vec<Lobe> = shown[..k].iter().map(|m| Lobe::new(m.direction, m.half.clamp(0.02, 0.9))).collect();
        let fit = Fitted::new(s, &start, 14);
        let most = fit.x.rows(0, k).max();
        let held = fit
            .lobes
            .iter()
            .zip(shown)
            .enumerate()
            .all(|(i, (l, m))| angle_between(&l.direction, &m.direction) < BESIDE_MIRROR && fit.x[i] > 0.03 * most);
        (held && fit.cost < (1.1 * cost).max(ENOUGH)).then_some((fit.lobes, fit.cost))
    })
}

/// Reads a matte ball marked by its outline. `start` is what was read of it a moment ago, `shown` what a mirror in the
/// same picture shows of the sources, the brightest first: two wide ones are hard to tell from one by shading alone.
///
/// # Errors
/// A [`MatteProblem`] that says why nothing can be told.
pub fn read(
    photo: &Photo,
    camera: Camera,
    centre: [f64; 2],
    radius: f64,
    start: Option<&Start>,
    shown: &[Shown],
) -> Result<MatteReading, MatteProblem> {
    let (w, h) = (f64::from(photo.width()), f64::from(photo.height()));
    if radius < SMALLEST_PX {
        return Err(MatteProblem::TooSmall);
    }
    if centre[0] < 0.0 || centre[1] < 0.0 || centre[0] > w || centre[1] > h {
        return Err(MatteProblem::Outside);
    }
    let outline = refine_circle(photo, centre, radius);
    let e = outline.ellipse;
    let sphere =
        |[dx, dy, dr]: Shift| SeenSphere::from_silhouette(camera, [e.centre[0] + dx, e.centre[1] + dy], e.rx + dr);
    let base = sphere([0.0; 3]);
    let (coarse, clipped) = collect(photo, &base, e.centre, e.rx, 460)?;
    let (mut fine, _) = collect(photo, &base, e.centre, e.rx, 2000)?;

    let again = start.map(|Start(st)| {
        let here = Samples { normal: remap(&base, &sphere(st.shift), camera, &coarse), ..coarse.clone() };
        let fit = Fitted::new(&here, &st.lobes, 6);
        (Settled { lobes: fit.lobes, cost: fit.cost, shift: st.shift }, st)
    });
    // As good as it was: the same lights, moved a little.
    let again = again.filter(|(now, st)| now.cost < (1.25 * st.cost).max(ENOUGH)).map(|(now, _)| now);
    let settled = again.unwrap_or_else(|| {
        let (lobes, cost) = choose_lights(&coarse);
        let (lobes, cost) = as_shown(&coarse, shown, lobes.len(), cost).unwrap_or((lobes, cost));
        let sd = outline.sd_px.max(EDGE_SD_PX).max(EDGE_SD_SHARE * e.rx);
        settle(&coarse, Settled { lobes, cost, shift: [0.0; 3] }, sd, &|shift| {
            remap(&base, &sphere(shift), camera, &coarse)
        })
    });
    if settled.lobes.is_empty() {
        return Err(MatteProblem::Even);
    }
    let from = sphere(settled.shift);
    if settled.shift != [0.0; 3] {
        fine.normal = remap(&base, &from, camera, &fine);
    }
    let fit = Fitted::new(&fine, &settled.lobes, 16);
    let outline = Refined { ellipse: moved_by(e, settled.shift), ..outline };
    let [x, y, r] = settled.shift;
    Ok(fit.report(&fine, &outline, clipped, Start(settled), |dx, dy, dr, samples| {
        // The same pixels seen as points of a slightly different ball.
        remap(&from, &sphere([x + dx, y + dy, r + dr]), camera, samples)
    }))
}

/// How far an outline may lie beside the edge that was found, at least: pixels, and as a share of the radius. The
/// half pixel of a ball of 100 whose dark side has no edge (measured).
const EDGE_SD_PX: f64 = 0.3;
const EDGE_SD_SHARE: f64 = 0.004;

fn moved_by(e: Ellipse, [dx, dy, dr]: Shift) -> Ellipse {
    Ellipse { centre: [e.centre[0] + dx, e.centre[1] + dy], rx: e.rx + dr, ry: e.ry + dr, ..e }
}

/// Radius of the smallest ball that is read, pixels.
const SMALLEST_PX: f64 = 6.0;
/// Pixels looked at for the shading of a ball, and cells across it that they are gathered in.
const SHADED: usize = 20_000;
const SHADES_ACROSS: f64 = 20.0;

/// How a matte ball is shaded: normals, luminance and its standard deviation, sample by sample.
#[derive(Debug, Clone)]
pub struct Shades {
    /// Unit normals, camera frame.
    pub normal: Vec<Vec3>,
    /// Linear luminance.
    pub value: Vec<f64>,
    /// Standard deviation of each.
    pub sd: Vec<f64>,
    /// Centre of the outline, pixels, and its radius.
    pub centre: [f64; 2],
    /// Pixels.
    pub radius: f64,
}

/// The shading of a ball marked by its outline: means over a grid across it, so that the picture's grain counts for little.
///
/// # Errors
/// A [`MatteProblem`].
pub fn shades(photo: &Photo, camera: Camera, centre: [f64; 2], radius: f64) -> Result<Shades, MatteProblem> {
    if radius < SMALLEST_PX {
        return Err(MatteProblem::TooSmall);
    }
    let e = refine_circle(photo, centre, radius).ellipse;
    let (s, _) = collect(photo, &SeenSphere::from_silhouette(camera, e.centre, e.rx), e.centre, e.rx, SHADED)?;
    let mut cells = std::collections::BTreeMap::<[i64; 2], (Vec3, f64, f64, f64)>::new();
    for ((n, v), w) in s.normal.iter().zip(s.value.iter()).zip(s.weight.iter()) {
        let at = [n.x, n.y].map(|c| (c * SHADES_ACROSS / 2.0).floor() as i64);
        let cell = cells.entry(at).or_insert((Vec3::zeros(), 0.0, 0.0, 0.0));
        *cell = (cell.0 + n, cell.1 + v, cell.2 + 1.0 / (w * w), cell.3 + 1.0);
    }
    Ok(Shades {
        normal: cells.values().map(|c| c.0.normalize()).collect(),
        value: cells.values().map(|c| c.1 / c.3).collect(),
        sd: cells.values().map(|c| c.2.sqrt() / c.3).collect(),
        centre: e.centre,
        radius: e.rx,
    })
}

fn collect(
    photo: &Photo,
    sphere: &SeenSphere,
    centre: [f64; 2],
    radius: f64,
    wanted: usize,
) -> Result<(Samples, f64), MatteProblem> {
    let inner = radius - (0.025 * radius).max(1.5);
    let step = ((std::f64::consts::PI * inner * inner / wanted as f64).sqrt().round() as i64).max(1);
    let (mut normal, mut value, mut rgb, mut sd) = (Vec::new(), Vec::new(), Vec::new(), Vec::new());
    let (mut n_clipped, mut total, mut outside) = (0usize, 0usize, 0usize);
    let reach = inner.ceil() as i64;
    let (cx, cy) = (centre[0].floor() as i64, centre[1].floor() as i64);
    let mut roughness = Vec::new();
    let mut row = -reach;
    while row <= reach {
        let mut col = -reach;
        while col <= reach {
            let (px, py) = (cx + col, cy + row);
            let (x, y) = (px as f64 + 0.5, py as f64 + 0.5);
            col += step;
            if (x - centre[0]).hypot(y - centre[1]) > inner {
                continue;
            }
            total += 1;
            let Some(s) = photo.get(px, py) else {
                outside += 1;
                continue;
            };
            if s.clipped {
                n_clipped += 1;
                continue;
            }
            if let Some((n, _)) = sphere.normal_and_view(x, y) {
                let l = s.luminance();
                // second difference along the row: noise without the shading
                if let (Some(a), Some(b)) = (photo.get(px - 1, py), photo.get(px + 1, py)) {
                    roughness.push(((a.luminance() + b.luminance()) / 2.0 - l).abs() / l.max(0.004).sqrt());
                }
                normal.push(n);
                value.push(l);
                rgb.push(s.rgb);
                sd.push(f64::from(s.coding_sd));
            }
        }
        row += step;
    }
    if total == 0 || outside * 2 > total {
        return Err(MatteProblem::Outside);
    }
    if n_clipped * 10 > total * 9 {
        return Err(MatteProblem::Clipped);
    }
    if value.len() < 60 {
        return Err(MatteProblem::TooSmall);
    }
    let top = value.iter().copied().fold(0.0, f64::max);
    if top < 0.002 {
        return Err(MatteProblem::Black);
    }
    let grain = 1.48 * 0.816 * median(&mut roughness);
    let weight = value.iter().zip(&sd).map(|(v, sd)| {
        let shot = grain * v.max(0.004).sqrt();
        1.0 / (sd * sd + shot * shot + (0.004 * v).powi(2) + (0.0008 * top).powi(2)).sqrt()
    });
    let weight = DVector::from_iterator(value.len(), weight);
    let samples = Samples { normal, value: DVector::from_vec(value), rgb, weight };
    Ok((samples, n_clipped as f64 / total as f64))
}

fn remap(from: &SeenSphere, to: &SeenSphere, camera: Camera, s: &Samples) -> Vec<Vec3> {
    s.normal
        .iter()
        .map(|n| {
            let (x, y) = from.pixel_of_normal(n, &camera);
            to.normal_and_view(x, y).map_or(*n, |(m, _)| m)
        })
        .collect()
}
