//! The true size of a clipped spot, from the skirt around it.
//!
//! A picture cuts a bright spot off at white. A pixel that the spot covers by a few per cent is then
//! already white, so the spot looks too large: by half a pixel if a pixel gathers light evenly over
//! its own square, by up to one and a half if the lens or a renderer's filter spreads it. The skirt,
//! the pixels next to the white ones, is fitted with an ellipse of brightness `C` times white, seen
//! through each of a few ways to gather light, and the ways that fit well are averaged.

use nalgebra::DVector;
use optics::solve::levenberg_marquardt;
use std::f64::consts::PI;

/// What the skirt says.
#[derive(Debug, Clone, Copy)]
pub struct Skirt {
    /// Area in pixels.
    pub area: f64,
    /// Standard deviation of the natural log of the radius.
    pub log_radius_sd: f64,
    /// Natural log of how far the spot is over white, with its standard deviation.
    pub log_over: (f64, f64),
}

/// A way to gather light into a pixel: offsets from its centre and weights that sum to one.
struct Gather {
    samples: Vec<[f64; 3]>,
    reach: f64,
}

impl Gather {
    fn new(reach: f64, per_side: usize, weight: impl Fn(f64) -> f64) -> Self {
        let mut samples = Vec::new();
        let at = |i: usize| -reach + 2.0 * reach * (i as f64 + 0.5) / per_side as f64;
        for i in 0..per_side {
            for j in 0..per_side {
                samples.push([at(i), at(j), weight(at(i)) * weight(at(j))]);
            }
        }
        let sum: f64 = samples.iter().map(|s| s[2]).sum();
        samples.iter_mut().for_each(|s| s[2] /= sum);
        Gather { samples, reach: reach * std::f64::consts::SQRT_2 }
    }

    fn all(fine: usize) -> Vec<Gather> {
        let gauss = |sd: f64, reach: f64| {
            move |x: f64| ((-x * x / (2.0 * sd * sd)).exp() - (-reach * reach / (2.0 * sd * sd)).exp()).max(0.0)
        };
        vec![
            Gather::new(0.5, 6, |_| 1.0),
            Gather::new(1.0, 8, |x| 1.0 - x.abs()),
            Gather::new(2.0, fine, gauss(0.5, 2.0)),
            Gather::new(2.4, fine, gauss(0.7, 2.4)),
        ]
    }
}

struct Ellipse {
    x: f64,
    y: f64,
    a: f64,
    b: f64,
    sin: f64,
    cos: f64,
}

impl Ellipse {
    /// Signed distance in pixels, negative inside; good near the edge.
    fn distance(&self, x: f64, y: f64) -> f64 {
        let (dx, dy) = (x - self.x, y - self.y);
        let (u, v) = (dx * self.cos + dy * self.sin, -dx * self.sin + dy * self.cos);
        // plain squares: hypot's care for overflow costs five times as much and is not needed here
        let (p, q) = (u / self.a, v / self.b);
        let k = (p * p + q * q).sqrt();
        if k < 1e-9 {
            return -self.b;
        }
        let (p, q) = (p / self.a, q / self.b);
        let grad = (p * p + q * q).sqrt();
        (k - 1.0) * k / grad
    }

    fn covered(&self, g: &Gather, x: f64, y: f64) -> f64 {
        let d = self.distance(x, y);
        if d > g.reach + 0.1 {
            return 0.0;
        }
        if d < -g.reach - 0.1 && self.b > g.reach {
            return 1.0;
        }
        // a soft step an eighth of a pixel wide keeps the fit smooth
        let inside = |d: f64| (0.5 - d / 0.125).clamp(0.0, 1.0);
        g.samples.iter().map(|s| s[2] * inside(self.distance(x + s[0], y + s[1]))).sum()
    }
}

/// Fits a clipped spot. `points` are offsets from its centre and heights over the floor with white
/// at 1; `radius` is that of the spot as it looks. `None` for large spots, where the skirt hardly
/// matters, and where nothing fits.
pub fn fit(points: &[[f64; 3]], radius: f64) -> Option<Skirt> {
    if radius > 26.0 || points.len() < 12 {
        return None;
    }
    let (turn, aspect) = shape(points);
    let (sin, cos) = turn.sin_cos();
    let mut tried = Vec::new();
    // Far over white only the far tail of a soft pixel is below it: sample that finely.
    for g in Gather::all(if radius < 5.0 { 16 } else { 10 }) {
        let ellipse = |p: &DVector<f64>| {
            let r = p[2].exp();
            Ellipse { x: p[0], y: p[1], a: r * p[4].exp().sqrt(), b: r / p[4].exp().sqrt(), sin, cos }
        };
        let smaller = (radius - 0.9 * g.reach / std::f64::consts::SQRT_2).max(0.3 * radius);
        let m = levenberg_marquardt(
            DVector::from_vec(vec![0.0, 0.0, smaller.ln(), if g.reach > 1.5 { 4.5 } else { 2.5 }, aspect.ln()]),
            &[0.02, 0.02, 0.01, 0.02, 0.01],
            9,
            |p| {
                let e = ellipse(p);
                let over = p[3].exp();
                let mut r: Vec<f64> = points
                    .iter()
                    .map(|[x, y, v]| {
                        let model = (over * e.covered(&g, *x, *y)).min(1.0);
                        // compared as a picture codes them, where the dark end counts
                        (model.sqrt() - v.sqrt()) / 0.05
                    })
                    .collect();
                r.push((p[3] - 3.0) / 3.0);
                r.push((p[4] - aspect.ln()) / 0.15);
                DVector::from_vec(r)
            },
            |p| {
                p[0] = p[0].clamp(-1.5, 1.5);
                p[1] = p[1].clamp(-1.5, 1.5);
                p[2] = p[2].clamp(f64::ln(0.1), f64::ln(40.0));
                p[3] = p[3].clamp(0.0, 8.0);
                p[4] = p[4].clamp(0.0, 2.0);
            },
        );
        let info = m.jacobian.tr_mul(&m.jacobian);
        let cov = (info + nalgebra::DMatrix::identity(5, 5) * 1e-6).try_inverse()?;
        let scale = (m.cost / points.len() as f64).max(0.3);
        tried.push((
            m.cost,
            m.x[2],
            (cov[(2, 2)].max(0.0) * scale * 4.0).sqrt(),
            m.x[3],
            cov[(3, 3)].max(0.0) * scale * 4.0,
        ));
    }
    let best = tried.iter().map(|t| t.0).fold(f64::MAX, f64::min);
    if best / points.len() as f64 > 4.0 {
        return None;
    }
    // Noise far down the skirt and the source's real shape move the costs about: a way must fit
    // clearly worse before it is left out.
    let unit = (best / 2.5).max(10.0);
    let weights: Vec<f64> = tried.iter().map(|t| (-(t.0 - best) / unit).exp()).collect();
    let total: f64 = weights.iter().sum();
    let mean = |k: &dyn Fn(usize) -> f64| (0..tried.len()).map(|i| weights[i] * k(i)).sum::<f64>() / total;
    let log_r = mean(&|i| tried[i].1);
    let between = mean(&|i| (tried[i].1 - log_r).powi(2));
    let within = mean(&|i| tried[i].2.powi(2));
    let over = mean(&|i| tried[i].3);
    let over_var = mean(&|i| (tried[i].3 - over).powi(2) + tried[i].4);
    Some(Skirt {
        area: PI * (2.0 * log_r).exp(),
        log_radius_sd: (between + within + (0.06 / radius).powi(2)).sqrt().min(1.0),
        log_over: (over, over_var.sqrt().clamp(0.3, 2.0)),
    })
}

/// Turn and aspect of a spot from its second moments (uniform ellipse).
fn shape(points: &[[f64; 3]]) -> (f64, f64) {
    let (mut m, mut xx, mut yy, mut xy) = (1e-12, 0.0, 0.0, 0.0);
    for [x, y, v] in points {
        m += v;
        xx += v * x * x;
        yy += v * y * y;
        xy += v * x * y;
    }
    let turn = 0.5 * (2.0 * xy).atan2(xx - yy);
    let spread = ((xx - yy) / m).hypot(2.0 * xy / m) / 2.0;
    let mean = (xx + yy) / m / 2.0;
    (turn, ((mean + spread) / (mean - spread).max(0.08)).sqrt().clamp(1.0, 4.0))
}
