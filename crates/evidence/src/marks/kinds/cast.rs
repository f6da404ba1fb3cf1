//! A cast shadow: on the level floor it gives a direction, elsewhere the side round the picture.

use super::{Carry, Desk, Kind, check};
use direction::{Seen, cast};
use crate::readings::*;
use direction::shapes::Point;
use optics::geometry::clock_of;
use optics::words;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A cast shadow on a plane.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = CastMark)]
pub struct Cast {
    /// Foot of the object, pixels.
    #[schema(value_type = optics::geometry::Pair)]
    pub base: [f64; 2],
    /// Top of the object.
    #[schema(value_type = optics::geometry::Pair)]
    pub top: [f64; 2],
    /// Where the shadow of the top falls.
    #[schema(value_type = optics::geometry::Pair)]
    pub tip: [f64; 2],
    /// Height of the object in metres.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub height_m: Option<f64>,
    /// What the shadow falls on: the level floor, or something else (a face, a wall), where only the side it comes
    /// from round the picture can be told.
    #[serde(default, skip_serializing_if = "ShadowOn::is_floor")]
    pub on: ShadowOn,
}

/// What a shadow falls on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "lowercase")]
pub enum ShadowOn {
    /// The level floor.
    #[default]
    Floor,
    /// Anything else.
    Other,
}

impl ShadowOn {
    fn is_floor(&self) -> bool {
        *self == ShadowOn::Floor
    }
}

impl Kind for Cast {
    fn check(&self) -> Result<(), String> {
        check::finite("base", &self.base)?;
        check::finite("top", &self.top)?;
        check::finite("tip", &self.tip)
    }

    fn carry(&mut self, c: &Carry) {
        [&mut self.base, &mut self.top, &mut self.tip].into_iter().for_each(|p| *p = c.point(p));
    }

    fn anchor(&self) -> Option<Point> {
        Some(self.base)
    }

    fn read(&self, desk: &mut Desk) -> MarkReading {
        let (height_m, on) = (self.height_m, self.on);
        let points = cast::CastPoints { base: self.base, top: self.top, tip: self.tip };
        let sd = cast::PointsSd::of(desk.photo, &points);
        if on == ShadowOn::Other || !desk.camera_known {
            let (towards, sd) = match cast::round_picture(points, sd) {
                Ok(r) => r,
                Err(problem) => return desk.unread("shadow_unread", &problem),
            };
            if on == ShadowOn::Floor {
                desk.warn("shadow_camera",
                    "With the camera's field of view and tilt a shadow on the floor tells the whole direction; so far only the side it comes from.",
                );
            }
            let round = desk.round_the_clock(towards, sd, None);
            let says = format!(
                "The light lies at {} ± {:.0}° round the picture; how far from the lens this cannot tell.",
                words::clock_words(round.clock),
                round.clock_sd_deg
            );
            return MarkReading { round: Some(round), says, ..Default::default() };
        }
        let r = match cast::read(desk.camera, desk.camera_known, points, sd) {
            Ok(r) => r,
            Err(problem) => return desk.unread("shadow_unread", &problem),
        };
        if let (Some(h), Some(c)) = (height_m, desk.marks.camera.as_ref().and_then(|c| c.height_m))
            && (r.relative_height * c / h).ln().abs() > 0.35
        {
            let seen = r.relative_height * c;
            desk.warn("shadow_height",
                format!("By the camera's height and tilt the object is {seen:.2} m high, not {h:.2} m: one of them is wrong."),
            );
        }
        let seen =
            Seen { direction: r.direction, direction_sd: r.direction_sd, log_size: None, log_level: None, rgb: None };
        let sighting = desk.sighting(&seen, clock_of(seen.direction.x, seen.direction.y), None);
        desk.witness(seen, None, None, false);
        MarkReading { lights: vec![sighting], ..Default::default() }
    }
}
