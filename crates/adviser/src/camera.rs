//! A camera that is not there: a set as it really stands, which its owner knows only nearly.
//!
//! Stand-in for a tethered camera in the demo and in tests. Lamps stand a little elsewhere than they are believed to,
//! give more or less than is written on them, and a dial's stop is not quite a stop. Changes are made to it as a
//! person would: by so many centimetres, by so many stops on the dial.

use crate::changes::changes;
use crate::handling::{elsewhere, exposed, powered, room_by};
use judging::takes::{Change, ChangeKind};
use lightset::set::LightSet;
use optics::geometry::{AzEl, Vec3};

/// How far the real set is from the believed one: degrees, share of the distance, stops, share of a dial's stop.
const OFF: [f64; 4] = [4.0, 0.15, 0.4, 0.12];
/// A hand's error: metres, stops.
const HAND: [f64; 2] = [0.015, 0.03];

/// A set as it really stands.
#[derive(Debug, Clone)]
pub struct SimulatedCamera {
    real: LightSet,
    dials: Vec<(String, f64)>,
    seed: u64,
}

/// Even between -1 and 1 from a seed (splitmix64, Steele et al. 2014).
fn chance(seed: &mut u64) -> f64 {
    *seed = seed.wrapping_add(0x9e37_79b9_7f4a_7c15);
    let mut z = *seed;
    z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
    z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
    ((z ^ (z >> 31)) >> 11) as f64 / (1u64 << 52) as f64 - 1.0
}

impl SimulatedCamera {
    /// What really stands where a set is believed to stand.
    pub fn new(believed: &LightSet, seed: u64) -> SimulatedCamera {
        let mut s = seed;
        let mut real = believed.clone();
        let mut dials = Vec::new();
        for l in &mut real.lights {
            dials.push((l.name.clone(), 1.0 + OFF[3] * chance(&mut s)));
            if l.bounce.is_some() || l.source.is_window() {
                continue;
            }
            let p = l.position();
            let a = AzEl::of(&p);
            let to = AzEl {
                azimuth_deg: a.azimuth_deg + OFF[0] * chance(&mut s),
                elevation_deg: (a.elevation_deg + OFF[0] * chance(&mut s)).clamp(-85.0, 88.0),
            };
            let to = to.vector() * p.norm() * (OFF[1] * chance(&mut s)).exp();
            *l = powered(&elsewhere(l, to), OFF[2] * chance(&mut s));
        }
        SimulatedCamera { real, dials, seed: s }
    }

    /// A set that stands exactly as it is believed to, with true dials; hands stay hands.
    pub fn exact(believed: &LightSet) -> SimulatedCamera {
        SimulatedCamera { real: believed.clone(), dials: Vec::new(), seed: 0 }
    }

    /// The set as it stands.
    pub fn real(&self) -> &LightSet {
        &self.real
    }

    /// Stops a lamp really gives per stop on its dial.
    pub fn dial(&self, name: &str) -> f64 {
        self.dials.iter().find(|d| d.0 == name).map_or(1.0, |d| d.1)
    }

    /// A person changes the set they believe in: the same is done to the real one, by hand.
    pub fn follow(&mut self, before: &LightSet, after: &LightSet) {
        for c in changes(before, after) {
            self.make(&c, after);
        }
    }

    fn make(&mut self, c: &Change, after: &LightSet) {
        let mut s = self.seed;
        let wanted = after.lights.iter().find(|l| l.name == c.device);
        let dial = self.dial(&c.device);
        let at = self.real.lights.iter().position(|l| l.name == c.device);
        match (c.kind, at) {
            (ChangeKind::Moved, Some(i)) => {
                let l = &self.real.lights[i];
                let by = Vec3::from(c.by_m.unwrap_or_default())
                    + Vec3::new(chance(&mut s), chance(&mut s), chance(&mut s)) * HAND[0];
                let to = l.position() + by;
                self.real.lights[i] = elsewhere(l, to);
            }
            (ChangeKind::Power, Some(i)) => {
                let stops = dial * c.amount + HAND[1] * chance(&mut s);
                self.real.lights[i] = powered(&self.real.lights[i], stops);
            }
            (ChangeKind::Switched, Some(i)) => self.real.lights[i].off = c.to == "off",
            (ChangeKind::Removed, Some(i)) => {
                self.real.lights.remove(i);
            }
            (ChangeKind::Added, None) => {
                if let Some(l) = wanted {
                    self.real.lights.push(l.clone());
                }
                self.real.boards.clone_from(&after.boards);
            }
            (ChangeKind::Exposure, _) => {
                self.real.camera.exposure = after.camera.exposure;
                exposed(&mut self.real, c.amount);
            }
            (ChangeKind::Balance, _) => self.real.camera.white_k = after.camera.white_k,
            (ChangeKind::Room, _) => room_by(&mut self.real, c.amount),
            // another face, sheet, filter or aim: as it was wanted, the lamp's own errors stay
            (_, Some(i)) => {
                if let Some(w) = wanted {
                    let l = &mut self.real.lights[i];
                    l.source = w.source.clone();
                    l.scrims.clone_from(&w.scrims);
                    l.bounce = w.bounce;
                    l.aim_m = w.aim_m;
                    (l.cct_k, l.gel_mired, l.gel_rgb) = (w.cct_k, w.gel_mired, w.gel_rgb);
                }
            }
            (_, None) => self.real.boards.clone_from(&after.boards),
        }
        self.seed = s;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn set() -> LightSet {
        LightSet::parse(
            r#"{"format":"slant-set/1","camera":{"position_m":[0,0,2],"exposure":{"f_number":8,"shutter_s":0.01,"iso":100}},
            "lights":[{"name":"key","azimuth_deg":45,"elevation_deg":30,"distance_m":1.5,"source":{"kind":"disc","diameter_m":0.1},"level":{"stops":0}}]}"#,
        )
        .expect("a set")
        .set
    }

    #[test]
    fn the_real_set_is_near_the_believed_one_and_the_same_for_a_seed() {
        let (a, b) = (SimulatedCamera::new(&set(), 7), SimulatedCamera::new(&set(), 7));
        assert_eq!(a.real(), b.real());
        assert_ne!(a.real(), SimulatedCamera::new(&set(), 8).real());
        let (p, q) = (set().lights[0].position(), a.real().lights[0].position());
        assert!(optics::geometry::angle_between(&p, &q).to_degrees() < 6.0);
        assert!((q.norm() / p.norm()).ln().abs() < 0.16);
    }

    #[test]
    fn a_move_by_hand_ends_within_a_hand_of_it() {
        let mut c = SimulatedCamera::new(&set(), 3);
        let before = c.real().lights[0].position();
        let mut after = set();
        after.lights[0].position_m = Some((set().lights[0].position() + Vec3::new(-0.2, 0.1, 0.0)).into());
        c.follow(&set(), &after);
        let by = c.real().lights[0].position() - before;
        assert!((by - Vec3::new(-0.2, 0.1, 0.0)).norm() < 0.03, "{by:?}");
    }
}
