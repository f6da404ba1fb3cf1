//! How one light differs by the marks that see it in both pictures.

use direction::fusion::inverse_variance;
use evidence::readings::{Light, Readings, Sighting};
use optics::geometry::{angle_between, wrapped_deg};

/// How one light went, by the marks that see it in both pictures, each against itself: what a mark has wrong, and where it
/// stands, is the same in both.
pub(super) struct ByMarks {
    /// Degrees round and up, with one standard deviation.
    pub way: (f64, f64, f64),
    /// Log of the ratio of sizes, with one standard deviation.
    pub size: Option<(f64, f64)>,
}

/// Marks that see a light may have it this far from where all have it, radians.
const NEAR_FUSED: f64 = 0.5;

pub(super) fn by_marks(a: &Readings, b: &Readings, p: &Light, q: &Light) -> Option<ByMarks> {
    let nearest = |r: &Readings, id: &str, l: &Light| -> Option<Sighting> {
        let m = r.by_mark.get(id)?;
        let dir = l.at().vector();
        let off = |s: &Sighting| angle_between(&s.at().vector(), &dir);
        let all = m.lights.iter().chain(m.catchlights.iter().flatten());
        all.filter(|s| off(s) < NEAR_FUSED).min_by(|x, y| off(x).total_cmp(&off(y))).cloned()
    };
    let (mut az, mut el, mut sizes) = (Vec::new(), Vec::new(), Vec::new());
    for id in p.evidence.iter().filter(|id| q.evidence.contains(id)) {
        let (Some(s), Some(t)) = (nearest(a, id, p), nearest(b, id, q)) else { continue };
        // half of what a mark says it may be off by is the same twice
        let sd = s.direction_sd_deg.hypot(t.direction_sd_deg) / 2.0 + 0.3;
        az.push((wrapped_deg(t.azimuth_deg - s.azimuth_deg), sd));
        el.push((t.elevation_deg - s.elevation_deg, sd));
        let range = |s: &Sighting| s.angular_size_range_deg.map(|[lo, hi]| (hi / lo.max(0.01)).ln() / 2.0);
        if let (Some(x), Some(y), Some(m), Some(n)) = (s.angular_size_deg, t.angular_size_deg, range(&s), range(&t)) {
            sizes.push(((y / x).ln(), (m.hypot(n) / 2.0).max(0.05)));
        }
    }
    let ((az, sd), (el, sd2)) = (inverse_variance(az.into_iter())?, inverse_variance(el.into_iter())?);
    Some(ByMarks {
        way: (az, el, sd.max(sd2)),
        size: inverse_variance(sizes.into_iter()).map(|(v, sd)| (v, sd.max(0.05))),
    })
}
