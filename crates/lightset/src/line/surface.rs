//! Glossy surfaces as mirrors: what stands where for a place on them to be bright.

use super::BoxSide;
use crate::set::{
    BALL_RADIUS_M, BOTTLE_RADIUS_M, CAN_RADIUS_M, LID_EDGE_M, LID_HALF_M, LID_UP_M, LightSet, Subject, SubjectKind,
    TIN_EDGE_M, TIN_HALF_M,
};
use optics::geometry::{Vec3, turn};

/// Height over which a slope is taken, metres.
const SLOPE_M: f64 = 0.0015;
/// The product is taken to be seen from afar: the lens stands at least so many of its half widths away.
const LENS_WIDTHS: f64 = 3.0;

/// Radius of a product's body and half its height, metres; nothing for one that is no upright body of revolution.
pub fn body(s: &Subject) -> Option<(f64, f64)> {
    let (r, h) = match s.kind {
        SubjectKind::Bottle => (BOTTLE_RADIUS_M, 0.15),
        SubjectKind::Can => (CAN_RADIUS_M, 0.058),
        _ => return None,
    };
    Some((r * s.scale, h * s.scale))
}

/// Middle of the flat part of a tin's side, and half its width and height, metres: what lies between its rounded edges, under the lid's rim.
fn tin_side(side: BoxSide) -> (Vec3, [f64; 2]) {
    let [x, y, z] = TIN_HALF_M;
    let (foot, rim) = (TIN_EDGE_M - y, LID_UP_M - LID_HALF_M[1] - TIN_EDGE_M);
    let (up, high) = (f64::midpoint(foot, rim), (rim - foot) / 2.0);
    match side {
        BoxSide::Front => (Vec3::new(0.0, up, z), [x - TIN_EDGE_M, high]),
        BoxSide::Left => (Vec3::new(-x, up, 0.0), [z - TIN_EDGE_M, high]),
        BoxSide::Right => (Vec3::new(x, up, 0.0), [z - TIN_EDGE_M, high]),
        BoxSide::Top => {
            (Vec3::new(0.0, LID_UP_M + LID_HALF_M[1], 0.0), [LID_HALF_M[0] - LID_EDGE_M, LID_HALF_M[2] - LID_EDGE_M])
        }
    }
}

/// The same of a carton, before it is scaled.
fn carton_side(subject: &Subject, side: BoxSide) -> (Vec3, [f64; 2]) {
    let [x, y, z] = subject.carton_half_m();
    match side {
        BoxSide::Front => (Vec3::new(0.0, 0.0, z), [x, y]),
        BoxSide::Left => (Vec3::new(-x, 0.0, 0.0), [z, y]),
        BoxSide::Right => (Vec3::new(x, 0.0, 0.0), [z, y]),
        BoxSide::Top => (Vec3::new(0.0, y, 0.0), [x, z]),
    }
}

/// A product's surface with the lens that sees it. Places on it are told by two shares: across, -1 at the left edge that is seen and 1 at
/// the right one, and up, -1 at the foot and 1 at the top.
pub(super) struct Surface {
    form: Form,
    lens: Vec3,
}

enum Form {
    Turned(Turned),
    /// A flat side: its middle, its normal, right and up in it, both as long as half of it.
    Flat {
        middle: Vec3,
        normal: Vec3,
        right: Vec3,
        up: Vec3,
    },
    Ball {
        middle: Vec3,
        radius: f64,
    },
}

/// A body of revolution that stands upright.
struct Turned {
    axis: Vec3,
    /// of the upright part, and half the height
    radius: f64,
    half: f64,
    /// half widths over heights from the middle, where it is not straight
    outline: Vec<(f64, f64)>,
}

impl Turned {
    /// Half the width at a height over the middle.
    fn radius_at(&self, height: f64) -> f64 {
        let after = self.outline.partition_point(|p| p.1 < height);
        match (after.checked_sub(1).and_then(|k| self.outline.get(k)), self.outline.get(after)) {
            (Some(a), Some(b)) => a.0 + (b.0 - a.0) * ((height - a.1) / (b.1 - a.1).max(1e-9)).clamp(0.0, 1.0),
            (Some(a), None) => a.0,
            (None, Some(b)) => b.0,
            (None, None) => self.radius,
        }
    }

    /// Elevation of the normal at a height, radians.
    fn lean(&self, height: f64) -> f64 {
        let (a, b) = (self.radius_at(height - SLOPE_M), self.radius_at(height + SLOPE_M));
        ((a - b) / (2.0 * SLOPE_M)).atan()
    }

    /// Place and normal.
    fn at(&self, lens: &Vec3, across: f64, up: f64) -> (Vec3, Vec3) {
        let height = up * self.half;
        let to = Vec3::new(self.axis.x - lens.x, 0.0, self.axis.z - lens.z);
        let far = to.norm();
        let ahead = to / far;
        let right = ahead.cross(&Vec3::y());
        // the outline is where the line of sight grazes: asin(r / d) beside the axis
        let radius = self.radius_at(height);
        let beta = across * (radius / far).min(0.999).asin();
        let sight = ahead * beta.cos() + right * beta.sin();
        let along = sight.dot(&to);
        let inside = (radius.powi(2) - (far.powi(2) - along.powi(2))).max(0.0);
        let flat = Vec3::new(lens.x, 0.0, lens.z) + sight * (along - inside.sqrt());
        let level = (flat - Vec3::new(self.axis.x, 0.0, self.axis.z)).normalize();
        let (up, out) = self.lean(height).sin_cos();
        (Vec3::new(flat.x, self.axis.y + height, flat.z), level * out + Vec3::y() * up)
    }
}

impl Surface {
    /// That of a product of a set; of a box the side that is asked for.
    ///
    /// # Errors
    /// A sentence: a product that mirrors nothing definite, a side that is not seen, a lens too near.
    pub(super) fn of(set: &LightSet, subject: &Subject, side: BoxSide) -> Result<Surface, String> {
        let lens = Vec3::from(set.camera.position_m);
        let place = Vec3::from(subject.position_m);
        let near = |half: f64, flat: bool| {
            let d = lens - place;
            let away = if flat { d.x.hypot(d.z) } else { d.norm() };
            away < LENS_WIDTHS * half
        };
        let too_near = || Err("camera: it stands too near the product, or over it, to see a line on its side".into());
        let form = if let Some((radius, half)) = body(subject) {
            if near(radius, true) {
                return too_near();
            }
            let outline = crate::set::outline(subject.kind).unwrap_or_default();
            let outline = outline.into_iter().map(|(r, h)| (r * subject.scale, h * subject.scale)).collect();
            Form::Turned(Turned { axis: place, radius, half, outline })
        } else if subject.kind == SubjectKind::BallMirror {
            let radius = BALL_RADIUS_M * subject.scale;
            if near(radius, false) {
                return too_near();
            }
            Form::Ball { middle: place, radius }
        } else if matches!(subject.kind, SubjectKind::Tin | SubjectKind::Carton) {
            let (own, [w, h]) =
                if subject.kind == SubjectKind::Tin { tin_side(side) } else { carton_side(subject, side) };
            let turned = turn(subject.yaw_deg, subject.pitch_deg, subject.roll_deg);
            let (normal, right, up) = match side {
                BoxSide::Front => (Vec3::z(), Vec3::x(), Vec3::y()),
                BoxSide::Left => (-Vec3::x(), Vec3::z(), Vec3::y()),
                BoxSide::Right => (Vec3::x(), -Vec3::z(), Vec3::y()),
                BoxSide::Top => (Vec3::y(), Vec3::x(), -Vec3::z()),
            };
            let middle = place + turned * (own * subject.scale);
            let normal = turned * normal;
            if normal.dot(&(lens - middle)) < 0.02 * (lens - middle).norm() {
                return Err(format!("side: the lens does not see the {} of the box", side.word()));
            }
            let (right, up) = (turned * right * (w * subject.scale), turned * up * (h * subject.scale));
            Form::Flat { middle, normal, right, up }
        } else {
            return Err(
                "subject: lines are worked out on bottles and cans that stand upright, on boxes and on mirror balls"
                    .into(),
            );
        };
        Ok(Surface { form, lens })
    }

    /// Most of the width that is seen at a height, as a share.
    pub(super) fn widest(&self, up: f64) -> f64 {
        match &self.form {
            Form::Turned(_) => 0.995,
            Form::Flat { .. } => 1.0,
            Form::Ball { .. } => 0.995 * (1.0 - up * up).max(0.0).sqrt(),
        }
    }

    /// It is an upright body of revolution.
    pub(super) fn is_upright(&self) -> bool {
        matches!(self.form, Form::Turned(_))
    }

    /// It is flat: a whole side mirrors one window of the room.
    pub(super) fn is_flat(&self) -> bool {
        matches!(self.form, Form::Flat { .. })
    }

    /// Place on the surface and its normal.
    pub(super) fn at(&self, across: f64, up: f64) -> (Vec3, Vec3) {
        match &self.form {
            Form::Turned(t) => t.at(&self.lens, across, up),
            Form::Flat { middle, normal, right, up: high } => (middle + right * across + high * up, *normal),
            Form::Ball { middle, radius } => {
                let to = middle - self.lens;
                let far = to.norm();
                let ahead = to / far;
                let right = ahead.cross(&Vec3::y()).try_normalize(1e-9).unwrap_or_else(Vec3::x);
                let high = right.cross(&ahead);
                let out = across.hypot(up).min(0.9999);
                let beta = out * (radius / far).asin();
                let aside = (right * across + high * up).try_normalize(1e-12).unwrap_or(right);
                let sight = ahead * beta.cos() + aside * beta.sin();
                let along = sight.dot(&to);
                let inside = (radius.powi(2) - (far.powi(2) - along.powi(2))).max(0.0);
                let place = self.lens + sight * (along - inside.sqrt());
                (place, (place - middle) / *radius)
            }
        }
    }

    /// Place on the surface, with the direction that is mirrored there.
    pub(super) fn ray(&self, across: f64, up: f64) -> (Vec3, Vec3) {
        let (place, normal) = self.at(across, up);
        let view = (self.lens - place).normalize();
        (place, normal * (2.0 * normal.dot(&view)) - view)
    }
}
