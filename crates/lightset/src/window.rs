//! Sun and sky through a window of the room, with what hangs in it: the sun as far as its light goes straight on, the window as an
//! even face of what the sky, the ground outside and a curtain in the sun send in.

use crate::daylight::{SunStands, SunWanted, sky_lux, sun_kelvin, sun_lux, sun_source};
use crate::set::{Level, LightSet, Opening, SetLight, Source, Wall, range};
use optics::falloff::irradiance_from_polygon;
use optics::geometry::{AzEl, Vec3};
use serde::{Deserialize, Serialize};
use std::f64::consts::PI;
use std::sync::LazyLock;
use utoipa::ToSchema;

/// Which wall a window is in, as the lens sees it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum WallSide {
    /// Image left.
    Left,
    /// Image right.
    Right,
    /// Behind the subject.
    Back,
    /// Behind the lens.
    Front,
}

impl WallSide {
    /// The way its face looks, into the room, degrees from the lens towards camera right.
    pub fn facing_deg(self) -> f64 {
        match self {
            WallSide::Left => 90.0,
            WallSide::Right => -90.0,
            WallSide::Back => 0.0,
            WallSide::Front => 180.0,
        }
    }

    /// The same as a direction.
    pub fn inward(self) -> Vec3 {
        AzEl { azimuth_deg: self.facing_deg(), elevation_deg: 0.0 }.vector()
    }

    /// Along the wall: towards the lens in a side wall, to camera right in the others; and the words for one way and the other.
    fn along(self) -> (Vec3, [&'static str; 2]) {
        match self {
            WallSide::Left | WallSide::Right => (Vec3::z(), ["towards the lens", "away from the lens"]),
            WallSide::Back | WallSide::Front => (Vec3::x(), ["to camera right", "to camera left"]),
        }
    }
}

/// What hangs in a window.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Sheer {
    /// Stable name.
    pub id: String,
    /// Name for people.
    pub name: String,
    /// Share of the light that goes on as it came.
    pub straight: f64,
    /// Share that comes through to all sides.
    pub scattered: f64,
}

#[derive(Deserialize)]
struct SheerTable {
    sheer: Vec<Sheer>,
}

static SHEERS: LazyLock<Vec<Sheer>> =
    LazyLock::new(|| toml::from_str::<SheerTable>(include_str!("../data/sheers.toml")).expect("sheers.toml").sheer);

/// Everything that may hang in a window.
pub fn sheers() -> &'static [Sheer] {
    &SHEERS
}

/// A window and what hangs in it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct WindowWanted {
    /// The wall it is in.
    pub wall: WallSide,
    /// Metres from the subject's eyes to that wall; where the set has the wall already, it stands where it stands.
    pub away_m: f64,
    /// How far its middle lies along the wall from straight beside the eyes, metres: towards the lens in a side wall, to camera
    /// right in the others.
    #[serde(default)]
    pub along_m: f64,
    /// How far its middle lies over the eyes, metres.
    #[serde(default)]
    pub up_m: f64,
    /// Width.
    pub width_m: f64,
    /// Height.
    pub height_m: f64,
    /// What hangs in it, by its stable name.
    pub sheer: String,
    /// The sky is covered: no sun.
    #[serde(default)]
    pub overcast: bool,
}

/// Share of the light that glass lets through (common practice: two panes).
const GLASS: f64 = 0.8;
/// Share that the ground outside sends back (common practice: pavement and lawn, about a fifth).
const GROUND: f64 = 0.2;
/// Colour of a clear sky with the ground under it, and of a covered one, kelvin (common practice).
const SKY_K: [f64; 2] = [7500.0, 6500.0];
/// A wall of a room that the set does not have: its size, and how its middle lies to the eyes, metres; its paint.
const WALL_M: [f64; 3] = [6.0, 3.0, 0.1];
const PAINT: [f64; 3] = [0.6; 3];
/// One standard deviation of what comes through, stops: weather, glass and cloth (common practice).
const SD_STOPS: f64 = 0.5;
/// Steps in which the day is looked through, minutes.
const STEP_MIN: i64 = 5;

struct Hole {
    centre: Vec3,
    inward: Vec3,
    along: Vec3,
    half: [f64; 2],
    away_m: f64,
}

impl Hole {
    /// Where light from a direction must cross the wall to reach a point, metres along and up from the window's middle; nothing if
    /// it comes from inside.
    fn crossed(&self, from: &Vec3, to: &Vec3) -> Option<[f64; 2]> {
        let cosine = -from.dot(&self.inward);
        let t = (to - self.centre).dot(&self.inward) / cosine;
        (cosine > 1e-6).then(|| {
            let off = to + from * t - self.centre;
            [off.dot(&self.along), off.y]
        })
    }

    fn lets_in(&self, from: &Vec3) -> bool {
        self.crossed(from, &Vec3::zeros()).is_some_and(|[a, u]| a.abs() <= self.half[0] && u.abs() <= self.half[1])
    }

    /// Illuminance at the eyes, facing the light, of the window shining evenly with the luminance one.
    fn seen_from_eyes(&self) -> f64 {
        let [w, h] = self.half;
        let corners = [[-w, -h], [w, -h], [w, h], [-w, h]].map(|[a, u]| self.centre + self.along * a + Vec3::y() * u);
        // the vector irradiance: its length is what a meter that faces it shows
        let on = |n: Vec3| irradiance_from_polygon(1.0, &corners, &Vec3::zeros(), &n);
        [Vec3::x(), Vec3::y(), Vec3::z()].map(|n| on(n) - on(-n)).iter().map(|e| e * e).sum::<f64>().sqrt()
    }
}

/// Sun and sky of a place and a time as they come into a set through a window.
///
/// # Errors
/// A sentence that names what is wrong, or what the wall has no room for.
pub fn through_window(set: &LightSet, sun: &SunWanted, window: &WindowWanted) -> Result<SunStands, String> {
    let w = window;
    range("window.away_m", w.away_m, 0.3, 50.0, "metres")?;
    range("window.along_m", w.along_m, -20.0, 20.0, "metres")?;
    range("window.up_m", w.up_m, -5.0, 10.0, "metres")?;
    range("window.width_m", w.width_m, 0.1, 20.0, "metres")?;
    range("window.height_m", w.height_m, 0.1, 10.0, "metres")?;
    let sheer = SHEERS
        .iter()
        .find(|s| s.id == w.sheer)
        .ok_or_else(|| format!("window.sheer: \"{}\" is not known", w.sheer.chars().take(40).collect::<String>()))?;
    let now = sun.stands()?;
    let inward = w.wall.inward();
    let (along, words) = w.wall.along();
    let mut walls = set.walls.clone();
    let looks_in = |x: &Wall| Vec3::from(x.normal).normalize().dot(&inward) > 0.98;
    let away = |x: &Wall| -Vec3::from(x.position_m).dot(&inward);
    let nearest = (0..walls.len())
        .filter(|k| looks_in(&walls[*k]) && away(&walls[*k]) > 0.0)
        .min_by(|a, b| away(&walls[*a]).total_cmp(&away(&walls[*b])));
    let mut says = Vec::new();
    let k = match nearest {
        Some(k) => k,
        None => {
            let at = -inward * w.away_m + Vec3::y() * WALL_M[2] + along * w.along_m;
            walls.push(Wall {
                position_m: to_millimetres(&at),
                normal: inward.map(f64::round).into(),
                width_m: WALL_M[0].max(w.width_m + 2.0),
                height_m: WALL_M[1].max(w.height_m + 0.5 + 2.0 * (w.up_m - WALL_M[2]).abs()),
                colour: PAINT,
                opening: None,
            });
            says.push(format!("A pale wall with the window stands {:.1} m from the eyes.", w.away_m));
            walls.len() - 1
        }
    };
    let away_m = away(&walls[k]);
    if nearest.is_some() && (away_m - w.away_m).abs() > 0.05 {
        says.push(format!("The set's own wall is {away_m:.2} m away: the window is in it."));
    }
    let centre = -inward * away_m + along * w.along_m + Vec3::y() * w.up_m;
    let hole = Hole { centre, inward, along, half: [w.width_m / 2.0, w.height_m / 2.0], away_m };
    let off = centre - Vec3::from(walls[k].position_m);
    let beyond = [
        off.dot(&along).abs() + hole.half[0] - walls[k].width_m / 2.0,
        off.y.abs() + hole.half[1] - walls[k].height_m / 2.0,
    ];
    if let Some(by) = beyond.into_iter().find(|b| *b > 1e-6) {
        return Err(format!(
            "window: it reaches {:.0} cm beyond the wall of {:.1} × {:.1} m: a smaller one, or nearer to its middle",
            100.0 * by,
            walls[k].width_m,
            walls[k].height_m
        ));
    }
    walls[k].opening = Some(Opening { centre_m: to_millimetres(&centre), width_m: w.width_m, height_m: w.height_m });

    let from = now.vector();
    let cosine = (-from.dot(&inward)).max(0.0);
    let beam = if w.overcast { 0.0 } else { sun_lux(now.elevation_deg) };
    let sky = sky_lux(now.elevation_deg, w.overcast);
    // an upright window sees half the sky, and the ground under it
    let ground = GROUND * (sky + beam * now.elevation_deg.to_radians().sin());
    let from_sky = GLASS * (sky + ground) / 2.0 * (sheer.straight + sheer.scattered);
    let from_sun = GLASS * beam * cosine * sheer.scattered;
    let lux = (from_sky + from_sun) / PI * hole.seen_from_eyes();
    let mut face = SetLight::of(
        "window",
        Source::Window { width_m: w.width_m, height_m: w.height_m, facing_deg: w.wall.facing_deg() },
        0.0,
    );
    // a hair before the wall
    face.position_m = Some(to_millimetres(&(centre + inward * 0.005)));
    face.level = Level::Lux { lux };
    let (sky_k, sun_k) = (SKY_K[usize::from(w.overcast)], sun_kelvin(now.elevation_deg));
    let share = from_sun / (from_sky + from_sun);
    // colours mix about evenly in mired
    face.cct_k = Some((1e6 / (1e6 / sky_k * (1.0 - share) + 1e6 / sun_k * share)).round());
    says.push(format!(
        "The window gives {} lux at the eyes (± {SD_STOPS} stops: weather, glass, cloth); {} hangs in it.",
        three_figures(lux),
        sheer.name
    ));
    let mut lights = Vec::new();
    if w.overcast {
        says.push("The sky is covered: the window is the only light of the day.".into());
    } else if cosine == 0.0 {
        says.push("The sun stands on the other side of the house: only sky comes in.".into());
    } else if sheer.straight > 0.0 {
        lights.push(sun_source(now, beam * GLASS * sheer.straight));
        says.push(sun_falls(&hole, &from, words));
    } else {
        says.push("The cloth takes the sun apart: no beam is left of it.".into());
    }
    if !w.overcast
        && let Some(times) = when(&hole, sun)?
    {
        says.push(times);
    }
    if w.wall == WallSide::Back {
        says.push("It is behind the subject: what the set has before it hides it.".into());
    }
    lights.push(face);
    Ok(SunStands { lights, walls: Some(walls), says })
}

fn to_millimetres(p: &Vec3) -> [f64; 3] {
    p.map(|v| (v * 1000.0).round() / 1000.0).into()
}

fn three_figures(v: f64) -> String {
    let step = 10f64.powf(v.abs().max(1.0).log10().floor() - 2.0);
    format!("{:.0}", (v / step).round() * step)
}

/// Where the sun's beam lies to the eyes.
fn sun_falls(hole: &Hole, from: &Vec3, words: [&str; 2]) -> String {
    if hole.lets_in(from) {
        return format!("The sun falls on the eyes, {:.1} m behind the glass.", hole.away_m / -from.dot(&hole.inward));
    }
    // where the light through the middle of the window passes them
    let Some([a, u]) = hole.crossed(from, &Vec3::zeros()) else { return String::new() };
    let out = |v: f64, half: f64| (v.abs() - half).max(0.0);
    let mut ways = Vec::new();
    if out(a, hole.half[0]) > 0.0 {
        ways.push(format!("{:.2} m {}", out(a, hole.half[0]), words[usize::from(a > 0.0)]));
    }
    if out(u, hole.half[1]) > 0.0 {
        ways.push(format!("{:.2} m {}", out(u, hole.half[1]), if u > 0.0 { "under them" } else { "over them" }));
    }
    format!("The sun's beam passes the eyes {}.", ways.join(" and "))
}

/// When the sun falls on the eyes that day, by the clock of the time that was asked for.
fn when(hole: &Hole, sun: &SunWanted) -> Result<Option<String>, String> {
    let clock = |m: i64| format!("{:02}:{:02}", m / 60, m % 60);
    let mut spans: Vec<[i64; 2]> = Vec::new();
    for m in (0..24 * 60).step_by(STEP_MIN as usize) {
        let Some(at) = sun.at_minute(m)? else { continue };
        if hole.lets_in(&at.vector()) {
            match spans.last_mut() {
                Some(s) if s[1] == m - STEP_MIN => s[1] = m,
                _ => spans.push([m, m]),
            }
        }
    }
    if spans.is_empty() {
        return Ok(Some("It does not reach the eyes through this window on that day.".into()));
    }
    let said: Vec<String> = spans.iter().map(|[a, b]| format!("{} to {}", clock(*a), clock(*b))).collect();
    Ok(Some(format!("It falls on the eyes from {} that day.", said.join(" and from "))))
}
