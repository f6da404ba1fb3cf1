//! Raking light over a relief: embossed print, cloth, plaster, an engraved plate.
//!
//! By Lambert's law a flank that leans by `b` towards a lamp `e` over the surface is lit by `sin(e + b)`, the surface by `sin e`, the
//! flank behind by `sin(e - b)`, and by nothing of the lamp where that is under nought: it lies in its own shadow.

use super::{Figures, Told, Unit};

/// Lean of the relief's flank, radians.
fn flank(v: &Figures) -> f64 {
    (v.at("relief_mm") / v.at("flank_mm")).atan()
}

/// Light on a face that leans towards the lamp by `lean`, with the fill that lies on everything, over that of the lamp on the flat.
fn light(v: &Figures, lean: f64) -> f64 {
    let rise = v.at("rise_deg").to_radians();
    (rise + lean).sin().max(0.0) / rise.sin() + (-v.at("fill_under")).exp2()
}

/// Stops of the lit flank over the flat.
fn over(v: &Figures) -> f64 {
    (light(v, flank(v)) / light(v, 0.0)).log2()
}

pub(super) fn relation(v: &Figures) -> f64 {
    over(v) - v.at("relief_stops")
}

/// Light of the lamp on a place of the surface so far from its middle, towards the lamp positive.
fn along(v: &Figures, towards: f64) -> f64 {
    let (rise, d) = (v.at("rise_deg").to_radians(), v.at("distance_m"));
    let (high, aside) = (d * rise.sin(), d * rise.cos() - towards);
    let r2 = high * high + aside * aside;
    high / (r2 * r2.sqrt())
}

pub(super) fn tell(v: &Figures, t: &mut Told) {
    let (rise, lean) = (v.at("rise_deg"), flank(v));
    t.result("Lit flank over the flat", over(v), Unit::Stops);
    let behind = (light(v, -lean) / light(v, 0.0)).log2();
    t.result("Flank behind under the flat", -behind, Unit::Stops);
    let shadow = v.at("relief_mm") / rise.to_radians().tan();
    t.result("Shadow, from the relief's top", shadow, Unit::Mm);
    let half = v.at("flat_m") / 2.0;
    let fall = (along(v, half) / along(v, -half)).log2();
    t.result("Near edge over the far edge", fall, Unit::Stops);
    let own = rise < lean.to_degrees();
    t.says.push(match own {
        true => format!(
            "The flank behind leans by {:.0}° and lies in its own shadow, and throws one {:.1} mm long: relief as drawn in ink.",
            lean.to_degrees(),
            (shadow - v.at("flank_mm")).max(0.0)
        ),
        false => format!("No shadow is thrown: the relief is told by shading alone, {:.1} stops from flank to flank.", over(v) - behind),
    });
    if over(v) < 0.2 {
        t.says.push("Under a fifth of a stop a relief is hardly seen: bring the lamp lower, or take fill away.".into());
    }
    if half >= v.at("distance_m") * rise.to_radians().cos() {
        t.problems.push("The lamp stands over the surface: farther away it rakes all of it.".into());
    } else if fall > 1.0 {
        t.says.push(format!(
            "The surface falls off by {fall:.1} stops from near to far: farther away, or a white card at the far edge, evens it."
        ));
    }
    t.working.push(format!(
        "sin({rise:.0}° + {:.1}°) / sin {rise:.0}° = {:.2}, the fill added to both",
        lean.to_degrees(),
        (rise.to_radians() + lean).sin() / rise.to_radians().sin()
    ));
}
