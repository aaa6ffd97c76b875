//! The proof: planned texts are read again, and every file must refer to what it referred to before.

use super::texts::Texts;
use super::{Ground, MoveError, MovePlan};
use crate::resolve::World;
use ferngate_model::{Context, ProjectFacts, ReadOptions};
use std::collections::BTreeMap;

/// How many lost names a refusal lists.
const LISTED: usize = 8;

/// Reads the changed files of `after` anew, resolves everything and compares each file's references with
/// `expected`: full name to count, and whether all of them are calls of extension methods. Returns the project as it
/// will be.
pub fn verify(
    mut after: ProjectFacts,
    expected: &[BTreeMap<String, (u32, bool)>],
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
    let world = World::new(&after, ground.languages);
    let mut lost: Vec<String> = Vec::new();
    for (file, expected) in expected.iter().enumerate() {
        let found = found_in(&world, file);
        for (name, (count, extension)) in expected {
            let now = found.get(name).map_or(0, |(count, _)| *count);
            if now < *count && !extension || now == 0 {
                lost.push(format!("{name} in {}", after.files[file].path));
            }
            plan.proved += u64::from(now.min(*count));
        }
        for (name, (_, extension)) in &found {
            if !expected.contains_key(name) && !extension {
                lost.push(format!("{} would newly mean {name}", after.files[file].path));
            }
        }
    }
    if !lost.is_empty() {
        let more = if lost.len() > LISTED {
            format!(" … and {} more", lost.len() - LISTED)
        } else {
            String::new()
        };
        let shown = lost[..lost.len().min(LISTED)].join("; ");
        plan.refusals.push(format!("{} names would not mean what they mean now: {shown}{more}", lost.len()));
    }
    drop(world);
    Ok(after)
}

fn found_in(world: &World, file: usize) -> BTreeMap<String, (u32, bool)> {
    let mut found: BTreeMap<String, (u32, bool)> = BTreeMap::new();
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
