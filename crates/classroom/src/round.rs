//! A live round: where a class places a light, against where it was.

use crate::book::{grouped, median};
use optics::geometry::{AzEl, Vec3, angle_between, wrapped_deg};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Checks a place that came from outside.
///
/// # Errors
/// One sentence that names the field and what was expected.
pub fn check_place(at: &AzEl) -> Result<(), String> {
    if !(-180.0..=180.0).contains(&at.azimuth_deg) {
        return Err("azimuth_deg: expected -180 to 180".into());
    }
    if !(-90.0..=90.0).contains(&at.elevation_deg) {
        return Err("elevation_deg: expected -90 to 90".into());
    }
    Ok(())
}

/// Where the light was, with how far that may be off.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Truth {
    /// Where it came from.
    pub at: AzEl,
    /// Root mean square angle by which that may be off, degrees.
    pub sd_deg: f64,
}

/// How far one place is from the light.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Off {
    /// Angle between the two, degrees.
    pub angle_deg: f64,
    /// Degrees by which it was placed too high.
    pub up_deg: f64,
    /// Degrees by which it was placed too far to camera right.
    pub right_deg: f64,
    /// As near as the reading itself can tell.
    pub as_near_as_told: bool,
    /// In words.
    pub says: String,
}

/// Spreads of the reading within which nobody can be told to be wrong.
const TOLD_SPREADS: f64 = 2.0;
/// Nobody places by eye to less than this (common practice), degrees.
const LEAST_DEG: f64 = 3.0;
/// What counts as well placed in a round, degrees (common practice: one hour of the clock is 30, a third of it is seen at once).
pub const WELL_DEG: f64 = 10.0;

fn aside(v: f64, more: &str, less: &str) -> Option<String> {
    (v.abs() >= 1.0).then(|| format!("{:.0}\u{b0} too {}", v.abs(), if v > 0.0 { more } else { less }))
}

/// How far a place is from the light.
pub fn off(truth: &Truth, p: &AzEl) -> Off {
    let angle = angle_between(&p.vector(), &truth.at.vector()).to_degrees();
    let (up, right) = (p.elevation_deg - truth.at.elevation_deg, wrapped_deg(p.azimuth_deg - truth.at.azimuth_deg));
    let near = angle <= (TOLD_SPREADS * truth.sd_deg).max(LEAST_DEG);
    let parts: Vec<String> = [aside(up, "high", "low"), aside(right, "far to camera right", "far to camera left")]
        .into_iter()
        .flatten()
        .collect();
    let says = if near {
        format!("{angle:.0}\u{b0} off: as near as the reading itself can tell.")
    } else if parts.is_empty() {
        format!("{angle:.0}\u{b0} off.")
    } else {
        format!("{angle:.0}\u{b0} off: {}.", parts.join(", "))
    };
    Off { angle_deg: angle, up_deg: up, right_deg: right, as_near_as_told: near, says }
}

/// What a class placed, together.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Crowd {
    /// How many placed it.
    pub many: usize,
    /// Where they placed it in the mean of directions; absent where they point all ways.
    pub mean: Option<AzEl>,
    /// Half of them lie within this angle of the mean, degrees.
    pub scatter_deg: Option<f64>,
    /// Half of them lie within this angle of the light, degrees.
    pub median_off_deg: Option<f64>,
    /// How many within ten degrees of it.
    pub well: Option<usize>,
    /// What most of them have in common.
    pub says: Vec<String>,
}

/// Length of the mean of directions under which there is none.
const NO_MEAN: f64 = 0.2;

/// What a class placed, together; against the light once it is told.
pub fn crowd(placed: &[AzEl], truth: Option<&Truth>) -> Crowd {
    let n = placed.len();
    let sum: Vec3 = placed.iter().map(|p| p.vector()).sum();
    let mean = (n > 0 && sum.norm() > NO_MEAN * n as f64).then(|| sum.normalize());
    let spread = |to: &Vec3| {
        median(&mut placed.iter().map(|p| angle_between(&p.vector(), to).to_degrees()).collect::<Vec<f64>>())
    };
    let offs: Vec<Off> = truth.map(|t| placed.iter().map(|p| off(t, p)).collect()).unwrap_or_default();
    let mut says = Vec::new();
    for (of, more, less) in [
        (offs.iter().map(|o| o.up_deg).collect::<Vec<f64>>(), "higher than it is", "lower than it is"),
        (
            offs.iter().map(|o| o.right_deg).collect(),
            "farther to camera right than it is",
            "farther to camera left than it is",
        ),
    ] {
        says.extend(grouped(&of, 5.0).map(|g| {
            let word = if g.up { more } else { less };
            format!("{} of {} placed it {word}; in the median by {:.0} degrees.", g.many, g.of, g.median)
        }));
    }
    Crowd {
        many: n,
        mean: mean.map(|m| AzEl::of(&m)),
        scatter_deg: mean.map(|m| spread(&m)),
        median_off_deg: truth.filter(|_| n > 0).map(|t| spread(&t.at.vector())),
        well: truth.map(|_| offs.iter().filter(|o| o.angle_deg <= WELL_DEG).count()),
        says,
    }
}
