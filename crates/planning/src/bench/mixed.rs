//! Ambient light and flash in one exposure.

use super::{Curve, CurveLine, Figures, Told, curve_points, Unit};
use optics::exposure::{nominal_f_number, shutter_text};
use optics::units::FNumber;

/// Stops of the ambient part under the exposure set.
fn ambient_under(v: &Figures, shutter: f64) -> f64 {
    2.0 * (v.at("f_number") / v.at("ambient_f")).log2() - (shutter / v.at("ambient_shutter_s")).log2()
}

pub(super) fn relation(v: &Figures) -> f64 {
    ambient_under(v, v.at("shutter_s")) - v.at("ambient_under_stops")
}

pub(super) fn tell(v: &Figures, t: &mut Told) {
    let ambient = -ambient_under(v, v.at("shutter_s"));
    let flash = 2.0 * (v.at("flash_f") / v.at("f_number")).log2();
    let both = (ambient.exp2() + flash.exp2()).log2();
    t.result("Ambient against what is set", ambient, Unit::Stops);
    t.result("Flash against what is set", flash, Unit::Stops);
    t.result("Both together", both, Unit::Stops);
    t.result("Flash over ambient", flash - ambient, Unit::Stops);
    t.result("A meter for both shows", v.at("f_number") * (both / 2.0).exp2(), Unit::F);
    t.says.push("A longer shutter lifts the ambient part only; aperture and ISO change both.".into());
    if v.at("shutter_s") < v.at("sync_s") * 0.999 {
        t.problems.push(format!(
            "{} is shorter than the sync time of {}: the shutter cuts the flash off. Stop down, take a lower ISO, or a grey filter.",
            shutter_text(v.at("shutter_s")),
            shutter_text(v.at("sync_s"))
        ));
    }
    let nominal = nominal_f_number(FNumber(v.at("f_number") * (both / 2.0).exp2()));
    t.working.push(format!(
        "2^({ambient:.2}) + 2^({flash:.2}) = {:.2}: {both:+.2} stops; f/{nominal} would be right",
        both.exp2()
    ));
    let slowest = 8.0 * v.at("shutter_s").max(v.at("sync_s"));
    t.curves.push(Curve {
        across: "shutter, stops from the sync time (longer to the right)".into(),
        up: "stops against what is set".into(),
        lines: vec![
            CurveLine {
                name: "ambient".into(),
                points: curve_points(-1.0, (slowest / v.at("sync_s")).log2(), |x| {
                    -ambient_under(v, v.at("sync_s") * x.exp2())
                }),
            },
            CurveLine { name: "flash".into(), points: curve_points(0.0, (slowest / v.at("sync_s")).log2(), |_| flash) },
        ],
        here: vec![[(v.at("shutter_s") / v.at("sync_s")).log2(), ambient]],
    });
}
