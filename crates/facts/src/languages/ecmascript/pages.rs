//! Script blocks of pages and components: `<script>` elements and what their `src` names, and the style sheets that a
//! page links.

use super::reader;
use ferngate_model::{PathBase, Recorder, Span};
use memchr::memmem;

/// Reads the scripts of the page `text`.
pub fn read(text: &[u8], recorder: &mut Recorder) {
    let mut at = 0;
    while let Some(found) = memmem::find(&text[at..], b"<") {
        let open = at + found;
        let rest = &text[open..];
        if rest.starts_with(b"<!--") {
            at = memmem::find(rest, b"-->").map_or(text.len(), |end| open + end + 3);
            continue;
        }
        at = open + 1;
        if begins(rest, b"link") {
            let length = memchr::memchr(b'>', rest).unwrap_or(rest.len());
            if is_sheet(&rest[..length]) {
                source(text, open..open + length, b"href", recorder);
            }
            at = open + length;
            continue;
        }
        if !begins(rest, b"script") {
            continue;
        }
        let Some(length) = memchr::memchr(b'>', rest) else { return };
        let tag = &rest[..length];
        let begin = open + length + 1;
        if tag.ends_with(b"/") {
            source(text, open..open + length, b"src", recorder);
            at = begin;
            continue;
        }
        let end = end_of_script(text, begin);
        source(text, open..open + length, b"src", recorder);
        if holds_code(tag) {
            reader::read(text, begin..end, recorder);
        }
        at = end;
    }
}

/// Where `</script` stands next.
fn end_of_script(text: &[u8], from: usize) -> usize {
    let mut at = from;
    while let Some(found) = memmem::find(&text[at..], b"</") {
        let end = at + found;
        if text[end + 2..].len() >= 6 && text[end + 2..end + 8].eq_ignore_ascii_case(b"script") {
            return end;
        }
        at = end + 2;
    }
    text.len()
}

/// Whether a script of this opening tag is a program: data and templates are not.
fn holds_code(tag: &[u8]) -> bool {
    match attribute(tag, b"type") {
        None => true,
        Some((from, to)) => {
            let kind = String::from_utf8_lossy(&tag[from..to]).to_ascii_lowercase();
            kind.is_empty() || kind == "module" || kind.contains("script") || kind == "text/babel"
        }
    }
}

/// Whether `rest` begins with the opening tag of an element called `name`.
fn begins(rest: &[u8], name: &[u8]) -> bool {
    let follows = |byte: &u8| !byte.is_ascii_alphanumeric() && *byte != b'-';
    rest.get(1..=name.len()).is_some_and(|written| written.eq_ignore_ascii_case(name))
        && rest.get(name.len() + 1).is_some_and(follows)
}

/// Whether a link leads to what the page is made with, and not to another page.
fn is_sheet(tag: &[u8]) -> bool {
    let Some((from, to)) = attribute(tag, b"rel") else { return false };
    let relation = String::from_utf8_lossy(&tag[from..to]).to_ascii_lowercase();
    relation.split_ascii_whitespace().any(|word| matches!(word, "stylesheet" | "modulepreload"))
}

/// Notes the path that an attribute of a tag holds.
fn source(text: &[u8], tag: std::ops::Range<usize>, name: &[u8], recorder: &mut Recorder) {
    let Some((from, to)) = attribute(&text[tag.clone()], name) else { return };
    let span = Span::new(tag.start + from, tag.start + to);
    let path = String::from_utf8_lossy(&text[tag.start + from..tag.start + to]).into_owned();
    let path = path.split(['?', '#']).next().unwrap_or_default();
    if !path.is_empty() && !path.contains("://") && !path.starts_with("//") && !path.contains(['{', '<', '$'])
    {
        recorder.path(span, path, PathBase::Anywhere, false);
    }
}

/// The bytes of an attribute's value in quotes.
fn attribute(tag: &[u8], name: &[u8]) -> Option<(usize, usize)> {
    let mut from = 0;
    loop {
        let at = from + memmem::find(&tag[from..], name)?;
        from = at + name.len();
        let before = at.checked_sub(1).and_then(|before| tag.get(before));
        let mut rest = from;
        while tag.get(rest).is_some_and(u8::is_ascii_whitespace) {
            rest += 1;
        }
        if before.is_some_and(u8::is_ascii_whitespace) && tag.get(rest) == Some(&b'=') {
            rest += 1;
            while tag.get(rest).is_some_and(u8::is_ascii_whitespace) {
                rest += 1;
            }
            let quote = *tag.get(rest).filter(|quote| matches!(quote, b'"' | b'\''))?;
            let length = tag[rest + 1..].iter().position(|byte| *byte == quote)?;
            return Some((rest + 1, rest + 1 + length));
        }
    }
}
