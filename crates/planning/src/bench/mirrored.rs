//! Flat and glossy: where a lamp is mirrored into the lens by a screen, a print, a label or a pane, and where it is not.
//!
//! A ray from the lens meets each place of the surface and leaves as steeply on the other side (law of reflection): what stands
//! between the rays of the two edges is seen in it, the family of angles.

use super::{Figures, Told, Unit};

/// Angle from the surface's square at which the edge nearer to the lamp sends the line of sight on, degrees.
fn steepest(v: &Figures) -> f64 {
    edge(v, 0.5)
}

/// The same at a share of the width from its middle, positive towards the lamp.
fn edge(v: &Figures, share: f64) -> f64 {
    let (w, d, turn) = (v.at("flat_m"), v.at("lens_m"), v.at("turned_deg").to_radians());
    // the lens stands `turned` away from the lamp's side of the square
    let x = w * share;
    ((x + d * turn.sin()) / (d * turn.cos())).atan().to_degrees()
}

/// How far the lamp's nearer edge stands beyond the last mirrored ray, metres; negative if it is mirrored.
fn clear(v: &Figures) -> f64 {
    let (at, l) = (v.at("lamp_deg").to_radians(), v.at("distance_m"));
    let (x, z) = (l * at.sin(), l * at.cos());
    let ray = v.at("flat_m") / 2.0 + z * steepest(v).to_radians().tan();
    // across the ray
    (x - ray) * steepest(v).to_radians().cos() - v.at("lamp_m") / 2.0
}

pub(super) fn relation(v: &Figures) -> f64 {
    clear(v)
}

pub(super) fn tell(v: &Figures, t: &mut Told) {
    let (far, near) = (steepest(v), edge(v, -0.5));
    t.result("Mirrored from", near, Unit::Deg);
    t.result("Mirrored to", far, Unit::Deg);
    t.result("Lamp clear of it by", clear(v), Unit::M);
    // a source that is to fill it, at the lamp's distance
    let l = v.at("distance_m");
    let span = v.at("flat_m") + l * (far.to_radians().tan() - near.to_radians().tan());
    t.result("Source that fills all of it, width there", span, Unit::M);
    t.says.push(if clear(v) >= 0.0 {
        format!("No glare: what is mirrored lies from {near:.0}° to {far:.0}° off the square, on the lamp's side.")
    } else {
        format!("Glare: the lamp stands where the surface mirrors ({near:.0}° to {far:.0}°). Farther round, farther away, a longer lens from farther back, or turn the surface.")
    });
    t.says.push(format!("For an even sheen over all of it a sheet {span:.2} m wide must stand there instead."));
    t.working.push(format!(
        "an edge x sends the line of sight on at atan((x + d sin turn) / (d cos turn)): ±{:.2} m gives {near:.1}° and {far:.1}°",
        v.at("flat_m") / 2.0
    ));
}
