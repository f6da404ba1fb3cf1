//! The page for the browser: everything inside, nothing to load, to be read aloud as well.

use crate::halo::halo;
use crate::{Art, Report, Stance, data_url, ledger_value, letter};
use judging::critique::Outcome;
use maud::{DOCTYPE, Markup, PreEscaped, html};
use optics::words::capital;

const STYLE: &str = "
body{font:16px/1.5 'Source Sans 3','DejaVu Sans',sans-serif;color:#1d1b18;background:#fff;margin:0 auto;max-width:62rem;padding:1.5rem}
h1{font-size:1.7rem;margin:0;overflow-wrap:anywhere}h2{font-size:1.2rem;margin:1.6rem 0 .4rem;border-bottom:1px solid #c9c1b4}h3{font-size:1rem;margin:.6rem 0 0}
p{margin:.25rem 0}.quiet{color:#55504a}.small{font-size:.86rem}ul,ol{margin:.3rem 0;padding-left:1.4rem}
figure{margin:1rem 0;text-align:center}figure svg,figure img{max-width:100%;height:auto}
table{border-collapse:collapse;width:100%}th,td{text-align:left;padding:.2rem .5rem;border-bottom:1px solid #ddd6ca}td.n{text-align:right;font-variant-numeric:tabular-nums}
.n0{display:inline-block;min-width:1.5rem;height:1.5rem;line-height:1.5rem;text-align:center;border-radius:1rem;border:2px solid #b3261e;font-weight:700;margin-right:.5rem;font-size:.85rem}
.open .n0{border-color:#55504a;border-style:dashed}code{font-size:.85rem;overflow-wrap:anywhere}
.grid{display:flex;flex-wrap:wrap;gap:.8rem}.grid figure{margin:0;width:13rem}
@media print{body{padding:0}h2{break-after:avoid}article,figure{break-inside:avoid}}";

fn finding(report: &Report, outcome: Outcome) -> Markup {
    html! {
        @for f in report.of(outcome) {
            article class=(if outcome == Outcome::Unsure { "open" } else { "fault" }) {
                h3 { span class="n0" { (f.n) } (f.finding.title) }
                p { (f.finding.says) }
                @if let Some(c) = &f.finding.change { p { strong { "One change: " } (c) } }
                @if let Some(s) = &f.finding.settles { p { strong { "To decide: " } (s) } }
                p class="quiet small" { (f.finding.school) " Rule: " (f.finding.source) ". Says so: " (f.finding.evidence.join(", ")) "." }
            }
        }
    }
}

fn remarks(report: &Report) -> Markup {
    html! {
        h2 { "Remarks" }
        ul {
            @for (i, r) in report.remarks.iter().enumerate() {
                li dir="auto" {
                    strong { (letter(i)) ". " bdi { (r.author) } }
                    @match r.stance {
                        Stance::Note => (": "),
                        Stance::Agrees => (" agrees: "),
                        Stance::Disagrees => (" disagrees: "),
                    }
                    @if let Some(about) = &r.about { em { (about) } ". " }
                    bdi { (r.text) }
                }
            }
        }
    }
}

fn ledger(report: &Report) -> Markup {
    html! {
        h2 { "Against the reference" }
        table {
            thead { tr { th scope="col" { "What" } th scope="col" { "Reference" } th scope="col" { "Here" } th scope="col" { "Difference" } th scope="col" { "Spread" } } }
            tbody {
                @for l in &report.ledger {
                    tr { th scope="row" { (l.what) } td class="n" { (ledger_value(l.reference, l)) } td class="n" { (ledger_value(l.take, l)) } td class="n" { (ledger_value(l.difference, l)) } td class="n" { "\u{b1} " (ledger_value(l.sd, l)) } }
                }
            }
        }
    }
}

/// The report as one HTML page.
pub fn page(report: &Report, art: &Art) -> String {
    let (drawn, _) = halo(report, &art.picture, 900.0, 640.0);
    let holds = report.of(Outcome::Holds);
    html! {
        (DOCTYPE)
        html lang="en" {
            head {
                meta charset="utf-8";
                meta name="viewport" content="width=device-width, initial-scale=1";
                title { (report.title) ": verdict" }
                style { (PreEscaped(STYLE)) }
            }
            body {
                main {
                    header {
                        h1 dir="auto" { (report.title) }
                        p { "Verdict as \u{201c}" (report.brief) "\u{201d}, " (report.made) @if let Some(s) = &report.signed { ", by " bdi { (s) } } }
                        p class="quiet" { (report.asks.join(" ")) }
                    }
                    figure { (drawn) figcaption class="quiet small" { "The picture in its halo: where on the band a light lies is where it stands, the outer edge is behind the subject. Numbers are findings, letters are remarks." } }
                    h2 { "In short" }
                    p dir="auto" { (report.paragraph) }
                    h2 { "What holds" }
                    @if holds.is_empty() { p { "Nothing was marked that a rule could hold." } }
                    ul { @for f in &holds { li { (f.finding.says) } } }
                    h2 { "To change" }
                    @if !report.changes.is_empty() {
                        ol { @for c in &report.changes { li { (c.says) " " (capital(&c.gain())) "." } } }
                        @if let Some(after) = &art.after {
                            figure { img src=(data_url("image/jpeg", after)) alt="What the studio draws after the first change"; figcaption class="quiet small" { "After the first change, as the studio draws it." } }
                        }
                    }
                    @if report.of(Outcome::Fault).is_empty() { p { "Nothing that was measured has to change." } }
                    (finding(report, Outcome::Fault))
                    @if !report.of(Outcome::Unsure).is_empty() { h2 { "Cannot be decided" } (finding(report, Outcome::Unsure)) }
                    @if !report.remarks.is_empty() { (remarks(report)) }
                    @if !report.ledger.is_empty() { (ledger(report)) }
                    h2 { "What was read" }
                    @for s in &report.reading { p { (s) } }
                    p { code { (report.slant) } }
                    @if let Some(plan) = &art.plan {
                        h2 { "The set" }
                        figure { img src=(data_url("image/svg+xml", plan.as_bytes())) alt="The likely set from above and from the side, to scale"; }
                    }
                    @if !art.takes.is_empty() {
                        h2 { "Takes" }
                        div class="grid" {
                            @for t in &art.takes { figure { img src=(data_url("image/jpeg", &t.jpeg)) alt=(t.name); figcaption class="small" dir="auto" { (t.name) } } }
                        }
                    }
                    h2 { "How it was read" }
                    div class="small quiet" {
                        @for m in report.method.iter().chain(&report.warnings) { p { (m) } }
                        @let untold = report.of(Outcome::CannotTell);
                        @if !untold.is_empty() { p { (untold.len()) " rules could not be told: nothing was marked for them." } }
                        p { "Core " (report.core) ". Format " (report.format) "." }
                    }
                }
            }
        }
    }
    .into_string()
}
