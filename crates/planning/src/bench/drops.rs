//! Drops and condensation on glass: each is a small mirror and a small lens.
//!
//! A drop of a width that meets the glass at a contact angle is a cap of a sphere; its outline's normal leans by that angle. It mirrors
//! to a lens before it what lies up to twice that angle round it (law of reflection), and shows through itself what lies behind, bent by
//! Snell's law at the cap and at the flat back of the glass, which is taken for water.

use super::{Figures, Told, Unit};
use optics::mirror::mirrored_part;

/// Angle from straight behind at which a place of the cap whose normal leans by `lean` shows what lies there, radians.
fn shows_at(lean: f64, n: f64) -> f64 {
    let inside = lean - (lean.sin() / n).asin();
    (n * inside.sin()).clamp(-1.0, 1.0).asin()
}

fn contact(v: &Figures) -> f64 {
    v.at("contact_deg").to_radians()
}

/// Width behind that a drop shows up to its outline, metres.
fn behind(v: &Figures) -> f64 {
    2.0 * v.at("behind_m") * shows_at(contact(v), v.at("index")).tan()
}

pub(super) fn relation(v: &Figures) -> f64 {
    (v.at("card_m") / behind(v)).log2()
}

pub(super) fn tell(v: &Figures, t: &mut Told) {
    let (n, lamp) = (v.at("index"), v.at("lamp_deg"));
    let radius = v.at("drop_mm") / 2.0 / contact(v).sin();
    let most = 2.0 * v.at("contact_deg");
    t.result("Mirrors what stands round it up to", most, Unit::Deg);
    t.result("Shows what lies behind up to", shows_at(contact(v), n).to_degrees(), Unit::Deg);
    t.result("Width behind that it shows", behind(v), Unit::M);
    if lamp < most {
        t.result("Spark, from the drop's middle", radius * (lamp / 2.0).to_radians().sin(), Unit::Mm);
        let half = (v.at("lamp_m") / 2.0 / v.at("distance_m")).atan().to_degrees();
        let edge = |deg: f64| radius * (deg.clamp(-most, most) / 2.0).to_radians().sin();
        t.result("Spark, width", edge(lamp + half) - edge(lamp - half), Unit::Mm);
        t.result("Mirrored there", mirrored_part((lamp / 2.0).to_radians().cos(), n), Unit::Share);
        t.says.push(format!("Each drop has a spark of the lamp, {:.0} % from its middle to its outline.", 100.0 * (lamp / 2.0).to_radians().sin() / contact(v).sin()));
    } else {
        t.says.push(format!(
            "No spark: so flat a drop mirrors nothing beyond {most:.0}°. Rounder drops (glycerine on waxed glass) or a lamp nearer the lens have one."
        ));
    }
    let filled = v.at("card_m") / behind(v);
    t.says.push(if filled >= 1.0 {
        "The card behind fills the drops to their outline: they glow all through, as pale as the glass, and want dark edges beside the card to be drawn.".into()
    } else {
        format!(
            "The card fills the drops for {:.0} % of the angle they show; beyond it they show what lies beside: dark outlines, which draw them.",
            100.0 * (v.at("card_m") / 2.0 / v.at("behind_m")).atan() / shows_at(contact(v), n)
        )
    });
    t.says.push("Through each drop the background stands on its head: a gradient that is bright below is bright above in the drops.".into());
    t.working.push(format!(
        "inside: {:.1}° − asin(sin {:.1}° / {n:.2}) = {:.1}°; outside asin({n:.2} · sin) = {:.1}°",
        v.at("contact_deg"),
        v.at("contact_deg"),
        (contact(v) - (contact(v).sin() / n).asin()).to_degrees(),
        shows_at(contact(v), n).to_degrees()
    ));
}
