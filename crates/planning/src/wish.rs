//! A set from a wish, without a picture: a look, a ratio, a mood, a room and a subject become lights that are wanted, as a reading
//! would have them.
//!
//! The looks are rows of `data/wishes.toml`.

use crate::rebuild::{Construction, Room, RoomWindow, SeenLight, Walls};
use crate::stage::COMMON_EXPOSURE;
use lightset::set::{
    FORMAT, Hair, LightSet, Person, PictureSpec, SetCamera, SetLight, Source, Subject, SubjectKind, Wall, range,
};
use optics::exposure::Settings;
use optics::geometry::{AzEl, Vec3};
use optics::role::Role;
use serde::{Deserialize, Serialize};
use std::sync::LazyLock;
use utoipa::ToSchema;

/// A look one can ask for.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
#[schema(as = WishLook)]
pub struct Look {
    /// Stable name.
    pub id: String,
    /// Name for people.
    pub name: String,
    /// `portrait`, `talking`, `product` or `table`.
    pub group: String,
    /// What it is and shows.
    pub says: String,
    /// Who or what stands there.
    #[serde(default = "somebody")]
    pub subject: SubjectKind,
    /// Key to fill, each metered facing it.
    pub key_to_fill: f64,
    /// Stops by which the background looks darker than a grey card (18 %) at the subject.
    #[serde(default = "one_and_a_half")]
    pub under: f64,
    /// Share of light that its background scatters: black paper 0.04, grey 0.2, white 0.85.
    #[serde(default = "grey_paper")]
    pub paper: f64,
    #[serde(default, skip_serializing)]
    yaw: f64,
    #[serde(skip_serializing)]
    light: Vec<LookLight>,
    #[serde(default = "two", skip_serializing)]
    lens_m: f64,
    #[serde(default, skip_serializing)]
    rise_m: f64,
    #[serde(default, skip_serializing)]
    frame_m: Option<f64>,
    #[serde(default = "upright", skip_serializing)]
    aspect: f64,
    #[serde(default = "one_and_a_half", skip_serializing)]
    behind_m: f64,
    #[serde(default, skip_serializing)]
    aside_m: Option<f64>,
    #[serde(default = "yes", skip_serializing)]
    background_lamp: bool,
    #[serde(default, skip_serializing)]
    exposure: Option<[f64; 3]>,
    /// Height of a band of light across the eyes, metres.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub band_m: Option<f64>,
    #[serde(default, skip_serializing)]
    edge_m: Option<f64>,
}

#[derive(Debug, Clone, Deserialize)]
struct LookLight {
    role: Role,
    at: [f64; 2],
    fills: f64,
    #[serde(default)]
    stops: f64,
    /// Its level is as it says, and does not follow from the ratio.
    #[serde(default)]
    level: bool,
    /// Which of two people it is aimed at.
    #[serde(default)]
    of: Option<usize>,
    /// Width over height of its face.
    #[serde(default)]
    aspect: Option<f64>,
    #[serde(default)]
    via: Vec<Construction>,
    #[serde(default)]
    with: Vec<String>,
}

fn somebody() -> SubjectKind {
    SubjectKind::Person
}
fn one_and_a_half() -> f64 {
    1.5
}
fn grey_paper() -> f64 {
    0.2
}
fn two() -> f64 {
    2.0
}
fn upright() -> f64 {
    0.8
}
fn yes() -> bool {
    true
}

/// How a look is bent.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct Mood {
    /// Stable name.
    pub id: String,
    /// Name for people.
    pub name: String,
    size: f64,
    contrast: f64,
    under: f64,
}

#[derive(Deserialize)]
struct Table {
    mood: Vec<Mood>,
    look: Vec<Look>,
}

static TABLE: LazyLock<Table> =
    LazyLock::new(|| toml::from_str(include_str!("../data/wishes.toml")).expect("wishes.toml"));

/// Looks one can ask for.
pub fn looks() -> &'static [Look] {
    &TABLE.look
}

/// How they may be bent.
pub fn moods() -> &'static [Mood] {
    &TABLE.mood
}

pub use lightset::window::WallSide;

/// A window of the room.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct WishWindow {
    /// Which wall.
    pub wall: WallSide,
    /// Width in metres.
    pub width_m: f64,
    /// Height in metres.
    pub height_m: f64,
}

/// The room one has.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct WishRoom {
    /// Across the lens axis, metres.
    pub width_m: f64,
    /// Along it.
    pub depth_m: f64,
    /// Floor to ceiling.
    pub height_m: f64,
    /// Linear RGB reflectance of walls and ceiling.
    #[schema(value_type = optics::geometry::Triple)]
    pub walls: [f64; 3],
    /// Window.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub window: Option<WishWindow>,
}

impl Default for WishRoom {
    fn default() -> Self {
        WishRoom { width_m: 5.0, depth_m: 6.0, height_m: 2.6, walls: [0.7; 3], window: None }
    }
}

/// What is wanted, without a picture.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Wish {
    /// Id of a look.
    pub look: String,
    /// Id of a mood; the look as it is if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mood: Option<String>,
    /// Key to fill, each metered facing it; the look's own if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub key_to_fill: Option<f64>,
    /// The key comes from image right.
    #[serde(default)]
    pub from_right: bool,
    /// Who or what; the look's own if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub subject: Option<SubjectKind>,
    /// Degrees the subject is turned to image right, beyond what the look has.
    #[serde(default)]
    pub turn_deg: f64,
    /// The sitter stands.
    #[serde(default)]
    pub standing: bool,
    /// Linear RGB reflectance of the background; the look's own paper if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<optics::geometry::Triple>)]
    pub background: Option<[f64; 3]>,
    /// The room.
    #[serde(default)]
    pub room: WishRoom,
    /// Exposure; one that the lamps reach if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub exposure: Option<Settings>,
}

/// A wish laid out: what each light is to give, and the set without them.
#[derive(Debug, Clone)]
pub struct LaidOut {
    /// Lights that are wanted.
    pub seen: Vec<SeenLight>,
    /// Subject, camera and room; its lights carry names and levels.
    pub base: LightSet,
    /// The room they must fit into.
    pub room: Room,
    /// Key to fill that is wanted.
    pub key_to_fill: f64,
    /// Lights whose level follows from the ratio.
    pub follows: Vec<bool>,
    /// Stops of light on the background under the subject that are wanted.
    pub under: f64,
    /// Share of light that the background scatters.
    pub paper: f64,
    /// Metres from the subject to the background.
    pub behind_m: f64,
    /// The background may have a lamp of its own.
    pub background_lamp: bool,
    /// A band of light across the eyes: its height and the width of its edges, metres.
    pub band: Option<[f64; 2]>,
}

/// Heights of eyes over the floor, metres (common practice).
const SEATED_M: f64 = 1.25;
const STANDING_M: f64 = 1.6;
/// Height of a table.
const TABLE_M: f64 = 0.8;
/// A table's width and depth.
const TABLE_TOP_M: [f64; 2] = [1.2, 0.8];
/// Room behind the lens for who holds it.
const BEHIND_LENS_M: f64 = 0.5;
/// How far people who set lights read a look's direction and angle: one standard deviation, degrees and share (common practice).
const DIRECTION_SD_DEG: f64 = 7.0;
const SIZE_SD: f64 = 0.3;
/// The same of width over height, its logarithm.
const ASPECT_SD: f64 = 0.35;
/// Reflectance of a grey card.
const GREY_CARD: f64 = 0.18;
/// Height of a window's middle over the floor.
const WINDOW_UP_M: f64 = 1.55;
/// Size of the picture, longest side in pixels.
const PICTURE_PX: f64 = 560.0;
/// Height of the frame at a head.
const PORTRAIT_M: f64 = 0.62;
const PRODUCT_M: f64 = 0.42;
/// The farthest the background may go for a wish.
pub const FARTHEST_BEHIND_M: f64 = 4.0;

impl Wish {
    /// Checks every figure.
    ///
    /// # Errors
    /// One sentence that names the field and what was expected.
    pub fn check(&self) -> Result<(), String> {
        if !looks().iter().any(|l| l.id == self.look) {
            let all: Vec<&str> = looks().iter().map(|l| l.id.as_str()).collect();
            return Err(format!("look: \"{}\" is not known; expected one of {}", self.look, all.join(", ")));
        }
        if let Some(m) = &self.mood
            && !moods().iter().any(|k| &k.id == m)
        {
            return Err(format!("mood: \"{m}\" is not known"));
        }
        if let Some(r) = self.key_to_fill {
            range("key_to_fill", r, 1.0, 64.0, "to one")?;
        }
        range("turn_deg", self.turn_deg, -180.0, 180.0, "degrees")?;
        let r = &self.room;
        range("room.width_m", r.width_m, 0.5, 60.0, "metres")?;
        range("room.depth_m", r.depth_m, 0.5, 60.0, "metres")?;
        range("room.height_m", r.height_m, 1.5, 20.0, "metres")?;
        for c in r.walls.iter().chain(self.background.iter().flatten()) {
            range("reflectance", *c, 0.0, 1.0, "(linear share)")?;
        }
        if let Some(w) = &r.window {
            range("room.window.width_m", w.width_m, 0.1, 20.0, "metres")?;
            range("room.window.height_m", w.height_m, 0.1, 10.0, "metres")?;
            if w.height_m > r.height_m {
                return Err(format!("room.window.height_m: {} m is higher than the room", w.height_m));
            }
        }
        self.exposure.as_ref().map_or(Ok(()), Settings::check)
    }

    /// Lays the wish out with so many metres from the subject to the background; the look's own if none.
    ///
    /// # Errors
    /// One sentence if a figure is out of bounds or the room is too small for lens, subject and background, by how much.
    pub fn laid_out(&self, behind_m: Option<f64>) -> Result<LaidOut, String> {
        self.check()?;
        let look = looks().iter().find(|l| l.id == self.look).expect("checked");
        let mood = moods().iter().find(|m| Some(&m.id) == self.mood.as_ref()).unwrap_or(&moods()[0]);
        let kind = self.subject.unwrap_or(look.subject);
        let living = kind.is_head();
        let eye = match (living, kind.rests_m()) {
            (true, _) if self.standing => STANDING_M,
            (true, _) => SEATED_M,
            (false, rests) => TABLE_M + rests.unwrap_or(0.3),
        };
        let lens = look.lens_m;
        let room = &self.room;
        let needs = lens + BEHIND_LENS_M;
        let behind = match behind_m {
            Some(b) => b,
            // what the room leaves, down to half of what the look likes
            None => look.behind_m.min(room.depth_m - needs).max(0.5 * look.behind_m),
        };
        let short = needs + behind - room.depth_m;
        if short > 0.005 {
            return Err(format!(
                "The room is {short:.1} m too short: the lens stands {lens:.1} m before the subject with {BEHIND_LENS_M} m behind it, and the background {behind:.1} m behind, {:.1} m in all.",
                needs + behind
            ));
        }
        let head = if living { 0.15 } else { 0.0 };
        if eye + head > room.height_m {
            return Err(format!("The room is {:.1} m too low for the subject.", eye + head - room.height_m));
        }
        let side = if self.from_right { -1.0 } else { 1.0 };
        let walls = Walls {
            left_m: room.width_m / 2.0,
            right_m: room.width_m / 2.0,
            back_m: behind,
            front_m: room.depth_m - behind,
            reflectance: room.walls.iter().sum::<f64>() / 3.0,
            windows: room.window.iter().map(|w| self.window(w, behind, eye)).collect(),
        };
        let mut names: Vec<Role> = Vec::new();
        let (mut seen, mut lights, mut follows) = (Vec::new(), Vec::new(), Vec::new());
        for l in &look.light {
            let before = names.iter().filter(|r| **r == l.role).count();
            names.push(l.role);
            let name = if before == 0 { l.role.to_string() } else { format!("{} {}", l.role, before + 1) };
            let at = AzEl { azimuth_deg: l.at[0] * side, elevation_deg: l.at[1] };
            let aside = look.aside_m.zip(l.of).map_or(0.0, |(a, who)| if who == 0 { -a } else { a });
            let size = (l.fills * mood.size).clamp(1.0, 100.0).to_radians();
            // its face is to be found
            lights.push(SetLight::of(&name, Source::Disc { diameter_m: 0.2 }, l.stops));
            seen.push(SeenLight {
                role: l.role,
                name,
                at,
                direction_sd: DIRECTION_SD_DEG.to_radians(),
                size: Some((size, SIZE_SD)),
                aspect: l.aspect.map(|a| (a.ln(), ASPECT_SD)),
                corners: None,
                feather: None,
                level_stops: (l.role == Role::Fill && !l.level).then_some((-2.0, 1.5)),
                aims_at: Vec3::new(aside * side, 0.0, 0.0),
                via: l.via.clone(),
                with: l.with.clone(),
            });
            follows.push(l.role == Role::Fill && !l.level);
        }
        let key_to_fill = self.key_to_fill.unwrap_or((look.key_to_fill * mood.contrast).clamp(1.0, 64.0));
        let frame = look.frame_m.unwrap_or(if living { PORTRAIT_M } else { PRODUCT_M });
        let rise = look.rise_m;
        let (width, height) = if look.aspect > 1.0 {
            (PICTURE_PX, PICTURE_PX / look.aspect)
        } else {
            (PICTURE_PX * look.aspect, PICTURE_PX)
        };
        let paper = self.paper(look);
        let own = look.exposure.map(|[f_number, shutter_s, iso]| Settings { f_number, shutter_s, iso });
        let exposure = self.exposure.or(own).unwrap_or(COMMON_EXPOSURE);
        let base = LightSet {
            format: FORMAT.into(),
            subjects: self.subjects(look, kind, side),
            camera: SetCamera {
                position_m: [0.0, rise, (lens * lens - rise * rise).max(1e-3).sqrt()],
                // a little more room under the eyes than over them
                aim_m: if living { [0.0, -0.06 * frame / PORTRAIT_M, 0.0] } else { [0.0; 3] },
                vfov_deg: Some(2.0 * (frame / 2.0 / lens).atan().to_degrees()),
                focal_mm: None,
                sensor_height_mm: None,
                exposure,
                white_k: None,
            },
            lights,
            boards: Vec::new(),
            flags: Vec::new(),
            walls: self.walls(kind, eye, behind, paper),
            ambient: None,
            outlet_m: None,
            walk_m: Vec::new(),
            picture: PictureSpec {
                width: width.round() as u32,
                height: height.round() as u32,
                samples: 16,
                ..PictureSpec::default()
            },
        };
        Ok(LaidOut {
            seen,
            base,
            room: Room { floor_m: eye, ceiling_m: room.height_m, living, walls: Some(walls) },
            key_to_fill,
            follows,
            under: look.under + mood.under - (GREY_CARD / paper).log2(),
            paper,
            behind_m: behind,
            background_lamp: look.background_lamp && look.band_m.is_none(),
            band: look.band_m.zip(look.edge_m).map(|(b, e)| [b, e]),
        })
    }

    fn subjects(&self, look: &Look, kind: SubjectKind, side: f64) -> Vec<Subject> {
        let one = |x: f64, yaw: f64, number: u32| Subject {
            position_m: [x, 0.0, 0.0],
            yaw_deg: yaw,
            person: (kind == SubjectKind::Person).then(|| Person {
                number,
                hair: Some(Hair::Short),
                ..Person::default()
            }),
            ..Subject::of(kind)
        };
        let yaw = look.yaw * side + self.turn_deg;
        match look.aside_m {
            // half turned to each other
            Some(a) => vec![one(-a, 20.0 + self.turn_deg, 11), one(a, -20.0 + self.turn_deg, 4)],
            None => vec![one(0.0, yaw, 11)],
        }
    }

    /// Share of light the background scatters: as wished, else the look's own paper.
    fn paper(&self, look: &Look) -> f64 {
        self.background.map_or(look.paper, |rgb| optics::photo::luminance(rgb.map(|v| v as f32))).clamp(0.01, 0.95)
    }

    /// Floor first, then ceiling, walls and a table.
    fn walls(&self, kind: SubjectKind, eye: f64, behind: f64, paper: f64) -> Vec<Wall> {
        let WishRoom { width_m: w, depth_m: d, height_m: h, walls: colour, .. } = self.room;
        let (mid, z) = (h / 2.0 - eye, d / 2.0 - behind);
        let wall = |position_m, normal, width_m, height_m, colour| Wall {
            position_m,
            normal,
            width_m,
            height_m,
            colour,
            opening: None,
        };
        // floors are darker than walls (common practice)
        let floor = colour.map(|c| 0.45 * c);
        let mut out = vec![
            wall([0.0, -eye, z], [0.0, 1.0, 0.0], w, d, floor),
            wall([0.0, h - eye, z], [0.0, -1.0, 0.0], w, d, colour),
            wall([0.0, mid, -behind], [0.0, 0.0, 1.0], w, h, self.background.unwrap_or([paper; 3])),
            wall([0.0, mid, d - behind], [0.0, 0.0, -1.0], w, h, colour),
            wall([-w / 2.0, mid, z], [1.0, 0.0, 0.0], d, h, colour),
            wall([w / 2.0, mid, z], [-1.0, 0.0, 0.0], d, h, colour),
        ];
        if let Some(rests) = kind.rests_m() {
            let depth = TABLE_TOP_M[1].min(2.0 * behind);
            let top = self.background.unwrap_or([paper; 3]);
            out.push(wall([0.0, -rests, 0.0], [0.0, 1.0, 0.0], TABLE_TOP_M[0].min(w), depth, top));
        }
        out
    }

    fn window(&self, w: &WishWindow, behind: f64, eye: f64) -> RoomWindow {
        let up = WINDOW_UP_M.min(self.room.height_m - w.height_m / 2.0).max(w.height_m / 2.0) - eye;
        let half = self.room.width_m / 2.0;
        // the way its face looks, into the room
        let (x, z) = match w.wall {
            WallSide::Left => (0.01 - half, 0.3),
            WallSide::Right => (half - 0.01, 0.3),
            WallSide::Back => (0.0, 0.01 - behind),
            WallSide::Front => (0.0, self.room.depth_m - behind - 0.01),
        };
        RoomWindow { centre: Vec3::new(x, up, z), size_m: [w.width_m, w.height_m], facing_deg: w.wall.facing_deg() }
    }
}

/// A lamp for the background: beside the frame, half way to it, aimed at its middle.
pub fn background_light(of: &LaidOut, from_right: bool, beam_deg: f64) -> SetLight {
    let aspect = f64::from(of.base.picture.width) / f64::from(of.base.picture.height);
    let lens = Vec3::from(of.base.camera.position_m).norm();
    let z = -0.45 * of.behind_m;
    let half = (of.base.camera.vfov_deg() / 2.0).to_radians().tan() * aspect * (lens - z);
    let limit = of.room.walls.as_ref().map_or(2.0, |w| w.left_m - 0.3);
    let x = (half + 0.35).min(limit) * if from_right { -1.0 } else { 1.0 };
    SetLight {
        position_m: Some([x, 0.25_f64.min(of.room.ceiling_m - of.room.floor_m - 0.3), z]),
        aim_m: [0.0, 0.0, -of.behind_m],
        ..SetLight::of("background", Source::Dish { diameter_m: 0.18, beam_deg }, -2.0)
    }
}
