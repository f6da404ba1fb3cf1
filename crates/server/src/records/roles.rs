//! Roles of accounts.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What a person may do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "lowercase")]
pub enum Role {
    /// Runs the installation.
    Administrator,
    /// Sets assignments and judges.
    Instructor,
    /// Everyone else.
    Student,
}

impl Role {
    /// As it is kept.
    pub(crate) fn word(self) -> &'static str {
        match self {
            Role::Administrator => "administrator",
            Role::Instructor => "instructor",
            Role::Student => "student",
        }
    }

    /// Of what is kept; a student where that is nothing known.
    pub(crate) fn of(text: &str) -> Role {
        match text {
            "administrator" => Role::Administrator,
            "instructor" => Role::Instructor,
            _ => Role::Student,
        }
    }
}
