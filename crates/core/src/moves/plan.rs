//! From a request to a plan: the four steps in order.

use super::conditions::common_condition;
use super::declared::rename_namespaces;
use super::extract::extract;
use super::manifests::{Paths, follow_paths, follow_uses, uses_of};
use super::mentions::MovedType;
use super::names::{Follower, ImportMeant, Meant};
use super::past::{Made, Order, Past, living_namespaces, ownership_after, places, remember, used_by_taken};
use super::request::{Expanded, expand};
use super::shared::follow_shared_imports;
use super::texts::Texts;
use super::verify::Named;
use super::{
    Ground, MoveError, MoveOptions, MovePlan, Request, builds, comments, mentions, outside, symbols, verify,
    widen,
};
use crate::resolve::{EntityId, FileTie, Ownership, World};
use ferngate_model::{Name, ProjectFacts, ProjectPath, ReadOptions, SourceFile};
use rayon::prelude::*;
use rustc_hash::FxHashSet;
use std::collections::{BTreeMap, BTreeSet};

/// Plans `requests` on `project`, whose facts must hold weak mentions.
///
/// # Errors
/// Where the request itself makes no sense; a move that makes sense but must not be made comes back as a plan with
/// refusals.
pub fn plan_moves(
    mut project: ProjectFacts,
    ground: &Ground,
    requests: &[Request],
    options: MoveOptions,
) -> Result<MovePlan, MoveError> {
    let mut texts = Texts::new(ground);
    let expanded = {
        let world = World::with_imports(&project, ground.languages);
        expand(requests, &project, &world.table, ground)?
    };
    let mut plan = MovePlan::default();
    let named = (!expanded.types.is_empty()).then(|| verify::named_in_files(&project, ground));
    let (moved, made) = take_out_types(&mut project, &expanded, &mut texts, ground)?;
    let paths = Paths { files: &moved, folders: &expanded.folders };
    let past = remember(&project, ground, &made);
    plan.refusals.extend(named.and_then(|named| verify::refuse_if_torn(&named, &project, &past, &made)));
    follow_paths(&project, &paths, &made_paths(&made), &mut texts)?;
    texts.apply()?;
    let (mut after, order) = relocate(project, &paths, &mut texts, ground)?;
    rename_namespaces(&mut after, &past, &mut texts)?;
    follow_manifests(&mut after, &order, &past, &mut texts, &mut plan, ground)?;
    let renamed = follow_names(&after, &order, &past, &mut texts, &mut plan, ground)?;
    widen::widen(&after, &order, &past, options, &mut texts, &mut plan);
    texts.apply()?;
    verify::read_manifests(&mut after, &mut texts, ground)?;
    let ownership = ownership_after(&after, &order, &past, &texts);
    let after_owners = owners_after(&after, &order, &ownership);
    builds::refuse_losses(&after, &order, &past, &ownership, &texts, &mut plan);
    symbols::warn(&after, &order, &past, &ownership, &mut texts, ground, &mut plan)?;
    comments::warn(&after, &order, &past, &ownership, &renamed.text, &mut plan);
    let all: Vec<ProjectPath> = after.files.iter().map(|file| texts.old_path(&file.path)).collect();
    plan.after = verify::verify(after, &expected(&past, &order, &renamed), &mut texts, ground, &mut plan)?;
    let files = mentions::Searched {
        moved: &moved,
        folders: &expanded.folders,
        types: &moved_types(&after_owners, &past, &renamed),
    };
    mentions::follow(&files, &all, &mut texts, options, &mut plan)?;
    texts.apply()?;
    let pairs = past.entity_texts.iter().cloned().zip(renamed.text.iter().cloned());
    let pairs: BTreeSet<(String, String)> = pairs.filter(|(old, new)| old != new).collect();
    plan.renamed_types = pairs.into_iter().collect();
    finish(&mut plan, texts, &moved, &expanded)?;
    Ok(plan)
}

fn made_paths(made: &[Made]) -> Vec<(ProjectPath, ProjectPath)> {
    made.iter().map(|made| (made.path.clone(), made.origin.clone())).collect()
}

type Moved = BTreeMap<ProjectPath, ProjectPath>;

/// Splits types off their files, as files of their own that then move like others.
fn take_out_types(
    project: &mut ProjectFacts,
    expanded: &Expanded,
    texts: &mut Texts,
    ground: &Ground,
) -> Result<(Moved, Vec<Made>), MoveError> {
    let mut moved: Moved =
        expanded.files.iter().map(|(file, new)| (project.files[*file].path.clone(), new.clone())).collect();
    let mut made = Vec::new();
    let mut new_files = Vec::new();
    let mut origins = BTreeSet::new();
    for (file, declaration, new) in &expanded.types {
        let source = &project.files[*file];
        let (Some(facts), Some(language)) = (&source.facts, source.language) else { continue };
        let text = extract(texts, &source.path, facts, *declaration, ground.languages[language])?;
        let key = ProjectPath::new(&format!("{}#{declaration}", source.path));
        let options = ReadOptions { occurrences: false, weak: true };
        let facts = ground.languages[language].facts(&text, options);
        texts.create(&key, text);
        new_files.push(SourceFile {
            path: key.clone(),
            language: Some(language),
            facts: Some(Box::new(facts)),
        });
        moved.insert(key.clone(), new.clone());
        made.push(Made { key, path: new.clone(), origin: source.path.clone() });
        origins.insert(*file);
    }
    texts.apply()?;
    for file in origins {
        let path = project.files[file].path.clone();
        if let Some(language) = project.files[file].language {
            let text = texts.get(&path)?;
            let facts =
                ground.languages[language].facts(text, ReadOptions { occurrences: false, weak: true });
            project.files[file].facts = Some(Box::new(facts));
        }
    }
    project.files.extend(new_files);
    project.files.sort_by(|a, b| a.path.cmp(&b.path));
    Ok((moved, made))
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

/// The project with everything in its new place.
fn relocate(
    project: ProjectFacts,
    paths: &Paths,
    texts: &mut Texts,
    ground: &Ground,
) -> Result<(ProjectFacts, Order), MoveError> {
    let mut files: Vec<(usize, SourceFile)> = project.files.into_iter().enumerate().collect();
    for (_, file) in &mut files {
        let new = paths.after(&file.path);
        texts.rename(&file.path, &new);
        file.path = new;
    }
    files.sort_by(|a, b| a.1.path.cmp(&b.1.path));
    let (order, files): (Order, Vec<SourceFile>) = files.into_iter().unzip();
    let mut manifests = project.manifests;
    for manifest in &mut manifests {
        let Some(old) = manifest.path.clone() else { continue };
        let new = paths.after(&old);
        if texts.changed.contains_key(&old) || new != old {
            let text = texts.get(&old)?.to_vec();
            if let Some(read) = (ground.read_manifest)(&new, &text) {
                *manifest = read;
            }
        }
    }
    let after = ProjectFacts { files, manifests, ..project };
    Ok((after, order))
}

/// What each type is called afterwards, by its index before.
struct Renamed {
    text: Vec<String>,
}

fn follow_names(
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
    let text: Vec<String> = entity.iter().map(|entity| world.table.entity_text(*entity)).collect();
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
    let taken = used_by_taken(&after.files, order, past, texts);
    let moved = names_of_moved(&world, texts);
    let known = uses_after(&world, order, past, &entity);
    for (new, old) in order.iter().enumerate() {
        let (meant, is_shifted) = &known[new];
        let imports = imports_after(past, *old, &entity);
        let is_moved = texts.old_path(&after.files[new].path) != after.files[new].path;
        let names_moved = meant.iter().any(|meant| {
            let outermost = world.table.outermost(meant.entity);
            world.former.contains_key(&outermost) || is_moved
        });
        let imports_gone = imports.iter().any(|import| match import {
            ImportMeant::Namespace(text) => gone.contains(text) || conditional.contains(text),
            ImportMeant::Entity(entity) => world.former.contains_key(entity),
            ImportMeant::Outside => false,
        });
        if is_moved {
            let path = &after.files[new].path;
            let warnings = captured(&world, new, meant).into_iter();
            plan.warnings.extend(
                warnings.map(|name| format!("{path}: `{name}` would mean a type of its new namespace")),
            );
        }
        let old_path = texts.old_path(&after.files[new].path);
        let taken = taken.get(&old_path);
        let is_touched = names_moved
            || imports_gone
            || is_moved
            || taken.is_some()
            || *is_shifted
            || sees_less(&world, new, past);
        let mut follower = Follower {
            world: &mut world,
            file: new,
            path: &old_path,
            meant,
            imports: &imports,
            seen_before: &past.seen[*old],
            moved: &moved,
            taken,
        };
        let is_clear =
            || after.files[new].facts.as_deref().is_none_or(|facts| follower.unclear(facts).is_empty());
        if !is_touched && is_clear() {
            continue;
        }
        follower.follow(texts)?;
    }
    Ok(Renamed { text })
}

/// What the uses of each file meant, in terms of the world after the move, and whether some mean something else there.
fn uses_after(world: &World, order: &Order, past: &Past, entity: &[EntityId]) -> Vec<(Vec<Meant>, bool)> {
    let of_file = |(new, old): (usize, &usize)| {
        let meant = past.references[*old].iter().map(|before| Meant {
            used: before.used,
            entity: entity[before.entity.index()],
            extension: before.extension,
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
    meant.iter().any(|meant| !found.contains(&(meant.used, meant.entity)))
}

/// Names that meant nothing of the project and now would.
fn captured(world: &World, file: usize, meant: &[Meant]) -> Vec<String> {
    let known: BTreeSet<u32> = meant.iter().map(|meant| meant.used).collect();
    let now = world.references[file].references.iter().filter(|reference| !reference.extension);
    let new = now.filter(|reference| !known.contains(&reference.used));
    new.map(|reference| world.texts().text(world.table.entities[reference.entity.index()].name).to_owned())
        .collect()
}

/// Manifests refer to what their code uses now, and are read anew: names see by them what they will see.
fn follow_manifests(
    after: &mut ProjectFacts,
    order: &Order,
    past: &Past,
    texts: &mut Texts,
    plan: &mut MovePlan,
    ground: &Ground,
) -> Result<(), MoveError> {
    let ownership = ownership_after(after, order, past, texts);
    let place = places(order);
    let old_ties: Vec<FileTie> = past.ties.iter().copied().chain(ties_to_bases(after, past)).collect();
    let moved = |tie: &FileTie| FileTie {
        from: place[tie.from as usize] as u32,
        to: place[tie.to as usize] as u32,
        references: tie.references,
    };
    let ties: Vec<FileTie> = old_ties.iter().map(moved).collect();
    let before = uses_of(&past.ownership, &old_ties);
    let uses = uses_of(&ownership, &ties);
    for cycle in follow_uses(after, &ownership, &before, &uses, texts) {
        let names: Vec<&str> =
            cycle.iter().map(|&manifest| after.manifests[manifest as usize].name.as_str()).collect();
        let refusal =
            format!("projects would refer to each other, which cannot be built: {}", names.join(", "));
        plan.refusals.insert(0, refusal);
    }
    outside::follow(after, order, past, &ownership, texts, plan)?;
    let manifests: BTreeSet<ProjectPath> =
        after.manifests.iter().filter_map(|manifest| Some(texts.old_path(manifest.path.as_ref()?))).collect();
    texts.apply_where(|path| manifests.contains(path))?;
    verify::read_manifests(after, texts, ground)
}

/// From each file whose compiler must know them to what the types that it uses are made of, by files before the move.
fn ties_to_bases(project: &ProjectFacts, past: &Past) -> Vec<FileTie> {
    let mut ties = Vec::new();
    for (file, references) in past.references.iter().enumerate() {
        let owners = &past.ownership.owners[file];
        if !owners.iter().any(|owner| project.manifests[*owner as usize].needs_bases) {
            continue;
        }
        let declaring =
            past.bases_of_used(references).into_iter().map(|base| past.first_declaration[base.index()].0);
        let declaring: BTreeSet<u32> = declaring.collect();
        ties.extend(declaring.into_iter().map(|to| FileTie { from: file as u32, to, references: 0 }));
    }
    ties
}

/// For each file after the move, the names that it must refer to, with counts.
fn expected(past: &Past, order: &Order, renamed: &Renamed) -> Vec<Named> {
    let of = |old: &usize| {
        let mut named = Named::new();
        verify::name(&past.references[*old], &renamed.text, &mut named);
        named
    };
    order.iter().map(of).collect()
}

/// For each file before the move, the name of the manifest that holds it afterwards.
fn owners_after(after: &ProjectFacts, order: &Order, ownership: &Ownership) -> Vec<Option<String>> {
    let mut owners = vec![None; order.len()];
    for (new, old) in order.iter().enumerate() {
        owners[*old] =
            ownership.owners[new].first().map(|&owner| after.manifests[owner as usize].name.clone());
    }
    owners
}

/// Types with another full name, or in another manifest's assembly.
fn moved_types(after_owners: &[Option<String>], past: &Past, renamed: &Renamed) -> Vec<MovedType> {
    let mut types: Vec<MovedType> = Vec::new();
    for (at, old) in past.entity_texts.iter().enumerate() {
        let (file, _) = past.first_declaration[at];
        let before =
            past.ownership.owners[file as usize].first().map(|&owner| &past.manifest_names[owner as usize]);
        let assembly = match (before, &after_owners[file as usize]) {
            (Some(before), Some(after)) if before != after => Some((before.clone(), after.clone())),
            _ => None,
        };
        let new = &renamed.text[at];
        if old != new || assembly.is_some() {
            types.push(MovedType { old: old.clone(), new: new.clone(), assembly });
        }
    }
    types.sort();
    types.dedup_by(|a, b| a.old == b.old);
    types
}

/// Turns the texts into the plan's files.
fn finish(
    plan: &mut MovePlan,
    mut texts: Texts,
    moved: &Moved,
    expanded: &Expanded,
) -> Result<(), MoveError> {
    let after = |path: &ProjectPath| Paths { files: moved, folders: &expanded.folders }.after(path);
    let changed: Vec<(ProjectPath, bool)> =
        texts.changed.iter().map(|(path, made)| (path.clone(), *made)).collect();
    for (path, made) in changed {
        let new = after(&path);
        if made {
            plan.created.push(new.clone());
        }
        plan.contents.insert(new, texts.get(&path)?.to_vec());
    }
    let real = moved.iter().filter(|(old, _)| !old.as_str().contains('#'));
    plan.renames = real.map(|(old, new)| (old.clone(), new.clone())).collect();
    for change in &mut texts.log {
        if change.path.as_str().contains('#') {
            change.path = after(&change.path);
        }
    }
    plan.changes = texts.log;
    plan.changes.sort_by(|a, b| (&a.path, a.what, &a.detail).cmp(&(&b.path, b.what, &b.detail)));
    Ok(())
}
