//! Accepted sets, kept to be found again by their light, and how like one light is to another.

use super::Left;
use lightset::kit::Kit;
use lightset::notation::{SlantLight, SlantLine};
use lightset::set::{LightSet, SetLight};
use optics::geometry::angle_between;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A set that met its reference, or came near enough.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Recipe {
    /// Name for people.
    pub title: String,
    /// Light of the accepted picture as a slant line, lens frame.
    pub slant: String,
    /// Its look, if it has a name.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub look: Option<String>,
    /// The set.
    pub set: LightSet,
    /// What differs from the reference and why it stays.
    #[serde(default)]
    pub left: Vec<Left>,
    /// Tags.
    #[serde(default)]
    pub tags: Vec<String>,
    /// Notes.
    #[serde(default)]
    pub note: String,
}

/// What a recipe is looked for by; what is absent is not asked.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct RecipeQuery {
    /// Light as a slant line.
    pub slant: Option<String>,
    /// Name of a look.
    pub look: Option<String>,
    /// Words in its title, tags or note.
    pub words: Option<String>,
    /// Only what the kit can do.
    pub with_kit: bool,
}

/// Differences that count as one step: degrees, share of the size, stops (common practice: what is just seen in a
/// portrait).
const STEP: [f64; 3] = [10.0, 0.35, 0.6];
/// A light this many stops under the key is not missed.
const FAINT_STOPS: f64 = -4.0;
/// A light that has no partner, per stop over that.
const ALONE: f64 = 1.2;

/// How like two lights are, 0 to 1: 1 for the same, about 0.6 for one step of difference in one of them. Levels and sizes count
/// only where both are known.
pub fn likeness(a: &SlantLine, b: &SlantLine) -> f64 {
    let cost = |p: &SlantLight, q: &SlantLight| {
        let deg = angle_between(&p.at().vector(), &q.at().vector()).to_degrees() / STEP[0];
        let size = p.angular_size_deg.zip(q.angular_size_deg).map_or(0.0, |(x, y)| (x / y).ln() / STEP[1].ln_1p());
        let level = p.level_stops.zip(q.level_stops).map_or(0.0, |(x, y)| (x - y) / STEP[2]);
        deg * deg + size * size + level * level
    };
    let weight = |l: &SlantLight| (l.level_stops.unwrap_or(0.0) - FAINT_STOPS).max(0.0) * ALONE;
    // nearest pairs first
    let mut pairs: Vec<(f64, usize, usize)> = Vec::new();
    for (i, p) in a.0.iter().enumerate() {
        for (j, q) in b.0.iter().enumerate() {
            pairs.push((cost(p, q), i, j));
        }
    }
    pairs.sort_by(|x, y| x.0.total_cmp(&y.0));
    let (mut left, mut right) = (vec![true; a.0.len()], vec![true; b.0.len()]);
    let mut sum = 0.0;
    for (c, i, j) in pairs {
        // two lights far apart are two lights, one missing on each side
        if left[i] && right[j] && c < weight(&a.0[i]) + weight(&b.0[j]) {
            (left[i], right[j]) = (false, false);
            sum += c;
        }
    }
    let alone = |free: &[bool], l: &SlantLine| -> f64 {
        free.iter().zip(&l.0).filter(|(f, _)| **f).map(|(_, l)| weight(l)).sum()
    };
    sum += alone(&left, a) + alone(&right, b);
    (-0.5 * sum).exp()
}

/// What a kit lacks to make a set: lights whose face it has nothing within a quarter of the size of, and lamps.
pub fn lacks(set: &LightSet, kit: &Kit) -> Vec<String> {
    let mut out = Vec::new();
    let lamps: u32 = kit.lamps.iter().map(|l| l.count).sum();
    let wanted = set.lights.iter().filter(|l| !l.off && !l.source.is_window()).count() as u32;
    if wanted > lamps {
        out.push(format!("{wanted} lamps, and the kit has {lamps}"));
    }
    let plain = |l: &&SetLight| !l.off && !l.source.is_window() && l.bounce.is_none() && l.scrims.is_empty();
    for l in set.lights.iter().filter(plain) {
        let want = l.source.face_m();
        let near = |size: [f64; 2]| {
            let area = |s: [f64; 2]| (s[0] * s[1]).sqrt();
            (area(size) / area(want)).ln().abs() < 0.25f64.ln_1p()
        };
        let has = kit.modifiers.iter().any(|m| m.count > 0 && near(m.size_m))
            || kit.lamps.iter().any(|x| x.count > 0 && near([x.face_m, x.face_m]));
        if !has {
            out.push(format!("{}: {} {:.2} × {:.2} m", l.name, l.source.word(), want[0], want[1]));
        }
    }
    out
}

/// How well a recipe answers a query, 0 to 1; `None` if it does not.
///
/// # Errors
/// If the slant line asked for cannot be read.
pub fn matches(r: &Recipe, q: &RecipeQuery, kit: &Kit) -> Result<Option<f64>, String> {
    let asked = |text: &Option<String>| text.as_deref().map(str::trim).filter(|t| !t.is_empty()).map(str::to_lowercase);
    if let Some(look) = asked(&q.look)
        && r.look.as_deref().map(str::to_lowercase) != Some(look)
    {
        return Ok(None);
    }
    if let Some(words) = asked(&q.words) {
        let all = format!("{} {} {}", r.title, r.tags.join(" "), r.note).to_lowercase();
        if !words.split_whitespace().all(|w| all.contains(w)) {
            return Ok(None);
        }
    }
    if q.with_kit && !lacks(&r.set, kit).is_empty() {
        return Ok(None);
    }
    match q.slant.as_deref().map(str::trim).filter(|t| !t.is_empty()) {
        None => Ok(Some(1.0)),
        Some(text) => {
            let wanted: SlantLine = text.parse()?;
            let own: SlantLine = r.slant.parse().unwrap_or_default();
            let like = likeness(&wanted, &own);
            Ok((like > 0.005).then_some(like))
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn like(a: &str, b: &str) -> f64 {
        likeness(&a.parse().expect("a slant line"), &b.parse().expect("a slant line"))
    }

    #[test]
    fn the_same_light_is_like_itself_and_the_order_does_not_matter() {
        let (a, b) = ("key R45/39 o21 +0.0 | fill L30/0 o60 -1.9", "fill L30/0 o60 -1.9 | key R45/39 o21 +0.0");
        assert!((like(a, a) - 1.0).abs() < 1e-12 && (like(a, b) - 1.0).abs() < 1e-12);
        assert!((like(a, "key R40/30 o21 +0.0") - like("key R40/30 o21 +0.0", a)).abs() < 1e-12);
    }

    #[test]
    fn likeness_falls_with_angle_size_level_and_number() {
        let key = "key R45/30 o20 +0.0";
        let one_step = like(key, "key R45/40 o20 +0.0");
        assert!((one_step - (-0.5f64).exp()).abs() < 0.01, "{one_step}");
        let order = [
            like(key, "key R47/31 o21 +0.0"),
            like(key, "key R55/30 o20 +0.0"),
            like(key, "key R75/30 o20 +0.0"),
            like(key, "key L45/30 o20 +0.0"),
        ];
        assert!(order.windows(2).all(|w| w[0] > w[1]), "{order:?}");
        // a faint second light is not missed, a strong one is
        assert!(like(key, "key R45/30 o20 +0.0 | rim L150/20 o5 -4.2") > 0.95);
        assert!(like(key, "key R45/30 o20 +0.0 | rim L150/20 o5 -0.5") < 0.2);
    }
}
