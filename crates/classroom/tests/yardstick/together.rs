//! What a class does together: live rounds, pictures dealt, graders held together, a book that comes back, how one comes on.

use classroom::*;
use optics::geometry::AzEl;
use proptest::prelude::*;
use serde_json::json;

fn at(azimuth_deg: f64, elevation_deg: f64) -> AzEl {
    AzEl { azimuth_deg, elevation_deg }
}

fn light(azimuth_deg: f64, elevation_deg: f64, sd_deg: f64) -> Truth {
    Truth { at: at(azimuth_deg, elevation_deg), sd_deg }
}

#[test]
fn a_place_is_told_by_the_angle_and_by_what_to_turn() {
    // level directions: the angle is the difference of azimuths (geometry)
    let o = off(&light(40.0, 0.0, 3.0), &at(-20.0, 0.0));
    assert!((o.angle_deg - 60.0).abs() < 1e-9 && (o.right_deg + 60.0).abs() < 1e-9 && o.up_deg == 0.0);
    assert!(o.says.contains("60\u{b0} off") && o.says.contains("too far to camera left"), "{}", o.says);
    // straight up and level are a right angle apart whatever the azimuth
    let o = off(&light(123.0, 90.0, 3.0), &at(10.0, 0.0));
    assert!((o.angle_deg - 90.0).abs() < 1e-9 && o.says.contains("too low"), "{}", o.says);
    // behind, on either side of the seam: ten degrees, not 350
    let o = off(&light(175.0, 0.0, 3.0), &at(-175.0, 0.0));
    assert!((o.angle_deg - 10.0).abs() < 1e-6 && (o.right_deg - 10.0).abs() < 1e-9, "{o:?}");
    // nobody is told to be wrong by less than the reading knows
    assert!(off(&light(0.0, 30.0, 6.0), &at(10.0, 30.0)).as_near_as_told);
    assert!(!off(&light(0.0, 30.0, 2.0), &at(10.0, 30.0)).as_near_as_told);
}

#[test]
fn places_from_outside_are_checked() {
    assert!(check_place(&at(180.0, -90.0)).is_ok());
    for bad in [at(181.0, 0.0), at(0.0, 91.0), at(f64::NAN, 0.0), at(0.0, f64::INFINITY)] {
        assert!(check_place(&bad).is_err(), "{bad:?}");
    }
}

#[test]
fn a_class_is_told_together() {
    let truth = light(40.0, 40.0, 3.0);
    // four too low by nine, one right
    let places: Vec<AzEl> = vec![at(40.0, 31.0), at(40.0, 31.0), at(40.0, 31.0), at(40.0, 31.0), at(40.0, 40.0)];
    let c = crowd(&places, Some(&truth));
    assert_eq!((c.many, c.well), (5, Some(5)));
    assert!(
        c.says.iter().any(|s| s.starts_with("4 of 5 placed it lower than it is; in the median by 9 degrees")),
        "{c:?}"
    );
    assert!((c.median_off_deg.expect("told") - 9.0).abs() < 1e-6);
    let mean = c.mean.expect("a mean");
    assert!((mean.azimuth_deg - 40.0).abs() < 1e-6 && (31.0..34.0).contains(&mean.elevation_deg), "{mean:?}");
    // before the light is told nothing about it is
    let hidden = crowd(&places, None);
    assert!(hidden.median_off_deg.is_none() && hidden.well.is_none() && hidden.says.is_empty());
    // all ways have no mean, nobody has nothing
    assert!(crowd(&[at(0.0, 0.0), at(180.0, 0.0), at(90.0, 0.0), at(-90.0, 0.0)], None).mean.is_none());
    let nobody = crowd(&[], Some(&truth));
    assert!(nobody.mean.is_none() && nobody.median_off_deg.is_none() && nobody.well == Some(0));
}

proptest! {
    /// An angle between directions is one whichever is the light, never over 180, and nought for the same place.
    #[test]
    fn angles_of_places_are_angles(a in -180.0..180.0f64, b in -90.0..90.0f64, c in -180.0..180.0f64, d in -90.0..90.0f64) {
        let there = off(&light(a, b, 1.0), &at(c, d)).angle_deg;
        let back = off(&light(c, d, 1.0), &at(a, b)).angle_deg;
        prop_assert!((there - back).abs() < 1e-6 && (0.0..=180.0 + 1e-9).contains(&there));
        prop_assert!(off(&light(a, b, 1.0), &at(a, b)).angle_deg < 1e-4);
    }

    /// Everybody gets as many as are asked for, nobody their own, nobody one twice; each picture is looked at as often.
    #[test]
    fn pictures_are_dealt_evenly(n in 0usize..60, k in 0usize..6) {
        let pairs = dealt(n, k);
        let each = k.min(n.saturating_sub(1));
        let set: std::collections::BTreeSet<_> = pairs.iter().collect();
        prop_assert_eq!(set.len(), pairs.len());
        prop_assert!(pairs.iter().all(|(r, a)| r != a));
        for i in 0..n {
            prop_assert_eq!(pairs.iter().filter(|p| p.0 == i).count(), each);
            prop_assert_eq!(pairs.iter().filter(|p| p.1 == i).count(), each);
        }
    }

    /// The book goes out and comes back: nothing changes, whatever the names and shares.
    #[test]
    fn a_book_that_comes_back_as_it_went_out_changes_nothing(
        shares in prop::collection::vec(prop::option::of(0.0..1.0f64), 1..8),
        name in "[A-Za-z=+;,\"' -]{1,12}",
    ) {
        let rows: Vec<BookRow> = shares.iter().enumerate().map(|(i, s)| row(&format!("id-{i}"), &format!("{name}{i}"), &[*s, None])).collect();
        let titles = vec!["Moon, by eye".to_owned(), "=Sum; of".to_owned()];
        let text = String::from_utf8(as_table(&titles, &rows).unwrap()).unwrap();
        let found = table_in(&text, &titles, &rows).unwrap();
        prop_assert!(found.changes.is_empty() && found.problems.is_empty(), "{:?}\n{}", found, text);
    }

    /// Whatever comes as a table is a table or a sentence.
    #[test]
    fn any_text_is_a_table_or_a_sentence(text in "\\PC{0,200}") {
        let rows = [row("a", "Ana", &[Some(0.5)])];
        let _ = table_in(&text, &["Moon".to_owned()], &rows);
        let _ = table_in(&format!("Student,Moon\n{text}"), &["Moon".to_owned()], &rows);
    }
}

fn row(student: &str, name: &str, shares: &[Option<f64>]) -> BookRow {
    let cell = |s: &Option<f64>| BookCell { share: *s, handed_in: s.is_some(), ..BookCell::default() };
    BookRow { student: student.into(), name: name.into(), cells: shares.iter().map(cell).collect(), total: None }
}

#[test]
fn a_table_tells_what_it_would_change_and_what_it_cannot() {
    let titles = ["Moon".to_owned(), "Bottle".to_owned(), "Bottle".to_owned()];
    let rows = [
        row("a", "Ana", &[Some(0.5), None, None]),
        row("b", "Bo", &[None; 3]),
        row("c", "Cy", &[None; 3]),
        row("d", "Cy", &[None; 3]),
    ];
    // as a spreadsheet of another country writes it: semicolons, a comma in numbers, a byte order mark
    let text = "\u{feff}Student;Moon [%];Bottle;Sun;Total [%]\nANA;62,5;10;1;99\nBo; 80 % ;;;\nCy;10;;;\nDan;10;;;\n;;;;\nBo;120;;;\n";
    let t = table_in(text, &titles, &rows).unwrap();
    let seen: Vec<(&str, usize, Option<f64>)> =
        t.changes.iter().map(|c| (c.name.as_str(), c.assignment, c.share)).collect();
    assert_eq!(seen, [("Ana", 0, Some(0.625)), ("Bo", 0, Some(0.8))]);
    let all = t.problems.join("\n");
    for word in [
        "\"Bottle\": more than one",
        "\"Sun\": no assignment",
        "Line 4: two of this class",
        "Line 5: nobody",
        "\"120\" is no share",
    ] {
        assert!(all.contains(word), "{word} in {all}");
    }
    // ids tell people of one name apart; a dash takes back
    let t = table_in("Id,Student,Moon\nd,Cy,70\na,Ana,-\n", &titles, &rows).unwrap();
    assert_eq!(
        t.changes.iter().map(|c| (c.student.as_str(), c.share)).collect::<Vec<_>>(),
        [("d", Some(0.7)), ("a", None)]
    );
    assert!(table_in("Name,Moon\nAna,1\n", &titles, &rows).unwrap_err().contains("Student"));
    assert!(table_in(&"x".repeat(MOST_TABLE_BYTES + 1), &titles, &rows).unwrap_err().contains("too large"));
}

fn given(place: f64, idea: f64) -> Given {
    serde_json::from_value(json!({"points": {"place": place, "idea": idea}, "rubric": [
        {"id": "place", "name": "Place", "points": 10.0, "by": "judged"}, {"id": "idea", "name": "Idea", "points": 10.0, "by": "judged"}]}))
    .expect("points")
}

#[test]
fn graders_are_held_together_over_the_same_pictures() {
    let who = |n: &str, g: Given| (n.to_owned(), g);
    let pictures = vec![
        vec![who("Ilse", given(8.0, 8.0)), who("Dan", given(8.0, 4.0))],
        vec![who("Ilse", given(6.0, 9.0)), who("Dan", given(6.0, 5.0))],
        // one alone says nothing about the other
        vec![who("Ilse", given(0.0, 0.0))],
    ];
    let lines = graders(&pictures);
    assert_eq!(lines.iter().map(|l| (l.grader.as_str(), l.pictures)).collect::<Vec<_>>(), [("Dan", 2), ("Ilse", 2)]);
    // 12 and 16 of 20 points: two tenths apart, each a tenth from the mean (arithmetic)
    assert!((lines[0].bias_percent + 10.0).abs() < 1e-9 && (lines[1].bias_percent - 10.0).abs() < 1e-9);
    assert!(lines[0].scatter_percent.is_some_and(|s| s < 1e-9));
    let most = lines[1].most.as_ref().expect("a criterion");
    assert!(most.criterion == "Idea" && (most.points - 2.0).abs() < 1e-9);
    assert!(lines[1].says.contains("10 % more than the mean") && lines[1].says.contains("Idea"), "{}", lines[1].says);
    assert!(graders(&[]).is_empty());
}

fn off_by(direction: f64, size: f64) -> Distance {
    let part = |kind: &str, value: f64, sd: f64, unit: &str, step: f64| json!({"kind": kind, "value": value, "sd": sd, "unit": unit, "steps": value.abs() / step, "says": format!("{kind} {value}")});
    serde_json::from_value(json!({"steps": 1.0, "key_off_deg": null, "parts": [part("direction", direction, 2.0, "degrees", 10.0), part("size", size, 0.2, "doublings", 0.5)]}))
        .expect("a distance")
}

#[test]
fn how_one_comes_on_is_told_by_parts() {
    let c = course(&[Some(off_by(24.0, 0.1)), None, Some(off_by(8.0, -1.2))]);
    let of = |k: PartKind| c.parts.iter().find(|p| p.kind == k).expect("a part");
    assert_eq!(of(PartKind::Direction).values, [Some(24.0), None, Some(8.0)]);
    assert!(of(PartKind::Direction).says.as_ref().is_some_and(|s| s.contains("nearer, 24 then 8 degrees")), "{c:?}");
    assert!(of(PartKind::Size).says.as_ref().is_some_and(|s| s.contains("farther off")), "{c:?}");
    // the newest picture is farthest off in size: 2.4 steps against 0.8
    assert!(c.practise.as_ref().is_some_and(|p| p.starts_with(practised(PartKind::Size))), "{c:?}");
    // within its spread nothing is told to have changed
    let same = course(&[Some(off_by(6.0, 0.0)), Some(off_by(7.0, 0.1))]);
    assert!(same.parts[0].says.as_ref().is_some_and(|s| s.contains("about as far off")) && same.practise.is_none());
    assert_eq!(course(&[None]), Course::default());
    assert!(course(&[Some(off_by(5.0, 0.0))]).parts[0].says.is_none(), "one picture is no course");
}

#[test]
fn what_a_class_shares_says_what_to_practise() {
    let d = off_by(20.0, 1.0);
    let t = trends(&[d.clone(), d.clone(), d]);
    assert!(
        t.iter().any(|t| t.says.starts_with("3 of 3 keys are larger") && t.practise == practised(PartKind::Size)),
        "{t:?}"
    );
}
