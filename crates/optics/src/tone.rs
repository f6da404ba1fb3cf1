//! From encoded picture values to linear light and back.
//!
//! Cameras apply a tone curve nobody wrote down. Unless it is calibrated, every ratio is reported
//! with the spread over a family of plausible curves ([`ToneFamily`]).

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How encoded values in 0..1 relate to linear light in 0..1.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "lowercase")]
pub enum Encoding {
    /// IEC 61966-2-1 sRGB transfer function.
    #[default]
    Srgb,
    /// Values are proportional to light.
    Linear,
    /// ITU-R BT.709 camera transfer function.
    Bt709,
    /// ITU-R BT.2100 hybrid log-gamma; its reference white (75 % signal, ITU-R BT.2408) is 1.
    Hlg,
    /// The logarithmic ACEScct encoding (Academy S-2016-001), its primaries taken as they are.
    Acescct,
    /// A pure power: linear = encoded ^ g.
    Gamma(f64),
    /// A measured curve: pairs of encoded and linear values, both rising.
    Curve(Vec<[f64; 2]>),
}

impl Encoding {
    /// Says what is wrong with the numbers of this encoding, if anything.
    pub fn check(&self) -> Result<(), String> {
        match self {
            Encoding::Gamma(g) if !(g.is_finite() && *g > 0.2 && *g < 6.0) => {
                Err(format!("encoding.gamma: expected a number from 0.2 to 6, found {g}"))
            }
            Encoding::Curve(points) => {
                if points.len() < 2 {
                    return Err("encoding.curve: expected at least two [encoded, linear] pairs".into());
                }
                let finite = points.iter().flatten().all(|v| v.is_finite());
                let rising = points.windows(2).all(|w| w[1][0] > w[0][0] && w[1][1] >= w[0][1]);
                if finite && rising {
                    Ok(())
                } else {
                    Err("encoding.curve: expected finite pairs with both values rising".into())
                }
            }
            _ => Ok(()),
        }
    }

    /// Linear light of an encoded value in 0..1.
    pub fn to_linear(&self, v: f64) -> f64 {
        match self {
            Encoding::Srgb => srgb_to_linear(v),
            Encoding::Linear => v,
            Encoding::Bt709 => bt709_to_linear(v),
            Encoding::Hlg => hlg_to_linear(v) / hlg_to_linear(0.75),
            Encoding::Acescct => acescct_to_linear(v).max(0.0),
            Encoding::Gamma(g) => v.max(0.0).powf(*g),
            Encoding::Curve(points) => interpolate(points, v),
        }
    }

    /// Whether ratios between samples can be trusted as they are. sRGB and BT.709 pictures come
    /// from cameras with an unknown curve; the others were declared or measured.
    pub fn is_calibrated(&self) -> bool {
        !matches!(self, Encoding::Srgb | Encoding::Bt709)
    }
}

/// sRGB decoding, IEC 61966-2-1:1999: linear segment below 0.04045, 2.4 power above.
pub fn srgb_to_linear(v: f64) -> f64 {
    if v <= 0.04045 { v / 12.92 } else { ((v + 0.055) / 1.055).powf(2.4) }
}

/// sRGB encoding, the inverse of [`srgb_to_linear`].
pub fn linear_to_srgb(l: f64) -> f64 {
    if l <= 0.003_130_8 { l * 12.92 } else { 1.055 * l.powf(1.0 / 2.4) - 0.055 }
}

/// sRGB bytes of linear light, by a table of its square root: the dark end has steps enough to be exact to the byte.
#[derive(Debug, Clone)]
pub struct SrgbBytes(Vec<u8>);

impl Default for SrgbBytes {
    fn default() -> Self {
        const STEPS: usize = 8192;
        let of = |i: usize| (255.0 * linear_to_srgb((i as f64 / STEPS as f64).powi(2))).round() as u8;
        SrgbBytes((0..=STEPS).map(of).collect())
    }
}

impl SrgbBytes {
    /// The byte of a linear value; what is under nought or over one is taken for the end.
    pub fn of(&self, linear: f32) -> u8 {
        let last = self.0.len() - 1;
        self.0[((linear.clamp(0.0, 1.0).sqrt() * last as f32).round() as usize).min(last)]
    }
}

/// BT.709 decoding (ITU-R BT.709-6, item 1.2 inverted).
pub fn bt709_to_linear(v: f64) -> f64 {
    if v < 0.081 { v / 4.5 } else { ((v + 0.099) / 1.099).powf(1.0 / 0.45) }
}

/// Hybrid log-gamma decoding to scene light, 1 at full signal (ITU-R BT.2100-2, table 5, OETF inverted).
pub fn hlg_to_linear(v: f64) -> f64 {
    const A: f64 = 0.178_832_77;
    const B: f64 = 1.0 - 4.0 * A;
    let c = 0.5 - A * (4.0 * A).ln();
    if v <= 0.5 { v.max(0.0).powi(2) / 3.0 } else { (((v - c) / A).exp() + B) / 12.0 }
}

/// ACEScct decoding (Academy S-2016-001): a straight toe, then `2^(17.52 v - 9.72)`.
pub fn acescct_to_linear(v: f64) -> f64 {
    const TOE: f64 = 0.155_251_141_552_511;
    if v <= TOE { (v - 0.072_905_534_195_835_5) / 10.540_237_741_654_5 } else { (v * 17.52 - 9.72).exp2() }
}

fn interpolate(points: &[[f64; 2]], v: f64) -> f64 {
    let i = points.partition_point(|p| p[0] < v);
    if i == 0 {
        return points[0][1];
    }
    if i == points.len() {
        return points[i - 1][1];
    }
    let (a, b) = (points[i - 1], points[i]);
    a[1] + (b[1] - a[1]) * (v - a[0]) / (b[0] - a[0])
}

/// A family of tone curves a camera may have applied on top of its nominal encoding, each mapping
/// nominal linear light to plausible scene light. Gammas 1.8 to 2.6 against the nominal 2.2, and
/// S-curves of rising contrast around middle grey (common practice).
#[derive(Debug, Clone, Copy)]
pub enum ToneFamily {
    /// Extra power applied in log space.
    Power(f64),
    /// S-curve: contrast at middle grey; shoulder and toe relax towards the ends.
    SCurve(f64),
}

/// Middle grey: the reflectance exposure meters and pictures are placed around.
pub const MIDDLE_GREY: f64 = 0.18;

impl ToneFamily {
    /// The curves ratios are spread over when the encoding is not calibrated.
    pub const ALL: [ToneFamily; 6] = [
        ToneFamily::Power(1.8 / 2.2),
        ToneFamily::Power(1.0),
        ToneFamily::Power(2.6 / 2.2),
        ToneFamily::SCurve(1.15),
        ToneFamily::SCurve(1.3),
        ToneFamily::SCurve(1.5),
    ];

    /// Stops from middle grey in the scene, for stops from middle grey as nominally decoded.
    pub fn scene_stops(self, nominal: f64) -> f64 {
        match self {
            ToneFamily::Power(g) => nominal * g,
            // A camera with contrast c at grey stretched the middle: undo it there, less far out.
            ToneFamily::SCurve(c) => {
                let width = 2.5;
                let far = 1.0 - (-(nominal / width).powi(2)).exp();
                nominal / c + (nominal - nominal / c) * far
            }
        }
    }
}

/// Difference in stops between two linear luminances with the range over the tone family, or a
/// narrow range if `calibrated`.
///
/// Returns `(nominal, low, high)`; the range always holds the nominal value.
pub fn stops_between(a: f64, b: f64, calibrated: bool) -> (f64, f64, f64) {
    let nominal = (a / b).log2();
    if calibrated {
        return (nominal, nominal, nominal);
    }
    let sa = (a / MIDDLE_GREY).log2();
    let sb = (b / MIDDLE_GREY).log2();
    let all = ToneFamily::ALL.iter().map(|t| t.scene_stops(sa) - t.scene_stops(sb));
    all.fold((nominal, nominal, nominal), |(n, lo, hi), d| (n, lo.min(d), hi.max(d)))
}
