//! Modules where there is no map: what a person of the ecosystem would say.

use super::default_names::{distinct, keeps_code, last_part, tell_apart_from_parents};
use super::evened::{ALONE, evened};
use super::{Module, Modules};
use crate::resolve::World;
use ferngate_model::{ProjectPath, SourceFile};
use rayon::prelude::*;
use rustc_hash::FxHashSet;
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
        part.eq_ignore_ascii_case("test")
            || part.eq_ignore_ascii_case("tests")
            || part.ends_with("Tests")
            || part.ends_with("Test")
    };
    parts.any(is_test) || stem.ends_with("Tests") || stem.ends_with("Test") && stem.len() > 4
}

/// Folders of what tests read.
const DATA_FOLDERS: &[&str] =
    &["resources", "fixtures", "data", "testdata", "samples", "templates", "baselines"];

/// Whether what lies at `path` is read by tests, and no code of the project: a folder of data below one of tests.
pub fn is_test_data(path: &str) -> bool {
    let mut folders = path.split('/').rev().skip(1).skip_while(|name| !DATA_FOLDERS.contains(name));
    folders.next().is_some() && folders.any(|name| is_test_path(&format!("{name}/x")))
}

/// A module for each manifest's folder and for each further folder that holds code. What holds most of the code, in
/// a project of few manifests, is split by its own folders.
pub fn default_modules(world: &World) -> Modules {
    let mut named = manifest_folders(world);
    let projects = named.clone();
    if named.len() < FEWEST_PROJECTS {
        // The only manifest may be that of a small part.
        let only = named.pop_first().filter(|(home, _)| holds_most(world, home));
        let (home, label) = only.map_or_else(Default::default, |(home, label)| (home, Some(label)));
        named = code_folders(world, &home, &[]);
        // What is called as the whole project is called as its manifest says.
        if let Some(label) = label {
            call_whole(&mut named, &home, &world.project.name, &label);
        }
    } else {
        if named.len() <= ALONE {
            named = evened(world, &projects, named);
        }
        // What the outermost manifest holds besides those below it is split by its folders.
        let inner: Vec<String> = named.keys().filter(|folder| !folder.is_empty()).cloned().collect();
        if let (Some(name), false) = (named.get("").cloned(), inner.is_empty()) {
            named.remove("");
            let mut own = code_folders(world, "", &inner);
            call_whole(&mut own, "", &world.project.name, &name);
            named.extend(own);
        }
    }
    named.extend(uncovered(world, &named));
    let mut named = evened(world, &projects, gathered(named));
    named.extend(loose(world, &named));
    if named.len() < FEWEST_MODULES {
        let parts = parts_of_tests(world, &named);
        named.extend(parts);
    }
    let mut modules = Modules::default();
    let mut sizes = code_files(&mut modules, world, &named);
    // A project whose parts are all modules of their own has nothing left.
    if sizes.contains(&0) && sizes.iter().any(|&files| files > 0) {
        let mut holds = sizes.iter().map(|&files| files > 0);
        named.retain(|_, _| holds.next().unwrap_or_default());
        sizes = code_files(&mut modules, world, &named);
    }
    tell_apart_from_parents(&mut named);
    for (folder, name) in named.keys().zip(distinct(&named, &sizes)) {
        modules.list.push(Module { name, folder: folder.clone(), ..Module::default() });
    }
    modules
}

/// Enters which module holds each file, and returns how many files with code each holds.
fn code_files(modules: &mut Modules, world: &World, named: &BTreeMap<String, String>) -> Vec<usize> {
    let folders: Vec<&str> = named.keys().map(String::as_str).collect();
    let mut sizes = vec![0; folders.len()];
    let files = world.project.files.par_iter().map(|file| file.path.as_str());
    (modules.of_file, modules.tests) = files.map(|path| (holder(&folders, path), is_test_path(path))).unzip();
    for (file, holder) in world.project.files.iter().zip(&modules.of_file) {
        if let (Some(at), true) = (holder, file.facts.is_some()) {
            sizes[*at] += 1;
        }
    }
    sizes
}

/// What is called as the whole project, and what lies right in its folder, is called as the manifest there says.
pub(super) fn call_whole(named: &mut BTreeMap<String, String>, home: &str, project: &str, label: &str) {
    let whole = |(folder, name): &(&String, &mut String)| *folder == home || *name == project;
    named.iter_mut().filter(whole).for_each(|(_, name)| label.clone_into(name));
}

/// More modules than this are no first sight.
pub(super) const MOST_MODULES: usize = 60;
/// Fewer than this tell nothing.
pub(super) const FEWEST_MODULES: usize = 5;

/// Where there are too many modules, those that lie deep become one with their neighbours: as deep as the number
/// allows, and at least by the folders at the top.
pub(super) fn gathered(named: BTreeMap<String, String>) -> BTreeMap<String, String> {
    if named.len() <= MOST_MODULES {
        return named;
    }
    let cut = |folder: &str, depth: usize| {
        let end = folder.match_indices('/').nth(depth - 1).map_or(folder.len(), |(at, _)| at);
        folder[..end].to_owned()
    };
    let mut finer = named.clone();
    let deepest = named.keys().map(|folder| folder.matches('/').count() + 1).max().unwrap_or(1);
    for depth in (1..=deepest).rev() {
        let mut gathered: BTreeMap<String, String> = BTreeMap::new();
        for (folder, name) in &named {
            let top = cut(folder, depth);
            let own = if top == *folder { name.clone() } else { last_part(&top).unwrap_or(&top).to_owned() };
            let label = gathered.entry(top.clone()).or_insert_with(|| own.clone());
            if top == *folder {
                *label = own;
            }
        }
        if gathered.len() <= MOST_MODULES || depth == 1 {
            // Many are better than next to none.
            return if gathered.len() < FEWEST_MODULES && finer.len() <= 2 * MOST_MODULES {
                finer
            } else {
                gathered
            };
        }
        finer = gathered;
    }
    finer
}

/// Parts of tests with fewer files are not told apart.
const FEWEST_TESTS: usize = 5;

/// The folders right inside of modules of tests that hold some code.
fn parts_of_tests(world: &World, named: &BTreeMap<String, String>) -> BTreeMap<String, String> {
    let mut counts: BTreeMap<(&str, &str), usize> = BTreeMap::new();
    for file in world.project.files.iter().filter(|file| file.facts.is_some()) {
        let mut tests = named.keys().filter(|folder| is_test_path(&format!("{folder}/x")));
        let inside = tests.find_map(|folder| Some((folder.as_str(), file.path.below(folder)?)));
        if let Some((folder, (part, _))) =
            inside.and_then(|(folder, rest)| Some((folder, rest.split_once('/')?)))
        {
            *counts.entry((folder, part)).or_default() += 1;
        }
    }
    let large = counts.into_iter().filter(|(_, files)| *files >= FEWEST_TESTS);
    large.map(|((folder, part), _)| (format!("{folder}/{part}"), part.to_owned())).collect()
}

fn parent(folder: &str) -> &str {
    folder.rfind('/').map_or("", |at| &folder[..at])
}

/// The deepest folder that holds both.
pub(super) fn folder_around<'f>(a: &'f str, b: &str) -> &'f str {
    let mut ends = a.match_indices('/').map(|(at, _)| at).chain([a.len()]).rev();
    ends.find(|&end| ProjectPath::new(b).is_within(&a[..end])).map_or("", |end| &a[..end])
}

/// The deepest of the sorted `folders` that holds `path`, by index.
pub(super) fn holder(folders: &[&str], path: &str) -> Option<usize> {
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

/// Whether at least half of the code lies in `folder`.
fn holds_most(world: &World, folder: &str) -> bool {
    let code = || world.project.files.iter().filter(|file| file.facts.is_some());
    code().filter(|file| file.path.is_within(folder)).count() * 2 >= code().count()
}

/// Folders that hold code beside modules and lie in none.
fn loose(world: &World, named: &BTreeMap<String, String>) -> BTreeMap<String, String> {
    let folders: Vec<&str> = named.keys().map(String::as_str).collect();
    let code = world.project.files.iter().filter(|file| file.facts.is_some());
    let free = code.filter(|file| holder(&folders, file.path.as_str()).is_none());
    let called = |folder: &str| last_part(folder).unwrap_or(&world.project.name).to_owned();
    free.map(|file| (file.path.parent().to_owned(), called(file.path.parent()))).collect()
}

/// Folders with code below no module and with no module inside: the topmost ones.
fn uncovered(world: &World, named: &BTreeMap<String, String>) -> BTreeMap<String, String> {
    let folders: Vec<&str> = named.keys().map(String::as_str).collect();
    let mut holding: FxHashSet<&str> = FxHashSet::default();
    for folder in &folders {
        let ends = folder.match_indices('/').map(|(at, _)| at).chain([folder.len()]);
        holding.extend(ends.map(|end| &folder[..end]));
    }
    let (mut found, mut tops) = (BTreeMap::new(), FxHashSet::default());
    for file in world.project.files.iter().filter(|file| file.facts.is_some()) {
        let path = file.path.as_str();
        if holder(&folders, path).is_some() {
            continue;
        }
        // The topmost folder that has no module inside.
        let mut free =
            path.match_indices('/').map(|(end, _)| &path[..end]).filter(|folder| !holding.contains(folder));
        let Some(folder) = free.next() else { continue };
        // Of a folder that only says how code is kept, the first level that says what it is about.
        match folder.rsplit('/').next().filter(|name| !keeps_code(name)) {
            Some(name) => found.extend([(folder.to_owned(), name.to_owned())]),
            None if tops.insert(folder) => {
                let mut parts = code_folders(world, folder, &[]);
                // `source/lib` is a part of the whole.
                if let (Some(own), Some((_, last))) = (parts.get_mut(folder), folder.rsplit_once('/'))
                    && *own == world.project.name
                {
                    last.clone_into(own);
                }
                found.extend(parts);
            }
            None => {}
        }
    }
    found
}

/// Folders of manifests that hold code, with the name that people give them.
fn manifest_folders(world: &World) -> BTreeMap<String, String> {
    let homes = homes(world);
    let mut folders: BTreeMap<String, Vec<&str>> = BTreeMap::new();
    for (at, manifest) in world.project.manifests.iter().enumerate() {
        let Some(path) = &manifest.path else { continue };
        // What lies in the midst of tests are examples of projects.
        let around = path.parent().rsplit_once('/').map_or("", |(around, _)| around);
        if let (Some(home), false) = (homes[at], is_test_path(&format!("{around}/x"))) {
            let label = match manifest.label.as_str() {
                "" if manifest.named_root => path.stem(),
                "" => &world.project.name,
                label => label,
            };
            folders.entry(home.to_owned()).or_default().push(label);
        }
    }
    folders
        .into_iter()
        .map(|(folder, names)| {
            let name = match names[..] {
                // A build that is called as its folder of sources says no more than that.
                [only] if !keeps_code(only) || !folder.ends_with(only) => only.to_owned(),
                _ if folder.is_empty() => names[0].to_owned(),
                _ => match last_part(&folder) {
                    Some(part) => part.to_owned(),
                    // `src` is the whole, `src/lib` a part of it.
                    None if !folder.contains('/') => world.project.name.clone(),
                    None => folder.rsplit('/').next().unwrap_or(&folder).to_owned(),
                },
            };
            (folder, name)
        })
        .collect()
}

/// For each manifest that holds code the folder that it stands for: its own, or where all its code lies elsewhere, as
/// for projects in folders of their builds, the folder around that code.
fn homes<'p>(world: &World<'p>) -> Vec<Option<&'p str>> {
    let manifests = &world.project.manifests;
    let mut homes: Vec<Option<&str>> = vec![None; manifests.len()];
    for (file, owners) in world.project.files.iter().zip(&world.ownership.owners) {
        if file.facts.is_none() {
            continue;
        }
        let folder = file.path.parent();
        for &owner in owners {
            let (home, own) = (&mut homes[owner as usize], manifests[owner as usize].folder());
            if *home == Some(own) {
                continue;
            }
            let common = home.map_or(folder, |home| folder_around(home, folder));
            *home = Some(if file.path.is_within(own) || common.is_empty() { own } else { common });
        }
    }
    homes
}

/// Names under which packages of whole countries and trades stand; they say nothing of the code either.
const DOMAINS: &[&str] =
    &["com", "org", "net", "io", "edu", "gov", "de", "fr", "uk", "co", "ch", "at", "nl", "eu", "dev", "app"];

/// Of a level's files, the part in one folder (in tenths) from which the level says little: that folder is gone into.
pub(super) const NEARLY_ALL: usize = 9;

/// Below `home`, the folders that hold code: the first level that says what the code is about. Folders that only say
/// how it is kept, and folders that hold nothing but one folder, are gone through.
///
/// What lies in the folders `without` is left out.
pub(super) fn code_folders(world: &World, home: &str, without: &[String]) -> BTreeMap<String, String> {
    let outside = |path: &ProjectPath| !without.iter().any(|folder| path.is_within(folder));
    let code = world.project.files.iter().filter(|file| file.facts.is_some() && outside(&file.path));
    let is_package = |file: &&SourceFile| {
        let language = file.language.map(|language| world.languages[language]);
        language.is_some_and(|language| language.naming().folders_are_packages)
    };
    let packages: FxHashSet<&str> = code.clone().filter(is_package).map(|file| file.path.parent()).collect();
    let code: Vec<&str> = code.map(|file| file.path.as_str()).collect();
    let mut found = BTreeMap::new();
    let mut open = vec![home.to_owned()];
    while let Some(home) = open.pop() {
        let mut below: BTreeMap<String, (String, usize)> = BTreeMap::new();
        let (mut direct, mut all) = (false, 0usize);
        for rest in below_in(&code, &home) {
            all += 1;
            match rest.split_once('/') {
                Some((first, _)) => {
                    let folder = if home.is_empty() { first.to_owned() } else { format!("{home}/{first}") };
                    below.entry(folder).or_insert((first.to_owned(), 0)).1 += 1;
                }
                None => direct = true,
            }
        }
        let only = below.len() == 1 && !direct;
        let in_sources = home.rsplit('/').next().is_some_and(keeps_code);
        for (folder, (name, files)) in below {
            // Where modules were taken out before, only what lies around them is gone through.
            let around = without.iter().any(|inner| ProjectPath::new(inner).is_within(&folder));
            let little = keeps_code(&name)
                || around
                || only && without.is_empty()
                || in_sources && (DOMAINS.contains(&name.as_str()) || files * 10 > all * NEARLY_ALL);
            if is_test_path(&format!("{name}/x")) {
                found.insert(folder, name);
            } else if little {
                open.push(folder);
            } else {
                found.insert(folder, name);
            }
        }
        // What lies in the folder of sources itself goes with what lies around that folder.
        if in_sources && packages.contains(home.as_str()) {
            found.insert(home.clone(), home.rsplit('/').next().unwrap_or(&home).to_owned());
        } else if direct && !(in_sources && found.contains_key(parent(&home))) {
            found.insert(home.clone(), last_part(&home).unwrap_or(&world.project.name).to_owned());
        }
    }
    found
}

/// Of `sorted` paths those inside of the folder `home`, from there on.
fn below_in<'p>(sorted: &[&'p str], home: &str) -> impl Iterator<Item = &'p str> {
    let start = if home.is_empty() { String::new() } else { format!("{home}/") };
    let first = sorted.partition_point(|path| **path < *start);
    sorted[first..].iter().map_while(move |path| path.strip_prefix(start.as_str()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn data_of_tests_lies_below_them() {
        assert!(is_test_data("src/it/tests/resources/A.csproj"));
        assert!(is_test_data("src/integTest/resources/plan/settings.gradle"));
        // Resources around tests, and tests that are projects, are none.
        assert!(!is_test_data("resources/tests/A.csproj"));
        assert!(!is_test_data("tests/Plan.Tests/Plan.Tests.csproj"));
        assert!(!is_test_data("src/resources/A.csproj"));
    }
}
