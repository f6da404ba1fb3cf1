//! Briefs of one's own, the composed paragraph, phrases with figures.

use crate::verdict_and_set::{light, readings};
use evidence::marks::Marks;
use judging::critique::{
    AskedRange, Brief, BriefKind, Differences, Outcome, Promise, askable, brief, briefs, filled, judge, paragraph,
    phrase_book, rule_views,
};

fn copy(of: &str) -> Brief {
    let b = brief(of).expect("a brief").clone();
    Brief { id: "house:1".into(), name: "Ours".into(), based_on: Some(of.into()), ..b }
}

fn asked(least: Option<f64>, most: Option<f64>) -> AskedRange {
    AskedRange { least, most }
}

#[test]
fn every_brief_of_the_table_can_be_copied_and_contradicts_itself_in_nothing() {
    for b in briefs() {
        assert_eq!(copy(&b.id).check(), Ok(()), "{}", b.id);
        assert_eq!(b.contradictions(), Vec::<String>::new(), "{}", b.id);
    }
}

#[test]
fn what_cannot_be_asked_is_said_by_its_field() {
    let with = |change: &dyn Fn(&mut Brief)| {
        let mut b = copy("business");
        change(&mut b);
        b.check().expect_err("refused")
    };
    assert!(with(&|b| b.name = " ".into()).starts_with("name:"));
    assert!(with(&|b| b.says = "x".repeat(500)).starts_with("says:"));
    assert!(with(&|b| b.based_on = Some("nothing".into())).contains("nothing"));
    assert!(with(&|b| b.kind = BriefKind::Thing).starts_with("kind:"));
    assert!(
        with(&|b| {
            b.ranges.insert("contrast_stops".into(), asked(Some(3.0), Some(1.0)));
        })
        .contains("more than the most")
    );
    assert!(
        with(&|b| {
            b.ranges.insert("contrast_stops".into(), asked(Some(f64::NAN), None));
        })
        .contains("number")
    );
    assert!(
        with(&|b| {
            b.ranges.insert("no_such".into(), asked(Some(1.0), None));
        })
        .contains("no rule")
    );
    assert!(with(&|b| b.off = vec!["no_such".into()]).starts_with("off:"));
    // a stranger cannot make it long: nothing that asks nothing, nothing twice, reasons only for what is measured
    assert!(
        with(&|b| {
            b.ranges.insert("x".repeat(1000), asked(None, None));
        })
        .starts_with("ranges.")
    );
    assert!(with(&|b| b.off = vec!["flat".into(); 2]).starts_with("off:"));
    assert!(with(&|b| b.looks = vec!["flat".into(); 2]).starts_with("looks:"));
    assert!(
        with(&|b| {
            b.reasons.insert("no_such".into(), "why".into());
        })
        .starts_with("reasons:")
    );
    assert!(with(&|b| b.looks = vec!["no_such".into()]).starts_with("looks:"));
}

#[test]
fn a_copy_judges_by_its_own_ranges_and_without_the_rules_it_switches_off() {
    let r = readings(vec![light("key", 50.0, 30.0, 20.0, 0.0), light("fill", -30.0, 0.0, 30.0, -1.2)], None, 1);
    let fault = |b: &Brief| {
        let v = judge(&r, &Marks::default(), b);
        let of = v.findings.iter().filter(|f| f.outcome == Outcome::Fault);
        of.map(|f| f.rule.clone()).collect::<Vec<_>>()
    };
    let mut b = copy("business");
    assert!(!fault(&b).contains(&"aside_much".to_owned()));
    b.ranges.insert("key_aside_deg".into(), asked(None, Some(30.0)));
    assert!(fault(&b).contains(&"aside_much".to_owned()), "{:?}", fault(&b));
    b.off = vec!["aside_much".into()];
    assert!(!fault(&b).contains(&"aside_much".to_owned()));
    // what the original leaves out by name, its copy leaves out too
    for f in ["airy-backlit", "high-key"] {
        let (own, table) = (copy(f), brief(f).unwrap());
        let rules = |b: &Brief| {
            judge(&r, &Marks::default(), b)
                .findings
                .iter()
                .map(|f| f.rule.clone())
                .collect::<std::collections::BTreeSet<_>>()
        };
        assert_eq!(rules(&own), rules(table), "{f}");
    }
}

#[test]
fn asks_that_no_picture_meets_at_once_are_told() {
    let mut b = copy("business");
    // key and fill alike give at most a stop: two cannot be asked (definition of the ratio: (K + F) / F = 2)
    b.ranges.insert("key_over_fill_stops".into(), asked(None, Some(0.0)));
    b.ranges.insert("contrast_stops".into(), asked(Some(2.0), None));
    let said = b.contradictions();
    assert!(said.len() == 1 && said[0].contains("1.0"), "{said:?}");
    // a key eight times the fill gives 3.2 stops: one and a half cannot be the most
    b.ranges.insert("key_over_fill_stops".into(), asked(Some(3.0), None));
    b.ranges.insert("contrast_stops".into(), asked(None, Some(1.5)));
    assert!(b.contradictions()[0].contains("3.2"), "{:?}", b.contradictions());
}

#[test]
fn what_can_be_asked_has_a_rule_that_holds_it() {
    for kind in [BriefKind::Person, BriefKind::Thing] {
        let all = askable(kind);
        assert!(all.len() > 15, "{kind:?}: {}", all.len());
        assert!(all.iter().all(|a| a.least || a.most));
        // all that the briefs of the table ask can be asked
        for b in briefs().iter().filter(|b| b.kind == kind) {
            for (m, r) in &b.ranges {
                let a = all.iter().find(|a| a.measure == *m).unwrap_or_else(|| panic!("{}: {m}", b.id));
                assert!(r.least.is_none() || a.least, "{}: {m} least", b.id);
                assert!(r.most.is_none() || a.most, "{}: {m} most", b.id);
            }
        }
    }
    assert!(rule_views().len() >= 75);
}

#[test]
fn the_paragraph_says_what_holds_and_what_to_change_first() {
    let r = readings(vec![light("key", 75.0, 65.0, 4.0, 0.0), light("fill", -30.0, 0.0, 30.0, -4.0)], Some(3.4), 1);
    let b = brief("business").unwrap();
    let v = judge(&r, &Marks::default(), b);
    let first = Promise { says: "Lower the key by 20\u{b0}.".into(), held: 4, holds: 7, of: 9 };
    let text = paragraph(&v, b, Some(&first));
    assert!(text.starts_with("Judged as \u{201c}Business portrait\u{201d}. What holds: "), "{text}");
    assert!(
        text.contains("Change this first: Lower the key by 20\u{b0}.")
            && text.contains("7 of 9 rules would then hold instead of 4"),
        "{text}"
    );
    assert!(text.contains(&v.findings[0].says));
    // without a reckoning the finding's own change stands
    assert!(paragraph(&v, b, None).contains(v.findings[0].change.as_deref().unwrap()));
    // nothing read: nothing claimed
    let nothing = paragraph(&judge(&readings(vec![], None, 0), &Marks::default(), b), b, None);
    assert!(nothing.contains("wait for something to be marked"), "{nothing}");
    assert!(
        !nothing.contains("Nothing that was measured has to change") || nothing.contains("What holds"),
        "{nothing}"
    );
}

#[test]
fn phrases_are_filled_with_figures_and_those_not_measured_stay() {
    let r = readings(vec![light("key", -50.0, 31.0, 20.0, 0.0)], None, 1);
    let fill = |p: &str| filled(p, &r, &Marks::default(), &Differences::default());
    assert_eq!(
        fill("The key lies {key_elevation_deg} up and {key_aside_deg} aside."),
        "The key lies 31 up and 50 aside."
    );
    assert_eq!(fill("Your key is {key_up}."), "Your key is {key_up}.");
    assert_eq!(fill("An { open brace, and {nothing}"), "An { open brace, and {nothing}");
    assert_eq!(fill(""), "");
    assert!(phrase_book().len() >= 8);
}

#[test]
fn grounds_sides_and_looks_that_cannot_be_are_told() {
    // split light comes from beside (handbooks: 90 degrees): a key within 30 degrees of the lens gives none
    let mut b = copy("dramatic");
    b.looks = vec!["split".into()];
    b.ranges.insert("key_aside_deg".into(), asked(None, Some(30.0)));
    assert!(b.contradictions().iter().any(|s| s.contains("split")), "{:?}", b.contradictions());
    b.looks.push("loop".into());
    assert!(!b.contradictions().iter().any(|s| s.contains("gives")), "{:?}", b.contradictions());
    // a clamshell has its key in front and above
    b.looks = vec!["clamshell".into()];
    assert!(b.contradictions().is_empty(), "{:?}", b.contradictions());
    b.ranges.insert("key_elevation_deg".into(), asked(None, Some(-10.0)));
    assert!(b.contradictions().iter().any(|s| s.contains("clamshell")));

    // four stops under a face that lies at most a stop and a half over grey is under minus two
    let mut b = copy("dramatic");
    b.ranges.insert("background_under_stops".into(), asked(Some(4.0), None));
    b.ranges.insert("background_stops".into(), asked(Some(0.0), None));
    assert!(b.contradictions().iter().any(|s| s.contains("-2.5")), "{:?}", b.contradictions());
    b.ranges.insert("background_stops".into(), asked(Some(-4.0), None));
    assert!(b.contradictions().is_empty(), "{:?}", b.contradictions());
    b.ranges.insert("background_under_stops".into(), asked(None, Some(0.5)));
    b.ranges.insert("background_stops".into(), asked(None, Some(-3.0)));
    assert!(b.contradictions().iter().any(|s| s.contains("at most -3 are asked")), "{:?}", b.contradictions());

    let mut b = copy("bottle-dark");
    b.ranges.insert("lines".into(), asked(None, Some(1.0)));
    assert!(b.contradictions().iter().any(|s| s.contains("2 sides")), "{:?}", b.contradictions());
}
