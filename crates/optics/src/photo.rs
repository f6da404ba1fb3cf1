//! A picture in memory, as the core sees it: encoded samples and how to make them linear.

use crate::straight::{Straight, straight_of};
use crate::texture::{Texture, texture_of};
use crate::tone::Encoding;
use serde::{Deserialize, Serialize};
use std::sync::{Arc, OnceLock};
use utoipa::ToSchema;

/// Encoded values from which a channel is at the top of its range.
const CLIP_8: u8 = 254;
const CLIP_16: u16 = 65_278;

/// Samples of a picture, three per pixel, row by row.
#[derive(Debug, Clone)]
pub enum Samples {
    /// 8-bit encoded.
    U8(Vec<u8>),
    /// 16-bit encoded.
    U16(Vec<u16>),
    /// Linear light, 1 = diffuse white, may exceed 1.
    Linear(Vec<f32>),
}

/// A decoded, upright picture in sRGB primaries.
///
/// Samples stay encoded (a 24-megapixel picture is 72 MB rather than 288 MB) and are made linear
/// one by one through a table.
#[derive(Debug, Clone)]
pub struct Photo {
    width: u32,
    height: u32,
    /// shared, so that the same picture under another encoding costs a table only
    samples: Arc<Samples>,
    table: Vec<f32>,
    /// what it is made of, once it was asked for: the same under every encoding
    texture: Arc<OnceLock<Texture>>,
    /// its long straight lines, once they were asked for
    straight: Arc<OnceLock<Straight>>,
}

/// Linear light of one pixel with what is needed to weigh it.
#[derive(Debug, Clone, Copy)]
pub struct Sample {
    /// Linear red, green, blue.
    pub rgb: [f32; 3],
    /// Any channel at the top of its range.
    pub clipped: bool,
    /// Standard deviation of the linear luminance from coding in steps (no scene noise).
    pub coding_sd: f32,
}

impl Sample {
    /// Relative luminance with the BT.709 / sRGB weights (IEC 61966-2-1).
    pub fn luminance(&self) -> f64 {
        luminance(self.rgb)
    }
}

/// Relative luminance of linear sRGB (IEC 61966-2-1: 0.2126, 0.7152, 0.0722).
pub fn luminance(rgb: [f32; 3]) -> f64 {
    0.2126 * f64::from(rgb[0]) + 0.7152 * f64::from(rgb[1]) + 0.0722 * f64::from(rgb[2])
}

impl Photo {
    /// Wraps decoded samples.
    ///
    /// # Errors
    /// A sentence if the number of samples is not `3 * width * height`, or a side is zero.
    pub fn new(width: u32, height: u32, samples: Samples, encoding: &Encoding) -> Result<Self, String> {
        let n = match &samples {
            Samples::U8(v) => v.len(),
            Samples::U16(v) => v.len(),
            Samples::Linear(v) => v.len(),
        };
        let want = 3usize.saturating_mul(width as usize).saturating_mul(height as usize);
        if width == 0 || height == 0 || n != want {
            return Err(format!("picture of {width} x {height} pixels needs {want} samples, found {n}"));
        }
        let (texture, straight) = (Arc::default(), Arc::default());
        let mut photo = Photo { width, height, samples: Arc::new(samples), table: Vec::new(), texture, straight };
        photo.set_encoding(encoding);
        Ok(photo)
    }

    /// Chooses how encoded values are made linear. Linear pictures ignore it.
    fn set_encoding(&mut self, encoding: &Encoding) {
        let steps = match *self.samples {
            Samples::U8(_) => 256,
            Samples::U16(_) => 65536,
            Samples::Linear(_) => 0,
        };
        let top = (steps as f64 - 1.0).max(1.0);
        self.table = (0..steps).map(|i| encoding.to_linear(i as f64 / top) as f32).collect();
    }

    /// The same picture under another encoding.
    pub fn under(&self, encoding: &Encoding) -> Photo {
        let mut photo = self.clone();
        photo.set_encoding(encoding);
        photo
    }

    /// The same picture as if `factor` times the light had been let in; what is at the top of its range stays so.
    pub fn exposed(&self, factor: f32) -> Photo {
        let mut photo = self.clone();
        if factor == 1.0 {
            return photo;
        }
        if let Samples::Linear(v) = &*self.samples {
            photo.samples = Arc::new(Samples::Linear(v.iter().map(|l| l * factor).collect()));
        }
        photo.table.iter_mut().for_each(|l| *l *= factor);
        photo
    }

    /// The samples as they are stored.
    pub fn samples(&self) -> &Samples {
        &self.samples
    }

    /// Whether the samples are linear light themselves.
    pub fn is_linear(&self) -> bool {
        matches!(*self.samples, Samples::Linear(_))
    }

    /// Width in pixels.
    pub fn width(&self) -> u32 {
        self.width
    }

    /// Height in pixels.
    pub fn height(&self) -> u32 {
        self.height
    }

    /// The pixel at column `x`, row `y`; `None` outside.
    pub fn get(&self, x: i64, y: i64) -> Option<Sample> {
        if x < 0 || y < 0 || x >= i64::from(self.width) || y >= i64::from(self.height) {
            return None;
        }
        let i = 3 * (y as usize * self.width as usize + x as usize);
        Some(match &*self.samples {
            Samples::U8(v) => self.coded([v[i], v[i + 1], v[i + 2]].map(usize::from), CLIP_8.into()),
            Samples::U16(v) => self.coded([v[i], v[i + 1], v[i + 2]].map(usize::from), CLIP_16.into()),
            Samples::Linear(v) => {
                let rgb = [v[i], v[i + 1], v[i + 2]];
                let sd = 1e-4 * luminance(rgb).abs() as f32 + 1e-6;
                Sample { rgb, clipped: rgb.iter().any(|c| !c.is_finite()), coding_sd: sd }
            }
        })
    }

    /// Linear red, green, blue without what is needed to weigh them; the pixel must be inside.
    pub fn rgb(&self, x: u32, y: u32) -> [f32; 3] {
        let i = 3 * (y as usize * self.width as usize + x as usize);
        match &*self.samples {
            Samples::U8(v) => [v[i], v[i + 1], v[i + 2]].map(|k| self.table[usize::from(k)]),
            Samples::U16(v) => [v[i], v[i + 1], v[i + 2]].map(|k| self.table[usize::from(k)]),
            Samples::Linear(v) => [v[i], v[i + 1], v[i + 2]],
        }
    }

    /// Adds the linear light of a row to sums over `cell` pixels each, and whether a channel of any is at the top of its range; what
    /// there is no sum for is left out.
    pub fn add_row(&self, y: u32, cell: usize, sums: &mut [([f32; 3], bool)]) {
        let w = self.width as usize;
        let row = 3 * w * y as usize..3 * w * (y as usize + 1);
        fn add<T: Copy>(
            row: &[T],
            cell: usize,
            sums: &mut [([f32; 3], bool)],
            linear: impl Fn(T) -> f32,
            top: impl Fn(T) -> bool,
        ) {
            for (block, (sum, clipped)) in row.chunks(3 * cell).zip(sums) {
                for [r, g, b] in block.as_chunks::<3>().0 {
                    sum[0] += linear(*r);
                    sum[1] += linear(*g);
                    sum[2] += linear(*b);
                    *clipped |= top(*r) | top(*g) | top(*b);
                }
            }
        }
        match &*self.samples {
            Samples::U8(v) => add(&v[row], cell, sums, |k| self.table[usize::from(k)], |k| k >= CLIP_8),
            Samples::U16(v) => add(&v[row], cell, sums, |k| self.table[usize::from(k)], |k| k >= CLIP_16),
            Samples::Linear(v) => add(&v[row], cell, sums, |k| k, |k| !k.is_finite()),
        }
    }

    fn coded(&self, c: [usize; 3], clip: usize) -> Sample {
        let rgb = c.map(|v| self.table[v]);
        // One step is a uniform error of sd 0.29 steps; the slope of the table makes it linear.
        let slope = |v: usize| {
            let hi = (v + 1).min(self.table.len() - 1);
            let lo = v.saturating_sub(1);
            (self.table[hi] - self.table[lo]) / (hi - lo) as f32
        };
        let coding_sd = 0.29 * slope(c[1]).max(1e-7);
        Sample { rgb, clipped: c.iter().any(|&v| v >= clip), coding_sd }
    }

    /// Linear luminance at a pixel, or 0 outside.
    pub fn luminance_at(&self, x: i64, y: i64) -> f64 {
        self.get(x, y).map_or(0.0, |s| s.luminance())
    }

    /// Linear luminance between pixel centres by bilinear interpolation; `None` outside.
    pub fn luminance_between(&self, x: f64, y: f64) -> Option<f64> {
        let (fx, fy) = (x - 0.5, y - 0.5);
        let (x0, y0) = (fx.floor(), fy.floor());
        let (tx, ty) = (fx - x0, fy - y0);
        let at = |dx: i64, dy: i64| self.get(x0 as i64 + dx, y0 as i64 + dy).map(|s| s.luminance());
        let top = at(0, 0)? * (1.0 - tx) + at(1, 0)? * tx;
        let bottom = at(0, 1)? * (1.0 - tx) + at(1, 1)? * tx;
        Some(top * (1.0 - ty) + bottom * ty)
    }

    /// Shares of the picture per bin of stops from middle grey, and the clipped share.
    pub fn meter(&self) -> Meter {
        let mut histogram = vec![0u64; Meter::BINS];
        let mut clipped = 0u64;
        let mut black = 0u64;
        let n = u64::from(self.width) * u64::from(self.height);
        // Each encoded level has one luminance only if grey: go pixel by pixel, but by table.
        let weights = [0.2126f32, 0.7152, 0.0722];
        let mut add = |rgb: [f32; 3], clip: bool| {
            let l = rgb[0] * weights[0] + rgb[1] * weights[1] + rgb[2] * weights[2];
            clipped += u64::from(clip);
            if l <= 0.0 {
                black += 1;
            }
            histogram[Meter::bin_of(l)] += 1;
        };
        match &*self.samples {
            Samples::U8(v) => v.as_chunks::<3>().0.iter().for_each(|c| {
                add(c.map(|k| self.table[k as usize]), c.iter().any(|&k| k >= CLIP_8));
            }),
            Samples::U16(v) => v.as_chunks::<3>().0.iter().for_each(|c| {
                add(c.map(|k| self.table[k as usize]), c.iter().any(|&k| k >= CLIP_16));
            }),
            Samples::Linear(v) => v.as_chunks::<3>().0.iter().for_each(|c| add(*c, c.iter().any(|&k| k >= 1.0))),
        }
        let clipped_areas = if clipped == 0 { Vec::new() } else { self.clipped_areas() };
        let share = |k: u64| k as f64 / n as f64;
        Meter { histogram, clipped_fraction: share(clipped), black_fraction: share(black), clipped_areas }
    }

    /// Noise, blocks of compression, widths of edges; worked out when it is first asked for, and kept.
    pub fn texture(&self) -> &Texture {
        let (w, h) = (self.width as usize, self.height as usize);
        self.texture.get_or_init(|| texture_of(w, h, |x, y| self.code(x, y)))
    }

    /// Long lines that are nearly level or upright; found when they are first asked for, and kept.
    pub fn straight(&self) -> &Straight {
        let (w, h) = (self.width as usize, self.height as usize);
        self.straight.get_or_init(|| straight_of(w, h, |x, y| self.code(x, y)))
    }

    /// Encoded values of a pixel, 0 to 1, as one sees them; the pixel must be inside.
    fn code(&self, x: usize, y: usize) -> [f32; 3] {
        let i = 3 * (y * self.width as usize + x);
        match &*self.samples {
            Samples::U8(v) => [v[i], v[i + 1], v[i + 2]].map(|k| f32::from(k) / 255.0),
            Samples::U16(v) => [v[i], v[i + 1], v[i + 2]].map(|k| f32::from(k) / 65535.0),
            Samples::Linear(v) => crate::texture::code_of([v[i], v[i + 1], v[i + 2]]),
        }
    }

    fn is_clipped(&self, i: usize) -> bool {
        match &*self.samples {
            Samples::U8(v) => v[3 * i..3 * i + 3].iter().any(|&k| k >= CLIP_8),
            Samples::U16(v) => v[3 * i..3 * i + 3].iter().any(|&k| k >= CLIP_16),
            Samples::Linear(v) => v[3 * i..3 * i + 3].iter().any(|&k| k >= 1.0),
        }
    }

    /// Connected clipped areas, the largest first, at most [`Meter::AREAS`]; found on a grid of about 200 cells
    /// along the longer side.
    fn clipped_areas(&self) -> Vec<ClippedArea> {
        let (w, h) = (self.width as usize, self.height as usize);
        let cell = w.max(h).div_ceil(200).max(1);
        let (cw, ch) = (w.div_ceil(cell), h.div_ceil(cell));
        let mut count = vec![0u32; cw * ch];
        // of a large cell every few pixels will do
        let step = (cell / 8).max(1);
        for y in (0..h).step_by(step) {
            let row = &mut count[y / cell * cw..][..cw];
            for x in (0..w).step_by(step) {
                row[x / cell] += u32::from(self.is_clipped(y * w + x));
            }
        }
        let full = |i: usize| count[i] as usize * 4 * step * step >= cell * cell;
        let mut seen = vec![false; cw * ch];
        let mut out = Vec::new();
        for start in 0..cw * ch {
            if seen[start] || !full(start) {
                continue;
            }
            seen[start] = true;
            let mut queue = vec![start];
            let (mut pixels, mut low, mut high) = (0u64, [usize::MAX; 2], [0usize; 2]);
            while let Some(i) = queue.pop() {
                let (x, y) = (i % cw, i / cw);
                pixels += u64::from(count[i]);
                low = [low[0].min(x), low[1].min(y)];
                high = [high[0].max(x), high[1].max(y)];
                for ny in y.saturating_sub(1)..(y + 2).min(ch) {
                    for nx in x.saturating_sub(1)..(x + 2).min(cw) {
                        let k = ny * cw + nx;
                        if !seen[k] && full(k) {
                            seen[k] = true;
                            queue.push(k);
                        }
                    }
                }
            }
            let from = low.map(|v| (v * cell) as f64);
            let to = [((high[0] + 1) * cell).min(w) as f64, ((high[1] + 1) * cell).min(h) as f64];
            out.push(ClippedArea { from, to, share: (pixels as usize * step * step) as f64 / (w * h) as f64 });
        }
        out.sort_by(|a, b| b.share.total_cmp(&a.share));
        out.truncate(Meter::AREAS);
        out
    }
}

/// Exposure statistics of a whole picture.
#[derive(Debug, Clone)]
pub struct Meter {
    /// Pixel counts per eighth of a stop from [`Meter::LOWEST_STOP`] around middle grey.
    pub histogram: Vec<u64>,
    /// Share of pixels with a channel at the top of its range.
    pub clipped_fraction: f64,
    /// Share of pixels at zero.
    pub black_fraction: f64,
    /// Where most of the clipped pixels lie.
    pub clipped_areas: Vec<ClippedArea>,
}

/// A connected clipped area.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ClippedArea {
    /// Upper left corner of the box about it, pixels.
    #[schema(value_type = crate::geometry::Pair)]
    pub from: [f64; 2],
    /// Lower right corner.
    #[schema(value_type = crate::geometry::Pair)]
    pub to: [f64; 2],
    /// Its pixels over all pixels of the picture.
    pub share: f64,
}

impl Meter {
    /// Clipped areas kept.
    pub const AREAS: usize = 8;
    /// Bins of the histogram.
    pub const BINS: usize = 128;
    /// Bins per stop.
    pub const PER_STOP: f64 = 8.0;
    /// Stops from middle grey of the first bin.
    pub const LOWEST_STOP: f64 = -12.0;

    fn bin_of(l: f32) -> usize {
        // log2 by exponent and a quadratic for the mantissa: within 0.01 stop, and fast.
        let bits = (l.max(1e-9) / 0.18).to_bits();
        let exponent = (bits >> 23) as i32 - 127;
        let m = f32::from_bits((bits & 0x7f_ffff) | 0x3f80_0000);
        let log2 = exponent as f32 + (-1.0 / 3.0 * m + 2.0) * m - 2.0 / 3.0 - 1.0;
        let b = (log2 - Self::LOWEST_STOP as f32) * Self::PER_STOP as f32;
        (b.max(0.0) as usize).min(Self::BINS - 1)
    }

    /// Median luminance in stops from middle grey.
    pub fn median_stops(&self) -> f64 {
        let total: u64 = self.histogram.iter().sum();
        let mut seen = 0;
        for (i, n) in self.histogram.iter().enumerate() {
            if 2 * (seen + n) >= total && *n > 0 {
                let inside = (total as f64 / 2.0 - seen as f64) / *n as f64;
                return Self::LOWEST_STOP + (i as f64 + inside.clamp(0.0, 1.0)) / Self::PER_STOP;
            }
            seen += n;
        }
        Self::LOWEST_STOP
    }
}
