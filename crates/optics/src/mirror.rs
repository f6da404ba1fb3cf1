//! How much a clear surface mirrors.

/// Index of glass and lacquer, and of acrylic (handbooks).
pub const GLASS: f64 = 1.5;
/// Acrylic.
pub const ACRYLIC: f64 = 1.49;

/// Part of the light that a surface of an index mirrors at the cosine of incidence (Schlick 1994, over Fresnel's straight on).
pub fn mirrored_part(cos: f64, index: f64) -> f64 {
    let straight = ((index - 1.0) / (index + 1.0)).powi(2);
    straight + (1.0 - straight) * (1.0 - cos.clamp(0.0, 1.0)).powi(5)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Fresnel's equations for unpolarised light, by both polarisations.
    fn fresnel(cos: f64, n: f64) -> f64 {
        let inner = (1.0 - (1.0 - cos * cos) / (n * n)).sqrt();
        let s = ((cos - n * inner) / (cos + n * inner)).powi(2);
        let p = ((inner - n * cos) / (inner + n * cos)).powi(2);
        f64::midpoint(s, p)
    }

    #[test]
    fn it_follows_fresnel() {
        for n in [1.33, 1.376, ACRYLIC, GLASS] {
            for cos in [1.0, 0.9, 0.7, 0.5, 0.3, 0.1, 0.0] {
                let off = mirrored_part(cos, n) - fresnel(cos, n);
                // it is off most near grazing, by up to six hundredths there
                assert!(off.abs() < if cos < 0.2 { 0.07 } else { 0.03 }, "{off} at {cos}, index {n}");
            }
            assert!((mirrored_part(1.0, n) - fresnel(1.0, n)).abs() < 1e-12);
        }
        // glass straight on: four per cent (handbooks)
        assert!((mirrored_part(1.0, GLASS) - 0.04).abs() < 1e-12);
    }
}
