//! Methods and values that extend a type: which of them a use behind a dot means.

use super::follower::Follower;
use super::members::DeclaredMember;
use super::references::Reference;
use super::values::{Spelled, Value};
use super::{DeclaringFiles, EntityId, ImportTarget, view};
use ferngate_model::{Access, BUILT_IN, FileFacts, MemberKind, Name, OwnMethods, Root, Use};

/// What `facts` declare that extends a type and that no other file sees: its name, and what declares it.
pub(super) fn private_extensions(facts: &FileFacts) -> impl Iterator<Item = (Name, u32)> {
    extensions(facts, true)
}

/// The same of what other files see.
pub(super) fn seen_extensions(facts: &FileFacts) -> impl Iterator<Item = (Name, u32)> {
    extensions(facts, false)
}

fn extensions(facts: &FileFacts, private: bool) -> impl Iterator<Item = (Name, u32)> {
    let is_private = |owner: u32| {
        facts.declarations.get(owner as usize).is_some_and(|owner| owner.access == Access::Private)
    };
    let members = facts.members.iter().filter(|member| member.kind == MemberKind::Extension);
    members.map(|member| (member.name, member.owner)).filter(move |(_, owner)| is_private(*owner) == private)
}

impl Follower<'_> {
    /// The files with the methods that a call can mean which was decided by what is in sight; those that cannot take what
    /// it is called on are left out, as far as that is known.
    pub(super) fn taken(&self, reference: &Reference, values: &[Value]) -> DeclaringFiles {
        let used = &self.facts.uses[reference.used as usize];
        let on = self.called_on(used, values);
        let is_known = matches!(on, Value::Of(..) | Value::Foreign(_) | Value::Holder(..));
        let methods = self.world.overloads(reference.entity, used.name, used.arguments);
        let has_own = self.has_own(used, on);
        let takes = |method: &&DeclaredMember| {
            let of_library = matches!(on, Value::Foreign(_)) && self.takes_built_in(method);
            !has_own
                && method.extends_with(used.arguments)
                && !self.library_has(used, on, method)
                && (!is_known || of_library || self.takes(method, on))
        };
        let taken = methods.filter(|method| !method.is_extension || takes(method));
        let meant = self.world.declaring_files(reference.entity, self.file);
        let mut files: DeclaringFiles = taken.map(|method| method.file).collect();
        if files.iter().any(|file| meant.contains(file)) {
            files.retain(|file| meant.contains(file));
        }
        files.sort_unstable();
        files.dedup();
        files
    }

    /// What a method is called on.
    fn called_on(&self, used: &Use, values: &[Value]) -> Value {
        match used.parent.get() {
            Ok(Root::Value(value_type)) => {
                self.world.value_of(Spelled { file: self.file as u32, value_type })
            }
            Ok(_) => Value::Unknown,
            Err(parent) => values[parent as usize],
        }
    }

    /// Whether what a method is called on has one of its name and number of parameters itself.
    fn has_own(&self, used: &Use, on: Value) -> bool {
        matches!(on, Value::Of(of, _) if self.world.fitting(self.file, of, used).1)
    }

    /// Whether a call can mean a method that extends what it is called on, though that has one with as many parameters.
    pub(super) fn is_doubtful(&self, reference: &Reference, values: &[Value]) -> bool {
        let used = &self.facts.uses[reference.used as usize];
        let on = self.called_on(used, values);
        let mut methods = self.world.overloads(reference.entity, used.name, used.arguments);
        self.has_own(used, on)
            && methods.any(|method| {
                method.is_extension && method.extends_with(used.arguments) && self.takes(method, on)
            })
    }

    pub(super) fn may_extend(&self, used: &Use) -> bool {
        let table = &self.world.table;
        self.private_owner(used.name).is_some()
            || (used.called || table.extends_by_values) && table.extensions.contains_key(&used.name)
    }

    fn private_owner(&self, name: Name) -> Option<EntityId> {
        self.private.iter().find(|(of, _)| *of == name).map(|(_, owner)| *owner)
    }

    /// A method called on `value` that its type does not have: one that extends it, if one is in sight.
    pub(super) fn extension(&mut self, at: u32, used: &Use, value: Value) -> Option<Value> {
        let world = self.world;
        if !self.may_extend(used) {
            return None;
        }
        let owners = world.table.extensions.get(&used.name).into_iter().flatten();
        let imported = |owner: EntityId| world.imports[self.file].contains(&ImportTarget::Entity(owner));
        let in_sight = |owner: &&EntityId| {
            (used.called || world.table.is_constant(**owner))
                && (self.extending.contains(&world.table.namespace_of(**owner)) || imported(**owner))
                && view::sees_entity(world, self.file, **owner)
        };
        // Of several the one that extends just this type.
        let is_exact = |method: &&DeclaredMember| match (method.parameter(world, 0), value) {
            (Some(first), Value::Of(entity, _)) => world.meaning(first).outer == Some(entity),
            _ => false,
        };
        let extends = |owner: &EntityId| {
            let methods = world.overloads(*owner, used.name, used.arguments);
            let mut taking = methods.filter(|method| {
                method.extends_with(used.arguments)
                    && !self.library_has(used, value, method)
                    && self.takes(method, value)
            });
            let first = taking.next()?;
            let best = if is_exact(&first) { first } else { taking.find(is_exact).unwrap_or(first) };
            Some((*owner, *best))
        };
        let private = self.private_owner(used.name);
        let (owner, method) =
            private.as_ref().and_then(extends).or_else(|| owners.filter(in_sight).find_map(extends))?;
        let (count, file) =
            (used.count, self.of_meant_copy(owner, &method, used).map_or(method.file, |found| found.1.file));
        self.extends(used, owner, file);
        self.extensions.push(Reference { used: at, entity: owner, count, extension: true, file });
        self.called.push((at, owner, value));
        // `Sorted<T>(this T beds)` gives what it takes, `Weakly<T>(this T bed)` what holds that.
        let of_first = world.gives_of_first(&method).map(|given| world.given_of(given, value));
        let told = of_first.filter(|told| *told != Value::Unknown);
        Some(told.unwrap_or_else(|| match world.value_of(method.spelled()) {
            Value::Unknown => value,
            result => result,
        }))
    }

    /// Whether `value` is of a type of another project that is known to have a method for the call `used` itself, while
    /// `method` extends something more general.
    fn library_has(&self, used: &Use, value: Value, method: &DeclaredMember) -> bool {
        let (Value::Foreign(of) | Value::Holder(_, of)) = value else { return false };
        let (world, naming) = (self.world, self.world.naming_of(self.file));
        let (is_built_in, name) = (of.value_type == BUILT_IN, world.type_name(of));
        let is_of = |known: &&OwnMethods| match known.of {
            "" => is_built_in,
            text => name == Some(Name::new(text.as_bytes())),
        };
        let has = |(text, most): &(&str, usize)| {
            Name::new(text.as_bytes()) == used.name && used.arguments.are_at_most(*most)
        };
        let extends_just_this = |first: Spelled| match is_built_in {
            true => first.value_type == BUILT_IN,
            false => world.type_name(first) == name,
        };
        let known = naming.map_or(&[][..], |naming| naming.own_methods).iter().find(is_of);
        known.is_some_and(|known| known.methods.iter().any(has))
            && !method.parameter(world, 0).is_some_and(extends_just_this)
    }

    /// Whether the first parameter of `method` is of a type that its language has a word for.
    fn takes_built_in(&self, method: &DeclaredMember) -> bool {
        method.parameter(self.world, 0).is_some_and(|first| first.value_type == BUILT_IN)
    }

    /// Whether the first parameter of `method` can take `value`.
    fn takes(&self, method: &DeclaredMember, value: Value) -> bool {
        let world = self.world;
        let Some(first) = method.parameter(world, 0) else {
            // A type parameter takes all.
            return true;
        };
        if first.value_type == BUILT_IN {
            return matches!(value, Value::Foreign(of) if of.value_type == BUILT_IN);
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
