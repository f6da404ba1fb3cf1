//! The linear light of a plate at a working size.

use crate::register::Lies;
use optics::photo::Photo;
use rayon::prelude::*;

/// Longest side on which sums are checked and solved, pixels: means of blocks keep all of the light.
pub const WORKING_SIDE: u32 = 1200;
/// Longest side on which sums are formed, blocks. The noise of plates makes their factors too small (errors in variables: Fuller 1987)
/// unless blocks average it away.
const SUM_SIDE: usize = 200;
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
}

/// Pixels along a block's side for a picture.
pub fn cell_of(width: u32, height: u32) -> u32 {
    width.max(height).div_ceil(WORKING_SIDE).max(1)
}

impl Light {
    /// Means over blocks of `cell` pixels; what does not fill a block at the right and lower edge is left out.
    pub fn of(photo: &Photo, cell: u32) -> Light {
        let (width, height) = ((photo.width() / cell).max(1) as usize, (photo.height() / cell).max(1) as usize);
        let (cw, ch) = (cell.min(photo.width()), cell.min(photo.height()));
        let n = f64::from(cw * ch);
        let row = |y: usize| {
            let one = |x: usize| {
                let (mut sum, mut clipped, mut var) = ([0.0f64; 3], false, 0.0f64);
                for dy in 0..ch {
                    for dx in 0..cw {
                        let (px, py) = (x as u32 * cell + dx, y as u32 * cell + dy);
                        let Some(s) = photo.get(i64::from(px), i64::from(py)) else { continue };
                        sum.iter_mut().zip(s.rgb).for_each(|(a, v)| *a += f64::from(v));
                        clipped |= s.clipped;
                        var += f64::from(s.coding_sd).powi(2);
                    }
                }
                (sum.map(|v| (v / n) as f32), clipped, (var.sqrt() / n) as f32)
            };
            (0..width).map(one).collect::<Vec<_>>()
        };
        let all: Vec<_> = (0..height).into_par_iter().flat_map_iter(row).collect();
        Light {
            width,
            height,
            cell,
            rgb: all.iter().map(|a| a.0).collect(),
            clipped: all.iter().map(|a| a.1).collect(),
            coding_sd: all.iter().map(|a| a.2).collect(),
        }
    }

    /// The same of a picture that lies beside the first, put back under it (straight lines between pixels).
    pub fn back(photo: &Photo, cell: u32, lies: &Lies) -> Light {
        let mut out = Light::of(photo, cell);
        let (w, h) = (f64::from(photo.width()), f64::from(photo.height()));
        let (sin, cos) = lies.turn_deg.to_radians().sin_cos();
        let (sin, cos) = (sin * lies.scale, cos * lies.scale);
        // where a place of the first picture lies in this one
        let at = |x: f64, y: f64| {
            let (u, v) = (x - w / 2.0, y - h / 2.0);
            [cos * u - sin * v + w / 2.0 + lies.right_px, sin * u + cos * v + h / 2.0 + lies.down_px]
        };
        let n = cell.min(photo.width()).min(photo.height());
        let width = out.width;
        out.rgb.par_iter_mut().zip(&mut out.clipped).enumerate().for_each(|(i, (rgb, clipped))| {
            let (bx, by) = ((i % width) as u32 * cell, (i / width) as u32 * cell);
            let (mut sum, mut seen) = ([0.0f64; 3], 0.0);
            *clipped = false;
            for dy in 0..n {
                for dx in 0..n {
                    let [x, y] = at(f64::from(bx + dx) + 0.5, f64::from(by + dy) + 0.5);
                    let (fx, fy) = (x - 0.5, y - 0.5);
                    let (x0, y0) = (fx.floor(), fy.floor());
                    for (ox, oy) in [(0.0, 0.0), (1.0, 0.0), (0.0, 1.0), (1.0, 1.0)] {
                        let part = (1.0 - (fx - x0 - ox).abs()) * (1.0 - (fy - y0 - oy).abs());
                        let Some(s) = photo.get((x0 + ox) as i64, (y0 + oy) as i64) else { continue };
                        sum.iter_mut().zip(s.rgb).for_each(|(a, v)| *a += part * f64::from(v));
                        *clipped |= s.clipped;
                        seen += part;
                    }
                }
            }
            // what left the frame is not known
            if seen < 0.99 * f64::from(n * n) {
                *clipped = true;
            }
            *rgb = sum.map(|v| (v / f64::max(seen, 1e-9)) as f32);
        });
        out
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
