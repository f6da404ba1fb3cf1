//! Readings as plain sentences.

use crate::drawing::{Lengths, length};
use crate::geometry::Vec3;
use crate::looks::hardness;
use crate::readings::{Light, MarkReading, Readings, Sighting};

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
fn size_words(deg: f64) -> &'static str {
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

fn sighting_words(s: &Sighting) -> String {
    let mut t = direction_figures(s.azimuth_deg, s.elevation_deg, s.direction_sd_deg);
    if let (Some(a), Some([lo, hi])) = (s.angular_size_deg, s.angular_size_range_deg) {
        t += &format!(", {} wide", size_range(a, lo, hi));
    }
    t
}

/// "22° (17 to 29)"; "under 3°" when the lower end is not told apart from a point.
pub fn size_range(a: f64, lo: f64, hi: f64) -> String {
    if hi > 4.0 * lo {
        return format!("somewhere from {lo:.0}° to {hi:.0}°");
    }
    if a < 10.0 { format!("{a:.1}° ({lo:.1} to {hi:.1})") } else { format!("{a:.0}° ({lo:.0} to {hi:.0})") }
}

/// One sentence on what a mark says.
pub fn of_mark(m: &MarkReading) -> String {
    if let Some(p) = &m.patch {
        return format!("{:+.1} stops from middle grey.", p.stops_from_grey);
    }
    let (list, what) = match &m.catchlights {
        Some(c) => (c, "catchlight"),
        None => (&m.lights, "light"),
    };
    let mut parts: Vec<String> = list
        .iter()
        .map(|s| match what {
            "catchlight" => format!("catchlight at {}: {}", clock_words(s.clock), sighting_words(s)),
            _ => match s.level_stops {
                Some(l) if l < -0.05 => format!("a second at {l:.1} stops: {}", sighting_words(s)),
                _ => sighting_words(s),
            },
        })
        .collect();
    if let Some(first) = parts.first_mut() {
        let mut c = first.chars();
        *first = c.next().map_or(String::new(), |f| f.to_uppercase().chain(c).collect());
    }
    parts.join("; ") + "."
}

fn count_word(n: usize) -> String {
    ["No light", "One light", "Two lights", "Three lights", "Four lights"]
        .get(n)
        .map_or_else(|| format!("{n} lights"), |s| (*s).to_owned())
}

fn light_sentence(l: &Light, first: bool) -> String {
    let mut t = if first {
        format!("Key from {}", direction_words(l.azimuth_deg, l.elevation_deg))
    } else {
        let role = match l.role.as_str() {
            "rim" => "Rim light",
            "background" => "Background light",
            _ => "Fill",
        };
        format!("{role} from {}", direction_words(l.azimuth_deg, l.elevation_deg))
    };
    t += &format!(": {}", direction_figures(l.azimuth_deg, l.elevation_deg, l.direction_sd_deg));
    if let (Some(a), Some([lo, hi])) = (l.angular_size_deg, l.angular_size_range_deg) {
        if hi > 4.0 * lo {
            t += "; its size cannot be told from this evidence";
        } else {
            t += &format!("; {}, {} - {}", size_range(a, lo, hi), size_words(a), hardness(a));
        }
    }
    if !first && let (Some(lv), Some(sd)) = (l.level_stops, l.level_sd_stops) {
        if sd > 0.8 {
            t += "; its strength cannot be told";
        } else {
            t += &format!("; {:.1} ± {:.1} stops under the key", -lv, sd.max(0.05));
        }
    }
    t + "."
}

/// The reading in sentences, the most important first.
pub fn summary(r: &Readings) -> Vec<String> {
    if r.lights.is_empty() {
        let round = r.by_mark.values().filter_map(|m| m.round).min_by(|a, b| a.clock_sd_deg.total_cmp(&b.clock_sd_deg));
        if let Some(c) = round {
            return vec![format!(
                "Light from {} ± {:.0}° round the picture; how far from the lens cannot be told from these marks.",
                clock_words(c.clock),
                c.clock_sd_deg
            )];
        }
        return vec![if r.by_mark.is_empty() {
            "Nothing is marked yet. Mark a ball, an eye or two patches, and the light is read from them.".into()
        } else {
            "No light direction can be told from these marks.".into()
        }];
    }
    let key = &r.lights[0];
    let mut head =
        format!("{} from {}", count_word(r.lights.len()), direction_words(key.azimuth_deg, key.elevation_deg));
    if r.lights.len() > 1 {
        let rest: Vec<String> = r.lights[1..].iter().map(|l| direction_words(l.azimuth_deg, l.elevation_deg)).collect();
        head += &format!(" and {}", rest.join(" and "));
    }
    head += match &r.ambient {
        Some(a) if a.level_stops > -1.5 => ", much light from all around.",
        Some(a) if a.level_stops > -4.0 => ", some light from all around.",
        _ => ".",
    };
    let mut out = vec![head];
    out.extend(r.lights.iter().enumerate().map(|(i, l)| light_sentence(l, i == 0)));
    if let Some(a) = &r.ambient {
        out.push(format!(
            "Light from all around: {:.1} ± {:.1} stops under the key.",
            -a.level_stops,
            a.level_sd_stops.max(0.05)
        ));
    }
    if let Some(l) = &r.look {
        let mut t = format!("As a portrait this is {} ({:.0} %)", l.name, 100.0 * l.probability);
        if let Some(o) = l.others.first() {
            t += &format!(", or {} ({:.0} %)", o.name, 100.0 * o.probability);
        }
        out.push(t + ".");
    }
    out
}

/// The words with a capital at their start.
pub(crate) fn capital(words: &str) -> String {
    let mut c = words.chars();
    c.next().map_or(String::new(), |f| f.to_uppercase().chain(c).collect())
}
