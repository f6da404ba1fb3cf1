//! What a picture is made of at the scale of its pixels: noise, blocks of compression, how wide its edges are and whether they
//! are smeared one way.
//!
//! Everything is measured on encoded luma (as one sees it), 0 to 1. Noise: Immerkær, "Fast Noise Variance Estimation", Computer
//! Vision and Image Understanding 64 (1996), on small blocks, of which the quietest count. Blocks: steps across the grid of eight
//! against the steps beside them (after Wang, Sheikh and Bovik, ICIP 2002). Edges: the way from a tenth to nine tenths of a step along
//! its gradient (after Marziliano, Dufaux, Winkler and Ebrahimi, ICIP 2002).

/// Longest side at which edges are measured, pixels.
const EDGE_SIDE: usize = 1600;
/// Tiles along a side for noise and blocks, and their side in pixels: a multiple of eight.
const TILES: usize = 12;
const TILE: usize = 64;
/// Side of a block in which noise is measured.
const BLOCK: usize = 16;
/// Cells along the longer side in which edges are told apart.
pub const CELLS: usize = 16;
/// Edges fewer than these say nothing.
const FEW: usize = 30;
const FEW_IN_CELL: usize = 5;
/// Steps an edge is followed.
const REACH: usize = 40;
/// Least slope and height of an edge, in encoded luma for a pixel and as a whole.
const SLOPE: f32 = 0.012;
const HEIGHT: f32 = 0.12;

/// A step that is an edge of the subject, and one of two codes in 256, which nobody sees.
const EDGE_STEP: f32 = 0.12;
const SEEN_STEP: f32 = 2.0 / 255.0;

/// Luma under which nothing is told from black.
const BLACK: f32 = 0.03;

/// What a picture is made of.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Texture {
    /// Standard deviation of noise, share of the range from black to white.
    pub noise: f64,
    /// By how much steps across borders of eight pixels stand out from those beside them, in the mean over all borders, share of the
    /// range: those of two codes in 256 are not seen and do not count.
    pub blocks: f64,
    /// Width of the sharpest edges, share of the longer side; absent where there are too few.
    pub edge: Option<f64>,
    /// How much wider edges are one way than across it, share of the longer side; absent where either has too few. At
    /// the least: half to all of a smear that is wider than the edges.
    pub smear: Option<f64>,
    /// Along which way: degrees from image right towards image down, 0 to 180.
    pub smear_deg: f64,
    /// One pixel of the scale at which edges were measured, share of the longer side: nothing finer is told.
    pub pixel: f64,
    /// Widths of the sharpest edges in cells, row by row, with the number of columns.
    pub cells: (usize, Vec<Option<f32>>),
}

/// Luma of a picture on a grid of whole pixels or of cells of several.
pub(crate) struct Luma {
    pub(crate) w: usize,
    pub(crate) h: usize,
    pub(crate) v: Vec<f32>,
}

fn encoded(linear: f32) -> f32 {
    // the curve that pictures are looked at through, IEC 61966-2-1
    let l = linear.clamp(0.0, 1.0);
    if l <= 0.003_130_8 { 12.92 * l } else { 1.055 * l.powf(1.0 / 2.4) - 0.055 }
}

/// A picture as this module sees it: its size and encoded luma at a pixel.
struct Seen<F: Fn(usize, usize) -> f32> {
    w: usize,
    h: usize,
    luma: F,
}

/// Luma of encoded red, green, blue with the BT.709 weights (IEC 61966-2-1).
fn luma_of(c: [f32; 3]) -> f32 {
    0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2]
}

/// What a picture of `w` by `h` pixels is made of, from the encoded red, green and blue of each, 0 to 1.
pub fn texture_of(w: usize, h: usize, code: impl Fn(usize, usize) -> [f32; 3]) -> Texture {
    let long = w.max(h);
    if w.min(h) < 48 {
        return Texture { pixel: 1.0 / long.max(1) as f64, ..Texture::default() };
    }
    let seen = Seen { w, h, luma: |x, y| luma_of(code(x, y)) };
    let (noise, blocks) = seen.noise_and_blocks();
    let cell = long.div_ceil(EDGE_SIDE);
    // averaging over a cell takes noise down
    edges(&seen.reduced(cell), noise / cell as f32, cell as f64 / long as f64, f64::from(noise), f64::from(blocks))
}

/// Luma of a picture in cells of `cell` by `cell` pixels.
pub(crate) fn reduced(w: usize, h: usize, cell: usize, code: impl Fn(usize, usize) -> [f32; 3]) -> Luma {
    Seen { w, h, luma: |x, y| luma_of(code(x, y)) }.reduced(cell)
}

impl<F: Fn(usize, usize) -> f32> Seen<F> {
    /// Luma in cells of `cell` pixels.
    fn reduced(&self, cell: usize) -> Luma {
        let (w, h) = (self.w / cell, self.h / cell);
        let mut v = vec![0.0f32; w * h];
        let scale = 1.0 / (cell * cell) as f32;
        for y in 0..h * cell {
            let row = &mut v[y / cell * w..][..w];
            for x in 0..w * cell {
                row[x / cell] += (self.luma)(x, y) * scale;
            }
        }
        Luma { w, h, v }
    }

    fn noise_and_blocks(&self) -> (f32, f32) {
        let (w, h) = (self.w, self.h);
        let places = |side: usize| -> Vec<usize> {
            let n = TILES.min(side / TILE).max(1);
            let tile = TILE.min(side);
            let mut all: Vec<usize> =
                (0..n).map(|i| if n == 1 { 0 } else { i * (side - tile) / (n - 1) / 8 * 8 }).collect();
            all.dedup();
            all
        };
        let (tw, th) = (TILE.min(w), TILE.min(h));
        let mut quiet = Vec::new();
        // what steps stand out by, across a border of the grid and elsewhere, and how many
        let mut across = [0.0f64; 2];
        let mut counts = [0u64; 2];
        let mut tile = vec![0.0f32; tw * th];
        for y0 in places(h) {
            for x0 in places(w) {
                for y in 0..th {
                    for x in 0..tw {
                        tile[y * tw + x] = (self.luma)(x0 + x, y0 + y);
                    }
                }
                for y in 0..th {
                    let step = |x: usize| (tile[y * tw + x] - tile[y * tw + x - 1]).abs();
                    for x in 3..tw.saturating_sub(2) {
                        let own = step(x);
                        // what is an edge of the subject says nothing about the grid, nor does what is black
                        if own < EDGE_STEP && tile[y * tw + x].max(tile[y * tw + x - 1]) > BLACK {
                            let beside = step(x - 2).max(step(x - 1)).max(step(x + 1)).max(step(x + 2));
                            let border = usize::from(!(x0 + x).is_multiple_of(8));
                            across[border] += f64::from((own - beside - SEEN_STEP).max(0.0));
                            counts[border] += 1;
                        }
                    }
                }
                for by in (0..th - th % BLOCK).step_by(BLOCK) {
                    for bx in (0..tw - tw % BLOCK).step_by(BLOCK) {
                        let mean = (by..by + BLOCK).flat_map(|y| tile[y * tw + bx..][..BLOCK].iter()).sum::<f32>()
                            / (BLOCK * BLOCK) as f32;
                        if (0.04..0.96).contains(&mean) {
                            quiet.push(immerkaer(&tile, tw, bx, by));
                        }
                    }
                }
            }
        }
        // the quietest fifth: the rest is the subject; a fifth of the way up estimates from 14 x 14 differences lie 3 % low
        quiet.sort_by(f32::total_cmp);
        let noise = quiet.get(quiet.len() / 5).map_or(0.0, |q| q / 0.97);
        let mean = |k: usize| across[k] / counts[k].max(1) as f64;
        (noise, (mean(0) - mean(1)).max(0.0) as f32)
    }
}

/// Standard deviation of noise in one block by the difference of two Laplacians, which a slope does not touch.
fn immerkaer(tile: &[f32], stride: usize, bx: usize, by: usize) -> f32 {
    let at = |x: usize, y: usize| tile[y * stride + x];
    let mut sum = 0.0f32;
    for y in by + 1..by + BLOCK - 1 {
        for x in bx + 1..bx + BLOCK - 1 {
            let corners = at(x - 1, y - 1) + at(x + 1, y - 1) + at(x - 1, y + 1) + at(x + 1, y + 1);
            let sides = at(x, y - 1) + at(x, y + 1) + at(x - 1, y) + at(x + 1, y);
            sum += (corners - 2.0 * sides + 4.0 * at(x, y)).abs();
        }
    }
    let n = ((BLOCK - 2) * (BLOCK - 2)) as f32;
    (std::f32::consts::PI / 2.0).sqrt() * sum / (6.0 * n)
}

/// Ways along which edges are measured: right, down right, down, down left.
const WAYS: [(isize, isize); 4] = [(1, 0), (1, 1), (0, 1), (-1, 1)];

fn percentile(v: &mut [f32], share: f64) -> Option<f32> {
    v.sort_by(f32::total_cmp);
    v.get((share * v.len() as f64) as usize).copied()
}

fn edges(l: &Luma, noise: f32, pixel: f64, whole_noise: f64, blocks: f64) -> Texture {
    let at = |x: isize, y: isize| l.v[y as usize * l.w + x as usize];
    let mut by_way: [Vec<f32>; 4] = Default::default();
    let side = l.w.max(l.h);
    let (columns, rows) = ((l.w * CELLS).div_ceil(side), (l.h * CELLS).div_ceil(side));
    let mut by_cell: Vec<Vec<f32>> = vec![Vec::new(); columns * rows];
    let tolerance = 1.5 * noise + 0.002;
    let m = 2isize;
    for y in m..l.h as isize - m {
        for x in m..l.w as isize - m {
            let slope = |k: usize, x: isize, y: isize| {
                let (dx, dy) = WAYS[k];
                let long = if dx != 0 && dy != 0 { std::f32::consts::SQRT_2 } else { 1.0 };
                (at(x + dx, y + dy) - at(x - dx, y - dy)) / (2.0 * long)
            };
            let (gx, gy) = (slope(0, x, y), slope(2, x, y));
            let size = gx.hypot(gy);
            if size < SLOPE + 2.0 * noise {
                continue;
            }
            // the way nearest to the gradient
            let turn = gy.atan2(gx).rem_euclid(std::f32::consts::PI) / (std::f32::consts::PI / 4.0);
            let k = turn.round() as usize % 4;
            if (turn - turn.round()).abs() > 0.3 {
                continue;
            }
            let g = slope(k, x, y);
            let (dx, dy) = WAYS[k];
            if slope(k, x + dx, y + dy).abs() > g.abs() || slope(k, x - dx, y - dy).abs() >= g.abs() {
                continue;
            }
            let Some(width) = followed(l, x, y, (dx, dy), g.signum(), tolerance) else { continue };
            let long = if dx != 0 && dy != 0 { std::f32::consts::SQRT_2 } else { 1.0 };
            by_way[k].push(width * long);
            by_cell[(y as usize * CELLS / side) * columns + x as usize * CELLS / side].push(width * long);
        }
    }
    let sharpest = by_way.map(|mut v| if v.len() < FEW { None } else { percentile(&mut v, 0.15) });
    let edge = sharpest.iter().flatten().copied().reduce(f32::min).map(|w| f64::from(w) * pixel);
    // along and across: what is smeared one way is wide along it and sharp across. Widths add in squares (variances of a blur after
    // another); where both are nearly alike the difference says little, so it is shrunk until one is twice the other
    let pair = |along: usize| {
        let (a, b) = (sharpest[along]?, sharpest[(along + 2) % 4]?);
        let (a, b) = (f64::from(a), f64::from(b));
        Some(((a * a - b * b).max(0.0).sqrt() * (a / b - 1.0).clamp(0.0, 1.0), along))
    };
    let most = (0..4).filter_map(pair).max_by(|a, b| a.0.total_cmp(&b.0));
    Texture {
        noise: whole_noise,
        blocks,
        edge,
        // a box as long as the smear rises from a tenth to nine tenths over eight tenths of it
        smear: most.map(|m| m.0 / 0.8 * pixel),
        smear_deg: most.map_or(0.0, |m| 45.0 * m.1 as f64),
        pixel,
        cells: (
            columns,
            by_cell
                .into_iter()
                .map(|mut v| if v.len() < FEW_IN_CELL { None } else { percentile(&mut v, 0.25) })
                .map(|w| w.map(|w| w * pixel as f32))
                .collect(),
        ),
    }
}

/// Way from a tenth to nine tenths of the step through a pixel along a way, in steps; `None` where it is no step, or has no end.
fn followed(l: &Luma, x: isize, y: isize, (dx, dy): (isize, isize), sign: f32, tolerance: f32) -> Option<f32> {
    let at = |i: isize| {
        let (px, py) = (x + i * dx, y + i * dy);
        (px >= 0 && py >= 0 && px < l.w as isize && py < l.h as isize)
            .then(|| sign * l.v[py as usize * l.w + px as usize])
    };
    // up to where it no longer rises, with what noise does allowed for
    let end = |way: isize| {
        let (mut best, mut top) = (0isize, at(0)?);
        for i in 1..=REACH as isize {
            let v = at(way * i)?;
            let rises = (v - top) * way as f32;
            if rises > 0.0 {
                (best, top) = (way * i, v);
            } else if -rises > tolerance || (way * i - best).abs() > 2 {
                return Some((best, top));
            }
        }
        None
    };
    let ((from, low), (to, high)) = (end(-1)?, end(1)?);
    if high - low < HEIGHT {
        return None;
    }
    let crossing = |share: f32| {
        let level = low + share * (high - low);
        let i = (from..to).find(|i| at(i + 1).is_some_and(|v| v >= level))?;
        let (a, b) = (at(i)?, at(i + 1)?);
        Some(i as f32 + if b > a { ((level - a) / (b - a)).clamp(0.0, 1.0) } else { 0.0 })
    };
    Some(crossing(0.9)? - crossing(0.1)?)
}

impl Texture {
    /// Width of the sharpest edges in the sharpest part of the picture, measured as about a place; of the two sharpest cells the second,
    /// for one may be chance.
    pub fn sharpest_cell(&self) -> Option<f64> {
        let mut all: Vec<f32> = self.cells.1.iter().flatten().copied().collect();
        all.sort_by(f32::total_cmp);
        all.get(1).or(all.first()).copied().map(f64::from)
    }

    /// Width of the sharpest edges about a place, share of the longer side: in the cell there and those beside it. `size` is that of
    /// the picture in pixels.
    pub fn edge_at(&self, at: [f64; 2], size: [f64; 2]) -> Option<f64> {
        let (columns, cells) = &self.cells;
        let rows = cells.len().checked_div(*columns)?;
        if rows == 0 || !at.iter().all(|v| v.is_finite()) {
            return None;
        }
        let cell = size[0].max(size[1]) / CELLS as f64;
        let (cx, cy) = ((at[0] / cell).floor() as i64, (at[1] / cell).floor() as i64);
        let near = (cy - 1..=cy + 1).flat_map(|y| (cx - 1..=cx + 1).map(move |x| (x, y)));
        near.filter(|(x, y)| (0..*columns as i64).contains(x) && (0..rows as i64).contains(y))
            .filter_map(|(x, y)| cells[y as usize * columns + x as usize])
            .reduce(f32::min)
            .map(f64::from)
    }
}

/// Encoded values of linear light, for pictures that are linear themselves.
pub(crate) fn code_of(linear: [f32; 3]) -> [f32; 3] {
    linear.map(encoded)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Noise of a fixed sequence, about normal: the sum of twelve even ones less six.
    struct Dice(u64);

    impl Dice {
        fn even(&mut self) -> f64 {
            self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            (self.0 >> 33) as f64 / (1u64 << 31) as f64
        }

        fn normal(&mut self) -> f64 {
            (0..12).map(|_| self.even()).sum::<f64>() - 6.0
        }
    }

    /// A grey picture: width, height, codes.
    struct Grey(usize, usize, Vec<u8>);

    impl Grey {
        fn texture(&self) -> Texture {
            texture_of(self.0, self.1, |x, y| [f32::from(self.2[y * self.0 + x]) / 255.0; 3])
        }
    }

    /// A picture of discs of several greys on a slope, blurred by a box along a way and by one across, with noise, in 8 bit.
    fn picture(w: usize, h: usize, along: (f64, f64, f64), noise: f64) -> Grey {
        let discs: Vec<([f64; 2], f64, f64)> = (0..14)
            .map(|i| {
                let k = f64::from(i);
                let at =
                    [(0.1 + 0.8 * (k * 0.618).fract()) * w as f64, (0.1 + 0.8 * (k * 0.414 + 0.3).fract()) * h as f64];
                (at, (0.04 + 0.03 * (k * 0.77).fract()) * w as f64, if i % 2 == 0 { 0.35 } else { -0.3 })
            })
            .collect();
        let scene = |x: f64, y: f64| {
            let mut v = 0.5 + 0.1 * x / w as f64;
            for (at, r, grey) in &discs {
                if (x - at[0]).hypot(y - at[1]) < *r {
                    v = 0.5 + grey;
                }
            }
            v
        };
        let (long, across, deg) = along;
        let (s, c) = deg.to_radians().sin_cos();
        let mut dice = Dice(7);
        let mut data = Vec::with_capacity(w * h);
        for y in 0..h {
            for x in 0..w {
                let mut sum = 0.0;
                let n = 9;
                for i in 0..n {
                    for j in 0..n {
                        let (a, b) =
                            ((f64::from(i) + 0.5) / f64::from(n) - 0.5, (f64::from(j) + 0.5) / f64::from(n) - 0.5);
                        let (u, v) = (a * long.max(1.0), b * across.max(1.0));
                        sum += scene(x as f64 + 0.5 + u * c - v * s, y as f64 + 0.5 + u * s + v * c);
                    }
                }
                let v = 255.0 * (sum / 81.0 + noise * dice.normal());
                data.push(v.round().clamp(0.0, 255.0) as u8);
            }
        }
        Grey(w, h, data)
    }

    #[test]
    fn noise_comes_back_as_it_was_put_in() {
        for sd in [0.01, 0.03, 0.06] {
            let t = picture(400, 320, (1.0, 1.0, 0.0), sd).texture();
            assert!((t.noise / sd - 1.0).abs() < 0.15, "{sd}: {t:?}");
        }
        // none, and what rounding to eight bits leaves: a third of a step
        assert!(picture(400, 320, (1.0, 1.0, 0.0), 0.0).texture().noise < 0.002);
    }

    #[test]
    fn blocks_stand_out_only_where_there_are_some() {
        let (w, h) = (400usize, 320usize);
        let plain = picture(w, h, (1.0, 1.0, 0.0), 0.02);
        assert!(plain.texture().blocks < 1e-4);
        // each block of eight as one grey: all that a picture keeps that was pressed hardest (ITU-T T.81: the first coefficient)
        let v = &plain.2;
        let mean = |bx: usize, by: usize| {
            let sum: u32 = (0..64).map(|i| u32::from(v[(by + i / 8) * w + bx + i % 8])).sum();
            (sum / 64) as u8
        };
        let pressed: Vec<u8> = (0..w * h).map(|i| mean(i % w / 8 * 8, i / w / 8 * 8)).collect();
        let t = Grey(w, h, pressed).texture();
        assert!(t.blocks > 2e-3, "{t:?}");
    }

    #[test]
    fn edges_are_as_wide_as_the_blur() {
        // a box of n pixels rises from a tenth to nine tenths over 0.8 n (definition of a box)
        for n in [6.0, 10.0, 16.0] {
            let t = picture(480, 400, (n, n, 0.0), 0.004).texture();
            let width = t.edge.expect("edges") * 480.0;
            assert!((width - 0.8 * n).abs() < 0.2 * n, "{n}: {width}");
            assert!(t.smear.expect("both ways") * 480.0 < 0.25 * n, "{n}: {t:?}");
        }
    }

    #[test]
    fn a_smear_has_a_length_and_a_way() {
        for (deg, n) in [(0.0, 9.0), (90.0, 9.0), (45.0, 10.0), (135.0, 14.0)] {
            let t = picture(480, 400, (n, 1.0, deg), 0.004).texture();
            let long = t.smear.expect("both ways") * 480.0;
            assert!((long - n).abs() < 0.3 * n && t.smear_deg == deg, "{deg} {n}: {long} {}", t.smear_deg);
        }
        assert!(picture(480, 400, (1.0, 1.0, 0.0), 0.004).texture().smear.expect("both ways") * 480.0 < 1.5);
    }

    #[test]
    fn what_has_no_edges_tells_none() {
        let flat = Grey(200, 200, vec![128; 40_000]).texture();
        assert_eq!((flat.edge, flat.smear, flat.noise, flat.blocks), (None, None, 0.0, 0.0));
        let tiny = Grey(3, 3, vec![9; 9]).texture();
        assert!(tiny.edge.is_none() && tiny.edge_at([1.0, 1.0], [3.0, 3.0]).is_none());
    }

    #[test]
    fn sharpness_is_told_where_it_is() {
        // the left half sharp, the right one blurred
        let (w, h) = (640usize, 400usize);
        let (a, b) = (picture(w, h, (1.0, 1.0, 0.0), 0.003), picture(w, h, (14.0, 14.0, 0.0), 0.003));
        let (a, mut both) = (a.2, b.2);
        for y in 0..h {
            both[y * w..y * w + w / 2].copy_from_slice(&a[y * w..y * w + w / 2]);
        }
        let t = Grey(w, h, both).texture();
        let of = |half: std::ops::Range<usize>| {
            let all = half.flat_map(|x| (0..h).step_by(40).map(move |y| [x as f64, y as f64]));
            all.filter_map(|at| t.edge_at(at, [w as f64, h as f64])).fold(f64::INFINITY, f64::min)
        };
        let (left, right) = (of(40..280), of(420..600));
        assert!(left * 640.0 < 3.0 && right * 640.0 > 7.0, "{left} {right}");
    }
}
