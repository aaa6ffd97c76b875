//! What imports mean: those of one file, and those that count for all files of a manifest.

use super::{Container, EntityId, NamespaceId, World};
use ferngate_model::{Context, FileFacts, Import, ImportKind, ManifestFacts, Name, Root, Use};
use std::collections::BTreeMap;

/// What an import means.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ImportTarget {
    /// Nothing that the project declares.
    Outside,
    /// A namespace.
    Namespace(NamespaceId),
    /// A type.
    Entity(EntityId),
}

/// What each import of `file` means.
pub fn resolve_imports(world: &World, file: usize) -> Vec<ImportTarget> {
    let Some(facts) = world.table.named_facts(&world.project.files[file]) else { return Vec::new() };
    let mut targets = ImportTargets { world, file, uses: &facts.uses, known: Vec::new(), path: Vec::new() };
    facts.imports.iter().map(|import| targets.resolve(import)).collect()
}

/// Finds what the imports of one file mean.
struct ImportTargets<'w> {
    world: &'w World<'w>,
    file: usize,
    uses: &'w [Use],
    /// What the nodes mean that were looked up from the outermost namespace: imports share their first names.
    known: Vec<Option<Option<Container>>>,
    /// The nodes of the import being looked at, its last name first.
    path: Vec<u32>,
}

impl ImportTargets<'_> {
    fn resolve(&mut self, import: &Import) -> ImportTarget {
        self.path.clear();
        let mut at = import.target;
        let root = loop {
            let Some(used) = self.uses.get(at as usize) else { return ImportTarget::Outside };
            debug_assert_eq!(used.context, Context::Import);
            self.path.push(at);
            match used.parent.get() {
                Ok(root) => break root,
                Err(parent) => at = parent,
            }
        };
        let outermost = self.world.root_of_file(self.file);
        let mut from = match root {
            Root::Scope(scope) => self.world.table.scope_namespaces[self.file].get(scope as usize).copied(),
            _ => None,
        }
        .unwrap_or(outermost);
        while from != outermost {
            let namespace = Some(Container::Namespace(from));
            let found = self.path.iter().rev().fold(namespace, |around, node| self.inside(around, *node));
            if let Some(found) = found {
                return found.into();
            }
            from = self.world.table.namespaces[from.0 as usize].parent;
        }
        self.whole_path(outermost).map_or(ImportTarget::Outside, ImportTarget::from)
    }

    fn whole_path(&mut self, outermost: NamespaceId) -> Option<Container> {
        let highest = self.path.iter().copied().max()? as usize;
        if self.known.len() <= highest {
            self.known.resize(highest + 1, None);
        }
        let first_known = self.path.iter().position(|node| self.known[*node as usize].is_some());
        let (mut around, unknown) = match first_known {
            Some(at) => (self.known[self.path[at] as usize].flatten(), at),
            None => (Some(Container::Namespace(outermost)), self.path.len()),
        };
        for at in (0..unknown).rev() {
            let node = self.path[at];
            around = self.inside(around, node);
            self.known[node as usize] = Some(around);
        }
        around
    }

    /// What the name of `node` means inside `around`: a type rather than a namespace.
    fn inside(&self, around: Option<Container>, node: u32) -> Option<Container> {
        let (around, used) = (around?, self.uses.get(node as usize)?);
        let table = &self.world.table;
        let namespace = || match around {
            Container::Namespace(id) => table.child_namespace(id, used.name).map(Container::Namespace),
            Container::Entity(_) => None,
        };
        table.child_entity(around, used.name, used.arity).map(Container::Entity).or_else(namespace)
    }
}

impl From<Container> for ImportTarget {
    fn from(container: Container) -> Self {
        match container {
            Container::Namespace(id) => ImportTarget::Namespace(id),
            Container::Entity(id) => ImportTarget::Entity(id),
        }
    }
}

/// What every file of one manifest imports.
#[derive(Clone, Debug, Default)]
pub struct SharedImports {
    /// Namespaces.
    pub namespaces: Vec<NamespaceId>,
    /// Types whose static members and nested types are imported.
    pub types: Vec<EntityId>,
    /// Names under other names.
    pub aliases: Vec<(Name, ImportTarget)>,
}

/// For each manifest, what its settings and its files' global imports bring to all its files. Namespaces of which
/// `renamed` knows something are those that it says.
pub fn shared_imports(world: &World, renamed: &BTreeMap<String, Vec<NamespaceId>>) -> Vec<SharedImports> {
    let manifests = &world.project.manifests;
    let meant = |text: &String| match renamed.get(text) {
        Some(now) => now.clone(),
        None => world.table.namespace_named(text).into_iter().collect(),
    };
    let stated: Vec<Vec<NamespaceId>> = manifests
        .iter()
        .map(|manifest| manifest.imports.iter().flat_map(|(text, _)| meant(text)).collect())
        .collect();
    let mut shared: Vec<SharedImports> = vec![SharedImports::default(); manifests.len()];
    let bringing: Vec<(&ManifestFacts, &Vec<NamespaceId>)> = manifests
        .iter()
        .zip(&stated)
        .filter(|(manifest, brought)| manifest.kind == "settings" && !brought.is_empty())
        .collect();
    for ((at, manifest), own) in manifests.iter().enumerate().zip(&mut shared) {
        own.namespaces.extend(&stated[at]);
        // Settings above a manifest count for it too.
        for (settings, brought) in &bringing {
            let folder = settings.path.as_ref().map(|path| path.parent());
            let within =
                folder.is_some_and(|folder| manifest.path.as_ref().is_some_and(|p| p.is_within(folder)));
            if within && manifest.kind == "project" {
                own.namespaces.extend(brought.iter());
            }
        }
    }
    for (file, source) in world.project.files.iter().enumerate() {
        let Some(facts) = world.table.named_facts(source) else { continue };
        for (import, target) in
            facts.imports.iter().zip(&world.imports[file]).filter(|(import, _)| import.global)
        {
            for owner in &world.ownership.owners[file] {
                let shared = &mut shared[*owner as usize];
                match (import.kind, *target) {
                    (ImportKind::Alias(name), target) => shared.aliases.push((name, target)),
                    (ImportKind::Static, ImportTarget::Entity(id)) => shared.types.push(id),
                    (ImportKind::Namespace, ImportTarget::Namespace(id)) => shared.namespaces.push(id),
                    _ => {}
                }
            }
        }
    }
    shared
}

/// The types whose members `file` imports, by its own imports and those for all files of its manifests: the one member
/// of a name, or all.
pub(super) fn member_imports(world: &World, file: usize, facts: &FileFacts) -> Vec<(Option<Name>, EntityId)> {
    let own = facts.imports.iter().zip(&world.imports[file]).filter_map(|(import, target)| {
        match (import.kind, *target) {
            (ImportKind::Member(name), ImportTarget::Entity(of)) => Some((Some(name), of)),
            (ImportKind::Static, ImportTarget::Entity(of)) => Some((None, of)),
            _ => None,
        }
    });
    let owners = world.ownership.owners[file].iter();
    let shared = owners.filter_map(|owner| world.shared_imports.get(*owner as usize));
    own.chain(shared.flat_map(|shared| shared.types.iter().map(|of| (None, *of)))).collect()
}
