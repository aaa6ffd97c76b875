//! Modules where there is no map: what a person of the ecosystem would say.

use super::{Module, Modules, Pattern};
use crate::resolve::{NamespaceId, World};
use ferngate_model::Span;
use std::collections::BTreeMap;

/// Fewer projects than this with code are split by folders instead.
const FEWEST_PROJECTS: usize = 2;

/// Whether a path looks like test code: some folder or the file is called so.
pub fn is_test_path(path: &str) -> bool {
    let mut parts = path.rsplit('/');
    let file = parts.next().unwrap_or_default();
    let stem = file.rsplit_once('.').map_or(file, |(stem, _)| stem);
    let is_test = |part: &str| {
        let part = part.rsplit(['.', '-', '_']).next().unwrap_or(part);
        part.eq_ignore_ascii_case("test") || part.eq_ignore_ascii_case("tests") || part.ends_with("Tests")
    };
    parts.any(is_test) || stem.ends_with("Tests") || stem.ends_with("Test") && stem.len() > 4
}

/// A module for each manifest's folder; where there is at most one manifest with code, for each folder below it that
/// holds code.
pub fn default_modules(world: &World) -> Modules {
    let folders = manifest_folders(world);
    let mut named: BTreeMap<String, String> = BTreeMap::new();
    if folders.len() >= FEWEST_PROJECTS {
        named.extend(folders);
    } else {
        named.extend(code_folders(world, folders.keys().next().map_or("", String::as_str)));
    }
    let mut modules = Modules::default();
    let names = distinct(&named);
    for (folder, name) in named.keys().zip(names) {
        modules.list.push(Module { name, folder: folder.clone(), ..Module::default() });
    }
    let folder_index: BTreeMap<&str, usize> = named.keys().enumerate().map(|(at, folder)| (folder.as_str(), at)).collect();
    for file in &world.project.files {
        let mut folder = file.path.parent();
        let module = loop {
            if let Some(at) = folder_index.get(folder) {
                break Some(*at);
            }
            if folder.is_empty() {
                break None;
            }
            folder = folder.rfind('/').map_or("", |at| &folder[..at]);
        };
        modules.of_file.push(module);
        modules.tests.push(is_test_path(file.path.as_str()));
    }
    modules
}

/// Folders of manifests that hold code, with the name that people give them.
fn manifest_folders(world: &World) -> BTreeMap<String, String> {
    let mut holding = vec![false; world.project.manifests.len()];
    for (file, owners) in world.ownership.owners.iter().enumerate() {
        if world.project.files[file].facts.is_some() {
            owners.iter().for_each(|owner| holding[*owner as usize] = true);
        }
    }
    let mut folders: BTreeMap<String, Vec<&str>> = BTreeMap::new();
    for (at, manifest) in world.project.manifests.iter().enumerate() {
        if let (true, Some(path)) = (holding[at], &manifest.path) {
            folders.entry(path.parent().to_owned()).or_default().push(path.stem());
        }
    }
    folders
        .into_iter()
        .map(|(folder, names)| {
            let name = match names[..] {
                [only] => only.to_owned(),
                _ => folder.rsplit('/').next().filter(|name| !name.is_empty()).unwrap_or(names[0]).to_owned(),
            };
            (folder, name)
        })
        .collect()
}

/// Below `home`, the folders that hold code: the first level at which there are at least two.
fn code_folders(world: &World, home: &str) -> BTreeMap<String, String> {
    let mut home = home.to_owned();
    loop {
        let mut found: BTreeMap<String, String> = BTreeMap::new();
        let mut direct = false;
        for file in world.project.files.iter().filter(|file| file.facts.is_some()) {
            let Some(below) = file.path.below(&home) else { continue };
            match below.split_once('/') {
                Some((first, _)) => {
                    let folder = if home.is_empty() { first.to_owned() } else { format!("{home}/{first}") };
                    found.insert(folder, first.to_owned());
                }
                None => direct = true,
            }
        }
        match (found.len(), direct) {
            (1, false) => home = found.into_keys().next().unwrap_or_default(),
            _ => {
                if direct {
                    let own = home.rsplit('/').next().filter(|name| !name.is_empty()).unwrap_or("root");
                    found.insert(home.clone(), own.to_owned());
                }
                return found;
            }
        }
    }
}

/// Names made distinct by as many folders in front as it takes.
fn distinct(named: &BTreeMap<String, String>) -> Vec<String> {
    let mut names: Vec<String> = named.values().cloned().collect();
    let folders: Vec<&String> = named.keys().collect();
    for depth in 1..8 {
        let mut count: BTreeMap<String, usize> = BTreeMap::new();
        names.iter().for_each(|name| *count.entry(name.clone()).or_default() += 1);
        if count.values().all(|&times| times == 1) {
            break;
        }
        for (at, folder) in folders.iter().enumerate() {
            if count[&names[at]] > 1 {
                let parts: Vec<&str> = folder.split('/').collect();
                let from = parts.len().saturating_sub(depth + 1);
                names[at] = parts[from..].join("/");
            }
        }
    }
    names
}

/// The longest namespace that holds every type of the project.
pub fn common_namespace(world: &World) -> String {
    let mut at = NamespaceId(0);
    loop {
        let children: Vec<usize> = (1..world.table.namespaces.len())
            .filter(|&child| world.table.namespaces[child].parent == at)
            .collect();
        match children[..] {
            [only] if !world.table.namespaces[at.0 as usize].holds_types => at = NamespaceId(only as u32),
            _ => return world.table.namespace_text(at),
        }
    }
}

impl Module {
    /// A pattern for the module's own folder.
    pub fn folder_pattern(&self) -> Option<Pattern> {
        Pattern::new(&self.folder, Span::default()).ok()
    }
}
