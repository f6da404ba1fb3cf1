//! What of a kit gives a line, and where it stands for it.

use super::{Fade, FadeSide, LineWay, Region, SHIFT_DEG};
use crate::frame::flat_in_frame;
use crate::kit::{Kit, source_of};
use crate::set::{Board, BoardFinish, Flag, FlagPattern, LightSet, Outline, Scrim, SetLight, Source};
use optics::falloff::{lamp_falls_to, lamp_on_sheet};
use optics::geometry::{Vec3, upright};
use optics::units::Metres;

/// Nearest and farthest a source stands from the surface, metres.
const NEAREST_M: f64 = 0.12;
const FARTHEST_M: f64 = 4.0;
/// Distances at which a thing that is covered to the width of the line is tried, metres.
const COVERED_AT_M: [f64; 5] = [0.2, 0.3, 0.45, 0.7, 1.0];
/// A hand's breadth about the line from lens to product that is kept free, metres.
const LENS_M: f64 = 0.06;
/// A fade is told from here to here, shares of the brightest.
const FULL: f64 = 0.9;
const GONE: f64 = 0.1;
/// Gaps between lamp and sheet that a fade is looked for in, metres.
const GAPS_M: [f64; 2] = [0.05, 2.5];
/// Things of a kit that are looked at, in its own order.
const MOST_THINGS: usize = 80;
/// Lamps that are tried behind a sheet.
const MOST_LAMPS: usize = 12;
/// A lamp behind a sheet is as long as the line needs if it reaches over so much of it.
const LONG_ENOUGH: f64 = 0.8;
/// Black card reaches so far over what it hides, metres; and what it costs to hang it.
const CARD_OVER_M: f64 = 0.03;
const CARD_COST: f64 = 0.25;
/// Leaning by more is told.
const TOLD_ROLL_DEG: f64 = 2.0;
/// Darker than this at its crisp edge a line fades at both.
const STILL_CRISP: f64 = 0.5;

/// Something of a kit that has a size, upright.
pub(super) struct Thing {
    name: String,
    size: [f64; 2],
    is: Is,
    /// how much it costs to take it
    cost: f64,
}

enum Is {
    Light(Source),
    Sheet { transmission: f64 },
    Board(BoardFinish),
}

impl Thing {
    /// It can be turned about its own aim; a board of a set stands upright.
    fn leans(&self) -> bool {
        !matches!(self.is, Is::Board(_))
    }
}

pub(super) fn things(kit: &Kit) -> Vec<Thing> {
    let tall = |[w, h]: [f64; 2]| [w.min(h), w.max(h)];
    let mut out = Vec::new();
    for m in kit.modifiers.iter().filter(|m| m.count > 0 && m.size_m[0].max(m.size_m[1]) > 0.08) {
        let size = tall(m.size_m);
        let light = match source_of(m) {
            Source::Rectangle { .. } => Source::Rectangle { width_m: size[0], height_m: size[1] },
            other => other,
        };
        out.push(Thing { name: m.name.clone(), size, is: Is::Light(light), cost: 0.0 });
    }
    for s in kit.sheets.iter().filter(|s| s.count > 0) {
        let name = format!("{} with a lamp behind", s.name);
        out.push(Thing { name, size: tall(s.size_m), is: Is::Sheet { transmission: s.transmission }, cost: 0.3 });
    }
    for b in kit.boards.iter().filter(|b| b.count > 0 && b.finish != BoardFinish::Black) {
        out.push(Thing { name: b.name.clone(), size: tall(b.size_m), is: Is::Board(b.finish), cost: 0.2 });
    }
    out.truncate(MOST_THINGS);
    out
}

/// A line as its surface and the lens ask for it.
pub(super) struct Asked<'a> {
    pub(super) set: &'a LightSet,
    pub(super) lens: Vec3,
    /// Middle of the line and the direction that is mirrored there.
    pub(super) middle: (Vec3, Vec3),
    /// What must be filled at a distance, by something that leans or stands upright.
    pub(super) needs: &'a dyn Fn(f64, bool) -> Option<Region>,
    /// Along what must be filled, from what shows as the line's left edge to what shows as its right one.
    pub(super) rightwards: Vec3,
    pub(super) fade: Option<Fade>,
    pub(super) things: &'a [Thing],
}

/// Where a sheet stands: its middle, what must be filled there, metres from the surface.
struct Stood {
    centre: Vec3,
    need: [f64; 2],
    distance: f64,
    roll_deg: f64,
}

/// What is said of a way, and whether it gives the line.
#[derive(Default)]
struct Judged {
    faults: Vec<String>,
    notes: Vec<String>,
}

impl Judged {
    fn fault(&mut self, text: impl Into<String>) {
        self.faults.push(text.into());
    }
}

impl Asked<'_> {
    /// The things that give it, the best first, with their cost.
    pub(super) fn ways(&self) -> Vec<(f64, LineWay)> {
        let mut ways: Vec<(f64, LineWay)> = self.things.iter().filter_map(|t| self.way(t)).collect();
        ways.sort_by(|a, b| a.0.total_cmp(&b.0));
        ways
    }

    /// How wide a thing must be at a distance.
    fn width(&self, t: &Thing, distance: f64) -> f64 {
        (self.needs)(distance, t.leans()).map_or(f64::INFINITY, |n| n.size[0])
    }

    /// Where a thing just fills the line; nothing where it is too wide at any distance.
    fn filling(&self, t: &Thing) -> Option<f64> {
        let (mut lo, mut hi) = (NEAREST_M, FARTHEST_M);
        if self.width(t, hi) < t.size[0] {
            return None;
        }
        for _ in 0..50 {
            let mid = (lo + hi) / 2.0;
            if self.width(t, mid) < t.size[0] { lo = mid } else { hi = mid }
        }
        Some((lo + hi) / 2.0)
    }

    /// Where one thing stands for the line, and how well it does: just filling it, or nearer, covered to the width that is needed.
    fn way(&self, t: &Thing) -> Option<(f64, LineWay)> {
        if self.width(t, NEAREST_M) > t.size[0] {
            return self.at(t, NEAREST_M, None);
        }
        let filling = self.filling(t);
        let nearer = COVERED_AT_M.into_iter().filter(|d| filling.is_none_or(|f| *d < 0.8 * f));
        let covered = nearer.filter_map(|d| self.at(t, d, Some(self.width(t, d))));
        let whole = filling.and_then(|d| self.at(t, d, None));
        whole.into_iter().chain(covered).min_by(|a, b| a.0.total_cmp(&b.0))
    }

    fn at(&self, t: &Thing, distance: f64, covered: Option<f64>) -> Option<(f64, LineWay)> {
        let mut judged = Judged::default();
        let Region { mut centre, size: need, roll_deg, bend_deg } = (self.needs)(distance, t.leans())?;
        let size = [covered.unwrap_or(t.size[0]), t.size[1]];
        if need[0] > size[0] + 1e-6 {
            judged
                .fault(format!("{} is too narrow: even {distance:.2} m away the line needs {:.2} m.", t.name, need[0]));
        }
        if bend_deg > SHIFT_DEG {
            judged.fault(format!(
                "The surface bends what it shows: with straight edges the line's are off by up to {bend_deg:.0}°; shorter, or cut to a curve, it fits."
            ));
        }
        if roll_deg.abs() > TOLD_ROLL_DEG {
            let way = if roll_deg > 0.0 { "left" } else { "right" };
            judged.notes.push(format!("Lean its top {:.0}° to the {way}, as seen from the product.", roll_deg.abs()));
        }
        if let Some(w) = covered {
            judged.notes.push(format!("Cover it with black card to {w:.2} m, upright."));
        }
        // what is taller than the line needs may stand higher, to keep off the table
        let slack = ((size[1] - need[1]) / 2.0).max(0.0);
        let under = -(centre.y + self.set.floor_m() - size[1] / 2.0);
        centre += axes(&self.middle.1, roll_deg).1 * under.clamp(0.0, slack);
        let short = need[1] - size[1];
        if short > 1e-3 {
            judged.fault(format!("{} is {short:.2} m too short there: the line breaks off before its ends.", t.name));
        }
        self.stands(&centre, size, &mut judged);
        if let Is::Light(source) = &t.is
            && matches!(source.about().outline, Outline::Disc(_) | Outline::Octagon(_) | Outline::Ball(_))
        {
            judged.fault("Its face is round: the line ends in curves and is narrower there.");
        }
        let position: [f64; 3] = centre.into();
        let aim: [f64; 3] = (centre - self.middle.1 * distance).into();
        let mut flag = None;
        let (light, board) = match &t.is {
            Is::Board(finish) => {
                judged.notes.push(
                    "A board shows what lights it: turn a lamp to it, and keep that lamp off the product.".into(),
                );
                if self.fade.is_some() {
                    judged.fault("Lit evenly its edges are crisp: for a line that fades take a sheet with a lamp behind one edge.");
                }
                let [width_m, height_m] = size;
                (None, Some(Board { position_m: position, aim_m: aim, width_m, height_m, finish: *finish }))
            }
            Is::Light(source) => {
                if self.fade.is_some() {
                    judged.fault("Its edges are crisp: for a line that fades put a sheet before it, or take one with a lamp behind.");
                }
                let source = match (source.clone(), covered) {
                    (Source::Rectangle { height_m, .. }, Some(width_m)) => Source::Rectangle { width_m, height_m },
                    (s, _) => s,
                };
                (Some(facing(source, position, aim, roll_deg)), None)
            }
            Is::Sheet { transmission } => {
                let sheet = Scrim {
                    gap_m: 0.0,
                    width_m: size[0],
                    height_m: size[1],
                    transmission: *transmission,
                    aside_m: 0.0,
                };
                let light = match &self.fade {
                    Some(f) => {
                        let (light, card) =
                            self.fading(f, &sheet, &Stood { centre, need, distance, roll_deg }, &mut judged);
                        flag = card;
                        light
                    }
                    None => facing(Source::Rectangle { width_m: size[0], height_m: size[1] }, position, aim, roll_deg),
                };
                (Some(light), None)
            }
        };
        let aside_m = distance * SHIFT_DEG.to_radians().tan();
        let up_m = (-short / 2.0).max(0.0);
        let gives_it = judged.faults.is_empty();
        let mut says =
            vec![format!("{}, {distance:.2} m from the surface, {:.2} × {:.2} m needed.", t.name, need[0], need[1])];
        if gives_it {
            says.push(format!(
                "It may be {:.0} mm aside before an edge is off by two degrees, {:.0} mm up or down.",
                1000.0 * aside_m,
                1000.0 * up_m
            ));
        }
        let fails =
            if gives_it { 0.0 } else { 10.0 + 3.0 * judged.faults.len() as f64 + short.max(0.0) / need[1].max(0.01) };
        says.extend(judged.faults);
        says.extend(judged.notes);
        // what cannot fade comes after what nearly does
        let stiff = if self.fade.is_some() && !matches!(t.is, Is::Sheet { .. }) { 10.0 } else { 0.0 };
        let cost = t.cost + t.size[0] * t.size[1] + fails + stiff + if covered.is_some() { 0.5 } else { 0.0 };
        let way = LineWay {
            name: t.name.clone(),
            light,
            board,
            flag,
            distance_m: distance,
            needs_m: need,
            aside_m,
            up_m,
            gives_it,
            says,
        };
        Some((cost, way))
    }

    /// Whether a flat thing can stand there: out of the picture, out of the lens's way, over the floor.
    fn stands(&self, centre: &Vec3, size: [f64; 2], judged: &mut Judged) {
        let (place, lens) = (&self.middle.0, &self.lens);
        if flat_in_frame(self.set, &(*centre).into(), &(*place).into(), size) {
            judged.fault("It would stand in the picture.");
        }
        // the lens looks past it only if no part of it lies about the line from lens to product
        let n = (centre - place).normalize();
        let (u, v) = upright(&n);
        let sight = place - lens;
        let along = (centre - lens).dot(&n) / sight.dot(&n);
        let met = lens + sight * along - centre;
        let before = along > 0.0 && along < 1.0;
        if before && met.dot(&u).abs() < size[0] / 2.0 + LENS_M && met.dot(&v).abs() < size[1] / 2.0 + LENS_M {
            judged.fault("It would stand in the lens's way: cut a hole for the lens, take a longer lens from farther away, or move the line.");
        }
        if centre.y + self.set.floor_m() - size[1] / 2.0 < -0.01 {
            judged.fault(
                "Its lower edge would be under the table or floor, which shows in the line's foot instead: raise the product, or let the line begin higher.",
            );
        }
    }

    /// A long lamp behind the sheet, so far and so far aside that the line fades as it is wanted: of the lamps of the kit the one with
    /// which least is wrong.
    fn fading(&self, fade: &Fade, sheet: &Scrim, at: &Stood, judged: &mut Judged) -> (SetLight, Option<Flag>) {
        let mut lamps: Vec<&Thing> = self.things.iter().filter(|t| matches!(t.is, Is::Light(_))).collect();
        // the narrow ones that are long enough, or else the longest
        let short = |t: &Thing| t.size[1] < LONG_ENOUGH * at.need[1];
        let rank = |t: &Thing| if short(t) { -t.size[1] } else { t.size[0] };
        lamps.sort_by(|a, b| short(a).cmp(&short(b)).then(rank(a).total_cmp(&rank(b))));
        let tried = lamps.into_iter().take(MOST_LAMPS).map(|t| self.behind(&t.name, t.size, fade, sheet, at));
        let least = tried.min_by(|a, b| a.0.total_cmp(&b.0));
        let Some((_, light, found)) = least else {
            judged.fault("Nothing of the kit can be put behind it.");
            let face = Source::Rectangle { width_m: sheet.width_m, height_m: sheet.height_m };
            let aim = at.centre - self.middle.1 * at.distance;
            return (facing(face, at.centre.into(), aim.into(), at.roll_deg), None);
        };
        judged.faults.extend(found.faults);
        judged.notes.extend(found.notes);
        light
    }

    /// Black card beside a sheet's crisp edge, where the lamp behind it would show past that.
    fn card(&self, at: &Stood, out: &Vec3, [wide, tall]: [f64; 2], from_edge: f64, gap: f64) -> Option<Flag> {
        let half = at.need[0] / 2.0;
        let shows = (half + wide / 2.0 - from_edge) * at.distance / (at.distance + gap) - half;
        (shows > 0.0).then(|| {
            let width_m = shows + CARD_OVER_M;
            let place = at.centre - out * (half + width_m / 2.0);
            let height_m = tall + 2.0 * CARD_OVER_M;
            let aim_m = (place - self.middle.1).into();
            Flag { position_m: place.into(), aim_m, width_m, height_m, pattern: FlagPattern::Solid }
        })
    }

    /// One lamp behind the sheet, with how much is wrong with it.
    fn behind(
        &self,
        name: &str,
        [wide, tall]: [f64; 2],
        fade: &Fade,
        sheet: &Scrim,
        at: &Stood,
    ) -> (f64, (SetLight, Option<Flag>), Judged) {
        let mut judged = Judged::default();
        let [width, height] = at.need;
        if tall < LONG_ENOUGH * height {
            judged.fault(format!("{name} is only {tall:.2} m long: behind the sheet the line fades at its ends too."));
        }
        let falls = |share: f64, gap: f64| lamp_falls_to(share, Metres(gap), [wide, tall]).0;
        // both sides: from the middle to nothing at the edges; one side: so long a fall as is wanted
        let too_far = |gap: f64| match fade.side {
            FadeSide::Both => falls(GONE, gap) > width / 2.0,
            _ => falls(GONE, gap) - falls(FULL, gap) > fade.share * width,
        };
        let [mut lo, mut hi] = GAPS_M;
        if !too_far(hi) {
            judged.fault(format!("Even {hi:.1} m behind the sheet {name} lights it too evenly: the fall is shorter."));
        } else if too_far(lo) {
            judged.fault(format!("{name} is too wide, or the sheet too narrow, for so short a fall."));
        }
        for _ in 0..18 {
            let mid = (lo + hi) / 2.0;
            if too_far(mid) { hi = mid } else { lo = mid }
        }
        let gap = (lo + hi) / 2.0;
        let (out, from_edge) = match fade.side {
            FadeSide::Right => (self.rightwards, width - falls(GONE, gap)),
            FadeSide::Left => (-self.rightwards, width - falls(GONE, gap)),
            FadeSide::Both => (self.rightwards, width / 2.0),
        };
        let away = self.middle.1;
        let across = axes(&away, at.roll_deg).0;
        let out = across * out.dot(&across).signum();
        let lamp = at.centre + out * (from_edge - width / 2.0) + away * gap;
        let light = SetLight {
            scrims: vec![Scrim { gap_m: gap, aside_m: (at.centre - lamp).dot(&across), ..*sheet }],
            ..facing(
                Source::Rectangle { width_m: wide, height_m: tall },
                lamp.into(),
                (lamp - away * (gap + at.distance)).into(),
                at.roll_deg,
            )
        };
        let stands = format!("{name} stands {gap:.2} m behind the sheet");
        let mut dim = 1.0;
        let mut flag = None;
        if fade.side == FadeSide::Both {
            let full = 2.0 * falls(FULL, gap) / width;
            judged.notes.push(format!(
                "{stands}, in its middle: over {:.0} % of the line it is full, at both edges a tenth.",
                100.0 * full
            ));
        } else {
            dim = lamp_on_sheet(Metres(from_edge), Metres(gap), [wide, tall]);
            let (crisp, soft) = if fade.side == FadeSide::Right { ("left", "right") } else { ("right", "left") };
            let side = if from_edge >= 0.0 { "inside" } else { "beyond" };
            judged.notes.push(format!(
                "{stands}, {:.2} m {side} the edge that shows on the {crisp}: the line is crisp there and falls to a tenth at its {soft} edge.",
                from_edge.abs()
            ));
            flag = self.card(at, &out, [wide, tall], from_edge, gap);
            if let Some(f) = &flag {
                judged.notes.push(format!(
                    "Past that edge the lamp itself would show: hang black card there, {:.2} m wide.",
                    f.width_m
                ));
            }
            if dim < STILL_CRISP {
                judged.fault(format!(
                    "At its crisp edge it is {:.1} stops darker than in its middle: let it fade over more of its width, or put two lamps behind.",
                    -dim.log2()
                ));
            }
        }
        let more = if flag.is_some() { CARD_COST } else { 0.0 };
        (judged.faults.len() as f64 + more - dim, (light, flag), judged)
    }
}

/// Axes across and along a thing that looks back along `away` and leans.
fn axes(away: &Vec3, roll_deg: f64) -> (Vec3, Vec3) {
    let (u, v) = upright(&-away);
    let (sin, cos) = roll_deg.to_radians().sin_cos();
    (u * cos + v * sin, v * cos - u * sin)
}

/// A lamp that stands there and looks at the product.
fn facing(source: Source, position: [f64; 3], aim: [f64; 3], roll_deg: f64) -> SetLight {
    let mut l = SetLight::of("line", source, 0.0);
    l.position_m = Some(position);
    l.aim_m = aim;
    // a tube lies level unless it is turned
    l.roll_deg = roll_deg + if matches!(l.source, Source::Tube { .. }) { 90.0 } else { 0.0 };
    l
}
