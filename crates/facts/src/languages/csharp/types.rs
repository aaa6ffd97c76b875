//! Dotted names, and types wherever they stand.

use super::tokens::{Kind, Word};
use super::{Arguments, Chain, DEEPEST, LONGEST_SIGNATURE, MOST_PARAMETERS, Reader};
use crate::values::{Given, GivenParameters, UNKNOWN};
use ferngate_model::{ChainLink, Context};

impl Reader<'_, '_> {
    /// Reads a dotted name; the current token is its first part.
    pub(super) fn chain(&mut self, scope: u32, arguments: Arguments) -> Chain {
        let mut chain = Chain::default();
        self.given = Given::default();
        loop {
            let mut link = ChainLink { name: self.lexer.token.name, arity: 0, span: self.lexer.token.span() };
            let outermost = self.lexer.token.word == Word::Global || self.aliases.contains(&link.name);
            self.advance();
            if self.lexer.token.kind == Kind::Colons && chain.links().is_empty() {
                // Behind `global::` and an extern alias a name begins at the outermost namespace, behind another alias
                // in what that stands for.
                chain.global = outermost;
                if !outermost {
                    chain.links.push(link);
                }
                self.advance();
                if self.lexer.token.is_identifier() {
                    continue;
                }
                chain.open = !outermost;
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
                if arguments == Arguments::Unsure && self.lexer.token.is(b'(') {
                    self.values.given = self.recorder.value_type(self.given.last, None);
                }
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
        let (mut given, mut hidden) = (Given::default(), GivenParameters::default());
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
                    if self.parameters.len() < MOST_PARAMETERS {
                        self.parameters.push(self.lexer.token.name);
                    }
                    self.values.local(self.lexer.token.name, UNKNOWN);
                    self.advance();
                }
                Kind::Identifier | Kind::Mark(b'(') if self.depth < DEEPEST => {
                    let (node, array) = self.type_with_suffix(scope);
                    if let Some(place) = hidden.get_mut(usize::from(count) - 1) {
                        *place = self.hidden.filter(|_| node.is_none());
                    }
                    let inner = std::mem::take(&mut self.given);
                    given.take(usize::from(count) - 1, node, array, inner, self.recorder);
                }
                Kind::Keyword | Kind::Identifier => self.advance(),
                Kind::Mark(b'?' | b'*' | b'(' | b')' | b']') => self.advance(),
                _ => break,
            }
        }
        self.depth -= 1;
        (self.given, self.hidden_arguments) = (given, hidden);
        count
    }

    /// Reads a type and records the names in it; its index among the types of values.
    pub(super) fn value_type(&mut self, scope: u32) -> u32 {
        let (node, array) = self.type_with_suffix(scope);
        let given = std::mem::take(&mut self.given);
        given.spelled(node, array, self.recorder)
    }

    /// Reads a type and records the names in it; returns the node of its outermost name.
    pub(super) fn type_reference(&mut self, scope: u32) -> Option<u32> {
        self.type_with_suffix(scope).0
    }

    /// The same, and whether it is that of an array.
    fn type_with_suffix(&mut self, scope: u32) -> (Option<u32>, bool) {
        while self.lexer.token.word == Word::Argument
            || matches!(self.lexer.token.word, Word::Modifier | Word::This)
        {
            self.advance();
        }
        let mut result = None;
        (self.given, self.hidden) = (Given::default(), None);
        self.hidden_arguments = GivenParameters::default();
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
        let array = self.type_suffix();
        (result, array)
    }

    pub(super) fn record_type(&mut self, chain: &Chain, scope: u32) -> Option<u32> {
        if let [only] = chain.links()
            && !chain.global
            && only.arity == 0
            && self.parameters.contains(&only.name)
            && !self.recorder.in_head()
        {
            return self.bound_of(only.name);
        }
        let node = self.recorder.chain(chain.root(scope), chain.links(), Context::Type, false);
        if self.signature.len() < LONGEST_SIGNATURE {
            self.signature.extend(node);
        }
        node
    }

    /// Reads `(Bed bed, Label)`; what it holds is then what was given.
    pub(super) fn tuple(&mut self, scope: u32) {
        self.advance();
        let (mut given, mut count) = (Given::default(), 0);
        while !matches!(self.lexer.token.kind, Kind::Mark(b')') | Kind::End) {
            let at = self.lexer.token.start();
            let (node, array) = self.type_with_suffix(scope);
            given.take(count, node, array, std::mem::take(&mut self.given), self.recorder);
            count += usize::from(self.lexer.token.start() != at);
            if self.lexer.token.is_identifier() || self.lexer.token.is(b',') || self.lexer.token.start() == at
            {
                self.advance();
            }
        }
        self.advance();
        self.given = given;
    }

    /// Skips `?`, `*`, `[]`, `[,]`; whether it is that of an array.
    pub(super) fn type_suffix(&mut self) -> bool {
        let mut array = false;
        loop {
            match self.lexer.token.kind {
                Kind::Mark(b'?' | b'*') => self.advance(),
                Kind::Mark(b'[') => {
                    let next = self.peek();
                    if !(next.is(b']') || next.is(b',')) {
                        return array;
                    }
                    array = true;
                    while !self.lexer.token.is(b']') && self.lexer.token.kind != Kind::End {
                        self.advance();
                    }
                    self.advance();
                }
                _ => return array,
            }
        }
    }
}
