//! A photograph under other lights: the quotient of two drawings of the same stand-in, under the lights that were read and under
//! those of a set, times the picture (quotient image: Shashua & Riklin-Raviv 2001). Paint cancels; what is left is light.

use crate::plates::Plates;
use crate::scene::Scene;
use lightset::set::LightSet;
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
    let kernel: Vec<f32> = (-reach..=reach).map(|k| (-(k as f32 / sd).powi(2) / 2.0).exp()).collect();
    let total: f32 = kernel.iter().sum();
    let h = values.len() / w;
    let pass = |v: &[f32], wt: &[f32], step: usize, line: &(dyn Fn(usize) -> (usize, usize) + Sync)| -> (Vec<f32>, Vec<f32>) {
        (0..v.len())
            .into_par_iter()
            .map(|i| {
                let (at, most) = line(i);
                let (mut s, mut n) = (0.0, 0.0);
                for (k, g) in kernel.iter().enumerate() {
                    let to = at as isize + k as isize - reach;
                    if to < 0 || to >= most as isize {
                        continue;
                    }
                    let j = (i as isize + (to - at as isize) * step as isize) as usize;
                    s += g * v[j] * wt[j];
                    n += g * wt[j];
                }
                (if n > 1e-6 { s / n } else { v[i] }, n / total)
            })
            .unzip()
    };
    let (v, n) = pass(values, weights, 1, &|i| (i % w, w));
    pass(&v, &n, w, &|i| (i / w, h))
}

/// Values carried out from where they are known, the farther the smoother.
fn carried_out(values: &[f32], known: &[f32], w: usize) -> Vec<f32> {
    let scale = |sd: f32| blurred(values, known, w, sd * w as f32);
    let mut out: Vec<f32> = Vec::new();
    for sd in [FAR, 3.0 * OUTWARD, OUTWARD] {
        let (v, n) = scale(sd);
        // what a scale knows well replaces what the wider one says
        let share = |n: f32| (n / 0.2).min(1.0);
        out = if out.is_empty() { v } else { out.iter().zip(v.iter().zip(&n)).map(|(o, (v, n))| o + (v - o) * share(*n)).collect() };
    }
    out
}

/// Relights a picture: `picture`, `before` and `after` are linear RGB of one size `w` wide, `clipped`, `subject` and `body` one value
/// per pixel; `subject` is where the stand-in is like the sitter, `body` all of it: what lies beyond takes the light of what is near.
/// `before` is the stand-in under the lights that made the picture, `after` under the others.
pub fn relit(picture: &[f32], clipped: &[bool], before: &[f32], after: &[f32], [subject, body]: [&[bool]; 2], w: usize) -> Relit {
    let n = subject.len();
    let inside: Vec<f32> = subject.iter().map(|s| f32::from(u8::from(*s))).collect();
    let outside: Vec<f32> = body.iter().map(|s| f32::from(u8::from(!s))).collect();
    let grain = (GRAIN * w as f32).max(0.6);
    let ones = vec![1.0; n];
    let (alike, _) = blurred(&inside, &ones, w, 0.5 * OUTWARD * w as f32);
    // hair stands out from the stand-in's head
    let (behind_it, _) = blurred(&outside, &ones, w, 1.5 * OUTWARD * w as f32);
    let mut rgb = vec![0.0f32; 3 * n];
    let mut unknown = vec![false; n];
    for channel in 0..3 {
        let of = |p: &[f32]| p.iter().skip(channel).step_by(3).copied().collect::<Vec<f32>>();
        let (a, b) = (of(before), of(after));
        let quotient = |weights: &[f32]| -> Vec<f32> {
            let ((a, _), (b, _)) = (blurred(&a, weights, w, grain), blurred(&b, weights, w, grain));
            a.iter().zip(&b).map(|(a, b)| ((b + DARK) / (a + DARK)).log2().clamp(-MOST_STOPS, MOST_STOPS)).collect()
        };
        let own = quotient(&inside);
        let around = carried_out(&own, &inside, w);
        let behind = blurred(&quotient(&outside), &outside, w, BEHIND * w as f32).0;
        for i in 0..n {
            // soft from where it is like the sitter to what is near, and from there to what lies behind
            let like = if subject[i] { ((alike[i] - 0.5) * 4.0).clamp(0.0, 1.0) } else { 0.0 };
            let on = around[i] + (own[i] - around[i]) * like;
            let back = ((behind_it[i] - 0.6) / 0.35).clamp(0.0, 1.0);
            let q = on + (behind[i] - on) * if subject[i] { 0.0 } else { back };
            rgb[3 * i + channel] = picture[3 * i + channel] * q.exp2();
            let from_nothing = a[i] < 2.0 * DARK && b[i] > MADE_UP * (a[i] + DARK);
            unknown[i] |= from_nothing && subject[i];
        }
    }
    for i in 0..n {
        let value = picture[3 * i..3 * i + 3].iter().copied().fold(0.0, f32::max);
        let brighter = rgb[3 * i..3 * i + 3].iter().copied().fold(0.0, f32::max) > 2.0 * value;
        unknown[i] |= clipped[i] || (value < BLACK && brighter);
    }
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

    /// Paint cancels: a grey and a red patch, both lit a stop more, are both a stop brighter.
    #[test]
    fn paint_cancels() {
        let (w, n) = (40, 1600);
        let before: Vec<f32> = (0..3 * n).map(|_| 0.2).collect();
        let after: Vec<f32> = before.iter().map(|v| 2.0 * v).collect();
        let picture: Vec<f32> = (0..n).flat_map(|i| if i % 3 == 0 { [0.3, 0.02, 0.02] } else { [0.1; 3] }).collect();
        let r = relit(&picture, &vec![false; n], &before, &after, [&vec![true; n], &vec![true; n]], w);
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
        let r = relit(&picture, &clipped, &before, &after, [&vec![true; n], &vec![true; n]], w);
        assert!(r.unknown[7] && r.unknown[102] && !r.unknown[500]);
        let shown = hatched(&r, w);
        assert!((0..n).filter(|i| r.unknown[*i]).any(|i| shown[3 * i] == HATCH));
        assert_eq!(shown[1500], r.rgb[1500]);
        // light where there was none is not known either
        let dark = relit(&picture, &vec![false; n], &vec![0.0f32; 3 * n], &after, [&vec![true; n], &vec![true; n]], w);
        assert!(dark.unknown.iter().all(|u| *u));
    }
}
