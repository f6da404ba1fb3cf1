//! The sun as a light of a set, by place, time and where the lens looks.

use crate::set::{Level, SetLight, Source, Wall, range};
use optics::geometry::AzEl;
use optics::sun::{SUN_DEG, Sun, sun, time_of};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Where and when.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SunWanted {
    /// Degrees north.
    pub latitude_deg: f64,
    /// Degrees east.
    pub longitude_deg: f64,
    /// Date, time and its distance from Greenwich (RFC 3339).
    pub at: String,
    /// Where the lens looks, degrees from north over east.
    pub heading_deg: f64,
}

/// Daylight as lights of a set.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SunStands {
    /// The lights: they take the places of those of the same names.
    pub lights: Vec<SetLight>,
    /// The set's walls, one of them with a window; as they were if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub walls: Option<Vec<Wall>>,
    /// In sentences.
    pub says: Vec<String>,
}

/// Stands for far away, metres: its angle at the subject is the sun's.
const FAR_M: f64 = 100.0;
/// Light of the sun outside the air, lux, and what clear air takes per unit of air mass (IES RP-21, 1984: 127.5 klx and 0.21; from
/// memory).
const OUTSIDE_LUX: f64 = 127_500.0;
const CLEAR_AIR: f64 = 0.21;
/// One standard deviation of a clear sky's sun, stops (common practice: haze).
const HAZE_SD: f64 = 0.3;
/// Colour of the sun by its height, degrees and kelvin (common practice).
const COLOURS: [(f64, f64); 6] =
    [(0.0, 2000.0), (3.0, 2700.0), (8.0, 3500.0), (15.0, 4300.0), (30.0, 5200.0), (60.0, 5600.0)];

/// Lux of the sun on a surface that faces it, through clear air (air mass `1 / sin h`, held under 38: Kasten & Young 1989).
pub fn sun_lux(height_deg: f64) -> f64 {
    if height_deg <= 0.0 {
        return 0.0;
    }
    let mass = (1.0 / height_deg.to_radians().sin()).min(38.0);
    OUTSIDE_LUX * (-CLEAR_AIR * mass).exp()
}

/// Colour of the sun by its height.
pub(crate) fn sun_kelvin(height_deg: f64) -> f64 {
    let k = COLOURS.windows(2).find(|w| height_deg < w[1].0);
    let Some([(h0, k0), (h1, k1)]) = k else { return COLOURS[COLOURS.len() - 1].1 };
    let t = ((height_deg - h0) / (h1 - h0)).clamp(0.0, 1.0);
    // in mired, in which steps of colour are even
    1e6 / (1e6 / k0 + t * (1e6 / k1 - 1e6 / k0))
}

/// Light of the sky without the sun on level ground, lux, by the sun's height: clear or covered (IES RP-21, 1984, its two formulas:
/// 0.8 + 15.5 sqrt(sin h) and 0.3 + 21 sin h thousand lux; from memory).
pub(crate) fn sky_lux(height_deg: f64, overcast: bool) -> f64 {
    let s = height_deg.to_radians().sin().max(0.0);
    1000.0 * if overcast { 0.3 + 21.0 * s } else { 0.8 + 15.5 * s.sqrt() }
}

impl SunWanted {
    fn place_and_time(&self, at: time::OffsetDateTime) -> Result<Sun, String> {
        range("heading_deg", self.heading_deg, -360.0, 360.0, "degrees")?;
        sun(self.latitude_deg, self.longitude_deg, at).map_err(|e| e.to_string())
    }

    /// Where the sun stands in the set's frame.
    ///
    /// # Errors
    /// A sentence that names what is wrong, or how far the sun is below the horizon.
    pub fn stands(&self) -> Result<AzEl, String> {
        let found = self.place_and_time(time_of(&self.at).map_err(|e| e.to_string())?)?;
        if found.height_deg <= 0.0 {
            return Err(format!(
                "at: the sun stands {:.1}° below the horizon then; take a time when it is up",
                found.height_deg.abs()
            ));
        }
        Ok(found.for_lens(self.heading_deg))
    }

    /// Where it stands some minutes after midnight of that day, by that clock; nothing while it is down.
    ///
    /// # Errors
    /// As [`SunWanted::stands`].
    pub fn at_minute(&self, minute: i64) -> Result<Option<AzEl>, String> {
        let day = time_of(&self.at).map_err(|e| e.to_string())?.replace_time(time::Time::MIDNIGHT);
        let found = self.place_and_time(day + time::Duration::minutes(minute))?;
        Ok((found.height_deg > 0.0).then(|| found.for_lens(self.heading_deg)))
    }
}

/// The sun as a light from far away that gives so many lux on a surface that faces it.
pub(crate) fn sun_source(at: AzEl, lux: f64) -> SetLight {
    let diameter_m = 2.0 * FAR_M * (SUN_DEG.to_radians() / 2.0).tan();
    let mut light = SetLight::of("sun", Source::Disc { diameter_m }, 0.0);
    light.azimuth_deg = Some(at.azimuth_deg);
    light.elevation_deg = Some(at.elevation_deg);
    light.distance_m = Some(FAR_M);
    light.level = Level::Lux { lux };
    light.cct_k = Some(sun_kelvin(at.elevation_deg));
    light
}

/// The sun of a place and a time as a light.
///
/// # Errors
/// As [`SunWanted::stands`].
pub fn sun_light(wanted: &SunWanted) -> Result<SunStands, String> {
    let at = wanted.stands()?;
    let lux = sun_lux(at.elevation_deg);
    let light = sun_source(at, lux);
    let compass_deg = (wanted.heading_deg + 180.0 - at.azimuth_deg).rem_euclid(360.0);
    let says = vec![
        format!(
            "It stands {:.1}° up at {compass_deg:.0}° on the compass, {:.0}° to camera {} of the lens axis.",
            at.elevation_deg,
            at.azimuth_deg.abs(),
            if at.azimuth_deg < 0.0 { "left" } else { "right" }
        ),
        format!(
            "Through clear air {lux:.0} lux (± {HAZE_SD} stops of haze) of about {:.0} K; cloud takes three stops and more.",
            sun_kelvin(at.elevation_deg)
        ),
        "The sky's own light is not in it: give the room's light a level for it.".into(),
    ];
    Ok(SunStands { lights: vec![light], walls: None, says })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn wanted(at: &str) -> SunWanted {
        SunWanted { latitude_deg: 0.0, longitude_deg: 0.0, at: at.into(), heading_deg: 0.0 }
    }

    /// On the equator at an equinox the sun stands overhead at noon (astronomy), and gives about 100 klx (common practice).
    #[test]
    fn an_equinox_noon_on_the_equator() {
        let s = sun_light(&wanted("2026-03-20T12:07:00Z")).unwrap();
        assert!(s.lights[0].elevation_deg.is_some_and(|e| e > 88.0));
        let Level::Lux { lux } = s.lights[0].level else { panic!("lux") };
        assert!((95_000.0..=108_000.0).contains(&lux), "{lux}");
        let angle = 2.0 * (0.5 * s.lights[0].source.face_m()[0] / FAR_M).atan().to_degrees();
        assert!((angle - 0.53).abs() < 1e-3);
    }

    /// In the morning of an equinox it stands in the east: at the right of a lens that looks north.
    #[test]
    fn a_morning_sun_is_right_of_a_lens_to_the_north() {
        let s = sun_light(&wanted("2026-03-20T09:00:00Z")).unwrap();
        assert!((s.lights[0].azimuth_deg.unwrap() - 90.0).abs() < 2.0, "{:?}", s.lights[0].azimuth_deg);
        assert!((s.lights[0].elevation_deg.unwrap() - 43.0).abs() < 3.0);
    }

    #[test]
    fn a_sun_below_the_horizon_is_refused_with_how_far() {
        let e = sun_light(&wanted("2026-03-20T22:00:00Z")).unwrap_err();
        assert!(e.contains("below the horizon"), "{e}");
        assert!(sun_light(&wanted("yesterday")).is_err());
    }

    /// Lower is weaker and warmer.
    #[test]
    fn it_wanes_and_warms_towards_the_horizon() {
        for w in [60.0, 40.0, 25.0, 12.0, 6.0, 2.0].windows(2) {
            assert!(sun_lux(w[1]) < sun_lux(w[0]) && sun_kelvin(w[1]) < sun_kelvin(w[0]), "{w:?}");
        }
    }
}
