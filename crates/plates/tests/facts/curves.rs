//! The camera's curve from the sum of plates: cameras whose curves are none of those that are tried; exposures that were not alike.

use crate::mixing::{H, LAMPS, W, chance, lit};
use optics::exposure::Settings;
use optics::photo::{Photo, Samples};
use optics::tone::Encoding;
use plates::check::{Reason, check, plate};
use plates::curve::curve_of_sum;
use plates::desk::{Desk, DeskPlate, exposed, in_camera};
use plates::light::Light;
use plates::mix::solve;
use proptest::prelude::*;

/// A camera: code of light, both 0 to 1.
type Camera = fn(f64) -> f64;

/// Plain power of 1/1.8, as old computers had it; of 1/2.6.
fn light_power(l: f64) -> f64 {
    l.powf(1.0 / 1.8)
}
fn dark_power(l: f64) -> f64 {
    l.powf(1.0 / 2.6)
}
/// Film: the paper's exponential shoulder on a power (Hurter and Driffield's straight part with a shoulder; common practice).
fn film(l: f64) -> f64 {
    (1.0 - (-2.2 * l.powf(1.15)).exp()).powf(1.0 / 2.1) / (1.0 - (-2.2f64).exp()).powf(1.0 / 2.1)
}
/// A picture style: smoothstep mixed into plain sRGB by a half.
fn punchy(l: f64) -> f64 {
    let v = optics::tone::linear_to_srgb(l);
    0.5 * v + 0.5 * v * v * (3.0 - 2.0 * v)
}

fn taken(of: impl Fn(f64, f64) -> f64, camera: Camera, seed: u32) -> Photo {
    let mut bytes = Vec::new();
    for i in 0..W * H {
        let v = of(f64::from(i % W) + 0.5, f64::from(i / W) + 0.5);
        for k in 0..3 {
            let z = (0..6).map(|j| chance(i * 3 + k, seed * 7 + j)).sum::<f64>() - 3.0;
            let noisy = v + z * 1.41 * (v.max(0.0) / 30_000.0).sqrt();
            bytes.push((255.0 * camera(noisy.clamp(0.0, 1.0))).round() as u8);
        }
    }
    Photo::new(W, H, Samples::U8(bytes), &Encoding::default()).expect("a picture")
}

/// Three lamps and their sum by a camera.
struct Shot {
    plates: Vec<Photo>,
    all: Photo,
}

impl Shot {
    fn by(camera: Camera) -> Shot {
        let scene = |k: usize, x: f64, y: f64| 0.28 * lit(LAMPS[k], x, y) + 0.004;
        let plates = (0..3).map(|k| taken(|x, y| scene(k, x, y), camera, k as u32 + 1)).collect();
        Shot { plates, all: taken(|x, y| (0..3).map(|k| scene(k, x, y)).sum(), camera, 9) }
    }
    fn under(&self, encoding: &Encoding) -> (Vec<Light>, Light) {
        let light = |p: &Photo| Light::of(&p.under(encoding), 1);
        (self.plates.iter().map(light).collect(), light(&self.all))
    }
    fn checked(&self, encoding: &Encoding) -> plates::check::SumCheck {
        let (plates, all) = self.under(encoding);
        let refs: Vec<&Light> = plates.iter().collect();
        let names: Vec<String> = (1..4).map(|k| format!("lamp {k}")).collect();
        let each = refs.iter().zip(&names).map(|(p, n)| plate(p, None, None, n)).collect();
        check(Some(&all), &refs, None, each, &names).expect("a check")
    }
}

const CAMERAS: [(&str, Camera); 4] =
    [("power 1.8", light_power), ("power 2.6", dark_power), ("film", film), ("punchy", punchy)];

/// Under the curve that is found the sum comes out, and each plate is worth what it is: nought stops.
#[test]
fn the_sum_tells_the_cameras_curve() {
    for (name, camera) in CAMERAS {
        let shot = Shot::by(camera);
        let plain = shot.checked(&Encoding::Srgb);
        let before = plain.left_over.expect("all on");
        let (plates, all) = shot.under(&Encoding::Srgb);
        let refs: Vec<&Light> = plates.iter().collect();
        let found = curve_of_sum(&all, &refs, None).expect("a curve");
        assert!(found.encoding.check().is_ok(), "{name}");
        let after = shot.checked(&found.encoding);
        let left = after.left_over.expect("all on");
        println!(
            "{name}: {:.1} % left over, {:.1} % with a contrast of {:.2} ± {:.2}",
            100.0 * before,
            100.0 * left,
            found.contrast,
            found.contrast_sd
        );
        assert!(left < 0.03 && left < 0.4 * before, "{name}: {left} of {before}");
        assert_eq!(after.reason, Reason::None, "{name}: {:?}", after.says);
        assert!(plain.reason == Reason::Curve && plain.says[0].contains("tone curve"), "{name}: {:?}", plain.says);
        // asked of unseen plates of heads: within 0.03 stop
        let (plates, all) = shot.under(&found.encoding);
        let mix = solve(&all, &plates.iter().collect::<Vec<_>>(), None).expect("a mix");
        println!("    weights off by {:.3?} stops", mix.stops.iter().flatten().collect::<Vec<_>>());
        for s in &mix.stops {
            assert!(s.expect("lit").abs() < 0.03, "{name}: {:?}", mix.stops);
        }
    }
}

/// The true contrast at middle grey lies within three stated spreads and a fifteenth.
#[test]
fn the_contrast_is_told_with_its_spread() {
    for (name, camera) in CAMERAS {
        let shot = Shot::by(camera);
        let (plates, all) = shot.under(&Encoding::Srgb);
        let found = curve_of_sum(&all, &plates.iter().collect::<Vec<_>>(), None).expect("a curve");
        // stops as taken over stops of the scene, a third of a stop either side of where grey is taken to be
        let grey =
            (0..4000).map(|k| f64::from(k) / 4000.0).find(|l| optics::tone::srgb_to_linear(camera(*l)) > 0.18).unwrap();
        let taken = |l: f64| optics::tone::srgb_to_linear(camera(l)).log2();
        let step = 2f64.powf(1.0 / 3.0);
        let contrast = (taken(grey * step) - taken(grey / step)) / (2.0 / 3.0);
        let off = (found.contrast / contrast).ln().abs();
        assert!(
            off < 0.067 + 3.0 * found.contrast_sd / found.contrast,
            "{name}: {} ± {} for {contrast}",
            found.contrast,
            found.contrast_sd
        );
    }
}

#[test]
fn a_sum_that_comes_out_needs_no_curve_and_one_lamp_tells_none() {
    let srgb = Shot::by(optics::tone::linear_to_srgb);
    let plain = srgb.checked(&Encoding::Srgb);
    assert_eq!((plain.reason, plain.curve), (Reason::None, None), "{:?}", plain.says);
    let (plates, all) = srgb.under(&Encoding::Srgb);
    assert_eq!(curve_of_sum(&all, &[&plates[0]], None), None);
    // a lamp beside black: nowhere do two add up
    let black = Light::of(&taken(|_, _| 0.0, light_power, 3), 1);
    assert_eq!(curve_of_sum(&plates[0], &[&plates[0], &black], None), None);
    // and for plain sRGB the curve is plain
    let found = curve_of_sum(&all, &plates.iter().collect::<Vec<_>>(), None).expect("a curve");
    assert!((found.contrast - 1.0).abs() < 0.03, "{}", found.contrast);
}

#[test]
fn a_lamp_without_a_plate_is_not_taken_for_a_curve() {
    let shot = Shot::by(optics::tone::linear_to_srgb);
    let (plates, all) = shot.under(&Encoding::Srgb);
    let refs: Vec<&Light> = plates[..2].iter().collect();
    let each = refs.iter().map(|p| plate(p, None, None, "lamp")).collect();
    let told = check(Some(&all), &refs, None, each, &[]).expect("a check");
    let best = curve_of_sum(&all, &refs, None).expect("the best there is");
    println!(
        "a lamp without a plate: {:.1} % left over, {:.1} % at best by a curve",
        100.0 * told.left_over.expect("all on"),
        100.0 * best.left_over
    );
    assert_eq!(told.curve, None, "{:?}", told.says);
    assert!(told.reason != Reason::None);
}

fn settings(f_number: f64, shutter_s: f64, iso: f64) -> Settings {
    Settings { f_number, shutter_s, iso }
}

fn desk(frames: &[&str]) -> Desk {
    let plate = |f: &&str| DeskPlate {
        frame: (*f).into(),
        name: (*f).into(),
        lamp: String::new(),
        stops: 0.0,
        mired: 0.0,
        mute: false,
        solo: false,
        mask: None,
    };
    Desk { plates: frames.iter().map(plate).collect(), ..Desk::default() }
}

/// Engraved numbers are rounded: f/5.6 to f/8 is one stop, 1/60 to 1/125 another, ISO 100 to 125 a third (ISO 2720; common practice).
#[test]
fn exposures_are_told_in_thirds_as_cameras_step() {
    let d = desk(&["a", "b", "c", "d", "e", "f"]);
    let of = |id: &str| match id {
        "a" => Some(settings(8.0, 1.0 / 125.0, 100.0)),
        "b" => Some(settings(5.6, 1.0 / 125.0, 100.0)),
        "c" => Some(settings(8.0, 1.0 / 60.0, 100.0)),
        "d" => Some(settings(8.0, 1.0 / 125.0, 125.0)),
        "e" => Some(settings(11.0, 1.0 / 125.0, 200.0)),
        _ => None,
    };
    let told: Vec<(String, f64)> = exposed(&d, of).into_iter().map(|e| (e.frame, e.stops)).collect();
    let third = 1.0 / 3.0;
    assert_eq!(
        told,
        [("b".to_owned(), 1.0), ("c".to_owned(), 1.0), ("d".to_owned(), third)],
        "f/11 at ISO 200 is the same"
    );
    // half stops are left as they are, and nothing is told where no file says anything
    let half =
        exposed(&desk(&["a", "b"]), |id| Some(settings(8.0, if id == "a" { 0.1 } else { 0.1 * 2f64.sqrt() }, 100.0)));
    assert!((half[0].stops - 0.5).abs() < 1e-9, "{half:?}");
    assert!(exposed(&d, |_| None).is_empty());
    // what most share is the common one, wherever the odd one lies
    for odd in ["a", "c", "f"] {
        let told = exposed(&d, |id| Some(settings(8.0, if id == odd { 1.0 / 60.0 } else { 1.0 / 125.0 }, 100.0)));
        assert_eq!(told.iter().map(|e| (e.frame.as_str(), e.stops)).collect::<Vec<_>>(), [(odd, 1.0)]);
    }
}

/// The picture with all lights on is what the others are counted from, and the dark frame is brought to it as well.
#[test]
fn the_picture_with_all_lights_on_is_the_common_one() {
    let d = Desk { all_on: Some("all".into()), dark: Some("dark".into()), ..desk(&["a", "b"]) };
    let of = |id: &str| Some(settings(8.0, if id == "all" { 1.0 / 15.0 } else { 1.0 / 60.0 }, 100.0));
    let told = exposed(&d, of);
    assert_eq!(told.len(), 3);
    assert!(told.iter().all(|e| e.stops == -2.0 && e.frame != "all"), "{told:?}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]
    /// A plate exposed more and brought back adds up as if it had been exposed alike.
    #[test]
    fn undone_exposures_add_up(over in -1.0f64..1.0) {
        let scene = |k: usize, x: f64, y: f64| 0.2 * lit(LAMPS[k], x, y) + 0.01;
        let srgb: Camera = optics::tone::linear_to_srgb;
        let a = taken(|x, y| scene(0, x, y), srgb, 1);
        let b = taken(|x, y| over.exp2() * scene(1, x, y), srgb, 2).exposed((-over).exp2() as f32);
        let all = Light::of(&taken(|x, y| scene(0, x, y) + scene(1, x, y), srgb, 5), 1);
        let plates = [Light::of(&a, 1), Light::of(&b, 1)];
        let mix = solve(&all, &plates.iter().collect::<Vec<_>>(), None).unwrap();
        for s in &mix.stops {
            prop_assert!(s.unwrap().abs() < 0.03, "{:?}", mix.stops);
        }
    }

    /// In one exposure lamps make up for what the camera let in more: as taken, a plate mixed as it is asks its lamp for its exposure too.
    #[test]
    fn a_lamp_makes_up_for_the_exposure(over in -2.0f64..2.0, level in -3.0f64..1.0) {
        let mut d = desk(&["a", "b"]);
        d.plates[1].stops = level;
        let told = [plates::desk::Exposed { frame: "b".into(), stops: over }];
        let undone = in_camera(&d, Some(0.5), &told);
        prop_assert!((undone[1].stops.unwrap() - level).abs() < 1e-12);
        d.as_taken = true;
        let as_taken = in_camera(&d, Some(0.5), &told);
        prop_assert!((as_taken[1].stops.unwrap() - level - over).abs() < 1e-12);
        prop_assert!((as_taken[1].seconds.unwrap() / 0.5 - (level + over).exp2()).abs() < 1e-9);
        prop_assert_eq!(as_taken[0].stops, Some(0.0));
    }
}

/// A linear picture and a coded one are brought to an exposure alike, and what is clipped stays so.
#[test]
fn a_factor_on_light_is_one_whatever_the_samples() {
    let codes = vec![0u8, 60, 120, 254, 255, 30];
    let coded = Photo::new(2, 1, Samples::U8(codes), &Encoding::Srgb).unwrap();
    let linear: Vec<f32> = (0..2).flat_map(|x| coded.rgb(x, 0)).collect();
    let linear = Photo::new(2, 1, Samples::Linear(linear), &Encoding::Srgb).unwrap();
    for (a, b) in [(coded.exposed(0.25), &coded), (linear.exposed(0.25), &linear)] {
        for x in 0..2 {
            for c in 0..3 {
                assert!((a.rgb(x, 0)[c] - 0.25 * b.rgb(x, 0)[c]).abs() < 1e-7);
            }
        }
    }
    assert!(coded.exposed(0.25).get(1, 0).unwrap().clipped && !coded.exposed(4.0).get(0, 0).unwrap().clipped);
}

/// A camera of another curve whose first plate was exposed more: what was let in more is undone of the light, not of the codes.
#[test]
fn a_curve_is_told_from_plates_that_were_exposed_otherwise() {
    let scene = |k: usize, x: f64, y: f64| 0.24 * lit(LAMPS[k], x, y) + 0.004;
    let over = [1.0f64, 0.0, -1.0];
    let plates: Vec<Light> = (0..3)
        .map(|k| taken(|x, y| over[k].exp2() * scene(k, x, y), punchy, k as u32 + 1))
        .zip(over)
        .map(|(p, o)| Light::of(&p, 1).exposed((-o).exp2() as f32))
        .collect();
    let all = Light::of(&taken(|x, y| (0..3).map(|k| scene(k, x, y)).sum(), punchy, 9), 1);
    let found = curve_of_sum(&all, &plates.iter().collect::<Vec<_>>(), None).expect("a curve");
    let alike = {
        let shot = Shot::by(punchy);
        let (plates, all) = shot.under(&Encoding::Srgb);
        curve_of_sum(&all, &plates.iter().collect::<Vec<_>>(), None).expect("a curve")
    };
    assert!(found.left_over < 0.015, "{}", found.left_over);
    assert!((found.contrast / alike.contrast).ln().abs() < 0.04, "{} for {}", found.contrast, alike.contrast);
    // a factor that is taken back is none
    assert_eq!(plates[1].exposed(2.0).exposed(0.5), plates[1]);
}
