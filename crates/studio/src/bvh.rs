//! A tree of boxes over triangles: nearest hit and any hit.
//!
//! Binned surface-area heuristic (Wald 2007), triangles by Möller & Trumbore 1997. Kept here and
//! small because the order of visits and the early way out of shadow rays are where the speed of
//! the studio lies.

use crate::math::V;

#[derive(Debug, Clone, Copy)]
struct Node {
    min: [f32; 3],
    /// first triangle of a leaf, or first of two children
    first: u32,
    max: [f32; 3],
    /// triangles in a leaf; 0 for an inner node
    count: u32,
}

#[derive(Debug, Clone, Copy)]
struct Triangle {
    corner: V,
    e1: V,
    e2: V,
    index: u32,
}

/// The tree.
#[derive(Debug)]
pub(crate) struct Bvh {
    nodes: Vec<Node>,
    triangles: Vec<Triangle>,
}

/// Where a ray meets a triangle.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Meeting {
    pub t: f32,
    pub index: u32,
    pub u: f32,
    pub v: f32,
}

#[derive(Clone, Copy)]
struct Bounds {
    min: V,
    max: V,
}

impl Bounds {
    fn empty() -> Self {
        Bounds { min: V::repeat(f32::MAX), max: V::repeat(f32::MIN) }
    }
    fn grow(&mut self, p: &V) {
        self.min = self.min.inf(p);
        self.max = self.max.sup(p);
    }
    fn join(&mut self, o: &Bounds) {
        self.min = self.min.inf(&o.min);
        self.max = self.max.sup(&o.max);
    }
    fn area(&self) -> f32 {
        let d = self.max - self.min;
        if d.x < 0.0 { 0.0 } else { d.x * d.y + d.y * d.z + d.z * d.x }
    }
}

const BINS: usize = 12;

impl Bvh {
    pub(crate) fn build(positions: &[V], faces: &[[u32; 3]]) -> Bvh {
        let mut items: Vec<(Bounds, V, u32)> = faces
            .iter()
            .enumerate()
            .map(|(i, f)| {
                let mut b = Bounds::empty();
                f.iter().for_each(|k| b.grow(&positions[*k as usize]));
                (b, (b.min + b.max) * 0.5, i as u32)
            })
            .collect();
        let mut nodes = Vec::with_capacity(items.len());
        // A pad after the root puts each pair of children into one cache line.
        let blank = Node { min: [0.0; 3], first: 0, max: [0.0; 3], count: 0 };
        nodes.extend([blank, blank]);
        let n = items.len();
        let mut work = vec![(0usize, 0usize, n)];
        while let Some((at, from, to)) = work.pop() {
            let mut all = Bounds::empty();
            let mut centres = Bounds::empty();
            for (b, c, _) in &items[from..to] {
                all.join(b);
                centres.grow(c);
            }
            nodes[at].min = all.min.into();
            nodes[at].max = all.max.into();
            let split = if to - from > 2 { best_split(&items[from..to], &centres) } else { None };
            let Some((axis, plane)) = split else {
                nodes[at].first = from as u32;
                nodes[at].count = (to - from) as u32;
                continue;
            };
            let mut i = from;
            let mut j = to;
            while i < j {
                if items[i].1[axis] < plane {
                    i += 1;
                } else {
                    j -= 1;
                    items.swap(i, j);
                }
            }
            if i == from || i == to {
                i = usize::midpoint(from, to);
            }
            let child = nodes.len();
            nodes.extend([blank, blank]);
            nodes[at].first = child as u32;
            nodes[at].count = 0;
            work.push((child, from, i));
            work.push((child + 1, i, to));
        }
        let triangles = items
            .iter()
            .map(|(_, _, i)| {
                let [a, b, c] = faces[*i as usize].map(|k| positions[k as usize]);
                Triangle { corner: a, e1: b - a, e2: c - a, index: *i }
            })
            .collect();
        Bvh { nodes, triangles }
    }

    /// Bounding box.
    pub(crate) fn bounds(&self) -> (V, V) {
        (V::from(self.nodes[0].min), V::from(self.nodes[0].max))
    }

    /// Nearest meeting beyond `from` and before `to`.
    pub(crate) fn nearest(&self, o: &V, d: &V, from: f32, to: f32) -> Option<Meeting> {
        let mut best = Meeting { t: to, index: u32::MAX, u: 0.0, v: 0.0 };
        self.walk(o, d, to, |tri, reach| {
            if let Some((t, u, v)) = tri.meet(o, d, from, *reach) {
                *reach = t;
                best = Meeting { t, index: tri.index, u, v };
            }
            false
        });
        (best.index != u32::MAX).then_some(best)
    }

    /// Whether anything lies between `from` and `to`.
    pub(crate) fn any(&self, o: &V, d: &V, from: f32, to: f32) -> bool {
        let mut hit = false;
        self.walk(o, d, to, |tri, reach| {
            hit = tri.meet(o, d, from, *reach).is_some();
            hit
        });
        hit
    }

    fn walk(&self, o: &V, d: &V, to: f32, mut leaf: impl FnMut(&Triangle, &mut f32) -> bool) {
        let inv = d.map(|x| 1.0 / x);
        let shift = V::new(-o.x * inv.x, -o.y * inv.y, -o.z * inv.z);
        let mut reach = to;
        let mut stack = [0u32; 64];
        let mut depth = 0;
        let mut at = 0u32;
        if self.nodes[0].entry(&inv, &shift, reach) == f32::MAX {
            return;
        }
        loop {
            let node = &self.nodes[at as usize];
            if node.count > 0 {
                let from = node.first as usize;
                for tri in &self.triangles[from..from + node.count as usize] {
                    if leaf(tri, &mut reach) {
                        return;
                    }
                }
            } else {
                let (a, b) = (node.first, node.first + 1);
                let ta = self.nodes[a as usize].entry(&inv, &shift, reach);
                let tb = self.nodes[b as usize].entry(&inv, &shift, reach);
                let (near, far, tn, tf) = if ta <= tb { (a, b, ta, tb) } else { (b, a, tb, ta) };
                if tn < f32::MAX {
                    if tf < f32::MAX && depth < 63 {
                        stack[depth] = far;
                        depth += 1;
                    }
                    at = near;
                    continue;
                }
            }
            if depth == 0 {
                return;
            }
            depth -= 1;
            at = stack[depth];
        }
    }
}

impl Node {
    /// Distance at which a ray enters the box, `f32::MAX` if it misses.
    #[inline(always)]
    fn entry(&self, inv: &V, shift: &V, reach: f32) -> f32 {
        let (ax, bx) = (self.min[0] * inv.x + shift.x, self.max[0] * inv.x + shift.x);
        let (ay, by) = (self.min[1] * inv.y + shift.y, self.max[1] * inv.y + shift.y);
        let (az, bz) = (self.min[2] * inv.z + shift.z, self.max[2] * inv.z + shift.z);
        // Comparisons, not f32::min: one instruction each, and no NaN comes this far.
        let lo = |a: f32, b: f32| if a < b { a } else { b };
        let hi = |a: f32, b: f32| if a > b { a } else { b };
        let enter = hi(hi(lo(ax, bx), lo(ay, by)), hi(lo(az, bz), 0.0));
        let leave = lo(lo(hi(ax, bx), hi(ay, by)), lo(hi(az, bz), reach));
        if enter <= leave { enter } else { f32::MAX }
    }
}

impl Triangle {
    #[inline(always)]
    fn meet(&self, o: &V, d: &V, from: f32, to: f32) -> Option<(f32, f32, f32)> {
        let p = d.cross(&self.e2);
        let det = self.e1.dot(&p);
        if det == 0.0 {
            return None;
        }
        let inv = 1.0 / det;
        let s = o - self.corner;
        let u = s.dot(&p) * inv;
        if !(0.0..=1.0).contains(&u) {
            return None;
        }
        let q = s.cross(&self.e1);
        let v = d.dot(&q) * inv;
        if v < 0.0 || u + v > 1.0 {
            return None;
        }
        let t = self.e2.dot(&q) * inv;
        (t > from && t < to).then_some((t, u, v))
    }
}

fn best_split(items: &[(Bounds, V, u32)], centres: &Bounds) -> Option<(usize, f32)> {
    let mut best: Option<(f32, usize, f32)> = None;
    for axis in 0..3 {
        let (lo, hi) = (centres.min[axis], centres.max[axis]);
        if hi - lo < 1e-9 {
            continue;
        }
        let k = BINS as f32 / (hi - lo);
        let mut bins = [(Bounds::empty(), 0u32); BINS];
        for (b, c, _) in items {
            let i = (((c[axis] - lo) * k) as usize).min(BINS - 1);
            bins[i].0.join(b);
            bins[i].1 += 1;
        }
        let mut right = [0.0f32; BINS];
        let (mut acc, mut n) = (Bounds::empty(), 0u32);
        for i in (1..BINS).rev() {
            acc.join(&bins[i].0);
            n += bins[i].1;
            right[i] = acc.area() * n as f32;
        }
        let (mut acc, mut n) = (Bounds::empty(), 0u32);
        for i in 0..BINS - 1 {
            acc.join(&bins[i].0);
            n += bins[i].1;
            let cost = acc.area() * n as f32 + right[i + 1];
            if n > 0 && (n as usize) < items.len() && best.is_none_or(|b| cost < b.0) {
                best = Some((cost, axis, lo + (i + 1) as f32 / k));
            }
        }
    }
    best.map(|(_, axis, plane)| (axis, plane))
}
