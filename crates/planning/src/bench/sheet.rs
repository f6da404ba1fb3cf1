//! A sheet of diffusion before a lamp, and a book light: what they cost and how large they are.

use super::{Curve, CurveLine, Figures, Told, curve_points, Unit};
use optics::falloff::{irradiance_from_polygon, solid_angle_of_rectangle};
use optics::geometry::{Vec3, angular_size_of_solid_angle};
use optics::units::Metres;
use std::f64::consts::PI;

/// Width of the lit patch, cut by the sheet: `lamp + 2 gap tan(beam / 2)`.
fn patch(v: &Figures, gap: f64) -> [f64; 2] {
    let grow = v.at("lamp_m") + 2.0 * gap * (v.at("beam_deg").min(150.0) / 2.0).to_radians().tan();
    [grow.min(v.at("sheet_w_m")), grow.min(v.at("sheet_h_m"))]
}

fn angle(v: &Figures, gap: f64) -> f64 {
    let [w, h] = patch(v, gap);
    angular_size_of_solid_angle(solid_angle_of_rectangle(Metres(w), Metres(h), Metres(v.at("distance_m")))).to_degrees()
}

pub(super) fn relation(v: &Figures) -> f64 {
    (angle(v, v.at("gap_m")) / v.at("angle_deg")).log2()
}

/// Light at the subject through the sheet, over the bare lamp at the same total distance.
fn cost(v: &Figures, gap: f64) -> f64 {
    let d = v.at("distance_m");
    let [w, h] = patch(v, gap);
    let grow = v.at("lamp_m") + 2.0 * gap * (v.at("beam_deg").min(150.0) / 2.0).to_radians().tan();
    let caught = (w * h / (grow * grow)).min(1.0);
    let (x, y) = (w / 2.0, h / 2.0);
    let corners = [Vec3::new(-x, -y, d), Vec3::new(x, -y, d), Vec3::new(x, y, d), Vec3::new(-x, y, d)];
    let face = irradiance_from_polygon(1.0, &corners, &Vec3::zeros(), &Vec3::new(0.0, 0.0, 1.0));
    let flux = optics::beam::beam_sr(v.at("beam_deg"));
    flux * caught * v.at("transmission") * face / (PI * w * h) * (d + gap).powi(2)
}

pub(super) fn tell(v: &Figures, t: &mut Told) {
    let gap = v.at("gap_m");
    let [w, h] = patch(v, gap);
    t.result("Lit patch, width", w, Unit::M);
    t.result("Lit patch, height", h, Unit::M);
    t.result("Angle it fills", angle(v, gap), Unit::Deg);
    t.result("Against the bare lamp as far away", cost(v, gap).log2(), Unit::Stops);
    // a small lamp on a flat sheet: cos^4 of the angle, times its beam
    let edge = (w / 2.0 / gap.max(0.01)).atan();
    let beam = 0.5f64.powf((edge.to_degrees() / (v.at("beam_deg") / 2.0)).powi(2));
    let centre = -(edge.cos().powi(4) * beam).log2();
    t.result("Middle of the sheet over its edge", centre, Unit::Stops);
    let rho = v.at("board_share");
    t.result("A book light (board, then sheet) costs", (cost(v, gap) * rho).log2() - 1.0, Unit::Stops);
    t.says.push(match centre {
        c if c < 1.0 => "The sheet glows evenly: crisp edges in a glossy thing.".into(),
        c if c < 3.0 => "Brighter in the middle: edges in a glossy thing fade.".to_owned(),
        _ => "A hot middle: it acts as a smaller source than the sheet. Move the lamp back or take a second sheet."
            .into(),
    });
    t.says.push(
        "Close to the lamp a sheet only takes glare away; the size comes from where it stands before the subject."
            .into(),
    );
    if w >= v.at("sheet_w_m") - 1e-9 {
        t.says.push("The lamp overshoots the sheet: what passes beside it is lost or spills.".into());
    }
    t.working.push(format!(
        "patch = lamp + 2 gap tan(beam/2) = {:.2} + 2 × {gap:.2} × tan({:.0}°), cut by the sheet: {w:.2} m",
        v.at("lamp_m"),
        v.at("beam_deg") / 2.0
    ));
    t.working.push("middle over edge: cos⁴ of the angle to the edge, times the lamp's own beam".into());
    let to = (3.0 * gap).max(1.0);
    t.curves.push(Curve {
        across: "gap between lamp and sheet, m".into(),
        up: "angle the patch fills, degrees".into(),
        lines: vec![CurveLine { name: "this sheet".into(), points: curve_points(0.0, to, |x| angle(v, x)) }],
        here: vec![[gap, angle(v, gap)]],
    });
}
