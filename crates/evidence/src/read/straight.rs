//! How long straight lines of the picture lie.

use super::{Reader, round};
use crate::readings::{StraightReading, Tilt};
use optics::straight::Line;

/// A camera that looks up or down tips what stands on one side only by about so much, degrees.
const ONE_SIDED_SD_DEG: f64 = 1.5;

/// Share of the width from which a level line crosses the picture, and how aslant a shorter one may recede, degrees.
const CROSSES: f64 = 0.8;
const RECEDES_SD_DEG: f64 = 1.5;

/// Mean tilt of lines, each by its length, and its spread: their own, and by how far they disagree.
fn mean(lines: &[&Line]) -> Option<(f64, f64)> {
    let all: f64 = lines.iter().map(|l| l.share).sum();
    let mean = lines.iter().map(|l| l.share * l.tilt_deg).sum::<f64>() / all;
    let apart = lines.iter().map(|l| l.share * (l.tilt_deg - mean).powi(2)).sum::<f64>() / all;
    let own = lines.iter().map(|l| l.sd_deg).fold(f64::INFINITY, f64::min);
    mean.is_finite().then(|| (mean, own.hypot(apart.sqrt())))
}

fn lower(l: &Line) -> [f64; 2] {
    if l.tilt_deg > 0.0 { l.ends[1] } else { l.ends[0] }
}

impl Reader<'_> {
    pub(super) fn straight(&self) -> Option<StraightReading> {
        let s = self.photo.straight();
        let pixels = |p: [f64; 2]| p.map(|v| round(v, 1));
        // a horizon crosses the frame; what is shorter may be a side of a thing that recedes, or its shadow
        let width = f64::from(self.photo.width());
        let crosses = |l: &&Line| l.ends[1][0] - l.ends[0][0] > CROSSES * width;
        let (through, short): (Vec<&Line>, Vec<&Line>) = s.level.iter().partition(crosses);
        let more = if through.is_empty() { RECEDES_SD_DEG } else { 0.0 };
        let level = if through.is_empty() { short } else { through };
        let level = mean(&level).map(|(tilt, sd)| Tilt {
            tilt_deg: round(tilt, 2),
            tilt_sd_deg: round(sd.hypot(more), 2),
            at: pixels(lower(level[0])),
            lines: level.len(),
        });
        let middle = f64::from(self.photo.width()) / 2.0;
        let half = |right: bool| -> Vec<&Line> {
            s.upright.iter().filter(|l| (f64::midpoint(l.ends[0][0], l.ends[1][0]) > middle) == right).collect()
        };
        let (left, right) = (half(false), half(true));
        let sides = (mean(&left), mean(&right));
        let tilt = match sides {
            (Some(a), Some(b)) => Some(((a.0 + b.0) / 2.0, a.1.hypot(b.1) / 2.0)),
            (Some(a), None) | (None, Some(a)) => Some((a.0, a.1.hypot(ONE_SIDED_SD_DEG))),
            (None, None) => None,
        };
        let upright = tilt.zip(s.upright.first()).map(|((tilt, sd), longest)| Tilt {
            tilt_deg: round(tilt, 2),
            tilt_sd_deg: round(sd, 2),
            at: pixels(longest.ends[0]),
            lines: s.upright.len(),
        });
        let converging = if let (Some(a), Some(b)) = sides { Some((a.0 - b.0, a.1.hypot(b.1))) } else { None };
        (level.is_some() || upright.is_some()).then_some(StraightReading {
            level,
            upright,
            converging_deg: converging.map(|c| round(c.0, 2)),
            converging_sd_deg: converging.map(|c| round(c.1, 2)),
        })
    }
}
