//! Tokens of Rust: nested comments, raw strings and names, lifetimes beside characters.

use crate::cursor::{ByteClass, Cursor, class};
use crate::lexis::{Kind, Token};
use ferngate_model::{Name, Span};
use memchr::{memchr, memchr2};

/// Reads tokens one after another.
pub struct Lexer<'t> {
    /// Where the next token is looked for.
    pub cursor: Cursor<'t>,
    /// The token that was read last.
    pub token: Token,
}

impl<'t> Lexer<'t> {
    /// At the start of `text`, behind a line that names an interpreter.
    pub fn new(text: &'t [u8]) -> Self {
        let mut cursor = Cursor::new(text);
        let rest = &text[cursor.at..];
        if rest.starts_with(b"#!") && !rest[2..].trim_ascii_start().starts_with(b"[") {
            cursor.to_line_end();
        }
        Self { cursor, token: Token { kind: Kind::End, name: Name(0), span: Span::new(0, 0) } }
    }

    fn set(&mut self, kind: Kind, start: usize) {
        self.token.kind = kind;
        self.token.span = Span::new(start, self.cursor.at);
    }

    /// Goes to the next token.
    pub fn advance(&mut self) {
        loop {
            self.cursor.skip_blanks();
            let start = self.cursor.at;
            if self.cursor.done() {
                return self.set(Kind::End, start);
            }
            let byte = self.cursor.text[start];
            match class(byte) {
                ByteClass::Letter => return self.word(start),
                ByteClass::Digit => return self.number(start),
                _ => {}
            }
            match (byte, self.cursor.peek(1)) {
                (b'/', b'/') => self.cursor.to_line_end(),
                (b'/', b'*') => self.block_comment(),
                (b'"', _) => {
                    self.string();
                    return self.set(Kind::Text, start);
                }
                (b'\'', _) => return self.quote(start),
                _ => {
                    self.cursor.at += 1;
                    return self.set(Kind::Mark(byte), start);
                }
            }
        }
    }

    /// The token after the current one, without any effect.
    pub fn peek(&self) -> Token {
        let mut ahead = Lexer { cursor: self.cursor, token: self.token };
        ahead.advance();
        ahead.token
    }

    fn word(&mut self, start: usize) {
        let name = self.cursor.name();
        let word = &self.cursor.text[start..self.cursor.at];
        match (word, self.cursor.peek(0)) {
            (b"r" | b"br" | b"cr", b'"') => self.raw_string(start),
            (b"r" | b"br" | b"cr", b'#') if self.begins_raw_string() => self.raw_string(start),
            (b"r", b'#') if class(self.cursor.peek(1)) == ByteClass::Letter => {
                self.cursor.at += 1;
                let start = self.cursor.at;
                self.token.name = self.cursor.name();
                self.set(Kind::Word, start);
            }
            (b"b" | b"c", b'"') => {
                self.string();
                self.set(Kind::Text, start);
            }
            (b"b", b'\'') => self.quote(start),
            _ => {
                self.token.name = name;
                self.set(Kind::Word, start);
            }
        }
    }

    fn begins_raw_string(&self) -> bool {
        let rest = &self.cursor.text[self.cursor.at..self.cursor.end];
        let marks = rest.iter().take_while(|byte| **byte == b'#').count();
        rest.get(marks) == Some(&b'"')
    }

    fn raw_string(&mut self, start: usize) {
        let rest = &self.cursor.text[self.cursor.at..self.cursor.end];
        let marks = rest.iter().take_while(|byte| **byte == b'#').count();
        self.cursor.at += marks + 1;
        loop {
            let rest = &self.cursor.text[self.cursor.at.min(self.cursor.end)..self.cursor.end];
            let Some(found) = memchr(b'"', rest) else {
                self.cursor.at = self.cursor.end;
                break;
            };
            self.cursor.at += found + 1;
            let closing = rest[found + 1..].iter().take(marks).take_while(|byte| **byte == b'#').count();
            if closing == marks {
                self.cursor.at += marks;
                break;
            }
        }
        self.set(Kind::Text, start);
    }

    fn number(&mut self, start: usize) {
        self.cursor.word();
        if self.cursor.peek(0) == b'.' && self.cursor.peek(1).is_ascii_digit() {
            self.cursor.at += 1;
            self.cursor.word();
        }
        self.set(Kind::Number, start);
    }

    fn string(&mut self) {
        self.cursor.at += 1;
        loop {
            let rest = &self.cursor.text[self.cursor.at.min(self.cursor.end)..self.cursor.end];
            let Some(found) = memchr2(b'"', b'\\', rest) else {
                self.cursor.at = self.cursor.end;
                return;
            };
            self.cursor.at += found;
            if self.cursor.peek(0) == b'"' {
                self.cursor.at += 1;
                return;
            }
            self.cursor.at = (self.cursor.at + 2).min(self.cursor.end);
        }
    }

    /// A character, or a lifetime, which counts as a mark.
    fn quote(&mut self, start: usize) {
        self.cursor.at += 1;
        let first = self.cursor.peek(0);
        if first == b'\\' {
            self.cursor.at = (self.cursor.at + 2).min(self.cursor.end);
            let rest = &self.cursor.text[self.cursor.at..self.cursor.end];
            let close = rest.iter().take(12).position(|byte| *byte == b'\'');
            self.cursor.at += close.map_or(0, |close| close + 1);
            return self.set(Kind::Text, start);
        }
        let kept = self.cursor.at;
        if class(first) == ByteClass::Letter || first.is_ascii_digit() {
            let length = self.cursor.word().len();
            if self.cursor.peek(0) != b'\'' || length > 4 {
                return self.set(Kind::Mark(b'\''), start);
            }
        } else {
            self.cursor.at = (kept + 1).min(self.cursor.end);
        }
        if self.cursor.peek(0) == b'\'' {
            self.cursor.at += 1;
            return self.set(Kind::Text, start);
        }
        self.cursor.at = kept;
        self.set(Kind::Mark(b'\''), start);
    }

    fn block_comment(&mut self) {
        let mut depth = 0usize;
        while !self.cursor.done() {
            let rest = &self.cursor.text[self.cursor.at..self.cursor.end];
            let Some(found) = memchr2(b'*', b'/', rest) else {
                self.cursor.at = self.cursor.end;
                return;
            };
            self.cursor.at += found;
            match (self.cursor.peek(0), self.cursor.peek(1)) {
                (b'/', b'*') => (depth, self.cursor.at) = (depth + 1, self.cursor.at + 2),
                (b'*', b'/') => {
                    (depth, self.cursor.at) = (depth.saturating_sub(1), self.cursor.at + 2);
                    if depth == 0 {
                        return;
                    }
                }
                _ => self.cursor.at += 1,
            }
        }
    }
}
