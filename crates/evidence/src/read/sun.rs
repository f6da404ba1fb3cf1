//! The sun of a place and a time, held against the lights that were read; and when it would stand as they do.

use super::{Reader, degrees, round};
use crate::marks::SunFacts;
use crate::readings::{Light, SunLight, SunTime, SunView};
use direction::fusion::Fused;
use optics::geometry::{AzEl, Vec3, angle_between};
use optics::sun::{Day, SUN_DEG, Sun, sun, time_of};
use optics::words::direction_figures;

/// Heights under which the sun is taken to be down, degrees: its upper edge is gone.
const DOWN: f64 = -0.3;
/// Standard deviations within which two directions are one.
const ONE: f64 = 2.0;
/// Spread of a compass from which it tells no side, radians.
const OPEN_SD: f64 = 0.7;
/// Least spread of the sun's direction, radians; degrees it climbs in a minute near noon, at the least.
const LEAST_SD: f64 = 0.002;
const LEAST_A_MINUTE: f64 = 0.02;
/// Full angle from which a light is no bare sun, degrees, if its range begins over it: a veil of cloud spreads it (common
/// practice: its shadows' edges go).
const VEILED_DEG: f64 = 4.0;
/// The same from which it is the sky.
const SKY_DEG: f64 = 60.0;

impl Reader<'_> {
    pub(super) fn sun(&self, fused: &[Fused], lights: &[Light]) -> Option<SunView> {
        let facts = self.marks.sun.as_ref()?;
        // marks were checked: there is such a place and time
        let at = time_of(&facts.at).ok()?;
        let stands = sun(facts.latitude_deg, facts.longitude_deg, at).ok()?;
        let day = Day::of(facts.latitude_deg, facts.longitude_deg, at).ok()?;
        let up = stands.height_deg > DOWN;
        let heading_sd = facts.lens_heading_sd_deg.unwrap_or(SunFacts::HEADING_SD).to_radians();
        let spread = (heading_sd * stands.height_deg.to_radians().cos()).hypot(LEAST_SD);
        // a compass that may be off by more tells no side
        let heading = facts.lens_heading_deg.filter(|_| up && heading_sd < OPEN_SD);
        let seen = heading.map(|h| (stands.seen_by(&self.camera, h), spread));
        let light = seen.and_then(|(d, sd)| nearest(&d, sd, fused));
        let key = fused.first().map(|k| (self.camera.to_set(&k.seen.direction), k.seen.direction_sd));
        let as_high = key.map_or(Vec::new(), |(d, sd)| as_high(&day, &d, sd));
        let says = says(&stands, up, seen, light.as_ref(), lights, key);
        let azel = seen.map(|(d, _)| AzEl::of(&d));
        Some(SunView {
            compass_deg: round(stands.compass_deg, 1),
            height_deg: round(stands.height_deg, 1),
            azimuth_deg: azel.map(|a| round(a.azimuth_deg, 1)),
            elevation_deg: azel.map(|a| round(a.elevation_deg, 1)),
            direction_sd_deg: seen.map(|s| degrees(s.1)),
            light,
            says,
            as_high,
            day_height_deg: day.quarters.iter().map(|s| round(s.height_deg, 1)).collect(),
            key_height_deg: key.map(|(d, _)| round(AzEl::of(&d).elevation_deg, 1)),
        })
    }
}

/// The light nearest to the sun in units of their common spread.
fn nearest(sun: &Vec3, sun_sd: f64, fused: &[Fused]) -> Option<SunLight> {
    let one = |(index, f): (usize, &Fused)| {
        let apart = angle_between(sun, &f.seen.direction);
        let sd = sun_sd.hypot(f.seen.direction_sd);
        (apart / sd, SunLight { index, apart_deg: degrees(apart), sd_deg: degrees(sd), agrees: apart < ONE * sd })
    };
    fused.iter().enumerate().map(one).min_by(|a, b| a.0.total_cmp(&b.0)).map(|l| l.1)
}

/// When on that day the sun stands as high as a light in the set frame, and where the lens then must look.
fn as_high(day: &Day, light: &Vec3, sd: f64) -> Vec<SunTime> {
    let a = AzEl::of(light);
    // one axis of two
    let sd_deg = sd.to_degrees() / std::f64::consts::SQRT_2;
    let quarters: Vec<f64> = day.quarters.iter().map(|s| s.height_deg).collect();
    let one = |(t, stands): (time::OffsetDateTime, Sun)| {
        let k = (4 * usize::from(t.hour()) + usize::from(t.minute()) / 15).min(quarters.len() - 2);
        let a_minute = ((quarters[k + 1] - quarters[k]) / 15.0).abs().max(LEAST_A_MINUTE);
        SunTime {
            clock: format!("{:02}:{:02}", t.hour(), t.minute()),
            sd_minutes: round(sd_deg / a_minute, 0),
            compass_deg: round(stands.compass_deg, 0),
            lens_heading_deg: round(stands.heading_for(a.azimuth_deg), 0).rem_euclid(360.0),
        }
    };
    day.times_at(a.elevation_deg).into_iter().map(one).collect()
}

fn says(
    stands: &Sun,
    up: bool,
    seen: Option<(Vec3, f64)>,
    light: Option<&SunLight>,
    lights: &[Light],
    key: Option<(Vec3, f64)>,
) -> String {
    if !up {
        return format!("The sun was down, {:.0}° under the horizon: what lit this is no sun.", -stands.height_deg);
    }
    let high = format!("The sun stood {:.0}° high", stands.height_deg);
    let Some((direction, sd)) = seen else {
        let open = "where the lens looked is not known well enough, so its side is open";
        return match key {
            Some((d, sd)) => {
                let off = AzEl::of(&d).elevation_deg - stands.height_deg;
                let fits = off.abs() < ONE * sd.to_degrees();
                let word = if fits { "as high as the key within its spread" } else { "not as high as the key" };
                format!("{high}: {word} ({off:+.0}°); {open}.")
            }
            None => format!("{high}; {open}."),
        };
    };
    let a = AzEl::of(&direction);
    let from = format!("The sun stood at {}", direction_figures(a.azimuth_deg, a.elevation_deg, sd.to_degrees()));
    let Some((light, read)) = light.and_then(|l| Some((l, lights.get(l.index)?))) else {
        return format!("{from}. No light was read to hold against it.");
    };
    let name = if light.index == 0 { "the key".to_owned() } else { format!("the {}", read.role.word()) };
    if light.agrees {
        let least = read.angular_size_range_deg.map_or(0.0, |r| r[0]);
        let what = if least > SKY_DEG {
            "that is wider than any veil before it: the bright sky about it, or open shade"
        } else if least > VEILED_DEG {
            "wider than the bare sun: it came through cloud or cloth"
        } else {
            "direct sun fits"
        };
        let size = read.angular_size_deg.map_or(String::new(), |s| format!(" ({s:.1}° wide, the sun {SUN_DEG}°)"));
        return format!(
            "{from}: {:.0}° from {name}, within the {:.0}° they may be off; {what}{size}.",
            light.apart_deg, light.sd_deg
        );
    }
    format!(
        "{from}: {:.0}° from the nearest light ({name}), more than the {:.0}° they may be off. Not the sun then: open shade, a \
         reflection or a lamp - or the time or the compass is wrong.",
        light.apart_deg, light.sd_deg
    )
}
