//! One light on a matte ball: a disc or an ellipse that sinks below the horizon, near or far.

use optics::falloff::disc_lobe;
use optics::geometry::{Vec3, tangent_frame};

pub(super) const MIN_HALF: f64 = 0.004;
pub(super) const MAX_HALF: f64 = 1.0;
/// Prior of the nearness `q`, ball radius over light distance: mean and spread (common practice: a
/// 5 to 10 cm ball, lights at one to four metres).
pub(super) const NEAR_PRIOR: (f64, f64) = (0.03, 0.04);
/// Weak prior of the log half angle, around 8 degrees; matters only where the picture is silent.
pub(super) const SIZE_PRIOR: (f64, f64) = (-2.0, 1.2);
/// Prior of the stretch: most sources are nearly round (a 1:2 softbox is 0.69).
pub(super) const STRETCH_PRIOR: f64 = 0.4;
/// Parameters of a lobe: two tangent shifts, log half angle, nearness, two of stretch.
pub(super) const PER_LOBE: usize = 6;

#[derive(Debug, Clone, Copy)]
pub(super) struct Lobe {
    pub(super) direction: Vec3,
    pub(super) log_half: f64,
    pub(super) near: f64,
    /// Stretch of the source: half angle squared towards the tangent at phi is
    /// `half^2 (cosh k + sinh k cos 2 (phi - phi0))` with `(c, s) = k (cos 2 phi0, sin 2 phi0)`, an
    /// ellipse of the disc's solid angle. A strip is told from a square by it.
    pub(super) stretch: [f64; 2],
    /// tangents of the direction, kept
    pub(super) tangents: (Vec3, Vec3),
}

impl Lobe {
    pub(super) fn new(direction: Vec3, half: f64) -> Self {
        let tangents = tangent_frame(&direction);
        Lobe { direction, log_half: half.ln(), near: NEAR_PRIOR.0, stretch: [0.0; 2], tangents }
    }

    /// The lobe after a step in its parameters, kept inside their bounds.
    pub(super) fn stepped(&self, p: &[f64]) -> Self {
        let (u, v) = self.tangents;
        let direction = (self.direction + u * p[0].clamp(-0.4, 0.4) + v * p[1].clamp(-0.4, 0.4)).normalize();
        // The tangents follow the direction without turning about it, so that the stretch stays.
        let u = (u - direction * u.dot(&direction)).normalize();
        let v = direction.cross(&u);
        Lobe {
            direction,
            log_half: (self.log_half + p[2].clamp(-0.7, 0.7)).clamp(MIN_HALF.ln(), MAX_HALF.ln()),
            near: (self.near + p[3]).clamp(0.0, 0.35),
            stretch: [0, 1].map(|i| (self.stretch[i] + p[4 + i].clamp(-0.5, 0.5)).clamp(-1.2, 1.2)),
            tangents: (u, v),
        }
    }

    /// Residuals of the priors and their slopes: parameter, value, slope.
    pub(super) fn priors(&self) -> [(usize, f64, f64); 4] {
        [
            (2, (self.log_half - SIZE_PRIOR.0) / SIZE_PRIOR.1, 1.0 / SIZE_PRIOR.1),
            (3, (self.near - NEAR_PRIOR.0) / NEAR_PRIOR.1, 1.0 / NEAR_PRIOR.1),
            (4, self.stretch[0] / STRETCH_PRIOR, 1.0 / STRETCH_PRIOR),
            (5, self.stretch[1] / STRETCH_PRIOR, 1.0 / STRETCH_PRIOR),
        ]
    }

    pub(super) fn stretched(&self) -> f64 {
        self.stretch[0].hypot(self.stretch[1])
    }

    /// A function of the normal: irradiance relative to facing the light from the ball's centre.
    pub(super) fn irradiance(&self) -> impl Fn(&Vec3) -> f64 + use<> {
        let me = *self;
        let half = me.log_half.exp();
        let k = me.stretched();
        let (cosh, shape) = (k.cosh(), if k > 1e-6 { k.sinh() / k } else { 1.0 });
        let top = ((half * (0.5 * k).exp() * 1.15).min(1.5)).sin();
        move |n: &Vec3| {
            let w = me.direction - n * me.near;
            let d2 = w.norm_squared();
            let d = d2.sqrt();
            let c = n.dot(&w) / d;
            // Only near the turn from light to dark does the size show.
            if c.abs() > top {
                return c.max(0.0) / d2;
            }
            let (a, b) = (n.dot(&me.tangents.0), n.dot(&me.tangents.1));
            let r2 = (a * a + b * b).max(1e-9);
            let turn = (me.stretch[0] * (a * a - b * b) + me.stretch[1] * 2.0 * a * b) / r2;
            let h = half * (cosh + shape * turn).max(0.01).sqrt();
            let h = (h.min(1.5).sin() / d).min(0.97).asin();
            disc_lobe(c, h) / d2
        }
    }
}
