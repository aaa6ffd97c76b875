//! Steps from one value to another that the recorder keeps: parts, pairs, what a call was given.

use super::UNKNOWN;
use ferngate_model::{
    ArgumentCounts, CLASS_OF, ChainLink, Context, FIRST_GIVEN, MOST_ARGUMENTS, NO_TYPE, Name, Recorder, Root,
    Span, UseParent, ValueType, with_first_given,
};
use smallvec::SmallVec;

/// A call is looked at as so many calls at most.
const MOST_MEANINGS: usize = 4;

/// What the method is called on that gives `result`.
pub fn receiver_of(recorder: &mut Recorder, result: UseParent) -> UseParent {
    let called = result.get().err().and_then(|node| recorder.facts().uses.get(node as usize));
    called.map_or(UNKNOWN, |used| used.parent)
}

/// A value with the parts `first` and `second`: a pair, or a map of such.
pub fn pair(recorder: &mut Recorder, first: UseParent, second: UseParent) -> UseParent {
    let mut spelled = |value: UseParent| match value.get() {
        Ok(Root::Value(value_type)) => value_type,
        Ok(_) => NO_TYPE,
        Err(node) => recorder.spelled_type(ValueType::new(Some(node), None)),
    };
    let mut pair = ValueType::new(None, None);
    (pair.arguments[0], pair.arguments[1]) = (spelled(first), spelled(second));
    value_of(recorder.spelled_type(pair))
}

/// A value of the type with this index among the file's types of values.
pub fn value_of(value_type: u32) -> UseParent {
    if value_type == NO_TYPE { UNKNOWN } else { UseParent::root(Root::Value(value_type)) }
}

/// The type of `value` among the file's types of values.
pub(super) fn type_of(recorder: &mut Recorder, value: UseParent) -> u32 {
    match value.get() {
        Ok(Root::Value(value_type)) => value_type,
        Ok(_) => NO_TYPE,
        Err(node) => recorder.spelled_type(ValueType::of_expression(node)),
    }
}

/// The calls that `result` may be what they give: one, or several where it is not known which of them is made.
fn calls_of(recorder: &mut Recorder, result: UseParent) -> SmallVec<[u32; 2 * MOST_MEANINGS]> {
    let mut calls = SmallVec::new();
    let Err(mut call) = result.get() else { return calls };
    for _ in 0..MOST_MEANINGS {
        calls.push(call);
        let Some(used) = recorder.facts().uses.get(call as usize).copied() else { break };
        let (Some(other), Err(one)) = (used.name.as_type(), used.parent.get()) else { break };
        let other = recorder.facts().value_types.get(other as usize).copied();
        calls.extend(other.filter(|other| other.is_inner()).map(|other| other.outer));
        call = one;
    }
    calls
}

/// Notes that the call that gives `result` is given `argument` first. A call that may be one of several is noted as each.
pub(super) fn note_first(recorder: &mut Recorder, result: UseParent, argument: UseParent) {
    if argument != UNKNOWN {
        let calls = calls_of(recorder, result);
        recorder.facts().first_arguments.extend(calls.into_iter().map(|call| (call, argument)));
    }
}

/// The first of the calls that `result` may be what they give.
pub fn first_meaning(recorder: &mut Recorder, mut result: u32) -> u32 {
    for _ in 0..MOST_MEANINGS {
        let used = recorder.facts().uses.get(result as usize);
        let Some(Err(first)) =
            used.filter(|used| used.name.as_type().is_some()).map(|used| used.parent.get())
        else {
            break;
        };
        result = first;
    }
    result
}

/// Whether `result` may be what one of several calls gives.
pub(super) fn is_of_several(recorder: &mut Recorder, result: u32) -> bool {
    recorder.facts().uses.get(result as usize).is_some_and(|used| used.name.as_type().is_some())
}

/// Notes that the call that gives `result`, which may be one of several, has `count` arguments, once.
pub(super) fn note_count(recorder: &mut Recorder, result: UseParent, count: usize) {
    for call in calls_of(recorder, result) {
        if let Some(used) = recorder.facts().uses.get_mut(call as usize).filter(|used| used.called) {
            used.arguments = used.arguments.with(ArgumentCounts::of(count));
        }
    }
}

/// Whether `value` stands for a class itself.
pub(super) fn is_class(recorder: &mut Recorder, value: UseParent) -> bool {
    let Ok(Root::Value(value_type)) = value.get() else { return false };
    let spelled = recorder.facts().value_types.get(value_type as usize);
    spelled.is_some_and(|spelled| spelled.outer == CLASS_OF)
}

/// Records that the call that gives `result` was given the type `value_type`, which may tell of what type that is.
pub(super) fn given(recorder: &mut Recorder, result: UseParent, value_type: u32, at: usize) -> UseParent {
    if matches!(result.get(), Ok(Root::Value(_))) {
        result
    } else {
        with_given(recorder, result, value_type, at)
    }
}

/// The same where `result` is spelled, without what it holds.
pub(super) fn with_given(
    recorder: &mut Recorder,
    result: UseParent,
    value_type: u32,
    at: usize,
) -> UseParent {
    let Some(name) = Name::of_type(value_type) else { return result };
    let link = ChainLink { name, arity: 0, span: Span::new(at, at) };
    UseParent::node(recorder.used(result, link, Context::Value, false))
}

/// A value that is `first` or, where nothing is known of that, `other`, or values of its type.
pub fn or_else(recorder: &mut Recorder, first: UseParent, other: UseParent, at: usize) -> UseParent {
    if first == other || other == UNKNOWN {
        return first;
    }
    let value_type = type_of(recorder, other);
    given(recorder, first, value_type, at)
}

/// Records that the part called `name` of a value is taken.
pub fn part(recorder: &mut Recorder, from: UseParent, name: Name, at: usize) -> UseParent {
    if from == UNKNOWN {
        return UNKNOWN;
    }
    let link = ChainLink { name, arity: 0, span: Span::new(at, at) };
    UseParent::node(recorder.used(from, link, Context::Value, true))
}

/// The object of the class that is named by `class`.
pub fn object_of(recorder: &mut Recorder, class: UseParent) -> UseParent {
    let Err(node) = class.get() else { return UNKNOWN };
    value_of(recorder.spelled_type(ValueType::new(Some(node), None)))
}

/// Records a step from a value to another that no letter spells.
pub fn step(recorder: &mut Recorder, from: UseParent, name: Name, at: usize) -> UseParent {
    if from == UNKNOWN {
        return UNKNOWN;
    }
    let link = ChainLink { name, arity: 0, span: Span::new(at, at) };
    UseParent::node(recorder.used(from, link, Context::Value, false))
}

/// The type parameters of the method being read that stand by themselves among the type arguments of a type.
pub type GivenParameters = [Option<Name>; MOST_ARGUMENTS];

/// The type parameters of a method that its first parameter tells.
#[derive(Clone, Copy, Debug, Default)]
pub struct ToldByFirst {
    /// The one that is that parameter's type.
    pub itself: Option<Name>,
    /// Those among the type arguments of that type.
    pub arguments: GivenParameters,
}

impl ToldByFirst {
    /// What stands for the type parameter `name`.
    pub fn stand_in(&self, name: Name) -> Option<u32> {
        if self.itself == Some(name) {
            return Some(FIRST_GIVEN);
        }
        self.arguments.iter().position(|given| *given == Some(name)).map(with_first_given)
    }

    /// The type `result` with what stands for those of the type parameters `of` the method that it was given:
    /// `<T> Optional<T> maybe(T thing)`. `None` where it was given none of them.
    pub fn within(&self, recorder: &mut Recorder, result: u32, of: &GivenParameters) -> Option<u32> {
        let mut told = *recorder.facts().value_types.get(result as usize)?;
        let mut is_given = false;
        for (place, name) in told.arguments.iter_mut().zip(of) {
            if let Some(stand_in) = name.and_then(|name| self.stand_in(name)) {
                (*place, is_given) = (stand_in, true);
            }
        }
        is_given.then(|| recorder.spelled_type(told))
    }
}

/// What the type just read was given between `<` and `>`.
#[derive(Clone, Copy, Debug)]
pub struct Given {
    /// The node of the last name.
    pub last: Option<u32>,
    /// The first of them, among the file's types of values.
    arguments: [u32; MOST_ARGUMENTS],
}

impl Default for Given {
    fn default() -> Self {
        Self { last: None, arguments: [NO_TYPE; MOST_ARGUMENTS] }
    }
}

impl Given {
    /// Notes that type argument number `at` ends with `node`, or is an array of that, and was given `inner` itself.
    pub fn take(&mut self, at: usize, node: Option<u32>, array: bool, inner: Self, recorder: &mut Recorder) {
        if let Some(place) = self.arguments.get_mut(at) {
            *place = inner.spelled(node, array, recorder);
        }
        self.last = inner.last.or(node).or(self.last);
    }

    /// The type with this last name, or an array of it, among the file's types of values.
    pub fn spelled(self, node: Option<u32>, array: bool, recorder: &mut Recorder) -> u32 {
        let own = recorder.spelled_type(self.of(node));
        if !array {
            return own;
        }
        let mut holder = ValueType::new(None, self.last.or(node));
        if self.arguments[0] != NO_TYPE {
            // The rows of `Row<T>[]` are of more than their name says.
            holder.arguments[0] = own;
        }
        recorder.spelled_type(holder)
    }

    /// The type with this last name, which holds what it holds.
    pub fn of(self, node: Option<u32>) -> ValueType {
        ValueType { arguments: self.arguments, ..ValueType::new(node, self.last) }
    }
}
