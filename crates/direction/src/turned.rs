//! A glossy body of revolution by its outline: bottle, jar, can, vase.
//!
//! Its upright part mirrors what stands round it at its own height, as a cylinder does. Where the outline leans the normal looks up
//! or down by the outline's slope, and higher or lower things are mirrored (law of reflection: `r = 2 (n·v) n - v`): a line that goes
//! on over the shoulder is of a source that reaches up so far, one that breaks there of a source that ends below.
//!
//! The outline is walked upwards: shares of the axis from 0 at the foot to 1 at the head. Seen from far enough the offset across of a
//! normal turned by `psi` is `radius * sin(psi)` at every height, so one outline serves all of it.

use crate::cylinder::{Across, CylinderProblem, Strip, normal_azimuth};
use optics::geometry::Camera;
use optics::photo::Photo;
use optics::solve::median;

/// A body of revolution on the picture.
#[derive(Debug, Clone)]
pub struct Turned {
    foot: [f64; 2],
    up: [f64; 2],
    across: [f64; 2],
    length: f64,
    profile: Vec<[f64; 2]>,
}

/// Up to where a line's source reaches, by where the line ends on what leans.
#[derive(Debug, Clone, Copy)]
pub struct Reach {
    /// Elevation in radians; the highest that is mirrored at all, if the line does not end.
    pub elevation: f64,
    /// Standard deviation, radians.
    pub sd: f64,
    /// It reaches at least so far.
    pub open: bool,
}

/// One bright line.
#[derive(Debug, Clone)]
pub struct TurnedLine {
    /// On the upright part.
    pub strip: Strip,
    /// Shares of the axis between which it is seen on the upright part.
    pub rows: [f64; 2],
    /// Its upper end, from the shoulder.
    pub top: Option<Reach>,
}

/// A part of the upright body with one surface.
#[derive(Debug, Clone, Copy)]
pub struct Band {
    /// Shares of the axis.
    pub rows: [f64; 2],
    /// How strongly the strongest line shows here, of where it shows most; nothing without a line.
    pub gloss: Option<f64>,
}

/// What a body of revolution says.
#[derive(Debug, Clone)]
pub struct TurnedReading {
    /// Bright lines by azimuth.
    pub lines: Vec<TurnedLine>,
    /// Surfaces of the upright part from below.
    pub bands: Vec<Band>,
    /// Shares of the axis between which it is upright.
    pub body: [f64; 2],
    /// Azimuth in radians, light and level of a line, of the band with the strongest lines.
    pub profile: Vec<[f64; 3]>,
}

/// Part of the largest radius from which the outline is body, and slope up to which it is upright.
const BODY: f64 = 0.9;
const UPRIGHT: f64 = 0.16;
/// Part of the length over which what is upright shows it.
const UPRIGHT_PART: f64 = 0.035;
/// Pixels over which a slope is taken, and part of the length.
const SLOPE_PX: f64 = 2.0;
const SLOPE_PART: f64 = 0.012;
/// Most bands of a body, and least rows of one.
const MOST_BANDS: usize = 8;
const LEAST_ROWS: f64 = 5.0;
/// Step of the middle light from row to row that parts bands, natural log.
const STEP: f64 = 0.16;
/// Part of the height of what shines along which a line is seen.
const ALONG: f64 = 0.35;
/// How much brighter than the darkest part of the body paper is, and stops over it from which a line on it is no print.
const PAPER: f64 = 3.0;
const SHINES_STOPS: f64 = 1.5;
/// Azimuth within which lines of two bands are one, radians.
const ONE: f64 = 0.1;
/// A line that shows less than this share of its strongest is none on its band.
const FAINT: f64 = 0.12;
/// Uncertainty of a slope taken from an outline, radians.
const SLOPE_SD: f64 = 0.03;
/// Elevation of the lens over the product that is not known, radians: half product pictures look down by five degrees or more.
const LENS_SD: f64 = 0.06;
/// How much brighter or darker the rows beside a line become where the surface is another, natural log.
const OTHER: f64 = 0.5;
/// Part of a line's light at which it ends.
const HALF: f64 = 0.5;

/// Shares of the axis between which something lies.
type Rows = [f64; 2];

impl Turned {
    /// From its axis (foot and head) and its outline: share of the axis and radius in pixels, walked upwards. `None` where there is
    /// too little of it.
    pub fn new(axis: [[f64; 2]; 2], profile: &[[f64; 2]]) -> Option<Turned> {
        let [foot, head] = axis;
        let length = (head[0] - foot[0]).hypot(head[1] - foot[1]);
        if length < 16.0 || profile.len() < 2 {
            return None;
        }
        let up = [(head[0] - foot[0]) / length, (head[1] - foot[1]) / length];
        let mut profile = profile.to_vec();
        profile.sort_by(|a, b| a[0].total_cmp(&b[0]));
        Some(Turned { foot, up, across: [-up[1], up[0]], length, profile })
    }

    /// Radius at a share of the axis, pixels.
    pub fn radius(&self, t: f64) -> f64 {
        let after = self.profile.partition_point(|p| p[0] < t).clamp(1, self.profile.len() - 1);
        let (a, b) = (self.profile[after - 1], self.profile[after]);
        let k = if b[0] - a[0] < 1e-9 { 1.0 } else { ((t - a[0]) / (b[0] - a[0])).clamp(0.0, 1.0) };
        a[1] + (b[1] - a[1]) * k
    }

    /// Elevation of the normal, radians: up where it narrows upwards.
    pub fn tilt(&self, t: f64) -> f64 {
        self.slope(t, (SLOPE_PX / self.length).max(SLOPE_PART))
    }

    fn slope(&self, t: f64, d: f64) -> f64 {
        let (a, b) = ((t - d).max(0.0), (t + d).min(1.0));
        ((self.radius(a) - self.radius(b)) / ((b - a) * self.length)).atan()
    }

    /// A place on the picture.
    fn point(&self, t: f64, s: f64) -> [f64; 2] {
        let (a, r) = (t * self.length, s * self.radius(t));
        [0, 1].map(|k| self.foot[k] + self.up[k] * a + self.across[k] * r)
    }

    /// Shares of the axis between which it is upright: the longest stretch; `None` where nothing is.
    pub fn body(&self) -> Option<[f64; 2]> {
        let n = (self.length as usize).clamp(32, 2000);
        // a rim or a foot that stands out is not the body
        let mut all: Vec<f64> = (0..n).map(|k| self.radius((k as f64 + 0.5) / n as f64)).collect();
        all.sort_by(f64::total_cmp);
        let widest = all[n * 9 / 10];
        let mut best: Option<[usize; 2]> = None;
        let mut from = None;
        for k in 0..=n {
            let t = k as f64 / n as f64;
            let upright = k < n
                && (BODY * widest..widest / BODY).contains(&self.radius(t))
                && self.slope(t, UPRIGHT_PART).abs() < UPRIGHT;
            match (upright, from) {
                (true, None) => from = Some(k),
                (false, Some(a)) => {
                    if best.is_none_or(|b| k - a > b[1] - b[0]) {
                        best = Some([a, k]);
                    }
                    from = None;
                }
                _ => {}
            }
        }
        let [a, b] = best?.map(|k| k as f64 / n as f64);
        ((b - a) * self.length > LEAST_ROWS).then_some([a, b])
    }

    /// The axis as two points, and the body's radius.
    fn axis(&self) -> [[f64; 2]; 2] {
        [self.foot, [0, 1].map(|k| self.foot[k] + self.up[k] * self.length)]
    }

    /// Azimuth and elevation of what is mirrored at a share of the axis and an offset across, radians.
    pub fn mirrored(&self, camera: Camera, t: f64, s: f64) -> [f64; 2] {
        let mid = self.point(t, 0.0);
        let psi = normal_azimuth(camera, mid, self.across, s, self.radius(t));
        let alpha = self.tilt(t);
        let [x, y] = self.point(t, s);
        let v = camera.to_set(&camera.view(x, y));
        let n = optics::geometry::Vec3::new(alpha.cos() * psi.sin(), alpha.sin(), alpha.cos() * psi.cos());
        let r = n * (2.0 * n.dot(&v)) - v;
        [r.x.atan2(r.z), r.y.clamp(-1.0, 1.0).asin()]
    }

    /// Offset across at which an azimuth is mirrored at a share of the axis.
    fn offset_of(&self, camera: Camera, t: f64, azimuth: f64) -> Option<f64> {
        let at = |s: f64| self.mirrored(camera, t, s)[0];
        let (mut lo, mut hi) = (-0.97, 0.97);
        if at(lo) > azimuth || at(hi) < azimuth {
            return None;
        }
        for _ in 0..30 {
            let mid = f64::midpoint(lo, hi);
            if at(mid) < azimuth { lo = mid } else { hi = mid }
        }
        Some(f64::midpoint(lo, hi))
    }

    /// Light at a share of the axis from the middle of a line, less what lies beside it.
    fn excess(&self, photo: &Photo, camera: Camera, t: f64, strip: &Strip) -> Option<f64> {
        let middle = f64::midpoint(strip.from, strip.to);
        let wide = strip.wide();
        let light = |azimuth: f64| {
            let [x, y] = self.point(t, self.offset_of(camera, t, azimuth)?);
            photo.luminance_between(x, y)
        };
        let on: Vec<f64> = [-0.25, 0.0, 0.25].iter().filter_map(|k| light(middle + k * wide)).collect();
        let brightest = on.iter().copied().fold(f64::NAN, f64::max);
        let beside =
            [-1.0, 1.0].iter().filter_map(|k| light(middle + k * (0.5 * wide + 0.14))).fold(f64::MAX, f64::min);
        (brightest.is_finite() && beside < f64::MAX).then(|| (brightest - beside).max(0.0))
    }

    /// Light of the middle of a row.
    fn row(&self, photo: &Photo, t: f64) -> Option<f64> {
        let mut all: Vec<f64> = (0..41)
            .filter_map(|i| {
                let [x, y] = self.point(t, -0.8 + 0.04 * f64::from(i));
                photo.luminance_between(x, y)
            })
            .collect();
        (all.len() > 30).then(|| {
            all.sort_by(f64::total_cmp);
            all[all.len() * 35 / 100].max(1e-3)
        })
    }

    /// Stretches of the body whose rows are alike.
    fn bands(&self, photo: &Photo, body: [f64; 2]) -> Vec<[f64; 2]> {
        let tall = (body[1] - body[0]) * self.length;
        let n = (tall as usize).clamp(8, 400);
        let t = |k: f64| body[0] + (body[1] - body[0]) * k / n as f64;
        let rows: Vec<f64> = (0..n).map(|k| self.row(photo, t(k as f64 + 0.5)).unwrap_or(1e-3).ln()).collect();
        let mut cuts = vec![0usize];
        for k in 2..n.saturating_sub(2) {
            let mean = |a: usize, b: usize| rows[a..b].iter().sum::<f64>() / (b - a) as f64;
            let step = |k: usize| (mean(k.saturating_sub(3), k) - mean(k, (k + 3).min(n))).abs();
            let here = step(k);
            if here > STEP && here >= step(k - 1) && here > step(k + 1) && k - cuts[cuts.len() - 1] > 2 {
                cuts.push(k);
            }
        }
        cuts.push(n);
        let mut bands: Vec<[f64; 2]> = cuts.windows(2).map(|w| [t(w[0] as f64), t(w[1] as f64)]).collect();
        // a pixel or two to each side of a step is of both
        bands.iter_mut().for_each(|b| {
            let edge = (1.5 / self.length).min(0.2 * (b[1] - b[0]));
            *b = [b[0] + edge, b[1] - edge];
        });
        bands.retain(|b| (b[1] - b[0]) * self.length >= LEAST_ROWS);
        bands.sort_by(|a, b| (b[1] - b[0]).total_cmp(&(a[1] - a[0])));
        bands.truncate(MOST_BANDS);
        bands.sort_by(|a, b| a[0].total_cmp(&b[0]));
        bands
    }

    /// Reads its bright lines.
    ///
    /// # Errors
    /// A [`CylinderProblem`]: too small, outside, or nothing of it upright.
    pub fn read(&self, photo: &Photo, camera: Camera) -> Result<TurnedReading, CylinderProblem> {
        let body = self.body().ok_or(CylinderProblem::NoBody)?;
        let radius = self.radius(f64::midpoint(body[0], body[1]));
        let bands = self.bands(photo, body);
        let across = |rows: [f64; 2]| Across::of(photo, self.axis(), radius, rows);
        let mut seen: Vec<(Rows, Across, Vec<Strip>)> = Vec::new();
        let mut problem = None;
        for rows in if bands.is_empty() { vec![body] } else { bands } {
            match across(rows) {
                Ok(a) => {
                    let strips = a.strips(camera);
                    seen.push((rows, a, strips));
                }
                Err(e) => problem = Some(e),
            }
        }
        if seen.is_empty() {
            return Err(problem.unwrap_or(CylinderProblem::Outside));
        }
        // a line is measured where it shows best, and on most rows: a thin stretch may be cut by print
        let shows = |(k, s): &(usize, Strip)| {
            let rows: &Rows = &seen[*k].0;
            s.light() * s.over_stops * (rows[1] - rows[0]).sqrt() / (1.0 + 2.0 * s.edge)
        };
        let mut all: Vec<(usize, Strip)> =
            seen.iter().enumerate().flat_map(|(k, b)| b.2.iter().map(move |s| (k, *s))).collect();
        all.sort_by(|a, b| shows(b).total_cmp(&shows(a)));
        let mut kept: Vec<(usize, Strip)> = Vec::new();
        for (k, s) in all {
            let over = |o: &Strip| s.from < o.to + ONE && o.from < s.to + ONE;
            // two lines of one band are two; of another band it is the same line seen less well
            if !kept.iter().any(|(j, o)| *j != k && over(o)) {
                kept.push((k, s));
            }
        }
        let strongest = kept.iter().map(|(_, s)| s.light()).fold(0.0, f64::max);
        kept.retain(|(k, s)| {
            // what shines on paper only is its lit side, unless it stands out
            let paper = seen[*k].2.iter().map(Strip::light).fold(0.0, f64::max) < 0.2 * strongest;
            !paper || s.edge < 0.15
        });
        // paper is brighter than the glass beside it: what only it shows may be print, unless it shines
        let darkest = seen.iter().map(|b| b.1.ground()).fold(f64::MAX, f64::min);
        kept.retain(|(k, s)| {
            let paper = seen[*k].1.ground() > PAPER * darkest.max(1e-3);
            let here = |b: &(Rows, Across, Vec<Strip>)| b.2.iter().any(|o| s.from < o.to && o.from < s.to);
            let tall = |b: &(Rows, Across, Vec<Strip>)| b.0[1] - b.0[0];
            let elsewhere = seen.iter().enumerate().any(|(j, b)| j != *k && here(b));
            // a line runs along most of what shines; what is seen on little of it is print
            let shining = |b: &&(Rows, Across, Vec<Strip>)| b.1.ground() < PAPER * darkest.max(1e-3);
            let all: f64 = seen.iter().filter(shining).map(tall).sum();
            let on: f64 = seen.iter().filter(shining).filter(|b| here(b)).map(tall).sum();
            (!paper || elsewhere || s.over_stops > SHINES_STOPS) && on > ALONG * all
        });
        let best = kept.first().map_or(0, |k| k.0);
        let first = kept.first().map(|k| k.1);
        // lines of one surface share its blur
        for (k, (_, across, _)) in seen.iter().enumerate() {
            let mut own: Vec<Strip> = kept.iter().filter(|l| l.0 == k).map(|l| l.1).collect();
            own.sort_by(|a, b| a.from.total_cmp(&b.from));
            across.sharpened(camera, &mut own);
            kept.retain(|l| l.0 != k);
            kept.extend(own.into_iter().map(|s| (k, s)));
        }
        let profile = seen[best].1.plot(camera);
        let mut lines: Vec<TurnedLine> =
            kept.iter().map(|(k, s)| self.line(photo, camera, body, &seen[*k].0, s)).collect();
        let bands = seen
            .iter()
            .map(|(rows, _, strips)| {
                let gloss = first.map(|s| {
                    let here = strips.iter().filter(|o| s.from < o.to && o.from < s.to).map(Strip::light);
                    here.fold(0.0, f64::max) / s.light().max(1e-6)
                });
                Band { rows: *rows, gloss }
            })
            .collect();
        lines.sort_by(|a, b| a.strip.from.total_cmp(&b.strip.from));
        Ok(TurnedReading { lines, bands, body, profile })
    }

    fn line(&self, photo: &Photo, camera: Camera, body: [f64; 2], band: &[f64; 2], strip: &Strip) -> TurnedLine {
        let n = (((body[1] - body[0]) * self.length) as usize).clamp(8, 300);
        let at = |k: usize| body[0] + (body[1] - body[0]) * (k as f64 + 0.5) / n as f64;
        let series: Vec<(f64, f64)> =
            (0..n).filter_map(|k| Some((at(k), self.excess(photo, camera, at(k), strip)?))).collect();
        let mut own: Vec<f64> = series.iter().filter(|(t, _)| *t > band[0] && *t < band[1]).map(|(_, e)| *e).collect();
        let full = if own.is_empty() { 0.0 } else { median(&mut own) };
        let on: Vec<f64> = series.iter().filter(|(_, e)| *e > FAINT * full).map(|(t, _)| *t).collect();
        let rows = [on.first().copied().unwrap_or(body[0]), on.last().copied().unwrap_or(body[1])];
        TurnedLine { strip: *strip, rows, top: self.reach(photo, camera, body[1], full, strip) }
    }

    /// How high a line's source reaches: over the shoulder ever higher things are mirrored.
    fn reach(&self, photo: &Photo, camera: Camera, from: f64, full: f64, strip: &Strip) -> Option<Reach> {
        let rows = ((1.0 - from) * self.length) as usize;
        if rows < 4 || full <= 0.0 {
            return None;
        }
        let middle = f64::midpoint(strip.from, strip.to);
        let mut series: Vec<(f64, bool)> = Vec::new();
        // where the surface becomes another the line says no more
        let below = self.row(photo, from - 3.0 / self.length);
        let mut steepest = 0.0f64;
        for k in 0..rows {
            let t = from + (1.0 - from) * (k as f64 + 0.5) / rows as f64;
            let tilt = self.tilt(t);
            // up to where the shoulder is steepest; beyond it the neck mirrors the same again
            if tilt < steepest - 0.05 || tilt > 1.25 {
                break;
            }
            steepest = steepest.max(tilt);
            let other = below.zip(self.row(photo, t)).is_some_and(|(a, b)| (a / b).ln().abs() > OTHER);
            if other && series.last().is_none_or(|l| l.1) {
                break;
            }
            let Some(s) = self.offset_of(camera, t, middle) else { break };
            let Some(excess) = self.excess(photo, camera, t, strip) else { continue };
            let elevation = self.mirrored(camera, t, s)[1];
            series.push((elevation, excess > HALF * full));
        }
        let highest = series.iter().map(|s| s.0).fold(f64::MIN, f64::max);
        let lowest = series.iter().map(|s| s.0).fold(f64::MAX, f64::min);
        if series.len() < 4 || highest - lowest < 0.12 {
            return None;
        }
        // the elevation that parts bright from dark best
        let cost = |cut: f64| series.iter().filter(|(e, bright)| (*e < cut) != *bright).count();
        let steps = 200;
        let at = |k: usize| lowest + (highest - lowest) * k as f64 / f64::from(steps);
        let best = (0..=steps as usize).min_by_key(|k| cost(at(*k)))?;
        let least = cost(at(best));
        if least * 4 > series.len() {
            return None;
        }
        let alike: Vec<usize> = (0..=steps as usize).filter(|k| cost(at(*k)) <= least).collect();
        let (a, b) = (at(alike[0]), at(alike[alike.len() - 1]));
        let lens = if camera.pitch == 0.0 { LENS_SD } else { 0.0 };
        // a pixel along the outline there, and what the surface blurs; clipped, the blur is cut low
        let nearest = |e: f64| series.iter().map(|s| (s.0 - e).abs()).filter(|d| *d > 1e-6).fold(f64::MAX, f64::min);
        let pixel = 3.0 * nearest(f64::midpoint(a, b)).min(0.3);
        let blur = strip.blur * if strip.clipped { 1.2 } else { 0.5 };
        let sd = ((b - a) / 3.5).hypot(2.0 * SLOPE_SD).hypot(lens).hypot(pixel).hypot(blur);
        let open = *alike.last()? == steps as usize;
        Some(Reach { elevation: if open { a.min(highest) } else { f64::midpoint(a, b) }, sd, open })
    }
}
