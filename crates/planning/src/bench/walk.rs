//! The walk: what a meter loses between two marks, and how far the light must be for that.

use super::{Curve, CurveLine, Figures, Told, curve_points, Unit};
use optics::falloff::solid_angle_of_rectangle;
use optics::geometry::angular_size_of_solid_angle;
use optics::units::Metres;

/// Light of a round face of diameter `size` metres on its axis at `d` metres, relative to its intensity:
/// `1 / (d^2 + r^2)`; a point for size 0 (disc to facing element, as in `falloff::irradiance_from_disc`).
pub fn light_on_axis(size: f64, d: f64) -> f64 {
    1.0 / (d * d + size * size / 4.0)
}

/// Stops lost from `d` to `d + apart` metres.
pub fn walk_stops(size: f64, d: f64, apart: f64) -> f64 {
    (light_on_axis(size, d) / light_on_axis(size, d + apart)).log2()
}

fn size_of(v: &Figures) -> f64 {
    // the disc of the same area
    (v.at("face_w_m") * v.at("face_h_m") * 4.0 / std::f64::consts::PI).sqrt()
}

pub(super) fn relation(v: &Figures) -> f64 {
    walk_stops(size_of(v), v.at("distance_m"), v.at("apart_m")) - 2.0 * (v.at("first_f") / v.at("second_f")).log2()
}

pub(super) fn tell(v: &Figures, t: &mut Told) {
    let (s, d, apart, back) = (size_of(v), v.at("distance_m"), v.at("apart_m"), v.at("back_m"));
    let metered = 2.0 * (v.at("first_f") / v.at("second_f")).log2();
    let now = walk_stops(s, d, apart);
    let after = walk_stops(s, d + back, apart);
    let cost = walk_stops(s, d, back);
    t.result("The meter lost between the marks", metered, Unit::Stops);
    t.result("The walk costs at this distance", now, Unit::Stops);
    t.result("The light moved back costs the first mark", cost, Unit::Stops);
    t.result("The walk then costs", after, Unit::Stops);
    // where the walk stays under the wanted part of a stop
    let under = v.at("under_stops");
    let (mut near, mut far) = (1e-3, 1e4);
    for _ in 0..80 {
        let mid = f64::sqrt(near * far);
        if walk_stops(s, mid, apart) > under { near = mid } else { far = mid }
    }
    t.result("From here on it stays under what is wanted", far, Unit::M);
    t.result("Getting there costs", walk_stops(s, d, far - d), Unit::Stops);
    let angle = |at: f64| {
        let (w, h) = (Metres(v.at("face_w_m").max(1e-4)), Metres(v.at("face_h_m").max(1e-4)));
        angular_size_of_solid_angle(solid_angle_of_rectangle(w, h, Metres(at))).to_degrees()
    };
    t.result("Angle the source fills now", angle(d), Unit::Deg);
    t.result("and from there", angle(far), Unit::Deg);
    t.says.push(format!(
        "Moved {back:.2} m back, the first mark loses {cost:.2} stops and the walk costs {after:.2} instead of {now:.2}; power for that is {:.0} % of what it was.",
        100.0 * cost.exp2()
    ));
    if metered > 0.0 && apart > 0.0 {
        let from = |stops: f64| apart / ((stops / 2.0).exp2() - 1.0);
        let range = |step: f64, word: &str| {
            let (near, least) = (from(metered + step), metered - step);
            if least > 0.05 {
                format!("to {word} {near:.2} to {:.2} m", from(least))
            } else {
                format!("to {word} anything from {near:.2} m on")
            }
        };
        t.says.push(format!(
            "Meters are read in steps. For a small light, read {}, {}: two walks that disagree by less agree.",
            range(1.0 / 3.0, "thirds of a stop it is"),
            range(1.0, "whole stops")
        ));
    }
    let loss = |m: f64| 100.0 * (1.0 - (-walk_stops(s, d, m)).exp2());
    t.says.push(format!(
        "The next 30 cm lose {:.0} %, the 30 cm after that {:.0} % of what is there: the loss of a step is not a fixed share.",
        loss(0.3),
        100.0 * (1.0 - (-walk_stops(s, d + 0.3, 0.3)).exp2())
    ));
    if d < 2.5 * s {
        t.says.push(
            "So near a large face light falls more slowly than with the square of the distance; that is counted."
                .into(),
        );
    }
    t.working.push(format!(
        "light goes with 1/(d² + r²), r = {:.2} m: from {d:.2} to {:.2} m {now:.2} stops",
        s / 2.0,
        d + apart
    ));
    t.working.push(format!(
        "for a small source (d + {apart:.2})/d = 2^({metered:.2}/2) gives d = {:.2} m",
        apart / ((metered / 2.0).exp2() - 1.0)
    ));
    let far_end = (d + back + 2.0 * apart).max(2.0);
    let at = |x: f64| (light_on_axis(s, x) / light_on_axis(s, d)).log2();
    t.curves.push(Curve {
        across: "metres from the light".into(),
        up: "stops against the first mark".into(),
        lines: vec![
            CurveLine { name: "this face".into(), points: curve_points(d * 0.5, far_end, at) },
            CurveLine {
                name: "inverse square".into(),
                points: curve_points(d * 0.5, far_end, |x| 2.0 * (d / x).log2()),
            },
        ],
        here: vec![
            [d, 0.0],
            [d + apart, at(d + apart)],
            [d + back, at(d + back)],
            [d + back + apart, at(d + back + apart)],
        ],
    });
}
