//! Where the sun stands: the Solar Position Algorithm (Reda & Andreas, NREL/TP-560-34302, 2004) as the crate
//! `solar-positioning` has it, with the refraction of standard air.

use crate::geometry::{AzEl, Camera, Vec3, wrapped_deg};
use solar_positioning::time::JulianDate;
use solar_positioning::{Location, RefractionCorrection, SolarPositions};
use time::format_description::well_known::Rfc3339;
use time::{Duration, OffsetDateTime, UtcOffset};

/// Earth's clock less the sky's, seconds (observed 2020 to 2025: 69; a second of it moves the sun by 0.004 degrees).
const DELTA_T: f64 = 69.0;
/// Standard air: hectopascals, degrees Celsius.
const AIR: (f64, f64) = (1013.25, 15.0);
/// Full angle of the sun, degrees (Astronomical Almanac: 31.5 to 32.5 minutes of arc).
pub const SUN_DEG: f64 = 0.53;
/// Steps in which a day is looked through, minutes.
const STEP: i64 = 15;
/// Years between which the algorithm may be asked here.
const YEARS: std::ops::RangeInclusive<i32> = 1840..=2200;

/// Where the sun stands.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sun {
    /// Degrees from north over east.
    pub compass_deg: f64,
    /// Degrees above the level horizon, as seen through the air; below zero it is down.
    pub height_deg: f64,
}

/// Why the sun's place is not told.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum SunProblem {
    /// The time is not one.
    #[error("expected a date and a time with its distance from Greenwich, as 2026-06-21T16:20:00+02:00, found \"{0}\"")]
    Time(String),
    /// Too long ago or ahead.
    #[error("expected a year from 1840 to 2200, found {0}")]
    Year(i32),
    /// No such place.
    #[error("expected a latitude from -90 to 90 and a longitude from -180 to 180 degrees")]
    Place,
}

/// A time as written: RFC 3339.
///
/// # Errors
/// [`SunProblem::Time`] or [`SunProblem::Year`].
pub fn time_of(text: &str) -> Result<OffsetDateTime, SunProblem> {
    let at = OffsetDateTime::parse(text, &Rfc3339).map_err(|_| SunProblem::Time(text.chars().take(40).collect()))?;
    if YEARS.contains(&at.year()) { Ok(at) } else { Err(SunProblem::Year(at.year())) }
}

/// Where the sun stands at a place (degrees north, degrees east) and a time.
///
/// # Errors
/// A [`SunProblem`].
pub fn sun(latitude_deg: f64, longitude_deg: f64, at: OffsetDateTime) -> Result<Sun, SunProblem> {
    let utc = at.to_offset(UtcOffset::UTC);
    let second = f64::from(utc.second()) + f64::from(utc.nanosecond()) * 1e-9;
    let (month, day) = (u32::from(u8::from(utc.month())), u32::from(utc.day()));
    let (hour, minute) = (u32::from(utc.hour()), u32::from(utc.minute()));
    let when = JulianDate::from_utc(utc.year(), month, day, hour, minute, second, DELTA_T)
        .map_err(|_| SunProblem::Year(utc.year()))?;
    let air = RefractionCorrection::new(AIR.0, AIR.1).ok();
    let place = Location { latitude: latitude_deg, longitude: longitude_deg };
    let found = SolarPositions::new().at_from_julian(when, place, 0.0, air).map_err(|_| SunProblem::Place)?;
    Ok(Sun { compass_deg: found.azimuth(), height_deg: found.elevation_angle() })
}

impl Sun {
    /// Unit vector to the sun in the frame of a camera whose lens looks towards `heading_deg` on the compass.
    pub fn seen_by(&self, camera: &Camera, heading_deg: f64) -> Vec3 {
        camera.from_set(&self.for_lens(heading_deg).vector())
    }

    /// Where it stands in the level frame of a set whose lens looks towards `heading_deg` on the compass.
    pub fn for_lens(&self, heading_deg: f64) -> AzEl {
        // the subject looks back at the camera: camera right is right of the lens, and a sun in its back stands at 0
        let azimuth_deg = -wrapped_deg(self.compass_deg - heading_deg - 180.0);
        AzEl { azimuth_deg, elevation_deg: self.height_deg }
    }

    /// Where the lens must look, degrees on the compass, so that the sun comes from `azimuth_deg` in the level set frame.
    pub fn heading_for(&self, azimuth_deg: f64) -> f64 {
        (self.compass_deg + azimuth_deg + 180.0).rem_euclid(360.0)
    }
}

/// The sun over one day at a place.
#[derive(Debug, Clone)]
pub struct Day {
    /// degrees north, degrees east
    place: (f64, f64),
    midnight: OffsetDateTime,
    /// Where it stands from midnight to midnight by the clock of the time asked for, one for each quarter of an hour.
    pub quarters: Vec<Sun>,
}

impl Day {
    /// The day of `at`, by its own clock.
    ///
    /// # Errors
    /// A [`SunProblem`].
    pub fn of(latitude_deg: f64, longitude_deg: f64, at: OffsetDateTime) -> Result<Day, SunProblem> {
        let midnight = at.replace_time(time::Time::MIDNIGHT);
        let one = |k: i64| sun(latitude_deg, longitude_deg, midnight + Duration::minutes(STEP * k));
        let quarters = (0..=24 * 60 / STEP).map(one).collect::<Result<_, _>>()?;
        Ok(Day { place: (latitude_deg, longitude_deg), midnight, quarters })
    }

    /// When the sun stands `height_deg` high, and where on the compass: at most twice a day, to a few seconds.
    pub fn times_at(&self, height_deg: f64) -> Vec<(OffsetDateTime, Sun)> {
        let over: Vec<f64> = self.quarters.iter().map(|s| s.height_deg - height_deg).collect();
        let crossed = (1..over.len()).filter(|k| (over[k - 1] < 0.0) != (over[*k] < 0.0));
        let one = |k: usize| {
            // a straight line over the quarter is good to 0.03 degrees; once more by its slope
            let slope = (over[k] - over[k - 1]) / STEP as f64;
            let mut minutes = STEP as f64 * (k - 1) as f64 - over[k - 1] / slope;
            minutes -= (self.at(minutes)?.1.height_deg - height_deg) / slope;
            self.at(minutes)
        };
        crossed.filter_map(one).take(2).collect()
    }

    fn at(&self, minutes: f64) -> Option<(OffsetDateTime, Sun)> {
        let t = self.midnight + Duration::seconds((60.0 * minutes).round() as i64);
        Some((t, sun(self.place.0, self.place.1, t).ok()?))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn at(text: &str) -> OffsetDateTime {
        time_of(text).unwrap()
    }

    /// The worked example of NREL/TP-560-34302 (appendix A.5): Golden, 17 October 2003, 12:30:30 at -7 h: topocentric zenith
    /// 50.11162 and azimuth 194.34024 degrees (at 820 hPa, 11 degrees and 1830 m, which move the height by under 0.01 degrees).
    #[test]
    fn the_worked_example_of_the_algorithm() {
        let s = sun(39.742476, -105.1786, at("2003-10-17T12:30:30-07:00")).unwrap();
        assert!((s.height_deg - (90.0 - 50.11162)).abs() < 0.01, "{s:?}");
        assert!((s.compass_deg - 194.34024).abs() < 0.002, "{s:?}");
    }

    /// At noon of the longest day the sun stands 90 - latitude + 23.44 degrees high (obliquity of the ecliptic, IAU 2006), and
    /// due south of places north of the tropic; at an equinox it rises in the east (facts of astronomy).
    #[test]
    fn solstice_and_equinox() {
        let noon = times(&|t| sun(48.0, 15.0, t).unwrap().height_deg, at("2026-06-21T12:00:00+01:00"));
        assert!((noon.1 - (90.0 - 48.0 + 23.44)).abs() < 0.03, "{noon:?}");
        let s = sun(48.0, 15.0, noon.0).unwrap();
        assert!((s.compass_deg - 180.0).abs() < 0.3, "{s:?}");
        let rise = Day::of(0.0, 0.0, at("2026-03-20T12:00:00Z")).unwrap().times_at(0.0);
        assert!(rise.len() == 2 && (rise[0].1.compass_deg - 90.0).abs() < 0.5, "{rise:?}");
        assert!((rise[1].1.compass_deg - 270.0).abs() < 0.5, "{rise:?}");
    }

    /// The time near `about` at which `f` is highest.
    fn times(f: &dyn Fn(OffsetDateTime) -> f64, about: OffsetDateTime) -> (OffsetDateTime, f64) {
        let all = (-60..=60).map(|m| about + Duration::minutes(m));
        all.map(|t| (t, f(t))).max_by(|a, b| a.1.total_cmp(&b.1)).unwrap()
    }

    #[test]
    fn times_at_a_height_are_times_at_that_height() {
        for height in [5.0, 20.0, 41.0] {
            let found = Day::of(52.0, 13.0, at("2026-05-02T09:00:00+02:00")).unwrap().times_at(height);
            assert_eq!(found.len(), 2, "{height}");
            for (t, stands) in found {
                assert!((stands.height_deg - height).abs() < 0.02, "{height} at {t}");
            }
        }
        assert!(Day::of(52.0, 13.0, at("2026-12-21T09:00:00+01:00")).unwrap().times_at(41.0).is_empty());
    }

    #[test]
    fn the_sun_as_a_lens_sees_it() {
        let level = Camera::far(600, 400);
        let sun = Sun { compass_deg: 180.0, height_deg: 30.0 };
        let seen = |heading: f64| AzEl::of(&sun.seen_by(&level, heading));
        // a lens that looks north has the southern sun in its back, one that looks south has it before it
        let back = seen(0.0);
        assert!(back.azimuth_deg.abs() < 1e-6 && (back.elevation_deg - 30.0).abs() < 1e-6, "{back:?}");
        assert!((seen(180.0).azimuth_deg.abs() - 180.0).abs() < 1e-6);
        // one that looks east has the south on its right, and so the sun
        assert!((seen(90.0).azimuth_deg - 90.0).abs() < 1e-6, "{:?}", seen(90.0));
        for azimuth in [-120.0, -35.0, 0.0, 35.0, 90.0] {
            let a = seen(sun.heading_for(azimuth)).azimuth_deg;
            assert!((a - azimuth).abs() < 1e-6, "{a} for {azimuth}");
        }
        // the axis of a lens that looks down points up behind it: the sun there stands less high over the axis
        let down = AzEl::of(&sun.seen_by(&Camera { pitch: 10f64.to_radians(), ..level }, 0.0));
        assert!((down.elevation_deg - 20.0).abs() < 1e-6, "{down:?}");
    }

    #[test]
    fn what_is_no_time_or_place_is_said() {
        for text in ["", "yesterday", "2026-06-21 16:20", "2026-13-01T00:00:00Z", "2026-06-21T16:20:00"] {
            assert!(matches!(time_of(text), Err(SunProblem::Time(_))), "{text}");
        }
        assert_eq!(time_of("1500-01-01T00:00:00Z"), Err(SunProblem::Year(1500)));
        assert_eq!(sun(91.0, 0.0, at("2026-01-01T00:00:00Z")), Err(SunProblem::Place));
        assert_eq!(sun(f64::NAN, 0.0, at("2026-01-01T00:00:00Z")), Err(SunProblem::Place));
    }
}
