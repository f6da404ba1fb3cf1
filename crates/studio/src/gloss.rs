//! Gloss: GGX with Smith's shadowing, and how its directions are drawn.

use crate::math::{PI, Rgb, V, scaled, tangents};

/// Share mirrored at a cosine, from that mirrored straight on (Schlick 1994).
pub(crate) fn schlick(f0: Rgb, cos: f32) -> Rgb {
    let k = (1.0 - cos.clamp(0.0, 1.0)).powi(5);
    f0.map(|f| f + (1.0 - f) * k)
}

/// GGX distribution of normals (Walter et al. 2007).
pub(crate) fn spread(nh: f32, a2: f32) -> f32 {
    let k = nh * nh * (a2 - 1.0) + 1.0;
    a2 / (PI * k * k)
}

/// Smith's shadowing term of GGX.
pub(crate) fn lambda(cos: f32, a2: f32) -> f32 {
    let c2 = (cos * cos).max(1e-8);
    0.5 * ((1.0 + a2 * (1.0 - c2) / c2).sqrt() - 1.0)
}

/// GGX reflectance per steradian and the density of [`visible_normal`] for that direction.
pub(crate) fn ggx(n: &V, view: &V, l: &V, rough: f32, f0: Rgb) -> (Rgb, f32) {
    let h = (view + l).normalize();
    let (nv, nl, nh, vh) = (n.dot(view).max(1e-4), n.dot(l).max(1e-4), n.dot(&h).max(0.0), view.dot(&h).max(1e-4));
    let a2 = rough * rough;
    let d = spread(nh, a2);
    let (lv, ll) = (lambda(nv, a2), lambda(nl, a2));
    let k = d / ((1.0 + lv + ll) * 4.0 * nv * nl);
    (scaled(schlick(f0, vh), k), d / ((1.0 + lv) * 4.0 * nv))
}

/// Samples the visible normals of GGX (Heitz 2018).
pub(crate) fn visible_normal(view: &V, n: &V, rough: f32, a: f32, b: f32) -> V {
    let (t, s) = tangents(n);
    let ve = V::new(rough * view.dot(&t), rough * view.dot(&s), view.dot(n).max(1e-4)).normalize();
    let len2 = ve.x * ve.x + ve.y * ve.y;
    let t1 = if len2 > 1e-12 { V::new(-ve.y, ve.x, 0.0) / len2.sqrt() } else { V::x() };
    let t2 = ve.cross(&t1);
    let r = a.sqrt();
    let (sin, cos) = (2.0 * PI * b).sin_cos();
    let (x, mut y) = (r * cos, r * sin);
    let k = 0.5 * (1.0 + ve.z);
    y = (1.0 - k) * (1.0 - x * x).max(0.0).sqrt() + k * y;
    let nh = t1 * x + t2 * y + ve * (1.0 - x * x - y * y).max(0.0).sqrt();
    (t * (rough * nh.x) + s * (rough * nh.y) + n * nh.z.max(1e-6)).normalize()
}
