//! Types of values: what their spelled names mean, and what their type arguments stand for in what they derive from.

use super::members::DeclaredMember;
use super::references::State;
use super::{EntityId, World};
use ferngate_model::{
    ALL_GIVEN, ALL_KEYS, ArgumentCounts, Context, DeclarationKind, FIRST_GIVEN, FileFacts, HAS_RECEIVER,
    MOST_ARGUMENTS, Member, MemberKind, NO_TYPE, Name, Naming, OWN_TYPE, Root, Use, UseParent, ValueType,
    number_with_first,
};
use rustc_hash::FxHashMap;

/// Type arguments are followed through no more types than this.
const DEEPEST: usize = 8;

/// What a type of values means: the type, and its last type argument, where these are declared in the project.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) struct ValueMeaning {
    pub(super) outer: Option<EntityId>,
    pub(super) argument: Option<EntityId>,
    /// It is perhaps one of the values that a type of another project holds.
    is_held: bool,
    /// What it is at least, for a type parameter.
    bound: Option<EntityId>,
    /// For a type parameter of a type, its number from one; 0 for everything else.
    pub(super) parameter: u8,
}

/// Where a type is spelled: a file, and an index among its types of values, or [`NO_TYPE`].
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Spelled {
    pub(super) file: u32,
    pub(super) value_type: u32,
}

impl Spelled {
    /// Of a type that nobody spells.
    pub(super) const NOWHERE: Self = Self { file: 0, value_type: NO_TYPE };
}

/// What is known of a value.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) enum Value {
    Unknown,
    /// Of this type, or a collection of them.
    Of(EntityId, Spelled),
    /// Of a type outside of the project.
    Foreign(Spelled),
    /// Of a type outside of the project that holds values of this one.
    Holder(EntityId, Spelled),
    /// What a member of such a type gives: perhaps one of the values. Where it is spelled what a map holds, perhaps a key
    /// with its value.
    Held(EntityId, Spelled),
    /// Seen as what this type derives from.
    Super(EntityId),
    /// Of a type parameter that is at least this type.
    Bound(EntityId),
}

/// What a call gives of its first argument.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) struct GivenFirst {
    /// Not that itself, but what its type was given as its type argument of this number, from zero.
    part: Option<usize>,
    /// The type that numbers its arguments so.
    owner: Option<EntityId>,
    /// A value of another library's type that holds it.
    held: bool,
}

impl GivenFirst {
    /// What a method gives that is declared to give what is spelled `of`, without the owner of a part.
    pub(super) fn of(of: Spelled) -> Option<Self> {
        match of.value_type {
            FIRST_GIVEN => Some(Self::default()),
            other => number_with_first(other).map(|number| Self { part: Some(number), ..Self::default() }),
        }
    }

    /// Whether it is the first argument itself.
    pub(super) fn is_same(self) -> bool {
        self == Self::default()
    }
}

impl Value {
    /// What a type gives that holds values of `entity` only.
    pub(super) fn held(entity: EntityId) -> Self {
        Self::Held(entity, Spelled::NOWHERE)
    }
}

/// What each type of values in `facts` means, where `states` says what its uses mean.
pub(super) fn meanings(facts: &FileFacts, states: &[State]) -> Vec<ValueMeaning> {
    let entity = |node: u32| match states.get(node as usize) {
        Some(State::Entity(entity)) => Some(*entity),
        _ => None,
    };
    let parameters = parameters(facts);
    let parameter = |node: u32| {
        let used = facts.uses.get(node as usize)?;
        let Ok(Root::Scope(scope)) = used.parent.get() else { return None };
        facts.types_around(scope).find_map(|around| parameters.get(&(around, used.name)).copied())
    };
    let meaning = |of: &ValueType| {
        let outer = entity(of.outer);
        let argument = entity(of.argument).or_else(|| held_inside(facts, of, &entity, 0));
        let mut meaning = ValueMeaning { outer, argument, ..ValueMeaning::default() };
        if meaning.outer.is_none()
            && !parameters.is_empty()
            && let Some((number, at_least)) = parameter(of.outer)
        {
            meaning.parameter = number;
            meaning.bound = facts.value_types.get(at_least as usize).and_then(|bound| entity(bound.outer));
        }
        meaning
    };
    facts.value_types.iter().map(meaning).collect()
}

/// What `of` holds whose last name is no type of the project, but a type parameter or a library's type: the last type
/// around it, the row of `List<Row<T>>`.
fn held_inside(
    facts: &FileFacts,
    of: &ValueType,
    entity: &impl Fn(u32) -> Option<EntityId>,
    depth: usize,
) -> Option<EntityId> {
    if of.argument == NO_TYPE || depth == DEEPEST {
        return None;
    }
    let given = of.arguments.iter().rev().filter_map(|given| facts.value_types.get(*given as usize));
    given.filter(|given| !given.is_inner()).find_map(|given| {
        let own = entity(given.outer).or_else(|| entity(given.argument));
        own.or_else(|| held_inside(facts, given, entity, depth + 1))
    })
}

/// The type parameters of the types in `facts`: the number of each, from one, and what it is at least.
fn parameters(facts: &FileFacts) -> FxHashMap<(u32, Name), (u8, u32)> {
    let mut found: FxHashMap<(u32, Name), (u8, u32)> = FxHashMap::default();
    let (mut owner, mut number) = (u32::MAX, 0u8);
    let is_parameter = |member: &&Member| member.kind == MemberKind::TypeParameter;
    for member in facts.members.iter().filter(is_parameter) {
        if member.owner != owner {
            (owner, number) = (member.owner, 0);
        }
        number = number.saturating_add(1);
        found.entry((owner, member.name)).or_insert((number, member.value_type));
    }
    found
}

impl ValueMeaning {
    pub(super) fn is_unknown(&self) -> bool {
        *self == Self::default()
    }

    /// As far as a value tells its type.
    pub(super) fn of(value: Value) -> Self {
        let (mut outer, mut argument, mut bound) = (None, None, None);
        let is_held = matches!(value, Value::Held(..));
        match value {
            Value::Of(entity, _) | Value::Held(entity, _) => outer = Some(entity),
            Value::Holder(entity, _) => argument = Some(entity),
            Value::Bound(entity) => bound = Some(entity),
            Value::Unknown | Value::Foreign(_) | Value::Super(_) => {}
        }
        Self { outer, argument, is_held, bound, parameter: 0 }
    }
}

/// One of [`Naming::given_parts`].
#[derive(Clone, Copy, Debug)]
pub(super) struct GivenPart {
    pub(super) name: Name,
    /// It is a method.
    pub(super) called: bool,
    pub(super) number: usize,
}

/// The members of other libraries' types in a language that give one of the types that these were given.
pub(super) fn given_parts(naming: Naming) -> Vec<GivenPart> {
    let part = |(name, number): &(&str, usize)| {
        let (name, called) = name.strip_suffix("()").map_or((*name, false), |name| (name, true));
        GivenPart { name: Name::new(name.as_bytes()), called, number: *number }
    };
    naming.given_parts.iter().map(part).collect()
}

/// What the calls with the node `call` are given first, as far as that is followed.
pub(super) fn first_arguments(facts: &FileFacts, call: u32) -> impl Iterator<Item = UseParent> {
    let first = facts.first_arguments.partition_point(|(of, _)| *of < call);
    facts.first_arguments[first..]
        .iter()
        .take_while(move |(of, _)| *of == call)
        .map(|(_, argument)| *argument)
}

impl World<'_> {
    /// The types of values in the file `file` that are those of an expression and not known yet, each with the node of
    /// that.
    pub(super) fn undecided(&self, file: usize, facts: &FileFacts) -> Vec<(usize, u32)> {
        let by_first = |function, call: &Use| {
            self.table.gives_value(function) && self.result_of_first(function, call.arguments).is_some()
        };
        let of = |(at, (spelled, known)): (usize, (&ValueType, &ValueMeaning))| {
            let used = facts.uses.get(spelled.outer as usize)?;
            let is_known =
                !known.is_unknown() && !known.outer.is_some_and(|function| by_first(function, used));
            let is_open = used.context == Context::Value && !is_known && !spelled.is_inner();
            is_open.then_some((at, spelled.outer))
        };
        facts.value_types.iter().zip(&self.value_types[file]).enumerate().filter_map(of).collect()
    }

    pub(super) fn meaning(&self, of: Spelled) -> ValueMeaning {
        let types = self.value_types.get(of.file as usize);
        types.and_then(|types| types.get(of.value_type as usize)).copied().unwrap_or_default()
    }

    fn spelled_type(&self, of: Spelled) -> Option<(&FileFacts, &ValueType)> {
        let facts = self.project.files.get(of.file as usize)?.facts.as_deref()?;
        Some((facts, facts.value_types.get(of.value_type as usize)?))
    }

    /// The last name of a type, whatever declares it.
    pub(super) fn type_name(&self, of: Spelled) -> Option<Name> {
        let (facts, spelled) = self.spelled_type(of)?;
        Some(facts.uses.get(spelled.outer as usize)?.name)
    }

    /// The first type arguments that `of` was given, as far as they are kept.
    pub(super) fn arguments(&self, of: Spelled) -> [Option<Spelled>; MOST_ARGUMENTS] {
        let kept = self.spelled_type(of).map_or([NO_TYPE; MOST_ARGUMENTS], |(_, spelled)| spelled.arguments);
        kept.map(|value_type| (value_type != NO_TYPE).then_some(Spelled { file: of.file, value_type }))
    }

    /// A value of a type as it is spelled.
    pub(super) fn value_of(&self, of: Spelled) -> Value {
        self.value_through(of, 0)
    }

    /// What a function or property outside of types gives, called with so many `arguments`.
    pub(super) fn result_of(&self, entity: EntityId, arguments: ArgumentCounts) -> Value {
        self.result_through(entity, arguments, 0)
    }

    /// The first function called `entity` that can be called with so many `arguments`, else the first of all.
    fn giving(&self, entity: EntityId, arguments: ArgumentCounts) -> Option<&DeclaredMember> {
        let fitting = self.overloads(entity, Name::NEW, arguments).next();
        fitting.or_else(|| self.overloads(entity, Name::NEW, ArgumentCounts::default()).next())
    }

    /// What the function `entity`, called with so many `arguments`, gives of the first, if that tells what it gives.
    pub(super) fn result_of_first(&self, entity: EntityId, arguments: ArgumentCounts) -> Option<GivenFirst> {
        self.giving(entity, arguments).and_then(|member| self.gives_of_first(member))
    }

    fn result_through(&self, entity: EntityId, arguments: ArgumentCounts, depth: usize) -> Value {
        let member = self.giving(entity, arguments).filter(|_| depth < DEEPEST);
        member.map_or(Value::Unknown, |member| self.value_through(member.spelled(), depth + 1))
    }

    fn value_through(&self, of: Spelled, depth: usize) -> Value {
        let meaning = self.meaning(of);
        match (meaning.outer, meaning.argument, meaning.bound) {
            // `val bed = newBed()`
            (Some(outer), ..) if self.table.gives_value(outer) => {
                let call = self.spelled_type(of).and_then(|(facts, of)| facts.uses.get(of.outer as usize));
                let arguments = call.map(|call| call.arguments).unwrap_or_default();
                self.result_through(outer, arguments, depth)
            }
            (Some(outer), ..) if meaning.is_held => Value::held(outer),
            (Some(outer), ..) => Value::Of(outer, of),
            (None, _, Some(bound)) => Value::Bound(bound),
            (None, Some(argument), None) => Value::Holder(argument, of),
            (None, None, None)
                if matches!(of.value_type, NO_TYPE | OWN_TYPE)
                    || GivenFirst::of(of).is_some()
                    || meaning.parameter > 0 =>
            {
                Value::Unknown
            }
            (None, None, None) => {
                self.held_by_parts(of, depth).map_or(Value::Foreign(of), |held| Value::Holder(held, of))
            }
        }
    }

    /// What the last part of a value of several is, where the value is spelled by its parts: `bed to label`.
    fn held_by_parts(&self, of: Spelled, depth: usize) -> Option<EntityId> {
        let (_, spelled) = self.spelled_type(of).filter(|(_, spelled)| spelled.outer == NO_TYPE)?;
        if depth == DEEPEST || spelled.argument != NO_TYPE {
            return None;
        }
        let mut parts = self.arguments(of).into_iter().flatten();
        parts.rfind(|part| !self.meaning(*part).is_unknown()).and_then(|part| {
            match self.value_through(part, depth + 1) {
                Value::Of(entity, _) | Value::Held(entity, _) | Value::Holder(entity, _) => Some(entity),
                _ => None,
            }
        })
    }

    /// What `member` gives of the first argument of a call.
    pub(super) fn gives_of_first(&self, member: &DeclaredMember) -> Option<GivenFirst> {
        let spelled = member.spelled();
        let given = GivenFirst::of(spelled).or_else(|| self.holds_first(spelled))?;
        Some(self.of_first_of(member, given))
    }

    /// What is `given` by the first parameter of `member`, with the type that numbers the parts of that.
    pub(super) fn of_first_of(&self, member: &DeclaredMember, given: GivenFirst) -> GivenFirst {
        let first = || self.meaning(member.parameter(self, 0)?).outer;
        GivenFirst { owner: given.part.and_then(|_| first()), ..given }
    }

    /// What is spelled `of`, a type of another library that was given what the first argument tells.
    fn holds_first(&self, of: Spelled) -> Option<GivenFirst> {
        if of.value_type == NO_TYPE || self.meaning(of).outer.is_some() {
            return None;
        }
        let mut arguments = self.arguments(of).into_iter().flatten();
        arguments.find_map(GivenFirst::of).map(|given| GivenFirst { held: true, ..given })
    }

    /// What a call gives that is given `first`.
    pub(super) fn given_of(&self, given: GivenFirst, first: Value) -> Value {
        let value = given.part.map_or(first, |number| self.given_part(number, given.owner, first));
        match value {
            _ if !given.held => value,
            Value::Of(held, _) | Value::Holder(held, _) | Value::Held(held, _) => {
                Value::Holder(held, Spelled::NOWHERE)
            }
            _ => Value::Unknown,
        }
    }

    /// What the type of `value` was given as its type argument `number`, as `owner` numbers them.
    fn given_part(&self, number: usize, owner: Option<EntityId>, value: Value) -> Value {
        let part = match (value, owner) {
            (Value::Of(entity, given), Some(owner)) => self.argument(number, owner, entity, given, 0),
            (Value::Foreign(of) | Value::Holder(_, of), None) => self.arguments(of)[number],
            _ => None,
        };
        part.map_or(Value::Unknown, |part| self.value_of(part))
    }

    /// What the function that is spelled `of` gives; `None` where that is none.
    pub(super) fn given_by(&self, of: Spelled) -> Option<Value> {
        let (_, spelled) = self.spelled_type(of)?;
        let is_function = matches!(spelled.outer, NO_TYPE | HAS_RECEIVER);
        let result = self.arguments(of)[MOST_ARGUMENTS - 1].filter(|_| is_function)?;
        Some(self.value_of(result))
    }

    /// What the type parameter `of` of `owner` stands for in a value of `entity`, which is spelled `given`.
    pub(super) fn given_for(
        &self,
        of: Spelled,
        owner: EntityId,
        entity: EntityId,
        given: Spelled,
    ) -> Option<Value> {
        let number = usize::from(self.meaning(of).parameter.checked_sub(1)?);
        let found = self.argument(number, owner, entity, given, 0)?;
        Some(self.value_of(found)).filter(|value| *value != Value::Unknown)
    }

    pub(super) fn argument(
        &self,
        number: usize,
        owner: EntityId,
        entity: EntityId,
        given: Spelled,
        depth: usize,
    ) -> Option<Spelled> {
        if entity == owner {
            return self.arguments(given).get(number).copied().flatten();
        }
        if depth == DEEPEST {
            return None;
        }
        self.base_types(entity).find_map(|base_type| {
            let base = self.meaning(base_type).outer?;
            if !self.with_bases(base).any(|above| above == owner) {
                return None;
            }
            let found = self.argument(number, owner, base, base_type, depth + 1)?;
            // `class Shelf<T> : Box<T>`: what the shelf was given
            match self.meaning(found).parameter.checked_sub(1) {
                Some(own) => {
                    let given = self.arguments(given).get(usize::from(own)).copied().flatten();
                    // Inside of the shelf it is given whatever that takes, of which the least is known.
                    given.or_else(|| (depth == 0).then_some(found))
                }
                None => Some(found),
            }
        })
    }

    /// What a member of another library's type gives that is spelled `of` and holds values of `held`.
    pub(super) fn held_in(&self, held: EntityId, of: Spelled) -> Value {
        let is_map = self.arguments(of)[1].is_some();
        Value::Held(held, if is_map { of } else { Spelled::NOWHERE })
    }

    /// What a member gives of a value of another library's type that is spelled `of`: what that was given as its type
    /// argument `number`, a value that was given the same where that is [`ALL_GIVEN`], or a collection of the first for
    /// [`ALL_KEYS`]. `None` for what was given less.
    pub(super) fn part_of(&self, of: Spelled, number: usize) -> Option<Value> {
        let given = self.arguments(of);
        if number == ALL_GIVEN {
            return given[1].map(|_| self.value_of(of));
        }
        if number == ALL_KEYS {
            let keys = |value| if let Value::Of(key, _) = value { Value::held(key) } else { value };
            return self.part_of(of, 0).map(keys);
        }
        let more = given.get(number..).is_some_and(|rest| rest.iter().any(Option::is_some));
        more.then(|| given[number].map_or(Value::Unknown, |given| self.value_of(given)))
    }

    /// The bases of `entity` that are given types.
    pub(super) fn base_types(&self, entity: EntityId) -> impl Iterator<Item = Spelled> {
        let declarations = self.table.entities[entity.index()].declarations.iter();
        declarations.flat_map(|(file, declaration)| {
            let facts = self.project.files[*file as usize].facts.as_deref();
            let all = facts.map_or(&[][..], |facts| &facts.base_types);
            let first = all.partition_point(|(of, _)| of < declaration);
            let own = all[first..].iter().take_while(move |(of, _)| of == declaration);
            own.map(|(_, value_type)| Spelled { file: *file, value_type: *value_type })
        })
    }

    /// Whether `entity` is an interface.
    pub(super) fn is_interface(&self, entity: EntityId) -> bool {
        self.table.entities[entity.index()].kind == DeclarationKind::Interface
    }

    /// What the function `value` is given as its parameter `number`, from zero.
    pub(super) fn parameter_of(&self, value: Value, number: usize) -> Option<Value> {
        let of = match value {
            Value::Of(entity, given) => {
                let kind = self.table.entities[entity.index()].kind;
                if kind != DeclarationKind::Delegate && !self.is_interface(entity) {
                    return None;
                }
                let (owner, declared) = self.taken_by(entity, number)?;
                return self
                    .given_for(declared, owner, entity, given)
                    .or_else(|| Some(self.value_of(declared)));
            }
            Value::Holder(_, of) | Value::Foreign(of) => of,
            _ => return None,
        };
        let arguments = self.arguments(of);
        let Some(name) = self.type_name(of) else {
            // `(Bed, Crop) -> Unit`, or `Bed.(Crop) -> Unit`
            let (_, spelled) = self.spelled_type(of)?;
            let has_receiver = spelled.outer == HAS_RECEIVER;
            let place = match (number, has_receiver) {
                (Name::RECEIVER, true) => 0,
                (Name::RECEIVER, false) => return None,
                (number, _) => number + usize::from(has_receiver),
            };
            let parameters = &arguments[..MOST_ARGUMENTS - 1];
            return parameters.get(place).copied().flatten().map(|argument| self.value_of(argument));
        };
        if number == Name::RECEIVER {
            return None;
        }
        if name == Name::new(b"Expression") {
            return self.parameter_of(self.value_of(arguments[0]?), number);
        }
        // `EventHandler<Opened>` is called with a sender and the argument, `Comparison<Bed>` with two of one type.
        if name == Name::new(b"EventHandler") && number == 0 {
            return None;
        }
        arguments.get(number).copied().flatten().or(arguments[0]).map(|argument| self.value_of(argument))
    }
}
