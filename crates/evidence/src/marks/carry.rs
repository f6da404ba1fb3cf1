//! Marks of one picture as they lie in another.

use super::{Mark, MarkKind, Marks, Point};

impl Marks {
    /// The same marks on a picture `k` times as large: pixels are scaled, degrees, metres and clocks are not.
    pub fn scaled(&self, k: f64) -> Marks {
        self.mapped(&|p| [k * p[0], k * p[1]], &|_| (k, 0.0))
    }

    /// The same marks on a picture in which a point lies elsewhere. `local` gives at a point how many pixels there one
    /// pixel here is, and the turn in degrees clockwise.
    pub fn mapped(&self, point: &dyn Fn(Point) -> Point, local: &dyn Fn(Point) -> (f64, f64)) -> Marks {
        let carried = |m: &Mark| {
            let (k, turn) = m.kind.anchor().map_or((1.0, 0.0), local);
            Mark { kind: m.kind.carried(&Carry { point, k, turn }), ..m.clone() }
        };
        Marks { marks: self.marks.iter().map(carried).collect(), ..self.clone() }
    }
}

/// How one mark goes to another picture.
struct Carry<'a> {
    point: &'a dyn Fn(Point) -> Point,
    /// Pixels there per pixel here.
    k: f64,
    /// Degrees clockwise.
    turn: f64,
}

impl Carry<'_> {
    fn point(&self, p: &Point) -> Point {
        (self.point)(*p)
    }

    fn points(&self, p: &[Point]) -> Vec<Point> {
        p.iter().map(|q| self.point(q)).collect()
    }

    fn clock(&self, hours: f64) -> f64 {
        if self.turn == 0.0 { hours } else { (hours + self.turn / 30.0).rem_euclid(12.0) }
    }
}

impl MarkKind {
    /// The mark on another picture: points go where they lie, lengths in pixels are scaled, an ellipse's angle and the
    /// clock of a gaze are turned; metres, reflectances and words stay.
    fn carried(&self, c: &Carry) -> MarkKind {
        let mut kind = self.clone();
        match &mut kind {
            MarkKind::Ball { centre, radius_px, .. } => {
                *centre = c.point(centre);
                *radius_px *= c.k;
            }
            MarkKind::Eye { limbus, looks_to_clock, catchlights } => {
                limbus.centre = c.point(&limbus.centre);
                limbus.rx *= c.k;
                limbus.ry *= c.k;
                if c.turn != 0.0 {
                    limbus.angle_deg = (limbus.angle_deg + c.turn).rem_euclid(360.0);
                }
                *looks_to_clock = looks_to_clock.map(|h| c.clock(h));
                catchlights.iter_mut().flatten().for_each(|o| o.outline = c.points(&o.outline));
            }
            MarkKind::Patch { polygon, .. } | MarkKind::Gradient { polygon } => *polygon = c.points(polygon),
            MarkKind::Cast { base, top, tip, .. } => [base, top, tip].into_iter().for_each(|p| *p = c.point(p)),
            MarkKind::Penumbra { a, b, px_per_m, .. } => {
                [a, b].into_iter().for_each(|p| *p = c.point(p));
                // the scale beside a shadow's edge is pixels for a metre
                *px_per_m = px_per_m.map(|s| s * c.k);
            }
            MarkKind::Pattern { a, b } => [a, b].into_iter().for_each(|p| *p = c.point(p)),
            MarkKind::Contour { points, .. } => *points = c.points(points),
            MarkKind::Rim { inside, outside, radius_px } => {
                [inside, outside].into_iter().for_each(|p| *p = c.point(p));
                *radius_px = radius_px.map(|r| r * c.k);
            }
            MarkKind::Cylinder { axis, radius_px } => {
                axis.iter_mut().for_each(|p| *p = c.point(p));
                *radius_px *= c.k;
            }
            MarkKind::Face { points } => points.values_mut().for_each(|p| *p = c.point(p)),
            MarkKind::Wedge { patches } => patches.iter_mut().for_each(|p| p.polygon = c.points(&p.polygon)),
        }
        kind
    }
}
