//! One pass over the bytes: strings and comments are passed, and what begins a statement is looked at.

use super::{EVERYTHING, SHOWN_ON, SHOWN_TO_ALL};
use crate::cursor::{ByteClass, Cursor, class};
use ferngate_model::{Declaration, DeclarationKind, Name, PathBase, Recorder, Span};
use memchr::{memchr3, memmem};

/// Reads `text` into `recorder`.
pub fn read(text: &[u8], recorder: &mut Recorder) {
    Reader { cursor: Cursor::new(text), recorder, brackets: 0, fresh: true, indent: 0 }.run();
}

/// How deep strings inside holes inside strings are followed.
const DEEPEST_HOLE: usize = 24;

struct Reader<'t, 'r> {
    cursor: Cursor<'t>,
    recorder: &'r mut Recorder,
    /// Open brackets.
    brackets: usize,
    /// A statement begins here.
    fresh: bool,
    /// Blanks before the statement.
    indent: usize,
}

impl Reader<'_, '_> {
    fn run(&mut self) {
        while !self.cursor.done() {
            let byte = self.cursor.text[self.cursor.at];
            match class(byte) {
                ByteClass::Blank => self.blank(byte),
                ByteClass::Letter => self.word(),
                ByteClass::Digit => {
                    self.cursor.word();
                    self.fresh = false;
                }
                _ => self.mark(byte),
            }
        }
    }

    fn blank(&mut self, byte: u8) {
        self.cursor.at += 1;
        if byte == b'\n' && self.brackets == 0 {
            let start = self.cursor.at;
            while matches!(self.cursor.peek(0), b' ' | b'\t') {
                self.cursor.at += 1;
            }
            self.fresh = true;
            self.indent = self.cursor.at - start;
        }
    }

    fn mark(&mut self, byte: u8) {
        let fresh = std::mem::replace(&mut self.fresh, false);
        match byte {
            b'#' => {
                self.cursor.to_line_end();
                self.fresh = fresh;
                return;
            }
            b'"' | b'\'' => return self.string(false, false),
            b'(' | b'[' | b'{' => self.brackets += 1,
            b')' | b']' | b'}' => self.brackets = self.brackets.saturating_sub(1),
            b';' if self.brackets == 0 => self.fresh = true,
            b':' if self.brackets == 0 => (self.fresh, self.indent) = (true, self.indent.max(1)),
            b'\\' if matches!(self.cursor.peek(1), b'\n' | b'\r') => {
                self.cursor.to_line_end();
                self.fresh = fresh;
            }
            _ => {}
        }
        self.cursor.at = (self.cursor.at + 1).min(self.cursor.end);
    }

    fn word(&mut self) {
        let start = self.cursor.at;
        let word = self.cursor.word();
        if matches!(self.cursor.peek(0), b'"' | b'\'') && word.len() <= 2 {
            let has = |letter: u8| word.iter().any(|byte| byte | 0x20 == letter);
            if word.iter().all(|byte| matches!(byte | 0x20, b'r' | b'b' | b'f' | b'u' | b't')) {
                self.fresh = false;
                return self.string(has(b'r'), has(b'f') || has(b't'));
            }
        }
        let fresh = std::mem::replace(&mut self.fresh, false);
        if fresh {
            match word {
                b"import" => return self.import(),
                b"from" => return self.from(),
                b"async" => self.fresh = true,
                b"def" if self.indent == 0 => self.named(DeclarationKind::Function, start),
                b"class" if self.indent == 0 => self.named(DeclarationKind::Class, start),
                _ if self.indent == 0 => {
                    if word == SHOWN_TO_ALL.as_bytes() {
                        self.shown_to_all(start);
                    }
                    self.assigned(start);
                }
                _ => {}
            }
        }
        if matches!(word, b"import_module" | b"__import__") {
            self.imported_by_call();
        }
    }

    fn blanks_in_line(&mut self) {
        loop {
            match (self.cursor.peek(0), self.cursor.peek(1)) {
                (b' ' | b'\t' | 0x0c, _) => self.cursor.at += 1,
                (b'\\', b'\n') => self.cursor.at += 2,
                (b'\\', b'\r') => self.cursor.at = (self.cursor.at + 3).min(self.cursor.end),
                _ => return,
            }
        }
    }

    fn declare(&mut self, kind: DeclarationKind, whole: usize, (start, end): (usize, usize)) {
        let text = String::from_utf8_lossy(&self.cursor.text[start..end]).into_owned();
        let name = self.recorder.facts().texts.add(&text);
        let (span, whole) = (Span::new(start, end), Span::new(whole, end));
        self.recorder.declare(Declaration::public(name, kind, 0, 0, span, whole));
    }

    fn named(&mut self, kind: DeclarationKind, whole: usize) {
        self.blanks_in_line();
        let start = self.cursor.at;
        if !self.cursor.word().is_empty() {
            self.declare(kind, whole, (start, self.cursor.at));
        }
    }

    /// `name = …`, `name: type = …` at the outermost level.
    fn assigned(&mut self, start: usize) {
        let end = self.cursor.at;
        let mut ahead = self.cursor;
        while matches!(ahead.peek(0), b' ' | b'\t') {
            ahead.at += 1;
        }
        let assigns = ahead.peek(0) == b'=' && ahead.peek(1) != b'=';
        let annotated = ahead.peek(0) == b':' && {
            let line_end = ahead.find(b'\n').unwrap_or(ahead.end);
            self.cursor.text[ahead.at..line_end].contains(&b'=')
        };
        let word = &self.cursor.text[start..end];
        let flow = matches!(word, b"else" | b"try" | b"finally" | b"except" | b"lambda");
        if (assigns || annotated) && !flow {
            self.declare(DeclarationKind::Constant, start, (start, end));
        }
    }

    /// Notes the names in `__all__ = ["beds", 'rows']`, in brackets of any sort; also behind `+=`.
    fn shown_to_all(&mut self, start: usize) {
        let span = Span::new(start, self.cursor.at);
        let mut ahead = self.cursor;
        ahead.skip_blanks();
        if ahead.peek(0) == b'+' {
            ahead.at += 1;
        }
        let assigns = ahead.peek(0) == b'=';
        ahead.at = (ahead.at + 1).min(ahead.end);
        ahead.skip_blanks();
        if !assigns || !matches!(ahead.peek(0), b'[' | b'(') {
            return;
        }
        // A list of texts holds no further bracket, so that of many beginnings each is read as far as the next.
        let text = &self.cursor.text[(ahead.at + 1).min(ahead.end)..ahead.end];
        let ends = |byte: &u8| matches!(byte, b']' | b')' | b'[' | b'(' | b'=');
        let list = &text[..text.iter().position(ends).unwrap_or(0)];
        let mut names = Vec::new();
        for word in list.split(|byte| matches!(byte, b'"' | b'\'')).skip(1).step_by(2) {
            if !word.is_empty() && word.iter().all(|byte| class(*byte) != ByteClass::Blank) {
                let name = self.recorder.facts().texts.add(&String::from_utf8_lossy(word));
                names.push((name, name));
            }
        }
        if !names.is_empty() {
            self.recorder.path_with_names(span, SHOWN_TO_ALL, PathBase::Name, true, names);
        }
    }

    /// A name with dots in it, blanks around the dots allowed; the text and its span.
    fn dotted_name(&mut self) -> (String, Span) {
        let start = self.cursor.at;
        let mut end = start;
        let mut name = Vec::new();
        loop {
            match self.cursor.peek(0) {
                b'.' => {
                    name.push(b'.');
                    self.cursor.at += 1;
                }
                byte if class(byte) == ByteClass::Letter && (name.is_empty() || name.ends_with(b".")) => {
                    // `from . import x`: the word is no part of the name
                    let kept = self.cursor;
                    let word = self.cursor.word();
                    if word == b"import" {
                        self.cursor = kept;
                        break;
                    }
                    name.extend(word);
                }
                _ => break,
            }
            end = self.cursor.at;
            self.blanks_in_line();
        }
        (String::from_utf8_lossy(&name).into_owned(), Span::new(start, end))
    }

    /// The name behind `as`, if there is one.
    fn alias(&mut self) -> Option<String> {
        let kept = self.cursor;
        self.blanks_in_line();
        if self.cursor.word() == b"as" {
            self.blanks_in_line();
            return Some(String::from_utf8_lossy(self.cursor.word()).into_owned());
        }
        self.cursor = kept;
        None
    }

    /// `import a.b as c, d`.
    fn import(&mut self) {
        loop {
            self.blanks_in_line();
            let (name, span) = self.dotted_name();
            if name.is_empty() {
                return;
            }
            // `import a.b` binds `a`; `import a.b as c` binds the module itself
            let names = match self.alias() {
                Some(alias) => vec![(EVERYTHING, self.recorder.facts().texts.add(&alias))],
                None => Vec::new(),
            };
            self.recorder.path_with_names(span, &name, PathBase::Name, false, names);
            self.blanks_in_line();
            if self.cursor.peek(0) != b',' {
                return;
            }
            self.cursor.at += 1;
        }
    }

    /// `from a import b as c, d`, with or without parentheses.
    fn from(&mut self) {
        self.blanks_in_line();
        let (module, span) = self.dotted_name();
        self.blanks_in_line();
        if module.is_empty() || self.cursor.word() != b"import" {
            return;
        }
        self.blanks_in_line();
        let bracketed = self.cursor.peek(0) == b'(';
        if bracketed {
            self.cursor.at += 1;
        }
        let mut names: Vec<(Name, Name)> = Vec::new();
        loop {
            self.blanks(bracketed);
            match self.cursor.peek(0) {
                b'*' => {
                    self.cursor.at += 1;
                    names.push((EVERYTHING, SHOWN_ON));
                }
                b',' => self.cursor.at += 1,
                byte if class(byte) == ByteClass::Letter => {
                    let word = String::from_utf8_lossy(self.cursor.word()).into_owned();
                    let name = self.recorder.facts().texts.add(&word);
                    self.blanks(bracketed);
                    let alias = self.alias();
                    let shown = alias.map_or(name, |alias| self.recorder.facts().texts.add(&alias));
                    names.push((name, shown));
                }
                b')' if bracketed => {
                    self.cursor.at += 1;
                    break;
                }
                _ => break,
            }
        }
        self.recorder.path_with_names(span, &module, PathBase::Name, false, names);
    }

    /// Goes behind blanks; inside brackets behind comments and line ends too.
    fn blanks(&mut self, bracketed: bool) {
        loop {
            self.blanks_in_line();
            match self.cursor.peek(0) {
                b'#' if bracketed => self.cursor.to_line_end(),
                b'\n' | b'\r' if bracketed => self.cursor.at += 1,
                _ => return,
            }
        }
    }

    /// `import_module("a.b")`, `__import__("a.b")`.
    fn imported_by_call(&mut self) {
        let mut ahead = self.cursor;
        if ahead.peek(0) != b'(' {
            return;
        }
        ahead.at += 1;
        ahead.skip_blanks();
        let quote = ahead.peek(0);
        if !matches!(quote, b'"' | b'\'') {
            return;
        }
        let start = ahead.at + 1;
        let rest = &self.cursor.text[start..self.cursor.end];
        let Some(length) = rest.iter().position(|byte| *byte == quote || *byte == b'\n') else { return };
        let name = &rest[..length];
        let inside = |byte: &u8| byte.is_ascii_alphanumeric() || matches!(byte, b'_' | b'.') || *byte >= 0x80;
        ahead.at = start + length + 1;
        ahead.skip_blanks();
        // What is put together from parts is no name.
        if length > 0 && name.iter().all(inside) && matches!(ahead.peek(0), b')' | b',') {
            let text = String::from_utf8_lossy(name).into_owned();
            let span = Span::new(start, start + length);
            self.recorder.path(span, &text, PathBase::Name, false);
        }
    }

    /// Goes behind the string that begins here.
    fn string(&mut self, raw: bool, holes: bool) {
        let start = self.cursor.at;
        self.pass_string(raw, holes, 0);
        if self.recorder.options().weak {
            self.mentions(start, self.cursor.at);
        }
    }

    fn pass_string(&mut self, raw: bool, holes: bool, depth: usize) {
        let quote = self.cursor.peek(0);
        let triple = self.cursor.peek(1) == quote && self.cursor.peek(2) == quote;
        self.cursor.at += if triple { 3 } else { 1 };
        while !self.cursor.done() {
            let rest = &self.cursor.text[self.cursor.at..self.cursor.end];
            let found = if holes {
                rest.iter().position(|&byte| matches!(byte, b'\\' | b'\n' | b'{') || byte == quote)
            } else {
                memchr3(quote, b'\\', b'\n', rest)
            };
            let Some(found) = found else {
                self.cursor.at = self.cursor.end;
                return;
            };
            self.cursor.at += found;
            match self.cursor.peek(0) {
                b'\\' => self.cursor.at = (self.cursor.at + 2).min(self.cursor.end),
                b'\n' if !triple => return,
                b'{' if self.cursor.peek(1) == b'{' => self.cursor.at += 2,
                b'{' => self.hole(raw, quote, triple, depth),
                byte if byte == quote && !triple => {
                    self.cursor.at += 1;
                    return;
                }
                byte if byte == quote && self.cursor.peek(1) == quote && self.cursor.peek(2) == quote => {
                    self.cursor.at += 3;
                    return;
                }
                _ => self.cursor.at += 1,
            }
        }
    }

    /// Goes behind `{ … }` of a formatted string. Strings inside may use the quotes of the one around; whether they
    /// do is told by whether the hole is closed before the next such quote.
    fn hole(&mut self, raw: bool, around: u8, triple: bool, depth: usize) {
        self.cursor.at += 1;
        let mut braces = 0usize;
        while !self.cursor.done() {
            match self.cursor.peek(0) {
                b'}' if braces == 0 => {
                    self.cursor.at += 1;
                    return;
                }
                b'}' => braces -= 1,
                b'{' => braces += 1,
                b'\n' if !triple => return,
                quote @ (b'"' | b'\'') => {
                    if depth >= DEEPEST_HOLE || quote == around && !self.nests(quote) {
                        return;
                    }
                    self.pass_string(raw, false, depth + 1);
                    continue;
                }
                _ => {}
            }
            self.cursor.at += 1;
        }
    }

    /// Whether a quote inside a hole opens a string of its own: on the same line it is closed, and the hole after it.
    fn nests(&self, quote: u8) -> bool {
        let rest = &self.cursor.text[self.cursor.at + 1..self.cursor.end];
        let line = &rest[..memchr::memchr(b'\n', rest).unwrap_or(rest.len()).min(400)];
        let Some(close) = memchr::memchr(quote, line) else { return false };
        line[close..].contains(&b'}')
    }

    /// What a string mentions: imports in examples (`>>> import a`), and a path.
    fn mentions(&mut self, start: usize, end: usize) {
        let text = &self.cursor.text[start..end];
        let triple = text.starts_with(b"\"\"\"") || text.starts_with(b"'''");
        if !triple {
            let quote = text.first().copied().unwrap_or(0);
            let inner = text.get(1..text.len().saturating_sub(1)).unwrap_or_default();
            if text.ends_with(&[quote]) && crate::linking::looks_like_path(inner) {
                let path = String::from_utf8_lossy(inner).into_owned();
                let span = Span::new(start + 1, start + 1 + inner.len());
                self.recorder.path(span, &path, PathBase::Anywhere, true);
            }
            return;
        }
        let first = self.recorder.facts().paths.len();
        let mut at = start;
        while let Some(found) = memmem::find(&self.cursor.text[at..end], b">>> ") {
            let from = at + found + 4;
            let kept = self.cursor;
            self.cursor.at = from;
            self.cursor.end =
                kept.text[from..end].iter().position(|b| *b == b'\n').map_or(end, |line| from + line);
            match self.cursor.word() {
                b"import" => self.import(),
                b"from" => self.from(),
                _ => {}
            }
            self.cursor = kept;
            at = from;
        }
        for path in &mut self.recorder.facts().paths[first..] {
            path.weak = true;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::super::Python;
    use ferngate_model::Language;

    #[test]
    fn reads_imports_wherever_they_stand() {
        let text = br##"# import no
"""import no
from no import no"""
import notes, notes.blooms as blooms
from . import dates
from ..garden.beds import (  # the beds
    bed as b, row,
)
try: import fast; import faster
except ImportError: fast = None
def start():
    from notes.late import *
    x = f"{d["import no"]}" 'import no'
    importlib.import_module("notes.found"); __import__('notes.old')
    self.import_module(name + "no")
class Bloom: pass
LIMIT: int = 3
if LIMIT: import \
    split.name
"##;
        let facts = Python.facts(text, Default::default());
        let paths: Vec<&str> = facts.paths.iter().map(|path| &*path.path).collect();
        let expected = [
            "notes",
            "notes.blooms",
            ".",
            "..garden.beds",
            "fast",
            "faster",
            "notes.late",
            "notes.found",
            "notes.old",
            "split.name",
        ];
        assert_eq!(paths, expected);
        let names: Vec<&str> = facts.declarations.iter().map(|found| facts.texts.text(found.name)).collect();
        assert_eq!(names, ["start", "Bloom", "LIMIT"]);
        assert_eq!(facts.paths[3].names.len(), 2);
    }
}
