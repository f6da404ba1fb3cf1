//! A small lamp moved along a line during a long exposure: a large lamp.

use super::{Curve, CurveLine, Figures, Told, curve_points, Unit};
use optics::exposure::C_FLAT;

/// Mean light of a lamp of unit intensity that moves evenly along a line of length `l`, square to the
/// subject's view of its middle at `d`: `1/l ∫ d / (d^2 + x^2)^(3/2) dx = 1 / (d sqrt(d^2 + l^2/4))`.
fn mean_light(l: f64, d: f64) -> f64 {
    1.0 / (d * (d * d + l * l / 4.0).sqrt())
}

fn lux_seconds(v: &Figures) -> f64 {
    v.at("lux_1m") * mean_light(v.at("path_m"), v.at("distance_m")) * v.at("lit_s")
}

pub(super) fn relation(v: &Figures) -> f64 {
    (lux_seconds(v) * v.at("iso") / (C_FLAT * v.at("f_number").powi(2))).log2() - v.at("over_stops")
}

pub(super) fn tell(v: &Figures, t: &mut Told) {
    let (l, d, time) = (v.at("path_m"), v.at("distance_m"), v.at("lit_s"));
    let over = (lux_seconds(v) * v.at("iso") / (C_FLAT * v.at("f_number").powi(2))).log2();
    t.result("Over what the camera is set for", over, Unit::Stops);
    t.result("Length it fills", 2.0 * (l / 2.0 / d).atan().to_degrees(), Unit::Deg);
    t.result("Width it fills", 2.0 * (v.at("lamp_m") / 2.0 / d).atan().to_degrees(), Unit::Deg);
    let passes = v.at("passes").max(1.0);
    t.result("Speed of the lamp", l * passes / time, Unit::MetresASecond);
    t.result("Time for each pass", time / passes, Unit::S);
    // held still at places: lobes overlap if the places are no further apart than the lamp is wide
    t.result("Places to hold it at, if not moved", (l / v.at("lamp_m").max(1e-3)).ceil().max(1.0), Unit::Number);
    // a start and a stop each hold the lamp for about a fifth of a second too long (common practice)
    let uneven = (1.0 + 0.2 * passes * (l / v.at("lamp_m").max(1e-3)) / time).log2();
    t.result("Ends brighter than the middle by", uneven, Unit::Stops);
    t.says.push(format!("Open the shutter, move evenly over {l:.2} m in {:.1} s, {passes:.0} times, cover the lamp, close. Keep yourself dark and out of the lamp's way to the subject.", time / passes));
    if uneven > 0.3 {
        t.says.push("More time at less light, or more passes without a stop at the ends, makes the line even.".into());
    }
    t.working.push(format!("mean of d/(d²+x²)^1.5 over the path = 1/(d √(d²+l²/4)) = {:.3} per m²", mean_light(l, d)));
    t.working.push(format!(
        "H = {:.0} lux × {:.3} × {time:.1} s = {:.2} lux s",
        v.at("lux_1m"),
        mean_light(l, d),
        lux_seconds(v)
    ));
    t.curves.push(Curve {
        across: "length of the path, m".into(),
        up: "stops over what is set".into(),
        lines: vec![CurveLine {
            name: "this time".into(),
            points: curve_points(0.0, (2.0 * l).max(0.5), |x| over + (mean_light(x, d) / mean_light(l, d)).log2()),
        }],
        here: vec![[l, over]],
    });
}
