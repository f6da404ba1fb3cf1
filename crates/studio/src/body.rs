//! Solids: ellipsoids, whole or cut by planes, and how their surfaces answer to light.

use light::geometry::Vec3;
use nalgebra::Matrix3;

/// How a surface answers to light.
#[derive(Debug, Clone, Copy)]
pub enum Surface {
    /// Lambert, linear RGB reflectance.
    Matte([f64; 3]),
    /// Lambert under a smooth dielectric coat (index 1.5).
    Lacquer([f64; 3]),
    /// Lambert with turned grain: reflectance, strength of the grain, rings per metre.
    Wood([f64; 3], f64, f64),
    /// A mirror, linear reflectance.
    Mirror(f64),
    /// A cornea: iris colour, gaze, half angle of pupil and iris as seen from the cornea's centre.
    Cornea {
        /// Iris reflectance.
        iris: [f64; 3],
        /// Unit vector along the gaze.
        gaze: Vec3,
        /// Half angle of the pupil in radians.
        pupil: f64,
    },
}

/// A cut: only where `normal . (p - centre) > offset` is the surface there.
#[derive(Debug, Clone, Copy)]
pub struct Clip {
    /// Unit normal.
    pub normal: Vec3,
    /// Metres from the body's centre.
    pub offset: f64,
}

/// An ellipsoid.
#[derive(Debug, Clone)]
pub struct Body {
    /// Centre in metres.
    pub centre: Vec3,
    /// World to unit sphere.
    to_unit: Matrix3<f64>,
    /// Surface.
    pub surface: Surface,
    /// Cuts, all of which must hold.
    pub clips: Vec<Clip>,
    reach: f64,
}

/// Where a ray meets a body.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Hit {
    pub t: f64,
    pub body: usize,
    pub normal: Vec3,
}

impl Body {
    /// Axis-aligned ellipsoid turned by `roll` radians about the z axis.
    pub fn new(centre: Vec3, radii: Vec3, roll: f64, surface: Surface) -> Self {
        let (s, c) = roll.sin_cos();
        let turn = Matrix3::new(c, s, 0.0, -s, c, 0.0, 0.0, 0.0, 1.0);
        let to_unit = Matrix3::from_diagonal(&radii.map(|r| 1.0 / r)) * turn;
        Body { centre, to_unit, surface, clips: Vec::new(), reach: radii.max() }
    }

    /// A sphere.
    pub fn sphere(centre: Vec3, radius: f64, surface: Surface) -> Self {
        Body::new(centre, Vec3::new(radius, radius, radius), 0.0, surface)
    }

    /// The same body cut by a plane.
    pub fn cut(mut self, normal: Vec3, offset: f64) -> Self {
        self.clips.push(Clip { normal: normal.normalize(), offset });
        self
    }

    /// Nearest distance along the ray beyond `from`, with the outward normal there.
    pub(crate) fn meet(&self, origin: &Vec3, dir: &Vec3, from: f64, to: f64) -> Option<(f64, Vec3)> {
        let oc = origin - self.centre;
        // cheap miss: the ray passes outside the bounding sphere
        let along = oc.dot(dir);
        if oc.norm_squared() - along * along > self.reach * self.reach {
            return None;
        }
        let o = self.to_unit * oc;
        let d = self.to_unit * dir;
        let (a, b, c) = (d.norm_squared(), o.dot(&d), o.norm_squared() - 1.0);
        let disc = b * b - a * c;
        if disc <= 0.0 {
            return None;
        }
        let root = disc.sqrt();
        [(-b - root) / a, (-b + root) / a].into_iter().find_map(|t| {
            if t <= from || t >= to {
                return None;
            }
            let p = oc + dir * t;
            if !self.clips.iter().all(|k| k.normal.dot(&p) > k.offset) {
                return None;
            }
            Some((t, (self.to_unit.transpose() * (self.to_unit * p)).normalize()))
        })
    }
}
