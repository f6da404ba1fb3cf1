//! One head of the family.

use crate::family::{Family, Place};
use optics::geometry::Vec3;

/// A head: its surface in its own frame, metres.
#[derive(Debug, Clone)]
pub struct Head<'a> {
    pub(crate) family: &'a Family,
    vertices: Vec<Vec3>,
    normals: Vec<Vec3>,
    eyes: [Vec3; 2],
}

/// A place on a head with its normal.
#[derive(Debug, Clone, Copy)]
pub struct Point {
    /// Metres.
    pub at: Vec3,
    /// Unit vector.
    pub normal: Vec3,
}

impl Family {
    /// The head of given weights of the components, in standard deviations; what is not given is nought.
    pub fn head(&self, weights: &[f64]) -> Head<'_> {
        let mut all = self.mean.clone();
        for (component, w) in self.components.iter().zip(weights) {
            let w = *w as f32;
            all.iter_mut().zip(component).for_each(|(p, d)| (0..3).for_each(|k| p[k] += w * d[k]));
        }
        let mut vertices: Vec<Vec3> = all.into_iter().map(|p| Vec3::from(p.map(f64::from))).collect();
        let eyes = vertices.split_off(self.vertices());
        let mut normals = vec![Vec3::zeros(); vertices.len()];
        for t in &self.triangles {
            let [a, b, c] = t.map(|i| vertices[usize::from(i)]);
            // as long as the triangle is large
            let n = (b - a).cross(&(c - a));
            t.iter().for_each(|i| normals[usize::from(*i)] += n);
        }
        normals.iter_mut().for_each(|n| *n = n.try_normalize(1e-15).unwrap_or_else(Vec3::z));
        Head { family: self, vertices, normals, eyes: [eyes[0], eyes[1]] }
    }
}

impl Head<'_> {
    /// Vertices, metres.
    pub fn vertices(&self) -> &[Vec3] {
        &self.vertices
    }

    /// Their unit normals.
    pub fn normals(&self) -> &[Vec3] {
        &self.normals
    }

    /// Triangles of vertices.
    pub fn triangles(&self) -> &[[u16; 3]] {
        &self.family.triangles
    }

    /// Centres of the eyes, image left first.
    pub fn eyes(&self) -> [Vec3; 2] {
        self.eyes
    }

    /// Places of a face mesh's points.
    pub fn landmarks(&self) -> Vec<Vec3> {
        self.family.landmarks().iter().map(|l| self.vertices[l.vertex] + l.offset).collect()
    }

    /// Points of bare skin, evenly spaced.
    pub fn skin(&self) -> Vec<Point> {
        let mix = |place: &Place, of: &[Vec3]| {
            place.iter().fold(Vec3::zeros(), |s, (i, w)| s + of[usize::from(*i)] * f64::from(*w))
        };
        let point = |p: &Place| Point { at: mix(p, &self.vertices), normal: mix(p, &self.normals).normalize() };
        self.family.places.iter().map(point).collect()
    }
}
