//! An eye: the cornea is a small mirror whose place and turn the limbus gives.
//!
//! The cornea is a sphere of radius 7.8 mm behind a limbus of radius 5.75 mm (Nishino & Nayar 2006:
//! 7.8 and 5.5 mm; Johnson & Farid 2007; eyes vary, so the ratio carries a spread). The limbus,
//! a circle, is seen as an ellipse: its flattening gives how far the eye is turned, its short axis
//! in which direction - up to the sign. The sign is settled by a mark, by the white visible on
//! either side, or stays open, and then both solutions are kept.

use super::ball_mirror::{centroid_error, mapped_back};
use super::blobs::{Blob, Search, Signal, find, from_outline};
use super::outline::{EdgeKind, Refined, refine_ellipse};
use super::{Seen, strongest, too_faint};
use super::{limbus, spot};
use crate::shapes::{Ellipse, Outline};
use optics::geometry::{Camera, SeenSphere, Vec3, angle_between, clock_of};
use optics::photo::Photo;

/// Radius of the corneal sphere in millimetres.
pub const CORNEA_RADIUS_MM: f64 = 7.8;
/// Radius of the limbus in millimetres, between the published 5.5 and 6.0.
pub const LIMBUS_RADIUS_MM: f64 = 5.75;
/// Relative spread of the ratio of the two: limbus 5.5 to 6.0 mm and cornea 7.6 to 7.8 mm, evenly.
pub const RATIO_SD: f64 = 0.025;
/// Refractive index of the tear film and cornea (1.376, Gullstrand's schematic eye).
pub const CORNEA_INDEX: f64 = 1.376;

/// Pixels a limbus may be off where its radius is [`SMALL_IRIS`] or less; less for larger ones.
const SMALL_IRIS_PX: f64 = 0.7;
const SMALL_IRIS: f64 = 10.0;
/// The same where all circles nearly as good have spoken; and what the gaze of an eye too small to show its flattening is off
/// the lens by, radians (common practice: portraits look at it).
const SETTLED_PX: f64 = 0.25;
const GAZE_SD: f64 = 0.1;
/// By how many pixels lids flatten the outline of a small iris, at most; and how well a careful hand draws one.
const LID_PX: f64 = 1.8;
const MARKED_SD_PX: f64 = 0.3;
/// Spread in radians over which a second spot is no evidence for a light.
const UNSURE_SD: f64 = 0.3;

/// What settled towards which side a turned eye looks.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum SettledBy {
    /// The mark's `looks_to_clock`.
    Mark,
    /// More white on one side.
    White,
    /// The ellipse is a circle within its error: the eye looks at the lens.
    Straight,
    /// Nothing: both solutions are kept.
    Open,
}

/// One catchlight and the light it shows.
#[derive(Debug, Clone)]
pub struct Catchlight {
    /// The light, with the preferred gaze.
    pub seen: Seen,
    /// Its direction if the eye is turned the other way, when that is open.
    pub otherwise: Option<Vec3>,
    /// The spot in the picture.
    pub blob: Blob,
    /// Clock position in the limbus.
    pub clock: f64,
    /// Cut by a lid or the limbus: the size is a lower bound.
    pub cut: bool,
    /// Radiance of what is mirrored, in the picture's unit of luminance.
    pub radiance: f64,
    /// Width over height and corners of its source, if its shape can be told.
    pub shape: Option<(f64, f64)>,
}

/// What an eye says.
#[derive(Debug, Clone)]
pub struct EyeReading {
    /// Catchlights, strongest first.
    pub catchlights: Vec<Catchlight>,
    /// Angle between gaze and view ray in radians.
    pub turned: f64,
    /// Clock towards which it looks.
    pub gaze_clock: f64,
    /// What settled the sign.
    pub settled: SettledBy,
    /// The mark contradicts the ellipse: it names a side the ellipse cannot turn to.
    pub contradiction: bool,
    /// The limbus used.
    pub limbus: Refined,
}

/// The eye's geometry for one assumed gaze.
struct Gaze {
    direction: Vec3,
    cornea: SeenSphere,
}

fn pose(camera: Camera, e: &Ellipse, turned: f64, sign: f64, ratio: f64) -> Gaze {
    let v = camera.view(e.centre[0], e.centre[1]);
    let major = e.rx.max(e.ry);
    // direction of the short axis in the picture
    let short = if e.rx < e.ry { e.angle_deg } else { e.angle_deg + 90.0 }.to_radians();
    let m = Vec3::new(short.cos(), -short.sin(), 0.0);
    let m = (m - v * m.dot(&v)).normalize();
    let gaze = v * turned.cos() + m * (sign * turned.sin());
    // Units of the distance to the limbus; off the axis a pixel spans less angle.
    let limbus = -v;
    let r = major * v.z.powf(1.5) / camera.focal_px;
    let cornea_r = r * ratio;
    let centre = limbus - gaze * (cornea_r * cornea_r - r * r).sqrt();
    Gaze { direction: gaze, cornea: SeenSphere::from_centre(camera, centre, cornea_r) }
}

/// Share of light a cornea mirrors at the cosine of incidence (Schlick 1994).
pub fn cornea_reflectance(cos: f64) -> f64 {
    optics::mirror::mirrored_part(cos, CORNEA_INDEX)
}

/// Whether an outline differs from the marked one by no more than what lids do to a small one: they flatten it.
fn as_marked(e: &Ellipse, marked: &Ellipse) -> bool {
    let off = (e.centre[0] - marked.centre[0]).hypot(e.centre[1] - marked.centre[1]);
    let axes = |e: &Ellipse| [e.rx.max(e.ry), e.rx.min(e.ry)];
    let ([a, b], [c, d]) = (axes(e), axes(marked));
    off < SMALL_IRIS_PX && (a - c).abs() < SMALL_IRIS_PX && (b - d).abs() < LID_PX
}

/// Reads an eye whose limbus was `marked`, by a person or by a face mesh that was `found`. Without `outlines` the catchlights are found inside the limbus.
pub fn read(
    photo: &Photo,
    camera: Camera,
    marked: Ellipse,
    looks_to_clock: Option<f64>,
    outlines: Option<&[Outline]>,
    found: bool,
) -> EyeReading {
    // a person looks closer than a mesh does
    let small = marked.rx.max(marked.ry) < limbus::SMALL;
    let settled = if small && found { limbus::settle(photo, marked) } else { None };
    let is_settled = settled.is_some();
    let refined = settled.unwrap_or_else(|| refine_ellipse(photo, marked, EdgeKind::DarkInside));
    let refined = if small && !found && as_marked(&refined.ellipse, &marked) {
        Refined { ellipse: marked, moved: false, sd_px: refined.sd_px.max(MARKED_SD_PX), ..refined }
    } else {
        refined
    };
    let e = refined.ellipse;
    let (major, minor) = (e.rx.max(e.ry), e.rx.min(e.ry));
    let flat = 1.0 - minor / major;
    let flat_sd = std::f64::consts::SQRT_2 * refined.sd_px / major;
    // An exact mark states its own flattening; a refined one is known within its error.
    let straight = if refined.moved { flat < 2.0 * flat_sd } else { flat < 0.003 };
    let turned = if straight { 0.0 } else { (1.0 - flat).acos() };
    // 1 - cos t = flat: dt = d(flat) / sin t, and at zero the square root of the error.
    let mark_sd = if refined.moved { flat_sd } else { 0.5 * flat_sd };
    let turned_sd = (mark_sd / turned.sin().max((2.0 * mark_sd).sqrt())).min(if is_settled { GAZE_SD } else { 0.2 });

    let ratio = CORNEA_RADIUS_MM / LIMBUS_RADIUS_MM;
    let plus = pose(camera, &e, turned, 1.0, ratio);
    let minus = pose(camera, &e, turned, -1.0, ratio);
    let mut contradiction = false;
    let (sign, settled) = if straight {
        (1.0, SettledBy::Straight)
    } else if let Some(clock) = looks_to_clock {
        let a = clock / 12.0 * std::f64::consts::TAU;
        let toward = Vec3::new(a.sin(), a.cos(), 0.0);
        let along = (plus.direction - minus.direction).normalize().dot(&toward);
        contradiction = along.abs() < 0.35;
        (if along >= 0.0 { 1.0 } else { -1.0 }, SettledBy::Mark)
    } else {
        match more_white(photo, &e) {
            // More white on the plus side: the iris has moved to the other one.
            Some(side) => (-side, SettledBy::White),
            None => (1.0, SettledBy::Open),
        }
    };
    let blobs: Vec<Blob> = match outlines {
        Some(list) => list.iter().filter_map(|o| outlined(photo, &e, &o.outline)).collect(),
        None => automatic(photo, &e),
    };
    // Both solutions are kept; the one that puts the brightest light where lights usually are (about
    // 25 degrees up, common practice) is named first.
    let sign = match blobs.first().filter(|_| settled == SettledBy::Open) {
        Some(b) => {
            let odd = |g: &Gaze| {
                let up = g.cornea.mirrored(b.centre[0], b.centre[1]).map_or(-1.0, |d| d.y);
                (up - 25f64.to_radians().sin()).abs()
            };
            if odd(&minus) < odd(&plus) { -1.0 } else { 1.0 }
        }
        None => sign,
    };
    let (best, other) = if sign > 0.0 { (&plus, &minus) } else { (&minus, &plus) };
    let mut catchlights: Vec<Catchlight> = blobs
        .into_iter()
        .filter_map(|b| {
            let mut seen = mapped_back(&b, &best.cornea, cornea_reflectance)?;
            let otherwise = (settled == SettledBy::Open)
                .then(|| mapped_back(&b, &other.cornea, cornea_reflectance).map(|s| s.direction))
                .flatten();
            let at = |g: &Gaze| g.cornea.mirrored(b.centre[0], b.centre[1]);
            let base = at(best)?;
            // Numeric sensitivities: eye's proportions, turn, limbus centre and size.
            let moved = |p: &Gaze| at(p).map_or(0.05, |d| angle_between(&d, &base));
            let ratio_part = moved(&pose(camera, &e, turned, sign, ratio * (1.0 + RATIO_SD)));
            let turn_part = moved(&pose(camera, &e, turned + turned_sd, sign, ratio));
            // A small iris is hard to outline: lashes, lids and its own soft edge are as wide as it is.
            let small_px = if is_settled { SETTLED_PX } else { SMALL_IRIS_PX * (SMALL_IRIS / major).min(1.0) };
            let sd_px = refined.sd_px.hypot(small_px);
            let nudge = |dx: f64, dy: f64, dr: f64| {
                let mut q = e;
                q.centre[0] += dx * sd_px;
                q.centre[1] += dy * sd_px;
                q.rx += dr * sd_px;
                q.ry += dr * sd_px;
                moved(&pose(camera, &q, turned, sign, ratio))
            };
            let centroid = centroid_error(&b, major * ratio);
            let parts = [ratio_part, turn_part, nudge(1.0, 0.0, 0.0), nudge(0.0, 1.0, 0.0), nudge(0.0, 0.0, 1.0)];
            let var = parts.iter().map(|p| p * p).sum::<f64>() + 2.0 * centroid * centroid;
            seen.direction_sd = var.sqrt().min(1.0);
            if let Some(o) = &otherwise {
                seen.direction_sd = seen.direction_sd.hypot(0.5 * angle_between(o, &seen.direction));
            }
            let cut = e.level(b.centre[0], b.centre[1]) > 0.93 || b.at_border > 0.12;
            if let Some((_, sd)) = &mut seen.log_size {
                // A cornea mirrors a few per cent: its spots are less burnt out than those of a mirror, and
                // how a pixel gathers light matters half as much.
                *sd = (0.5 * *sd).hypot(RATIO_SD).hypot(if cut { 0.4 } else { 0.0 });
            }
            let clock = clock_of(b.centre[0] - e.centre[0], e.centre[1] - b.centre[1]);
            let radiance = b.height / cornea_reflectance(cos_at(best, &b));
            let shape = spot::shape(&b, |x, y| best.cornea.mirrored(x, y));
            Some(Catchlight { seen, otherwise, blob: b, clock, cut, radiance, shape })
        })
        .collect();
    if let Some(top) = strongest(catchlights.iter().map(|c| &c.seen)) {
        catchlights.retain(|c| !too_faint(&c.seen, top));
    }
    // So near the rim that its direction is open: the white or a lid more likely than a light.
    if catchlights.len() > 1 {
        catchlights.retain(|c| c.seen.direction_sd < UNSURE_SD || c.otherwise.is_some());
    }
    // A light outshines what it lights: its radiance is 1 / sin^2(a / 2) times the luminance of a white
    // surface facing it. If the brightest spot is darker than the surroundings of the eye, it is a
    // lit lid, cheek or shirt that is mirrored.
    let lit = brightness_around(photo, &e);
    let outshines = |c: &Catchlight| c.blob.clipped || c.radiance > 1.6 * lit;
    if outlines.is_none() && !catchlights.iter().any(outshines) {
        catchlights.clear();
    }
    let g = best.direction;
    EyeReading { catchlights, turned, gaze_clock: clock_of(g.x, g.y), settled, contradiction, limbus: refined }
}

fn cos_at(g: &Gaze, b: &Blob) -> f64 {
    g.cornea.normal_and_view(b.centre[0], b.centre[1]).map_or(1.0, |(n, v)| n.dot(&v))
}

/// Luminance that a tenth of the pixels round the iris exceed: white of the eye, lids, skin.
fn brightness_around(photo: &Photo, e: &Ellipse) -> f64 {
    let r = e.rx.max(e.ry);
    let reach = (2.2 * r) as i64;
    let step = (reach / 40).max(1);
    let mut values = Vec::new();
    let (cx, cy) = (e.centre[0] as i64, e.centre[1] as i64);
    for dy in (-reach..=reach).step_by(step as usize) {
        for dx in (-reach..=reach).step_by(step as usize) {
            let level = e.level((cx + dx) as f64 + 0.5, (cy + dy) as f64 + 0.5);
            if (1.1..2.2).contains(&level)
                && let Some(s) = photo.get(cx + dx, cy + dy)
            {
                values.push(s.luminance());
            }
        }
    }
    values.sort_by(f64::total_cmp);
    values.get(values.len() * 9 / 10).copied().unwrap_or(0.0)
}

fn automatic(photo: &Photo, e: &Ellipse) -> Vec<Blob> {
    let smooth = (e.rx.max(e.ry) / 35.0) as usize;
    let search =
        Search { signal: Signal::DarkestChannel, smooth, lowest_stops: -7.0, most: 6, contrast: 0.35, max_border: 0.3 };
    // The limbus itself is soft: stay a pixel or so inside it.
    let k = 1.0 - (1.2 / e.rx.min(e.ry)).max(0.03);
    let shrunk = Ellipse { rx: k * e.rx, ry: k * e.ry, ..*e };
    let mut spots = find(photo, e.centre, e.rx.max(e.ry), |x, y| shrunk.level(x, y), search);
    // Along the limbus lids and white are mirrored and show through: a spot there must stand clear.
    spots.retain(|b| b.at_border < 0.1 || shrunk.level(b.centre[0], b.centre[1]) < 0.78);
    spots
}

/// The spot a person outlined: the picture's own spot if one lies in the outline and fills it,
/// else the outline itself.
fn outlined(photo: &Photo, e: &Ellipse, polygon: &[[f64; 2]]) -> Option<Blob> {
    let drawn = from_outline(photo, polygon)?;
    let reach = (drawn.area / std::f64::consts::PI).sqrt() * 1.6 + 3.0;
    let near = find(
        photo,
        drawn.centre,
        reach,
        |x, y| ((x - drawn.centre[0]).hypot(y - drawn.centre[1]) / reach).max(e.level(x, y)),
        Search {
            signal: Signal::DarkestChannel,
            smooth: 0,
            lowest_stops: -7.0,
            most: 3,
            contrast: 0.3,
            max_border: 0.5,
        },
    );
    let found = near.into_iter().find(|b| {
        let off = (b.centre[0] - drawn.centre[0]).hypot(b.centre[1] - drawn.centre[1]);
        off < 0.5 * reach && b.area > 0.4 * drawn.area && b.area < 1.8 * drawn.area
    });
    found.or(Some(drawn))
}

/// Which side of the short axis shows more white: +1, -1, or `None` if it cannot be told.
fn more_white(photo: &Photo, e: &Ellipse) -> Option<f64> {
    let short = if e.rx < e.ry { e.angle_deg } else { e.angle_deg + 90.0 }.to_radians();
    let (s, c) = short.sin_cos();
    // image +y is down: the plus side of `pose` is along (cos, sin) in pixels
    let r = e.rx.max(e.ry);
    let extent = |sign: f64| {
        let mut rays: Vec<f64> = [-0.35f64, -0.18, 0.0, 0.18, 0.35]
            .iter()
            .map(|turn| {
                let (st, ct) = turn.sin_cos();
                let (ux, uy) = (sign * (c * ct - s * st), sign * (s * ct + c * st));
                white_run(photo, e.centre, ux, uy, r)
            })
            .collect();
        optics::solve::median(&mut rays)
    };
    let (p, m) = (extent(1.0), extent(-1.0));
    let sum = p + m;
    if sum < 0.25 {
        return None;
    }
    // Up and down the lids decide what white is seen: only a wide-open eye tells there.
    if c.abs() < 0.8 && p.min(m) < 0.45 {
        return None;
    }
    let lean = (p - m) / sum;
    (lean.abs() > 0.15).then(|| lean.signum())
}

/// Length of even brightness outward from the limbus in units of its radius: the white of the eye.
fn white_run(photo: &Photo, centre: [f64; 2], ux: f64, uy: f64, r: f64) -> f64 {
    let at = |k: f64| {
        let (x, y) = (centre[0] + ux * r * k, centre[1] + uy * r * k);
        photo.get(x.floor() as i64, y.floor() as i64).map(|s| {
            let [a, b, c] = s.rgb.map(f64::from);
            let warm = (a - c) / (a + b + c).max(1e-4);
            (s.luminance(), warm)
        })
    };
    let Some((mut last, warm0)) = at(1.1) else { return 0.0 };
    // the white must be brighter than the iris
    let Some((iris, _)) = at(0.8) else { return 0.0 };
    if last < 1.15 * iris {
        return 0.0;
    }
    let mut k = 1.1;
    while k < 3.2 {
        k += 0.04;
        let Some((l, warm)) = at(k) else { break };
        let jump = (l / last.max(1e-4)).max(last / l.max(1e-4));
        if jump > 1.3 || (warm - warm0).abs() > 0.12 {
            break;
        }
        last = l;
    }
    k - 1.1
}
