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

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// A tree over triangles, and the triangles themselves to go through one by one.
    struct Both {
        tree: Bvh,
        triangles: Vec<[V; 3]>,
    }

    impl Both {
        fn of(triangles: Vec<[V; 3]>) -> Both {
            let positions: Vec<V> = triangles.iter().flatten().copied().collect();
            let faces: Vec<[u32; 3]> = (0..triangles.len() as u32).map(|i| [3 * i, 3 * i + 1, 3 * i + 2]).collect();
            Both { tree: Bvh::build(&positions, &faces), triangles }
        }
        /// Where a ray meets each triangle: its plane by the cross product, and on the inner side of all three edges. In double
        /// precision, and another way than the tree does it.
        fn one_by_one(&self, o: &V, d: &V, from: f32, to: f32) -> Option<(f64, usize)> {
            let [o, d] = [o, d].map(|p| p.map(f64::from));
            let meets = |t: &[V; 3]| {
                let [a, b, c] = t.map(|p| p.map(f64::from));
                let n = (b - a).cross(&(c - a));
                let way = n.dot(&d);
                let t = n.dot(&(a - o)) / way;
                let p = o + d * t;
                let inner = [(a, b), (b, c), (c, a)].iter().all(|(s, e)| (e - s).cross(&(p - s)).dot(&n) >= 0.0);
                (way != 0.0 && inner && t > f64::from(from) && t < f64::from(to)).then_some(t)
            };
            let all = self.triangles.iter().enumerate().filter_map(|(i, t)| Some((meets(t)?, i)));
            all.min_by(|a, b| a.0.total_cmp(&b.0))
        }
    }

    fn point(reach: f32) -> impl Strategy<Value = V> {
        [-reach..reach, -reach..reach, -reach..reach].prop_map(|[x, y, z]| V::new(x, y, z))
    }
    fn way() -> impl Strategy<Value = V> {
        point(1.0).prop_filter("a direction", |d| d.norm() > 0.1).prop_map(|d| d.normalize())
    }
    /// Triangles of about half a metre in a room of four.
    fn triangles(most: usize) -> impl Strategy<Value = Vec<[V; 3]>> {
        let one = (point(2.0), point(0.5), point(0.5)).prop_map(|(a, b, c)| [a, a + b, a + c]);
        prop::collection::vec(one, 1..most)
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(200))]

        /// The tree finds the same triangle as going through all of them, at the same distance.
        #[test]
        fn a_tree_finds_what_going_through_all_finds(all in triangles(120), o in point(3.0), d in way(), to in 0.5f32..20.0) {
            let both = Both::of(all);
            let (want, got) = (both.one_by_one(&o, &d, 1e-4, to), both.tree.nearest(&o, &d, 1e-4, to));
            match (want, got) {
                // single precision may see an edge or the end of the ray otherwise: then the other is close by
                (None, None) => {}
                (Some((t, i)), Some(m)) => {
                    prop_assert!((f64::from(m.t) - t).abs() < 1e-3 * (1.0 + t), "{} for {t}", m.t);
                    if m.index as usize == i {
                        let [a, b, c] = both.triangles[i];
                        let there = a + (b - a) * m.u + (c - a) * m.v;
                        prop_assert!((there - (o + d * m.t)).norm() < 1e-3, "its place in the triangle");
                    }
                }
                (w, g) => {
                    let near_end = |t: f64| (t - f64::from(to)).abs() < 1e-3 * (1.0 + t);
                    let at_edge = g.is_some_and(|m| m.u.min(m.v).min(1.0 - m.u - m.v) < 1e-4);
                    prop_assert!(at_edge || w.is_some_and(|w| near_end(w.0)) || w.is_some_and(|w| edge(&both, w.1, &o, &d)), "{w:?} {g:?}");
                }
            }
        }

        /// Something is in the way exactly where something is met.
        #[test]
        fn what_is_met_is_in_the_way(all in triangles(80), o in point(3.0), d in way(), from in 0.0f32..2.0, long in 0.1f32..8.0) {
            let tree = Both::of(all).tree;
            prop_assert_eq!(tree.any(&o, &d, from, from + long), tree.nearest(&o, &d, from, from + long).is_some());
        }

        /// A ray that starts behind what it met goes on to the next, and never back.
        #[test]
        fn a_ray_goes_on_behind_what_it_met(all in triangles(80), o in point(3.0), d in way()) {
            let tree = Both::of(all).tree;
            let (mut from, mut met) = (1e-4f32, 0);
            while let Some(m) = tree.nearest(&o, &d, from, 1e3) {
                prop_assert!(m.t > from);
                from = m.t;
                met += 1;
                prop_assert!(met <= 80, "no more meetings than triangles");
            }
        }

        /// The box about all holds all.
        #[test]
        fn the_box_holds_all(all in triangles(40)) {
            let both = Both::of(all);
            let (lo, hi) = both.tree.bounds();
            for p in both.triangles.iter().flatten() {
                prop_assert!((0..3).all(|k| lo[k] <= p[k] && p[k] <= hi[k]));
            }
        }
    }

    /// Whether a ray passes a triangle within a ten-thousandth of one of its edges.
    fn edge(both: &Both, i: usize, o: &V, d: &V) -> bool {
        let [a, b, c] = both.triangles[i].map(|p| p.map(f64::from));
        let [o, d] = [o, d].map(|p| p.map(f64::from));
        let n = (b - a).cross(&(c - a));
        let p = o + d * (n.dot(&(a - o)) / n.dot(&d));
        [(a, b), (b, c), (c, a)].iter().any(|(s, e)| ((e - s).cross(&(p - s))).norm() / (e - s).norm() < 1e-3)
    }

    #[test]
    fn rays_along_axes_and_in_faces_of_boxes_are_met() {
        // a wall of squares that share edges, square to the view: boxes without depth
        let wall: Vec<[V; 3]> = (0..20)
            .flat_map(|i| (0..20).map(move |j| (i as f32 * 0.1, j as f32 * 0.1)))
            .flat_map(|(x, y)| {
                let at = |dx: f32, dy: f32| V::new(x + dx, y + dy, 1.0);
                [[at(0.0, 0.0), at(0.1, 0.0), at(0.1, 0.1)], [at(0.0, 0.0), at(0.1, 0.1), at(0.0, 0.1)]]
            })
            .collect();
        let tree = Both::of(wall).tree;
        for (x, y) in [(0.05, 0.03), (0.1, 0.1), (1.0, 1.0), (0.1, 0.55), (1.99, 0.01)] {
            let m = tree.nearest(&V::new(x, y, 0.0), &V::z(), 0.0, 10.0).expect("the wall");
            assert!((m.t - 1.0).abs() < 1e-6, "{x} {y}: {m:?}");
            assert!(tree.any(&V::new(x, y, 2.0), &-V::z(), 0.0, 10.0));
        }
        // along the wall, in its plane, nothing is met and nothing breaks
        assert!(tree.nearest(&V::new(-1.0, 0.55, 1.0), &V::x(), 0.0, 10.0).is_none());
        // short of it, beyond it, away from it
        let o = V::new(0.5, 0.52, 0.0);
        assert!(
            !tree.any(&o, &V::z(), 0.0, 0.99) && !tree.any(&o, &V::z(), 1.01, 5.0) && !tree.any(&o, &-V::z(), 0.0, 5.0)
        );
    }

    #[test]
    fn many_triangles_in_one_place_and_none_at_all_are_taken() {
        let one = [V::new(0.0, 0.0, 1.0), V::new(1.0, 0.0, 1.0), V::new(0.0, 1.0, 1.0)];
        let heap = Both::of(vec![one; 3000]);
        let m = heap.tree.nearest(&V::new(0.2, 0.2, 0.0), &V::z(), 0.0, 10.0).expect("one of them");
        assert!((m.t - 1.0).abs() < 1e-6 && m.index < 3000);
        // triangles without area are never met
        let thin = Both::of(vec![[V::zeros(), V::x(), V::x() * 2.0], [V::z(); 3]]);
        assert!(thin.tree.nearest(&V::new(0.5, 0.0, -1.0), &V::z(), 0.0, 10.0).is_none());
        let none = Both::of(Vec::new());
        assert!(
            none.tree.nearest(&V::zeros(), &V::z(), 0.0, 10.0).is_none()
                && !none.tree.any(&V::zeros(), &V::x(), 0.0, 1.0)
        );
    }
}
