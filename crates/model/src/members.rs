use crate::{Access, FileFacts, Name, Span};

/// What a [`Member`] is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum MemberKind {
    /// A field, property or event of instances.
    Value,
    /// A constant, enumeration member or static value.
    Static,
    /// A method.
    Method,
    /// A method that is called as if it belonged to its first parameter.
    Extension,
    /// A method by which another language gets or sets a property; methods that are spelled come first.
    Accessor,
    /// A type parameter.
    TypeParameter,
}

/// A named part of a type.
#[derive(Clone, Copy, Debug)]
pub struct Member {
    /// Index of the declaring type in [`FileFacts::declarations`].
    pub owner: u32,
    /// Its name.
    pub name: Name,
    /// What it is.
    pub kind: MemberKind,
    /// Its declared type, what it returns, or what a type parameter is at least: index into
    /// [`FileFacts::value_types`], or [`NO_TYPE`].
    pub value_type: u32,
    /// With how many arguments a method can be called.
    pub arguments: ArgumentCounts,
    /// Number of type parameters of a method, or [`ANY_ARITY`].
    pub arity: u8,
    /// The types of a method's parameters, as far as they are kept.
    pub parameters: ParameterTypes,
    /// Who may see it.
    pub access: Access,
    /// First byte of the words that state its access.
    pub access_at: u32,
}

impl Member {
    /// A member that whoever sees its type may use.
    pub fn public(owner: u32, name: Name, kind: MemberKind, value_type: u32) -> Self {
        Self {
            owner,
            name,
            kind,
            value_type,
            arguments: ArgumentCounts::default(),
            arity: ANY_ARITY,
            parameters: ParameterTypes::default(),
            access: Access::Public,
            access_at: 0,
        }
    }
}

/// One half of a property that only the same manifest's code may use, though more may see the property.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Accessor {
    /// Index of the property in [`FileFacts::members`].
    pub member: u32,
    /// The property's name.
    pub name: Span,
    /// The words that state its access, with the blanks behind them.
    pub words: Span,
    /// It sets the property; otherwise it gives its value.
    pub sets: bool,
}

/// Stands for a number of type parameters that is not known.
pub const ANY_ARITY: u8 = 255;

/// The type of a parameter or local that the language has a word for.
pub const BUILT_IN: u32 = NO_TYPE - 1;

/// Where the types of a method's parameters stand in [`FileFacts::parameter_types`].
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct ParameterTypes {
    /// The first of them.
    pub first: u32,
    /// How many.
    pub count: u32,
}

impl ParameterTypes {
    /// The same without the first, if `skip`.
    pub fn behind_first(self, skip: bool) -> Self {
        let skipped = u32::from(skip && self.count > 0);
        Self { first: self.first + skipped, count: self.count - skipped }
    }

    /// The types themselves, in the facts that they belong to.
    pub fn of(self, facts: &FileFacts) -> &[u32] {
        let first = self.first as usize;
        facts.parameter_types.get(first..first + self.count as usize).unwrap_or_default()
    }
}

/// Numbers of arguments: a bit for each from 0 to 6, and one for all above. Empty where they are not known.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub struct ArgumentCounts(u8);

impl ArgumentCounts {
    /// Any number.
    pub const ANY: Self = Self(u8::MAX);

    /// Just `count`.
    pub fn of(count: usize) -> Self {
        Self(1 << count.min(7))
    }

    /// The bits.
    pub(crate) fn bits(self) -> u8 {
        self.0
    }

    /// These and those of `other`.
    pub fn with(self, other: Self) -> Self {
        Self(self.0 | other.0)
    }

    /// These, and each less by one: of a method that can be called on its first argument.
    pub fn or_one_less(self) -> Self {
        Self(self.0 | self.0 >> 1)
    }

    /// These but for `count`, where they are numbered one by one.
    pub fn without(self, count: usize) -> Self {
        if self == Self::ANY || count > 6 { self } else { Self(self.0 & !(1 << count)) }
    }

    /// Whether nothing is known, or some number is among both.
    pub fn meets(self, other: Self) -> bool {
        self.0 == 0 || other.0 == 0 || self.0 & other.0 != 0
    }

    /// Whether all are known and none is above `most`.
    pub fn are_at_most(self, most: usize) -> bool {
        self.0 != 0 && u32::from(self.0) >> (most + 1).min(8) == 0
    }

    /// Each number by itself; once nothing where nothing is known.
    pub fn each(self) -> impl Iterator<Item = Self> {
        let known = (0..8).map(move |bit| Self(self.0 & 1 << bit)).filter(|one| one.0 != 0);
        known.chain((self.0 == 0).then_some(self))
    }
}

/// Stands for a type that is not spelled or of no interest.
pub const NO_TYPE: u32 = u32::MAX;

/// The type of a value as far as it is spelled.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct ValueType {
    /// Node of the type's last name in [`FileFacts::uses`], or [`NO_TYPE`]: a function has none.
    pub outer: u32,
    /// Node of the last name among its type arguments, or [`NO_TYPE`].
    pub argument: u32,
    /// Its first type arguments: index into [`FileFacts::value_types`], or [`NO_TYPE`]. Not all languages keep them.
    /// For a function those of its first parameters, and as the last one that of what it gives.
    pub arguments: [u32; MOST_ARGUMENTS],
}

/// Further type arguments than these are not kept one by one.
pub const MOST_ARGUMENTS: usize = 4;

/// In place of the last name of a function: its first type argument is the type that it extends.
pub const HAS_RECEIVER: u32 = NO_TYPE - 2;

/// The type that declares the member itself.
pub const OWN_TYPE: u32 = NO_TYPE - 4;

/// The type of what a function is given first, or is called on: `fun <T> same(thing: T): T`.
pub const FIRST_GIVEN: u32 = NO_TYPE - 5;

/// The first of the numbers for [`with_first_given`].
const WITH_FIRST_GIVEN: u32 = NO_TYPE - 6;

/// The type that what a function is given first has as its type argument `number`, from zero and below
/// [`MOST_ARGUMENTS`]: `fun <T> find(key: Key<T>): T`.
pub fn with_first_given(number: usize) -> u32 {
    WITH_FIRST_GIVEN - number.min(MOST_ARGUMENTS - 1) as u32
}

/// The number of the type argument for which `value_type` stands by [`with_first_given`].
pub fn number_with_first(value_type: u32) -> Option<usize> {
    let number = WITH_FIRST_GIVEN.checked_sub(value_type)? as usize;
    (number < MOST_ARGUMENTS).then_some(number)
}

/// In place of the last name: what stands for its first type argument itself, `Bed.class`.
pub const CLASS_OF: u32 = WITH_FIRST_GIVEN - MOST_ARGUMENTS as u32;

/// As the first of the type arguments: no other file asks for the type.
const INNER: u32 = NO_TYPE - 3;

impl ValueType {
    /// One of whose type arguments only the last is kept.
    pub fn new(outer: Option<u32>, argument: Option<u32>) -> Self {
        Self {
            outer: outer.unwrap_or(NO_TYPE),
            argument: argument.unwrap_or(NO_TYPE),
            arguments: [NO_TYPE; MOST_ARGUMENTS],
        }
    }

    /// That of the expression `node`, which only other expressions of the file depend on.
    pub fn of_expression(node: u32) -> Self {
        let mut found = Self::new(Some(node), None);
        found.arguments[0] = INNER;
        found
    }

    /// Whether it is one of [`ValueType::of_expression`].
    pub fn is_inner(&self) -> bool {
        self.arguments[0] == INNER
    }

    /// Whether nothing is known of it.
    pub fn is_unknown(&self) -> bool {
        self.outer == NO_TYPE && self.argument == NO_TYPE && self.arguments == [NO_TYPE; MOST_ARGUMENTS]
    }
}
