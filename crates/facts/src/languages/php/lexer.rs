//! PHP tokens: text outside of `<?php … ?>` passed over, comments and white space skipped, strings and heredocs whole.

use crate::cursor::{ByteClass, Cursor, class, in_word};
use ferngate_model::{Name, Span};
use memchr::{memchr3, memmem};

/// The sort of a token.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Kind {
    /// Nothing is left.
    End,
    /// An identifier or word of the language.
    Word,
    /// `$name`
    Variable,
    /// A number.
    Number,
    /// A string in single or double quotes.
    Text,
    /// A heredoc, nowdoc or shell string.
    Other,
    /// `->` or `?->`
    Arrow,
    /// `::`
    Colons,
    /// `=>`
    Gives,
    /// `#[`
    Attribute,
    /// Any other single byte; `?>` with the text behind it counts as a semicolon.
    Mark(u8),
}

/// A token.
#[derive(Clone, Copy, Debug)]
pub struct Token {
    /// Its sort.
    pub kind: Kind,
    /// The name it spells, for words.
    pub name: Name,
    /// Its bytes.
    pub span: Span,
}

impl Token {
    /// Whether it is the single byte `mark`.
    #[inline]
    pub fn is(&self, mark: u8) -> bool {
        self.kind == Kind::Mark(mark)
    }
}

/// Reads tokens one after another.
#[derive(Debug)]
pub struct Lexer<'t> {
    /// Where the next token is looked for.
    pub cursor: Cursor<'t>,
    /// Documentation comments passed since the list was last emptied, where wanted.
    pub documentation: Vec<Span>,
    /// Whether they are wanted.
    pub keep_documentation: bool,
    /// The code inside of the string read last, `{$bed->led(Rose::RED)}`, where it may name more than variables.
    pub holes: Vec<Span>,
}

/// How deep strings inside holes inside strings are followed.
const DEEPEST_HOLE: u32 = 8;

impl<'t> Lexer<'t> {
    /// Behind the first opening tag of `text`.
    pub fn new(text: &'t [u8], keep_documentation: bool) -> Self {
        let (cursor, documentation, holes) = (Cursor::new(text), Vec::new(), Vec::new());
        let mut lexer = Self { cursor, documentation, keep_documentation, holes };
        lexer.skip_to_code();
        lexer
    }

    /// Goes behind the next `<?php` or `<?=`, or to the end.
    fn skip_to_code(&mut self) {
        loop {
            let rest = &self.cursor.text[self.cursor.at.min(self.cursor.end)..self.cursor.end];
            let Some(found) = memmem::find(rest, b"<?") else {
                self.cursor.at = self.cursor.end;
                return;
            };
            self.cursor.at += found + 2;
            let behind = &self.cursor.text[self.cursor.at..self.cursor.end];
            if behind.first() == Some(&b'=') {
                self.cursor.at += 1;
                return;
            }
            if behind.len() >= 3 && behind[..3].eq_ignore_ascii_case(b"php") {
                self.cursor.at += 3;
                return;
            }
        }
    }

    /// The next token.
    #[inline]
    pub fn token(&mut self) -> Token {
        loop {
            self.cursor.skip_blanks();
            let start = self.cursor.at;
            if self.cursor.done() {
                return plain(Kind::End, start, start);
            }
            let byte = self.cursor.text[start];
            match class(byte) {
                ByteClass::Letter => {
                    let name = self.cursor.name();
                    return Token { kind: Kind::Word, name, span: Span::new(start, self.cursor.at) };
                }
                ByteClass::Digit => return self.number(start),
                _ if self.comment(byte) => {}
                _ => return self.other(byte, start),
            }
        }
    }

    fn number(&mut self, start: usize) -> Token {
        loop {
            self.cursor.word();
            if self.cursor.peek(0) == b'.' && self.cursor.peek(1).is_ascii_digit() {
                self.cursor.at += 1;
            } else {
                return plain(Kind::Number, start, self.cursor.at);
            }
        }
    }

    fn comment(&mut self, byte: u8) -> bool {
        match (byte, self.cursor.peek(1)) {
            (b'/', b'*') => {
                let start = self.cursor.at;
                self.cursor.at += 2;
                self.cursor.past(b"*/");
                if self.keep_documentation && self.cursor.text[start..].starts_with(b"/**") {
                    self.documentation.push(Span::new(start, self.cursor.at));
                }
            }
            (b'/', b'/') => self.line_comment(),
            (b'#', next) if next != b'[' => self.line_comment(),
            _ => return false,
        }
        true
    }

    /// A comment to the end of the line, which `?>` ends too.
    fn line_comment(&mut self) {
        let start = self.cursor.at;
        self.cursor.to_line_end();
        if let Some(found) = memmem::find(&self.cursor.text[start..self.cursor.at], b"?>") {
            self.cursor.at = start + found;
        }
    }

    fn other(&mut self, byte: u8, start: usize) -> Token {
        let (next, after) = (self.cursor.peek(1), self.cursor.peek(2));
        let (kind, length) = match (byte, next, after) {
            (b'\'' | b'"' | b'`', ..) => {
                self.holes.clear();
                self.quoted(byte, 0);
                let kind = if byte == b'`' { Kind::Other } else { Kind::Text };
                return plain(kind, start, self.cursor.at);
            }
            (b'$', ..) if class(next) == ByteClass::Letter => {
                self.cursor.at += 1;
                self.cursor.word();
                return plain(Kind::Variable, start, self.cursor.at);
            }
            (b'<', b'<', b'<') if self.heredoc() => return plain(Kind::Other, start, self.cursor.at),
            (b'?', b'>', _) => {
                self.cursor.at += 2;
                self.skip_to_code();
                return plain(Kind::Mark(b';'), start, start + 2);
            }
            (b'-', b'>', _) => (Kind::Arrow, 2),
            (b'?', b'-', b'>') => (Kind::Arrow, 3),
            (b':', b':', _) => (Kind::Colons, 2),
            (b'=', b'>', _) => (Kind::Gives, 2),
            (b'#', b'[', _) => (Kind::Attribute, 2),
            _ => (Kind::Mark(byte), 1),
        };
        self.cursor.at += length;
        plain(kind, start, self.cursor.at)
    }

    /// Goes behind a string; notes the holes of the outermost one.
    fn quoted(&mut self, quote: u8, depth: u32) {
        // Between single quotes there are none.
        let brace = if quote == b'\'' { quote } else { b'{' };
        self.cursor.at += 1;
        loop {
            let rest = &self.cursor.text[self.cursor.at..self.cursor.end];
            let Some(found) = memchr3(quote, b'\\', brace, rest) else {
                self.cursor.at = self.cursor.end;
                return;
            };
            self.cursor.at += found;
            match (self.cursor.peek(0), self.cursor.peek(1)) {
                (byte, _) if byte == quote => {
                    self.cursor.at += 1;
                    return;
                }
                (b'{', b'$') if depth < DEEPEST_HOLE => self.hole(depth),
                (b'{', _) => self.cursor.at += 1,
                _ => self.cursor.at = (self.cursor.at + 2).min(self.cursor.end),
            }
        }
    }

    /// Goes behind `{$…}` in a string.
    fn hole(&mut self, depth: u32) {
        self.cursor.at += 1;
        let start = self.cursor.at;
        let mut braces = 1_usize;
        while !self.cursor.done() {
            match self.cursor.peek(0) {
                b'{' => braces += 1,
                b'}' => {
                    braces -= 1;
                    if braces == 0 {
                        break;
                    }
                }
                quote @ (b'\'' | b'"') => {
                    self.quoted(quote, depth + 1);
                    continue;
                }
                _ => {}
            }
            self.cursor.at += 1;
        }
        let names_more = |byte: &u8| matches!(byte, b'(' | b'[' | b':');
        if depth == 0 && self.cursor.text[start..self.cursor.at].iter().any(names_more) {
            self.holes.push(Span::new(start, self.cursor.at));
        }
        self.cursor.at = (self.cursor.at + 1).min(self.cursor.end);
    }

    /// Goes behind `<<<LABEL … LABEL`, if one begins here: the label alone at the start of a line ends it.
    fn heredoc(&mut self) -> bool {
        let mut cursor = self.cursor;
        cursor.at += 3;
        while matches!(cursor.peek(0), b' ' | b'\t') {
            cursor.at += 1;
        }
        let quote = cursor.peek(0);
        if matches!(quote, b'\'' | b'"') {
            cursor.at += 1;
        }
        let label = cursor.word();
        if label.is_empty() {
            return false;
        }
        loop {
            cursor.to_line_end();
            if cursor.done() {
                break;
            }
            cursor.at += 1;
            let mut at = cursor.at;
            while matches!(cursor.text.get(at), Some(b' ' | b'\t')) {
                at += 1;
            }
            let behind = at + label.len();
            let ends = cursor.text[at.min(cursor.end)..cursor.end].starts_with(label);
            if ends && !cursor.text.get(behind).copied().is_some_and(in_word) {
                cursor.at = behind;
                break;
            }
        }
        let (start, end) = (self.cursor.at, cursor.at.min(self.cursor.end));
        self.holes.clear();
        if quote != b'\'' {
            let whole = Cursor { end, ..self.cursor };
            let kept = std::mem::replace(&mut self.cursor, whole);
            while let Some(found) = memmem::find(&self.cursor.text[self.cursor.at..end], b"{$") {
                self.cursor.at += found;
                let is_plain = self.cursor.at > start && self.cursor.text[self.cursor.at - 1] == b'\\';
                if is_plain { self.cursor.at += 1 } else { self.hole(0) }
            }
            self.cursor = kept;
        }
        self.cursor.at = end;
        true
    }
}

fn plain(kind: Kind, start: usize, end: usize) -> Token {
    Token { kind, name: Name(0), span: Span::new(start, end) }
}
