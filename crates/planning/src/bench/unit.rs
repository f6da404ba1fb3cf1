//! Units of figures on the bench.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Unit of a figure, under the name it has in tables and answers.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "lowercase")]
pub enum Unit {
    /// Metres.
    M,
    /// Millimetres.
    Mm,
    /// Stops.
    Stops,
    /// Stops from full power, as a lamp writes them.
    Power,
    /// f-number.
    F,
    /// Seconds.
    S,
    /// ISO speed.
    Iso,
    /// Degrees.
    Deg,
    /// Lux.
    Lux,
    /// Lux seconds.
    #[serde(rename = "lux s")]
    LuxSeconds,
    /// A share of one.
    Share,
    /// Joules.
    Joules,
    /// A mere number.
    Number,
    /// Pixels.
    Px,
    /// Which of the choices, from 0.
    Choice,
    /// Per cent.
    Percent,
    /// Metres a second.
    #[serde(rename = "m/s")]
    MetresASecond,
}

impl Unit {
    /// Whether its spread is told as a share of the figure: what tapes and meters read.
    pub fn is_relative(self) -> bool {
        matches!(self, Unit::M | Unit::Mm | Unit::F | Unit::Lux | Unit::S | Unit::Iso | Unit::Joules)
    }

    /// The word behind a figure in a sentence; empty where none stands there.
    pub fn word(self) -> &'static str {
        match self {
            Unit::M => "metres",
            Unit::Mm => "millimetres",
            Unit::S => "seconds",
            Unit::Deg => "degrees",
            Unit::Px => "pixels",
            Unit::Power => "stops from full",
            Unit::Stops => "stops",
            Unit::Lux => "lux",
            Unit::LuxSeconds => "lux seconds",
            Unit::Joules => "joules",
            Unit::Percent => "per cent",
            Unit::MetresASecond => "metres a second",
            Unit::F | Unit::Iso | Unit::Number | Unit::Share | Unit::Choice => "",
        }
    }
}
