use crate::Span;

/// One change to the bytes of a file: `span` of the old text becomes `text`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Edit {
    /// What is replaced, in the old text; empty to insert.
    pub span: Span,
    /// What stands there afterwards; empty to delete.
    pub text: String,
    /// What sort of change this is, in the words that the preview counts: "using added".
    pub what: &'static str,
}

/// Applies `edits` (in any order) to `text`. Two inserts at one place keep their order; one inside of what is deleted
/// stands before that; any other edit that overlaps an earlier one is dropped, so that no byte is changed twice.
pub fn apply_edits(text: &[u8], edits: &[Edit]) -> Vec<u8> {
    let placed = edits.iter().map(|edit| (place(text, edit, edits), edit));
    let mut ordered: Vec<((usize, usize), &Edit)> = placed.collect();
    ordered.sort_by_key(|(place, _)| *place);
    let mut out = Vec::with_capacity(text.len() + 64);
    let mut done = 0usize;
    for ((start, end), edit) in ordered {
        if start < done || end > text.len() {
            continue;
        }
        out.extend_from_slice(&text[done..start]);
        out.extend_from_slice(edit.text.as_bytes());
        done = end;
    }
    out.extend_from_slice(&text[done..]);
    out
}

/// Where `edit` starts and ends. What is inserted as a line of its own, behind an element that goes, stands behind the
/// line before that.
fn place(text: &[u8], edit: &Edit, edits: &[Edit]) -> (usize, usize) {
    let at = edit.span.start;
    let is_around = |other: &&Edit| {
        other.text.is_empty() && (other.span.start..other.span.end).contains(&at) && other.span.start < at
    };
    let Some(around) = edits.iter().find(is_around).filter(|_| edit.span.is_empty()) else {
        return (at as usize, edit.span.end as usize);
    };
    let mut start = around.span.start as usize;
    if edit.text.starts_with(['\n', '\r']) {
        let before = &text[..start.min(text.len())];
        let line = before.strip_suffix(b"\n").unwrap_or(before);
        start = line.strip_suffix(b"\r").unwrap_or(line).len();
    }
    (start, start)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn replaces_inserts_and_deletes() {
        let edit = |start, end, text: &str| Edit { span: Span::new(start, end), text: text.into(), what: "" };
        let edits = [edit(4, 5, ""), edit(0, 1, "B"), edit(2, 2, "-"), edit(4, 6, "lost")];
        assert_eq!(apply_edits(b"abcdef", &edits), b"Bb-cdf");
    }

    #[test]
    fn inserts_where_something_goes() {
        let edit = |start, end, text: &str| Edit { span: Span::new(start, end), text: text.into(), what: "" };
        let edits = [edit(7, 13, ""), edit(12, 12, "\n  <b>")];
        assert_eq!(apply_edits(b"<g>\r\n  \n  <a>\n</g>", &edits), b"<g>\r\n  \n  <b>\n</g>");
        assert_eq!(apply_edits(b"<g>abc", &[edit(3, 6, ""), edit(4, 4, "x")]), b"<g>x");
        assert_eq!(apply_edits(b"abc", &[edit(1, 2, ""), edit(1, 1, "x"), edit(2, 2, "y")]), b"axyc");
    }
}
