//! Exposure: zones, where marked parts lie, and what corrects it.

use evidence::marks::Marks;
use evidence::placement::{nominal_iso, ways};
use evidence::read::read;
use optics::exposure::Settings;
use optics::tone::MIDDLE_GREY;
use serde_json::json;
use trial::paint;

fn marks(patches: &[(&str, f64, f64)]) -> Marks {
    let square = |x: f64| json!([[x, 10.0], [x + 20.0, 10.0], [x + 20.0, 30.0], [x, 30.0]]);
    let list: Vec<_> = patches
        .iter()
        .enumerate()
        .map(|(i, (role, x, _))| json!({"id": format!("p{i}"), "kind": "patch", "role": role, "polygon": square(*x)}))
        .collect();
    Marks::from_value(json!({"format": "slant-marks/1", "marks": list,
        "exposure": {"f_number": 8.0, "shutter_s": 0.008, "iso": 200}}))
    .unwrap()
}

#[test]
fn a_grey_card_a_stop_under_asks_for_a_stop() {
    // Common practice: opening by one stop from f/8 is f/5.6; from 1/125 it is 1/60 (exactly 1/62.5); ISO 200 to 400.
    let photo = paint(100, 40, |_, _| MIDDLE_GREY / 2.0);
    let e = read(&photo, &marks(&[("grey18", 10.0, 0.0)]), None, &|| &[]).exposure;
    assert!((e.placements[0].stops_from_grey + 1.0).abs() < 0.03, "{:?}", e.placements);
    let c = e.correction.unwrap();
    assert!((c.stops - 0.8).abs() < 0.11 && c.agreed, "{c:?}");
    let w = ways(&Settings { f_number: 8.0, shutter_s: 0.008, iso: 200.0 }, 1.0);
    let to = |by: &str| w.iter().find(|k| k.by == by).unwrap().to.clone();
    assert_eq!((to("aperture").as_str(), to("ISO").as_str()), ("f/5.6", "400"));
    assert_eq!(to("shutter"), "1/62");
}

#[test]
fn parts_that_pull_both_ways_are_a_matter_of_contrast() {
    // White at grey and black at grey: no exposure suits both.
    let photo = paint(100, 40, |_, _| MIDDLE_GREY);
    let e = read(&photo, &marks(&[("white", 10.0, 0.0), ("black", 60.0, 0.0)]), None, &|| &[]).exposure;
    assert!(!e.correction.unwrap().agreed);
    // and a part that lies where it should asks for nothing
    let fine = read(&photo, &marks(&[("grey18", 10.0, 0.0)]), None, &|| &[]).exposure;
    assert!(fine.correction.is_none() && fine.placements[0].off_stops == 0.0);
}

#[test]
fn zones_hold_the_whole_picture_and_clipped_areas_are_found_where_they_are() {
    let photo = paint(400, 200, |x, y| {
        let burnt = (x - 300.0).hypot(y - 100.0) < 40.0 || (x < 40.0 && y < 20.0);
        if burnt { 2.0 } else { MIDDLE_GREY * if x < 200.0 { 1.0 } else { 0.1 } }
    });
    let e = read(&photo, &Marks::default(), None, &|| &[]).exposure;
    let sum: f64 = e.zones.iter().map(|z| z.share).sum();
    assert!((sum - 1.0).abs() < 1e-3, "{:?}", e.zones);
    let middle = e.zones.iter().find(|z| z.name == "middle").unwrap();
    assert!((middle.share - 0.49).abs() < 0.01, "{middle:?}");
    assert_eq!(e.clipped_areas.len(), 2);
    let a = e.clipped_areas[0];
    // area of the disc over the picture's: pi 40^2 / 80000
    assert!((a.share - 0.0628).abs() < 0.002, "{a:?}");
    assert!((a.from[0] - 260.0).abs() < 4.0 && (a.to[1] - 140.0).abs() < 4.0, "{a:?}");
}

#[test]
fn iso_speeds_are_named_as_cameras_name_them() {
    // ISO 12232 preferred numbers in thirds; 125 to 160 is a third of a stop (common practice).
    assert_eq!([126.0, 158.7, 800.0, 1008.0, 50.0].map(nominal_iso), [125, 160, 800, 1000, 50]);
}

#[test]
fn a_brief_says_where_marked_parts_should_lie() {
    // Common practice: a dramatic portrait may keep its lit skin two stops under grey, a gentle one may not; a grey card lies
    // at grey whatever the brief.
    let photo = paint(100, 40, |x, _| if x < 50.0 { MIDDLE_GREY / 3.0 } else { MIDDLE_GREY });
    let m = marks(&[("lit", 10.0, 0.0), ("grey18", 60.0, 0.0)]);
    let e = read(&photo, &m, None, &|| &[]).exposure;
    let off = |brief: &str| {
        let mut own = e.clone();
        evidence::placement::by_brief(&mut own, brief, m.exposure.as_ref());
        let of = |id: &str| own.placements.iter().find(|p| p.mark == id).unwrap().off_stops;
        (of("p0"), of("p1"), own.correction.map(|c| c.agreed))
    };
    let (gentle, dramatic, unknown) = (off("gentle"), off("dramatic"), off("no such brief"));
    assert!(gentle.0 < -0.9 && dramatic.0 == 0.0, "{gentle:?} {dramatic:?}");
    assert!(gentle.1 == 0.0 && dramatic.1 == 0.0);
    // brighter skin would put the grey card too high: they pull both ways, and a dramatic brief asks for nothing
    assert_eq!((gentle.2, dramatic.2), (Some(false), None));
    assert_eq!(unknown.0, e.placements[0].off_stops);
}

#[test]
fn a_shadow_side_is_placed_too() {
    let photo = paint(100, 40, |_, _| MIDDLE_GREY / 32.0);
    let m = marks(&[("shadow", 10.0, 0.0)]);
    let mut e = read(&photo, &m, None, &|| &[]).exposure;
    // five stops under grey: too dark for anything but a dramatic brief with its own eyes
    assert!((e.placements[0].stops_from_grey + 5.0).abs() < 0.1);
    evidence::placement::by_brief(&mut e, "gentle", None);
    assert!((e.placements[0].off_stops + 2.4).abs() < 0.1, "{:?}", e.placements);
    assert!(e.placements[0].says.contains("gentle"));
}
