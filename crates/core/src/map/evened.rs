//! No module that holds most of the code: what is too large is split by its own folders.

use super::default_names::keeps_code;
use super::defaults::{FEWEST_MODULES, MOST_MODULES, NEARLY_ALL, call_whole, code_folders, gathered, holder};
use super::is_test_path;
use crate::resolve::World;
use ferngate_model::ProjectPath;
use rayon::prelude::*;
use rustc_hash::FxHashSet;
use std::collections::BTreeMap;

/// Folders of fewer files are not worth a split.
const WORTH_A_SPLIT: usize = 100;
/// Next to nothing else they are.
const WORTH_IT_ALONE: usize = 10;
/// With no more modules than this a folder stands next to nothing else.
pub(super) const ALONE: usize = 3;
/// Fewer modules than this can do with more.
const FEW_MODULES: usize = 10;

/// Packages are told apart up to this number where they hold nearly all code.
const MOST_PACKAGES: usize = 3 * MOST_MODULES;

/// Splits by its own folders what holds most of the code, over and over, where that makes no more modules than can be
/// seen at once; what holds nearly all, by the `projects` in it even so.
///
/// `projects` are the folders that manifests name, before those that lie deep became one with their neighbours.
pub(super) fn evened(
    world: &World,
    projects: &BTreeMap<String, String>,
    mut named: BTreeMap<String, String>,
) -> BTreeMap<String, String> {
    let files = world.project.files.par_iter().filter(|file| !is_test_path(file.path.as_str()));
    let lines = files.filter_map(|file| Some((file.path.as_str(), file.facts.as_ref()?.lines as usize)));
    let code: Vec<(&str, usize)> = lines.collect();
    let mut tried: FxHashSet<String> = FxHashSet::default();
    while let Some((largest, tenths)) = too_large(&code, projects, &named, &tried) {
        let mut parts = code_folders(world, &largest, &[]);
        let label = named.get(&largest).cloned().unwrap_or_default();
        call_whole(&mut parts, &largest, &world.project.name, &label);
        let several = parts.len() > 1;
        let split = gathered(replaced(&named, &largest, parts));
        let within = |(folder, _): &(&String, &String)| ProjectPath::new(folder).is_within(&largest);
        let inside: BTreeMap<String, String> =
            projects.iter().filter(within).map(|(folder, name)| (folder.clone(), name.clone())).collect();
        // One folder inside is the same by another name.
        if several && (named.len() + 1..=MOST_MODULES).contains(&split.len()) {
            named = split;
        } else if tenths >= NEARLY_ALL && (FEWEST_MODULES..=MOST_PACKAGES).contains(&inside.len()) {
            named = replaced(&named, &largest, inside);
        }
        tried.insert(largest);
    }
    named
}

/// `named` with `parts` in place of the module `whole`.
fn replaced(
    named: &BTreeMap<String, String>,
    whole: &str,
    parts: BTreeMap<String, String>,
) -> BTreeMap<String, String> {
    let mut split = named.clone();
    split.remove(whole);
    for (folder, name) in parts {
        split.entry(folder).or_insert(name);
    }
    split
}

/// Of the modules but for those `tried`, the largest, if it holds more of the `code` than is good, and how many tenths it
/// holds; `code` are files with their lines. What a manifest names stays whole among others that are named so, unless it is nearly all.
fn too_large(
    code: &[(&str, usize)],
    projects: &BTreeMap<String, String>,
    named: &BTreeMap<String, String>,
    tried: &FxHashSet<String>,
) -> Option<(String, usize)> {
    let folders: Vec<&str> = named.keys().map(String::as_str).collect();
    // Files and lines of each.
    let mut sizes = vec![(0usize, 0usize); folders.len()];
    for (path, lines) in code {
        if let Some(at) = holder(&folders, path) {
            sizes[at].0 += 1;
            sizes[at].1 += lines;
        }
    }
    let all: usize = code.iter().map(|(_, lines)| lines).sum();
    let worth = if named.len() > ALONE { WORTH_A_SPLIT } else { WORTH_IT_ALONE };
    let most_tenths = |folder: &str| match named.len() {
        modules if modules <= ALONE => 3,
        modules if modules < FEWEST_MODULES => 4,
        _ if projects.contains_key(folder) && !keeps_code(folder) => NEARLY_ALL,
        modules if modules < FEW_MODULES => 4,
        _ => 6,
    };
    let large = |at: &usize| {
        let ((files, lines), folder) = (sizes[*at], folders[*at]);
        files >= worth && lines * 10 > all * most_tenths(folder) && !tried.contains(folder)
    };
    let largest = (0..folders.len()).filter(large).max_by_key(|&at| sizes[at].1)?;
    Some((folders[largest].to_owned(), sizes[largest].1 * 10 / all.max(1)))
}
