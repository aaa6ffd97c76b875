//! Types that are spread over files: a use that only leads to a member leads to the file with that member.

use super::folders::Folders;
use super::references::{ANY_FILE, FileReferences, PARTS, Reference};
use super::{DeclaringFiles, EntityId, Table, World};
use ferngate_model::{FileFacts, MemberKind, Name, ProjectFacts, Share};
use rustc_hash::{FxHashMap, FxHashSet};

/// Parts of a type that have a like: copies of each other, or parts for several platforms of which one is built.
#[derive(Clone, Debug, Default)]
pub(super) struct Likes {
    /// Their files, sorted.
    files: DeclaringFiles,
    /// All folders around one of them.
    folders: FxHashSet<u32>,
}

/// The types whose declarations are all partial, each with those of its parts that have a like. Alike are two parts that
/// declare much of the same: values, or methods with the same parameters, of the same names.
pub(super) fn alike(project: &ProjectFacts, table: &Table, folders: &Folders) -> FxHashMap<EntityId, Likes> {
    let facts_of = |file: usize| project.files[file].facts.as_deref();
    let partial = |(file, at): &(u32, u32)| {
        let declared = facts_of(*file as usize).and_then(|facts| facts.declarations.get(*at as usize));
        declared.is_some_and(|declared| declared.share == Share::Part)
    };
    let spread = (0..table.entities.len() as u32).map(EntityId).filter(|entity| {
        let declarations = &table.entities[entity.index()].declarations;
        let first = declarations.first().map(|(file, _)| *file);
        declarations.iter().any(|(file, _)| Some(*file) != first) && declarations.iter().all(partial)
    });
    let mut alike: FxHashMap<EntityId, Likes> = spread.map(|entity| (entity, Likes::default())).collect();
    if alike.is_empty() {
        return alike;
    }
    let of_file = |(file, entities): (usize, &Vec<EntityId>)| {
        let facts = facts_of(file)
            .filter(|facts| facts.declarations.iter().any(|declared| declared.share == Share::Part));
        facts.map(|facts| told_apart(facts, file, entities, &alike)).unwrap_or_default()
    };
    let mut members: Vec<PartMember> = table.declared.iter().enumerate().flat_map(of_file).collect();
    members.sort_unstable();
    members.dedup();
    for of_type in members.chunk_by(|a, b| a.0 == b.0) {
        let files = files_with_a_like(of_type);
        let around = files.iter().flat_map(|file| folders.around(*file as usize)).collect();
        alike.insert(of_type[0].0, Likes { files, folders: around });
    }
    alike
}

/// A member of a spread type: the type, what it is told apart by, and the declaring file.
type PartMember = (EntityId, (Name, Option<Name>), u32);

/// The members that `file` declares of spread types.
fn told_apart(
    facts: &FileFacts,
    file: usize,
    entities: &[EntityId],
    spread: &FxHashMap<EntityId, Likes>,
) -> Vec<PartMember> {
    let texts: FxHashMap<u32, Name> = facts.parameter_texts.iter().copied().collect();
    let members = facts.members.iter().enumerate();
    let told_apart = members.filter_map(|(at, member)| {
        let owner = *entities.get(member.owner as usize).filter(|owner| spread.contains_key(owner))?;
        let parameters = texts.get(&(at as u32)).copied();
        // Every part has constructors, and both halves of a partial method say the same.
        let tells = member.kind != MemberKind::TypeParameter
            && member.name != Name::NEW
            && parameters != Some(Name(0));
        tells.then_some((owner, (member.name, parameters), file as u32))
    });
    told_apart.collect()
}

/// Two parts are alike if this share of the members of the smaller one is declared by the other, too.
const SHARE_OF_LIKES: usize = 4;

/// The files of one type that are alike, by its members, sorted.
fn files_with_a_like(members: &[PartMember]) -> DeclaringFiles {
    let mut declares: FxHashMap<u32, usize> = FxHashMap::default();
    let mut shares: FxHashMap<(u32, u32), usize> = FxHashMap::default();
    for same in members.chunk_by(|a, b| a.1 == b.1) {
        for (_, _, file) in same {
            *declares.entry(*file).or_default() += 1;
        }
        // Each with the one before it: what is copied often is found all the same, in linear time.
        for pair in same.windows(2) {
            *shares.entry((pair[0].2, pair[1].2)).or_default() += 1;
        }
    }
    let is_like = |(pair, shared): &(&(u32, u32), &usize)| {
        let smaller = declares[&pair.0].min(declares[&pair.1]);
        **shared * SHARE_OF_LIKES >= smaller
    };
    let mut files: DeclaringFiles =
        shares.iter().filter(is_like).flat_map(|(pair, _)| [pair.0, pair.1]).collect();
    files.sort_unstable();
    files.dedup();
    files
}

/// Of the `files` of a type those that are meant in `file`: of alike ones the nearest, and what belongs to these. In time
/// linear in the files, since the nearest are all those in one folder.
pub(super) fn meant(
    folders: &Folders,
    file: usize,
    mut files: DeclaringFiles,
    likes: &Likes,
) -> DeclaringFiles {
    if likes.files.is_empty() {
        return files;
    }
    let nearest = |to: usize| folders.around(to).find(|folder| likes.folders.contains(folder)).unwrap_or(0);
    let here = nearest(file);
    files.retain(|part| {
        let there = nearest(*part as usize);
        let has_a_like = likes.files.binary_search(part).is_ok();
        folders.holds(here, there) || !has_a_like && folders.holds(there, here)
    });
    files
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
/// files, `taken` of calls of functions that differ in what they take, and of those that extend what they are called on; a
/// call that can mean none of these is dropped.
pub(super) fn narrow(
    world: &World,
    file: usize,
    found: &mut FileReferences,
    members: &[(u32, u32)],
    taken: impl Fn(&Reference) -> Option<DeclaringFiles>,
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
    let doubtful = &mut found.doubtful;
    found.references.retain_mut(|reference| {
        let files = match (taken(reference), behind.get(&reference.used)) {
            (Some(files), _) if files.is_empty() => {
                doubtful.extend(world.keeps_members.then_some(*reference));
                return false;
            }
            (Some(files), _) => files,
            (None, Some(all)) if all.count == reference.count => all.files.clone(),
            (None, _) => return true,
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
