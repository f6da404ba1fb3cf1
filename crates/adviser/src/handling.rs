//! What a hand does to a set: a lamp carried elsewhere, turned up or down, a camera exposed otherwise.

use lightset::set::{AmbientLight, Level, LightSet, SetLight};
use optics::geometry::Vec3;
use optics::power::{Control, read_power, write_power};
use optics::units::Stops;
use studio::lamp;

/// A lamp as it would throw from elsewhere, its dial left alone: levels told at the subject follow from its face.
pub(crate) fn elsewhere(l: &SetLight, to: Vec3) -> SetLight {
    let mut out = l.clone();
    out.position_m = Some([to.x, to.y, to.z].map(|v| (v * 200.0).round() / 200.0));
    (out.azimuth_deg, out.elevation_deg, out.distance_m) = (None, None, None);
    refaced(l, out)
}

/// The level at the subject of a lamp that was moved or given another face, its dial left alone.
fn refaced(before: &SetLight, mut after: SetLight) -> SetLight {
    let facing = |l: &SetLight| lamp(l).facing().max(1e-9);
    let gain = (facing(&after) / facing(before)).log2();
    match &mut after.level {
        Level::Stops { stops } => *stops = ((*stops + gain) * 100.0).round() / 100.0,
        Level::Lux { lux } => *lux *= gain.exp2(),
        // told by the lamp: distance is counted where it is used
        Level::Guide { .. } | Level::Joules { .. } => {}
    }
    after
}

/// A lamp turned up or down.
pub(crate) fn powered(l: &SetLight, stops: f64) -> SetLight {
    let mut out = l.clone();
    match &mut out.level {
        Level::Guide { power: Some(p), .. } | Level::Joules { power: Some(p), .. } => {
            *p = turned(p, stops).unwrap_or_else(|| p.clone());
        }
        level => level.by(stops),
    }
    out
}

/// A power setting turned by stops, in its own notation to a tenth.
fn turned(text: &str, stops: f64) -> Option<String> {
    let now = read_power(Control::Stops, text, f64::NAN, f64::NAN).ok()?;
    let control = match text {
        t if t.contains('/') => Control::Fraction,
        t if t.contains('%') => Control::Percent,
        _ => Control::Stops,
    };
    Some(write_power(control, Stops((now.0 + stops).min(0.0)), f64::NAN, f64::NAN))
}

/// Levels that are told against the camera's settings, after those let in so many stops more.
pub(crate) fn exposed(set: &mut LightSet, stops: f64) {
    let ambient = set.ambient.iter_mut().map(|a| &mut a.level);
    for level in set.lights.iter_mut().map(|l| &mut l.level).chain(ambient) {
        if let Level::Stops { stops: v } = level {
            *v = ((*v + stops) * 100.0).round() / 100.0;
        }
    }
}

/// The room's light by so many stops.
pub(crate) fn room_by(set: &mut LightSet, stops: f64) {
    if let Some(AmbientLight { level: Level::Stops { stops: v }, .. }) = &mut set.ambient {
        *v += stops;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn set(level: &str) -> LightSet {
        LightSet::parse(&format!(
            r#"{{"format":"slant-set/1","camera":{{"position_m":[0,0,2],"exposure":{{"f_number":8,"shutter_s":0.01,"iso":100}}}},
            "lights":[{{"name":"key","azimuth_deg":45,"elevation_deg":30,"distance_m":1.5,"source":{{"kind":"disc","diameter_m":0.05}},"level":{level}}}],
            "ambient":{{"level":{{"stops":-4}}}}}}"#
        ))
        .expect("a set")
        .set
    }

    #[test]
    fn a_power_setting_is_turned_in_its_own_notation() {
        let turned = |level: &str, stops: f64| powered(&set(level).lights[0], stops).level;
        let power = |l: Level| match l {
            Level::Guide { power, .. } | Level::Joules { power, .. } => power.unwrap_or_default(),
            _ => String::new(),
        };
        // half the power is a stop (definition)
        assert_eq!(power(turned(r#"{"guide_number_m":36,"power":"1/4"}"#, -1.0)), "1/8");
        assert_eq!(power(turned(r#"{"joules":400,"power":"50 %"}"#, -1.0)), "25 %");
        assert_eq!(power(turned(r#"{"guide_number_m":36,"power":"-2"}"#, -1.0)).replace('\u{2212}', "-"), "-3.0 stops");
        // nothing gives more than its full power
        assert_eq!(power(turned(r#"{"guide_number_m":36,"power":"1/2"}"#, 3.0)), "1/1");
        // without one, the guide number goes by the square root of the light
        let Level::Guide { guide_number_m, .. } = turned(r#"{"guide_number_m":36}"#, -2.0) else { panic!("a flash") };
        assert!((guide_number_m - 18.0).abs() < 1e-9);
    }

    #[test]
    fn a_small_lamp_twice_as_far_gives_a_quarter() {
        for (level, keeps) in [(r#"{"stops":0}"#, false), (r#"{"lux":800}"#, false), (r#"{"guide_number_m":36}"#, true)]
        {
            let s = set(level);
            let l = &s.lights[0];
            let far = elsewhere(l, l.position() * 2.0);
            let at = |l: &SetLight| studio::relative_exposure(l, &s.camera.exposure).expect("a level").log2();
            assert!((at(&far) - at(l) + 2.0).abs() < 0.03, "{level}: {}", at(&far) - at(l));
            assert_eq!(far.level == l.level, keeps, "{level}");
        }
    }

    #[test]
    fn a_camera_that_lets_in_more_lifts_all_that_is_told_against_it() {
        let mut s = set(r#"{"stops":0}"#);
        exposed(&mut s, 0.7);
        room_by(&mut s, -1.0);
        let Level::Stops { stops } = s.lights[0].level else { panic!("stops") };
        assert!((stops - 0.7).abs() < 1e-9);
        assert!(
            matches!(s.ambient, Some(AmbientLight { level: Level::Stops { stops }, .. }) if (stops + 4.3).abs() < 1e-9)
        );
    }
}
