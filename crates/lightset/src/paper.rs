//! A set's drawing on paper: plan and side view side by side, as SVG.

use crate::drawing::{Drawing, FEATHERED_DEG, Line, Note, Part, Thing, ThingKind};
use crate::meter::SetMeter;
use optics::role::Role;
use optics::words::{Lengths, length};
use std::fmt::Write;

/// Pixels of one view.
const VIEW: (f64, f64) = (620.0, 560.0);
/// Pixels above the views for the title.
const HEAD: f64 = 84.0;
/// Metres between the lines of the grid.
const GRID_M: f64 = 0.5;

fn escape(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('"', "&quot;")
}

/// Fill and line of a role; shape and words say it too.
fn colours(role: Role) -> (&'static str, &'static str) {
    match role {
        Role::Key => ("#f2c464", "#8a5a00"),
        Role::Fill => ("#b4d8f0", "#1d5f8a"),
        Role::Rim => ("#d9c3ea", "#5d3a80"),
        Role::Background => ("#c9e2c4", "#2f6a28"),
        _ => ("#dddddd", "#444444"),
    }
}

/// Draws a metered set. `title` stands over it with its slant line.
pub fn svg(meter: &SetMeter, title: &str, unit: Lengths) -> String {
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
    let plan = Paper { drawing: &meter.plan, meter, left: 20.0, unit };
    plan.view(&mut out, "From above, the camera at the bottom");
    let side = Paper { drawing: &meter.side, meter, left: 40.0 + VIEW.0, unit };
    side.view(&mut out, "From the side, the camera on the left");
    out.push_str("</svg>\n");
    out
}

/// One view on paper.
struct Paper<'a> {
    drawing: &'a Drawing,
    meter: &'a SetMeter,
    left: f64,
    unit: Lengths,
}

impl Paper<'_> {
    /// Pixels for a metre.
    fn scale(&self) -> f64 {
        let d = self.drawing;
        (VIEW.0 / (d.to[0] - d.from[0])).min(VIEW.1 / (d.to[1] - d.from[1]))
    }

    fn at(&self, p: &[f64; 2]) -> [f64; 2] {
        let (d, k) = (self.drawing, self.scale());
        let middle = [0, 1].map(|i| f64::midpoint(d.from[i], d.to[i]));
        [self.left + VIEW.0 / 2.0 + k * (p[0] - middle[0]), HEAD + VIEW.1 / 2.0 + k * (p[1] - middle[1])]
    }

    fn points(&self, list: &[[f64; 2]]) -> String {
        let one = |p: &[f64; 2]| {
            let [x, y] = self.at(p);
            format!("{x:.1},{y:.1}")
        };
        list.iter().map(one).collect::<Vec<_>>().join(" ")
    }

    fn light(&self, of: Option<Thing>) -> Option<&crate::meter::LightMeter> {
        of.filter(|t| matches!(t.what, ThingKind::Light | ThingKind::Aim)).and_then(|t| self.meter.lights.get(t.i))
    }

    fn view(&self, out: &mut String, title: &str) {
        let (left, (w, h)) = (self.left, VIEW);
        let _ = write!(
            out,
            "<clipPath id=\"c{left}\"><rect x=\"{left}\" y=\"{HEAD}\" width=\"{w}\" height=\"{h}\"/></clipPath>\
             <rect x=\"{left}\" y=\"{HEAD}\" width=\"{w}\" height=\"{h}\" fill=\"#f7f7f7\" stroke=\"#999\"/>\
             <text x=\"{left}\" y=\"{}\" fill=\"#333\">{title}; squares of {}</text><g clip-path=\"url(#c{left})\">",
            HEAD + h + 22.0,
            length(GRID_M, self.unit)
        );
        self.grid(out);
        for l in &self.drawing.lines {
            self.line(out, l);
        }
        for n in &self.drawing.notes {
            self.note(out, n);
        }
        let s = self.at(&[0.0, 0.0]);
        let _ = write!(out, "<circle cx=\"{:.1}\" cy=\"{:.1}\" r=\"3\"/></g>", s[0], s[1]);
    }

    fn grid(&self, out: &mut String) {
        let d = self.drawing;
        for axis in 0..2 {
            let span = VIEW.0.max(VIEW.1) / self.scale();
            let mut g = ((d.from[axis] - span) / GRID_M).floor() * GRID_M;
            while g < d.to[axis] + span {
                let ends = if axis == 0 { [[g, -50.0], [g, 50.0]] } else { [[-50.0, g], [50.0, g]] };
                let _ = write!(out, "<polyline points=\"{}\" stroke=\"#e2e2e2\"/>", self.points(&ends));
                g += GRID_M;
            }
        }
    }

    fn line(&self, out: &mut String, l: &Line) {
        let light = self.light(l.of);
        if light.is_some_and(|m| m.off) {
            return;
        }
        let (fill, role) = colours(light.map_or(Role::Other, |m| m.role));
        let style = match l.part {
            Part::Wall => "stroke=\"#777\" stroke-width=\"3\" fill=\"none\"".to_owned(),
            Part::Frame => "stroke=\"#555\" stroke-dasharray=\"4 3\" fill=\"none\"".into(),
            Part::Walkway => "stroke=\"#b5b5b5\" stroke-dasharray=\"2 5\" fill=\"none\"".into(),
            Part::Walk => "stroke=\"#333\" stroke-width=\"1.5\" stroke-dasharray=\"6 3\" fill=\"none\"".into(),
            Part::Subject => "stroke=\"#000\" stroke-width=\"2\" fill=\"#fff\"".into(),
            Part::Background => "stroke=\"#777\" fill=\"none\"".into(),
            Part::Board => "stroke=\"#000\" stroke-width=\"2\" fill=\"#fff\"".into(),
            Part::Flag => "stroke=\"#000\" stroke-width=\"6\" fill=\"#000\"".into(),
            Part::Cone => format!("fill=\"{fill}\" fill-opacity=\"0.45\""),
            Part::Face => format!("fill=\"{fill}\" stroke=\"{role}\" stroke-width=\"2.5\""),
            Part::Throw => format!("stroke=\"{role}\" stroke-dasharray=\"3 3\" fill=\"none\""),
            // a lamp's height is written beside it
            Part::Drop => return,
            // where it points is drawn if it is not the subject
            Part::Aim if light.is_some_and(|m| m.feather_deg > FEATHERED_DEG) => {
                format!("stroke=\"{role}\" stroke-dasharray=\"9 4\" fill=\"none\"")
            }
            Part::Aim => return,
            Part::Reach => "stroke=\"#999\" stroke-dasharray=\"5 3\" fill=\"none\"".into(),
            Part::Cable | Part::CableAcross => {
                "stroke=\"#333\" stroke-width=\"1.4\" stroke-dasharray=\"1 3\" fill=\"none\"".into()
            }
        };
        let shape = if l.closed { "polygon" } else { "polyline" };
        let _ = write!(out, "<{shape} points=\"{}\" {style}/>", self.points(&l.points));
    }

    fn note(&self, out: &mut String, n: &Note) {
        if self.light(n.of).is_some_and(|m| m.off) {
            return;
        }
        let [x, y] = self.at(&n.at);
        let (x, anchor) = if x > self.left + VIEW.0 / 2.0 {
            (x.min(self.left + VIEW.0 - 6.0), "end")
        } else {
            (x.max(self.left + 6.0), "start")
        };
        let _ = write!(
            out,
            "<text x=\"{x:.1}\" y=\"{:.1}\" text-anchor=\"{anchor}\" stroke=\"#fff\" stroke-width=\"3\" paint-order=\"stroke\">{}</text>",
            (y - 8.0).clamp(HEAD + 14.0, HEAD + VIEW.1 - 6.0),
            escape(&n.text(self.unit))
        );
    }
}
