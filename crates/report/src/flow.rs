//! Text set into a column: broken where words end, from whichever side its script runs.

use crate::halo::r1;
use maud::{Markup, html};
use unicode_bidi::{Direction, get_base_direction};

/// How a text is set.
#[derive(Clone, Copy)]
pub(crate) struct Style {
    pub size: f64,
    pub bold: bool,
    pub colour: &'static str,
    /// Room above, pixels.
    pub above: f64,
    /// Indent, pixels.
    pub indent: f64,
}

pub(crate) const BODY: Style = Style { size: 11.0, bold: false, colour: "#1d1b18", above: 3.0, indent: 0.0 };
pub(crate) const SMALL: Style = Style { size: 8.6, bold: false, colour: "#55504a", above: 2.0, indent: 0.0 };
pub(crate) const HEAD: Style = Style { size: 12.5, bold: true, colour: "#1d1b18", above: 9.0, indent: 0.0 };
pub(crate) const ITEM: Style = Style { indent: 16.0, ..BODY };

/// Lines of a text in a width.
pub(crate) fn lines(text: &str, style: Style, width: f64) -> Vec<String> {
    let measure = |t: &str| pictures::text_width(t, style.size, style.bold);
    let mut out = vec![String::new()];
    for word in text.split_whitespace() {
        let mut word = word.to_owned();
        loop {
            let last = out.last_mut().expect("a line");
            let joined = if last.is_empty() { word.clone() } else { format!("{last} {word}") };
            if measure(&joined) <= width {
                *last = joined;
                break;
            }
            if !last.is_empty() {
                out.push(String::new());
                continue;
            }
            // a word wider than the column is broken
            let mut head = String::new();
            for c in word.chars() {
                head.push(c);
                if measure(&head) > width && head.chars().count() > 1 {
                    head.pop();
                    break;
                }
            }
            word = word[head.len()..].to_owned();
            *last = head;
            out.push(String::new());
            if word.is_empty() {
                break;
            }
        }
    }
    if out.len() > 1 && out.last().is_some_and(String::is_empty) {
        out.pop();
    }
    out
}

/// A column that fills from above.
pub(crate) struct Column {
    pub x: f64,
    pub y: f64,
    pub width: f64,
    pub bottom: f64,
    pub drawn: Vec<Markup>,
}

impl Column {
    pub fn new(x: f64, y: f64, width: f64, bottom: f64) -> Column {
        Column { x, y, width, bottom, drawn: Vec::new() }
    }

    /// Height a text takes.
    pub fn height(&self, text: &str, style: Style) -> f64 {
        style.above + lines(text, style, self.width - style.indent).len() as f64 * style.size * 1.32
    }

    pub fn has_room(&self, height: f64) -> bool {
        self.y + height <= self.bottom
    }

    /// Sets a text whole; `false` if there is no room for all of it.
    pub fn text(&mut self, text: &str, style: Style) -> bool {
        if !self.has_room(self.height(text, style)) {
            return false;
        }
        let right = get_base_direction(text) == Direction::Rtl;
        self.y += style.above;
        for line in lines(text, style, self.width - style.indent) {
            self.y += style.size * 1.32;
            let x = if right { self.x + self.width } else { self.x + style.indent };
            let weight = if style.bold { "bold" } else { "normal" };
            self.drawn.push(html! {
                text x=(r1(x)) y=(r1(self.y - 0.28 * style.size)) font-size=(style.size) font-weight=(weight) fill=(style.colour) text-anchor=(if right { "end" } else { "start" }) { (line) }
            });
        }
        true
    }

    /// Sets as much of a list as there is room for, one line kept for what is left; how many were left out.
    pub fn list(&mut self, items: &[String], style: Style, more: &str) -> usize {
        let line = style.above + style.size * 1.32;
        for (i, item) in items.iter().enumerate() {
            let last = i + 1 == items.len();
            let need = self.height(item, style) + if last { 0.0 } else { line };
            if !self.has_room(need) || !self.text(item, style) {
                let left = items.len() - i;
                self.text(&format!("{left} {more}"), Style { colour: SMALL.colour, ..style });
                return left;
            }
        }
        0
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn text_is_broken_between_words_and_long_words_within() {
        let text = "the key lies a little lower than the reference has it";
        let all = lines(text, BODY, 120.0);
        assert!(all.len() > 2 && all.join(" ") == text, "{all:?}");
        assert!(all.iter().all(|l| pictures::text_width(l, BODY.size, false) <= 120.0));
        let long = "x".repeat(100);
        let broken = lines(&long, BODY, 80.0);
        assert!(broken.len() > 4 && broken.concat() == long, "{broken:?}");
        assert_eq!(lines("", BODY, 80.0), [""]);
    }

    #[test]
    fn a_column_says_what_it_left_out() {
        let mut c = Column::new(0.0, 0.0, 200.0, 60.0);
        let items: Vec<String> = (0..9).map(|i| format!("item {i}")).collect();
        let left = c.list(&items, BODY, "more");
        assert!(left > 3 && left < 8, "{left}");
        assert!(c.y <= 60.0);
        assert!(c.drawn.last().is_some_and(|m| m.0.contains(&format!("{left} more"))));
    }

    #[test]
    fn hebrew_stands_at_the_right() {
        let mut c = Column::new(10.0, 0.0, 200.0, 60.0);
        assert!(c.text("\u{5d4}\u{5d0}\u{5d5}\u{5e8} \u{5e8}\u{5da}", BODY));
        assert!(c.drawn[0].0.contains("text-anchor=\"end\"") && c.drawn[0].0.contains("x=\"210\""), "{}", c.drawn[0].0);
    }
}
