//! Reads XML-like text with the byte place of every tag and attribute, and goes on after mistakes.
//!
//! An edit touches only the bytes that must change, so the readers of manifests and markup need places, which the
//! XML libraries do not give for attribute values; this reader gives nothing else.

use ferngate_model::Span;
use memchr::{memchr, memmem};

/// An attribute.
#[derive(Clone, Copy, Debug)]
pub struct Attribute {
    /// Its name with any prefix.
    pub name: Span,
    /// Its value without the quotes, entities as written.
    pub value: Span,
}

/// A piece of a document.
#[derive(Clone, Debug)]
pub enum Piece {
    /// `<name …>` or `<name …/>`
    Open {
        /// The element's name with any prefix.
        name: Span,
        /// Its attributes in order.
        attributes: Vec<Attribute>,
        /// It has no content.
        empty: bool,
        /// The whole tag.
        span: Span,
    },
    /// `</name>`
    Close {
        /// The element's name.
        name: Span,
        /// The whole tag.
        span: Span,
    },
    /// What stands between tags, if it is more than blanks.
    Text(Span),
}

/// All pieces of `text` in order; comments, declarations and processing instructions are left out.
pub fn pieces(text: &[u8]) -> Vec<Piece> {
    let mut found = Vec::new();
    let mut at = 0;
    while at < text.len() {
        let next = memchr(b'<', &text[at..]).map_or(text.len(), |offset| at + offset);
        if !text[at..next].iter().all(u8::is_ascii_whitespace) {
            found.push(Piece::Text(Span::new(at, next)));
        }
        if next == text.len() {
            break;
        }
        at = tag(text, next, &mut found);
    }
    found
}

/// Reads what begins at the `<` at `start` and returns where to go on.
fn tag(text: &[u8], start: usize, found: &mut Vec<Piece>) -> usize {
    let rest = &text[start..];
    let past =
        |mark: &[u8]| memmem::find(rest, mark).map_or(text.len(), |offset| start + offset + mark.len());
    if rest.starts_with(b"<!--") {
        return past(b"-->");
    }
    if rest.starts_with(b"<![CDATA[") {
        let end = past(b"]]>");
        found.push(Piece::Text(Span::new((start + 9).min(end), end.saturating_sub(3).max(start))));
        return end;
    }
    if rest.starts_with(b"<?") || rest.starts_with(b"<!") {
        return past(b">");
    }
    let closes = rest.get(1) == Some(&b'/');
    let name = word(text, start + 1 + usize::from(closes));
    if name.is_empty() {
        found.push(Piece::Text(Span::new(start, start + 1)));
        return start + 1;
    }
    let (attributes, empty, end) = attributes(text, name.end as usize);
    let span = Span::new(start, end);
    found.push(if closes {
        Piece::Close { name, span }
    } else {
        Piece::Open { name, attributes, empty, span }
    });
    end
}

fn word(text: &[u8], start: usize) -> Span {
    let length = text[start.min(text.len())..]
        .iter()
        .take_while(|&&b| {
            b.is_ascii_alphanumeric() || matches!(b, b'_' | b':' | b'.' | b'-' | b'@') || b >= 0x80
        })
        .count();
    Span::new(start, start + length)
}

fn attributes(text: &[u8], start: usize) -> (Vec<Attribute>, bool, usize) {
    let (mut found, mut at) = (Vec::new(), start);
    loop {
        match text.get(at) {
            None => return (found, false, text.len()),
            Some(b'>') => return (found, false, at + 1),
            Some(b'/') if text.get(at + 1) == Some(&b'>') => return (found, true, at + 2),
            Some(b'<') => return (found, false, at),
            _ => {}
        }
        let name = word(text, at);
        if name.is_empty() {
            at += 1;
            continue;
        }
        at = skip_blanks(text, name.end as usize);
        if text.get(at) != Some(&b'=') {
            continue;
        }
        at = skip_blanks(text, at + 1);
        if let Some(&quote @ (b'"' | b'\'')) = text.get(at) {
            let end = memchr(quote, &text[at + 1..]).map_or(text.len(), |offset| at + 1 + offset);
            found.push(Attribute { name, value: Span::new(at + 1, end) });
            at = (end + 1).min(text.len());
        }
    }
}

fn skip_blanks(text: &[u8], at: usize) -> usize {
    at + text[at.min(text.len())..].iter().take_while(|byte| byte.is_ascii_whitespace()).count()
}

/// `text` with the five named entities replaced.
pub fn decode(text: &[u8]) -> String {
    let text = String::from_utf8_lossy(text);
    if !text.contains('&') {
        return text.into_owned();
    }
    text.replace("&lt;", "<")
        .replace("&gt;", ">")
        .replace("&quot;", "\"")
        .replace("&apos;", "'")
        .replace("&amp;", "&")
}

/// The local part of a name: behind its prefix.
pub fn local_name(name: &[u8]) -> &[u8] {
    memchr(b':', name).map_or(name, |at| &name[at + 1..])
}

/// `span` with the blanks before it on its line and the line end behind it, where it stands alone on its lines.
pub fn whole_lines(text: &[u8], span: Span) -> Span {
    let (mut start, mut end) = (span.start as usize, span.end as usize);
    while start > 0 && matches!(text[start - 1], b' ' | b'\t') {
        start -= 1;
    }
    let begins_line = start == 0 || text[start - 1] == b'\n';
    while matches!(text.get(end), Some(b' ' | b'\t' | b'\r')) {
        end += 1;
    }
    match text.get(end) {
        Some(b'\n') if begins_line => Span::new(start, end + 1),
        _ => span,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_broken_documents_to_the_end() {
        let text = br#"<a x="1" y><!-- <no/> --><b z='2'/>text</a><<c q="open"#;
        let names: Vec<String> = pieces(text)
            .iter()
            .map(|piece| match piece {
                Piece::Open { name, attributes, .. } => {
                    format!("{}{}", String::from_utf8_lossy(name.of(text)), attributes.len())
                }
                Piece::Close { name, .. } => format!("/{}", String::from_utf8_lossy(name.of(text))),
                Piece::Text(span) => format!("'{}'", String::from_utf8_lossy(span.of(text))),
            })
            .collect();
        assert_eq!(names, ["a1", "b1", "'text'", "/a", "'<'", "c1"]);
    }

    #[test]
    fn takes_the_line_of_an_element_that_stands_alone() {
        let text = b"<a>\r\n  <b/>\r\n</a>";
        assert_eq!(whole_lines(text, Span::new(7, 11)).of(text), b"  <b/>\r\n");
        assert_eq!(whole_lines(b"<a><b/></a>", Span::new(3, 7)), Span::new(3, 7));
    }
}
