//! Names that are declared once for all platforms and answered by each of them, as `expect` and `actual` say in Kotlin.
//!
//! What is built at a time is the common code with one platform. Which one that is no file of another module says, so a
//! use means what is expected, unless an answer lies nearer: code of a platform means its own.
//!
//! The same holds for sources of a later version of the platform, which lie beside those for all as `java9` beside `java`
//! (JEP 238, "Multi-Release JAR Files").

use super::{DeclaringFiles, EntityId, World};
use ferngate_model::Share;

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

/// Of copies of a file for several versions keeps the one that `file` means.
pub(super) fn keep_version(world: &World, file: usize, files: &mut DeclaringFiles) {
    let path = |file: u32| world.project.files[file as usize].path.as_str();
    let shared = |other: u32| world.ownership.folders().shared(file, other as usize);
    for later in files.clone() {
        let of_all = files.iter().copied().find(|other| is_later(path(*other), path(later)));
        if let Some(of_all) = of_all {
            let unmeant = if shared(later) > shared(of_all) { of_all } else { later };
            files.retain(|file| *file != unmeant);
        }
    }
}

/// Whether the two paths differ in one folder only, whose name has a number behind it in `later`.
fn is_later(of_all: &str, later: &str) -> bool {
    let mut parts = of_all.split('/').zip(later.split('/')).filter(|(one, other)| one != other);
    let has_number = |(one, other): (&str, &str)| {
        let number = other.strip_prefix(one).unwrap_or_default();
        !number.is_empty() && number.bytes().all(|byte| byte.is_ascii_digit())
    };
    of_all.matches('/').count() == later.matches('/').count()
        && parts.next().is_some_and(has_number)
        && parts.next().is_none()
}

#[cfg(test)]
mod tests {
    use super::is_later;

    #[test]
    fn a_number_behind_one_folder_tells_a_later_version() {
        assert!(is_later("src/main/java/moss/Bed.java", "src/main/java17/moss/Bed.java"));
        for other in
            ["src/main/kotlin/moss/Bed.java", "src/main/java/moss/Bed.java", "main/java9/moss/Bed.java"]
        {
            assert!(!is_later("src/main/java/moss/Bed.java", other), "{other}");
        }
        assert!(!is_later("src1/java/Bed.java", "src12/java9/Bed.java"));
    }
}
