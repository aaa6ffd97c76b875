//! The words that every part of Fern Gate shares: where things are ([`ProjectPath`], [`Span`], [`LineIndex`]),
//! what one file says ([`FileFacts`], [`ManifestFacts`]), how a reader is plugged in ([`Language`],
//! [`ManifestReader`]) and what a move writes ([`Edit`]). No input or output happens here.
//!
//! ```
//! use ferngate_model::{Name, ProjectPath};
//! assert_eq!(ProjectPath::new("src/Visits/Ticket.cs").parent(), "src/Visits");
//! assert_eq!(Name::new(b"Ticket"), Name::new("Ticket".as_bytes()));
//! ```

mod blanks;
mod edit;
mod facts;
mod lanes;
mod language;
mod lines;
mod link;
mod manifest;
mod members;
mod name;
mod path;
mod project;
mod recorder;
mod span;
mod uses;

pub use blanks::{plain_blanks, with_plain_blanks};
pub use edit::{Edit, apply_edits};
pub use facts::{
    Access, CONSTANT, Declaration, DeclarationKind, FUNCTION, FileFacts, Import, ImportKind, MACRO,
    NAMESPACE, NamespacePath, Occurrence, PAGE_NAMESPACE, PathBase, PathUse, Problem, Scope, ScopeKind,
    Share,
};
pub use lanes::Lanes;
pub use language::{
    ALL_GIVEN, ALL_KEYS, ConditionLine, FolderNaming, ImportSpelling, Language, Naming, OwnMethods,
    ReadOptions,
};
pub use lines::{LineIndex, Position};
pub use link::{Link, LinkSource, Linker, Links, MakeLinker, PackageUse};
pub use manifest::{
    INHERITED, INHERITED_AT, ItemAction, ItemSlot, ManifestFacts, ManifestReader, NameMention,
    OutsideReference, PLACE, PathMention, ProjectReference,
};
pub use members::{
    ANY_ARITY, Accessor, ArgumentCounts, BUILT_IN, CLASS_OF, FIRST_GIVEN, HAS_RECEIVER, MOST_ARGUMENTS,
    Member, MemberKind, NO_TYPE, OWN_TYPE, ParameterTypes, ValueType, number_with_first, with_first_given,
};
pub use name::{Name, NameTexts};
pub use path::{ProjectPath, shared_folders};
pub use project::{ProjectFacts, SourceFile};
pub use recorder::{ChainLink, Recorder};
pub use span::Span;
pub use uses::{Context, Root, Use, UseParent};
