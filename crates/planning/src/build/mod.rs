//! Building a set: the order of work, what to do at each step, the meter reading to expect, and what a
//! reading that differs says.

mod cautions;
mod lamps;
mod one_lamp;
mod packing;
mod steps;

pub use cautions::kit_cautions;
pub use lamps::{LampPlan, Moving, WayOut, lamp_plan, values_of};
pub use one_lamp::{OneLampPlan, OneLampStep, one_lamp};
pub use packing::{MainsLoad, PackLine, Packing, packing};
pub use steps::{build, explain};

use optics::role::Role;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};
use utoipa::ToSchema;

/// Which light comes first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum FirstLight {
    /// Key, fill, separation, background.
    #[default]
    Key,
    /// Background and its exposure, then the subject.
    Background,
}

/// What was done and measured while building.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct BuildLog {
    /// Order of work.
    #[serde(default)]
    pub first: FirstLight,
    /// Lamp for each light, by the light's name: an id of the kit.
    #[serde(default)]
    pub lamps: BTreeMap<String, String>,
    /// Steps ticked off.
    #[serde(default)]
    pub done: BTreeSet<String>,
    /// Aperture the meter showed, by step.
    #[serde(default)]
    pub measured: BTreeMap<String, f64>,
    /// Notes, by step.
    #[serde(default)]
    pub notes: BTreeMap<String, String>,
}

impl BuildLog {
    /// Says which entry is out of range, if any.
    ///
    /// # Errors
    /// One sentence.
    pub fn check(&self) -> Result<(), String> {
        if self.lamps.len() + self.done.len() + self.measured.len() + self.notes.len() > 400 {
            return Err("the build log holds at most 400 entries".into());
        }
        for (step, f) in &self.measured {
            if !(f.is_finite() && (0.3..=512.0).contains(f)) {
                return Err(format!("measured, step {step}: expected an aperture from 0.3 to 512, found {f}"));
            }
        }
        if let Some((step, _)) = self.notes.iter().find(|(_, n)| n.chars().count() > 2000) {
            return Err(format!("notes, step {step}: expected at most 2000 characters"));
        }
        Ok(())
    }
}

/// One step of the work.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct BuildStep {
    /// Stable name.
    pub id: String,
    /// In a few words.
    pub title: String,
    /// Role of its light, for its mark.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub role: Option<Role>,
    /// What to do, in order.
    pub does: Vec<String>,
    /// Names of the lights that burn in this step's picture.
    pub lit: Vec<String>,
    /// Aperture a meter turned to the light, or a dome turned to the lens, should show.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub expect_f: Option<f64>,
    /// The nearest third stop.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub expect_nominal: Option<f64>,
    /// Spread of that in stops: meter, tape, and what the lamp's output is known to.
    pub expect_sd_stops: f64,
    /// How to hold the meter.
    pub hold: String,
    /// What to look for in the test picture.
    pub watch: Vec<String>,
    /// Ticked off.
    pub done: bool,
    /// What the meter showed.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub measured_f: Option<f64>,
    /// What that says.
    pub explains: Vec<String>,
    /// Note.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<String>,
}

/// How to build a set.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct BuildPlan {
    /// Steps in order.
    pub steps: Vec<BuildStep>,
    /// The lamp of each light with its power.
    pub lamps: Vec<LampPlan>,
    /// Camera and exposure in sentences.
    pub exposure: Vec<String>,
    /// What cannot be done as it stands.
    pub problems: Vec<String>,
    /// Cautions, once each.
    pub cautions: Vec<String>,
    /// The set as a slant line.
    pub slant: String,
    /// What to take along, counted against the kit.
    pub packing: Packing,
}
