//! Operators between values of which the first tells what they give.

use super::steps::{or_else, pair};
use super::{UNKNOWN, Values};
use ferngate_model::{Recorder, UseParent};

/// An operator between two values of which the first tells what it gives.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Operator {
    /// Gives one of the kind of its first operand: `beds + bed`.
    Plus,
    /// Gives a pair: `bed to label`.
    To,
    /// Gives its first operand or, where that is nothing, the second: `found ?? Bed.None`.
    Else,
}

/// The first operand of an operator whose second one is being read.
#[derive(Clone, Copy, Debug)]
pub(super) struct Operand {
    pub(super) value: UseParent,
    pub(super) operator: Operator,
    /// Where the operator stands.
    at: usize,
}

impl Values {
    /// Whether the second operand of an operator is being read.
    pub fn operates(&self) -> bool {
        self.operand.is_some()
    }

    /// Notes that the value just read stands before `operator`.
    pub fn before_operator(&mut self, operator: Operator, at: usize) {
        match self.operand {
            // `bed to label + sign`, `beds + bed + bed`: the first goes on
            Some(Operand { operator: known, .. }) if known == Operator::To || operator == Operator::Plus => {}
            Some(Operand { value, .. }) => self.operand = Some(Operand { value, operator, at }),
            None => self.operand = Some(Operand { value: self.value, operator, at }),
        }
    }

    /// Notes that an operator follows of which nothing is known.
    pub fn forget_operand(&mut self) {
        self.operand = None;
    }

    /// At the end of an expression: the value is what the operator in it gives.
    pub fn operation_ends(&mut self, recorder: &mut Recorder) {
        if let Some(Operand { value, operator, at }) = self.operand.take() {
            self.value = match operator {
                Operator::Plus => value,
                Operator::Else if value == UNKNOWN => self.value,
                Operator::Else => or_else(recorder, value, self.value, at),
                Operator::To => pair(recorder, value, self.value),
            };
        }
    }
}
