//! A set as a drawing to scale: plan and side view side by side, as SVG.
//!
//! Light is drawn, not gear: each source as the outline of its bright face, its cone to the subject,
//! boards as lines, flags as thick ones, the frame as two thin lines, distances along the floor and heights.

use crate::cables::{outlet, walkway};
use crate::meter::{LightMeter, SetMeter};
use crate::set::LightSet;
use optics::geometry::{Vec3, upright};
use optics::words::{Lengths, length};
use std::fmt::Write;

/// Pixels of one view.
const VIEW: (f64, f64) = (620.0, 560.0);
/// Pixels above the views for the title.
const HEAD: f64 = 84.0;

/// A lamp turned away from the subject by less than this is aimed at it.
const FEATHERED_DEG: f64 = 3.0;

/// Which way the set is looked at.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum View {
    /// From above: right is camera right, down is towards the camera.
    Plan,
    /// From camera left: left is towards the camera.
    Side,
}

impl View {
    fn flat(self, p: &Vec3) -> [f64; 2] {
        match self {
            View::Plan => [p.x, p.z],
            View::Side => [-p.z, -p.y],
        }
    }
}

fn escape(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('"', "&quot;")
}

/// Corners of an upright sheet.
fn sheet(at: [f64; 3], aim: [f64; 3], w: f64, h: f64) -> Vec<Vec3> {
    let c = Vec3::from(at);
    let n = (Vec3::from(aim) - c).try_normalize(1e-9).unwrap_or_else(Vec3::z);
    let (u, v) = upright(&n);
    [(-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0)]
        .map(|(a, b)| c + u * (a * w / 2.0) + v * (b * h / 2.0))
        .to_vec()
}

/// Fill and line of a role; shape and words say it too.
fn colours(name: &str) -> (&'static str, &'static str) {
    match name.split_whitespace().next().unwrap_or_default() {
        "key" => ("#f2c464", "#8a5a00"),
        "fill" => ("#b4d8f0", "#1d5f8a"),
        "rim" => ("#d9c3ea", "#5d3a80"),
        "background" => ("#c9e2c4", "#2f6a28"),
        _ => ("#dddddd", "#444444"),
    }
}

/// Draws a set. `title` stands over it with its slant line.
pub fn svg(set: &LightSet, meter: &SetMeter, title: &str, unit: Lengths) -> String {
    let (w, h) = (2.0 * VIEW.0 + 60.0, VIEW.1 + HEAD + 40.0);
    let mut out = String::new();
    let _ = write!(
        out,
        "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {w} {h}\" width=\"{w}\" height=\"{h}\" font-family=\"sans-serif\" font-size=\"13\">\
         <rect width=\"{w}\" height=\"{h}\" fill=\"#ffffff\"/><text x=\"20\" y=\"32\" font-size=\"20\" font-weight=\"bold\">{}</text>\
         <text x=\"20\" y=\"56\" font-family=\"monospace\" font-size=\"12\">{}</text>",
        escape(title),
        escape(&meter.slant)
    );
    view(&mut out, set, meter, View::Plan, 20.0, unit);
    view(&mut out, set, meter, View::Side, 40.0 + VIEW.0, unit);
    out.push_str("</svg>\n");
    out
}

fn view(out: &mut String, set: &LightSet, meter: &SetMeter, v: View, left: f64, unit: Lengths) {
    let floor = set.floor_m();
    let camera = Vec3::from(set.camera.position_m);
    let lights: Vec<(&LightMeter, Vec3)> =
        meter.lights.iter().zip(&set.lights).filter(|l| !l.0.off).map(|(m, l)| (m, Vec3::from(l.aim_m))).collect();
    let mut all = vec![Vec3::zeros(), camera];
    if v == View::Plan && !meter.cables.is_empty() {
        let [x, z] = outlet(set);
        all.push(Vec3::new(x, 0.0, z));
    }
    all.extend(
        lights.iter().flat_map(|(l, _)| l.outline_m.iter().map(|p| Vec3::from(*p)).chain([Vec3::from(l.position_m)])),
    );
    all.extend(set.boards.iter().flat_map(|b| sheet(b.position_m, b.aim_m, b.width_m, b.height_m)));
    all.extend(set.flags.iter().flat_map(|b| sheet(b.position_m, b.aim_m, b.width_m, b.height_m)));
    if v == View::Side {
        all.push(Vec3::new(0.0, -floor, 0.0));
    }
    let flat: Vec<[f64; 2]> = all.iter().map(|p| v.flat(p)).collect();
    let range = |k: usize| {
        let lo = flat.iter().map(|p| p[k]).fold(f64::MAX, f64::min) - 0.3;
        let hi = flat.iter().map(|p| p[k]).fold(f64::MIN, f64::max) + 0.3;
        (lo, hi)
    };
    let ((x0, x1), (y0, y1)) = (range(0), range(1));
    let k = (VIEW.0 / (x1 - x0)).min(VIEW.1 / (y1 - y0));
    let at = |p: [f64; 2]| {
        [left + VIEW.0 / 2.0 + k * (p[0] - (x0 + x1) / 2.0), HEAD + VIEW.1 / 2.0 + k * (p[1] - (y0 + y1) / 2.0)]
    };
    let spot = |p: &Vec3| at(v.flat(p));
    let points =
        |list: &[Vec3]| list.iter().map(spot).map(|p| format!("{:.1},{:.1}", p[0], p[1])).collect::<Vec<_>>().join(" ");
    let _ = write!(
        out,
        "<clipPath id=\"c{left}\"><rect x=\"{left}\" y=\"{HEAD}\" width=\"{}\" height=\"{}\"/></clipPath>\
         <rect x=\"{left}\" y=\"{HEAD}\" width=\"{}\" height=\"{}\" fill=\"#f7f7f7\" stroke=\"#999\"/>\
         <text x=\"{left}\" y=\"{}\" fill=\"#333\">{}; squares of {}</text><g clip-path=\"url(#c{left})\">",
        VIEW.0,
        VIEW.1,
        VIEW.0,
        VIEW.1,
        HEAD + VIEW.1 + 22.0,
        if v == View::Plan { "From above, the camera at the bottom" } else { "From the side, the camera on the left" },
        length(0.5, unit)
    );
    // squares of half a metre
    for axis in 0..2 {
        let (lo, hi) = if axis == 0 { (x0, x1) } else { (y0, y1) };
        let span = (hi - lo).max(VIEW.0 / k);
        let mut g = ((lo - span) / 0.5).floor() * 0.5;
        while g < hi + span {
            let (a, b) = if axis == 0 { (at([g, -50.0]), at([g, 50.0])) } else { (at([-50.0, g]), at([50.0, g])) };
            let _ = write!(
                out,
                "<line x1=\"{:.1}\" y1=\"{:.1}\" x2=\"{:.1}\" y2=\"{:.1}\" stroke=\"#e2e2e2\"/>",
                a[0], a[1], b[0], b[1]
            );
            g += 0.5;
        }
    }
    for wall in &set.walls {
        let n = Vec3::from(wall.normal).normalize();
        if (v == View::Plan && n.y.abs() > 0.5) || (v == View::Side && n.x.abs() > 0.5) {
            continue;
        }
        let corners = sheet(wall.position_m, (Vec3::from(wall.position_m) + n).into(), wall.width_m, wall.height_m);
        let ends = if v == View::Plan || n.y.abs() > 0.5 { [corners[0], corners[1]] } else { [corners[1], corners[2]] };
        let ends = if v == View::Side && n.y.abs() > 0.5 {
            [Vec3::new(0.0, wall.position_m[1], -50.0), Vec3::new(0.0, wall.position_m[1], 50.0)]
        } else {
            ends
        };
        let _ =
            write!(out, "<polyline points=\"{}\" stroke=\"#777\" stroke-width=\"3\" fill=\"none\"/>", points(&ends));
    }
    // the frame
    let forward = (Vec3::from(set.camera.aim_m) - camera).normalize();
    let half_v = (set.camera.vfov_deg() / 2.0).to_radians();
    let half = match v {
        View::Plan => (half_v.tan() * f64::from(set.picture.width) / f64::from(set.picture.height)).atan(),
        View::Side => half_v,
    };
    let f = v.flat(&forward);
    for s in [-half, half] {
        let d = [f[0] * s.cos() - f[1] * s.sin(), f[0] * s.sin() + f[1] * s.cos()];
        let c = v.flat(&camera);
        let (a, b) = (at(c), at([c[0] + 20.0 * d[0], c[1] + 20.0 * d[1]]));
        let _ = write!(
            out,
            "<line x1=\"{:.1}\" y1=\"{:.1}\" x2=\"{:.1}\" y2=\"{:.1}\" stroke=\"#555\" stroke-dasharray=\"4 3\"/>",
            a[0], a[1], b[0], b[1]
        );
    }
    if v == View::Plan {
        on_the_floor(out, set, meter, &at, unit);
    }
    for (l, aimed) in &lights {
        let (fill, line) = colours(&l.name);
        let corners: Vec<Vec3> = l.outline_m.iter().map(|p| Vec3::from(*p)).collect();
        let face = Vec3::from(l.face_m);
        let along = v.flat(&face);
        let side = |p: &Vec3| {
            let q = v.flat(p);
            (along[0] * q[1] - along[1] * q[0]).atan2(along[0] * q[0] + along[1] * q[1])
        };
        let first = corners.iter().min_by(|a, b| side(a).total_cmp(&side(b)));
        let last = corners.iter().max_by(|a, b| side(a).total_cmp(&side(b)));
        if let (Some(a), Some(b)) = (first, last) {
            let _ = write!(
                out,
                "<polygon points=\"{}\" fill=\"{fill}\" fill-opacity=\"0.45\"/>",
                points(&[Vec3::zeros(), *a, *b])
            );
        }
        let _ = write!(
            out,
            "<polygon points=\"{}\" fill=\"{fill}\" stroke=\"{line}\" stroke-width=\"2.5\"/>",
            points(&corners)
        );
        let lamp = Vec3::from(l.position_m);
        if (lamp - face).norm() > 0.05 {
            let _ = write!(
                out,
                "<polyline points=\"{}\" stroke=\"{line}\" stroke-dasharray=\"3 3\" fill=\"none\"/>",
                points(&[lamp, face])
            );
        }
        // where it points, if not at the subject
        if l.feather_deg > FEATHERED_DEG {
            let _ = write!(
                out,
                "<polyline points=\"{}\" stroke=\"{line}\" stroke-dasharray=\"9 4\" fill=\"none\"/>",
                points(&[face, *aimed])
            );
        }
        let p = spot(&face);
        let text = match v {
            View::Plan if l.feather_deg > FEATHERED_DEG => {
                format!(
                    "{} {} on the floor, feathered {:.0}°",
                    l.name,
                    length(face.x.hypot(face.z), unit),
                    l.feather_deg
                )
            }
            View::Plan => format!("{} {} on the floor", l.name, length(face.x.hypot(face.z), unit)),
            View::Side => {
                format!("{} {} up, face {} away", l.name, length(face.y + floor, unit), length(l.distance_m, unit))
            }
        };
        let (x, anchor) = if p[0] > left + VIEW.0 / 2.0 {
            (p[0].min(left + VIEW.0 - 6.0), "end")
        } else {
            (p[0].max(left + 6.0), "start")
        };
        let _ = write!(
            out,
            "<text x=\"{x:.1}\" y=\"{:.1}\" text-anchor=\"{anchor}\" stroke=\"#fff\" stroke-width=\"3\" paint-order=\"stroke\">{}</text>",
            (p[1] - 8.0).max(HEAD + 14.0),
            escape(&text)
        );
    }
    for b in &set.boards {
        let c = sheet(b.position_m, b.aim_m, b.width_m, b.height_m);
        let ends = if v == View::Plan { [c[0], c[1]] } else { [c[1], c[2]] };
        let _ =
            write!(out, "<polyline points=\"{}\" stroke=\"#000\" stroke-width=\"2\" fill=\"none\"/>", points(&ends));
        let p = spot(&Vec3::from(b.position_m));
        let _ = write!(
            out,
            "<text x=\"{:.1}\" y=\"{:.1}\" font-size=\"12\">{:?} board {} × {}</text>",
            p[0] + 6.0,
            p[1],
            b.finish,
            length(b.width_m, unit),
            length(b.height_m, unit)
        );
    }
    for b in &set.flags {
        let c = sheet(b.position_m, b.aim_m, b.width_m, b.height_m);
        let ends = if v == View::Plan { [c[0], c[1]] } else { [c[1], c[2]] };
        let _ =
            write!(out, "<polyline points=\"{}\" stroke=\"#000\" stroke-width=\"6\" fill=\"none\"/>", points(&ends));
    }
    if let Some(z) = set.walls.iter().filter(|w| w.normal[2] > 0.9).map(|w| w.position_m[2]).reduce(f64::max) {
        let (a, b) = (spot(&Vec3::zeros()), spot(&Vec3::new(0.0, 0.0, z)));
        let _ = write!(
            out,
            "<line x1=\"{:.1}\" y1=\"{:.1}\" x2=\"{:.1}\" y2=\"{:.1}\" stroke=\"#777\"/>\
             <text x=\"{:.1}\" y=\"{:.1}\" font-size=\"12\" fill=\"#444\">background {} behind</text>",
            a[0],
            a[1],
            b[0],
            b[1],
            (a[0] + b[0]) / 2.0 + 6.0,
            (a[1] + b[1]) / 2.0 + 14.0,
            length(-z, unit)
        );
    }
    let (s, c) = (spot(&Vec3::zeros()), spot(&camera));
    let _ = write!(
        out,
        "<circle cx=\"{:.1}\" cy=\"{:.1}\" r=\"7\" fill=\"#fff\" stroke=\"#000\" stroke-width=\"2\"/><text x=\"{:.1}\" y=\"{:.1}\">subject</text>\
         <circle cx=\"{:.1}\" cy=\"{:.1}\" r=\"4\"/><text x=\"{:.1}\" y=\"{:.1}\">lens, {} away</text></g>",
        s[0],
        s[1],
        s[0] + 11.0,
        s[1] + 5.0,
        c[0],
        c[1],
        c[0] + 8.0,
        c[1] + 5.0,
        length(camera.norm(), unit)
    );
}

/// The walkway that is kept free and the cables round it.
fn on_the_floor(out: &mut String, set: &LightSet, meter: &SetMeter, at: &dyn Fn([f64; 2]) -> [f64; 2], unit: Lengths) {
    let line = |list: &[[f64; 2]]| {
        list.iter().map(|p| at(*p)).map(|p| format!("{:.1},{:.1}", p[0], p[1])).collect::<Vec<_>>().join(" ")
    };
    let _ = write!(
        out,
        "<polygon points=\"{}\" fill=\"none\" stroke=\"#b5b5b5\" stroke-dasharray=\"2 5\"/>",
        line(&walkway(set))
    );
    for c in &meter.cables {
        let _ = write!(
            out,
            "<polyline points=\"{}\" fill=\"none\" stroke=\"#333\" stroke-width=\"1.4\" stroke-dasharray=\"1 3\"/>",
            line(&c.path_m)
        );
    }
    if !meter.cables.is_empty() {
        let p = at(outlet(set));
        let _ = write!(
            out,
            "<text x=\"{:.1}\" y=\"{:.1}\" font-size=\"12\">outlet; {}</text>",
            p[0] + 4.0,
            p[1],
            meter
                .cables
                .iter()
                .map(|c| format!("{} {}", escape(&c.light), length(c.length_m, unit)))
                .collect::<Vec<_>>()
                .join(", ")
        );
    }
}
