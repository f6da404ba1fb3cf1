//! A plate's mask painted by hand: where in the picture the plate counts, kept as strokes so that it can be drawn at any size.

use crate::light::Light;
use crate::merge::Winners;
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Most strokes of a mask, and most points of all of them together.
pub const MOST_STROKES: usize = 400;
/// Most points of the strokes of a mask.
pub const MOST_POINTS: usize = 12_000;
/// Most that is painted over by all strokes of a mask together, whole pictures: what drawing it takes goes with that.
pub const MOST_PAINTED: f64 = 150.0;
/// The same of all masks of a desk.
pub const MOST_PAINTED_TOGETHER: f64 = 600.0;
/// Radius of a stroke, share of the picture's longer side.
const RADIUS: [f64; 2] = [0.001, 0.5];
/// What is painted may lie beside the picture by so much of its width and height.
const BESIDE: f64 = 1.0;

/// What a mask is before anything is painted.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum MaskGround {
    /// The plate counts everywhere.
    #[default]
    All,
    /// It counts nowhere.
    None,
    /// It counts where it is the lightest of all, along the edges of what is seen.
    Lightest,
}

/// One stroke of a brush.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct MaskStroke {
    /// Where the brush went: shares of the picture's width and height, from its upper left corner.
    #[schema(value_type = Vec<optics::geometry::Pair>)]
    pub points: Vec<[f64; 2]>,
    /// Radius of the brush, share of the picture's longer side.
    pub radius: f64,
    /// Share of the radius over which it fades, 0 is a hard edge.
    #[serde(default)]
    pub soft: f64,
    /// Whether the plate counts there, or no more.
    #[serde(default)]
    pub adds: bool,
}

/// Where a plate counts.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PlateMask {
    /// What it is before anything is painted.
    #[serde(default)]
    pub ground: MaskGround,
    /// Strokes, the first first.
    #[serde(default)]
    pub strokes: Vec<MaskStroke>,
}

impl MaskStroke {
    /// What drawing it goes over, whole pictures: the rectangle about each part of its line with the brush's radius.
    fn over(&self) -> f64 {
        let side = |from: f64, to: f64| ((to - from).abs() + 2.0 * self.radius).min(1.0);
        segments(&self.points).map(|[a, b]| side(a[0], b[0]) * side(a[1], b[1])).sum()
    }
}

impl PlateMask {
    /// Says what is wrong with it, if anything.
    ///
    /// # Errors
    /// One sentence that names the field.
    pub fn check(&self) -> Result<(), String> {
        if self.strokes.len() > MOST_STROKES {
            return Err(format!("strokes: expected at most {MOST_STROKES}, found {}", self.strokes.len()));
        }
        let points: usize = self.strokes.iter().map(|s| s.points.len()).sum();
        if points > MOST_POINTS {
            return Err(format!("strokes: expected at most {MOST_POINTS} points together, found {points}"));
        }
        for (k, s) in self.strokes.iter().enumerate() {
            let near = |v: &f64| (-BESIDE..=1.0 + BESIDE).contains(v);
            if s.points.is_empty() || !s.points.iter().flatten().all(near) {
                return Err(format!("strokes[{k}].points: expected places on the picture, as shares of its sides"));
            }
            if !(RADIUS[0]..=RADIUS[1]).contains(&s.radius) || !(0.0..=1.0).contains(&s.soft) {
                return Err(format!(
                    "strokes[{k}]: expected a radius of {} to {} of the longer side and a softness of 0 to 1",
                    RADIUS[0], RADIUS[1]
                ));
            }
        }
        let over = self.over();
        if over > MOST_PAINTED {
            return Err(format!(
                "strokes: they go over the picture {over:.0} times together, more than {MOST_PAINTED}: take some back, or use fewer points"
            ));
        }
        Ok(())
    }

    /// What drawing it goes over, whole pictures.
    pub fn over(&self) -> f64 {
        self.strokes.iter().map(MaskStroke::over).sum()
    }

    /// How much the plate counts, 0 to 1, on a picture of `size` dots across and down, row by row. `ground` is what it is where it is
    /// to count where it is the lightest ([`Winners::masks`]); without it everywhere.
    ///
    /// A stroke covers what lies within its radius of its line, and fades by a smoothstep towards it; where strokes cross, each changes
    /// what is left by those before it.
    pub fn painted(&self, (w, h): (usize, usize), ground: Option<&[f32]>) -> Vec<f32> {
        let mut mask = match (self.ground, ground) {
            (MaskGround::Lightest, Some(g)) if g.len() == w * h => g.to_vec(),
            (MaskGround::None, _) => vec![0.0; w * h],
            _ => vec![1.0; w * h],
        };
        let side = w.max(h) as f64;
        for s in &self.strokes {
            let line: Vec<[f64; 2]> = s.points.iter().map(|p| [p[0] * w as f64, p[1] * h as f64]).collect();
            let (radius, core) = (s.radius * side, s.radius * side * (1.0 - s.soft));
            let [top, bottom] = [f64::min, f64::max].map(|f| line.iter().map(|p| p[1]).reduce(f).unwrap_or(0.0));
            let within = |v: f64, n: usize| v.clamp(0.0, n as f64) as usize;
            let (y0, y1) = (within((top - radius).floor(), h), within((bottom + radius).ceil(), h));
            mask[y0 * w..y1 * w].par_chunks_mut(w.max(1)).enumerate().for_each(|(j, row)| {
                let y = (y0 + j) as f64 + 0.5;
                // how far the brush stayed away from each dot, where it came near
                let mut away = vec![f64::MAX; w];
                for part in segments(&line) {
                    let [a, b] = part;
                    if a[1].min(b[1]) - radius > y + 1.0 || a[1].max(b[1]) + radius < y - 1.0 {
                        continue;
                    }
                    let from = within((a[0].min(b[0]) - radius - 1.0).floor(), w);
                    let to = within((a[0].max(b[0]) + radius + 1.0).ceil(), w);
                    for (x, d) in away.iter_mut().enumerate().take(to).skip(from) {
                        *d = d.min(distance([x as f64 + 0.5, y], &part));
                    }
                }
                for (m, d) in row.iter_mut().zip(&away).filter(|(_, d)| **d < f64::MAX) {
                    let share = covered(*d, core, radius) as f32;
                    *m = if s.adds { *m + share * (1.0 - *m) } else { *m * (1.0 - share) };
                }
            });
        }
        mask
    }
}

/// The parts of a line; a single point is one of no length.
fn segments(line: &[[f64; 2]]) -> impl Iterator<Item = [[f64; 2]; 2]> + '_ {
    let one = (line.len() == 1).then(|| [line[0], line[0]]);
    line.windows(2).map(|p| [p[0], p[1]]).chain(one)
}

fn distance(p: [f64; 2], [a, b]: &[[f64; 2]; 2]) -> f64 {
    let (d, e) = ([b[0] - a[0], b[1] - a[1]], [p[0] - a[0], p[1] - a[1]]);
    let along = ((e[0] * d[0] + e[1] * d[1]) / (d[0] * d[0] + d[1] * d[1]).max(1e-12)).clamp(0.0, 1.0);
    (e[0] - along * d[0]).hypot(e[1] - along * d[1])
}

/// How much a brush covers at a distance from its line: all within `core`, none beyond `radius`. A hard brush ends over one dot.
fn covered(d: f64, core: f64, radius: f64) -> f64 {
    let (core, radius) = if radius - core < 1.0 { (radius - 0.5, radius + 0.5) } else { (core, radius) };
    let t = ((radius - d) / (radius - core)).clamp(0.0, 1.0);
    t * t * (3.0 - 2.0 * t)
}

/// The masks of plates in blocks, as far as they have one. `lightest` is asked once if one of them counts where it is the lightest.
pub fn painted(
    masks: &[Option<&PlateMask>],
    size: (usize, usize),
    lightest: impl FnOnce() -> Winners,
) -> Vec<Option<Vec<f32>>> {
    let asks = masks.iter().flatten().any(|m| m.ground == MaskGround::Lightest);
    let soft = if asks { lightest().masks(masks.len()) } else { Vec::new() };
    let one = |(k, m): (usize, &Option<&PlateMask>)| m.map(|m| m.painted(size, soft.get(k).map(|g| &g[..])));
    masks.iter().enumerate().map(one).collect()
}

impl Light {
    /// The same where what it has over the dark frame counts by a mask in its blocks.
    pub fn masked(&self, mask: &[f32], dark: Option<&Light>) -> Light {
        let one = |(i, (c, m)): (usize, (&[f32; 3], &f32))| {
            let floor = dark.map_or([0.0; 3], |d| d.rgb[i]);
            [0, 1, 2].map(|k| floor[k] + m * (c[k] - floor[k]))
        };
        Light { rgb: self.rgb.iter().zip(mask).enumerate().map(one).collect(), ..self.clone() }
    }
}
