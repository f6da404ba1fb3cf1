//! A face by its landmarks: its shading against stand-in heads.

use super::{Carry, Desk, Kind, Turn, check};
use direction::{face, strongest};
use crate::marks::check::MOST_LANDMARKS;
use crate::marks::desk::{Shading, round, stops};
use crate::readings::*;
use direction::shapes::Point;
use optics::geometry::{AzEl, clock_of};
use optics::words;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use std::collections::BTreeMap;
use std::sync::Arc;

/// Turn of a head from which half of the face is hidden.
const PROFILE_DEG: f64 = 50.0;

/// A face by its landmarks.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = FaceMark)]
pub struct Face {
    /// Named points, pixels.
    #[schema(value_type = BTreeMap<String, optics::geometry::Pair>)]
    pub points: BTreeMap<String, [f64; 2]>,
    /// Points of a face mesh that found the face, in the order of that mesh of 468 points and, after them, 10 of the irises:
    /// pixels right, down, and away from the lens. Left out where the face is marked by hand.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(value_type = Vec<optics::geometry::Triple>)]
    pub dense: Vec<[f64; 3]>,
}

/// Points a face mesh has, without irises and with them.
const MESH: [usize; 2] = [468, 478];

impl Kind for Face {
    fn check(&self) -> Result<(), String> {
        check::at_most("points", "named points", self.points.len(), MOST_LANDMARKS)?;
        self.points.values().try_for_each(|p| check::finite("points", p))?;
        if !self.dense.is_empty() && !MESH.contains(&self.dense.len()) {
            let [bare, irises] = MESH;
            return Err(format!("dense has {} points; a face mesh has {bare} or, with irises, {irises}", self.dense.len()));
        }
        self.dense.iter().try_for_each(|p| check::finite("dense", p))
    }

    fn carry(&mut self, c: &Carry) {
        self.points.values_mut().for_each(|p| *p = c.point(p));
        for p in &mut self.dense {
            let [x, y] = c.point(&[p[0], p[1]]);
            *p = [x, y, p[2]];
        }
    }

    fn anchor(&self) -> Option<Point> {
        self.points.values().next().copied()
    }

    fn place(&self) -> Option<Point> {
        self.points.get("nose_tip").copied()
    }

    fn is_costly(&self) -> bool {
        true
    }

    fn turn(&self, _: bool) -> Turn {
        Turn::AfterProbes
    }

    fn read(&self, desk: &mut Desk) -> MarkReading {
        let points = &self.points;
        let mesh: Vec<Point> = self.dense.iter().map(|p| [p[0], p[1]]).collect();
        let marked = face::Marked { named: points, mesh: &mesh };
        let before = desk.before.face.as_deref();
        let heads = (desk.heads)();
        let read = match before {
            Some(b) => face::follow(desk.photo, desk.camera, marked, heads, b),
            None => face::read(desk.photo, desk.camera, marked, heads, desk.hints),
        };
        let r = match read {
            Ok(r) => r,
            Err(problem) => return desk.unread("face_unread", &problem),
        };
        // what is followed goes on from the full reading, or errors would add up
        desk.now.face = Some(Box::new(before.unwrap_or(&r).clone()));
        let shape = r.shape().iter().map(|w| round(*w, 2)).collect();
        desk.now.shading =
            Some(Arc::new(Shading { lights: r.lights.iter().map(|l| l.direction).collect(), places: r.shading }));
        desk.now.around = Some(Arc::new(r.around));
        let zero = strongest(r.lights.iter());
        let lights = r.lights.iter().map(|s| desk.sighting(s, clock_of(s.direction.x, s.direction.y), zero)).collect();
        for s in r.lights {
            desk.witness(s, zero, None, false);
        }
        if let (Some((a, sd)), Some(z)) = (r.log_ambient, zero) {
            desk.now.ambient = Some((stops(a - z), stops(sd)));
        }
        // another light that may be there would fill
        let alone = r.refused.is_none();
        desk.now.ambient_most = r.log_ambient_most.filter(|_| alone).zip(zero).map(|(a, z)| stops(a - z));
        if r.clipped > 0.1 {
            desk.warn("clipped", format!("{:.0} % of the face is clipped and weighs little.", 100.0 * r.clipped));
        }
        if let Some((d, probable)) = r.refused {
            let at = AzEl::of(&d);
            let from = words::direction_words(at.azimuth_deg, at.elevation_deg);
            desk.warn("maybe_another",
                format!(
                    "One more light, at {from}, is {:.0} % probable by this face: not enough to count it. Catchlights, a marked rim \
                     or a second picture would tell.",
                    100.0 * probable
                ),
            );
        }
        let [turned, nodded, tilted] = r.pose_deg.map(|d| round(d, 1));
        if turned.abs() > PROFILE_DEG {
            desk.warn("face_profile",
                "The head is turned far: one side of the face is hidden, and what light falls there cannot be told.",
            );
        }
        let (w, h) = (f64::from(desk.photo.width()), f64::from(desk.photo.height()));
        let near = |p: &&[f64; 2]| p[0] < 2.0 || p[1] < 2.0 || p[0] > w - 2.0 || p[1] > h - 2.0;
        if points.values().any(|p| near(&p)) {
            desk.warn("face_cut",
                "The face touches the edge of the picture: what lies outside is missing from the evidence.",
            );
        }
        MarkReading {
            lights,
            face: Some(FaceView {
                turned_deg: turned,
                turned_sd_deg: round(r.turn_sd_deg, 1),
                nodded_deg: nodded,
                nodded_sd_deg: round(r.nod_sd_deg, 1),
                tilted_deg: tilted,
                map: r.map.iter().map(|([x, y], s)| [round(*x, 1), round(*y, 1), round(*s, 2)]).collect(),
                shape,
                skin: r.skin.map(|c| c.map(|v| round(v, 3))),
                shadow_edges: r.edges,
                heads: r.heads.iter().map(|(n, w)| HeadShare { name: (*n).into(), share: round(*w, 2) }).collect(),
            }),
            fit: Some(Fit { residual_percent: round(100.0 * r.residual, 2), samples: r.samples }),
            ..Default::default()
        }
    }
}
