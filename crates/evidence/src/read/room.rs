//! A whole room: in a mirror ball its lights take the place of what the balls' own methods say; on a face on which no light
//! leads it takes the place of the face's.

use super::{Reader, degrees, round, stops};
use crate::marks::{Finish, Mark, MarkKind};
use crate::readings::{RoomShown, RoomView, Warning};
use direction::ball_matte::{self, Shades};
use direction::fusion::Evidence;
use direction::room::{self, Room};
use optics::geometry::{AzEl, Vec3};
use optics::light_map::LightMap;
use std::collections::BTreeSet;
use std::sync::Arc;

/// Rows of the map that goes with the readings: cells of ten degrees.
const ROWS: usize = 18;
/// Warnings of the balls' own methods that a room explains.
const EXPLAINED: [&str; 5] = ["poor_fit", "highlight_clipped", "no_highlight", "ball_unread", "summed"];
/// Spread of the light from all around, stops.
const AROUND_SD: f64 = 0.4;
/// How directional light must be to have a side to speak of.
const A_SIDE: f64 = 0.1;
/// Part of the light that must be inferred for it to be said.
const MUCH: f64 = 0.1;

/// A room that was read, with the marks that say so.
pub(super) struct Mirrored {
    mirror: String,
    mattes: Vec<String>,
    pub(super) room: Room,
}

/// The room of a picture's balls, kept while other marks change: the balls as they were marked, and what they showed.
pub(super) type Kept = (Vec<Mark>, Option<Arc<Mirrored>>);

impl Reader<'_> {
    /// The room that the largest mirror ball shows, if it shows one; `quick` while a ball is dragged.
    pub(super) fn mirrored(&self, quick: bool) -> Option<Mirrored> {
        let (id, ball) = self.mirrors.iter().max_by(|a, b| a.1.radius.total_cmp(&b.1.radius))?;
        let matte = |m: &Mark| match &m.kind {
            MarkKind::Ball(b) if !m.off && b.finish == Finish::Matte => {
                Some((m.id.clone(), ball_matte::shades(self.photo, self.camera, b.centre, b.radius_px).ok()?))
            }
            _ => None,
        };
        let (mattes, shades): (Vec<String>, Vec<Shades>) = self.marks.marks.iter().filter_map(matte).unzip();
        let lights: Vec<(Vec3, f64)> = self
            .evidence
            .iter()
            .filter(|e| e.mark == *id)
            .map(|e| (e.seen.direction, 0.5 * e.seen.log_size.map_or(0.1, |s| s.0.exp())))
            .collect();
        let room = room::read(self.photo, &self.camera, *ball, &shades, &lights, quick)?;
        Some(Mirrored { mirror: id.clone(), mattes, room })
    }

    /// Takes a room's lights in the place of the balls' own.
    pub(super) fn room(&mut self, mirrored: &Mirrored) -> RoomView {
        let Mirrored { mirror: id, mattes, room } = mirrored;
        let balls: BTreeSet<&String> = self.mirrors.iter().map(|m| &m.0).chain(mattes).collect();
        self.evidence.retain(|e| !balls.contains(&e.mark));
        self.ambient.retain(|a| !balls.contains(&a.0));
        let explained =
            |w: &Warning| w.mark.as_ref().is_some_and(|m| balls.contains(m)) && EXPLAINED.contains(&&*w.code);
        self.warnings.retain(|w| !explained(w));
        for (mark, reading) in self.by_mark.iter_mut().filter(|(m, _)| balls.contains(m)) {
            reading.lights.clear();
            reading.says = if mark == id {
                "A whole room is mirrored: it is read as a map of light.".into()
            } else {
                "Its shading tells how bright the room's lights are.".into()
            };
        }
        if room.leads {
            let zero = room.lights.first().and_then(|l| l.log_level).map_or(0.0, |l| l.0);
            self.evidence.extend(room.lights.iter().map(|seen| Evidence {
                mark: id.clone(),
                relative_level: seen.log_level.map(|(l, sd)| (l - zero, sd)),
                seen: seen.clone(),
                otherwise: None,
                counts_lights: true,
                shows: true,
                place_m: None,
            }));
            self.ambient.push((id.clone(), stops(room.log_rest - zero), AROUND_SD));
        }
        if mattes.is_empty() && room.inferred > MUCH {
            self.warnings.push(Warning::on(
                id,
                "inferred",
                format!(
                    "{:.0} % of the light is guessed: it is clipped in the mirror ball or hidden behind it. A matte ball beside it, \
                     or a second, darker picture, tells how bright it is.",
                    100.0 * room.inferred
                ),
            ));
        }
        view(room, [id].into_iter().chain(mattes).cloned().collect())
    }

    /// Where faces and their eyes are all that speaks, and no light leads on the face that is read: the mean light, and no light is
    /// named.
    pub(super) fn without_lead(&mut self) -> Option<RoomView> {
        let of = |id: &String| self.marks.marks.iter().find(|m| &m.id == id).map(|m| &m.kind);
        let faces_and_eyes = |id: &String| matches!(of(id), Some(MarkKind::Face(_) | MarkKind::Eye(_)));
        let (id, around) = self.arounds.first()?;
        if around.leads || !self.evidence.iter().all(|e| faces_and_eyes(&e.mark)) {
            return None;
        }
        let (id, around) = (id.clone(), around.clone());
        let marks: BTreeSet<String> = self.by_mark.keys().filter(|m| faces_and_eyes(m)).cloned().collect();
        self.evidence.clear();
        self.ambient.clear();
        self.warnings.retain(|w| w.code != "maybe_another" && w.code != "set_aside");
        for (_, reading) in self.by_mark.iter_mut().filter(|(m, r)| marks.contains(*m) && r.face.is_some()) {
            reading.lights.clear();
            reading.says = "Light from all around is stronger than any one light on this face: none is named.".into();
        }
        let at = AzEl::of(&around.mean);
        Some(RoomView {
            azimuth_deg: round(at.azimuth_deg, 1),
            elevation_deg: round(at.elevation_deg, 1),
            direction_sd_deg: degrees(around.mean_sd),
            directional: round(around.mean.norm(), 3),
            directional_sd: round(around.directional_sd, 3),
            leads: false,
            has_side: around.mean.norm() > A_SIDE,
            key_share: round(around.share.0, 3),
            key_share_sd: round(around.share.1, 3),
            shown_by: RoomShown::Face,
            inferred: 0.0,
            misfit_percent: None,
            rows: ROWS,
            map_stops: stops_of(&around.map),
            evidence: vec![id],
        })
    }
}

/// Stops of each cell of a map against its mean.
fn stops_of(map: &LightMap) -> Vec<f64> {
    let mean = map.mean().1 / (4.0 * std::f64::consts::PI);
    (0..map.len()).map(|i| round((map.luminance(i) / mean).max(1e-3).log2(), 1)).collect()
}

fn view(room: &Room, evidence: Vec<String>) -> RoomView {
    let at = AzEl::of(&room.mean);
    RoomView {
        azimuth_deg: round(at.azimuth_deg, 1),
        elevation_deg: round(at.elevation_deg, 1),
        direction_sd_deg: degrees(room.mean_sd),
        directional: round(room.mean.norm(), 3),
        directional_sd: round(room.directional_sd, 3),
        leads: room.leads,
        key_share: round(room.share.0, 3),
        key_share_sd: round(room.share.1, 3),
        has_side: room.mean.norm() > A_SIDE,
        shown_by: RoomShown::Mirror,
        inferred: round(room.inferred, 3),
        misfit_percent: room.left_over.map(|l| round(100.0 * l, 1)),
        rows: ROWS,
        map_stops: stops_of(&room.map.coarser(ROWS)),
        evidence,
    }
}
