//! Ways one light could be made: each fitted to the direction and the angle that were read, with what
//! speaks against it.

use lightset::kit::source_of;
use lightset::kit::{Kit, Modifier, Throw};
use lightset::set::{Board, BoardFinish, BouncePatch, Scrim, SetLight, Source};
use optics::geometry::{AzEl, Vec3, solid_angle_of_angular_size};
use optics::role::Role;
use serde::{Deserialize, Serialize};
use std::sync::LazyLock;
use utoipa::ToSchema;

/// How a light is made.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Construction {
    /// Softbox, octagon, umbrella.
    Box,
    /// Bare head, dish, grid, desk lamp, torch.
    Direct,
    /// Lamp through a separate sheet.
    Sheet,
    /// Board that hands on a lamp's light, or the key's.
    Board,
    /// Off the ceiling.
    Ceiling,
    /// Off a wall.
    Wall,
    /// Board, then sheet.
    Book,
    /// Window.
    Window,
    /// Tube, tablet, phone.
    Tube,
    /// Small lamp moved in a long exposure.
    Moved,
}

#[derive(Deserialize)]
struct Table {
    construction: Vec<Row>,
}

#[derive(Deserialize)]
struct Row {
    id: Construction,
    name: String,
    key: f64,
    fill: f64,
    rim: f64,
    background: f64,
}

static TABLE: LazyLock<Vec<Row>> = LazyLock::new(|| {
    toml::from_str::<Table>(include_str!("../../data/constructions.toml")).expect("constructions.toml").construction
});

impl Construction {
    /// Name for people.
    pub fn name(self) -> &'static str {
        TABLE.iter().find(|r| r.id == self).map_or("", |r| r.name.as_str())
    }

    fn odds(self, role: Role) -> f64 {
        TABLE.iter().find(|r| r.id == self).map_or(5.0, |r| match role {
            Role::Key => r.key,
            Role::Rim => r.rim,
            Role::Background => r.background,
            _ => r.fill,
        })
    }
}

/// What was read of one light, in the set frame.
#[derive(Debug, Clone)]
pub struct SeenLight {
    /// Role.
    pub role: Role,
    /// Its own name: two fills are `fill` and `fill 2`.
    pub name: String,
    /// Where it comes from.
    pub at: AzEl,
    /// Radians.
    pub direction_sd: f64,
    /// Full angle in radians, and the standard deviation of its natural logarithm.
    pub size: Option<(f64, f64)>,
    /// Natural logarithm of width over height, and its standard deviation.
    pub aspect: Option<(f64, f64)>,
    /// 0 round, 1 rectangular, and its standard deviation.
    pub corners: Option<(f64, f64)>,
    /// How far its edge fades, and its standard deviation.
    pub feather: Option<(f64, f64)>,
    /// Stops relative to the key, and the standard deviation.
    pub level_stops: Option<(f64, f64)>,
    /// What it is aimed at, from the reference point.
    pub aims_at: Vec3,
    /// The only ways it may be made; any if empty.
    pub via: Vec<Construction>,
    /// Things of the kit of which it must use one; anything if empty.
    pub with: Vec<String>,
}

/// The room a set must fit into, from the reference point, metres.
#[derive(Debug, Clone)]
pub struct Room {
    /// Floor below the reference point.
    pub floor_m: f64,
    /// Ceiling above the floor.
    pub ceiling_m: f64,
    /// A sitter who cannot hold still for a long exposure.
    pub living: bool,
    /// Its walls and windows, where they are known; any there could be if not.
    pub walls: Option<Walls>,
}

/// Walls and windows of a room.
#[derive(Debug, Clone)]
pub struct Walls {
    /// Left, right, back and front wall from the reference point, metres.
    pub left_m: f64,
    /// Right of it.
    pub right_m: f64,
    /// Behind it.
    pub back_m: f64,
    /// Before it, towards the lens and beyond.
    pub front_m: f64,
    /// Share of light they scatter.
    pub reflectance: f64,
    /// Windows.
    pub windows: Vec<RoomWindow>,
}

/// A window of a room.
#[derive(Debug, Clone, Copy)]
pub struct RoomWindow {
    /// Its middle, set frame.
    pub centre: Vec3,
    /// Width and height.
    pub size_m: [f64; 2],
    /// Degrees its outward normal is turned from +z, positive to camera right.
    pub facing_deg: f64,
}

impl Walls {
    /// Where a ray from the reference point meets a wall, and the wall's normal into the room; none for one that goes up or down.
    fn met(&self, dir: &Vec3) -> Option<(Vec3, Vec3)> {
        let sides = [
            (-dir.x, self.left_m, Vec3::x()),
            (dir.x, self.right_m, -Vec3::x()),
            (-dir.z, self.back_m, Vec3::z()),
            (dir.z, self.front_m, -Vec3::z()),
        ];
        let met = sides.into_iter().filter(|s| s.0 > 1e-6).map(|(toward, away, n)| (away / toward, n));
        met.min_by(|a, b| a.0.total_cmp(&b.0)).map(|(t, n)| (dir * t, n))
    }

    /// Metres by which a place lies beyond a wall; nought within.
    pub fn beyond(&self, p: &Vec3) -> f64 {
        [-p.x - self.left_m, p.x - self.right_m, -p.z - self.back_m, p.z - self.front_m].into_iter().fold(0.0, f64::max)
    }
}

/// One way.
#[derive(Debug, Clone)]
pub struct Way {
    /// How.
    pub construction: Construction,
    /// The light; absent for a board that takes the key's light.
    pub light: Option<SetLight>,
    /// That board.
    pub board: Option<Board>,
    /// Minus twice the log of its prior odds, with the price of its devices.
    pub cost: f64,
    /// Ids of the kit it uses.
    pub uses: Vec<String>,
    /// In one phrase.
    pub says: String,
    /// What speaks against it.
    pub against: Vec<String>,
    /// Of ways alike, which kind: wide or tall faces, hot or even sheets and walls.
    pub variant: i32,
}

/// Price of one more device, as minus twice a log of odds (so that each must earn its place).
const DEVICE: f64 = 0.9;
/// Full angle at half intensity of the lamp behind sheets and before walls, degrees.
const LAMP_BEAM: f64 = 65.0;
/// Width of that lamp, metres.
const LAMP_M: f64 = 0.16;
/// That lamp.
const COMMON_LAMP: Source = Source::Dish { diameter_m: LAMP_M, beam_deg: LAMP_BEAM };
/// Reflectance of white card or foam.
const BOARD: f64 = 0.85;
/// What stands behind a face: the head and its stand, metres.
pub const BEHIND_FACE_M: f64 = 0.3;
/// Degrees by which a window may lie off the direction that is wanted.
const WINDOW_OFF_DEG: f64 = 35.0;
/// Walls darker than this are not lit to be a source.
const PALE: f64 = 0.4;
/// Wide, square or tall: faces of another shape are another way, as the reading may tell them apart.
fn shape_class([width, height]: [f64; 2]) -> i32 {
    (2.0 * (width / height).ln()).round() as i32
}

/// Reflectance of a white ceiling or wall (common practice: 0.7 to 0.85).
const WHITE: f64 = 0.8;

fn light_at(seen: &SeenLight, base: &SetLight, distance: f64, source: Source) -> SetLight {
    SetLight {
        azimuth_deg: Some(round(seen.at.azimuth_deg)),
        elevation_deg: Some(round(seen.at.elevation_deg)),
        distance_m: Some(round(distance)),
        position_m: None,
        aim_m: [0.0; 3],
        source,
        roll_deg: 0.0,
        bounce: None,
        scrims: Vec::new(),
        path_m: Vec::new(),
        off: false,
        ..base.clone()
    }
}

fn round(v: f64) -> f64 {
    (v * 1000.0).round() / 1000.0
}

fn place(p: Vec3) -> [f64; 3] {
    [round(p.x), round(p.y), round(p.z)]
}

/// A matte surface a lamp is turned to.
struct Surface {
    centre: Vec3,
    normal: Vec3,
    size_m: [f64; 2],
    reflectance: f64,
}

struct Maker<'a> {
    seen: &'a SeenLight,
    base: &'a SetLight,
    room: &'a Room,
    dir: Vec3,
    /// angle wanted, radians
    angle: f64,
    out: Vec<Way>,
}

impl Maker<'_> {
    /// The common lamp at a place, turned to a surface.
    fn bounced(&self, lamp: Vec3, off: &Surface) -> SetLight {
        SetLight {
            position_m: Some(place(lamp)),
            azimuth_deg: None,
            elevation_deg: None,
            distance_m: None,
            aim_m: place(off.centre),
            bounce: Some(BouncePatch {
                // a hair before what it stands for
                position_m: place(off.centre + off.normal * 0.01),
                normal: place(off.normal),
                width_m: round(off.size_m[0]),
                height_m: round(off.size_m[1]),
                reflectance: off.reflectance,
            }),
            ..light_at(self.seen, self.base, 1.0, COMMON_LAMP)
        }
    }

    /// From a board along the light's way: a step towards the subject and one aside, out of its way.
    fn before_board(&self, towards: f64, aside: f64) -> Vec3 {
        let flat = Vec3::new(-self.dir.x, 0.0, -self.dir.z).try_normalize(0.05).unwrap_or_else(Vec3::z);
        let side = Vec3::new(flat.z, 0.0, -flat.x) * if self.dir.x > 0.0 { -1.0 } else { 1.0 };
        flat * towards + side * aside
    }

    /// Cost of standing a face of a size at a distance, with what speaks against it.
    fn standing(&self, distance: f64, height_m: f64, against: &mut Vec<String>) -> f64 {
        // people put lights at one to two metres (common practice)
        let mut cost = ((distance / 1.4).ln() / 0.6).powi(2);
        let el = self.dir.y.asin();
        let middle = self.room.floor_m + distance * self.dir.y;
        let top = middle + height_m / 2.0 * el.cos();
        let low = middle - height_m / 2.0 * el.cos();
        if top > self.room.ceiling_m {
            cost += 9.0 + 20.0 * (top - self.room.ceiling_m);
            against.push(format!("its top would be {top:.1} m up, under a ceiling of {:.1} m", self.room.ceiling_m));
        }
        if low < 0.0 {
            cost += 6.0 + 20.0 * -low;
            against.push("it would reach into the floor".into());
        }
        let beyond = self.room.walls.as_ref().map_or(0.0, |w| w.beyond(&(self.dir * (distance + BEHIND_FACE_M))));
        if beyond > 0.0 {
            cost += 9.0 + 20.0 * beyond;
            against.push(format!("the room is {beyond:.1} m too small for it there"));
        }
        if el.to_degrees() > 62.0 && self.dir.x.hypot(self.dir.z) * distance < 0.7 {
            cost += 1.5;
            against.push("it needs a boom over the subject".into());
        }
        cost
    }

    fn push(
        &mut self,
        (construction, variant): (Construction, i32),
        light: SetLight,
        extra: f64,
        uses: Vec<String>,
        says: String,
        against: Vec<String>,
    ) {
        let cost = construction.odds(self.seen.role) + extra + DEVICE * uses.len() as f64;
        self.out.push(Way { construction, light: Some(light), board: None, cost, uses, says, against, variant });
    }

    fn faces(&mut self, kit: &Kit) {
        for m in kit.modifiers.iter().filter(|m| m.count > 0) {
            if m.id.starts_with("board") || m.id.starts_with("sheet") {
                continue;
            }
            let construction = match (m.alone, m.throws) {
                (true, Throw::Dish | Throw::Bare) | (false, Throw::Dish | Throw::Bare) => Construction::Direct,
                (true, _) => Construction::Tube,
                (false, _) => Construction::Box,
            };
            let wanted = m.distance_for(self.angle).0;
            let d = wanted.clamp(m.near_m, m.far_m);
            let mut against = Vec::new();
            if (wanted / d).ln().abs() > 0.15 {
                against
                    .push(format!("it would have to stand {wanted:.1} m away to fill {:.0}°", self.angle.to_degrees()));
            }
            let mut extra = self.standing(d, m.size_m[1], &mut against);
            extra += if m.household { 1.0 } else { 0.0 };
            // very large ones are rarer and need room (common practice)
            extra += if m.size_m[0].min(m.size_m[1]) > 1.3 { 1.0 } else { 0.0 };
            if self.seen.aspect.is_none() {
                // only a picture of the source would tell a strip
                extra += 0.5 * (m.size_m[0] / m.size_m[1]).ln().abs();
            }
            let mut uses = vec![m.id.clone()];
            if !m.alone {
                uses.push("lamp".into());
            }
            let light = light_at(self.seen, self.base, d, source_of(m));
            let kind = (construction, 10 * m.throws as i32 + shape_class(m.size_m));
            self.push(kind, light, extra, uses, format!("{} at {d:.2} m", m.name), against);
        }
    }

    fn sheet_width(&self, distance: f64) -> f64 {
        // the square of the same solid angle
        solid_angle_of_angular_size(self.angle).sqrt() * distance
    }

    fn sheets(&mut self, kit: &Kit) {
        // lit nearly evenly, with a bright middle, and quite evenly from afar
        let spreads = [(0, 1.25), (1, 0.8), (2, 1.8)];
        let all = kit.sheets.iter().filter(|s| s.count > 0).flat_map(|s| spreads.map(|k| (s, k)));
        for (s, (variant, spread)) in all {
            let mut best: Option<(f64, SetLight, f64, f64, Vec<String>)> = None;
            for d in [0.5, 0.8, 1.1, 1.5, 2.0, 2.6] {
                let patch = self.sheet_width(d);
                let cut = patch.min(s.size_m[0].min(s.size_m[1]));
                let gap = (spread * cut - LAMP_M) / (2.0 * (LAMP_BEAM / 2.0).to_radians().tan());
                let gap = gap.clamp(0.12, 2.5);
                let mut against = Vec::new();
                let mut cost = self.standing(d, s.size_m[1], &mut against);
                let room = self.dir.x.hypot(self.dir.z) * (d + gap);
                if room > 3.5 {
                    cost += 2.0;
                    against.push(format!("lamp and sheet need {room:.1} m of floor"));
                }
                if cut < 0.93 * patch {
                    cost += 2.0 * (patch / cut).ln().powi(2) / 0.04;
                }
                if cut < 0.3 {
                    cost += 2.0;
                    against.push("close to the lamp a sheet changes little".into());
                }
                let light = SetLight {
                    scrims: vec![Scrim {
                        gap_m: round(gap),
                        width_m: s.size_m[0],
                        height_m: s.size_m[1],
                        transmission: s.transmission,
                        aside_m: 0.0,
                    }],
                    ..light_at(self.seen, self.base, d + gap, COMMON_LAMP)
                };
                if best.as_ref().is_none_or(|b| cost < b.0) {
                    best = Some((cost, light, d, gap, against));
                }
            }
            let Some((cost, light, d, gap, against)) = best else { continue };
            let says = format!("{} at {d:.2} m with a lamp {gap:.2} m behind it", s.name);
            self.push(
                (Construction::Sheet, 10 * variant + shape_class(s.size_m)),
                light,
                cost,
                vec![s.id.clone(), "lamp".into()],
                says,
                against,
            );
        }
    }

    fn boards(&mut self, kit: &Kit) {
        for b in
            kit.boards.iter().filter(|b| b.count > 0 && matches!(b.finish, BoardFinish::White | BoardFinish::Silver))
        {
            let face = face_of(b.size_m);
            let d = face.distance_for(self.angle).0.clamp(0.35, 3.0);
            let mut against = Vec::new();
            let cost = self.standing(d, b.size_m[1], &mut against);
            let centre = self.dir * d;
            if matches!(self.seen.role, Role::Fill | Role::Other) {
                let board = Board {
                    position_m: place(centre),
                    aim_m: [0.0; 3],
                    width_m: b.size_m[0],
                    height_m: b.size_m[1],
                    finish: b.finish,
                };
                self.out.push(Way {
                    construction: Construction::Board,
                    light: None,
                    board: Some(board),
                    cost: Construction::Board.odds(self.seen.role) + cost + 0.5 * DEVICE,
                    uses: vec![b.id.clone()],
                    says: format!("{} at {d:.2} m, lit by the key", b.name),
                    against: against.clone(),
                    variant: 0,
                });
            }
            if b.finish != BoardFinish::White {
                continue;
            }
            // the lamp stands aside and before it, its back to the subject
            let gap = 0.75 * b.size_m[0].max(b.size_m[1]);
            let board = Surface { centre, normal: -self.dir, size_m: b.size_m, reflectance: BOARD };
            let light = self.bounced(centre + self.before_board(0.6 * gap, 0.8 * gap), &board);
            let says = format!("{} at {d:.2} m with a lamp turned to it", b.name);
            self.push((Construction::Board, 0), light, cost, vec![b.id.clone(), "lamp".into()], says, against);
        }
    }

    /// A lamp turned to a large surface; `centre` its middle, `normal` its face.
    fn off_surface(
        &mut self,
        construction: Construction,
        centre: Vec3,
        normal: Vec3,
        extra: f64,
        against: Vec<String>,
        what: &str,
    ) {
        let r = centre.norm();
        let cos = (-self.dir.dot(&normal)).max(0.1);
        // area that fills the wanted solid angle from here; a lit patch fades, so a little more
        let side = (solid_angle_of_angular_size(self.angle).min(5.0) * r * r / cos).sqrt() * 1.15;
        let w = side.clamp(0.4, 3.6);
        let mut extra = extra;
        if (side / w).ln().abs() > 0.1 {
            extra += ((side / w).ln() / 0.2).powi(2);
        }
        // from near with a bright middle, or from farther and more evenly
        for (variant, share) in [(0, 0.42), (1, 0.27)] {
            let gap = (share * w / (LAMP_BEAM / 2.0).to_radians().tan()).clamp(0.25, 1.6);
            let surface = Surface { centre, normal, size_m: [1.3 * w; 2], reflectance: WHITE };
            let light = self.bounced(centre + normal * gap, &surface);
            let says = format!("{what} {r:.1} m away, lit over about {w:.1} m by a lamp {gap:.1} m from it");
            self.push((construction, variant), light, extra, vec!["lamp".into()], says, against.clone());
        }
    }

    fn surfaces(&mut self) {
        let el = self.dir.y.asin().to_degrees();
        let h = self.room.ceiling_m - self.room.floor_m;
        if el > 18.0 && h > 0.3 {
            let r = h / self.dir.y;
            let mut against = Vec::new();
            let mut extra = 0.0;
            if r > 3.0 {
                extra += (r - 3.0) * 2.0;
                against.push(format!("the ceiling is {r:.1} m away in that direction: a very weak light"));
            }
            self.off_surface(
                Construction::Ceiling,
                self.dir * r,
                Vec3::new(0.0, -1.0, 0.0),
                extra,
                against,
                "the ceiling",
            );
        }
        let flat = Vec3::new(self.dir.x, 0.0, self.dir.z);
        if let Some(walls) = &self.room.walls {
            if el.abs() < 40.0
                && walls.reflectance > PALE
                && let Some((centre, n)) = walls.met(&self.dir)
            {
                let r = centre.norm();
                let up = centre.y + self.room.floor_m;
                if (0.2..=self.room.ceiling_m).contains(&up) {
                    let extra = ((r / 2.0).ln() / 0.5).powi(2) + (el / 22.0).powi(2);
                    self.off_surface(Construction::Wall, centre, n, extra, Vec::new(), "the wall");
                }
            }
        } else if el.abs() < 35.0 && flat.norm() > 0.3 {
            let n = -flat.normalize();
            for d in [1.4, 2.0, 2.8] {
                let centre = self.dir * (d / flat.norm());
                let mut extra = ((d / 2.0f64).ln() / 0.5).powi(2) + (el / 22.0).powi(2);
                let mut against = Vec::new();
                let top = centre.y + self.room.floor_m;
                if !(0.2..=self.room.ceiling_m).contains(&top) {
                    extra += 6.0;
                    against.push("that part of the wall is not there".into());
                }
                self.off_surface(Construction::Wall, centre, n, extra, against, "a white wall");
            }
        }
    }

    fn books(&mut self, kit: &Kit) {
        let Some(board) = kit
            .boards
            .iter()
            .filter(|b| b.count > 0 && b.finish == BoardFinish::White)
            .max_by(|a, b| (a.size_m[0] * a.size_m[1]).total_cmp(&(b.size_m[0] * b.size_m[1])))
        else {
            return;
        };
        for s in kit.sheets.iter().filter(|s| s.count > 0 && s.size_m[0].min(s.size_m[1]) > 0.8) {
            let face = face_of(s.size_m);
            let d = face.distance_for(self.angle).0.clamp(0.7, 2.5);
            let mut against = Vec::new();
            let extra = self.standing(d, s.size_m[1], &mut against);
            let gap = 0.8;
            let centre = self.dir * (d + gap);
            let behind = Surface { centre, normal: -self.dir, size_m: board.size_m, reflectance: BOARD };
            let mut light = self.bounced(centre + self.before_board(0.45, 0.9), &behind);
            light.scrims = vec![Scrim {
                gap_m: gap,
                width_m: s.size_m[0],
                height_m: s.size_m[1],
                transmission: s.transmission,
                aside_m: 0.0,
            }];
            let says = format!("book light: {} behind {} at {d:.2} m", board.name, s.name);
            self.push(
                (Construction::Book, shape_class(s.size_m)),
                light,
                extra,
                vec![s.id.clone(), board.id.clone(), "lamp".into()],
                says,
                against,
            );
        }
    }

    /// A window that is there, if it lies about where the light is wanted.
    fn window_there(&mut self, w: &RoomWindow) {
        let d = w.centre.norm();
        let off = optics::geometry::angle_between(&self.dir, &(w.centre / d)).to_degrees();
        if off > WINDOW_OFF_DEG {
            return;
        }
        let [width_m, height_m] = w.size_m;
        let source = Source::Window { width_m, height_m, facing_deg: w.facing_deg };
        let light = SetLight {
            position_m: Some(place(w.centre)),
            azimuth_deg: None,
            elevation_deg: None,
            distance_m: None,
            ..light_at(self.seen, self.base, d, source)
        };
        let mut against = Vec::new();
        if off > 12.0 {
            against.push(format!(
                "the window lies {off:.0}° from where the look has its light: turn the whole set by that"
            ));
        }
        let says = format!("the window, {width_m:.1} × {height_m:.1} m, {d:.2} m away");
        self.push((Construction::Window, 0), light, (off / 15.0).powi(2), Vec::new(), says, against);
    }

    fn windows(&mut self) {
        if let Some(walls) = &self.room.walls {
            for w in walls.windows.clone() {
                self.window_there(&w);
            }
            return;
        }
        let (az, el) = (self.seen.at.azimuth_deg, self.seen.at.elevation_deg);
        if self.angle < 12f64.to_radians() || !(-15.0..55.0).contains(&el) {
            return;
        }
        let face = face_of([1.1, 1.4]);
        let d = face.distance_for(self.angle).0.clamp(0.8, 4.0);
        let mut against = Vec::new();
        // windows are in side walls, their middle about 1.6 m up (common practice)
        let up = d * self.dir.y + self.room.floor_m;
        let mut extra = ((up - 1.6) / 0.45).powi(2) + ((d / 1.7).ln() / 0.6).powi(2);
        if az.abs() < 25.0 {
            extra += 2.5;
            against.push("the photographer would stand in it".into());
        }
        if (up - 1.6).abs() > 0.8 {
            against.push(format!("its middle would be {up:.1} m above the floor"));
        }
        let source = Source::Window { width_m: 1.1, height_m: 1.4, facing_deg: wrap(az + 180.0) };
        let light = light_at(self.seen, self.base, d, source);
        self.push(
            (Construction::Window, 0),
            light,
            extra,
            Vec::new(),
            format!("window, 1.1 × 1.4 m, {d:.2} m away"),
            against,
        );
    }

    fn moved(&mut self, kit: &Kit) {
        let Some(lamp) = kit
            .lamps
            .iter()
            .filter(|l| l.count > 0 && l.face_m <= 0.3 && !l.is_flash())
            .min_by(|a, b| (a.face_m - 0.1).abs().total_cmp(&(b.face_m - 0.1).abs()))
        else {
            return;
        };
        let d = 1.2;
        let long = self.seen.aspect.map_or(0.0, |a| a.0);
        let width = self.sheet_width(d) * (long.abs() / 2.0).exp();
        if width < 2.5 * lamp.face_m {
            return;
        }
        let across = if long >= 0.0 {
            Vec3::new(self.dir.z, 0.0, -self.dir.x).try_normalize(1e-6).unwrap_or(Vec3::x())
        } else {
            Vec3::y()
        };
        let steps = (width / lamp.face_m).ceil().clamp(3.0, 24.0) as i32;
        let at = |k: i32| self.dir * d + across * (width * (f64::from(k) / f64::from(steps - 1) - 0.5));
        let mut light = light_at(self.seen, self.base, d, Source::Disc { diameter_m: lamp.face_m });
        light.position_m = Some(place(at(0)));
        (light.azimuth_deg, light.elevation_deg, light.distance_m) = (None, None, None);
        light.path_m = (1..steps).map(|k| place(at(k))).collect();
        let mut against = Vec::new();
        let mut extra = 0.0;
        if self.room.living {
            extra += 5.0;
            against.push("a sitter cannot hold still for it".into());
        }
        let says = format!("{} moved along {width:.1} m at {d:.2} m in a long exposure", lamp.name);
        self.push((Construction::Moved, 0), light, extra, vec![lamp.id.clone()], says, against);
    }
}

fn face_of(size_m: [f64; 2]) -> Modifier {
    Modifier {
        id: String::new(),
        name: String::new(),
        count: 1,
        shape: lightset::kit::Shape::Rectangle,
        size_m,
        near_m: 0.1,
        far_m: 10.0,
        throws: Throw::Even,
        share: 1.0,
        beam_deg: None,
        household: false,
        alone: false,
    }
}

fn wrap(a: f64) -> f64 {
    let a = (a + 180.0).rem_euclid(360.0) - 180.0;
    if a == -180.0 { 180.0 } else { a }
}

/// Ways to make a light with a kit: the best few of each construction, cheapest first. What they give is
/// not counted yet: the studio says.
pub fn ways(seen: &SeenLight, base: &SetLight, kit: &Kit, room: &Room) -> Vec<Way> {
    // an angle of 20 degrees where none was read (common practice: a small box)
    let angle = seen.size.map_or(20f64.to_radians(), |s| s.0).clamp(0.01, 2.6);
    let mut m = Maker { seen, base, room, dir: seen.at.vector(), angle, out: Vec::new() };
    m.faces(kit);
    m.sheets(kit);
    m.boards(kit);
    m.books(kit);
    if kit.lamps.iter().any(|l| l.count > 0 && l.takes_modifiers) {
        m.surfaces();
    }
    m.windows();
    m.moved(kit);
    let mut out = m.out;
    out.retain(|w| seen.via.is_empty() || seen.via.contains(&w.construction));
    out.retain(|w| seen.with.is_empty() || w.uses.iter().any(|u| seen.with.contains(u)));
    out.sort_by(|a, b| a.cost.total_cmp(&b.cost));
    out
}
