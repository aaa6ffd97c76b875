//! Names that are declared once for all platforms and answered by each of them, as `expect` and `actual` say in Kotlin.
//!
//! What is built at a time is the common code with one platform. Which one that is no file of another module says, so a
//! use means what is expected, unless an answer lies nearer: code of a platform means its own.

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
