//! Types that are spread over files: a use that only leads to a member leads to the file with that member.

use super::references::{ANY_FILE, FileReferences, PARTS, Reference};
use super::{DeclaringFiles, EntityId, Table, World};
use ferngate_model::{FileFacts, MemberKind, Name, ProjectFacts};
use rustc_hash::{FxHashMap, FxHashSet};

/// The types whose declarations are all partial and no two of them alike: the parts of one type, and not a type and
/// copies of it. Alike are parts of which two declare a value, or a method with as many parameters, of the same name.
pub(super) fn divided(project: &ProjectFacts, table: &Table) -> FxHashSet<EntityId> {
    let facts_of = |file: usize| project.files[file].facts.as_deref();
    let partial = |(file, at): &(u32, u32)| {
        let declared = facts_of(*file as usize).and_then(|facts| facts.declarations.get(*at as usize));
        declared.is_some_and(|declared| declared.partial)
    };
    let spread = (0..table.entities.len() as u32).map(EntityId).filter(|entity| {
        let declarations = &table.entities[entity.index()].declarations;
        let first = declarations.first().map(|(file, _)| *file);
        declarations.iter().any(|(file, _)| Some(*file) != first) && declarations.iter().all(partial)
    });
    let mut divided: FxHashSet<EntityId> = spread.collect();
    if divided.is_empty() {
        return divided;
    }
    let mut declared: FxHashMap<(EntityId, Name, u32), usize> = FxHashMap::default();
    let mut alike: Vec<EntityId> = Vec::new();
    for (file, entities) in table.declared.iter().enumerate() {
        let facts = facts_of(file).filter(|facts| facts.declarations.iter().any(|declared| declared.partial));
        for member in facts.into_iter().flat_map(|facts| &facts.members) {
            let Some(owner) = entities.get(member.owner as usize).filter(|owner| divided.contains(*owner))
            else {
                continue;
            };
            let parameters = match member.kind {
                MemberKind::TypeParameter => continue,
                MemberKind::Method | MemberKind::Extension => member.parameters.count + 1,
                MemberKind::Value | MemberKind::Static => member.parameters.count,
            };
            if member.name != Name::NEW
                && *declared.entry((*owner, member.name, parameters)).or_insert(file) != file
            {
                alike.push(*owner);
            }
        }
    }
    alike.iter().for_each(|entity| {
        divided.remove(entity);
    });
    divided
}

/// What is used behind the name of a type.
#[derive(Default)]
struct Behind {
    /// How often.
    count: u32,
    /// The files that declare it.
    files: DeclaringFiles,
}

/// Says of each reference to a spread type which of its files are meant. `members` tells of uses of members the declaring
/// files, `taken` of calls of methods that extend what they are called on; a call that can mean none of them is dropped.
pub(super) fn narrow(
    world: &World,
    file: usize,
    found: &mut FileReferences,
    members: &[(u32, u32)],
    taken: impl Fn(&Reference) -> DeclaringFiles,
) {
    let Some(facts) = &world.project.files[file].facts else { return };
    let mut parts: Vec<(u32, EntityId, u32)> = Vec::new();
    let spread = |reference: &Reference| reference.file == ANY_FILE && world.is_spread(reference.entity);
    let mut behind: FxHashMap<u32, Behind> = FxHashMap::default();
    for reference in found.references.iter().filter(|reference| !reference.extension && spread(reference)) {
        behind.insert(reference.used, Behind::default());
    }
    if !behind.is_empty() {
        let nested = found.references.iter().filter(|reference| !reference.extension);
        let nested = nested.map(|of| (of.used, world.declaring_files(of.entity, file)));
        let members = members.chunk_by(|a, b| a.0 == b.0);
        let members = members.map(|same| (same[0].0, same.iter().map(|member| member.1).collect()));
        look_behind(facts, nested.chain(members), &mut behind);
    }
    found.references.retain_mut(|reference| {
        let files = if reference.extension {
            let files = taken(reference);
            if files.is_empty() {
                return false;
            }
            files
        } else {
            match behind.get(&reference.used) {
                Some(all) if all.count == reference.count => all.files.clone(),
                _ => return true,
            }
        };
        match files[..] {
            [only] => reference.file = only,
            _ => {
                reference.file = PARTS;
                parts.extend(files.iter().map(|file| (reference.used, reference.entity, *file)));
            }
        }
        true
    });
    parts.sort_unstable();
    parts.dedup();
    found.parts = parts;
}

/// Counts the uses right behind those in `behind`; each use with the files that it leads to.
fn look_behind(
    facts: &FileFacts,
    uses: impl Iterator<Item = (u32, DeclaringFiles)>,
    behind: &mut FxHashMap<u32, Behind>,
) {
    for (used, files) in uses {
        let used = &facts.uses[used as usize];
        let Some(of) = used.parent.get().err().and_then(|parent| behind.get_mut(&parent)) else { continue };
        of.count += used.count;
        of.files.extend(files);
    }
    for of in behind.values_mut() {
        of.files.sort_unstable();
        of.files.dedup();
    }
}
