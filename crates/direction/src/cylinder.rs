//! A glossy cylinder: its bright lines are pictures of what stands round it.
//!
//! At the relative offset `s` from the axis the normal is turned by `psi`; a mirrored source lies at
//! `2 psi` less the turn of the view ray. For a far camera `psi = asin s`; near ones use the true
//! view ray. Azimuths are about the cylinder's axis, 0 along the lens axis, positive to the image side
//! right of the axis walked upwards, as seen from the line itself: a near source is seen 2 to 4
//! degrees elsewhere from the axis.

use crate::by_hand_px;
use crate::line_shape::{self, Blur};
use optics::geometry::Camera;
use optics::mirror::{GLASS, mirrored_part};
use optics::photo::Photo;
use optics::solve::median;

/// One bright line.
#[derive(Debug, Clone, Copy)]
pub struct Strip {
    /// Azimuth of its two edges at half height, radians, rising.
    pub from: f64,
    /// Azimuth of the other edge.
    pub to: f64,
    /// Turn from 10 to 90 % at its softer edge, radians.
    pub edge: f64,
    /// The same at either edge.
    pub edges: [f64; 2],
    /// Stops over the ground beside it; at least, if clipped.
    pub over_stops: f64,
    /// Light of its plateau over the ground, linear RGB.
    pub rgb: [f64; 3],
    /// What the surface blurs, one standard deviation, radians; 0 where it is not known.
    pub blur: f64,
    /// Standard deviation of an edge's azimuth, radians.
    pub sd: f64,
    /// The part of it by which both edges lie off together, as the axis may.
    pub together: f64,
    /// It is clipped: its edges lie a little further in.
    pub clipped: bool,
}

impl Strip {
    /// Azimuth of its middle, degrees.
    pub fn middle_deg(&self) -> f64 {
        f64::midpoint(self.from, self.to).to_degrees()
    }

    /// Radians it is wide.
    pub fn wide(&self) -> f64 {
        (self.to - self.from).max(1e-3)
    }

    /// Standard deviation of that, radians.
    pub fn wide_sd(&self) -> f64 {
        std::f64::consts::SQRT_2 * self.own_sd()
    }

    /// Standard deviation of an edge's azimuth against all that lies off with it, radians: the other edge, and the same edge in a
    /// picture the mark was carried over to.
    pub fn own_sd(&self) -> f64 {
        (self.sd.powi(2) - self.together.powi(2)).max(0.0).sqrt()
    }

    /// Luminance of its plateau over the ground.
    pub fn light(&self) -> f64 {
        optics::photo::luminance(self.rgb.map(|v| v as f32))
    }
}

/// What a cylinder says.
#[derive(Debug, Clone)]
pub struct CylinderReading {
    /// Bright lines by azimuth.
    pub strips: Vec<Strip>,
    /// Azimuths with nothing bright between and beside them, radians.
    pub gaps: Vec<[f64; 2]>,
    /// Azimuth in radians and light along the round, a sample; and the level over which a line counts.
    pub profile: Vec<[f64; 3]>,
}

/// Why a cylinder could not be read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum CylinderProblem {
    /// Too thin or too short.
    #[error("the cylinder is too small to read: mark one at least 16 pixels wide and long")]
    TooSmall,
    /// Outside.
    #[error("most of the cylinder lies outside the picture")]
    Outside,
    /// An outline without an upright part.
    #[error("nothing of it is upright: pull its outline, or mark the upright part as a cylinder")]
    NoBody,
}

/// Offsets across, in relative units.
const ACROSS: usize = 480;
/// Share of the way across that must lie in the picture.
const INSIDE: f64 = 0.6;
/// Relative offset beyond which the surface is seen too much edge on.
const RIM: f64 = 0.985;

/// Share of a bright line's height from which what lies beside it is no mere foot.
const LIT_BESIDE: f64 = 0.2;

/// Reads a cylinder marked by its axis and radius.
///
/// # Errors
/// A [`CylinderProblem`] that says why.
pub fn read(
    photo: &Photo,
    camera: Camera,
    axis: [[f64; 2]; 2],
    radius: f64,
) -> Result<CylinderReading, CylinderProblem> {
    let across = Across::of(photo, axis, radius, [0.1, 0.9])?;
    let mut strips = across.strips(camera);
    across.sharpened(camera, &mut strips);
    // axis and width lie where a hand put them, each known as the mean of two points: aside by so much, a mirrored azimuth turns by
    // twice the angle of the surface
    let aside = by_hand_px(photo) / std::f64::consts::SQRT_2;
    for s in &mut strips {
        let steep = (s.from.abs().max(s.to.abs()) / 2.0).cos().max(1.0 - RIM);
        s.together = 2.0 * aside / (radius * steep);
        s.sd = s.sd.hypot(s.together);
    }
    let azimuth = |i: usize| across.azimuth(camera, i as f64);
    let there: Vec<usize> = (0..ACROSS).filter(|i| !across.missing[*i]).collect();
    let (first, last) = (azimuth(there[0]), azimuth(there[there.len() - 1]));
    let gaps = gaps(&strips, [first, last]);
    Ok(CylinderReading { strips, gaps, profile: across.plot(camera) })
}

/// Part of the light that glass or lacquer mirrors where a source at an azimuth is seen, radians: it is met at half of it.
pub fn reflectance(azimuth: f64) -> f64 {
    mirrored_part((azimuth / 2.0).cos(), GLASS)
}

/// Azimuths with nothing bright between two ends, radians.
pub fn gaps(strips: &[Strip], ends: [f64; 2]) -> Vec<[f64; 2]> {
    let mut gaps = Vec::new();
    let mut at = ends[0];
    for s in strips {
        if s.from - at > LEAST_GAP {
            gaps.push([at, s.from]);
        }
        at = at.max(s.to);
    }
    if ends[1] - at > LEAST_GAP {
        gaps.push([at, ends[1]]);
    }
    gaps
}

/// Narrower than this nothing is a gap, radians.
const LEAST_GAP: f64 = 0.05;

/// Light across a cylinder, the median of some of its rows.
pub(crate) struct Across {
    profile: Vec<f64>,
    clipped: Vec<bool>,
    colours: Vec<[f64; 3]>,
    /// cut by the picture's edge
    missing: Vec<bool>,
    mid: [f64; 2],
    side: [f64; 2],
    radius: f64,
    ground: f64,
    ground_rgb: [f64; 3],
}

impl Across {
    /// Of the rows between two shares of the axis, walked upwards in the picture.
    pub(crate) fn of(
        photo: &Photo,
        axis: [[f64; 2]; 2],
        radius: f64,
        rows: [f64; 2],
    ) -> Result<Across, CylinderProblem> {
        let [p, q] = if axis[0][1] >= axis[1][1] { axis } else { [axis[1], axis[0]] };
        let length = (q[0] - p[0]).hypot(q[1] - p[1]);
        if radius < 8.0 || length < 16.0 {
            return Err(CylinderProblem::TooSmall);
        }
        let (ux, uy) = ((q[0] - p[0]) / length, (q[1] - p[1]) / length);
        // to the image side right of the axis walked upwards
        let (sx, sy) = (-uy, ux);
        let tall = rows[1] - rows[0];
        let along = ((tall * length) as usize).clamp(4, 200);
        let mut profile = Vec::with_capacity(ACROSS);
        let mut clipped = Vec::with_capacity(ACROSS);
        let mut colours = Vec::with_capacity(ACROSS);
        let mut missing = Vec::with_capacity(ACROSS);
        for i in 0..ACROSS {
            let s = offset(i as f64);
            let mut values = Vec::with_capacity(along);
            let mut channels: [Vec<f64>; 3] = Default::default();
            let mut burnt = 0;
            for k in 0..along {
                let t = length * (rows[0] + tall * (k as f64 + 0.5) / along as f64);
                let (x, y) = (p[0] + ux * t + sx * s * radius, p[1] + uy * t + sy * s * radius);
                if let Some(l) = photo.luminance_between(x, y) {
                    values.push(l);
                    let rgb = photo.rgb(x.max(0.0) as u32, y.max(0.0) as u32);
                    channels.iter_mut().zip(rgb).for_each(|(c, v)| c.push(f64::from(v)));
                    burnt += usize::from(photo.get(x.floor() as i64, y.floor() as i64).is_some_and(|c| c.clipped));
                }
            }
            // a picture cut here says nothing of what lies beyond
            let cut = values.len() * 2 < along;
            missing.push(cut);
            if cut {
                clipped.push(false);
                profile.push(0.0);
                colours.push([0.0; 3]);
                continue;
            }
            clipped.push(burnt * 2 > values.len());
            profile.push(median(&mut values));
            colours.push(channels.map(|mut c| median(&mut c)));
        }
        let there: Vec<usize> = (0..ACROSS).filter(|i| !missing[*i]).collect();
        if (there.len() as f64) < INSIDE * ACROSS as f64 {
            return Err(CylinderProblem::Outside);
        }
        let low = |mut all: Vec<f64>| {
            all.sort_by(f64::total_cmp);
            all[all.len() * 35 / 100]
        };
        let ground = low(there.iter().map(|i| profile[*i]).collect());
        let ground_rgb = [0, 1, 2].map(|k| low(there.iter().map(|i| colours[*i][k]).collect()));
        let middle = f64::midpoint(rows[0], rows[1]);
        let mid = [p[0] + (q[0] - p[0]) * middle, p[1] + (q[1] - p[1]) * middle];
        Ok(Across { profile, clipped, colours, missing, mid, side: [sx, sy], radius, ground, ground_rgb })
    }

    /// Light beside the lines.
    pub(crate) fn ground(&self) -> f64 {
        self.ground
    }

    /// Azimuth of what is mirrored at a sample, radians.
    fn azimuth(&self, camera: Camera, i: f64) -> f64 {
        mirrored_azimuth(camera, self.mid, self.side, offset(i), self.radius)
    }

    /// Azimuth in radians and light of a sample, and the level over which a line counts.
    pub(crate) fn plot(&self, camera: Camera) -> Vec<[f64; 3]> {
        let threshold = self.threshold();
        (0..ACROSS).step_by(4).map(|i| [self.azimuth(camera, i as f64), self.profile[i], threshold]).collect()
    }

    /// Brightest light of those samples that are not left out.
    fn top(&self, out: &[bool]) -> f64 {
        self.profile.iter().zip(out).filter(|(_, o)| !**o).map(|(v, _)| *v).fold(0.0, f64::max)
    }

    /// The level over which a line counts.
    fn threshold(&self) -> f64 {
        self.over(self.top(&self.missing))
    }

    fn over(&self, top: f64) -> f64 {
        self.ground + (0.25 * (top - self.ground)).max(0.35 * self.ground).max(0.01)
    }

    /// The bright lines, the brightest first looked for: what is weaker by far is looked for beside them.
    pub(crate) fn strips(&self, camera: Camera) -> Vec<Strip> {
        let azimuth = |i: f64| self.azimuth(camera, i);
        let smooth = self.smoothed();
        let mut taken = self.missing.clone();
        let mut strips: Vec<Strip> = Vec::new();
        for pass in 0..PASSES {
            let threshold = self.over(self.top(&taken));
            let mut found = false;
            let mut i = 0;
            while i < ACROSS {
                if taken[i] || self.profile[i] <= threshold {
                    i += 1;
                    continue;
                }
                let start = i;
                while i < ACROSS && !taken[i] && self.profile[i] > threshold {
                    i += 1;
                }
                let (lo, hi) = valleys(&smooth, start, i);
                taken[lo..=hi].fill(true);
                found = true;
                // a line that the edge of the picture cuts has no width
                let cut = |k: Option<&bool>| k.copied().unwrap_or(false);
                if cut(start.checked_sub(1).and_then(|k| self.missing.get(k))) || cut(self.missing.get(i)) {
                    continue;
                }
                // beside brighter ones a weak line must rise from both its sides
                if pass > 0 && !self.stands_up(&smooth, start, i, lo, hi) {
                    continue;
                }
                for [from, to, lo, hi] in parted(&smooth, self.ground, start, i, lo, hi) {
                    let run = Run { start: from, end: to, lo, hi };
                    if let Some(mut s) = strip(&self.profile, &self.clipped, &run, self.ground, self.radius, &azimuth) {
                        s.rgb = plateau(&self.profile[from..to], &self.colours[from..to], self.ground, self.ground_rgb);
                        strips.push(s);
                    }
                }
            }
            if !found {
                break;
            }
        }
        // grain on something plain may look like many
        strips.sort_by(|a, b| b.light().total_cmp(&a.light()));
        strips.truncate(MOST_LINES);
        strips.sort_by(|a, b| a.from.total_cmp(&b.from));
        strips
    }

    /// Samples across about a line, no nearer to the next than the valley between them.
    fn about(&self, camera: Camera, s: &Strip, between: [f64; 2]) -> Vec<line_shape::Sample> {
        let margin = 0.5 * s.wide() + BESIDE;
        let [lo, hi] = [between[0].max(s.from - margin), between[1].min(s.to + margin)];
        (0..ACROSS)
            .step_by(THINNED)
            .filter(|i| !self.missing[*i])
            .map(|i| (self.azimuth(camera, i as f64), self.profile[i], self.clipped[i]))
            .filter(|p| p.0 >= lo && p.0 <= hi)
            .collect()
    }

    /// The edges of the lines' sources: each line is fitted with the blur of the surface, which all share.
    pub(crate) fn sharpened(&self, camera: Camera, strips: &mut Vec<Strip>) {
        let between: Vec<[f64; 2]> = (0..strips.len())
            .map(|k| {
                let before = k.checked_sub(1).map_or(f64::MIN, |j| f64::midpoint(strips[j].to, strips[k].from));
                let after = strips.get(k + 1).map_or(f64::MAX, |n| f64::midpoint(strips[k].to, n.from));
                [before, after]
            })
            .collect();
        let apart = ACROSS as f64 / (2.0 * RIM * self.radius * THINNED as f64);
        let fit = |s: &Strip, b: [f64; 2], blur: Blur| {
            let samples = self.about(camera, s, b);
            let ground = samples.first().map_or(self.ground, |f| f.1).min(samples.last().map_or(self.ground, |l| l.1));
            line_shape::fit(&samples, s.from, s.to, ground.min(self.ground.max(1e-4)), blur, apart)
        };
        let given: Vec<Strip> = strips.to_vec();
        let (surface, first) = line_shape::surface(given.len(), |k, blur| fit(&given[k], between[k], blur));
        // what is narrower than the surface can show is none of its lines
        let blur = surface.0.exp();
        let least = |s: &Strip| s.wide() < NARROW * blur && s.over_stops < FAINT_STOPS;
        for (k, s) in strips.iter_mut().enumerate() {
            s.blur = blur;
            if s.from.min(-s.to) < -STEEP {
                s.sd = s.sd.hypot(blur);
                continue;
            }
            let Some(alone) = first[k] else { continue };
            let like = (alone.blur.ln() - surface.0).abs() < 2.0 * alone.blur_sd.hypot(surface.1);
            let Some(f) = (if like { fit(s, between[k], surface) } else { Some(alone) }) else { continue };
            if f.left > MISFIT {
                continue;
            }
            let fade = (f.blur.powi(2) - blur.powi(2)).max(0.0).sqrt();
            let fade = if like { 0.0 } else { fade };
            let [from, to] = line_shape::half_height(f.from, f.to, fade);
            // what the blur leaves open moves both edges the other way
            let narrow = (to - from) < 4.0 * f.blur;
            let open = f.blur * OPEN[usize::from(s.clipped)][usize::from(narrow)];
            s.sd = f.edge_sd.hypot(open).hypot(s.sd).hypot(0.25 * fade).min(0.5 * s.wide() + 0.02);
            (s.from, s.to) = (from, to);
            let edge = line_shape::RISE * fade;
            s.edges = s.edges.map(|e| (e * e - (line_shape::RISE * blur).powi(2)).max(0.0).sqrt().max(0.3 * edge));
            s.edge = edge;
        }
        let vanished = |s: &Strip| s.wide() < VANISHED && s.over_stops < 1.0;
        let keep: Vec<bool> = given.iter().zip(strips.iter()).map(|(g, s)| !least(g) && !vanished(s)).collect();
        let mut keep = keep.into_iter();
        strips.retain(|_| keep.next().unwrap_or(true));
    }

    /// Means of five samples.
    fn smoothed(&self) -> Vec<f64> {
        let mean = |i: usize| {
            let near = &self.profile[i.saturating_sub(2)..(i + 3).min(ACROSS)];
            near.iter().sum::<f64>() / near.len() as f64
        };
        (0..ACROSS).map(mean).collect()
    }

    fn stands_up(&self, smooth: &[f64], start: usize, end: usize, lo: usize, hi: usize) -> bool {
        let peak = smooth[start..end].iter().copied().fold(0.0, f64::max);
        let beside = smooth[lo].max(smooth[hi]);
        let flat = lo > 0 && hi + 1 < ACROSS;
        flat && peak > beside * (1.0 + RISE) + 0.01
    }
}

/// Lines of one stretch of a body, at most: each is fitted ten times.
const MOST_LINES: usize = 12;
/// Times that lines are looked for, each time beside those found.
const PASSES: usize = 4;
/// Part of what lies beside it by which a weak line is brighter.
const RISE: f64 = 0.3;
/// Part of the weaker of two peaks' height by which the dip between them is lower, from which they are two.
const DIP: f64 = 0.35;

/// Of a surface's blur a weak line is at least so wide; stops up to which it is weak.
const NARROW: f64 = 1.6;
const FAINT_STOPS: f64 = 0.8;
/// Part of the blur by which an edge may be elsewhere: of lines seen whole and of clipped ones, wide and narrow against the blur.
const OPEN: [[f64; 2]; 2] = [[0.15, 0.6], [0.7, 1.2]];
/// What is left of a weak line that was all blur, radians.
const VANISHED: f64 = 0.025;
/// So far round a surface is seen too steeply for its blur to be alike, radians.
const STEEP: f64 = 2.35;
/// Of so many samples one is fitted.
const THINNED: usize = 3;
/// Radians beside a line that are fitted with it.
const BESIDE: f64 = 0.25;
/// A fit that leaves more than this part of a line's height is none.
const MISFIT: f64 = 0.25;

/// Offset across of a sample, in relative units.
fn offset(i: f64) -> f64 {
    RIM * (2.0 * (i + 0.5) / ACROSS as f64 - 1.0)
}

/// The lowest samples to both sides of a run before it rises again.
fn valleys(smooth: &[f64], start: usize, end: usize) -> (usize, usize) {
    let (mut lo, mut hi) = (start, end - 1);
    while lo > 0 && smooth[lo - 1] <= smooth[lo] {
        lo -= 1;
    }
    while hi + 1 < smooth.len() && smooth[hi + 1] <= smooth[hi] {
        hi += 1;
    }
    (lo, hi)
}

/// A run cut where it dips: start, end and the samples it may not leave.
fn parted(smooth: &[f64], ground: f64, start: usize, end: usize, lo: usize, hi: usize) -> Vec<[usize; 4]> {
    let mut cuts = Vec::new();
    let mut from = start;
    let peak = |a: usize, b: usize| smooth[a..b].iter().copied().fold(0.0, f64::max);
    for i in start + 1..end.saturating_sub(1) {
        let lowest = smooth[i] <= smooth[i - 1] && smooth[i] < smooth[i + 1];
        if lowest && {
            let weaker = peak(from, i).min(peak(i + 1, end)) - ground;
            weaker > 0.01 && smooth[i] - ground < (1.0 - DIP) * weaker
        } {
            // the lowest place between the two peaks
            cuts.push(i);
            from = i;
        }
    }
    let ends: Vec<usize> = std::iter::once(start).chain(cuts.iter().copied()).chain([end]).collect();
    let last = ends.len() - 2;
    (0..=last)
        .map(|k| [ends[k], ends[k + 1], if k == 0 { lo } else { ends[k] }, if k == last { hi } else { ends[k + 1] }])
        .filter(|r| r[1] > r[0] + 1)
        .collect()
}

/// Samples of one bright line: it starts and ends here, and its flanks go no farther than `lo` and `hi`.
struct Run {
    start: usize,
    end: usize,
    lo: usize,
    hi: usize,
}

/// A run of bright samples, cut at half its height over the ground beside it.
fn strip(
    profile: &[f64],
    clipped: &[bool],
    run: &Run,
    ground: f64,
    radius: f64,
    azimuth: &impl Fn(f64) -> f64,
) -> Option<Strip> {
    let Run { start, end, .. } = *run;
    let peak = profile[start..end].iter().copied().fold(0.0, f64::max);
    let cross = |share: f64, left: bool, ground: f64| {
        let level = ground + share * (peak - ground);
        let inside = |i: usize| profile[i] >= level;
        let (mut i, stop) = if left { (start, run.lo) } else { (end - 1, run.hi) };
        // inwards to the first sample over the level
        while !inside(i) {
            i = if left { i + 1 } else { i - 1 };
            if i < start || i >= end {
                return i as f64;
            }
        }
        // outwards while still over it
        while i != stop && inside(if left { i - 1 } else { i + 1 }) {
            i = if left { i - 1 } else { i + 1 };
        }
        if i == stop {
            return i as f64;
        }
        let o = if left { i - 1 } else { i + 1 };
        let t = (level - profile[i]) / (profile[o] - profile[i]);
        if left { i as f64 - t } else { i as f64 + t }
    };
    let ends = [cross(0.5, true, ground), cross(0.5, false, ground)];
    // a printed surface is lit about its bright line as well: what lies beside the line is its ground
    let wide = (ends[1] - ends[0]).max(1.0);
    let beside = |from: f64, to: f64| {
        let clamp = |v: f64| v.clamp(0.0, profile.len() as f64 - 1.0) as usize;
        let own = median(&mut profile[clamp(from.min(to))..=clamp(from.max(to))].to_vec());
        if own < 0.8 * peak { own.max(ground) } else { ground }
    };
    let lit = [(ends[0], -1.0), (ends[1], 1.0)]
        .map(|(e, way)| beside(e + way * (0.6 * wide + 3.0), e + way * (1.2 * wide + 6.0)));
    let grounds = lit.map(|own| if own > ground + LIT_BESIDE * (peak - ground) { own } else { ground });
    let (a, b) = (cross(0.5, true, grounds[0]), cross(0.5, false, grounds[1]));
    // how far the ends go from one ground to the other says how well they are known
    let doubt =
        [0, 1].map(|k| (azimuth(cross(0.5, k == 0, lit[k])) - azimuth(ends[k])).abs()).into_iter().fold(0.0, f64::max);
    if b - a < 0.5 {
        return None;
    }
    let (from, to) = (azimuth(a), azimuth(b));
    let soft = |left: bool| {
        let ground = grounds[usize::from(!left)];
        (azimuth(cross(0.9, left, ground)) - azimuth(cross(0.1, left, ground))).abs()
    };
    let burnt = clipped[start..end].iter().any(|c| *c);
    // half a pixel across as an angle at the steeper edge
    let per_px = |i: f64| (azimuth(i + 0.5) - azimuth(i - 0.5)).abs() * ACROSS as f64 / (2.0 * RIM * radius);
    let px = if burnt { 0.25 } else { 0.1 };
    Some(Strip {
        from: from.min(to),
        to: from.max(to),
        edge: soft(true).max(soft(false)),
        edges: [soft(true), soft(false)],
        over_stops: (peak / ground.max(1e-4)).log2(),
        rgb: [0.0; 3],
        blur: 0.0,
        sd: (px * per_px(a).max(per_px(b))).hypot(0.004).hypot(0.5 * doubt),
        together: 0.0,
        clipped: burnt,
    })
}

/// Mean of what lies in the upper fifth of a run, over the ground.
fn plateau(profile: &[f64], colours: &[[f64; 3]], ground: f64, ground_rgb: [f64; 3]) -> [f64; 3] {
    let peak = profile.iter().copied().fold(0.0, f64::max);
    let level = ground + 0.8 * (peak - ground);
    let high: Vec<&[f64; 3]> = profile.iter().zip(colours).filter(|(v, _)| **v >= level).map(|(_, c)| c).collect();
    [0, 1, 2].map(|k| high.iter().map(|c| c[k]).sum::<f64>() / high.len().max(1) as f64 - ground_rgb[k])
}

/// Azimuth about the axis of what is mirrored at relative offset `s` of a cylinder whose axis passes
/// `mid`, offsets along `side`.
fn mirrored_azimuth(camera: Camera, mid: [f64; 2], side: [f64; 2], s: f64, radius: f64) -> f64 {
    let (turn, phi, axis) = turned(camera, mid, side, s, radius);
    // About the line from the axis to the camera: normal at `turn`, view at -phi. That line itself is
    // turned by -axis from the lens axis.
    2.0 * turn + phi - axis
}

/// Azimuth about the axis of the surface's normal at relative offset `s` of such a cylinder, radians.
pub(crate) fn normal_azimuth(camera: Camera, mid: [f64; 2], side: [f64; 2], s: f64, radius: f64) -> f64 {
    let (turn, _, axis) = turned(camera, mid, side, s, radius);
    turn - axis
}

/// Turn of the normal about the line from the axis to the camera, and angles of the view ray and of the axis from the lens's.
fn turned(camera: Camera, mid: [f64; 2], side: [f64; 2], s: f64, radius: f64) -> (f64, f64, f64) {
    // angles in the plane across the axis
    let f = camera.focal_px;
    let centre = ((mid[0] - camera.centre[0]) * side[0] + (mid[1] - camera.centre[1]) * side[1]) / f;
    let axis = centre.atan();
    // silhouette: radius in pixels is f tan(theta), sin(theta) = R / D
    let theta = (radius / f).atan();
    let ratio = theta.sin();
    let phi = (centre + s * radius / f).atan() - axis;
    // ray at angle phi from the camera to a circle of radius `ratio` at distance one
    let across = phi.sin();
    ((across / ratio).clamp(-1.0, 1.0).asin() - phi, phi, axis)
}
