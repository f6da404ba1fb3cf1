//! Bright lines on bottles, cans, boxes and mirror balls: which directions a source must fill for a line where one wants it, and what of a kit does.
//!
//! A curved glossy thing is a mirror: what is seen at a place comes from where the line of sight, turned back about the surface's normal,
//! leads (law of reflection). On the upright part of a body of revolution the normal is level, so the plan alone settles the sides, and
//! heights are handed on as they come; over a shoulder it looks up by the outline's slope, and what is mirrored stands twice as high.

mod shown;
mod surface;
mod ways;

use crate::kit::Kit;
use crate::set::{Board, Flag, LightSet, SetLight, range};
use optics::geometry::{AzEl, Vec3, upright};
use serde::{Deserialize, Serialize};
pub use shown::{LineShown, ShownRow};
use surface::Surface;
pub use surface::body;
use utoipa::ToSchema;

/// A line on a product.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LineWanted {
    /// The product's place in the list of subjects.
    #[serde(default)]
    pub subject: usize,
    /// Its left edge in the picture: -1 at the product's left outline, 1 at its right.
    pub from: f64,
    /// Its right edge.
    pub to: f64,
    /// Its lower end: -1 at the product's foot, 1 at its top.
    pub bottom: f64,
    /// Its upper end.
    pub top: f64,
    /// Of a box: the side it lies on.
    #[serde(default)]
    pub side: BoxSide,
    /// It fades to an edge; crisp at both if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub fade: Option<Fade>,
}

/// A side of a box.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum BoxSide {
    /// Its broad side that faces forward where it is not turned.
    #[default]
    Front,
    /// The narrow one at camera left of that.
    Left,
    /// The narrow one at camera right.
    Right,
    /// Its lid.
    Top,
}

impl BoxSide {
    /// In words.
    pub fn word(self) -> &'static str {
        match self {
            BoxSide::Front => "front",
            BoxSide::Left => "left side",
            BoxSide::Right => "right side",
            BoxSide::Top => "top",
        }
    }
}

/// How a line fades.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Fade {
    /// Which edge it fades to.
    pub side: FadeSide,
    /// Share of its width over which it falls from nine tenths to one tenth; of no use where it fades to both.
    pub share: f64,
}

/// Edges a line fades to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum FadeSide {
    /// To its left edge; the right one is crisp.
    Left,
    /// To its right edge.
    Right,
    /// To both.
    Both,
}

/// Directions a source must fill, seen from the product.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LineDirections {
    /// Azimuth of the edge that shows as the line's left one, degrees from the lens side.
    pub azimuth_from_deg: f64,
    /// Of the right one, counted on from there: beyond 180 where the two lie on either side of straight behind.
    pub azimuth_to_deg: f64,
    /// Elevation at the line's lower end, degrees.
    pub elevation_bottom_deg: f64,
    /// At its upper end.
    pub elevation_top_deg: f64,
}

/// Something that gives the line.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LineWay {
    /// What it is called.
    pub name: String,
    /// It as a light of the set; absent for a board.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub light: Option<SetLight>,
    /// It as a board of the set; absent for a light.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub board: Option<Board>,
    /// Black card that hides the lamp behind a sheet.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub flag: Option<Flag>,
    /// Metres from the surface.
    pub distance_m: f64,
    /// Width and height it must have there, metres.
    #[schema(value_type = optics::geometry::Pair)]
    pub needs_m: [f64; 2],
    /// How far it may be moved aside before an edge of the line is off by two degrees, metres.
    pub aside_m: f64,
    /// How far up or down before an end of the line is lost, metres.
    pub up_m: f64,
    /// It gives the whole line, out of the picture and out of the lens's way.
    pub gives_it: bool,
    /// In sentences.
    pub says: Vec<String>,
}

/// What a line asks for and what does.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LinePlan {
    /// Directions.
    pub directions: LineDirections,
    /// What does, the best first.
    pub ways: Vec<LineWay>,
    /// What the line asks for beyond what stands at its own height, in sentences.
    pub says: Vec<String>,
    /// It on the product, and what it asks for in plan and from the side.
    pub shown: LineShown,
}

/// Off by so much an edge is elsewhere, degrees.
const SHIFT_DEG: f64 = 2.0;
/// Ways that are told.
const MOST_WAYS: usize = 8;
/// Narrower than this share of the product no line is drawn.
const THINNEST: f64 = 0.005;
/// Over less of its width no fade is told.
const LEAST_FADE: f64 = 0.1;
/// Nor shorter than this share of its height.
const SHORTEST: f64 = 0.02;
/// Heights of a line at which its edges are sent on.
const HEIGHTS: usize = 9;
/// Slope from which what is mirrored stands so high that the line asks for more, degrees of elevation; and from which no upright thing does.
const UP_DEG: f64 = 20.0;
const OVERHEAD_DEG: f64 = 60.0;
/// Distance at which something flat must be able to fill a line, metres.
const NEARBY_M: f64 = 0.3;
/// Distance at which the height of a source is told, metres.
const TOLD_M: f64 = 0.5;

/// Part of a flat sheet across the line's middle ray that must be bright.
#[derive(Debug, Clone, Copy)]
struct Region {
    centre: Vec3,
    /// Along and across it, metres.
    size: [f64; 2],
    /// Its turn about the ray, as a light's.
    roll_deg: f64,
    /// How far its edges are from straight, degrees as seen from the product.
    bend_deg: f64,
}

/// Where rays that leave a line's edges, from its lower end up and two at each height, meet a sheet across its middle ray `distance` away;
/// nothing if one leads away from it. The sheet leans with the line if it may.
fn region(rays: &[(Vec3, Vec3)], middle: &(Vec3, Vec3), distance: f64, leans: bool) -> Option<Region> {
    let (from, d) = middle;
    let at = from + d * distance;
    let (u, v) = upright(&-d);
    let mut met = Vec::with_capacity(rays.len());
    for (p, r) in rays {
        let along = r.dot(d);
        if along < 0.05 {
            return None;
        }
        let q = p + r * ((at - p).dot(d) / along) - at;
        met.push([q.dot(&u), q.dot(&v)]);
    }
    let between = |k: usize| {
        let [a, b] = [met[k], met[k + 1]];
        [(a[0] + b[0]) / 2.0, (a[1] + b[1]) / 2.0]
    };
    let (foot, head) = (between(0), between(met.len() - 2));
    let up = [head[0] - foot[0], head[1] - foot[1]];
    // what shows upside down stands upright all the same
    let turned = if up[1] < 0.0 { -1.0 } else { 1.0 };
    let roll = if leans { (-up[0] * turned).atan2(up[1] * turned) } else { 0.0 };
    let (sin, cos) = roll.sin_cos();
    let own: Vec<[f64; 2]> = met.iter().map(|[x, y]| [x * cos + y * sin, y * cos - x * sin]).collect();
    let range =
        |values: &mut dyn Iterator<Item = f64>| values.fold([f64::MAX, f64::MIN], |r, x| [r[0].min(x), r[1].max(x)]);
    let one = range(&mut own.iter().step_by(2).map(|q| q[0]));
    let other = range(&mut own.iter().skip(1).step_by(2).map(|q| q[0]));
    let edge = |r: [f64; 2]| (r[0] + r[1]) / 2.0;
    let bend = [one, other].map(|r| r[1] - r[0]).into_iter().fold(0.0, f64::max) / 2.0;
    let y = range(&mut own.iter().map(|q| q[1]));
    let middle = [(edge(one) + edge(other)) / 2.0, (y[0] + y[1]) / 2.0];
    let (across, along) = (u * cos + v * sin, v * cos - u * sin);
    Some(Region {
        centre: at + across * middle[0] + along * middle[1],
        size: [(edge(one) - edge(other)).abs(), y[1] - y[0]],
        roll_deg: roll.to_degrees(),
        bend_deg: (bend / distance).atan().to_degrees(),
    })
}

/// Works out which directions must be filled for a line and what of a kit fills them.
///
/// # Errors
/// A sentence that names what is wrong with the line, or that the product has no upright body to draw it on.
pub fn line(set: &LightSet, wanted: &LineWanted, kit: &Kit) -> Result<LinePlan, String> {
    let subject = set
        .subjects
        .get(wanted.subject)
        .ok_or_else(|| format!("subject: there is no product {}", wanted.subject + 1))?;
    let surface = Surface::of(set, subject, wanted.side)?;
    range("from", wanted.from, -0.995, 0.995, "of the half width")?;
    range("to", wanted.to, wanted.from + THINNEST, 0.995, "of the half width, right of its left edge")?;
    range("bottom", wanted.bottom, -1.0, 1.0, "of the half height")?;
    range("top", wanted.top, wanted.bottom + SHORTEST, 1.0, "of the half height, over its lower end")?;
    if let Some(f) = wanted.fade {
        range("fade.share", f.share, LEAST_FADE, 1.0, "of the line's width")?;
    }
    let corners = [wanted.from, wanted.to].map(|a| [wanted.bottom, wanted.top].map(|u| a.abs() > surface.widest(u)));
    if !surface.is_upright() && corners.as_flattened().contains(&true) {
        return Err("from: a corner of the line lies beyond the product's outline".into());
    }
    let middle_up = (wanted.bottom + wanted.top) / 2.0;
    let rays: Vec<(Vec3, Vec3)> = (0..HEIGHTS)
        .map(|k| wanted.bottom + (wanted.top - wanted.bottom) * k as f64 / (HEIGHTS - 1) as f64)
        .flat_map(|up| [surface.ray(wanted.from, up), surface.ray(wanted.to, up)])
        .collect();
    let last = rays.len() - 2;
    let middle = surface.ray((wanted.from + wanted.to) / 2.0, middle_up);
    let azel = |d: &Vec3| AzEl::of(d);
    let azimuth_from_deg = azel(&rays[0].1).azimuth_deg;
    let round = (azel(&rays[1].1).azimuth_deg - azimuth_from_deg + 180.0).rem_euclid(360.0) - 180.0;
    let directions = LineDirections {
        azimuth_from_deg,
        azimuth_to_deg: azimuth_from_deg + round,
        elevation_bottom_deg: azel(&rays[0].1).elevation_deg,
        elevation_top_deg: azel(&rays[last].1).elevation_deg,
    };
    let needs = |d: f64, leans: bool| region(&rays, &middle, d, leans);
    // what shows on the left may stand on either side as one looks out from the product
    let across = upright(&-middle.1).0;
    let [left, right] = [wanted.from, wanted.to].map(|a| {
        let (p, d) = surface.ray(a, middle_up);
        (p + d).dot(&across)
    });
    let things = ways::things(kit);
    let asked = ways::Asked {
        set,
        lens: Vec3::from(set.camera.position_m),
        middle,
        needs: &needs,
        rightwards: across * (right - left).signum(),
        fade: wanted.fade,
        things: &things,
    };
    let mut ways: Vec<LineWay> = asked.ways().into_iter().map(|w| w.1).collect();
    ways.truncate(MOST_WAYS);
    let mut says = Vec::new();
    if surface.is_flat() {
        says.push("A flat side shows only that window of the room: bright there, the side is bright; dark there, it is dark and without glare, wherever else a lamp stands.".into());
    }
    if surface.is_upright() {
        says.extend(over(&rays));
    }
    if needs(NEARBY_M, false).is_none() {
        says.push("The surface turns so far along this line that nothing flat fills it all: end it before the shoulder, the foot or the outline.".into());
    }
    let shown = shown::shown(set, &surface, wanted, ways.first());
    Ok(LinePlan { directions, ways, says, shown })
}

/// What a line over a shoulder asks for.
fn over(rays: &[(Vec3, Vec3)]) -> Vec<String> {
    let highest = rays.iter().map(|r| (AzEl::of(&r.1).elevation_deg, r)).max_by(|a, b| a.0.total_cmp(&b.0));
    let Some((up, (place, d))) = highest.filter(|h| h.0 > UP_DEG) else { return Vec::new() };
    let mut says =
        vec![format!("Over the shoulder the surface looks up: there the line shows what stands {up:.0}° up.")];
    if up > OVERHEAD_DEG {
        says.push("Nothing upright gives that: lean or lay a sheet over the product, or let the line end where the shoulder begins.".into());
    } else {
        let rise = place.y + TOLD_M * d.y / d.x.hypot(d.z).max(1e-6);
        says.push(format!(
            "{TOLD_M} m away a source must reach {rise:.2} m over the middle of the product; nearer, less."
        ));
    }
    says
}
