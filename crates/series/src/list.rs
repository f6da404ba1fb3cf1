//! Shot lists and what must agree over a series, as rows of `data/shot_lists.toml`.

use lightset::cautions::caution_named;
use serde::{Deserialize, Serialize};
use std::sync::LazyLock;
use utoipa::ToSchema;

#[derive(Deserialize)]
struct Tables {
    list: Vec<ShotList>,
    agreement: Vec<Agreement>,
}

/// A row: the views of a thing or a person that are wanted, and how they lie in the frame.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct ShotList {
    /// Stable name.
    pub id: String,
    /// Name for people.
    pub name: String,
    /// What it is for.
    pub says: String,
    /// Width to height of the crop.
    #[schema(value_type = optics::geometry::Pair)]
    pub aspect: [f64; 2],
    /// How high over the lower edge of the crop the base line (of people: the eyes) lies, percent of its height.
    pub base_percent: f64,
    /// How much of the crop's height the subject takes, percent.
    pub height_percent: f64,
    /// Apertures that suit.
    #[schema(value_type = optics::geometry::Pair)]
    pub f_number: [f64; 2],
    /// A view may be taken any number of times, each of another sitter.
    #[serde(default)]
    pub repeats: bool,
    /// Views wanted.
    pub views: Vec<WantedView>,
    /// What to look at.
    pub checks: Vec<ListCheck>,
    /// What to do before.
    pub prep: Vec<Preparation>,
    /// What to lay out.
    pub props: Vec<String>,
}

/// A view that is wanted.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct WantedView {
    /// Stable name within its list.
    pub id: String,
    /// Name for people.
    pub name: String,
    /// How it is taken.
    pub says: String,
    /// What is drawn over the picture.
    pub guide: Guide,
    /// What must agree with the other views.
    pub judges: Vec<String>,
    /// Views of one group reach alike towards the lens: their scale and base line are compared with each other.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub group: Option<String>,
}

/// What is drawn over a picture or the view of a camera.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Guide {
    /// A box on a base line, with a middle.
    Box,
    /// The same for what is wider than high.
    Wide,
    /// From above: a middle and parallel edges.
    Above,
    /// A head, with a line for its eyes.
    Head,
    /// Thirds.
    Free,
}

/// Something to look at before a series is done.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct ListCheck {
    /// Stable name within its list.
    pub id: String,
    /// What must be so.
    pub text: String,
    /// What of the pictures answers it; a person does where this is left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub measured: Option<String>,
}

/// Something to do before the first picture.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct Preparation {
    /// What.
    pub text: String,
    /// In the table: name of a caution. As it is sent: its text.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub caution: Option<String>,
}

/// A row: something that must agree over a series.
#[derive(Debug, Clone, Deserialize)]
pub(crate) struct Agreement {
    pub id: String,
    pub name: String,
    pub unit: String,
    pub within: f64,
    pub more: String,
    pub less: String,
    pub holds: String,
}

static TABLES: LazyLock<Tables> = LazyLock::new(|| {
    let mut t: Tables = toml::from_str(include_str!("../data/shot_lists.toml")).expect("shot_lists.toml");
    for p in t.list.iter_mut().flat_map(|l| &mut l.prep) {
        p.caution = p.caution.as_ref().map(|id| caution_named(id).expect("a caution that is known").to_owned());
    }
    t
});

/// All shot lists.
pub fn shot_lists() -> &'static [ShotList] {
    &TABLES.list
}

/// The shot list with this name.
pub fn shot_list(id: &str) -> Option<&'static ShotList> {
    TABLES.list.iter().find(|l| l.id == id)
}

pub(crate) fn agreements() -> &'static [Agreement] {
    &TABLES.agreement
}

impl ShotList {
    /// The view with this name.
    pub fn view(&self, id: &str) -> Option<&WantedView> {
        self.views.iter().find(|v| v.id == id)
    }

    /// Whether it is of people: what lies on its line are eyes.
    pub fn of_people(&self) -> bool {
        self.views.iter().any(|v| v.guide == Guide::Head)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::BTreeSet;

    /// Footwear wants nine views, f/11 or so, one base line (common practice).
    #[test]
    fn footwear_has_nine_views() {
        let f = shot_list("footwear").expect("a list");
        assert_eq!(f.views.len(), 9);
        assert!(f.f_number[0] < 11.0 && 11.0 < f.f_number[1]);
        assert!(f.checks.iter().any(|c| c.measured.as_deref() == Some("base")));
    }

    #[test]
    fn rows_name_only_what_there_is() {
        let known: BTreeSet<&str> = agreements().iter().map(|a| a.id.as_str()).collect();
        assert_eq!(known.len(), agreements().len());
        let mut names = BTreeSet::new();
        for l in shot_lists() {
            assert!(names.insert(&l.id), "{} twice", l.id);
            let views: BTreeSet<&str> = l.views.iter().map(|v| v.id.as_str()).collect();
            assert_eq!(views.len(), l.views.len(), "{}", l.id);
            for j in l.views.iter().flat_map(|v| &v.judges).chain(l.checks.iter().filter_map(|c| c.measured.as_ref())) {
                assert!(known.contains(j.as_str()), "{}: {j}", l.id);
            }
            assert!(!l.prep.is_empty() && !l.props.is_empty() && l.checks.len() >= 4 && l.says.ends_with('.'));
            assert!((l.of_people() || l.base_percent + l.height_percent < 100.0) && l.aspect.iter().all(|a| *a > 0.0));
        }
        assert!(names.len() >= 10);
    }

    /// What can hurt comes with its caution and defers to local codes (the project's rules).
    #[test]
    fn preparations_carry_their_cautions() {
        let drink = shot_list("drink").expect("a list");
        let said: Vec<&str> = drink.prep.iter().filter_map(|p| p.caution.as_deref()).collect();
        let all = said.join(" ");
        for word in ["residual-current", "Dry ice", "Blades", "extinguisher", "Glass", "slippery"] {
            assert!(all.contains(word), "no {word}");
        }
        assert!(all.contains("Local codes"));
        let car = shot_list("vehicle").expect("a list");
        let all = car.prep.iter().filter_map(|p| p.caution.as_deref()).collect::<Vec<_>>().join(" ");
        for word in ["road", "hand brake", "fuel", "rigger", "police"] {
            assert!(all.contains(word), "no {word}");
        }
    }
}
