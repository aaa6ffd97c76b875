//! Types wherever they stand.

use super::{Chain, DEEPEST, Reader, Word};
use crate::lexis::Kind;
use crate::values::GivenParameters;
use ferngate_model::{Context, FIRST_GIVEN, HAS_RECEIVER, MOST_ARGUMENTS, NO_TYPE, Root, ValueType};

/// A type as it was read.
#[derive(Clone, Copy)]
pub(super) struct ReadType {
    /// The node of its outermost name; none for the type of a function.
    pub(super) node: Option<u32>,
    /// The last name of its last type argument; for the type of a function that of its first parameter.
    pub(super) argument: Option<u32>,
    /// The first of its type arguments or parameters, among the file's types of values.
    pub(super) arguments: [u32; MOST_ARGUMENTS],
    /// It is the type of a function that extends what its first parameter is.
    pub(super) has_receiver: bool,
}

const NOTHING: ReadType =
    ReadType { node: None, argument: None, arguments: [NO_TYPE; MOST_ARGUMENTS], has_receiver: false };

impl Reader<'_, '_> {
    /// Reads a type, records its names and gives its place among the types of values.
    pub(super) fn value_type(&mut self, scope: u32) -> u32 {
        let read = self.type_reference(scope);
        self.spelled(read)
    }

    /// The place of a type that was read among the types of values.
    pub(super) fn spelled(&mut self, read: ReadType) -> u32 {
        self.recorder.spelled_type(ValueType {
            outer: if read.has_receiver { HAS_RECEIVER } else { read.node.unwrap_or(NO_TYPE) },
            argument: read.argument.unwrap_or(NO_TYPE),
            arguments: read.arguments,
        })
    }

    /// Reads a type and records its names.
    pub(super) fn type_reference(&mut self, scope: u32) -> ReadType {
        self.depth += 1;
        let read = if self.depth < DEEPEST { self.whole_type(scope) } else { NOTHING };
        self.depth -= 1;
        read
    }

    /// For a type that was just read, and is `result` among the types of values: what it is, where the first parameter of
    /// the function tells it.
    pub(super) fn told_by_first(&mut self, result: u32) -> Option<u32> {
        let of = self.hidden_arguments;
        match self.hidden {
            Some(hidden) if result == NO_TYPE => self.told.stand_in(hidden),
            Some(_) => None,
            None => self.told.within(self.recorder, result, &of),
        }
    }

    fn whole_type(&mut self, scope: u32) -> ReadType {
        self.hidden = None;
        self.hidden_arguments = GivenParameters::default();
        while self.is(b'@') || self.is_modifier() && (self.peek().0.is_word() || self.is_waiting_function()) {
            if self.is(b'@') {
                self.annotation();
                if self.is(b'(') && self.before.0 == Kind::Word {
                    self.skip_parentheses();
                }
            } else {
                self.advance();
            }
        }
        let mut read = NOTHING;
        if self.is(b'(') {
            read = self.parameters_of_type(scope, None);
        } else if self.is_name() {
            read = self.named_type(scope);
        }
        while self.is(b'?') && self.behind() != b':' && self.behind() != b'.' {
            self.advance();
        }
        if self.is(b'-') && self.behind() == b'>' && self.before.0 == Kind::Mark(b')') {
            self.advance();
            self.advance();
            let result = self.type_reference(scope);
            (read.node, self.hidden) = (None, None);
            read.argument = read.argument.or(result.node).or(result.argument);
            read.arguments[MOST_ARGUMENTS - 1] = self.spelled(result);
        } else if self.is(b'&') && self.behind() != b'&' {
            self.advance();
            self.type_reference(scope);
        }
        read
    }

    /// Whether `suspend (` is here.
    fn is_waiting_function(&mut self) -> bool {
        self.tokens.token.span.of(self.text) == b"suspend" && self.peek().0.is(b'(')
    }

    fn named_type(&mut self, scope: u32) -> ReadType {
        let mut chain = Chain::default();
        let mut read = NOTHING;
        loop {
            self.link(&mut chain);
            if self.is(b'<') {
                read = self.type_arguments(scope);
            }
            if !self.is(b'.') {
                break;
            }
            let (next, _) = self.peek();
            if next.is(b'(') {
                // `Taxon.(Int) -> Unit`: a function with a receiver
                self.advance();
                read.node = self.record_type(&chain, scope);
                let receiver = self.spelled(read);
                return self.parameters_of_type(scope, Some((read.node, receiver)));
            }
            if !next.is_word() {
                break;
            }
            self.advance();
        }
        read.node = self.record_type(&chain, scope);
        read
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

    /// Reads `(name: Type, Other)` of a function's type, behind its receiver, or a type in parentheses, which is then
    /// what the node names.
    fn parameters_of_type(&mut self, scope: u32, receiver: Option<(Option<u32>, u32)>) -> ReadType {
        self.advance();
        let mut read = NOTHING;
        let mut given: Vec<u32> = receiver.iter().map(|(_, value_type)| *value_type).collect();
        read.argument = receiver.and_then(|(node, _)| node);
        while !matches!(self.tokens.token.kind, Kind::Mark(b')' | b'}' | b'{' | b';' | b'=') | Kind::End) {
            let at = self.tokens.token.start();
            if self.is_name() && self.peek().0.is(b':') {
                self.advance();
                self.advance();
            }
            let parameter = self.type_reference(scope);
            if given.is_empty() {
                (read.node, read.argument) = (parameter.node, parameter.node);
            }
            let value_type = match parameter.node {
                None if self.hidden.is_some() && self.hidden == self.told.itself => FIRST_GIVEN,
                _ => self.spelled(parameter),
            };
            given.push(value_type);
            if self.is(b',') || self.tokens.token.start() == at {
                self.advance();
            }
        }
        if self.is(b')') {
            self.advance();
        }
        for (place, value_type) in read.arguments[..MOST_ARGUMENTS - 1].iter_mut().zip(given) {
            *place = value_type;
        }
        read.has_receiver = receiver.is_some();
        read
    }

    pub(super) fn record_type(&mut self, chain: &Chain, scope: u32) -> Option<u32> {
        self.hidden = None;
        if let [only] = chain.links()
            && let Some((name, bound)) = self.parameters.iter().find(|(name, _)| *name == only.name)
        {
            self.hidden = Some(*name);
            return *bound;
        }
        self.recorder.chain(Root::Scope(scope), chain.links(), Context::Type, false)
    }

    /// Reads `<…>`; what it gives has no node.
    pub(super) fn type_arguments(&mut self, scope: u32) -> ReadType {
        self.advance();
        let (mut read, mut count) = (NOTHING, 0);
        let mut hidden = GivenParameters::default();
        loop {
            let at = self.tokens.token.start();
            match self.tokens.token.kind {
                Kind::Mark(b'>') => {
                    self.advance();
                    self.hidden_arguments = hidden;
                    return read;
                }
                Kind::Mark(b',' | b'*') => self.advance(),
                Kind::Word if self.word == Word::In => self.advance(),
                Kind::Word | Kind::Mark(b'(' | b'@') => {
                    let argument = self.type_reference(scope);
                    read.argument = argument.argument.or(argument.node).or(read.argument);
                    if let Some(place) = read.arguments.get_mut(count) {
                        *place = self.spelled(argument);
                        hidden[count] = self.hidden;
                    }
                    count += 1;
                }
                _ => return read,
            }
            if self.tokens.token.start() == at {
                self.advance();
            }
        }
    }
}
