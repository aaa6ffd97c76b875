//! Members used of values: `sensor.reading().unit()` depends on what declares `unit`, though no type of it is spelled.
//!
//! The types of values are followed as far as code spells them: declared types of fields, locals, parameters and
//! results, type arguments where a type of another project holds values of ours. Nothing is inferred beyond that; a
//! value of unknown type leads nowhere.

use super::references::{Reference, Resolved, State};
use super::sieve::Sieve;
use super::{EntityId, FileReferences, World};
use ferngate_model::{
    ArgumentCounts, Context, DeclarationKind, FileFacts, Member, MemberKind, NO_TYPE, Name, Root, Use,
};
use rustc_hash::{FxHashMap, FxHashSet};
use smallvec::SmallVec;

/// What a type of values means: the type, and its last type argument, where these are declared in the project.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) struct ValueMeaning {
    outer: Option<EntityId>,
    argument: Option<EntityId>,
    /// What it is at least, for a type parameter.
    bound: Option<EntityId>,
}

/// Where a member is declared, and of what type it is.
#[derive(Clone, Copy, Debug)]
pub struct DeclaredMember {
    /// The declaring file.
    file: u32,
    /// Index among the types of values of that file, or [`NO_TYPE`].
    value_type: u32,
    /// It belongs to the type and not to its instances.
    is_constant: bool,
    /// With how many arguments it is called.
    arguments: ArgumentCounts,
}

/// The members of all types, overloads of one result as one; methods, told by `true`, apart from values of the same
/// name.
pub type Members = FxHashMap<(EntityId, Name, bool), SmallVec<[DeclaredMember; 1]>>;

/// What a use means: mostly one member, several where it is called with several numbers of arguments.
type FoundMembers = SmallVec<[(EntityId, DeclaredMember); 1]>;

/// Further overloads of one name are not told apart.
const MOST_OVERLOADS: usize = 16;

/// The members that `files` declare, each with the types that it declares, and a sieve of their names.
pub(super) fn enter<'p>(
    files: impl Iterator<Item = (usize, &'p FileFacts, &'p [EntityId])> + Clone,
) -> (Members, Sieve) {
    let all: usize = files.clone().map(|(_, facts, _)| facts.members.len()).sum();
    let mut members = Members::with_capacity_and_hasher(all, Default::default());
    let mut names = Sieve::new(all);
    for (file, facts, declared) in files {
        for member in facts.members.iter().filter(|member| member.kind != MemberKind::TypeParameter) {
            let Some(owner) = declared.get(member.owner as usize) else { continue };
            let found = DeclaredMember {
                file: file as u32,
                value_type: member.value_type,
                is_constant: member.kind == MemberKind::Static,
                arguments: member.arguments,
            };
            names.add(member.name.0);
            let is_method = matches!(member.kind, MemberKind::Method | MemberKind::Extension);
            let overloads = members.entry((*owner, member.name, is_method)).or_default();
            let alike =
                |known: &DeclaredMember| (known.file, known.value_type) == (found.file, found.value_type);
            match overloads.iter().position(alike) {
                Some(at) => overloads[at].arguments = overloads[at].arguments.with(found.arguments),
                None if overloads.len() < MOST_OVERLOADS => overloads.push(found),
                None => {}
            }
        }
    }
    (members, names)
}

/// What each type of values in `facts` means, where `states` says what its uses mean.
pub(super) fn meanings(facts: &FileFacts, states: &[State]) -> Vec<ValueMeaning> {
    let entity = |node: u32| match states.get(node as usize) {
        Some(State::Entity(entity)) => Some(*entity),
        _ => None,
    };
    let bounded = |member: &&Member| member.kind == MemberKind::TypeParameter && member.value_type != NO_TYPE;
    let parameters: FxHashMap<(u32, Name), u32> = facts
        .members
        .iter()
        .filter(bounded)
        .map(|member| ((member.owner, member.name), member.value_type))
        .collect();
    let bound = |node: u32| {
        let used = facts.uses.get(node as usize)?;
        let Ok(Root::Scope(scope)) = used.parent.get() else { return None };
        let value_type = facts.types_around(scope).find_map(|around| parameters.get(&(around, used.name)))?;
        entity(facts.value_types.get(*value_type as usize)?.outer)
    };
    let meaning = |of: &ferngate_model::ValueType| {
        let outer = entity(of.outer);
        let may_be_bound = outer.is_none() && !parameters.is_empty();
        let bound = if may_be_bound { bound(of.outer) } else { None };
        ValueMeaning { outer, argument: entity(of.argument), bound }
    };
    facts.value_types.iter().map(meaning).collect()
}

/// What is known of a value.
#[derive(Clone, Copy, PartialEq)]
enum Value {
    Unknown,
    /// Of this type, or a collection of them.
    Of(EntityId, Option<EntityId>),
    /// Of a type outside of the project that holds values of this one.
    Holder(EntityId),
    /// What a member of such a type gives: perhaps one of the values.
    Held(EntityId),
    /// Seen as what this type derives from.
    Super(EntityId),
    /// Of a type parameter that is at least this type.
    Bound(EntityId),
}

impl From<ValueMeaning> for Value {
    fn from(meaning: ValueMeaning) -> Self {
        match (meaning.outer, meaning.argument, meaning.bound) {
            (Some(outer), argument, _) => Value::Of(outer, argument),
            (None, _, Some(bound)) => Value::Bound(bound),
            (None, Some(argument), None) => Value::Holder(argument),
            (None, None, None) => Value::Unknown,
        }
    }
}

/// Adds the members that `file` uses of values, as far as the types that declare them are not spelled there anyway.
pub(super) fn add(world: &World, file: usize, resolved: Resolved) -> FileReferences {
    let (mut found, members) = follow(world, file, resolved);
    let spelled: FxHashSet<EntityId> = found.references.iter().map(|reference| reference.entity).collect();
    found.members = members.into_iter().filter(|reference| !spelled.contains(&reference.entity)).collect();
    found
}

/// The members that `file` uses of types that other files declare: the type and the name.
pub(super) fn used_in(world: &World, file: usize, resolved: Resolved) -> Vec<(EntityId, Name)> {
    let Some(facts) = world.table.named_facts(&world.project.files[file]) else { return Vec::new() };
    let (_, members) = follow(world, file, resolved);
    members.iter().map(|reference| (reference.entity, facts.uses[reference.used as usize].name)).collect()
}

fn follow(world: &World, file: usize, resolved: Resolved) -> (FileReferences, Vec<Reference>) {
    let Resolved { found, states } = resolved;
    let value_types = world.value_types.get(file).map_or(&[][..], |types| types);
    let Some(facts) = world.table.named_facts(&world.project.files[file]) else { return (found, Vec::new()) };
    let mut follower = Follower { world, file, facts, around: None, found: Vec::new() };
    let mut values: Vec<Value> = Vec::with_capacity(facts.uses.len());
    for (at, used) in facts.uses.iter().enumerate() {
        let value = if matches!(used.context, Context::Value) {
            follower.value(at as u32, used, &states, &values, value_types)
        } else {
            Value::Unknown
        };
        values.push(value);
    }
    (found, follower.found)
}

struct Follower<'w> {
    world: &'w World<'w>,
    file: usize,
    facts: &'w FileFacts,
    /// The types around the scope that was looked at last, from the inside out.
    around: Option<(u32, Vec<EntityId>)>,
    found: Vec<Reference>,
}

impl Follower<'_> {
    fn value(
        &mut self,
        at: u32,
        used: &Use,
        states: &[State],
        values: &[Value],
        value_types: &[ValueMeaning],
    ) -> Value {
        match used.parent.get() {
            Ok(Root::Member | Root::Global) => Value::Unknown,
            Ok(Root::Value(value_type)) => {
                let of = value_types.get(value_type as usize).copied().unwrap_or_default();
                self.member(at, used, of.into())
            }
            Ok(Root::This(scope)) => self.inherited(at, used, scope),
            Ok(Root::Scope(scope)) => match states[at as usize] {
                State::Unknown | State::Member => self.inherited(at, used, scope),
                _ => Value::Unknown,
            },
            Err(parent) => match (states[parent as usize], states[at as usize]) {
                (State::Entity(entity), State::Member) => self.member(at, used, Value::Of(entity, None)),
                (State::ValueOr(entity), State::Member) => self.member(at, used, Value::Of(entity, None)),
                (State::Unknown | State::Member, _) => self.member(at, used, values[parent as usize]),
                _ => Value::Unknown,
            },
        }
    }

    /// A member of the types around `scope`.
    fn inherited(&mut self, at: u32, used: &Use, scope: u32) -> Value {
        let own = matches!(used.name, Name::SUPER | Name::THIS);
        if !own && !self.world.table.member_names.may_hold(used.name.0) {
            return Value::Unknown;
        }
        if self.around.as_ref().is_none_or(|(known, _)| *known != scope) {
            self.around = Some((scope, self.types_around(scope)));
        }
        let around = self.around.as_ref().map_or(&[][..], |(_, around)| around);
        if own {
            return match around.first() {
                Some(type_around) if used.name == Name::SUPER => Value::Super(*type_around),
                Some(type_around) => Value::Of(*type_around, None),
                None => Value::Unknown,
            };
        }
        let world = self.world;
        let of = |entity: &EntityId| Some(world.members_of(*entity, used, false)).filter(|of| !of.is_empty());
        let found = around.iter().find_map(of).unwrap_or_default();
        self.declared(at, used, &found, None, None)
    }

    fn types_around(&self, scope: u32) -> Vec<EntityId> {
        let declared = &self.world.table.declared[self.file];
        self.facts.types_around(scope).map(|declaration| declared[declaration as usize]).collect()
    }

    /// A member of `value`.
    fn member(&mut self, at: u32, used: &Use, value: Value) -> Value {
        match (used.name, value) {
            (_, Value::Unknown) => Value::Unknown,
            (Name::ELEMENT, Value::Holder(held) | Value::Held(held)) => Value::Of(held, None),
            (Name::ELEMENT, Value::Of(entity, argument)) => {
                argument.map_or(Value::Of(entity, None), Value::Held)
            }
            (Name::PARAMETER, Value::Held(held)) => Value::Held(held),
            (Name::PARAMETER | Name::ELEMENT, _) => Value::Unknown,
            (_, Value::Holder(held)) => Value::Held(held),
            (_, Value::Held(held)) => {
                let found = self.world.members_of(held, used, false);
                if found.is_empty() { value } else { self.declared(at, used, &found, Some(held), None) }
            }
            (_, Value::Of(entity, argument)) => {
                let found = self.world.members_of(entity, used, false);
                self.declared(at, used, &found, Some(entity), argument)
            }
            (_, Value::Super(entity)) => {
                let found = self.world.members_of(entity, used, true);
                self.declared(at, used, &found, Some(entity), None)
            }
            (_, Value::Bound(entity)) => {
                let found = self.world.members_of(entity, used, false);
                self.declared(at, used, &found, Some(entity), None)
            }
        }
    }

    /// Notes the use of a member of `receiver` and gives its value; `argument` is what the type holds that it is a
    /// member of.
    fn declared(
        &mut self,
        at: u32,
        used: &Use,
        found: &[(EntityId, DeclaredMember)],
        receiver: Option<EntityId>,
        argument: Option<EntityId>,
    ) -> Value {
        let Some(&(owner, member)) = found.first() else { return Value::Unknown };
        for (entity, _) in found.iter().filter(|(_, member)| member.file != self.file as u32) {
            self.found.push(Reference { used: at, entity: *entity, count: used.count, extension: false });
        }
        let types = self.world.value_types.get(member.file as usize).map_or(&[][..], |types| types);
        let value = types.get(member.value_type as usize).copied().unwrap_or_default().into();
        match value {
            Value::Unknown if member.value_type == NO_TYPE && member.is_constant => {
                let is_enumeration = self.world.table.entities[owner.index()].kind == DeclarationKind::Enum;
                if is_enumeration { Value::Of(owner, None) } else { Value::Unknown }
            }
            // What is declared as a type parameter is what the type was given.
            Value::Unknown => argument.map_or(Value::Unknown, Value::Held),
            // What makes an object step by step gives itself: `B extends Maker<B>`.
            Value::Bound(bound) => match (argument, receiver) {
                (Some(argument), _) => Value::Held(argument),
                (None, Some(receiver)) if self.world.with_bases(receiver).any(|of| of == bound) => {
                    Value::Of(receiver, None)
                }
                _ => value,
            },
            value => value,
        }
    }
}

impl World<'_> {
    /// The members that `used` means in `entity` or, failing that, in what it derives from, classes before interfaces;
    /// with `above`, in the latter only.
    fn members_of(&self, entity: EntityId, used: &Use, above: bool) -> FoundMembers {
        let mut found = FoundMembers::new();
        if !self.table.member_names.may_hold(used.name.0) {
            return found;
        }
        for arguments in used.arguments.each() {
            let find = |method, arguments| self.nearest_member(entity, used.name, method, above, arguments);
            let unknown = ArgumentCounts::default();
            let nearest = find(used.called, arguments)
                .or_else(|| find(!used.called, arguments))
                .or_else(|| find(used.called, unknown))
                .or_else(|| find(!used.called, unknown));
            if let Some(nearest) = nearest.filter(|(owner, _)| found.iter().all(|(known, _)| known != owner))
            {
                found.push(nearest);
            }
        }
        found
    }

    fn nearest_member(
        &self,
        entity: EntityId,
        name: Name,
        method: bool,
        above: bool,
        arguments: ArgumentCounts,
    ) -> Option<(EntityId, DeclaredMember)> {
        let member = |of: EntityId| {
            let overloads = self.table.members.get(&(of, name, method))?;
            let fitting = || overloads.iter().filter(|member| member.arguments.meets(arguments));
            // The first that says what it gives.
            let found = fitting().find(|member| member.value_type != NO_TYPE).or_else(|| fitting().next());
            found.map(|member| (of, *member))
        };
        if !above && let Some(own) = member(entity) {
            return Some(own);
        }
        // Constructors are not inherited.
        if name == Name::NEW {
            return None;
        }
        let is_interface = |of: EntityId| self.table.entities[of.index()].kind == DeclarationKind::Interface;
        let lineage = self.lineage.above(entity).iter().copied();
        let inherited = |interfaces: bool| {
            lineage.clone().filter(|base| is_interface(*base) == interfaces).find_map(member)
        };
        inherited(false).or_else(|| inherited(true))
    }
}
