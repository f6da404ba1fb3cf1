//! Signed-distance functions: primitives and smooth joins (Hart 1996; polynomial smooth minimum).

use crate::math::V;

pub(crate) fn p3(x: f32, y: f32, z: f32) -> V {
    V::new(x, y, z)
}

/// Sphere.
pub(crate) fn ball(p: &V, c: V, r: f32) -> f32 {
    (p - c).norm() - r
}

/// Ellipsoid, to first order: understates far distances.
pub(crate) fn ellipsoid(p: &V, c: V, r: V) -> f32 {
    let q = (p - c).component_div(&r);
    let k0 = q.norm();
    let k1 = q.component_div(&r).norm();
    if k1 < 1e-9 { -r.min() } else { k0 * (k0 - 1.0) / k1 }
}

/// Capsule from `a` to `b` whose radius goes from `ra` to `rb`.
pub(crate) fn limb(p: &V, a: V, b: V, ra: f32, rb: f32) -> f32 {
    let ab = b - a;
    let t = ((p - a).dot(&ab) / ab.norm_squared()).clamp(0.0, 1.0);
    (p - a - ab * t).norm() - (ra + (rb - ra) * t)
}

/// Box with rounded edges; `half` includes the rounding.
pub(crate) fn rounded_box(p: &V, c: V, half: V, round: f32) -> f32 {
    let q = (p - c).abs() - half + V::repeat(round);
    q.map(|x| x.max(0.0)).norm() + q.max().min(0.0) - round
}

/// Half space: negative where `n . p < offset`.
pub(crate) fn below(p: &V, n: V, offset: f32) -> f32 {
    p.dot(&n) - offset
}

/// Union with a fillet of radius about `k`.
pub(crate) fn join(a: f32, b: f32, k: f32) -> f32 {
    let h = (k - (a - b).abs()).max(0.0) / k;
    a.min(b) - h * h * k * 0.25
}

/// `a` without `b`, with a rounded edge.
pub(crate) fn carve(a: f32, b: f32, k: f32) -> f32 {
    -join(-a, b, k)
}
