//! A verdict as something to hand over: a page for the browser that needs nothing beside it, pages for paper, and JSON.
//!
//! | file | holds |
//! |---|---|
//! | `halo.rs` | the picture in its halo with pins, as SVG |
//! | `page.rs` | the page for the browser |
//! | `flow.rs` | text set into columns |
//! | `sheets.rs` | the pages for paper |

mod flow;
mod halo;
mod page;
mod sheets;

use evidence::readings::Light;
use judging::compare::LedgerLine;
use judging::critique::{Finding, Outcome, Promise};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

pub use page::page;
pub use sheets::{Paper, sheets};

/// Name and version of the format.
pub const FORMAT: &str = "slant-report/1";

/// Who thinks what of a finding.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Stance {
    /// A remark of one's own.
    Note,
    /// The finding is right.
    Agrees,
    /// It is not.
    Disagrees,
}

/// A person's remark.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ReportRemark {
    /// Who made it.
    pub author: String,
    /// What it is.
    pub stance: Stance,
    /// Title of the finding it is about; absent for a remark of one's own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub about: Option<String>,
    /// In words.
    pub text: String,
    /// Where in the picture, pixels.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<optics::geometry::Pair>)]
    pub pin: Option<[f64; 2]>,
}

/// The verdict on one picture with what it rests on: `slant-report/1`.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct Report {
    /// Always `slant-report/1`.
    pub format: String,
    /// Title of the case.
    pub title: String,
    /// Name of the picture.
    pub picture: String,
    /// Width and height of the picture in pixels: pins are in them.
    pub size: [u32; 2],
    /// Name of the brief.
    pub brief: String,
    /// What the brief asks, and its school.
    pub asks: Vec<String>,
    /// Day it was made, year, month, day.
    pub made: String,
    /// Who stands for it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub signed: Option<String>,
    /// The lights that were read.
    pub lights: Vec<Light>,
    /// The lights as one line.
    pub slant: String,
    /// The reading in sentences.
    pub reading: Vec<String>,
    /// What to keep in mind about it.
    pub warnings: Vec<String>,
    /// The verdict in a paragraph.
    pub paragraph: String,
    /// The findings in their order.
    pub findings: Vec<Finding>,
    /// Changes worked out by the studio, the best first, each after the one before it.
    pub changes: Vec<Promise>,
    /// What people say.
    pub remarks: Vec<ReportRemark>,
    /// Differences from the reference, if the picture is a take.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub ledger: Vec<LedgerLine>,
    /// How it was read, and what its spreads are.
    pub method: Vec<String>,
    /// Version of the core that read it.
    pub core: String,
}

/// A picture of the contact sheet.
#[derive(Debug, Clone)]
pub struct ContactPicture {
    /// What is written under it.
    pub name: String,
    /// JPEG.
    pub jpeg: Vec<u8>,
}

/// The pictures of a report.
#[derive(Debug, Clone, Default)]
pub struct Art {
    /// The picture, JPEG.
    pub picture: Vec<u8>,
    /// The set drawn to scale, SVG.
    pub plan: Option<String>,
    /// The picture that the first change would give, JPEG.
    pub after: Option<Vec<u8>>,
    /// Takes for a contact sheet; empty for none.
    pub takes: Vec<ContactPicture>,
}

/// A finding with its number.
struct Numbered<'a> {
    n: usize,
    finding: &'a Finding,
}

impl Report {
    fn of(&self, outcome: Outcome) -> Vec<Numbered<'_>> {
        let all = self.findings.iter().enumerate().map(|(i, finding)| Numbered { n: i + 1, finding });
        all.filter(|f| f.finding.outcome == outcome).collect()
    }

    /// Numbered pins of what is to change or open, in pixels of the picture.
    fn pins(&self) -> Vec<(String, [f64; 2], bool)> {
        let found = [Outcome::Fault, Outcome::Unsure].into_iter().flat_map(|o| self.of(o));
        let found = found.filter_map(|f| Some((f.n.to_string(), f.finding.pin?, f.finding.outcome == Outcome::Fault)));
        let said = self.remarks.iter().enumerate().filter_map(|(i, r)| Some((letter(i), r.pin?, false)));
        found.chain(said).collect()
    }
}

/// A remark's sign: A, B, ... Z, AA.
fn letter(i: usize) -> String {
    let c = char::from(b'A' + (i % 26) as u8);
    if i < 26 { c.to_string() } else { format!("{}{c}", letter(i / 26 - 1)) }
}

fn data_url(kind: &str, bytes: &[u8]) -> String {
    use base64::Engine;
    format!("data:{kind};base64,{}", base64::engine::general_purpose::STANDARD.encode(bytes))
}

/// A value of a ledger with its unit.
fn ledger_value(v: f64, l: &LedgerLine) -> String {
    let unit = l.unit.to_string();
    let digits = if unit == "mired" || unit.starts_with("deg") { 0 } else { 1 };
    format!("{v:.digits$} {unit}").replace('-', "\u{2212}")
}

#[cfg(test)]
mod tests {
    use super::letter;

    #[test]
    fn remarks_have_letters() {
        assert_eq!([0, 25, 26, 27, 199].map(letter), ["A", "Z", "AA", "AB", "GR"]);
    }
}
