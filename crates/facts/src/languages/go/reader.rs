//! One pass over the tokens. Local names are kept on a stack, block by block, so that they are not taken for names of
//! the package.

use crate::cursor::{ByteClass, Cursor, class};
use ferngate_model::{ChainLink, Context, Name, PathBase, Recorder, Root, Span};

/// Reads `text` into `recorder`.
pub fn read(text: &[u8], recorder: &mut Recorder) {
    let reader = Reader {
        cursor: Cursor::new(text),
        recorder,
        blocks: Vec::new(),
        locals: Vec::new(),
        pending: Vec::new(),
        parameters: Vec::new(),
        type_parameters: Vec::new(),
        signature_end: 0,
        named_at: Vec::new(),
        parentheses: 0,
        last: Last::LineEnd,
        head: None,
        in_function: false,
        list_type: false,
        looks: text.len().saturating_mul(6).saturating_add(100_000),
        comment: Span::new(0, 0),
    };
    reader.run();
}

/// Of more local names than this only the last are remembered.
const MOST_LOCALS: usize = 2_000;

/// No assignment has more names on its left.
const MOST_ASSIGNED: usize = 40;

/// What a pair of braces holds.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum BlockKind {
    Statements,
    Struct,
    Interface,
    /// A literal whose keys are names of fields.
    Fields,
    /// A literal whose keys are values.
    Values,
}

pub(super) struct Block {
    kind: BlockKind,
    /// Number of locals before it and its head.
    locals: usize,
    /// Number of locals before what it holds itself.
    inside: usize,
    /// For the body of a function, where the locals of the head around begin.
    head_around: Option<usize>,
    /// Parentheses that were open before it.
    parentheses: usize,
    /// It is the shape of what a list or map holds: `[]struct{ … }`.
    in_list: bool,
    /// Names of the statement around, which are known behind it only.
    waiting: Vec<Name>,
}

/// The token before, as far as it matters.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Last {
    LineEnd,
    Dot,
    /// A name or a closing bracket: a brace behind it may begin a literal.
    Operand,
    /// `struct` or `interface`.
    Shape(BlockKind),
    Mark(u8),
    Keyword,
}

pub(super) struct Reader<'t, 'r> {
    pub(super) cursor: Cursor<'t>,
    pub(super) recorder: &'r mut Recorder,
    pub(super) blocks: Vec<Block>,
    pub(super) locals: Vec<Name>,
    /// Names that `:=` declares, known from the end of the statement on.
    pub(super) pending: Vec<Name>,
    /// Parameters of a function whose body may follow.
    pub(super) parameters: Vec<Name>,
    /// Parameters that stand for types, of what is declared here.
    pub(super) type_parameters: Vec<Name>,
    /// Where the lists of the last signature end.
    pub(super) signature_end: usize,
    /// Where names of parameters stand, which are no uses; descending.
    pub(super) named_at: Vec<usize>,
    pub(super) parentheses: usize,
    pub(super) last: Last,
    /// Where the locals begin of a head that is being read, such as `if bed := next(); bed != nil`: they end with its block.
    head: Option<usize>,
    /// The next block is the body of a function.
    pub(super) in_function: bool,
    /// The type that is being read is a list or map.
    list_type: bool,
    /// How many bytes of signatures are still looked at ahead.
    pub(super) looks: usize,
    /// The last comment, which belongs to `import "C"` if that follows.
    pub(super) comment: Span,
}

impl Reader<'_, '_> {
    fn run(mut self) {
        while !self.cursor.done() {
            let byte = self.cursor.text[self.cursor.at];
            match class(byte) {
                ByteClass::Blank => self.blank(byte),
                ByteClass::Letter => self.word(),
                ByteClass::Digit => {
                    self.cursor.word();
                    while self.cursor.peek(0) == b'.' && self.cursor.peek(1).is_ascii_digit() {
                        self.cursor.at += 1;
                        self.cursor.word();
                    }
                    self.last = Last::Mark(b'0');
                }
                _ => self.mark(byte),
            }
        }
    }

    fn blank(&mut self, byte: u8) {
        self.cursor.at += 1;
        if byte == b'\n' {
            self.end_statement();
        }
    }

    fn end_statement(&mut self) {
        self.locals.append(&mut self.pending);
        let base = self.blocks.last().map_or(0, |block| block.parentheses);
        if self.parentheses <= base {
            // A signature without a body.
            self.parameters.clear();
            self.type_parameters.clear();
            self.in_function = false;
            // A list goes on behind a comma, a chain behind a dot.
            if !matches!(self.last, Last::Mark(b',') | Last::Dot) {
                self.last = Last::LineEnd;
            }
        }
    }

    fn mark(&mut self, byte: u8) {
        match (byte, self.cursor.peek(1)) {
            (b'/', b'/') => return self.line_comment(),
            (b'/', b'*') => {
                let start = self.cursor.at;
                self.cursor.at += 2;
                self.cursor.past(b"*/");
                self.comment = Span::new(start, self.cursor.at);
                return;
            }
            (b'"' | b'\'', _) => {
                self.cursor.past_quoted(byte);
                self.last = Last::Mark(b'0');
                return;
            }
            (b'`', _) => {
                self.cursor.at += 1;
                self.cursor.at = self.cursor.find(b'`').map_or(self.cursor.end, |end| end + 1);
                self.last = Last::Mark(b'0');
                return;
            }
            (b'{', _) => return self.open_brace(),
            (b'}', _) => return self.close_brace(),
            (b'(', _) => self.parentheses += 1,
            (b')', _) => self.parentheses = self.parentheses.saturating_sub(1),
            (b'.', b'.') => {
                self.cursor.at += if self.cursor.peek(2) == b'.' { 3 } else { 2 };
                self.last = Last::Mark(b'.');
                return;
            }
            (b';', _) => {
                self.locals.append(&mut self.pending);
            }
            (b']', next) => {
                // `[]Type{…}`, `map[string]Type{…}`
                self.list_type = class(next) == ByteClass::Letter || matches!(next, b'*' | b'[' | b'{');
            }
            _ => {}
        }
        self.cursor.at += 1;
        if !matches!(byte, b']' | b'[' | b'*' | b'.') {
            self.list_type = false;
        }
        self.last = match byte {
            b'.' => Last::Dot,
            b')' | b']' => Last::Operand,
            b';' => Last::LineEnd,
            byte => Last::Mark(byte),
        };
    }

    fn line_comment(&mut self) {
        let start = self.cursor.at;
        self.cursor.to_line_end();
        let line = &self.cursor.text[start..self.cursor.at];
        if line.starts_with(b"//go:embed ") && self.recorder.options().weak {
            self.embedded(start);
        }
        // Lines of a comment in front of `import "C"` belong together.
        let joined = self.cursor.text[self.comment.end as usize..start].iter().all(u8::is_ascii_whitespace);
        let from = if joined && self.comment.end > 0 { self.comment.start as usize } else { start };
        self.comment = Span::new(from, self.cursor.at);
    }

    /// Files that `//go:embed` names without a pattern.
    fn embedded(&mut self, start: usize) {
        let text = self.cursor.text;
        let mut at = start + 10;
        for word in text[at..self.cursor.at].split(|byte| byte.is_ascii_whitespace()) {
            let plain =
                !word.is_empty() && !word.iter().any(|byte| matches!(byte, b'*' | b'?' | b'[' | b'"'));
            if plain {
                let path = String::from_utf8_lossy(word).into_owned();
                self.recorder.path(Span::new(at, at + word.len()), &path, PathBase::Folder, true);
            }
            at += word.len() + 1;
        }
    }

    fn open_brace(&mut self) {
        let around = self.blocks.last().map_or(BlockKind::Statements, |block| block.kind);
        // The formatter of the language sets a blank before the brace of a block, and none before that of a literal.
        let before = self.cursor.at.checked_sub(1).map_or(b' ', |at| self.cursor.text[at]);
        let literal = self.last == Last::Operand && before != b')' && class(before) != ByteClass::Blank;
        let kind = match self.last {
            Last::Shape(kind) => kind,
            _ if literal && self.list_type => BlockKind::Values,
            _ if literal => BlockKind::Fields,
            // `{{A: 1}, {A: 2}}`: literals inside of literals leave their type out
            Last::Mark(b'{' | b',' | b':') | Last::LineEnd
                if matches!(around, BlockKind::Fields | BlockKind::Values) =>
            {
                BlockKind::Fields
            }
            _ => BlockKind::Statements,
        };
        let base = self.blocks.last().map_or(0, |block| block.parentheses);
        let mut block = Block {
            kind,
            locals: self.locals.len(),
            inside: self.locals.len(),
            head_around: None,
            parentheses: self.parentheses,
            in_list: self.list_type && matches!(self.last, Last::Shape(_)),
            waiting: Vec::new(),
        };
        match kind {
            BlockKind::Statements => {
                let head = self.head.take();
                if std::mem::take(&mut self.in_function) {
                    block.waiting = std::mem::take(&mut self.pending);
                    block.head_around = head;
                } else {
                    block.locals = head.unwrap_or(block.locals);
                }
                self.locals.append(&mut self.pending);
                self.locals.append(&mut self.parameters);
                self.locals.append(&mut self.type_parameters);
                block.inside = self.locals.len();
            }
            kind => {
                // `bed := Bed{` goes on over lines.
                block.waiting = std::mem::take(&mut self.pending);
                let is_type = matches!(kind, BlockKind::Struct | BlockKind::Interface);
                if is_type && self.parentheses <= base {
                    self.locals.append(&mut self.type_parameters);
                }
            }
        }
        self.blocks.push(block);
        self.list_type = false;
        self.last = Last::Mark(b'{');
        self.cursor.at += 1;
    }

    fn close_brace(&mut self) {
        self.cursor.at += 1;
        if let Some(block) = self.blocks.pop() {
            let statements = block.kind == BlockKind::Statements;
            if statements && block.inside > block.locals && self.goes_on_with_else() {
                // What the head declares is known in the other branches too.
                self.locals.truncate(block.inside);
                self.head = Some(block.locals);
            } else {
                self.locals.truncate(block.locals);
                if statements {
                    self.head = block.head_around;
                }
            }
            self.parentheses = block.parentheses;
            self.list_type = block.in_list;
            self.pending = block.waiting;
        }
        self.last = Last::Operand;
    }

    fn goes_on_with_else(&self) -> bool {
        let mut ahead = self.cursor;
        while matches!(ahead.peek(0), b' ' | b'\t') {
            ahead.at += 1;
        }
        ahead.word() == b"else"
    }

    fn word(&mut self) {
        let start = self.cursor.at;
        let name = self.cursor.name();
        let word = &self.cursor.text[start..self.cursor.at];
        let last = std::mem::replace(&mut self.last, Last::Operand);
        if last == Last::Dot {
            return;
        }
        let fresh = matches!(last, Last::LineEnd | Last::Mark(b'{'));
        match word {
            b"package" if fresh && self.blocks.is_empty() => self.package(start),
            b"import" if fresh && self.blocks.is_empty() => self.imports(),
            b"func" => self.function(start),
            b"type" | b"var" | b"const" if fresh => self.declarations(word, start),
            b"struct" => self.last = Last::Shape(BlockKind::Struct),
            b"interface" => self.last = Last::Shape(BlockKind::Interface),
            b"map" => self.last = Last::Keyword,
            b"break" | b"continue" | b"goto" => {
                // A label is no name of the package.
                self.last = Last::Keyword;
                if self.cursor.peek(0) == b' ' {
                    self.cursor.at += 1;
                    self.cursor.word();
                }
            }
            b"if" | b"for" | b"switch" | b"select" => {
                self.head.get_or_insert(self.locals.len());
                self.last = Last::Keyword;
            }
            b"case" | b"range" | b"return" | b"go" | b"defer" | b"else" | b"chan" | b"default"
            | b"fallthrough" => self.last = Last::Keyword,
            _ => self.identifier(name, start, last),
        }
    }

    fn identifier(&mut self, name: Name, start: usize, last: Last) {
        while self.named_at.last().is_some_and(|at| *at < start) {
            self.named_at.pop();
        }
        if self.named_at.last() == Some(&start) {
            self.named_at.pop();
            return;
        }
        let kind = self.blocks.last().map_or(BlockKind::Statements, |block| block.kind);
        let fresh = matches!(last, Last::LineEnd | Last::Mark(b'{'));
        let inside = self.blocks.last().is_some_and(|block| self.parentheses > block.parentheses);
        let next = self.cursor.peek(0);
        match kind {
            BlockKind::Struct if fresh && !inside && self.begins_field() => return self.skip_names(),
            BlockKind::Interface if fresh && next == b'(' => return self.signature(),
            BlockKind::Fields if next == b':' && self.cursor.peek(1) != b'=' => return,
            // A label.
            BlockKind::Statements if fresh && next == b':' && self.cursor.peek(1) != b'=' => return,
            _ => {}
        }
        if kind == BlockKind::Statements && !self.blocks.is_empty() && self.assigns() {
            return self.assigned(name);
        }
        // A parameter hides a name in the body only, not in the signature itself.
        let mut locals = self.locals.iter().rev().take(MOST_LOCALS).chain(&self.type_parameters);
        if locals.any(|local| *local == name) {
            return;
        }
        let link = ChainLink { name, arity: 0, span: Span::new(start, self.cursor.at) };
        if next == b'.' && class(self.cursor.peek(1)) == ByteClass::Letter {
            self.cursor.at += 1;
            let from = self.cursor.at;
            let second = self.cursor.name();
            let second = ChainLink { name: second, arity: 0, span: Span::new(from, self.cursor.at) };
            self.recorder.chain(Root::Scope(0), &[link, second], Context::Value, false);
            let begins = fresh || last == Last::Mark(b',');
            if let Some(block) = self.blocks.last_mut()
                && block.kind == BlockKind::Fields
                && begins
                && !inside
                && self.cursor.peek(0) == b':'
            {
                // No field has such a name: the type is a map, so plain keys are values too.
                block.kind = BlockKind::Values;
            }
        } else {
            self.recorder.chain(Root::Scope(0), &[link], Context::Value, false);
        }
    }

    /// Whether a line in a struct begins with names of fields, and not with an embedded type.
    fn begins_field(&self) -> bool {
        let mut ahead = self.cursor;
        while matches!(ahead.peek(0), b' ' | b'\t') {
            ahead.at += 1;
        }
        let embedded = matches!(ahead.peek(0), b'\n' | b'\r' | b'.' | b'`' | b'"' | b'/' | b'}' | b';' | 0);
        let generic = ahead.peek(0) == b'[' && ahead.at == self.cursor.at;
        !embedded && !generic
    }

    /// The rest of `a, b Type`.
    fn skip_names(&mut self) {
        loop {
            while matches!(self.cursor.peek(0), b' ' | b'\t') {
                self.cursor.at += 1;
            }
            if self.cursor.peek(0) != b',' {
                self.last = Last::Keyword;
                return;
            }
            self.cursor.at += 1;
            self.cursor.skip_blanks();
            self.cursor.word();
        }
    }

    /// Whether the name that was just read begins a list of names before `:=`.
    fn assigns(&self) -> bool {
        let mut ahead = self.cursor;
        for _ in 0..MOST_ASSIGNED {
            while matches!(ahead.peek(0), b' ' | b'\t') {
                ahead.at += 1;
            }
            match (ahead.peek(0), ahead.peek(1)) {
                (b':', b'=') => return true,
                (b',', _) => {
                    ahead.at += 1;
                    ahead.skip_blanks();
                    if ahead.word().is_empty() {
                        return false;
                    }
                }
                _ => return false,
            }
        }
        false
    }

    /// The names before `:=`; they are known behind the statement.
    fn assigned(&mut self, first: Name) {
        self.pending.push(first);
        loop {
            while matches!(self.cursor.peek(0), b' ' | b'\t') {
                self.cursor.at += 1;
            }
            if self.cursor.peek(0) != b',' {
                self.last = Last::Keyword;
                return;
            }
            self.cursor.at += 1;
            self.cursor.skip_blanks();
            let name = self.cursor.name();
            self.pending.push(name);
        }
    }
}
