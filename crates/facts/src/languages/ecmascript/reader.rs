//! One pass over the bytes: what is code, what is string, template, regular expression or markup text.
//!
//! Whether `/` divides and whether `<` opens an element is told by what stands before it; braces, template holes and
//! elements are kept on one stack, so that depth costs a byte each.

use crate::cursor::{ByteClass, Cursor, class};
use ferngate_model::{PathBase, Recorder, Span};
use memchr::{memchr2, memchr3};
use std::ops::Range;

/// Reads the script in the bytes `range` of `text`.
pub fn read(text: &[u8], range: Range<usize>, recorder: &mut Recorder) {
    let mut cursor = Cursor::new(text);
    cursor.at = cursor.at.max(range.start);
    cursor.end = range.end;
    if text[cursor.at..range.end].starts_with(b"#!") {
        cursor.to_line_end();
    }
    let mut reader = Reader {
        cursor,
        recorder,
        open: Vec::new(),
        before: Before::Start,
        parentheses: Vec::new(),
        first: false,
        looks: 400_000,
        is_module: false,
        named_modules: Vec::new(),
    };
    reader.run();
    reader.name_modules();
}

/// What surrounds the place that is read.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum Open {
    /// A block, an object or a body.
    Brace,
    /// `${ … }` in a template.
    TemplateHole,
    /// `{ … }` in markup.
    MarkupHole,
    /// Between `<name` and `>`; closing tags do not count.
    Tag,
    /// Between an opening and a closing tag.
    Children,
}

/// The last token, as far as it tells what a slash or angle bracket means.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Before {
    /// Nothing, or a mark behind which an expression begins.
    Start,
    /// A value: a name, a number, a string, a closing bracket.
    Value,
    /// A word behind which an expression begins: `return`, `typeof` …
    Word,
    /// A dot, behind which every word is a plain name.
    Dot,
    /// `if`, `while`, `for`, `with`: what stands in the parentheses behind it ends before an expression.
    Condition,
}

pub(super) struct Reader<'t, 'r> {
    pub(super) cursor: Cursor<'t>,
    pub(super) recorder: &'r mut Recorder,
    open: Vec<Open>,
    pub(super) before: Before,
    /// For each open parenthesis, whether it holds a condition.
    parentheses: Vec<bool>,
    /// Something other than comments has been read.
    first: bool,
    /// How far ends of elements and expressions are looked for; what is looked at in vain makes it less.
    looks: usize,
    /// The file imports or exports at its outermost level.
    pub(super) is_module: bool,
    /// Where `declare module "name"` stands: the name and the whole.
    pub(super) named_modules: Vec<(Span, Span)>,
}

impl Reader<'_, '_> {
    fn run(&mut self) {
        while !self.cursor.done() {
            match self.open.last() {
                Some(Open::Children) => self.children(),
                Some(Open::Tag) => self.tag(),
                _ => self.token(),
            }
        }
    }

    /// Whether declarations here can be seen from outside: no brace is open.
    pub(super) fn outermost(&self) -> bool {
        self.open.is_empty() && self.parentheses.is_empty()
    }

    fn token(&mut self) {
        let byte = self.cursor.text[self.cursor.at];
        match class(byte) {
            ByteClass::Blank => self.cursor.at += 1,
            ByteClass::Letter => self.word(),
            ByteClass::Digit => {
                self.cursor.word();
                while self.cursor.peek(0) == b'.' && self.cursor.peek(1).is_ascii_digit() {
                    self.cursor.at += 1;
                    self.cursor.word();
                }
                self.before = Before::Value;
            }
            _ => self.mark(byte),
        }
    }

    fn mark(&mut self, byte: u8) {
        self.before = match byte {
            b'/' => return self.slash(),
            b'"' | b'\'' => {
                let start = self.cursor.at;
                self.cursor.past_quoted(byte);
                self.loose_string(start + 1);
                Before::Value
            }
            b'`' => {
                self.cursor.at += 1;
                return self.template();
            }
            b'$' => return self.word(),
            b'{' => {
                self.open.push(Open::Brace);
                Before::Start
            }
            b'}' => return self.close_brace(),
            b'(' => {
                self.parentheses.push(self.before == Before::Condition);
                Before::Start
            }
            b')' => match self.parentheses.pop() {
                Some(true) => Before::Start,
                _ => Before::Value,
            },
            b']' => Before::Value,
            b'.' if self.cursor.peek(1) == b'.' => {
                self.cursor.at += if self.cursor.peek(2) == b'.' { 2 } else { 1 };
                Before::Start
            }
            b'.' => Before::Dot,
            b'?' if self.cursor.peek(1) == b'.' && !self.cursor.peek(2).is_ascii_digit() => {
                self.cursor.at += 1;
                Before::Dot
            }
            b'+' | b'-' if self.cursor.peek(1) == byte && self.before == Before::Value => {
                self.cursor.at += 1;
                Before::Value
            }
            // `value!` of TypeScript is a value still
            b'!' if self.before == Before::Value && self.cursor.peek(1) != b'=' => Before::Value,
            b'#' | b'@' => Before::Dot,
            b'<' if self.opens_element() => {
                self.cursor.at += 1;
                return self.open_element();
            }
            b'\\' => Before::Value,
            _ => Before::Start,
        };
        if !matches!(byte, b'"' | b'\'') {
            self.cursor.at += 1;
        }
        self.first = true;
    }

    fn word(&mut self) {
        let start = self.cursor.at;
        loop {
            self.cursor.word();
            if self.cursor.peek(0) != b'$' {
                break;
            }
            self.cursor.at += 1;
        }
        let word = &self.cursor.text[start..self.cursor.at];
        let before = std::mem::replace(&mut self.before, Before::Value);
        self.first = true;
        if before == Before::Dot {
            return;
        }
        self.before = match word {
            b"if" | b"while" | b"for" | b"with" => Before::Condition,
            b"return" | b"typeof" | b"case" | b"do" | b"else" | b"in" | b"of" | b"instanceof" | b"new"
            | b"void" | b"delete" | b"throw" | b"yield" | b"await" | b"default" => Before::Word,
            _ => {
                self.before = before;
                self.keyword(word, start);
                return;
            }
        };
    }

    /// A string that no statement claims: a path in it is a mention.
    fn loose_string(&mut self, start: usize) {
        if !self.recorder.options().weak {
            return;
        }
        let text = &self.cursor.text[start..self.cursor.at.saturating_sub(1).max(start)];
        let relative = text.starts_with(b"./") || text.starts_with(b"../");
        let read =
            self.recorder.facts().paths.iter().rev().take(20).any(|path| path.span.start as usize == start);
        if !read && crate::linking::looks_like_path(text) {
            let base = if relative { PathBase::Folder } else { PathBase::Anywhere };
            let path = String::from_utf8_lossy(text).into_owned();
            self.recorder.path(Span::new(start, start + text.len()), &path, base, true);
        }
    }

    /// Reads on in a template, up to its end or its next hole.
    fn template(&mut self) {
        loop {
            let rest = &self.cursor.text[self.cursor.at..self.cursor.end];
            let Some(found) = memchr3(b'`', b'\\', b'$', rest) else {
                self.cursor.at = self.cursor.end;
                return;
            };
            self.cursor.at += found;
            match (self.cursor.peek(0), self.cursor.peek(1)) {
                (b'`', _) => {
                    self.cursor.at += 1;
                    self.before = Before::Value;
                    return;
                }
                (b'\\', _) => self.cursor.at = (self.cursor.at + 2).min(self.cursor.end),
                (b'$', b'{') => {
                    self.cursor.at += 2;
                    self.open.push(Open::TemplateHole);
                    self.before = Before::Start;
                    return;
                }
                _ => self.cursor.at += 1,
            }
        }
    }

    fn close_brace(&mut self) {
        self.cursor.at += 1;
        match self.open.last() {
            Some(Open::TemplateHole) => {
                self.open.pop();
                self.template();
            }
            Some(Open::MarkupHole) => {
                self.open.pop();
            }
            Some(Open::Brace) => {
                self.open.pop();
                self.before = Before::Start;
            }
            _ => self.before = Before::Start,
        }
    }

    fn slash(&mut self) {
        match self.cursor.peek(1) {
            b'/' => self.line_comment(),
            b'*' => {
                let start = self.cursor.at;
                self.cursor.at += 2;
                self.cursor.past(b"*/");
                if self.recorder.options().weak {
                    self.documented(start);
                }
            }
            _ if matches!(self.before, Before::Value | Before::Dot) || self.looks == 0 => {
                self.cursor.at += 1;
                self.before = Before::Start;
            }
            _ => self.regular_expression(),
        }
    }

    fn line_comment(&mut self) {
        let start = self.cursor.at;
        self.cursor.to_line_end();
        let line = &self.cursor.text[start..self.cursor.at];
        // References count before the first statement only.
        if line.starts_with(b"///") && !self.first {
            self.reference(start, line);
        }
    }

    /// Goes behind a regular expression; what does not end on its line is none.
    fn regular_expression(&mut self) {
        let start = self.cursor.at;
        self.cursor.at += 1;
        let mut in_set = false;
        loop {
            match self.cursor.peek(0) {
                _ if self.cursor.done() => break,
                b'\n' => break,
                b'\\' => self.cursor.at += 1,
                b'[' => in_set = true,
                b']' => in_set = false,
                b'/' if !in_set => {
                    self.cursor.at += 1;
                    self.cursor.word();
                    self.before = Before::Value;
                    return;
                }
                _ => {}
            }
            self.cursor.at = (self.cursor.at + 1).min(self.cursor.end);
        }
        self.looks = self.looks.saturating_sub((self.cursor.at - start) / 8);
        self.cursor.at = start + 1;
        self.before = Before::Start;
    }

    /// Whether `<` begins an element: an expression can begin here, and a name or `>` follows.
    fn opens_element(&mut self) -> bool {
        if !matches!(self.before, Before::Start | Before::Word) {
            return false;
        }
        let next = self.cursor.peek(1);
        if next == b'>' {
            return true;
        }
        if !next.is_ascii_alphabetic() && next != b'_' {
            return false;
        }
        // Parameters of a generic arrow function, or a type in front of a value: `<T,>(`, `<T extends …`, `<T>(…) =>`.
        let mut at = Cursor { at: self.cursor.at + 1, ..self.cursor };
        loop {
            at.word();
            match at.peek(0) {
                b'.' | b'-' | b':' | b'$' => at.at += 1,
                _ => break,
            }
        }
        match at.peek(0) {
            b' ' | b'\t' | b'\n' | b'\r' => {
                at.skip_blanks();
                let attribute = at.peek(0);
                let is_name =
                    attribute.is_ascii_alphabetic() || matches!(attribute, b'{' | b'/' | b'>' | b'_');
                is_name && at.word() != b"extends"
            }
            b'/' => at.peek(1) == b'>' || at.peek(1) == b'/' || at.peek(1) == b'*',
            b'>' => self.has_closing_tag(self.cursor.at + 1, at.at),
            _ => false,
        }
    }

    /// Whether the element whose name stands in these bytes is closed somewhere behind.
    fn has_closing_tag(&mut self, start: usize, end: usize) -> bool {
        let name = &self.cursor.text[start..end];
        let window = &self.cursor.text[end..self.cursor.end.min(end + self.looks)];
        let mut closing = Vec::with_capacity(name.len() + 2);
        closing.extend(b"</");
        closing.extend(name);
        let found = memchr::memmem::find(window, &closing);
        self.looks = self.looks.saturating_sub(found.unwrap_or(window.len()) / 4);
        found.is_some()
    }

    fn open_element(&mut self) {
        self.first = true;
        if self.cursor.peek(0) == b'>' {
            self.cursor.at += 1;
            self.open.push(Open::Children);
        } else {
            self.open.push(Open::Tag);
        }
    }

    /// `{ … }` with code in markup.
    fn open_hole(&mut self) {
        self.cursor.at += 1;
        self.open.push(Open::MarkupHole);
        self.before = Before::Start;
    }

    /// Reads on between `<name` and `>`.
    fn tag(&mut self) {
        let rest = &self.cursor.text[self.cursor.at..self.cursor.end];
        let interesting = |&byte: &u8| matches!(byte, b'{' | b'"' | b'\'' | b'/' | b'>');
        let Some(found) = rest.iter().position(interesting) else {
            self.cursor.at = self.cursor.end;
            return;
        };
        self.cursor.at += found;
        match (self.cursor.peek(0), self.cursor.peek(1)) {
            (b'{', _) => self.open_hole(),
            (b'/', b'>') => {
                self.cursor.at += 2;
                self.open.pop();
                self.before = Before::Value;
            }
            (b'/', b'/') => self.cursor.to_line_end(),
            (b'/', b'*') => {
                self.cursor.at += 2;
                self.cursor.past(b"*/");
            }
            (b'>', _) => {
                self.cursor.at += 1;
                self.open.pop();
                self.open.push(Open::Children);
            }
            (quote @ (b'"' | b'\''), _) => {
                // Text of an attribute may run over lines and knows no escapes.
                self.cursor.at += 1;
                self.cursor.at = self.cursor.find(quote).map_or(self.cursor.end, |end| end + 1);
            }
            _ => self.cursor.at += 1,
        }
    }

    /// Reads on between tags.
    fn children(&mut self) {
        let rest = &self.cursor.text[self.cursor.at..self.cursor.end];
        let Some(found) = memchr2(b'<', b'{', rest) else {
            self.cursor.at = self.cursor.end;
            return;
        };
        self.cursor.at += found;
        match (self.cursor.peek(0), self.cursor.peek(1)) {
            (b'{', _) => self.open_hole(),
            (_, b'/') => {
                self.cursor.at = self.cursor.find(b'>').map_or(self.cursor.end, |end| end + 1);
                self.open.pop();
                self.before = Before::Value;
            }
            _ => {
                self.cursor.at += 1;
                self.open_element();
            }
        }
    }
}
