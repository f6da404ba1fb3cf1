//! Vectors, sampling sequences and small helpers of the tracer, in single precision.

use nalgebra::{Matrix3, Vector3};

/// A vector of the tracer, metres in the set frame.
pub(crate) type V = Vector3<f32>;
/// Linear RGB.
pub(crate) type Rgb = [f32; 3];

pub(crate) const PI: f32 = std::f32::consts::PI;

pub(crate) fn v(p: [f64; 3]) -> V {
    V::new(p[0] as f32, p[1] as f32, p[2] as f32)
}

pub(crate) fn add(a: &mut Rgb, b: Rgb, k: f32) {
    a[0] += b[0] * k;
    a[1] += b[1] * k;
    a[2] += b[2] * k;
}

pub(crate) fn mul(a: Rgb, b: Rgb) -> Rgb {
    [a[0] * b[0], a[1] * b[1], a[2] * b[2]]
}

pub(crate) fn scaled(a: Rgb, k: f32) -> Rgb {
    [a[0] * k, a[1] * k, a[2] * k]
}

/// Two unit tangents (Duff et al. 2017).
pub(crate) fn tangents(n: &V) -> (V, V) {
    let s = if n.z >= 0.0 { 1.0 } else { -1.0 };
    let a = -1.0 / (s + n.z);
    let b = n.x * n.y * a;
    (V::new(1.0 + s * n.x * n.x * a, s * b, -s * n.x), V::new(b, s + n.y * n.y * a, -n.y))
}

/// Tangents with the first level, so that boxes stand upright.
pub(crate) fn upright(n: &V) -> (V, V) {
    if n.y.abs() > 0.999 {
        let u = V::x();
        return (u, n.cross(&u).normalize());
    }
    let u = V::y().cross(n).normalize();
    (u, n.cross(&u))
}

/// Integer hash (Wellons' lowbias32, from memory).
pub(crate) fn hash(mut x: u32) -> u32 {
    x ^= x >> 16;
    x = x.wrapping_mul(0x7feb_352d);
    x ^= x >> 15;
    x = x.wrapping_mul(0x846c_a68b);
    x ^ (x >> 16)
}

/// Owen scrambling by hashing (Laine & Karras 2011, as in Burley 2020).
fn owen(x: u32, seed: u32) -> u32 {
    let mut x = x.reverse_bits();
    x = x.wrapping_add(seed);
    x ^= x.wrapping_mul(0x6c50_b47c);
    x ^= x.wrapping_mul(0xb82f_1e52);
    x ^= x.wrapping_mul(0xc7af_e638);
    x ^= x.wrapping_mul(0x8d22_f6e6);
    x.reverse_bits()
}

/// Points of one sequence; more passes than this repeat it.
const POINTS: usize = 1024;

/// Second dimension of Sobol's sequence; the first is the reversed bits of the index.
const SOBOL_SECOND: [u32; POINTS] = {
    let mut table = [0u32; POINTS];
    let mut n = 0;
    while n < POINTS {
        let (mut i, mut r, mut d) = (n, 0u32, 1u32 << 31);
        while i != 0 {
            if i & 1 == 1 {
                r ^= d;
            }
            d ^= d >> 1;
            i >>= 1;
        }
        table[n] = r;
        n += 1;
    }
    table
};

const UNIT: f32 = 1.0 / 16_777_216.0;

fn unit(x: u32) -> f32 {
    (x >> 8) as f32 * UNIT
}

/// The `i`-th point of a Sobol sequence in the unit square, its order shuffled after Owen and its
/// digits scrambled by the seed: any power of two of points is stratified in both directions.
pub(crate) fn point(i: u32, seed: u32) -> (f32, f32) {
    let h = hash(seed);
    let i = owen(i, h) & (POINTS as u32 - 1);
    let a = i.reverse_bits() ^ h.wrapping_mul(0x9e37_79b9);
    let b = SOBOL_SECOND[i as usize] ^ h.wrapping_mul(0x85eb_ca6b).rotate_left(13);
    (unit(a), unit(b))
}

/// Direction about `n` with density cosine over pi (Malley's method).
pub(crate) fn cosine_direction(n: &V, a: f32, b: f32) -> V {
    let (t, s) = tangents(n);
    let (sin, cos) = (2.0 * PI * b).sin_cos();
    let r = a.sqrt();
    t * (r * cos) + s * (r * sin) + n * (1.0 - a).max(0.0).sqrt()
}

/// Mirror direction of a ray direction `d` at a normal `n`.
pub(crate) fn mirrored(d: &V, n: &V) -> V {
    d - n * (2.0 * d.dot(n))
}

/// Share mirrored by a smooth dielectric of index `eta` (relative, from outside) at the cosine of
/// incidence: Fresnel's equations, unpolarised. 1 for total reflection.
pub(crate) fn fresnel(cos: f32, eta: f32) -> f32 {
    let c = cos.abs().min(1.0);
    let s2 = (1.0 - c * c) / (eta * eta);
    if s2 >= 1.0 {
        return 1.0;
    }
    let t = (1.0 - s2).sqrt();
    let rs = (c - eta * t) / (c + eta * t);
    let rp = (eta * c - t) / (eta * c + t);
    0.5 * (rs * rs + rp * rp)
}

/// Rotation of a subject: roll, then nod, then turn.
pub(crate) fn turn_of(yaw_deg: f64, pitch_deg: f64, roll_deg: f64) -> Matrix3<f32> {
    optics::geometry::turn(yaw_deg, pitch_deg, roll_deg).cast()
}
