//! The take over the reference in stops, point by point, after alignment.

use super::align::Alignment;
use optics::photo::Photo;
use optics::solve::median;

/// Longest side of the map in pixels.
const SIDE: f64 = 480.0;
/// Luminance under which noise and coding decide, share of white.
const DARK: f64 = 0.004;
/// A shift of one standard deviation may change a value by this many stops before it is left out.
const UNSURE_STOPS: f64 = 0.35;

/// A map of differences.
#[derive(Debug, Clone, PartialEq)]
pub struct DifferenceMap {
    /// Pixels.
    pub width: u32,
    /// Pixels.
    pub height: u32,
    /// Take over reference in stops, row by row; NaN where it cannot be told.
    pub stops: Vec<f32>,
    /// Median of what can be told: what exposure would take away.
    pub median_stops: f64,
    /// Share of the reference that can be told.
    pub told: f64,
}

/// Mean luminance of a block, and whether any of it is clipped; `None` if it leaves the picture.
fn block(p: &Photo, at: [f64; 2], half: f64) -> Option<(f64, bool)> {
    let n = if half < 0.75 { 1 } else { 3 };
    if at[0] - half < 0.0 || at[1] - half < 0.0 {
        return None;
    }
    if n == 1 {
        let s = p.get(at[0] as i64, at[1] as i64)?;
        // between pixels where the grid is as fine as they are
        return Some((p.luminance_between(at[0], at[1]).unwrap_or(s.luminance()), s.clipped));
    }
    let (mut sum, mut clipped) = (0.0, false);
    for a in 0..n {
        for b in 0..n {
            let off = |k: i32| half * (2.0 * (f64::from(k) + 0.5) / f64::from(n) - 1.0);
            let s = p.get((at[0] + off(a)) as i64, (at[1] + off(b)) as i64)?;
            sum += s.luminance();
            clipped |= s.clipped;
        }
    }
    Some((sum / f64::from(n * n), clipped))
}

impl DifferenceMap {
    /// The map with so many stops taken out: what is left is not exposure.
    pub fn without(&self, stops: f64) -> DifferenceMap {
        DifferenceMap { stops: self.stops.iter().map(|v| v - stops as f32).collect(), ..*self }
    }
}

/// Compares two pictures point by point.
pub fn difference(reference: &Photo, take: &Photo, a: &Alignment) -> DifferenceMap {
    let (rw, rh) = (f64::from(reference.width()), f64::from(reference.height()));
    let k = (rw.max(rh) / SIDE).max(1.0);
    let (w, h) = ((rw / k).floor().max(1.0) as usize, (rh / k).floor().max(1.0) as usize);
    let mut mine = vec![f32::NAN; w * h];
    let mut stops = vec![f32::NAN; w * h];
    for y in 0..h {
        for x in 0..w {
            let p = [(x as f64 + 0.5) * k, (y as f64 + 0.5) * k];
            let Some((lr, cr)) = block(reference, p, k / 2.0) else { continue };
            mine[y * w + x] = lr.max(DARK).log2() as f32;
            let local = a.local(p).0;
            let Some((lt, ct)) = block(take, a.point(p), k * local / 2.0) else { continue };
            if cr || ct || lr < DARK || lt < DARK {
                continue;
            }
            stops[y * w + x] = (lt / lr).log2() as f32;
        }
    }
    // where the picture turns fast, a small shift makes a large difference
    let middle = [rw / 2.0, rh / 2.0];
    let off = if a.sd_px.is_finite() { a.sd_px / a.local(middle).0 / k } else { 1.0 };
    for y in 0..h {
        for x in 0..w {
            let at = |x: usize, y: usize| f64::from(mine[y.min(h - 1) * w + x.min(w - 1)]);
            let (dx, dy) = (at(x + 1, y) - at(x.saturating_sub(1), y), at(x, y + 1) - at(x, y.saturating_sub(1)));
            if dx.hypot(dy) / 2.0 * off > UNSURE_STOPS {
                stops[y * w + x] = f32::NAN;
            }
        }
    }
    let mut known: Vec<f64> = stops.iter().filter(|v| v.is_finite()).map(|v| f64::from(*v)).collect();
    let told = known.len() as f64 / (w * h) as f64;
    let m = if known.is_empty() { 0.0 } else { median(&mut known) };
    DifferenceMap { width: w as u32, height: h as u32, stops, median_stops: m, told }
}
