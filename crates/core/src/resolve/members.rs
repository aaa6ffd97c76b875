//! The members of all types, and which of them a name behind a value means.

use super::sieve::Sieve;
use super::values::{Spelled, Value};
use super::{EntityId, World};
use ferngate_model::{
    ANY_ARITY, Access, ArgumentCounts, DeclarationKind, FileFacts, MACRO, Member, MemberKind, NAMESPACE,
    NO_TYPE, Name, Naming, ParameterTypes, Use,
};
use rayon::prelude::*;
use smallvec::SmallVec;

/// Where a member is declared, and of what type it is.
#[derive(Clone, Copy, Debug)]
pub struct DeclaredMember {
    /// The declaring file.
    pub(super) file: u32,
    /// Index among the types of values of that file, or [`NO_TYPE`].
    pub(super) value_type: u32,
    /// It belongs to the type and not to its instances.
    pub(super) is_constant: bool,
    /// It is called as if it belonged to its first parameter.
    pub(super) is_extension: bool,
    /// With how many arguments it is called.
    arguments: ArgumentCounts,
    /// With how many type arguments, if that is known.
    arity: u8,
    /// The types of its parameters, in the facts of that file.
    parameters: ParameterTypes,
    /// Who may use it.
    access: Access,
}

impl DeclaredMember {
    /// Whether it can be called with so many arguments and, where any are given, type arguments.
    fn fits(&self, arguments: ArgumentCounts, arity: u8) -> bool {
        let given = (1..NAMESPACE.min(MACRO)).contains(&arity);
        self.arguments.meets(arguments) && (!given || matches!(self.arity, ANY_ARITY) || self.arity == arity)
    }

    /// With how many arguments it is called.
    pub(super) fn arguments(&self) -> ArgumentCounts {
        self.arguments
    }

    /// Whether code of `file` may use it, as a member of `owner`.
    pub(super) fn may_be_used(&self, world: &World, file: usize, owner: EntityId) -> bool {
        world.may_use(file, owner, self.access)
    }

    /// Whether it extends types and can be called on a value of one with so many arguments.
    pub(super) fn extends_with(&self, arguments: ArgumentCounts) -> bool {
        let all = self.parameters.count as usize;
        let on_value = if all == 0 { self.arguments } else { self.arguments.without(all) };
        self.is_extension && on_value.meets(arguments)
    }

    /// The type of it, or of what it gives.
    pub(super) fn spelled(&self) -> Spelled {
        Spelled { file: self.file, value_type: self.value_type }
    }

    /// The number of the last parameter.
    pub(super) fn last_parameter(&self) -> Option<usize> {
        (self.parameters.count as usize).checked_sub(1)
    }

    /// The type of parameter `number` of a method.
    pub(super) fn parameter(&self, world: &World, number: usize) -> Option<Spelled> {
        let facts = world.project.files[self.file as usize].facts.as_deref()?;
        let value_type = *self.parameters.of(facts).get(number)?;
        (value_type != NO_TYPE).then_some(Spelled { file: self.file, value_type })
    }
}

/// The members of all types, overloads of one result as one.
#[derive(Clone, Debug, Default)]
pub struct Members {
    /// For each type where its members begin, and where those of the last one end.
    starts: Vec<u32>,
    /// What each member is looked up by, sorted inside of each type.
    keys: Vec<MemberKey>,
    /// The members, in the same order.
    members: Vec<DeclaredMember>,
}

/// The name of a member, and whether it is a method.
type MemberKey = (Name, bool);

impl Members {
    /// What the type `of` declares by this name: its methods, or its values.
    #[inline]
    pub(super) fn named(&self, of: EntityId, name: Name, is_method: bool) -> &[DeclaredMember] {
        let (Some(start), Some(end)) = (self.starts.get(of.index()), self.starts.get(of.index() + 1)) else {
            return &[];
        };
        let (keys, key) = (&self.keys[*start as usize..*end as usize], (name, is_method));
        let first = keys.partition_point(|known| *known < key);
        let count = keys[first..].iter().take_while(|known| **known == key).count();
        let first = *start as usize + first;
        &self.members[first..first + count]
    }
}

/// What a use means: mostly one member, several where it is called with several numbers of arguments.
pub(super) type FoundMembers = SmallVec<[(EntityId, DeclaredMember); 1]>;

/// From where and how a method is called.
#[derive(Clone, Copy)]
struct Call {
    file: usize,
    arguments: ArgumentCounts,
    arity: u8,
}

/// Further overloads of one name are not told apart.
const MOST_OVERLOADS: usize = 64;

/// A member as it was met: what it is looked up by, and where it is declared.
type Met = (EntityId, MemberKey, (bool, u32, u32));

/// The members of `entities` types that the files of `facts` declare, of each of which `declared` tells the types. With
/// them come a sieve of their names and, for each type, one bit for each of those: most names are those of none.
pub(super) fn enter<'p>(
    facts: impl Fn(usize) -> Option<&'p FileFacts> + Sync,
    declared: &[Vec<EntityId>],
    entities: usize,
) -> (Members, Sieve, Vec<u64>) {
    let of_file = |file: usize| {
        let members = facts(file).into_iter().flat_map(|facts| facts.members.iter().enumerate());
        let members = members.filter(|(_, member)| member.kind != MemberKind::TypeParameter);
        members.filter_map(move |(at, member)| {
            let owner = *declared[file].get(member.owner as usize)?;
            let is_accessor = member.kind == MemberKind::Accessor;
            Some((owner, (member.name, is_method(member)), (is_accessor, file as u32, at as u32)))
        })
    };
    let mut met: Vec<Met> = (0..declared.len()).into_par_iter().flat_map_iter(of_file).collect();
    // Places are part of the order, so overloads stay in that of the files.
    met.par_sort_unstable();
    let mut names = Sieve::new(met.len());
    let mut signs = vec![0; entities];
    let mut all = Members { starts: vec![0; entities + 1], ..Members::default() };
    (all.keys, all.members) = (Vec::with_capacity(met.len()), Vec::with_capacity(met.len()));
    for overloads in met.chunk_by(|a, b| (a.0, a.1) == (b.0, b.1)) {
        let (owner, key, _) = overloads[0];
        names.add(key.0.0);
        signs[owner.index()] |= sign(key.0);
        let first = all.members.len();
        for (_, _, (_, file, at)) in overloads {
            let Some(facts) = facts(*file as usize) else { continue };
            let found = declared_member(*file, &facts.members[*at as usize]);
            let known = &mut all.members[first..];
            let alike = |known: &&mut DeclaredMember| {
                known.spelled() == found.spelled() && known.parameters.of(facts) == found.parameters.of(facts)
            };
            let count = known.len();
            match known.iter_mut().find(alike) {
                Some(known) => {
                    known.arguments = known.arguments.with(found.arguments);
                    known.access = known.access.min(found.access);
                }
                None if count < MOST_OVERLOADS => all.members.push(found),
                None => {}
            }
        }
        all.keys.resize(all.members.len(), key);
        all.starts[owner.index() + 1] = all.members.len() as u32;
    }
    // Types without members begin and end where the one before them ends.
    let mut end = 0;
    for start in &mut all.starts {
        end = end.max(*start);
        *start = end;
    }
    (all, names, signs)
}

fn declared_member(file: u32, member: &Member) -> DeclaredMember {
    DeclaredMember {
        file,
        value_type: member.value_type,
        is_constant: member.kind == MemberKind::Static,
        is_extension: member.kind == MemberKind::Extension,
        arguments: member.arguments,
        arity: member.arity,
        parameters: member.parameters,
        access: member.access,
    }
}

/// The bit of `name` among those of a type's members.
#[inline]
fn sign(name: Name) -> u64 {
    1 << (name.0 >> 58)
}

fn is_method(member: &Member) -> bool {
    matches!(member.kind, MemberKind::Method | MemberKind::Extension | MemberKind::Accessor)
}

impl World<'_> {
    /// The members that `used` means for `file` in `entity` or, failing that, in what it derives from, classes before
    /// interfaces; with `above`, in the latter only. In some languages what is not called may be what a method of another
    /// one gets, where no type between has a value of the name itself.
    pub(super) fn members_of(&self, file: usize, entity: EntityId, used: &Use, above: bool) -> FoundMembers {
        let found = self.members_named(file, entity, used, above);
        let gets = || self.naming_of(file).is_some_and(|naming| naming.getters_are_values);
        let value = used.name.property();
        if used.called || !self.table.member_names.may_hold(value.0) || !gets() {
            return found;
        }
        let got = self.members_named(file, entity, &Use { name: value, ..*used }, above);
        let is_nearer = match (found.first(), got.first()) {
            (Some((of, _)), Some((nearer, _))) => self.lineage.above(*nearer).contains(of),
            (found, _) => found.is_none(),
        };
        if is_nearer { got } else { found }
    }

    /// Whether some type has a member that is called like `used`.
    pub(super) fn may_be_member(&self, used: &Use) -> bool {
        let names = &self.table.member_names;
        names.may_hold(used.name.0) || !used.called && names.may_hold(used.name.property().0)
    }

    fn members_named(&self, file: usize, entity: EntityId, used: &Use, above: bool) -> FoundMembers {
        let mut found = FoundMembers::new();
        let held = self.member_signs.get(entity.index()).copied().unwrap_or(u64::MAX);
        if held & sign(used.name) == 0 || !self.table.member_names.may_hold(used.name.0) {
            return found;
        }
        for arguments in used.arguments.each() {
            let find = |method, call: Call| self.nearest_member(entity, used.name, method, above, call);
            let unknown = Call { file, arguments: ArgumentCounts::default(), arity: 0 };
            let nearest = self
                .fitting_member(file, entity, used, above, arguments)
                .or_else(|| find(used.called, unknown))
                .or_else(|| find(!used.called, unknown));
            if let Some(nearest) = nearest.filter(|(owner, _)| found.iter().all(|(known, _)| known != owner))
            {
                found.push(nearest);
            }
        }
        found
    }

    fn fitting_member(
        &self,
        file: usize,
        entity: EntityId,
        used: &Use,
        above: bool,
        arguments: ArgumentCounts,
    ) -> Option<(EntityId, DeclaredMember)> {
        let call = Call { file, arguments, arity: used.arity };
        let find = |method| self.nearest_member(entity, used.name, method, above, call);
        find(used.called).or_else(|| find(!used.called))
    }

    /// Of the ways in which `file` calls `used`: whether some member of `entity` fits one, and whether each is fitted.
    pub(super) fn fitting(&self, file: usize, entity: EntityId, used: &Use) -> (bool, bool) {
        let mut fits = used
            .arguments
            .each()
            .map(|arguments| self.fitting_member(file, entity, used, false, arguments).is_some());
        let first = fits.next().unwrap_or_default();
        fits.fold((first, first), |(some, all), fits| (some || fits, all && fits))
    }

    fn nearest_member(
        &self,
        entity: EntityId,
        name: Name,
        method: bool,
        above: bool,
        call: Call,
    ) -> Option<(EntityId, DeclaredMember)> {
        // Looked at first, since it tells of nearly all types that they have no such member.
        let may_hold = |of: &EntityId| self.table.member_signs[of.index()] & sign(name) != 0;
        let member = |of: EntityId| {
            let overloads = self.table.members.named(of, name, method);
            let fits = |member: &&DeclaredMember| {
                member.fits(call.arguments, call.arity) && member.may_be_used(self, call.file, of)
            };
            let fitting = || overloads.iter().filter(fits);
            // The first that says what it gives.
            let found = fitting().find(|member| member.value_type != NO_TYPE).or_else(|| fitting().next());
            found.map(|member| (of, *member))
        };
        if !above
            && may_hold(&entity)
            && let Some(own) = member(entity)
        {
            return Some(own);
        }
        // Constructors are not inherited.
        if name == Name::NEW {
            return None;
        }
        let is_interface = |of: EntityId| self.table.entities[of.index()].kind == DeclarationKind::Interface;
        let lineage = self.lineage.above(entity).iter().copied().filter(may_hold);
        let of_classes = lineage.clone().filter(|base| !is_interface(*base)).find_map(member);
        of_classes.or_else(|| {
            let mut interfaces = lineage.filter(|base| is_interface(*base)).filter_map(member);
            let nearest = interfaces.next()?;
            let naming = self.naming_of_entity(entity);
            if !is_interface(entity) && naming.is_some_and(|naming| !naming.interfaces_give) {
                return None;
            }
            let has = |(of, count): &(&str, usize)| {
                Name::new(of.as_bytes()) == name && call.arguments.meets(ArgumentCounts::of(*count))
            };
            if method && naming.is_some_and(|naming| naming.objects_have.iter().any(has)) {
                return None;
            }
            let lowest = naming.is_some_and(|naming| naming.lowest_interface);
            Some(interfaces.fold(nearest, |one, other| self.inherited_from(entity, one, other, lowest)))
        })
    }

    /// Which of two interfaces that both declare a method of `entity` a call of it leads to: the one that derives from
    /// the other, else the one whose method gives more, else the nearer, here `one`.
    ///
    /// With `lowest`, instead of the nearer the one with fewer types above it, and of these the one that is read first:
    /// the language leaves it open (JLS 15.12.2.5), and its compiler finds it so.
    fn inherited_from(
        &self,
        entity: EntityId,
        one: (EntityId, DeclaredMember),
        other: (EntityId, DeclaredMember),
        lowest: bool,
    ) -> (EntityId, DeclaredMember) {
        let derives = |of: EntityId, from: EntityId| self.lineage.above(of).contains(&from);
        let result = |(owner, member): (EntityId, DeclaredMember)| {
            let given = self.given_for(member.spelled(), owner, entity, Spelled::NOWHERE);
            match given.unwrap_or_else(|| self.value_of(member.spelled())) {
                Value::Of(result, _) | Value::Bound(result) => Some(result),
                _ => None,
            }
        };
        // No type from outside derives from one of the project.
        let gives_more = |more: (EntityId, DeclaredMember), less: (EntityId, DeclaredMember)| {
            result(more).is_some_and(|more| result(less).is_none_or(|less| derives(more, less)))
        };
        if derives(one.0, other.0) {
            return one;
        }
        if derives(other.0, one.0) || gives_more(other, one) {
            return other;
        }
        // Files are read in the order of their paths.
        let place = |of: EntityId| (self.lineage.rank(of), of);
        if lowest && !gives_more(one, other) && place(other.0) < place(one.0) { other } else { one }
    }

    /// The rules of the language in which `entity` is declared.
    fn naming_of_entity(&self, entity: EntityId) -> Option<Naming> {
        let (file, _) = self.table.entities[entity.index()].declarations.first()?;
        self.naming_of(*file as usize)
    }

    /// All members of `owner` that `used` may mean; a field is none of the methods of its name, so that what is called
    /// leads to methods first, and what is not to values.
    pub(super) fn members_like(&self, owner: EntityId, used: &Use) -> impl Iterator<Item = &DeclaredMember> {
        let declared = |is_method| self.table.members.named(owner, used.name, is_method).iter();
        let (called, arguments) = (used.called, used.arguments);
        declared(called).chain(declared(!called)).filter(move |member| member.arguments.meets(arguments))
    }

    /// All methods of this name that `owner` declares and that can be called with so many arguments.
    pub(super) fn overloads(
        &self,
        owner: EntityId,
        name: Name,
        arguments: ArgumentCounts,
    ) -> impl Iterator<Item = &DeclaredMember> {
        let declared = |is_method| self.table.members.named(owner, name, is_method).iter();
        declared(true).chain(declared(false)).filter(move |member| member.arguments.meets(arguments))
    }
}
