//! A line where it is seen: on the product in the picture, and what it asks for in plan and from the side.

use super::surface::Surface;
use super::{LineWanted, LineWay};
use crate::drawing::{Line, Part, View};
use crate::frame::Sight;
use crate::set::LightSet;
use optics::geometry::Vec3;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Rows a product is told in.
const ROWS: usize = 25;
/// Where no thing of the kit gives the line, its directions are drawn so far, metres.
const DRAWN_M: f64 = 0.8;

/// A row across the product, in shares of the picture's width and height from its upper left corner.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ShownRow {
    /// Its height: -1 at the product's foot, 1 at its top.
    pub up: f64,
    /// Share of the half width at its ends.
    pub across: f64,
    /// Its left end.
    #[schema(value_type = optics::geometry::Pair)]
    pub left: [f64; 2],
    /// Its right end.
    #[schema(value_type = optics::geometry::Pair)]
    pub right: [f64; 2],
}

/// A line as it shows.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LineShown {
    /// The product, row by row from its foot up.
    pub rows: Vec<ShownRow>,
    /// The line's outline, in shares of the picture.
    #[schema(value_type = Vec<optics::geometry::Pair>)]
    pub outline: Vec<[f64; 2]>,
    /// What must be filled, from above; metres.
    pub plan: Vec<Line>,
    /// The same from the side.
    pub side: Vec<Line>,
}

pub(super) fn shown(set: &LightSet, surface: &Surface, wanted: &LineWanted, way: Option<&LineWay>) -> LineShown {
    let sight = Sight::of(set);
    let spread = |from: f64, to: f64| (0..ROWS).map(move |k| from + (to - from) * k as f64 / (ROWS - 1) as f64);
    let seen = |across: f64, up: f64| sight.share(&surface.at(across, up).0);
    // the very top of a ball has no width
    let end = if surface.is_upright() || surface.is_flat() { 1.0 } else { 0.98 };
    let rows = spread(-end, end)
        .filter_map(|up| {
            let across = surface.widest(up);
            Some(ShownRow { up, across, left: seen(-across, up)?, right: seen(across, up)? })
        })
        .collect();
    let up_left = spread(wanted.bottom, wanted.top).filter_map(|up| seen(wanted.from, up));
    let down_right = spread(wanted.top, wanted.bottom).filter_map(|up| seen(wanted.to, up));
    let outline = up_left.chain(down_right).collect();
    let reach = way.map_or(DRAWN_M, |w| w.distance_m);
    let ends = |a: [f64; 2], b: [f64; 2]| {
        let [(p, d), (q, e)] = [surface.ray(a[0], a[1]), surface.ray(b[0], b[1])];
        [p, p + d * reach, q + e * reach, q]
    };
    let (middle, height) = ((wanted.from + wanted.to) / 2.0, (wanted.bottom + wanted.top) / 2.0);
    let drawn = |view: View, points: [Vec3; 4]| {
        vec![Line { part: Part::Reach, of: None, points: points.iter().map(|p| view.flat(p)).collect(), closed: true }]
    };
    LineShown {
        rows,
        outline,
        plan: drawn(View::Plan, ends([wanted.from, height], [wanted.to, height])),
        side: drawn(View::Side, ends([middle, wanted.bottom], [middle, wanted.top])),
    }
}
