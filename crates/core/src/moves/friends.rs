//! Who may use what is internal: the code of the same project, and of those to which it grants that.

use crate::resolve::Ownership;
use ferngate_model::{FileFacts, ProjectFacts};
use rustc_hash::FxHashMap;

/// For each manifest, those to which it grants its internal names, by itself or in a file of its own.
pub(super) struct Friends {
    granted: Vec<Vec<u32>>,
}

impl Friends {
    /// Gathers what is granted; the files are those of `ownership`, and `facts` tells what each of them says.
    pub(super) fn new<'p>(
        project: &'p ProjectFacts,
        ownership: &Ownership,
        facts: impl Fn(usize) -> Option<&'p FileFacts>,
    ) -> Self {
        let mut by_name: FxHashMap<&str, Vec<u32>> = FxHashMap::default();
        for (at, manifest) in project.manifests.iter().enumerate() {
            by_name.entry(manifest.name.as_str()).or_default().push(at as u32);
        }
        let named = |friend: &str| by_name.get(friend).into_iter().flatten().copied();
        let stated = project.manifests.iter().map(|manifest| &manifest.friends);
        let mut granted: Vec<Vec<u32>> =
            stated.map(|friends| friends.iter().flat_map(|friend| named(friend)).collect()).collect();
        for (file, owners) in ownership.owners.iter().enumerate() {
            for friend in facts(file).into_iter().flat_map(|facts| &facts.friends) {
                owners.iter().for_each(|&owner| granted[owner as usize].extend(named(friend)));
            }
        }
        Self { granted }
    }

    /// Whether what is internal in `declaring` can be used in `file`.
    pub(super) fn shares(&self, ownership: &Ownership, file: usize, declaring: usize) -> bool {
        let is_granted = |owner: &u32| {
            let friends = &self.granted[*owner as usize];
            ownership.owners[file].iter().any(|user| friends.contains(user))
        };
        ownership.together(file, declaring) || ownership.owners[declaring].iter().any(is_granted)
    }
}
