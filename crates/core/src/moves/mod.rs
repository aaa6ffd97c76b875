//! Moves: code goes to another place, and everything that names it follows.
//!
//! A plan is data: new paths and new bytes. It is made in four steps. *Where*: the request becomes a mapping of files
//! ([`request`], with single types taken out by [`extract`]). *What it is called*: namespaces follow folders
//! ([`namespaces`]), manifests follow files ([`manifests`]). *Who named it*: all names are resolved in the world
//! before and in the world after; what means something else now is spelled anew ([`names`]). *Proof*: the planned
//! texts are read again, and every file must refer to the same things as before ([`verify`]).

mod builds;
mod clashes;
mod comments;
mod companions;
mod conditions;
mod declared;
mod extract;
mod following;
mod friends;
mod imports;
mod judge;
mod manifests;
mod markup;
mod mentions;
mod names;
mod namespaces;
mod outside;
mod past;
mod plan;
mod request;
mod shared;
mod symbols;
mod texts;
mod verify;
mod widen;

pub use judge::{Judge, PlannedPaths};
pub use mentions::Mention;
pub use plan::plan_moves;
pub use request::{Request, Source};

use crate::map::AssignError;
use ferngate_model::{Language, ManifestFacts, ProjectFacts, ProjectPath};
use std::collections::BTreeMap;

/// What a planner needs from outside: it does no input itself.
pub struct Ground<'g> {
    /// The languages by the index that files carry.
    pub languages: &'g [&'g dyn Language],
    /// The bytes of a file.
    pub read: &'g (dyn Fn(&ProjectPath) -> Option<Vec<u8>> + Sync),
    /// What a manifest's bytes say.
    pub read_manifest: &'g dyn Fn(&ProjectPath, &[u8]) -> Option<ManifestFacts>,
    /// Whether a folder is there.
    pub is_folder: &'g dyn Fn(&str) -> bool,
    /// Whether anything is there.
    pub exists: &'g dyn Fn(&ProjectPath) -> bool,
}

/// What a mover may do besides.
#[derive(Clone, Copy, Debug, Default)]
pub struct MoveOptions {
    /// Make public what is now used across a border.
    pub widen: bool,
    /// Rewrite mentions that are not certain, too.
    pub mentions: bool,
}

/// A request that cannot be planned at all.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum MoveError {
    /// There is nothing of that path or name.
    #[error("there is nothing at {0} that could be moved")]
    NoSource(String),
    /// No declared type has the name.
    #[error("no type is declared with the full name {0}")]
    NoName(String),
    /// A nested type cannot be moved alone.
    #[error("{0} stands inside another type; move the type around it")]
    Nested(String),
    /// Conditional code begins inside of a type and ends outside of it.
    #[error("a condition begins inside of {0} and ends outside of it; part the code by hand first")]
    Torn(String),
    /// Code of this language is read but cannot be moved.
    #[error("{0} is {1}, of which no move is known yet: what names it would not follow")]
    Language(ProjectPath, &'static str),
    /// Something is in the way.
    #[error("{0} exists already")]
    TargetExists(ProjectPath),
    /// A target outside the project.
    #[error("{0} is not a path inside the project")]
    Outside(String),
    /// Nothing would change.
    #[error("{0} is already there")]
    SamePlace(String),
    /// A folder cannot be moved into itself.
    #[error("{0} cannot be moved into itself")]
    IntoItself(String),
    /// A file that takes part could not be read.
    #[error("{0} could not be read")]
    Unreadable(ProjectPath),
    /// Two sources would end at one path.
    #[error("two files would become {0}")]
    Collision(ProjectPath),
    /// The map cannot be laid on the project as it is.
    #[error(transparent)]
    Map(AssignError),
}

/// One change of one file, for the preview.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Change {
    /// The file, by its path before the move (its new path where it is made by the move).
    pub path: ProjectPath,
    /// What sort of change: "using added".
    pub what: &'static str,
    /// What it is about: the namespace, the name, the path.
    pub detail: String,
}

/// A planned move.
#[derive(Clone, Debug, Default)]
pub struct MovePlan {
    /// Files that go elsewhere: old and new path.
    pub renames: Vec<(ProjectPath, ProjectPath)>,
    /// Folders that go elsewhere as a whole: old and new path.
    pub folders: Vec<(ProjectPath, ProjectPath)>,
    /// New bytes by path after the move; files that only change their place are not listed.
    pub contents: BTreeMap<ProjectPath, Vec<u8>>,
    /// Paths in `contents` that do not exist yet.
    pub created: Vec<ProjectPath>,
    /// Files that are left empty of declarations and go.
    pub removed: Vec<ProjectPath>,
    /// Types that get another full name: old and new.
    pub renamed_types: Vec<(String, String)>,
    /// Every change, in the order of paths.
    pub changes: Vec<Change>,
    /// Names that must become more visible, each with its file.
    pub widened: Vec<(String, ProjectPath)>,
    /// Places that mention an old name and are left alone.
    pub mentions: Vec<Mention>,
    /// What the user should know.
    pub warnings: Vec<String>,
    /// Why the move must not be made; empty where it may.
    pub refusals: Vec<String>,
    /// How many references were proved to mean the same as before.
    pub proved: u64,
    /// What `check` would find then and does not find now: the sort and the message.
    pub opened: Vec<String>,
    /// What `check` finds now and would not find then.
    pub closed: Vec<String>,
    /// The project as it will be.
    pub after: ProjectFacts,
}

impl MovePlan {
    /// How many changes there are of each sort, the most frequent first.
    pub fn counts(&self) -> Vec<(&'static str, usize, usize)> {
        let mut counts: BTreeMap<&'static str, (usize, Vec<&ProjectPath>)> = BTreeMap::new();
        for change in &self.changes {
            let entry = counts.entry(change.what).or_default();
            entry.0 += 1;
            if !entry.1.contains(&&change.path) {
                entry.1.push(&change.path);
            }
        }
        let mut rows: Vec<_> =
            counts.into_iter().map(|(what, (count, files))| (what, count, files.len())).collect();
        rows.sort_by_key(|row| (std::cmp::Reverse(row.1), row.0));
        rows
    }
}
