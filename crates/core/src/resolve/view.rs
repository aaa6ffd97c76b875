//! What can be seen from one scope of one file, nearest first.

use super::{Container, EntityId, ImportTarget, NamespaceId, Table, Target, World};
use ferngate_model::{CONSTANT, FUNCTION, ImportKind, NAMESPACE, Name, Naming, ScopeKind};

/// What can be seen of a namespace.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Reach {
    /// Everything that it holds.
    All,
    /// What it declares, but not the namespaces below.
    Declared,
    /// The namespaces below, which begin full names.
    Namespaces,
    /// Functions and constants only.
    Functions,
}

/// The rank of what a name means where nothing else has it: an alias that some condition brings leaves the name to all
/// that it means without that. The import itself names what it stands for.
const LAST: u16 = u16::MAX;

/// A single name that an import brings.
#[derive(Clone, Copy, Debug)]
struct Alias {
    name: Name,
    /// What tells types, functions and constants apart.
    arity: u8,
    rank: u16,
    target: ImportTarget,
}

/// How near a container is, by rank; a worker keeps one for all files, and forgets by raising a stamp.
#[derive(Debug)]
pub struct Visibility {
    stamp: u32,
    namespaces: Vec<(u32, u16, Reach)>,
    entities: Vec<(u32, u16)>,
    aliases: Vec<Alias>,
    /// The types around the scope with what they derive from, innermost first.
    pub around: Vec<EntityId>,
    rank: u16,
}

impl Visibility {
    /// Nothing visible yet.
    pub fn new(table: &Table) -> Self {
        Self {
            stamp: 0,
            namespaces: vec![(0, 0, Reach::All); table.namespaces.len()],
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
        let Some(language) = world.project.files[file].language else { return };
        let naming = world.languages[language].naming();
        let root = world.table.roots[language];
        let (mut at, mut inside) = (scope, false);
        loop {
            let Some(found) = facts.scopes.get(at as usize) else { return };
            match &found.kind {
                ScopeKind::Isolated => return self.imports(world, file, at, &naming),
                ScopeKind::Type { declaration } => {
                    let entity = world.table.declared[file][*declaration as usize];
                    self.types(world, entity, bases);
                }
                ScopeKind::Namespace { path, .. } => {
                    let mut id = world.table.scope_namespaces[file][at as usize];
                    inside = !path.is_empty();
                    let own = if naming.relative_namespaces { Reach::All } else { Reach::Declared };
                    if naming.single_imports_first {
                        self.single_imports(world, file, at);
                    }
                    for step in 0..path.len() {
                        if step == 0 || naming.sees_parents {
                            self.namespace(id, own);
                        }
                        if step == 0 {
                            self.imports(world, file, at, &naming);
                        }
                        id = world.table.namespaces[id.0 as usize].parent;
                    }
                }
                ScopeKind::Block | ScopeKind::File => return self.file(world, file, root, &naming, inside),
            }
            at = found.parent;
        }
    }

    /// What is seen from here on is farther away.
    fn go_on(&mut self) {
        self.rank = self.rank.saturating_add(1).min(LAST - 1);
    }

    fn types(&mut self, world: &World, entity: EntityId, bases: bool) {
        let seen = if bases { usize::MAX } else { 1 };
        // What a type has itself hides what it inherits of that name.
        for entity in world.with_bases(entity).take(seen) {
            self.entity(entity);
            self.around.push(entity);
            self.go_on();
        }
    }

    fn file(&mut self, world: &World, file: usize, root: NamespaceId, naming: &Naming, inside: bool) {
        // A page's own namespace, and those around it.
        let mut own = world.table.scope_namespaces[file].first().copied().unwrap_or(root);
        while own != root && naming.sees_parents {
            self.namespace(own, Reach::All);
            own = world.table.namespaces[own.0 as usize].parent;
        }
        if naming.single_imports_first {
            self.single_imports(world, file, 0);
        }
        let outermost = match naming {
            _ if !inside || naming.sees_parents => Reach::All,
            Naming { functions_fall_back: true, .. } => Reach::Functions,
            _ => Reach::Namespaces,
        };
        self.namespace(root, outermost);
        self.imports(world, file, 0, naming);
        for owner in &world.ownership.owners[file] {
            if let Some(shared) = world.shared_imports.get(*owner as usize) {
                for namespace in &shared.namespaces {
                    self.namespace_at(*namespace, Reach::Declared);
                }
                shared.types.iter().for_each(|entity| self.entity(*entity));
                let rank = self.rank;
                let brought = shared.aliases.iter();
                self.aliases.extend(brought.map(|&(name, target)| Alias { name, arity: 0, rank, target }));
            }
        }
        if let Some(language) = world.project.files[file].language {
            self.go_on();
            for namespace in &world.table.implicit_imports[language] {
                self.namespace_at(*namespace, Reach::Declared);
            }
        }
        for other in folder_import_files(world, file) {
            self.imports(world, other, 0, naming);
        }
    }

    /// Imports of single names, as far as `scope` holds them.
    fn single_imports(&mut self, world: &World, file: usize, scope: u32) {
        let (Some(facts), Some(targets)) = (&world.project.files[file].facts, world.imports.get(file)) else {
            return;
        };
        for (import, &target) in facts.imports.iter().zip(targets) {
            let rank = if import.conditional { LAST } else { self.rank };
            match (import.kind, target) {
                _ if import.scope != scope => {}
                (ImportKind::Alias(name), target) => {
                    let arity = facts.uses.get(import.target as usize).map_or(0, |used| used.arity);
                    // Functions and constants have spaces of names of their own; other counts say nothing here.
                    let arity = if matches!(arity, FUNCTION | CONSTANT) { arity } else { 0 };
                    self.aliases.push(Alias { name, arity, rank, target });
                }
                (ImportKind::Member(name), ImportTarget::Entity(owner)) => {
                    let nested = world
                        .with_bases(owner)
                        .find_map(|around| world.table.child_entity(Container::Entity(around), name, 0));
                    if let Some(nested) = nested {
                        let target = ImportTarget::Entity(nested);
                        self.aliases.push(Alias { name, arity: 0, rank, target });
                    }
                }
                _ => {}
            }
        }
        self.go_on();
    }

    fn imports(&mut self, world: &World, file: usize, scope: u32, naming: &Naming) {
        if !naming.single_imports_first {
            self.single_imports(world, file, scope);
            self.rank -= 1;
        }
        let (Some(facts), Some(targets)) = (&world.project.files[file].facts, world.imports.get(file)) else {
            return;
        };
        for (import, target) in facts.imports.iter().zip(targets) {
            if import.scope != scope {
                continue;
            }
            match (import.kind, *target) {
                (ImportKind::Namespace, ImportTarget::Namespace(id)) => {
                    self.namespace_at(id, Reach::Declared)
                }
                (ImportKind::Static, ImportTarget::Entity(id)) => self.entity(id),
                _ => {}
            }
        }
        for (at, namespace) in &world.added_imports[file] {
            if *at == scope {
                self.namespace_at(*namespace, Reach::Declared);
            }
        }
        self.go_on();
    }

    fn namespace(&mut self, id: NamespaceId, reach: Reach) {
        self.namespace_at(id, reach);
        self.go_on();
    }

    fn namespace_at(&mut self, id: NamespaceId, reach: Reach) {
        let slot = &mut self.namespaces[id.0 as usize];
        if slot.0 != self.stamp {
            *slot = (self.stamp, self.rank, reach);
        }
    }

    fn entity(&mut self, id: EntityId) {
        let slot = &mut self.entities[id.index()];
        if slot.0 != self.stamp {
            *slot = (self.stamp, self.rank);
        }
    }

    /// How near `container` is, and what can be seen of it; `None` where it cannot be seen.
    pub fn rank(&self, container: Container) -> Option<(u16, Reach)> {
        match container {
            Container::Namespace(id) => {
                let (stamp, rank, reach) = self.namespaces[id.0 as usize];
                (stamp == self.stamp).then_some((rank, reach))
            }
            Container::Entity(id) => {
                let (stamp, rank) = self.entities[id.index()];
                (stamp == self.stamp).then_some((rank, Reach::All))
            }
        }
    }

    /// What `name` means here; aliases and everything declared, the nearest first.
    pub fn find(&self, world: &World, file: usize, name: Name, arity: u8) -> Option<Target> {
        // Nearest is what can be seen by manifests, then what is near, then a type rather than a namespace.
        let mut best: Option<((bool, u16, bool), Option<Target>)> = None;
        let space = if arity == NAMESPACE { 0 } else { arity };
        if let Some(alias) = self.aliases.iter().find(|alias| alias.name == name && alias.arity == space) {
            let target = match alias.target {
                ImportTarget::Outside => None,
                ImportTarget::Namespace(id) => Some(Target::Namespace(id)),
                // `use A\B;` stands for the class in `B` and for the namespace in `B\C`.
                ImportTarget::Entity(id) if arity == NAMESPACE => {
                    namespace_like(world, id).map(Target::Namespace)
                }
                ImportTarget::Entity(id) => Some(Target::Entity(id)),
            };
            best = Some(((false, alias.rank, false), target));
        }
        for (container, target) in world.table.candidates(name, arity) {
            let Some((rank, reach)) = self.rank(*container) else { continue };
            let is_namespace = matches!(target, Target::Namespace(_));
            let reached = match reach {
                Reach::All => true,
                Reach::Declared => !is_namespace,
                Reach::Namespaces => is_namespace,
                Reach::Functions => matches!(arity, FUNCTION | CONSTANT),
            };
            if !reached {
                continue;
            }
            let unseen = match target {
                Target::Entity(id) if !world.may_use_type(file, *id) => continue,
                Target::Entity(id) => !sees_entity(world, file, *id),
                Target::Namespace(_) => false,
            };
            let order = (unseen, rank, is_namespace);
            if best.is_none_or(|(other, _)| order < other) {
                best = Some((order, Some(*target)));
            }
        }
        best.and_then(|(_, target)| target)
    }
}

/// The namespace that is spelled as `entity` is.
fn namespace_like(world: &World, entity: EntityId) -> Option<NamespaceId> {
    let entity = &world.table.entities[entity.index()];
    match entity.container {
        Container::Namespace(around) => world.table.child_namespace(around, entity.name),
        Container::Entity(_) => None,
    }
}

/// Whether some declaration of `entity` belongs to a manifest that `file`'s code can see.
pub fn sees_entity(world: &World, file: usize, entity: EntityId) -> bool {
    let entity = &world.table.entities[entity.index()];
    let from = &world.ownership.owners[file];
    entity.unowned
        || from.is_empty()
        || from.iter().any(|owner| {
            if world.ownership.open[*owner as usize] {
                return true;
            }
            let visible = &world.ownership.visible[*owner as usize];
            let (few, many) = if visible.len() < entity.owners.len() {
                (visible, &entity.owners)
            } else {
                (&entity.owners, visible)
            };
            few.iter().any(|manifest| many.binary_search(manifest).is_ok())
        })
}

/// The names that are aliases in `file`, by its own imports, its folders' and its manifest's.
pub fn aliases_in_sight(world: &World, file: usize) -> NameSet {
    let aliases = |file: usize| {
        let imports = world.project.files[file].facts.iter().flat_map(|facts| &facts.imports);
        imports.filter_map(|import| match import.kind {
            ImportKind::Alias(name) | ImportKind::Member(name) => Some(name),
            _ => None,
        })
    };
    let mut found: Vec<Name> = aliases(file).collect();
    found.extend(folder_import_files(world, file).into_iter().flat_map(aliases));
    for owner in &world.ownership.owners[file] {
        found.extend(world.shared_imports[*owner as usize].aliases.iter().map(|(name, _)| *name));
    }
    NameSet::new(found)
}

/// A few names that are asked for very often, nearly always in vain.
#[derive(Debug, Default)]
pub struct NameSet {
    /// For each name one of 64 bits, by its hash.
    bits: u64,
    names: Vec<Name>,
}

impl NameSet {
    fn new(names: Vec<Name>) -> Self {
        Self { bits: names.iter().fold(0, |bits, name| bits | Self::bit(*name)), names }
    }

    fn bit(name: Name) -> u64 {
        1 << (name.0 >> 58)
    }

    /// Whether `name` is among them.
    #[inline]
    pub fn contains(&self, name: Name) -> bool {
        self.bits & Self::bit(name) != 0 && self.names.contains(&name)
    }
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
