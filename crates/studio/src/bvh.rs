//! A tree of boxes over triangles: nearest hit and any hit.
//!
//! Binned surface-area heuristic (Wald 2007), four boxes to a node and four triangles to a leaf, each
//! met four at a time (Dammertz, Hanika & Keller 2008); triangles by Möller & Trumbore 1997. Kept
//! here and small because the order of visits and the early way out of shadow rays are where the
//! speed of the studio lies.

use crate::math::V;
use wide::f32x4;

/// Four children and their boxes, lowest corners first.
#[derive(Debug, Clone, Copy)]
struct Node {
    /// `[lowest, highest][axis]`
    sides: [[f32x4; 3]; 2],
    /// index of a node, or of a leaf with [`LEAF`] set; [`NONE`] where there is no child
    child: [u32; 4],
}

const LEAF: u32 = 1 << 31;
const NONE: u32 = u32::MAX;
/// Triangles to a leaf.
const WIDE: usize = 4;

/// Up to four triangles; an empty place has no area and is never met.
#[derive(Debug, Clone, Copy)]
struct Leaf {
    corner: [f32x4; 3],
    e1: [f32x4; 3],
    e2: [f32x4; 3],
    index: [u32; 4],
}

/// The tree.
#[derive(Debug)]
pub(crate) struct Bvh {
    nodes: Vec<Node>,
    leaves: Vec<Leaf>,
    all: Bounds,
}

/// Where a ray meets a triangle.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Meeting {
    pub t: f32,
    pub index: u32,
    pub u: f32,
    pub v: f32,
}

#[derive(Debug, Clone, Copy)]
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

/// A triangle while the tree is built: its box, the centre of that, its number.
type Item = (Bounds, V, u32);

/// A ray spread over four lanes.
struct Ray {
    o: [f32x4; 3],
    d: [f32x4; 3],
    inv: [f32x4; 3],
    /// which side of a box is entered first, per axis
    first: [usize; 3],
}

impl Ray {
    fn new(o: &V, d: &V) -> Ray {
        // A ray along a face of a box must not make 0 times infinity.
        let inv = d.map(|x| if x.abs() < 1e-18 { 1e18f32.copysign(x) } else { 1.0 / x });
        let spread = |v: &V| [v.x, v.y, v.z].map(f32x4::splat);
        Ray {
            o: spread(o),
            d: spread(d),
            inv: spread(&inv),
            first: [inv.x, inv.y, inv.z].map(|x| usize::from(x < 0.0)),
        }
    }
}

impl Bvh {
    pub(crate) fn build(positions: &[V], faces: &[[u32; 3]]) -> Bvh {
        let mut items: Vec<Item> = faces
            .iter()
            .enumerate()
            .map(|(i, f)| {
                let mut b = Bounds::empty();
                f.iter().for_each(|k| b.grow(&positions[*k as usize]));
                (b, (b.min + b.max) * 0.5, i as u32)
            })
            .collect();
        let mut tree = Bvh { nodes: Vec::new(), leaves: Vec::new(), all: bounds_of(&items) };
        let triangle = |i: u32| faces[i as usize].map(|k| positions[k as usize]);
        tree.grow(&mut items, &triangle);
        tree
    }

    /// Adds the node over `items` and all under it; returns its index.
    fn grow(&mut self, items: &mut [Item], triangle: &impl Fn(u32) -> [V; 3]) -> u32 {
        let at = self.nodes.len();
        let blank = [f32x4::splat(f32::MAX), f32x4::splat(f32::MIN)].map(|x| [x; 3]);
        self.nodes.push(Node { sides: blank, child: [NONE; 4] });
        // The largest part that is no leaf yet is split until there are four.
        let mut parts: Vec<&mut [Item]> = vec![items];
        while parts.len() < WIDE {
            let largest = (0..parts.len())
                .filter(|k| parts[*k].len() > WIDE)
                .max_by(|a, b| bounds_of(parts[*a]).area().total_cmp(&bounds_of(parts[*b]).area()));
            let Some(k) = largest else { break };
            let (a, b) = halves(parts.swap_remove(k));
            parts.extend([a, b]);
        }
        // places without a child keep a box that no ray meets
        let mut lowest = [[f32::MAX; 4]; 3];
        let mut highest = [[f32::MIN; 4]; 3];
        let mut child = [NONE; 4];
        for (k, part) in parts.into_iter().enumerate().filter(|(_, part)| !part.is_empty()) {
            let b = bounds_of(part);
            lowest.iter_mut().zip(b.min.iter()).for_each(|(side, v)| side[k] = *v);
            highest.iter_mut().zip(b.max.iter()).for_each(|(side, v)| side[k] = *v);
            child[k] = if part.len() <= WIDE { self.leaf(part, triangle) } else { self.grow(part, triangle) };
        }
        self.nodes[at] = Node { sides: [lowest, highest].map(|s| s.map(f32x4::from)), child };
        at as u32
    }

    fn leaf(&mut self, items: &[Item], triangle: &impl Fn(u32) -> [V; 3]) -> u32 {
        let mut rows = [[[0.0f32; 4]; 3]; 3];
        let mut index = [NONE; 4];
        for (k, (_, _, i)) in items.iter().enumerate() {
            let [a, b, c] = triangle(*i);
            index[k] = *i;
            for (row, v) in rows.iter_mut().zip([a, b - a, c - a]) {
                (0..3).for_each(|axis| row[axis][k] = v[axis]);
            }
        }
        let [corner, e1, e2] = rows.map(|r| r.map(f32x4::from));
        self.leaves.push(Leaf { corner, e1, e2, index });
        LEAF | (self.leaves.len() as u32 - 1)
    }

    /// Bounding box.
    pub(crate) fn bounds(&self) -> (V, V) {
        (self.all.min, self.all.max)
    }

    /// Nearest meeting beyond `from` and before `to`.
    pub(crate) fn nearest(&self, o: &V, d: &V, from: f32, to: f32) -> Option<Meeting> {
        let ray = Ray::new(o, d);
        let mut best = Meeting { t: to, index: NONE, u: 0.0, v: 0.0 };
        let mut stack = [(0u32, 0.0f32); 96];
        let mut depth = 1;
        while depth > 0 {
            depth -= 1;
            let (at, enter) = stack[depth];
            if enter > best.t {
                continue;
            }
            if at & LEAF != 0 {
                self.leaves[(at ^ LEAF) as usize].nearest(&ray, from, &mut best);
                continue;
            }
            let node = &self.nodes[at as usize];
            let (enter, mut hit) = node.entry(&ray, best.t);
            let first = depth;
            while hit != 0 {
                let k = hit.trailing_zeros() as usize;
                hit &= hit - 1;
                // farthest first, so that the nearest is taken next
                let mut place = depth;
                while place > first && stack[place - 1].1 < enter[k] {
                    stack[place] = stack[place - 1];
                    place -= 1;
                }
                stack[place] = (node.child[k], enter[k]);
                depth += 1;
            }
        }
        (best.index != NONE).then_some(best)
    }

    /// Whether anything lies between `from` and `to`.
    pub(crate) fn any(&self, o: &V, d: &V, from: f32, to: f32) -> bool {
        let ray = Ray::new(o, d);
        let mut stack = [0u32; 96];
        let mut depth = 1;
        while depth > 0 {
            depth -= 1;
            let at = stack[depth];
            if at & LEAF != 0 {
                if self.leaves[(at ^ LEAF) as usize].any(&ray, from, to) {
                    return true;
                }
                continue;
            }
            let node = &self.nodes[at as usize];
            let (_, mut hit) = node.entry(&ray, to);
            while hit != 0 {
                stack[depth] = node.child[hit.trailing_zeros() as usize];
                depth += 1;
                hit &= hit - 1;
            }
        }
        false
    }
}

impl Node {
    /// Distances at which a ray enters the four boxes, and a bit for each that it meets.
    #[inline(always)]
    fn entry(&self, ray: &Ray, reach: f32) -> ([f32; 4], u32) {
        let mut enter = f32x4::splat(0.0);
        let mut leave = f32x4::splat(reach);
        for axis in 0..3 {
            let near = (self.sides[ray.first[axis]][axis] - ray.o[axis]) * ray.inv[axis];
            let far = (self.sides[1 - ray.first[axis]][axis] - ray.o[axis]) * ray.inv[axis];
            enter = near.fast_max(enter);
            leave = far.fast_min(leave);
        }
        (enter.to_array(), enter.simd_le(leave).to_bitmask())
    }
}

impl Leaf {
    /// Distances, both coordinates, and a bit for each triangle that is met.
    #[inline(always)]
    fn meet(&self, ray: &Ray, from: f32, to: f32) -> (f32x4, f32x4, f32x4, u32) {
        let p = cross(&ray.d, &self.e2);
        let inv = f32x4::splat(1.0) / dot(&self.e1, &p);
        let s: [f32x4; 3] = std::array::from_fn(|k| ray.o[k] - self.corner[k]);
        let u = dot(&s, &p) * inv;
        let q = cross(&s, &self.e1);
        let v = dot(&ray.d, &q) * inv;
        let t = dot(&self.e2, &q) * inv;
        // Comparisons with NaN, as from a triangle without area, are false.
        let zero = f32x4::splat(0.0);
        let inside = u.simd_ge(zero) & v.simd_ge(zero) & (u + v).simd_le(f32x4::splat(1.0));
        let between = t.simd_gt(f32x4::splat(from)) & t.simd_lt(f32x4::splat(to));
        (t, u, v, (inside & between).to_bitmask())
    }

    #[inline(always)]
    fn nearest(&self, ray: &Ray, from: f32, best: &mut Meeting) {
        let (t, u, v, mut hit) = self.meet(ray, from, best.t);
        if hit == 0 {
            return;
        }
        let (t, u, v) = (t.to_array(), u.to_array(), v.to_array());
        while hit != 0 {
            let k = hit.trailing_zeros() as usize;
            hit &= hit - 1;
            if t[k] < best.t {
                *best = Meeting { t: t[k], index: self.index[k], u: u[k], v: v[k] };
            }
        }
    }

    #[inline(always)]
    fn any(&self, ray: &Ray, from: f32, to: f32) -> bool {
        self.meet(ray, from, to).3 != 0
    }
}

#[inline(always)]
fn cross(a: &[f32x4; 3], b: &[f32x4; 3]) -> [f32x4; 3] {
    [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]
}

#[inline(always)]
fn dot(a: &[f32x4; 3], b: &[f32x4; 3]) -> f32x4 {
    a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
}

fn bounds_of(items: &[Item]) -> Bounds {
    let mut all = Bounds::empty();
    items.iter().for_each(|i| all.join(&i.0));
    all
}

/// Splits where it costs least; in the middle where no plane splits.
fn halves(items: &mut [Item]) -> (&mut [Item], &mut [Item]) {
    let mut centres = Bounds::empty();
    items.iter().for_each(|i| centres.grow(&i.1));
    let mut cut = 0;
    if let Some((axis, plane)) = best_split(items, &centres) {
        for i in 0..items.len() {
            if items[i].1[axis] < plane {
                items.swap(i, cut);
                cut += 1;
            }
        }
    }
    if cut == 0 || cut == items.len() {
        cut = items.len() / 2;
    }
    items.split_at_mut(cut)
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
