//! What takes tell of the real set: an extended Kalman filter per light (Kalman 1960; linearised as in any
//! textbook of estimation).
//!
//! The state of a light is its direction, the logs of its distance and of its face's width, its level at the
//! subject, and how many stops it really gives per stop on its dial. A change to the set moves the state by the
//! laws of light (a lamp moved by so many centimetres changes direction, angle and level by its distance, which is
//! thereby learnt); a take's reading corrects it. Two nuisances are carried beside it and never change: where the
//! reference's level lies on the set's scale, and what all sizes are off by that are read from this probe.

use super::{Change, ChangeKind};
use crate::compare::Comparison;
use lightset::meter::SetMeter;
use lightset::set::{Level, LightSet};
use nalgebra::{SMatrix, SVector};
use optics::geometry::{AzEl, Vec3, angle_between, wrapped_deg};

const N: usize = 8;
/// Rows of the state.
const AZ: usize = 0;
const EL: usize = 1;
const LN_D: usize = 2;
const LN_W: usize = 3;
const LEVEL: usize = 4;
const DIAL: usize = 5;
const ANCHOR: usize = 6;
const SIZES: usize = 7;

type State = SVector<f64, N>;
type Spread = SMatrix<f64, N, N>;

/// How far a set as it is written down is from the set as it stands: degrees, degrees, share of the distance, share
/// of the width, stops, share of a stop (common practice: a tape measure used once, a dial with tenths); what the
/// reference's level is on the set's scale, stops (anything); what sizes read from one probe share, as a log.
const PRIOR: [f64; N] = [6.0, 6.0, 0.20, 0.05, 0.5, 0.12, 10.0, 0.2];
/// Two lights share a probe's brightness: how much of it is whose is told no better than this, stops.
const LEVEL_SD: f64 = 0.12;
/// A hand puts a stand where it was told to within this, metres.
const HAND_M: f64 = 0.03;
/// A dial is set to within this, stops.
const HAND_STOPS: f64 = 0.05;

/// What is believed of one light.
#[derive(Debug, Clone)]
pub struct Belief {
    /// Name of the light in the set.
    pub name: String,
    mean: State,
    cov: Spread,
    /// Whether a take has told where the reference's level lies.
    anchored: bool,
}

/// What a take shows of one light.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Seen {
    /// Direction: azimuth, elevation in the set frame and one standard deviation, degrees.
    pub direction: Option<(AzEl, f64)>,
    /// Angle it fills, radians, with the standard deviation of its log.
    pub size: Option<(f64, f64)>,
    /// Stops over the same light in the reference, with one standard deviation.
    pub level: Option<(f64, f64)>,
}

fn place(s: &State) -> Vec3 {
    AzEl { azimuth_deg: s[AZ], elevation_deg: s[EL] }.vector() * s[LN_D].exp()
}

/// A light moved by a way: direction and distance follow, and its level by the form factor of a disc that faces the
/// subject, `1 / (d^2 + r^2)`.
fn shifted(s: &State, by: &Vec3) -> State {
    let p = place(s) + by;
    let (d0, d1, r) = (s[LN_D].exp(), p.norm().max(0.05), s[LN_W].exp() / 2.0);
    let a = AzEl::of(&p);
    let mut out = *s;
    // azimuths go on round rather than jump
    out[AZ] = s[AZ] + wrapped_deg(a.azimuth_deg - s[AZ]);
    out[EL] = a.elevation_deg;
    out[LN_D] = d1.ln();
    out[LEVEL] = s[LEVEL] + ((d0 * d0 + r * r) / (d1 * d1 + r * r)).log2();
    out
}

impl Belief {
    /// A light as the set has it.
    pub fn new(name: &str, at: AzEl, distance_m: f64, width_m: f64, level_stops: f64) -> Belief {
        let mean = State::from([
            at.azimuth_deg,
            at.elevation_deg,
            distance_m.max(0.05).ln(),
            width_m.max(0.002).ln(),
            level_stops,
            1.0,
            0.0,
            0.0,
        ]);
        let mut cov = Spread::zeros();
        for (k, sd) in PRIOR.iter().enumerate() {
            cov[(k, k)] = sd * sd;
        }
        // near the pole a degree round is little
        cov[(AZ, AZ)] /= at.elevation_deg.to_radians().cos().max(0.2).powi(2);
        Belief { name: name.to_owned(), mean, cov, anchored: false }
    }

    /// Beliefs of all lights of a set.
    pub fn of(set: &LightSet, meter: &SetMeter) -> Vec<Belief> {
        let width = |angle_deg: f64, d: f64| 2.0 * d * (angle_deg / 2.0).to_radians().tan();
        meter
            .lights
            .iter()
            .zip(&set.lights)
            .map(|(m, l)| {
                let d = l.position().norm();
                Belief::new(&l.name, m.at(), d, width(m.angular_size_deg, d), m.notations.stops)
            })
            .collect()
    }

    /// Direction believed.
    pub fn at(&self) -> AzEl {
        AzEl { azimuth_deg: wrapped_deg(self.mean[AZ]), elevation_deg: self.mean[EL] }
    }

    /// Distance believed, metres, with the standard deviation of its log.
    pub fn distance_m(&self) -> (f64, f64) {
        (self.mean[LN_D].exp(), self.cov[(LN_D, LN_D)].sqrt())
    }

    /// Stops it gives per stop on its dial, with the standard deviation.
    pub fn dial(&self) -> (f64, f64) {
        (self.mean[DIAL], self.cov[(DIAL, DIAL)].sqrt())
    }

    /// Level at the subject believed, stops over what the settings are right for, with the standard deviation.
    pub fn level(&self) -> (f64, f64) {
        (self.mean[LEVEL], self.cov[(LEVEL, LEVEL)].sqrt())
    }

    /// Angle it fills, radians.
    pub fn size(&self) -> f64 {
        2.0 * ((self.mean[LN_W] - self.mean[LN_D]).exp() / 2.0).atan()
    }

    fn step(&mut self, f: impl Fn(&State) -> State, noise: Spread) {
        let mean = f(&self.mean);
        let mut j = Spread::zeros();
        for k in 0..N {
            let h = if k == AZ || k == EL { 0.01 } else { 1e-4 };
            let mut s = self.mean;
            s[k] += h;
            j.set_column(k, &((f(&s) - mean) / h));
        }
        self.cov = j * self.cov * j.transpose() + noise;
        self.mean = mean;
    }

    /// What a change does to this light.
    pub fn change(&mut self, c: &Change) {
        let all = c.kind == ChangeKind::Exposure;
        if c.device != self.name && !all {
            return;
        }
        let mut noise = Spread::zeros();
        match (c.kind, c.by_m) {
            (ChangeKind::Moved, Some(by)) => {
                let d = self.mean[LN_D].exp();
                let angle = (HAND_M / d).to_degrees();
                noise[(AZ, AZ)] = angle * angle;
                noise[(EL, EL)] = angle * angle;
                noise[(LN_D, LN_D)] = (HAND_M / d).powi(2);
                noise[(LEVEL, LEVEL)] = (2.0 * HAND_M / d / std::f64::consts::LN_2).powi(2);
                let by = Vec3::from(by);
                self.step(|s| shifted(s, &by), noise);
            }
            (ChangeKind::Power, _) => {
                noise[(LEVEL, LEVEL)] = HAND_STOPS * HAND_STOPS;
                self.step(
                    |s| {
                        let mut out = *s;
                        out[LEVEL] += s[DIAL] * c.amount;
                        out
                    },
                    noise,
                );
            }
            (ChangeKind::Exposure, _) => {
                self.step(
                    |s| {
                        let mut out = *s;
                        out[LEVEL] += c.amount;
                        out
                    },
                    noise,
                );
            }
            (ChangeKind::Face, _) => {
                noise[(LN_W, LN_W)] = 0.05 * 0.05;
                noise[(LEVEL, LEVEL)] = 0.3 * 0.3;
                let ratio = c.amount.max(1e-3).ln();
                self.step(
                    |s| {
                        let mut out = *s;
                        out[LN_W] += ratio;
                        out
                    },
                    noise,
                );
            }
            (ChangeKind::Sheet | ChangeKind::Aimed | ChangeKind::Colour, _) => {
                noise[(LEVEL, LEVEL)] = 0.4 * 0.4;
                noise[(LN_W, LN_W)] = 0.1 * 0.1;
                self.step(|s| *s, noise);
            }
            _ => {}
        }
    }

    /// One figure that was read: its row in the state, value, variance.
    fn correct(&mut self, row: SMatrix<f64, 1, N>, off: f64, variance: f64) {
        let s = (row * self.cov * row.transpose())[0] + variance;
        let gain = self.cov * row.transpose() / s;
        self.mean += gain * off;
        self.cov = (Spread::identity() - gain * row) * self.cov;
        // keep it symmetric
        self.cov = (self.cov + self.cov.transpose()) / 2.0;
    }

    /// What a take shows corrects what is believed.
    pub fn see(&mut self, seen: &Seen) {
        let unit = |k: usize| {
            let mut r = SMatrix::<f64, 1, N>::zeros();
            r[k] = 1.0;
            r
        };
        if let Some((a, sd)) = seen.direction {
            let cos = a.elevation_deg.to_radians().cos().max(0.2);
            self.correct(unit(AZ), wrapped_deg(a.azimuth_deg - self.mean[AZ]), (sd / cos).powi(2));
            self.correct(unit(EL), a.elevation_deg - self.mean[EL], sd * sd);
        }
        if let Some((angle, sd)) = seen.size {
            // ln tan(a / 2) = ln w - ln d - ln 2, and what this probe's sizes are off by
            let mut r = unit(LN_W);
            r[LN_D] = -1.0;
            r[SIZES] = 1.0;
            let read = (angle / 2.0).tan().max(1e-6).ln() + std::f64::consts::LN_2;
            self.correct(r, read - (r * self.mean)[0], sd * sd);
        }
        if let Some((over, sd)) = seen.level {
            if !self.anchored {
                self.mean[ANCHOR] = self.mean[LEVEL] - over;
                self.anchored = true;
            }
            let mut r = unit(LEVEL);
            r[ANCHOR] = -1.0;
            self.correct(r, over - (r * self.mean)[0], sd * sd);
        }
    }
}

/// For each light of a set, the difference of a comparison that is its own: a light of the take is found by where it was
/// seen, and by its role.
pub fn differences_of(set: &LightSet, meter: &SetMeter, c: &Comparison) -> Vec<Option<usize>> {
    let mut out: Vec<Option<usize>> = vec![None; set.lights.len()];
    let mut pairs: Vec<(f64, usize, usize)> = Vec::new();
    for (i, m) in meter.lights.iter().enumerate().filter(|(_, m)| !m.off) {
        let own = m.at().vector();
        for (j, d) in c.lights.iter().enumerate() {
            let Some(at) = d.take_at().map(|a| set.from_lens(a)) else { continue };
            let deg = angle_between(&own, &at.vector()).to_degrees();
            let named = m.name.split_whitespace().next() == d.role.split_whitespace().next();
            pairs.push((deg + if named { 0.0 } else { 12.0 }, i, j));
        }
    }
    pairs.sort_by(|a, b| a.0.total_cmp(&b.0));
    for (cost, i, j) in pairs {
        if cost <= 60.0 && out[i].is_none() && !out.contains(&Some(j)) {
            out[i] = Some(j);
        }
    }
    out
}

/// What a comparison shows of the lights of a set, in the set's order.
pub fn seen_of(set: &LightSet, meter: &SetMeter, c: &Comparison) -> Vec<Option<Seen>> {
    let one = |j: usize| {
        let d = &c.lights[j];
        let level = d.d_level_stops.zip(c.d_exposure_stops);
        Seen {
            direction: d.take_at().map(|a| (set.from_lens(a), d.direction_sd_deg)),
            size: d.take_size_deg.map(|s| (s.to_radians(), d.size_sd.unwrap_or(0.2))),
            level: level.map(|(l, e)| (l + e, d.level_sd_stops.unwrap_or(0.2).hypot(LEVEL_SD))),
        }
    };
    differences_of(set, meter, c).into_iter().map(|j| j.map(one)).collect()
}

/// A set as it stands by what was learnt: lights at the place and level that are believed. Lights whose level is not
/// in stops keep it.
pub fn learned(set: &LightSet, beliefs: &[Belief]) -> LightSet {
    let mut out = set.clone();
    for l in &mut out.lights {
        let Some(b) = beliefs.iter().find(|b| b.name == l.name) else { continue };
        // what is turned to a wall or is a window stands where the wall is
        if l.bounce.is_some() || l.source.is_window() {
            continue;
        }
        let p = place(&b.mean);
        let moved = (p - l.position()).norm();
        if moved > 0.01 {
            l.position_m = Some([p.x, p.y, p.z].map(|v| (v * 1000.0).round() / 1000.0));
            (l.azimuth_deg, l.elevation_deg, l.distance_m) = (None, None, None);
        }
        if let Level::Stops { stops } = &mut l.level {
            *stops = (b.mean[LEVEL] * 100.0).round() / 100.0;
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    fn moved(by: [f64; 3]) -> Change {
        Change {
            device: "key".into(),
            kind: ChangeKind::Moved,
            from: String::new(),
            to: String::new(),
            amount: Vec3::from(by).norm(),
            unit: "m".into(),
            by_m: Some(by),
        }
    }

    fn power(stops: f64) -> Change {
        Change { kind: ChangeKind::Power, amount: stops, unit: "stops".into(), by_m: None, ..moved([0.0; 3]) }
    }

    /// What a lamp at `p` with a width and a level shows.
    fn shown(p: Vec3, width: f64, level: f64) -> Seen {
        Seen {
            direction: Some((AzEl::of(&p), 0.5)),
            size: Some((2.0 * (width / 2.0 / p.norm()).atan(), 0.05)),
            level: Some((level, 0.05)),
        }
    }

    #[test]
    fn a_wrong_distance_is_learnt_from_what_a_move_does() {
        // believed at 2 m, really at 1.4: moving it 40 cm nearer does more than was thought (inverse square law)
        let a = AzEl { azimuth_deg: 30.0, elevation_deg: 20.0 };
        let (truth, width) = (1.4, 0.6);
        let mut b = Belief::new("key", a, 2.0, width * 2.0 / 1.4, 0.0);
        let p = a.vector() * truth;
        b.see(&shown(p, width, 0.0));
        let by = -a.vector() * 0.4;
        b.change(&moved([by.x, by.y, by.z]));
        let nearer = p + by;
        let gain = ((truth * truth + 0.09) / (nearer.norm_squared() + 0.09)).log2();
        b.see(&shown(nearer, width, gain));
        let (d, sd) = b.distance_m();
        assert!((d - 1.0).abs() < 0.15, "believed {d} ± {sd}, is 1.0");
        assert!(sd < 0.12);
    }

    #[test]
    fn a_lateral_move_tells_the_distance_by_its_angle() {
        let a = AzEl { azimuth_deg: 0.0, elevation_deg: 0.0 };
        let mut b = Belief::new("key", a, 1.0, 0.3, 0.0);
        b.see(&Seen { size: None, level: None, ..shown(a.vector() * 1.5, 0.3, 0.0) });
        b.change(&moved([0.5, 0.0, 0.0]));
        b.see(&Seen { size: None, level: None, ..shown(Vec3::new(0.5, 0.0, 1.5), 0.3, 0.0) });
        // by hand: half a metre turns a lamp at 1.5 m by atan(1/3) = 18.4 degrees, one at 1 m by 26.6
        assert!(b.distance_m().0 > 1.25, "{:?}", b.distance_m());
    }

    #[test]
    fn a_dial_that_gives_less_is_learnt() {
        let a = AzEl { azimuth_deg: -40.0, elevation_deg: 10.0 };
        let mut b = Belief::new("key", a, 1.5, 0.5, 0.0);
        let p = a.vector() * 1.5;
        b.see(&shown(p, 0.5, 0.0));
        b.change(&power(-2.0));
        assert!((b.level().0 + 2.0).abs() < 1e-9);
        b.see(&shown(p, 0.5, -1.6));
        let (g, sd) = b.dial();
        assert!(g < 0.87 && sd < 0.1, "{g} ± {sd}");
        b.change(&power(1.0));
        assert!((b.level().0 + 1.6 - g).abs() < 0.12);
    }

    #[test]
    fn what_is_seen_never_widens_what_is_believed() {
        let a = AzEl { azimuth_deg: 30.0, elevation_deg: 20.0 };
        let mut b = Belief::new("key", a, 2.0, 0.6, 0.0);
        let before = [b.distance_m().1, b.level().1, b.dial().1];
        b.see(&shown(a.vector() * 1.8, 0.6, 0.2));
        b.see(&shown(a.vector() * 1.8, 0.6, 0.2));
        let after = [b.distance_m().1, b.level().1, b.dial().1];
        assert!(after.iter().zip(before).all(|(x, y)| *x <= y + 1e-12), "{after:?} {before:?}");
    }
}
