//! A face: landmarks give its pose, the light bank of several stand-in heads its lights.
//!
//! | file | holds |
//! |---|---|
//! | `stand_in.rs` | heads to read with, brought by the caller |
//! | `person.rs` | the head of the person, out of a family of heads, by a face mesh |
//! | `pose.rs` | turn, stretch and place of a head from landmarks |
//! | `plates.rs` | samples of skin, and what each light would do to them |
//! | `fit.rs` | lights and surface solved together |
//! | `lights.rs` | how many lights there are |
//! | `around.rs` | what lights and the light from all around come to |
//! | `crown.rs` | what the crown says of lights from behind |
//! | `gap.rs` | how far what casts a shadow on a face stands off it |
//! | `shadow.rs` | the light's size from the edges of the nose's shadow |
//! | `change.rs` | what changed between two pictures of one face |
//!
//! No stand-in is the face in the picture: all are laid over it and blended.

mod around;
mod change;
mod crown;
mod fit;
mod gap;
mod lights;
mod person;
mod plates;
mod pose;
mod shadow;
mod stand_in;

pub use around::Around;
pub use change::{Change, FaceChange, Given, Told, change};
pub use fit::Hint;
pub use gap::{Gap, gap};
pub use lights::Refused;
pub use person::IRISES;
pub use pose::{Pose, PoseProblem};
pub use stand_in::{BANK, LANDMARKS, SkinPoint, StandIn, WORDS, bank};

use super::Seen;
use crate::shapes::Point;
use fit::{ALIKE, Face, Heads, Lit, Lobe};
use lights::is_behind;
use optics::geometry::Camera;
use optics::photo::Photo;
use optics::solve::median;
use person::Person;
use plates::{Layer, SAMPLES, Samples};
use std::collections::BTreeMap;
use std::sync::Arc;

/// So far under the strongest light (natural log) ambient light is not told any more.
const FAINTEST: f64 = 4.2;
/// One standard deviation of it, natural log.
const AMBIENT_SD: f64 = 0.8;
/// Log by which a fill lies under the key at least where none is read: weaker ones pass for the skin's own colour (2.3 stops; of other
/// renderers' pictures in which none was read they were up to that).
const UNSEEN_FILL: f64 = 1.6;

/// What a face says.
#[derive(Debug, Clone)]
pub struct FaceReading {
    /// Lights, strongest first.
    pub lights: Vec<Seen>,
    /// Natural log of the ambient irradiance in the unit of the levels, with its spread.
    pub log_ambient: Option<(f64, f64)>,
    /// Where it is too weak to be told: what it is at most, in 19 of 20 cases.
    pub log_ambient_most: Option<f64>,
    /// Degrees turned to image right, nodded up, tilted clockwise.
    pub pose_deg: [f64; 3],
    /// Spread of the turn, degrees.
    pub turn_sd_deg: f64,
    /// Standard deviation of the nod, degrees.
    pub nod_sd_deg: f64,
    /// Root mean square residual over the light that nine tenths of the samples stay under.
    pub residual: f64,
    /// Samples used.
    pub samples: usize,
    /// Share of clipped samples.
    pub clipped: f64,
    /// Stand-ins and how much of each, the most first.
    pub heads: Vec<(&'static str, f64)>,
    /// Pixels with the light there, and stops by which it exceeds the model's.
    pub map: Vec<([f64; 2], f64)>,
    /// Edges of shadows on the face that told the key's size; 0 if it was told by shading alone.
    pub edges: usize,
    /// The light of the whole room.
    pub around: Around,
    /// What each light, in the order of `lights`, gives at places of the face.
    pub shading: Vec<Shaded>,
    /// The most probable light that was not believed, if it is worth a word: direction and probability.
    pub refused: Option<Refused>,
    /// Linear RGB of the skin where it faces all the light before it.
    pub skin: Option<[f64; 3]>,
    /// The head that was fitted, if the face was marked by a mesh.
    person: Option<Arc<Person>>,
}

impl FaceReading {
    /// Shape of the head that was fitted, weights of the family's components in standard deviations; empty where the face was
    /// not marked by a mesh.
    pub fn shape(&self) -> &[f64] {
        self.person.as_ref().map_or(&[], |p| p.weights())
    }
}

/// What lights give at one place of a face, in units of what each gives on a surface that faces it.
#[derive(Debug, Clone)]
pub struct Shaded {
    /// Pixel.
    pub at: [f64; 2],
    /// By each light: its cosine where it is seen in full, 0 where it is not seen.
    pub lights: Vec<f64>,
    /// By the light from all around.
    pub around: f64,
}

/// Why a face could not be read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum FaceProblem {
    /// No pose.
    #[error(transparent)]
    Pose(#[from] PoseProblem),
    /// Too little skin.
    #[error("too little of the face lies in the picture, or it is too dark to read")]
    Hidden,
    /// The caller brought no heads.
    #[error("no stand-in heads are at hand to read a face with")]
    NoHeads,
}

/// Turns tried about the one the landmarks give, radians.
const LEANS: [f64; 2] = [-0.12, 0.12];
/// Weight of the landmarks against the light.
const LANDMARKS_WEIGH: f64 = 2.0;
/// Samples and steps of the fit while a landmark is dragged.
const FOLLOWED_SAMPLES: f64 = 220.0;
const FOLLOWED: usize = 3;
/// How far a light then goes from where it was, radians.
const FOLLOWED_RAD: f64 = 0.12;
/// Heads kept after the key is found.
const HEADS_KEPT: usize = 4;
/// Least spreads of a direction, radians, of one light and of one among several: read by strangers' heads, and by the
/// person's as a face mesh tells it (people that nothing was fitted to: `evaluation portraits`).
const STRANGER_SD: [f64; 2] = [0.09, 0.12];
const PERSON_SD: [f64; 2] = [0.13, 0.17];
/// What a size is unsure by on a found face besides its own spread, natural log, told by its shading and by edges of its shadows
/// (people that nothing was fitted to: a range twice its spread held 67 to 93 % without).
const PERSON_SIZE_SD: [f64; 2] = [0.75, 0.75];
/// Least spread of a turn: it is told to about half the step it is tried in, degrees.
const TURN_SD_DEG: f64 = 3.5;
/// The same where a face mesh tells it (people that nothing was fitted to: 1.5 held two in three).
const PERSON_TURN_SD_DEG: f64 = 2.5;
/// The same of its nod: a face's own slope looks like a nod.
const NOD_SD_DEG: f64 = 7.0;
const PERSON_NOD_SD_DEG: f64 = 5.0;
/// How much stronger than a fill a light from behind must be to be the key, and how near to the lens (cosine) a fill
/// stands: a rim of a stop over the key is rare (common practice).
const REAR_KEY_OVER: f64 = 2.1;
const NEAR_LENS: f64 = 0.5;

/// A face as it is marked.
#[derive(Debug, Clone, Copy)]
pub struct Marked<'a> {
    /// Named points, pixels.
    pub named: &'a BTreeMap<String, Point>,
    /// Points of a face mesh, pixels; none if marked by hand.
    pub mesh: &'a [Point],
}

/// Reads the lights of a face. `hints` are directions that other evidence (catchlights) speaks for: they
/// are tried, and leaned on unless the face speaks clearly against them.
///
/// # Errors
/// A [`FaceProblem`] that says why not.
pub fn read(
    photo: &Photo,
    camera: Camera,
    marked: Marked,
    heads: &[StandIn],
    hints: &[Hint],
) -> Result<FaceReading, FaceProblem> {
    let points = marked.named;
    if !marked.mesh.is_empty() {
        return by_person(photo, Person::fit(points, marked.mesh, &camera)?, hints);
    }
    if heads.is_empty() {
        return Err(FaceProblem::NoHeads);
    }
    let all: Vec<&StandIn> = heads.iter().collect();
    let mut face = lay(photo, camera, points, &all, hints, 0.0, Care::Full)?;
    let (peaks, skin) = face.peaks();
    let from_peaks = peaks.iter().take(3).map(|p| Lobe { direction: p.0, half: 0.15 });
    let starts = from_peaks.chain(hints.iter().take(3).map(hinted)).map(|l| vec![l]).collect();
    let mut one = face.best_of(starts, &skin).ok_or(FaceProblem::Hidden)?;
    // only heads that the face resembles are kept
    let all = face.keep(&one.blend, HEADS_KEPT);
    one = face.refine(&one.lobes, &one.skin, 3);
    // The nose's length and the head's turn are hard to tell apart by landmarks: the light decides.
    let merit = |face: &Face, lit: &Lit| lit.cost / ALIKE + face.landmark_cost() * LANDMARKS_WEIGH;
    let mut best = merit(&face, &one);
    let leant: Vec<(Face, Lit)> = std::thread::scope(|scope| {
        let (one, all) = (&one, &all);
        let work: Vec<_> = LEANS
            .iter()
            .map(|lean| {
                scope.spawn(move || {
                    let other = lay(photo, camera, points, all, hints, *lean, Care::Full).ok()?;
                    let lit = other.refine(&one.lobes, &one.skin, 8);
                    Some((other, lit))
                })
            })
            .collect();
        work.into_iter().filter_map(|w| w.join().ok().flatten()).collect()
    });
    for (other, lit) in leant {
        // a little better is no reason to doubt the landmarks
        let m = 1.02 * merit(&other, &lit) * face.samples.len() as f64 / other.samples.len() as f64;
        if m < best {
            (face, one, best) = (other, lit, m);
        }
    }
    face.glows = crown::glows(photo, &face.layers[0].pose, &one);
    let (lit, refused) = lights::count(&face, one, &peaks);
    let key = (0..lit.lobes.len()).max_by(|a, b| lit.share[*a].total_cmp(&lit.share[*b]));
    let edges = key.and_then(|k| shadow::size(photo, &face.layers[0], &lit.lobes[k].direction));
    Ok(describe(&face, &lit, refused, edges, None))
}

/// Reads a face by the head that was fitted to it and those like it.
fn by_person(photo: &Photo, person: Person, hints: &[Hint]) -> Result<FaceReading, FaceProblem> {
    let mut face = lay_person(photo, &person, hints, Care::Full)?;
    let (peaks, skin) = face.peaks();
    let from_peaks = peaks.iter().take(3).map(|p| Lobe { direction: p.0, half: 0.15 });
    let starts = from_peaks.chain(hints.iter().take(3).map(hinted)).map(|l| vec![l]).collect();
    let one = face.best_of(starts, &skin).ok_or(FaceProblem::Hidden)?;
    face.glows = crown::glows(photo, &face.layers[0].pose, &one);
    let (lit, refused) = lights::count(&face, one, &peaks);
    let key = (0..lit.lobes.len()).max_by(|a, b| lit.share[*a].total_cmp(&lit.share[*b]));
    let edges = key.and_then(|k| shadow::size(photo, &face.layers[0], &lit.lobes[k].direction));
    let mut reading = describe(&face, &lit, refused, edges, None);
    reading.turn_sd_deg = person.turn_sd[0].to_degrees().max(PERSON_TURN_SD_DEG);
    reading.nod_sd_deg = person.turn_sd[1].to_degrees().max(PERSON_NOD_SD_DEG);
    drop(face);
    reading.skin = tone_of_skin(photo, &reading);
    reading.person = Some(Arc::new(person));
    Ok(reading)
}

/// Lays the heads of a person over the picture.
fn lay_person<'a>(photo: &Photo, person: &'a Person, hints: &'a [Hint], care: Care) -> Result<Face<'a>, FaceProblem> {
    let mut layers: Vec<Layer> = std::thread::scope(|scope| {
        let each = person.heads.iter().zip(&person.poses);
        let work: Vec<_> =
            each.map(|(h, p)| scope.spawn(move || Layer::new(h, p.clone(), care == Care::Full))).collect();
        work.into_iter().filter_map(|w| w.join().ok()).collect()
    });
    let many = if care == Care::Full { SAMPLES } else { FOLLOWED_SAMPLES };
    let samples = Samples::take(photo, &mut layers, many, plates::red).ok_or(FaceProblem::Hidden)?;
    Ok(Face::new(layers, samples, hints, Heads::OnePerson(person::FAR)))
}

/// Reads a face again whose landmarks moved a little, while one is dragged: the lights it had are followed, with the
/// stand-in that fitted best and fewer samples. Quick, and good to a few degrees: [`read`] is to have the last word.
///
/// # Errors
/// A [`FaceProblem`] that says why not.
pub fn follow(
    photo: &Photo,
    camera: Camera,
    marked: Marked,
    heads: &[StandIn],
    before: &FaceReading,
) -> Result<FaceReading, FaceProblem> {
    let points = marked.named;
    let order = |h: &&StandIn| before.heads.iter().position(|b| b.0 == h.name).unwrap_or(usize::MAX);
    let head = heads.iter().min_by_key(order).ok_or(FaceProblem::NoHeads)?;
    let lobe = |s: &Seen| {
        let half = s.log_size.map_or(0.15, |l| 0.5 * l.0.exp()).clamp(0.02, 0.85);
        Lobe { direction: s.direction, half }
    };
    let lobes: Vec<Lobe> = before.lights.iter().map(lobe).collect();
    // a landmark's way turns a light a little; which of two is the key, it does not
    let held: Vec<Hint> =
        lobes.iter().map(|l| Hint { direction: l.direction, sd: FOLLOWED_RAD, size: None, complete: true }).collect();
    let person = before.person.as_ref().filter(|_| !marked.mesh.is_empty());
    let again = person.map(|p| p.again(points, marked.mesh, &camera)).transpose()?;
    let face = match &again {
        Some(p) => lay_person(photo, p, &held, Care::Quick)?,
        None => lay(photo, camera, points, &[head], &held, 0.0, Care::Quick)?,
    };
    let lit = face.refine(&lobes, &Default::default(), FOLLOWED);
    let mut now = describe(&face, &lit, before.refused, None, Some(&before.around));
    if let Some(was) = before.lights.first().map(|l| l.direction) {
        now.lights.sort_by(|a, b| b.direction.dot(&was).total_cmp(&a.direction.dot(&was)));
        if let Some((key, others)) = now.lights.split_first_mut() {
            let most = key.log_level.map_or(f64::MAX, |l| l.0);
            others.iter_mut().filter_map(|l| l.log_level.as_mut()).for_each(|l| l.0 = l.0.min(most));
        }
    }
    Ok(now)
}

/// How a face is laid out: in full, or with few samples and matte skin while a landmark is dragged.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Care {
    Full,
    Quick,
}

/// Lays stand-ins over the picture, turned by `lean` radians from where the landmarks have them.
fn lay<'a>(
    photo: &Photo,
    camera: Camera,
    points: &BTreeMap<String, Point>,
    heads: &[&'a StandIn],
    hints: &'a [Hint],
    lean: f64,
    care: Care,
) -> Result<Face<'a>, FaceProblem> {
    let mut layers: Vec<Layer> = std::thread::scope(|scope| {
        let work: Vec<_> = heads
            .iter()
            .map(|&h| {
                scope.spawn(move || {
                    Pose::fit(h, points, &camera, lean).map(|pose| Layer::new(h, pose, care == Care::Full))
                })
            })
            .collect();
        work.into_iter().map(|w| w.join().unwrap_or(Err(PoseProblem::NoFace))).collect::<Result<_, _>>()
    })?;
    let many = if care == Care::Full { SAMPLES } else { FOLLOWED_SAMPLES };
    let samples = Samples::take(photo, &mut layers, many, plates::to_the_eye).ok_or(FaceProblem::Hidden)?;
    Ok(Face::new(layers, samples, hints, Heads::Blended))
}

fn hinted(h: &Hint) -> Lobe {
    Lobe { direction: h.direction, half: h.size.map_or(0.15, |s| (0.5 * s).clamp(0.03, 0.8)) }
}

/// Least spreads of a direction, radians: of one light, and of one among several.
fn floors(face: &Face) -> [f64; 2] {
    if face.is_one_person() { PERSON_SD } else { STRANGER_SD }
}

/// What a fit says. `around` is the room as it was before a landmark was dragged: laying it out anew takes longer than a drag may.
fn describe(
    face: &Face,
    lit: &Lit,
    refused: Option<Refused>,
    edges: Option<(f64, f64, usize)>,
    around: Option<&Around>,
) -> FaceReading {
    let mut order: Vec<usize> = (0..lit.lobes.len()).collect();
    order.sort_by(|a, b| lit.share[*b].total_cmp(&lit.share[*a]));
    let floor = floors(face)[usize::from(lit.lobes.len() > 1)];
    let behind = |k: usize| is_behind(&lit.lobes[k].direction);
    let most = lit.level[*order.iter().find(|k| !behind(**k)).unwrap_or(&order[0])];
    // a light from behind is the key only if it is much stronger than what is in front, and that is a fill
    let filled = (0..lit.lobes.len()).all(|k| behind(k) || lit.lobes[k].direction.z > NEAR_LENS);
    let leads = |k: usize| !behind(k) || (filled && lit.level[k] > REAR_KEY_OVER * most);
    let lights: Vec<Seen> = order
        .iter()
        .map(|&k| {
            let l = lit.lobes[k];
            let own = lit.spread[k];
            // A light from behind grazes the face: its level is hardly bound, and the key is the key.
            let (level, level_sd) = if lit.level[k] > most && !leads(k) {
                (0.95 * most, (lit.level[k] / most).ln().max(0.6))
            } else {
                (lit.level[k], if behind(k) { 0.6f64 } else { 0.4 })
            };
            let frontal = if l.direction.z > 0.963 { 0.8f64 } else { 0.5 };
            let [by_shading, by_edges] = if face.is_one_person() { PERSON_SIZE_SD } else { [0.0; 2] };
            let size = ((2.0 * l.half).ln(), own[2].min(1.0).hypot(frontal).hypot(by_shading));
            // the edges of the key's shadows tell it better than the shading
            let told = edges.filter(|_| k == order[0]).map(|e| (e.0, e.1.hypot(by_edges)));
            let size = super::fusion::inverse_variance([size].into_iter().chain(told));
            Seen {
                direction: l.direction,
                direction_sd: (own[0].powi(2) + own[1].powi(2)).min(0.3).sqrt().hypot(floor),
                log_size: size,
                log_level: Some((level.max(1e-9).ln(), level_sd)),
                rgb: None,
            }
        })
        .collect();
    let strongest = lights.iter().filter_map(|l| l.log_level.map(|v| v.0)).fold(f64::MIN, f64::max);
    let ambient = lit.ambient.max(1e-9).ln();
    let total: f64 = lit.blend.iter().sum::<f64>().max(1e-12);
    let mut heads: Vec<(&'static str, f64)> =
        face.layers.iter().zip(&lit.blend).map(|(l, b)| (l.head.name, b / total)).collect();
    heads.sort_by(|a, b| b.1.total_cmp(&a.1));
    let mean = |f: &dyn Fn([f64; 3]) -> f64| {
        face.layers.iter().zip(&lit.blend).map(|(l, b)| f(l.pose.degrees()) * b).sum::<f64>() / total
    };
    let pose_deg = [0, 1, 2].map(|k| mean(&|d| d[k]));
    let apart = mean(&|d| (d[0] - pose_deg[0]).powi(2)).sqrt();
    let s = &face.samples;
    FaceReading {
        lights,
        log_ambient: (ambient > strongest - FAINTEST).then_some((ambient, AMBIENT_SD)),
        log_ambient_most: (ambient <= strongest - FAINTEST).then_some(strongest - UNSEEN_FILL),
        pose_deg,
        turn_sd_deg: apart.hypot(TURN_SD_DEG),
        nod_sd_deg: NOD_SD_DEG,
        residual: (s.value.iter().zip(&lit.model).map(|(v, m)| (v - m).powi(2)).sum::<f64>() / s.len() as f64).sqrt(),
        samples: s.len(),
        clipped: s.clipped,
        heads,
        map: s
            .at
            .iter()
            .zip(s.value.iter().zip(&lit.model))
            .map(|(at, (v, m))| (*at, (v.max(1e-4) / m.max(1e-4)).log2()))
            .collect(),
        edges: edges.map_or(0, |e| e.2),
        around: around.cloned().unwrap_or_else(|| {
            around::around(face, lit, order.iter().copied().find(|k| leads(*k)).unwrap_or(order[0]))
        }),
        shading: shading(face, lit, &order),
        refused,
        skin: None,
        person: None,
    }
}

/// Linear RGB of the skin in the picture where it faces all lights that stand before it at once: what a set whose meter is right
/// is to draw it with. The median over the samples of the picture over its light.
fn tone_of_skin(photo: &Photo, r: &FaceReading) -> Option<[f64; 3]> {
    let levels: Vec<f64> = r.lights.iter().map(|l| l.log_level.map_or(0.0, |v| v.0.exp())).collect();
    let ambient = r.log_ambient.map_or(0.0, |a| a.0.exp());
    let light = |s: &Shaded| s.lights.iter().zip(&levels).map(|(c, l)| c * l).sum::<f64>() + ambient * s.around;
    let most = r.shading.iter().map(light).fold(0.0, f64::max);
    let lit: Vec<(&Shaded, f64)> =
        r.shading.iter().map(|s| (s, light(s))).filter(|(_, e)| *e > WELL_LIT * most).collect();
    let front = r.lights.iter().zip(&levels).filter(|(l, _)| !is_behind(&l.direction)).map(|(_, l)| l).sum::<f64>();
    let of = |c: usize| {
        let each = lit.iter().filter_map(|(s, e)| {
            let pixel = photo.get(s.at[0] as i64, s.at[1] as i64)?;
            Some(f64::from(pixel.rgb[c]) / e)
        });
        median(&mut each.collect::<Vec<_>>()) * (front + ambient)
    };
    (lit.len() >= 20).then(|| [0, 1, 2].map(of))
}

/// Share of the most light on a face from which its own colour is told.
const WELL_LIT: f64 = 0.4;

/// What the lights of a fit, in an order, give at the samples.
fn shading(face: &Face, lit: &Lit, order: &[usize]) -> Vec<Shaded> {
    let total: f64 = lit.blend.iter().sum::<f64>().max(1e-12);
    let plates: Vec<_> = order.iter().map(|&k| face.plates(&lit.lobes[k])).collect();
    let by = |i: usize| {
        let of = |heads: &[plates::Plate]| {
            heads.iter().zip(&lit.blend).map(|(h, b)| h.matte.get(i).copied().unwrap_or(0.0) * b).sum::<f64>() / total
        };
        plates.iter().map(|p| of(p)).collect()
    };
    let around = face.around();
    let places = face.samples.at.iter().enumerate();
    places.map(|(i, at)| Shaded { at: *at, lights: by(i), around: around.get(i).copied().unwrap_or(1.0) }).collect()
}
