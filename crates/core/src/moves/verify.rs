//! The proof: planned texts are read again, and every file must refer to what it referred to before.

use super::past::{Before, Made, Past};
use super::texts::Texts;
use super::{Ground, MoveError, MovePlan};
use crate::resolve::World;
use ferngate_model::{Context, ProjectFacts, ProjectPath, ReadOptions};
use rayon::prelude::*;
use std::collections::BTreeMap;

/// How many lost names a refusal lists.
const LISTED: usize = 8;

/// What a file names: full name to count, and whether all of them are calls of extension methods.
pub type Named = BTreeMap<String, (u32, bool)>;

/// Reads the changed code of `after` anew, resolves everything and compares each file's references with
/// `expected`. Returns the project as it will be.
pub fn verify(
    mut after: ProjectFacts,
    expected: &[Named],
    texts: &mut Texts,
    ground: &Ground,
    plan: &mut MovePlan,
) -> Result<ProjectFacts, MoveError> {
    for file in &mut after.files {
        let old = texts.old_path(&file.path);
        if let (true, Some(language)) = (texts.changed.contains_key(&old), file.language) {
            let text = texts.get(&old)?;
            let options = ReadOptions { occurrences: false, weak: true };
            file.facts = Some(Box::new(ground.languages[language].facts(text, options)));
        }
    }
    let world = World::new(&after, ground.languages);
    let mut lost: Vec<String> = Vec::new();
    let all: Vec<Named> = (0..after.files.len()).into_par_iter().map(|file| found_in(&world, file)).collect();
    for (file, (expected, found)) in expected.iter().zip(all).enumerate() {
        lost.extend(differences(expected, &found, &after.files[file].path));
        let now = |name: &String| found.get(name).map_or(0, |(count, _)| *count);
        plan.proved +=
            expected.iter().map(|(name, (count, _))| u64::from(now(name).min(*count))).sum::<u64>();
    }
    plan.refusals.extend(refusal(&lost));
    drop(world);
    Ok(after)
}

/// Reads the changed manifests of `after` anew.
pub fn read_manifests(after: &mut ProjectFacts, texts: &mut Texts, ground: &Ground) -> Result<(), MoveError> {
    for manifest in &mut after.manifests {
        let Some(path) = manifest.path.clone() else { continue };
        let old = texts.old_path(&path);
        if texts.changed.contains_key(&old) {
            let text = texts.get(&old)?.to_vec();
            if let Some(read) = (ground.read_manifest)(&path, &text) {
                *manifest = read;
            }
        }
    }
    Ok(())
}

/// What the file at `path` named and does not any more, or does now and did not.
fn differences(expected: &Named, found: &Named, path: &ProjectPath) -> Vec<String> {
    let mut lost = Vec::new();
    for (name, (count, extension)) in expected {
        let now = found.get(name).map_or(0, |(count, _)| *count);
        if now < *count && !extension || now == 0 {
            lost.push(format!("{name} in {path}"));
        }
    }
    for (name, (_, extension)) in found {
        if !expected.contains_key(name) && !extension {
            lost.push(format!("{path} would newly mean {name}"));
        }
    }
    lost
}

/// Why a move in which `lost` would change must not be made.
fn refusal(lost: &[String]) -> Option<String> {
    let shown = lost[..lost.len().min(LISTED)].join("; ");
    let more = match lost.len().saturating_sub(LISTED) {
        0 => String::new(),
        more => format!(" … and {more} more"),
    };
    let count = lost.len();
    (count > 0).then(|| format!("{count} names would not mean what they mean now: {shown}{more}"))
}

/// What each file of `project` names, before types are taken out of them.
pub fn named_in_files(project: &ProjectFacts, ground: &Ground) -> BTreeMap<ProjectPath, Named> {
    let world = World::new(project, ground.languages);
    let files = project.files.par_iter().enumerate();
    files.map(|(at, file)| (file.path.clone(), found_in(&world, at))).collect()
}

/// Why types cannot be taken out as planned: a file with what was taken out of it must name what it named.
pub fn refuse_if_torn(
    before: &BTreeMap<ProjectPath, Named>,
    project: &ProjectFacts,
    past: &Past,
    made: &[Made],
) -> Option<String> {
    let mut after: BTreeMap<&ProjectPath, Named> = BTreeMap::new();
    for (file, references) in project.files.iter().zip(&past.references) {
        let origin = made.iter().find(|made| made.key == file.path).map_or(&file.path, |made| &made.origin);
        let named = after.entry(origin).or_default();
        name(references, &past.entity_texts, named);
    }
    let lost = before.iter().flat_map(|(path, named)| match after.get(path) {
        Some(after) => differences(named, after, path),
        None => Vec::new(),
    });
    refusal(&lost.collect::<Vec<_>>())
}

/// Adds what `references` name to `named`, by the full names in `texts`.
pub fn name(references: &[Before], texts: &[String], named: &mut Named) {
    for before in references.iter().filter(|before| before.counts) {
        let entry = named.entry(texts[before.entity.index()].clone()).or_insert((0, true));
        entry.0 += before.count;
        entry.1 &= before.extension;
    }
}

fn found_in(world: &World, file: usize) -> Named {
    let mut found = Named::new();
    let Some(facts) = &world.project.files[file].facts else { return found };
    for reference in &world.references[file].references {
        if facts.uses[reference.used as usize].context == Context::Import {
            continue;
        }
        let entry = found.entry(world.table.entity_text(reference.entity)).or_insert((0, true));
        entry.0 += reference.count;
        entry.1 &= reference.extension;
    }
    found
}
