//! Bodies of revolution drawn here by the law of reflection, traced and read again.

use direction::silhouette::{DRAWN, FOUND, SilhouetteProblem, trace};
use direction::turned::Turned;
use optics::geometry::Camera;
use optics::photo::{Photo, Samples};
use optics::tone::Encoding;

/// Half widths of a bottle over shares of its height: body, a shoulder whose slope grows evenly to forty degrees, neck.
fn bottle() -> Vec<[f64; 2]> {
    let mut out = vec![[0.0, 70.0], [0.55, 70.0]];
    let (mut r, rows) = (70.0, 120);
    for k in 1..=rows {
        let t = f64::from(k) / f64::from(rows);
        r -= 0.25 / f64::from(rows) * HIGH * (40.0 * t).to_radians().tan();
        out.push([0.55 + 0.25 * t, r]);
    }
    out.push([0.85, r]);
    out.push([1.0, r]);
    out
}

const HIGH: f64 = 420.0;
const FOOT: [f64; 2] = [150.0, 470.0];
const HEAD: [f64; 2] = [150.0, 50.0];

/// A source between two azimuths that reaches so high, degrees.
struct Source {
    from: f64,
    to: f64,
    top: f64,
}

fn draw(sources: &[Source], ground: f32, behind: f32) -> Photo {
    let (w, h) = (300u32, 520u32);
    let profile = bottle();
    let turned = Turned::new([FOOT, HEAD], &profile).unwrap();
    let camera = Camera::far(w, h);
    let mut samples = Vec::new();
    for y in 0..h {
        for x in 0..w {
            // four by four places of a pixel
            let mut sum = 0.0;
            for k in 0..16 {
                let (px, py) =
                    (f64::from(x) + 0.125 + 0.25 * f64::from(k % 4), f64::from(y) + 0.125 + 0.25 * f64::from(k / 4));
                let t = (FOOT[1] - py) / HIGH;
                let s = if (0.0..1.0).contains(&t) { (px - FOOT[0]) / turned.radius(t) } else { 2.0 };
                sum += if s.abs() >= 1.0 {
                    behind
                } else {
                    let [az, el] = turned.mirrored(camera, t, s).map(f64::to_degrees);
                    let lit = sources.iter().any(|o| az > o.from && az < o.to && el < o.top);
                    if lit { 0.6 } else { ground }
                };
            }
            samples.extend([sum / 16.0; 3]);
        }
    }
    Photo::new(w, h, Samples::Linear(samples), &Encoding::Srgb).unwrap()
}

#[test]
fn lines_are_read_where_they_were_drawn() {
    let sources = [Source { from: -62.0, to: -40.0, top: 80.0 }, Source { from: 30.0, to: 41.0, top: 30.0 }];
    let photo = draw(&sources, 0.05, 0.25);
    let read = Turned::new([FOOT, HEAD], &bottle()).unwrap().read(&photo, Camera::far(300, 520)).unwrap();
    assert_eq!(read.lines.len(), 2, "{read:?}");
    for (l, s) in read.lines.iter().zip(&sources) {
        let (from, to) = (l.strip.from.to_degrees(), l.strip.to.to_degrees());
        assert!((from - s.from).abs() < 1.0 && (to - s.to).abs() < 1.0, "{from} to {to}");
        assert!(l.rows[0] < 0.05 && l.rows[1] > 0.5, "seen over the whole body: {:?}", l.rows);
    }
    // the tall one goes on over all of the shoulder, the low one breaks where what is mirrored stands 30 degrees up
    let tops = read.lines.iter().map(|l| l.top.unwrap()).collect::<Vec<_>>();
    assert!(tops[0].open, "{tops:?}");
    assert!(!tops[1].open && (tops[1].elevation.to_degrees() - 30.0).abs() < 2.0 * tops[1].sd.to_degrees(), "{tops:?}");
    assert!((tops[1].elevation.to_degrees() - 30.0).abs() < 6.0, "{tops:?}");
}

#[test]
fn a_weak_line_beside_a_bright_one_is_read() {
    let mut photo = draw(&[Source { from: -60.0, to: -40.0, top: 80.0 }], 0.05, 0.25);
    // a tenth of the first one's light
    let weak = draw(&[Source { from: 25.0, to: 40.0, top: 80.0 }], 0.05, 0.25);
    let mut all = Vec::new();
    for y in 0..520 {
        for x in 0..300 {
            let (a, b) = (photo.rgb(x, y), weak.rgb(x, y));
            all.extend((0..3).map(|k| if b[k] > 0.3 { a[k] + 0.11 * b[k] } else { a[k] }));
        }
    }
    photo = Photo::new(300, 520, Samples::Linear(all), &Encoding::Srgb).unwrap();
    let read = Turned::new([FOOT, HEAD], &bottle()).unwrap().read(&photo, Camera::far(300, 520)).unwrap();
    assert_eq!(read.lines.len(), 2, "{:?}", read.lines);
    assert!((read.lines[1].strip.middle_deg() - 32.5).abs() < 1.5);
}

#[test]
fn an_outline_is_traced_from_its_axis() {
    let photo = draw(&[Source { from: -60.0, to: -40.0, top: 40.0 }], 0.03, 0.25);
    let truth = Turned::new([FOOT, HEAD], &bottle()).unwrap();
    // drawn by hand: a few pixels off, leaning, a little short
    for (axis, reach, radius) in [
        ([[154.0, 462.0], [147.0, 58.0]], DRAWN, None),
        ([[147.0, 58.0], [154.0, 462.0]], DRAWN, None),
        // only the body was found
        ([[151.0, 465.0], [150.0, 245.0]], FOUND, Some(69.0)),
    ] {
        let s = trace(&photo, axis, reach, radius).unwrap();
        assert!((s.axis[0][1] - FOOT[1]).abs() < 4.0 && (s.axis[1][1] - HEAD[1]).abs() < 4.0, "{:?}", s.axis);
        assert!((s.axis[0][0] - 150.0).abs() < 1.0 && (s.axis[1][0] - 150.0).abs() < 1.0, "{:?}", s.axis);
        let traced = Turned::new(s.axis, &s.profile).unwrap();
        for k in 1..20 {
            let t = f64::from(k) / 20.0;
            let off = traced.radius(t) - truth.radius(t);
            assert!(off.abs() < 1.5, "{off:.2} px at {t}");
        }
        let body = traced.body().unwrap();
        assert!(body[0] < 0.06 && (body[1] - 0.6).abs() < 0.06, "{body:?}");
    }
}

#[test]
fn what_cannot_be_traced_is_said() {
    let flat = Photo::new(300, 520, Samples::Linear(vec![0.2; 300 * 520 * 3]), &Encoding::Srgb).unwrap();
    assert_eq!(trace(&flat, [FOOT, HEAD], DRAWN, None).unwrap_err(), SilhouetteProblem::Nothing);
    assert_eq!(trace(&flat, [[10.0, 10.0], [12.0, 20.0]], DRAWN, None).unwrap_err(), SilhouetteProblem::TooShort);
    // an axis beside the picture, or far beyond it
    for axis in [[[-400.0, 470.0], [-400.0, 50.0]], [[1e9, 1e9], [1e9, -1e9]]] {
        assert_eq!(trace(&flat, axis, DRAWN, None).unwrap_err(), SilhouetteProblem::Nothing);
    }
    assert!(trace(&flat, [[0.0, f64::INFINITY], [0.0, 0.0]], DRAWN, None).is_err());
    assert_eq!(trace(&flat, [[f64::NAN, 10.0], [12.0, 20.0]], DRAWN, None).unwrap_err(), SilhouetteProblem::TooShort);
    // it stands on the picture's edge
    let photo = draw(&[], 0.03, 0.25);
    let mut cut = Vec::new();
    for y in 0..400 {
        for x in 0..300 {
            cut.extend(photo.rgb(x, y));
        }
    }
    let cut = Photo::new(300, 400, Samples::Linear(cut), &Encoding::Srgb).unwrap();
    assert_eq!(trace(&cut, [[150.0, 398.0], HEAD], DRAWN, None).unwrap_err(), SilhouetteProblem::Cut);
}

#[test]
fn the_law_of_reflection_on_what_leans() {
    // straight on, an outline that leans by a mirrors what stands 2 a up (law of reflection; closed form)
    let cone = Turned::new([[100.0, 300.0], [100.0, 100.0]], &[[0.0, 90.0], [1.0, 40.0]]).unwrap();
    let lean = (50.0f64 / 200.0).atan();
    assert!((cone.tilt(0.5) - lean).abs() < 1e-9);
    let [az, el] = cone.mirrored(Camera::far(200, 400), 0.5, 0.0);
    assert!(az.abs() < 1e-3 && (el - 2.0 * lean).abs() < 1e-3, "{az} {el}");
    // upright, an offset s mirrors what stands 2 asin s round (closed form)
    let rod = Turned::new([[100.0, 300.0], [100.0, 100.0]], &[[0.0, 50.0], [1.0, 50.0]]).unwrap();
    for s in [-0.7, -0.2, 0.5, 0.9] {
        let [az, el] = rod.mirrored(Camera::far(200, 400), 0.5, s);
        assert!((az - 2.0 * f64::asin(s)).abs() < 1e-3 && el.abs() < 1e-3, "{az} {el} at {s}");
    }
}

/// Grain on a plain body looks like many lines: what is fitted is bounded in number, and nothing comes out that is no number.
#[test]
fn grain_is_read_within_bounds() {
    let photo = draw(&[], 0.05, 0.25);
    let mut seed = 7u32;
    let mut all = Vec::new();
    for y in 0..520 {
        for x in 0..300 {
            // Numerical Recipes' linear congruential generator; columns of grain run along, as lines do
            seed = seed.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            let column = (f64::from(x) * 12.9898).sin().abs() as f32;
            let grain = 0.2 * column + 0.02 * (seed >> 8) as f32 / (1 << 24) as f32;
            all.extend(photo.rgb(x, y).map(|v| v + grain));
        }
    }
    let photo = Photo::new(300, 520, Samples::Linear(all), &Encoding::Srgb).unwrap();
    let read = Turned::new([FOOT, HEAD], &bottle()).unwrap().read(&photo, Camera::far(300, 520)).unwrap();
    assert!(read.lines.len() <= 12 * read.bands.len(), "{} lines", read.lines.len());
    for l in &read.lines {
        let s = &l.strip;
        assert!([s.from, s.to, s.sd, s.edge, s.blur, s.over_stops].iter().all(|v| v.is_finite()), "{s:?}");
    }
}
