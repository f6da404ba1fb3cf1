//! A box seen at a corner: how it stands, how bright its three sides are, what each mirrors.
//!
//! The nearest corner and the far ends of its three edges give the turn: edges of a box stand at right angles, so that three
//! directions on the picture leave no freedom but the sizes (Kanade 1981; in perspective by least squares from there). The normals
//! of the three sides are those edges turned round, at right angles themselves: three brightnesses of one paint are then the
//! three parts of the light's direction (Lambert's law; Woodham 1980 with one picture and three sides in place of three pictures),
//! but for what comes from all around, which is no more than the darkest side shows.

use nalgebra::DVector;
use optics::geometry::{Camera, Vec3, angle_between, reflect};
use optics::photo::Photo;
use optics::solve::levenberg_marquardt;

/// Shortest edge that is read, pixels.
const LEAST_PX: f64 = 12.0;
/// Of each side, the part about its middle that is looked at: edges are worn, cut and printed.
const INNER: f64 = 0.66;
/// Places looked at along and across a side.
const PLACES: usize = 24;
/// How much sides of one paint differ otherwise (print, wear, gloss), natural log, one standard deviation; common practice.
const PAINT_SD: f64 = 0.12;
/// How far a camera's curve may be off, as an exponent.
const CURVE_SD: f64 = 0.25;
/// A side this much darker than the brightest may get nothing from the light at all, natural log.
const UNLIT: f64 = 1.6;
/// What comes from all around, parts of what the light gives a side that faces it: five to two stops under it (common practice).
const AROUND: [f64; 5] = [0.0, 0.04, 0.08, 0.15, 0.25];
/// What each of those counts against what follows from the brightnesses themselves.
const BOTH_WEIGHT: f64 = 6.0;
/// How alike two dark sides are that get only what comes from all around, natural log.
const DARK_ALIKE: f64 = 0.4;
/// Sides that differ by less say nothing of where light comes from, natural log.
const ALIKE: f64 = 0.06;
/// Least standard deviation of a direction, radians: one sum of all lights is taken for one.
const LEAST_SD: f64 = 0.17;
/// What tables and walls send up is not in the samples: another renderer's boxes are off by so much more than those say.
const OFTEN_MORE: f64 = 1.5;

/// Why a box could not be read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum CuboidProblem {
    /// An edge is too short.
    #[error("an edge of the box is under 12 pixels long: mark a larger one, or its longer edges")]
    Short,
    /// Two edges meet at less than a right angle.
    #[error(
        "no corner of a box looks like this: from the corner nearest to the lens its three edges run more than a right angle apart"
    )]
    NoCorner,
    /// It lies off the picture.
    #[error("the box lies outside the picture")]
    Outside,
}

/// How a box stands.
#[derive(Debug, Clone, PartialEq)]
pub struct Posed {
    /// Unit vectors along its edges, from the nearest corner away, camera frame, in the order they were marked.
    pub edges: [Vec3; 3],
    /// Lengths of the edges, parts of the distance of the corner from the lens.
    pub lengths: [f64; 3],
    corner: Vec3,
    camera: Camera,
}

/// One side of it.
#[derive(Debug, Clone, PartialEq)]
pub struct Side {
    /// Outward normal.
    pub normal: Vec3,
    /// What its middle mirrors.
    pub mirrors: Vec3,
    /// Angle between what its corners mirror that lie farthest apart, radians: the family of angles.
    pub family: f64,
    /// Corners on the picture, in turn.
    pub corners: [[f64; 2]; 4],
    /// Mean luminance, linear.
    pub luminance: f64,
    /// Standard deviation of the luminance over the side, natural log.
    pub spread: f64,
    /// Steepest change of brightness from edge to edge, natural log, by a plane laid through it.
    pub gradient: f64,
    /// Share that is clipped.
    pub clipped: f64,
}

/// What a box says.
#[derive(Debug, Clone, PartialEq)]
pub struct CuboidReading {
    /// Side `k` lies opposite edge `k`: the two other edges span it.
    pub sides: [Side; 3],
    /// Where all light taken together comes from, and its standard deviation, radians; `None` where the sides are as bright as each
    /// other, or clipped, or not of one paint.
    pub light: Option<(Vec3, f64)>,
}

impl CuboidReading {
    /// How far the lens looks down if the box stands upright (common practice), radians; none of a box that does not show its top.
    pub fn looks_down(&self) -> Option<f64> {
        looks_down(&[0, 1, 2].map(|k| self.sides[k].normal)).1
    }
}

/// A side that faces up by so much less than a level one belongs to a box that lies or hangs askew, cosine.
const STANDS: f64 = 0.5;

/// Of three normals at right angles, camera frame: the place of the uppermost, and how far the lens looks down if the box stands upright,
/// radians, where it may.
pub fn looks_down(normals: &[Vec3; 3]) -> (usize, Option<f64>) {
    let up = if normals[1].y > normals[0].y { 1 } else { 0 };
    let up = if normals[2].y > normals[up].y { 2 } else { up };
    let n = normals[up];
    (up, (n.y > STANDS).then(|| n.z.atan2(n.y)))
}

/// How a box stands whose nearest corner and the far ends of whose edges are marked, pixels.
///
/// # Errors
/// A [`CuboidProblem`] that says what to do.
pub fn pose(camera: Camera, corner: [f64; 2], ends: [[f64; 2]; 3]) -> Result<Posed, CuboidProblem> {
    let flat = ends.map(|e| [e[0] - corner[0], corner[1] - e[1]]);
    if flat.iter().any(|d| d[0].hypot(d[1]) < LEAST_PX) {
        return Err(CuboidProblem::Short);
    }
    let dot = |i: usize, j: usize| flat[i][0] * flat[j][0] + flat[i][1] * flat[j][1];
    let [ab, ac, bc] = [dot(0, 1), dot(0, 2), dot(1, 2)];
    let length = |i: usize| flat[i][0].hypot(flat[i][1]);
    let least = |i: usize, j: usize| -1e-3 * length(i) * length(j);
    if ab > least(0, 1) || ac > least(0, 2) || bc > least(1, 2) {
        return Err(CuboidProblem::NoCorner);
    }
    // seen from far: the third part of each edge by the right angles between them, all away from the lens
    let away = [-ab * ac / bc, -ab * bc / ac, -ac * bc / ab].map(|z| -z.max(0.0).sqrt());
    let v = camera.view(corner[0], corner[1]);
    let right = Vec3::y().cross(&v).normalize();
    let up = v.cross(&right);
    let three = |k: usize| right * flat[k][0] + up * flat[k][1] + v * away[k];
    let start: [Vec3; 3] = [three(0), three(1), three(2)];
    let at = -v;
    let px = camera.focal_px * v.z;
    let frame = orthonormal(start.map(|e| e.normalize()));
    // in perspective: a small turn and three lengths, by where the ends are seen
    let turned = |x: &DVector<f64>| {
        let turn = nalgebra::Rotation3::new(Vec3::new(x[0], x[1], x[2]));
        [0, 1, 2].map(|k| turn * frame[k])
    };
    let misfit = |x: &DVector<f64>| {
        let e = turned(x);
        let off = |k: usize| {
            let p = project(&camera, &(at + e[k] * x[3 + k].exp()));
            [p[0] - ends[k][0], p[1] - ends[k][1]]
        };
        DVector::from_iterator(6, (0..3).flat_map(off))
    };
    let sizes = (0..3).map(|k| (start[k].norm() / px).ln());
    let from = DVector::from_iterator(6, [0.0; 3].into_iter().chain(sizes));
    let x = levenberg_marquardt(from, &[1e-5; 6], 40, misfit, |_| {}).x;
    Ok(Posed { edges: turned(&x), lengths: [3, 4, 5].map(|k| x[k].exp()), corner: at, camera })
}

/// The nearest right-angled frame of the same hand (by the polar decomposition).
fn orthonormal(e: [Vec3; 3]) -> [Vec3; 3] {
    let m = nalgebra::Matrix3::from_columns(&e);
    let svd = m.svd(true, true);
    match (svd.u, svd.v_t) {
        (Some(u), Some(v)) => {
            let r = u * v;
            [r.column(0).into(), r.column(1).into(), r.column(2).into()]
        }
        _ => e,
    }
}

/// Pixel of a point of the camera frame; the lens looks along -z.
fn project(camera: &Camera, p: &Vec3) -> [f64; 2] {
    let k = camera.focal_px / (-p.z).max(1e-9);
    [camera.centre[0] + p.x * k, camera.centre[1] - p.y * k]
}

impl Posed {
    /// Outward normal of the side opposite edge `k`.
    pub fn normal(&self, k: usize) -> Vec3 {
        -self.edges[k]
    }

    /// Its middle, camera frame, parts of the distance of the corner from the lens, which lies at the origin.
    pub fn middle(&self) -> Vec3 {
        (0..3).fold(self.corner, |p, k| p + self.edges[k] * (0.5 * self.lengths[k]))
    }

    /// Pixel of a place of the camera frame.
    pub fn seen_at(&self, place: &Vec3) -> [f64; 2] {
        project(&self.camera, place)
    }

    /// A place of the side opposite edge `k`, shares of its two edges.
    fn place(&self, k: usize, share: [f64; 2]) -> Vec3 {
        let [i, j] = [(k + 1) % 3, (k + 2) % 3];
        self.corner + self.edges[i] * (share[0] * self.lengths[i]) + self.edges[j] * (share[1] * self.lengths[j])
    }

    /// What a place of that side mirrors.
    fn mirrored(&self, k: usize, share: [f64; 2]) -> Vec3 {
        reflect(&-self.place(k, share).normalize(), &self.normal(k))
    }

    fn side(&self, photo: &Photo, k: usize) -> Option<Side> {
        let corners = [[0.0, 0.0], [1.0, 0.0], [1.0, 1.0], [0.0, 1.0]];
        let mut seen: Vec<([f64; 2], f64)> = Vec::with_capacity(PLACES * PLACES);
        let mut clipped = 0usize;
        let step = |n: usize| (n as f64 + 0.5) / PLACES as f64 - 0.5;
        for (i, j) in (0..PLACES).flat_map(|i| (0..PLACES).map(move |j| (i, j))) {
            let share = [step(i), step(j)].map(|s| 0.5 + INNER * s);
            let [x, y] = project(&self.camera, &self.place(k, share));
            let Some(l) = photo.luminance_between(x, y) else { continue };
            clipped += usize::from(photo.get(x as i64, y as i64).is_some_and(|s| s.clipped));
            seen.push((share.map(|s| s - 0.5), l.max(1e-4)));
        }
        if seen.len() < PLACES * PLACES / 2 {
            return None;
        }
        let n = seen.len() as f64;
        let luminance = seen.iter().map(|s| s.1).sum::<f64>() / n;
        let logs: Vec<f64> = seen.iter().map(|s| s.1.ln()).collect();
        let mean = logs.iter().sum::<f64>() / n;
        let spread = (logs.iter().map(|l| (l - mean).powi(2)).sum::<f64>() / n).sqrt();
        // places lie evenly about the middle: the slopes of a plane are independent
        let slope = |c: usize| {
            let of = seen.iter().zip(&logs).map(|(s, l)| s.0[c] * (l - mean)).sum::<f64>();
            of / seen.iter().map(|s| s.0[c].powi(2)).sum::<f64>()
        };
        let across = corners.map(|c| self.mirrored(k, c));
        let family = across.iter().flat_map(|a| across.iter().map(move |b| angle_between(a, b))).fold(0.0, f64::max);
        Some(Side {
            normal: self.normal(k),
            mirrors: self.mirrored(k, [0.5; 2]),
            family,
            corners: corners.map(|c| project(&self.camera, &self.place(k, c))),
            luminance,
            spread,
            gradient: slope(0).hypot(slope(1)),
            clipped: clipped as f64 / n,
        })
    }

    /// Reads its sides; `alike` if they are of one paint.
    ///
    /// # Errors
    /// [`CuboidProblem::Outside`].
    pub fn read(&self, photo: &Photo, alike: bool) -> Result<CuboidReading, CuboidProblem> {
        let side = |k: usize| self.side(photo, k).ok_or(CuboidProblem::Outside);
        let sides = [side(0)?, side(1)?, side(2)?];
        let light = if alike { light(&sides) } else { None };
        Ok(CuboidReading { sides, light })
    }
}

/// How far a side's brightness under that of the brightest may be off, natural log, one standard deviation.
pub fn tone_sd(luminance: f64, most: f64) -> f64 {
    PAINT_SD.hypot(CURVE_SD * (luminance / most).ln())
}

/// Where the light of three sides of one paint comes from, all of it together, and its standard deviation.
fn light(sides: &[Side; 3]) -> Option<(Vec3, f64)> {
    let b = [0, 1, 2].map(|k| sides[k].luminance);
    let (least, most) = (b.iter().copied().fold(f64::MAX, f64::min), b.iter().copied().fold(0.0, f64::max));
    if sides.iter().any(|s| s.clipped > 0.05) || (most / least.max(1e-9)).ln() < ALIKE {
        return None;
    }
    let towards = |b: &[f64; 3]| (0..3).map(|k| sides[k].normal * b[k]).sum::<Vec3>();
    // what comes from all around is anything up to what the darkest side shows; one that dark may be turned away from the light
    let mut tried: Vec<(Vec3, f64)> = Vec::new();
    let mut by = [0, 1, 2];
    by.sort_by(|i, j| b[*i].total_cmp(&b[*j]));
    let [darkest, second, brightest] = by;
    let under = |k: usize| (most / b[k].max(1e-9)).ln();
    let unlit = (under(darkest) / UNLIT).min(1.0);
    // two that are dark alike may both be turned away: all that is known then is that the third is not
    let alike = (-(b[second] / b[darkest].max(1e-9)).ln() / DARK_ALIKE).exp();
    let both = alike * ((under(second) - 0.5 * UNLIT) / (0.5 * UNLIT)).clamp(0.0, 1.0);
    for behind in [0.0, 0.5, 1.0, 1.7] {
        let away = (sides[darkest].normal + sides[second].normal) * (behind * std::f64::consts::FRAC_1_SQRT_2);
        tried.push((sides[brightest].normal - away, BOTH_WEIGHT * both));
    }
    let all_of_it = b.iter().map(|v| v * v).sum::<f64>().sqrt();
    for share in AROUND {
        let around = (share * all_of_it).min(least);
        for perturbed in 0..7 {
            let mut c = b.map(|v| v - around);
            if perturbed > 0 {
                let k = (perturbed - 1) / 2;
                let by = tone_sd(b[k], most);
                c[k] = (b[k] * (if perturbed % 2 == 0 { by } else { -by }).exp() - around).max(0.0);
            }
            let weight = if perturbed == 0 { 1.0 } else { 0.5 };
            tried.push((towards(&c), weight));
            if around >= least && perturbed == 0 {
                let length = towards(&c).norm();
                for behind in [0.25, 0.5, 0.8] {
                    tried.push((towards(&c) - sides[darkest].normal * (behind * length), 2.0 * unlit * (1.0 - behind)));
                }
            }
        }
    }
    let units: Vec<(Vec3, f64)> =
        tried.into_iter().filter_map(|(d, w)| Some((d.try_normalize(1e-9)?, w))).filter(|t| t.1 > 0.0).collect();
    let mean = units.iter().map(|(d, w)| d * *w).sum::<Vec3>().try_normalize(1e-9)?;
    let all: f64 = units.iter().map(|t| t.1).sum();
    let var = units.iter().map(|(d, w)| w * angle_between(d, &mean).powi(2)).sum::<f64>() / all;
    Some((mean, (OFTEN_MORE * var.sqrt()).hypot(LEAST_SD)))
}
