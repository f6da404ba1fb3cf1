//! Depth of field of a thin lens.

/// Hyperfocal distance `f^2 / (N c) + f`: focal length and circle of confusion in metres (Ray, Applied
/// Photographic Optics; from memory).
pub fn hyperfocal_m(f: f64, n: f64, c: f64) -> f64 {
    f * f / (n * c) + f
}

/// Near and far limit of what is sharp, metres, for a lens of focal length `f` focused at `s`, aperture `n` and
/// circle of confusion `c` (metres): `s (H - f) / (H ± (s - ...))`; the far one may be infinite.
pub fn sharp_limits(f: f64, n: f64, c: f64, s: f64) -> (f64, f64) {
    let h = hyperfocal_m(f, n, c);
    let near = s * (h - f) / (h + s - 2.0 * f);
    (near, if s < h { s * (h - f) / (h - s) } else { f64::INFINITY })
}
