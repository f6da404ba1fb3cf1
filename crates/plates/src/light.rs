//! The linear light of a plate at a working size.

use optics::photo::Photo;
use rayon::prelude::*;

/// Longest side on which sums are checked and solved, pixels: means of blocks keep all of the light.
pub const WORKING_SIDE: u32 = 1200;
/// Longest side on which sums are formed, blocks. The noise of plates makes their factors too small (errors in variables: Fuller 1987)
/// unless blocks average it away.
const SUM_SIDE: usize = 100;
/// Longest side of a plate that is taken, pixels, and most plates of one thing.
pub const MOST_SIDE: u32 = 12_000;
/// Most plates of one case.
pub const MOST_PLATES: usize = 40;

/// Linear light in blocks of pixels, row by row.
#[derive(Debug, Clone, PartialEq)]
pub struct Light {
    /// Blocks across.
    pub width: usize,
    /// Blocks down.
    pub height: usize,
    /// Pixels along the side of a block.
    pub cell: u32,
    /// Mean linear red, green, blue of each block; 1 is diffuse white.
    pub rgb: Vec<[f32; 3]>,
    /// Blocks with a pixel at the top of its range.
    pub clipped: Vec<bool>,
    /// Standard deviation of a block from coding in steps, linear.
    pub coding_sd: Vec<f32>,
    /// Factor on the light as it was taken, in all of the above.
    pub gain: f32,
}

/// The same where many plates are held in memory at once.
pub const SHELF_SIDE: u32 = 640;

/// Pixels along a block's side for a picture that is to be `side` blocks long at the most.
pub fn cell_of(width: u32, height: u32, side: u32) -> u32 {
    width.max(height).div_ceil(side).max(1)
}

impl Light {
    /// Means over blocks of `cell` pixels; what does not fill a block at the right and lower edge is left out.
    pub fn of(photo: &Photo, cell: u32) -> Light {
        let (width, height) = ((photo.width() / cell).max(1) as usize, (photo.height() / cell).max(1) as usize);
        let (cw, ch) = (cell.min(photo.width()) as usize, cell.min(photo.height()));
        let n = (cw * ch as usize) as f32;
        let row = |y: usize| {
            let mut sums = vec![([0f32; 3], false); width];
            for dy in 0..ch {
                photo.add_row(y as u32 * cell + dy, cw, &mut sums);
            }
            let one = |(x, (sum, clipped)): (usize, ([f32; 3], bool))| {
                // as one of its pixels is coded
                let at = |v: usize, n: u32| i64::from(v as u32 * cell + n / 2);
                let sd = photo.get(at(x, cw as u32), at(y, ch)).map_or(0.0, |s| s.coding_sd);
                (sum.map(|v| v / n), clipped, sd / n.sqrt())
            };
            sums.into_iter().enumerate().map(one).collect::<Vec<_>>()
        };
        let all: Vec<_> = (0..height).into_par_iter().flat_map_iter(row).collect();
        Light {
            width,
            height,
            cell,
            rgb: all.iter().map(|a| a.0).collect(),
            clipped: all.iter().map(|a| a.1).collect(),
            coding_sd: all.iter().map(|a| a.2).collect(),
            gain: 1.0,
        }
    }

    /// The same as if `factor` times the light had been let in; what is at the top of its range stays so.
    pub fn exposed(&self, factor: f32) -> Light {
        Light {
            rgb: self.rgb.iter().map(|c| c.map(|v| v * factor)).collect(),
            clipped: self.clipped.clone(),
            coding_sd: self.coding_sd.iter().map(|v| v * factor).collect(),
            gain: self.gain * factor,
            ..*self
        }
    }

    /// Means over `k` times `k` blocks; what does not fill one at the right and lower edge is left out.
    pub fn coarser(&self, k: usize) -> Light {
        let k = k.clamp(1, self.width.min(self.height).max(1));
        let (width, height) = (self.width / k, self.height / k);
        let n = (k * k) as f32;
        let mut out = Light {
            width,
            height,
            cell: self.cell * k as u32,
            rgb: Vec::with_capacity(width * height),
            clipped: Vec::with_capacity(width * height),
            coding_sd: Vec::with_capacity(width * height),
            gain: self.gain,
        };
        for i in 0..width * height {
            let cells = (0..k * k).map(|j| (i / width * k + j / k) * self.width + i % width * k + j % k);
            let (mut sum, mut clipped, mut var) = ([0f32; 3], false, 0f32);
            for c in cells {
                sum.iter_mut().zip(self.rgb[c]).for_each(|(a, v)| *a += v);
                clipped |= self.clipped[c];
                var += self.coding_sd[c].powi(2);
            }
            out.rgb.push(sum.map(|v| v / n));
            out.clipped.push(clipped);
            out.coding_sd.push(var.sqrt() / n);
        }
        out
    }

    /// Blocks that are fine enough to tell lamps apart and coarse enough that noise does not blur them into each other.
    pub fn for_sums(&self) -> Light {
        self.coarser(self.width.max(self.height).div_ceil(SUM_SIDE))
    }

    /// Number of blocks.
    pub fn len(&self) -> usize {
        self.rgb.len()
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.rgb.is_empty()
    }

    /// Linear luminance of a block.
    pub fn luminance(&self, i: usize) -> f32 {
        optics::photo::luminance(self.rgb[i]) as f32
    }

    /// Mean linear luminance.
    pub fn mean(&self) -> f64 {
        self.rgb.iter().map(|c| optics::photo::luminance(*c)).sum::<f64>() / self.len().max(1) as f64
    }
}

/// Root mean square of all-on less the plain sum over that of all-on, and the share of the difference that is plus.
pub(crate) fn plain_sum(all: &Light, plates: &[&Light], dark: Option<&Light>) -> (f64, f64) {
    let (mut left, mut whole, mut plus, mut minus) = (0.0, 0.0, 0.0, 0.0);
    for i in 0..all.len() {
        if all.clipped[i] || plates.iter().any(|p| p.clipped[i]) {
            continue;
        }
        let floor = dark.map_or(0.0, |d| f64::from(d.luminance(i)));
        let sum: f64 = plates.iter().map(|p| f64::from(p.luminance(i)) - floor).sum();
        let d = f64::from(all.luminance(i)) - floor - sum;
        left += d * d;
        whole += f64::from(all.luminance(i)).powi(2);
        if d > 0.0 { plus += d } else { minus -= d }
    }
    ((left / whole.max(1e-30)).sqrt(), plus / (plus + minus).max(1e-30))
}

/// Whether pictures are of one size.
///
/// # Errors
/// A sentence that names the first that is not.
pub fn same_size(named: &[(String, (u32, u32))]) -> Result<(), String> {
    let Some((first, size)) = named.first() else { return Err("no picture is there".into()) };
    match named.iter().find(|(_, s)| s != size) {
        None => Ok(()),
        Some((name, (w, h))) => Err(format!(
            "{name} is {w} × {h} pixels, {first} {} × {}: plates are pictures of one size from one camera that nobody touched",
            size.0, size.1
        )),
    }
}
