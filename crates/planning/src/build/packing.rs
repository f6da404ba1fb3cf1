//! What to take along for a set, counted against what the kit has, and what the lamps draw from one circuit.

use super::LampPlan;
use super::cautions::overhead;
use lightset::kit::{Kit, Lamp, source_of};
use lightset::set::{Board, BoardFinish, LightSet, SetLight};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::sync::LazyLock;
use utoipa::ToSchema;

/// A thing to take along.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PackLine {
    /// Kind of thing: lamps, modifiers, sheets, boards, stands.
    pub bag: String,
    /// What.
    pub what: String,
    /// How many the set needs.
    pub count: u32,
    /// How many the kit has.
    pub have: u32,
    /// What it is for.
    pub stands_for: Vec<String>,
}

/// Load of the mains.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct MainsLoad {
    /// Watts together at full power.
    pub watts: f64,
    /// Amperes at the circuit's voltage.
    pub amperes: f64,
    /// What the circuit carries, amperes.
    pub carries: f64,
    /// Names of lamps whose draw nobody put in.
    pub unknown: Vec<String>,
    /// In a sentence or two.
    pub says: String,
    /// More than it should carry for hours.
    pub over: bool,
}

/// The list of what to take along.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Packing {
    /// Things of the kit, bag by bag.
    pub lines: Vec<PackLine>,
    /// What the set needs and the kit has not, in a sentence each.
    pub missing: Vec<String>,
    /// What goes along with it.
    pub also: Vec<String>,
    /// What the lamps draw; absent where none hangs on the mains.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub mains: Option<MainsLoad>,
}

#[derive(Deserialize)]
struct Bags {
    row: Vec<BagRow>,
}

#[derive(Deserialize)]
struct BagRow {
    when: String,
    text: String,
}

static BAGS: LazyLock<Vec<BagRow>> =
    LazyLock::new(|| toml::from_str::<Bags>(include_str!("../../data/bags.toml")).expect("bags.toml").row);

/// A face of the kit is the one in the set if its sides are within this of it, log of the ratio.
const SAME_FACE: f64 = 0.12;
/// A board or sheet does if it is at most this much smaller than what the set has.
const ENOUGH: f64 = 0.9;
/// Share of a circuit that may be drawn for hours (common practice).
const STEADY: f64 = 0.8;
/// From this height a stand is weighted, metres (common practice).
const HIGH_M: f64 = 1.8;

/// Counts things by bag and id, in the order in which they are first needed.
#[derive(Default)]
struct Count {
    lines: Vec<(String, PackLine)>,
    missing: Vec<String>,
}

impl Count {
    fn add(&mut self, bag: &str, id: &str, what: &str, have: u32, purpose: &str) {
        let key = format!("{bag}:{id}");
        if let Some((_, line)) = self.lines.iter_mut().find(|(k, _)| *k == key) {
            line.count += 1;
            line.stands_for.push(purpose.into());
            return;
        }
        let line = PackLine { bag: bag.into(), what: what.into(), count: 1, have, stands_for: vec![purpose.into()] };
        self.lines.push((key, line));
    }

    fn used(&self, bag: &str, id: &str) -> u32 {
        let key = format!("{bag}:{id}");
        self.lines.iter().find(|(k, _)| *k == key).map_or(0, |(_, l)| l.count)
    }

    /// The first of a list that is still free; else the first at all.
    fn pick<'a, T>(&self, bag: &str, list: &[&'a T], of: impl Fn(&T) -> (&str, u32)) -> Option<&'a T> {
        let free = list.iter().find(|t| {
            let (id, have) = of(t);
            self.used(bag, id) < have
        });
        free.or(list.first()).copied()
    }
}

fn covers(have: [f64; 2], need: [f64; 2]) -> bool {
    let fits = |a: f64, b: f64| a >= ENOUGH * b;
    (fits(have[0], need[0]) && fits(have[1], need[1])) || (fits(have[1], need[0]) && fits(have[0], need[1]))
}

fn alike(a: [f64; 2], b: [f64; 2]) -> bool {
    let near = |x: f64, y: f64| (x / y).ln().abs() <= SAME_FACE;
    (near(a[0], b[0]) && near(a[1], b[1])) || (near(a[1], b[0]) && near(a[0], b[1]))
}

fn area(size: [f64; 2]) -> f64 {
    size[0] * size[1]
}

/// What stands before the lamp of a light.
fn face(count: &mut Count, kit: &Kit, l: &SetLight, lamp: Option<&Lamp>) {
    let own = lamp.is_some_and(|k| !k.takes_modifiers);
    if l.source.is_window() || l.bounce.is_some() || own {
        return;
    }
    let (size, word) = (l.source.face_m(), l.source.word());
    let mut fit: Vec<_> =
        kit.modifiers.iter().filter(|m| m.count > 0 && source_of(m).word() == word && alike(m.size_m, size)).collect();
    fit.sort_by(|a, b| (area(a.size_m) - area(size)).abs().total_cmp(&(area(b.size_m) - area(size)).abs()));
    match count.pick("modifiers", &fit, |m| (&m.id, m.count)) {
        Some(m) => count.add("modifiers", &m.id, &m.name, m.count, &l.name),
        None => count.missing.push(format!(
            "{}: no {word} of {:.2} × {:.2} m in the kit. Rebuild says what does instead.",
            l.name, size[0], size[1]
        )),
    }
}

fn sheets(count: &mut Count, kit: &Kit, l: &SetLight) {
    for s in &l.scrims {
        let need = [s.width_m, s.height_m];
        let mut fit: Vec<_> = kit.sheets.iter().filter(|k| k.count > 0 && covers(k.size_m, need)).collect();
        let off = |k: &lightset::kit::Sheet| (k.transmission / s.transmission).ln().abs();
        fit.sort_by(|a, b| off(a).total_cmp(&off(b)));
        match count.pick("sheets", &fit, |k| (&k.id, k.count)) {
            Some(k) => count.add("sheets", &k.id, &k.name, k.count, &l.name),
            None => {
                count.missing.push(format!("{}: no sheet of {:.1} × {:.1} m in the kit.", l.name, need[0], need[1]));
            }
        }
    }
}

fn board(count: &mut Count, kit: &Kit, finish: BoardFinish, need: [f64; 2], purpose: &str) {
    let mut fit: Vec<_> =
        kit.boards.iter().filter(|k| k.count > 0 && k.finish == finish && covers(k.size_m, need)).collect();
    fit.sort_by(|a, b| area(a.size_m).total_cmp(&area(b.size_m)));
    match count.pick("boards", &fit, |k| (&k.id, k.count)) {
        Some(k) => count.add("boards", &k.id, &k.name, k.count, purpose),
        None => count.missing.push(format!(
            "{purpose}: no {} board of {:.2} × {:.2} m in the kit.",
            finish.name(),
            need[0],
            need[1]
        )),
    }
}

/// A stand for each thing that has none: the shortest that reaches, the highest need first.
fn stands(count: &mut Count, kit: &Kit, mut needs: Vec<(f64, bool, String)>) {
    needs.sort_by(|a, b| b.1.cmp(&a.1).then(b.0.total_cmp(&a.0)));
    for (height, over, purpose) in needs {
        let mut fit: Vec<_> =
            kit.stands.iter().filter(|s| s.count > 0 && s.highest_m + 0.05 >= height && (!over || s.boom)).collect();
        fit.sort_by(|a, b| a.boom.cmp(&b.boom).then(a.highest_m.total_cmp(&b.highest_m)));
        match count.pick("stands", &fit, |s| (&s.id, s.count)) {
            Some(s) => count.add("stands", &s.id, &s.name, s.count, &purpose),
            None => count.missing.push(format!(
                "{purpose}: no {} in the kit that reaches {height:.2} m.",
                if over { "boom" } else { "stand" }
            )),
        }
    }
}

fn mains(lamps: &[&Lamp], kit: &Kit) -> Option<MainsLoad> {
    let wired: Vec<&&Lamp> = lamps.iter().filter(|l| !l.on_batteries()).collect();
    if wired.is_empty() {
        return None;
    }
    let circuit = kit.circuit;
    let watts: f64 = wired.iter().filter_map(|l| l.draw_w).sum();
    let amperes = watts / circuit.volts;
    let unknown: Vec<String> = wired.iter().filter(|l| l.draw_w.is_none()).map(|l| l.name.clone()).collect();
    let over = watts > STEADY * circuit.watts();
    let mut says = format!(
        "All lamps at full draw {watts:.0} W, which is {amperes:.1} A of a circuit of {:.0} A at {:.0} V",
        circuit.amperes, circuit.volts
    );
    says += &if watts > circuit.watts() {
        ": too much for one circuit. Spread them over two, or use fewer at a time.".to_owned()
    } else if over {
        format!(": over {:.0} % of it, which is too much for hours. Put some on another circuit.", 100.0 * STEADY)
    } else {
        ": within what it carries for hours.".into()
    };
    if wired.iter().any(|l| l.is_flash()) {
        says += " Flashes draw this while they recharge: let them recharge one after another.";
    }
    if !unknown.is_empty() {
        says += &format!(" Not counted, as the kit does not say what it draws: {}.", unknown.join(", "));
    }
    says += " Local codes and a qualified electrician go before this sum.";
    Some(MainsLoad { watts, amperes, carries: circuit.amperes, unknown, says, over })
}

/// The list of what to take along for a set whose lights have these lamps.
pub fn packing(set: &LightSet, lamps: &[LampPlan], kit: &Kit) -> Packing {
    let floor = set.floor_m();
    let mut count = Count::default();
    let mut needs = Vec::new();
    let mut used: Vec<&Lamp> = Vec::new();
    let mut high = 0;
    let lit: Vec<&SetLight> = set.lights.iter().filter(|l| !l.off && !l.source.is_window()).collect();
    for l in &lit {
        let plan = lamps.iter().find(|p| p.light == l.name).and_then(|p| p.lamp.as_ref());
        let lamp = plan.and_then(|id| kit.lamps.iter().find(|k| &k.id == id));
        match lamp {
            Some(k) => {
                count.add("lamps", &k.id, &k.name, k.count, &l.name);
                used.push(k);
            }
            None => count.missing.push(format!("{}: the kit has no lamp left for it.", l.name)),
        }
        face(&mut count, kit, l, lamp);
        sheets(&mut count, kit, l);
        let p = l.position();
        let height = p.y + floor;
        high += u32::from(height > HIGH_M);
        needs.push((height, overhead(l), l.name.clone()));
    }
    for (k, b) in set.boards.iter().enumerate() {
        let Board { width_m, height_m, finish, position_m, .. } = *b;
        let purpose = format!("board {}", k + 1);
        board(&mut count, kit, finish, [width_m, height_m], &purpose);
        needs.push((position_m[1] + floor, false, purpose));
    }
    for (k, f) in set.flags.iter().enumerate() {
        let purpose = format!("flag {}", k + 1);
        board(&mut count, kit, BoardFinish::Black, [f.width_m, f.height_m], &purpose);
        needs.push((f.position_m[1] + floor, false, purpose));
    }
    stands(&mut count, kit, needs);
    let mut lines: Vec<PackLine> = count.lines.into_iter().map(|(_, l)| l).collect();
    let order = ["lamps", "modifiers", "sheets", "boards", "stands"];
    lines.sort_by_key(|l| order.iter().position(|b| *b == l.bag));
    let mut missing = count.missing;
    for l in lines.iter().filter(|l| l.count > l.have) {
        missing.push(format!("{}: {} needed, {} in the kit.", l.what, l.count, l.have));
    }
    let wired = used.iter().filter(|l| !l.on_batteries()).count();
    let (battery, flash) = (used.len() - wired, used.iter().any(|l| l.is_flash()));
    let booms = lines.iter().any(|l| kit.stands.iter().any(|s| s.name == l.what && s.boom));
    let lamps_of = |n: usize| if n == 1 { "the lamp".to_owned() } else { format!("{n} lamps") };
    let mut words: BTreeMap<&str, String> = BTreeMap::new();
    let mut holds = |when: &'static str, yes: bool, word: String| {
        if yes {
            words.insert(when, word);
        }
    };
    holds("always", true, String::new());
    holds("meter", true, String::new());
    holds("mains", wired > 0, lamps_of(wired));
    holds("battery", battery > 0, lamps_of(battery));
    holds("flash", flash, String::new());
    holds("high", high > 0, if high == 1 { "the high stand".into() } else { format!("each of {high} high stands") });
    holds("boom", booms, String::new());
    holds("gel", lit.iter().any(|l| l.gel_mired != 0.0 || l.gel_rgb.is_some()), String::new());
    holds("sheet", lit.iter().any(|l| !l.scrims.is_empty()), String::new());
    holds("product", set.subjects.iter().any(|s| !s.kind.is_head()), String::new());
    let also = BAGS
        .iter()
        .filter_map(|r| Some(r.text.replace(&format!("{{{}}}", r.when), words.get(r.when.as_str())?)))
        .collect();
    Packing { lines, missing, also, mains: mains(&used, kit) }
}
