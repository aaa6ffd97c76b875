//! What needs no name where a function is called, such as what the function around extends: a member of that comes before
//! functions outside of types, and of those that extend a type the one that extends it is meant.

use super::follower::Follower;
use super::references::{FileReferences, Reference};
use super::{DeclaringFiles, EntityId, World};
use ferngate_model::{FileFacts, Name, Root, Use};
use rustc_hash::FxHashMap;

/// By the first place and the name of each use that has nothing before it and may mean a function or value outside of
/// types: what is known of it.
pub(super) type Unowned = FxHashMap<(u32, Name), Told>;

/// What is known of a name with nothing before it.
#[derive(Clone, Debug)]
pub(super) struct Told {
    /// How often it is used so.
    count: u32,
    /// The function or value outside of types.
    entity: EntityId,
    /// It is a member of what needs no name.
    owned: bool,
    /// The files with those that extend what needs no name.
    extending: DeclaringFiles,
}

/// The names of `facts` with nothing before them that were `found` to mean a function or value outside of types.
pub(super) fn unowned(world: &World, facts: &FileFacts, found: &FileReferences) -> Unowned {
    let outside = found.references.iter().filter(|reference| world.table.gives_value(reference.entity));
    let used = outside.filter_map(|reference| Some((facts.uses.get(reference.used as usize)?, reference)));
    let unowned = used.filter(|(used, _)| matches!(used.parent.get(), Ok(Root::Scope(_))));
    unowned
        .map(|(used, reference)| {
            let (count, entity, extending) = (used.count, reference.entity, DeclaringFiles::new());
            ((used.first, used.name), Told { count, entity, owned: false, extending })
        })
        .collect()
}

impl Follower<'_> {
    /// What stands where `used` does without a name before it, if all such uses of the name are this one.
    fn told(&mut self, used: &Use) -> Option<&mut Told> {
        // What is used less often here is not there at each of them.
        let told = self.unowned.get_mut(&(used.first, used.name))?;
        (used.count >= told.count && !matches!(used.parent.get(), Ok(Root::Scope(_)))).then_some(told)
    }

    /// Notes that `used` is a member of a value of the type `owner`, or of what that inherits.
    pub(super) fn owns(&mut self, used: &Use, owner: EntityId) {
        if !self.unowned.is_empty()
            && self.told(used).is_some_and(|told| !told.owned)
            && self.world.fitting(self.file, owner, used).1
            && let Some(told) = self.told(used)
        {
            told.owned = true;
        }
    }

    /// Notes that `used` is a method or value of `owner` in `file` that extends what it is used of.
    pub(super) fn extends(&mut self, used: &Use, owner: EntityId, file: u32) {
        if let Some(told) = self.told(used).filter(|told| told.entity == owner) {
            told.extending.push(file);
        }
    }

    /// The files that `reference` leads to, a name with nothing before it, where what needs no name tells that: none where
    /// it is a member of that.
    pub(super) fn of_receiver(&self, reference: &Reference) -> Option<DeclaringFiles> {
        let used = self.facts.uses.get(reference.used as usize)?;
        let told =
            self.unowned.get(&(used.first, used.name)).filter(|told| told.entity == reference.entity)?;
        if told.owned {
            return Some(DeclaringFiles::new());
        }
        let mut files = told.extending.clone();
        files.sort_unstable();
        files.dedup();
        (!files.is_empty()).then_some(files)
    }
}
