//! A bottle or a can: the bright lines on it; with its outline also what goes on over its shoulder.

use super::{Carry, Desk, Kind, check, plot};
use direction::silhouette::{self, SilhouetteProblem};
use direction::{cylinder, label};
use optics::photo::Photo;
use crate::marks::desk::{degrees, round};
use crate::readings::*;
use crate::marks::check::MOST_POINTS;
use direction::shapes::Point;
use direction::cylinder::{CylinderProblem, Strip};
use direction::turned::{Band, Reach, Turned, TurnedLine, TurnedReading};
use optics::words::clock_words;
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

/// Part of a line's light under which a surface hardly mirrors it, and over which it is glossy (common practice, ours).
const MATTE_PART: f64 = 0.12;
const GLOSSY_PART: f64 = 0.6;
/// A dark stripe narrower than this, between lines as bright as each other to a stop, is a gap in one source.
const STRIPE_DEG: f64 = 14.0;
const LEAST_STRIPE_DEG: f64 = 2.0;
const ALIKE_STOPS: f64 = 1.0;
/// Lines so far to either side of the lens, with a dark stripe in the middle, hold the camera's own picture, degrees.
const LENS_DEG: f64 = 12.0;
/// How much harder one edge is than the other, where a lamp stands aside behind its sheet.
const ONE_SIDED: f64 = 3.0;
const ONE_SIDED_DEG: f64 = 9.0;

/// A bottle, a can: an upright body that shines.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = CylinderMark)]
pub struct Cylinder {
    /// Ends of its axis, pixels: of the upright part, or foot and head of the whole if it has an outline.
    #[schema(value_type = Vec<optics::geometry::Pair>, min_items = 2, max_items = 2)]
    pub axis: [[f64; 2]; 2],
    /// Radius of the upright part, pixels.
    pub radius_px: f64,
    /// Outline of the whole from foot to head: share of the axis from its first end, and half the width there in pixels.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(value_type = Vec<optics::geometry::Pair>)]
    pub profile: Vec<[f64; 2]>,
}

/// Tangent of the lean from which a cylinder does not stand.
const LEANING: f64 = 0.2;

impl Cylinder {
    /// Whether it stands upright in the picture: azimuths about its axis are then those about the plumb line.
    pub fn stands(&self) -> bool {
        let [a, b] = self.axis;
        (a[0] - b[0]).abs() < LEANING * (a[1] - b[1]).abs()
    }

    /// Its outline, where it has one.
    fn turned(&self) -> Option<Turned> {
        let upwards = self.axis[0][1] >= self.axis[1][1];
        let profile: Vec<[f64; 2]> =
            self.profile.iter().map(|[share, half]| [if upwards { *share } else { 1.0 - share }, *half]).collect();
        Turned::new(self.ends(), &profile)
    }

    /// Its lower end and its upper.
    fn ends(&self) -> [Point; 2] {
        let [a, b] = self.axis;
        if a[1] >= b[1] { [a, b] } else { [b, a] }
    }

    /// Axis, walked upwards, and radius of its upright part, pixels: all of it without an outline.
    pub fn upright(&self) -> ([Point; 2], f64) {
        let body = self.turned().and_then(|t| Some((t.body()?, t)));
        body.map_or((self.ends(), self.radius_px), |(b, t)| (b.map(|t| self.at(t)), t.radius(f64::midpoint(b[0], b[1]))))
    }

    /// Corners on the picture of the line whose middle lies at an azimuth.
    pub(crate) fn line_outline(&self, azimuth_deg: f64, strips: &[StripView]) -> Vec<Point> {
        let middle = |s: &StripView| f64::midpoint(s.azimuth_from_deg, s.azimuth_to_deg);
        let off = |s: &&StripView| (middle(s) - azimuth_deg).abs();
        let Some(s) = strips.iter().min_by(|a, b| off(a).total_cmp(&off(b))) else { return Vec::new() };
        let ([a, b], radius) = self.upright();
        let length = (b[0] - a[0]).hypot(b[1] - a[1]).max(1e-9);
        let across = [-(b[1] - a[1]) / length, (b[0] - a[0]) / length];
        // far away a place at half the azimuth is seen at its sine
        let at = |azimuth: f64, t: f64| {
            let o = radius * (azimuth.to_radians() / 2.0).sin();
            [0, 1].map(|k| round(a[k] + (b[k] - a[k]) * t + across[k] * o, 1))
        };
        let (from, to, [low, high]) = (s.azimuth_from_deg, s.azimuth_to_deg, s.along);
        vec![at(from, low), at(to, low), at(to, high), at(from, high)]
    }

    /// A place on its axis, a share upwards.
    fn at(&self, share: f64) -> Point {
        let [foot, head] = self.ends();
        [0, 1].map(|k| foot[k] + (head[k] - foot[k]) * share)
    }
}

impl Kind for Cylinder {
    fn check(&self) -> Result<(), String> {
        self.axis.iter().try_for_each(|p| check::finite("axis", p))?;
        check::positive("radius_px", self.radius_px)?;
        if self.profile.len() == 1 || self.profile.len() > MOST_POINTS {
            return Err(format!("profile: expected 2 to {MOST_POINTS} places, found {}", self.profile.len()));
        }
        for [share, half] in &self.profile {
            if !((0.0..=1.0).contains(share) && half.is_finite() && *half >= 0.0) {
                return Err(format!(
                    "profile: expected shares of the axis from 0 to 1 with half widths of 0 and more, found [{share}, {half}]"
                ));
            }
        }
        Ok(())
    }

    fn carry(&mut self, c: &Carry) {
        self.axis.iter_mut().for_each(|p| *p = c.point(p));
        self.radius_px *= c.k;
        self.profile.iter_mut().for_each(|p| p[1] *= c.k);
    }

    fn anchor(&self) -> Option<Point> {
        Some(self.axis[0])
    }

    fn size_px(&self) -> f64 {
        self.radius_px
    }

    fn is_costly(&self) -> bool {
        true
    }

    fn read(&self, desk: &mut Desk) -> MarkReading {
        let r = match self.lines(desk) {
            Ok(r) => r,
            Err(problem) => return desk.unread("cylinder_unread", &problem),
        };
        if r.lines.iter().any(|s| s.strip.clipped) {
            desk.warn("highlight_clipped", "A bright line is clipped: it looks up to a pixel too wide.");
        }
        let side = label::side(desk.photo, desk.camera, r.axis, r.radius);
        let shaded = side.filter(|_| self.stands()).map(|s| ShadedSide {
            azimuth_deg: degrees(s.azimuth),
            azimuth_sd_deg: degrees(s.sd),
        });
        let strips: Vec<StripView> = r.lines.iter().map(|l| view(l, r.body, shaded.is_some())).collect();
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
        for t in tells(&lines) {
            says += &format!(" {t}");
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
            &r.plot,
            f64::to_degrees,
        );
        MarkReading {
            strips: Some(strips),
            gaps: Some(gaps),
            bands: r.bands,
            arcs,
            shaded,
            plot: Some(plot),
            says,
            ..Default::default()
        }
    }
}

/// What was read of it, with or without an outline.
struct Lines {
    lines: Vec<TurnedLine>,
    gaps: Vec<[f64; 2]>,
    plot: Vec<[f64; 3]>,
    bands: Vec<BandView>,
    /// its upright part, and shares of the axis between which that lies
    axis: [Point; 2],
    radius: f64,
    body: [f64; 2],
}

impl Cylinder {
    fn lines(&self, desk: &Desk) -> Result<Lines, CylinderProblem> {
        let Some(turned) = self.turned() else {
            let r = cylinder::read(desk.photo, desk.camera, self.axis, self.radius_px)?;
            let line = |s: &Strip| TurnedLine { strip: *s, rows: [0.0, 1.0], top: None };
            // paper that lies over half of it hides what the glass shows: band by band, as of a straight outline
            if r.strips.is_empty()
                && let Some(t) = Turned::new(self.ends(), &[0.0, 1.0].map(|t| [t, self.radius_px]))
                && let Ok(banded) = t.read(desk.photo, desk.camera)
                && !banded.lines.is_empty()
            {
                return Ok(self.of_turned(&t, banded));
            }
            return Ok(Lines {
                lines: r.strips.iter().map(line).collect(),
                gaps: r.gaps,
                plot: r.profile,
                bands: Vec::new(),
                axis: self.axis,
                radius: self.radius_px,
                body: [0.0, 1.0],
            });
        };
        let r = turned.read(desk.photo, desk.camera)?;
        Ok(self.of_turned(&turned, r))
    }

    fn of_turned(&self, turned: &Turned, r: TurnedReading) -> Lines {
        let strips: Vec<Strip> = r.lines.iter().map(|l| l.strip).collect();
        let ends = [r.profile.first(), r.profile.last()].map(|p| p.map_or(0.0, |p| p[0]));
        Lines {
            gaps: cylinder::gaps(&strips, ends),
            plot: r.profile,
            bands: r.bands.iter().map(band).collect(),
            axis: r.body.map(|t| self.at(t)),
            radius: turned.radius(f64::midpoint(r.body[0], r.body[1])),
            body: r.body,
            lines: r.lines,
        }
    }
}

fn band(b: &Band) -> BandView {
    let finish = b.gloss.map(|g| match g {
        g if g < MATTE_PART => "matte",
        g if g < GLOSSY_PART => "satin",
        _ => "glossy",
    });
    BandView { from: round(b.rows[0], 3), to: round(b.rows[1], 3), finish: finish.map(str::to_owned) }
}

fn view(l: &TurnedLine, body: [f64; 2], shaded: bool) -> StripView {
    let s = &l.strip;
    let share = |t: f64| round(((t - body[0]) / (body[1] - body[0]).max(1e-9)).clamp(0.0, 1.0), 2);
    StripView {
        azimuth_from_deg: degrees(s.from),
        azimuth_to_deg: degrees(s.to),
        azimuth_sd_deg: degrees(s.sd),
        width_sd_deg: degrees(s.wide_sd()),
        edge: if s.edge.to_degrees() < CRISP_EDGE_DEG { "crisp" } else { "feathered" }.into(),
        edge_deg: degrees(s.edge),
        edges_deg: s.edges.map(degrees),
        over_ground_stops: round(s.over_stops, 2),
        light: round(s.light(), 4),
        clipped: s.clipped,
        lit_side: shaded && is_lit_side(s.from.to_degrees(), s.to.to_degrees()),
        along: [share(l.rows[0]), share(l.rows[1])],
        reaches: l.top.map(|t: Reach| ReachView {
            elevation_deg: degrees(t.elevation),
            elevation_sd_deg: degrees(t.sd),
            open: t.open,
        }),
    }
}

/// What the lines tell of what stood there, beside where.
fn tells(lines: &[&StripView]) -> Vec<String> {
    let mut out = Vec::new();
    let of = |which: &[usize]| match which {
        _ if lines.len() == 1 => ("It".to_owned(), "s"),
        [k] => (format!("Line {}", k + 1), "s"),
        [some @ .., last] => {
            let some: Vec<String> = some.iter().map(|k| (k + 1).to_string()).collect();
            (format!("Lines {} and {}", some.join(", "), last + 1), "")
        }
        [] => (String::new(), ""),
    };
    let with = |open: bool| -> Vec<(usize, ReachView)> {
        lines.iter().enumerate().filter_map(|(k, s)| Some((k, s.reaches.filter(|r| r.open == open)?))).collect()
    };
    let (on, broken) = (with(true), with(false));
    let names = |list: &[(usize, ReachView)]| of(&list.iter().map(|l| l.0).collect::<Vec<_>>());
    if let Some(least) = on.iter().map(|l| l.1.elevation_deg).reduce(f64::min) {
        let (which, s) = names(&on);
        let goes = if s.is_empty() { "go" } else { "goes" };
        out.push(format!("{which} {goes} on over the shoulder: the source reaches {least:.0}° up or more."));
    }
    if !broken.is_empty() {
        let (which, s) = names(&broken);
        let ends: Vec<String> =
            broken.iter().map(|l| format!("{:.0} ± {:.0}°", l.1.elevation_deg, l.1.elevation_sd_deg)).collect();
        out.push(format!(
            "{which} break{s} at the shoulder: the source ends {} up; something taller, or nearer, would carry on.",
            ends.join(", ")
        ));
    }
    for (k, s) in lines.iter().enumerate() {
        let (which, _) = of(&[k]);
        let [a, b] = s.edges_deg;
        let (soft, hard) = (a.max(b), a.min(b));
        if soft > ONE_SIDED_DEG && soft > ONE_SIDED * hard.max(0.5) {
            let side = if a < b { "left" } else { "right" };
            out.push(format!(
                "{which} is hard on its {side} and fades on the other: an edge there, and a sheet lit from that side or a board that turns away."
            ));
        } else if s.edge_deg > CRISP_EDGE_DEG {
            out.push(format!("{which} fades on both sides: a sheet with the lamp some way behind it."));
        }
    }
    for w in lines.windows(2) {
        let [a, b] = [w[0], w[1]];
        let gap = b.azimuth_from_deg - a.azimuth_to_deg;
        let alike = (a.over_ground_stops - b.over_ground_stops).abs() < ALIKE_STOPS;
        let middle = f64::midpoint(a.azimuth_to_deg, b.azimuth_from_deg);
        if alike && gap > LEAST_STRIPE_DEG && gap < STRIPE_DEG {
            out.push(if middle.abs() < LENS_DEG {
                format!("The dark stripe {gap:.0}° wide between two lines lies towards the lens: the camera and who stands behind it, before something bright.")
            } else {
                format!("A dark stripe {gap:.0}° wide parts two lines at {}: one source with a gap or a bar before it, or two side by side.", around(middle))
            });
        }
    }
    out
}

/// An azimuth round the axis as people say it.
fn around(deg: f64) -> String {
    let clock = (6.0 - deg / 30.0).rem_euclid(12.0);
    format!("{deg:.0}° ({} on the plan, the lens at 6)", clock_words(if clock < 0.25 { 12.0 } else { clock }))
}

/// A bottle with its outline, traced about an axis drawn from foot to head.
///
/// # Errors
/// A [`SilhouetteProblem`] that says what to do.
pub fn traced(photo: &Photo, axis: [Point; 2]) -> Result<Cylinder, SilhouetteProblem> {
    silhouette::trace_by_hand(photo, axis).map(of_silhouette)
}

/// The same about the upright part, which was found with its radius.
///
/// # Errors
/// A [`SilhouetteProblem`].
pub fn traced_about(photo: &Photo, axis: [Point; 2], radius: f64) -> Result<Cylinder, SilhouetteProblem> {
    silhouette::trace(photo, axis, silhouette::FOUND, Some(radius)).map(of_silhouette)
}

/// A bottle or can by an outline that was traced, rounded as marks are.
pub fn of_silhouette(s: silhouette::Silhouette) -> Cylinder {
    let tenth = |v: f64| round(v, 2);
    Cylinder {
        axis: s.axis.map(|p| p.map(tenth)),
        radius_px: tenth(s.radius),
        profile: s.profile.iter().map(|p| [round(p[0], 4), tenth(p[1])]).collect(),
    }
}
