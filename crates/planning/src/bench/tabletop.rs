//! A product on a gloss table: where its reflection ends, how much of the table it takes, and how far behind a wall must stand so that no
//! shadow of it is in the picture.
//!
//! A level mirror shows the product upside down under its foot (law of reflection): the line of sight to the mirrored top meets the
//! table at `d h / (H + h)` before the product.

use super::{Figures, Told, Unit};
use optics::mirror::{ACRYLIC, mirrored_part};

/// How far before the product the reflection of its top lies on the table, metres.
fn before(v: &Figures) -> f64 {
    v.at("lens_m") * v.at("high_m") / (v.at("lens_high_m") + v.at("high_m"))
}

pub(super) fn relation(v: &Figures) -> f64 {
    (v.at("front_m") / before(v)).log2()
}

pub(super) fn tell(v: &Figures, t: &mut Told) {
    let (h, lens_high, d) = (v.at("high_m"), v.at("lens_high_m"), v.at("lens_m"));
    t.result("Whole reflection needs before the product", before(v), Unit::M);
    // what the table as it is shows: the height whose reflection lies at its edge
    let front = v.at("front_m");
    let seen = if front < d { (front * lens_high / (d - front)).min(h) } else { h };
    t.result("Of the product reflected", seen / h, Unit::Share);
    let down = (lens_high / d).atan();
    // gloss acrylic, met at the complement of the looking down
    let shine = mirrored_part(down.sin(), ACRYLIC);
    t.result("Table mirrors", shine, Unit::Share);
    t.result("Reflection under the product", -shine.log2(), Unit::Stops);
    let rise = v.at("lamp_up_deg").to_radians();
    let shadow = h / rise.tan();
    t.result("Shadow on the table, length", shadow, Unit::M);
    let wall = v.at("behind_m");
    let up = (h - wall * rise.tan()).max(0.0);
    t.result("Shadow on the wall, height", up, Unit::M);
    t.says.push(if seen >= h {
        "All of the product is reflected.".into()
    } else {
        format!("The table's edge cuts the reflection at {:.0} % of the product: {:.2} m of table before it would show all.", 100.0 * seen / h, before(v))
    });
    t.says.push(if up > 0.0 {
        format!("Its shadow climbs the wall: {shadow:.2} m behind, or a lamp {:.0}° up, and it stays on the table.", (h / wall).atan().to_degrees())
    } else {
        "Its shadow ends on the table, before the wall.".into()
    });
    t.says.push("A lower lens sees a stronger reflection: what is met flatly mirrors more.".into());
    t.working.push(format!("d h / (H + h) = {d:.2} × {h:.2} / {:.2} = {:.3} m", lens_high + h, before(v)));
}
