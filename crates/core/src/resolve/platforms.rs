//! Names that are declared once for all platforms and answered by each of them, as `expect` and `actual` say in Kotlin.
//!
//! What is built at a time is the common code with one platform. Which one that is no file of another module says, so a
//! use means what is expected, unless an answer lies nearer: code of a platform means its own.
//!
//! The same holds for sources of a later version of the platform, which lie beside those for all as `java9` beside `java`.

use super::{DeclaringFiles, EntityId, World};
use ferngate_model::{Language, ProjectFacts, Share, SourceFile};
use rustc_hash::FxHashMap;

/// Of the `files` that declare `entity`, keeps those that a use in `file` can mean.
pub(super) fn keep_meant(world: &World, entity: EntityId, file: usize, files: &mut DeclaringFiles) {
    let declared = &world.table.entities[entity.index()].declarations;
    let shared = |other: u32| world.ownership.folders().shared(file, other as usize);
    let files_with = |share: Share| {
        let with = declared.iter().filter(move |declaration| world.share_of(**declaration) == share);
        with.map(|declaration| declaration.0)
    };
    let expected = files_with(Share::Expected).map(shared).max().unwrap_or_default();
    let nearest = files_with(Share::Actual).map(shared).max().filter(|nearest| *nearest > expected);
    // What neither is expected nor answers, such as a function of the name that takes something else, is the same for all.
    let kept = |other: u32| match nearest {
        Some(nearest) => files_with(Share::Actual).any(|actual| actual == other) && shared(other) == nearest,
        None => files_with(Share::Expected).any(|expected| expected == other),
    };
    let for_all: DeclaringFiles = files_with(Share::Whole).collect();
    files.retain(|other| for_all.contains(other) || kept(*other));
}

/// The files that hold the source of another one for a later version, each with that other one.
pub(super) fn later_versions(project: &ProjectFacts, languages: &[&dyn Language]) -> FxHashMap<u32, u32> {
    let later = |(at, file): (usize, &SourceFile)| {
        let folder = languages[file.language?].naming().versioned_folder;
        let of_all = project.file(&of_all_versions(file.path.as_str(), folder)?)?;
        Some((at as u32, of_all as u32))
    };
    project.files.iter().enumerate().filter_map(later).collect()
}

/// `path` with the number left out that stands behind the name of the first folder called `versioned`.
fn of_all_versions(path: &str, versioned: &str) -> Option<String> {
    let has_number = |part: &str| {
        let number = part.strip_prefix(versioned).unwrap_or_default();
        !versioned.is_empty() && !number.is_empty() && number.bytes().all(|byte| byte.is_ascii_digit())
    };
    let mut parts: Vec<&str> = path.split('/').collect();
    let (_, folders) = parts.split_last_mut()?;
    *folders.iter_mut().find(|part| has_number(part))? = versioned;
    Some(parts.join("/"))
}

/// Of a file for all versions and one for a later version keeps, among `files`, the one that `file` means.
pub(super) fn keep_version(world: &World, file: usize, files: &mut DeclaringFiles) {
    let shared = |other: u32| world.ownership.folders().shared(file, other as usize);
    for later in files.clone() {
        if let Some(of_all) = world.later_versions.get(&later).filter(|of_all| files.contains(of_all)) {
            let unmeant = if shared(later) > shared(*of_all) { *of_all } else { later };
            files.retain(|file| *file != unmeant);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::of_all_versions;

    #[test]
    fn a_number_behind_the_folder_of_sources_tells_a_later_version() {
        let of_all = |path: &str| of_all_versions(path, "java");
        assert_eq!(of_all("src/main/java17/moss/Bed.java").as_deref(), Some("src/main/java/moss/Bed.java"));
        assert_eq!(of_all("v2/java9/Bed1.java").as_deref(), Some("v2/java/Bed1.java"));
        for other in ["src/main/java/moss/Bed2.java", "lib9/moss/Bed.java", "java9", "a/javas9/Bed.java"] {
            assert_eq!(of_all(other), None, "{other}");
        }
        assert_eq!(of_all_versions("9/Bed.cs", ""), None);
    }
}
