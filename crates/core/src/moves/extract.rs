//! Takes a declared type out of a file that holds several, into a file of its own beside it.
//!
//! The new file is the old one without what it does not need: the comments at its top, the imports and namespaces that
//! the type sees, the type itself, and the conditions around any of these.

use super::MoveError;
use super::conditions::Conditions;
use super::imports::line_with_end;
use super::names::line_end;
use super::texts::Texts;
use ferngate_model::{ConditionLine, Edit, FileFacts, Language, ProjectPath, ScopeKind, Span};

/// Splits declaration `at` off the file at `path` into a new text; returns that text.
///
/// # Errors
/// Where the file cannot be read, or a condition begins inside of the type and ends outside of it.
pub fn extract(
    texts: &mut Texts,
    path: &ProjectPath,
    facts: &FileFacts,
    at: u32,
    language: &dyn Language,
) -> Result<Vec<u8>, MoveError> {
    let text = texts.get(path)?.to_vec();
    let declaration = &facts.declarations[at as usize];
    let name = String::from_utf8_lossy(declaration.name_span.of(&text)).into_owned();
    let span = with_comments(&text, declaration.span);
    let conditions = Conditions { language, text: &text }.groups();
    let is_inside = |line: &Span| span.start <= line.start && line.end <= span.end;
    let outer: Vec<_> = conditions.into_iter().filter(|group| !group.iter().all(is_inside)).collect();
    if outer.iter().flatten().any(is_inside) {
        return Err(MoveError::Torn(name));
    }
    let scope = declaration.scope;
    let out = Outline { text: &text, facts, language, span, scope, conditions: &outer }.write();
    let going = with_emptied_condition(&text, with_blank_line(&text, span), &outer);
    texts.edit(path, Edit { span: going, text: String::new(), what: "type taken out" }, name);
    Ok(out)
}

/// What the new file is made of.
struct Outline<'t> {
    text: &'t [u8],
    facts: &'t FileFacts,
    language: &'t dyn Language,
    /// The type, with the comments above it.
    span: Span,
    /// The scope around it.
    scope: u32,
    /// The conditions of the file, without those inside of the type.
    conditions: &'t [Vec<Span>],
}

/// A piece of the new file, from a place in the old one.
struct Piece {
    /// What it comes from, with its whole lines.
    from: Span,
    /// What is written, without a line end.
    text: Vec<u8>,
    sort: Sort,
}

#[derive(Clone, Copy, PartialEq, Eq)]
enum Sort {
    Import,
    /// The head of a namespace with a brace.
    Opens,
    /// The head of a namespace without one.
    Heads,
    Type,
    Closes,
    Condition,
}

impl Outline<'_> {
    fn write(&self) -> Vec<u8> {
        let mut pieces = self.imports();
        pieces.extend(self.namespaces());
        pieces.push(Piece { from: self.span, text: self.body(), sort: Sort::Type });
        let line = |line: &Span| line.of(self.text).trim_ascii_end().to_vec();
        // What is said to hold under no condition stands at the top.
        let conditions = Conditions { language: self.language, text: self.text };
        let top = self.header().len() as u32;
        let definitions = conditions.definitions().into_iter().filter(|at| at.start >= top);
        pieces.extend(definitions.map(|at| Piece { from: at, text: line(&at), sort: Sort::Condition }));
        let holds = |group: &&Vec<Span>| {
            let (first, last) = (group.first(), group.last());
            let around = first.zip(last).map(|(first, last)| first.start..last.end);
            around.is_some_and(|around| pieces.iter().any(|piece| around.contains(&piece.from.start)))
        };
        let kept: Vec<&Vec<Span>> = self.conditions.iter().filter(holds).collect();
        let conditions = kept.into_iter().flatten();
        pieces.extend(conditions.map(|at| Piece { from: *at, text: line(at), sort: Sort::Condition }));
        pieces.sort_by_key(|piece| piece.from.start);
        self.joined(&pieces)
    }

    fn joined(&self, pieces: &[Piece]) -> Vec<u8> {
        let newline = line_end(self.text).as_bytes();
        let mut out = self.header().to_vec();
        let mut last = None;
        for piece in pieces {
            if self.stands_apart(piece, last)
                && !out.is_empty()
                && !out.ends_with(&[newline, newline].concat())
            {
                out.extend_from_slice(newline);
            }
            out.extend_from_slice(&piece.text);
            out.extend_from_slice(newline);
            last = Some(piece);
        }
        out
    }

    /// Whether an empty line stands before a piece that follows `last`.
    fn stands_apart(&self, piece: &Piece, last: Option<&Piece>) -> bool {
        let between = last.and_then(|last| self.text.get(last.from.end as usize..piece.from.start as usize));
        match (last.map(|last| last.sort), piece.sort) {
            (Some(Sort::Opens), _) | (_, Sort::Closes) => false,
            (Some(Sort::Heads), _) | (Some(Sort::Import), Sort::Opens | Sort::Heads | Sort::Type) => true,
            // Where only empty lines stood between them one is left.
            (Some(Sort::Condition), Sort::Condition | Sort::Import) => {
                between.is_some_and(|between| !between.is_empty() && is_blank(between))
            }
            (Some(Sort::Type), _) => false,
            _ => is_blank(last_line(&self.text[..piece.from.start as usize])),
        }
    }

    /// The comments and other lines without code at the top, unless they belong to the first declaration, or to a section
    /// that holds more than they do.
    fn header(&self) -> &[u8] {
        let mark = if self.text.starts_with(b"\xEF\xBB\xBF") { 3 } else { 0 };
        let (mut end, mut whole, mut sections) = (mark, mark, 0usize);
        let mut in_comment = false;
        for line in self.text[mark..].split_inclusive(|&byte| byte == b'\n') {
            let bare = line.trim_ascii();
            let begins = bare.starts_with(b"/*");
            let is_idle = in_comment || begins || bare.is_empty() || bare.starts_with(b"//");
            let is_condition = self.conditions.iter().flatten().any(|at| at.start as usize == end);
            if is_condition || !(is_idle || bare.starts_with(b"#")) {
                break;
            }
            in_comment = (in_comment || begins) && !bare.ends_with(b"*/");
            end += line.len();
            match self.language.section_line(bare).filter(|_| !is_idle) {
                Some(ConditionLine::Begins) => sections += 1,
                Some(ConditionLine::Ends) => sections = sections.saturating_sub(1),
                _ => {}
            }
            if sections == 0 {
                whole = end;
            }
        }
        let end = whole;
        let declarations = self.facts.declarations.iter();
        let first = declarations.map(|declaration| with_comments(self.text, declaration.span).start).min();
        &self.text[..first.map_or(end, |first| end.min(first as usize)).max(mark)]
    }

    fn body(&self) -> Vec<u8> {
        let body = self.span.of(self.text);
        let body = body.strip_suffix(b"\n").unwrap_or(body);
        body.strip_suffix(b"\r").unwrap_or(body).to_vec()
    }

    /// The scopes around the type, innermost first, up to the file's own.
    fn around(&self) -> impl Iterator<Item = u32> {
        std::iter::successors(Some(self.scope), |at| {
            let parent = self.facts.scopes.get(*at as usize)?.parent;
            (parent != *at).then_some(parent)
        })
    }

    fn imports(&self) -> Vec<Piece> {
        let seen: Vec<u32> = self.around().collect();
        let all = self.facts.imports.iter().filter(|import| !import.global && seen.contains(&import.scope));
        let piece = |span: Span| {
            let text = [indent_of(self.text, span), span.of(self.text)].concat();
            Piece { from: line_with_end(self.text, span), text, sort: Sort::Import }
        };
        all.map(|import| piece(import.span)).collect()
    }

    /// The heads of the namespaces around the type as they are written, each brace on the same line or the next, and
    /// their ends.
    fn namespaces(&self) -> Vec<Piece> {
        let mut pieces = Vec::new();
        for scope in self.around().filter_map(|at| self.facts.scopes.get(at as usize)) {
            let ScopeKind::Namespace { name, to_end, .. } = scope.kind else { continue };
            let indent = indent_of(self.text, scope.span);
            let mut head = [indent, b"namespace ", name.of(self.text)].concat();
            let from = Span::new(scope.span.start as usize, name.end as usize);
            if to_end {
                head.push(b';');
                pieces.push(Piece { from, text: head, sort: Sort::Heads });
                continue;
            }
            let after = &self.text[name.end as usize..];
            let brace = after.iter().position(|&byte| byte == b'{').unwrap_or(0);
            if after[..brace].contains(&b'\n') {
                head.extend([line_end(self.text).as_bytes(), indent].concat());
            } else {
                head.push(b' ');
            }
            head.push(b'{');
            pieces.push(Piece { from, text: head, sort: Sort::Opens });
            let end = scope.span.end as usize;
            let from = Span::new(end.saturating_sub(1), end);
            pieces.push(Piece { from, text: [indent, b"}"].concat(), sort: Sort::Closes });
        }
        pieces
    }
}

/// The blanks before `span` on its line, where nothing else stands there.
fn indent_of(text: &[u8], span: Span) -> &[u8] {
    let before = &text[..span.start as usize];
    let line = before.iter().rposition(|&byte| byte == b'\n').map_or(0, |newline| newline + 1);
    let blanks = &before[line..];
    if blanks.iter().all(|byte| matches!(byte, b' ' | b'\t')) { blanks } else { &[] }
}

fn is_blank(line: &[u8]) -> bool {
    line.trim_ascii().is_empty()
}

/// The last whole line of `text`, or what stands before `text`'s end on its line if that is more than blanks.
fn last_line(text: &[u8]) -> &[u8] {
    let end = text.iter().rposition(|&byte| byte == b'\n').unwrap_or(0);
    if !is_blank(&text[end..]) {
        return &text[end..];
    }
    let start = text[..end].iter().rposition(|&byte| byte == b'\n').map_or(0, |newline| newline + 1);
    &text[start..end]
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
        let mut above = line_start(start - 1);
        let line = text[above..start].trim_ascii();
        if line.ends_with(b"*/") {
            let Some(begins) = memchr::memmem::rfind(&text[..start], b"/*") else { break };
            above = line_start(begins);
            if !is_blank(&text[above..begins]) {
                break;
            }
        } else if !line.starts_with(b"//") {
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

/// With the condition around it, where that then holds nothing more.
fn with_emptied_condition(text: &[u8], span: Span, conditions: &[Vec<Span>]) -> Span {
    let around = conditions.iter().filter_map(|group| match group[..] {
        [begins, ends] if begins.end <= span.start && span.end <= ends.start => Some((begins, ends)),
        _ => None,
    });
    let innermost = around.min_by_key(|(begins, ends)| ends.start - begins.start);
    let rest = |(begins, ends): &(Span, Span)| {
        is_blank(&text[begins.end as usize..span.start as usize])
            && is_blank(&text[span.end as usize..ends.start as usize])
    };
    innermost.filter(rest).map_or(span, |(begins, ends)| {
        with_blank_line(text, Span::new(begins.start as usize, ends.end as usize))
    })
}
