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

/// Applies `edits` (in any order) to `text`. Two inserts at one place keep their order; an edit that overlaps
/// an earlier one is dropped, so that no byte is changed twice.
pub fn apply_edits(text: &[u8], edits: &[Edit]) -> Vec<u8> {
    let mut ordered: Vec<&Edit> = edits.iter().collect();
    ordered.sort_by_key(|edit| (edit.span.start, edit.span.end));
    let mut out = Vec::with_capacity(text.len() + 64);
    let mut done = 0usize;
    for edit in ordered {
        let (start, end) = (edit.span.start as usize, edit.span.end as usize);
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn replaces_inserts_and_deletes() {
        let edit = |start, end, text: &str| Edit { span: Span::new(start, end), text: text.into(), what: "" };
        let edits = [edit(4, 5, ""), edit(0, 1, "B"), edit(2, 2, "-"), edit(4, 6, "lost")];
        assert_eq!(apply_edits(b"abcdef", &edits), b"Bb-cdf");
    }
}
