//! The tone curve from patches of known reflectance.

use evidence::marks::Marks;
use evidence::read::read;
use evidence::wedge::{Curve, WedgeProblem};
use optics::photo::{Photo, Samples};
use optics::tone::{Encoding, MIDDLE_GREY, linear_to_srgb};
use proptest::prelude::*;

/// Neutral row of the usual 24-patch chart by optical density (from memory of its published values).
const DENSITIES: [f64; 6] = [0.05, 0.23, 0.44, 0.70, 1.05, 1.50];

fn reflectances() -> Vec<f64> {
    DENSITIES.iter().map(|d| 10f64.powf(-d)).collect()
}

/// A camera of some contrast about middle grey with a shoulder: scene to encoded value.
fn camera(scene: f64, contrast: f64) -> f64 {
    let stops = (scene / MIDDLE_GREY).log2();
    let bent = contrast * stops - 0.04 * stops * stops;
    linear_to_srgb((MIDDLE_GREY * bent.exp2()).min(1.0))
}

/// Squares of 20 pixels in a row with these scene luminances.
fn row(scene: &[f64], contrast: f64, sixteen: bool) -> Photo {
    let (w, h) = (20 * scene.len(), 20);
    let value = |x: usize| camera(scene[x / 20], contrast);
    let all = (0..h).flat_map(|_| (0..w).flat_map(|x| [value(x); 3]));
    let samples = if sixteen {
        Samples::U16(all.map(|v| (v * 65535.0).round() as u16).collect())
    } else {
        Samples::U8(all.map(|v| (v * 255.0).round() as u8).collect())
    };
    Photo::new(w as u32, h as u32, samples, &Encoding::Srgb).unwrap()
}

fn square(i: usize) -> String {
    let (a, b) = (20 * i + 3, 20 * i + 17);
    format!("[[{a},3],[{b},3],[{b},17],[{a},17]]")
}

fn wedge_marks(reflectances: &[f64], more: &str) -> Marks {
    let patches: Vec<String> = reflectances
        .iter()
        .enumerate()
        .map(|(i, r)| format!(r#"{{"polygon":{},"reflectance":{r}}}"#, square(i)))
        .collect();
    let text = format!(
        r#"{{"format":"slant-marks/1","marks":[{{"id":"w1","kind":"wedge","patches":[{}]}}{more}]}}"#,
        patches.join(",")
    );
    Marks::parse(&text).unwrap()
}

fn curve(photo: &Photo, marks: &Marks) -> Result<Curve, WedgeProblem> {
    match &marks.marks[0].kind {
        evidence::marks::MarkKind::Wedge(evidence::marks::Wedge { patches }) => Curve::read(photo, patches),
        _ => unreachable!(),
    }
}

#[test]
fn the_curve_of_a_camera_comes_back() {
    let r = reflectances();
    for contrast in [0.8, 1.0, 1.3, 1.5] {
        // exposed half a stop under a full white
        let scene: Vec<f64> = r.iter().map(|v| v * 0.7).collect();
        let c = curve(&row(&scene, contrast, false), &wedge_marks(&r, "")).unwrap();
        // within the solid figure of 0.05 stop at the patches and of 0.1 between them
        for i in 0..40 {
            let s = scene[5] * (scene[0] / scene[5]).powf(i as f64 / 39.0);
            let nominal = Encoding::Srgb.to_linear(camera(s, contrast));
            let want = (s / scene[2]).log2();
            let pin = c.scene(Encoding::Srgb.to_linear(camera(scene[2], contrast)));
            let got = (c.scene(nominal) / pin).log2();
            assert!((got - want).abs() < 0.10, "contrast {contrast}: {got} for {want}");
        }
        assert!((c.contrast() - contrast).abs() < 0.12, "{} for {contrast}", c.contrast());
    }
}

#[test]
fn with_a_wedge_ratios_are_the_scenes() {
    let r = reflectances();
    // two patches of one material two stops apart, beside the wedge
    let mut scene: Vec<f64> = r.iter().map(|v| v * 0.7).collect();
    scene.extend([0.40, 0.10]);
    let photo = row(&scene, 1.4, false);
    let more = format!(
        r#",{{"id":"a","kind":"patch","role":"lit","polygon":{}}},{{"id":"b","kind":"patch","role":"shadow","polygon":{}}}"#,
        square(6),
        square(7)
    );
    let with = read(&photo, &wedge_marks(&r, &more), None, &|| &[]);
    let q = with.ratios.unwrap();
    assert!((q.lit_to_shadow_stops - 2.0).abs() < 0.06, "{q:?}");
    assert!(q.range_stops[1] - q.range_stops[0] < 0.3, "{q:?}");
    assert!(with.warnings.iter().all(|w| w.code != "tone_curve_unknown"));
    assert!(with.by_mark["w1"].says.starts_with("6 patches tell"), "{}", with.by_mark["w1"].says);
    // without it they are off, and the range reaches nearly to the truth
    let mut marks = wedge_marks(&r, &more);
    marks.marks[0].off = true;
    let q = read(&photo, &marks, None, &|| &[]).ratios.unwrap();
    assert!((q.lit_to_shadow_stops - 2.0).abs() > 0.4);
    assert!(q.range_stops[0] < 2.1 && q.range_stops[1] > 2.0, "{q:?}");
}

#[test]
fn what_gives_no_curve_is_said() {
    let r = reflectances();
    let scene: Vec<f64> = r.iter().map(|v| v * 0.7).collect();
    let photo = row(&scene, 1.0, false);
    assert_eq!(curve(&photo, &wedge_marks(&r[..2], "")).unwrap_err(), WedgeProblem::TooFew);
    let mut swapped = r.clone();
    swapped.swap(1, 3);
    assert_eq!(curve(&photo, &wedge_marks(&swapped, "")).unwrap_err(), WedgeProblem::OutOfOrder);
    let mut wrong = r.clone();
    wrong[0] = 90.0;
    assert_eq!(curve(&photo, &wedge_marks(&wrong, "")).unwrap_err(), WedgeProblem::Reflectance);
    let reading = read(&photo, &wedge_marks(&swapped, ""), None, &|| &[]);
    assert!(reading.warnings.iter().any(|w| w.code == "wedge_unread"));
    // overexposed: the clipped patches are left out
    let bright: Vec<f64> = r.iter().map(|v| v * 3.0).collect();
    let c = curve(&row(&bright, 1.0, false), &wedge_marks(&r, "")).unwrap();
    assert!(c.left_out >= 1 && c.used >= 3);
}

proptest! {
    /// Whatever the camera, the curve rises and differences of patches are those of their reflectances.
    #[test]
    fn the_curve_rises_and_meets_its_patches(contrast in 0.7f64..1.6, exposure in 0.3f64..0.9) {
        let r = reflectances();
        let scene: Vec<f64> = r.iter().map(|v| v * exposure).collect();
        let photo = row(&scene, contrast, true);
        let c = curve(&photo, &wedge_marks(&r, "")).unwrap();
        let mut last = 0.0;
        for i in 1..200 {
            let now = c.scene(f64::from(i) / 200.0);
            prop_assert!(now > last);
            last = now;
        }
        for w in c.points_stops().windows(2).zip(r.windows(2).rev()) {
            let want = (w.1[0] / w.1[1]).log2();
            prop_assert!((w.0[1][1] - w.0[0][1] - want).abs() < 0.005);
        }
    }
}
