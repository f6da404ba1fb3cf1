//! Briefs: what a picture is judged by, as rows of `data/briefs.toml`.

use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::sync::LazyLock;
use utoipa::ToSchema;

#[derive(Deserialize)]
struct BriefTable {
    brief: Vec<Brief>,
}

/// What a brief is of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum BriefKind {
    /// People.
    Person,
    /// Things: products, props, tables.
    Thing,
}

/// The least and the most that is asked of a measure; an end that is absent asks for nothing.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AskedRange {
    /// Least.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub least: Option<f64>,
    /// Most.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub most: Option<f64>,
}

/// A row of `data/briefs.toml`: what a picture is judged by.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct Brief {
    /// Stable name.
    pub id: String,
    /// Name for people.
    pub name: String,
    /// What it is of.
    pub kind: BriefKind,
    /// What it asks for.
    pub says: String,
    /// The school it follows.
    pub school: String,
    /// What it asks of each measure.
    pub ranges: BTreeMap<String, AskedRange>,
    /// Why, for some of them.
    #[serde(default)]
    pub reasons: BTreeMap<String, String>,
    /// What must be so for the shot to work.
    pub must: Vec<String>,
    /// What is left open.
    pub free: Vec<String>,
    /// What it never wants.
    pub never: Vec<String>,
    /// Looks that suit.
    pub looks: Vec<String>,
    /// For a brief of one's own: the one of the table that it was copied from.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub based_on: Option<String>,
    /// Rules that it switches off.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub off: Vec<String>,
}

/// Where a face lies in a picture, stops from middle grey (common practice: dark skin a stop under it, fair skin a stop and a half over).
const SKIN_STOPS: [f64; 2] = [-1.0, 1.5];

/// Longest text of a house brief, characters, and the most lines of a list.
const LONGEST: usize = 400;
const MOST_LINES: usize = 12;

impl Brief {
    /// The brief of the table that it is, or was copied from.
    pub fn root(&self) -> &str {
        self.based_on.as_deref().unwrap_or(&self.id)
    }

    /// Checks a brief of one's own: each end of a range that is asked must be one that a rule holds.
    ///
    /// # Errors
    /// One sentence that names the field and what was expected.
    pub fn check(&self) -> Result<(), String> {
        let base =
            brief(self.root()).ok_or_else(|| format!("based_on: \"{}\" is not one of the briefs", self.root()))?;
        if self.name.trim().is_empty() || self.name.chars().count() > 80 {
            return Err("name: expected 1 to 80 characters".into());
        }
        if base.kind != self.kind {
            return Err("kind: a copy is of the same kind as the brief it was copied from".into());
        }
        for (field, text) in [("says", &self.says), ("school", &self.school)] {
            if text.chars().count() > LONGEST {
                return Err(format!("{field}: expected at most {LONGEST} characters"));
            }
        }
        for (field, lines) in [("must", &self.must), ("free", &self.free), ("never", &self.never)] {
            if lines.len() > MOST_LINES || lines.iter().any(|l| l.chars().count() > LONGEST) {
                return Err(format!("{field}: expected at most {MOST_LINES} lines of at most {LONGEST} characters"));
            }
        }
        for (measure, asked) in &self.ranges {
            let ends = super::ends(measure, self.kind);
            if asked.least.or(asked.most).is_none() {
                return Err(format!("ranges.{measure}: expected a least or a most"));
            }
            for (end, value, has) in [("least", asked.least, ends[0]), ("most", asked.most, ends[1])] {
                let Some(v) = value else { continue };
                if !v.is_finite() || v.abs() > 1000.0 {
                    return Err(format!("ranges.{measure}.{end}: expected a number between -1000 and 1000"));
                }
                if !has {
                    return Err(format!("ranges.{measure}.{end}: no rule holds that end"));
                }
            }
            if let (Some(a), Some(b)) = (asked.least, asked.most)
                && a > b
            {
                return Err(format!("ranges.{measure}: the least ({a}) is more than the most ({b})"));
            }
        }
        let reason = |(m, r): (&String, &String)| super::measures::measure(m).is_some() && r.chars().count() <= LONGEST;
        if !self.reasons.iter().all(reason) {
            return Err(format!("reasons: expected at most {LONGEST} characters for each measure"));
        }
        for (field, names) in [("looks", &self.looks), ("off", &self.off)] {
            if names.iter().collect::<std::collections::BTreeSet<_>>().len() < names.len() {
                return Err(format!("{field}: expected each name once"));
            }
        }
        let unknown = |what: &str, name: &str| format!("{what}: \"{name}\" is unknown");
        if let Some(l) =
            self.looks.iter().find(|l| *l != "clamshell" && !evidence::looks::table().iter().any(|r| r.name == **l))
        {
            return Err(unknown("looks", l));
        }
        match self.off.iter().find(|r| !super::rule::rules().iter().any(|k| k.id == **r)) {
            Some(r) => Err(unknown("off", r)),
            None => Ok(()),
        }
    }

    /// What two asks of a brief contradict each other, in sentences: ranges that no picture meets at once.
    pub fn contradictions(&self) -> Vec<String> {
        let end = |m: &str| self.ranges.get(m).copied().unwrap_or(AskedRange { least: None, most: None });
        let mut out = Vec::new();
        let (ratio, contrast) = (end("key_over_fill_stops"), end("contrast_stops"));
        // what two patches show is at most the key and the fill over the fill
        if let (Some(most), Some(least)) = (ratio.most, contrast.least)
            && least > (1.0 + most.exp2()).log2() + 0.05
        {
            let bound = (1.0 + most.exp2()).log2();
            out.push(format!("A contrast of at least {least} stops cannot come of a key at most {most} stops over the fill: that gives at most {bound:.1}."));
        }
        if let (Some(most), Some(least)) = (contrast.most, ratio.least)
            && (1.0 + least.exp2()).log2() > most + 0.3
        {
            let bound = (1.0 + least.exp2()).log2();
            out.push(format!("A key at least {least} stops over the fill gives about {bound:.1} stops of contrast on a side it does not reach, and at most {most} are asked."));
        }
        if let (Some(most), Some(least)) = (end("picture_median_stops").most, end("white_stops").least)
            && most > least
        {
            out.push("The whole picture may lie brighter than white is asked to.".into());
        }
        if let (Some(sides), Some(lines)) = (end("line_sides").least, end("lines").most)
            && lines < sides
        {
            out.push(format!("Lines on {sides:.0} sides need as many lines, and at most {lines:.0} are asked."));
        }
        if let (Some(behind), Some(most)) = (end("back_lights").least, end("rim_over_stops").most)
            && behind >= 1.0
            && most < 0.0
        {
            out.push(
                "A light from behind draws an edge that is brighter than what it parts from, and it may not be.".into(),
            );
        }
        // skin lies within a stop of where it usually does: what is so far under it lies there
        let (under, ground) = (end("background_under_stops"), end("background_stops"));
        if let (Some(least), Some(dark)) = (under.least, ground.least)
            && dark > SKIN_STOPS[1] - least
        {
            out.push(format!("A background at least {least} stops under the face lies at most at {:.1} stops from grey, and at least {dark} are asked.", SKIN_STOPS[1] - least));
        }
        if let (Some(most), Some(bright)) = (under.most, ground.most)
            && bright < SKIN_STOPS[0] - most
        {
            out.push(format!("A background at most {most} stops under the face lies at least at {:.1} stops from grey, and at most {bright} are asked.", SKIN_STOPS[0] - most));
        }
        out.extend(self.looks_out_of_reach());
        out
    }

    /// Looks that suit it though no key where it is asked to be gives any of them.
    fn looks_out_of_reach(&self) -> Option<String> {
        let end = |m: &str| self.ranges.get(m).copied().unwrap_or(AskedRange { least: None, most: None });
        let (aside, up) = (end("key_aside_deg"), end("key_elevation_deg"));
        let meets = |range: [f64; 2], asked: AskedRange, soft: f64| {
            asked.least.is_none_or(|l| l <= range[1] + soft) && asked.most.is_none_or(|m| m >= range[0] - soft)
        };
        let reached = |name: &String| {
            // a clamshell is a butterfly with a board below
            let row = if name == "clamshell" { "butterfly" } else { name };
            let mut rows = evidence::looks::table().iter().filter(|r| r.name == row);
            rows.any(|r| meets(r.azimuth, aside, r.soft_deg) && meets(r.elevation, up, r.soft_deg))
        };
        if self.looks.is_empty() || self.looks.iter().any(reached) {
            return None;
        }
        let named = self.looks.join(" or ");
        Some(format!(
            "No key that stands where it is asked to gives {named}: change the looks, or where the key may stand."
        ))
    }
}

static BRIEFS: LazyLock<Vec<Brief>> =
    LazyLock::new(|| toml::from_str::<BriefTable>(include_str!("../../data/briefs.toml")).expect("briefs.toml").brief);

/// All briefs.
pub fn briefs() -> &'static [Brief] {
    &BRIEFS
}

/// The brief with this id.
pub fn brief(id: &str) -> Option<&'static Brief> {
    BRIEFS.iter().find(|b| b.id == id)
}
