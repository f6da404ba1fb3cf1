//! Colour temperatures and gels: mired, one million over kelvin, in which a gel shifts every lamp by the same.

use super::{Figures, Told, Unit};

fn mired(kelvin: f64) -> f64 {
    1e6 / kelvin
}

pub(super) fn relation(v: &Figures) -> f64 {
    (mired(v.at("to_k")) - mired(v.at("from_k")) - v.at("shift_mired")) / 10.0
}

pub(super) fn tell(v: &Figures, t: &mut Told) {
    let (from, to) = (v.at("from_k"), v.at("to_k"));
    let shift = mired(to) - mired(from);
    t.result("Shift", shift, Unit::Number);
    t.result("Lamp", mired(from), Unit::Number);
    t.result("With the gel", mired(to), Unit::Number);
    // a full orange gel is about 160 mired, its parts halves and quarters (common practice)
    t.result("Of a full orange or blue gel", shift.abs() / FULL, Unit::Share);
    let side = if shift > 0.0 { "orange" } else { "blue" };
    t.says.push(match shift.abs() / FULL {
        s if s < 0.08 => "No gel is needed: nobody sees so little.".into(),
        s if s < 0.19 => format!("About an eighth {side} gel."),
        s if s < 0.38 => format!("About a quarter {side} gel."),
        s if s < 0.75 => format!("About half a {side} gel."),
        s if s < 1.3 => format!("About a full {side} gel."),
        s => format!("About {s:.1} full {side} gels: another lamp is the better way."),
    });
    // what a gel lets through falls by half a stop and more (full orange about two thirds, full blue about one and a half stops)
    let loss = shift.abs() / FULL * if shift > 0.0 { 0.67 } else { 1.5 };
    t.result("The gel costs about", loss, Unit::Stops);
    if (10.0 * v.at("shift_mired") - shift).abs() < 6.0 || (v.at("shift_mired") / 10.0 - shift).abs() < 6.0 {
        t.problems.push(format!(
            "{:.0} mired is ten times off what {from:.0} K to {to:.0} K is: {shift:.0}. A slip of the nought?",
            v.at("shift_mired")
        ));
    }
    t.working.push(format!("10⁶/{to:.0} − 10⁶/{from:.0} = {:.1} − {:.1} = {shift:.1} mired", mired(to), mired(from)));
}

/// Mired of a full gel (common practice: daylight to tungsten).
const FULL: f64 = 160.0;
