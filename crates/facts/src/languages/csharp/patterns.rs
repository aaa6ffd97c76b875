//! Patterns: what `is`, `case` and `switch` tell apart, by types and by the values of members.

use super::tokens::{Kind, Word};
use super::{Arguments, Before, Chain, FrameKind, Place, Reader};
use ferngate_model::{Context, UseParent};

/// Braces between which members of a value are compared: `{ Label: null }`.
#[derive(Clone, Copy, Debug)]
pub(super) struct Pattern {
    place: Place,
    /// Open parentheses around the members.
    parentheses: usize,
    /// The value whose members they are.
    value: UseParent,
}

impl Reader<'_, '_> {
    /// Reads what the value just read is compared with.
    pub(super) fn pattern(&mut self, scope: u32) {
        let compared = self.values.value;
        while self.lexer.token.word == Word::Pattern {
            self.advance();
        }
        if self.lexer.token.is(b'{') {
            self.matching = Some(compared);
        } else if self.lexer.token.word == Word::Var && self.peek().is_identifier() {
            self.advance();
            self.local(compared);
        } else if self.lexer.token.is_identifier() && self.lexer.token.word != Word::Var {
            let chain = self.chain(scope, Arguments::Unsure);
            let value = self.type_of_pattern(&chain, scope);
            self.values.value = value;
            if self.matching.is_none() {
                self.local(value);
            }
        }
    }

    /// A single name that may be a type or a constant: `case Climate:`.
    pub(super) fn bare_name(&mut self, scope: u32) {
        let chain = self.chain(scope, Arguments::Unsure);
        if self.lexer.token.is(b'{') {
            self.type_of_pattern(&chain, scope);
        } else if self.declares(&chain) {
            let value = self.type_of_pattern(&chain, scope);
            self.local(value);
        } else {
            let called = self.lexer.token.is(b'(');
            self.recorder.chain(chain.root(scope), chain.links(), Context::Value, called);
        }
    }

    /// Records the type just read, of whose members some may be compared behind it.
    fn type_of_pattern(&mut self, chain: &Chain, scope: u32) -> UseParent {
        let node = self.record_type(chain, scope);
        let value = self.value_of_type(node, false);
        if self.lexer.token.is(b'{') {
            self.matching = Some(value);
        }
        value
    }

    /// Deals with a name that is part of a pattern: that of a member that is compared, or a type with members behind it.
    pub(super) fn in_pattern(&mut self, chain: &Chain, opens: Before, scope: u32) -> bool {
        let begins = matches!(opens.0, Kind::Mark(b'{' | b','));
        if begins
            && self.lexer.token.is(b':')
            && let Some(around) = self.patterns.last()
            && (around.place, around.parentheses) == (self.place(), self.values.parentheses.len())
        {
            let value = around.value;
            self.members_of(value, chain.links(), false);
            self.advance();
            self.pattern(scope);
            return true;
        }
        let frame = self.frame();
        // In a property these braces hold what gets or sets it.
        let accesses = frame.kind == FrameKind::Property && frame.depth == 1;
        let follows = begins || opens.0 == Kind::Mark(b'(') || opens.1 == Word::Pattern;
        if !self.lexer.token.is(b'{') || accesses || !follows {
            return false;
        }
        self.values.value = self.type_of_pattern(chain, scope);
        true
    }

    /// At a brace: members are compared behind it, if it follows what it is compared with.
    pub(super) fn open_pattern(&mut self) {
        if let Some(value) = self.matching.take() {
            let (place, parentheses) = (self.place(), self.values.parentheses.len());
            self.patterns.push(Pattern { place, parentheses, value });
        }
    }

    /// At the brace that closes the innermost braces: the value whose members were compared between them.
    pub(super) fn close_pattern(&mut self) -> Option<UseParent> {
        let here = self.place();
        let mut closed = None;
        while let Some(last) = self.patterns.last().copied()
            && last.place >= here
        {
            self.patterns.pop();
            closed = (last.place == here).then_some(last.value);
        }
        closed
    }
}
