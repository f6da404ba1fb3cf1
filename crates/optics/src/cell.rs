//! Texts in tables: what a spreadsheet would take for a formula is marked as a text.

/// How a formula may begin in the common spreadsheets (OWASP, CSV injection; from memory).
const FORMULA: [char; 6] = ['=', '+', '-', '@', '\t', '\r'];

/// A text that a person typed, as a cell of a table: an apostrophe before it if a spreadsheet would compute it.
pub fn cell(text: &str) -> String {
    if text.starts_with(FORMULA) { format!("'{text}") } else { text.to_owned() }
}

/// The text of a cell made by [`cell`].
pub fn text_of(cell: &str) -> &str {
    match cell.strip_prefix('\'') {
        Some(rest) if rest.starts_with(FORMULA) => rest,
        _ => cell,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn formulas_are_texts_and_come_back() {
        for t in ["=HYPERLINK(\"x\")", "+1", "-2 stops", "@sum", "\tx", "plain", "'quoted", "", "1.5 m"] {
            assert!(!cell(t).starts_with(FORMULA));
            assert_eq!(text_of(&cell(t)), t);
        }
    }
}
