//! Bottles, cans and rods: two long edges, and brightness that runs along them; standing ones also by their shading, through print.

use super::likely::Signs;
use super::small::{EdgePoint, Small};
use direction::{cylinder, label};
use optics::geometry::Camera;
use optics::photo::Photo;

/// A cylinder on the photo.
pub(super) struct Found {
    pub axis: [[f64; 2]; 2],
    pub radius: f64,
    /// How well rows across look alike, 0 to 1.
    pub alike: f64,
    /// Share of its long edges on which an edge lies.
    pub filled: f64,
    /// Rows differ by what is printed on them.
    pub printed: bool,
    /// Its brightest line over what is beside it, stops.
    pub brightest: f64,
    /// Natural log of its length over its width.
    pub slender: f64,
    pub strips: usize,
    /// What its shading leaves over, part of its brightest, if it is known by its shading and not by lines.
    pub shading: Option<f64>,
}

impl Found {
    /// What speaks for it.
    pub fn signs(&self) -> Signs {
        if let Some(left) = self.shading {
            return Signs { kind: "label", values: vec![left * 10.0, self.filled, self.slender] };
        }
        Signs {
            kind: "cylinder",
            values: vec![
                self.alike,
                self.filled,
                self.slender,
                (self.strips as f64).min(6.0).ln(),
                f64::from(u8::from(self.printed)),
                self.brightest,
            ],
        }
    }

    /// Whether a point lies on it or on its ends.
    pub fn holds(&self, p: [f64; 2]) -> bool {
        let [a, b] = self.axis;
        let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
        let l = dx.hypot(dy).max(1e-9);
        let (t, o) = (((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / l, ((p[0] - a[0]) * dy - (p[1] - a[1]) * dx) / l);
        o.abs() < 1.2 * self.radius && t > -self.radius && t < l + self.radius
    }
}

/// A straight edge on the reduced picture: `x cos t + y sin t = rho`, from `low` to `high` along it.
#[derive(Debug, Clone, Copy)]
struct Line {
    tilt: f64,
    rho: f64,
    low: f64,
    high: f64,
    /// Share of its length on which an edge lies.
    filled: f64,
}

/// Tilts tried to each side of upright or level, and their step, in degrees.
const TILT: i32 = 12;
/// Part of the picture an edge must run along.
const LONG: f64 = 0.22;
/// Places to each side that an edge is moved to at either end, rows it is looked at in, and how far to each side of it a step is
/// taken, pixels; a step of square roots of light that is one, and one that is as good as any.
const MOVES: i32 = 6;
const EDGE_ROWS: usize = 40;
const STEP_REACH: f64 = 1.5;
const WEAK_STEP: f64 = 0.03;
const STRONG_STEP: f64 = 0.1;
/// Rows and columns of samples on what two edges bound.
const ROWS: usize = 24;
const COLUMNS: usize = 48;
/// Part of the picture's side within which an end lies at its border.
const BORDER: f64 = 0.05;
/// How well rows across must look alike.
const ALIKE: f64 = 0.6;
/// Columns of 48 to each side that a bright line through print is held against, and by how much it is brighter (of
/// square roots of light).
const BESIDE: [usize; 3] = [3, 5, 8];
const BRIGHTER: f64 = 1.05;
/// Likeness times filled edges from which it is weighed at all.
const STRENGTH: f64 = 0.5;
/// Outlines whose shading is looked at, at most, and what shading may leave over.
const SHADED: usize = 12;
const LEFT_OVER: f64 = 0.05;
/// Proposed at most.
const MOST: usize = 2;

pub(super) fn find(photo: &Photo, small: &Small) -> Vec<Found> {
    let mut all: Vec<(f64, Found)> = Vec::new();
    let mut standing: Vec<Outline> = Vec::new();
    for lying in [false, true] {
        let lines = lines(small, lying);
        for (i, a) in lines.iter().enumerate() {
            for b in &lines[i + 1..] {
                let Some(o) = outline(small, a, b) else { continue };
                let shines = shining(photo, small, &o);
                if shines.is_none() && !lying {
                    standing.push(o);
                }
                all.extend(shines);
            }
        }
    }
    all.sort_by(|a, b| b.0.total_cmp(&a.0));
    // those whose shading is looked at come after those with lines, the longest and best filled first
    standing.sort_by(|a, b| b.size().total_cmp(&a.size()));
    let mut shaded: Vec<(f64, Found)> = standing.iter().take(SHADED).filter_map(|o| shaded(photo, small, o)).collect();
    shaded.sort_by(|a, b| b.0.total_cmp(&a.0));
    all.extend(shaded);
    let mut out: Vec<Found> = Vec::new();
    for (_, f) in all {
        let mid = |f: &Found| [0, 1].map(|k| f64::midpoint(f.axis[0][k], f.axis[1][k]));
        let near = |o: &Found| {
            let (p, q) = (mid(o), mid(&f));
            (p[0] - q[0]).hypot(p[1] - q[1]) < 1.5 * o.radius.max(f.radius)
        };
        if !out.iter().any(near) {
            out.push(f);
        }
        if out.len() == MOST {
            break;
        }
    }
    out
}

/// Long straight edges, near upright or near level (Hough 1962 over a narrow range of tilts).
fn lines(small: &Small, lying: bool) -> Vec<Line> {
    let (along, across) = if lying { (small.width, small.height) } else { (small.height, small.width) };
    // upright: the normal runs along x
    let turn = if lying { std::f64::consts::FRAC_PI_2 } else { 0.0 };
    let mut found: Vec<(usize, Line)> = Vec::new();
    for step in -TILT..=TILT {
        let tilt = turn + f64::from(step).to_radians();
        let (s, c) = tilt.sin_cos();
        let wanted: Vec<&EdgePoint> =
            small.edges.iter().filter(|e| (f64::from(e.dx) * c + f64::from(e.dy) * s).abs() > 0.97).collect();
        let offset = across as f64;
        let mut bins: Vec<Vec<f64>> = vec![Vec::new(); 3 * across + 1];
        for e in wanted {
            let (x, y) = (f64::from(e.x), f64::from(e.y));
            let rho = x * c + y * s;
            let k = (rho + offset).round();
            if k >= 0.0 && (k as usize) < bins.len() {
                bins[k as usize].push(-x * s + y * c);
            }
        }
        for k in 1..bins.len().saturating_sub(1) {
            let count = bins[k - 1].len() + 2 * bins[k].len() + bins[k + 1].len();
            if (bins[k].len() as f64) < 0.1 * along as f64 || bins[k].len() < bins[k - 1].len().max(bins[k + 1].len()) {
                continue;
            }
            let mut t: Vec<f64> = bins[k - 1..=k + 1].iter().flatten().copied().collect();
            t.sort_by(f64::total_cmp);
            let (low, high) = (t[t.len() / 50], t[t.len() - 1 - t.len() / 50]);
            let rows: std::collections::BTreeSet<i64> = t.iter().map(|v| v.floor() as i64).collect();
            let filled = rows.len() as f64 / (high - low).max(1.0);
            if high - low > LONG * along as f64 && filled > 0.6 {
                found.push((count, Line { tilt, rho: k as f64 - offset, low, high, filled: filled.min(1.0) }));
            }
        }
    }
    found.sort_by_key(|f| std::cmp::Reverse(f.0));
    let mut out: Vec<Line> = Vec::new();
    for (_, l) in found {
        let same = |o: &Line| (o.rho - l.rho).abs() < 4.0 + 0.25 * along as f64 * (o.tilt - l.tilt).abs();
        if !out.iter().any(same) {
            out.push(l);
        }
        if out.len() == 24 {
            break;
        }
    }
    out
}

/// Share of rows in which one and the same column is brighter than what is beside it on both sides.
fn runs_through(rows: &[Vec<f64>]) -> f64 {
    let columns = rows.first().map_or(0, Vec::len);
    let share = |j: usize, off: usize| {
        let over = |r: &&Vec<f64>| r[j] > BRIGHTER * r[j - off].max(r[j + off]);
        rows.iter().filter(over).count() as f64 / rows.len().max(1) as f64
    };
    BESIDE.iter().flat_map(|off| (*off..columns.saturating_sub(*off)).map(move |j| share(j, *off))).fold(0.0, f64::max)
}

/// Two edges side by side on the reduced picture.
struct Outline {
    tilt: f64,
    /// along, and of the line through the middle
    low: f64,
    high: f64,
    rho: f64,
    width: f64,
    filled: f64,
}

impl Outline {
    /// A place on it: `t` along, `across` from -1 to 1.
    fn point(&self, t: f64, across: f64) -> (f64, f64) {
        let (s, c) = self.tilt.sin_cos();
        let rho = self.rho + across * self.width / 2.0;
        (rho * c - t * s, rho * s + t * c)
    }

    /// The outline lies furthest out of all edges that run along.
    fn size(&self) -> f64 {
        self.filled * (self.high - self.low) * self.width.sqrt()
    }

    /// Axis and radius on the photo, the foot first.
    fn placed(&self, small: &Small) -> ([[f64; 2]; 2], f64) {
        let end = |t: f64| {
            let (x, y) = self.point(t, 0.0);
            [x * small.scale, y * small.scale]
        };
        let axis = [end(self.low), end(self.high)];
        let axis = if axis[0][1] >= axis[1][1] { axis } else { [axis[1], axis[0]] };
        (axis, self.width / 2.0 * small.scale)
    }

    /// Stands out from what is beside it on both sides.
    fn stands_out(&self, small: &Small) -> bool {
        let beside = |side: f64| {
            let difference = (0..ROWS).filter_map(|i| {
                let t = self.low + (self.high - self.low) * (0.1 + 0.8 * (i as f64 + 0.5) / ROWS as f64);
                let (xo, yo) = self.point(t, side * (1.0 + 8.0 / self.width));
                let (xi, yi) = self.point(t, side * (1.0 - 8.0 / self.width));
                Some((small.luminance(xo, yo)?.sqrt() - small.luminance(xi, yi)?.sqrt()).abs())
            });
            difference.sum::<f64>() / ROWS as f64
        };
        beside(-1.0).min(beside(1.0)) >= 0.015
    }

    /// Runs out of the picture at both ends: a bar, a stripe of the wall, the gap beside a card; nothing tells it stands there.
    fn runs_through(&self, small: &Small) -> bool {
        let lies = self.tilt.abs() > std::f64::consts::FRAC_PI_4;
        let near = |t: f64| {
            let (x, y) = self.point(t, 0.0);
            let (at, size) = if lies { (x, small.width as f64) } else { (y, small.height as f64) };
            at.min(size - at) < BORDER * size
        };
        near(self.low) && near(self.high)
    }

    fn slender(&self) -> f64 {
        ((self.high - self.low) / self.width).ln()
    }
}

/// Whether two edges may bound something.
fn outline(small: &Small, a: &Line, b: &Line) -> Option<Outline> {
    let (a, b) = if a.rho < b.rho { (a, b) } else { (b, a) };
    if (a.tilt - b.tilt).abs() > 4.5f64.to_radians() {
        return None;
    }
    let (low, high) = (a.low.max(b.low), a.high.min(b.high));
    let longest = (a.high - a.low).max(b.high - b.low);
    let width = b.rho - a.rho;
    if high - low < 0.7 * longest || width < 10.0 || width > 0.9 * (high - low) {
        return None;
    }
    let tilt = f64::midpoint(a.tilt, b.tilt);
    let o = Outline { tilt, low, high, rho: f64::midpoint(a.rho, b.rho), width, filled: a.filled.min(b.filled) };
    (o.stands_out(small) && !o.runs_through(small)).then_some(o)
}

/// Whether it is shaded as one light shades a cylinder, whatever is printed on it; with its rank.
fn shaded(photo: &Photo, small: &Small, o: &Outline) -> Option<(f64, Found)> {
    let (axis, radius) = o.placed(small);
    let (axis, radius, filled) = settled(photo, axis, radius)?;
    let camera = Camera::far(photo.width(), photo.height());
    let side = label::side(photo, camera, axis, radius).filter(|s| s.residual < LEFT_OVER)?;
    let slender = o.slender();
    let found = Found {
        axis,
        radius,
        alike: 0.0,
        filled,
        printed: false,
        brightest: 0.0,
        slender,
        strips: 0,
        shading: Some(side.residual),
    };
    Some((o.size(), found))
}

/// The outline of something that stands, moved to where the picture steps most along both sides; and the share of its rows that
/// step there. What is printed breaks an edge that is found by votes. `None` where its sides are not upright or cross.
fn settled(photo: &Photo, axis: [[f64; 2]; 2], radius: f64) -> Option<([[f64; 2]; 2], f64, f64)> {
    let [foot, head] = axis;
    let reach = (0.15 * radius).clamp(3.0, 12.0);
    let moves: Vec<f64> = (0..=2 * MOVES).map(|k| reach * (f64::from(k) / f64::from(MOVES) - 1.0)).collect();
    let step_at = |x: f64, y: f64| {
        let [a, b] = [x - STEP_REACH, x + STEP_REACH].map(|x| photo.luminance_between(x, y));
        Some((a?.max(0.0).sqrt() - b?.max(0.0).sqrt()).abs())
    };
    let side = |sign: f64| {
        let steps = |low: f64, high: f64| -> Vec<f64> {
            let row = |i: usize| {
                let t = 0.04 + 0.92 * (i as f64 + 0.5) / EDGE_ROWS as f64;
                let x = foot[0] + (head[0] - foot[0]) * t + sign * radius + low + (high - low) * t;
                step_at(x, foot[1] + (head[1] - foot[1]) * t).unwrap_or(0.0)
            };
            (0..EDGE_ROWS).map(row).collect()
        };
        // a strong step in some rows is print
        let merit = |(low, high): (f64, f64)| steps(low, high).iter().map(|s| s.min(STRONG_STEP)).sum::<f64>();
        let all = moves.iter().flat_map(|a| moves.iter().map(move |b| (*a, *b)));
        let best = all.max_by(|a, b| merit(*a).total_cmp(&merit(*b)))?;
        let on = steps(best.0, best.1).iter().filter(|s| **s > WEAK_STEP).count();
        Some((best, on as f64 / EDGE_ROWS as f64))
    };
    let ((left, filled_left), (right, filled_right)) = (side(-1.0)?, side(1.0)?);
    let at = |end: [f64; 2], l: f64, r: f64| [end[0] + f64::midpoint(l, r), end[1]];
    let wide = radius + f64::midpoint(right.0 - left.0, right.1 - left.1) / 2.0;
    let axis = [at(foot, left.0, right.0), at(head, left.1, right.1)];
    (wide > 5.0).then_some((axis, wide, filled_left.min(filled_right)))
}

/// Whether bright lines run along it; with its rank.
fn shining(photo: &Photo, small: &Small, o: &Outline) -> Option<(f64, Found)> {
    let (low, high) = (o.low, o.high);
    let at = |i: usize, j: usize| {
        let t = low + (high - low) * (0.1 + 0.8 * (i as f64 + 0.5) / ROWS as f64);
        let (x, y) = o.point(t, 0.97 * (2.0 * (j as f64 + 0.5) / COLUMNS as f64 - 1.0));
        small.luminance(x, y).map(|l| l.max(0.0).sqrt())
    };
    let rows: Option<Vec<Vec<f64>>> = (0..ROWS).map(|i| (0..COLUMNS).map(|j| at(i, j)).collect()).collect();
    let rows = rows?;
    let mean: Vec<f64> = (0..COLUMNS).map(|j| rows.iter().map(|r| r[j]).sum::<f64>() / ROWS as f64).collect();
    let whole = mean.iter().sum::<f64>() / COLUMNS as f64;
    let between: f64 = mean.iter().map(|m| (m - whole).powi(2)).sum::<f64>() / COLUMNS as f64;
    let within = rows.iter().flat_map(|r| r.iter().zip(&mean).map(|(v, m)| (v - m).powi(2))).sum::<f64>()
        / (ROWS * COLUMNS) as f64;
    let alike = between / (between + within).max(1e-9);
    // Print differs from row to row; a bright line runs through it.
    let printed = alike < ALIKE;
    let alike = if printed { runs_through(&rows) } else { alike };
    if alike < ALIKE || between.sqrt() < 0.01 {
        return None;
    }
    let (axis, radius) = o.placed(small);
    let camera = Camera::far(photo.width(), photo.height());
    let read = cylinder::read(photo, camera, axis, radius).ok()?;
    let glossy = read.strips.iter().filter(|s| s.over_stops > 0.6).count();
    if glossy == 0 {
        return None;
    }
    if alike * o.filled < STRENGTH {
        return None;
    }
    let brightest = read.strips.iter().map(|s| s.over_stops).fold(0.0, f64::max).min(5.0);
    let (filled, slender) = (o.filled, o.slender());
    let found = Found { axis, radius, alike, filled, slender, strips: glossy, printed, brightest, shading: None };
    Some((alike * o.size(), found))
}
