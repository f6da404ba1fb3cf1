//! A glossy cylinder: the bright lines on it.

use super::{Carry, Desk, Kind, check, plot};
use direction::{cylinder, label};
use crate::marks::desk::{degrees, round};
use crate::readings::*;
use direction::shapes::Point;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Turn from light to dark under which a line's edge is called crisp (common practice, ours).
const CRISP_EDGE_DEG: f64 = 4.0;

/// A line wider than this, or one that reaches so far round, degrees, may be the lit side or the rim of what does not shine.
const NO_LINE_DEG: f64 = 50.0;
const RIM_DEG: f64 = 155.0;

fn is_lit_side(from: f64, to: f64) -> bool {
    to - from > NO_LINE_DEG || from < -RIM_DEG || to > RIM_DEG
}

/// A glossy cylinder.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = CylinderMark)]
pub struct Cylinder {
    /// Ends of its axis, pixels.
    #[schema(value_type = Vec<optics::geometry::Pair>, min_items = 2, max_items = 2)]
    pub axis: [[f64; 2]; 2],
    /// Radius, pixels.
    pub radius_px: f64,
}

/// Tangent of the lean from which a cylinder does not stand.
const LEANING: f64 = 0.2;

impl Cylinder {
    /// Whether it stands upright in the picture: azimuths about its axis are then those about the plumb line.
    pub(crate) fn stands(&self) -> bool {
        let [a, b] = self.axis;
        (a[0] - b[0]).abs() < LEANING * (a[1] - b[1]).abs()
    }
}

impl Kind for Cylinder {
    fn check(&self) -> Result<(), String> {
        self.axis.iter().try_for_each(|p| check::finite("axis", p))?;
        check::positive("radius_px", self.radius_px)
    }

    fn carry(&mut self, c: &Carry) {
        self.axis.iter_mut().for_each(|p| *p = c.point(p));
        self.radius_px *= c.k;
    }

    fn anchor(&self) -> Option<Point> {
        Some(self.axis[0])
    }

    fn size_px(&self) -> f64 {
        self.radius_px
    }

    fn read(&self, desk: &mut Desk) -> MarkReading {
        let r = match cylinder::read(desk.photo, desk.camera, self.axis, self.radius_px) {
            Ok(r) => r,
            Err(problem) => return desk.unread("cylinder_unread", &problem),
        };
        if r.strips.iter().any(|s| s.clipped) {
            desk.warn("highlight_clipped", "A bright line is clipped: it looks up to a pixel too wide.");
        }
        let side = label::side(desk.photo, desk.camera, self.axis, self.radius_px);
        let shaded = side.filter(|_| self.stands()).map(|s| ShadedSide {
            azimuth_deg: degrees(s.azimuth),
            azimuth_sd_deg: degrees(s.sd),
        });
        let strips: Vec<StripView> = r
            .strips
            .iter()
            .map(|s| StripView {
                azimuth_from_deg: degrees(s.from),
                azimuth_to_deg: degrees(s.to),
                azimuth_sd_deg: degrees(s.sd),
                edge: if s.edge.to_degrees() < CRISP_EDGE_DEG { "crisp" } else { "feathered" }.into(),
                edge_deg: degrees(s.edge),
                over_ground_stops: round(s.over_stops, 2),
                clipped: s.clipped,
                lit_side: shaded.is_some() && is_lit_side(s.from.to_degrees(), s.to.to_degrees()),
            })
            .collect();
        let gaps =
            r.gaps.iter().map(|g| GapView { azimuth_from_deg: degrees(g[0]), azimuth_to_deg: degrees(g[1]) }).collect();
        let lines: Vec<&StripView> = strips.iter().filter(|s| !s.lit_side).collect();
        let mut says = if strips.is_empty() {
            "No bright line: nothing bright is mirrored, or all is evenly bright.".to_owned()
        } else if lines.is_empty() {
            "No bright line: it is brighter on one side.".to_owned()
        } else {
            let one = |s: &&StripView| {
                let (a, b) = (s.azimuth_from_deg, s.azimuth_to_deg);
                format!("from {a:.0}° to {b:.0}° round the axis ({:.0}° wide, {})", b - a, s.edge)
            };
            let list: Vec<String> = lines.iter().map(one).collect();
            format!("{} bright {}: {}.", lines.len(), if lines.len() == 1 { "line" } else { "lines" }, list.join("; "))
        };
        if let Some(s) = &shaded {
            let (a, sd) = (s.azimuth_deg, s.azimuth_sd_deg);
            says += &format!(" Its shading says light from {a:.0}° ± {sd:.0}° round the axis.");
        }
        let mut arcs: Vec<ArcView> = Vec::new();
        if self.stands() {
            arcs.extend(lines.iter().map(|s| ArcView { from_deg: s.azimuth_from_deg, to_deg: s.azimuth_to_deg }));
            let by_shading = shaded.as_ref().filter(|_| arcs.is_empty());
            arcs.extend(by_shading.map(|s| ArcView {
                from_deg: s.azimuth_deg - s.azimuth_sd_deg,
                to_deg: s.azimuth_deg + s.azimuth_sd_deg,
            }));
        }
        let plot = plot(
            ["azimuth round the axis, degrees", "linear light", "what counts as a bright line"],
            &r.profile,
            f64::to_degrees,
        );
        MarkReading { strips: Some(strips), gaps: Some(gaps), arcs, shaded, plot: Some(plot), says, ..Default::default() }
    }
}
