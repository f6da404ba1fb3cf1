//! A photograph under other lights: the quotient of two drawings of the same stand-in, under the lights that were read and under
//! those of a set, times the picture (quotient image: Shashua & Riklin-Raviv 2001). Paint cancels; what is left is light.

use crate::plates::Plates;
use crate::scene::Scene;
use lightset::set::LightSet;
use optics::photo::luminance;
use rayon::prelude::*;

/// A relit picture.
#[derive(Debug, Clone)]
pub struct Relit {
    /// Linear RGB, three values per pixel.
    pub rgb: Vec<f32>,
    /// Where it cannot be known: what was clipped or black in the picture, or had no light that could be measured.
    pub unknown: Vec<bool>,
}

/// Light that counts as none, of white: a quotient of less is noise.
const DARK: f32 = 0.006;
/// A pixel of the picture under this holds nothing to multiply.
const BLACK: f32 = 0.004;
/// Light that grows by more than this where there was next to none is made up.
const MADE_UP: f32 = 6.0;
/// Standard deviation of the blur that takes a drawing's grain out, and of the one that carries the subject's light out to hair
/// and ears that the stand-in lacks, as shares of the picture's width.
const GRAIN: f32 = 1.3 / 560.0;
const OUTWARD: f32 = 14.0 / 560.0;
/// The same for what lies behind: wide, as the stand-in's shadow does not fall where the sitter's does.
const BEHIND: f32 = 45.0 / 560.0;
/// How far light is carried where nothing nearer tells, as a share of the width.
const FAR: f32 = 130.0 / 560.0;
/// Stops by which light may change.
const MOST_STOPS: f32 = 6.0;

/// Where a set's picture shows a subject, not what lies behind it; one value per pixel, row by row.
pub fn shows_subject(set: &LightSet) -> Vec<bool> {
    let scene = Scene::new(set);
    let (w, h) = (set.picture.width as usize, set.picture.height as usize);
    (0..w * h)
        .into_par_iter()
        .map(|i| {
            let d = scene.ray((i % w) as f32 + 0.5, (i / w) as f32 + 0.5);
            scene.nearest(&scene.eye, &d, 0.0).is_some_and(|hit| hit.quad == usize::MAX)
        })
        .collect()
}

/// The light of a traced set without the sensor's clipping: linear RGB.
///
/// # Errors
/// If a power setting cannot be understood.
pub fn light(set: &LightSet, plates: &Plates) -> Result<Vec<f32>, String> {
    crate::develop::sum(set, plates)
}

/// A weighted Gaussian blur of values over a picture `w` wide; weights nought where nothing is known.
fn blurred(values: &[f32], weights: &[f32], w: usize, sd: f32) -> (Vec<f32>, Vec<f32>) {
    let reach = (2.5 * sd).ceil() as isize;
    let kernel: Vec<(isize, f32)> = (-reach..=reach).map(|k| (k, (-(k as f32 / sd).powi(2) / 2.0).exp())).collect();
    let total: f32 = kernel.iter().map(|k| k.1).sum();
    let h = values.len() / w;
    // one way: `step` pixels from one to the next of a line
    let pass = |v: &[f32], wt: &[f32], across: bool| {
        let (mut out, mut known) = (vec![0.0; v.len()], vec![0.0; v.len()]);
        let step = if across { 1 } else { w as isize };
        out.par_chunks_exact_mut(w).zip(known.par_chunks_exact_mut(w)).enumerate().for_each(|(y, (out, known))| {
            for x in 0..w {
                let (at, most) = if across { (x, w) } else { (y, h) };
                let (from, to) = (-(at as isize), (most - 1 - at) as isize);
                let i = y * w + x;
                let (mut s, mut n) = (0.0, 0.0);
                for (k, g) in kernel.iter().filter(|(k, _)| (from..=to).contains(k)) {
                    let j = (i as isize + k * step) as usize;
                    s += g * v[j] * wt[j];
                    n += g * wt[j];
                }
                out[x] = if n > 1e-6 { s / n } else { v[i] };
                known[x] = n / total;
            }
        });
        (out, known)
    };
    let (v, n) = pass(values, weights, true);
    pass(&v, &n, false)
}

/// Values carried out from where they are known, the farther the smoother.
fn carried_out(values: &[f32], known: &[f32], w: usize) -> Vec<f32> {
    let scale = |sd: f32| blurred(values, known, w, sd * w as f32);
    let mut out: Vec<f32> = Vec::new();
    for sd in [FAR, 3.0 * OUTWARD, OUTWARD] {
        let (v, n) = scale(sd);
        // what a scale knows well replaces what the wider one says
        let share = |n: f32| (n / 0.2).min(1.0);
        out = if out.is_empty() {
            v
        } else {
            out.iter().zip(v.iter().zip(&n)).map(|(o, (v, n))| o + (v - o) * share(*n)).collect()
        };
    }
    out
}

/// Side of the blocks in which what is carried far is worked out, pixels.
const BLOCK: usize = 4;

/// Weighted means over blocks: values, and how much of each block is known.
fn in_blocks(values: &[f32], weights: &[f32], w: usize) -> (Vec<f32>, Vec<f32>, usize) {
    let (h, few) = (values.len() / w, w.div_ceil(BLOCK));
    let mut out = (Vec::new(), Vec::new());
    for y in (0..h).step_by(BLOCK) {
        for x in (0..w).step_by(BLOCK) {
            let (mut s, mut n, mut all) = (0.0, 0.0, 0.0);
            for j in y..(y + BLOCK).min(h) {
                for i in x..(x + BLOCK).min(w) {
                    s += values[j * w + i] * weights[j * w + i];
                    n += weights[j * w + i];
                    all += 1.0;
                }
            }
            out.0.push(if n > 0.0 { s / n } else { 0.0 });
            out.1.push(n / all);
        }
    }
    (out.0, out.1, few)
}

/// Blocks as pixels again, linear between their middles.
fn from_blocks(small: &[f32], few: usize, w: usize, h: usize) -> Vec<f32> {
    let rows = small.len() / few;
    let along = |v: usize, most: usize| {
        let at = ((v as f32 + 0.5) / BLOCK as f32 - 0.5).clamp(0.0, most as f32 - 1.0);
        (at as usize, (at as usize + 1).min(most - 1), at.fract())
    };
    let across: Vec<(usize, usize, f32)> = (0..w).map(|x| along(x, few)).collect();
    let mut out = vec![0.0; w * h];
    out.par_chunks_exact_mut(w).enumerate().for_each(|(y, line)| {
        let (top, bottom, part) = along(y, rows);
        let row: Vec<f32> =
            (0..few).map(|x| small[top * few + x] * (1.0 - part) + small[bottom * few + x] * part).collect();
        line.iter_mut().zip(&across).for_each(|(o, (l, r, x))| *o = row[*l] * (1.0 - x) + row[*r] * x);
    });
    out
}

/// Where the stand-in is like the sitter, and where the picture shows what lies behind them both: made once for a picture.
#[derive(Debug, Clone)]
pub struct Matte {
    width: usize,
    like: Vec<f32>,
    subject: Vec<f32>,
    outside: Vec<f32>,
    back: Vec<f32>,
}

impl Matte {
    /// Of a linear picture `w` wide; `subject` is where the stand-in is like the sitter, `body` all of the stand-in. Hair and clothes
    /// stand out from it: what belongs to the sitter there follows the edges of the picture (guided filter: He, Sun & Tang 2013).
    pub fn of(picture: &[f32], [subject, body]: [&[bool]; 2], w: usize) -> Matte {
        let share = |m: &[bool], is: bool| m.iter().map(|s| f32::from(u8::from(*s == is))).collect::<Vec<f32>>();
        let (inside, outside) = (share(subject, true), share(body, false));
        let ones = vec![1.0; inside.len()];
        let sd = OUTWARD * w as f32;
        let alike = blurred(&inside, &ones, w, 0.5 * sd).0;
        let like = alike.iter().zip(&inside).map(|(a, i)| i * ((a - 0.5) * 4.0).clamp(0.0, 1.0)).collect();
        // the guide: tones as they are seen
        let guide: Vec<f32> =
            picture.chunks_exact(3).map(|p| (luminance([p[0], p[1], p[2]]) as f32).max(0.0).powf(0.4)).collect();
        // between what is surely the one and surely the other the picture decides
        let far = blurred(&outside, &ones, w, 0.7 * sd).0;
        let sure: Vec<f32> = (0..far.len()).map(|k| f32::from(u8::from(body[k] || far[k] > SURELY))).collect();
        let mean = |v: &[f32]| blurred(v, &sure, w, 2.0 * sd).0;
        let times = |a: &[f32], b: &[f32]| a.iter().zip(b).map(|(a, b)| a * b).collect::<Vec<f32>>();
        let (i, p) = (mean(&guide), mean(&outside));
        let (ip, ii) = (mean(&times(&guide, &outside)), mean(&times(&guide, &guide)));
        let a: Vec<f32> = (0..i.len()).map(|k| (ip[k] - i[k] * p[k]) / (ii[k] - i[k] * i[k] + EDGE)).collect();
        let b: Vec<f32> = (0..i.len()).map(|k| p[k] - a[k] * i[k]).collect();
        let smooth = |v: &[f32]| blurred(v, &ones, w, sd).0;
        let (a, b) = (smooth(&a), smooth(&b));
        let told = |k: usize| ((a[k] * guide[k] + b[k] - 0.2) / 0.4).clamp(0.0, 1.0);
        // far from the stand-in nothing is the sitter's
        let back = (0..i.len()).map(|k| told(k).max(((far[k] - SURELY) / (1.0 - SURELY)).clamp(0.0, 1.0))).collect();
        Matte { width: w, like, subject: inside, outside, back }
    }
}

/// Share of what lies behind round a place from which it surely does.
const SURELY: f32 = 0.97;
/// Variance of tones that counts as an edge in the guided filter.
const EDGE: f32 = 0.002;

/// What lights change, in stops for each channel, and where there was no light to change.
#[derive(Debug, Clone)]
pub struct Quotient {
    stops: [Vec<f32>; 3],
    unlit: Vec<bool>,
}

/// The quotient of two drawings of a stand-in, linear RGB of the matte's size: `before` under the lights that made the picture,
/// `after` under the others.
pub fn quotient(before: &[f32], after: &[f32], matte: &Matte) -> Quotient {
    let (n, w) = (matte.like.len(), matte.width);
    let h = n / w;
    let grain = (GRAIN * w as f32).max(0.6);
    let of = |p: &[f32], channel: usize| p.iter().skip(channel).step_by(3).copied().collect::<Vec<f32>>();
    let channels: Vec<(Vec<f32>, Vec<bool>)> = (0..3)
        .into_par_iter()
        .map(|channel| {
            let (a, b) = (of(before, channel), of(after, channel));
            let quotient = |weights: &[f32]| -> Vec<f32> {
                let ((a, _), (b, _)) = (blurred(&a, weights, w, grain), blurred(&b, weights, w, grain));
                a.iter().zip(&b).map(|(a, b)| ((b + DARK) / (a + DARK)).log2().clamp(-MOST_STOPS, MOST_STOPS)).collect()
            };
            let own = quotient(&matte.subject);
            let (small, known, few) = in_blocks(&own, &matte.subject, w);
            let around = from_blocks(&carried_out(&small, &known, few), few, w, h);
            let (small, known, few) = in_blocks(&quotient(&matte.outside), &matte.outside, w);
            let behind = from_blocks(&blurred(&small, &known, few, BEHIND * few as f32).0, few, w, h);
            let stops = (0..n).map(|i| {
                // soft from where it is like the sitter to what is near, and from there to what lies behind
                let on = around[i] + (own[i] - around[i]) * matte.like[i];
                on + (behind[i] - on) * matte.back[i] * (1.0 - matte.subject[i])
            });
            let unlit = (0..n).map(|i| matte.subject[i] > 0.5 && a[i] < 2.0 * DARK && b[i] > MADE_UP * (a[i] + DARK));
            (stops.collect(), unlit.collect())
        })
        .collect();
    let unlit = (0..n).map(|i| channels.iter().any(|c| c.1[i])).collect();
    let mut stops = channels.into_iter().map(|c| c.0);
    Quotient { stops: std::array::from_fn(|_| stops.next().unwrap_or_default()), unlit }
}

impl Quotient {
    /// Of a drawing a quarter as wide and high, as of a coarse first look, for a picture of `w` by `h` pixels.
    pub fn grown(&self, w: usize, h: usize) -> Quotient {
        let few = w.div_ceil(BLOCK);
        let unlit = (0..w * h)
            .into_par_iter()
            .map(|i| self.unlit.get((i / w / BLOCK) * few + i % w / BLOCK).is_some_and(|u| *u))
            .collect();
        Quotient { stops: self.stops.each_ref().map(|s| from_blocks(s, few, w, h)), unlit }
    }
}

/// A linear RGB picture a quarter as wide and high.
pub fn quartered(picture: &[f32], w: usize) -> Vec<f32> {
    let ones = vec![1.0; picture.len() / 3];
    let channel = |c: usize| in_blocks(&picture.iter().skip(c).step_by(3).copied().collect::<Vec<f32>>(), &ones, w).0;
    let all = [channel(0), channel(1), channel(2)];
    (0..3 * all[0].len()).map(|k| all[k % 3][k / 3]).collect()
}

/// The same of a mask: what most of a block is.
pub fn quartered_mask(mask: &[bool], w: usize) -> Vec<bool> {
    let values: Vec<f32> = mask.iter().map(|m| f32::from(u8::from(*m))).collect();
    in_blocks(&values, &vec![1.0; mask.len()], w).0.into_iter().map(|v| v > 0.5).collect()
}

/// Relights a linear RGB picture; `clipped` has one value per pixel.
pub fn relit(picture: &[f32], clipped: &[bool], by: &Quotient) -> Relit {
    let mut rgb = picture.to_vec();
    let light = |(i, p): (usize, &mut [f32])| p.iter_mut().zip(&by.stops).for_each(|(v, s)| *v *= s[i].exp2());
    rgb.par_chunks_exact_mut(3).enumerate().for_each(light);
    let unknown = (0..clipped.len())
        .into_par_iter()
        .map(|i| {
            let most = |p: &[f32]| p[3 * i..3 * i + 3].iter().copied().fold(0.0, f32::max);
            let (value, lit) = (most(picture), most(&rgb));
            by.unlit[i] || clipped[i] || (value < BLACK && lit > 2.0 * value)
        })
        .collect();
    Relit { rgb, unknown }
}

/// Draws what cannot be known hatched: every few pixels a slanting line of grey.
pub fn hatched(relit: &Relit, w: usize) -> Vec<f32> {
    let mut out = relit.rgb.clone();
    for (i, u) in relit.unknown.iter().enumerate() {
        if *u && (i % w + i / w) % 6 < 2 {
            out[3 * i..3 * i + 3].fill(HATCH);
        }
    }
    out
}

/// Grey of the hatching, linear.
const HATCH: f32 = 0.25;

#[cfg(test)]
mod tests {
    use super::*;

    fn all(picture: &[f32], n: usize, w: usize) -> Matte {
        Matte::of(picture, [&vec![true; n], &vec![true; n]], w)
    }

    /// The background takes its own light, the sitter theirs, and hair that the stand-in lacks goes with the sitter.
    #[test]
    fn hair_goes_with_the_head() {
        let (w, h) = (160usize, 160usize);
        let disc = |r: f32| {
            (0..w * h).map(|i| ((i % w) as f32 - 80.0).hypot((i / w) as f32 - 80.0) < r).collect::<Vec<bool>>()
        };
        let (head, hair) = (disc(40.0), disc(44.0));
        // dark hair before a pale wall; the head a stop brighter, the wall a stop darker
        let picture: Vec<f32> = (0..w * h)
            .flat_map(|i| {
                if head[i] {
                    [0.3; 3]
                } else if hair[i] {
                    [0.05; 3]
                } else {
                    [0.6; 3]
                }
            })
            .collect();
        let before = vec![0.2f32; 3 * w * h];
        let after: Vec<f32> = (0..w * h).flat_map(|i| [if head[i] { 0.4 } else { 0.1 }; 3]).collect();
        let r =
            relit(&picture, &vec![false; w * h], &quotient(&before, &after, &Matte::of(&picture, [&head, &head], w)));
        let off = |x: usize, y: usize| (r.rgb[3 * (y * w + x)] / picture[3 * (y * w + x)]).log2();
        assert!((off(80, 80) - 1.0).abs() < 0.15, "head {}", off(80, 80));
        assert!((off(8, 8) + 1.0).abs() < 0.25, "wall {}", off(8, 8));
        assert!(off(122, 80) > 0.2, "hair {}", off(122, 80));
        assert!(off(136, 80) < -0.3, "wall beside it {}", off(136, 80));
    }

    /// Paint cancels: a grey and a red patch, both lit a stop more, are both a stop brighter.
    #[test]
    fn paint_cancels() {
        let (w, n) = (40, 1600);
        let before: Vec<f32> = (0..3 * n).map(|_| 0.2).collect();
        let after: Vec<f32> = before.iter().map(|v| 2.0 * v).collect();
        let picture: Vec<f32> = (0..n).flat_map(|i| if i % 3 == 0 { [0.3, 0.02, 0.02] } else { [0.1; 3] }).collect();
        let r = relit(&picture, &vec![false; n], &quotient(&before, &after, &all(&picture, n, w)));
        let off = |i: usize| (r.rgb[i] / picture[i]).log2();
        assert!((0..3 * n).all(|i| (off(i) - 1.0).abs() < 0.05), "{}", off(0));
        assert!(r.unknown.iter().all(|u| !u));
    }

    /// What is clipped or black stays unknown, and is hatched; the rest is not.
    #[test]
    fn what_was_lost_is_not_made_up() {
        let (w, n) = (30, 900);
        let (before, after) = (vec![0.05f32; 3 * n], vec![0.4f32; 3 * n]);
        let mut picture = vec![0.2f32; 3 * n];
        picture[300..330].fill(0.0005);
        let mut clipped = vec![false; n];
        clipped[7] = true;
        let r = relit(&picture, &clipped, &quotient(&before, &after, &all(&picture, n, w)));
        assert!(r.unknown[7] && r.unknown[102] && !r.unknown[500]);
        let shown = hatched(&r, w);
        assert!((0..n).filter(|i| r.unknown[*i]).any(|i| shown[3 * i] == HATCH));
        assert_eq!(shown[1500], r.rgb[1500]);
        // light where there was none is not known either
        let dark = relit(&picture, &vec![false; n], &quotient(&vec![0.0f32; 3 * n], &after, &all(&picture, n, w)));
        assert!(dark.unknown.iter().all(|u| *u));
    }
}
