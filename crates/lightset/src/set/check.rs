//! Every number of a set within its bounds, or one sentence that names the field and what was expected.

use super::{
    FlagPattern, LightSet, MOST_LIGHTS, MOST_MARKS, MOST_PEOPLE, MOST_SHAPE, MOST_THINGS, SIZES_M, SetLight,
    SubjectKind,
};
use optics::geometry::Vec3;

impl LightSet {
    /// Checks every number.
    ///
    /// # Errors
    /// One sentence that names the field and what was expected.
    pub fn check(&self) -> Result<(), String> {
        if self.lights.len() > MOST_LIGHTS {
            return Err(format!("lights: a set holds at most {MOST_LIGHTS} lights; found {}", self.lights.len()));
        }
        for (name, n) in [
            ("subjects", self.subjects.len()),
            ("boards", self.boards.len()),
            ("flags", self.flags.len()),
            ("walls", self.walls.len()),
        ] {
            if n > MOST_THINGS {
                return Err(format!("{name}: a set holds at most {MOST_THINGS}; found {n}"));
            }
        }
        let people = self.subjects.iter().filter(|s| s.kind == SubjectKind::Person).count();
        if people > MOST_PEOPLE {
            return Err(format!("subjects: a set holds at most {MOST_PEOPLE} people; found {people}"));
        }
        for (i, s) in self.subjects.iter().enumerate() {
            let at = |f: &str| format!("subjects[{i}].{f}");
            place(&at("position_m"), &s.position_m)?;
            for (f, v) in [("yaw_deg", s.yaw_deg), ("pitch_deg", s.pitch_deg), ("roll_deg", s.roll_deg)] {
                range(&at(f), v, -360.0, 360.0, "degrees")?;
            }
            range(&at("scale"), s.scale, 0.05, 20.0, "")?;
            if let Some(c) = &s.colour {
                reflectance(&at("colour"), c)?;
            }
            if let Some(p) = &s.person {
                if p.shape.len() > MOST_SHAPE {
                    let n = p.shape.len();
                    return Err(format!("{}: expected at most {MOST_SHAPE} weights; found {n}", at("person.shape")));
                }
                p.shape.iter().try_for_each(|w| range(&at("person.shape"), *w, -4.0, 4.0, "standard deviations"))?;
            }
            for v in s.size_m.iter().flatten() {
                range(&at("size_m"), *v, SIZES_M[0], SIZES_M[1], "metres")?;
            }
            for v in s.gaze_deg.iter().flatten() {
                range(&at("gaze_deg"), *v, -180.0, 180.0, "degrees")?;
            }
        }
        let c = &self.camera;
        place("camera.position_m", &c.position_m)?;
        place("camera.aim_m", &c.aim_m)?;
        if (Vec3::from(c.position_m) - Vec3::from(c.aim_m)).norm() < 0.02 {
            return Err("camera.aim_m: expected a point at least 2 cm from the lens".into());
        }
        if let Some(v) = c.vfov_deg {
            range("camera.vfov_deg", v, 0.2, 150.0, "degrees")?;
        }
        if let Some(v) = c.focal_mm {
            range("camera.focal_mm", v, 1.0, 5000.0, "millimetres")?;
        }
        if let Some(v) = c.sensor_height_mm {
            range("camera.sensor_height_mm", v, 0.5, 500.0, "millimetres")?;
        }
        if let Some(v) = c.white_k {
            range("camera.white_k", v, 1500.0, 20000.0, "kelvin")?;
        }
        c.exposure.check()?;
        for (i, l) in self.lights.iter().enumerate() {
            l.check().map_err(|e| format!("lights[{i}] ({}): {e}", l.name))?;
        }
        for (i, b) in self.boards.iter().enumerate() {
            sheet(&format!("boards[{i}]"), &b.position_m, &b.aim_m, b.width_m, b.height_m)?;
        }
        for (i, f) in self.flags.iter().enumerate() {
            sheet(&format!("flags[{i}]"), &f.position_m, &f.aim_m, f.width_m, f.height_m)?;
            let at = |what: &str| format!("flags[{i}].pattern.{what}");
            match f.pattern {
                FlagPattern::Solid => {}
                FlagPattern::Blinds { slats, open } => {
                    range(&at("slats"), f64::from(slats), 1.0, 200.0, "")?;
                    range(&at("open"), open, 0.0, 1.0, "")?;
                }
                FlagPattern::Slit { opening_m } => range(&at("opening_m"), opening_m, 0.0, 50.0, "metres")?,
                FlagPattern::Leaves { leaf_m, open } => {
                    range(&at("leaf_m"), leaf_m, 0.005, 2.0, "metres")?;
                    range(&at("open"), open, 0.02, 0.98, "")?;
                }
                FlagPattern::Lace { pitch_m, open } => {
                    range(&at("pitch_m"), pitch_m, 0.001, 10.0, "metres")?;
                    range(&at("open"), open, 0.0, 0.78, "")?;
                }
            }
        }
        for (i, w) in self.walls.iter().enumerate() {
            place(&format!("walls[{i}].position_m"), &w.position_m)?;
            place(&format!("walls[{i}].normal"), &w.normal)?;
            if Vec3::from(w.normal).norm() < 1e-6 {
                return Err(format!("walls[{i}].normal: expected a direction, found zero"));
            }
            range(&format!("walls[{i}].width_m"), w.width_m, 0.005, 200.0, "metres")?;
            range(&format!("walls[{i}].height_m"), w.height_m, 0.005, 200.0, "metres")?;
            reflectance(&format!("walls[{i}].colour"), &w.colour)?;
            if let Some(o) = &w.opening {
                place(&format!("walls[{i}].opening.centre_m"), &o.centre_m)?;
                range(&format!("walls[{i}].opening.width_m"), o.width_m, 0.005, 200.0, "metres")?;
                range(&format!("walls[{i}].opening.height_m"), o.height_m, 0.005, 200.0, "metres")?;
            }
        }
        if let Some(a) = &self.ambient {
            a.check().map_err(|e| format!("ambient.{e}"))?;
        }
        if self.walk_m.len() > MOST_MARKS {
            return Err(format!("walk_m: expected at most {MOST_MARKS} marks, found {}", self.walk_m.len()));
        }
        self.walk_m.iter().try_for_each(|[x, z]| place("walk_m", &[*x, 0.0, *z]))?;
        if let Some([x, z]) = self.outlet_m {
            place("outlet_m", &[x, 0.0, z])?;
        }
        let p = &self.picture;
        range("picture.width", f64::from(p.width), 8.0, 4000.0, "pixels")?;
        range("picture.height", f64::from(p.height), 8.0, 4000.0, "pixels")?;
        range("picture.samples", f64::from(p.samples), 1.0, 1024.0, "")?;
        range("picture.contrast", p.contrast, -1.0, 2.0, "")?;
        if let Some(v) = p.full_well {
            range("picture.full_well", v, 50.0, 1e7, "electrons")?;
        }
        Ok(())
    }
}

impl SetLight {
    fn check(&self) -> Result<(), String> {
        if self.name.trim().is_empty() || self.name.len() > 40 {
            return Err("name: expected 1 to 40 characters".into());
        }
        if let Some(p) = &self.position_m {
            place("position_m", p)?;
        }
        for (n, v, lo, hi) in [
            ("azimuth_deg", self.azimuth_deg, -360.0, 360.0),
            ("elevation_deg", self.elevation_deg, -90.0, 90.0),
            ("distance_m", self.distance_m, 0.01, 200.0),
            ("cct_k", self.cct_k, 1000.0, 40000.0),
        ] {
            if let Some(v) = v {
                range(n, v, lo, hi, "")?;
            }
        }
        place("aim_m", &self.aim_m)?;
        range("gel_mired", self.gel_mired, -500.0, 500.0, "mired")?;
        if !self.source.is_window() && (self.position() - Vec3::from(self.aim_m)).norm() < 0.005 {
            return Err("aim_m: expected a point away from the light; it stands on what it is aimed at".into());
        }
        if let Some(g) = &self.gel_rgb {
            reflectance("gel_rgb", g)?;
        }
        let size = |n: &str, v: f64| range(n, v, 0.002, 50.0, "metres");
        self.source.check()?;
        if let Some(b) = &self.bounce {
            place("bounce.position_m", &b.position_m)?;
            place("bounce.normal", &b.normal)?;
            if Vec3::from(b.normal).norm() < 1e-6 {
                return Err("bounce.normal: expected a direction, found zero".into());
            }
            size("bounce.width_m", b.width_m)?;
            size("bounce.height_m", b.height_m)?;
            range("bounce.reflectance", b.reflectance, 0.01, 1.0, "(share)")?;
            if (self.position() - Vec3::from(b.position_m)).norm() < 0.01 {
                return Err("bounce.position_m: expected a place at least 1 cm from the lamp".into());
            }
        }
        if self.scrims.len() > 2 {
            return Err(format!("scrims: expected at most two sheets, found {}", self.scrims.len()));
        }
        for s in &self.scrims {
            range("scrims.gap_m", s.gap_m, 0.01, 20.0, "metres")?;
            size("scrims.width_m", s.width_m)?;
            size("scrims.height_m", s.height_m)?;
            range("scrims.transmission", s.transmission, 0.001, 1.0, "")?;
            range("scrims.aside_m", s.aside_m, -5.0, 5.0, "metres")?;
        }
        if self.path_m.len() > 64 {
            return Err(format!("path_m: expected at most 64 places, found {}", self.path_m.len()));
        }
        for p in &self.path_m {
            place("path_m", p)?;
        }
        self.level.check()
    }
}

/// Whether a figure lies within its bounds.
///
/// # Errors
/// One sentence that names it, what was expected and what was found.
pub fn range(name: &str, v: f64, lo: f64, hi: f64, unit: &str) -> Result<(), String> {
    if v.is_finite() && (lo..=hi).contains(&v) {
        return Ok(());
    }
    let unit = if unit.is_empty() { String::new() } else { format!(" {unit}") };
    Err(format!("{name}: expected {lo} to {hi}{unit}, found {v}"))
}

fn place(name: &str, p: &[f64; 3]) -> Result<(), String> {
    p.iter().try_for_each(|v| range(name, *v, -200.0, 200.0, "metres"))
}

fn reflectance(name: &str, c: &[f64; 3]) -> Result<(), String> {
    c.iter().try_for_each(|v| range(name, *v, 0.0, 1.0, "(linear share)"))
}

fn sheet(name: &str, position: &[f64; 3], aim: &[f64; 3], width: f64, height: f64) -> Result<(), String> {
    place(&format!("{name}.position_m"), position)?;
    place(&format!("{name}.aim_m"), aim)?;
    range(&format!("{name}.width_m"), width, 0.005, 50.0, "metres")?;
    range(&format!("{name}.height_m"), height, 0.005, 50.0, "metres")?;
    if (Vec3::from(*position) - Vec3::from(*aim)).norm() < 0.005 {
        return Err(format!("{name}.aim_m: expected a point away from its centre"));
    }
    Ok(())
}
