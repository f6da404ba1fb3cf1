//! Marks of one picture as they lie in another.

use super::{Mark, Marks, Point};

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
            let mut there: Mark = m.clone();
            there.kind.carry(&Carry { point, k, turn });
            there
        };
        Marks { marks: self.marks.iter().map(carried).collect(), ..self.clone() }
    }
}

/// How one mark goes to another picture.
pub struct Carry<'a> {
    point: &'a dyn Fn(Point) -> Point,
    /// Pixels there per pixel here.
    pub k: f64,
    /// Degrees clockwise.
    pub turn: f64,
}

impl Carry<'_> {
    /// A point there.
    pub fn point(&self, p: &Point) -> Point {
        (self.point)(*p)
    }

    /// Points there.
    pub fn points(&self, p: &[Point]) -> Vec<Point> {
        p.iter().map(|q| self.point(q)).collect()
    }

    /// A clock position there, hours.
    pub fn clock(&self, hours: f64) -> f64 {
        if self.turn == 0.0 { hours } else { (hours + self.turn / 30.0).rem_euclid(12.0) }
    }
}
