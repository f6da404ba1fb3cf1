//! What marks may be: every number within its bounds, or one sentence that names the field and what was expected.

use super::{CameraFacts, Marks, SunFacts};

/// Marks one picture may hold: three times what the fullest check picture has.
pub const MOST_MARKS: usize = 100;
/// Marks whose reading takes a noticeable part of a second (balls, eyes, faces, bottles), all together.
pub const MOST_COSTLY: usize = 24;
/// Corners of a polygon or an outline, and points of a contour: a pen at a hundred points a second for ten seconds.
pub const MOST_POINTS: usize = 1000;
/// Catchlights of one eye.
pub const MOST_CATCHLIGHTS: usize = 12;
/// Patches of a wedge or target: the largest in the trade has 24, a long film wedge 41.
pub const MOST_STEPS: usize = 64;
/// Named points of a face: seven are read, more are kept.
pub const MOST_LANDMARKS: usize = 40;
/// How many times the picture's longer side a mark's own size may be: a ball or a head that fills it and more.
pub const MOST_SIZES: f64 = 2.0;

impl Marks {
    /// Checks all that can be said without the picture.
    ///
    /// # Errors
    /// One sentence that names the field and what was expected.
    pub fn check(&self) -> Result<(), String> {
        if let Some(e) = &self.encoding {
            e.check()?;
        }
        if let Some(s) = &self.exposure {
            s.check()?;
        }
        if let Some(c) = &self.camera {
            check_camera(c)?;
        }
        if let Some(s) = &self.sun {
            check_sun(s)?;
        }
        if self.marks.len() > MOST_MARKS {
            return Err(format!("marks: expected at most {MOST_MARKS} marks, found {}", self.marks.len()));
        }
        let costly = self.marks.iter().filter(|m| m.kind.is_costly()).count();
        if costly > MOST_COSTLY {
            return Err(format!(
                "marks: expected at most {MOST_COSTLY} balls, eyes, faces and bottles together, found {costly}"
            ));
        }
        let mut seen = std::collections::BTreeSet::new();
        for mark in &self.marks {
            if mark.id.is_empty() || mark.id.len() > 64 {
                return Err("marks: every id needs 1 to 64 characters".into());
            }
            if !seen.insert(&mark.id) {
                return Err(format!("marks[{}].id: expected a unique id, found it twice", mark.id));
            }
            mark.kind.check().map_err(|e| format!("marks[{}].{e}", mark.id))?;
        }
        Ok(())
    }
}

fn range(name: &str, v: Option<f64>, lo: f64, hi: f64, unit: &str) -> Result<(), String> {
    match v {
        Some(v) if !(v.is_finite() && v >= lo && v <= hi) => {
            Err(format!("{name}: expected {lo} to {hi} {unit}, found {v}"))
        }
        _ => Ok(()),
    }
}

fn check_camera(c: &CameraFacts) -> Result<(), String> {
    range("camera.vfov_deg", c.vfov_deg, 0.1, 170.0, "degrees")?;
    range("camera.pitch_deg", c.pitch_deg, -90.0, 90.0, "degrees")?;
    range("camera.height_m", c.height_m, -100.0, 1000.0, "metres")?;
    range("camera.distance_m", c.distance_m, 0.001, 1e5, "metres")
}

fn check_sun(s: &SunFacts) -> Result<(), String> {
    range("sun.latitude_deg", Some(s.latitude_deg), -90.0, 90.0, "degrees north")?;
    range("sun.longitude_deg", Some(s.longitude_deg), -180.0, 180.0, "degrees east")?;
    range("sun.lens_heading_deg", s.lens_heading_deg, -360.0, 360.0, "degrees on the compass")?;
    range("sun.lens_heading_sd_deg", s.lens_heading_sd_deg, 0.0, 180.0, "degrees")?;
    optics::sun::time_of(&s.at).map(|_| ()).map_err(|e| format!("sun.at: {e}"))
}

pub(super) fn finite<const N: usize>(name: &str, p: &[f64; N]) -> Result<(), String> {
    if p.iter().all(|v| v.is_finite() && v.abs() < 1e7) {
        Ok(())
    } else {
        Err(format!("{name}: expected {N} finite pixel coordinates"))
    }
}

pub(super) fn positive(name: &str, v: f64) -> Result<(), String> {
    if v.is_finite() && v > 0.0 && v < 1e7 { Ok(()) } else { Err(format!("{name}: expected more than 0, found {v}")) }
}

pub(super) fn corners(name: &str, p: &[[f64; 2]]) -> Result<(), String> {
    if p.len() < 3 || p.len() > MOST_POINTS {
        return Err(format!("{name}: expected 3 to {MOST_POINTS} corners, found {}", p.len()));
    }
    p.iter().try_for_each(|q| finite(name, q))
}

pub(super) fn at_most(name: &str, what: &str, n: usize, most: usize) -> Result<(), String> {
    if n <= most { Ok(()) } else { Err(format!("{name}: expected at most {most} {what}, found {n}")) }
}
