//! How a student comes on from one assignment to the next.

use crate::distance::{Distance, PartKind};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What to practise for a part of the distance (common practice).
pub fn practised(part: PartKind) -> &'static str {
    match part {
        PartKind::Direction => {
            "Place one hard light by the shadow of the nose and the clock of the catchlight, then check it on the halo."
        }
        PartKind::Size => {
            "Tell hard from soft by the width of a shadow's edge: the same lamp at one, two and four times its distance."
        }
        PartKind::Contrast => "Set 2:1, 4:1 and 8:1 by eye, then meter lit and shadow side.",
        PartKind::Levels => "Build it light by light: each alone, in stops against the key, then together.",
        PartKind::Colour => {
            "White balance on a grey card in the key's light, then judge the other lights against it in mired."
        }
        PartKind::Exposure => "Say the exposure before you meter, from the light's level at the subject.",
    }
}

/// One part over the assignments of a student.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PartCourse {
    /// Which part.
    pub kind: PartKind,
    /// Unit of the values.
    pub unit: String,
    /// A difference of this much is seen at once.
    pub step: f64,
    /// Values by assignment, in their order, picture minus reference; absent where it was not told.
    pub values: Vec<Option<f64>>,
    /// One standard deviation of each.
    pub spreads: Vec<Option<f64>>,
    /// How it comes on, in words; absent for fewer than two.
    pub says: Option<String>,
}

/// How a student comes on.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
pub struct Course {
    /// The parts that were told at least once.
    pub parts: Vec<PartCourse>,
    /// Part in which the newest picture is farthest off, in steps that one sees, with what to practise.
    pub practise: Option<String>,
}

/// A newest part under this many steps needs no practice.
const WELL_STEPS: f64 = 1.0;

fn come_on(kind: PartKind, told: &[(f64, f64)], unit: &str) -> Option<String> {
    let ((first, sd_first), (last, sd_last)) = (*told.first()?, *told.last()?);
    if told.len() < 2 {
        return None;
    }
    let (before, now) = (first.abs(), last.abs());
    let spread = sd_first.hypot(sd_last);
    let word = if (before - now).abs() <= spread.max(kind.step().0 / 4.0) {
        "about as far off"
    } else if now < before {
        "nearer"
    } else {
        "farther off"
    };
    let digits = usize::from(now.max(before) < 9.95);
    Some(format!("{}: {word}, {before:.digits$} then {now:.digits$} {unit} (\u{b1} {spread:.digits$}).", kind.word()))
}

/// How a student comes on over assignments in their order; `None` for what was not handed in or not compared.
pub fn course(all: &[Option<Distance>]) -> Course {
    let part = |kind: PartKind| {
        let found = |d: &Option<Distance>| d.as_ref().and_then(|d| d.part(kind)).map(|p| (p.value, p.sd));
        let rows: Vec<Option<(f64, f64)>> = all.iter().map(found).collect();
        let told: Vec<(f64, f64)> = rows.iter().flatten().copied().collect();
        let unit = kind.step().1;
        (!told.is_empty()).then(|| PartCourse {
            kind,
            unit: unit.into(),
            step: kind.step().0,
            values: rows.iter().map(|r| r.map(|v| v.0)).collect(),
            spreads: rows.iter().map(|r| r.map(|v| v.1)).collect(),
            says: come_on(kind, &told, unit),
        })
    };
    let newest = all.iter().rev().flatten().find(|d| !d.parts.is_empty());
    let worst = newest.and_then(|d| d.parts.iter().max_by(|a, b| a.steps.total_cmp(&b.steps)));
    Course {
        parts: PartKind::ALL.into_iter().filter_map(part).collect(),
        practise: worst
            .filter(|p| p.steps > WELL_STEPS)
            .map(|p| format!("{} Last time: {}.", practised(p.kind), p.says)),
    }
}
