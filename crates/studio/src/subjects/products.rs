//! Props and products: bottle, can, tin, shoe, fork, drape, wedge.

use super::shapes::{below, carve, ellipsoid, join, limb, p3, rounded_box};
use crate::math::{Rgb, V, v};
use crate::mesh::{Mesh, Paint, from_distance, turned};
use lightset::set::{
    BOTTLE_RADIUS_M, CAN_RADIUS_M, LID_EDGE_M, LID_HALF_M, LID_UP_M, SubjectKind, TIN_EDGE_M, TIN_HALF_M, outline,
    smooth,
};
use std::f32::consts::PI;

/// Radius of the bottle's body.
const BODY: f32 = BOTTLE_RADIUS_M as f32;

/// Outline of the bottle from the middle of its foot to its lip.
pub(crate) fn bottle_profile() -> Vec<(f32, f32)> {
    outline(SubjectKind::Bottle).unwrap_or_default().into_iter().map(|(r, h)| (r as f32, h as f32)).collect()
}

/// A smooth curve through profile points.
fn smoothed(points: &[(f32, f32)], per: usize) -> Vec<(f32, f32)> {
    let points: Vec<(f64, f64)> = points.iter().map(|(r, h)| (f64::from(*r), f64::from(*h))).collect();
    smooth(&points, per).into_iter().map(|(r, h)| (r as f32, h as f32)).collect()
}

/// Glass with liquid, without label and cap.
pub(crate) fn bottle_glass(rgb: Rgb) -> Mesh {
    turned(&bottle_profile(), 0.0, 2.0 * PI, 160, |_| Paint::gloss(rgb, 0.05))
}

/// Paper label round the front.
pub(crate) fn bottle_label() -> Mesh {
    let r = BODY + 0.0004;
    let rows: Vec<(f32, f32)> = (0..=150).map(|i| (r, -0.085 + 0.095 * i as f32 / 150.0)).collect();
    turned(&rows, -1.15, 1.15, 170, |p| {
        let (y, a) = (p.y + 0.0375, p.x.atan2(p.z));
        let frame = (y.abs() - 0.042).abs() < 0.0012 || (a.abs() - 1.02).abs() < 0.02;
        let moon = (a * BODY).hypot(y - 0.012) < 0.0125 && (a * BODY - 0.006).hypot(y - 0.016) > 0.0105;
        let lines = (-0.030..-0.006).contains(&y)
            && ((y + 0.03) / 0.008).fract() < 0.38
            && a.abs() < 0.62 - 0.25 * ((y * 900.0).sin().abs());
        if moon {
            Paint::matte([0.55, 0.30, 0.06])
        } else if frame || lines {
            Paint::matte([0.07, 0.07, 0.09])
        } else {
            Paint::matte([0.78, 0.75, 0.66])
        }
    })
}

/// Metal cap.
pub(crate) fn bottle_cap() -> Mesh {
    let profile = [(0.0148, 0.118), (0.0156, 0.1185), (0.0156, 0.1465), (0.0148, 0.150), (0.0, 0.150)];
    turned(&profile, 0.0, 2.0 * PI, 120, |_| Paint::metal([0.62, 0.48, 0.22], 0.22))
}

/// Drinks can.
pub(crate) fn can() -> Mesh {
    let r = CAN_RADIUS_M as f32;
    let mut profile = vec![(0.0, -0.058), (0.0235, -0.0605), (0.0255, -0.0595)];
    profile.extend(smoothed(&[(0.0275, -0.056), (0.0315, -0.0515), (r, -0.047)], 6));
    // rows fine enough for what is printed on it
    profile.extend((1..184).map(|i| (r, -0.047 + 0.0005 * i as f32)));
    profile.extend(smoothed(&[(r, 0.0455), (0.0318, 0.0505), (0.0285, 0.0550), (0.0270, 0.0575)], 6));
    profile.extend([(0.0275, 0.0605), (0.0262, 0.0605), (0.0252, 0.0565), (0.0, 0.0565)]);
    turned(&profile, 0.0, 2.0 * PI, 320, |p| {
        if p.y > 0.052 || p.y < -0.053 {
            return Paint::metal([0.78, 0.78, 0.79], 0.22);
        }
        let a = p.x.atan2(p.z);
        let wave = p.y - 0.012 * (a * 3.0).sin() - 0.004;
        if wave.abs() < 0.0035 || (wave - 0.014).abs() < 0.0015 {
            Paint { rgb: [0.80, 0.78, 0.70], rough: 0.16, metal: 0.15 }
        } else if wave > 0.0 {
            Paint { rgb: [0.05, 0.16, 0.24], rough: 0.16, metal: 0.35 }
        } else {
            Paint { rgb: [0.45, 0.09, 0.05], rough: 0.16, metal: 0.35 }
        }
    })
}

/// Tin box with a lid.
pub(crate) fn tin() -> Mesh {
    let distance = |p: &V| {
        let body = rounded_box(p, V::zeros(), v(TIN_HALF_M), TIN_EDGE_M as f32);
        let lid = rounded_box(p, p3(0.0, LID_UP_M as f32, 0.0), v(LID_HALF_M), LID_EDGE_M as f32);
        let boss = ellipsoid(p, p3(0.0, -0.010, 0.030), p3(0.042, 0.022, 0.0035));
        join(body.min(lid), boss, 0.004)
    };
    from_distance([-0.09, -0.06, -0.045], [0.09, 0.06, 0.045], 0.0012, distance, |p| {
        let boss = ((p.x / 0.042).powi(2) + ((p.y + 0.010) / 0.022).powi(2)).sqrt();
        if p.y > 0.0225 {
            Paint::metal([0.70, 0.62, 0.45], 0.28)
        } else if p.z > 0.0 && (boss - 0.96).abs() < 0.05 {
            Paint::metal([0.75, 0.68, 0.50], 0.25)
        } else {
            Paint { rgb: [0.07, 0.17, 0.15], rough: 0.20, metal: 0.25 }
        }
    })
}

/// Colour of a carton that says nothing else: grey board.
pub(crate) const BOARD: [f32; 3] = [0.40, 0.37, 0.33];
/// Roughness of its lacquer.
const LACQUER: f32 = 0.30;

/// A box of lacquered board, by half its width, height and depth.
pub(crate) fn carton(half: [f32; 3], rgb: [f32; 3]) -> Mesh {
    let (mut positions, mut normals, mut faces) = (Vec::new(), Vec::new(), Vec::new());
    for axis in 0..3 {
        for sign in [-1.0f32, 1.0] {
            let (u, v) = ((axis + 1) % 3, (axis + 2) % 3);
            let base = positions.len() as u32;
            for (a, b) in [(-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0)] {
                let mut p = V::zeros();
                (p[axis], p[u], p[v]) = (sign * half[axis], a * half[u], b * half[v]);
                positions.push(p);
                let mut n = V::zeros();
                n[axis] = sign;
                normals.push(n);
            }
            // counter-clockwise as seen from outside
            let turn = |i: u32, j: u32, k: u32| {
                if sign > 0.0 { [base + i, base + j, base + k] } else { [base + i, base + k, base + j] }
            };
            faces.extend([turn(0, 1, 2), turn(0, 2, 3)]);
        }
    }
    let paint = vec![Paint::gloss(rgb, LACQUER); positions.len()];
    Mesh::new(positions, normals, paint, faces)
}

/// A shoe-like form, toe to image left.
pub(crate) fn shoe() -> Mesh {
    let upper = |p: &V| {
        let toe = ellipsoid(p, p3(-0.082, -0.016, 0.0), p3(0.066, 0.038, 0.046));
        let vamp = limb(p, p3(-0.060, -0.005, 0.0), p3(0.050, 0.035, 0.0), 0.036, 0.036);
        let heel = ellipsoid(p, p3(0.085, 0.004, 0.0), p3(0.054, 0.055, 0.038));
        let ankle = limb(p, p3(0.080, 0.03, 0.0), p3(0.088, 0.062, 0.0), 0.041, 0.039);
        let body = join(join(toe, vamp, 0.05), join(heel, ankle, 0.03), 0.04);
        let opening = limb(p, p3(0.078, 0.040, 0.0), p3(0.090, 0.11, 0.0), 0.031, 0.036);
        let throat = limb(p, p3(0.000, 0.062, 0.0), p3(0.075, 0.085, 0.0), 0.009, 0.022);
        let flat = below(p, p3(0.0, -1.0, 0.0), 0.046);
        carve(carve(body, opening, 0.006), throat, 0.008).max(flat)
    };
    let sole = |p: &V| {
        let front = ellipsoid(&p3(p.x, 0.0, p.z), p3(-0.078, 0.0, 0.0), p3(0.078, 1.0, 0.052));
        let back = ellipsoid(&p3(p.x, 0.0, p.z), p3(0.080, 0.0, 0.0), p3(0.064, 1.0, 0.041));
        let waist = ellipsoid(&p3(p.x, 0.0, p.z), p3(0.0, 0.0, 0.0), p3(0.10, 1.0, 0.036));
        let plan = join(join(front, back, 0.03), waist, 0.03);
        let top = -0.044 + 0.012 * (p.x / 0.14).powi(2);
        let heel = if p.x > 0.035 { -0.068 } else { -0.060 };
        (plan * 0.8).max(p.y - top - 0.006).max(heel - p.y)
    };
    let laces = |p: &V| {
        (0..4)
            .map(|i| {
                let t = i as f32 / 3.0;
                let (x, y) = (-0.018 + 0.052 * t, 0.047 + 0.026 * t);
                let q = p3(p.x, p.y, p.z.abs());
                limb(&q, p3(x, y, 0.0), p3(x - 0.008, y - 0.012, 0.026), 0.0034, 0.0030)
            })
            .fold(f32::MAX, f32::min)
    };
    let distance = |p: &V| join(join(upper(p), sole(p), 0.003), laces(p), 0.002);
    from_distance([-0.17, -0.075, -0.065], [0.155, 0.115, 0.065], 0.0016, distance, |p| {
        let (u, s, l) = (upper(p), sole(p), laces(p));
        if l < u.min(s) - 0.0003 {
            Paint::matte([0.70, 0.66, 0.55])
        } else if s < u - 0.0003 {
            Paint::matte([0.62, 0.55, 0.42])
        } else if (ellipsoid(p, p3(-0.082, -0.016, 0.0), p3(0.066, 0.038, 0.046)) < 0.004 && p.x < -0.088)
            || ((p.x - 0.02).abs() < 0.004 && p.y < 0.04)
        {
            Paint::gloss([0.10, 0.045, 0.02], 0.30)
        } else {
            Paint::gloss([0.26, 0.11, 0.045], 0.34)
        }
    })
}

/// A fork lying along x, tines to image left.
pub(crate) fn fork() -> Mesh {
    let distance = |p: &V| {
        // the height of its spine along its length
        let bend =
            0.010 * ((p.x + 0.045) / 0.05).clamp(-1.2, 1.0).powi(2) + 0.006 * ((p.x - 0.02) / 0.07).clamp(0.0, 1.0);
        let q = p3(p.x, p.y - bend, p.z);
        let handle = {
            let t = ((q.x - 0.0) / 0.095).clamp(0.0, 1.0);
            rounded_box(&q, p3(0.045, 0.0, 0.0), p3(0.050, 0.0016, 0.0042 + 0.0055 * t * t), 0.0014)
        };
        let palm = ellipsoid(&q, p3(-0.026, 0.0, 0.0), p3(0.030, 0.0017, 0.0125));
        let tines = [-0.0096f32, -0.0032, 0.0032, 0.0096]
            .iter()
            .map(|z| limb(&q, p3(-0.040, 0.0, *z), p3(-0.094, 0.0, *z * 0.94), 0.0015, 0.0009))
            .fold(f32::MAX, f32::min);
        join(join(handle, palm, 0.010), tines, 0.003) * 0.7
    };
    from_distance([-0.10, -0.008, -0.018], [0.10, 0.03, 0.018], 0.0006, distance, |_| {
        Paint::metal([0.76, 0.75, 0.72], 0.16)
    })
}

/// Cloth in folds in the plane z = 0, hanging from y = 0.7 to -0.7.
pub(crate) fn drape(rgb: Rgb) -> Mesh {
    let (nx, ny) = (240u32, 90u32);
    let depth = |x: f32, y: f32| {
        let fall = 0.6 + 0.4 * (0.7 - y) / 1.4;
        let wander = 0.05 * (y * 2.1).sin();
        let s = x + wander;
        fall * (0.030 * (s * 27.0).sin() + 0.016 * (s * 51.0 + 1.3 + y).sin() + 0.006 * (s * 11.0 - y * 2.0).cos())
    };
    let (mut positions, mut normals, mut paint, mut faces) = (Vec::new(), Vec::new(), Vec::new(), Vec::new());
    for j in 0..=ny {
        for i in 0..=nx {
            let (x, y) = (-0.6 + 1.2 * i as f32 / nx as f32, -0.7 + 1.4 * j as f32 / ny as f32);
            positions.push(p3(x, y, depth(x, y)));
            let e = 1e-3;
            let n = p3(
                -(depth(x + e, y) - depth(x - e, y)) / (2.0 * e),
                -(depth(x, y + e) - depth(x, y - e)) / (2.0 * e),
                1.0,
            );
            normals.push(n.normalize());
            paint.push(Paint::matte(rgb));
        }
    }
    for j in 0..ny {
        for i in 0..nx {
            let a = j * (nx + 1) + i;
            let b = a + nx + 1;
            faces.push([a, a + 1, b + 1]);
            faces.push([a, b + 1, b]);
        }
    }
    Mesh::new(positions, normals, paint, faces)
}

/// Reflectances of the wedge, from image left.
pub(crate) const WEDGE: [f64; 8] = [0.90, 0.636, 0.45, 0.3182, 0.225, 0.159, 0.1125, 0.0795];

/// Step wedge in the plane z = 0.
pub(crate) fn wedge() -> Mesh {
    let (mut positions, mut normals, mut paint, mut faces) = (Vec::new(), Vec::new(), Vec::new(), Vec::new());
    for (i, r) in WEDGE.iter().enumerate() {
        let x = -0.16 + 0.04 * i as f32;
        let base = positions.len() as u32;
        for (dx, y) in [(0.0, -0.03), (0.04, -0.03), (0.04, 0.03), (0.0, 0.03)] {
            positions.push(p3(x + dx, y, 0.0));
            normals.push(V::z());
            paint.push(Paint::matte([*r as f32; 3]));
        }
        faces.push([base, base + 1, base + 2]);
        faces.push([base, base + 2, base + 3]);
    }
    Mesh::new(positions, normals, paint, faces)
}
