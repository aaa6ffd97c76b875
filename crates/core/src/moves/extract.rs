//! Takes a declared type out of a file that holds several, into a file of its own beside it.

use super::texts::Texts;
use super::{MoveError, names::line_end};
use ferngate_model::{Edit, FileFacts, ProjectPath, ScopeKind, Span};

/// Splits declaration `at` off the file at `path` into a new text for `new`; returns that text.
pub fn extract(
    texts: &mut Texts,
    path: &ProjectPath,
    facts: &FileFacts,
    at: u32,
) -> Result<Vec<u8>, MoveError> {
    let text = texts.get(path)?.to_vec();
    let declaration = &facts.declarations[at as usize];
    let span = with_comments(&text, declaration.span);
    let newline = line_end(&text);
    let mut out: Vec<u8> = Vec::new();
    if text.starts_with(b"\xEF\xBB\xBF") {
        out.extend_from_slice(b"\xEF\xBB\xBF");
    }
    let imports_of =
        |scope: u32| facts.imports.iter().filter(move |import| import.scope == scope && !import.global);
    for import in imports_of(0) {
        out.extend_from_slice(import.span.of(&text));
        out.extend_from_slice(newline.as_bytes());
    }
    let body = span.of(&text);
    let body = body.strip_suffix(newline.as_bytes()).unwrap_or(body);
    match namespace_around(facts, declaration.scope) {
        Some((scope, name, to_end)) => {
            if !out.is_empty() {
                out.extend_from_slice(newline.as_bytes());
            }
            let head = format!("namespace {}", String::from_utf8_lossy(name.of(&text)));
            out.extend_from_slice(head.as_bytes());
            if to_end {
                out.extend_from_slice(format!(";{newline}{newline}").as_bytes());
                for import in imports_of(scope) {
                    out.extend_from_slice(import.span.of(&text));
                    out.extend_from_slice(newline.as_bytes());
                }
                out.extend_from_slice(body);
                out.extend_from_slice(newline.as_bytes());
            } else {
                out.extend_from_slice(brace_style(&text, name, newline).as_bytes());
                for import in imports_of(scope) {
                    out.extend_from_slice(b"    ");
                    out.extend_from_slice(import.span.of(&text));
                    out.extend_from_slice(newline.as_bytes());
                }
                out.extend_from_slice(body);
                out.extend_from_slice(format!("{newline}}}{newline}").as_bytes());
            }
        }
        None => {
            out.extend_from_slice(body);
            out.extend_from_slice(newline.as_bytes());
        }
    }
    let name = String::from_utf8_lossy(declaration.name_span.of(&text)).into_owned();
    texts.edit(
        path,
        Edit { span: with_blank_line(&text, span), text: String::new(), what: "type taken out" },
        name,
    );
    Ok(out)
}

/// The innermost namespace around `scope`: its index, its written name, and whether it has no braces.
fn namespace_around(facts: &FileFacts, scope: u32) -> Option<(u32, Span, bool)> {
    let mut at = scope;
    loop {
        let found = facts.scopes.get(at as usize)?;
        if let ScopeKind::Namespace { name, to_end, .. } = &found.kind {
            return Some((at, *name, *to_end));
        }
        if found.parent == at {
            return None;
        }
        at = found.parent;
    }
}

/// How the file opens the braces of a namespace: on the same line or on the next.
fn brace_style(text: &[u8], name: Span, newline: &str) -> String {
    let after = &text[name.end as usize..];
    let brace = after.iter().position(|&byte| byte == b'{').unwrap_or(0);
    if after[..brace].contains(&b'\n') { format!("{newline}{{{newline}") } else { format!(" {{{newline}") }
}

/// A declaration's lines with the comments directly above it.
pub fn with_comments(text: &[u8], span: Span) -> Span {
    let line_start =
        |at: usize| text[..at].iter().rposition(|&byte| byte == b'\n').map_or(0, |newline| newline + 1);
    let mut start = line_start(span.start as usize);
    if !text[start..span.start as usize].iter().all(u8::is_ascii_whitespace) {
        start = span.start as usize;
    }
    while start > 0 && text[start - 1] == b'\n' {
        let above = line_start(start - 1);
        if !text[above..start].trim_ascii_start().starts_with(b"//") {
            break;
        }
        start = above;
    }
    let mut end = span.end as usize;
    while matches!(text.get(end), Some(b' ' | b'\t' | b'\r' | b';')) {
        end += 1;
    }
    if text.get(end) == Some(&b'\n') {
        end += 1;
    } else {
        end = span.end as usize;
    }
    Span::new(start, end)
}

/// With one blank line before it, or behind it where it comes first.
fn with_blank_line(text: &[u8], span: Span) -> Span {
    let before = &text[..span.start as usize];
    let trimmed = before.strip_suffix(b"\r\n").or_else(|| before.strip_suffix(b"\n"));
    if let Some(trimmed) = trimmed
        && (trimmed.ends_with(b"\n") || trimmed.ends_with(b"\r\n"))
    {
        return Span::new(trimmed.len(), span.end as usize);
    }
    let after = &text[span.end as usize..];
    let blank = if after.starts_with(b"\r\n") { 2 } else { usize::from(after.starts_with(b"\n")) };
    Span::new(span.start as usize, span.end as usize + blank)
}
