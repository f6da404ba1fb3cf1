//! Common beliefs about light, held against the set that a picture was read as: what each would do here, computed.

use crate::handling::{elsewhere, powered};
use crate::mending::wider;
use crate::moves::gives;
use evidence::looks::name_look;
use lightset::set::{LightSet, SetLight};
use optics::geometry::{AzEl, Vec3};
use optics::hardness::hardness;
use optics::role::Role;
use optics::words::{Lengths, length};
use serde::Serialize;
use studio::flat_at;
use utoipa::ToSchema;

/// A belief and what it comes to in this picture.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Myth {
    /// Stable name.
    pub id: String,
    /// The belief as a rule of thumb.
    pub belief: String,
    /// What it comes to here, in figures.
    pub here: String,
    /// What is true of it.
    pub truth: String,
    /// Where the truth comes from.
    pub source: String,
    /// What it would lead one to expect, and what is computed; with their unit.
    #[schema(value_type = optics::geometry::Pair)]
    pub expected_computed: [f64; 2],
    /// Unit of the two.
    pub unit: String,
}

/// A face that is larger by so much, and farther by more, as beginners do it.
const LARGER: f64 = 1.5;
const FARTHER: f64 = 2.0;
/// Colours that differ by less than this are one colour, mired.
const ONE_COLOUR_MIRED: f64 = 15.0;

fn one(v: f64) -> String {
    format!("{:.1}", v).replace('-', "\u{2212}")
}

/// The light on the middle of the background against the subject's front, stops; none where the frame shows no background.
fn background_under(set: &LightSet, places: &[(Vec3, Vec3)]) -> Option<f64> {
    let [front, back] = flat_at(set, places).ok()?.try_into().ok()?;
    Some((front.max(1e-9) / back.max(1e-9)).log2())
}

fn with_key(set: &LightSet, k: usize, l: SetLight) -> LightSet {
    let mut out = set.clone();
    out.lights[k] = l;
    out
}

/// Beliefs about the light of a set, each computed for it. `unit` is for lengths.
///
/// # Errors
/// If a power setting of the set cannot be understood.
pub fn myths(set: &LightSet, unit: Lengths) -> Result<Vec<Myth>, String> {
    let meter = studio::metered(set)?;
    let mut out = Vec::new();
    let myth = |id: &str, belief: &str, here: String, truth: &str, source: &str, figures: [f64; 2], unit: &str| Myth {
        id: id.into(),
        belief: belief.into(),
        here,
        truth: truth.into(),
        source: source.into(),
        expected_computed: figures,
        unit: unit.into(),
    };
    let place = |n: &str| meter.points.iter().find(|p| p.name == n).map(|p| (Vec3::from(p.at_m), Vec3::from(p.facing)));
    let front = place("forehead").or_else(|| place("front"));
    let key = set
        .lights
        .iter()
        .position(|l| !l.off && Role::of_name(&l.name) == Role::Key)
        .or_else(|| set.lights.iter().position(|l| !l.off));
    if let Some(k) = key {
        let l = &set.lights[k];
        let (d, now) = (l.position().norm(), gives(l, set));
        if !l.source.is_window() {
            let far = gives(&elsewhere(l, l.position() * 2.0), set);
            let lost = now.stops - far.stops;
            out.push(myth(
                "twice-as-far",
                "Twice the distance is half the light.",
                format!(
                    "The key from {} to {}: {} stops less, {:.0} % of the light, not 50 %.",
                    length(d, unit),
                    length(2.0 * d, unit),
                    one(lost),
                    100.0 * (-lost).exp2()
                ),
                "A small lamp loses two stops, three quarters of its light, each time its distance doubles; a face as large as its distance a little less.",
                "inverse square law; extended sources by their solid angle (any text of photometry)",
                [1.0, lost],
                "stops",
            ));
            let larger = SetLight { source: wider(&l.source, LARGER), ..l.clone() };
            let there = gives(&elsewhere(&larger, l.position() * FARTHER), set);
            let [a, b] = [now, there].map(|g| g.ln_size.exp().to_degrees());
            out.push(myth(
                "bigger-is-softer",
                "A bigger softbox is softer, wherever it stands.",
                format!(
                    "A face {LARGER} times as wide, {FARTHER:.0} times as far away: {b:.0}\u{b0} instead of {a:.0}\u{b0} as the subject sees it, {}.",
                    if hardness(a) == hardness(b) {
                        format!("{} as before, if not harder", hardness(b))
                    } else {
                        format!("{} instead of {}", hardness(b), hardness(a))
                    }
                ),
                "What counts is how large it looks from the subject: size over distance.",
                "common practice; penumbra by the angle of the source (geometry)",
                [LARGER, b / a],
                "times",
            ));
            if let (Some(front), Some(back)) = (front, place("background")) {
                let far = elsewhere(l, l.position() * 2.0);
                // metered to its level again
                let again = powered(&far, now.stops - gives(&far, set).stops);
                let places = [front, back];
                let (before, after) =
                    (background_under(set, &places), background_under(&with_key(set, k, again), &places));
                if let (Some(b), Some(a)) = (before, after) {
                    out.push(myth(
                        "farther-darkens-the-wall",
                        "Take the key farther away and the background gets darker.",
                        format!(
                            "The key twice as far, metered to its level again: the background lies {} stops under the subject instead of {}.",
                            one(a),
                            one(b)
                        ),
                        "From farther away light falls off less between subject and background: it gets brighter against the subject. To darken it, bring the key near.",
                        "inverse square law",
                        [b + 1.0, a],
                        "stops",
                    ));
                }
            }
        }
        let p = l.position();
        let side = if p.x < 0.0 { -1.0 } else { 1.0 };
        let there = AzEl { azimuth_deg: 45.0 * side, elevation_deg: 45.0 };
        let off = optics::geometry::angle_between(&p, &there.vector()).to_degrees();
        let look = |a: AzEl| name_look(&a.vector(), 0.02, false).name;
        out.push(myth(
            "45-and-45",
            "45\u{b0} aside and 45\u{b0} up is always right.",
            format!(
                "The key here stands {:.0}\u{b0} aside and {:.0}\u{b0} up ({}); moved by {off:.0}\u{b0} to 45 and 45 it would {} {}.",
                now.at.azimuth_deg.abs(),
                now.at.elevation_deg,
                look(now.at),
                if look(now.at) == look(there) { "still be" } else { "be" },
                look(there)
            ),
            "It is one look of many, and it depends on where the head is turned: look at the nose's shadow and the eyes, not at the stand.",
            "common practice",
            [0.0, off],
            "degrees",
        ));
        // dimming all alike
        let dim = set.lights.iter().map(|l| powered(l, -1.0)).collect();
        let mut lower = LightSet { lights: dim, ..set.clone() };
        crate::handling::room_by(&mut lower, -1.0);
        if let (Some(b), Some(a)) = (studio::key_to_fill(set)?, studio::key_to_fill(&lower)?) {
            out.push(myth(
                "dim-for-less-contrast",
                "Turn the lights down and the contrast goes down.",
                format!(
                    "All a stop down: the ratio stays {} : 1 ({} : 1 before); only the exposure changes.",
                    one(a),
                    one(b)
                ),
                "Contrast is the key against what fills: it changes when one of them changes.",
                "definition of the lighting ratio",
                [b / 2.0, a],
                ": 1",
            ));
        }
    }
    if let Some((at, facing)) = front {
        let mut near = set.clone();
        let aim = Vec3::from(set.camera.aim_m);
        near.camera.position_m = (aim + (Vec3::from(set.camera.position_m) - aim) * 0.5).into();
        let e = |s: &LightSet| flat_at(s, &[(at, facing)]).map(|v| v[0].max(1e-9).log2());
        let by = e(&near)? - e(set)?;
        out.push(myth(
            "camera-nearer",
            "Bring the camera nearer and the picture gets brighter.",
            format!("The camera at half its distance: {} stops at the subject, and no other exposure.", one(by)),
            "A surface looks as bright from near as from far: it only fills more of the frame. Light falls off from the lamp, not to the lens.",
            "radiance is kept along a ray (any text of photometry)",
            [2.0, by],
            "stops",
        ));
    }
    let colour = |l: &SetLight| 1e6 / l.cct_k.unwrap_or(5600.0) + l.gel_mired;
    let lit: Vec<&SetLight> = set.lights.iter().filter(|l| !l.off).collect();
    if let Some((a, b)) = lit.first().zip(
        lit.iter()
            .skip(1)
            .max_by(|x, y| (colour(x) - colour(lit[0])).abs().total_cmp(&(colour(y) - colour(lit[0])).abs())),
    ) {
        let apart = colour(b) - colour(a);
        if apart.abs() > ONE_COLOUR_MIRED {
            out.push(myth(
                "balance-mends-mixed-light",
                "White balance mends mixed light.",
                format!("{} and {} differ by {:.0} mired; balanced for either, the other is still {:.0} mired off.", a.name, b.name, apart.abs(), apart.abs()),
                "Balance shifts all light alike. Two colours stay two colours until a gel or another lamp makes them one.",
                "mired shifts add (any text on colour temperature)",
                [0.0, apart.abs()],
                "mired",
            ));
        }
    }
    Ok(out)
}
