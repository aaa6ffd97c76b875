//! From a request to a plan: the four steps in order.

use super::declared::rename_namespaces;
use super::extract::extract;
use super::following::{Renamed, follow_names};
use super::judge::{self, Judge};
use super::manifests::{Paths, follow_paths, follow_uses, uses_of};
use super::mentions::MovedType;
use super::past::{
    Made, Order, Past, key_of_taken, origin_of_taken, ownership_after, places, remember, resolve_with_made,
};
use super::request::{Expanded, expand};
use super::texts::Texts;
use super::verify::Named;
use super::{
    Ground, MoveError, MoveOptions, MovePlan, Request, builds, comments, mentions, outside, symbols, verify,
    widen,
};
use crate::findings::Finding;
use crate::resolve::{FileTie, Ownership, World};
use ferngate_model::{ProjectFacts, ProjectPath, ReadOptions, SourceFile};
use rayon::prelude::*;
use std::collections::{BTreeMap, BTreeSet};

/// Plans `requests` on `project`, whose facts must hold weak mentions. `judge` says what is wrong before and after.
///
/// # Errors
/// Where the request itself makes no sense; a move that makes sense but must not be made comes back as a plan with
/// refusals.
pub fn plan_moves(
    mut project: ProjectFacts,
    ground: &Ground,
    requests: &[Request],
    options: MoveOptions,
    judge: &mut dyn Judge,
) -> Result<MovePlan, MoveError> {
    let mut texts = Texts::new(ground);
    let mut plan = MovePlan::default();
    let Start { expanded, moved, made, past, found } =
        start(&mut project, ground, requests, &mut texts, &mut plan, judge)?;
    let paths = Paths { files: &moved, folders: &expanded.folders };
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
    let expected = expected(&past, &order, &renamed);
    let world = verify::verify(&mut after, &expected, &texts, ground.languages, &mut plan);
    let files = mentions::Searched { paths, types: &moved_types(&after_owners, &past, &renamed) };
    mentions::follow(&files, &all, &mut texts, options, &mut plan)?;
    texts.apply()?;
    let pairs = past.entity_texts.iter().cloned().zip(renamed.text.iter().cloned());
    let pairs: BTreeSet<(String, String)> = pairs.filter(|(old, new)| old != new).collect();
    plan.renamed_types = pairs.into_iter().collect();
    finish(&mut plan, texts, &moved, expanded)?;
    judge::compare(&found, world, judge, &mut plan);
    // The project is made of millions of small pieces: whoever planned may drop it, or leave it.
    plan.after = after;
    Ok(plan)
}

/// What is known before anything is planned.
struct Start {
    expanded: Expanded,
    moved: Moved,
    made: Vec<Made>,
    past: Past,
    found: Vec<Finding>,
}

/// Resolves everything as it is, and takes out the types that leave their files.
fn start(
    project: &mut ProjectFacts,
    ground: &Ground,
    requests: &[Request],
    texts: &mut Texts,
    plan: &mut MovePlan,
    judge: &mut dyn Judge,
) -> Result<Start, MoveError> {
    let mut world = World::with_imports(project, ground.languages);
    let expanded = expand(requests, project, &world.table, ground)?;
    world.keeps_members = expanded.types.is_empty();
    world.resolve();
    if expanded.types.is_empty() {
        let past = remember(&world);
        let found = judge.findings(world, None).map_err(MoveError::Map)?;
        let (moved, made) = take_out_types(project, &expanded, texts, ground)?;
        return Ok(Start { expanded, moved, made, past, found });
    }
    let named = verify::named_in_files(&world);
    let found = judge.findings(world, None).map_err(MoveError::Map)?;
    let (moved, made) = take_out_types(project, &expanded, texts, ground)?;
    let past = remember(&resolve_with_made(project, ground.languages, &made));
    plan.refusals.extend(verify::refuse_if_torn(&named, project, &past, &made));
    Ok(Start { expanded, moved, made, past, found })
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
        let key = key_of_taken(&source.path, *declaration);
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
    order.par_iter().map(of).collect()
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
fn finish(plan: &mut MovePlan, mut texts: Texts, moved: &Moved, expanded: Expanded) -> Result<(), MoveError> {
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
    let real = moved.iter().filter(|(old, _)| origin_of_taken(old).is_none());
    plan.renames = real.map(|(old, new)| (old.clone(), new.clone())).collect();
    for change in &mut texts.log {
        if origin_of_taken(&change.path).is_some() {
            change.path = after(&change.path);
        }
    }
    plan.folders = expanded.folders;
    plan.changes = texts.log;
    plan.changes.sort_by(|a, b| (&a.path, a.what, &a.detail).cmp(&(&b.path, b.what, &b.detail)));
    Ok(())
}
