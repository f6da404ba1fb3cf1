//! Directions, places, sizes and lengths as people say them.

use crate::geometry::Vec3;
use crate::units::Metres;

/// Units of the distances written.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Lengths {
    /// Metres.
    #[default]
    Metres,
    /// Feet and inches.
    Feet,
}

/// `up 0.7 stops`, `down 1.0 stops`.
pub fn stops_words(stops: f64) -> String {
    format!("{} {:.1} stops", if stops < 0.0 { "down" } else { "up" }, stops.abs())
}

/// A figure with its sign, a true minus: `+0.7`, `\u{2212}1.2`.
pub fn signed(v: f64, digits: usize) -> String {
    format!("{v:+.digits$}").replace('-', "\u{2212}")
}

/// A length as people write it.
pub fn length(m: f64, unit: Lengths) -> String {
    match unit {
        Lengths::Metres => format!("{m:.2} m"),
        Lengths::Feet => {
            let inches = (Metres(m).feet() * 12.0).round();
            format!("{:.0} ft {:.0} in", (inches / 12.0).floor(), inches % 12.0)
        }
    }
}

/// Where a light stands in a few words: "upper left", "right, behind", "the lens".
pub fn direction_words(azimuth_deg: f64, elevation_deg: f64) -> String {
    let az = azimuth_deg.abs();
    let side = if azimuth_deg >= 0.0 { "right" } else { "left" };
    let height = if elevation_deg > 18.0 {
        "upper "
    } else if elevation_deg < -18.0 {
        "lower "
    } else {
        ""
    };
    if elevation_deg > 70.0 {
        return "straight above".into();
    }
    if elevation_deg < -70.0 {
        return "straight below".into();
    }
    if az < 12.0 {
        return match height {
            "upper " => "above the lens".into(),
            "lower " => "below the lens".into(),
            _ => "the lens".into(),
        };
    }
    if az > 165.0 {
        return "behind".into();
    }
    let behind = if az > 105.0 { ", behind" } else { "" };
    format!("{height}{side}{behind}")
}

/// "42° left, 36° up" with the spread.
pub fn direction_figures(azimuth_deg: f64, elevation_deg: f64, sd_deg: f64) -> String {
    let az = azimuth_deg.abs().round();
    let side = if az == 0.0 {
        "on the lens axis".to_owned()
    } else {
        format!("{az:.0}° {}", if azimuth_deg > 0.0 { "right" } else { "left" })
    };
    let el = elevation_deg.round();
    let up = if el == 0.0 {
        "level".to_owned()
    } else {
        format!("{:.0}° {}", el.abs(), if el > 0.0 { "up" } else { "down" })
    };
    format!("{side}, {up} ± {}", spread(sd_deg))
}

fn spread(sd_deg: f64) -> String {
    if sd_deg < 2.0 { format!("{:.1}°", sd_deg.max(0.1)) } else { format!("{sd_deg:.0}°") }
}

/// A place in the set in words, with `floor` the floor's depth under the reference point: `0.70 m to camera left, 0.69 m
/// before the subject, its middle 1.90 m above the floor`.
pub fn place_words(p: &Vec3, floor: f64, unit: Lengths) -> String {
    let side = if p.x.abs() < 0.03 {
        String::new()
    } else {
        format!("{} to camera {}, ", length(p.x.abs(), unit), if p.x > 0.0 { "right" } else { "left" })
    };
    let depth = if p.z.abs() < 0.03 {
        "level with the subject".to_owned()
    } else {
        format!("{} {} the subject", length(p.z.abs(), unit), if p.z > 0.0 { "before" } else { "behind" })
    };
    format!("{side}{depth}, its middle {} above the floor", length(p.y + floor, unit))
}

/// A size a person can picture, held against things at arm's length (common practice).
pub fn size_words(deg: f64) -> &'static str {
    match deg {
        d if d < 2.0 => "as small as a thumb nail at arm's length",
        d if d < 6.0 => "about three fingers wide at arm's length",
        d if d < 13.0 => "about a fist wide at arm's length",
        d if d < 26.0 => "about a spread hand wide at arm's length",
        d if d < 55.0 => "as wide as an open newspaper at arm's length",
        _ => "like a wall of light",
    }
}

/// Clock as people say it: "10:30".
pub fn clock_words(clock: f64) -> String {
    let halves = (clock * 2.0).round() as i64;
    let h = (halves / 2 + 11) % 12 + 1;
    if halves % 2 == 0 { format!("{h} o'clock") } else { format!("{h}:30") }
}

/// "22° (17 to 29)"; "under 3°" when the lower end is not told apart from a point.
pub fn size_range(a: f64, lo: f64, hi: f64) -> String {
    if hi > 4.0 * lo {
        return format!("somewhere from {lo:.0}° to {hi:.0}°");
    }
    if a < 10.0 { format!("{a:.1}° ({lo:.1} to {hi:.1})") } else { format!("{a:.0}° ({lo:.0} to {hi:.0})") }
}

/// The words with a capital at their start.
pub fn capital(words: &str) -> String {
    let mut c = words.chars();
    c.next().map_or(String::new(), |f| f.to_uppercase().chain(c).collect())
}
