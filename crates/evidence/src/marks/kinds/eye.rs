//! An eye: catchlights on its cornea.

use super::{Carry, Desk, Kind, MarkKind, check};
use direction::{eye, face, spot, strongest};
use crate::marks::check::MOST_CATCHLIGHTS;
use crate::marks::desk::{degrees, round};
use crate::readings::*;
use direction::shapes::{Ellipse, Outline, Point};
use optics::geometry::AzEl;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Radius of an iris in pixels from which it shows lights two stops under the key.
const COMPLETE_PX: f64 = 14.0;
/// Spread of the natural log of a size that a smaller iris mirrors.
const SMALL_IRIS_SIZE: f64 = 0.45;
/// The same where a mesh found it: its catchlight is a pixel or two.
const FOUND_IRIS_SIZE: f64 = 0.9;

/// An eye.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = EyeMark)]
pub struct Eye {
    /// Outline of the iris against the white.
    pub limbus: Ellipse,
    /// Clock position towards which a turned eye looks (12 up, 3 image right).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub looks_to_clock: Option<f64>,
    /// Catchlights as a person outlined them; found by the program if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub catchlights: Option<Vec<Outline>>,
}

impl Eye {
    /// Largest half axis of the iris, pixels.
    pub fn radius_px(&self) -> f64 {
        self.limbus.rx.max(self.limbus.ry)
    }
}

/// Radius of a found iris, pixels, under which a pixel that its middle is off turns a light by more than its own spread, and by
/// how much, radians (people that nothing was fitted to, 480 pixels wide: catchlights 27 degrees off in the median, stated 14).
const FEW_PX: f64 = 8.5;
const FEW_PX_SD: f64 = 0.35;
/// How near a limbus must lie to the iris of a face mesh to be that of the mesh, pixels: its points are kept to a tenth of one.
const SAME_PX: f64 = 0.2;

impl Kind for Eye {
    fn check(&self) -> Result<(), String> {
        check::finite("limbus.centre", &self.limbus.centre)?;
        check::positive("limbus.rx", self.limbus.rx)?;
        check::positive("limbus.ry", self.limbus.ry)?;
        if !self.limbus.angle_deg.is_finite() {
            return Err("limbus.angle_deg: expected degrees".into());
        }
        if let Some(c) = self.looks_to_clock
            && !(c.is_finite() && (0.0..=12.0).contains(&c))
        {
            return Err(format!("looks_to_clock: expected 0 to 12, found {c}"));
        }
        check::at_most("catchlights", "outlines", self.catchlights.as_ref().map_or(0, Vec::len), MOST_CATCHLIGHTS)?;
        self.catchlights.iter().flatten().try_for_each(|o| check::corners("catchlights.outline", &o.outline))
    }

    fn carry(&mut self, c: &Carry) {
        self.limbus.centre = c.point(&self.limbus.centre);
        self.limbus.rx *= c.k;
        self.limbus.ry *= c.k;
        if c.turn != 0.0 {
            self.limbus.angle_deg = (self.limbus.angle_deg + c.turn).rem_euclid(360.0);
        }
        self.looks_to_clock = self.looks_to_clock.map(|h| c.clock(h));
        self.catchlights.iter_mut().flatten().for_each(|o| o.outline = c.points(&o.outline));
    }

    fn anchor(&self) -> Option<Point> {
        Some(self.limbus.centre)
    }

    fn place(&self) -> Option<Point> {
        Some(self.limbus.centre)
    }

    fn size_px(&self) -> f64 {
        self.radius_px()
    }

    fn is_costly(&self) -> bool {
        true
    }

    fn needs_camera(&self) -> bool {
        true
    }

    fn shows_all(&self) -> bool {
        self.radius_px() >= COMPLETE_PX
    }

    fn read(&self, desk: &mut Desk) -> MarkReading {
        let limbus = &self.limbus;
        let (looks, outlines) = (self.looks_to_clock, self.catchlights.as_deref());
        let unread = |me: &mut Desk, text: &str| {
            me.warn("eye_unread", text);
            MarkReading { catchlights: Some(Vec::new()), says: text.into(), ..Default::default() }
        };
        if desk.outside(limbus.centre) {
            return unread(desk, "The iris lies outside the picture.");
        }
        if limbus.rx.max(limbus.ry) < 3.0 {
            return unread(desk, "The iris is too small to read: mark one at least 6 pixels across.");
        }
        if limbus.rx.min(limbus.ry) < 0.3 * limbus.rx.max(limbus.ry) {
            return unread(desk, "The iris is drawn too flat: an eye turned that far shows no usable reflection.");
        }
        let found = self.lies_on_mesh(desk);
        let mut r = eye::read(desk.photo, desk.camera, *limbus, looks, outlines, found);
        // where the iris was read, if not where it was marked
        let e = r.limbus.ellipse;
        let circle = r.limbus.moved.then(|| [e.centre[0], e.centre[1], (e.rx * e.ry).sqrt()].map(|v| round(v, 2)));
        if r.contradiction {
            desk.warn("gaze_contradiction",
                "The side the eye is said to look towards does not match the short axis of the marked ellipse; check both.",
            );
        }
        let settled_by = match r.settled {
            eye::SettledBy::Mark => "mark",
            eye::SettledBy::White => "white",
            eye::SettledBy::Straight => "straight",
            eye::SettledBy::Open => "open",
        };
        if r.settled == eye::SettledBy::Open && !r.catchlights.is_empty() {
            desk.warn("gaze_open",
                "The eye is turned, but the ellipse does not say which way: both solutions are kept and the spread \
                 covers them. Say where it looks (looks_to_clock) to settle it.",
            );
        }
        let gaze = Gaze { turned_deg: degrees(r.turned), clock: round(r.gaze_clock, 1), settled_by: settled_by.into() };
        if r.catchlights.is_empty() {
            let text = "No catchlight found: no light is reflected there, or the eye is closed.";
            desk.warn("no_catchlight", text);
            return MarkReading {
                catchlights: Some(Vec::new()),
                gaze: Some(gaze),
                says: text.into(),
                ..Default::default()
            };
        }
        // a catchlight of a pixel or two has no measured size
        if !self.shows_all() {
            let sizes = r.catchlights.iter_mut().filter_map(|c| c.seen.log_size.as_mut());
            let unsure = if found { FOUND_IRIS_SIZE } else { SMALL_IRIS_SIZE };
            sizes.for_each(|(_, sd)| *sd = sd.hypot(unsure));
        }
        if found && self.radius_px() < FEW_PX {
            r.catchlights.iter_mut().for_each(|c| c.seen.direction_sd = c.seen.direction_sd.hypot(FEW_PX_SD));
        }
        let zero = strongest(r.catchlights.iter().map(|c| &c.seen));
        let mut sightings = Vec::new();
        for c in &r.catchlights {
            let mut s = desk.sighting(&c.seen, c.clock, zero);
            s.outline = c.blob.outline.clone();
            s.at = Some(c.blob.centre.map(|v| round(v, 2)));
            s.aspect = c.shape.map(|a| round(a.0, 2));
            s.corners = c.shape.and_then(spot::corners).map(|a| round(a, 2));
            s.otherwise = c.otherwise.map(|d| {
                let a = AzEl::of(&d);
                OtherDirection { azimuth_deg: round(a.azimuth_deg, 2), elevation_deg: round(a.elevation_deg, 2) }
            });
            sightings.push(s);
        }
        if r.catchlights.iter().any(|c| c.cut) {
            desk.warn("catchlight_cut",
                "A catchlight is cut by a lid or the edge of the iris: its size is at least what is stated.",
            );
        }
        let small = limbus.rx.max(limbus.ry) < 25.0;
        if small {
            desk.warn("eye_small", "The iris is only a few pixels across: its catchlights weigh little.");
        }
        for c in r.catchlights {
            desk.witness(c.seen, zero, c.otherwise, false);
        }
        MarkReading { catchlights: Some(sightings), gaze: Some(gaze), circle, ..Default::default() }
    }
}

impl Eye {
    /// Whether it still lies where the mesh of a face has an iris: it was found, and no hand has moved it.
    fn lies_on_mesh(&self, desk: &Desk) -> bool {
        let [x, y] = self.limbus.centre;
        let mut faces = desk.marks.marks.iter().filter_map(|m| match &m.kind {
            MarkKind::Face(f) => Some(f),
            _ => None,
        });
        faces.any(|f| face::IRISES.iter().filter_map(|i| f.dense.get(*i)).any(|p| (p[0] - x).hypot(p[1] - y) < SAME_PX))
    }
}
