//! Statements that name other files, and declarations.

use super::blanks::skip;
use super::loader;
use super::reader::{Before, Reader};
use super::{DEFAULT, EVERYTHING, SHOWN_ON};
use crate::cursor::Cursor;
use ferngate_model::{Declaration, DeclarationKind, Name, PathBase, Span};

/// Objects whose methods take the name of a module in place of which a test puts something else.
const MOCKING: &[&[u8]] = &[b"jest", b"vi"];

impl Reader<'_, '_> {
    /// Acts on a word that is no operator; the cursor is behind it.
    pub(super) fn keyword(&mut self, word: &[u8], start: usize) {
        self.before = Before::Value;
        match word {
            b"import" => self.import(start),
            b"export" => self.export(start),
            b"require" => self.loading(Self::require),
            b"requirejs" if self.ahead().peek(0) == b'.' => self.loading(Self::require),
            b"define" => self.loading(|reader| reader.asynchronous(true)),
            b"requirejs" => self.loading(|reader| reader.asynchronous(false)),
            b"function" | b"class" | b"interface" | b"enum" | b"namespace" | b"type" | b"const" | b"let"
            | b"var" => {
                self.declaration(word, start);
            }
            b"module" => self.ambient_module(start),
            b"extends" | b"as" | b"satisfies" => self.before = Before::Word,
            _ if MOCKING.contains(&word) && self.recorder.options().weak => self.mocked(),
            _ => {}
        }
    }

    /// Reads a call that loads others, and notes of these whether the call stands inside of something.
    fn loading(&mut self, read: impl FnOnce(&mut Self)) {
        let (first, inner) = (self.recorder.facts().paths.len(), !self.outermost());
        read(self);
        self.recorder.facts().paths[first..].iter_mut().for_each(|path| path.inner = inner);
    }

    /// A cursor at the next token behind blanks and comments.
    pub(super) fn ahead(&self) -> Cursor<'_> {
        let mut cursor = self.cursor;
        skip(&mut cursor);
        cursor
    }

    pub(super) fn skip(&mut self) {
        skip(&mut self.cursor);
    }

    /// The string that begins at the cursor, as its span without quotes; templates without holes count.
    pub(super) fn literal(&mut self) -> Option<Span> {
        let quote = self.cursor.peek(0);
        let start = self.cursor.at + 1;
        match quote {
            b'"' | b'\'' => self.cursor.past_quoted(quote),
            b'`' => {
                self.cursor.at += 1;
                let end = self.cursor.find(b'`')?;
                if self.cursor.text[start..end].contains(&b'$') {
                    self.cursor.at = start - 1;
                    return None;
                }
                self.cursor.at = end + 1;
            }
            _ => return None,
        }
        let end = self.cursor.at - 1;
        (end >= start && self.cursor.text[end] == quote).then(|| Span::new(start, end))
    }

    pub(super) fn link(&mut self, span: Span, names: Vec<(Name, Name)>) {
        let text = self.text(span);
        if !text.is_empty() {
            self.recorder.path_with_names(span, &text, PathBase::Folder, false, names);
        }
    }

    pub(super) fn text(&self, span: Span) -> String {
        String::from_utf8_lossy(&self.cursor.text[span.start as usize..span.end as usize]).into_owned()
    }

    /// `import …`, of all kinds.
    fn import(&mut self, start: usize) {
        let next = self.ahead();
        match next.peek(0) {
            b'(' => return self.call(false),
            b'.' | b':' | b',' | b'=' | b')' | b';' | b'}' | b'?' => return,
            _ => {}
        }
        let kept = self.cursor;
        if let Some((span, names)) = self.clause(false) {
            self.is_module |= self.outermost();
            self.link(span, names);
        } else {
            self.cursor = kept;
            self.cursor.at = self.cursor.at.max(start + 6);
        }
    }

    /// What stands between `import` or `export` and the end of the specifier, with the names that are taken. With
    /// `shown` they are shown on to others.
    fn clause(&mut self, shown: bool) -> Option<(Span, Vec<(Name, Name)>)> {
        let mut names = Vec::new();
        let everything = if shown { SHOWN_ON } else { EVERYTHING };
        let mut tokens = 0;
        loop {
            self.skip();
            tokens += 1;
            match self.cursor.peek(0) {
                b'"' | b'\'' => return self.literal().map(|span| (span, names)),
                b'{' => {
                    self.cursor.at += 1;
                    self.names(shown, &mut names)?;
                }
                b'*' => {
                    self.cursor.at += 1;
                    let alias = self.alias();
                    names.push((EVERYTHING, if shown { alias.unwrap_or(everything) } else { Name(0) }));
                }
                b',' => self.cursor.at += 1,
                b'=' => {
                    // `import name = require("x")`, `import name = Space.Inner`
                    self.cursor.at += 1;
                    self.skip();
                    if self.cursor.word() != b"require" {
                        return None;
                    }
                    self.skip();
                    if self.cursor.peek(0) != b'(' {
                        return None;
                    }
                    self.cursor.at += 1;
                    self.skip();
                    return self.literal().map(|span| (span, vec![(EVERYTHING, Name(0))]));
                }
                _ => {
                    let word = self.identifier();
                    match word {
                        b"" => return None,
                        b"from" | b"type" | b"typeof" | b"defer" | b"source" => {}
                        _ if tokens > 8 => return None,
                        _ => names.push((Name::new(DEFAULT), Name(0))),
                    }
                }
            }
        }
    }

    fn identifier(&mut self) -> &[u8] {
        let start = self.cursor.at;
        loop {
            self.cursor.word();
            if self.cursor.peek(0) != b'$' {
                return &self.cursor.text[start..self.cursor.at];
            }
            self.cursor.at += 1;
        }
    }

    /// The name behind `as`, if there is one.
    fn alias(&mut self) -> Option<Name> {
        let kept = self.cursor;
        self.skip();
        if self.identifier() == b"as" {
            self.skip();
            let name = Name::new(self.identifier());
            return Some(name);
        }
        self.cursor = kept;
        None
    }

    /// `a, type b as c }`; the cursor is behind the brace.
    fn names(&mut self, shown: bool, names: &mut Vec<(Name, Name)>) -> Option<()> {
        loop {
            self.skip();
            match self.cursor.peek(0) {
                b'}' => {
                    self.cursor.at += 1;
                    return Some(());
                }
                b',' => self.cursor.at += 1,
                b'"' | b'\'' => {
                    let span = self.literal()?;
                    let text = self.text(span);
                    names.push((Name::new(text.as_bytes()), Name(0)));
                }
                _ => {
                    let start = self.cursor.at;
                    let mut word = self.identifier().to_vec();
                    if self.cursor.at == start {
                        return None;
                    }
                    let next = self.ahead().peek(0);
                    if word == b"type" && !matches!(next, b',' | b'}') {
                        self.skip();
                        word = self.identifier().to_vec();
                    }
                    let name = Name::new(&word);
                    let alias = self.alias().unwrap_or(name);
                    names.push((name, if shown { alias } else { Name(0) }));
                }
            }
        }
    }

    /// `export …`, of all kinds.
    fn export(&mut self, start: usize) {
        self.is_module |= self.outermost();
        self.skip();
        let kept = self.cursor;
        match self.cursor.peek(0) {
            b'*' | b'{' => self.export_list(kept),
            b'=' | b':' | b',' | b'.' => {}
            _ => {
                let word = self.identifier().to_vec();
                match &word[..] {
                    b"type" if matches!(self.ahead().peek(0), b'{' | b'*') => {
                        self.skip();
                        self.export_list(self.cursor);
                    }
                    b"default" => {
                        self.declare_as(DEFAULT, start);
                        self.before = Before::Word;
                    }
                    b"import" => self.import(start),
                    b"async" | b"abstract" | b"declare" => {
                        self.skip();
                        let word = self.identifier().to_vec();
                        self.declaration(&word, start);
                    }
                    b"" => {}
                    _ => self.declaration(&word, start),
                }
            }
        }
    }

    /// `export { … }` with or without `from`, `export * from`.
    fn export_list(&mut self, kept: Cursor<'_>) {
        let at = kept.at;
        if self.ahead().peek(0) == b'{' {
            self.skip();
            self.cursor.at += 1;
            let mut names = Vec::new();
            if self.names(true, &mut names).is_none() {
                self.cursor.at = at;
                return;
            }
            let mut next = self.ahead();
            if next.word() == b"from" {
                self.skip();
                self.identifier();
                self.skip();
                if let Some(span) = self.literal() {
                    self.link(span, names);
                }
            }
        } else if let Some((span, names)) = self.clause(true) {
            self.link(span, names);
        } else {
            self.cursor.at = at + 1;
        }
    }

    fn declare_as(&mut self, name: &[u8], start: usize) {
        if self.outermost() {
            let name = self.recorder.facts().texts.add(&String::from_utf8_lossy(name));
            let span = Span::new(start, self.cursor.at);
            self.recorder.declare(Declaration::public(name, DeclarationKind::Constant, 0, 0, span, span));
        }
    }

    /// `function name`, `class Name` …; the cursor is behind the word.
    fn declaration(&mut self, word: &[u8], start: usize) {
        let kind = match word {
            b"function" => DeclarationKind::Function,
            b"class" | b"type" | b"namespace" => DeclarationKind::Class,
            b"interface" => DeclarationKind::Interface,
            b"enum" => DeclarationKind::Enum,
            b"const" | b"let" | b"var" => DeclarationKind::Constant,
            _ => return,
        };
        let soft = matches!(word, b"type" | b"interface" | b"namespace" | b"let");
        let mut next = self.ahead();
        if next.peek(0) == b'*' {
            next.at += 1;
            skip(&mut next);
        }
        let from = next.at;
        loop {
            next.word();
            if next.peek(0) != b'$' {
                break;
            }
            next.at += 1;
        }
        let to = next.at;
        // `type = 3`, `interface.name`: words of the language that are names as well
        if from == to || next.text[from].is_ascii_digit() || soft && from == self.cursor.at {
            self.before = if soft { Before::Value } else { Before::Start };
            return;
        }
        let name = &self.cursor.text[from..to];
        if word == b"const" && name == b"enum" {
            self.cursor.at = to;
            return self.declaration(b"enum", start);
        }
        let line = &self.cursor.text[self.cursor.at..from];
        if soft
            && (line.contains(&b'\n') || matches!(name, b"in" | b"of" | b"instanceof" | b"as" | b"extends"))
        {
            return;
        }
        if self.outermost() && !matches!(name, b"extends" | b"implements") {
            let text = String::from_utf8_lossy(name).into_owned();
            let name = self.recorder.facts().texts.add(&text);
            let (span, whole) = (Span::new(from, to), Span::new(start, to));
            self.recorder.declare(Declaration::public(name, kind, 0, 0, span, whole));
        }
        if !matches!(self.cursor.text.get(from..to), Some(b"extends" | b"implements")) {
            self.cursor.at = to;
        }
    }

    /// `require("x")`, `require.resolve("x")`, `require(["x", "y"], …)`.
    fn require(&mut self) {
        let mut next = self.ahead();
        match next.peek(0) {
            b'(' => self.call(true),
            // `var require = { … };` before the loader is there
            b'=' => self.loader_settings(next.at, b'='),
            b'.' => {
                next.at += 1;
                let method = next.word();
                let at = next.at;
                match method {
                    b"resolve" | b"resolveWeak" | b"ensure" => {
                        self.cursor.at = at;
                        self.call(false);
                    }
                    b"config" => self.loader_settings(at, b'('),
                    b"requireActual" | b"requireMock" => self.cursor.at = at,
                    _ => {}
                }
            }
            _ => {}
        }
    }

    /// Notes what a loader is told in the object behind the byte `opener` at `at`.
    fn loader_settings(&mut self, at: usize, opener: u8) {
        let mut cursor = Cursor { at, ..self.cursor };
        skip(&mut cursor);
        if cursor.peek(0) != opener {
            return;
        }
        cursor.at += 1;
        skip(&mut cursor);
        if cursor.peek(0) == b'{' {
            self.recorder.facts().settings.extend(loader::settings(cursor));
        }
    }

    /// The literal argument of a call; with `lists` a list of literals counts too. The cursor is before the
    /// parenthesis, and goes no further than the argument.
    fn call(&mut self, lists: bool) {
        let kept = self.cursor;
        self.skip();
        if self.cursor.peek(0) != b'(' {
            self.cursor = kept;
            return;
        }
        self.cursor.at += 1;
        self.skip();
        match self.cursor.peek(0) {
            b'[' if lists => self.list(),
            b'"' | b'\'' | b'`' => {
                // What is put together from parts is no name.
                if let Some(span) = self.literal()
                    && matches!(self.ahead().peek(0), b')' | b',')
                {
                    self.link(span, vec![(EVERYTHING, Name(0))]);
                }
            }
            _ => {}
        }
        self.cursor = kept;
        self.before = Before::Value;
    }

    /// `["x", "y"]` as the names of modules that are loaded together.
    fn list(&mut self) {
        self.cursor.at += 1;
        loop {
            self.skip();
            match self.cursor.peek(0) {
                b'"' | b'\'' => {
                    let Some(span) = self.literal() else { return };
                    // What is put together from parts is no name.
                    if matches!(self.ahead().peek(0), b',' | b']') {
                        self.asynchronous_link(span);
                    }
                }
                b',' => self.cursor.at += 1,
                _ => return,
            }
        }
    }

    fn asynchronous_link(&mut self, span: Span) {
        let text = self.text(span);
        if !matches!(text.as_str(), "" | "require" | "exports" | "module") {
            self.recorder.path_with_names(
                span,
                &text,
                PathBase::Anywhere,
                false,
                vec![(EVERYTHING, Name(0))],
            );
        }
    }

    /// `define([…], …)`, `define("name", […], …)`, `requirejs([…])`.
    fn asynchronous(&mut self, named: bool) {
        let kept = self.cursor;
        self.skip();
        if self.cursor.peek(0) == b'(' {
            self.cursor.at += 1;
            self.skip();
            if named && matches!(self.cursor.peek(0), b'"' | b'\'') && self.literal().is_some() {
                self.skip();
                if self.cursor.peek(0) == b',' {
                    self.cursor.at += 1;
                    self.skip();
                }
            }
            if self.cursor.peek(0) == b'[' {
                self.list();
            }
        }
        self.cursor = kept;
    }

    /// `jest.mock("x")` and its like.
    fn mocked(&mut self) {
        let kept = self.cursor;
        if self.cursor.peek(0) == b'.' {
            self.cursor.at += 1;
            self.cursor.word();
            self.skip();
            if self.cursor.peek(0) == b'(' {
                self.cursor.at += 1;
                self.skip();
                if let Some(span) = self.literal() {
                    let text = self.text(span);
                    self.recorder.path(span, &text, PathBase::Folder, true);
                }
            }
        }
        self.cursor = kept;
    }

    /// `import("x")` in a documentation comment that begins at `start`: how a type is named there.
    pub(super) fn documented(&mut self, start: usize) {
        let text = self.cursor.text;
        let end = self.cursor.at;
        let mut at = start;
        while let Some(found) = memchr::memmem::find(&text[at..end], b"import(") {
            let from = at + found + 7;
            at = from;
            let Some(quote) = text.get(from).filter(|quote| matches!(quote, b'"' | b'\'')) else { continue };
            let Some(length) = text[from + 1..end].iter().position(|byte| byte == quote || *byte == b'\n')
            else {
                continue;
            };
            let span = Span::new(from + 1, from + 1 + length);
            let path = self.text(span);
            self.recorder.path(span, &path, PathBase::Folder, true);
        }
    }

    /// `/// <reference path="x" />`.
    pub(super) fn reference(&mut self, start: usize, line: &[u8]) {
        let Some(at) = memchr::memmem::find(line, b"<reference ") else { return };
        for (word, base) in [(&b"path="[..], PathBase::Folder), (b"types=", PathBase::Name)] {
            let Some(found) = memchr::memmem::find(&line[at..], word) else { continue };
            let from = at + found + word.len();
            let Some(quote) = line.get(from).filter(|quote| matches!(quote, b'"' | b'\'')) else { continue };
            let Some(length) = line[from + 1..].iter().position(|byte| byte == quote) else { continue };
            let span = Span::new(start + from + 1, start + from + 1 + length);
            let mut path = self.text(span);
            // A path here is relative even without a dot in front.
            if base == PathBase::Folder && !path.starts_with('.') {
                path.insert_str(0, "./");
            }
            self.recorder.path_with_names(span, &path, base, false, vec![(EVERYTHING, Name(0))]);
        }
    }
}
