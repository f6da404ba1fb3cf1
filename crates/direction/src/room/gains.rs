//! How bright what is clipped, and what is hidden, must be for a matte ball to be shaded as it is.
//!
//! `y(n) = s (E_seen(n) + sum_k g_k E_k(n) + g_h E_hidden(n))`: irradiance from what is seen, from each patch of what is
//! clipped at the light it shows, from the cone behind the ball. Non-negative least squares; a patch may be many times what
//! it shows, so that what it has over has a Cauchy prior, solved by weighing anew.

use crate::ball_matte::Shades;
use nalgebra::{DMatrix, DVector};
use optics::geometry::{Vec3, fibonacci_sphere};
use optics::light_map::LightMap;
use optics::solve::nnls_near;
use optics::unwrap::{Cell, Unwrapped};
use std::f64::consts::PI;

/// Patches that the sphere is divided into where it is clipped: of 13 degrees.
const PATCHES: usize = 240;
/// Middles of patches beside each other lie within this, radians.
const NEIGHBOURS: f64 = 0.33;
/// Scale of the Cauchy prior on what one patch has over the next, and its weight: a sky is smooth, a lamp in it is not.
const STEP: f64 = 1.0;
const STEP_WEIGHT: f64 = 0.1;
/// Width of the ring beside what is hidden from which it is filled, radians.
const RING: f64 = 0.2;
/// Rows of the map with which irradiance is summed.
const COARSE: usize = 45;
/// Error of the shading of a matte ball beside what the map gives, of its brightest part: balls stand apart, hide and mirror
/// each other; and as many neighbouring samples err alike.
const NOISE: f64 = 0.012;
const ALIKE: f64 = 4.0;
/// Albedo of a matte ball over reflectance of a mirror, mean and spread (common practice: 18 % to white; chrome 0.65, silver
/// and glass 0.95).
const ALBEDO: (f64, f64) = (0.6, 0.3);
/// What a patch is over what it shows: scale of its Cauchy prior and its weight, and the guess where no matte ball tells.
const OVER: f64 = 3.0;
const OVER_WEIGHT: f64 = 0.3;
const GUESS: f64 = 2.0;
const GUESS_SD: f64 = 3.0;
/// What is hidden over what is beside it: scale of its Cauchy prior about one, and its weight.
const HIDDEN: f64 = 0.7;
const HIDDEN_WEIGHT: f64 = 0.5;

/// Rounds of weighing anew, and sweeps of each.
const ROUNDS: usize = 10;
const SWEEPS: usize = 60;

/// A map made whole.
pub(super) struct Whole {
    pub map: LightMap,
    /// of each cell, how many times over what it shows; 1 where it was seen
    pub gain: Vec<f32>,
    /// light of what was seen, and of what is clipped as far as it shows
    pub shown: f64,
    /// rms of the shading that is left over, of its brightest part; where there is a matte ball
    pub left_over: Option<f64>,
    /// of each cell, which of the gains it has; 0 for what was seen
    pub group: Vec<usize>,
    /// covariance of the gains, from the first
    pub spread: DMatrix<f64>,
    /// what the fit costs: squares over variances, and what the gains are off what is expected of them
    pub cost: f64,
}

/// Cells in groups: what is seen, then patches of what is clipped, then what is hidden, place by place.
struct Groups {
    of: Vec<usize>,
    patches: usize,
    hidden: usize,
    /// patches that lie beside each other
    beside: Vec<(usize, usize)>,
}

fn groups(u: &Unwrapped) -> Groups {
    let map = &u.map;
    let lattice = fibonacci_sphere(PATCHES);
    let nearest = |d: &Vec3| {
        let near = |k: &usize| lattice[*k].dot(d);
        (0..PATCHES).max_by(|a, b| near(a).total_cmp(&near(b))).unwrap_or(0)
    };
    let mut of = vec![0; map.len()];
    let mut name = vec![0; PATCHES];
    let mut patches = 0;
    for i in (0..map.len()).filter(|i| u.cells[*i] == Cell::Clipped) {
        let k = nearest(&map.direction(i));
        if name[k] == 0 {
            patches += 1;
            name[k] = patches;
        }
        of[i] = name[k];
    }
    let mut hidden = 0;
    let mut hides = std::collections::BTreeMap::new();
    for (i, c) in u.cells.iter().enumerate() {
        if matches!(c, Cell::Hidden(_)) {
            let k = nearest(&map.direction(i));
            let own = *hides.entry(k).or_insert_with(|| {
                hidden += 1;
                hidden
            });
            of[i] = patches + own;
        }
    }
    let named: Vec<usize> = (0..PATCHES).filter(|k| name[*k] > 0).collect();
    let pairs = named.iter().flat_map(|a| named.iter().map(move |b| (*a, *b)));
    let beside = pairs
        .filter(|(a, b)| a < b && lattice[*a].dot(&lattice[*b]) > NEIGHBOURS.cos())
        .map(|(a, b)| (name[a], name[b]))
        .collect();
    Groups { of, patches, hidden, beside }
}

/// Fills what is hidden with the mean of what is beside it.
fn filled(u: &Unwrapped, groups: &Groups) -> LightMap {
    let mut map = u.map.clone();
    let places = u.cells.iter().filter_map(|c| if let Cell::Hidden(k) = c { Some(*k) } else { None }).max();
    for k in 0..=places.unwrap_or(0) {
        let hidden: Vec<usize> = (0..map.len()).filter(|i| u.cells[*i] == Cell::Hidden(k)).collect();
        let middle: Vec3 = hidden.iter().map(|i| map.direction(*i) * map.solid_angle(i / map.columns())).sum();
        let Some(middle) = middle.try_normalize(1e-9) else { continue };
        let reach = hidden.iter().map(|i| map.direction(*i).dot(&middle)).fold(1.0, f64::min).clamp(-1.0, 1.0).acos();
        let near = (reach + RING).min(PI).cos();
        let (mut sum, mut n) = ([0f64; 3], 0.0);
        for i in (0..map.len()).filter(|i| groups.of[*i] <= groups.patches) {
            if map.direction(i).dot(&middle) > near {
                let w = map.solid_angle(i / map.columns());
                (0..3).for_each(|c| sum[c] += w * f64::from(map.cells()[i][c]));
                n += w;
            }
        }
        if n > 0.0 {
            hidden.iter().for_each(|i| map.cells_mut()[*i] = sum.map(|v| (v / n) as f32));
        }
    }
    map
}

/// Light of each group in coarse cells: direction and luminance times solid angle.
fn coarse(map: &LightMap, groups: &Groups) -> Vec<Vec<(Vec3, f64)>> {
    let k = map.rows() / COARSE;
    let across = map.columns() / k;
    let mut sums = vec![std::collections::BTreeMap::<usize, (Vec3, f64)>::new(); groups.patches + 1 + groups.hidden];
    for (i, (d, l)) in map.light().enumerate() {
        let (row, column) = (i / map.columns() / k, i % map.columns() / k);
        let into = sums[groups.of[i]].entry(row * across + column).or_insert((Vec3::zeros(), 0.0));
        into.0 += d * l;
        into.1 += l;
    }
    let mean = |(v, l): (Vec3, f64)| Some((v.try_normalize(1e-12)?, l));
    sums.into_iter().map(|s| s.into_values().filter_map(mean).collect()).collect()
}

/// A matte ball and the mirror beside it, seen from it: centre and radius over its own, in the camera's frame.
pub(super) struct Matte<'a> {
    pub shades: &'a Shades,
    pub mirror: (Vec3, f64),
}

impl Matte<'_> {
    /// Whether the mirror stands between a point of the ball and what lies in a direction.
    fn blocked(&self, normal: &Vec3, d: &Vec3) -> bool {
        let to = self.mirror.0 - normal;
        let along = to.dot(d);
        along > 0.0 && to.norm_squared() - along * along < self.mirror.1 * self.mirror.1
    }

    /// Irradiance that the mirror gives a point if all it shows has a radiance of one: `pi cos (r / d)^2` (configuration
    /// factor of a sphere above the horizon, Howell C-140).
    fn filled_by_mirror(&self, normal: &Vec3) -> f64 {
        let to = self.mirror.0 - normal;
        PI * (normal.dot(&to) / to.norm()).max(0.0) * self.mirror.1.powi(2) / to.norm_squared()
    }
}

/// Makes a map whole by the shading of matte balls in the same light; without them what is clipped is guessed.
/// One in `every` of their samples is looked at.
pub(super) fn whole(u: &Unwrapped, matte: &[Matte], every: usize) -> Whole {
    let groups = groups(u);
    let (patches, hidden) = (groups.patches, groups.hidden);
    let map = filled(u, &groups);
    let n: usize = matte.iter().map(|m| m.shades.normal.len().div_ceil(every)).sum();
    if n == 0 {
        let guess = apply(map, groups, &vec![GUESS; patches], &vec![1.0; hidden], None);
        let sd = |k: usize| if k < patches { GUESS_SD } else { HIDDEN };
        let spread = DMatrix::from_diagonal(&DVector::from_fn(patches + hidden, |k, _| sd(k).powi(2)));
        return Whole { spread, ..guess };
    }
    let light = coarse(&map, &groups);
    let even = map.mean().1 / (4.0 * PI);
    // samples that are left out would have erred like those that are not
    let alike = (ALIKE / every as f64).max(1.0).sqrt();
    // columns: all that is seen and what is clipped as it shows; what each patch has over it; what is hidden
    let k = patches + 1 + hidden;
    let mut a = DMatrix::zeros(n, k);
    let mut y = DVector::zeros(n);
    let mut row = 0;
    for m in matte {
        let s = m.shades;
        let top = s.value.iter().copied().fold(1e-9, f64::max);
        for ((normal, value), sd) in s.normal.iter().zip(&s.value).zip(&s.sd).step_by(every) {
            let sigma = (NOISE * top).hypot(NOISE * value).hypot(*sd) * alike;
            for (c, cells) in light.iter().enumerate() {
                for (d, l) in cells {
                    let facing = normal.dot(d);
                    if facing > 0.0 && !m.blocked(normal, d) {
                        a[(row, c)] += l * facing / sigma;
                    }
                }
            }
            // what the mirror shows in the place of what it hides
            a[(row, 0)] += even * m.filled_by_mirror(normal) / sigma;
            for c in 1..=patches {
                a[(row, 0)] += a[(row, c)];
            }
            y[row] = value / sigma;
            row += 1;
        }
    }
    let gram = a.tr_mul(&a);
    let rhs = a.tr_mul(&y);
    let wanted = ALBEDO.0 / PI;
    let mut x = DVector::from_element(k, 0.0);
    x[0] = wanted;
    let mut normal = DMatrix::zeros(0, 0);
    for _ in 0..ROUNDS {
        let (mut g, mut b) = (gram.clone(), rhs.clone());
        let s = x[0].max(0.05 * wanted);
        let w = (PI / ALBEDO.1).powi(2);
        g[(0, 0)] += w;
        b[0] += w * wanted;
        for c in 1..=patches {
            g[(c, c)] += OVER_WEIGHT * 2.0 / ((OVER * s).powi(2) + x[c].powi(2));
        }
        for &(p, q) in &groups.beside {
            let w = STEP_WEIGHT * 2.0 / ((STEP * s).powi(2) + (x[p] - x[q]).powi(2));
            g[(p, p)] += w;
            g[(q, q)] += w;
            g[(p, q)] -= w;
            g[(q, p)] -= w;
        }
        for c in patches + 1..k {
            let w = HIDDEN_WEIGHT * 2.0 / ((HIDDEN * s).powi(2) + (x[c] - s).powi(2));
            g[(c, c)] += w;
            b[c] += w * s;
        }
        x = nnls_near(&g, &b, &x, SWEEPS);
        normal = g;
    }
    let s = x[0].max(1e-9);
    let squares = (&a * &x - &y).norm_squared();
    let left = (squares / n as f64).sqrt() * NOISE * alike;
    let cauchy = |v: f64, scale: f64| 2.0 * (v / (scale * s)).powi(2).ln_1p();
    let cost = squares
        + ((PI * s - ALBEDO.0) / ALBEDO.1).powi(2)
        + (1..=patches).map(|c| OVER_WEIGHT * cauchy(x[c], OVER)).sum::<f64>()
        + (patches + 1..k).map(|c| HIDDEN_WEIGHT * cauchy(x[c] - s, HIDDEN)).sum::<f64>()
        + groups.beside.iter().map(|&(p, q)| STEP_WEIGHT * cauchy(x[p] - x[q], STEP)).sum::<f64>();
    let over: Vec<f64> = (1..=patches).map(|c| x[c] / s).collect();
    let hidden: Vec<f64> = (patches + 1..k).map(|c| x[c] / s).collect();
    // in units of what is seen
    let spread = if every > 1 { None } else { normal.try_inverse() };
    let spread = spread.map_or_else(|| DMatrix::zeros(k - 1, k - 1), |c| c.view((1, 1), (k - 1, k - 1)) / (s * s));
    Whole { cost, spread, ..apply(map, groups, &over, &hidden, Some(left)) }
}

fn apply(mut map: LightMap, groups: Groups, over: &[f64], hidden: &[f64], left_over: Option<f64>) -> Whole {
    let gain: Vec<f32> = groups
        .of
        .iter()
        .map(|g| match *g {
            0 => 1.0,
            g if g <= groups.patches => 1.0 + over[g - 1] as f32,
            g => hidden[g - 1 - groups.patches] as f32,
        })
        .collect();
    let shown = map.light().zip(&groups.of).filter(|(_, g)| **g <= groups.patches).map(|((_, l), _)| l).sum();
    map.cells_mut().iter_mut().zip(&gain).for_each(|(c, g)| *c = c.map(|v| v * g));
    Whole { map, gain, shown, left_over, group: groups.of, spread: DMatrix::zeros(0, 0), cost: 0.0 }
}
