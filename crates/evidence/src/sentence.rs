//! Readings as plain sentences.

use crate::readings::{Light, MarkReading, PersonView, Readings, RoomView, Sighting};
use optics::hardness::hardness;
use optics::role::Role;
use optics::words::{clock_words, direction_figures, direction_words, size_range, size_words};

fn sighting_words(s: &Sighting) -> String {
    let mut t = direction_figures(s.azimuth_deg, s.elevation_deg, s.direction_sd_deg);
    if let (Some(a), Some([lo, hi])) = (s.angular_size_deg, s.angular_size_range_deg) {
        t += &format!(", {} wide", size_range(a, lo, hi));
    }
    t
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
        let role = match l.role {
            Role::Rim => "Rim light",
            Role::Background => "Background light",
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
            t += &match lv {
                lv if lv > -0.05 => format!("; as strong as the key (± {:.1} stops)", sd.max(0.05)),
                lv => format!("; {:.1} ± {:.1} stops under the key", -lv, sd.max(0.05)),
            };
        }
    }
    t + "."
}

/// How directional light is, in a word.
fn directional_words(d: f64) -> &'static str {
    match d {
        d if d < 0.15 => "nearly even",
        d if d < 0.35 => "soft, wide",
        d if d < 0.6 => "clearly directed",
        _ => "strongly directed",
    }
}

fn mean_sentence(room: &RoomView) -> String {
    if !room.has_side {
        return format!(
            "The room as a whole: light from all around, from no side more; {:.2} ± {:.2} directional (0 from all around, 1 from one \
             point).",
            room.directional,
            room.directional_sd.max(0.01)
        );
    }
    format!(
        "The room as a whole: light comes in the mean from {}; {:.2} ± {:.2} directional (0 from all around, 1 from one point).",
        direction_figures(room.azimuth_deg, room.elevation_deg, room.direction_sd_deg),
        room.directional,
        room.directional_sd.max(0.01)
    )
}

/// What several people are lit by, if it is not the same.
fn people_sentence(people: &[PersonView]) -> Option<String> {
    let named = people.iter().find(|p| p.named).filter(|_| people.iter().any(|p| !p.named))?;
    let one = |p: &PersonView| match p.key_azimuth_deg {
        Some(_) => format!("{}, key from {}", p.place, p.says),
        None => format!("{}, {}", p.place, p.says),
    };
    let all: Vec<String> = people.iter().map(one).collect();
    let count = if people.len() == 2 { "Two people".to_owned() } else { format!("{} people", people.len()) };
    Some(format!(
        "{count}, lit differently: {}. What follows is of the face {}.",
        all.join("; "),
        of_place(&named.place)
    ))
}

fn of_place(place: &str) -> String {
    match place {
        "left" | "right" => format!("on the {place}"),
        "middle" => "in the middle".into(),
        _ => place.to_owned(),
    }
}

/// The reading in sentences, the most important first.
pub fn summary(r: &Readings) -> Vec<String> {
    let mut out: Vec<String> = people_sentence(&r.people).into_iter().collect();
    out.extend(of_lights(r));
    out
}

fn of_lights(r: &Readings) -> Vec<String> {
    if let Some(room) = r.room.as_ref().filter(|_| r.lights.is_empty()) {
        return vec![
            format!(
                "No single light leads: {} light from {}.",
                directional_words(room.directional),
                if !room.has_side {
                    "all around".to_owned()
                } else {
                    direction_words(room.azimuth_deg, room.elevation_deg)
                }
            ),
            mean_sentence(room),
        ];
    }
    if r.lights.is_empty() {
        let round = r.by_mark.values().filter_map(|m| m.round).min_by(|a, b| a.clock_sd_deg.total_cmp(&b.clock_sd_deg));
        if let Some(c) = round {
            return vec![format!(
                "Light from {} ± {:.0}° round the picture; how far from the lens cannot be told from these marks.",
                clock_words(c.clock),
                c.clock_sd_deg
            )];
        }
        let shaded = r.by_mark.values().filter_map(|m| m.shaded);
        if let Some(s) = shaded.min_by(|a, b| a.azimuth_sd_deg.total_cmp(&b.azimuth_sd_deg)) {
            return vec![format!(
                "Light from {:.0}° to the {} of the lens ± {:.0}°, by the shading of the cylinder; how high it stands cannot be told: mark \
                 the shadow it casts on the table.",
                s.azimuth_deg.abs(),
                if s.azimuth_deg < 0.0 { "left" } else { "right" },
                s.azimuth_sd_deg
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
    out.extend(r.room.as_ref().map(mean_sentence));
    if let Some(l) = &r.look {
        let mut t = format!("As a portrait this is {} ({:.0} %)", l.name, 100.0 * l.probability);
        if let Some(o) = l.others.first() {
            t += &format!(", or {} ({:.0} %)", o.name, 100.0 * o.probability);
        }
        out.push(t + ".");
    }
    out
}
