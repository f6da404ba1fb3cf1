//! Triangle meshes: from signed-distance functions by surface nets, and by turning a profile.

use crate::bvh::Bvh;
use crate::math::{Rgb, V};
use rayon::prelude::*;

/// How a point of a mesh answers to light.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Paint {
    /// Linear RGB.
    pub rgb: Rgb,
    /// GGX roughness (alpha).
    pub rough: f32,
    /// 0 for a dielectric, 1 for bare metal.
    pub metal: f32,
}

impl Paint {
    pub(crate) const fn matte(rgb: Rgb) -> Paint {
        Paint { rgb, rough: 1.0, metal: 0.0 }
    }
    pub(crate) const fn gloss(rgb: Rgb, rough: f32) -> Paint {
        Paint { rgb, rough, metal: 0.0 }
    }
    pub(crate) const fn metal(rgb: Rgb, rough: f32) -> Paint {
        Paint { rgb, rough, metal: 1.0 }
    }
}

/// A mesh with smooth normals and paint per vertex.
#[derive(Debug)]
pub(crate) struct Mesh {
    pub positions: Vec<V>,
    pub normals: Vec<V>,
    pub paint: Vec<Paint>,
    pub faces: Vec<[u32; 3]>,
    pub tree: Bvh,
}

impl Mesh {
    pub(crate) fn new(positions: Vec<V>, normals: Vec<V>, paint: Vec<Paint>, faces: Vec<[u32; 3]>) -> Mesh {
        let tree = Bvh::build(&positions, &faces);
        Mesh { positions, normals, paint, faces, tree }
    }

    /// Normal and paint inside a triangle.
    pub(crate) fn at(&self, face: u32, u: f32, v: f32) -> (V, V, Paint) {
        let f = self.faces[face as usize].map(|k| k as usize);
        let w = [1.0 - u - v, u, v];
        let n = self.normals[f[0]] * w[0] + self.normals[f[1]] * w[1] + self.normals[f[2]] * w[2];
        let flat = (self.positions[f[1]] - self.positions[f[0]]).cross(&(self.positions[f[2]] - self.positions[f[0]]));
        let mut p = Paint { rgb: [0.0; 3], rough: 0.0, metal: 0.0 };
        for (k, w) in f.iter().zip(w) {
            let q = &self.paint[*k];
            crate::math::add(&mut p.rgb, q.rgb, w);
            p.rough += q.rough * w;
            p.metal += q.metal * w;
        }
        (n.normalize(), flat.normalize(), p)
    }
}

/// Meshes the zero level of a signed-distance function in a box by naive surface nets (Gibson 1998):
/// one vertex per cell the surface passes, then one Newton step onto the surface. Blocks that the
/// distance says are far from the surface are skipped, so `f` must not overstate distances by more
/// than half.
pub(crate) fn from_distance(
    lo: [f32; 3],
    hi: [f32; 3],
    step: f32,
    f: impl Fn(&V) -> f32 + Sync,
    paint: impl Fn(&V) -> Paint + Sync,
) -> Mesh {
    const B: usize = 8;
    let n: [usize; 3] = [0, 1, 2].map(|k| (((hi[k] - lo[k]) / step).ceil() as usize).div_ceil(B) * B + 1);
    let at = |i: usize, j: usize, k: usize| {
        V::new(lo[0] + i as f32 * step, lo[1] + j as f32 * step, lo[2] + k as f32 * step)
    };
    let layer = n[0] * n[1];
    let mut field = vec![1.0f32; layer * n[2]];
    // Slabs of one block's depth are filled together; the last layer belongs to the last slab.
    field.par_chunks_mut(layer * B).enumerate().for_each(|(slab, out)| {
        let depth = out.len() / layer;
        let mut by = 0;
        while by < n[1] {
            let mut bx = 0;
            while bx < n[0] {
                let half = step * B as f32 / 2.0;
                let centre = at(bx, by, slab * B) + V::repeat(half - step / 2.0);
                let d = f(&centre);
                let skip = d.abs() > half * 1.733 * 1.5;
                for k in 0..depth {
                    for j in by..(by + B).min(n[1]) {
                        for i in bx..(bx + B).min(n[0]) {
                            out[k * layer + j * n[0] + i] = if skip { d } else { f(&at(i, j, slab * B + k)) };
                        }
                    }
                }
                bx += B;
            }
            by += B;
        }
    });
    let value = |i: usize, j: usize, k: usize| field[k * layer + j * n[0] + i];
    let mut index = vec![u32::MAX; layer * n[2]];
    let mut raw = Vec::new();
    for k in 0..n[2] - 1 {
        for j in 0..n[1] - 1 {
            for i in 0..n[0] - 1 {
                let mut sum = V::zeros();
                let mut count = 0.0;
                let corner = |c: usize| (i + (c & 1), j + (c >> 1 & 1), k + (c >> 2 & 1));
                let vals: [f32; 8] = std::array::from_fn(|c| {
                    let (x, y, z) = corner(c);
                    value(x, y, z)
                });
                let inside = vals.iter().filter(|v| **v < 0.0).count();
                if inside == 0 || inside == 8 {
                    continue;
                }
                for a in 0..8usize {
                    for bit in [1usize, 2, 4] {
                        let b = a | bit;
                        if b == a || (vals[a] < 0.0) == (vals[b] < 0.0) {
                            continue;
                        }
                        let t = vals[a] / (vals[a] - vals[b]);
                        let (xa, ya, za) = corner(a);
                        let (xb, yb, zb) = corner(b);
                        sum += at(xa, ya, za) * (1.0 - t) + at(xb, yb, zb) * t;
                        count += 1.0;
                    }
                }
                index[k * layer + j * n[0] + i] = raw.len() as u32;
                raw.push(sum / count);
            }
        }
    }
    let gradient = |p: &V| {
        let e = step * 0.2;
        let d = |a: V| f(&(p + a)) - f(&(p - a));
        V::new(d(V::x() * e), d(V::y() * e), d(V::z() * e)) / (2.0 * e)
    };
    let done: Vec<(V, V, Paint)> = raw
        .par_iter()
        .map(|p| {
            let g = gradient(p);
            let l2 = g.norm_squared().max(0.05);
            let q = p - g * (f(p) / l2).clamp(-step, step) * 0.9;
            let n = gradient(&q);
            let n = if n.norm() > 1e-6 { n.normalize() } else { V::z() };
            (q, n, paint(&q))
        })
        .collect();
    let mut faces = Vec::new();
    for k in 1..n[2] - 1 {
        for j in 1..n[1] - 1 {
            for i in 1..n[0] - 1 {
                let here = value(i, j, k) < 0.0;
                for (axis, there) in
                    [value(i + 1, j, k), value(i, j + 1, k), value(i, j, k + 1)].into_iter().enumerate()
                {
                    if here == (there < 0.0) {
                        continue;
                    }
                    let cell = |di: usize, dj: usize, dk: usize| index[(k - dk) * layer + (j - dj) * n[0] + (i - di)];
                    let quad = match axis {
                        0 => [cell(0, 0, 0), cell(0, 1, 0), cell(0, 1, 1), cell(0, 0, 1)],
                        1 => [cell(0, 0, 0), cell(0, 0, 1), cell(1, 0, 1), cell(1, 0, 0)],
                        _ => [cell(0, 0, 0), cell(1, 0, 0), cell(1, 1, 0), cell(0, 1, 0)],
                    };
                    if quad.contains(&u32::MAX) {
                        continue;
                    }
                    let q = if here { quad } else { [quad[0], quad[3], quad[2], quad[1]] };
                    faces.push([q[0], q[1], q[2]]);
                    faces.push([q[0], q[2], q[3]]);
                }
            }
        }
    }
    let mut positions = Vec::with_capacity(done.len());
    let (mut normals, mut paints) = (Vec::with_capacity(done.len()), Vec::with_capacity(done.len()));
    for (p, n, c) in done {
        positions.push(p);
        normals.push(n);
        paints.push(c);
    }
    Mesh::new(positions, normals, paints, faces)
}

/// Turns a profile of `(radius, height)` about the y axis, over the angles `from..to` (radians from
/// +z towards +x). Normals come from the profile; corners sharper than 40 degrees stay sharp.
pub(crate) fn turned(profile: &[(f32, f32)], from: f32, to: f32, sides: usize, paint: impl Fn(&V) -> Paint) -> Mesh {
    let mut positions = Vec::new();
    let (mut normals, mut paints, mut faces) = (Vec::new(), Vec::new(), Vec::new());
    // outward normal of each segment in (radius, height)
    let seg: Vec<(f32, f32)> = profile
        .windows(2)
        .map(|w| {
            let (dr, dy) = (w[1].0 - w[0].0, w[1].1 - w[0].1);
            let l = dr.hypot(dy).max(1e-9);
            (dy / l, -dr / l)
        })
        .collect();
    let smooth = |a: (f32, f32), b: (f32, f32)| a.0 * b.0 + a.1 * b.1 > 0.77;
    let blend = |a: (f32, f32), b: (f32, f32)| {
        let (x, y) = (a.0 + b.0, a.1 + b.1);
        let l = x.hypot(y).max(1e-9);
        (x / l, y / l)
    };
    for (i, w) in profile.windows(2).enumerate() {
        let here = seg[i];
        let first = if i > 0 && smooth(seg[i - 1], here) { blend(seg[i - 1], here) } else { here };
        let last = if i + 1 < seg.len() && smooth(here, seg[i + 1]) { blend(here, seg[i + 1]) } else { here };
        let base = positions.len() as u32;
        for s in 0..=sides {
            let a = from + (to - from) * s as f32 / sides as f32;
            let (sin, cos) = a.sin_cos();
            for (point, normal) in [(w[0], first), (w[1], last)] {
                let p = V::new(point.0 * sin, point.1, point.0 * cos);
                positions.push(p);
                normals.push(V::new(normal.0 * sin, normal.1, normal.0 * cos));
                paints.push(paint(&p));
            }
        }
        for s in 0..sides as u32 {
            let (a, b, c, d) = (base + 2 * s, base + 2 * s + 1, base + 2 * s + 2, base + 2 * s + 3);
            faces.push([a, c, d]);
            faces.push([a, d, b]);
        }
    }
    Mesh::new(positions, normals, paints, faces)
}
