//! What one picture of a series shows: where its subject lies, its background, its light.

use crate::outline::{Small, Thing, thing};
use direction::silhouette;
use evidence::marks::{Face, MarkKind, Marks};
use evidence::readings::Light;
use nalgebra::{DMatrix, DVector};
use optics::exposure::Settings;
use optics::geometry::AzEl;
use optics::photo::Photo;
use optics::solve::median;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Where the subject lies.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SubjectBox {
    /// Upper left corner of the box about it, pixels.
    #[schema(value_type = optics::geometry::Pair)]
    pub from: [f64; 2],
    /// Lower right corner.
    #[schema(value_type = optics::geometry::Pair)]
    pub to: [f64; 2],
    /// What scale is measured by: its height; of a head from the eyes to the chin. Pixels.
    pub length_px: f64,
    /// Height in the picture of its base line; of a head of its eyes. Pixels from above.
    pub base_px: f64,
    /// Its middle. Pixels from the left.
    pub middle_px: f64,
    /// How far it leans to the right, degrees; `None` where it has no upright of its own.
    pub lean_deg: Option<f64>,
    /// One standard deviation of the lean.
    pub lean_sd_deg: f64,
    /// One standard deviation of its edges, pixels.
    pub sd_px: f64,
    /// It reaches the frame's edge.
    pub cut: bool,
}

/// What is behind it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Ground {
    /// Median level in stops from middle grey.
    pub level_stops: f64,
    /// Its colour in linear light.
    #[schema(value_type = optics::geometry::Triple)]
    pub rgb: [f64; 3],
    /// Right half over left half, stops.
    pub across_stops: f64,
    /// Whether most of it is at the top of the range.
    pub clipped: bool,
}

/// What one picture shows.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Shown {
    /// Pixels of the picture.
    pub width: u32,
    /// Pixels of the picture.
    pub height: u32,
    /// Where its subject lies, if something stands out.
    pub subject: Option<SubjectBox>,
    /// Its background, if there is any.
    pub ground: Option<Ground>,
    /// Median level of the subject in stops from middle grey.
    pub subject_stops: Option<f64>,
    /// Right half of the subject over its left half, stops.
    pub halves_stops: Option<f64>,
    /// Exposure that was set.
    pub settings: Option<Settings>,
    /// Where the key comes from, if it was read, and its spread in degrees.
    #[schema(value_type = Option<Vec<f64>>)]
    pub key: Option<(AzEl, f64)>,
}

/// What stands out reaches beyond its edge by so many cells, for the blur.
const OUTSET: f64 = 1.5;
/// Edges are known to this part of a cell.
const EDGE_CELLS: f64 = 0.6;
/// A thing this many times higher than wide has an upright of its own.
const TALL: f64 = 1.35;
/// Of its width, how far the middles of its rows may lie off their line.
const STRAIGHT: f64 = 0.05;
/// Least part of a traced outline that steps clearly, its least length of the thing's, and the spread of a lean without one.
const CLEAR: f64 = 0.6;
const MOST: f64 = 0.6;
const UNSURE_DEG: f64 = 1.0;
/// Of its width, the least length of the line it stands on.
const FOOT: f64 = 0.35;

/// Measures a picture.
///
/// A face that is marked is the subject, its eyes the line; without one whatever stands out from its background.
pub fn shown(photo: &Photo, marks: &Marks, lights: &[Light]) -> Shown {
    let small = Small::of(photo);
    let found = thing(&small);
    let mut subject = found.as_ref().and_then(|t| lies(&small, t)).map(|s| upright(photo, s));
    let face = marks.marks.iter().filter(|m| !m.off).find_map(|m| match &m.kind {
        MarkKind::Face(f) => head(f),
        _ => None,
    });
    let (mut subject_stops, mut halves_stops) = (None, None);
    if let Some(head) = face {
        subject = Some(head);
    } else if let (Some(t), Some(s)) = (&found, &subject) {
        let middle = s.middle_px / small.cell;
        let of = |side: Option<bool>| {
            let mut all: Vec<f64> = (0..t.mask.len())
                .filter(|i| t.mask[*i] && side.is_none_or(|right| ((i % small.width) as f64 + 0.5 > middle) == right))
                .map(|i| stops(&small.light[i]))
                .collect();
            (all.len() > 20).then(|| median(&mut all))
        };
        subject_stops = of(None);
        halves_stops = of(Some(true)).zip(of(Some(false))).map(|(r, l)| r - l);
    }
    let key = lights.iter().find(|l| l.role == optics::role::Role::Key);
    Shown {
        width: photo.width(),
        height: photo.height(),
        subject,
        ground: found.as_ref().and_then(|t| ground(&small, t)),
        subject_stops,
        halves_stops,
        settings: marks.exposure,
        key: key.map(|l| (l.at(), l.direction_sd_deg)),
    }
}

fn stops(c: &[f64; 3]) -> f64 {
    (optics::photo::luminance(c.map(|v| v as f32)).max(1e-5) / 0.18).log2()
}

/// A marked head: eyes for the line, eyes to chin for the scale (it does not change as the head is turned).
fn head(f: &Face) -> Option<SubjectBox> {
    let at = |name: &str| f.points.get(name).copied();
    let (l, r, chin) = (at("eye_image_left")?, at("eye_image_right")?, at("chin")?);
    let eyes = [(l[0] + r[0]) / 2.0, (l[1] + r[1]) / 2.0];
    let length = (chin[0] - eyes[0]).hypot(chin[1] - eyes[1]);
    if length < 8.0 {
        return None;
    }
    let lean = (r[1] - l[1]).atan2(r[0] - l[0]).to_degrees();
    Some(SubjectBox {
        from: [eyes[0] - 0.85 * length, eyes[1] - 1.0 * length],
        to: [eyes[0] + 0.85 * length, chin[1]],
        length_px: length,
        base_px: eyes[1],
        middle_px: eyes[0],
        lean_deg: Some(lean),
        lean_sd_deg: 0.6,
        sd_px: 0.012 * length,
        cut: false,
    })
}

fn lies(s: &Small, t: &Thing) -> Option<SubjectBox> {
    let (w, h) = (s.width, s.height);
    let rows: Vec<Option<[usize; 2]>> = (0..h)
        .map(|y| {
            let first = (0..w).find(|x| t.mask[y * w + x])?;
            let last = (0..w).rev().find(|x| t.mask[y * w + x])?;
            Some([first, last + 1])
        })
        .collect();
    let top = rows.iter().position(Option::is_some)?;
    let foot = rows.iter().rposition(Option::is_some)? + 1;
    let left = rows.iter().flatten().map(|r| r[0]).min()?;
    let right = rows.iter().flatten().map(|r| r[1]).max()?;
    let (wide, high) = ((right - left) as f64, (foot - top) as f64);
    let lean = if high > TALL * wide {
        // through the middles of its rows, without its ends and without what lies about its foot
        let inner = top + (0.08 * high) as usize..top + (0.74 * high) as usize;
        let middles: Vec<[f64; 2]> =
            inner.filter_map(|y| rows[y].map(|r| [y as f64 + 0.5, (r[0] + r[1]) as f64 / 2.0])).collect();
        line(&middles).filter(|l| l[1] < STRAIGHT * wide).map(|[slope, off]| {
            let n = middles.len() as f64;
            ((-slope).atan().to_degrees(), (off / high * 3.5 / n.sqrt().max(1.0)).atan().to_degrees().max(0.1))
        })
    } else {
        stands(t, w, [left, right], foot, high)
    };
    let middle = {
        let n = t.mask.iter().filter(|m| **m).count() as f64;
        (0..t.mask.len()).filter(|i| t.mask[*i]).map(|i| (i % w) as f64 + 0.5).sum::<f64>() / n
    };
    let px = |v: f64| v * s.cell;
    let [left_px, top_px] = [left, top].map(|v| px(v as f64 + OUTSET));
    let [right_px, foot_px] = [right, foot].map(|v| px(v as f64 - OUTSET));
    Some(SubjectBox {
        from: [left_px, top_px],
        to: [right_px, foot_px],
        length_px: foot_px - top_px,
        base_px: foot_px,
        middle_px: px(if high > TALL * wide { (left + right) as f64 / 2.0 } else { middle }),
        lean_deg: lean.map(|l| l.0),
        lean_sd_deg: lean.map_or(0.0, |l| l.1),
        sd_px: EDGE_CELLS * s.cell,
        cut: t.cut,
    })
}

/// A tall thing that is alike on both sides has its lean better from its traced outline than from what stands out, which may lean to a
/// shadow.
fn upright(photo: &Photo, s: SubjectBox) -> SubjectBox {
    let high = s.to[1] - s.from[1];
    if high <= TALL * (s.to[0] - s.from[0]) {
        return s;
    }
    let axis = |lean: f64| {
        let off = lean.to_radians().tan() * high / 2.0;
        [[s.middle_px - off, s.to[1]], [s.middle_px + off, s.from[1]]]
    };
    let length = |t: &silhouette::Silhouette| (t.axis[1][0] - t.axis[0][0]).hypot(t.axis[1][1] - t.axis[0][1]);
    let traced = [s.lean_deg.unwrap_or(0.0), 0.0]
        .into_iter()
        .filter_map(|lean| silhouette::trace(photo, axis(lean), silhouette::DRAWN, None).ok())
        .filter(|t| t.clear > CLEAR && length(t) > MOST * high)
        .max_by(|a, b| (a.clear * length(a)).total_cmp(&(b.clear * length(b))));
    let Some(t) = traced else { return SubjectBox { lean_sd_deg: s.lean_sd_deg.max(UNSURE_DEG), ..s } };
    let [foot, head] = t.axis;
    SubjectBox {
        lean_deg: Some((head[0] - foot[0]).atan2(foot[1] - head[1]).to_degrees()),
        lean_sd_deg: 0.3,
        middle_px: f64::midpoint(foot[0], head[0]),
        ..s
    }
}

/// Slope and root mean square distance of points (row, column) from their line, by least squares with what is far off set aside once.
fn line(points: &[[f64; 2]]) -> Option<[f64; 2]> {
    let fit = |p: &[[f64; 2]]| -> Option<[f64; 2]> {
        let a = DMatrix::from_fn(p.len(), 2, |i, k| if k == 0 { 1.0 } else { p[i][0] });
        let b = DVector::from_iterator(p.len(), p.iter().map(|q| q[1]));
        let x = a.svd(true, true).solve(&b, 1e-9).ok()?;
        Some([x[0], x[1]])
    };
    if points.len() < 8 {
        return None;
    }
    let off = |l: &[f64; 2], p: &[f64; 2]| (p[1] - l[0] - l[1] * p[0]).abs();
    let first = fit(points)?;
    let usual = median(&mut points.iter().map(|p| off(&first, p)).collect::<Vec<_>>());
    let near: Vec<[f64; 2]> = points.iter().copied().filter(|p| off(&first, p) <= (3.0 * usual).max(1.0)).collect();
    let second = fit(&near)?;
    let rms = (near.iter().map(|p| off(&second, p).powi(2)).sum::<f64>() / near.len() as f64).sqrt();
    Some([second[1], rms])
}

/// How the line it stands on leans: the lower edge of the hull about it, under its middle.
fn stands(t: &Thing, w: usize, [left, right]: [usize; 2], foot: usize, high: f64) -> Option<(f64, f64)> {
    let lowest: Vec<[f64; 2]> = (left..right)
        .filter_map(|x| (0..foot).rev().find(|y| t.mask[y * w + x]).map(|y| [x as f64 + 0.5, (y + 1) as f64]))
        .filter(|p| p[1] > foot as f64 - 0.35 * high)
        .collect();
    // lower hull: rows grow downwards
    let mut hull: Vec<[f64; 2]> = Vec::new();
    for p in lowest {
        while let [.., a, b] = hull[..] {
            if (b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0]) < 0.0 {
                break;
            }
            hull.pop();
        }
        hull.push(p);
    }
    // the hull's height a fifth and four fifths along: a toe or an edge that rises at the ends does not count
    let at = |x: f64| {
        hull.iter()
            .zip(hull.get(1..)?)
            .find(|(a, b)| a[0] <= x && x <= b[0])
            .map(|(a, b)| a[1] + (b[1] - a[1]) * (x - a[0]) / (b[0] - a[0]))
    };
    let (first, last) = (hull.first()?[0], hull.last()?[0]);
    let wide = last - first;
    if wide < FOOT * (right - left) as f64 {
        return None;
    }
    let slope = (at(first + 0.8 * wide)? - at(first + 0.2 * wide)?) / (0.6 * wide);
    (slope.abs() < 0.2).then(|| (slope.atan().to_degrees(), (1.2 / (0.6 * wide)).atan().to_degrees().max(0.2)))
}

fn ground(s: &Small, t: &Thing) -> Option<Ground> {
    let (w, n) = (s.width, s.width * s.height);
    // without the foot of the frame, where a table or a floor is
    let upper = 3 * n / 5;
    let all: Vec<usize> = (0..n).filter(|i| t.ground[*i]).collect();
    let high: Vec<usize> = all.iter().copied().filter(|i| *i < upper).collect();
    let cells = if high.len() > 40 { high } else { all };
    if cells.len() < 40 {
        return None;
    }
    let rgb = [0, 1, 2].map(|k| median(&mut cells.iter().map(|i| s.light[*i][k]).collect::<Vec<_>>()));
    let half = |right: bool| {
        let mut v: Vec<f64> =
            cells.iter().filter(|i| (2 * (*i % w) > w) == right).map(|i| stops(&s.light[*i])).collect();
        (v.len() > 12).then(|| median(&mut v))
    };
    let clipped = cells.iter().filter(|i| s.clipped[**i]).count() * 2 > cells.len();
    Some(Ground {
        level_stops: stops(&rgb),
        rgb,
        across_stops: half(true).zip(half(false)).map_or(0.0, |(r, l)| r - l),
        clipped,
    })
}
