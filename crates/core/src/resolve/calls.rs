//! What calls are given, and what they give for it.

use super::follower::Follower;
use super::members::{DeclaredMember, FoundMembers};
use super::references::{Reference, State};
use super::values::{GivenFirst, Spelled, Value, first_arguments};
use super::{DeclaringFiles, EntityId, World};
use ferngate_model::{ArgumentCounts, Name, Root, Use, UseParent};

/// Calls of calls that give what they are given are followed this far.
const MOST_CALLS: usize = 8;
/// Of more calls of one name in a file the first tell.
const MOST_ALIKE: usize = 256;

impl Follower<'_> {
    /// What a call gives that was given the type `value_type`, where `known` is what it gives by its head alone.
    pub(super) fn of_given_type(&self, known: Value, value_type: u32, values: &[Value]) -> Value {
        if !matches!(known, Value::Unknown | Value::Foreign(_) | Value::Bound(_) | Value::Held(..)) {
            return known;
        }
        let spelled = self.world.value_of(Spelled { file: self.file as u32, value_type });
        // What an expression gives is known from that.
        let expression = self.facts.value_types.get(value_type as usize).map(|of| of.outer as usize);
        let of_expression = expression.and_then(|node| values.get(node)).copied();
        match (spelled, of_expression) {
            (Value::Of(given, _) | Value::Held(given, Spelled::NOWHERE), _)
            | (_, Some(Value::Of(given, _) | Value::Held(given, Spelled::NOWHERE))) => Value::held(given),
            (Value::Held(given, of) | Value::Holder(given, of), _)
            | (_, Some(Value::Held(given, of) | Value::Holder(given, of))) => self.world.held_in(given, of),
            _ => known,
        }
    }

    /// The call before what stands for its being given a type.
    pub(super) fn call_of(&self, node: u32) -> u32 {
        let used = &self.facts.uses[node as usize];
        used.name.as_type().and_then(|_| used.parent.get().err()).unwrap_or(node)
    }

    /// Parameter number `parameter` of the function that is argument number `argument` of the call `parent`, which gives
    /// `value`, or of the constructor of `value`.
    pub(super) fn given(
        &self,
        parent: Option<u32>,
        value: Value,
        argument: usize,
        parameter: usize,
        values: &[Value],
    ) -> Value {
        let world = self.world;
        let parent = parent.map(|parent| self.call_of(parent));
        let function = match parent.map(|parent| self.states[parent as usize]) {
            Some(State::Entity(function)) => Some(function),
            _ => None,
        };
        let (owner, name, on) = match (parent, value) {
            _ if let Some(function) = function => (function, Name::NEW, value),
            (Some(parent), _) => match self.called.binary_search_by_key(&parent, |called| called.0) {
                Ok(found) => {
                    (self.called[found].1, self.facts.uses[parent as usize].name, self.called[found].2)
                }
                Err(_) => return self.held(value),
            },
            // `Watering { bed -> … }`, an interface that a function stands for.
            (None, Value::Of(made, _)) if world.is_interface(made) => {
                return world.parameter_of(value, parameter).unwrap_or(Value::Unknown);
            }
            (None, Value::Of(made, _)) => (made, Name::NEW, value),
            (None, _) => return self.held(value),
        };
        let arguments = parent.map(|parent| self.facts.uses[parent as usize].arguments).unwrap_or_default();
        let of = |member: &DeclaredMember| {
            let place = match argument {
                Name::LAST => member.last_parameter()?,
                argument => argument + usize::from(member.is_extension),
            };
            let declared = member.parameter(world, place)?;
            if let Some(given) = world.takes_of_first(member, declared, parameter) {
                let first = || {
                    parent.map_or(Value::Unknown, |parent| self.first_argument(parent, values, MOST_CALLS))
                };
                return Some(world.given_of(given, if member.is_extension { on } else { first() }));
            }
            let taken = world.value_of(declared);
            if parameter == Name::WHOLE { Some(taken) } else { world.parameter_of(taken, parameter) }
        };
        // A function is read before it is known with how many arguments its call is made.
        let found = [arguments, ArgumentCounts::default()].into_iter();
        let found = found.flat_map(|counts| world.overloads(owner, name, counts)).filter_map(of);
        let mut known = found.filter(|value| !matches!(value, Value::Unknown));
        match (known.next(), on) {
            // A function of what the type holds: `Each(Action<T> act)`.
            (None | Some(Value::Foreign(_)), Value::Of(_, given)) => {
                world.meaning(given).argument.map_or_else(|| self.held(value), Value::held)
            }
            (None, Value::Holder(held, of) | Value::Held(held, of)) => world.held_in(held, of),
            (found, _) => found.unwrap_or_else(|| self.held(value)),
        }
    }

    /// What the call `call` gives of its first argument, if that tells it.
    pub(super) fn gives_of_first(&self, call: u32) -> Option<GivenFirst> {
        if let State::Entity(function) = self.states[call as usize] {
            return self.world.result_of_first(function, self.facts.uses[call as usize].arguments);
        }
        let found = self.giving_first.binary_search_by_key(&call, |(call, _)| *call).ok()?;
        Some(self.giving_first[found].1)
    }

    /// What the call `call` gives, which is what it is `given` first or a part of that.
    pub(super) fn given_by_call(&self, call: u32, given: GivenFirst, values: &[Value]) -> Value {
        self.world.given_of(given, self.first_argument(call, values, MOST_CALLS))
    }

    /// The first argument of the call `call`; of one that gives what it is given, or a part of that, what that is, through
    /// at most so many `calls`. What is called alike with arguments of several types is not known.
    fn first_argument(&self, mut call: u32, values: &[Value], calls: usize) -> Value {
        for left in (0..calls).rev() {
            let own = first_arguments(self.facts, call).take(MOST_ALIKE).map(UseParent::get);
            // `same(same(bed))`
            let mut own = own.filter(|argument| *argument != Err(call));
            let Some(first) = own.next() else { break };
            if let Err(node) = first
                && let Some(given) = self.gives_of_first(node)
            {
                if own.any(|other| other != first) {
                    break;
                }
                if !given.is_same() {
                    return self.world.given_of(given, self.first_argument(node, values, left));
                }
                call = node;
                continue;
            }
            let value = self.argument_value(first, values);
            return if own.all(|other| self.argument_value(other, values) == value) {
                value
            } else {
                Value::Unknown
            };
        }
        Value::Unknown
    }

    fn argument_value(&self, argument: Result<Root, u32>, values: &[Value]) -> Value {
        match argument {
            Err(node) => match values.get(node as usize) {
                Some(Value::Unknown) | None => self.made_by_call(node),
                Some(value) => *value,
            },
            Ok(Root::Value(value_type)) => {
                self.world.value_of(Spelled { file: self.file as u32, value_type })
            }
            Ok(_) => Value::Unknown,
        }
    }

    /// What the call `node` gives, if that of a type or a function outside of types: `Bed()`.
    fn made_by_call(&self, node: u32) -> Value {
        match (self.facts.uses.get(node as usize), self.states.get(node as usize)) {
            (Some(used), Some(State::Entity(entity))) if used.called => {
                match self.world.table.gives_value(*entity) {
                    true => self.world.result_of(*entity, used.arguments),
                    false => Value::Of(*entity, Spelled::NOWHERE),
                }
            }
            _ => Value::Unknown,
        }
    }

    /// The files that declare the functions outside of types which a call can mean by its number of arguments, where it cannot
    /// mean all of that name.
    pub(super) fn called_function(&self, reference: &Reference) -> Option<DeclaringFiles> {
        let (world, used) = (self.world, &self.facts.uses[reference.used as usize]);
        let is_told = used.called && used.arguments != ArgumentCounts::default();
        if !is_told || !world.is_spread(reference.entity) || !world.table.gives_value(reference.entity) {
            return None;
        }
        let meant = world.declaring_files(reference.entity, self.file);
        let fitting =
            world.overloads(reference.entity, Name::NEW, used.arguments).map(|function| function.file);
        let mut files: DeclaringFiles = fitting.filter(|file| meant.contains(file)).collect();
        files.sort_unstable();
        files.dedup();
        (!files.is_empty() && files.len() < meant.len()).then_some(files)
    }

    pub(super) fn held(&self, value: Value) -> Value {
        if let Value::Held(..) = value { value } else { Value::Unknown }
    }

    /// A value that is a function is called: `shelf.Price(bed)`, where `Price` is a property.
    pub(super) fn call(&mut self, at: u32, used: &Use, function: EntityId) -> Value {
        let calls: FoundMembers = self
            .world
            .overloads(function, Name::CALL, Default::default())
            .map(|call| (function, *call))
            .collect();
        let Some((_, call)) = calls.first() else { return Value::Unknown };
        if call.file != self.file as u32 {
            self.note(at, used, function, call.file);
        }
        self.world.value_of(call.spelled())
    }
}

impl World<'_> {
    /// What the function that is spelled `of`, a parameter of `member`, takes as its parameter `number` of what the call around
    /// is given first.
    pub(super) fn takes_of_first(
        &self,
        member: &DeclaredMember,
        of: Spelled,
        number: usize,
    ) -> Option<GivenFirst> {
        let taken = match self.meaning(of).outer {
            Some(function) => {
                let (owner, taken) = self.taken_by(function, number)?;
                let place = usize::from(self.meaning(taken).parameter.checked_sub(1)?);
                self.argument(place, owner, function, of, 0)?
            }
            None => self.arguments(of).get(number).copied().flatten()?,
        };
        GivenFirst::of(taken).map(|given| self.of_first_of(member, given))
    }

    /// Parameter `number` of what a function stands for that is an interface or a delegate, with the type that declares it: it
    /// may have what it is called by from another.
    pub(super) fn taken_by(&self, function: EntityId, number: usize) -> Option<(EntityId, Spelled)> {
        self.with_bases(function).find_map(|owner| {
            let mut calls = self.overloads(owner, Name::CALL, Default::default());
            Some((owner, calls.find_map(|call| call.parameter(self, number))?))
        })
    }
}
