//! A patch of one material: how bright it is.

use super::{Carry, Desk, Kind, check};
use crate::levels;
use crate::patch_role::PatchRole;
use crate::readings::*;
use direction::shapes::Point;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A patch of one material.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = PatchMark)]
pub struct Patch {
    /// What the patch shows.
    pub role: PatchRole,
    /// Corners, pixels.
    #[schema(value_type = Vec<optics::geometry::Pair>)]
    pub polygon: Vec<[f64; 2]>,
}

impl Kind for Patch {
    fn check(&self) -> Result<(), String> {
        check::corners("polygon", &self.polygon)
    }

    fn carry(&mut self, c: &Carry) {
        self.polygon = c.points(&self.polygon);
    }

    fn anchor(&self) -> Option<Point> {
        self.polygon.first().copied()
    }

    fn place(&self) -> Option<Point> {
        direction::shapes::middle(&self.polygon)
    }

    fn read(&self, desk: &mut Desk) -> MarkReading {
        match levels::measure(desk.photo, &self.polygon) {
            Ok(p) => {
                if p.clipped_fraction > 0.02 {
                    let text = format!("{:.0} % of the patch is clipped and was left out.", 100.0 * p.clipped_fraction);
                    desk.warn("clipped", text);
                }
                desk.now.patch = Some((self.role, p.clone()));
                MarkReading { patch: Some(p), ..Default::default() }
            }
            Err(problem) => {
                let code = if problem == levels::PatchProblem::Clipped { PATCH_CLIPPED } else { "patch_unread" };
                desk.unread(code, &problem)
            }
        }
    }
}
