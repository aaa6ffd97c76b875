//! What is known of an open parenthesis.

use super::UNKNOWN;
use super::operators::Operand;
use ferngate_model::{NO_TYPE, UseParent};

/// An open parenthesis or bracket.
#[derive(Clone, Copy, Debug)]
pub struct Parenthesis {
    /// The base of the class whose arguments it holds, if a body may follow.
    pub base: Option<u32>,
    /// What the expression gives when it is closed; `None` where it only groups.
    pub result: Option<UseParent>,
    /// What a cast inside makes of it.
    pub(super) cast: Option<UseParent>,
    /// It holds what a `switch` tells apart.
    pub switches: bool,
    /// It holds the arguments of what makes an object.
    pub creates: bool,
    /// It is the head of a statement, such as a condition.
    pub heads: bool,
    /// It holds what needs no name in the braces behind it.
    pub receives: bool,
    /// It is a bracket behind a value.
    pub(super) indexes: bool,
    /// The frames around it and the open braces of the last; commas inside of further ones part no arguments.
    pub place: (usize, u32),
    /// Where it begins, in bytes.
    pub(super) at: usize,
    /// Commas that part its arguments.
    pub commas: usize,
    /// The value of the first argument, once a comma followed it.
    pub first: UseParent,
    /// It holds the arguments of a call that is told from others of its name by their number and the first of them.
    pub counts: bool,
    /// Nothing is made of the call.
    pub(super) is_statement: bool,
    /// The last type that the call is given, among the file's types of values, or [`NO_TYPE`]: `find<Bed>()`,
    /// `find(Bed.class)`.
    pub given: u32,
    /// The argument read last is a function of one expression, or the name of one.
    pub function: bool,
    /// Its first argument is a text.
    pub text: bool,
    /// It holds what a type of unknown arguments is made of: `new ArrayList<>(beds)`.
    pub makes_holder: bool,
    /// What it holds is denied, `!(…)`.
    pub denies: bool,
    /// It is the head of a loop over elements.
    pub loops: bool,
    /// How many locals were in sight when it was opened.
    pub locals: usize,
    /// The operand around it that waits for another one.
    pub(super) operand: Option<Operand>,
}

impl Parenthesis {
    /// One that gives `result`, or that groups.
    pub fn with(result: Option<UseParent>) -> Self {
        Self {
            base: None,
            result,
            cast: None,
            switches: false,
            creates: false,
            heads: false,
            receives: false,
            indexes: false,
            place: (0, 0),
            at: 0,
            commas: 0,
            first: UNKNOWN,
            counts: false,
            is_statement: false,
            given: NO_TYPE,
            function: false,
            text: false,
            makes_holder: false,
            denies: false,
            loops: false,
            locals: 0,
            operand: None,
        }
    }
}
