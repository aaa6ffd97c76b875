//! Methods and values that extend a type: which of them a use behind a dot means.

use super::follower::Follower;
use super::members::DeclaredMember;
use super::references::Reference;
use super::values::{Spelled, Value};
use super::{DeclaringFiles, EntityId, ImportTarget, view};
use ferngate_model::{BUILT_IN, Root, Use};

impl Follower<'_> {
    /// The files with the methods that a call can mean which was decided by what is in sight; those that cannot take what
    /// it is called on are left out, as far as that is known.
    pub(super) fn taken(&self, reference: &Reference, values: &[Value]) -> DeclaringFiles {
        let used = &self.facts.uses[reference.used as usize];
        let on = match used.parent.get() {
            Ok(Root::Value(value_type)) => {
                self.world.value_of(Spelled { file: self.file as u32, value_type })
            }
            Ok(_) => Value::Unknown,
            Err(parent) => values[parent as usize],
        };
        let is_known = matches!(on, Value::Of(..));
        let methods = self.world.overloads(reference.entity, used.name, used.arguments);
        let taken = methods.filter(|method| !method.is_extension || !is_known || self.takes(method, on));
        let meant = self.world.declaring_files(reference.entity, self.file);
        let mut files: DeclaringFiles = taken.map(|method| method.file).collect();
        if files.iter().any(|file| meant.contains(file)) {
            files.retain(|file| meant.contains(file));
        }
        files.sort_unstable();
        files.dedup();
        files
    }

    pub(super) fn may_extend(&self, used: &Use) -> bool {
        let table = &self.world.table;
        (used.called || table.extends_by_values) && table.extensions.contains_key(&used.name)
    }

    /// A method called on `value` that its type does not have: one that extends it, if one is in sight.
    pub(super) fn extension(&mut self, at: u32, used: &Use, value: Value) -> Option<Value> {
        let world = self.world;
        let owners = world
            .table
            .extensions
            .get(&used.name)
            .filter(|_| used.called || world.table.extends_by_values)?;
        let imported = |owner: EntityId| world.imports[self.file].contains(&ImportTarget::Entity(owner));
        let in_sight = |owner: &&EntityId| {
            (used.called || world.table.is_constant(**owner))
                && (self.extending.contains(&world.table.namespace_of(**owner)) || imported(**owner))
                && view::sees_entity(world, self.file, **owner)
        };
        let extends = |owner: &EntityId| {
            let mut methods = world.overloads(*owner, used.name, used.arguments);
            methods
                .find(|method| method.is_extension && self.takes(method, value))
                .map(|found| (*owner, *found))
        };
        let (owner, method) = owners.iter().filter(in_sight).find_map(extends)?;
        let (count, file) =
            (used.count, self.of_meant_copy(owner, &method, used).map_or(method.file, |found| found.1.file));
        self.extensions.push(Reference { used: at, entity: owner, count, extension: true, file });
        self.called.push((at, owner, value));
        Some(match world.value_of(method.spelled()) {
            // `Sorted<T>(this T beds)` gives what it takes.
            Value::Unknown => value,
            result => result,
        })
    }

    /// Whether the first parameter of `method` can take `value`.
    fn takes(&self, method: &DeclaredMember, value: Value) -> bool {
        let world = self.world;
        let Some(first) = method.parameter(world, 0) else {
            // A type parameter takes all.
            return true;
        };
        if first.value_type == BUILT_IN {
            return false;
        }
        let meant = world.meaning(first);
        match (meant.outer, value) {
            (Some(meant), Value::Of(entity, _) | Value::Bound(entity)) => {
                world.with_bases(entity).any(|of| of == meant)
            }
            (Some(_), _) => false,
            (None, Value::Of(entity, _)) => {
                let name = world.type_name(first);
                world.base_types(entity).any(|base| world.type_name(base) == name) || meant.argument.is_none()
            }
            // Of two types outside of the project it is not known what they have to do with each other.
            (None, Value::Foreign(_)) => true,
            (None, Value::Holder(held, _)) => {
                meant.argument.is_none_or(|argument| world.with_bases(held).any(|of| of == argument))
            }
            _ => false,
        }
    }
}
