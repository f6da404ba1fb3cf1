//! Bodies of revolution: slopes and normals by geometry, lines by the law of reflection, outlines that are traced.

use direction::silhouette::{self, SilhouetteProblem};
use direction::turned::Turned;
use optics::geometry::{Camera, Vec3};
use optics::photo::Photo;
use proptest::prelude::*;
use trial::paint;

/// A bottle with straight walls: radius of the body and the neck, and the shoulder between, in shares of the axis.
#[derive(Clone, Copy)]
struct Bottle {
    radius: f64,
    neck: f64,
    shoulder: [f64; 2],
    /// The shoulder is a curve, not a cone.
    round: bool,
}

const SIZE: [u32; 2] = [260, 420];
const FOOT: [f64; 2] = [130.0, 390.0];
const LENGTH: f64 = 340.0;
const PLAIN: Bottle = Bottle { radius: 70.0, neck: 24.0, shoulder: [0.6, 0.78], round: false };

impl Bottle {
    fn at(&self, t: f64) -> f64 {
        let k = ((t - self.shoulder[0]) / (self.shoulder[1] - self.shoulder[0])).clamp(0.0, 1.0);
        let k = if self.round { k * k * (3.0 - 2.0 * k) } else { k };
        self.radius + (self.neck - self.radius) * k
    }
    /// How far the normal looks up at a share of the axis, radians.
    fn tilt(&self, t: f64) -> f64 {
        let d = 1e-4;
        ((self.at(t - d) - self.at(t + d)) / (2.0 * d * LENGTH)).atan()
    }
    /// Slope of the outline on the shoulder, radians: how far the normal looks up.
    fn lean(&self) -> f64 {
        ((self.radius - self.neck) / ((self.shoulder[1] - self.shoulder[0]) * LENGTH)).atan()
    }
    fn turned(&self) -> Turned {
        let profile: Vec<[f64; 2]> = (0..=200).map(|k| f64::from(k) / 200.0).map(|t| [t, self.at(t)]).collect();
        Turned::new([FOOT, [FOOT[0], FOOT[1] - LENGTH]], &profile).expect("a body")
    }
    /// On a background: dark glass that mirrors upright sources (azimuths in degrees, elevation up to which they reach).
    fn photo(&self, ground: f64, sources: &[([f64; 2], f64)]) -> Photo {
        paint(SIZE[0], SIZE[1], |x, y| {
            let t = (FOOT[1] - y) / LENGTH;
            let s = (x - FOOT[0]) / self.at(t.clamp(0.0, 1.0));
            if !(0.0..1.0).contains(&t) || s.abs() >= 1.0 {
                return ground;
            }
            let alpha = self.tilt(t);
            let n = Vec3::new(alpha.cos() * s, alpha.sin(), alpha.cos() * (1.0 - s * s).sqrt());
            let r = 2.0 * n.z * n - Vec3::z();
            let (az, el) = (r.x.atan2(r.z).to_degrees(), r.y.asin().to_degrees());
            let lit = sources.iter().any(|(a, top)| (a[0]..a[1]).contains(&az) && el < *top);
            0.05 + if lit { 0.5 } else { 0.0 }
        })
    }
}

fn far() -> Camera {
    Camera::far(SIZE[0], SIZE[1])
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// The normal of a cone looks up by its half angle, that of a cylinder level.
    #[test]
    fn a_cones_normal_looks_up_by_its_slope(neck in 10.0f64..60.0, from in 0.4f64..0.6, to in 0.7f64..0.85) {
        let b = Bottle { radius: 70.0, neck, shoulder: [from, to], round: false };
        let t = b.turned();
        prop_assert!((t.tilt(f64::midpoint(from, to)) - b.lean()).abs() < 0.02);
        prop_assert!(t.tilt(from / 2.0).abs() < 0.01);
        prop_assert!((t.radius(0.2) - 70.0).abs() < 0.2);
    }

    /// At the middle of what leans by an angle, what is mirrored stands at twice that angle (law of reflection); beside the axis of the
    /// upright part at twice the angle whose sine is the offset.
    #[test]
    fn what_is_mirrored_lies_at_twice_the_normals_angle(neck in 20.0f64..60.0, s in -0.9f64..0.9) {
        let b = Bottle { neck, ..PLAIN };
        let t = b.turned();
        let [az, el] = t.mirrored(far(), 0.69, 0.0);
        prop_assert!(az.abs() < 0.03, "{az}");
        prop_assert!((el - 2.0 * b.lean()).abs() < 0.06, "{el} for {}", 2.0 * b.lean());
        let [az, el] = t.mirrored(far(), 0.3, s);
        prop_assert!((az - 2.0 * s.asin()).abs() < 0.05, "{az} for {}", 2.0 * s.asin());
        prop_assert!(el.abs() < 0.05);
    }

    /// The upright part is the longest stretch of one width, whatever stands on it.
    #[test]
    fn the_upright_part_is_found(neck in 12.0f64..50.0, from in 0.35f64..0.65) {
        let b = Bottle { neck, shoulder: [from, from + 0.2], ..PLAIN };
        let [lo, hi] = b.turned().body().expect("a body");
        prop_assert!(lo < 0.05 && (hi - from).abs() < 0.06, "{lo} to {hi} for {from}");
    }

    /// Strips come back at their azimuths, both edges.
    #[test]
    fn a_line_lies_where_its_source_stands(middle in -100.0f64..100.0, wide in 12.0f64..36.0) {
        let source = [middle - wide / 2.0, middle + wide / 2.0];
        let read = PLAIN.turned().read(&PLAIN.photo(0.2, &[(source, 180.0)]), far()).expect("a reading");
        prop_assert_eq!(read.lines.len(), 1);
        let s = &read.lines[0].strip;
        prop_assert!((s.from.to_degrees() - source[0]).abs() < 2.5, "from {} for {}", s.from.to_degrees(), source[0]);
        prop_assert!((s.to.to_degrees() - source[1]).abs() < 2.5, "to {} for {}", s.to.to_degrees(), source[1]);
    }

    /// The outline of a bottle drawn on another grey is traced to a pixel from an axis that is a little off.
    #[test]
    fn an_outline_is_traced(neck in 16.0f64..45.0, radius in 50.0f64..80.0, ground in 0.25f64..0.8, aside in -4.0f64..4.0) {
        let b = Bottle { radius, neck, shoulder: [0.6, 0.8], round: false };
        let axis = [[FOOT[0] + aside, FOOT[1] - 6.0], [FOOT[0] - aside, FOOT[1] - LENGTH + 8.0]];
        let s = silhouette::trace_by_hand(&b.photo(ground, &[]), axis).expect("an outline");
        prop_assert!((s.radius - radius).abs() < 2.0, "{} for {radius}", s.radius);
        prop_assert!(s.clear > 0.8);
        for (k, want) in [FOOT, [FOOT[0], FOOT[1] - LENGTH]].iter().enumerate() {
            let off = (s.axis[k][0] - want[0]).hypot(s.axis[k][1] - want[1]);
            prop_assert!(off < 5.0, "end {k}: {:?}", s.axis[k]);
        }
        let read = Turned::new(s.axis, &s.profile).expect("a body");
        for t in [0.2, 0.4, 0.7, 0.9] {
            prop_assert!((read.radius(t) - b.at(t)).abs() < 3.0, "at {t}: {} for {}", read.radius(t), b.at(t));
        }
    }
}

/// A source that ends below what the shoulder mirrors leaves its line broken there; one that goes on is said to reach at least so far.
#[test]
fn where_a_line_ends_on_the_shoulder_its_source_ends() {
    let gentle = Bottle { radius: 70.0, neck: 30.0, shoulder: [0.5, 0.85], round: true };
    let top = |reaches: f64| {
        let photo = gentle.photo(0.2, &[([-40.0, -15.0], reaches)]);
        let read = gentle.turned().read(&photo, far()).expect("a reading");
        assert_eq!(read.lines.len(), 1);
        read.lines[0].top.expect("it is told from the shoulder")
    };
    // the steepest part of the shoulder mirrors this high
    let most = 2.0 * gentle.tilt(0.675).to_degrees();
    for part in [0.3, 0.5, 0.7] {
        let short = top(part * most);
        let off = (short.elevation.to_degrees() - part * most).abs();
        assert!(!short.open && off < 3.0 + 3.0 * short.sd.to_degrees(), "{short:?} for {}", part * most);
    }
    let long = top(180.0);
    assert!(long.open, "{long:?}");
    assert!(long.elevation > top(0.5 * most).elevation);
}

#[test]
fn no_outline_is_said_to_be_none() {
    let axis = [[130.0, 380.0], [130.0, 60.0]];
    let trace = |p: &Photo, axis| silhouette::trace_by_hand(p, axis).map(|s| s.radius);
    assert_eq!(trace(&paint(260, 420, |_, _| 0.3), axis), Err(SilhouetteProblem::Nothing));
    assert_eq!(trace(&PLAIN.photo(0.5, &[]), [[130.0, 200.0], [130.0, 180.0]]), Err(SilhouetteProblem::TooShort));
    assert_eq!(trace(&PLAIN.photo(0.5, &[]), [[f64::NAN; 2]; 2]), Err(SilhouetteProblem::TooShort));
    // walked from its head it is the same bottle
    let [foot, head] = [[130.0, 384.0], [130.0, 56.0]];
    let (up, down) = (trace(&PLAIN.photo(0.5, &[]), [foot, head]), trace(&PLAIN.photo(0.5, &[]), [head, foot]));
    assert!(up.is_ok() && up == down, "{up:?} {down:?}");
}

#[test]
fn too_little_is_no_body() {
    assert!(Turned::new([[10.0, 20.0], [10.0, 10.0]], &[[0.0, 5.0], [1.0, 5.0]]).is_none());
    assert!(Turned::new([[10.0, 200.0], [10.0, 10.0]], &[[0.5, 5.0]]).is_none());
    // a ball has no upright part to speak of
    let ball: Vec<[f64; 2]> = (0..=60)
        .map(|k| f64::from(k) / 60.0)
        .map(|t| [t, 60.0 * (1.0 - (2.0 * t - 1.0f64).powi(2)).max(0.0).sqrt()])
        .collect();
    let ball = Turned::new([[100.0, 160.0], [100.0, 40.0]], &ball).expect("a form");
    assert!(ball.body().is_none_or(|[a, b]| b - a < 0.2), "{:?}", ball.body());
    // a tube is upright from end to end
    let tube = Turned::new([[100.0, 160.0], [100.0, 40.0]], &[[0.0, 30.0], [1.0, 30.0]]).expect("a form");
    let [a, b] = tube.body().expect("upright");
    assert!(a < 0.05 && b > 0.95);
}

/// A hand draws an axis from foot to head a few pixels off at either end, leaning or aside: the outline is found all the same.
#[test]
fn an_axis_by_hand_is_put_right() {
    for (ground, radius) in [(0.2, 50.0), (0.3, 80.0), (0.8, 65.0)] {
        let b = Bottle { radius, neck: 40.0, shoulder: [0.6, 0.8], round: false };
        let photo = b.photo(ground, &[]);
        for (foot, head) in [(-6.0, 6.0), (6.0, -6.0), (-4.0, 4.0), (5.0, 5.0), (-5.0, -5.0), (0.0, 7.0)] {
            let axis = [[FOOT[0] + foot, FOOT[1] - 6.0], [FOOT[0] + head, FOOT[1] - LENGTH + 8.0]];
            let s = silhouette::trace_by_hand(&photo, axis).expect("an outline");
            assert!((s.radius - radius).abs() < 1.0, "{foot} {head}: {} for {radius}", s.radius);
        }
    }
}
