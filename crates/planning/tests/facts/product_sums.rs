//! Sums of the product table against closed forms, a ray traced here, and figures of the trade.

use super::bench::{ask, result};

/// Law of reflection, closed form: a lens 1.5 m straight before a pane 0.5 m wide sees in it what lies within atan(0.25 / 1.5) = 9.46
/// degrees of its square.
#[test]
fn the_family_of_angles_of_a_pane() {
    let a = ask("mirrored", &[("flat_m", 0.5), ("lens_m", 1.5), ("turned_deg", 0.0), ("lamp_deg", 45.0)], None);
    assert!((result(&a, "Mirrored to") - 9.462).abs() < 0.001 && (result(&a, "Mirrored from") + 9.462).abs() < 0.001);
    assert!(a.says[0].starts_with("No glare"), "{:?}", a.says);
    // the lens turned 20 degrees off the square: what is mirrored lies 20 degrees off it on the other side, wider by its nearness
    let a = ask("mirrored", &[("flat_m", 0.5), ("lens_m", 1.5), ("turned_deg", 20.0), ("lamp_deg", 25.0)], None);
    assert!(result(&a, "Mirrored from") < 20.0 && result(&a, "Mirrored to") > 20.0);
    assert!(a.says[0].starts_with("Glare"), "{:?}", a.says);
}

/// Common practice: copy work is lit from 45 degrees, which is clear of the glass unless it is large before a near lens.
#[test]
fn forty_five_degrees_are_clear_for_copy_work() {
    for (wide, clear) in [(0.3, true), (0.5, true), (2.4, false)] {
        let a = ask(
            "mirrored",
            &[("flat_m", wide), ("lens_m", 1.2), ("lamp_deg", 45.0), ("distance_m", 1.5), ("lamp_m", 0.3)],
            None,
        );
        assert_eq!(result(&a, "Lamp clear of it by") > 0.0, clear, "{wide}");
    }
    // solved for, the lamp's edge lies on the last ray: traced here from the lens over the pane's edge
    let a =
        ask("mirrored", &[("flat_m", 0.6), ("lens_m", 1.0), ("lamp_m", 0.01), ("distance_m", 2.0)], Some("lamp_deg"));
    let at = a.values["lamp_deg"].to_radians();
    let (x, z) = (2.0 * at.sin(), 2.0 * at.cos());
    let (dx, dz) = (0.3, 1.0);
    let off = ((x - 0.3) * dz - z * dx) / f64::hypot(dx, dz);
    assert!((off - 0.005).abs() < 1e-3, "{off}");
}

/// Snell's law, ray by ray in coordinates: in at the surface, through, out, on to the card.
#[test]
fn a_ray_through_a_bottle_meets_the_card_where_snell_sends_it() {
    let (radius, behind) = (0.04, 0.1);
    for n in [1.333, 1.47] {
        for s in [0.2f64, 0.5, 0.8, 0.9] {
            // the lens is far along +z
            let bend = |d: [f64; 2], normal: [f64; 2], ratio: f64| {
                let c = -(d[0] * normal[0] + d[1] * normal[1]);
                let k = (1.0 - ratio * ratio * (1.0 - c * c)).sqrt();
                [ratio * d[0] + (ratio * c - k) * normal[0], ratio * d[1] + (ratio * c - k) * normal[1]]
            };
            let p = [radius * s, radius * (1.0 - s * s).sqrt()];
            let d = bend([0.0, -1.0], [p[0] / radius, p[1] / radius], 1.0 / n);
            let t = -2.0 * (p[0] * d[0] + p[1] * d[1]);
            let q = [p[0] + d[0] * t, p[1] + d[1] * t];
            let o = bend(d, [-q[0] / radius, -q[1] / radius], n);
            let x = q[0] + o[0] / o[1] * (-behind - q[1]);
            let a = ask("glow", &[("bottle_m", 2.0 * radius), ("index", n), ("behind_m", behind), ("filled", s)], None);
            let told = a.curves[0].here[0][1] / 1000.0;
            assert!((told - x).abs() < 1e-6, "{told} for {x} at {s}, index {n}");
        }
    }
}

#[test]
fn a_card_that_glows_all_through_may_show_beside() {
    let near = ask("glow", &[("behind_m", 0.06), ("filled", 0.9)], Some("card_m"));
    let far = ask("glow", &[("behind_m", 0.25), ("filled", 0.9)], Some("card_m"));
    assert!(far.values["card_m"] > 2.0 * near.values["card_m"], "{} {}", near.values["card_m"], far.values["card_m"]);
    assert!((result(&near, "Glows") - 0.9).abs() < 0.02);
    assert!(far.says[0].contains("shows"), "{:?}", far.says);
}

/// Closed form on a round body: a strip that begins square behind (180 degrees) gives no line, one that begins at the side (90 degrees)
/// one of 1 - sin 45 = 0.293 of the half width.
#[test]
fn rim_lines_by_where_the_strip_begins() {
    let a = ask("rim", &[("wide_m", 0.1), ("from_deg", 90.0)], None);
    assert!((result(&a, "Line, width") - 50.0 * 0.29289).abs() < 0.01);
    let a = ask("rim", &[("wide_m", 0.1), ("rim_mm", 2.0)], Some("from_deg"));
    // sin(azimuth / 2) = 1 - 2 / 50
    assert!((a.values["from_deg"] - 2.0 * f64::asin(0.96).to_degrees()).abs() < 0.05, "{:?}", a.values);
}

/// Similar triangles: lens as high as the product, the mirrored top lies half way.
#[test]
fn the_reflection_in_a_gloss_table() {
    let a = ask("tabletop", &[("high_m", 0.3), ("lens_high_m", 0.3), ("lens_m", 2.0), ("front_m", 1.0)], None);
    assert!((result(&a, "Whole reflection needs") - 1.0).abs() < 1e-9);
    assert!((result(&a, "Of the product reflected") - 1.0).abs() < 1e-9);
    let a = ask("tabletop", &[("high_m", 0.3), ("lens_high_m", 0.3), ("lens_m", 2.0), ("front_m", 0.5)], None);
    // the line of sight over the edge: 0.3 * 0.5 / 1.5 under the table
    assert!((result(&a, "Of the product reflected") - 0.1 / 0.3).abs() < 1e-9);
    // a lamp 45 degrees up: the shadow is as long as the product is high
    assert!((result(&a, "Shadow on the table") - 0.3).abs() < 1e-9);
    assert_eq!(result(&a, "Shadow on the wall"), 0.0);
}

/// Free fall (any physics book): 4.905 m take one second; half a metre 0.319 s, then 3.13 m/s.
#[test]
fn what_falls_and_when() {
    let a = ask("fall", &[("fall_m", 4.905), ("sensor_m", 0.0), ("lag_s", 0.0)], None);
    assert!((result(&a, "Falls for") - 1.0).abs() < 1e-6 && (result(&a, "Trigger after") - 1.0).abs() < 1e-6);
    let a = ask("fall", &[("fall_m", 0.5)], None);
    assert!((result(&a, "Falls for") - 0.3193).abs() < 1e-4 && (result(&a, "Speed") - 3.132).abs() < 1e-3);
    // six pixels of 6000 over 0.3 m are 0.3 mm: a flash of a ten-thousandth
    let a = ask("fall", &[("fall_m", 0.5), ("blur_px", 6.0)], Some("light_s"));
    assert!((a.values["light_s"] - 0.0003 / 3.132).abs() < 1e-6, "{:?}", a.values);
    let late = ask("fall", &[("fall_m", 0.05), ("sensor_m", 0.05), ("lag_s", 0.01)], None);
    assert_eq!(late.problems.len(), 1, "{late:?}");
}
