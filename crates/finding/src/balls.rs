//! Which circles are probes or irises: each is tried with the methods that would read it.

use super::Round;
use super::circles::{self, Circle};
use super::likely::{Signs, probability};
use super::small::Small;
use direction::outline::{EdgeKind, refine_circle, refine_ellipse};
use direction::{ball_matte, ball_mirror};
use evidence::marks::{Ellipse, Finish};
use optics::geometry::Camera;
use optics::photo::Photo;
use optics::solve::median;

/// Circles tried.
const TRIED: usize = 14;
/// Proposed at most.
const MOST: usize = 6;
/// Share of its outline on which an edge must lie to be weighed as a ball.
const COVERED: f64 = 0.4;
/// Misfit of a matte ball's shading that counts as none.
const BEST_FIT: f64 = 0.004;
/// Pairs of points just within and just without an outline.
const RIM_PAIRS: usize = 64;

/// Rounds that may be balls or eyes, the likeliest first; none under `least`.
pub(super) fn find(photo: &Photo, small: &Small, least: f64) -> Vec<Round> {
    let mut out: Vec<(f64, Round)> = Vec::new();
    let k = small.scale;
    let circles = circles::find(small);
    for c in circles.iter().take(TRIED) {
        let (centre, radius) = ([c.x * k, c.y * k], c.r * k);
        if radius < 6.0 {
            continue;
        }
        let within = |o: &&Circle, ratio: std::ops::Range<f64>| {
            ratio.contains(&(o.r / c.r)) && o.coverage > 0.6 && (o.x - c.x).hypot(o.y - c.y) < 0.25 * c.r
        };
        let pupil = circles.iter().any(|o| within(&o, 0.12..0.62));
        let ringed = circles.iter().any(|o| within(&o, 0.3..0.92) || within(&o, 1.09..2.5));
        let rounds =
            eye(photo, c, centre, radius, pupil).into_iter().chain(balls(photo, c, centre, radius, ringed, least));
        let likely = rounds.map(|r| (probability(&r.signs), r)).filter(|r| r.0 >= least);
        if least > 0.0 {
            out.extend(likely.max_by(|a, b| a.0.total_cmp(&b.0)));
        } else {
            out.extend(likely);
        }
    }
    out.sort_by(|a, b| b.0.total_cmp(&a.0));
    if least <= 0.0 {
        return out.into_iter().map(|r| r.1).collect();
    }
    // An iris lies in what looks like a ball of its own: the eye is the better name.
    let within = |a: &Ellipse, b: &Ellipse| {
        let d = (a.centre[0] - b.centre[0]).hypot(a.centre[1] - b.centre[1]);
        d < a.rx.max(b.rx)
    };
    let irises: Vec<Ellipse> = out.iter().filter(|r| r.1.finish.is_none()).map(|r| r.1.outline).collect();
    out.retain(|(_, r)| r.finish.is_none() || !irises.iter().any(|e| within(&r.outline, e)));
    let mut kept: Vec<Round> = Vec::new();
    for (_, r) in out {
        if !kept.iter().any(|k| within(&r.outline, &k.outline)) {
            kept.push(r);
        }
    }
    kept.truncate(MOST);
    kept
}

/// Luminances on rings about a centre between two radii in a range of angles (radians).
fn ring(photo: &Photo, centre: [f64; 2], radii: [f64; 2], angles: &[(f64, f64)]) -> Vec<f64> {
    let mut out = Vec::new();
    for i in 0..8 {
        let r = radii[0] + (radii[1] - radii[0]) * (f64::from(i) + 0.5) / 8.0;
        for (from, to) in angles {
            for j in 0..12 {
                let t = from + (to - from) * (f64::from(j) + 0.5) / 12.0;
                out.extend(photo.luminance_between(centre[0] + r * t.cos(), centre[1] + r * t.sin()));
            }
        }
    }
    out
}

/// An iris: dark against the white at its left and right, with a darker pupil.
fn eye(photo: &Photo, c: &Circle, centre: [f64; 2], radius: f64, round_pupil: bool) -> Option<Round> {
    use std::f64::consts::PI;
    let side = |turn: f64| [(turn - 0.5, turn + 0.5)];
    let mid = |radii: [f64; 2], angles: &[(f64, f64)]| {
        let mut v = ring(photo, centre, [radii[0] * radius, radii[1] * radius], angles);
        (v.len() > 20).then(|| median(&mut v))
    };
    let pupil = mid([0.0, 0.22], &[(-PI, PI)])?;
    let iris = mid([0.5, 0.9], &[side(0.0)[0], side(PI)[0]])?;
    let whites = [mid([1.12, 1.35], &side(0.0)), mid([1.12, 1.35], &side(PI))];
    let over: Vec<f64> = whites.iter().flatten().map(|w| w / iris.max(1e-4)).collect();
    let brightest = over.iter().copied().fold(0.0, f64::max);
    let least = over.iter().copied().fold(f64::MAX, f64::min);
    // one side of the white may lie in shadow: then the pupil must be seen as a round of its own
    let least_wanted = if round_pupil { 0.7 } else { 1.4 };
    if over.len() < 2 || brightest < 1.8 || least < least_wanted || pupil > 0.8 * iris || c.coverage < 0.4 {
        return None;
    }
    let start = Ellipse { centre, rx: radius, ry: radius, angle_deg: 0.0 };
    let refined = refine_ellipse(photo, start, EdgeKind::DarkInside).ellipse;
    let values = vec![
        c.coverage,
        brightest.log2().min(5.0),
        least.log2().clamp(-1.0, 3.0),
        (pupil / iris.max(1e-4)).max(1e-2).ln().max(-3.0),
        f64::from(u8::from(round_pupil)),
    ];
    Some(Round {
        finish: None,
        outline: refined,
        signs: Signs { kind: "eye", values },
        why: format!("a dark iris with a pupil, the white beside it {:.1} stops brighter", brightest.log2()),
    })
}

/// How much the colours just within an outline follow those just without, -1..1: at its rim a mirror ball shows what lies
/// beside and behind it, matte and printed things do not.
fn rim_follows(photo: &Photo, e: &Ellipse) -> f64 {
    let at = |k: f64, turn: f64| {
        let (x, y) = (e.centre[0] + k * e.rx * turn.cos(), e.centre[1] + k * e.rx * turn.sin());
        let inside = x >= 0.0 && y >= 0.0 && x < f64::from(photo.width()) && y < f64::from(photo.height());
        inside.then(|| photo.rgb(x as u32, y as u32).map(|v| (f64::from(v).max(0.0) + 0.002).ln()))
    };
    let turns = (0..RIM_PAIRS).map(|i| i as f64 / RIM_PAIRS as f64 * std::f64::consts::TAU);
    let pairs: Vec<([f64; 3], [f64; 3])> = turns.filter_map(|t| Some((at(0.95, t)?, at(1.07, t)?))).collect();
    let n = 3.0 * pairs.len() as f64;
    if pairs.len() < RIM_PAIRS / 2 {
        return 0.0;
    }
    let mean = |side: fn(&([f64; 3], [f64; 3])) -> [f64; 3]| pairs.iter().flat_map(side).sum::<f64>() / n;
    let (a, b) = (mean(|p| p.0), mean(|p| p.1));
    let (mut ab, mut aa, mut bb) = (0.0, 1e-3 * n, 1e-3 * n);
    for (p, q) in &pairs {
        for k in 0..3 {
            let (u, v) = (p[k] - a, q[k] - b);
            ab += u * v;
            aa += u * u;
            bb += v * v;
        }
    }
    ab / (aa * bb).sqrt()
}

/// What a round thing may be as a probe: each finish that its own method can read.
fn balls(photo: &Photo, c: &Circle, centre: [f64; 2], radius: f64, ringed: bool, least: f64) -> Vec<Round> {
    let camera = Camera::far(photo.width(), photo.height());
    let e = refine_circle(photo, centre, radius).ellipse;
    let turn = [(-std::f64::consts::PI, std::f64::consts::PI)];
    let mut inside = ring(photo, e.centre, [0.0, 0.95 * e.rx], &turn);
    if inside.len() < 40 || c.coverage < COVERED {
        return Vec::new();
    }
    let ground = median(&mut inside);
    inside.sort_by(f64::total_cmp);
    let (low, high) = (inside[inside.len() / 20], inside[inside.len() * 19 / 20]);
    // a plain disc has no shading
    if high - low < 0.12 * high {
        return Vec::new();
    }
    let follows = rim_follows(photo, &e);
    let ringed = f64::from(u8::from(ringed));
    let size = (e.rx / f64::from(photo.height())).ln();
    let range = (high / low.max(1e-4)).log2().min(6.0);
    let mut out = Vec::new();
    let matte = |residual: f64| {
        let misfit = (residual.max(BEST_FIT) / 0.02).ln();
        Signs { kind: "matte ball", values: vec![c.coverage, misfit, range, follows, ringed, size] }
    };
    // reading one takes a while: not where no fit could make it likely
    if probability(&matte(BEST_FIT)) >= least
        && let Ok(r) = ball_matte::read(photo, camera, e.centre, e.rx, None, &[])
        && !r.lights.is_empty()
    {
        let signs = matte(r.residual);
        let why = format!("shaded like a matte ball to {:.1} %", 100.0 * r.residual);
        out.push(Round { finish: Some(Finish::Matte), outline: r.outline.ellipse, signs, why });
    }
    let r = ball_mirror::read(photo, camera, e.centre, e.rx);
    let brightest = r.lights.first().and_then(|(_, b)| photo.luminance_between(b.centre[0], b.centre[1]));
    if let Some(brightest) = brightest {
        let over = (brightest / ground.max(1e-4)).max(0.1).log2();
        let values = vec![c.coverage, over.min(7.0), range, follows, ringed, size, (r.lights.len() as f64).ln()];
        let why = format!("a round thing with a spot {over:.1} stops over what else it mirrors");
        let signs = Signs { kind: "mirror ball", values };
        out.push(Round { finish: Some(Finish::Mirror), outline: r.outline.ellipse, signs, why });
    }
    out
}
