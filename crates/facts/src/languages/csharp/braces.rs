//! Braces inside of expressions: members of what is made are given values there, or a `switch` gives one of several.

use super::tokens::{Kind, Word};
use super::{Before, Place, Reader};
use crate::values::{Operator, UNKNOWN, or_else};
use ferngate_model::UseParent;

/// The open braces of one file that hold more than statements.
#[derive(Debug, Default)]
pub(super) struct Braces {
    /// Objects whose members are given values, with where each stands.
    initializers: Vec<(Place, UseParent)>,
    /// Those of `bed switch { … }`.
    switches: Vec<Switch>,
    /// Where the `?` of each conditional stands whose `:` comes yet.
    conditionals: Vec<(Place, usize)>,
}

/// The braces of a `switch` that gives a value.
#[derive(Clone, Copy, Debug)]
struct Switch {
    place: Place,
    /// Open parentheses around it.
    parentheses: usize,
    /// What the arms so far give.
    value: UseParent,
}

impl Braces {
    /// Notes that members of `made` are given values at `place`.
    pub(super) fn initialize(&mut self, place: Place, made: UseParent) {
        self.initializers.push((place, made));
    }

    /// Forgets the object noted last.
    pub(super) fn forget_initialized(&mut self) {
        self.initializers.pop();
    }
}

impl Reader<'_, '_> {
    /// At an opening brace: `new Bed { Width = 2 }`, `bed with { Width = 2 }`, `bed switch { … }`.
    pub(super) fn open_braces(&mut self) {
        let place = self.place();
        if std::mem::take(&mut self.creates) {
            self.braces.initialize(place, self.values.value);
        } else if self.before[0] == (Kind::Keyword, Word::Before) && self.behind_switch() {
            let parentheses = self.values.parentheses.len();
            self.braces.switches.push(Switch { place, parentheses, value: UNKNOWN });
        }
    }

    /// Of the words that a condition follows only `switch` may stand right before a brace.
    fn behind_switch(&self) -> bool {
        self.text[..self.lexer.token.start()].trim_ascii_end().ends_with(b"switch")
    }

    /// At a comma or the closing brace: what the arm that ends here gives is what the whole gives, if no arm before did.
    #[inline]
    pub(super) fn arm_ends(&mut self) {
        if !self.braces.switches.is_empty() {
            self.end_arm();
        }
    }

    fn end_arm(&mut self) {
        let here = (self.place(), self.values.parentheses.len());
        if let Some(switch) = self.braces.switches.last_mut()
            && (switch.place, switch.parentheses) == here
        {
            switch.value = match switch.value {
                UNKNOWN => self.values.value,
                known => or_else(self.recorder, known, self.values.value, self.lexer.token.start()),
            };
        }
    }

    /// At the brace that closes the innermost braces: what was made there, or is given there, is the value again.
    pub(super) fn close_braces(&mut self) {
        self.arm_ends();
        let here = self.place();
        while let Some((place, value)) = self.braces.initializers.last().copied()
            && place >= here
        {
            self.braces.initializers.pop();
            self.values.value = value;
        }
        while let Some(switch) = self.braces.switches.last().copied()
            && switch.place >= here
        {
            self.braces.switches.pop();
            self.values.value = switch.value;
        }
    }

    /// At a `?` that may begin `wet ? bed : row`: what else it can stand for has a dot, a bracket or no `:` behind it.
    pub(super) fn conditional(&mut self) {
        let here = (self.place(), self.values.parentheses.len());
        let behind = self.text.get(self.lexer.token.end()).copied();
        if !matches!(behind, Some(b'.' | b'[' | b'>' | b',' | b')')) {
            // Those of expressions that have ended are not waited for any more.
            while self.braces.conditionals.last().is_some_and(|open| *open > here) {
                self.braces.conditionals.pop();
            }
            self.braces.conditionals.push(here);
            self.values.condition_ends();
        }
    }

    /// At a `:`: behind a `?` the value is what stands before it or, where that is nothing, what follows.
    pub(super) fn otherwise(&mut self) {
        let here = (self.place(), self.values.parentheses.len());
        if self.braces.conditionals.last() == Some(&here) {
            self.braces.conditionals.pop();
            self.values.before_operator(Operator::Else, self.lexer.token.start());
        }
    }

    /// At the end of a statement no `:` is waited for.
    pub(super) fn forget_conditionals(&mut self) {
        self.braces.conditionals.clear();
    }

    /// The object of whose member the bare name just read is, where it is given a value between braces.
    pub(super) fn initialized(&self, opens: Before) -> Option<UseParent> {
        let (place, value) = *self.braces.initializers.last()?;
        let assigned = self.lexer.token.is(b'=') && matches!(opens.0, Kind::Mark(b'{' | b',' | b'('));
        (place == self.place() && assigned).then_some(value)
    }
}
