//! The head of the person in the picture: a member of the family of heads, found with its pose from landmarks.
//!
//! Perspective projection of a head of the family (`heads`), maximum a posteriori over pose, the weights of the components
//! and the ways a face mesh strays, by Levenberg-Marquardt (Blanz & Vetter 1999; Romdhani & Vetter 2003 fit landmarks this
//! way). Its Hessian says what the landmarks leave open; the heads that differ most in their normals within that spread go
//! along, and the light decides between them.

use super::fit::WAYS;
use super::pose::{Pose, PoseProblem, TURN_SD};
use super::stand_in::{BANK, LANDMARKS, StandIn, WORDS, bank};
use crate::shapes::Point;
use heads::{Family, Head, NAMED, family, sight};
use nalgebra::{DMatrix, DVector, SymmetricEigen};
use optics::geometry::{Camera, Vec3, fibonacci_sphere};
use optics::solve::{Minimum, levenberg_marquardt};
use std::collections::BTreeMap;
use std::sync::LazyLock;

/// How far the heads about the fitted one stand off it, standard deviations.
pub(super) const FAR: f64 = 1.4;
/// Components fitted to a mesh, and to seven points.
const COMPONENTS: usize = 40;
const FEW_COMPONENTS: usize = 20;
/// A face mesh that was found lays its points as on a head nodded this much further up, radians: 1.7 degrees in the mean over
/// 44 people that nothing was fitted to (`tests/fixtures/make_people.py`).
const NOD_HIGH: f64 = 0.03;
/// One in so many points of the mesh is fitted: neighbours say the same.
const EVERY: usize = 3;
/// Spread of a point of the mesh besides what the family knows of it, parts of the distance between the eyes; and how many
/// neighbouring points err as one where no ways of straying are known.
const POINT_SD: f64 = 0.006;
const ALIKE: f64 = 2.0;
/// Spread of a point that is marked by hand, of the distance between the eyes.
const HAND_SD: f64 = 0.03;
/// The distance to the lens where nothing is known of it, metres, and the spread of its natural log; the same where the
/// field of view is known.
const AWAY: f64 = 1.5;
const AWAY_SD: f64 = 0.6;
const KNOWN_SD: f64 = 0.15;
/// Focal length over the picture's size from which nothing is known of the lens.
const UNKNOWN_LENS: f64 = 1000.0;
/// From the centre of an eye to its iris, metres, and from the middle between the corneas to the frame's origin.
const IRIS: f64 = 0.0105;
/// Irises in a mesh that has them, image left first.
pub const IRISES: [usize; 2] = [468, 473];

/// Directions that a head is looked at from: five degrees apart.
const LOOKED: usize = BANK / 2;

/// Between the eyes of most, metres; the most a head may be turned, radians, and its points missed, of that distance.
const EYES_APART: f64 = 0.0635;
const MOST_TURNED: f64 = 1.13;
const MOST_MISSED: f64 = 0.30;
/// A face is about as round as a ball of this radius, metres.
const ROUND: f64 = 0.08;

const NAMES: [&str; 1 + WAYS] =
    ["fitted", "variant 1", "variant 2", "variant 3", "variant 4", "variant 5", "variant 6"];

/// A person's head and those like it, each with its pose.
#[derive(Debug, Clone)]
pub(super) struct Person {
    pub heads: Vec<StandIn>,
    pub poses: Vec<Pose>,
    /// Standard deviations of turn, nod and tilt, radians.
    pub turn_sd: [f64; 3],
    /// weights of the components and of the ways of straying
    shape: Vec<f64>,
    /// how many of them are components
    components: usize,
}

/// What is seen of a face: where a point of a head should appear.
struct Sighting {
    on: On,
    seen: Point,
    sd: f64,
    /// its number in the mesh, if it strays as the mesh does
    mesh: Option<usize>,
}

/// A point of a head.
#[derive(Clone, Copy)]
enum On {
    Landmark(usize),
    Iris(usize),
}

/// What is solved for: pose (turn, nod, tilt, place, log scale, log distance), components, ways of straying.
struct Problem {
    family: &'static Family,
    sightings: Vec<Sighting>,
    components: usize,
    /// tilt of the line through the eyes, and its middle
    tilt: f64,
    middle: Point,
    eyes_px: f64,
    /// pixels per metre
    scale: f64,
    log_near: (f64, f64),
    /// what the nod is taken back by, radians
    nod_high: f64,
    /// mean place and components of what is seen
    base: Vec<(Vec3, Vec<Vec3>)>,
}

const POSE: usize = 7;

impl Problem {
    fn new(named: &BTreeMap<String, Point>, mesh: &[Point], camera: &Camera) -> Result<Problem, PoseProblem> {
        let family = family();
        let get = |n: &str| named.get(n).copied();
        let (Some(left), Some(right)) = (get(LANDMARKS[0]), get(LANDMARKS[1])) else {
            return Err(PoseProblem::TooFew);
        };
        let known = named.keys().filter(|n| LANDMARKS.contains(&n.as_str())).count();
        if known < 4 || get("nose_tip").is_none() {
            return Err(PoseProblem::TooFew);
        }
        let apart = (right[0] - left[0]).hypot(right[1] - left[1]);
        let tallest = named.values().map(|p| (p[0] - left[0]).hypot(p[1] - left[1])).fold(apart, f64::max);
        if tallest < 20.0 {
            return Err(PoseProblem::TooSmall);
        }
        let dense = mesh.len() >= family.landmarks().len();
        // turned heads have their eyes nearer to one another
        let eyes_px = apart.max(0.55 * tallest);
        let sightings = sightings(family, named, if dense { mesh } else { &[] }, eyes_px);
        let components = if dense { COMPONENTS } else { FEW_COMPONENTS }.min(family.components());
        let base = sightings.iter().map(|s| place(family, s.on, components)).collect();
        let scale = eyes_px / EYES_APART;
        let size = camera.centre[0].max(camera.centre[1]);
        let log_near = if camera.focal_px > UNKNOWN_LENS * size {
            ((1.0 / AWAY).ln(), AWAY_SD)
        } else {
            ((scale / camera.focal_px).ln(), KNOWN_SD)
        };
        Ok(Problem {
            family,
            sightings,
            components,
            tilt: (right[1] - left[1]).atan2(right[0] - left[0]),
            middle: [0.5 * (left[0] + right[0]), 0.5 * (left[1] + right[1])],
            eyes_px,
            scale,
            log_near,
            nod_high: if dense { NOD_HIGH } else { 0.0 },
            base,
        })
    }

    /// Unknowns of the mean head, turned by `yaw`.
    fn start(&self, yaw: f64) -> DVector<f64> {
        let mut x = DVector::zeros(self.unknowns());
        (x[0], x[2], x[3], x[4]) = (yaw, self.tilt, self.middle[0], self.middle[1]);
        (x[5], x[6]) = (self.scale.ln(), self.log_near.0);
        x
    }

    fn clamp(x: &mut DVector<f64>) {
        (0..3).for_each(|k| x[k] = x[k].clamp(-1.45, 1.45));
        x[6] = x[6].clamp(-4.0, 1.4);
        (POSE..x.len()).for_each(|k| x[k] = x[k].clamp(-3.5, 3.5));
    }

    /// Steps of the differences.
    fn steps(&self) -> Vec<f64> {
        let mut steps = vec![1e-3; self.unknowns()];
        steps[..3].fill(1e-4);
        steps[3..5].fill(1e-3 * self.eyes_px);
        steps[5] = 1e-4;
        steps
    }

    fn solve(&self, start: DVector<f64>, steps: usize) -> Minimum {
        levenberg_marquardt(start, &self.steps(), steps, |x| self.residuals(x), Problem::clamp)
    }

    /// Solves for the pose alone.
    fn solve_pose(&self, start: DVector<f64>) -> DVector<f64> {
        let whole = |pose: &DVector<f64>| {
            let mut x = start.clone();
            x.as_mut_slice()[..POSE].copy_from_slice(pose.as_slice());
            x
        };
        let pose = DVector::from_column_slice(&start.as_slice()[..POSE]);
        let steps = &self.steps()[..POSE];
        whole(&levenberg_marquardt(pose, steps, 12, |p| self.residuals(&whole(p)), |_| ()).x)
    }

    /// How far the points are missed, over the distance between the eyes; or why this is no face to read.
    fn check(&self, x: &DVector<f64>) -> Result<f64, PoseProblem> {
        if x[0].abs() > MOST_TURNED {
            return Err(PoseProblem::Profile);
        }
        let left_over = left_over(self, x);
        let square: f64 = left_over.iter().map(|(_, d)| d[0] * d[0] + d[1] * d[1]).sum();
        let miss = (square / left_over.len().max(1) as f64).sqrt() / self.eyes_px;
        if miss > MOST_MISSED { Err(PoseProblem::NoFace) } else { Ok(miss) }
    }

    /// Weights of the components and of the ways of straying.
    fn shape(&self, x: &DVector<f64>) -> Vec<f64> {
        x.as_slice()[POSE..].to_vec()
    }

    fn head(&self, x: &DVector<f64>) -> Head<'static> {
        self.family.head(&x.as_slice()[POSE..POSE + self.components])
    }

    fn unknowns(&self) -> usize {
        POSE + self.components + self.family.modes().len()
    }

    fn pose(&self, x: &DVector<f64>) -> Pose {
        Pose::placed([x[0], x[1], x[2]], [x[3], x[4]], x[5].exp(), x[6].exp())
    }

    /// Where a point of the mesh strays to from where the head has it.
    fn strayed(&self, s: &Sighting, mut p: Point, modes: &[f64]) -> Point {
        if let Some(i) = s.mesh {
            for (m, w) in self.family.modes().iter().zip(modes) {
                (0..2).for_each(|k| p[k] += w * m[i][k] * self.eyes_px);
            }
        }
        p
    }

    fn residuals(&self, x: &DVector<f64>) -> DVector<f64> {
        let pose = self.pose(x);
        let weights = &x.as_slice()[POSE..POSE + self.components];
        let modes = &x.as_slice()[POSE + self.components..];
        let mut out = Vec::with_capacity(2 * self.sightings.len() + x.len());
        for (s, (mean, parts)) in self.sightings.iter().zip(&self.base) {
            let own = parts.iter().zip(weights).fold(*mean, |p, (d, w)| p + d * *w);
            let p = self.strayed(s, pose.straight(&own), modes);
            out.extend([soft((p[0] - s.seen[0]) / s.sd), soft((p[1] - s.seen[1]) / s.sd)]);
        }
        out.extend([0, 1, 2].map(|k| (x[k] - if k == 2 { self.tilt } else { 0.0 }) / TURN_SD[k]));
        out.push((x[6] - self.log_near.0) / self.log_near.1);
        out.extend(weights.iter().chain(modes));
        DVector::from_vec(out)
    }
}

/// Large residuals weigh by their root (Huber 1964).
fn soft(r: f64) -> f64 {
    let a = r.abs();
    if a <= 2.5 { r } else { (5.0 * a - 6.25).sqrt().copysign(r) }
}

impl Person {
    /// Weights of the family's components, standard deviations.
    pub fn weights(&self) -> &[f64] {
        &self.shape[..self.components.min(self.shape.len())]
    }

    /// Fits a head to the points of a face mesh, or, without them, to named points.
    ///
    /// # Errors
    /// A [`PoseProblem`].
    pub fn fit(named: &BTreeMap<String, Point>, mesh: &[Point], camera: &Camera) -> Result<Person, PoseProblem> {
        let problem = Problem::new(named, mesh, camera)?;
        // The turn may start on either side of a wrong valley: first steps tell.
        let starts = [-0.5, 0.0, 0.5].map(|yaw| problem.solve(problem.start(yaw), 6));
        let first = starts.into_iter().min_by(|a, b| a.cost.total_cmp(&b.cost)).ok_or(PoseProblem::NoFace)?;
        let best = problem.solve(first.x, 25);
        let miss = problem.check(&best.x)?;
        let n = problem.unknowns();
        let hessian = best.jacobian.tr_mul(&best.jacobian);
        let spread = (hessian + DMatrix::identity(n, n) * 1e-9).try_inverse();
        let spread = spread.unwrap_or_else(|| DMatrix::identity(n, n));
        let turn_sd = [0, 1, 2].map(|k| spread[(k, k)].max(0.0).sqrt());
        let open = open_of(&problem.head(&best.x));
        let mut person = Person {
            heads: Vec::new(),
            poses: Vec::new(),
            turn_sd,
            shape: problem.shape(&best.x),
            components: problem.components,
        };
        for mut x in [best.x.clone()].into_iter().chain(ways(&problem, &best.x, spread)) {
            x[1] -= problem.nod_high;
            let mut pose = problem.pose(&x);
            (pose.miss, pose.cost) = (miss, best.cost);
            pose.bend_by(left_over(&problem, &x));
            person.heads.push(stand_in(NAMES[person.heads.len()], &problem.head(&x), &open));
            person.poses.push(pose);
        }
        Ok(person)
    }

    /// The same head where its points moved a little: its shape is kept, and it alone.
    ///
    /// # Errors
    /// A [`PoseProblem`].
    pub fn again(
        &self,
        named: &BTreeMap<String, Point>,
        mesh: &[Point],
        camera: &Camera,
    ) -> Result<Person, PoseProblem> {
        let problem = Problem::new(named, mesh, camera)?;
        let mut x = problem.start(0.0);
        let before = self.poses.first().ok_or(PoseProblem::NoFace)?;
        (0..3).for_each(|k| x[k] = before.turn[k]);
        x[1] += problem.nod_high;
        if x.len() == POSE + self.shape.len() {
            x.as_mut_slice()[POSE..].copy_from_slice(&self.shape);
        }
        let best = problem.solve_pose(x);
        let miss = problem.check(&best)?;
        let mut best = best;
        best[1] -= problem.nod_high;
        let mut pose = problem.pose(&best);
        pose.miss = miss;
        pose.bend_by(left_over(&problem, &best));
        Ok(Person {
            heads: self.heads.first().cloned().into_iter().collect(),
            poses: vec![pose],
            turn_sd: self.turn_sd,
            shape: self.shape.clone(),
            components: self.components,
        })
    }
}

/// What is seen, with its spread.
fn sightings(family: &Family, named: &BTreeMap<String, Point>, mesh: &[Point], eyes_px: f64) -> Vec<Sighting> {
    let mut out = Vec::new();
    if mesh.is_empty() {
        let sd = (HAND_SD * eyes_px).max(1.0);
        for (name, i) in NAMED {
            out.extend(named.get(name).map(|p| Sighting { on: On::Landmark(i), seen: *p, sd, mesh: None }));
        }
        for (k, name) in LANDMARKS[..2].iter().enumerate() {
            out.extend(named.get(*name).map(|p| Sighting { on: On::Iris(k), seen: *p, sd, mesh: None }));
        }
        return out;
    }
    let alike = if family.modes().is_empty() { ALIKE } else { 1.0 };
    for (i, l) in family.landmarks().iter().enumerate().step_by(EVERY) {
        let sd = (alike * POINT_SD.hypot(l.miss) * eyes_px).max(0.7);
        out.push(Sighting { on: On::Landmark(i), seen: mesh[i], sd, mesh: Some(i) });
    }
    for (k, i) in IRISES.into_iter().enumerate() {
        // an eye may look elsewhere by 20 degrees
        out.extend(mesh.get(i).map(|p| Sighting { on: On::Iris(k), seen: *p, sd: 0.06 * eyes_px, mesh: None }));
    }
    out
}

/// Mean place of a point and what each component adds to it.
fn place(family: &Family, on: On, components: usize) -> (Vec3, Vec<Vec3>) {
    let (vertex, offset) = match on {
        On::Landmark(i) => (family.landmarks()[i].vertex, family.landmarks()[i].offset),
        On::Iris(k) => (family.vertices() + k, Vec3::new(0.0, 0.0, IRIS)),
    };
    (family.mean(vertex) + offset, (0..components).map(|k| family.component(k, vertex)).collect())
}

/// What is left over at each point seen: its place on the head and pixels.
fn left_over(problem: &Problem, x: &DVector<f64>) -> Vec<(Vec3, [f64; 2])> {
    let pose = problem.pose(x);
    let (weights, modes) = x.as_slice()[POSE..].split_at(problem.components);
    let one = |(s, (mean, parts)): (&Sighting, &(Vec3, Vec<Vec3>))| {
        let own = parts.iter().zip(weights).fold(*mean, |p, (d, w)| p + d * *w);
        let p = problem.strayed(s, pose.straight(&own), modes);
        (own, [s.seen[0] - p[0], s.seen[1] - p[1]])
    };
    problem.sightings.iter().zip(&problem.base).filter(|(s, _)| matches!(s.on, On::Landmark(_))).map(one).collect()
}

/// Unknowns of heads about the fitted one: along what changes normals most within the spread.
fn ways(problem: &Problem, x: &DVector<f64>, spread: DMatrix<f64>) -> Vec<DVector<f64>> {
    let eigen = SymmetricEigen::new(spread);
    let roots = DVector::from_iterator(x.len(), eigen.eigenvalues.iter().map(|v| v.max(0.0).sqrt()));
    let half = &eigen.eigenvectors * DMatrix::from_diagonal(&roots);
    let normals = |x: &DVector<f64>| -> Vec<f64> {
        let head = problem.head(x);
        let pose = problem.pose(x);
        let front = head.normals().iter().zip(problem.family.front());
        front.filter(|(_, f)| **f).step_by(3).flat_map(|(n, _)| <[f64; 3]>::from(pose.rotation * n)).collect()
    };
    let here = normals(x);
    let mut slope = DMatrix::zeros(here.len(), x.len());
    for k in (0..3).chain(POSE..POSE + problem.components) {
        let h = if k < 3 { 0.01 } else { 0.3 };
        let mut moved = x.clone();
        moved[k] += h;
        let there = normals(&moved);
        slope.column_mut(k).iter_mut().zip(there.iter().zip(&here)).for_each(|(s, (t, n))| *s = (t - n) / h);
    }
    // a head that lies elsewhere shows other points at the same pixels
    let turned = 1.0 / (problem.pose(x).scale * ROUND);
    slope.column_mut(3).iter_mut().step_by(3).for_each(|s| *s = -turned);
    slope.column_mut(4).iter_mut().skip(1).step_by(3).for_each(|s| *s = turned);
    let acting = slope * &half;
    let ranked = SymmetricEigen::new(acting.tr_mul(&acting));
    let mut order: Vec<usize> = (0..x.len()).collect();
    order.sort_by(|a, b| ranked.eigenvalues[*b].total_cmp(&ranked.eigenvalues[*a]));
    let along = |k: &usize| &half * ranked.eigenvectors.column(*k) * FAR;
    order.iter().take(WAYS).map(along).map(|d| x + &d).collect()
}

/// Directions that are looked along, and for each of the bank the nearest of them.
static COARSE: LazyLock<(Vec<Vec3>, Vec<usize>)> = LazyLock::new(|| {
    let coarse = fibonacci_sphere(LOOKED);
    let nearest =
        |d: &Vec3| (0..coarse.len()).max_by(|a, b| coarse[*a].dot(d).total_cmp(&coarse[*b].dot(d))).unwrap_or_default();
    let nearest = bank().iter().map(nearest).collect();
    (coarse, nearest)
});

/// From where each point of a head's skin is lit, as bits of the bank.
fn open_of(head: &Head) -> Vec<[u64; WORDS]> {
    let points = head.skin();
    let (coarse, nearest) = &*COARSE;
    let seen = sight(head, &points, coarse);
    let mut bits = vec![[0u64; WORDS]; points.len()];
    for (j, near) in nearest.iter().enumerate() {
        for (b, open) in bits.iter_mut().zip(&seen[*near]) {
            b[j / 64] |= u64::from(*open) << (j % 64);
        }
    }
    bits
}

/// A head to read with: its skin, and what of it is open.
fn stand_in(name: &'static str, head: &Head, open: &[[u64; WORDS]]) -> StandIn {
    let places = head.landmarks();
    let mut landmarks: BTreeMap<&'static str, Vec3> = NAMED.iter().map(|(n, i)| (*n, places[*i])).collect();
    for (n, eye) in LANDMARKS.iter().zip(head.eyes()) {
        landmarks.insert(n, eye + Vec3::new(0.0, 0.0, IRIS));
    }
    StandIn::of(name, landmarks, head.skin().into_iter().map(|p| (p.at, p.normal)).zip(open.iter().copied()))
}

#[cfg(test)]
mod tests {
    use super::*;

    const CAMERA: Camera = Camera { focal_px: 2500.0, centre: [400.0, 500.0], pitch: 0.0 };

    /// Named points and mesh of a head of given weights and pose (turn, nod, tilt in degrees), 1.5 m away, nodded up as found
    /// meshes lie.
    fn seen(weights: &[f64], mut degrees: [f64; 3]) -> (BTreeMap<String, Point>, Vec<Point>) {
        degrees[1] += NOD_HIGH.to_degrees();
        let head = family().head(weights);
        let near = 1.0 / 1.5;
        let pose = Pose::placed(degrees.map(f64::to_radians), [410.0, 470.0], CAMERA.focal_px * near, near);
        let iris = Vec3::new(0.0, 0.0, IRIS);
        let mut mesh: Vec<Point> = head.landmarks().iter().map(|p| pose.straight(p)).collect();
        let eyes = head.eyes().map(|e| pose.straight(&(e + iris)));
        let mut named: BTreeMap<String, Point> = NAMED.iter().map(|(n, i)| ((*n).to_owned(), mesh[*i])).collect();
        for (name, eye) in LANDMARKS.iter().zip(eyes) {
            named.insert((*name).to_owned(), eye);
        }
        // ten points of the irises, of which two count
        mesh.extend((0..10).map(|k| eyes[k / 5]));
        (named, mesh)
    }

    /// Noise of a mesh, pixels, the same each time.
    fn stray(mesh: &mut [Point], px: f64) {
        for (i, p) in mesh.iter_mut().enumerate() {
            let wave = |k: f64| ((i as f64 * k).sin() * 43758.5453).fract() - 0.5;
            (p[0], p[1]) = (p[0] + 3.4 * px * wave(12.9898), p[1] + 3.4 * px * wave(78.233));
        }
    }

    fn off(person: &Person, want: [f64; 3]) -> [f64; 3] {
        let got = person.poses[0].degrees();
        [0, 1, 2].map(|k| (got[k] - want[k]).abs())
    }

    #[test]
    fn a_true_mesh_gives_pose_and_shape_back() {
        for (weights, pose) in [
            (vec![0.0], [0.0, 0.0, 0.0]),
            (vec![1.0, -1.0, 0.5], [25.0, -6.0, 4.0]),
            (vec![-1.2, 0.4, 1.0, -0.8], [-30.0, 8.0, -5.0]),
        ] {
            let (named, mesh) = seen(&weights, pose);
            let person = Person::fit(&named, &mesh, &CAMERA).unwrap();
            let [turn, nod, tilt] = off(&person, pose);
            assert!(turn < 1.5 && nod < 2.5 && tilt < 1.0, "{pose:?}: {turn:.1} {nod:.1} {tilt:.1}");
            assert!(person.heads.len() == 1 + WAYS && person.poses.len() == 1 + WAYS);
            // the profile: skin of the fitted head against the true one
            let head = family().head(&weights);
            let skin = head.skin();
            let miss = |p: &super::super::SkinPoint| skin.iter().map(|s| (s.at - p.at).norm()).fold(f64::MAX, f64::min);
            let points = person.heads[0].points.iter().step_by(9);
            let (sum, n) = points.map(miss).fold((0.0, 0.0), |(s, n), m| (s + m, n + 1.0));
            assert!(sum / n < 0.003, "mean miss {:.1} mm", 1000.0 * sum / n);
        }
    }

    #[test]
    fn a_noisy_mesh_is_within_its_spread() {
        let pose = [18.0, 5.0, -3.0];
        let (named, mut mesh) = seen(&[0.8, 0.6, -0.5], pose);
        stray(&mut mesh, 2.0);
        let person = Person::fit(&named, &mesh, &CAMERA).unwrap();
        for (k, off) in off(&person, pose).into_iter().enumerate() {
            let sd = person.turn_sd[k].to_degrees();
            assert!(off < 3.0 * sd.max(0.7) && sd < 8.0, "{k}: {off:.2} off, sd {sd:.2}");
        }
    }

    #[test]
    fn seven_points_tell_less_than_a_mesh() {
        let pose = [-15.0, 0.0, 2.0];
        let (named, mesh) = seen(&[0.5], pose);
        let by_mesh = Person::fit(&named, &mesh, &CAMERA).unwrap();
        let by_hand = Person::fit(&named, &[], &CAMERA).unwrap();
        assert!(by_hand.turn_sd[0] > by_mesh.turn_sd[0] && by_hand.turn_sd[1] > by_mesh.turn_sd[1]);
        assert!(off(&by_hand, pose)[0] < 6.0);
    }

    #[test]
    fn a_head_that_moved_is_followed() {
        let (named, mesh) = seen(&[0.5, -0.5], [10.0, 2.0, 0.0]);
        let person = Person::fit(&named, &mesh, &CAMERA).unwrap();
        let shifted: Vec<Point> = mesh.iter().map(|p| [p[0] + 9.0, p[1] - 5.0]).collect();
        let named = named.into_iter().map(|(n, p)| (n, [p[0] + 9.0, p[1] - 5.0])).collect();
        let again = person.again(&named, &shifted, &CAMERA).unwrap();
        let (was, is) = (&person.poses[0], &again.poses[0]);
        assert!((is.at[0] - was.at[0] - 9.0).abs() < 1.0 && (is.at[1] - was.at[1] + 5.0).abs() < 1.0);
        assert!((is.turn[0] - was.turn[0]).abs() < 0.02);
        assert_eq!(again.heads.len(), 1);
    }

    #[test]
    fn what_is_no_face_is_refused() {
        let (named, mesh) = seen(&[], [0.0; 3]);
        let mut few = named.clone();
        few.retain(|n, _| n.starts_with("eye"));
        assert!(matches!(Person::fit(&few, &mesh, &CAMERA), Err(PoseProblem::TooFew)));
        let tiny = named.iter().map(|(n, p)| (n.clone(), p.map(|v| v * 0.05))).collect();
        let small: Vec<Point> = mesh.iter().map(|p| p.map(|v| v * 0.05)).collect();
        assert!(matches!(Person::fit(&tiny, &small, &CAMERA), Err(PoseProblem::TooSmall)));
        // a mesh whose points were shuffled is no face
        let torn: Vec<Point> = (0..mesh.len()).map(|i| mesh[(i * 197) % mesh.len()]).collect();
        assert!(Person::fit(&named, &torn, &CAMERA).is_err());
        let (profile, side) = seen(&[], [75.0, 0.0, 0.0]);
        assert!(matches!(Person::fit(&profile, &side, &CAMERA), Err(PoseProblem::Profile)));
    }
}
