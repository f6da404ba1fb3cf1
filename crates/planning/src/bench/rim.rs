//! Rim lines on black before black: where strips behind must begin for a line of a width, and how wide it is.
//!
//! A round upright thing mirrors at the offset `s` of its half width what stands `2 asin s` round it: a source from that azimuth on
//! to straight behind fills all that lies outside `s`.

use super::{Figures, Told, Unit};
use optics::mirror::{GLASS, mirrored_part};

/// Part of the whole width that a rim takes for a source from an azimuth on.
fn rim(v: &Figures) -> f64 {
    (1.0 - (v.at("from_deg") / 2.0).to_radians().sin()) / 2.0
}

pub(super) fn relation(v: &Figures) -> f64 {
    (rim(v) * v.at("wide_m") * 1000.0 / v.at("rim_mm")).log2()
}

pub(super) fn tell(v: &Figures, t: &mut Told) {
    let (d, from) = (v.at("distance_m"), v.at("from_deg"));
    t.result("Line, width", rim(v) * v.at("wide_m") * 1000.0, Unit::Mm);
    t.result("Line, part of the width", rim(v), Unit::Share);
    let met = (from / 2.0).to_radians();
    let shine = mirrored_part(met.cos(), GLASS);
    t.result("Mirrors at its inner edge", shine, Unit::Share);
    t.result("Front edge of the strip, to the side", d * from.to_radians().sin(), Unit::M);
    t.result("Front edge of the strip, behind the product", -d * from.to_radians().cos(), Unit::M);
    t.says.push(format!(
        "Black before black: one strip to each side behind, its front edge {from:.0}° round from the lens; nothing bright before the product."
    ));
    t.says.push("Towards the very rim the line is brightest and thinnest: surfaces met flatly mirror nearly all. Keep the strips out of the picture and flag the lens from them.".into());
    if from > 165.0 {
        t.problems.push("So far round the strip stands behind the product in the picture: a rim that thin needs a longer lens or a smaller product.".into());
    }
    t.working.push(format!("width = half width × (1 − sin(azimuth / 2)): 1 − sin {:.0}° = {:.3}", from / 2.0, 1.0 - met.sin()));
}
