//! Liquid that glows: how large a card must stand behind a round bottle to be seen all through it, and what of it shows beside.
//!
//! A round bottle of liquid is a strong lens. A level ray that meets it at the share `s` of its half width goes in at `sin i = s`, on at
//! `sin r = s / n`, and comes out turned by `2 (i - r)` towards the axis (Snell; the glass itself is thin and left out, as are what is
//! mirrored and what the liquid takes of the light).

use super::{Curve, CurveLine, Figures, Told, Unit};

/// Where the ray through a share of the half width meets the card, from the axis, metres; positive on the side it went in.
fn meets(v: &Figures, s: f64) -> f64 {
    let (r, n, behind) = (v.at("bottle_m") / 2.0, v.at("index"), v.at("behind_m"));
    let i = s.clamp(0.0, 0.9999).asin();
    let q = (s / n).asin();
    let out = i + std::f64::consts::PI - 2.0 * q;
    let turn = 2.0 * (i - q);
    r * out.sin() - turn.tan() * (behind + r * out.cos())
}

/// Half the card that is seen up to a share of the half width, metres.
fn needed(v: &Figures, share: f64) -> f64 {
    (0..=40).map(|k| meets(v, share * f64::from(k) / 40.0).abs()).fold(0.0, f64::max)
}

/// Half of what the bottle hides of the card's plane, metres.
fn hidden(v: &Figures) -> f64 {
    let (r, lens) = (v.at("bottle_m") / 2.0, v.at("lens_m"));
    // the line of sight that grazes it
    let graze = (r / lens).asin();
    (lens + v.at("behind_m")) * graze.tan()
}

pub(super) fn relation(v: &Figures) -> f64 {
    (v.at("card_m") / (2.0 * needed(v, v.at("filled")))).log2()
}

/// Share of the half width that the card fills.
fn filled(v: &Figures) -> f64 {
    let fits = |s: &f64| needed(v, *s) <= v.at("card_m") / 2.0;
    (1..=99).map(|k| f64::from(k) / 100.0).take_while(fits).last().unwrap_or(0.0)
}

pub(super) fn tell(v: &Figures, t: &mut Told) {
    let (card, behind) = (v.at("card_m"), v.at("behind_m"));
    let lit = filled(v);
    t.result("Glows, of the bottle's width", lit, Unit::Share);
    t.result("Card for what is wanted", 2.0 * needed(v, v.at("filled")), Unit::M);
    t.result("Hidden behind the bottle", 2.0 * hidden(v), Unit::M);
    t.says.push(if card <= 2.0 * hidden(v) {
        "The card does not show beside the bottle.".into()
    } else {
        format!(
            "The card shows {:.0} mm on each side of the bottle: cut it to the bottle's shape, {:.0} mm wide, or bring it nearer.",
            500.0 * card - 1000.0 * hidden(v),
            2000.0 * hidden(v)
        )
    });
    if lit < 0.97 {
        t.says.push(format!("Dark edges stay: the outer {:.0} % on each side look past the card, which draws the bottle's outline (bright field). A wider or nearer card narrows them.", 100.0 * (1.0 - lit)));
    }
    t.says.push("What is seen through the liquid is turned about: the card's left is the glow's right. Tilt the card to the lamp, and keep that light off the bottle's front.".into());
    if behind < v.at("bottle_m") / 2.0 {
        t.problems.push("The card would stand inside the bottle: set it farther behind than half the bottle's width.".into());
    }
    t.working.push(format!(
        "at {:.2} of the half width: in at {:.1}°, on at {:.1}°, out turned by {:.1}°",
        v.at("filled"),
        v.at("filled").asin().to_degrees(),
        (v.at("filled") / v.at("index")).asin().to_degrees(),
        2.0 * (v.at("filled").asin() - (v.at("filled") / v.at("index")).asin()).to_degrees()
    ));
    t.curves.push(Curve {
        across: "share of the half width".into(),
        up: "place on the card, mm from its middle".into(),
        lines: vec![CurveLine {
            name: "seen there".into(),
            points: super::curve_points(0.0, 0.98, |s| 1000.0 * meets(v, s)),
        }],
        here: vec![[v.at("filled"), 1000.0 * meets(v, v.at("filled"))]],
    });
}
