//! Reads a picture: every mark by its own method (here), then all of them together (`together.rs`).

mod colours;
mod kinds;
mod lines;
mod questions;
mod shot;
mod together;

pub use shot::shot;

use crate::direction::face::{self, StandIn};
use crate::direction::fusion::{Evidence, fuse};
use crate::direction::{Seen, ball_matte, cast};
use crate::marks::{Finish, MOST_SIZES, Mark, MarkKind, Marks, PatchRole};
use crate::readings::*;
use crate::sentence;
use crate::wedge;
use optics::colour::cct_of_rgb;
use optics::geometry::{AzEl, Camera, Vec3, angle_between};
use optics::photo::{Meter, Photo};
use optics::tone::Encoding;
use std::borrow::Cow;
use std::sync::Arc;

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

/// The encoding a picture is read through: the curve its grey steps tell, else what its marks declare; `None` for plain
/// sRGB and linear pictures.
pub fn read_through(photo: &Photo, marks: &Marks) -> Option<Encoding> {
    through(&wedges(photo, marks), marks)
}

/// The picture as it is read: under what [`read_through`] says.
pub fn as_read<'a>(photo: &'a Photo, marks: &Marks) -> Cow<'a, Photo> {
    read_through(photo, marks).map_or(Cow::Borrowed(photo), |e| Cow::Owned(photo.under(&e)))
}

fn through(curves: &Curves, marks: &Marks) -> Option<Encoding> {
    let curve = curves.iter().find_map(|(_, c)| c.as_ref().ok()).map(wedge::Curve::encoding);
    curve.or_else(|| marks.encoding.clone()).filter(|e| *e != Encoding::Srgb)
}

/// As [`read`], for a mark that is being dragged: marks that did not change are not read anew, and a
/// ball or a face that moved starts from its last reading, a face with less care. The memory belongs to one picture;
/// [`Memory::settle`] makes the next reading a full one.
pub fn read_again(photo: &Photo, marks: &Marks, meter: Option<&Meter>, heads: Heads, memory: &mut Memory) -> Readings {
    // A wedge in the picture says what the camera did to it: everything is read through its curve.
    let curves = wedges(photo, marks);
    let through = through(&curves, marks);
    let frame = format!("{:?} {through:?}", marks.camera);
    if memory.frame != frame {
        *memory = Memory { frame, stop: memory.stop.take(), ..Memory::default() };
    }
    let seen = through.as_ref().map(|e| {
        memory.seen.take().unwrap_or_else(|| {
            let photo = photo.under(e);
            let meter = photo.meter();
            (photo, meter)
        })
    });
    let told = through.map(|e| Marks { encoding: Some(e), ..marks.clone() });
    let marks = told.as_ref().unwrap_or(marks);
    let (photo, meter) = seen.as_ref().map_or((photo, meter), |(p, m)| (p, Some(m)));
    let mut reader = Reader::new(photo, marks, heads, curves);
    memory.outcomes.retain(|id, _| marks.marks.iter().any(|m| &m.id == id));
    // Matte balls come after what mirrors show, faces after them: what the other marks saw helps to read them. A shadow's
    // edge on a face comes last: the face knows how far the nose stands off.
    let faces = marks.marks.iter().any(|m| !m.off && matches!(m.kind, MarkKind::Face { .. }));
    let rank = |m: &Mark| match m.kind {
        MarkKind::Penumbra { gap_m: None, .. } if faces => 3,
        MarkKind::Face { .. } => 2,
        MarkKind::Ball { finish: Finish::Matte, .. } => 1,
        _ => 0,
    };
    let on = |r: u8| marks.marks.iter().filter(move |m| !m.off && rank(m) == r);
    let mut stopped = Vec::new();
    for mark in on(0).chain(on(1)).chain(on(2)).chain(on(3)) {
        let hints = match rank(mark) {
            3 => reader.hints().into_iter().take(1).collect(),
            2 => reader.hints(),
            1 => reader.shown(),
            _ => Vec::new(),
        };
        if memory.stop.as_ref().is_some_and(|stop| stop()) {
            stopped.push(mark.id.clone());
            continue;
        }
        let outcome = match memory.outcomes.remove(&mark.id) {
            Some((kind, outcome)) if kind == mark.kind && alike(&outcome.hints, &hints) => outcome,
            before => {
                let start = before.map(|(_, o)| o).unwrap_or_default();
                let outcome = reader.mark(mark, &start, &hints);
                Outcome { hints, ..outcome }
            }
        };
        reader.take(mark, &outcome);
        memory.outcomes.insert(mark.id.clone(), (mark.kind.clone(), outcome));
    }
    for id in stopped {
        let says = "Not read: the reading was stopped before its turn, as it took too long or was asked for no more.";
        reader.warnings.push(Warning::on(&id, STOPPED, says));
        reader.by_mark.insert(id, MarkReading { says: says.into(), ..Default::default() });
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
    /// asked before each mark: whether to leave the rest unread
    stop: Option<Stop>,
}

/// Says whether a reading is to stop.
pub type Stop = Arc<dyn Fn() -> bool + Send + Sync>;

/// Code of the warning on a mark that was not read because the reading was stopped.
pub const STOPPED: &str = "stopped";

impl Memory {
    /// From now on `stop` is asked before each mark; once it says yes the rest is left unread, and said so.
    pub fn stop_when(&mut self, stop: Stop) {
        self.stop = Some(stop);
    }

    /// Forgets readings that were made while something was dragged.
    pub fn settle(&mut self) {
        self.outcomes.clear();
    }
}

/// Directions of a face's lights, and what each gives at places of the face.
struct Shading {
    lights: Vec<Vec3>,
    places: Vec<face::Shaded>,
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
    /// Angle round the picture from image right, anticlockwise, with its standard deviation, radians.
    clock: Option<(f64, f64)>,
    balls: Option<ball_matte::Start>,
    /// The last reading of a face, from which the next goes on.
    face: Option<Box<face::FaceReading>>,
    /// What the lights of a face, by their directions, give at places of it.
    shading: Option<Arc<Shading>>,
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
/// Sine of the angle from the lens under which a key has no side round the picture.
const LENS_SIDE: f64 = 0.15;
/// Radius of an iris in pixels from which it shows lights two stops under the key.
const COMPLETE_PX: f64 = 14.0;
/// Spread of the natural log of a size that a smaller iris mirrors.
const SMALL_IRIS_SIZE: f64 = 0.45;
/// Turn of a head from which half of the face is hidden.
const PROFILE_DEG: f64 = 50.0;
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
    clocks: Vec<(String, f64, f64)>,
    shadings: Vec<Arc<Shading>>,
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
            clocks: Vec::new(),
            shadings: Vec::new(),
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
        self.clocks.extend(o.clock.map(|(a, sd)| (mark.id.clone(), a, sd)));
        self.patches.extend(o.patch.clone().map(|(role, p)| (mark.id.clone(), role, p)));
        self.shadings.extend(o.shading.iter().cloned());
        self.warnings.extend(o.warnings.iter().cloned());
    }

    fn mark(&mut self, mark: &Mark, start: &Outcome, hints: &[face::Hint]) -> Outcome {
        let id = mark.id.as_str();
        let side = f64::from(self.photo.width().max(self.photo.height()));
        if mark.kind.size_px() > MOST_SIZES * side {
            let says = "It is drawn larger than the picture can show: draw it anew.";
            self.warn(id, "too_large", says);
            let reading = MarkReading { says: says.into(), ..Default::default() };
            return Outcome { reading, ..std::mem::take(&mut self.now) };
        }
        let mut reading = match &mark.kind {
            MarkKind::Ball { finish: Finish::Matte, centre, radius_px } => {
                self.matte(id, *centre, *radius_px, start.balls.as_ref(), hints)
            }
            MarkKind::Ball { finish: Finish::Mirror, centre, radius_px } => self.mirror(id, *centre, *radius_px),
            MarkKind::Eye { limbus, looks_to_clock, catchlights } => {
                self.eye(id, limbus, *looks_to_clock, catchlights.as_deref())
            }
            MarkKind::Patch { role, polygon } => self.patch(id, *role, polygon),
            MarkKind::Cast { base, top, tip, height_m, on } => {
                self.cast(id, cast::CastPoints { base: *base, top: *top, tip: *tip }, *height_m, *on)
            }
            MarkKind::Penumbra { a, b, gap_m, px_per_m } => {
                self.penumbra(id, (*a, *b), *gap_m, *px_per_m, hints.first())
            }
            MarkKind::Cylinder { axis, radius_px } => self.cylinder(id, *axis, *radius_px),
            MarkKind::Face { points } => self.face(id, points, start.face.as_deref(), hints),
            MarkKind::Wedge { .. } => self.wedge(id),
            MarkKind::Contour { points, outward } => self.contour(id, points, outward),
            MarkKind::Rim { inside, outside, radius_px } => self.rim(id, *inside, *outside, *radius_px),
            MarkKind::Gradient { polygon } => self.gradient(id, polygon),
            MarkKind::Pattern { a, b } => self.pattern(id, *a, *b),
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
            corners: None,
            feather: None,
            cct_k: seen.rgb.and_then(cct_of_rgb),
            otherwise: None,
        }
    }

    fn witness(&mut self, id: &str, seen: Seen, zero: Option<f64>, otherwise: Option<Vec3>, counts: bool) {
        let relative_level = seen.log_level.zip(zero).map(|((l, sd), z)| (l - z, sd));
        let mirror = |k: &MarkKind| matches!(k, MarkKind::Ball { finish: Finish::Mirror, .. });
        let shows = self.marks.marks.iter().any(|m| m.id == id && mirror(&m.kind));
        let mark = id.into();
        self.now.evidence.push(Evidence {
            mark,
            seen,
            otherwise,
            relative_level,
            counts_lights: counts,
            shows,
            place_m: self.place_of(id),
        });
    }

    /// Where a mark is before the lens, metres across and up, if the camera's distance and angle are known.
    fn place_of(&self, id: &str) -> Option<[f64; 2]> {
        let facts = self.marks.camera.as_ref()?;
        facts.vfov_deg?;
        let per_px = facts.distance_m? / self.camera.focal_px;
        let centre = self.marks.marks.iter().find(|m| m.id == id).and_then(|m| match &m.kind {
            MarkKind::Ball { centre, .. } => Some(*centre),
            MarkKind::Eye { limbus, .. } => Some(limbus.centre),
            MarkKind::Face { points } => points.get("nose_tip").copied(),
            _ => None,
        })?;
        let (w, h) = (f64::from(self.photo.width()), f64::from(self.photo.height()));
        Some([(centre[0] - w / 2.0) * per_px, (h / 2.0 - centre[1]) * per_px])
    }

    fn outside(&self, centre: [f64; 2]) -> bool {
        let (w, h) = (f64::from(self.photo.width()), f64::from(self.photo.height()));
        centre[0] < 0.0 || centre[1] < 0.0 || centre[0] > w || centre[1] > h
    }

    /// Sources that mirror balls show well enough to be told apart.
    fn shown(&self) -> Vec<face::Hint> {
        let told = |e: &&Evidence| e.shows && e.relative_level.is_none_or(|l| stops(l.0) > -3.0);
        let mut list: Vec<&Evidence> = self.evidence.iter().filter(told).collect();
        // by the light each throws: radiance times its solid angle
        let throws = |e: &Evidence| e.relative_level.map_or(0.0, |l| l.0) + 2.0 * e.seen.log_size.map_or(-3.0, |s| s.0);
        list.sort_by(|a, b| throws(b).total_cmp(&throws(a)));
        list.into_iter()
            .filter_map(|e| {
                let size = e.seen.log_size.filter(|s| s.1 < 0.5)?.0.exp();
                Some(face::Hint {
                    direction: e.seen.direction,
                    sd: e.seen.direction_sd,
                    size: Some(size),
                    complete: true,
                })
            })
            .collect()
    }

    /// Directions the marks read so far speak for.
    fn hints(&self) -> Vec<face::Hint> {
        let lights = fuse(self.evidence.clone());
        let complete = |id: &String| {
            self.marks.marks.iter().any(|m| match &m.kind {
                MarkKind::Eye { limbus, .. } => &m.id == id && limbus.rx.max(limbus.ry) >= COMPLETE_PX,
                MarkKind::Ball { .. } => &m.id == id,
                _ => false,
            })
        };
        lights
            .iter()
            .map(|f| face::Hint {
                direction: f.seen.direction,
                sd: f.seen.direction_sd,
                size: f.seen.log_size.filter(|(_, sd)| *sd < 0.7).map(|(l, _)| l.exp()),
                complete: f.marks.iter().any(complete),
            })
            .collect()
    }
}
