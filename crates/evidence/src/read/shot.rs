//! Several frames of one shot read together: one light, more evidence.

use super::degrees;
use super::together::light_of;
use crate::readings::{Light, Readings};
use direction::Seen;
use direction::fusion::{Evidence, Fused, fuse};

/// The lights of frames that see the same set from the same place, fused by inverse variance; a light's evidence
/// is the names of the frames. Lights that only one of three frames or more shows are left out: a passing
/// reflection. Spreads of frames are taken as independent, but no light gets closer than half its best frame's.
pub fn shot(frames: &[(String, &Readings)]) -> Vec<Light> {
    let mut evidence = Vec::new();
    for (name, r) in frames {
        for l in &r.lights {
            let at = l.at();
            let log_size = l
                .angular_size_deg
                .zip(l.angular_size_range_deg)
                .map(|(s, [lo, hi])| (s.to_radians().ln(), (0.5 * (hi / lo.max(0.1)).ln()).max(0.02)));
            let level = l
                .level_stops
                .zip(l.level_sd_stops)
                .map(|(v, sd)| (v * std::f64::consts::LN_2, sd.max(0.02) * std::f64::consts::LN_2));
            let seen = Seen {
                direction: at.vector(),
                direction_sd: l.direction_sd_deg.to_radians(),
                log_size,
                log_level: level,
                rgb: None,
            };
            evidence.push(Evidence {
                mark: name.clone(),
                seen,
                otherwise: None,
                relative_level: level,
                counts_lights: false,
                shows: false,
                place_m: None,
            });
        }
    }
    let best = |f: &Fused| {
        let of = |e: &&Evidence| f.marks.contains(&e.mark);
        evidence.iter().filter(of).map(|e| e.seen.direction_sd).fold(f64::MAX, f64::min)
    };
    let mut fused = fuse(evidence.clone());
    if frames.len() >= 3 {
        fused.retain(|f| f.marks.len() > 1);
    }
    let light = |(i, f): (usize, &Fused)| {
        let l = light_of(f, i == 0);
        Light { direction_sd_deg: l.direction_sd_deg.max(degrees(0.5 * best(f))), ..l }
    };
    fused.iter().enumerate().map(light).collect()
}
