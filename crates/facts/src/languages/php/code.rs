//! Code: statements at the top of a file and inside functions.

use super::lexer::Kind;
use super::{Chain, FrameKind, NO_DECLARATION, Reader, Word};
use crate::chain_links::ChainLinks;
use ferngate_model::{
    CONSTANT, ChainLink, Context, DeclarationKind, FUNCTION, NAMESPACE, Name, PathBase, Root, Span,
};

impl Reader<'_, '_> {
    /// Reads code until the frame that holds it ends or another begins.
    pub(super) fn code(&mut self) {
        let base = self.frames.len();
        while self.frames.len() == base && self.token.kind != Kind::End {
            let top = base - 1;
            let frame = &mut self.frames[top];
            match self.token.kind {
                Kind::Mark(b'{') => {
                    frame.depth += 1;
                    self.advance();
                }
                Kind::Mark(b'}') if frame.depth > 0 => {
                    frame.depth -= 1;
                    self.advance();
                }
                Kind::Mark(b'}') => {
                    // A statement without its semicolon: the brace closes what is around it.
                    let closes = matches!(frame.kind, FrameKind::Block | FrameKind::Namespace);
                    if frame.kind == FrameKind::Namespace {
                        let (scope, end) = (frame.scope, self.token.span.end as usize);
                        self.recorder.close_scope(scope, end);
                    }
                    if self.frames[top].kind == FrameKind::File {
                        self.advance();
                        continue;
                    }
                    self.pop();
                    if closes {
                        self.advance();
                    }
                }
                Kind::Mark(b';') if frame.kind == FrameKind::Statement && frame.depth == 0 => {
                    self.pop();
                    self.advance();
                }
                Kind::Mark(b'(') => self.open_parenthesis(false),
                Kind::Mark(b')') => self.close_parenthesis(),
                _ => self.code_token(),
            }
        }
    }

    fn close_parenthesis(&mut self) {
        let open =
            if self.parentheses.len() > self.frame().parentheses { self.parentheses.pop() } else { None };
        self.advance();
        if open == Some(true) {
            self.anonymous_class();
        }
    }

    #[inline]
    pub(super) fn code_token(&mut self) {
        match self.token.kind {
            Kind::Word | Kind::Mark(b'\\') => self.code_word(),
            Kind::Attribute => self.attributes(),
            Kind::Arrow | Kind::Colons => {
                self.advance();
                if self.is_word() {
                    self.advance(); // a member's name, whatever it is spelled like
                }
            }
            Kind::Text | Kind::Other if !self.lexer.holes.is_empty() => self.holes(),
            Kind::Text => self.literal(),
            _ => self.advance(),
        }
    }

    /// Reads the code inside of a string.
    fn holes(&mut self) {
        let after = self.lexer.cursor;
        for hole in std::mem::take(&mut self.lexer.holes) {
            self.lexer.cursor.at = hole.start as usize;
            self.lexer.cursor.end = hole.end as usize;
            self.advance();
            while self.token.kind != Kind::End {
                match self.token.kind {
                    Kind::Word if self.word == Word::New => {
                        self.advance();
                        if self.begins_name() {
                            self.class_name();
                        }
                    }
                    Kind::Word | Kind::Mark(b'\\') if self.begins_name() => self.name(),
                    Kind::Arrow | Kind::Colons => {
                        self.advance();
                        if self.is_word() {
                            self.advance();
                        }
                    }
                    _ => self.advance(),
                }
            }
        }
        self.lexer.cursor = after;
        self.advance();
    }

    pub(super) fn code_word(&mut self) {
        let word = self.word;
        match word {
            Word::Namespace if !self.peek().0.is(b'\\') => self.namespace(),
            Word::Use if self.at_top() => self.imports(),
            Word::Modifier if self.before_class() => self.advance(),
            Word::Class | Word::Interface | Word::Trait => self.class(self.token.span.start as usize),
            Word::Enum if self.begins_enumeration() => self.class(self.token.span.start as usize),
            Word::Function => self.function(),
            Word::Const if self.at_top() => self.constants(),
            Word::New => self.creation(),
            Word::Instanceof => {
                self.advance();
                self.class_name();
            }
            Word::Catch => {
                self.advance();
                if self.is(b'(') {
                    self.open_parenthesis(false);
                    self.declared_type();
                }
            }
            Word::Include => self.include(),
            Word::Goto => {
                self.advance();
                self.advance();
            }
            _ if self.begins_name() => self.name(),
            // `static fn`, `static::create()`, `array(…)`
            _ => self.advance(),
        }
    }

    /// Whether imports and constants can stand here.
    fn at_top(&self) -> bool {
        let frame = self.frame();
        matches!(frame.kind, FrameKind::File | FrameKind::Namespace) && frame.depth == 0
    }

    fn before_class(&mut self) -> bool {
        matches!(self.peek().1, Word::Class | Word::Modifier)
    }

    fn begins_enumeration(&mut self) -> bool {
        let (next, word) = self.peek();
        next.kind == Kind::Word && !matches!(word, Word::Extends | Word::Implements)
    }

    /// Reads `const A = 1, B = 2;` outside of classes.
    fn constants(&mut self) {
        let start = self.token.span.start as usize;
        self.advance();
        if self.is_word() {
            let (name, span) = (self.token.name, self.token.span);
            self.advance();
            self.declare(name, span, DeclarationKind::Constant, CONSTANT, start);
        }
    }

    fn creation(&mut self) {
        self.advance();
        while self.token.kind == Kind::Attribute {
            self.attributes();
        }
        while self.word == Word::Modifier {
            self.advance();
        }
        if self.word != Word::Class {
            return self.class_name();
        }
        self.advance();
        if self.is(b'(') {
            self.open_parenthesis(true);
        } else {
            self.anonymous_class();
        }
    }

    fn class_name(&mut self) {
        if self.begins_name() {
            let chain = self.chain();
            self.record(&chain, Context::Type);
        }
    }

    /// A name in an expression: a class before `::`, a function before `(`, else a constant.
    fn name(&mut self) {
        let before = self.before.0;
        let chain = self.chain();
        match self.token.kind {
            Kind::Colons => {
                self.record(&chain, Context::Type);
            }
            Kind::Mark(b'(') => self.call(&chain),
            // `label:`, `argument: value`
            Kind::Mark(b':')
                if chain.links().len() == 1
                    && matches!(before, Kind::Mark(b'(' | b',' | b';' | b'{' | b'}')) => {}
            _ => {
                self.record(&chain.named(CONSTANT), Context::Value);
            }
        }
    }

    fn call(&mut self, chain: &Chain) {
        self.record(&chain.clone().named(FUNCTION), Context::Value);
        if let [only] = chain.links()
            && only.span.of(self.text) == b"define"
        {
            self.advance();
            self.defined();
        }
    }

    /// `define('LIMIT', 3)` declares a constant outside of namespaces.
    fn defined(&mut self) {
        self.parentheses.push(false);
        let span = self.token.span;
        if self.token.kind != Kind::Text || span.len() < 3 {
            return;
        }
        let inner = Span::new(span.start as usize + 1, span.end as usize - 1);
        let text = inner.of(self.text);
        if self.frame().declaration == NO_DECLARATION
            && self.scope() == 0
            && text.iter().all(|b| crate::cursor::in_word(*b))
        {
            self.declare(Name::new(text), inner, DeclarationKind::Constant, CONSTANT, inner.start as usize);
        }
    }

    /// Reads `require __DIR__ . '/letters.php'` and its like.
    fn include(&mut self) {
        self.advance();
        let parenthesis = self.is(b'(');
        if parenthesis {
            self.open_parenthesis(false);
        }
        let (mut base, mut up) = (PathBase::Anywhere, 0usize);
        let here = self.token.span.of(self.text);
        if here == b"dirname" {
            while matches!(self.token.span.of(self.text), b"dirname" | b"(") {
                up += usize::from(self.is_word());
                self.advance();
            }
            if !matches!(self.token.span.of(self.text), b"__DIR__" | b"__FILE__") {
                return;
            }
            // The folder of `__FILE__` is `dirname(__FILE__)`.
            up -= usize::from(self.token.span.of(self.text) == b"__FILE__").min(up);
            base = PathBase::Folder;
            self.advance();
            while self.is(b')') || self.is(b',') || self.token.kind == Kind::Number {
                if self.token.kind == Kind::Number {
                    let levels = std::str::from_utf8(self.token.span.of(self.text)).ok();
                    up += levels
                        .and_then(|text| text.parse::<usize>().ok())
                        .map_or(0, |n| n.min(20))
                        .saturating_sub(1);
                }
                self.advance();
            }
        } else if here == b"__DIR__" {
            base = PathBase::Folder;
            self.advance();
        }
        if base == PathBase::Folder && self.is(b'.') {
            self.advance();
        }
        if self.token.kind != Kind::Text {
            return;
        }
        let span = self.token.span;
        let inner = Span::new(span.start as usize + 1, (span.end as usize - 1).max(span.start as usize + 1));
        let written = String::from_utf8_lossy(inner.of(self.text)).into_owned();
        self.advance();
        // What is put together with something unknown is no literal path.
        if self.is(b'.') || written.contains(['$', '{']) {
            return;
        }
        let relative = written.trim_start_matches('/');
        let written =
            if base == PathBase::Folder { format!("{}{relative}", "../".repeat(up)) } else { written };
        self.recorder.path(inner, &written, base, false);
    }

    /// A string that spells a full class name is a mention of it.
    fn literal(&mut self) {
        let span = self.token.span;
        self.advance();
        if !self.recorder.options().weak {
            return;
        }
        let (start, end) = (span.start as usize + 1, (span.end as usize).saturating_sub(1));
        if end <= start || !self.text[start..end].contains(&b'\\') {
            return;
        }
        let mut links = ChainLinks::default();
        let mut cursor = crate::cursor::Cursor { at: start, end, ..self.lexer.cursor };
        while !cursor.done() {
            while cursor.peek(0) == b'\\' {
                cursor.at += 1;
            }
            let at = cursor.at;
            if cursor.word().is_empty() || links.is_full() {
                return;
            }
            let name = Name::new(&self.text[at..cursor.at]);
            links.push(ChainLink { name, arity: NAMESPACE, span: Span::new(at, cursor.at) });
            if !cursor.done() && cursor.peek(0) != b'\\' {
                return;
            }
        }
        if let (true, Some(last)) = (links.len() > 1, links.last_mut()) {
            last.arity = 0;
            self.recorder.chain(Root::Global, &links, Context::Weak, false);
        }
    }
}
