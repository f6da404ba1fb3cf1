//! The pages for paper: two, and a third with a contact sheet of takes.

use crate::flow::{BODY, Column, HEAD, ITEM, SMALL, Style};
use crate::halo::{halo, r1};
use crate::{Art, Report, Stance, data_url, ledger_value, letter};
use judging::critique::Outcome;
use maud::{Markup, html};
use optics::words::capital;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Size of the paper.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Paper {
    /// 210 by 297 mm (ISO 216).
    #[default]
    A4,
    /// 8.5 by 11 inches.
    Letter,
}

impl Paper {
    /// Width and height at 96 pixels an inch.
    pub fn pixels(self) -> [f64; 2] {
        match self {
            Paper::A4 => [210.0 / 25.4 * 96.0, 297.0 / 25.4 * 96.0],
            Paper::Letter => [816.0, 1056.0],
        }
    }
}

/// Margin on all sides, pixels: half an inch.
const MARGIN: f64 = 48.0;
/// Between two columns.
const GUTTER: f64 = 22.0;
/// Lines of a ledger on paper.
const MOST_LEDGER: usize = 12;
/// Takes on a contact sheet: across, and down.
const CONTACT: [usize; 2] = [4, 5];

fn sheet(paper: Paper, foot: &str, inside: Vec<Markup>) -> String {
    let [w, h] = paper.pixels();
    html! {
        svg xmlns="http://www.w3.org/2000/svg" width=(r1(w)) height=(r1(h)) viewBox={ "0 0 " (r1(w)) " " (r1(h)) } font-family="sans-serif" {
            rect width=(r1(w)) height=(r1(h)) fill="#ffffff" {}
            @for m in &inside { (m) }
            text x=(r1(w - MARGIN)) y=(r1(h - 26.0)) font-size="8.6" fill="#55504a" text-anchor="end" { (foot) }
        }
    }
    .into_string()
}

fn placed(x: f64, y: f64, what: &Markup) -> Markup {
    html! { g transform={ "translate(" (r1(x)) " " (r1(y)) ")" } { (what) } }
}

fn picture(x: f64, y: f64, w: f64, h: f64, href: &str) -> Markup {
    html! { image href=(href) x=(r1(x)) y=(r1(y)) width=(r1(w)) height=(r1(h)) preserveAspectRatio="xMidYMid meet" {} }
}

fn rule(x: f64, y: f64, w: f64) -> Markup {
    html! { line x1=(r1(x)) y1=(r1(y)) x2=(r1(x + w)) y2=(r1(y)) stroke="#c9c1b4" stroke-width="1" {} }
}

/// The pages of a report as SVG, each as large as the paper.
pub fn sheets(report: &Report, art: &Art, paper: Paper) -> Vec<String> {
    let [w, h] = paper.pixels();
    let wide = w - 2.0 * MARGIN;
    let bottom = h - MARGIN;
    let pages = if art.takes.is_empty() { 2 } else { 3 };
    let foot = |n: usize| format!("{} \u{b7} {n} of {pages}", report.made);

    // page one: the picture, what holds, what to change
    let mut top = Column::new(MARGIN, MARGIN - 10.0, wide, h);
    let title: String = report.title.chars().take(120).collect();
    top.text(&title, Style { size: 19.0, bold: true, ..BODY });
    let by =
        report.signed.as_ref().map_or(String::new(), |s| format!(" \u{b7} {}", s.chars().take(80).collect::<String>()));
    top.text(
        &format!(
            "Verdict as \u{201c}{}\u{201d} \u{b7} {}{by}",
            report.brief,
            report.picture.chars().take(60).collect::<String>()
        ),
        BODY,
    );
    top.text(&report.asks.join(" "), SMALL);
    let (drawn, size) = halo(report, &art.picture, wide, (0.46 * h).min(520.0));
    let y = top.y + 8.0;
    let mut inside = std::mem::take(&mut top.drawn);
    inside.push(placed(MARGIN + (wide - size[0]) / 2.0, y, &drawn));
    let y = y + size[1] + 4.0;
    let half = (wide - GUTTER) / 2.0;
    let mut left = Column::new(MARGIN, y, half, bottom);
    left.text("What holds", HEAD);
    let holds: Vec<String> = report.of(Outcome::Holds).iter().map(|f| f.finding.says.clone()).collect();
    if holds.is_empty() {
        left.text("Nothing was marked that a rule could hold.", BODY);
    }
    left.list(&holds, BODY, "more rules hold.");
    let mut right = Column::new(MARGIN + half + GUTTER, y, half, bottom);
    right.text("Change first", HEAD);
    for (i, c) in report.changes.iter().take(3).enumerate() {
        right.text(&format!("{}. {} {}.", i + 1, c.says, capital(&c.gain())), BODY);
    }
    if let Some(after) = art.after.as_ref().filter(|_| !report.changes.is_empty()) {
        let high = (0.13 * h).min(right.bottom - right.y - 60.0);
        inside.push(picture(right.x, right.y + 5.0, half, high, &data_url("image/jpeg", after)));
        right.y += high + 5.0;
        right.text("After the first change, as the studio draws it.", SMALL);
    }
    right.text("Found", HEAD);
    let faults = report.of(Outcome::Fault);
    if faults.is_empty() {
        right.text("Nothing that was measured has to change.", BODY);
    }
    let mut told = 0;
    for f in &faults {
        let (head, says) = (format!("{}  {}", f.n, f.finding.title), f.finding.says.clone());
        let need = right.height(&head, Style { bold: true, ..BODY }) + right.height(&says, ITEM) + 14.0;
        if !right.has_room(need) {
            right.text(&format!("{} more overleaf.", faults.len() - told), SMALL);
            break;
        }
        right.text(&head, Style { bold: true, ..BODY });
        right.text(&says, ITEM);
        if let Some(change) = &f.finding.change {
            right.text(change, ITEM);
        }
        told += 1;
    }
    inside.append(&mut left.drawn);
    inside.append(&mut right.drawn);
    let mut out = vec![sheet(paper, &foot(1), inside)];

    // page two: in short, the rest of the findings, the ledger, the set, remarks, the method in small type
    let mut c = Column::new(MARGIN, MARGIN - 10.0, wide, bottom - 100.0);
    c.text("In short", HEAD);
    let paragraph: String = report.paragraph.chars().take(1400).collect();
    c.text(&paragraph, BODY);
    let rest: Vec<String> = faults[told..]
        .iter()
        .chain(&report.of(Outcome::Unsure))
        .map(|f| {
            let settles = f.finding.settles.as_ref().map_or(String::new(), |s| format!(" {s}"));
            format!("{}  {}: {}{settles}", f.n, f.finding.title, f.finding.says)
        })
        .collect();
    if !rest.is_empty() {
        c.text(if told < faults.len() { "Also found, and what cannot be decided" } else { "Cannot be decided" }, HEAD);
        let limit = c.bottom;
        c.bottom = (c.y + 0.2 * h).min(limit);
        c.list(&rest, BODY, "more are in the page for the browser.");
        c.bottom = limit;
    }
    if !report.ledger.is_empty() {
        c.text("Against the reference", HEAD);
        for l in report.ledger.iter().take(MOST_LEDGER) {
            let row = Style { size: 9.6, above: 1.0, ..BODY };
            if !c.has_room(c.height("x", row)) {
                break;
            }
            let y = c.y;
            c.text(&l.what.to_string(), row);
            let cell = |x: f64, t: String| html! { text x=(r1(x)) y=(r1(y + 10.9)) font-size="9.6" fill="#1d1b18" text-anchor="end" { (t) } };
            let cells = [
                (0.52, ledger_value(l.reference, l)),
                (0.68, ledger_value(l.take, l)),
                (1.0, format!("{} \u{b1} {}", ledger_value(l.difference, l), ledger_value(l.sd, l))),
            ];
            c.drawn.extend(cells.map(|(k, t)| cell(MARGIN + k * wide, t)));
        }
    }
    c.text("What was read", HEAD);
    let limit = c.bottom;
    c.bottom = (c.y + 0.17 * h).min(limit);
    c.list(&report.reading, BODY, "more sentences are in the page for the browser.");
    c.bottom = limit;
    if !report.remarks.is_empty() {
        c.text("Remarks", HEAD);
        let said: Vec<String> = report
            .remarks
            .iter()
            .enumerate()
            .map(|(i, r)| {
                let stance = match r.stance {
                    Stance::Note => "",
                    Stance::Agrees => " agrees",
                    Stance::Disagrees => " disagrees",
                };
                let about = r.about.as_ref().map_or(String::new(), |a| format!("{a}. "));
                format!("{}. {}{stance}: {about}{}", letter(i), r.author, r.text)
            })
            .collect();
        c.bottom = (c.y + 0.2 * h).min(limit);
        c.list(&said, BODY, "more are in the page for the browser.");
        c.bottom = limit;
    }
    let mut inside = std::mem::take(&mut c.drawn);
    if let Some(plan) = &art.plan {
        // the drawing is about two wide and one high
        let space = c.bottom - c.y - 30.0;
        if space > 110.0 {
            let mut head = Column::new(MARGIN, c.y, wide, c.bottom);
            head.text("The set", HEAD);
            inside.append(&mut head.drawn);
            let high = (wide / 1.9).min(c.bottom - head.y - 4.0);
            inside.push(picture(MARGIN, head.y + 4.0, wide, high, &data_url("image/svg+xml", plan.as_bytes())));
        }
    }
    inside.push(rule(MARGIN, bottom - 96.0, wide));
    let mut m = Column::new(MARGIN, bottom - 94.0, wide, bottom);
    let method: Vec<String> = [report.slant.clone()]
        .into_iter()
        .chain(report.method.iter().cloned())
        .chain([format!("Core {}.", report.core)])
        .collect();
    m.list(&method, SMALL, "more lines are in the page for the browser.");
    inside.append(&mut m.drawn);
    out.push(sheet(paper, &foot(2), inside));

    if !art.takes.is_empty() {
        let mut c = Column::new(MARGIN, MARGIN - 10.0, wide, bottom);
        c.text("Takes", HEAD);
        let mut inside = std::mem::take(&mut c.drawn);
        let cell = [wide / CONTACT[0] as f64, (bottom - c.y - 10.0) / CONTACT[1] as f64];
        for (i, t) in art.takes.iter().take(CONTACT[0] * CONTACT[1]).enumerate() {
            let (x, y) = (MARGIN + (i % CONTACT[0]) as f64 * cell[0], c.y + 8.0 + (i / CONTACT[0]) as f64 * cell[1]);
            inside.push(picture(x + 3.0, y, cell[0] - 6.0, cell[1] - 34.0, &data_url("image/jpeg", &t.jpeg)));
            let mut words = Column::new(x + 3.0, y + cell[1] - 34.0, cell[0] - 6.0, y + cell[1]);
            words.text(&t.name.chars().take(60).collect::<String>(), SMALL);
            inside.append(&mut words.drawn);
        }
        if art.takes.len() > CONTACT[0] * CONTACT[1] {
            inside.push(html! { text x=(r1(MARGIN)) y=(r1(h - 26.0)) font-size="8.6" fill="#55504a" { (art.takes.len() - CONTACT[0] * CONTACT[1]) " more takes are in the case." } });
        }
        out.push(sheet(paper, &foot(3), inside));
    }
    out
}
