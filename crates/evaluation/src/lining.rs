//! `evaluation lines`: bright lines on cans, bottles, boxes and balls, what is told to give them written out for another renderer to draw.

use crate::Failure;
use lightset::kit::catalogue;
use lightset::line::{BoxSide, Fade, FadeSide, LineWanted, LineWay, body, line};
use lightset::set::{LightSet, Source};
use serde_json::{Value, json};
use std::path::PathBuf;

#[derive(clap::Args)]
pub(crate) struct Options {
    /// Write the sets here, for tests/fixtures/draw_lines.py to draw and measure.
    #[arg(long)]
    out: Option<PathBuf>,
    /// How many lines.
    #[arg(long, default_value_t = 20)]
    count: u32,
    /// Where they run.
    #[arg(long, value_enum, default_value_t = Where::Body)]
    on: Where,
}

/// Where a line runs.
#[derive(Clone, Copy, PartialEq, Eq, clap::ValueEnum)]
enum Where {
    /// On a can's or bottle's upright body.
    Body,
    /// Up over a bottle's shoulder.
    Shoulder,
    /// On a body, fading to one of its edges.
    Fade,
    /// On a side of a box.
    Box,
    /// On a mirror ball.
    Ball,
}

/// A number between two, the same each time.
fn between(seed: &mut u32, lo: f64, hi: f64) -> f64 {
    // Numerical Recipes' linear congruential generator (Press et al. 1992)
    *seed = seed.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
    lo + (hi - lo) * f64::from(*seed >> 8) / f64::from(1u32 << 24)
}

/// A line drawn by chance: the kind of product, how it is turned, and the line.
fn wanted(on: Where, mut n: impl FnMut(f64, f64) -> f64) -> (&'static str, f64, LineWanted) {
    let kind = if n(0.0, 1.0) < 0.5 { "can" } else { "bottle" };
    let side = if n(0.0, 1.0) < 0.5 { -1.0 } else { 1.0 };
    let (middle, wide) = (side * n(0.45, 0.85), n(0.05, 0.2));
    let (from, to) = (middle - wide / 2.0, middle + wide / 2.0);
    // on the body: a bottle narrows over a fifth of its half height
    let (bottom, top) = (n(-0.85, -0.3), n(0.02, if kind == "can" { 0.75 } else { 0.18 }));
    let upright = LineWanted { from, to, bottom, top, ..LineWanted::default() };
    match on {
        Where::Body => (kind, 0.0, upright),
        Where::Shoulder => ("bottle", 0.0, LineWanted { bottom: n(-0.3, 0.0), top: n(0.25, 0.42), ..upright }),
        Where::Fade => {
            let share = n(0.35, 0.9);
            let side = if n(0.0, 1.0) < 0.5 { FadeSide::Left } else { FadeSide::Right };
            (kind, 0.0, LineWanted { fade: Some(Fade { side, share }), ..upright })
        }
        Where::Box => {
            let side = [BoxSide::Front, BoxSide::Top][usize::from(n(0.0, 1.0) < 0.5)];
            let (from, bottom) = (n(-0.9, 0.0), n(-0.9, 0.0));
            let line = LineWanted {
                from,
                to: from + n(0.4, 0.9),
                bottom,
                top: bottom + n(0.4, 0.9),
                side,
                fade: None,
                subject: 0,
            };
            ("tin", n(-40.0, 40.0), line)
        }
        Where::Ball => {
            let (from, bottom) = (n(-0.7, 0.45), n(-0.2, 0.45));
            (
                "ball_mirror",
                0.0,
                LineWanted {
                    from,
                    to: from + n(0.05, 0.2),
                    bottom,
                    top: bottom + n(0.05, 0.2),
                    ..LineWanted::default()
                },
            )
        }
    }
}

/// Something of the set that stands upright and is wider than nothing; what is round is left out.
fn stands(way: &LineWay) -> bool {
    way.gives_it && way.light.as_ref().is_none_or(|l| matches!(l.source, Source::Rectangle { .. }))
}

/// A flat thing: where it stands, where it looks and how large it is.
fn flat(at: [f64; 3], aim: [f64; 3], size: [f64; 2], roll_deg: f64) -> Value {
    json!({"at_m": at, "aim_m": aim, "size_m": size, "roll_deg": roll_deg})
}

/// What is seen in the product, and the lamp behind it if it is a sheet.
fn things(way: &LineWay) -> Option<(Value, Option<Value>)> {
    if let Some(b) = &way.board {
        return Some((flat(b.position_m, b.aim_m, [b.width_m, b.height_m], 0.0), None));
    }
    let l = way.light.as_ref()?;
    let lamp = flat(l.position_m?, l.aim_m, l.source.face_m(), l.roll_deg);
    let Some(sheet) = l.scrims.first() else { return Some((lamp, None)) };
    let (from, to) = (optics::geometry::Vec3::from(l.position_m?), optics::geometry::Vec3::from(l.aim_m));
    let n = (to - from).normalize();
    let (u, v) = optics::geometry::upright(&n);
    let (sin, cos) = l.roll_deg.to_radians().sin_cos();
    let at = from + n * sheet.gap_m + (u * cos + v * sin) * sheet.aside_m;
    Some((flat(at.into(), (at + n).into(), [sheet.width_m, sheet.height_m], l.roll_deg), Some(lamp)))
}

pub(crate) fn run(o: &Options) -> Result<(), Failure> {
    let mut seed = 20_261_129;
    let mut cases = Vec::new();
    for _ in 0..o.count {
        let (kind, yaw, wanted) = wanted(o.on, |lo, hi| between(&mut seed, lo, hi));
        let mut n = |lo: f64, hi: f64| between(&mut seed, lo, hi);
        let up = if o.on == Where::Box { [0.25, 0.7] } else { [0.0, 0.25] };
        let lens = [n(-0.3, 0.3), n(up[0], up[1]), n(1.2, 2.4)];
        let whole_set = json!({"format": "slant-set/1", "subjects": [{"kind": kind, "yaw_deg": yaw}],
            "camera": {"position_m": lens, "vfov_deg": 8, "exposure": {"f_number": 11, "shutter_s": 0.008, "iso": 100}}});
        let set = LightSet::from_value(whole_set).map_err(Failure::Input)?.set;
        let plan = line(&set, &wanted, catalogue()).map_err(Failure::Input)?;
        println!(
            "{kind} {:+.2} to {:+.2}: {} of {} ways give it; best {}",
            wanted.from,
            wanted.to,
            plan.ways.iter().filter(|w| w.gives_it).count(),
            plan.ways.len(),
            plan.ways.first().map_or("none", |w| w.name.as_str())
        );
        let Some(way) = plan.ways.iter().find(|w| stands(w)) else { continue };
        let Some((shown, lamp)) = things(way) else { continue };
        let subject = &set.subjects[0];
        let (radius, half) = body(subject).unwrap_or((0.075, 0.075));
        let outline = lightset::set::outline(subject.kind);
        let card = way.flag.as_ref().map(|f| flat(f.position_m, f.aim_m, [f.width_m, f.height_m], 0.0));
        cases.push(
            json!({"kind": kind, "yaw_deg": yaw, "radius_m": radius, "half_m": half, "outline": outline, "lens_m": lens,
            "wanted": wanted, "name": way.name, "shown": shown, "lamp": lamp, "card": card}),
        );
    }
    println!("{} of {} lines have something upright in the catalogue that gives them whole", cases.len(), o.count);
    if let Some(path) = &o.out {
        let text = serde_json::to_string_pretty(&cases).map_err(anyhow::Error::from)?;
        std::fs::write(path, text + "\n").map_err(anyhow::Error::from)?;
    }
    Ok(())
}
