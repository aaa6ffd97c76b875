//! Code, and types wherever they stand.

use super::{Chain, DEEPEST, FrameKind, Reader, Word};
use crate::cursor::in_word;
use crate::lexis::{Kind, opens_type_arguments};
use ferngate_model::{CONSTANT, ChainLink, Context, FUNCTION, Member, MemberKind, NO_TYPE, Root, UseParent};

impl Reader<'_, '_> {
    /// Reads one token with what belongs to it. Always goes on.
    pub(super) fn code_token(&mut self) {
        match self.tokens.token.kind {
            Kind::Word => self.code_word(),
            Kind::Text => self.holes(),
            Kind::Mark(b'{') => {
                let frame = self.frame();
                self.push(FrameKind::Block, frame.scope, frame.declaration, false);
                self.advance();
            }
            Kind::Mark(b'}') => self.close(),
            Kind::Mark(b'(' | b'[') => {
                self.change_depth(1);
                self.advance();
            }
            Kind::Mark(b')' | b']') => {
                self.change_depth(-1);
                self.advance();
            }
            Kind::Mark(b'@') => self.annotation(),
            Kind::Mark(b';') => {
                if let Some(frame) = self.frames.last_mut() {
                    frame.constants = false;
                }
                self.advance();
            }
            Kind::Mark(b'.') => {
                self.advance();
                if self.tokens.token.is_word() {
                    let (name, span) = (self.tokens.token.name, self.tokens.token.span);
                    self.advance();
                    if self.is(b'<') && opens_type_arguments(self.tokens.cursor) {
                        let scope = self.scope();
                        self.type_arguments(scope);
                    }
                    let called = self.is(b'(') || self.is(b'{');
                    self.behind_dot(ChainLink { name, arity: 0, span }, called);
                }
            }
            Kind::Mark(b':') => self.colon(),
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
            self.frames.pop();
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
        self.advance();
        if self.is(b':') {
            self.advance();
            if self.tokens.token.is_word() {
                self.advance();
            }
        } else if !elvis {
            let scope = self.scope();
            self.type_reference(scope);
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
                self.type_reference(scope);
            }
            Word::Is => {
                self.advance();
                let scope = self.scope();
                self.type_reference(scope);
            }
            Word::Where if top => self.constraints(),
            word if word.reserved() => self.advance(),
            Word::Companion if self.peek().1 == Word::Object => self.advance(),
            Word::Private | Word::Internal | Word::Modifier | Word::Constructor
                if self.peek().0.is_word() =>
            {
                self.advance();
            }
            _ if self.frame().constants && self.frame().depth == 0 => self.constant(),
            _ => self.identifier(),
        }
    }

    /// A constant of an enumeration; its arguments and body are read as code.
    fn constant(&mut self) {
        let owner = self.frame().declaration;
        let (name, kind) = (self.tokens.token.name, MemberKind::Static);
        self.recorder.member(Member::public(owner, name, kind, NO_TYPE));
        self.advance();
    }

    /// A name in code: a class, a function that is called, or a value.
    fn identifier(&mut self) {
        let scope = self.scope();
        let chain = self.chain(scope);
        let root = Root::Scope(scope);
        let links = chain.links();
        let first_is_type = links.first().is_some_and(|link| self.is_capital(link));
        let called = self.is(b'(') || self.is(b'{') && links.len() == 1;
        if called && links.len() == 1 {
            self.recorder.chain(root, chain.named(FUNCTION).links(), Context::Value, false);
            if first_is_type {
                self.recorder.chain(root, links, Context::Value, false);
            }
        } else if links.iter().any(|link| self.is_capital(link)) {
            self.recorder.chain(root, links, Context::Value, false);
            if links.len() == 1 {
                self.recorder.chain(root, chain.named(CONSTANT).links(), Context::Value, false);
            }
        } else if called {
            // `a.b.c(…)`: a function by its full name, or a member
            self.recorder.chain(root, chain.named(FUNCTION).links(), Context::Value, false);
        }
        let last_is_called = self.is(b'(') || self.is(b'{');
        for (at, link) in links.iter().enumerate().skip(1) {
            self.behind_dot(*link, last_is_called && at + 1 == links.len());
        }
    }

    /// What is taken of a value may be a function or property that extends its type.
    fn behind_dot(&mut self, link: ChainLink, called: bool) {
        self.recorder.used(UseParent::MEMBER_OF_ANY, link, Context::Value, called);
    }

    fn is_capital(&self, link: &ChainLink) -> bool {
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
                self.type_arguments(scope);
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

    /// Reads a type and records its names; the node of its outermost name.
    pub(super) fn type_reference(&mut self, scope: u32) -> Option<u32> {
        self.depth += 1;
        let node = if self.depth < DEEPEST { self.whole_type(scope) } else { None };
        self.depth -= 1;
        node
    }

    fn whole_type(&mut self, scope: u32) -> Option<u32> {
        while self.is(b'@') || self.is_modifier() && self.peek().0.is_word() {
            if self.is(b'@') {
                self.annotation();
                if self.is(b'(') && self.before.0 == Kind::Word {
                    self.skip_parentheses();
                }
            } else {
                self.advance();
            }
        }
        let mut node = None;
        if self.is(b'(') {
            self.parameters_of_type(scope);
        } else if self.is_name() {
            let mut chain = Chain::default();
            loop {
                self.link(&mut chain);
                if self.is(b'<') {
                    self.type_arguments(scope);
                }
                if !self.is(b'.') {
                    break;
                }
                let (next, _) = self.peek();
                if next.is(b'(') {
                    // `Taxon.(Int) -> Unit`: a function with a receiver
                    self.advance();
                    node = self.record_type(&chain, scope);
                    chain.links.clear();
                    self.parameters_of_type(scope);
                    break;
                }
                if !next.is_word() {
                    break;
                }
                self.advance();
            }
            if !chain.links().is_empty() {
                node = self.record_type(&chain, scope);
            }
        }
        while self.is(b'?') && self.behind() != b':' && self.behind() != b'.' {
            self.advance();
        }
        if self.is(b'-') && self.behind() == b'>' && self.before.0 == Kind::Mark(b')') {
            self.advance();
            self.advance();
            self.type_reference(scope);
        } else if self.is(b'&') && self.behind() != b'&' {
            self.advance();
            self.type_reference(scope);
        }
        node
    }

    fn skip_parentheses(&mut self) {
        let mut depth = 0usize;
        while self.tokens.token.kind != Kind::End {
            match self.tokens.token.kind {
                Kind::Mark(b'(') => depth += 1,
                Kind::Mark(b')') => depth -= 1,
                _ => {}
            }
            self.advance();
            if depth == 0 {
                return;
            }
        }
    }

    /// Reads `(name: Type, Other)` of a function's type, or a type in parentheses.
    fn parameters_of_type(&mut self, scope: u32) {
        self.advance();
        while !matches!(self.tokens.token.kind, Kind::Mark(b')' | b'}' | b'{' | b';' | b'=') | Kind::End) {
            let at = self.tokens.token.start();
            if self.is_name() && self.peek().0.is(b':') {
                self.advance();
                self.advance();
            }
            self.type_reference(scope);
            if self.is(b',') || self.tokens.token.start() == at {
                self.advance();
            }
        }
        if self.is(b')') {
            self.advance();
        }
    }

    pub(super) fn record_type(&mut self, chain: &Chain, scope: u32) -> Option<u32> {
        if let [only] = chain.links()
            && self.parameters.contains(&only.name)
        {
            return None;
        }
        self.recorder.chain(Root::Scope(scope), chain.links(), Context::Type, false)
    }

    /// Reads `<…>`.
    pub(super) fn type_arguments(&mut self, scope: u32) {
        self.advance();
        loop {
            let at = self.tokens.token.start();
            match self.tokens.token.kind {
                Kind::Mark(b'>') => return self.advance(),
                Kind::Mark(b',' | b'*') => self.advance(),
                Kind::Word if self.word == Word::In => self.advance(),
                Kind::Word | Kind::Mark(b'(' | b'@') => {
                    self.type_reference(scope);
                }
                _ => return,
            }
            if self.tokens.token.start() == at {
                self.advance();
            }
        }
    }
}
