//! A step wedge or a target of known reflectances in the picture: the camera's tone curve.
//!
//! Under even light the scene's luminance is proportional to reflectance, so each patch gives one point
//! of the curve from picture to scene. Between them the curve runs as a monotone cubic in logarithms
//! (Fritsch & Carlson 1980), beyond them straight on. A reflection target gives relative exposure only:
//! the curve is pinned where it passes middle grey as encoded.

use crate::levels;
use optics::photo::Photo;
use optics::tone::{Encoding, MIDDLE_GREY, srgb_to_linear};
use serde::{Deserialize, Serialize};
use std::sync::LazyLock;
use utoipa::ToSchema;

/// A patch of known reflectance.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct WedgePatch {
    /// Corners.
    #[schema(value_type = Vec<optics::geometry::Pair>)]
    pub polygon: Vec<[f64; 2]>,
    /// Diffuse reflectance in 0..1.
    pub reflectance: f64,
}

/// Steps of a target people have: a row of `data/grey_steps.toml`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct GreyTarget {
    /// Name.
    pub name: String,
    /// Diffuse reflectances, brightest first, 0..1.
    pub reflectance: Vec<f64>,
}

#[derive(Deserialize)]
struct GreyTable {
    target: Vec<GreyTarget>,
}

static TARGETS: LazyLock<Vec<GreyTarget>> = LazyLock::new(|| {
    toml::from_str::<GreyTable>(include_str!("../data/grey_steps.toml")).expect("grey_steps.toml").target
});

/// Targets of grey steps.
pub fn targets() -> &'static [GreyTarget] {
    &TARGETS
}

/// A tone curve with what it was made from.
#[derive(Debug, Clone, PartialEq)]
pub struct Curve {
    /// Natural log of the luminance as encoded and of the scene's, rising.
    nodes: Vec<[f64; 2]>,
    slopes: Vec<f64>,
    /// Patches used.
    pub used: usize,
    /// Patches left out: clipped, black, empty.
    pub left_out: usize,
    /// Standard deviation in stops: how far each inner patch lies from the line through its neighbours.
    pub spread_stops: f64,
}

/// Why a wedge gives no curve.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum WedgeProblem {
    /// Fewer than three usable patches.
    #[error("a wedge needs at least three patches that are neither clipped nor black nor alike")]
    TooFew,
    /// A brighter patch is marked as darker.
    #[error(
        "the patches do not get brighter in the order of their reflectances: a wrong reflectance, uneven light or a glare"
    )]
    OutOfOrder,
    /// Impossible reflectance.
    #[error("reflectances are numbers over 0 and up to 1")]
    Reflectance,
}

impl Curve {
    /// Reads the curve from patches. The photo must be decoded as sRGB.
    ///
    /// # Errors
    /// A [`WedgeProblem`].
    pub fn read(photo: &Photo, patches: &[WedgePatch]) -> Result<Curve, WedgeProblem> {
        if patches.iter().any(|p| !(p.reflectance > 0.0 && p.reflectance <= 1.0)) {
            return Err(WedgeProblem::Reflectance);
        }
        let mut nodes: Vec<[f64; 2]> = patches
            .iter()
            .filter_map(|p| {
                let m = levels::measure(photo, &p.polygon).ok().filter(|m| m.clipped_fraction < 0.02)?;
                Some([m.luminance.ln(), p.reflectance.ln()])
            })
            .collect();
        let used = nodes.len();
        nodes.sort_by(|a, b| a[1].total_cmp(&b[1]));
        nodes.dedup_by(|b, a| (b[1] - a[1]).abs() < 1e-3);
        if nodes.len() < 3 {
            return Err(WedgeProblem::TooFew);
        }
        if nodes.windows(2).any(|w| w[1][0] <= w[0][0]) {
            return Err(WedgeProblem::OutOfOrder);
        }
        let apart: Vec<f64> = nodes
            .windows(3)
            .map(|w| w[0][1] + (w[2][1] - w[0][1]) * (w[1][0] - w[0][0]) / (w[2][0] - w[0][0]) - w[1][1])
            .collect();
        // Curvature is no error: of three in a row, the middle one's own share is what jumps about.
        let jumps: Vec<f64> = apart.windows(2).map(|w| w[1] - w[0]).collect();
        let square = |v: &[f64]| v.iter().map(|x| x * x).sum::<f64>() / v.len().max(1) as f64;
        let spread = if jumps.is_empty() { square(&apart).sqrt() } else { (square(&jumps) / 6.0).sqrt() };
        let slopes = slopes(&nodes);
        let mut curve = Curve {
            nodes,
            slopes,
            used,
            left_out: patches.len() - used,
            spread_stops: spread / std::f64::consts::LN_2,
        };
        // pinned at middle grey
        let shift = MIDDLE_GREY.ln() - curve.scene(MIDDLE_GREY).ln();
        curve.nodes.iter_mut().for_each(|n| n[1] += shift);
        Ok(curve)
    }

    /// Scene luminance for a luminance as encoded.
    pub fn scene(&self, nominal: f64) -> f64 {
        let (n, x) = (&self.nodes, nominal.max(1e-6).ln());
        let last = n.len() - 1;
        if x <= n[0][0] {
            return (n[0][1] + self.slopes[0].clamp(0.5, 2.0) * (x - n[0][0])).exp();
        }
        if x >= n[last][0] {
            return (n[last][1] + self.slopes[last].clamp(0.5, 2.0) * (x - n[last][0])).exp();
        }
        let i = n.partition_point(|p| p[0] <= x) - 1;
        let h = n[i + 1][0] - n[i][0];
        let t = (x - n[i][0]) / h;
        let (t2, t3) = (t * t, t * t * t);
        let y = (2.0 * t3 - 3.0 * t2 + 1.0) * n[i][1]
            + (t3 - 2.0 * t2 + t) * h * self.slopes[i]
            + (3.0 * t2 - 2.0 * t3) * n[i + 1][1]
            + (t3 - t2) * h * self.slopes[i + 1];
        y.exp()
    }

    /// The curve as an encoding of the picture's values.
    pub fn encoding(&self) -> Encoding {
        let points = (0..=255)
            .map(|i| {
                let v = f64::from(i) / 255.0;
                [v, if i == 0 { 0.0 } else { self.scene(srgb_to_linear(v)) }]
            })
            .collect();
        Encoding::Curve(points)
    }

    /// Stops of picture contrast for a stop of scene at middle grey, sRGB being 1.
    pub fn contrast(&self) -> f64 {
        let step = 0.3f64.exp2();
        0.6 / (self.scene(MIDDLE_GREY * step) / self.scene(MIDDLE_GREY / step)).log2()
    }

    /// Stops from middle grey covered, darkest and brightest patch.
    pub fn range_stops(&self) -> [f64; 2] {
        let stops = |n: &[f64; 2]| (n[1] - MIDDLE_GREY.ln()) / std::f64::consts::LN_2;
        [stops(&self.nodes[0]), stops(&self.nodes[self.nodes.len() - 1])]
    }

    /// Patches as pairs: stops from middle grey as encoded, and in the scene.
    pub fn points_stops(&self) -> Vec<[f64; 2]> {
        self.nodes.iter().map(|n| n.map(|v| (v - MIDDLE_GREY.ln()) / std::f64::consts::LN_2)).collect()
    }
}

/// Slopes of the monotone cubic: harmonic means of the neighbours' (Fritsch & Butland 1984).
fn slopes(n: &[[f64; 2]]) -> Vec<f64> {
    let d: Vec<f64> = n.windows(2).map(|w| (w[1][1] - w[0][1]) / (w[1][0] - w[0][0])).collect();
    (0..n.len())
        .map(|i| match (i.checked_sub(1).map(|k| d[k]), d.get(i)) {
            (Some(a), Some(b)) if a * b > 0.0 => 2.0 * a * b / (a + b),
            (Some(_), Some(_)) => 0.0,
            (Some(a), None) => a,
            (None, Some(b)) => *b,
            (None, None) => 1.0,
        })
        .collect()
}
