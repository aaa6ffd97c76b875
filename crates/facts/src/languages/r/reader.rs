//! One pass over the tokens. What a function binds is kept on a stack: it hides a value of the same name, but not a
//! function that is called by it.

use super::calls::{LOOKED_THROUGH, is_written_function, may_be_function};
use crate::cursor::{ByteClass, Cursor, class, in_word};
use ferngate_model::{
    ChainLink, Context, Declaration, DeclarationKind, FUNCTION, Name, PathBase, Recorder, Root, Span,
};

/// Reads `text` into `recorder`.
pub fn read(text: &[u8], recorder: &mut Recorder) {
    Reader {
        cursor: Cursor::new(text),
        recorder,
        open: Vec::new(),
        bodies: 0,
        calls: 0,
        locals: Vec::new(),
        plain_bodies: Vec::new(),
        last: Last::Start,
        name: None,
    }
    .run();
}

/// An open bracket.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum Open {
    /// The arguments of a call.
    Call,
    /// The arguments of a call that lets them happen where it stands.
    Through,
    /// The parameters of a function; the function reaches to the end of the expression behind them.
    Parameters,
    /// What stands between `if`, `while` or `for` and what it governs.
    Condition,
    /// A block that is the body of a function, with the number of locals before it.
    Body(usize),
    /// Braces that are no body of a function.
    Block,
    /// Any other.
    Group,
}

/// The token before, as far as it matters.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Last {
    Start,
    /// `$`, `@`: a part of a value follows.
    Part,
    /// `->`, `->>`: what follows is bound to the value before; the second one past all functions.
    Arrow,
    FarArrow,
    /// `function` or `\`.
    Function,
    /// `for`, and the parenthesis behind it.
    Loop,
    LoopHead,
    /// `if`, `while`, and all that stands between it and what it governs.
    Condition,
    Conditioned,
    /// `else`.
    Else,
    /// A sign that something must follow, such as `+` or `<-`.
    Operator,
    /// The parameters of a function have been read, down to this number of locals.
    Head(usize),
    Word,
    Other,
}

pub(super) struct Reader<'t, 'r> {
    pub(super) cursor: Cursor<'t>,
    pub(super) recorder: &'r mut Recorder,
    open: Vec<Open>,
    /// How many of them are bodies of functions, and calls.
    bodies: usize,
    calls: usize,
    /// Names that functions bind, and whether to a function that is written there.
    locals: Vec<(Name, bool)>,
    /// Functions whose body has no braces: how many brackets are open around it, and the number of locals before it.
    plain_bodies: Vec<(usize, usize)>,
    last: Last,
    /// The name or string before, where a sign of assignment may follow: its span and whether it is quoted.
    name: Option<(usize, usize)>,
}

/// Of more local names than this only the last are remembered.
const MOST_LOCALS: usize = 2_000;

/// Further ahead than this no `else` is looked for behind a line.
const LONGEST_GAP: usize = 256;

/// No operator has a longer name.
const LONGEST_OPERATOR: usize = 80;

/// Words of the language.
pub(super) const WORDS: &[&[u8]] = &[
    b"if", b"else", b"for", b"while", b"repeat", b"in", b"next", b"break", b"TRUE", b"FALSE", b"NULL", b"NA",
    b"Inf", b"NaN", b"return",
];

impl Reader<'_, '_> {
    fn run(&mut self) {
        while !self.cursor.done() {
            let byte = self.cursor.text[self.cursor.at];
            if let Last::Head(locals) = self.last
                && class(byte) != ByteClass::Blank
                && !matches!(byte, b'{' | b'#')
            {
                self.plain_bodies.push((self.open.len(), locals));
                self.last = Last::Other;
            }
            match class(byte) {
                ByteClass::Blank => {
                    self.cursor.at += 1;
                    if byte == b'\n' {
                        self.end_line();
                    }
                }
                ByteClass::Letter => self.word(),
                ByteClass::Digit => {
                    while in_word(self.cursor.peek(0)) || self.cursor.peek(0) == b'.' {
                        self.cursor.at += 1;
                    }
                    self.set(Last::Other);
                }
                _ => self.mark(byte),
            }
        }
    }

    pub(super) fn set(&mut self, last: Last) {
        self.last = last;
        self.name = None;
    }

    fn end_line(&mut self) {
        // Between other brackets than braces the end of a line means nothing.
        if !matches!(self.open.last(), None | Some(Open::Block | Open::Body(_))) {
            return;
        }
        self.name = None;
        if !self.plain_bodies.is_empty() && !self.goes_on() {
            self.end_plain_bodies();
        }
    }

    /// Whether the line that ends here is no whole expression.
    fn goes_on(&self) -> bool {
        use Last::{Arrow, Conditioned, Else, FarArrow, Head, Operator};
        matches!(self.last, Arrow | Conditioned | Else | FarArrow | Head(_) | Operator) || self.else_follows()
    }

    /// Whether the next lines go on with `else`, as they may between brackets.
    fn else_follows(&self) -> bool {
        let far = self.cursor.end.min(self.cursor.at + LONGEST_GAP);
        let next = self.cursor.text[self.cursor.at.min(far)..far].trim_ascii_start();
        let word = next.strip_prefix(b"else");
        !self.open.is_empty() && word.is_some_and(|rest| !rest.first().is_some_and(|byte| in_word(*byte)))
    }

    /// What a function without braces binds ends with its expression.
    fn end_plain_bodies(&mut self) {
        while let Some(&(depth, locals)) = self.plain_bodies.last()
            && depth >= self.open.len()
        {
            self.locals.truncate(locals);
            self.plain_bodies.pop();
        }
    }

    pub(super) fn outermost(&self) -> bool {
        self.open.is_empty()
    }

    fn mark(&mut self, byte: u8) {
        match (byte, self.cursor.peek(1)) {
            (b'#', _) => self.cursor.to_line_end(),
            (b'"' | b'\'', _) => {
                let start = self.cursor.at + 1;
                self.string(byte);
                self.mentioned(start);
                let end = self.cursor.at.saturating_sub(1).max(start);
                if self.last == Last::Arrow {
                    self.bind(start, end, DeclarationKind::Function);
                }
                self.last = Last::Other;
                self.name = Some((start, end));
            }
            (b'`', _) => {
                let start = self.cursor.at + 1;
                self.cursor.at = start;
                let end = self.cursor.find(b'`').unwrap_or(self.cursor.end);
                self.cursor.at = (end + 1).min(self.cursor.end);
                self.named(start, end.min(self.cursor.end));
            }
            (b'<', b'-') => self.assign(2),
            (b'<', b'<') if self.cursor.peek(2) == b'-' => {
                self.cursor.at += 3;
                let name = self.name.take();
                self.set(Last::Operator);
                if let Some((start, end)) = name.filter(|_| !self.in_function()) {
                    self.bind(start, end, self.kind_of_what_follows());
                }
            }
            (b'-', b'>') => {
                let far = self.cursor.peek(2) == b'>';
                self.cursor.at += if far { 3 } else { 2 };
                self.set(if far { Last::FarArrow } else { Last::Arrow });
            }
            (b'=', b'=') | (b'<' | b'>' | b'!', b'=') => {
                self.cursor.at += 2;
                self.set(Last::Operator);
            }
            (b'=', _) => self.assign(1),
            (b'.', next) if class(next) == ByteClass::Letter || next == b'.' => self.word(),
            (b'$' | b'@', _) => {
                self.cursor.at += 1;
                self.set(Last::Part);
            }
            (b'\\', b'(') => {
                self.cursor.at += 1;
                self.set(Last::Function);
            }
            (b'%', _) => {
                // An operator of one's own: `%in%`
                let start = self.cursor.at;
                let rest = &self.cursor.text[start + 1..self.cursor.end];
                let stop = rest.iter().take(LONGEST_OPERATOR).position(|byte| matches!(byte, b'%' | b'\n'));
                self.cursor.at += 1;
                if let Some(length) = stop.filter(|length| rest[*length] == b'%') {
                    self.cursor.at += length + 1;
                    self.operator(start, self.cursor.at);
                }
                self.set(Last::Operator);
            }
            (b'(' | b'[' | b'{', _) => self.open_bracket(byte),
            (b')' | b']' | b'}', _) => self.close_bracket(),
            (b',' | b';', _) => {
                self.cursor.at += 1;
                self.end_plain_bodies();
                self.set(Last::Start);
            }
            _ => {
                self.cursor.at += 1;
                self.set(Last::Operator);
            }
        }
    }

    fn open_bracket(&mut self, byte: u8) {
        let open = match (byte, self.last) {
            (b'(', Last::Function) => Open::Parameters,
            (b'(', Last::Condition | Last::Loop) => Open::Condition,
            (b'(', Last::Word) if self.is_looked_through() => Open::Through,
            (b'(' | b'[', Last::Word) => Open::Call,
            (b'[', _) => Open::Call,
            (b'{', Last::Head(locals)) => Open::Body(locals),
            (b'{', _) => Open::Block,
            _ => Open::Group,
        };
        if open == Open::Parameters {
            self.open.push(Open::Body(self.locals.len()));
        }
        let in_loop = byte == b'(' && self.last == Last::Loop;
        self.open.push(open);
        self.count(open, 1);
        self.cursor.at += 1;
        self.set(if in_loop { Last::LoopHead } else { Last::Start });
    }

    /// Whether the name before is that of a function which lets what it is given happen where it stands.
    fn is_looked_through(&self) -> bool {
        self.name.is_some_and(|(start, end)| LOOKED_THROUGH.contains(&&self.cursor.text[start..end]))
    }

    fn count(&mut self, open: Open, by: isize) {
        match open {
            Open::Call => self.calls = self.calls.saturating_add_signed(by),
            Open::Body(_) => self.bodies = self.bodies.saturating_add_signed(by),
            _ => {}
        }
    }

    fn close_bracket(&mut self) {
        self.cursor.at += 1;
        self.end_plain_bodies();
        if let Some(&open) = self.open.last() {
            self.count(open, -1);
        }
        match self.open.pop() {
            // The function goes on with its body.
            Some(Open::Parameters) => {
                let locals = match self.open.pop() {
                    Some(Open::Body(locals)) => locals,
                    _ => 0,
                };
                return self.set(Last::Head(locals));
            }
            Some(Open::Body(locals)) => self.locals.truncate(locals),
            Some(Open::Condition) => return self.set(Last::Conditioned),
            _ => {}
        }
        self.set(Last::Word);
    }

    fn word(&mut self) {
        let start = self.cursor.at;
        while in_word(self.cursor.peek(0)) || self.cursor.peek(0) == b'.' {
            self.cursor.at += 1;
        }
        let end = self.cursor.at;
        let text = self.cursor.text;
        let word = &text[start..end];
        if matches!(word, b"r" | b"R") && matches!(self.cursor.peek(0), b'"' | b'\'') {
            return self.raw_string();
        }
        if self.last == Last::Part {
            return self.set(Last::Word);
        }
        if word == b"function" {
            return self.set(Last::Function);
        }
        match word {
            b"for" => return self.set(Last::Loop),
            b"if" | b"while" => return self.set(Last::Condition),
            b"else" => return self.set(Last::Else),
            _ if WORDS.contains(&word) => return self.set(Last::Other),
            _ => {}
        }
        if self.last == Last::LoopHead {
            self.locals.push((Name::new(word), false));
            return self.set(Last::Word);
        }
        self.named(start, end);
    }

    /// A name that is no word of the language.
    fn named(&mut self, start: usize, end: usize) {
        let (first, arrow) = (self.last == Last::Start, self.last);
        self.last = Last::Word;
        self.name = Some((start, end));
        if arrow == Last::Arrow || arrow == Last::FarArrow && !self.in_function() {
            // What stands before an arrow may be a function.
            return self.bind(start, end, DeclarationKind::Function);
        }
        let mut ahead = self.cursor;
        while matches!(ahead.peek(0), b' ' | b'\t') {
            ahead.at += 1;
        }
        let (next, second) = (ahead.peek(0), ahead.peek(1));
        if next == b':' && second == b':' {
            return self.qualified(start, end);
        }
        let assigned = next == b'<' && second == b'-' || next == b'=' && second != b'=';
        let called = next == b'(';
        let in_parameters = matches!(self.open.last(), Some(Open::Parameters));
        if in_parameters && first && !called {
            let name = Name::new(&self.cursor.text[start..end]);
            if matches!(next, b',' | b')' | b'=' | b'\n' | b'\r' | b'#') {
                self.locals.push((name, false));
                return;
            }
        }
        if assigned {
            return;
        }
        if called {
            self.call(start, end, ahead);
        }
        let name = Name::new(&self.cursor.text[start..end]);
        let mut known = self.locals.iter().rev().take(MOST_LOCALS);
        if !known.any(|(local, is_function)| *local == name && (*is_function || !called)) {
            let arity = if called { FUNCTION } else { 0 };
            let link = ChainLink { name, arity, span: Span::new(start, end) };
            self.recorder.chain(Root::Scope(0), &[link], Context::Value, called);
        }
    }

    fn operator(&mut self, start: usize, end: usize) {
        let name = Name::new(&self.cursor.text[start..end]);
        let link = ChainLink { name, arity: FUNCTION, span: Span::new(start, end) };
        self.recorder.chain(Root::Scope(0), &[link], Context::Value, true);
    }

    /// `package::name`, `package:::name`.
    fn qualified(&mut self, start: usize, end: usize) {
        let package = Name::new(&self.cursor.text[start..end]);
        let text = String::from_utf8_lossy(&self.cursor.text[start..end]).into_owned();
        while self.cursor.peek(0) == b':' {
            self.cursor.at += 1;
        }
        let from = self.cursor.at;
        while in_word(self.cursor.peek(0)) || self.cursor.peek(0) == b'.' {
            self.cursor.at += 1;
        }
        let name = Name::new(&self.cursor.text[from..self.cursor.at]);
        self.recorder.path(Span::new(start, end), &text, PathBase::Name, false);
        let links = [
            ChainLink { name: package, arity: 0, span: Span::new(start, end) },
            ChainLink { name, arity: 0, span: Span::new(from, self.cursor.at) },
        ];
        self.recorder.chain(Root::Global, &links, Context::Value, false);
        // Its own packages come with R: `base::source("beds.R")`.
        let mut ahead = self.cursor;
        while matches!(ahead.peek(0), b' ' | b'\t') {
            ahead.at += 1;
        }
        if ahead.peek(0) == b'(' && matches!(&*text, "base" | "methods") {
            self.call(from, self.cursor.at, ahead);
        }
        self.set(Last::Word);
    }

    /// `<-` and `=` behind a name.
    fn assign(&mut self, length: usize) {
        self.cursor.at += length;
        let name = self.name.take();
        self.last = Last::Operator;
        let Some((start, end)) = name else { return };
        // The name of an argument, or a default.
        let is_named = matches!(self.open.last(), Some(Open::Call | Open::Through | Open::Parameters));
        if !(is_named && length == 1) {
            self.bind(start, end, self.kind_of_what_follows());
        }
    }

    /// A name is bound here: outside of functions, or as a local one.
    fn bind(&mut self, start: usize, end: usize, kind: DeclarationKind) {
        if self.in_function() {
            self.locals.push((Name::new(&self.cursor.text[start..end]), is_written_function(self.cursor)));
        // What is bound in the argument of a call is known to the call.
        } else if self.calls == 0 {
            self.declare(start, end, kind, start);
        }
    }

    fn kind_of_what_follows(&self) -> DeclarationKind {
        if may_be_function(self.cursor) { DeclarationKind::Function } else { DeclarationKind::Constant }
    }

    fn in_function(&self) -> bool {
        self.bodies > 0 || !self.plain_bodies.is_empty()
    }

    pub(super) fn declare(&mut self, start: usize, end: usize, kind: DeclarationKind, whole: usize) {
        let text = String::from_utf8_lossy(&self.cursor.text[start..end]).into_owned();
        let name = self.recorder.facts().texts.add(&text);
        let (span, whole) = (Span::new(start, end), Span::new(whole.min(start), end));
        self.recorder.declare(Declaration::public(name, kind, 0, 0, span, whole));
    }
}

#[cfg(test)]
mod tests {
    use super::super::R;
    use ferngate_model::Language;

    #[test]
    fn reads_scripts_packages_and_names() {
        let text = "source('blooms.R') # source('no.R')\nlibrary(ggplot2); requireNamespace(\"stats\")\n\
            count_blooms <- function(beds, limit = LIMIT) {\n  total <- sum_beds(beds$open, na.rm = TRUE)\n  total(total)\n\
            \x20 moss::grow(limit, unknown)\n}\nLIMIT = 3\n`%near%` <- function(a, b) a %near% b\nsetClass(\"Bed\")\n\
            x <- r\"(source('no.R'))\"\n";
        let facts = R.facts(text.as_bytes(), Default::default());
        let paths: Vec<&str> = facts.paths.iter().map(|path| &*path.path).collect();
        assert_eq!(paths, ["blooms.R", "ggplot2", "stats", "moss"]);
        let names: Vec<&str> = facts.declarations.iter().map(|found| facts.texts.text(found.name)).collect();
        assert_eq!(names, ["count_blooms", "LIMIT", "%near%", "Bed", "x"]);
        let used = |name: &str| {
            facts.uses.iter().any(|used| used.name == ferngate_model::Name::new(name.as_bytes()))
        };
        assert!(used("LIMIT") && used("sum_beds") && used("total") && used("unknown") && used("grow"));
        assert!(!used("limit") && !used("beds") && !used("open") && !used("na.rm"));
    }
}
