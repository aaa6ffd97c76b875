//! What values hold: elements of collections, keys and values of maps, parts that a value is taken apart into.

use super::follower::Follower;
use super::values::{Spelled, Value};
use super::{EntityId, World};
use ferngate_model::{Name, Use};

/// The method that takes a value apart in a language whose values are taken apart by their types.
const DECONSTRUCT: &[u8] = b"Deconstruct";

impl Follower<'_> {
    /// What the member `used` gives of a value of another library's type, which is spelled `of`, where it is one of what
    /// that was given.
    pub(super) fn part_of(&self, of: Spelled, used: &Use) -> Option<Value> {
        self.world.part_of(of, self.number_of_part(used)?)
    }

    fn number_of_part(&self, used: &Use) -> Option<usize> {
        let part =
            self.given_parts.iter().find(|part| part.name == used.name && part.called == used.called)?;
        Some(part.number)
    }

    /// A part of a value of `entity`, which has a method that takes it apart.
    pub(super) fn deconstructed(&mut self, at: u32, used: &Use, entity: EntityId) -> Option<Value> {
        let number = self.number_of_part(used)?;
        let apart = Use { name: Name::new(DECONSTRUCT), called: true, ..*used };
        let (owner, member) = *self.world.members_of(self.file, entity, &apart, false).first()?;
        if member.file != self.file as u32 {
            self.note(at, used, owner, member.file);
        }
        member.parameter(self.world, number).map(|part| self.world.value_of(part))
    }

    /// What a loop or an index takes from `value`.
    pub(super) fn element(&mut self, at: u32, used: &Use, value: Value) -> Value {
        let world = self.world;
        match value {
            Value::Held(held, Spelled::NOWHERE) => Value::Of(held, Spelled::NOWHERE),
            Value::Held(..) => value,
            Value::Holder(held, spelled) => match world.arguments(spelled) {
                [Some(only), None, ..] => world.value_of(only),
                // A loop over a map takes pairs, an index the value of a key.
                [_, Some(_), None, _] if used.name == Name::EACH => value,
                [_, Some(second), None, _] => match world.value_of(second) {
                    Value::Unknown | Value::Foreign(_) => Value::held(held),
                    second => second,
                },
                [Some(_), Some(_), ..] => Value::held(held),
                _ => Value::Of(held, Spelled::NOWHERE),
            },
            Value::Of(entity, given) => {
                let index = Use { name: Name::ELEMENT, ..*used };
                let mut indexers = world.members_of(self.file, entity, &index, false);
                if indexers.is_empty() && used.name == Name::ELEMENT {
                    let naming = world.naming_of(self.file);
                    let method = naming.map_or(&b""[..], |naming| naming.called_by_index.as_bytes());
                    let call = Use { name: Name::new(method), called: true, ..*used };
                    indexers = world.members_of(self.file, entity, &call, false);
                }
                if used.name == Name::ELEMENT && !indexers.is_empty() {
                    return self.declared(at, used, &indexers, value);
                }
                let loops = Use { name: Name::new(b"GetEnumerator"), called: true, ..*used };
                for (owner, member) in world.members_of(self.file, entity, &loops, false) {
                    if member.file != self.file as u32 {
                        self.note(at, used, owner, member.file);
                    }
                }
                let held = world.meaning(given).argument.or_else(|| match world.as_base(value) {
                    Some(Value::Holder(held, _)) => Some(held),
                    _ => None,
                });
                let indexed = indexers.first().map(|(owner, indexer)| self.result(*owner, indexer, value));
                held.map(Value::held).or(indexed).unwrap_or(Value::Of(entity, Spelled::NOWHERE))
            }
            Value::Foreign(_) => Value::Foreign(Spelled::NOWHERE),
            _ => Value::Unknown,
        }
    }
}

impl World<'_> {
    /// The type of `value` as that of a base that is not of the project: what it holds by what the base was given, or by what the
    /// type itself was given and hands on.
    pub(super) fn as_base(&self, value: Value) -> Option<Value> {
        let (entity, given) = match value {
            Value::Of(entity, given) => (entity, given),
            Value::Bound(entity) => (entity, Spelled::NOWHERE),
            _ => return None,
        };
        self.with_bases(entity).find_map(|owner| {
            let mut foreign = self.base_types(owner).filter(|of| self.meaning(*of).outer.is_none());
            foreign.find_map(|of| {
                if let Some(held) = self.meaning(of).argument {
                    return Some(Value::Holder(held, of));
                }
                self.holder_for(of, owner, entity, given)
            })
        })
    }

    /// What is spelled `of` in `owner`, another library's type that was given type parameters of `owner`, for a value of
    /// `entity` that is spelled `given`.
    pub(super) fn holder_for(
        &self,
        of: Spelled,
        owner: EntityId,
        entity: EntityId,
        given: Spelled,
    ) -> Option<Value> {
        let (arguments, meaning) = (self.arguments(of), self.meaning(of));
        if meaning.outer.is_some() || meaning.parameter > 0 {
            return None;
        }
        let is_own = |at: usize| {
            let argument = arguments[at].map(|argument| self.meaning(argument).parameter);
            argument.is_none_or(|parameter| usize::from(parameter) == at + 1)
        };
        if owner == entity && arguments[0].is_some() && (0..arguments.len()).all(is_own) {
            // `class Labels<K, V> : Map<K, V>` holds just what it was given, if it has no more parameters.
            let count = |arguments: &[Option<Spelled>]| arguments.iter().flatten().count();
            if count(&self.arguments(given)) == count(&arguments) {
                let held = self.meaning(given).argument;
                return Some(held.map_or(Value::Foreign(given), |held| Value::Holder(held, given)));
            }
        }
        let last = arguments.into_iter().flatten().last()?;
        match self.given_for(last, owner, entity, given)? {
            Value::Of(held, _) => Some(Value::Holder(held, Spelled::NOWHERE)),
            _ => None,
        }
    }
}
