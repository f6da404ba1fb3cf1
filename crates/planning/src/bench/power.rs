//! Power in every notation, and the stops between two settings.

use super::{Figures, Told, Unit};
use optics::power::{Control, write_power};
use optics::units::Stops;

pub(super) fn relation(v: &Figures) -> f64 {
    v.at("to_stops") - v.at("from_stops") - v.at("change_stops")
}

pub(super) fn tell(v: &Figures, t: &mut Told) {
    let (from, to) = (v.at("from_stops"), v.at("to_stops"));
    t.result("Change", to - from, Unit::Stops);
    t.result("Light is multiplied by", (to - from).exp2(), Unit::Number);
    t.result("A meter goes from f/8 to", 8.0 * ((to - from) / 2.0).exp2(), Unit::F);
    for (name, s) in [("before", from), ("after", to)] {
        t.result(&format!("Share of full, {name}"), 100.0 * s.exp2(), Unit::Percent);
        t.result(&format!("Energy, {name}"), v.at("full_j") * s.exp2(), Unit::Joules);
        t.result(&format!("On a panel, {name}"), v.at("full_panel") + s, Unit::Number);
        t.says.push(format!(
            "{name}: {} = {:.1} % = {:.1} J = {} = {:.1} on the panel.",
            write_power(Control::Fraction, Stops(s), v.at("full_j"), v.at("full_panel")),
            100.0 * s.exp2(),
            v.at("full_j") * s.exp2(),
            write_power(Control::Stops, Stops(s), v.at("full_j"), v.at("full_panel")),
            v.at("full_panel") + s
        ));
    }
    t.working.push(format!(
        "{:.1} % to {:.1} %: log2({:.3}) = {:+.2} stops",
        100.0 * from.exp2(),
        100.0 * to.exp2(),
        (to - from).exp2(),
        to - from
    ));
    t.working.push("ISO in thirds: 100, 125, 160, 200: each step 2^(1/3)".into());
}
