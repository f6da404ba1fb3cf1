//! What a comparison speaks of: its lines, their units, the kinds of moves. Each is written as the word it has in files
//! and answers.

use serde::{Deserialize, Serialize};
use std::fmt;
use std::str::FromStr;
use utoipa::ToSchema;

/// What of one light is compared.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Aspect {
    /// Its direction round the lens axis.
    Round,
    /// Its direction up.
    Up,
    /// The angle it fills.
    Size,
    /// Its level.
    Level,
    /// Its colour.
    Colour,
}

impl Aspect {
    const ALL: [Aspect; 5] = [Aspect::Round, Aspect::Up, Aspect::Size, Aspect::Level, Aspect::Colour];

    fn word(self) -> &'static str {
        match self {
            Aspect::Round => "round",
            Aspect::Up => "up",
            Aspect::Size => "angle it fills",
            Aspect::Level => "level",
            Aspect::Colour => "colour",
        }
    }
}

/// What a line of the ledger tells.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(into = "String", try_from = "String")]
pub enum Term {
    /// Exposure of the whole picture.
    Exposure,
    /// Colour of the whole picture.
    Colour,
    /// Light from all around.
    Room,
    /// Something of one light, by its role.
    Light(String, Aspect),
}

const WHOLE: [(Term, &str); 3] = [
    (Term::Exposure, "exposure of the whole picture"),
    (Term::Colour, "colour of the whole picture"),
    (Term::Room, "light from all around"),
];

impl Term {
    /// Something of one light.
    pub fn of(role: &str, aspect: Aspect) -> Term {
        Term::Light(role.to_owned(), aspect)
    }

    /// The light it is of.
    pub fn light(&self) -> Option<&str> {
        match self {
            Term::Light(role, _) => Some(role),
            _ => None,
        }
    }
}

impl fmt::Display for Term {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        match self {
            Term::Light(role, aspect) => write!(f, "{role}: {}", aspect.word()),
            whole => f.write_str(WHOLE.iter().find(|w| &w.0 == whole).map_or("", |w| w.1)),
        }
    }
}

impl FromStr for Term {
    type Err = String;

    fn from_str(text: &str) -> Result<Term, String> {
        if let Some(w) = WHOLE.iter().find(|w| w.1 == text) {
            return Ok(w.0.clone());
        }
        let (role, word) = text.rsplit_once(": ").ok_or_else(|| format!("what: \"{text}\" is no line of a ledger"))?;
        let aspect = Aspect::ALL.into_iter().find(|a| a.word() == word);
        aspect.map(|a| Term::of(role, a)).ok_or_else(|| format!("what: \"{text}\" is no line of a ledger"))
    }
}

impl From<Term> for String {
    fn from(t: Term) -> String {
        t.to_string()
    }
}

impl TryFrom<String> for Term {
    type Error = String;

    fn try_from(text: String) -> Result<Term, String> {
        text.parse()
    }
}

/// Unit of a difference.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = DifferenceUnit)]
pub enum Unit {
    /// Degrees.
    #[serde(rename = "°")]
    Degrees,
    /// A ratio.
    #[serde(rename = "×")]
    Times,
    /// Stops.
    #[serde(rename = "stops")]
    Stops,
    /// Mired.
    #[serde(rename = "mired")]
    Mired,
}

impl fmt::Display for Unit {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        f.write_str(self.symbol())
    }
}

impl Unit {
    /// How it is written.
    pub fn symbol(self) -> &'static str {
        match self {
            Unit::Degrees => "°",
            Unit::Times => "×",
            Unit::Stops => "stops",
            Unit::Mired => "mired",
        }
    }

    /// Standard deviation over which a difference is not told at all, on the scale its spread is told on (ours).
    pub fn widest_sd(self) -> f64 {
        match self {
            Unit::Degrees | Unit::Mired => 60.0,
            Unit::Times | Unit::Stops => 3.0,
        }
    }

    /// A difference on the scale its spread is told on: ratios by their logarithm.
    pub fn scale(self, difference: f64) -> f64 {
        if self == Unit::Times { difference.max(1e-6).ln() } else { difference }
    }
}

/// Kinds of changes that bring a take nearer to its reference.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum MoveKind {
    /// All lights alike, or the camera.
    Exposure,
    /// The camera's balance, or all lights' colour alike.
    WhiteBalance,
    /// A light stands elsewhere.
    Direction,
    /// A light is larger or smaller.
    Size,
    /// A light is stronger or weaker.
    Level,
    /// A light has another colour.
    Colour,
    /// A light is missing.
    Add,
    /// A light is there that should not be.
    Remove,
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn terms_are_written_and_read() {
        for text in ["exposure of the whole picture", "light from all around", "key: round", "fill 2: angle it fills"] {
            let t: Term = text.parse().expect("a term");
            assert_eq!(t.to_string(), text);
            assert_eq!(serde_json::from_str::<Term>(&serde_json::to_string(&t).unwrap()).unwrap(), t);
        }
        assert_eq!("fill 2: level".parse::<Term>().unwrap().light(), Some("fill 2"));
        assert!("key: mood".parse::<Term>().is_err() && "mood".parse::<Term>().is_err());
        assert_eq!("colour of the whole picture".parse::<Term>().unwrap().light(), None);
    }
}
