//! Directions, the camera, and the sizes of things as seen from a point.

use nalgebra::{Matrix3, Vector3};
use serde::{Deserialize, Serialize};
use std::f64::consts::PI;
use utoipa::ToSchema;

/// A vector in the camera frame (see the crate's conventions).
pub type Vec3 = Vector3<f64>;

/// A direction to a light as azimuth and elevation in degrees.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct AzEl {
    /// Degrees from the lens axis, positive to camera right, (-180, 180].
    pub azimuth_deg: f64,
    /// Degrees above the horizontal plane through the lens axis, [-90, 90].
    pub elevation_deg: f64,
}

impl AzEl {
    /// Unit vector `(cos el sin az, sin el, cos el cos az)`.
    pub fn vector(self) -> Vec3 {
        let (sa, ca) = self.azimuth_deg.to_radians().sin_cos();
        let (se, ce) = self.elevation_deg.to_radians().sin_cos();
        Vec3::new(ce * sa, se, ce * ca)
    }

    /// From any vector of non-zero length.
    pub fn of(v: &Vec3) -> Self {
        let n = v.norm().max(1e-300);
        let mut az = v.x.atan2(v.z).to_degrees();
        if az <= -180.0 {
            az += 360.0;
        }
        AzEl { azimuth_deg: az, elevation_deg: (v.y / n).clamp(-1.0, 1.0).asin().to_degrees() }
    }

    /// Degrees between the lens axis (+z) and this direction: 0 at the lens, 180 behind.
    pub fn off_axis_deg(self) -> f64 {
        angle_between(&self.vector(), &Vec3::z()).to_degrees()
    }

    /// Clock position of the direction in the picture: 12 is up, 3 is image right, in (0, 12].
    pub fn clock(self) -> f64 {
        let v = self.vector();
        clock_of(v.x, v.y)
    }
}

/// Clock position of an offset in the picture (`dx` right, `dy` up), in (0, 12].
pub fn clock_of(dx: f64, dy: f64) -> f64 {
    let c = dx.atan2(dy) / (2.0 * PI) * 12.0;
    if c <= 0.0 { c + 12.0 } else { c }
}

/// A difference of azimuths the short way round, degrees in -180..180.
pub fn wrapped_deg(d: f64) -> f64 {
    // one that is short already stays as it is, to the last bit
    if (-180.0..180.0).contains(&d) { d } else { (d + 180.0).rem_euclid(360.0) - 180.0 }
}

/// Angle in radians between two vectors; stable near 0 and pi.
pub fn angle_between(a: &Vec3, b: &Vec3) -> f64 {
    a.cross(b).norm().atan2(a.dot(b))
}

/// Full angle in radians of the disc with the given solid angle:
/// `Omega = 2 pi (1 - cos(a / 2))` (spherical cap).
pub fn angular_size_of_solid_angle(omega_sr: f64) -> f64 {
    2.0 * (1.0 - (omega_sr / (2.0 * PI)).clamp(0.0, 2.0)).acos()
}

/// Solid angle in steradian of a disc of full angle `a` radians.
pub fn solid_angle_of_angular_size(a: f64) -> f64 {
    // 2 pi (1 - cos) written without cancellation for small angles.
    4.0 * PI * (a / 4.0).sin().powi(2)
}

/// Level and upright axes of a face that looks along `n` (unit): right-handed with it; x where it looks straight
/// up or down.
pub fn upright(n: &Vec3) -> (Vec3, Vec3) {
    let u = Vec3::new(n.z, 0.0, -n.x).try_normalize(0.04).unwrap_or_else(Vec3::x);
    (u, n.cross(&u).normalize())
}

/// Rotation of a thing that rolls (to its own right), then nods (down), then turns (to camera right), degrees.
pub fn turn(yaw_deg: f64, pitch_deg: f64, roll_deg: f64) -> Matrix3<f64> {
    let ((sy, cy), (sp, cp), (sr, cr)) =
        (yaw_deg.to_radians().sin_cos(), pitch_deg.to_radians().sin_cos(), (-roll_deg).to_radians().sin_cos());
    let yaw = Matrix3::new(cy, 0.0, sy, 0.0, 1.0, 0.0, -sy, 0.0, cy);
    let pitch = Matrix3::new(1.0, 0.0, 0.0, 0.0, cp, -sp, 0.0, sp, cp);
    let roll = Matrix3::new(cr, -sr, 0.0, sr, cr, 0.0, 0.0, 0.0, 1.0);
    yaw * pitch * roll
}

/// Two unit vectors that complete `n` (unit) to a right-handed frame.
/// Duff et al. 2017, "Building an orthonormal basis, revisited".
pub fn tangent_frame(n: &Vec3) -> (Vec3, Vec3) {
    let s = if n.z >= 0.0 { 1.0 } else { -1.0 };
    let a = -1.0 / (s + n.z);
    let b = n.x * n.y * a;
    (Vec3::new(1.0 + s * n.x * n.x * a, s * b, -s * n.x), Vec3::new(b, s + n.y * n.y * a, -n.y))
}

/// Shape of a source as the subject sees it, from directions on it: width over height, and how far its
/// outline goes into the corners of its upright frame, 0 for an ellipse, 1 for a rectangle
/// (`(area / (w h) - pi/4) / (1 - pi/4)` of the convex hull).
pub fn shape_of_directions(directions: &[Vec3]) -> Option<(f64, f64)> {
    let sum: Vec3 = directions.iter().sum();
    let centre = sum.try_normalize(1e-9)?;
    let (east, up) = upright(&centre);
    let angle = |d: &Vec3, axis: &Vec3| d.dot(axis).atan2(d.dot(&centre));
    let hull = convex_hull(directions.iter().map(|d| [angle(d, &east), angle(d, &up)]).collect());
    let extent = |k: usize| {
        let v = hull.iter().map(|p| p[k]);
        v.clone().fold(f64::MIN, f64::max) - v.fold(f64::MAX, f64::min)
    };
    let (w, h) = (extent(0), extent(1));
    if hull.len() < 3 || w < 1e-4 || h < 1e-4 {
        return None;
    }
    let area: f64 = (0..hull.len())
        .map(|i| {
            let (a, b) = (hull[i], hull[(i + 1) % hull.len()]);
            (a[0] * b[1] - b[0] * a[1]) / 2.0
        })
        .sum();
    let quarter = PI / 4.0;
    Some((w / h, (area.abs() / (w * h) - quarter) / (1.0 - quarter)))
}

/// Convex hull, anticlockwise (Andrew 1979, monotone chain).
fn convex_hull(mut points: Vec<[f64; 2]>) -> Vec<[f64; 2]> {
    points.sort_by(|a, b| a[0].total_cmp(&b[0]).then(a[1].total_cmp(&b[1])));
    let chain = |list: &mut dyn Iterator<Item = &[f64; 2]>| {
        let mut out: Vec<[f64; 2]> = Vec::new();
        for p in list {
            while out.len() > 1 {
                let (a, b) = (out[out.len() - 2], out[out.len() - 1]);
                if (b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0]) > 0.0 {
                    break;
                }
                out.pop();
            }
            out.push(*p);
        }
        out.pop();
        out
    };
    let mut lower = chain(&mut points.iter());
    lower.extend(chain(&mut points.iter().rev()));
    lower
}

/// `n` directions spread evenly over the sphere (spherical Fibonacci lattice).
pub fn fibonacci_sphere(n: usize) -> Vec<Vec3> {
    let golden = PI * (3.0 - 5f64.sqrt());
    (0..n)
        .map(|i| {
            let y = 1.0 - 2.0 * (i as f64 + 0.5) / n as f64;
            let r = (1.0 - y * y).max(0.0).sqrt();
            let (s, c) = (golden * i as f64).sin_cos();
            Vec3::new(r * c, y, r * s)
        })
        .collect()
}

/// The mirror image direction: light that reaches the viewer `v` off a mirror with normal `n`
/// came from `2 (n.v) n - v`. All unit vectors pointing away from the surface.
pub fn reflect(v: &Vec3, n: &Vec3) -> Vec3 {
    2.0 * n.dot(v) * n - v
}

/// A pinhole camera with the principal point in the middle of the picture.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Camera {
    /// Focal length in pixels.
    pub focal_px: f64,
    /// Principal point, pixels.
    pub centre: [f64; 2],
    /// Downward tilt of the lens axis in radians (positive looks down).
    pub pitch: f64,
}

impl Camera {
    /// From the vertical field of view in degrees.
    pub fn from_vfov(width: u32, height: u32, vfov_deg: f64, pitch_deg: f64) -> Self {
        let half = (vfov_deg.to_radians() / 2.0).tan();
        Camera {
            focal_px: f64::from(height) / 2.0 / half,
            centre: [f64::from(width) / 2.0, f64::from(height) / 2.0],
            pitch: pitch_deg.to_radians(),
        }
    }

    /// Level and so far away that all view rays are parallel; used when nothing is known.
    pub fn far(width: u32, height: u32) -> Self {
        Camera {
            focal_px: 1e4 * f64::from(width.max(height)),
            centre: [f64::from(width) / 2.0, f64::from(height) / 2.0],
            pitch: 0.0,
        }
    }

    /// Unit vector from the scene towards the camera along the ray through pixel `(x, y)`.
    pub fn view(&self, x: f64, y: f64) -> Vec3 {
        Vec3::new(-(x - self.centre[0]) / self.focal_px, (y - self.centre[1]) / self.focal_px, 1.0).normalize()
    }

    /// Set frame (level, +y up) to camera frame: the inverse of [`Camera::to_set`].
    pub fn from_set(&self, v: &Vec3) -> Vec3 {
        Camera { pitch: -self.pitch, ..*self }.to_set(v)
    }

    /// Camera frame to set frame (level, +y up): undoes the pitch.
    pub fn to_set(&self, v: &Vec3) -> Vec3 {
        let (s, c) = self.pitch.sin_cos();
        Matrix3::new(1.0, 0.0, 0.0, 0.0, c, s, 0.0, -s, c) * v
    }
}

/// A sphere seen by a [`Camera`], scaled so that its centre is one unit away.
///
/// The marked circle is taken as the silhouette: its radius in pixels is `f tan(theta)` with
/// `sin(theta) = R / D` on the axis.
#[derive(Debug, Clone, Copy)]
pub struct SeenSphere {
    centre: Vec3,
    radius: f64,
    camera: Camera,
}

impl SeenSphere {
    /// From the silhouette circle in pixels.
    pub fn from_silhouette(camera: Camera, centre_px: [f64; 2], radius_px: f64) -> Self {
        let axis = -camera.view(centre_px[0], centre_px[1]);
        // Off the axis a pixel spans less angle: cos^2 radially and cos across; take the mean.
        let cos = -axis.z;
        let per_px = cos.powf(1.5) / camera.focal_px;
        let theta = (radius_px * per_px).atan();
        SeenSphere { centre: axis, radius: theta.sin(), camera }
    }

    /// From the image of the centre and the radius in pixels at the centre's depth, for spheres
    /// whose silhouette is hidden (the cornea behind its limbus). `centre` is the direction from
    /// the camera to the sphere's centre; `radius` is in units of the distance to it.
    pub fn from_centre(camera: Camera, centre: Vec3, radius: f64) -> Self {
        let d = centre.norm();
        SeenSphere { centre: centre / d, radius: radius / d, camera }
    }

    /// Unit normal at the pixel and the unit vector to the camera, or `None` outside.
    pub fn normal_and_view(&self, x: f64, y: f64) -> Option<(Vec3, Vec3)> {
        let v = self.camera.view(x, y);
        let d = -v;
        let b = d.dot(&self.centre);
        // c = |centre|^2 - r^2 with |centre| = 1
        let disc = b * b - (1.0 - self.radius * self.radius);
        if disc < 0.0 {
            return None;
        }
        let t = b - disc.sqrt();
        Some(((d * t - self.centre) / self.radius, v)).map(|(n, v)| (n.normalize(), v))
    }

    /// Pixel at which the surface point with the unit normal `n` is seen.
    pub fn pixel_of_normal(&self, n: &Vec3, camera: &Camera) -> (f64, f64) {
        let p = self.centre + n * self.radius;
        let k = camera.focal_px / -p.z;
        (camera.centre[0] + p.x * k, camera.centre[1] - p.y * k)
    }

    /// Direction that is mirrored to the camera at a pixel, or `None` outside the sphere.
    pub fn mirrored(&self, x: f64, y: f64) -> Option<Vec3> {
        self.normal_and_view(x, y).map(|(n, v)| reflect(&v, &n))
    }

    /// Solid angle in steradian of the mirrored directions inside the pixel with its corner at
    /// `(x, y)`: the area of the spherical quadrilateral of its mirrored corners.
    pub fn mirrored_solid_angle(&self, x: f64, y: f64) -> f64 {
        let h = 0.5;
        let (cx, cy) = (x + h, y + h);
        let get = |dx: f64, dy: f64| self.mirrored(cx + dx, cy + dy);
        // central differences of the mirrored direction; one-sided at the rim
        let d = |ax: f64, ay: f64| match (get(ax, ay), get(-ax, -ay), get(0.0, 0.0)) {
            (Some(p), Some(m), _) => Some(p - m),
            (Some(p), None, Some(c)) => Some(2.0 * (p - c)),
            (None, Some(m), Some(c)) => Some(2.0 * (c - m)),
            _ => None,
        };
        match (d(h, 0.0), d(0.0, h)) {
            (Some(u), Some(w)) => u.cross(&w).norm(),
            _ => 0.0,
        }
    }
}

/// How lists of just so many numbers are described to those who read the API.
macro_rules! numbers {
    ($($(#[$doc:meta])* $name:ident: $n:literal;)+) => {$(
        $(#[$doc])*
        pub struct $name;

        impl utoipa::PartialSchema for $name {
            fn schema() -> utoipa::openapi::RefOr<utoipa::openapi::Schema> {
                use utoipa::openapi::schema::{ArrayBuilder, ObjectBuilder, Type};
                let number = ObjectBuilder::new().schema_type(Type::Number);
                ArrayBuilder::new().items(number).min_items(Some($n)).max_items(Some($n)).into()
            }
        }

        impl utoipa::ToSchema for $name {}
    )+};
}

numbers! {
    /// Two numbers: a point of a picture, a range, a width and a height.
    Pair: 2;
    /// Three numbers: a place, a colour.
    Triple: 3;
}
