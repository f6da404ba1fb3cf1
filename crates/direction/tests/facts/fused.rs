//! Sightings that become lights: weights, spreads, which belong together, and what the place of an observer must not change.

use direction::fusion::{Evidence, Fused, fuse, inverse_variance};
use direction::{Seen, strongest, too_faint};
use optics::geometry::{AzEl, Vec3, angle_between, turn};
use proptest::prelude::*;

fn at(az: f64, el: f64) -> Vec3 {
    AzEl { azimuth_deg: az, elevation_deg: el }.vector()
}

/// A sighting by a mark that can count lights; spread in degrees, level in stops.
fn sees(mark: &str, direction: Vec3, sd_deg: f64, level_stops: f64) -> Evidence {
    let log_level = (level_stops * std::f64::consts::LN_2, 0.1);
    Evidence {
        mark: mark.into(),
        seen: Seen {
            direction,
            direction_sd: sd_deg.to_radians(),
            log_size: None,
            log_level: Some(log_level),
            rgb: None,
        },
        otherwise: None,
        relative_level: Some(log_level),
        counts_lights: true,
        shows: false,
        place_m: None,
    }
}

fn stops(f: &Fused) -> f64 {
    f.seen.log_level.expect("a level").0 / std::f64::consts::LN_2
}

/// Weighted mean by the textbook: weights 1/s², spread of the mean 1/sqrt(sum of weights); where values disagree, times
/// sqrt(chi²/(n - 1)) (Particle Data Group, Review of Particle Physics, introduction, 5.2).
#[test]
fn a_weighted_mean_is_the_textbooks() {
    let (mean, sd) = inverse_variance([(10.0, 1.0), (12.0, 2.0)].into_iter()).expect("a mean");
    assert!((mean - (10.0 + 12.0 / 4.0) / 1.25).abs() < 1e-12);
    assert!((sd - 1.0 / 1.25f64.sqrt()).abs() < 1e-12);
    // three values of spread one that lie four apart: chi² is 32 with two degrees of freedom
    let (mean, sd) = inverse_variance([(0.0, 1.0), (4.0, 1.0), (8.0, 1.0)].into_iter()).expect("a mean");
    assert!((mean - 4.0).abs() < 1e-12);
    assert!((sd - 16f64.sqrt() / 3f64.sqrt()).abs() < 1e-12, "{sd}");
    assert_eq!(inverse_variance(std::iter::empty()), None);
    // a value that claims to be exact does not divide by nothing
    let (mean, sd) = inverse_variance([(2.0, 0.0), (5.0, 1.0)].into_iter()).expect("a mean");
    assert!((mean - 2.0).abs() < 1e-3 && sd.is_finite() && sd > 0.0);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(128))]

    /// A mean lies among its values, and one more value that agrees makes it no less sure.
    #[test]
    fn a_mean_lies_among_its_values(values in proptest::collection::vec((-5.0f64..5.0, 0.1f64..3.0), 1..8)) {
        let (mean, sd) = inverse_variance(values.iter().copied()).unwrap();
        let (lo, hi) = values.iter().fold((f64::MAX, f64::MIN), |(lo, hi), v| (lo.min(v.0), hi.max(v.0)));
        prop_assert!((lo - 1e-9..=hi + 1e-9).contains(&mean));
        let surest = values.iter().map(|v| v.1).fold(f64::MAX, f64::min);
        let (_, more) = inverse_variance(values.iter().copied().chain([(mean, surest)])).unwrap();
        prop_assert!(more <= sd * (1.0 + 1e-9), "{more} after {sd}");
    }

    /// Two marks that see one light within their spreads are one light, surer than either.
    #[test]
    fn marks_that_agree_are_one_light(az in -150.0f64..150.0, el in -50.0f64..70.0, sd in 1.0f64..6.0, off in -1.0f64..1.0) {
        let lights = fuse(vec![sees("a", at(az, el), sd, 0.0), sees("b", at(az, el + off * sd), 1.5 * sd, 0.0)]);
        prop_assert_eq!(lights.len(), 1);
        prop_assert_eq!(lights[0].marks.len(), 2);
        prop_assert!(lights[0].seen.direction_sd.to_degrees() < sd);
        prop_assert!(lights[0].disagreement.is_empty());
        // nearer to the surer one
        let to = |e: f64| angle_between(&lights[0].seen.direction, &at(az, e));
        prop_assert!(to(el) <= to(el + off * sd) + 1e-9);
    }

    /// Lights far apart stay apart, the strongest first, levels against it.
    #[test]
    fn lights_far_apart_stay_apart(az in -120.0f64..120.0, el in -30.0f64..40.0, under in 0.3f64..3.0, sd in 0.5f64..4.0) {
        let (key, fill) = (at(az, el), at(az + 60.0, el));
        prop_assume!(angle_between(&key, &fill) > 0.6);
        let lights = fuse(vec![
            sees("a", fill, sd, -under), sees("a", key, sd, 0.0),
            sees("b", key, sd, 0.0), sees("b", fill, sd, -under),
        ]);
        prop_assert_eq!(lights.len(), 2);
        prop_assert!(angle_between(&lights[0].seen.direction, &key) < 1e-6);
        prop_assert!(stops(&lights[0]).abs() < 1e-9 && (stops(&lights[1]) + under).abs() < 1e-9);
    }

    /// Each mark counts from its own strongest light. One that does not see the key still tells of the others: offsets come from the
    /// lights that both see.
    #[test]
    fn levels_of_marks_are_brought_to_one_unit(under in 0.5f64..2.0, more in 0.5f64..2.0, rim in 0.2f64..2.0) {
        let (key, fill, back) = (at(40.0, 30.0), at(-50.0, 5.0), at(160.0, 20.0));
        let lights = fuse(vec![
            sees("whole", key, 2.0, 0.0), sees("whole", fill, 2.0, -under),
            // turned away from the key: its strongest is the rim
            sees("behind", fill, 2.0, -more), sees("behind", back, 2.0, 0.0),
            sees("third", key, 2.0, -rim.min(0.0)),
        ]);
        prop_assert_eq!(lights.len(), 3);
        let level = |d: &Vec3| lights.iter().find(|l| angle_between(&l.seen.direction, d) < 0.1).map(stops).unwrap();
        prop_assert!((level(&back) - level(&fill) - more).abs() < 1e-6);
        prop_assert!((level(&key) - level(&fill) - under).abs() < 1e-6);
    }

    /// Nobody's left is special: turned as a whole, everything turns with it, and the order of sightings says nothing.
    #[test]
    fn turning_all_turns_all(yaw in -180.0f64..180.0, pitch in -80.0f64..80.0, seed in 0usize..24) {
        let all = vec![
            sees("a", at(30.0, 40.0), 2.0, 0.0), sees("a", at(-60.0, 10.0), 4.0, -2.0),
            sees("b", at(33.0, 39.0), 3.0, 0.0), sees("c", at(150.0, 30.0), 5.0, -1.0),
        ];
        let plain = fuse(all.clone());
        let m = turn(yaw, pitch, 20.0);
        let mut turned: Vec<Evidence> = all;
        turned.iter_mut().for_each(|e| e.seen.direction = m * e.seen.direction);
        turned.rotate_left(seed % 4);
        if seed >= 12 {
            turned.reverse();
        }
        let turned = fuse(turned);
        prop_assert_eq!(plain.len(), turned.len());
        for p in &plain {
            let q = turned.iter().map(|t| angle_between(&(m * p.seen.direction), &t.seen.direction)).fold(f64::MAX, f64::min);
            prop_assert!(q < 1e-6, "{q}");
        }
        for (p, t) in plain.iter().zip(&turned) {
            prop_assert!((p.seen.direction_sd - t.seen.direction_sd).abs() < 1e-9);
        }
    }
}

#[test]
fn two_lights_of_one_mark_are_never_one() {
    // a mark that counts saw two: they are two, however near
    let lights = fuse(vec![sees("ball", at(30.0, 30.0), 6.0, 0.0), sees("ball", at(36.0, 30.0), 6.0, -0.5)]);
    assert_eq!(lights.len(), 2);
    // a further mark joins the nearer of them
    let lights = fuse(vec![
        sees("ball", at(30.0, 30.0), 2.0, 0.0),
        sees("ball", at(60.0, 30.0), 2.0, -0.5),
        sees("face", at(57.0, 30.0), 3.0, 0.0),
    ]);
    assert_eq!(lights.len(), 2);
    let joined = lights.iter().find(|l| l.marks.len() == 2).expect("two marks agree");
    assert!(angle_between(&joined.seen.direction, &at(60.0, 30.0)).to_degrees() < 2.0);
}

#[test]
fn marks_that_disagree_say_so_and_widen_the_spread() {
    let agree = fuse(vec![sees("a", at(30.0, 30.0), 3.0, 0.0), sees("b", at(31.0, 30.0), 3.0, 0.0)]);
    let apart = fuse(vec![sees("a", at(30.0, 30.0), 3.0, 0.0), sees("b", at(46.0, 30.0), 3.0, 0.0)]);
    assert_eq!((agree.len(), apart.len()), (1, 1));
    assert!(apart[0].seen.direction_sd > 2.0 * agree[0].seen.direction_sd);
    assert_eq!(apart[0].disagreement.len(), 2, "{:?}", apart[0].disagreement);
    assert!(apart[0].disagreement[0].contains("away from the others"));
    // and what they say of its size is as much less sure (the Particle Data Group's scale factor, the same for all they share)
    let sized = |other: Vec3| {
        let with = |mark: &str, d: Vec3, size_deg: f64| {
            let mut e = sees(mark, d, 3.0, 0.0);
            e.seen.log_size = Some((size_deg.to_radians().ln(), 0.2));
            e
        };
        let all = fuse(vec![with("a", at(30.0, 30.0), 20.0), with("b", other, 20.0)]);
        (all[0].seen.direction_sd, all[0].seen.log_size.expect("a size"))
    };
    let ((sd, (size, size_sd)), (far_sd, (far_size, far_size_sd))) = (sized(at(31.0, 30.0)), sized(at(46.0, 30.0)));
    assert!((size - far_size).abs() < 1e-9);
    assert!((far_size_sd / size_sd - far_sd / sd).abs() < 1e-6 && far_size_sd > 2.0 * size_sd);
}

#[test]
fn an_eye_whose_turn_is_open_takes_the_side_that_agrees() {
    let open = |seen: Vec3, other: Vec3| Evidence {
        otherwise: Some(other),
        relative_level: None,
        counts_lights: false,
        // half of what parts the two answers is in its spread
        ..sees("eye", seen, 5f64.hypot(angle_between(&seen, &other).to_degrees() / 2.0), 0.0)
    };
    for (seen, other) in [(at(-40.0, 20.0), at(35.0, 25.0)), (at(35.0, 25.0), at(-40.0, 20.0))] {
        let lights = fuse(vec![open(seen, other), sees("face", at(38.0, 24.0), 4.0, 0.0)]);
        assert_eq!(lights.len(), 1, "{seen:?}");
        let off = angle_between(&lights[0].seen.direction, &at(37.0, 24.5)).to_degrees();
        assert!(off < 3.0, "{off}");
    }
    // alone nothing settles it: it keeps its wide spread
    let alone = fuse(vec![open(at(-40.0, 20.0), at(35.0, 25.0))]);
    assert!(alone[0].seen.direction_sd.to_degrees() > 15.0);
}

#[test]
fn a_source_that_a_mirror_shows_is_one_however_shading_parts_it() {
    let mirror = Evidence {
        shows: true,
        counts_lights: false,
        seen: Seen { log_size: Some((60f64.to_radians().ln(), 0.1)), ..sees("mirror", at(0.0, 30.0), 1.0, 0.0).seen },
        ..sees("mirror", at(0.0, 30.0), 1.0, 0.0)
    };
    let matte = || vec![sees("matte", at(-20.0, 30.0), 2.0, 0.0), sees("matte", at(20.0, 30.0), 2.0, -0.2)];
    assert_eq!(fuse(matte()).len(), 2, "shading alone sees two");
    let lights = fuse([matte(), vec![mirror.clone()]].concat());
    assert_eq!(lights.len(), 1, "{:?}", lights.iter().map(|l| AzEl::of(&l.seen.direction)).collect::<Vec<_>>());
    assert!(angle_between(&lights[0].seen.direction, &at(0.0, 30.0)).to_degrees() < 4.0);
    // a small source is a point to both: what lies beside it is another
    let small =
        Evidence { seen: Seen { log_size: Some((5f64.to_radians().ln(), 0.1)), ..mirror.seen.clone() }, ..mirror };
    assert!(fuse([matte(), vec![small]].concat()).len() >= 2);
}

#[test]
fn from_places_apart_a_near_light_lies_in_other_directions() {
    let from = |mark: &str, az: f64, x: f64| Evidence { place_m: Some([x, 0.0]), ..sees(mark, at(az, 20.0), 1.0, 0.0) };
    // half a metre apart: a light a metre off is seen 28 degrees apart
    let lights = fuse(vec![from("left", 14.0, -0.25), from("right", -14.0, 0.25)]);
    assert_eq!(lights.len(), 1);
    // from one place they are two lights
    assert_eq!(fuse(vec![from("left", 14.0, 0.0), from("right", -14.0, 0.0)]).len(), 2);
}

#[test]
fn what_is_far_under_the_strongest_is_the_room() {
    let seen = |stops: f64, sd: f64| Seen {
        log_level: Some((stops * std::f64::consts::LN_2, sd)),
        ..sees("a", at(0.0, 0.0), 1.0, 0.0).seen
    };
    let all = [seen(0.0, 0.05), seen(-3.0, 0.05), seen(-5.5, 0.05), seen(-5.5, 2.0)];
    let most = strongest(all.iter()).expect("a level");
    assert_eq!(most, 0.0);
    let faint: Vec<bool> = all.iter().map(|s| too_faint(s, most)).collect();
    // five and a half stops under is the room, unless the level is a guess
    assert_eq!(faint, [false, false, true, false]);
    assert!(!too_faint(&Seen { log_level: None, ..all[0].clone() }, most), "without a level nothing is sure");
    assert_eq!(fuse(Vec::new()).len(), 0);
}
