//! What a light is for.

use serde::{Deserialize, Serialize};
use std::fmt;
use utoipa::ToSchema;

/// What a light is for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "lowercase")]
#[schema(as = LightRole)]
pub enum Role {
    /// Shapes the subject.
    Key,
    /// Lifts the key's shadows.
    Fill,
    /// Draws an edge from behind.
    Rim,
    /// Lights what is behind the subject.
    Background,
    /// Anything else.
    Other,
}

impl Role {
    /// All of them.
    pub const ALL: [Role; 5] = [Role::Key, Role::Fill, Role::Rim, Role::Background, Role::Other];

    /// Its word.
    pub fn word(self) -> &'static str {
        match self {
            Role::Key => "key",
            Role::Fill => "fill",
            Role::Rim => "rim",
            Role::Background => "background",
            Role::Other => "other",
        }
    }

    /// The role a light's name begins with: `key`, `Fill 2`; another name says nothing.
    pub fn of_name(name: &str) -> Role {
        let first = name.split_whitespace().next().unwrap_or_default();
        Role::ALL.into_iter().find(|r| r.word().eq_ignore_ascii_case(first)).unwrap_or(Role::Other)
    }
}

impl fmt::Display for Role {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        f.pad(self.word())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_tell_roles() {
        for r in Role::ALL {
            assert_eq!(Role::of_name(&format!("{r} 2")), r);
            assert_eq!(serde_json::to_string(&r).unwrap(), format!("\"{r}\""));
        }
        assert_eq!(
            (Role::of_name("Key"), Role::of_name("keyhole"), Role::of_name("")),
            (Role::Key, Role::Other, Role::Other)
        );
    }
}
