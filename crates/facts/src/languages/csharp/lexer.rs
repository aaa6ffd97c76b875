//! C# tokens: comments and white space skipped, strings found whole, both branches of `#if` read.

use super::tokens::{Branch, Kind, Token, Word, Words};
use crate::cursor::{ByteClass, Cursor, class, in_word};
use ferngate_model::Span;
use memchr::{memchr2, memchr3};

/// Reads tokens and notes the branches and documentation comments that it passes.
#[derive(Debug)]
pub struct Lexer<'t> {
    /// Where the next token is looked for.
    pub cursor: Cursor<'t>,
    /// The token that was read last. Written field by field where it stays: a token that is returned by value is
    /// copied in other pieces than it was written, which stalls the processor at every token.
    pub token: Token,
    /// Code inside the last interpolated string.
    pub holes: Vec<Span>,
    /// Branch lines passed since the list was last emptied.
    pub branches: Vec<Branch>,
    /// Documentation comment lines passed since the list was last emptied, where wanted.
    pub documentation: Vec<Span>,
    /// Whether `branches` or `documentation` holds something.
    pub noted: bool,
    /// Whether documentation comments are wanted.
    pub keep_documentation: bool,
    words: &'static Words,
}

/// How deep strings inside holes inside strings are followed.
const DEEPEST_HOLE: usize = 24;

impl<'t> Lexer<'t> {
    /// At the start of `text`.
    pub fn new(text: &'t [u8], keep_documentation: bool) -> Self {
        Self {
            cursor: Cursor::new(text),
            token: Token::nothing(Kind::End),
            holes: Vec::new(),
            branches: Vec::new(),
            documentation: Vec::new(),
            noted: false,
            keep_documentation,
            words: Words::table(),
        }
    }

    /// Reads the next token.
    #[inline]
    pub fn next(&mut self) {
        loop {
            self.cursor.skip_blanks();
            let start = self.cursor.at;
            if self.cursor.done() {
                return self.set(Kind::End, start);
            }
            let byte = self.cursor.text[start];
            match class(byte) {
                ByteClass::Letter => return self.identifier(),
                ByteClass::Digit => {
                    self.number();
                    return self.set(Kind::Literal, start);
                }
                ByteClass::Special => {
                    if !self.skip_trivia() {
                        return self.mark(byte, start);
                    }
                }
                ByteClass::Mark | ByteClass::Blank => {
                    self.cursor.at = start + 1;
                    return self.set(Kind::Mark(byte), start);
                }
            }
        }
    }

    #[inline]
    fn set(&mut self, kind: Kind, start: usize) {
        self.token.kind = kind;
        self.token.word = Word::None;
        self.token.start = start as u32;
        self.token.end = self.cursor.at as u32;
    }

    #[inline]
    fn identifier(&mut self) {
        let start = self.cursor.at;
        let name = self.cursor.name();
        let short = self.cursor.at - start <= 10;
        let may_be_word = short && self.cursor.text.get(start).is_some_and(u8::is_ascii_lowercase);
        let word = if may_be_word { self.words.get(name) } else { Word::None };
        self.token.kind = if word.reserved() { Kind::Keyword } else { Kind::Identifier };
        self.token.word = word;
        self.token.name = name;
        self.token.start = start as u32;
        self.token.end = self.cursor.at as u32;
    }

    fn number(&mut self) {
        loop {
            self.cursor.word();
            // `1.5`, but neither `1..2` nor `1.ToString()`
            if self.cursor.peek(0) == b'.' && self.cursor.peek(1).is_ascii_digit() {
                self.cursor.at += 1;
            } else {
                return;
            }
        }
    }

    fn mark(&mut self, byte: u8, start: usize) {
        let next = self.cursor.peek(1);
        let kind = match (byte, next) {
            (b'"', _) => return self.string(start, 0, false),
            (b'\'', _) => {
                self.character();
                Kind::Literal
            }
            (b'@', b'"') => return self.string(start, 0, true),
            (b'@', _) if class(next) == ByteClass::Letter => {
                self.cursor.at += 1;
                self.identifier();
                (self.token.kind, self.token.word) = (Kind::Identifier, Word::None);
                return;
            }
            (b'@', b'$') if self.cursor.peek(2) == b'"' => return self.string(start, 1, true),
            (b'$', _) => return self.dollars(start),
            (b'=', b'>') => self.two(Kind::Arrow),
            (b':', b':') => self.two(Kind::Colons),
            _ => {
                self.cursor.at += 1;
                Kind::Mark(byte)
            }
        };
        self.set(kind, start);
    }

    fn two(&mut self, kind: Kind) -> Kind {
        self.cursor.at += 2;
        kind
    }

    fn dollars(&mut self, start: usize) {
        let mut count = 0;
        while self.cursor.peek(count) == b'$' {
            count += 1;
        }
        match (self.cursor.peek(count), self.cursor.peek(count + 1)) {
            (b'"', _) => self.string(start, count, false),
            (b'@', b'"') => self.string(start, count, true),
            _ => {
                self.cursor.at += 1;
                self.set(Kind::Mark(b'$'), start);
            }
        }
    }

    /// Reads a string whose prefix of `$` and `@` begins at `start`.
    fn string(&mut self, start: usize, dollars: usize, verbatim: bool) {
        let mut holes = std::mem::take(&mut self.holes);
        holes.clear();
        self.cursor.at = start + dollars + usize::from(verbatim);
        self.string_body(dollars, verbatim, &mut holes, 0);
        self.holes = holes;
        self.set(if dollars > 0 { Kind::Interpolated } else { Kind::Literal }, start);
    }

    /// Goes behind a string from its first quote; notes the holes of the outermost one.
    fn string_body(&mut self, dollars: usize, verbatim: bool, holes: &mut Vec<Span>, depth: usize) {
        let mut quotes = 0;
        while self.cursor.peek(quotes) == b'"' {
            quotes += 1;
        }
        if quotes >= 3 && !verbatim {
            self.cursor.at += quotes;
            return self.raw_string(quotes, dollars, holes, depth);
        }
        self.cursor.at += 1;
        loop {
            let rest = &self.cursor.text[self.cursor.at..self.cursor.end];
            let found = match (dollars > 0, verbatim) {
                (true, _) => rest.iter().position(|&b| matches!(b, b'"' | b'\\' | b'{' | b'\n')),
                (false, true) => memchr::memchr(b'"', rest),
                (false, false) => memchr3(b'"', b'\\', b'\n', rest),
            };
            let Some(found) = found else {
                self.cursor.at = self.cursor.end;
                return;
            };
            self.cursor.at += found;
            match self.cursor.peek(0) {
                b'"' if verbatim && self.cursor.peek(1) == b'"' => self.cursor.at += 2,
                b'"' => {
                    self.cursor.at += 1;
                    return;
                }
                b'\\' if verbatim => self.cursor.at += 1,
                b'\\' => self.cursor.at = (self.cursor.at + 2).min(self.cursor.end),
                b'\n' if verbatim => self.cursor.at += 1,
                b'\n' => return, // an unclosed string ends with its line
                _ if self.cursor.peek(1) == b'{' => self.cursor.at += 2,
                _ => {
                    self.cursor.at += 1;
                    self.hole(1, holes, depth);
                }
            }
        }
    }

    fn raw_string(&mut self, quotes: usize, dollars: usize, holes: &mut Vec<Span>, depth: usize) {
        while !self.cursor.done() {
            let rest = &self.cursor.text[self.cursor.at..self.cursor.end];
            let found = if dollars > 0 { memchr2(b'"', b'{', rest) } else { memchr::memchr(b'"', rest) };
            let Some(found) = found else { break };
            self.cursor.at += found;
            let byte = self.cursor.peek(0);
            let mut run = 0;
            while self.cursor.peek(run) == byte {
                run += 1;
            }
            self.cursor.at += run;
            match byte {
                b'"' if run >= quotes => return,
                b'{' if run >= dollars => self.hole(dollars, holes, depth),
                _ => {}
            }
        }
        self.cursor.at = self.cursor.end;
    }

    /// Goes behind the hole that begins here and is closed by `closers` braces.
    fn hole(&mut self, closers: usize, holes: &mut Vec<Span>, depth: usize) {
        let start = self.cursor.at;
        let mut code_end = None;
        let (mut braces, mut parens) = (0usize, 0usize);
        while !self.cursor.done() {
            let byte = self.cursor.peek(0);
            match byte {
                b'"' | b'$' | b'@' if depth < DEEPEST_HOLE && self.nested_string(depth) => continue,
                b'\'' => {
                    self.character();
                    continue;
                }
                b'(' | b'[' => parens += 1,
                b')' | b']' => parens = parens.saturating_sub(1),
                b'{' => braces += 1,
                b'}' if braces > 0 => braces -= 1,
                b'}' => {
                    let end = code_end.unwrap_or(self.cursor.at);
                    if depth == 0 {
                        holes.push(Span::new(start, end));
                    }
                    self.cursor.at = (self.cursor.at + closers).min(self.cursor.end);
                    return;
                }
                b':' if self.cursor.peek(1) == b':' => self.cursor.at += 1,
                b':' if braces == 0 && parens == 0 && code_end.is_none() => {
                    code_end = Some(self.cursor.at);
                    let rest = &self.cursor.text[self.cursor.at..self.cursor.end];
                    match memchr3(b'}', b'"', b'\n', rest) {
                        Some(found) if rest[found] == b'}' => self.cursor.at += found - 1,
                        _ => {}
                    }
                }
                _ => {}
            }
            self.cursor.at += 1;
        }
    }

    /// Goes behind a string that begins here; `false` where none does.
    fn nested_string(&mut self, depth: usize) -> bool {
        let (mut ahead, mut dollars, mut verbatim) = (0, 0, false);
        loop {
            match self.cursor.peek(ahead) {
                b'$' => dollars += 1,
                b'@' => verbatim = true,
                b'"' => break,
                _ => return false,
            }
            ahead += 1;
        }
        self.cursor.at += ahead;
        self.string_body(dollars, verbatim, &mut Vec::new(), depth + 1);
        true
    }

    fn character(&mut self) {
        self.cursor.at += 1;
        for _ in 0..12 {
            match self.cursor.peek(0) {
                b'\\' => self.cursor.at = (self.cursor.at + 2).min(self.cursor.end),
                b'\'' => {
                    self.cursor.at += 1;
                    return;
                }
                0 | b'\n' => return,
                _ => self.cursor.at += 1,
            }
        }
    }

    /// Kept out of `next`, which is small without it.
    ///
    /// Goes behind a comment or a directive that begins here; `false` where neither does.
    fn skip_trivia(&mut self) -> bool {
        match (self.cursor.peek(0), self.cursor.peek(1)) {
            (b'/', b'/') => self.line_comment(),
            (b'/', b'*') => {
                self.cursor.at += 2;
                self.cursor.past(b"*/");
            }
            (b'#', _) if self.begins_line() => self.directive(),
            _ => return false,
        }
        true
    }

    fn line_comment(&mut self) {
        let start = self.cursor.at;
        self.cursor.to_line_end();
        if self.keep_documentation && self.cursor.text[start..].starts_with(b"///") {
            self.documentation.push(Span::new(start, self.cursor.at));
            self.noted = true;
        }
    }

    fn begins_line(&self) -> bool {
        let before = &self.cursor.text[..self.cursor.at];
        let blanks = before.iter().rev().take_while(|&&byte| matches!(byte, b' ' | b'\t')).count();
        matches!(before.len().checked_sub(blanks + 1).map(|at| before[at]), None | Some(b'\n' | b'\r' | 0xBF))
    }

    fn directive(&mut self) {
        self.cursor.at += 1;
        while matches!(self.cursor.peek(0), b' ' | b'\t') {
            self.cursor.at += 1;
        }
        let branch = match self.cursor.word() {
            b"if" => Some(Branch::If),
            b"elif" | b"else" => Some(Branch::Else),
            b"endif" => Some(Branch::End),
            _ => None,
        };
        self.branches.extend(branch);
        self.noted |= branch.is_some();
        self.cursor.to_line_end();
    }

    /// Whether the `<` at `at` opens type arguments rather than comparing: the bytes up to its `>` can only be types,
    /// and what follows cannot follow a comparison (C# specification, 6.2.5, with declarations added).
    pub fn opens_type_arguments(&self, at: usize) -> bool {
        let text = &self.cursor.text[..self.cursor.end.min(at + 600)];
        let (mut depth, mut at, mut after_word) = (0usize, at, false);
        while let Some(&byte) = text.get(at) {
            match byte {
                b'<' => depth += 1,
                b'>' => {
                    depth -= 1;
                    if depth == 0 {
                        return Self::may_follow_type_arguments(&text[at + 1..]);
                    }
                }
                b',' | b'.' | b'?' | b'[' | b']' | b'*' | b':' | b'(' | b')' | b' ' | b'\t' | b'\r'
                | b'\n' | b'@' => {}
                b'0'..=b'9' if !after_word => return false,
                _ if in_word(byte) => {}
                _ => return false,
            }
            after_word = in_word(byte);
            at += 1;
        }
        false
    }

    /// The byte behind the `>` that closes the `<` at `at`, blanks passed over; 0 where it is not closed.
    pub fn behind_type_arguments(&self, at: usize) -> u8 {
        let text = &self.cursor.text[at..self.cursor.end.min(at + 600)];
        let mut depth = 0usize;
        for (at, &byte) in text.iter().enumerate() {
            match byte {
                b'<' => depth += 1,
                b'>' if depth <= 1 => {
                    let rest = &text[at + 1..];
                    return rest.iter().copied().find(|byte| !byte.is_ascii_whitespace()).unwrap_or(0);
                }
                b'>' => depth -= 1,
                _ => {}
            }
        }
        0
    }

    fn may_follow_type_arguments(rest: &[u8]) -> bool {
        let mut bytes = rest.iter().copied().skip_while(u8::is_ascii_whitespace);
        match (bytes.next(), bytes.next()) {
            (Some(b'=' | b'!'), second) => second == Some(b'=') || second == Some(b'>'),
            (
                Some(
                    b'(' | b')' | b']' | b'}' | b'{' | b':' | b';' | b',' | b'.' | b'?' | b'|' | b'^' | b'&'
                    | b'[',
                ),
                _,
            ) => true,
            (Some(byte), _) => class(byte) == ByteClass::Letter || byte == b'@',
            _ => false,
        }
    }
}
