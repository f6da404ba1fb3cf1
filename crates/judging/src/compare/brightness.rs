//! How much brighter and how much warmer the same things are in two pictures.

use super::Pictured;
use direction::blobs::pixels_inside;
use evidence::marks::{Ball, Face, Finish, MarkKind, Marks, Patch, PatchRole, Point};
use optics::colour::ColourShift;

/// Change of brightness and colour.
pub(super) struct Change {
    /// Stops on the lit side, with the standard deviation.
    pub stops: (f64, f64),
    /// Colour.
    pub colour: Option<ColourShift>,
}

/// Sides of the polygon that stands for a ball.
const SIDES: u32 = 40;
/// Share of a ball's radius that is looked at: its edge mixes with the ground.
const INSIDE: f64 = 0.92;

/// Parts to compare: a name that both pictures must have, and where it is.
fn parts(marks: &Marks) -> Vec<(String, Vec<Point>)> {
    let mut out = Vec::new();
    let (mut balls, mut faces) = (0, 0);
    for m in marks.marks.iter().filter(|m| !m.off) {
        match &m.kind {
            MarkKind::Patch(Patch { role, polygon }) if !matches!(role, PatchRole::Shadow | PatchRole::Other) => {
                out.push((format!("patch {role:?}"), polygon.clone()));
            }
            MarkKind::Ball(Ball { finish: Finish::Matte, centre, radius_px }) => {
                balls += 1;
                let r = INSIDE * radius_px;
                let round = (0..SIDES).map(|k| {
                    let (s, c) = (f64::from(k) / f64::from(SIDES) * std::f64::consts::TAU).sin_cos();
                    [centre[0] + r * c, centre[1] + r * s]
                });
                out.push((format!("ball {balls}"), round.collect()));
            }
            MarkKind::Face(Face { points, .. }) => {
                faces += 1;
                let ring = ["eye_image_left", "eye_image_right", "mouth_image_right", "chin", "mouth_image_left"];
                let ring: Vec<Point> = ring.iter().filter_map(|n| points.get(*n).copied()).collect();
                if ring.len() > 3 {
                    out.push((format!("face {faces}"), ring));
                }
            }
            _ => {}
        }
    }
    out
}

/// Mean linear RGB of the brighter third of what is not clipped, and the share that is.
fn lit(p: &Pictured, polygon: &[Point]) -> Option<([f64; 3], f64)> {
    let mut samples: Vec<(f64, [f64; 3])> = Vec::new();
    let (mut clipped, mut all) = (0usize, 0usize);
    for (x, y) in pixels_inside(p.photo, polygon) {
        let Some(s) = p.photo.get(x, y) else { continue };
        all += 1;
        if s.clipped {
            clipped += 1;
            continue;
        }
        let rgb = p.photo.rgb(x as u32, y as u32).map(f64::from);
        samples.push((s.luminance(), rgb));
    }
    if samples.len() < 12 {
        return None;
    }
    samples.sort_by(|a, b| b.0.total_cmp(&a.0));
    samples.truncate((samples.len() / 3).max(4));
    let n = samples.len() as f64;
    let mean = [0, 1, 2].map(|k| samples.iter().map(|s| s.1[k]).sum::<f64>() / n);
    Some((mean, clipped as f64 / all.max(1) as f64))
}

/// Compares what is marked in both; `None` if nothing is.
pub(super) fn change(reference: &Pictured, take: &Pictured) -> Option<Change> {
    let theirs = parts(take.marks);
    let mut stops = Vec::new();
    let mut colours = Vec::new();
    for (name, polygon) in parts(reference.marks) {
        let Some((_, other)) = theirs.iter().find(|t| t.0 == name) else { continue };
        let (Some((p, burnt_p)), Some((q, burnt_q))) = (lit(reference, &polygon), lit(take, other)) else { continue };
        let y = |c: [f64; 3]| 0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2];
        if y(p) <= 1e-5 || y(q) <= 1e-5 {
            continue;
        }
        let burnt = burnt_p.max(burnt_q);
        let sd = 0.04 + if burnt > 0.02 { 0.5 * burnt } else { 0.0 };
        stops.push(((y(q) / y(p)).log2(), sd));
        colours.extend(ColourShift::between(q, p, 0.01).filter(|_| burnt < 0.05));
    }
    let stops = direction::fusion::inverse_variance(stops.into_iter())?;
    let colour = colours.into_iter().min_by(|a, b| a.mired_sd.total_cmp(&b.mired_sd));
    Some(Change { stops: (stops.0, stops.1.max(0.03)), colour })
}
