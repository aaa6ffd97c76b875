//! Code, and types wherever they stand.

use super::values::THIS;
use super::{Chain, DEEPEST, FrameKind, Reader, Word};
use crate::cursor::in_word;
use crate::lexis::{Kind, opens_type_arguments};
use crate::values::{Operator, UNKNOWN, value_of};
use ferngate_model::{ChainLink, Context, FUNCTION, Member, MemberKind, NO_TYPE, Root, UseParent};

impl Reader<'_, '_> {
    /// Reads one token with what belongs to it. Always goes on.
    pub(super) fn code_token(&mut self) {
        self.line_may_end();
        match self.tokens.token.kind {
            Kind::Word => self.code_word(),
            Kind::Text => {
                self.holes();
                self.values.value = UNKNOWN;
            }
            Kind::Number => {
                self.values.value = UNKNOWN;
                self.advance();
            }
            Kind::Mark(b'{') => self.open_brace(),
            Kind::Mark(b'}') => self.close(),
            Kind::Mark(b'(' | b'[') => {
                self.open();
                self.change_depth(1);
                self.advance();
            }
            Kind::Mark(b')' | b']') => {
                self.close_value();
                self.change_depth(-1);
                self.advance();
            }
            Kind::Mark(b',') => {
                self.values.operation_ends(self.recorder);
                self.values.comma((self.frames.len(), self.frame().depth));
                self.advance();
            }
            Kind::Mark(b'@') => self.annotation(),
            Kind::Mark(b';') => {
                self.end_value();
                if let Some(frame) = self.frames.last_mut() {
                    frame.constants = false;
                }
                self.advance();
            }
            Kind::Mark(b'.') => {
                self.values.value = self.value_before_dot();
                self.advance();
                if self.tokens.token.is_word() {
                    let scope = self.scope();
                    let chain = self.chain(scope);
                    let called = self.is_called();
                    self.members(chain.links(), called);
                }
            }
            Kind::Mark(b':') => self.colon(),
            Kind::Mark(b'+' | b'-') if !matches!(self.behind(), b'+' | b'-' | b'=' | b'>') => {
                if self.ends_operand() {
                    self.values.before_operator(Operator::Plus, self.tokens.token.start());
                }
                self.values.value = UNKNOWN;
                self.advance();
            }
            Kind::Mark(b'<' | b'>' | b'=' | b'&' | b'|' | b'*' | b'/' | b'%') => {
                self.values.forget_operand();
                self.advance();
            }
            _ => self.advance(),
        }
    }

    fn change_depth(&mut self, by: i64) {
        if let Some(frame) = self.frames.last_mut() {
            frame.depth = (i64::from(frame.depth) + by).clamp(0, i64::from(u32::MAX)) as u32;
        }
    }

    fn close(&mut self) {
        let frame = self.frame();
        let end = self.tokens.token.end();
        if self.frames.len() > 1 {
            self.end_value();
            self.frames.pop();
            self.restore(&frame);
            if frame.kind == FrameKind::Members {
                self.recorder.close_scope(frame.scope, end);
                if let Some(own) = self.recorder.facts().declarations.get_mut(frame.declaration as usize) {
                    own.span.end = end as u32;
                }
            }
        }
        self.advance();
    }

    /// `:` before a type, `::` before a name, `?:` between values.
    fn colon(&mut self) {
        let elvis = self.before.0 == Kind::Mark(b'?');
        let parent = self.value_before_dot();
        let is_operand = !matches!(self.before.0, Kind::Mark(b'(' | b',' | b'=' | b'{') | Kind::Number);
        self.advance();
        if self.is(b':') {
            self.advance();
            if self.tokens.token.is_word() {
                self.reference(parent, is_operand);
            }
        } else if !elvis {
            let scope = self.scope();
            self.type_reference(scope);
        }
    }

    /// Reads the name in `bed::water` or `::water`.
    fn reference(&mut self, parent: UseParent, is_operand: bool) {
        let (name, span) = (self.tokens.token.name, self.tokens.token.span);
        let link = ChainLink { name, arity: 0, span };
        let (mut node, mut class) = (None, UNKNOWN);
        if is_operand {
            let is_class = self.word == Word::Class;
            if is_class {
                class = self.values.given_as_value(parent, self.recorder);
            }
            let used = self.recorder.used(parent, link, Context::Value, false);
            node = (!is_class && parent != UNKNOWN).then_some(used);
        } else if self.is_name() {
            let root = Root::Scope(self.scope());
            node = self.recorder.chain(root, &[ChainLink { arity: FUNCTION, ..link }], Context::Value, false);
        }
        // As an argument it stands for what it gives.
        self.values.value = node.map_or(class, UseParent::node);
        if node.is_some() {
            self.values.function_as_argument();
        }
        self.advance();
        if !matches!(self.tokens.token.kind, Kind::Mark(b')')) {
            self.values.value = UNKNOWN;
        }
    }

    fn holes(&mut self) {
        let holes = std::mem::take(&mut self.tokens.holes);
        if holes.is_empty() || self.depth >= DEEPEST {
            return self.advance();
        }
        let after = self.tokens.cursor;
        self.depth += 1;
        for hole in holes {
            self.tokens.cursor.at = hole.start as usize;
            self.tokens.cursor.end = hole.end as usize;
            let frames = self.frames.len();
            self.advance();
            while self.tokens.token.kind != Kind::End {
                // What a hole opens it closes, and it closes nothing else.
                if self.is(b'}') && self.frames.len() <= frames {
                    self.advance();
                } else {
                    self.code_token();
                }
            }
            self.frames.truncate(frames);
        }
        self.depth -= 1;
        self.tokens.cursor = after;
        self.advance();
    }

    fn code_word(&mut self) {
        let word = self.word;
        let top = self.frame().kind != FrameKind::Block;
        match word {
            Word::Package if self.frames.len() == 1 => self.package(),
            Word::Import if self.frames.len() == 1 => self.import(),
            Word::Class | Word::Interface => self.class(false),
            Word::Enum if self.peek().1 == Word::Class => {
                self.advance();
                self.class(true);
            }
            Word::Object => self.class(false),
            Word::Fun => self.function(),
            Word::Val => self.property(),
            Word::Typealias => self.type_alias(),
            Word::As => {
                self.advance();
                if self.is(b'?') {
                    self.advance();
                }
                let scope = self.scope();
                let value_type = self.value_type(scope);
                self.values.value = value_of(value_type);
            }
            Word::This => {
                self.values.value = self.this();
                self.last_name = (*THIS, self.tokens.token.end());
                self.advance();
                if self.is(b'@') && self.last_end == self.tokens.token.start() {
                    self.labelled_this();
                }
            }
            Word::Super => {
                self.values.value = self.super_value();
                self.advance();
            }
            Word::For => {
                self.advance();
                self.loop_head();
            }
            Word::Is => {
                let told = self.told_apart();
                self.advance();
                let scope = self.scope();
                let value_type = self.value_type(scope);
                match told {
                    Some(name) if name == *THIS => self.narrow_this(value_of(value_type)),
                    Some(name) => self.values.local(name, value_of(value_type)),
                    None => {}
                }
                self.values.value = UNKNOWN;
            }
            Word::Where if top => self.constraints(),
            word if word.reserved() => self.advance(),
            Word::Companion if self.peek().1 == Word::Object => self.advance(),
            Word::Soft if top && self.begins_accessor() => self.accessor(),
            Word::Soft if !top || self.peek().0.is(b'.') => self.identifier(),
            Word::Soft if self.tokens.token.span.of(self.text) == b"init" && self.peek().0.is(b'{') => {
                self.begin_member();
                self.advance();
            }
            Word::Constructor if self.frame().kind == FrameKind::Members && self.peek().0.is(b'(') => {
                self.secondary_constructor();
            }
            Word::By => {
                self.delegates = self.undecided.is_some() || self.values.decides();
                self.advance();
            }
            Word::Private | Word::Internal | Word::Modifier | Word::Constructor if self.modifies(top) => {
                self.advance();
            }
            _ if self.frame().constants && self.frame().depth == 0 => self.constant(),
            _ => self.identifier(),
        }
    }

    /// Whether the word here belongs to a declaration that follows, which in code does so on the same line.
    fn modifies(&mut self, top: bool) -> bool {
        let (next, word) = self.peek();
        if top {
            return next.is_word();
        }
        let declares = matches!(word, Word::Val | Word::Fun | Word::Class | Word::Object | Word::Interface);
        let between = self.text.get(self.tokens.token.end()..next.start()).unwrap_or_default();
        next.is_word() && (declares || word == Word::Modifier) && !between.contains(&b'\n')
    }

    /// Reads the label of `this@Bed`; one in lower case is that of a function.
    fn labelled_this(&mut self) {
        self.advance();
        let (name, span) = (self.tokens.token.name, self.tokens.token.span);
        let label = ChainLink { name, arity: 0, span };
        if self.is_name() && self.is_capital(&label) {
            let root = Root::Scope(self.scope());
            let node = self.recorder.chain(root, &[label], Context::Type, false);
            self.values.value = value_of(self.recorder.value_type(node, None));
        }
        if self.tokens.token.is_word() {
            self.advance();
        }
    }

    /// A constant of an enumeration; its arguments and body are read as code.
    fn constant(&mut self) {
        let owner = self.frame().declaration;
        let (name, kind) = (self.tokens.token.name, MemberKind::Static);
        self.recorder.member(Member::public(owner, name, kind, NO_TYPE));
        self.advance();
    }

    /// Reads `(bed in beds`, up to the value.
    fn loop_head(&mut self) {
        if !self.is(b'(') {
            return;
        }
        self.code_token();
        while self.is(b'@') {
            self.annotation();
        }
        if self.is(b'(') {
            self.parts(true);
        } else if self.is_name() {
            let (name, next) = (self.tokens.token.name, self.peek());
            if next.1 == Word::In {
                self.values.untyped(name, true);
                self.advance();
            }
        }
    }

    /// A name in code: a class, a function that is called, or a value.
    fn identifier(&mut self) {
        let scope = self.scope();
        if self.text.get(self.tokens.token.end()) == Some(&b'@') {
            // `outer@ for`: a label
            self.advance();
            return self.advance();
        }
        if self.is_infix() {
            let (name, span, parent) = (self.tokens.token.name, self.tokens.token.span, self.values.value);
            self.recorder.used(parent, ChainLink { name, arity: 0, span }, Context::Value, true);
            if span.of(self.text) == b"to" {
                self.values.before_operator(Operator::To, self.tokens.token.start());
            }
            self.values.value = UNKNOWN;
            self.infix_end = span.end as usize;
            return self.advance();
        }
        let chain = self.chain(scope);
        if self.is(b':')
            && self.behind() != b':'
            && chain.links().len() == 1
            && self.frame().kind == FrameKind::Block
        {
            // `error: Dry`, in `catch` or before an arrow
            self.advance();
            let value_type = self.value_type(scope);
            return self.values.local(chain.links()[0].name, value_of(value_type));
        }
        self.value_chain(&chain, scope);
    }

    /// What is taken of a value may be a function or property that extends its type.
    pub(super) fn behind_dot(&mut self, link: ChainLink, called: bool) {
        self.recorder.used(UseParent::MEMBER_OF_ANY, link, Context::Value, called);
    }

    pub(super) fn is_capital(&self, link: &ChainLink) -> bool {
        let first = self.text.get(link.span.start as usize).copied().unwrap_or_default();
        first.is_ascii_uppercase() || first == b'_' || first >= 0x80
    }

    /// Adds the current token to `chain` and goes on.
    pub(super) fn link(&mut self, chain: &mut Chain) {
        let (name, span) = (self.tokens.token.name, self.tokens.token.span);
        chain.links.push(ChainLink { name, arity: 0, span });
        self.advance();
    }

    /// Reads a dotted name in code; `a?.b` ends it before the mark.
    fn chain(&mut self, scope: u32) -> Chain {
        let mut chain = Chain::default();
        loop {
            self.link(&mut chain);
            if self.is(b'<') && opens_type_arguments(self.tokens.cursor) {
                let read = self.type_arguments(scope);
                if self.is(b'(') {
                    self.values.given = self.recorder.value_type(read.argument, None);
                    let last = chain.links.last().filter(|link| self.is_capital(link));
                    self.made = last.map(|_| read);
                }
            }
            let follows = self.is(b'.') && {
                let (next, word) = self.peek();
                next.is_word() && !word.reserved()
            };
            if !follows {
                return chain;
            }
            self.advance();
        }
    }

    /// Reads `@Name(…)`, `@file:Name(…)`, `@[A B]`; arguments are read as code. A label's `@` stands behind a word.
    pub(super) fn annotation(&mut self) {
        let labelled = self.before.0 == Kind::Word && {
            let at = self.tokens.token.start();
            at > 0 && in_word(self.text[at - 1])
        };
        self.advance();
        if labelled {
            if self.tokens.token.is_word() {
                self.advance(); // `return@name`
                // What follows is a value and no function between two.
                (self.infix_end, self.values.value) = (self.last_end, UNKNOWN);
            }
            return;
        }
        if self.is(b'[') {
            return; // the names in brackets are read as code
        }
        if self.tokens.token.is_word() && self.behind() == b':' {
            let is_file = self.tokens.token.span.of(self.text) == b"file";
            self.advance();
            self.advance();
            if is_file && self.tokens.token.span.of(self.text) == b"JvmName" && self.peek().0.is(b'(') {
                self.advance();
                let (text, _) = self.peek();
                let span = text.span;
                if text.kind == Kind::Text && span.len() > 2 {
                    let name = &self.text[span.start as usize + 1..span.end as usize - 1];
                    let name = String::from_utf8_lossy(name).into_owned();
                    self.facade = self.recorder.facts().texts.add(&name);
                }
                return;
            }
        }
        if self.is_name() {
            let scope = self.scope();
            let mut chain = Chain::default();
            self.link(&mut chain);
            while self.is(b'.') && self.peek().0.is_word() {
                self.advance();
                self.link(&mut chain);
            }
            self.record_type(&chain, scope);
        }
    }
}
