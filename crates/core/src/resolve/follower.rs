//! Members used of values: `sensor.reading().unit()` depends on what declares `unit`, though no type of it is spelled.
//!
//! The types of values are followed as far as code spells them: declared types of fields, locals, parameters and
//! results, type arguments where a type of another project holds values of ours. A function without spelled types
//! takes what its place says that it is given. Nothing is inferred beyond that; a value of unknown type leads nowhere.

use super::extending::private_extensions;
use super::imports::member_imports;
use super::members::DeclaredMember;
use super::receivers::{self, Unowned};
use super::references::{ANY_FILE, Reference, Resolved, State};
use super::values::{self, GivenFirst, GivenPart, Spelled, Value, ValueMeaning};
use super::{DeclaringFiles, EntityId, FileReferences, NamespaceId, World, parts};
use ferngate_model::{Context, DeclarationKind, FileFacts, NO_TYPE, Name, OWN_TYPE, Root, Use};
use rustc_hash::{FxHashMap, FxHashSet};

/// Adds the members that `file` uses of values, as far as the types that declare them are not spelled there anyway.
pub(super) fn add(world: &World, file: usize, resolved: Resolved) -> FileReferences {
    let (mut found, members) = follow(world, file, resolved);
    let facts = world.project.files[file].facts.as_deref();
    if let Some(facts) = facts.filter(|_| world.keeps_members) {
        let used = |member: &Reference| (member.entity, facts.uses[member.used as usize].name);
        found.used_members = members.iter().map(used).collect();
    }
    let whole = |reference: &&Reference| {
        reference.file == ANY_FILE
            || !world.is_spread(reference.entity)
            // What a function gives is not part of it.
            || world.table.gives_value(reference.entity)
            // Of copies one is meant, as a whole.
            || world.declaring_files(reference.entity, file).len() < 2
    };
    let spelled: FxHashSet<EntityId> =
        found.references.iter().filter(whole).map(|reference| reference.entity).collect();
    // A member behind the name of a spread type is what that name leads to already.
    let parted: FxHashSet<u32> =
        found.references.iter().filter(|found| !whole(found)).map(|reference| reference.used).collect();
    let behind_part = |reference: &Reference| {
        let used = facts.and_then(|facts| facts.uses.get(reference.used as usize));
        used.is_some_and(|used| used.parent.get().is_err_and(|parent| parted.contains(&parent)))
    };
    let unspelled = |reference: &Reference| !spelled.contains(&reference.entity) && !behind_part(reference);
    found.members = members.into_iter().filter(unspelled).collect();
    found
}

/// What is now known of types of values of `file` that are those of an expression: which of them, and what they mean.
pub(super) fn inferred(world: &World, file: usize, resolved: &Resolved) -> Vec<(usize, ValueMeaning)> {
    let Some(facts) = world.table.named_facts(&world.project.files[file]) else { return Vec::new() };
    let undecided = world.undecided(file, facts);
    if undecided.is_empty() {
        return Vec::new();
    }
    // Only what leads there is followed.
    let mut wanted = vec![false; facts.uses.len()];
    let mut open: Vec<u32> = undecided.iter().map(|(_, node)| *node).collect();
    while let Some(at) = open.pop() {
        let Some(used) = facts.uses.get(at as usize) else { continue };
        if !std::mem::replace(&mut wanted[at as usize], true) {
            open.extend(used.parent.get().err());
            // What a call is given that may tell what it gives.
            let given = used.name.as_type().and_then(|given| facts.value_types.get(given as usize));
            open.extend(given.filter(|given| given.is_inner()).map(|given| given.outer));
            open.extend(values::first_arguments(facts, at).filter_map(|argument| argument.get().err()));
        }
    }
    let mut follower = Follower::new(world, file, facts, &resolved.states, &resolved.extending);
    let values = follower.values(|at| wanted[at]);
    let value = |node: u32| match follower.gives_of_first(node) {
        Some(given) => follower.given_by_call(node, given, &values),
        None => values[node as usize],
    };
    let meaning = |(at, node): (usize, u32)| (at, ValueMeaning::of(value(node)));
    undecided.into_iter().map(meaning).filter(|(_, meaning)| !meaning.is_unknown()).collect()
}

fn follow(world: &World, file: usize, resolved: Resolved) -> (FileReferences, Vec<Reference>) {
    let Resolved { mut found, states, extending } = resolved;
    let Some(facts) = world.table.named_facts(&world.project.files[file]) else { return (found, Vec::new()) };
    let mut follower = Follower::new(world, file, facts, &states, &extending);
    follower.unowned = receivers::unowned(world, facts, &found);
    let values = follower.values(|_| true);
    follower.choose_overloads(&values);
    let taken = |reference: &Reference| match reference.extension {
        true => Some(follower.taken(reference, &values)),
        false => follower.of_receiver(reference).or_else(|| follower.called_function(reference)),
    };
    parts::narrow(world, file, &mut found, &follower.parts, taken);
    found.doubtful.retain(|reference| follower.is_doubtful(reference, &values));
    let Follower { found: members, extensions, .. } = follower;
    let known: FxHashSet<(u32, EntityId)> =
        found.references.iter().map(|reference| (reference.used, reference.entity)).collect();
    let new = extensions.into_iter().filter(|found| !known.contains(&(found.used, found.entity)));
    found.references.extend(new);
    (found, members)
}

pub(super) struct Follower<'w> {
    pub(super) world: &'w World<'w>,
    pub(super) file: usize,
    pub(super) facts: &'w FileFacts,
    /// What is known of each use by names alone.
    pub(super) states: &'w [State],
    /// Members of other libraries' types that give one of the types that these were given.
    pub(super) given_parts: &'w [GivenPart],
    /// Namespaces in sight whose types extend others.
    pub(super) extending: &'w [NamespaceId],
    /// The types around the scope that was looked at last, from the inside out.
    around: Option<(u32, Vec<EntityId>)>,
    /// Methods that are called, with what they are called on, in the order of the uses.
    pub(super) called: Vec<(u32, EntityId, Value)>,
    pub(super) found: Vec<Reference>,
    /// Types whose members the file imports: the one of this name, or all.
    member_imports: Vec<(Option<Name>, EntityId)>,
    /// Functions of the file that extend a type and that no other file sees.
    pub(super) private: Vec<(Name, EntityId)>,
    /// Calls of methods that extend what they are called on.
    pub(super) extensions: Vec<Reference>,
    /// Uses of members of types that are spread over files, with the declaring files.
    parts: Vec<(u32, u32)>,
    /// Of types that are spread over files, those that are meant here.
    meant: FxHashMap<EntityId, DeclaringFiles>,
    /// Names that mean a function or value outside of types, if nothing has them that needs no name here.
    pub(super) unowned: Unowned,
    /// Calls whose first argument tells what they give, `same(bed)`, in order.
    pub(super) giving_first: Vec<(u32, GivenFirst)>,
}

impl<'w> Follower<'w> {
    fn new(
        world: &'w World<'w>,
        file: usize,
        facts: &'w FileFacts,
        states: &'w [State],
        extending: &'w [NamespaceId],
    ) -> Self {
        let (around, called, found) = (None, Vec::new(), Vec::new());
        let (extensions, parts, meant) = (Vec::new(), Vec::new(), FxHashMap::default());
        let private = private_extensions(facts)
            .map(|(name, owner)| (name, world.table.declared[file][owner as usize]))
            .collect();
        let member_imports = member_imports(world, file, facts);
        let language = world.project.files[file].language;
        Self {
            given_parts: language.map_or(&[], |language| &world.given_parts[language]),
            world,
            file,
            facts,
            states,
            extending,
            around,
            called,
            found,
            member_imports,
            private,
            extensions,
            parts,
            meant,
            unowned: Unowned::default(),
            giving_first: Vec::new(),
        }
    }

    /// What each use of the file gives that is `wanted`, with all members noted on the way.
    fn values(&mut self, wanted: impl Fn(usize) -> bool) -> Vec<Value> {
        let mut values: Vec<Value> = Vec::with_capacity(self.facts.uses.len());
        for (at, used) in self.facts.uses.iter().enumerate() {
            let value = match used.context {
                Context::Value if wanted(at) => self.value(at as u32, used, &values),
                _ => Value::Unknown,
            };
            values.push(value);
        }
        values
    }

    fn value(&mut self, at: u32, used: &Use, values: &[Value]) -> Value {
        let states = self.states;
        let (parent, on) = match used.parent.get() {
            Ok(Root::Member) if used.name.as_type().is_some() => (None, Value::Unknown),
            Ok(Root::Member | Root::Global) => return Value::Unknown,
            Ok(Root::Value(value_type)) => {
                let spelled = Spelled { file: self.file as u32, value_type };
                (None, self.world.value_of(spelled))
            }
            Ok(Root::This(scope)) => return self.inherited(at, used, scope),
            Ok(Root::Scope(scope)) => {
                return match states[at as usize] {
                    State::Unknown | State::Member => self.inherited(at, used, scope),
                    _ => Value::Unknown,
                };
            }
            Err(parent) => match (states[parent as usize], states[at as usize]) {
                (State::Entity(entity), State::Member)
                    if self.world.table.gives_value(entity) && used.name.as_given().is_none() =>
                {
                    let arguments = self.facts.uses[parent as usize].arguments;
                    match self.world.result_of_first(entity, arguments) {
                        Some(given) => (None, self.given_by_call(parent, given, values)),
                        None => (None, self.world.result_of(entity, arguments)),
                    }
                }
                (State::Entity(entity) | State::ValueOr(entity), State::Member) => {
                    // What a function outside of types gives to one that it is given may depend on the call.
                    let call = Some(parent).filter(|_| self.world.table.gives_value(entity));
                    (call, Value::Of(entity, Spelled::NOWHERE))
                }
                // What a call was given is known behind it only.
                (State::Unknown | State::Member, _) => {
                    let call = self.call_of(parent);
                    let late = self.gives_of_first(call).map(|given| self.given_by_call(call, given, values));
                    let known = late.filter(|value| call == parent || *value != Value::Unknown);
                    (Some(parent), known.unwrap_or(values[parent as usize]))
                }
                _ => return Value::Unknown,
            },
        };
        if let Some(value_type) = used.name.as_type() {
            return self.of_given_type(on, value_type, values);
        }
        match used.name.as_given() {
            Some((Name::ITSELF, parameter)) => {
                self.world.parameter_of(on, parameter).unwrap_or(Value::Unknown)
            }
            Some((argument, parameter)) => self.given(parent, on, argument, parameter, values),
            None => self.member(at, used, on),
        }
    }

    /// A member of the types around `scope`.
    fn inherited(&mut self, at: u32, used: &Use, scope: u32) -> Value {
        let own = matches!(used.name, Name::SUPER | Name::THIS | Name::EACH | Name::ELEMENT);
        let extends = self.may_extend(used) && matches!(used.parent.get(), Ok(Root::This(_)));
        if !own && !extends && !self.world.may_be_member(used) {
            return Value::Unknown;
        }
        if self.around.as_ref().is_none_or(|(known, _)| *known != scope) {
            self.around = Some((scope, self.types_around(scope)));
        }
        let around = self.around.as_ref().map_or(&[][..], |(_, around)| around);
        if own {
            let Some(&type_around) = around.first() else { return Value::Unknown };
            let this = Value::Of(type_around, Spelled::NOWHERE);
            return match used.name {
                Name::SUPER => Value::Super(type_around),
                Name::THIS => this,
                _ => self.element(at, used, this),
            };
        }
        let world = self.world;
        let of = |entity: &EntityId| {
            let found = world.members_of(self.file, *entity, used, false);
            (!found.is_empty()).then_some((*entity, found))
        };
        let this = around.first().map(|entity| Value::Of(*entity, Spelled::NOWHERE));
        let imported = || {
            let types =
                self.member_imports.iter().filter(|(name, _)| name.is_none_or(|name| name == used.name));
            types.map(|(_, entity)| entity).find_map(of)
        };
        match (around.iter().find_map(of).or_else(imported), this) {
            (Some((entity, found)), _) => {
                self.declared(at, used, &found, Value::Of(entity, Spelled::NOWHERE))
            }
            (None, Some(this)) if extends => self.extension(at, used, this).unwrap_or(Value::Unknown),
            _ => Value::Unknown,
        }
    }

    fn types_around(&self, scope: u32) -> Vec<EntityId> {
        let declared = &self.world.table.declared[self.file];
        self.facts.types_around(scope).map(|declaration| declared[declaration as usize]).collect()
    }

    /// A member of `value`.
    fn member(&mut self, at: u32, used: &Use, value: Value) -> Value {
        match (used.name, value) {
            (_, Value::Unknown) => Value::Unknown,
            (Name::ELEMENT | Name::EACH, _) => self.element(at, used, value),
            (Name::PARAMETER, _) => self.held(value),
            (Name::CALL, Value::Foreign(of) | Value::Holder(_, of)) => {
                self.world.given_by(of).unwrap_or(Value::Unknown)
            }
            // What a type of another project gives is of one, too.
            (_, Value::Foreign(of)) => self
                .part_of(of, used)
                .or_else(|| self.extension(at, used, value))
                .unwrap_or(Value::Foreign(Spelled::NOWHERE)),
            (_, Value::Holder(held, of)) => self
                .part_of(of, used)
                .or_else(|| self.extension(at, used, value))
                .unwrap_or_else(|| self.world.held_in(held, of)),
            (_, Value::Held(held, of)) => {
                let found = self.world.members_of(self.file, held, used, false);
                match found.is_empty() {
                    true => self.part_of(of, used).unwrap_or(value),
                    false => self.declared(at, used, &found, value),
                }
            }
            (_, Value::Of(entity, _) | Value::Bound(entity)) => {
                let found = self.world.members_of(self.file, entity, used, false);
                let (some, all) = match self.may_extend(used) {
                    true => self.world.fitting(self.file, entity, used),
                    false => (true, true),
                };
                let extension = if found.is_empty() || !all { self.extension(at, used, value) } else { None };
                match extension {
                    Some(result) if found.is_empty() || !some => result,
                    // Another name for the type of a function.
                    _ if found.is_empty() && used.name == Name::CALL => {
                        let mut bases = self.world.base_types(entity);
                        bases.find_map(|base| self.world.given_by(base)).unwrap_or(Value::Unknown)
                    }
                    // What a base outside of the project has may give what that base holds: `class Beds : Iterable<Bed>`.
                    _ if found.is_empty() => self
                        .deconstructed(at, used, entity)
                        .or_else(|| match self.world.as_base(value)? {
                            Value::Holder(held, of) => {
                                self.part_of(of, used).or_else(|| Some(self.world.held_in(held, of)))
                            }
                            Value::Foreign(of) => self.part_of(of, used),
                            _ => None,
                        })
                        .unwrap_or(Value::Unknown),
                    _ => self.declared(at, used, &found, value),
                }
            }
            (_, Value::Super(entity)) => {
                let found = self.world.members_of(self.file, entity, used, true);
                self.declared(at, used, &found, value)
            }
        }
    }

    /// Notes the use of a member of `on` and gives its value.
    pub(super) fn declared(
        &mut self,
        at: u32,
        used: &Use,
        found: &[(EntityId, DeclaredMember)],
        on: Value,
    ) -> Value {
        let Some(&(owner, first)) = found.first() else { return Value::Unknown };
        self.owns(used, owner);
        let (owner, member) = self.of_meant_copy(owner, &first, used).unwrap_or((owner, first));
        let by_literal = if used.called { self.by_literal(at, used, on, &member) } else { None };
        let (owner, member) = by_literal.unwrap_or((owner, member));
        if self.world.is_spread(owner) {
            let files = self.meant_files(owner);
            let overloads = self.world.overloads(owner, used.name, used.arguments);
            let meant = overloads.map(|overload| overload.file).filter(|file| files.contains(file));
            self.parts.extend(meant.map(|file| (at, file)));
        }
        for (entity, declared) in found {
            let Some((entity, declared)) = self.of_meant_copy(*entity, declared, used) else { continue };
            if declared.file != self.file as u32 && !self.is_of_other_copy(on, entity, declared.file) {
                self.note(at, used, entity, declared.file);
            }
        }
        if used.called {
            self.called.push((at, owner, on));
        }
        if (used.called || used.name == Name::ELEMENT)
            && let Some(given) = self.world.gives_of_first(&member)
        {
            self.giving_first.push((at, given));
        }
        let value = self.result(owner, &member, on);
        if !used.called || !self.world.table.members.named(owner, used.name, true).is_empty() {
            return value;
        }
        // A value that is a function is called.
        if let Value::Holder(_, spelled) | Value::Foreign(spelled) = value
            && let Some(given) = self.world.given_by(spelled)
        {
            return given;
        }
        match value {
            Value::Of(function, _)
                if self.world.table.entities[function.index()].kind == DeclarationKind::Delegate =>
            {
                self.call(at, used, function)
            }
            // `Func<Taxon, Bed>` gives the last that it is given.
            Value::Holder(_, spelled) if self.world.type_name(spelled).is_some() => {
                let last = self.world.arguments(spelled).into_iter().flatten().last();
                last.map_or(value, |last| self.world.value_of(last))
            }
            value => value,
        }
    }

    /// What `member` of `entity` means here: of copies of a type, the member of the one that is meant, which may inherit
    /// what another copy declares. `None` where no copy that can be meant has it.
    pub(super) fn of_meant_copy(
        &mut self,
        entity: EntityId,
        member: &DeclaredMember,
        used: &Use,
    ) -> Option<(EntityId, DeclaredMember)> {
        if !self.world.is_spread(entity) {
            return Some((entity, *member));
        }
        if self.meant_files(entity).contains(&member.file) {
            return Some((entity, *member));
        }
        let world = self.world;
        let (own, called) = (self.meant_files(entity), Use { arguments: member.arguments(), ..*used });
        if let Some(copy) = world.members_like(entity, &called).find(|other| own.contains(&other.file)) {
            return Some((entity, *copy));
        }
        world.with_bases(entity).find_map(|of| {
            let files = self.meant_files(of);
            let mut named = world.members_like(of, used);
            named.find(|other| files.contains(&other.file)).map(|other| (of, *other))
        })
    }

    /// The files whose declarations `entity` means here.
    pub(super) fn meant_files(&mut self, entity: EntityId) -> DeclaringFiles {
        let (world, file) = (self.world, self.file);
        self.meant.entry(entity).or_insert_with(|| world.declaring_files(entity, file)).clone()
    }

    /// Whether `owner` in `file`, which the code here cannot see, is a base of another copy of the type of `on`: copies
    /// may derive from different types.
    fn is_of_other_copy(&self, on: Value, owner: EntityId, file: u32) -> bool {
        let receiver = match on {
            Value::Of(entity, _) | Value::Held(entity, _) | Value::Super(entity) | Value::Bound(entity) => {
                entity
            }
            _ => return false,
        };
        receiver != owner
            && self.world.is_spread(receiver)
            && !self.world.ownership.sees(self.file, file as usize)
    }

    pub(super) fn note(&mut self, at: u32, used: &Use, entity: EntityId, file: u32) {
        self.found.push(Reference { used: at, entity, count: used.count, extension: false, file });
    }

    /// What `member` of `owner` gives, used of the value `on`.
    pub(super) fn result(&self, owner: EntityId, member: &DeclaredMember, on: Value) -> Value {
        let world = self.world;
        if member.value_type == OWN_TYPE {
            // What an enumeration gives of itself may be all of its constants.
            return match world.table.entities[owner.index()].kind {
                DeclarationKind::Enum => Value::held(owner),
                _ => Value::Of(owner, Spelled::NOWHERE),
            };
        }
        let (receiver, given) = match on {
            Value::Of(entity, given) => (Some(entity), given),
            Value::Held(entity, _) | Value::Super(entity) | Value::Bound(entity) => {
                (Some(entity), Spelled::NOWHERE)
            }
            _ => (None, Spelled::NOWHERE),
        };
        let told = receiver.and_then(|entity| {
            let exact = world.given_for(member.spelled(), owner, entity, given);
            exact.or_else(|| world.holder_for(member.spelled(), owner, entity, given))
        });
        if let Some(told) = told {
            return told;
        }
        let argument = world.meaning(given).argument;
        match world.value_of(member.spelled()) {
            Value::Unknown if member.value_type == NO_TYPE && member.is_constant => {
                let is_enumeration = world.table.entities[owner.index()].kind == DeclarationKind::Enum;
                if is_enumeration { Value::Of(owner, Spelled::NOWHERE) } else { Value::Unknown }
            }
            // What is declared as a type parameter is what the type was given.
            value @ (Value::Unknown | Value::Foreign(_)) => argument.map_or(value, Value::held),
            // What makes an object step by step gives itself: `B extends Maker<B>`.
            Value::Bound(bound) => match (argument, receiver) {
                (Some(argument), _) => Value::held(argument),
                (None, Some(receiver)) if world.with_bases(receiver).any(|of| of == bound) => {
                    Value::Of(receiver, Spelled::NOWHERE)
                }
                _ => Value::Bound(bound),
            },
            value => value,
        }
    }
}
