//! Dotted names, and types wherever they stand.

use super::lexer::{Kind, Word};
use super::{Arguments, Chain, DEEPEST, LONGEST_SIGNATURE, Reader};
use crate::values::UNKNOWN;
use ferngate_model::{ChainLink, Context};

impl Reader<'_, '_> {
    /// Reads a dotted name; the current token is its first part.
    pub(super) fn chain(&mut self, scope: u32, arguments: Arguments) -> Chain {
        let mut chain = Chain::default();
        self.argument = None;
        loop {
            let mut link = ChainLink { name: self.lexer.token.name, arity: 0, span: self.lexer.token.span() };
            self.advance();
            if self.lexer.token.kind == Kind::Colons && chain.links().is_empty() {
                // `global::` or an extern alias: what follows begins at the outermost namespace
                chain.global = true;
                self.advance();
                if self.lexer.token.is_identifier() {
                    continue;
                }
                return chain;
            }
            if self.lexer.token.is(b'<')
                && (arguments != Arguments::Unsure
                    || self.lexer.opens_type_arguments(self.lexer.token.start()))
            {
                // In `IPriced<Fee>.Price<T>` only the last list declares.
                let declares = arguments == Arguments::Parameters
                    && self.lexer.behind_type_arguments(self.lexer.token.start()) != b'.';
                link.arity = self.type_arguments(scope, declares);
            }
            chain.links.push(link);
            if !self.lexer.token.is(b'.') {
                return chain;
            }
            self.advance();
            if !self.lexer.token.is_identifier() {
                chain.open = true;
                return chain;
            }
        }
    }

    /// Reads `<…>` and returns how many stand in it; uses are recorded unless these are `parameters`.
    pub(super) fn type_arguments(&mut self, scope: u32, parameters: bool) -> u8 {
        self.advance();
        let mut count = 1u8;
        self.depth += 1;
        let mut last = None;
        loop {
            match self.lexer.token.kind {
                Kind::Mark(b'>') => {
                    self.advance();
                    break;
                }
                Kind::Mark(b',') => {
                    count = count.saturating_add(1);
                    self.advance();
                }
                Kind::Mark(b'[') => self.attributes(scope),
                Kind::Identifier if parameters => {
                    self.parameters.push(self.lexer.token.name);
                    self.values.local(self.lexer.token.name, UNKNOWN);
                    self.advance();
                }
                Kind::Identifier | Kind::Mark(b'(') if self.depth < DEEPEST => {
                    let node = self.type_reference(scope);
                    last = self.argument.take().or(node).or(last);
                }
                Kind::Keyword | Kind::Identifier => self.advance(),
                Kind::Mark(b'?' | b'*' | b'(' | b')' | b']') => self.advance(),
                _ => break,
            }
        }
        self.depth -= 1;
        self.argument = last;
        count
    }

    /// Reads a type and records the names in it; its index among the types of values.
    pub(super) fn value_type(&mut self, scope: u32) -> u32 {
        let node = self.type_reference(scope);
        let argument = self.argument.take();
        self.recorder.value_type(node, argument)
    }

    /// Reads a type and records the names in it; returns the node of its outermost name.
    pub(super) fn type_reference(&mut self, scope: u32) -> Option<u32> {
        while self.lexer.token.word == Word::Argument
            || matches!(self.lexer.token.word, Word::Modifier | Word::This)
        {
            self.advance();
        }
        let mut result = None;
        self.argument = None;
        if self.lexer.token.is_identifier() {
            let chain = self.chain(scope, Arguments::Types);
            result = self.record_type(&chain, scope);
        } else if self.lexer.token.is(b'(') && self.depth < DEEPEST {
            self.depth += 1;
            self.tuple(scope);
            self.depth -= 1;
        } else if self.lexer.token.word == Word::Builtin || self.lexer.token.word == Word::Delegate {
            self.advance();
        }
        self.type_suffix();
        result
    }

    pub(super) fn record_type(&mut self, chain: &Chain, scope: u32) -> Option<u32> {
        if let [only] = chain.links()
            && !chain.global
            && only.arity == 0
            && self.values.of_local(only.name).is_some()
            && only.span.len() <= 2
        {
            return None; // a type parameter of the method
        }
        let node = self.recorder.chain(chain.root(scope), chain.links(), Context::Type, false);
        if self.signature.len() < LONGEST_SIGNATURE {
            self.signature.extend(node);
        }
        node
    }

    pub(super) fn tuple(&mut self, scope: u32) {
        self.advance();
        while !matches!(self.lexer.token.kind, Kind::Mark(b')') | Kind::End) {
            let at = self.lexer.token.start();
            self.type_reference(scope);
            if self.lexer.token.is_identifier() || self.lexer.token.is(b',') || self.lexer.token.start() == at
            {
                self.advance();
            }
        }
        self.advance();
    }

    /// Skips `?`, `*`, `[]`, `[,]`.
    pub(super) fn type_suffix(&mut self) {
        loop {
            match self.lexer.token.kind {
                Kind::Mark(b'?' | b'*') => self.advance(),
                Kind::Mark(b'[') => {
                    let next = self.peek();
                    if !(next.is(b']') || next.is(b',')) {
                        return;
                    }
                    while !self.lexer.token.is(b']') && self.lexer.token.kind != Kind::End {
                        self.advance();
                    }
                    self.advance();
                }
                _ => return,
            }
        }
    }
}
