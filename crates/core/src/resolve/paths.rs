//! Files that code names by their path.

use super::World;
use ferngate_model::{PathBase, PathUse, ProjectPath};

/// One path in code that leads to a file of the project.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct PathReference {
    /// Index into the file's paths.
    pub path: u32,
    /// The file that it leads to.
    pub to: u32,
}

/// Where the paths that `file` names lead; those that are no dependency by themselves are left out.
pub fn paths_of(world: &World, file: usize) -> Vec<PathReference> {
    let Some(facts) = &world.project.files[file].facts else { return Vec::new() };
    let strong = facts.paths.iter().enumerate().filter(|(_, path)| !path.weak);
    strong
        .filter_map(|(at, path)| {
            Some(PathReference { path: at as u32, to: target(world, file, path)? as u32 })
        })
        .collect()
}

fn target(world: &World, file: usize, path: &PathUse) -> Option<usize> {
    let project = world.project;
    let below = |folder: &str| {
        let resolved = ProjectPath::resolve(folder, &path.path)?;
        project.file(resolved.as_str()).filter(|found| project.files[*found].facts.is_some())
    };
    let own = below(project.files[file].path.parent());
    if own.is_some() || path.base == PathBase::Folder {
        return own;
    }
    let manifests = world.ownership.owners[file].iter();
    let homes =
        manifests.filter_map(|owner| Some(project.manifests[*owner as usize].path.as_ref()?.parent()));
    homes.chain([""]).find_map(below)
}
