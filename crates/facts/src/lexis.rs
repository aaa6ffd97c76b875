//! Tokens of languages with words, marks, quoted strings and comments, by a table that says how each looks.
//!
//! C# has a lexer of its own, because its strings nest and its branches of `#if` are tokens of a kind.

use crate::cursor::{ByteClass, Cursor, class, in_word};
use ferngate_model::{Name, Span};
use memchr::{memchr2, memchr3};

/// How the tokens of a language look.
#[derive(Debug)]
pub struct Lexis {
    /// `#` begins a comment to the end of the line, but `#[` does not.
    pub hash_comments: bool,
    /// `/* /* */ */` is one comment.
    pub nested_comments: bool,
    /// `"""` begins a string that ends with the next `"""`.
    pub triple_quotes: bool,
    /// A string in plain quotes may run over lines.
    pub long_strings: bool,
    /// In strings `$name` and `${code}` stand for values: the holes are noted.
    pub holes: bool,
    /// `` `name` `` is an identifier.
    pub quoted_names: bool,
    /// `$` may stand in an identifier.
    pub dollar_in_names: bool,
}

/// The sort of a token.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Kind {
    /// Nothing is left.
    End,
    /// An identifier or word of the language.
    Word,
    /// A number.
    Number,
    /// A string or character.
    Text,
    /// Any other single byte.
    Mark(u8),
}

/// A token.
#[derive(Clone, Copy, Debug)]
pub struct Token {
    /// Its sort.
    pub kind: Kind,
    /// The name it spells, for words.
    pub name: Name,
    /// Its bytes, without the back quotes of a quoted name.
    pub span: Span,
}

impl Token {
    /// Whether it is the single byte `mark`.
    #[inline]
    pub fn is(&self, mark: u8) -> bool {
        self.kind == Kind::Mark(mark)
    }

    /// Whether it is a word.
    #[inline]
    pub fn is_word(&self) -> bool {
        self.kind == Kind::Word
    }

    /// Where it begins.
    #[inline]
    pub fn start(&self) -> usize {
        self.span.start as usize
    }

    /// Where it ends.
    #[inline]
    pub fn end(&self) -> usize {
        self.span.end as usize
    }
}

/// Reads tokens one after another.
#[derive(Debug)]
pub struct Tokens<'t> {
    /// Where the next token is looked for.
    pub cursor: Cursor<'t>,
    /// The token that was read last; written in place, because copying it at every token takes long.
    pub token: Token,
    /// Documentation comments (`/** … */`) passed since the list was last emptied, where wanted.
    pub documentation: Vec<Span>,
    /// Whether they are wanted.
    pub keep_documentation: bool,
    /// Code inside the string that was read last.
    pub holes: Vec<Span>,
    lexis: &'static Lexis,
}

/// How deep strings inside holes inside strings are followed.
const DEEPEST_HOLE: usize = 24;

impl<'t> Tokens<'t> {
    /// At the start of `text`.
    pub fn new(text: &'t [u8], lexis: &'static Lexis, keep_documentation: bool) -> Self {
        let cursor = Cursor::new(text);
        let token = Token { kind: Kind::End, name: Name(0), span: Span::new(0, 0) };
        Self { cursor, token, documentation: Vec::new(), keep_documentation, holes: Vec::new(), lexis }
    }

    /// Goes to the next token.
    #[inline]
    pub fn advance(&mut self) {
        loop {
            self.cursor.skip_blanks();
            let start = self.cursor.at;
            if self.cursor.done() {
                return self.set(Kind::End, start);
            }
            let byte = self.cursor.text[start];
            match class(byte) {
                ByteClass::Letter => return self.word(),
                ByteClass::Digit => return self.number(),
                ByteClass::Mark if byte != b'`' => {
                    self.cursor.at += 1;
                    return self.set(Kind::Mark(byte), start);
                }
                _ if self.comment(byte) => {}
                _ => return self.other(byte, start),
            }
        }
    }

    /// The token after the current one, without any effect.
    pub fn peek(&mut self) -> Token {
        let (cursor, token, keep) = (self.cursor, self.token, self.keep_documentation);
        let holes = std::mem::take(&mut self.holes);
        self.keep_documentation = false;
        self.advance();
        let next = std::mem::replace(&mut self.token, token);
        self.keep_documentation = keep;
        (self.cursor, self.holes) = (cursor, holes);
        next
    }

    #[inline]
    fn set(&mut self, kind: Kind, start: usize) {
        self.token.kind = kind;
        self.token.span = self.cursor.span_from(start);
    }

    #[inline]
    fn word(&mut self) {
        let start = self.cursor.at;
        let mut name = self.cursor.name();
        if self.lexis.dollar_in_names && self.cursor.peek(0) == b'$' {
            while self.cursor.peek(0) == b'$' {
                self.cursor.at += 1;
                self.cursor.word();
            }
            name = Name::new(&self.cursor.text[start..self.cursor.at]);
        }
        self.token.name = name;
        self.set(Kind::Word, start);
    }

    fn number(&mut self) {
        let start = self.cursor.at;
        loop {
            self.cursor.word();
            // `1.5` and `1e-3`, but neither `1..2` nor `1.name`
            let last = self.cursor.text[self.cursor.at - 1] | 0x20;
            let (mark, digit) = (self.cursor.peek(0), self.cursor.peek(1).is_ascii_digit());
            let hexadecimal = self.cursor.text.get(start + 1).is_some_and(|byte| byte | 0x20 == b'x');
            if digit && (mark == b'.' || matches!(mark, b'+' | b'-') && last == b'e' && !hexadecimal) {
                self.cursor.at += 1;
            } else {
                return self.set(Kind::Number, start);
            }
        }
    }

    /// Goes behind the comment that begins here, if one does.
    #[inline]
    fn comment(&mut self, byte: u8) -> bool {
        match (byte, self.cursor.peek(1)) {
            (b'/', b'/') => self.cursor.to_line_end(),
            (b'/', b'*') => self.block_comment(),
            (b'#', next) if self.lexis.hash_comments && next != b'[' => self.cursor.to_line_end(),
            _ => return false,
        }
        true
    }

    fn block_comment(&mut self) {
        let start = self.cursor.at;
        self.cursor.at += 2;
        if self.lexis.nested_comments {
            let mut depth = 1usize;
            while depth > 0 && !self.cursor.done() {
                let rest = &self.cursor.text[self.cursor.at..self.cursor.end];
                let Some(found) = memchr2(b'*', b'/', rest) else {
                    self.cursor.at = self.cursor.end;
                    break;
                };
                self.cursor.at += found;
                match (self.cursor.peek(0), self.cursor.peek(1)) {
                    (b'*', b'/') => (depth, self.cursor.at) = (depth - 1, self.cursor.at + 2),
                    (b'/', b'*') => (depth, self.cursor.at) = (depth + 1, self.cursor.at + 2),
                    _ => self.cursor.at += 1,
                }
            }
        } else {
            self.cursor.past(b"*/");
        }
        if self.keep_documentation && self.cursor.text[start..].starts_with(b"/**") {
            self.documentation.push(Span::new(start, self.cursor.at));
        }
    }

    fn other(&mut self, byte: u8, start: usize) {
        match byte {
            b'"' => {
                self.holes.clear();
                self.text(0);
                self.set(Kind::Text, start);
            }
            b'\'' => {
                self.quoted(b'\'');
                self.set(Kind::Text, start);
            }
            b'`' if self.lexis.quoted_names => self.quoted_name(start),
            b'$' if self.lexis.dollar_in_names => {
                self.cursor.at += 1;
                self.cursor.word();
                self.token.name = Name::new(&self.cursor.text[start..self.cursor.at]);
                self.set(Kind::Word, start);
            }
            _ => {
                self.cursor.at += 1;
                self.set(Kind::Mark(byte), start);
            }
        }
    }

    fn quoted_name(&mut self, start: usize) {
        let rest = &self.cursor.text[start + 1..self.cursor.end];
        match memchr2(b'`', b'\n', rest) {
            Some(length) if rest[length] == b'`' => {
                self.cursor.at = start + length + 2;
                self.token.kind = Kind::Word;
                self.token.name = Name::new(&rest[..length]);
                self.token.span = Span::new(start + 1, start + 1 + length);
            }
            _ => {
                self.cursor.at += 1;
                self.set(Kind::Mark(b'`'), start);
            }
        }
    }

    /// Goes behind the string that begins here.
    fn text(&mut self, depth: usize) {
        let triple = self.lexis.triple_quotes && self.cursor.peek(1) == b'"' && self.cursor.peek(2) == b'"';
        if !triple {
            return if self.lexis.holes { self.templated(1, depth) } else { self.quoted(b'"') };
        }
        if self.lexis.holes {
            return self.templated(3, depth);
        }
        self.cursor.at += 3;
        loop {
            let rest = &self.cursor.text[self.cursor.at..self.cursor.end];
            let Some(found) = memchr2(b'"', b'\\', rest) else {
                self.cursor.at = self.cursor.end;
                return;
            };
            self.cursor.at += found;
            match (self.cursor.peek(0), self.cursor.peek(1), self.cursor.peek(2)) {
                (b'"', b'"', b'"') => {
                    self.cursor.at += 3;
                    return;
                }
                (b'\\', ..) => self.cursor.at = (self.cursor.at + 2).min(self.cursor.end),
                _ => self.cursor.at += 1,
            }
        }
    }

    /// Goes behind a string or character without holes.
    fn quoted(&mut self, quote: u8) {
        self.cursor.at += 1;
        loop {
            let rest = &self.cursor.text[self.cursor.at..self.cursor.end];
            let Some(found) = memchr3(quote, b'\\', b'\n', rest) else {
                self.cursor.at = self.cursor.end;
                return;
            };
            self.cursor.at += found;
            match self.cursor.peek(0) {
                b'\\' => self.cursor.at = (self.cursor.at + 2).min(self.cursor.end),
                b'\n' if self.lexis.long_strings => self.cursor.at += 1,
                b'\n' => return, // an unclosed string ends with its line
                _ => {
                    self.cursor.at += 1;
                    return;
                }
            }
        }
    }

    /// Goes behind a string of one or three quotes in which `$name` and `${` begin code; notes the holes of the outermost one.
    fn templated(&mut self, quotes: usize, depth: usize) {
        self.cursor.at += quotes;
        while !self.cursor.done() {
            let rest = &self.cursor.text[self.cursor.at..self.cursor.end];
            let interesting = |&byte: &u8| matches!(byte, b'"' | b'\\' | b'$' | b'\n');
            let Some(found) = rest.iter().position(interesting) else { break };
            self.cursor.at += found;
            match (self.cursor.peek(0), self.cursor.peek(1)) {
                (b'"', _) if quotes == 1 => {
                    self.cursor.at += 1;
                    return;
                }
                (b'"', b'"') if self.cursor.peek(2) == b'"' => {
                    // `""""` ends a string whose last character is a quote
                    while self.cursor.peek(0) == b'"' {
                        self.cursor.at += 1;
                    }
                    return;
                }
                (b'\\', _) if quotes == 1 => self.cursor.at = (self.cursor.at + 2).min(self.cursor.end),
                (b'\n', _) if quotes == 1 => return,
                (b'$', b'{') => {
                    self.cursor.at += 2;
                    self.hole(depth);
                }
                (b'$', next) if class(next) == ByteClass::Letter => {
                    self.cursor.at += 1;
                    let start = self.cursor.at;
                    self.cursor.word();
                    if depth == 0 {
                        self.holes.push(Span::new(start, self.cursor.at));
                    }
                }
                _ => self.cursor.at += 1,
            }
        }
        self.cursor.at = self.cursor.end;
    }

    fn hole(&mut self, depth: usize) {
        let start = self.cursor.at;
        let mut braces = 0usize;
        while !self.cursor.done() {
            match self.cursor.peek(0) {
                b'"' if depth < DEEPEST_HOLE => {
                    let kept = std::mem::take(&mut self.holes);
                    self.text(depth + 1);
                    self.holes = kept;
                    continue;
                }
                b'\'' if depth < DEEPEST_HOLE => {
                    self.quoted(b'\'');
                    continue;
                }
                b'{' => braces += 1,
                b'}' if braces == 0 => break,
                b'}' => braces -= 1,
                _ => {}
            }
            self.cursor.at += 1;
        }
        if depth == 0 {
            self.holes.push(Span::new(start, self.cursor.at));
        }
        if !self.cursor.done() {
            self.cursor.at += 1;
        }
    }
}

/// The words of a language by hash, for one look-up; `W` says what a word does.
#[derive(Debug)]
pub struct Words<W> {
    slots: Vec<(u64, W)>,
    none: W,
    longest: u32,
}

impl<W: Copy + PartialEq> Words<W> {
    /// A table of `words`; `none` stands for every other word.
    pub fn new(words: &[(&str, W)], none: W) -> Self {
        let size = (words.len() * 8).next_power_of_two();
        let mut slots = vec![(0, none); size];
        let mut longest = 0;
        for (text, word) in words {
            let name = Name::new(text.as_bytes());
            let mut at = name.0 as usize & (size - 1);
            while slots[at].1 != none {
                at = (at + 1) & (size - 1);
            }
            slots[at] = (name.0, *word);
            longest = longest.max(text.len() as u32);
        }
        Self { slots, none, longest }
    }

    /// What the word of `token` does.
    #[inline]
    pub fn get(&self, token: &Token) -> W {
        self.get_named(token.kind == Kind::Word, token.name, token.span)
    }

    /// What the word `name` in `span` does, if it `is_word`.
    #[inline]
    pub fn get_named(&self, is_word: bool, name: Name, span: Span) -> W {
        if !is_word || span.end - span.start > self.longest {
            return self.none;
        }
        let mask = self.slots.len() - 1;
        let mut at = name.0 as usize & mask;
        loop {
            let (key, word) = self.slots[at];
            if key == name.0 || word == self.none {
                return word;
            }
            at = (at + 1) & mask;
        }
    }
}

/// Whether `<` opens type arguments: up to its `>` only such things stand as types hold, and what follows the `>`
/// cannot follow a comparison. `cursor` is behind the `<`.
pub fn opens_type_arguments(mut cursor: Cursor) -> bool {
    let mut depth = 1u32;
    let mut steps = 0;
    while !cursor.done() && steps < 400 {
        steps += 1;
        match cursor.peek(0) {
            b'<' => depth += 1,
            b'>' => {
                depth -= 1;
                if depth == 0 {
                    cursor.at += 1;
                    cursor.skip_blanks();
                    let next = cursor.peek(0);
                    return in_word(next) && !next.is_ascii_digit()
                        || matches!(
                            next,
                            b'(' | b')' | b'.' | b':' | b'[' | b'{' | b'>' | b',' | b'@' | b'&' | b';' | b'?'
                        );
                }
            }
            b'?' | b',' | b'.' | b'&' | b'[' | b']' | b'@' | b'*' | b' ' | b'\t' | b'\n' | b'\r' | b'$' => {}
            byte if in_word(byte) && !byte.is_ascii_digit() => {
                cursor.word();
                continue;
            }
            _ => return false,
        }
        cursor.at += 1;
    }
    false
}
