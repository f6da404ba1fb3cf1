//! How a head is turned, from its landmarks: a stand-in is turned, stretched and moved until its own
//! landmarks fall on the marked ones.
//!
//! Levenberg-Marquardt on yaw, pitch, roll, shift, scale and three stretches with soft-L1 loss and
//! priors (heads differ by 6 to 12 % in their proportions; people rarely nod by more than 8 degrees);
//! what is left over bends the picture smoothly.

use super::stand_in::StandIn;
use crate::shapes::Point;
use nalgebra::{DVector, Matrix3};
use optics::geometry::{Camera, Vec3};
use optics::solve::levenberg_marquardt;
use std::collections::BTreeMap;

/// A head's place in a picture.
#[derive(Debug, Clone)]
pub struct Pose {
    /// Turn to image right, nod up, tilt; radians.
    pub turn: [f64; 3],
    /// Head frame to camera frame, without stretch.
    pub rotation: Matrix3<f64>,
    /// Stretch along the head's own axes.
    pub stretch: Vec3,
    /// Pixel of the point between the eyes.
    pub at: Point,
    /// Pixels per metre there.
    pub scale: f64,
    /// One over the distance to the lens in metres.
    near: f64,
    /// Left over at each landmark: place in the head's own frame, pixels.
    bend: Vec<(Vec3, [f64; 2])>,
    /// Root mean square miss of the landmarks before bending, over the distance between the eyes.
    pub miss: f64,
    /// Cost of the landmarks and the priors.
    pub cost: f64,
}

/// Why no pose was found.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum PoseProblem {
    /// Too few names that are known.
    #[error("too few landmarks: both eyes, the tip of the nose and the mouth or chin are needed")]
    TooFew,
    /// They do not make a face.
    #[error("the landmarks do not fit a face: check that image left and right are not swapped")]
    NoFace,
    /// Turned so far that one eye hides.
    #[error("the head is turned too far: a profile cannot be read as a face; mark its contour or its eye")]
    Profile,
    /// Tiny.
    #[error("the face is too small to read: its landmarks must span 20 pixels")]
    TooSmall,
}

/// Spreads of turn, nod and tilt, radians; of the stretches (width, height, depth), natural log.
pub(super) const TURN_SD: [f64; 3] = [0.5, 0.14, 0.3];
const STRETCH_SD: [f64; 3] = [0.07, 0.08, 0.12];
/// Share of what is left over that bends the picture.
const DAMPED: f64 = 0.7;
/// Reach of the bend in metres.
const BEND: f64 = 0.025;

/// Head to camera: tilt, then nod, then turn.
fn rotation(turn: [f64; 3]) -> Matrix3<f64> {
    let ((sy, cy), (sp, cp), (sr, cr)) = (turn[0].sin_cos(), (-turn[1]).sin_cos(), (-turn[2]).sin_cos());
    let yaw = Matrix3::new(cy, 0.0, sy, 0.0, 1.0, 0.0, -sy, 0.0, cy);
    let pitch = Matrix3::new(1.0, 0.0, 0.0, 0.0, cp, -sp, 0.0, sp, cp);
    let roll = Matrix3::new(cr, -sr, 0.0, sr, cr, 0.0, 0.0, 0.0, 1.0);
    yaw * pitch * roll
}

impl Pose {
    /// A pose as it is given: turn, nod and tilt in radians, pixel of the frame's origin, pixels per metre there, one over its
    /// distance to the lens in metres.
    pub(super) fn placed(turn: [f64; 3], at: Point, scale: f64, near: f64) -> Pose {
        let (rotation, stretch) = (rotation(turn), Vec3::repeat(1.0));
        Pose { turn, rotation, stretch, at, scale, near, bend: Vec::new(), miss: 0.0, cost: 0.0 }
    }

    /// What is left over at landmarks, by which the picture is bent: place in the head's own frame, pixels.
    pub(super) fn bend_by(&mut self, left_over: Vec<(Vec3, [f64; 2])>) {
        self.bend = left_over;
    }

    /// Fits a stand-in to marked landmarks, then turns it by `lean` radians and fits the rest anew.
    ///
    /// # Errors
    /// A [`PoseProblem`].
    pub fn fit(
        head: &StandIn,
        points: &BTreeMap<String, Point>,
        camera: &Camera,
        lean: f64,
    ) -> Result<Pose, PoseProblem> {
        let pairs: Vec<(Vec3, Point)> =
            points.iter().filter_map(|(n, p)| head.landmarks.get(n.as_str()).map(|l| (*l, *p))).collect();
        let get = |n: &str| points.get(n).copied();
        let (Some(left), Some(right)) = (get("eye_image_left"), get("eye_image_right")) else {
            return Err(PoseProblem::TooFew);
        };
        if pairs.len() < 4 || get("nose_tip").is_none() {
            return Err(PoseProblem::TooFew);
        }
        let apart = (right[0] - left[0]).hypot(right[1] - left[1]);
        let tallest = pairs.iter().map(|(_, p)| (p[0] - left[0]).hypot(p[1] - left[1])).fold(apart, f64::max);
        if tallest < 20.0 {
            return Err(PoseProblem::TooSmall);
        }
        let own = head.landmarks["eye_image_right"].x * 2.0;
        let sd = (0.03 * tallest).max(1.0);
        let middle = [0.5 * (left[0] + right[0]), 0.5 * (left[1] + right[1])];
        let tilt = (right[1] - left[1]).atan2(right[0] - left[0]);
        // The distance between the eyes shrinks when the head turns; the height does not.
        let height = |a: f64, b: f64| (a - b).abs().max(1e-6);
        let lowest = pairs.iter().min_by(|a, b| a.0.y.total_cmp(&b.0.y)).expect("four landmarks at least");
        let down = (lowest.1[0] - middle[0]).hypot(lowest.1[1] - middle[1]);
        let scale = (apart / own).max(0.9 * down / height(lowest.0.y, 0.0));
        let build = |x: &DVector<f64>| {
            let turn = [x[0], x[1], x[2]];
            let scale = x[5].exp();
            Pose {
                turn,
                rotation: rotation(turn),
                stretch: Vec3::new(x[6].exp(), x[7].exp(), x[8].exp()),
                at: [x[3], x[4]],
                scale,
                near: scale / camera.focal_px,
                bend: Vec::new(),
                miss: 0.0,
                cost: 0.0,
            }
        };
        let soft = |r: f64| {
            // soft-L1: twice the square root of one plus the square, less one
            (2.0 * ((1.0 + r * r).sqrt() - 1.0)).max(0.0).sqrt().copysign(r)
        };
        let residuals = |x: &DVector<f64>| {
            let pose = build(x);
            let mut out = Vec::with_capacity(2 * pairs.len() + 6);
            for (own, seen) in &pairs {
                let p = pose.straight(own);
                out.extend([soft((p[0] - seen[0]) / sd), soft((p[1] - seen[1]) / sd)]);
            }
            out.extend([0, 1, 2].map(|k| (x[k] - if k == 2 { tilt } else { 0.0 }) / TURN_SD[k]));
            out.extend([0, 1, 2].map(|k| x[6 + k] / STRETCH_SD[k]));
            DVector::from_vec(out)
        };
        let steps = [1e-4, 1e-4, 1e-4, 1e-3 * sd, 1e-3 * sd, 1e-4, 1e-4, 1e-4, 1e-4];
        let clamp = |x: &mut DVector<f64>| {
            (0..3).for_each(|k| x[k] = x[k].clamp(-1.45, 1.45));
            (6..9).for_each(|k| x[k] = x[k].clamp(-0.35, 0.35));
        };
        // The turn may start on either side of a wrong valley.
        let best = [-0.5, 0.0, 0.5]
            .into_iter()
            .map(|yaw| {
                let start = DVector::from_vec(vec![yaw, 0.0, tilt, middle[0], middle[1], scale.ln(), 0.0, 0.0, 0.0]);
                levenberg_marquardt(start, &steps, 60, residuals, clamp)
            })
            .min_by(|a, b| a.cost.total_cmp(&b.cost))
            .expect("three starts");
        let best = if lean == 0.0 {
            best
        } else {
            let target = best.x[0] + lean;
            let held = |x: &DVector<f64>| {
                let r = residuals(x);
                let n = r.len();
                let mut r = r.insert_row(n, 0.0);
                r[n] = (x[0] - target) / 0.005;
                r
            };
            levenberg_marquardt(best.x, &steps, 40, held, clamp)
        };
        let mut pose = build(&best.x);
        pose.cost = best.cost;
        if pose.turn[0].abs() > 1.13 {
            return Err(PoseProblem::Profile);
        }
        let left_over: Vec<(Vec3, [f64; 2])> = pairs
            .iter()
            .map(|(own, seen)| {
                let p = pose.straight(own);
                (*own, [seen[0] - p[0], seen[1] - p[1]])
            })
            .collect();
        let square: f64 = left_over.iter().map(|(_, d)| d[0] * d[0] + d[1] * d[1]).sum();
        pose.miss = (square / left_over.len() as f64).sqrt() / (pose.scale * own);
        if pose.miss > 0.30 {
            return Err(PoseProblem::NoFace);
        }
        pose.bend = left_over;
        Ok(pose)
    }

    /// Pixel of a point given in the head's own frame, before bending.
    pub(super) fn straight(&self, own: &Vec3) -> Point {
        let p = self.rotation * own.component_mul(&self.stretch);
        let k = self.scale / (1.0 - p.z * self.near).max(0.2);
        [self.at[0] + k * p.x, self.at[1] - k * p.y]
    }

    /// Pixel of a point given in the head's own frame.
    pub fn pixel(&self, own: &Vec3) -> Point {
        let [mut x, mut y] = self.straight(own);
        let (mut sum, mut dx, mut dy) = (1e-3, 0.0, 0.0);
        for (at, d) in &self.bend {
            let w = (-(own - at).norm_squared() / (2.0 * BEND * BEND)).exp();
            sum += w;
            dx += w * d[0];
            dy += w * d[1];
        }
        // Weights that sum to less than one fade out between far landmarks.
        let k = DAMPED / sum.max(1.0);
        x += k * dx;
        y += k * dy;
        [x, y]
    }

    /// Place of a point relative to between the eyes, camera frame, metres.
    pub fn place(&self, own: &Vec3) -> Vec3 {
        self.rotation * own.component_mul(&self.stretch)
    }

    /// A normal of the head in the camera frame.
    pub fn normal(&self, own: &Vec3) -> Vec3 {
        (self.rotation * own.component_div(&self.stretch)).normalize()
    }

    /// A direction of the head's own frame in the camera frame, and by how much its solid angle grows.
    pub fn direction(&self, own: &Vec3) -> (Vec3, f64) {
        let s = own.component_mul(&self.stretch);
        let l = s.norm();
        (self.rotation * s / l, self.stretch.product() / l.powi(3))
    }

    /// A camera-frame direction in the head's own frame.
    pub fn own(&self, d: &Vec3) -> Vec3 {
        (self.rotation.transpose() * d).component_div(&self.stretch).normalize()
    }

    /// The same in words: degrees turned to image right, nodded up, tilted clockwise.
    pub fn degrees(&self) -> [f64; 3] {
        self.turn.map(f64::to_degrees)
    }
}
