//! Queries: `from bed in beds where bed.Wet select bed.Row` gives rows, one for each bed.

use super::tokens::Word;
use super::{Place, Reader};
use crate::values::{Paused, UNKNOWN, pair};
use ferngate_model::UseParent;

/// A query that is being read.
#[derive(Clone, Copy, Debug)]
pub(super) struct Query {
    place: Place,
    /// Open parentheses around it.
    parentheses: usize,
    /// What waits for the value of the whole.
    around: Paused,
    /// Locals in sight before its own.
    locals: usize,
    /// What its last clause puts into groups.
    grouped: Option<UseParent>,
}

impl Reader<'_, '_> {
    fn query_here(&mut self) -> Option<&mut Query> {
        let here = (self.place(), self.values.parentheses.len());
        self.queries.last_mut().filter(|query| (query.place, query.parentheses) == here)
    }

    /// A word of a query that a name follows; some bring a local.
    pub(super) fn query_clause(&mut self) {
        let word = self.lexer.token.span().of(self.text);
        if word == b"from" && self.query_here().is_none() {
            let (place, parentheses) = (self.place(), self.values.parentheses.len());
            let (around, locals) = (self.values.pause(), self.values.locals());
            self.queries.push(Query { place, parentheses, around, locals, grouped: None });
        }
        self.clause_ends();
        self.advance();
        let (name, next) = (self.lexer.token.name, self.peek());
        match word {
            b"from" | b"join" if next.word == Word::Argument => self.values.untyped(name, true),
            b"let" if next.is(b'=') => self.values.untyped(name, false),
            b"into" => {
                let value = self.values.value;
                let grouped = self.query_here().and_then(|query| query.grouped.take());
                let group = grouped.map(|grouped| self.all_of(grouped));
                self.values.local(name, group.unwrap_or(value));
            }
            _ => return,
        }
        self.advance();
    }

    /// At a word that begins the next clause.
    pub(super) fn clause_ends(&mut self) {
        self.values.first_value_ends(self.recorder, self.lexer.token.start());
        let value = self.values.value;
        if self.lexer.token.span().of(self.text) == b"by"
            && let Some(query) = self.query_here()
        {
            query.grouped = Some(value);
        }
    }

    /// At the end of an expression: the queries that end with it give all that they select.
    #[inline]
    pub(super) fn queries_end(&mut self) {
        if !self.queries.is_empty() {
            self.end_queries();
        }
    }

    fn end_queries(&mut self) {
        let here = (self.place(), self.values.parentheses.len());
        while let Some(query) = self.queries.last().copied()
            && (query.place, query.parentheses) >= here
        {
            self.queries.pop();
            self.values.first_value_ends(self.recorder, self.lexer.token.start());
            let selected = query.grouped.map_or(self.values.value, |grouped| self.all_of(grouped));
            self.values.resume(query.around, query.locals);
            self.values.value = self.all_of(selected);
        }
    }

    /// A collection of values like `one`.
    fn all_of(&mut self, one: UseParent) -> UseParent {
        if one == UNKNOWN { UNKNOWN } else { pair(self.recorder, one, UNKNOWN) }
    }
}
