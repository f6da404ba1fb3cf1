//! The tone curve from a bracketed series, on made pictures whose curve is known.

use evidence::bracket::{BracketProblem, merge, recover};
use optics::photo::{Photo, Samples};
use optics::tone::{Encoding, MIDDLE_GREY, linear_to_srgb, srgb_to_linear};

/// A camera with contrast at grey and a shoulder: scene light to a value of 255.
fn exact(scene: f64, contrast: f64) -> f64 {
    let stops = (scene.max(1e-6) / MIDDLE_GREY).log2();
    let bent = contrast * stops - if stops > 0.0 { 0.12 * stops * stops } else { 0.0 };
    255.0 * linear_to_srgb((MIDDLE_GREY * bent.exp2()).min(1.0))
}

/// A scene of smooth fields of brightness over eight stops, seen at an exposure.
fn frame(exposure: f64, contrast: f64, moved: f64) -> Photo {
    let (w, h) = (240u32, 160u32);
    let mut rgb = Vec::new();
    for y in 0..h {
        for x in 0..w {
            let (u, v) = ((f64::from(x) + moved) / 240.0, f64::from(y) / 160.0);
            let stops = 8.0 * (0.5 + 0.35 * (5.0 * u).sin() * (3.0 * v).cos() + 0.15 * (u - v)) - 5.5;
            let scene = MIDDLE_GREY * stops.exp2();
            rgb.extend([1.1, 1.0, 0.8].map(|k| exact(k * scene * exposure, contrast).round() as u8));
        }
    }
    Photo::new(w, h, Samples::U8(rgb), &Encoding::Srgb).unwrap()
}

#[test]
fn a_bracketed_series_gives_back_the_camera_s_curve() {
    // Debevec & Malik 1997 on a synthetic bracket: relative light within 2 % over the middle of the range.
    for contrast in [1.0, 1.25] {
        let exposures = [0.25, 0.5, 1.0, 2.0, 4.0];
        let photos = exposures.map(|e| frame(e, contrast, 0.0));
        let frames: Vec<(&Photo, f64)> = photos.iter().zip(exposures).collect();
        let curve = recover(&frames).unwrap();
        let encoding = curve.encoding();
        encoding.check().unwrap();
        let truth = |z: f64| {
            let (mut lo, mut hi) = (1e-4, 4.0);
            for _ in 0..60 {
                let mid = f64::sqrt(lo * hi);
                if exact(mid, contrast) < z { lo = mid } else { hi = mid }
            }
            lo
        };
        let grey = exact(MIDDLE_GREY, contrast) / 255.0;
        let off = |z: f64| (encoding.to_linear(z / 255.0) / encoding.to_linear(grey)) / (truth(z) / MIDDLE_GREY) - 1.0;
        let worst = (40..=200).map(|z| off(f64::from(z)).abs()).fold(0.0, f64::max);
        assert!(worst < 0.02, "contrast {contrast}: {:.1} %", 100.0 * worst);
        assert!(curve.spread_stops < 0.05, "{curve:?}");
    }
}

#[test]
fn plain_srgb_comes_out_as_plain_srgb() {
    let exposures = [0.4, 1.0, 2.5];
    let photos = exposures.map(|e| frame(e, 1.0, 0.0));
    let frames: Vec<(&Photo, f64)> = photos.iter().zip(exposures).collect();
    let e = recover(&frames).unwrap().encoding();
    for v in [0.2, 0.35, 0.46] {
        let off = e.to_linear(v) / srgb_to_linear(v) - 1.0;
        assert!(off.abs() < 0.03, "{v}: {off}");
    }
}

#[test]
fn a_series_that_is_none_is_refused_in_words() {
    let one = frame(1.0, 1.0, 0.0);
    assert_eq!(recover(&[(&one, 1.0)]).unwrap_err(), BracketProblem::TooFew);
    assert_eq!(recover(&[(&one, 1.0), (&one, 1.1)]).unwrap_err(), BracketProblem::TooFew);
    let small = trial::paint(20, 20, |_, _| 0.2);
    assert!(matches!(recover(&[(&one, 1.0), (&small, 2.0)]).unwrap_err(), BracketProblem::Sizes(_)));
    // settings the wrong way round
    let (dark, bright) = (frame(0.5, 1.0, 0.0), frame(2.0, 1.0, 0.0));
    assert_eq!(recover(&[(&dark, 4.0), (&bright, 1.0)]).unwrap_err(), BracketProblem::Contradiction);
}

/// Light of the scene of [`frame`] at a pixel, in units of white at exposure one.
fn light(x: u32, y: u32) -> f64 {
    let (u, v) = (f64::from(x) / 240.0, f64::from(y) / 160.0);
    let stops = 8.0 * (0.5 + 0.35 * (5.0 * u).sin() * (3.0 * v).cos() + 0.15 * (u - v)) - 5.5;
    MIDDLE_GREY * stops.exp2()
}

/// Merged through the curve that the series itself gives, light comes out as it was over more stops than any one frame holds:
/// within a twentieth of a stop in the root mean square where no frame is clipped or black, up to one scale.
#[test]
fn a_merged_series_holds_the_light_of_all() {
    let exposures = [1.0 / 16.0, 0.25, 1.0, 4.0, 16.0];
    let photos = exposures.map(|e| frame(e, 1.2, 0.0));
    let frames: Vec<(&Photo, f64)> = photos.iter().zip(exposures).collect();
    let curve = recover(&frames).unwrap().encoding();
    let read: Vec<Photo> = photos.iter().map(|p| p.under(&curve)).collect();
    let merged = merge(&read.iter().zip(exposures).collect::<Vec<_>>()).unwrap();
    assert_eq!((merged.width, merged.height, merged.middle), (240, 160, 2));
    let mut off = Vec::new();
    for y in (0..160).step_by(3) {
        for x in (0..240).step_by(3) {
            let got = f64::from(merged.rgb[3 * (y as usize * 240 + x as usize) + 1]);
            off.push((got / light(x, y)).log2());
        }
    }
    let mean = off.iter().sum::<f64>() / off.len() as f64;
    let rms = (off.iter().map(|o| (o - mean).powi(2)).sum::<f64>() / off.len() as f64).sqrt();
    assert!(rms < 0.05, "{rms:.3} stops");
    assert!(merged.clipped < 0.001, "{}", merged.clipped);
    let (low, high) = merged.rgb.iter().fold((f32::MAX, 0.0f32), |(l, h), v| (l.min(*v), h.max(*v)));
    assert!((high / low).log2() > 7.0, "{low} to {high}");
}

/// What every frame clips is said, and is at least as bright as the shortest says.
#[test]
fn what_no_frame_holds_is_said() {
    let white = |over: f64| trial::paint(90, 60, |x, _| if x < 45.0 { over * 0.2 } else { 1.2 * over });
    let (short, long) = (white(1.0), white(2.0));
    let merged = merge(&[(&short, 1.0), (&long, 2.0)]).unwrap();
    assert!((merged.clipped - 0.5).abs() < 0.02, "{}", merged.clipped);
    assert!(merged.rgb.iter().all(|v| v.is_finite() && *v >= 0.0));
}

#[test]
fn what_is_no_series_is_not_merged() {
    let one = frame(1.0, 1.0, 0.0);
    assert_eq!(merge(&[(&one, 1.0)]).unwrap_err(), BracketProblem::TooFew);
    let small = trial::paint(20, 20, |_, _| 0.2);
    assert!(matches!(merge(&[(&one, 1.0), (&small, 2.0)]).unwrap_err(), BracketProblem::Sizes(_)));
    // the same picture twice, said to be two stops apart
    assert_eq!(merge(&[(&one, 1.0), (&one, 4.0)]).unwrap_err(), BracketProblem::Contradiction);
}
