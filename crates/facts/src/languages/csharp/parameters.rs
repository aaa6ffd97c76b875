//! Parameters of types and methods.

use super::Reader;
use super::tokens::{Kind, Word};
use crate::values::{ToldByFirst, value_of};
use ferngate_model::{Access, ArgumentCounts, BUILT_IN, Member, MemberKind, NO_TYPE, Name};

impl Reader<'_, '_> {
    /// Enters the type parameters just read.
    pub(super) fn type_parameters(&mut self, owner: u32) {
        self.values.forget(0);
        for name in &self.parameters {
            self.recorder.member(Member::public(owner, *name, MemberKind::TypeParameter, NO_TYPE));
        }
    }

    /// Reads `where T : …` clauses; those of a type say what its parameters are at least.
    pub(super) fn constraints(&mut self, scope: u32, owner: Option<u32>) {
        while self.lexer.token.word == Word::Where {
            self.advance();
            let parameter = self.lexer.token.name;
            while !matches!(self.lexer.token.kind, Kind::Mark(b'{' | b';' | b'}') | Kind::Arrow | Kind::End)
                && self.lexer.token.word != Word::Where
            {
                let at = self.lexer.token.start();
                if self.lexer.token.is_identifier() && !self.peek().is(b':') {
                    let value_type = self.value_type(scope);
                    self.bound(owner, parameter, value_type);
                }
                if self.lexer.token.start() == at {
                    self.advance();
                }
            }
        }
    }

    /// Notes the first of what a type parameter of `owner` is at least.
    fn bound(&mut self, owner: Option<u32>, parameter: Name, value_type: u32) {
        let Some(owner) = owner else { return self.bind(parameter, value_type) };
        // Those of the type stand last, because its head is being read.
        let mut own =
            self.recorder.facts().members.iter_mut().rev().take_while(|member| member.owner == owner);
        let is_meant = |member: &&mut Member| {
            member.kind == MemberKind::TypeParameter
                && member.name == parameter
                && member.value_type == NO_TYPE
        };
        if let Some(member) = own.find(is_meant) {
            member.value_type = value_type;
        }
    }

    /// Reads a parameter list between `(` or `[` and its partner. Those of a type are members of `owner`: anyone's if it is
    /// a record, and otherwise its own.
    pub(super) fn parameters(&mut self, scope: u32, owner: Option<(u32, Access)>) -> ArgumentCounts {
        let (mut count, mut fewest, mut is_open) = (0, None, false);
        self.parameter_types.clear();
        self.told = ToldByFirst::default();
        let closer = if self.lexer.token.is(b'[') { b']' } else { b')' };
        self.advance();
        while !matches!(self.lexer.token.kind, Kind::End | Kind::Mark(b'{' | b'}'))
            && !self.lexer.token.is(closer)
        {
            let at = self.lexer.token.start();
            if self.lexer.token.is(b'[') {
                self.attributes(scope);
            }
            is_open |= self.lexer.token.span().of(self.text) == b"params";
            if self.lexer.token.word == Word::This {
                self.advance();
            }
            // What takes an `object` takes all.
            let built_in =
                self.lexer.token.word == Word::Builtin && self.lexer.token.span().of(self.text) != b"object";
            let only_word = built_in && matches!(self.peek().kind, Kind::Identifier | Kind::Mark(b'?'));
            let value_type = self.value_type(scope);
            if matches!(self.lexer.token.kind, Kind::Identifier) {
                let name = self.lexer.token.name;
                let told = self.told.within(self.recorder, value_type, &self.hidden_arguments);
                if count == 0 {
                    let itself = self.hidden.filter(|_| value_type == NO_TYPE);
                    self.told = ToldByFirst { itself, arguments: self.hidden_arguments };
                }
                count += 1;
                self.parameter_types.push(if built_in { BUILT_IN } else { told.unwrap_or(value_type) });
                match owner {
                    Some((owner, access)) => {
                        let member = Member::public(owner, name, MemberKind::Value, value_type);
                        self.recorder.member(Member { access, ..member });
                    }
                    None => {
                        self.values.local(name, value_of(if only_word { BUILT_IN } else { value_type }));
                        self.wait_for_bound(value_type);
                    }
                }
                self.advance();
            }
            if self.lexer.token.is(b'=') {
                fewest.get_or_insert(count.max(1) - 1);
                self.expression(scope, closer);
            }
            if self.lexer.token.is(b',') || self.lexer.token.start() == at {
                self.advance();
            }
        }
        if self.lexer.token.is(closer) {
            self.advance();
        }
        if is_open {
            return ArgumentCounts::ANY;
        }
        let accepted = (fewest.unwrap_or(count)..=count).map(ArgumentCounts::of);
        accepted.fold(ArgumentCounts::default(), ArgumentCounts::with)
    }
}
