//! Two carved puppet heads that differ in every proportion, with glass eyes.

use super::shapes::{ball, below, carve, ellipsoid, join, limb, p3};
use crate::math::{Rgb, V};
use crate::mesh::{Mesh, Paint, from_distance};
use direction::eye::{CORNEA_RADIUS_MM, LIMBUS_RADIUS_MM};

/// Half the distance between the eyes in metres.
pub(crate) const EYE_SIDE: f32 = 0.034;
/// Glass eyes are half as large again as in life.
pub(crate) const EYE_SCALE: f32 = 1.5e-3;
/// Radius of the eyeball in millimetres of life size.
pub(crate) const EYEBALL_MM: f32 = 12.0;

/// Proportions of one head.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Carving {
    width: f32,
    cheek: f32,
    nose_tip: f32,
    nose_drop: f32,
    nose_round: f32,
    brow: f32,
    chin: f32,
    jaw: f32,
    mouth: f32,
    capped: bool,
    face: Rgb,
    lips: Rgb,
    hair: Rgb,
    coat: Rgb,
}

/// Long face, long nose, cap.
pub(crate) const LONG: Carving = Carving {
    width: 0.94,
    cheek: 0.95,
    nose_tip: 0.040,
    nose_drop: 0.050,
    nose_round: 0.0105,
    brow: 0.0150,
    chin: 0.024,
    jaw: 0.90,
    mouth: 0.020,
    capped: true,
    face: [0.50, 0.33, 0.21],
    lips: [0.38, 0.13, 0.09],
    hair: [0.06, 0.09, 0.14],
    coat: [0.09, 0.10, 0.14],
};

/// Broad round face, button nose, carved hair.
pub(crate) const ROUND: Carving = Carving {
    width: 1.14,
    cheek: 1.22,
    nose_tip: 0.024,
    nose_drop: 0.036,
    nose_round: 0.0145,
    brow: 0.0100,
    chin: 0.019,
    jaw: 1.12,
    mouth: 0.026,
    capped: false,
    face: [0.62, 0.46, 0.35],
    lips: [0.46, 0.15, 0.13],
    hair: [0.16, 0.07, 0.035],
    coat: [0.24, 0.06, 0.07],
};

/// Landmarks in the head's own frame, as a careful person would mark them.
pub(crate) fn landmarks(c: &Carving) -> Vec<(&'static str, V)> {
    let skin = |p: &V| {
        let [f, l, _] = parts(c, p);
        f.min(l)
    };
    let tip = -c.nose_drop - 0.002;
    let mut out =
        landmarks_of(&skin, p3(EYE_SIDE, 0.0, 0.0), tip, tip - c.nose_round, p3(c.mouth, -0.082, 0.0), -0.095);
    let eye = |side: f32| eyeball(side) + p3(0.0, 0.0, EYEBALL_MM * EYE_SCALE);
    out[0].1 = eye(-1.0);
    out[1].1 = eye(1.0);
    out
}

/// Landmarks on a head given by its distance: eyes and mouth corners lie straight before the points
/// given, the nose's tip is the foremost point near a height, the chin is where the surface turns
/// under below a height.
pub(crate) fn landmarks_of(
    skin: &dyn Fn(&V) -> f32,
    eye: V,
    tip_y: f32,
    base_y: f32,
    mouth: V,
    chin_from: f32,
) -> Vec<(&'static str, V)> {
    // first meeting of a line towards -z with the skin
    let front = |x: f32, y: f32| {
        let mut z = 0.09f32;
        for _ in 0..400 {
            let d = skin(&p3(x, y, z));
            if d < 1e-4 || z < -0.14 {
                break;
            }
            z -= 0.6 * d;
        }
        p3(x, y, z)
    };
    let foremost = (0..40).map(|i| front(0.0, tip_y - 0.010 + 0.0005 * i as f32)).max_by(|a, b| a.z.total_cmp(&b.z));
    // where the surface looks half down
    let turned: Vec<V> = (0..120).map(|i| front(0.0, chin_from - 0.0004 * i as f32)).collect();
    let chin = turned.windows(3).find(|w| w[0].z - w[2].z > w[0].y - w[2].y).map_or(turned[60], |w| w[1]);
    vec![
        ("eye_image_left", front(-eye.x, eye.y)),
        ("eye_image_right", front(eye.x, eye.y)),
        ("nose_tip", foremost.unwrap_or_default()),
        ("nose_base", front(0.0, base_y)),
        ("mouth_image_left", front(-mouth.x, mouth.y)),
        ("mouth_image_right", front(mouth.x, mouth.y)),
        ("chin", chin),
    ]
}

/// Centre of an eyeball; `side` is -1 for image left.
pub(crate) fn eyeball(side: f32) -> V {
    p3(side * EYE_SIDE, 0.0, -0.010)
}

/// Distances from an eyeball's centre along the gaze to the limbus and to the cornea's centre; `scale` is metres per
/// millimetre of a usual eye.
pub(crate) fn eye_depths(scale: f32) -> (f32, f32) {
    let (ball, limbus, cornea) = (EYEBALL_MM, LIMBUS_RADIUS_MM as f32, CORNEA_RADIUS_MM as f32);
    let to_limbus = (ball * ball - limbus * limbus).sqrt() * scale;
    (to_limbus, to_limbus - (cornea * cornea - limbus * limbus).sqrt() * scale)
}

/// Distances to the parts that are painted differently: face, lips, hair or cap.
fn parts(c: &Carving, p: &V) -> [f32; 3] {
    let w = c.width;
    let neck = limb(p, p3(0.0, -0.10, -0.085), p3(0.0, -0.25, -0.098), 0.046 * w, 0.052 * w);
    if p.y < -0.20 {
        // nothing of the face reaches down here
        return [neck, 0.1, 0.1];
    }
    // left and right are alike
    let q = p3(p.x.abs(), p.y, p.z);
    let mut f = ellipsoid(p, p3(0.0, 0.036, -0.098), p3(0.078 * w, 0.098, 0.096));
    f = join(f, ellipsoid(p, p3(0.0, -0.034, -0.066), p3(0.063 * w, 0.088, 0.066)), 0.03);
    f = join(f, ellipsoid(p, p3(0.0, -0.084, -0.056), p3(0.047 * w * c.jaw, 0.040, 0.052)), 0.03);
    f = join(f, ball(p, p3(0.0, -0.112, -0.016), c.chin), 0.025);
    f = join(f, ellipsoid(&q, p3(0.044 * w, -0.034, -0.030), p3(0.025, 0.024, 0.024) * c.cheek), 0.028);
    // brow, in two arcs
    f = join(f, limb(&q, p3(0.008, 0.026, -0.007), p3(0.050 * w, 0.024, -0.026), c.brow, 0.009), 0.014);
    // sockets
    f = carve(f, ellipsoid(&q, p3(EYE_SIDE, 0.000, 0.012), p3(0.021, 0.0145, 0.020)), 0.012);
    // nose: bridge, tip, wings, nostrils
    let tip = p3(0.0, -c.nose_drop, c.nose_tip);
    let nose = limb(p, p3(0.0, 0.012, -0.006), tip, 0.008, c.nose_round);
    let wing = ball(&q, p3(0.0115, -c.nose_drop - 0.003, c.nose_tip * 0.35), 0.0088);
    let nose = join(nose, wing, 0.012);
    let nose = carve(nose, ball(&q, p3(0.0058, -c.nose_drop - 0.0115, c.nose_tip * 0.52), 0.0036), 0.004);
    f = join(f, nose, 0.013);
    // groove above the mouth, mouth corners
    f = carve(f, limb(p, p3(0.0, -0.062, 0.005), p3(0.0, -0.072, 0.008), 0.0032, 0.0036), 0.006);
    f = carve(f, ball(&q, p3(c.mouth + 0.005, -0.0815, 0.001), 0.0040), 0.008);
    // ears, neck
    f = join(f, ellipsoid(&q, p3(0.078 * w, -0.010, -0.098), p3(0.010, 0.032, 0.021)), 0.008);
    f = carve(f, ellipsoid(&q, p3(0.088 * w, -0.008, -0.094), p3(0.006, 0.020, 0.011)), 0.006);
    f = join(f, neck, 0.03);
    // lids: a shell round the eyeball, open between two planes
    let r = EYEBALL_MM * EYE_SCALE;
    let e = q - eyeball(1.0);
    let shell = e.norm() - r - 0.0022;
    let upper = shell.max(-below(&e, p3(0.0, 0.946, -0.323), 0.13 * r));
    let lower = shell.max(-below(&e, p3(0.0, -0.949, -0.316), 0.26 * r));
    f = join(f, upper, 0.004);
    f = join(f, lower, 0.004);
    let lip_up = limb(&q, p3(0.004, -0.0775, 0.0095), p3(c.mouth, -0.0815, 0.0025), 0.0052, 0.0030);
    let lip_low = limb(&q, p3(0.0, -0.0875, 0.0085), p3(c.mouth, -0.0825, 0.0025), 0.0066, 0.0030);
    let lips = join(lip_up, lip_low, 0.0022);
    let hair = if c.capped {
        let cap = ellipsoid(p, p3(0.0, 0.050, -0.100), p3(0.086 * w, 0.104, 0.105));
        let cap = cap.max(-below(p, p3(0.0, 0.92, -0.39), 0.078));
        let rim = ellipsoid(p, p3(0.0, 0.052, -0.100), p3(0.092 * w, 0.108, 0.111));
        let band = rim.max((p.y * 0.92 - p.z * 0.39 - 0.090).abs() - 0.013);
        let peak = ellipsoid(p, p3(0.0, 0.062, -0.010), p3(0.060 * w, 0.0065, 0.044));
        join(join(cap, band, 0.006), peak, 0.008)
    } else {
        let grooves = 0.0016 * (p.x.atan2(0.055 - p.y + 0.1) * 70.0 + (p.y * 55.0).sin() * 0.8).sin();
        let mane = ellipsoid(p, p3(0.0, 0.036, -0.108), p3(0.093 * w, 0.110, 0.106));
        let open = ellipsoid(p, p3(0.0, -0.052, 0.004), p3(0.068 * w, 0.110, 0.078));
        let bun = ball(p, p3(0.0, 0.150, -0.125), 0.036);
        join(carve(mane, open, 0.016), bun, 0.012) + grooves
    };
    [f, lips, hair]
}

/// Shoulders, chest and collar.
fn coat(c: &Carving, p: &V) -> f32 {
    let shoulders = ellipsoid(p, p3(0.0, -0.285, -0.112), p3(0.198, 0.100, 0.098));
    let chest = ellipsoid(p, p3(0.0, -0.42, -0.105), p3(0.17, 0.17, 0.11));
    let q = p - p3(0.0, -0.182, -0.094);
    let ring = (q.x.hypot(q.z + q.y * 0.3) - 0.066 * c.width).hypot(q.y * 0.85) - 0.014;
    let gap = below(&p3(p.x.abs(), p.y, p.z), p3(1.0, 0.35, 0.0), -0.075).max(-p.z - 0.05);
    join(join(shoulders, chest, 0.06), carve(ring, gap, 0.01), 0.010)
}

/// Shoulders and collar as a mesh.
pub(crate) fn coat_mesh(c: &Carving) -> Mesh {
    coat_mesh_at(c, 0.0045)
}

/// The same with cells of another size.
pub(crate) fn coat_mesh_at(c: &Carving, step: f32) -> Mesh {
    let (distance, paint) = (|p: &V| coat(c, p), |_: &V| Paint::matte(c.coat));
    from_distance([-0.23, -0.52, -0.235], [0.23, -0.12, 0.04], step, distance, paint)
}

/// The head as a mesh; `step` is the size of its cells in metres.
pub(crate) fn mesh(c: &Carving, colour: Option<Rgb>, step: f32) -> Mesh {
    let face = colour.unwrap_or(c.face);
    let distance = |p: &V| {
        let [f, l, h] = parts(c, p);
        join(f, l, 0.003).min(h)
    };
    let paint = |p: &V| {
        let [f, l, h] = parts(c, p);
        if h <= f.min(l) + 1e-4 {
            if c.capped { Paint::matte(c.hair) } else { Paint::gloss(c.hair, 0.38) }
        } else if l <= f - 0.0004 {
            Paint::gloss(c.lips, 0.42)
        } else {
            // painted brows, a little red on the cheeks, a darker jaw on the long face
            let q = p3(p.x.abs(), p.y, p.z);
            let brow = limb(&q, p3(0.013, 0.0275, 0.006), p3(0.050 * c.width, 0.029, -0.014), 0.0052, 0.0026);
            let k = (brow / 0.003).clamp(0.0, 1.0);
            let blush = 0.5 * (-((q - p3(0.045 * c.width, -0.040, -0.005)).norm() / 0.022).powi(2)).exp();
            let jaw = if c.capped {
                0.30 * ((-0.055 - p.y) / 0.03).clamp(0.0, 1.0) * ((p.y + 0.16) / 0.03).clamp(0.0, 1.0)
            } else {
                0.0
            };
            let rgb = [
                face[0] * (1.0 - jaw) * (0.3 + 0.7 * k),
                face[1] * (1.0 - jaw) * (1.0 - 0.35 * blush) * (0.3 + 0.7 * k),
                face[2] * (1.0 - jaw * 0.9) * (1.0 - 0.40 * blush) * (0.3 + 0.7 * k),
            ];
            Paint::gloss(rgb, 0.46)
        }
    };
    from_distance([-0.12, -0.27, -0.235], [0.12, 0.20, 0.075], step, distance, paint)
}
