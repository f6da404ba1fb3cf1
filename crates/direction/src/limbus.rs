//! The limbus of a small iris, by an integral along it.
//!
//! An iris of a dozen pixels between two lids shows few edges that are its own: the circle is sought along whose left, right
//! and lower arc the picture turns brightest outwards (the integro-differential operator, Daugman 1993), lids and lashes above
//! left out, and what is skin outside counting little. All circles nearly as good speak with it: their mean is taken, and
//! their spread is its error.

use super::outline::Refined;
use crate::shapes::Ellipse;
use optics::photo::Photo;
use optics::solve::median;

/// Radius in pixels under which a limbus is sought this way.
pub const SMALL: f64 = 14.0;
/// The circles tried: steps, how far the centre may lie off the mark, and how far the radius, parts of the radius.
const STEP_PX: f64 = 0.5;
const OFF: f64 = 0.5;
const RADII: [f64; 9] = [0.84, 0.88, 0.92, 0.96, 1.0, 1.04, 1.08, 1.12, 1.16];
/// Spreads that are believed beforehand, parts of the radius; a circle as far off costs so much of a natural log.
const RADIUS_SD: f64 = 0.06;
const RADIUS_COST: f64 = 0.02;
/// A mark is kept that is off by less, parts of the radius: what is believed beforehand draws the mean to six tenths of what it is off, and
/// nine tenths of a pixel are to be found on the largest of these irises.
const KEPT: f64 = 0.05;
const CENTRE_SD: f64 = 0.35;
const CENTRE_COST: f64 = 0.03;
/// Natural log of brightness by which a circle is as good as the best.
const AS_GOOD: f64 = 0.02;
/// Contrast under which nothing there is an iris, natural log.
const LEAST: f64 = 0.05;
/// The arcs, degrees from image right over image down, and their steps.
const ARCS: (i32, i32, usize) = (-30, 210, 6);
/// Pixels inside and outside the circle between which it is compared, and where it is seen what lies outside.
const BESIDE: f64 = 1.0;
const OUTSIDE: f64 = 1.5;
/// Contrast counts between these, natural logs.
const CONTRAST: (f64, f64) = (-0.4, 0.8);
/// Of the skin's colour, what the white of an eye stays under; how sharply; what counts of a contrast against skin.
const WHITE: f64 = 0.7;
const WHITE_SD: f64 = 0.03;
const SKIN_COUNTS: f64 = 0.3;

/// Natural log of brightness and warmth of pixels about an eye.
struct Patch {
    x0: i64,
    y0: i64,
    wide: usize,
    high: usize,
    log: Vec<f64>,
    warm: Vec<f64>,
}

impl Patch {
    /// `None` if it does not lie in the picture whole.
    fn about(photo: &Photo, centre: [f64; 2], reach: f64) -> Option<Patch> {
        let [x0, y0] = centre.map(|c| (c - reach).floor() as i64 - 1);
        let side = (2.0 * reach).ceil() as usize + 3;
        let (mut log, mut warm) = (Vec::with_capacity(side * side), Vec::with_capacity(side * side));
        for y in 0..side as i64 {
            for x in 0..side as i64 {
                let s = photo.get(x0 + x, y0 + y)?;
                let [r, g, b] = s.rgb.map(f64::from);
                log.push((s.luminance().max(0.0) + 0.01).ln());
                warm.push((r - b) / (r + g + b + 0.01));
            }
        }
        Some(Patch { x0, y0, wide: side, high: side, log, warm })
    }

    /// Bilinear; at the edge what lies there.
    fn at(&self, of: &[f64], x: f64, y: f64) -> f64 {
        let fx = (x - 0.5 - self.x0 as f64).clamp(0.0, (self.wide - 2) as f64);
        let fy = (y - 0.5 - self.y0 as f64).clamp(0.0, (self.high - 2) as f64);
        let (i, j) = (fx as usize, fy as usize);
        let (tx, ty) = (fx - i as f64, fy - j as f64);
        let k = j * self.wide + i;
        let top = of[k] * (1.0 - tx) + of[k + 1] * tx;
        let bottom = of[k + self.wide] * (1.0 - tx) + of[k + self.wide + 1] * tx;
        top * (1.0 - ty) + bottom * ty
    }
}

/// The limbus of a small iris that was marked as about `start`: the mark itself if it is as good as any. `None` if it does not
/// lie in the picture, or nothing there is brighter outside.
pub fn settle(photo: &Photo, start: Ellipse) -> Option<Refined> {
    let r0 = (start.rx * start.ry).sqrt();
    let patch = Patch::about(photo, start.centre, 2.5 * r0 + OUTSIDE)?;
    let arcs: Vec<(f64, f64)> =
        (ARCS.0..=ARCS.1).step_by(ARCS.2).map(|a| f64::from(a).to_radians().sin_cos()).map(|(s, c)| (c, s)).collect();
    let around = (0..36).map(|k| f64::from(10 * k).to_radians());
    let mut skin: Vec<f64> = around
        .map(|a| patch.at(&patch.warm, start.centre[0] + 2.4 * r0 * a.cos(), start.centre[1] + 2.4 * r0 * a.sin()))
        .collect();
    let skin = median(&mut skin);
    // an ellipse keeps its flattening
    let flat = [start.rx / r0, start.ry / r0];
    let (sin, cos) = start.angle_deg.to_radians().sin_cos();
    let score = |x: f64, y: f64, r: f64| {
        let sum: f64 = arcs
            .iter()
            .map(|(c, s)| {
                let (u, v) = (c * cos + s * sin, -c * sin + s * cos);
                let own = r / (u / flat[0]).hypot(v / flat[1]);
                let at = |of: &[f64], k: f64| patch.at(of, x + (own + k) * c, y + (own + k) * s);
                let contrast = (at(&patch.log, BESIDE) - at(&patch.log, -BESIDE)).clamp(CONTRAST.0, CONTRAST.1);
                let white = 1.0 / (1.0 + ((at(&patch.warm, OUTSIDE) - WHITE * skin) / WHITE_SD).exp());
                contrast * (SKIN_COUNTS + (1.0 - SKIN_COUNTS) * white)
            })
            .sum();
        let off = ((x - start.centre[0]).powi(2) + (y - start.centre[1]).powi(2)) / (CENTRE_SD * r0).powi(2);
        sum / arcs.len() as f64 - RADIUS_COST * ((r / r0 - 1.0) / RADIUS_SD).powi(2) - CENTRE_COST * off
    };
    let steps = (OFF * r0 / STEP_PX).floor() as i64;
    let mut tried = Vec::with_capacity(RADII.len() * (2 * steps as usize + 1).pow(2));
    for k in RADII {
        for j in -steps..=steps {
            for i in -steps..=steps {
                let (x, y) = (start.centre[0] + STEP_PX * i as f64, start.centre[1] + STEP_PX * j as f64);
                tried.push(([x, y, k * r0], score(x, y, k * r0)));
            }
        }
    }
    let best = tried.iter().map(|t| t.1).fold(f64::MIN, f64::max);
    if best < LEAST {
        return None;
    }
    let weight = |s: f64| ((s - best) / AS_GOOD).exp();
    let total: f64 = tried.iter().map(|t| weight(t.1)).sum();
    let mean = [0, 1, 2].map(|k| tried.iter().map(|t| weight(t.1) * t.0[k]).sum::<f64>() / total);
    let var = [0, 1].map(|k| tried.iter().map(|t| weight(t.1) * (t.0[k] - mean[k]).powi(2)).sum::<f64>() / total);
    let sd_px = var[0].max(var[1]).sqrt().max(0.2);
    // the mark is as good
    let moved = (mean[0] - start.centre[0]).hypot(mean[1] - start.centre[1]);
    if moved < sd_px && (mean[2] / r0 - 1.0).abs() < KEPT {
        return Some(Refined { ellipse: start, sd_px, moved: false, support: 1.0 });
    }
    let k = mean[2] / r0;
    let ellipse = Ellipse { centre: [mean[0], mean[1]], rx: k * start.rx, ry: k * start.ry, ..start };
    Some(Refined { ellipse, sd_px, moved: true, support: 1.0 })
}

#[cfg(test)]
mod tests {
    use super::*;
    use optics::photo::Samples;
    use optics::tone::Encoding;

    /// An eye between lids that leave `open` pixels over and under its middle: dark iris, grey white, warm skin, each pixel the
    /// mean of what it covers.
    fn eye(centre: [f64; 2], radius: f64, open: [f64; 2]) -> Photo {
        let (w, h) = (90usize, 70usize);
        let colour = |x: f64, y: f64| {
            let (dx, dy) = (x - centre[0], y - centre[1]);
            let lid = 1.0 - (dx / (2.6 * radius)).powi(2);
            if dy < -open[0] * lid || dy > open[1] * lid {
                [0.42, 0.25, 0.17]
            } else if dx.hypot(dy) < radius {
                [0.05, 0.035, 0.025]
            } else {
                [0.40, 0.38, 0.36]
            }
        };
        let mut samples = Vec::new();
        for y in 0..h {
            for x in 0..w {
                let sub: Vec<[f64; 3]> = (0..64)
                    .map(|k| {
                        colour(x as f64 + (f64::from(k % 8) + 0.5) / 8.0, y as f64 + (f64::from(k / 8) + 0.5) / 8.0)
                    })
                    .collect();
                samples.extend((0..3).map(|c| (sub.iter().map(|s| s[c]).sum::<f64>() / 64.0) as f32));
            }
        }
        Photo::new(w as u32, h as u32, Samples::Linear(samples), &Encoding::Srgb).unwrap()
    }

    fn circle(centre: [f64; 2], r: f64) -> Ellipse {
        Ellipse { centre, rx: r, ry: r, angle_deg: 0.0 }
    }

    #[test]
    fn a_mark_beside_the_iris_is_set_right() {
        let centre = [45.3, 34.6];
        for (open, dx, dy, r) in
            [([4.0, 5.5], 1.5, 1.5, 7.6), ([3.0, 6.0], -1.2, 2.0, 6.4), ([5.0, 7.5], 0.8, -1.5, 7.2)]
        {
            let photo = eye(centre, 6.8, open);
            let got = settle(&photo, circle([centre[0] + dx, centre[1] + dy], r)).unwrap();
            let off = [0, 1].map(|k| got.ellipse.centre[k] - centre[k]);
            assert!(off[0].abs() < 0.5 && off[1].abs() < 0.9, "{open:?}: {off:?}");
            assert!((got.ellipse.rx - 6.8).abs() < 0.6, "{open:?}: {}", got.ellipse.rx);
            assert!(got.moved && off[1].abs() < 3.0 * got.sd_px, "{off:?} by {}", got.sd_px);
        }
    }

    #[test]
    fn a_good_mark_is_kept() {
        let photo = eye([45.0, 35.0], 7.0, [4.5, 6.5]);
        let got = settle(&photo, circle([45.0, 35.0], 7.0)).unwrap();
        assert!(!got.moved && got.ellipse.centre == [45.0, 35.0], "{got:?}");
    }

    #[test]
    fn where_there_is_no_eye_nothing_is_settled() {
        let grey = Photo::new(60, 60, Samples::Linear(vec![0.2; 60 * 60 * 3]), &Encoding::Srgb).unwrap();
        assert!(settle(&grey, circle([30.0, 30.0], 7.0)).is_none());
        assert!(settle(&grey, circle([5.0, 30.0], 7.0)).is_none(), "cut by the frame");
    }
}
