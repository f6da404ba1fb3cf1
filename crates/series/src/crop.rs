//! Crops that bring the pictures of a series to one scale on one base line.

use crate::list::ShotList;
use crate::shown::Shown;
use optics::photo::Photo;
use optics::tone::SrgbBytes;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A crop: a rectangle of the list's aspect, turned about its middle.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Crop {
    /// Its middle in the picture, pixels.
    #[schema(value_type = optics::geometry::Pair)]
    pub middle: [f64; 2],
    /// Width in pixels of the picture.
    pub width: f64,
    /// Height.
    pub height: f64,
    /// Degrees by which the picture is turned back, clockwise lean positive.
    pub turn_deg: f64,
    /// How much of it lies beyond the picture, as a share of its area.
    pub beyond: f64,
}

impl Crop {
    fn corners(&self) -> [[f64; 2]; 4] {
        let (s, c) = self.turn_deg.to_radians().sin_cos();
        [[-0.5, -0.5], [0.5, -0.5], [0.5, 0.5], [-0.5, 0.5]].map(|[u, v]| {
            let (x, y) = (u * self.width, v * self.height);
            [self.middle[0] + c * x - s * y, self.middle[1] + s * x + c * y]
        })
    }

    fn beyond_of(&self, w: f64, h: f64) -> f64 {
        const N: usize = 24;
        let [a, b, _, d] = self.corners();
        let outside = (0..N * N).filter(|i| {
            let (u, v) = (((i % N) as f64 + 0.5) / N as f64, ((i / N) as f64 + 0.5) / N as f64);
            let [x, y] = [0, 1].map(|k| a[k] + u * (b[k] - a[k]) + v * (d[k] - a[k]));
            x < 0.0 || y < 0.0 || x > w || y > h
        });
        outside.count() as f64 / (N * N) as f64
    }
}

/// Part of a crop's width that a subject takes at most.
const WIDEST: f64 = 0.86;
/// How far a picture is turned at most.
const MOST_TURN_DEG: f64 = 8.0;

/// A crop for each picture of a series: subjects at one scale on the list's base line in the middle. Those whose scale is judged share one;
/// where crops would reach beyond their pictures, the subjects are made larger in all, as far as the list's margin allows.
pub fn common(list: &ShotList, members: &[(&Shown, bool, bool)]) -> Vec<Option<Crop>> {
    // of a head the line is its eyes, and what is measured reaches from there to the chin: half a head
    let part = if list.of_people() { 0.5 * list.height_percent } else { list.height_percent } / 100.0;
    // what is wider than the crop at that height is made smaller in all
    let ratio = list.aspect[0] / list.aspect[1];
    let fits = |s: &Shown| {
        let s = s.subject.filter(|s| !s.cut)?;
        Some(WIDEST * ratio * s.length_px / (s.to[0] - s.from[0]).max(1.0))
    };
    let part = members.iter().filter(|m| m.1).filter_map(|m| fits(m.0)).fold(part, f64::min);
    let of = |shown: &Shown, upright: bool, share: f64| -> Option<Crop> {
        let s = shown.subject.filter(|s| !s.cut && s.length_px > 4.0)?;
        let height = s.length_px / share;
        let width = height * ratio;
        let turn = s.lean_deg.filter(|_| upright).map_or(0.0, |t| t.clamp(-MOST_TURN_DEG, MOST_TURN_DEG));
        let (sin, cos) = turn.to_radians().sin_cos();
        // from the base line to the crop's middle, upwards in the turned picture
        let up = height * (0.5 - list.base_percent / 100.0);
        let middle = [s.middle_px + sin * up, s.base_px - cos * up];
        let mut c = Crop { middle, width, height, turn_deg: turn, beyond: 0.0 };
        c.beyond = c.beyond_of(f64::from(shown.width), f64::from(shown.height));
        Some(c)
    };
    let all = |share: f64| -> Vec<Option<Crop>> { members.iter().map(|(s, _, up)| of(s, *up, share)).collect() };
    let mut share = part;
    for _ in 0..8 {
        let judged = all(share)
            .iter()
            .zip(members)
            .filter(|(_, m)| m.1)
            .filter_map(|(c, _)| c.map(|c| c.beyond))
            .fold(0.0, f64::max);
        if judged == 0.0 || share * 1.04 > (1.3 * part).min(0.92) {
            break;
        }
        share *= 1.04;
    }
    all(share)
}

/// The pixels of a crop at a size, sRGB of eight bits, by the mean over what falls on each; beyond the picture its nearest pixels.
pub fn cut(photo: &Photo, crop: &Crop, width: u32, height: u32) -> Vec<u8> {
    let [a, b, _, d] = crop.corners();
    // samples to a pixel of the result, along each side
    let n = ((crop.width / f64::from(width)).max(crop.height / f64::from(height)).ceil() as u32).clamp(1, 6);
    let bytes = SrgbBytes::default();
    let mut out = Vec::with_capacity((3 * width * height) as usize);
    let last = [f64::from(photo.width()) - 1.0, f64::from(photo.height()) - 1.0];
    for y in 0..height {
        for x in 0..width {
            let mut sum = [0.0f64; 3];
            for k in 0..n * n {
                let u = (f64::from(x) + (f64::from(k % n) + 0.5) / f64::from(n)) / f64::from(width);
                let v = (f64::from(y) + (f64::from(k / n) + 0.5) / f64::from(n)) / f64::from(height);
                let p = [0, 1].map(|k| (a[k] + u * (b[k] - a[k]) + v * (d[k] - a[k]) - 0.5).clamp(0.0, last[k]));
                // between four pixels
                let [fx, fy] = p.map(f64::floor);
                let (tx, ty) = (p[0] - fx, p[1] - fy);
                for (dx, dy, weight) in [
                    (0.0, 0.0, (1.0 - tx) * (1.0 - ty)),
                    (1.0, 0.0, tx * (1.0 - ty)),
                    (0.0, 1.0, (1.0 - tx) * ty),
                    (1.0, 1.0, tx * ty),
                ] {
                    if weight > 0.0 {
                        let c = photo.rgb((fx + dx).min(last[0]) as u32, (fy + dy).min(last[1]) as u32);
                        sum.iter_mut().zip(c).for_each(|(s, v)| *s += weight * f64::from(v));
                    }
                }
            }
            out.extend(sum.map(|v| bytes.of((v / f64::from(n * n)) as f32)));
        }
    }
    out
}
