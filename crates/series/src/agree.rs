//! Whether the pictures of a series agree, and which stand out by how much.

use crate::crop::{Crop, common};
use crate::list::{Agreement, ShotList, agreements};
use crate::shown::Shown;
use optics::cell::cell;
use optics::colour::ColourShift;
use optics::geometry::angle_between;
use optics::solve::median;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A picture of a series with what it shows.
#[derive(Debug, Clone)]
pub struct Member {
    /// Id of the picture.
    pub frame: String,
    /// Its name for people.
    pub name: String,
    /// View it stands for.
    pub view: String,
    /// What it shows.
    pub shown: Shown,
}

/// One picture's value of what is compared.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ComparedValue {
    /// Picture.
    pub frame: String,
    /// ComparedValue in the unit of its row.
    pub value: f64,
    /// One standard deviation.
    pub sd: f64,
    /// ComparedValue less the median of its like (of two, less the other).
    pub by: f64,
    /// It stands out: further from the median of its like than agrees, by more than its spread.
    pub out: bool,
    /// Two alone differ: this is the other, and which of them is right they cannot tell.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pair: Option<String>,
}

/// Something that is compared over the series.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Compared {
    /// Stable name: scale, base, upright, exposure, aperture, background, evenness, subject, balance, light, key.
    pub id: String,
    /// Name for people.
    pub name: String,
    /// Unit of values and limits.
    pub unit: String,
    /// How far from the median a picture may lie.
    pub within: f64,
    /// Median of the values.
    pub median: f64,
    /// Values of the pictures that tell.
    pub values: Vec<ComparedValue>,
    /// One sentence.
    pub says: String,
    /// Whether all agree.
    pub agrees: bool,
}

/// A picture that stands out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Apart {
    /// Picture.
    pub frame: String,
    /// Its name for people.
    pub name: String,
    /// In what.
    pub quantity: String,
    /// By how much, in the unit of its row, signed.
    pub by: f64,
    /// How many times what is allowed.
    pub times: f64,
    /// The other one where two alone differ.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pair: Option<String>,
    /// What stands out and what to do.
    pub says: String,
}

/// A check of the list with its answer.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ListAnswer {
    /// Check of the list.
    pub id: String,
    /// What must be so.
    pub text: String,
    /// The pictures answer it; a person does otherwise.
    pub measured: bool,
    /// Whether it is so; `None` while it cannot be told.
    pub holds: Option<bool>,
    /// Why.
    pub says: String,
}

/// A series held against itself and its list.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SeriesReport {
    /// Views of the list that no picture stands for.
    pub missing: Vec<String>,
    /// What was compared.
    pub compared: Vec<Compared>,
    /// Pictures that stand out, the most first.
    pub apart: Vec<Apart>,
    /// The checks of the list.
    pub checks: Vec<ListAnswer>,
    /// What could not be told, and why.
    pub untold: Vec<String>,
    /// A crop for each picture, in the order of the pictures, that brings them to one scale on one line; none where no subject was found.
    pub crops: Vec<Option<Crop>>,
    /// In short.
    pub says: Vec<String>,
}

/// Levels that changed alike to this have one cause.
const ONE_CAUSE_STOPS: f64 = 0.35;
/// Percent of the height by which a foot moves with each percent of scale, at most: it lies within half a height of the middle.
const FOOT_WITH_SCALE: f64 = 0.5;

fn figure(v: f64, digits: i32) -> String {
    let k = 10f64.powi(digits);
    format!("{}", (v * k).round() / k)
}

fn sentence(row: &Agreement, by: f64) -> String {
    let ratio = 1.0 + by / 100.0;
    let factor = if ratio > 1.0 { ratio } else { 1.0 / ratio };
    let digits = if matches!(row.unit.as_str(), "mired" | "degrees") && by.abs() >= 10.0 { 0 } else { 1 };
    (if by > 0.0 { &row.more } else { &row.less })
        .replace("{by}", &figure(by.abs(), if row.unit == "stops" { 2 } else { digits }))
        .replace("{factor}", &figure(factor, 3))
        // as far as a small thing: its size goes as one over the distance
        .replace("{nearer}", &figure(ratio, 3))
}

/// How far from the median a quantity may lie.
fn within(id: &str) -> f64 {
    agreements().iter().find(|a| a.id == id).map_or(1.0, |a| a.within)
}

/// Value and spread of a quantity in one picture.
fn value(id: &str, s: &Shown) -> Option<[f64; 2]> {
    let height = f64::from(s.height);
    let subject = s.subject.filter(|s| !s.cut);
    Some(match id {
        "scale" => subject.map(|q| [100.0 * q.length_px / height, 100.0 * 1.4 * q.sd_px / height])?,
        "base" => subject.map(|q| [100.0 * (1.0 - q.base_px / height), 100.0 * q.sd_px / height])?,
        "upright" => subject.and_then(|q| Some([q.lean_deg?, q.lean_sd_deg]))?,
        // more light let in is more
        "exposure" => [-s.settings?.ev100(), 0.05],
        "aperture" => [2.0 * s.settings?.f_number.log2(), 0.02],
        "background" => s.ground.filter(|g| !g.clipped).map(|g| [g.level_stops, 0.05])?,
        "evenness" => s.ground.filter(|g| !g.clipped).map(|g| [g.across_stops, 0.05])?,
        "subject" => [s.subject_stops?, 0.1],
        "light" => [s.halves_stops?, 0.1],
        _ => return None,
    })
}

/// In which views something is compared: what lies in the frame only where the view judges it, exposure and background in all.
fn judged(list: &ShotList, view: &str, id: &str) -> bool {
    let Some(v) = list.view(view) else { return false };
    match id {
        "scale" | "base" | "upright" | "light" => v.judges.iter().any(|j| j == id),
        "key" | "subject" => v.judges.iter().any(|j| j == "light"),
        _ => true,
    }
}

/// What a value is compared with: the views of its group where it matters how far a thing reaches towards the lens, else all.
fn group_of<'a>(list: &'a ShotList, view: &str, quantity: &str) -> Option<&'a str> {
    if matches!(quantity, "scale" | "base") { list.view(view).and_then(|v| v.group.as_deref()) } else { None }
}

fn compared(row: &Agreement, list: &ShotList, members: &[Member]) -> Option<Compared> {
    let those: Vec<&Member> = members.iter().filter(|m| judged(list, &m.view, &row.id)).collect();
    let raw: Vec<(&Member, [f64; 2])> = match row.id.as_str() {
        "balance" => balances(&those),
        "key" => keys(&those),
        id => those.iter().filter_map(|m| Some((*m, value(id, &m.shown)?))).collect(),
    };
    if raw.len() < 2 {
        return None;
    }
    let group = |m: &Member| group_of(list, &m.view, &row.id);
    let usual = |of: &[&(&Member, [f64; 2])]| median(&mut of.iter().map(|r| r.1[0]).collect::<Vec<_>>());
    let whole = usual(&raw.iter().collect::<Vec<_>>());
    // a scale is a ratio: percent of the usual one
    let against = |v: f64, usual: f64| if row.id == "scale" { 100.0 * (v / usual - 1.0) } else { v - usual };
    let mut values = Vec::new();
    for (m, [v, sd]) in &raw {
        let peers: Vec<&(&Member, [f64; 2])> = raw.iter().filter(|r| group(r.0) == group(m)).collect();
        // of two each is held against the other
        let other = match &peers[..] {
            [a, b] => Some(if a.0.frame == m.frame { b } else { a }),
            _ => None,
        };
        let median = usual(&peers);
        let by = against(*v, other.map_or(median, |o| o.1[0]));
        let sd = if row.id == "scale" { 100.0 * sd / median } else { *sd };
        let sd = if other.is_some() { sd * std::f64::consts::SQRT_2 } else { sd };
        // and the one further from all the others is named
        let far = |v: f64, frame: &str| ((v - whole).abs(), frame.to_owned());
        let named = other.is_none_or(|o| far(*v, &m.frame) > far(o.1[0], &o.0.frame));
        let out = peers.len() > 1 && named && by.abs() - row.within > sd;
        let pair = other.filter(|_| out).map(|o| o.0.frame.clone());
        values.push(ComparedValue { frame: m.frame.clone(), value: *v, sd, by, out, pair });
    }
    let most = values.iter().map(|v| v.by.abs()).fold(0.0, f64::max);
    let outs: Vec<String> = raw
        .iter()
        .zip(&values)
        .filter(|(_, v)| v.out)
        .map(|((m, _), v)| match v.pair.as_ref().and_then(|p| members.iter().find(|m| m.frame == *p)) {
            Some(other) => format!("{} or {}", m.name, other.name),
            None => m.name.clone(),
        })
        .collect();
    let says = match outs.len() {
        0 => row.holds.replace("{most}", &figure(most, 1)),
        n if n > 1 && 2 * n >= values.len() => format!(
            "Half of them or more stand apart: there is no one {} in this series ({}).",
            row.name.to_lowercase(),
            outs.join(", ")
        ),
        1 => format!("{} stands apart from the others.", outs[0]),
        _ => format!("{} stand apart from the others.", outs.join(" and ")),
    };
    Some(Compared {
        id: row.id.clone(),
        name: row.name.clone(),
        unit: row.unit.clone(),
        within: row.within,
        median: whole,
        agrees: outs.is_empty(),
        values,
        says,
    })
}

/// Balance by the background's colour against the usual one; none where it is black or at the top of its range.
fn balances<'a>(members: &[&'a Member]) -> Vec<(&'a Member, [f64; 2])> {
    let with: Vec<(&Member, [f64; 3])> = members
        .iter()
        .filter_map(|m| m.shown.ground.filter(|g| !g.clipped && g.level_stops > -4.5).map(|g| (*m, g.rgb)))
        .collect();
    if with.len() < 2 {
        return Vec::new();
    }
    let share = |c: &[f64; 3], k: usize| c[k] / c.iter().sum::<f64>();
    let usual = [0, 1, 2].map(|k| median(&mut with.iter().map(|w| share(&w.1, k)).collect::<Vec<_>>()));
    with.iter()
        .filter_map(|(m, c)| {
            let shift = ColourShift::between(*c, usual, 0.004)?;
            Some((*m, [shift.mired, shift.mired_sd]))
        })
        .collect()
}

/// Angle of each key to the one nearest to all.
fn keys<'a>(members: &[&'a Member]) -> Vec<(&'a Member, [f64; 2])> {
    let with: Vec<_> = members.iter().filter_map(|m| m.shown.key.map(|k| (*m, k))).collect();
    let apart = |a: usize, b: usize| angle_between(&with[a].1.0.vector(), &with[b].1.0.vector()).to_degrees();
    let sum = |a: &usize| (0..with.len()).map(|b| apart(*a, b)).sum::<f64>();
    let Some(usual) = (0..with.len()).min_by(|a, b| sum(a).total_cmp(&sum(b))) else { return Vec::new() };
    (0..with.len()).map(|i| (with[i].0, [apart(i, usual), with[i].1.1.hypot(with[usual].1.1)])).collect()
}

/// Holds a series against itself and its list. `ticked` are checks that a person answered.
pub fn report(list: &ShotList, members: &[Member], ticked: &[String]) -> SeriesReport {
    let here = |view: &str| members.iter().any(|m| m.view == view);
    let missing: Vec<String> = list.views.iter().filter(|v| !here(&v.id)).map(|v| v.name.clone()).collect();
    let mut compared: Vec<Compared> = agreements().iter().filter_map(|row| compared(row, list, members)).collect();
    // where keys were read, they say more than the halves
    if compared.iter().any(|c| c.id == "key" && c.values.len() >= 3) {
        compared.retain(|c| c.id != "light");
    }
    let mut apart = apart(&compared, members);
    apart.extend(outside_aperture(list, members, &apart));
    apart.sort_by(|a, b| b.times.total_cmp(&a.times));
    let checks = list.checks.iter().map(|c| answer(list, c, &compared, &apart, members, ticked)).collect();
    let crops = {
        let judges = |m: &Member, id: &str| list.view(&m.view).is_some_and(|v| v.judges.iter().any(|j| j == id));
        let all: Vec<(&Shown, bool, bool)> =
            members.iter().map(|m| (&m.shown, judges(m, "scale"), judges(m, "upright"))).collect();
        common(list, &all)
    };
    let mut r =
        SeriesReport { missing, compared, apart, checks, untold: untold(list, members), crops, says: Vec::new() };
    r.says = in_short(list, members, &r);
    r
}

fn apart(compared: &[Compared], members: &[Member]) -> Vec<Apart> {
    let name = |frame: &str| members.iter().find(|m| m.frame == frame).map_or("", |m| m.name.as_str()).to_owned();
    let mut out: Vec<Apart> = Vec::new();
    for c in compared {
        let row = agreements().iter().find(|a| a.id == c.id);
        for v in c.values.iter().filter(|v| v.out) {
            out.push(Apart {
                frame: v.frame.clone(),
                name: name(&v.frame),
                quantity: c.id.clone(),
                by: v.by,
                times: v.by.abs() / c.within,
                says: match (&v.pair, row) {
                    (Some(p), Some(r)) => format!(
                        "Against {}: {} Which of the two is right they cannot tell.",
                        name(p),
                        sentence(r, v.by)
                    ),
                    (None, Some(r)) => sentence(r, v.by),
                    _ => String::new(),
                },
                pair: v.pair.clone(),
            });
        }
    }
    // one cause: what is brighter everywhere by what was set more is the exposure
    let by =
        |out: &[Apart], frame: &str, q: &str| out.iter().find(|a| a.frame == frame && a.quantity == q).map(|a| a.by);
    let frames: Vec<String> = out.iter().map(|a| a.frame.clone()).collect();
    for f in frames {
        let (set, ground, subject) = (by(&out, &f, "exposure"), by(&out, &f, "background"), by(&out, &f, "subject"));
        let same = |a: f64, b: f64| (a - b).abs() < ONE_CAUSE_STOPS;
        let all = match (set, ground, subject) {
            (Some(e), Some(g), _) if same(e, g) => Some(format!(
                "{} stops {} by the exposure that was set: put it back to that of the others.",
                figure(g.abs(), 2),
                if g > 0.0 { "brighter" } else { "darker" }
            )),
            (None, Some(g), Some(s)) if same(g, s) => Some(format!(
                "All of it is {} stops {}: the exposure, or the power of every lamp, was changed; {} it by that.",
                figure(g.abs(), 2),
                if g > 0.0 { "brighter" } else { "darker" },
                if g > 0.0 { "lower" } else { "raise" }
            )),
            _ => None,
        };
        if let Some(says) = all {
            out.retain(|a| a.frame != f || !matches!(a.quantity.as_str(), "background" | "subject"));
            match out.iter_mut().find(|a| a.frame == f && a.quantity == "exposure") {
                Some(a) => a.says = says,
                None => out.push(Apart {
                    name: name(&f),
                    quantity: "exposure".into(),
                    by: ground.unwrap_or_default(),
                    times: ground.unwrap_or_default().abs() / within("exposure"),
                    says,
                    frame: f,
                    pair: None,
                }),
            }
        }
    }
    // nearer or further away the foot moves in the frame as well: one cause
    let scaled: Vec<Apart> = out.iter().filter(|a| a.quantity == "scale").cloned().collect();
    out.retain(|a| {
        let same = |s: &&Apart| [Some(&s.frame), s.pair.as_ref()].contains(&Some(&a.frame));
        a.quantity != "base" || scaled.iter().find(same).is_none_or(|s| a.by.abs() > FOOT_WITH_SCALE * s.by.abs())
    });
    // what is printed on one side may be darker than on the other: alone it is no fault
    out.retain(|a| a.quantity != "subject");
    out
}

/// Apertures that do not suit the list.
fn outside_aperture(list: &ShotList, members: &[Member], already: &[Apart]) -> Vec<Apart> {
    let [low, high] = list.f_number;
    let near = 2f64.powf(1.0 / 6.0);
    members
        .iter()
        .filter_map(|m| {
            let n = m.shown.settings?.f_number;
            let by = if n * near < low {
                2.0 * (n / low).log2()
            } else if n > near * high {
                2.0 * (n / high).log2()
            } else {
                return None;
            };
            if already.iter().any(|a| a.frame == m.frame && a.quantity == "aperture") {
                return None;
            }
            let why = if by < 0.0 { "less is sharp than the list asks for" } else { "diffraction softens it" };
            Some(Apart {
                frame: m.frame.clone(),
                name: m.name.clone(),
                quantity: "aperture".into(),
                by,
                times: by.abs() / within("aperture"),
                pair: None,
                says: format!("f/{}: f/{low} to f/{high} suits this list; {why}.", figure(n, 1)),
            })
        })
        .collect()
}

fn answer(
    list: &ShotList,
    check: &crate::list::ListCheck,
    compared: &[Compared],
    apart: &[Apart],
    members: &[Member],
    ticked: &[String],
) -> ListAnswer {
    let mut a = ListAnswer {
        id: check.id.clone(),
        text: check.text.clone(),
        measured: check.measured.is_some(),
        holds: None,
        says: String::new(),
    };
    let Some(what) = &check.measured else {
        let done = ticked.contains(&check.id);
        a.holds = done.then_some(true);
        a.says = if done { "Ticked by hand.".into() } else { "Look, and tick it.".into() };
        return a;
    };
    if what == "aperture" {
        let told = members.iter().filter(|m| m.shown.settings.is_some()).count();
        if told == 0 {
            a.says = "The pictures do not say their aperture.".into();
            return a;
        }
        let off: Vec<&str> = apart.iter().filter(|x| x.quantity == "aperture").map(|x| x.name.as_str()).collect();
        a.holds = Some(off.is_empty());
        a.says = if off.is_empty() {
            let [low, high] = list.f_number;
            format!("All {told} that say it lie within f/{low} to f/{high} and agree.")
        } else {
            format!("Not in {}.", off.join(", "))
        };
        return a;
    }
    let also = if what == "light" { "key" } else { what.as_str() };
    match compared.iter().find(|c| c.id == *what || c.id == also) {
        Some(c) => {
            a.holds = Some(c.agrees);
            a.says = c.says.clone();
        }
        None => a.says = "Two pictures or more are needed that tell it.".into(),
    }
    a
}

fn untold(list: &ShotList, members: &[Member]) -> Vec<String> {
    let mut out = Vec::new();
    for m in members {
        match m.shown.subject {
            None if list.of_people() => {
                out.push(format!("{}: no face is marked; mark it in Read, or have it found there.", m.name));
            }
            None => out
                .push(format!("{}: nothing stands out from its background; scale and base line are not told.", m.name)),
            Some(s) if s.cut => {
                out.push(format!("{}: the subject reaches the frame's edge; scale and base line are not told.", m.name))
            }
            Some(_) => {}
        }
        if m.shown.ground.is_some_and(|g| g.clipped) {
            out.push(format!(
                "{}: its background is at the top of the range; its level and balance are not told.",
                m.name
            ));
        }
    }
    let silent = members.iter().filter(|m| m.shown.settings.is_none()).count();
    if silent > 0 {
        out.push(format!("{silent} of {} do not say their exposure.", members.len()));
    }
    out
}

fn in_short(list: &ShotList, members: &[Member], r: &SeriesReport) -> Vec<String> {
    let mut out = Vec::new();
    let wanted = list.views.len();
    if members.is_empty() {
        out.push(format!("{wanted} {} wanted; none is there yet.", if wanted == 1 { "view is" } else { "views are" }));
        return out;
    }
    if list.repeats {
        out.push(format!("{} pictures.", members.len()));
    } else if r.missing.is_empty() {
        out.push(format!("All {wanted} views are there."));
    } else {
        out.push(format!(
            "{} of {wanted} views are there; missing: {}.",
            wanted - r.missing.len(),
            r.missing.join(", ")
        ));
    }
    let mut frames: Vec<&str> = Vec::new();
    for a in &r.apart {
        if !frames.contains(&a.name.as_str()) {
            frames.push(&a.name);
        }
    }
    if members.len() < 2 {
        out.push("One picture has nothing to agree with yet.".into());
    } else if frames.is_empty() {
        out.push("They agree in all that could be told.".into());
    } else {
        let (who, stands) = (frames.join(", "), if frames.len() == 1 { "stands" } else { "stand" });
        out.push(format!("{who} {stands} out."));
    }
    let beyond: Vec<&str> = r
        .crops
        .iter()
        .zip(members)
        .filter(|(c, _)| c.is_some_and(|c| c.beyond > 0.01))
        .map(|(_, m)| m.name.as_str())
        .collect();
    if !beyond.is_empty() {
        out.push(format!(
            "A common crop reaches beyond the picture in {}: leave more room around the subject.",
            beyond.join(", ")
        ));
    }
    out
}

/// The comparison as rows of a table: a picture in each row (RFC 4180).
///
/// # Errors
/// If a row cannot be written.
pub fn as_table(members: &[Member], r: &SeriesReport) -> Result<String, csv::Error> {
    let mut w = csv::Writer::from_writer(Vec::new());
    let mut head = vec!["picture".to_owned(), "view".into()];
    for c in &r.compared {
        head.push(format!("{} [{}]", c.name, c.unit));
        head.push(format!("{} against the usual", c.name));
    }
    head.push("stands out in".into());
    w.write_record(&head)?;
    for m in members {
        let mut row = vec![cell(&m.name), cell(&m.view)];
        for c in &r.compared {
            match c.values.iter().find(|v| v.frame == m.frame) {
                Some(v) => row.extend([figure(v.value, 3), figure(v.by, 3)]),
                None => row.extend([String::new(), String::new()]),
            }
        }
        let out: Vec<&str> = r.apart.iter().filter(|a| a.frame == m.frame).map(|a| a.quantity.as_str()).collect();
        row.push(out.join(" "));
        w.write_record(&row)?;
    }
    let bytes = w.into_inner().map_err(csv::IntoInnerError::into_error)?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}
