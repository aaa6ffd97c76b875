//! Names that a move would give twice.

use super::MovePlan;
use super::past::Past;
use super::texts::Texts;
use crate::resolve::{Container, EntityId, NamespaceId, World};
use rustc_hash::FxHashMap;

/// Refuses a move after which something would be called as something else is. `entity` holds what each type of the past is
/// in `world`, which is as it will be.
pub(super) fn refuse(world: &World, past: &Past, entity: &[EntityId], texts: &Texts, plan: &mut MovePlan) {
    let clashes = Clashes { world, texts };
    plan.refusals.extend(clashes.of_types(entity));
    plan.refusals.extend(clashes.of_namespaces(past));
}

struct Clashes<'c> {
    world: &'c World<'c>,
    texts: &'c Texts<'c>,
}

impl Clashes<'_> {
    fn is_moved(&self, file: u32) -> bool {
        let path = &self.world.project.files[file as usize].path;
        self.texts.old_path(path) != *path
    }

    fn path(&self, file: u32) -> &str {
        self.world.project.files[file as usize].path.as_str()
    }

    /// Types that were two and would be one.
    fn of_types(&self, entity: &[EntityId]) -> Vec<String> {
        let mut many: FxHashMap<EntityId, usize> = FxHashMap::default();
        for now in entity {
            *many.entry(*now).or_default() += 1;
        }
        let mut merged: Vec<EntityId> =
            many.into_iter().filter(|(_, many)| *many > 1).map(|(now, _)| now).collect();
        merged.sort();
        merged.into_iter().filter_map(|now| self.of_type(now)).collect()
    }

    fn of_type(&self, now: EntityId) -> Option<String> {
        let declared = &self.world.table.entities[now.index()].declarations;
        let (came, stayed): (Vec<u32>, Vec<u32>) =
            declared.iter().map(|(file, _)| *file).partition(|file| self.is_moved(*file));
        let others = came.iter().chain(&stayed);
        let mut pairs = came.iter().flat_map(|file| others.clone().map(move |other| (*file, *other)));
        let together =
            |(a, b): &(u32, u32)| a != b && self.world.ownership.together(*a as usize, *b as usize);
        let (file, other) = pairs.find(together)?;
        let name = self.world.table.entity_text(now);
        Some(format!("two types would be called {name}: in {} and {}", self.path(file), self.path(other)))
    }

    /// Namespaces that are new and called as a type.
    fn of_namespaces(&self, past: &Past) -> Vec<String> {
        let table = &self.world.table;
        let mut refusals = Vec::new();
        for at in (0..table.namespaces.len()).filter(|&at| table.namespaces[at].holds_types) {
            let mut namespace = NamespaceId(at as u32);
            while !table.is_outermost(namespace) {
                let (text, parent) =
                    (table.namespace_text(namespace), table.namespaces[namespace.0 as usize].parent);
                if past.namespaces.binary_search(&text).is_ok() {
                    break;
                }
                let name = table.namespaces[namespace.0 as usize].name;
                let called_so = table.child_entity(Container::Namespace(parent), name, 0);
                let file = called_so.and_then(|entity| self.seen_beside(entity, NamespaceId(at as u32)));
                refusals.extend(file.map(|file| {
                    format!("the namespace {text} would be called as the type in {}", self.path(file))
                }));
                namespace = parent;
            }
        }
        refusals.sort();
        refusals.dedup();
        refusals
    }

    /// The file that declares `entity`, where code of `namespace` and it see each other.
    fn seen_beside(&self, entity: EntityId, namespace: NamespaceId) -> Option<u32> {
        let ownership = &self.world.ownership;
        let holds = |file: &u32| self.world.table.scope_namespaces[*file as usize].contains(&namespace);
        let holding: Vec<u32> = (0..self.world.project.files.len() as u32).filter(holds).collect();
        let meets = |file: &u32| {
            let file = *file as usize;
            holding.iter().any(|&other| {
                ownership.may_use(file, other as usize) || ownership.may_use(other as usize, file)
            })
        };
        let declared = &self.world.table.entities[entity.index()].declarations;
        declared.iter().map(|(file, _)| *file).find(meets)
    }
}
