//! Balls, eyes, patches, shadows, cylinders, wedges and faces: from a mark to its reading.

use super::{COMPLETE_PX, CRISP_EDGE_DEG, PROFILE_DEG, Reader, SMALL_IRIS_SIZE, Shading, degrees, round, stops};
use crate::direction::face;
use crate::direction::{Seen, ball_matte, ball_mirror, cast, cylinder, eye, penumbra, spot, strongest};
use crate::levels;
use crate::marks::{MarkKind, PatchRole, ShadowOn};
use crate::readings::*;
use optics::geometry::{AzEl, SeenSphere, clock_of};
use optics::words::{self, capital};
use std::sync::Arc;

impl Reader<'_> {
    pub(super) fn matte(
        &mut self,
        id: &str,
        centre: [f64; 2],
        radius: f64,
        start: Option<&ball_matte::Start>,
        hints: &[face::Hint],
    ) -> MarkReading {
        let shown: Vec<ball_matte::Shown> = hints
            .iter()
            .filter_map(|h| Some(ball_matte::Shown { direction: h.direction, half: h.size? / 2.0 }))
            .collect();
        let r = match ball_matte::read(self.photo, self.camera, centre, radius, start, &shown) {
            Ok(r) => r,
            Err(problem) => {
                self.warn(id, "ball_unread", format!("{}.", capital(&problem.to_string())));
                return MarkReading { says: format!("{}.", capital(&problem.to_string())), ..Default::default() };
            }
        };
        let zero = r.lights.first().and_then(|l| l.log_level).map(|l| l.0);
        let lights = r.lights.iter().map(|s| self.sighting(s, clock_of(s.direction.x, s.direction.y), zero)).collect();
        self.now.balls = Some(r.start);
        // several lights have no one angle: fitted against measured shows what is left over
        let points: Vec<[f64; 3]> = r.points.iter().map(|[fitted, measured]| [*fitted, *measured, *fitted]).collect();
        let names = ["light by the fit, brightest = 1", "light measured", "where both agree"];
        let plot = plot(names, &points, |v| v);
        for s in r.lights {
            self.witness(id, s, zero, None, true);
        }
        if let (Some((a, sd)), Some(z)) = (r.log_ambient, zero) {
            self.now.ambient = Some((stops(a - z), stops(sd)));
        }
        if r.residual > 0.03 {
            self.warn(
                id,
                "poor_fit",
                format!(
                    "The ball's shading fits its best model only to {:.0} % of the bright side: a tone curve, gloss, \
                     a reflection from the table or a shadow on it may be the reason. The spread is widened.",
                    100.0 * r.residual
                ),
            );
        }
        if r.clipped > 0.03 {
            self.warn(id, "clipped", format!("{:.0} % of the ball is clipped and was left out.", 100.0 * r.clipped));
        }
        let e = r.outline.ellipse;
        MarkReading {
            lights,
            circle: Some([round(e.centre[0], 2), round(e.centre[1], 2), round(e.rx, 2)]),
            fit: Some(Fit { residual_percent: round(100.0 * r.residual, 2), samples: r.samples }),
            plot: Some(plot),
            ..Default::default()
        }
    }

    pub(super) fn mirror(&mut self, id: &str, centre: [f64; 2], radius: f64) -> MarkReading {
        if radius < 4.0 || self.outside(centre) {
            let text = if radius < 4.0 {
                "The ball is too small to read: mark one at least 8 pixels across."
            } else {
                "Most of the ball lies outside the picture."
            };
            self.warn(id, "ball_unread", text);
            return MarkReading { says: text.into(), ..Default::default() };
        }
        let r = ball_mirror::read(self.photo, self.camera, centre, radius);
        if r.lights.is_empty() {
            let text =
                "No highlight stands out in the mirror ball: no light is reflected there, or all is evenly bright.";
            self.warn(id, "no_highlight", text);
            return MarkReading { says: text.into(), ..Default::default() };
        }
        let zero = strongest(r.lights.iter().map(|l| &l.0));
        let e = r.outline.ellipse;
        let sphere = SeenSphere::from_silhouette(self.camera, e.centre, e.rx);
        let lights = r
            .lights
            .iter()
            .map(|(s, b)| {
                let clock = clock_of(b.centre[0] - e.centre[0], e.centre[1] - b.centre[1]);
                let shape = spot::shape(b, |x, y| sphere.mirrored(x, y));
                Sighting {
                    outline: b.outline.clone(),
                    at: Some(b.centre.map(|v| round(v, 2))),
                    aspect: shape.map(|a| round(a.0, 2)),
                    corners: shape.and_then(spot::corners).map(|c| round(c, 2)),
                    feather: spot::feather(self.photo, b, &sphere).map(|f| round(f, 3)),
                    ..self.sighting(s, clock, zero)
                }
            })
            .collect();
        if r.lights.iter().any(|l| l.1.clipped) {
            self.warn(id, "highlight_clipped", "A highlight is clipped: the strength of that light is a guess.");
        }
        for (s, _) in r.lights {
            self.witness(id, s, zero, None, false);
        }
        MarkReading {
            lights,
            circle: Some([round(e.centre[0], 2), round(e.centre[1], 2), round(e.rx, 2)]),
            ..Default::default()
        }
    }

    pub(super) fn eye(
        &mut self,
        id: &str,
        limbus: &crate::marks::Ellipse,
        looks: Option<f64>,
        outlines: Option<&[crate::marks::Outline]>,
    ) -> MarkReading {
        let unread = |me: &mut Self, text: &str| {
            me.warn(id, "eye_unread", text);
            MarkReading { catchlights: Some(Vec::new()), says: text.into(), ..Default::default() }
        };
        if self.outside(limbus.centre) {
            return unread(self, "The iris lies outside the picture.");
        }
        if limbus.rx.max(limbus.ry) < 3.0 {
            return unread(self, "The iris is too small to read: mark one at least 6 pixels across.");
        }
        if limbus.rx.min(limbus.ry) < 0.3 * limbus.rx.max(limbus.ry) {
            return unread(self, "The iris is drawn too flat: an eye turned that far shows no usable reflection.");
        }
        let mut r = eye::read(self.photo, self.camera, *limbus, looks, outlines);
        if r.contradiction {
            self.warn(
                id,
                "gaze_contradiction",
                "The side the eye is said to look towards does not match the short axis of the marked ellipse; check both.",
            );
        }
        let settled_by = match r.settled {
            eye::SettledBy::Mark => "mark",
            eye::SettledBy::White => "white",
            eye::SettledBy::Straight => "straight",
            eye::SettledBy::Open => "open",
        };
        if r.settled == eye::SettledBy::Open && !r.catchlights.is_empty() {
            self.warn(
                id,
                "gaze_open",
                "The eye is turned, but the ellipse does not say which way: both solutions are kept and the spread \
                 covers them. Say where it looks (looks_to_clock) to settle it.",
            );
        }
        let gaze = Gaze { turned_deg: degrees(r.turned), clock: round(r.gaze_clock, 1), settled_by: settled_by.into() };
        if r.catchlights.is_empty() {
            let text = "No catchlight found: no light is reflected there, or the eye is closed.";
            self.warn(id, "no_catchlight", text);
            return MarkReading {
                catchlights: Some(Vec::new()),
                gaze: Some(gaze),
                says: text.into(),
                ..Default::default()
            };
        }
        // a catchlight of a pixel or two has no measured size
        if limbus.rx.max(limbus.ry) < COMPLETE_PX {
            let sizes = r.catchlights.iter_mut().filter_map(|c| c.seen.log_size.as_mut());
            sizes.for_each(|(_, sd)| *sd = sd.hypot(SMALL_IRIS_SIZE));
        }
        let zero = strongest(r.catchlights.iter().map(|c| &c.seen));
        let mut sightings = Vec::new();
        for c in &r.catchlights {
            let mut s = self.sighting(&c.seen, c.clock, zero);
            s.outline = c.blob.outline.clone();
            s.at = Some(c.blob.centre.map(|v| round(v, 2)));
            s.aspect = c.shape.map(|a| round(a.0, 2));
            s.corners = c.shape.and_then(spot::corners).map(|a| round(a, 2));
            s.otherwise = c.otherwise.map(|d| {
                let a = AzEl::of(&d);
                OtherDirection { azimuth_deg: round(a.azimuth_deg, 2), elevation_deg: round(a.elevation_deg, 2) }
            });
            sightings.push(s);
        }
        if r.catchlights.iter().any(|c| c.cut) {
            self.warn(
                id,
                "catchlight_cut",
                "A catchlight is cut by a lid or the edge of the iris: its size is at least what is stated.",
            );
        }
        let small = limbus.rx.max(limbus.ry) < 25.0;
        if small {
            self.warn(id, "eye_small", "The iris is only a few pixels across: its catchlights weigh little.");
        }
        for c in r.catchlights {
            self.witness(id, c.seen, zero, c.otherwise, false);
        }
        MarkReading { catchlights: Some(sightings), gaze: Some(gaze), ..Default::default() }
    }

    pub(super) fn patch(&mut self, id: &str, role: PatchRole, polygon: &[[f64; 2]]) -> MarkReading {
        match levels::measure(self.photo, polygon) {
            Ok(p) => {
                if p.clipped_fraction > 0.02 {
                    let text = format!("{:.0} % of the patch is clipped and was left out.", 100.0 * p.clipped_fraction);
                    self.warn(id, "clipped", text);
                }
                self.now.patch = Some((role, p.clone()));
                MarkReading { patch: Some(p), ..Default::default() }
            }
            Err(problem) => {
                let text = format!("{}.", capital(&problem.to_string()));
                self.warn(id, "patch_unread", text.clone());
                MarkReading { says: text, ..Default::default() }
            }
        }
    }

    /// Says why a mark could not be read.
    pub(super) fn unread(&mut self, id: &str, code: &str, problem: &dyn std::fmt::Display) -> MarkReading {
        let says = format!("{}.", capital(&problem.to_string()));
        self.warn(id, code, says.clone());
        MarkReading { says, ..Default::default() }
    }

    pub(super) fn cast(
        &mut self,
        id: &str,
        points: cast::CastPoints,
        height_m: Option<f64>,
        on: ShadowOn,
    ) -> MarkReading {
        if on == ShadowOn::Other || !self.camera_known {
            let (towards, sd) = match cast::round_picture(points) {
                Ok(r) => r,
                Err(problem) => return self.unread(id, "shadow_unread", &problem),
            };
            if on == ShadowOn::Floor {
                self.warn(
                    id,
                    "shadow_camera",
                    "With the camera's field of view and tilt a shadow on the floor tells the whole direction; so far only the side it comes from.",
                );
            }
            let round = self.round_the_clock(towards, sd, None);
            let says = format!(
                "The light lies at {} ± {:.0}° round the picture; how far from the lens this cannot tell.",
                words::clock_words(round.clock),
                round.clock_sd_deg
            );
            return MarkReading { round: Some(round), says, ..Default::default() };
        }
        let r = match cast::read(self.camera, self.camera_known, points) {
            Ok(r) => r,
            Err(problem) => return self.unread(id, "shadow_unread", &problem),
        };
        if let (Some(h), Some(c)) = (height_m, self.marks.camera.as_ref().and_then(|c| c.height_m))
            && (r.relative_height * c / h).ln().abs() > 0.35
        {
            let seen = r.relative_height * c;
            self.warn(
                id,
                "shadow_height",
                format!("By the camera's height and tilt the object is {seen:.2} m high, not {h:.2} m: one of them is wrong."),
            );
        }
        let seen =
            Seen { direction: r.direction, direction_sd: r.direction_sd, log_size: None, log_level: None, rgb: None };
        let sighting = self.sighting(&seen, clock_of(seen.direction.x, seen.direction.y), None);
        self.witness(id, seen, None, None, false);
        MarkReading { lights: vec![sighting], ..Default::default() }
    }

    /// An edge of a shadow. Without a gap, on a face, what the stand-ins have between it and the light in `key` serves.
    pub(super) fn penumbra(
        &mut self,
        id: &str,
        (a, b): ([f64; 2], [f64; 2]),
        gap_m: Option<f64>,
        px_per_m: Option<f64>,
        key: Option<&face::Hint>,
    ) -> MarkReading {
        let on_face = key.filter(|_| gap_m.is_none()).and_then(|key| {
            let points = self.marks.marks.iter().find_map(|m| match &m.kind {
                MarkKind::Face { points } if !m.off => Some(points),
                _ => None,
            })?;
            face::gap((self.heads)(), points, &self.camera, (a, b), &key.direction)
        });
        let (gap, scale) = on_face.map_or((gap_m, px_per_m), |g| (Some(g.gap_m / g.across), Some(g.px_per_m)));
        let mut r = match penumbra::read(self.photo, a, b, gap, scale) {
            Ok(r) => r,
            Err(problem) => return self.unread(id, "edge_unread", &problem),
        };
        if let Some(g) = on_face {
            r.angle = r.angle.map(|(a, sd)| (a, sd.hypot(g.log_sd)));
            self.warn(
                id,
                "edge_on_face",
                format!(
                    "What casts this edge stands {:.1} cm off by the stand-in heads; noses differ, so the size is told to a third.",
                    100.0 * g.gap_m
                ),
            );
        }
        if r.angle.is_none() {
            self.warn(
                id,
                "edge_scale",
                "With the gap to what casts the edge and the scale there, its width gives the light's size.",
            );
        }
        let size = r.angle.map(|(a, sd)| {
            let deg = a.to_degrees();
            (round(deg, 2), [deg * (-sd).exp(), deg * sd.exp()].map(|v| round(v, 2)))
        });
        if let Some((a, sd)) = r.angle.filter(|_| !r.unresolved) {
            self.now.size = Some((a.ln(), sd));
        }
        let says = match size {
            Some((d, _)) if r.unresolved => {
                format!("An edge as narrow as the picture resolves: the light fills at most {d:.1}°.")
            }
            Some((d, [lo, hi])) => {
                format!("The edge is {:.1} px wide: the light fills {}.", r.width_px, words::size_range(d, lo, hi))
            }
            None => format!("The edge is {:.1} px wide and {:.1} stops deep.", r.width_px, r.step_stops),
        };
        MarkReading {
            plot: Some(plot(["pixels across the edge", "linear light", "the fit"], &r.points, |v| v)),
            edge: Some(EdgeView {
                width_px: round(r.width_px, 2),
                step_stops: round(r.step_stops, 2),
                angular_size_deg: size.map(|s| s.0),
                angular_size_range_deg: size.map(|s| s.1),
                unresolved: r.unresolved,
            }),
            says,
            ..Default::default()
        }
    }

    pub(super) fn cylinder(&mut self, id: &str, axis: [[f64; 2]; 2], radius: f64) -> MarkReading {
        let r = match cylinder::read(self.photo, self.camera, axis, radius) {
            Ok(r) => r,
            Err(problem) => return self.unread(id, "cylinder_unread", &problem),
        };
        if r.strips.iter().any(|s| s.clipped) {
            self.warn(id, "highlight_clipped", "A bright line is clipped: it looks up to a pixel too wide.");
        }
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
            })
            .collect();
        let gaps =
            r.gaps.iter().map(|g| GapView { azimuth_from_deg: degrees(g[0]), azimuth_to_deg: degrees(g[1]) }).collect();
        let says = if strips.is_empty() {
            "No bright line: nothing bright is mirrored, or all is evenly bright.".to_owned()
        } else {
            let one = |s: &StripView| {
                let (a, b) = (s.azimuth_from_deg, s.azimuth_to_deg);
                format!("from {a:.0}° to {b:.0}° round the axis ({:.0}° wide, {})", b - a, s.edge)
            };
            let list: Vec<String> = strips.iter().map(one).collect();
            format!(
                "{} bright {}: {}.",
                strips.len(),
                if strips.len() == 1 { "line" } else { "lines" },
                list.join("; ")
            )
        };
        let plot = plot(
            ["azimuth round the axis, degrees", "linear light", "what counts as a bright line"],
            &r.profile,
            f64::to_degrees,
        );
        MarkReading { strips: Some(strips), gaps: Some(gaps), plot: Some(plot), says, ..Default::default() }
    }

    pub(super) fn wedge(&mut self, id: &str) -> MarkReading {
        let found = self.curves.iter().position(|c| c.0 == id);
        let Some(c) = found.map(|i| self.curves[i].1.clone()) else {
            let says = "The encoding is declared: the wedge is not needed.".to_owned();
            return MarkReading { says, ..Default::default() };
        };
        let c = match c {
            Ok(c) => c,
            Err(problem) => return self.unread(id, "wedge_unread", &problem),
        };
        if found != self.curves.iter().position(|c| c.1.is_ok()) {
            self.warn(id, "second_wedge", "Another wedge is used for the whole picture.");
        }
        let [lo, hi] = c.range_stops();
        let says = format!(
            "{} patches tell the camera's curve from {lo:+.1} to {hi:+.1} stops, within {:.2} stop; contrast at middle grey {:.2} of plain sRGB.",
            c.used,
            c.spread_stops.max(0.01),
            c.contrast()
        );
        let points: Vec<[f64; 3]> = c.points_stops().iter().map(|p| [p[0], p[1], p[0]]).collect();
        let names = ["stops from middle grey in the picture", "stops in the scene", "plain sRGB"];
        MarkReading {
            plot: Some(plot(names, &points, |v| v)),
            curve: Some(CurveView {
                points_stops: c.points_stops().iter().map(|p| p.map(|v| round(v, 3))).collect(),
                spread_stops: round(c.spread_stops, 4),
                contrast: round(c.contrast(), 3),
                left_out: c.left_out,
            }),
            says,
            ..Default::default()
        }
    }

    pub(super) fn face(
        &mut self,
        id: &str,
        points: &std::collections::BTreeMap<String, [f64; 2]>,
        before: Option<&face::FaceReading>,
        hints: &[face::Hint],
    ) -> MarkReading {
        let heads = (self.heads)();
        let read = match before {
            Some(b) => face::follow(self.photo, self.camera, points, heads, b),
            None => face::read(self.photo, self.camera, points, heads, hints),
        };
        let r = match read {
            Ok(r) => r,
            Err(problem) => return self.unread(id, "face_unread", &problem),
        };
        // what is followed goes on from the full reading, or errors would add up
        self.now.face = Some(Box::new(before.unwrap_or(&r).clone()));
        self.now.shading =
            Some(Arc::new(Shading { lights: r.lights.iter().map(|l| l.direction).collect(), places: r.shading }));
        let zero = strongest(r.lights.iter());
        let lights = r.lights.iter().map(|s| self.sighting(s, clock_of(s.direction.x, s.direction.y), zero)).collect();
        for s in r.lights {
            self.witness(id, s, zero, None, false);
        }
        if let (Some((a, sd)), Some(z)) = (r.log_ambient, zero) {
            self.now.ambient = Some((stops(a - z), stops(sd)));
        }
        if r.clipped > 0.1 {
            self.warn(id, "clipped", format!("{:.0} % of the face is clipped and weighs little.", 100.0 * r.clipped));
        }
        if let Some((d, probable)) = r.refused {
            let at = AzEl::of(&d);
            let from = words::direction_words(at.azimuth_deg, at.elevation_deg);
            self.warn(
                id,
                "maybe_another",
                format!(
                    "One more light, at {from}, is {:.0} % probable by this face: not enough to count it. Catchlights, a marked rim \
                     or a second picture would tell.",
                    100.0 * probable
                ),
            );
        }
        let [turned, nodded, tilted] = r.pose_deg.map(|d| round(d, 1));
        if turned.abs() > PROFILE_DEG {
            self.warn(
                id,
                "face_profile",
                "The head is turned far: one side of the face is hidden, and what light falls there cannot be told.",
            );
        }
        let (w, h) = (f64::from(self.photo.width()), f64::from(self.photo.height()));
        let near = |p: &&[f64; 2]| p[0] < 2.0 || p[1] < 2.0 || p[0] > w - 2.0 || p[1] > h - 2.0;
        if points.values().any(|p| near(&p)) {
            self.warn(
                id,
                "face_cut",
                "The face touches the edge of the picture: what lies outside is missing from the evidence.",
            );
        }
        MarkReading {
            lights,
            face: Some(FaceView {
                turned_deg: turned,
                turned_sd_deg: round(r.turn_sd_deg, 1),
                nodded_deg: nodded,
                tilted_deg: tilted,
                map: r.map.iter().map(|([x, y], s)| [round(*x, 1), round(*y, 1), round(*s, 2)]).collect(),
                shadow_edges: r.edges,
                heads: r.heads.iter().map(|(n, w)| HeadShare { name: (*n).into(), share: round(*w, 2) }).collect(),
            }),
            fit: Some(Fit { residual_percent: round(100.0 * r.residual, 2), samples: r.samples }),
            ..Default::default()
        }
    }
}

/// Samples for a plot, rounded; what is across, what is up, what the line is.
fn plot([across, up, line]: [&str; 3], points: &[[f64; 3]], unit: impl Fn(f64) -> f64) -> Plot {
    let points = points.iter().map(|[x, a, b]| [round(unit(*x), 2), round(*a, 4), round(*b, 4)]).collect();
    Plot { across: across.into(), up: up.into(), line: line.into(), points }
}
