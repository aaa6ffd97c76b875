//! The source line of a place, with a mark under it.

use crate::ui::clean;
use ferngate_model::{LineIndex, Span};
use unicode_width::UnicodeWidthStr as _;

/// A source line and a line of carets under `span`, behind `indent` blanks; nothing where the line is empty.
pub fn lines(text: &[u8], span: Span, indent: usize) -> Vec<String> {
    let index = LineIndex::new(text);
    let place = index.position(text, span.start);
    let raw = String::from_utf8_lossy(index.line_text(text, place.line)).into_owned();
    if raw.trim().is_empty() {
        return Vec::new();
    }
    let (mut line, mut column) = (raw, place.column as usize - 1);
    // Long lines are cut around the place.
    if line.chars().count() > 150 {
        let from = column.saturating_sub(60);
        line = line.chars().skip(from).take(120).collect();
        column -= from;
    }
    let before: String = clean(&line.chars().take(column).collect::<String>());
    let blanks = before.chars().count() - before.trim_start().chars().count();
    let width = String::from_utf8_lossy(span.of(text)).lines().next().map_or(1, |first| first.width().max(1));
    let shown = clean(&line);
    let shown: String = shown.chars().skip(blanks).collect();
    // Letters of some scripts are two columns wide.
    let at = before.width().saturating_sub(blanks);
    let width = width.min(shown.width().saturating_sub(at).max(1));
    let number = place.line.to_string();
    let pad = " ".repeat(indent);
    vec![
        format!("{pad}{number:>5} | {}", shown.trim_end()),
        format!("{pad}      | {}{}", " ".repeat(at), "^".repeat(width)),
    ]
}
