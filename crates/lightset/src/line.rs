//! Bright lines on bottles and cans: which directions a source must fill for a line where one wants it, and what of a kit does.
//!
//! A curved glossy thing is a mirror: what is seen at a place comes from where the line of sight, turned back about the surface's normal,
//! leads (law of reflection). On the upright part of a body of revolution the normal is level, so the plan alone settles the sides, and
//! heights are handed on as they come; over a shoulder it looks up by the outline's slope, and what is mirrored stands twice as high.

use crate::frame::flat_in_frame;
use crate::kit::{Kit, source_of};
use crate::set::{
    BOTTLE_RADIUS_M, Board, CAN_RADIUS_M, LightSet, Outline, SetLight, Source, Subject, SubjectKind, range,
};
use optics::geometry::{AzEl, Vec3, upright};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A line on a product.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
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
}

/// Directions a source must fill, seen from the product.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LineDirections {
    /// Azimuth of the edge that shows as the line's left one, degrees from the lens side.
    pub azimuth_from_deg: f64,
    /// Of the right one.
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
}

/// Nearest and farthest a source stands from the surface, metres.
const NEAREST_M: f64 = 0.12;
const FARTHEST_M: f64 = 4.0;
/// Off by so much an edge is elsewhere, degrees.
const SHIFT_DEG: f64 = 2.0;
/// Ways that are told.
const MOST_WAYS: usize = 8;
/// Narrower than this share of the product no line is drawn.
const THINNEST: f64 = 0.005;
/// Nor shorter than this share of its height.
const SHORTEST: f64 = 0.02;
/// A hand's breadth about the line from lens to product that is kept free, metres.
const LENS_M: f64 = 0.06;

/// Radius of a product's body and half its height, metres; nothing for one that is no upright body of revolution.
pub fn body(s: &Subject) -> Option<(f64, f64)> {
    let (r, h) = match s.kind {
        SubjectKind::Bottle => (BOTTLE_RADIUS_M, 0.15),
        SubjectKind::Can => (CAN_RADIUS_M, 0.058),
        _ => return None,
    };
    Some((r * s.scale, h * s.scale))
}

/// The product with the lens that sees it.
struct Mirror {
    axis: Vec3,
    /// of the upright part
    radius: f64,
    /// half widths over heights from the middle, where it is not straight
    outline: Vec<(f64, f64)>,
    lens: Vec3,
}

/// Height over which a slope is taken, metres.
const SLOPE_M: f64 = 0.0015;
/// Heights of a line at which its edges are sent on.
const HEIGHTS: usize = 9;
/// Slope from which what is mirrored stands so high that the line asks for more, degrees of elevation; and from which no upright thing does.
const UP_DEG: f64 = 20.0;
const OVERHEAD_DEG: f64 = 60.0;
/// Distance at which the height of a source is told, metres.
const TOLD_M: f64 = 0.5;

impl Mirror {
    /// Half the width at a height over the middle.
    fn radius_at(&self, height: f64) -> f64 {
        let after = self.outline.partition_point(|p| p.1 < height);
        match (after.checked_sub(1).and_then(|k| self.outline.get(k)), self.outline.get(after)) {
            (Some(a), Some(b)) => a.0 + (b.0 - a.0) * ((height - a.1) / (b.1 - a.1).max(1e-9)).clamp(0.0, 1.0),
            (Some(a), None) => a.0,
            (None, Some(b)) => b.0,
            (None, None) => self.radius,
        }
    }

    /// Elevation of the normal at a height, radians.
    fn lean(&self, height: f64) -> f64 {
        let (a, b) = (self.radius_at(height - SLOPE_M), self.radius_at(height + SLOPE_M));
        ((a - b) / (2.0 * SLOPE_M)).atan()
    }

    /// Place on the surface that is seen at a share of its width and a height, with the direction that is mirrored there.
    fn ray(&self, share: f64, height: f64) -> (Vec3, Vec3) {
        let to = Vec3::new(self.axis.x - self.lens.x, 0.0, self.axis.z - self.lens.z);
        let far = to.norm();
        let ahead = to / far;
        let right = ahead.cross(&Vec3::y());
        // the outline is where the line of sight grazes: asin(r / d) beside the axis
        let radius = self.radius_at(height);
        let beta = share * (radius / far).min(0.999).asin();
        let sight = ahead * beta.cos() + right * beta.sin();
        let along = sight.dot(&to);
        let inside = (radius.powi(2) - (far.powi(2) - along.powi(2))).max(0.0);
        let flat = Vec3::new(self.lens.x, 0.0, self.lens.z) + sight * (along - inside.sqrt());
        let level = (flat - Vec3::new(self.axis.x, 0.0, self.axis.z)).normalize();
        let (up, out) = self.lean(height).sin_cos();
        let normal = level * out + Vec3::y() * up;
        let place = Vec3::new(flat.x, self.axis.y + height, flat.z);
        let view = (self.lens - place).normalize();
        (place, normal * (2.0 * normal.dot(&view)) - view)
    }
}

/// Where the four corner rays of a line meet a sheet across their middle: its middle, and the width and height they span.
fn spanned(rays: &[(Vec3, Vec3)], middle: &(Vec3, Vec3), distance: f64) -> Option<(Vec3, [f64; 2])> {
    let (from, d) = middle;
    let centre = from + d * distance;
    let (u, v) = upright(d);
    let mut span = [[f64::MAX, f64::MIN]; 2];
    for (p, r) in rays {
        let along = r.dot(d);
        if along < 0.05 {
            return None;
        }
        let q = p + r * ((centre - p).dot(d) / along) - centre;
        for (s, axis) in span.iter_mut().zip([u, v]) {
            *s = [s[0].min(q.dot(&axis)), s[1].max(q.dot(&axis))];
        }
    }
    let [x, y] = span;
    Some((centre + u * ((x[0] + x[1]) / 2.0) + v * ((y[0] + y[1]) / 2.0), [x[1] - x[0], y[1] - y[0]]))
}

/// What of a kit has a size, upright: name, width and height, the light or nothing for a board, and how much it costs to take it.
struct Thing {
    name: String,
    size: [f64; 2],
    light: Option<Source>,
    finish: Option<crate::set::BoardFinish>,
    cost: f64,
}

fn things(kit: &Kit) -> Vec<Thing> {
    let tall = |[w, h]: [f64; 2]| [w.min(h), w.max(h)];
    let mut out = Vec::new();
    for m in kit.modifiers.iter().filter(|m| m.count > 0 && m.size_m[0].max(m.size_m[1]) > 0.08) {
        let size = tall(m.size_m);
        let light = match source_of(m) {
            Source::Rectangle { .. } => Source::Rectangle { width_m: size[0], height_m: size[1] },
            other => other,
        };
        out.push(Thing { name: m.name.clone(), size, light: Some(light), finish: None, cost: 0.0 });
    }
    for s in kit.sheets.iter().filter(|s| s.count > 0) {
        let size = tall(s.size_m);
        let light = Source::Rectangle { width_m: size[0], height_m: size[1] };
        let name = format!("{} with a lamp behind", s.name);
        out.push(Thing { name, size, light: Some(light), finish: None, cost: 0.3 });
    }
    for b in kit.boards.iter().filter(|b| b.count > 0 && b.finish != crate::set::BoardFinish::Black) {
        out.push(Thing { name: b.name.clone(), size: tall(b.size_m), light: None, finish: Some(b.finish), cost: 0.2 });
    }
    out
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
    let (radius, half) = body(subject).ok_or("subject: lines are worked out on bottles and cans that stand upright")?;
    range("from", wanted.from, -0.995, 0.995, "of the half width")?;
    range("to", wanted.to, wanted.from + THINNEST, 0.995, "of the half width, right of its left edge")?;
    range("bottom", wanted.bottom, -1.0, 1.0, "of the half height")?;
    range("top", wanted.top, wanted.bottom + SHORTEST, 1.0, "of the half height, over its lower end")?;
    let (bottom_m, top_m) = (wanted.bottom * half, wanted.top * half);
    let axis = Vec3::from(subject.position_m);
    let lens = Vec3::from(set.camera.position_m);
    if (lens.x - axis.x).hypot(lens.z - axis.z) < 3.0 * radius {
        return Err("camera: it stands too near the product, or over it, to see a line on its side".into());
    }
    let outline = crate::set::outline(subject.kind).unwrap_or_default();
    let outline = outline.into_iter().map(|(r, h)| (r * subject.scale, h * subject.scale)).collect();
    let mirror = Mirror { axis, radius, outline, lens };
    let corner = |s: f64, h: f64| mirror.ray(s, h);
    let rays: Vec<(Vec3, Vec3)> = (0..HEIGHTS)
        .map(|k| bottom_m + (top_m - bottom_m) * k as f64 / (HEIGHTS - 1) as f64)
        .flat_map(|h| [corner(wanted.from, h), corner(wanted.to, h)])
        .collect();
    let last = rays.len() - 2;
    let middle = corner((wanted.from + wanted.to) / 2.0, (bottom_m + top_m) / 2.0);
    let azel = |d: &Vec3| AzEl::of(d);
    let directions = LineDirections {
        azimuth_from_deg: azel(&rays[0].1).azimuth_deg,
        azimuth_to_deg: azel(&rays[1].1).azimuth_deg,
        elevation_bottom_deg: azel(&rays[0].1).elevation_deg,
        elevation_top_deg: azel(&rays[last].1).elevation_deg,
    };
    let needs = |d: f64| spanned(&rays, &middle, d);
    let mut ways: Vec<(f64, LineWay)> =
        things(kit).iter().filter_map(|t| way(set, t, &middle, &lens, &needs)).collect();
    ways.sort_by(|a, b| a.0.total_cmp(&b.0));
    ways.truncate(MOST_WAYS);
    Ok(LinePlan { directions, ways: ways.into_iter().map(|w| w.1).collect(), says: over(&rays) })
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

/// Where one thing stands for a line, and how well it does.
fn way(
    set: &LightSet,
    t: &Thing,
    middle: &(Vec3, Vec3),
    lens: &Vec3,
    needs: &dyn Fn(f64) -> Option<(Vec3, [f64; 2])>,
) -> Option<(f64, LineWay)> {
    let width = |d: f64| needs(d).map_or(f64::INFINITY, |n| n.1[0]);
    let mut says = Vec::new();
    let (mut lo, mut hi) = (NEAREST_M, FARTHEST_M);
    let mut covered = None;
    let distance = if width(NEAREST_M) > t.size[0] {
        says.push(format!(
            "{} is too narrow: even {NEAREST_M:.2} m away the line needs {:.2} m.",
            t.name,
            width(NEAREST_M)
        ));
        NEAREST_M
    } else if width(FARTHEST_M) < t.size[0] {
        // wider than wanted wherever it stands: black card to the width that is needed
        let d = 1.0;
        covered = Some(width(d));
        d
    } else {
        for _ in 0..50 {
            let mid = (lo + hi) / 2.0;
            if width(mid) < t.size[0] { lo = mid } else { hi = mid }
        }
        (lo + hi) / 2.0
    };
    let (centre, need) = needs(distance)?;
    if let Some(w) = covered {
        says.push(format!("{} is wider than the line at any distance: cover it with black card to {w:.2} m.", t.name));
    }
    let short = need[1] - t.size[1];
    if short > 1e-3 {
        says.push(format!("{} is {short:.2} m too short there: the line breaks off before its ends.", t.name));
    }
    let size = [covered.unwrap_or(t.size[0]), t.size[1]];
    let aim: [f64; 3] = middle.0.into();
    let position: [f64; 3] = centre.into();
    let in_frame = flat_in_frame(set, &position, &aim, size);
    if in_frame {
        says.push("It would stand in the picture.".into());
    }
    // the lens looks past it only if no part of it lies about the line from lens to product
    let (u, v) = upright(&(centre - middle.0).normalize());
    let sight = middle.0 - lens;
    let n = (centre - middle.0).normalize();
    let along = (centre - lens).dot(&n) / sight.dot(&n);
    let met = lens + sight * along - centre;
    let before = along > 0.0 && along < 1.0;
    let in_the_way = before && met.dot(&u).abs() < size[0] / 2.0 + LENS_M && met.dot(&v).abs() < size[1] / 2.0 + LENS_M;
    if in_the_way {
        says.push("It would stand in the lens's way: cut a hole for the lens, take a longer lens from farther away, or move the line.".into());
    }
    if matches!(
        t.light.as_ref().map(|l| l.about().outline),
        Some(Outline::Disc(_) | Outline::Octagon(_) | Outline::Ball(_))
    ) {
        says.push("Its face is round: the line ends in curves and is narrower there.".into());
    }
    let floor = set.floor_m();
    if position[1] + floor - size[1] / 2.0 < -0.01 {
        says.push(
            "Its lower edge would be under the table or floor: raise the product, or let the line end higher.".into(),
        );
    }
    let whole = says.is_empty() || (covered.is_some() && says.len() == 1);
    let aside_m = distance * SHIFT_DEG.to_radians().tan();
    let up_m = ((t.size[1] - need[1]) / 2.0).max(0.0);
    says.insert(
        0,
        format!(
            "{}, {:.2} m from the surface, {:.2} × {:.2} m needed: {:.0} mm aside before an edge is off by two degrees, {:.0} mm up or down.",
            t.name,
            distance,
            need[0],
            need[1],
            1000.0 * aside_m,
            1000.0 * up_m
        ),
    );
    if t.finish.is_some() {
        says.push("A board shows what lights it: turn a lamp to it, and keep that lamp off the product.".into());
    }
    let light = t.light.clone().map(|source| {
        let source = match (source, covered) {
            (Source::Rectangle { height_m, .. }, Some(width_m)) => Source::Rectangle { width_m, height_m },
            (s, _) => s,
        };
        let mut l = SetLight::of("line", source, 0.0);
        l.position_m = Some(position);
        l.aim_m = aim;
        // a tube lies level unless it is turned
        l.roll_deg = if matches!(l.source, Source::Tube { .. }) { 90.0 } else { 0.0 };
        l
    });
    let board =
        t.finish.map(|finish| Board { position_m: position, aim_m: aim, width_m: size[0], height_m: size[1], finish });
    let cost =
        t.cost + t.size[0] * t.size[1] + if whole { 0.0 } else { 10.0 } + if covered.is_some() { 0.5 } else { 0.0 };
    let way = LineWay {
        name: t.name.clone(),
        light,
        board,
        distance_m: distance,
        needs_m: need,
        aside_m,
        up_m,
        gives_it: whole,
        says,
    };
    Some((cost, way))
}
