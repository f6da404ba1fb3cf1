//! Reads a picture: every mark by its own method (here), then all of them together (`together.rs`).

mod together;

use crate::colour::cct_of_rgb;
use crate::direction::face::{self, StandIn};
use crate::direction::fusion::{Evidence, fuse};
use crate::direction::{Seen, ball_matte, ball_mirror, cast, cylinder, eye, penumbra, strongest};
use crate::geometry::{AzEl, Camera, Vec3, angle_between, clock_of};
use crate::levels;
use crate::marks::{Finish, Mark, MarkKind, Marks, PatchRole};
use crate::photo::{Meter, Photo};
use crate::readings::*;
use crate::sentence;
use crate::tone::Encoding;
use crate::wedge;

/// Reads the lights of a picture from its marks. Never fails: what cannot be told is said in the
/// warnings.
///
/// The photo comes decoded as plain sRGB (or linear): an encoding declared in the marks, or told by a
/// wedge, is applied here. `meter` may be passed in if the picture was metered so before.
/// `heads` brings the stand-ins a face is read with; it is asked only if a face is marked.
pub fn read(photo: &Photo, marks: &Marks, meter: Option<&Meter>, heads: Heads) -> Readings {
    read_again(photo, marks, meter, heads, &mut Memory::default())
}

/// Brings stand-in heads: making them takes a while, and many pictures have no face.
pub type Heads<'a> = &'a (dyn Fn() -> &'static [StandIn] + Sync);

/// As [`read`], for a mark that is being dragged: marks that did not change are not read anew, and a
/// ball that moved starts from its last reading. The memory belongs to one picture.
pub fn read_again(photo: &Photo, marks: &Marks, meter: Option<&Meter>, heads: Heads, memory: &mut Memory) -> Readings {
    // A wedge in the picture says what the camera did to it: everything is read through its curve.
    let curves = wedges(photo, marks);
    let curve = curves.iter().find_map(|(_, c)| c.as_ref().ok()).map(wedge::Curve::encoding);
    let through = curve.as_ref().or(marks.encoding.as_ref()).filter(|e| **e != Encoding::Srgb);
    let frame = format!("{:?} {through:?}", marks.camera);
    if memory.frame != frame {
        *memory = Memory { frame, ..Memory::default() };
    }
    let seen = through.map(|e| {
        memory.seen.take().unwrap_or_else(|| {
            let photo = photo.under(e);
            let meter = photo.meter();
            (photo, meter)
        })
    });
    let told = curve.map(|e| Marks { encoding: Some(e), ..marks.clone() });
    let marks = told.as_ref().unwrap_or(marks);
    let (photo, meter) = seen.as_ref().map_or((photo, meter), |(p, m)| (p, Some(m)));
    let mut reader = Reader::new(photo, marks, heads, curves);
    memory.outcomes.retain(|id, _| marks.marks.iter().any(|m| &m.id == id));
    // Faces come last: what the other marks saw helps to read them.
    let late = |m: &Mark| matches!(m.kind, MarkKind::Face { .. });
    let on = || marks.marks.iter().filter(|m| !m.off);
    for mark in on().filter(|m| !late(m)).chain(on().filter(|m| late(m))) {
        let hints = if late(mark) { reader.hints() } else { Vec::new() };
        let outcome = match memory.outcomes.remove(&mark.id) {
            Some((kind, outcome)) if kind == mark.kind && alike(&outcome.hints, &hints) => outcome,
            before => {
                let start = before.and_then(|(_, o)| o.balls);
                let outcome = reader.mark(mark, start.as_ref(), &hints);
                Outcome { hints, ..outcome }
            }
        };
        reader.take(mark, &outcome);
        memory.outcomes.insert(mark.id.clone(), (mark.kind.clone(), outcome));
    }
    let readings = reader.finish(meter);
    memory.seen = seen;
    readings
}

/// Whether a face need not be read anew: while an eye is dragged its lights move a little at a time.
fn alike(a: &[face::Hint], b: &[face::Hint]) -> bool {
    a.len() == b.len() && a.iter().zip(b).all(|(a, b)| angle_between(&a.direction, &b.direction) < SAME_HINT)
}

/// Tone curves of the wedges in a picture that declares none itself.
fn wedges(photo: &Photo, marks: &Marks) -> Curves {
    if !matches!(marks.encoding, None | Some(Encoding::Srgb)) {
        return Vec::new();
    }
    let on = marks.marks.iter().filter(|m| !m.off);
    on.filter_map(|m| match &m.kind {
        MarkKind::Wedge { patches } => Some((m.id.clone(), wedge::Curve::read(photo, patches))),
        _ => None,
    })
    .collect()
}

type Curves = Vec<(String, Result<wedge::Curve, wedge::WedgeProblem>)>;

/// What was read of the marks of one picture.
#[derive(Default)]
pub struct Memory {
    frame: String,
    /// the picture under the encoding it is read through, if that is not plain sRGB, and its meter
    seen: Option<(Photo, Meter)>,
    outcomes: std::collections::HashMap<String, (MarkKind, Outcome)>,
}

/// What one mark gave.
#[derive(Clone, Default)]
struct Outcome {
    reading: MarkReading,
    evidence: Vec<Evidence>,
    ambient: Option<(f64, f64)>,
    patch: Option<(PatchRole, PatchReading)>,
    warnings: Vec<Warning>,
    /// Natural log of an angular size without a direction, with its standard deviation.
    size: Option<(f64, f64)>,
    balls: Option<ball_matte::Start>,
    /// What other marks had seen when it was read.
    hints: Vec<face::Hint>,
}

/// Turn from light to dark under which a line's edge is called crisp (common practice, ours).
const CRISP_EDGE_DEG: f64 = 4.0;
/// Stops under the key below which a spot that only a mirror sees is a lit thing.
const MIRRORED_THING_STOPS: f64 = -2.8;

/// Radians by which a hint may move before a face is read anew.
const SAME_HINT: f64 = 0.05;
/// Cosine of the angle from the lens within which open eyes must mirror a light.
const NEAR_LENS: f64 = 0.82;
/// Radius of an iris in pixels from which a missing catchlight says something.
const MIRRORING_PX: f64 = 8.0;
/// Turn of a head under which it has no broad and short side.
const FACING_DEG: f64 = 8.0;

struct Reader<'a> {
    photo: &'a Photo,
    marks: &'a Marks,
    camera: Camera,
    heads: Heads<'a>,
    curves: Curves,
    /// The mark at work.
    now: Outcome,
    by_mark: std::collections::BTreeMap<String, MarkReading>,
    evidence: Vec<Evidence>,
    ambient: Vec<(String, f64, f64)>,
    patches: Vec<(String, PatchRole, PatchReading)>,
    sizes: Vec<(String, f64, f64)>,
    camera_known: bool,
    warnings: Vec<Warning>,
}

fn round(v: f64, digits: i32) -> f64 {
    let k = 10f64.powi(digits);
    let r = (v * k).round() / k;
    if r == 0.0 { 0.0 } else { r }
}

fn degrees(rad: f64) -> f64 {
    round(rad.to_degrees(), 2)
}

/// Stops of a natural logarithm.
fn stops(ln: f64) -> f64 {
    ln / std::f64::consts::LN_2
}

impl<'a> Reader<'a> {
    fn new(photo: &'a Photo, marks: &'a Marks, heads: Heads<'a>, curves: Curves) -> Self {
        let (camera, assumed) = marks.camera_for(photo.width(), photo.height());
        let mut warnings = Vec::new();
        if assumed && marks.marks.iter().any(|m| matches!(m.kind, MarkKind::Ball { .. } | MarkKind::Eye { .. })) {
            warnings.push(Warning::new(
                "camera_assumed",
                "The field of view is not known: a level, far camera is assumed. Near the edge of a wide picture \
                 directions may be off by as much as the view ray leaves the lens axis.",
            ));
        }
        for name in marks.unknown_fields() {
            warnings.push(Warning::new("unknown_field", format!("{name} is not known to this version; it is kept.")));
        }
        Reader {
            photo,
            marks,
            camera,
            heads,
            curves,
            now: Outcome::default(),
            by_mark: Default::default(),
            evidence: Vec::new(),
            ambient: Vec::new(),
            patches: Vec::new(),
            sizes: Vec::new(),
            camera_known: !assumed,
            warnings,
        }
    }

    fn warn(&mut self, mark: &str, code: &str, text: impl Into<String>) {
        self.now.warnings.push(Warning::on(mark, code, text));
    }

    /// Adds what a mark gave.
    fn take(&mut self, mark: &Mark, o: &Outcome) {
        self.by_mark.insert(mark.id.clone(), o.reading.clone());
        self.evidence.extend(o.evidence.iter().cloned());
        self.ambient.extend(o.ambient.map(|(level, sd)| (mark.id.clone(), level, sd)));
        self.sizes.extend(o.size.map(|(l, sd)| (mark.id.clone(), l, sd)));
        self.patches.extend(o.patch.clone().map(|(role, p)| (mark.id.clone(), role, p)));
        self.warnings.extend(o.warnings.iter().cloned());
    }

    fn mark(&mut self, mark: &Mark, start: Option<&ball_matte::Start>, hints: &[face::Hint]) -> Outcome {
        let id = mark.id.as_str();
        let mut reading = match &mark.kind {
            MarkKind::Ball { finish: Finish::Matte, centre, radius_px } => self.matte(id, *centre, *radius_px, start),
            MarkKind::Ball { finish: Finish::Mirror, centre, radius_px } => self.mirror(id, *centre, *radius_px),
            MarkKind::Eye { limbus, looks_to_clock, catchlights } => {
                self.eye(id, limbus, *looks_to_clock, catchlights.as_deref())
            }
            MarkKind::Patch { role, polygon } => self.patch(id, *role, polygon),
            MarkKind::Cast { base, top, tip, height_m } => {
                self.cast(id, cast::CastPoints { base: *base, top: *top, tip: *tip }, *height_m)
            }
            MarkKind::Penumbra { a, b, gap_m, px_per_m } => self.penumbra(id, *a, *b, *gap_m, *px_per_m),
            MarkKind::Cylinder { axis, radius_px } => self.cylinder(id, *axis, *radius_px),
            MarkKind::Face { points } => self.face(id, points, hints),
            MarkKind::Wedge { .. } => self.wedge(id),
            MarkKind::Contour { .. } => {
                self.warn(id, "kind_not_read", "This version keeps marks of this kind but does not read them yet.");
                MarkReading { says: "Kept, not read by this version.".into(), ..Default::default() }
            }
        };
        if reading.says.is_empty() {
            reading.says = sentence::of_mark(&reading);
        }
        Outcome { reading, ..std::mem::take(&mut self.now) }
    }

    fn sighting(&self, seen: &Seen, clock: f64, level_zero: Option<f64>) -> Sighting {
        let a = AzEl::of(&seen.direction);
        let size = seen.size_deg();
        let level = seen.log_level.zip(level_zero);
        Sighting {
            clock: round(clock, 2),
            azimuth_deg: round(a.azimuth_deg, 2),
            elevation_deg: round(a.elevation_deg, 2),
            direction_sd_deg: degrees(seen.direction_sd).max(0.05),
            angular_size_deg: size.map(|s| round(s.0, 2)),
            angular_size_range_deg: size.map(|s| s.1.map(|v| round(v, 2))),
            level_stops: level.map(|((l, _), zero)| round(stops(l - zero), 3)),
            level_sd_stops: level.map(|((_, sd), _)| round(stops(sd), 3)),
            outline: Vec::new(),
            at: None,
            aspect: None,
            cct_k: seen.rgb.and_then(cct_of_rgb),
            otherwise: None,
        }
    }

    fn witness(&mut self, id: &str, seen: Seen, zero: Option<f64>, otherwise: Option<Vec3>, counts: bool) {
        let relative_level = seen.log_level.zip(zero).map(|((l, sd), z)| (l - z, sd));
        self.now.evidence.push(Evidence { mark: id.into(), seen, otherwise, relative_level, counts_lights: counts });
    }

    fn outside(&self, centre: [f64; 2]) -> bool {
        let (w, h) = (f64::from(self.photo.width()), f64::from(self.photo.height()));
        centre[0] < 0.0 || centre[1] < 0.0 || centre[0] > w || centre[1] > h
    }

    fn matte(&mut self, id: &str, centre: [f64; 2], radius: f64, start: Option<&ball_matte::Start>) -> MarkReading {
        let r = match ball_matte::read(self.photo, self.camera, centre, radius, start) {
            Ok(r) => r,
            Err(problem) => {
                self.warn(id, "ball_unread", format!("{}.", capital(&problem.to_string())));
                return MarkReading { says: format!("{}.", capital(&problem.to_string())), ..Default::default() };
            }
        };
        let zero = r.lights.first().and_then(|l| l.log_level).map(|l| l.0);
        let lights = r.lights.iter().map(|s| self.sighting(s, clock_of(s.direction.x, s.direction.y), zero)).collect();
        self.now.balls = Some(r.start);
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
            ..Default::default()
        }
    }

    fn mirror(&mut self, id: &str, centre: [f64; 2], radius: f64) -> MarkReading {
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
        let lights = r
            .lights
            .iter()
            .map(|(s, b)| {
                let clock = clock_of(b.centre[0] - e.centre[0], e.centre[1] - b.centre[1]);
                Sighting {
                    outline: b.outline.clone(),
                    at: Some(b.centre.map(|v| round(v, 2))),
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

    fn eye(
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
        let r = eye::read(self.photo, self.camera, *limbus, looks, outlines);
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
        let zero = strongest(r.catchlights.iter().map(|c| &c.seen));
        let mut sightings = Vec::new();
        for c in &r.catchlights {
            let mut s = self.sighting(&c.seen, c.clock, zero);
            s.outline = c.blob.outline.clone();
            s.at = Some(c.blob.centre.map(|v| round(v, 2)));
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

    fn patch(&mut self, id: &str, role: PatchRole, polygon: &[[f64; 2]]) -> MarkReading {
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
    fn unread(&mut self, id: &str, code: &str, problem: &dyn std::fmt::Display) -> MarkReading {
        let says = format!("{}.", capital(&problem.to_string()));
        self.warn(id, code, says.clone());
        MarkReading { says, ..Default::default() }
    }

    fn cast(&mut self, id: &str, points: cast::CastPoints, height_m: Option<f64>) -> MarkReading {
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

    fn penumbra(
        &mut self,
        id: &str,
        a: [f64; 2],
        b: [f64; 2],
        gap_m: Option<f64>,
        px_per_m: Option<f64>,
    ) -> MarkReading {
        let r = match penumbra::read(self.photo, a, b, gap_m, px_per_m) {
            Ok(r) => r,
            Err(problem) => return self.unread(id, "edge_unread", &problem),
        };
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
                format!("The edge is {:.1} px wide: the light fills {}.", r.width_px, sentence::size_range(d, lo, hi))
            }
            None => format!("The edge is {:.1} px wide and {:.1} stops deep.", r.width_px, r.step_stops),
        };
        MarkReading {
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

    fn cylinder(&mut self, id: &str, axis: [[f64; 2]; 2], radius: f64) -> MarkReading {
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
        MarkReading { strips: Some(strips), gaps: Some(gaps), says, ..Default::default() }
    }

    fn wedge(&mut self, id: &str) -> MarkReading {
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
        MarkReading {
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

    /// Directions the marks read so far speak for.
    fn hints(&self) -> Vec<face::Hint> {
        let lights = fuse(self.evidence.clone());
        lights
            .iter()
            .map(|f| face::Hint {
                direction: f.seen.direction,
                sd: f.seen.direction_sd,
                size: f.seen.log_size.filter(|(_, sd)| *sd < 0.7).map(|(l, _)| l.exp()),
            })
            .collect()
    }

    fn face(
        &mut self,
        id: &str,
        points: &std::collections::BTreeMap<String, [f64; 2]>,
        hints: &[face::Hint],
    ) -> MarkReading {
        let r = match face::read(self.photo, self.camera, points, (self.heads)(), hints) {
            Ok(r) => r,
            Err(problem) => return self.unread(id, "face_unread", &problem),
        };
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
        if r.maybe_second {
            self.warn(
                id,
                "maybe_second",
                "A second light would explain this face a little better, but not by enough to believe in it: catchlights would tell.",
            );
        }
        let [turned, nodded, tilted] = r.pose_deg.map(|d| round(d, 1));
        MarkReading {
            lights,
            face: Some(FaceView {
                turned_deg: turned,
                turned_sd_deg: round(r.turn_sd_deg, 1),
                nodded_deg: nodded,
                tilted_deg: tilted,
                map: r.map.iter().map(|([x, y], s)| [round(*x, 1), round(*y, 1), round(*s, 2)]).collect(),
                heads: r.heads.iter().map(|(n, w)| HeadShare { name: (*n).into(), share: round(*w, 2) }).collect(),
            }),
            fit: Some(Fit { residual_percent: round(100.0 * r.residual, 2), samples: r.samples }),
            ..Default::default()
        }
    }
}

fn capital(s: &str) -> String {
    let mut c = s.chars();
    c.next().map_or(String::new(), |f| f.to_uppercase().chain(c).collect())
}
