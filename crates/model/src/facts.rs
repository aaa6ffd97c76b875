use crate::{Accessor, Member, Name, NameTexts, Span, Use, ValueType};
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
    /// Halves of properties that fewer may see than the property.
    pub accessors: Vec<Accessor>,
    /// Methods of types that may be spread over files, by what tells each from others of its name: index into `members`,
    /// and the text of its parameters as a name. Not all languages keep them.
    pub parameter_texts: Vec<(u32, Name)>,
    /// Functions and constants that a block gives to the type that it names: name, and the use node of the type.
    pub associated: Vec<(Name, u32)>,
    /// Calls, as nodes of what is called, with the value of the first argument as far as it is followed, sorted by call.
    pub first_arguments: Vec<(u32, crate::UseParent)>,
    /// Assemblies or packages that this file grants its internal names to.
    pub friends: Vec<Box<str>>,
    /// What this file states of all that is built with it, and which may be stated once only.
    pub stated_once: Vec<Box<str>>,
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

/// Who may see a declared name, as far as modules are concerned; the most open comes first.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Access {
    /// Everybody.
    Public,
    /// The same manifest's code and its friends.
    Internal,
    /// The same namespace's code.
    Namespace,
    /// Only the surrounding declaration or file.
    Private,
}

/// How a declaration stands to others of the same name.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Share {
    /// It says all that there is; another one is another type.
    Whole,
    /// It may continue in other files.
    Part,
    /// Every platform declares the name for itself, and code for all of them means this one.
    Expected,
    /// It is one platform's answer to an expected one.
    Actual,
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
    /// How it stands to others of its name.
    pub share: Share,
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
            share: Share::Whole,
            is_static: false,
            scope,
            body: u32::MAX,
            name_span,
            span,
            access_span: before_name,
        }
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
    /// It stands between lines that may leave it out of the program.
    pub conditional: bool,
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
        let (global, shown, conditional) = (false, false, false);
        Self { kind, global, scope, target, span, target_span, text, shown, conditional }
    }
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
    /// A call loads it that stands inside of a function or block.
    pub inner: bool,
    /// The names that are taken from it, with the name under which this file shows each to others: zero where it does
    /// not. A taken name of zero stands for everything.
    pub names: Vec<(Name, Name)>,
}

/// One use at one place.
#[derive(Clone, Copy, Debug)]
pub struct Occurrence {
    /// Index into [`FileFacts::uses`].
    pub used: u32,
    /// The identifier; empty where no letter spells the use, such as what a loop takes from a value.
    pub span: Span,
}

impl Occurrence {
    /// Whether letters spell it.
    pub fn is_spelled(&self) -> bool {
        self.span.end > self.span.start
    }
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
