//! The picture reduced for searching, with its edges.

use optics::photo::{Photo, luminance};

/// Longest side searched on, in pixels.
const LONG: u32 = 512;

/// A reduced picture.
pub(super) struct Small {
    pub width: usize,
    pub height: usize,
    /// Pixels of the photo per pixel here.
    pub scale: f64,
    /// Linear colour, block means.
    pub rgb: Vec<[f32; 3]>,
    /// Edge points.
    pub edges: Vec<EdgePoint>,
}

/// A point where brightness turns fastest.
#[derive(Debug, Clone, Copy)]
pub(super) struct EdgePoint {
    pub x: f32,
    pub y: f32,
    /// Unit vector towards the brighter side.
    pub dx: f32,
    pub dy: f32,
    /// Step per pixel in encoded brightness, 0..1.
    pub strength: f32,
}

impl Small {
    pub fn of(photo: &Photo) -> Small {
        let k = photo.width().max(photo.height()).div_ceil(LONG).max(1);
        let (width, height) = ((photo.width() / k).max(1) as usize, (photo.height() / k).max(1) as usize);
        let rgb: Vec<[f32; 3]> = (0..width * height)
            .map(|i| {
                let (x0, y0) = ((i % width) as u32 * k, (i / width) as u32 * k);
                let mut sum = [0f32; 3];
                // of a large block every third pixel will do
                let step = (k / 3).max(1);
                let mut n = 0f32;
                for y in (y0..(y0 + k).min(photo.height())).step_by(step as usize) {
                    for x in (x0..(x0 + k).min(photo.width())).step_by(step as usize) {
                        let c = photo.rgb(x, y);
                        (0..3).for_each(|j| sum[j] += c[j]);
                        n += 1.0;
                    }
                }
                sum.map(|s| s / n.max(1.0))
            })
            .collect();
        let edges = edges(&rgb, width, height);
        Small { width, height, scale: f64::from(k), rgb, edges }
    }

    /// Linear colour at a pixel, `None` outside.
    pub fn at(&self, x: f64, y: f64) -> Option<[f32; 3]> {
        let inside = x >= 0.0 && y >= 0.0 && x < self.width as f64 && y < self.height as f64;
        inside.then(|| self.rgb[y as usize * self.width + x as usize])
    }

    /// Linear luminance at a pixel, `None` outside.
    pub fn luminance(&self, x: f64, y: f64) -> Option<f64> {
        self.at(x, y).map(luminance)
    }
}

/// Points where the smoothed gradient is largest along its own direction (Canny 1986, without linking).
fn edges(rgb: &[[f32; 3]], width: usize, height: usize) -> Vec<EdgePoint> {
    let encoded: Vec<f32> = rgb.iter().map(|c| (luminance(*c) as f32).max(0.0).powf(0.42)).collect();
    let smooth = binomial(&encoded, width, height);
    let mut gradient = vec![[0f32; 2]; width * height];
    for y in 1..height.saturating_sub(1) {
        for x in 1..width.saturating_sub(1) {
            let at = |dx: isize, dy: isize| smooth[(y as isize + dy) as usize * width + (x as isize + dx) as usize];
            let gx = (2.0 * (at(1, 0) - at(-1, 0)) + at(1, 1) - at(-1, 1) + at(1, -1) - at(-1, -1)) / 8.0;
            let gy = (2.0 * (at(0, 1) - at(0, -1)) + at(1, 1) - at(1, -1) + at(-1, 1) - at(-1, -1)) / 8.0;
            gradient[y * width + x] = [gx, gy];
        }
    }
    let magnitude: Vec<f32> = gradient.iter().map(|g| g[0].hypot(g[1])).collect();
    let mut sorted = magnitude.clone();
    sorted.sort_by(f32::total_cmp);
    let threshold = (0.08 * sorted[sorted.len() * 995 / 1000]).max(0.004);
    let mut out = Vec::new();
    for y in 2..height.saturating_sub(2) {
        for x in 2..width.saturating_sub(2) {
            let m = magnitude[y * width + x];
            if m < threshold {
                continue;
            }
            let [gx, gy] = gradient[y * width + x].map(|g| g / m);
            let at = |t: f32| {
                let (px, py) = (x as f32 + t * gx, y as f32 + t * gy);
                let (x0, y0) = (px.floor(), py.floor());
                let (fx, fy) = (px - x0, py - y0);
                let i = y0 as usize * width + x0 as usize;
                (1.0 - fy) * ((1.0 - fx) * magnitude[i] + fx * magnitude[i + 1])
                    + fy * ((1.0 - fx) * magnitude[i + width] + fx * magnitude[i + width + 1])
            };
            let (before, after) = (at(-1.0), at(1.0));
            if m < before || m <= after {
                continue;
            }
            // the top of a parabola through the three
            let t = 0.5 * (after - before) / (2.0 * m - before - after).max(1e-6);
            let t = t.clamp(-0.5, 0.5);
            let (px, py) = (x as f32 + 0.5 + t * gx, y as f32 + 0.5 + t * gy);
            out.push(EdgePoint { x: px, y: py, dx: gx, dy: gy, strength: m });
        }
    }
    out
}

/// Blur by the binomial kernel 1 4 6 4 1 in both directions.
fn binomial(v: &[f32], width: usize, height: usize) -> Vec<f32> {
    const K: [f32; 5] = [1.0 / 16.0, 4.0 / 16.0, 6.0 / 16.0, 4.0 / 16.0, 1.0 / 16.0];
    let clamp = |i: isize, n: usize| i.clamp(0, n as isize - 1) as usize;
    let mut rows = vec![0f32; v.len()];
    for y in 0..height {
        for x in 0..width {
            rows[y * width + x] = (0..5).map(|k| K[k] * v[y * width + clamp(x as isize + k as isize - 2, width)]).sum();
        }
    }
    let mut out = vec![0f32; v.len()];
    for y in 0..height {
        for x in 0..width {
            out[y * width + x] =
                (0..5).map(|k| K[k] * rows[clamp(y as isize + k as isize - 2, height) * width + x]).sum();
        }
    }
    out
}
