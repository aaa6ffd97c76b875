//! Files that code names by their path, in languages whose names live in namespaces.

use super::World;
use ferngate_model::{Link, LinkSource, Links, Name, PathBase, PathUse, ProjectPath};

/// Where the paths that `file` names lead.
pub fn links_of(world: &World, file: usize) -> Links {
    let Some(facts) = &world.project.files[file].facts else { return Links::default() };
    let link = |(at, path): (usize, &PathUse)| {
        let to = target(world, file, path)? as u32;
        let source = LinkSource::Path(at as u32);
        let (weak, at) = (path.weak, path.span.start);
        Some(Link { to, source, at, count: 1, name: Name(0), behind: None, weak })
    };
    Links { files: facts.paths.iter().enumerate().filter_map(link).collect(), ..Links::default() }
}

/// Types whose full names stand in files that are no code, with the file and the link from it.
pub fn named_in_settings(world: &World) -> Vec<(usize, Link)> {
    let mut found = Vec::new();
    for manifest in world.project.manifests.iter().filter(|manifest| !manifest.names.is_empty()) {
        let Some(file) = manifest.path.as_ref().and_then(|path| world.project.file(path.as_str())) else {
            continue;
        };
        for mention in &manifest.names {
            let Some(entity) = world.table.entity_named(&mention.written) else { continue };
            let name = world.table.entities[entity.index()].name;
            for to in world.declaring_files(entity, file) {
                let (source, at) = (LinkSource::File, mention.span.start);
                found.push((file, Link { to, source, at, count: 1, name, behind: None, weak: true }));
            }
        }
    }
    found
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
