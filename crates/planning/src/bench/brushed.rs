//! Light that falls off across flat metal: which stretch of a lit sheet it mirrors, and how far that falls off.
//!
//! A flat mirror `w` wide seen from `L` shows `w (L + S) / L` of a sheet `S` away (similar triangles). A lamp behind the sheet at a gap
//! lights it as `lamp_on_sheet` says; between the two ends of the stretch it falls off.

use super::{Figures, Told, Unit};
use optics::falloff::lamp_on_sheet;
use optics::units::Metres;

/// Width of the sheet that the metal shows, metres.
fn stretch(v: &Figures) -> f64 {
    v.at("metal_m") * (v.at("lens_m") + v.at("sheet_m")) / v.at("lens_m")
}

/// Light of the sheet at a place along the stretch, 0 at its near end, over that straight before the lamp.
fn at(v: &Figures, t: f64) -> f64 {
    lamp_on_sheet(Metres(v.at("aside_m") + t * stretch(v)), Metres(v.at("gap_m")), [0.02, 0.02])
}

fn falls(v: &Figures) -> f64 {
    (at(v, 0.0) / at(v, 1.0)).log2()
}

pub(super) fn relation(v: &Figures) -> f64 {
    falls(v) - v.at("falloff_stops")
}

pub(super) fn tell(v: &Figures, t: &mut Told) {
    t.result("Sheet that is mirrored", stretch(v), Unit::M);
    t.result("Falls off across the metal", falls(v), Unit::Stops);
    t.result("Half way across", (at(v, 0.0) / at(v, 0.5)).log2(), Unit::Stops);
    let sheet = v.at("sheet_wide_m");
    let spare = sheet / 2.0 - (v.at("aside_m") + stretch(v));
    t.result("Sheet beyond the mirrored part", spare, Unit::M);
    if spare < 0.0 {
        t.problems.push(format!(
            "The metal mirrors {:.2} m beyond the sheet's edge: a hard dark end. A wider sheet, or the sheet nearer.",
            -spare
        ));
    }
    t.says.push(match falls(v) {
        f if f < 0.3 => "Nearly even: the metal looks like white card. Bring the lamp nearer to its sheet, or move it aside.".into(),
        f if f > 5.0 => "From white to black: metal as drawn with an airbrush; the dark end holds nothing.".into(),
        f => format!("From bright to dark by {f:.1} stops: it reads as metal (common practice: two to four)."),
    });
    t.says.push("A satin or brushed finish blurs along its width and keeps the ends; brush lines spread the light across themselves.".into());
    t.working.push(format!(
        "{:.3} m × ({:.2} + {:.2}) / {:.2} = {:.3} m of the sheet",
        v.at("metal_m"),
        v.at("lens_m"),
        v.at("sheet_m"),
        v.at("lens_m"),
        stretch(v)
    ));
    let line = (0..=40).map(|k| f64::from(k) / 40.0).map(|k| [100.0 * k, -(at(v, 0.0) / at(v, k)).log2()]).collect();
    t.curves.push(super::Curve {
        across: "across the metal, %".into(),
        up: "stops under its bright end".into(),
        lines: vec![super::CurveLine { name: "metal".into(), points: line }],
        here: vec![[100.0, -falls(v)]],
    });
}
