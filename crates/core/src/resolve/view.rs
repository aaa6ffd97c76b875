//! What can be seen from one scope of one file, nearest first.

use super::{Container, EntityId, NamespaceId, Table, Target, World};
use ferngate_model::{Context, Import, ImportKind, Name, Root, ScopeKind, Use};

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

/// How near a container is, by rank; a worker keeps one for all files, and forgets by raising a stamp.
#[derive(Debug)]
pub struct Visibility {
    stamp: u32,
    namespaces: Vec<(u32, u16, bool)>,
    entities: Vec<(u32, u16)>,
    aliases: Vec<(Name, u16, ImportTarget)>,
    /// The types around the scope with what they derive from, innermost first.
    pub around: Vec<EntityId>,
    rank: u16,
}

impl Visibility {
    /// Nothing visible yet.
    pub fn new(table: &Table) -> Self {
        Self {
            stamp: 0,
            namespaces: vec![(0, 0, false); table.namespaces.len()],
            entities: vec![(0, 0); table.entities.len()],
            aliases: Vec::new(),
            around: Vec::new(),
            rank: 0,
        }
    }

    /// Looks from `scope` of `file`; with `bases` also at what the types around it inherit.
    pub fn enter(&mut self, world: &World, file: usize, scope: u32, bases: bool) {
        self.stamp += 1;
        self.rank = 0;
        self.aliases.clear();
        self.around.clear();
        let Some(facts) = &world.project.files[file].facts else { return };
        let naming = world.project.files[file].language.map(|language| world.languages[language].naming());
        let sees_parents = naming.is_none_or(|naming| naming.sees_parents);
        let mut at = scope;
        loop {
            let Some(found) = facts.scopes.get(at as usize) else { return };
            match &found.kind {
                ScopeKind::Isolated => return self.imports(world, file, at),
                ScopeKind::Type { declaration } => {
                    let entity = world.table.declared[file][*declaration as usize];
                    self.types(world, entity, bases);
                }
                ScopeKind::Namespace { path, .. } => {
                    let mut id = world.table.scope_namespaces[file][at as usize];
                    for step in 0..path.len() {
                        if step == 0 || sees_parents {
                            self.namespace(id, false);
                        }
                        if step == 0 {
                            self.imports(world, file, at);
                        }
                        id = world.table.namespaces[id.0 as usize].parent;
                    }
                }
                ScopeKind::File => return self.file(world, file, sees_parents),
            }
            at = found.parent;
        }
    }

    fn types(&mut self, world: &World, entity: EntityId, bases: bool) {
        let seen = if bases { world.with_bases(entity) } else { vec![entity] };
        for entity in seen {
            self.entity(entity);
            self.around.push(entity);
        }
        self.rank += 1;
    }

    fn file(&mut self, world: &World, file: usize, sees_parents: bool) {
        // A page's own namespace, and those around it.
        let mut own = world.table.scope_namespaces[file].first().copied().unwrap_or(NamespaceId(0));
        while own.0 != 0 && sees_parents {
            self.namespace(own, false);
            own = world.table.namespaces[own.0 as usize].parent;
        }
        self.namespace(NamespaceId(0), false);
        self.imports(world, file, 0);
        for owner in &world.ownership.owners[file] {
            if let Some(shared) = world.shared_imports.get(*owner as usize) {
                for namespace in &shared.namespaces {
                    self.namespace_at(*namespace, true);
                }
                shared.types.iter().for_each(|entity| self.entity(*entity));
                let rank = self.rank;
                self.aliases.extend(shared.aliases.iter().map(|(name, target)| (*name, rank, *target)));
            }
        }
        for other in folder_import_files(world, file) {
            self.imports(world, other, 0);
        }
    }

    fn imports(&mut self, world: &World, file: usize, scope: u32) {
        let (Some(facts), Some(targets)) = (&world.project.files[file].facts, world.imports.get(file)) else {
            return;
        };
        for (import, target) in facts.imports.iter().zip(targets) {
            if import.scope != scope {
                continue;
            }
            match (import.kind, *target) {
                (ImportKind::Alias(name), target) => self.aliases.push((name, self.rank, target)),
                (ImportKind::Namespace, ImportTarget::Namespace(id)) => self.namespace_at(id, true),
                (ImportKind::Static, ImportTarget::Entity(id)) => self.entity(id),
                _ => {}
            }
        }
        for (at, namespace) in &world.added_imports[file] {
            if *at == scope {
                self.namespace_at(*namespace, true);
            }
        }
        self.rank += 1;
    }

    fn namespace(&mut self, id: NamespaceId, imported: bool) {
        self.namespace_at(id, imported);
        self.rank += 1;
    }

    fn namespace_at(&mut self, id: NamespaceId, imported: bool) {
        let slot = &mut self.namespaces[id.0 as usize];
        if slot.0 != self.stamp {
            *slot = (self.stamp, self.rank, imported);
        }
    }

    fn entity(&mut self, id: EntityId) {
        let slot = &mut self.entities[id.index()];
        if slot.0 != self.stamp {
            *slot = (self.stamp, self.rank);
        }
    }

    /// How near `container` is; `None` where it cannot be seen. With it, whether an import brought it.
    pub fn rank(&self, container: Container) -> Option<(u16, bool)> {
        match container {
            Container::Namespace(id) => {
                let (stamp, rank, imported) = self.namespaces[id.0 as usize];
                (stamp == self.stamp).then_some((rank, imported))
            }
            Container::Entity(id) => {
                let (stamp, rank) = self.entities[id.index()];
                (stamp == self.stamp).then_some((rank, false))
            }
        }
    }

    /// What `name` means here; aliases and everything declared, the nearest first.
    pub fn find(&self, world: &World, file: usize, name: Name, arity: u8) -> Option<Target> {
        let mut best: Option<(u16, bool, Target)> = None;
        if arity == 0 {
            for (alias, rank, target) in &self.aliases {
                if *alias == name {
                    let target = match target {
                        ImportTarget::Outside => return None,
                        ImportTarget::Namespace(id) => Target::Namespace(*id),
                        ImportTarget::Entity(id) => Target::Entity(*id),
                    };
                    best = Some((*rank, false, target));
                    break;
                }
            }
        }
        for (container, target) in world.table.candidates(name, arity) {
            let Some((rank, imported)) = self.rank(*container) else { continue };
            // An import brings types, not the namespaces below.
            if imported && matches!(target, Target::Namespace(_)) {
                continue;
            }
            let unseen = match target {
                Target::Entity(id) => !sees_entity(world, file, *id),
                Target::Namespace(_) => false,
            };
            // Equally near, a type beats a namespace.
            let is_namespace = matches!(target, Target::Namespace(_));
            if best.is_none_or(|(best_rank, best_unseen, best_target)| {
                (unseen, rank, is_namespace)
                    < (best_unseen, best_rank, matches!(best_target, Target::Namespace(_)))
            }) {
                best = Some((rank, unseen, *target));
            }
        }
        best.map(|(_, _, target)| target)
    }
}

/// Whether some declaration of `entity` belongs to a manifest that `file`'s code can see.
pub fn sees_entity(world: &World, file: usize, entity: EntityId) -> bool {
    let entity = &world.table.entities[entity.index()];
    let from = &world.ownership.owners[file];
    entity.unowned
        || from.is_empty()
        || from.iter().any(|owner| {
            let visible = &world.ownership.visible[*owner as usize];
            let (few, many) = if visible.len() < entity.owners.len() {
                (visible, &entity.owners)
            } else {
                (&entity.owners, visible)
            };
            few.iter().any(|manifest| many.binary_search(manifest).is_ok())
        })
}

/// What each import of `file` means.
pub fn resolve_imports(world: &World, file: usize) -> Vec<ImportTarget> {
    let Some(facts) = &world.project.files[file].facts else { return Vec::new() };
    facts.imports.iter().map(|import| resolve_import(world, file, &facts.uses, import)).collect()
}

fn resolve_import(world: &World, file: usize, uses: &[Use], import: &Import) -> ImportTarget {
    let mut path: Vec<&Use> = Vec::new();
    let mut at = import.target;
    let root = loop {
        let Some(used) = uses.get(at as usize) else { return ImportTarget::Outside };
        path.push(used);
        match used.parent.get() {
            Ok(root) => break root,
            Err(parent) => at = parent,
        }
    };
    path.reverse();
    debug_assert!(path.iter().all(|used| used.context == Context::Import));
    let mut from = match root {
        Root::Scope(scope) => world.table.scope_namespaces[file].get(scope as usize).copied(),
        _ => None,
    }
    .unwrap_or(NamespaceId(0));
    loop {
        let found = walk(world, from, &path);
        if found != ImportTarget::Outside || from.0 == 0 {
            return found;
        }
        from = world.table.namespaces[from.0 as usize].parent;
    }
}

fn walk(world: &World, from: NamespaceId, path: &[&Use]) -> ImportTarget {
    let mut at = Container::Namespace(from);
    for used in path {
        let entity = world.table.child_entity(at, used.name, used.arity).map(Container::Entity);
        let namespace = match at {
            Container::Namespace(id) => world.table.child_namespace(id, used.name).map(Container::Namespace),
            Container::Entity(_) => None,
        };
        match entity.or(namespace) {
            Some(next) => at = next,
            None => return ImportTarget::Outside,
        }
    }
    match at {
        Container::Namespace(id) => ImportTarget::Namespace(id),
        Container::Entity(id) => ImportTarget::Entity(id),
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

/// For each manifest, what its settings and its files' global imports bring to all its files.
pub fn shared_imports(world: &World) -> Vec<SharedImports> {
    let manifests = &world.project.manifests;
    let stated: Vec<Vec<NamespaceId>> = manifests
        .iter()
        .map(|manifest| {
            manifest.imports.iter().filter_map(|text| world.table.namespace_named(text)).collect()
        })
        .collect();
    let mut shared: Vec<SharedImports> = vec![SharedImports::default(); manifests.len()];
    for ((at, manifest), own) in manifests.iter().enumerate().zip(&mut shared) {
        own.namespaces.extend(&stated[at]);
        // Settings above a manifest count for it too.
        for (settings, brought) in manifests.iter().zip(&stated).filter(|(other, _)| other.kind == "settings")
        {
            let folder = settings.path.as_ref().map(|path| path.parent());
            let within =
                folder.is_some_and(|folder| manifest.path.as_ref().is_some_and(|p| p.is_within(folder)));
            if within && manifest.kind == "project" {
                own.namespaces.extend(brought);
            }
        }
    }
    for (file, source) in world.project.files.iter().enumerate() {
        let Some(facts) = &source.facts else { continue };
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

/// The names that are aliases in `file`, by its own imports, its folders' and its manifest's.
pub fn aliases_in_sight(world: &World, file: usize) -> Vec<Name> {
    let aliases = |file: usize| {
        let imports = world.project.files[file].facts.iter().flat_map(|facts| &facts.imports);
        imports.filter_map(|import| match import.kind {
            ImportKind::Alias(name) => Some(name),
            _ => None,
        })
    };
    let mut found: Vec<Name> = aliases(file).collect();
    found.extend(folder_import_files(world, file).into_iter().flat_map(aliases));
    for owner in &world.ownership.owners[file] {
        found.extend(world.shared_imports[*owner as usize].aliases.iter().map(|(name, _)| *name));
    }
    found
}

/// Files such as `_Imports.razor` whose imports count for `file`, the nearest folder first.
fn folder_import_files(world: &World, file: usize) -> Vec<usize> {
    let mut found = Vec::new();
    let Some(language) = world.project.files[file].language else { return found };
    for name in world.languages[language].naming().folder_imports {
        let mut folder = world.project.files[file].path.parent();
        loop {
            let path = if folder.is_empty() { (*name).to_owned() } else { format!("{folder}/{name}") };
            found.extend(world.project.file(&path).filter(|other| *other != file));
            if folder.is_empty() {
                break;
            }
            folder = folder.rfind('/').map_or("", |at| &folder[..at]);
        }
    }
    found
}
