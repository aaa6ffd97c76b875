//! Razor pages and components: `@using`, `@inherits`, `@implements`, `@inject`, `@model`, `@attribute`, code blocks
//! and expressions, and component tags. A `.razor` file declares a type of its own name in its folder's namespace, or
//! in the one that `@namespace` states, in it or in a file of imports above.
//!
//! Not read: `@addTagHelper`, `@layout` of another assembly, text after an `@` that is an address.

use super::csharp::{NAMING, read_code, read_import_target, read_members, read_type};
use crate::cursor::{Cursor, in_word};
use ferngate_model::{
    Access, ChainLink, Context, Declaration, DeclarationKind, Import, ImportKind, ImportSpelling, Language,
    Name, Naming, PAGE_NAMESPACE, Recorder, Root, ScopeKind, Share, Span,
};

/// Razor files.
#[derive(Debug)]
pub struct Razor;

impl Language for Razor {
    fn name(&self) -> &'static str {
        "Razor"
    }

    fn extensions(&self) -> &'static [&'static str] {
        &["razor", "cshtml"]
    }

    fn naming(&self) -> Naming {
        Naming { folder_imports: &["_Imports.razor", "_ViewImports.cshtml"], ..NAMING }
    }

    fn import_spelling(&self) -> ImportSpelling {
        ImportSpelling { before: "@using ", after: "" }
    }

    fn read(&self, text: &[u8], recorder: &mut Recorder) {
        recorder.facts().implicit_namespace = true;
        let end = Span::new(text.len(), text.len());
        let declaration = recorder.declare(Declaration {
            // The resolver gives it the name of the file.
            name: Name(0),
            arity: 0,
            kind: DeclarationKind::Class,
            access: Access::Public,
            share: Share::Part,
            is_static: false,
            scope: 0,
            body: 1,
            name_span: end,
            span: end,
            access_span: end,
        });
        let body = recorder.open_scope(0, ScopeKind::Type { declaration }, 0);
        recorder.close_scope(body, text.len());
        Page { text, cursor: Cursor::new(text), body, declaration, recorder }.run();
    }
}

struct Page<'t, 'r> {
    text: &'t [u8],
    cursor: Cursor<'t>,
    body: u32,
    declaration: u32,
    recorder: &'r mut Recorder,
}

impl Page<'_, '_> {
    fn run(&mut self) {
        while !self.cursor.done() {
            let rest = &self.text[self.cursor.at..];
            let Some(found) = memchr::memchr2(b'@', b'<', rest) else { return };
            self.cursor.at += found;
            match (self.cursor.peek(0), self.cursor.peek(1)) {
                (b'@', b'*') => self.cursor.past(b"*@"),
                (b'@', b'@') => self.cursor.at += 2,
                (b'@', _) => self.transition(),
                (_, next) if next.is_ascii_uppercase() => self.component(),
                _ => self.cursor.at += 1,
            }
        }
    }

    /// `<TicketList …>`: a component is a type.
    fn component(&mut self) {
        self.cursor.at += 1;
        let start = self.cursor.at;
        let mut links = Vec::new();
        loop {
            let at = self.cursor.at;
            let name = self.cursor.name();
            links.push(ChainLink { name, arity: 0, span: Span::new(at, self.cursor.at) });
            if self.cursor.peek(0) != b'.' || !in_word(self.cursor.peek(1)) {
                break;
            }
            self.cursor.at += 1;
        }
        if self.cursor.at > start {
            self.recorder.chain(Root::Scope(self.body), &links, Context::Type, false);
        }
    }

    /// What follows an `@`.
    fn transition(&mut self) {
        let start = self.cursor.at;
        // `name@place`: an address, not code
        let first = Cursor::new(self.text).at;
        if start > first && in_word(self.text[start - 1]) {
            self.cursor.at += 1;
            return;
        }
        self.cursor.at += 1;
        match self.cursor.peek(0) {
            b'{' | b'(' => self.block(start),
            _ => {
                let word_start = self.cursor.at;
                match self.cursor.word() {
                    b"using" if self.cursor.peek(0) == b' ' => self.using(start),
                    b"inherits" | b"implements" | b"model" | b"inject" | b"attribute" | b"layout" => {
                        self.directive()
                    }
                    b"code" | b"functions" => self.members(),
                    b"namespace" => self.namespace(),
                    b"page" | b"section" | b"rendermode" | b"typeparam" => self.cursor.to_line_end(),
                    b"" => {}
                    _ => self.expression(word_start),
                }
            }
        }
    }

    /// `@namespace Mossgrove.Pages`
    fn namespace(&mut self) {
        let line = self.line();
        let text = String::from_utf8_lossy(line.of(self.text));
        if !text.is_empty() {
            self.recorder.facts().settings.push((PAGE_NAMESPACE.into(), text.into()));
        }
        self.cursor.to_line_end();
    }

    fn line(&self) -> Span {
        let end = self.cursor.find(b'\n').unwrap_or(self.cursor.end);
        let line = &self.text[self.cursor.at..end];
        let lead = line.len() - line.trim_ascii_start().len();
        let start = self.cursor.at + lead;
        Span::new(start, start + line.trim_ascii().len())
    }

    fn using(&mut self, start: usize) {
        let mut line = self.line();
        let bytes = line.of(self.text);
        if bytes.starts_with(b"(") || memchr::memchr(b'=', bytes).is_some() && bytes.ends_with(b"{") {
            return; // a statement
        }
        let mut kind = ImportKind::Namespace;
        if bytes.starts_with(b"static ") {
            kind = ImportKind::Static;
            line.start += 7;
        } else if let Some(equals) = memchr::memchr(b'=', bytes) {
            kind = ImportKind::Alias(Name::new(bytes[..equals].trim_ascii()));
            line.start += equals as u32 + 1;
        }
        let bytes = line.of(self.text);
        let lead = bytes.iter().take_while(|byte| byte.is_ascii_whitespace()).count();
        let length =
            bytes[lead..].iter().take_while(|&&byte| in_word(byte) || byte == b'.' || byte == b':').count();
        let from = line.start as usize + lead;
        let target_span = Span::new(from, from + length);
        if let Some(target) = read_import_target(self.text, target_span, 0, self.recorder) {
            let span = Span::new(start, line.end as usize);
            let text = target_span.text(self.text).into();
            self.recorder.import(Import::of_file(kind, 0, target, span, target_span, text));
        }
        self.cursor.at = line.end as usize;
    }

    /// `@inherits Type`, `@inject Type Name`, `@attribute [Name]`
    fn directive(&mut self) {
        let line = self.line();
        if line.of(self.text).starts_with(b"[") {
            let inner = Span::new(line.start as usize, line.end as usize);
            read_members(self.text, inner, self.body, self.declaration, self.recorder);
        } else {
            read_type(self.text, line, self.body, self.recorder);
        }
        self.cursor.at = line.end as usize;
    }

    /// `@code { … }`
    fn members(&mut self) {
        self.cursor.skip_blanks();
        if self.cursor.peek(0) != b'{' {
            return;
        }
        let start = self.cursor.at + 1;
        let end = self.partner();
        let inner = Span::new(start, end);
        read_members(self.text, inner, self.body, self.declaration, self.recorder);
        self.cursor.at = (end + 1).min(self.cursor.end);
    }

    /// `@{ … }` and `@( … )`. Markup inside a block is read as code, whose words do no harm.
    fn block(&mut self, start: usize) {
        let from = start + 2;
        let end = self.partner();
        read_code(self.text, Span::new(from, end), self.body, self.recorder);
        self.cursor.at = (end + 1).min(self.cursor.end);
    }

    /// `@Model.Title`, `@foreach (…) {`, `@await …`: the rest of the line is code enough.
    fn expression(&mut self, start: usize) {
        let line_end = self.cursor.find(b'\n').unwrap_or(self.cursor.end);
        let rest = &self.text[start..line_end];
        let end = rest.iter().position(|&byte| byte == b'<').map_or(line_end, |at| start + at);
        read_code(self.text, Span::new(start, end), self.body, self.recorder);
        self.cursor.at = end;
    }

    /// Where the bracket that opens here is closed, strings passed over.
    fn partner(&self) -> usize {
        let mut cursor = self.cursor;
        let mut depth = 0usize;
        while !cursor.done() {
            match cursor.peek(0) {
                b'{' | b'(' => depth += 1,
                b'}' | b')' if depth <= 1 => return cursor.at,
                b'}' | b')' => depth -= 1,
                b'"' => {
                    cursor.at += 1;
                    while !cursor.done() && !matches!(cursor.peek(0), b'"' | b'\n') {
                        cursor.at += 1 + usize::from(cursor.peek(0) == b'\\');
                    }
                }
                _ => {}
            }
            cursor.at += 1;
        }
        cursor.end
    }
}
