//! What the code of a project may use, by what projects declare.

use ferngate_model::ProjectFacts;
use std::collections::BTreeSet;

/// What each manifest declares to use, and whether its references reach on to what those declare.
pub struct Dependencies<'d> {
    declared: &'d [Vec<u32>],
    transitive: Vec<bool>,
}

impl<'d> Dependencies<'d> {
    /// Of the manifests of `project`, of which each declares what `declared` holds for it.
    pub fn new(project: &ProjectFacts, declared: &'d [Vec<u32>]) -> Self {
        Self { declared, transitive: project.manifests.iter().map(|manifest| manifest.transitive).collect() }
    }

    /// All that the code of `start` may use, itself included, sorted; `without` is a reference that does not count.
    pub fn usable(&self, start: u32, without: Option<(u32, u32)>) -> Vec<u32> {
        let mut seen = vec![start];
        let mut at = 0;
        while let Some(&manifest) = seen.get(at) {
            at += 1;
            let reaches_on = self.transitive[start as usize] && self.transitive[manifest as usize];
            if manifest != start && !reaches_on {
                continue;
            }
            for &next in &self.declared[manifest as usize] {
                if without != Some((manifest, next)) && !seen.contains(&next) {
                    seen.push(next);
                }
            }
        }
        seen.sort_unstable();
        seen
    }

    /// Those of `users` whose code, by `uses`, needs the reference: what it uses is in reach through that only.
    pub fn relying(
        &self,
        reference: (u32, u32),
        users: impl Iterator<Item = u32>,
        uses: &BTreeSet<(u32, u32)>,
    ) -> Vec<u32> {
        let relies = |user: &u32| {
            let (all, left) = (self.usable(*user, None), self.usable(*user, Some(reference)));
            let lost = |used: &u32| all.binary_search(used).is_ok() && left.binary_search(used).is_err();
            uses.range((*user, 0)..=(*user, u32::MAX)).any(|(_, used)| lost(used))
        };
        users.filter(relies).collect()
    }
}
