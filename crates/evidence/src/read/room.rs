//! A whole room in a mirror ball: its lights take the place of what the balls' own methods say.

use super::{Reader, degrees, round, stops};
use crate::direction::ball_matte::Shades;
use crate::direction::fusion::Evidence;
use crate::direction::room::{self, Room};
use crate::readings::{RoomView, Warning};
use optics::geometry::{AzEl, Vec3};
use std::collections::BTreeSet;

/// Rows of the map that goes with the readings: cells of ten degrees.
const ROWS: usize = 18;
/// Warnings of the balls' own methods that a room explains.
const EXPLAINED: [&str; 4] = ["poor_fit", "highlight_clipped", "no_highlight", "ball_unread"];
/// Spread of the light from all around, stops.
const AROUND_SD: f64 = 0.4;
/// Part of the light that must be inferred for it to be said.
const MUCH: f64 = 0.1;

impl Reader<'_> {
    /// The room that the largest mirror ball shows, if it shows one.
    pub(super) fn mirrored(&self) -> Option<(String, Room)> {
        let (id, ball) = self.mirrors.iter().max_by(|a, b| a.1.radius.total_cmp(&b.1.radius))?;
        let mattes: Vec<&Shades> = self.mattes.iter().map(|m| &*m.1).collect();
        let lights: Vec<(Vec3, f64)> = self
            .evidence
            .iter()
            .filter(|e| e.mark == *id)
            .map(|e| (e.seen.direction, 0.5 * e.seen.log_size.map_or(0.1, |s| s.0.exp())))
            .collect();
        Some((id.clone(), room::read(self.photo, &self.camera, *ball, &mattes, &lights)?))
    }

    /// Takes a room's lights in the place of the balls' own.
    pub(super) fn room(&mut self) -> Option<RoomView> {
        let (id, room) = self.mirrored()?;
        let balls: BTreeSet<&String> =
            self.mirrors.iter().map(|m| &m.0).chain(self.mattes.iter().map(|m| &m.0)).collect();
        self.evidence.retain(|e| !balls.contains(&e.mark));
        self.ambient.retain(|a| !balls.contains(&a.0));
        let explained =
            |w: &Warning| w.mark.as_ref().is_some_and(|m| balls.contains(m)) && EXPLAINED.contains(&&*w.code);
        self.warnings.retain(|w| !explained(w));
        for (mark, reading) in self.by_mark.iter_mut().filter(|(m, _)| balls.contains(m)) {
            reading.lights.clear();
            reading.says = if *mark == id {
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
        if self.mattes.is_empty() && room.inferred > MUCH {
            self.warnings.push(Warning::on(
                &id,
                "inferred",
                format!(
                    "{:.0} % of the light is guessed: it is clipped in the mirror ball or hidden behind it. A matte ball beside it, \
                     or a second, darker picture, tells how bright it is.",
                    100.0 * room.inferred
                ),
            ));
        }
        let evidence = [&id].into_iter().chain(self.mattes.iter().map(|m| &m.0)).cloned().collect();
        Some(view(&room, evidence))
    }
}

fn view(room: &Room, evidence: Vec<String>) -> RoomView {
    let at = AzEl::of(&room.mean);
    let small = room.map.coarser(ROWS);
    let mean = small.mean().1 / (4.0 * std::f64::consts::PI);
    RoomView {
        azimuth_deg: round(at.azimuth_deg, 1),
        elevation_deg: round(at.elevation_deg, 1),
        direction_sd_deg: degrees(room.mean_sd),
        directional: round(room.mean.norm(), 3),
        leads: room.leads,
        key_share: round(room.share, 3),
        inferred: round(room.inferred, 3),
        misfit_percent: room.left_over.map(|l| round(100.0 * l, 1)),
        rows: ROWS,
        map_stops: (0..small.len()).map(|i| round((small.luminance(i) / mean).max(1e-3).log2(), 1)).collect(),
        evidence,
    }
}
