//! Outlines of the products that are bodies of revolution: half width and height over the middle, metres.

use super::{BOTTLE_RADIUS_M, SubjectKind};

/// Points of the bottle from where its body begins to the lip, to be joined smoothly.
const BOTTLE: [(f64, f64); 10] = [
    (0.0335, -0.1485),
    (BOTTLE_RADIUS_M, -0.143),
    (BOTTLE_RADIUS_M, -0.10),
    (BOTTLE_RADIUS_M, 0.0),
    (BOTTLE_RADIUS_M, 0.028),
    (0.0345, 0.052),
    (0.0245, 0.078),
    (0.0165, 0.098),
    (0.0142, 0.116),
    (0.0138, 0.135),
];

/// Outline from the middle of the foot to the lip; nothing for what is no such body, and for a can, whose sides are straight.
pub fn outline(kind: SubjectKind) -> Option<Vec<(f64, f64)>> {
    (kind == SubjectKind::Bottle).then(|| {
        let mut out = vec![(0.0, -0.150), (0.031, -0.150)];
        out.extend(smooth(&BOTTLE, 8));
        out
    })
}

/// A smooth curve through points (Catmull & Rom 1974), `per` points per span.
pub fn smooth(points: &[(f64, f64)], per: usize) -> Vec<(f64, f64)> {
    let get = |i: isize| points[i.clamp(0, points.len() as isize - 1) as usize];
    let mut out = Vec::new();
    for i in 0..points.len() as isize - 1 {
        let (a, b, c, d) = (get(i - 1), get(i), get(i + 1), get(i + 2));
        for k in 0..per {
            let t = k as f64 / per as f64;
            let f = |a: f64, b: f64, c: f64, d: f64| {
                0.5 * (2.0 * b
                    + (c - a) * t
                    + (2.0 * a - 5.0 * b + 4.0 * c - d) * t * t
                    + (3.0 * b - a - 3.0 * c + d) * t * t * t)
            };
            out.push((f(a.0, b.0, c.0, d.0).max(0.0), f(a.1, b.1, c.1, d.1)));
        }
    }
    out.push(points[points.len() - 1]);
    out
}
