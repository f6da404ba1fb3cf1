//! The family as it is kept: mean, components, triangles, what is skin, and where the points of a face mesh lie.

use optics::geometry::Vec3;
use std::sync::LazyLock;

/// Points after the vertices: the centres of the eyes, image left first.
pub const EYES: usize = 2;

/// Points of a face mesh that are named: tip and base of the nose, corners of the mouth, chin.
pub const NAMED: [(&str, usize); 5] =
    [("nose_tip", 4), ("nose_base", 2), ("mouth_image_left", 61), ("mouth_image_right", 291), ("chin", 152)];

/// Spacing of the points of skin on the mean head, metres.
const SPACING: f64 = 0.0042;
/// The front of the head lies before this, metres.
const FRONT: f32 = -0.06;

/// Where a point of a face mesh lies on a head.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Landmark {
    /// Vertex of the head.
    pub vertex: usize,
    /// From there, metres.
    pub offset: Vec3,
    /// Root mean square error of the face mesh there, parts of the distance between the eyes.
    pub miss: f64,
}

/// A place on the surface: three vertices and how much of each.
pub(crate) type Place = [(u16, f32); 3];

/// What a vertex belongs to.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Region {
    /// Bare skin of head and scalp: light is read from it.
    Skin,
    /// Neck and shoulders under the chin.
    Neck,
    /// Lips.
    Lips,
    /// Lids about the eyes.
    Lids,
    /// Ears.
    Ears,
    /// Inside of the mouth.
    Mouth,
    /// Brows.
    Brow,
}

impl Region {
    fn parse(byte: u8) -> Option<Region> {
        Some(match byte {
            255 => Region::Skin,
            1 => Region::Neck,
            2 => Region::Lips,
            3 => Region::Lids,
            4 => Region::Ears,
            5 => Region::Mouth,
            6 => Region::Brow,
            _ => return None,
        })
    }
}

/// Mean and principal components of adult heads.
#[derive(Debug)]
pub struct Family {
    pub(crate) mean: Vec<[f32; 3]>,
    /// component by component, each as long as the mean: metres per standard deviation
    pub(crate) components: Vec<Vec<[f32; 3]>>,
    pub(crate) triangles: Vec<[u16; 3]>,
    landmarks: Vec<Landmark>,
    modes: Vec<Vec<[f64; 2]>>,
    regions: Vec<Region>,
    /// whether a vertex is skin on the front of the mean head
    front: Vec<bool>,
    /// points of skin, evenly spaced on the mean head
    pub(crate) places: Vec<Place>,
}

/// The family that ships with the program.
pub fn family() -> &'static Family {
    static FAMILY: LazyLock<Family> =
        LazyLock::new(|| Family::parse(include_bytes!("../data/heads.bin")).expect("data/heads.bin is whole"));
    &FAMILY
}

/// Bytes that are read from the front.
struct Bytes<'a>(&'a [u8]);

impl Bytes<'_> {
    fn take<const N: usize>(&mut self) -> Option<[u8; N]> {
        let (head, rest) = self.0.split_first_chunk::<N>()?;
        self.0 = rest;
        Some(*head)
    }

    fn u32(&mut self) -> Option<u32> {
        self.take().map(u32::from_le_bytes)
    }

    fn f32(&mut self) -> Option<f32> {
        self.take().map(f32::from_le_bytes)
    }

    fn u16(&mut self) -> Option<u16> {
        self.take().map(u16::from_le_bytes)
    }

    fn many<T>(&mut self, n: usize, mut one: impl FnMut(&mut Self) -> Option<T>) -> Option<Vec<T>> {
        (0..n).map(|_| one(self)).collect()
    }

    fn triple(&mut self) -> Option<[f32; 3]> {
        Some([self.f32()?, self.f32()?, self.f32()?])
    }
}

impl Family {
    /// Reads a family as `tools/heads/make_heads.py` writes it; `None` if it is cut short or is something else.
    pub fn parse(bytes: &[u8]) -> Option<Family> {
        let mut b = Bytes(bytes);
        if &b.take::<8>()? != b"HEADS2\0\0" {
            return None;
        }
        let [v, c, t, l] = [b.u32()? as usize, b.u32()? as usize, b.u32()? as usize, b.u32()? as usize];
        let points = v + EYES;
        let mean = b.many(points, Bytes::triple)?;
        let sd = b.many(c, Bytes::f32)?;
        let unit = b.many(c, Bytes::f32)?;
        let mut components = Vec::with_capacity(c);
        for (sd, unit) in sd.iter().zip(&unit) {
            let k = sd * unit;
            let one = |b: &mut Bytes| b.take().map(|x| f32::from(i16::from_le_bytes(x)) * k);
            components.push(b.many(points, |b| Some([one(b)?, one(b)?, one(b)?]))?);
        }
        let triangles = b.many(t, |b| Some([b.u16()?, b.u16()?, b.u16()?]))?;
        let regions = b.many(v, |b| b.take::<1>().and_then(|x| Region::parse(x[0])))?;
        let skin: Vec<bool> = regions.iter().map(|r| *r == Region::Skin).collect();
        let vertex = b.many(l, Bytes::u16)?;
        let offset = b.many(l, Bytes::triple)?;
        let miss = b.many(l, Bytes::f32)?;
        let m = b.u32()? as usize;
        let modes = b.many(m, |b| b.many(l, |b| Some([f64::from(b.f32()?), f64::from(b.f32()?)])))?;
        let inside = |i: &u16| usize::from(*i) < v;
        if !b.0.is_empty() || !triangles.iter().flatten().all(inside) || !vertex.iter().all(inside) {
            return None;
        }
        let landmarks = vertex
            .iter()
            .zip(offset)
            .zip(miss)
            .map(|((v, o), miss)| Landmark {
                vertex: usize::from(*v),
                offset: Vec3::from(o.map(f64::from)),
                miss: f64::from(miss),
            })
            .collect();
        let places = places(&mean, &triangles, &skin);
        let front = skin.iter().zip(&mean).map(|(s, p)| *s && p[2] > FRONT).collect();
        Some(Family { mean, components, triangles, landmarks, modes, regions, front, places })
    }

    /// How many components there are.
    pub fn components(&self) -> usize {
        self.components.len()
    }

    /// Points of a face mesh on a head, in the order of the mesh.
    pub fn landmarks(&self) -> &[Landmark] {
        &self.landmarks
    }

    /// Ways in which the points of the face mesh stray together: for each point image right and down, parts of the
    /// distance between the eyes per standard deviation.
    pub fn modes(&self) -> &[Vec<[f64; 2]>] {
        &self.modes
    }

    /// What each vertex belongs to.
    pub fn regions(&self) -> &[Region] {
        &self.regions
    }

    /// Which vertices are skin on the front of the head.
    pub fn front(&self) -> &[bool] {
        &self.front
    }

    /// A vertex (or, after them, the centre of an eye) of the mean head, metres.
    pub fn mean(&self, i: usize) -> Vec3 {
        Vec3::from(self.mean[i].map(f64::from))
    }

    /// What one standard deviation of component `k` adds to a vertex or eye, metres.
    pub fn component(&self, k: usize, i: usize) -> Vec3 {
        Vec3::from(self.components[k][i].map(f64::from))
    }

    /// Number of vertices; the eyes come after them.
    pub fn vertices(&self) -> usize {
        self.mean.len() - EYES
    }
}

/// Places of skin about as far apart as [`SPACING`]: corners, middles of edges and of triangles, thinned out.
fn places(mean: &[[f32; 3]], triangles: &[[u16; 3]], skin: &[bool]) -> Vec<Place> {
    let at = |p: &Place| {
        p.iter().fold(Vec3::zeros(), |s, (i, w)| s + Vec3::from(mean[usize::from(*i)].map(f64::from)) * f64::from(*w))
    };
    let mut cells: std::collections::HashMap<[i64; 3], Vec<Vec3>> = Default::default();
    let mut out = Vec::new();
    let third = 1.0 / 3.0;
    for shares in [[1.0, 0.0, 0.0], [third, third, third], [0.5, 0.5, 0.0], [0.0, 0.5, 0.5], [0.6, 0.2, 0.2]] {
        for t in triangles.iter().filter(|t| t.iter().all(|i| skin[usize::from(*i)])) {
            let place = [(t[0], shares[0]), (t[1], shares[1]), (t[2], shares[2])];
            let p = at(&place);
            let cell: [i64; 3] = [0, 1, 2].map(|k| (p[k] / SPACING).floor() as i64);
            let near = |o: &Vec3| (o - p).norm() < SPACING;
            let about = (-1..=1).flat_map(|x| (-1..=1).flat_map(move |y| (-1..=1).map(move |z| [x, y, z])));
            let taken = about.into_iter().any(|d: [i64; 3]| {
                let c = [0, 1, 2].map(|k| cell[k] + d[k]);
                cells.get(&c).is_some_and(|l| l.iter().any(near))
            });
            if !taken {
                cells.entry(cell).or_default().push(p);
                out.push(place);
            }
        }
    }
    out
}
