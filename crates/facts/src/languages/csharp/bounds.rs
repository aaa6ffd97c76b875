//! Type parameters of methods: they mean no type of that name, and values of them are at least what they are bound to.

use super::Reader;
use crate::values::value_of;
use ferngate_model::{NO_TYPE, Name, Root, ValueType};

/// A parameter whose type is, or is given, a type parameter.
#[derive(Clone, Copy, Debug)]
pub(super) struct Waiting {
    /// Which of the locals it is.
    local: usize,
    type_parameter: Name,
    /// Its type without that; [`NO_TYPE`] where it is nothing else.
    value_type: u32,
}

impl Reader<'_, '_> {
    /// Forgets the type parameters of the member before.
    pub(super) fn forget_parameters(&mut self) {
        self.parameters.clear();
        self.bounds.clear();
        self.waiting.clear();
        self.hidden = None;
        self.queries.clear();
    }

    /// What stands for the type parameter `name` of the method being read: the type that it is bound to, if that is known.
    pub(super) fn bound_of(&mut self, name: Name) -> Option<u32> {
        self.hidden = Some(name);
        self.bounds.iter().find(|(of, _)| *of == name).map(|(_, node)| *node)
    }

    /// Notes the parameter just entered as a local, whose type as far as it is known is `value_type`.
    pub(super) fn wait_for_bound(&mut self, value_type: u32) {
        if let (Some(type_parameter), Some(local)) = (self.hidden.take(), self.values.locals().checked_sub(1))
        {
            self.waiting.push(Waiting { local, type_parameter, value_type });
        }
    }

    /// Notes that the type parameter `name` of the method being read is at least a `bound`.
    pub(super) fn bind(&mut self, name: Name, bound: u32) {
        let Some(node) = self.node_of(bound) else { return };
        if self.recorder.in_head() || self.bounds.iter().any(|(of, _)| *of == name) {
            return;
        }
        self.bounds.push((name, node));
        for waiting in self.waiting.iter().filter(|waiting| waiting.type_parameter == name) {
            let value_type = match waiting.value_type {
                NO_TYPE => bound,
                of => {
                    let known = self.recorder.facts().value_types.get(of as usize).copied();
                    let outer = known.map_or(NO_TYPE, |known| known.outer);
                    self.recorder.spelled_type(ValueType { outer, ..ValueType::new(None, Some(node)) })
                }
            };
            self.values.set_local(waiting.local, value_of(value_type));
        }
    }

    /// What the result `value_type` of the method being read is where the first parameter tells it: a type parameter, or a
    /// type that was given some.
    pub(super) fn told_by_first(&mut self, value_type: u32) -> Option<u32> {
        if self.parameters.is_empty() {
            return None;
        }
        if let Some(name) = self.parameter_named(value_type) {
            return self.told.stand_in(name);
        }
        let arguments = self.recorder.facts().value_types.get(value_type as usize)?.arguments;
        let of = arguments.map(|argument| self.parameter_named(argument));
        self.told.within(self.recorder, value_type, &of)
    }

    /// The type parameter of the method that `value_type` is.
    fn parameter_named(&mut self, value_type: u32) -> Option<Name> {
        let node = self.node_of(value_type)?;
        let used = *self.recorder.facts().uses.get(node as usize)?;
        let is_alone = used.arity == 0 && matches!(used.parent.get(), Ok(Root::Scope(_)));
        Some(used.name).filter(|name| is_alone && self.parameters.contains(name))
    }

    fn node_of(&mut self, value_type: u32) -> Option<u32> {
        let known = self.recorder.facts().value_types.get(value_type as usize)?;
        (known.outer != NO_TYPE).then_some(known.outer)
    }

    /// Takes back the names in the type of a method that turn out to be its type parameters: `Bed Last<Bed>()`.
    pub(super) fn hide_parameters(&mut self) {
        let (parameters, recorder) = (&self.parameters, &mut *self.recorder);
        self.signature.retain(|node| {
            let used = recorder.facts().uses.get(*node as usize);
            let is_parameter = used.is_some_and(|used| {
                used.arity == 0
                    && parameters.contains(&used.name)
                    && matches!(used.parent.get(), Ok(Root::Scope(_)))
            });
            if is_parameter {
                recorder.take_back(*node);
            }
            !is_parameter
        });
    }
}
