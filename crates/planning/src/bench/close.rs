//! Close up: what magnification costs, how deep the picture is sharp, how many slices a stack needs.

use super::{Curve, CurveLine, Figures, Told, curve_points, Unit};
use optics::depth::{hyperfocal_m, sharp_limits};

/// Depth of field of a thin lens in metres: `2 N c (1 + m) / m^2`, less the small term of the hyperfocal
/// distance (far limit less near limit, from `s (H - f) / (H ± (s - ...))`; Ray, Applied Photographic
/// Optics; from memory).
fn depth_m(v: &Figures, n: f64) -> f64 {
    let (near, far) = limits(v, n);
    far - near
}

/// Hyperfocal distance `f^2 / (N c) + f`, metres.
fn hyperfocal(v: &Figures, n: f64) -> f64 {
    hyperfocal_m(v.at("focal_mm") / 1000.0, n, v.at("coc_mm") / 1000.0)
}

/// Subject distance from the lens for the magnification: `f (1 + 1/m)`.
fn distance(v: &Figures) -> f64 {
    v.at("focal_mm") / 1000.0 * (1.0 + 1.0 / v.at("magnification"))
}

fn limits(v: &Figures, n: f64) -> (f64, f64) {
    sharp_limits(v.at("focal_mm") / 1000.0, n, v.at("coc_mm") / 1000.0, distance(v))
}

pub(super) fn relation(v: &Figures) -> f64 {
    (depth_m(v, v.at("f_number")) * 1000.0 / v.at("depth_mm")).log2()
}

pub(super) fn tell(v: &Figures, t: &mut Told) {
    let (n, m) = (v.at("f_number"), v.at("magnification"));
    let (near, far) = limits(v, n);
    let depth = (far - near) * 1000.0;
    t.result("Effective aperture", n * (1.0 + m), Unit::F);
    t.result("Bellows cost", 2.0 * (1.0 + m).log2(), Unit::Stops);
    t.result("Sharp depth", depth, Unit::Mm);
    t.result("Lens to subject", distance(v), Unit::M);
    t.result("Sharp from", near, Unit::M);
    if far.is_finite() {
        t.result("Sharp to", far, Unit::M);
    }
    t.result("Hyperfocal distance", hyperfocal(v, n), Unit::M);
    // Airy disc 2.44 lambda N, green light
    let airy = 2.44 * 0.55e-3 * n * (1.0 + m);
    t.result("Blur by diffraction", airy, Unit::Mm);
    // slices overlap by a fifth (common practice)
    let slices = (v.at("depth_mm") / (0.8 * depth)).ceil().max(1.0);
    t.result("Slices for the depth wanted", slices, Unit::Number);
    if airy > 2.0 * v.at("coc_mm") {
        t.problems
            .push("Stopped down this far, diffraction blurs more than the depth gains: take a stack of slices.".into());
    }
    t.says.push(if slices <= 1.0 {
        "One exposure holds the depth wanted.".into()
    } else {
        format!("{slices:.0} slices, {:.2} mm apart.", 0.8 * depth)
    });
    t.working.push(format!("N (1 + m) = {n:.1} × {:.2} = {:.1}", 1.0 + m, n * (1.0 + m)));
    t.working
        .push(format!("hyperfocal f²/(N c) + f = {:.2} m; near s(H−f)/(H+s−2f), far s(H−f)/(H−s)", hyperfocal(v, n)));
    t.curves.push(Curve {
        across: "aperture, stops from f/1".into(),
        up: "sharp depth, mm".into(),
        lines: vec![CurveLine {
            name: "depth".into(),
            points: curve_points(2.0, 10.0, |x| depth_m(v, (x / 2.0).exp2()) * 1000.0),
        }],
        here: vec![[2.0 * n.log2(), depth]],
    });
}
