//! What is kept of a series: its list, which picture is which view, what was ticked.

use crate::list::shot_list;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use utoipa::ToSchema;

/// Pictures in a series, at most.
pub const MOST_FRAMES: usize = 40;

/// A picture in its place.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Placed {
    /// View of the list.
    pub view: String,
    /// Picture of the case.
    pub frame: String,
}

/// A series as it is kept.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Series {
    /// Its shot list; empty before one was chosen.
    #[serde(default)]
    pub list: String,
    /// Pictures by view.
    #[serde(default)]
    pub placed: Vec<Placed>,
    /// Checks a person ticked.
    #[serde(default)]
    pub ticked: Vec<String>,
    /// Preparations that are done and props that lie ready, as their texts.
    #[serde(default)]
    pub ready: Vec<String>,
    /// What a person notes.
    #[serde(default)]
    pub note: String,
}

impl Series {
    /// Checks what was sent.
    ///
    /// # Errors
    /// A sentence that names the field.
    pub fn check(&self) -> Result<(), String> {
        let list = match self.list.as_str() {
            "" => None,
            id => Some(shot_list(id).ok_or_else(|| format!("list: there is no shot list \"{id}\""))?),
        };
        if self.placed.len() > MOST_FRAMES {
            return Err(format!("placed: expected at most {MOST_FRAMES} pictures, found {}", self.placed.len()));
        }
        if self.ticked.len() > 60 || self.ready.len() > 120 || self.note.len() > 4000 {
            return Err("The series says more than can be kept: at most 60 ticks, 120 things and 4000 letters.".into());
        }
        if self.ticked.iter().chain(&self.ready).any(|t| t.len() > 400) {
            return Err("ticked, ready: expected at most 400 letters each".into());
        }
        if self.placed.iter().any(|p| p.frame.len() > 64) {
            return Err("placed: expected the id of a picture".into());
        }
        let mut frames = BTreeSet::new();
        let mut views = BTreeSet::new();
        for p in &self.placed {
            if !frames.insert(&p.frame) {
                return Err("placed: one picture stands for two views".into());
            }
            let Some(list) = list else { return Err("placed: choose a shot list first".into()) };
            if list.view(&p.view).is_none() {
                return Err(format!("placed: the list \"{}\" has no view \"{}\"", list.id, p.view));
            }
            if !views.insert(&p.view) && !list.repeats {
                return Err(format!("placed: two pictures stand for the view \"{}\"", p.view));
            }
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn placed(view: &str, frame: &str) -> Placed {
        Placed { view: view.into(), frame: frame.into() }
    }

    #[test]
    fn a_series_is_checked_field_by_field() {
        let s = |list: &str, placed: Vec<Placed>| Series { list: list.into(), placed, ..Series::default() }.check();
        assert!(s("", vec![]).is_ok());
        assert!(s("bottle", vec![placed("front", "a"), placed("back", "b")]).is_ok());
        assert!(s("spoon", vec![]).unwrap_err().contains("spoon"));
        assert!(s("bottle", vec![placed("sole", "a")]).unwrap_err().contains("sole"));
        assert!(s("bottle", vec![placed("front", "a"), placed("front", "b")]).unwrap_err().contains("two pictures"));
        assert!(s("bottle", vec![placed("front", "a"), placed("back", "a")]).unwrap_err().contains("one picture"));
        assert!(s("portrait-series", vec![placed("sitter", "a"), placed("sitter", "b")]).is_ok());
        let many = (0..50).map(|i| placed("sitter", &i.to_string())).collect();
        assert!(s("portrait-series", many).unwrap_err().contains("at most 40"));
        assert!(s("", vec![placed("front", "a")]).unwrap_err().contains("choose"));
    }
}
