//! What namespace a moved file shall declare.

use crate::resolve::Ownership;
use ferngate_model::{ProjectFacts, ProjectPath};

/// What a folder's namespace is, for the folder of a file before or after the move.
pub struct FolderNamespace {
    /// The root namespace of the manifest.
    pub root: String,
    /// The root namespace with the folder's parts.
    pub full: String,
}

/// The namespace of `path`'s folder by the manifest in whose folder it lies; the nearest where there are several.
pub fn folder_namespace(
    project: &ProjectFacts,
    ownership: &Ownership,
    path: &ProjectPath,
) -> Option<FolderNamespace> {
    let owner = home_manifests(project, path).first().copied()?;
    let full = ownership.folder_namespace(project, owner, path.parent())?;
    Some(FolderNamespace { root: ownership.root_namespaces[owner as usize].clone()?, full })
}

/// The project manifests of the nearest folder at or above `path`.
pub fn home_manifests(project: &ProjectFacts, path: &ProjectPath) -> Vec<u32> {
    home_manifests_at(project, path, ProjectPath::clone)
}

/// The same where manifests lie where `place` says.
pub fn home_manifests_at(
    project: &ProjectFacts,
    path: &ProjectPath,
    place: impl Fn(&ProjectPath) -> ProjectPath,
) -> Vec<u32> {
    let projects = project.manifests.iter().enumerate().filter(|(_, manifest)| manifest.kind == "project");
    let above = projects.filter_map(|(at, manifest)| {
        let manifest = place(manifest.path.as_ref()?);
        let folder = manifest.parent();
        path.is_within(folder).then_some((folder.len(), at as u32))
    });
    let above: Vec<(usize, u32)> = above.collect();
    let nearest = above.iter().map(|(length, _)| *length).max();
    above.into_iter().filter(|(length, _)| Some(*length) == nearest).map(|(_, at)| at).collect()
}

/// The namespace that replaces `declared` when a file goes from one folder to another.
///
/// Where the declared name is that of the folder, or continues it, the new folder's takes its place. Where it differs
/// on purpose, it keeps its relation: as many parts above the folder's name as before, or the same place below the
/// root namespace. Where that would be no namespace at all, it stays.
pub fn mapped(declared: &str, old: Option<&FolderNamespace>, new: Option<&FolderNamespace>) -> String {
    let name = old.zip(new).map(|(old, new)| related(declared, old, new)).unwrap_or_default();
    if name.is_empty() { declared.to_owned() } else { name }
}

fn related(declared: &str, old: &FolderNamespace, new: &FolderNamespace) -> String {
    if let Some(rest) = below(declared, &old.full) {
        return join(&new.full, rest);
    }
    let common = shared_parts(declared, &old.full);
    let own: Vec<&str> = parts(declared)[common..].to_vec();
    let folder: Vec<&str> = parts(&old.full)[common..].to_vec();
    let new_parts = parts(&new.full);
    // The last folders moved along: what stood beside them stands beside them again.
    if new_parts.len() >= folder.len() && new_parts.ends_with(&folder) && common > 0 {
        let start = new_parts[..new_parts.len() - folder.len()].join(".");
        return join(&start, &own.join("."));
    }
    if let Some(rest) = below(declared, &old.root)
        && old.root != new.root
    {
        return join(&new.root, rest);
    }
    if own.is_empty() && common > 0 && old.root == new.root {
        // The folders below were not named: those of the new place are.
        return new.full.clone();
    }
    declared.to_owned()
}

fn parts(text: &str) -> Vec<&str> {
    text.split('.').filter(|part| !part.is_empty()).collect()
}

fn shared_parts(a: &str, b: &str) -> usize {
    parts(a).iter().zip(parts(b)).take_while(|(a, b)| **a == *b).count()
}

/// The rest of `text` behind `start` and its dot; empty where they are equal.
fn below<'t>(text: &'t str, start: &str) -> Option<&'t str> {
    if start.is_empty() {
        return Some(text);
    }
    let rest = text.strip_prefix(start)?;
    if rest.is_empty() { Some(rest) } else { rest.strip_prefix('.') }
}

fn join(start: &str, rest: &str) -> String {
    match (start.is_empty(), rest.is_empty()) {
        (true, _) => rest.to_owned(),
        (_, true) => start.to_owned(),
        _ => format!("{start}.{rest}"),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn map(declared: &str, old: (&str, &str), new: (&str, &str)) -> String {
        let folder = |(root, full): (&str, &str)| FolderNamespace { root: root.into(), full: full.into() };
        mapped(declared, Some(&folder(old)), Some(&folder(new)))
    }

    #[test]
    fn keeps_the_relation_to_the_folder() {
        let models = ("Moss", "Moss.Models");
        // as the folder says, or below it
        assert_eq!(map("Moss.Models", models, ("Moss.Visits", "Moss.Visits")), "Moss.Visits");
        assert_eq!(
            map("Moss.Models.Internal", models, ("Moss.Visits", "Moss.Visits.Core")),
            "Moss.Visits.Core.Internal"
        );
        // another root, on purpose the same in both
        assert_eq!(
            map("Moss", ("Moss", "Moss.Models"), ("Moss.Visits", "Moss.Visits.Models")),
            "Moss.Visits"
        );
        // a root without a name
        assert_eq!(map("Moss.Models", ("", "Moss.Models"), ("", "")), "Moss.Models");
        // the folder repeats the root's name
        assert_eq!(
            map("Moss.Beds", ("Moss.Beds", "Moss.Beds.Moss.Beds"), ("Moss.Beds", "Moss.Beds")),
            "Moss.Beds"
        );
        // nothing to do with folders
        assert_eq!(map("Other.Thing", models, ("Moss", "Moss.Visits")), "Other.Thing");
        // flattened on purpose, and the folder moved along
        assert_eq!(map("Moss.Models", ("Moss", "Moss.Models.Old"), ("Moss", "Moss.Attic.Old")), "Moss.Attic");
    }
}
