//! What the evidence leaves open: competing explanations, kept with what would tell them apart.

use super::{Reader, round};
use crate::marks::MarkKind;
use crate::readings::{Ambient, Explanation, Light, Question};
use direction::fusion::Fused;
use direction::gradient::EVEN_STOPS;
use optics::geometry::clock_of;
use optics::role::Role;

/// Angular size from which one source may as well be two side by side.
const WIDE_DEG: f64 = 30.0;
/// Share of wide keys that are one source, where nothing speaks (common practice, ours).
const ONE_SOURCE: f64 = 0.7;
/// Hours of the clock within which a background brightens towards the key.
const SAME_SIDE_HOURS: f64 = 1.7;
/// Angular size from which a fill is as good as light from all around.
const AROUND_DEG: f64 = 100.0;

impl Reader<'_> {
    pub(super) fn questions(&self, fused: &[Fused], lights: &[Light], ambient: Option<&Ambient>) -> Vec<Question> {
        let mut out = Vec::new();
        out.extend(self.one_or_two(lights));
        out.extend(self.what_fills(fused, lights, ambient));
        out.extend(self.which_way(lights));
        out.extend(self.background(lights));
        out
    }

    /// Marks that show a picture of the source, not only its sum.
    fn mirrors(&self, marks: &[String]) -> bool {
        let shows = |k: &MarkKind| matches!(k, MarkKind::Eye(_)) || k.shows_sources();
        self.marks.marks.iter().any(|m| marks.contains(&m.id) && shows(&m.kind))
    }

    /// Shading sums light: a wide source and two narrower ones side by side look alike on matte things.
    fn one_or_two(&self, lights: &[Light]) -> Option<Question> {
        let key = lights.first()?;
        let size = key.angular_size_deg.filter(|s| *s >= WIDE_DEG)?;
        let [lo, hi] = key.angular_size_range_deg?;
        if self.mirrors(&key.evidence) || hi > 4.0 * lo {
            return None;
        }
        let apart = 0.6 * size;
        Some(Question {
            about: "the key".into(),
            options: vec![
                Explanation { says: format!("One source {size:.0}° wide."), probability: ONE_SOURCE },
                Explanation {
                    says: format!("Two smaller ones about {apart:.0}° apart, of about one strength."),
                    probability: round(1.0 - ONE_SOURCE, 2),
                },
            ],
            test: "Look into an eye or a mirror ball: one catchlight or two. In a set of your own, switch one off: the shadow edge jumps if they were two.".into(),
        })
    }

    /// A weak light on the other side may be a lamp, a board, or the room.
    fn what_fills(&self, fused: &[Fused], lights: &[Light], ambient: Option<&Ambient>) -> Option<Question> {
        let fill = lights.iter().zip(fused).skip(1).find(|(l, _)| l.role == Role::Fill);
        if let Some((l, f)) = fill {
            if self.mirrors(&l.evidence) {
                return None;
            }
            let level = l.level_stops?;
            // A board gives back part of the key: seldom within a stop of it. A wide fill may be the room.
            let lamp = if level > -1.0 {
                0.8
            } else if level > -2.0 {
                0.5
            } else {
                0.3
            };
            let room = f.seen.log_size.map_or(0.15, |(s, sd)| {
                let z = (s.exp().to_degrees() / AROUND_DEG).ln() / sd.max(0.2);
                0.6 / (1.0 + (-1.7 * z).exp())
            });
            let (lamp, board) = (lamp * (1.0 - room), (1.0 - lamp) * (1.0 - room));
            let side = if l.azimuth_deg >= 0.0 { "right" } else { "left" };
            let mut options = vec![
                Explanation { says: format!("A lamp of its own on the {side}."), probability: round(lamp, 2) },
                Explanation {
                    says: format!("A board or a wall on the {side} that gives back the key."),
                    probability: round(board, 2),
                },
                Explanation { says: "The room: light from all around.".into(), probability: round(room, 2) },
            ];
            options.sort_by(|a, b| b.probability.total_cmp(&a.probability));
            return Some(Question {
                about: "the fill".into(),
                options,
                test: "Switch the key off: a lamp's fill stays as it was, a board's goes out with the key, the room's stays and has no side. Or hold a black board between: what darkens names it.".into(),
            });
        }
        // No second light: what lifts the shadows has no side that the evidence shows.
        let a = ambient.filter(|a| a.level_stops > -5.0)?;
        let sure = a.level_sd_stops < 0.3;
        let (room, board) = if sure { (0.7, 0.3) } else { (0.55, 0.45) };
        Some(Question {
            about: "what lifts the shadows".into(),
            options: vec![
                Explanation {
                    says: format!("The room: {:.1} stops under the key from all around.", -a.level_stops),
                    probability: room,
                },
                Explanation { says: "A large white board or a near wall on the dark side.".into(), probability: board },
            ],
            test: "Hold a black board on the dark side: if the shadows sink by more than half a stop, it was a board or a wall there.".into(),
        })
    }

    /// A graded background: the key's spill, or a light of its own.
    fn background(&self, lights: &[Light]) -> Option<Question> {
        let g = self.by_mark.values().find_map(|m| m.gradient).filter(|g| g.stops >= EVEN_STOPS)?;
        let own = "A light of its own on the background.".to_owned();
        let (options, test) = if g.top.is_some() {
            (
                vec![(own, 0.8), ("Spill of another light, cut by a flag or by the subject's shadow.".into(), 0.2)],
                "that",
            )
        } else {
            let key = lights.first()?;
            let at = key.at().vector();
            let apart = (clock_of(at.x, at.y) - g.clock).rem_euclid(12.0);
            let spill = "Spill of the key: it falls off away from the key's side.".to_owned();
            if apart.min(12.0 - apart) < SAME_SIDE_HOURS {
                (vec![(spill, 0.7), (own, 0.3)], "the key's")
            } else {
                (
                    vec![(own, 0.75), ("Spill of another light: it does not fall off away from the key.".into(), 0.25)],
                    "that",
                )
            }
        };
        Some(Question {
            about: "the background".into(),
            options: options.into_iter().map(|(says, probability)| Explanation { says, probability }).collect(),
            test: format!(
                "Switch the lights off one by one: what darkens the background was {test} light. A grid or a flag takes spill away."
            ),
        })
    }

    /// A turned eye whose side is open leaves two directions.
    fn which_way(&self, lights: &[Light]) -> Option<Question> {
        let key = lights.first()?;
        let sightings = self.by_mark.iter().filter(|(id, _)| key.evidence.contains(id));
        let open =
            sightings.filter_map(|(_, m)| m.catchlights.as_ref()?.iter().find_map(|s| Some((s.clone(), s.otherwise?))));
        let (s, other) = open.into_iter().next()?;
        let at = |az: f64, el: f64| optics::words::direction_words(az, el);
        let (a, b) = (at(s.azimuth_deg, s.elevation_deg), at(other.azimuth_deg, other.elevation_deg));
        (key.evidence.len() == 1).then(|| Question {
            about: "which way the eye looks".into(),
            options: vec![
                Explanation { says: format!("The key is at {a}."), probability: 0.5 },
                Explanation { says: format!("The key is at {b}."), probability: 0.5 },
            ],
            test: "Say towards which side the eye looks, or mark the face: the turn of the eye settles it.".into(),
        })
    }
}
