//! Moves over the bytes of one file; what the scanners of all languages share.

use ferngate_model::{Lanes, Name, Span};
use memchr::{memchr, memchr3};

/// What a byte may begin or continue.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum ByteClass {
    /// A blank, a tab, a line end, or another control character.
    Blank,
    /// A letter, `_`, or any byte of a character beyond ASCII.
    Letter,
    /// `0` to `9`.
    Digit,
    /// A slash, a hash, a quote or another byte that may begin something longer.
    Special,
    /// Everything else.
    Mark,
}

const CLASSES: [ByteClass; 256] = {
    let mut table = [ByteClass::Mark; 256];
    let mut byte = 0usize;
    while byte < 256 {
        table[byte] = match byte as u8 {
            0..=b' ' => ByteClass::Blank,
            b'a'..=b'z' | b'A'..=b'Z' | b'_' | 0x80..=0xff => ByteClass::Letter,
            b'0'..=b'9' => ByteClass::Digit,
            b'/' | b'#' | b'"' | b'\'' | b'@' | b'$' | b'=' | b':' => ByteClass::Special,
            _ => ByteClass::Mark,
        };
        byte += 1;
    }
    table
};

const IN_WORD: [bool; 256] = {
    let mut table = [false; 256];
    let mut byte = 0usize;
    while byte < 256 {
        table[byte] = matches!(CLASSES[byte], ByteClass::Letter | ByteClass::Digit);
        byte += 1;
    }
    table
};

/// What `byte` may begin.
#[inline]
pub fn class(byte: u8) -> ByteClass {
    CLASSES[byte as usize]
}

/// Whether `byte` may stand inside an identifier.
#[inline]
pub fn in_word(byte: u8) -> bool {
    IN_WORD[byte as usize]
}

/// A place in a text.
///
/// `at` is the next byte to read, at most `end`; `end` is at most the text's length and may be set below it to
/// read a part only.
#[derive(Clone, Copy, Debug)]
pub struct Cursor<'t> {
    /// The whole text.
    pub text: &'t [u8],
    /// Next byte.
    pub at: usize,
    /// Where reading stops.
    pub end: usize,
}

impl<'t> Cursor<'t> {
    /// At the start of `text`, behind a byte order mark.
    pub fn new(text: &'t [u8]) -> Self {
        let at = if text.starts_with(b"\xEF\xBB\xBF") { 3 } else { 0 };
        Self { text, at, end: text.len() }
    }

    /// The byte `ahead` places on; 0 past the end.
    #[inline]
    pub fn peek(&self, ahead: usize) -> u8 {
        let at = self.at + ahead;
        if at < self.end { self.text[at] } else { 0 }
    }

    /// Whether nothing is left.
    #[inline]
    pub fn done(&self) -> bool {
        self.at >= self.end
    }

    /// Skips blanks and line ends.
    #[inline]
    pub fn skip_blanks(&mut self) {
        while self.at < self.end {
            let blanks = Lanes::at(self.text, self.at).leading_blanks();
            self.at += blanks;
            if blanks < Lanes::COUNT {
                break;
            }
        }
        self.at = self.at.min(self.end);
    }

    /// Reads the identifier that begins here.
    #[inline]
    pub fn word(&mut self) -> &'t [u8] {
        let start = self.at;
        let rest = &self.text[start..self.end];
        let length = rest.iter().position(|&byte| !IN_WORD[byte as usize]).unwrap_or(rest.len());
        self.at = start + length;
        &rest[..length]
    }

    /// Reads the identifier that begins here as a [`Name`].
    #[inline]
    pub fn name(&mut self) -> Name {
        let (length, name) = Name::scan(&self.text[..self.end], self.at);
        self.at += length;
        name
    }

    /// From `start`, which is not behind the next byte, up to it. Files of 4 GiB are never read as code, so nothing is cut.
    #[inline]
    pub fn span_from(&self, start: usize) -> Span {
        Span { start: start as u32, end: self.at as u32 }
    }

    /// Goes to the next line feed, or to the end.
    #[inline]
    pub fn to_line_end(&mut self) {
        self.at = self.find(b'\n').unwrap_or(self.end);
    }

    /// Where the next `byte` stands.
    #[inline]
    pub fn find(&self, byte: u8) -> Option<usize> {
        memchr(byte, &self.text[self.at.min(self.end)..self.end]).map(|found| self.at + found)
    }

    /// Goes behind the string that begins here with `quote`. A backslash keeps the byte behind it; a string that is not
    /// closed ends with its line.
    pub fn past_quoted(&mut self, quote: u8) {
        self.at += 1;
        loop {
            let rest = &self.text[self.at.min(self.end)..self.end];
            let Some(found) = memchr3(quote, b'\\', b'\n', rest) else {
                self.at = self.end;
                return;
            };
            self.at += found;
            match self.peek(0) {
                b'\\' => self.at = (self.at + 2).min(self.end),
                b'\n' => return,
                _ => {
                    self.at += 1;
                    return;
                }
            }
        }
    }

    /// Goes behind the next `mark`, or to the end.
    pub fn past(&mut self, mark: &[u8]) {
        let rest = &self.text[self.at.min(self.end)..self.end];
        self.at = memchr::memmem::find(rest, mark).map_or(self.end, |found| self.at + found + mark.len());
    }
}
