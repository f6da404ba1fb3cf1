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

/// Lambert's law, worked by hand: a flank of 10 degrees under a lamp 15 degrees over the surface is lit by sin 25 / sin 15 = 1.633 of the
/// flat, 0.71 stops; the flank behind by sin 5 / sin 15 = 0.337. The lower the lamp the longer the shadow: at 45 degrees as long as high.
#[test]
fn a_relief_shows_by_the_sine_of_its_lean() {
    let flank = 1.0 / 10f64.to_radians().tan();
    let given = [("relief_mm", 1.0), ("flank_mm", flank), ("rise_deg", 15.0), ("fill_under", 10.0)];
    let a = ask("raking", &given, None);
    assert!((result(&a, "Lit flank over the flat") - 1.633f64.log2()).abs() < 0.003, "{a:?}");
    assert!((result(&a, "Flank behind under the flat") + 0.337f64.log2()).abs() < 0.01, "{a:?}");
    assert!((result(&a, "Shadow") - 1.0 / 15f64.to_radians().tan()).abs() < 1e-9);
    let at_45 = ask("raking", &[("relief_mm", 2.0), ("rise_deg", 45.0)], None);
    assert!((result(&at_45, "Shadow") - 2.0).abs() < 1e-9);
    // common practice: raking light for embossing stands under 20 degrees; what shows well there is hardly seen from 60
    let low = ask("raking", &[("rise_deg", 12.0)], None);
    let high = ask("raking", &[("rise_deg", 60.0)], None);
    assert!(result(&low, "Lit flank over the flat") > 0.6 && result(&high, "Lit flank over the flat") < 0.25);
    assert!(high.says.iter().any(|s| s.contains("lower")) == (result(&high, "Lit flank over the flat") < 0.2));
}

/// Inverse square and cosine along a surface, each place by itself: a lamp 1 m from the middle of a table 0.6 m long at 20 degrees.
#[test]
fn raking_light_falls_off_along_the_surface() {
    let a = ask("raking", &[("rise_deg", 20.0), ("distance_m", 1.0), ("flat_m", 0.6)], None);
    let (h, x) = (20f64.to_radians().sin(), 20f64.to_radians().cos());
    let lux = |at: f64| h / (h * h + (x - at).powi(2)).powf(1.5);
    assert!((result(&a, "Near edge over the far edge") - (lux(0.3) / lux(-0.3)).log2()).abs() < 1e-9);
    // under the lamp nothing is raked any more
    let under = ask("raking", &[("rise_deg", 60.0), ("distance_m", 0.3), ("flat_m", 0.6)], None);
    assert!(under.problems[0].contains("stands over"), "{under:?}");
}

#[test]
fn a_steep_flank_lies_in_its_own_shadow_and_fill_softens_it() {
    let steep = ask("raking", &[("relief_mm", 1.0), ("flank_mm", 1.0), ("rise_deg", 20.0), ("fill_under", 2.0)], None);
    assert!(steep.says[0].contains("own shadow"), "{:?}", steep.says);
    // only fill lies there: a quarter of the lamp's on the flat, which has one and a quarter: log2 5
    assert!((result(&steep, "Flank behind under the flat") - 5f64.log2()).abs() < 1e-9);
    let solved = ask("raking", &[("relief_stops", 0.5)], Some("rise_deg"));
    let back = ask("raking", &[("rise_deg", solved.values["rise_deg"])], None);
    assert!((result(&back, "Lit flank over the flat") - 0.5).abs() < 1e-3);
}

/// Snell's law and the law of reflection, ray by ray in coordinates: from the lens onto a spherical cap, into water, out of its flat back.
#[test]
fn a_ray_through_a_drop_goes_where_snell_sends_it() {
    for (contact, n) in [(20.0f64, 1.333), (50.0, 1.333), (70.0, 1.47)] {
        let lean = contact.to_radians();
        // the cap's edge: its normal leans by the contact angle; the ray comes along -z
        let normal = [lean.sin(), lean.cos()];
        let bend = |d: [f64; 2], normal: [f64; 2], ratio: f64| {
            let c = -(d[0] * normal[0] + d[1] * normal[1]);
            let k = (1.0 - ratio * ratio * (1.0 - c * c)).sqrt();
            [ratio * d[0] + (ratio * c - k) * normal[0], ratio * d[1] + (ratio * c - k) * normal[1]]
        };
        let inside = bend([0.0, -1.0], normal, 1.0 / n);
        let out = bend(inside, [0.0, 1.0], n);
        let a = ask("drops", &[("contact_deg", contact), ("index", n), ("behind_m", 0.2)], None);
        let told = result(&a, "Shows what lies behind up to");
        assert!((told - (out[0] / out[1]).atan().abs().to_degrees()).abs() < 1e-6, "{told} for {contact}");
        // bent towards the axis: the picture stands on its head
        assert!(out[0] * normal[0] < 0.0);
        let d = [0.0, -1.0];
        let c = -(d[0] * normal[0] + d[1] * normal[1]);
        let r = [d[0] + 2.0 * c * normal[0], d[1] + 2.0 * c * normal[1]];
        assert!((result(&a, "Mirrors what stands round it up to") - r[0].atan2(r[1]).to_degrees()).abs() < 1e-9);
        assert!((result(&a, "Width behind") - 2.0 * 0.2 * told.to_radians().tan()).abs() < 1e-9);
    }
}

#[test]
fn drops_have_their_spark_where_a_small_mirror_has_it() {
    // a half ball (88 degrees nearly): a lamp 60 degrees round is mirrored where the normal leans by 30: half the radius from the middle
    let a = ask("drops", &[("contact_deg", 88.0), ("drop_mm", 4.0), ("lamp_deg", 60.0)], None);
    let radius = 2.0 / 88f64.to_radians().sin();
    assert!((result(&a, "Spark, from") - radius * 0.5).abs() < 1e-9, "{a:?}");
    // flat drops on clean glass mirror nothing from the side
    let flat = ask("drops", &[("contact_deg", 15.0), ("lamp_deg", 60.0)], None);
    assert!(flat.says[0].contains("No spark") && !flat.results.iter().any(|r| r.name.starts_with("Spark")), "{flat:?}");
    // at 60 degrees met by 30 water mirrors 2.1 % (Fresnel's equations, both polarisations)
    let cos = 30f64.to_radians().cos();
    let inner = (1.0 - (1.0 - cos * cos) / 1.33f64.powi(2)).sqrt();
    let s = ((cos - 1.33 * inner) / (cos + 1.33 * inner)).powi(2);
    let p = ((inner - 1.33 * cos) / (inner + 1.33 * cos)).powi(2);
    assert!((result(&a, "Mirrored there") - f64::midpoint(s, p)).abs() < 0.002);
}

#[test]
fn the_card_for_drops_is_solved_for() {
    let a = ask("drops", &[("behind_m", 0.3)], Some("card_m"));
    assert!((a.values["card_m"] - result(&a, "Width behind")).abs() < 1e-6);
    assert!(a.says.iter().any(|s| s.contains("to their outline")), "{:?}", a.says);
    let small = ask("drops", &[("behind_m", 0.3), ("card_m", 0.05)], None);
    assert!(small.says.iter().any(|s| s.contains("dark outlines")), "{:?}", small.says);
}

/// Similar triangles: a plate 0.1 m wide seen from 1 m shows 0.15 m of a sheet half a metre off. A point lamp at a gap lights its sheet by
/// cos⁴ (natural vignetting's law): one gap aside a quarter, two stops.
#[test]
fn metal_mirrors_a_stretch_of_its_sheet() {
    let given = [("metal_m", 0.1), ("lens_m", 1.0), ("sheet_m", 0.5), ("sheet_wide_m", 2.0), ("aside_m", 0.0)];
    let a = ask("brushed", &[&given[..], &[("gap_m", 0.15)]].concat(), None);
    assert!((result(&a, "Sheet that is mirrored") - 0.15).abs() < 1e-12);
    assert!((result(&a, "Falls off across") - 2.0).abs() < 0.02, "{a:?}");
    // half way: cos⁴ of the arc tangent of a half is (1 / 1.25)²
    assert!((result(&a, "Half way") - 2.0 * 1.25f64.log2()).abs() < 0.02);
    let solved = ask("brushed", &[&given[..], &[("falloff_stops", 3.0)]].concat(), Some("gap_m"));
    let gap = solved.values["gap_m"];
    assert!((2.0 * (1.0 + (0.15 / gap).powi(2)).log2() - 3.0).abs() < 0.05, "{gap}");
    // a sheet that is too narrow ends in the metal
    let narrow = ask("brushed", &[&given[..], &[("sheet_wide_m", 0.2)]].concat(), None);
    assert!(narrow.problems[0].contains("0.05 m beyond"), "{narrow:?}");
    assert!(result(&narrow, "Sheet beyond") < 0.0);
}
