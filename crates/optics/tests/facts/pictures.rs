//! What samples of a picture mean: published curves, clipping, exposure statistics.

use optics::photo::{Meter, Photo, Samples, luminance};
use optics::tone::{
    Encoding, MIDDLE_GREY, SrgbBytes, ToneFamily, acescct_to_linear, bt709_to_linear, hlg_to_linear, linear_to_srgb,
    srgb_to_linear, stops_between,
};
use proptest::prelude::*;

fn near(a: f64, b: f64, within: f64) {
    assert!((a - b).abs() <= within, "{a} for {b}");
}

/// Values that standards print, or that follow from their formulas at round places.
#[test]
fn curves_have_their_published_values() {
    // IEC 61966-2-1: the two parts meet; code 128 of 255 is 21.6 % of light, half the light is code 188 (worked from the formula)
    near(srgb_to_linear(0.04045), 0.003_130_8, 1e-6);
    near(srgb_to_linear(128.0 / 255.0), 0.2159, 1e-4);
    near(255.0 * linear_to_srgb(0.5), 187.5, 0.1);
    near(255.0 * linear_to_srgb(0.18), 117.6, 0.1);
    // ITU-R BT.709-6, 1.2: V = 4.5 L under 0.018, 1.099 L^0.45 - 0.099 above
    near(bt709_to_linear(4.5 * 0.01), 0.01, 1e-12);
    near(bt709_to_linear(1.099 * 0.18f64.powf(0.45) - 0.099), 0.18, 1e-12);
    // ITU-R BT.2100-2, table 5: half the signal is a twelfth of the light; full signal all of it
    near(hlg_to_linear(0.5), 1.0 / 12.0, 1e-12);
    near(hlg_to_linear(1.0), 1.0, 1e-6);
    // ITU-R BT.2408: reference white is 75 % signal, 26.5 % of the peak's scene light
    near(hlg_to_linear(0.75), 0.265, 0.0005);
    near(Encoding::Hlg.to_linear(0.75), 1.0, 1e-12);
    // Academy S-2016-001, appendix: 18 % grey is 0.4135884, one is 0.554795, black 0.0729055
    near(acescct_to_linear(0.413_588_4), 0.18, 1e-6);
    near(acescct_to_linear(0.554_794_52), 1.0, 1e-5);
    near(acescct_to_linear(0.072_905_534), 0.0, 1e-8);
    // weights of ITU-R BT.709 sum to one
    near(luminance([1.0, 1.0, 1.0]), 1.0, 1e-9);
    near(luminance([0.0, 1.0, 0.0]), 0.7152, 1e-7);
}

const CURVES: [Encoding; 6] =
    [Encoding::Srgb, Encoding::Linear, Encoding::Bt709, Encoding::Hlg, Encoding::Acescct, Encoding::Gamma(2.2)];

proptest! {
    /// More signal is never less light, under any curve.
    #[test]
    fn more_signal_is_more_light(a in 0.0f64..1.0, more in 0.0f64..0.5) {
        let b = (a + more).min(1.0);
        for e in &CURVES {
            prop_assert!(e.to_linear(a) <= e.to_linear(b) + 1e-12, "{e:?}");
            prop_assert!(e.to_linear(a).is_finite() && e.to_linear(a) >= 0.0, "{e:?}");
        }
    }

    /// Coding and decoding give back what went in, and the table gives the same byte as the formula.
    #[test]
    fn srgb_there_and_back(l in 0.0f64..1.0) {
        prop_assert!((srgb_to_linear(linear_to_srgb(l)) - l).abs() < 1e-7);
        let byte = f64::from(SrgbBytes::default().of(l as f32));
        prop_assert!((byte - 255.0 * linear_to_srgb(l)).abs() <= 0.55, "{byte} for {}", 255.0 * linear_to_srgb(l));
    }

    /// A measured curve goes through its points, straight between them, and level beyond.
    #[test]
    fn a_measured_curve_goes_through_its_points(steps in proptest::collection::vec((0.02f64..0.2, 0.0f64..0.3), 2..8), t in 0.0f64..1.0) {
        let mut at = [0.05, 0.0];
        let points: Vec<[f64; 2]> = steps.iter().map(|(x, y)| { at = [at[0] + x, at[1] + y]; at }).collect();
        let curve = Encoding::Curve(points.clone());
        prop_assert!(curve.check().is_ok());
        for p in &points {
            prop_assert!((curve.to_linear(p[0]) - p[1]).abs() < 1e-9);
        }
        let (a, b) = (points[0], points[1]);
        prop_assert!((curve.to_linear(a[0] + t * (b[0] - a[0])) - (a[1] + t * (b[1] - a[1]))).abs() < 1e-9);
        prop_assert_eq!(curve.to_linear(-1.0), points[0][1]);
        prop_assert_eq!(curve.to_linear(9.0), points[points.len() - 1][1]);
    }

    /// The range over the family of curves holds the nominal figure, and turns round with its sides; a calibrated picture has none.
    #[test]
    fn stops_have_a_range_that_holds_them(a in 0.002f64..0.9, b in 0.002f64..0.9) {
        let (n, lo, hi) = stops_between(a, b, false);
        prop_assert!((n - (a / b).log2()).abs() < 1e-12 && lo <= n && n <= hi);
        let (m, low, high) = stops_between(b, a, false);
        prop_assert!((m + n).abs() < 1e-9 && (low + hi).abs() < 1e-9 && (high + lo).abs() < 1e-9);
        prop_assert_eq!(stops_between(a, b, true), (n, n, n));
    }

    /// Every member of the family leaves middle grey where it is and never turns darker into brighter.
    #[test]
    fn curves_of_the_family_rise(s in -6.0f64..2.4, more in 0.01f64..1.0) {
        for t in ToneFamily::ALL {
            prop_assert!(t.scene_stops(s + more) > t.scene_stops(s), "{t:?} at {s}");
            prop_assert!(t.scene_stops(0.0).abs() < 1e-12);
        }
    }

    /// A grey picture meters as what it is: an eighth of a stop wide, over the whole range of eight bits.
    #[test]
    fn a_grey_picture_meters_as_it_is(code in 8u8..250) {
        let photo = Photo::new(20, 10, Samples::U8(vec![code; 600]), &Encoding::Srgb).unwrap();
        let stops = (srgb_to_linear(f64::from(code) / 255.0) / MIDDLE_GREY).log2();
        let m = photo.meter();
        prop_assert!((m.median_stops() - stops).abs() < 0.15, "{} for {stops}", m.median_stops());
        prop_assert_eq!(m.histogram.iter().sum::<u64>(), 200);
        prop_assert_eq!(m.histogram.len(), Meter::BINS);
        prop_assert!(m.clipped_fraction == 0.0 && m.black_fraction == 0.0 && m.clipped_areas.is_empty());
    }

    /// Between pixels light is straight: a ramp stays one; outside there is nothing.
    #[test]
    fn between_pixels_light_runs_straight(x in 0.5f64..29.4, y in 0.5f64..19.4) {
        let ramp: Vec<f32> = (0..20).flat_map(|y| (0..30).flat_map(move |x| [(0.01 * x as f32 + 0.002 * y as f32); 3])).collect();
        let photo = Photo::new(30, 20, Samples::Linear(ramp), &Encoding::Srgb).unwrap();
        let want = 0.01 * (x - 0.5) + 0.002 * (y - 0.5);
        prop_assert!((photo.luminance_between(x, y).unwrap() - want).abs() < 1e-5);
        prop_assert!(photo.luminance_between(-1.0, y).is_none() && photo.luminance_between(x, 30.0).is_none());
    }
}

#[test]
fn sums_of_a_row_are_its_pixels() {
    let bytes: Vec<u8> = (0..7 * 3 * 3).map(|k| (k * 11 % 256) as u8).collect();
    let photo = Photo::new(7, 3, Samples::U8(bytes), &Encoding::Srgb).unwrap();
    for y in 0..3u32 {
        let mut sums = vec![([0.0f32; 3], false); 3];
        photo.add_row(y, 3, &mut sums);
        for (k, (sum, clipped)) in sums.iter().enumerate() {
            let own: Vec<_> = (3 * k..(3 * k + 3).min(7)).map(|x| photo.get(x as i64, i64::from(y)).unwrap()).collect();
            for (c, value) in sum.iter().enumerate() {
                let want: f32 = own.iter().map(|s| s.rgb[c]).sum();
                assert!((value - want).abs() < 1e-6);
            }
            assert_eq!(*clipped, own.iter().any(|s| s.clipped));
        }
    }
}

#[test]
fn burnt_parts_are_boxed_and_the_largest_comes_first() {
    let (w, h) = (200usize, 100usize);
    let mut bytes = vec![90u8; 3 * w * h];
    let mut burn = |x: std::ops::Range<usize>, y: std::ops::Range<usize>| {
        for (x, y) in y.flat_map(|y| x.clone().map(move |x| (x, y))) {
            bytes[3 * (y * w + x)] = 255;
        }
    };
    burn(10..20, 10..20);
    burn(100..160, 40..80);
    let m = Photo::new(200, 100, Samples::U8(bytes), &Encoding::Srgb).unwrap().meter();
    near(m.clipped_fraction, 2500.0 / 20_000.0, 1e-9);
    assert_eq!(m.clipped_areas.len(), 2);
    assert_eq!((m.clipped_areas[0].from, m.clipped_areas[0].to), ([100.0, 40.0], [160.0, 80.0]));
    assert_eq!((m.clipped_areas[1].from, m.clipped_areas[1].to), ([10.0, 10.0], [20.0, 20.0]));
    near(m.clipped_areas[0].share, 2400.0 / 20_000.0, 1e-9);
    // no more than are kept, however many there are
    let spots: Vec<u8> =
        (0..200 * 200).flat_map(|i| [if i / 200 % 10 < 4 && i % 10 < 4 { 255u8 } else { 20 }; 3]).collect();
    let m = Photo::new(200, 200, Samples::U8(spots), &Encoding::Srgb).unwrap().meter();
    assert_eq!(m.clipped_areas.len(), Meter::AREAS);
}

#[test]
fn samples_of_any_depth_mean_the_same_light() {
    let codes = [0u8, 17, 117, 200, 255];
    let eight = Photo::new(5, 1, Samples::U8(codes.iter().flat_map(|c| [*c; 3]).collect()), &Encoding::Srgb).unwrap();
    let sixteen: Vec<u16> = codes.iter().flat_map(|c| [u16::from(*c) * 257; 3]).collect();
    let sixteen = Photo::new(5, 1, Samples::U16(sixteen), &Encoding::Srgb).unwrap();
    let linear: Vec<f32> = codes.iter().flat_map(|c| [srgb_to_linear(f64::from(*c) / 255.0) as f32; 3]).collect();
    let linear = Photo::new(5, 1, Samples::Linear(linear), &Encoding::Srgb).unwrap();
    for x in 0..5 {
        let all = [&eight, &sixteen, &linear].map(|p| p.luminance_at(x, 0));
        near(all[1], all[0], 1e-5);
        near(all[2], all[0], 1e-5);
        assert_eq!(eight.rgb(x as u32, 0), eight.get(x, 0).unwrap().rgb);
    }
    // a code of eight bits is coarser than one of sixteen, and coarsest in the light (one step of 255)
    let sd = |p: &Photo, x: i64| p.get(x, 0).unwrap().coding_sd;
    assert!(sd(&eight, 2) > 100.0 * sd(&sixteen, 2) && sd(&eight, 4) > sd(&eight, 1));
    // a linear picture may hold more than white and stays what it is under another curve
    let hot = Photo::new(1, 1, Samples::Linear(vec![4.0; 3]), &Encoding::Srgb).unwrap();
    assert!(hot.is_linear() && !hot.get(0, 0).unwrap().clipped);
    near(hot.under(&Encoding::Gamma(2.2)).luminance_at(0, 0), 4.0, 1e-6);
    near(eight.under(&Encoding::Linear).luminance_at(2, 0), 117.0 / 255.0, 1e-6);
    assert_eq!(eight.luminance_at(-1, 0) + eight.luminance_at(9, 9), 0.0);
}

#[test]
fn what_cannot_be_is_refused_in_words() {
    let refused =
        |w, h, n: usize| Photo::new(w, h, Samples::U8(vec![0; n]), &Encoding::Srgb).map(|p| p.width()).unwrap_err();
    assert!(refused(2, 2, 11).contains("needs 12 samples, found 11"));
    assert!(refused(0, 4, 0).contains("0 x 4"));
    assert!(refused(u32::MAX, u32::MAX, 3).contains("found 3"));
    for g in [0.0, -1.0, 9.0, f64::NAN, f64::INFINITY] {
        assert!(Encoding::Gamma(g).check().unwrap_err().contains("0.2 to 6"), "{g}");
    }
    assert!(Encoding::Curve(vec![[0.0, 0.0]]).check().unwrap_err().contains("two"));
    for falls in [vec![[0.0, 0.5], [0.5, 0.2]], vec![[0.5, 0.0], [0.5, 1.0]], vec![[0.0, f64::NAN], [1.0, 1.0]]] {
        assert!(Encoding::Curve(falls).check().unwrap_err().contains("rising"));
    }
    assert!(CURVES.iter().all(|e| e.check().is_ok()));
    // only a declared or measured curve is trusted for ratios
    let trusted: Vec<bool> = CURVES.iter().map(Encoding::is_calibrated).collect();
    assert_eq!(trusted, [false, true, false, true, true, true]);
}
