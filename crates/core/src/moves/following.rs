//! Which files must follow a move: those whose names, or whose imports, mean what has gone elsewhere.

use super::conditions::common_condition;
use super::friends::Friends;
use super::names::{Follower, ImportMeant, Meant};
use super::past::{Order, Past, living_namespaces, places, used_by_taken};
use super::shared::follow_shared_imports;
use super::texts::Texts;
use super::{Ground, MoveError, MovePlan, clashes};
use crate::resolve::{EntityId, NamespaceId, World};
use ferngate_model::{Name, ProjectFacts, ProjectPath, ReadOptions};
use rayon::prelude::*;
use rustc_hash::{FxHashMap, FxHashSet};
use std::collections::{BTreeMap, BTreeSet};

/// How many files are read at once with all their occurrences, which take room.
const READ_TOGETHER: usize = 256;

/// What each type is called afterwards, by its index before.
pub(super) struct Renamed {
    pub(super) text: Vec<String>,
}

/// Plans the edits of every file whose names would not mean what they mean now.
pub(super) fn follow_names(
    after: &ProjectFacts,
    order: &Order,
    past: &Past,
    texts: &mut Texts,
    plan: &mut MovePlan,
    ground: &Ground,
) -> Result<Renamed, MoveError> {
    let mut world = World::with_imports(after, ground.languages);
    let place = places(order);
    let entity: Vec<EntityId> = past
        .first_declaration
        .iter()
        .map(|(file, declaration)| world.table.declared[place[*file as usize]][*declaration as usize])
        .collect();
    keep_parts_together(&world, after, &place, past, texts, plan);
    clashes::refuse(&world, past, &entity, texts, plan);
    let text: Vec<String> = entity.par_iter().map(|entity| world.table.entity_text(*entity)).collect();
    for (old, new) in entity.iter().enumerate() {
        let before = &past.entity_namespaces[old];
        if *before != world.table.namespace_text(world.table.namespace_of(*new)) {
            world.former.insert(*new, before.clone());
        }
    }
    follow_shared_imports(&mut world, order, past, texts);
    let mut bases = vec![Vec::new(); world.table.entities.len()];
    for (old, own) in past.bases.iter().enumerate() {
        bases[entity[old].index()] = own.iter().map(|base| entity[base.index()]).collect();
    }
    world.resolve_with_bases(bases);
    let living = living_namespaces(&world);
    let is_gone = |text: &&String| world.table.namespace_named(text).is_none_or(|id| !living.contains(&id));
    let gone: BTreeSet<&String> = past.namespaces.iter().filter(is_gone).collect();
    // Namespaces that types have left, and in which only conditional code is now.
    let mut conditional: BTreeSet<String> = world.former.values().cloned().collect();
    conditional.retain(|text| {
        let namespace = world.table.namespace_named(text);
        namespace.is_some_and(|namespace| common_condition(&world, namespace, texts).is_some())
    });
    let meant = uses_after(&world, order, past, &entity);
    let imports = order.par_iter().map(|old| imports_after(past, *old, &entity)).collect();
    let mut held: FxHashMap<NamespaceId, Vec<EntityId>> = FxHashMap::default();
    for entity in (0..world.table.entities.len() as u32).map(EntityId) {
        held.entry(world.table.namespace_of(entity)).or_default().push(entity);
    }
    let known = Known {
        held,
        order,
        past,
        meant,
        imports,
        taken: used_by_taken(&after.files, order, past, texts),
        moved: names_of_moved(&world, texts),
        friends: Friends::new(after, &world.ownership, |file| after.files[file].facts.as_deref()),
        old_paths: after.files.iter().map(|file| texts.old_path(&file.path)).collect(),
    };
    let is_lost = |text: &String| gone.contains(text) || conditional.contains(text);
    let mut touched: Vec<usize> = Vec::new();
    for file in 0..order.len() {
        plan.warnings.extend(known.captured(&world, file));
        let is_clear = |world| {
            let facts = after.files[file].facts.as_deref();
            facts.is_none_or(|facts| known.follower(world, file).unclear(facts).is_empty())
        };
        if known.is_touched(&world, file, &is_lost) || !is_clear(&mut world) {
            touched.push(file);
        }
    }
    for files in touched.chunks(READ_TOGETHER) {
        let paths: Vec<ProjectPath> = files.iter().map(|&file| known.old_paths[file].clone()).collect();
        texts.load(&paths)?;
        let view = texts.view();
        let read = |&file: &usize| {
            let text = view.get(&known.old_paths[file])?.into_owned();
            let language = ground.languages[after.files[file].language?];
            let facts = language.facts(&text, ReadOptions { occurrences: true, weak: true });
            Some((file, text, facts))
        };
        let read: Vec<_> = files.par_iter().filter_map(read).collect();
        for (file, text, facts) in &read {
            known.follower(&mut world, *file).follow(text, facts, texts);
        }
    }
    Ok(Renamed { text })
}

/// What is known of each file, by its index after the move.
struct Known<'p> {
    order: &'p Order,
    past: &'p Past,
    /// What its uses meant, and whether some mean something else now.
    meant: Vec<(Vec<Meant>, bool)>,
    imports: Vec<Vec<ImportMeant>>,
    /// By the path before the move: the namespaces that the types use which are taken out of it.
    taken: BTreeMap<ProjectPath, BTreeSet<&'p str>>,
    /// Names of the types that go elsewhere, with the numbers of their type parameters.
    moved: FxHashSet<(Name, u8)>,
    /// What the namespaces hold after the move.
    held: FxHashMap<NamespaceId, Vec<EntityId>>,
    friends: Friends,
    old_paths: Vec<ProjectPath>,
}

impl Known<'_> {
    fn follower<'f, 'w>(&'f self, world: &'f mut World<'w>, file: usize) -> Follower<'f, 'w> {
        let path = &self.old_paths[file];
        Follower {
            world,
            file,
            path,
            meant: &self.meant[file].0,
            imports: &self.imports[file],
            seen_before: &self.past.seen[self.order[file]],
            moved: &self.moved,
            held: &self.held,
            friends: &self.friends,
            taken: self.taken.get(path),
        }
    }

    fn is_moved(&self, world: &World, file: usize) -> bool {
        world.project.files[file].path != self.old_paths[file]
    }

    /// Whether the names of a file have to be looked at; `is_lost` says which namespaces lead nowhere any more.
    fn is_touched(&self, world: &World, file: usize, is_lost: &dyn Fn(&String) -> bool) -> bool {
        let (meant, is_shifted) = &self.meant[file];
        let is_former = |meant: &Meant| world.former.contains_key(&world.table.outermost(meant.entity));
        let imports_gone = |import: &ImportMeant| match import {
            ImportMeant::Namespace(text) => is_lost(text),
            ImportMeant::Entity(entity) => world.former.contains_key(entity),
            ImportMeant::Outside => false,
        };
        *is_shifted
            || self.is_moved(world, file)
            || self.taken.contains_key(&self.old_paths[file])
            || meant.iter().any(is_former)
            || self.imports[file].iter().any(imports_gone)
            || sees_less(world, file, self.past)
    }

    /// Names of a file that moves which meant nothing of the project, and now would.
    fn captured(&self, world: &World, file: usize) -> Vec<String> {
        if !self.is_moved(world, file) {
            return Vec::new();
        }
        let path = &world.project.files[file].path;
        let known: BTreeSet<u32> = self.meant[file].0.iter().map(|meant| meant.used).collect();
        let now = world.references[file].references.iter().filter(|reference| !reference.extension);
        let new = now.filter(|reference| !known.contains(&reference.used));
        let name = |entity: EntityId| world.texts().text(world.table.entities[entity.index()].name);
        let warning = |name: &str| format!("{path}: `{name}` would mean a type of its new namespace");
        new.map(|reference| warning(name(reference.entity))).collect()
    }
}

/// What the uses of each file meant, in terms of the world after the move, and whether some mean something else there.
fn uses_after(world: &World, order: &Order, past: &Past, entity: &[EntityId]) -> Vec<(Vec<Meant>, bool)> {
    let of_file = |(new, old): (usize, &usize)| {
        let meant = past.references[*old].iter().map(|before| Meant {
            used: before.used,
            entity: entity[before.entity.index()],
            extension: before.extension,
            doubtful: before.doubtful,
        });
        let meant: Vec<Meant> = meant.collect();
        let is_shifted = shifted(world, new, &meant);
        (meant, is_shifted)
    };
    order.par_iter().enumerate().map(of_file).collect()
}

/// What the imports of a file meant, by its index before the move; types as they are after it.
fn imports_after(past: &Past, old: usize, entity: &[EntityId]) -> Vec<ImportMeant> {
    let imports = past.imports[old].iter().zip(&past.import_entities[old]);
    let meant = imports.map(|(import, target)| match target {
        Some(target) => ImportMeant::Entity(entity[target.index()]),
        None => import.clone(),
    });
    meant.collect()
}

/// The names of the types that go elsewhere, with the numbers of their type parameters.
fn names_of_moved(world: &World, texts: &Texts) -> FxHashSet<(Name, u8)> {
    let entities = world.table.entities.iter().filter(|entity| {
        let path = &world.project.files[entity.declarations[0].0 as usize].path;
        texts.old_path(path) != *path
    });
    entities.map(|entity| (entity.name, entity.arity)).collect()
}

/// Whether a project that holds the file sees less of the others than before.
fn sees_less(world: &World, file: usize, past: &Past) -> bool {
    let mut owners = world.ownership.owners[file].iter().map(|&owner| owner as usize);
    let lost = |owner: usize| {
        let (before, now) = (&past.ownership.usable[owner], &world.ownership.usable[owner]);
        before.iter().any(|used| now.binary_search(used).is_err())
    };
    owners.any(lost)
}

/// Whether some use of a file means something else now.
fn shifted(world: &World, file: usize, meant: &[Meant]) -> bool {
    let now = &world.references[file];
    let found: BTreeSet<(u32, EntityId)> =
        now.references.iter().chain(&now.weak).map(|reference| (reference.used, reference.entity)).collect();
    let mut sure = meant.iter().filter(|meant| !meant.doubtful);
    sure.any(|meant| !found.contains(&(meant.used, meant.entity)))
}

/// A type must not fall apart: its parts of one project stay one type.
fn keep_parts_together(
    world: &World,
    after: &ProjectFacts,
    place: &[usize],
    past: &Past,
    texts: &Texts,
    plan: &mut MovePlan,
) {
    for (entity, parts) in &past.parts {
        let now = |(file, at): (u32, u32)| world.table.declared[place[file as usize]][at as usize];
        let first = parts[0];
        let torn = parts.iter().find(|part| {
            past.ownership.together(first.0 as usize, part.0 as usize) && now(**part) != now(first)
        });
        if let Some(torn) = torn {
            let name = &past.entity_texts[entity.index()];
            let path = |file: u32| texts.old_path(&after.files[place[file as usize]].path);
            plan.refusals.push(format!(
                "{name} would fall apart: it is declared in parts in {} and {}; move them together",
                path(first.0),
                path(torn.0)
            ));
        }
    }
}
