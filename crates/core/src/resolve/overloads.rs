//! Which of several methods of one name is meant, by the type of the first argument: `isOn(Mode.DRY)` of a base beside
//! `isOn(Part.LEFT)` of what derives from it.

use super::follower::Follower;
use super::members::DeclaredMember;
use super::values::{Spelled, Value, first_arguments};
use super::{EntityId, World};
use ferngate_model::{BUILT_IN, CLASS_OF, Name, Naming, Root, Use, UseParent};
use std::collections::BTreeMap;

/// The type of an argument.
#[derive(Clone, Copy, PartialEq)]
enum Argument {
    Own(EntityId),
    /// One of another project, by its name.
    Outside(Name),
    /// A text between quotes.
    Text,
    /// A class itself.
    Class,
}

/// Where a call leads instead: the type that declares the method, and the file.
type Better = (EntityId, u32);

impl Follower<'_> {
    /// Lets calls lead to the methods that take their first argument, where the nearest of that name does not say so.
    pub(super) fn choose_overloads(&mut self, values: &[Value]) {
        // For each call the better methods, and whether no call there means the nearest.
        let mut chosen: BTreeMap<u32, (Vec<Better>, bool)> = BTreeMap::new();
        for (call, argument) in &self.facts.first_arguments {
            let Ok(at) = self.called.binary_search_by_key(call, |called| called.0) else { continue };
            let used = &self.facts.uses[*call as usize];
            let Some(argument) = self.type_of(*argument, values) else { continue };
            let better = self.better(used, self.called[at].2, argument);
            let better = better.map(|(owner, member)| (owner, member.file));
            let (all, instead) = chosen.entry(*call).or_insert((Vec::new(), true));
            match better {
                Some(better) if !all.contains(&better) => all.push(better),
                Some(_) => {}
                None => *instead = false,
            }
        }
        chosen.retain(|_, (all, _)| !all.is_empty());
        self.found.retain(|found| chosen.get(&found.used).is_none_or(|(_, instead)| !instead));
        for (call, (all, _)) in chosen {
            let (used, own) = (self.facts.uses[call as usize], self.file as u32);
            let others = all.into_iter().filter(|(_, file)| *file != own);
            others.for_each(|(owner, file)| self.note(call, &used, owner, file));
        }
    }

    /// The method that the calls `at` of `used` mean by the literals that they are all given first, where the `nearest` of
    /// that name takes none of those.
    pub(super) fn by_literal(
        &mut self,
        at: u32,
        used: &Use,
        on: Value,
        nearest: &DeclaredMember,
    ) -> Option<(EntityId, DeclaredMember)> {
        let mut own = first_arguments(self.facts, at);
        let literal = self.literal(own.next()?)?;
        if self.stays(nearest, literal) || own.any(|other| self.literal(other) != Some(literal)) {
            return None;
        }
        self.better(used, on, literal)
    }

    fn literal(&self, value: UseParent) -> Option<Argument> {
        let Ok(Root::Value(value_type)) = value.get() else { return None };
        if value_type == BUILT_IN {
            return Some(Argument::Text);
        }
        let spelled = self.facts.value_types.get(value_type as usize)?;
        (spelled.outer == CLASS_OF).then_some(Argument::Class)
    }

    fn type_of(&self, value: UseParent, values: &[Value]) -> Option<Argument> {
        if let Some(literal) = self.literal(value) {
            return Some(literal);
        }
        let value = match value.get() {
            Ok(Root::Value(value_type)) => {
                self.world.value_of(Spelled { file: self.file as u32, value_type })
            }
            Ok(_) => return None,
            Err(node) => values[node as usize],
        };
        match value {
            Value::Of(entity, _) => Some(Argument::Own(entity)),
            Value::Foreign(of) | Value::Holder(_, of) => self.world.type_name(of).map(Argument::Outside),
            _ => None,
        }
    }

    /// Whether a call that is given `argument` may mean `nearest`, as far as is known.
    fn stays(&self, nearest: &DeclaredMember, argument: Argument) -> bool {
        nearest.is_extension
            || match argument {
                Argument::Text => !refuses(self.world, nearest, |naming| naming.class_types),
                Argument::Class => !refuses(self.world, nearest, |naming| naming.text_types),
                _ => says(self.world, nearest, argument),
            }
    }

    /// The method that takes `argument` where the nearest of that name, called on `on`, does not say so.
    fn better(&mut self, used: &Use, on: Value, argument: Argument) -> Option<(EntityId, DeclaredMember)> {
        let world = self.world;
        let (Value::Of(receiver, _) | Value::Held(receiver, _) | Value::Bound(receiver)) = on else {
            return None;
        };
        let nearest = world.members_of(self.file, receiver, used, false);
        let [(_, nearest)] = nearest[..] else { return None };
        if self.stays(&nearest, argument) {
            return None;
        }
        world.with_bases(receiver).find_map(|of| {
            // Of copies of a type the one that is meant here.
            let files = world.is_spread(of).then(|| self.meant_files(of));
            let is_meant =
                |member: &&DeclaredMember| files.as_ref().is_none_or(|files| files.contains(&member.file));
            let mut all = world.overloads(of, used.name, used.arguments).filter(is_meant);
            let fits = |member: &&DeclaredMember| {
                says(world, member, argument) && member.may_be_used(world, self.file, of)
            };
            all.find(fits).map(|member| (of, *member))
        })
    }
}

/// Whether the first parameter of `member` is of a type that takes `argument`; of other projects only the same type is
/// known to.
fn says(world: &World, member: &DeclaredMember, argument: Argument) -> bool {
    let Some(first) = member.parameter(world, 0) else { return false };
    match (world.meaning(first).outer, argument) {
        (Some(first), Argument::Own(argument)) => world.with_bases(argument).any(|of| of == first),
        (None, Argument::Outside(name)) => world.type_name(first) == Some(name),
        (None, Argument::Text) => is_one_of(world, first, |naming| naming.text_types),
        (None, Argument::Class) => is_one_of(world, first, |naming| naming.class_types),
        _ => false,
    }
}

/// Whether the first parameter of `member` is known to take no text or class, since it is of a type of the project or of
/// one of the `others`. What a type parameter or `Object` takes, and what a text is turned into, is not known here.
fn refuses(
    world: &World,
    member: &DeclaredMember,
    others: impl Fn(Naming) -> &'static [&'static str],
) -> bool {
    let Some(first) = member.parameter(world, 0) else { return false };
    world.meaning(first).outer.is_some() || is_one_of(world, first, others)
}

/// Whether the type that is spelled `of` is one of those that its language lists.
fn is_one_of(world: &World, of: Spelled, listed: impl Fn(Naming) -> &'static [&'static str]) -> bool {
    let name = world.type_name(of);
    let listed = world.naming_of(of.file as usize).map_or(&[][..], listed);
    listed.iter().any(|text| name == Some(Name::new(text.as_bytes())))
}
