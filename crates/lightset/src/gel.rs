//! Filters by the names people give them: what they shift and what they take, from a table.

use crate::set::SetLight;
use serde::{Deserialize, Serialize};
use std::sync::LazyLock;
use utoipa::ToSchema;

/// A filter.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Gel {
    /// Stable name.
    pub id: String,
    /// Name for people.
    pub name: String,
    /// Shift in mired, positive is warmer.
    #[serde(default)]
    pub mired: f64,
    /// Colour of one that is no shift, linear and relative.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<optics::geometry::Triple>)]
    pub rgb: Option<[f64; 3]>,
    /// Stops of light it takes.
    pub loss_stops: f64,
}

#[derive(Deserialize)]
struct GelTable {
    gel: Vec<Gel>,
}

static GELS: LazyLock<Vec<Gel>> =
    LazyLock::new(|| toml::from_str::<GelTable>(include_str!("../data/gels.toml")).expect("gels.toml").gel);

/// One standard deviation of what a filter takes, stops (common practice: makers differ).
pub const LOSS_SD_STOPS: f64 = 0.33;

/// All filters of the table.
pub fn gels() -> &'static [Gel] {
    &GELS
}

/// The filter a light has, if it is one of the table.
pub fn gel_on(l: &SetLight) -> Option<&'static Gel> {
    GELS.iter().find(|g| match (g.rgb, l.gel_rgb) {
        (Some(a), Some(b)) => a.iter().zip(b).all(|(x, y)| (x - y).abs() < 1e-6),
        (None, None) => g.mired != 0.0 && (g.mired - l.gel_mired).abs() < 1e-6,
        _ => false,
    })
}

/// A light with another filter before it, or with none, its dial left alone; with what that does, in a sentence.
///
/// # Errors
/// A sentence if there is no such filter, or nothing a filter could be put on.
pub fn with_gel(l: &SetLight, id: Option<&str>) -> Result<(SetLight, String), String> {
    let new = match id {
        None => None,
        Some(id) => Some(GELS.iter().find(|g| g.id == id).ok_or_else(|| format!("gel: \"{id}\" is not known"))?),
    };
    if l.off && new.is_some() {
        return Err(format!("gel: the {} is switched off, so there is nothing to filter", l.name));
    }
    let before = gel_on(l).map_or(0.0, |g| g.loss_stops);
    let mut out = l.clone();
    out.gel_mired = new.map_or(0.0, |g| g.mired);
    out.gel_rgb = new.and_then(|g| g.rgb);
    let change = before - new.map_or(0.0, |g| g.loss_stops);
    out.level.by(change);
    let what = new.map_or_else(|| "No filter".into(), |g| format!("The {} filter", g.name));
    let says = format!(
        "{what} on the {}: {:.1} ± {LOSS_SD_STOPS:.1} stops {} at the subject with the dial left alone.",
        l.name,
        change.abs(),
        if change < 0.0 { "less" } else { "more" }
    );
    Ok((out, says))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::set::{Level, Source};

    fn key() -> SetLight {
        SetLight::of("key", Source::Disc { diameter_m: 0.5 }, 0.0)
    }

    /// 10^6/2900 - 10^6/5500 is 163 mired: full orange turns daylight to tungsten (common practice: 5500 to about 2900 K).
    #[test]
    fn full_orange_turns_daylight_to_tungsten() {
        let full = gels().iter().find(|g| g.id == "orange").expect("orange");
        let k = 1e6 / (1e6 / 5500.0 + full.mired);
        assert!((2850.0..=3000.0).contains(&k), "{k}");
        // halves and quarters are halves and quarters
        for (id, part) in [("orange-2", 0.5), ("orange-4", 0.25), ("blue-2", 0.5)] {
            let g = gels().iter().find(|g| g.id == id).expect(id);
            let whole = gels().iter().find(|w| w.id == id.split('-').next().expect("a name")).expect("whole");
            assert!((g.mired / whole.mired / part - 1.0).abs() < 0.12, "{id}");
        }
    }

    #[test]
    fn a_filter_takes_its_light_and_gives_it_back() {
        let (blue, says) = with_gel(&key(), Some("blue")).unwrap();
        assert_eq!(blue.gel_mired, -137.0);
        assert_eq!(blue.level, Level::Stops { stops: -1.5 });
        assert!(says.contains("1.5 ± 0.3 stops less"), "{says}");
        let (red, _) = with_gel(&blue, Some("red")).unwrap();
        assert_eq!((red.gel_mired, red.level.clone()), (0.0, Level::Stops { stops: -3.2 }));
        assert_eq!(gel_on(&red).map(|g| g.id.as_str()), Some("red"));
        let (bare, _) = with_gel(&red, None).unwrap();
        assert_eq!(bare, key());
    }

    #[test]
    fn a_filter_on_nothing_is_refused() {
        let off = SetLight { off: true, ..key() };
        assert!(with_gel(&off, Some("blue")).unwrap_err().contains("nothing to filter"));
        assert!(with_gel(&key(), Some("plaid")).unwrap_err().contains("not known"));
    }
}
