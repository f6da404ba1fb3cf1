//! Plain heads to read faces with: a skull of ellipsoids and a relief for the face, in the proportions of
//! living heads (breadth 152, length 190, sellion to menton 120, nose 52 long and 20 proud, mouth 51,
//! pupils 62 mm apart: from memory of anthropometric tables). No lids, no hair: nothing but what light
//! and shadow on skin need.

use super::shapes::{carve, ellipsoid, join, limb, p3};
use crate::math::V;
use crate::mesh::{Mesh, Paint, from_distance};

/// Proportions of a plain head, metres unless said.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Plain {
    /// Breadth against the middle.
    pub width: f32,
    /// Breadth of the jaw against the middle.
    pub jaw: f32,
    /// How proud the nose's tip is.
    pub nose: f32,
    /// How far below the eyes its base lies.
    pub nose_low: f32,
    /// Half breadth at the wings.
    pub nose_wide: f32,
    pub socket: f32,
    pub brow: f32,
    pub cheek: f32,
    pub chin: f32,
    /// From the eyes to under the chin.
    pub long: f32,
}

pub(crate) const MIDDLE: Plain = Plain {
    width: 1.0,
    jaw: 1.0,
    nose: 0.021,
    nose_low: 0.046,
    nose_wide: 0.0165,
    socket: 0.0085,
    brow: 0.0040,
    cheek: 0.0060,
    chin: 0.0075,
    long: 0.115,
};

const EYE: (f32, f32) = (0.0312, 0.001);
const MOUTH: f32 = 0.0245;

impl Plain {
    fn mouth_y(&self) -> f32 {
        -0.45 * self.nose_low - 0.55 * self.long + 0.017
    }

    /// Height of the face over the skull.
    fn relief(&self, x: f32, y: f32) -> f32 {
        // a round hill that is level at the top and fades like a bell
        let hill = |cx: f32, cy: f32, sx: f32, sy: f32| {
            let q = ((x.abs() - cx) / sx).powi(2) + ((y - cy) / sy).powi(2);
            1.0 / (1.0 + 0.5 * q).powi(3)
        };
        let ease = |t: f32| {
            let t = t.clamp(0.0, 1.0);
            t * t * (3.0 - 2.0 * t)
        };
        let mut h = -self.socket * hill(EYE.0 * 0.97, EYE.1 + 0.003, 0.0150, 0.0110);
        // the eyeball under closed skin
        h += 0.35 * self.socket * hill(EYE.0, EYE.1, 0.0085, 0.0065);
        h += self.brow * hill(EYE.0 * 0.75, 0.0235, 0.0230, 0.0085);
        h += self.cheek * hill(0.0430, -0.0300, 0.0200, 0.0170);
        // nose: a roof that rises and widens towards the tip
        let t = ((0.010 - y) / (self.nose_low + 0.004)).clamp(0.0, 1.0);
        let proud = 0.005 + (self.nose - 0.005) * t.powf(1.15);
        let half = 0.0085 + (0.95 * self.nose_wide - 0.0085) * t * t;
        let roof = 1.0 - ((x / half).powi(2) + 0.03).sqrt() + 0.17;
        let ends = ease((0.020 - y) / 0.016) * (1.0 - ease((-self.nose_low + 0.005 - y) / 0.0085));
        h += proud * roof.max(0.0).powf(1.2) * ends;
        h += 0.42 * self.nose * hill(0.66 * self.nose_wide, -self.nose_low + 0.0065, 0.0058, 0.0060);
        let m = self.mouth_y();
        h += 0.0048 * hill(0.0, m + 0.0052, 0.0180, 0.0042);
        h += 0.0058 * hill(0.0, m - 0.0062, 0.0155, 0.0050);
        h -= 0.0030 * hill(0.0, m, 0.0220, 0.0016);
        h -= 0.0045 * hill(0.0, m - 0.0165, 0.0200, 0.0060);
        h + self.chin * hill(0.0, -self.long + 0.012, 0.0170, 0.0130)
    }

    fn distance(&self, p: &V) -> f32 {
        let w = self.width;
        let skull = ellipsoid(p, p3(0.0, 0.037, -0.097), p3(0.076 * w, 0.090, 0.096));
        let mid = -0.42 * self.long;
        let face = ellipsoid(p, p3(0.0, mid, -0.068), p3(0.0665 * w, 0.60 * self.long, 0.066));
        let jaw = ellipsoid(p, p3(0.0, -self.long + 0.026, -0.044), p3(0.044 * w * self.jaw, 0.027, 0.040));
        let mut f = join(join(skull, face, 0.03), jaw, 0.035);
        let t = ((p.z + 0.075) / 0.045).clamp(0.0, 1.0);
        f -= self.relief(p.x, p.y) * t * t * (3.0 - 2.0 * t);
        let q = p3(p.x.abs(), p.y, p.z);
        let ear = ellipsoid(&q, p3(0.077 * w, -0.010, -0.100), p3(0.010, 0.031, 0.019));
        let ear = carve(ear, ellipsoid(&q, p3(0.085 * w, -0.009, -0.095), p3(0.006, 0.021, 0.010)), 0.004);
        f = join(f, ear, 0.007);
        let neck = limb(p, p3(0.0, -0.085, -0.088), p3(0.0, -0.26, -0.105), 0.052 * w, 0.058 * w);
        // the relief makes slopes: distances must not be overstated
        0.55 * join(f, neck, 0.025)
    }

    /// The head as a mesh with cells of `step` metres.
    pub(crate) fn mesh(&self, step: f32) -> Mesh {
        let paint = |_: &V| Paint::matte([0.5; 3]);
        from_distance([-0.12, -0.23, -0.205], [0.12, 0.14, 0.055], step, |p: &V| self.distance(p), paint)
    }

    /// Landmarks in the head's own frame.
    pub(crate) fn landmarks(&self) -> Vec<(&'static str, V)> {
        super::heads::landmarks_of(
            &|p| self.distance(p),
            p3(EYE.0, EYE.1, 0.0),
            -self.nose_low + 0.004,
            -self.nose_low - 0.004,
            p3(MOUTH, self.mouth_y(), 0.0),
            -self.long + 0.022,
        )
    }
}
