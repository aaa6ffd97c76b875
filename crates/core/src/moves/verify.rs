//! The proof: planned texts are read again, and every file must refer to what it referred to before.

use super::past::{Before, Made, Past};
use super::texts::Texts;
use super::{Ground, MoveError, MovePlan};
use crate::resolve::World;
use ferngate_model::{Context, Language, ProjectFacts, ProjectPath, ReadOptions};
use rayon::prelude::*;
use std::collections::BTreeMap;

/// How many lost names a refusal lists.
const LISTED: usize = 8;

/// What a file names: full name to count, and whether all of them are calls of extension methods.
pub type Named = BTreeMap<String, (u32, bool)>;

/// Reads the changed code of `after` anew, resolves everything and compares each file's references with
/// `expected`. Returns the world as it will be.
pub fn verify<'p>(
    after: &'p mut ProjectFacts,
    expected: &[Named],
    texts: &Texts,
    languages: &'p [&'p dyn Language],
    plan: &mut MovePlan,
) -> World<'p> {
    let planned: Vec<Option<&[u8]>> = after.files.iter().map(|file| texts.planned(&file.path)).collect();
    after.files.par_iter_mut().zip(planned).for_each(|(file, text)| {
        if let (Some(language), Some(text)) = (file.language, text) {
            let options = ReadOptions { occurrences: false, weak: true };
            file.facts = Some(Box::new(languages[language].facts(text, options)));
        }
    });
    let after = &*after;
    let world = World::new(after, languages);
    let compare = |(file, expected): (usize, &Named)| {
        let found = found_in(&world, file);
        let now = |name: &String| found.get(name).map_or(0, |(count, _)| *count);
        let kept: u64 = expected.iter().map(|(name, (count, _))| u64::from(now(name).min(*count))).sum();
        (differences(expected, &found, &after.files[file].path), kept)
    };
    let compared: Vec<(Vec<String>, u64)> = expected.par_iter().enumerate().map(compare).collect();
    let mut lost: Vec<String> = Vec::new();
    for (differing, kept) in compared {
        lost.extend(differing);
        plan.proved += kept;
    }
    plan.refusals.extend(refusal(&lost));
    world
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

/// What each file names, before types are taken out of them.
pub fn named_in_files(world: &World) -> BTreeMap<ProjectPath, Named> {
    let files = world.project.files.par_iter().enumerate();
    files.map(|(at, file)| (file.path.clone(), found_in(world, at))).collect()
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
