//! House rules of a class: what they do to a brief, and what is refused.

use classroom::{HouseRules, RatioSchool};
use judging::critique::{AskedRange, Brief, briefs, rule_views};
use proptest::prelude::*;
use serde_json::json;

fn brief(id: &str) -> Brief {
    judging::critique::brief(id).expect("a brief of the table").clone()
}

fn rules(v: serde_json::Value) -> HouseRules {
    serde_json::from_value(v).expect("house rules")
}

#[test]
fn no_house_rules_change_nothing() {
    for b in briefs() {
        let same = HouseRules::default().applied(b.clone());
        assert_eq!(serde_json::to_value(&same).unwrap(), serde_json::to_value(b).unwrap());
    }
    assert_eq!(HouseRules::default(), rules(json!({})), "what an old class holds is read");
}

#[test]
fn ranges_go_before_those_of_a_brief_where_it_can_ask_them() {
    let h = rules(json!({"ranges": {"contrast_stops": {"most": 0.7}}, "off": ["smeared"]}));
    h.check().expect("sound");
    let person = h.applied(brief("everyday"));
    assert_eq!(person.ranges["contrast_stops"].most, Some(0.7));
    assert!(person.off.contains(&"smeared".to_owned()));
    // a brief's own least over the class's most: the class goes before it
    let mut steep = brief("everyday");
    steep.ranges.insert("contrast_stops".into(), AskedRange { least: Some(2.0), most: Some(4.0) });
    let held = h.applied(steep).ranges["contrast_stops"];
    assert_eq!((held.least, held.most), (None, Some(0.7)));
    // to apply them twice is to apply them once
    let twice = h.applied(person.clone());
    assert_eq!((twice.off, twice.ranges), (person.off, person.ranges));
}

#[test]
fn what_is_none_is_told_by_field() {
    for (bad, field) in [
        (json!({"off": ["nothing_such"]}), "off[0]"),
        (json!({"ranges": {"nothing_such": {"least": 1.0}}}), "ranges.nothing_such.least"),
        (json!({"ranges": {"contrast_stops": {"most": 1e9}}}), "ranges.contrast_stops.most"),
        (json!({"ranges": {"contrast_stops": {}}}), "ranges.contrast_stops"),
        (json!({"phrases": [""]}), "phrases"),
        (json!({"phrases": vec!["x"; 61]}), "phrases"),
        (json!({"phrases": ["x".repeat(401)]}), "phrases"),
    ] {
        let e = rules(bad).check().expect_err(field);
        assert!(e.starts_with(field), "{e}");
    }
    assert!(serde_json::from_value::<HouseRules>(json!({"of": []})).is_err(), "a name that is none");
    assert_eq!(rules(json!({"ratio": "together"})).ratio, Some(RatioSchool::Together));
}

proptest! {
    /// Whatever a class asks, a brief stays one that can be judged by: no range is upside down, no rule is switched off twice.
    #[test]
    fn briefs_stay_whole(
        which in 0..briefs().len(),
        off in proptest::sample::subsequence((0..rule_views().len()).collect::<Vec<_>>(), 0..6),
        least in -3.0..3.0f64,
        wide in 0.0..3.0f64,
        ends in 0..3,
    ) {
        let asked = AskedRange { least: (ends != 0).then_some(least), most: (ends != 1).then_some(least + wide) };
        let h = HouseRules {
            off: off.iter().map(|i| rule_views()[*i].id.clone()).collect(),
            ranges: ["contrast_stops", "key_over_fill_stops", "picture_median_stops"].map(|m| (m.to_owned(), asked)).into(),
            ..HouseRules::default()
        };
        let b = h.applied(briefs()[which].clone());
        for (m, r) in &b.ranges {
            prop_assert!(r.least.or(r.most).is_some(), "{m}");
            if let (Some(a), Some(z)) = (r.least, r.most) {
                prop_assert!(a <= z, "{m}: {a} to {z}");
            }
        }
        let names: std::collections::BTreeSet<_> = b.off.iter().collect();
        prop_assert_eq!(names.len(), b.off.len());
    }
}
