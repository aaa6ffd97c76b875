//! Parameters of types and methods.

use super::{Reader, Word};
use crate::lexis::Kind;
use crate::values::{GivenParameters, ToldByFirst, value_of};
use ferngate_model::{ArgumentCounts, Member, MemberKind, NO_TYPE};

impl Reader<'_, '_> {
    /// Reads `<T extends Taxon & Named, U>`, of a type where `owner` is given, else of a method.
    pub(super) fn type_parameters(&mut self, scope: u32, owner: Option<u32>) {
        self.advance();
        while !matches!(self.tokens.token.kind, Kind::Mark(b'>' | b'(' | b'{' | b';') | Kind::End) {
            if self.is(b'@') {
                self.annotation(scope);
            } else if self.is_name() {
                let name = self.tokens.token.name;
                match owner {
                    Some(owner) => {
                        self.recorder.member(Member::public(owner, name, MemberKind::TypeParameter, NO_TYPE))
                    }
                    None => self.parameters.push((name, None)),
                }
                self.advance();
            } else if self.word == Word::Extends {
                self.advance();
                let node = self.type_reference(scope);
                self.bound(owner, node);
            } else if self.is(b'&') {
                self.advance();
                self.type_reference(scope);
            } else {
                self.advance();
            }
        }
        if self.is(b'>') {
            self.advance();
        }
    }

    /// Notes what the type parameter just read is at least.
    fn bound(&mut self, owner: Option<u32>, node: Option<u32>) {
        let value_type = self.spelled(node);
        match owner {
            Some(_) => {
                if let Some(parameter) = self.recorder.facts().members.last_mut() {
                    parameter.value_type = value_type;
                }
            }
            None => {
                if let Some((_, bound)) = self.parameters.last_mut() {
                    *bound = node;
                }
            }
        }
    }

    /// Reads `(final Taxon taxon, int... counts)`; the names are fields of `record` where that is given.
    pub(super) fn parameter_list(&mut self, scope: u32, record: Option<u32>) -> ArgumentCounts {
        self.advance();
        let (mut count, mut is_open) = (0, false);
        self.parameter_types.clear();
        self.told = ToldByFirst::default();
        while !matches!(self.tokens.token.kind, Kind::Mark(b')' | b'{' | b';') | Kind::End) {
            let at = self.tokens.token.start();
            if self.word == Word::Modifier {
                self.advance();
                continue;
            }
            self.bound_arguments = GivenParameters::default();
            let node = self.type_reference(scope);
            let value_type = self.spelled(node);
            // `type_reference` goes behind `...`
            is_open |= self.before[0].0 == Kind::Mark(b'.');
            while self.is(b'.') || self.is(b'@') {
                is_open |= self.is(b'.');
                if self.is(b'@') { self.annotation(scope) } else { self.advance() }
            }
            if self.is_name() {
                let name = self.tokens.token.name;
                let told = self.told.within(self.recorder, value_type, &self.bound_arguments);
                self.parameter_types.push(told.unwrap_or(value_type));
                if count == 0 {
                    self.told = ToldByFirst { itself: self.bound, arguments: self.bound_arguments };
                }
                count += 1;
                self.values.local(name, value_of(value_type));
                if let Some(owner) = record {
                    self.recorder.member(Member::public(owner, name, MemberKind::Value, value_type));
                }
            }
            while !matches!(self.tokens.token.kind, Kind::Mark(b',' | b')' | b'{' | b';') | Kind::End) {
                self.advance();
            }
            if self.is(b',') || self.tokens.token.start() == at {
                self.advance();
            }
        }
        if self.is(b')') {
            self.advance();
        }
        if is_open { ArgumentCounts::ANY } else { ArgumentCounts::of(count) }
    }
}
