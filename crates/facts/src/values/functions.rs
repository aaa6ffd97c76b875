//! Functions without spelled types: what they are made to be, and what their parameters are given.

use super::steps::is_of_several;
use super::{UNKNOWN, Values, step};
use ferngate_model::{Name, Recorder, UseParent};

/// Where a function without spelled types begins.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum FunctionBegins {
    /// Behind `=`, whose left side is the value just read.
    Assigned,
    /// Behind a cast.
    Cast,
    /// Behind `return`.
    Returned,
    /// Mostly as an argument of a call.
    Elsewhere,
}

impl Values {
    /// What a function without spelled types is made to be that begins here.
    pub fn taker(&self, begins: FunctionBegins, frames: usize) -> Option<UseParent> {
        match begins {
            FunctionBegins::Assigned => Some(self.value),
            FunctionBegins::Cast => Some(self.made),
            FunctionBegins::Returned if self.in_function(frames) => Some(UNKNOWN),
            FunctionBegins::Returned => Some(self.result),
            FunctionBegins::Elsewhere => None,
        }
    }

    /// Whether what stands right behind the innermost parenthesis is an argument of a call.
    pub fn opens_call(&self) -> bool {
        self.parentheses.last().is_some_and(|call| call.result.is_some())
    }

    /// Whether nothing is made of a call that ends in `text` with the parenthesis at `at`.
    pub fn is_statement(&self, text: &[u8], at: usize) -> bool {
        text.get(at + 1) == Some(&b';') && !self.decides()
    }

    /// What the method gives whose code is read.
    pub fn result(&self) -> UseParent {
        self.result
    }

    /// States what the method gives whose code follows.
    pub fn gives(&mut self, result: UseParent) {
        self.result = result;
    }

    /// Notes parameter `number`, from zero, of a function without spelled types: it is what `taker` says or, where that
    /// says nothing, an argument of the call around.
    pub fn parameter(
        &mut self,
        name: Name,
        number: usize,
        taker: Option<UseParent>,
        recorder: &mut Recorder,
        at: usize,
    ) {
        let (taker, argument) = match taker {
            Some(taker) => (taker, Name::ITSELF),
            None => self.taking_call(recorder).unwrap_or((UNKNOWN, 0)),
        };
        let value = step(recorder, taker, Name::given(argument, number), at);
        self.local(name, value);
        if let Some(local) = self.locals.last_mut() {
            local.is_parameter = true;
        }
    }

    /// The innermost call around whose function is not given what one further out holds, with the number of the argument that
    /// begins here.
    fn taking_call(&mut self, recorder: &mut Recorder) -> Option<(UseParent, usize)> {
        let (at, call) = (0..self.parentheses.len()).rev().find_map(|at| {
            let call = self.parentheses[at].result?;
            (!self.takes_of_call_around(recorder, call)).then_some((at, call))
        })?;
        Some((self.told_apart(at, call, recorder), self.parentheses[at].commas))
    }

    /// The call around, with the number of the argument that begins here: a function, which may be given what the call is given
    /// first.
    pub fn call_around(&mut self, recorder: &mut Recorder) -> Option<(UseParent, usize)> {
        let at = self.parentheses.len().checked_sub(1)?;
        let call = self.parentheses[at].result?;
        Some((self.told_apart(at, call, recorder), self.parentheses[at].commas))
    }

    /// The call `call` of parenthesis number `at` as it is told from others by its first argument, where that is read already:
    /// what the function that begins here is given may depend on it.
    fn told_apart(&mut self, at: usize, call: UseParent, recorder: &mut Recorder) -> UseParent {
        let parenthesis = &mut self.parentheses[at];
        let (Err(node), false) = (call.get(), parenthesis.first == UNKNOWN || parenthesis.indexes) else {
            return call;
        };
        if is_of_several(recorder, node) {
            return call;
        }
        let told = UseParent::node(recorder.called_on(node, parenthesis.first, parenthesis.at, false));
        parenthesis.result = Some(told);
        told
    }

    /// Notes the local that the call around gives a value: `find(out var bed)`.
    pub fn given_by_call(&mut self, name: Name, recorder: &mut Recorder, at: usize) {
        let around = self.parentheses.last();
        let call = around.and_then(|parenthesis| Some((parenthesis.result?, parenthesis.commas)));
        let (call, argument) = call.unwrap_or((UNKNOWN, 0));
        let value = step(recorder, call, Name::given(argument, Name::WHOLE), at);
        self.local(name, value);
    }

    /// Whether the function that is given to the call `call` is given what the call around holds.
    pub fn takes_of_call_around(&self, recorder: &mut Recorder, call: UseParent) -> bool {
        self.is_call_of(recorder, call, self.gives.of_call_around)
    }

    /// Whether the function with two parameters that is given to the call `call` may be given keys and values.
    pub fn takes_keys(&self, recorder: &mut Recorder, call: UseParent) -> bool {
        self.is_call_of(recorder, call, self.gives.with_keys)
    }
}
