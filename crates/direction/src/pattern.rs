//! A pattern of light and shade: blinds, a slit, leaves. How it lies, how strong and how sharp it is.

use optics::photo::Photo;
use optics::solve::median;

/// What a pattern says.
#[derive(Debug, Clone, Copy)]
pub struct PatternReading {
    /// Bright bands on the line.
    pub bands: usize,
    /// Distance from band to band in pixels, across them; `None` for a single band.
    pub spacing_px: Option<f64>,
    /// Standard deviation of the spacings over their mean: near 0 for blinds, over 0.3 for leaves.
    pub unevenness: f64,
    /// Width of an edge from 10 to 90 % in pixels, across it.
    pub edge_px: f64,
    /// Stops between band and shade.
    pub contrast_stops: f64,
    /// How the bands run, degrees from level, anticlockwise, -90 to 90.
    pub run_deg: f64,
}

/// Why no pattern is seen.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum PatternProblem {
    /// Too short.
    #[error("the line is too short: draw it across several bands, or across one whole band")]
    Short,
    /// Outside.
    #[error("the line leaves the picture")]
    Outside,
    /// None.
    #[error("no bands of light are found on the line")]
    None,
}

/// Reads the bands crossed by the line from `a` to `b`.
///
/// # Errors
/// A [`PatternProblem`] that says why.
pub fn read(photo: &Photo, a: [f64; 2], b: [f64; 2]) -> Result<PatternReading, PatternProblem> {
    let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
    let length = dx.hypot(dy);
    if length < 12.0 {
        return Err(PatternProblem::Short);
    }
    let (ux, uy) = (dx / length, dy / length);
    const STEP: f64 = 0.5;
    let n = (length / STEP) as usize + 1;
    let row = |o: f64| -> Option<Vec<f64>> {
        (0..n)
            .map(|i| {
                let t = i as f64 * STEP;
                photo.luminance_between(a[0] + ux * t - uy * o, a[1] + uy * t + ux * o)
            })
            .collect()
    };
    let mid = row(0.0).ok_or(PatternProblem::Outside)?;
    let mut sorted = mid.clone();
    sorted.sort_by(f64::total_cmp);
    let (dark, bright) = (sorted[n / 10], sorted[n - 1 - n / 10]);
    if bright < 1.25 * dark + 0.004 {
        return Err(PatternProblem::None);
    }
    let level = (bright * dark.max(1e-4)).sqrt();
    let middle = crossings(&mid, level, bright, dark);
    let rising: Vec<f64> = middle.iter().filter(|c| c.1).map(|c| c.0 * STEP).collect();
    if middle.len() < 2 {
        return Err(PatternProblem::None);
    }
    // How the bands lie: where the same crossings are on lines beside this one.
    let mut shifts = Vec::new();
    for o in [-6.0, -4.0, -2.0, 2.0, 4.0, 6.0] {
        let Some(r) = row(o) else { continue };
        for c in crossings(&r, level, bright, dark) {
            let near = middle.iter().filter(|m| m.1 == c.1).map(|m| c.0 - m.0);
            if let Some(d) = near.min_by(|x, y| x.abs().total_cmp(&y.abs()))
                && d.abs() * STEP < 2.0 * f64::abs(o) + 1.0
            {
                shifts.push(d * STEP / o);
            }
        }
    }
    let lean = if shifts.is_empty() { 0.0 } else { median(&mut shifts) };
    let across = 1.0 / (1.0 + lean * lean).sqrt();
    // along a band: one step aside is `lean` steps on
    let (bx, by) = (-uy + lean * ux, ux + lean * uy);
    let run = (-by).atan2(bx).to_degrees();
    let run = if run > 90.0 {
        run - 180.0
    } else if run <= -90.0 {
        run + 180.0
    } else {
        run
    };
    let gaps: Vec<f64> = rising.windows(2).map(|w| (w[1] - w[0]) * across).collect();
    let mean = gaps.iter().sum::<f64>() / gaps.len().max(1) as f64;
    let unevenness = if gaps.len() < 2 {
        0.0
    } else {
        (gaps.iter().map(|g| (g - mean).powi(2)).sum::<f64>() / gaps.len() as f64).sqrt() / mean
    };
    let mut widths: Vec<f64> = middle.iter().filter_map(|c| edge_width(&mid, c.0, bright, dark)).collect();
    let bands = rising.len().max(middle.iter().filter(|c| !c.1).count());
    Ok(PatternReading {
        bands,
        spacing_px: (!gaps.is_empty()).then_some(mean),
        unevenness,
        edge_px: if widths.is_empty() { f64::NAN } else { median(&mut widths) * STEP * across },
        contrast_stops: (bright / dark.max(1e-4)).log2(),
        run_deg: run,
    })
}

/// Where a row crosses a level, in samples, and whether it rises; small wiggles do not count.
fn crossings(row: &[f64], level: f64, bright: f64, dark: f64) -> Vec<(f64, bool)> {
    let (up, down) = (level + 0.2 * (bright - level), level - 0.3 * (level - dark));
    let mut out = Vec::new();
    let mut high = row[0] > level;
    let mut last = 0.0;
    for i in 1..row.len() {
        if (row[i - 1] - level) * (row[i] - level) < 0.0 {
            last = (i - 1) as f64 + (level - row[i - 1]) / (row[i] - row[i - 1]);
        }
        if !high && row[i] > up {
            out.push((last, true));
            high = true;
        } else if high && row[i] < down {
            out.push((last, false));
            high = false;
        }
    }
    out
}

/// Samples from 10 to 90 % of the step about a crossing.
fn edge_width(row: &[f64], at: f64, bright: f64, dark: f64) -> Option<f64> {
    let (low, high) = (dark + 0.1 * (bright - dark), dark + 0.9 * (bright - dark));
    let i = at.round() as usize;
    let rising = *row.get(i + 1)? > *row.get(i.checked_sub(1)?)?;
    let walk = |forward: bool, until: f64, above: bool| -> Option<f64> {
        let mut k = i;
        loop {
            let next = if forward { k + 1 } else { k.checked_sub(1)? };
            let (v, w) = (*row.get(k)?, *row.get(next)?);
            if (above && w >= until) || (!above && w <= until) {
                let f = if (w - v).abs() < 1e-12 { 0.0 } else { ((until - v) / (w - v)).clamp(0.0, 1.0) };
                return Some(k as f64 + if forward { f } else { -f });
            }
            k = next;
        }
    };
    let (bright_at, dark_at) = (walk(rising, high, true)?, walk(!rising, low, false)?);
    Some((bright_at - dark_at).abs())
}
