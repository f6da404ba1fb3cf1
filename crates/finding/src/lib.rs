//! Proposes marks for a picture by image analysis: balls, eyes seen close, glossy cylinders, edges of shadows.
//!
//! What is proposed is meant to be corrected by a person. Faces need a trained model and are proposed in the browser.

mod balls;
mod bottles;
mod circles;
mod cylinders;
mod edges;
mod likely;
mod small;

pub use likely::{Model, Signs, models};

use evidence::levels;
use evidence::marks::{Ball, Cylinder, Eye, Finish, Mark, MarkKind, Marks, Patch, PatchRole, Penumbra};
use optics::photo::Photo;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What the picture is of, if a person says so: only marks that go with it are proposed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "lowercase")]
pub enum Sought {
    /// People: eyes, patches.
    Portrait,
    /// Ball probes.
    Ball,
    /// Things: cylinders, shadow edges.
    Product,
}

impl std::str::FromStr for Sought {
    type Err = String;

    fn from_str(s: &str) -> Result<Self, String> {
        match s {
            "portrait" => Ok(Sought::Portrait),
            "ball" => Ok(Sought::Ball),
            "product" => Ok(Sought::Product),
            _ => Err(format!("expected portrait, ball or product, found \"{s}\"")),
        }
    }
}

/// A proposed mark.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Proposal {
    /// The mark.
    pub mark: Mark,
    /// Probability that it is what it is proposed as, 0..1, as measured on pictures whose marks are known.
    pub probability: f64,
    /// What was seen, for a person.
    pub why: String,
    /// What the probability was worked out from.
    #[serde(skip)]
    #[schema(ignore)]
    pub signs: Option<Signs>,
}

/// Under this nothing is proposed.
pub const LIKELY: f64 = 0.5;

/// Proposed marks, the strongest first within a kind: at most a few of each.
///
/// A picture without anything that can be marked gives an empty list.
pub fn find(photo: &Photo, subject: Option<Sought>) -> Vec<Proposal> {
    look(photo, subject, LIKELY)
}

/// All that was looked at closer, however improbable: for those who fit the probabilities.
pub fn candidates(photo: &Photo) -> Vec<Proposal> {
    look(photo, None, 0.0)
}

fn look(photo: &Photo, subject: Option<Sought>, least: f64) -> Vec<Proposal> {
    let small = small::Small::of(photo);
    let wants = |s: Sought| subject.is_none_or(|k| k == s);
    let mut found = Found { least, ..Found::default() };
    let cylinders = if wants(Sought::Product) { cylinders::find(photo, &small) } else { Vec::new() };
    // what is known by its shading alone comes last, where nothing else is found
    let (shaded, cylinders): (Vec<_>, Vec<_>) = cylinders.into_iter().partition(|c| c.shading.is_some());
    let add = |found: &mut Found, c: &cylinders::Found| {
        let why = match c.shading {
            Some(_) => "two long edges, shaded as one light shades a cylinder between them".to_owned(),
            None => format!("two long edges with {} that run along them", many(c.strips, "bright line")),
        };
        found.add("cylinder", MarkKind::Cylinder(with_outline(photo, c)), c.signs(), why);
    };
    cylinders.iter().for_each(|c| add(&mut found, c));
    if wants(Sought::Ball) || wants(Sought::Portrait) {
        for b in balls::find(photo, &small, least) {
            let (eye, why) = (b.finish.is_none(), b.why.clone());
            // the ends of a cylinder are round as well
            let on_one =
                cylinders.iter().any(|c| likely::probability(&c.signs()) >= LIKELY && c.holds(b.outline.centre));
            if on_one || !wants(if eye { Sought::Portrait } else { Sought::Ball }) {
                continue;
            }
            let kind = match b.finish {
                Some(finish) => MarkKind::Ball(Ball { finish, centre: b.outline.centre, radius_px: b.outline.rx }),
                None => MarkKind::Eye(Eye { limbus: b.outline, looks_to_clock: None, catchlights: None }),
            };
            found.add(if eye { "eye" } else { "ball" }, kind, b.signs, why);
        }
    }
    // Two eyes make a face: round and long parts of it are not probes and bottles.
    let eye = |p: &Proposal| matches!(p.mark.kind, MarkKind::Eye(_));
    if subject.is_none() && found.list.iter().filter(|p| eye(p) && p.probability >= LIKELY).count() >= 2 {
        found.list.retain(eye);
    }
    let alone = found.list.iter().all(|p| p.probability < LIKELY);
    if alone {
        shaded.iter().for_each(|c| add(&mut found, c));
    }
    // a bottle on its own, whose straight sides are short
    let alone = found.list.iter().all(|p| p.probability < LIKELY);
    if let Some(b) = if alone && wants(Sought::Product) { bottles::find(photo) } else { None } {
        let signs = b.signs();
        let why = "an outline that is alike on both sides of an upright axis".to_owned();
        found.add("cylinder", MarkKind::Cylinder(evidence::marks::of_silhouette(b.outline)), signs, why);
    }
    let alone = found.list.iter().all(|p| p.probability < LIKELY);
    if subject.is_none_or(|s| s == Sought::Product) && alone {
        for (i, e) in edges::find(photo, &small).into_iter().enumerate() {
            let why = format!("one material, {:.1} stops apart, over {:.0} px", e.step_stops, e.width_px);
            found.add(
                "edge",
                MarkKind::Penumbra(Penumbra { a: e.a, b: e.b, gap_m: None, px_per_m: None }),
                e.signs(),
                why,
            );
            if i == 0 {
                found.sides(e.lit.to_vec(), e.shadow.to_vec(), &e.signs(), "the two sides of a shadow's edge");
            }
        }
    }
    found.list
}

/// Part of a found radius by which that of its traced outline may differ.
const SAME_RADIUS: f64 = 0.12;

/// A bottle or can with its outline, where one can be traced that holds what was found.
fn with_outline(photo: &Photo, c: &cylinders::Found) -> Cylinder {
    let plain = Cylinder { axis: c.axis, radius_px: c.radius, profile: Vec::new() };
    let Ok(traced) = evidence::marks::traced_about(photo, c.axis, c.radius) else { return plain };
    let (_, radius) = traced.upright();
    if (radius / c.radius - 1.0).abs() < SAME_RADIUS { traced } else { plain }
}

/// Difference of two cheeks in stops from which they are a lit and a shadow side (ours).
const CHEEKS_DIFFER: f64 = 0.25;

/// Square patches on two cheeks, named by which is brighter; none if they are alike or cannot be read.
pub fn cheeks(photo: &Photo, centres: [[f64; 2]; 2], half: f64) -> Vec<Proposal> {
    let square = |[x, y]: [f64; 2]| {
        [[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]].map(|[u, v]| [x + half * u, y + half * v]).to_vec()
    };
    let [a, b] = centres.map(square);
    let (Ok(first), Ok(second)) = (levels::measure(photo, &a), levels::measure(photo, &b)) else { return Vec::new() };
    let stops = (first.luminance / second.luminance).log2();
    if stops.abs() < CHEEKS_DIFFER {
        return Vec::new();
    }
    let (lit, shadow) = if stops > 0.0 { (a, b) } else { (b, a) };
    let mut found = Found::default();
    let signs = Signs { kind: "cheeks", values: vec![stops.abs()] };
    found.sides(lit, shadow, &signs, &format!("the cheeks differ by {:.1} stops", stops.abs()));
    found.list
}

/// Proposals as marks of a picture.
pub fn as_marks(proposals: &[Proposal]) -> Marks {
    Marks { marks: proposals.iter().map(|p| p.mark.clone()).collect(), ..Marks::default() }
}

fn many(n: usize, what: &str) -> String {
    if n == 1 { format!("one {what}") } else { format!("{n} {what}s") }
}

#[derive(Default)]
struct Found {
    list: Vec<Proposal>,
    /// Probability under which nothing is taken in.
    least: f64,
}

impl Found {
    /// Patches on a lit and on a shadow side of one material.
    fn sides(&mut self, lit: Vec<[f64; 2]>, shadow: Vec<[f64; 2]>, signs: &Signs, why: &str) {
        for (role, polygon) in [(PatchRole::Lit, lit), (PatchRole::Shadow, shadow)] {
            self.add("patch", MarkKind::Patch(Patch { role, polygon }), signs.clone(), why.into());
        }
    }

    fn add(&mut self, prefix: &str, kind: MarkKind, signs: Signs, why: String) {
        let probability = likely::probability(&signs);
        if probability < self.least {
            return;
        }
        let n = self.list.iter().filter(|p| p.mark.id.starts_with(prefix)).count();
        let mark = Mark { id: format!("{prefix}-{}", n + 1), off: false, kind, other: Default::default() };
        let probability = (100.0 * probability).round() / 100.0;
        self.list.push(Proposal { mark, probability, why, signs: Some(signs) });
    }
}

/// A circle that was recognised.
struct Round {
    /// `None` for an eye.
    finish: Option<Finish>,
    outline: evidence::marks::Ellipse,
    signs: Signs,
    why: String,
}
