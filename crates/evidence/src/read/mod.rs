//! Reads a picture: every mark by its own method (here), then all of them together (`together.rs`).

mod alone;
mod colours;
mod people;
mod product;
mod questions;
mod room;
mod shot;
mod straight;
mod sun;
mod texture;
mod together;

pub use shot::shot;

pub use crate::marks::Heads;
use crate::marks::{Curves, Desk, Gathered, MOST_SIZES, Mark, MarkKind, Marks, PatchRole, Shading, Turn, Wedge};
use crate::marks::{degrees, round, stops};
use crate::readings::*;
use crate::sentence;
use crate::wedge;
use direction::face;
use direction::fusion::{Evidence, fuse};
use direction::room::Outline;
use optics::geometry::{Camera, angle_between};
use optics::light_map::LightMap;
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

/// The encoding a picture is read through: the curve its grey steps tell, else what its marks declare; `None` for plain
/// sRGB and linear pictures.
pub fn read_through(photo: &Photo, marks: &Marks) -> Option<Encoding> {
    through(&wedges(photo, marks), marks)
}

/// The picture as it is read: under what [`read_through`] says.
pub fn as_read<'a>(photo: &'a Photo, marks: &Marks) -> Cow<'a, Photo> {
    read_through(photo, marks).map_or(Cow::Borrowed(photo), |e| Cow::Owned(photo.under(&e)))
}

/// The light of the whole room as a mirror ball in the picture shows it, made whole by matte balls beside it; `None` if no
/// mirror ball is marked or it shows lamps before dark walls only. The photo comes as for [`read`].
pub fn light_map(photo: &Photo, marks: &Marks) -> Option<LightMap> {
    let photo = as_read(photo, marks);
    let mut reader = Reader::new(&photo, marks, &|| &[], Vec::new());
    for mark in marks.marks.iter().filter(is_ball) {
        let gathered = reader.mark(mark, &Gathered::default(), &[]);
        reader.take(mark, &gathered);
    }
    reader.mirrored(false).map(|m| m.room.map)
}

fn is_ball(m: &&Mark) -> bool {
    !m.off && matches!(m.kind, MarkKind::Ball(_))
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
    memory.gathered.retain(|id, _| marks.marks.iter().any(|m| &m.id == id));
    // What the other marks saw helps to read a mark: each kind says when its turn is.
    let faces = marks.marks.iter().any(|m| !m.off && matches!(m.kind, MarkKind::Face(_)));
    let at = |turn: Turn| marks.marks.iter().filter(move |m| !m.off && m.kind.turn(faces) == turn);
    let mut stopped = Vec::new();
    for (turn, mark) in Turn::ALL.iter().flat_map(|t| at(*t).map(move |m| (*t, m))) {
        let hints = match turn {
            Turn::First => Vec::new(),
            Turn::AfterMirrors => reader.shown(),
            Turn::AfterProbes => reader.hints(mark),
            Turn::WithKey => reader.hints(mark).into_iter().take(1).collect(),
        };
        if memory.stop.as_ref().is_some_and(|stop| stop()) {
            stopped.push(mark.id.clone());
            continue;
        }
        let gathered = match memory.gathered.remove(&mark.id) {
            Some((kind, gathered)) if kind == mark.kind && alike(&gathered.hints, &hints) => gathered,
            before => {
                let before = before.map(|(_, g)| g).unwrap_or_default();
                let gathered = reader.mark(mark, &before, &hints);
                Gathered { hints, ..gathered }
            }
        };
        reader.take(mark, &gathered);
        memory.gathered.insert(mark.id.clone(), (mark.kind.clone(), gathered));
    }
    for id in stopped {
        let says = "Not read: the reading was stopped before its turn, as it took too long or was asked for no more.";
        reader.warnings.push(Warning::on(&id, STOPPED, says));
        reader.by_mark.insert(id, MarkReading { says: says.into(), ..Default::default() });
    }
    let balls: Vec<Mark> = marks.marks.iter().filter(is_ball).cloned().collect();
    let room = match memory.room.take() {
        Some((before, room)) if before == balls => room,
        // a ball is being dragged
        before => reader.mirrored(before.is_some()).map(Arc::new),
    };
    memory.room = Some((balls, room.clone()));
    let readings = reader.finish(meter, room.as_deref());
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
        MarkKind::Wedge(Wedge { patches }) => Some((m.id.clone(), wedge::Curve::read(photo, patches))),
        _ => None,
    })
    .collect()
}

/// What was read of the marks of one picture.
#[derive(Default)]
pub struct Memory {
    frame: String,
    /// the picture under the encoding it is read through, if that is not plain sRGB, and its meter
    seen: Option<(Photo, Meter)>,
    gathered: std::collections::HashMap<String, (MarkKind, Gathered)>,
    /// what the balls show of a room
    room: Option<room::Kept>,
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
        self.gathered.clear();
        self.room = None;
    }
}

/// Stops under the key below which a spot that only a mirror sees is a lit thing.
const MIRRORED_THING_STOPS: f64 = -2.8;

/// Radians by which a hint may move before a face is read anew.
const SAME_HINT: f64 = 0.05;
/// Cosine of the angle from the lens within which open eyes must mirror a light.
const NEAR_LENS: f64 = 0.82;
/// Radius of an iris in pixels from which a missing catchlight says something.
const MIRRORING_PX: f64 = 8.0;
/// The same beside a face that a mesh was laid on.
const MIRRORING_MESHED_PX: f64 = 14.0;
/// Sine of the angle from the lens under which a key has no side round the picture.
const LENS_SIDE: f64 = 0.15;
/// Turn of a head under which it has no broad and short side.
const FACING_DEG: f64 = 8.0;

struct Reader<'a> {
    photo: &'a Photo,
    marks: &'a Marks,
    camera: Camera,
    heads: Heads<'a>,
    curves: Curves,
    by_mark: std::collections::BTreeMap<String, MarkReading>,
    evidence: Vec<Evidence>,
    ambient: Vec<(String, f64, f64)>,
    /// What it is at most, by marks that could not tell it.
    ambient_most: Vec<(String, f64)>,
    patches: Vec<(String, PatchRole, PatchReading)>,
    sizes: Vec<(String, f64, f64)>,
    clocks: Vec<(String, f64, f64)>,
    /// what faces say of places on them
    shadings: Vec<(String, Arc<Shading>)>,
    mirrors: Vec<(String, Outline)>,
    /// what faces say of the room they are in
    arounds: Vec<(String, Arc<face::Around>)>,
    camera_known: bool,
    warnings: Vec<Warning>,
}

impl<'a> Reader<'a> {
    fn new(photo: &'a Photo, marks: &'a Marks, heads: Heads<'a>, curves: Curves) -> Self {
        let (camera, assumed) = marks.camera_for(photo.width(), photo.height());
        let mut warnings = Vec::new();
        if assumed && marks.marks.iter().any(|m| m.kind.needs_camera()) {
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
            by_mark: Default::default(),
            evidence: Vec::new(),
            ambient: Vec::new(),
            ambient_most: Vec::new(),
            patches: Vec::new(),
            sizes: Vec::new(),
            clocks: Vec::new(),
            shadings: Vec::new(),
            mirrors: Vec::new(),
            arounds: Vec::new(),
            camera_known: !assumed,
            warnings,
        }
    }

    /// Reads one mark.
    fn mark(&self, mark: &'a Mark, before: &Gathered, hints: &[face::Hint]) -> Gathered {
        let mut desk = Desk {
            photo: self.photo,
            marks: self.marks,
            camera: self.camera,
            camera_known: self.camera_known,
            mark,
            heads: self.heads,
            curves: &self.curves,
            before,
            hints,
            now: Gathered::default(),
        };
        let side = f64::from(self.photo.width().max(self.photo.height()));
        let mut reading = if mark.kind.size_px() > MOST_SIZES * side {
            desk.unread("too_large", &"it is drawn larger than the picture can show: draw it anew")
        } else {
            mark.kind.read(&mut desk)
        };
        if reading.says.is_empty() {
            reading.says = sentence::of_mark(&reading);
        }
        Gathered { reading, ..desk.now }
    }

    /// Adds what a mark gave.
    fn take(&mut self, mark: &Mark, o: &Gathered) {
        self.by_mark.insert(mark.id.clone(), o.reading.clone());
        self.evidence.extend(o.evidence.iter().cloned());
        self.ambient.extend(o.ambient.map(|(level, sd)| (mark.id.clone(), level, sd)));
        self.ambient_most.extend(o.ambient_most.map(|level| (mark.id.clone(), level)));
        self.sizes.extend(o.size.map(|(l, sd)| (mark.id.clone(), l, sd)));
        self.clocks.extend(o.clock.map(|(a, sd)| (mark.id.clone(), a, sd)));
        self.patches.extend(o.patch.clone().map(|(role, p)| (mark.id.clone(), role, p)));
        self.shadings.extend(o.shading.iter().map(|s| (mark.id.clone(), s.clone())));
        self.mirrors.extend(o.mirror.map(|m| (mark.id.clone(), m)));
        self.arounds.extend(o.around.iter().map(|a| (mark.id.clone(), a.clone())));
        self.warnings.extend(o.warnings.iter().cloned());
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

    /// Directions the marks read so far speak for, as far as they concern this one.
    fn hints(&self, mark: &Mark) -> Vec<face::Hint> {
        let lights = fuse(self.evidence_for(mark));
        let complete = |id: &String| self.marks.marks.iter().any(|m| &m.id == id && m.kind.shows_all());
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
