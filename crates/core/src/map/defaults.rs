//! Modules where there is no map: what a person of the ecosystem would say.

use super::{Module, Modules};
use crate::resolve::World;
use ferngate_model::ProjectPath;
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

/// A module for each manifest's folder and for each further folder that holds code. What holds most of the code, in
/// a project of few manifests, is split by its own folders.
pub fn default_modules(world: &World) -> Modules {
    let mut named = manifest_folders(world);
    if named.len() < FEWEST_PROJECTS {
        let home = named.keys().next().cloned().unwrap_or_default();
        named = code_folders(world, &home);
    } else {
        if let Some(largest) = dominant(world, &named) {
            named.extend(code_folders(world, &largest));
        }
        named.extend(uncovered(world, &named));
    }
    let mut modules = Modules::default();
    let names = distinct(&named);
    for (folder, name) in named.keys().zip(names) {
        modules.list.push(Module { name, folder: folder.clone(), ..Module::default() });
    }
    let folders: Vec<&str> = named.keys().map(String::as_str).collect();
    for file in &world.project.files {
        modules.of_file.push(holder(&folders, file.path.as_str()));
        modules.tests.push(is_test_path(file.path.as_str()));
    }
    modules
}

/// The deepest of the sorted `folders` that holds `path`, by index.
fn holder(folders: &[&str], path: &str) -> Option<usize> {
    let mut end = path.rfind('/').unwrap_or(0);
    loop {
        if let Ok(at) = folders.binary_search(&&path[..end]) {
            return Some(at);
        }
        if end == 0 {
            return None;
        }
        end = path[..end].rfind('/').unwrap_or(0);
    }
}

/// Among few folders, the one that holds nearly all code.
fn dominant(world: &World, named: &BTreeMap<String, String>) -> Option<String> {
    let folders: Vec<&str> =
        named.keys().map(String::as_str).filter(|folder| !is_test_path(&format!("{folder}/x"))).collect();
    if folders.len() > 3 {
        return None;
    }
    let mut counts = vec![0usize; folders.len()];
    let code: Vec<&str> =
        world.project.files.iter().filter(|f| f.facts.is_some()).map(|f| f.path.as_str()).collect();
    for path in &code {
        if let Some(at) = holder(&folders, path) {
            counts[at] += 1;
        }
    }
    let most = (0..folders.len()).max_by_key(|&at| counts[at])?;
    (counts[most] * 10 > code.len() * 6).then(|| folders[most].to_owned())
}

/// Folders with code below no module: the topmost ones.
fn uncovered(world: &World, named: &BTreeMap<String, String>) -> BTreeMap<String, String> {
    let folders: Vec<&str> = named.keys().map(String::as_str).collect();
    let mut found = BTreeMap::new();
    for file in world.project.files.iter().filter(|file| file.facts.is_some()) {
        let path = file.path.as_str();
        if holder(&folders, path).is_some() {
            continue;
        }
        // The topmost folder that has no module inside.
        let ends: Vec<usize> = path.match_indices('/').map(|(at, _)| at).collect();
        let free = ends
            .iter()
            .map(|&end| &path[..end])
            .find(|folder| !named.keys().any(|k| ProjectPath::new(k).is_within(folder)));
        if let Some(folder) = free {
            found.insert(folder.to_owned(), folder.rsplit('/').next().unwrap_or(folder).to_owned());
        }
    }
    found
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
