//! Outlines, rims, backgrounds and patterns: from a mark to its reading.

use super::{Reader, degrees, round};
use crate::direction::gradient::EVEN_STOPS;
use crate::direction::{Seen, contour, gradient, pattern, rim};
use crate::readings::*;
use optics::geometry::{Vec3, clock_of};
use optics::words;

/// Edge over spacing under which a pattern is called sharp (common practice, ours).
const SHARP_EDGE: f64 = 0.15;
/// Standard deviation of a rim's side: outlines turn, and so does the form behind them.
const RIM_SIDE_SD: f64 = 0.26;

impl Reader<'_> {
    pub(super) fn contour(&mut self, id: &str, points: &[[f64; 2]], outward: &str) -> MarkReading {
        let left = match outward {
            "left" => true,
            "right" => false,
            _ => {
                return self.unread(
                    id,
                    "contour_unread",
                    &"outward: expected left or right, seen walking along the points",
                );
            }
        };
        let r = match contour::read(self.photo, points, left) {
            Ok(r) => r,
            Err(problem) => return self.unread(id, "contour_unread", &problem),
        };
        let round = self.round_the_clock(r.towards, r.sd, Some(r.contrast_stops));
        let says = format!(
            "Light comes from {} ± {:.0}° round the picture; how far from the lens this cannot tell.",
            words::clock_words(round.clock),
            round.clock_sd_deg
        );
        MarkReading {
            round: Some(round),
            fit: Some(Fit { residual_percent: super::round(100.0 * r.residual, 2), samples: r.samples }),
            plot: Some(Plot {
                across: "outline's normal, degrees from its brightest turn".into(),
                up: "light, brightest turn = 1".into(),
                line: "the fit".into(),
                points: r.points,
            }),
            says,
            ..Default::default()
        }
    }

    /// Where light comes from round the picture; takes it down as evidence.
    pub(super) fn round_the_clock(&mut self, towards: [f64; 2], sd: f64, contrast_stops: Option<f64>) -> RoundView {
        self.now.clock = Some((towards[1].atan2(towards[0]), sd));
        RoundView {
            clock: round(clock_of(towards[0], towards[1]), 2),
            clock_sd_deg: degrees(sd),
            contrast_stops: contrast_stops.map(|c| round(c, 2)),
        }
    }

    pub(super) fn rim(&mut self, id: &str, inside: [f64; 2], outside: [f64; 2], radius_px: Option<f64>) -> MarkReading {
        let r = match rim::read(self.photo, inside, outside, radius_px) {
            Ok(r) => r,
            Err(problem) => return self.unread(id, "rim_unread", &problem),
        };
        let clock = clock_of(r.outward[0], r.outward[1]);
        let mut says = format!(
            "A rim {:.1} px wide at {}, {}{:.1} stops over the surface inside it",
            r.width_px,
            words::clock_words(clock),
            if r.clipped { "at least " } else { "" },
            r.over_stops
        );
        match r.off_axis {
            Some((angle, sd)) => {
                let (s, c) = angle.sin_cos();
                let direction = Vec3::new(s * r.outward[0], s * r.outward[1], c);
                let seen = Seen {
                    direction,
                    direction_sd: sd.hypot(RIM_SIDE_SD * s),
                    log_size: None,
                    log_level: None,
                    rgb: None,
                };
                self.witness(id, seen, None, None, false);
                says +=
                    &format!(": its light stands {:.0}° ± {:.0}° from the lens.", angle.to_degrees(), sd.to_degrees());
            }
            None => says += ". With the radius of the form there, the light's angle from the lens can be told.",
        }
        MarkReading {
            rim: Some(RimView {
                clock: round(clock, 2),
                width_px: round(r.width_px, 2),
                over_stops: round(r.over_stops, 2),
                clipped: r.clipped,
                off_axis_deg: r.off_axis.map(|a| degrees(a.0)),
                off_axis_sd_deg: r.off_axis.map(|a| degrees(a.1)),
            }),
            says,
            ..Default::default()
        }
    }

    pub(super) fn gradient(&mut self, id: &str, polygon: &[[f64; 2]]) -> MarkReading {
        let r = match gradient::read(self.photo, polygon) {
            Ok(r) => r,
            Err(problem) => return self.unread(id, "gradient_unread", &problem),
        };
        let clock = clock_of(r.towards[0], r.towards[1]);
        let says = if r.stops < EVEN_STOPS {
            format!("Even: {:.1} stops from its darkest to its brightest part.", r.stops)
        } else if r.top.is_some() {
            format!(
                "A glow {:.1} stops over its darkest part, centred on the marked part: a light of its own, or spill that is cut.",
                r.stops
            )
        } else {
            format!("It falls by {:.1} stops away from {}.", r.stops, words::clock_words(clock))
        };
        MarkReading {
            gradient: Some(GradientView {
                top: r.top.map(|t| t.map(|v| round(v, 1))),
                clock: round(clock, 2),
                stops: round(r.stops, 2),
                spread_stops: round(r.spread_stops, 3),
            }),
            says,
            ..Default::default()
        }
    }

    pub(super) fn pattern(&mut self, id: &str, a: [f64; 2], b: [f64; 2]) -> MarkReading {
        let r = match pattern::read(self.photo, a, b) {
            Ok(r) => r,
            Err(problem) => return self.unread(id, "pattern_unread", &problem),
        };
        let bands = if r.bands == 1 { "One band".to_owned() } else { format!("{} bands", r.bands) };
        let kind = match r.spacing_px {
            Some(_) if r.bands < 3 => "",
            Some(_) if r.unevenness < 0.12 => " at even distances, as of blinds",
            Some(_) if r.unevenness > 0.3 => " at uneven distances, as of leaves or lace",
            _ => "",
        };
        let against = r.spacing_px.unwrap_or(6.0 * r.edge_px);
        let edge = if !r.edge_px.is_finite() {
            "its edges are too close together to measure".to_owned()
        } else if r.edge_px < SHARP_EDGE * against {
            format!("edges {:.1} px wide: sharp, from a small light or a cutter near the subject", r.edge_px)
        } else {
            format!("edges {:.1} px wide: soft, from a wider light or a cutter near the light", r.edge_px)
        };
        let says =
            format!("{bands}{kind}, {:.1} stops deep, running {:.0}° from level; {edge}.", r.contrast_stops, r.run_deg);
        MarkReading {
            pattern: Some(PatternView {
                bands: r.bands,
                spacing_px: r.spacing_px.map(|v| round(v, 2)),
                unevenness: round(r.unevenness, 3),
                edge_px: if r.edge_px.is_finite() { round(r.edge_px, 2) } else { 0.0 },
                contrast_stops: round(r.contrast_stops, 2),
                run_deg: round(r.run_deg, 1),
            }),
            says,
            ..Default::default()
        }
    }
}
