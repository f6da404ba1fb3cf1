//! Texts in tables: what a spreadsheet would take for a formula is marked as a text.

/// How a formula may begin in the common spreadsheets (OWASP, CSV injection; from memory).
const FORMULA: [char; 6] = ['=', '+', '-', '@', '\t', '\r'];

/// Whether a text is a formula, or one that was marked as a text already.
fn would_be_formula(text: &str) -> bool {
    text.trim_start_matches('\'').starts_with(FORMULA)
}

/// A text that a person typed, as a cell of a table: an apostrophe before it if a spreadsheet would compute it.
pub fn cell(text: &str) -> String {
    if would_be_formula(text) { format!("'{text}") } else { text.to_owned() }
}

/// The text of a cell made by [`cell`].
pub fn text_of(cell: &str) -> &str {
    match cell.strip_prefix('\'') {
        Some(rest) if would_be_formula(rest) => rest,
        _ => cell,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn formulas_are_texts_and_come_back() {
        for t in
            ["=HYPERLINK(\"x\")", "+1", "-2 stops", "@sum", "\tx", "plain", "'quoted", "'=1", "''-2", "'", "", "1.5 m"]
        {
            assert!(!cell(t).starts_with(FORMULA));
            assert_eq!(text_of(&cell(t)), t);
        }
    }
}
