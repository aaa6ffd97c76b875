//! What modules by default are called: after what their code is about, and each otherwise than the others.

use super::is_test_path;
use ferngate_model::ProjectPath;
use std::collections::BTreeMap;

/// Folder names that say how code is kept, not what it is about; such a level is passed through.
const SOURCE_FOLDERS: &[&str] = &[
    "src",
    "source",
    "sources",
    "main",
    "java",
    "kotlin",
    "scala",
    "groovy",
    "php",
    "lib",
    "libs",
    "code",
    "internal",
    "pkg",
    "include",
    "R",
    "inst",
    "packages",
    "crates",
    "libraries",
    "cores",
];

/// Whether the folder's own name only says how code is kept.
pub(super) fn keeps_code(folder: &str) -> bool {
    let name = folder.rsplit('/').next().unwrap_or(folder);
    SOURCE_FOLDERS.iter().any(|source| name.eq_ignore_ascii_case(source))
}

/// The last part of `folder` that says what the code is about, if one does.
pub(super) fn last_part(folder: &str) -> Option<&str> {
    folder.rsplit('/').find(|name| !name.is_empty() && !keeps_code(name))
}

/// With so many modules beside it, a folder that only says how code is kept is not the whole of what lies around it.
const SEVERAL_BESIDE: usize = 3;

/// What is called after a folder around it, as `modules/java` is, gets its own name too where modules lie beside it there.
pub(super) fn tell_apart_from_parents(named: &mut BTreeMap<String, String>) {
    let folders: Vec<String> = named.keys().cloned().collect();
    for (folder, name) in named {
        let Some((around, last)) = folder.rsplit_once('/').filter(|(_, last)| keeps_code(last)) else {
            continue;
        };
        let is_beside = |other: &&String| {
            let other = ProjectPath::new(other);
            other.is_within(around) && !other.is_within(folder) && !is_test_path(&format!("{other}/x"))
        };
        if around.rsplit('/').next() == Some(name)
            && folders.iter().filter(is_beside).count() >= SEVERAL_BESIDE
        {
            *name = format!("{name}/{last}");
        }
    }
}

/// Names made distinct, whatever the case of their letters. What merely lies around a larger module of the same name
/// is called its root; the others take the nearest folder in front that tells them apart.
///
/// `sizes` are numbers of files.
pub(super) fn distinct(named: &BTreeMap<String, String>, sizes: &[usize]) -> Vec<String> {
    let mut names: Vec<String> = named.values().cloned().collect();
    let folders: Vec<&str> = named.keys().map(String::as_str).collect();
    let same = |a: &str, b: &str| a.to_lowercase() == b.to_lowercase();
    // Folders are sorted: what lies around others comes before them.
    for at in 0..names.len() {
        let is_inner = |other: usize| {
            same(&names[at], &names[other]) && ProjectPath::new(folders[other]).is_within(folders[at])
        };
        if (at + 1..names.len()).any(|other| is_inner(other) && sizes[other] > sizes[at]) {
            names[at].push_str("-root");
        }
    }
    // `src` beside `include/valves`: the folder alone says nothing.
    for at in 0..names.len() {
        let is_double = (0..names.len()).any(|other| other != at && same(&names[at], &names[other]));
        if is_double && SOURCE_FOLDERS.contains(&folders[at]) {
            names[at] = format!("{}-{}", names[at], folders[at]);
        }
    }
    // Folders between the one that tells and the last say nothing, unless nothing else tells.
    for (whole, depth) in [false, true].into_iter().flat_map(|whole| (1..8).map(move |depth| (whole, depth)))
    {
        let mut count: BTreeMap<String, usize> = BTreeMap::new();
        names.iter().for_each(|name| *count.entry(name.to_lowercase()).or_default() += 1);
        if count.values().all(|&times| times == 1) {
            break;
        }
        for (at, folder) in folders.iter().enumerate() {
            if count[&names[at].to_lowercase()] > 1 && !folder.is_empty() {
                let parts: Vec<&str> = folder.split('/').collect();
                let (last, in_front) = (parts[parts.len() - 1], parts.len().saturating_sub(depth + 1));
                names[at] = match in_front + 1 < parts.len() && !whole {
                    true => format!("{}/{last}", parts[in_front]),
                    false => parts[in_front..].join("/"),
                };
            }
        }
    }
    // What lies in the root has no folder in front to be told apart by.
    if let Some(root) = folders.iter().position(|folder| folder.is_empty())
        && names.iter().filter(|name| same(name, &names[root])).count() > 1
    {
        names[root].push_str("-root");
    }
    names
}

#[cfg(test)]
mod tests {
    use super::*;

    fn names(modules: &[(&str, &str, usize)]) -> Vec<String> {
        let named = modules.iter().map(|(folder, name, _)| ((*folder).to_owned(), (*name).to_owned()));
        let sizes: Vec<usize> = modules.iter().map(|(.., files)| *files).collect();
        distinct(&named.collect(), &sizes)
    }

    #[test]
    fn what_lies_around_a_larger_module_is_its_root() {
        assert_eq!(names(&[("", "garden", 2), ("src/garden", "garden", 9)]), ["garden-root", "garden"]);
        assert_eq!(names(&[("src", "moss", 1), ("src/Moss", "Moss", 4)]), ["moss-root", "Moss"]);
        assert_eq!(names(&[("", "garden", 9), ("tools/garden", "garden", 2)]), ["garden", "tools/garden"]);
        // The outermost folder has nothing in front to be told apart by.
        assert_eq!(names(&[("", "garden", 9), ("garden", "garden", 2)]), ["garden-root", "garden"]);
    }

    #[test]
    fn others_of_one_name_take_folders_in_front() {
        let both = [("apps/tours", "tours", 3), ("lib/tours", "Tours", 3), ("web", "web", 1)];
        assert_eq!(names(&both), ["apps/tours", "lib/tours", "web"]);
        let both = [("include/valves", "valves", 2), ("src", "valves", 3)];
        assert_eq!(names(&both), ["valves", "valves-src"]);
        let around = [("lib/beds", "beds", 7), ("lib/beds/old/beds", "beds", 2)];
        assert_eq!(names(&around), ["lib/beds", "old/beds"]);
        let far = [("app/src/debug/java/org/beds", "beds", 2), ("app/src/main/java/org/beds", "beds", 3)];
        assert_eq!(names(&far), ["debug/beds", "main/beds"]);
        let mixed = [("a/x/beds", "beds", 1), ("b/x/beds", "beds", 1), ("x/beds", "beds", 1)];
        assert_eq!(names(&mixed), ["a/beds", "b/beds", "x/beds"]);
    }
}
