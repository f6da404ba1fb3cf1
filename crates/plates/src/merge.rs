//! Merging by the lighter: which plate wins where, soft masks that keep to edges, what no plate lights, and how few do.

use crate::light::Light;
use optics::photo::luminance;
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Which plate is the lightest where.
#[derive(Debug, Clone, PartialEq)]
pub struct Winners {
    /// Blocks across and down.
    pub size: (usize, usize),
    /// Place of the lightest plate in their list, block by block.
    pub plate: Vec<u8>,
    /// Its linear luminance over the dark frame, weighted.
    pub light: Vec<f32>,
}

/// A part of the picture that no plate lights well.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Unlit {
    /// Corners of the rectangle about it, shares of the picture's width and height: left, top, right, bottom.
    pub part: Vec<f64>,
    /// Share of the picture.
    pub share: f64,
    /// Stops from middle grey of the lightest plate there, in the median.
    pub stops: f64,
    /// What to shoot, in a sentence.
    pub says: String,
}

/// What a merge by the lighter gives.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct MergePlan {
    /// Share of the picture that each plate wins.
    pub wins: Vec<f64>,
    /// Colour of each in the picture of who wins where, as #rrggbb.
    pub colours: Vec<String>,
    /// Plates in the order in which they help most: the first lights most, each next adds most.
    pub order: Vec<usize>,
    /// Of that order so many light what all of them light.
    pub enough: usize,
    /// Parts that no plate lights well.
    pub unlit: Vec<Unlit>,
    /// In sentences.
    pub says: Vec<String>,
}

/// Radius of the guided filter over the picture's longer side, and what counts as no edge, squared linear light.
const RADIUS: f64 = 0.012;
const FLAT: f32 = 2e-4;
/// Under this a part is not lit, stops from middle grey; and it must be so large, share of the picture.
const UNLIT_STOPS: f64 = -4.5;
const UNLIT_SHARE: f64 = 0.01;
/// A block is as light as it can be within this many stops, and so many of the lit blocks must be.
const NEARLY_STOPS: f32 = 0.5;
const NEARLY_ALL: f64 = 0.97;

/// Colours in which plates are told apart, linear in what is seen: evenly round the circle by the golden angle, so that neighbours differ.
pub fn colour_of(plate: usize) -> [f64; 3] {
    let turn = (plate as f64 * 137.507_764).to_radians();
    [0.0, 2.094_395, 4.188_790].map(|a| 0.65 + 0.35 * (turn + a).cos())
}

/// Means over squares of `2 r + 1`, by running sums.
fn box_mean(v: &[f32], (w, h): (usize, usize), r: usize) -> Vec<f32> {
    let along = |src: &[f32], n: usize, stride: usize, starts: &[usize]| {
        let mut out = vec![0f32; src.len()];
        for s in starts {
            let mut sum = vec![0f64; n + 1];
            for i in 0..n {
                sum[i + 1] = sum[i] + f64::from(src[s + i * stride]);
            }
            for i in 0..n {
                let (a, b) = (i.saturating_sub(r), (i + r + 1).min(n));
                out[s + i * stride] = ((sum[b] - sum[a]) / (b - a) as f64) as f32;
            }
        }
        out
    };
    let rows: Vec<usize> = (0..h).map(|y| y * w).collect();
    let columns: Vec<usize> = (0..w).collect();
    along(&along(v, w, 1, &rows), h, w, &columns)
}

/// The guided filter (He, Sun & Tang 2013): `p` smoothed along the edges of `guide`.
pub fn guided(guide: &[f32], p: &[f32], size: (usize, usize), r: usize, eps: f32) -> Vec<f32> {
    let times = |a: &[f32], b: &[f32]| a.iter().zip(b).map(|(x, y)| x * y).collect::<Vec<f32>>();
    let mean = |v: &[f32]| box_mean(v, size, r);
    let (mi, mp) = (mean(guide), mean(p));
    let (mii, mip) = (mean(&times(guide, guide)), mean(&times(guide, p)));
    let n = p.len();
    let a: Vec<f32> = (0..n).map(|i| (mip[i] - mi[i] * mp[i]) / (mii[i] - mi[i] * mi[i] + eps)).collect();
    let b: Vec<f32> = (0..n).map(|i| mp[i] - a[i] * mi[i]).collect();
    let (ma, mb) = (mean(&a), mean(&b));
    (0..n).map(|i| ma[i] * guide[i] + mb[i]).collect()
}

fn over_dark(p: &Light, dark: Option<&Light>, i: usize) -> f32 {
    let floor = dark.map_or(0.0, |d| luminance(d.rgb[i]));
    (luminance(p.rgb[i]) - floor).max(0.0) as f32
}

/// Finds the lightest plate of each block; `weights` are the factors of the mix.
pub fn winners(plates: &[&Light], dark: Option<&Light>, weights: &[f64]) -> Winners {
    let size = plates.first().map_or((0, 0), |p| (p.width, p.height));
    let values: Vec<Vec<f32>> = plates
        .par_iter()
        .enumerate()
        .map(|(k, p)| {
            let w = weights.get(k).copied().unwrap_or(1.0) as f32;
            let v: Vec<f32> = (0..p.len()).map(|i| w * over_dark(p, dark, i)).collect();
            // a speck of noise is no winner
            box_mean(&v, size, 1)
        })
        .collect();
    let n = size.0 * size.1;
    let pick = |i: usize| {
        let best = (0..values.len()).max_by(|a, b| values[*a][i].total_cmp(&values[*b][i])).unwrap_or(0);
        (best as u8, values.get(best).map_or(0.0, |v| v[i]))
    };
    let all: Vec<(u8, f32)> = (0..n).into_par_iter().map(pick).collect();
    Winners { size, plate: all.iter().map(|a| a.0).collect(), light: all.iter().map(|a| a.1).collect() }
}

impl Winners {
    /// A soft mask of each plate, 0 to 1, that keeps to the edges of what is merged; all of them add to one.
    pub fn masks(&self, plates: usize) -> Vec<Vec<f32>> {
        let n = self.light.len();
        // in a curve as the eye sees it, so that edges in the dark are edges too
        let guide: Vec<f32> = self.light.iter().map(|v| v.max(0.0).cbrt()).collect();
        let r = ((RADIUS * self.size.0.max(self.size.1) as f64) as usize).max(2);
        let mut masks: Vec<Vec<f32>> = (0..plates)
            .into_par_iter()
            .map(|k| {
                let hard: Vec<f32> = self.plate.iter().map(|p| f32::from(u8::from(usize::from(*p) == k))).collect();
                guided(&guide, &hard, self.size, r, FLAT).into_iter().map(|v| v.clamp(0.0, 1.0)).collect()
            })
            .collect();
        for i in 0..n {
            let sum: f32 = masks.iter().map(|m| m[i]).sum();
            if sum > 1e-6 {
                masks.iter_mut().for_each(|m| m[i] /= sum);
            }
        }
        masks
    }
}

fn where_words(x: f64, y: f64) -> String {
    let side = |v: f64, words: [&str; 3]| {
        words[if v < 0.36 {
            0
        } else if v > 0.64 {
            2
        } else {
            1
        }]
        .to_owned()
    };
    match (side(y, ["top", "", "bottom"]).as_str(), side(x, ["left", "", "right"]).as_str()) {
        ("", "") => "the middle".into(),
        ("", s) => format!("the {s} side"),
        (v, "") => format!("the {v}"),
        (v, s) => format!("the {v} {s}"),
    }
}

/// Connected parts of the picture under a level, the largest first.
fn unlit(w: &Winners) -> Vec<Unlit> {
    let (width, height) = w.size;
    let floor = (0.18 * UNLIT_STOPS.exp2()) as f32;
    let mut seen: Vec<bool> = w.light.iter().map(|v| *v >= floor).collect();
    let mut out = Vec::new();
    for start in 0..seen.len() {
        if seen[start] {
            continue;
        }
        let (mut stack, mut cells) = (vec![start], Vec::new());
        seen[start] = true;
        while let Some(i) = stack.pop() {
            cells.push(i);
            let (x, y) = (i % width, i / width);
            let mut visit = |k: usize| {
                if !seen[k] {
                    seen[k] = true;
                    stack.push(k);
                }
            };
            if x > 0 {
                visit(i - 1);
            }
            if x + 1 < width {
                visit(i + 1);
            }
            if y > 0 {
                visit(i - width);
            }
            if y + 1 < height {
                visit(i + width);
            }
        }
        let share = cells.len() as f64 / w.light.len() as f64;
        if share < UNLIT_SHARE {
            continue;
        }
        let part = |f: fn(f64, f64) -> f64, of: &dyn Fn(usize) -> f64| cells.iter().map(|i| of(*i)).reduce(f);
        let x = |i: usize| (i % width) as f64 / width as f64;
        let y = |i: usize| (i / width) as f64 / height as f64;
        let bounds: Vec<f64> = [part(f64::min, &x), part(f64::min, &y), part(f64::max, &x), part(f64::max, &y)]
            .into_iter()
            .flatten()
            .collect();
        let n = cells.len() as f64;
        let (mx, my) = (cells.iter().map(|i| x(*i)).sum::<f64>() / n, cells.iter().map(|i| y(*i)).sum::<f64>() / n);
        let mut levels: Vec<f64> = cells.iter().map(|i| f64::from(w.light[*i])).collect();
        let stops = (optics::solve::median(&mut levels).max(1e-6) / 0.18).log2();
        let place = where_words(mx, my);
        out.push(Unlit {
            part: bounds,
            share,
            stops,
            says: format!(
                "No plate lights {place} ({:.0} % of the picture, {stops:.1} stops from middle grey): if it is to be seen, shoot one with \
                 the lamp on that side; if it is background that stays dark, leave it.",
                100.0 * share
            ),
        });
    }
    out.sort_by(|a, b| b.share.total_cmp(&a.share));
    out.truncate(6);
    out
}

/// How a merge by the lighter comes out: what each plate wins, how few do, and what is missing.
pub fn plan(plates: &[&Light], dark: Option<&Light>, weights: &[f64], names: &[String]) -> MergePlan {
    let w = winners(plates, dark, weights);
    let n = w.light.len().max(1);
    let wins: Vec<f64> =
        (0..plates.len()).map(|k| w.plate.iter().filter(|p| usize::from(**p) == k).count() as f64 / n as f64).collect();
    let floor = (0.18 * UNLIT_STOPS.exp2()) as f32;
    let lit: Vec<usize> = (0..w.light.len()).filter(|i| w.light[*i] >= floor).step_by(3).collect();
    let value = |k: usize, i: usize| weights.get(k).copied().unwrap_or(1.0) as f32 * over_dark(plates[k], dark, i);
    // greedy: of those left the one that makes most blocks as light as they can be
    let mut best = vec![0f32; lit.len()];
    let (mut order, mut enough) = (Vec::new(), 0);
    let good = |v: f32, i: usize| v >= w.light[i] * (-NEARLY_STOPS).exp2();
    while order.len() < plates.len() {
        let gain =
            |k: usize| lit.iter().enumerate().filter(|(j, i)| !good(best[*j], **i) && good(value(k, **i), **i)).count();
        let left: Vec<usize> = (0..plates.len()).filter(|k| !order.contains(k)).collect();
        let gains: Vec<usize> = left.par_iter().map(|k| gain(*k)).collect();
        let Some(at) = (0..left.len()).max_by_key(|j| (gains[*j], plates.len() - left[*j])) else { break };
        let k = left[at];
        order.push(k);
        lit.iter().enumerate().for_each(|(j, i)| best[j] = best[j].max(value(k, *i)));
        let covered = lit.iter().enumerate().filter(|(j, i)| good(best[*j], **i)).count();
        if enough == 0 && covered as f64 >= NEARLY_ALL * lit.len() as f64 {
            enough = order.len();
        }
    }
    let unlit = unlit(&w);
    let name = |k: usize| names.get(k).cloned().unwrap_or_else(|| format!("plate {}", k + 1));
    let mut says = Vec::new();
    if enough > 0 && enough < plates.len() {
        let list: Vec<String> = order[..enough].iter().map(|k| name(*k)).collect();
        says.push(format!(
            "{} of {} plates light what all of them light within half a stop: {}.",
            enough,
            plates.len(),
            list.join(", ")
        ));
    }
    let idle: Vec<String> = (0..plates.len()).filter(|k| wins[*k] < 0.002).map(name).collect();
    if !idle.is_empty() {
        says.push(format!("Nowhere the lightest: {}.", idle.join(", ")));
    }
    says.extend(unlit.iter().map(|u| u.says.clone()));
    let hex =
        |k: usize| colour_of(k).iter().fold("#".to_owned(), |s, c| s + &format!("{:02x}", (255.0 * c).round() as u8));
    let colours = (0..plates.len()).map(hex).collect();
    MergePlan { wins, colours, order, enough, unlit, says }
}
