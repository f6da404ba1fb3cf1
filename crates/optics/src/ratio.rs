//! The lighting ratio: what a meter at the subject would show of the key against all that lifts its shadows.
//!
//! One quantity, worked out here for readings, sets, plans and recipes alike. What two patches of a picture differ by is
//! another thing: the *contrast on the subject* (`evidence::levels`), which equals (key + fill) : fill only where the key
//! reaches one patch in full and the other not at all.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Standard deviations to either side that a stated range holds: 95 % of a normal spread.
const HELD: f64 = 1.96;
/// A level is never known better than this, stops: a meter's own step (common practice).
const LEAST_SD_STOPS: f64 = 0.05;

/// A level in stops with one standard deviation.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LevelSpread {
    /// Stops relative to the key.
    pub stops: f64,
    /// One standard deviation, stops.
    pub sd_stops: f64,
}

/// Key against fill in both schools, with the ranges that hold the truth in 19 of 20 cases.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LightingRatio {
    /// One school: key alone over fill alone, each metered facing it.
    pub key_to_fill: f64,
    /// Range of that.
    #[schema(value_type = crate::geometry::Pair)]
    pub key_to_fill_range: [f64; 2],
    /// The other: key and fill together over fill alone.
    pub key_plus_fill_to_fill: f64,
    /// Range of that.
    #[schema(value_type = crate::geometry::Pair)]
    pub key_plus_fill_to_fill_range: [f64; 2],
    /// Stops of the key over the fill, `log2(key_to_fill)`.
    pub key_over_fill_stops: f64,
    /// One standard deviation of that, stops.
    pub sd_stops: f64,
}

/// All that lifts the key's shadows as one level: irradiances add, `log2(sum 2^l)`; the spreads of independent levels go
/// by first order. `None` if there is nothing.
pub fn together(levels: &[LevelSpread]) -> Option<LevelSpread> {
    let total: f64 = levels.iter().map(|l| l.stops.exp2()).sum();
    let var: f64 = levels.iter().map(|l| (l.stops.exp2() * l.sd_stops).powi(2)).sum();
    (total > 0.0 && total.is_finite())
        .then(|| LevelSpread { stops: total.log2(), sd_stops: (var.sqrt() / total).max(LEAST_SD_STOPS) })
}

impl LightingRatio {
    /// The ratio of a key at 0 stops to a fill: `2^-l` to 1, and `1 + 2^-l` to 1.
    pub fn over(fill: LevelSpread) -> LightingRatio {
        let at = |stops: f64| stops.exp2();
        let (over, sd) = (-fill.stops, fill.sd_stops.max(LEAST_SD_STOPS));
        let (low, high) = (over - HELD * sd, over + HELD * sd);
        LightingRatio {
            key_to_fill: at(over),
            key_to_fill_range: [at(low), at(high)],
            key_plus_fill_to_fill: 1.0 + at(over),
            key_plus_fill_to_fill_range: [1.0 + at(low), 1.0 + at(high)],
            key_over_fill_stops: over,
            sd_stops: sd,
        }
    }

    /// The ratio by the levels of all fills and of the light from all around, relative to the key.
    pub fn of(fills: &[LevelSpread]) -> Option<LightingRatio> {
        together(fills).map(LightingRatio::over)
    }

    /// Fill by this ratio, relative to the key.
    pub fn fill(&self) -> LevelSpread {
        LevelSpread { stops: -self.key_over_fill_stops, sd_stops: self.sd_stops }
    }
}
