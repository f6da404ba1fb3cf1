//! The mix that meets a target: against SciPy's NNLS, against pictures made from known factors, and what is said where it fails.

use optics::photo::{Photo, Samples};
use optics::tone::{Encoding, linear_to_srgb};
use plates::check::{Reason, check, plate};
use plates::light::Light;
use plates::mix::solve;
use proptest::prelude::*;

/// Noise that is the same each time: a number between 0 and 1 for a place.
pub fn chance(a: u32, b: u32) -> f64 {
    let mut x = a.wrapping_mul(0x9e37_79b1) ^ b.wrapping_mul(0x85eb_ca6b);
    for _ in 0..2 {
        x ^= x >> 16;
        x = x.wrapping_mul(0x7feb_352d);
        x ^= x >> 15;
    }
    f64::from(x >> 8) / f64::from(1u32 << 24)
}

pub const W: u32 = 240;
pub const H: u32 = 180;

/// Light of a lamp on a bumpy ball before a wall: Lambert's law, a coarse texture.
pub fn lit(lamp: [f64; 3], x: f64, y: f64) -> f64 {
    let n = lamp.iter().map(|v| v * v).sum::<f64>().sqrt();
    let (u, v) = ((x - 120.0) / 70.0, (y - 90.0) / 70.0);
    let r2 = u * u + v * v;
    let normal = if r2 < 1.0 { [u, -v, (1.0 - r2).sqrt()] } else { [0.0, 0.0, 1.0] };
    let cos = (0..3).map(|k| normal[k] * lamp[k] / n).sum::<f64>().max(0.0);
    let paint = 0.35 + 0.25 * (x / 9.0).sin() * (y / 7.0).cos() + if r2 < 1.0 { 0.2 } else { 0.0 };
    cos * paint
}

pub const LAMPS: [[f64; 3]; 4] = [[1.0, 0.6, 0.8], [-1.0, 0.2, 0.6], [0.1, 1.0, 0.2], [-0.4, -0.8, 0.5]];

/// A picture in 8-bit sRGB of a function of the place, with the photon noise of `well` electrons at white.
pub fn taken(of: impl Fn(f64, f64) -> f64, well: f64, seed: u32) -> Photo {
    let mut bytes = Vec::new();
    for i in 0..W * H {
        let v = of(f64::from(i % W) + 0.5, f64::from(i / W) + 0.5);
        for k in 0..3 {
            // a sum of uniform numbers is nearly normal
            let z = (0..6).map(|j| chance(i * 3 + k, seed * 7 + j)).sum::<f64>() - 3.0;
            let noisy = v + z * 1.41 * (v.max(0.0) / well).sqrt();
            bytes.push((255.0 * linear_to_srgb(noisy.clamp(0.0, 1.0))).round() as u8);
        }
    }
    Photo::new(W, H, Samples::U8(bytes), &Encoding::default()).expect("a picture")
}

fn lights(photos: &[Photo]) -> Vec<Light> {
    photos.iter().map(|p| Light::of(p, 1)).collect()
}

fn plates_taken(well: f64) -> Vec<Photo> {
    LAMPS.iter().enumerate().map(|(k, l)| taken(|x, y| lit(*l, x, y), well, k as u32 + 1)).collect()
}

fn mixed(weights: [f64; 4]) -> impl Fn(f64, f64) -> f64 {
    move |x, y| LAMPS.iter().zip(weights).map(|(l, w)| w * lit(*l, x, y)).sum()
}

/// Six rows of three unknowns; the answer is that of scipy.optimize.nnls (SciPy 1.17.1).
#[test]
fn non_negative_least_squares_as_scipy_has_it() {
    let a = [[0.8, 0.1, 0.3], [0.2, 0.9, 0.4], [0.5, 0.5, 0.1], [0.1, 0.2, 0.9], [0.7, 0.3, 0.6], [0.3, 0.8, 0.2]];
    let b = [1.0, 0.1, 0.5, 0.3, 1.1, 0.0];
    let m = nalgebra::DMatrix::from_fn(6, 3, |r, c| a[r][c]);
    let y = nalgebra::DVector::from_row_slice(&b);
    let x = optics::solve::nnls(&(m.transpose() * &m), &(m.transpose() * y));
    let scipy = [1.1164495114006516, 0.0, 0.1840390879478828];
    for (k, want) in scipy.iter().enumerate() {
        assert!((x[k] - want).abs() < 1e-9, "{k}: {} {want}", x[k]);
    }
}

/// Weights within 0.005 stop on noisy 8-bit pictures, a lamp that is off found to be off.
#[test]
fn the_factors_of_a_mix_come_back() {
    let plates = lights(&plates_taken(20_000.0));
    let refs: Vec<&Light> = plates.iter().collect();
    for weights in [[0.7, 0.35, 0.2, 0.1], [1.0, 0.0, 0.5, 0.25], [0.3, 0.02, 0.9, 0.0]] {
        let target = Light::of(&taken(mixed(weights), 20_000.0, 99), 1);
        let mix = solve(&target, &refs, None).expect("a mix");
        for (k, want) in weights.into_iter().enumerate() {
            match mix.stops[k] {
                None => assert_eq!(want, 0.0, "plate {k}"),
                Some(s) => {
                    let off = (s - want.log2()).abs();
                    assert!(off < if want < 0.05 { 0.03 } else { 0.005 }, "plate {k}: {off} of {want}");
                    assert!(off < 4.0 * mix.sd_stops[k].expect("a spread"), "plate {k}: {off} {:?}", mix.sd_stops[k]);
                }
            }
        }
        assert!(
            mix.residual_share < 0.02 && !mix.warnings.iter().any(|w| w.code == "unexplained"),
            "{:?}",
            mix.warnings
        );
    }
}

#[test]
fn a_dark_frame_is_taken_off_and_missed() {
    let room = 0.03;
    let plates: Vec<Light> = LAMPS
        .iter()
        .enumerate()
        .map(|(k, l)| Light::of(&taken(|x, y| lit(*l, x, y) + room, 20_000.0, k as u32), 1))
        .collect();
    let refs: Vec<&Light> = plates.iter().collect();
    let dark = Light::of(&taken(|_, _| room, 20_000.0, 50), 1);
    let sum = mixed([0.6, 0.3, 0.2, 0.1]);
    let target = Light::of(&taken(|x, y| sum(x, y) + room, 20_000.0, 51), 1);
    let with = solve(&target, &refs, Some(&dark)).expect("a mix");
    assert!((with.stops[0].expect("on") - 0.6f64.log2()).abs() < 0.01, "{:?}", with.stops);
    let without = solve(&target, &refs, None).expect("a mix");
    assert!(without.warnings.iter().any(|w| w.code == "dark_missing"), "{:?}", without.warnings);
    assert!(!with.warnings.iter().any(|w| w.code == "dark_missing"));
}

#[test]
fn one_picture_twice_is_named() {
    let photos = plates_taken(20_000.0);
    let plates = lights(&[photos[0].clone(), photos[1].clone(), photos[0].clone()]);
    let refs: Vec<&Light> = plates.iter().collect();
    let target = Light::of(&taken(mixed([0.5, 0.5, 0.0, 0.0]), 20_000.0, 9), 1);
    let mix = solve(&target, &refs, None).expect("a mix");
    let text = &mix.warnings.iter().find(|w| w.code == "plates_alike").expect("named").text;
    assert!(text.starts_with("Plates 1 and 3"), "{text}");
    assert!((mix.weights[0] + mix.weights[2] - 0.5).abs() < 0.01, "their sum is told: {:?}", mix.weights);
}

fn checked(all: &Light, plates: &[&Light], dark: Option<&Light>) -> plates::check::SumCheck {
    let names: Vec<String> = (1..=plates.len()).map(|k| format!("plate {k}")).collect();
    let found = plates.iter().zip(&names).map(|(p, n)| plate(p, dark, None, n)).collect();
    check(Some(all), plates, dark, found, &names).expect("checked")
}

/// Light adds: all lights on is the sum of each alone (superposition).
#[test]
fn a_sum_that_comes_out_and_one_that_does_not_say_why() {
    let plates = lights(&plates_taken(40_000.0));
    let refs: Vec<&Light> = plates.iter().collect();
    let quarter = |w: [f64; 4]| Light::of(&taken(mixed(w.map(|v| v * 0.25)), 40_000.0, 77), 1);
    let quarters: Vec<Light> = LAMPS
        .iter()
        .enumerate()
        .map(|(k, l)| Light::of(&taken(|x, y| 0.25 * lit(*l, x, y), 40_000.0, k as u32 + 30), 1))
        .collect();
    let quarter_refs: Vec<&Light> = quarters.iter().collect();
    let right = checked(&quarter([1.0; 4]), &quarter_refs, None);
    assert_eq!(right.reason, Reason::None, "{:?}", right.says);
    // the second lamp turned up by half a stop before all were switched on
    let turned = checked(&quarter([1.0, 1.41, 1.0, 1.0]), &quarter_refs, None);
    assert_eq!(turned.reason, Reason::Exposure, "{:?}", turned.says);
    assert!(turned.says[0].contains("plate 2 +0.5"), "{}", turned.says[0]);
    // a lamp without a plate
    let another = checked(&quarter([1.0; 4]), &quarter_refs[..3], None);
    assert!(matches!(another.reason, Reason::AnotherLight | Reason::Curve), "{:?}", another.says);
    assert!(another.left_over.expect("all on") > 0.05);
    // a plate of a lamp that was not on
    let absent = checked(&quarter([1.0, 1.0, 1.0, 0.0]), &quarter_refs, None);
    assert_eq!(absent.reason, Reason::LeftOn, "{:?}", absent.says);
    let _ = refs;
}

#[test]
fn pictures_of_other_sizes_and_clipped_ones_are_refused_with_a_sentence() {
    let photos = plates_taken(20_000.0);
    let (a, half) = (Light::of(&photos[0], 1), Light::of(&photos[1], 2));
    assert!(solve(&a, &[&half], None).unwrap_err().contains("not as large"));
    assert!(solve(&a, &[], None).unwrap_err().contains("no plate"));
    let white = Light::of(&taken(|_, _| 1.0, 1e9, 1), 1);
    assert!(solve(&white, &[&white], None).unwrap_err().contains("clipping"));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]
    /// Whatever the factors, a mix without noise gives them back, and never less than nothing.
    #[test]
    fn any_factors_come_back(w in proptest::array::uniform4(0.0..1.0f64)) {
        let linear = |of: &dyn Fn(f64, f64) -> f64| {
            let v: Vec<f32> = (0..W * H).flat_map(|i| [of(f64::from(i % W) + 0.5, f64::from(i / W) + 0.5) as f32; 3]).collect();
            Light::of(&Photo::new(W, H, Samples::Linear(v), &Encoding::default()).expect("a picture"), 3)
        };
        let plates: Vec<Light> = LAMPS.iter().map(|l| linear(&|x, y| lit(*l, x, y))).collect();
        let refs: Vec<&Light> = plates.iter().collect();
        let target = linear(&mixed(w));
        prop_assume!(w.iter().any(|v| *v > 0.2));
        let mix = solve(&target, &refs, None).expect("a mix");
        for (got, want) in mix.weights.iter().zip(w) {
            prop_assert!(*got >= 0.0 && (got - want).abs() < 5e-3, "{got} {want}");
        }
    }
}
