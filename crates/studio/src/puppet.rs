//! Carved puppet heads with glass eyes, and ball probes.

use crate::body::{Body, Surface};
use crate::trace::View;
use light::direction::eye::{CORNEA_RADIUS_MM, LIMBUS_RADIUS_MM};
use light::geometry::Vec3;
use light::marks::Ellipse;

/// What makes one puppet differ from another. The heads are a little over life size.
#[derive(Debug, Clone, Copy)]
pub struct PuppetLook {
    /// Reflectance of the face.
    pub face: [f64; 3],
    /// Reflectance of hair or cap.
    pub cap: [f64; 3],
    /// Reflectance of the coat.
    pub coat: [f64; 3],
    /// Iris reflectance.
    pub iris: [f64; 3],
    /// Length of the nose in metres.
    pub nose: f64,
    /// Width of the head over its height.
    pub width: f64,
    /// Where the eyes look: azimuth and elevation in degrees.
    pub gaze: [f64; 2],
}

/// Half the distance between the eyes in metres.
const EYE_SIDE: f64 = 0.034;
/// Glass eyes are made twice life size.
const EYE_SCALE: f64 = 2.0e-3;
const EYEBALL_MM: f64 = 12.0;

fn eye_place(side: f64) -> Vec3 {
    Vec3::new(side * EYE_SIDE, 0.0, 0.0)
}

fn gaze_of(look: &PuppetLook) -> Vec3 {
    light::geometry::AzEl { azimuth_deg: look.gaze[0], elevation_deg: look.gaze[1] }.vector()
}

/// Centre of the cornea's sphere and of the limbus for one eye.
fn cornea(look: &PuppetLook, side: f64) -> (Vec3, Vec3) {
    let g = gaze_of(look);
    let to_limbus = (EYEBALL_MM * EYEBALL_MM - LIMBUS_RADIUS_MM * LIMBUS_RADIUS_MM).sqrt() * EYE_SCALE;
    let behind = (CORNEA_RADIUS_MM * CORNEA_RADIUS_MM - LIMBUS_RADIUS_MM * LIMBUS_RADIUS_MM).sqrt() * EYE_SCALE;
    let limbus = eye_place(side) + g * to_limbus;
    (limbus - g * behind, limbus)
}

/// A head with shoulders; the origin lies between the eyes.
pub fn puppet(look: &PuppetLook) -> Vec<Body> {
    let v = Vec3::new;
    let face = Surface::Wood(look.face, 0.05, 260.0);
    let w = look.width;
    let mut b = vec![
        // skull, cheeks, jaw, brow
        Body::new(v(0.0, 0.0, -0.105), v(0.112 * w, 0.145, 0.115), 0.0, face),
        Body::new(v(0.0, -0.075, -0.08), v(0.082 * w, 0.085, 0.092), 0.0, face),
        Body::new(v(0.0, 0.040, -0.062), v(0.085 * w, 0.020, 0.062), 0.0, face),
        Body::new(v(-0.050 * w, -0.050, -0.050), v(0.038, 0.040, 0.036), 0.3, face),
        Body::new(v(0.050 * w, -0.050, -0.050), v(0.038, 0.040, 0.036), -0.3, face),
        // nose: bridge and tip
        Body::new(v(0.0, -0.014, -0.004), v(0.011, 0.040, 0.020), 0.0, face),
        Body::new(v(0.0, -0.044, 0.006), v(0.018, 0.016, 0.014 + look.nose), 0.0, face),
        // lips and chin
        Body::new(v(0.0, -0.086, -0.003), v(0.032, 0.0065, 0.018), 0.0, Surface::Matte([0.42, 0.13, 0.10])),
        Body::new(v(0.0, -0.096, -0.003), v(0.026, 0.0075, 0.018), 0.0, Surface::Matte([0.42, 0.13, 0.10])),
        Body::new(v(0.0, -0.135, -0.035), v(0.036, 0.028, 0.038), 0.0, face),
        // ears, neck, shoulders
        Body::new(v(-0.113 * w, -0.015, -0.11), v(0.014, 0.036, 0.024), 0.1, face),
        Body::new(v(0.113 * w, -0.015, -0.11), v(0.014, 0.036, 0.024), -0.1, face),
        Body::new(v(0.0, -0.20, -0.115), v(0.052, 0.12, 0.052), 0.0, face),
        Body::new(v(0.0, -0.36, -0.13), v(0.235, 0.13, 0.12), 0.0, Surface::Matte(look.coat)),
        // cap: a shell over the skull, open at the face
        Body::new(v(0.0, 0.018, -0.112), v(0.120 * w, 0.148, 0.122), 0.0, Surface::Matte(look.cap))
            .cut(v(0.0, 1.0, -0.35), 0.062),
    ];
    let g = gaze_of(look);
    for side in [-1.0, 1.0] {
        let c = eye_place(side);
        let (cornea_c, _) = cornea(look, side);
        b.push(Body::sphere(c, EYEBALL_MM * EYE_SCALE, Surface::Lacquer([0.62, 0.60, 0.57])));
        b.push(Body::sphere(
            cornea_c,
            CORNEA_RADIUS_MM * EYE_SCALE,
            Surface::Cornea { iris: look.iris, gaze: g, pupil: 0.26 },
        ));
        // lids: a shell, cut open along two planes
        let shell = 13.6 * EYE_SCALE;
        b.push(Body::sphere(c, shell, face).cut(v(0.0, 0.88, -0.30), 3.0 * EYE_SCALE));
        b.push(Body::sphere(c, shell, face).cut(v(0.0, -0.9, -0.30), 4.4 * EYE_SCALE));
    }
    b
}

/// A ball probe.
pub fn ball(centre: Vec3, radius: f64, mirror: bool) -> Body {
    Body::sphere(centre, radius, if mirror { Surface::Mirror(0.9) } else { Surface::Matte([0.5; 3]) })
}

/// Where a point of the set falls in the picture, in pixels, and pixels per metre there.
pub fn project(view: &View, p: &Vec3) -> ([f64; 2], f64) {
    let f = f64::from(view.height) / 2.0 / (view.vfov_deg.to_radians() / 2.0).tan();
    let k = f / (view.distance - p.z);
    ([f64::from(view.width) / 2.0 + p.x * k, f64::from(view.height) / 2.0 - (p.y - view.rise) * k], k)
}

/// The limbus ellipse of the puppet's image-left (-1) or image-right (+1) eye, and the clock it
/// looks to if it is turned.
pub fn eye_marks(look: &PuppetLook, view: &View, side: f64) -> (Ellipse, Option<f64>) {
    let (_, limbus) = cornea(look, side);
    let (centre, k) = project(view, &limbus);
    let r = LIMBUS_RADIUS_MM * EYE_SCALE * k;
    let g = gaze_of(look);
    let cos = g.z.clamp(-1.0, 1.0);
    let angle = (-g.y).atan2(g.x).to_degrees() + 90.0;
    let e = Ellipse { centre, rx: r, ry: r * cos, angle_deg: if cos > 0.9999 { 0.0 } else { angle } };
    (e, (cos < 0.998).then(|| light::geometry::clock_of(g.x, g.y)))
}
