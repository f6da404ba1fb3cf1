//! Which circles are probes or irises: each is tried with the method that would read it.

use super::Round;
use super::circles::{self, Circle};
use super::small::Small;
use evidence::direction::outline::{EdgeKind, refine_circle, refine_ellipse};
use evidence::direction::{ball_matte, ball_mirror};
use evidence::marks::{Ellipse, Finish};
use optics::geometry::Camera;
use optics::photo::Photo;
use optics::solve::median;

/// Circles tried.
const TRIED: usize = 14;
/// Proposed at most.
const MOST: usize = 6;
/// Misfit of a matte ball's shading over which the thing is something else.
const MATTE_MISFIT: f64 = 0.045;
/// What a ball's outline and shading must come to: rounded parts of faces reach 0.4.
const BALL_STRENGTH: f64 = 0.47;
/// A highlight in a mirror is this much brighter than most of what it mirrors.
const MIRROR_OVER: f64 = 5.0;

pub(super) fn find(photo: &Photo, small: &Small) -> Vec<Round> {
    let mut out: Vec<Round> = Vec::new();
    let k = small.scale;
    let circles = circles::find(small);
    for c in circles.iter().take(TRIED) {
        let (centre, radius) = ([c.x * k, c.y * k], c.r * k);
        if radius < 6.0 {
            continue;
        }
        let inner = |o: &&Circle| {
            (0.12..0.62).contains(&(o.r / c.r)) && o.coverage > 0.6 && (o.x - c.x).hypot(o.y - c.y) < 0.25 * c.r
        };
        let pupil = circles.iter().any(|o| inner(&o));
        let found = eye(photo, c, centre, radius, pupil).or_else(|| ball(photo, c, centre, radius));
        out.extend(found);
    }
    // An iris lies in what looks like a ball of its own: the eye is the better name.
    let within = |a: &Ellipse, b: &Ellipse| {
        let d = (a.centre[0] - b.centre[0]).hypot(a.centre[1] - b.centre[1]);
        d < a.rx.max(b.rx)
    };
    let irises: Vec<Ellipse> = out.iter().filter(|r| r.finish.is_none()).map(|r| r.outline).collect();
    out.retain(|r| r.finish.is_none() || !irises.iter().any(|e| within(&r.outline, e)));
    out.sort_by(|a, b| b.strength.total_cmp(&a.strength));
    let mut kept: Vec<Round> = Vec::new();
    for r in out {
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
    Some(Round {
        finish: None,
        outline: refined,
        strength: c.coverage.min(1.0),
        why: format!("a dark iris with a pupil, the white beside it {:.1} stops brighter", brightest.log2()),
    })
}

fn ball(photo: &Photo, c: &Circle, centre: [f64; 2], radius: f64) -> Option<Round> {
    let camera = Camera::far(photo.width(), photo.height());
    let e = refine_circle(photo, centre, radius).ellipse;
    let of = |finish: Finish, outline: Ellipse, strength: f64, why: String| Round {
        finish: Some(finish),
        outline,
        strength,
        why,
    };
    let turn = [(-std::f64::consts::PI, std::f64::consts::PI)];
    let mut inside = ring(photo, e.centre, [0.0, 0.95 * e.rx], &turn);
    if inside.len() < 40 {
        return None;
    }
    let ground = median(&mut inside);
    inside.sort_by(f64::total_cmp);
    let (low, high) = (inside[inside.len() / 20], inside[inside.len() * 19 / 20]);
    if c.coverage < BALL_STRENGTH {
        return None;
    }
    // a plain disc has no shading
    if high - low < 0.12 * high {
        return None;
    }
    if let Ok(r) = ball_matte::read(photo, camera, e.centre, e.rx, None, &[])
        && r.residual < MATTE_MISFIT
        && !r.lights.is_empty()
    {
        let strength = (c.coverage * (1.0 - r.residual / MATTE_MISFIT / 2.0)).min(1.0);
        if strength < BALL_STRENGTH {
            return None;
        }
        let why = format!("shaded like a matte ball to {:.1} %", 100.0 * r.residual);
        return Some(of(Finish::Matte, r.outline.ellipse, strength, why));
    }
    if c.coverage < 0.6 {
        return None;
    }
    let r = ball_mirror::read(photo, camera, e.centre, e.rx);
    let brightest = r.lights.first().and_then(|(_, b)| photo.luminance_between(b.centre[0], b.centre[1]))?;
    let over = brightest / ground.max(1e-4);
    (over > MIRROR_OVER).then(|| {
        let why = format!("a round thing with a spot {:.1} stops over what else it mirrors", over.log2());
        of(Finish::Mirror, r.outline.ellipse, 0.8 * c.coverage, why)
    })
}
