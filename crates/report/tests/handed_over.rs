//! The report on paper and as a page: all of it is there, within the paper, and it stands on its own.

use judging::critique::Promise;
use report::{Art, ContactPicture, Paper, Report, ReportRemark, Stance, page, sheets};
use serde_json::json;

fn jpeg(w: u32, h: u32) -> Vec<u8> {
    let grey: Vec<u8> = (0..w * h).flat_map(|i| [(i % 200) as u8; 3]).collect();
    pictures::encode_jpeg(w, h, &grey, 85).expect("a JPEG")
}

fn finding(i: usize, outcome: &str) -> serde_json::Value {
    json!({"rule": format!("r{i}"), "outcome": outcome, "title": format!("Finding number {i}"),
           "says": format!("The key lies {i}.5 ± 2 degrees above the lens, and the brief asks for at most 40 of them."),
           "change": "Lower the key by 20 degrees.", "school": "Everyday.", "source": "common practice",
           "value": i as f64, "spread": 0.5, "limit": 3.0, "unit": "degrees", "pin": [100.0 + i as f64, 200.0], "evidence": ["face"],
           "settles": "Take one more with a ball.", "by_brief": true, "severity": 2.0})
}

fn report(findings: usize, remarks: usize, title: &str) -> Report {
    let outcomes = ["fault", "unsure", "holds", "cannot_tell"];
    let all: Vec<_> = (0..findings).map(|i| finding(i, outcomes[i * 4 / findings.max(1)])).collect();
    let mut r: Report = serde_json::from_value(json!({
        "format": "slant-report/1", "title": title, "picture": "queen.jpg", "size": [1200, 1500], "brief": "Business portrait",
        "asks": ["Gentle, two or three to one."], "made": "2026-11-30", "signed": "Tomek",
        "lights": [{"role": "key", "azimuth_deg": 40.0, "elevation_deg": 30.0, "direction_sd_deg": 3.0, "frame": "camera", "angular_size_deg": 25.0, "level_stops": 0.0, "evidence": []},
                   {"role": "rim", "azimuth_deg": -150.0, "elevation_deg": 20.0, "direction_sd_deg": 3.0, "frame": "camera", "level_stops": -1.0, "evidence": []}],
        "slant": "key R40/30 o25", "reading": ["The key stands right."], "warnings": ["The curve is not known."],
        "paragraph": "It holds well. Lower the key.", "findings": all, "changes": [], "remarks": [], "method": ["One standard deviation."], "core": "7"
    }))
    .expect("a report");
    r.changes = vec![Promise { says: "Lower the key by 20°.".into(), held: 5, holds: 7, of: 9 }];
    r.remarks = (0..remarks)
        .map(|i| ReportRemark {
            author: "Ana".into(),
            stance: Stance::Note,
            about: None,
            text: format!("Remark {i}"),
            pin: Some([300.0, 400.0]),
        })
        .collect();
    r
}

/// Every y of a text in a sheet, and x of those set from the left.
fn texts(svg: &str) -> Vec<(f64, f64)> {
    let value = |t: &str, name: &str| t.split(&format!(" {name}=\"")).nth(1)?.split('"').next()?.parse().ok();
    svg.split("<text").skip(1).filter_map(|t| Some((value(t, "x")?, value(t, "y")?))).collect()
}

#[test]
fn it_is_two_pages_within_the_paper_and_a_third_with_takes() {
    for paper in [Paper::A4, Paper::Letter] {
        let [w, h] = paper.pixels();
        for (findings, remarks) in [(0, 0), (12, 3), (80, 200)] {
            let r = report(findings, remarks, &"A very long title of a case ".repeat(8));
            let mut art = Art {
                picture: jpeg(120, 150),
                plan: Some("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"200\" height=\"100\"/>".into()),
                ..Art::default()
            };
            assert_eq!(sheets(&r, &art, paper).len(), 2);
            art.takes = (0..30).map(|i| ContactPicture { name: format!("take {i}"), jpeg: jpeg(40, 30) }).collect();
            let all = sheets(&r, &art, paper);
            assert_eq!(all.len(), 3);
            for svg in &all {
                for (x, y) in texts(svg) {
                    assert!((-300.0..=w).contains(&x) && y <= h, "{paper:?} {findings}: text at {x} {y}");
                }
            }
            let pdf = pictures::pdf_of_pages(&all, Some(&r.title)).expect("a PDF");
            assert!(pdf.starts_with(b"%PDF-"));
            // 80 findings do not fit on paper: it says so
            if findings == 80 {
                assert!(all[0].contains("more overleaf") || all[1].contains("in the page for the browser"));
            }
        }
    }
}

#[test]
fn a_sheet_of_a4_has_the_size_of_iso_216() {
    let r = report(4, 0, "t");
    let svg = &sheets(&r, &Art { picture: jpeg(12, 15), ..Art::default() }, Paper::A4)[0];
    let png = pictures::png_of_svg(svg, 1.0).expect("a picture");
    let p = image::load_from_memory(&png).expect("a PNG");
    // 210 by 297 mm at 96 pixels an inch (ISO 216)
    assert_eq!((p.width(), p.height()), (794, 1123));
}

#[test]
fn the_page_stands_on_its_own_and_tells_all() {
    let r = report(40, 30, "The <queen> & \"her\" light");
    let html = page(&r, &Art { picture: jpeg(120, 150), after: Some(jpeg(30, 40)), ..Art::default() });
    assert!(html.contains("The &lt;queen&gt; &amp; "), "titles are escaped");
    // nothing is loaded from anywhere
    for part in html.split(['"', '\'']).filter(|p| p.contains("://")) {
        assert!(part.starts_with("http://www.w3.org/"), "{part}");
    }
    assert!(!html.contains("<script"));
    for i in 0..30 {
        assert!(html.contains(&format!("Finding number {i}")) || i >= 20, "finding {i}");
        assert!(html.contains(&format!("Remark {i}")), "remark {i}");
    }
    assert!(
        html.contains("7 of 9 rules would then hold instead of 5")
            && html.contains("lang=\"en\"")
            && html.contains("alt=")
    );
}

#[test]
fn it_is_read_back_as_it_was_written() {
    let r = report(12, 2, "t");
    let text = serde_json::to_string(&r).unwrap();
    let back: Report = serde_json::from_str(&text).unwrap();
    assert_eq!(serde_json::to_value(&back).unwrap(), serde_json::to_value(&r).unwrap());
}

#[test]
fn right_to_left_words_and_long_names_are_set() {
    let mut r =
        report(4, 0, "\u{5e4}\u{5d5}\u{5e8}\u{5d8}\u{5e8}\u{5d8} \u{5e9}\u{5dc} \u{5d4}\u{5de}\u{5dc}\u{5db}\u{5d4}");
    r.paragraph = "\u{5d4}\u{5d0}\u{5d5}\u{5e8} \u{5d2}\u{5d1}\u{5d5}\u{5d4} \u{5de}\u{5d3}\u{5d9}. ".repeat(12);
    r.signed = Some("x".repeat(300));
    let all = sheets(&r, &Art { picture: jpeg(120, 150), ..Art::default() }, Paper::Letter);
    assert!(all[1].contains("text-anchor=\"end\""), "set from the right");
    for svg in &all {
        pictures::png_of_svg(svg, 0.5).expect("drawn");
    }
}
