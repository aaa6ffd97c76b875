//! What the world before the move said.

use super::names::ImportMeant;
use super::texts::Texts;
use crate::resolve::{EntityId, FileTie, ImportTarget, NamespaceId, Ownership, World};
use ferngate_model::{Context, Language, Name, ProjectFacts, ProjectPath, Share, SourceFile};
use rayon::prelude::*;
use std::collections::{BTreeMap, BTreeSet};

/// One resolved use of one file before the move.
#[derive(Clone, Copy, Debug)]
pub(super) struct Before {
    pub(super) used: u32,
    pub(super) entity: EntityId,
    pub(super) count: u32,
    pub(super) extension: bool,
    pub(super) counts: bool,
    /// A call that may mean an extension method, or a method of the type itself.
    pub(super) doubtful: bool,
}

/// What the world before the move said, kept when it is gone.
pub(super) struct Past {
    pub(super) references: Vec<Vec<Before>>,
    pub(super) imports: Vec<Vec<ImportMeant>>,
    pub(super) import_entities: Vec<Vec<Option<EntityId>>>,
    pub(super) first_declaration: Vec<(u32, u32)>,
    /// Types that are declared in parts: each with its parts.
    pub(super) parts: Vec<(EntityId, Vec<(u32, u32)>)>,
    pub(super) entity_texts: Vec<String>,
    pub(super) entity_namespaces: Vec<String>,
    pub(super) bases: Vec<Vec<EntityId>>,
    pub(super) seen: Vec<Vec<String>>,
    /// For each file, the members that it uses of types that other files declare.
    pub(super) members: Vec<Vec<(EntityId, Name)>>,
    pub(super) ties: Vec<FileTie>,
    pub(super) ownership: Ownership,
    pub(super) namespaces: Vec<String>,
    pub(super) manifest_names: Vec<String>,
}

impl Past {
    /// Everything that the types behind `references` derive from, however far.
    pub(super) fn bases_of_used(&self, references: &[Before]) -> BTreeSet<EntityId> {
        let used = references.iter().filter(|before| before.counts);
        let mut open: Vec<EntityId> = used.map(|before| before.entity).collect();
        let mut found = BTreeSet::new();
        while let Some(entity) = open.pop() {
            let bases = self.bases.get(entity.index()).into_iter().flatten();
            open.extend(bases.filter(|base| found.insert(**base)));
        }
        found
    }
}

/// Stands in the place in the plan of a file that takes a type, behind the path of the file that the type leaves. No path
/// on a disk holds it.
const TAKEN_OUT: char = '\0';

/// The place in the plan of a file that takes the type of a declaration out of `origin`.
pub(super) fn key_of_taken(origin: &ProjectPath, declaration: u32) -> ProjectPath {
    ProjectPath::new(&format!("{origin}{TAKEN_OUT}{declaration}"))
}

/// The file that the type leaves for which `path` is the place in the plan; none where it is a path.
pub(super) fn origin_of_taken(path: &ProjectPath) -> Option<&str> {
    path.as_str().split_once(TAKEN_OUT).map(|(origin, _)| origin)
}

/// A new file that takes a type: its place in the plan, its path, the file it leaves.
pub(super) struct Made {
    pub(super) key: ProjectPath,
    pub(super) path: ProjectPath,
    pub(super) origin: ProjectPath,
}

/// Resolves the project with the files that the move makes: each is held as the one it leaves.
pub(super) fn resolve_with_made<'p>(
    project: &'p ProjectFacts,
    languages: &'p [&'p dyn Language],
    made: &[Made],
) -> World<'p> {
    let mut world = World::with_imports(project, languages);
    for made in made {
        if let (Some(new), Some(old)) = (project.file(made.key.as_str()), project.file(made.origin.as_str()))
        {
            world.ownership.owners[new] = world.ownership.owners[old].clone();
        }
    }
    world.keeps_members = true;
    world.resolve();
    world
}

/// Everything that the move asks for afterwards of the world before it.
pub(super) fn remember(world: &World) -> Past {
    let (project, table) = (world.project, &world.table);
    let lives = living_namespaces(world);
    let text = |id: NamespaceId| table.namespace_text(id);
    let imports = |file: usize| {
        let targets = world.imports[file].iter();
        let meant = targets.map(|target| match target {
            ImportTarget::Namespace(id) if lives.contains(id) => ImportMeant::Namespace(text(*id)),
            _ => ImportMeant::Outside,
        });
        meant.collect::<Vec<_>>()
    };
    let import_entities = |file: usize| {
        let entity = |target: &ImportTarget| match target {
            ImportTarget::Entity(entity) => Some(*entity),
            _ => None,
        };
        world.imports[file].iter().map(entity).collect::<Vec<_>>()
    };
    let files = (0..project.files.len()).into_par_iter();
    let mut namespaces: Vec<String> = lives.iter().map(|id| text(*id)).collect();
    namespaces.sort();
    Past {
        references: files.clone().map(|file| before(world, file)).collect(),
        imports: files.clone().map(imports).collect(),
        import_entities: files.clone().map(import_entities).collect(),
        first_declaration: table.entities.iter().map(|entity| entity.declarations[0]).collect(),
        parts: parts(world),
        entity_texts: (0..table.entities.len())
            .into_par_iter()
            .map(|at| table.entity_text(EntityId(at as u32)))
            .collect(),
        entity_namespaces: (0..table.entities.len())
            .map(|at| text(table.namespace_of(EntityId(at as u32))))
            .collect(),
        bases: world.direct_bases().to_vec(),
        seen: files.clone().map(|file| seen_without_import(world, file)).collect(),
        members: world.references.iter().map(|found| found.used_members.clone()).collect(),
        ties: world.file_ties().0,
        namespaces,
        manifest_names: project.manifests.iter().map(|manifest| manifest.name.clone()).collect(),
        ownership: world.ownership.clone(),
    }
}

/// The types of which several files declare a part each.
fn parts(world: &World) -> Vec<(EntityId, Vec<(u32, u32)>)> {
    let is_part = |(file, at): &(u32, u32)| {
        let facts = world.project.files[*file as usize].facts.as_deref();
        facts.is_some_and(|facts| facts.declarations[*at as usize].share == Share::Part)
    };
    let entities = world.table.entities.iter().enumerate();
    entities
        .filter(|(_, entity)| entity.declarations.len() > 1 && entity.declarations.iter().all(is_part))
        .map(|(at, entity)| (EntityId(at as u32), entity.declarations.clone()))
        .collect()
}

pub(super) fn living_namespaces(world: &World) -> BTreeSet<NamespaceId> {
    let mut lives = BTreeSet::new();
    let holding = (0..world.table.namespaces.len()).filter(|&at| world.table.namespaces[at].holds_types);
    for at in holding {
        let mut up = NamespaceId(at as u32);
        while !world.table.is_outermost(up) && lives.insert(up) {
            up = world.table.namespaces[up.0 as usize].parent;
        }
    }
    lives
}

fn before(world: &World, file: usize) -> Vec<Before> {
    let Some(facts) = &world.project.files[file].facts else { return Vec::new() };
    let found = &world.references[file];
    let row = |weak: bool, doubtful: bool| {
        move |reference: &crate::resolve::Reference| Before {
            used: reference.used,
            entity: reference.entity,
            count: reference.count,
            extension: reference.extension,
            counts: !weak && facts.uses[reference.used as usize].context != Context::Import,
            doubtful,
        }
    };
    let strong = found.references.iter().map(row(false, false));
    let weak = found.weak.iter().map(row(true, false));
    strong.chain(weak).chain(found.doubtful.iter().map(row(true, true))).collect()
}

/// The namespaces around the code of `file`, with those around them.
fn seen_without_import(world: &World, file: usize) -> Vec<String> {
    let mut seen = BTreeSet::new();
    for id in &world.table.scope_namespaces[file] {
        let mut up = *id;
        while !world.table.is_outermost(up) && seen.insert(world.table.namespace_text(up)) {
            up = world.table.namespaces[up.0 as usize].parent;
        }
    }
    seen.into_iter().collect()
}

/// For each file after the move, the index that it had before.
pub(super) type Order = Vec<usize>;

/// For each file before the move, the index that it has after it.
pub(super) fn places(order: &Order) -> Vec<usize> {
    let mut places = vec![0; order.len()];
    order.iter().enumerate().for_each(|(new, old)| places[*old] = new);
    places
}

/// Ownership after the move; a file that the move makes is held as its folder's manifests will hold it.
pub(super) fn ownership_after(after: &ProjectFacts, order: &Order, past: &Past, texts: &Texts) -> Ownership {
    let mut ownership = Ownership::new(after);
    for (new, old) in order.iter().enumerate() {
        if ownership.owners[new].is_empty() && !past.ownership.owners[*old].is_empty() {
            let path = &after.files[new].path;
            if texts.old_path(path) != *path {
                ownership.owners[new] = super::namespaces::home_manifests(after, path);
            }
        }
    }
    ownership
}

/// For each file out of which types are taken, the namespaces that these use.
pub(super) fn used_by_taken<'p>(
    files: &[SourceFile],
    order: &Order,
    past: &'p Past,
    texts: &Texts,
) -> BTreeMap<ProjectPath, BTreeSet<&'p str>> {
    let mut taken: BTreeMap<ProjectPath, BTreeSet<&str>> = BTreeMap::new();
    for (file, old) in files.iter().zip(order) {
        let key = texts.old_path(&file.path);
        if let Some(origin) = origin_of_taken(&key) {
            let namespace = |before: &Before| past.entity_namespaces[before.entity.index()].as_str();
            let used = past.references[*old].iter().map(namespace);
            taken.entry(ProjectPath::new(origin)).or_default().extend(used);
        }
    }
    taken
}
