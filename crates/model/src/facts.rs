use crate::{Name, NameTexts, Span};
use std::sync::Arc;

/// What one file says: names it declares, what it imports, names it uses.
///
/// Indices between the lists are `u32`; list 0 of `scopes` is always the file itself.
#[derive(Clone, Debug, Default)]
pub struct FileFacts {
    /// Line ends, plus one for a last line without an end.
    pub lines: u32,
    /// Nested places in which names are looked up; 0 is the file.
    pub scopes: Vec<Scope>,
    /// Declared types, in the order of the text.
    pub declarations: Vec<Declaration>,
    /// Named parts of types that a use could mean instead of a type, and extension methods.
    pub members: Vec<Member>,
    /// What is brought into scope.
    pub imports: Vec<Import>,
    /// Distinct names used, as a tree: a parent stands before its children.
    pub uses: Vec<Use>,
    /// Other files named by their path.
    pub paths: Vec<PathUse>,
    /// What the file tells what finds files for its language: name and value, as the language's linker says.
    pub settings: Vec<(Box<str>, Box<str>)>,
    /// Use nodes named as bases, by declaration.
    pub bases: Vec<(u32, u32)>,
    /// Bases that are given types, by declaration: index into `value_types`.
    pub base_types: Vec<(u32, u32)>,
    /// Distinct types of values, as they are spelled.
    pub value_types: Vec<ValueType>,
    /// Types of the parameters of methods, those of one method side by side: index into `value_types`, or [`NO_TYPE`].
    pub parameter_types: Vec<u32>,
    /// Types named in the heads of members that are not private: index into `members`, use node.
    pub signatures: Vec<(u32, u32)>,
    /// Assemblies or packages that this file grants its internal names to.
    pub friends: Vec<Box<str>>,
    /// Texts of the declared names.
    pub texts: NameTexts,
    /// The file's namespace follows from its folder (a page, a component).
    pub implicit_namespace: bool,
    /// Every use with its place; filled only when asked for.
    pub occurrences: Vec<Occurrence>,
    /// What could not be read.
    pub problems: Vec<Problem>,
}

/// The setting of a page that names its namespace; that of a file of imports counts for all pages below its folder.
pub const PAGE_NAMESPACE: &str = "namespace";

/// A dotted namespace as its parts.
pub type NamespacePath = Vec<Name>;

/// A place in which names are looked up.
#[derive(Clone, Debug)]
pub struct Scope {
    /// The scope around it; its own index for the file.
    pub parent: u32,
    /// What it is.
    pub kind: ScopeKind,
    /// From its first word to the byte after its last.
    pub span: Span,
}

/// What a [`Scope`] is.
#[derive(Clone, Debug, PartialEq)]
pub enum ScopeKind {
    /// The whole file.
    File,
    /// A namespace: its parts below the scope around it.
    Namespace {
        /// The parts as written here.
        path: NamespacePath,
        /// The written name.
        name: Span,
        /// It has no braces and runs to the end of the file.
        to_end: bool,
    },
    /// A block with imports or declarations of its own; what is around it can be seen.
    Block,
    /// The inside of a declared type.
    Type {
        /// Index into [`FileFacts::declarations`].
        declaration: u32,
    },
    /// Names here see nothing but this scope's own imports (a prefix of a markup file).
    Isolated,
}

/// The sort of a declared type.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum DeclarationKind {
    /// A class, with `record` and what markup declares.
    Class,
    /// A struct.
    Struct,
    /// An interface.
    Interface,
    /// An enumeration.
    Enum,
    /// A delegate.
    Delegate,
    /// The class that holds, for users in another language, what a file declares outside of classes; with a name of
    /// zero it is called as the file is, with `Kt` behind.
    Facade,
    /// A class without a name, which no other file can use.
    Anonymous,
    /// A function outside of types; [`FUNCTION`] stands for its number of type parameters.
    Function,
    /// A module with a name of its own.
    Module,
    /// A constant, variable or property outside of types; [`CONSTANT`] stands for its number of type parameters.
    Constant,
}

/// Functions outside of types are entered with this as their number of type parameters, and used names that are
/// called with it too, because they live in a space of names of their own.
pub const FUNCTION: u8 = 255;

/// The same for constants and properties outside of types.
pub const CONSTANT: u8 = 254;

/// The same for parts of a name that can only be namespaces, in languages where the name shows it.
pub const NAMESPACE: u8 = 253;

/// The same for macros.
pub const MACRO: u8 = 252;

/// Who may see a declared name, as far as modules are concerned.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Access {
    /// Everybody.
    Public,
    /// The same manifest's code and its friends.
    Internal,
    /// Only the surrounding declaration or file.
    Private,
}

/// A declared type.
#[derive(Clone, Debug)]
pub struct Declaration {
    /// Its simple name.
    pub name: Name,
    /// Number of type parameters.
    pub arity: u8,
    /// Its sort.
    pub kind: DeclarationKind,
    /// Who may see it.
    pub access: Access,
    /// It may continue in other files.
    pub partial: bool,
    /// It is static (in the sense of holding no instances).
    pub is_static: bool,
    /// The scope in which it stands.
    pub scope: u32,
    /// The scope that it opens; `u32::MAX` where it has none.
    pub body: u32,
    /// The simple name.
    pub name_span: Span,
    /// From its first attribute or modifier to its last byte.
    pub span: Span,
    /// The word that states its access, or an empty span where a modifier would stand.
    pub access_span: Span,
}

impl Declaration {
    /// A public declaration without a body whose name stands in `name_span`, inside `span`.
    pub fn public(
        name: Name,
        kind: DeclarationKind,
        arity: u8,
        scope: u32,
        name_span: Span,
        span: Span,
    ) -> Self {
        let before_name = Span::new(name_span.start as usize, name_span.start as usize);
        Self {
            name,
            arity,
            kind,
            access: Access::Public,
            partial: false,
            is_static: false,
            scope,
            body: u32::MAX,
            name_span,
            span,
            access_span: before_name,
        }
    }
}

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

/// Stands for a number of type parameters that is not known.
pub const ANY_ARITY: u8 = 255;

/// The type of a parameter that the language has a word for.
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

    /// These and those of `other`.
    pub fn with(self, other: Self) -> Self {
        Self(self.0 | other.0)
    }

    /// These, and each less by one: of a method that can be called on its first argument.
    pub fn or_one_less(self) -> Self {
        Self(self.0 | self.0 >> 1)
    }

    /// Whether nothing is known, or some number is among both.
    pub fn meets(self, other: Self) -> bool {
        self.0 == 0 || other.0 == 0 || self.0 & other.0 != 0
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
    /// Node of the type's last name in [`FileFacts::uses`], or [`NO_TYPE`].
    pub outer: u32,
    /// Node of the last name among its type arguments, or [`NO_TYPE`].
    pub argument: u32,
    /// Its first type arguments: index into [`FileFacts::value_types`], or [`NO_TYPE`]. Not all languages keep them.
    pub arguments: [u32; MOST_ARGUMENTS],
}

/// Further type arguments than these are not kept one by one.
pub const MOST_ARGUMENTS: usize = 3;

/// As the last of the type arguments of a function: the first of them is the type that it extends.
pub const HAS_RECEIVER: u32 = NO_TYPE - 2;

impl ValueType {
    /// One of whose type arguments only the last is kept.
    pub fn new(outer: Option<u32>, argument: Option<u32>) -> Self {
        Self {
            outer: outer.unwrap_or(NO_TYPE),
            argument: argument.unwrap_or(NO_TYPE),
            arguments: [NO_TYPE; MOST_ARGUMENTS],
        }
    }

    /// Whether nothing is known of it.
    pub fn is_unknown(&self) -> bool {
        self.outer == NO_TYPE && self.argument == NO_TYPE
    }
}

/// What an [`Import`] brings.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ImportKind {
    /// All types of a namespace.
    Namespace,
    /// The static members and nested types of a type.
    Static,
    /// One name, under its own or another.
    Alias(Name),
    /// A single static member or nested type of a type, by its own name.
    Member(Name),
}

/// A directive that brings names into scope.
#[derive(Clone, Debug)]
pub struct Import {
    /// What it brings.
    pub kind: ImportKind,
    /// Whether it counts for every file of the same manifest.
    pub global: bool,
    /// The scope whose text holds it.
    pub scope: u32,
    /// The use node of the last part of its target.
    pub target: u32,
    /// The whole directive, without its line end.
    pub span: Span,
    /// The target as written.
    pub target_span: Span,
    /// The text under `target_span`.
    pub text: Arc<str>,
    /// Others may use the name that it brings as if it were declared here.
    pub shown: bool,
}

impl Import {
    /// An import that counts for its own file only: `target` is the use node of its target, which stands in
    /// `target_span` as `text`, inside `span`.
    pub fn of_file(
        kind: ImportKind,
        scope: u32,
        target: u32,
        span: Span,
        target_span: Span,
        text: Arc<str>,
    ) -> Self {
        Self { kind, global: false, scope, target, span, target_span, text, shown: false }
    }
}

/// How a name is used, which decides what it may mean.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[repr(u8)]
pub enum Context {
    /// Only a type can stand here.
    Type = 0,
    /// A value or a type can stand here.
    Value = 1,
    /// An attribute, whose suffix may be left out.
    Attribute = 2,
    /// The target of an import.
    Import = 3,
    /// A mention in a comment or string that tools understand; no dependency by itself.
    Weak = 4,
}

/// Where a chain of names begins.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Root {
    /// In this scope.
    Scope(u32),
    /// At the outermost namespace, whatever the scope (`global::`).
    Global,
    /// After a dot, on a value of unknown type.
    Member,
    /// After a dot, on a value of this type: index into [`FileFacts::value_types`].
    Value(u32),
    /// A member of the types around this scope, or of what they inherit.
    This(u32),
}

/// The parent of a [`Use`]: another use or a [`Root`], in four bytes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct UseParent(u32);

impl UseParent {
    const SCOPE: u32 = 0x8000_0000;
    const VALUE: u32 = 0x4000_0000;
    const THIS: u32 = Self::SCOPE | Self::VALUE;
    const INDEX: u32 = 0x3FFF_FFFF;
    const GLOBAL: u32 = 0xFFFF_FFFE;
    const MEMBER: u32 = 0xFFFF_FFFF;

    /// A chain that goes on from a value of unknown type.
    pub const MEMBER_OF_ANY: Self = Self(Self::MEMBER);

    /// A chain that begins at `root`.
    pub fn root(root: Root) -> Self {
        match root {
            Root::Scope(scope) => Self(Self::SCOPE | (scope & Self::INDEX)),
            Root::This(scope) => Self(Self::THIS | (scope & Self::INDEX)),
            Root::Value(value_type) => Self(Self::VALUE | (value_type & Self::INDEX)),
            Root::Global => Self(Self::GLOBAL),
            Root::Member => Self(Self::MEMBER),
        }
    }

    /// A chain that goes on from the use with this index.
    pub fn node(index: u32) -> Self {
        Self(index)
    }

    /// The root, or the index of the parent use.
    pub fn get(self) -> Result<Root, u32> {
        match self.0 {
            Self::MEMBER => Ok(Root::Member),
            Self::GLOBAL => Ok(Root::Global),
            packed => match packed & Self::THIS {
                Self::THIS => Ok(Root::This(packed & Self::INDEX)),
                Self::SCOPE => Ok(Root::Scope(packed & Self::INDEX)),
                Self::VALUE => Ok(Root::Value(packed & Self::INDEX)),
                _ => Err(packed),
            },
        }
    }

    /// The packed form, for hashing.
    pub fn raw(self) -> u32 {
        self.0
    }
}

/// A distinct name used in one place of the tree of uses.
#[derive(Clone, Copy, Debug)]
pub struct Use {
    /// The name before the dot, or where the chain begins.
    pub parent: UseParent,
    /// First byte of the first such use.
    pub first: u32,
    /// The name.
    pub name: Name,
    /// How often.
    pub count: u32,
    /// Number of type arguments given.
    pub arity: u8,
    /// How it is used.
    pub context: Context,
    /// At least once it is called.
    pub called: bool,
    /// With how many arguments, where the reader counts them.
    pub arguments: ArgumentCounts,
}

/// Where a path that code names begins.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum PathBase {
    /// At the folder of the file that names it.
    Folder,
    /// At that folder, or at the project's root, or at a manifest's folder: whichever holds the file.
    Anywhere,
    /// Nowhere: it is a name that the language looks up in ways of its own.
    Name,
}

/// Another file, named by its path.
#[derive(Clone, Debug)]
pub struct PathUse {
    /// The path as written, without quotes.
    pub span: Span,
    /// The path with slashes.
    pub path: Box<str>,
    /// Where it begins.
    pub base: PathBase,
    /// It is no dependency by itself.
    pub weak: bool,
    /// The names that are taken from it, with the name under which this file shows each to others: zero where it does
    /// not. A taken name of zero stands for everything.
    pub names: Vec<(Name, Name)>,
}

/// One use at one place.
#[derive(Clone, Copy, Debug)]
pub struct Occurrence {
    /// Index into [`FileFacts::uses`].
    pub used: u32,
    /// The identifier.
    pub span: Span,
}

/// Something that could not be read; never stops a run.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Problem {
    /// Where, in bytes.
    pub span: Span,
    /// One sentence without a full stop.
    pub text: String,
}

impl FileFacts {
    /// The last name of a member's declared type; zero where it is not known.
    pub fn type_name(&self, member: &Member) -> Name {
        let outer = self.value_types.get(member.value_type as usize).map(|value_type| value_type.outer);
        outer.and_then(|node| self.uses.get(node as usize)).map_or(Name(0), |used| used.name)
    }

    /// The namespace around `scope`, outermost part first.
    pub fn namespace_of(&self, scope: u32) -> NamespacePath {
        let mut parts: Vec<&[Name]> = Vec::new();
        let mut at = scope;
        while let Some(scope) = self.scopes.get(at as usize) {
            if let ScopeKind::Namespace { path, .. } = &scope.kind {
                parts.push(path);
            }
            if scope.parent == at {
                break;
            }
            at = scope.parent;
        }
        parts.iter().rev().flat_map(|part| part.iter().copied()).collect()
    }

    /// The type declarations around `scope`, from the inside out.
    pub fn types_around(&self, scope: u32) -> impl Iterator<Item = u32> {
        let around = std::iter::successors(Some(scope), |at| {
            let parent = self.scopes.get(*at as usize)?.parent;
            (parent != *at).then_some(parent)
        });
        around.filter_map(|at| self.type_of(at))
    }

    /// The type declaration that directly holds `scope`'s text, if any.
    pub fn type_of(&self, scope: u32) -> Option<u32> {
        match self.scopes.get(scope as usize)?.kind {
            ScopeKind::Type { declaration } => Some(declaration),
            _ => None,
        }
    }
}
