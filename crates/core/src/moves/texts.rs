//! The texts of a project with planned changes on top.

use super::{Change, Ground, MoveError};
use ferngate_model::{Edit, ProjectPath, apply_edits};
use rayon::prelude::*;
use std::borrow::Cow;
use std::collections::BTreeMap;

/// Texts by path before the move. Edits are collected against the text as it is now and applied together.
pub struct Texts<'g> {
    ground: &'g Ground<'g>,
    /// Texts that differ from the disk, or were read.
    known: BTreeMap<ProjectPath, Vec<u8>>,
    /// Paths whose text differs from the disk.
    pub changed: BTreeMap<ProjectPath, bool>,
    pending: BTreeMap<ProjectPath, Vec<Edit>>,
    /// Old path by new path.
    old: BTreeMap<ProjectPath, ProjectPath>,
    /// Every change made so far.
    pub log: Vec<Change>,
}

impl<'g> Texts<'g> {
    /// Nothing changed yet.
    pub fn new(ground: &'g Ground<'g>) -> Self {
        Self {
            ground,
            known: BTreeMap::new(),
            changed: BTreeMap::new(),
            pending: BTreeMap::new(),
            old: BTreeMap::new(),
            log: Vec::new(),
        }
    }

    /// Notes that `old` will be called `new`; texts stay under the old path.
    pub fn rename(&mut self, old: &ProjectPath, new: &ProjectPath) {
        if old != new {
            self.old.insert(new.clone(), old.clone());
        }
    }

    /// The path before the move of what is at `path` after it.
    pub fn old_path(&self, path: &ProjectPath) -> ProjectPath {
        self.old.get(path).unwrap_or(path).clone()
    }

    /// The text at `path` with all applied changes.
    pub fn get(&mut self, path: &ProjectPath) -> Result<&[u8], MoveError> {
        if !self.known.contains_key(path) {
            let text = (self.ground.read)(path).ok_or_else(|| MoveError::Unreadable(path.clone()))?;
            self.known.insert(path.clone(), text);
        }
        Ok(&self.known[path])
    }

    /// Reads the texts at `paths` that were not read before, several at once.
    pub fn load(&mut self, paths: &[ProjectPath]) -> Result<(), MoveError> {
        let unread = paths.par_iter().filter(|path| !self.known.contains_key(path));
        let read = self.ground.read;
        let text = |path: &ProjectPath| {
            let text = read(path).ok_or_else(|| MoveError::Unreadable(path.clone()))?;
            Ok((path.clone(), text))
        };
        let texts: Result<Vec<_>, MoveError> = unread.map(text).collect();
        self.known.extend(texts?);
        Ok(())
    }

    /// The text that is planned for the file at `path` after the move, where it differs from the disk.
    pub fn planned(&self, path: &ProjectPath) -> Option<&[u8]> {
        let old = self.old.get(path).unwrap_or(path);
        self.changed.get(old).and_then(|_| self.known.get(old)).map(Vec::as_slice)
    }

    /// The texts as they are, for many readers at once; nothing that they read is kept.
    pub fn view(&self) -> TextsView<'_> {
        TextsView { known: &self.known, read: self.ground.read }
    }

    /// Sets the whole text of a file that the move makes.
    pub fn create(&mut self, path: &ProjectPath, text: Vec<u8>) {
        self.known.insert(path.clone(), text);
        self.changed.insert(path.clone(), true);
    }

    /// Collects an edit against the text as it is, and notes it as a change.
    pub fn edit(&mut self, path: &ProjectPath, edit: Edit, detail: impl Into<String>) {
        let what = edit.what;
        if self.edit_too(path, edit) {
            self.log.push(Change { path: path.clone(), what, detail: detail.into() });
        }
    }

    /// Collects an edit that belongs to a change noted before; says whether it is new.
    pub fn edit_too(&mut self, path: &ProjectPath, edit: Edit) -> bool {
        let edits = self.pending.entry(path.clone()).or_default();
        let is_new = edit.span.is_empty() || !edits.contains(&edit);
        if is_new {
            edits.push(edit);
        }
        is_new
    }

    /// Whether something is to be inserted into the file.
    pub fn inserts_into(&self, path: &ProjectPath) -> bool {
        self.pending.get(path).is_some_and(|edits| edits.iter().any(|edit| edit.span.is_empty()))
    }

    /// Applies all collected edits and returns the paths that they changed.
    pub fn apply(&mut self) -> Result<Vec<ProjectPath>, MoveError> {
        self.apply_where(|_| true)
    }

    /// The same for the paths that are `meant`.
    pub fn apply_where(
        &mut self,
        meant: impl Fn(&ProjectPath) -> bool,
    ) -> Result<Vec<ProjectPath>, MoveError> {
        let mut touched = Vec::new();
        let (now, later) = std::mem::take(&mut self.pending).into_iter().partition(|(path, _)| meant(path));
        self.pending = later;
        let now: BTreeMap<ProjectPath, Vec<Edit>> = now;
        for (path, edits) in now {
            let old = self.get(&path)?;
            let new = apply_edits(old, &edits);
            if new != old {
                self.known.insert(path.clone(), new);
                self.changed.entry(path.clone()).or_insert(false);
                touched.push(path);
            }
        }
        Ok(touched)
    }
}

/// The texts of a project with planned changes on top, as they are at one moment.
#[derive(Clone, Copy)]
pub struct TextsView<'t> {
    known: &'t BTreeMap<ProjectPath, Vec<u8>>,
    read: &'t (dyn Fn(&ProjectPath) -> Option<Vec<u8>> + Sync),
}

impl<'t> TextsView<'t> {
    /// The text at `path`, if it can be read.
    pub fn get(&self, path: &ProjectPath) -> Option<Cow<'t, [u8]>> {
        match self.known.get(path) {
            Some(text) => Some(Cow::Borrowed(text)),
            None => (self.read)(path).map(Cow::Owned),
        }
    }
}
